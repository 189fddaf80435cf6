"""Roots against handbook tables, exact oracles, hard functions of the literature, and laws."""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Any

import mpmath
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from open_lemma.core.run.execute.interpreter import run


def roots(formula: str, low: str, high: str) -> Any:
    """The finding of `roots of FORMULA for x from LOW to HIGH`."""
    outcome = run(f"roots of {formula} for x from {low} to {high}")
    assert not outcome.reading.messages.items, [m.text for m in outcome.reading.messages.items]
    return outcome.findings[0]


def places(finding: Any) -> list[float]:
    return [v["x"] for v in finding.rows]


def check_intervals(finding: Any, truths: list[mpmath.mpf]) -> None:
    """Each interval holds its true root and is narrower than the last digit of a double."""
    assert len(finding.rows) == len(truths)
    with mpmath.workdps(40):
        for value, truth in zip(finding.rows, truths, strict=True):
            low, high = (mpmath.mpf(end) for end in value["interval"])
            assert low <= truth <= high
            assert high - low <= abs(truth) * mpmath.mpf(2) ** -53 + mpmath.mpf(10) ** -300
            assert value["x"] == float(truth)


# ---------------------------------------------------------------- handbook tables

# Abramowitz and Stegun (1964), table 9.5: zeros j(0,s), j(1,s), y(0,s), y(1,s); the first digits entered from memory.
BESSEL = {
    ("besselj", 0): [2.4048255577, 5.5200781103, 8.6537279129, 11.7915344391, 14.9309177086],
    ("besselj", 1): [3.8317059702, 7.0155866698, 10.1734681351, 13.3236919363, 16.4706300509],
    ("bessely", 0): [0.8935769663, 3.9576784193, 7.0860510603, 10.2223450435, 13.3610974739],
    ("bessely", 1): [2.1971413260, 5.4296810407, 8.5960058683, 11.7491548308, 14.8974421283],
}


@pytest.mark.parametrize(("name", "order"), BESSEL)
def test_zeros_of_bessel_functions(name: str, order: int) -> None:
    table = BESSEL[name, order]
    finding = roots(f"{name}({order}, x)", "0.5", "16.48")
    assert places(finding) == pytest.approx(table, abs=1e-9)
    assert finding.evidence == "proven"
    zero = mpmath.besseljzero if name == "besselj" else mpmath.besselyzero
    with mpmath.workdps(40):
        check_intervals(finding, [zero(order, k) for k in range(1, 6)])


# Abramowitz and Stegun (1964), table 25.4: abscissas of Gauss-Legendre integration, the zeros of P_n; from memory.
LEGENDRE = {
    2: ("(3x^2 - 1)/2", [0.577350269189626]),
    3: ("(5x^3 - 3x)/2", [0.0, 0.774596669241483]),
    4: ("(35x^4 - 30x^2 + 3)/8", [0.339981043584856, 0.861136311594053]),
    5: ("(63x^5 - 70x^3 + 15x)/8", [0.0, 0.538469310105683, 0.906179845938664]),
    8: ("(6435x^8 - 12012x^6 + 6930x^4 - 1260x^2 + 35)/128", [0.183434642495650, 0.525532409916329, 0.796666477413627, 0.960289856497536]),
}


@pytest.mark.parametrize("n", LEGENDRE)
def test_zeros_of_legendre_polynomials(n: int) -> None:
    formula, table = LEGENDRE[n]
    finding = roots(formula, "-1", "1")
    assert [x for x in places(finding) if x >= 0] == pytest.approx(table, abs=2e-15)
    assert len(finding.rows) == n
    assert finding.evidence == "proven"
    assert "exactly" in finding.method


@pytest.mark.parametrize("n", [1, 2, 3, 7, 16, 31])
def test_zeros_of_chebyshev_polynomials(n: int) -> None:
    """T_n by its recurrence; zeros cos((2k - 1) pi/(2n)), Abramowitz and Stegun (1964), 22.16.4."""
    lines = ["t_0(x) = 1", "t_1(x) = x"] + [f"t_{k}(x) = 2x*t_{k - 1}(x) - t_{k - 2}(x)" for k in range(2, n + 1)]
    outcome = run("\n".join([*lines, f"roots of t_{n}(x) for x from -1 to 1"]))
    with mpmath.workdps(40):
        truths = sorted(mpmath.cos((2 * k - 1) * mpmath.pi / (2 * n)) if 2 * k - 1 != n else mpmath.mpf(0) for k in range(1, n + 1))
        check_intervals(outcome.findings[0], truths)
    assert outcome.findings[0].evidence == "proven"


