"""Curves and surfaces through points: worked examples, SciPy as an independent reference, laws, and what is proven of them."""

from __future__ import annotations

import itertools
import math
import pickle
from fractions import Fraction
from typing import Any

import numpy as np
import pytest
from flint import arb
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import CubicSpline, PchipInterpolator, RBFInterpolator, RectBivariateSpline

from open_lemma.core.formula.ball import doubt, precision
from open_lemma.core.formula.nodes import Apply, Number, Variable
from open_lemma.core.formula.piecewise import PiecewisePolynomial, apart
from open_lemma.core.formula.tape import Tape
from open_lemma.core.numerics.extrema.scan import scanned_places
from open_lemma.core.numerics.integrals.integrals import integral_of
from open_lemma.core.numerics.interpolation.curves import InterpolatedCurve, NotInterpolable, interpolate
from open_lemma.core.numerics.interpolation.surfaces import surface_through
from open_lemma.core.run.execute.interpreter import run


def exactly(values: Any) -> list[Fraction]:
    return [Fraction(str(v)) for v in values]


def curve(xs: Any, ys: Any, *more: Any, **named: Any) -> InterpolatedCurve:
    return interpolate("f", exactly(xs), exactly(ys), *more, **named)


# ---------------------------------------------------------------- worked examples


def test_a_natural_spline_by_hand() -> None:
    """R. L. Burden and J. D. Faires, "Numerical Analysis", 9th ed. 2011, section 3.5, example 1: (1, 2), (2, 3), (3, 5)."""
    found = curve([1, 2, 3], [2, 3, 5], "spline", "natural").function
    quarter = Fraction(1, 4)
    assert found.pieces == ((2, 3 * quarter, 0, quarter), (3, 6 * quarter, 3 * quarter, -quarter))


def test_a_clamped_spline_by_hand() -> None:
    """The same section, example 4: slopes 2 and 1 at the ends."""
    found = curve([1, 2, 3], [2, 3, 5], "spline", "clamped", (Fraction(2), Fraction(1))).function
    half = Fraction(1, 2)
    assert found.pieces == ((2, 2, -5 * half, 3 * half), (3, 3 * half, 2, -3 * half))


def test_a_table_of_bessel_values() -> None:
    """Burden and Faires, section 3.3, example 1: the polynomial through five values of J_0 gives 0.5118200 at 1.5."""
    xs, ys = [1.0, 1.3, 1.6, 1.9, 2.2], [0.7651977, 0.6200860, 0.4554022, 0.2818186, 0.1103623]
    found = curve(xs, ys, "polynomial")
    assert float(found.function.numeric(1.5)) == pytest.approx(0.5118200, abs=5e-8)
    assert found.polynomial is not None
    assert sum(v * Fraction(3, 2) ** k for k, v in enumerate(found.polynomial)) == pytest.approx(0.5118200, abs=5e-8)


def test_the_polynomial_of_runge_swings_and_says_so() -> None:
    """C. Runge, Z. Math. Phys. 46 (1901) 224-243: 1/(1 + x^2) on [-5, 5] at eleven even places."""
    xs = range(-5, 6)
    found = interpolate("f", [Fraction(x) for x in xs], [Fraction(1, 1 + x * x) for x in xs], "polynomial")
    assert any("swings" in n for n in found.notes)
    assert float(found.function.numeric(4.8)) > 1.5  # the function is 0.04 there
    tame = interpolate("f", [Fraction(x) for x in xs], [Fraction(1, 1 + x * x) for x in xs])
    assert abs(float(tame.function.numeric(4.8)) - 1 / (1 + 4.8**2)) < 0.01


# ---------------------------------------------------------------- SciPy as an independent reference


