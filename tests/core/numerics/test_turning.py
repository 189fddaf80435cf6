"""Turning points, inflections, limits, sums, regions and systems: tables of cases with what must be said of each, and laws."""

from __future__ import annotations

import itertools
import math
from fractions import Fraction
from typing import Any

import mpmath
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from open_lemma.core.formula.nodes import Formula, Number
from open_lemma.core.numerics.extrema.turning import inflections, turning_points
from open_lemma.core.numerics.limits_and_sums.limits import NO_VALUE, limit_of
from open_lemma.core.numerics.limits_and_sums.sums import NoSum, product_of, sum_of
from open_lemma.core.numerics.roots.infinite_intervals import Tail, find_nearest, find_roots_anywhere
from open_lemma.core.numerics.roots.pieces import smooth_pieces
from open_lemma.core.numerics.roots.refine import certain_digits
from open_lemma.core.numerics.roots.search import find_roots
from open_lemma.core.numerics.roots.systems import box_of, solve_system
from open_lemma.core.run.execute.interpreter import run

BOTH = frozenset({"minimum", "maximum"})


def formula(text: str, *names: str) -> Formula:
    found = run(f"f({', '.join(names or ('x',))}) = {text}").names.find("f")
    return found.body  # type: ignore[union-attr, no-any-return]


def end(text: str) -> Formula:
    from open_lemma.core.formula import catalogue as c

    if text.endswith("infinity"):
        infinity = c.constant("infinity")
        return c.minus(infinity) if text.startswith("-") else infinity
    return run(f"a = {text}").names.find("a").formula  # type: ignore[union-attr, no-any-return]


# (formula, from, to): what, place, height, shape; a star marks the lowest or highest of all.
TURNS: list[tuple[str, str, str, list[tuple[str, float, float, str]]]] = [
    ("x^3 - 3x", "-2", "3", [("min", -2, -2, "end*"), ("max", -1, 2, "turn"), ("min", 1, -2, "turn*"), ("max", 3, 18, "end*")]),
    (
        "abs(x^2 - 2)",
        "-2",
        "2",
        [
            ("max", -2, 2, "end*"),
            ("min", -math.sqrt(2), 0, "kink*"),
            ("max", 0, 2, "turn*"),
            ("min", math.sqrt(2), 0, "kink*"),
            ("max", 2, 2, "end*"),
        ],
    ),
    ("square(x)", "0", "1", [("max", 0, 1, "stretch*"), ("min", 0.5, -1, "stretch*"), ("max", 1, 1, "end*")]),
    ("floor(x^2)", "0", "2", [("min", 0, 0, "stretch*"), ("max", 2, 4, "end*")]),
    ("mod(x, 1)", "0", "2", [("min", 0, 0, "end*"), ("min", 1, 0, "jump*"), ("min", 2, 0, "end*")]),
    ("cbrt(x^2)", "-1", "2", [("max", -1, 1, "end"), ("min", 0, 0, "kink*"), ("max", 2, 2 ** (2 / 3), "end*")]),
    ("x*exp(-x)", "0", "infinity", [("min", 0, 0, "end*"), ("max", 1, math.exp(-1), "turn*")]),
    ("x/(1 + x^2)", "-infinity", "infinity", [("min", -1, -0.5, "turn*"), ("max", 1, 0.5, "turn*")]),
    ("x^4 - 2x^2", "-infinity", "infinity", [("min", -1, -1, "turn*"), ("max", 0, 0, "turn"), ("min", 1, -1, "turn*")]),
    ("sqrt(1 - x^2)", "-2", "2", [("min", -1, 0, "edge*"), ("max", 0, 1, "turn*"), ("min", 1, 0, "edge*")]),
    ("x^x", "0.1", "2", [("max", 0.1, 0.1**0.1, "end"), ("min", math.exp(-1), math.exp(-math.exp(-1)), "turn*"), ("max", 2, 4, "end*")]),
    ("max(x, 1 - x)", "-1", "3", [("max", -1, 2, "end"), ("min", 0.5, 0.5, "kink*"), ("max", 3, 3, "end*")]),
    ("x^3", "-1", "1", [("min", -1, -1, "end*"), ("max", 1, 1, "end*")]),
    ("3", "0", "1", []),
    ("x*ln(x)", "0", "1", [("min", math.exp(-1), -math.exp(-1), "turn*"), ("max", 1, 0, "end")]),  # beside 0 it nears 0
]


