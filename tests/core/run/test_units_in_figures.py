"""Whatever stands in a figure stands in the unit of its axis: curves, bands, tangents, paths, points, lines, texts, marks, confidence."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from open_lemma.core.run.execute.interpreter import run


def drawn(script: str) -> list[Any]:
    outcome = run(script)
    assert not outcome.failed, [m.text for m in outcome.reading.messages.items]
    return outcome.figures[0].data.panels[0].series


# What is drawn in metres, and its first and last height in centimetres.
HEIGHTS = [
    ("curve of 3 [m] + 2 [m]*x for x from 0 to 2", 300, 700),
    ("tangent of 3 [m]*x^2 for x from 0 to 2, at 1", -300, 900),
    ("curve of (u, 2 [m]*u) for u from 0 to 1", 0, 200),
    ("points of [1 [m], 2 [m]] against [0, 1]", 100, 200),
    ("line from (0, 3 [m]) to (2, 700 [cm])", 300, 700),
    ("line horizontal at 4.5 [m]", 450, 450),
    ('text "here" at (1, 5 [m])', 500, 500),
    ("mark (1, 2.5 [m])", 250, 250),
]


@pytest.mark.parametrize(("line", "first", "last"), HEIGHTS, ids=[h[0][:24] for h in HEIGHTS])
def test_what_is_drawn_stands_in_the_unit_of_its_axis(line: str, first: float, last: float) -> None:
    *_, thing = drawn(f'figure a:\n    curve of 1 [cm]*x for x from 0 to 2\n    {line}\n    y axis "level", unit [cm]')
    assert (thing.y[0], thing.y[-1]) == (pytest.approx(first), pytest.approx(last))


def test_both_edges_of_a_band_stand_in_one_unit() -> None:
    (band,) = drawn('figure a:\n    band of 1 [m]*x and 200 [cm]*x for x from 0 to 2\n    y axis "level", unit [cm]')
    assert (band.y[-1], band.y2[-1]) == (pytest.approx(200), pytest.approx(400))
    messages = run("figure a:\n    band of 1 [m]*x and 2 [s]*x for x from 0 to 2").reading.messages.items
    assert any("[s] is not converted to [m]" in m.text for m in messages)


def test_the_confidence_of_a_fit_stands_around_its_curve() -> None:
    table = "table b:\n    t [min]  z [cm]\n    0 84\n    2 72\n    4 61.5\n    6 52\n    8 44\n"
    script = table + "z(t) = fit of A*exp(-k*t) to b.z against b.t\nfigure a:\n    confidence of z\n    curve of z(t)\n"
    band, curve = drawn(script + '    y axis "z", unit [m]')
    at = np.interp(4.0, curve.x, curve.y)
    assert np.interp(4.0, band.x, band.y) < at < np.interp(4.0, band.x, band.y2)
    assert at == pytest.approx(0.613, abs=0.005)


def test_a_tangent_is_asked_for_at_a_place_in_any_size() -> None:
    script = "v = 2 [m/s]\nh(t) = 3 [m] - v*t\nfigure a:\n    tangent of h(t)^2/(1 [m]) for t from 0 [s] to 1 [s], at 500 [ms]"
    (line,) = drawn(script)
    assert (line.y[0], line.y[-1]) == (pytest.approx(8), pytest.approx(0))


@pytest.mark.parametrize("span", ["from 10 [s] to 50 [s]", "from 10 [cm] to 0.5 [m]"])
def test_the_span_of_a_tuned_value_is_said_in_its_own_unit(span: str) -> None:
    messages = run(f"tune h = 20 [cm] {span}\nshow h").reading.messages.items
    assert any("is said in its own unit, [cm]" in m.text for m in messages)
    assert not run("tune h = 20 [cm] from 10 [cm] to 50 [cm]\nshow h").failed


def test_a_limit_at_a_place_with_a_unit_has_the_unit_of_its_formula() -> None:
    row = run("f(x) = x^2\nlimit of f(x)/x, at 2 [m]").findings[0].as_record()["values"][0]
    assert (row["value"], row["unit"]) == (2, "m")


def test_values_are_told_in_the_unit_that_is_asked_for() -> None:
    finding = run("v = 3 [m/s]\nvalues of v*t for t from 0 [s] to 4 [s] step 2 [s], unit [cm]").findings[0].as_record()
    assert [r["value"] for r in finding["values"]] == [0, 600, 1200]
    assert "value in cm" in finding["notes"]
