"""A strict evaluator: the values of a program on a box, and whether it has a value there at all.

Undefined spreads: a step has no value where an argument of it has none (branches of `choose` that are not taken aside). Each
step's reading says what may be wrong with it somewhere on the box:

    PARTIAL  it may lack a value somewhere     BROKEN  it may jump somewhere     ROUGH  its slope may jump somewhere

A reading of None: it has a value nowhere on the box. Values and Taylor coefficients hold those of the function wherever it has
them; with ROUGH, the first coefficient holds all difference quotients. Numbers are balls (narrow boxes, fast), spans (half-open,
unbounded or singular ones) or exact numbers (single places), which share their operations.

Derivatives: NIST Digital Library of Mathematical Functions, §4.20, §4.34, §5.2, §7.10, §10.6(i). Taylor arithmetic:
A. Griewank, A. Walther, "Evaluating Derivatives", SIAM 2008, ch. 13.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Callable, Sequence
from fractions import Fraction
from functools import lru_cache
from typing import Any

from flint import acb, arb, arb_series, ctx, fmpq

from .exact import Exact, NoExactNumber, exact_of, pi, rational
from .span import WHOLE, Span, of_ball, span_of

PARTIAL, BROKEN, ROUGH = 1, 2, 4
Num = Any  # arb, Span or Exact
Jet = list[Any]  # Taylor coefficients of a step along the variable, constant term first
NARROW = 8  # bits in which both ends of a ball agree, from which on the power of its middle is good enough
NAN = arb("nan")
MOST_FACTORIAL = 1_000
MOST_EXACT_POWER = 10_000
MOST_POWER = 2**50
FAR = arb(2) ** 20_000  # whole numbers beyond it are not written out


class Nowhere(Exception):
    """A step has no value anywhere on the box."""


class BadProgram(Exception):
    """A program is not one: a step that is not known, or that names a later one."""


class Flags:
    __slots__ = ("raised",)

    def __init__(self) -> None:
        self.raised = 0


QUIET = Flags()  # for slopes, of which it does not matter whether they have a value at single places


class BallReading:
    """One step on the box: its Taylor coefficients (or the truth of a condition; None where that is open), and its flags."""

    __slots__ = ("flags", "growth", "jet", "truth")

    def __init__(self, jet: Jet | None, flags: int, truth: bool | None = None, growth: Num = None) -> None:
        self.jet, self.flags, self.truth, self.growth = jet, flags, truth, growth

    @property
    def defined(self) -> bool:
        return not self.flags & PARTIAL

    @property
    def continuous(self) -> bool:
        return not self.flags & (PARTIAL | BROKEN)

    @property
    def smooth(self) -> bool:
        return not self.flags


def run(
    program: Sequence[Sequence[Any]], places: dict[str, Num], order: int = 0, along: str | tuple[str, ...] | None = None,
    known: dict[int, Num] | None = None,
) -> list[BallReading | None]:  # fmt: skip
    """All steps on a box. places: a number for each variable. along: the variable of the Taylor coefficients, up to `order`; of several
    ones all move alike.
    known: values that are known of some steps and stand in for what would come out."""
    sample = next(iter(places.values()), arb(0))
    moving = (along,) if isinstance(along, str) else along or ()
    lift = of_ball if isinstance(sample, Span) else exact_of if isinstance(sample, Exact) else _same
    found: list[BallReading | None] = []
    for place, step in enumerate(program):
        reading = _read(step, found, places, order, moving, lift)
        if known is not None and place in known and reading is not None and reading.jet is not None:
            told = known[place] if isinstance(known[place], list) else [known[place]]
            undefined = reading.flags & ~PARTIAL if len(told) > 1 else reading.flags
            reading = BallReading([*told, *reading.jet[len(told) :]][: order + 1], undefined)
        found.append(reading)
    return found


def _same(value: Num) -> Num:
    return value


def value_of(program: Sequence[Sequence[Any]], places: dict[str, Num], order: int = 0, along: str | None = None,
             known: dict[int, Num] | None = None) -> BallReading | None:  # fmt: skip
    return run(program, places, order, along, known)[-1]


_LEAVES = frozenset({"variable", "number", "ball"})


def _leaf(step: Sequence[Any], places: dict[str, Num], order: int, moving: tuple[str, ...], lift: Any) -> BallReading | None:
    """A step that rests on no other one."""
    head = step[0]
    rest = [lift(arb(0))] * order
    if head == "variable":
        if step[1] not in places:
            raise BadProgram(f"no place for {step[1]}")
        return BallReading([places[step[1]], *([lift(arb(1)), *rest[1:]] if step[1] in moving and order else rest)], 0)
    if head == "number":
        exact = _parsed(step[1])
        return BallReading([rational(exact) if lift is exact_of else lift(arb(exact)), *rest], 0)
    if head == "ball":
        return BallReading([lift(arb(step[1]).union(arb(step[2]))), *rest], 0)
    if head in _CONSTANTS:
        value = _EXACT_CONSTANTS[head]() if lift is exact_of else lift(_CONSTANTS[head]())
        return BallReading([value, *rest], 0)
    if head == "no piece":
        return None
    if head in ("true", "false"):
        return BallReading(None, 0, head == "true")
    raise BadProgram(str(head))


def _read(
    step: Sequence[Any], found: list[BallReading | None], places: dict[str, Num], order: int, moving: tuple[str, ...], lift: Any
) -> BallReading | None:
    head = step[0]
    if len(step) == 1 or head in _LEAVES:
        return _leaf(step, places, order, moving, lift)
    size = len(found)
    args: list[Any] = []
    # Said step by step and not by `any`: this is where the verifier spends its time.
    for k in step[1:2] if head == "pieces" else step[1:]:
        if not isinstance(k, int) or not 0 <= k < size:
            raise BadProgram(f"step {size}")
        args.append(found[k])
    if head == "choose":
        return _chosen(*args)
    if head in ("and", "or"):
        return _joined(head == "or", args)
    flags = Flags()
    jets: list[Jet] = []
    bare = False
    for a in args:
        if a is None:
            return None
        flags.raised |= a.flags
        bare = bare or a.jet is None
        jets.append(a.jet)
    readings: list[BallReading] = args
    if head == "not":
        held = readings[0].truth
        return BallReading(None, flags.raised, None if held is None else not held)
    if bare:
        raise BadProgram(f"step {size}")
    try:
        if head in _COMPARED:
            return BallReading(None, flags.raised, _COMPARED[head](jets[0][0]))
        jet = _pieces(step, jets[0], flags) if head == "pieces" else apply(head, jets, flags)
        if order and isinstance(jet[0], Span):
            return _growing(head, BallReading(jet, flags.raised), readings)
        return BallReading(jet, flags.raised)
    except Nowhere:
        return None
    except NoExactNumber:
        # Not decided: nothing is known of the step, and of what rests on it.
        unknown = None if head in _COMPARED else [Exact(NAN)] * (order + 1)
        return BallReading(unknown, flags.raised | PARTIAL | BROKEN)


@lru_cache(4_096)
def _parsed(text: str) -> fmpq:
    q = Fraction(text)
    return fmpq(q.numerator, q.denominator)


def _growing(head: str, found: BallReading, args: list[BallReading]) -> BallReading:
    """The reading with its growth f'/f, which tells the sign of a slope where products of large and small factors drown it:
    (uv)'/(uv) = u'/u + v'/v, and exp(u)'/exp(u) = u'."""
    jet = found.jet
    assert jet is not None
    u = args[0].jet
    assert u is not None
    if head == "exp":
        found.growth = u[1]
    elif head in ("neg", "same"):
        found.growth = _growth(args[0])
    elif head in ("*", "/"):
        a, b = _growth(args[0]), _growth(args[1])
        found.growth = a + b if head == "*" else a - b
    elif head in ("sqrt", "cbrt", "^"):
        power = {"sqrt": _ratio(1, 2), "cbrt": _ratio(1, 3)}.get(head)
        exponent = args[1].jet if power is None else None
        if exponent is not None and exponent[1].is_zero():
            found.growth = _growth(args[0]) * exponent[0]
        elif power is not None:
            found.growth = _growth(args[0]) * of_ball(power.ball)
    if found.growth is not None and not (jet[1] > 0 or jet[1] < 0):
        slope = jet[0] * found.growth
        if slope > 0 or slope < 0:
            found.jet = [jet[0], slope, *jet[2:]]
    return found


