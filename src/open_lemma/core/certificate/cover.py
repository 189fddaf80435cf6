"""Covers: a window cut into boxes and points, each with a claim that is checked by itself.

A gap between two points is cut by halving; its text names the tree in prefix order: "s" for a halving, any other letter for what is
claimed of a box that is halved no more.

    u  no value anywhere      d  a value everywhere       + -  a value everywhere, of that sign       0  zero everywhere
    r f  continuous, and strictly rising, falling         R F  the same by higher derivatives, from the finite end of an endless box
    c  continuous and constant                            v ^  twice differentiable, the slope strictly rising, falling
    a b  a value everywhere, above, below a level         A B  no value below, above an end of the level
    T N  a condition that holds everywhere, nowhere       ?  nothing is claimed

At a point the formula may break. It is a number, the value of a formula without variables, or the only zero of (step - k) in `at`.
`known` lists steps that reach a k there; beside the point they lie above or below it, and that is taken into account in what is claimed
of its two sides (from the point, without it, to the ends of `near`). `left` and `right` are such a claim, followed by how the value at the
point stands to those beside it: "=" their limit, "<" below, ">" above all of them. `value` is a letter for the place (u d + - 0 T N ?), or
"0" and n: a zero of that multiplicity; or "t" and n: the first n - 1 derivatives are zero there and the n-th has one sign in `near`.

The rules are elementary: a function that is continuous with a slope of one sign is monotonic, so that between two places it has a zero if
and only if its signs there differ, and no other (R. E. Moore, R. B. Kearfott, M. J. Cloud, "Introduction to Interval Analysis", ch. 8).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from fractions import Fraction
from math import comb
from typing import Any

from flint import arb, ctx, fmpq

from .evaluator import BallReading, run
from .exact import BITS, Exact, NoExactNumber, rational
from .functions import BROKEN, PARTIAL
from .span import Span, span_of

End = Fraction | None  # None: infinite
BOX_BITS = 128
PLACE_BITS = 384
MOST_BOXES = 100_000
ULP = Fraction(1, 2**52)
MOST_ORDER = 5
FARTHEST = Fraction(2) ** 8192  # endless boxes begin there at the farthest


class Unproven(Exception):
    """A claim that does not hold, or a certificate that is none; the text names it."""


@contextmanager
def bits(n: int) -> Iterator[None]:
    """Work with so many bits inside the block."""
    before, ctx.prec = ctx.prec, n
    try:
        yield
    finally:
        ctx.prec = before


def ball(q: Fraction) -> Any:
    return arb(fmpq(q.numerator, q.denominator))


def fraction(text: Any) -> Fraction:
    """A number of a certificate, exactly. Raises Unproven where the text is none."""
    try:
        return Fraction(text)
    except (ValueError, TypeError, ZeroDivisionError):
        raise Unproven(f"'{text}' is no number") from None


def between(row: dict[str, Any], name: str, interval: Any) -> tuple[Fraction, Fraction]:
    """The interval of a field, which must hold the field's own double up to its last digit."""
    low, high = fraction(interval[0]), fraction(interval[1])
    value = fraction(row[name])
    slack = abs(value) * ULP + Fraction(1, 2**1060)
    if low > high or not low - slack <= value <= high + slack:
        raise Unproven(f"{name} = {row[name]} lies outside of its interval")
    return low, high


def sign_of(number: Any) -> int:
    return 1 if number > 0 else -1 if number < 0 else 0


def said_end(end: End) -> str:
    return "an infinite end" if end is None else f"{float(end):.9g}"


# What chooses by the sign of the step that it names last.
_DECIDED_BY = frozenset("abs sign sqrt ln log10 log2 min max < > <= >= = !=".split())


# ---------------------------------------------------------------- claims about boxes


def _valued(check: Callable[[Any, Any], bool]) -> Callable[[BallReading | None, Any], bool]:
    return lambda r, level: r is not None and r.defined and r.jet is not None and check(r.jet[0], level)


def _sloping(check: Callable[[Any], bool]) -> Callable[[BallReading | None, Any], bool]:
    return lambda r, _: r is not None and r.continuous and r.jet is not None and check(r.jet[1])


