"""Files as tables: ways of writing them that are found out, bad cells, hostile files; and tables out and in again."""

from __future__ import annotations

import io
import json
import zipfile
from contextlib import suppress
from datetime import datetime
from typing import Any

import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from openpyxl import Workbook

from open_lemma.files.columns import BadTable, ReadTable
from open_lemma.files.formats import TABLE_TYPES as FORMATS
from open_lemma.files.ready import packed, plain_columns, ready, unpacked
from open_lemma.files.recipe import Computed, Correction, Recipe
from open_lemma.files.summary import summary
from open_lemma.files.tables import read_table
from open_lemma.files.writing import table_file

GAP = None


def plain(table: ReadTable) -> dict[str, list[Any]]:
    return {
        c.recipe.name: c.texts if c.texts is not None else [None if v != v else v for v in c.numbers.tolist()] for c in table.columns
    }  # fmt: skip


def read(data: str | bytes, name: str = "t.csv", recipe: Recipe | None = None) -> ReadTable:
    return read_table(data.encode() if isinstance(data, str) else data, name, recipe)


WRITTEN: list[tuple[str, str | bytes, dict[str, list[Any]]]] = [
    ("commas", "h,Q\n0.1,0.02\n0.2,0.05\n", {"h": [0.1, 0.2], "Q": [0.02, 0.05]}),
    ("semicolons and decimal commas", "h;Q\n0,1;0,02\n0,2;-\n", {"h": [0.1, 0.2], "Q": [0.02, GAP]}),
    ("tabs", "h\tQ\n1e-3\t2\n2\t3\n", {"h": [0.001, 2], "Q": [2, 3]}),
    ("blanks in columns", "a   b    c\n1   2    3\n4  5 6\n", {"a": [1, 4], "b": [2, 5], "c": [3, 6]}),
    ("bars", "a|b\n1|2\n", {"a": [1], "b": [2]}),
    ("no heads", "1,2\n3,4\n", {"c1": [1, 3], "c2": [2, 4]}),
    ("remarks and a preamble", "# logger 7\n# sill\nx;y\n1;2\n# in between\n3;4\n", {"x": [1, 3], "y": [2, 4]}),
    ("lines above the table", "Station\n\nx,y\n1,2\n3,4\n5,6\n", {"x": [1, 3, 5], "y": [2, 4, 6]}),
    ("quoted texts", '"x","note"\n1,"a, b"\n2,"c ""d"""\n', {"x": [1, 2], "note": ["a, b", 'c "d"']}),
    ("a quoted line break", '"x","note"\n1,"a\nb"\n2,"c"\n', {"x": [1, 2], "note": ["a\nb", "c"]}),
    ("groups of thousands", "x;y\n1.234,5;2\n3.000,1;4\n", {"x": [1234.5, 3000.1], "y": [2, 4]}),
    ("a true minus, a plus, powers", "x;y\n1e5;−2\n+3;4E-2\n", {"x": [1e5, 3], "y": [-2, 0.04]}),
    ("one column", "level\n1.5\n1.25\n", {"level": [1.5, 1.25]}),
    ("carriage returns", "x,y\r\n1,2\r\n3,4\r\n", {"x": [1, 3], "y": [2, 4]}),
    ("the same head twice", "x,x,\n1,2,3\n", {"x": [1], "x 2": [2], "c3": [3]}),
    ("UTF-16", "größe,y\n1,2\n".encode("utf-16"), {"größe": [1], "y": [2]}),
    ("an old encoding", "größe;y\n1;2\n".encode("cp1252"), {"größe": [1], "y": [2]}),
    ("records", b'[{"h": 1, "Q": 2.5}, {"h": 2, "Q": null}, {"h": 3, "site": "sill"}]',
     {"h": [1, 2, 3], "Q": [2.5, GAP, GAP], "site": ["", "", "sill"]}),
    ("columns in JSON", b'{"data": [{"a": 1}, {"a": 2}]}', {"a": [1, 2]}),
    ("lists in JSON", b'{"a": [1, 2], "b": ["x", "y"]}', {"a": [1, 2], "b": ["x", "y"]}),
]  # fmt: skip


@pytest.mark.parametrize(("data", "expected"), [w[1:] for w in WRITTEN], ids=[w[0] for w in WRITTEN])
def test_ways_of_writing_are_found_out(data: str | bytes, expected: dict[str, list[Any]]) -> None:
    assert plain(read(data)) == expected


@pytest.mark.parametrize(
    ("head", "name", "unit"),
    [
        ("Q [m^3/s]", "Q", "m^3/s"), ("Q (m³/s)", "Q", "m³/s"), ("h / m", "h", "m"), ("t in h", "t", "h"), ("alpha", "alpha", None),
        ("ratio (a to b)", "ratio (a to b)", None), ("α [deg]", "alpha", "deg"), ("water level", "water level", None), ("to", "to_", None),
    ],
)  # fmt: skip
def test_heads_and_units(head: str, name: str, unit: str | None) -> None:
    (column, _) = read(f'"{head}",other\n1,2\n').columns
    assert (column.recipe.name, column.recipe.unit) == (name, unit)


