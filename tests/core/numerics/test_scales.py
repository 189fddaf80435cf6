"""The scales of axes: laws that all of them keep, and what sets them apart."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from open_lemma.core.numerics.curves.sampling import PaperView
from open_lemma.core.numerics.curves.scales import LINEAR, LOGARITHMIC, Scale, SignedLogarithmicScale, scale_named

ENDS = st.tuples(st.floats(1e-6, 1e6), st.floats(1.001, 1e3)).map(lambda p: (p[0], p[0] * p[1]))
SCALES = st.one_of(st.just(LINEAR), st.just(LOGARITHMIC), st.floats(1e-3, 1e3).map(SignedLogarithmicScale))
SHARES = st.lists(st.floats(-0.5, 1.5), min_size=2, max_size=20)


@given(SCALES, ENDS, SHARES)
def test_places_and_numbers_go_over_into_each_other(scale: Scale, ends: tuple[float, float], shares: list[float]) -> None:
    numbers = scale.at(np.array(shares), *ends)
    assert scale.shares(numbers, *ends) == pytest.approx(np.array(shares), abs=1e-6)


@given(SCALES, ENDS)
def test_the_ends_lie_at_the_ends(scale: Scale, ends: tuple[float, float]) -> None:
    assert scale.shares(np.array(ends), *ends).tolist() == pytest.approx([0, 1], abs=1e-12)


@given(SCALES, ENDS, SHARES)
def test_larger_numbers_lie_farther_along(scale: Scale, ends: tuple[float, float], shares: list[float]) -> None:
    numbers = scale.at(np.sort(np.array(shares)), *ends)
    assert (np.diff(numbers) >= -1e-12 * np.abs(numbers[1:])).all()


@given(SCALES, ENDS, st.floats(0.05, 0.95))
def test_the_stretch_is_the_slope_of_the_share(scale: Scale, ends: tuple[float, float], share: float) -> None:
    x = float(scale.at(share, *ends))
    h = 1e-5 * abs(x)
    before, after = scale.shares(np.array([x - h, x + h]), *ends)
    assert float(scale.stretch(np.array([x]), *ends)[0]) == pytest.approx((after - before) / (2 * h), rel=1e-3)


def test_powers_of_ten_are_evenly_spread_on_a_logarithmic_scale() -> None:
    assert LOGARITHMIC.shares(np.array([1.0, 10.0, 100.0, 1000.0]), 1, 1000).tolist() == pytest.approx([0, 1 / 3, 2 / 3, 1])
    assert np.isnan(LOGARITHMIC.shares(np.array([-1.0]), 1, 10)).all()
    assert LOGARITHMIC.positive
    assert not LINEAR.positive


def test_a_signed_logarithmic_scale_goes_through_zero_and_is_odd() -> None:
    scale = SignedLogarithmicScale(0.1)
    places = scale.shares(np.array([-100.0, -1.0, 0.0, 1.0, 100.0]), -100, 100)
    assert places.tolist() == pytest.approx([0, 1 - places[3], 0.5, places[3], 1])
    # asinh(x/t) = ln(x/t + sqrt((x/t)^2 + 1)): DLMF 4.37.16
    ratio = (math.log(10 + math.sqrt(101))) / (math.log(1000 + math.sqrt(1e6 + 1)))
    assert places[3] == pytest.approx(0.5 + ratio / 2)


@pytest.mark.parametrize(
    ("name", "positive", "even"), [("linear", False, True), ("logarithmic", True, False), ("signed-logarithmic", False, False)]
)
def test_each_word_of_the_language_has_its_scale(name: str, positive: bool, even: bool) -> None:
    scale = scale_named(name, 2.0)
    assert (scale.positive, scale.even) == (positive, even)
    assert getattr(scale, "threshold", 2.0) == 2.0


def test_a_view_puts_numbers_on_paper_and_reads_them_back() -> None:
    view = PaperView(1, 1000, -1, 1, 300, 200, LOGARITHMIC, LINEAR)
    assert view.x_pt(np.array([10.0, 100.0])).tolist() == pytest.approx([100, 200])
    assert view.y_at(float(view.y_pt(np.array([0.25]))[0])) == pytest.approx(0.25)
