"""What can be known of a script before it runs: names, kinds, counts of arguments, and what is not available yet.

Statements with an error are not run; the names they would have defined are known to be broken, so that one mistake is
told once and not again at every use.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from . import tree
from .cursor import Builtins, nearest
from .figures import FIGURE_ONLY
from .fits import FitChecker
from .kinds import ANY, NUMBER, WORDS, Kind, Known, Scope, gives_formula
from .messages import advise, replace
from .parser import Reading
from .questions import is_infinite, unwrapped
from .spaces import SpaceChecker
from .vocabulary import NOUNS, OPTIONS
from .vocabulary.names import LIKELY_MEANT, canonical_name


def check(reading: Reading, builtins: Builtins) -> set[int]:
    """Check a script; messages are added to the reading's. Returns the start offsets of top statements not to be run."""
    checker = Checker(reading, builtins)
    return checker.run()


class Checker(FitChecker, SpaceChecker):
    def __init__(self, reading: Reading, builtins: Builtins) -> None:
        super().__init__(reading, builtins)
        self.top = Scope()
        self.unread = broken_names(reading)
        self.function: tree.Define | None = None  # whose block is being checked

    # ------------------------------------------------------------ statements

    def run(self) -> set[int]:
        """Check the whole script. Returns the start offsets of the statements that are not to be run."""
        broken: set[int] = set()
        unread = sorted(self.unread.items(), key=lambda item: -item[1].line)
        statements = self.reading.script.statements
        for s in statements:
            if isinstance(s, tree.Definition | tree.Define | tree.Tune | tree.Table):
                self.later.setdefault(s.name, self.source.line_of(s.start))
        for place, statement in enumerate(statements):
            if self.messages.full:
                self.messages.end_at(statement.start)
                broken |= {s.start for s in statements[place:]}
                break
            line = self.source.line_of(statement.start)
            while unread and unread[-1][1].line < line:
                name, known = unread.pop()
                self.top.names[name] = known
            before = self.messages.errors
            self.statement(statement, self.top)
            if self.messages.errors > before:
                broken.add(statement.start)
                self._mark_broken(statement, self.top)
        for statement in statements:
            if self._has_error_inside(statement):
                broken.add(statement.start)
        return broken

    def _has_error_inside(self, statement: tree.Statement) -> bool:
        at_end = len(self.source.text)
        if self.messages.error_within(statement.start, max(statement.end, statement.start + 1)):
            return True
        return statement.end == at_end and self.messages.error_within(at_end, at_end + 1)

    def _mark_broken(self, statement: tree.Statement, scope: Scope) -> None:
        inner = isinstance(statement, tree.For | tree.While | tree.If)
        for name in tree.defined_names(statement):
            if not inner or name in scope.names:
                scope.names[name] = Known("broken", self.line)
            else:
                self.local.pop(name, None)
                self.unsure.add(name)

    def statement(self, statement: tree.Statement, scope: Scope, in_figure: bool = False) -> None:
        """Check one statement with the names of the place where it stands."""
        self.line = self.source.line_of(statement.start)
        if isinstance(statement, tree.Definition):
            self._definition(statement, scope)
        elif isinstance(statement, tree.Show):
            for item in statement.items:
                self._shown(item, scope)
            if in_figure:
                self.error(
                    "value-in-figure",
                    "a value says nothing inside a figure",
                    statement.start,
                    statement.end,
                    advise("move it out of the figure block"),
                )
            for option in statement.options:
                self._show_option(option, scope)
        elif isinstance(statement, tree.Bare):
            self._bare(statement.expression, scope, in_figure)
        elif isinstance(statement, tree.Figure):
            self.figure(statement, scope)
        elif isinstance(statement, tree.Check):
            self._check(statement, scope, in_figure)
        elif isinstance(statement, tree.Compare):
            self.compared_fits(statement, scope)
        elif type(statement) in _BLOCKS:
            _BLOCKS[type(statement)](self, statement, scope, in_figure)
        elif isinstance(statement, FIGURE_ONLY):
            self.figure_word(statement, scope, in_figure)

    def _show_option(self, option: tree.Option, scope: Scope) -> None:
        if option.name != "digits":
            self.error("unknown-option", f"'{option.name}' is not an option of 'show'", option.start, option.end, advise("digits 30"))
        elif isinstance(option.value, tree.Expression):
            self._number(option.value, scope)

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
        known = self._defined(d, local, scope)
        if known.kind == "function" and d.parameters is None and not isinstance(d.body, tree.Request):
            self.error("function-as-value", "a function is no value", d.body.start, d.body.end, advise("give it its argument: f(x)"))
        self.give(d.name, known, scope, d.start, d.name_end)

    def _defined(self, d: tree.Definition, local: Scope, scope: Scope) -> Known:
        """What a definition makes of its name."""
        if isinstance(d.body, tree.Request) and NOUNS[d.body.noun].gives == "function" and d.parameters is not None:
            return self.from_data(d, d.body, scope)
        if isinstance(d.body, tree.Request) and not gives_formula(d.body):
            self._request(d.body, local)
            noun = NOUNS[d.body.noun]
            if noun.draws:
                self.error("drawing-as-value", f"'{noun.name} of' draws; it is no value", d.body.start, d.body.end)
            if d.parameters is not None:
                self.error("function-of-request", f"'{d.body.noun} of' gives no function", d.body.start, d.body.end)
            kind: Kind = "table" if noun.gives == "table" else "finding"
            return Known("function" if d.parameters is not None else kind, self.line, d.parameters or ())
        if isinstance(d.body, tree.Request) and d.parameters is None:
            self._request(d.body, local)
            free = self.derivative_variables(d.body, scope)
            if (d.body.noun == "derivative" and d.body.option("at") is not None and len(free) == 1) or not free:
                return Known("number", self.line)
            return Known("function", self.line, tuple(free))
        kind = self.kind_of(d.body, local)
        if d.parameters is None:
            return Known(kind, self.line, length=self.length_of(d.body, scope) if kind == "list" else None)
        if kind not in ("number", "finding", "any", "broken", "list"):
            self.error(
                "function-value", f"a function in one formula gives a number, not {WORDS[kind]}", d.body.start, d.body.end,
                advise("define f(x): ... return ... may give anything" if kind != "truth" else "1 when ..., otherwise 0"),
            )  # fmt: skip
        elif kind == "list" and self._builds_list(d):
            self.error(
                "function-value", "a function in one formula gives a number, not a list", d.body.start, d.body.end,
                advise("define f(x): ... return ... may give anything"),
            )  # fmt: skip
        return Known("function", self.line, d.parameters, bool(d.domain) and len(d.domain) == len(d.parameters))

    def _builds_list(self, d: tree.Definition) -> bool:
        """Whether a list is built of the variables; arithmetic with lists from outside is an ordinary formula."""
        shapes = (tree.ListOf, tree.Range, tree.Comprehension, tree.Join)
        return any(isinstance(n, shapes) and tree.free_names(n) & set(d.parameters or ()) for n in tree.walk(d.body))

    def give(self, name: str, known: Known, scope: Scope, start: int, end: int) -> None:
        """A statement gives a name a value: a new one in this block, or that of a name from outside it."""
        home = scope.home(name)
        before = home.names.get(name)
        if home is not scope and before is not None and "broken" not in (before.kind, known.kind):
            self._same_kind(name, before, known, start, end)
            if before.kind != known.kind or before.length != known.length:
                # An empty list becomes one of whatever is joined to it.
                grows = before.kind == "list" and known.kind in ("items", "any")
                kind = known.kind if grows or before.kind == "any" else before.kind
                known = Known(kind, before.line, before.parameters, before.has_domain, before.defined)
        elif not scope.block or scope is home:
            self._flag_redefinition(name, before, scope, start, end)
        home.names[name] = known

    def _same_kind(self, name: str, before: Known, known: Known, start: int, end: int) -> None:
        """What a name stands for does not change in a loop: what follows could not be checked."""
        alike = {before.kind, known.kind} <= {"number", "finding"} or "any" in (before.kind, known.kind)
        grows = {before.kind, known.kind} == {"list", "items"}
        if before.kind != known.kind and not alike and not grows:
            self.error(
                "kind-changes", f"'{name}' is {WORDS[before.kind]} from line {before.line}; "
                f"inside a block it does not become {WORDS[known.kind]}",
                start, end, advise("give this value a name of its own"),
            )  # fmt: skip

    def _flag_redefinition(self, name: str, before: Known | None, scope: Scope, start: int, end: int) -> None:
        if scope.block or self.function is not None:
            return
        if before is not None and before.kind != "broken":
            self.warn("redefined", f"'{name}' already has a value from line {before.line}; from here on it has this one", start, end)
        elif before is None and self.builtins.is_function(name):
            self.warn("built-in-redefined", f"'{name}' is built in; from here on it means this", start, end)

    # ------------------------------------------------------------ blocks

    def _body(self, body: tuple[tree.Statement, ...], local: Scope, in_figure: bool, line: int) -> None:
        for inner in body:
            if self.messages.full:
                self.messages.end_at(inner.start)
                break
            if isinstance(inner, tree.Part | tree.Define | tree.Table | tree.Tune | tree.Note):
                words = {
                    tree.Part: "a part",
                    tree.Define: "a define block",
                    tree.Table: "a table",
                    tree.Tune: "a tuned value",
                    tree.Note: "a note",
                }
                self.error(
                    "misplaced",
                    f"{words[type(inner)]} stands outside of blocks",
                    inner.start,
                    inner.end,
                    advise("move it out of the block"),
                )
                continue
            before = self.messages.errors
            self.statement(inner, local, in_figure)
            if self.messages.errors > before:
                for name in tree.defined_names(inner):
                    local.home(name).names[name] = Known("broken", self.line)
        for name in local.names:
            self.local.setdefault(name, line)

    def _for(self, loop: tree.For, scope: Scope, in_figure: bool) -> None:
        line = self.line
        known = self.iterate(loop.window, scope)
        local = Scope({loop.window.name: known}, scope, block=True)
        if self.builtins.is_constant(loop.window.name) or self.builtins.is_protected(loop.window.name):
            self.error("protected-name", f"'{loop.window.name}' is built in and keeps its meaning", loop.window.start, loop.window.name_end)
        self._body(loop.body, local, in_figure, line)

    def _while(self, loop: tree.While, scope: Scope, in_figure: bool) -> None:
        line = self.line
        self._truth(loop.condition, scope)
        if isinstance(loop.condition, tree.Truth) and loop.condition.value and not any(isinstance(n, tree.Return) for n in tree.walk(loop)):
            self.error(
                "endless",
                "this loop never ends: its condition is always true",
                loop.condition.start,
                loop.condition.end,
                advise("while x > 0.001"),
            )
        names = tree.free_names(loop.condition)
        if names and not names & set(tree.assigned_names(loop)) and not any(isinstance(n, tree.Return) for n in tree.walk(loop)):
            known = all((k := scope.find(n)) is not None and k.kind in ("number", "list", "truth", "text", "finding") for n in names)
            if known:
                said = ", ".join(f"'{n}'" for n in sorted(names))
                self.error("endless", f"nothing in this loop changes {said}, so it never ends", loop.condition.start, loop.condition.end)
        self._body(loop.body, Scope({}, scope, block=True), in_figure, line)

    def _if(self, statement: tree.If, scope: Scope, in_figure: bool) -> None:
        line = self.line
        for branch in statement.branches:
            if branch.condition is not None:
                self._truth(branch.condition, scope)
            self._body(branch.body, Scope({}, scope, block=True), in_figure, line)

    def _define(self, d: tree.Define, scope: Scope, _: bool) -> None:
        line = self.line
        if self.function is not None or scope is not self.top:
            self.error("misplaced", "a define block stands outside of blocks", d.start, d.head_end, advise("move it out of the block"))
            return
        known = Known("function", line, d.parameters, defined=True)
        self._flag_redefinition(d.name, scope.names.get(d.name), scope, d.start, d.name_end)
        scope.names[d.name] = known  # it may call itself
        if not _returns(d.body):
            self.error(
                "no-return", f"'{d.name}' may come to its end without a value", d.start, d.head_end, advise("end it with: return ...")
            )
        self.function = d
        self._body(d.body, Scope(dict.fromkeys(d.parameters, ANY), scope), False, line)
        self.function = None
        for name in set(tree.assigned_names(d)) | set(d.parameters):
            if self.local.get(name) == line:
                del self.local[name]

    def _return(self, statement: tree.Return, scope: Scope, _: bool) -> None:
        if self.function is None:
            self.error(
                "return-outside", "'return' stands inside a define block", statement.start, statement.end, advise("define f(x): ...")
            )
        elif isinstance(statement.value, tree.Request):
            self._request(statement.value, scope)
        else:
            self.kind_of(statement.value, scope)

    def _tune(self, t: tree.Tune, scope: Scope, in_figure: bool) -> None:
        if in_figure:
            self.error("misplaced", "a tuned value stands outside of figures", t.start, t.end, advise("move it out of the figure block"))
        for part in (t.value, t.low, t.high, t.step):
            if part is not None:
                self._number(part, scope)
        self.give(t.name, Known("number", self.line), scope, t.start, t.name_end)

    def _table(self, t: tree.Table, scope: Scope, in_figure: bool) -> None:
        if in_figure:
            self.error("misplaced", "a table stands outside of figures", t.start, t.head_end, advise("move it out of the figure block"))
        columns = None if t.file is not None else tuple(c.name for c in t.columns)
        if t.file is None and not t.rows and not self._has_error_inside(t):
            self.error("table-empty", f"the table '{t.name}' has no rows", t.start, t.head_end)
        self.give(t.name, Known("table", self.line, columns=columns), scope, t.start, t.name_end)

    def _note(self, n: tree.Note, _: Scope, in_figure: bool) -> None:
        if in_figure:
            self.error("misplaced", "a note stands outside of figures", n.start, n.end, advise("move it out of the figure block"))

    def _shown(self, item: tree.Expression, scope: Scope) -> None:
        if isinstance(item, tree.Request):
            self._request(item, scope)
        elif isinstance(item, tree.Name) and (known := scope.find(item.name)) is not None and known.kind in ("function", "table"):
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

    # ------------------------------------------------------------ requests

    def _request(self, request: tree.Request, scope: Scope) -> None:
        noun = NOUNS[request.noun]
        if noun.gives == "function":
            self.without_function(request, scope)
            return
        for option in request.options:
            self._option(request, option, scope)
        self.said_twice(request.options)
        if noun.shape in ("against", "data"):
            self._points(request, scope)
            return
        if noun.shape == "list":
            self._list_of_numbers(request, scope)
            return
        if noun.shape == "result":
            self.of_result(request, scope)
            return
        if noun.family == "surfaces":
            self.in_space(request, scope)
            return
        if noun.name in _OWN_CHECKS:
            _OWN_CHECKS[noun.name](self, request, scope)
            return
        subject = request.subjects[0]
        items = subject.items if isinstance(subject, tree.ListOf) else (subject,)
        if noun.name == "curve" and any(isinstance(unwrapped(i), tree.Comparison) for i in items):
            self._implicit(request, items, scope)
            return
        if noun.name == "tangent" and request.option("at") is None:
            self.error(
                "tangent-at", "say at which place the curve is touched", request.start, request.end,
                replace(request.end, request.end, ", at 1", "at 1"),
            )  # fmt: skip
            return
        if self.of_a_list(request, scope) or self._of_points(request, scope):
            return
        if noun.name == "integral" and gives_formula(request):
            self.antiderivative(request, scope)
            return
        if noun.name == "crossings" and request.against is not None:
            self.with_samples(request, scope)
            return
        if len(request.windows) > 1:
            self.several_variables(request, scope)
            return
        for window in request.windows:
            self._window_ends(window, scope, noun.endless)
            if window.values is not None or window.step is not None or window.count is not None:
                self._not_yet(f"'{noun.name} of' over a list", window.start, window.end)
        for item in items if len(request.subjects) == 1 else (_difference(request),):
            self._subject(request, item, scope)
        for option in request.options:
            if option.by and isinstance(option.value, tree.Expression) and noun.draws:
                names = [w.name for w in request.windows] or self.free_names(items[0], scope)[:1]
                self._number(option.value, Scope(dict.fromkeys(names, NUMBER), scope))

    def _implicit(self, request: tree.Request, items: tuple[tree.Expression, ...], scope: Scope) -> None:
        """`curve of x^2 + y^2 = 4 for x …, y …`: the first variable goes along the horizontal axis."""
        if len(request.windows) != 2 or any(w.low is None for w in request.windows):
            self.error(
                "implicit-window", "a curve given by an equation needs the spans of its two variables", request.start, request.end,
                advise("for x from -3 to 3, y from -3 to 3"),
            )  # fmt: skip
            return
        for window in request.windows:
            self._window_ends(window, scope)
            if window.step is not None or window.count is not None:
                self._not_yet("'curve of' over a list", window.start, window.end)
        local = Scope(dict.fromkeys([w.name for w in request.windows], NUMBER), scope)
        for item in items:
            equation = unwrapped(item)
            if isinstance(equation, tree.Comparison) and len(equation.signs) == 1 and equation.signs != ("=",):
                left, right = equation.operands
                text = "a curve is where both sides are equal"
                self.error("equation-needed", text, item.start, item.end, replace(left.end, right.start, " = ", "="))
                continue
            if not (isinstance(equation, tree.Comparison) and equation.signs == ("=",)):
                self.error("equation-needed", "an equation is needed here", item.start, item.end,
                           replace(item.end, item.end, " = 0", "... = 0"))  # fmt: skip
                continue
            for operand in equation.operands:
                self._number(operand, local)
        for option in request.options:
            if option.name in ("marker", "every", "fill", "size", "hatch") or option.by:
                self.error("option-not-here", f"a curve given by an equation has no option '{option.name}'", option.start, option.end)

    def _derivative(self, request: tree.Request, scope: Scope) -> None:
        subject = request.subjects[0]
        if len(request.windows) != 1:
            free = self.free_names(subject, scope)
            fix = advise(f"for {free[0]}" if free else "for x")
            if free and not request.windows:
                fix = replace(subject.end, subject.end, f" for {free[0]}", f"for {free[0]}")
            self.error("variable-needed", "say by which one variable the derivative is taken", request.start, request.end, fix)
            return
        window = request.windows[0]
        if window.low is not None or window.values is not None:
            self.error(
                "derivative-window", "a derivative is a formula, it has no window", window.name_end, window.end,
                replace(window.name_end, window.end, "", f"for {window.name}"),
            )  # fmt: skip
            return
        if isinstance(subject, tree.Name | tree.Prime) and self._bare_function(subject, scope):
            return
        if self.in_formula and request.option("at") is None and scope.find(window.name) is None:
            self.error(
                "derivative-at", "in a formula the derivative is asked for at a place", request.start, request.end,
                advise("at 2"),
            )  # fmt: skip
            return
        names = [window.name] if self.in_formula else self.derivative_variables(request, scope)
        open_names = dict.fromkeys(names, NUMBER)
        kind = self._number(subject, Scope(open_names, scope))
        if kind == "any":
            self.error("no-derivative", "what is given by a block has values only, and no derivative by rule", subject.start, subject.end)

    def derivative_variables(self, request: tree.Request, scope: Scope) -> list[str]:
        """The variable of a derivative and the names without a value beside it, in the order of the subject."""
        windows = [w.name for w in request.windows]
        named = [n.name for s in request.subjects for n in tree.walk(s) if isinstance(n, tree.Name)]
        free = {n for s in request.subjects for n in self.free_names(s, scope)} | set(windows)
        return [n for n in dict.fromkeys(named) if n in free] + [n for n in windows if n not in named]

    def _values(self, request: tree.Request, scope: Scope) -> None:
        if len(request.windows) != 1:
            self.error(
                "variable-needed", "a table of values goes through one variable", request.start, request.end,
                advise("for x from 0 to 1 step 0.1, or for t in ts"),
            )  # fmt: skip
            return
        window = request.windows[0]
        if window.low is not None and window.step is None and window.count is None:
            self.error(
                "step-needed", "say the step or the count of the table", window.start, window.end,
                replace(window.end, window.end, " count 11", "count 11"), replace(window.end, window.end, " step 1", "step 1"),
            )  # fmt: skip
            return
        known = self.iterate(window, scope)
        subject = request.subjects[0]
        for item in subject.items if isinstance(subject, tree.ListOf) else (subject,):
            if not (isinstance(item, tree.Name | tree.Prime) and self._bare_function(item, scope)):
                self._number(item, Scope({window.name: known}, scope))

    def _subject(self, request: tree.Request, item: tree.Expression, scope: Scope) -> None:
        """The formula of a curve or of roots: with `for` the variable is said, else it is the one name without a value."""
        if isinstance(item, tree.PointOf) and request.noun in ("curve", "length"):
            self._parametric(request, item, scope)
            return
        if isinstance(item, tree.Comparison):
            if request.noun != "roots" or item.signs != ("=",):
                self._not_yet("an equation as a subject", item.start, item.end)
                return
            item = tree.Binary(item.start, item.end, "-", *item.operands)
        if isinstance(item, tree.Name | tree.Prime) and self._bare_function(item, scope):
            return
        if request.windows:
            window = request.windows[0]
            local = Scope({window.name: NUMBER}, scope)
            known = self._number(item, local) != "broken"
            if known and window.low is None and not self._domain_of(item, window.name, scope) and NOUNS[request.noun].span_question:
                self._window_needed(request, window.name)
            return
        free = self.free_names(item, scope)
        if len(free) == 1:
            # What is broken may have a domain; that it has a mistake is told already.
            known = self._number(item, Scope({free[0]: NUMBER}, scope)) != "broken"
            if known and NOUNS[request.noun].span_question and not self._domain_of(item, free[0], scope):
                self._window_needed(request, free[0])
        elif not free:
            self._variable_has_value(item, scope)
        else:
            self.kind_of(item, scope)

    def _parametric(self, request: tree.Request, item: tree.PointOf, scope: Scope) -> None:
        if len(item.items) not in (2, 3) or (len(item.items) == 3 and request.noun != "curve"):
            curve = request.noun == "curve"
            text = "a curve has places of two coordinates, in space of three" if curve else "a length is that of a curve in the plane"
            self.error("point-needed", text, item.start, item.end, advise("(x(t), y(t)) or (x(t), y(t), z(t))"))
            return
        free = list(dict.fromkeys(n for i in item.items for n in self.free_names(i, scope)))
        name = request.windows[0].name if request.windows else free[0] if len(free) == 1 else None
        if name is None or not request.windows or request.windows[0].low is None:
            text = f" for {name or 't'} from 0 to 1"
            at = request.options[0].start - 2 if request.options else request.end
            fix = advise(text.strip()) if request.windows else replace(at, at, text, text.strip())
            self.error("window-needed", "say through which span the curve is followed", request.start, request.end, fix)
            return
        for part in item.items:
            self._number(part, Scope({name: NUMBER}, scope))
        for option in request.options:
            if option.name in ("fill", "hatch"):
                self.error("option-not-here", f"a curve of points has no option '{option.name}'", option.start, option.end)

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
            NOUNS[request.noun].span_question,
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
            # What data gave is sought within the data, whatever is worked out from it.
            return any(isinstance(n, tree.Call) and self._has_span(n, variable, scope, True) for n in tree.walk(item))
        return self._has_span(item, variable, scope, False)

    def _has_span(self, item: tree.Call, variable: str, scope: Scope, from_data: bool) -> bool:
        function = item.function.function if isinstance(item.function, tree.Prime) else item.function
        if not isinstance(function, tree.Name):
            return False
        known = scope.find(function.name)
        plain = all(isinstance(a, tree.Name) and a.name == variable for a in item.arguments)
        return known is not None and known.has_domain and plain and (known.from_data or not from_data)

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

    def _means_one_each(self, subject: tree.Expression, kind: Kind, scope: Scope) -> bool:
        """Whether the subject of data is several lists: written as such, the columns of a table, or a name that stands for lists."""
        if isinstance(subject, tree.ListOf):
            return kind == "items" and {self.kind_of(item, scope) for item in subject.items} <= {"list", "any", "broken"}
        return kind in ("items", "table")

    def _of_points(self, request: tree.Request, scope: Scope) -> bool:
        """Whether the area of a request is none, but a list of points."""
        subject = request.subjects[0]
        one = NOUNS[request.noun].shape == "one or pair" and len(request.subjects) == 1
        if not one or request.windows or self.free_names(subject, scope):
            return False
        kind = self.kind_of(subject, scope)
        if kind not in ("items", "any", "broken"):
            text = f"an area or a list of points is needed here; this is {WORDS[kind]}"
            self.error("points", text, subject.start, subject.end, advise("for x from LOW to HIGH, or a list [(1, 2), (3, 4)]"))
        return True

    def _list_of_numbers(self, request: tree.Request, scope: Scope) -> None:
        for window in request.windows:
            self.error("window-not-here", f"a {request.noun} is that of a list; it has no variable", window.start, window.end)
        self.need_list(request.subjects[0], scope)

    def _points(self, request: tree.Request, scope: Scope) -> None:
        for window in request.windows:
            self._not_yet("points with 'for'", window.start, window.end)
        subject = request.subjects[0]
        if request.against is None:
            unknown = isinstance(subject, tree.Name) and scope.find(subject.name) is None
            kind = "list" if unknown else self.kind_of(subject, scope)
            if kind in ("list", "number", "finding"):
                self.error("against", "the data to go against is missing", subject.end, subject.end, advise("against XS"))
                return
            points = [p for p in (subject.items if isinstance(subject, tree.ListOf) else ()) if isinstance(p, tree.PointOf)]
            sizes = {len(p.items) for p in points}
            if len(sizes) > 1 or sizes - {2, 3} or (3 in sizes and request.noun not in ("points", "line")):
                wrong = next((p for p in points if len(p.items) != len(points[0].items)), points[0])
                text = "all points have two coordinates, or all three"
                self.error("points", text, wrong.start, wrong.end, advise("[(1, 2, 3), (2, 3, 4)]"))
                return
            if kind not in ("items", "any", "broken"):
                self.error(
                    "points", f"a list of points is needed here; this is {WORDS[kind]}", subject.start, subject.end, advise("ys against xs")
                )
            return
        against = request.against.items if isinstance(request.against, tree.PointOf) else (request.against,)
        if len(against) > 2 or (len(against) == 2 and request.noun not in ("points", "line")):
            start, end = request.against.start, request.against.end
            self.error("points", "heights in space go against two lists", start, end, advise("against (xs, ys)"))
            return
        several = False
        for side in (subject, *against):
            kind = self.kind_of(side, scope)
            if kind == "items" and request.noun == "bars" and side is request.against:
                continue  # names of what is counted
            if side is subject and len(against) == 1 and self._means_one_each(subject, kind, scope):
                several = True  # lists, one each
                continue
            if kind not in ("list", "number", "finding", "any", "broken"):
                self.error("list-needed", f"a list of numbers is needed here; this is {WORDS[kind]}", side.start, side.end)
        sides = [*subject.items] if several and isinstance(subject, tree.ListOf) else [] if several else [subject]
        self._lengths(request, [*sides, *against], scope)
        for option in request.options:
            if option.by and isinstance(option.value, tree.Expression):
                self.need_list(option.value, scope)

    def _option(self, request: tree.Request, option: tree.Option, scope: Scope) -> None:
        noun = NOUNS[request.noun]
        if not noun.has_option(option.name):
            likely = LIKELY_MEANT.get(option.name)
            meant = likely if likely and noun.has_option(likely) else nearest(option.name, noun.option_names())
            word_end = option.start + len(option.name)
            fixes = [replace(option.start, word_end, meant)] if meant else []
            text = f"'{noun.name} of' has no option '{option.name}'"
            known = "" if meant else ", ".join(sorted(noun.option_names()))
            self.error("option-not-here", text, option.start, word_end, *fixes, advice=known)
        elif option.by and not noun.coloured_by:
            self._not_yet(f"option '{option.name} by'", option.start, option.end)
        elif option.name == "where":
            self.where(request, option, scope)
        elif option.name == "limit":
            self._limit(option, scope)
        elif option.name == "at" and noun.name == "section":
            pass  # an equation in the three coordinates, which the section's own check knows
        elif isinstance(option.value, tree.Expression) and not (option.name == "at" and noun.name == "limit" and is_infinite(option.value)):
            self.option_value(option, scope)

    def _limit(self, option: tree.Option, scope: Scope) -> None:
        """`limit a = 0 to 1`: a span, either end of which may be infinite."""
        value = option.value
        if not isinstance(value, tree.Range) or value.step is not None or value.count is not None:
            self.error("limit-span", "a limit is a span", option.start, option.end, advise(f"limit {option.parameter} = 0 to 1"))
            return
        for end in (value.low, value.high):
            if not is_infinite(end):
                self._number(end, scope)

    def option_value(self, option: tree.Option, scope: Scope) -> None:
        """The kind of an option's value."""
        value = option.value
        assert isinstance(value, tree.Expression)
        if option.by:
            return  # it may hold the variable of the request, which is known there
        kind_said = OPTIONS[option.name].kind
        if kind_said in ("text", "colour"):
            self._labels(value, scope)
        elif kind_said == "truth":
            self._truth(value, scope)
        elif kind_said == "levels":
            kind = self.kind_of(value, scope)
            if kind not in ("list", "number", "finding", "any", "broken"):
                self.error("list-needed", f"levels are a number of them, or a list; this is {WORDS[kind]}", value.start, value.end,
                           advise("levels 8, levels [1, 2, 5], levels 10 to 40 count 5"))  # fmt: skip
        elif kind_said in ("numbers", "numbers or number") or (option.name == "order" and isinstance(value, tree.ListOf)):
            for item in value.items if isinstance(value, tree.PointOf) else (value,):
                self.need_list(item, scope, *(() if kind_said == "numbers" else ("number",)))
        else:
            self._number(value, scope)

    def _labels(self, value: tree.Expression, scope: Scope) -> None:
        for item in value.items if isinstance(value, tree.ListOf) else (value,):
            if isinstance(item, tree.Name) and scope.find(item.name) is None:
                self.error(
                    "text-needed",
                    "a text in quotes is needed here",
                    item.start,
                    item.end,
                    replace(item.start, item.end, f'"{item.spelling}"'),
                )
            elif self.kind_of(item, scope) not in ("text", "any", "broken"):
                written = self.source.text[item.start : item.end]
                self.error(
                    "text-needed", "a text in quotes is needed here", item.start, item.end, replace(item.start, item.end, f'"{written}"')
                )


