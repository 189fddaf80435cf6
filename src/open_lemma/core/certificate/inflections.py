"""Inflections: the zeros of the second derivative at which it changes its sign."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from .cover import BOX_BITS, Box, Boxes, Cover, Point, ball, between, bits, exact_number
from .exact import BITS, Exact
from .rows import Verdict, matched, value_fits
from .span import span_of
from .zeros import SIGNS, ProvenZero, sits

NARROWINGS = 60  # of an interval whose ends are said to 22 digits, before the value in it is asked for


def inflections(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """The zeros of the second derivative at which it changes its sign, where the function is smooth, and its values there."""
    cover = Cover(certificate)
    plain = Boxes(certificate["formula"], certificate["variable"])
    bends = _Bends(cover, plain)

    def fits(zero: ProvenZero, row: dict[str, Any], low: Fraction, high: Fraction) -> bool:
        held = low <= zero.low and zero.high <= high if zero.point is not None else sits(cover, zero.low, zero.high, low, high, 0)
        if not held or row["what"] != "inflection":
            return False
        if zero.point is not None and zero.point.exact is not None:
            return _exactly_there(plain, zero.point.exact, row)
        if low < high:
            low, high = closer(cover, low, high) if zero.point is None else (zero.low, zero.high)
        return value_fits(plain, row, "value", row["value_interval"], low, high, None, False)

    return matched(certificate, rows, cover, bends.places, fits, bends.settled, frozenset())


def closer(cover: Cover, low: Fraction, high: Fraction) -> tuple[Fraction, Fraction]:
    """Two numbers, nearer to each other, between which the only zero of a monotonic function lies."""
    rising = cover.boxes.sign(high)
    for _ in range(NARROWINGS):
        middle = (low + high) / 2
        sign = cover.boxes.sign(middle)
        if not sign:
            break
        low, high = (low, middle) if sign == rising else (middle, high)
    return low, high


class _Bends:
    """The places at which a second derivative changes its sign, from one end of a cover to the other, and whether they are all.

    Where the function is not smooth it may bend the other way only if the second derivative has different signs on both sides."""

    def __init__(self, cover: Cover, plain: Boxes) -> None:
        self.plain = plain
        self.places: list[ProvenZero] = []
        self.settled = True
        self.sign = 0  # of the last stretch that is bent; 0 where there was none since the function broke
        for part in cover.parts:
            if isinstance(part, Point):
                self._point(part)
            elif part.code in "+-":
                self._goes_on(1 if part.code == "+" else -1)
            elif part.code == "u":
                self.sign = 0
            elif part.code != "0":
                self._monotonic(cover, part)

    def _goes_on(self, sign: int) -> None:
        self.settled = self.settled and self.sign in (0, sign)
        self.sign = sign

    def _turns(self, place: ProvenZero, before: int, after: int) -> None:
        self._goes_on(before)
        self.places.append(place)
        self.sign = after

    def _monotonic(self, cover: Cover, box: Box) -> None:
        if box.code not in "rfRF":
            self.settled = False
            return
        way = 1 if box.code in "rR" else -1
        signs = [0 if e is None else cover.boxes.sign(e) for e in (box.low, box.high)]
        if signs[0] == way or signs[1] == -way:
            self._goes_on(way if signs[0] == way else -way)
        elif box.low is None or box.high is None or 0 in signs:
            self.settled = False
        else:
            self._turns(ProvenZero(box.low, box.high, None, False, 1), -way, way)

    def _point(self, point: Point) -> None:
        before: int | None
        after: int | None
        order, sign = point.turn() if point.value[:1] == "0" and point.value[1:] else (0, 0)
        if order:
            before, after = sign * (-1) ** order, sign
        else:
            before, after = (_side_sign(point, s, text) for s, text in ((-1, point.left), (1, point.right)))
        if point.outer:
            # At an end of the window nothing bends the other way.
            inner = after if point.outer < 0 else before
            self.settled = self.settled and inner is not None
            if inner:
                self._goes_on(inner)
            return
        if before is None or after is None:
            self.settled = False
            return
        if before:
            self._goes_on(before)
        if point.value == "u":
            self.sign = after
        elif point.value[:1] == "0" and before and after and before != after:
            self._turns(ProvenZero(*point.at, point, False, order or None), before, after)
        elif before and after and before != after and self._slope_jumps(point):
            self.sign = after
        elif after:
            self._goes_on(after)

    def _slope_jumps(self, point: Point) -> bool:
        """Whether the slopes on both sides of a point have nothing in common, so that there is no tangent."""
        with bits(BOX_BITS):
            sides = [self.plain.read(point.span(side, False), 1, point.beside[side]) for side in (-1, 1)]
            if any(s is None or s.jet is None for s in sides):
                return False
            left, right = (span_of(s.jet[1]) for s in sides)  # type: ignore[union-attr,index]
            return bool(left - right > 0 or left - right < 0)


def _side_sign(point: Point, side: int, text: str) -> int | None:
    """The sign on a side of a point; 0 where it is zero there, or where there are no values; None where it is not known."""
    code = text[:1]
    if code in ("+", "-"):
        return 1 if code == "+" else -1
    if code in ("0", "u"):
        return 0
    if code in ("r", "f") and point.value == "0" and text[1:] == "=":
        return SIGNS[(side, code)]
    outer = point.boxes.sign(point.low if side < 0 else point.high) if code in ("r", "f") else 0
    return outer if outer and outer == (-side if code == "r" else side) else None


def _exactly_there(boxes: Boxes, place: Exact, row: dict[str, Any]) -> bool:
    """Whether the value at a place that is known exactly lies in the interval of a row."""
    wide = between(row, "value", row["value_interval"])
    with bits(BITS):
        here = boxes.read(place)
        if here is None or not here.defined or here.jet is None:
            return False
        if wide[0] == wide[1]:
            return bool((here.jet[0] - exact_number(wide[0])).is_zero())
        return bool(here.jet[0].ball >= ball(wide[0]) and here.jet[0].ball <= ball(wide[1]))
