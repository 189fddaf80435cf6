"""The ball reading: real balls in, a ball out that holds every real value the function takes on them.

Three promises, which the proofs rest on:

1. The ball that is returned holds f(x) for every x of the argument at which f has a real value.
2. `Undefined` is raised only if f has no real value anywhere on the argument.
3. If neither `doubt.partial` nor `doubt.jumps` was set, f is defined and continuous on the whole argument.

A result that is not finite says nothing. Arithmetic is that of Arb (F. Johansson, "Arb: efficient arbitrary-precision
midpoint-radius interval arithmetic", IEEE Trans. Computers 66 (2017) 1281-1292) through python-flint.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from fractions import Fraction
from typing import Any

from flint import acb, arb, arb_series, ctx, fmpq

Ball = Any  # flint.arb; python-flint ships no types for it

NAN = arb("nan")
ZERO = arb(0)
ONE = arb(1)
UNIT = arb(0, 1)  # from -1 to 1, and a little beyond
MAX_BRANCHES = 16
FAR = arb(2) ** 20_000  # beyond it no whole numbers are written out
MOST_POWER = 2**50
SERIES_REACH = 60.0  # arguments up to which Arb sums the power series of Bessel functions at our precisions


class Undefined(Exception):
    """The function has no real value anywhere on the ball."""


class Doubt:
    """What an evaluation noticed on its way, and the branch it is to take at steps (`floor`, `sign`).

    A step on a ball that holds a jump takes one of a few exact values. The evaluation is then repeated once for each
    combination: `taken` is the combination of this pass, `widths` counts the choices met.
    """

    def __init__(self) -> None:
        self.partial = False
        self.jumps = False
        self.taken: list[int] = []
        self.widths: list[int] = []

    def begin(self, taken: list[int]) -> None:
        """Start with the branches that were taken so far."""
        self.partial = False
        self.jumps = False
        self.taken = taken
        self.widths = []

    def state(self) -> tuple[bool, bool, list[int], list[int]]:
        return self.partial, self.jumps, self.taken, self.widths

    def restore(self, state: tuple[bool, bool, list[int], list[int]]) -> None:
        self.partial, self.jumps, self.taken, self.widths = state

    def choose(self, values: list[int]) -> Ball:
        """The union of the branches that are possible. values: of each condition 1, 0, or -1 where it is not decided."""
        self.jumps = True
        place = len(self.widths)
        self.widths.append(len(values))
        index = self.taken[place] if place < len(self.taken) else 0
        return arb(values[index])

    @property
    def clean(self) -> bool:
        return not (self.partial or self.jumps)


doubt = Doubt()


@contextmanager
def precision(bits: int) -> Iterator[None]:
    """Work with that many bits inside the block."""
    before = ctx.prec
    ctx.prec = bits
    try:
        yield
    finally:
        ctx.prec = before


def branches(evaluate: Callable[[], Any]) -> Iterator[Any]:
    """Run an evaluation once for each combination of steps it meets; more than MAX_BRANCHES gives one `None`.

    Passes on which the function is undefined yield nothing. `doubt.partial` afterwards covers all passes.
    """
    taken: list[int] = []
    partial = jumps = False
    for _ in range(MAX_BRANCHES):
        doubt.begin(taken)
        try:
            yield evaluate()
        except Undefined:
            partial = True
        partial, jumps = partial or doubt.partial, jumps or doubt.jumps
        taken = taken + [0] * (len(doubt.widths) - len(taken))
        place = len(doubt.widths) - 1
        taken = taken[: place + 1]
        while place >= 0 and taken[place] + 1 >= doubt.widths[place]:
            place -= 1
        if place < 0:
            doubt.partial, doubt.jumps = partial, jumps
            return
        taken = [*taken[:place], taken[place] + 1]
    doubt.partial, doubt.jumps = partial, True
    yield None


def hull_of_branches(function: Callable[..., Ball], *arguments: Ball) -> Ball:
    """One ball for all that a function may be on its arguments, whichever way its steps fall; raises Undefined."""
    found = None
    for value in branches(lambda: function(*arguments)):
        if value is None:
            return NAN
        found = value if found is None else found.union(value)
    if found is None:
        raise Undefined
    return found


def hull(low: Ball, high: Ball) -> Ball:
    """The ball that holds everything between two balls."""
    return low.union(high)


def as_fmpq(value: Fraction) -> fmpq:
    return fmpq(value.numerator, value.denominator)


def from_fraction(numerator: int, denominator: int) -> Ball:
    return arb(fmpq(numerator, denominator))


def quotient(point: Ball) -> tuple[int, int]:
    """An exact ball as numerator and denominator, the latter a power of two."""
    mantissa, exponent = (int(v) for v in point.man_exp())
    return (mantissa << exponent, 1) if exponent >= 0 else (mantissa, 1 << -exponent)


def rising(function: Callable[[Ball], Ball], x: Ball, low: Ball | None = None, high: Ball | None = None) -> Ball:
    """Values of a nondecreasing function on a ball clipped to [low, high]: those at the ends enclose all."""
    a, b = x.lower(), x.upper()
    if low is not None and not a >= low:
        a, doubt.partial = low, True
    if high is not None and not b <= high:
        b, doubt.partial = high, True
    return hull(function(a), function(b))


def square_root(x: Ball) -> Ball:
    """Raises Undefined where the ball reaches below zero."""
    if x < 0:
        raise Undefined
    if x >= 0:
        return x.sqrt()
    if not x.is_finite():
        doubt.partial = True
        return NAN
    doubt.partial = True
    return hull(ZERO, x.upper().sqrt())


def logarithm(x: Ball) -> Ball:
    """Raises Undefined where the ball reaches zero or below."""
    if x <= 0:
        raise Undefined
    if x > 0:
        return x.log()
    doubt.partial = True
    return NAN


def arcsine(x: Ball) -> Ball:
    if x < -1 or x > 1:
        raise Undefined
    return x.asin() if abs(x) <= 1 else rising(lambda v: v.asin(), x, -ONE, ONE)


def arccosine(x: Ball) -> Ball:
    return arb.pi() / 2 - arcsine(x)


def cube_root(x: Ball) -> Ball:
    """The real cube root, of negative numbers too."""
    if x > 0:
        return x.root(3)
    if x < 0:
        return -((-x).root(3))
    if not x.is_finite():
        return NAN
    low, high = x.lower(), x.upper()
    return hull(-((-low).root(3)) if low < 0 else ZERO, high.root(3) if high > 0 else ZERO)


def magnitude(x: Ball) -> Ball:
    """The absolute value; of a ball around zero from zero on."""
    if x >= 0:
        return x
    if x <= 0:
        return -x
    return hull(ZERO, (-x.lower()).max(x.upper())) if x.is_finite() else NAN


def sign(x: Ball) -> Ball:
    """-1, 0 or 1, or the ball that holds those that are possible."""
    if x > 0:
        return ONE
    if x < 0:
        return -ONE
    if x.is_zero():
        return ZERO
    return doubt.choose([-1, 0, 1]) if x.is_finite() else _any_of(-ONE, ONE)


def _any_of(low: Ball, high: Ball) -> Ball:
    doubt.jumps = True
    return hull(low, high)


def step_down(x: Ball) -> Ball:
    """floor: exact where the ball lies between two jumps, a choice of exact values where it holds a few jumps."""
    if not x.is_finite():
        doubt.jumps = True
        return NAN
    if not abs(x) < FAR:
        # Whole numbers of that many digits fill all memory; what is known of the argument is all that is said.
        return _any_of((x - 1).lower(), x.upper())
    low, high = x.lower().floor(), x.upper().floor()
    if not (low.is_exact() and high.is_exact()):
        return _any_of(low, high)
    if low == high:
        return low
    first, last = int(low.unique_fmpz()), int(high.unique_fmpz())
    if last - first < 4:
        return doubt.choose(list(range(first, last + 1)))
    return _any_of(low, high)


def bounded(function: Callable[[Ball], Ball], low: Ball, high: Ball) -> Callable[[Ball], Ball]:
    """A function with a value for every real number, all of them between two: of an argument of which nothing is known these are."""
    all_of_them = low.union(high)

    def value(x: Ball) -> Ball:
        found = function(x)
        return found if found.is_finite() else all_of_them

    return value


def wave(function: Callable[[Ball], Ball]) -> Callable[[Ball], Ball]:
    """A sine or cosine, which the library lets reach as far as the ball is wide."""

    def value(x: Ball) -> Ball:
        found = function(x)
        return UNIT if not found.is_finite() else found if found.abs_upper() < 1 else found.intersection(UNIT)

    return value


def divide(a: Ball, b: Ball) -> Ball:
    """Raises Undefined where the divisor holds zero."""
    if b.is_zero():
        raise Undefined
    if b.contains(0):
        doubt.partial = True
        return NAN
    return a / b


def power(a: Ball, b: Ball) -> Ball:
    """A real power. Raises Undefined where the base is negative and the exponent not whole, and for zero to a negative power."""
    if b.is_exact() and b.is_integer() and abs(b) <= MOST_POWER:
        n = int(b.unique_fmpz())
        return whole_power(a, n) if n >= 0 else divide(ONE, a ** (-n))
    if a > 0:
        return (b * a.log()).exp()
    if (a < 0 and not b.contains_integer()) or (a.is_zero() and b < 0):
        raise Undefined
    if a.is_zero() and b > 0:
        return ZERO
    if b > 0 and a.is_finite() and (a >= 0 or not b.contains_integer()):
        if a.lower() < 0:
            doubt.partial = True
        top = a.upper()
        return hull(ZERO, (b * top.log()).exp()) if top > 0 else ZERO
    doubt.partial = True  # of a negative number the powers have a value whose exponents are whole
    return NAN


def whole_power(a: Ball, n: int) -> Ball:
    """a^n; for even n the magnitude first, so that [-1, 2]^2 is [0, 4] and not [-2, 4]; for odd n by the ends."""
    if n and a.is_finite() and not (a > 0 or a < 0 or a.is_zero()):
        # Around zero the library's power may say nothing at all.
        if n % 2 == 0:
            return hull(ZERO, magnitude(a).upper() ** n)
        low, high = a.lower(), a.upper()
        return hull(-((-low) ** n) if low < 0 else ZERO, high**n if high > 0 else ZERO)
    return a**n


def gamma(x: Ball) -> Ball:
    """Raises Undefined where the ball holds a pole."""
    if x.is_exact() and x <= 0 and x.is_integer():
        raise Undefined
    if not x > 0 and x.contains_integer():
        doubt.partial = True
        return NAN
    return x.gamma()


def digamma(x: Ball) -> Ball:
    """Raises Undefined where the ball holds a pole."""
    if not x > 0 and x.contains_integer():
        doubt.partial = True
        return NAN
    return x.digamma()


def reciprocal_gamma_slope(order: Ball, x: Ball) -> Ball:
    """The derivative of 1/Gamma of a whole order, from its Taylor series."""
    n = int(order.unique_fmpz())
    return arb_series([x, 1], n + 1).rgamma()[n] * arb(n).fac() if x.is_finite() else NAN


def polygamma(order: Ball, x: Ball) -> Ball:
    """Derivative of digamma of that whole order. Raises Undefined where the ball holds a pole."""
    if not x > 0 and x.contains_integer():
        doubt.partial = True
        return NAN
    return acb(x).polygamma(acb(order)).real


def tangent(x: Ball) -> Ball:
    """Raises Undefined where the ball holds a pole."""
    value = x.tan()
    if not value.is_finite():
        doubt.partial = True
    return value


def _bessel(function: Callable[[Ball, Ball], Ball], order: Ball, x: Ball) -> Ball:
    """With guard digits: the power series behind it loses about as many as e^|x| has; beyond its reach none are lost."""
    if not (x.is_finite() and order.is_finite()):
        return NAN
    size = abs(float(x.mid()))
    with precision(ctx.prec + 8 + (int(1.5 * size) if size < SERIES_REACH else 0)):
        found = function(x, order)
    return +found


def bessel_j(order: Ball, x: Ball) -> Ball:
    """Bessel function of the first kind, of real order. Raises Undefined for negative arguments of broken order."""
    if _whole(order):
        # |J_n| <= 1 and |J_n'| <= 1 for a whole order and every real x (DLMF 10.14.1 with 10.6.1).
        return _near_middle(lambda at: _bessel(arb.bessel_j, order, at), x, ONE).intersection(ZERO + ONE.union(-ONE))
    if x < 0 and not order.contains_integer():
        raise Undefined
    if x > 0:
        return _near_middle(lambda at: _bessel(arb.bessel_j, order, at), x, _bessel_slope_bound(order, x.lower()))
    if not x >= 0:
        doubt.partial = True  # set, never cleared: an argument may have been doubtful already
        if order.contains_integer():
            return NAN
    high = x.upper()
    if order > 0 and high <= order:
        # From J(0) = 0 it rises up to its first turning point, which lies beyond the order (DLMF 10.21.3).
        return hull(ZERO, high.bessel_j(order))
    return NAN


def bessel_y(order: Ball, x: Ball) -> Ball:
    """Bessel function of the second kind. Raises Undefined where the argument may be zero or negative."""
    if x <= 0:
        raise Undefined
    if not x > 0:
        doubt.partial = True
        return NAN
    return _near_middle(lambda at: _bessel(arb.bessel_y, order, at), x, _bessel_slope_bound(order, x.lower()))


def _bessel_slope_bound(order: Ball, low: Ball) -> Ball:
    """A bound of |J'| and |Y'| from `low` > 0 on.

    C' = (C_(v-1) - C_(v+1))/2 (DLMF 10.6.1), and J^2 + Y^2 falls as x grows, by Nicholson's integral (DLMF 10.9.30).
    """

    def modulus(v: Ball) -> Ball:
        return (_bessel(arb.bessel_j, v, low) ** 2 + _bessel(arb.bessel_y, v, low) ** 2).sqrt()

    return (modulus(order - 1) + modulus(order + 1)) / 2


def _near_middle(function: Callable[[Ball], Ball], x: Ball, slope: Ball) -> Ball:
    """f(m) and what a slope of at most that size can add: on wide balls far narrower than the series that Arb sums."""
    if x.is_exact():
        return function(x)
    middle = x.mid()
    bounded = function(middle) + slope.upper() * (x - middle)
    direct = function(x)
    return bounded.intersection(direct) if direct.is_finite() else bounded


def _whole(x: Ball) -> bool:
    return bool(x.is_exact() and x.is_integer())