def _growth(reading: BallReading) -> Span:
    """f'/f of a step that is positive or negative throughout; else nothing."""
    jet = reading.jet
    if reading.growth is not None:
        return span_of(reading.growth)
    if jet is None or not (jet[0] > 0 or jet[0] < 0):
        return Span(arb(0), arb(0)) if jet is not None and jet[1].is_zero() else WHOLE
    return span_of(jet[1] * jet[0].reciprocal())


# ---------------------------------------------------------------- choices


def _equal(d: Num) -> bool | None:
    return True if d.is_zero() else False if d > 0 or d < 0 else None


def _not(held: bool | None) -> bool | None:
    return None if held is None else not held


_COMPARED: dict[str, Callable[[Num], bool | None]] = {
    "<": lambda d: True if d < 0 else False if d >= 0 else None,
    ">": lambda d: True if d > 0 else False if d <= 0 else None,
    "<=": lambda d: True if d <= 0 else False if d > 0 else None,
    ">=": lambda d: True if d >= 0 else False if d < 0 else None,
    "=": _equal,
    "!=": lambda d: _not(_equal(d)),
}


def _joined(decides: bool, args: list[BallReading | None]) -> BallReading | None:
    """`and`, `or`: one that decides is enough; else one without a value leaves the whole without."""
    flags, truths, lost = 0, [], False
    for a in args:
        if a is None:
            lost = True
        elif a.truth is decides and not a.flags & PARTIAL:
            return BallReading(None, 0, decides)
        else:
            flags |= a.flags
            truths.append(a.truth)
    if lost:
        return None if all(t is not None and t is not decides for t in truths) else BallReading(None, flags | PARTIAL, None)
    return BallReading(None, flags, None if None in truths else decides if decides in truths else not decides)


def _chosen(condition: BallReading | None, taken: BallReading | None, other: BallReading | None) -> BallReading | None:
    if condition is None:
        return None
    if condition.truth is not None:
        branch = taken if condition.truth else other
        return None if branch is None else BallReading(branch.jet, branch.flags | condition.flags)
    flags = condition.flags | BROKEN
    if taken is None or other is None:
        left = taken or other
        return None if left is None else BallReading(left.jet, left.flags | flags | PARTIAL)
    if taken.jet is None or other.jet is None:
        raise BadProgram("choose")
    if isinstance(taken.jet[0], Exact):
        return BallReading([Exact(NAN)] * len(taken.jet), flags | PARTIAL)
    return BallReading([union(a, b) for a, b in zip(taken.jet, other.jet, strict=True)], taken.flags | other.flags | flags)


# ---------------------------------------------------------------- numbers of three kinds


def union(a: Num, b: Num) -> Num:
    return a.union(b)


