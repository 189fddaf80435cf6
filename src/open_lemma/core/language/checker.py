"""What can be known of a script before it runs: names, kinds, counts of arguments, and what is not available yet.

Statements with an error are not run; the names they would have defined are known to be broken, so that one mistake is
told once and not again at every use.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Literal

from . import tree
from .cursor import Builtins, nearest
from .messages import Fix, Message, Messages, advise, replace
from .parser import Reading
from .words import CORNERS, NOUNS, canonical_name

Kind = Literal["number", "list", "text", "function", "finding", "broken"]


@dataclass(frozen=True, slots=True)
class Known:
    """What is known of a name: its kind, for functions the variables, the domain and whether a formula is behind it."""

    kind: Kind
    line: int
    parameters: tuple[str, ...] = ()
    has_domain: bool = False


@dataclass
class Scope:
    names: dict[str, Known] = field(default_factory=dict)
    outer: Scope | None = None

    def find(self, name: str) -> Known | None:
        scope: Scope | None = self
        while scope is not None:
            if name in scope.names:
                return scope.names[name]
            scope = scope.outer
        return None

    def all_names(self) -> set[str]:
        return set(self.names) | (self.outer.all_names() if self.outer else set())


_NUMBER = Known("number", 0)
# Options that are carried out now; the others of a noun are read, then refused.
_READY_OPTIONS = {
    "curve": {"colour", "width", "dash", "label", "opacity"},
    "points": {"colour", "marker", "size", "label", "opacity"},
    "roots": set(),
}
_FIGURE_ONLY = (tree.Axis, tree.Legend, tree.Gridlines, tree.Size, tree.Without)
_NOT_IN_FORMULA = {
    tree.Logical: "conditions",
    tree.Join: "join",
    tree.Comprehension: "lists built by 'for'",
    tree.Pieces: "piecewise formulas",
    tree.Quantity: "units of measure",
    tree.Truth: "true and false",
    tree.Field: "parts by name",
}


def check(reading: Reading, builtins: Builtins) -> set[int]:
    """Check a script; messages are added to the reading's. Returns the start offsets of top statements not to be run."""
    checker = Checker(reading, builtins)
    return checker.run()


