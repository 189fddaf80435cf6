"""Tables of a folio: files with their recipes, typed columns, older versions."""

from __future__ import annotations

import hashlib
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from io import SEEK_END, BufferedIOBase

from sqlalchemy import select
from sqlalchemy.orm import Session

from . import blobs
from .folios import NotFound
from .models import Folio, TableColumn, TableFile, TableVersion, now


@dataclass(frozen=True, slots=True)
class Column:
    """A column as it is kept: `data` compressed, `bad` and `summary` as JSON."""

    name: str
    kind: str
    data: bytes
    bad: str
    bad_count: int
    summary: str


def table_files(session: Session, folio_id: int) -> list[TableFile]:
    return list(session.scalars(select(TableFile).where(TableFile.folio_id == folio_id).order_by(TableFile.name)))


def has_tables(session: Session, folio_id: int) -> bool:
    return session.scalar(select(TableFile.id).where(TableFile.folio_id == folio_id).limit(1)) is not None


def has_table(session: Session, folio_id: int, name: str) -> bool:
    return session.scalar(select(TableFile.id).where(TableFile.folio_id == folio_id, TableFile.name == name)) is not None


def unread_files(session: Session, folio_id: int) -> list[TableFile]:
    """Files that were brought in before there were recipes, and not read since."""
    return list(session.scalars(select(TableFile).where(TableFile.folio_id == folio_id, TableFile.recipe == "")))


def pieces_of(session: Session, kept: TableFile | TableVersion) -> Iterator[bytes]:
    """A file as it came, piece by piece. Ask within a snapshot."""
    return blobs.pieces(session, kept.blob_id)


def columns_of(session: Session, file: TableFile, places: Collection[int] | None = None) -> dict[int, Column]:
    """The columns at these places, from 1, or all of them. Ask within a snapshot."""
    asked = select(TableColumn).where(TableColumn.file_id == file.id).order_by(TableColumn.place)
    if places is not None:
        asked = asked.where(TableColumn.place.in_(places))
    return {
        c.place: Column(c.name, c.kind, blobs.get(session, c.blob_id), c.bad, c.bad_count, c.summary) for c in session.scalars(asked)
    }  # fmt: skip


def table_file(session: Session, folio_id: int, name: str, hold: bool = False) -> TableFile:
    """A table by the name of its file; held against others who change it. Raises NotFound."""
    asked = select(TableFile).where(TableFile.folio_id == folio_id, TableFile.name == name)
    found = session.scalar(asked.with_for_update() if hold else asked)
    if found is None:
        raise NotFound
    return found


def put_table(
    session: Session, folio_id: int, name: str, file: BufferedIOBase, recipe: str, rows: int, columns: Sequence[Column]
) -> TableFile:  # fmt: skip
    """Bring a file in; one that is there under that name is kept as an older version, unless it is the same."""
    fingerprint = hashlib.file_digest(file, "sha256").hexdigest()
    size = file.seek(0, SEEK_END)
    file.seek(0)
    # The long part first, while nothing is held.
    blob = blobs.put(session, iter(lambda: file.read(blobs.PIECE), b""))
    kept = _kept(session, columns)
    # Held, so that two files of one name that come at once are a first and a second version.
    session.execute(select(Folio.id).where(Folio.id == folio_id).with_for_update())
    found = session.scalar(select(TableFile).where(TableFile.folio_id == folio_id, TableFile.name == name).with_for_update())
    unneeded = []
    if found is None:
        found = TableFile(folio_id=folio_id, name=name, number=1)
        session.add(found)
    elif found.sha256 == fingerprint:
        unneeded.append(found.blob_id)
    else:
        found.versions.append(
            TableVersion(
                number=found.number, blob_id=found.blob_id, sha256=found.sha256, recipe=found.recipe, row_count=found.row_count,
                created_at=found.changed_at,
            )
        )  # fmt: skip
        found.number += 1
    found.blob_id, found.sha256, found.byte_count = blob, fingerprint, size
    _set_columns(session, found, recipe, rows, kept)
    blobs.drop(session, unneeded)
    return found


def set_columns(session: Session, found: TableFile, recipe: str, rows: int, columns: Sequence[Column]) -> None:
    """Keep what the file was read as."""
    _set_columns(session, found, recipe, rows, _kept(session, columns))


def _kept(session: Session, columns: Sequence[Column]) -> list[TableColumn]:
    return [
        TableColumn(
            place=k, name=c.name, kind=c.kind, blob_id=blobs.put(session, (c.data,)), bad=c.bad, bad_count=c.bad_count, summary=c.summary,
        )
        for k, c in enumerate(columns, 1)
    ]  # fmt: skip


def _set_columns(session: Session, found: TableFile, recipe: str, rows: int, columns: list[TableColumn]) -> None:
    unneeded = [c.blob_id for c in found.columns]
    found.columns.clear()
    session.flush()
    blobs.drop(session, unneeded)
    found.columns = columns
    set_recipe(session, found, recipe)
    found.row_count = rows
    session.flush()


def set_recipe(session: Session, found: TableFile, recipe: str) -> None:
    found.recipe, found.changed_at = recipe, now()
    session.flush()


def remove_table(session: Session, folio_id: int, name: str) -> None:
    found = table_file(session, folio_id, name, hold=True)
    unneeded = [found.blob_id, *(c.blob_id for c in found.columns), *(v.blob_id for v in found.versions)]
    session.delete(found)
    session.flush()
    blobs.drop(session, unneeded)


def copy_tables(session: Session, folio_id: int, to: int) -> None:
    """All tables of one folio for another; older versions stay behind."""
    for named in table_files(session, folio_id):
        found = table_file(session, folio_id, named.name, hold=True)
        copy = TableFile(
            folio_id=to, name=found.name, number=1, blob_id=blobs.copy(session, found.blob_id), byte_count=found.byte_count,
            sha256=found.sha256, recipe=found.recipe, row_count=found.row_count,
        )  # fmt: skip
        copy.columns = [
            TableColumn(
                place=c.place, name=c.name, kind=c.kind, blob_id=blobs.copy(session, c.blob_id), bad=c.bad, bad_count=c.bad_count,
                summary=c.summary,
            )
            for c in found.columns
        ]  # fmt: skip
        session.add(copy)


def version(session: Session, found: TableFile, number: int) -> TableVersion:
    """An older version by its number. Raises NotFound."""
    asked = session.scalar(select(TableVersion).where(TableVersion.file_id == found.id, TableVersion.number == number))
    if asked is None:
        raise NotFound
    return asked
