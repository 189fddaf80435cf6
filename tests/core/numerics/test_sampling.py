"""Curves: the printed line is within a tenth of a point, breaks are found and not joined, windows fit."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from bench.sampling import FUNCTIONS, worst_error
from hypothesis import given, settings
from hypothesis import strategies as st

from open_lemma.core.formula.tape import Tape
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.execute.outcome import DrawnFigure
from open_lemma.core.run.values import FunctionValue


def drawn(formula: str, low: float, high: float, more: str = "") -> tuple[DrawnFigure, Any]:
    """The figure of one curve, and the function that was drawn."""
    outcome = run(f"f(x) = {formula}\ncurve of f(x) for x from {low} to {high}{more}")
    assert not outcome.reading.messages.items, [m.text for m in outcome.reading.messages.items]
    value = outcome.names["f"]
    assert isinstance(value, FunctionValue)
    tape = Tape([value.body], ["x"])
    return outcome.figures[0], lambda x: tape.numeric(x)[0]


@pytest.mark.parametrize(("formula", "low", "high"), FUNCTIONS)
def test_the_line_is_within_a_tenth_of_a_point(formula: str, low: float, high: float) -> None:
    figure, function = drawn(formula, low, high)
    series = figure.data.series[0]
    error, joined = worst_error(figure.data, function, series.x, series.y, low, high)
    assert error <= 0.1
    assert not joined
    assert np.isfinite(series.y).sum() <= 3000


@settings(max_examples=40)
@given(st.floats(0.2, 30), st.floats(-2, 2), st.floats(-3, 3), st.floats(-3, 3))
def test_the_promise_holds_for_sums_of_waves_and_peaks(frequency: float, centre: float, a: float, b: float) -> None:
    formula = f"({a!r})*sin({frequency!r}*x) + ({b!r})/(1 + 50*(x - ({centre!r}))^2) + x/10"
    figure, function = drawn(formula, -3, 3)
    series = figure.data.series[0]
    assert worst_error(figure.data, function, series.x, series.y, -3, 3)[0] <= 0.1


def test_a_peak_that_no_grid_would_meet_is_found() -> None:
    figure, _ = drawn("exp(-1e9*(x - 0.123456)^2)", 0, 1)
    assert figure.data.series[0].y.max() > 0.99
    assert figure.data.panels[0].y.high > 1


EDGES = [
    ("sqrt(x)", -1, 4, 0.0), ("x*ln(x)", -1, 5, 0.0), ("asin(x)", 0, 2, 1.0), ("sqrt(2 - x^2)", 0, 2, math.sqrt(2)), ("x^0.5", -1, 1, 0.0),
    ("sqrt(x - 1/3)", 0, 1, 1 / 3), ("acos(x - 0.7)", 0, 3, 1.7),
]  # fmt: skip


@pytest.mark.parametrize(("formula", "low", "high", "edge"), EDGES)
def test_edges_of_the_domain_are_met_to_the_last_digit(formula: str, low: float, high: float, edge: float) -> None:
    figure, _ = drawn(formula, low, high)
    series = figure.data.series[0]
    defined = series.x[np.isfinite(series.y)]
    nearest = defined[np.argmin(np.abs(defined - edge))]
    assert abs(nearest - edge) <= 4e-16 * max(1.0, abs(edge)) or (formula == "x*ln(x)" and abs(nearest) < 1e-100)
    assert any("no value from" in n.text for n in figure.notes)


BREAKS = [
    ("1/x", -3, 3, [0], "grows without bound"),
    ("tan(x)", -6, 6, [-1.5 * math.pi, -0.5 * math.pi, 0.5 * math.pi, 1.5 * math.pi], "grows without bound"),
    ("1/x^2", -2, 2, [0], "grows without bound"),
    ("1/(x^2 - 2)", 0, 3, [math.sqrt(2)], "grows without bound"),
    ("floor(x)", -0.5, 2.5, [0, 1, 2], "jumps at"),
    ("sign(x - 1/3)", 0, 1, [1 / 3], "jumps at"),
    ("atan(1/x)", -1, 1, [0], ""),
    ("square(x)", 0.1, 1.4, [0.5, 1], "jumps at"),
    ("(x^2 - 4)/(x - 2)", 0, 4, [2], "no value at x = 2"),
    ("sin(x)/x", -9, 9, [0], "no value at x = 0"),
]


@pytest.mark.parametrize(("formula", "low", "high", "places", "said"), BREAKS)
def test_poles_jumps_and_holes_are_said_and_not_joined(formula: str, low: float, high: float, places: list[float], said: str) -> None:
    figure, _ = drawn(formula, low, high)
    series = figure.data.series[0]
    for place in places:
        at = int(np.searchsorted(series.x, place))
        gap = slice(max(at - 3, 0), at + 4)
        assert np.isnan(series.y[gap]).any(), place
    assert any(said in n.text for n in figure.notes)


def test_no_note_where_nothing_is_undefined() -> None:
    figure, _ = drawn("x^3 - 2x + 1", -2, 2)
    assert [n.text for n in figure.notes if "window" not in n.text] == []


WINDOWS = [
    ("x^3 - 2x + 1", -1.7, 1.1), ("(x - 50)^2", 40, 60), ("ln(x)", 0.5, 1.5), ("sqrt(1 - x^2)", -1, 1), ("1/(x - 3)", 2, 4),
    ("100/(1 + exp(-(x - 20)/3))", 12, 28), ("tan(x)", -1, 1), ("exp(-x^2)", -2, 2), ("sin(100x)", -0.03, 0.03),
    ("5exp(-((x - 200)/30)^2)", 140, 260), ("exp(-((x - 20)/3)^2)", 14, 26), ("1 - 1/(1 + ((x + 20)/6)^2)", -32, -8),
]  # fmt: skip


@pytest.mark.parametrize(("formula", "low", "high"), WINDOWS)
def test_a_window_that_is_not_given_shows_what_matters_and_is_said(formula: str, low: float, high: float) -> None:
    figure = run(f"curve of {formula}").figures[0]
    x = figure.data.panels[0].x
    assert x.low <= low
    assert high <= x.high
    assert x.high - x.low <= 40 * (high - low)
    assert any("window for x chosen" in n.text for n in figure.notes)


def test_a_pole_does_not_flatten_the_rest() -> None:
    figure = run("curve of 1/x + x for x from -5 to 5").figures[0]
    assert figure.data.panels[0].y.high < 40
    assert any("poles are cut" in n.text for n in figure.notes)


def test_a_logarithmic_axis_is_sampled_as_it_is_printed() -> None:
    script = (
        'figure a:\n    curve of x^2 + sin(x) for x from 1 to 1e6\n    x axis "x", scale logarithmic\n    y axis "y", scale logarithmic'
    )
    figure = run(script).figures[0].data
    series = figure.series[0]
    width = figure.width_mm * 72 / 25.4
    t = np.linspace(0, 6, 100_001)
    true, line = 2 * t, np.interp(t, np.log10(series.x), np.log10(series.y))
    share = width / (math.log10(figure.panels[0].y.high) - math.log10(figure.panels[0].y.low))
    assert np.abs(np.log10(10 ** (2 * t) + np.sin(10**t)) - line).max() * share < 0.3
    assert np.abs(true - line).max() < 0.5


def test_points_outside_the_window_are_said() -> None:
    figure = run('figure a:\n    points of [1, 2, 30] against [1, 2, 3]\n    y axis "y" from 0 to 5').figures[0]
    assert any("1 of 3 points lie outside" in n.text for n in figure.notes)
