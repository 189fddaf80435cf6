"""Requests that compute: each is worked out to what it tells (a finding) and what it is worth (a value)."""

from __future__ import annotations

from dataclasses import replace
from math import inf
from typing import Any

from ..formula import catalogue as c
from ..formula.domain import end_value
from ..formula.nodes import Formula
from ..language import tree
from ..language.shapes import unwrapped
from ..language.vocabulary import NOUNS
from ..numerics.curves.closeup import close_up
from ..numerics.evidence import weakest
from ..numerics.roots.pieces import as_formula, value_at
from ..numerics.roots.search import Roots
from ..record.notation import format_number
from ..record.plain import taken_over
from ..record.rows import CrossingRow, RootRow, Row, ValueRow
from . import budgets, calculus, centroids, extremes, solutions
from .answers import ANSWERERS, answers
from .evaluate.comprehensions import elements
from .evaluate.elements import collected
from .evaluate.evaluator import Evaluator
from .evaluate.refusals import refusal
from .evaluate.units import unit_in
from .findings import FindingDraft, root_value, roots_finding, table_finding
from .fitted_functions import through_samples, together
from .proofs import checked_at_best, graded_roots
from .quantities import PRODUCTS, window_units, with_extrapolation, with_units
from .search_window import Progress, SearchWindow, free_variables, variable_of, window_of
from .searching import more_digits, searched
from .uncertainty import Trial, with_uncertainty
from .undefined import REACH
from .values import FindingValue, FoundPlace, FunctionValue, ItemsValue, ListValue, TableValue, Value

MOST_SEEN = 8  # places of one finding that have a picture


def work_out(request: tree.Request, scope: Evaluator, progress: Progress) -> tuple[FindingDraft, Value]:
    """What a request finds. Raises Refused."""
    inner = scope.noting()
    told, value = _answered(request, inner, progress)
    if inner.sources and not inner.shifts and request.noun not in _OWN_GRADES:
        value = with_uncertainty(told, value, Trial(lambda trial: _answered(request, trial, lambda *_: None), scope, inner.sources))
    scope.rounded += inner.rounded
    if inner.rounded and request.noun not in _OWN_GRADES:
        return checked_at_best(told, inner.rounded), _checked_value(value)
    return told, value


def _answered(request: tree.Request, inner: Evaluator, progress: Progress) -> tuple[FindingDraft, Value]:
    request = _over_the_data(request, inner)
    subject = request.subjects[0]
    inner.variable_units.update(window_units(request, inner))
    asked = request.option("unit")
    if asked is not None:
        assert isinstance(asked.value, str)
        inner.told_in = unit_in(asked.value, asked)
    if request.noun in PRODUCTS:
        inner.over = tuple(w.name for w in request.windows) or (variable_of(subject, inner),)
    if isinstance(subject, tree.ListOf) and NOUNS[request.noun].one_each:
        told, value = _one_each(request, subject, inner, progress)
    else:
        told, value = ANSWERERS[request.noun](request, inner, progress)
        value = _on_its_curve(request, inner, told, value)
    # A limit may be infinite; any other amount is too large only for doubles.
    if request.noun != "limit" and any(isinstance(row, ValueRow) and row.value in (inf, -inf) for row in told.values):
        raise refusal("too-large", f"what this comes to is too large to compute with: {REACH}", request)
    value = with_units(request, told, value, inner)
    with_extrapolation(told, inner.data_spans)
    return told, value


def _over_the_data(request: tree.Request, scope: Evaluator) -> tree.Request:
    """A request about a surface through data that says no windows goes over the whole of the data."""
    call = request.subjects[0]
    if request.windows or NOUNS[request.noun].family != "extrema" or not isinstance(call, tree.Call):
        return request
    function = scope.names.find(call.function.name) if isinstance(call.function, tree.Name) else None
    if not isinstance(function, FunctionValue) or function.source is None or len(function.parameters) < 2:
        return request
    windows = []
    for parameter, argument in zip(function.parameters, call.arguments, strict=True):
        if not isinstance(argument, tree.Name):
            return request
        low, high = (tree.Number(call.start, call.end, repr(end_value(e))) for e in function.source.spans[parameter])
        windows.append(tree.Window(call.start, call.end, argument.name, call.end, low, high))
    return replace(request, windows=tuple(windows))