class Checker:
    def __init__(self, reading: Reading, builtins: Builtins) -> None:
        self.reading = reading
        self.source = reading.source
        self.builtins = builtins
        self.messages: Messages = reading.messages
        self.top = Scope()
        self.unread = broken_names(reading)
        self.figures: set[str] = set()
        self.line = 0
        self.later: dict[str, int] = {}

    # ------------------------------------------------------------ statements

    def run(self) -> set[int]:
        broken: set[int] = set()
        statements = self.reading.script.statements
        for s in statements:
            if isinstance(s, tree.Definition):
                self.later.setdefault(s.name, self.source.line_of(s.start))
        for statement in statements:
            line = self.source.line_of(statement.start)
            self.top.names |= {n: known for n, known in self.unread.items() if known.line < line}
            self.unread = {n: known for n, known in self.unread.items() if known.line >= line}
            before = self._errors()
            self.statement(statement, self.top)
            if self._errors() > before:
                broken.add(statement.start)
                self._mark_broken(statement, self.top)
        for statement in statements:
            if self._has_error_inside(statement):
                broken.add(statement.start)
        return broken

    def _errors(self) -> int:
        return sum(m.severity == "error" for m in self.messages.items)

    def _has_error_inside(self, statement: tree.Statement) -> bool:
        return any(
            m.severity == "error" and statement.start <= m.start < max(statement.end, statement.start + 1) for m in self.messages.items
        )

    def _mark_broken(self, statement: tree.Statement, scope: Scope) -> None:
        if isinstance(statement, tree.Definition):
            scope.names[statement.name] = Known("broken", self.line)
        if isinstance(statement, tree.Later):
            for name in statement.names:
                scope.names[name] = Known("broken", self.line)

    def statement(self, statement: tree.Statement, scope: Scope, in_figure: bool = False) -> None:
        self.line = self.source.line_of(statement.start)
        if isinstance(statement, tree.Definition):
            self._definition(statement, scope)
        elif isinstance(statement, tree.Show):
            for item in statement.items:
                self._shown(item, scope)
            for option in statement.options:
                self._not_yet(f"option '{option.name}'", option.start, option.end)
        elif isinstance(statement, tree.Bare):
            self._bare(statement.expression, scope, in_figure)
        elif isinstance(statement, tree.Figure):
            self._figure(statement, scope)
        elif isinstance(statement, tree.Later):
            self._later(statement)
        elif isinstance(statement, _FIGURE_ONLY):
            self._figure_word(statement, scope, in_figure)

    def _definition(self, d: tree.Definition, scope: Scope) -> None:
        local = Scope(dict.fromkeys(d.parameters or (), _NUMBER), scope)
        for window in d.domain:
            if d.parameters is None or window.name not in d.parameters:
                self.error(
                    "domain", f"the domain is given for '{window.name}', which is no variable of '{d.name}'", window.start, window.name_end
                )
            self._window_ends(window, scope)
            if window.low is None:
                self.error("domain", "a domain has both ends", window.start, window.end, advise(f"for {window.name} from LOW to HIGH"))
        kind: Kind = "number"
        if isinstance(d.body, tree.Request):
            self._request(d.body, local)
            kind = "finding"
            if d.parameters is not None and NOUNS[d.body.noun].available:
                self.error("function-of-request", f"'{d.body.noun} of' gives no function", d.body.start, d.body.end)
        else:
            kind = self.kind_of(d.body, local)
        if d.parameters is not None:
            if kind in ("list", "text"):
                self._not_yet("a function whose value is no number", d.body.start, d.body.end)
            known = Known("function", self.line, d.parameters, bool(d.domain) and len(d.domain) == len(d.parameters))
        else:
            known = Known(kind, self.line)
        self._flag_redefinition(d, scope)
        if kind == "function":
            self.error("function-as-value", "a function is no value", d.body.start, d.body.end, advise("give it its argument: f(x)"))
        scope.names[d.name] = known

    def _flag_redefinition(self, d: tree.Definition, scope: Scope) -> None:
        before = scope.names.get(d.name)
        if before is not None and before.kind != "broken":
            self.warn(
                "redefined", f"'{d.name}' already has a value from line {before.line}; from here on it has this one", d.start, d.name_end
            )
        elif before is None and self.builtins.is_function(d.name):
            self.warn("built-in-redefined", f"'{d.name}' is built in; from here on it means this", d.start, d.name_end)

    def _shown(self, item: tree.Expression, scope: Scope) -> None:
        if isinstance(item, tree.Request):
            self._request(item, scope)
        elif isinstance(item, tree.Name) and (known := scope.find(item.name)) is not None and known.kind == "function":
            return
        elif isinstance(item, tree.Prime) and isinstance(item.function, tree.Name):
            self._prime_target(item, scope)
        else:
            self.kind_of(item, scope)

    def _bare(self, expression: tree.Expression, scope: Scope, in_figure: bool) -> None:
        if isinstance(expression, tree.Request):
            self._request(expression, scope)
        elif in_figure:
            self.error(
                "value-in-figure",
                "a value says nothing inside a figure",
                expression.start,
                expression.end,
                advise("move it out of the figure block"),
            )
        else:
            self._shown(expression, scope)

    def _figure(self, figure: tree.Figure, scope: Scope) -> None:
        if figure.grid is not None:
            self._not_yet("a figure with panels", figure.start, figure.head_end)
        if figure.name is not None:
            if figure.name in self.figures:
                self.error(
                    "figure-name",
                    f"there is already a figure '{figure.name}'",
                    figure.start,
                    figure.head_end,
                    advise("give it another name"),
                )
            self.figures.add(figure.name)
        local = Scope({}, scope)
        seen: dict[str, int] = {}
        for inner in figure.body:
            word = _setting(inner)
            if word is not None and word in seen:
                self.error(
                    "said-twice", f"'{word}' is said twice in this figure; it stands in line {seen[word]} too", inner.start, inner.end
                )
            if word is not None:
                seen.setdefault(word, self.source.line_of(inner.start))
            if isinstance(inner, tree.Figure):
                self.error("figure-in-figure", "a figure stands in no other figure", inner.start, inner.head_end)
            elif isinstance(inner, tree.Part):
                self.error("part-in-figure", "a part begins outside of figures", inner.start, inner.end)
            else:
                self.statement(inner, local, in_figure=True)
        if not any(isinstance(s, tree.Bare) and isinstance(s.expression, tree.Request) for s in figure.body) and not self._has_error_inside(
            figure
        ):
            self.error(
                "empty-figure",
                "nothing is drawn in this figure",
                figure.start,
                figure.head_end,
                advise("curve of f(x) for x from LOW to HIGH"),
            )

    def _figure_word(self, statement: tree.Statement, scope: Scope, in_figure: bool) -> None:
        if not in_figure:
            self.error(
                "outside-figure", "this belongs inside a figure block", statement.start, statement.end, advise('figure name "title":')
            )
            return
        if isinstance(statement, tree.Axis):
            self._axis(statement, scope)
        elif isinstance(statement, tree.Legend):
            for word in statement.words:
                if word not in CORNERS:
                    meant = nearest(word, CORNERS)
                    at = self.source.text.find(word, statement.start, statement.end)
                    fixes = [replace(at, at + len(word), meant)] if meant else []
                    self.error(
                        "legend-place",
                        f"'{word}' is no place for a legend",
                        at,
                        at + len(word),
                        *fixes,
                        advice="" if fixes else ", ".join(CORNERS),
                    )
                elif word in ("outside", "centre"):
                    self._not_yet(f"legend {word}", statement.start, statement.end)
        elif isinstance(statement, tree.Gridlines) and statement.which not in ("major", "minor"):
            self.error(
                "gridlines",
                f"gridlines are major or minor, not '{statement.which}'",
                statement.start,
                statement.end,
                advise("gridlines major"),
            )
        elif isinstance(statement, tree.Without) and statement.what not in ("legend", "gridlines", "frame"):
            self.error(
                "without",
                f"a figure has no '{statement.what}' to leave out",
                statement.start,
                statement.end,
                advise("no legend, no gridlines, no frame"),
            )
        elif isinstance(statement, tree.Size) and not (20 <= statement.width <= 1000 and 20 <= statement.height <= 1000):
            self.error(
                "size",
                f"a figure is 20 to 1000 mm wide and high, not {statement.width:g} by {statement.height:g}",
                statement.start,
                statement.end,
            )

    def _axis(self, axis: tree.Axis, scope: Scope) -> None:
        if axis.which in ("right", "z"):
            self._not_yet(f"{axis.which} axis", axis.start, axis.end)
        for end in (axis.low, axis.high):
            if end is not None:
                self._number(end, scope)
        for option in axis.options:
            if option.name != "scale":
                self.error(
                    "unknown-option", f"'{option.name}' is not an option of an axis", option.start, option.end, advise("scale logarithmic")
                )
            elif option.value == "signed-logarithmic":
                self._not_yet("scale signed-logarithmic", option.start, option.end)

    def _later(self, statement: tree.Later) -> None:
        words = {"define": "define blocks", "if": "if blocks", "for": "loops", "while": "loops"}
        self._not_yet(words.get(statement.word, f"'{statement.word}'"), statement.start, statement.head_end)

    # ------------------------------------------------------------ requests

    def _request(self, request: tree.Request, scope: Scope) -> None:
        noun = NOUNS[request.noun]
        if not noun.available:
            self._not_yet(f"'{noun.name} of'", request.start, request.start + len(noun.name))
            return
        for option in request.options:
            self._option(request, option, scope)
        if noun.name == "points":
            self._points(request, scope)
            return
        subject = request.subjects[0]
        items = subject.items if isinstance(subject, tree.ListOf) else (subject,)
        if len(request.windows) > 1:
            self._not_yet(f"'{noun.name} of' with several variables", request.windows[1].start, request.windows[1].end)
            return
        if isinstance(subject, tree.ListOf) and noun.name == "roots":
            self._not_yet("roots of a list of functions", subject.start, subject.end)
            return
        for window in request.windows:
            self._window_ends(window, scope)
            if window.values is not None or window.step is not None or window.count is not None:
                self._not_yet(f"'{noun.name} of' over a list", window.start, window.end)
        for item in items:
            self._subject(request, item, scope)

    def _subject(self, request: tree.Request, item: tree.Expression, scope: Scope) -> None:
        """The formula of a curve or of roots: with `for` the variable is said, else it is the one name without a value."""
        if isinstance(item, tree.PointOf):
            self._not_yet("a parametric curve", item.start, item.end)
            return
        if isinstance(item, tree.Comparison):
            self._not_yet("a curve given by an equation" if request.noun == "curve" else "an equation as a subject", item.start, item.end)
            return
        if isinstance(item, tree.Name | tree.Prime) and self._bare_function(item, scope):
            return
        if request.windows:
            window = request.windows[0]
            local = Scope({window.name: _NUMBER}, scope)
            self._number(item, local)
            if window.low is None and not self._domain_of(item, window.name, scope) and request.noun == "roots":
                self._window_needed(request, window.name)
            return
        free = self.free_names(item, scope)
        if len(free) == 1:
            self._number(item, Scope({free[0]: _NUMBER}, scope))
            if request.noun == "roots" and not self._domain_of(item, free[0], scope):
                self._window_needed(request, free[0])
        elif not free:
            self._variable_has_value(item, scope)
        else:
            self.kind_of(item, scope)

    def _bare_function(self, item: tree.Name | tree.Prime, scope: Scope) -> bool:
        """`curve of f`: the variable is missing."""
        function = item.function if isinstance(item, tree.Prime) else item
        if not isinstance(function, tree.Name):
            return False
        known = scope.find(function.name)
        if known is None or known.kind != "function":
            return False
        variables = ", ".join(known.parameters)
        written = self.source.text[item.start : item.end]
        self.error(
            "function-without-variable",
            f"'{written}' is a function; say of what",
            item.start,
            item.end,
            replace(item.end, item.end, f"({variables})", f"{written}({variables})"),
        )
        return True

    def _window_needed(self, request: tree.Request, name: str) -> None:
        at = request.options[0].start - 2 if request.options else request.end
        has_for = bool(request.windows)
        start = request.windows[0].end if has_for else at
        text = " from -10 to 10" if has_for else f" for {name} from -10 to 10"
        self.error(
            "window-needed",
            f"say where the {request.noun} are sought",
            request.start,
            request.end,
            replace(start, start, text, text.strip()),
        )

    def _variable_has_value(self, item: tree.Expression, scope: Scope) -> None:
        names = [
            n.name for n in tree.walk(item) if isinstance(n, tree.Name) and (k := scope.find(n.name)) is not None and k.kind == "number"
        ]
        if not names:
            if self._number(item, scope) != "broken":
                self.error("no-variable", "this has no variable", item.start, item.end, advise("for x from LOW to HIGH"))
            return
        name = names[-1]
        window = f"for {name} from -10 to 10"
        text = f"'{name}' has a value, so it is not taken for the variable; write for {name}"
        self.error("variable-has-value", text, item.start, item.end, replace(item.end, item.end, f" {window}", window))

    def _domain_of(self, item: tree.Expression, variable: str, scope: Scope) -> bool:
        """Whether the subject is a function called with plain names whose definition says a domain."""
        if not isinstance(item, tree.Call):
            return False
        function = item.function.function if isinstance(item.function, tree.Prime) else item.function
        if not isinstance(function, tree.Name):
            return False
        known = scope.find(function.name)
        plain = all(isinstance(a, tree.Name) and a.name == variable for a in item.arguments)
        return known is not None and known.has_domain and plain

    def free_names(self, item: tree.Expression, scope: Scope) -> list[str]:
        """Names without a value, in order, each once; what is called is no variable."""
        called = {id(n.function) for n in tree.walk(item) if isinstance(n, tree.Call)}
        found: list[str] = []
        for node in tree.walk(item):
            if isinstance(node, tree.Name) and id(node) not in called and node.name not in found:
                known = scope.find(node.name) is not None or node.name in self.builtins.names() or node.name == "gap"
                if not known and not _greek_product(node.spelling):
                    found.append(node.name)
        return found

    def _points(self, request: tree.Request, scope: Scope) -> None:
        for window in request.windows:
            self._not_yet("points with 'for'", window.start, window.end)
        subject = request.subjects[0]
        if request.against is None:
            if isinstance(subject, tree.ListOf) and all(isinstance(i, tree.PointOf) for i in subject.items):
                for point in subject.items:
                    assert isinstance(point, tree.PointOf)
                    if len(point.items) != 2:
                        self._not_yet("points in space", point.start, point.end)
                    for part in point.items:
                        self._number(part, scope)
            else:
                self.kind_of(subject, scope)
            return
        if isinstance(request.against, tree.PointOf):
            self._not_yet("points in space", request.against.start, request.against.end)
            return
        for side in (subject, request.against):
            kind = self.kind_of(side, scope)
            if kind == "text":
                self.error("text-as-number", "a list of numbers is needed here", side.start, side.end)

    def _option(self, request: tree.Request, option: tree.Option, scope: Scope) -> None:
        noun = NOUNS[request.noun]
        if option.name not in noun.options:
            meant = nearest(option.name, noun.options)
            word_end = option.start + len(option.name)
            fixes = [replace(option.start, word_end, meant)] if meant else []
            text = f"'{noun.name} of' has no option '{option.name}'"
            self.error("option-not-here", text, option.start, word_end, *fixes, advice="" if meant else ", ".join(sorted(noun.options)))
        elif option.name not in _READY_OPTIONS.get(noun.name, set()) or option.by:
            self._not_yet(f"option '{option.name}{' by' if option.by else ''}'", option.start, option.end)
        elif isinstance(option.value, tree.Expression):
            if option.name == "label" or (option.name == "colour" and isinstance(option.value, tree.ListOf)):
                self._labels(option.value)
            else:
                self._number(option.value, scope)
        if sum(o.name == option.name for o in request.options) > 1 and option is not request.option(option.name):
            self.error("said-twice", f"'{option.name}' is said twice", option.start, option.end)

    def _labels(self, value: tree.Expression) -> None:
        items = value.items if isinstance(value, tree.ListOf) else (value,)
        for item in items:
            if not isinstance(item, tree.Text):
                self.error(
                    "text-needed",
                    "a text in quotes is needed here",
                    item.start,
                    item.end,
                    replace(item.start, item.end, f'"{self.source.text[item.start : item.end]}"'),
                )

    def _window_ends(self, window: tree.Window, scope: Scope) -> None:
        for end in (window.low, window.high, window.step, window.count):
            if end is None:
                continue
            if (isinstance(end, tree.Name) and end.name == "infinity") or (
                isinstance(end, tree.Negative) and isinstance(end.operand, tree.Name) and end.operand.name == "infinity"
            ):
                self._not_yet("a window without an end", end.start, end.end)
            else:
                self._number(end, scope)

    # ------------------------------------------------------------ expressions

    def _number(self, expression: tree.Expression, scope: Scope) -> Kind:
        kind = self.kind_of(expression, scope)
        if kind in ("list", "text"):
            article = "a list" if kind == "list" else "a text"
            self.error("number-needed", f"a number is needed here; this is {article}", expression.start, expression.end)
        return kind

    def kind_of(self, e: tree.Expression, scope: Scope) -> Kind:
        """The kind of a value; everything inside is checked on the way."""
        if isinstance(e, tree.Number):
            self._exponent_name(e, scope)
            return "number"
        if isinstance(e, tree.Text):
            return "text"
        if isinstance(e, tree.Name):
            return self._name(e, scope)
        if isinstance(e, tree.Call):
            return self._call(e, scope)
        if isinstance(e, tree.Range):
            return self._range(e, scope)
        if isinstance(e, tree.ListOf):
            for item in e.items:
                kind = self.kind_of(item, scope)
                if kind in ("list", "text"):
                    self._not_yet("a list of other things than numbers", item.start, item.end)
            return "list"
        if isinstance(e, tree.Index):
            return self._index(e, scope)
        if isinstance(e, tree.Prime):
            self.error(
                "prime-alone", "a derivative is a function; say where", e.start, e.end, advise(f"{self.source.text[e.start : e.end]}(x)")
            )
            return "broken"
        if isinstance(e, tree.PointOf):
            self._not_yet("a point as a value", e.start, e.end)
            return "broken"
        if isinstance(e, tree.Comparison):
            self._not_yet("comparisons", e.start, e.end)
            return "broken"
        if isinstance(e, tree.Request):
            self._request(e, scope)
            if NOUNS[e.noun].draws:
                self.error("drawing-as-value", f"'{e.noun} of' draws; it is no value", e.start, e.end)
            return "finding"
        for shape, words in _NOT_IN_FORMULA.items():
            if isinstance(e, shape):
                self._not_yet(words, e.start, e.end)
                return "broken"
        return self._arithmetic(e, scope)

    def _arithmetic(self, e: tree.Expression, scope: Scope) -> Kind:
        kinds = [self.kind_of(c, scope) for c in tree.children(e) if isinstance(c, tree.Expression)]
        for child, kind in zip((c for c in tree.children(e) if isinstance(c, tree.Expression)), kinds, strict=True):
            if kind == "text" and not isinstance(e, tree.Group):
                self.error("text-as-number", "a text is no number", child.start, child.end)
        if "broken" in kinds:
            return "broken"
        if isinstance(e, tree.Group):
            return kinds[0]
        if "list" in kinds:
            return "list"
        return "finding" if "finding" in kinds else "number"

    def _exponent_name(self, e: tree.Number, scope: Scope) -> None:
        match = re.fullmatch(r"(\d+(?:\.\d+)?)([eE]\d+)", e.text)
        if match and scope.find(match.group(2)) is not None:
            number, name = match.groups()
            self.error("number-or-name", f"'{e.text}' is a number, though '{name}' is a name here", e.start, e.end,
                       replace(e.start, e.end, f"{number}*{name}"))  # fmt: skip

    def _name(self, e: tree.Name, scope: Scope) -> Kind:
        known = scope.find(e.name)
        if known is not None:
            if known.kind == "function":
                variables = ", ".join(known.parameters)
                self.error(
                    "function-as-value",
                    f"'{e.spelling}' is a function; here a value is needed",
                    e.start,
                    e.end,
                    replace(e.end, e.end, f"({variables})", f"{e.spelling}({variables})"),
                )
                return "broken"
            return known.kind
        if e.name == "gap":
            self._not_yet("gap", e.start, e.end)
            return "broken"
        if self.builtins.is_constant(e.name):
            if e.name == "infinity":
                self.error("infinity", "infinity is no number to compute with; it is an end of a span", e.start, e.end)
                return "broken"
            return "number"
        if self.builtins.is_function(e.name):
            self.error(
                "function-as-value", f"'{e.spelling}' is a function; here a value is needed", e.start, e.end, advise(f"{e.spelling}(x)")
            )
            return "broken"
        self._unknown(e.name, e.spelling, e.start, e.end, scope)
        return "broken"

    def _unknown(self, name: str, spelling: str, start: int, end: int, scope: Scope, called: bool = False) -> None:
        if name in self.later and self.later[name] > self.line:
            self.error(
                "name-later",
                f"'{spelling}' gets its value only in line {self.later[name]}",
                start,
                end,
                advise(f"move line {self.later[name]} up"),
            )
            return
        split = _product_of_known(name, scope, self.builtins)
        if split:
            self.error(
                "unknown-name",
                f"'{spelling}' has no value; letters side by side are one name",
                start,
                end,
                replace(start, end, "*".join(split)),
            )
            return
        pool = scope.all_names() | set(self.builtins.names())
        meant = nearest(name, pool)
        fixes = [replace(start, end, meant)] if meant else []
        text = f"there is no function '{spelling}'" if called else f"'{spelling}' has no value"
        self.error(
            "unknown-name", text, start, end, *fixes, advice="" if meant else f"{spelling}(x) = ..." if called else f"{spelling} = ..."
        )

    def _call(self, e: tree.Call, scope: Scope) -> Kind:
        kinds = [self.kind_of(a, scope) for a in e.arguments]
        function = e.function
        if isinstance(function, tree.Prime):
            return self._prime_call(e, function, scope, kinds)
        if not isinstance(function, tree.Name):
            self.error("value-called", "only a function can be called", function.start, function.end)
            return "broken"
        known = scope.find(function.name)
        if known is not None and known.kind == "function":
            self._count(e, (known.parameters and (len(known.parameters), len(known.parameters))) or (0, 0), ", ".join(known.parameters))
        elif known is not None:
            if known.kind != "broken":
                self._number_called(e, function)
            return "broken"
        elif function.name == "log":
            self._log(function)
            return "broken"
        elif self.builtins.is_function(function.name):
            return self._builtin_call(e, function, kinds)
        elif self.builtins.is_constant(function.name):
            self._number_called(e, function)
            return "broken"
        else:
            self._unknown(function.name, function.spelling, function.start, function.end, scope, called=True)
            return "broken"
        return self._result(kinds)

    def _result(self, kinds: list[Kind]) -> Kind:
        if "broken" in kinds:
            return "broken"
        return "list" if "list" in kinds else "number"

    def _builtin_call(self, e: tree.Call, function: tree.Name, kinds: list[Kind]) -> Kind:
        name = function.name
        if not self.builtins.is_available(name):
            self._not_yet(f"'{function.spelling}'", function.start, function.end)
            return "broken"
        low, high = self.builtins.arity(name)
        self._count(e, (low, high), "x" if high == 1 else "...")
        if name in ("sort", "reverse", "differences", "running_sum"):
            return "broken" if "broken" in kinds else "list"
        if name in ("min", "max") and len(kinds) == 1:
            return "broken" if "broken" in kinds else "number"
        if low == high == 1 and name in _OF_LISTS:
            if kinds and kinds[0] in ("number", "text"):
                self.error("list-needed", f"{name} takes a list", e.arguments[0].start, e.arguments[0].end, advise(f"{name}([1, 2, 3])"))
                return "broken"
            return "broken" if "broken" in kinds else "number"
        for argument, kind in zip(e.arguments, kinds, strict=True):
            if kind == "text":
                self.error("text-as-number", "a text is no number", argument.start, argument.end)
        return self._result(kinds)

    def _count(self, e: tree.Call, arity: tuple[int, int], variables: str) -> None:
        low, high = arity
        given = len(e.arguments)
        if low <= given <= high:
            return
        name = self.source.text[e.function.start : e.function.end]
        wanted = f"{low}" if low == high else f"{low} or more"
        plural = "" if wanted == "1" else "s"
        self.error("argument-count", f"{name} takes {wanted} argument{plural}, not {given}", e.start, e.end, advise(f"{name}({variables})"))

    def _number_called(self, e: tree.Call, function: tree.Name) -> None:
        inside = self.source.text[function.end : e.end]
        argument = e.arguments[0] if len(e.arguments) == 1 else None
        plain = isinstance(argument, tree.Number | tree.Name)
        product = f"{function.spelling}*{inside[1:-1].strip() if plain else inside}"
        self.error(
            "number-called", f"'{function.spelling}' is a number and takes no argument", e.start, e.end, replace(e.start, e.end, product)
        )

    def _log(self, function: tree.Name) -> None:
        fixes = [replace(function.start, function.end, name) for name in ("ln", "log10", "log2")]
        self.error(
            "which-log", "log means different things to different people", function.start, function.end, *fixes, advice="ln, log10 or log2"
        )

    def _prime_target(self, e: tree.Prime, scope: Scope) -> Known | None:
        assert isinstance(e.function, tree.Name)
        known = scope.find(e.function.name)
        if known is None and self.builtins.is_function(e.function.name):
            self.error(
                "prime-of-built-in",
                f"primes follow functions of your own; define one first: f(x) = {e.function.spelling}(x)",
                e.start,
                e.end,
            )
        elif known is None:
            self._unknown(e.function.name, e.function.spelling, e.function.start, e.function.end, scope, called=True)
        elif known.kind not in ("function", "broken"):
            self.error("prime-of-number", f"'{e.function.spelling}' is no function, so it has no derivative", e.start, e.end)
        elif known.kind == "function" and len(known.parameters) != 1:
            self.error(
                "prime-of-several",
                f"'{e.function.spelling}' has {len(known.parameters)} variables; a prime cannot say which",
                e.start,
                e.end,
            )
        else:
            return known
        return None

    def _prime_call(self, e: tree.Call, prime: tree.Prime, scope: Scope, kinds: list[Kind]) -> Kind:
        if not isinstance(prime.function, tree.Name):
            self.error("prime", "a prime follows the name of a function", prime.start, prime.end)
            return "broken"
        known = self._prime_target(prime, scope)
        if known is None or known.kind == "broken":
            return "broken"
        self._count(e, (1, 1), known.parameters[0])
        return self._result(kinds)

    def _range(self, e: tree.Range, scope: Scope) -> Kind:
        for part in (e.low, e.high, e.step, e.count):
            if part is not None:
                self._number(part, scope)
        if e.step is None and e.count is None:
            self.error("span-as-value", "a span is no list; say the step or the count", e.start, e.end,
                       replace(e.end, e.end, " step 1", "step ..."), replace(e.end, e.end, " count 11", "count ..."))  # fmt: skip
            return "broken"
        low, high, step = (_literal(part) for part in (e.low, e.high, e.step))
        if low is not None and high is not None and step is not None:
            self._steps(e, low, high, step)
        return "list"

    def _steps(self, e: tree.Range, low: Fraction, high: Fraction, step: Fraction) -> None:
        message = step_message(low, high, step, e)
        if message is not None:
            self.messages.add(message)

    def _index(self, e: tree.Index, scope: Scope) -> Kind:
        kind = self.kind_of(e.target, scope)
        if len(e.places) != 1:
            self._not_yet("several places", e.start, e.end)
            return "broken"
        place = e.places[0]
        if isinstance(place, tree.Range):
            for part in (place.low, place.high):
                self._number(part, scope)
            if place.step is not None or place.count is not None:
                self._not_yet("a slice with a step", place.start, place.end)
            return "list" if kind != "broken" else "broken"
        self._number(place, scope)
        if kind == "number":
            self.error("number-indexed", "a number has no elements", e.start, e.end)
            return "broken"
        return "number" if kind != "broken" else "broken"

    # ------------------------------------------------------------ saying it

    def error(self, code: str, text: str, start: int, end: int, *fixes: Fix, advice: str = "") -> None:
        self.messages.add(Message("error", code, start, end, text, tuple(fixes), advice))

    def warn(self, code: str, text: str, start: int, end: int) -> None:
        self.messages.add(Message("warning", code, start, end, text))

    def _not_yet(self, what: str, start: int, end: int) -> None:
        self.error("not-available-yet", f"{what}: not available yet", start, end)


