"""Curves of functions, of points and of equations; bands; tangents; what is drawn of a fit."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np

from ....formula import catalogue as c
from ....formula.calculus import NoDerivative, derivative
from ....formula.domain import clip, stated_domain
from ....formula.nodes import Apply, Formula, Number, Variable, substitute
from ....formula.quantities import bare
from ....formula.tape import Tape
from ....formula.typeset import name_tex
from ....formula.units import Unit
from ....language import tree
from ....numerics.fitting.bands import band
from ....numerics.fitting.fit import Fit
from ....record.notation import format_short
from ...evaluate.evaluator import Evaluator
from ...evaluate.refusals import refusal
from ...search_window import variable_of
from ...slopes import value_of
from ...values import FunctionValue
from ..drawables.base import Drawable
from ..drawables.curve import Curve
from ..drawables.equation import Equation
from ..drawables.path import Path
from ..drawables.points import Points
from ..drawables.space import SpacePath
from ..surface_definition import Span
from ..surface_requests import zero_factors
from .registry import DrawContext, draws

_FAR = Fraction(10) ** 300


@draws("curve")
def _curves(context: DrawContext, request: tree.Request) -> list[Drawable]:
    """A list as a subject means one each."""
    subject = request.subjects[0]
    items = subject.items if isinstance(subject, tree.ListOf) else (subject,)
    return [_item(context, request, item, place, len(items)) for place, item in enumerate(items)]


def _item(context: DrawContext, request: tree.Request, item: tree.Expression, place: int, count: int) -> Drawable:
    inner = item
    while isinstance(inner, tree.Group):
        inner = inner.inner
    if isinstance(inner, tree.Comparison):
        return _equation(context, request, inner, place, count)
    if isinstance(inner, tree.PointOf):
        return _path(context, request, inner, place, count)
    return _curve(context, request, item, place, count)


def _curve(context: DrawContext, request: tree.Request, item: tree.Expression, place: int, count: int) -> Curve:
    window = request.windows[0] if request.windows else None
    variable = window.name if window else variable_of(item, context.scope)
    whole = context.scope.within(variable).subject(item)
    formula, low, high, narrowed = _windowed(context, request, whole, variable)
    curve = Curve(
        request,
        context.style.of_request(request, place, count),
        subject=item,
        formula=formula,
        variable=variable,
        low=low,
        high=high,
        narrowed=narrowed,
        units=_units(context.scope, variable),
    )
    if low is not None and high is not None:
        curve.beyond = clip(whole, variable, Number(Fraction(low)), Number(Fraction(high))).beyond
    curve.tint = _tint(context, request, variable)
    return curve


def _units(scope: Evaluator, variable: str) -> tuple[Unit | None, Unit | None]:
    """Of the variable and of the height, as they were found when the formula was read."""
    return scope.variable_units.get(variable), scope.heights[-1] if scope.heights else None


def _windowed(
    context: DrawContext, request: tree.Request, formula: Formula, variable: str
) -> tuple[Formula, float | None, float | None, bool]:
    """The formula with the window that the request or a definition states; None where there is none."""
    window = request.windows[0] if request.windows else None
    if window is not None and window.low is not None and window.high is not None:
        low, high = context.scope.span(window.low, window.high, "the window")
        clipped = clip(formula, variable, low.formula, high.formula)
        if clipped.empty:
            raise refusal("outside-domain", "the window lies outside the domain that the definition states", window)
        return clipped.formula, value_of(clipped.low), value_of(clipped.high), clipped.narrowed
    stated = stated_domain(formula, variable)
    if stated is not None:
        return clip(formula, variable, *stated).formula, value_of(stated[0]), value_of(stated[1]), False
    return clip(formula, variable, Number(-_FAR), Number(_FAR)).formula, None, None, False


@draws("band")
def _band(context: DrawContext, request: tree.Request) -> list[Drawable]:
    lower, upper = request.subjects
    window = request.windows[0] if request.windows else None
    variable = window.name if window else variable_of(tree.Binary(lower.start, upper.end, "-", lower, upper), context.scope)
    inner = context.scope.within(variable)
    (first, unit), (second, other) = (inner.measured(inner.formula(side), side) for side in (lower, upper))
    if unit is not None and other is not None and not unit.same(other):
        second = inner.resized(second, other, unit, upper)
    formula, low, high, _ = _windowed(context, request, first, variable)
    style = context.style.of_request(request, 0, 1)
    units = context.scope.variable_units.get(variable), unit or other
    return [Curve(request, style, subject=lower, formula=formula, variable=variable, low=low, high=high, upper=second, units=units)]


def _fit_of(context: DrawContext, request: tree.Request) -> tuple[FunctionValue, Fit]:
    item = request.subjects[0]
    assert isinstance(item, tree.Name)
    value = context.scope.names.find(item.name)
    if not isinstance(value, FunctionValue) or value.source is None or not isinstance(value.source.result, Fit):
        raise refusal("fit-needed", f"'{item.spelling}' is no fit", item)
    return value, value.source.result


@draws("residuals")
def _residuals(context: DrawContext, request: tree.Request) -> list[Drawable]:
    """What a fit leaves over, against its first variable."""
    value, fit = _fit_of(context, request)
    source = value.source
    assert source is not None
    x = np.asarray(fit.problem.columns[0].data, dtype=float)
    units = [f"${u.tex()}$" if u is not None and not u.plain else None for u in (source.units[0], source.unit)]
    across = f"${name_tex(value.parameters[0])}$ / {units[0]}" if units[0] else None
    texts = across, f"residual / {units[1]}" if units[1] else "residual"
    y = np.asarray(fit.residuals, dtype=float)
    return [Points(request, context.style.of_request(request, 0, 1), x=x, y=y, texts=texts, units=(source.units[0], source.unit))]


@draws("confidence", "prediction")
def _fit_band(context: DrawContext, request: tree.Request) -> list[Drawable]:
    """Where the curve of a fit may lie, or one more measurement."""
    value, fit = _fit_of(context, request)
    variable = request.windows[0].name if request.windows else value.parameters[0]
    assert value.source is not None
    low, high = band(fit, request.noun == "prediction")
    renamed = {value.parameters[0]: Variable(variable)}
    edges = value.source.spans[value.parameters[0]]
    lower = Apply(c.DATA, (substitute(low, renamed), Variable(variable), *edges))
    formula, first, last, _ = _windowed(context, request, lower, variable)
    style = {"opacity": 0.5 if request.noun == "prediction" else 1.0, **context.style.of_request(request, 0, 1)}
    if style["opacity"] == 1.0:
        del style["opacity"]
    upper = substitute(high, renamed)
    units = value.source.units[0], value.source.unit
    return [
        Curve(
            request, style, subject=request.subjects[0], formula=formula, variable=variable, low=first, high=last, upper=upper, units=units
        )
    ]


@draws("tangent")
def _tangent(context: DrawContext, request: tree.Request) -> list[Drawable]:
    """y = f(a) + f'(a)(x − a)."""
    subject, at = request.subjects[0], request.option("at")
    window = request.windows[0] if request.windows else None
    variable = window.name if window else variable_of(subject, context.scope)
    formula = context.scope.within(variable).subject(subject)
    assert at is not None
    assert isinstance(at.value, tree.Expression)
    units = _units(context.scope, variable)
    place = context.scope.in_unit(context.scope.number(at.value), units[0], at.value)
    place = replace(place, formula=bare(place.formula))
    try:
        slope = substitute(derivative(formula, variable), {variable: place.formula})
    except NoDerivative as reason:
        raise refusal("no-derivative", f"there is no tangent by rule: {reason}", request) from None
    height = substitute(formula, {variable: place.formula})
    values = [float(np.asarray(v)) for v in Tape([height, slope], []).numeric()]
    if not np.isfinite(values).all():
        raise refusal("no-tangent", f"there is no tangent at {variable} = {format_short(place.value)}", at)
    line = c.add(height, c.times(slope, c.subtract(Variable(variable), place.formula)))
    low = high = None
    if window is not None and window.low is not None and window.high is not None:
        low, high = (end.value for end in context.scope.span(window.low, window.high, "the window"))
    style = {"width": 0.9, **context.style.of_request(request, 0, 1)}
    return [Curve(request, style, subject=subject, formula=line, variable=variable, low=low, high=high, units=units)]