@pytest.mark.parametrize(("text", "low", "high", "expected"), TURNS, ids=[t[0] for t in TURNS])
def test_all_turning_points(text: str, low: str, high: str, expected: list[tuple[str, float, float, str]]) -> None:
    found = turning_points(formula(text), "x", end(low), end(high), BOTH)
    assert found.complete
    told = [(p.what[:3], p.x, p.value, p.shape + "*" * p.overall) for p in found.places]
    assert [(t[0], t[3]) for t in told] == [(e[0], e[3]) for e in expected]
    assert [v for t in told for v in t[1:3]] == pytest.approx([v for e in expected for v in e[1:3]], rel=1e-14, abs=1e-15)
    assert all(p.evidence == "proven" for p in found.places)
    for p in found.places:
        low_text, high_text = (mpmath.mpf(t) for t in p.interval)
        assert high_text - low_text <= 1e-17 * max(1, abs(p.x))


WITHOUT = [
    ("1/x", "-1", "1", "go beyond all bounds"),
    ("tan(x)", "0", "3", "go beyond all bounds"),
    ("x^3", "-infinity", "infinity", "always one beyond"),
    ("mod(x, 1)", "0.5", "1.5", "without taking it"),
    ("atan(x)", "-infinity", "infinity", "always one beyond"),
]


@pytest.mark.parametrize(("text", "low", "high", "said"), WITHOUT, ids=[w[0] for w in WITHOUT])
def test_what_has_no_lowest_or_highest_value_says_why(text: str, low: str, high: str, said: str) -> None:
    found = turning_points(formula(text), "x", end(low), end(high), BOTH)
    assert any(said in note for note in found.notes), found.notes


BENDS = [
    ("x^3 - 3x", "-2", "3", [0.0]),
    ("exp(-x^2)", "-infinity", "infinity", [-math.sqrt(0.5), math.sqrt(0.5)]),
    ("cbrt(x)", "-1", "1", [0.0]),
    ("abs(x)*x", "-1", "1", [0.0]),
    ("abs(x^2 - 1)", "-2", "2", []),
    ("sin(x)", "1", "7", [math.pi, 2 * math.pi]),
    ("x^4", "-1", "1", []),
    ("1/(1 + x^2)", "-infinity", "infinity", [-1 / math.sqrt(3), 1 / math.sqrt(3)]),
    ("1/x", "-1", "1", []),
]


@pytest.mark.parametrize(("text", "low", "high", "expected"), BENDS, ids=[b[0] for b in BENDS])
def test_all_inflections(text: str, low: str, high: str, expected: list[float]) -> None:
    found = inflections(formula(text), "x", end(low), end(high))
    assert [p.x for p in found.places] == pytest.approx(expected, rel=1e-15, abs=1e-15)
    assert found.complete


LEAF = st.sampled_from(["x", "2x - 1", "x^2", "sin(3x)", "exp(-x)", "abs(x - 0.3)", "cos(x)", "x^3/4"])
SUMS = st.lists(LEAF, min_size=1, max_size=3).map(" + ".join)


@settings(max_examples=40, deadline=None)
@given(SUMS, st.integers(-6, 2), st.integers(1, 12))
def test_minima_and_maxima_take_turns_where_there_are_no_jumps(text: str, low: int, width: int) -> None:
    """Between two neighbouring minima of a continuous function lies a maximum; turned upside down they change places."""
    ends = Number(Fraction(low, 2)), Number(Fraction(low + width, 2))
    found = turning_points(formula(text), "x", *ends, BOTH)
    kinds = [p.what for p in found.places]
    assert all(a != b for a, b in itertools.pairwise(kinds))
    other = turning_points(formula(f"0 - ({text})"), "x", *ends, BOTH)
    assert [(p.x, "minimum" if p.what == "maximum" else "maximum") for p in other.places] == [(p.x, p.what) for p in found.places]


