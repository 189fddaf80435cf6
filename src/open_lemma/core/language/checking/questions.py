"""Requests that search or compute: their unknowns, spans and options."""

from __future__ import annotations

from .. import tree
from ..messages import advise, replace
from ..shapes import is_condition, is_infinite, parts_of, unwrapped
from ..vocabulary import NOUNS
from .context import CheckContext
from .kinds import NUMBER, Known, Scope
from .lists import iterate
from .subjects import bare_function, derivative_variables, free_names, subject_of, window_ends


def derivative(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    """A derivative: its variable, its order and its place."""
    subject = request.subjects[0]
    if len(request.windows) != 1:
        free = free_names(context, subject, scope)
        fix = advise(f"for {free[0]}" if free else "for x")
        if free and not request.windows:
            fix = replace(subject.end, subject.end, f" for {free[0]}", f"for {free[0]}")
        context.error("variable-needed", "say by which one variable the derivative is taken", request.start, request.end, fix)
        return
    window = request.windows[0]
    if window.low is not None or window.values is not None:
        context.error(
            "derivative-window", "a derivative is a formula, it has no window", window.name_end, window.end,
            replace(window.name_end, window.end, "", f"for {window.name}"),
        )  # fmt: skip
        return
    if isinstance(subject, tree.Name | tree.Prime) and bare_function(context, subject, scope):
        return
    if context.in_formula and request.option("at") is None and scope.find(window.name) is None:
        context.error(
            "derivative-at", "in a formula the derivative is asked for at a place", request.start, request.end,
            advise("at 2"),
        )  # fmt: skip
        return
    names = [window.name] if context.in_formula else derivative_variables(context, request, scope)
    open_names = dict.fromkeys(names, NUMBER)
    kind = context.number(subject, Scope(open_names, scope))
    if kind == "any":
        context.error("no-derivative", "what is given by a block has values only, and no derivative by rule", subject.start, subject.end)


def values(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    """A table of values: its variable goes through a list."""
    if len(request.windows) != 1:
        context.error(
            "variable-needed", "a table of values goes through one variable", request.start, request.end,
            advise("for x from 0 to 1 step 0.1, or for t in ts"),
        )  # fmt: skip
        return
    window = request.windows[0]
    if window.low is not None and window.step is None and window.count is None:
        context.error(
            "step-needed", "say the step or the count of the table", window.start, window.end,
            replace(window.end, window.end, " count 11", "count 11"), replace(window.end, window.end, " step 1", "step 1"),
        )  # fmt: skip
        return
    known = iterate(context, window, scope)
    subject = request.subjects[0]
    for item in subject.items if isinstance(subject, tree.ListOf) else (subject,):
        if not (isinstance(item, tree.Name | tree.Prime) and bare_function(context, item, scope)):
            context.number(item, Scope({window.name: known}, scope))


def of_a_list(context: CheckContext, request: tree.Request, scope: Scope) -> bool:
    """`mean of [1, 2]`: a list is asked with brackets; told, if it is one."""
    subject = request.subjects[0]
    if not NOUNS[request.noun].of_lists or request.windows or free_names(context, subject, scope):
        return False
    called = f"{request.noun}({context.source.text[subject.start : subject.end]})"
    context.error("of-a-list", f"of a list it is written {called}", request.start, request.end,
               replace(request.start, request.end, called))  # fmt: skip
    return True


def several_variables(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    """A search over several variables: each with a span, the subject in all of them."""
    noun, windows = request.noun, request.windows
    most = NOUNS[noun].variables
    if len(windows) > most:
        if most == 1:
            context.not_yet(f"'{noun} of' with several variables", windows[1].start, windows[1].end)
        else:
            text = f"'{noun} of' goes over at most {most} variables, not {len(windows)}"
            context.error("too-many-variables", text, windows[most].start, windows[most].end)
        return
    inner = scope
    for place, window in enumerate(windows):
        if window.low is None:
            if NOUNS[noun].nested:
                text = f"an {noun} over two variables needs the spans of both"
            else:
                text = f"the span of '{window.name}' is missing"
            context.error(
                "window-needed", text, window.start, window.end,
                replace(window.end, window.end, " from -10 to 10", f"{window.name} from -10 to 10"),
            )  # fmt: skip
            return
        window_ends(context, window, inner)
        # Of an integral the inner span may depend on the outer variable.
        if NOUNS[noun].nested and place == 0:
            inner = Scope({window.name: NUMBER}, inner)
    names = dict.fromkeys([w.name for w in windows], NUMBER)
    if len(names) < len(windows):
        context.error("said-twice", "one variable is named twice", windows[1].start, windows[1].end)
        return
    if noun == "area" and len(request.subjects) > 1:
        text = "an area between two curves goes over one variable; that of a surface is the area of one formula"
        context.error("too-many-variables", text, windows[1].start, windows[1].end)
        return
    for item in request.subjects:
        if isinstance(item, tree.PointOf) and noun == "area":
            if len(item.items) != 3:
                context.error("point-needed", "a surface has places of three coordinates", item.start, item.end, advise("(x, y, z)"))
            for part in item.items:
                context.number(part, Scope(names, scope))
        elif not (isinstance(item, tree.Name | tree.Prime) and bare_function(context, item, scope)):
            context.number(item, Scope(names, scope))
    near = request.option("near")
    if near is not None:
        context.error("option-not-here", "'near' belongs to a search over one variable", near.start, near.end)


def antiderivative(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    """Check an integral without a span."""
    subject = request.subjects[0]
    if isinstance(subject, tree.Name | tree.Prime) and bare_function(context, subject, scope):
        return
    free = free_names(context, subject, scope)
    if len(request.windows) > 1:
        several_variables(context, request, scope)
        return
    if not request.windows and len(free) != 1:
        fix = replace(subject.end, subject.end, f" for {free[0]}", f"for {free[0]}") if free else advise("for x")
        context.error("variable-needed", "say by which variable is integrated", request.start, request.end, fix)
        return
    digits = request.option("digits")
    if digits is not None:
        context.error("option-not-here", "'digits' belongs to an integral over a span", digits.start, digits.end)
    _open_formula(context, request, subject, scope, "integral")


def _open_formula(context: CheckContext, request: tree.Request, subject: tree.Expression, scope: Scope, word: str) -> None:
    names = [w.name for w in request.windows] or free_names(context, subject, scope)
    if not context.in_formula:
        names = derivative_variables(context, request, scope)
    kind = context.number(subject, Scope(dict.fromkeys(names, NUMBER), scope))
    if kind == "any":
        context.error("no-formula", f"what is given by a block has values only; no {word} by rule", subject.start, subject.end)


def simplification(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    for window in request.windows:
        context.error("unknown-option", "a formula is simplified for all its names", window.start, window.end)
    _open_formula(context, request, request.subjects[0], scope, "simpler form")


def limit(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    if not _at_a_place(context, request, scope, "limit-at", "say at which place the limit is taken", ", at 0"):
        return
    subject_of(context, request, request.subjects[0], scope)


def series(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    """Check a series: its variable and its place."""
    if not _at_a_place(context, request, scope, "series-at", "say about which place the series is taken", ", at 0"):
        return
    at = request.option("at")
    if at is not None and isinstance(at.value, tree.Expression) and is_infinite(at.value):
        context.error("series-at", "a series is taken about a number", at.start, at.end, advise("at 0"))
    _open_formula(context, request, request.subjects[0], scope, "series")


def _at_a_place(context: CheckContext, request: tree.Request, scope: Scope, code: str, text: str, fix: str) -> bool:
    subject = request.subjects[0]
    if isinstance(subject, tree.Name | tree.Prime) and bare_function(context, subject, scope):
        return False
    if len(request.windows) > 1:
        context.not_yet(f"'{request.noun} of' with several variables", request.windows[1].start, request.windows[1].end)
        return False
    free = free_names(context, subject, scope)
    if not request.windows and len(free) != 1:
        said = replace(subject.end, subject.end, f" for {free[0]}", f"for {free[0]}") if free else advise("for x")
        context.error("variable-needed", "say which one is the variable", request.start, request.end, said)
        return False
    for window in request.windows:
        window_ends(context, window, scope, endless=True)
    if request.option("at") is None:
        context.error(code, text, request.start, request.end, replace(request.end, request.end, fix, fix[2:]))
        return False
    return True


def sums(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    """A sum or product goes over the whole numbers of one span."""
    subject, noun = request.subjects[0], request.noun
    if not request.windows or request.windows[0].low is None:
        if of_a_list(context, request, scope):
            return
        free = free_names(context, subject, scope)
        name = request.windows[0].name if request.windows else free[0] if free else "k"
        at = request.windows[0].end if request.windows else subject.end
        text = " from 1 to 10" if request.windows else f" for {name} from 1 to 10"
        context.error("window-needed", f"say over which whole numbers the {noun} goes", request.start, request.end,
                   replace(at, at, text, text.strip()))  # fmt: skip
        return
    window = request.windows[0]
    if len(request.windows) > 1:
        context.not_yet(f"a {noun} over two variables", request.windows[1].start, request.windows[1].end)
        return
    for part in (window.step, window.count):
        if part is not None:
            context.error("sum-step", f"a {noun} goes over all whole numbers of the span", part.start, part.end)
    if window.low is not None and is_infinite(window.low):
        context.error("sum-low", f"a {noun} begins at a whole number", window.low.start, window.low.end, advise("from 1 to infinity"))
        return
    window_ends(context, window, scope, endless=True)
    context.number(subject, Scope({window.name: NUMBER}, scope))


def solution(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    """Check equations or inequalities and their unknowns."""
    unknowns = {w.name: NUMBER for w in request.windows}
    for window in request.windows:
        window_ends(context, window, scope, endless=len(request.windows) == 1)
        if window.values is not None or window.step is not None or window.count is not None:
            context.not_yet("a solution over a list", window.start, window.end)
    conditions = [s for s in request.subjects if is_condition(s)]
    if conditions:
        _inequalities(context, request, conditions, unknowns, scope)
        return
    for subject in request.subjects:
        equation = unwrapped(subject)
        if not isinstance(equation, tree.Comparison):
            context.error(
                "equation-needed", "an equation is needed here", subject.start, subject.end,
                replace(subject.end, subject.end, " = 0", "... = 0"),
            )  # fmt: skip
            continue
        parameters = dict.fromkeys(free_names(context, equation, scope), NUMBER)
        _operands(context, equation, Scope(parameters | unknowns, scope))
        missing = [u for u in unknowns if u not in tree.free_names(equation)]
        if len(missing) == len(unknowns) and len(request.subjects) == 1:
            context.error("unknown-missing", f"the equation does not hold '{missing[0]}'", subject.start, subject.end)


def _operands(context: CheckContext, equation: tree.Comparison, inner: Scope) -> None:
    for operand in equation.operands:
        if context.number(operand, inner) == "any":
            context.error(
                "no-solution", "what is given by a block has values only; it cannot be solved exactly", operand.start, operand.end
            )


def _inequalities(
    context: CheckContext, request: tree.Request, conditions: list[tree.Expression], unknowns: dict[str, Known], scope: Scope
) -> None:
    if len(unknowns) > 1:
        second = request.windows[1]
        context.not_yet("the solution of inequalities for several unknowns", second.start, second.end)
        return
    for subject in request.subjects:
        for part in parts_of(subject):
            if not isinstance(part, tree.Comparison):
                context.error("condition-needed", "a comparison is needed here", part.start, part.end, advise("x^2 < 4"))
                continue
            _operands(context, part, Scope(dict(unknowns), scope))
    names = {n for s in conditions for n in tree.free_names(s)}
    if not names & set(unknowns):
        name = next(iter(unknowns))
        context.error("unknown-missing", f"the condition does not hold '{name}'", conditions[0].start, conditions[0].end)
