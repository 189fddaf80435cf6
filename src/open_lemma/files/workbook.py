"""Sheets of .xlsx workbooks (ISO/IEC 29500) as tables, and cells that have kinds of their own."""

from __future__ import annotations

import io
import math
import re
import zipfile
from collections.abc import Sequence
from datetime import UTC, date, datetime, time, timedelta
from typing import Any

import numpy as np

from .columns import MOSTLY, BadTable, ReadColumn, ReadTable, Unread, column_name, column_of, counted, guessed, sources_of
from .doubts import decimal_sign
from .heads import head_and_unit, layout, written_unit
from .limits import MAX_COLUMNS, MAX_ROWS, MAX_UNPACKED, first_line
from .recipe import ColumnRecipe, Recipe

_LOOKED_AT = 200  # rows that tell where the table begins


def _checked_archive(data: bytes) -> None:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            size = sum(i.file_size for i in archive.infolist())
            names = set(archive.namelist())
    except (zipfile.BadZipFile, OSError, ValueError) as trouble:
        raise BadTable(f"the workbook is damaged: {first_line(trouble)}") from None
    if "xl/workbook.xml" not in names:
        raise BadTable("this archive is no workbook; known are text tables, .xlsx, JSON and Parquet")
    if size > MAX_UNPACKED:
        raise BadTable(f"the workbook unpacks to {size // 1_000_000} MB, which is more than a table needs")


def read_workbook(data: bytes, recipe: Recipe | None, most: int | None) -> ReadTable:
    from openpyxl import load_workbook
    from openpyxl.utils.exceptions import InvalidFileException

    _checked_archive(data)
    found = recipe if recipe is not None else Recipe()
    found.format = "xlsx"
    try:
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True)
        found.sheets = list(book.sheetnames)
        wanted = found.sheet or found.sheets[0]
        if wanted not in found.sheets:
            raise BadTable(f"the workbook has no sheet '{wanted}'; it has {', '.join(found.sheets)}")
        found.sheet = wanted
        rows = _sheet_rows(book[wanted], found, most)
        book.close()
        if _has_formulas(data):
            book = load_workbook(io.BytesIO(data), read_only=True)
            _mark_unread(rows, _sheet_rows(book[wanted], found, most))
            book.close()
    except BadTable:
        raise
    except (
        InvalidFileException,
        KeyError,
        ValueError,
        TypeError,
        IndexError,
        AttributeError,
        OSError,
        SyntaxError,
        zipfile.BadZipFile,
    ) as trouble:
        raise BadTable(f"the workbook cannot be read: {first_line(trouble)}") from None
    rows = _cropped(rows)
    if not rows:
        raise BadTable(f"the sheet '{found.sheet}' is empty")
    if recipe is None or not recipe.columns:
        where = layout([["" if isinstance(c, Unread) else cell_text(c) for c in row] for row in rows[:_LOOKED_AT]])
        found.header, found.units_row = where.heads is not None, where.units is not None
        found.skip = where.body if where.heads is None else where.heads
    rows = rows[found.skip :]
    if not rows:
        raise BadTable(f"the sheet '{found.sheet}' has fewer than {found.skip} rows")
    heads = [cell_text(c).strip() for c in rows[0]] if found.header else [f"c{k}" for k in range(1, len(rows[0]) + 1)]
    below = [written_unit(cell_text(c)) or "" for c in rows[1]] if found.units_row and len(rows) > 1 else []
    found.doubts = []
    return from_cells(found, heads, rows[int(found.header) + int(found.units_row) :], below)


def _has_formulas(data: bytes) -> bool:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        for part in archive.namelist():
            if not part.startswith("xl/worksheets/") or not part.endswith(".xml"):
                continue
            with archive.open(part) as file:
                last = b""
                while chunk := file.read(1 << 20):
                    if re.search(rb"<f[ >]", last + chunk):
                        return True
                    last = chunk[-2:]
    return False


def _mark_unread(rows: list[list[Any]], written: list[list[Any]]) -> None:
    """Cells with a formula whose result the file does not hold."""
    for row, cells in zip(rows, written, strict=False):
        for k, cell in enumerate(cells):
            if k < len(row) and row[k] is None and isinstance(cell, str) and cell.startswith("="):
                row[k] = Unread(cell)


_RANGE = re.compile(r"([A-Z]{1,3})([0-9]{1,7}):([A-Z]{1,3})([0-9]{1,7})\Z")


