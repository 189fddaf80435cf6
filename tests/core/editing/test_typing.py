"""What the page says of an action is typed before anything is done with it."""

from __future__ import annotations

from dataclasses import MISSING, fields
from typing import Any

import pytest

from open_lemma.core.editing import ACTIONS, read_action
from open_lemma.core.editing.asking import FitAction, RequestAction
from open_lemma.core.editing.axes import WindowAction
from open_lemma.core.editing.changes import NotInked
from open_lemma.core.editing.options import OptionAction
from open_lemma.core.editing.space import SectionAction
from open_lemma.core.editing.words import LegendAction

GOOD: list[tuple[str, dict[str, Any], Any]] = [
    ("option", {"name": "width", "value": 2}, OptionAction(line=3, name="width", value="2")),
    ("option", {"name": "label", "value": None, "item": 1}, OptionAction(line=3, name="label", value=None, item=1)),
    ("window", {"x": [0, 1.5], "y": None}, WindowAction(line=3, x=(0.0, 1.5))),
    ("legend", {"at": [0.1, 0.2], "none": False}, LegendAction(line=3, at=[0.1, 0.2])),
    (
        "request",
        {"noun": "crossings", "series": 4, "low": 0, "high": 1, "second": {"series": 5, "item": None}},
        RequestAction(line=3, noun="crossings", series=4, low=0.0, high=1.0, second={"series": 5, "item": None}),
    ),
    (
        "fit",
        {"formula": "a*x", "parameters": ["a"], "starts": {"a": 1}, "something": "else"},
        FitAction(line=3, formula="a*x", parameters=["a"], starts={"a": 1.0}),
    ),
    ("section", {"series": 3, "plane": [0, 0, 1, 2], "span": 4}, SectionAction(line=3, series=3, plane=(0.0, 0.0, 1.0, 2.0), span=4.0)),
]


@pytest.mark.parametrize(("do", "more", "expected"), GOOD, ids=[f"{g[0]}-{k}" for k, g in enumerate(GOOD)])
def test_what_is_said_becomes_an_action(do: str, more: dict[str, Any], expected: Any) -> None:
    assert read_action(do, 3, more) == expected


BAD: list[tuple[str, dict[str, Any]]] = [
    ("option", {"value": "2"}), ("option", {"name": ["width"]}), ("option", {"name": "width", "item": True}),
    ("window", {"x": [0]}), ("window", {"x": [0, "a"]}), ("window", {"x": [0, float("inf")]}), ("legend", {"at": 3}),
    ("legend", {"none": "yes"}), ("request", {"noun": "roots", "series": "4", "low": 0, "high": 1}),
    ("request", {"noun": "roots", "series": 4, "low": 0}), ("fit", {"formula": "a*x", "parameters": "a"}),
    ("fit", {"formula": "a*x", "parameters": ["a"], "starts": [1]}), ("section", {"series": 3, "plane": [0, 0, 1], "span": 4}),
    ("view", {"azimuth": None, "elevation": 3}), ("hover", {}),
]  # fmt: skip


@pytest.mark.parametrize(("do", "more"), BAD, ids=[f"{b[0]}-{k}" for k, b in enumerate(BAD)])
def test_what_is_of_another_type_is_refused_with_its_name(do: str, more: dict[str, Any]) -> None:
    with pytest.raises(NotInked) as refused:
        read_action(do, 3, more)
    assert "'" in str(refused.value)


@pytest.mark.parametrize("name", sorted(ACTIONS))
@pytest.mark.parametrize("value", [None, 3, "a", [], {}, True, float("nan")], ids=repr)
def test_no_value_of_any_field_ends_in_anything_but_an_action_or_a_refusal(name: str, value: Any) -> None:
    kind = ACTIONS[name]
    needed = {f.name: 1 for f in fields(kind) if f.default is MISSING and f.default_factory is MISSING and f.name != "line"}
    for f in fields(kind):
        try:
            read_action(name, 1, {**needed, f.name: value})
        except NotInked:
            continue
