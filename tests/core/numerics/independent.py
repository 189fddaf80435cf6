"""A second reading of formulas, for tests: text of the language with a function for mpmath, made side by side.

Nothing of the application is used here, so what both agree on does not rest on one mistake.
"""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import mpmath

Real = Any  # mpmath.mpf


class NoValue(Exception):
    """There is no real value at the place."""


@dataclass(frozen=True)
class Made:
    text: str
    value: Callable[[Real], Real]
    smooth: bool  # without jumps


def real(value: Any) -> Real:
    if isinstance(value, mpmath.mpc):
        if value.imag != 0:
            raise NoValue
        value = value.real
    if mpmath.isnan(value) or mpmath.isinf(value):
        raise NoValue
    return value


def _ln(x: Real) -> Real:
    if x <= 0:
        raise NoValue
    return mpmath.log(x)


def _sqrt(x: Real) -> Real:
    if x < 0:
        raise NoValue
    return mpmath.sqrt(x)


def _over(a: Real, b: Real) -> Real:
    if b == 0:
        raise NoValue
    return a / b


ONE_ARGUMENT: list[tuple[str, Callable[[Real], Real]]] = [
    ("sin({})", mpmath.sin), ("cos({})", mpmath.cos), ("exp(-({})^2)", lambda u: mpmath.exp(-u * u)), ("abs({})", abs),
    ("atan({})", mpmath.atan), ("tanh({})", mpmath.tanh), ("sqrt(({})^2 + 1)", lambda u: mpmath.sqrt(u * u + 1)),
    ("ln(({})^2 + 0.5)", lambda u: mpmath.log(u * u + mpmath.mpf(1) / 2)), ("sqrt({})", _sqrt), ("ln({})", _ln),
    ("({})^2", lambda u: u * u), ("({})^3", lambda u: u**3), ("1/({})", lambda u: _over(mpmath.mpf(1), u)),
    ("floor({})", lambda u: floor(u)), ("erf({})", mpmath.erf), ("cbrt({})", lambda u: mpmath.sign(u) * mpmath.cbrt(abs(u))),
    ("sign({})", lambda u: mpmath.sign(u)),
]  # fmt: skip
TWO_ARGUMENTS: list[tuple[str, Callable[[Real, Real], Real]]] = [
    ("({} + {})", lambda a, b: a + b), ("({} - {})", lambda a, b: a - b), ("{}*{}", lambda a, b: a * b),
    ("({})/({})", _over), ("max({}, {})", max), ("min({}, {})", min), ("({} + {})", lambda a, b: a + b), ("({} - {})", lambda a, b: a - b),
]  # fmt: skip
JUMPING = ("floor", "sign")


def random_formula(source: random.Random, depth: int = 3) -> Made:
    """A formula of x of at most that depth."""
    if depth == 0 or source.random() < 0.18:
        kind = source.randrange(4)
        if kind == 0:
            n = source.randrange(-3, 4)
            return Made(f"({n})", lambda _, n=n: mpmath.mpf(n), True)  # type: ignore[misc]
        if kind == 1:
            a, b = source.randrange(1, 5), source.randrange(-4, 5)
            return Made(f"({a}*x + {b}/4)".replace("+ -", "- "), lambda x, a=a, b=b: a * x + mpmath.mpf(b) / 4, True)  # type: ignore[misc]
        return Made("x", lambda x: x, True)
    if source.random() < 0.45:
        text, apply = source.choice(ONE_ARGUMENT)
        inner = random_formula(source, depth - 1)
        smooth = inner.smooth and not text.startswith(JUMPING)
        return Made(text.format(inner.text), lambda x, f=apply, u=inner.value: f(u(x)), smooth)  # type: ignore[misc]
    text, join = source.choice(TWO_ARGUMENTS)
    left, right = random_formula(source, depth - 1), random_formula(source, depth - 1)
    return Made(
        text.format(left.text, right.text), lambda x, f=join, u=left.value, v=right.value: f(u(x), v(x)), left.smooth and right.smooth
    )  # type: ignore[misc]


def floor(u: Real) -> Real:
    """The whole number below. What is whole but for the rounding of an argument such as -9/5 is that number: all but the last 15 digits
    that are worked with are read here. What is smaller than any such rounding is no rest of a difference, and truly beside zero."""
    nearest = mpmath.nint(u)
    rounding = mpmath.mpf(10) ** (15 - mpmath.mp.dps) * max(1, abs(u))
    tiny = 0 < abs(u) < mpmath.mpf(10) ** (-15 - mpmath.mp.dps)
    return nearest if abs(u - nearest) < rounding and not tiny else mpmath.floor(u)


def value_of(made: Made, x: Real) -> Real | None:
    """The real value, or None where there is none."""
    try:
        return real(made.value(mpmath.mpf(x)))
    except (NoValue, ZeroDivisionError, ValueError, OverflowError):
        return None
