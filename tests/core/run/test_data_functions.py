"""Fits and interpolations in the language: what the record holds, how it is said, and what may be done with them."""

from __future__ import annotations

import json
import pickle
from typing import Any

import pytest

from open_lemma.core.figure.draw import draw
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.memory import Memory
from open_lemma.core.run.record import record

from .scripts import good, last

BENCH = """table bench:
    h [m]   Q [m^3/s]  dQ [m^3/s]
    0.05    0.021      0.002
    0.10    0.058      0.003
    0.15    0.112      0.004
    0.20    0.169      0.004
    0.25    0.243      0.005
    0.30    0.310      0.006
    0.35    0.400      0.007
    0.40    0.484      0.008
"""
RATING = BENCH + "rating(x) = fit of C*x^n to bench.Q against bench.h for C, n, errors bench.dQ\n"


def messages(script: str, severity: str) -> list[str]:
    return [m.text for m in run(script).reading.messages.items if m.severity == severity]


def test_the_record_of_a_fit_has_the_shape_of_the_contract() -> None:
    outcome = good(RATING)
    found = json.loads(json.dumps(record(RATING, outcome, [], 0.0)))["findings"][0]
    (row,) = found["values"]
    assert found["name"] == "rating"
    assert found["noun"] == "fit"
    assert [p["name"] for p in row["parameters"]] == ["C", "n"]
    for p in row["parameters"]:
        assert p["low"] < p["value"] < p["high"]
        assert p["standard_error"] > 0
    assert row["degrees_of_freedom"] == 6
    assert row["starts_tried"] >= 32
    assert row["residual_sum_of_squares"] == pytest.approx(2.1612, abs=1e-3)
    assert row["residual_standard_deviation"] == pytest.approx((row["residual_sum_of_squares"] / 6) ** 0.5)
    assert 0.99 < row["r_squared"] < 1
    assert 0 < row["chance"] < 1
    assert len(row["correlation"]) == 2
    assert len(found["fit"]["x"]) == len(found["fit"]["residuals"]) == 8


SAID = [
    ("show rating.n", "1.513 ± 0.023"),
    ("show rating(0.22)", "(0.1967 ± 0.0020) m³ s⁻¹"),
    ("show rating.C*2", "3.89 ± 0.12"),
    ("show rating.degrees_of_freedom", "6"),
    ("show sum(rating.residuals) < 0.01", "true"),
    ("check rating.n = 1.5, within 0.1", "Holds"),
    ("roots of rating(x) - 0.1 for x", "Exactly one root from 0.05 to 0.4"),
    ("crossings of rating(x) and 0.1", "Exactly one crossing from 0.05 to 0.4"),
    ("line(x) = fit of a + b*x to bench.Q against bench.h\nshow line.b", "(1.338 ± 0.066) m² s⁻¹"),
    ("line(x) = fit of polynomial 1 to bench.Q against bench.h", "c0 = (−0.076 ± 0.017) m³ s⁻¹; c1 = (1.338 ± 0.066) m² s⁻¹."),
    ("f(x) = fit of C*x^n to bench.Q against bench.h for C, n, fix n = 1.5", "C = 1.9153 ± 0.0073."),
    ("f(x) = fit of C*x^n to bench.Q against bench.h for C, n, limit n = 1.6 to 2", "n = 1.6, on its limit"),
    ("f(x, y) = fit of a + b*x + c*y to bench.Q against (bench.h, bench.dQ)", "a = "),
    ("level(t) = interpolation of bench.Q against bench.h\nshow level(0.22)", "m³ s⁻¹"),
    ("level(t) = interpolation of bench.Q against bench.h, by polynomial", "A polynomial through 8 points from t = 0.05 to 0.4."),
    ("bed(x, y) = interpolation of bench.Q against (bench.h, bench.dQ^2)", "A thin plate through 8 points"),
]  # fmt: skip


@pytest.mark.parametrize(("line", "phrase"), SAID, ids=[s[0][:50] for s in SAID])
def test_what_is_said(line: str, phrase: str) -> None:
    assert phrase in last(RATING + line).summary


def test_uncertainty_follows_what_is_worked_out() -> None:
    """By hand: x where C x^n = q, so x = (q/C)^(1/n); to first order, correlation included."""
    import numpy as np

    outcome = good(RATING + "r = roots of rating(x) - 0.1 for x\nshow (0.1/rating.C)^(1/rating.n), rating.C - rating.C")
    by_search, by_formula, nothing = outcome.findings[-3:]
    fit = outcome.names.find("rating").source.result  # type: ignore[union-attr]
    c, n = fit.values
    x = (0.1 / c) ** (1 / n)
    slopes = np.array([-x / (n * c), -x * np.log(0.1 / c) / n**2])
    error = float(np.sqrt(slopes @ fit.covariance @ slopes))
    assert by_search.rows[0]["standard_error"] == pytest.approx(error, rel=1e-9)
    assert by_formula.rows[0]["standard_error"] == pytest.approx(error, rel=1e-9)
    assert nothing.rows[0]["standard_error"] == pytest.approx(0, abs=1e-12)


