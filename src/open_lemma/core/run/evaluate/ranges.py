"""Ranges: `low to high step s`, `low to high count n`."""

from __future__ import annotations

from fractions import Fraction
from typing import TYPE_CHECKING

import numpy as np

from ...formula import catalogue as c
from ...formula.exact import rational
from ...formula.exact_lists import MAX_EXACT_LIST
from ...formula.units import Unit
from ...language import tree
from ...language.checking.lists import step_message
from ...language.messages import Refused, advise
from ..values import ListValue, Scalar
from .refusals import refusal

if TYPE_CHECKING:
    from .evaluator import Evaluator

MAX_LIST = 5_000_000


def gone_through(scope: Evaluator, window: tree.Window) -> ListValue:
    """The numbers from low to high that a `for` goes through, in steps of 1 where none is said."""
    assert window.low is not None
    assert window.high is not None
    step = window.step if window.step is not None or window.count is not None else tree.Number(window.end, window.end, "1")
    return range_of(scope, tree.Range(window.start, window.end, window.low, window.high, step, window.count))


def range_of(scope: Evaluator, e: tree.Range) -> ListValue:
    """A range as a list, both ends belonging to it; exact where its ends and its step are. Raises Refused."""
    low, high = scope.number(e.low), scope.number(e.high)
    unit = scope.unit(c.subtract(high.formula, low.formula), e)
    if e.count is not None:
        count = scope.number(e.count)
        if count.value != int(count.value) or not 2 <= count.value <= MAX_LIST:
            raise refusal("count", f"a count is a whole number from 2 to {MAX_LIST}, not {count.value:g}", e.count)
        return _even(low, high, int(count.value) - 1, unit)
    assert e.step is not None
    step = scope.number(e.step)
    if step.value == 0:
        raise refusal("step", "a step of 0 leads nowhere", e.step)
    steps = (high.value - low.value) / step.value
    if steps > MAX_LIST:
        raise refusal("list-too-long", f"this list would have {steps:.3g} elements; at most {MAX_LIST} are possible", e)
    exact_low, exact_high, exact_step = (rational(s.formula) for s in (low, high, step))
    if exact_low is not None and exact_high is not None and exact_step is not None:
        message = step_message(exact_low, exact_high, exact_step, e)
        if message is not None:
            raise Refused(message)
    elif steps < 0 or abs(steps - round(steps)) > 1e-9:
        raise refusal(
            "step",
            f"steps of {step.value:g} from {low.value:g} do not end at {high.value:g}; both ends belong to the list",
            e,
            advise("count N instead of step"),
        )
    return _even(low, high, round(steps), unit)


def _even(low: Scalar, high: Scalar, steps: int, unit: Unit | None) -> ListValue:
    """low, …, high in so many equal steps, each element rounded once from its exact value where the ends are exact."""
    a, b = rational(low.formula), rational(high.formula)
    k = np.arange(steps + 1, dtype=float)
    exact = None
    if a is not None and b is not None:
        if steps < MAX_EXACT_LIST:
            exact = tuple(a + (b - a) * Fraction(i, steps) if steps else a for i in range(steps + 1))
        scale = a.denominator * b.denominator * max(steps, 1)
        start = a.numerator * b.denominator * max(steps, 1)
        each = b.numerator * a.denominator - a.numerator * b.denominator
        if max(abs(start), abs(start + each * steps), scale) < 2**53:
            return ListValue((start + each * k) / scale, unit, exact=exact)
    values = low.value + (high.value - low.value) * (k / max(steps, 1))
    values[0], values[-1] = low.value, high.value
    return ListValue(values, unit, exact=exact)
