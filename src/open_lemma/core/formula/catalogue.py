"""Everything built in, one record each: a new function is one more record here.

Formulas for the derivatives: NIST Digital Library of Mathematical Functions, §4.20 (trigonometric), §4.34 (hyperbolic),
§5.2 (gamma), §7.10 (error functions), §10.6(i) (Bessel functions).
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from fractions import Fraction
from typing import Any

import numpy as np
from flint import arb
from scipy import special

from . import ball as b
from . import moments
from .entry import Category, Entry, brackets
from .nodes import ONE, TWO, ZERO, Apply, Formula, Number, number

ENTRIES: dict[str, Entry] = {}


def _add(entry: Entry) -> Entry:
    ENTRIES[entry.name] = entry
    return entry


# ---------------------------------------------------------------- operators


def _nowhere(values: Any, poles: Any) -> Any:
    """The values with NaN at poles: an infinity of a double would go on as a number, through an arctangent or a quotient."""
    return np.where(poles, np.nan, values) if np.any(poles) else values


def _quotient(x: Any, y: Any) -> Any:
    return _nowhere(np.divide(x, y), np.equal(y, 0))


def _logarithm(function: Any) -> Any:
    return lambda x: _nowhere(function(x), np.equal(x, 0))


def _gamma_like(function: Any) -> Any:
    """With the poles of Gamma: 0 and the negative whole numbers."""
    return lambda x: _nowhere(function(x), np.less_equal(x, 0) & np.equal(x, np.floor(x)))


def _power(base: Any, exponent: Any) -> Any:
    found = _plain_power(base, exponent)
    return found if np.ndim(exponent) == 0 and exponent >= 0 else _nowhere(found, np.equal(base, 0) & np.less(exponent, 0))


def _plain_power(base: Any, exponent: Any) -> Any:
    if np.ndim(exponent) == 0:
        if exponent == 2:
            return np.square(base)
        if exponent == 0.5:
            return np.sqrt(base)
        if exponent == 3:
            return base * base * base  # many times faster than the general power, and as good to the last digit but one
        if exponent == 4:
            return np.square(np.square(base))
    return np.power(base, exponent)


_MOST_BITS = 100_000  # of an exact power


def is_long_power(base: Any, exponent: Any) -> bool:
    """Whether the power of a rational number, given with `p` and `q`, would have too many digits to be written out by anybody."""
    return bool(abs(exponent) * max(abs(int(base.p)).bit_length(), int(base.q).bit_length()) > _MOST_BITS)


def _exact_power(_: Any, base: Any, exponent: Any) -> Any:
    """Raises OverflowError for a number that would be too long; powers of 0, 1 and -1 never are."""
    if base.is_Rational and exponent.is_Rational and abs(base) not in (0, 1) and is_long_power(base, exponent):
        raise OverflowError("this power has too many digits")
    return base**exponent


def _operator(name: str, arity: int, numeric: Any, ball: Any, exact: Any, derivative: Any, help: str) -> Entry:
    return _add(
        Entry(name, "operator", (arity, arity), help, f"show {'-' if arity == 1 else '3 ' + name + ' '}2",
              numeric=numeric, ball=ball, exact=exact, derivative=derivative)
    )  # fmt: skip


NEGATIVE = _operator("neg", 1, np.negative, lambda x: -x, lambda _, x: -x, (lambda x: minus(ONE),), "changes the sign")
ADD = _operator("+", 2, np.add, lambda x, y: x + y, lambda _, x, y: x + y, (lambda x, y: ONE, lambda x, y: ONE), "sum")
SUBTRACT = _operator(
    "-", 2, np.subtract, lambda x, y: x - y, lambda _, x, y: x - y, (lambda x, y: ONE, lambda x, y: minus(ONE)), "difference"
)
MULTIPLY = _operator(
    "*", 2, np.multiply, lambda x, y: x * y, lambda _, x, y: x * y, (lambda x, y: y, lambda x, y: x), "product"
)
DIVIDE = _operator(
    "/", 2, _quotient, b.divide, lambda _, x, y: x / y,
    (lambda x, y: over(ONE, y), lambda x, y: minus(over(x, power(y, TWO)))), "quotient",
)  # fmt: skip
POWER = _operator(
    "^", 2, _power, b.power, _exact_power,
    (lambda x, y: times(y, power(x, subtract(y, ONE))), lambda x, y: times(power(x, y), call("ln", x))), "power",
)  # fmt: skip


def _undefined() -> Any:
    raise b.Undefined


# Conditions and the choice between formulas: `choice.py` works them out. No words of the language but parts of its grammar.
CONDITIONS: dict[str, Entry] = {
    name: Entry(name, "condition", (arity, arity), "", "", exact=exact)
    for name, arity, exact in (
        ("<", 2, lambda s, x, y: s.Lt(x, y)), (">", 2, lambda s, x, y: s.Gt(x, y)), ("<=", 2, lambda s, x, y: s.Le(x, y)),
        (">=", 2, lambda s, x, y: s.Ge(x, y)), ("=", 2, lambda s, x, y: s.Eq(x, y)), ("!=", 2, lambda s, x, y: s.Ne(x, y)),
        ("and", 2, lambda s, x, y: s.And(x, y)), ("or", 2, lambda s, x, y: s.Or(x, y)), ("not", 1, lambda s, x: s.Not(x)),
        ("true", 0, lambda s: s.true), ("false", 0, lambda s: s.false),
    )
}  # fmt: skip
CHOOSE = Entry("choose", "operator", (3, 3), "", "", exact=lambda s, held, x, y: s.Piecewise((x, held), (y, True)))
UNDEFINED = Apply(Entry("no piece", "operator", (0, 0), "", "", domain="where one of its conditions holds", numeric=lambda: np.nan,
                        ball=_undefined, exact=lambda s: s.nan, derivative=()), ())  # fmt: skip
UNNAMED: dict[str, Entry] = {e.name: e for e in (*CONDITIONS.values(), CHOOSE, UNDEFINED.entry)}


# ---------------------------------------------------------------- building formulas, with the obvious shortened


def is_number(formula: Formula, value: int) -> bool:
    return isinstance(formula, Number) and formula.value == value


def minus(x: Formula) -> Formula:
    """The negative, shortened where it is a number or a negative already."""
    if isinstance(x, Number):
        return Number(-x.value, x.decimal)
    if isinstance(x, Apply) and x.entry is NEGATIVE:
        return x.arguments[0]
    return Apply(NEGATIVE, (x,))


def add(x: Formula, y: Formula) -> Formula:
    """The sum, shortened where one part is zero or both are numbers."""
    if is_number(x, 0):
        return y
    if is_number(y, 0):
        return x
    if isinstance(x, Number) and isinstance(y, Number):
        return Number(x.value + y.value, x.decimal or y.decimal)
    if isinstance(y, Apply) and y.entry is NEGATIVE:
        return subtract(x, y.arguments[0])
    return Apply(ADD, (x, y))


def subtract(x: Formula, y: Formula) -> Formula:
    """The difference, shortened where one part is zero or both are numbers."""
    if is_number(y, 0):
        return x
    if is_number(x, 0):
        return minus(y)
    if isinstance(x, Number) and isinstance(y, Number):
        return Number(x.value - y.value, x.decimal or y.decimal)
    if isinstance(y, Apply) and y.entry is NEGATIVE:
        return add(x, y.arguments[0])
    return Apply(SUBTRACT, (x, y))


def times(x: Formula, y: Formula) -> Formula:
    """The product, shortened where one factor is zero, one, or both are numbers."""
    if is_number(x, 0) or is_number(y, 0):
        return ZERO
    if is_number(x, 1):
        return y
    if is_number(y, 1):
        return x
    if is_number(x, -1):
        return minus(y)
    if is_number(y, -1):
        return minus(x)
    if isinstance(x, Number) and isinstance(y, Number):
        return Number(x.value * y.value, x.decimal or y.decimal)
    if isinstance(x, Apply) and x.entry is NEGATIVE:
        return minus(times(x.arguments[0], y))
    if isinstance(y, Apply) and y.entry is NEGATIVE:
        return minus(times(x, y.arguments[0]))
    if isinstance(y, Number):
        x, y = y, x
    if isinstance(x, Number) and isinstance(y, Apply) and y.entry is MULTIPLY and isinstance(y.arguments[0], Number):
        return times(times(x, y.arguments[0]), y.arguments[1])
    return Apply(MULTIPLY, (x, y))


def over(x: Formula, y: Formula) -> Formula:
    """The quotient, shortened where the divisor is one or both are numbers and it is not zero."""
    if is_number(y, 1):
        return x
    if is_number(x, 0) and not is_number(y, 0):
        return ZERO
    if isinstance(x, Number) and isinstance(y, Number) and y.value:
        return Number(x.value / y.value, x.decimal or y.decimal)
    if isinstance(x, Apply) and x.entry is NEGATIVE:
        return minus(over(x.arguments[0], y))
    return Apply(DIVIDE, (x, y))


def power(x: Formula, y: Formula) -> Formula:
    """The power, shortened for the exponents 0 and 1."""
    if is_number(y, 1):
        return x
    if is_number(y, 0):
        return ONE
    return Apply(POWER, (x, y))


def call(name: str, *arguments: Formula) -> Formula:
    return Apply(ENTRIES[name], arguments)


def constant(name: str) -> Formula:
    return Apply(ENTRIES[name], ())


# ---------------------------------------------------------------- constants


def _constant(name: str, value: float, ball: Any, exact: Any, tex: str, help: str, **more: Any) -> None:
    _add(Entry(name, "constant", (0, 0), help, f"show {name}" if ball is not None else "", numeric=lambda: value, ball=ball, exact=exact,
               typeset=lambda: tex, derivative=(), available=ball is not None, **more))  # fmt: skip


_constant("pi", np.pi, lambda: arb.pi(), lambda s: s.pi, r"\pi", "the ratio of a circle's circumference to its diameter")
_constant("e", np.e, lambda: arb.const_e(), lambda s: s.E, r"\mathrm{e}", "the base of natural logarithms")
_constant("deg", np.pi / 180, lambda: arb.pi() / 180, lambda s: s.pi / 180, r"^{\circ}", "one degree in radians: 30deg")
_constant("infinity", np.inf, None, lambda s: s.oo, r"\infty", "an end of a span that never ends")


# ---------------------------------------------------------------- functions of one number


def _function(
    name: str, numeric: Any, ball: Any, exact: Any, slope: Callable[[Formula], Formula] | None, help: str, example: str,
    domain: str = "all real numbers", typeset: Callable[..., str] | None = None, category: Category = "elementary", words: str = "",
) -> None:  # fmt: skip
    _add(Entry(name, category, (1, 1), help, example, domain, numeric, ball, exact, typeset,
               (slope,) if slope else None, words=words))  # fmt: skip


def _operand(tex: str) -> str:
    return tex if tex.isalnum() else brackets(tex)


def _upright(name: str) -> Callable[[str], str]:
    return lambda x: rf"\{name}{brackets(x)}"


def _sq(x: Formula) -> Formula:
    return power(x, TWO)


_function("sin", np.sin, b.wave(lambda x: x.sin()), lambda s, x: s.sin(x), lambda x: call("cos", x), "sine of an angle in radians", "show sin(30deg)", typeset=_upright("sin"))
_function("cos", np.cos, b.wave(lambda x: x.cos()), lambda s, x: s.cos(x), lambda x: minus(call("sin", x)), "cosine of an angle in radians", "show cos(pi/3)", typeset=_upright("cos"))
_function("tan", np.tan, b.tangent, lambda s, x: s.tan(x), lambda x: add(ONE, _sq(call("tan", x))), "tangent of an angle in radians", "show tan(pi/4)", "all but odd multiples of pi/2", _upright("tan"))
_function("asin", np.arcsin, b.arcsine, lambda s, x: s.asin(x), lambda x: over(ONE, call("sqrt", subtract(ONE, _sq(x)))), "the angle from -pi/2 to pi/2 with this sine", "show asin(1/2)", "-1 to 1", _upright("arcsin"))
_function("acos", np.arccos, b.arccosine, lambda s, x: s.acos(x), lambda x: minus(over(ONE, call("sqrt", subtract(ONE, _sq(x))))), "the angle from 0 to pi with this cosine", "show acos(1/2)", "-1 to 1", _upright("arccos"))
_function("atan", np.arctan, b.bounded(lambda x: x.atan(), arb(-1.6), arb(1.6)), lambda s, x: s.atan(x), lambda x: over(ONE, add(ONE, _sq(x))), "the angle from -pi/2 to pi/2 with this tangent", "show atan(1)", typeset=_upright("arctan"))
_function("sinh", np.sinh, lambda x: x.sinh(), lambda s, x: s.sinh(x), lambda x: call("cosh", x), "hyperbolic sine", "show sinh(1)", typeset=_upright("sinh"))
_function("cosh", np.cosh, lambda x: x.cosh(), lambda s, x: s.cosh(x), lambda x: call("sinh", x), "hyperbolic cosine", "show cosh(1)", typeset=_upright("cosh"))
_function("tanh", np.tanh, b.bounded(lambda x: x.tanh(), arb(-1), arb(1)), lambda s, x: s.tanh(x), lambda x: subtract(ONE, _sq(call("tanh", x))), "hyperbolic tangent", "show tanh(1)", typeset=_upright("tanh"))
_function("exp", np.exp, lambda x: x.exp(), lambda s, x: s.exp(x), lambda x: call("exp", x), "e to a power", "show exp(1)", typeset=_upright("exp"))
_function("ln", _logarithm(np.log), b.logarithm, lambda s, x: s.log(x), lambda x: over(ONE, x), "natural logarithm", "show ln(2)", "x > 0", _upright("ln"), words="log to the base e")
_function("log10", _logarithm(np.log10), lambda x: b.logarithm(x) / arb(10).log(), lambda s, x: s.log(x, 10), lambda x: over(ONE, times(x, call("ln", number(10)))), "logarithm to the base 10", "show log10(1000)", "x > 0", lambda x: rf"\log_{{10}}{brackets(x)}")
_function("log2", _logarithm(np.log2), lambda x: b.logarithm(x) / arb(2).log(), lambda s, x: s.log(x, 2), lambda x: over(ONE, times(x, call("ln", TWO))), "logarithm to the base 2", "show log2(8)", "x > 0", lambda x: rf"\log_{{2}}{brackets(x)}")
_function("sqrt", np.sqrt, b.square_root, lambda s, x: s.sqrt(x), lambda x: over(ONE, times(TWO, call("sqrt", x))), "square root", "show sqrt(2)", "x >= 0", lambda x: rf"\sqrt{{{x}}}")
_function("cbrt", np.cbrt, b.cube_root, lambda s, x: s.real_root(x, 3), lambda x: over(ONE, times(number(3), _sq(call("cbrt", x)))), "cube root, of negative numbers too", "show cbrt(-8)", typeset=lambda x: rf"\sqrt[3]{{{x}}}")
_function("abs", np.abs, b.magnitude, lambda s, x: s.Abs(x), lambda x: call("sign", x), "magnitude", "show abs(-3)", typeset=lambda x: rf"\left|{x}\right|")
_function("sign", np.sign, b.sign, lambda s, x: s.sign(x), lambda x: ZERO, "-1, 0 or 1", "show sign(-3)", category="rounding", typeset=lambda x: rf"\operatorname{{sign}}{brackets(x)}")
_function("floor", np.floor, b.step_down, lambda s, x: s.floor(x), lambda x: ZERO, "the greatest whole number that is not above", "show floor(2.7)", category="rounding", typeset=lambda x: rf"\left\lfloor {x}\right\rfloor")
_function("ceil", np.ceil, lambda x: -b.step_down(-x), lambda s, x: s.ceiling(x), lambda x: ZERO, "the least whole number that is not below", "show ceil(2.1)", category="rounding", typeset=lambda x: rf"\left\lceil {x}\right\rceil")
_function("erf", special.erf, b.bounded(lambda x: x.erf(), arb(-1), arb(1)), lambda s, x: s.erf(x), lambda x: over(times(TWO, call("exp", minus(_sq(x)))), call("sqrt", constant("pi"))), "error function", "show erf(1)", category="special")
_function("erfc", special.erfc, b.bounded(lambda x: x.erfc(), arb(0), arb(2)), lambda s, x: s.erfc(x), lambda x: minus(over(times(TWO, call("exp", minus(_sq(x)))), call("sqrt", constant("pi")))), "1 - erf(x), exact in the tail", "show erfc(3)", category="special")
_function("digamma", _gamma_like(special.digamma), b.digamma, lambda s, x: s.digamma(x), lambda x: Apply(POLYGAMMA, (ONE, x)), "slope of ln(Gamma(x))", "show digamma(1)", "all but 0, -1, -2, ...", lambda x: rf"\psi{brackets(x)}", "special")
_function("Gamma", _gamma_like(special.gamma), b.gamma, lambda s, x: s.gamma(x), lambda x: times(call("Gamma", x), call("digamma", x)), "gamma function; Gamma(n + 1) = n!", "show Gamma(5)", "all but 0, -1, -2, ...", lambda x: rf"\Gamma{brackets(x)}", "special", "factorial")


# 1/Gamma has no poles: it stands in for Gamma where zeros of a formula are sought. It is no word of the language.
RECIPROCAL_GAMMA: Entry = Entry(
    "1/Gamma", "operator", (1, 1), "", "", numeric=special.rgamma, ball=lambda x: x.rgamma(), exact=lambda s, x: 1 / s.gamma(x),
    derivative=(lambda x: Apply(RECIPROCAL_GAMMA_SLOPE, (ONE, x)),),
)  # fmt: skip


def _reciprocal_gamma_slope(n: Any, x: Any) -> Any:
    """Values by an enclosure each: it is asked for at few places only."""
    found = [float(b.reciprocal_gamma_slope(arb(float(n)), arb(v)).mid()) for v in np.ravel(np.asarray(x, dtype=float))]
    return np.reshape(found, np.shape(x))


# Its derivatives, which have no poles either. No word of the language.
RECIPROCAL_GAMMA_SLOPE: Entry = Entry(
    "1/Gamma^", "operator", (2, 2), "", "", numeric=_reciprocal_gamma_slope, ball=b.reciprocal_gamma_slope,
    exact=lambda s, n, x: s.diff(1 / s.gamma(s.Symbol("v")), s.Symbol("v"), n).subs(s.Symbol("v"), x),
    derivative=(lambda n, x: _no_slope(), lambda n, x: Apply(RECIPROCAL_GAMMA_SLOPE, (add(n, ONE), x))),
)  # fmt: skip


def _polygamma(n: Any, x: Any) -> Any:
    """SciPy's is for positive x; the rest by the recurrence psi_n(x) = psi_n(x + 1) - (-1)^n n!/x^(n+1) (DLMF 5.15.5)."""
    x = np.asarray(x, dtype=float)
    steps = int(np.clip(np.ceil(-np.nanmin(x, initial=0.0)) + 1, 0, 1000)) if np.nanmin(x, initial=1.0) <= 0 else 0
    total = np.zeros(x.shape)
    for k in range(steps):
        total = total - (-1.0) ** n * special.factorial(n) / (x + k) ** (n + 1)
    return special.polygamma(np.asarray(n, dtype=int), x + steps) + total


