"""What is kept: owners, folios, revisions of their scripts, records of runs with their figures."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import BigInteger, DateTime, Float, ForeignKey, Index, Integer, LargeBinary, String, Text, UniqueConstraint
from sqlalchemy.dialects.mysql import LONGBLOB, LONGTEXT, MEDIUMBLOB, MEDIUMTEXT
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

LongText = Text().with_variant(LONGTEXT(), "mysql", "mariadb")
ScriptText = Text().with_variant(MEDIUMTEXT(), "mysql", "mariadb")
MediumBytes = LargeBinary().with_variant(MEDIUMBLOB(), "mysql", "mariadb")
LongBytes = LargeBinary().with_variant(LONGBLOB(), "mysql", "mariadb")


def now() -> datetime:
    """UTC without a zone: MariaDB's DATETIME keeps none."""
    return datetime.now(UTC).replace(tzinfo=None, microsecond=0)


class Base(DeclarativeBase):
    pass


class Owner(Base):
    __tablename__ = "owner"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120), unique=True)


class Folio(Base):
    """One piece of work. `version` rises with every change; a change made from an older one is refused."""

    __tablename__ = "folio"

    id: Mapped[int] = mapped_column(primary_key=True)
    owner_id: Mapped[int] = mapped_column(ForeignKey("owner.id"))
    title: Mapped[str] = mapped_column(String(200))
    version: Mapped[int] = mapped_column(Integer)
    created_at: Mapped[datetime] = mapped_column(DateTime, default=now)
    changed_at: Mapped[datetime] = mapped_column(DateTime, default=now)
    deleted_at: Mapped[datetime | None] = mapped_column(DateTime, default=None)
    example: Mapped[str] = mapped_column(String(60), default="")  # what it shows, of those that came with the application

    revisions: Mapped[list[Revision]] = relationship(back_populates="folio", order_by="Revision.number")
    records: Mapped[list[Record]] = relationship(back_populates="folio", order_by="Record.number")

    __mapper_args__ = {"version_id_col": version}
    __table_args__ = (Index("folio_by_owner", "owner_id", "deleted_at"),)


class Content(Base):
    """Bytes by their fingerprint, compressed: what comes out the same again is kept once."""

    __tablename__ = "content"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    data: Mapped[bytes] = mapped_column(LongBytes)


class Blob(Base):
    """Bytes of any size that belong to one holder: a table's file, an older version of it, or a column."""

    __tablename__ = "blob"

    id: Mapped[int] = mapped_column(primary_key=True)