def _curved(way: int) -> Callable[[BallReading | None, Any], bool]:
    # A slope that is bounded on the box has no place where it does not exist.
    return lambda r, _: r is not None and r.smooth and r.jet is not None and r.jet[1].is_finite() and sign_of(r.jet[2]) == way


CLAIMS: dict[str, tuple[int, Callable[[BallReading | None, Any], bool]]] = {
    "u": (0, lambda r, _: r is None), "d": (0, lambda r, _: r is not None and r.defined), "+": (0, _valued(lambda v, _: v > 0)),
    "-": (0, _valued(lambda v, _: v < 0)), "0": (0, _valued(lambda v, _: v.is_zero())), "r": (1, _sloping(lambda v: v > 0)),
    "f": (1, _sloping(lambda v: v < 0)), "c": (1, _sloping(lambda v: v.is_zero())), "v": (2, _curved(1)), "^": (2, _curved(-1)),
    "a": (0, _valued(lambda v, level: v - level[1] > 0)), "b": (0, _valued(lambda v, level: v - level[0] < 0)),
    "A": (0, lambda r, level: r is None or (r.jet is not None and bool(r.jet[0] - level[0] >= 0))),
    "B": (0, lambda r, level: r is None or (r.jet is not None and bool(r.jet[0] - level[1] <= 0))),
    "T": (0, lambda r, _: r is not None and r.defined and r.truth is True),
    "N": (0, lambda r, _: r is None or (r.defined and r.truth is False)),
}  # fmt: skip


class Boxes:
    """What is known of a program of one variable on boxes and at places. level: two numbers with which values are compared. derivative: not
    of its value but of its derivative of that order, divided by the factorial, which has a value where the program is smooth."""

    def __init__(self, program: list[list[Any]], variable: str, level: Any = None, derivative: int = 0) -> None:
        self.program, self.variable, self.level, self.derivative, self.count = program, variable, level, derivative, 0

    def read(self, box: Any, order: int = 0, known: dict[int, Any] | None = None) -> BallReading | None:
        """The reading of the whole program on a box, up to a Taylor coefficient; None where it has no value anywhere."""
        found = self.steps(box, order + self.derivative, known)[-1]
        if not self.derivative or found is None or found.jet is None:
            return found
        jet = [v * comb(k + self.derivative, k) for k, v in enumerate(found.jet[self.derivative :])]
        return BallReading(jet, found.flags | (0 if found.smooth else PARTIAL | BROKEN))

    def steps(self, box: Any, order: int = 0, known: dict[int, Any] | None = None) -> list[BallReading | None]:
        """All steps of the program."""
        self.count += 1
        if self.count > MOST_BOXES:
            raise Unproven("more boxes than may be checked")
        return run(self.program, {self.variable: box}, order, self.variable, known)

    def span(self, low: End, high: End, low_open: bool = False, high_open: bool = False) -> Span:
        return Span(None if low is None else ball(low).lower(), None if high is None else ball(high).upper(), low_open, high_open)

    def holds(self, code: str, low: End, high: End) -> bool:
        """Whether what a letter says is so on a box: by balls where they will do, else by spans."""
        with bits(BOX_BITS):
            if code in "RF":
                return self.by_chain(1 if code == "R" else -1, low, high, 1)
            order, check = _claim(code)
            if low is not None and high is not None:
                return check(self.read(ball(low).union(ball(high)), order), self.level) or check(
                    self.read(self.span(low, high), order), self.level
                )
            return check(self.read(self.span(low, high), order, self.far(low, high)), self.level)

    def far(self, low: End, high: End) -> dict[int, Any]:
        """On an endless box: the signs of the steps by which something is chosen, where higher derivatives tell what a span cannot."""
        known: dict[int, Any] = {}
        for step in sorted({s[-1] for s in self.program if s[0] in _DECIDED_BY}):
            part = Boxes(self.program[: step + 1], self.variable)
            found = part.read(self.span(low, high))
            if found is None or found.jet is None or not found.continuous or found.jet[0] > 0 or found.jet[0] < 0:
                continue
            for way in (1, -1):
                if part.by_chain(way, low, high, 0):
                    known[step] = Span(arb(0), None, True) if way > 0 else Span(None, arb(0), False, True)
        return known

    def by_chain(self, way: int, low: End, high: End, first: int) -> bool:
        """Whether a Taylor coefficient has a sign on an endless box: a higher one has it throughout and those between at the finite end."""
        end = high if low is None else low
        if end is None or (low is not None and high is not None):
            return False
        turn = -1 if low is None else 1  # seen from the end towards infinity
        for order in range(first, MOST_ORDER + 1):
            found = self.read(self.span(low, high), order)
            if found is None or not found.smooth or found.jet is None:
                return False
            if sign_of(found.jet[order]) == way * turn ** (order - first):
                return True
            if self.sign(end, order) != way * turn ** (order - first):
                return False
        return False

    def sign(self, place: Fraction, coefficient: int = 0) -> int:
        """The sign of the value, or of a Taylor coefficient, at a place; 0 where it is not shown or there is none."""
        for precision in (PLACE_BITS, 4 * PLACE_BITS):
            with bits(precision):
                found = self.read(ball(place), coefficient)
                if found is None or found.jet is None or not (found.smooth if coefficient else found.defined):
                    return 0
                sign = sign_of(found.jet[coefficient])
            if sign or found.jet[coefficient].is_zero():
                return sign
        return 0

    def zero(self, place: Exact, first: int = 0, last: int = 0) -> bool:
        """Whether the Taylor coefficients from the first to the last are exactly zero at a place."""
        with bits(BITS):
            try:
                found = self.read(place, last)
            except NoExactNumber:
                return False
            return found is not None and found.defined and found.jet is not None and all(v.is_zero() for v in found.jet[first:])

    def next_sign(self, place: Exact, low: End, high: End, order: int, first: int) -> int:
        """The sign of a Taylor coefficient on a box, if those from the first up to it are zero at the place; else 0."""
        with bits(BOX_BITS):
            found = self.read(self.span(low, high), order)
            bounded = found is not None and found.smooth and found.jet is not None and all(v.is_finite() for v in found.jet)
            sign = sign_of(found.jet[order]) if bounded and found is not None and found.jet is not None else 0
        return sign if sign and (order <= first or self.zero(place, first, order - 1)) else 0


