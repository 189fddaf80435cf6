"""Requests: each is checked by the shape or by the name of its noun."""

from __future__ import annotations

from collections.abc import Callable

from .. import tree
from ..messages import advise, replace
from ..shapes import gives_formula, unwrapped
from ..vocabulary import NOUNS
from .context import CheckContext
from .data import list_of_numbers, of_points, points
from .fits import of_result, with_samples, without_function
from .kinds import NUMBER, Scope
from .options import option_of
from .questions import antiderivative, derivative, limit, of_a_list, series, several_variables, simplification, solution, sums, values
from .spaces import in_space
from .subjects import free_names, subject_of, window_ends


def _implicit(context: CheckContext, request: tree.Request, items: tuple[tree.Expression, ...], scope: Scope) -> None:
    """`curve of x^2 + y^2 = 4 for x …, y …`: the first variable goes along the horizontal axis."""
    if len(request.windows) != 2 or any(w.low is None for w in request.windows):
        context.error(
            "implicit-window", "a curve given by an equation needs the spans of its two variables", request.start, request.end,
            advise("for x from -3 to 3, y from -3 to 3"),
        )  # fmt: skip
        return
    for window in request.windows:
        window_ends(context, window, scope)
        if window.step is not None or window.count is not None:
            context.not_yet("'curve of' over a list", window.start, window.end)
    local = Scope(dict.fromkeys([w.name for w in request.windows], NUMBER), scope)
    for item in items:
        equation = unwrapped(item)
        if isinstance(equation, tree.Comparison) and len(equation.signs) == 1 and equation.signs != ("=",):
            left, right = equation.operands
            text = "a curve is where both sides are equal"
            context.error("equation-needed", text, item.start, item.end, replace(left.end, right.start, " = ", "="))
            continue
        if not (isinstance(equation, tree.Comparison) and equation.signs == ("=",)):
            context.error("equation-needed", "an equation is needed here", item.start, item.end,
                       replace(item.end, item.end, " = 0", "... = 0"))  # fmt: skip
            continue
        for operand in equation.operands:
            context.number(operand, local)
    for option in request.options:
        if option.name in ("marker", "every", "fill", "size", "hatch") or option.by:
            context.error("option-not-here", f"a curve given by an equation has no option '{option.name}'", option.start, option.end)


def _difference(request: tree.Request) -> tree.Expression:
    """Two curves as one subject: where they meet, their difference is zero."""
    first, second = request.subjects
    return tree.Binary(first.start, second.end, "-", first, second)


def request(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    """Check a request: its options, then what the shape or the name of its noun asks for."""
    noun = NOUNS[request.noun]
    if noun.gives == "function":
        without_function(context, request, scope)
        return
    for option in request.options:
        option_of(context, request, option, scope)
    context.said_twice(request.options)
    own = _BY_SHAPE.get(noun.shape) or _BY_FAMILY.get(noun.family) or _BY_NAME.get(noun.name)
    if own is not None:
        own(context, request, scope)
        return
    subject = request.subjects[0]
    items = subject.items if isinstance(subject, tree.ListOf) else (subject,)
    if noun.name == "curve" and any(isinstance(unwrapped(i), tree.Comparison) for i in items):
        _implicit(context, request, items, scope)
        return
    if noun.name == "tangent" and request.option("at") is None:
        context.error(
            "tangent-at", "say at which place the curve is touched", request.start, request.end,
            replace(request.end, request.end, ", at 1", "at 1"),
        )  # fmt: skip
        return
    if of_a_list(context, request, scope) or of_points(context, request, scope):
        return
    if noun.name == "integral" and gives_formula(request):
        antiderivative(context, request, scope)
        return
    if noun.name == "crossings" and request.against is not None:
        with_samples(context, request, scope)
        return
    if len(request.windows) > 1:
        several_variables(context, request, scope)
        return
    if noun.name == "area" and len(request.subjects) == 1:
        _second_side(context, request)
        return
    for window in request.windows:
        window_ends(context, window, scope, noun.endless)
        if window.values is not None or window.step is not None or window.count is not None:
            context.not_yet(f"'{noun.name} of' over a list", window.start, window.end)
    for item in items if len(request.subjects) == 1 else (_difference(request),):
        subject_of(context, request, item, scope)
    for option in request.options:
        if option.by and isinstance(option.value, tree.Expression) and noun.draws:
            names = [w.name for w in request.windows] or free_names(context, items[0], scope)[:1]
            context.number(option.value, Scope(dict.fromkeys(names, NUMBER), scope))


def _second_side(context: CheckContext, request: tree.Request) -> None:
    """`area of f(x)`: what lies between a curve and the axis is an area, too."""
    item = request.subjects[0]
    written = context.source.text[item.start : item.end]
    fix = replace(item.end, item.end, " and 0", f"area of {written} and 0")
    text = "an area lies between two curves, or is that of a surface over two variables"
    context.error("second-curve", text, request.start, request.end, fix)


_Check = Callable[[CheckContext, tree.Request, Scope], None]
_BY_SHAPE: dict[str, _Check] = {"against": points, "data": points, "list": list_of_numbers, "result": of_result}
_BY_FAMILY: dict[str, _Check] = {"surfaces": in_space}
_BY_NAME: dict[str, _Check] = {
    "derivative": derivative, "values": values, "solution": solution, "limit": limit, "series": series, "sum": sums, "product": sums,
    "simplification": simplification,
}  # fmt: skip
