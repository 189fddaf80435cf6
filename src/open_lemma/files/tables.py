"""Files as tables: text with delimiters, .xlsx (ISO/IEC 29500), JSON records (RFC 8259), Apache Parquet.

What cannot be read as its column's kind is told by row with what was found there; nothing is dropped. A file that is broken,
too large or made to do harm raises BadTable with a sentence for its owner.
"""

from __future__ import annotations

import csv
import hashlib
import io
import json
import math
import re
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, time
from typing import Any

import numpy as np

from ..core.language.vocabulary.names import RESERVED, canonical_name
from .detect import MISSING, cells_of, decoded, head_and_unit, plain_number, sniffed, time_format
from .recipe import ColumnRecipe, Kind, Recipe

MAX_ROWS, MAX_COLUMNS = 1_000_000, 200
MAX_UNPACKED = 1_500_000_000  # bytes of an archive's parts together
MAX_BAD = 1_000  # bad cells of one column that are told
_MOSTLY = 0.8  # of the cells of a column must be of its kind
_TIMES_LOOKED_AT = 200
_SECONDS = {"seconds": 1.0, "minutes": 60.0, "hours": 3600.0, "days": 86_400.0}
_UNITS = {"seconds": "s", "minutes": "min", "hours": "h", "days": "d"}


class BadTable(Exception):
    """Why a file is no table; the text names the place and a way out."""


@dataclass
class ReadColumn:
    """numbers: doubles, NaN where there is a gap or a bad cell; texts: of a column of kind text. bad: (row from 1, what was found)."""

    recipe: ColumnRecipe
    numbers: Any = None
    texts: list[str] | None = None
    bad: list[tuple[int, str]] = field(default_factory=list)
    bad_count: int = 0

    @property
    def rows(self) -> int:
        return len(self.numbers) if self.numbers is not None else len(self.texts or ())


@dataclass
class ReadTable:
    recipe: Recipe
    columns: list[ReadColumn]
    sha256: str
    notes: list[str] = field(default_factory=list)

    @property
    def rows(self) -> int:
        return self.columns[0].rows if self.columns else 0


def read_table(data: bytes, name: str, recipe: Recipe | None = None, most: int | None = None) -> ReadTable:
    """A file as a table. Without a recipe it is found out; with one it is obeyed. `most`: read no more rows than that.

    Raises BadTable.
    """
    fingerprint = hashlib.sha256(data).hexdigest()
    kind = recipe.format if recipe is not None and recipe.columns else _format(data, name)
    reader = {"text": _from_text, "xlsx": _from_workbook, "json": _from_json, "parquet": _from_parquet}[kind]
    try:
        found = reader(data, recipe, most)
    except BadTable:
        raise
    except MemoryError:
        raise BadTable("the file is too large to be read here; leave out columns or rows") from None
    except RecursionError:
        raise BadTable("the file is nested too deeply to be a table") from None
    if not found.columns:
        raise BadTable("the file holds no columns")
    found.sha256 = fingerprint
    return found


def _format(data: bytes, name: str) -> str:
    if data.startswith(b"PK\x03\x04"):
        return "xlsx"
    if data.startswith(b"PAR1"):
        return "parquet"
    if data.startswith(b"\xd0\xcf\x11\xe0"):
        raise BadTable("this is a workbook of the old binary kind; save it as .xlsx and bring that in")
    if name.lower().endswith(".json") or data.lstrip()[:1] in (b"[", b"{"):
        return "json"
    return "text"


# ---------------------------------------------------------------- text


