"""Functions got from data: interpolations and fits, worked out from what a request says."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any, cast

import numpy as np
from flint import arb

from ..formula import catalogue as c
from ..formula.ball import as_fmpq, precision
from ..formula.calculus import NoDerivative
from ..formula.estimates import Estimates, Origin, standard_error
from ..formula.exact_lists import opened_lists
from ..formula.nodes import Apply, Formula, Given, Named, Number, Variable, substitute, walk
from ..formula.quantities import bare, coherent
from ..formula.tape import NoBall, Tape
from ..formula.units import MixedUnits, Unit
from ..language import tree
from ..language.messages import Refused, advise
from ..language.shapes import columns_of, is_infinite, model_names, polynomial_degree, unwrapped
from ..numerics.fitting.centred import Centred, as_asked, centred
from ..numerics.fitting.fit import DataColumn, Fit, NotFittable, Problem, fit
from ..numerics.interpolation.curves import Ends, Kind, NotInterpolable, interpolate
from ..numerics.interpolation.long_curves import MANY, interpolate_many
from ..numerics.interpolation.surfaces import surface_through
from ..record.notation import format_short
from .evaluate.evaluator import Evaluator
from .evaluate.refusals import refusal
from .findings import FindingDraft
from .fit_findings import curve_finding, surface_finding
from .parameter_units import open_units, parameter_units, tell_open_units
from .proofs import graded_curve, graded_fit
from .search_window import variable_of
from .values import FindingValue, FoundPlace, FromData, FunctionValue, ListValue, Scalar, Value

# What is said of parameters: those that are held, starts, and limits.
_Said = tuple[dict[str, Scalar], dict[str, float], dict[str, tuple[float, float]]]
MOST_KNOWN = 5_000  # rows of which values worked out from others are known beyond doubles


def from_data(name: str, variables: tuple[str, ...], request: tree.Request, scope: Evaluator) -> tuple[FindingDraft, FunctionValue]:
    """What `NAME(x) = interpolation of …` or `fit of …` defines. Raises Refused."""
    return (_interpolated if request.noun == "interpolation" else _fitted)(name, variables, request, scope)


# ---------------------------------------------------------------- columns


class _Columns:
    """The lists of a request, with rows that hold a gap left out."""

    def __init__(self, request: tree.Request, values: tree.Expression, against: tree.Expression, scope: Evaluator) -> None:
        self.request, self.scope = request, scope
        self.sides = [*columns_of(against), values]
        self.lists = [scope.as_list(scope.value(e), e) for e in self.sides]
        self.errors = [(e, self._spread(e)) for e in self._error_sides()]
        sizes = {len(xs.data) for xs in self.lists}
        if len(sizes) > 1:
            said = " and ".join(f"{scope.text[e.start : e.end]} has {len(xs.data)}" for e, xs in zip(self.sides, self.lists, strict=True))
            raise refusal("list-lengths", f"lists of different lengths meet here: {said} elements", values)
        whole = [xs.data for xs in [*self.lists, *(e for _, e in self.errors)]]
        self.kept = np.flatnonzero(np.logical_and.reduce([np.isfinite(d) for d in whole]))
        self.notes = self._left_out()

    def _left_out(self) -> list[str]:
        """How many rows do not count, and why: left out by hand, or with a gap."""
        rows = len(self.lists[0].data)
        out = np.setdiff1d(np.arange(rows), self.kept)
        hidden = [xs.hidden for xs in self.lists if xs.hidden is not None]
        by_hand = int(np.logical_or.reduce([np.isfinite(h[out]) for h in hidden]).sum()) if hidden and out.size else 0
        notes = []
        if by_hand:
            notes.append(f"{by_hand} of {rows} rows {'was' if by_hand == 1 else 'were'} left out by hand")
        if out.size > by_hand:
            gaps = out.size - by_hand
            notes.append(f"{gaps} of {rows} rows hold{'s' if gaps == 1 else ''} a gap and {'is' if gaps == 1 else 'are'} left out")
        return notes

    def _error_sides(self) -> list[tree.Expression]:
        option = self.request.option("errors")
        if option is None or not isinstance(option.value, tree.Expression):
            return []
        value = unwrapped(option.value)
        return list(value.items) if isinstance(value, tree.PointOf) else [value]

    def _spread(self, e: tree.Expression) -> ListValue:
        found = self.scope.as_list(self.scope.value(e), e)
        n = len(self.lists[0].data)
        if len(found.data) == 1 and n > 1:
            return ListValue(np.full(n, found.data[0]), found.unit, exact=found.exact and found.exact * n)
        if len(found.data) != n:
            raise refusal("list-lengths", f"{self.scope.text[e.start : e.end]} has {len(found.data)} elements for {n} points", e)
        return found

    def units(self) -> list[Unit | None]:
        return [xs.unit for xs in self.lists]

    def rational(self, place: int) -> list[Fraction]:
        """The elements as the decimals they were written as."""
        xs = self.lists[place]
        if xs.exact is not None:
            return [xs.exact[k] for k in self.kept]
        return [Fraction(repr(v)) for v in xs.data[self.kept].tolist()]

    def column(self, place: int) -> DataColumn:
        xs = self.lists[place]
        return DataColumn(xs.data[self.kept], self._known(self.sides[place], xs))

    def own_errors(self) -> DataColumn | None:
        """The uncertainties of the last column's own elements, where all have one."""
        formulas = self.lists[-1].formulas
        if formulas is None:
            return None
        errors = np.array([standard_error(formulas[int(k)]) or 0.0 for k in self.kept])
        if not (errors > 0).all():
            return None
        self.notes.append("weighted by the uncertainties of the data themselves")
        return DataColumn(errors, None)

    def error_column(self, place: int, target: int = -1) -> DataColumn:
        """Standard uncertainties in the unit of the column that they belong to. Raises Refused for another dimension."""
        e, xs = self.errors[place]
        unit = self.lists[target].unit
        xs = xs if unit is None else self.scope.list_in_unit(xs, unit, e)
        return DataColumn(xs.data[self.kept], self._known(e, xs))

    def _known(self, e: tree.Expression, xs: ListValue) -> list[Any] | None:
        """The elements beyond doubles: exact ones, and those of a formula over lists in balls (`ln(bench.Q)`)."""
        if xs.exact is not None:
            return [as_fmpq(xs.exact[k]) for k in self.kept]
        if isinstance(unwrapped(e), tree.Name | tree.Field) or len(self.kept) > MOST_KNOWN:
            return None
        formula = self.scope.formula(e)
        lists = [n for n in walk(formula) if isinstance(n, Given) and np.ndim(n.data)]
        if not lists or formula in lists:
            return None
        opened, columns = opened_lists(formula, lists)
        tape = Tape([opened], list(columns))
        try:
            with precision(640):
                rows = [[_ball(g, int(k)) for g in columns.values()] for k in self.kept]
                found = [tape.ball(*row)[0] for row in rows]
        except (NoBall, ArithmeticError, ValueError):
            return None
        return found if all(v.is_finite() for v in found) else None