# Derivatives of digamma, for slopes of Gamma. No word of the language.
POLYGAMMA: Entry = Entry(
    "polygamma", "operator", (2, 2), "", "", numeric=_polygamma, ball=b.polygamma, exact=lambda s, n, x: s.polygamma(n, x),
    typeset=lambda n, x: rf"\psi^{{({n})}}{brackets(x)}",
    derivative=(lambda n, x: _no_slope(), lambda n, x: Apply(POLYGAMMA, (add(n, ONE), x))),
)  # fmt: skip


def _guard_ball(value: Any, place: Any, low: Any, high: Any) -> Any:
    if place < low or place > high:
        raise b.Undefined
    if not (place >= low and place <= high):
        b.doubt.partial = True
    return value


# f(u) where the definition of f says a domain: the value, if u lies in it.
GUARD = Entry(
    "within", "operator", (4, 4), "", "",
    numeric=lambda value, place, low, high: np.where((place >= low) & (place <= high), value, np.nan),
    ball=_guard_ball, exact=lambda _, value, *__: value, typeset=lambda value, *_: value,
)  # fmt: skip


# f(u) where f was got from data: the same value everywhere; from which to which place the data go is kept beside it.
DATA = Entry(
    "from data", "operator", (4, 4), "", "",
    numeric=lambda value, *_: value, ball=lambda value, *_: value, exact=lambda _, value, *__: value, scalar=lambda value, *_: value,
    typeset=lambda value, *_: value,
)  # fmt: skip