def _from_text(data: bytes, recipe: Recipe | None, most: int | None) -> ReadTable:
    try:
        text, encoding = decoded(data, recipe.encoding if recipe is not None and recipe.columns else None)
    except (UnicodeDecodeError, LookupError) as trouble:
        raise BadTable(f"the file does not read as {recipe.encoding if recipe else 'text'}: {trouble}") from None
    if "\x00" in text[:100_000]:
        raise BadTable("this is no text: it holds zero bytes; known are text tables, .xlsx, JSON and Parquet")
    if not text.strip():
        raise BadTable("the file is empty")
    found = recipe if recipe is not None and recipe.columns else sniffed(text)
    found.encoding, found.format = encoding, "text"
    return _typed(found, *_text_columns(text, found, most))


def _text_columns(text: str, recipe: Recipe, most: int | None) -> tuple[list[str], list[Any]]:
    """Heads, and columns of texts (Polars series)."""
    import polars as pl

    lines = _head_lines(text, recipe)
    if not lines:
        raise BadTable("the file holds no row")
    first = cells_of(lines[0], recipe.delimiter, recipe.quote)
    heads = [c.strip() for c in first] if recipe.header else [f"c{k}" for k in range(1, len(first) + 1)]
    if len(heads) > MAX_COLUMNS:
        raise BadTable(f"the file has {len(heads)} columns; at most {MAX_COLUMNS} are possible")
    body = _body(text, recipe)
    if recipe.delimiter == " ":
        body = "\n".join(" ".join(line.split()) for line in body.splitlines())
    schema = {f"column_{k}": pl.String for k in range(1, len(heads) + 1)}
    try:
        frame = pl.read_csv(
            io.BytesIO(body.encode()), separator=recipe.delimiter, has_header=False, schema=schema, quote_char=recipe.quote or None,
            comment_prefix=recipe.comment, empty_string_is_null=False, n_rows=(MAX_ROWS + 1) if most is None else most,
            raise_if_empty=False,
        )  # fmt: skip
    except pl.exceptions.PolarsError as trouble:
        raise BadTable(
            _where_it_breaks(text, recipe, len(heads)) or f"the file cannot be divided into columns: {_plain(trouble)}"
        ) from None
    if frame.height > MAX_ROWS:
        raise BadTable(f"the file has more than {MAX_ROWS} rows; take a part of it")
    short = _short_row(frame, body, recipe)
    if short:
        raise BadTable(short)
    return heads, [frame[c] for c in frame.columns]


def _head_lines(text: str, recipe: Recipe) -> list[str]:
    """The first lines of the table, comments and what stands above left out."""
    found = []
    for line in text[:1_000_000].splitlines()[recipe.skip :]:
        if line.strip() and not (recipe.comment and line.lstrip().startswith(recipe.comment)):
            found.append(line)
            if len(found) == 5:
                break
    return found


def _body(text: str, recipe: Recipe) -> str:
    """The text below the heads."""
    place = 0
    for _ in range(recipe.skip):
        end = text.find("\n", place)
        if end < 0:
            return ""
        place = end + 1
    while recipe.header:
        end = text.find("\n", place)
        line = text[place : end if end >= 0 else len(text)]
        place = end + 1 if end >= 0 else len(text)
        if end < 0 or (line.strip() and not (recipe.comment and line.lstrip().startswith(recipe.comment))):
            break
    return text[place:].replace("\r\n", "\n").replace("\r", "\n")


def _short_row(frame: Any, body: str, recipe: Recipe) -> str:
    """Rows with too few cells: the reader fills them up; here they are found, since nothing may be lost silently."""
    if not frame.height or not (frame[frame.columns[-1]].fill_null("") == "").any():
        return ""
    return _where_it_breaks_in(body, recipe, frame.width, recipe.skip + int(recipe.header))


def _where_it_breaks(text: str, recipe: Recipe, width: int) -> str:
    return _where_it_breaks_in(_body(text, recipe), recipe, width, recipe.skip + int(recipe.header))


