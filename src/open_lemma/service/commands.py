"""What the command line does with a server's data: back up, while the server goes on, and restore, while it does not."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from .backup import BadBackup, backup, restore
from .mariadb import NoDatabase, OwnServer
from .settings import BadSetting, Settings

TROUBLE = (BadBackup, BadSetting, NoDatabase)


@contextmanager
def _alone(data: Path) -> Iterator[bool]:
    """Whether no server works with a data folder now; while this is held, none can begin."""
    data.mkdir(parents=True, exist_ok=True)
    handle = os.open(data / "serving", os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o644)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        yield False
    else:
        yield True
    finally:
        os.close(handle)


@contextmanager
def _database(settings: Settings, by_itself: bool) -> Iterator[str]:
    """The address of the database: where DATABASE_URL says, or of the server of the data folder, started where it does not run."""
    if settings.database_url is not None:
        yield settings.database_url
        return
    with _alone(settings.data) as alone:
        own = OwnServer(settings.data)
        if not alone:
            if by_itself:
                raise BadBackup("the server is running; stop it first, so that nobody writes into what is replaced")
            yield own.running()
            return
        try:
            yield own.start()
        finally:
            own.stop()


def back_up(path: Path) -> str:
    """Write a backup; what was done, as a sentence."""
    with _database(Settings.from_environment(), False) as url:
        size = backup(url, path)
    return f"{path}: {max(size // 1000, 1)} kB. It holds all folios, records and tables; it is readable by you only."


def put_back(path: Path, replace: bool) -> tuple[str, list[str]]:
    """Restore a backup; what was done, as a sentence, and what was found amiss."""
    with _database(Settings.from_environment(), True) as url:
        amiss = restore(url, path, replace)
    return (f"{path} is restored" + (", but not whole:" if amiss else "; every drawing and record has its fingerprint.")), amiss
