"""Messages of a record: where, what, and the edits that a click applies. Lines and columns count from 1."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Severity = Literal["error", "warning", "note"]


@dataclass(frozen=True, kw_only=True, slots=True)
class EditRecord:
    """Replace the text from one place to another; `end_line` where that is in another line."""

    line: int
    column: int
    end_column: int
    text: str
    end_line: int | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class FixRecord:
    """A way out; without edits it is advice only."""

    label: str
    edits: list[EditRecord]


@dataclass(frozen=True, kw_only=True, slots=True)
class MessageRecord:
    """What is wrong, or to be minded. `fix`: the first fix; `fixes`: all, where there is a choice."""

    severity: Severity
    code: str
    line: int
    column: int
    end_column: int
    text: str
    fix: FixRecord | None = None
    fixes: list[FixRecord] | None = None
