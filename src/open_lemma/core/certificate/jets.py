"""Taylor coefficients of a step along one variable, by those of its arguments.

Derivatives: NIST Digital Library of Mathematical Functions, §4.20, §4.34, §5.2, §7.10, §10.6(i). Taylor arithmetic:
A. Griewank, A. Walther, "Evaluating Derivatives", SIAM 2008, ch. 13.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Callable, Sequence
from fractions import Fraction
from typing import Any

from flint import arb, arb_series, ctx, fmpq

from .exact import Exact, rational
from .functions import (
    BROKEN,
    NAN,
    PARTIAL,
    QUIET,
    ROUGH,
    VALUES,
    BadProgram,
    Flags,
    Nowhere,
    Num,
    divide,
    magnitude,
    part,
    union,
    unknown,
    whole_exponent,
    whole_number,
)
from .span import Span, of_ball, span_of

Jet = list[Any]  # Taylor coefficients of a step along the variable, constant term first
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


def constant(k: int, like: Jet) -> Jet:
    return [whole_number(k, like[0]), *(whole_number(0, like[0]) for _ in like[1:])]


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
    return [lifted, *constant(0, u)[1:]]


def _bell(u: Jet) -> Jet:
    return _over(_scaled(_call("exp", _minus(_times(u, u))), 2), _root_pi(u), QUIET)


def _reciprocal(a: Jet) -> Jet:
    return _over(constant(1, a), a, QUIET)


def _slope_of_power(a: Jet, b: Jet) -> Jet:
    if b[0].is_zero():
        return constant(0, a)
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
    "atan": (lambda u: _reciprocal(_plus(constant(1, u), _times(u, u))),), "exp": (lambda u: _call("exp", u),),
    "erf": (_bell,), "erfc": (lambda u: _minus(_bell(u)),), "sqrt": (lambda u: _reciprocal(_scaled(_call("sqrt", u), 2)),),
    "ln": (_reciprocal,), "cbrt": (lambda u: _reciprocal(_scaled(_call("^", _call("cbrt", u), constant(2, u)), 3)),),
    "tan": (lambda _, c: _reciprocal(_call("^", c, constant(2, c))), None), "asin": (_arc, None, None),
    "acos": (lambda *a: _minus(_arc(*a)), None, None), "sign": (lambda u: constant(0, u),), "floor": (lambda u: constant(0, u),),
    "ceil": (lambda u: constant(0, u),),
    "^": (_slope_of_power, lambda a, b: _times(_call("^", a, b), _call("ln", a))),
    "1/Gamma": (lambda u: _call("1/Gamma^", constant(1, u), u),),
    "1/Gamma^": (None, lambda n, u: _call("1/Gamma^", [n[0] + 1, *n[1:]], u)),
    "u ln u": (lambda u: _plus(_call("ln", u), constant(1, u)),),
    "u^u": (lambda u: _times(_call("u^u", u), _plus(_call("ln", u), constant(1, u))),),
    "digamma": (lambda u: _call("polygamma", constant(1, u), u),),
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
    whole = name == "besselj" and whole_exponent(n[0]) is not None
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
        base = _call("ln", constant(int(name[3:]), jets[0]))
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
            return [value, *(unknown(value) for _ in range(order))]  # the rule would ask for two of the order below, each time
    total: Jet | None = None
    for slope, u in zip(SLOPES[name], jets, strict=True):
        change = [u[k] * k for k in range(1, order + 1)]
        if all(d.is_zero() for d in change) or (slope is None and name in ("tan", "asin", "acos")):
            continue
        if slope is None:
            return [value, *(unknown(value) for _ in range(order))]
        try:
            rise = slope(*(j[:order] for j in jets))
        except Nowhere:
            rise = [unknown(value)] * order
        term = _times(rise, change)
        total = term if total is None else _plus(total, term)
    if total is None:
        return [value, *constant(0, jets[0])[1:]]
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
    none = [unknown(value) for _ in a[2:]]
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


def pieces(step: Sequence[Any], u: Jet, flags: Flags) -> Jet:
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
        jet = [value[-1], *constant(0, u)[1:]]
        for v in value[-2::-1]:
            jet = _times(jet, along)
            jet[0] = jet[0] + v
        found = jet if found is None else [union(a, b) for a, b in zip(found, jet, strict=True)]
    assert found is not None
    # Of a joint only the value and the slope are looked at: nothing is known of derivatives beyond the second.
    return found if first >= final else [*found[:3], *(unknown(v) for v in found[3:])]


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
