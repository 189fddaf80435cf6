"""How files are written: decimal signs, heads below titles, units in rows and cells, times, uncertainties; and what is doubtful."""

from __future__ import annotations

import io
from datetime import timedelta
from typing import Any

import numpy as np
import polars as pl
import pytest
from openpyxl import Workbook

from open_lemma.files.columns import ReadTable
from open_lemma.files.ready import packed, plain_columns, ready, unpacked
from open_lemma.files.recipe import Recipe
from open_lemma.files.tables import read_table

GAP = None


def read(data: str | bytes, name: str = "t.csv", recipe: Recipe | None = None) -> ReadTable:
    return read_table(data.encode() if isinstance(data, str) else data, name, recipe)


def plain(table: ReadTable) -> dict[str, list[Any]]:
    return {
        c.recipe.name: c.texts if c.texts is not None else [None if v != v else v for v in c.numbers.tolist()] for c in table.columns
    }  # fmt: skip


def again(table: ReadTable, key: str) -> Recipe:
    """The recipe after the button of a doubt was pressed, as the import sheet does it."""
    recipe = Recipe.from_record(table.recipe.as_record())
    doubt = next(d for d in recipe.doubts if d.key == key)
    recipe.settled.append(key)
    if doubt.column is None:
        recipe.columns = []
        for field, value in doubt.change.items():
            setattr(recipe, field, value)
    else:
        column = next(c for c in recipe.columns if c.source == doubt.column)
        for field, value in doubt.change.items():
            setattr(column, field, value)
    return Recipe.from_record(recipe.as_record())


DECIMALS: list[tuple[str, str, list[Any], bool]] = [
    # What a file says, its first column, whether that is told as doubtful.
    ("a comma where something else divides", "x;y\n1,500;2,250\n", [1.5], True),
    ("one cell tells", "x;y\n1,500;2,25\n3,125;1,000\n", [1.5, 3.125], False),
    ("the last of many tells", "x;y\n" + "1,500;2\n" * 5000 + "0,5;2\n", [1.5] * 5000 + [0.5], False),
    ("a point and groups", "x;y\n1,500;2.25\n", [1500], False),
    ("groups twice", "x;y\n1,500,000;2\n1,250;2\n", [1.5e6, 1250], False),
    ("points among commas are no number", "x;y\n1,5;2,5\n2.5;3,5\n4,5;1,5\n0,5;2,5\n3,5;1\n", [1.5, GAP, 4.5, 0.5, 3.5], False),
    ("quoted, divided by commas", 'x,y\n"1,5","2,25"\n"0,5","3"\n', [1.5, 0.5], False),
    ("divided by blanks", "x y\n0,5 1,25\n0,7 1,5\n", [0.5, 0.7], False),
    ("divided by tabs", "x\ty\n1,500\t2,250\n", [1.5], True),
    ("three places by a point", "x,y\n1.500,2.250\n", [1.5], False),
    ("groups of both kinds", "x;y\n1.234,5;1\n12.000,25;2\n", [1234.5, 12000.25], False),
    ("powers as Fortran writes them", "x,y\n1.5D+03,1\n2.5d-2,2\n", [1500, 0.025], False),
    ("an uncertain number tells", "x;y\n1,500;2,50(5)\n1,250;2,61(5)\n", [1.5, 1.25], False),
    ("a share tells", "x;y\n1,500;12,5 %\n1,250;13,5 %\n", [1.5, 1.25], False),
    ("remarks and dates tell nothing", "x;when;note\n1,500;01.02.2031;1. weir\n1,250;02.02.2031;2. weir\n", [1.5, 1.25], True),
    ("narrow blanks", "x;y\n1\u202f500,5;1\n", [1500.5], False),
]


@pytest.mark.parametrize(("text", "first", "doubtful"), [d[1:] for d in DECIMALS], ids=[d[0] for d in DECIMALS])
def test_the_decimal_sign_is_decided_by_the_whole_file(text: str, first: list[Any], doubtful: bool) -> None:
    found = read(text)
    assert next(iter(plain(found).values())) == first
    assert [d.key for d in found.recipe.doubts if d.key == "decimal"] == (["decimal"] if doubtful else [])


