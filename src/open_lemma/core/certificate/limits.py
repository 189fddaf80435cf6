"""Limits: at a place from one side, or far out.

continuous  the function has a value at the place and is continuous up to it from that side: the value
series      all steps are Laurent series in t, with x = p + t at a place and x = 1/t far out: the constant term, where there is no pole
growth      the function keeps an exponent below 0 (it goes to 0) or grows without bound (see `growth`)
nowhere     there is no value anywhere on that side
rules       by the limits of sums, products and functions that are continuous around the limits of their arguments (or up to an edge of
            their domain, where they have values all over the stretch), or go to a number or to infinity (DLMF 4.14, 7.2, 4.28)
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from flint import arb, fmpq

from .cover import PLACE_BITS, Boxes, Point, Unproven, bits, exact_place, fraction, sign_of
from .evaluator import BallReading, run
from .exact import BITS, Exact, NoExactNumber, rational
from .functions import BROKEN, PARTIAL, BadProgram, Flags, Nowhere
from .growth import GrowthStretch, beside, far_out
from .jets import apply
from .span import span_of

TERMS = 10  # coefficients of a Laurent series
AROUND = arb(2) ** -64  # how far around the limit of an argument an operation has to be continuous
_LOGARITHMS = ("ln", "log10", "log2")
_EDGED = ("sqrt", "asin", "acos", "u^u")  # continuous up to the edges of their domain, these included
_DECIDING = frozenset("abs max min choose floor ceil sign < > <= >= = != and or not pieces within".split())
NOWHERE = "nowhere"
Limit = Any  # an Exact, a ball, 1 or -1 where it is infinite, or NOWHERE
Series = tuple[int, list[Exact]]  # the power of the first term, and coefficients


def limit_of(certificate: dict[str, Any], side: dict[str, Any]) -> Limit:
    """The limit from one side by the rule that is named. Raises Unproven."""
    boxes = Boxes(certificate["formula"], certificate["variable"])
    at, way = certificate["at"], int(side["side"])
    far = at if at in ("infinity", "-infinity") else ""
    if way not in (1, -1) or (far and (far == "infinity") != (way > 0)):
        raise Unproven("a side that is none")
    rule = side["rule"]
    try:
        if rule == "series":
            return _by_series(boxes, None if far else exact_place(at), way, _stretch(boxes, certificate, side, way).readings)
        if rule == "growth":
            return _by_growth(_stretch(boxes, certificate, side, way))
        if rule == "nowhere" and _stretch(boxes, certificate, side, way).readings[-1] is None:
            return NOWHERE
        if rule == "rules":
            return _by_rules(_stretch(boxes, certificate, side, way), way)
        if rule == "continuous" and not far:
            return _by_value(boxes, side["point"], at, way)
    except NoExactNumber:
        pass
    raise Unproven(f"'{rule}' does not give the limit")


def _stretch(boxes: Boxes, certificate: dict[str, Any], side: dict[str, Any], way: int) -> GrowthStretch:
    if isinstance(certificate["at"], str):
        start = fraction(side["from"]) * way
        found = far_out(boxes, start if way > 0 else None, start if way < 0 else None)
    else:
        if side["point"]["is"] != certificate["at"]:
            raise Unproven("another place")
        found = beside(boxes, Point(boxes, side["point"]), way)
    if found is None:
        raise Unproven("no stretch up to the place")
    return found


def _by_growth(stretch: GrowthStretch) -> Limit:
    with bits(PLACE_BITS):
        growth = stretch.growths()[-1]
        if growth is None:
            raise Unproven("no exponent is known")
        total = stretch.total(growth)
        if total.high is not None and total.high < 0:
            return rational(fmpq(0))
        rises = growth.power >= 0 and growth.rate >= 0 and growth.logs.low is not None and growth.logs.low > 0
        if growth.exact and ((total.low is not None and total.low > 0) or rises):
            here = stretch.here[-1]
            if here is not None and here.jet is not None and (here.jet[0] > 0 or here.jet[0] < 0):
                return 1 if here.jet[0] > 0 else -1
        raise Unproven("an exponent that does not tell the limit")


def _by_value(boxes: Boxes, said: dict[str, Any], at: Any, way: int) -> Limit:
    point = Point(boxes, said)
    if point.said != at or point.exact is None or not point.continuous(way):
        raise Unproven("the function is not shown to be continuous there")
    with bits(BITS):
        found = boxes.read(point.exact)
    if found is None or not found.defined or found.jet is None:
        raise Unproven("no value at the place")
    return found.jet[0]


# ---------------------------------------------------------------- series


def _by_series(boxes: Boxes, place: Exact | None, way: int, readings: Sequence[BallReading | None]) -> Limit:
    with bits(BITS):
        zero, one = rational(fmpq(0)), rational(fmpq(1))
        if place is None:
            variable: Series = (-1, [one, *[zero] * (TERMS - 1)])
        else:
            variable = (0, [place, one, *[zero] * (TERMS - 2)])
        found: list[Series] = []
        for k, step in enumerate(boxes.program):
            decides = step[0] in _DECIDING
            found.append(_decided(step, found, readings, readings[k]) if decides else _series_of(step, found, variable, way))
        first, terms = _trimmed(found[-1])
        if first > 0 or not terms:
            return zero if terms or first > 0 else _nothing()
        if first == 0:
            return terms[0]
        sign = 1 if terms[0] > 0 else -1 if terms[0] < 0 else 0
        if not sign:
            raise Unproven("a pole whose sign is not known")
        # Far out t has the sign of the side, too.
        return sign * way ** (-first)


def _nothing() -> Limit:
    raise Unproven("all known terms are zero")


def _trimmed(s: Series) -> Series:
    """Without the terms in front that are exactly zero."""
    first, terms = s
    skip = 0
    while skip < len(terms) and terms[skip].is_zero():
        skip += 1
    return first + skip, terms[skip:]


def _series_of(step: list[Any], found: list[Series], variable: Series, way: int) -> Series:
    head = step[0]
    if head == "variable":
        return variable
    args = [found[k] for k in step[1:] if isinstance(k, int)]
    if not args:
        reading = run([step], {"": rational(fmpq(0))})[-1]
        if reading is None or reading.jet is None or not reading.defined:
            raise Unproven("a step without a value")
        return 0, [reading.jet[0], *[rational(fmpq(0))] * (TERMS - 1)]
    if head in ("+", "-"):
        return _sum(args[0], args[1] if head == "+" else _scaled(args[1]))
    if head in ("neg", "same"):
        return _scaled(args[0]) if head == "neg" else args[0]
    if head in ("*", "/"):
        return _product(args[0], args[1] if head == "*" else _reciprocal(args[1]))
    if head == "^":
        power = _whole(args[1])
        if power is not None:
            base, total = args[0] if power >= 0 else _reciprocal(args[0]), None
            for _ in range(abs(power)):
                total = base if total is None else _product(total, base)
            return total if total is not None else (0, [rational(fmpq(1)), *[rational(fmpq(0))] * (TERMS - 1)])
        return _function(["exp"], [_product(args[1], _function(["ln"], [args[0]]))])
    if head == "tan":
        return _product(_function(["sin"], args[:1]), _reciprocal(args[1]))
    if head == "sqrt":
        return _root(args[0], way)
    return _function(step, args)


def _root(s: Series, way: int) -> Series:
    """The root of t^2k (a + ...), which is |t|^k times that of the rest."""
    first, terms = _trimmed(s)
    if not terms or first % 2 or not terms[0] > 0:
        raise Unproven("a root at an edge")
    root = _function(["sqrt"], [(0, terms)])
    return first // 2, root[1] if way > 0 or first // 2 % 2 == 0 else [-v for v in root[1]]


def _whole(s: Series) -> int | None:
    first, terms = s
    if first or not terms or not all(t.is_zero() for t in terms[1:]) or terms[0].q is None or terms[0].q.q != 1 or abs(terms[0].q.p) > 40:
        return None
    return int(terms[0].q.p)


def _function(step: list[Any], args: list[Series]) -> Series:
    """A function that is analytic at the limits of its arguments, which are finite."""
    args = [s if s[0] >= 0 else _trimmed(s) for s in args]
    length = min(first + len(terms) for first, terms in args)
    jets = []
    for first, terms in args:
        if first < 0 or length < 1:
            raise Unproven("a function far out")
        jets.append([*[rational(fmpq(0))] * first, *terms][:length])
    flags = Flags()
    try:
        jet = apply(step[0], jets, flags)
    except (Nowhere, BadProgram):
        raise Unproven("a step without a value") from None
    if flags.raised or not all(v.ball.is_finite() for v in jet):
        raise Unproven("a step that may break at the place")
    return 0, jet


def _decided(step: list[Any], found: list[Series], readings: Sequence[BallReading | None], own: BallReading | None) -> Series:
    """What is chosen on the side of the place, by the readings of that side; a condition's own series is never read."""
    head = step[0]
    if head in ("choose", "abs", "max", "min"):
        decides = readings[step[3 if head in ("max", "min") else 1]]
        if decides is None:
            raise Unproven("a choice without a value")
        if head == "choose":
            if decides.truth is None:
                raise Unproven("a choice that is open")
            return found[int(step[2 if decides.truth else 3])]
        if decides.jet is None or not (decides.jet[0] > 0 or decides.jet[0] < 0):
            raise Unproven("a choice that is open")
        above = bool(decides.jet[0] > 0)
        if head == "abs":
            return found[int(step[1])] if above else _scaled(found[int(step[1])])
        return found[int(step[1 if above == (head == "max") else 2])]
    if head in ("floor", "ceil", "sign"):
        value = _constant(own)
        if value is None:
            raise Unproven("a step that is not constant on the side")
        return 0, [rational(fmpq(value.unique_fmpz())), *[rational(fmpq(0))] * (TERMS - 1)]
    if head in ("pieces", "within"):
        raise Unproven("a piece at the place")
    return 0, []


