"""Tables: rows typed into the script, or the bytes of a file."""

from __future__ import annotations

import csv
import hashlib
import io
import re
from collections.abc import Callable
from fractions import Fraction
from typing import Any

import numpy as np

from ..formula.units import BadUnit, Unit, parse_unit
from ..language import tree
from ..language.messages import advise
from ..language.words import canonical_name
from .lower import refusal
from .values import ItemsValue, ListValue, TableValue, TextValue

Tables = Callable[[str], bytes | None]  # the bytes of a file by its name, None where there is none
MAX_ROWS = 1_000_000


def typed_table(t: tree.Table) -> TableValue:
    columns: dict[str, ListValue | ItemsValue] = {}
    for place, column in enumerate(t.columns):
        cells = [row[place].text for row in t.rows]
        columns[column.name] = _column(cells, _unit(column.unit, column))
    return TableValue(t.name, columns)


def _unit(text: str | None, node: tree.Node) -> Unit | None:
    if text is None:
        return None
    try:
        return parse_unit(text)
    except BadUnit as trouble:
        raise refusal("unit", str(trouble), node, advise("[m/s^2]")) from None


def _column(cells: list[str], unit: Unit | None) -> ListValue | ItemsValue:
    """Numbers where all cells are numbers or gaps, else texts."""
    if any(c.startswith('"') for c in cells):
        return ItemsValue(tuple(TextValue(c.strip('"')) for c in cells))
    exact = tuple(None if c == "gap" else Fraction(c) for c in cells)
    data = np.array([np.nan if v is None else float(v) for v in exact])
    kept: Any = exact if len(exact) <= 1_000 and None not in exact else None
    return ListValue(data, unit, exact=kept)


def file_table(t: tree.Table, tables: Tables | None) -> tuple[TableValue, str]:
    """The table of a file and the fingerprint of its bytes. Raises Refused with the line of the file at fault."""
    assert t.file is not None
    data = tables(t.file) if tables is not None else None
    if data is None:
        raise refusal("no-table", f"there is no table '{t.file}' here", t, advise("bring the file in first"))
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as trouble:
        raise refusal("table-file", f"'{t.file}' is no UTF-8 text: byte {trouble.start + 1} does not fit", t) from None
    return read_csv(text, t), hashlib.sha256(data).hexdigest()


_HEAD_UNIT = re.compile(r"(.*?)\s*\[([^\]]*)\]$")
_GAPS = frozenset(["", "gap", "na", "n/a", "nan", "-", "–"])


def read_csv(text: str, t: tree.Table) -> TableValue:
    """Values set apart by commas, semicolons or tabs (RFC 4180); with semicolons or tabs a decimal comma is understood.

    The first row names the columns, with a unit in square brackets where there is one. Empty cells are gaps.
    """
    lines = [(n, line) for n, line in enumerate(text.splitlines(), 1) if line.strip() and not line.startswith("#")]
    if not lines:
        raise refusal("table-file", f"'{t.file}' is empty", t)
    head = lines[0][1]
    separator = max(",;\t", key=head.count)
    if not head.count(separator):
        separator = ";" if ";" in text else "\t" if "\t" in text else ","
    rows = [(n, next(csv.reader(io.StringIO(line), delimiter=separator))) for n, line in lines]
    if len(rows) - 1 > MAX_ROWS:
        raise refusal("table-file", f"'{t.file}' has {len(rows) - 1} rows; at most {MAX_ROWS} are possible", t)
    names: list[str] = []
    units: list[Unit | None] = []
    for cell in rows[0][1]:
        match = _HEAD_UNIT.match(cell.strip())
        name, unit = match.groups() if match else (cell.strip(), None)
        name = canonical_name(name) if name.isidentifier() else name
        if not name or name in names:
            raise refusal("table-file", f"'{t.file}': the columns in line {rows[0][0]} need names, each its own; '{name}' is none", t)
        names.append(name)
        units.append(_unit(unit, t))
    columns: list[list[str]] = [[] for _ in names]
    for number, cells in rows[1:]:
        if len(cells) != len(names):
            raise refusal("table-file", f"'{t.file}', line {number}: {len(cells)} values for {len(names)} columns", t)
        for column, cell in zip(columns, cells, strict=True):
            column.append(cell.strip())
    return TableValue(t.name, {n: _file_column(c, u, separator) for n, c, u in zip(names, columns, units, strict=True)}, t.file)


def _file_column(cells: list[str], unit: Unit | None, separator: str) -> ListValue | ItemsValue:
    found = np.empty(len(cells))
    for place, cell in enumerate(cells):
        if cell.lower() in _GAPS:
            found[place] = np.nan
            continue
        plain = cell.replace("−", "-")
        if separator != "," and "." not in plain:
            plain = plain.replace(",", ".")
        try:
            found[place] = float(plain)
        except ValueError:
            return ItemsValue(tuple(TextValue(c) for c in cells))
    return ListValue(found, unit)
