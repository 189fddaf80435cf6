"""What goes into spreadsheets: nothing that they would carry out, and nothing that is altered for those who read numbers."""

from __future__ import annotations

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import load_workbook

from open_lemma.core.figure.about import About
from open_lemma.files.guarding import for_workbook, guarded
from open_lemma.files.numbers import as_csv, as_xlsx
from open_lemma.files.writing import table_file

# OWASP, "CSV Injection", and what of the kind is passed around.
FORMULAS = [
    "=1+1", "=HYPERLINK(A1)", "@SUM(1)", "+SUM(A1:A2)", "-2+3+cmd|' /C calc'!A0", "=cmd|' /C calc'!A0", "\t=1+1", "\r=1+1", "-(1)", "＝1+1",
    "+x[1]", "-{1}", "\n=1",
]  # fmt: skip
DATA = ["-x", "+ve", "-", "x = 1", "-12.5", "+3e-7", "−4", "1-2", "- 3 dB", "a@b", "weir (north)", "'quoted'", ""]


@pytest.mark.parametrize("text", FORMULAS)
def test_what_could_do_something_stands_behind_an_apostrophe(text: str) -> None:
    assert guarded(text) == f"'{text}"


@pytest.mark.parametrize("text", DATA)
def test_what_can_do_nothing_is_as_it_was(text: str) -> None:
    assert guarded(text) == text


@given(st.floats() | st.integers(-(10**30), 10**30))
def test_numbers_are_never_touched(value: float) -> None:
    assert guarded(repr(value)) == repr(value)


@given(st.text(max_size=30))
def test_a_guarded_text_begins_no_formula(text: str) -> None:
    assert guarded(text)[:1] not in tuple("=@\t\r\n")
    assert guarded(text) in (text, f"'{text}")


def test_heads_are_guarded_too_and_columns_stay_where_they_are() -> None:
    data = as_csv([("=2+5+cmd|' /C calc'!A0", ["-x", "=1", None]), ("h", [-1.5, 2.0, None])]).decode()
    rows = list(csv.reader(io.StringIO(data)))
    assert rows == [["'=2+5+cmd|' /C calc'!A0", "h"], ["-x", "-1.5"], ["'=1", "2.0"], ["", ""]]
    assert table_file([("=A1", "m", ["@x"])], "csv", "t").decode().splitlines() == ["'=A1 [m]", "'@x"]


def test_a_workbook_holds_texts_as_texts_whatever_is_in_them() -> None:
    data = as_xlsx([("=1+1\x0b", ["=2\x00", "-x", 3.0])], "a\x01/b", About(1, 2, "f\x02", "0"))
    sheet = load_workbook(io.BytesIO(data)).active
    assert sheet is not None
    cells = [sheet.cell(k, 1) for k in range(1, 5)]
    assert [c.value for c in cells] == ["=1+1 ", "=2 ", "-x", 3]
    assert [c.data_type for c in cells[:3]] == ["s"] * 3


@given(st.text(max_size=40))
def test_any_text_goes_into_a_workbook(text: str) -> None:
    sheet = load_workbook(io.BytesIO(as_xlsx([(text or "h", [text or "x"])], text))).active
    assert sheet is not None
    found = str(sheet.cell(2, 1).value)
    # XML's own readings of ends of lines (XML 1.0, section 2.11) aside.
    assert found.replace("\r\n", "\n").replace("\r", "\n") == for_workbook(text or "x").replace("\r\n", "\n").replace("\r", "\n")
