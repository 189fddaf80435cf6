"""Parts, notes and tables: what holds lines of its own."""

from __future__ import annotations

import re
import textwrap
from typing import TYPE_CHECKING

from .. import tree
from ..messages import advise, replace
from ..vocabulary.names import canonical_name
from .tokens import MOST_DIGITS, Kind, Token, digits_of

if TYPE_CHECKING:
    from .statements import StatementReader

_CELLS = re.compile(r'(?P<comment>#.*)|(?P<text>"[^"\n]*")|(?P<unit>\[[^\]\n]*\])|(?P<plain>[^\s"\[\]#]+)')
_NUMBERS_IN_CELL = re.compile(r"\d+(?:\.\d*)?(?:[eE][+-]?\d+)?")
_CELL_NUMBER = re.compile(r"[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?(\(\d+(\.\d+)?\)|±(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?)?")


def part(reader: StatementReader) -> tree.Statement:
    word = reader.take()
    title = reader.need_text()
    return tree.Part(word.start, reader.before.end, title)


def note(reader: StatementReader) -> tree.Statement:
    """`note "WORDS"`, or `note:` with lines of its own"""
    word = reader.take()
    if reader.token.is_sign(":"):
        lines = raw_lines(reader, "note")
        return tree.Note(word.start, lines.end, textwrap.dedent(lines.text).strip("\n"))
    text = reader.need_text()
    return tree.Note(word.start, reader.before.end, text)


def raw_lines(reader: StatementReader, what: str) -> Token:
    """The lines of a block as they are typed."""
    reader.take()
    if not reader.stands(Kind.NEWLINE):
        reader.stray()
    reader.take()
    if not reader.stands(Kind.INDENT):
        reader.refuse("block", f"the lines of the {what} must follow", advise("indent them by four spaces"))
    reader.take()
    rows = reader.take()
    while not reader.stands(Kind.DEDENT):
        reader.take()
    reader.take()
    return rows


def table(reader: StatementReader) -> tree.Statement:
    """`table NAME:` with heads and rows, or `table NAME from "FILE"`"""
    word = reader.take()
    token = reader.need_name()
    name = reader.name_of(token)
    if reader.take_word("from"):
        file = reader.need_text()
        reader.options()
        end = reader.before.end
        return tree.Table(word.start, end, name, token.end, (), (), file, end)
    head_end = reader.before.end
    if not reader.token.is_sign(":"):
        reader.refuse("table", "a table has a block of rows or a file", advise('table NAME: or table NAME from "..."'))
    lines = raw_lines(reader, "table")
    columns, rows = _rows(reader, lines)
    end = lines.start + len(lines.text.rstrip())
    return tree.Table(word.start, end, name, token.end, columns, rows, None, head_end)


def _rows(reader: StatementReader, lines: Token) -> tuple[tuple[tree.Column, ...], tuple[tuple[tree.Cell, ...], ...]]:
    """Column heads and cells of a typed table; mistakes in rows are told, and those rows left out."""
    columns: list[tree.Column] = []
    rows: list[tuple[tree.Cell, ...]] = []
    position = lines.start
    for line in lines.text.splitlines(keepends=True):
        cells = [m for m in _CELLS.finditer(line) if m.lastgroup != "comment"]
        comma = next((m.start() + m.group().index(",") for m in cells if m.lastgroup == "plain" and "," in m.group()), None)
        if comma is not None:
            at = position + comma
            reader.complain(
                "table-comma", "columns are set apart by spaces, and a decimal point is a point", at, at + 1, advise("a space, or .")
            )
        elif cells and not columns:
            columns = _column_heads(reader, cells, position)
        elif cells and len(cells) != len(columns):
            at = position + len(line) - len(line.lstrip())
            reader.complain(
                "table-row",
                f"this row has {len(cells)} values for {len(columns)} columns",
                at,
                position + len(line.rstrip()),
                advise("gap stands for a missing value"),
            )
        elif cells:
            rows.append(tuple(_cell(reader, m, position) for m in cells))
        position += len(line)
    return tuple(columns), tuple(rows)


def _column_heads(reader: StatementReader, cells: list[re.Match[str]], position: int) -> list[tree.Column]:
    columns: list[tree.Column] = []
    for match in cells:
        start, end = position + match.start(), position + match.end()
        if match.lastgroup == "unit" and columns and columns[-1].unit is None:
            columns[-1] = tree.Column(columns[-1].start, end, columns[-1].name, match.group()[1:-1].strip())
            continue
        name = match.group()[1:-1] if match.lastgroup == "text" else canonical_name(match.group())
        if any(c.name == name for c in columns):
            reader.complain("table-column", f"there are two columns '{name}'", start, end, replace(start, end, f"{name}_2"))
        columns.append(tree.Column(start, end, name, None))
    return columns


def _cell(reader: StatementReader, match: re.Match[str], position: int) -> tree.Cell:
    start, end = position + match.start(), position + match.end()
    text = match.group().replace("−", "-").replace("+/-", "±")
    if match.lastgroup == "unit" or not (match.lastgroup == "text" or text == "gap" or _CELL_NUMBER.fullmatch(text)):
        reader.complain(
            "table-cell", f"'{match.group()}' is no number; cells are numbers, gap, or texts in quotes", start, end,
            replace(start, end, "gap", "gap"), replace(start, end, f'"{match.group()}"'),
        )  # fmt: skip
    elif match.lastgroup != "text" and text != "gap" and max(map(digits_of, _NUMBERS_IN_CELL.findall(text)), default=0) > MOST_DIGITS:
        reader.complain("table-cell", f"a number may have up to {MOST_DIGITS} digits", start, end, replace(start, end, "gap", "gap"))
    return tree.Cell(start, end, text)
