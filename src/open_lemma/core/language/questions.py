"""What can be known of a request that searches or computes before it is carried out: its unknowns, spans and options."""

from __future__ import annotations

from . import tree
from .figures import FigureChecker
from .kinds import NUMBER, Known, Scope
from .messages import advise, replace
from .vocabulary import NOUNS


class QuestionChecker(FigureChecker):
    def _subject(self, request: tree.Request, item: tree.Expression, scope: Scope) -> None:
        raise NotImplementedError

    def _bare_function(self, item: tree.Name | tree.Prime, scope: Scope) -> bool:
        raise NotImplementedError

    def free_names(self, item: tree.Expression, scope: Scope) -> list[str]:
        raise NotImplementedError

    def derivative_variables(self, request: tree.Request, scope: Scope) -> list[str]:
        raise NotImplementedError

    def of_a_list(self, request: tree.Request, scope: Scope) -> bool:
        """`mean of [1, 2]`: a list is asked with brackets; told, if it is one."""
        subject = request.subjects[0]
        if not NOUNS[request.noun].of_lists or request.windows or self.free_names(subject, scope):
            return False
        called = f"{request.noun}({self.source.text[subject.start : subject.end]})"
        self.error("of-a-list", f"of a list it is written {called}", request.start, request.end,
                   replace(request.start, request.end, called))  # fmt: skip
        return True

    # ------------------------------------------------------------ windows

    def _window_ends(self, window: tree.Window, scope: Scope, endless: bool = False) -> None:
        for end in (window.low, window.high, window.step, window.count):
            if end is None:
                continue
            if is_infinite(end):
                if not endless or end in (window.step, window.count):
                    self.error(
                        "window-endless", "this needs a span with an end on both sides", end.start, end.end, advise("from -10 to 10")
                    )
            else:
                self._number(end, scope)

    def several_variables(self, request: tree.Request, scope: Scope) -> None:
        """A search over several variables: each with a span, the subject in all of them."""
        noun, windows = request.noun, request.windows
        most = NOUNS[noun].variables
        if len(windows) > most:
            if most == 1:
                self._not_yet(f"'{noun} of' with several variables", windows[1].start, windows[1].end)
            else:
                text = f"'{noun} of' goes over at most {most} variables, not {len(windows)}"
                self.error("too-many-variables", text, windows[most].start, windows[most].end)
            return
        inner = scope
        for place, window in enumerate(windows):
            if window.low is None:
                if noun == "integral":
                    text = "an integral over two variables needs the spans of both"
                else:
                    text = f"the span of '{window.name}' is missing"
                self.error(
                    "window-needed", text, window.start, window.end,
                    replace(window.end, window.end, " from -10 to 10", f"{window.name} from -10 to 10"),
                )  # fmt: skip
                return
            self._window_ends(window, inner)
            # Of an integral the inner span may depend on the outer variable.
            if noun == "integral" and place == 0:
                inner = Scope({window.name: NUMBER}, inner)
        names = dict.fromkeys([w.name for w in windows], NUMBER)
        if len(names) < len(windows):
            self.error("said-twice", "one variable is named twice", windows[1].start, windows[1].end)
            return
        for item in request.subjects:
            if not (isinstance(item, tree.Name | tree.Prime) and self._bare_function(item, scope)):
                self._number(item, Scope(names, scope))
        near = request.option("near")
        if near is not None:
            self.error("option-not-here", "'near' belongs to a search over one variable", near.start, near.end)

    def where(self, request: tree.Request, option: tree.Option, scope: Scope) -> None:
        """A condition of a search: one comparison, or several joined by 'and'."""
        value = option.value
        assert isinstance(value, tree.Expression)
        names = [w.name for w in request.windows] or self.free_names(request.subjects[0], scope)
        local = Scope(dict.fromkeys(names, NUMBER), scope)
        for part in conjuncts(value):
            if not isinstance(part, tree.Comparison) or "!=" in part.signs:
                self.error(
                    "where", "a condition is a comparison, or several joined by 'and'", part.start, part.end, advise("where x + y <= 1")
                )
                continue
            for operand in part.operands:
                self._number(operand, local)

    # ------------------------------------------------------------ formulas and numbers

    def antiderivative(self, request: tree.Request, scope: Scope) -> None:
        """Check an integral without a span."""
        subject = request.subjects[0]
        if isinstance(subject, tree.Name | tree.Prime) and self._bare_function(subject, scope):
            return
        free = self.free_names(subject, scope)
        if len(request.windows) > 1:
            self.several_variables(request, scope)
            return
        if not request.windows and len(free) != 1:
            fix = replace(subject.end, subject.end, f" for {free[0]}", f"for {free[0]}") if free else advise("for x")
            self.error("variable-needed", "say by which variable is integrated", request.start, request.end, fix)
            return
        digits = request.option("digits")
        if digits is not None:
            self.error("option-not-here", "'digits' belongs to an integral over a span", digits.start, digits.end)
        self._open_formula(request, subject, scope, "integral")

    def _open_formula(self, request: tree.Request, subject: tree.Expression, scope: Scope, word: str) -> None:
        names = [w.name for w in request.windows] or self.free_names(subject, scope)
        if not self.in_formula:
            names = self.derivative_variables(request, scope)
        kind = self._number(subject, Scope(dict.fromkeys(names, NUMBER), scope))
        if kind == "any":
            self.error("no-formula", f"what is given by a block has values only; no {word} by rule", subject.start, subject.end)

    def simplification(self, request: tree.Request, scope: Scope) -> None:
        for window in request.windows:
            self.error("unknown-option", "a formula is simplified for all its names", window.start, window.end)
        self._open_formula(request, request.subjects[0], scope, "simpler form")

    def limit(self, request: tree.Request, scope: Scope) -> None:
        if not self._at_a_place(request, scope, "limit-at", "say at which place the limit is taken", ", at 0"):
            return
        self._subject(request, request.subjects[0], scope)

    def series(self, request: tree.Request, scope: Scope) -> None:
        """Check a series: its variable and its place."""
        if not self._at_a_place(request, scope, "series-at", "say about which place the series is taken", ", at 0"):
            return
        at = request.option("at")
        if at is not None and isinstance(at.value, tree.Expression) and is_infinite(at.value):
            self.error("series-at", "a series is taken about a number", at.start, at.end, advise("at 0"))
        self._open_formula(request, request.subjects[0], scope, "series")

    def _at_a_place(self, request: tree.Request, scope: Scope, code: str, text: str, fix: str) -> bool:
        subject = request.subjects[0]
        if isinstance(subject, tree.Name | tree.Prime) and self._bare_function(subject, scope):
            return False
        if len(request.windows) > 1:
            self._not_yet(f"'{request.noun} of' with several variables", request.windows[1].start, request.windows[1].end)
            return False
        free = self.free_names(subject, scope)
        if not request.windows and len(free) != 1:
            said = replace(subject.end, subject.end, f" for {free[0]}", f"for {free[0]}") if free else advise("for x")
            self.error("variable-needed", "say which one is the variable", request.start, request.end, said)
            return False
        for window in request.windows:
            self._window_ends(window, scope, endless=True)
        if request.option("at") is None:
            self.error(code, text, request.start, request.end, replace(request.end, request.end, fix, fix[2:]))
            return False
        return True

    def sums(self, request: tree.Request, scope: Scope) -> None:
        """A sum or product goes over the whole numbers of one span."""
        subject, noun = request.subjects[0], request.noun
        if not request.windows or request.windows[0].low is None:
            if self.of_a_list(request, scope):
                return
            free = self.free_names(subject, scope)
            name = request.windows[0].name if request.windows else free[0] if free else "k"
            at = request.windows[0].end if request.windows else subject.end
            text = " from 1 to 10" if request.windows else f" for {name} from 1 to 10"
            self.error("window-needed", f"say over which whole numbers the {noun} goes", request.start, request.end,
                       replace(at, at, text, text.strip()))  # fmt: skip
            return
        window = request.windows[0]
        if len(request.windows) > 1:
            self._not_yet(f"a {noun} over two variables", request.windows[1].start, request.windows[1].end)
            return
        for part in (window.step, window.count):
            if part is not None:
                self.error("sum-step", f"a {noun} goes over all whole numbers of the span", part.start, part.end)
        if window.low is not None and is_infinite(window.low):
            self.error("sum-low", f"a {noun} begins at a whole number", window.low.start, window.low.end, advise("from 1 to infinity"))
            return
        self._window_ends(window, scope, endless=True)
        self._number(subject, Scope({window.name: NUMBER}, scope))

    # ------------------------------------------------------------ solutions

    def solution(self, request: tree.Request, scope: Scope) -> None:
        """Check equations or inequalities and their unknowns."""
        unknowns = {w.name: NUMBER for w in request.windows}
        for window in request.windows:
            self._window_ends(window, scope, endless=len(request.windows) == 1)
            if window.values is not None or window.step is not None or window.count is not None:
                self._not_yet("a solution over a list", window.start, window.end)
        conditions = [s for s in request.subjects if is_condition(s)]
        if conditions:
            self._inequalities(request, conditions, unknowns, scope)
            return
        for subject in request.subjects:
            equation = unwrapped(subject)
            if not isinstance(equation, tree.Comparison):
                self.error(
                    "equation-needed", "an equation is needed here", subject.start, subject.end,
                    replace(subject.end, subject.end, " = 0", "... = 0"),
                )  # fmt: skip
                continue
            parameters = dict.fromkeys(self.free_names(equation, scope), NUMBER)
            self._operands(equation, Scope(parameters | unknowns, scope))
            missing = [u for u in unknowns if u not in tree.free_names(equation)]
            if len(missing) == len(unknowns) and len(request.subjects) == 1:
                self.error("unknown-missing", f"the equation does not hold '{missing[0]}'", subject.start, subject.end)

    def _operands(self, equation: tree.Comparison, inner: Scope) -> None:
        for operand in equation.operands:
            if self._number(operand, inner) == "any":
                self.error(
                    "no-solution", "what is given by a block has values only; it cannot be solved exactly", operand.start, operand.end
                )

    def _inequalities(self, request: tree.Request, conditions: list[tree.Expression], unknowns: dict[str, Known], scope: Scope) -> None:
        if len(unknowns) > 1:
            second = request.windows[1]
            self._not_yet("the solution of inequalities for several unknowns", second.start, second.end)
            return
        for subject in request.subjects:
            for part in parts_of(subject):
                if not isinstance(part, tree.Comparison):
                    self.error("condition-needed", "a comparison is needed here", part.start, part.end, advise("x^2 < 4"))
                    continue
                self._operands(part, Scope(dict(unknowns), scope))
        names = {n for s in conditions for n in tree.free_names(s)}
        if not names & set(unknowns):
            name = next(iter(unknowns))
            self.error("unknown-missing", f"the condition does not hold '{name}'", conditions[0].start, conditions[0].end)


def unwrapped(item: tree.Expression) -> tree.Expression:
    while isinstance(item, tree.Group):
        item = item.inner
    return item


def is_infinite(end: tree.Expression) -> bool:
    """`infinity` or `-infinity`, which stand at the end of a span only."""
    end = unwrapped(end)
    if isinstance(end, tree.Negative):
        return is_infinite(end.operand)
    return isinstance(end, tree.Name) and end.name == "infinity"


def is_condition(item: tree.Expression) -> bool:
    """An inequality, or conditions joined; an equation alone is none."""
    item = unwrapped(item)
    return isinstance(item, tree.Logical) or (isinstance(item, tree.Comparison) and set(item.signs) != {"="})


def parts_of(item: tree.Expression) -> list[tree.Expression]:
    """The comparisons of a condition."""
    item = unwrapped(item)
    if isinstance(item, tree.Logical):
        return [p for operand in item.operands for p in parts_of(operand)]
    return [item]


def conjuncts(item: tree.Expression) -> list[tree.Expression]:
    """The parts of a condition that are joined by 'and'."""
    item = unwrapped(item)
    if isinstance(item, tree.Logical) and item.word == "and":
        return [p for operand in item.operands for p in conjuncts(operand)]
    return [item]