def _ball(column: Given, k: int) -> Any:
    if column.exact is not None:
        return arb(as_fmpq(column.exact[k]))
    return arb(as_fmpq(Fraction(repr(float(column.data[k])))))


def _spans(variables: tuple[str, ...], columns: _Columns) -> dict[str, tuple[Formula, Formula]]:
    """From where to where the data go, for each variable."""
    found: dict[str, tuple[Formula, Formula]] = {}
    for place, name in enumerate(variables):
        values = columns.rational(place) if len(columns.kept) <= MOST_KNOWN else None
        data = columns.lists[place].data[columns.kept]
        ends = (min(values), max(values)) if values else (Fraction(repr(float(data.min()))), Fraction(repr(float(data.max()))))
        found[name] = (Number(ends[0], True), Number(ends[1], True))
    return found


# ---------------------------------------------------------------- interpolation


def _interpolated(name: str, variables: tuple[str, ...], request: tree.Request, scope: Evaluator) -> tuple[FindingDraft, FunctionValue]:
    assert request.against is not None
    columns = _Columns(request, request.subjects[0], request.against, scope)
    by, ends = request.option("by"), request.option("ends")
    kind = by.value if by is not None else None
    errors = columns.error_column(0).data.tolist() if columns.errors else None
    try:
        if len(variables) == 2:
            return _over_plane(name, variables, columns, kind)
        many = len(columns.kept) > MANY and errors is None and kind not in ("polynomial", "smoothing")
        how = cast(Kind, kind or "spline"), cast(Ends, ends.value if ends else "not-a-knot")
        if many:
            curve = interpolate_many(name, columns.lists[0].data[columns.kept], columns.lists[1].data[columns.kept], *how)
        else:
            curve = interpolate(name, columns.rational(0), columns.rational(1), *how, None, errors)
    except NotInterpolable as reason:
        raise refusal(reason.code, reason.text, request, *([advise(reason.advice)] if reason.advice else [])) from None
    variable = Variable(variables[0])
    body = curve.formula(variable)
    units = columns.units()
    if units[-1] is not None and not units[-1].plain:
        body = Named("", body, unit=units[-1])
    source = FromData("interpolation", _spans(variables, columns), {}, tuple(units[:-1]), units[-1], curve)
    value = FunctionValue(name, variables, body, {}, source)
    across = columns.lists[0].data[columns.kept]
    span = float(across.min()), float(across.max())
    told = curve_finding(name, variables[0], curve, len(columns.kept), span, str(ends.value) if ends else None)
    told.notes[:0] = columns.notes
    if many:
        told.graded("checked")
        return told, value
    points = list(zip(columns.rational(0), columns.rational(1), strict=True))
    return graded_curve(told, curve, points, scope.text[request.start : request.end]), value


