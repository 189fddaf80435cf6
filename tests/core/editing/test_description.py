"""What the pen shows is what the tree says of the statement it is at: the inverse of inking."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import pytest

from open_lemma.core.editing.actions import apply_actions, read_action
from open_lemma.core.editing.description import describe
from open_lemma.core.formula.catalogue import BUILTINS

SCRIPT = """xs = [1, 2, 3]
figure a:
    curve of sin(x) for x from 0 to 6, label "line, width 3", dash dashed   # width 9
    text "title \\"no" at (2, sin(2)), size 7
figure b:
    title "Second"
    caption "Of the second"
    curve of cos(x) for x from 0 to 6, width 2
    gridlines minor
    no frame
    decimal comma
figure c, 1 by 2:
    title "Both"
    panel "Left":
        curve of x for x from 0 to 1
        gridlines major
    panel "Right":
        points of xs against xs
""".replace('\\"', "'")


def at(line: int, window: int, figure: int, script: str = SCRIPT) -> dict[str, Any]:
    return asdict(describe(script, BUILTINS, line, window, figure))


def test_a_figure_without_a_title_does_not_take_that_of_the_next() -> None:
    assert at(2, 2, 2)["title"] is None
    assert at(5, 5, 5)["title"] == "Second"
    assert at(5, 5, 5)["caption"] == "Of the second"


def test_words_inside_of_texts_and_remarks_are_no_options() -> None:
    assert at(3, 2, 2)["options"] == {"label": '"line, width 3"', "dash": "dashed"}
    assert at(8, 5, 5)["options"] == {"width": "2"}


def test_a_text_has_its_place_as_it_is_written() -> None:
    found = at(4, 2, 2)
    assert found["place"] == ["2", "sin(2)"]
    assert found["options"] == {"size": "7"}


def test_words_of_a_window_are_those_of_its_own_block() -> None:
    assert (at(2, 2, 2)["gridlines"], at(5, 5, 5)["gridlines"]) == (None, "minor")
    assert (at(2, 2, 2)["frame"], at(5, 5, 5)["frame"]) == (True, False)
    assert (at(2, 2, 2)["decimal_comma"], at(5, 5, 5)["decimal_comma"]) == (False, True)
    assert [at(n, n, 12)["gridlines"] for n in (14, 17)] == ["major", None]
    assert at(15, 14, 12)["title"] == "Both"


def test_points_of_one_list_against_another_can_be_fitted() -> None:
    assert at(18, 17, 12)["against"]
    assert not at(15, 14, 12)["against"]


@pytest.mark.parametrize("line", [0, 1, 99])
def test_lines_that_hold_nothing_drawn_say_nothing(line: int) -> None:
    found = at(line, line, line)
    assert found["options"] == {}
    assert found["title"] is None


@pytest.mark.parametrize(("name", "value"), [("width", "2.5"), ("label", '"a, dash dotted"'), ("colour", "brick"), ("marker", "ring")])
def test_what_is_inked_is_read_back(name: str, value: str) -> None:
    script, _ = apply_actions(SCRIPT, [read_action("option", 3, {"name": name, "value": value})], BUILTINS)
    assert at(3, 2, 2, script)["options"][name] == value
