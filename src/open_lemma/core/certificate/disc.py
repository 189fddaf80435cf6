"""Values of a program on a disc of complex numbers around a real place: how large its continuation is there bounds its Taylor remainder.

If f is holomorphic on |z - m| <= r and no larger than M there, its k-th Taylor coefficient at m is at most M/r^k (Cauchy's estimate; DLMF
1.9(iii)). Squares stand for discs. What chooses is decided beforehand by the real reading of the whole diameter.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from flint import acb, arb

from .evaluator import BallReading, run

_NAN = acb(arb("nan"), arb("nan"))
Disc = Any  # flint.acb


def square(middle: Any, radius: Any) -> tuple[Any, Disc]:
    """A square around a real place: its real diameter, and all of it."""
    line = middle + arb(0, 1) * radius
    return line, acb(line, arb(0, 1) * radius)


def values_on(program: Sequence[Sequence[Any]], places: dict[str, tuple[Any, Disc]]) -> Disc | None:
    """A complex ball that holds the values on squares; None where the program is not shown to be holomorphic there.

    places: for each variable the real line through its square, and the square.
    """
    readings = run(program, {name: line for name, (line, _) in places.items()})
    if readings[-1] is None or not readings[-1].smooth:
        return None
    found: list[Disc] = []
    for step, reading in zip(program, readings, strict=True):
        if step[0] == "variable":
            found.append(places[step[1]][1])
            continue
        value = _value(step, found, reading, readings)
        found.append(value if value.is_finite() else _NAN)
    return found[-1] if found[-1].is_finite() else None


def largest(program: Sequence[Sequence[Any]], variable: str, middle: Any, radius: Any) -> Any:
    """A bound of the magnitude on the disc, as an arb; not finite where the program is not shown to be holomorphic there."""
    found = values_on(program, {variable: square(middle, radius)})
    return arb("nan") if found is None else abs(found).upper()


_COMPARED = frozenset("< > <= >= = != and or not true false".split())


def _value(step: Sequence[Any], found: list[Disc], reading: BallReading | None, readings: list[BallReading | None]) -> Disc:
    head = step[0]
    if head in _COMPARED:
        return _NAN
    if head == "choose":
        condition = readings[step[1]]
        return _NAN if condition is None or condition.truth is None else found[step[2 if condition.truth else 3]]
    args = [found[k] for k in step[1:] if isinstance(k, int)]
    if not args or head in ("floor", "ceil", "sign"):
        # Constant on the diameter, and so on the disc.
        return _NAN if reading is None or reading.jet is None or not reading.jet[0].is_finite() else acb(reading.jet[0])
    if head == "abs":
        inner = readings[step[1]]
        return _NAN if inner is None or inner.jet is None else args[0] if inner.jet[0] > 0 else -args[0] if inner.jet[0] < 0 else _NAN
    if head in ("max", "min"):
        difference = readings[step[3]]
        if difference is None or difference.jet is None or not (difference.jet[0] > 0 or difference.jet[0] < 0):
            return _NAN
        return args[0] if (difference.jet[0] > 0) == (head == "max") else args[1]
    rule = _RULES.get(head)
    return _NAN if rule is None else rule(*args)


def _uncut(z: Disc) -> bool:
    """Whether a disc keeps off the negative real numbers and zero."""
    return bool(z.real > 0 or not z.imag.contains(0))


def _power(a: Disc, b: Disc) -> Disc:
    n = b.real if b.imag.is_zero() and b.real.is_exact() and b.real.is_integer() and abs(b.real) <= 1000 else None
    if n is not None:
        k = int(n.unique_fmpz())
        return a**k if k >= 0 else _over(acb(1), a**-k)
    return (a.log() * b).exp() if _uncut(a) else _NAN


def _over(a: Disc, b: Disc) -> Disc:
    return _NAN if b.contains(0) else a / b


def _off_cut(function: Callable[[Disc], Disc], holds: Callable[[Disc], bool]) -> Callable[..., Disc]:
    return lambda z, *_: function(z) if holds(z) else _NAN


_RULES: dict[str, Callable[..., Disc]] = {
    "+": lambda a, b: a + b, "-": lambda a, b: a - b, "*": lambda a, b: a * b, "/": _over, "^": _power, "neg": lambda a: -a,
    "same": lambda a: a, "exp": lambda a: a.exp(), "sin": lambda a: a.sin(), "cos": lambda a: a.cos(), "sinh": lambda a: a.sinh(),
    "cosh": lambda a: a.cosh(), "tan": lambda a, c: _over(a.sin(), c), "tanh": lambda a: _over(a.sinh(), a.cosh()),
    "sqrt": _off_cut(lambda z: z.sqrt(), _uncut), "ln": _off_cut(lambda z: z.log(), _uncut),
    "log10": _off_cut(lambda z: z.log() / arb(10).log(), _uncut), "log2": _off_cut(lambda z: z.log() / arb(2).log(), _uncut),
    "cbrt": lambda z: (z.log() / 3).exp() if z.real > 0 else -(((-z).log() / 3).exp()) if z.real < 0 else _NAN,
    "atan": _off_cut(lambda z: z.atan(), lambda z: bool(abs(z.imag) < 1)),
    "asin": _off_cut(lambda z: z.asin(), lambda z: bool(abs(z.real) < 1)),
    "acos": _off_cut(lambda z: z.acos(), lambda z: bool(abs(z.real) < 1)),
    "erf": lambda a: a.erf(), "erfc": lambda a: a.erfc(), "1/Gamma": lambda a: a.rgamma(),
    "u ln u": _off_cut(lambda z: z * z.log(), _uncut), "u^u": _off_cut(lambda z: (z * z.log()).exp(), _uncut),
    "besselj": lambda n, z: z.bessel_j(n) if n.imag.is_zero() and n.real.is_exact() and (n.real.is_integer() or _uncut(z)) else _NAN,
}  # fmt: skip

__all__ = ["largest", "square", "values_on"]