def test_the_other_reading_is_one_step_away_and_stays() -> None:
    found = read("x;y\n1,500;2,250\n")
    (doubt,) = found.recipe.doubts
    assert doubt.text.startswith("1,500 in row 1 of x is read as 1.5;")
    assert doubt.other == "Read 1,500 as 1500"
    other = read("x;y\n1,500;2,250\n", recipe=again(found, "decimal"))
    assert plain(other) == {"x": [1500], "y": [2250]}
    assert other.recipe.open_doubts() == []
    assert ready(plain_columns(found), found.recipe, "").notes == [doubt.text]
    assert ready(plain_columns(other), other.recipe, "").notes == []


TOPS: list[tuple[str, str, dict[str, list[Any]], list[str | None]]] = [
    ("units under the heads", "t;Q\ns;m³/s\n1;2\n3;4\n", {"t": [1, 3], "Q": [2, 4]}, ["s", "m³/s"]),
    ("units in brackets", "t,Q,site\n[s],(m^3/s),-\n1,2,a\n3,4,b\n", {"t": [1, 3], "Q": [2, 4], "site": ["a", "b"]}, ["s", "m^3/s", None]),
    ("a title above units", "Bench 4;;\nt;Q;T\ns;L/min;°C\n1;2;20\n3;4;21\n", {"t": [1, 3], "Q": [2, 4], "T": [20, 21]},
     ["s", "L/min", "°C"]),
    ("words and values above, as wide as the table", "Logger,7\nSite,weir\nBegin,2031-05-02\n\nh,Q\n1,2\n3,4\n5,6\n",
     {"h": [1, 3, 5], "Q": [2, 4, 6]}, [None, None]),
    ("a title line of many words", "The level at the weir\nkept by hand\nh Q\n1 2\n3 4\n5 6\n7 8\n", {"h": [1, 3, 5, 7], "Q": [2, 4, 6, 8]},
     [None, None]),
    ("heads that look like units", "h,m\n1,2\n3,4\n", {"h": [1, 3], "m": [2, 4]}, [None, None]),
    ("a bad first row", "h,Q\nten,100\n11,12\n13,14\n1,2\n5,6\n", {"h": [GAP, 11, 13, 1, 5], "Q": [100, 12, 14, 2, 6]}, [None, None]),
    ("a first row without values", "h,Q\nn/a,-\n11,12\n13,14\n", {"h": [GAP, 11, 13], "Q": [GAP, 12, 14]}, [None, None]),
    ("one column with decimal commas", "level\n1,5\n1,25\n", {"level": [1.5, 1.25]}, [None]),
    ("one column under a title", "bench\n\nlevel [m]\n1.5\n1.25\n", {"level": [1.5, 1.25]}, ["m"]),
    ("no heads, gaps first", "-,2\n3,4\n", {"c1": [GAP, 3], "c2": [2, 4]}, [None, None]),
]  # fmt: skip


@pytest.mark.parametrize(("text", "expected", "units"), [t[1:] for t in TOPS], ids=[t[0] for t in TOPS])
def test_heads_below_titles_and_units_below_heads(text: str, expected: dict[str, list[Any]], units: list[str | None]) -> None:
    found = read(text)
    assert plain(found) == expected
    assert [c.recipe.unit for c in found.columns] == units
    same = read(text, recipe=Recipe.from_record(found.recipe.as_record()))
    assert plain(same) == expected


CELLS: list[tuple[str, list[str], list[float], list[float] | None, str | None]] = [
    ("per cent", ["45 %", "50%", "12.5 %"], [45, 50, 12.5], None, "%"),
    ("a unit in each cell", ["2.5 cm", "3.0 cm", "1e1 cm"], [2.5, 3, 10], None, "cm"),
    ("last digits", ["2.50(5)", "0.123(12)", "1.0(1.5)", "3"], [2.5, 0.123, 1, 3], [0.05, 0.012, 1.5, 0], None),
    ("more or less", ["2.50±0.05", "3.1 +/- 0.2", "4 ± 1", "5"], [2.5, 3.1, 4, 5], [0.05, 0.2, 1, 0], None),
    ("last digits and a power", ["2.50(5)e3", "2.60(4)E+3"], [2500, 2600], [50, 40], None),
    ("a doubt and a unit", ["2.50 ± 0.05 mm", "2.60 ± 0.05 mm"], [2.5, 2.6], [0.05, 0.05], "mm"),
]


