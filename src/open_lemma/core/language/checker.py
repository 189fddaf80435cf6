"""What can be known of a script before it runs: names, kinds, counts of arguments, and what is not available yet.

Statements with an error are not run; the names they would have defined are known to be broken, so that one mistake is
told once and not again at every use.
"""

from __future__ import annotations

import re

from . import tree
from .cursor import Builtins, nearest
from .kinds import NUMBER, Kind, KindChecker, Known, Scope
from .messages import advise, replace
from .parser import Reading
from .words import CORNERS, NOUNS, canonical_name

# Options that are carried out now; the others of a noun are read, then refused.
_READY_OPTIONS = {
    "curve": {"colour", "width", "dash", "label", "opacity"},
    "points": {"colour", "marker", "size", "label", "opacity"},
    "roots": set(),
}
_FIGURE_ONLY = (tree.Axis, tree.Legend, tree.Gridlines, tree.Size, tree.Without)


def check(reading: Reading, builtins: Builtins) -> set[int]:
    """Check a script; messages are added to the reading's. Returns the start offsets of top statements not to be run."""
    checker = Checker(reading, builtins)
    return checker.run()


class Checker(KindChecker):
    def __init__(self, reading: Reading, builtins: Builtins) -> None:
        super().__init__(reading, builtins)
        self.top = Scope()
        self.unread = broken_names(reading)
        self.figures: set[str] = set()

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
        for name in tree.defined_names(statement):
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
        elif isinstance(statement, tree.Check):
            self._check(statement, scope, in_figure)
        elif isinstance(statement, tree.Later):
            self._later(statement)
        elif isinstance(statement, _FIGURE_ONLY):
            self._figure_word(statement, scope, in_figure)

    def _definition(self, d: tree.Definition, scope: Scope) -> None:
        local = Scope(dict.fromkeys(d.parameters or (), NUMBER), scope)
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
            if kind in ("list", "text", "truth"):
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

    def _check(self, statement: tree.Check, scope: Scope, in_figure: bool) -> None:
        if in_figure:
            self.error("value-in-figure", "a check says nothing inside a figure", statement.start, statement.end, advise("move it out"))
        self._truth(statement.condition, scope)
        equation = isinstance(statement.condition, tree.Comparison) and statement.condition.signs == ("=",)
        for option in statement.options:
            if option.name != "within":
                self.error("unknown-option", f"'{option.name}' is not an option of a check", option.start, option.end, advise("within 0.1"))
            elif not equation:
                self.error(
                    "within", "'within' belongs to a check of one equation", option.start, option.end, advise("check a = b, within 0.1")
                )
            elif not isinstance(option.value, str):
                self._number(option.value, scope)

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
            local = Scope({window.name: NUMBER}, scope)
            known = self._number(item, local) != "broken"
            if known and window.low is None and not self._domain_of(item, window.name, scope) and request.noun == "roots":
                self._window_needed(request, window.name)
            return
        free = self.free_names(item, scope)
        if len(free) == 1:
            # What is broken may have a domain; that it has a mistake is told already.
            known = self._number(item, Scope({free[0]: NUMBER}, scope)) != "broken"
            if known and request.noun == "roots" and not self._domain_of(item, free[0], scope):
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
        if request.option("near") is not None:
            return  # the nearest root is sought everywhere
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