# ---------------------------------------------------------------- pieces and tails


def test_pieces_are_divided_at_poles_of_what_decides() -> None:
    """|1/x - 1| decides by the sign of 1/x - 1, which changes at x = 1 and, at the pole, at x = 0."""
    found = smooth_pieces(formula("abs(1/x - 1)"), "x", end("-1"), end("2"))
    assert [p.x for p in found.places] == [-1, 0, 1, 2]


FAR = [
    ("x^2 - exp(x)", -1),
    ("x*exp(-x) - 0.1", -1),
    ("sqrt(x) - ln(x)", 1),
    ("cosh(x) - 5x", 1),
    ("1 - 1/x", 1),
    ("x^3 - 1000x^2", 1),
    ("exp(-x)", 1),
    ("ln(x) - 5", 1),
    ("sin(x)", 0),
    ("x + 2*sin(x)", 1),
    ("atan(x) - 1", 1),
    ("floor(x) - 5", 0),
    ("tan(x)", 0),
]


@pytest.mark.parametrize(("text", "sign"), FAR, ids=[f[0] for f in FAR])
def test_the_sign_far_out(text: str, sign: int) -> None:
    tail = Tail(formula(text), "x")
    reach = tail.quiet_from()
    if sign == 0:
        assert reach is None
        return
    assert reach is not None
    assert tail.sign(reach) == sign
    with mpmath.workdps(30):
        read: dict[str, Any] = {
            "exp": mpmath.exp,
            "ln": mpmath.log,
            "sqrt": mpmath.sqrt,
            "cosh": mpmath.cosh,
            "sin": mpmath.sin,
            "atan": mpmath.atan,
        }
        python = text.replace("^", "**").replace("1000x", "1000*x").replace("5x", "5*x")
        for k in range(1, 60):
            assert sign * eval(python, read | {"x": mpmath.mpf(reach) * (1 + mpmath.mpf(k) / 7)}) > 0


ANYWHERE = [
    ("x^2 - exp(x)", [-0.7034674224983917]),
    ("x*exp(-x) - 0.1", [0.11183255915896297, 3.577152063957297]),
    ("exp(x) - 3x^4", None),
    ("x^3 - 2x + 1", [-1.618033988749895, 0.6180339887498949, 1.0]),
    ("exp(x) + 1", []),
    ("ln(x) - 5", [148.4131591025766]),
]


@pytest.mark.parametrize(("text", "expected"), ANYWHERE, ids=[a[0] for a in ANYWHERE])
def test_roots_of_the_whole_line(text: str, expected: list[float] | None) -> None:
    found = find_roots_anywhere(formula(text), "x", end("-infinity"), end("infinity"))
    assert (found.evidence, found.complete) == ("proven", True)
    if expected is not None:
        assert [r.x for r in found.roots] == pytest.approx(expected, rel=1e-15)


def test_infinitely_many_roots_are_noticed() -> None:
    found = find_roots_anywhere(formula("sin(x)"), "x", end("0"), end("infinity"))
    assert not found.complete
    assert found.unsettled[-1].high == math.inf
    assert len(found.roots) == 32


@settings(max_examples=60, deadline=None)
@given(st.lists(st.integers(-40, 40), min_size=1, max_size=5, unique=True), st.integers(-500, 500))
def test_the_nearest_root_is_the_nearest(places: list[int], near: int) -> None:
    product = "*".join(f"(x - {p})" if p >= 0 else f"(x + {-p})" for p in places)
    centre = Fraction(near, 10)
    found = find_nearest(formula(product), "x", Number(centre), end("-infinity"), end("infinity"))
    assert found.proven
    least = min(abs(p - centre) for p in places)
    assert abs(Fraction(found.found.roots[0].exact or 0) - centre) == least
    assert len(found.tied) == sum(abs(p - centre) == least for p in places) - 1