def _over_plane(name: str, variables: tuple[str, ...], columns: _Columns, kind: Any) -> tuple[FindingDraft, FunctionValue]:
    x, y, z = (xs.data[columns.kept] for xs in columns.lists)
    surface, found, notes = surface_through(name, x, y, z, kind)
    body: Formula = Apply(surface.entry, tuple(Variable(v) for v in variables))
    units = columns.units()
    if units[-1] is not None and not units[-1].plain:
        body = Named("", body, unit=units[-1])
    spans = _spans(variables, columns)
    source = FromData("interpolation", spans, {}, tuple(units[:-1]), units[-1], surface)
    told = surface_finding(variables, len(z), [(float(a.min()), float(a.max())) for a in (x, y)], found, [*columns.notes, *notes])
    return told, FunctionValue(name, variables, body, {}, source)


def through_samples(request: tree.Request, scope: Evaluator) -> tuple[Callable[[Evaluator], Formula], list[str]]:
    """The straight pieces between the samples of `crossings of f(x) and ys against xs`, as a formula of the variable."""
    assert request.against is not None
    columns = _Columns(request, request.subjects[1], request.against, scope)
    try:
        curve = interpolate("samples", columns.rational(0), columns.rational(1), "segments")
    except NotInterpolable as reason:
        raise refusal(reason.code, reason.text, request.against, *([advise(reason.advice)] if reason.advice else [])) from None
    low, high = _spans(("x",), columns)["x"]

    def formula(inner: Evaluator) -> Formula:
        variable = request.windows[0].name if request.windows else variable_of(request.subjects[0], scope)
        assert variable in inner.variables
        return Apply(c.GUARD, (curve.formula(Variable(variable)), Variable(variable), low, high))

    notes = ["between samples the line goes straight", *columns.notes]
    return formula, notes


# ---------------------------------------------------------------- fits


def _fitted(name: str, variables: tuple[str, ...], request: tree.Request, scope: Evaluator) -> tuple[FindingDraft, FunctionValue]:
    assert request.to is not None
    assert request.against is not None
    columns = _Columns(request, request.to, request.against, scope)
    formula, parameters = _model(request, variables, scope)
    units = columns.units()
    numbers = _over_numbers(formula, variables, units)
    own = parameter_units(numbers, formula, variables, parameters, units)
    said = _said_of_parameters(request, scope, own)
    problem = _problem(request, numbers, variables, parameters, columns, said)
    degree = polynomial_degree(request.subjects[0])
    way = None if degree is None or said[0] else centred(problem, degree)
    if way is not None:
        return _far_from_zero(name, variables, request, columns, problem, way, own)
    found = _solved(request, problem)
    better = _better_without_a_start(problem, found)
    if better:
        found = replace(found, evidence="checked", enclosures=[None] * len(found.enclosures))
    of, statement = (columns.scope.text[n.start : n.end] for n in (request.to, request))
    found, told = graded_fit(found, own, of, statement)
    if better:
        told.notes.append(better)
        told.summary = f"{told.summary.rstrip('.')}; only a local minimum: the fit does better without a start."
    if not own:
        tell_open_units(told, open_units(numbers, variables, parameters, units))
    places = _parameter_places(found, own)
    told_values = {p: Named(p, bare(place.formula)) for p, place in zip(found.parameters, places, strict=True) if place.formula is not None}
    body = substitute(problem.formula, told_values)
    if units[-1] is not None and not units[-1].plain:
        body = Named("", body, unit=units[-1])
    source = FromData("fit", _spans(variables, columns), _parts(found, places, units[-1]) | said[0], tuple(units[:-1]), units[-1], found)
    told.notes[:0] = [*_of_held(said[0]), *columns.notes]
    return told, FunctionValue(name, variables, body, {}, source)


