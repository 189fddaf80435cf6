"""Requests of the language that search and compute: what the record holds, how it is said, and what may be done with it."""

from __future__ import annotations

import itertools
from typing import Any

import pytest

from .scripts import good, last

# One line each: the request, its first row (only what is named), the evidence, and a phrase of its sentence.
SAID: list[tuple[str, dict[str, Any], str, str]] = [
    ("roots of x^2 - 2 for x from 0 to infinity", {"x": 2**0.5}, "proven", "from 0 to ∞"),
    ("roots of x^3 - x for x, near 0.4", {"x": 0.0}, "proven", "none is nearer"),
    ("roots of x^2 + 1 for x, near 3", {}, "proven", "No root at all."),
    ("roots of x^2 = 4 for x from 0 to 5", {"x": 2.0}, "proven", "Exactly one root"),
    ("roots of [x - 1, x^2 - 4] for x from 0 to 5", {"x": 1.0, "of": 1}, "proven", "2: Exactly one root"),
    ("crossings of x^2 and x + 1 for x, near 2", {"x": 1.618033988749895, "value": 2.618033988749895}, "proven", "nearest to 2"),
    ("minima of x^2 for x from -1 to 2", {"x": 0.0, "value": 0.0, "kind": "global", "what": "minimum"}, "proven", "the lowest of all is 0"),
    ("minima of x^2 for x from 1 to 2", {"x": 1.0, "kind": "end", "at_end": True}, "proven", "at an end"),
    ("maxima of cos(x) for x, near 5", {"x": 6.283185307179586}, "proven", "nearest by"),
    ("extremes of x^3 - 3x for x from -2 to 2", {"x": -2.0, "what": "minimum"}, "proven", "Exactly four extremes"),
    ("inflections of x^3 for x from -1 to 1", {"x": 0.0, "kind": "inflection"}, "proven", "Exactly one inflection"),
    ("minima of x^2 for x from -3 to 3, where x >= 1", {"x": 1.0, "overall": True}, "proven", "lowest of all is 1"),
    ("lowest of x^2 - 4x for x from -infinity to infinity", {"x": 2.0, "value": -4.0}, "proven", "lowest value is −4"),
    ("lowest of x^2 for x from -3 to 3, where x >= 1", {"x": 1.0, "value": 1.0}, "proven", "lowest value is 1"),
    (
        "minima of x^2 + 3y^2 for x from -1 to 1, y from -1 to 1",
        {"x": 0.0, "y": 0.0, "value": 0.0, "kind": "global"},
        "proven",
        "one minimum",
    ),
    ("extremes of x^2 - y^2 for x from -1 to 1, y from -2 to 2", {"x": -1.0, "y": 0.0}, "proven", "one saddle"),
    (
        "maxima of x*y for x from 0 to 3, y from 0 to 3, where x + y <= 2",
        {"x": 1.0, "y": 1.0, "value": 1.0, "evidence": "proven"},
        "checked",  # that there is no other one is the search's own
        "highest value is 1",
    ),
    (
        "highest of x*y for x from 0 to 3, y from 0 to 3, where x^2 + y^2 = 2",
        {"x": 1.0, "y": 1.0, "value": 1.0},
        "proven",
        "highest value is 1",
    ),
    (
        "minima of (x - 1)^2 + y^2 + z^4 for x from -2 to 2, y from -1 to 1, z from -1 to 1",
        {"x": 1.0, "y": 0.0},
        "proven",
        "lowest value is 0",
    ),
    ("minima of abs(x) + abs(y - 1) for x from -1 to 1, y from -1 to 2", {"x": 0.0, "y": 1.0, "value": 0.0}, "proven", "lowest value is 0"),
    ("integral of x^2 for x", {"text": "x^3/3"}, "proven", "x^3/3"),
    ("integral of x*y for x from 0 to 1, y from 0 to x", {"value": 0.125}, "proven", "0.125"),
    ("integral of exp(-x) for x from 0 to infinity", {"value": 1.0}, "proven", "from 0 to ∞"),
    ("length of (3*cos(t), 3*sin(t)) for t from 0 to pi", {"value": 9.42477796076938}, "proven", "length of the curve"),
    ("length of x for x from 0 to 1", {"value": 2**0.5}, "proven", "1.414213562"),
    ("mean of x^2 for x from 0 to 3", {"value": 3.0}, "proven", "mean value"),
    ("area of x and x^3 for x from -1 to 1", {"value": 0.5}, "proven", "area between the two"),
    ("limit of sin(3x)/x for x, at 0", {"value": 3.0}, "proven", "The limit for x → 0 is 3."),
    ("limit of 1/x for x, at 0", {"value": None, "limit": "-infinity", "side": "left"}, "proven", "There is no limit"),
    ("limit of 1/x for x from 0 to 1, at 0", {"limit": "infinity"}, "proven", "rise without bound"),
    ("limit of (1 + 2/n)^n for n, at infinity", {"value": 7.38905609893065}, "proven", "exp(2)"),
    ("series of exp(x) for x, at 0, order 3", {"text": "1 + x + 1/2*x^2 + 1/6*x^3"}, "proven", "x^3"),
    ("series of ln(x) for x, at 1, order 2", {"text": "x - 1 - 1/2*(x - 1)^2"}, "proven", "(x - 1)^2"),
    ("sum of 1/2^k for k from 0 to infinity", {"value": 2.0}, "proven", "from k = 0 to ∞"),
    ("sum of k for k from 1 to 100", {"value": 5050.0}, "proven", "5050"),
    ("product of k for k from 1 to 5", {"value": 120.0}, "proven", "product"),
    ("simplification of (x^2 - 1)/(x - 1)", {"text": "x + 1"}, "proven", "x + 1"),
    ("simplification of sin(a)^2 + cos(a)^2", {"value": 1.0}, "proven", "1"),
    ("solution of x^2 <= 4 for x", {"low": -2.0, "high": 2.0, "low_belongs": True, "kind": "span"}, "proven", "−2 ≤ x ≤ 2"),
    (
        "solution of (x - 1)/(x + 2) <= 0 for x",
        {"low": -2.0, "low_belongs": False, "high": 1.0, "high_belongs": True},
        "proven",
        "−2 < x ≤ 1",
    ),
    ("solution of x^2 > 1 or x = 0 for x", {"low": None, "high": -1.0}, "proven", "x < −1 or x = 0 or x > 1"),
    ("solution of x^2 < -1 for x", {}, "proven", "It holds nowhere."),
    ("solution of x^2 >= 0 for x", {"low": None, "high": None}, "proven", "every x"),
    ("solution of exp(x) = y, x + y = 2 for x from -5 to 5, y from -5 to 5", {"x": 0.44285440100238858}, "proven", "one solution"),
    ("show sqrt(2), digits 30", {"digits": {"value": "1.41421356237309504880168872421"}}, "proven", "1.41421356237309504880168872421"),
    ("show 1/8, digits 30", {"digits": {"value": "0.125"}}, "proven", "0.125"),
]


