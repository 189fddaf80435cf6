"""What the rest of the program asks of an engine, whichever it is."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import AsyncIterator, Iterator
from contextlib import AbstractContextManager
from dataclasses import dataclass
from typing import Any

from .protocol import QUICK_SECONDS, Job, Limits

Event = dict[str, Any]
TABLE_SECONDS, TABLE_MEMORY_MB = 90.0, 6_000  # that a table may take


class EngineBusy(Exception):
    """More is waiting already than may wait."""


class EngineAway(Exception):
    """The engine does not answer: it is being started again, or what it rests on is away."""


class JobFailed(Exception):
    """A job ended without a result; the text says why, `reason` for programs."""

    def __init__(self, text: str, reason: str = "") -> None:
        super().__init__(text)
        self.reason = reason


def _why(failed: Event) -> Exception:
    """What a failed job means to who asked: something about the job, or that the engine could not do it now."""
    passing = failed["reason"] in ("interrupted", "busy")
    return EngineAway(failed["text"]) if passing else JobFailed(failed["text"], failed["reason"])


@dataclass(frozen=True, slots=True)
class Claimed:
    """A run that has ended and is to be kept: what for (`keep`, as it was begun with), its figures, its last event."""

    run: str
    keep: dict[str, Any]
    figures: list[Event]
    last: Event


class Claim(ABC):
    """A claimed run, held until it is kept; let go without that, it goes to whoever claims next."""

    claimed: Claimed

    @abstractmethod
    def kept(self, last: Event) -> None:
        """Tell everybody who listens that it is over, by this last event."""

    @abstractmethod
    def close(self) -> None:
        """Let go."""


class Engine(ABC):
    """Runs, and all other work whose cost a user decides, done in processes of their own under limits.

    `who` says whose a job is: among waiting jobs of several users the fair one comes first.
    """

    def __init__(self, limits: Limits | None = None) -> None:
        self.limits = limits or Limits.from_environment()

    # ------------------------------------------------------------ what an engine must be able to do

    @abstractmethod
    def begin(self, job: Job, who: str = "", key: str | None = None, keep: dict[str, Any] | None = None) -> str:
        """Begin a run; its id. Raises EngineBusy and EngineAway.

        key   whose results of the run before may be used again, and for whom those of this one are kept
        keep  it is to be kept: handed to whoever claims it. Without, nobody is asked
        """

    @abstractmethod
    def follow(self, job: Job, who: str = "", key: str | None = None) -> Iterator[Event]:
        """Begin a job and give its events as they come, the last `done` or `failed`; it is stopped when this is closed."""

    @abstractmethod
    def listen(self, run: str, after: int = 0) -> AsyncIterator[tuple[int, Event | None]]:
        """Events of a run from number `after` on as (number, event); (number, None) where nothing came for a while.

        Raises KeyError where there is no such run, and EngineAway.
        """

    @abstractmethod
    def stop(self, run: str) -> bool:
        """Stop a run; False where there is no such run."""

    @abstractmethod
    def claim(self, wait_s: float) -> Claim | None:
        """The next run that has ended and is to be kept; None where none came. Raises EngineAway."""

    @abstractmethod
    def state(self) -> dict[str, Any]:
        """Numbers of this moment. Raises EngineAway."""

    @abstractmethod
    def place(self) -> AbstractContextManager[str]:
        """A path for a file that goes along with a job, or comes back from it; the file is taken away at the end."""

    # ------------------------------------------------------------ what is asked

    def answer(self, job: Job, who: str = "") -> Event:
        """The last event of a job. Raises JobFailed, EngineBusy, and EngineAway also where it was interrupted."""
        return [*self._to_its_end(job, who)][-1]

    def _to_its_end(self, job: Job, who: str, key: str | None = None) -> Iterator[Event]:
        """The events of a job, the last `done`. Raises what `answer` raises."""
        for event in self.follow(job, who, key):
            if event["event"] == "failed":
                raise _why(event)
            yield event
            if event["event"] == "done":
                return
        raise EngineAway("this was interrupted; nothing is lost, try again")

    def run(
        self, script: str, part: str | None = None, onwards: bool = False, tables: dict[str, bytes] | None = None, who: str = "",
        key: str | None = None, keep: dict[str, Any] | None = None,
    ) -> str:  # fmt: skip
        """Begin a run of a script; its id."""
        given = {"script": script, "part": part, "onwards": onwards}
        return self.begin(Job("run", self.limits, given, tables or {}), who, key, keep)

    def walk(self, script: str, stops: list[Any], tables: dict[str, bytes] | None = None, who: str = "") -> str:
        """Begin a run that tells of each statement; its last event holds the trace. `stops`: lines, each with a condition or None."""
        return self.begin(Job("walk", self.limits, {"script": script, "stops": stops}, tables or {}), who)

    def preview(self, script: str, actions: list[Event], key: str, tables: dict[str, bytes] | None = None, who: str = "") -> Event:
        """Ink what was done by hand, run at once with what is known from before: the record, the figures drawn anew, the edits."""
        job = Job("preview", self.limits, {"script": script, "actions": actions}, tables or {})
        *told, last = self._to_its_end(job, who, key)
        figures = [{"figure": e["figure"], "svg": e["svg"].decode()} for e in told if e["event"] == "figure" and not e.get("reused")]
        return {"record": last["record"], "figures": figures, "edits": last["edits"]}

    def value(self, script: str, name: str, tables: dict[str, bytes] | None = None, who: str = "") -> str:
        """All of one name's value as CSV."""
        return str(self.answer(Job("value", self.limits, {"script": script, "name": name}, tables or {}), who)["data"])

    def fits(self, given: dict[str, Any], tables: dict[str, bytes], who: str = "") -> Event:
        """Fits proposed for the points that a line of a script draws."""
        found: Event = self.answer(Job("fits", self.limits, given, tables), who)["found"]
        return found

    def quick(self, kind: str, who: str = "", **given: Any) -> Event:
        """What is asked of a script while it is typed: check, edits, describe, rename, next, uses."""
        return self.answer(Job(kind, Limits(QUICK_SECONDS, self.limits.memory_mb, self.limits.output_mb), given), who)

    def draw(
        self, figure: bytes, fmt: str, dpi: int = 300, grey: bool = False, step: float | None = None, about: str = "", who: str = ""
    ) -> bytes:  # fmt: skip
        """A kept figure as a file of another format."""
        given = {"figure": figure, "format": fmt, "dpi": dpi, "grey": grey, "step": step, "about": about}
        return self._bytes_of("draw", self.limits, given, {}, who)

    def _bytes_of(self, kind: str, limits: Limits, given: dict[str, Any], tables: dict[str, bytes], who: str) -> bytes:
        """What a job writes into a file."""
        with self.place() as path:
            self.answer(Job(kind, limits, given, tables, out=path), who)
            with open(path, "rb") as file:
                return file.read()

    def turn(self, figure: bytes, views: dict[str, tuple[float, float]], who: str = "") -> Event:
        """A kept figure with windows on space seen from elsewhere: `svg` and `layout`."""
        return self.answer(Job("turn", self.limits, {"figure": figure, "views": views}), who)

    def read(self, figure: bytes, series: str, x: float, y: float, z: float | None = None, who: str = "") -> Event:
        """What stands at a place of a curve of a kept figure."""
        given = {"figure": figure, "series": series, "x": x, "y": y, "z": z}
        found: Event = self.answer(Job("read", self.limits, given), who)["reading"]
        return found

    def scene(self, figure: bytes, who: str = "") -> Event:
        """What stands in the windows on space of a kept figure."""
        found: Event = self.answer(Job("scene", self.limits, {"figure": figure}), who)["scene"]
        return found

    def origin(self, path: str, who: str = "") -> Event | None:
        """Where a file says that it came from; None where it says nothing."""
        found: Event | None = self.answer(Job("origin", self.limits, files={"file": path}), who)["about"]
        return found

    def verify(self, finding: Event, who: str = "") -> Event:
        """The proofs of a finding, checked anew."""
        return self.answer(Job("verify", self.limits, {"finding": finding}), who)

    # ------------------------------------------------------------ tables

    @property
    def table_limits(self) -> Limits:
        return Limits(TABLE_SECONDS, TABLE_MEMORY_MB, self.limits.output_mb)

    def look_at_table(self, path: str, name: str, recipe: str = "", who: str = "") -> Event:
        """What a file would be as a table."""
        return self.answer(Job("read_table", self.table_limits, {"name": name, "recipe": recipe}, files={"file": path}), who)

    def read_table(self, path: str, name: str, recipe: str = "", who: str = "") -> tuple[Event, list[bytes]]:
        """A file as a table: what it holds, and the compressed bytes of each column."""
        with self.place() as out:
            job = Job("read_table", self.table_limits, {"name": name, "recipe": recipe}, files={"file": path}, out=out)
            found = self.answer(job, who)
            with open(out, "rb") as file:
                return found, [file.read(c["size"]) for c in found["columns"]]

    def of_table(self, kind: str, name: str, bundle: bytes, who: str = "", path: str = "", **given: Any) -> Event:
        """What is asked of a kept table: about_table, rows, column, compare (with an older file at `path`)."""
        files = {"file": path} if path else {}
        return self.answer(Job(kind, self.table_limits, {"name": name, **given}, {name: bundle}, files=files), who)

    def table_as(self, name: str, bundle: bytes, fmt: str, who: str = "") -> bytes:
        """A kept table as a file."""
        return self._bytes_of("table_as", self.table_limits, {"name": name, "format": fmt}, {name: bundle}, who)
