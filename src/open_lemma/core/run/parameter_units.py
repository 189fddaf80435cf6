"""Units of the parameters of fits: those that the model ties to the units of its data, and those that hang on an exponent."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from itertools import product
from typing import Any

import numpy as np

from ..formula import catalogue as c
from ..formula.calculus import NoDerivative
from ..formula.nodes import Apply, Formula, Named, Number, expanded, substitute, walk
from ..formula.nodes import variables as variables_in
from ..formula.quantities import unit_of
from ..formula.units import NONE, MixedUnits, Unit
from ..numerics.fitting.model import model_of
from ..numerics.fitting.scales import natural_units
from ..record.rows import FitRow
from .findings import FindingDraft

MOST_SCALES = 4  # parameters on a scale of temperatures that are tried as differences too


def parameter_units(
    numbers: Formula, formula: Formula, variables: tuple[str, ...], parameters: tuple[str, ...], units: list[Unit | None]
) -> dict[str, Unit]:
    """Units of the parameters, where the formula ties them to those of the data and all of it fits together.

    numbers: the model over bare numbers; formula: as it was written
    """
    if all(u is None or u.plain for u in units):
        return {}
    try:
        model = model_of(numbers, variables, parameters)
    except NoDerivative:
        return {}
    bases = [u or NONE for u in units]
    own: dict[str, Unit] = {}
    for name, exponents in natural_units(model, formula).items():
        unit = NONE
        for base, exponent in zip(bases, exponents, strict=True):
            power = Fraction(exponent).limit_denominator(12)
            if abs(float(power) - exponent) > 1e-5:
                return {}
            unit = unit.times(base.power(power))
        own[name] = unit
    data = {v: Named("", Number(Fraction(1)), unit=u) for v, u in zip(variables, bases, strict=False)}
    for tried in _with_differences(own):
        said = data | {p: Named("", Number(Fraction(1)), unit=u) for p, u in tried.items()}
        try:
            whole = unit_of(substitute(formula, said))
        except MixedUnits:
            continue
        if whole is not None and whole.same(bases[-1]):
            return {p: u for p, u in tried.items() if not u.plain}
    return {}


def open_units(
    numbers: Formula, variables: tuple[str, ...], parameters: tuple[str, ...], units: list[Unit | None]
) -> dict[str, tuple[str, str]]:
    """Of parameters whose unit hangs on another one, an exponent, that one and the unit as text: of C in `C*h^n` m³ s⁻¹ m^(−n)."""
    exponents = {
        v for node in walk(expanded(numbers)) if isinstance(node, Apply) and node.entry is c.POWER and variables_in(node.arguments[0])
        for v in variables_in(node.arguments[1]) & set(parameters)
    }  # fmt: skip
    bases = [u for u in units if u is not None and not u.plain]
    if len(exponents) != 1 or not bases:
        return {}
    (name,) = exponents
    rest = tuple(p for p in parameters if p != name)
    found: list[dict[str, list[float]]] = []
    for trial in (1, 2, 3):
        part = substitute(numbers, {name: Number(Fraction(trial) + Fraction(1, 7))})
        try:
            found.append(natural_units(model_of(part, variables, rest), part))
        except NoDerivative:
            return {}
    said = {}
    for p in rest:
        if not all(p in f for f in found):
            return {}
        one, two, three = (np.array(f[p]) for f in found)
        slope = two - one
        if not slope.any() or not np.allclose(three - two, slope, atol=1e-5):
            continue
        start = one - slope * float(Fraction(8, 7))
        said[p] = name, _unit_with(name, units, start, slope)
    return said


def _unit_with(name: str, units: list[Unit | None], start: Any, slope: Any) -> str:
    """A product of units, of which some are raised to a multiple of a parameter."""
    plain, raised = NONE, []
    for unit, power, times in zip([u or NONE for u in units], start, slope, strict=True):
        if unit.plain:
            continue
        plain = plain.times(unit.power(Fraction(float(power)).limit_denominator(12)))
        if abs(times) > 1e-9:
            size = f"{abs(times):.4g}" if abs(abs(times) - 1) > 1e-9 else ""
            own = str(unit) if len(unit.powers) == 1 and unit.powers[0][1] == 1 else f"({unit})"
            raised.append(f"{own}^({'−' if times < 0 else ''}{size}{name})")
    return " ".join([*([str(plain)] if not plain.plain else []), *raised])


def tell_open_units(told: FindingDraft, said: dict[str, tuple[str, str]]) -> None:
    """Put such units into the row of a fit, and say on what they hang."""
    row = told.values[0]
    if not said or not isinstance(row, FitRow):
        return
    told.values[0] = replace(row, parameters=[replace(p, unit=said[p.name][1]) if p.name in said else p for p in row.parameters])
    told.notes += [f"the unit of {p} depends on {name}: {unit}" for p, (name, unit) in said.items()]


def _with_differences(units: dict[str, Unit]) -> Iterator[dict[str, Unit]]:
    """The units of parameters; of those on a scale of temperatures each in turn as a difference too, which is one of kelvins."""
    composed = {p: u.stepped() for p, u in units.items()}
    scales = [p for p, u in composed.items() if u.zero][:MOST_SCALES]
    for chosen in product((False, True), repeat=len(scales)):
        yield composed | {p: composed[p].stepped(alone=True) for p, taken in zip(scales, chosen, strict=True) if taken}
