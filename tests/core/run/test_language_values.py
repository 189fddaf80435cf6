"""Units, points, tables, gaps, random numbers, exact forms, derivatives, tables of values and solutions."""

from __future__ import annotations

import math
from fractions import Fraction
from pathlib import Path
from typing import Any

import mpmath
import numpy as np
import pytest
import sympy
from hypothesis import given, settings
from hypothesis import strategies as st

from open_lemma.core.formula.units import BadUnit, Unit, parse_unit
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.tables import FileColumn, FileTable, NoTable

from .scripts import good


def last(script: str, **more: Any) -> dict[str, Any]:
    return good(script, **more).findings[-1].rows[0]


# ---------------------------------------------------------------- units

UNITS = [
    ("m", "m"), ("m/s^2", "m s⁻²"), ("m s^-2", "m s⁻²"), ("m·s⁻²", "m s⁻²"), ("kg m^2/s^2", "kg m² s⁻²"),
    ("1/s", "s⁻¹"), ("m^3 s⁻¹", "m³ s⁻¹"),
    ("°C", "°C"), ("%", "%"), ("1", ""), ("m/s/s", "m s⁻²"), ("m/m", ""),
]  # fmt: skip


@pytest.mark.parametrize(("text", "written"), UNITS)
def test_units_are_read(text: str, written: str) -> None:
    assert str(parse_unit(text)) == written


@pytest.mark.parametrize("text", ["?", "m/", "3", "m^x", "(m"])
def test_what_is_no_unit_is_refused(text: str) -> None:
    with pytest.raises(BadUnit):
        parse_unit(text)


units = st.dictionaries(st.sampled_from(["m", "s", "kg", "K"]), st.integers(-3, 3), max_size=3)


@given(units, units)
def test_units_multiply_as_powers_add(a: dict[str, int], b: dict[str, int]) -> None:
    def unit(powers: dict[str, int]) -> Unit:
        return parse_unit(" ".join(f"{s}^{p}" for s, p in powers.items()) or "1")

    product = unit(a).times(unit(b))
    assert dict(product.powers) == {s: a.get(s, 0) + b.get(s, 0) for s in {*a, *b} if a.get(s, 0) + b.get(s, 0)}
    assert product.times(unit(b), -1).same(unit(a))


MEASURED = [
    ("g = 9.81 [m/s^2]\nt = 3 [s]\nshow g*t^2/2", "m"),
    ("A = 9 [m^2]\nshow sqrt(A)", "m"),
    ("a = 2 [m]\nshow a + 1", "m"),  # a plain number counts in the other's unit
    ("a = 2 [m]\nshow abs(-a)", "m"),
    ("a = 2 [m]\nb = 3 [m]\nshow max(a, b)", "m"),
    ("a = 2 [m]\nb = 3 [m]\nshow a/b", None),
    ("a = 2 [m]\nshow exp(a/(1 [m]))", None),
    ("xs = [1, 2, 3] [m]\nshow mean(xs)", "m"),
    ("xs = [1, 2, 3] [m]\nshow variance(xs)", "m²"),
    ("xs = [1, 2, 3] [m]\nshow xs[2]", "m"),
    ("xs = [1, 2, 3] [m]\nshow xs^2", "m²"),
    ("h = 2 [m]\nshow 0*h to h step h/2", "m"),
    ("f(t) = 3*t [m/s]\nshow f(2)", "m s⁻¹"),
    ("h = 2 [m]\nf(x) = x^2 when x > 1, otherwise x*2 \nshow f(h)*1", None),
    ("xs = [1, 2] [m]\nfor x in xs:\n    show 2x", "m"),
]


@pytest.mark.parametrize(("script", "unit"), MEASURED)
def test_units_are_carried(script: str, unit: str | None) -> None:
    if "otherwise" in script:
        assert "units do not fit" in run(script).reading.messages.items[0].text  # m² in one piece, m in the other
        return
    assert last(script).get("unit") == unit