MUCH_BETTER = 0.9  # of a sum of squares: below it a fit without the start that was given is another one


def _better_without_a_start(problem: Problem, found: Fit) -> str:
    """What is to be said of a start that leads to a minimum above another one; empty where it does not."""
    if not problem.starts:
        return ""
    try:
        other = fit(replace(problem, starts={}), quick=True)
    except (NotFittable, NoDerivative):
        return ""
    if not other.quality.squares < MUCH_BETTER * found.quality.squares:
        return ""
    said = ", ".join(f"{p} = {format_short(float(v), 4)}" for p, v in zip(other.parameters, other.values, strict=True))
    return (
        f"the start leads to a local minimum; without it the sum of squares is {format_short(other.quality.squares, 3)} instead of "
        f"{format_short(found.quality.squares, 3)}, at {said}"
    )


def _far_from_zero(
    name: str, variables: tuple[str, ...], request: tree.Request, columns: _Columns, problem: Problem, way: Centred, own: dict[str, Unit]
) -> tuple[FindingDraft, FunctionValue]:  # fmt: skip
    """A polynomial over numbers far from zero: worked out in the centred variable, stated as asked."""
    assert request.to is not None
    units = columns.units()
    well = _solved(request, way.problem)
    try:
        found = _solved(request, problem)
    except Refused:
        found = as_asked(well, way, problem)  # in powers of x itself nothing can be told apart in doubles
    else:
        stated = as_asked(well, way, problem)
        found = replace(found, standard=stated.standard, covariance=stated.covariance, correlation=stated.correlation,
                        intervals=stated.intervals)  # fmt: skip
    of, statement = (columns.scope.text[n.start : n.end] for n in (request.to, request))
    found, told = graded_fit(found, own, of, statement)
    middle, half = (format_short(float(v), 6) for v in (way.shift, way.scale))
    told.notes.append(f"worked out in ({variables[0]} − {middle})/{half}, since zero lies far from the data")
    inner = [p.formula or Given(p.value) for p in _parameter_places(well, {})]
    places: list[FoundPlace] = []
    for row, place in zip(way.powers, _parameter_places(found, own), strict=True):
        total: Formula = Number(Fraction(0))
        for power, coefficient in zip(row, inner, strict=True):
            total = total if not power else c.add(total, c.times(Number(power), coefficient))
        unit = own.get(found.parameters[len(places)])
        places.append(replace(place, formula=total if unit is None else Named("", total, unit=unit)))
    body = substitute(way.problem.formula, dict(zip(well.parameters, inner, strict=True)))
    if units[-1] is not None and not units[-1].plain:
        body = Named("", body, unit=units[-1])
    source = FromData("fit", _spans(variables, columns), _parts(found, places, units[-1]), tuple(units[:-1]), units[-1], well)
    told.notes[:0] = columns.notes
    return told, FunctionValue(name, variables, body, {}, source)


def _over_numbers(formula: Formula, variables: tuple[str, ...], units: Sequence[Unit | None]) -> Formula:
    """A model over bare numbers, each in the unit of its column; what is known beside (g in m/s², h in cm) is brought to one size."""
    known = {v: u for v, u in zip(variables, units, strict=False) if u is not None}
    try:
        return bare(coherent(formula, known)[0])
    except MixedUnits:
        return bare(formula)  # units of parameters are not known yet


def _model(request: tree.Request, variables: tuple[str, ...], scope: Evaluator) -> tuple[Formula, tuple[str, ...]]:
    """The model with its variables and parameters open."""
    degree = polynomial_degree(request.subjects[0])
    if degree is not None:
        names = model_names(request)
        total: Formula = Variable(names[0])
        for k in range(1, degree + 1):
            total = c.add(total, c.times(Variable(names[k]), c.power(Variable(variables[0]), Number(Fraction(k)))))
        return total, names
    parameters = tuple(w.name for w in request.windows)
    if not parameters:
        parameters = tuple(dict.fromkeys(n for n in _open_names(request.subjects[0], scope) if n not in variables))
    return scope.within(*variables, *parameters).formula(request.subjects[0]), parameters