def test_solutions_of_tan_x_equal_to_x() -> None:
    """Abramowitz and Stegun (1964), table 4.19: 4.49341, 7.72525, 10.90412, 14.06619 (from memory); 0 is threefold."""
    finding = roots("tan(x) - x", "0", "15")
    assert places(finding) == pytest.approx([0, 4.49340946, 7.72525184, 10.90412166, 14.06619391], abs=1e-8)
    assert finding.evidence == "proven"
    assert [v["multiplicity"] for v in finding.rows] == [3, 1, 1, 1, 1]
    assert finding.complete  # the poles of tan are no roots


def test_all_127_zeros_of_sin_x_squared() -> None:
    finding = roots("sin(x^2)", "0.1", "20")
    with mpmath.workdps(40):
        check_intervals(finding, [mpmath.sqrt(k * mpmath.pi) for k in range(1, 128)])
    assert finding.evidence == "proven"


# ---------------------------------------------------------------- hard functions

# After G. E. Alefeld, F. A. Potra, Y. Shi, "Algorithm 748", ACM Trans. Math. Software 21 (1995) 327-344, table I (from
# memory: the shapes of the functions; roots found independently with mpmath to 30 digits).
HARD = [
    ("sin(x) - x/2", "pi/2", "pi", 1), ("x*exp(-x) - 0.1", "-9", "31", 2), ("x^9", "-1", "4", 1), ("x^19", "-1", "4", 1),
    ("x^4 - 0.2", "0", "5", 1), ("x^12 - 1", "0", "5", 1), ("sin(x) - 0.5", "0", "1.5", 1), ("2x*exp(-5) - 2exp(-5x) + 1", "0", "1", 1),
    ("2x*exp(-20) - 2exp(-20x) + 1", "0", "1", 1), ("(1 + (1 - 5)^2)*x - (1 - 5x)^2", "0", "1", 1), ("x^2 - (1 - x)^5", "0", "1", 1),
    ("exp(-10x)*(x - 1) + x^10", "0", "1", 1), ("x^(1/3) - 0.5", "0", "1", 1), ("(x - 1)/(5x)", "0.01", "1", 1),
    ("x^2 - 2x*exp(-2) + exp(-4)", "-1", "1", 1), ("exp(21000/x)/1.11e11 - 0.5*x", "850", "1000", 0),
]  # fmt: skip


@pytest.mark.parametrize(("formula", "low", "high", "count"), HARD)
def test_hard_functions(formula: str, low: str, high: str, count: int) -> None:
    finding = roots(formula, low, high)
    assert len(finding.rows) == count
    assert finding.complete


EDGES = [
    ("1/x", "-1", "1", [], "proven"),  # a pole is no root
    ("(x^2 - 1)/(x - 1)", "-2", "2", [-1], "proven"),  # nor is a hole
    ("sin(x)/x", "-4", "4", [-math.pi, math.pi], "proven"),
    ("x^2 - 4", "-2", "2", [-2, 2], "proven"),  # roots at both ends belong
    ("sin(x)", "0", "pi", [0, math.pi], "proven"),
    ("sqrt(x)", "0", "4", [0], "proven"),
    ("abs(x - 1)", "0", "3", [1], "proven"),
    ("x*ln(x)", "0", "2", [1], "proven"),  # ln has no value at 0
    ("(x - 1)^2*(x + 2)", "-3", "3", [-2, 1], "proven"),
    ("cos(x)^2", "0", "6", [math.pi / 2, 3 * math.pi / 2], "proven"),
    ("cos(x) - 1 + x^2/2", "-1", "1", [0], "proven"),  # fourfold
    ("(x - 1)*(x - 1.000000000001)", "0", "2", [1, 1.000000000001], "proven"),
    ("exp(x)", "-50", "50", [], "proven"),
    ("x^2 + 1e-20", "-1", "1", [], "proven"),
    ("square(x)", "0", "3", [], "proven"),  # a jump across zero is no root
    ("asin(x)", "-2", "2", [0], "proven"),
    ("Gamma(x)", "-4", "4", [], "proven"),
    ("x^x - 2", "0", "3", [1.5596104694623694], "proven"),
    ("floor(x) - x/2 + 0.25", "0.1", "0.9", [0.5], "proven"),
    ("1e-30*x", "-1", "1", [0], "proven"),
    ("1e300*(x - 1)", "0", "3", [1], "proven"),
    ("digamma(x)", "0.5", "3", [1.4616321449683623], "proven"),  # the minimum of Gamma, DLMF 5.4.20
    ("sin(10x)*cos(7x)", "1.5", "1.6", [math.pi / 2], "proven"),  # two factors share it
    ("exp(-1/x)", "-1", "1", [], "proven"),
    ("cosh(x)*cos(x) - 1", "0.1", "9", [4.730040744862704, 7.853204624095838], "proven"),  # free beam, R. D. Blevins (1979), from memory
]


