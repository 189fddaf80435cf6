"""Integrals over a finite span, with an interval that is proven to hold them.

Method: Arb's integration on the complex plane (F. Johansson, "Numerical integration in arbitrary-precision ball
arithmetic", ICMS 2018), piece by piece between joints and poles. Where a formula has no complex reading, two
independent rules of floating-point numbers are compared and the grade is *checked* at best.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from flint import acb, arb
from scipy import integrate

from ..formula.ball import precision
from ..formula.certain import certain_value, decimal_interval, nearest_double
from ..formula.complex import NoComplex, complex_reading
from ..formula.domain import joints, piece_at, without_guards
from ..formula.nodes import Formula, expanded
from ..formula.tape import NoBall, Tape
from .evidence import Evidence

_BITS = 80
_GOAL = 2.0**-56
_MOST = 60_000  # evaluations of one piece


@dataclass(frozen=True, slots=True)
class Integral:
    """value: the nearest double. interval: holds the integral where `evidence` is proven; else what two rules agree on."""

    value: float
    interval: tuple[str, str]
    evidence: Evidence
    method: str
    error: float


class NoIntegral(Exception):
    """There is no integral that could be given; the text says why."""


def integral_of(formula: Formula, variable: str, low: Formula, high: Formula) -> Integral:
    """The integral over a finite span. Raises NoIntegral where the function has no value in part of the span or diverges."""
    inner = sorted((certain_value(j).value, j) for j in joints(formula, variable))
    ends = certain_value(low).value, certain_value(high).value
    places = [low, *(j for v, j in inner if ends[0] < v < ends[1]), high]
    whole = expanded(formula)
    _defined(whole, variable, ends)
    try:
        total = _proven(whole, variable, places)
    except (NoComplex, NoBall):
        total = None
    if total is not None:
        error = float(total.rad())
        return Integral(
            nearest_double(total), decimal_interval(total), "proven", "Arb's integration on balls of complex numbers, piece by piece", error
        )
    return _by_two_rules(whole, variable, [certain_value(p).value for p in places])


def _defined(formula: Formula, variable: str, ends: tuple[float, float]) -> None:
    """Refuse where the function has no value over part of the span; single places are let through."""
    x = np.linspace(*ends, 1999)[1:-1] + (ends[1] - ends[0]) * 1e-5
    y = np.broadcast_to(np.asarray(Tape([formula], [variable]).numeric(x)[0], dtype=float), x.shape)
    bad = ~np.isfinite(y)
    if bad.sum() > 2:
        raise NoIntegral(f"the function has no value from about {x[bad][0]:.4g} on; a span inside its domain is needed")


def _proven(formula: Formula, variable: str, places: list[Formula]) -> Any:
    """The sum over the pieces as a ball; None where no narrow enough one was found."""
    total = arb(0)
    with precision(_BITS):
        for low, high in pairwise(places):
            middle = (certain_value(low).value + certain_value(high).value) / 2
            piece = without_guards(piece_at(formula, variable, middle), variable)
            run = complex_reading(piece, variable)
            a, b = (acb(Tape([e], []).ball()[0]) for e in (low, high))
            found = _integral(run, a, b)
            if found is None:
                return None
            total = total + found
    return total if total.is_finite() and (total.rel_accuracy_bits() > 40 or float(total.rad()) < 1e-13) else None


def _integral(run: Callable[[Any, bool], Any], low: Any, high: Any) -> Any:
    goals = {"rel_tol": arb(_GOAL), "abs_tol": arb(_GOAL) * arb(2) ** -8}
    found = acb.integral(lambda z, analytic: run(z, bool(analytic)), low, high, eval_limit=_MOST, **goals)
    if not found.is_finite() or not found.imag.contains(0):
        return None
    return found.real


def _by_two_rules(formula: Formula, variable: str, places: list[float]) -> Integral:
    tape = Tape([formula], [variable])

    def values(x: Any) -> Any:
        with np.errstate(all="ignore"):
            return np.broadcast_to(np.asarray(tape.numeric(np.asarray(x, dtype=float))[0], dtype=float), np.shape(x))

    first = second = 0.0
    spread = 0.0
    for low, high in pairwise(places):
        with np.errstate(all="ignore"):
            value, error, *rest = integrate.quad(lambda t: float(values(np.array([t]))[0]), low, high, limit=400, full_output=1)
        if not np.isfinite(value) or (len(rest) > 1 and "divergent" in str(rest[1])):
            raise NoIntegral("the integral seems to diverge; end the span before the place where the function grows without bound")
        other = _double_exponential(values, low, high)
        first, second, spread = first + value, second + other, spread + abs(error)
    away = abs(first - second)
    agree = away <= 1e-9 * max(abs(first), 1e-12) + 1e-13
    if not agree and (not np.isfinite(second) or away > 0.01 * max(abs(first), abs(second))):
        raise NoIntegral("two ways of working it out do not agree; the integral seems to diverge, or the function is too wild")
    error = max(away, spread)
    method = "two rules compared: Gauss-Kronrod and tanh-sinh"
    return Integral(first, (repr(first - error), repr(first + error)), "checked" if agree else "open", method, error)


def _double_exponential(values: Callable[[Any], Any], low: float, high: float) -> float:
    """The tanh-sinh rule (H. Takahasi, M. Mori, Publ. RIMS 9 (1974) 721), halved until it rests."""
    before = np.nan
    for level in range(3, 12):
        t = np.arange(-4.2, 4.2 + 1e-12, 2.0 ** (1 - level))
        u = np.pi / 2 * np.sinh(t)
        # Distances from the ends, so that places next to an end keep their digits.
        near = 1 / (np.exp(2 * np.abs(u)) + 1) * (high - low)
        x = np.where(u < 0, low + near, high - near)
        weight = np.pi / 2 * np.cosh(t) / np.cosh(u) ** 2
        y = values(x)
        keep = np.isfinite(y) & (x > low) & (x < high)
        total = float(np.sum((y * weight)[keep]) * 2.0 ** (1 - level) * (high - low) / 2)
        if abs(total - before) <= 1e-13 * abs(total):
            return total
        before = total
    return before