def magnitude(u: Num) -> Num:
    if not isinstance(u, arb):
        return u.magnitude()
    return u if u >= 0 else -u if u <= 0 else arb(0).union((-u.lower()).max(u.upper())) if u.is_finite() else NAN


def whole_power(u: Num, n: int) -> Num:
    """A power with a whole exponent; a negative one of an interval that holds zero is everything."""
    if not isinstance(u, arb):
        return u.whole_power(n)
    if n < 2:
        return u if n else _whole(1, u)
    if not u.is_finite() or u.is_zero() or u.rel_accuracy_bits() >= NARROW:
        return u**n
    # A ball around the power of the middle reaches far beyond the powers of a wide one: [1, 5]^2 is [1, 25], and there [-7, 25].
    low, high = u.lower(), u.upper()
    if n % 2 or low > 0 or high < 0:
        return (low**n).union(high**n)
    return arb(0).union((-low).max(high) ** n)


def part(u: Num, k: int) -> Num:
    """u/k for a whole k."""
    return u / k if isinstance(u, arb) else u * (of_ball(1 / arb(k)) if isinstance(u, Span) else rational(fmpq(1, k)))


def divide(a: Num, b: Num, flags: Flags) -> Num:
    """A quotient; raises the flag of a pole where the divisor may be zero. Raises Nowhere where it is zero throughout."""
    if b.is_zero():
        raise Nowhere
    if b > 0 or b < 0:
        return a / b if isinstance(a, arb) else a.divided(b) if isinstance(a, Exact) else a * b.reciprocal()
    flags.raised |= PARTIAL
    return a * b.reciprocal() if isinstance(b, Span) else NAN


def _unknown(like: Num) -> Num:
    return WHOLE if isinstance(like, Span) else Exact(NAN) if isinstance(like, Exact) else NAN


def _hull(low: int, high: int, like: Num) -> Num:
    if isinstance(like, Exact):
        raise NoExactNumber
    ball = arb(low).union(arb(high))
    return of_ball(ball) if isinstance(like, Span) else ball


def _whole(n: int, like: Num) -> Num:
    return of_ball(arb(n)) if isinstance(like, Span) else rational(fmpq(n)) if isinstance(like, Exact) else arb(n)


def _by_ball(function: Callable[[Any], Any]) -> Callable[[Flags, Num], Num]:
    """A function that is defined and continuous everywhere, of which only the ball reading is known."""

    def value(_: Flags, u: Num) -> Num:
        if isinstance(u, arb):
            return function(u)
        if isinstance(u, Exact):
            return exact_of(function(u.ball))
        return of_ball(function(u.ball())) if u.is_finite() else WHOLE

    return value


# ---------------------------------------------------------------- values


def _root(flags: Flags, u: Num) -> Num:
    if u < 0:
        raise Nowhere
    if u >= 0:
        return u.sqrt()
    flags.raised |= PARTIAL
    if isinstance(u, Span):
        return u.clipped(arb(0)).sqrt()
    return arb(0).union(u.upper().sqrt()) if u.is_finite() else NAN


def _log(flags: Flags, u: Num) -> Num:
    if u <= 0:
        raise Nowhere
    if u > 0:
        return u.log()
    flags.raised |= PARTIAL
    return u.clipped(arb(0)).log() if isinstance(u, Span) else NAN


def _cube_root(_: Flags, u: Num) -> Num:
    if isinstance(u, Span):
        return u.rising(lambda v: _cube_root(QUIET, v), None)
    if u.is_zero():
        return u
    if u >= 0:
        return u.root(3)
    if u <= 0:
        return -((-u).root(3))
    return (-((-u.lower()).root(3))).union(u.upper().root(3)) if u.is_finite() else NAN


def _tan(flags: Flags, u: Num, c: Num) -> Num:
    """The cosine stands beside, so that it may be known to keep its sign up to a pole."""
    if c.is_zero():
        raise Nowhere
    if c > 0 or c < 0:
        whole = u.tan() if isinstance(u, arb) else None
        if isinstance(u, Span) and u.is_finite() and (u.ball().cos() > 0 or u.ball().cos() < 0):
            return u.rising(lambda v: v.tan(), None)
        return whole if whole is not None and whole.is_finite() else divide(u.sin(), c, flags)
    flags.raised |= PARTIAL
    return _unknown(u)


def _arcsine(flags: Flags, u: Num, below: Num, above: Num) -> Num:
    """below, above: 1 - u and 1 + u, which may be known to keep their sign."""
    if below < 0 or above < 0:
        raise Nowhere
    if not (below >= 0 and above >= 0):
        flags.raised |= PARTIAL
    if isinstance(u, Exact):
        return u.asin()
    inside = span_of(u).clipped(arb(-1), arb(1)).asin()
    return inside if isinstance(u, Span) else inside.ball()


def _arccosine(flags: Flags, u: Num, below: Num, above: Num) -> Num:
    value = _arcsine(flags, u, below, above)
    quarter = arb.pi() / 2
    return (
        pi() * _ratio(1, 2) - value if isinstance(value, Exact) else quarter - value if isinstance(value, arb) else of_ball(quarter) - value
    )


def _ratio(p: int, q: int) -> Exact:
    return rational(fmpq(p, q))


def _sign(flags: Flags, u: Num) -> Num:
    if u > 0 or u < 0:
        return _whole(1 if u > 0 else -1, u)
    if u.is_zero():
        return _whole(0, u)
    flags.raised |= BROKEN
    return _hull(0 if u >= 0 else -1, 0 if u <= 0 else 1, u)


