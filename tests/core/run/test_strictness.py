"""Every way in which *proven* used to be wrong at its seams, a table each: domains, values at places, doubles, ends, lone values."""

from __future__ import annotations

from typing import Any

import mpmath
import pytest

from open_lemma.core.run.execute.interpreter import run


def finding(script: str) -> dict[str, Any]:
    outcome = run(script)
    assert outcome.findings, [m.text for m in outcome.reading.messages.items]
    return outcome.findings[-1].as_record()


def refused(script: str) -> str:
    outcome = run(script)
    assert not outcome.findings
    return outcome.reading.messages.items[0].text


@pytest.mark.parametrize(
    "script",
    [
        "integral of abs(sqrt(x)) for x from -1 to 3", "mean of max(x, acos(x)) for x from 0 to 2",
        "area of abs(ln(x)) and 0 for x from -1 to 1",
        "integral of sign(asin(x)) for x from 0 to 2", "integral of floor(sqrt(x)) for x from -2 to 2",
    ],
)  # fmt: skip
def test_what_is_undefined_is_not_swallowed_by_a_switch(script: str) -> None:
    assert "no value" in refused(script)


@pytest.mark.parametrize(
    ("script", "places"),
    [
        ("extremes of max(x, acos(x)) for x from 0 to 3", [(0, mpmath.pi / 2), (0.7390851332151607, 0.7390851332151607), (1, 1)]),
        ("maxima of (x when x < 1, otherwise 1/0) for x from 0 to 1", []),
        ("minima of sign(abs(x)) for x from -1 to 1", [(0, 0)]),
        ("maxima of mod(min(1, x), 1) - x/10 for x from 0.5 to 2", []),
        ("minima of floor(x) - x for x from 0 to 3", []),
        ("minima of (1 when x = 1, otherwise 2) for x from 0 to 3", [(1, 1)]),
        ("extremes of sqrt(-x^2) for x from -1 to 1", [(0, 0), (0, 0)]),
        ("maxima of 1/x for x from 0 to 2", []),
        ("minima of sqrt(x^2 - 2) for x from 0 to 3", [(mpmath.sqrt(2), 0)]),
    ],
)
def test_a_value_at_a_place_is_the_formulas_own(script: str, places: list[tuple[Any, Any]]) -> None:
    found = finding(script)
    assert found["evidence"] == "proven"
    assert [(v["x"], v["value"]) for v in found["values"]] == [(pytest.approx(float(x)), pytest.approx(float(y))) for x, y in places]


@pytest.mark.parametrize(
    ("script", "high", "belongs"),
    [
        ("solution of tan(x) > 1 for x from 0 to 3", mpmath.pi / 2, False),
        ("solution of 1/(x - 1) < 5 for x from -1 to 1", 1, False),
        ("solution of sqrt(2 - x^2) >= 0 for x from 0 to 2", mpmath.sqrt(2), True),
        ("solution of ln(3 - x) < 1 for x from 2 to 3", 3, False),
    ],
)  # fmt: skip
def test_ends_of_spans_belong_where_the_condition_holds(script: str, high: Any, belongs: bool) -> None:
    found = finding(script)
    assert found["evidence"] == "proven"
    last = found["values"][-1]
    assert last["high"] == pytest.approx(float(high))
    assert last["high_belongs"] is belongs


ROUNDED = [
    "xs = [sqrt(2), 3]\nroots of x - xs[1] for x from 0 to 3",
    "r = normal(3, 0, 1, 7)\nintegral of r[1]*x for x from 0 to 1",
    "xs = [sqrt(k) for k from 1 to 5]\nlimit of x*sum(xs) for x, at 1",
    "xs = [sqrt(k) for k from 1 to 5]\nextremes of x^2 for x from 0 to xs[2]",
    "r = uniform(2, 0, 1, 3)\nsolution of x > r[1] for x from 0 to 2",
    "xs = [sqrt(2)]\nsum of xs[1]/2^k for k from 0 to infinity",
]


@pytest.mark.parametrize("script", ROUNDED)
def test_what_went_through_doubles_is_checked_at_best(script: str) -> None:
    found = finding(script)
    assert found["evidence"] != "proven"
    assert all(v.get("evidence") != "proven" for v in found["values"])
    assert any("floating-point" in n or "doubles" in n for n in found["notes"])


ENCLOSED = [
    ("define g(t):\n    return sqrt(t)\nroots of x - g(2) for x from 0 to 3", lambda: mpmath.sqrt(2)),
    ("s = 0\nfor k from 1 to 20:\n    s = s + sqrt(k)\nroots of x - s for x from 0 to 100",
     lambda: mpmath.fsum(mpmath.sqrt(k) for k in range(1, 21))),
    ("s = 1\nk = 1\nwhile s < 3:\n    s = s + exp(-k)\n    k = k + 0.5\n    if k > 4:\n        s = s + 2\nroots of x - s for x from 0 to 9",
     lambda: 3 + mpmath.fsum(mpmath.exp(-mpmath.mpf(j) / 2) for j in range(2, 9))),
    ("define half(a):\n    if a > sqrt(2):\n        return ln(a)\n    else:\n        return exp(a)\nroots of x - half(3) for x from 0 to 9",
     lambda: mpmath.log(3)),
]  # fmt: skip


