"""The evaluator's promises, step by step, against mpmath: values, where there are any, difference quotients, and what is never said."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from fractions import Fraction
from itertools import pairwise, product
from typing import Any

import mpmath
import pytest
from flint import arb, fmpq

from open_lemma.core.certificate.cover import bits
from open_lemma.core.certificate.evaluator import BallReading, run
from open_lemma.core.certificate.span import Span, span_of
from tests.core.numerics.independent import NoValue, floor, real

ENDS = [Fraction(n, 6) for n in (-18, -12, -9, -6, -3, -1, 0, 1, 2, 3, 5, 6, 7, 9, 12, 15, 18)]
ROOM = mpmath.mpf(10) ** -25


def _power(a: Any, b: Any) -> Any:
    if a == 0:
        if b < 0:
            raise NoValue
        return mpmath.mpf(b == 0)
    return a**b


def _only(holds: Callable[[Any], bool], function: Callable[..., Any]) -> Callable[..., Any]:
    def value(*args: Any) -> Any:
        if not holds(args[-1]):
            raise NoValue
        return function(*args)

    return value


def _besselj(n: Any, x: Any) -> Any:
    if x == 0 and n < 0 and n != floor(n):
        raise NoValue
    return mpmath.besselj(n, x)


# Each operation as steps on the variables x and y, and its value: NIST DLMF 4, 5, 7.2, 10.2; x^y is real, with 0^0 = 1.
ONE: list[tuple[str, list[list[Any]], Callable[[Any], Any]]] = [
    *((name, [[name, 0]], getattr(mpmath, name)) for name in ("exp", "sin", "cos", "sinh", "cosh", "tanh", "atan", "erf", "erfc")),
    ("sqrt", [["sqrt", 0]], _only(lambda u: u >= 0, mpmath.sqrt)), ("ln", [["ln", 0]], _only(lambda u: u > 0, mpmath.log)),
    ("log10", [["log10", 0]], _only(lambda u: u > 0, lambda u: mpmath.log(u, 10))), ("abs", [["abs", 0]], abs),
    ("cbrt", [["cbrt", 0]], lambda u: mpmath.sign(u) * mpmath.cbrt(abs(u))), ("sign", [["sign", 0]], mpmath.sign),
    ("floor", [["floor", 0]], floor), ("ceil", [["ceil", 0]], lambda u: -floor(-u)),
    ("tan", [["cos", 0], ["tan", 0, 1]], mpmath.tan), ("1/x", [["number", "1"], ["/", 1, 0]], _only(lambda u: u != 0, lambda u: 1 / u)),
    ("asin", [["number", "1"], ["-", 1, 0], ["+", 1, 0], ["asin", 0, 2, 3]], _only(lambda u: abs(u) <= 1, mpmath.asin)),
    ("acos", [["number", "1"], ["-", 1, 0], ["+", 1, 0], ["acos", 0, 2, 3]], _only(lambda u: abs(u) <= 1, mpmath.acos)),
    ("1/Gamma", [["1/Gamma", 0]], mpmath.rgamma), ("u ln u", [["u ln u", 0]], _only(lambda u: u > 0, lambda u: u * mpmath.log(u))),
    ("u^u", [["u^u", 0]], lambda u: _power(u, u)),
    ("digamma", [["digamma", 0]], _only(lambda u: u > 0 or u != floor(u), mpmath.digamma)),
    *(
        (f"x^({p})", [["number", p], ["^", 0, 1]], lambda u, p=p: _power(u, mpmath.mpf(Fraction(p).numerator) / Fraction(p).denominator))
        for p in ("2", "3", "-2", "1/2", "-1/3", "5/2", "0", "-3", "7")
    ),
    *((f"({a})^x", [["number", a], ["^", 1, 0]], lambda u, a=a: _power(mpmath.mpf(a), u)) for a in ("0", "2", "-2", "1")),
]  # fmt: skip
TWO: list[tuple[str, list[list[Any]], Callable[[Any, Any], Any]]] = [
    ("+", [["+", 0, 1]], lambda a, b: a + b), ("-", [["-", 0, 1]], lambda a, b: a - b), ("*", [["*", 0, 1]], lambda a, b: a * b),
    ("/", [["/", 0, 1]], _only(lambda b: b != 0, lambda a, b: a / b)), ("^", [["^", 0, 1]], _power),
    ("max", [["-", 0, 1], ["max", 0, 1, 2]], max), ("min", [["-", 0, 1], ["min", 0, 1, 2]], min),
    ("choose", [["-", 0, 1], ["<", 2], ["sqrt", 0], ["choose", 3, 4, 1]], lambda a, b: real(mpmath.sqrt(a)) if a < b else b),
    ("besselj", [["besselj", 0, 1]], _besselj), ("bessely", [["bessely", 0, 1]], _only(lambda x: x > 0, mpmath.bessely)),
]  # fmt: skip


def random_span(rng: random.Random) -> Span:
    low, high = sorted(rng.sample(ENDS, 2))
    ends = [arb(fmpq(q.numerator, q.denominator)) for q in (low, high)]
    far = rng.random()
    if far < 0.1:
        return Span(None, ends[1].upper(), True, rng.random() < 0.5)
    if far < 0.2:
        return Span(ends[0].lower(), None, rng.random() < 0.5)
    # An open end is one that the number is exactly.
    exact = [e.is_exact() for e in ends]
    return Span(ends[0].lower(), ends[1].upper(), exact[0] and rng.random() < 0.5, exact[1] and rng.random() < 0.5)


def _mp(end: Any) -> Any:
    mantissa, exponent = end.man_exp()
    return mpmath.mpf(int(mantissa)) * mpmath.mpf(2) ** int(exponent)


def places_of(span: Span) -> Iterator[Any]:
    """Places of a span: its ends if they belong to it, close to them, whole numbers and halves, some between."""
    low = _mp(span.high) - 7 if span.low is None else _mp(span.low)
    high = low + 7 if span.high is None else _mp(span.high)
    if not span.low_open:
        yield low
    if not span.high_open:
        yield high
    for near in ("1e-3", "1e-9", "0.17", "0.5", "0.83"):
        yield low + (high - low) * mpmath.mpf(near)
    yield high - (high - low) * mpmath.mpf("1e-9")
    for k in range(int(floor(2 * low)) + 1, int(mpmath.ceil(2 * high))):
        if low < mpmath.mpf(k) / 2 < high:
            yield mpmath.mpf(k) / 2


def value_of_place(function: Callable[..., Any], place: tuple[Any, ...]) -> Any:
    try:
        return real(function(*place))
    except (NoValue, ZeroDivisionError, ValueError):
        return None


def held(value: Any, span: Any) -> bool:
    """Whether a number lies in a span of which an end that is open is never reached."""
    s = span_of(span)
    room = ROOM * max(1, abs(value))
    return bool((s.low is None or value > _mp(s.low) - room) and (s.high is None or value < _mp(s.high) + room))


def _strictly(value: Any, span: Any) -> bool:
    """Whether a number that is told exactly keeps off the open ends."""
    s = span_of(span)
    return not ((s.low is not None and s.low_open and value <= _mp(s.low)) or (s.high is not None and s.high_open and value >= _mp(s.high)))


def _check(name: str, reading: BallReading | None, seen: list[tuple[tuple[Any, ...], Any]], exactly: bool) -> None:
    valued = [(place, v) for place, v in seen if v is not None]
    if reading is None:
        assert not valued, (name, "a value where there is none", valued[:1])
        return
    if reading.defined:
        assert len(valued) == len(seen), (name, "no value", [p for p, v in seen if v is None][:1])
    assert reading.jet is not None
    if not isinstance(reading.jet[0], Span) and not reading.jet[0].is_finite():
        return
    for place, v in valued:
        assert held(v, reading.jet[0]), (name, place, v)
        if exactly and v == floor(v):
            assert _strictly(v, reading.jet[0]), (name, "an open end is reached", place, v)


def _quotients(name: str, reading: BallReading | None, seen: list[tuple[tuple[Any, ...], Any]], k: int = 0) -> None:
    """All difference quotients lie in the first Taylor coefficient, where nothing jumps."""
    if reading is None or not reading.continuous or reading.jet is None:
        return
    slope = span_of(reading.jet[1]) if isinstance(reading.jet[1], Span) or reading.jet[1].is_finite() else None
    for (a, fa), (b, fb) in pairwise(sorted(seen, key=lambda s: s[0][k])):
        if slope is not None and b[k] - a[k] > 1e-6:
            assert held((fb - fa) / (b[k] - a[k]), slope), (name, a, b)


@pytest.mark.parametrize(("name", "steps", "function"), ONE, ids=[n for n, _, _ in ONE])
def test_functions_of_one_variable(name: str, steps: list[list[Any]], function: Callable[[Any], Any]) -> None:
    rng = random.Random(name)
    program = [["variable", "x"], *steps]
    with mpmath.workdps(50), bits(192):
        for _ in range(120):
            span = random_span(rng)
            seen = [((x,), value_of_place(function, (x,))) for x in places_of(span)]
            found = run(program, {"x": span}, 1, "x")[-1]
            _check(name, found, seen, True)
            _quotients(name, found, seen)
            if span.is_finite():
                ball = span.ball()
                closed = [((x,), value_of_place(function, (x,))) for x in places_of(Span(span.low, span.high))]
                found = run(program, {"x": ball}, 1, "x")[-1]
                _check(name, found, closed, False)
                _quotients(name, found, closed)


@pytest.mark.parametrize(("name", "steps", "function"), TWO, ids=[n for n, _, _ in TWO])
def test_operations_of_two(name: str, steps: list[list[Any]], function: Callable[[Any, Any], Any]) -> None:
    rng = random.Random(name)
    program = [["variable", "x"], ["variable", "y"], *steps]
    with mpmath.workdps(40), bits(160):
        for _ in range(80):
            one, other = random_span(rng), random_span(rng)
            if rng.random() < 0.3:
                other = Span(other.high or arb(2), other.high or arb(2))  # as a number
            if rng.random() < 0.2:
                one = Span(arb(0), arb(0))
            places = rng.sample(list(product(places_of(one), places_of(other))), 25) if len(list(places_of(other))) > 2 else []
            places += [(x, y) for x in list(places_of(one))[:12] for y in list(places_of(other))[:2]]
            seen = [(p, value_of_place(function, p)) for p in places]
            _check(name, run(program, {"x": one, "y": other})[-1], seen, True)
            if one.is_finite() and other.is_finite():
                _check(name, run(program, {"x": one.ball(), "y": other.ball()})[-1], seen, False)


def test_it_is_narrow_enough_to_be_useful() -> None:
    """On narrow boxes away from all breaks the enclosures are hardly wider than the values."""
    with mpmath.workdps(40), bits(160):
        for name, steps, function in ONE:
            if name in ("floor", "ceil", "sign", "(-2)^x", "(0)^x"):
                continue
            for q in (Fraction(7, 10), Fraction(13, 16)):
                middle, radius = arb(fmpq(q.numerator, q.denominator)), arb(2) ** -40
                found = run([["variable", "x"], *steps], {"x": middle + arb(0, 1) * radius}, 1, "x")[-1]
                assert found is not None
                assert found.jet is not None
                assert found.smooth
                slope = abs(mpmath.diff(function, mpmath.mpf(q.numerator) / q.denominator))
                assert float(found.jet[0].rad()) < 16 * (float(slope) + 1) * 2**-40, name