def _floor(flags: Flags, u: Num) -> Num:
    if isinstance(u, Exact):
        if not abs(u.ball) < FAR:
            raise NoExactNumber
        n = int(u.ball.mid().floor().unique_fmpz())
        return next(rational(fmpq(k)) for k in (n, n + 1, n - 1) if u >= k and u < k + 1)
    s = span_of(u)
    if not s.is_finite() or s.low < -FAR or s.high > FAR:
        flags.raised |= BROKEN
        return _unknown(u)
    low, high = s.low.floor().lower(), s.high.floor().upper()
    if s.high_open and s.high == high and s.high > s.low:
        high = high - 1  # the whole number above is not reached
    if low != high:
        flags.raised |= BROKEN
    found = Span(low, high)
    return found if isinstance(u, Span) else found.ball()


def _ceil(flags: Flags, u: Num) -> Num:
    return -_floor(flags, -u)


def _power(flags: Flags, a: Num, b: Num) -> Num:
    n = _whole_exponent(b)
    if n is not None:
        return whole_power(a, n) if n >= 0 else divide(_whole(1, a), whole_power(a, -n), flags)
    if a > 0:
        if isinstance(b, Exact) and b.q is not None and int(b.q.q) <= 12 and abs(int(b.q.p)) <= 60:
            root = a.root(int(b.q.q))
            p = int(b.q.p)
            return whole_power(root, p) if p >= 0 else divide(_whole(1, a), whole_power(root, -p), flags)
        return (b * a.log()).exp()
    if a < 0:
        if not _may_be_whole(b):
            raise Nowhere
        flags.raised |= PARTIAL
        return _unknown(a)
    if a.is_zero() and b > 0:
        return _whole(0, a)
    if a.is_zero() and b < 0:
        raise Nowhere
    if not a >= 0 or not b > 0:
        flags.raised |= PARTIAL
    if not b > 0 or (not a >= 0 and _may_be_whole(b)):
        return _unknown(a)  # of a negative number the powers have a value whose exponents are whole
    if isinstance(a, Span):
        inside = a.clipped(arb(0))
        value = (span_of(b) * inside.log()).exp()
        return value if inside.low_open else value.union(of_ball(arb(0)))
    if not a.is_finite() or not a.upper() > 0:
        return NAN
    return arb(0).union((b * a.upper().log()).exp().upper()).union((b.lower() * a.upper().log()).exp().upper()).union(
        (b.upper() * a.upper().log()).exp().upper())  # fmt: skip


def _whole_exponent(b: Num) -> int | None:
    if isinstance(b, Exact):
        return int(b.q.p) if b.q is not None and b.q.q == 1 and abs(b.q.p) <= MOST_EXACT_POWER else None
    ball = b if isinstance(b, arb) else b.low if b.is_finite() and b.low == b.high else None
    if ball is None or not (abs(ball) <= MOST_POWER and ball.is_exact() and ball.is_integer()):
        return None
    return int(ball.unique_fmpz())


def _may_be_whole(b: Num) -> bool:
    if isinstance(b, Span):
        return not b.is_finite() or not (abs(b.low) < FAR) or _holds_whole(b)
    ball = b.ball if isinstance(b, Exact) else b
    return not ball.is_finite() or bool(ball.contains_integer())


def _holds_whole(b: Span) -> bool:
    """Whether a whole number lies in a finite span."""
    first = b.low.ceil()
    if b.low_open and first == b.low:
        first = first + 1
    return not (first > b.high or (b.high_open and first == b.high))


def _at_poles(function: Callable[..., Any]) -> Callable[..., Num]:
    """A function with poles at 0, -1, -2, ...: the last argument."""

    def value(flags: Flags, *args: Num) -> Num:
        u = args[-1]
        ball = u if isinstance(u, arb) else u.ball if isinstance(u, Exact) else u.ball()
        if not u > 0 and (not ball.is_finite() or ball.contains_integer()):
            flags.raised |= PARTIAL
            return _unknown(u)
        orders = [a if isinstance(a, arb) else a.ball if isinstance(a, Exact) else a.ball() for a in args[:-1]]
        found = function(*orders, ball) if ball.is_finite() else NAN
        return of_ball(found) if isinstance(u, Span) else exact_of(found) if isinstance(u, Exact) else found

    return value


def _reciprocal_gamma(_: Flags, n: Num, u: Num) -> Num:
    """The n-th derivative of 1/Gamma, which has no poles."""
    order = _whole_exponent(n) or 0
    value = _by_ball(lambda v: arb_series([v, 1], order + 1).rgamma()[order] * arb(math.factorial(order)))
    return value(QUIET, u)


def _over_gamma(flags: Flags, u: Num) -> Num:
    """1/Gamma, which falls from 2 on."""
    if isinstance(u, Span) and u > 2 and u.low is not None and u.high is None:
        return Span(arb(0), u.low.rgamma().upper(), True, u.low_open)
    if isinstance(u, Exact) and u.q is not None and u.q.q == 1 and u.q.p <= MOST_FACTORIAL:
        return rational(1 / fmpq(math.factorial(int(u.q.p) - 1)) if u.q.p > 0 else fmpq(0))
    return _by_ball(lambda v: v.rgamma())(flags, u)


def _times_log(flags: Flags, u: Num) -> Num:
    """u ln u, which falls from 0 up to u = 1/e and rises from there."""
    log = _log(flags, u)
    if not isinstance(u, Span):
        return u * log
    least = (-arb(-1).exp()).lower()
    inside = u.clipped(arb(0))
    if inside.high is not None and inside.high < arb(-1).exp():
        low = (inside.high * inside.high.log()).lower() if inside.high > 0 else arb(0)
        high = arb(0) if not inside.low > 0 else (inside.low * inside.low.log()).upper()
        return Span(low, high, inside.high_open, inside.low_open or not inside.low > 0)
    if inside.low is not None and inside.low > arb(-1).exp():
        return inside.rising(lambda v: v * v.log(), None)
    high = None if inside.high is None else (inside.high * inside.high.log()).upper()
    return Span(least, None if high is None else high.max(arb(0)))


