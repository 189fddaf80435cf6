"""A formula with its slopes as functions of arrays: by rule where there is one, else by differences."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from ..formula.calculus import NoDerivative, derivative
from ..formula.nodes import Formula
from ..formula.tape import Tape
from ..numerics.curves.implicit import PlaneGradient

Reading = Callable[..., Any]
_STEP = 1e-6


def reading(formula: Formula, names: Sequence[str]) -> Reading:
    """Values as floats, in the shape that the arguments have together."""
    tape = Tape([formula], names)

    def values(*at: Any) -> Any:
        shape = np.broadcast_shapes(*(np.shape(a) for a in at))
        return np.broadcast_to(np.asarray(tape.numeric(*at)[0], dtype=float), shape)

    return values


def value_of(formula: Formula) -> float:
    """The number that a formula without variables stands for."""
    return float(np.asarray(Tape([formula], []).numeric()[0]))


def slope(formula: Formula, names: Sequence[str], by: str) -> Reading:
    """The derivative by one of the names."""
    try:
        return reading(derivative(formula, by), names)
    except NoDerivative:
        return differences(reading(formula, names), list(names).index(by))


def differences(f: Reading, place: int) -> Reading:
    """The slope along one argument, from values to both sides of it."""

    def values(*at: Any) -> Any:
        h = _STEP * np.maximum(1.0, np.abs(at[place]))
        low, high = list(at), list(at)
        low[place], high[place] = at[place] - h, at[place] + h
        return (f(*high) - f(*low)) / (2 * h)

    return values


def second(formula: Formula, names: Sequence[str]) -> list[Reading] | None:
    """Second derivatives in the order of the upper triangle, row by row; None where a rule is missing."""
    try:
        firsts = [derivative(formula, n) for n in names]
        return [reading(derivative(firsts[i], names[j]), names) for i in range(len(names)) for j in range(i, len(names))]
    except NoDerivative:
        return None


def gradient(formula: Formula, names: tuple[str, str]) -> PlaneGradient:
    """F with its derivatives; by differences where there is no rule."""
    bends = second(formula, names)
    first = slope(formula, names, names[0]), slope(formula, names, names[1])
    return PlaneGradient(reading(formula, names), *first, None if bends is None else (bends[0], bends[1], bends[2]))