@pytest.mark.parametrize(("cells", "values", "errors", "unit"), [c[1:] for c in CELLS], ids=[c[0] for c in CELLS])
def test_cells_with_units_and_uncertainties(cells: list[str], values: list[float], errors: list[float] | None, unit: str | None) -> None:
    column = read("x;n\n" + "".join(f"{c};1\n" for c in cells)).columns[0]
    np.testing.assert_allclose(column.numbers, values, rtol=1e-15)
    assert column.bad == []
    assert column.recipe.unit == unit
    if errors is None:
        assert column.errors is None
    else:
        np.testing.assert_allclose(column.errors, errors, rtol=1e-12)
        assert column.recipe.uncertain


def test_uncertainties_are_packed_and_come_back() -> None:
    found = read("x,y\n2.50(5),1\n2.60(4),2\n")
    table = ready(plain_columns(found), found.recipe, found.sha256)
    back = unpacked(packed(table))
    np.testing.assert_allclose(back.columns[0].errors, [0.05, 0.04])
    assert back.columns[1].errors is None
    assert back.reading == table.reading
    assert table.reading["decimal"] == "."
    assert table.reading["columns"][0] == {"source": "x", "name": "x", "kind": "number", "uncertain": True}


TIMES: list[tuple[str, list[str], str, list[float]]] = [
    ("with a zone", ["2031-05-02T06:00:00+02:00", "2031-05-02T07:30:00+02:00"], "seconds since 2031-05-02 00:00", [14400, 19800]),
    ("in several zones", ["2031-05-02T06:00:00Z", "2031-05-02T09:00:00+02:00"], "seconds since 2031-05-02 00:00", [21600, 25200]),
    ("with a zone and no colon", ["2031-05-02 06:00 +0200", "2031-05-02 09:00 +0200"], "hours since 2031-05-02 00:00", [4, 7]),
    ("running beyond a day", ["23:30:00", "24:00:00", "49:15:00"], "hours since the start", [23.5, 24, 49.25]),
    ("running, with minutes", ["0:00", "30:15"], "hours since the start", [0, 30.25]),
    ("of a half day", ["11:30 AM", "12:15 PM", "3:00 PM"], "hours since midnight", [11.5, 12.25, 15]),
    ("two digits of a year", ["02.05.31", "04.05.31"], "hours since 2031-05-02 00:00", [0, 48]),
    ("months by name", ["2 May 2031", "3 May 2031"], "hours since 2031-05-02 00:00", [0, 24]),
    ("only the last tells the order", ["02/03/2031", "04/03/2031", "05/13/2031"], "days since 2031-02-03 00:00", [0, 59, 99]),
]


@pytest.mark.parametrize(("cells", "since", "values"), [t[1:] for t in TIMES], ids=[t[0] for t in TIMES])
def test_times_as_they_are_written(cells: list[str], since: str, values: list[float]) -> None:
    found = read("when;v\n" + "".join(f"{c};1\n" for c in cells))
    column = found.columns[0]
    assert (column.recipe.kind, column.recipe.since) == ("time", since)
    assert column.numbers == pytest.approx(values)
    assert found.recipe.doubts == []


def test_dates_that_read_either_way_are_told_with_the_other_order() -> None:
    text = "day,v\n02/03/2031,1\n05/03/2031,2\n"
    found = read(text)
    assert plain(found)["day"] == [0, 72]
    (doubt,) = found.recipe.doubts
    assert doubt.text == "day: every date reads either way; '02/03/2031' is taken with the day before month"
    other = read(text, recipe=again(found, doubt.key))
    assert other.columns[0].recipe.since == "days since 2031-02-03 00:00"
    assert plain(other)["day"] == [0, 89]
    assert other.recipe.open_doubts() == []
    assert read("day,v\n02/02/2031,1\n03/03/2031,2\n").recipe.doubts == []


DOUBTS: list[tuple[str, str, str, list[Any]]] = [
    ("a sign for no value", "h,Q\n1,0.5\n2,-999\n3,0.7\n4,0.6\n", "−999 stands in row 2 of Q, far from all",
     [0.5, GAP, 0.7, 0.6]),
    ("several of them", "h,Q\n1,0.5\n2,-99.99\n3,-99.99\n4,0.6\n5,0.4\n", "−99.99 stands in 2 rows (the first is 2) of Q",
     [0.5, GAP, GAP, 0.6, 0.4]),
    ("a column that turns into text", "h,Q\n1,0.5\n2,low\n3,high\n4,0.6\n", "Q is read as text: row 2 holds 'low', and 1 more is no number",
     [0.5, GAP, GAP, 0.6]),
    ("more digits than a number keeps", "n,Q\n1,9007199254740993\n2,5\n", "Q: '9007199254740993' in row 1 has more digits",
     ["9007199254740993", "5"]),
    ("units that might be codes", "n,Q\n1,10 m\n2,12 m\n", "Q: each cell carries 'm', which is taken as the unit", ["10 m", "12 m"]),
]  # fmt: skip