def _sheet_rows(sheet: Any, recipe: Recipe, most: int | None) -> list[list[Any]]:
    bounds: dict[str, int] = {}
    if recipe.cells:
        match = _RANGE.match(recipe.cells.upper().replace("$", ""))
        if match is None:
            raise BadTable(f"'{recipe.cells}' is no range of cells; write it like B3:F40")
        from openpyxl.utils import column_index_from_string as column

        a, top, b, bottom = match.groups()
        bounds = {"min_row": int(top), "max_row": int(bottom), "min_col": column(a), "max_col": column(b)}
    rows: list[list[Any]] = []
    for row in sheet.iter_rows(values_only=True, **bounds):
        if len(row) > 16_000:
            raise BadTable("the sheet is far too wide; say a range of cells such as B3:F40")
        rows.append(list(row))
        if len(rows) > MAX_ROWS + 1:
            raise BadTable(f"the sheet has more than {MAX_ROWS} rows; say a range of cells")
        if most is not None and len(rows) > most:
            break
    return rows


def _cropped(rows: list[list[Any]]) -> list[list[Any]]:
    """Without empty rows and columns around the table."""
    while rows and all(c is None for c in rows[-1]):
        rows.pop()
    while rows and all(c is None for c in rows[0]):
        rows.pop(0)
    width = max((k + 1 for row in rows for k, c in enumerate(row) if c is not None), default=0)
    first = min((k for row in rows for k, c in enumerate(row) if c is not None), default=0)
    if width - first > MAX_COLUMNS:
        raise BadTable(f"the sheet has {width - first} columns; at most {MAX_COLUMNS} are possible")
    return [(row + [None] * width)[first:width] for row in rows]


def from_cells(recipe: Recipe, heads: Sequence[str], rows: Sequence[Sequence[Any]], units: Sequence[str] = ()) -> ReadTable:
    """Cells that have kinds of their own: numbers, times, truth, texts."""
    sources = sources_of(heads, recipe)
    if not recipe.columns and "decimal" not in recipe.settled:
        _find_decimal(recipe, sources, rows)
    obeyed = {c.source: c for c in recipe.columns}
    names: set[str] = set()
    found = []
    for k, source in enumerate(sources):
        cells = [row[k] for row in rows]
        found.append(_of_kinds(obeyed.get(source), source, cells, recipe, names, units[k] if k < len(units) else ""))
    recipe.columns = [c.recipe for c in found]
    return ReadTable(recipe, found)


def _find_decimal(recipe: Recipe, sources: Sequence[str], rows: Sequence[Sequence[Any]]) -> None:
    """Numbers that stand there as texts may be written with a comma."""
    import polars as pl

    texts = [[row[k] for row in rows if isinstance(row[k], str) and not isinstance(row[k], Unread)] for k in range(len(sources))]
    recipe.decimal, doubt = decimal_sign([pl.Series(t, dtype=pl.String) for t in texts], sources, ";")
    if doubt is not None:
        recipe.doubts.append(doubt)


def _of_kinds(known: ColumnRecipe | None, source: str, cells: list[Any], recipe: Recipe, names: set[str], unit_below: str) -> ReadColumn:
    filled = [c for c in cells if c is not None and c != ""]
    times = [c for c in filled if isinstance(c, date | time | timedelta)]
    if (known is None and filled and len(times) >= MOSTLY * len(filled)) or (known is not None and known.kind == "time" and times):
        if known is None:
            head, _ = head_and_unit(source)
            known = ColumnRecipe(source, column_name(head, names), "time")
        days = any(isinstance(c, date) for c in times)
        running = any(isinstance(c, timedelta) for c in times)
        seconds = np.array([_seconds(c) for c in cells])
        return counted(known, seconds, ["" if c is None else c for c in cells], None if days else "the start" if running else "midnight")
    texts = [c if isinstance(c, Unread) else cell_text(c, recipe.decimal) for c in cells]
    return column_of(known or guessed(source, texts, recipe, names, unit_below), texts, recipe)


def _seconds(cell: Any) -> float:
    if isinstance(cell, datetime):
        return (cell if cell.tzinfo else cell.replace(tzinfo=UTC)).timestamp()
    if isinstance(cell, date):
        return datetime(cell.year, cell.month, cell.day, tzinfo=UTC).timestamp()
    if isinstance(cell, time):
        return cell.hour * 3600 + cell.minute * 60 + cell.second + cell.microsecond / 1e6
    if isinstance(cell, timedelta):
        return cell.total_seconds()
    return math.nan


def cell_text(cell: Any, decimal: str = ".") -> str:
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "true" if cell else "false"
    if isinstance(cell, float):
        return repr(cell).replace(".", decimal)
    return str(cell)