# ---------------------------------------------------------------- limits

# Handbook limits; 0/0 by the rule of de l'Hospital is proven, what rests on algebra is checked.
LIMITS: list[tuple[str, str, float | None, str]] = [
    ("sin(x)/x", "0", 1, "proven"),
    ("(1 - cos(x))/x^2", "0", 0.5, "proven"),
    ("(exp(x) - 1)/x", "0", 1, "proven"),
    ("x^2", "3", 9, "proven"),
    ("(x^2 - 4)/(x - 2)", "2", 4, "proven"),
    ("(cbrt(x) - 2)/(x - 8)", "8", 1 / 12, "proven"),
    ("1/x^2", "0", math.inf, "proven"),
    ("1/x", "0", None, "proven"),
    ("abs(x)/x", "0", None, "proven"),
    ("floor(x)", "2", None, "proven"),
    ("ln(x)", "0", -math.inf, "proven"),
    ("(1 + 1/x)^x", "infinity", math.e, "proven"),
    ("(3x^2 + 1)/(2x^2 - x)", "-infinity", 1.5, "proven"),
    ("x^3/(x + 1)", "-infinity", math.inf, "proven"),
    ("exp(-x)", "infinity", 0, "proven"),
    ("sqrt(x^2 + x) - x", "infinity", 0.5, "proven"),
    ("sin(x)", "infinity", None, "checked"),
    ("sin(1/x)", "0", None, "checked"),
    ("x*sin(1/x)", "0", 0, "proven"),
    ("x^x", "0", 1, "proven"),
    ("(sqrt(x + 1) - 1)/x", "0", 0.5, "proven"),
    # What comes near to a jump, to an edge of a domain, or to a pole: elementary, from the side from which it comes.
    ("floor(tanh(x))", "infinity", 0, "proven"),
    ("ceil(exp(-x))", "infinity", 1, "proven"),
    ("sign(1/x)", "-infinity", -1, "proven"),
    ("floor(-1/x)", "infinity", -1, "proven"),
    ("mod(x^2, 1)", "0", 0, "proven"),
    ("sqrt(-1/x)", "infinity", None, "proven"),
    ("asin(1 + 1/x)", "infinity", None, "proven"),
    ("asin(1 - 1/x)", "infinity", math.pi / 2, "proven"),
    ("(-1/x)^0.5", "infinity", None, "proven"),
    ("(-2)^(2 + 1/x)", "infinity", None, "proven"),
    ("exp(-x)^(1/x)", "infinity", math.exp(-1), "checked"),
    ("sqrt(sign(x))", "0", 1, "proven"),
    ("atan(1/x)", "0", None, "proven"),
    ("ln(sin(x))", "pi", -math.inf, "proven"),
    ("exp(1/ln(x))", "1", None, "proven"),
    ("tanh(ln(x))", "0", -1, "proven"),
    ("2^(-x)", "infinity", 0, "proven"),
    ("(1/2)^(-x)", "infinity", math.inf, "proven"),
    ("(1/x)^(1/x)", "infinity", 1, "proven"),
    ("0^x", "0", 0, "proven"),
]


@pytest.mark.parametrize(("text", "place", "value", "evidence"), LIMITS, ids=[f"{t[0]} at {t[1]}" for t in LIMITS])
def test_limits(text: str, place: str, value: float | None, evidence: str) -> None:
    found = limit_of(formula(text), "x", end(place))
    assert found.evidence == evidence
    if value is None:
        assert not found.agree
    else:
        assert found.value == pytest.approx(value, rel=1e-14, abs=1e-15)


def test_a_side_without_values_is_proven_to_be_so() -> None:
    found = limit_of(formula("sqrt(x)*floor(x + 1)"), "x", end("0"))
    assert (found.value, [s.why for s in found.valueless]) == (0.0, [NO_VALUE])
    assert all(s.certificate is not None for s in (*found.sides, *found.valueless))
    nowhere = limit_of(formula("ln(-x^2)"), "x", end("0"))
    assert [s.why for s in nowhere.sides] == [NO_VALUE] * 2
    assert nowhere.evidence == "proven"
    assert all(s.certificate is not None for s in nowhere.sides)


