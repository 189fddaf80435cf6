"""Areas of surfaces, against closed forms and a general quadrature; with units and doubts."""

from __future__ import annotations

import math

import pytest
from scipy.integrate import dblquad

from open_lemma.core.run.execute.interpreter import run

CASES = [
    # A plane of slope (2, 3) over a triangle; the unit sphere; a torus of radii 2 and 1 (Pappus); a cone; a helicoid; a paraboloid.
    ("2x + 3y for x from 0 to 1, y from 0 to x", math.sqrt(14) / 2),
    ("(cos(u)*sin(v), sin(u)*sin(v), cos(v)) for u from 0 to 2pi, v from 0 to pi", 4 * math.pi),
    ("((2 + cos(v))*cos(u), (2 + cos(v))*sin(u), sin(v)) for u from 0 to 2pi, v from 0 to 2pi", 8 * math.pi**2),
    ("(r*cos(t), r*sin(t), r) for r from 0 to 1, t from 0 to 2pi", math.pi * math.sqrt(2)),
    ("(r*cos(t), r*sin(t), t) for r from 0 to 1, t from 0 to 2pi", math.pi * (math.sqrt(2) + math.asinh(1))),
    ("(r*cos(t), r*sin(t), r^2) for r from 0 to 1, t from 0 to 2pi", math.pi / 6 * (5 * math.sqrt(5) - 1)),
]


@pytest.mark.parametrize(("request_text", "true"), CASES, ids=[c[0][:30] for c in CASES])
def test_areas_of_known_surfaces(request_text: str, true: float) -> None:
    (row,) = run(f"area of {request_text}").findings[0].as_record()["values"]
    assert row["value"] == pytest.approx(true, rel=1e-10)
    low, high = (float(v) for v in row["interval"])
    assert low <= true * (1 + 1e-14)
    assert true * (1 - 1e-14) <= high
    assert high - low < 1e-8


def test_the_area_over_a_box_agrees_with_a_general_quadrature() -> None:
    true, _ = dblquad(lambda y, x: math.hypot(1, math.cos(x) * math.cos(y), math.sin(x) * math.sin(y)), 0, 2, -1, 1, epsabs=1e-12)
    found = run("area of sin(x)*cos(y) for x from 0 to 2, y from -1 to 1").findings[0].as_record()
    assert found["evidence"] == "proven"
    assert found["values"][0]["value"] == pytest.approx(true, rel=1e-9)


@pytest.mark.parametrize(("option", "value", "unit"), [("", 1.2807892752734, "m²"), (", unit [cm^2]", 12807.892752734, "cm²")])
def test_an_area_has_the_unit_of_its_axes(option: str, value: float, unit: str) -> None:
    script = f"z(x, y) = x*y/(1 [m])\narea of z(x, y) for x from 0 [m] to 1 [m], y from 0 [cm] to 100 [cm]{option}"
    (row,) = run(script).findings[0].as_record()["values"]
    assert (row["value"], row["unit"]) == (pytest.approx(value, rel=1e-12), unit)


def test_an_area_of_uncertain_height_is_uncertain() -> None:
    # d/da of the integral of sqrt(1 + a^2 (x^2 + y^2)) over the unit square, by a general quadrature.
    slope, _ = dblquad(lambda y, x: 2 * (x * x + y * y) / math.sqrt(1 + 4 * (x * x + y * y)), 0, 1, 0, 1)
    (row,) = run("a = 2.0 ± 0.1\narea of a*x*y for x from 0 to 1, y from 0 to 1").findings[0].as_record()["values"]
    assert row["standard_error"] == pytest.approx(0.1 * slope, rel=1e-3)


MISTAKES = [
    ("area of x^2 for x from 0 to 1", "an area lies between two curves", "area of x^2 and 0"),
    ("area of x and x^2 for x from 0 to 1, y from 0 to 1", "goes over one variable", ""),
    ("area of (u, v) for u from 0 to 1, v from 0 to 1", "three coordinates", "(x, y, z)"),
    ("x1 = 1 [m]\nz(x, y) = x*y/x1\narea of z(x, y) for x from 0 [m] to 1 [m], y from 0 [s] to 1 [s]", "axes in one unit", ""),
]


@pytest.mark.parametrize(("script", "phrase", "fix"), MISTAKES)
def test_what_is_no_area_is_refused_with_a_way_out(script: str, phrase: str, fix: str) -> None:
    items = run(script).reading.messages.items
    message = next(m for m in items if phrase in m.text)
    assert not fix or any(fix in str(f) for f in message.fixes)