def test_parameters_that_are_not_said_are_taken_and_inked() -> None:
    script = BENCH + "f(x) = fit of a + b*x to bench.Q against bench.h, errors bench.dQ"
    (note,) = [m for m in run(script).reading.messages.as_records() if m["severity"] == "note"]
    edit = note["fix"]["edits"][0]
    lines = script.split("\n")
    text = lines[edit["line"] - 1]
    lines[edit["line"] - 1] = text[: edit["column"] - 1] + edit["text"] + text[edit["end_column"] - 1 :]
    assert lines[-1].endswith("against bench.h for a, b, errors bench.dQ")
    assert not [m for m in run("\n".join(lines)).reading.messages.items if m.severity == "note"]


@pytest.mark.parametrize("line", ["show rating(0.5)", "show rating([0.1, 0.5])", "show rating(0.01)"])
def test_beyond_the_data_is_flagged(line: str) -> None:
    (text,) = messages(RATING + line, "warning")
    assert "lies beyond the data of rating, which go from 0.05 to 0.4: this is extrapolated" in text


def test_searches_stay_inside_of_the_data_unless_told_otherwise() -> None:
    wave = "f(t) = interpolation of [0, 1, 0, -1, 0.5] against [0, 1, 2, 3, 4]\n"
    inside = last(wave + "maxima of f(t)")
    assert all(0 <= v["x"] <= 4 for v in inside.rows)
    beyond = last(wave + "roots of f(t) for t from -1 to 9")
    assert any("what lies beyond is extrapolated" in n for n in beyond.notes)


def test_gaps_are_left_out_and_told() -> None:
    found = last("f(x) = fit of a + b*x to [1, 2, gap, 4, 5.1] against [0, 1, 2, 3, 4] for a, b")
    assert found.rows[0]["points"] == 4
    assert any("1 of 5 rows" in n for n in found.notes)


def test_one_fit_over_several_tables_shares_its_parameters() -> None:
    script = """ts = 0 to 4 step 1
both = fit of [A*exp(-k*t), B*exp(-k*t)] to [3*exp(-ts/2), 5*exp(-ts/2)] against [ts, ts] for A, B, k
show both.k
"""
    found = good(script).findings
    assert [p["value"] for p in found[0].rows[0]["parameters"]] == pytest.approx([3, 5, 0.5], rel=1e-12)
    assert found[1].rows[0]["value"] == pytest.approx(0.5, rel=1e-12)


def test_a_list_that_was_worked_out_is_known_beyond_doubles() -> None:
    """ln of decimals in balls: the certified digits of Nelson's kind of problem need that."""
    found = last("f(x) = fit of a + b*x to ln([1.1, 2.3, 4.9, 11.2]) against [0, 1, 2, 3] for a, b")
    low, high = (float(v) for v in found.rows[0]["parameters"][0]["interval"])
    assert found.evidence == "proven"
    assert high - low < 1e-15


COMPARED = """xs = 0 to 5 step 0.5
ys = [1.1, 1.4, 2.2, 2.4, 3.1, 3.4, 4.2, 4.4, 5.1, 5.6, 6]
one(x) = fit of polynomial 1 to ys against xs
two(x) = fit of polynomial 2 to ys against xs
five(x) = fit of polynomial 5 to ys against xs
compare one, two, five
"""


def test_compared_polynomials_show_what_each_term_earns() -> None:
    found = last(COMPARED)
    assert [r["fit"] for r in found.rows] == ["one", "two", "five"]
    assert found.summary.startswith(("The data favour one", "one is ahead"))
    assert any("two has one more parameter than one and does not earn it" in n for n in found.notes)
    assert all(0 <= r["chance"] <= 1 for r in found.rows if "chance" in r)
    assert found.rows[0]["left_out"] < found.rows[2]["left_out"]


def test_the_test_between_nested_models_is_the_textbook_one() -> None:
    """Draper and Smith 1998, section 6.1: F of the extra sum of squares."""
    import numpy as np
    from scipy import stats

    x, y = np.arange(0, 5.1, 0.5), np.array([1.1, 1.4, 2.2, 2.4, 3.1, 3.4, 4.2, 4.4, 5.1, 5.6, 6])
    rest = [float(np.sum((y - np.polynomial.Polynomial.fit(x, y, d)(x)) ** 2)) for d in (1, 2)]
    chance = stats.f.sf((rest[0] - rest[1]) / (rest[1] / 8), 1, 8)
    assert last(COMPARED).rows[1]["chance"] == pytest.approx(chance, rel=1e-6)


