"""Backup and restore of all that is kept: one compressed file of SQL, written by MariaDB's own program from one moment of the database.

What is restored is brought to the newest shape and looked through: every drawing, body and table file must have the fingerprint that it
was kept under.
"""

from __future__ import annotations

import gzip
import hashlib
import os
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import make_url, select, text

from ..store import blobs, contents
from ..store.database import Database
from ..store.models import Content, Figure, Folio, Record, TableFile, TableVersion
from .mariadb import program

CHUNK = 1 << 20
_END = b"-- Dump completed"


class BadBackup(RuntimeError):
    """It cannot be done; the text says why and what to do."""


@contextmanager
def _login(url: str) -> Iterator[tuple[str, str]]:
    """A file that tells MariaDB's programs how to log in, so that no password stands in a list of processes; the database's name."""
    parts = make_url(url)
    handle, name = tempfile.mkstemp(prefix="open-lemma-login-")
    try:
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            password = (parts.password or "").replace("\\", "\\\\").replace('"', '\\"')
            file.write(f'[client]\nhost="{parts.host}"\nport={parts.port or 3306}\nuser="{parts.username}"\npassword="{password}"\n')
        yield f"--defaults-extra-file={name}", parts.database or ""
    finally:
        os.unlink(name)


def backup(url: str, path: Path) -> int:
    """Write all that is kept into a new file; the number of its bytes. Others work on meanwhile. Raises BadBackup."""
    if path.exists():
        raise BadBackup(f"{path} is there already; name a new file")
    unfinished = path.with_name(f"{path.name}.unfinished")
    try:
        with _login(url) as (login, name), unfinished.open("wb") as raw, gzip.open(raw, "wb", 6) as file:
            command = [
                program("mariadb-dump", "mysqldump"), login, "--single-transaction", "--quick", "--hex-blob", "--skip-lock-tables",
                "--default-character-set=utf8mb4", "--max-allowed-packet=512M", name,
            ]  # fmt: skip
            with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as dump:
                assert dump.stdout is not None
                assert dump.stderr is not None
                while piece := dump.stdout.read(CHUNK):
                    file.write(piece)
                trouble = dump.stderr.read().decode(errors="replace").strip()
            if dump.returncode:
                raise BadBackup(f"MariaDB could not write it: {trouble}")
        _look_through(unfinished)
        with unfinished.open("rb") as done:
            os.fsync(done.fileno())
        os.chmod(unfinished, 0o600)
        unfinished.rename(path)
    except OSError as trouble:
        raise BadBackup(f"{path} cannot be written: {trouble.strerror}") from None
    finally:
        unfinished.unlink(missing_ok=True)
    return path.stat().st_size


def _look_through(path: Path) -> None:
    """Whether a backup is whole: it can be read to its end, and says there that it is. Raises BadBackup."""
    last = b""
    try:
        with gzip.open(path, "rb") as file:
            while piece := file.read(CHUNK):
                last = (last + piece)[-400:]
    except (OSError, EOFError):
        last = b""
    if _END not in last:
        raise BadBackup(f"{path} is no whole backup: it ends in the middle, or is something else")


def restore(url: str, path: Path, replace: bool = False) -> list[str]:
    """Put back what a backup holds, instead of what is there; what was found amiss in it. Raises BadBackup."""
    _look_through(path)
    database = Database(url)
    try:
        with database.engine.begin() as connection:
            tables = [row[0] for row in connection.execute(text("SHOW TABLES"))]
            if "folio" in tables and not replace and connection.execute(text("SELECT COUNT(*) FROM folio")).scalar_one():
                raise BadBackup("this database has folios in it; --replace puts the backup in their place")
            connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
            for table in tables:
                connection.execute(text(f"DROP TABLE `{table}`"))
            connection.execute(text("SET FOREIGN_KEY_CHECKS = 1"))
        with _login(url) as (login, name), gzip.open(path, "rb") as file:
            command = [program("mariadb", "mysql"), login, "--max-allowed-packet=512M", "--default-character-set=utf8mb4", name]
            with subprocess.Popen(command, stdin=subprocess.PIPE, stderr=subprocess.PIPE) as load:
                assert load.stdin is not None
                assert load.stderr is not None
                try:
                    shutil.copyfileobj(file, load.stdin, CHUNK)
                    load.stdin.close()
                except BrokenPipeError:
                    pass
                trouble = load.stderr.read().decode(errors="replace").strip()
            if load.returncode:
                raise BadBackup(f"MariaDB could not read it: {trouble}")
        database.migrate()
        return faults(database)
    finally:
        database.dispose()


def faults(database: Database) -> list[str]:
    """What is amiss with what is kept: bytes that are not those of their fingerprint, and such as are missing."""
    found = []
    with database.snapshot() as session:
        known = list(session.scalars(select(Content.sha256)))
        for digest in known:
            if hashlib.sha256(contents.get(session, digest)).hexdigest() != digest:
                found.append(f"content {digest[:12]} is not what it was")
        there = set(known)
        for record, number, folio, kept in session.execute(
            select(Record.id, Record.number, Folio.title, Record.body_sha256).join(Folio, Record.folio_id == Folio.id)
        ):
            drawn = session.execute(select(Figure.svg_sha256, Figure.data_sha256).where(Figure.record_id == record)).all()
            if not {kept, *(d for pair in drawn for d in pair)} <= there:
                found.append(f"record {number} of '{folio}' is not whole")
        for table in session.scalars(select(TableFile)):
            with_older: list[TableFile | TableVersion] = [table, *table.versions]
            for held in with_older:
                sha256 = hashlib.sha256()
                for piece in blobs.pieces(session, held.blob_id):
                    sha256.update(piece)
                if sha256.hexdigest() != held.sha256:
                    found.append(f"version {held.number} of the table file '{table.name}' is not what it was")
    return found
