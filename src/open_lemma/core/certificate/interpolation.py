"""Curves through points: that a piecewise polynomial takes the given values, is as smooth as said, and of its kind. All in fractions.

segments    straight pieces            monotone    cubics of which none turns between its knots
spline      cubics                     polynomial  one piece
"""

from __future__ import annotations

from bisect import bisect_right
from fractions import Fraction
from itertools import pairwise
from typing import Any

from .cover import ULP, Unproven, fraction

MOST_PIECES = 20_000
DEGREES = {"segments": 1, "monotone": 3, "spline": 3, "polynomial": 60}


def through_points(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> tuple[list[bool], bool, int, list[str]]:
    """One row: `kind`, `points`, `pieces`, `low`, `high`, and `continuous`, how many derivatives are continuous at the knots.
    Whether it holds, twice; how many pieces were looked at; what did not hold. Raises Unproven."""
    kind, data = certificate["kind"], certificate["data"]
    knots = [fraction(k) for k in data["knots"]]
    pieces = [[fraction(v) for v in piece] for piece in data["pieces"]]
    points = [(fraction(x), fraction(y)) for x, y in data["points"]]
    if len(rows) != 1 or not points or not 0 < len(pieces) == len(knots) - 1 <= MOST_PIECES or sorted(set(knots)) != knots:
        raise Unproven("no piecewise polynomial")
    if any(not 0 < len(piece) <= DEGREES[kind] + 1 for piece in pieces) or (kind == "polynomial" and len(pieces) > 1):
        raise Unproven(f"no curve of the kind {kind}")
    row, widths = rows[0], [b - a for a, b in pairwise(knots)]
    for x, y in points:
        if not knots[0] <= x <= knots[-1]:
            raise Unproven(f"x = {x} lies beyond the curve")
        k = min(bisect_right(knots, x), len(pieces)) - 1
        if _derivative(pieces[k], x - knots[k], 0) != y:
            raise Unproven(f"the curve does not go through ({x}, {y})")
    for k, width in enumerate(widths[:-1]):
        if any(_derivative(pieces[k], width, n) != _derivative(pieces[k + 1], Fraction(0), n) for n in range(int(row["continuous"]) + 1)):
            raise Unproven(f"the curve is not so smooth at {knots[k + 1]}")
    if kind == "monotone" and not all(_one_way(piece, width) for piece, width in zip(pieces, widths, strict=True)):
        raise Unproven("a piece that turns between its knots")
    ends = zip((row["low"], row["high"]), (knots[0], knots[-1]), strict=True)
    faults = [f"an end is {end}" for said, end in ends if abs(fraction(said) - end) > abs(end) * ULP]
    faults += [f"there are {n} {name}" for name, n in (("points", len(points)), ("pieces", len(pieces))) if row[name] != n]
    faults += [] if row["kind"] == kind else [f"it is of the kind {kind}"]
    return [not faults], not faults, len(pieces), faults


def _derivative(piece: list[Fraction], t: Fraction, n: int) -> Fraction:
    """The n-th derivative, divided by n!, of a polynomial at t."""
    total = Fraction(0)
    for power in range(len(piece) - 1, n - 1, -1):
        share = Fraction(1)
        for j in range(n):
            share = share * (power - j) / (j + 1)
        total = total * t + piece[power] * share
    return total


def _one_way(piece: list[Fraction], width: Fraction) -> bool:
    """Whether the slope of a cubic never changes its sign from 0 to `width`."""
    _, b, c, d = [*piece, *[Fraction(0)] * (4 - len(piece))]
    slopes = [b, b + 2 * c * width + 3 * d * width**2]
    if d and 0 < -c / (3 * d) < width:
        slopes.append(b - c * c / (3 * d))
    return all(s >= 0 for s in slopes) or all(s <= 0 for s in slopes)


__all__ = ["through_points"]
