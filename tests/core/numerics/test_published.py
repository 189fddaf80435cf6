"""Published sets of problems: roots, systems, lowest values and integrals, each named by its source.

The problems are written down from memory of the sources named; the truth is worked out here by mpmath to 40 digits or
more from the formula itself, or is the value that the source prints, which then is said to be so.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import mpmath
import pytest

from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.findings import Finding

mp = mpmath.mp


def finding(script: str) -> Finding:
    outcome = run(script)
    assert not outcome.failed, (script, [m.text for m in outcome.reading.messages.items])
    return outcome.findings[-1]


def holds(interval: list[str], truth: Any, narrow: float, slack: float = 0.0) -> None:
    """An enclosure is tested twice: it holds the truth (known to `slack`), and it is narrow enough to be useful."""
    low, high = (mpmath.mpf(t) for t in interval)
    assert low - slack <= truth <= high + slack, (interval, truth)
    assert high - low <= narrow * max(1, abs(truth)), interval


# ---------------------------------------------------------------- roots

# G. E. Alefeld, F. A. Potra, Y. Shi, "Algorithm 748: enclosing zeros of continuous functions", ACM TOMS 21 (1995) 327-344.
ALGORITHM_748: list[tuple[str, str, str, Callable[[Any], Any], float]] = [
    ("sin(x) - x/2", "pi/2", "pi", lambda x: mp.sin(x) - x / 2, 1.9),
    ("2x*exp(-5) + 1 - 2*exp(-5x)", "0", "1", lambda x: 2 * x * mp.exp(-5) + 1 - 2 * mp.exp(-5 * x), 0.14),
    ("2x*exp(-20) + 1 - 2*exp(-20x)", "0", "1", lambda x: 2 * x * mp.exp(-20) + 1 - 2 * mp.exp(-20 * x), 0.035),
    ("(1 + (1 - 5)^2)*x - (1 - 5x)^2", "0", "1", lambda x: (1 + 16) * x - (1 - 5 * x) ** 2, 0.038),
    ("(1 + (1 - 20)^2)*x - (1 - 20x)^2", "0", "1", lambda x: (1 + 361) * x - (1 - 20 * x) ** 2, 0.0025),
    ("x^2 - (1 - x)^5", "0", "1", lambda x: x**2 - (1 - x) ** 5, 0.35),
    ("x^2 - (1 - x)^20", "0", "1", lambda x: x**2 - (1 - x) ** 20, 0.16),
    ("(1 + (1 - 5)^4)*x - (1 - 5x)^4", "0", "1", lambda x: (1 + 256) * x - (1 - 5 * x) ** 4, 0.0036),
    ("exp(-5x)*(x - 1) + x^5", "0", "1", lambda x: mp.exp(-5 * x) * (x - 1) + x**5, 0.52),
    ("exp(-20x)*(x - 1) + x^20", "0", "1", lambda x: mp.exp(-20 * x) * (x - 1) + x**20, 0.55),
    ("x^2 + sin(x/5) - 1/4", "0", "1", lambda x: x**2 + mp.sin(x / 5) - mp.mpf(1) / 4, 0.41),
    ("x^2 + sin(x/20) - 1/4", "0", "1", lambda x: x**2 + mp.sin(x / 20) - mp.mpf(1) / 4, 0.48),
    ("(5x - 1)/(4x)", "0.01", "1", lambda x: (5 * x - 1) / (4 * x), 0.2),
    ("x^(1/5) - 5^(1/5)", "1", "100", lambda x: x ** (mp.mpf(1) / 5) - mp.mpf(5) ** (mp.mpf(1) / 5), 5),
    ("-40x*exp(-x)", "-9", "31", lambda x: -40 * x * mp.exp(-x), 0.0),
    ("-100x*exp(-2x)", "-9", "31", lambda x: -100 * x * mp.exp(-2 * x), 0.0),
    ("x^12 - 0.2", "0", "5", lambda x: x**12 - mp.mpf(1) / 5, 0.87),
    ("x^8 - 1", "-0.95", "4.05", lambda x: x**8 - 1, 1.0),
]  # fmt: skip


@pytest.mark.parametrize(("text", "low", "high", "f", "start"), ALGORITHM_748, ids=[p[0] for p in ALGORITHM_748])
def test_all_roots_of_the_set_of_1995(text: str, low: str, high: str, f: Callable[[Any], Any], start: float) -> None:
    found = finding(f"roots of {text} for x from {low} to {high}")
    assert (found.evidence, found.complete) == ("proven", True)
    with mpmath.workdps(60):
        truth = mpmath.findroot(f, start) if start else mpmath.mpf(0)
        near = min(found.rows, key=lambda row: abs(row["x"] - float(truth)))
        holds(near["interval"], truth, 1e-18, 1e-55)


# Functions that trick one naive method each: common practice in courses on numerical analysis.
TRICKS = [
    ("1/(x - 0.3)", "-1", "1", []),  # a pole: bisection converges to it
    ("tan(x)", "1", "2", []),  # the same
    ("(x - 0.5)^2", "0", "1", [0.5]),  # touches: no sign change
    ("x^3 - 2x + 2", "-3", "3", [-1.7692923542386314]),  # Newton from 0 goes round between 0 and 1
    ("cbrt(x)", "-1", "1", [0.0]),  # Newton runs away
    ("x*exp(-x^2)", "-10", "10", [0.0]),  # the tail looks like zero
    ("atan(x)", "-20", "20", [0.0]),  # Newton runs away from beyond 1.39
    ("x^2 - 2*10^-24", "-1", "1", [-1.4142135623730951e-12, 1.4142135623730951e-12]),  # a cluster
    ("sin(50x)*sign(x - 0.2)", "0.15", "0.23", [0.18849555921538758, 0.2]),
    ("1 - 1/(1 + 1000*(x - 0.731)^2)", "0", "1", [0.731]),  # a narrow dip between samples
    ("(x - 1)^20", "0", "3", [1.0]),
    ("exp(x) - 1 - x - x^2/2", "-1", "1", [0.0]),  # a threefold root
]


@pytest.mark.parametrize(("text", "low", "high", "expected"), TRICKS, ids=[t[0] for t in TRICKS])
def test_functions_that_trick_naive_methods(text: str, low: str, high: str, expected: list[float]) -> None:
    found = finding(f"roots of {text} for x from {low} to {high}")
    assert [row["x"] for row in found.rows] == pytest.approx(expected, rel=1e-14, abs=1e-15)
    assert found.complete


WILKINSON = "*".join(f"(x - {k})" for k in range(1, 21))


def test_the_polynomial_of_twenty_and_its_perturbation() -> None:
    """J. H. Wilkinson, "Rounding Errors in Algebraic Processes", HMSO 1963, ch. 2: the coefficient of x^19 less 2^-23.

    Ten of the twenty roots become complex; the real ones are printed there to nine decimals.
    """
    found = finding(f"roots of {WILKINSON} for x from 0 to 25")
    assert [row["x"] for row in found.rows] == [float(k) for k in range(1, 21)]
    assert found.evidence == "proven"
    found = finding(f"roots of {WILKINSON} - x^19/2^23 for x from -infinity to infinity")
    printed = [1.0, 2.0, 3.0, 4.0, 4.999999928, 6.000006944, 6.999697234, 8.007267603, 8.917250249, 20.846908101]
    assert [row["x"] for row in found.rows] == pytest.approx(printed, abs=6e-10)
    assert (found.evidence, found.complete) == ("proven", True)


# NIST Digital Library of Mathematical Functions (DLMF), and the On-Line Encyclopedia of Integer Sequences (OEIS).
CONSTANTS = [
    ("roots of cos(x) - x for x from 0 to 1, digits 40", "x", "0.7390851332151606416553120876738734040134"),  # OEIS A003957
    ("roots of x*exp(x) - 1 for x, near 0, digits 40", "x", "0.5671432904097838729999686622103555497538"),  # OEIS A030178
    ("roots of besselj(0, x) for x from 2 to 3, digits 30", "x", "2.40482555769577276862163187933"),  # DLMF 10.21
    ("minima of Gamma(x) for x from 0.5 to 3, digits 30", "x", "1.46163214496836234126265954233"),  # DLMF 5.4.20
    ("sum of 1/k^3 for k from 1 to infinity, digits 30", "value", "1.20205690315959428539973816151"),  # OEIS A002117
    ("integral of exp(-x^2) for x from 0 to infinity, digits 30", "value", "0.886226925452758013649083741671"),  # OEIS A019704
    ("show e, digits 50", "value", "2.7182818284590452353602874713526624977572470937000"),  # OEIS A001113
    ("sum of 1/Gamma(k + 1) for k from 0 to infinity, digits 30", "value", "2.71828182845904523536028747135"),  # OEIS A001113
    ("roots of tan(x) - x for x from 4 to 4.6, digits 30", "x", "4.49340945790906417530788092728"),  # OEIS A115365
    ("integral of 1/(x^2 + 1) for x from 0 to 1, digits 40", "value", "0.7853981633974483096156608458198757210493"),  # OEIS A003881
]  # fmt: skip


@pytest.mark.parametrize(("request_", "name", "digits"), CONSTANTS, ids=[k[0] for k in CONSTANTS])
def test_handbook_constants_to_many_digits(request_: str, name: str, digits: str) -> None:
    found = finding(request_)
    assert found.rows[0]["digits"][name] == digits
    assert found.evidence == "proven"


# ---------------------------------------------------------------- systems

# J. J. Moré, B. S. Garbow, K. E. Hillstrom, "Testing unconstrained optimization software", ACM TOMS 7 (1981) 17-41, as systems.
SYSTEMS = [
    ("10*(y - x^2) = 0, 1 - x = 0", ["-5 to 5", "-5 to 5"], [(1, 1)]),  # Rosenbrock
    ("-13 + x + ((5 - y)*y - 2)*y = 0, -29 + x + ((y + 1)*y - 14)*y = 0", ["-20 to 20", "-10 to 10"], [(5, 4)]),  # Freudenstein, Roth
    ("10000*x*y = 1, exp(-x) + exp(-y) = 1.0001", ["0 to 20", "0 to 20"], [(1.098159e-5, 9.106146), (9.106146, 1.098159e-5)]),  # Powell
    ("x - 1000000 = 0, y - 0.000002 = 0", ["0 to 2000000", "-1 to 1"], [(1e6, 2e-6)]),  # Brown, badly scaled, its first two
    ("x^2 + y^2 = 2, exp(x - 1) + y^3 = 2", ["-3 to 3", "-3 to 3"], [(-0.713747, 1.220887), (1, 1)]),  # Dennis, Schnabel 1983, ex. 6.5.1
]  # fmt: skip


@pytest.mark.parametrize(("equations", "spans", "expected"), SYSTEMS, ids=[s[0] for s in SYSTEMS])
def test_systems(equations: str, spans: list[str], expected: list[tuple[float, float]]) -> None:
    found = finding(f"solution of {equations} for x from {spans[0]}, y from {spans[1]}")
    assert [(row["x"], row["y"]) for row in found.rows] == [pytest.approx(e, rel=2e-6) for e in expected]
    assert found.evidence in ("proven", "checked")
    assert found.complete


def test_a_system_of_three_with_all_its_solutions() -> None:
    """R. L. Burden, J. D. Faires, "Numerical Analysis", sec. 10.2, example 1, prints (0.5, 0, -0.52359877)."""
    found = finding(
        "solution of 3x - cos(y*z) = 1/2, x^2 - 81*(y + 0.1)^2 + sin(z) + 1.06 = 0, exp(-x*y) + 20z + (10pi - 3)/3 = 0 "
        "for x from -1 to 1, y from -1 to 1, z from -1 to 1"
    )
    assert len(found.rows) == 2
    assert (found.evidence, found.complete) == ("proven", True)
    near = found.rows[1]
    with mpmath.workdps(40):
        holds(near["intervals"]["x"], mpmath.mpf(1) / 2, 1e-15)
        holds(near["intervals"]["z"], -mpmath.pi / 6, 1e-15)


# ---------------------------------------------------------------- lowest values

# L. C. W. Dixon, G. P. Szegö (eds.), "Towards Global Optimisation 2", North-Holland 1978; values as printed there and in later surveys.
BRANIN = "(y - 5.1/(4pi^2)*x^2 + 5/pi*x - 6)^2 + 10*(1 - 1/(8pi))*cos(x) + 10"
GOLDSTEIN_PRICE = "(1 + (x + y + 1)^2*(19 - 14x + 3x^2 - 14y + 6x*y + 3y^2))*(30 + (2x - 3y)^2*(18 - 32x + 12x^2 + 48y - 36x*y + 27y^2))"
HARTMANN_3 = " - ".join(
    f"{a}*exp(-{b[0]}*(x - {p[0]})^2 - {b[1]}*(y - {p[1]})^2 - {b[2]}*(z - {p[2]})^2)"
    for a, b, p in (
        (1.0, (3, 10, 30), (0.3689, 0.117, 0.2673)), (1.2, (0.1, 10, 35), (0.4699, 0.4387, 0.747)),
        (3.0, (3, 10, 30), (0.1091, 0.8732, 0.5547)), (3.2, (0.1, 10, 35), (0.03815, 0.5743, 0.8828)),
    )
)  # fmt: skip
LOWEST = [
    (BRANIN, {"x": "-5 to 10", "y": "0 to 15"}, 0.39788735772973816, "proven"),
    (GOLDSTEIN_PRICE, {"x": "-2 to 2", "y": "-2 to 2"}, 3.0, "proven"),
    ("(4 - 2.1x^2 + x^4/3)*x^2 + x*y + (4y^2 - 4)*y^2", {"x": "-3 to 3", "y": "-2 to 2"}, -1.0316284534898774, "proven"),
    (f"0 - {HARTMANN_3}", {"x": "0 to 1", "y": "0 to 1", "z": "0 to 1"}, -3.86278214782076, "proven"),
    # J. G. Booth's, E. M. L. Beale's (1958) and D. M. Himmelblau's (1972) functions, as in surveys of test functions.
    ("(x + 2y - 7)^2 + (2x + y - 5)^2", {"x": "-10 to 10", "y": "-10 to 10"}, 0.0, "proven"),
    ("(1.5 - x + x*y)^2 + (2.25 - x + x*y^2)^2 + (2.625 - x + x*y^3)^2", {"x": "-4.5 to 4.5", "y": "-4.5 to 4.5"}, 0.0, None),
    ("(x^2 + y - 11)^2 + (x + y^2 - 7)^2", {"x": "-5 to 5", "y": "-5 to 5"}, 0.0, "proven"),
    # L. A. Rastrigin's (1974) and H. H. Rosenbrock's (1960) functions in four to ten variables.
    (" + ".join(f"({v}^2 - 10*cos(2pi*{v}) + 10)" for v in "abcd"), dict.fromkeys("abcd", "-5 to 5.1"), 0.0, None),
    (" + ".join(f"(100*({b} - {a}^2)^2 + (1 - {a})^2)" for a, b in zip("abcdghpqs", "bcdghpqsu", strict=True)),
     dict.fromkeys("abcdghpqsu", "-2 to 2"), 0.0, None),
]  # fmt: skip


@pytest.mark.parametrize(("text", "spans", "value", "evidence"), LOWEST, ids=[t[0][:40] for t in LOWEST])
def test_lowest_values_over_several_variables(text: str, spans: dict[str, str], value: float, evidence: str | None) -> None:
    windows = ", ".join(f"{v} from {s}" for v, s in spans.items())
    found = finding(f"lowest of {text} for {windows}")
    assert found.rows[0]["value"] == pytest.approx(value, abs=1e-9 * max(1, abs(value)))
    assert evidence is None or found.evidence == evidence
    assert found.evidence in ("proven", "checked")
    if "value_interval" in found.rows[0]:
        low, high = (float(t) for t in found.rows[0]["value_interval"])
        assert low - 1e-12 * max(1, abs(value)) <= value <= high + 1e-12 * max(1, abs(value))
        assert high - low <= 1e-7 * max(1.0, abs(value))


# ---------------------------------------------------------------- integrals

# D. K. Kahaner, "Comparison of numerical quadrature formulas", in J. R. Rice (ed.), "Mathematical Software", Academic Press 1971.
KAHANER: list[tuple[str, str, str, Callable[[Any], Any], list[float], str]] = [
    ("exp(x)", "0", "1", mp.exp, [0, 1], "proven"),
    ("sqrt(x)", "0", "1", mp.sqrt, [0, 1], "proven"),
    ("22/25*cosh(x) - cos(x)", "-1", "1", lambda x: mp.mpf(22) / 25 * mp.cosh(x) - mp.cos(x), [-1, 0, 1], "proven"),
    ("1/(x^4 + x^2 + 0.9)", "-1", "1", lambda x: 1 / (x**4 + x**2 + mp.mpf(9) / 10), [-1, 0, 1], "proven"),
    ("x*sqrt(x)", "0", "1", lambda x: x * mp.sqrt(x), [0, 1], "proven"),
    ("1/sqrt(x)", "0", "1", lambda x: 1 / mp.sqrt(x), [0, 1], "proven"),
    ("1/(1 + x^4)", "0", "1", lambda x: 1 / (1 + x**4), [0, 1], "proven"),
    ("2/(2 + sin(10pi*x))", "0", "1", lambda x: 2 / (2 + mp.sin(10 * mp.pi * x)), [k / 20 for k in range(21)], "proven"),
    ("1/(1 + x)", "0", "1", lambda x: 1 / (1 + x), [0, 1], "proven"),
    ("1/(exp(x) + 1)", "0", "1", lambda x: 1 / (mp.exp(x) + 1), [0, 1], "proven"),
    ("x/(exp(x) - 1)", "0", "1", lambda x: x / mp.expm1(x), [0, 1], "proven"),
    ("sin(100pi*x)/(pi*x)", "0.1", "1", lambda x: mp.sin(100 * mp.pi * x) / (mp.pi * x), [k / 200 for k in range(20, 201)], "proven"),
    ("sqrt(50)*exp(-50pi*x^2)", "0", "10", lambda x: mp.sqrt(50) * mp.exp(-50 * mp.pi * x**2), [0, 0.1, 0.3, 1, 10], "proven"),
    ("25*exp(-25x)", "0", "10", lambda x: 25 * mp.exp(-25 * x), [0, 0.2, 1, 3, 10], "proven"),
    ("50/(pi*(2500x^2 + 1))", "0", "10", lambda x: 50 / (mp.pi * (2500 * x**2 + 1)), [0, 0.02, 0.1, 1, 10], "proven"),
    ("ln(x)", "0", "1", mp.log, [0, 1], "proven"),
    ("4pi^2*x*sin(20pi*x)*cos(2pi*x)", "0", "1",
     lambda x: 4 * mp.pi**2 * x * mp.sin(20 * mp.pi * x) * mp.cos(2 * mp.pi * x), [k / 40 for k in range(41)], "proven"),
    ("1/(1 + (230x - 30)^2)", "0", "1", lambda x: 1 / (1 + (230 * x - 30) ** 2), [0, 0.1, 0.12, 30 / 230, 0.14, 0.2, 1], "proven"),
    ("cos(cos(x) + 3*sin(x) + 2*cos(2x) + 3*sin(2x) + 3*cos(3x))", "0", "pi",
     lambda x: mp.cos(mp.cos(x) + 3 * mp.sin(x) + 2 * mp.cos(2 * x) + 3 * mp.sin(2 * x) + 3 * mp.cos(3 * x)),
     [k * 3.141592653589793 / 8 for k in range(8)] + [-1.0], "proven"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "low", "high", "f", "places", "evidence"), KAHANER, ids=[k[0] for k in KAHANER])
def test_integrals_of_the_set_of_1971(text: str, low: str, high: str, f: Callable[[Any], Any], places: list[float], evidence: str) -> None:
    found = finding(f"integral of {text} for x from {low} to {high}")
    assert found.evidence == evidence
    with mpmath.workdps(40):
        steps = [mpmath.pi if p == -1.0 and places[0] == 0 else mpmath.mpf(p) for p in places]
        if low == "0.1":
            steps[0], steps[-1] = mpmath.mpf(1) / 10, mpmath.mpf(1)
        truth = mpmath.quad(f, steps)
        holds(found.rows[0]["interval"], truth, 1e-13, 1e-18)


# NIST DLMF and tables of integrals: spans without an end, singular ends.
ENDLESS = [
    ("exp(-x^2)", "-infinity", "infinity", lambda: mp.sqrt(mp.pi), "proven"),  # DLMF 7.7
    ("1/(1 + x^2)", "-infinity", "infinity", lambda: mp.pi, "proven"),
    ("x^3*exp(-x)", "0", "infinity", lambda: mp.mpf(6), "proven"),  # DLMF 5.2.1
    ("exp(-x)*cos(x)", "0", "infinity", lambda: mp.mpf(1) / 2, "proven"),
    ("exp(-x)*ln(x)", "0", "infinity", lambda: -mp.euler, None),  # DLMF 5.9.18
    ("sin(x)/x", "0", "infinity", lambda: mp.pi / 2, "checked"),
    ("1/((1 + x)*sqrt(x))", "0", "infinity", lambda: mp.pi, "proven"),
    ("x/(exp(x) - 1)", "0", "infinity", lambda: mp.pi**2 / 6, None),  # DLMF 25.5.1
    # What is chosen by a sign goes on changing far out: the last branch that was seen is not the formula beyond it.
    ("exp(-x)*abs(sin(x))", "0", "infinity", lambda: mp.coth(mp.pi / 2) / 2, None),
    ("exp(-x/6)*abs(sin(2x))", "0", "infinity", lambda: 2 / (4 + mp.mpf(1) / 36) * mp.coth(mp.pi / 24), None),
    ("exp(-abs(x - 3))", "-infinity", "infinity", lambda: mp.mpf(2), "proven"),
    ("(exp(-x) when x > 2, otherwise 1/(1 + x^2))", "-infinity", "infinity", lambda: mp.atan(2) + mp.pi / 2 + mp.exp(-2), "proven"),
    ("abs(sin(1/x))", "0", "1", lambda: mp.mpf("0.7744299"), "open"),  # no source: summed up by mpmath between the zeros of sin
    ("exp(-x)*floor(x)", "0", "infinity", lambda: 1 / (mp.e - 1), None),
]  # fmt: skip


@pytest.mark.parametrize(("text", "low", "high", "truth", "evidence"), ENDLESS, ids=[e[0] for e in ENDLESS])
def test_integrals_without_an_end(text: str, low: str, high: str, truth: Callable[[], Any], evidence: str | None) -> None:
    found = finding(f"integral of {text} for x from {low} to {high}")
    with mpmath.workdps(40):
        if found.evidence == "proven":
            holds(found.rows[0]["interval"], truth(), 1e-13)
        else:
            low_text, high_text = (float(t) for t in found.rows[0]["interval"])
            room = 1e-8 * abs(float(truth())) + (high_text - low_text if found.evidence == "open" else 0.0)
            assert found.rows[0]["value"] == pytest.approx(float(truth()), abs=room)
    assert evidence is None or found.evidence == evidence