# The same of a curve that repeats itself: f(u) anywhere, u, one period from where to where, and f(u) within that.
PERIOD = Entry(
    "of one period", "operator", (5, 5), "", "",
    numeric=lambda value, *_: value, ball=lambda value, *_: value, exact=lambda _, value, *__: value, scalar=lambda value, *_: value,
    typeset=lambda value, *_: value,
)  # fmt: skip


def _half_up(x: Formula) -> Formula:
    return call("floor", add(x, Number(Fraction(1, 2))))


_add(Entry("round", "rounding", (1, 1), "the nearest whole number; halves go up", "show round(2.5)",
           numeric=lambda x: np.floor(np.add(x, 0.5)), expansion=_half_up))  # fmt: skip


# ---------------------------------------------------------------- functions of two numbers


def _larger(x: Formula, y: Formula) -> Formula:
    return over(add(add(x, y), call("abs", subtract(x, y))), TWO)


def _smaller(x: Formula, y: Formula) -> Formula:
    return over(subtract(add(x, y), call("abs", subtract(x, y))), TWO)


def _remainder(x: Formula, y: Formula) -> Formula:
    return subtract(x, times(y, call("floor", over(x, y))))


def _bessel_slope(name: str) -> Callable[[Formula, Formula], Formula]:
    # DLMF 10.6.1: C'_n = (C_{n-1} - C_{n+1})/2
    return lambda n, x: over(subtract(call(name, subtract(n, ONE), x), call(name, add(n, ONE), x)), TWO)