def _problem(
    request: tree.Request, formula: Formula, variables: tuple[str, ...], parameters: tuple[str, ...], columns: _Columns, said: _Said
) -> Problem:  # fmt: skip
    fixed, starts, limits = said
    if any(isinstance(n, Given) and np.ndim(n.data) for n in walk(formula)):
        raise refusal("model-list", "a model is one formula of its variables; a list stands in this one", request.subjects[0])
    formula, left = _with_held(formula, parameters, fixed, request)
    n = len(variables)
    own = columns.own_errors() if not columns.errors else None
    targets = [0, n] if len(columns.errors) == 2 else [n]
    errors = [columns.error_column(k, target) for k, target in enumerate(targets[: len(columns.errors)])]
    return Problem(
        formula, variables, left, [columns.column(k) for k in range(n)], columns.column(n), errors[-1] if errors else own,
        limits, starts, _loss(request), errors[0] if len(errors) == 2 else None,
    )  # fmt: skip


def _with_held(
    formula: Formula, parameters: tuple[str, ...], fixed: dict[str, Scalar], request: tree.Request
) -> tuple[Formula, tuple[str, ...]]:  # fmt: skip
    """The formula with the values of what is held, and the parameters that are left. Raises Refused where none is."""
    left = tuple(p for p in parameters if p not in fixed)
    if not left:
        raise refusal("no-parameters", "all parameters are fixed; there is nothing to adjust", request)
    return substitute(formula, {p: Named(p, bare(v.formula)) for p, v in fixed.items()}), left


def _of_held(fixed: dict[str, Scalar]) -> list[str]:
    return [
        f"{name} was held at {format_short(value.value)}{f' {value.unit}' if value.unit is not None and not value.unit.plain else ''}: "
        "nothing is said of its uncertainty"
        for name, value in fixed.items()
    ]


def _loss(request: tree.Request) -> str:
    option = request.option("loss")
    return "squares" if option is None else str(option.value)


def _said_of_parameters(request: tree.Request, scope: Evaluator, own: dict[str, Unit]) -> _Said:
    """What is fixed, where the search starts, limits; each in the unit of its parameter, `own`. Raises Refused."""
    fixed: dict[str, Scalar] = {}
    starts: dict[str, float] = {}
    limits: dict[str, tuple[float, float]] = {}

    def number(e: tree.Expression, name: str) -> Scalar:
        said = scope.number(e)
        if said.unit is not None and not said.unit.plain and name not in own:
            text = f"{name} has no unit that the data and the model would tell, and this is in [{said.unit}]"
            raise refusal("units", text, e, advise("leave the unit out, or give the columns units"))
        return scope.in_unit(said, own.get(name), e)

    def end(e: tree.Expression, name: str) -> float:
        if is_infinite(e):
            return -np.inf if isinstance(unwrapped(e), tree.Negative) else np.inf
        return number(e, name).value

    for option in request.options:
        name, value = option.parameter, option.value
        if name is None:
            continue
        assert isinstance(value, tree.Expression)
        if option.name == "limit":
            assert isinstance(value, tree.Range)
            low, high = end(value.low, name), end(value.high, name)
            if not low < high:
                raise refusal("window", f"the limits of {name} must rise", option)
            limits[name] = low, high
        elif option.name == "fix":
            fixed[name] = number(value, name)
        else:
            starts[name] = number(value, name).value
    for name, start in starts.items():
        if name in limits and not limits[name][0] <= start <= limits[name][1]:
            raise refusal("start", f"the start {name} = {start:g} lies outside of its limits", request)
    return fixed, starts, limits


def _solved(request: tree.Request, problem: Problem) -> Fit:
    try:
        return fit(problem)
    except NotFittable as reason:
        raise refusal(reason.code, reason.text, request, *([advise(reason.advice)] if reason.advice else [])) from None
    except NoDerivative as missing:
        raise refusal("no-derivative", f"a model needs a slope by rule, and there is none of {missing}", request.subjects[0]) from None


