"""Mean and variance of a list, of the decimals as they were written where the doubles can be read as such.

The doubles nearest to 10000000.1 and 10000000.3 are 0.2 apart with an error in the ninth digit, which the textbook formulas
hand on to the standard deviation. Read as whole multiples of a power of ten the sums are exact, and rounded once at the end.
"""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Any

import numpy as np

_PROBE = 64
_WHOLE = 2.0**53


def mean(xs: Any) -> float:
    """Arithmetic mean of xs (n,), n > 0: correctly rounded for decimals, else as NumPy sums."""
    found = _as_decimals(xs)
    if found is None:
        return float(np.mean(xs))
    first, steps, power = found
    return float((first + Fraction(_total(steps), len(steps))) / power)


def variance(xs: Any) -> float:
    """Variance of a sample xs (n,), divisor n - 1: correctly rounded for decimals; NaN for fewer than two values.

    Else by two passes with the correction of T. F. Chan, G. H. Golub and R. J. LeVeque, Am. Stat. 37 (1983) 242, equation (1.7).
    """
    exact = exact_variance(xs)
    if exact is not None:
        return float(exact)
    n = len(xs)
    if n < 2:
        return math.nan
    off = xs - np.mean(xs)
    return float((np.sum(off * off) - np.sum(off) ** 2 / n) / (n - 1))


def sd(xs: Any) -> float:
    """Standard deviation of a sample: the square root of `variance`."""
    return math.sqrt(variance(xs))


def exact_variance(xs: Any) -> Fraction | None:
    """Variance of a sample of decimals; None for what is none, and for fewer than two values."""
    found = _as_decimals(xs) if len(xs) > 1 else None
    if found is None:
        return None
    _, steps, power = found
    n = len(steps)
    total, squares = _total(steps), _total_of_squares(steps)
    return Fraction(n * squares - total * total, n * (n - 1) * power * power)


def _as_decimals(xs: Any) -> tuple[int, Any, int] | None:
    """xs as (first + steps) / power, steps whole numbers (n,) of 64 bits; None where no power of ten up to 1e15 does it."""
    xs = np.asarray(xs, dtype=float)
    for digits in range(16):
        power = 10.0**digits
        if _whole(xs[:_PROBE], power) is not None:
            whole = _whole(xs, power)
            if whole is not None:
                return int(whole[0]), whole - whole[0], 10**digits
    return None


def _whole(xs: Any, power: float) -> Any:
    """xs * power where each x is the double nearest to a whole number through `power`; None where one is not."""
    with np.errstate(over="ignore", invalid="ignore"):
        found = np.rint(xs * power)
        # Both are doubles without an error (10^22 is the greatest such power), so that the quotient is rounded once.
        if not np.all(np.abs(found) <= _WHOLE) or np.any(found / power != xs):
            return None
    return found.astype(np.int64)


def _total(steps: Any) -> int:
    most = int(np.abs(steps).max())
    return int(steps.sum()) if most * len(steps) < 2**62 else sum(steps.tolist())


def _total_of_squares(steps: Any) -> int:
    most = int(np.abs(steps).max())
    return int(np.dot(steps, steps)) if most * most * len(steps) < 2**62 else sum(k * k for k in steps.tolist())