def _scaled(s: Series) -> Series:
    return s[0], [-v for v in s[1]]


def _sum(a: Series, b: Series) -> Series:
    first, length = min(a[0], b[0]), min(a[0] + len(a[1]), b[0] + len(b[1]))
    zero = rational(fmpq(0))
    rows = [[*[zero] * (s[0] - first), *s[1]][: length - first] for s in (a, b)]
    return first, [x + y for x, y in zip(*rows, strict=True)]


def _product(a: Series, b: Series) -> Series:
    length = min(len(a[1]), len(b[1]))
    zero = rational(fmpq(0))
    found = []
    for k in range(length):
        total = zero
        for j in range(k + 1):
            if not a[1][j].is_zero() and not b[1][k - j].is_zero():
                total = total + a[1][j] * b[1][k - j]
        found.append(total)
    return a[0] + b[0], found


def _reciprocal(s: Series) -> Series:
    first, terms = _trimmed(s)
    if not terms or not (terms[0] > 0 or terms[0] < 0):
        raise Unproven("a denominator that may be zero all over")
    one, zero = rational(fmpq(1)), rational(fmpq(0))
    found = [one.divided(terms[0])]
    for k in range(1, len(terms)):
        total = zero
        for j in range(1, k + 1):
            if not terms[j].is_zero():
                total = total - terms[j] * found[k - j]
        found.append(total.divided(terms[0]))
    return -first, found


