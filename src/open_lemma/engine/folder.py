"""A folder for sockets and files on their way, which is gone when its process is, however that ended."""

from __future__ import annotations

import fcntl
import os
import secrets
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

_PREFIX = "open-lemma-"
_OWNER = "owner"


class OwnedFolder:
    """Made in the temporary folder and held by a lock, which the kernel lets go of with the process; `close` takes it away."""

    def __init__(self) -> None:
        sweep()
        self.path = Path(tempfile.mkdtemp(prefix=_PREFIX))
        self._lock = os.open(self.path / _OWNER, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        fcntl.flock(self._lock, fcntl.LOCK_EX)

    def close(self) -> None:
        shutil.rmtree(self.path, ignore_errors=True)
        with suppress(OSError):
            os.close(self._lock)


@contextmanager
def place_in(folder: Path) -> Iterator[str]:
    """A path for a file on its way; the file is taken away at the end."""
    path = folder / secrets.token_urlsafe(12)
    try:
        yield str(path)
    finally:
        with suppress(OSError):
            path.unlink()


def sweep() -> None:
    """Take away folders of this user whose process is gone."""
    for folder in Path(tempfile.gettempdir()).glob(f"{_PREFIX}*"):
        with suppress(OSError):
            if folder.stat().st_uid != os.geteuid():
                continue
            handle = os.open(folder / _OWNER, os.O_RDWR | os.O_CLOEXEC | os.O_NOFOLLOW)
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                shutil.rmtree(folder, ignore_errors=True)
            finally:
                os.close(handle)