@pytest.mark.parametrize(("script", "truth"), ENCLOSED)
def test_loops_and_blocks_are_enclosed_where_their_branches_are_decided(script: str, truth: Any) -> None:
    found = finding(script)
    assert found["evidence"] == "proven"
    with mpmath.workdps(40):
        low, high = (mpmath.mpf(v) for v in found["values"][0]["interval"])
        assert low - mpmath.mpf(10) ** -30 <= truth() <= high + mpmath.mpf(10) ** -30
        assert high - low < mpmath.mpf(10) ** -18


def test_a_branch_that_enclosures_do_not_decide_leaves_the_doubles() -> None:
    block = "define g(t):\n    if sqrt(t)^2 = t:\n        return sqrt(t)\n    else:\n        return -sqrt(t)\n"
    assert finding(block + "roots of x - g(3) for x from -3 to 3")["evidence"] != "proven"


@pytest.mark.parametrize(
    "script", ["roots of sawtooth(sinh(cosh(x))) for x from 1 to 10", "roots of mod(exp(exp(x)), 1) - 0.5 for x from 0 to 9"]
)
def test_numbers_beyond_all_memory_end_no_process(script: str) -> None:
    found = finding(script)
    assert found["evidence"] == "open"
    assert found["summary"].split()[1] == "roots"


DIVERGENT = ["1/(k*ln(k))", "tan(1/k)", "abs(sin(k))/k", "ln(1 + 1/k)", "1/sqrt(k)"]


@pytest.mark.parametrize("term", DIVERGENT)
def test_sums_that_diverge_are_given_no_number(term: str) -> None:
    assert "diverge" in refused(f"sum of {term} for k from 2 to infinity")


def holds_the_truth(script: str, truth: Any, digits: int) -> None:
    """Whether the number that is found is proven, and its interval holds the truth and is narrow."""
    found = finding(script)
    assert found["evidence"] == "proven"
    with mpmath.workdps(30):
        low, high = (mpmath.mpf(v) for v in found["values"][0]["interval"])
        assert low <= truth() <= high
        assert high - low < mpmath.mpf(10) ** -digits


SUMS = [
    ("1/k^1.1", 1, lambda: mpmath.zeta(mpmath.mpf("1.1"))), ("(-1)^k/sqrt(k)", 1, lambda: -mpmath.altzeta(mpmath.mpf("0.5"))),
    ("atan(1/k^2)", 1, lambda: mpmath.nsum(lambda k: mpmath.atan(1 / k**2), [1, mpmath.inf])),
    ("1/(k*ln(k)^2)", 2, lambda: mpmath.mpf("2.10974280123689197447925719761")),  # OEIS A115563
]  # fmt: skip


@pytest.mark.parametrize(("term", "first", "truth"), SUMS)
def test_slow_sums_are_proven(term: str, first: int, truth: Any) -> None:
    holds_the_truth(f"sum of {term} for k from {first} to infinity", truth, 12)


# By parts, with u = sqrt(x); the last ones moved to other places.
LOGARITHMS = [
    ("ln(x)/sqrt(x)", "0", "2", lambda: 2 * mpmath.sqrt(2) * (mpmath.log(2) - 2)), ("ln(x)^2/sqrt(x)", "0", "1", lambda: mpmath.mpf(16)),
    ("ln(x)/cbrt(x)", "0", "1", lambda: mpmath.mpf(-9) / 4), ("ln(x)*x^(-7/10)", "0", "1", lambda: -mpmath.mpf(100) / 9),
    ("ln(1 - x)/sqrt(1 - x)", "0", "1", lambda: mpmath.mpf(-4)),
    ("ln(abs(x - 1/3))/sqrt(abs(x - 1/3))", "1/3", "4/3", lambda: mpmath.mpf(-4)),
    ("ln(1 - x)/sqrt(1 - x^2)", "0", "1", lambda: -2 * mpmath.catalan - mpmath.pi / 2 * mpmath.log(2)),
]  # fmt: skip


@pytest.mark.parametrize(("formula", "low", "high", "truth"), LOGARITHMS)
def test_logarithms_over_roots_are_proven_up_to_their_pole(formula: str, low: str, high: str, truth: Any) -> None:
    holds_the_truth(f"integral of {formula} for x from {low} to {high}", truth, 12)


INTEGRALS = [
    ("exp(-(x - 1000)^2)", "0", lambda: mpmath.sqrt(mpmath.pi)),
    ("1/(x*ln(x)^2)", "2", lambda: 1 / mpmath.log(2)), ("1/x^1.1", "1", lambda: mpmath.mpf(10)),
]  # fmt: skip


@pytest.mark.parametrize(("formula", "low", "truth"), INTEGRALS)
def test_slow_integrals_are_proven(formula: str, low: str, truth: Any) -> None:
    holds_the_truth(f"integral of {formula} for x from {low} to infinity", truth, 11)


WORTH = [
    "lowest of x^x for x from 0 to 2", "roots of exp(1e6*(x - 0.3)) - 1 for x from 0 to 1", "roots of ln(x) - 50 for x from 1 to infinity",
    "roots of x^2 - x*ln(x) - 2 for x from 0 to 5", "extremes of x*ln(x) for x from 0 to 3",
]  # fmt: skip


@pytest.mark.parametrize("script", WORTH)
def test_what_is_worth_proving_is_proven(script: str) -> None:
    assert finding(script)["evidence"] == "proven"


def test_none_found_is_not_none() -> None:
    found = finding("roots of sin(1/x) - 2*x^0.01*cos(1/x)^9 for x from 0 to 0.001")
    assert found["evidence"] == "proven" or "found" in found["summary"]
