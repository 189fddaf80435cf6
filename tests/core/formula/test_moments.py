"""Mean and standard deviation, against sets of decimals whose values are known, and against exact sums."""

from __future__ import annotations

import math
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from open_lemma.core.formula.moments import exact_variance, mean, sd, variance
from open_lemma.core.run.execute.interpreter import run


@pytest.mark.parametrize("base", [1, 1_000_000, 10_000_000])
def test_small_spread_about_a_large_mean(base: int) -> None:
    """NIST Statistical Reference Datasets, univariate: NumAcc2, NumAcc3 and NumAcc4 (1,001 values about base + 0.2; sd 0.1)."""
    xs = np.array([base + 0.2, *[base + 0.1, base + 0.3] * 500])
    assert mean(xs) == base + 0.2
    assert sd(xs) == 0.1
    assert float(np.std(xs, ddof=1)) != 0.1, "the plain formula gives this too: the case says nothing"


def test_exact_lists_give_proven_values() -> None:
    """NIST Statistical Reference Datasets, univariate: NumAcc1."""
    outcome = run("xs = [10000001, 10000003, 10000002]\nshow mean(xs)\nshow sd(xs)\nshow variance(xs)\nshow sd([1, 2, 4])")
    assert [f.rows[0]["value"] for f in outcome.findings] == [10000002, 1, 1, math.sqrt(7 / 3)]
    assert {f.evidence for f in outcome.findings} == {"proven"}


def oracle(xs: list[float]) -> Fraction:
    exact = [Fraction(repr(x)) for x in xs]
    centre = sum(exact) / len(xs)
    return sum((x - centre) ** 2 for x in exact) / (len(xs) - 1)


@given(st.integers(0, 9), st.lists(st.integers(-(10**9), 10**9), min_size=2, max_size=30))
def test_decimals_are_taken_as_written(digits: int, whole: list[int]) -> None:
    xs = [k / 10**digits for k in whole]
    assert exact_variance(np.array(xs)) == oracle(xs)
    assert mean(np.array(xs)) == float(sum(Fraction(repr(x)) for x in xs) / len(xs))


@given(st.lists(st.floats(-1e9, 1e9, allow_subnormal=False), min_size=2, max_size=30))
def test_other_values_within_rounding(xs: list[float]) -> None:
    exact = [Fraction(x) for x in xs]
    centre = sum(exact) / len(xs)
    truth = float(sum((x - centre) ** 2 for x in exact) / (len(xs) - 1))
    # The doubles of a decimal differ from it by half a unit of the last place.
    rounding = 1e-15 * max(abs(x) for x in xs)
    assert variance(np.array(xs)) == pytest.approx(truth, rel=1e-9, abs=4 * rounding * (math.sqrt(truth) + rounding))


def test_whole_numbers_too_large_for_one_word_of_squares() -> None:
    xs = np.arange(0, 4e15, 1e12)
    assert variance(xs) == float(oracle(xs.tolist()))


def test_one_value_has_no_spread() -> None:
    assert math.isnan(variance(np.array([3.0])))