@pytest.mark.parametrize("thing", ["residuals of rating", "confidence of rating", "prediction of rating for x from 0.02 to 0.6"])
def test_what_is_drawn_of_a_fit(thing: str) -> None:
    outcome = good(RATING + f"figure a:\n    {thing}\n    points of bench.Q against bench.h")
    (figure,) = outcome.figures
    draw(figure.data)
    (series, _) = figure.data.panels[0].series
    if thing.startswith("residuals"):
        fit: Any = outcome.names.find("rating").source.result  # type: ignore[union-attr]
        assert series.y == pytest.approx(fit.residuals)
    else:
        assert series.kind == "band"
        assert (series.y2 > series.y).all()


def test_the_prediction_is_wider_than_the_confidence() -> None:
    figure = good(RATING + "figure a:\n    confidence of rating\n    prediction of rating").figures[0].data
    narrow, wide = figure.panels[0].series
    assert (wide.y2 - wide.y).min() > (narrow.y2 - narrow.y).max() / 3


def test_values_got_from_data_are_kept_between_runs() -> None:
    script = RATING + "level(t) = interpolation of bench.Q against bench.h\nshow rating(0.2), level(0.2)"
    memory = Memory(lambda: 0.0)
    memory.begun = -1.0
    ticks = iter(range(10_000))
    memory.clock = lambda: float(next(ticks))
    one = run(script, memory=memory)
    kept = {k: pickle.loads(pickle.dumps(v)) for k, v in memory.packed().items()}
    other = run(script, memory=Memory(lambda: float(next(ticks)), kept))
    assert other.reused
    assert [f.as_record() for f in one.findings] == [f.as_record() for f in other.findings]


def test_what_was_held_stays_in_the_function_and_is_told() -> None:
    outcome = good(
        "table pot:\n    t [min]   T [degC]\n    0   92.1\n    2   81.0\n    4   71.8\n    6   64.4\n"
        "line(x) = fit of a + b*x to pot.T against pot.t for a, b, fix b = -3\n"
        "show line(2), line.b\nminima of line(x) for x from 0 to 6\nroots of line(x) - 80 for x from 0 to 6"
    )
    fitted, value, held, lowest, root = outcome.findings
    assert fitted.notes[0].startswith("b was held at −3")
    a = (92.1 + 81.0 + 71.8 + 64.4 + 3 * 12) / 4  # the mean of what is left
    assert value.rows[0]["value"] == pytest.approx(a - 6)
    assert held.rows[0]["value"] == -3
    assert lowest.rows[0]["x"] == 6
    assert root.rows[0]["x"] == pytest.approx((a - 80) / 3)


CUBE = "s(x) = interpolation of [-8, -1, 0, 1, 8, 27] against [-2, -1, 0, 1, 2, 3]\n"  # not-a-knot: the cubic itself
LEVEL = "g(x) = fit of a + b*x to [6, 4, 5] against [0, 1, 2] for a, b, fix b = 0\n"


@pytest.mark.parametrize(
    ("lines", "places"),
    [
        ("f(x) = x^2\ncrossings of f(x) and [-1, 1, 2, 3, 4] against [-2, 0, 1, 2, 3]", [(1 - 5**0.5) / 2, (1 + 5**0.5) / 2]),
        (CUBE + "crossings of s(x) and 2*x for x from -2 to 3", [-(2**0.5), 0, 2**0.5]),
        (CUBE + "crossings of s(x) and [3, 3, 3] against [-2, 1, 3]", [3 ** (1 / 3)]),
        (CUBE + LEVEL + "crossings of s(x) and g(x) for x from -2 to 3", [5 ** (1 / 3)]),
        ("g(x) = fit of a + b*x to [6, 4, 5] against [0, 1, 2] for a, b\ncrossings of g(x) and [4, 7] against [0, 2]", [0.75]),
    ],
)  # fmt: skip
def test_crossings_with_samples_and_with_what_comes_from_data(lines: str, places: list[float]) -> None:
    """Where the curves are lines and cubics, the places are known in closed form."""
    found = last(lines)
    assert found.evidence == "proven"
    assert [r["x"] for r in found.rows] == pytest.approx(places, abs=1e-15)
    for row, place in zip(found.rows, places, strict=True):
        low, high = (float(v) for v in row["interval"])
        assert low - 1e-15 <= place <= high + 1e-15
        assert high - low <= 1e-15 * max(1, abs(place))


def test_a_surface_that_cannot_be_searched_is_called_by_its_name() -> None:
    script = "bed(x, y) = interpolation of [1, 2, 3, 5, 4] against ([0, 1, 0, 1, 2], [0, 0, 1, 1, 0])\n"
    outcome = run(script + "minima of bed(x, y) for x from 0 to 2, y from 0 to 1, where x + y <= 1")
    assert [m.text for m in outcome.reading.messages.items] == ["'bed' has no bounds that could be proven"]
