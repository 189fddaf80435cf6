"""From a file that was read to the table that runs work with: corrections made, exclusions taken out, texts and numbers packed."""

from __future__ import annotations

import json
import struct
import zlib
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..core.run.tables import FileColumn, FileTable
from .recipe import Recipe
from .tables import ReadTable

_MARK = b"OLT2"
_TOLD = 5  # bad cells of a column that a note names


@dataclass
class PlainColumn:
    """A column as it is kept: numbers (with their standard uncertainties) or texts, with the bad cells that were found."""

    name: str
    unit: str | None
    numbers: Any
    texts: list[str] | None
    bad: list[tuple[int, str]]
    bad_count: int
    errors: Any = None


def plain_columns(table: ReadTable) -> list[PlainColumn]:
    return [
        PlainColumn(c.recipe.name, c.recipe.unit, c.numbers, c.texts, c.bad, c.bad_count, c.errors) for c in table.columns if c.recipe.kept
    ]


def ready(columns: Iterable[PlainColumn], recipe: Recipe, fingerprint: str) -> FileTable:
    """The table with what was mended: a corrected cell has its new value, a row that is excluded has gaps."""
    found = []
    columns = list(columns)
    used = {column.name for column in columns}
    sources = {c.source for c in recipe.columns if c.name in used}
    notes = [d.text for d in recipe.open_doubts() if d.column is None or d.column in sources]
    out = np.array(sorted({r - 1 for r in recipe.excluded}), dtype=int)
    for column in columns:
        if column.numbers is None:
            found.append(FileColumn(column.name, list(column.texts or [])))
            continue
        data = np.array(column.numbers, dtype=float)
        mended = {c.row: c.value for c in recipe.corrections if c.column == column.name}
        for row, value in mended.items():
            if 1 <= row <= len(data):
                data[row - 1] = np.nan if value is None else value
        hidden = None
        inside = out[(out >= 0) & (out < len(data))]
        if inside.size:
            hidden = np.full(len(data), np.nan)
            hidden[inside] = data[inside]
            data[inside] = np.nan
        found.append(FileColumn(column.name, data, column.unit, hidden, column.errors))
        left = [(row, cell) for row, cell in column.bad if row not in mended and row not in recipe.excluded]
        count = column.bad_count - (len(column.bad) - len(left))
        if count > 0:
            said = ", ".join(f"row {row} '{cell}'" for row, cell in left[:_TOLD]) + (", ..." if count > _TOLD else "")
            notes.append(
                f"{count} cell{'s' if count != 1 else ''} of {column.name} {'is' if count == 1 else 'are'} no number: {said}; taken as gaps"
            )
    computed = [(c.name, c.formula, c.unit) for c in recipe.computed]
    return FileTable(found, fingerprint, recipe.mending(), computed, notes, recipe.reading())


# ---------------------------------------------------------------- packed


def packed(table: FileTable) -> bytes:
    """A table as bytes: a head in JSON, then each column compressed by itself."""
    parts: list[bytes] = []
    heads = []
    for column in table.columns:
        texts = isinstance(column.data, list)
        blob = json.dumps(column.data).encode() if texts else np.ascontiguousarray(column.data, dtype="<f8").tobytes()
        hidden = _squeezed(column.hidden)
        body = zlib.compress(blob, 1)
        errors = _squeezed(column.errors)
        heads.append({
            "name": column.name, "unit": column.unit, "texts": texts, "size": len(body), "hidden": len(hidden), "errors": len(errors),
        })  # fmt: skip
        parts += [body, hidden, errors]
    head = json.dumps({
        "columns": heads, "fingerprint": table.fingerprint, "mending": table.mending, "computed": table.computed, "notes": table.notes,
        "reading": table.reading,
    }).encode()  # fmt: skip
    return _MARK + struct.pack("<I", len(head)) + head + b"".join(parts)


def _squeezed(numbers: Any) -> bytes:
    return b"" if numbers is None else zlib.compress(np.ascontiguousarray(numbers, dtype="<f8").tobytes(), 1)


def unpacked(data: bytes) -> FileTable:
    """Raises ValueError where the bytes are none of `packed`."""
    if data[:4] != _MARK:
        raise ValueError("no packed table")
    (size,) = struct.unpack("<I", data[4:8])
    head: dict[str, Any] = json.loads(data[8 : 8 + size])
    place = 8 + size
    columns = []
    for h in head["columns"]:
        blob = zlib.decompress(data[place : place + h["size"]])
        place += h["size"]
        more = []
        for part in ("hidden", "errors"):
            more.append(np.frombuffer(zlib.decompress(data[place : place + h[part]]), dtype="<f8") if h[part] else None)
            place += h[part]
        columns.append(FileColumn(h["name"], json.loads(blob) if h["texts"] else np.frombuffer(blob, dtype="<f8"), h["unit"], *more))
    computed = [(c[0], c[1], c[2]) for c in head["computed"]]
    return FileTable(columns, head["fingerprint"], head["mending"], computed, head["notes"], head["reading"])
