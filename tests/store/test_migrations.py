"""From every earlier shape of the store to the newest with what was kept in it, and back; backup and restore."""

from __future__ import annotations

import gzip
import hashlib
import json
import zlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import func, select, text

from open_lemma.service.backup import BadBackup, backup, faults, restore
from open_lemma.store import folios as store
from open_lemma.store import tables
from open_lemma.store.database import MIGRATIONS, Database
from open_lemma.store.models import Base, Content

VERSIONS = ("0001", "0002", "0003", "0004", "0005")
SCRIPT = 'title "ä 名 𝑥"\nshow 1'
BODY = {"schema": 1, "duration_s": 0.25, "findings": [{"number": 1, "summary": "½ √"}], "figures": []}
SVG, DATA = b"<svg>\xc3\xa4</svg>", b'{"panels": []}'
FILE = b"h;q\n1,5;2\n"
OLD = bytes(range(256)) * 10_001  # three pieces, the last of them short


def move(database: Database, to: str) -> None:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with database.engine.begin() as connection:
        config.attributes["connection"] = connection
        (command.downgrade if to == "base" or to < _at(database) else command.upgrade)(config, to)


def _at(database: Database) -> str:
    with database.engine.begin() as connection:
        if not connection.execute(text("SHOW TABLES LIKE 'alembic_version'")).first():
            return ""
        return str(connection.execute(text("SELECT version_num FROM alembic_version")).scalar() or "")