def test_units_go_onto_axes() -> None:
    script = "table bench:\n    h [m]  Q [m^3/s]\n    0.1    0.02\n    0.2    0.05\npoints of bench.Q against bench.h"
    figure = good(script).figures[0].data
    assert figure.panels[0].x.text == r"$h$ / $\mathrm{m}$"
    assert figure.panels[0].y.text == r"$Q$ / $\mathrm{m}^{3}\,\mathrm{s}^{-1}$"


# ---------------------------------------------------------------- lists, gaps, points, tables

PLAIN = [
    ("show [1, gap, 3]", [1, None, 3]),
    ("show [1, gap, 3]*2", [2, None, 6]),
    ("show mean([1, gap, 3])", 2),
    ("show gap", None),
    ("show 1 + gap", None),
    ("show gap = gap", True),
    ("show length([1, gap])", 2),
    ("show (1, 2)", [1, 2]),
    ("show (1, 2) = (1, 2)", True),
    ("show (1, 2, 5).z", 5),
    ("p = (1, 2)\nshow p[2]", 2),
    ("show [(1, 2), (3, 4)]", [[1, 2], [3, 4]]),
    ("m = [[1, 2], [3, 4]]\nshow m[2]", [3, 4]),
    ("m = [[1, 2], [3, 4]]\nshow m[2][1] + m[1, 2]", 5),
    ("show column([[1, 2], [3, 4]], 2)", [2, 4]),
    ("show [k*j for k from 1 to 2, j from 1 to 3]", [1, 2, 3, 2, 4, 6]),
    ("show [(t, t^2) for t in [1, 2]]", [[1, 1], [2, 4]]),
    ('show ["k" join k for k from 1 to 2]', ["k1", "k2"]),
    ("show reverse([(1, 2), (3, 4)])", [[3, 4], [1, 2]]),
    ('show length(["a", "b"])', 2),
    ("show last([(1, 2), (3, 4)])", [3, 4]),
    ("show [1, 2, 3, 4][2 to 3]", [2, 3]),
    ('show "k = " join 3 join ", " join (1 < 2)', "k = 3, true"),
    ("g = 9.81 [m/s^2]\nshow \"g = \" join g", "g = 9.81 m s⁻²"),
    ("table t:\n    a  b\n    1  2\n    3  gap\nshow t.b", [2, None]),
    ('table t:\n    "water level" [m]  n\n    1.5  "a b"\nshow t."water level"', [1.5]),
    ('table t:\n    a  n\n    1.5  "a b"\nshow t.n', ["a b"]),
    ("table t:\n    a  b\n    1  2\n    3  4\nshow sum(t.a*t.b)", 14),
    ("crossings of x^2 and 4 for x from -5 to 5\nr = crossings of x^2 and 4 for x from 0 to 5\nshow r.x + r.value", 6),
    ("r = roots of x^2 - 4 for x from -5 to 5\nshow r.x[2] - r[1]", 4),
    ("show median([3, 1/2, 2])", 2),
    ("α = 2\nshow alpha^2", 4),
]  # fmt: skip


@pytest.mark.parametrize(("script", "value"), PLAIN)
def test_values(script: str, value: Any) -> None:
    assert last(script)["value"] == value


def test_passing_over_gaps_is_said() -> None:
    outcome = run("show mean([1, gap, 3])")
    assert [(m.severity, m.text) for m in outcome.reading.messages.items] == [("note", "mean passes over 1 of 3 elements that are gaps")]


