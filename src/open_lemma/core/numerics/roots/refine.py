"""More digits of a place that is known to hold just one root."""

from __future__ import annotations

from typing import Any

from ...formula.ball import branches, doubt, precision
from ...formula.calculus import NoDerivative, derivative
from ...formula.certain import rounded_text
from ...formula.nodes import Formula
from ...formula.tape import NoBall, Tape

SPARE = 24  # bits beyond those that are asked for


def bits_for(digits: int) -> int:
    return int(digits * 3.3220) + SPARE


def refined(formula: Formula, variable: str, ball: Any, multiplicity: int | None, digits: int) -> Any:
    """The ball of a root made narrow enough for so many significant digits, by interval Newton steps.

    For a root of multiplicity m the (m-1)-th derivative is used, of which it is a simple root. Where the steps do not
    help (no derivative, none known) the ball comes back as it was.
    """
    try:
        for _ in range((multiplicity or 1) - 1):
            formula = derivative(formula, variable)
        slope = derivative(formula, variable)
    except NoDerivative:
        return ball
    value, rate = Tape([formula], [variable]), Tape([slope], [variable])
    wanted = bits_for(digits)
    bits = 128
    place = ball
    while True:
        bits = min(2 * bits, wanted + SPARE)
        with precision(bits):
            narrower = _step(value, rate, place)
        if narrower is None:
            return place
        stuck = narrower.rad() * 2 > place.rad()
        place = narrower
        if place.rad() == 0 or place.rel_accuracy_bits() >= wanted or (stuck and bits >= wanted):
            return place


def _step(value: Tape, rate: Tape, place: Any) -> Any | None:
    """m - f(m)/f'(X), met with X (Moore, Kearfott and Cloud 2009, eq. 8.8)."""
    middle = place.mid()
    try:
        at = _one(value, middle)
        slope = _one(rate, place)
    except NoBall:
        return None
    if at is None or slope is None or slope.contains(0):
        return None
    found = middle - at / slope
    return found.intersection(place) if found.overlaps(place) else None


def _one(tape: Tape, place: Any) -> Any | None:
    found = None
    for values in branches(lambda: tape.ball(place)):
        if values is None or found is not None or not values[0].is_finite():
            return None
        found = values[0]
    return found if doubt.clean else None


def certain_digits(ball: Any, digits: int) -> str:
    """The number in so many significant digits, rounded; fewer where the ball is too wide for that many to be certain."""
    with precision(bits_for(digits) + 64):
        for n in range(digits, 0, -1):
            low, high = rounded_text(ball.lower(), n), rounded_text(ball.upper(), n)
            if low == high:
                return low
    return "0" if ball.contains(0) else ""