def _no_slope(*_: Formula) -> Formula:
    raise ValueError("there is no formula for the derivative by the order")


_add(Entry("min", "elementary", (1, 99), "the least of numbers, or of a list", "show min(3, 1, 2)",
           numeric=np.minimum, ball=lambda x, y: x.min(y), exact=lambda s, *x: s.Min(*x), values=np.min,
           derivative=(lambda x, y: over(subtract(ONE, call("sign", subtract(x, y))), TWO),
                       lambda x, y: over(add(ONE, call("sign", subtract(x, y))), TWO)),
           typeset=lambda *x: rf"\min{brackets(', '.join(x))}"))  # fmt: skip
_add(Entry("max", "elementary", (1, 99), "the greatest of numbers, or of a list", "show max(3, 1, 2)",
           numeric=np.maximum, ball=lambda x, y: x.max(y), exact=lambda s, *x: s.Max(*x), values=np.max,
           derivative=(lambda x, y: over(add(ONE, call("sign", subtract(x, y))), TWO),
                       lambda x, y: over(subtract(ONE, call("sign", subtract(x, y))), TWO)),
           typeset=lambda *x: rf"\max{brackets(', '.join(x))}"))  # fmt: skip
_add(Entry("mod", "rounding", (2, 2), "remainder with the sign of the divisor", "show mod(-1, 3)",
           "a divisor that is not 0", numeric=lambda x, y: np.subtract(x, np.multiply(y, np.floor(np.divide(x, y)))),
           expansion=_remainder, typeset=lambda x, y: rf"{_operand(x)} \bmod {_operand(y)}"))  # fmt: skip
