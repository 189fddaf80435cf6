"""Certificates of integrals and mean values: the window halved until the integral over each part is enclosed closely enough."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from flint import arb

from ...certificate.cover import Point, Unproven
from ...certificate.double import UNIT, Region
from ...certificate.exact import NoExactNumber
from ...certificate.functions import BadProgram
from ...certificate.integral import Summation, integral_over
from ...certificate.parts import Part
from ...certificate.program import NotPlain, program_of
from ...certificate.rows import Verdict
from ...formula.ball import from_fraction, precision
from ...formula.domain import end_value
from ...formula.nodes import Formula, Number, Variable, expanded, walk
from .covers import Certifier, CoverStyle, Json, NoCertificate, Proof, breaks
from .strict import Spot
from .trees import tree_of

INTEGRAL = CoverStyle("integral", "dije", "de", 0, False, "")
PART = 64  # by which what is wanted of the whole is divided for a single box
NARROWINGS = 48  # times that what is told beside a point is drawn closer: ln(x)/sqrt(x) falls to 10^-20 of itself at 10^-46
DEEPEST = 400  # halvings towards it
MOST = 1_200  # boxes
ENDLESS_BITS = 96
SPARE_BITS = 256  # for what lies very near to a point: 1 - x at 1 - 2^-200
LEAST_BITS = 60  # of the distance from a point
ROUGHLY = 300  # boxes that a first look may take
REACHES = (2**6, 2**20, 2**64)  # at which it is asked whether the rest far out is bounded at all
GAUSS = 12  # points along a side of a rectangle
MOST_RECTANGLES = 400


class NotBesidePoint(NoCertificate):
    """The integral is not enclosed beside a point, with so many bits."""


class IntegralCertifier(Certifier):
    """wanted: how far the integral over a box may be off."""

    narrowings = NARROWINGS
    closer = 64
    deepest = DEEPEST

    def __init__(self, formula: Formula, variable: str, low: Formula, high: Formula, wanted: Any, bits: int) -> None:
        super().__init__(formula, variable, low, high, INTEGRAL)
        self.left = MOST
        self.wanted = wanted
        # The higher the order the wider may a box be; its cost grows with the square.
        self.order = max(8, min(200, 2 * (bits // 4)))
        # Far out what a function loses by cancellation counts on wide boxes.
        self._work_with(bits + ENDLESS_BITS if any(isinstance(e, str) for e in self.ends) else bits)
        self.more_bits = bits + SPARE_BITS

    def _work_with(self, bits: int) -> None:
        self.bits, self.ways = bits, Summation(self.boxes, self.order, bits)

    def cover(self, spots: Any) -> Json:
        """The cover of the window, with a letter for each box that says how the integral over it is enclosed."""
        for side, end in enumerate(self.ends):
            if isinstance(end, str) and all(self._beyond(reach, side) is None for reach in REACHES):
                raise NoCertificate("far out it is not shown to fall fast enough")
        try:
            said = super().cover(spots)
        except NotBesidePoint:
            self._work_with(self.more_bits)
            said = super().cover(spots)
        return {**said, "order": self.order, "bits": self.bits}

    def _beyond(self, reach: int, side: int) -> Any:
        low, high = (Fraction(reach), None) if side else (None, Fraction(-reach))
        return self.ways.over("e", low, high)

    def _reaches(self, reach: float) -> list[float]:
        # Where nothing happens, so little is left beside a point that its values and slopes will do.
        return [reach / 2.0 ** (self.order // 2), *super()._reaches(reach)]

    def _claims(self, said: Json, first: bool, last: bool) -> int:
        try:
            point = Point(self.boxes, said)
        except (Unproven, BadProgram, NoExactNumber):
            return 9
        said["value"] = "?"
        missing = 0
        for side, name in ((-1, "left"), (1, "right")):
            if (first and side < 0) or (last and side > 0):
                continue
            said[name] = next((k for k in self.style.sides if self._does(lambda k=k, s=side: self.ways.beside(k, point, s))), "?")
            missing += said[name] == "?"
        return missing

    def _point(self, spot: Spot, said: Any, before: Spot | None, after: Spot | None) -> Json:
        point = super()._point(spot, said, before, after)
        if "?" in (point.get("left"), point.get("right")):
            # Where a function has hundreds of poles, the others are not even looked at.
            raise NotBesidePoint("beside a point the integral is not enclosed")
        low, high = (Fraction(v) for v in point["near"])
        if max(abs(low), abs(high)) > (high - low) * 2 ** (self.bits - LEAST_BITS):
            raise NotBesidePoint("numbers so near to a point are not told apart")
        return point

    def _code(self, low: Fraction | None, high: Fraction | None) -> str | None:
        endless = low is None or high is None
        for code in "e" if endless else "dij":
            if self._does(lambda code=code: self.ways.over(code, low, high)):
                return code
        return None

    def _does(self, way: Any) -> bool:
        """Whether a way of enclosing a part is close enough."""
        try:
            found = way()
        except (Unproven, NoExactNumber):
            return False
        except BadProgram as reason:
            raise NoCertificate(str(reason)) from None
        return _close(found, self.wanted)


def prove_integral(
    formula: Formula, variable: str, low: Formula, high: Formula, wanted: Any, digits: int = 16, mean: bool = False, most: int = MOST
) -> tuple[Proof, Any]:
    """A certificate of an integral (or mean value), and the ball that it proves; None where it proves none.

    wanted: about how far that may be off, an exact ball; most: boxes
    """
    bits = int(digits * 3.33) + 40
    try:
        certifier = IntegralCertifier(formula, variable, low, high, wanted / PART, bits)
        certifier.left = most
        certificate = certifier.cover([*_knots(formula, variable, low, high), *breaks(formula, variable, low, high, [])])
        certificate |= {"mean": True} if mean else {}
        total, _ = integral_over(certificate)
    except (NoCertificate, Unproven) as reason:
        return Proof(None, Verdict([False], False, fault=str(reason)), str(reason)), None
    return Proof(certificate, Verdict([True], True)), total


def _knots(formula: Formula, variable: str, low: Formula, high: Formula) -> list[Spot]:
    """Where the pieces of a piecewise polynomial of the variable itself meet: beyond the second derivative it is not smooth there."""
    found: set[Fraction] = set()
    for node in walk(expanded(formula)):
        source = getattr(getattr(node, "entry", None), "source", None)
        if source is not None and getattr(node, "arguments", ()) == (Variable(variable),):
            found |= {Fraction(k) for k in getattr(source, "knots", ())}
    ends = [end_value(e) for e in (low, high)]
    return [Spot(from_fraction(q.numerator, q.denominator), Number(q)) for q in sorted(found) if ends[0] < q < ends[1]]


def prove_double(
    formula: Formula, outer: tuple[str, Formula, Formula], inner: tuple[str, Formula, Formula], wanted: Any
) -> tuple[Json | None, Any]:  # fmt: skip
    """The same for an integral over a region of the plane (see `certificate.double`)."""
    (x, low, high), (y, below, above) = outer, inner
    try:
        said: Json = {
            "claim": "double integral", "formula": program_of(formula), "variables": [x, y], "ends": [program_of(low), program_of(high)],
            "curves": [program_of(below), program_of(above)], "nodes": GAUSS, "bits": 92,
        }  # fmt: skip
        region = Region(said)
        said["square"], total = _halved(region, wanted / PART)
    except (NotPlain, Unproven, BadProgram, NoExactNumber):
        return None, None
    return said, total


def _halved(region: Region, wanted: Any) -> tuple[str, Any]:
    """The unit square halved until the integral over each part is known closely enough, and the integral. Raises Unproven."""
    total = arb(0)
    left = MOST_RECTANGLES

    def letter_of(part: Part) -> str | None:
        nonlocal left, total
        left -= 1
        if left < 0:
            raise Unproven("too many rectangles")
        s, t = part
        with precision(region.precision):
            for code in "dg":
                value = region.over(code, s, t, wanted)
                if _close(value, wanted):
                    total = total + value
                    return code
        return None

    return tree_of(UNIT, letter_of), total


def _close(found: Any, wanted: Any) -> bool:
    return found is not None and found.is_finite() and bool(found.rad() <= wanted)


__all__ = ["ROUGHLY", "prove_double", "prove_integral"]