@pytest.mark.parametrize("ends", ["not-a-knot", "natural", "clamped", "periodic"])
@pytest.mark.parametrize("n", [2, 3, 4, 5, 12, 60, 300])
def test_splines_agree_with_scipy(n: int, ends: Any) -> None:
    rng = np.random.default_rng(n)
    x = np.unique(np.round(rng.uniform(0, 10, n + 3), 3))[:n]
    y = np.round(rng.normal(size=len(x)), 3)
    if ends == "periodic":
        y[-1] = y[0]
    other = CubicSpline(x, y, bc_type=ends)
    found = curve(x, y, "spline", ends).function
    at = np.linspace(x[0], x[-1], 501)
    size = max(1.0, float(np.abs(other(at)).max()))
    assert found.numeric(at) == pytest.approx(other(at), abs=1e-11 * size)
    steep = np.abs(other(at, 1)).max()
    assert found.slope.numeric(at) == pytest.approx(other(at, 1), abs=1e-9 * max(1.0, float(steep)))


@pytest.mark.parametrize("n", [3, 4, 20, 200])
def test_monotone_curves_agree_with_scipy(n: int) -> None:
    rng = np.random.default_rng(n)
    x = np.unique(np.round(rng.uniform(0, 10, n), 3))
    y = np.round(rng.normal(size=len(x)), 2)
    at = np.linspace(x[0], x[-1], 501)
    assert curve(x, y, "monotone").function.numeric(at) == pytest.approx(PchipInterpolator(x, y)(at), abs=1e-12)


def test_surfaces_agree_with_scipy() -> None:
    rng = np.random.default_rng(0)
    x, y, z = rng.uniform(0, 1, 30), rng.uniform(0, 1, 30), rng.normal(size=30)
    at = rng.uniform(0, 1, (50, 2))
    plate, kind, _ = surface_through("f", x, y, z, None)
    assert kind == "thin-plate"
    scale = np.array([np.ptp(x), np.ptp(y)])
    other = RBFInterpolator(np.stack([x, y], 1) / scale, z, kernel="thin_plate_spline")(at / scale)
    assert plate.numeric(*at.T) == pytest.approx(other, abs=1e-9)
    xs, ys = np.arange(6.0), np.arange(5.0)
    heights = rng.normal(size=(6, 5))
    px, py = (a.ravel() for a in np.meshgrid(xs, ys, indexing="ij"))
    for name, degree in (("bilinear", 1), ("bicubic", 3)):
        grid, _, _ = surface_through("f", px, py, heights.ravel(), name)  # type: ignore[arg-type]
        spots = rng.uniform(0, 4, (40, 2))
        assert grid.numeric(*spots.T) == pytest.approx(RectBivariateSpline(xs, ys, heights, kx=degree, ky=degree).ev(*spots.T), abs=1e-12)


@pytest.mark.parametrize("kind", ["thin-plate", "bicubic"])
def test_slopes_of_surfaces_are_their_slopes(kind: Any) -> None:
    rng = np.random.default_rng(1)
    px, py = (a.ravel() for a in np.meshgrid(np.arange(5.0), np.arange(4.0), indexing="ij"))
    f, _, _ = surface_through("f", px, py, rng.normal(size=20), kind)
    x, y, h = rng.uniform(0.3, 2.7, 20), rng.uniform(0.3, 2.7, 20), 1e-5
    assert f.slope(0).numeric(x, y) == pytest.approx((f.numeric(x + h, y) - f.numeric(x - h, y)) / (2 * h), abs=1e-6)
    assert f.slope(1).numeric(x, y) == pytest.approx((f.numeric(x, y + h) - f.numeric(x, y - h)) / (2 * h), abs=1e-6)
    twice = f.slope(0).slope(1).numeric(x, y)
    assert twice == pytest.approx((f.slope(0).numeric(x, y + h) - f.slope(0).numeric(x, y - h)) / (2 * h), abs=1e-5)


# ---------------------------------------------------------------- laws

POINTS = st.lists(st.tuples(st.integers(-50, 50), st.integers(-90, 90)), min_size=4, max_size=9, unique_by=lambda p: p[0])
KINDS = ["spline", "segments", "monotone", "polynomial"]


@settings(deadline=None, max_examples=60)
@given(POINTS, st.sampled_from(KINDS))
def test_curves_go_through_their_points_exactly(points: list[tuple[int, int]], kind: Any) -> None:
    found = interpolate("f", [Fraction(x, 7) for x, _ in points], [Fraction(y, 3) for _, y in points], kind).function
    from flint import fmpq

    for x, y in points:
        assert found.scalar(fmpq(x, 7)) == fmpq(y, 3)


