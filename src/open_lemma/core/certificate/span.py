"""Spans of real numbers with ends that are open, closed or infinite: where a ball says too little.

On (0, h] the formula 1/x reaches from 1/h to infinity, ln x from -infinity to ln h, and both have a value throughout: a ball, which
is closed and finite, can say neither. A span holds every value that an operation takes on its arguments; ends are rounded
outwards. An end is open only if no value reaches it.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from flint import arb

Ball = Any  # flint.arb
End = Any  # an exact arb, or None: infinite


class Span:
    """All x from low to high; `low_open` and `high_open` leave the ends out. An infinite end is None and always open."""

    __slots__ = ("high", "high_open", "low", "low_open")

    def __init__(self, low: End, high: End, low_open: bool = False, high_open: bool = False) -> None:
        self.low, self.high = low, high
        self.low_open, self.high_open = low_open or low is None, high_open or high is None

    # ------------------------------------------------------------ order: True only where it holds for all values

    def __gt__(self, k: int) -> bool:
        return self.low is not None and bool(self.low > k or (self.low >= k and self.low_open))

    def __lt__(self, k: int) -> bool:
        return self.high is not None and bool(self.high < k or (self.high <= k and self.high_open))

    def __ge__(self, k: int) -> bool:
        return self.low is not None and bool(self.low >= k)

    def __le__(self, k: int) -> bool:
        return self.high is not None and bool(self.high <= k)

    def is_zero(self) -> bool:
        return self.low is not None and self.high is not None and bool(self.low == 0 and self.high == 0)

    def is_finite(self) -> bool:
        return self.low is not None and self.high is not None

    def ball(self) -> Ball:
        return self.low.union(self.high) if self.is_finite() else arb("nan")

    # ------------------------------------------------------------ arithmetic

    def __neg__(self) -> Span:
        return Span(_minus(self.high), _minus(self.low), self.high_open, self.low_open)

    def __add__(self, other: Any) -> Span:
        b = span_of(other)
        low = None if self.low is None or b.low is None else (self.low + b.low).lower()
        high = None if self.high is None or b.high is None else (self.high + b.high).upper()
        return Span(low, high, self.low_open or b.low_open, self.high_open or b.high_open)

    __radd__ = __add__

    def __sub__(self, other: Any) -> Span:
        return self + -span_of(other)

    def __rsub__(self, other: Any) -> Span:
        return span_of(other) + -self

    def __mul__(self, other: Any) -> Span:
        b = span_of(other)
        if self.is_zero() or b.is_zero():
            return Span(arb(0), arb(0))
        for x, y in ((self, b), (b, self)):
            sign = x._sign()
            if sign and y._ends_off_zero():
                return x._one_sided(y, sign)
        corners = [_corner(x, y) for x in self._ends() for y in b._ends()]
        low, high = _least(corners), _least([(-s, _minus(v), o) for s, v, o in corners])
        return Span(low[1], _minus(high[1]), low[2], high[2])

    __rmul__ = __mul__

    def _sign(self) -> int:
        """1 or -1 where it is finite and its ends lie above or below zero, else 0."""
        if self.low is None or self.high is None:
            return 0
        return 1 if self.low > 0 else -1 if self.high < 0 else 0

    def _ends_off_zero(self) -> bool:
        return self.low is not None and self.high is not None and bool(self.low != 0 and self.high != 0)

    def _one_sided(self, b: Span, sign: int) -> Span:
        """The product with a finite span without zero at an end, where this one has that sign: which corners are its ends is known."""
        near, far = (self.low, self.low_open), (self.high, self.high_open)
        lowest, highest = (b.low, b.low_open), (b.high, b.high_open)
        if sign < 0:
            near, far, lowest, highest = far, near, highest, lowest
        # An end of the other span that lies beside zero is the farther away from it the larger the factor is.
        down = far if (lowest[0] < 0) is (sign > 0) else near
        up = far if (highest[0] > 0) is (sign > 0) else near
        return Span((down[0] * lowest[0]).lower(), (up[0] * highest[0]).upper(), down[1] or lowest[1], up[1] or highest[1])

    def _ends(self) -> tuple[tuple[int, End, bool], tuple[int, End, bool]]:
        """Both ends as (direction of infinity, value, open)."""
        return (-1 if self.low is None else 0, self.low, self.low_open), (1 if self.high is None else 0, self.high, self.high_open)

    def reciprocal(self) -> Span:
        """1/x of a span that does not hold zero inside; an end that is zero is taken as open."""
        if self >= 0:
            high = None if self.low == 0 else (1 / self.low).upper()
            low = arb(0) if self.high is None else (1 / self.high).lower()
            return Span(low, high, self.high_open, self.low_open)
        if self <= 0:
            return -((-self).reciprocal())
        return WHOLE

    def whole_power(self, n: int) -> Span:
        """x^n for a whole n >= 0."""
        if n == 0:
            return Span(arb(1), arb(1))
        if n % 2 == 0:
            return self.magnitude().rising(lambda v: v**n, None)
        return self.rising(lambda v: v**n, None)

    def magnitude(self) -> Span:
        """The interval of absolute values."""
        if self >= 0:
            return self
        if self <= 0:
            return -self
        low, high = _minus(self.low), self.high
        if low is None or high is None:
            return Span(arb(0), None)
        wider = (low > high, self.low_open) if low != high else (True, self.low_open and self.high_open)
        return Span(arb(0), low if wider[0] else high, False, wider[1] if wider[0] else self.high_open)

    def union(self, other: Any) -> Span:
        """The least interval that holds both."""
        b = span_of(other)
        low = _least([x._ends()[0] for x in (self, b)])
        high = _least([(-s, _minus(v), o) for s, v, o in (x._ends()[1] for x in (self, b))])
        return Span(low[1], _minus(high[1]), low[2], high[2])

    def clipped(self, low: End = None, high: End = None) -> Span:
        """What lies between two numbers."""
        found = self
        if low is not None and (found.low is None or found.low < low):
            found = Span(low, found.high, False, found.high_open)
        if high is not None and (found.high is None or found.high > high):
            found = Span(found.low, high, found.low_open, False)
        return found

    # ------------------------------------------------------------ functions

    def rising(self, function: Callable[[Ball], Ball], at_low: End, at_high: End = None) -> Span:
        """A strictly rising function by its ends; at_low, at_high: its limits at -infinity and infinity, None if infinite."""
        low = at_low if self.low is None else _bound(function(self.low), False)
        high = at_high if self.high is None else _bound(function(self.high), True)
        return Span(low, high, self.low_open, self.high_open)

    def falling(self, function: Callable[[Ball], Ball]) -> Span:
        return -self.rising(lambda v: -function(v), None)

    def wave(self, function: Callable[[Ball], Ball], slope: Callable[[Ball], Ball]) -> Span:
        """A function between -1 and 1 with the slope given: by its ends where that has one sign."""
        if not self.is_finite():
            return Span(arb(-1), arb(1))
        whole = self.ball()
        way = slope(whole)
        if way > 0:
            return self.rising(function, None)
        return self.falling(function) if way < 0 else of_ball(function(whole)).clipped(arb(-1), arb(1))

    def exp(self) -> Span:
        return self.rising(lambda v: v.exp(), arb(0))

    def log(self) -> Span:
        """Of a span that is clipped to x >= 0; zero is taken as open."""
        if self.low is None or self.low <= 0:
            return Span(None, None if self.high is None else _bound(self.high.log(), True), True, self.high_open)
        return self.rising(lambda v: v.log(), None)

    def sqrt(self) -> Span:
        return self.rising(lambda v: v.sqrt(), None)

    def sin(self) -> Span:
        return self.wave(lambda v: v.sin(), lambda v: v.cos())

    def cos(self) -> Span:
        return self.wave(lambda v: v.cos(), lambda v: -v.sin())

    def sinh(self) -> Span:
        return self.rising(lambda v: v.sinh(), None)

    def cosh(self) -> Span:
        return self.magnitude().rising(lambda v: v.cosh(), None)

    def tanh(self) -> Span:
        return self.rising(lambda v: v.tanh(), arb(-1), arb(1))

    def atan(self) -> Span:
        half = arb.pi() / 2
        return self.rising(lambda v: v.atan(), (-half).lower(), half.upper())

    def asin(self) -> Span:
        return self.rising(lambda v: v.asin(), None)

    def erf(self) -> Span:
        return self.rising(lambda v: v.erf(), arb(-1), arb(1))

    def erfc(self) -> Span:
        return (-self).rising(lambda v: (-v).erfc(), arb(0), arb(2))


WHOLE = Span(None, None)


def of_ball(ball: Ball) -> Span:
    return Span(ball.lower(), ball.upper()) if ball.is_finite() else WHOLE


def span_of(value: Any) -> Span:
    """A ball, a whole number or a span as a span."""
    return value if isinstance(value, Span) else of_ball(value if isinstance(value, arb) else arb(value))


def _minus(end: End) -> End:
    return None if end is None else -end


def _bound(ball: Ball, upper: bool) -> End:
    return None if not ball.is_finite() else ball.upper() if upper else ball.lower()


def _corner(x: tuple[int, End, bool], y: tuple[int, End, bool]) -> tuple[int, End, bool]:
    """The product of two ends: an end that is zero gives zero, also with an infinite one."""
    zeros = [e for e in (x, y) if e[1] is not None and e[1] == 0]
    if zeros:
        return 0, arb(0), all(e[2] for e in zeros)
    if x[1] is None or y[1] is None:
        ways = [e[0] if e[1] is None else (1 if e[1] > 0 else -1) for e in (x, y)]
        return ways[0] * ways[1], None, True
    return 0, x[1] * y[1], x[2] or y[2]


def _least(ends: list[tuple[int, End, bool]]) -> tuple[int, End, bool]:
    """The least of some ends, rounded down; closed if any that may be the least is."""
    if any(s < 0 for s, v, _ in ends if v is None):
        return -1, None, True
    finite = [(v.lower(), o) for _, v, o in ends if v is not None]
    if not finite:
        return 1, None, True
    low = finite[0][0]
    for v, _ in finite[1:]:
        low = v if v < low else low
    # Another end may reach as far down where rounding has moved them.
    return 0, low, all(o for v, o in finite if v == low)
