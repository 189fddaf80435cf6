"""Programs of certificates on another library's intervals (mpmath's `iv`), with Taylor coefficients up to the second order of its own.

It shares nothing with the verifier in `core/certificate`: neither its numbers nor its rules. Where it cannot say what a step does, it says
nothing (Unknown).
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import Any

import mpmath
from mpmath import iv

Interval = Any
Jet = tuple[Interval, Interval, Interval]  # the value, the slope, half of the second derivative, along one variable
BITS = 160


class Unknown(Exception):
    """A function, or a place near which nothing is said."""


class Nowhere(Exception):
    """There is no value anywhere on the box."""


def number(q: Fraction) -> Interval:
    return iv.mpf(q.numerator) / iv.mpf(q.denominator)


def hull(a: Interval, b: Interval) -> Interval:
    return iv.mpf([min(a.a, b.a), max(a.b, b.b)])


def sign(u: Interval) -> int:
    """1 or -1 where all of an interval is positive or negative, else 0."""
    return 1 if u.a > 0 else -1 if u.b < 0 else 0


def run(program: list[list[Any]], places: dict[str, Interval], along: str = "") -> Jet | bool | None:
    """The last step on a box: its Taylor coefficients along a variable, or the truth of a condition. Raises Nowhere, Unknown."""
    iv.prec = BITS
    found: list[Any] = []
    for step in program:
        try:
            found.append(_step(step[0], step[1:], found, places, along))
        except (Unknown, Nowhere) as nothing:
            found.append(nothing)
        except (ZeroDivisionError, ValueError, OverflowError, mpmath.libmp.ComplexResult):
            found.append(Unknown())
    last = found[-1]
    if isinstance(last, Exception):
        raise last
    return last


def _constant(value: Interval) -> Jet:
    return value, iv.mpf(0), iv.mpf(0)


def _step(head: str, rest: list[Any], found: list[Any], places: dict[str, Interval], along: str) -> Any:
    if head == "variable":
        return places[rest[0]], iv.mpf(1 if rest[0] == along else 0), iv.mpf(0)
    if head == "number":
        return _constant(number(Fraction(rest[0])))
    if head == "ball":
        return _constant(hull(number(Fraction(rest[0])), number(Fraction(rest[1]))))
    if head in ("pi", "e", "deg"):
        return _constant({"pi": +iv.pi, "e": +iv.e, "deg": iv.pi / 180}[head])
    if head in ("true", "false"):
        return head == "true"
    args = [found[k] for k in rest if isinstance(k, int)]
    if head == "choose":
        return _chosen(*args)
    if head in ("and", "or"):
        return _joined(args, head == "or")
    for kind in (Nowhere, Unknown):
        if any(isinstance(a, kind) for a in args):
            raise kind
    if head == "not":
        return None if args[0] is None else not args[0]
    if head in _COMPARED:
        return _COMPARED[head](args[0][0])
    if head in _BY_VALUE:
        return _by_value(args[0], *_BY_VALUE[head](args[0][0]))
    if head not in _RULES:
        raise Unknown
    return _RULES[head](*args)


def _chosen(condition: Any, taken: Any, other: Any) -> Any:
    if isinstance(condition, Exception) or condition is None:
        raise condition or Unknown
    branch = taken if condition else other
    if isinstance(branch, Exception):
        raise branch
    return branch


def _joined(args: list[Any], decides: bool) -> bool | None:
    if any(a is decides for a in args):
        return decides
    if any(isinstance(a, Exception) for a in args):
        raise Unknown
    return None if None in args else not decides


_COMPARED: dict[str, Callable[[Interval], bool | None]] = {
    "<": lambda d: True if d.b < 0 else False if d.a >= 0 else None, ">": lambda d: True if d.a > 0 else False if d.b <= 0 else None,
    "<=": lambda d: True if d.b <= 0 else False if d.a > 0 else None, ">=": lambda d: True if d.a >= 0 else False if d.b < 0 else None,
    "=": lambda d: False if sign(d) else True if d.a == d.b == 0 else None,
    "!=": lambda d: True if sign(d) else False if d.a == d.b == 0 else None,
}  # fmt: skip


def _by_value(u: Jet, value: Interval, slope: Interval, bend: Interval) -> Jet:
    """g(u) by the value of g, its slope and half of its second derivative on the values of u."""
    return value, slope * u[1], slope * u[2] + bend * u[1] * u[1]


def _positive(u: Interval) -> Interval:
    if u.b < 0:
        raise Nowhere
    if u.a <= 0:
        raise Unknown
    return u


def _rising(function: Callable[[Any], Any]) -> Callable[[Interval], Interval]:
    """A rising function by its values at both ends, with many more digits than are kept."""

    def value(u: Interval) -> Interval:
        with mpmath.workprec(BITS + 60):
            low, high = (function(mpmath.mpf(end)) for end in (u.a, u.b))
            slack = mpmath.mpf(2) ** -(BITS + 20)
            return iv.mpf([low - abs(low) * slack - slack, high + abs(high) * slack + slack])

    return value


_ATAN, _ASIN, _ERF = _rising(mpmath.atan), _rising(mpmath.asin), _rising(mpmath.erf)


def _log(u: Interval) -> tuple[Interval, ...]:
    u = _positive(u)
    return iv.log(u), 1 / u, -1 / (2 * u * u)


def _root(u: Interval) -> tuple[Interval, ...]:
    root = iv.sqrt(_positive(u))
    return root, 1 / (2 * root), -1 / (8 * root * u)


def _cube_root(u: Interval) -> tuple[Interval, ...]:
    if not sign(u):
        raise Unknown
    root = sign(u) * iv.exp(iv.log(u if sign(u) > 0 else -u) / 3)
    return root, root / (3 * u), -root / (9 * u * u)


def _tanh(u: Interval) -> tuple[Interval, ...]:
    value = 1 - 2 / (iv.exp(2 * u) + 1)
    slope = 4 / (iv.exp(u) + iv.exp(-u)) ** 2
    return value, slope, -value * slope


def _atan(u: Interval) -> tuple[Interval, ...]:
    over = 1 / (1 + u**2)
    return _ATAN(u), over, -u * over * over


def _bell(u: Interval) -> Interval:
    return 2 * iv.exp(-(u**2)) / iv.sqrt(iv.pi)


def _steps(rounded: Callable[[Any], Any]) -> Callable[[Interval], tuple[Interval, ...]]:
    def value(u: Interval) -> tuple[Interval, ...]:
        if rounded(u.a) != rounded(u.b):
            raise Unknown
        return iv.mpf(rounded(u.a)), iv.mpf(0), iv.mpf(0)

    return value


def _sign(u: Interval) -> tuple[Interval, ...]:
    if not sign(u) and not u.a == u.b == 0:
        raise Unknown
    return iv.mpf(sign(u)), iv.mpf(0), iv.mpf(0)


def _times_log(u: Interval) -> tuple[Interval, ...]:
    log = iv.log(_positive(u))
    return u * log, log + 1, 1 / (2 * u)


def _to_itself(u: Interval) -> tuple[Interval, ...]:
    log = iv.log(_positive(u))
    value = iv.exp(u * log)
    return value, value * (log + 1), value * ((log + 1) ** 2 + 1 / u) / 2


_BY_VALUE: dict[str, Callable[[Interval], tuple[Interval, ...]]] = {
    "exp": lambda u: (iv.exp(u), iv.exp(u), iv.exp(u) / 2), "ln": _log, "sqrt": _root, "cbrt": _cube_root, "tanh": _tanh, "atan": _atan,
    "sin": lambda u: (iv.sin(u), iv.cos(u), -iv.sin(u) / 2), "cos": lambda u: (iv.cos(u), -iv.sin(u), -iv.cos(u) / 2),
    "sinh": lambda u: ((iv.exp(u) - iv.exp(-u)) / 2, (iv.exp(u) + iv.exp(-u)) / 2, (iv.exp(u) - iv.exp(-u)) / 4),
    "cosh": lambda u: ((iv.exp(u) + iv.exp(-u)) / 2, (iv.exp(u) - iv.exp(-u)) / 2, (iv.exp(u) + iv.exp(-u)) / 4),
    "log10": lambda u: tuple(v / iv.log(iv.mpf(10)) for v in _log(u)), "log2": lambda u: tuple(v / iv.log(iv.mpf(2)) for v in _log(u)),
    "erf": lambda u: (_ERF(u), _bell(u), -u * _bell(u)), "erfc": lambda u: (1 - _ERF(u), -_bell(u), u * _bell(u)),
    "floor": _steps(mpmath.floor), "ceil": _steps(mpmath.ceil), "sign": _sign, "u ln u": _times_log, "u^u": _to_itself,
}  # fmt: skip


def _times(a: Jet, b: Jet) -> Jet:
    return a[0] * b[0], a[1] * b[0] + a[0] * b[1], a[2] * b[0] + a[1] * b[1] + a[0] * b[2]


def _over(a: Jet, b: Jet) -> Jet:
    if b[0].a == b[0].b == 0:
        raise Nowhere
    if not sign(b[0]):
        raise Unknown
    return _times(a, _by_value(b, 1 / b[0], -1 / b[0] ** 2, 1 / b[0] ** 3))


def _power(a: Jet, b: Jet) -> Jet:
    if b[0].a == b[0].b and b[0].a == int(b[0].a):
        n = int(b[0].a)
        if n < 0:
            return _over(_constant(iv.mpf(1)), _power(a, _constant(iv.mpf(-n))))
        powers = [a[0] ** k if k >= 0 else iv.mpf(0) for k in (n, n - 1, n - 2)]
        return _by_value(a, powers[0], n * powers[1], iv.mpf(n * (n - 1)) / 2 * powers[2])
    _positive(a[0])
    product = _times(b, _by_value(a, *_log(a[0])))
    return _by_value(product, *_BY_VALUE["exp"](product[0]))


def _tan(u: Jet, cosine: Jet) -> Jet:
    return _over(_by_value(u, *_BY_VALUE["sin"](u[0])), cosine)


def _arcsine(u: Jet, below: Jet, above: Jet) -> Jet:
    if below[0].b < 0 or above[0].b < 0:
        raise Nowhere
    if below[0].a <= 0 or above[0].a <= 0:
        raise Unknown
    over = 1 / iv.sqrt(below[0] * above[0])
    return _by_value(u, _ASIN(u[0]), over, u[0] * over**3 / 2)


def _arccosine(u: Jet, below: Jet, above: Jet) -> Jet:
    found = _arcsine(u, below, above)
    return iv.pi / 2 - found[0], -found[1], -found[2]


def _larger(a: Jet, b: Jet, difference: Jet, way: int) -> Jet:
    decided = sign(difference[0]) * way
    if decided:
        return a if decided > 0 else b
    ends = (max, max) if way > 0 else (min, min)
    value = iv.mpf([ends[0](a[0].a, b[0].a), ends[1](a[0].b, b[0].b)])
    return value, hull(a[1], b[1]), iv.mpf(["-inf", "inf"])


def _within(value: Jet, after: Jet, before: Jet) -> Jet:
    if after[0].b < 0 or before[0].b < 0:
        raise Nowhere
    if after[0].a < 0 or before[0].a < 0:
        raise Unknown
    return value


def _minus(a: Jet) -> Jet:
    return -a[0], -a[1], -a[2]


_RULES: dict[str, Callable[..., Jet]] = {
    "+": lambda a, b: (a[0] + b[0], a[1] + b[1], a[2] + b[2]), "-": lambda a, b: (a[0] - b[0], a[1] - b[1], a[2] - b[2]),
    "neg": _minus, "same": lambda a: a, "*": _times, "/": _over, "^": _power, "tan": _tan, "asin": _arcsine, "acos": _arccosine,
    "abs": lambda a: _larger(a, _minus(a), a, 1), "max": lambda a, b, d: _larger(a, b, d, 1), "min": lambda a, b, d: _larger(a, b, d, -1),
    "within": _within,
}  # fmt: skip
