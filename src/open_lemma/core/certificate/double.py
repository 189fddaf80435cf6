"""Double integrals: over x from a to b and, for each x, over y from c(x) to d(x).

The region is the image of the unit square: x = a + (b - a) s, y = c + (d - c) t. A text halves the square in prefix order: 0 across s,
1 across t; "g" is Gauss' rule with an error bound on a rectangle around which the function is holomorphic, "d" the area times the values.

Of n > 1 points on [-1, 1], a function that is no larger than M in the ellipse with the foci -1 and 1 and half axes that sum up to p has an
error of at most 64/15 M p^(-2n)/(1 - p^-2) (L. N. Trefethen, SIAM Review 50 (2008) 67, theorem 4.5).
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from functools import cache
from typing import Any

from flint import acb, arb

from .cover import Unproven, ball, bits
from .disc import square, values_on
from .evaluator import run
from .parts import Part, parts

UNIT: Part = ((Fraction(0), Fraction(1)), (Fraction(0), Fraction(1)))
MOST_READ = 1_000_000
MOST_POINTS = 60
DISCS = (6, 4, 3, 2)  # half the side of the square that holds the ellipse, in halves of the width of the rectangle
Ball = Any


class Region:
    """The region of a double integral, read through its parametrisation."""

    def __init__(self, certificate: dict[str, Any]) -> None:
        self.formula, self.ends, self.curves = certificate["formula"], certificate["ends"], certificate["curves"]
        self.names = [str(n) for n in certificate["variables"]]
        self.points, self.precision = int(certificate["nodes"]), int(certificate["bits"])
        if not (1 < self.points <= MOST_POINTS and 0 < self.precision <= 2_048 and len(set(self.names)) == 2):
            raise Unproven("a number of points or bits that is none")
        self.count = 0
        with bits(self.precision):
            low, high = (self._last(p, {"": arb(0)}) for p in self.ends)
            if low is None or high is None:
                raise Unproven("an end without a value")
            self.low, self.high = low, high

    def _last(self, program: Any, places: dict[str, Any]) -> Ball | None:
        """The value of a program on a box; None where it may have none."""
        found = run(program, places)[-1]
        return None if found is None or found.jet is None or not found.defined or not found.jet[0].is_finite() else found.jet[0]

    def across(self, s: Ball, ts: Sequence[Ball]) -> list[Ball] | None:
        """The function times the area of its image, on rectangles of the unit square with one side in common."""
        self.count += len(ts)
        if self.count > MOST_READ:
            raise Unproven("more boxes than may be checked")
        x = self.low + (self.high - self.low) * s
        below, above = (self._last(p, {self.names[0]: x}) for p in self.curves)
        if below is None or above is None:
            return None
        values = [self._last(self.formula, {self.names[0]: x, self.names[1]: below + (above - below) * t}) for t in ts]
        return None if None in values else [f * (above - below) * (self.high - self.low) for f in values]

    def largest(self, s: tuple[Ball, Any], t: tuple[Ball, Any]) -> Ball:
        """A bound of the magnitude of its continuation, each variable on a real line and a complex ball around it."""
        width = self.high - self.low
        x = self.low + width * s[0], self.low + width * s[1]
        # The real reading decides what is chosen; the complex one goes with it.
        below, above = (values_on(p, {self.names[0]: x}) for p in self.curves)
        low, high = (self._last(p, {self.names[0]: x[0]}) for p in self.curves)
        if below is None or above is None or low is None or high is None:
            return arb("nan")
        y = low + (high - low) * t[0], below + (above - below) * t[1]
        f = values_on(self.formula, {self.names[0]: x, self.names[1]: y})
        return arb("nan") if f is None else abs(f * (above - below) * width).upper()

    def over(self, code: str, s: tuple[Fraction, Fraction], t: tuple[Fraction, Fraction], most: Ball = None) -> Ball:
        """A ball that holds the integral over a rectangle of the unit square; None where what the letter says is not so.

        most: give up where the bound of the error is larger
        """
        area = ball((s[1] - s[0]) * (t[1] - t[0]))
        if code == "d":
            value = self.across(ball(s[0]).union(ball(s[1])), [ball(t[0]).union(ball(t[1]))])
            return None if value is None else value[0] * area
        middles, halves = [ball((u[0] + u[1]) / 2) for u in (s, t)], [ball((u[1] - u[0]) / 2) for u in (s, t)]
        rest = self._error(middles, halves, area)
        if code != "g" or rest is None or (most is not None and not rest.rad() <= most):
            return None
        total = rest
        rule = rule_of(self.points, self.precision)
        for node, weight in rule:
            values = self.across(middles[0] + halves[0] * node, [middles[1] + halves[1] * other for other, _ in rule])
            if values is None:
                return None
            total = total + sum((v * share for v, (_, share) in zip(values, rule, strict=True)), arb(0)) * (weight * area / 4)
        return total

    def _error(self, middles: list[Ball], halves: list[Ball], area: Ball) -> Ball:
        """The error of the rule: of one variable while the other goes through real numbers, and the other way round."""
        total = arb(0)
        lines = [(line, acb(line)) for line in (m + arb(0, 1) * h for m, h in zip(middles, halves, strict=True))]
        for k in (0, 1):
            bounds = []
            for times in DISCS:
                wide = square(middles[k], halves[k] * times)
                most = self.largest(wide, lines[1]) if k == 0 else self.largest(lines[0], wide)
                if most.is_finite():
                    p = arb(times) + (arb(times) ** 2 - 1).sqrt()
                    bounds.append((arb(64) / 15 * most / (p ** (2 * self.points) * (1 - 1 / p**2))).upper())
            if not bounds:
                return None
            # On [-1, 1] of either variable; the other's rule has weights that sum up to 2, and the area is that of a square of 4.
            total = total + min(bounds, key=float) * area / 2
        return arb(0, 1) * total.upper()


@cache
def rule_of(points: int, precision: int) -> list[tuple[Ball, Ball]]:
    """Nodes and weights of Gauss' rule."""
    with bits(precision):
        return [arb.legendre_p_root(points, k, weight=True) for k in range(points)]


def double_integral(certificate: dict[str, Any]) -> tuple[Ball, int]:
    """A ball that holds the integral, and how many rectangles were read. Raises Unproven."""
    region = Region(certificate)
    cut = parts(certificate["square"], UNIT)
    total = arb(0)
    with bits(region.precision):
        for code, (s, t) in cut:
            found = region.over(code, s, t)
            if found is None or not found.is_finite():
                raise Unproven(f"'{code}' does not hold of the integral over a part")
            total = total + found
    return total, len(cut)


__all__ = ["Region", "double_integral"]