# ---------------------------------------------------------------- rules


@dataclass(frozen=True)
class _Approached:
    """The limit of a step (None: not known), whether it is constant, and its sign on the stretch (0: not known)."""

    limit: Any
    still: bool
    sign: int


def _by_rules(stretch: GrowthStretch, way: int) -> Limit:
    """A ball, or 1 or -1 for an infinite limit. Raises Unproven for infinity less infinity, zero times infinity, a wave."""
    found: list[_Approached] = []
    with bits(PLACE_BITS):
        known = _known_limits(stretch, way)
        for step, reading, value in zip(stretch.boxes.program, stretch.readings, known, strict=True):
            of = [found[j] for j in step[1:] if isinstance(j, int)]
            limit = value if value is not None else _limit_of(step, of, reading is not None and reading.defined)
            moves = step == ["variable", stretch.boxes.variable] or not all(u.still for u in of)
            sign = 0 if reading is None or reading.jet is None or not reading.defined else sign_of(reading.jet[0])
            found.append(_Approached(limit, not moves, sign))
    if found[-1].limit is None:
        raise Unproven("no rule tells the limit")
    return found[-1].limit


def _known_limits(stretch: GrowthStretch, way: int) -> list[Any]:
    """For each step its only value on the stretch, or its value at the place up to which it is continuous; else None."""
    boxes, point = stretch.boxes, stretch.point
    found = [_constant(reading) for reading in stretch.readings]
    if point is None:
        return [way if step == ["variable", boxes.variable] else value for step, value in zip(boxes.program, found, strict=True)]
    for k, (here, closed) in enumerate(zip(point.readings(), point.closed(way), strict=True)):
        if closed is not None and closed.continuous and here is not None and here.defined and here.jet is not None:
            found[k] = here.jet[0] if here.jet[0].is_finite() else found[k]
    return found