def _where_it_breaks_in(body: str, recipe: Recipe, width: int, above: int) -> str:
    if recipe.delimiter == " ":
        rows: Any = (line.split() for line in body.splitlines())
    else:
        rows = csv.reader(io.StringIO(body), delimiter=recipe.delimiter, quotechar=recipe.quote or None,
                          quoting=csv.QUOTE_MINIMAL if recipe.quote else csv.QUOTE_NONE)  # fmt: skip
    try:
        for number, cells in enumerate(rows, 1):
            line = above + (rows.line_num if hasattr(rows, "line_num") else number)
            blank = not cells or cells == [""] or (recipe.comment is not None and cells[0].lstrip().startswith(recipe.comment))
            if not blank and len(cells) != width:
                return f"line {line} has {len(cells)} cells and the heads are {width}; mend the line, or say another delimiter"
    except csv.Error as trouble:
        return f"a quoted cell does not end: {trouble}"
    return ""


def _plain(trouble: Exception) -> str:
    return str(trouble).split("\n")[0][:160]


# ---------------------------------------------------------------- columns of texts


def _typed(recipe: Recipe, heads: Sequence[str], columns: list[Any]) -> ReadTable:
    """Columns with their kinds; a recipe with columns is obeyed, else kinds and units are found out."""
    obeyed = {c.source: c for c in recipe.columns}
    sources = _unique([h or f"c{k}" for k, h in enumerate(heads, 1)])
    if obeyed and set(obeyed) != set(sources):
        missing = sorted(set(obeyed) - set(sources))
        new = sorted(set(sources) - set(obeyed))
        raise BadTable(f"the file has no column '{missing[0]}'" if missing else f"the file has a new column '{new[0]}'")
    names: set[str] = set()
    found = []
    for source, cells in zip(sources, columns, strict=True):
        found.append(_column(obeyed.get(source) or _guessed(source, cells, recipe, names), cells, recipe))
    recipe.columns = [c.recipe for c in found]
    return ReadTable(recipe, found, "")


def _unique(names: Sequence[str]) -> list[str]:
    seen: dict[str, int] = {}
    found = []
    for name in names:
        seen[name] = seen.get(name, 0) + 1
        found.append(name if seen[name] == 1 else f"{name} {seen[name]}")
    return found


def _guessed(source: str, cells: Any, recipe: Recipe, taken: set[str]) -> ColumnRecipe:
    head, unit = head_and_unit(source)
    name = _name(head, taken)
    sample = _sample(cells)
    plain = [c for c in sample if c.strip().lower() not in MISSING]
    numbers = sum(plain_number(c, recipe.decimal) is not None for c in plain)
    kind: Kind = "number" if not plain or numbers >= _MOSTLY * len(plain) else "text"
    fmt = None
    if kind == "text" and (fmt := time_format(plain[:_TIMES_LOOKED_AT])) is not None:
        kind = "time"
    return ColumnRecipe(source, name, kind, unit if kind == "number" else None, format=fmt)


def _name(head: str, taken: set[str]) -> str:
    """A name for a column: as it stands where that is a name, else with its odd signs made blanks; each once."""
    name = canonical_name(head) if head.isidentifier() else re.sub(r'["\\\n\r\t]+', " ", head).strip() or "column"
    if name in RESERVED:
        name += "_"
    base, k = name, 2
    while name in taken:
        name, k = f"{base}_{k}", k + 1
    taken.add(name)
    return name


def _sample(cells: Any) -> list[str]:
    n = len(cells)
    if n <= 2_000:
        return [str(c) for c in cells]
    places = [int(k) for k in np.linspace(0, n - 1, 2_000)]
    return [str(cells[k]) for k in places]


def _column(recipe: ColumnRecipe, cells: Any, whole: Recipe) -> ReadColumn:
    import polars as pl

    text = cells if isinstance(cells, pl.Series) else pl.Series([str(c) for c in cells], dtype=pl.String)
    text = text.fill_null("").str.strip_chars()
    if recipe.kind == "text":
        return ReadColumn(recipe, None, text.to_list())
    if recipe.kind == "time":
        return _times(recipe, text)
    return _numbers(recipe, text, whole.decimal)