_add(Entry("besselj", "special", (2, 2), "Bessel function of the first kind: besselj(order, x)", "show besselj(0, 2.4)",
           "x >= 0, or any x for a whole order", special.jv, b.bessel_j, lambda s, n, x: s.besselj(n, x),
           lambda n, x: rf"J_{{{n}}}{brackets(x)}", (_no_slope, _bessel_slope("besselj"))))  # fmt: skip
_add(Entry("bessely", "special", (2, 2), "Bessel function of the second kind: bessely(order, x)", "show bessely(0, 1)",
           "x > 0", special.yv, b.bessel_y, lambda s, n, x: s.bessely(n, x),
           lambda n, x: rf"Y_{{{n}}}{brackets(x)}", (_no_slope, _bessel_slope("bessely"))))  # fmt: skip


# ---------------------------------------------------------------- waveforms of period 1, in phase with sin(2 pi t)

_QUARTER, _HALF = Number(Fraction(1, 4)), Number(Fraction(1, 2))


def _wave(name: str, numeric: Any, expansion: Callable[[Formula], Formula], help: str) -> None:
    _add(Entry(name, "waveform", (1, 1), f"{help}; period 1, in step with sin(2 pi t)", f"curve of {name}(t) for t from 0 to 1.5", numeric=numeric,
               expansion=expansion))  # fmt: skip


