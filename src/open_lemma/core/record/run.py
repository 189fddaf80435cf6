"""The record of a run: everything that came of it, as record.json and the page have it."""

from __future__ import annotations

from dataclasses import dataclass

from .figures import FigureRecord, NoteRecord
from .findings import FindingRecord
from .messages import MessageRecord
from .plain import Json

SCHEMA = 1


@dataclass(frozen=True, kw_only=True, slots=True)
class ReadingRecord:
    """A definition as the program understood it: as mathematics and as text of the language."""

    line: int
    latex: str
    text: str


@dataclass(frozen=True, kw_only=True, slots=True)
class RunRecord:
    """The same script, tables and versions give the same record but for `duration_s`, in seconds.

    tables   files that were read, with their fingerprints and what was mended in them
    """

    schema: int
    script_sha256: str
    versions: dict[str, str]
    tables: list[dict[str, Json]]
    duration_s: float
    findings: list[FindingRecord]
    figures: list[FigureRecord]
    readings: list[ReadingRecord]
    notes: list[NoteRecord]
    messages: list[MessageRecord]