def _numbers(recipe: ColumnRecipe, text: Any, decimal: str) -> ReadColumn:
    import polars as pl

    plain = text.str.replace_all("−", "-", literal=True)
    if decimal == ",":
        plain = plain.str.replace_all(".", "", literal=True).str.replace_all(",", ".", literal=True)
    values = plain.cast(pl.Float64, strict=False)
    numbers = values.to_numpy().astype(float, copy=True)
    found = ReadColumn(recipe, numbers)
    # What the quick way did not understand is looked at one by one: thousands in groups, missing values, bad cells.
    for k in (values.is_null() | values.is_infinite()).arg_true().to_list():
        cell = text[k]
        numbers[k] = np.nan
        if cell.lower() in MISSING:
            continue
        value = plain_number(cell, decimal)
        if value is not None and math.isfinite(value):
            numbers[k] = value
        else:
            _bad(found, k, cell)
    return found


def _bad(column: ReadColumn, k: int, cell: str) -> None:
    column.bad_count += 1
    if len(column.bad) < MAX_BAD:
        column.bad.append((k + 1, cell[:80]))


def _times(recipe: ColumnRecipe, text: Any) -> ReadColumn:
    """Times as numbers counted from a moment that is said: from the first midnight, or as the recipe has it."""
    import polars as pl

    fmt = recipe.format or "%Y-%m-%d %H:%M:%S%.f"
    clock = "%Y" not in fmt
    if clock:
        parsed = text.str.strptime(pl.Time, fmt, strict=False)
        seconds = parsed.cast(pl.Int64).to_numpy().astype(float) / 1e9
    else:
        parsed = text.str.strip_suffix("Z").str.strptime(pl.Datetime("us"), fmt, strict=False)
        seconds = parsed.cast(pl.Int64).to_numpy().astype(float) / 1e6
    return _counted(recipe, np.where(parsed.is_null().to_numpy(), np.nan, seconds), text.to_list(), clock)


def _counted(recipe: ColumnRecipe, seconds: Any, cells: Sequence[Any], clock: bool) -> ReadColumn:
    good = seconds[np.isfinite(seconds)]
    found = ReadColumn(recipe, seconds.copy())
    for k in np.flatnonzero(~np.isfinite(seconds)).tolist():
        cell = str(cells[k]).strip()
        if cell.lower() not in MISSING:
            _bad(found, k, cell)
    if recipe.since is None and good.size:
        span = float(np.ptp(good))
        unit = "seconds" if span <= 7_200 else "hours" if span <= 60 * 86_400 else "days"
        midnight = 0.0 if clock else math.floor(float(good.min()) / 86_400) * 86_400
        moment = "midnight" if clock else datetime.fromtimestamp(midnight, UTC).strftime("%Y-%m-%d %H:%M")
        recipe.since = f"{unit} since {moment}"
    if recipe.since is not None:
        unit, _, moment = recipe.since.partition(" since ")
        if unit not in _SECONDS:
            raise BadTable(f"times are counted in {', '.join(_SECONDS)}; not in '{unit}'")
        found.numbers = (seconds - _moment(moment)) / _SECONDS[unit]
        recipe.unit = _UNITS[unit]
        recipe.description = recipe.description or recipe.since
    return found


def _moment(text: str) -> float:
    if text == "midnight":
        return 0.0
    try:
        return datetime.strptime(text, "%Y-%m-%d %H:%M").replace(tzinfo=UTC).timestamp()
    except ValueError:
        raise BadTable(f"'{text}' is no moment; write it like 2031-05-02 06:00") from None


# ---------------------------------------------------------------- .xlsx


