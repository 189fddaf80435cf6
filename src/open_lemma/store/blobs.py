"""Bytes of any size, in pieces: a file of 200 MB is hundreds of short statements, between which others have their turn."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Sequence

from sqlalchemy import delete, insert, literal, select
from sqlalchemy.orm import Session

from .models import Blob, Piece

PIECE = 1 << 20  # bytes


def put(session: Session, chunks: Iterable[bytes]) -> int:
    """Keep what comes, chunk by chunk; the number by which it is found again."""
    blob = Blob()
    session.add(blob)
    session.flush()
    number = 0
    for chunk in chunks:
        for start in range(0, len(chunk), PIECE):
            session.execute(insert(Piece).values(blob_id=blob.id, number=number, data=chunk[start : start + PIECE]))
            number += 1
    return blob.id


def pieces(session: Session, blob: int) -> Iterator[bytes]:
    """The bytes in their order. They may be dropped meanwhile: ask within a snapshot, or hold what they belong to."""
    for number in _numbers(session, blob):
        yield session.execute(select(Piece.data).where(Piece.blob_id == blob, Piece.number == number)).scalar_one()


def get(session: Session, blob: int) -> bytes:
    return b"".join(pieces(session, blob))


def copy(session: Session, blob: int) -> int:
    """The same bytes once more; they do not leave the database."""
    made = put(session, ())
    for number in _numbers(session, blob):
        asked = select(literal(made), Piece.number, Piece.data).where(Piece.blob_id == blob, Piece.number == number)
        session.execute(insert(Piece).from_select(["blob_id", "number", "data"], asked))
    return made


def drop(session: Session, blobs: Collection[int]) -> None:
    for blob in sorted(blobs):
        for number in _numbers(session, blob):
            session.execute(delete(Piece).where(Piece.blob_id == blob, Piece.number == number))
        session.execute(delete(Blob).where(Blob.id == blob))


def _numbers(session: Session, blob: int) -> Sequence[int]:
    return session.scalars(select(Piece.number).where(Piece.blob_id == blob).order_by(Piece.number)).all()