def _to_itself(flags: Flags, u: Num) -> Num:
    """u^u, which is 1 at 0; of negative numbers only whole ones have a value."""
    if isinstance(u, Exact) or _whole_exponent(u) is not None:
        return _power(flags, u, u)
    if u < 0 and (u > -1 or not _may_be_whole(u)):
        raise Nowhere
    if not u >= 0:
        flags.raised |= PARTIAL
    if not isinstance(u, Span) or u < 0:
        return (u * u.log()).exp() if u > 0 else _unknown(u)
    inside, one = u.clipped(arb(0)), of_ball(arb(1))
    value = one if inside.is_zero() else _times_log(QUIET, inside).exp()
    if not inside > 0:
        value = value.union(one)
    return value if u > -1 else value.union(Span(arb(-1), arb(1)))  # no power of a whole number below zero is beyond 1


def _bessel(second: bool) -> Callable[[Flags, Num, Num], Num]:
    def value(flags: Flags, n: Num, x: Num) -> Num:
        whole = _whole_exponent(n) is not None and not second
        if not whole:
            if (x < 0 and not _may_be_whole(n)) or (second and x <= 0):
                raise Nowhere
            if not (x > 0 or (x >= 0 and n > 0 and not second)):
                flags.raised |= PARTIAL
                return _unknown(x)
        order, at = (v if isinstance(v, arb) else v.ball if isinstance(v, Exact) else v.ball() for v in (n, x))
        if second and isinstance(x, Span) and x.low == 0 and x.high is not None and x.high <= 0.5:
            # Y_n rises from -infinity up to its first maximum, which is beyond 1 (DLMF 10.21(i)); Y_-n is Y_n or -Y_n.
            whole_order = _whole_exponent(n)
            if whole_order is not None:
                end = x.high.bessel_y(arb(abs(whole_order))).upper()
                found = Span(None, end, True, x.high_open)
                return -found if whole_order < 0 and whole_order % 2 else found
        if isinstance(x, Exact) and x.is_zero() and whole:
            return _whole(int(_whole_exponent(n) == 0), x)
        found = _near_middle(order, at, whole, second) if at.is_finite() else arb(0).union(arb(1)).union(arb(-1)) if whole else NAN
        return of_ball(found) if isinstance(x, Span) else Exact(found) if isinstance(x, Exact) else found

    return value


def _near_middle(order: Any, at: Any, whole: bool, second: bool) -> Any:
    """With guard digits for the power series; on wide balls by a bound of the slope, |J_n'| <= 1 (DLMF 10.14.1 with 10.6.1)."""
    before = ctx.prec
    ctx.prec = before + 16 + min(int(1.5 * abs(float(at.mid()))), 120)
    try:
        direct = at.bessel_y(order) if second else at.bessel_j(order)
        if at.is_exact():
            return direct
        middle = at.mid()
        if not whole:
            low = at.lower()
            if not low > 0:
                return direct
            slope = (_modulus(order - 1, low) + _modulus(order + 1, low)).upper() / 2
            around = (middle.bessel_y(order) if second else middle.bessel_j(order)) + slope * (at - middle)
            return around.intersection(direct) if direct.is_finite() else around
        held = (middle.bessel_j(order) + (at - middle)).intersection(arb(0).union(arb(1)).union(arb(-1)))
        return held.intersection(direct) if direct.is_finite() else held
    finally:
        ctx.prec = before


def _modulus(order: Any, low: Any) -> Any:
    """The root of J^2 + Y^2, which falls with x (Nicholson's integral, DLMF 10.9.30): a bound of both from there on."""
    return (low.bessel_j(order) ** 2 + low.bessel_y(order) ** 2).sqrt()


def _plain(name: str) -> Callable[[Flags, Num], Num]:
    def value(_: Flags, u: Num) -> Num:
        return getattr(u, name)()

    return value


def _wave(name: str) -> Callable[[Flags, Num], Num]:
    """Sine and cosine, which the ball library lets reach as far as the ball is wide."""

    def value(_: Flags, u: Num) -> Num:
        found = getattr(u, name)()
        return found.intersection(arb(0, 1)) if isinstance(u, arb) and found.is_finite() and not found.abs_upper() < 1 else found

    return value


VALUES: dict[str, Callable[..., Num]] = {
    **{n: _wave(n) for n in ("sin", "cos")}, **{n: _plain(n) for n in ("sinh", "cosh", "tanh", "atan", "exp", "erf", "erfc")},
    "sqrt": _root, "ln": _log, "cbrt": _cube_root, "tan": _tan, "asin": _arcsine, "acos": _arccosine, "sign": _sign, "floor": _floor,
    "ceil": _ceil, "^": _power, "1/Gamma": _over_gamma,
    "1/Gamma^": _reciprocal_gamma, "u ln u": _times_log, "u^u": _to_itself, "digamma": _at_poles(lambda u: u.digamma()),
    "polygamma": _at_poles(lambda n, u: acb(u).polygamma(acb(n)).real), "besselj": _bessel(False), "bessely": _bessel(True),
}  # fmt: skip


# ---------------------------------------------------------------- Taylor coefficients

LONG = 5  # coefficients from which on the ball library's own arithmetic of power series is faster


