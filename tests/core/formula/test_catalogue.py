"""Every function's readings against each other and against mpmath, a general library of arbitrary precision."""

from __future__ import annotations

import math
from fractions import Fraction

import matplotlib
import mpmath
import numpy as np
import pytest
import sympy
from flint import arb
from hypothesis import assume, given
from hypothesis import strategies as st
from matplotlib.mathtext import MathTextParser

from open_lemma.core.formula.ball import Undefined, bessel_j, branches, doubt, precision
from open_lemma.core.formula.calculus import NoDerivative, derivative
from open_lemma.core.formula.catalogue import BUILTINS, ENTRIES, call, number
from open_lemma.core.formula.exact import to_sympy
from open_lemma.core.formula.nodes import Number, Variable
from open_lemma.core.formula.tape import Tape
from open_lemma.core.formula.typeset import tex
from open_lemma.core.run.execute.interpreter import run

X = Variable("x")
ONE_ARGUMENT = [n for n, e in ENTRIES.items() if e.arity == (1, 1) and e.category not in ("operator", "list", "random") and e.available]

# mpmath's own functions, and definitions written out for what it lacks.
ORACLE = {
    "sin": mpmath.sin, "cos": mpmath.cos, "tan": mpmath.tan, "asin": mpmath.asin, "acos": mpmath.acos, "atan": mpmath.atan,
    "sinh": mpmath.sinh, "cosh": mpmath.cosh, "tanh": mpmath.tanh, "exp": mpmath.exp, "ln": mpmath.log, "sqrt": mpmath.sqrt,
    "log10": lambda x: mpmath.log(x, 10), "log2": lambda x: mpmath.log(x, 2), "abs": abs, "sign": mpmath.sign,
    "cbrt": lambda x: mpmath.sign(x) * mpmath.cbrt(abs(x)), "floor": mpmath.floor, "ceil": mpmath.ceil,
    "round": lambda x: mpmath.floor(x + mpmath.mpf(1) / 2), "erf": mpmath.erf, "erfc": mpmath.erfc, "Gamma": mpmath.gamma,
    "digamma": mpmath.digamma,
    "square": lambda t: 1 if t - mpmath.floor(t) < mpmath.mpf(1) / 2 else -1,
    "sawtooth": lambda t: 2 * (t - mpmath.floor(t + mpmath.mpf(1) / 2)),
    "triangle": lambda t: 1 - 4 * abs((t - mpmath.mpf(1) / 4) - mpmath.floor(t - mpmath.mpf(1) / 4 + mpmath.mpf(1) / 2)),
}  # fmt: skip
PLACES = [-7.3, -2.75, -1.0, -0.5, -0.1, 0.0, 0.2, 0.25, 0.5, 0.7, 1.0, 1.5, 2.0, 3.25, 6.9]


def oracle(name: str, x: float) -> mpmath.mpf | None:
    """The true value to 40 digits; None where there is no real one."""
    with mpmath.workdps(40):
        try:
            value = ORACLE[name](mpmath.mpf(x))
        except (ValueError, ZeroDivisionError):
            return None
        return None if isinstance(value, mpmath.mpc) or not mpmath.isfinite(value) else mpmath.mpf(value)


def test_the_oracle_knows_every_function_of_one_number() -> None:
    assert set(ONE_ARGUMENT) == set(ORACLE)


@pytest.mark.parametrize("name", ONE_ARGUMENT)
def test_numbers(name: str) -> None:
    tape = Tape([call(name, X)], ["x"])
    for x in PLACES:
        true, found = oracle(name, x), float(tape.numeric(np.array([x]))[0][0])
        if true is None:
            assert not math.isfinite(found), (x, found)
        else:
            assert found == pytest.approx(float(true), rel=1e-13, abs=1e-14), x


@pytest.mark.parametrize("name", ONE_ARGUMENT)
def test_balls_hold_the_truth_and_are_narrow(name: str) -> None:
    tape = Tape([call(name, X)], ["x"])
    for x in PLACES:
        true = oracle(name, x)
        with precision(100):
            try:
                values = [v[0] for v in branches(lambda x=x: tape.ball(arb(x)))]
            except Undefined:
                values = []
            values = [v for v in values if v.is_finite()]
            if true is None:
                assert not values or not doubt.clean, x
                continue
            with mpmath.workdps(40):
                assert any(v.overlaps(arb(mpmath.nstr(true, 38), abs(float(true)) * 1e-36)) for v in values), x
            if doubt.clean:
                assert all(float(v.rad()) <= 1e-25 * max(1.0, abs(float(true))) for v in values), x


@pytest.mark.parametrize("name", ONE_ARGUMENT)
@given(st.floats(-6, 6), st.floats(0, 0.5), st.floats(0, 1))
def test_a_ball_of_a_span_holds_the_value_anywhere_in_it(name: str, low: float, width: float, share: float) -> None:
    high = low + width
    inside = min(max(low + share * width, low), high)
    true = oracle(name, inside)
    assume(true is not None)
    tape = Tape([call(name, X)], ["x"])
    with precision(64):
        found = list(branches(lambda: tape.ball(arb(low).union(arb(high)))))
        assert found
        held = any(v is None or not v[0].is_finite() or v[0].overlaps(arb(mpmath.nstr(true, 30), abs(float(true)) * 1e-28)) for v in found)
        assert held


