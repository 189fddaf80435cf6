"""Tables between the store and whoever needs their numbers: columns unpacked, mended, worked out, and kept for a while."""

from __future__ import annotations

import base64
import json
import os
import threading
import zlib
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from typing import Any, NamedTuple

import numpy as np
from sqlalchemy.orm import Session

from ..core.editing.uses import columns_used
from ..core.formula.catalogue import BUILTINS
from ..core.run.tables import FileTable
from ..engine.local import Event, JobFailed
from ..files.ready import PlainColumn, packed, ready
from ..files.recipe import Recipe
from ..store import tables as store
from ..store.models import TableColumn, TableFile
from .errors import Refusal
from .services import Services

MAX_FILE_BYTES = 200_000_000
MOST_KEPT = 12  # columns of the tables that were looked at last
_CHUNK = 1 << 20


@contextmanager
def spooled(services: Services, chunks: Iterator[bytes]) -> Iterator[str]:
    """What a request brings, in a file of its own while it is worked with."""
    path = services.engine.place()
    size = 0
    try:
        with open(path, "wb") as file:
            for chunk in chunks:
                size += len(chunk)
                if size > MAX_FILE_BYTES:
                    raise Refusal(413, "too-large", f"a file may have up to {MAX_FILE_BYTES // 1_000_000} MB")
                file.write(chunk)
        yield path
    finally:
        with suppress(OSError):
            os.unlink(path)


def chunks_of(stream: Any) -> Iterator[bytes]:
    while chunk := stream.read(_CHUNK):
        yield chunk


def looked_at(services: Services, path: str, name: str, recipe: str) -> Event:
    try:
        return services.engine.read_table(path, name, recipe)
    except JobFailed as trouble:
        raise Refusal(422, "table", str(trouble)) from None


def read_whole(services: Services, path: str, name: str, recipe: str) -> tuple[Event, list[store.NewColumn]]:
    """A file as columns to be kept. Raises Refusal."""
    out = services.engine.place()
    try:
        found = services.engine.read_table(path, name, recipe, out)
        with open(out, "rb") as file:
            columns = [
                store.NewColumn(
                    c["name"][:200], c["kind"], file.read(c["size"]), json.dumps(c["bad"]), c["bad_count"], json.dumps(c["summary"])
                )
                for c in found["columns"]
            ]
        return found, columns
    except JobFailed as trouble:
        raise Refusal(422, "table", str(trouble)) from None
    finally:
        with suppress(OSError):
            os.unlink(out)


def ensure_read(services: Services, session: Session, file: TableFile) -> None:
    """A file that was brought in by an earlier version of this program is read now."""
    if file.recipe:
        return
    with spooled(services, iter([file.data])) as path:
        found, columns = read_whole(services, path, file.name, "")
    store.set_columns(session, file, json.dumps(found["recipe"]), found["rows"], columns)


def recipe_of(file: TableFile) -> Recipe:
    return Recipe.from_record(json.loads(file.recipe))


# ---------------------------------------------------------------- columns


class _Kept:
    """Columns that were unpacked last, by the ids of their rows in the store, which never change."""

    def __init__(self) -> None:
        self.columns: OrderedDict[tuple[int, str], Any] = OrderedDict()
        self.lock = threading.Lock()

    def get(self, key: tuple[int, str], make: Callable[[], Any]) -> Any:
        with self.lock:
            if key in self.columns:
                self.columns.move_to_end(key)
                return self.columns[key]
        found = make()
        with self.lock:
            self.columns[key] = found
            while len(self.columns) > MOST_KEPT:
                self.columns.popitem(last=False)
        return found


_kept = _Kept()


def plain_column(column: TableColumn, unit: str | None) -> PlainColumn:
    data = _kept.get((column.id, column.kind), lambda: unpacked(column))
    bad = [(int(row), str(cell)) for row, cell in json.loads(column.bad)]
    if column.kind == "text":
        return PlainColumn(column.name, unit, None, data.values, bad, column.bad_count)
    return PlainColumn(column.name, unit, data.values, None, bad, column.bad_count, data.errors)


class Cells(NamedTuple):
    """The numbers or texts of a column, and of uncertain numbers their standard uncertainties."""

    values: Any
    errors: Any = None


def unpacked(column: TableColumn | store.NewColumn) -> Cells:
    """Of a column, kept or not yet."""
    body = zlib.decompress(column.data)
    if column.kind == "text":
        return Cells(json.loads(body))
    numbers = np.frombuffer(body, dtype="<f8")
    return Cells(*np.split(numbers, 2)) if column.kind == "uncertain" else Cells(numbers)


def plain_columns(file: TableFile, recipe: Recipe, wanted: frozenset[str] | None = None) -> list[PlainColumn]:
    """The columns of a table under the names and with the units that its recipe says now."""
    kept = [c for c in recipe.columns if c.kept]
    found = []
    for column, said in zip(file.columns, kept, strict=False):
        if wanted is None or said.name in wanted:
            plain = plain_column(column, said.unit)
            plain.name = said.name
            found.append(plain)
    return found


def ready_table(file: TableFile, recipe: Recipe, wanted: frozenset[str] | None = None) -> FileTable:
    # What is computed may rest on any column.
    return ready(plain_columns(file, recipe, None if recipe.computed else wanted), recipe, file.sha256)


def tables_for(services: Services, session: Session, folio_id: int, script: str) -> dict[str, str]:
    """The tables that a script names, with the columns that it uses, packed for a run."""
    if "table" not in script:
        return {}
    used = columns_used(script, BUILTINS)
    found = {}
    for file in store.table_files(session, folio_id):
        if file.name in used:
            ensure_read(services, session, file)
            found[file.name] = base64.b64encode(packed(ready_table(file, recipe_of(file), used[file.name]))).decode()
    return found


def computed_column(services: Services, file: TableFile, recipe: Recipe, name: str) -> Any:
    """The numbers of a computed column; raises Refusal where its formula cannot be worked out."""
    key = (file.id, f"{file.sha256} {file.recipe} {name}")

    def work() -> Any:
        script = f'table t from "{file.name}"\nv = t."{name}"'
        table = base64.b64encode(packed(ready_table(file, recipe))).decode()
        try:
            text = services.engine.value(script, "v", {file.name: table})
        except JobFailed as trouble:
            raise Refusal(422, "computed", str(trouble)) from None
        return np.array([float("nan") if cell == "gap" else float(cell) for cell in text.split()[1:]])

    return _kept.get(key, work)