def _by_series(operation: Callable[..., Any], *jets: Jet) -> Jet | None:
    """An operation on long jets of balls by the ball library's power series; None for other numbers. From the first coefficient on that
    is not finite nothing is known of the result."""
    if not all(isinstance(v, arb) for j in jets for v in j):
        return None
    whole = len(jets[0])
    length = min(next((k for k, v in enumerate(j) if not v.is_finite()), whole) for j in jets)
    if not length:
        return [NAN] * whole
    before, ctx.cap = ctx.cap, length
    try:
        # What cannot be divided by, or has no logarithm, has no series.
        found = operation(*(arb_series(j[:length], length) for j in jets))
        coefficients = [found[k] for k in range(length)]
    except ValueError:
        return [NAN] * whole
    finally:
        ctx.cap = before
    return [v if v.is_finite() else NAN for v in coefficients] + [NAN] * (whole - length)


_SERIES: dict[str, Callable[..., Any]] = {
    "exp": lambda u: u.exp(), "ln": lambda u: u.log(), "sin": lambda u: u.sin(), "cos": lambda u: u.cos(), "sqrt": lambda u: u.sqrt(),
    "tan": lambda u, _: u.tan(), "atan": lambda u: u.atan(), "asin": lambda u, *_: u.asin(), "acos": lambda u, *_: u.acos(),
    "cbrt": lambda u: u ** (arb(1) / 3) if u[0] > 0 else -((-u) ** (arb(1) / 3)),
    "sinh": lambda u: (u.exp() - (-u).exp()) / 2, "cosh": lambda u: (u.exp() + (-u).exp()) / 2,
    "u ln u": lambda u: u * u.log(), "u^u": lambda u: (u * u.log()).exp(), "tanh": lambda u: 1 - 2 / ((2 * u).exp() + 1),
    "1/Gamma": lambda u: u.rgamma(), "erf": lambda u: u.erf(), "erfc": lambda u: u.erfc(),
    "^": lambda u, v: u ** (v[0] if v.length() < 2 else v),
}  # fmt: skip


def _times(a: Jet, b: Jet) -> Jet:
    if len(a) > LONG:
        product = _by_series(lambda u, v: u * v, a, b)
        if product is not None:
            return product
    found = []
    for k in range(len(a)):
        total = a[0] * b[k]
        for j in range(1, k + 1):
            total = total + a[j] * b[k - j]
        found.append(total)
    return found


def _over(a: Jet, b: Jet, flags: Flags) -> Jet:
    found = [divide(a[0], b[0], flags)]
    if len(a) > LONG and isinstance(b[0], arb) and not b[0].contains(0):
        quotient = _by_series(lambda u, v: u / v, a, b)
        if quotient is not None:
            return [found[0], *quotient[1:]]
    if isinstance(b[0], Span) and all(v.is_zero() for v in a[1:]):
        # With 1/b put before the sums these keep their sign where b is unbounded, or comes near to zero.
        over = found[0]
        shares = [of_ball(arb(1))]
        for k in range(1, len(a)):
            rest = b[k]
            for j in range(1, k):
                rest = rest + b[j] * shares[k - j]
            shares.append(divide(-rest, b[0], QUIET))
            found.append(over * shares[k])
        return found
    for k in range(1, len(a)):
        rest = a[k]
        for j in range(1, k + 1):
            rest = rest - b[j] * found[k - j]
        found.append(divide(rest, b[0], QUIET))
    return found


def _constant(k: int, like: Jet) -> Jet:
    return [_whole(k, like[0]), *(_whole(0, like[0]) for _ in like[1:])]


def _plus(a: Jet, b: Jet) -> Jet:
    return [x + y for x, y in zip(a, b, strict=True)]


def _minus(a: Jet) -> Jet:
    return [-x for x in a]


def _call(name: str, *jets: Jet) -> Jet:
    return apply(name, list(jets), QUIET)


def _scaled(a: Jet, k: int, by: int = 1) -> Jet:
    return [part(x * k, by) for x in a]


def _root_pi(u: Jet) -> Jet:
    value = arb.pi().sqrt()
    lifted = of_ball(value) if isinstance(u[0], Span) else Exact(value) if isinstance(u[0], Exact) else value
    return [lifted, *_constant(0, u)[1:]]


def _bell(u: Jet) -> Jet:
    return _over(_scaled(_call("exp", _minus(_times(u, u))), 2), _root_pi(u), QUIET)


def _reciprocal(a: Jet) -> Jet:
    return _over(_constant(1, a), a, QUIET)


def _slope_of_power(a: Jet, b: Jet) -> Jet:
    if b[0].is_zero():
        return _constant(0, a)
    return _times(b, _call("^", a, [b[0] - 1, *b[1:]]))


def _arc(_: Jet, below: Jet, above: Jet) -> Jet:
    return _reciprocal(_call("sqrt", _times(below, above)))


def _bessel_slope(name: str) -> Callable[[Jet, Jet], Jet]:
    def slope(n: Jet, u: Jet) -> Jet:
        before, after = (_call(name, [n[0] + k, *n[1:]], u) for k in (-1, 1))
        return _scaled(_plus(before, _minus(after)), 1, 2)

    return slope


