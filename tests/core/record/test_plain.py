"""From the classes of the record to plain data: one rule, and what every row keeps to."""

from __future__ import annotations

import json
from dataclasses import dataclass, fields
from typing import Any

import pytest

from open_lemma.core.record.plain import named, plain, spread
from open_lemma.core.record.rows import ROWS, RootRow, Row, SolutionRow, TableRow, ValueRow


@dataclass(frozen=True, kw_only=True)
class Place:
    needed: float | None
    more: float | None = None
    words: str = ""
    yes: bool = False
    kind: str | None = named("class")
    names: dict[str, float] = spread("by their names")


@pytest.mark.parametrize(
    ("place", "expected"),
    [
        (Place(needed=None, names={}), {"needed": None}),
        (Place(needed=1.0, more=0.0, names={}), {"needed": 1.0, "more": 0.0}),
        (Place(needed=1.0, words="a", yes=True, kind="b", names={}), {"needed": 1.0, "words": "a", "yes": True, "class": "b"}),
        (Place(needed=1.0, names={"h": 2.0, "v": 3.0}), {"needed": 1.0, "h": 2.0, "v": 3.0}),
    ],
)
def test_what_is_needed_is_always_written_and_what_is_usual_never(place: Place, expected: dict[str, Any]) -> None:
    assert plain(place) == expected


def test_what_stands_inside_goes_the_same_way() -> None:
    inner = Place(needed=1.0, names={})
    assert plain([inner, (inner, {"a": inner})]) == [{"needed": 1.0}, [{"needed": 1.0}, {"a": {"needed": 1.0}}]]


def test_a_gap_is_null_and_a_missing_unit_is_missing() -> None:
    assert ValueRow(value=None).as_record() == {"value": None}
    assert ValueRow(value=2, unit="m", interval=("2", "2")).as_record() == {"value": 2, "unit": "m", "interval": ["2", "2"]}


def test_unknowns_and_columns_stand_under_their_own_names() -> None:
    assert SolutionRow(place={"h": 0.5}, exact="1/2").as_record() == {"h": 0.5, "exact": "1/2"}
    assert TableRow(cells={"t": 1.0, "level": None}).as_record() == {"t": 1.0, "level": None}


def test_a_pass_of_a_loop_is_written_with_its_place() -> None:
    row = ValueRow(value=1, number_of_pass=3, at={"k": 3.0})
    assert row.as_record() == {"value": 1, "pass": 3, "at": {"k": 3.0}}


@pytest.mark.parametrize("kind", ROWS, ids=[k.__name__ for k in ROWS])
def test_rows_are_frozen_named_once_and_said_to_be_what_they_are(kind: type[Row]) -> None:
    names = [f.metadata.get("name", f.name) for f in fields(kind) if "spread" not in f.metadata]
    assert len(set(names)) == len(names)
    assert kind.shape
    assert kind.__doc__
    assert kind.__dataclass_params__.frozen  # type: ignore[attr-defined]


def test_a_row_is_json() -> None:
    row = RootRow(x=1.0, value=0.0, interval=("1", "1"), kind="simple", multiplicity=None, residual=0.0, at_end=True)
    found = json.loads(json.dumps(row.as_record()))
    assert found == {
        "x": 1.0,
        "value": 0.0,
        "interval": ["1", "1"],
        "kind": "simple",
        "multiplicity": None,
        "residual": 0.0,
        "at_end": True,
    }
