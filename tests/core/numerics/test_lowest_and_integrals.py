"""Lowest values and integrals: published and handbook values, enclosures that hold the truth at 60 digits and are narrow, and
random formulas, of which nothing that is called proven may be wrong."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import mpmath
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from open_lemma.core.formula.nodes import Formula, Number
from open_lemma.core.formula.tape import Tape
from open_lemma.core.numerics.extrema.lowest import lowest_value
from open_lemma.core.numerics.integrals.integrals import NoIntegral, integral_of
from open_lemma.core.numerics.roots.search import NotSearchable
from open_lemma.core.run.execute.interpreter import run

mpmath.mp.dps = 60


def formula(text: str) -> Formula:
    found = run(f"f(x) = {text}").names.find("f")
    return found.body  # type: ignore[union-attr]


def number(value: str | float) -> Formula:
    return Number(Fraction(value))


# P. Hansen, B. Jaumard, S.-H. Lu, "Global optimization of univariate Lipschitz functions II", Math. Program. 55 (1992) 273,
# problems 2 to 8, 10 to 13 and 18; minima as they are widely quoted (from memory), each found anew by the test on a fine grid.
PROBLEMS = [
    ("sin(x) + sin(10/3*x)", "2.7", "7.5", -1.8996, 5.1457), ("(16x^2 - 24x + 5)*exp(-x)*-1", "1.9", "3.9", -3.85045, 2.868),
    ("(1.4 - 3x)*sin(18x)*-1", "0", "1.2", -1.48907, 0.96609), ("-(x + sin(x))*exp(-x^2)", "-10", "10", -0.824239, 0.67956),
    ("sin(x) + sin(10/3*x) + ln(x) - 0.84x + 3", "2.7", "7.5", -1.6013, 5.19978), ("-x*sin(x)", "0", "10", -7.916727, 7.9787),
    ("2cos(x) + cos(2x)", "-1.57", "6.28", -1.5, None), ("sin(x)^3 + cos(x)^3", "0", "6.28", -1.0, None),
    ("-exp(-x)*sin(2pi*x)", "0", "4", -0.788685, 0.224885), ("(x^2 - 5x + 6)/(x^2 + 1)", "-5", "5", -0.035534, 2.41422),
]  # fmt: skip


@pytest.mark.parametrize(("text", "low", "high", "value", "place"), PROBLEMS, ids=[p[0] for p in PROBLEMS])
def test_published_minima(text: str, low: str, high: str, value: float, place: float | None) -> None:
    f = formula(text)
    found = lowest_value(f, "x", number(low), number(high))
    assert found.complete
    assert found.places[0].value == pytest.approx(value, abs=2e-4)
    if place is not None:
        assert found.places[0].x == pytest.approx(place, abs=2e-3)
    grid = Tape([f], ["x"]).numeric(np.linspace(float(Fraction(low)), float(Fraction(high)), 400_001))[0]
    assert found.places[0].value <= float(np.nanmin(grid)) + 1e-13
    assert found.places[0].value == pytest.approx(float(np.nanmin(grid)), abs=1e-6)
    for p in found.places:
        assert p.evidence == "proven"
        low_end, high_end = (mpmath.mpf(t) for t in p.value_interval)
        assert low_end <= mpmath.mpf(p.value) + mpmath.mpf("1e-15")
        assert high_end - low_end < 1e-12 * max(1.0, abs(p.value))


KINDS = [
    ("x^2", "-1", "2", [(0.0, 0.0, "turn")]), ("abs(x - 1)", "0", "3", [(1.0, 0.0, "kink")]), ("exp(x)", "0", "1", [(0.0, 1.0, "end")]),
    ("sqrt(x)", "0", "4", [(0.0, 0.0, "end")]), ("-x", "0", "4", [(4.0, -4.0, "end")]),
    ("x^4 - x^2", "-2", "2", [(-(0.5**0.5), -0.25, "turn"), (0.5**0.5, -0.25, "turn")]),
    ("(2 - x when x < 1, otherwise x)", "0", "3", [(1.0, 1.0, "kink")]),
    ("cos(x)", "0", "20", [(np.pi * k, -1.0, "turn") for k in (1, 3, 5)]),
]  # fmt: skip


@pytest.mark.parametrize(("text", "low", "high", "wanted"), KINDS, ids=[k[0] for k in KINDS])
def test_every_place_of_the_lowest_value_with_its_kind(text: str, low: str, high: str, wanted: list[tuple[float, float, str]]) -> None:
    found = lowest_value(formula(text), "x", number(low), number(high))
    assert [(pytest.approx(p.x, abs=1e-12), pytest.approx(p.value, abs=1e-15), p.kind) for p in found.places] == wanted
    assert found.complete
    highest = lowest_value(formula(f"-({text})" if "when" not in text else f"-1*({text})"), "x", number(low), number(high), highest=True)
    assert [p.x for p in highest.places] == [p.x for p in found.places]
    assert highest.places[0].value == -found.places[0].value


def test_what_falls_without_bound_has_no_lowest_value() -> None:
    found = lowest_value(formula("1/x"), "x", number("-1"), number("1"))
    assert found.places == []
    assert found.unbounded == 0
    # Undefined throughout; of the second one no box shows it.
    for nowhere in ("sqrt(-1 - x^2)", "acos(max(x/ln(-3), (x - 2)*cbrt(x)))"):
        with pytest.raises(NotSearchable):
            lowest_value(formula(nowhere), "x", number("-1"), number("1"))


# Values from I. S. Gradshteyn, I. M. Ryzhik, Table of Integrals, Series, and Products (numbers from memory), each against
# mpmath at 60 digits.
INTEGRALS: list[tuple[str, str, str, Any]] = [
    ("exp(-x^2)", "0", "1", lambda: mpmath.sqrt(mpmath.pi) / 2 * mpmath.erf(1)), ("1/(1 + x^2)", "0", "1", lambda: mpmath.pi / 4),
    ("ln(1 + x)/(1 + x^2)", "0", "1", lambda: mpmath.pi / 8 * mpmath.log(2)), ("sqrt(1 - x^2)", "-1", "1", lambda: mpmath.pi / 2),
    ("sin(x)/x", "1", "20", lambda: mpmath.si(20) - mpmath.si(1)),
    ("besselj(0, x)", "0", "10", lambda: mpmath.quad(lambda t: mpmath.besselj(0, t), [0, 5, 10])), ("abs(sin(x))", "0", "20", None),
    ("floor(x)*x", "0", "3.5", lambda: mpmath.mpf("8.875") - mpmath.mpf("0.0") + 0), ("cbrt(x)", "-1", "8", lambda: mpmath.mpf(45) / 4),
    ("triangle(x)", "0", "2.25", None), ("max(x, 1 - x, 0.6)", "0", "1", None), ("x^2.5", "0", "2", lambda: mpmath.mpf(2) ** 3.5 / 3.5),
    ("sin(100x)", "0", "7", lambda: (1 - mpmath.cos(700)) / 100), ("Gamma(x)", "1", "3", None), ("bessely(1, x)", "0.5", "9", None),
    ("(x when x < 1, otherwise 2 - x)", "0", "2", lambda: mpmath.mpf(1)), ("mod(x, 1)", "-2", "3", lambda: mpmath.mpf(5) / 2),
    ("x^3 - 2x + 1", "-2", "2", lambda: mpmath.mpf(4)),
]  # fmt: skip
CALLS: dict[str, Any] = {
    "abs(sin(x))": lambda: 12 + 1 - mpmath.cos(20 - 6 * mpmath.pi),
    "triangle(x)": None, "max(x, 1 - x, 0.6)": lambda: 2 * (mpmath.mpf("0.4") * mpmath.mpf("0.8")) + mpmath.mpf("0.2") * mpmath.mpf("0.6"),
    "Gamma(x)": lambda: mpmath.quad(mpmath.gamma, [1, 2, 3]), "bessely(1, x)": lambda: mpmath.bessely(0, 0.5) - mpmath.bessely(0, 9),
}  # fmt: skip


@pytest.mark.parametrize(("text", "low", "high", "truth"), INTEGRALS, ids=[i[0] for i in INTEGRALS])
def test_integrals_hold_the_truth_and_are_narrow(text: str, low: str, high: str, truth: Any) -> None:
    found = integral_of(formula(text), "x", number(low), number(high))
    truth = truth or CALLS[text]
    if text == "floor(x)*x":
        exact = sum(k * ((k + 1) ** 2 - k**2) / mpmath.mpf(2) for k in range(3)) + 3 * (mpmath.mpf("3.5") ** 2 - 9) / 2
    elif truth is None:
        exact = mpmath.mpf(integral_of(formula("triangle(x)"), "x", number("0"), number("0.25")).value)  # whole periods give nothing
    else:
        exact = truth()
    assert found.evidence == "proven"
    least, most = (mpmath.mpf(t) for t in found.interval)
    slack = mpmath.mpf("1e-16") if truth is None else 0
    assert least - slack <= exact <= most + slack
    assert most - least < 1e-12 * max(1, abs(exact))
    assert float(abs(exact - found.value)) <= 1e-14 * max(1.0, abs(found.value))


# x^x from 0 to 1 is Johann Bernoulli's series, the sum of -(-n)^-n.
SINGULAR = [
    ("1/sqrt(x)", "0", "1", 2.0), ("ln(x)", "0", "1", -1.0), ("x^-0.9", "0", "1", 10.0), ("x^x", "0", "1", 0.7834305107121344),
    ("asin(x)", "0", "1", np.pi / 2 - 1),
]  # fmt: skip


@pytest.mark.parametrize(("text", "low", "high", "value"), SINGULAR, ids=[i[0] for i in SINGULAR])
def test_singular_ends(text: str, low: str, high: str, value: float) -> None:
    found = integral_of(formula(text), "x", number(low), number(high))
    if found.evidence == "proven":
        assert float(found.interval[0]) <= value * (1 + 1e-15) if value > 0 else True
        assert found.value == pytest.approx(value, rel=1e-13)
    assert found.value == pytest.approx(value, rel=1e-6)
    if found.evidence == "checked":
        assert abs(found.value - value) <= max(found.error * 4, 1e-12)


WITHOUT = [("1/x", "-1", "1"), ("1/x", "0", "1"), ("tan(x)", "0", "2"), ("1/(x - 1)^2", "0", "2"), ("sqrt(x)", "-1", "1")]


@pytest.mark.parametrize(("text", "low", "high"), WITHOUT)
def test_what_has_no_integral_is_refused(text: str, low: str, high: str) -> None:
    with pytest.raises(NoIntegral):
        integral_of(formula(text), "x", number(low), number(high))


def test_a_function_without_values_is_not_said_to_grow_without_bound() -> None:
    with pytest.raises(NoIntegral, match="no value at x = "):
        integral_of(formula("acos(max(x/ln(-3), (x - 2)*cbrt(x)))"), "x", number("-1"), number("3"))


def test_a_power_with_a_changing_exponent_is_no_whole_power() -> None:
    """On a wide ball that holds one whole number, x^x is not x^1: a mistake of the first version, which 'proved' 0.91."""
    found = integral_of(formula("(1 + x)^x"), "x", number("0"), number("2"))
    truth = mpmath.quad(lambda t: (1 + t) ** t, [0, 1, 2])
    assert mpmath.mpf(found.interval[0]) <= truth <= mpmath.mpf(found.interval[1])


ATOMS = st.sampled_from(["x", "2x", "x^2", "sin(x)", "cos(3x)", "exp(-x)", "abs(x - 0.3)", "sqrt(x + 2)", "1/(x^2 + 1)", "floor(x)", "x^3",
                         "ln(x + 2.5)", "max(x, 0.5)", "atan(x)", "tanh(2x)", "erf(x)", "cbrt(x)", "x^x^2", "besselj(1, x)"])  # fmt: skip
SIGNS = st.sampled_from(["+", "-", "*"])
TEXTS = st.recursive(ATOMS, lambda inner: st.tuples(inner, SIGNS, inner).map(lambda t: f"({t[0]} {t[1]} {t[2]})"), max_leaves=4)


@settings(max_examples=120, deadline=None)
@given(TEXTS, st.integers(-8, 4), st.integers(1, 12))
def test_nothing_proven_is_wrong(text: str, low: int, width: int) -> None:
    """The honour of the thing: random formulas against dense sampling and an independent quadrature."""
    f = formula(text)
    a, b = Fraction(low, 4), Fraction(low + width, 4)
    x = np.linspace(float(a), float(b), 20_001)
    y = np.broadcast_to(np.asarray(Tape([f], ["x"]).numeric(x)[0], dtype=float), x.shape)
    for highest in (False, True):
        try:
            found = lowest_value(f, "x", Number(a), Number(b), highest)
        except NotSearchable:
            continue
        if found.complete and found.places:
            seen = float(np.nanmax(y) if highest else np.nanmin(y))
            told = found.places[0].value
            beyond = seen - told if highest else told - seen
            assert beyond <= 1e-12 * max(1.0, abs(told)), (text, highest)
    try:
        whole = integral_of(f, "x", Number(a), Number(b))
    except NoIntegral:
        return
    if whole.evidence == "proven":
        middles = (x[:-1] + x[1:]) / 2
        values = np.broadcast_to(np.asarray(Tape([f], ["x"]).numeric(middles)[0], dtype=float), middles.shape)
        rough = float(np.nansum(values) * (x[1] - x[0]))
        assert abs(rough - whole.value) <= 2e-3 * max(1.0, float(np.nanmax(np.abs(y))) * float(b - a)), text


# Taken at endlessly many places next to 0, or to a pole of what stands inside: elementary.
ENDLESS = [
    ("lowest of cos(1/x) for x from 0 to 1", -1),
    ("highest of sin(1/x) for x from -1 to 1", 1),
    ("lowest of 2*cos(-3/tanh(4*x + 1/2)) for x from -11/2 to 0", -2),
    ("highest of sin(tan(x)) for x from 0 to 2", 1),
]


@pytest.mark.parametrize(("script", "value"), ENDLESS, ids=[s for s, *_ in ENDLESS])
def test_a_value_that_is_taken_at_endlessly_many_places(script: str, value: int) -> None:
    found = run(script).findings[0].as_record()
    assert found["evidence"] == "proven"
    assert all(row["value"] == pytest.approx(value, rel=1e-14) for row in found["values"])
    assert 3 <= len(found["values"]) <= 12
    assert "more places" in found["notes"][0] or "places or more" in found["notes"][0]


def test_pieces_with_a_number_that_is_a_step_are_integrated_at_once() -> None:
    """floor(-1) is a number and no step: by Arb's integration, and not by halving without end. A triangle wave over whole periods is 0."""
    value = run("integral of triangle(x + 1/4 - floor(-1)) for x from 0 to 12").findings[0].as_record()
    assert value["evidence"] == "proven"
    assert value["values"][0]["value"] == pytest.approx(0, abs=1e-15)