def test_lists_that_were_written_down_stay_exact() -> None:
    finding = good("xs = [1/3, 1/6]\nshow sum(xs)").findings[0]
    assert (finding.rows[0]["exact"], finding.evidence) == ("1/2", "proven")
    assert good("xs = 0 to 1 step 0.1\ncheck xs[4] = 0.3").findings[0].evidence == "proven"
    assert good("xs = [2]*1\nshow sqrt(xs[1])").findings[0].evidence == "proven"
    assert good("xs = sqrt([2, 3])\nshow xs[1]^2").findings[0].evidence == "checked"
    finding = good("show sum([1/k^2 for k from 1 to 40])").findings[0]
    assert finding.evidence == "proven"
    assert finding.rows[0]["value"] == float(sum((Fraction(1, k * k) for k in range(1, 41)), Fraction(0)))
    assert good("xs = [1, 2, 3]\nys = (xs - 1/3)^2/2\nshow ys[1]").findings[0].rows[0]["exact"] == "2/9"


def test_random_numbers_are_those_of_their_seed() -> None:
    one, other = last("show normal(4, 10, 2, 7)"), last("show normal(4, 10, 2, 8)")
    assert one == last("show normal(4, 10, 2, 7)")
    assert one["value"] != other["value"]
    many = last("xs = uniform(20000, -1, 3, 5)\nshow [mean(xs), min(xs), max(xs), variance(xs)]")["value"]
    assert many == pytest.approx([1, -1, 3, 16 / 12], abs=0.05)  # mean and variance of a uniform distribution
    assert last("xs = normal(20000, 10, 2, 1)\nshow [mean(xs), sd(xs)]")["value"] == pytest.approx([10, 2], abs=0.05)


def gauge(name: str) -> FileTable | None:
    """A table of a file, with a bad cell, a row that was excluded, and two columns that are worked out."""
    if name == "bad.csv":
        raise NoTable("the file is empty")
    if name != "gauge.csv":
        return None
    hidden = np.array([np.nan, np.nan, 9.0])
    columns = [
        FileColumn("h", np.array([0.1, 0.2, np.nan]), "m", hidden),
        FileColumn("depth, wet", np.array([1.0, 2.0, 3.0])),
        FileColumn("site", ["sill", "weir", ""]),
    ]
    computed = [("twice", "2*h", None), ("away", "twice - mean(twice)", "m")]
    return FileTable(columns, "f00d", {"excluded": [3]}, computed, ["1 cell of h is no number: row 3 'x'; taken as gaps"])


def test_tables_from_files() -> None:
    outcome = run('table t from "gauge.csv"\nshow t.h, t."depth, wet", t.site, t.twice, sum(t.away)', tables=gauge)
    assert not outcome.failed
    values = [f.rows[0]["value"] for f in outcome.findings]
    assert values[:4] == [[0.1, 0.2, None], [1, 2, 3], ["sill", "weir", ""], [0.2, 0.4, None]]
    assert values[4] == pytest.approx(0, abs=1e-15)
    assert [f.rows[0].get("unit") for f in outcome.findings][3:] == ["m", "m"]
    assert outcome.tables == [{"name": "gauge.csv", "sha256": "f00d", "mending": {"excluded": [3]}}]
    texts = [m.text for m in outcome.reading.messages.items if m.severity == "warning"]
    assert texts == ["gauge.csv: 1 cell of h is no number: row 3 'x'; taken as gaps"]


def test_what_was_excluded_is_drawn_hollow() -> None:
    script = 'table t from "gauge.csv"\nfigure a:\n    points of t.h against t.h'
    (figure,) = run(script, tables=gauge).figures
    drawn, hollow = figure.data.panels[0].series
    assert np.isfinite(drawn.y).sum() == 2
    assert hollow.marker == "ring"
    assert hollow.y[np.isfinite(hollow.y)].tolist() == [9.0]


@pytest.mark.parametrize(
    ("name", "phrase"), [("bad.csv", "'bad.csv': the file is empty"), ("none.csv", "there is no table 'none.csv' here")]
)
def test_files_that_are_no_tables(name: str, phrase: str) -> None:
    assert phrase in run(f'table t from "{name}"', tables=gauge).reading.messages.items[0].text


