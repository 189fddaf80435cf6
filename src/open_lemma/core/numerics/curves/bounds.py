"""Proven bounds of a function between two places, for those who must not overlook anything."""

from __future__ import annotations

from flint import arb

from ...formula.ball import branches, doubt, precision
from ...formula.calculus import NoDerivative, derivative
from ...formula.nodes import Formula
from ...formula.tape import NoBall, Tape
from .sampling import Bounds

INFINITE = float("inf")


def bounds_of(formula: Formula, variable: str) -> Bounds | None:
    """A function from two places to the least and greatest value between them; None where there is no ball reading."""
    try:
        tape = Tape([formula, derivative(formula, variable)], [variable])
    except NoDerivative:
        tape = Tape([formula], [variable])
    try:
        with precision(53):
            list(branches(lambda: tape.ball(arb(1))))
    except NoBall:
        return None

    def bounds(low: float, high: float) -> tuple[float, float]:
        with precision(53):
            return _bounds(tape, arb(low).union(arb(high)))

    return bounds


def _bounds(tape: Tape, place: arb) -> tuple[float, float]:
    least, most = INFINITE, -INFINITE
    for values in branches(lambda: tape.ball(place)):
        if values is None or not values[0].is_finite():
            return -INFINITE, INFINITE
        value = values[0]
        if len(values) == 2 and doubt.clean and values[1].is_finite():
            # The mean value form is far narrower on small intervals.
            middle = place.mid()
            value = value.intersection(tape.ball(middle)[0] + values[1] * (place - middle))
        least, most = min(least, float(value.lower())), max(most, float(value.upper()))
    return (least, most) if least <= most else (0.0, 0.0)