def _claim(code: str) -> tuple[int, Callable[[BallReading | None, Any], bool]]:
    if code not in CLAIMS:
        raise Unproven(f"'{code}' is no claim")
    return CLAIMS[code]


# ---------------------------------------------------------------- points


def exact_number(q: Fraction) -> Exact:
    """A fraction as a number of which it is known when it is zero."""
    with bits(BITS):
        return rational(fmpq(q.numerator, q.denominator))


def exact_place(said: Any) -> Exact | None:
    """A place that is said as a number or by a formula without variables; None where it is said as a zero, or is infinite."""
    with bits(BITS):
        if isinstance(said, dict) and "number" in said:
            return exact_number(fraction(said["number"]))
        if isinstance(said, dict) and "formula" in said:
            found = run(said["formula"], {"": rational(fmpq(0))})[-1]
            if found is None or not found.defined or found.jet is None:
                raise Unproven("a place without a value")
            place: Exact = found.jet[0]
            return place
    return None


class Point:
    """One point of a cover. near: the ends of what is claimed around it. at: two numbers between which it lies, as close as is known."""

    def __init__(self, boxes: Boxes, said: dict[str, Any]) -> None:
        self.boxes, self.said = boxes, said["is"]
        self.low, self.high = (fraction(v) for v in said["near"])
        self.at = fraction(said["at"][0]), fraction(said["at"][1])
        self.left, self.value, self.right = (str(said.get(k, "")) for k in ("left", "value", "right"))
        self.outer = 0  # the side that lies outside of the window, of a point that is an end of it
        self.exact = exact_place(self.said)
        known = [(int(step), fraction(level)) for step, level in said.get("known", [])]
        if not self.low <= self.at[0] <= self.at[1] <= self.high:
            raise Unproven("a point outside of what is claimed around it")
        if self.exact is None and [[*k] for k in known] != [[int(self.said["zero"][0]), fraction(self.said["zero"][1])]]:
            raise Unproven("a point that is no number and no known zero")
        if self.exact is not None:
            with bits(BITS):
                place = self.exact
                if not ((place - exact_number(self.at[0])).ball >= 0 and (place - exact_number(self.at[1])).ball <= 0):
                    raise Unproven("a point that is not where it is said to be")
        self.levels: dict[int, Fraction] = {}
        self.beside: dict[int, dict[int, Any]] = {-1: {}, 1: {}}
        for step, level in sorted(known):
            self._know(step, level)
        for k, part in enumerate(boxes.program):
            if part[0] == "/" and self.levels.get(part[2]) == 0 and self.exact is not None:
                self._know_quotient(k, part[1], part[2])

    @property
    def where(self) -> str:
        return f"at {float(self.at[0]):.9g}"

    def _know(self, step: int, level: Fraction) -> None:
        """That a step reaches a level at the point, and on which side of it the step lies on either side."""
        part = Boxes([*self.boxes.program[: step + 1], ["number", str(level)], ["-", step, step + 1]], self.boxes.variable)
        with bits(BOX_BITS):
            around = part.read(self.span(), 1)
            ways = dict.fromkeys((-1, 1), 0)
            if around is not None and around.continuous and around.jet is not None:
                ways = dict.fromkeys((-1, 1), sign_of(around.jet[1]))
        if self.exact is None and not (ways[1] and part.sign(self.at[0]) == -ways[1] and part.sign(self.at[1]) == ways[1]):
            raise Unproven(f"step {step} has no single zero {self.where}")
        if self.exact is not None and not part.zero(self.exact):
            raise Unproven(f"step {step} is not {level} {self.where}")
        self.levels[step] = level
        for side in (-1, 1):
            sign = (ways[side] or self._rises(part, side)) * side
            for order in range(2, MOST_ORDER + 1):
                if sign or self.exact is None:
                    break
                sign = part.next_sign(self.exact, self.low, self.high, order, 1) * side**order
            with bits(BOX_BITS):
                found = part.read(self.span(side, False), 0, self.beside[side])
                if sign and found is not None and found.jet is not None:
                    off = span_of(found.jet[0])
                    beyond = Span(arb(0), off.high, True, off.high_open) if sign > 0 else Span(off.low, arb(0), off.low_open, True)
                    self.beside[side][step] = beyond + ball(level)

    def _rises(self, part: Boxes, side: int) -> int:
        """Whether a step rises (1) or falls (-1) on a side, continuous up to the exact point that bounds it."""
        if self.exact is None:
            return 0
        with bits(BOX_BITS):
            closed = part.read(self.span(side), 0, self._with_point(side))
            if closed is None or not closed.continuous:
                return 0
            found = part.read(self.span(side, False), 1, self.beside[side])
        return sign_of(found.jet[1]) if found is not None and found.continuous and found.jet is not None else 0

    def _know_quotient(self, place: int, top: int, bottom: int) -> None:
        """What a/b is beside a place where both are zero: by Cauchy's mean value theorem a quotient of derivatives in `near`; and whether
        it rises, by the first derivative of a'b - ab' that is not zero there (Taylor's theorem)."""
        program = self.boxes.program
        parts = [Boxes(program[: k + 1], self.boxes.variable) for k in (top, bottom)]
        with bits(PLACE_BITS):
            above = parts[0].read(self.ball())
            if above is None or above.jet is None or above.jet[0] > 0 or above.jet[0] < 0:
                return
        with bits(BOX_BITS):
            wide = [p.read(self.span(), 2 * MOST_ORDER) for p in parts]
        if any(r is None or not r.smooth or r.jet is None for r in wide):
            return
        a, b = (r.jet for r in wide if r is not None and r.jet is not None)
        with bits(BITS):
            try:
                here = [p.read(self.exact, 2 * MOST_ORDER) for p in parts]
            except NoExactNumber:
                return
        if any(r is None or r.jet is None for r in here):
            return
        at, bt = (r.jet for r in here if r is not None and r.jet is not None)
        with bits(BITS):
            order = next((k for k in range(1, MOST_ORDER) if sign_of(b[k])), 0)
            if not order or not all(at[k].is_zero() and bt[k].is_zero() for k in range(order)):
                return
            slopes = [_wronskian(at, bt, k) for k in range(2 * MOST_ORDER)]
            first = next((k for k, v in enumerate(slopes) if not v.is_zero()), None)
        with bits(BOX_BITS):
            value = a[order] * b[order].reciprocal()
            way = sign_of(_wronskian(a, b, first)) if first is not None else 0
            for side in (-1, 1):
                sign = way * side**first if first is not None else 0
                rise = Span(arb(0), None, True) if sign > 0 else Span(None, arb(0), False, True) if sign < 0 else Span(None, None)
                self.beside[side][place] = [value, rise]

    def _with_point(self, side: int) -> dict[int, Span]:
        return {k: Span(s.low, s.high) for k, s in self.beside[side].items() if isinstance(s, Span)}

    def span(self, side: int = 0, closed: bool = True) -> Span:
        """What lies around the point (0), or to its left (-1) or right (1), with or without the point."""
        low, high = self.low if side <= 0 else self.at[0], self.high if side >= 0 else self.at[1]
        number = self.at[0] == self.at[1]
        with bits(BOX_BITS):
            return self.boxes.span(low, high, side > 0 and number and not closed, side < 0 and number and not closed)

    def check(self, apart: str = "") -> None:
        """Raises Unproven where a claim about a side or the place does not hold."""
        for side, text in ((-1, self.left), (1, self.right)):
            if text and text[0] != "?" and text[0] not in apart and not self._holds_beside(side, text[0]):
                raise Unproven(f"'{text[0]}' does not hold beside the point {self.where}")
            if text[1:] and not self._linked(side, text[1:]):
                raise Unproven(f"'{text[1:]}' does not hold {self.where}")
        if self.value not in ("", "?") and not self._holds_here(self.value):
            raise Unproven(f"'{self.value}' does not hold {self.where}")

    def _holds_beside(self, side: int, code: str) -> bool:
        order, check = _claim(code)
        with bits(BOX_BITS):
            return check(self.boxes.read(self.span(side, False), order, self.beside[side]), self.boxes.level)

    def ball(self) -> Any:
        """The place."""
        if self.at[0] == self.at[1]:
            return ball(self.at[0])
        return self.exact.ball if self.exact is not None else ball(self.at[0]).union(ball(self.at[1]))

    def reading(self) -> BallReading | None:
        """The program at the very place."""
        with bits(PLACE_BITS):
            return self.boxes.read(self.ball(), 0, self._levels())

    def readings(self) -> list[BallReading | None]:
        """All steps of it there."""
        with bits(PLACE_BITS):
            return self.boxes.steps(self.ball(), 0, self._levels())

    def _levels(self) -> dict[int, Any]:
        return {k: ball(v) for k, v in self.levels.items()}

    def continuous(self, side: int) -> bool:
        """Whether the function is continuous from one side up to the point, where it has a value."""
        with bits(BOX_BITS):
            found = self.boxes.read(self.span(side), 0, self._with_point(side))
            return found is not None and found.continuous

    def closed(self, side: int) -> list[BallReading | None]:
        """All steps on one side and at the point."""
        with bits(BOX_BITS):
            return self.boxes.steps(self.span(side), 0, self._with_point(side))

    def _linked(self, side: int, link: str) -> bool:
        if link == "=":
            return self.continuous(side)
        with bits(BOX_BITS):
            beside = self.boxes.read(self.span(side, False), 0, self.beside[side])
        here = self.reading()
        if beside is None or here is None or not (beside.defined and here.defined) or beside.jet is None or here.jet is None:
            return False
        difference = span_of(here.jet[0]) - beside.jet[0]
        return bool(difference < 0) if link == "<" else bool(difference > 0) if link == ">" else False

    def turn(self) -> tuple[int, int]:
        """Of a value "t" and n, or "0" and n: n and the sign of the n-th derivative; (0, 0) where that is not so."""
        order = int(self.value[1:]) if self.value[1:].isdigit() else 0
        if self.exact is None or not 1 <= order <= MOST_ORDER:
            return 0, 0
        return order, self.boxes.next_sign(self.exact, self.low, self.high, order, 1 if self.value[0] == "t" else 0)

    def _holds_here(self, code: str) -> bool:
        if code[1:]:
            return code[0] in "0t" and self.turn()[1] != 0
        here = self.reading()
        if code == "0":
            zero = here is not None and here.defined and here.jet is not None and bool(here.jet[0].is_zero())
            return zero or (self.exact is not None and self.boxes.zero(self.exact))
        if code in "TN" and self.exact is not None and (here is None or here.truth is None):
            with bits(BITS):
                here = self.boxes.read(self.exact)
        return code in "ud+-TN" and _claim(code)[1](here, None)


