"""What is drawn of lists, of marks and of what stands alone; histograms against counts by a plain loop."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from open_lemma.core.figure.draw import draw
from open_lemma.core.figure.model import FigureData, Series, to_text
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.figures.drawables.histogram import edges_by_rule


def figure(script: str) -> FigureData:
    outcome = run(script)
    assert not outcome.reading.messages.has_errors(), [m.text for m in outcome.reading.messages.items]
    draw(outcome.figures[0].data)
    return outcome.figures[0].data


def series(script: str) -> list[Series]:
    return figure(script).series


def refused(script: str) -> str:
    return next(m.text for m in run(script).reading.messages.items if m.severity == "error")


# ---------------------------------------------------------------- what stands alone

ALONE = [
    ("line from (0, 0) to (3, 2)", (0, 3), (0, 2)), ('text "here" at (2, 5)', (2, 2), (5, 5)), ("mark (1, 2)", (1, 1), (2, 2)),
    ("line from (1, 1) to (40, 9), arrow end", (1, 40), (1, 9)), ("line horizontal at 3", None, (3, 3)),
    ("line vertical at -7", (-7, -7), None), ('mark (1, 2)\n    text "far" at (9, -4)', (1, 9), (-4, 2)),
]  # fmt: skip


@pytest.mark.parametrize(("put", "x", "y"), ALONE)
def test_what_stands_alone_is_shown_with_room_around_it(put: str, x: tuple[float, float] | None, y: tuple[float, float] | None) -> None:
    panel = figure(f"figure a:\n    {put}").panels[0]
    for axis, span in ((panel.x, x), (panel.y, y)):
        if span is not None:
            assert axis.low < span[0] <= span[1] < axis.high
            assert axis.high - axis.low <= 1.5 * (span[1] - span[0]) + 2 * max(1, abs(span[0]))  # and not lost in a wide window


def test_a_segment_in_a_given_window_needs_no_curve() -> None:
    panel = figure("figure a:\n    line from (0, 0) to (3, 2)\n    x axis from -1 to 4\n    y axis from -2 to 5").panels[0]
    assert (panel.x.low, panel.x.high, panel.y.low, panel.y.high) == (-1, 4, -2, 5)


def test_on_logarithmic_axes_it_stands_above_zero() -> None:
    text = "figure a:\n    line from (1, 1) to (100, 50)\n    x axis, scale logarithmic\n    y axis, scale logarithmic"
    panel = figure(text).panels[0]
    assert 0 < panel.x.low < 1
    assert 100 < panel.x.high < 1000


def test_a_panel_may_hold_a_text_alone_and_space_too() -> None:
    assert len(figure('figure a, 2 by 1:\n    panel:\n        text "b" at (0, 0)\n    panel:\n        line horizontal at 0').panels) == 2
    space = figure('figure a:\n    text "b" at (1, 2, 3)').panels[0]
    assert space.z is not None
    for axis, place in ((space.x, 1), (space.y, 2), (space.z, 3)):
        assert axis.low <= place <= axis.high


def test_a_figure_without_anything_is_refused() -> None:
    assert refused('figure a:\n    x axis "t"') == "nothing is drawn in this figure"


# ---------------------------------------------------------------- lists, one each


def test_a_list_of_lists_means_one_each() -> None:
    found = series('xs = [1, 2, 3]\na = [1, 4, 9]\nb = [2, 1, 2]\nline of [a, b] against xs, label ["a", "b"], colour ["brick", "reed"]')
    assert [s.label for s in found] == ["a", "b"]
    assert [s.y.tolist() for s in found] == [[1, 4, 9], [2, 1, 2]]
    assert found[0].colour != found[1].colour


@pytest.mark.parametrize("noun", ["points", "line", "steps", "bars"])
def test_for_all_data(noun: str) -> None:
    found = series(f"{noun} of [[1, 2, 3], [3, 2, 1]] against [1, 2, 3]")
    assert len(found) == 2
    assert [s.place for s in found] == [0, 1]


TABLE = "table g:\n    t [h]  a [m]  b [m]  c\n    0  1  2  3\n    1  2  3  4\n    2  1  gap 2\n"


def test_a_table_draws_each_other_column_with_its_name_and_unit() -> None:
    found = series(TABLE + "line of g against g.t")
    assert [s.label for s in found] == [r"$a$ / $\mathrm{m}$", r"$b$ / $\mathrm{m}$", "$c$"]
    assert np.isnan(found[1].y[2])
    assert figure(TABLE + "line of g against g.t").panels[0].x.text == r"$t$ / $\mathrm{h}$"


def test_rows_draw_their_columns_and_lists_as_long_as_the_places_themselves() -> None:
    columns = series("m = [[1, 2], [2, 3], [3, 5]]\nline of m against [1, 2, 3]")
    assert [s.y.tolist() for s in columns] == [[1, 2, 3], [2, 3, 5]]
    rows = series("m = [[1, 2, 3], [2, 3, 5]]\nline of m against [1, 2, 3]")
    assert [s.y.tolist() for s in rows] == [[1, 2, 3], [2, 3, 5]]


def test_functions_between_commas_are_a_list() -> None:
    found = series('f(x) = x^2\ng(x) = x\ncurve of f(x), g(x) for x from 0 to 1, label ["f", "g"]')
    assert [s.label for s in found] == ["f", "g"]
    (finding,) = run("roots of sin(x), x - 1 for x from 0.5 to 4").findings
    assert [row["of"] for row in finding.rows] == [1, 2]


@pytest.mark.parametrize(
    ("script", "said"),
    [
        ("line of [[1, 2], [1, 2, 3]] against [1, 2, 3]", "lists of different lengths"),
        ('line of [[1, 2, 3], [3, 4, 5]] against [1, 2, 3], label ["x", "y", "z"]', "3 labels are given for 2 lists"),
        ('line of ["a", "b"] against [1, 2]', "a list of numbers is needed"),
        ("curve of x, colr red", "'colr' is not an option"),
    ],
)
def test_lists_that_do_not_fit_are_told(script: str, said: str) -> None:
    assert said in refused(script)


# ---------------------------------------------------------------- marks


@pytest.mark.parametrize(
    ("found", "x", "y"),
    [
        ("solution of x^2 - 4 = 60 for x", [-8, 8], [60, 60]), ("roots of x^2 = 60 for x from 0 to 10", [60**0.5], [60]),
        ("solution of u^2 + v = 3, u - v = -1 for u, v", [-2, 1], [-1, 2]), ("roots of x^2 - 9 for x from 0 to 10", [3], [0]),
        ("crossings of x^2 and x + 2 for x from -3 to 3", [-1, 2], [1, 4]),
        ("lowest of t^2 - 2t for t from -1 to 4", [1], [-1]), ("highest of 5 - t^2 for t from -1 to 4", [0], [5]),
        ("minima of t^2 - 2t for t from -1 to 4", [1], [-1]), ("lowest of t^2 - 2u + u^2 for t from -1 to 4, u from -1 to 4", [0], [1]),
    ],
)  # fmt: skip
def test_a_mark_lies_where_both_sides_meet(found: str, x: list[float], y: list[float]) -> None:
    (mark,) = [s for s in series(f"s = {found}\nfigure a:\n    curve of x^2 for x from -10 to 10\n    mark s") if s.kind == "mark"]
    assert mark.x.tolist() == pytest.approx(x)
    assert mark.y.tolist() == pytest.approx(y)


def test_an_equation_with_letters_has_no_height() -> None:
    outcome = run("s = solution of a*x^2 = b for x\nshow s")
    assert not outcome.reading.messages.has_errors() or "our fault" not in outcome.reading.messages.items[0].text


def test_what_was_picked_of_a_finding_keeps_its_height() -> None:
    (mark,) = [s for s in series("r = roots of x^2 = 60 for x from -10 to 10\nfigure a:\n    mark r[2]") if s.kind == "mark"]
    assert mark.y.tolist() == pytest.approx([60])


def test_the_size_of_a_mark_is_its_spot() -> None:
    plain, large = (series(f"figure a:\n    mark (1, 2){more}")[0] for more in ("", ", size 9"))
    assert (plain.spot, large.spot) == (3.4, 9.0)


# ---------------------------------------------------------------- histograms


def counted(data: list[float], edges: list[float]) -> list[int]:
    """By hand: a part holds its lower end, the last one both."""
    found = [0] * (len(edges) - 1)
    for value in data:
        for k in range(len(found)):
            last = k == len(found) - 1
            if edges[k] <= value and (value < edges[k + 1] or (last and value == edges[k + 1])):
                found[k] += 1
    return found


@pytest.mark.parametrize("edges", [[0, 2, 4], [0, 1, 2, 3, 4, 5], [1, 3.5, 6], [-1, 0, 1]])
def test_counts_are_those_of_a_plain_loop(edges: list[float]) -> None:
    data = [0.0, 1, 1, 1.5, 2, 2, 3, 4, 4.25, 5, 1e-9]
    said = ", ".join(map(str, edges))
    bars = series(f"histogram of [{', '.join(map(str, data))}], bins [{said}]")[0]
    assert bars.y.tolist() == counted(data, edges)
    assert bars.x.tolist() == pytest.approx([(a + b) / 2 for a, b in pairwise(edges)])
    assert bars.spread == pytest.approx(edges[1] - edges[0])


def test_the_rule_is_that_of_freedman_and_diaconis() -> None:
    """A thousand numbers spread evenly over 0 to 1: the middle half is 0.5 wide, 2*0.5/10 = 0.1."""
    edges = edges_by_rule(np.linspace(0, 1, 1000, endpoint=False))
    assert np.diff(edges) == pytest.approx(0.1)
    assert edges[0] <= 0 < 1 <= edges[-1] + 1e-12


@pytest.mark.parametrize(
    "data", [[3.0], [1.0] * 50, [0.0, 1e9], [1e-12, 2e-12], [5.0] * 9 + [6.0], list(np.random.default_rng(2).normal(size=999))]
)
def test_by_the_rule_every_number_is_counted_once(data: list[float]) -> None:
    edges = edges_by_rule(np.array(data))
    assert sum(counted(data, edges.tolist())) == len(data)
    assert 1 <= edges.size - 1 <= 410


def test_gaps_are_left_out_and_what_lies_outside_is_told() -> None:
    outcome = run("histogram of [1, gap, 2, 9], bins 0 to 4 step 2")
    assert outcome.figures[0].data.series[0].y.tolist() == [1, 1]
    assert any("outside of all parts: 1 number" in n.text for n in outcome.figures[0].notes)


def test_parts_that_are_not_equally_wide_are_refused() -> None:
    assert "equally wide" in refused("histogram of [1, 2, 3, 9], bins [0, 1, 5]")
    assert "whole" in refused("histogram of [1, 2, 3, 9], bins 2.5")
    assert "list of numbers" in refused("histogram of 3")


# ---------------------------------------------------------------- nothing is changed on the way

SHARED = (
    "figure a, 1 by 2:\n    panel:\n        curve of tan(x) for x from 0 to 6\n    panel:\n        curve of x for x from 0 to 6\n"
    "    shared y axis"
)  # fmt: skip


@pytest.mark.parametrize(
    "script",
    [
        'figure a "α₁":\n    curve of x^2 for x from 0 to 2, label "x²"\n    true scale',
        "figure a:\n    surface of x*y for x from -1 to 1, y from -1 to 1, levels 4, fill true",
        SHARED.replace("curve of x for x from 0 to 6", "bars of [1, 2] against [1, 2]"),
        "figure a:\n    curve of sin(x) for x from 0 to 9\n    inset top right:\n        x axis from 0 to 1",
    ],
)
@pytest.mark.parametrize("grey", [False, True])
def test_drawing_leaves_the_figure_as_it_is(script: str, grey: bool) -> None:
    data = run(script).figures[0].data
    before = to_text(data)
    first, second = (draw(data, grey=grey) for _ in range(2))
    assert to_text(data) == before
    assert first.data == second.data
    assert first.height_mm == second.height_mm


def test_panels_that_share_heights_tell_of_their_windows_once() -> None:
    outcome = run(SHARED)
    notes = [(n.line, n.text) for n in outcome.figures[0].notes]
    assert len(notes) == len(set(notes))


@pytest.mark.parametrize(
    ("curve", "said"),
    [
        ("sawtooth(t) for t from 0.1 to 3.3", "rising on each piece, broken at 3 places"),
        ("sin(t) for t from 0 to 9", "with 3 turning points"),
        ("square(t) for t from 0.1 to 2.1", "broken at 4 places"), ("1/t for t from -1 to 1", "broken at 1 place"),
        ("t for t from 0 to 1", "rising from 0 to 1"), ("cos(t)*sign(t - 1) for t from 0 to 4", "turning point"),
    ],
)  # fmt: skip
def test_a_jump_is_no_turning_point(curve: str, said: str) -> None:
    description = figure(f"curve of {curve}").description()
    assert said in description
    if "broken" in said:
        assert "turning" not in description
