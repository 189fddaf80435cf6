"""Loops, conditions, `define` blocks and pieces: tables of cases, and laws against plain Python."""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from open_lemma.core.run.execute.interpreter import run

from .scripts import good


def values(script: str) -> list[Any]:
    """The values of the last finding: one, or one a pass."""
    return [row.get("value", row.get("passed")) for row in good(script).findings[-1].rows]


NEWTON = """f(x) = x^2 - 2
define newton(start):
    x = start
    n = 0
    while abs(f(x)) > 1e-12 and n < 50:
        x = x - f(x)/f'(x)
        n = n + 1
    return x
"""
CASES: list[tuple[str, list[Any]]] = [
    ("for k from 1 to 3:\n    show k^2", [1, 4, 9]),
    ("for k from 3 to 1 step -1:\n    show k", [3, 2, 1]),
    ("for k from 0 to 1 count 5:\n    show k", [0, 0.25, 0.5, 0.75, 1]),
    ("for x in [5, 1/2, 3]:\n    show 2x", [10, 1, 6]),
    ('for w in ["a", "b"]:\n    show w join "!"', ["a!", "b!"]),
    ("for p in [(1, 2), (3, 4)]:\n    show p.x + p.y", [3, 7]),
    ("r = roots of x^2 - 4 for x from -5 to 5\nfor x in r:\n    show x", [-2, 2]),
    ("t = 0\nfor k from 1 to 4:\n    t = t + k\nshow t", [10]),
    ("t = 0\nfor k from 1 to 3:\n    for j from 1 to k:\n        t = t + j*k\nshow t", [25]),
    ("k = 7\nfor k from 1 to 3:\n    a = k\nshow k", [7]),  # the loop's variable was its own
    ("n = 10\nwhile n > 3:\n    n = n - 2\nshow n", [2]),
    ("n = 0\nwhile n < 3 and not n = 2:\n    n = n + 1\nshow n", [2]),
    ("a = 3\nif a > 2:\n    show 1\nelse:\n    show 2", [1]),
    ("a = 2\nb = 0\nif a > 2:\n    b = 1\nelse if a = 2:\n    b = 5\nelse:\n    b = 9\nshow b", [5]),
    ("a = 1\nb = 0\nif a > 2:\n    b = 1\nshow b", [0]),
    ("xs = []\nfor k from 1 to 4:\n    xs = xs join [k^2]\nshow xs", [[1, 4, 9, 16]]),
    ("xs = [1]\nys = xs join [2]\nzs = xs join [3]\nshow ys*zs", [[1, 6]]),  # lists that share a beginning do not share an end
    ("ps = []\nfor k from 1 to 2:\n    ps = ps join [(k, k^2)]\nshow ps", [[[1, 1], [2, 4]]]),
    ("xs = [4, 5, 6]\ns = 0\nfor k from 1 to length(xs):\n    s = s + xs[k]\nshow s", [15]),
    ("xs = [1]\nfor k from 1 to 3:\n    xs = xs join [2*xs[k]]\nshow last(xs)", [8]),
    ("define double(x):\n    return 2x\nshow double(double(3))", [12]),
    (
        "define fact(n):\n    if n <= 1:\n        return 1\n    else:\n        return n*fact(n - 1)\nshow fact(20)",
        [float(math.factorial(20))],
    ),
    ("define least(xs):\n    m = xs[1]\n    for x in xs:\n        if x < m:\n            m = x\n    return m\nshow least([3, 1, 2])", [1]),
    ("define both(x):\n    return [x, x^2]\nshow both(3)", [[3, 9]]),
    ("define middle(p, q):\n    return ((p.x + q.x)/2, (p.y + q.y)/2)\nshow middle((0, 0), (2, 4))", [[1, 2]]),
    ("a = 2\ndefine g(x):\n    a = 5\n    return a*x\nshow g(1)\nshow a", [2]),  # names of a block are its own
    (NEWTON + "show abs(newton(1) - sqrt(2)) < 1e-12", [True]),
    (NEWTON + "xs = [newton(s) for s in [1, 2, 5]]\nshow length(xs)", [3]),
    ("define h(x):\n    return roots of t - x for t from 0 to 9\nshow h(4)", [4]),
    ("for k from 1 to 3:\n    check k < 3", [True, True, False]),
    ("for k from 1 to 2:\n    roots of x - k for x from 0 to 5", [0, 0]),
    (
        "ok = true\nfor k from 1 to 3:\n    ok = true\n    for j from 1 to 2:\n        if j = k:\n            ok = false\n"
        "    if ok:\n        show k",
        [3],
    ),
    (
        "xs = []\nfor n from 2 to 12:\n    prime = true\n    for d in xs:\n        if mod(n, d) = 0:\n            prime = false\n"
        "    if prime:\n        xs = xs join [n]\nshow xs",
        [[2, 3, 5, 7, 11]],
    ),
    ("for k from 1 to 2:\n    g(x) = k*x\n    h = g(10)\n    show h", [10, 20]),  # a formula of a loop is new in each pass
    ("a = 1\nfor k from 1 to 3:\n    a = (derivative of x^2*a for x, at k)\nshow a", [48]),
    ("define step(xs):\n    t = 0\n    for x in xs:\n        t = t + sum(xs)*x\n    return t\nshow step([1, 2]) + step([1, 1, 1])", [18]),
    ('s = ""\nfor w in ["a", "b"]:\n    s = s join w\nshow s', ["ab"]),
    ("u(t) = 0 when t < 0, t when t < 1, otherwise 1\nshow [u(s) for s in [-1, 0.5, 3]]", [[0, 0.5, 1]]),
    ("u(t) = ln(t) when t > 0, otherwise 0\nshow u(-3)", [0]),
    ("u(t) = ln(t) when t > 0, otherwise 0\nshow u([-3, 1])", [[0, 0]]),
    ("u(t) = t^2 when 0 <= t < 2 or t = 5, otherwise -1\nshow u([0, 2, 5])", [[0, -1, 25]]),
    ("u(t) = t^2 when t < 1, otherwise 2t\nshow u'(0.5), u'(3)", [2]),
    ('k = 3\ns = "odd" when mod(k, 2) = 1, otherwise "even"\nshow s', ["odd"]),
    ("show (1 when 2 < 1, otherwise (2 when 3 < 4, otherwise 5))", [2]),
    ("i(x, y) = 1 when x < y, otherwise 0\nshow i(1, 2) + i(2, 1)", [1]),
]


