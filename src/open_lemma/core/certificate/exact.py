"""Numbers of which it can be decided whether they are zero: rational ones, roots of these, sines and cosines of rational angles.

Every algebraic number carries bounds u, l of a quotient of algebraic integers and a degree D, so that it is zero or at least
1/(u^(D-1) l) in size (C. Burnikel, R. Funke, K. Mehlhorn, S. Schirra, S. Schmitt, "A separation bound for real algebraic
expressions", Algorithmica 55 (2009) 14-28, theorem 1); 2cos(2 pi p/q) is an algebraic integer whose conjugates are at most 2 and
whose degree is at most q. What is not algebraic is known by its ball alone.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from flint import arb, ctx, fmpq

BITS = 640  # at which exact numbers are enclosed
MOST_DEGREE = 64


class NoExactNumber(Exception):
    """Whether a number is zero, or on which side of zero it lies, could not be decided."""


class Exact:
    """ball: an enclosure. q: the value where it is rational. turn: q where the value is q pi.
    bound: (log2 u, log2 l, D) where it is algebraic. factor: an algebraic number and the name of one that is not zero, of which it is the
    product."""

    __slots__ = ("ball", "bound", "factor", "q", "turn")

    def __init__(
        self, ball: Any, q: Any = None, turn: Any = None, bound: tuple[float, float, int] | None = None,
        factor: tuple[Exact, str] | None = None,
    ) -> None:  # fmt: skip
        self.ball, self.q, self.turn, self.bound, self.factor = ball, q, turn, bound, factor

    # ------------------------------------------------------------ order

    def is_zero(self) -> bool:
        """Whether it is exactly zero. Raises NotExact where that is not decided."""
        if self.q is not None:
            return bool(self.q == 0)
        if self.ball > 0 or self.ball < 0:
            return False
        if self.factor is not None:
            return self.factor[0].is_zero()  # the other factor is not zero
        if self.bound is None or not self.ball.is_finite():
            return False
        u, low, degree = self.bound
        # Below the bound in size: it is zero.
        return degree <= MOST_DEGREE and bool(abs(self.ball).upper() < arb(2) ** (-int((degree - 1) * max(u, 0) + low) - 2))

    def _sign(self) -> int:
        if self.q is not None:
            return int(self.q > 0) - int(self.q < 0)
        if self.ball > 0:
            return 1
        if self.ball < 0:
            return -1
        if self.is_zero():
            return 0
        raise NoExactNumber

    def __gt__(self, k: int) -> bool:
        return (self - k)._sign() > 0

    def __lt__(self, k: int) -> bool:
        return (self - k)._sign() < 0

    def __ge__(self, k: int) -> bool:
        return (self - k)._sign() >= 0

    def __le__(self, k: int) -> bool:
        return (self - k)._sign() <= 0

    def is_finite(self) -> bool:
        return bool(self.ball.is_finite())

    # ------------------------------------------------------------ arithmetic

    def __neg__(self) -> Exact:
        factor = _opt(self.factor, lambda v: (-v[0], v[1]))
        return Exact(-self.ball, _opt(self.q, lambda v: -v), _opt(self.turn, lambda v: -v), self.bound, factor)

    def __add__(self, other: Any) -> Exact:
        b = exact_of(other)
        if self.q is not None and b.q is not None:
            return rational(self.q + b.q)
        if self.q == 0:
            return b
        if b.q == 0:
            return self
        turn = self.turn + b.turn if self.turn is not None and b.turn is not None else None
        if turn == 0:
            return rational(fmpq(0))
        bound = None
        if self.bound is not None and b.bound is not None:
            (u1, l1, d1), (u2, l2, d2) = self.bound, b.bound
            bound = max(u1 + l2, u2 + l1) + 1, l1 + l2, d1 * d2
        factor = None
        if self.factor is not None and b.factor is not None and self.factor[1] == b.factor[1]:
            factor = self.factor[0] + b.factor[0], b.factor[1]
        return Exact(self.ball + b.ball, None, turn, bound, factor)

    __radd__ = __add__

    def __sub__(self, other: Any) -> Exact:
        return self + -exact_of(other)

    def __rsub__(self, other: Any) -> Exact:
        return exact_of(other) - self

    def __mul__(self, other: Any) -> Exact:
        b = exact_of(other)
        if self.q is not None and b.q is not None:
            return rational(self.q * b.q)
        if (self.is_zero() and b.is_finite()) or (b.is_zero() and self.is_finite()):
            return rational(fmpq(0))
        turn = self.turn * b.q if self.turn is not None and b.q is not None else None
        turn = self.q * b.turn if self.q is not None and b.turn is not None else turn
        bound = None
        if self.bound is not None and b.bound is not None:
            (u1, l1, d1), (u2, l2, d2) = self.bound, b.bound
            bound = u1 + u2, l1 + l2, d1 * d2
        factor = None
        for one, other in ((self, b), (b, self)):
            if one.factor is not None and other.bound is not None:
                factor = one.factor[0] * other, one.factor[1]
        return Exact(self.ball * b.ball, None, turn, bound, factor)

    __rmul__ = __mul__

    def reciprocal(self) -> Exact:
        """One over it, exactly. Raises Nowhere for zero, NotExact where it has no exact form here."""
        if self.is_zero():
            raise NoExactNumber
        if self.q is not None:
            return rational(1 / self.q)
        bound = None if self.bound is None else (self.bound[1], self.bound[0], self.bound[2])
        return Exact(1 / self.ball, None, None, bound)

    def divided(self, other: Exact) -> Exact:
        if self.turn is not None and other.turn is not None:
            return rational(self.turn / other.turn)
        return self * other.reciprocal()

    def whole_power(self, n: int) -> Exact:
        """A power with a whole exponent, exactly. Raises NotExact beyond the size that is kept."""
        found = rational(fmpq(1))
        for _ in range(n):
            found = found * self
        return found

    def root(self, k: int) -> Exact:
        """The k-th root of a number that is not negative."""
        if self.q is not None:
            p, q = (_whole_root(int(v), k) for v in (self.q.p, self.q.q))
            if p is not None and q is not None:
                return rational(fmpq(p, q))
        if self.is_zero():
            return rational(fmpq(0))
        bound = None
        if self.bound is not None:
            u, low, degree = self.bound
            # The root of u/l is the root of u l^(k-1) over l, or u over the root of u^(k-1) l: the better of the two.
            wide = ((u + (k - 1) * low) / k, low) if u >= low else (u, ((k - 1) * u + low) / k)
            bound = (*wide, degree * k)
        return Exact(self.ball.root(k), None, None, bound)

    def sqrt(self) -> Exact:
        return self.root(2)

    def magnitude(self) -> Exact:
        return self if self >= 0 else -self

    def union(self, _: Any) -> Exact:
        raise NoExactNumber

    # ------------------------------------------------------------ functions

    def _special(self, name: str, at: int, value: int) -> Exact:
        """A function that is rational at one rational place; elsewhere its value is a factor that is known by its name."""
        if self.q == at:
            return rational(fmpq(value))
        found = getattr(self.ball, name)()
        named = self.q is not None and bool(found > 0 or found < 0)
        return Exact(found, factor=(rational(fmpq(1)), f"{name} {self.q}") if named else None)

    def exp(self) -> Exact:
        return self._special("exp", 0, 1)

    def log(self) -> Exact:
        return self._special("log", 1, 0)

    def sinh(self) -> Exact:
        return self._special("sinh", 0, 0)

    def cosh(self) -> Exact:
        return self._special("cosh", 0, 1)

    def tanh(self) -> Exact:
        return self._special("tanh", 0, 0)

    def erf(self) -> Exact:
        return self._special("erf", 0, 0)

    def erfc(self) -> Exact:
        return self._special("erfc", 0, 1)

    def sin(self) -> Exact:
        return (Exact(self.ball, None, self.turn if self.q is None else fmpq(0) if self.q == 0 else None) + _turned(fmpq(-1, 2)))._cosine(
            self.ball.sin()
        )

    def cos(self) -> Exact:
        return self._cosine(self.ball.cos())

    def _cosine(self, ball: Any) -> Exact:
        turn = fmpq(0) if self.q == 0 else self.turn
        if turn is None:
            return Exact(ball)
        twice = turn * 6 if turn.q in (1, 2, 3) else None
        if twice is not None:
            # cos(k pi/6) is rational for k = 0, 2, 3, 4, 6, 8, 9, 10 (I. Niven, "Irrational Numbers", corollary 3.12).
            known = {0: 2, 2: 1, 3: 0, 4: -1, 6: -2, 8: -1, 9: 0, 10: 1}.get(int(twice.p) % 12)
            if known is not None:
                return rational(fmpq(known, 2))
        return Exact(ball, None, None, (1.0, 1.0, max(1, int(turn.q))))

    def _inverse(self, table: dict[Any, Any], function: Callable[[Any], Any]) -> Exact:
        """An angle: a known part of pi where the value is a known one."""
        for value, turn in table.items():
            if self.q is not None and self.q == value:
                return _turned(turn)
        return Exact(function(self.ball))

    def asin(self) -> Exact:
        half = {fmpq(0): fmpq(0), fmpq(1): fmpq(1, 2), fmpq(-1): fmpq(-1, 2), fmpq(1, 2): fmpq(1, 6), fmpq(-1, 2): fmpq(-1, 6)}
        return self._inverse(half, lambda v: v.asin())

    def atan(self) -> Exact:
        return self._inverse({fmpq(0): fmpq(0), fmpq(1): fmpq(1, 4), fmpq(-1): fmpq(-1, 4)}, lambda v: v.atan())


def rational(q: Any) -> Exact:
    ball = arb(q)
    size = [float(max(abs(int(v)), 1).bit_length()) for v in (q.p, q.q)]
    return Exact(ball, q, fmpq(0) if q == 0 else None, (size[0], size[1], 1))


def _turned(turn: Any) -> Exact:
    return rational(fmpq(0)) if turn == 0 else Exact(arb.pi() * arb(turn), None, turn)


def pi() -> Exact:
    return _turned(fmpq(1))


def exact_of(value: Any) -> Exact:
    """A whole number, a quotient or a ball as an exact number; a ball with a radius is known by itself alone."""
    if isinstance(value, Exact):
        return value
    if isinstance(value, arb):
        if not (value.is_finite() and value.is_exact()):
            return Exact(value)
        mantissa, exponent = (int(v) for v in value.man_exp())
        return rational(fmpq(mantissa << exponent) if exponent >= 0 else fmpq(mantissa, 1 << -exponent))
    return rational(fmpq(value))


def _opt(value: Any, function: Callable[[Any], Any]) -> Any:
    return None if value is None else function(value)


def _whole_root(n: int, k: int) -> int | None:
    """The whole k-th root of a whole number that is not negative, where there is one."""
    if n < 0 or n.bit_length() > ctx.prec:
        return None
    guess = round(n ** (1 / k)) if n.bit_length() < 1000 else None
    return next((g for g in range(max(guess - 1, 0), guess + 2) if g**k == n), None) if guess is not None else None