SLOPES: dict[str, tuple[Callable[..., Jet] | None, ...]] = {
    "sin": (lambda u: _call("cos", u),), "cos": (lambda u: _minus(_call("sin", u)),), "sinh": (lambda u: _call("cosh", u),),
    "cosh": (lambda u: _call("sinh", u),), "tanh": (lambda u: _reciprocal(_times(_call("cosh", u), _call("cosh", u))),),
    "atan": (lambda u: _reciprocal(_plus(_constant(1, u), _times(u, u))),), "exp": (lambda u: _call("exp", u),),
    "erf": (_bell,), "erfc": (lambda u: _minus(_bell(u)),), "sqrt": (lambda u: _reciprocal(_scaled(_call("sqrt", u), 2)),),
    "ln": (_reciprocal,), "cbrt": (lambda u: _reciprocal(_scaled(_call("^", _call("cbrt", u), _constant(2, u)), 3)),),
    "tan": (lambda _, c: _reciprocal(_call("^", c, _constant(2, c))), None), "asin": (_arc, None, None),
    "acos": (lambda *a: _minus(_arc(*a)), None, None), "sign": (lambda u: _constant(0, u),), "floor": (lambda u: _constant(0, u),),
    "ceil": (lambda u: _constant(0, u),),
    "^": (_slope_of_power, lambda a, b: _times(_call("^", a, b), _call("ln", a))),
    "1/Gamma": (lambda u: _call("1/Gamma^", _constant(1, u), u),),
    "1/Gamma^": (None, lambda n, u: _call("1/Gamma^", [n[0] + 1, *n[1:]], u)),
    "u ln u": (lambda u: _plus(_call("ln", u), _constant(1, u)),),
    "u^u": (lambda u: _times(_call("u^u", u), _plus(_call("ln", u), _constant(1, u))),),
    "digamma": (lambda u: _call("polygamma", _constant(1, u), u),),
    "polygamma": (None, lambda n, u: _call("polygamma", [n[0] + 1, *n[1:]], u)),
    "besselj": (None, _bessel_slope("besselj")), "bessely": (None, _bessel_slope("bessely")),
}  # fmt: skip


_BESSEL = ("besselj", "bessely")


def _bessel_series(name: str, value: Num, n: Jet, u: Jet) -> Jet | None:
    """Bessel functions of a long jet by their differential equation x^2 y'' + x y' + (x^2 - n^2) y = 0 (DLMF 10.2.1).

    Of a whole order no derivative of J is beyond 1, being a mean of others (DLMF 10.6.7, 10.14.1).
    """
    x, length = u[0], len(u)
    if not isinstance(x, arb) or not all(d.is_zero() for d in n[1:]):
        return None
    whole = name == "besselj" and _whole_exponent(n[0]) is not None
    y = [value]
    if not x.contains(0):
        y.append(apply(name, [n[:2], [x, arb(1)]], QUIET)[1])
        for k in range(length - 2):
            earlier = [y[k - j] if k >= j else arb(0) for j in (1, 2)]
            rest = y[k + 1] * x * ((k + 1) * (2 * k + 1)) + y[k] * (x * x + k * k - n[0] * n[0]) + 2 * x * earlier[0] + earlier[1]
            y.append(_within_one(-rest / (x * x * ((k + 2) * (k + 1))), k + 2, whole))
    elif whole:
        y += [_within_one(NAN, k, True) for k in range(1, length)]
    else:
        return None
    # The series in u - u(0), put together from the highest power down.
    return _by_series(lambda a: _composed(y, a), [arb(0), *u[1:]])


def _within_one(v: Num, k: int, whole: bool) -> Num:
    """A Taylor coefficient of a function of which no derivative is beyond 1."""
    if not whole:
        return v
    most = arb(0, 1) / arb(math.factorial(k))
    return v.intersection(most) if v.is_finite() else most


def _composed(outer: Jet, inner: Any) -> Any:
    total = inner * 0 + outer[-1]
    for v in outer[-2::-1]:
        total = total * inner + v
    return total


def apply(name: str, jets: list[Jet], flags: Flags) -> Jet:
    """The Taylor coefficients of an operation, by those of its arguments. Raises Nowhere, BadProgram."""
    direct = _DIRECT.get(name)
    if direct is not None:
        return direct(flags, *jets)
    if name in ("log10", "log2"):
        exact = _whole_log(jets[0][0], int(name[3:])) if isinstance(jets[0][0], Exact) else None
        if exact is not None and len(jets[0]) == 1:
            return [exact]
        base = _call("ln", _constant(int(name[3:]), jets[0]))
        return _over(apply("ln", jets, flags), base, QUIET)
    if name not in VALUES or len(jets) != len(SLOPES[name]):
        raise BadProgram(name)
    value = VALUES[name](flags, *(j[0] for j in jets))
    order = len(jets[0]) - 1
    if not order:
        return [value]
    if order >= LONG and (name in _SERIES or name in _BESSEL):
        series = _bessel_series(name, value, *jets) if name in _BESSEL else _by_series(_SERIES[name], *jets)
        if series is not None:
            return [value, *series[1:]]
        if name in _BESSEL:
            return [value, *(_unknown(value) for _ in range(order))]  # the rule would ask for two of the order below, each time
    total: Jet | None = None
    for slope, u in zip(SLOPES[name], jets, strict=True):
        change = [u[k] * k for k in range(1, order + 1)]
        if all(d.is_zero() for d in change) or (slope is None and name in ("tan", "asin", "acos")):
            continue
        if slope is None:
            return [value, *(_unknown(value) for _ in range(order))]
        try:
            rise = slope(*(j[:order] for j in jets))
        except Nowhere:
            rise = [_unknown(value)] * order
        term = _times(rise, change)
        total = term if total is None else _plus(total, term)
    if total is None:
        return [value, *_constant(0, jets[0])[1:]]
    return [value, *(part(total[k], k + 1) for k in range(order))]


def _whole_log(u: Exact, base: int) -> Exact | None:
    """The logarithm of a whole power of the base."""
    for k in range(-60, 61):
        if u.q is not None and u.q == fmpq(base) ** k:
            return rational(fmpq(k))
    return None


