"""What is done by hand on the stage, as edits: small, in the right place, and never breaking a script."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from open_lemma.core.editing.actions import apply_actions, read_action
from open_lemma.core.editing.changes import NotInked, applied, differences
from open_lemma.core.editing.script import number_text
from open_lemma.core.figure.draw import draw
from open_lemma.core.formula.catalogue import BUILTINS
from open_lemma.core.run.execute.interpreter import run

SCRIPT = """# the pond
f(x) = x^3 - 2x + 1
figure pond "The pond":   # with a remark
    curve of f(x) for x from -2 to 2, label "f", width 2  # thick
    curve of [sin(x), cos(x)] for x from -2 to 2, label ["s", "c"]
    text "sill" at (0.5, 1)
    x axis "way"
    legend top left
curve of x^2 for x from 0 to 1
"""


def after(*actions: tuple[str, int, dict[str, Any]], script: str = SCRIPT) -> str:
    text, edits = apply_actions(script, [read_action(*a) for a in actions], BUILTINS)
    assert applied(script, edits) == text
    return text


F4, F5, F6 = SCRIPT.splitlines()[3:6]
CASES = [
    (("option", 4, {"name": "width", "value": "3"}), F4, F4.replace("width 2", "width 3")),
    (("option", 4, {"name": "width", "value": None}), F4, F4.replace(", width 2", "")),
    (("option", 4, {"name": "dash", "value": "dotted"}), F4, F4.replace("width 2", "width 2, dash dotted")),
    (("option", 4, {"name": "colour", "value": '"#12AB34"'}), F4, F4.replace("width 2", 'width 2, colour "#12AB34"')),
    (("option", 5, {"name": "width", "value": "3"}), F5, F5 + ", width 3"),
    (("option", 5, {"name": "colour", "value": "brick", "item": 1, "others": ['"#111111"', '"#222222"']}), F5,
     F5 + ', colour ["#111111", "brick"]'),
    (("option", 5, {"name": "label", "value": '"k"', "item": 0, "others": ['"s"', '"c"']}), F5, F5.replace('["s", "c"]', '["k", "c"]')),
    (("axis", 3, {"which": "x", "low": -1.00001, "high": 2.5}), '    x axis "way"', '    x axis "way" from -1 to 2.5'),
    (("axis", 3, {"which": "x", "text": "w"}), '    x axis "way"', '    x axis "w"'),
    (("axis", 3, {"which": "x", "text": ""}), '    x axis "way"', "    x axis"),
    (("axis", 3, {"which": "x", "options": {"scale": "logarithmic"}}), '    x axis "way"', '    x axis "way", scale logarithmic'),
    (("axis", 3, {"which": "y", "text": "z", "options": {"minor": "4"}}), "    legend top left",
     '    legend top left\n    y axis "z", minor 4'),
    (("legend", 3, {"at": [0.25, 0.7512]}), "legend top left", "legend at (0.25, 0.7512)"),
    (("legend", 3, {"words": "outside right", "options": {"title": '"t"'}}), "legend top left", 'legend outside right, title "t"'),
    (("legend", 3, {"none": True}), "legend top left", "no legend"),
    (("word", 3, {"word": "gridlines", "value": "major"}), "    legend top left", "    legend top left\n    gridlines major"),
    (("heading", 3, {"which": "title", "text": "Pond"}), "    legend top left", '    legend top left\n    title "Pond"'),
    (("place", 6, {"x": 0.123456, "x_span": 4, "y": 2, "y_span": 10}), F6, '    text "sill" at (0.123, 2)'),
    (("text", 6, {"text": "bank"}), F6, F6.replace("sill", "bank")),
    (("text", 6, {"text": ""}), F6 + "\n", ""),
    (("option", 6, {"name": "turn", "value": "30"}), F6, F6 + ", turn 30"),
    (("text", 9, {"text": "top", "x": 0.5, "x_span": 1, "y": 0.25, "y_span": 1}), "curve of x^2 for x from 0 to 1",
     'figure:\n    curve of x^2 for x from 0 to 1\n    text "top" at (0.5, 0.25)'),
    (("mark", 3, {"x": 0.5, "x_span": 4, "y": 0.125, "y_span": 8}), "    legend top left", "    legend top left\n    mark (0.5, 0.125)"),
    (("request", 3, {"noun": "roots", "series": 4, "low": -2, "high": 0.30001, "mark": True}), 'figure pond "The pond":',
     'roots_1 = roots of f(x) for x from -2 to 0.3\nfigure pond "The pond":'),
    (("request", 3, {"noun": "crossings", "series": 4, "second": {"series": 5, "item": 1}, "low": 0, "high": 2}), 'figure pond "The pond":',
     'meets_1 = crossings of f(x) and cos(x) for x from 0 to 2\nfigure pond "The pond":'),
    (("request", 3, {"noun": "slope", "series": 4, "low": -1, "high": 2}), 'figure pond "The pond":',
     'show (f(2) - f(-1))/(2 - (-1))\nfigure pond "The pond":'),
    (("request", 3, {"noun": "values", "series": 5, "item": 0, "low": 0, "high": 1}), 'figure pond "The pond":',
     'values of sin(x) for x from 0 to 1 count 11\nfigure pond "The pond":'),
]  # fmt: skip


@pytest.mark.parametrize(("action", "old", "new"), CASES, ids=[f"{a[0]}-{k}" for k, (a, _, _) in enumerate(CASES)])
def test_one_action_is_one_small_edit(action: tuple[str, int, dict[str, Any]], old: str, new: str) -> None:
    found = after(action)
    assert old in SCRIPT
    assert found.replace("\n    mark roots_1", "") == SCRIPT.replace(old, new, 1)
    assert not run(found).failed


def test_what_was_found_is_marked_and_gets_a_name() -> None:
    script = "roots of x^2 - 2 for x from 0 to 3\ncurve of x^2 - 2 for x from 0 to 3\n"
    found = after(("mark", 2, {"finding": 1}), script=script)
    assert found == "roots_1 = " + script.replace("curve", "figure:\n    curve").replace("3\n", "3\n", 1).rstrip() + "\n    mark roots_1\n"
    assert after(("mark", 2, {"finding": 1}), script=found) == found  # it is marked already


def test_a_slope_can_be_worked_out() -> None:
    found = run(after(("request", 3, {"noun": "slope", "series": 4, "low": -1, "high": 2}))).findings[0]
    assert found.rows[0]["value"] == pytest.approx(1.0)  # (8 - 4 + 1 - (-1 + 2 + 1)) / 3


BAD = [
    ("option", 4, {"name": "mesh", "value": "3"}), ("option", 2, {"name": "width", "value": "3"}),
    ("option", 4, {"name": "dash", "value": "wavy"}),
    ("option", 4, {"name": "colour", "value": "red; x = 1"}), ("option", 4, {}), ("axis", 3, {"which": "w", "text": "a"}),
    ("axis", 3, {"which": "x", "text": 'a"b'}), ("axis", 3, {"which": "x", "low": float("nan"), "high": 1}), ("fly", 3, {}),
    ("axis", 1, {"which": "x", "text": "a"}), ("text", 4, {"text": "a"}), ("place", 4, {"x": 1, "x_span": 1, "y": 1, "y_span": 1}),
    ("request", 3, {"noun": "surface", "series": 4, "low": 0, "high": 1}), ("heading", 3, {"which": "panel", "text": "a"}),
    ("mark", 3, {"finding": 2}), ("word", 3, {"word": "glitter", "value": "on"}),
]  # fmt: skip


@pytest.mark.parametrize("action", BAD, ids=[f"{a[0]}-{k}" for k, a in enumerate(BAD)])
def test_what_cannot_be_written_is_refused(action: tuple[str, int, dict[str, Any]]) -> None:
    with pytest.raises(NotInked):
        after(action)


def test_numbers_have_the_digits_that_a_hand_can_mean() -> None:
    assert number_text(0.123456789, 1.0) == "0.1235"
    assert number_text(-0.00001, 1.0) == "0"
    assert number_text(123456.7, 1e5) == "123460"
    assert number_text(2.5e-9, 1e-8) == "2.5e-09".replace("e-09", "e-09")


@given(st.text("ab\n", max_size=12), st.text("ab\n", max_size=12))
def test_differences_make_one_text_of_another(before: str, then: str) -> None:
    edits = differences(before, then)
    assert applied(before, edits) == then


NUMBER = st.floats(-3, 3).map(lambda v: round(v, 6))
ACTIONS = st.one_of(
    st.tuples(st.just("option"), st.sampled_from([4, 5]), st.one_of(
        st.fixed_dictionaries({"name": st.just("width"), "value": st.sampled_from(["0.5", "2", None])}),
        st.fixed_dictionaries({"name": st.just("dash"), "value": st.sampled_from(["solid", "dotted", None])}),
        st.fixed_dictionaries({"name": st.just("colour"), "value": st.sampled_from(["brick", '"#336699"', None])}),
        st.fixed_dictionaries({"name": st.just("marker"), "value": st.sampled_from(["ring", "plus", None])}))),
    st.tuples(st.just("axis"), st.just(3), st.fixed_dictionaries({"which": st.sampled_from(["x", "y"])}, optional={
        "text": st.sampled_from(["", "way / m", "$h_0$"]),
        "options": st.sampled_from([{"minor": "4"}, {"minor": None}, {"decimals": "2"}])})),
    st.tuples(st.just("window"), st.just(3), st.tuples(NUMBER, st.floats(0.1, 5)).map(
        lambda p: {"x": [p[0] - p[1], p[0] + p[1]], "y": [p[0], p[0] + p[1]]})),
    st.tuples(st.just("legend"), st.just(3), st.one_of(
        st.fixed_dictionaries({"at": st.tuples(st.floats(0, 1), st.floats(0, 1))}), st.just({"none": True}),
        st.fixed_dictionaries({"words": st.sampled_from(["", "top", "outside right"])}, optional={
            "options": st.sampled_from([{"columns": "2"}, {}])}))),
    st.tuples(st.just("word"), st.just(3), st.sampled_from([
        {"word": "gridlines", "value": "major"}, {"word": "gridlines", "value": None}, {"word": "frame", "value": "no"},
        {"word": "frame", "value": None}, {"word": "style", "value": "print grey"}, {"word": "decimal", "value": "comma"}])),
    st.tuples(st.just("heading"), st.just(3), st.fixed_dictionaries(
        {"which": st.sampled_from(["title", "caption"]), "text": st.sampled_from(["", "Pond", "At $x_0$"])})),
    st.tuples(st.just("text"), st.just(3), st.fixed_dictionaries(
        {"text": st.just("new"), "x": NUMBER, "x_span": st.just(4.0), "y": NUMBER, "y_span": st.just(9.0)})),
)  # fmt: skip


@settings(max_examples=40, deadline=None)
@given(st.lists(ACTIONS, max_size=8))
def test_any_actions_leave_a_script_that_runs_and_draws(actions: list[tuple[str, int, dict[str, Any]]]) -> None:
    """Whatever is done one after the other: the script reads without mistakes, its remarks and other lines stay, and the
    actions at once give the same text as one by one, so that what the stage shows is what the script draws."""
    text = SCRIPT
    for action in actions:
        text, _ = apply_actions(text, [read_action(*action)], BUILTINS)
    together, edits = apply_actions(SCRIPT, [read_action(*a) for a in actions], BUILTINS)
    assert together == text == applied(SCRIPT, edits)
    outcome = run(text)
    errors = [m for m in outcome.reading.messages.items if m.severity == "error"]
    # A window that a hand chose may leave a curve outside: that is told, and nothing else may go wrong.
    assert all(m.code == "outside-window" for m in errors)
    assert "# the pond" in text
    assert "# with a remark" in text
    assert text.endswith("curve of x^2 for x from 0 to 1\n")
    if not errors:
        assert draw(outcome.figures[0].data).data


SPACE = """figure a:
    surface of x*y for x from -1 to 1, y from -1 to 1, levels 5
    z axis "h"