def _checked_archive(data: bytes) -> None:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            size = sum(i.file_size for i in archive.infolist())
            names = set(archive.namelist())
    except (zipfile.BadZipFile, OSError, ValueError) as trouble:
        raise BadTable(f"the workbook is damaged: {_plain(trouble)}") from None
    if "xl/workbook.xml" not in names:
        raise BadTable("this archive is no workbook; known are text tables, .xlsx, JSON and Parquet")
    if size > MAX_UNPACKED:
        raise BadTable(f"the workbook unpacks to {size // 1_000_000} MB, which is more than a table needs")


def _from_workbook(data: bytes, recipe: Recipe | None, most: int | None) -> ReadTable:
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
        raise BadTable(f"the workbook cannot be read: {_plain(trouble)}") from None
    rows = _cropped(rows)
    if not rows:
        raise BadTable(f"the sheet '{found.sheet}' is empty")
    if recipe is None or not recipe.columns:
        found.header = not any(isinstance(c, int | float) and not isinstance(c, bool) for c in rows[0])
    heads = [str(c).strip() if c is not None else "" for c in rows[0]] if found.header else [f"c{k}" for k in range(1, len(rows[0]) + 1)]
    return _from_cells(found, heads, rows[1:] if found.header else rows)


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


def _from_cells(recipe: Recipe, heads: Sequence[str], rows: Sequence[Sequence[Any]]) -> ReadTable:
    """Cells that have kinds of their own: numbers, times, truth, texts."""
    sources = _unique([h or f"c{k}" for k, h in enumerate(heads, 1)])
    obeyed = {c.source: c for c in recipe.columns}
    if obeyed and set(obeyed) != set(sources):
        missing = sorted(set(obeyed) - set(sources))
        raise BadTable(f"the file has no column '{missing[0]}'" if missing else "the file has other columns than before")
    names: set[str] = set()
    found = []
    for k, source in enumerate(sources):
        cells = [row[k] for row in rows]
        found.append(_of_kinds(obeyed.get(source), source, cells, recipe, names))
    recipe.columns = [c.recipe for c in found]
    return ReadTable(recipe, found, "")


def _of_kinds(known: ColumnRecipe | None, source: str, cells: list[Any], recipe: Recipe, names: set[str]) -> ReadColumn:
    filled = [c for c in cells if c is not None and c != ""]
    times = [c for c in filled if isinstance(c, date | time)]
    if (known is None and filled and len(times) >= _MOSTLY * len(filled)) or (known is not None and known.kind == "time" and times):
        if known is None:
            head, _ = head_and_unit(source)
            known = ColumnRecipe(source, _name(head, names), "time")
        clock = all(isinstance(c, time) for c in times)
        seconds = np.array([_seconds(c) for c in cells])
        return _counted(known, seconds, ["" if c is None else c for c in cells], clock)
    texts = [_cell_text(c, recipe.decimal) for c in cells]
    return _column(known or _guessed(source, texts, recipe, names), texts, recipe)


def _seconds(cell: Any) -> float:
    if isinstance(cell, datetime):
        return (cell if cell.tzinfo else cell.replace(tzinfo=UTC)).timestamp()
    if isinstance(cell, date):
        return datetime(cell.year, cell.month, cell.day, tzinfo=UTC).timestamp()
    if isinstance(cell, time):
        return cell.hour * 3600 + cell.minute * 60 + cell.second + cell.microsecond / 1e6
    return math.nan


def _cell_text(cell: Any, decimal: str) -> str:
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "true" if cell else "false"
    if isinstance(cell, int | float):
        text = repr(float(cell)) if isinstance(cell, float) else str(cell)
        return text.replace(".", ",") if decimal == "," else text
    return str(cell)


# ---------------------------------------------------------------- JSON, Parquet


