"""Spans and balls hold all values of an operation and little else, and no end is open that a value reaches; by a slow oracle."""

from __future__ import annotations

from fractions import Fraction
from itertools import product
from typing import Any

from flint import arb
from hypothesis import example, given
from hypothesis import strategies as st

from open_lemma.core.certificate.functions import whole_power
from open_lemma.core.certificate.span import Span

Said = tuple[Any, Any, bool, bool]  # low, high, whether these are left out
NUMBERS = st.integers(-3, 3)
ENDS = st.one_of(st.none(), NUMBERS)
HUGE = 10**9  # stands in for an infinite end


@st.composite
def spans(draw: Any) -> Said:
    low, high = draw(ENDS), draw(ENDS)
    if low is not None and high is not None and low > high:
        low, high = high, low
    alone = low is not None and low == high
    return low, high, not alone and draw(st.booleans()), not alone and draw(st.booleans())


def span(said: Said) -> Span:
    low, high, *opened = said
    return Span(None if low is None else arb(low), None if high is None else arb(high), *opened)


def members(said: Said) -> list[Fraction]:
    """Some numbers of a span: its closed ends, what lies a little inside of the open ones, zero and the middle."""
    low = Fraction(-HUGE if said[0] is None else said[0])
    high = Fraction(HUGE if said[1] is None else said[1])
    tiny = Fraction(1, HUGE)
    found = [low + tiny if said[2] else low, high - tiny if said[3] else high, (low + high) / 2]
    return found + [Fraction(0)] * (low < 0 < high)


def holds(found: Span, x: Fraction) -> bool:
    value = arb(x.numerator) / x.denominator
    above = found.low is None or value > found.low or (not found.low_open and bool(value >= found.low))
    below = found.high is None or value < found.high or (not found.high_open and bool(value <= found.high))
    return bool(above and below)


@given(spans(), spans())
@example((0, 1, True, False), (0, 1, False, False))
@example((-2, -1, False, True), (-1, 3, True, False))
@example((0, 0, False, False), (None, None, False, False))
def test_a_product_holds_all_products_and_is_as_narrow_as_they_are(a: Said, b: Said) -> None:
    found = span(a) * span(b)
    values = [x * y for x, y in product(members(a), members(b))]
    assert all(holds(found, v) for v in values)
    for end, value in ((found.low, min(values)), (found.high, max(values))):
        if end is not None:
            assert abs(float(end) - float(value)) < 1e-6
        else:
            assert abs(value) > HUGE / 4


@given(spans(), spans())
def test_a_closed_end_of_a_product_is_reached(a: Said, b: Said) -> None:
    found = span(a) * span(b)
    values = {x * y for x, y in product(members(a), members(b))}
    for end, is_open in ((found.low, found.low_open), (found.high, found.high_open)):
        if end is not None and not is_open:
            assert Fraction(round(float(end))) in values


@given(spans(), spans())
def test_sums_and_unions_hold_all(a: Said, b: Said) -> None:
    total, both = span(a) + span(b), span(a).union(span(b))
    assert all(holds(total, x + y) for x, y in product(members(a), members(b)))
    assert all(holds(both, x) for x in (*members(a), *members(b)))


@given(spans())
def test_reciprocals_powers_and_magnitudes_hold_all(a: Said) -> None:
    numbers = members(a)
    made = span(a)
    assert all(holds(made.magnitude(), abs(x)) for x in numbers)
    assert all(holds(made.whole_power(n), x**n) for x in numbers for n in (2, 3))
    if made >= 0 or made <= 0:
        assert all(holds(made.reciprocal(), 1 / x) for x in numbers if x)


@given(st.integers(-40, 40), st.integers(0, 40), st.integers(0, 6))
@example(0, 1, 1)
@example(3, 2, 2)
def test_powers_of_balls_hold_all_powers_and_are_as_narrow_as_they_are(low: int, width: int, n: int) -> None:
    found = whole_power(arb(low).union(arb(low + width)), n)
    values = [Fraction(low) + Fraction(width) * k / 4 for k in range(5)]
    powers = [v**n for v in values] + [Fraction(0)] * (n > 0 and low <= 0 <= low + width)
    assert all(found.contains(arb(p.numerator) / p.denominator) for p in powers)
    reach = float(max(powers) - min(powers))
    assert float(found.upper() - found.lower()) <= reach * (1 + 1e-6) + 1e-6


def test_thin_balls_keep_their_digits() -> None:
    thin = arb(3, 1e-30)
    assert float((whole_power(thin, 5)).rad()) < 1e-27
    assert whole_power(arb("nan"), 2).is_finite() is False