def _sha(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def fill(database: Database, version: str) -> None:
    """What somebody with that version of the program has kept."""
    moment = "2026-01-02 03:04:05"
    sha = hashlib.sha256(SCRIPT.encode()).hexdigest()
    with database.engine.begin() as connection:

        def put(table: str, **values: Any) -> None:
            names = ", ".join(values)
            connection.execute(text(f"INSERT INTO {table} ({names}) VALUES ({', '.join(f':{n}' for n in values)})"), values)

        put("owner", id=1, name=store.LOCAL_OWNER)
        example = {"example": "One function"} if version >= "0004" else {}
        put("folio", id=5, owner_id=1, title="Quiet water", version=3, created_at=moment, changed_at=moment, deleted_at=None, **example)
        put("revision", id=7, folio_id=5, number=1, script=SCRIPT, script_sha256=sha, created_at=moment)
        contents = [json.dumps({**BODY, "duration_s": 0}, ensure_ascii=False).encode(), SVG, DATA]
        for content in contents if version >= "0005" else []:
            put("content", sha256=_sha(content), data=zlib.compress(content))
        for number in (1, 2):
            body: dict[str, Any] = {"body": json.dumps({**BODY, "duration_s": number / 4}, ensure_ascii=False)}
            drawn: dict[str, Any] = {"svg": SVG, "data": zlib.compress(DATA)}
            if version >= "0005":
                body, drawn = {"body_sha256": _sha(contents[0])}, {"svg_sha256": _sha(SVG), "data_sha256": _sha(DATA)}
            put(
                "record", id=10 + number, folio_id=5, revision_id=7, number=number, same_as=1 if number == 2 else None,
                result_sha256="0" * 64, duration_s=number / 4, created_at=moment, **body,
            )  # fmt: skip
            put("figure", id=20 + number, record_id=10 + number, place=1, name="f", **drawn)
        put("mark", name="demo-1", created_at=moment)
        if version >= "0002":
            more: dict[str, Any] = {"recipe": "{}", "row_count": 1, "number": 2} if version >= "0003" else {}
            more |= {"byte_count": len(FILE)} if version >= "0005" else {}
            put("table_file", id=3, folio_id=5, name="a.csv", data=FILE, sha256=_sha(FILE), changed_at=moment, **more)
        if version >= "0003":
            column = zlib.compress(b"\0" * 8)
            put("table_column", id=1, file_id=3, place=1, name="h", kind="number", data=column, bad="[]", bad_count=0, summary="{}")
            put("table_version", id=1, file_id=3, number=1, data=OLD, sha256=_sha(OLD), recipe="{}", row_count=1, created_at=moment)


def look(database: Database, version: str) -> None:
    """All of it is there, as the program of today reads it."""
    with database.session() as session:
        owner = store.local_owner(session)
        folio = store.folio(session, owner, 5)
        assert (folio.title, folio.version, store.latest_revision(session, 5).script) == ("Quiet water", 3, SCRIPT)
        assert folio.example == "One function"
        for number in (1, 2):
            record = store.record(session, owner, 10 + number)
            assert store.body_of(session, record) == {**BODY, "duration_s": number / 4}
            figure = store.figure(session, owner, 10 + number, "f")
            assert (store.figure_svg(session, figure), store.figure_data(session, figure)) == (SVG, DATA)
        # Two runs that gave the same have their drawing once.
        assert session.query(Content).count() == 3
        assert store.is_marked(session, "demo-1")
        if version >= "0002":
            file = tables.table_file(session, 5, "a.csv")
            assert (b"".join(tables.pieces_of(session, file)), file.byte_count) == (FILE, len(FILE))
        if version >= "0003":
            (column,) = tables.columns_of(session, file).values()
            assert (column.name, zlib.decompress(column.data)) == ("h", b"\0" * 8)
            assert b"".join(tables.pieces_of(session, tables.version(session, file, 1))) == OLD


def counts(database: Database) -> dict[str, int]:
    """How many rows each table has."""
    with database.snapshot() as session:
        return {table.name: session.execute(select(func.count()).select_from(table)).scalar_one() for table in Base.metadata.sorted_tables}


@pytest.mark.parametrize("version", VERSIONS)
def test_what_was_kept_by_an_earlier_version_is_there(empty: Callable[[], str], version: str) -> None:
    database = Database(empty())
    move(database, version)
    fill(database, version)
    database.migrate()
    look(database, version)
    assert faults(database) == []
    # Back and forth again: nothing is lost on the way.
    move(database, version)
    database.migrate()
    look(database, version)
    move(database, "base")
    database.dispose()


def test_a_backup_is_restored_as_it_was(empty: Callable[[], str], tmp_path: Path) -> None:
    old, new = empty(), empty()
    first = Database(old)
    move(first, "0004")
    fill(first, "0004")
    first.migrate()
    assert backup(old, tmp_path / "kept") > 1000
    assert (tmp_path / "kept").stat().st_mode & 0o077 == 0
    assert restore(new, tmp_path / "kept") == []
    second = Database(new)
    look(second, "0004")
    assert counts(second) == counts(first)
    with pytest.raises(BadBackup, match="--replace"):
        restore(new, tmp_path / "kept")
    with second.session() as session:
        store.create(session, store.local_owner(session), "Another", "")
    assert restore(new, tmp_path / "kept", replace=True) == []
    assert counts(second) == counts(first)
    first.dispose()
    second.dispose()


def test_a_backup_of_an_earlier_version_is_brought_to_the_newest_shape(empty: Callable[[], str], tmp_path: Path) -> None:
    old, new = empty(), empty()
    first = Database(old)
    move(first, "0003")
    fill(first, "0003")
    backup(old, tmp_path / "kept")
    assert restore(new, tmp_path / "kept") == []
    second = Database(new)
    look(second, "0003")
    first.dispose()
    second.dispose()


def test_what_is_no_whole_backup_is_refused_before_anything_is_replaced(empty: Callable[[], str], tmp_path: Path) -> None:
    address = empty()
    database = Database(address)
    database.migrate()
    with database.session() as session:
        store.create(session, store.local_owner(session), "Mine", "")
    backup(address, tmp_path / "kept")
    with pytest.raises(BadBackup, match="there already"):
        backup(address, tmp_path / "kept")
    whole = (tmp_path / "kept").read_bytes()
    for name, data in (("cut", whole[: len(whole) // 2]), ("other", b"no backup"), ("short", gzip.compress(b"CREATE TABLE x (y INT);"))):
        (tmp_path / name).write_bytes(data)
        with pytest.raises(BadBackup, match="no whole backup"):
            restore(address, tmp_path / name, replace=True)
    with pytest.raises(BadBackup, match="cannot be written"):
        backup(address, tmp_path / "nowhere" / "kept")
    assert counts(database)["folio"] == 1
    database.dispose()


def test_bytes_that_changed_are_found(empty: Callable[[], str]) -> None:
    address = empty()
    database = Database(address)
    move(database, "0004")
    fill(database, "0004")
    database.migrate()
    with database.engine.begin() as connection:
        connection.execute(text("UPDATE content SET data = :d LIMIT 1"), {"d": zlib.compress(b"something else")})
        connection.execute(text("UPDATE piece SET data = 'x'"))
    found = faults(database)
    assert any("is not what it was" in f and f.startswith("content") for f in found)
    assert any("a.csv" in f for f in found)
    with database.engine.begin() as connection:
        connection.execute(text("DELETE FROM content"))
    assert any("record 1 of 'Quiet water' is not whole" in f for f in faults(database))
    database.dispose()