@pytest.mark.parametrize(("script", "expected"), CASES, ids=range(len(CASES)))
def test_values(script: str, expected: list[Any]) -> None:
    assert values(script) == expected


def test_a_statement_in_a_loop_is_one_finding_with_a_row_a_pass() -> None:
    outcome = good("show 0\nfor k from 1 to 3:\n    show k/2\n    show k\nshow 9")
    assert [(f.number, f.line, len(f.rows), f.passes) for f in outcome.findings] == [
        (1, 1, 1, 0),
        (2, 3, 3, 3),
        (3, 4, 3, 3),
        (4, 5, 1, 0),
    ]
    second = outcome.findings[1]
    assert second.rows[2] == {"value": 1.5, "exact": "3/2", "interval": ["1.5", "1.5"], "evidence": "proven", "pass": 3, "at": {"k": 3.0}}
    assert second.summary == "3 passes: 1/2 = 0.5; 1; 3/2 = 1.5"


def test_numbers_stay_exact_in_loops() -> None:
    found = good("s = 0\nfor k from 1 to 30:\n    s = s + 1/k\nshow s").findings[-1]
    exact = sum((Fraction(1, k) for k in range(1, 31)), Fraction(0))
    assert found.evidence == "proven"
    assert found.rows[0]["value"] == float(exact)
    assert good("s = 0.1\nfor k from 1 to 2:\n    s = s + 0.1\ncheck s = 0.3").findings[-1].rows == [{"passed": True, "evidence": "proven"}]


def test_what_went_through_doubles_is_never_called_proven() -> None:
    for line in ("show s", "show 2s", "check s > 1", "show s - 1", "if s > 1:\n    show s"):
        assert good(f"s = normal(1, 2, 0.1, 7)[1]\nfor k from 1 to 3:\n    s = sqrt(s)\n{line}").findings[-1].evidence == "checked"


