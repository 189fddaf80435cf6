"""Curves through very many points: as those through few are, in a second; bounds of whole pieces; and curves that go around."""

from __future__ import annotations

import math
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import CubicSpline, PchipInterpolator

from open_lemma.core.formula.many_pieces import ManyPieces
from open_lemma.core.numerics.interpolation.curves import Ends, interpolate
from open_lemma.core.numerics.interpolation.long_curves import integral_of_pieces, interpolate_many
from open_lemma.core.run.execute.interpreter import run

RNG = np.random.default_rng(5)
X = np.sort(RNG.uniform(-3, 9, 60))
Y = np.cumsum(RNG.normal(0, 1, 60))
Y[-1] = Y[0]


@pytest.mark.parametrize("ends", ["not-a-knot", "natural", "clamped", "periodic"])
def test_a_long_spline_is_the_one_of_a_general_library(ends: Ends) -> None:
    found = interpolate_many("s", X, Y, "spline", ends).function
    reference = CubicSpline(X, Y, bc_type=ends)
    places = np.linspace(X[0], X[-1], 997)
    np.testing.assert_allclose(found.numeric(places), reference(places), rtol=1e-9, atol=1e-9)
    np.testing.assert_allclose(found.slope.numeric(places), reference(places, 1), rtol=1e-8, atol=1e-8)
    value, error = integral_of_pieces(found, -2.5, 8.25)
    assert abs(value - reference.integrate(-2.5, 8.25)) < 1e-10
    assert error < 1e-11 * np.abs(Y).max() * 12


def test_long_monotone_and_straight_curves_are_those_of_few_points() -> None:
    exact = [[Fraction(float(v)) for v in a] for a in (X, Y)]
    for kind in ("monotone", "segments"):
        few, many = interpolate("s", *exact, kind), interpolate_many("s", X, Y, kind)  # type: ignore[arg-type]
        for k in range(0, 59, 7):
            ours, theirs = many.function.pieces[k], few.function.pieces[k]
            np.testing.assert_allclose([float(v) for v in ours], [float(v) for v in theirs], rtol=1e-11, atol=1e-11)
    places = np.linspace(X[0], X[-1], 400)
    np.testing.assert_allclose(
        interpolate_many("s", X, Y, "monotone").function.numeric(places), PchipInterpolator(X, Y)(places), atol=1e-12
    )


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10**6), st.integers(0, 3))
def test_bounds_hold_every_value_and_are_narrow(seed: int, derivative: int) -> None:
    rng = np.random.default_rng(seed)
    x = np.cumsum(rng.uniform(1e-3, 2, 12)) * 10.0 ** rng.integers(-3, 4)
    y, slopes = rng.normal(0, 1, 12) * 10.0 ** rng.integers(-3, 4), rng.normal(0, 1, 12)
    pieces = ManyPieces(x, y, slopes, derivative)
    low, high = pieces.bounds()
    for k in range(11):
        row, width = pieces[k], Fraction(float(x[k + 1])) - Fraction(float(x[k]))
        values = [sum(c * (width * i / 40) ** n for n, c in enumerate(row)) for i in range(41)]
        assert Fraction(float(low[k])) <= min(values)
        assert max(values) <= Fraction(float(high[k]))
        size = float(sum(abs(c) * width**n for n, c in enumerate(row)))
        assert float(high[k]) - float(low[k]) <= float(max(values) - min(values)) * 8 + 1e-11 * size + 1e-300 + 4 * size * (derivative < 2)


def test_a_hundred_thousand_points_are_worked_with() -> None:
    script = "xs = 0 to 1000 count 100001\nys = sin(xs)\ns(x) = interpolation of ys against xs, by spline\n"
    found = run(script + "show s(3.21)\nintegral of s(x) for x from 0 to 1000\nroots of s(x) for x from 0 to 7").findings
    value, integral, roots = (f.as_record()["values"] for f in found[1:])
    assert value[0]["value"] == pytest.approx(math.sin(3.21), abs=1e-9)
    assert integral[0]["value"] == pytest.approx(1 - math.cos(1000), abs=1e-6)
    assert [r["x"] for r in roots] == pytest.approx([0, math.pi, 2 * math.pi], abs=1e-8)
    assert {f.as_record()["evidence"] for f in found} == {"checked"}


PERIODIC = "p(t) = interpolation of [0, 1, 0, -1, 0] against [0, 1, 2, 3, 4], by spline, ends periodic\n"


def test_a_periodic_curve_goes_around() -> None:
    outcome = run(PERIODIC + "show p(5), p(-1), p(102.5), p(2.5), p'(5), p'(1)\nroots of p(t) for t from 1 to 9\nroots of p(t)")
    assert not outcome.reading.messages.items
    findings = [f.as_record() for f in outcome.findings]
    values = [f["values"][0]["value"] for f in findings[1:7]]
    assert values == [1, -1, values[3], -0.6875, 0, 0]
    assert {f["evidence"] for f in findings[1:7]} == {"proven"}
    assert [r["x"] for r in findings[7]["values"]] == pytest.approx([2, 4, 6, 8])
    assert findings[8]["evidence"] == "proven"
    assert [r["x"] for r in findings[8]["values"]] == [0, 2, 4]


def test_means_over_whole_periods_are_those_over_one() -> None:
    script = PERIODIC + "mean of p(t)^2 for t from 0 to 4\nmean of p(t)^2 for t from -4 to 12"
    one, many = (f.as_record()["values"][0]["value"] for f in run(script).findings[1:])
    assert many == pytest.approx(one, rel=1e-12)


def test_a_surface_through_data_is_searched_where_the_data_are() -> None:
    places = [(x, y) for x in range(4) for y in range(3)]
    script = f"xs = {[x for x, _ in places]}\nys = {[y for _, y in places]}\nzs = {[(x - 1) * (2 - y) for x, y in places]}\n"
    script += "h(x, y) = interpolation of zs against (xs, ys), by bilinear\nhighest of h(u, v)\nlowest of h(x, y)"
    high, low = (f.as_record()["values"][0] for f in run(script).findings[1:])
    assert (high["value"], high["u"], high["v"]) == (4, 3, 0)
    assert (low["value"], low["x"], low["y"]) == (-2, 0, 0)