@pytest.mark.parametrize(("formula", "low", "high", "expected", "evidence"), EDGES)
def test_ends_poles_holes_and_touching(formula: str, low: str, high: str, expected: list[float], evidence: str) -> None:
    finding = roots(formula, low, high)
    assert places(finding) == pytest.approx(expected, abs=1e-15, rel=1e-15)
    assert finding.evidence == evidence
    assert finding.complete


def test_multiplicity_is_told() -> None:
    finding = roots("(x - 1)^2*(x + 2)^3*(x - 3)", "-4", "4")
    assert [(v["x"], v["multiplicity"], v["kind"]) for v in finding.rows] == [(-2, 3, "multiple"), (1, 2, "touching"), (3, 1, "simple")]
    assert [v["multiplicity"] for v in roots("abs(x - 1)", "0", "2").rows] == [None]


def test_what_could_not_be_settled_is_open_and_says_where() -> None:
    finding = roots("sin(1/x)", "0", "1")
    assert finding.evidence == "open"
    assert not finding.complete
    assert "not settled: 0 to" in finding.summary
    # Those outside the troubled span are found all the same: 1/(k pi).
    assert places(finding)[-5:] == pytest.approx([1 / (k * math.pi) for k in range(5, 0, -1)], abs=1e-15)


def test_a_stretch_of_zeros_is_named() -> None:
    finding = roots("max(x, 0)", "-1", "1")
    assert (finding.rows[0]["x"], finding.rows[0]["x_high"], finding.rows[0]["kind"]) == (-1, 0, "stretch")
    assert "Zero throughout −1 to 0" in finding.summary


@pytest.mark.parametrize("constant", ["mod(e, e)", "floor(sqrt(2)^2)", "sign(sin(pi))", "ceil(ln(e)) - 1", "round(sqrt(2)*sqrt(2) - 1.5)"])
def test_a_constant_that_meets_a_jump_exactly_proves_nothing_false(constant: str) -> None:
    """No precision decides floor(e/e); what rests on it must allow for both values."""
    shifted = roots(f"x - 1/2 - {constant}", "-3", "3")
    exact = {"mod(e, e)": 0, "floor(sqrt(2)^2)": 2, "sign(sin(pi))": 0, "ceil(ln(e)) - 1": 0, "round(sqrt(2)*sqrt(2) - 1.5)": 1}[constant]
    assert shifted.evidence == "open" or [v["x"] for v in shifted.rows] == [exact + 0.5]


STEPS = [
    "triangle({u})",
    "triangle({u}) - 0.3",
    "sawtooth({u})",
    "mod({u}, 1) - 0.37",
    "{u} - floor({u}) - 0.25",
    "abs({u} - round({u})) - 0.2",
    "max({u}, 1) - 1.5",
    "sign({u} - 0.3)*({u} + 0.1)",
    "floor(2*{u})/2 - {u} + 0.1",
]


@settings(max_examples=60)
@given(st.sampled_from(STEPS), st.sampled_from(["{s} - x", "{s}*x", "x + {s}", "{s}*x^2", "cosh(x)*{s}"]), st.floats(0.3, 2.8))
def test_continuous_crossings_of_stepped_functions_are_all_found(outer: str, inner: str, s: float) -> None:
    """Against a fine grid: where it crosses zero without a jump there is a root, whatever steps are near."""
    from open_lemma.core.formula.tape import Tape
    from open_lemma.core.run.values import FunctionValue

    formula = outer.format(u="(" + inner.format(s=repr(round(s, 3))) + ")")
    outcome = run(f"f(x) = {formula}\nroots of f(x) for x from -3 to 3")
    finding, function = outcome.findings[0], outcome.names["f"]
    assert isinstance(function, FunctionValue)
    x = np.linspace(-3, 3, 60_013) + 1.3e-7
    y = Tape([function.body], ["x"]).numeric(x)[0] * np.ones(x.size)
    crossing = np.flatnonzero((np.sign(y[:-1]) * np.sign(y[1:]) < 0) & (np.abs(np.diff(y)) < 0.01))
    found = np.array([v["x"] for v in finding.rows if "x_high" not in v])
    if finding.complete:
        for k in crossing:
            assert found.size
            assert np.abs(found - x[k]).min() < 2e-4, x[k]


def test_nothing_is_defined_and_the_search_is_short() -> None:
    finding = roots("x + log10(floor(1/2))", "-3", "3")
    assert (finding.evidence, finding.rows) == ("proven", [])
    assert finding.boxes is not None
    assert finding.boxes <= 600


