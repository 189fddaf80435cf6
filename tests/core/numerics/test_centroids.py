"""Centroids against handbook formulas, against sums over thin strips, and their proofs."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from open_lemma.core.certificate.record import verify_finding
from open_lemma.core.numerics.integrals.centroids import centroid_of_points
from open_lemma.core.run.execute.interpreter import run

# W. C. Young, R. G. Budynas, "Roark's Formulas for Stress and Strain", 7th ed. (2002), appendix A, and first-year calculus (from memory).
HANDBOOK = [
    ("centroid of sqrt(1 - x^2) for x from -1 to 1", 0, 4 / (3 * np.pi), np.pi / 2),  # half a circle
    ("centroid of sqrt(1 - x^2) for x from 0 to 1", 4 / (3 * np.pi), 4 / (3 * np.pi), np.pi / 4),  # a quarter
    ("centroid of 1 - x^2 for x from -1 to 1", 0, 2 / 5, 4 / 3),  # a parabola's segment: 2/5 of its height
    ("centroid of x^2 for x from 0 to 2", 3 / 2, 6 / 5, 8 / 3),  # its complement: 3/4 of the base, 3/10 of the height
    ("centroid of 3 - 3/4*x for x from 0 to 4", 4 / 3, 1, 6),  # a triangle: a third from its right angle
    ("centroid of x and x^2 for x from 0 to 1", 1 / 2, 2 / 5, 1 / 6),
    ("centroid of x^2 and x for x from 0 to 1", 1 / 2, 2 / 5, 1 / 6),
    ("centroid of sin(x) for x from 0 to pi", np.pi / 2, np.pi / 8, 2),
    ("centroid of exp(-x) for x from 0 to infinity", 1, 1 / 4, 1),
    ("centroid of -1 for x from 0 to 2", 1, -1 / 2, 2),  # beneath the axis
    ("centroid of x for x from -1 to 1", 0, 0, 1),  # on both sides of it
]  # fmt: skip


def found(script: str) -> dict[str, Any]:
    outcome = run(script)
    assert not outcome.reading.messages.items, [m.text for m in outcome.reading.messages.items]
    finding = outcome.findings[-1].as_record()
    proof = verify_finding(finding)
    assert proof.fault == ""
    assert proof.certified is (finding["evidence"] == "proven")
    return finding


@pytest.mark.parametrize(("script", "x", "y", "area"), HANDBOOK, ids=[h[0] for h in HANDBOOK])
def test_areas_of_the_handbook(script: str, x: float, y: float, area: float) -> None:
    finding = found(script)
    (row,) = finding["values"]
    assert finding["evidence"] == "proven"
    assert (row["x"], row["y"], row["value"]) == pytest.approx((x, y, area), rel=1e-12, abs=1e-12)
    for value, ends in ((x, row["intervals"]["x"]), (y, row["intervals"]["y"]), (area, row["value_interval"])):
        low, high = map(float, ends)
        assert low - 1e-12 <= value <= high + 1e-12
        assert high - low <= 1e-9 * max(1.0, abs(value))  # and it is narrow


def strips(f: Any, g: Any, low: float, high: float, count: int = 400_000) -> tuple[float, float]:
    """The slow way: so many strips, each at its middle."""
    x = low + (np.arange(count) + 0.5) * (high - low) / count
    height = np.abs(f(x) - g(x))
    return float((x * height).sum() / height.sum()), float(((f(x) + g(x)) / 2 * height).sum() / height.sum())


@pytest.mark.parametrize(
    ("first", "second", "f", "g", "low", "high"),
    [
        ("sin(x)", "cos(x)", np.sin, np.cos, 0.0, 6.0), ("exp(x)", "x^3", np.exp, lambda x: x**3, -1.0, 3.0),
        ("abs(x - 1)", "1/2", lambda x: np.abs(x - 1), lambda x: 0.5 + 0 * x, 0.0, 3.0),
        ("sqrt(x)", "x/3", np.sqrt, lambda x: x / 3, 0.0, 9.0),
    ],
)  # fmt: skip
def test_between_curves_as_sums_over_strips(first: str, second: str, f: Any, g: Any, low: float, high: float) -> None:
    (row,) = found(f"centroid of {first} and {second} for x from {low} to {high}")["values"]
    assert (row["x"], row["y"]) == pytest.approx(strips(f, g, low, high), abs=1e-6)


@given(st.lists(st.tuples(st.fractions(-99, 99, max_denominator=9), st.fractions(-99, 99, max_denominator=9)), min_size=1, max_size=9))
def test_points_are_moved_with_their_centroid(points: list[tuple[Fraction, Fraction]]) -> None:
    x, y = centroid_of_points(points)
    assert sum(p[0] - x for p in points) == sum(p[1] - y for p in points) == 0
    moved = centroid_of_points([(a + 7, 3 * b) for a, b in points])
    assert moved == (x + 7, 3 * y)


def test_points_of_exact_coordinates_are_proven_and_others_checked() -> None:
    exact = found("centroid of [(0, 0), (3, 0), (0, 6)]")
    assert (exact["evidence"], exact["values"][0]["x"], exact["values"][0]["y"]) == ("proven", 1, 2)
    assert found("centroid of [(sqrt(2), 1), (0, 1)]")["evidence"] == "checked"
    assert found("P = [(1, 2, 3), (2, 3, 4)]\ncentroid of P")["values"][0]["z"] == 3.5


@pytest.mark.parametrize("part", ["x", "y", "value"])
def test_a_centroid_that_was_spoiled_is_not_confirmed(part: str) -> None:
    finding = found("centroid of 1 - x^2 for x from -1 to 1")
    row = finding["values"][0]
    ends = row["value_interval"] if part == "value" else row["intervals"][part]
    row[part] += 1e-6
    ends[:] = [repr(float(v) + 1e-6) for v in ends]
    assert verify_finding(finding).fault


def test_it_has_parts_and_can_be_marked() -> None:
    outcome = run(
        "c = centroid of sin(x) for x from 0 to pi\nshow c.x, c.area\nfigure a:\n    curve of sin(x) for x from 0 to pi\n    mark c"
    )
    (mark,) = [s for s in outcome.figures[0].data.series if s.kind == "mark"]
    assert (mark.x[0], mark.y[0]) == pytest.approx((np.pi / 2, np.pi / 8))


@pytest.mark.parametrize(
    ("script", "said"),
    [
        ("centroid of 0*x for x from 0 to 1", "no area"), ("centroid of 1/x for x from 1 to infinity", "diverges"),
        ("centroid of 1/x for x from 0 to 1", "diverges"), ("centroid of 5", "an area or a list of points is needed"),
        ("centroid of [1, 2]", "an area or a list of points is needed"), ("centroid of x", "from where to where"),
        ("centroid of [(1, 2), (1, 2, 3)]", "as many coordinates"),
    ],
)  # fmt: skip
def test_what_has_none_is_told(script: str, said: str) -> None:
    outcome = run(script)
    assert said in " ".join(m.text for m in outcome.reading.messages.items)
    assert not outcome.findings