def test_what_a_loop_makes_of_exact_numbers_is_enclosed() -> None:
    found = good("s = 2\nfor k from 1 to 3:\n    s = sqrt(s)\nshow s").findings[-1]
    assert found.evidence == "proven"
    assert found.rows[0]["value"] == pytest.approx(2**0.125, rel=1e-15)


def test_quotients_that_grow_become_doubles() -> None:
    found = good("s = 0\nfor k from 1 to 20000:\n    s = s + 1/k\nshow s").findings[-1]
    assert found.evidence == "checked"
    # H_n = ln n + gamma + 1/(2n) - 1/(12 n^2) + ..., DLMF 5.11.2 with 5.4.14
    assert found.rows[0]["value"] == pytest.approx(math.log(20000) + 0.5772156649015329 + 1 / 40000 - 1 / (12 * 20000**2), abs=1e-10)


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(st.sampled_from(["+", "-", "*", "/"]), st.fractions(-9, 9, max_denominator=9)), min_size=1, max_size=6),
    st.fractions(-5, 5, max_denominator=7),
    st.integers(1, 5),
)
def test_loops_compute_as_fractions_do(steps: list[tuple[str, Fraction]], start: Fraction, passes: int) -> None:
    lines = "".join(f"    x = x {sign} (k + {q.numerator}/{q.denominator})\n".replace("+ -", "- ") for sign, q in steps)
    x, failed = start, False
    try:
        for k in range(1, passes + 1):
            for sign, q in steps:
                x = {"+": lambda a, b: a + b, "-": lambda a, b: a - b, "*": lambda a, b: a * b, "/": lambda a, b: a / b}[sign](x, k + q)
    except ZeroDivisionError:
        failed = True
    outcome = run(f"x = {start.numerator}/{start.denominator}\nfor k from 1 to {passes}:\n{lines}show x")
    assert outcome.failed is failed
    if failed:
        assert "division by zero" in outcome.reading.messages.items[0].text
    else:
        row = outcome.findings[-1].rows[0]
        assert row["value"] == float(x)
        assert outcome.findings[-1].evidence == "proven"


@settings(max_examples=40, deadline=None)
@given(st.lists(st.floats(-3, 3), min_size=1, max_size=5), st.floats(0.1, 2))
def test_the_quick_and_the_slow_way_agree(xs: list[float], c: float) -> None:
    """A loop computes with doubles what a list computes at once."""
    listed = ", ".join(repr(x) for x in xs)
    formula = f"sin(x)*exp(-x^2/{c!r}) + abs(x - 1) + max(x, 0.5)"
    outcome = good(
        f"xs = [{listed}]\nys = []\nfor k from 1 to {len(xs)}:\n    x = xs[k]\n    y = {formula}\n    ys = ys join [y]\n"
        f"zs = [{formula} for x in xs]\nshow ys\nshow zs"
    )
    assert outcome.findings[0].rows[0]["value"] == pytest.approx(outcome.findings[1].rows[0]["value"], rel=1e-14, abs=1e-15)


def test_messages_say_where_it_happened() -> None:
    text = run("for k from 1 to 3:\n    for j from 1 to 2:\n        show 1/(k - 2*j)").reading.messages.items[0].text
    assert text == "1/0: a division by zero (in the pass with k = 2, in the pass with j = 1)"
    text = run("define f(x):\n    return 1/x\nfor k from -1 to 1:\n    show f(k)").reading.messages.items[0].text
    assert text == "1/0: a division by zero (in the pass with k = 0)"


def test_a_loop_that_fails_takes_its_names_along() -> None:
    outcome = run("s = 1\nfor k from 1 to 3:\n    s = s/(k - 2)\nshow s\nshow 5")
    assert [f.rows[0]["value"] for f in outcome.findings] == [5]
    assert len(outcome.reading.messages.items) == 1


def test_a_curve_of_a_defined_function_is_drawn_and_tells_nothing() -> None:
    outcome = good("define step(x):\n    show x\n    if x < 0:\n        return 0\n    return x^2\ncurve of step(s) for s from -1 to 2")
    assert outcome.findings == []
    series = outcome.figures[0].data.series[0]
    assert max(series.y) == pytest.approx(4, abs=1e-9)


