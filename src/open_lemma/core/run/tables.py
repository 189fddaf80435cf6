"""Tables: rows typed into the script, or columns of a file that was read before."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import numpy as np

from ..formula.estimates import Estimates, Origin, value_and_error
from ..formula.nodes import Formula, Given, Number
from ..formula.units import BadUnit, Unit, parse_unit
from ..language import tree
from ..language.messages import advise
from .evaluate.refusals import refusal
from .values import GAP, ItemsValue, ListValue, TableValue, TextValue

MOST_EXACT = 1_000  # rows of which numbers are kept as the decimals they were written as


@dataclass
class FileColumn:
    """data: doubles of shape (n,), NaN where there is a gap, or texts. hidden: doubles that were excluded, NaN elsewhere.

    errors: one standard uncertainty of each, 0 where none is said.
    """

    name: str
    data: Any
    unit: str | None = None
    hidden: Any = None
    errors: Any = None


@dataclass
class FileTable:
    """A table as it was read from a file and mended.

    fingerprint  of the file's bytes
    mending      what was corrected, excluded and computed, for the record
    computed     further columns: name, formula of the language, unit
    notes        what a reader must know: bad cells, with rows; what may be read otherwise
    reading      how the file was read, for the record
    """

    columns: list[FileColumn]
    fingerprint: str
    mending: dict[str, Any] = field(default_factory=dict)
    computed: list[tuple[str, str, str | None]] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    reading: dict[str, Any] = field(default_factory=dict)


class NoTable(Exception):
    """Why a file is no table, for the message at the statement that names it."""


Tables = Callable[[str], FileTable | None]  # a table by the name of its file, None where there is none; may raise NoTable


def typed_table(t: tree.Table) -> TableValue:
    """A table that is typed into the script. Raises Refused."""
    columns: dict[str, ListValue | ItemsValue] = {}
    for place, column in enumerate(t.columns):
        cells = [row[place].text for row in t.rows]
        columns[column.name] = _column(cells, _unit(column.unit, column), f"{t.name}.{column.name}")
    return TableValue(t.name, columns)


def _unit(text: str | None, node: tree.Node) -> Unit | None:
    if text is None:
        return None
    try:
        return parse_unit(text)
    except BadUnit as trouble:
        raise refusal("unit", str(trouble), node, advise("[m/s^2]")) from None


def _column(cells: list[str], unit: Unit | None, name: str) -> ListValue | ItemsValue:
    """Numbers where all cells are numbers or gaps, else texts."""
    if any(c.startswith('"') for c in cells):
        return ItemsValue(tuple(TextValue(c.strip('"')) for c in cells))
    if any("(" in c or "±" in c for c in cells):
        return _uncertain_column(cells, unit, name)
    exact = tuple(None if c == "gap" else Fraction(c) for c in cells)
    data = np.array([np.nan if v is None else float(v) for v in exact])
    kept: Any = exact if len(exact) <= MOST_EXACT and None not in exact else None
    return ListValue(data, unit, exact=kept)


def _uncertain_column(cells: list[str], unit: Unit | None, name: str) -> ListValue:
    """Cells such as 2.50(5) and 2.50±0.05: each a source of its own."""
    read = [None if cell == "gap" else value_and_error(cell) for cell in cells]
    texts = [None if r is None else r[0] for r in read]
    return _with_errors(texts, [0.0 if r is None else r[1] for r in read], unit, name)


def _with_errors(texts: list[str | None], errors: list[float], unit: Unit | None, name: str, hidden: Any = None) -> ListValue:
    """Numbers as they are written, None for a gap, each with its standard uncertainty as a source of its own."""
    formulas: list[Formula] = []
    for row, (text, error) in enumerate(zip(texts, errors, strict=True), 1):
        if text is None:
            formulas.append(GAP.formula)
            continue
        label = f"{name}[{row}]"
        estimates = Estimates((label,), np.array([float(text)]), np.array([[error**2]]), key=f"cell {label}")
        formulas.append(Given(float(text), (text, text), origin=Origin(estimates, 0)) if error else Number(Fraction(text)))
    data = np.array([np.nan if t is None else float(t) for t in texts])
    return ListValue(data, unit, formulas=tuple(formulas), hidden=hidden)


def file_table(t: tree.Table, tables: Tables | None) -> tuple[TableValue, FileTable]:
    """The table of a file, its computed columns still to come. Raises Refused."""
    assert t.file is not None
    try:
        found = tables(t.file) if tables is not None else None
    except NoTable as reason:
        raise refusal("table-file", f"'{t.file}': {reason}", t) from None
    if found is None:
        raise refusal("no-table", f"there is no table '{t.file}' here", t, advise("bring the file in first"))
    return TableValue(t.name, {c.name: _file_column(c, t) for c in found.columns}, t.file), found


def _file_column(column: FileColumn, t: tree.Table) -> ListValue | ItemsValue:
    if isinstance(column.data, list):
        return ItemsValue(tuple(TextValue(c) for c in column.data))
    data = np.asarray(column.data, dtype=float)
    if column.errors is not None:
        texts = [repr(v) if v == v else None for v in data.tolist()]
        return _with_errors(texts, np.asarray(column.errors).tolist(), _unit(column.unit, t), f"{t.name}.{column.name}", column.hidden)
    exact = tuple(Fraction(repr(v)) for v in data.tolist()) if len(data) <= MOST_EXACT and np.isfinite(data).all() else None
    return ListValue(data, _unit(column.unit, t), exact=exact, hidden=column.hidden)