@pytest.mark.parametrize("formula", ["2*", "nothing + 1", "[1, 2]", '"a"'])
def test_computed_columns_that_cannot_be_worked_out(formula: str) -> None:
    table = FileTable([FileColumn("h", np.array([1.0, 2.0, 3.0]))], "", {}, [("new", formula, None)])
    (message,) = run('table t from "t.csv"', tables=lambda _: table).reading.messages.items
    assert message.code == "computed-column"
    assert "'new'" in message.text


# ---------------------------------------------------------------- exact forms

FORMS = [
    ("sin(pi/6)", "1/2"), ("sin(pi/3)", "√3/2"), ("2/3 + 1/6", "5/6"), ("sqrt(8)", "2√2"), ("cos(pi/4)^2", "1/2"), ("tan(pi/3)", "√3"),
    ("acos(0)", "π/2"), ("exp(ln(3)/2)", "√3"), ("4*atan(1)", "π"), ("ln(e^2)", None), ("0.1*pi", None), ("Gamma(1/2)", "sqrt(π)"),
    ("cbrt(2)", "cbrt(2)"), ("sqrt(2) + 1", "1 + √2"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "form"), FORMS)
def test_exact_forms(text: str, form: str | None) -> None:
    row = last(f"show {text}")
    assert row.get("exact") == form
    if form is not None:
        assert last(f"show {form}")["value"] == row["value"]  # read again it is the same number


def test_whole_numbers_are_shown_in_full() -> None:
    assert last("show 2^100")["exact"] == str(2**100)
    assert "exact" not in last("show 2^40")
    assert last("n = 1\nfor k from 1 to 30:\n    n = n*k\nshow n")["exact"] == str(math.factorial(30))


# ---------------------------------------------------------------- derivative

FORMULAS = [
    "x^3 - 2x + 1", "sin(x)*exp(-x)", "ln(x^2 + 1)/x", "sqrt(x^2 + 3)", "x^x", "atan(2x)", "besselj(1, x)", "cosh(x)/sinh(x)",
    "1/(1 + exp(-3x))",
    "abs(x)", "erf(x)*x", "Gamma(x)",
]  # fmt: skip


@pytest.mark.parametrize("formula", FORMULAS)
@pytest.mark.parametrize("order", [1, 2])
def test_derivatives_against_a_general_library(formula: str, order: int) -> None:
    """By SymPy's own rules, or mpmath's numerical differentiation, at a plain place."""
    finding = good(f"derivative of {formula} for x, order {order}, at 1.3").findings[0]
    f = {
        "besselj(1, x)": lambda x: mpmath.besselj(1, x), "Gamma(x)": mpmath.gamma, "erf(x)*x": lambda x: mpmath.erf(x) * x, "abs(x)": abs,
    }.get(formula)  # fmt: skip
    if f is None:
        x = sympy.Symbol("x")
        text = formula.replace("^", "**").replace("ln", "log").replace("2x", "2*x").replace("3x", "3*x")
        expected = float(sympy.diff(sympy.sympify(text), x, order).subs(x, sympy.Rational(13, 10)).evalf(30))
    else:
        with mpmath.workdps(50):
            expected = float(mpmath.diff(f, mpmath.mpf("1.3"), order))
    assert finding.rows[0]["value"] == pytest.approx(expected, rel=1e-13)


def test_the_text_of_a_derivative_can_be_used_again() -> None:
    for formula in FORMULAS:
        text = last(f"derivative of {formula} for x")["text"]
        again = last(f"f(x) = {text}\nshow f(1.3)")["value"] if "digamma" not in text and "polygamma" not in text else None
        if again is not None:
            assert again == pytest.approx(last(f"derivative of {formula} for x, at 1.3")["value"], rel=1e-14)


