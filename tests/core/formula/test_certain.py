"""Numbers with an enclosure: rounded outward, narrow, exact where they are."""

from __future__ import annotations

from fractions import Fraction

import mpmath
import pytest
from hypothesis import given
from hypothesis import strategies as st

from open_lemma.core.formula.certain import fraction_text
from open_lemma.core.run.execute.interpreter import run

VALUES = [
    ("2/3 + 1/6", Fraction(5, 6)),
    ("0.1 + 0.2", Fraction(3, 10)),
    ("2^-3", Fraction(1, 8)),
    ("(1/3)^2", Fraction(1, 9)),
    ("-2^2", Fraction(-4)),
    ("2^3^2", Fraction(512)),
    ("sin(pi)", Fraction(0)),
    ("sqrt(2)^2 - 2", Fraction(0)),
    ("exp(1) - e", Fraction(0)),
    ("0^0", Fraction(1)),
    ("mod(-1, 3)", Fraction(2)),
    ("round(2.5)", Fraction(3)),
    ("floor(-0.5)", Fraction(-1)),
    ("ceil(-0.5)", Fraction(0)),
    ("max(1, 3, 2)", Fraction(3)),
]


@pytest.mark.parametrize(("text", "exact"), VALUES)
def test_exact_values(text: str, exact: Fraction) -> None:
    finding = run(f"show {text}").findings[0]
    value = finding.rows[0]
    assert value["value"] == float(exact)
    assert finding.evidence == "proven"
    low, high = (Fraction(end) for end in value["interval"])
    assert low <= exact <= high


IRRATIONAL = [
    ("sqrt(2)", lambda: mpmath.sqrt(2)),
    ("pi^2/6", lambda: mpmath.pi**2 / 6),
    ("exp(pi*sqrt(163))", lambda: mpmath.exp(mpmath.pi * mpmath.sqrt(163))),
    ("sin(1e22)", lambda: mpmath.sin(mpmath.mpf(10) ** 22)),
    ("ln(2)/ln(10)", lambda: mpmath.log10(2)),
    ("30deg", lambda: mpmath.pi / 6),
    ("1e-300^0.5", lambda: mpmath.mpf(10) ** -150),
    ("cos(1e-9) - 1 + 0.5e-18", lambda: mpmath.cos(mpmath.mpf(10) ** -9) - 1 + mpmath.mpf(5) * mpmath.mpf(10) ** -19),
]


@pytest.mark.parametrize(("text", "truth"), IRRATIONAL)
def test_intervals_hold_the_truth_and_are_narrow(text: str, truth: object) -> None:
    value = run(f"show {text}").findings[0].rows[0]
    with mpmath.workdps(60):
        true = truth()  # type: ignore[operator]
        low, high = (mpmath.mpf(end) for end in value["interval"])
        assert low <= true <= high
        assert high - low <= abs(true) * mpmath.mpf(10) ** -17
        assert value["value"] == float(true)


@given(st.fractions(), st.integers(1, 25))
def test_decimal_texts_are_rounded_outward(value: Fraction, digits: int) -> None:
    low, high = (Fraction(fraction_text(value, digits, side)) for side in (-1, 1))
    assert low <= value <= high
    assert high - low <= abs(value) * Fraction(10) ** (1 - digits)


@pytest.mark.parametrize("text", ["1/0", "sqrt(-1)", "ln(0)", "tan(pi/2)", "Gamma(-2)", "0^-1", "asin(1.0000001)", "1e400", "10^400"])
def test_what_has_no_value_is_refused(text: str) -> None:
    outcome = run(f"show {text}")
    assert not outcome.findings
    assert outcome.failed
