"""The walk through a run, and values as the names sheet shows them."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

ValueKind = Literal["number", "list", "text", "truth", "point", "table", "function", "finding"]


@dataclass(frozen=True, kw_only=True, slots=True)
class SeenValue:
    """A value: its kind, a short text, its size, unit and range, and the elements of what is long."""

    kind: ValueKind
    text: str
    size: int | None = None
    unit: str | None = None
    low: float | None = None
    high: float | None = None
    head: list[str] | None = None
    rows: list[list[str]] | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class SeenName(SeenValue):
    """A name with its value; `depth`: how many calls are open around it."""

    name: str
    depth: int | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class GoneName:
    """A name that ended with its block or call."""

    name: str
    depth: int


@dataclass(frozen=True, kw_only=True, slots=True)
class WalkStep:
    """A statement that was carried out.

    set      the names that it changed; `gone`: those that ended
    depth    calls that are open, and the innermost of them, `call`
    note     what happened where values do not say it
    figure   the one that is being built, or was the last, and how much of it is drawn
    findings how many there are
    stop     whether the walk stops here
    """

    line: int
    set: list[SeenName]
    findings: int
    gone: list[GoneName] = field(default_factory=list)
    depth: int = 0
    call: str | None = None
    note: str = ""
    figure: str | None = None
    drawn: int | None = None
    stop: bool = False


@dataclass(frozen=True, kw_only=True, slots=True)
class TraceRecord:
    """The steps that were kept of all that were `seen`; `thinned` where these are fewer."""

    steps: list[WalkStep]
    seen: int
    thinned: bool