def _abs(flags: Flags, u: Jet) -> Jet:
    if u[0] >= 0:
        return u
    return _minus(u) if u[0] <= 0 else _either(flags, magnitude(u[0]), u, _minus(u))


def _either(flags: Flags, value: Num, a: Jet, b: Jet) -> Jet:
    """Where a continuous choice between two is open: the first slopes of both, nothing of the higher ones."""
    flags.raised |= ROUGH
    none = [_unknown(value) for _ in a[2:]]
    return [value, *([union(a[1], b[1]), *none] if len(a) > 1 else [])]


def _greater(flags: Flags, a: Jet, b: Jet, d: Jet) -> Jet:
    if d[0] >= 0:
        return a
    return b if d[0] <= 0 else _either(flags, _higher(a[0], b[0]), a, b)


def _lesser(flags: Flags, a: Jet, b: Jet, d: Jet) -> Jet:
    if d[0] <= 0:
        return a
    return b if d[0] >= 0 else _either(flags, -_higher(-a[0], -b[0]), a, b)


def _higher(a: Num, b: Num) -> Num:
    if isinstance(a, arb):
        return a.max(b)
    both = a.union(b)
    lows = [s.low for s in (a, b) if s.low is not None]
    return both if not lows else both.clipped(max(lows))


def _inside(flags: Flags, value: Jet, after: Jet, before: Jet) -> Jet:
    if after[0] < 0 or before[0] < 0:
        raise Nowhere
    if not (after[0] >= 0 and before[0] >= 0):
        flags.raised |= PARTIAL
    return value


_DIRECT: dict[str, Callable[..., Jet]] = {
    "+": lambda _, a, b: _plus(a, b), "-": lambda _, a, b: [x - y for x, y in zip(a, b, strict=True)], "neg": lambda _, a: _minus(a),
    "*": lambda _, a, b: _times(a, b), "/": lambda flags, a, b: _over(a, b, flags), "same": lambda _, a: a, "abs": _abs,
    "max": _greater, "min": _lesser, "within": _inside,
}  # fmt: skip


def _pieces(step: Sequence[Any], u: Jet, flags: Flags) -> Jet:
    """A piecewise polynomial: rows of coefficients in powers of the distance from the knot at their left end."""
    knots, rows = _spelled(step)
    s = span_of(u[0].ball if isinstance(u[0], Exact) else u[0])
    last = len(rows) - 1
    first, final = 0, last
    if s.low is not None:
        # Knots rise: those that lie at or below the low end come first, those above the high end last.
        first = bisect_left(range(1, last + 1), True, key=lambda k: not s.low >= _ball(knots[k]))
    if s.high is not None:
        final = bisect_left(range(last), True, key=lambda k: _beyond(_ball(knots[k + 1]), s))
    found: Jet | None = None
    for k in range(min(first, final), max(first, final) + 1):
        if k > first:
            flags.raised |= _joint(rows[k - 1], rows[k], knots[k] - knots[k - 1])
        along = [u[0] - _number(knots[k], u[0]), *u[1:]]
        value = [_number(v, u[0]) for v in rows[k]]
        jet = [value[-1], *_constant(0, u)[1:]]
        for v in value[-2::-1]:
            jet = _times(jet, along)
            jet[0] = jet[0] + v
        found = jet if found is None else [union(a, b) for a, b in zip(found, jet, strict=True)]
    assert found is not None
    # Of a joint only the value and the slope are looked at: nothing is known of derivatives beyond the second.
    return found if first >= final else [*found[:3], *(_unknown(v) for v in found[3:])]


def _beyond(knot: Any, s: Span) -> bool:
    return bool(s.high < knot or (s.high_open and s.high <= knot))


_SPELLED: dict[int, tuple[Any, list[Fraction], list[list[Fraction]]]] = {}  # the last few, each with the step that it was read from


def _spelled(step: Sequence[Any]) -> tuple[list[Fraction], list[list[Fraction]]]:
    """Knots and rows of a piecewise polynomial as numbers. Raises BadProgram."""
    known = _SPELLED.get(id(step))
    if known is None or known[0] is not step:
        knots, rows = [Fraction(k) for k in step[2]], [[Fraction(v) for v in row] for row in step[3]]
        if len(rows) != len(knots) - 1 or sorted(set(knots)) != knots:
            raise BadProgram("pieces")
        if len(_SPELLED) > 8:
            _SPELLED.clear()
        _SPELLED[id(step)] = known = step, knots, rows
    return known[1], known[2]


def _joint(left: list[Fraction], right: list[Fraction], width: Fraction) -> int:
    """What may break where one piece goes over into the next: worked out exactly."""
    values = [sum(v * width**k for k, v in enumerate(left)), sum(k * v * width ** (k - 1) for k, v in enumerate(left) if k)]
    if values[0] != right[0]:
        return BROKEN | ROUGH
    return 0 if values[1] == (right[1] if len(right) > 1 else 0) else ROUGH


def _ball(q: Fraction) -> Any:
    return arb(fmpq(q.numerator, q.denominator))


def _number(q: Fraction, like: Num) -> Num:
    exact = fmpq(q.numerator, q.denominator)
    return rational(exact) if isinstance(like, Exact) else of_ball(arb(exact)) if isinstance(like, Span) else arb(exact)


_CONSTANTS: dict[str, Callable[[], Any]] = {"pi": lambda: arb.pi(), "e": lambda: arb.const_e(), "deg": lambda: arb.pi() / 180}
_EXACT_CONSTANTS: dict[str, Callable[[], Exact]] = {
    "pi": pi, "e": lambda: rational(fmpq(1)).exp(), "deg": lambda: pi() * _ratio(1, 180),
}  # fmt: skip
