"""Fits without starts: certified values, published examples, laws, and models whose truth is known."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from open_lemma.core.formula.nodes import Formula
from open_lemma.core.formula.tape import Tape
from open_lemma.core.numerics.fitting.bands import band
from open_lemma.core.numerics.fitting.fit import DataColumn, Fit, NotFittable, Problem, fit
from open_lemma.core.numerics.fitting.model import linear_form, model_of
from open_lemma.core.numerics.fitting.model_comparison import cross_validation, nested
from open_lemma.core.run.execute.interpreter import run

from .reference_fits import LINES, SETS

DIGITS = 10.0  # at least so many of the eleven that are printed


def formula(text: str, *names: str) -> Formula:
    found = run(f"f({', '.join(names)}) = {text}").names.find("f")
    return found.body  # type: ignore[union-attr, no-any-return]


def fitted(text: str, parameters: str, xs: Any, ys: Any, predictors: str = "x", **more: Any) -> Fit:
    names, variables = tuple(parameters.split()), tuple(predictors.split())
    columns = xs if len(variables) > 1 else [xs]
    data = [DataColumn(np.asarray(c, dtype=float)) for c in columns]
    return fit(Problem(formula(text, *variables, *names), variables, names, data, DataColumn(np.asarray(ys, dtype=float)), **more))


def right_digits(value: float, certified: str) -> float:
    truth = float(certified)
    if value == truth:
        return 15.0
    return -math.log10(abs(value - truth) / abs(truth)) if truth else -math.log10(abs(value))


@pytest.mark.parametrize("name", SETS)
def test_certified_nonlinear(name: str) -> None:
    reference = SETS[name]
    found = fitted(reference.model, " ".join(reference.certified), reference.x, reference.y)
    for value, error, (certified, deviation) in zip(found.values, found.standard, reference.certified.values(), strict=True):
        assert right_digits(value, certified) > DIGITS
        assert right_digits(error, deviation) > DIGITS
    assert right_digits(found.quality.squares, reference.squares) > DIGITS
    assert found.evidence == "proven"
    for value, enclosure in zip(found.values, found.enclosures, strict=True):
        assert enclosure is not None
        low, high = (float(v) for v in enclosure)
        assert low <= value <= high
        assert high - low <= 1e-14 * abs(value)


@pytest.mark.parametrize("name", LINES)
def test_certified_linear(name: str) -> None:
    reference = LINES[name]
    predictors = " ".join(f"x{k}" for k in range(1, len(reference.columns) + 1))
    names = " ".join(n for n in (f"b{k}" for k in range(7)) if n in reference.model)
    columns: Any = reference.columns if len(reference.columns) > 1 else reference.columns[0]
    found = fitted(reference.model, names, columns, reference.y, predictors)
    for value, error, (certified, deviation) in zip(found.values, found.standard, reference.certified, strict=True):
        assert right_digits(value, certified) > 13
        assert right_digits(error, deviation) > 13
    assert right_digits(found.quality.spread, reference.spread) > 13
    assert found.quality.r_squared == pytest.approx(float(reference.r_squared), abs=1e-13)
    assert found.overall
    assert found.evidence == "proven"


@pytest.mark.parametrize("name", ["Misra1a", "MGH09", "Rat43"])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_other_seeds_end_at_the_same_place(name: str, seed: int) -> None:
    reference = SETS[name]
    names = tuple(reference.certified)
    problem = Problem(
        formula(reference.model, "x", *names), ("x",), names, [DataColumn(np.array(reference.x))], DataColumn(np.array(reference.y))
    )
    assert fit(problem, seed).values == pytest.approx([float(v) for v, _ in reference.certified.values()], rel=1e-10)


@pytest.mark.parametrize("scale", [1e-7, 1e6])
def test_units_do_not_matter(scale: float) -> None:
    reference = SETS["BoxBOD"]
    found = fitted(reference.model, "b1 b2", np.array(reference.x) * scale, np.array(reference.y) / scale)
    assert found.values * [scale, scale] == pytest.approx([213.80940889, 0.54723748542], rel=1e-9)


def test_the_best_line_with_uncertainties_in_both_directions() -> None:
    """The data of K. Pearson (1901) with the weights of D. York, Canad. J. Phys. 44 (1966) 1079-1086; the answer as given there."""
    x = [0, 0.9, 1.8, 2.6, 3.3, 4.4, 5.2, 6.1, 6.5, 7.4]
    y = [5.9, 5.4, 4.4, 4.6, 3.5, 3.7, 2.8, 2.8, 2.4, 1.5]
    of_x = np.array([1000, 1000, 500, 800, 200, 80, 60, 20, 1.8, 1]) ** -0.5
    of_y = np.array([1, 1.8, 4, 8, 20, 20, 70, 70, 100, 500]) ** -0.5
    found = fitted("a + b*x", "a b", x, y, errors=DataColumn(of_y), x_errors=DataColumn(of_x))
    assert found.values == pytest.approx([5.4799, -0.4805], abs=5e-5)
    assert found.quality.chi is not None
    assert found.quality.chi == pytest.approx(11.8663 / 8, abs=2e-4)


ANSCOMBE_X = [10, 8, 13, 9, 11, 14, 6, 4, 12, 7, 5]
ANSCOMBE = {
    "plain": (ANSCOMBE_X, [8.04, 6.95, 7.58, 8.81, 8.33, 9.96, 7.24, 4.26, 10.84, 4.82, 5.68]),
    "curved": (ANSCOMBE_X, [9.14, 8.14, 8.74, 8.77, 9.26, 8.10, 6.13, 3.10, 9.13, 7.26, 4.74]),
    "outlier": (ANSCOMBE_X, [7.46, 6.77, 12.74, 7.11, 7.81, 8.84, 6.08, 5.39, 8.15, 6.42, 5.73]),
    "one point": ([8, 8, 8, 8, 8, 8, 8, 19, 8, 8, 8], [6.58, 5.76, 7.71, 8.84, 8.47, 7.04, 5.25, 12.50, 5.56, 7.91, 6.89]),
}


@pytest.mark.parametrize("name", ANSCOMBE)
def test_four_sets_alike_in_their_numbers_are_told_apart(name: str) -> None:
    """F. J. Anscombe, "Graphs in statistical analysis", Amer. Statistician 27 (1973) 17-21: one line, four stories."""
    x, y = ANSCOMBE[name]
    found = fitted("a + b*x", "a b", x, y)
    assert found.values == pytest.approx([3.0, 0.5], abs=0.003)
    assert found.standard == pytest.approx([1.12, 0.118], abs=0.006)
    words = " ".join(found.pattern.words)
    assert ("a term is missing" in words) is (name == "curved")
    assert ("far off" in words) is (name == "outlier")
    carried = found.influence is not None and found.influence.leverage > 0.99
    assert carried is (name == "one point")
    if carried:
        assert found.influence is not None
        assert found.influence.row == 8


# ---------------------------------------------------------------- models of the trade, with noise that is known

TRADE: list[tuple[str, dict[str, float], tuple[float, float]]] = [
    ("a + b*x", {"a": 2, "b": -1}, (0, 10)),
    ("A*exp(-k*x) + c", {"A": 3, "k": 0.7, "c": 1}, (0, 6)),
    ("C*(x - x0)^n", {"C": 1.8, "x0": 0.05, "n": 1.6}, (0.1, 2)),
    ("A*exp(-(x - m)^2/(2*s^2)) + b", {"A": 5, "m": 430, "s": 12, "b": 0.5}, (380, 480)),
    ("A/(1 + ((x - m)/w)^2) + b", {"A": 5, "m": 3, "w": 0.3, "b": 0.5}, (0, 8)),
    ("A*exp(-k*x)*cos(w*x + p)", {"A": 2, "k": 0.2, "w": 5, "p": 0.4}, (0, 10)),
    ("L/(1 + exp(-k*(x - m)))", {"L": 100, "k": 0.4, "m": 20}, (0, 50)),
    ("V*x/(K + x)", {"V": 12, "K": 3}, (0.1, 30)),
    ("A*exp(-k*x) + B*exp(-q*x)", {"A": 3, "k": 0.3, "B": 2, "q": 2}, (0, 8)),
    ("a*erf((x - m)/s) + c", {"a": 2, "m": 3, "s": 1.2, "c": 1}, (0, 6)),
    ("A*exp(-(x/t)^n)", {"A": 2, "t": 30, "n": 0.6}, (0.1, 300)),
    ("exp(a + b*x)", {"a": 1, "b": -0.3}, (0, 9)),
]


@pytest.mark.parametrize("noise", [1e-3, 0.1])
@pytest.mark.parametrize(("text", "truth", "span"), TRADE, ids=[t[0] for t in TRADE])
def test_models_of_the_trade(text: str, truth: dict[str, float], span: tuple[float, float], noise: float) -> None:
    x = np.linspace(*span, 60)
    names = tuple(truth)
    model = formula(text, "x", *names)
    plain = np.broadcast_to(Tape([model], ["x", *names]).numeric(x, *(np.full(1, float(v)) for v in truth.values()))[0], x.shape)
    y = plain + np.random.default_rng(7).normal(0, noise * np.std(plain), x.size)
    found = fitted(text, " ".join(names), x, y)
    # The best is at least as good as the truth, and the truth lies where the standard errors say.
    assert found.quality.squares <= float(np.sum((y - plain) ** 2)) * (1 + 1e-9)
    away = (found.values - list(truth.values())) / found.standard
    assert np.all(np.abs(away) < 4.5)
    assert found.evidence == "proven"


@settings(deadline=None, max_examples=25)
@given(st.integers(0, 10_000), st.floats(0.2, 5), st.floats(-3, 3))
def test_shifting_and_stretching_the_values_does_the_same_to_a_line(seed: int, factor: float, shift: float) -> None:
    rng = np.random.default_rng(seed)
    x = np.sort(rng.uniform(0, 10, 12))
    y = 1 + 2 * x + rng.normal(0, 1, 12)
    one, other = (fitted("a + b*x", "a b", x, v) for v in (y, factor * y + shift))
    assert other.values == pytest.approx([factor * one.values[0] + shift, factor * one.values[1]], rel=1e-9, abs=1e-9)
    assert other.standard == pytest.approx(factor * one.standard, rel=1e-9)


def test_intervals_hold_the_truth_as_often_as_they_say() -> None:
    """Of 300 noisy lines and curves about 95 % of the intervals hold the true parameter."""
    rng = np.random.default_rng(3)
    x = np.linspace(0, 4, 15)
    held = total = 0
    for _ in range(150):
        found = fitted("A*exp(-k*x)", "A k", x, 2 * np.exp(-0.8 * x) + rng.normal(0, 0.05, 15))
        held += sum(i.low <= v <= i.high for i, v in zip(found.intervals, (2, 0.8), strict=True))
        total += 2
    assert 0.91 < held / total < 0.985


def test_a_curved_problem_has_intervals_along_its_profile() -> None:
    """Bates and Watts 1988, example "BOD": A1.4 data, the 95 % profile interval of the rate is open or far from symmetric."""
    found = fitted("a*(1 - exp(-k*x))", "a k", [1, 2, 3, 4, 5, 7], [8.3, 10.3, 19.0, 16.0, 15.6, 19.8])
    assert found.values == pytest.approx([19.143, 0.5311], abs=2e-3)
    assert found.standard == pytest.approx([2.496, 0.203], abs=2e-3)
    rate = found.intervals[1]
    assert rate.profile
    assert rate.high - found.values[1] > 1.5 * (found.values[1] - rate.low)
    for place, rise in rate.profile:
        # Each point of the profile is the least sum of squares with the rate held there.
        held = fitted(f"a*(1 - exp(-{place!r}*x))", "a", [1, 2, 3, 4, 5, 7], [8.3, 10.3, 19.0, 16.0, 15.6, 19.8])
        unit = found.quality.spread**2 * found.half_width**2
        assert held.quality.squares == pytest.approx(found.quality.squares + rise * unit, rel=1e-6)


def test_points_far_off_do_not_carry_a_fit_with_another_loss() -> None:
    x = np.arange(21.0)
    y = 2 + 0.5 * x + np.random.default_rng(1).normal(0, 0.1, 21)
    clean = fitted("a + b*x", "a b", np.delete(x, 17), np.delete(y, 17))
    y[17] += 30
    plain = fitted("a + b*x", "a b", x, y)
    assert abs(plain.values[1] - 0.5) > 0.1
    for loss in ("huber", "cauchy", "absolute"):
        found = fitted("a + b*x", "a b", x, y, loss=loss)
        assert found.values == pytest.approx([2, 0.5], abs=0.12)
        assert found.standard[1] == pytest.approx(clean.standard[1], rel=0.35)
        assert found.evidence == "checked"


def test_least_absolute_deviations_go_through_points() -> None:
    """A line of least absolute deviations goes through at least two points (a vertex of a linear program)."""
    rng = np.random.default_rng(2)
    x, y = np.arange(11.0), rng.normal(0, 1, 11)
    found = fitted("a + b*x", "a b", x, y, loss="absolute")
    assert np.sort(np.abs(found.residuals))[1] < 1e-6
    best = min(float(np.sum(np.abs(y - y[i] - (y[j] - y[i]) / (x[j] - x[i]) * (x - x[i])))) for i in range(11) for j in range(i))
    assert float(np.sum(np.abs(found.residuals))) == pytest.approx(best, rel=1e-6)


# ---------------------------------------------------------------- refused, limited, started


@pytest.mark.parametrize(
    ("text", "names", "x", "y", "code"),
    [
        ("a + b*x", "a b", [0, 1], [1, 2], "too-few-points"),
        ("a*b*x", "a b", [0, 1, 2], [1, 2, 4], "not-determined"),
        ("a*b*exp(-k*x)", "a b k", np.arange(9.0), np.exp(-np.arange(9.0) / 3) + 0.01 * (np.arange(9) % 2), "not-determined"),
        ("a + b*x", "a b", [1, 1, 1], [1, 2, 4], "not-determined"),
        ("a*ln(x)", "a", [-1, 1, 2], [1, 2, 4], "no-value"),
    ],
)
def test_refused(text: str, names: str, x: Any, y: Any, code: str) -> None:
    with pytest.raises(NotFittable) as reason:
        fitted(text, names, x, y)
    assert reason.value.code == code


def test_limits_hold_and_are_told() -> None:
    x = np.linspace(0.1, 1, 20)
    y = 2 * x**1.5 + np.random.default_rng(0).normal(0, 0.01, 20)
    free = fitted("C*x^n", "C n", x, y)
    inside = fitted("C*x^n", "C n", x, y, limits={"n": (1.0, 2.0)})
    assert inside.values == pytest.approx(free.values, rel=1e-8)
    assert inside.at_limit == []
    edge = fitted("C*x^n", "C n", x, y, limits={"n": (1.7, 3.0)})
    assert edge.at_limit == ["n"]
    assert edge.values[1] == 1.7
    assert edge.values[0] == pytest.approx(float(np.sum(y * x**1.7) / np.sum(x**3.4)), rel=1e-9)


def test_a_start_leads_to_the_place_next_to_it() -> None:
    x = np.linspace(0, 10, 60)
    y = np.sin(2.2 * x) + 0.3 * np.sin(5.1 * x)
    best = fitted("A*sin(w*x)", "A w", x, y)
    assert best.values[1] == pytest.approx(2.2, abs=0.02)
    started = fitted("A*sin(w*x)", "A w", x, y, starts={"w": 5.0})
    assert started.values[1] == pytest.approx(5.1, abs=0.1)
    assert started.quality.squares > best.quality.squares


def test_the_linear_parameters_are_found() -> None:
    cases = {
        "A*exp(-k*x) + B": ({"A", "B"}, {}),
        "exp(a + b*x) + c": ({"a", "c"}, {"a": 1.0}),
        "a*(1 + b*x)": ({"a"}, {}),
        "(a + b*x)/(1 + c*x)": ({"a", "b"}, {}),
        "a*x^n": ({"a"}, {}),
        "a*b*x": ({"a"}, {}),
        "exp(a*x) + exp(-a)": (set(), {}),
    }
    for text, (linear, logarithms) in cases.items():
        names = [n for n in "abcABkn" if n in text.replace("exp", "")]
        model = model_of(formula(text, "x", *names), ("x",), names)
        assert set(model.linear) == linear, text
        assert model.logarithms == logarithms, text
    form = linear_form(formula("2*a - b/3 + x", "x", "a", "b"), frozenset({"a", "b"}))
    assert form is not None
    assert {n: float(Tape([f], []).numeric()[0]) for n, f in form[0].items()} == {"a": 2.0, "b": pytest.approx(-1 / 3)}


def test_like_terms_come_in_one_order_and_angles_within_half_a_turn() -> None:
    x = np.linspace(0, 20, 80)
    y = 1.5 * np.cos(3 * x + 2.5) + 0.4 * np.cos(1.2 * x - 1) + 0.01 * np.cos(11 * x)
    one = fitted("A*cos(w*x + p) + B*cos(v*x + q)", "A w p B v q", x, y)
    other = fitted("B*cos(v*x + q) + A*cos(w*x + p)", "B v q A w p", x, y)
    assert one.values == pytest.approx([0.4, 1.2, -1, 1.5, 3, 2.5], abs=0.02)
    assert other.values == pytest.approx(one.values, rel=1e-9)


@pytest.mark.parametrize(
    ("text", "names", "values"),
    [
        ("a*exp(-x/T) + b*exp(-x/S)", "a T b S", [0.7, 9.0, 1.8, 1.5]),
        ("a*exp(-r*x) + b*exp(-s*x)", "a r b s", [0.7, 1 / 9, 1.8, 1 / 1.5]),
        ("a*cos(2*pi*x/P) + b*cos(2*pi*x/Q)", "a P b Q", [1.1, 7.3, 0.6, 2.9]),
    ],
)
def test_of_like_terms_the_slowest_comes_first(text: str, names: str, values: list[float]) -> None:
    x = np.linspace(0, 24, 90)
    model = formula(text, "x", *names.split())
    y = Tape([model], ["x", *names.split()]).numeric(x, *(np.full(1, v) for v in values))[0]
    assert fitted(text, names, x, np.round(y, 6)).values == pytest.approx(values, rel=1e-4)


# ---------------------------------------------------------------- bands, and judging models


@pytest.mark.parametrize("rate", [0.1, 0.66])
def test_long_data_give_the_digits_of_an_orthogonal_triangle(rate: float) -> None:
    """Against NumPy's QR of all the slopes at once, at the answer; 0.66 beside 0.7 makes the slopes nearly alike."""
    x = np.linspace(0, 10, 150_000)
    noise = np.random.default_rng(2).normal(0, 0.01, x.size)
    y = 2.5 * np.exp(-0.7 * x) + 1.3 * np.exp(-rate * x) + noise
    found = fitted("a*exp(-b*x) + c*exp(-d*x)", "a b c d", x, y)
    a, b, c, d = found.values
    slopes = np.stack([np.exp(-b * x), -a * x * np.exp(-b * x), np.exp(-d * x), -c * x * np.exp(-d * x)], axis=1)
    residuals = y - a * slopes[:, 0] - c * slopes[:, 2]
    frame, upper = np.linalg.qr(slopes)
    step = np.linalg.solve(upper, frame.T @ residuals)
    inverse = np.linalg.inv(upper)
    errors = np.sqrt((inverse**2).sum(1) * (residuals @ residuals) / (x.size - 4))
    assert found.standard == pytest.approx(errors, rel=1e-10)
    assert np.all(np.abs(step) < 1e-8 * errors), "a step is left that matters"


