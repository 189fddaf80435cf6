"""Uncertainties noun by noun: against Monte Carlo over closed forms (JCGM 101:2008), correlations, budgets, comparisons."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import pytest

from open_lemma.core.run.execute.interpreter import run

A, B = (2.0, 0.02), (1.5, 0.015)  # value and standard uncertainty
SOURCES = "a = 2 ± 0.02\nb = 1.5 +/- 0.015\n"
DRAWS = 40_000
WITHIN = 0.02  # of the spread of the draws: the issue of random numbers alone is 0.4 %


def found(script: str) -> dict[str, Any]:
    outcome = run(script)
    assert outcome.findings, [m.text for m in outcome.reading.messages.items]
    return outcome.findings[-1].as_record()


def spread(answer: Callable[[Any, Any], Any]) -> float:
    rng = np.random.default_rng(7)
    return float(np.std(answer(rng.normal(*A, DRAWS), rng.normal(*B, DRAWS))))


# Each answer in closed form, worked out by hand.
NOUNS: list[tuple[str, str, Callable[[Any, Any], Any]]] = [
    ("roots of x^2 - a for x from 0 to 5", "x", lambda a, _: np.sqrt(a)),
    ("roots of x^3 - b for x, near 1", "x", lambda _, b: np.cbrt(b)),
    ("crossings of a*x and b - x for x from 0 to 5", "x", lambda a, b: b / (a + 1)),
    ("crossings of a*x and b - x for x from 0 to 5", "value", lambda a, b: a * b / (a + 1)),
    ("solution of a*x = b for x", "x", lambda a, b: b / a),
    ("solution of x + y = a, x - y = b for x, y", "y", lambda a, b: (a - b) / 2),
    ("solution of x^2 < a for x", "high", lambda a, _: np.sqrt(a)),
    ("integral of a*x^2 + b for x from 0 to 2", "value", lambda a, b: 8 * a / 3 + 2 * b),
    ("integral of x^2 for x from 0 to a", "value", lambda a, _: a**3 / 3),
    ("integral of a*x*y for x from 0 to b, y from 0 to 1", "value", lambda a, b: a * b**2 / 4),
    ("mean of b*exp(-a*x) for x from 0 to 1", "value", lambda a, b: b * (1 - np.exp(-a)) / a),
    ("area of a*x and x^2 for x from 0 to 1", "value", lambda a, _: a / 2 - 1 / 3),
    ("length of a*x for x from 0 to b", "value", lambda a, b: b * np.sqrt(1 + a**2)),
    ("centroid of a - x for x from 0 to 1", "x", lambda a, _: (a / 2 - 1 / 3) / (a - 0.5)),
    ("lowest of (x - a)^2 + b*x for x from -5 to 5", "value", lambda a, b: a * b - b**2 / 4),
    ("lowest of (x - a)^2 + b*x for x from -5 to 5", "x", lambda a, b: a - b / 2),
    ("highest of b*x*exp(-a*x) for x from 0 to 5", "value", lambda a, b: b / (a * np.e)),
    ("minima of x^4 - a*x^2 for x from 0.1 to 5", "x", lambda a, _: np.sqrt(a / 2)),
    ("maxima of b - (x - a)^2 for x from -5 to 5", "value", lambda _, b: b),
    ("minima of x^3 - 3*a^2*x for x from 0.1 to 5", "value", lambda a, _: -2 * a**3),
    ("minima of (x - a)^2 + (y - b)^2 + x*y/4 for x from -5 to 5, y from -5 to 5", "x", lambda a, b: (64 * a - 8 * b) / 63),
    ("inflections of x^3 - a*x^2 for x from -3 to 3", "x", lambda a, _: a / 3),
    ("limit of sin(a*x)/(b*x), at 0", "value", lambda a, b: a / b),
    ("sum of b*(a/4)^k for k from 0 to infinity", "value", lambda a, b: b / (1 - a / 4)),
    ("derivative of a*x^3 for x, at b", "value", lambda a, b: 3 * a * b**2),
    ("show a^2*b - sin(a/b)", "value", lambda a, b: a**2 * b - np.sin(a / b)),
]  # fmt: skip


@pytest.mark.parametrize(("request_", "field", "answer"), NOUNS, ids=[f"{n[0]} | {n[1]}" for n in NOUNS])
def test_each_noun_against_monte_carlo(request_: str, field: str, answer: Callable[[Any, Any], Any]) -> None:
    row = found(SOURCES + request_)["values"][0]
    error = (row.get("errors") or {}).get(field, row.get("standard_error"))
    assert error == pytest.approx(spread(answer), rel=WITHIN)
    assert row[field] == pytest.approx(float(answer(A[0], B[0])), rel=1e-9)


@pytest.mark.parametrize(
    "script",
    [
        "show a - a",
        "r = roots of x^2 - a for x from 0 to 5\nshow r - sqrt(a)",
        "r = roots of x^3 - a*x - b for x from 0 to 5\nshow r^3 - a*r - b",
        "q = integral of x^2 + a for x from 0 to 2\nshow q - 2*a",
        "m = lowest of (x - a)^2 + b*x for x from -5 to 5\nshow m.value - (a*b - b^2/4)",
        "c = crossings of a*x and b - x for x from 0 to 5\nshow a*c - c.value",
    ],
)
def test_what_cancels_is_exact(script: str) -> None:
    assert found(SOURCES + script)["values"][0].get("standard_error", 0.0) == 0.0


def test_sources_of_equal_numbers_are_independent() -> None:
    row = found("a = 1 ± 0.1\nb = 1 ± 0.1\nshow a - b")["values"][0]
    assert row["standard_error"] == pytest.approx(0.1 * np.sqrt(2), rel=1e-12)


DATA = "xs = [1, 2, 3, 4, 5, 6]\nys = [2.1, 3.9, 6.2, 7.8, 10.1, 11.9]\nf(x) = fit of p + k*x to ys against xs\n"


def test_the_covariance_of_a_fit_is_kept() -> None:
    """The root of a fitted line, against least squares and the law of propagation in NumPy (JCGM 100:2008, equation (13))."""
    x, y = np.arange(1.0, 7.0), np.array([2.1, 3.9, 6.2, 7.8, 10.1, 11.9])
    design = np.vander(x, 2, increasing=True)
    (p, k), squares = np.linalg.lstsq(design, y, rcond=None)[:2]
    covariance = np.linalg.inv(design.T @ design) * squares[0] / 4
    root = (5 - p) / k
    slope = np.array([-1 / k, -(5 - p) / k**2])
    expected = float(np.sqrt(slope @ covariance @ slope))
    row = found(DATA + "roots of f(x) - 5 for x from 0 to 6")["values"][0]
    assert row["x"] == pytest.approx(root, rel=1e-9)
    assert row["standard_error"] == pytest.approx(expected, rel=1e-6)
    # The height at the root is known exactly; what else is made of both keeps their correlation.
    assert found(DATA + "z = roots of f(x) - 5 for x from 0 to 6\nshow f(z)")["values"][0]["standard_error"] == 0
    product = found(DATA + "z = roots of f(x) - 5 for x from 0 to 6\nshow f.k*z")["values"][0]["standard_error"]
    assert product == pytest.approx(float(np.sqrt(covariance[0, 0])), rel=1e-6)  # k z = 5 - p


def test_units_go_with_uncertainties() -> None:
    told = found("L = 1.20 ± 0.01 [m]\ng = 9.81 ± 0.02 [m/s^2]\nT = 2*pi*sqrt(L/g)\nshow T")
    assert told["short"] == "(2.1975 ± 0.0094) s"
    assert found("d = 2.50 ± 0.05 [cm]\nshow d + 1 [m]")["short"] == "(102.500 ± 0.050) cm"
    assert found("d = 2.50 [cm] ± 0.5 [mm]\nshow d")["short"] == "(2.500 ± 0.050) cm"


def test_budgets_share_out_the_whole() -> None:
    told = found("L = 1.20 ± 0.01 [m]\ng = 9.81 ± 0.02 [m/s^2]\nbudget of 2*pi*sqrt(L/g)")
    rows = told["values"]
    assert [row["source"] for row in rows] == ["L", "g"]
    assert sum(row["share"] for row in rows) == pytest.approx(1)
    # Relative variances of a product of powers: a quarter of those of L and of g (JCGM 100:2008, 5.1.6).
    parts = [(0.01 / 1.2) ** 2, (0.02 / 9.81) ** 2]
    assert rows[0]["share"] == pytest.approx(parts[0] / sum(parts), rel=1e-9)
    assert [row["source"] for row in found(DATA + "budget of f(3)")["values"]] == ["f (p, k)"]


@pytest.mark.parametrize(
    ("check", "passed", "words"),
    [
        ("check a > 1.9", True, "5 times"),
        ("check a < 1.9", False, "5 times"),
        ("check a = 2.01, within 0.05", True, "0.5 times"),
    ],
)
def test_comparisons_say_how_far_apart_and_are_never_proven(check: str, passed: bool, words: str) -> None:
    told = found(SOURCES + check)
    assert told["values"][0]["passed"] is passed
    assert told["evidence"] == "checked"
    assert f"{words} the standard uncertainty" in told["summary"]


def test_where_first_order_is_not_enough_that_is_said() -> None:
    notes = found("a = 2 ± 0.4\nmean of sin(a*x) for x from 0 to 1")["notes"]
    assert any("first order is not enough" in n and "95 %" in n for n in notes)
    assert found("a = 2 ± 0.4\nmean of sin(a*x) for x from 0 to 1")["notes"] == notes  # drawn with a fixed seed
    assert not any("first order" in n for n in found(SOURCES + "mean of sin(a*x) for x from 0 to 1")["notes"])


def test_two_digits_of_the_uncertainty_are_shown() -> None:
    assert found("a = 2 ± 0.0996\nshow a")["short"] == "2.00 ± 0.10"
    assert found("a = 123456 ± 234\nshow a")["short"] == "123460 ± 230"
    told = found(SOURCES + "lowest of (x - a)^2 + b*x for x from -5 to 5")
    assert told["short"] == "2.438 ± 0.035 at x = 1.250 ± 0.021"
    assert "2.4375" not in told["summary"]


# ---------------------------------------------------------------- shown

PARABOLA = "d = 2.0 ± 0.2 [m]\nf(t) = d*t - 0.2*t^2*(1 [m])\nr = highest of f(t) for t from 0 to 9\n"


def test_of_two_equal_numbers_the_name_tells_which_is_which() -> None:
    # The top lies at t = d/(0.4 m) with the height d^2/(0.8 m): 5 with 0.5, and 5 m with 1.
    shown = run(PARABOLA.replace("r = ", "")).findings[0]
    assert shown.summary == "The highest value from 0 to 9 is (5.0 ± 1.0) m, at t = 5.00 ± 0.50."


def test_marks_points_and_tables_show_their_uncertainty() -> None:
    script = PARABOLA + (
        "q = lowest of f(t) - d*t for t from 1 to 2\n"
        "table bench:\n    t    y [m]\n    1    1.8(2)\n    2    3.1±0.3\n"
        "figure a:\n    curve of f(t) for t from 0 to 5\n    points of bench.y against bench.t\n    mark (2.5, f(2.5))\n    mark r\n"
        "values of f(t) for t from 0 to 2 step 1"
    )
    outcome = run(script)
    _, points, place, top = outcome.figures[0].data.panels[0].series
    assert points.ex is None
    assert points.ey == pytest.approx([0.2, 0.3])
    assert (place.ex, place.ey) == (None, pytest.approx([0.5]))
    # The place is known as x and as t, which is one thing: it stands at (t, height), with both doubts.
    assert (top.x, top.y, top.ex, top.ey) == tuple(pytest.approx([v]) for v in (5, 5, 0.5, 1))
    rows = outcome.findings[-1].as_record()["values"]
    assert [r.get("errors") for r in rows] == [None, {"f": pytest.approx(0.2)}, {"f": pytest.approx(0.4)}]


def test_a_finding_that_is_shown_keeps_its_unit_and_doubt() -> None:
    summaries = [f.summary for f in run(PARABOLA + "show r, r.x").findings]
    assert summaries[-2:] == ["(5.0 ± 1.0) m", "5.00 ± 0.50"]
