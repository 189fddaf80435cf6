"""Quantities: a number or a list with its unit in square brackets."""

from __future__ import annotations

from dataclasses import replace as changed
from typing import TYPE_CHECKING

from ...formula.nodes import Named
from ...formula.units import BadUnit, Unit, parse_unit
from ...language import tree
from ...language.messages import advise
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
        _no_second_unit(found.unit, e)
        return changed(found, formula=Named("", found.formula, unit=unit))
    if isinstance(found, ListValue):
        _no_second_unit(found.unit, e)
        return changed(found, unit=unit)
    raise refusal("unit", f"{described(found)} has no unit", e)


def _no_second_unit(unit: Unit | None, e: tree.Quantity) -> None:
    if unit is not None and not unit.plain:
        raise refusal("unit", f"this value has the unit [{unit}] already", e, advise("multiply by a conversion: 1000 [mm/m]"))


def unit_said(e: tree.Quantity) -> Unit:
    """The unit that stands in square brackets. Raises Refused."""
    try:
        return parse_unit(e.unit)
    except BadUnit as trouble:
        raise refusal("unit", f"{trouble}", e, advise("[m/s^2]")) from None
