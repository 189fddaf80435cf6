"""The complex reading: balls of complex numbers, for integrals along the real line.

It continues a formula analytically beside the real line, as Arb's integration asks for (F. Johansson, "Numerical
integration in arbitrary-precision ball arithmetic", ICMS 2018): a part that is not analytic on a ball answers with a
value that is not finite, and the ball is divided.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import reduce
from typing import Any

from flint import acb, arb, ctx, fmpq

from . import catalogue as c
from .certain import enclosure
from .nodes import Apply, Formula, Given, Named, Number, Variable, variables
from .tape import Tape

Complex = Any  # flint.acb
_NAN = acb("nan", "nan")


class NoComplex(Exception):
    """Some part of the formula has no complex reading; the text names it."""


_PLAIN: dict[str, str] = {
    "sin": "sin", "cos": "cos", "tan": "tan", "sinh": "sinh", "cosh": "cosh", "tanh": "tanh", "exp": "exp", "erf": "erf", "erfc": "erfc",
    "Gamma": "gamma", "1/Gamma": "rgamma",
}  # fmt: skip


def complex_reading(formula: Formula, variable: str, other: str | None = None) -> Callable[..., Complex]:
    """The formula as `integral` of flint.acb wants its integrand: (ball, whether it must be analytic on it) → ball.

    With a second variable: (ball of the first, whether it must be analytic, ball of the second) → ball.

    Raises NoComplex where some part (a list, a function given by a block, a branch that depends on the variable) has none.
    """
    steps: list[tuple[Any, ...]] = []
    slots: dict[int, int] = {}
    kept: list[Formula] = []

    def slot(node: Formula) -> int:
        while isinstance(node, Named):
            node = node.body
        if id(node) not in slots:
            kept.append(node)
            made = build(node)
            steps.append(made)
            slots[id(node)] = len(steps) - 1
        return slots[id(node)]

    def build(node: Formula) -> tuple[Any, ...]:
        if isinstance(node, Number):
            return ("number", fmpq(node.value.numerator, node.value.denominator))
        if isinstance(node, Variable):
            if node.name not in (variable, other):
                raise NoComplex(node.name)
            return ("variable" if node.name == variable else "other",)
        if isinstance(node, Given):
            if hasattr(node.data, "__len__"):
                raise NoComplex(node.name or "a list")
            return ("given", node)
        assert isinstance(node, Apply)
        entry = node.entry
        if not variables(node):
            # A number is what it is on the real line, also where what stands in it, as floor(-1), has no continuation.
            return ("closed", Tape([node], []), {})
        if entry.expansion is not None and entry.name not in _KNOWN:
            return ("same", slot(entry.expansion(*node.arguments)))
        if entry.name not in _KNOWN and entry not in _OPERATORS and entry.category != "constant":
            raise NoComplex(entry.name)
        return (entry, *(slot(a) for a in node.arguments))

    result = slot(formula)

    def run(z: Complex, analytic: bool, w: Complex = None) -> Complex:
        values: list[Complex] = []
        for step in steps:
            values.append(w if step[0] == "other" else _value(step, values, z, analytic))
        return values[result]

    return run


def _value(step: tuple[Any, ...], values: list[Complex], z: Complex, analytic: bool) -> Complex:
    head = step[0]
    if head == "number":
        return acb(arb(head if len(step) < 2 else step[1]))
    if head == "variable":
        return z
    if head == "same":
        return values[step[1]]
    if head == "given":
        node = step[1]
        if node.interval is not None:
            low, high = (arb(t) for t in node.interval)
            return acb(low.union(high))
        return acb(arb(float(node.data)))
    if head == "closed":
        return _closed(*step[1:])
    args = [values[k] for k in step[1:]]
    if head.category == "constant":
        return acb(head.ball())
    operator = _OPERATORS.get(head)
    if operator is not None:
        return operator(analytic, *args)
    return _KNOWN[head.name](analytic, *args)


def _closed(number: Tape, known: dict[int, Complex]) -> Complex:
    """A number, at each precision worked out once."""
    if ctx.prec not in known:
        ball = enclosure(number, ctx.prec)
        known[ctx.prec] = _NAN if ball is None else acb(ball)
    return known[ctx.prec]


def _power(analytic: bool, base: Complex, exponent: Complex) -> Complex:
    # Only a number that is exactly whole: a wide ball that holds just one whole number is no such number.
    whole = exponent.unique_fmpz() if exponent.is_exact() and exponent.imag == 0 else None
    if whole is not None:
        return _whole_power(base, int(whole))
    if not analytic and exponent.imag == 0 and exponent.real > 0 and exponent.is_exact() and base.contains(0):
        return _disc(base, exponent.real)
    return base.pow(exponent, analytic=analytic)


def _whole_power(base: Complex, n: int) -> Complex:
    """By squaring: around zero the library's own power may say nothing at all."""
    if n < 0:
        return 1 / _whole_power(base, -n)
    if n > 64 or not base.contains(0):
        return base**n
    found = acb(1)
    for digit in bin(n)[2:]:
        found = found * found
        if digit == "1":
            found = found * base
    return found