def _off_quarter(t: Formula) -> Formula:
    shifted = subtract(t, _QUARTER)
    return subtract(shifted, call("floor", add(shifted, _HALF)))


_wave("square", lambda t: 1 - 2 * (np.floor(np.multiply(2, t)) - 2 * np.floor(t)),
      lambda t: subtract(ONE, times(TWO, subtract(call("floor", times(TWO, t)), times(TWO, call("floor", t))))),
      "1 on the first half of each period, -1 on the second")  # fmt: skip
_wave("triangle", lambda t: 1 - 4 * np.abs(np.subtract(t, 0.25) - np.floor(np.add(t, 0.25))),
      lambda t: subtract(ONE, times(number(4), call("abs", _off_quarter(t)))),
      "straight lines from 0 up to 1 at a quarter, down to -1 at three quarters")  # fmt: skip
_wave("sawtooth", lambda t: 2 * (np.asarray(t) - np.floor(np.add(t, 0.5))),
      lambda t: times(TWO, subtract(t, call("floor", add(t, _HALF)))),
      "rises from 0 to 1 at the half period, drops to -1 and rises again")  # fmt: skip


# ---------------------------------------------------------------- functions of lists


def _of_list(name: str, values: Any, help: str, example: str) -> None:
    _add(Entry(name, "list", (1, 1), help, example, "a list of numbers", values=values, protected=False))