def _wronskian(a: list[Any], b: list[Any], k: int) -> Any:
    """The k-th Taylor coefficient of a'b - ab'."""
    total = a[0] * 0
    for j in range(k + 1):
        total = total + (a[j + 1] * b[k - j] - a[k - j] * b[j + 1]) * (j + 1)
    return total


# ---------------------------------------------------------------- covers


class Box:
    """One box of a gap with its claim."""

    __slots__ = ("code", "high", "low")

    def __init__(self, low: End, high: End, code: str) -> None:
        self.low, self.high, self.code = low, high, code


def halved_at(low: End, high: End) -> Fraction:
    """Where a box is halved; endless ones at a place whose size is squared each time."""
    if low is not None and high is not None:
        return (low + high) / 2
    if low is None:
        return Fraction(0) if high is None else -halved_at(-high, None)
    if low > FARTHEST:
        raise Unproven("a box farther out than may be said")
    return low * low if low >= 2 else max(2 * low, low + 1)


def boxes_of(text: str, low: End, high: End) -> Iterator[Box]:
    """The boxes of a gap, from left to right. Raises Unproven where the text is no tree."""
    todo = [(low, high)]
    for letter in text:
        if not todo:
            raise Unproven("a gap with more boxes than it can have")
        a, b = todo.pop()
        if letter == "s":
            middle = halved_at(a, b)
            todo += [(middle, b), (a, middle)]
        else:
            yield Box(a, b, letter)
    if todo:
        raise Unproven("a gap that is not covered")