def test_sides_of_a_limit() -> None:
    found = limit_of(formula("1/x"), "x", end("0"))
    assert [s.value for s in found.sides] == [-math.inf, math.inf]
    assert limit_of(formula("1/x"), "x", end("0"), (1,)).value == math.inf


# ---------------------------------------------------------------- sums

# NIST DLMF 25.2, 4.5, 4.24 and OEIS; the truth by mpmath's own functions.
TOTALS: list[tuple[str, str, Any, str]] = [
    ("1/k^2", "1", lambda: mpmath.pi**2 / 6, "proven"),
    ("1/k^4", "1", lambda: mpmath.pi**4 / 90, "proven"),
    ("1/k^1.5", "1", lambda: mpmath.zeta(mpmath.mpf(3) / 2), "proven"),
    ("1/Gamma(k + 1)", "0", lambda: mpmath.e, "proven"),
    ("k/2^k", "1", lambda: mpmath.mpf(2), "proven"),
    ("(-1)^k/k", "1", lambda: -mpmath.log(2), "proven"),
    ("(-1)^k/(2k + 1)", "0", lambda: mpmath.pi / 4, "proven"),
    ("exp(-k)", "0", lambda: 1 / (1 - mpmath.exp(-1)), "proven"),
    ("1/(k^2 + 1)", "0", lambda: (1 + mpmath.pi * mpmath.coth(mpmath.pi)) / 2, "proven"),
    ("cos(k)/2^k", "0", lambda: (1 - mpmath.cos(1) / 2) / (mpmath.mpf(5) / 4 - mpmath.cos(1)), "proven"),
]


@pytest.mark.parametrize(("text", "low", "truth", "evidence"), TOTALS, ids=[t[0] for t in TOTALS])
def test_endless_sums(text: str, low: str, truth: Any, evidence: str) -> None:
    found = sum_of(formula(text, "k"), "k", end(low), end("infinity"))
    assert found.evidence == evidence
    assert found.interval is not None
    with mpmath.workdps(40):
        a, b = (mpmath.mpf(t) for t in found.interval)
        assert a <= truth() <= b
        assert b - a <= 1e-17 * abs(truth())


@pytest.mark.parametrize(
    ("text", "low", "truth"),
    [
        ("(-1)^k/ln(k)", "2", lambda: mpmath.mpf("0.924299897222938855959570")),  # OEIS A099769, and mpmath's nsum
        ("(-1)^k/k^0.1", "1", lambda: -mpmath.altzeta(mpmath.mpf("0.1"))),
        ("(-1)^k/ln(ln(k))", "3", lambda: mpmath.nsum(lambda k: (-1) ** int(k) / mpmath.log(mpmath.log(k)), [3, mpmath.inf])),
    ],
)
def test_sums_whose_terms_change_their_sign_and_fall_too_slowly_for_a_bound(text: str, low: str, truth: Any) -> None:
    found = sum_of(formula(text, "k"), "k", end(low), end("infinity"))
    assert found.evidence == "checked"
    assert found.interval is not None
    with mpmath.workdps(30):
        a, b = (mpmath.mpf(t) for t in found.interval)
        assert a <= truth() <= b
        assert b - a <= 1e-13


def test_terms_that_do_not_fall_are_not_weighted() -> None:
    """Each has a weighted mean (1/2 and 1/4), and no sum."""
    for text in ("(-1)^k", "(-1)^k*(k + 1)"):
        with pytest.raises(NoSum, match="diverges"):
            sum_of(formula(text, "k"), "k", end("0"), end("infinity"))


def test_terms_that_only_hold_a_changing_sign_are_not_weighted() -> None:
    """The first is about (-1)^k/ln(k) - 1/(4 ln(k)^2) and diverges; the second has a sum, which is not the one of its even terms."""
    for text, low in (("(-1)^k/(ln(k) + (-1)^k/4)", "3"), ("1/k^1.5 + (-1)^k/ln(k)", "2")):
        with pytest.raises(NoSum):
            sum_of(formula(text, "k"), "k", end(low), end("infinity"))