def test_figures_in_loops_are_one_a_pass() -> None:
    outcome = good('for k from 1 to 3:\n    figure wave "Wave":\n        curve of sin(k*x) for x from 0 to 3')
    assert [f.data.name for f in outcome.figures] == ["wave_1", "wave_2", "wave_3"]
    assert outcome.figures[1].data.title == "Wave (k = 2)"


def test_loops_in_figures() -> None:
    outcome = good(
        'figure fan:\n    for k from 1 to 3:\n        if k != 2:\n            curve of k*x for x from 0 to 1, label "k = " join k\n'
        "    n = 2\n    while n < 4:\n        line of [0, n] against [0, 1]\n        n = n + 1"
    )
    series = outcome.figures[0].data.series
    assert [s.label for s in series] == ["k = 1", "k = 3", None, None]
    assert series[1].y[-1] == pytest.approx(3)


def test_a_staircase_with_gaps_is_broken_there() -> None:
    """The steps of the fish ladder: each tread a line of its own, broken by a gap."""
    outcome = good(
        "xs = []\nys = []\nfor k from 1 to 3:\n    xs = xs join [k - 1, k, gap]\n    ys = ys join [k/5, k/5, gap]\nline of ys against xs"
    )
    series = outcome.figures[0].data.series[0]
    assert [v == v for v in series.y] == [True, True, False] * 3


ROOTS = [
    ("u(t) = 0.5 - t when t < 1, otherwise t - 3", -2, 5, [0.5, 3]),
    ("u(t) = t - 1 when t < 1, otherwise t^2 - 1", -2, 5, [1]),  # the joint itself, once
    ("u(t) = t + 1 when t < 0, otherwise t - 1", -2, 2, [-1, 1]),  # no root where it jumps over zero
    ("u(t) = t when t < 0, otherwise t + 1", -2, 2, []),  # zero is approached, but the joint belongs to the other piece
    ("u(t) = t when t <= 0, otherwise t + 1", -2, 2, [0]),
    ("u(t) = sin(t) when t < pi, otherwise cos(t)", 1, 8, [3 * math.pi / 2, 5 * math.pi / 2]),
    ("u(t) = ln(t) when t > 1/2, otherwise t + 1", -2, 3, [-1, 1]),
]


@pytest.mark.parametrize(("definition", "low", "high", "expected"), ROOTS)
def test_roots_of_pieces(definition: str, low: float, high: float, expected: list[float]) -> None:
    finding = good(f"{definition}\nroots of u(t) for t from {low} to {high}").findings[0]
    assert [row["x"] for row in finding.rows] == pytest.approx(expected, abs=1e-12)
    assert finding.evidence == "proven"
    assert finding.complete


@settings(max_examples=25, deadline=None)
@given(st.lists(st.integers(-4, 4), min_size=6, max_size=6), st.integers(-2, 2))
def test_roots_of_two_lines_are_those_of_each_where_it_counts(c: list[int], joint: int) -> None:
    a, b, p, q = c[:4]
    expected = set()
    if a and Fraction(-b, a) < joint:
        expected.add(Fraction(-b, a))
    if p and Fraction(-q, p) >= joint:
        expected.add(Fraction(-q, p))
    if (a == 0 and b == 0) or (p == 0 and q == 0):
        return  # zero on a stretch
    script = f"u(t) = ({a})*t + ({b}) when t < {joint}, otherwise ({p})*t + ({q})\nroots of u(t) for t from -5 to 5"
    finding = good(script).findings[0]
    assert {Fraction(row["x"]).limit_denominator(1000) for row in finding.rows} == {x for x in expected if abs(x) <= 5}


def test_the_limit_on_statements_is_told() -> None:
    (message,) = run("x = 5\nwhile x > 0:\n    x = x + 1").reading.messages.as_records()
    assert (message["code"], message["line"], message["column"]) == ("too-long", 2, 7)
    assert "fix" not in message
    assert message["text"] == "more than 2 000 000 statements were carried out; does this loop end? (in pass 1000000)"