@settings(deadline=None, max_examples=40)
@given(POINTS, st.sampled_from(["spline", "monotone"]))
def test_pieces_meet_with_one_slope_and_one_bend(points: list[tuple[int, int]], kind: Any) -> None:
    found = interpolate("f", [Fraction(x) for x, _ in points], [Fraction(y) for _, y in points], kind).function
    for depth in range(found.continuous + 1):
        for k, (left, right) in enumerate(itertools.pairwise(found.pieces)):
            h = found.knots[k + 1] - found.knots[k]
            assert sum(v * h**p for p, v in enumerate(left)) == right[0], (depth, k)
        found = found.slope


@settings(deadline=None, max_examples=40)
@given(POINTS, st.tuples(*[st.integers(-5, 5)] * 4))
def test_a_cubic_is_its_own_spline(points: list[tuple[int, int]], cubic: tuple[int, ...]) -> None:
    xs = [Fraction(x) for x, _ in points]
    found = interpolate("f", xs, [sum((c * x**k for k, c in enumerate(cubic)), Fraction(0)) for x in xs]).function
    for row in found.pieces:
        third = row[3] if len(row) > 3 else 0
        assert third == cubic[3]


@settings(deadline=None, max_examples=40)
@given(st.lists(st.integers(0, 9), min_size=4, max_size=12))
def test_monotone_data_give_a_monotone_curve(rises: list[int]) -> None:
    ys = list(itertools.accumulate(rises))
    found = interpolate("f", [Fraction(k) for k in range(len(ys))], [Fraction(y) for y in ys], "monotone").function
    assert np.all(np.diff(found.numeric(np.linspace(0, len(ys) - 1, 400))) > -1e-12)


@settings(deadline=None, max_examples=80)
@given(POINTS, st.sampled_from(KINDS), st.integers(0, 1000), st.integers(0, 1000))
def test_balls_hold_all_values_and_are_narrow(points: list[tuple[int, int]], kind: Any, a: int, b: int) -> None:
    found = interpolate("f", [Fraction(x) for x, _ in points], [Fraction(y) for _, y in points], kind).function
    low, high = float(found.knots[0]) - 1, float(found.knots[-1]) + 1
    ends = sorted(low + (high - low) * v / 1000 for v in (a, b))
    for function in (found, found.slope):
        with precision(80):
            doubt.begin([])
            ball = function.ball(arb(ends[0]).union(arb(ends[1])))
            inside = function.numeric(np.linspace(*ends, 50))
            slack = 1e-9 * max(1.0, float(np.abs(inside).max()))
            assert float(ball.lower()) <= inside.min() + slack
            assert inside.max() <= float(ball.upper()) + slack
            for x in ends:
                assert float(function.ball(arb(x)).rad()) <= 1e-9 * max(1.0, float(np.abs(inside).max()))


def test_a_jump_in_a_slope_is_noticed() -> None:
    found = curve([0, 1, 2], [0, 1, 0], "segments").function
    doubt.begin([])
    found.slope.ball(arb(0.9).union(arb(1.1)))
    assert doubt.jumps
    doubt.begin([])
    found.ball(arb(0.9).union(arb(1.1)))
    assert not doubt.jumps


def test_taken_apart_it_is_the_same_and_it_can_be_kept() -> None:
    found = curve([0, 1, 2, 4], [0, 1, 0, 2]).function
    call = Apply(found.entry, (Variable("x"),))
    other = Tape([apart(call)], ["x"]).numeric(np.linspace(-1, 5, 50))[0]
    assert other == pytest.approx(found.numeric(np.linspace(-1, 5, 50)))
    again: PiecewisePolynomial = pickle.loads(pickle.dumps(call)).entry.source
    assert (again.knots, again.pieces) == (found.knots, found.pieces)


# ---------------------------------------------------------------- searched: inside of the data, proven

