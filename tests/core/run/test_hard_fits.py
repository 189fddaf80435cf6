"""Fits that doubles or logarithms trip over: polynomials over years, powers of zero, starts that lead astray, doubts of the data."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy.optimize import curve_fit

from open_lemma.core.run.execute.interpreter import run

YEARS = [1998, 2001, 2004, 2007, 2010, 2013, 2016, 2019, 2022]
LEVELS = [3.1, 3.4, 3.3, 3.9, 4.2, 4.1, 4.6, 5.0, 5.2]


def findings(script: str) -> list[dict[str, Any]]:
    outcome = run(script)
    assert not outcome.failed, [m.text for m in outcome.reading.messages.items]
    return [f.as_record() for f in outcome.findings]


def by_orthogonal_columns(degree: int, at: float) -> tuple[float, float]:
    """Value and standard error of a polynomial fit by NumPy in a centred variable, where the columns stay apart."""
    t, y = (np.array(YEARS) - 2010) / 12, np.array(LEVELS)
    design = np.vander(t, degree + 1, increasing=True)
    coefficients, squares = np.linalg.lstsq(design, y, rcond=None)[:2]
    covariance = np.linalg.inv(design.T @ design) * squares[0] / (len(t) - degree - 1)
    row = np.vander([(at - 2010) / 12], degree + 1, increasing=True)[0]
    return float(row @ coefficients), float(np.sqrt(row @ covariance @ row))


@pytest.mark.parametrize("degree", [1, 2, 3, 4, 5, 6])
@pytest.mark.parametrize("year", [1998, 2003.7, 2015.5, 2022])
def test_polynomials_over_years(degree: int, year: float) -> None:
    script = f"ts = {YEARS}\nys = {LEVELS}\nm(t) = fit of polynomial {degree} to ys against ts\nshow m({year})"
    row = findings(script)[-1]["values"][0]
    value, error = by_orthogonal_columns(degree, year)
    assert row["value"] == pytest.approx(value, rel=1e-6)
    assert row["standard_error"] == pytest.approx(error, rel=1e-4)


def test_coefficients_are_stated_as_asked() -> None:
    told = findings(f"ts = {YEARS}\nys = {LEVELS}\nm(t) = fit of polynomial 1 to ys against ts\nshow m.c1, m(2000) - m.c0 - 2000*m.c1")
    slope, intercept = np.polyfit(YEARS, LEVELS, 1)
    parameters = {p["name"]: p["value"] for p in told[0]["values"][0]["parameters"]}
    assert parameters == pytest.approx({"c0": intercept, "c1": slope}, rel=1e-9)
    # A value and the coefficients keep their correlation.
    assert told[2]["values"][0].get("standard_error", 0.0) == pytest.approx(0.0, abs=1e-9)


X, Y = [0, 0.5, 1, 2, 4, 8], [0.02, 0.21, 0.48, 0.81, 0.95, 0.99]
WITH_ZERO = [
    ("M*t^n/(K^n + t^n)", "M, n, K", lambda t, m, n, k: m * t**n / (k**n + t**n), (1, 2, 1)),
    ("1 - exp(-(t/L)^k)", "L, k", lambda t, length, k: 1 - np.exp(-((t / length) ** k)), (1, 1)),
    ("C*t^n", "C, n", lambda t, c, n: c * t**n, (0.5, 0.4)),
]


@pytest.mark.parametrize(("model", "names", "function", "start"), WITH_ZERO, ids=[m[0] for m in WITH_ZERO])
def test_models_with_powers_of_zero(model: str, names: str, function: Any, start: tuple[float, ...]) -> None:
    told = findings(f"x = {X}\ny = {Y}\nf(t) = fit of {model} to y against x for {names}")[0]
    values, covariance = curve_fit(function, np.array(X, dtype=float), np.array(Y), p0=start)
    found = told["values"][0]["parameters"]
    assert [p["value"] for p in found] == pytest.approx(list(values), rel=1e-4)
    assert [p["standard_error"] for p in found] == pytest.approx(list(np.sqrt(np.diag(covariance))), rel=1e-3)


def test_a_start_that_leads_to_a_local_minimum_is_told() -> None:
    data = "x = 0 to 6 step 0.2\ny = 2*sin(5*x + 0.3) + 0.05*sin(97*x)\n"
    astray = findings(data + "s(t) = fit of A*sin(w*t + p) to y against x for A, w, p, start w = 40")[0]
    assert astray["evidence"] == "checked"
    assert "only a local minimum: the fit does better without a start" in astray["summary"]
    good = findings(data + "s(t) = fit of A*sin(w*t + p) to y against x for A, w, p, start w = 4.9")[0]
    assert "local minimum" not in good["summary"]


def test_cells_with_uncertainties_weigh_a_fit() -> None:
    table = "table m:\n    h  q\n    1  1.2±0.1\n    2  2.1(1)\n    3  3.2 \n".replace("3.2 ", "3.20(10)") + "    4  3.9±0.2\n"
    told = findings(table + "f(x) = fit of a + b*x to m.q against m.h for a, b")[0]
    design, y, s = np.vander([1, 2, 3, 4], 2, increasing=True), np.array([1.2, 2.1, 3.2, 3.9]), np.array([0.1, 0.1, 0.1, 0.2])
    covariance = np.linalg.inv((design.T / s**2) @ design)
    expected = covariance @ (design.T / s**2) @ y
    parameters = told["values"][0]["parameters"]
    assert [p["value"] for p in parameters] == pytest.approx(list(expected), rel=1e-9)
    assert [p["standard_error"] for p in parameters] == pytest.approx(list(np.sqrt(np.diag(covariance))), rel=1e-9)
    assert any("weighted by the uncertainties" in n for n in told["notes"])


def test_lists_keep_what_is_uncertain() -> None:
    script = "a = 1 ± 0.1\nb = 2 ± 0.1\nxs = [a, b]\nshow xs, mean(xs), sum(xs) - a - b, max(xs) - b, sum([a*k for k in [1, 2]]) - 3*a"
    listed, middle, *nothing = findings(script)
    assert listed["values"][0]["standard_errors"] == pytest.approx([0.1, 0.1])
    assert middle["values"][0]["standard_error"] == pytest.approx(0.1 / np.sqrt(2))
    assert [n["values"][0].get("standard_error", 0.0) for n in nothing] == [0.0] * 3


# ---------------------------------------------------------------- units of what is said of parameters, and of several tables

COOLING = (
    "ts = [0 [min], 2 [min], 4 [min], 6 [min], 8 [min]]\nzs = [84.1 [cm], 72.3 [cm], 61.2 [cm], 52 [cm], 44.1 [cm]]\n"
    "z(t) = fit of A*exp(-k*t) to zs against ts for A, k"
)


def _parameters(script: str) -> dict[str, Any]:
    finding = next(f.as_record() for f in run(script).findings if f.as_record()["noun"] == "fit")
    return {p["name"]: p for p in finding["values"][0]["parameters"]}


@pytest.mark.parametrize("said", [", limit A = 0 [m] to 2 [m], limit k = 0 [1/h] to 60 [1/h]", ", start A = 800 [mm], start k = 6 [1/h]"])
def test_limits_and_starts_are_brought_to_the_unit_of_their_parameter(said: str) -> None:
    plain, found = _parameters(COOLING), _parameters(COOLING + said)
    for name in "Ak":
        assert found[name]["value"] == pytest.approx(plain[name]["value"], rel=1e-9)
        assert found[name]["unit"] == plain[name]["unit"]
        assert not found[name].get("at_limit")


def test_what_is_fixed_is_brought_to_the_unit_of_its_parameter() -> None:
    one, other = (_parameters(f"{COOLING}, fix k = {said}")["A"] for said in ("5 [1/h]", "0.08333333333333333 [1/min]"))
    assert (one["unit"], other["unit"]) == ("cm", "cm")
    assert one["value"] == pytest.approx(other["value"], rel=1e-9)


@pytest.mark.parametrize(
    ("said", "phrase"), [(", limit A = 0 [s] to 2 [s]", "[s] is not converted to [cm]"), (", start A = 1 [kg]", "[kg] is not converted")]
)
def test_units_of_another_dimension_are_refused(said: str, phrase: str) -> None:
    assert any(phrase in m.text for m in run(COOLING + said).reading.messages.items)


def test_a_unit_for_a_parameter_that_has_none_is_refused() -> None:
    script = "xs = [1, 2, 3]\nys = [1.1, 2.1, 2.9]\nf(x) = fit of k*x to ys against xs for k, start k = 1 [m]"
    assert any("k has no unit that the data and the model would tell" in m.text for m in run(script).reading.messages.items)


def test_tables_in_other_sizes_are_fitted_together() -> None:
    script = (
        "ts = [0 [min], 2 [min], 4 [min], 6 [min]]\nzs = [84.1 [cm], 72.3 [cm], 61.2 [cm], 52 [cm]]\n"
        "us = [0 [s], 120 [s], 240 [s], 360 [s]]\nys = [0.42 [m], 0.36 [m], 0.306 [m], 0.26 [m]]\n"
        "both = fit of [A*exp(-k*t), B*exp(-k*t)] to [zs, ys] against [ts, us] for A, B, k\n"
    )
    same = script.replace("[0 [s], 120 [s], 240 [s], 360 [s]]", "[0 [min], 2 [min], 4 [min], 6 [min]]")
    same = same.replace("[0.42 [m], 0.36 [m], 0.306 [m], 0.26 [m]]", "[42 [cm], 36 [cm], 30.6 [cm], 26 [cm]]")
    found, plain = _parameters(script), _parameters(same)
    for name, unit in (("A", "cm"), ("B", "cm"), ("k", "min⁻¹")):
        assert (found[name]["value"], found[name]["unit"]) == (pytest.approx(plain[name]["value"], rel=1e-9), unit)


def test_the_unit_of_a_factor_before_a_power_is_said_to_depend_on_it() -> None:
    script = (
        "hs = [10 [cm], 20 [cm], 30 [cm], 40 [cm], 50 [cm]]\nqs = [0.06 [m^3/s], 0.17 [m^3/s], 0.31 [m^3/s], 0.48 [m^3/s], 0.66 [m^3/s]]\n"
        "Q(h) = fit of C*h^n to qs against hs for C, n\nshow Q(0.25 [m])"
    )
    fit, shown = (f.as_record() for f in run(script).findings)
    assert _parameters(script)["C"]["unit"] == "m³ s⁻¹ cm^(−n)"
    assert "the unit of C depends on n: m³ s⁻¹ cm^(−n)" in fit["notes"]
    assert shown["values"][0]["unit"] == "m³ s⁻¹"
    assert shown["values"][0]["value"] == pytest.approx(0.2376, abs=0.002)