@pytest.mark.parametrize("name", ONE_ARGUMENT)
def test_derivatives_against_differences(name: str) -> None:
    try:
        slope = Tape([derivative(call(name, X), "x")], ["x"])
    except NoDerivative:
        assert name == "digamma"
        return
    for x in (-2.3, -0.6, 0.3, 0.65, 1.7):
        with mpmath.workdps(40):
            h = mpmath.mpf(10) ** -12
            if oracle(name, x) is None:
                continue
            near = [mpmath.mpf(ORACLE[name](mpmath.mpf(x) + side * h)) for side in (-1, 1)]
            true = float((near[1] - near[0]) / (2 * h))
        assert float(np.ravel(slope.numeric(np.array([x]))[0])[0]) == pytest.approx(true, rel=1e-7, abs=1e-7), x


@pytest.mark.parametrize("name", [n for n in ONE_ARGUMENT if n not in ("digamma",)])
def test_exact_reading_agrees(name: str) -> None:
    for x in (Fraction(1, 3), Fraction(7, 10)):
        expression = to_sympy(call(name, Number(x)))
        true = oracle(name, float(x))
        assert true is not None
        assert float(sympy.N(expression, 20)) == pytest.approx(float(true), rel=1e-14, abs=1e-15)


@pytest.mark.parametrize("name", [n for n, e in ENTRIES.items() if e.category != "operator" and e.available and n != "infinity"])
def test_the_example_of_the_handbook_runs(name: str) -> None:
    outcome = run(ENTRIES[name].example)
    assert not outcome.reading.messages.items
    assert outcome.findings or outcome.figures


@pytest.mark.parametrize("name", ONE_ARGUMENT)
def test_typeset_reading_can_be_typeset(name: str) -> None:
    with matplotlib.rc_context({"mathtext.fontset": "stix"}):
        # Matplotlib's typesetter knows no grown brackets around nothing; they are for the page's typesetter.
        MathTextParser("path").parse("$" + tex(call(name, X)).replace(r"\mathopen{}", "") + "$")


def test_every_word_is_known_to_the_language() -> None:
    for name, entry in ENTRIES.items():
        if entry.category == "operator":
            continue
        assert BUILTINS.is_function(name) or BUILTINS.is_constant(name)
        assert entry.help
        assert entry.example or not entry.available


# Abramowitz and Stegun (1964), tables 9.1, 9.2 (Bessel), 6.1 (gamma), 7.1 (error function); entered from memory.
HANDBOOK = [
    ("besselj(0, 1)", 0.7651976866, 1e-10), ("besselj(1, 1)", 0.4400505857, 1e-10), ("besselj(2, 5)", 0.0465651163, 1e-10),
    ("bessely(0, 1)", 0.0882569642, 1e-10), ("bessely(1, 1)", -0.7812128213, 1e-10), ("Gamma(1.5)", 0.8862269255, 1e-10),
    ("erf(1)", 0.8427007929, 1e-10), ("erfc(2)", 0.0046777350, 1e-10), ("Gamma(1/3)", 2.6789385347, 1e-10),
]  # fmt: skip


@pytest.mark.parametrize(("text", "value", "tolerance"), HANDBOOK)
def test_handbook_values(text: str, value: float, tolerance: float) -> None:
    finding = run(f"show {text}").findings[0]
    assert finding.evidence == "proven"
    assert finding.rows[0]["value"] == pytest.approx(value, abs=tolerance)


@given(st.integers(0, 8), st.floats(0.05, 40), st.floats(0, 2), st.floats(0, 1))
def test_bessel_balls_hold_the_truth(n: int, low: float, width: float, share: float) -> None:
    inside = low + share * width
    assume(low <= inside <= low + width)
    for name, function in (("besselj", mpmath.besselj), ("bessely", mpmath.bessely)):
        for order in (Number(Fraction(n)), Number(Fraction(2 * n + 1, 2))):
            tape = Tape([call(name, order, X)], ["x"])
            with precision(64):
                found = tape.ball(arb(low).union(arb(low + width)))[0]
            true = function(mpmath.mpf(order.value.numerator) / order.value.denominator, inside)
            assert not found.is_finite() or found.overlaps(arb(mpmath.nstr(true, 20), abs(float(true)) * 1e-14 + 1e-30))
            # Useful: no wider than the slope allows; the modulus at the low end bounds the slope.
            if n <= 2 and low > 2:
                assert float(found.rad()) <= 1.2 * width + 1e-9


def test_a_doubt_that_was_raised_is_not_taken_back() -> None:
    """An argument may have been undefined in part; that J is defined at 0 changes nothing of that."""
    with precision(64):
        doubt.begin([])
        doubt.partial = True
        assert bessel_j(arb(0.5), arb(0)).contains(0)
    assert doubt.partial


def test_waveforms_are_in_phase_with_the_sine() -> None:
    for name in ("square", "triangle", "sawtooth"):
        values = Tape([call(name, X)], ["x"]).numeric(np.array([0.125, 0.25, 0.375, 0.625, 0.75, 0.875]))[0]
        assert (np.sign(values[:3]) > 0).all()
        assert (np.sign(values[3:]) < 0).all()
    assert Tape([call("triangle", X)], ["x"]).numeric(np.array([0.25, 0.75]))[0].tolist() == [1.0, -1.0]
    assert number(2) == Number(Fraction(2))