def _plain(name: str) -> Callable[..., Complex]:
    return lambda _, x: getattr(x, name)()


def _beyond_one(function: str) -> Callable[..., Complex]:
    """asin, acos: analytic away from the parts of the real line beyond -1 and 1."""

    def apply(_: bool, x: Complex) -> Complex:
        # On a cut the value is that of one side only; there the answer says nothing.
        if x.imag.contains(0) and not (abs(x.real) < 1):
            return _NAN
        return getattr(x, function)()

    return apply


def _bessel(function: str) -> Callable[..., Complex]:
    """Cut along the negative real line, but for J of whole order."""

    def apply(_: bool, n: Complex, x: Complex) -> Complex:
        entire = function == "bessel_j" and n.is_exact() and n.unique_fmpz() is not None
        if not entire and x.imag.contains(0) and not x.real > 0:
            return _NAN
        return getattr(x, function)(n)

    return apply


def _cube_root(analytic: bool, x: Complex) -> Complex:
    if x.imag.contains(0) and x.real < 0:
        return -((-x).pow(acb(arb(fmpq(1, 3))), analytic=analytic))
    if x.imag.contains(0) and not x.real > 0:
        return _NAN if analytic else _disc(x, fmpq(1, 3))
    return x.pow(acb(arb(fmpq(1, 3))), analytic=analytic)


def _disc(x: Complex, exponent: Any) -> Complex:
    """All numbers as large as a power of a ball can be: |z^p| = |z|^p for real p > 0."""
    size = (arb(x.abs_upper()) ** arb(exponent)).upper()
    both = arb(0).union(size).union(-size)
    return acb(both, both)


def _logarithm(base: int | None) -> Callable[..., Complex]:
    def apply(analytic: bool, x: Complex) -> Complex:
        found = x.log(analytic=analytic)
        return found if base is None else found / acb(base).log()

    return apply


_OPERATORS: dict[Any, Callable[..., Complex]] = {
    c.ADD: lambda _, x, y: x + y, c.SUBTRACT: lambda _, x, y: x - y, c.MULTIPLY: lambda _, x, y: x * y, c.DIVIDE: lambda _, x, y: x / y,
    c.NEGATIVE: lambda _, x: -x, c.POWER: _power,
}  # fmt: skip
_KNOWN: dict[str, Callable[..., Complex]] = {
    **{name: _plain(attribute) for name, attribute in _PLAIN.items()},
    "sqrt": lambda a, x: x.sqrt(analytic=a), "cbrt": _cube_root, "ln": _logarithm(None), "log10": _logarithm(10), "log2": _logarithm(2),
    "atan": lambda _, x: x.atan() if abs(x.imag) < 1 else _NAN, "asin": _beyond_one("asin"), "acos": _beyond_one("acos"),
    "abs": lambda a, x: x.real_abs(analytic=a), "sign": lambda a, x: x.real_sgn(analytic=a),
    "floor": lambda a, x: x.real_floor(analytic=a), "ceil": lambda a, x: x.real_ceil(analytic=a),
    "max": lambda a, *xs: reduce(lambda x, y: x.real_max(y, analytic=a), xs),
    "min": lambda a, *xs: reduce(lambda x, y: x.real_min(y, analytic=a), xs),
    "besselj": _bessel("bessel_j"), "bessely": _bessel("bessel_y"),
}  # fmt: skip
