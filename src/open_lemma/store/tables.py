"""Tables of a folio: files with their recipes, typed columns, older versions."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session, undefer

from .folios import NotFound
from .models import Folio, TableColumn, TableFile, TableVersion, now


@dataclass(frozen=True, slots=True)
class NewColumn:
    """A column as it is to be kept: `data` compressed, `bad` and `summary` as JSON."""

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
    asked = select(TableFile).where(TableFile.folio_id == folio_id, TableFile.recipe == "").options(undefer(TableFile.data))
    return list(session.scalars(asked))


def columns_with_data(session: Session, file: TableFile) -> list[TableColumn]:
    asked = select(TableColumn).where(TableColumn.file_id == file.id).options(undefer(TableColumn.data)).order_by(TableColumn.place)
    return list(session.scalars(asked.execution_options(populate_existing=True)))


def table_file(session: Session, folio_id: int, name: str, hold: bool = False) -> TableFile:
    """A table by the name of its file; held against others who change it. Raises NotFound."""
    asked = select(TableFile).where(TableFile.folio_id == folio_id, TableFile.name == name)
    found = session.scalar(asked.with_for_update() if hold else asked)
    if found is None:
        raise NotFound
    return found


def put_table(
    session: Session, folio_id: int, name: str, data: bytes, recipe: str, rows: int, columns: Sequence[NewColumn]
) -> TableFile:  # fmt: skip
    """Bring a file in; one that is there under that name is kept as an older version, unless it is the same."""
    # Held, so that two files of one name that come at once are a first and a second version.
    session.execute(select(Folio.id).where(Folio.id == folio_id).with_for_update())
    found = session.scalar(select(TableFile).where(TableFile.folio_id == folio_id, TableFile.name == name).with_for_update())
    fingerprint = hashlib.sha256(data).hexdigest()
    if found is None:
        found = TableFile(folio_id=folio_id, name=name, number=1)
        session.add(found)
    elif found.sha256 != fingerprint:
        found.versions.append(
            TableVersion(
                number=found.number, data=found.data, sha256=found.sha256, recipe=found.recipe, row_count=found.row_count,
                created_at=found.changed_at,
            )
        )  # fmt: skip
        found.number += 1
    found.data, found.sha256, found.byte_count = data, fingerprint, len(data)
    set_columns(session, found, recipe, rows, columns)
    return found


def set_columns(session: Session, found: TableFile, recipe: str, rows: int, columns: Sequence[NewColumn]) -> None:
    """Keep what the file was read as."""
    found.columns.clear()
    session.flush()
    found.columns = [
        TableColumn(place=k, name=c.name, kind=c.kind, data=c.data, bad=c.bad, bad_count=c.bad_count, summary=c.summary)
        for k, c in enumerate(columns, 1)
    ]
    set_recipe(session, found, recipe)
    found.row_count = rows
    session.flush()


def set_recipe(session: Session, found: TableFile, recipe: str) -> None:
    found.recipe, found.changed_at = recipe, now()
    session.flush()


def remove_table(session: Session, folio_id: int, name: str) -> None:
    session.delete(table_file(session, folio_id, name))


def copy_tables(session: Session, folio_id: int, to: int) -> None:
    """All tables of one folio for another; older versions stay behind."""
    for found in table_files(session, folio_id):
        columns = [NewColumn(c.name, c.kind, c.data, c.bad, c.bad_count, c.summary) for c in columns_with_data(session, found)]
        put_table(session, to, found.name, found.data, found.recipe, found.row_count, columns)


def version(session: Session, found: TableFile, number: int) -> TableVersion:
    """An older version by its number. Raises NotFound."""
    asked = session.scalar(select(TableVersion).where(TableVersion.file_id == found.id, TableVersion.number == number))
    if asked is None:
        raise NotFound
    return asked