def _on_its_curve(request: tree.Request, scope: Evaluator, told: FindingDraft, value: Value) -> Value:
    """Where f(x) = 60 holds the place lies at the height 60: its curve is the left side."""
    subject = unwrapped(request.subjects[0])
    equation = isinstance(subject, tree.Comparison) and subject.signs == ("=",)
    if not equation or not isinstance(value, FindingValue) or len(request.subjects) > 1 or len(request.windows) > 1 or not told.variable:
        return value
    assert isinstance(subject, tree.Comparison)
    if not set(free_variables(request, scope)) <= {told.variable}:
        return value  # with letters that have no value it has no height
    left = scope.within(told.variable).formula(subject.operands[0])
    return replace(value, curve=(left, told.variable))


def _checked_value(value: Value) -> Value:
    """What a request found, where it rests on numbers that went through doubles."""
    if not isinstance(value, FindingValue):
        return value

    def checked(places: tuple[FoundPlace, ...]) -> tuple[FoundPlace, ...]:
        return tuple(replace(p, interval=None, evidence=weakest([p.evidence, "checked"])) for p in places)

    return replace(value, places=checked(value.places), parts={n: checked(p) for n, p in value.parts.items()})


def _one_each(request: tree.Request, subject: tree.ListOf, scope: Evaluator, progress: Progress) -> tuple[FindingDraft, Value]:
    """A list as a subject means one each: their rows one after the other, each with the number of its function."""
    told: list[FindingDraft] = []
    values: list[FindingValue] = []
    for item in subject.items:
        one, value = ANSWERERS[request.noun](replace(request, subjects=(item,)), scope, progress)
        told.append(one)
        assert isinstance(value, FindingValue)
        values.append(value)
    rows = [replace(row, of=k) for k, one in enumerate(told, 1) for row in one.values]
    notes = [f"{k}: {note}" for k, one in enumerate(told, 1) for note in one.notes]
    summary = " ".join(f"{k}: {one.summary}" for k, one in enumerate(told, 1))
    parts: dict[str, tuple[FoundPlace, ...]] = {}
    for value in values:
        for name, places in value.parts.items():
            parts[name] = (*parts.get(name, ()), *places)
    firsts = [sum(len(t.values) for t in told[:k]) for k in range(len(told))]
    certificates = [{**part, "first": part["first"] + first} for first, t in zip(firsts, told, strict=True) for part in t.certificates]
    whole = FindingDraft(
        rows, weakest(t.evidence for t in told), all(t.complete for t in told), summary, told[0].method, notes, variable=told[0].variable,
        certificates=certificates,
    )  # fmt: skip
    return whole, FindingValue(request.noun, tuple(p for v in values for p in v.places), parts)


# ---------------------------------------------------------------- roots and crossings


def seen_near(told: FindingDraft, found: Roots, window: SearchWindow) -> None:
    """Small pictures near the first roots, and what became of the spans that were looked at."""
    told.strip = list(found.ruled)
    told.closeups = [close_up(window.formula, window.variable, r.x, window.ends) for r in found.roots[:MOST_SEEN]]


def _near_said(told: FindingDraft, request: tree.Request, found: Roots, window: SearchWindow, scope: Evaluator, word: str) -> None:
    """The summary of a search for the nearest one."""
    near = request.option("near")
    if near is None or not isinstance(near.value, tree.Expression):
        return
    place = format_number(scope.number(near.value).value)
    if not found.roots:
        told.summary = f"No {word} at all." if found.complete else f"No {word} found."
        return
    x = format_number(found.roots[0].x)
    told.summary = f"The {word} nearest to {place} is {window.variable} = {x}" + ("; none is nearer." if found.complete else ".")


@answers("roots")
def _roots(request: tree.Request, scope: Evaluator, progress: Progress) -> tuple[FindingDraft, Value]:
    def formula_of(s: Evaluator) -> Formula:
        subject = request.subjects[0]
        if isinstance(subject, tree.Comparison):
            return c.subtract(*(s.formula(operand) for operand in subject.operands))
        return s.formula(subject)

    window = window_of(request, formula_of, scope, "roots")
    found, notes = searched(request, window, scope, progress)
    found, certificates = graded_roots(request, scope, window, found)
    told = roots_finding(found, window.variable, *window.ends)
    told.certificates = certificates
    _near_said(told, request, found, window, scope, "root")
    told.notes.extend([*notes, *window.notes])
    seen_near(told, found, window)
    more_digits(told, request, scope, found.roots, window.variable)
    return told, root_value(found, window.variable)