@pytest.mark.parametrize("frequency", [0.9, 2.3])
def test_of_waves_that_the_readings_cannot_tell_apart_the_slowest_is_taken(frequency: float) -> None:
    """Sampled every 0.25, a wave of angular frequency w and one of 2 pi / 0.25 - w give the same readings (Nyquist's theorem)."""
    t = np.arange(0, 20, 0.25)
    y = 1.4 * np.exp(-0.08 * t) * np.cos(frequency * t + 0.6) + np.random.default_rng(5).normal(0, 0.01, t.size)
    found = fitted("A*exp(-k*x)*cos(w*x + p)", "A k w p", t, y)
    assert abs(found.values[2]) == pytest.approx(frequency, rel=2e-3)


def test_bands_are_those_of_the_textbook_for_a_line() -> None:
    """Draper and Smith 1998, equations (3.1.8), (3.1.10), worked out by their sums."""
    from scipy import stats

    rng = np.random.default_rng(4)
    x = rng.uniform(0, 10, 14)
    y = 1 + 0.7 * x + rng.normal(0, 0.4, 14)
    found = fitted("a + b*x", "a b", x, y)
    t = stats.t.ppf(0.975, 12)
    s, sxx = found.quality.spread, float(np.sum((x - x.mean()) ** 2))
    at = np.array([0.0, 3.0, 12.0])
    for new_point in (False, True):
        low, high = (np.asarray(Tape([f], ["x"]).numeric(at)[0]) for f in band(found, new_point))
        half = t * s * np.sqrt((1.0 if new_point else 0.0) + 1 / 14 + (at - x.mean()) ** 2 / sxx)
        assert (high - low) / 2 == pytest.approx(half, rel=1e-9)
        assert (high + low) / 2 == pytest.approx(found.values[0] + found.values[1] * at, rel=1e-12)


