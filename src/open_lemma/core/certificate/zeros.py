"""Roots: where a cover shows zeros, and that there are no others; of polynomials with rational coefficients without a cover."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from flint import fmpq, fmpq_poly

from .cover import PLACE_BITS, Box, Boxes, Cover, Point, Unproven, ball, bits, exact_number, exact_place, fraction
from .rows import Verdict, matched, place_of


@dataclass(frozen=True)
class ProvenZero:
    """A place at which the function is zero: a point, or the only one between two numbers."""

    low: Fraction
    high: Fraction
    point: Point | None
    even: bool | None  # whether the sign is the same on both sides; None where one side has no value
    times: int | None  # the multiplicity, where that is proven too


def roots(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """Where the formula is zero: one row for each place, with its kind and multiplicity where these are said."""
    cover = Cover(certificate)
    zeros, settled = zeros_of(cover)

    def fits(zero: ProvenZero, row: dict[str, Any], low: Fraction, high: Fraction) -> bool:
        times = row.get("multiplicity")
        if times is not None and (zero.even is None or times % 2 == zero.even or (zero.times is not None and zero.times != times)):
            return False
        if times is not None and row.get("kind") != ("simple" if times == 1 else "multiple" if times % 2 else "touching"):
            return False
        if zero.point is not None:
            return low <= zero.point.at[0] and zero.point.at[1] <= high
        return sits(cover, zero.low, zero.high, low, high, 0)

    verdict = matched(certificate, rows, cover, zeros, fits, settled, frozenset())
    verdict.missing = [(c.low, c.high) for c in verdict.left if c.point is None]
    return verdict


def zeros_of(cover: Cover) -> tuple[list[ProvenZero], bool]:
    """All zeros, and whether there are shown to be no others."""
    zeros: list[ProvenZero] = []
    settled = True
    for part in cover.parts:
        if isinstance(part, Point):
            ok = _point_zero(part, zeros)
            settled = settled and ok
        else:
            settled = _box_zero(cover, part, zeros) and settled
    return zeros, settled


def sits(cover: Cover, low: Fraction, high: Fraction, a: Fraction, b: Fraction, coefficient: int) -> bool:
    """Whether the only zero of a monotonic coefficient in (low, high) lies between a and b."""
    if not low <= a <= b <= high:
        return False
    if a == b:
        return cover.boxes.zero(exact_number(a), coefficient, coefficient)
    signs = cover.boxes.sign(a, coefficient), cover.boxes.sign(b, coefficient)
    return signs[0] * signs[1] < 0


def _point_zero(point: Point, zeros: list[ProvenZero]) -> bool:
    """A zero at a point, and that its sides hold none. False where that is not settled."""
    order, _ = point.turn() if point.value[:1] == "0" and point.value[1:] else (0, 0)
    if order:
        zeros.append(ProvenZero(*point.at, point, order % 2 == 0, order))
        return True
    zero = point.value == "0"
    if zero:
        sides = [SIGNS.get((side, text[:1])) for side, text in ((-1, point.left), (1, point.right))]
        zeros.append(ProvenZero(*point.at, point, None if None in sides else sides[0] == sides[1], None))
    elif point.value not in ("+", "-", "u"):
        return False
    for side, text in ((-1, point.left), (1, point.right)):
        if side == point.outer or text[:1] in ("u", "+", "-"):
            continue
        # A side that is monotonic up to a zero holds no other; nor does one that moves away from zero towards the point.
        away = -side if text[0] == "r" else side
        outer = point.boxes.sign(point.low if side < 0 else point.high) if text[0] in "rf" else 0
        if not ((zero and text[0] in "rf" and text[1:] == "=") or (outer and outer == away)):
            return False
    return True


def _box_zero(cover: Cover, box: Box, zeros: list[ProvenZero]) -> bool:
    if box.code in "u+-":
        return True
    if box.code not in "rfRF":
        return False
    way = 1 if box.code in "rR" else -1
    signs = [None if e is None else cover.boxes.sign(e) for e in (box.low, box.high)]
    if signs[0] == way or signs[1] == -way:
        return True  # it moves away from zero
    if box.low is None or box.high is None or 0 in signs:
        return False
    zeros.append(ProvenZero(box.low, box.high, None, False, 1))
    return True


# The sign on a side of a zero, by its claim.
SIGNS = {(-1, "+"): 1, (-1, "-"): -1, (1, "+"): 1, (1, "-"): -1, (-1, "r"): -1, (-1, "f"): 1, (1, "r"): 1, (1, "f"): -1}


def polynomial_roots(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """All roots of a polynomial with rational coefficients, isolated by the ball library with their multiplicities."""
    boxes = Boxes(certificate["formula"], certificate["variable"])
    plain = _plain_polynomial(boxes.program, boxes.variable)
    if plain.degree() < 1 or plain.degree() > 200:
        raise Unproven("no polynomial of an ordinary degree")
    ends = [exact_place(certificate[k]) for k in ("low", "high")]
    with bits(PLACE_BITS):
        zeros = [(r.real, times) for r, times in plain.complex_roots() if r.imag.is_zero() and _in_window(boxes, r.real, ends)]
    verdict = Verdict([], False, len(zeros))
    left = list(zeros)
    for row in rows:
        low, high = place_of(certificate, row)
        with bits(PLACE_BITS):
            span = ball(low).union(ball(high))
            near = [z for z in left if (span.overlaps(z[0]) if low == high else ball(low) <= z[0] <= ball(high))]
        exact = low != high or plain(fmpq(low.numerator, low.denominator)) == 0
        times = row.get("multiplicity")
        held = len(near) == 1 and exact and times in (None, near[0][1])
        held = held and (times is None or row.get("kind") == ("simple" if times == 1 else "multiple" if times % 2 else "touching"))
        verdict.proven.append(held)
        if held:
            left.remove(near[0])
        else:
            verdict.faults.append(f"no such root at {row.get('x')}")
    verdict.complete = not left and all(verdict.proven)
    return verdict


def _in_window(boxes: Boxes, root: Any, ends: list[Any]) -> bool:
    """Whether a root lies between two ends, these included."""
    for end, way in zip(ends, (1, -1), strict=True):
        if end is None:
            continue
        difference = (root - end.ball) * way
        if difference < 0:
            return False
        if difference.contains(0) and not boxes.zero(end):
            raise Unproven("a root that cannot be told from an end of the window")
    return True


def _plain_polynomial(program: list[list[Any]], variable: str) -> Any:
    """A program as a polynomial with rational coefficients. Raises Unproven."""
    found: list[Any] = []
    for head, *rest in program:
        args = [found[k] for k in rest if isinstance(k, int)]
        if head == "variable" and rest == [variable]:
            found.append(fmpq_poly([0, 1]))
        elif head == "number":
            q = fraction(rest[0])
            found.append(fmpq_poly([fmpq(q.numerator, q.denominator)]))
        elif head in ("+", "-", "*"):
            found.append(args[0] + args[1] if head == "+" else args[0] - args[1] if head == "-" else args[0] * args[1])
        elif head in ("neg", "same"):
            found.append(-args[0] if head == "neg" else args[0])
        elif head == "/" and args[1].degree() == 0:
            found.append(args[0] * fmpq_poly([1 / args[1][0]]))
        elif head == "^" and args[1].degree() <= 0 and args[1][0].q == 1 and 0 <= int(args[1][0].p) <= 200:
            found.append(args[0] ** int(args[1][0].p))
        else:
            raise Unproven("no polynomial")
    return found[-1]