def as_crossing(row: Row, height: float) -> CrossingRow:
    """A zero of the difference of two curves, with the height at which they meet."""
    assert isinstance(row, RootRow)
    return CrossingRow(**taken_over(row) | {"value": height})


@answers("crossings")
def _crossings(request: tree.Request, scope: Evaluator, progress: Progress) -> tuple[FindingDraft, Value]:
    """Where two curves meet: the roots of their difference, with the height at each."""
    first, second = request.subjects
    if request.against is not None:
        samples, left_out = through_samples(request, scope)
        window = window_of(request, lambda s: c.subtract(s.formula(first), samples(s)), scope, "crossings")
        window.notes.extend(left_out)
    else:
        window = window_of(request, lambda s: c.subtract(s.formula(first), s.formula(second)), scope, "crossings")
    found, notes = searched(request, window, scope, progress)
    found, certificates = graded_roots(request, scope, window, found)
    told = roots_finding(found, window.variable, *window.ends, words=("crossing", "crossings"))
    told.certificates = certificates
    _near_said(told, request, found, window, scope, "crossing")
    told.notes.extend([*notes, *window.notes])
    seen_near(told, found, window)
    height = scope.within(window.variable).subject(first)
    heights = []
    for k, root in enumerate(found.roots):
        high = value_at(height, window.variable, as_formula(root))
        told.values[k] = as_crossing(told.values[k], high.value)
        grade = root.evidence if high.proven else weakest([root.evidence, "checked"])
        heights.append(FoundPlace(high.value, high.interval, grade, high.exact))
    more_digits(told, request, scope, found.roots, window.variable, height)
    value = root_value(found, window.variable, "crossings")
    parts = {**value.parts, "value": tuple(heights)}
    parts.setdefault("y", tuple(heights))
    return told, FindingValue("crossings", value.places, parts)


# ---------------------------------------------------------------- values


@answers("values")
def _values(request: tree.Request, scope: Evaluator, _: Progress) -> tuple[FindingDraft, Value]:
    """A table of values over the list that the variable goes through."""
    window = request.windows[0]
    places = list(elements(scope, window))
    subject = request.subjects[0]
    items = subject.items if isinstance(subject, tree.ListOf) else (subject,)
    listed = tree.ListOf(window.start, window.end, ())
    columns: dict[str, ListValue | ItemsValue] = {}
    variable_column = collected(places, listed)
    assert isinstance(variable_column, ListValue | ItemsValue)
    columns[window.name] = variable_column
    element = tree.Comprehension(subject.start, subject.end, subject, (window,), None)
    for place, item in enumerate(items, 1):
        column = scope.value(tree.Comprehension(element.start, element.end, item, (window,), None))
        assert isinstance(column, ListValue | ItemsValue)
        if scope.told_in is not None and isinstance(column, ListValue):
            column = scope.list_in_unit(column, scope.told_in, item)
        columns[_column_name(item, columns, place if len(items) > 1 else 0)] = column
    table = TableValue("values", columns)
    return table_finding(table, "floating-point arithmetic, about 15 digits", window.name, "checked"), table


def _column_name(item: tree.Expression, taken: dict[str, Any], place: int) -> str:
    function = item.function if isinstance(item, tree.Call) else None
    name = "value" if not place else f"value_{place}"
    if isinstance(function, tree.Prime) and isinstance(function.function, tree.Name):
        name = function.function.name + "'" * function.order
    elif isinstance(function, tree.Name):
        name = function.name
    while name in taken:
        name += "_"
    return name


@answers("fit")
def _fit(request: tree.Request, scope: Evaluator, _: Progress) -> tuple[FindingDraft, Value]:
    return together(request, scope)


_OWN_GRADES = frozenset({"fit", "values", "budget"})  # what is found from data has grades of its own


__all__ = ["budgets", "calculus", "centroids", "extremes", "solutions", "work_out"]
