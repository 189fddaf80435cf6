"""Truth, checks, and lists built from others: tables of cases, and laws against Python's exact fractions."""

from __future__ import annotations

import operator
from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from open_lemma.core.run.execute.interpreter import run


def shown(text: str, before: str = "") -> Any:
    """The value that `show` gives, and its evidence."""
    outcome = run(f"{before}\nshow {text}")
    assert not outcome.failed, [m.text for m in outcome.reading.messages.items]
    finding = outcome.findings[-1]
    return finding.rows[0]["value"], finding.evidence


TRUTH = [
    ("1 < 2", True), ("2 <= 2", True), ("3 != 3", False), ("1/3 + 1/6 = 1/2", True), ("0.1 + 0.2 = 0.3", True), ("sqrt(2)^2 = 2", True),
    ("0 < 1 < 2 < 1", False), ("0 < 1 <= 1 < 2", True), ("not 1 < 2", False), ("1 < 2 and 3 < 2", False), ("1 < 2 or 1/0 > 2", True),
    ("true", True), ("not (true and false)", True), ('"a" = "a"', True), ('"a" != "b"', True), ("exp(1) > e", False), ("exp(1) = e", True),
    ("2^0.5 < 1.41421356237309504880168872421", True), ("2^0.5 > 1.4142135623730950488016887242", True), ("pi ≤ 22/7", True),
    ("sin(pi) = 0", True), ("1e-300 > 0", True),
]  # fmt: skip


@pytest.mark.parametrize(("text", "truth"), TRUTH)
def test_truth_is_decided_exactly(text: str, truth: bool) -> None:
    assert shown(text) == (truth, "proven")


SIGNS = {"<": operator.lt, "<=": operator.le, ">": operator.gt, ">=": operator.ge, "=": operator.eq, "!=": operator.ne}


@given(st.fractions(-50, 50, max_denominator=30), st.fractions(-50, 50, max_denominator=30), st.sampled_from(sorted(SIGNS)))
def test_comparing_quotients(a: Fraction, b: Fraction, sign: str) -> None:
    text = f"({a.numerator}/{a.denominator}) {sign} ({b.numerator}/{b.denominator})"
    assert shown(text) == (SIGNS[sign](a, b), "proven")


CHECKS = [
    ("r = roots of x^2 - 2 for x from 0 to 2\ncheck abs(r - 1.41) < 0.01", True, "proven"),
    ("r = roots of x^2 - 2 for x from 0 to 2\ncheck r = 1.414, within 0.001", True, "proven"),
    ("r = roots of x^2 - 2 for x from 0 to 2\ncheck r = 1.4, within 0.001", False, "proven"),
    ("check 0.1 + 0.2 = 0.3", True, "proven"),
    ("check 1 = 1.1, within 0.1", True, "proven"),  # the ends belong
    ("xs = sqrt([1, 2])\ncheck xs[1] < xs[2]", True, "checked"),  # the elements were rounded
    ("xs = [1/3, 2/3]\ncheck xs[1] < xs[2]", True, "proven"),
    ("ok = 1 < 2\ncheck ok and not false", True, "proven"),
]


@pytest.mark.parametrize(("script", "passed", "evidence"), CHECKS)
def test_checks(script: str, passed: bool, evidence: str) -> None:
    finding = run(script).findings[-1]
    assert finding.noun == "check"
    assert finding.rows == [{"passed": passed, "evidence": evidence}]
    assert finding.summary.startswith("Holds" if passed else "Fails")


def test_a_failing_check_is_a_finding_and_no_mistake() -> None:
    outcome = run("check 2 < 1\nshow 3")
    assert not outcome.failed
    assert [f.number for f in outcome.findings] == [1, 2]
    assert "2 < 1, with 2, 1" in outcome.findings[0].summary


LISTS = [
    ("[k^2 for k from 1 to 5]", [1, 4, 9, 16, 25]),
    ("[k for k from 5 to 1 step -2]", [5, 3, 1]),
    ("[k/4 for k from 0 to 1 count 5]", [0, 0.0625, 0.125, 0.1875, 0.25]),
    ("[k for k from 1 to 20 if mod(k, 3) = 0]", [3, 6, 9, 12, 15, 18]),
    ("[k for k from 1 to 9 if k > 2 and not k > 5 or k = 9]", [3, 4, 5, 9]),
    ("[2x for x in xs]", [20, 40, 60]),
    ("[xs[4 - k] for k from 1 to 3]", [30, 20, 10]),
    ("[sum([k, xs[k]]) for k from 1 to 3]", [11, 22, 33]),
    ("[x for x in xs if x != xs[2]]", [10, 30]),
    ("[1 for k from 1 to 3]", [1, 1, 1]),
    ("[f(k) for k from 1 to 3]", [2, 5, 10]),
    ("[k for k from 1 to 3 if false]", []),
    ("xs join [4] join 7", [10, 20, 30, 4, 7]),
    ("xs[2 to 3] join []", [20, 30]),
    ("last(xs) - first(xs)", 20),
    ("differences([k^2 for k from 0 to 3])", [1, 3, 5]),
]


@pytest.mark.parametrize(("text", "expected"), LISTS)
def test_lists(text: str, expected: Any) -> None:
    assert shown(text, "xs = [10, 20, 30]\nf(x) = x^2 + 1")[0] == expected


@given(st.lists(st.integers(-20, 20), max_size=12), st.lists(st.integers(-20, 20), max_size=12))
def test_join_and_length(a: list[int], b: list[int]) -> None:
    def written(xs: list[int]) -> str:
        return "[" + ", ".join(map(str, xs)) + "]"

    assert shown(f"{written(a)} join {written(b)}")[0] == a + b
    assert shown(f"length({written(a)} join {written(b)})")[0] == len(a) + len(b)


@given(st.lists(st.integers(-20, 20), min_size=1, max_size=12), st.integers(-20, 20))
def test_a_condition_keeps_just_what_fulfils_it(xs: list[int], limit: int) -> None:
    text = "[" + ", ".join(map(str, xs)) + "]"
    assert shown(f"[x^2 for x in {text} if x < {limit}]")[0] == [x * x for x in xs if x < limit]


def test_text_is_joined() -> None:
    assert shown('"k = " join 1/4 join " m"')[0] == "k = 0.25 m"
    assert shown('"root " join r', "r = roots of x - 2 for x from 0 to 3")[0] == "root 2"


def test_the_element_at_fault_is_named() -> None:
    message = run("show [ln(k) for k from -1 to 3]").reading.messages.as_records()[0]
    assert message["text"] == "ln(−1) has no real value; its domain: x > 0"


def test_a_hundred_thousand_elements_are_worked_out_at_once() -> None:
    assert shown("length([sin(k) for k from 1 to 100000 if mod(k, 2) = 1])")[0] == 50_000
    assert "at most 20000" in run("xs = 1 to 30000 step 1\nshow [xs[k] for k from 1 to 30000]").reading.messages.as_records()[0]["text"]


def test_points_of_a_built_list() -> None:
    series = run("points of [k^2 for k from 1 to 3] against [k for k from 1 to 3]").figures[0].data.series[0]
    assert (series.x.tolist(), series.y.tolist()) == ([1, 2, 3], [1, 4, 9])
