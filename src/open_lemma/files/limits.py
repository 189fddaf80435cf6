"""How large a table may be, and how troubles of libraries are told."""

from __future__ import annotations

MAX_ROWS, MAX_COLUMNS = 1_000_000, 200
MAX_UNPACKED = 1_500_000_000  # bytes of an archive's parts together


def first_line(trouble: BaseException) -> str:
    return str(trouble).split("\n")[0][:160]
