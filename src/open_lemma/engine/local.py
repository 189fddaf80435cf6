"""Runs on this machine: jobs are handed to the warm process, their events kept for whoever listens."""

from __future__ import annotations

import atexit
import base64
import json
import logging
import os
import secrets
import shutil
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import suppress
from typing import Any

from ..core.record.events import FailedEvent
from .protocol import Job, Limits, job_line

log = logging.getLogger("open_lemma.engine")

Event = dict[str, Any]
KEEP_S = 120.0  # how long the events of an ended run can still be asked for
MAX_AT_ONCE = 8
MAX_MEMORIES = 40  # folios whose results are kept for the next run
PACKING_S = 2.0  # that packing these may take before a run begins without
TABLE_SECONDS, TABLE_MEMORY_MB = 90.0, 6_000  # that reading a file may take


class EngineBusy(Exception):
    """Too many runs at once."""


class JobFailed(Exception):
    """A job ended without a result; the text says why."""


class LocalRun:
    """One run: its events so far, for any number of listeners, from the beginning."""

    def __init__(
        self, connection: socket.socket, finish: Callable[[Event, list[Event]], Event], remember: Callable[[str], None] = lambda _: None
    ) -> None:
        self.id = secrets.token_urlsafe(12)
        self.connection = connection
        self.finish, self.remember = finish, remember
        self.events: list[Event] = []
        self.ended_at: float | None = None
        self.changed = threading.Condition()
        self.packed = threading.Event()  # what is kept for the next run has come, or will not come any more

    def listen(self, after: int = 0, wait_s: float = 10.0) -> Iterator[tuple[int, Event | None]]:
        """Events from number `after` on as (number, event); (number, None) where nothing came for a while."""
        place = after
        while True:
            with self.changed:
                if place >= len(self.events) and self.ended_at is None:
                    self.changed.wait(wait_s)
                fresh, ended = self.events[place:], self.ended_at is not None
            for event in fresh:
                place += 1
                yield place, event
            if ended and place >= len(self.events):
                return
            if not fresh:
                yield place, None

    def stop(self) -> None:
        with suppress(OSError):  # it has ended already
            self.connection.sendall(b"stop\n")

    def follow(self) -> None:
        """Read events until the last one; runs in a thread of its own."""
        last: Event | None = None
        try:
            with self.connection, self.connection.makefile("rb") as lines:
                for line in lines:
                    event = _event(line)
                    if event is None:
                        continue
                    if event["event"] == "memory":
                        self.remember(event["memory"])
                        self.packed.set()
                    elif event["event"] in ("done", "failed"):
                        last = event
                        self._end(last)
                    else:
                        self._publish(event)
        except OSError:
            pass
        finally:
            self.packed.set()
        if last is None:
            self._end(FailedEvent(reason="died", text="the run ended by itself; nothing else is lost").as_record())

    def _end(self, last: Event) -> None:
        try:
            last = self.finish(last, self.events)
        except Exception:  # whatever went wrong, the page must hear that the run is over
            last = FailedEvent(reason="store", text="the run is done, but its record could not be kept; try again").as_record()
            raise
        finally:
            with self.changed:
                self.events.append(last)
                self.ended_at = time.monotonic()
                self.changed.notify_all()

    def _publish(self, event: Event) -> None:
        with self.changed:
            self.events.append(event)
            self.changed.notify_all()


def _event(line: bytes) -> Event | None:
    try:
        event = json.loads(line)
    except ValueError:
        return None  # half a line of a child that was ended
    if isinstance(event, dict) and event.get("event") == "fault":
        log.error("%s", event.get("text"))
        return None
    return event if isinstance(event, dict) and "event" in event else None


