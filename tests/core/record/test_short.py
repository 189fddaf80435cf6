"""The short form of a finding: one line, in words and as mathematics, from rows alone."""

from __future__ import annotations

from typing import Any

import pytest

from open_lemma.core.record.findings import Finding
from open_lemma.core.record.notation import LATEX, WORDS
from open_lemma.core.record.rows import (
    CheckRow,
    CrossingRow,
    ExtremumRow,
    FamilyRow,
    LimitRow,
    LowestRow,
    PlaceRow,
    RootRow,
    Row,
    SolutionRow,
    SpanRow,
    StretchRow,
    TableRow,
    ValueRow,
)
from open_lemma.core.record.short import short_of


def finding(*values: Row, **more: Any) -> Finding:
    told: dict[str, Any] = {"number": 1, "line": 1, "name": None, "noun": "", "statement": "", "evidence": "proven", "complete": True}
    return Finding(**(told | {"summary": "", "method": "", "values": list(values)} | more))


def latex(of: Finding) -> str:
    """Without the places at which it may be broken."""
    return short_of(of, LATEX).replace(r"}\allowbreak \text{", "").replace(r"\allowbreak ", "")


def root(x: float, kind: type[RootRow] = RootRow, **more: Any) -> RootRow:
    return kind(**({"x": x, "value": 0.0, "interval": (str(x), str(x)), "kind": "simple", "multiplicity": 1, "residual": 0.0} | more))


def extremum(x: float, value: float, what: str | None = "minimum", kind: type[ExtremumRow] = ExtremumRow, **more: Any) -> ExtremumRow:
    return kind(x=x, value=value, what=what, interval=("0", "1"), value_interval=("0", "1"), kind="local", **more)


def place(*xy: float, **more: Any) -> PlaceRow:
    return PlaceRow(place=dict(zip("xyuv", xy, strict=False)), intervals=dict.fromkeys("xyuv"[: len(xy)]), **more)


def cases(rows: list[str]) -> str:
    return r"f(t) = \begin{cases}" + r" \\ ".join(rows) + r"\end{cases}"