@pytest.mark.parametrize("last", [30_000, 30_001])
def test_a_long_sum_with_an_end_whose_terms_change_their_sign(last: int) -> None:
    """By Boole's formula (DLMF 24.17.1), to the last term."""
    found = sum_of(formula("(-1)^k/sqrt(k)", "k"), "k", end("1"), end(str(last)))
    assert found.evidence == "proven"
    with mpmath.workdps(30):
        truth = mpmath.fsum((-1) ** k / mpmath.sqrt(k) for k in range(1, last + 1))
        low, high = (mpmath.mpf(v) for v in found.interval or ())
        assert low <= truth <= high
        assert high - low < mpmath.mpf(10) ** -11


def test_ten_million_terms_are_added_up_by_formula() -> None:
    found = sum_of(formula("1/sqrt(k)", "k"), "k", end("1"), end("10000000"))
    assert found.evidence == "proven"
    with mpmath.workdps(30):
        assert abs(found.value - (mpmath.zeta(mpmath.mpf("0.5")) - mpmath.zeta(mpmath.mpf("0.5"), 10**7 + 1))) < 1e-9


@pytest.mark.parametrize("text", ["1/k", "k/(k + 1)", "(-1)^k", "sqrt(k)", "1/sqrt(k)", "cos(k)"])
def test_what_has_no_sum_is_refused(text: str) -> None:
    with pytest.raises(NoSum):
        sum_of(formula(text, "k"), "k", end("1"), end("infinity"))


@settings(max_examples=40, deadline=None)
@given(st.integers(-5, 5), st.integers(0, 30), st.integers(-3, 3), st.integers(-3, 3))
def test_finite_sums_and_products_are_exact(low: int, count: int, a: int, b: int) -> None:
    f = formula(f"({a})*k^2 + ({b})*k + 1", "k")
    terms = [Fraction(a * k * k + b * k + 1) for k in range(low, low + count + 1)]
    assert sum_of(f, "k", Number(Fraction(low)), Number(Fraction(low + count))).exact == sum(terms)
    product = math.prod(terms)
    assert product_of(f, "k", Number(Fraction(low)), Number(Fraction(low + count))).exact == product


# ---------------------------------------------------------------- systems


@settings(max_examples=25, deadline=None)
@given(st.tuples(*[st.integers(-9, 9)] * 4), st.tuples(*[st.integers(-5, 5)] * 2))
def test_two_straight_lines_meet_where_they_do(slopes: tuple[int, ...], place: tuple[int, int]) -> None:
    a, b, c, d = slopes
    if a * d == b * c:
        return
    x, y = place
    lines = [f"({a})*x + ({b})*y - ({a * x + b * y})", f"({c})*x + ({d})*y - ({c * x + d * y})"]
    found = solve_system([formula(t, "x", "y") for t in lines], ["x", "y"], box_of([(end("-7.3"), end("7.1"))] * 2))
    assert found.complete
    assert [tuple(round(v, 12) for v in s.values) for s in found.solutions] == [(x, y)]
    assert found.solutions[0].evidence == "proven"


def test_a_touching_solution_is_not_called_settled() -> None:
    found = solve_system([formula("x^2 - y", "x", "y"), formula("y", "x", "y")], ["x", "y"], box_of([(end("-1"), end("1"))] * 2))
    assert not found.complete
    assert not found.solutions


def test_no_digit_is_shown_that_is_not_certain() -> None:
    root = find_roots(formula("cos(x) - x"), "x", end("0"), end("1")).roots[0]
    with mpmath.workdps(60):
        truth = mpmath.nstr(mpmath.findroot(lambda x: mpmath.cos(x) - x, 0.7), 21)
    assert certain_digits(root.ball, 21) == truth
    from flint import arb

    assert certain_digits(arb(2, 0.01), 30) in ("2.0", "2")
