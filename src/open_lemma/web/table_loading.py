"""Tables between the store and the engine: files brought in and read there, kept columns bundled for it, never unpacked here."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Any

from sqlalchemy.orm import Session

from ..engine.asking import Event, JobFailed
from ..files.bundle import StoredColumn, bundle, places_of
from ..store import tables as store
from ..store.models import TableFile, TableVersion
from .errors import Refusal
from .services import Services

MAX_FILE_BYTES = 200_000_000
_CHUNK = 1 << 20


@contextmanager
def spooled(services: Services, chunks: Iterator[bytes]) -> Iterator[str]:
    """What a request brings, in a file of its own while it is worked with."""
    size = 0
    with services.engine.place() as path:
        with open(path, "wb") as file:
            for chunk in chunks:
                size += len(chunk)
                if size > MAX_FILE_BYTES:
                    raise Refusal(413, "too-large", f"a file may have up to {MAX_FILE_BYTES // 1_000_000} MB")
                file.write(chunk)
        yield path


def write_kept(session: Session, kept: TableFile | TableVersion, path: str) -> None:
    """A file as it came, out of the store to a path, never whole in memory. Ask within a snapshot."""
    with open(path, "wb") as file:
        file.writelines(store.pieces_of(session, kept))


def chunks_of(stream: Any) -> Iterator[bytes]:
    while chunk := stream.read(_CHUNK):
        yield chunk


def read_whole(services: Services, path: str, name: str, recipe: str, who: str = "") -> tuple[Event, list[store.Column]]:
    """A file as columns to be kept. Raises JobFailed."""
    found, bodies = services.engine.read_table(path, name, recipe, who)
    columns = [
        store.Column(c["name"][:200], c["kind"], body, json.dumps(c["bad"]), c["bad_count"], json.dumps(c["summary"]))
        for c, body in zip(found["columns"], bodies, strict=True)
    ]
    return found, columns


def ensure_read(services: Services, folio_id: int, names: frozenset[str] | None = None) -> None:
    """Files that were brought in by an earlier version of this program are read now; those that are no table stay as they are."""
    with services.session() as session:
        unread = [f.name for f in store.unread_files(session, folio_id) if names is None or f.name in names]
    for name in unread:
        with services.engine.place() as path:
            with services.snapshot() as session:
                write_kept(session, store.table_file(session, folio_id, name), path)
            try:
                found, columns = read_whole(services, path, name, "")
            except JobFailed:
                if names is not None:
                    raise
                continue  # it is told where a script names it
        with services.session() as session:
            file = store.table_file(session, folio_id, name, hold=True)
            if not file.recipe:
                store.set_columns(session, file, json.dumps(found["recipe"]), found["rows"], columns)


def as_stored(columns: Mapping[int, store.Column]) -> dict[int, StoredColumn]:
    return {place: StoredColumn(c.kind, c.data, c.bad, c.bad_count) for place, c in columns.items()}


def bundled(session: Session, file: TableFile, wanted: frozenset[str] | None = None) -> bytes:
    """The columns of a table as they are kept, for the engine, within a snapshot: of a script those that it names (`wanted`)."""
    recipe = json.loads(file.recipe)
    columns = store.columns_of(session, file, places_of(recipe, wanted))
    return bundle(as_stored(columns), recipe, file.sha256, file.row_count)


def tables_for(services: Services, folio_id: int, script: str, who: str = "") -> dict[str, bytes]:
    """The tables that a script names, with the columns that it uses, bundled for a run."""
    if "table" not in script:
        return {}
    with services.session() as session:
        if not store.has_tables(session, folio_id):
            return {}
    try:
        used = services.engine.quick("uses", who, script=script)["uses"]
    except JobFailed:
        return {}  # the run will say what is amiss with the script
    if not used:
        return {}
    ensure_read(services, folio_id, frozenset(used))
    with services.snapshot() as session:
        return {
            file.name: bundled(session, file, None if used[file.name] is None else frozenset(used[file.name]))
            for file in store.table_files(session, folio_id)
            if file.name in used and file.recipe
        }
