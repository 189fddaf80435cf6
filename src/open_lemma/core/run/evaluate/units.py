"""Quantities: a number or a list with its unit in square brackets."""

from __future__ import annotations

import re
from dataclasses import replace as changed
from typing import TYPE_CHECKING

import numpy as np

from ...formula.certain import certain_value
from ...formula.estimates import Estimates, Origin
from ...formula.nodes import Given, Named
from ...formula.quantities import bare
from ...formula.units import BadUnit, Unit, parse_unit
from ...language import tree
from ...language.messages import advise
from ...record.notation import format_short
from ..values import FindingValue, ListValue, Scalar, Value
from .refusals import described, refusal

if TYPE_CHECKING:
    from .evaluator import Evaluator


def quantity(scope: Evaluator, e: tree.Quantity) -> Value:
    """A number or a list with a unit behind it; what has a unit already takes no second. Raises Refused."""
    unit = unit_said(e)
    found = scope.value(e.value)
    if isinstance(found, FindingValue):
        found = scope.as_number(found, e.value)
    if isinstance(found, Scalar):
        if found.unit is not None and not found.unit.plain:
            return scope.in_unit(found, unit, e)
        return changed(found, formula=Named("", found.formula, unit=unit))
    if isinstance(found, ListValue):
        _no_second_unit(found.unit, e)
        return changed(found, unit=unit)
    raise refusal("unit", f"{described(found)} has no unit", e)


_PLAIN = re.compile(r"[\d.]+ *(±|\+/-) *[\d.]+")


def uncertain(scope: Evaluator, e: tree.Uncertain) -> Value:
    """A number with its standard uncertainty: a source of its own, on which what is made from it rests. Raises Refused."""
    value = scope.number(e.value)
    error = scope.in_unit(scope.number(e.error), value.unit, e.error)
    if not error.value >= 0:
        raise refusal("uncertain", f"a standard uncertainty is not negative; this one is {format_short(error.value)}", e.error)
    found = certain_value(bare(value.formula))
    name = scope.text[e.start : e.end]
    estimates = Estimates((name,), np.array([found.value]), np.array([[error.value**2]]), key=f"{name} at {e.start}")
    interval = found.interval if value.proven else None
    return scope.as_scalar(
        Given(found.value, interval, unit=value.unit, origin=Origin(estimates, 0, name if _PLAIN.fullmatch(name) else ""))
    )


def _no_second_unit(unit: Unit | None, e: tree.Quantity) -> None:
    if unit is not None and not unit.plain:
        raise refusal("unit", f"this value has the unit [{unit}] already", e, advise("multiply by a conversion: 1000 [mm/m]"))


def unit_said(e: tree.Quantity) -> Unit:
    """The unit that stands in square brackets. Raises Refused."""
    return unit_in(e.unit, e)


def unit_in(text: str, e: tree.Node) -> Unit:
    """A text as a unit. Raises Refused."""
    try:
        return parse_unit(text)
    except BadUnit as trouble:
        raise refusal("unit", f"{trouble}", e, advise("[m/s^2]")) from None