surface of x^2 + y^2
"""


@pytest.mark.parametrize(
    ("action", "written"),
    [
        (("view", 1, {"azimuth": 120.4, "elevation": -8}), "    view azimuth 120, elevation -8\n"),
        (("view", 4, {"azimuth": 30, "elevation": 20}), "figure:\n    surface of x^2 + y^2\n    view azimuth 30, elevation 20\n"),
        (("section", 1, {"series": 2, "plane": [0, 0, 1, 0.25], "span": 2}),
         "    section of x*y for x from -1 to 1, y from -1 to 1, at z = 0.25\n"),
        (("section", 1, {"series": 2, "plane": [1, -2, 0, 0.5], "span": 2}),
         "    section of x*y for x from -1 to 1, y from -1 to 1, at x - 2y = 0.5\n"),
        (("section", 1, {"series": 2, "plane": [1, 0, 0, 0], "span": 2, "alone": True}),
         "\nsection of x*y for x from -1 to 1, y from -1 to 1, at x = 0\n"),
        (("section", 4, {"series": 4, "plane": [0, 1, 0, 0.5], "span": 2}), "    section of x^2 + y^2, at y = 0.5\n"),
        (("mark", 1, {"x": 0.5, "x_span": 2, "y": 0.25, "y_span": 2, "z": 0.125, "z_span": 2}), "    mark (0.5, 0.25, 0.125)\n"),
        (("axis", 1, {"which": "z", "text": "height"}), '    z axis "height"\n'),
        (("option", 2, {"name": "mesh", "value": "12"}), "levels 5, mesh 12\n"),
    ],
)  # fmt: skip
def test_what_is_done_in_space_is_written(action: tuple[str, int, dict[str, Any]], written: str) -> None:
    text, _ = apply_actions(SPACE, [read_action(*action)], BUILTINS)
    assert written in text
    assert not run(text).failed


def test_a_view_is_written_once() -> None:
    actions = [read_action("view", 1, {"azimuth": a, "elevation": 10}) for a in (10, 20)]
    assert apply_actions(SPACE, actions, BUILTINS)[0].count("view") == 1
