"""What a handler gets, and how it says that something cannot be done."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import ExitStack
from pathlib import Path
from typing import Any, BinaryIO

from ...core.run.tables import FileTable
from ...files.opening import opened
from ..pipe import Pipe
from ..protocol import Job


class NotDone(Exception):
    """A job that cannot be done as it was asked: why, for programs and for people."""

    def __init__(self, reason: str, text: str) -> None:
        super().__init__(text)
        self.reason = reason


class Work:
    """A job at work: where its events go, its tables, its files, opened before the process gave up the right to open any."""

    def __init__(self, job: Job, pipe: Pipe) -> None:
        self.job, self.pipe = job, pipe
        self._open = ExitStack()
        self._files = {name: self._open.enter_context(Path(path).open("rb")) for name, path in job.files.items()}  # noqa: SIM115
        self.out: BinaryIO | None = self._open.enter_context(Path(job.out).open("wb")) if job.out else None  # noqa: SIM115
        self._tables: dict[str, FileTable] = {}

    def table(self, name: str) -> FileTable | None:
        """A table at hand by the name of its file, unpacked when it is first asked for."""
        if name not in self._tables and name in self.job.tables:
            self._tables[name] = opened(self.job.tables[name]).table()
        return self._tables.get(name)

    def file(self, name: str) -> bytes:
        """All bytes of a file that goes along."""
        with self._files.pop(name) as file:
            return file.read()

    def close(self) -> None:
        self._open.close()


# Called with the work and, by name, what the job is given; gives what the last event holds, or that event itself.
Handler = Callable[..., dict[str, Any]]

__all__ = ["Handler", "NotDone", "Work"]