def _constant(reading: BallReading | None) -> Any:
    """The only value of a step all over the stretch; None where there are others, or none."""
    value = None if reading is None or reading.jet is None or not reading.defined else span_of(reading.jet[0])
    return value.low if value is not None and value.low is not None and value.high is not None and value.low == value.high else None


def _limit_of(step: list[Any], of: list[_Approached], defined: bool) -> Any:
    """The limit of a step by what its arguments come near to. defined: whether the step has a value all over the stretch."""
    head, args = step[0], [u.limit for u in of]
    if head in ("number", "ball", "pi", "e", "deg"):
        reading = run([step], {"": arb(0)})[-1]
        return None if reading is None or reading.jet is None else reading.jet[0]
    if any(a is None for a in args) or not args:
        return None
    if head == "/" and not isinstance(args[1], int) and args[1].is_zero():
        sign = args[0] if isinstance(args[0], int) else sign_of(args[0])
        return sign * of[1].sign or None
    if head in _LOGARITHMS and not isinstance(args[0], int) and args[0].is_zero():
        return -1 if defined else None
    if all(not isinstance(a, int) for a in args):
        return _at_limits(head, of, defined)
    if head in ("+", "-"):
        return _limit_of_sum(args[0], args[1] if head == "+" else -args[1])
    if head == "neg":
        return -args[0]
    if head in ("*", "/"):
        return _limit_of_product(head, args)
    return _limit_of_function(head, args)


def _at_limits(head: str, of: list[_Approached], defined: bool) -> Any:
    """An operation that is continuous around its arguments' limits, or up to an edge of its domain, which they do not leave."""
    value = _unbroken(head, [u.limit for u in of])
    around = [u.limit if u.still else u.limit + arb(0, 1) * AROUND * (1 + abs(u.limit).upper()) for u in of]
    if _unbroken(head, around) is not None or (defined and (head in _EDGED or (head == "^" and of[1].still))):
        return value
    return None


def _unbroken(head: str, args: list[Any]) -> Any:
    """What an operation comes to on balls on which it has a value everywhere and jumps nowhere; else None."""
    flags = Flags()
    try:
        value = apply(head, [[a] for a in args], flags)[0]
    except (Nowhere, BadProgram):
        return None
    return value if not flags.raised & (PARTIAL | BROKEN) and value.is_finite() else None


def _limit_of_sum(a: Any, b: Any) -> Any:
    if isinstance(a, int) and isinstance(b, int):
        return a if a == b else None
    return a if isinstance(a, int) else b


def _limit_of_product(head: str, args: list[Any]) -> Any:
    a, b = args
    if head == "/" and isinstance(b, int):
        return None if isinstance(a, int) else arb(0)
    signs = [v if isinstance(v, int) else 1 if v > 0 else -1 if v < 0 else 0 for v in (a, b)]
    return signs[0] * signs[1] or None


def _limit_of_function(head: str, args: list[Any]) -> Any:
    u = args[0]
    if head == "^":
        return _limit_of_power(u, args[1])
    if not isinstance(u, int) or len(args) > 1:
        return None
    if head == "exp":
        return 1 if u > 0 else arb(0)
    if head in (*_LOGARITHMS, "sqrt"):
        return 1 if u > 0 else None
    if head in ("cbrt", "sinh", "abs", "cosh"):
        return u if head in ("cbrt", "sinh") else 1
    if head in ("atan", "tanh", "erf"):
        return u * (arb.pi() / 2 if head == "atan" else arb(1))
    return None


def _limit_of_power(u: Any, p: Any) -> Any:
    """Of a base that grows with an exponent near a number, or of a base near a number that is positive and not 1 with one that grows."""
    if isinstance(u, int):
        return None if u < 0 or isinstance(p, int) else 1 if p > 0 else arb(0) if p < 0 else None
    way = p if u > 1 else -p if u > 0 and u < 1 else 0
    return 1 if way > 0 else arb(0) if way < 0 else None


__all__ = ["NOWHERE", "limit_of"]