def test_derivatives_as_values() -> None:
    assert last("d = derivative of x^2*y for x\nshow d(3, 5)")["value"] == 30
    assert last("a = 2\nd(x) = derivative of sin(a*x) for x\nshow d(0)")["value"] == 2
    assert last("show (derivative of x^3 for x, at 2) + 1")["value"] == 13
    assert last("bowl(x, y) = x^2 + 3y^2\nd = derivative of bowl(x, y) for y\nshow d(1, 2)")["value"] == 12


# ---------------------------------------------------------------- values


def test_a_table_of_values() -> None:
    outcome = good("f(x) = x^2\nt = values of [f(x), f'(x), x + 1] for x from 0 to 1 step 0.5\nshow t.f\nshow t.value_3")
    assert outcome.findings[0].rows[1] == {"x": 0.5, "f": 0.25, "f'": 1.0, "value_3": 1.5}
    assert outcome.findings[1].rows[0]["value"] == [0, 0.25, 1]
    assert outcome.findings[2].rows[0]["value"] == [1, 1.5, 2]


# ---------------------------------------------------------------- solutions

SOLUTIONS: list[tuple[str, list[float], str]] = [
    ("x^2 = 2 for x", [-math.sqrt(2), math.sqrt(2)], "proven"),
    ("x^3 - x = 0 for x", [-1, 0, 1], "proven"),
    ("x^2 + 1 = 0 for x", [], "proven"),
    ("x^5 - x - 1 = 0 for x", [1.1673039782614187], "proven"),  # the real root of Bring's quintic, to 17 digits by mpmath.polyroots
    ("exp(x) = 2 for x", [math.log(2)], "proven"),
    ("sin(x) = 1/2 for x from 0 to 10", [math.pi / 6, 5 * math.pi / 6, 13 * math.pi / 6, 17 * math.pi / 6], "proven"),
    ("cos(x) = x for x from 0 to 1", [0.7390851332151607], "proven"),  # OEIS A003957
    ("cos(x) = x for x", [0.7390851332151607], "proven"),
    ("abs(x - 1) = 2 for x", [-1, 3], "proven"),
    ("sqrt(x) = -1 for x", [], "proven"),
    ("1/x = 0 for x", [], "proven"),
    ("sqrt(x + 3) = x - 3 for x", [6], "proven"),  # 1 solves the squared equation only
    ("0.1*x = 0.3 for x", [3], "proven"),
    ("x*exp(x) = 1 for x from 0 to 1", [0.5671432904097838], "proven"),  # OEIS A030178
]


@pytest.mark.parametrize(("request_", "expected", "evidence"), SOLUTIONS)
def test_solutions(request_: str, expected: list[float], evidence: str) -> None:
    finding = good(f"solution of {request_}").findings[0]
    assert [row["x"] for row in finding.rows] == pytest.approx(expected, abs=1e-15)
    assert finding.evidence == evidence


def test_solutions_of_systems() -> None:
    finding = good("solution of 2x + y = 3, x - y = 1.5 for x, y").findings[0]
    assert finding.evidence == "proven"
    assert finding.rows == [{"evidence": "proven", "x": 1.5, "y": 0.0, "exact": {"x": "3/2", "y": "0"}}]
    finding = good("solution of x^2 + y = 3, x - y = 1 for x, y").findings[0]
    assert [(r["x"], r["y"]) for r in finding.rows] == [
        pytest.approx((s * math.sqrt(17) / 2 - 0.5, s * math.sqrt(17) / 2 - 1.5)) for s in (-1, 1)
    ]
    assert good("solution of x + y = 1, x + y = 2 for x, y").findings[0].summary == "No real solution."
    assert "Infinitely many" in good("solution of x + y = 1, 2x + 2y = 2 for x, y").findings[0].summary
    finding = good("solution of cos(x*y) = x, sin(y) = x for x from 0 to 1, y from 0 to 1").findings[0]
    x, y = finding.rows[0]["x"], finding.rows[0]["y"]
    assert (math.cos(x * y), math.sin(y)) == pytest.approx((x, x), abs=1e-9)
    assert (finding.evidence, finding.complete, len(finding.rows)) == ("proven", True, 1)


