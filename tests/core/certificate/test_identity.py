"""Formulas as the verifier sees them: derivatives against mpmath, equal formulas, solutions put back, and what is refused."""

from __future__ import annotations

import random

import mpmath
import pytest
from flint import arb

from open_lemma.core.certificate.program import program_of
from open_lemma.core.certificate.record import verify_finding
from open_lemma.core.certificate.verifier import verify
from open_lemma.core.formula.ball import precision
from open_lemma.core.formula.calculus import derivative
from open_lemma.core.formula.certain import enclosure
from open_lemma.core.formula.nodes import Formula, expanded
from open_lemma.core.formula.tape import Tape
from open_lemma.core.record.rows import ValueRow
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.findings import FindingDraft
from open_lemma.core.run.proofs import held_to_its_proof
from open_lemma.core.run.values import FunctionValue

ROW = {"text": "", "latex": "", "evidence": "proven"}


def formula_of(text: str) -> Formula:
    outcome = run(f"f(x) = {text}\nshow f\n")
    value = outcome.names.find("f")
    assert isinstance(value, FunctionValue), [m.text for m in outcome.reading.messages.items]
    return expanded(value.body)


def identical(formula: Formula, result: Formula, along: tuple[str, ...] = ()) -> bool:
    certificate = {"claim": "identity", "formula": program_of(formula), "along": list(along), "result": program_of(result)}
    return verify(certificate, [ROW]).complete


# Trigonometric, hyperbolic, exponential identities: NIST DLMF 4.21.3, 4.21.28, 4.35.1, 4.35.29; roots and powers: A&S 3.1.
EQUAL = [
    ("sin(x)^2 + cos(x)^2", "1"),
    ("cos(2x)", "1 - 2*sin(x)^2"),
    ("sin(3x)", "3*sin(x) - 4*sin(x)^3"),
    ("sin(x + pi/6)", "sqrt(3)/2*sin(x) + cos(x)/2"),
    ("cosh(2x)", "2*cosh(x)^2 - 1"),
    ("tanh(x)", "(exp(2x) - 1)/(exp(2x) + 1)"),
    ("exp(x + ln(2))*exp(-x)", "exp(ln(2))"),
    ("(x^4 - 1)/(x^2 + 1)", "x^2 - 1"),
    ("sqrt(x)*sqrt(x)", "x"),
    ("(1 + sqrt(5))^2/4", "1 + (1 + sqrt(5))/2 - 0"),
    ("1/(sqrt(x) - 1)", "(sqrt(x) + 1)/(x - 1)"),
    ("abs(x)^2", "x^2"),
    ("max(x, 1) + min(x, 1)", "x + 1"),
    ("log10(x)*ln(10)", "ln(x)"),
    ("sqrt(1/(1 - x))", "1/sqrt(1 - x)"),
    ("sqrt(x/(x - 1))", "sqrt(x^2 - x)/abs(1 - x)"),
    ("sqrt(4*x^2)", "2*abs(x)"),
]


@pytest.mark.parametrize(("one", "other"), EQUAL)
def test_equal_formulas_are_seen_to_be_equal(one: str, other: str) -> None:
    assert identical(formula_of(one), formula_of(other))
    assert not identical(formula_of(f"{one} + x/10^9"), formula_of(other))


# Each is wrong on a part of the line, or everywhere but at one place.
DIFFERENT = [
    ("sqrt(x^2)", "x"),
    ("abs(x)", "x"),
    ("ln(x^2)", "2*ln(x)"),
    ("asin(sin(x))", "x"),
    ("(x^2)^(1/2)", "x"),
    ("x^3", "x^2"),
    ("sin(x)", "x"),
    ("sqrt(x + 1)", "sqrt(x) + 1"),
    ("cbrt(x)^3", "abs(x)"),
    ("sign(x)", "1"),
    ("exp(x)", "exp(-x)"),
    ("sign(x)^2", "1"),
    ("sqrt(1/(1 - x))", "-1/sqrt(1 - x)"),
    ("sqrt(x/(x - 1))", "sqrt(x^2 - x)/(x - 1)"),
    ("sqrt(1/x^2)", "1/x"),
]


@pytest.mark.parametrize(("one", "other"), DIFFERENT)
def test_different_formulas_are_never_seen_to_be_equal(one: str, other: str) -> None:
    assert not identical(formula_of(one), formula_of(other))


PARTS = [
    "x", "x^2", "1/x", "sqrt(x)", "exp(-x)", "ln(x)", "sin(2x)", "cos(x/3)", "tan(x)", "atan(x)", "asin(x/9)", "x^x", "x^(2/3)", "cbrt(x)",
    "sinh(x)", "cosh(x)", "tanh(x)", "erf(x)", "abs(x - 2)", "2^x", "log10(x)", "Gamma(x)", "besselj(1, x)", "max(x, 1/2)", "1 + x^2",
]  # fmt: skip