class Cover:
    """The window of a certificate from one end to the other; making it checks every claim. Raises Unproven.

    apart: letters of claims that whoever makes the cover checks.
    """

    def __init__(self, said: dict[str, Any], level: Any = None, apart: str = "") -> None:
        self.boxes = Boxes(said["formula"], said["variable"], level, 2 if said["claim"] == "inflections" else 0)
        points = [Point(self.boxes, p) for p in said["points"]]
        ends = [None if said[k] == infinite else said[k] for k, infinite in (("low", "-infinity"), ("high", "infinity"))]
        if (ends[0] is not None and (not points or points[0].said != ends[0])) or (
            ends[1] is not None and (not points or points[-1].said != ends[1])
        ):
            raise Unproven("the window does not end where it is said to")
        if any(p.exact is None for p in points[: ends[0] is not None] + points[len(points) - (ends[1] is not None) :]):
            raise Unproven("a window's end that is no number")
        stops: list[Point | None] = [*([] if ends[0] is not None else [None]), *points, *([] if ends[1] is not None else [None])]
        if len(said["gaps"]) != len(stops) - 1 or len(stops) < 2:
            raise Unproven("the gaps do not lie between the points")
        self.parts: list[Box | Point] = []
        for k, stop in enumerate(stops):
            if stop is not None:
                self.parts.append(stop)
            if k < len(stops) - 1:
                following = stops[k + 1]
                low, high = stop.high if stop is not None else None, following.low if following is not None else None
                if low is not None and high is not None and low >= high:
                    if low > high or said["gaps"][k]:
                        raise Unproven("points that overlap")
                else:
                    self.parts += boxes_of(said["gaps"][k], low, high)
        if ends[0] is not None:
            points[0].left, points[0].outer = "", -1
        if ends[1] is not None:
            points[-1].right, points[-1].outer = "", 1
        for part in self.parts:
            if isinstance(part, Point):
                sides = [text for side, text in ((-1, part.left), (1, part.right)) if side != part.outer]
                if not part.value or (not part.value[1:] and "" in sides):
                    raise Unproven(f"nothing is said of a side {part.where}")
                part.check(apart)
            elif part.code != "?" and part.code not in apart and not self.boxes.holds(part.code, part.low, part.high):
                raise Unproven(f"'{part.code}' does not hold from {said_end(part.low)} to {said_end(part.high)}")

    @property
    def points(self) -> list[Point]:
        return [p for p in self.parts if isinstance(p, Point)]