@pytest.mark.parametrize(("text", "told", "other"), [d[1:] for d in DOUBTS], ids=[d[0] for d in DOUBTS])
def test_doubts_are_told_and_the_other_reading_is_one_step_away(text: str, told: str, other: list[Any]) -> None:
    found = read(text)
    (doubt,) = found.recipe.doubts
    assert doubt.text.startswith(told)
    changed = read(text, recipe=again(found, doubt.key))
    assert plain(changed)["Q"] == other
    assert changed.recipe.open_doubts() == []


def test_numbers_that_only_look_like_a_sign_for_no_value_are_not_doubted() -> None:
    for cells in ("990", "999", "1005", "1010"), ("-999", "-500", "0", "500"), ("99", "1", "2", "3"):
        assert read("n,Q\n" + "".join(f"1,{c}\n" for c in cells)).recipe.doubts == []


def test_words_behind_numbers_are_no_units() -> None:
    for cells in (["12 Main Street", "14 Main Street"], ["1.5 metres of thing", "2.5 metres of thing"], ["12-31-x9", "13-31-x9"]):
        column = read("where;n\n" + "".join(f"{c};1\n" for c in cells)).columns[0]
        assert (column.recipe.kind, column.texts) == ("text", cells)
    found = read("Yield (total);Q [trout];x (kg)\n1;2;3\n")
    assert [(c.recipe.name, c.recipe.unit) for c in found.columns] == [("Yield (total)", None), ("Q", "trout"), ("x", "kg")]


def test_the_same_head_twice_is_told() -> None:
    found = read("x,x\n1,2\n")
    assert [d.text for d in found.recipe.doubts] == ["the head 'x' stands there more than once: the next one is called 'x 2'"]


def sheet(rows: list[list[Any]]) -> bytes:
    book = Workbook()
    for row in rows:
        book.active.append(row)  # type: ignore[union-attr]
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_a_sheet_with_a_title_units_running_times_and_formulas() -> None:
    found = read(sheet([
        ["Bench 4"], [], ["t", "h", "Q", "late"], ["-", "cm", "L/s", "-"], [1, 2.5, "=B5*2", timedelta(hours=25)],
        [2, "3,5", 4, timedelta(hours=26, minutes=30)],
    ]))  # fmt: skip
    t, h, q, late = found.columns
    assert t.numbers.tolist() == [1, 2]
    assert (h.numbers.tolist(), h.recipe.unit) == ([2.5, 3.5], "cm")
    assert q.bad == [(1, "=B5*2")]
    assert q.recipe.kind == "number"
    assert late.recipe.kind == "time"
    np.testing.assert_allclose(np.diff(late.numbers), [1.5] if "hours" in str(late.recipe.since) else [5400])
    assert [d.key for d in found.recipe.doubts] == ["formulas:Q"]
    assert "open the file in the program that wrote it" in found.recipe.doubts[0].text
    same = read(sheet([["h"], [1]]), recipe=None)
    assert plain(same) == {"h": [1]}


def test_whole_numbers_of_a_parquet_file_that_no_double_holds_are_told() -> None:
    out = io.BytesIO()
    pl.DataFrame({"n": [2**53 + 1, 4], "Q": [0.5, -999.0]}).write_parquet(out)
    assert [d.key for d in read(out.getvalue(), "t.parquet").recipe.doubts] == ["digits:n"]


@pytest.mark.parametrize(
    "wrong", [{"skip": "many"}, {"columns": [{"source": 1}]}, {"excluded": "5"}, {"delimiter": None}, {"strange": 1}, []],
)  # fmt: skip
def test_a_recipe_of_wrong_types_is_no_recipe(wrong: Any) -> None:
    base = Recipe().as_record()
    with pytest.raises(ValueError, match=r"validation error"):
        Recipe.from_record({**base, **wrong} if isinstance(wrong, dict) else wrong)


def test_a_recipe_without_columns_says_how_a_text_is_written() -> None:
    found = read("a;b\n1,500;2\n", recipe=Recipe(delimiter=";", decimal=".", settled=["decimal"]))
    assert plain(found) == {"a": [1500], "b": [2]}