class Piece(Base):
    """Up to 1 MB of a blob, so that no statement is as long as a file."""

    __tablename__ = "piece"

    blob_id: Mapped[int] = mapped_column(ForeignKey("blob.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    data: Mapped[bytes] = mapped_column(MediumBytes)


class Revision(Base):
    """A script as it was saved."""

    __tablename__ = "revision"

    id: Mapped[int] = mapped_column(primary_key=True)
    folio_id: Mapped[int] = mapped_column(ForeignKey("folio.id"))
    number: Mapped[int]
    script: Mapped[str] = mapped_column(ScriptText)
    script_sha256: Mapped[str] = mapped_column(String(64))
    created_at: Mapped[datetime] = mapped_column(DateTime, default=now)

    folio: Mapped[Folio] = relationship(back_populates="revisions")

    __table_args__ = (UniqueConstraint("folio_id", "number"),)


class Record(Base):
    """One run, kept. `result_sha256` tells runs apart by what came out, the time taken aside; `run` is its id in the engine.

    The body is the content of `body_sha256`, with 0 for the time that it took, so that runs of one result have one body.
    """

    __tablename__ = "record"

    id: Mapped[int] = mapped_column(primary_key=True)
    folio_id: Mapped[int] = mapped_column(ForeignKey("folio.id"))
    revision_id: Mapped[int] = mapped_column(ForeignKey("revision.id"))
    number: Mapped[int]
    same_as: Mapped[int | None]
    body_sha256: Mapped[str] = mapped_column(String(64))
    run: Mapped[str | None] = mapped_column(String(24), default=None, unique=True)
    result_sha256: Mapped[str] = mapped_column(String(64))
    duration_s: Mapped[float] = mapped_column(Float)
    created_at: Mapped[datetime] = mapped_column(DateTime, default=now)

    folio: Mapped[Folio] = relationship(back_populates="records")
    revision: Mapped[Revision] = relationship()
    figures: Mapped[list[Figure]] = relationship(back_populates="record", order_by="Figure.place", cascade="all, delete-orphan")

    __table_args__ = (UniqueConstraint("folio_id", "number"), Index("record_by_result", "folio_id", "result_sha256"))


class Figure(Base):
    """A figure of a record: the drawing for the screen, and the data from which it can be drawn again, as contents."""

    __tablename__ = "figure"

    id: Mapped[int] = mapped_column(primary_key=True)
    record_id: Mapped[int] = mapped_column(ForeignKey("record.id"))
    place: Mapped[int]
    name: Mapped[str] = mapped_column(String(200))
    svg_sha256: Mapped[str] = mapped_column(String(64))
    data_sha256: Mapped[str] = mapped_column(String(64))

    record: Mapped[Record] = relationship(back_populates="figures")

    __table_args__ = (UniqueConstraint("record_id", "place"),)


class TableFile(Base):
    """A file that a folio's scripts read a table from: its bytes as they came, and the recipe by which they are read."""

    __tablename__ = "table_file"

    id: Mapped[int] = mapped_column(primary_key=True)
    folio_id: Mapped[int] = mapped_column(ForeignKey("folio.id"))
    name: Mapped[str] = mapped_column(String(200))
    blob_id: Mapped[int] = mapped_column(ForeignKey("blob.id"))
    byte_count: Mapped[int] = mapped_column(BigInteger, default=0)
    sha256: Mapped[str] = mapped_column(String(64))
    changed_at: Mapped[datetime] = mapped_column(DateTime, default=now)
    recipe: Mapped[str] = mapped_column(LongText, default="")
    row_count: Mapped[int] = mapped_column(default=0)
    number: Mapped[int] = mapped_column(default=1)

    columns: Mapped[list[TableColumn]] = relationship(order_by="TableColumn.place", cascade="all, delete-orphan", passive_deletes=True)
    versions: Mapped[list[TableVersion]] = relationship(order_by="TableVersion.number", cascade="all, delete-orphan", passive_deletes=True)

    __table_args__ = (UniqueConstraint("folio_id", "name"),)


class TableColumn(Base):
    """One column of a table as it was read: doubles or texts, compressed; cells that could not be read, as JSON."""

    __tablename__ = "table_column"

    id: Mapped[int] = mapped_column(primary_key=True)
    file_id: Mapped[int] = mapped_column(ForeignKey("table_file.id", ondelete="CASCADE"))
    place: Mapped[int]
    name: Mapped[str] = mapped_column(String(200))
    kind: Mapped[str] = mapped_column(String(10))
    blob_id: Mapped[int] = mapped_column(ForeignKey("blob.id"))
    bad: Mapped[str] = mapped_column(LongText)
    bad_count: Mapped[int]
    summary: Mapped[str] = mapped_column(LongText)

    __table_args__ = (UniqueConstraint("file_id", "place"),)


class TableVersion(Base):
    """A file that a newer one of the same name took the place of."""

    __tablename__ = "table_version"

    id: Mapped[int] = mapped_column(primary_key=True)
    file_id: Mapped[int] = mapped_column(ForeignKey("table_file.id", ondelete="CASCADE"))
    number: Mapped[int]
    blob_id: Mapped[int] = mapped_column(ForeignKey("blob.id"))
    sha256: Mapped[str] = mapped_column(String(64))
    recipe: Mapped[str] = mapped_column(LongText)
    row_count: Mapped[int]
    created_at: Mapped[datetime] = mapped_column(DateTime, default=now)

    __table_args__ = (UniqueConstraint("file_id", "number"),)


class Mark(Base):
    """Something done once for this store, such as loading the demo."""

    __tablename__ = "mark"

    name: Mapped[str] = mapped_column(String(80), primary_key=True)
    created_at: Mapped[datetime] = mapped_column(DateTime, default=now)
