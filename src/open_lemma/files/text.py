"""Texts with delimiters as tables: encoding, delimiter, decimal sign and heads are found out, or obeyed."""

from __future__ import annotations

import csv
import io
from collections import Counter
from collections.abc import Sequence
from typing import Any

from .cells import is_any_number
from .columns import BadTable, ReadTable, typed
from .doubts import decimal_sign
from .heads import Layout, layout, written_unit
from .limits import MAX_COLUMNS, MAX_ROWS, first_line
from .recipe import Recipe

DELIMITERS = (",", ";", "\t", "|", " ")
_LOOKED_AT = 200  # lines that tell how a text is written


def read_text(data: bytes, recipe: Recipe | None, most: int | None) -> ReadTable:
    """Raises BadTable."""
    try:
        text, encoding = decoded(data, recipe.encoding if recipe is not None else None)
    except (UnicodeDecodeError, LookupError) as trouble:
        raise BadTable(f"the file does not read as {recipe.encoding if recipe else 'text'}: {trouble}") from None
    if "\x00" in text[:100_000]:
        raise BadTable("this is no text: it holds zero bytes; known are text tables, .xlsx, JSON and Parquet")
    if not text.strip():
        raise BadTable("the file is empty")
    found = recipe if recipe is not None else sniffed(text)
    found.encoding, found.format, found.doubts = encoding, "text", []
    heads, units, columns = _divided(text, found, most)
    if recipe is None or "decimal" not in recipe.settled:
        sign, doubt = decimal_sign(columns, heads, found.delimiter)
        if recipe is None:
            found.decimal = sign
        if doubt is not None and found.decimal == sign:
            found.doubts = [doubt]
    return typed(found, heads, columns, units)