@pytest.mark.parametrize(("request_", "row", "evidence", "phrase"), SAID, ids=[s[0] for s in SAID])
def test_what_is_found_and_how_it_is_said(request_: str, row: dict[str, Any], evidence: str, phrase: str) -> None:
    found = last(request_)
    assert found.evidence == evidence
    assert phrase in found.summary
    for name, value in row.items():
        told = found.rows[0][name]
        assert told == (pytest.approx(value, rel=1e-14, abs=1e-15) if isinstance(value, float) else value), name
    if not row:
        assert not found.rows


def test_the_best_corner_of_a_plan_is_exactly_that_corner() -> None:
    found = last("highest of 4x + 3y for x from 0 to 10, y from 0 to 10, where 2x + y <= 10 and x + 2y <= 8")
    row = found.rows[0]
    assert (row["x"], row["y"], row["value"], row["what"]) == (4.0, 2.0, 22.0, "maximum")
    assert found.evidence == "proven"


def test_digits_of_a_number_next_to_a_round_one() -> None:
    """0.99…9 and 1.00…1 both round to 1; they must not be taken for different digits."""
    row = last("sum of 1/(k^2 + k) for k from 1 to infinity, digits 20").rows[0]
    assert set(row["digits"]["value"]) == {"1", ".", "0"}
    assert len(row["digits"]["value"]) > 15