def _parameter_places(found: Fit, units: dict[str, Unit]) -> list[FoundPlace]:
    """The parameters as numbers that know which fit they are of."""
    estimates = Estimates(found.parameters, found.values, found.covariance)
    places = []
    for k, name in enumerate(found.parameters):
        value, interval = float(found.values[k]), found.enclosures[k]
        formula: Formula = Given(value, interval, name, origin=Origin(estimates, k))
        if name in units:
            formula = Named("", formula, unit=units[name])
        places.append(FoundPlace(value, interval, "proven" if interval is not None else found.evidence, None, formula))
    return places


def _parts(found: Fit, places: list[FoundPlace], unit: Unit | None) -> dict[str, Value]:
    worth = found.quality
    numbers = {
        "spread": worth.spread, "sum_of_squares": worth.squares, "degrees_of_freedom": float(worth.degrees),
        "r_squared": worth.r_squared, "aicc": worth.aicc,
    }  # fmt: skip
    parts: dict[str, Value] = {n: FindingValue("fit", (FoundPlace(v, None, "checked"),)) for n, v in numbers.items()}
    parts["residuals"], parts["fitted"] = ListValue(found.residuals, unit), ListValue(found.fitted, unit)
    parts |= {p: FindingValue("fit", (place,)) for p, place in zip(found.parameters, places, strict=True)}
    return parts


def together(request: tree.Request, scope: Evaluator) -> tuple[FindingDraft, FindingValue]:
    """`fit of [M, N] to [ys, zs] against [xs, ts] for …`: one fit over several tables; parameters of one name are shared."""
    models, to, against = request.subjects[0], unwrapped(request.to), unwrapped(request.against)  # type: ignore[arg-type]
    assert isinstance(models, tree.ListOf)
    assert isinstance(to, tree.ListOf)
    assert isinstance(against, tree.ListOf)
    parameters = tuple(w.name for w in request.windows)
    free = [n for m in models.items for n in _open_names(m, scope) if n not in parameters]
    variable = free[0]
    which = "which table"
    parts: list[_Columns] = []
    total: Formula = c.UNDEFINED
    for k, model in enumerate(models.items):
        parts.append(_Columns(request, to.items[k], against.items[k], scope))
        formula = scope.within(variable, *parameters).formula(model)
        condition = Apply(c.CONDITIONS["="], (Variable(which), Number(Fraction(k))))
        total = formula if k == 0 else Apply(c.CHOOSE, (condition, formula, total))
    for place, first in enumerate(parts[0].units()):
        for p in parts[1:]:
            if first is not None and not first.plain:
                p.lists[place] = scope.list_in_unit(p.lists[place], first, p.sides[place])
    columns = [_stacked([p.column(place) for p in parts]) for place in (0, 1)]
    marks = [np.full(len(p.kept), float(k)) for k, p in enumerate(parts)]
    units = parts[0].units()
    numbers = _over_numbers(total, (variable, which), [units[0], None, units[1]])
    own = parameter_units(numbers, total, (variable, which), parameters, [units[0], None, units[1]])
    fixed, starts, limits = _said_of_parameters(request, scope, own)
    total, left = _with_held(numbers, parameters, fixed, request)
    errors = _stacked([p.error_column(-1) for p in parts]) if parts[0].errors else None
    problem = Problem(
        total, (variable, which), left, [columns[0], DataColumn(np.concatenate(marks))], columns[1], errors, limits, starts, _loss(request)
    )
    found, told = graded_fit(_solved(request, problem), own, f"{len(parts)} tables together", scope.text[request.start : request.end])
    places = _parameter_places(found, own)
    for p in parts:
        told.notes[:0] = p.notes
    told.notes[:0] = _of_held(fixed)
    values: dict[str, tuple[FoundPlace, ...]] = {n: (place,) for n, place in zip(found.parameters, places, strict=True)}
    return told, FindingValue("fit", tuple(places), values)


def _open_names(e: tree.Expression, scope: Evaluator) -> list[str]:
    called = {id(n.function) for n in tree.walk(e) if isinstance(n, tree.Call)}
    return [
        n.name for n in tree.walk(e)
        if isinstance(n, tree.Name) and id(n) not in called and not scope.names.has(n.name) and n.name not in c.ENTRIES
    ]  # fmt: skip


def _stacked(columns: list[DataColumn]) -> DataColumn:
    known = None if any(col.known is None for col in columns) else [v for col in columns for v in col.known or []]
    return DataColumn(np.concatenate([col.data for col in columns]), known)