def test_points_left_out_are_predicted() -> None:
    rng = np.random.default_rng(5)
    x = np.linspace(0, 5, 12)
    y = 1 + x + rng.normal(0, 0.2, 12)
    found = fitted("a + b*x", "a b", x, y)
    slow = []
    for k in range(12):
        kept = np.delete(np.arange(12), k)
        part = fitted("a + b*x", "a b", x[kept], y[kept])
        slow.append(y[k] - part.values[0] - part.values[1] * x[k])
    assert cross_validation(found) == pytest.approx(float(np.sqrt(np.mean(np.square(slow)))), rel=1e-9)
    curved = fitted("A*exp(k*x)", "A k", x, y)
    assert cross_validation(curved) == pytest.approx(0.4, abs=0.3)


def test_special_cases_are_recognised() -> None:
    x = np.linspace(0.5, 5, 20)
    y = 2 * np.exp(-0.5 * x) + 0.3 + np.random.default_rng(6).normal(0, 0.01, 20)
    line, square = fitted("a + b*x", "a b", x, y), fitted("a + b*x + c*x^2", "a b c", x, y)
    decay, raised = fitted("A*exp(-k*x)", "A k", x, y), fitted("A*exp(-k*x) + c", "A k c", x, y)
    assert nested(line, square)
    assert nested(decay, raised)
    assert not nested(square, line)
    assert not nested(decay, square)
    assert nested(line, raised)  # the limit of a slow decay
    assert not nested(line, decay)
