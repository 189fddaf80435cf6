"""Findings: numbered results with their evidence."""

from __future__ import annotations

from dataclasses import dataclass, field

from .notation import LATEX, WORDS
from .plain import Json, plain, taken_over
from .rows import Evidence, Row, Shape
from .short import short_of


@dataclass(frozen=True, kw_only=True, slots=True)
class CloseUp:
    """A small picture of a function near a place: its values at evenly spaced places from `low` to `high`, null where there is none."""

    x: float
    low: float
    high: float
    y: list[float | None]


@dataclass(frozen=True, kw_only=True, slots=True)
class Residuals:
    """What a fit leaves over, against the first of its variables, for a small picture."""

    x: list[float]
    residuals: list[float]
    variable: str


Strip = list[tuple[float, float, str]]  # spans that were looked at, and what became of each


@dataclass(kw_only=True, slots=True)
class FindingFields:
    """What a statement found, as the record has it.

    part       of the script it stands in; `passes`: how often, where it stands in loops or calls
    complete   whether there are no others; `boxes`: how many were looked at
    variables  whose values the places are
    notes      sentences on what is to be minded; `summary` and `method` are sentences too
    strip      spans that were looked at, from where to where, and what became of each
    """

    number: int
    line: int
    name: str | None
    noun: str
    statement: str
    values: list[Row]
    evidence: Evidence
    complete: bool
    summary: str
    method: str
    notes: list[str]
    latex: str | None = None
    part: str | None = None
    boxes: int | None = None
    variable: str | None = None
    variable_latex: str | None = None
    variables: tuple[str, ...] = ()
    passes: int = 0
    closeups: list[CloseUp] = field(default_factory=list)
    strip: Strip = field(default_factory=list)
    fit: Residuals | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class Certificate:
    """What is proven of a finding rests on this: plain data, which `open-lemma verify` checks."""

    parts: list[dict[str, Json]]


@dataclass(kw_only=True, slots=True)
class FindingRecord(FindingFields):
    """A finding as record.json has it.

    shape    of its rows, null where it has none
    short    what it found, in one line; `short_latex` as mathematics
    """

    shape: Shape | None
    short: str
    short_latex: str
    certificate: Certificate | None = None


@dataclass(kw_only=True, slots=True)
class Finding(FindingFields):
    """A finding while its loops go on.

    said           sentences of the passes, of which the summary is made
    certificates   what is proven of it rests on these; each speaks of `rows` rows from `first` on
    """

    notes: list[str] = field(default_factory=list)
    said: list[str] = field(default_factory=list)
    certificates: list[dict[str, Json]] = field(default_factory=list)

    @property
    def shape(self) -> Shape | None:
        """That of its rows; none where it has none."""
        return self.values[0].shape if self.values else None

    @property
    def rows(self) -> list[dict[str, Json]]:
        """Its rows as plain data."""
        return [row.as_record() for row in self.values]

    def as_record(self) -> dict[str, Json]:
        """The finding as plain data, as record.json has it."""
        found: dict[str, Json] = plain(self.told())
        return found

    def told(self) -> FindingRecord:
        """The finding as the record has it."""
        certificate = Certificate(parts=self.certificates) if self.certificates else None
        short, short_latex = short_of(self, WORDS), short_of(self, LATEX)
        return FindingRecord(
            **taken_over(self, FindingFields), shape=self.shape, short=short, short_latex=short_latex, certificate=certificate
        )