@pytest.mark.parametrize(
    ("cells", "since", "values"),
    [
        (["2031-05-02 06:00", "2031-05-02 07:30", "2031-05-04 00:00"], "hours since 2031-05-02 00:00", [6, 7.5, 48]),
        (["02.05.2031", "01.06.2031", "02.12.2031"], "days since 2031-05-02 00:00", [0, 30, 214]),
        (["2031-05-02T06:00:00.5", "2031-05-02T06:00:01.25"], "seconds since 2031-05-02 00:00", [21600.5, 21601.25]),
        (["12:00", "12:30"], "seconds since midnight", [43200, 45000]),
        (["13/02/2031 05:00", "14/02/2031 05:00"], "hours since 2031-02-13 00:00", [5, 29]),
    ],
)
def test_dates_and_times_are_counted_from_a_moment_that_is_said(cells: list[str], since: str, values: list[float]) -> None:
    column = read("when;v\n" + "".join(f"{c};1\n" for c in cells)).columns[0]
    assert column.recipe.kind == "time"
    assert column.recipe.since == since
    assert column.numbers == pytest.approx(values)


def test_bad_cells_are_told_by_row_and_nothing_is_dropped() -> None:
    found = read("h,Q\n" + "".join(f"{k},{k * k}\n" for k in range(9)) + "ten,100\n11,n/a\n12,1.2.3\n")
    h, q = found.columns
    assert h.bad == [(10, "ten")]
    assert q.bad == [(12, "1.2.3")]
    assert found.rows == 12
    table = ready(plain_columns(found), found.recipe, found.sha256)
    assert table.notes == [
        "1 cell of h is no number: row 10 'ten'; taken as gaps",
        "1 cell of Q is no number: row 12 '1.2.3'; taken as gaps",
    ]


REFUSED = [
    (b"", "the file is empty"),
    (b"\x00\x01\x02\x00" * 9, "zero bytes"),
    (b"x,y\n1,2\n3\n", "line 3 has 1 cells and the heads are 2"),
    (b"x,y\n1,2\n3,4,5\n", "line 3 has 3 cells and the heads are 2"),
    (b'[{"a": [1]}]', "record 1 holds a list or a record under 'a'"),
    (b"[1, 2]", "a list of records"),
    (b'{"a": [1, 2], "b": [1]}', "different lengths"),
    (b'[{"a": 1}', "this is no JSON"),
    (b"[" * 100_000, "nested too deeply"),
    (b"PK\x03\x04 but no archive", "damaged"),
    (b"PAR1" + b"\x00" * 40 + b"PAR1", "Parquet"),
    (b"\xd0\xcf\x11\xe0" + b"\x00" * 600, "save it as .xlsx"),
    ((",".join(f"c{k}" for k in range(300)) + "\n").encode(), "at most 200"),
]


@pytest.mark.parametrize(("data", "phrase"), REFUSED, ids=[r[1] for r in REFUSED])
def test_broken_and_hostile_files_get_a_sentence(data: bytes, phrase: str) -> None:
    with pytest.raises(BadTable, match=phrase.replace("[", r"\[").replace(".", r"\.")):
        read(data)


def test_an_archive_that_unpacks_without_end_is_refused() -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/workbook.xml", b"0")
        for k in range(4):
            with archive.open(f"xl/part{k}.xml", "w", force_zip64=True) as part:
                for _ in range(500):
                    part.write(b"0" * 1_000_000)
    assert len(out.getvalue()) < 5_000_000
    with pytest.raises(BadTable, match="unpacks to"):
        read(out.getvalue())


@settings(deadline=None, max_examples=150)
@given(st.binary(max_size=400))
def test_no_bytes_do_more_than_be_refused(data: bytes) -> None:
    for head in (b"", b"h,Q\n", b"PAR1", b"PK\x03\x04", b"[{"):
        with suppress(BadTable):
            assert read(head + data).rows >= 0


# ---------------------------------------------------------------- workbooks, Parquet


def workbook() -> bytes:
    book = Workbook()
    book.active.title = "notes"  # type: ignore[union-attr]
    book.active["B2"] = "nothing here"  # type: ignore[union-attr, index]
    sheet = book.create_sheet("bench")
    sheet.append(["made up"])
    sheet.append([])
    for row in (["h [m]", "Q", "time"], [0.1, 0.02, datetime(2031, 5, 2, 6)], [0.2, "x", datetime(2031, 5, 2, 9)]):
        sheet.append([None, *row])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_a_sheet_and_a_range_of_a_workbook() -> None:
    first = read(workbook())
    assert first.recipe.sheets == ["notes", "bench"]
    found = read(workbook(), recipe=Recipe(format="xlsx", sheet="bench", cells="B3:D5"))
    assert plain(found) == {"h": [0.1, 0.2], "Q": ["0.02", "x"], "time": [6, 9]}
    assert found.columns[0].recipe.unit == "m"
    assert found.columns[2].recipe.since == "hours since 2031-05-02 00:00"
    with pytest.raises(BadTable, match="no range"):
        read(workbook(), recipe=Recipe(format="xlsx", sheet="bench", cells="B3"))
    with pytest.raises(BadTable, match="no sheet 'other'"):
        read(workbook(), recipe=Recipe(format="xlsx", sheet="other"))