def _path(context: DrawContext, request: tree.Request, item: tree.PointOf, place: int, count: int) -> Path | SpacePath:
    window = request.windows[0]
    assert window.low is not None
    assert window.high is not None
    inner = context.scope.within(window.name)
    low, high = context.scope.span(window.low, window.high, "the window")
    if len(item.items) == 3:
        places = tuple(inner.formula(i) for i in item.items)
        style = context.style.of_request(request, place, count)
        tint = _tint(context, request, window.name)
        return SpacePath(request, style, None, places, window.name, (low.value, high.value), tint)
    (across, unit), (up, other) = (inner.measured(inner.formula(i), i) for i in item.items)
    formulas, units = (across, up), (unit, other)
    style = context.style.of_request(request, place, count)
    path = Path(request, style, formulas=formulas, variable=window.name, low=low.value, high=high.value, units=units)
    path.tint = _tint(context, request, window.name)
    return path


def _equation(context: DrawContext, request: tree.Request, equation: tree.Comparison, place: int, count: int) -> Equation:
    first, second = request.windows
    inner = context.scope.within(first.name, second.name)
    spans: list[Span] = []
    for window in (first, second):
        assert window.low is not None
        assert window.high is not None
        low, high = context.scope.span(window.low, window.high, "the window")
        spans.append((low.value, high.value))
    left, right = (inner.formula(o) for o in equation.operands)
    parts = zero_factors(c.subtract(left, right), (first.name, second.name))
    style = context.style.of_request(request, place, count)
    (x, y), names = spans, (first.name, second.name)
    return Equation(request, style, factors=parts, variables=names, x=x, y=y)


def _tint(context: DrawContext, request: tree.Request, variable: str) -> Formula | None:
    option = request.option("colour")
    if option is None or not option.by:
        return None
    assert isinstance(option.value, tree.Expression)
    return context.scope.within(variable).formula(option.value)
