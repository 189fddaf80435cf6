"""Files of tables, read in a child of their own: a broken or hostile file ends the child and nothing else."""

from __future__ import annotations

import json
import zlib
from pathlib import Path
from typing import Any

import numpy as np

from ..core.record.events import FailedEvent
from ..files.columns import BadTable, ReadColumn, ReadTable
from ..files.recipe import Recipe
from ..files.summary import summary
from ..files.tables import read_table
from .protocol import Job

LOOK_ROWS = 40  # that a look at a file shows
LOOK_BYTES = 4_000_000  # of a text that a look reads
MOST_OUT = 3_000_000_000  # bytes of the columns that are written


def read_file(job: Job) -> dict[str, Any]:
    """The last event of a job that reads a file: what it holds; for more than a look the columns are written to `job.out`."""
    look = not job.out
    try:
        recipe = Recipe.from_record(json.loads(job.recipe)) if job.recipe else None
        data = Path(job.path).read_bytes()
        if look and len(data) > LOOK_BYTES and not data.startswith((b"PK", b"PAR1", b"[", b"{")):
            data = data[: data.rfind(b"\n", 0, LOOK_BYTES) + 1 or LOOK_BYTES]
        found = read_table(data, job.name, recipe, 2_000 if look else None)
    except BadTable as reason:
        return FailedEvent(reason="table", text=str(reason)).as_record()
    except (TypeError, KeyError, ValueError) as reason:
        return FailedEvent(reason="recipe", text=f"the recipe cannot be used: {reason}").as_record()
    told = {"event": "done", "recipe": found.recipe.as_record(), "rows": found.rows, "sha256": found.sha256}
    if look:
        return {**told, "columns": [_head(c) for c in found.columns], "shown": _shown(found), "errors": _errors(found)}
    return {**told, "columns": _written(found, job.out)}


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


def _written(found: ReadTable, out: str) -> list[dict[str, Any]]:
    """Each column compressed, one after the other in a file; what is told of each has its size."""
    told = []
    with open(out, "wb") as file:
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
