"""The mathematics called with formulas and numbers alone, held against tables in handbooks and against sums of many digits.

Sources: DLMF = NIST Digital Library of Mathematical Functions (dlmf.nist.gov); A&S = Abramowitz and Stegun, Handbook of Mathematical
Functions, 1964; GR = Gradshteyn and Ryzhik, Table of Integrals, Series, and Products, 7th edition, by formula number. What is not in
their tables is worked out at 50 digits by mpmath.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import Any

import mpmath
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from open_lemma.core.formula import catalogue as c
from open_lemma.core.formula.nodes import Apply, Formula, Number, Variable
from open_lemma.core.numerics.extrema.lowest import lowest_value
from open_lemma.core.numerics.extrema.stationary import stationary_places
from open_lemma.core.numerics.extrema.turning import inflections, turning_points
from open_lemma.core.numerics.integrals.centroids import centroid_of_points
from open_lemma.core.numerics.integrals.integrals import NoIntegral, double_integral, integral_of
from open_lemma.core.numerics.limits_and_sums.limits import limit_of
from open_lemma.core.numerics.limits_and_sums.sums import NoSum, product_of, sum_of
from open_lemma.core.numerics.roots.equations import propose
from open_lemma.core.numerics.roots.infinite_intervals import find_nearest, find_roots_anywhere
from open_lemma.core.numerics.roots.pieces import sign_changes
from open_lemma.core.numerics.roots.regions import region_of
from open_lemma.core.numerics.roots.search import NotSearchable, find_roots
from open_lemma.core.numerics.roots.systems import box_of, solve_system

X, Y, K = Variable("x"), Variable("y"), Variable("k")
INFINITY = c.constant("infinity")
PI = c.constant("pi")
mpmath.mp.dps = 50


def n(value: int | str | Fraction) -> Formula:
    return Number(Fraction(value))


def of(name: str, *arguments: Formula) -> Formula:
    return c.call(name, *arguments)


def plus(*parts: Formula) -> Formula:
    total = parts[0]
    for part in parts[1:]:
        total = c.add(total, part)
    return total


def times(*parts: Formula) -> Formula:
    total = parts[0]
    for part in parts[1:]:
        total = Apply(c.MULTIPLY, (total, part))
    return total


def over(top: Formula, below: Formula) -> Formula:
    return Apply(c.DIVIDE, (top, below))


def power(base: Formula, exponent: int | str | Formula) -> Formula:
    return c.power(base, exponent if not isinstance(exponent, int | str) else n(exponent))


def holds(interval: tuple[str, str] | None, truth: Any, room: float) -> None:
    """It holds the truth, and it is narrow enough to be useful."""
    assert interval is not None
    low, high = (mpmath.mpf(t) for t in interval)
    assert low <= truth <= high
    assert high - low <= room * max(1, abs(truth))


# ---------------------------------------------------------------- roots

ROOTS: list[tuple[str, Formula, Formula, Formula, list[Callable[[], Any]]]] = [
    ("x^2 - 2", plus(power(X, 2), n(-2)), n(-3), n(3), [lambda: -mpmath.sqrt(2), lambda: mpmath.sqrt(2)]),
    ("cos(x) - x", c.subtract(of("cos", X), X), n(0), n(2), [lambda: mpmath.findroot(lambda x: mpmath.cos(x) - x, 0.7)]),
    # DLMF 4.13: W(1) = 0.567143290409783872999968662210…, where x e^x = 1
    ("x*exp(x) - 1", plus(times(X, of("exp", X)), n(-1)), n(0), n(2), [lambda: mpmath.lambertw(1).real]),
    # A&S table 4.20: x tan x = 1 at 0.86033, 3.42562, 6.43730
    ("x*sin(x) - cos(x)", c.subtract(times(X, of("sin", X)), of("cos", X)), n(0), n(7),
     [lambda s=s: mpmath.findroot(lambda x: x * mpmath.tan(x) - 1, s) for s in (0.86, 3.43, 6.44)]),
    ("sin(x)", of("sin", X), n(-4), n(4), [lambda: -mpmath.pi, lambda: mpmath.mpf(0), lambda: mpmath.pi]),
    ("ln(x)^2 - 1", plus(power(of("ln", X), 2), n(-1)), n("1/10"), n(10), [lambda: 1 / mpmath.e, lambda: mpmath.e]),
]  # fmt: skip


@pytest.mark.parametrize(("formula", "low", "high", "truths"), [r[1:] for r in ROOTS], ids=[r[0] for r in ROOTS])
def test_roots_lie_in_narrow_intervals(formula: Formula, low: Formula, high: Formula, truths: list[Callable[[], Any]]) -> None:
    found = find_roots(formula, "x", low, high)
    assert len(found.roots) == len(truths)
    assert not found.unsettled
    for root, truth in zip(found.roots, truths, strict=True):
        holds(root.interval, truth(), 1e-13)
        assert root.evidence == "proven"
        assert abs(root.x - float(truth())) <= 1e-15 * max(1, abs(root.x))


@given(st.lists(st.fractions(-5, 5, max_denominator=12), min_size=1, max_size=5))
@settings(max_examples=40)
def test_a_product_of_factors_is_zero_where_one_of_them_is(zeros: list[Fraction]) -> None:
    found = find_roots(times(*(c.subtract(X, Number(z)) for z in zeros)), "x", n(-6), n(6))
    assert [(r.exact, r.multiplicity) for r in found.roots] == [(z, zeros.count(z)) for z in sorted(set(zeros))]


def test_a_window_must_rise_and_a_formula_must_be_of_the_variable() -> None:
    with pytest.raises(NotSearchable):
        find_roots(plus(X, n(1)), "x", n(2), n(1))


def test_roots_are_sought_without_an_end_too() -> None:
    found = find_roots_anywhere(c.subtract(of("exp", X), n(5)), "x", c.minus(INFINITY), INFINITY)
    (root,) = found.roots
    holds(root.interval, mpmath.log(5), 1e-13)
    nearest = find_nearest(of("cos", X), "x", n(10), c.minus(INFINITY), INFINITY)
    holds(nearest.found.roots[0].interval, 7 * mpmath.pi / 2, 1e-13)


def test_poles_and_jumps_are_told_from_zeros() -> None:
    assert [round(p.x, 12) for p in sign_changes(of("tan", X), "x", n(1), n(2))] == [round(float(mpmath.pi / 2), 12)]
    assert find_roots(of("tan", X), "x", n(1), n(2)).roots == []


def test_algebra_proposes_what_is_solved_by_it() -> None:
    found = propose([plus(power(X, 2), times(n(-3), X), n(2))], ["x"])
    assert (found.kind, sorted(int(s["x"]) for s in found.solutions)) == ("finite", [1, 2])
    assert propose([plus(times(n(0), X), n(1))], ["x"]).kind == "none"
    assert propose([c.subtract(X, X)], ["x"]).kind == "everything"
    assert propose([of("sin", X)], ["x"]).kind == "family"


def test_all_solutions_of_a_system_are_found_alone_in_their_boxes() -> None:
    # x^2 + y^2 = 4 and x y = 1: x^2 = 2 ± √3
    equations = [plus(power(X, 2), power(Y, 2), n(-4)), plus(times(X, Y), n(-1))]
    found = solve_system(equations, ["x", "y"], box_of([(n(-3), n(3)), (n(-3), n(3))]))
    truths = sorted(float(s * mpmath.sqrt(2 + t * mpmath.sqrt(3))) for s in (-1, 1) for t in (-1, 1))
    assert sorted(s.values[0] for s in found.solutions) == pytest.approx(truths, rel=1e-14)
    assert not found.unsettled


def test_where_a_condition_holds() -> None:
    condition = Apply(c.CONDITIONS["<"], (power(X, 2), n(2)))
    (span,) = region_of(condition, "x", c.minus(INFINITY), INFINITY).spans
    assert (span.low.x, span.high.x) == pytest.approx((-float(mpmath.sqrt(2)), float(mpmath.sqrt(2))), rel=1e-15)
    assert (span.low_in, span.high_in) == (False, False)


# ---------------------------------------------------------------- extrema


def test_turning_points_of_a_cubic() -> None:
    # x^3 - 3x + 1: maximum 3 at -1, minimum -1 at 1
    found = turning_points(plus(power(X, 3), times(n(-3), X), n(1)), "x", n(-2), n(2), frozenset({"minimum", "maximum"}))
    assert [(p.x, p.value, p.what) for p in found.places if p.shape == "turn"] == [(-1, 3, "maximum"), (1, -1, "minimum")]
    bend = inflections(plus(power(X, 3), times(n(-3), X), n(1)), "x", n(-2), n(2))
    assert [(p.x, p.value) for p in bend.places] == [(0, 1)]


LOWEST: list[tuple[str, Formula, Formula, Formula, Callable[[], Any], Callable[[], Any]]] = [
    ("x^x", power(X, X), n("1/100"), n(1), lambda: 1 / mpmath.e, lambda: mpmath.exp(-1 / mpmath.e)),
    ("x^4 - 2x^2", plus(power(X, 4), times(n(-2), power(X, 2))), n(0), n(3), lambda: mpmath.mpf(1), lambda: mpmath.mpf(-1)),
    ("x + 4/x", plus(X, over(n(4), X)), n("1/10"), n(10), lambda: mpmath.mpf(2), lambda: mpmath.mpf(4)),
]


@pytest.mark.parametrize(("formula", "low", "high", "place", "value"), [r[1:] for r in LOWEST], ids=[r[0] for r in LOWEST])
def test_the_lowest_value_and_its_place(
    formula: Formula, low: Formula, high: Formula, place: Callable[[], Any], value: Callable[[], Any]
) -> None:
    found = lowest_value(formula, "x", low, high)
    assert found.complete
    holds(found.places[0].value_interval, value(), 1e-9)
    assert found.places[0].x == pytest.approx(float(place()), abs=1e-7)


def test_stationary_places_of_two_variables_have_their_kinds() -> None:
    # x^3 - 3x + y^2: a minimum at (1, 0), a saddle at (-1, 0)
    formula = plus(power(X, 3), times(n(-3), X), power(Y, 2))
    found = stationary_places(formula, ["x", "y"], [(n(-2), n(2)), (n(-1), n(1))], [])
    inner = {(round(p.values[0], 9), round(p.values[1], 9)): p.kind for p in found.places if not p.border}
    assert inner == {(1.0, 0.0): "minimum", (-1.0, 0.0): "saddle"}


# ---------------------------------------------------------------- integrals

INTEGRALS: list[tuple[str, Formula, Formula, Formula, Callable[[], Any]]] = [
    ("GR 3.321.3", of("exp", c.minus(power(X, 2))), c.minus(INFINITY), INFINITY, lambda: mpmath.sqrt(mpmath.pi)),
    ("GR 3.241.2", over(n(1), plus(n(1), power(X, 2))), n(0), INFINITY, lambda: mpmath.pi / 2),
    ("GR 4.231.1", over(of("ln", X), plus(n(1), X)), n(0), n(1), lambda: -(mpmath.pi**2) / 12),
    ("1/sqrt(x)", over(n(1), of("sqrt", X)), n(0), n(1), lambda: mpmath.mpf(2)),
    ("abs(x - 1/3)", of("abs", plus(X, n("-1/3"))), n(0), n(1), lambda: mpmath.mpf(5) / 18),
    ("x^4 (1 - x)^4/(1 + x^2)", over(times(power(X, 4), power(plus(n(1), c.minus(X)), 4)), plus(n(1), power(X, 2))), n(0), n(1),
     lambda: mpmath.mpf(22) / 7 - mpmath.pi),
    ("sin(x)", of("sin", X), n(0), PI, lambda: mpmath.mpf(2)),
]  # fmt: skip


@pytest.mark.parametrize(("formula", "low", "high", "truth"), [r[1:] for r in INTEGRALS], ids=[r[0] for r in INTEGRALS])
def test_integrals_hold_the_printed_value(formula: Formula, low: Formula, high: Formula, truth: Callable[[], Any]) -> None:
    found = integral_of(formula, "x", low, high, 16)
    assert found.value == pytest.approx(float(truth()), rel=1e-13)
    if found.evidence == "proven":
        holds(found.interval, truth(), 1e-12)


def test_what_diverges_has_no_integral() -> None:
    with pytest.raises((NoIntegral, NotSearchable)):
        integral_of(over(n(1), X), "x", n(0), n(1), 16)


def test_an_integral_over_a_disc_is_its_area() -> None:
    edge = of("sqrt", c.subtract(n(1), power(X, 2)))
    found = double_integral(n(1), ("x", n(-1), n(1)), ("y", c.minus(edge), edge))
    assert found.value == pytest.approx(float(mpmath.pi), rel=1e-9)


@given(st.lists(st.tuples(st.fractions(-9, 9), st.fractions(-9, 9)), min_size=1, max_size=8))
def test_the_centroid_of_points_is_their_mean(points: list[tuple[Fraction, Fraction]]) -> None:
    found = centroid_of_points([list(p) for p in points])
    assert list(found) == [sum((p[k] for p in points), Fraction(0)) / len(points) for k in (0, 1)]


# ---------------------------------------------------------------- limits and sums

LIMITS: list[tuple[str, Formula, Formula, Any]] = [
    ("sin(x)/x", over(of("sin", X), X), n(0), 1.0),
    ("(1 - cos(x))/x^2", over(c.subtract(n(1), of("cos", X)), power(X, 2)), n(0), 0.5),
    ("(1 + 1/x)^x", power(plus(n(1), over(n(1), X)), X), INFINITY, float(mpmath.e)),
    ("(e^x - 1)/x", over(plus(of("exp", X), n(-1)), X), n(0), 1.0),
    ("ln(x)/x", over(of("ln", X), X), INFINITY, 0.0),
    ("1/x^2", over(n(1), power(X, 2)), n(0), float("inf")),
    ("1/x", over(n(1), X), n(0), None),
]


@pytest.mark.parametrize(("formula", "place", "value"), [r[1:] for r in LIMITS], ids=[r[0] for r in LIMITS])
def test_limits(formula: Formula, place: Formula, value: Any) -> None:
    found = limit_of(formula, "x", place, (-1, 1) if place is not INFINITY else (-1,))
    assert found.value == (pytest.approx(value, abs=1e-12) if value is not None else None)


SUMS: list[tuple[str, Formula, Formula, Formula, Callable[[], Any]]] = [
    ("DLMF 25.6.1: zeta(2)", power(K, -2), n(1), INFINITY, lambda: mpmath.pi**2 / 6),
    ("zeta(3)", power(K, -3), n(1), INFINITY, lambda: mpmath.zeta(3)),
    ("e", over(n(1), of("Gamma", plus(K, n(1)))), n(0), INFINITY, lambda: mpmath.e),
    ("a geometric series", power(n("1/3"), K), n(0), INFINITY, lambda: mpmath.mpf(3) / 2),
    ("the first hundred", K, n(1), n(100), lambda: mpmath.mpf(5050)),
]


@pytest.mark.parametrize(("formula", "low", "high", "truth"), [r[1:] for r in SUMS], ids=[r[0] for r in SUMS])
def test_sums(formula: Formula, low: Formula, high: Formula, truth: Callable[[], Any]) -> None:
    found = sum_of(formula, "k", low, high, 16)
    assert found.value == pytest.approx(float(truth()), rel=1e-14)
    if found.interval is not None and found.evidence == "proven":
        holds(found.interval, truth(), 1e-12)


def test_a_harmonic_sum_has_no_value_and_a_factorial_is_a_product() -> None:
    with pytest.raises((NoSum, NoIntegral)):
        sum_of(over(n(1), K), "k", n(1), INFINITY, 16)
    assert product_of(K, "k", n(1), n(20), 16).exact == 2432902008176640000