DATA = "ts = 0 to 6 step 1\nys = [0.4, 1.1, 1.3, 0.9, 0.2, -0.4, -0.1]\nf(t) = interpolation of ys against ts, by {}\n"


@pytest.mark.parametrize("kind", ["spline", "segments", "monotone"])
def test_roots_and_extremes_are_proven_and_complete(kind: str) -> None:
    outcome = run(DATA.format(kind) + "a = roots of f(t)\nb = extremes of f(t)\nc = integral of f(t)\nd = inflections of f(t)")
    assert not outcome.failed
    told = {f.name: f for f in outcome.findings}
    assert {told[n].evidence for n in "abc"} == {"proven"}
    assert all(told[n].complete for n in "abd")
    function = outcome.names.find("f").source.result.function  # type: ignore[union-attr]
    at = np.linspace(0, 6, 60_001)
    values = function.numeric(at)
    assert len(told["a"].rows) == int(np.sum(values[1:] * values[:-1] < 0))
    inner = [v["x"] for v in told["b"].rows if v["shape"] != "end"]
    rising = np.sign(np.diff(values))
    turns = at[1:-1][rising[1:] * rising[:-1] < 0]
    assert inner == pytest.approx(turns, abs=2e-4)
    exact = sum(
        (v / (p + 1) * (b - a) ** (p + 1) for a, b, row in zip(function.knots, function.knots[1:], function.pieces, strict=False)
         for p, v in enumerate(row)), Fraction(0),
    )  # fmt: skip
    low, high = (Fraction(v) for v in told["c"].rows[0]["interval"])
    assert low <= exact <= high
    assert float(high - low) < 1e-15


def test_two_curves_through_the_same_points_cross_in_all_of_them() -> None:
    outcome = run(DATA.format("spline") + "g(t) = interpolation of ys against ts, by segments\ncrossings of f(t) and g(t)")
    found = outcome.findings[-1]
    assert [v["x"] for v in found.rows] == [0, 1, 2, 3, 4, 5, 6]
    assert found.evidence == "proven"
    assert found.complete


def test_a_curve_crosses_the_line_between_samples() -> None:
    outcome = run("crossings of t^2/4 and [0.5, 1.5, 0.5, 2] against [0, 1, 2, 3] for t")
    found = outcome.findings[-1]
    # By hand: on [1, 2] t^2/4 = 2.5 - t at t = -2 + sqrt(14); elsewhere the differences keep their signs.
    assert [v["x"] for v in found.rows] == pytest.approx([-2 + math.sqrt(14)], abs=1e-15)
    assert found.complete
    gap = run("crossings of t and [0.5, gap, 0.5, 4] against [0, 1, 2, 3] for t").findings[-1]
    assert any("1 of 4 rows" in n for n in gap.notes)


@pytest.mark.parametrize(
    ("by", "ends", "code"),
    [("spline", "periodic", "not-periodic"), ("smoothing", "not-a-knot", "too-few-points")],
)
def test_refused(by: Any, ends: Any, code: str) -> None:
    with pytest.raises(NotInterpolable) as reason:
        curve([0, 1, 2], [1, 2, 4], by, ends)
    assert reason.value.code == code


def test_points_twice_are_refused_with_the_place() -> None:
    with pytest.raises(NotInterpolable, match=r"x = 1\.5 is given"):
        curve([0, 1.5, 1.5, 2], [1, 2, 4, 3])


# ---------------------------------------------------------------- smoothing


def test_smoothing_meets_the_uncertainties_and_finds_the_curve_in_the_noise() -> None:
    rng = np.random.default_rng(3)
    x = np.linspace(0, 6, 60)
    y = np.sin(x) + rng.normal(0, 0.2, 60)
    found = interpolate("f", exactly(x), exactly(y), "smoothing", errors=[0.2] * 60)
    misfit = (found.function.numeric(x) - y) / 0.2
    assert float(misfit @ misfit) == pytest.approx(60, rel=1e-6)
    for fitted in (found, interpolate("f", exactly(x), exactly(y), "smoothing")):
        assert float(np.sqrt(np.mean((fitted.function.numeric(x) - np.sin(x)) ** 2))) < 0.1
        assert fitted.function.slope.slope.numeric(np.array([0.0, 6.0])) == pytest.approx([0, 0], abs=1e-9)