MANY = finding(*(root(k) for k in range(127)))
LONG = finding(ValueRow(value=[1] * 6, length=6))
CASES = [
    ("nothing", finding(), r"\text{none}", "none"),
    ("roots", finding(root(1), root(2), variable="y", variable_latex="y"), r"y_{1} = 1,\ \ y_{2} = 2", "y₁ = 1, y₂ = 2"),
    ("one root, a quotient", finding(root(2 / 3, exact="2/3")), r"x = \tfrac{2}{3}", "x = 2/3"),
    ("a quotient that ends", finding(root(0.4, exact="2/5")), "x = 0.4", "x = 0.4"),
    (
        "many roots",
        finding(*(root(k) for k in range(127))),
        r"x_{1} = 0,\ \ x_{2} = 1,\ \ \ldots\ \text{127 in all}",
        "x₁ = 0, x₂ = 1, … 127 in all",
    ),
    ("a stretch", finding(StretchRow(x=-1, x_high=0, value=0.0, kind="stretch")), r"x = -1 \ldots 0", "x = −1 … 0"),
    ("a crossing", finding(root(1.5, CrossingRow, value=4.0)), "x = 1.5", "x = 1.5"),
    ("one minimum", finding(extremum(0.5, -2)), r"x = 0.5,\ \text{ value }\ -2", "x = 0.5, value −2"),
    ("an inflection", finding(extremum(0.5, -2, "inflection")), "x = 0.5", "x = 0.5"),
    ("the lowest", finding(extremum(2, 1e-9, None, LowestRow)), r"10^{-9}\ \text{ at }\ x = 2", "1×10^−9 at x = 2"),
    (
        "places",
        finding(place(1, 2, value=3), place(4, 5, value=6)),
        r"(x,y) = (1,\,2),\ \ldots\ \text{2 in all}",
        "(x,y) = (1, 2), … 2 in all",
    ),
    ("the highest of several", finding(place(4, 2, value=22, overall=True)), r"22\ \text{ at }\ (x,y) = (4,\,2)", "22 at (x,y) = (4, 2)"),
    ("four variables", finding(place(1, 2, 3, 4)), r"(x,y,u,\ldots) = (1,\,2,\,3,\,4)", "(x,y,u,…) = (1, 2, 3, 4)"),
    ("solutions", finding(SolutionRow(place={"h": 0.5}, interval=("0.5", "0.5")), variable="h", variable_latex="h"), "h = 0.5", "h = 0.5"),
    ("systems", finding(SolutionRow(place={"x": 1.0, "y": 2.0}), summary="x = 1, y = 2."), r"\text{x = 1, y = 2}", "x = 1, y = 2"),
    ("families", finding(FamilyRow(family="x = 2π*n")), r"\text{x = 2π*n}", "x = 2π*n"),
    (
        "spans",
        finding(SpanRow(kind="span", low=None, low_belongs=False, high=2, high_belongs=False), summary="It holds for x < 2."),
        r"\text{x < 2}",
        "x < 2",
    ),
    ("no limit", finding(LimitRow(value=None, side="left"), LimitRow(value=1.0, side="right")), r"\text{none}", "none"),
    ("a limit that is not settled", finding(LimitRow(value=None), evidence="open"), r"\text{not settled}", "not settled"),
    ("an endless limit", finding(LimitRow(value=None, limit="-infinity")), r"-\infty", "−∞"),
    ("a limit", finding(LimitRow(value=1.5)), "1.5", "1.5"),
    ("checks", finding(CheckRow(passed=False)), r"\text{fails}", "fails"),
    ("quotients both ways", finding(ValueRow(value=5 / 6, exact="5/6")), r"\tfrac{5}{6} = 0.833\,333\,333\,333", "5/6 = 0.833333333333"),
    ("a form", finding(ValueRow(value=0.866, exact="√3/2")), r"\tfrac{\sqrt{3}}{2} = 0.866", "√3/2 = 0.866"),
    ("long whole numbers", finding(ValueRow(value=1e30, exact="1" * 31)), "10^{30}", "1×10^30"),
    ("large ones", finding(ValueRow(value=-6.022e23)), r"-6.022 \times 10^{23}", "−6.022×10^23"),
    ("small ones", finding(ValueRow(value=0.000123456)), r"0.000\,123\,456", "0.000123456"),
    ("texts", finding(ValueRow(value="50 % {x}")), r"\text{“50 \% \{x\}”}", "“50 % {x}”"),
    ("truth", finding(ValueRow(value=True)), r"\text{true}", "true"),
    ("gaps", finding(ValueRow(value=None)), r"\text{gap}", "gap"),
    ("units", finding(ValueRow(value=2, unit="m^(3/2)")), r"2\ \text{m\textasciicircum (3/2)}", "2 m^(3/2)"),
    ("uncertain ones", finding(ValueRow(value=2, standard_error=0.1), summary="2.00 ± 0.10"), r"2.00 \pm 0.10", "2.00 ± 0.10"),
    ("lists", finding(ValueRow(value=[1, None, 3])), r"[1,\ \text{gap},\ 3]", "[1, gap, 3]"),
    (
        "long lists",
        finding(ValueRow(value=[1] * 6, length=6)),
        r"[1,\ 1,\ 1,\ 1,\ 1,\ \ldots\ \text{6 in all}]",
        "[1, 1, 1, 1, 1, … 6 in all]",
    ),
    ("points", finding(ValueRow(value=[[1, 2]]), summary="[(1, 2)], 1 element"), r"\text{[(1, 2)], 1 element}", "[(1, 2)], 1 element"),
    ("several values", finding(ValueRow(value=1), ValueRow(value=2.5)), r"[1,\ 2.5]", "[1, 2.5]"),
    ("tables", finding(TableRow(cells={"x": 1}), summary="1 row of x, f"), r"\text{1 row of x, f}", "1 row of x, f"),
    ("passes", finding(ValueRow(value=1), ValueRow(value=2.5), passes=2), r"1,\ \ 2.5", "1, 2.5"),
    (
        "checks of passes",
        finding(CheckRow(passed=True), CheckRow(passed=False), passes=2),
        r"\text{fails in 1 of 2 passes}",
        "fails in 1 of 2 passes",
    ),
    ("one pass", finding(CheckRow(passed=True), passes=1), r"\text{holds}", "holds"),
]


@pytest.mark.parametrize(("of", "mathematics", "words"), [c[1:] for c in CASES], ids=[c[0] for c in CASES])
def test_each_shape_in_one_line(of: Finding, mathematics: str, words: str) -> None:
    assert latex(of) == mathematics
    assert short_of(of, WORDS) == words


def test_formulas_in_many_pieces_are_counted() -> None:
    rows = [rf"{k}\,t & \text{{when }} t < {k}" for k in range(1, 5)]
    many = cases(rows)
    assert latex(finding(ValueRow(value=1), latex=many)) == r"f(t) = \text{a formula in 4 pieces}"
    few = cases(rows[2:])
    assert latex(finding(ValueRow(value=1), latex=few)) == few


def test_long_results_may_be_broken_between_words_and_places() -> None:
    summary = "A = 1.716 ± 0.025; w = 5.036 ± 0.013; p = 0.568 ± 0.030; c = 0.395 ± 0.018 and more words to the end."
    told = finding(ValueRow(value=None, standard_error=1.0), summary=summary)
    assert short_of(told, LATEX).count(r"\allowbreak") > 10
    assert latex(told) == rf"\text{{{summary}}}"
    assert r"\allowbreak" in short_of(finding(root(1), root(2)), LATEX)