class LocalEngine:
    """Starts the warm process when first needed and again if it should have ended."""

    def __init__(self, limits: Limits | None = None) -> None:
        self.limits = limits or Limits.from_environment()
        self.folder = tempfile.mkdtemp(prefix="open-lemma-")
        self.path = os.path.join(self.folder, "engine")
        self.process: subprocess.Popen[bytes] | None = None
        self.lock = threading.Lock()
        self.runs: dict[str, LocalRun] = {}
        self.memories: OrderedDict[str, str] = OrderedDict()
        self.latest: OrderedDict[str, LocalRun] = OrderedDict()  # the run of each folio that ended last, or is under way
        atexit.register(self.close)

    def start(self) -> None:
        """Have the warm process ready; waits until it is."""
        with self.lock:
            if self.process is not None and self.process.poll() is None:
                return
            if os.path.exists(self.path):
                os.unlink(self.path)
            self.process = subprocess.Popen([sys.executable, "-m", "open_lemma.engine.warm", self.path], stdin=subprocess.PIPE)
            deadline = time.monotonic() + 60
            while not self._answers():
                if self.process.poll() is not None or time.monotonic() > deadline:
                    raise RuntimeError("the process that runs scripts did not start")
                time.sleep(0.02)

    def _answers(self) -> bool:
        if not os.path.exists(self.path):
            return False
        try:
            self._connect().close()
        except OSError:
            return False
        return True

    def _connect(self) -> socket.socket:
        connection = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        connection.connect(self.path)
        return connection

    def _send(self, job: Job) -> socket.socket:
        try:
            connection = self._connect()
        except OSError:
            self.start()
            connection = self._connect()
        connection.sendall(job_line(job))
        return connection

    def run(
        self, script: str, finish: Callable[[Event, list[Event]], Event], part: str | None = None, onwards: bool = False,
        key: str | None = None, tables: dict[str, str] | None = None,
    ) -> LocalRun:  # fmt: skip
        """Begin a run. `finish` gets the last event and those before it, keeps what is to be kept, returns the last event.

        key  whose results of the run before may be used again, and for whom those of this one are kept

        Raises EngineBusy if MAX_AT_ONCE runs are under way.
        """
        self._forget_old()
        self._not_too_many()
        job = Job("run", self.limits, script=script, part=part, onwards=onwards, memory=self._memory(key), tables=tables or {})
        return self._begin(job, finish, key)

    def walk(
        self, script: str, finish: Callable[[Event, list[Event]], Event], stops: tuple[tuple[int, str | None], ...] = (),
        tables: dict[str, str] | None = None,
    ) -> LocalRun:  # fmt: skip
        """Begin a run that tells of each statement; its last event holds the trace."""
        self._forget_old()
        self._not_too_many()
        return self._begin(Job("run", self.limits, script=script, walk=True, stops=stops, tables=tables or {}), finish, None)

    def preview(self, script: str, key: str, tables: dict[str, str] | None = None) -> Event:
        """Run at once, with what is known from before; gives the record and the figures that were drawn anew. Raises JobFailed."""
        self._not_too_many()
        job = Job("run", self.limits, script=script, memory=self._memory(key), tables=tables or {})
        figures: list[Event] = []
        with self._send(job) as connection, connection.makefile("rb") as lines:
            for line in lines:
                event = _event(line)
                if event is None:
                    continue
                if event["event"] == "figure" and not event.get("reused"):
                    figures.append({"figure": event["figure"], "svg": event["svg"]})
                elif event["event"] == "failed":
                    raise JobFailed(event["text"])
                elif event["event"] == "done":
                    return {"record": event["record"], "figures": figures}
        raise JobFailed("the preview ended by itself")

    def value(self, script: str, name: str, tables: dict[str, str] | None = None) -> str:
        """All of one name's value as CSV; raises JobFailed."""
        return str(self._answer(Job("value", self.limits, script=script, name=name, tables=tables or {}))["data"])

    def _memory(self, key: str | None) -> str:
        """What the run before has kept. It comes right after the result, and whoever is quicker than that waits for it a moment."""
        if key is None:
            return ""
        before = self.latest.get(key)
        if before is not None and before.ended_at is not None:
            before.packed.wait(PACKING_S)
        if key not in self.memories:
            return ""
        self.memories.move_to_end(key)
        return self.memories[key]

    def _remember(self, key: str | None, memory: str) -> None:
        if key is None:
            return
        self.memories[key] = memory
        self.memories.move_to_end(key)
        while len(self.memories) > MAX_MEMORIES:
            self.memories.popitem(last=False)

    def _not_too_many(self) -> None:
        if sum(r.ended_at is None for r in self.runs.values()) >= MAX_AT_ONCE:
            raise EngineBusy

    def _begin(self, job: Job, finish: Callable[[Event, list[Event]], Event], key: str | None) -> LocalRun:
        begun = LocalRun(self._send(job), finish, lambda memory: self._remember(key, memory))
        self.runs[begun.id] = begun
        if key is not None:
            self.latest[key] = begun
            while len(self.latest) > MAX_MEMORIES:
                self.latest.popitem(last=False)
        threading.Thread(target=begun.follow, daemon=True).start()
        return begun

    def find(self, run_id: str) -> LocalRun | None:
        return self.runs.get(run_id)

    def _forget_old(self) -> None:
        now = time.monotonic()
        for key, old in list(self.runs.items()):
            if old.ended_at is not None and now - old.ended_at > KEEP_S:
                self.runs.pop(key, None)

    def draw(self, figure: str, fmt: str, dpi: int = 300, grey: bool = False, step: float | None = None, about: str = "") -> bytes:
        """A kept figure as a file of another format; raises JobFailed."""
        job = Job("draw", self.limits, figure=figure, format=fmt, dpi=dpi, grey=grey, step=step, about=about)
        return base64.b64decode(self._answer(job)["data"])

    def turn(self, figure: str, views: dict[str, tuple[float, float]]) -> Event:
        """A kept figure with windows on space seen from elsewhere: `svg` and `layout`; raises JobFailed."""
        return self._answer(Job("turn", self.limits, figure=figure, views=views))

    def read(self, figure: str, series: str, x: float, y: float, z: float | None = None) -> Event:
        """What stands at a place of a curve of a kept figure; raises JobFailed."""
        found: Event = self._answer(Job("read", self.limits, figure=figure, series=series, x=x, y=y, z=z))["reading"]
        return found

    def read_table(self, path: str, name: str, recipe: str = "", out: str = "") -> Event:
        """A file as a table: what it holds; with `out` its columns are written there. Raises JobFailed."""
        limits = Limits(TABLE_SECONDS, TABLE_MEMORY_MB, self.limits.output_mb)
        return self._answer(Job("table", limits, name=name, path=path, out=out, recipe=recipe))

    def fits(
        self, script: str, line: int, tables: dict[str, str], formula: str | None, starts: dict[str, float], at: float | None
    ) -> Event:  # fmt: skip
        """Fits proposed for the points that a line of a script draws. Raises JobFailed."""
        job = Job("fits", self.limits, script=script, line=line, tables=tables, formula=formula, starts=starts, at=at)
        found: Event = self._answer(job)["found"]
        return found

    def place(self) -> str:
        """A path for a file that passes between this process and a job."""
        return os.path.join(self.folder, secrets.token_urlsafe(12))

    def _answer(self, job: Job) -> Event:
        with self._send(job) as connection, connection.makefile("rb") as lines:
            for line in lines:
                event = _event(line)
                if event is not None and event["event"] == "done":
                    return event
                if event is not None and event["event"] == "failed":
                    raise JobFailed(event["text"])
        raise JobFailed("the work ended by itself")

    def close(self) -> None:
        process, self.process = self.process, None
        if process is not None and process.poll() is None:
            assert process.stdin is not None
            process.stdin.close()
            try:
                process.wait(3)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()
        shutil.rmtree(self.folder, ignore_errors=True)