_OF_LISTS = frozenset(["sum", "product", "mean", "median", "sd", "variance", "length", "first", "last"])


def step_message(low: Fraction, high: Fraction, step: Fraction, e: tree.Range) -> Message | None:
    """Why `low to high step step` is no list: both ends must belong. None where it is one."""
    assert e.step is not None
    if step == 0:
        return Message("error", "step", e.step.start, e.step.end, "a step of 0 leads nowhere")
    count = (high - low) / step
    if count < 0:
        text = f"from {_short(low)} to {_short(high)} the step must be {'negative' if high < low else 'positive'}"
        return Message("error", "step", e.step.start, e.step.end, text, (replace(e.step.start, e.step.end, _short(-step)),))
    if count.denominator == 1:
        return None
    last = low + step * int(count)
    steps = round(count)
    text = f"steps of {_short(step)} from {_short(low)} do not end at {_short(high)}; both ends belong to the list"
    finer = Message(
        "error", "step", e.start, e.end, text,
        (
            replace(e.high.start, e.high.end, _short(last), f"to {_short(last)}"),
            replace(e.high.end, e.end, f" count {max(steps, 1) + 1}", f"count {max(steps, 1) + 1}"),
        ),
    )  # fmt: skip
    return finer


def _short(value: Fraction) -> str:
    return str(value.numerator) if value.denominator == 1 else repr(float(value))