def random_formula(rng: random.Random) -> str:
    one, other, third = (rng.choice(PARTS) for _ in range(3))
    return rng.choice(
        [f"({one})*({other}) + {third}", f"({one})/({other})", f"({one})*sin({other})", f"exp(({one})/9)*({other}) - {third}"]
    )


def at(formula: Formula, x: mpmath.mpf) -> mpmath.mpf:
    """A formula at a place, to 60 digits."""
    with precision(400):
        value = enclosure(Tape([formula], ["x"]), 400, arb(mpmath.nstr(x, 60)))
    assert value is not None
    return mpmath.mpf(value.mid().str(60, radius=False))


@pytest.mark.parametrize("seed", range(40))
def test_a_derivative_that_is_confirmed_is_that_of_mpmath(seed: int) -> None:
    """What the verifier confirms is held against mpmath's numerical derivative (Richardson) of the formula itself."""
    formula = formula_of(random_formula(random.Random(seed)))
    slope = derivative(formula, "x")
    assert identical(formula, slope, ("x",))
    assert not identical(formula, slope)
    with mpmath.workdps(50):
        for x in (mpmath.mpf("0.3"), mpmath.mpf("1.7"), mpmath.mpf("2.9")):
            rise = mpmath.diff(lambda t: at(formula, t), x, h=mpmath.mpf(10) ** -18)
            assert abs(at(slope, x) - rise) <= mpmath.mpf(10) ** -15 * (1 + abs(rise))


def test_solutions_put_back() -> None:
    equation = program_of(formula_of("x^2 - x - 1"))
    golden = (1 + 5**0.5) / 2
    certificate = {
        "claim": "solutions",
        "formulas": [equation],
        "variables": ["x"],
        "values": [{"x": program_of(formula_of("(1 + sqrt(5))/2"))}],
    }
    assert verify(certificate, [{"x": golden}]).proven == [True]
    assert verify(certificate, [{"x": golden * (1 + 1e-14)}]).proven == [False]
    assert verify({**certificate, "values": [{"x": program_of(formula_of("1.618"))}]}, [{"x": 1.618}]).proven == [False]
    # That there are no others is never claimed.
    assert not verify(certificate, [{"x": golden}]).complete
    # An equation that has no value at a place is not solved there.
    no_value = {**certificate, "formulas": [program_of(formula_of("ln(x)*0"))], "values": [{"x": program_of(formula_of("-1"))}]}
    assert verify(no_value, [{"x": -1.0}]).proven == [False]


@pytest.mark.parametrize(
    ("statement", "solutions"),
    [
        ("solution of a*x^2 + b*x + c = 0 for x", 2),
        ("solution of x^2 + y = 3, x - y = 1 for x, y", 2),
        ("solution of x^2 + y^2 = 25, x*y = 12 for x, y", 4),
        ("solution of a*x = b for x", 1),
    ],
)
def test_what_algebra_solved_is_put_back_and_not_said_to_be_all(statement: str, solutions: int) -> None:
    finding = run(statement).findings[0].as_record()
    assert [row["evidence"] for row in finding["values"]] == ["proven"] * solutions
    assert finding["evidence"] == "checked"
    assert not verify_finding(finding).fault
    part = finding["certificate"]["parts"][0]
    part["formulas"][0] = [*part["formulas"][0], ["number", "1/1000"], ["+", len(part["formulas"][0]) - 1, len(part["formulas"][0])]]
    assert "no certificate shows it" in verify_finding(finding).fault


@pytest.mark.parametrize("statement", ["solution of x + y = 1, x + y = 2 for x, y", "solution of 2*(x + 1) = 2*x + 2 for x"])
def test_none_and_all_are_proven(statement: str) -> None:
    finding = run(statement).findings[0].as_record()
    assert finding["evidence"] == "proven"
    assert not verify_finding(finding).fault
    part = finding["certificate"]["parts"][0]
    part["formulas"][0] = [*part["formulas"][0], ["variable", "x"], ["+", len(part["formulas"][0]) - 1, len(part["formulas"][0])]]
    assert verify_finding(finding).fault


@pytest.mark.parametrize(
    ("condition", "held"), [("1/3 + 1/6 = 1/2", True), ("sqrt(8) = 2*sqrt(2)", True), ("exp(1) < 2.7", False), ("not 1 = 2", True)]
)
def test_conditions(condition: str, held: bool) -> None:
    finding = run(f"check {condition}\n").findings[0].as_record()
    assert finding["evidence"] == "proven"
    part = finding["certificate"]["parts"][0]
    assert verify(part, [{"passed": held}]).complete
    assert not verify(part, [{"passed": not held}]).complete


def test_a_row_without_a_certificate_is_never_proven() -> None:
    bare = FindingDraft([ValueRow(value=1.0, interval=("1", "1"), evidence="proven")], "proven", True, "", "", [])
    told = held_to_its_proof(bare)
    assert told.evidence == "checked"
    assert told.values[0].evidence == "checked"
    # An exact number as it stands claims nothing.
    plain = held_to_its_proof(FindingDraft([ValueRow(value=1.0, evidence="proven")], "proven", True, "", "", []))
    assert plain.evidence == "proven"