_BLOCKS: dict[type, Callable[[Checker, Any, Scope, bool], None]] = {
    tree.For: Checker._for, tree.While: Checker._while, tree.If: Checker._if, tree.Define: Checker._define, tree.Return: Checker._return,
    tree.Tune: Checker._tune, tree.Table: Checker._table, tree.Note: Checker._note,
}  # fmt: skip
_OWN_CHECKS: dict[str, Callable[[Checker, tree.Request, Scope], None]] = {
    "derivative": Checker._derivative,
    "values": Checker._values,
    "solution": Checker.solution,
    "limit": Checker.limit,
    "series": Checker.series,
    "sum": Checker.sums,
    "product": Checker.sums,
    "simplification": Checker.simplification,
}


def _difference(request: tree.Request) -> tree.Expression:
    """Two curves as one subject: where they meet, their difference is zero."""
    first, second = request.subjects
    return tree.Binary(first.start, second.end, "-", first, second)


def _returns(body: tuple[tree.Statement, ...]) -> bool:
    """Whether every way through a block ends with a `return`."""
    last = body[-1] if body else None
    if isinstance(last, tree.Return):
        return True
    if isinstance(last, tree.If):
        return last.branches[-1].condition is None and all(_returns(b.body) for b in last.branches)
    return isinstance(last, tree.While) and isinstance(last.condition, tree.Truth)


def _greek_product(spelling: str) -> bool:
    return spelling[:1] == "π" and len(spelling) > 1


_DEFINES = re.compile(r"\s*(?:(?:define|table|tune)\s+([^\W\d]\w*)|([^\W\d]\w*)\s*(?:\([^()\n]*\))?\s*=(?!=))")


def broken_names(reading: Reading) -> dict[str, Known]:
    """Names that lines with a reading error would have defined."""
    defined = {n for s in reading.script.statements for n in tree.defined_names(s)}
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