def _literal(e: tree.Expression | None) -> Fraction | None:
    if isinstance(e, tree.Number):
        return Fraction(e.text)
    if isinstance(e, tree.Negative):
        inner = _literal(e.operand)
        return None if inner is None else -inner
    return None


def _setting(statement: tree.Statement) -> str | None:
    if isinstance(statement, tree.Axis):
        return f"{statement.which} axis"
    if isinstance(statement, tree.Legend):
        return "legend"
    if isinstance(statement, tree.Size):
        return "size"
    return None


def _greek_product(spelling: str) -> bool:
    return spelling[:1] == "π" and len(spelling) > 1


def _product_of_known(name: str, scope: Scope, builtins: Builtins) -> list[str] | None:
    """`ab` where a and b have values: the letters of a product that was meant."""
    if not 2 <= len(name) <= 4:
        return None

    def known(part: str) -> bool:
        found = scope.find(part)
        return (found is not None and found.kind in ("number", "finding")) or builtins.is_constant(part)

    if all(known(c) for c in name):
        return list(name)
    for cut in range(1, len(name)):
        if known(name[:cut]) and known(name[cut:]):
            return [name[:cut], name[cut:]]
    return None


_DEFINES = re.compile(r"\s*(?:(?:define|table|tune)\s+([^\W\d]\w*)|([^\W\d]\w*)\s*(?:\([^()\n]*\))?\s*=(?!=))")


def broken_names(reading: Reading) -> dict[str, Known]:
    """Names that lines with a reading error would have defined."""
    defined = {s.name for s in reading.script.statements if isinstance(s, tree.Definition)}
    found: dict[str, Known] = {}
    for message in reading.messages.items:
        line = reading.source.line_of(message.start)
        text = reading.source.text[reading.source.line_start(line) : reading.source.line_end(line)]
        match = _DEFINES.match(text)
        if match:
            name = canonical_name(match.group(1) or match.group(2))
            if name not in defined:
                found[name] = Known("broken", line)
    return found