def test_an_integral_over_many_pieces_is_exact() -> None:
    n = 700
    ys = [Fraction((k * 37) % 11) for k in range(n)]
    found = interpolate("f", [Fraction(k) for k in range(n)], ys, "segments")
    from open_lemma.core.formula.nodes import Number

    whole = integral_of(found.formula(Variable("x")), "x", Number(Fraction(0)), Number(Fraction(n - 1)))
    exact = sum(((a + b) / 2 for a, b in itertools.pairwise(ys)), Fraction(0))
    low, high = (Fraction(v) for v in whole.interval)
    assert whole.evidence == "proven"
    assert low <= exact <= high


def test_the_slopes_of_straight_pieces_over_the_plane() -> None:
    """Bilinear: slopes are constant along each piece; of the highest derivative the usual routine gives nothing."""
    x, y = np.repeat([0.0, 1.0, 3.0], 2), np.tile([0.0, 10.0], 3)
    surface, _, _ = surface_through("h", x, y, 1 + 2 * x + y / 10 + x * y, "bilinear")
    at = np.array([0.3, 2.0]), np.array([4.0, 7.0])
    assert surface.slope(0).numeric(*at) == pytest.approx(2 + at[1])
    assert surface.slope(1).numeric(*at) == pytest.approx(0.1 + at[0])
    assert surface.slope(0).slope(1).numeric(*at) == pytest.approx(1.0)
    assert surface.slope(0).slope(0).numeric(*at) == pytest.approx(0.0)


def test_stationary_places_of_a_surface_without_bounds() -> None:
    """A plate through many points of the monkey's relatives: sin(x) sin(y) has its extremes and saddles at multiples of pi/2."""
    sides = np.linspace(0, 2 * np.pi, 25)
    x, y = (a.ravel() for a in np.meshgrid(sides, sides))
    surface, kind, _ = surface_through("h", x, y, np.sin(x) * np.sin(y), "bicubic")
    assert kind == "bicubic"
    formula = Apply(surface.entry, (Variable("x"), Variable("y")))
    ends = [(Number(Fraction(1, 2)), Number(Fraction(58, 10)))] * 2
    found = scanned_places(formula, ["x", "y"], ends)
    assert found.complete
    inner = [p for p in found.places if not p.border]
    kinds = sorted((p.kind, round(p.values[0] / (np.pi / 2)), round(p.values[1] / (np.pi / 2))) for p in inner)
    assert kinds == [("maximum", 1, 1), ("maximum", 3, 3), ("minimum", 1, 3), ("minimum", 3, 1), ("saddle", 2, 2)]
    for p in inner:
        assert np.array(p.values) / (np.pi / 2) == pytest.approx(np.round(np.array(p.values) / (np.pi / 2)), abs=2e-3)
        assert p.evidence == "checked"


def test_a_plate_is_searched_and_its_border_too() -> None:
    script = (
        "xs = [0, 2, 4, 0, 2, 4, 0, 2, 4, 1, 3]\nys = [0, 0, 0, 2, 2, 2, 4, 4, 4, 1, 3]\n"
        "zs = [0, 0.2, 0, 0.3, -2, 0.2, 0, 0.4, 0.1, -0.8, -0.9]\n"
        "bed(x, y) = interpolation of zs against (xs, ys), by thin-plate\n"
        "minima of bed(x, y) for x from 0 to 4, y from 0 to 4\nlowest of bed(x, y) for x from 0 to 4, y from 0 to 4"
    )
    findings = run(script).findings
    minima, lowest = findings[-2], findings[-1]
    assert minima.evidence == "checked"
    inside = next(v for v in minima.rows if v.get("overall"))
    assert inside["value"] == pytest.approx(lowest.rows[0]["value"], abs=1e-9)
    assert inside["intervals"] == {"x": None, "y": None}
    assert any("no bounds are known" in n for n in minima.notes)