_of_list("sum", np.sum, "sum of a list", "show sum([1, 2, 3])")
_of_list("product", np.prod, "product of a list", "show product([1, 2, 3])")
_of_list("mean", moments.mean, "arithmetic mean", "show mean([1, 2, 3])")
_of_list("median", np.median, "middle value", "show median([1, 2, 10])")
_of_list("sd", moments.sd, "standard deviation of a sample (divisor n - 1)", "show sd([1, 2, 3])")
_of_list("variance", moments.variance, "variance of a sample (divisor n - 1)", "show variance([1, 2, 3])")
_of_list("length", lambda xs: float(np.size(xs)), "how many elements", "show length([1, 2, 3])")
_of_list("first", lambda xs: xs[0], "the first element", "show first([4, 5])")
_of_list("last", lambda xs: xs[-1], "the last element", "show last([4, 5])")
_of_list("sort", np.sort, "in rising order", "show sort([3, 1, 2])")
_of_list("reverse", lambda xs: xs[::-1].copy(), "back to front", "show reverse([1, 2, 3])")
_of_list("differences", np.diff, "each element less the one before", "show differences([1, 4, 9])")
_of_list("running_sum", np.cumsum, "sums of the first one, two, three … elements", "show running_sum([1, 2, 3])")

_add(Entry("column", "list", (2, 2), "a column of a list of lists, counted from 1", "show column([[1, 2], [3, 4]], 2)",
           "a list of lists", values=lambda rows, k: [row[k - 1] for row in rows], protected=False))  # fmt: skip
_add(Entry("normal", "random", (4, 4), "normal(n, mean, sd, seed): n normal random numbers, the same for the same seed", "show normal(3, 0, 1, 7)",
           values=lambda n, mean, sd, seed: np.random.Generator(np.random.PCG64(seed)).normal(mean, sd, n), protected=False, words="Gauss noise scatter"))  # fmt: skip
_add(Entry("uniform", "random", (4, 4), "uniform(n, low, high, seed): n random numbers spread evenly, the same for the same seed", "show uniform(3, 0, 1, 7)",
           values=lambda n, low, high, seed: np.random.Generator(np.random.PCG64(seed)).uniform(low, high, n), protected=False, words="noise"))  # fmt: skip


UNNAMED |= {e.name: e for e in (GUARD, DATA, PERIOD, POLYGAMMA, RECIPROCAL_GAMMA, RECIPROCAL_GAMMA_SLOPE)}


def entry_of(name: str) -> Entry:
    """The entry of a name, also of those that are no word of the language; formulas are pickled by these names."""
    return ENTRIES[name] if name in ENTRIES else UNNAMED[name]


class Catalogue:
    """What the language asks of the catalogue (`language.cursor.Builtins`)."""

    def is_function(self, name: str) -> bool:
        entry = ENTRIES.get(name)
        return entry is not None and entry.category not in ("constant", "operator")

    def is_constant(self, name: str) -> bool:
        entry = ENTRIES.get(name)
        return entry is not None and entry.category == "constant"

    def is_protected(self, name: str) -> bool:
        entry = ENTRIES.get(name)
        return entry is not None and entry.protected and entry.category != "operator"

    def arity(self, name: str) -> tuple[int, int]:
        return ENTRIES[name].arity

    def is_available(self, name: str) -> bool:
        return ENTRIES[name].available

    def names(self) -> Iterable[str]:
        return [n for n, entry in ENTRIES.items() if entry.category != "operator"]


BUILTINS = Catalogue()
