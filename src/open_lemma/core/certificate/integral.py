"""Integrals: the window as a cover, and an enclosure of the integral over each part of it.

    i  holomorphic on a disc around: the integral of its Taylor polynomial, and a rest by the largest value on that disc (see `disc`)
    j  as often differentiable as the order says: the same, with Lagrange's form of the rest
    d  a value everywhere: the width times the values
    e  the function keeps an exponent up to the point, or to infinity (see `growth`)

With an even order n and the middle m of a box of half the width h, the integral is the sum over even k < n of 2 f_k(m) h^(k+1)/(k+1),
f_k being the k-th Taylor coefficient, and the rest. Single places do not count, so that only the sides of points are told.
"""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from flint import arb

from .cover import Box, Boxes, Cover, Point, Unproven, ball, bits
from .disc import largest
from .growth import beside, far_out
from .span import span_of

LETTERS = "ijde"
MOST_ORDER = 400
MOST_BITS = 4_096
DISCS = (8, 4, 3)  # radii that are tried, in halves of the width of the box
Ball = Any


class Summation:
    """The integral of a program over boxes and beside points, to so many bits with Taylor polynomials of that (even) order."""

    def __init__(self, boxes: Boxes, order: int, precision: int) -> None:
        if not (0 < order <= MOST_ORDER and order % 2 == 0 and 0 < precision <= MOST_BITS):
            raise Unproven("an order or a number of bits that is none")
        self.boxes, self.order, self.precision = boxes, order, precision

    def over(self, code: str, low: Fraction | None, high: Fraction | None) -> Ball:
        """A ball that holds the integral over a box; None where what the letter says is not so."""
        with bits(self.precision):
            if code == "e":
                stretch = far_out(self.boxes, low, high)
                return None if stretch is None else stretch.rest()
            if low is None or high is None:
                return None
            if code in "ij":
                return self.by_taylor(low, high, code == "i")
            return self._by_values(self.boxes.span(low, high), ball(high - low)) if code == "d" else None

    def beside(self, code: str, point: Point, side: int) -> Ball:
        """The same on one side of a point, up to the end of what is claimed around it."""
        with bits(self.precision):
            if code == "e":
                stretch = beside(self.boxes, point, side)
                return None if stretch is None else stretch.rest()
            width = (point.ball() - ball(point.low)) if side < 0 else (ball(point.high) - point.ball())
            return self._beside_by_values(point, side, width) if code == "d" else None

    def _beside_by_values(self, point: Point, side: int, width: Ball) -> Ball:
        """The width times the values; where the slope is bounded, by the value at the far end and how far the others are off it."""
        box, known = point.span(side, False), point.beside[side]
        found = self.boxes.read(box, 1, known)
        if found is None or found.jet is None or not found.defined:
            return None
        values, slope = (span_of(v) for v in found.jet)
        end = self.boxes.read(ball(point.low if side < 0 else point.high))
        if found.continuous and slope.is_finite() and end is not None and end.jet is not None and end.jet[0].is_finite():
            return end.jet[0] * width - slope.ball() * width * width / 2 * side
        return values.ball() * width if values.is_finite() else None

    def by_taylor(self, low: Fraction, high: Fraction, disc: bool) -> Ball:
        """The integral over a box from its Taylor polynomial and a rest, on a disc or by Lagrange's form; None where that fails."""
        middle, half = ball((low + high) / 2), ball((high - low) / 2)
        rest = self._on_disc(middle, half) if disc else self._by_lagrange(ball(low).union(ball(high)), half)
        near = None if rest is None else self.boxes.read(middle, self.order - 1)
        if near is None or near.jet is None or not near.smooth:
            return None
        return sum((near.jet[k] * half ** (k + 1) * 2 / (k + 1) for k in range(0, self.order, 2)), rest)

    def _on_disc(self, middle: Ball, half: Ball) -> Ball:
        """What the terms from the order n on can add, by the disc that bounds it best; None where the function is holomorphic on none."""
        bounds = []
        for times in DISCS:
            most = largest(self.boxes.program, self.boxes.variable, middle, half * times)
            if most.is_finite():
                # The sum over k >= n of M (t/r)^k, integrated over |t| <= h = r/times.
                bounds.append((most * half * 2 * times / (arb(times) ** self.order * (times - 1))).upper())
        return arb(0, 1) * min(bounds, key=float) if bounds else None

    def _by_lagrange(self, box: Ball, half: Ball) -> Ball:
        """The same as one last term, with the coefficient anywhere in the box."""
        wide = self.boxes.read(box, self.order)
        if wide is None or wide.jet is None or not wide.smooth:
            return None
        return wide.jet[self.order] * half ** (self.order + 1) * 2 / (self.order + 1)

    def _by_values(self, span: Any, width: Ball) -> Ball:
        found = self.boxes.read(span)
        if found is None or found.jet is None or not found.defined:
            return None
        values = span_of(found.jet[0])
        return values.ball() * width if values.is_finite() else None


def integral_over(certificate: dict[str, Any]) -> tuple[Ball, int]:
    """A ball that holds what a certificate of an integral is about, and how many boxes were read. Raises Unproven."""
    boxes = Boxes(certificate["formula"], certificate["variable"])
    cover = Cover(certificate, apart=LETTERS)
    ways = Summation(boxes, certificate["order"], certificate["bits"])
    total = arb(0)
    with bits(ways.precision):
        for part in cover.parts:
            if isinstance(part, Box):
                total = total + _told(ways.over(part.code, part.low, part.high), part.code)
            else:
                for side, text in ((-1, part.left), (1, part.right)):
                    if side != part.outer:
                        total = total + _told(ways.beside(text, part, side), text)
        if certificate.get("mean"):
            if not isinstance(cover.parts[0], Point) or not isinstance(cover.parts[-1], Point):
                raise Unproven("the mean over a window without an end")
            total = total / (cover.parts[-1].ball() - cover.parts[0].ball())
    return total, boxes.count


def _told(found: Ball, code: str) -> Ball:
    if found is None or not found.is_finite():
        raise Unproven(f"'{code}' does not hold of the integral over a part")
    return found
