"""Requests of calculus: derivatives, integrals, lengths, means, limits, series, sums and products."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any, Literal

from ..formula import catalogue as c
from ..formula.calculus import NoDerivative, derivative
from ..formula.certain import certain_value
from ..formula.domain import end_value, stated_domain
from ..formula.exact import by_algebra, to_sympy
from ..formula.forms import form_of
from ..formula.nodes import Formula, Number, Variable, variables
from ..formula.quantities import bare, converted
from ..formula.typeset import name_tex, tex
from ..formula.units import Unit
from ..language import tree
from ..language.messages import advise
from ..language.shapes import gives_formula, is_infinite
from ..numerics.evidence import weakest
from ..numerics.integrals.integrals import Integral, NoIntegral, double_integral, integral_of
from ..numerics.limits_and_sums.limits import Limit, Side, limit_of
from ..numerics.limits_and_sums.sums import NoSum, Sum, product_of, sum_of
from ..numerics.roots.refine import certain_digits
from ..numerics.roots.search import NotSearchable
from ..record.notation import format_number, format_short
from ..record.rows import LimitRow, ValueRow
from .answers import answers
from .evaluate.evaluator import Evaluator
from .evaluate.forms import form_of as formula_of_request
from .evaluate.refusals import refusal
from .findings import FindingDraft, derivative_finding, number_latex, value_finding
from .proofs import graded_formula, graded_integral, graded_limit, graded_sum, graded_value
from .search_window import Progress, SearchWindow, digits_of, digits_text, end_of, free_variables, said_end, span_of, variable_of, window_of
from .values import FindingValue, FoundPlace, FunctionValue, Value

INFINITY = float("inf")
LITTLE = 1e-3  # of a number, which an interval leaves open


# ---------------------------------------------------------------- formulas


@answers("series", "simplification", "derivative")
def form(request: tree.Request, scope: Evaluator, _: Progress) -> tuple[FindingDraft, Value]:
    """A derivative, an antiderivative, a series, a shorter form: a formula, and a function of whatever has no value in it."""
    free = free_variables(request, scope)
    local = scope.within(*free)
    found = formula_of_request(local, request)
    formula = found.formula
    if not variables(formula) and (request.option("at") is not None or request.noun == "simplification") and request.noun != "series":
        value = scope.worked_out(formula, request)
        return graded_value(value_finding(value), value, scope.text[request.start : request.end]), value
    head = _HEADS[request.noun](request, local, free)
    told = derivative_finding(formula, head)
    told.method = found.method
    told.graded(found.evidence)
    graded_formula(told, found.prove)
    if request.noun == "integral":
        told.notes.append("any constant may be added")
    if request.noun == "simplification":
        told.notes.append("equal wherever the formula as it was written has a value")
    return told, FunctionValue(request.noun, free, formula, {})


def _derivative_head(request: tree.Request, local: Evaluator, free: tuple[str, ...]) -> str:
    subject = tex(local.formula(request.subjects[0]))
    sign = "d" if len(free) == 1 else r"\partial "
    order = request.option("order")
    power = local.text[order.value.start : order.value.end] if order is not None and isinstance(order.value, tree.Expression) else ""
    raised = f"^{{{power}}}" if power not in ("", "1") else ""
    return rf"\frac{{{sign}{raised}}}{{{sign}{name_tex(request.windows[0].name)}{raised}}}\,{subject}"


def _variable(request: tree.Request, scope: Evaluator) -> str:
    return request.windows[0].name if request.windows else variable_of(request.subjects[0], scope)


def _integral_head(request: tree.Request, local: Evaluator, _: tuple[str, ...]) -> str:
    return rf"\int {tex(local.formula(request.subjects[0]))}\,\mathrm{{d}}{name_tex(request.windows[0].name)}"


def _plain_head(request: tree.Request, local: Evaluator, _: tuple[str, ...]) -> str:
    return tex(local.formula(request.subjects[0]))


_HEADS: dict[str, Any] = {
    "derivative": _derivative_head, "integral": _integral_head, "series": _plain_head, "simplification": _plain_head,
}  # fmt: skip


# ---------------------------------------------------------------- integrals


@answers("integral")
def integral(request: tree.Request, scope: Evaluator, progress: Progress) -> tuple[FindingDraft, Value]:
    """Over a span; without one the antiderivative, unless a definition states a domain."""
    if gives_formula(request):
        if not request.windows:
            name = variable_of(request.subjects[0], scope)
            said = tree.Window(request.end, request.end, name, request.end)
            request = tree.Request(request.start, request.end, request.noun, request.subjects, None, None, (said,), request.options)
        variable = request.windows[0].name
        if stated_domain(scope.within(*free_variables(request, scope)).formula(request.subjects[0]), variable) is None:
            return form(request, scope, progress)
    if len(request.windows) > 1:
        return _double(request, scope)
    window = window_of(request, lambda s: s.formula(request.subjects[0]), scope, "integral")
    found = _integrated(request, window.formula, window.variable, window, scope)
    return _told(request, scope, found, window, "integral")


def _integrated(
    request: tree.Request, formula: Formula, variable: str, window: SearchWindow, scope: Evaluator, mean: bool = False
) -> Integral:  # fmt: skip
    digits = digits_of(request, scope) or 16
    try:
        return integral_of(formula, variable, window.low, window.high, digits, mean)
    except NoIntegral as reason:
        raise refusal("no-integral", str(reason), request) from None
    except NotSearchable as reason:
        raise refusal("not-searchable", str(reason), request) from None


def _double(request: tree.Request, scope: Evaluator) -> tuple[FindingDraft, Value]:
    """Over a box, or for each value of the first variable between two functions of it."""
    formula = scope.within(*(w.name for w in request.windows)).subject(request.subjects[0])
    return _over_two(request, scope, formula, "integral")


def _over_two(request: tree.Request, scope: Evaluator, formula: Formula, word: str) -> tuple[FindingDraft, Value]:
    outer, inner = request.windows
    low, high = span_of(outer, scope)
    within = scope.within(outer.name)
    assert inner.low is not None
    assert inner.high is not None
    below, above = within.formula(inner.low), within.formula(inner.high)
    try:
        found = double_integral(formula, (outer.name, low, high), (inner.name, below, above))
    except (NoIntegral, NotSearchable) as reason:
        raise refusal("no-integral", str(reason), request) from None
    row = ValueRow(value=found.value, interval=found.interval, evidence=found.evidence)
    found, certificates = graded_integral(request, scope, found, row)
    row = replace(row, evidence=found.evidence)
    summary = f"The {word} is {format_short(found.value)}; {_how(found)}."
    told = FindingDraft([row], found.evidence, found.evidence != "open", summary, found.method, [], certificates=certificates)
    return told, FindingValue(request.noun, (FoundPlace(found.value, found.interval, found.evidence),))


def _how(found: Integral) -> str:
    if found.evidence == "proven":
        return "it lies in the interval below"
    # Below the last digit of a double what two rules differ by is rounding, which is not the same in every process.
    return f"two rules agree to {format_short(max(found.error, abs(found.value) * 2.0**-52), 2)}"


def _says_little(found: Integral) -> bool:
    """Whether the interval of a number that is not zero leaves even its third digit open."""
    low, high = sorted(abs(float(v)) for v in found.interval)
    return high - low > LITTLE * high and float(found.interval[0]) * float(found.interval[1]) > 0


def _told(request: tree.Request, scope: Evaluator, found: Integral, window: SearchWindow, word: str) -> tuple[FindingDraft, Value]:
    row = ValueRow(value=found.value, interval=found.interval, evidence=found.evidence)
    found, certificates = graded_integral(request, scope, found, row)
    row = replace(row, evidence=found.evidence)
    low, high = window.ends
    ends = [float(v) for v in found.interval]
    span = f"from {format_number(low)} to {format_number(high)}"
    summary = f"The {word} {span} is {format_short(found.value)}; {_how(found)}."
    if found.evidence == "proven" and _says_little(found):
        summary = f"The {word} {span} lies from {format_short(ends[0], 4)} to {format_short(ends[1], 4)}; more of it is not proven."
    digits = digits_of(request, scope)
    notes = list(window.notes)
    if digits is not None:
        if found.ball is not None:
            said = certain_digits(found.ball, digits)
            row = replace(row, digits={"value": said})
            summary = f"The {word} {span} is {said}."
        else:
            notes.append("there is no proven interval, so no more digits than these are certain")
    told = FindingDraft([row], found.evidence, found.evidence != "open", summary, found.method, notes, certificates=certificates)
    return told, FindingValue(request.noun, (FoundPlace(found.value, found.interval, found.evidence),))


@answers("area")
def area(request: tree.Request, scope: Evaluator, _: Progress) -> tuple[FindingDraft, Value]:
    """Between two curves: the integral of the magnitude of their difference, split where they cross. Of a surface: that of the
    magnitude of the cross product of its two tangents."""
    if len(request.windows) > 1:
        return _over_two(request, scope, _stretching(request, scope), "area of the surface")
    first, second = request.subjects
    window = window_of(request, lambda s: c.subtract(s.formula(first), s.formula(second)), scope, "area")
    found = _integrated(request, c.call("abs", window.formula), window.variable, window, scope)
    return _told(request, scope, found, window, "area between the two")


def _stretching(request: tree.Request, scope: Evaluator) -> Formula:
    """How many times larger a small piece of a surface is than that of its two variables. Raises Refused."""
    subject = request.subjects[0]
    names = tuple(w.name for w in request.windows)
    local = scope.within(*names)
    local.over, local.told_in = (), None
    if isinstance(subject, tree.PointOf):
        formulas = [local.formula(p) for p in subject.items]
    else:
        formulas = [*(Variable(n) for n in names), local.formula(subject)]
    parts = _on_one_scale(local, [subject] * 3, formulas)
    try:
        along, across = ([derivative(f, n) for f in parts] for n in names)
    except NoDerivative as missing:
        raise refusal("no-derivative", f"there is no derivative by rule of {missing}", subject) from None
    total: Formula = Number(Fraction(0))
    for i, j in ((1, 2), (2, 0), (0, 1)):
        turned = c.subtract(c.times(along[i], across[j]), c.times(along[j], across[i]))
        total = c.add(total, c.power(turned, Number(Fraction(2))))
    stretch = c.call("sqrt", total)
    side = next((u for u in reversed(scope.heights) if u is not None), None)
    return stretch if side is None else scope.in_told_unit(stretch, side.power(Fraction(2)), subject)


@answers("length")
def length(request: tree.Request, scope: Evaluator, _: Progress) -> tuple[FindingDraft, Value]:
    """Of a curve y = f(x), the integral of sqrt(1 + f'^2); of (x(t), y(t)), that of sqrt(x'^2 + y'^2); in space alike."""
    subject = request.subjects[0]
    parts = subject.items if isinstance(subject, tree.PointOf) else (subject,)

    def speed(s: Evaluator) -> Formula:
        variable = next(iter(s.variables))
        try:
            formulas = [s.formula(p) for p in parts]
            # Beside a height stands its variable, which must be in the same unit.
            whole = [Variable(variable), *formulas] if len(parts) == 1 else formulas
            slopes = [derivative(f, variable) for f in _on_one_scale(s, [subject] * len(whole), whole)]
        except NoDerivative as missing:
            raise refusal("no-derivative", f"there is no derivative by rule of {missing}", subject) from None
        total: Formula = Number(Fraction(0))
        for slope in slopes:
            total = c.add(total, c.power(slope, Number(Fraction(2))))
        return c.call("sqrt", total)

    window = window_of(request, speed, scope, "length", ready=True)
    found = _integrated(request, window.formula, window.variable, window, scope)
    return _told(request, scope, found, window, "length of the curve")


def _on_one_scale(scope: Evaluator, nodes: Sequence[tree.Expression], coordinates: Sequence[Formula]) -> list[Formula]:
    """Coordinates in one unit: a length or an area is one only where the axes agree. Raises Refused."""
    found: list[Formula] = []
    units: list[Unit | None] = []
    # From the last: what a height asks of its variable is known when that is looked at.
    for formula, node in reversed(list(zip(coordinates, nodes, strict=True))):
        whole, unit = scope.measured(formula, node)
        found.insert(0, whole)
        units.insert(0, unit)
    first = next((u for u in units if u is not None), None)
    if first is None:
        return found
    placed: list[Formula] = []
    for node, formula, unit in zip(nodes, found, units, strict=True):
        if unit is not None and not unit.like(first):
            text = f"a length needs axes in one unit; these are in [{first}] and [{unit}]"
            raise refusal("units", text, node, advise("divide the units away"))
        placed.append(formula if unit is None else converted(formula, unit, first))
    scope.heights.append(first)
    return placed


@answers("mean")
def mean(request: tree.Request, scope: Evaluator, _: Progress) -> tuple[FindingDraft, Value]:
    """The integral over the span, divided by its length."""
    window = window_of(request, lambda s: s.formula(request.subjects[0]), scope, "mean")
    found = _integrated(request, window.formula, window.variable, window, scope, mean=True)
    return _told(request, scope, found, window, "mean value")


# ---------------------------------------------------------------- limits


@answers("limit")
def limit(request: tree.Request, scope: Evaluator, _: Progress) -> tuple[FindingDraft, Value]:
    """A limit at a place, from both sides or from one. Raises Refused."""
    at = request.option("at")
    assert at is not None
    assert isinstance(at.value, tree.Expression)
    place = end_of(at.value, scope)
    variable = _variable(request, scope)
    said = None if is_infinite(at.value) else scope.number(at.value)
    if said is not None and said.unit is not None and not said.unit.plain:
        # The variable is in the unit of the place, or the place in that of the span.
        place = bare(scope.in_unit(said, scope.variable_units.setdefault(variable, said.unit), at.value).formula)
    formula = scope.within(variable).subject(request.subjects[0])
    sides, side_note = _sides(request, scope, place)
    try:
        found = limit_of(formula, variable, place, sides)
    except NotSearchable as reason:
        raise refusal("no-limit", str(reason), request) from None
    return _told_limit(request, scope, found, variable, place, side_note)


def _sides(request: tree.Request, scope: Evaluator, place: Formula) -> tuple[tuple[int, ...], str]:
    """A span that ends at the place lets only one side count."""
    window = request.windows[0] if request.windows else None
    if window is None or window.low is None:
        return (-1, 1), ""
    low, high = span_of(window, scope)
    here = certain_value(place).value
    if certain_value(low).value == here:
        return (1,), " from the right"
    if certain_value(high).value == here:
        return (-1,), " from the left"
    return (-1, 1), ""


def _told_limit(
    request: tree.Request, scope: Evaluator, found: Limit, variable: str, place: Formula, side_note: str
) -> tuple[FindingDraft, Value]:
    where = f"{variable} → {said_end(place)}{side_note}"
    digits = digits_of(request, scope)
    if found.agree:
        side = found.sides[0]
        row = replace(_limit_row(side, digits), evidence=found.evidence)
        value = side.value
        assert value is not None
        exact = row.exact
        said = format_number(value)
        said = f"{exact} = {said}" if isinstance(exact, str) and exact.replace("-", "−") != said else said
        if row.digits is not None:
            said = row.digits["value"]
        summary = f"The limit for {where} is {said}."
        if abs(value) == INFINITY:
            summary = f"For {where} the values {'rise' if value > 0 else 'fall'} without bound: the limit is {format_number(value)}."
        graded, certificates = graded_limit(request, scope, found, [row])
        found_evidence = weakest(r.evidence or "open" for r in graded)
        told = FindingDraft(graded, found_evidence, found_evidence != "open", summary, side.method, [], certificates=certificates)
        if abs(value) == INFINITY:
            return told, FindingValue("limit", ())
        return told, FindingValue("limit", (FoundPlace(value, side.interval, found_evidence, side.exact, side.form),))
    rows = []
    told_sides: list[str] = []
    names: tuple[Literal["left", "right"] | None, ...] = ("left", "right") if len(found.sides) == 2 else (None,)
    for name, side in zip(names, found.sides, strict=False):
        rows.append(replace(_limit_row(side, digits), side=name))
        told_side = side.why if side.value is None else format_number(side.value)
        told_sides.append(f"from the {name}: {told_side}" if name else told_side)
    methods = "; ".join(dict.fromkeys(s.method for s in found.sides if s.method)) or "values from both sides"
    graded, certificates = graded_limit(request, scope, found, rows)
    evidence = weakest(r.evidence or "open" for r in graded)
    why = "; ".join(dict.fromkeys(told_sides))
    summary = f"No limit found for {where}; not settled: {why}." if evidence == "open" else f"There is no limit for {where}: {why}."
    return FindingDraft(graded, evidence, evidence != "open", summary, methods, [], certificates=certificates), FindingValue("limit", ())


def _limit_row(side: Side, digits: int | None) -> LimitRow:
    endless = side.value is not None and abs(side.value) == INFINITY
    way: Literal["infinity", "-infinity"] = "infinity" if endless and side.value == INFINITY else "-infinity"
    exact = None
    if side.exact is not None and side.exact.denominator > 1:
        exact = str(side.exact)
    elif side.exact is None and side.form is not None:
        exact = _shown_form(side.form)
    text = digits_text(side.form, digits) if digits is not None and side.form is not None else None
    return LimitRow(
        value=None if endless else side.value, limit=way if endless else None, interval=side.interval, exact=exact or None,
        evidence=side.evidence, digits={"value": text} if text else None,
    )  # fmt: skip


def _shown_form(formula: Formula) -> str | None:
    shown = by_algebra(lambda _: form_of(to_sympy(formula)), 0.5)
    return shown[0] if shown is not None else None


# ---------------------------------------------------------------- sums and products


@answers("sum", "product")
def total(request: tree.Request, scope: Evaluator, _: Progress) -> tuple[FindingDraft, Value]:
    """A sum or a product over the whole numbers of a span."""
    window = request.windows[0]
    assert window.low is not None
    assert window.high is not None
    low, high = end_of(window.low, scope), end_of(window.high, scope)
    formula = scope.within(window.name).subject(request.subjects[0])
    others = variables(formula) - {window.name}
    if others:
        raise refusal("unknown-name", f"'{sorted(others)[0]}' has no value", request)
    digits = digits_of(request, scope)
    try:
        found = (sum_of if request.noun == "sum" else product_of)(formula, window.name, low, high, digits or 16)
    except NoSum as reason:
        raise refusal("no-sum", str(reason), request) from None
    except (NoIntegral, NotSearchable) as reason:
        raise refusal("no-sum", str(reason), request) from None
    quotient = found.exact is not None and (found.exact.denominator > 1 or abs(found.exact) >= 10**15)
    row = ValueRow(
        value=found.value, interval=found.interval, exact=str(found.exact) if quotient else None, evidence=found.evidence
    )  # fmt: skip
    found, certificates = graded_sum(request, scope, found, row)
    row = replace(row, evidence=found.evidence)
    told, value = _told_sum(
        request, found, row, digits, f"from {window.name} = {format_number(end_value(low))} to {format_number(end_value(high))}"
    )
    told.certificates = certificates
    return told, value


def _told_sum(request: tree.Request, found: Sum, row: ValueRow, digits: int | None, span: str) -> tuple[FindingDraft, Value]:
    notes = []
    latex = None
    said = format_short(found.value, 15)
    if found.exact is None and found.form is not None:
        shown = _shown_form(found.form)
        if shown:
            row = replace(row, exact=shown)
            latex = f"{tex(found.form)} = {number_latex(found.value)}"
            notes.append(f"algebra says {shown}" + (", which lies in the interval" if found.evidence == "proven" else ""))
    if isinstance(row.exact, str) and len(row.exact) <= 60:
        said = f"{row.exact} = {said}"
    if digits is not None and found.ball is not None:
        said = certain_digits(found.ball, digits)
        row = replace(row, digits={"value": said})
    summary = f"The {request.noun} {span} is {said}."
    told = FindingDraft([row], found.evidence, found.evidence != "open", summary, found.method, notes, latex)
    place = FoundPlace(found.value, found.interval, found.evidence, found.exact, found.form if found.exact is None else None)
    return told, FindingValue(request.noun, (place,))
