"""Curves through very many points, in doubles: exact quotients cost too much there, and say no more than the data do."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from scipy.interpolate import CubicSpline

from ...formula.many_pieces import ManyKnots, ManyPieces
from ...formula.piecewise import PiecewisePolynomial
from .curves import Ends, InterpolatedCurve, Kind, NotInterpolable

MANY = 5_000  # points from which on a curve is worked out in doubles
_NOTE = "so many points are worked with as doubles, and the slopes at them are rounded"
_ROUNDED = 8 * 2.0**-53  # of the sizes of the terms of a piece: what its integral may be off


def interpolate_many(name: str, xs: Any, ys: Any, kind: Kind = "spline", ends: Ends = "not-a-knot") -> InterpolatedCurve:
    """The curve of one kind through points (n,) of doubles, in any order of x. Raises NotInterpolable."""
    order = np.argsort(xs, kind="stable")
    x, y = np.asarray(xs, dtype=float)[order], np.asarray(ys, dtype=float)[order]
    notes = [_NOTE] if (np.diff(order) > 0).all() else ["the points were put in rising order of x", _NOTE]
    again = np.flatnonzero(np.diff(x) == 0)
    if again.size:
        text = f"x = {x[again[0]]:.9g} is given more than once; a curve has one value there"
        raise NotInterpolable("repeated-x", text, "take the mean of those points, or fit a model to them")
    if ends == "periodic" and y[0] != y[-1]:
        text = f"a periodic curve ends where it began, and here y is {y[0]:.9g} first and {y[-1]:.9g} last"
        raise NotInterpolable("not-periodic", text, "give the first point again at the end of the period")
    slopes, continuous = None, 0
    if kind == "spline":
        # C. de Boor, "A Practical Guide to Splines", 1978, chapter IV.
        slopes, continuous = CubicSpline(x, y, bc_type=ends)(x, 1), 2
    elif kind == "monotone":
        slopes, continuous = _monotone_slopes(x, y), 1
    elif kind != "segments":
        raise NotInterpolable("too-many-points", f"this kind goes through at most {MANY} points; there are {len(x)}", "by spline")
    return InterpolatedCurve(
        PiecewisePolynomial(name, ManyKnots(x), ManyPieces(x, y, slopes), continuous), kind, False, notes, around=ends == "periodic"
    )


def _monotone_slopes(x: Any, y: Any) -> Any:
    """As `curves` has them, for arrays."""
    h = np.diff(x)
    rise = np.diff(y) / h
    a, b, w, v = rise[:-1], rise[1:], 2 * h[1:] + h[:-1], h[1:] + 2 * h[:-1]
    with np.errstate(all="ignore"):
        inner = np.where(a * b > 0, (w + v) / (w / a + v / b), 0.0)
    return np.concatenate([[_end_slope(h[0], h[1], rise[0], rise[1])], inner, [_end_slope(h[-1], h[-2], rise[-1], rise[-2])]])


def _end_slope(h: float, next_h: float, rise: float, next_rise: float) -> float:
    slope = ((2 * h + next_h) * rise - h * next_rise) / (h + next_h)
    if slope * rise <= 0:
        return 0.0
    return 3 * rise if rise * next_rise <= 0 and abs(slope) > 3 * abs(rise) else slope


def integral_of_pieces(source: PiecewisePolynomial, low: float, high: float) -> tuple[float, float]:
    """The integral of a piecewise polynomial between two places in doubles, and a bound of what rounding did to it."""
    knots, table = source.doubles
    inner = knots[(knots > low) & (knots < high)]
    stops = np.concatenate([[low], inner, [high]])
    piece = np.clip(np.searchsorted(knots, (stops[:-1] + stops[1:]) / 2, side="right") - 1, 0, len(knots) - 2)
    start, end = stops[:-1] - knots[piece], stops[1:] - knots[piece]
    total, sizes = [], []
    for power in range(len(table)):
        row = table[power][piece] / (power + 1)
        # b^(k+1) - a^(k+1) over one piece, the short ones without a difference of large numbers.
        steps = (end - start) * sum(end**j * start ** (power - j) for j in range(power + 1))
        total.append(row * steps)
        sizes.append(np.abs(row) * (end - start) * np.maximum(np.abs(end), np.abs(start)) ** power * (power + 1))
    rough = float(sum(s.sum() for s in sizes))
    return math.fsum(np.concatenate(total).tolist()), rough * _ROUNDED * len(table)