def test_parquet_with_its_kinds() -> None:
    times = [datetime(2031, 5, 2, 1), datetime(2031, 5, 2, 2)]
    frame = pl.DataFrame({"h [m]": [0.1, None], "n": [1, 2], "site": ["sill", None], "time": times})
    out = io.BytesIO()
    frame.write_parquet(out)
    found = read(out.getvalue(), "t.parquet")
    assert plain(found) == {"h": [0.1, None], "n": [1, 2], "site": ["sill", ""], "time": [3600, 7200]}
    nested = io.BytesIO()
    pl.DataFrame({"a": [[1, 2]]}).write_parquet(nested)
    with pytest.raises(BadTable, match="each value must be"):
        read(nested.getvalue())


# ---------------------------------------------------------------- recipes


def test_a_recipe_is_obeyed_and_reads_the_same_again() -> None:
    data = "a;b\n1,5;x\n2,5;y\n"
    first = read(data)
    again = read(data, recipe=Recipe.from_record(json.loads(json.dumps(first.recipe.as_record()))))
    assert plain(again) == plain(first) == {"a": [1.5, 2.5], "b": ["x", "y"]}
    other = Recipe.from_record(first.recipe.as_record())
    other.columns[0].name, other.columns[0].unit, other.columns[0].kind = "depth", "m", "text"
    assert plain(read(data, recipe=other)) == {"depth": ["1,5", "2,5"], "b": ["x", "y"]}
    with pytest.raises(BadTable, match="no column 'b'"):
        read("a;c\n1;2\n", recipe=Recipe.from_record(first.recipe.as_record()))


def test_what_is_mended_is_kept_beside_the_file() -> None:
    found = read("h,Q\n1,10\n2,20\n3,abc\n4,40\n5,50\n6,60\n")
    found.recipe.corrections = [Correction(3, "Q", 30.0), Correction(1, "h", None)]
    found.recipe.excluded = [5]
    found.recipe.computed = [Computed("ratio", "Q/h")]
    table = ready(plain_columns(found), found.recipe, found.sha256)
    h, q = table.columns
    np.testing.assert_array_equal(h.data, [np.nan, 2, 3, 4, np.nan, 6])
    np.testing.assert_array_equal(q.data, [10, 20, 30, 40, np.nan, 60])
    np.testing.assert_array_equal(q.hidden, [np.nan] * 4 + [50] + [np.nan])
    assert table.notes == []
    assert table.computed == [("ratio", "Q/h", None)]
    assert set(table.mending) == {"corrections", "excluded", "computed"}
    back = unpacked(packed(table))
    np.testing.assert_array_equal(back.columns[1].data, q.data)
    np.testing.assert_array_equal(back.columns[1].hidden, q.hidden)
    assert (back.fingerprint, back.mending, back.computed) == (table.fingerprint, table.mending, table.computed)


# ---------------------------------------------------------------- out, and in again

NUMBERS = st.floats(-1e300, 1e300)
_WORDS_OF_GAPS = ("na", "nan", "gap", "none", "null", "n/a")
TEXTS = (
    st.text(st.characters(codec="utf-8", exclude_categories=["Cc", "Cs"]), min_size=1, max_size=12)
    .map(str.strip)
    .filter(lambda t: t and not any(c.isdigit() for c in t) and t[0] not in "#%/=+-@'\"" and t.lower() not in _WORDS_OF_GAPS)
)


@settings(deadline=None, max_examples=40)
@given(st.lists(st.tuples(NUMBERS | st.none(), TEXTS), min_size=2, max_size=12), st.sampled_from(sorted(FORMATS)))
def test_a_table_written_and_read_is_the_same(rows: list[tuple[float | None, str]], fmt: str) -> None:
    if all(v is None for v, _ in rows):
        rows[0] = (1.5, rows[0][1])
    numbers = np.array([np.nan if v is None else v for v, _ in rows])
    texts = [t for _, t in rows]
    data = table_file([("h", "m", numbers), ("site", None, texts)], fmt, "t")
    assert data == table_file([("h", "m", numbers), ("site", None, texts)], fmt, "t")
    found = read(data, f"t.{fmt}")
    h, site = found.columns
    assert h.recipe.name == "h"
    assert h.recipe.unit == "m"
    # A workbook is written with 16 digits; the other formats hold every double.
    np.testing.assert_allclose(h.numbers, numbers, rtol=1e-15 if fmt == "xlsx" else 0)
    assert [t.strip() for t in site.texts or []] == texts


def test_a_column_at_a_glance() -> None:
    found = summary(np.array([1.0, 2.0, np.nan, 4.0]), None)
    assert (found["count"], found["gaps"], found["low"], found["high"], found["median"]) == (3, 1, 1, 4, 2)
    assert found["mean"] == pytest.approx(7 / 3)
    assert sum(found["bins"]) == 3
    assert summary(None, ["a", "b", "a", ""]) == {"count": 3, "gaps": 1, "distinct": 2, "common": [["a", 2], ["b", 1]]}
