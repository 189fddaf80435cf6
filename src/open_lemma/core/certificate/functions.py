"""The values of functions on balls (narrow boxes, fast), spans (half-open, unbounded or singular ones) and exact numbers (single places),
which share their operations, and what may be wrong with them:

    PARTIAL  it may lack a value somewhere     BROKEN  it may jump somewhere     ROUGH  its slope may jump somewhere
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from flint import acb, arb, arb_series, ctx, fmpq

from .exact import Exact, NoExactNumber, exact_of, pi, rational
from .span import WHOLE, Span, of_ball, span_of

PARTIAL, BROKEN, ROUGH = 1, 2, 4
Num = Any  # arb, Span or Exact
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
        return u if n else whole_number(1, u)
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


def unknown(like: Num) -> Num:
    """Any number, of the kind of another one."""
    return WHOLE if isinstance(like, Span) else Exact(NAN) if isinstance(like, Exact) else NAN


def hull(low: int, high: int, like: Num) -> Num:
    """All numbers between two whole ones, of the kind of another number. Raises NoExactNumber."""
    if isinstance(like, Exact):
        raise NoExactNumber
    ball = arb(low).union(arb(high))
    return of_ball(ball) if isinstance(like, Span) else ball


def whole_number(n: int, like: Num) -> Num:
    """A whole number, of the kind of another number."""
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
    return unknown(u)


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
        pi() * ratio(1, 2) - value if isinstance(value, Exact) else quarter - value if isinstance(value, arb) else of_ball(quarter) - value
    )


def ratio(p: int, q: int) -> Exact:
    return rational(fmpq(p, q))


def _sign(flags: Flags, u: Num) -> Num:
    if u > 0 or u < 0:
        return whole_number(1 if u > 0 else -1, u)
    if u.is_zero():
        return whole_number(0, u)
    flags.raised |= BROKEN
    return hull(0 if u >= 0 else -1, 0 if u <= 0 else 1, u)


def _floor(flags: Flags, u: Num) -> Num:
    if isinstance(u, Exact):
        if not abs(u.ball) < FAR:
            raise NoExactNumber
        n = int(u.ball.mid().floor().unique_fmpz())
        return next(rational(fmpq(k)) for k in (n, n + 1, n - 1) if u >= k and u < k + 1)
    s = span_of(u)
    if not s.is_finite() or s.low < -FAR or s.high > FAR:
        flags.raised |= BROKEN
        return unknown(u)
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
    n = whole_exponent(b)
    if n is not None:
        return whole_power(a, n) if n >= 0 else divide(whole_number(1, a), whole_power(a, -n), flags)
    if a > 0:
        if isinstance(b, Exact) and b.q is not None and int(b.q.q) <= 12 and abs(int(b.q.p)) <= 60:
            root = a.root(int(b.q.q))
            p = int(b.q.p)
            return whole_power(root, p) if p >= 0 else divide(whole_number(1, a), whole_power(root, -p), flags)
        return (b * a.log()).exp()
    if a < 0:
        if not _may_be_whole(b):
            raise Nowhere
        flags.raised |= PARTIAL
        return unknown(a)
    if a.is_zero() and b > 0:
        return whole_number(0, a)
    if a.is_zero() and b < 0:
        raise Nowhere
    if not a >= 0 or not b > 0:
        flags.raised |= PARTIAL
    if not b > 0 or (not a >= 0 and _may_be_whole(b)):
        return unknown(a)  # of a negative number the powers have a value whose exponents are whole
    if isinstance(a, Span):
        inside = a.clipped(arb(0))
        value = (span_of(b) * inside.log()).exp()
        return value if inside.low_open else value.union(of_ball(arb(0)))
    if not a.is_finite() or not a.upper() > 0:
        return NAN
    return arb(0).union((b * a.upper().log()).exp().upper()).union((b.lower() * a.upper().log()).exp().upper()).union(
        (b.upper() * a.upper().log()).exp().upper())  # fmt: skip


def whole_exponent(b: Num) -> int | None:
    """The whole number that a number is, if it is one and not too large."""
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
            return unknown(u)
        orders = [a if isinstance(a, arb) else a.ball if isinstance(a, Exact) else a.ball() for a in args[:-1]]
        found = function(*orders, ball) if ball.is_finite() else NAN
        return of_ball(found) if isinstance(u, Span) else exact_of(found) if isinstance(u, Exact) else found

    return value


def _reciprocal_gamma(_: Flags, n: Num, u: Num) -> Num:
    """The n-th derivative of 1/Gamma, which has no poles."""
    order = whole_exponent(n) or 0
    value = _by_ball(lambda v: arb_series([v, 1], order + 1).rgamma()[order] * arb(math.factorial(order)))
    return value(QUIET, u)


def _over_gamma(flags: Flags, u: Num) -> Num:
    """1/Gamma: by its ends where its slope has one sign, and falling from 2 on."""
    if isinstance(u, Span) and u.low is not None and u > 2 and u.high is None:
        return Span(arb(0), u.low.rgamma().upper(), True, u.low_open)
    if isinstance(u, Span) and u.is_finite():
        slope = arb_series([u.ball(), 1], 2).rgamma()[1]
        if slope > 0:
            return u.rising(lambda v: v.rgamma(), None)
        if slope < 0:
            return u.falling(lambda v: v.rgamma())
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
    if isinstance(u, Exact) or whole_exponent(u) is not None:
        return _power(flags, u, u)
    if u < 0 and (u > -1 or not _may_be_whole(u)):
        raise Nowhere
    if not u >= 0:
        flags.raised |= PARTIAL
    if not isinstance(u, Span) or u < 0:
        return (u * u.log()).exp() if u > 0 else unknown(u)
    inside, one = u.clipped(arb(0)), of_ball(arb(1))
    value = one if inside.is_zero() else _times_log(QUIET, inside).exp()
    if not inside > 0:
        value = value.union(one)
    return value if u > -1 else value.union(Span(arb(-1), arb(1)))  # no power of a whole number below zero is beyond 1


def _bessel(second: bool) -> Callable[[Flags, Num, Num], Num]:
    def value(flags: Flags, n: Num, x: Num) -> Num:
        whole = whole_exponent(n) is not None and not second
        if not whole:
            if (x < 0 and not _may_be_whole(n)) or (second and x <= 0):
                raise Nowhere
            if not (x > 0 or (x >= 0 and n > 0 and not second)):
                flags.raised |= PARTIAL
                return unknown(x)
        order, at = (v if isinstance(v, arb) else v.ball if isinstance(v, Exact) else v.ball() for v in (n, x))
        if second and isinstance(x, Span) and x.low == 0 and x.high is not None and x.high <= 0.5:
            # Y_n rises from -infinity up to its first maximum, which is beyond 1 (DLMF 10.21(i)); Y_-n is Y_n or -Y_n.
            whole_order = whole_exponent(n)
            if whole_order is not None:
                end = x.high.bessel_y(arb(abs(whole_order))).upper()
                found = Span(None, end, True, x.high_open)
                return -found if whole_order < 0 and whole_order % 2 else found
        if isinstance(x, Exact) and x.is_zero() and whole:
            return whole_number(int(whole_exponent(n) == 0), x)
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

CONSTANTS: dict[str, Callable[[], Any]] = {"pi": lambda: arb.pi(), "e": lambda: arb.const_e(), "deg": lambda: arb.pi() / 180}

EXACT_CONSTANTS: dict[str, Callable[[], Exact]] = {
    "pi": pi, "e": lambda: rational(fmpq(1)).exp(), "deg": lambda: pi() * ratio(1, 180),
}  # fmt: skip
