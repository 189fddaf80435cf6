"""Units: sizes against published ones, sums and products as laws, temperatures, what is refused, what formulas tell of their variables."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from open_lemma.core.formula.quantities import inferred
from open_lemma.core.formula.units import BadUnit, parse_unit, symbol_of
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.values import FunctionValue


def found(script: str) -> dict[str, Any]:
    outcome = run(script)
    assert outcome.findings, [m.text for m in outcome.reading.messages.items]
    return outcome.findings[-1].as_record()


def refused(script: str) -> str:
    outcome = run(script)
    assert outcome.failed
    return next(m.text for m in outcome.reading.messages.items if m.severity == "error")


# SI brochure, 9th edition: tables 4, 8 and 9 of units; NIST SP 811, appendix B.8, for the others.
SIZES = [
    ("36 [km/h]", "m/s", 10), ("1 [kWh]", "J", 3_600_000), ("1 [atm]", "Pa", 101_325), ("1 [bar]", "Pa", 100_000),
    ("1 [inch]", "cm", Fraction(254, 100)), ("1 [L]", "dm^3", 1), ("1 [ha]", "m^2", 10_000), ("1 [t]", "kg", 1000),
    ("1 [d]", "s", 86_400), ("1 [cal]", "J", Fraction(4184, 1000)), ("1 [ft]", "m", Fraction(3048, 10_000)),
    ("25 [%]", "1", Fraction(1, 4)),
    ("1 [mol/L]", "mol/m^3", 1000), ("1 [µm]", "m", Fraction(1, 10**6)), ("1 [hPa]", "mbar", 1), ("3 [N m]", "J", 3),
    ("0 [°C]", "K", Fraction(27315, 100)), ("100 [°C]", "K", Fraction(37315, 100)), ("212 [°F]", "°C", 100),
    ("300 [K]", "°C", Fraction(2685, 100)),
    ("1 [J/(kg K)]", "kJ/(kg K)", Fraction(1, 1000)), ("2 [rev]", "deg", 720),
]  # fmt: skip


@pytest.mark.parametrize(("value", "unit", "number"), SIZES)
def test_sizes_are_those_that_are_published(value: str, unit: str, number: Any) -> None:
    told = found(f"v = {value}\nshow v, unit [{unit}]")
    assert told["evidence"] == "proven"
    assert Fraction(told["values"][0].get("exact") or str(told["values"][0]["value"])) == number


@pytest.mark.parametrize(
    ("expression", "value", "unit"),
    [
        ("3 [m] + 20 [cm]", 3.2, "m"),
        ("20 [cm] + 3 [m]", 320, "cm"),
        ("sqrt(2*9.81 [m/s^2]*25 [cm])", 2.214723459035, "m s⁻¹"),
        ("5 [%]*25 [cm]", 1.25, "cm"),
        ("2/3 [m]*3", 2, "m"),
        ("8 [m]/(4 [cm])", 200, None),
        ("3 [min]*2 [m/s]", 360, "m"),
        ("(2 [m])^3", 8, "m³"),
        ("20 [°C] - 5 [°C]", 15, "K"),
        ("20 [°C] + 5 [K]", 25, "°C"),
        ("sin(90 [deg])", 1, None),
        ("cos(1/3 [rev])", -0.5, None),
        ("tan(45 [°])", 1, None),
        ("ln(5 [m]/(5 [m]))", 0, None),
        ("exp(200 [cm]/(1 [m]))", 7.38905609893, None),
        ("max(1 [m], 99 [cm])", 1, "m"),
        ("mod(250 [cm], 1 [m])", 50, "cm"),
        ("abs(-3 [cm])", 3, "cm"),
        ("8.314 [J/(mol K)]*300 [K]", 2494.2, "J mol⁻¹"),
        ("3 [trout] + 2 [trout]", 5, "trout"),
        ("sqrt(4 [m])*sqrt(1 [m])", 2, "m"),
        ("(2 [m])^(3/2)*(200 [cm])^(3/2)", 8, "m³"),
    ],
)
def test_arithmetic(expression: str, value: float, unit: str | None) -> None:
    row = found(f"show {expression}")["values"][0]
    assert row["value"] == pytest.approx(value, rel=1e-11, abs=1e-12)
    assert row.get("unit") == unit


@pytest.mark.parametrize(
    ("expression", "values", "unit"),
    [
        ("[x^2 for x in t]", [0, 4, 16], "s²"),
        ("[x + 100 [ms] for x in t]", [0.1, 2.1, 4.1], "s"),
        ("[x for x in t if x > 1000 [ms]]", [2, 4], "s"),
        ("[x*(1 [m]) + 1 [cm] for x in [1, 2]]", [1.01, 2.01], "m"),
        ("t + 1 [min]", [60, 62, 64], "s"),
        ("[1 [m], 20 [cm]]", [1, 0.2], "m"),
        ("[1, 2] [m] + [1, 2] [cm]", [1.01, 2.02], "m"),
    ],
)
def test_lists(expression: str, values: list[float], unit: str) -> None:
    row = found(f"t = 0 [s] to 4 [s] step 2 [s]\nshow {expression}")["values"][0]
    assert row["value"] == pytest.approx(values)
    assert row["unit"] == unit


LENGTHS, TIMES = ["m", "cm", "mm", "km", "inch"], ["s", "min", "h", "ms"]


@given(st.integers(-50, 50), st.integers(-50, 50), st.sampled_from(LENGTHS), st.sampled_from(LENGTHS))
def test_a_sum_is_that_of_the_lengths(a: int, b: int, one: str, other: str) -> None:
    told = found(f"show {a} [{one}] + ({b}) [{other}]")["values"][0]
    exact = a + b * symbol_of(other).size / symbol_of(one).size
    assert Fraction(told.get("exact") or str(told["value"])) == exact
    assert told["unit"] == one


@given(st.integers(1, 50), st.sampled_from(LENGTHS), st.sampled_from(TIMES), st.sampled_from(LENGTHS), st.sampled_from(TIMES))
def test_there_and_back_is_exact(n: int, one: str, first: str, other: str, second: str) -> None:
    there = found(f"v = {n} [{one}/{first}]\nw = v [{other}/{second}]\nshow w, unit [{one}/{first}]")["values"][0]
    assert Fraction(there.get("exact") or str(there["value"])) == n


@pytest.mark.parametrize(
    ("script", "words"),
    [
        ("show 3 [m] + 2 [s]", "[m] and [s] meet in a sum"),
        ("show exp(3 [m])", "exp takes numbers, and this is in [m]"),
        ("show sin(3 [m])", "sin takes numbers and angles, and this is in [m]"),
        ("show 20 [°C] + 10 [°C]", "which of them is a difference?"),
        ("show 2*(20 [°C])", "is it one on the scale, or a difference?"),
        ("show 300 [K] - 20 [°C]", "cannot be told"),
        ("check 1 [m] < 2 [s]", "[m] and [s] meet in a comparison"),
        ("roots of x - 1 [m] for x from 0 [s] to 2 [s]", "[s] and [m] meet in a difference"),
        ("roots of x - 1 for x from 0 [s] to 2 [m]", "[m] is not converted to [s]"),
        ("length of 2 [s/m]*x for x from 0 [m] to 1 [m]", "these are in [m] and [s]"),
        ("h = [1, 2, 3] [m]\nq = [3, 4, 5.1] [m/s]\nf(x) = fit of a + b*x to q against h\nshow f(2 [s])", "x of f is in [m]"),
    ],
)
def test_unlike_units_are_refused_with_both(script: str, words: str) -> None:
    text = refused(script)
    assert words in text


def test_texts_that_are_no_units() -> None:
    for text in ("m/", "J/(mol", "m)", "?", "3"):
        with pytest.raises(BadUnit):
            parse_unit(text)


@pytest.mark.parametrize(
    ("definitions", "formula", "unit"),
    [
        ("v = 20 [m/s]\ng = 9.81 [m/s^2]", "v*t - g*t^2/2", "s"),
        ("a = 3 [m]", "a + t", "m"),
        ("tau = 5 [min]", "exp(-t/tau)", "min"),
        ("q = 0.5 [m^2/s]\ng = 9.81 [m/s^2]", "t + q^2/(2*g*t^2)", "m"),
        ("w = 2 [1/s]", "sin(w*t)", "s"),
        ("k = 3 [N/m]\nm = 2 [kg]\nF = 5 [N]", "k*t - F", "m"),
        ("a = 3 [m]", "a*t", None),
    ],
)
def test_a_formula_tells_the_unit_of_its_variable(definitions: str, formula: str, unit: str | None) -> None:
    value = run(f"{definitions}\nf(t) = {formula}\n").names.find("f")
    assert isinstance(value, FunctionValue)
    told = inferred(value.body, ["t"]).get("t")
    assert told is None if unit is None else told is not None and told.like(parse_unit(unit))


THROW = "v = 20 [m/s]\ng = 9.81 [m/s^2]\nf(t) = v*t - g*t^2/2\n"


@pytest.mark.parametrize(
    ("request_", "fields", "value"),
    [
        ("roots of f(t) for t from 1 to 5", {"x": "s"}, 4.0774719674),
        ("roots of f(t) for t from 1 [s] to 0.1 [min]", {"x": "s"}, 4.0774719674),
        ("crossings of f(t) and 15000 [mm] for t from 0 to 2", {"x": "s", "value": "m"}, 0.9907186),
        ("highest of f(t) for t from 0 to 5", {"x": "s", "value": "m"}, 2.0387359837),
        ("maxima of f(t) for t from 0 [s] to 5 [s]", {"x": "s", "value": "m"}, 2.0387359837),
        ("solution of f(t) = 1500 [cm] for t from 0 to 2", {"t": "s"}, 0.9907186),
        ("solution of f(t) > 15 [m] for t from 0 to 5", {"low": "s", "high": "s"}, 0.9907186),
    ],
)
def test_findings_have_the_units_of_variable_and_height(request_: str, fields: dict[str, str], value: float) -> None:
    row = found(THROW + request_)["values"][0]
    assert row["units"] == fields
    assert row[next(iter(fields))] == pytest.approx(value, rel=1e-6)


@pytest.mark.parametrize(
    ("request_", "unit", "value"),
    [
        ("integral of f(t) for t from 0 to 4", "m s", 55.36),
        ("integral of v for t from 0 [s] to 1 [min]", "m", 1200),
        ("integral of v for t from 0 [s] to 1 [min], unit [km]", "km", 1.2),
        ("mean of f(t) for t from 0 to 4, unit [cm]", "cm", 1384),
        ("integral of v for t from 0 [min] to 1 [min]", "m", 1200),
        ("area of f(t) and 0 for t from 0 to 4", "m s", 55.36),
        ("mean of f(t) for t from 0 to 4", "m", 13.84),
        ("derivative of f(t) for t, at 1 [s]", "m s⁻¹", 10.19),
        ("length of x^2/(1 [m]) for x from 0 [m] to 100 [cm]", "m", 1.4789428575),
        ("length of (cos(t), sin(t), t) for t from 0 to 2pi", None, 8.8857658763),  # of a turn of a helix: 2 pi sqrt(2)
        ("length of (3 [m]*cos(t), 300 [cm]*sin(t)) for t from 0 to pi", "m", 9.4247779608),
        ("limit of f(t) for t, at 2 [s]", "m", 20.38),
        ("sum of 3 [cm]/2^k for k from 0 to infinity", "cm", 6),
    ],
)
def test_values_have_the_unit_that_follows(request_: str, unit: str | None, value: float) -> None:
    row = found(THROW + request_)["values"][0]
    assert row.get("unit") == unit
    assert row["value"] == pytest.approx(value, rel=1e-9)


def test_fits_and_curves_through_data_take_other_sizes() -> None:
    table = (
        "table w:\n    h [cm]  v [m/s]  dv [cm/s]\n    10  1.41  1\n    20  1.99  1\n    30  2.44  1\n    40  2.80  1\ng = 9.81 [m/s^2]\n"
    )
    fit = table + "u(h) = fit of C*sqrt(2*g*h) to w.v against w.h for C, errors w.dv\n"
    # The discharge coefficient is a plain number near 1, though heads are in cm and g is in m/s².
    coefficient = found(fit + "show u.C")["values"][0]
    assert coefficient["value"] == pytest.approx(1.0, abs=0.01)
    assert coefficient.get("unit") is None
    assert found(fit + "show u(0.25 [m])")["values"][0]["value"] == pytest.approx(
        found(fit + "show u(25)")["values"][0]["value"], rel=1e-12
    )
    root = found(fit + "roots of u(h) - 2 [m/s] for h from 0.1 [m] to 0.4 [m]")["values"][0]
    assert root["units"] == {"x": "m"}
    assert 0.19 < root["x"] < 0.21
    through = table + "s(h) = interpolation of w.v against w.h\n"
    assert found(through + "show s(0.2 [m])")["values"][0]["value"] == pytest.approx(1.99, rel=1e-12)


def test_parameters_of_a_cooling_curve_have_their_units() -> None:
    table = "table pot:\n    t [min]  T [°C]\n    0  92.1\n    2  81.0\n    4  71.8\n    6  64.4\n    8  58.0\n"
    told = found(table + "cool(x) = fit of A*exp(-k*x) + T0 to pot.T against pot.t for A, k, T0, start T0 = 20")
    units = {p["name"]: p.get("unit") for p in told["values"][0]["parameters"]}
    # A is a difference of temperatures, T0 a temperature on the scale.
    assert units == {"A": "K", "k": "min⁻¹", "T0": "°C"}


def test_axes_have_units_and_one_size() -> None:
    table = "table b:\n    h [cm]  Q [L/s]\n    10  2\n    20  4\n"
    script = THROW + table + (
        'figure one:\n    points of b.Q against b.h\n    x axis "head", unit [m]\n'
        "figure two:\n    curve of f(t) for t from 0 [s] to 4 [s]\n    curve of 1500 [cm] for t from 0 [s] to 4 [s]\n"
    )  # fmt: skip
    one, two = (f.data.panels[0] for f in run(script).figures)
    assert one.x.text == r"head / $\mathrm{m}$"
    assert [float(v) for v in one.series[0].x] == pytest.approx([0.1, 0.2])
    assert two.x.text == r"$t$ / $\mathrm{s}$"
    assert float(max(two.series[1].y)) == pytest.approx(15)
    # What is marked, and lines across, stand where they belong too.
    marked = THROW + (
        "r = crossings of f(t) and 15 [m] for t from 0 [min] to 0.02 [min]\n"
        "figure three:\n    mark r\n    line horizontal at 1500 [cm]\n    curve of f(t) for t from 0 [s] to 4 [s]\n"
    )
    mark, line, _ = run(marked).figures[0].data.panels[0].series
    assert (float(mark.x[0]), float(mark.y[0])) == pytest.approx((0.9907186, 15), rel=1e-6)
    assert float(line.y[0]) == pytest.approx(15)
    assert "meet on one axis" in refused(THROW + "figure a:\n    curve of f(t) for t from 0 to 1\n    curve of v for t from 0 to 1\n")
