"""Room on the disk where everything is kept: told of before it is gone."""

from __future__ import annotations

import re
import shutil
from dataclasses import dataclass
from pathlib import Path

from ..store.database import FULL

LOW_BYTES = 1_000_000_000  # below which people are told
LEAST_BYTES = 250_000_000  # below which nothing more is kept: a database that finds no room at all may end
_KEEPS = re.compile(r"/api/folios(/\d+(/(duplicate|restore|runs|logger/tables|tables/(?!preview/).*))?)?\Z")


@dataclass(frozen=True, slots=True)
class Disk:
    """The disk under a folder; without one (the database is elsewhere) there is nothing to look at."""

    folder: Path | None = None
    low: int = LOW_BYTES
    least: int = LEAST_BYTES

    def free(self) -> int | None:
        return None if self.folder is None else shutil.disk_usage(self.folder).free

    def notice(self) -> str:
        """What people should know; empty where all is well."""
        free = self.free()
        if free is None or free > self.low:
            return ""
        left = f"{free // 1_000_000} MB are left"
        return f"The server's disk is full ({left}): what is there can be read, nothing can be saved." if free < self.least else (
            f"The server's disk is almost full: {left}."
        )  # fmt: skip

    def refuses(self, method: str, path: str) -> str:
        """Why a request may not keep anything now; empty where it may, or keeps nothing. What makes room is always let through."""
        free = self.free()
        if free is None or free >= self.least or method not in ("POST", "PUT", "PATCH") or not _KEEPS.match(path):
            return ""
        return str(FULL)
