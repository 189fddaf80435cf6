"""From elements to lists and back: one number of a list, of a finding; a list of numbers."""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from ...formula.certain import certain_value
from ...formula.estimates import estimated
from ...formula.exact_lists import MAX_EXACT_LIST
from ...formula.inexact import rests_on_doubles
from ...formula.nodes import Formula, Given, Named, Number
from ...formula.quantities import bare, converted
from ...formula.units import Unit
from ...language import tree
from ...record.notation import format_short
from ..values import GAP, FindingValue, FoundPlace, ItemsValue, ListValue, Scalar, TextValue, TruthValue, Value
from .refusals import described, refusal


def collected(values: list[Value], e: tree.Node) -> Value:
    """A list of values: of numbers where all are numbers, else of whatever they are."""
    plain = [place_number(v.places[0]) if isinstance(v, FindingValue) and len(v.places) == 1 else v for v in values]
    numbers = [v for v in plain if isinstance(v, Scalar)]
    if len(numbers) < len(plain):
        return ItemsValue(tuple(plain))
    units = [v.unit for v in numbers if not v.gap]
    said = [u for u in units if u is not None]
    if said and any(u is None or not u.like(said[0]) for u in units):
        raise refusal("units", "the elements of this list have different units", e)
    if said:
        numbers = [v if v.gap or v.unit is None or v.unit.same(said[0]) else _in_unit(v, said[0]) for v in numbers]
    exact = tuple(v.exact for v in numbers) if len(numbers) <= MAX_EXACT_LIST else ()
    kept = None if not exact or None in exact else exact
    formulas = None
    if len(numbers) <= MAX_EXACT_LIST and any(estimated(v.formula) for v in numbers):
        formulas, kept = tuple(bare(v.formula) for v in numbers), None
    data = np.array([v.value for v in numbers], dtype=float)
    return ListValue(data, said[0] if said else None, exact=kept, formulas=formulas)  # type: ignore[arg-type]


def _in_unit(value: Scalar, unit: Unit) -> Scalar:
    assert value.unit is not None
    formula = Named("", bare(converted(value.formula, value.unit, unit)), unit=unit)
    found = certain_value(formula)
    return Scalar(formula, found.value, found.exact, found.interval, found.proven and value.proven)


def of_formula(formula: Formula, unit: Unit | None) -> Scalar:
    """A number by its formula over bare numbers, in a unit."""
    found = certain_value(formula)
    whole = formula if unit is None else Named("", formula, unit=unit)
    sure = found.proven and not rests_on_doubles(formula)
    return Scalar(whole, found.value, None, found.interval if sure else None, sure)


def element(xs: ListValue, index: int) -> Scalar:
    """One element of a list, counted from 0."""
    value = float(xs.data[index])
    if value != value:
        return GAP
    if xs.formulas is not None:
        return of_formula(xs.formulas[index], xs.unit)
    if xs.exact is not None:
        exact = xs.exact[index]
        formula: Formula = Number(exact)
        return Scalar(formula if xs.unit is None else Named("", formula, unit=xs.unit), value, exact, None, True)
    return Scalar(Given(value, unit=xs.unit), value, None, None, False)


def place_number(place: FoundPlace) -> Scalar:
    """A place that was found, as the number it is."""
    if place.exact is not None and (place.formula is None or not estimated(place.formula)):
        exact: Formula = Number(place.exact)
        exact = exact if place.unit is None else Named("", exact, unit=place.unit)
        return Scalar(exact, place.value, place.exact, place.interval, place.evidence == "proven")
    # An interval that was not proven may leave the number out: what rests on it went through doubles.
    formula = place.formula or Given(place.value, place.interval if place.evidence == "proven" else None)
    formula = formula if place.unit is None else Named("", formula, unit=place.unit)
    return Scalar(formula, place.value, None, place.interval, place.evidence == "proven")


def as_text(value: Value, e: tree.Expression) -> str:
    """A value as it is joined to a text. Raises Refused for what has no short text."""
    if isinstance(value, TextValue):
        return value.text
    if isinstance(value, Scalar):
        unit = value.unit
        return format_short(value.value) + (f" {unit}" if unit is not None and not unit.plain else "")
    if isinstance(value, FindingValue) and len(value.places) == 1:
        return format_short(value.places[0].value)
    if isinstance(value, TruthValue):
        return "true" if value.truth else "false"
    raise refusal("not-joined", f"a text and {described(value)} cannot be joined", e)


def items_of(value: Value) -> tuple[Value, ...]:
    """The elements of a list of any kind; a single value is one."""
    if isinstance(value, ItemsValue):
        return value.items
    if isinstance(value, ListValue):
        return tuple(element(value, k) for k in range(len(value.data)))
    return (value,)


def whole(n: int) -> Scalar:
    return Scalar(Number(Fraction(n)), float(n), Fraction(n), None, True)
