"""What comes of a run."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from ...figure.model import FigureData
from ...language.syntax.parser import Reading
from ...record.findings import Finding
from ...record.plain import plain
from ..figures.notes import FigureNote
from ..trace import Trace, named, seen
from ..values import Frame


@dataclass
class DrawnFigure:
    data: FigureData
    notes: list[FigureNote]
    part: str | None
    drawing: Any = None  # kept once it was made, so that it is not made again


@dataclass
class Outcome:
    """What came of a run: findings and figures in order, readings of definitions, and all messages."""

    reading: Reading
    findings: list[Finding] = field(default_factory=list)
    figures: list[DrawnFigure] = field(default_factory=list)
    readings: list[dict[str, Any]] = field(default_factory=list)
    notes: list[dict[str, Any]] = field(default_factory=list)  # prose for the page
    names: Frame = field(default_factory=Frame)  # what names stand for at the end
    tables: list[dict[str, Any]] = field(default_factory=list)  # files that were read, with their fingerprints and what was mended
    trace: Trace | None = None
    reused: list[int] = field(default_factory=list)  # lines of statements whose results were kept from the run before

    @property
    def failed(self) -> bool:
        return self.reading.messages.has_errors()

    def names_seen(self) -> list[dict[str, Any]]:
        """All names with their values, for the names sheet."""
        return [plain(named(n, seen(v))) for n, v in self.names.items()]


class UnknownPart(ValueError):
    """The script has no part of that title."""