def decoded(data: bytes, encoding: str | None = None) -> tuple[str, str]:
    """The text and its encoding. Raises UnicodeDecodeError where a given encoding does not fit."""
    if encoding is not None:
        return data.decode(encoding).removeprefix("\ufeff"), encoding
    for mark, name in ((b"\xef\xbb\xbf", "utf-8"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(name).removeprefix("\ufeff"), name
    try:
        return data.decode("utf-8"), "utf-8"
    except UnicodeDecodeError:
        pass
    try:
        return data.decode("cp1252"), "cp1252"
    except UnicodeDecodeError:
        return data.decode("latin-1"), "latin-1"


# ---------------------------------------------------------------- how it is written


def cells_of(line: str, delimiter: str, quote: str) -> list[str]:
    if delimiter == " ":
        return line.split()
    return next(
        csv.reader(io.StringIO(line), delimiter=delimiter, quotechar=quote or None, quoting=csv.QUOTE_MINIMAL if quote else csv.QUOTE_NONE)
    )


def sniffed(text: str) -> Recipe:
    """How a text is most likely written, from its first lines; its decimal sign is not yet known."""
    lines = text[:200_000].splitlines()[: _LOOKED_AT * 2]
    comment = _comment(lines)
    found = Recipe(comment=comment)
    plain = [(n, line) for n, line in enumerate(lines) if line.strip() and not (comment and line.lstrip().startswith(comment))][:_LOOKED_AT]
    if not plain:
        return found
    found.quote = "'" if sum(line.count("'") for _, line in plain) > 2 * len(plain) and '"' not in text[:10_000] else '"'
    found.delimiter, width = _delimiter([line for _, line in plain], found.quote)
    rows = [(n, cells_of(line, found.delimiter, found.quote)) for n, line in plain]
    # What stands above the table has another number of cells.
    table = [(n, cells) for n, cells in rows if len(cells) == width] or rows[:1]
    where = layout([cells for _, cells in table])
    found.header, found.units_row = where.heads is not None, where.units is not None
    found.skip = table[_top(where, len(table))][0]
    return found


def _top(where: Layout, rows: int) -> int:
    return min(where.body if where.heads is None else where.heads, rows - 1)


def _comment(lines: Sequence[str]) -> str | None:
    for mark in ("#", "%", "//"):
        if any(line.lstrip().startswith(mark) for line in lines[:50]):
            return mark
    return None


def _delimiter(lines: Sequence[str], quote: str) -> tuple[str, int]:
    """The sign that divides most lines into one same number of cells, and most of these into numbers; and that number."""
    # What does not divide one column of decimal commas.
    lone = _lone(lines)
    best, best_score, best_width = (";" if lone and any("," in line for line in lines) else ","), 2.0 * lone, 1
    for sign in DELIMITERS:
        try:
            rows = [cells_of(line, sign, quote) for line in lines]
        except csv.Error:
            continue
        width, count = max(Counter(len(r) for r in rows).items(), key=lambda p: (p[1] * (p[0] > 1), p[0]))
        if width < 2:
            continue
        cells = [c for r in rows if len(r) == width for c in r]
        numbers = sum(is_any_number(c) for c in cells) / len(cells)
        # Of signs that do as well the one earlier in the list; blanks only where nothing else divides.
        score = count / len(lines) + numbers - (0.2 if sign == " " else 0.0)
        if score > best_score + 1e-9:
            best, best_score, best_width = sign, score, width
    return best, best_width


def _lone(lines: Sequence[str]) -> float:
    """The share of lines from the first number on that are one number each; none where the line above is divided."""
    alone = [is_any_number(line) for line in lines]
    if True not in alone:
        return 0.0
    first = alone.index(True)
    if first and any(sign in lines[first - 1] for sign in DELIMITERS[:-1]):
        return 0.0
    # A number with a comma may as well be two numbers, where no head tells.
    below = lines[first:]
    return sum(a and (first > 0 or "," not in line) for a, line in zip(alone[first:], below, strict=True)) / len(below)


# ---------------------------------------------------------------- into columns


def _divided(text: str, recipe: Recipe, most: int | None) -> tuple[list[str], list[str], list[Any]]:
    """Heads, units below them, and columns of texts (Polars series)."""
    import polars as pl

    lines = _head_lines(text, recipe)
    if not lines:
        raise BadTable("the file holds no row")
    first = cells_of(lines[0], recipe.delimiter, recipe.quote)
    heads = [c.strip() for c in first] if recipe.header else [f"c{k}" for k in range(1, len(first) + 1)]
    if len(heads) > MAX_COLUMNS:
        raise BadTable(f"the file has {len(heads)} columns; at most {MAX_COLUMNS} are possible")
    below = cells_of(lines[1], recipe.delimiter, recipe.quote) if recipe.header and recipe.units_row and len(lines) > 1 else []
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
            _where_it_breaks(body, recipe, len(heads)) or f"the file cannot be divided into columns: {first_line(trouble)}"
        ) from None
    if frame.height > MAX_ROWS:
        raise BadTable(f"the file has more than {MAX_ROWS} rows; take a part of it")
    # Rows with too few cells: the reader fills them up; here they are found, since nothing may be lost silently.
    ends_blank = frame.height > 0 and (frame[frame.columns[-1]].fill_null("") == "").any()
    if ends_blank and (short := _where_it_breaks(body, recipe, frame.width)):
        raise BadTable(short)
    return heads, [written_unit(c) or "" for c in below], [frame[c] for c in frame.columns]


def _is_line(line: str, recipe: Recipe) -> bool:
    return bool(line.strip()) and not (recipe.comment and line.lstrip().startswith(recipe.comment))


def _head_lines(text: str, recipe: Recipe) -> list[str]:
    """The first lines of the table, comments and what stands above left out."""
    return [line for line in text[:1_000_000].splitlines()[recipe.skip :] if _is_line(line, recipe)][:2]


def _body(text: str, recipe: Recipe) -> str:
    """The text below the heads and their units."""
    place = 0
    for _ in range(recipe.skip):
        end = text.find("\n", place)
        if end < 0:
            return ""
        place = end + 1
    left = int(recipe.header) + int(recipe.header and recipe.units_row)
    while left:
        end = text.find("\n", place)
        line = text[place : end if end >= 0 else len(text)]
        place = end + 1 if end >= 0 else len(text)
        left -= _is_line(line, recipe)
        if end < 0:
            break
    return text[place:].replace("\r\n", "\n").replace("\r", "\n")


def _where_it_breaks(body: str, recipe: Recipe, width: int) -> str:
    above = recipe.skip + int(recipe.header) + int(recipe.header and recipe.units_row)
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