def test_solutions_say_what_they_are() -> None:
    assert (
        good("solution of sin(x) = 0 for x").findings[0].summary
        == "Infinitely many solutions: x = 2π*n or x = 2π*n + π, n any whole number."
    )
    assert good("solution of x = x for x").findings[0].summary == "Every x is a solution."
    assert good("solution of a*x = b for x").findings[0].rows[0]["x"] == "b/a"
    assert last("r = solution of x^2 = 2 for x\nshow r[2]^2")["value"] == 2


@settings(max_examples=25, deadline=None)
@given(st.lists(st.fractions(-5, 5, max_denominator=4), min_size=1, max_size=4))
def test_solutions_of_products_are_their_zeros(zeros: list[Any]) -> None:
    product = "*".join(f"(x - ({z.numerator}/{z.denominator}))" for z in zeros)
    finding = good(f"solution of {product} = 0 for x").findings[0]
    assert finding.evidence == "proven"
    assert [row["x"] for row in finding.rows] == [float(z) for z in sorted(set(zeros))]


def test_notes_tunes_and_parts() -> None:
    outcome = good('part "One"\nnote "a $x$"\ntune k = 1.5 from 0 to 4\nshow 2k\npart "Two"\nnote:\n    first\n      second\nshow k')
    assert outcome.notes == [{"line": 2, "text": "a $x$", "part": "One"}, {"line": 6, "text": "first\n  second", "part": "Two"}]
    assert [f.rows[0]["value"] for f in outcome.findings] == [3, 1.5]
    only = run('part "One"\na = 2\nshow a\nt = 0\nfor k from 1 to 3:\n    t = t + k\n    show t\npart "Two"\nshow t', part="Two")
    assert [(f.number, f.rows[0]["value"]) for f in only.findings] == [(3, 6)]
    onwards = run('part "One"\nshow 1\npart "Two"\nshow 2\npart "Three"\nshow 3', part="Two", onwards=True)
    assert [f.number for f in onwards.findings] == [2, 3]


def test_the_folder_of_tables_is_not_left(tmp_path: Path) -> None:
    from open_lemma.cli import main

    (tmp_path / "inner").mkdir()
    (tmp_path / "secret.csv").write_text("a\n1\n")
    script = tmp_path / "inner" / "s.lemma"
    script.write_text('table t from "../secret.csv"\nshow t.a\n')
    assert main(["run", str(script)]) == 1
    (tmp_path / "inner" / "t.csv").write_text("a\n1\n2\n")
    script.write_text('table t from "t.csv"\nshow sum(t.a)\n')
    assert main(["run", str(script)]) == 0


def test_rows_left_out_by_hand_are_told_as_such_and_the_axes_keep_their_texts() -> None:
    force, stretch = np.array([1.0, 2, 3, 4, np.nan, np.nan]), np.array([2.0, 4, 6.1, 8, np.nan, 12])
    hidden = [np.full(6, np.nan), np.full(6, np.nan)]
    hidden[0][4], hidden[1][4] = 5.0, 10.2
    columns = [FileColumn("force", force, "N", hidden[0]), FileColumn("stretch", stretch, "mm", hidden[1])]
    script = 'table one from "one.csv"\nL(x) = fit of a + b*x to one.stretch against one.force\npoints of one.stretch against one.force\n'
    outcome = run(script, tables={"one.csv": FileTable(columns, "f00d", {}, [], [])}.get)
    assert not outcome.failed, [m.text for m in outcome.reading.messages.items]
    notes = outcome.findings[0].notes
    assert "1 of 6 rows was left out by hand" in notes
    assert "1 of 6 rows holds a gap and is left out" in notes
    panel = outcome.figures[0].data.panels[0]
    assert [s.place for s in panel.series] == [0, 0]
    assert "force" in (panel.x.text or "")
    assert "stretch" in (panel.y.text or "")
