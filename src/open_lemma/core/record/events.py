"""What is told of a run while it goes on, an event each; the last is `done` or `failed`."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from .figures import FigureRecord
from .findings import FindingRecord
from .messages import MessageRecord
from .plain import Json, plain
from .run import RunRecord
from .walk import SeenName, TraceRecord


@dataclass(frozen=True, kw_only=True, slots=True)
class Event:
    """An event; `event` names its kind."""

    event: ClassVar[str]

    def as_record(self) -> dict[str, Json]:
        """The event as plain data."""
        return {"event": self.event, **plain(self)}


@dataclass(frozen=True, kw_only=True, slots=True)
class ProgressEvent(Event):
    """Which line is at work. `done` of `of` statements of the script; in a loop how many `statements`, where it is (`at`), and the
    `share` of it that is over; how many places a search has `found`; seconds since the run began."""

    event: ClassVar[str] = "progress"

    line: int
    done: int | None = None
    of: int | None = None
    statements: int | None = None
    at: str | None = None
    share: float | None = None
    found: int | None = None
    elapsed_s: float | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class QueuedEvent(Event):
    """The run waits for room; `place` in the queue, from 1."""

    event: ClassVar[str] = "queued"

    place: int


@dataclass(frozen=True, kw_only=True, slots=True)
class FindingEvent(Event):
    """A finding that has come."""

    event: ClassVar[str] = "finding"

    finding: FindingRecord


@dataclass(frozen=True, kw_only=True, slots=True)
class FigureEvent(Event):
    """A figure that is drawn; `reused`: as it was in the run before."""

    event: ClassVar[str] = "figure"

    figure: FigureRecord
    svg: str
    reused: bool = False


@dataclass(frozen=True, kw_only=True, slots=True)
class MessageEvent(Event):
    """A message that came up in the run."""

    event: ClassVar[str] = "message"

    message: MessageRecord


@dataclass(frozen=True, kw_only=True, slots=True)
class NamesEvent(Event):
    """All names with their values, and the lines whose results are those of the run before."""

    event: ClassVar[str] = "names"

    names: list[SeenName]
    reused: list[int]


@dataclass(frozen=True, kw_only=True, slots=True)
class DoneEvent(Event):
    """The end of a run: its record, and how it is kept, or the trace of a walk."""

    event: ClassVar[str] = "done"

    record: RunRecord
    record_id: int | None = None
    number: int | None = None
    same_as: int | None = None
    trace: TraceRecord | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class FailedEvent(Event):
    """The end of a run that gave nothing: why, for programs and for people."""

    event: ClassVar[str] = "failed"

    reason: str
    text: str


EVENTS: tuple[type[Event], ...] = (QueuedEvent, ProgressEvent, FindingEvent, FigureEvent, MessageEvent, NamesEvent, DoneEvent, FailedEvent)