def _from_json(data: bytes, recipe: Recipe | None, most: int | None) -> ReadTable:
    found = recipe if recipe is not None else Recipe()
    found.format, found.decimal = "json", "."
    try:
        plain = json.loads(data)
    except (ValueError, UnicodeDecodeError) as trouble:
        raise BadTable(f"this is no JSON: {_plain(trouble)}") from None
    if isinstance(plain, dict) and len(plain) == 1 and isinstance(next(iter(plain.values())), list):
        plain = next(iter(plain.values()))
    if isinstance(plain, dict) and plain and all(isinstance(v, list) for v in plain.values()):
        sizes = {len(v) for v in plain.values()}
        if len(sizes) > 1:
            raise BadTable(f"the columns have different lengths: {', '.join(f'{k} {len(v)}' for k, v in list(plain.items())[:4])}")
        plain = [dict(zip(plain, row, strict=True)) for row in zip(*plain.values(), strict=True)]
    if not isinstance(plain, list) or not plain or not all(isinstance(r, dict) for r in plain):
        raise BadTable('a table in JSON is a list of records: [{"h": 0.1, "Q": 0.02}, ...]')
    if len(plain) > MAX_ROWS:
        raise BadTable(f"the file has {len(plain)} rows; at most {MAX_ROWS} are possible")
    heads = list(dict.fromkeys(str(k) for row in plain for k in row))
    if len(heads) > MAX_COLUMNS:
        raise BadTable(f"the records have {len(heads)} different names; at most {MAX_COLUMNS} are possible")
    for number, row in enumerate(plain, 1):
        for key, value in row.items():
            if isinstance(value, list | dict):
                raise BadTable(f"record {number} holds a list or a record under '{key}'; each value must be a number or a text")
    rows = [[row.get(h) for h in heads] for row in (plain if most is None else plain[:most])]
    return _from_cells(found, heads, rows)


def _from_parquet(data: bytes, recipe: Recipe | None, most: int | None) -> ReadTable:
    import polars as pl

    found = recipe if recipe is not None else Recipe()
    found.format, found.decimal = "parquet", "."
    try:
        schema = pl.read_parquet_schema(io.BytesIO(data))
        if len(schema) > MAX_COLUMNS:
            raise BadTable(f"the file has {len(schema)} columns; at most {MAX_COLUMNS} are possible")
        rows = pl.scan_parquet(io.BytesIO(data)).select(pl.len()).collect().item()
        if rows > MAX_ROWS:
            raise BadTable(f"the file has {rows} rows; at most {MAX_ROWS} are possible")
        frame = pl.read_parquet(io.BytesIO(data), n_rows=most)
    except BadTable:
        raise
    except BaseException as trouble:  # the library below may panic on a damaged file, which is no Exception
        if isinstance(trouble, KeyboardInterrupt | SystemExit | MemoryError):
            raise
        raise BadTable(f"the Parquet file cannot be read: {_plain(Exception(trouble))}") from None
    obeyed = {c.source: c for c in found.columns}
    names: set[str] = set()
    columns = []
    for head in frame.columns:
        series = frame[head]
        known = obeyed.get(head)
        if series.dtype.is_nested() or series.dtype == pl.Binary:
            raise BadTable(f"the column '{head}' holds {series.dtype}; each value must be a number, a time or a text")
        name, unit = head_and_unit(head)
        if series.dtype.is_numeric():
            column = known or ColumnRecipe(head, _name(name, names), "number", unit)
            columns.append(ReadColumn(column, series.cast(pl.Float64).fill_null(float("nan")).to_numpy().astype(float, copy=True)))
        elif series.dtype in (pl.Date, pl.Datetime) or isinstance(series.dtype, pl.Datetime):
            column = known or ColumnRecipe(head, _name(name, names), "time")
            seconds = series.cast(pl.Datetime("us")).cast(pl.Int64).to_numpy().astype(float) / 1e6
            columns.append(_counted(column, np.where(series.is_null().to_numpy(), np.nan, seconds), [""] * len(series), False))
        else:
            column = known or ColumnRecipe(head, _name(name, names), "text")
            columns.append(ReadColumn(column, None, [str(v) if v is not None else "" for v in series.to_list()]))
    found.columns = [c.recipe for c in columns]
    return ReadTable(found, columns, "")