def test_an_identity_is_zero_throughout() -> None:
    finding = roots("sin(x)^2 + cos(x)^2 - 1", "0", "3")
    assert [(v["x"], v["x_high"]) for v in finding.rows] == [(0, 3)]


def test_thousands_of_roots() -> None:
    finding = roots("sin(x)", "0", "20000")
    assert len(finding.rows) == 6367  # floor(20000/pi) + 1
    assert finding.evidence == "proven"


def test_the_stated_domain_is_the_window_and_the_guard() -> None:
    outcome = run("f(x) = x^2 - 2 for x from 0 to 3\nroots of f(x)\nroots of f(x) for x from -5 to 5\nroots of f(2x) for x from -5 to 5")
    assert [places(f) for f in outcome.findings[:2]] == [[pytest.approx(math.sqrt(2))]] * 2
    assert places(outcome.findings[2]) == [pytest.approx(math.sqrt(2) / 2)]


def test_a_finding_is_used_as_a_number_and_by_its_elements() -> None:
    outcome = run("r = roots of x^2 - 2 for x from -2 to 2\nshow r[1]*r[2]\nq = roots of x - 3 for x from 0 to 5\nshow q^2")
    assert [f.rows[0].get("value") for f in outcome.findings if f.noun == "show"] == pytest.approx([-2, 9])


# ---------------------------------------------------------------- laws

small = st.integers(-12, 12)


@settings(max_examples=150)
@given(st.lists(st.fractions(-4, 4, max_denominator=9), min_size=1, max_size=6))
def test_a_product_of_factors_has_just_its_roots(given_roots: list[Fraction]) -> None:
    formula = "*".join(f"(x - ({r.numerator}/{r.denominator}))" for r in given_roots)
    finding = roots(formula, "-5", "5")
    assert [Fraction(v.get("exact", str(Fraction(v["x"])))) for v in finding.rows] == sorted(set(given_roots))
    assert [v["multiplicity"] for v in finding.rows] == [given_roots.count(r) for r in sorted(set(given_roots))]
    assert finding.evidence == "proven"


@settings(max_examples=120)
@given(st.lists(small, min_size=2, max_size=7), st.integers(-6, 0), st.integers(1, 6))
def test_polynomials_against_sturm_sequences(coefficients: list[int], low: int, high: int) -> None:
    """The number of distinct real roots by Sturm's theorem, counted by SymPy in exact arithmetic."""
    import sympy

    assume(any(coefficients[1:]))
    x = sympy.Symbol("x")
    polynomial = sympy.Poly(coefficients[::-1], x)
    formula = " + ".join(f"({c})*x^{k}" for k, c in enumerate(coefficients))
    assert len(roots(formula, str(low), str(high)).rows) == polynomial.count_roots(low, high)


@settings(max_examples=80)
@given(st.floats(0.3, 6), st.floats(-3, 3), st.floats(-0.95, 0.95))
def test_a_sine_against_its_inverse(frequency: float, phase: float, level: float) -> None:
    finding = roots(f"sin({frequency!r}*x + ({phase!r})) - ({level!r})", "-5", "5")
    turns = range(-12, 13)
    exact = [(math.asin(level) - phase + 2 * math.pi * k) / frequency for k in turns]
    exact += [(math.pi - math.asin(level) - phase + 2 * math.pi * k) / frequency for k in turns]
    inside = sorted(x for x in exact if -5 <= x <= 5)
    assume(all(abs(abs(x) - 5) > 1e-9 for x in exact))
    assert places(finding) == pytest.approx(inside, abs=1e-9)
    assert finding.evidence == "proven"


@settings(max_examples=60)
@given(
    st.sampled_from(["exp(x/3) - x^2", "cos(3x) - x/4", "x^3 - 3x + sin(5x)", "ln(x^2 + 1) - 1", "besselj(1, 2x) - x/9", "erf(x) - x/2"]),
    st.floats(-4, 3),
    st.floats(0.2, 4),
)
def test_no_sign_change_of_a_fine_grid_is_missed(formula: str, low: float, width: float) -> None:
    outcome = run(f"f(x) = {formula}\nr = roots of f(x) for x from {low!r} to {low + width!r}")
    finding = outcome.findings[0]
    from open_lemma.core.formula.tape import Tape
    from open_lemma.core.run.values import FunctionValue

    function = outcome.names["f"]
    assert isinstance(function, FunctionValue)
    x = np.linspace(low, low + width, 20_001)
    y = Tape([function.body], ["x"]).numeric(x)[0]
    changes = x[:-1][np.sign(y[:-1]) * np.sign(y[1:]) < 0]
    found = np.array(places(finding))
    for change in changes:
        assert np.abs(found - change).min() <= width / 10_000
    assert finding.complete
    assert len(found) >= len(changes)
