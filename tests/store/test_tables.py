"""Files of tables in the store: versions, copies, and no byte that belongs to nobody."""

from __future__ import annotations

import io
import random

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from open_lemma.store import blobs, tables
from open_lemma.store import folios as store
from open_lemma.store.database import Database
from open_lemma.store.models import Blob, Piece, TableColumn, TableFile, TableVersion

LONG = random.Random(5).randbytes(2 * blobs.PIECE + 17)


def column(name: str, data: bytes) -> tables.Column:
    return tables.Column(name, "number", data, "[]", 0, "{}")


def held(session: Session) -> set[int]:
    """The blobs that belong to something."""
    return {blob for kind in (TableFile, TableVersion, TableColumn) for blob in session.scalars(select(kind.blob_id))}


def nothing_is_left_over(session: Session) -> None:
    assert set(session.scalars(select(Blob.id))) == held(session)
    assert set(session.scalars(select(Piece.blob_id))) <= held(session)
    assert session.execute(select(func.coalesce(func.max(func.length(Piece.data)), 0))).scalar_one() <= blobs.PIECE


@pytest.mark.parametrize("data", [b"", b"h\n1\n", LONG, LONG[: blobs.PIECE], LONG[: blobs.PIECE + 1]], ids=len)
def test_bytes_come_back_as_they_were(database: Database, data: bytes) -> None:
    with database.session() as session:
        kept = blobs.put(session, (data,))
        assert blobs.get(session, kept) == data
        copy = blobs.copy(session, kept)
        blobs.drop(session, (kept,))
        assert (blobs.get(session, kept), blobs.get(session, copy)) == (b"", data)
        blobs.drop(session, (copy,))
        nothing_is_left_over(session)


def test_versions_copies_and_removal_leave_nothing_over(database: Database) -> None:
    def put(data: bytes, *columns: tables.Column) -> None:
        with database.session() as session:
            tables.put_table(session, folio, "a.csv", io.BytesIO(data), "{}", 1, columns)
            nothing_is_left_over(session)

    with database.session() as session:
        owner = store.local_owner(session)
        folio, other = (store.create(session, owner, title, "").id for title in ("One", "Two"))
    put(b"first", column("h", LONG))
    put(LONG, column("h", b"1"), column("q", LONG))
    put(LONG, column("h", b"2"), column("q", b"3"))  # the same file read anew is no version
    with database.session() as session:
        tables.copy_tables(session, folio, other)
        nothing_is_left_over(session)
    for at in (folio, other):
        with database.snapshot() as session:
            file = tables.table_file(session, at, "a.csv")
            assert b"".join(tables.pieces_of(session, file)) == LONG
            assert {place: c.data for place, c in tables.columns_of(session, file).items()} == {1: b"2", 2: b"3"}
            assert list(tables.columns_of(session, file, [2])) == [2]
            assert [b"".join(tables.pieces_of(session, v)) for v in file.versions] == ([b"first"] if at == folio else [])
    with database.session() as session:
        tables.set_columns(session, tables.table_file(session, folio, "a.csv", hold=True), "{}", 1, [column("q", LONG)])
        nothing_is_left_over(session)
        for at in (folio, other):
            tables.remove_table(session, at, "a.csv")
            nothing_is_left_over(session)
        assert not held(session)
