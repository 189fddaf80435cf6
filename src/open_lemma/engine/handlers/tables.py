"""Tables: a file read, and kept tables as they are looked at. A broken or hostile file ends the child and nothing else."""

from __future__ import annotations

import json
import zlib
from typing import Any, BinaryIO

import numpy as np

from ...files.columns import BadTable, ReadColumn, ReadTable
from ...files.looking import NoColumn, RowsWanted, Whole, compared, mended_summaries
from ...files.opening import opened
from ...files.recipe import Recipe
from ...files.summary import summary
from ...files.tables import read_table
from ...files.writing import NotWritten
from .figures import out
from .handler import Handler, NotDone, Work
from .runs import value_rows

LOOK_ROWS = 40  # that a look at a file shows
LOOK_BYTES = 4_000_000  # of a text that a look reads


def _read(work: Work, name: str, recipe: str, rows: int | None = None) -> ReadTable:
    try:
        wanted = Recipe.from_record(json.loads(recipe)) if recipe else None
        data = work.file("file")
        if rows is not None and len(data) > LOOK_BYTES and not data.startswith((b"PK", b"PAR1", b"[", b"{")):
            data = data[: data.rfind(b"\n", 0, LOOK_BYTES) + 1 or LOOK_BYTES]
        return read_table(data, name, wanted, rows)
    except BadTable as reason:
        raise NotDone("table", str(reason)) from None
    except (TypeError, KeyError, ValueError) as reason:
        raise NotDone("recipe", f"the recipe cannot be used: {reason}") from None


def _read_table(work: Work, name: str, recipe: str) -> dict[str, Any]:
    """What a file holds; where the job has a file for it, the columns are written there, else it was only a look."""
    found = _read(work, name, recipe, None if work.out is not None else 2_000)
    told = {"recipe": found.recipe.as_record(), "rows": found.rows, "sha256": found.sha256}
    if work.out is None:
        return {**told, "columns": [_head(c) for c in found.columns], "shown": _shown(found), "errors": _errors(found)}
    return {**told, "columns": _written(found, work.out)}


def _head(column: ReadColumn) -> dict[str, Any]:
    kept = column.recipe
    return {
        "name": kept.name, "kind": kept.kind, "bad": [list(b) for b in column.bad], "bad_count": column.bad_count,
        "summary": summary(column.numbers, column.texts),
    }  # fmt: skip


def _shown(found: ReadTable) -> list[list[Any]]:
    columns = [
        c.texts[:LOOK_ROWS] if c.texts is not None else [v if v == v else None for v in c.numbers[:LOOK_ROWS].tolist()]
        for c in found.columns
    ]
    return [list(row) for row in zip(*columns, strict=True)]


def _errors(found: ReadTable) -> dict[str, list[float]]:
    return {c.recipe.name: c.errors[:LOOK_ROWS].tolist() for c in found.columns if c.errors is not None}


def _written(found: ReadTable, file: BinaryIO) -> list[dict[str, Any]]:
    """Each column compressed, one after the other in a file; what is told of each has its size."""
    told = []
    for column in found.columns:
        if not column.recipe.kept:
            continue
        if column.texts is not None:
            body = zlib.compress(json.dumps(column.texts).encode(), 1)
        else:
            numbers = column.numbers if column.errors is None else np.concatenate([column.numbers, column.errors])
            body = zlib.compress(np.ascontiguousarray(numbers, dtype="<f8").tobytes(), 1)
        file.write(body)
        kept = "uncertain" if column.errors is not None else column.recipe.kind
        told.append({**_head(column), "kind": kept, "size": len(body)})
    return told


# ---------------------------------------------------------------- kept tables


def _whole(work: Work, name: str) -> Whole:
    def computed(column: str) -> Any:
        try:
            _, rows = value_rows(work, f'table t from "{name}"\nv = t."{column}"', "v")
        except NotDone as reason:
            raise NotDone("computed", str(reason)) from None
        return np.array([float("nan") if row[-1] == "gap" else float(row[-1]) for row in rows])

    return Whole(opened(work.job.tables[name]), computed)


def _about(work: Work, name: str, with_computed: bool) -> dict[str, Any]:
    """Summaries of the columns in which something was mended; with the computed ones, if they can be worked out."""
    if with_computed:
        _whole(work, name)
    return {"summaries": mended_summaries(opened(work.job.tables[name]))}


def _rows(work: Work, name: str, wanted: dict[str, Any]) -> dict[str, Any]:
    try:
        return {"page": _whole(work, name).page(RowsWanted(**wanted))}
    except NoColumn as reason:
        raise NotDone("no-column", str(reason)) from None


def _column(work: Work, name: str, column: str) -> dict[str, Any]:
    try:
        return {"summary": _whole(work, name).summary(column)}
    except NoColumn as reason:
        raise NotDone("no-column", str(reason)) from None


def _table_as(work: Work, name: str, format: str) -> dict[str, Any]:
    try:
        return out(work, _whole(work, name).as_file(format, name))
    except NotWritten as reason:
        raise NotDone("not-written", str(reason)) from None


def _compare(work: Work, name: str, recipe: str) -> dict[str, Any]:
    """The table that is there against an older version, whose bytes go along as a file."""
    before = {c.recipe.name: c.texts if c.texts is not None else c.numbers for c in _read(work, name, recipe).columns if c.recipe.kept}
    return {"compared": compared(opened(work.job.tables[name]).columns, before)}


HANDLERS: dict[str, Handler] = {
    "read_table": _read_table, "about_table": _about, "rows": _rows, "column": _column, "table_as": _table_as, "compare": _compare,
}  # fmt: skip