USED = [
    ("low = minima of x^2 - 4x for x from 0 to 5\nshow low + 1", 3.0),
    ("low = minima of x^2 - 4x for x from 0 to 5\nshow low.value", -4.0),
    ("F = integral of x^2 for x\nshow F(3)", 9.0),
    ("F(t) = integral of t^2 for t\nshow F(3) - F(0)", 9.0),
    ("p = series of exp(x) for x, at 0, order 2\nshow p(2)", 5.0),
    ("p = series of exp(x) for x, at 0, order 2\nshow p'(1)", 2.0),
    ("L = limit of sin(x)/x for x, at 0\nshow 2*L", 2.0),
    ("show 2*(sum of k for k from 1 to 3)", 12.0),
    ("s = solution of x^2 < 9 for x\nshow s.high - s.low", 6.0),
    ("s = solution of x^2 + y^2 = 25, y = x + 1 for x from 0 to 9, y from 0 to 9\nshow s.y", 4.0),
    ("m = minima of (x - 1)^2 + (y + 2)^2 for x from -3 to 3, y from -3 to 3\nshow m.y", -2.0),
    ("q = simplification of (x^2 - 1)/(x - 1)\nshow q(4)", 5.0),
]


@pytest.mark.parametrize(("script", "value"), USED, ids=[u[0].split("\n")[-1] for u in USED])
def test_findings_are_used_on(script: str, value: float) -> None:
    assert last(script).rows[0]["value"] == pytest.approx(value, rel=1e-14)


def test_what_is_found_is_seen_near_and_how_it_was_found() -> None:
    found = last("roots of sin(x^2) - x/4 for x from 0.5 to 6").as_record()
    assert len(found["closeups"]) == min(len(found["values"]), 8)
    for seen, row in zip(found["closeups"], found["values"], strict=False):
        assert seen["low"] < row["x"] < seen["high"]
        heights = [y for y in seen["y"] if y is not None]
        line = [heights[0] + (heights[-1] - heights[0]) * k / (len(heights) - 1) for k in range(len(heights))]
        spread = max(heights) - min(heights)
        # So near that it looks straight, with the zero in it.
        assert max(abs(a - b) for a, b in zip(heights, line, strict=True)) <= 0.031 * spread
        assert min(heights) < 0 < max(heights)
    spans = found["strip"]
    assert sum(why == "one" for _, _, why in spans) == len(found["values"])
    # The spans lie side by side and cover the window.
    assert (spans[0][0], spans[-1][1]) == (0.5, 6.0)
    assert all(a[1] == b[0] for a, b in itertools.pairwise(spans))


def test_a_loop_keeps_a_row_a_pass() -> None:
    found = last("for a from 1 to 3:\n    minima of (x - a)^2 for x from 0 to 5")
    assert [(row["pass"], row["x"]) for row in found.rows] == [(1, 1.0), (2, 2.0), (3, 3.0)]


def test_poles_are_named_as_what_they_are() -> None:
    notes = " ".join(last("roots of tan(x) for x from 1 to 5").notes)
    assert "at x = 1.570796327 the sign changes through a pole, which is no zero" in notes


def test_infinitely_many_are_said_by_algebra_too() -> None:
    found = last("roots of sin(x) for x from 0 to infinity")
    assert not found.complete
    assert any("2π*n" in note for note in found.notes)


def test_marks_of_turning_points_stand_in_the_figure() -> None:
    outcome = good("m = extremes of x^3 - 3x for x from -2 to 2\nfigure a:\n    curve of x^3 - 3x for x from -2 to 2\n    mark m")
    assert not [n for n in outcome.figures[0].notes if "outside" in n.text]
