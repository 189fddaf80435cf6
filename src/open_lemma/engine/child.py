"""One job in a forked child: limits are set first, events go out as they come."""

from __future__ import annotations

import base64
import csv
import gc
import hashlib
import io
import os
import pickle
import resource
import socket
import time
import zlib
from dataclasses import asdict
from typing import Any

from ..core.figure.about import about_in
from ..core.figure.draw import draw
from ..core.figure.model import from_text, to_text
from ..core.record.events import FailedEvent
from ..core.run.execute.faults import described_fault
from ..core.run.execute.interpreter import run, stop_conditions
from ..core.run.execute.outcome import DrawnFigure, UnknownPart
from ..core.run.memory import Memory
from ..core.run.proposing import NotProposed, propose
from ..core.run.readings import NotRead, read
from ..core.run.record import figure_record, layout_record, record
from ..core.run.trace import Trace, csv_rows
from ..files.figures import Wanted, figure_file
from ..files.ready import unpacked
from .protocol import Job, Limits, to_line
from .reading import MOST_OUT, read_file


class TooMuchOutput(Exception):
    """The job wrote more than its limit."""


class NobodyListens(Exception):
    """The other side has closed the connection."""


class Pipe:
    """Where events go, with a count of what went."""

    def __init__(self, connection: socket.socket, limit_mb: int) -> None:
        self.connection, self.left = connection, limit_mb * 1_000_000

    def send(self, event: dict[str, Any]) -> None:
        line = to_line(event)
        self.left -= len(line)
        if self.left < 0:
            raise TooMuchOutput
        self._send(line)

    def close_with(self, event: dict[str, Any]) -> None:
        """The last word is always let through."""
        self._send(to_line(event))

    def fault(self, trouble: Exception, line: int = 0, digest: str = "") -> None:
        """A fault of ours, for the log of who asked: this process may not write files, and its own log may be one."""
        self._send(to_line({"event": "fault", "text": described_fault(trouble, line, digest)}))

    def _send(self, line: bytes) -> None:
        try:
            self.connection.sendall(line)
        except OSError:
            raise NobodyListens from None


def set_limits(limits: Limits, file_bytes: int = 0) -> None:
    """Processor seconds, address space beyond what the warm process already has, files of so many bytes, no core dumps."""
    seconds = max(1, int(limits.seconds) + 1)
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds + 1))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_FSIZE, (file_bytes, file_bytes))
    with open("/proc/self/statm", encoding="ascii") as statm:
        used = int(statm.read().split()[0]) * os.sysconf("SC_PAGE_SIZE")
    space = used + limits.memory_mb * 1_048_576
    resource.setrlimit(resource.RLIMIT_AS, (space, space))


def work(job: Job, connection: socket.socket) -> int:
    """Do a job; returns the exit code of the child. Never raises."""
    # A child lives for seconds: looking for garbage would only touch, and so copy, the pages it shares.
    gc.disable()
    pipe = Pipe(connection, job.limits.output_mb)
    try:
        set_limits(job.limits, MOST_OUT if job.out else 0)
        if job.kind == "draw":
            _draw(job, pipe)
        elif job.kind == "turn":
            _turn(job, pipe)
        elif job.kind == "read":
            _read(job, pipe)
        elif job.kind == "value":
            _value(job, pipe)
        elif job.kind == "fits":
            _fits(job, pipe)
        elif job.kind == "table":
            pipe.send(read_file(job))
        else:
            _run(job, pipe)
    except TooMuchOutput:
        pipe.close_with(failed("output", f"the run was ended: it gave more than {job.limits.output_mb} MB of results"))
    except MemoryError:
        pipe.close_with(failed("memory", memory_text(job.limits)))
    except UnknownPart as missing:
        pipe.close_with(failed("part", f"the script has no part '{missing}'"))
    except NobodyListens:
        return 1
    except Exception as trouble:
        pipe.fault(trouble)
        pipe.close_with(failed("internal", FAULT_TEXT))
    return 0


FAULT_TEXT = "this could not be worked out, and that is our fault; nothing else is lost"


def failed(reason: str, text: str) -> dict[str, Any]:
    return FailedEvent(reason=reason, text=text).as_record()


def memory_text(limits: Limits) -> str:
    return f"the run was ended: it needed more than {limits.memory_mb} MB of memory; use shorter lists"


def time_text(limits: Limits) -> str:
    return f"the run was ended after {limits.seconds:g} s, the limit for one run"


def _run(job: Job, pipe: Pipe) -> None:
    start = time.perf_counter()
    figures: list[dict[str, Any]] = []
    last_progress = 0.0

    def emit(event: dict[str, Any]) -> None:
        nonlocal last_progress
        if event["event"] == "figure":
            figures.append(_figure(event["figure"], pipe, bool(event.get("reused"))))
        elif event["event"] == "progress":
            now = time.perf_counter()
            if now - last_progress > 0.1:
                last_progress = now
                pipe.send({**event, "elapsed_s": round(now - start, 2)})
        else:
            pipe.send(event)

    tables = {name: base64.b64decode(data) for name, data in job.tables.items()}
    fingerprints = {name: hashlib.sha256(data).hexdigest() for name, data in tables.items()}
    at_hand = {name: unpacked(data) for name, data in tables.items()}
    memory = None if job.walk else Memory(time.perf_counter, _unpacked(job.memory), tables=fingerprints)
    trace = Trace(stop_conditions(job.stops)) if job.walk else None
    outcome = run(job.script, emit, job.part, job.onwards, at_hand.get, trace, memory, pipe.fault)
    found = record(job.script, outcome, figures, time.perf_counter() - start)
    if trace is not None:
        pipe.send({"event": "done", "record": found, "trace": trace.as_record()})
        return
    pipe.send({"event": "names", "names": outcome.names_seen(), "reused": outcome.reused})
    # The result is told first; what is kept for the next run can be packed while it is looked at.
    pipe.send({"event": "done", "record": found})
    if memory is not None:
        pipe.send({"event": "memory", "memory": _packed(memory)})


def _unpacked(text: str) -> dict[str, bytes]:
    """What a run before kept: made by this program in a process like this one, and never by a script."""
    return pickle.loads(zlib.decompress(base64.b64decode(text))) if text else {}


def _packed(memory: Memory) -> str:
    return base64.b64encode(zlib.compress(pickle.dumps(memory.packed()), 1)).decode()


def _value(job: Job, pipe: Pipe) -> None:
    tables = {name: unpacked(base64.b64decode(data)) for name, data in job.tables.items()}
    outcome = run(job.script, tables=tables.get, on_fault=pipe.fault)
    value = outcome.names.find(job.name)
    if value is None:
        why = next((m.text for m in outcome.reading.messages.items if m.severity == "error"), "")
        pipe.send(failed("no-value", f"'{job.name}' has no value" + (f": {why}" if why else "")))
        return
    head, rows = csv_rows(value)
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(head)
    writer.writerows(rows)
    pipe.send({"event": "done", "data": text.getvalue()})


def _figure(drawn: DrawnFigure, pipe: Pipe, reused: bool) -> dict[str, Any]:
    drawing = drawn.drawing = drawn.drawing or draw(drawn.data, screen=True)
    found = figure_record(drawn, drawing, {"svg": f"{drawn.data.name}.svg"})
    told = {"event": "figure", "figure": found, "svg": drawing.data.decode(), "data": to_text(drawn.data)}
    pipe.send({**told, "reused": True} if reused else told)
    return found


def _draw(job: Job, pipe: Pipe) -> None:
    wanted = Wanted(job.format, job.dpi, job.grey, job.step)
    try:
        data = figure_file(from_text(job.figure), wanted, about_in(job.about))
    except NotRead as reason:
        pipe.send(failed("no-numbers", str(reason)))
        return
    pipe.send({"event": "done", "data": base64.b64encode(data).decode()})


def _turn(job: Job, pipe: Pipe) -> None:
    figure = from_text(job.figure)
    for number, window in enumerate(figure.windows()):
        if str(number) in job.views and window.space is not None:
            window.space.azimuth, window.space.elevation = job.views[str(number)]
    drawing = draw(figure, screen=True)
    pipe.send({"event": "done", "layout": layout_record(figure, drawing), "svg": drawing.data.decode()})


def _fits(job: Job, pipe: Pipe) -> None:
    tables = {name: unpacked(base64.b64decode(data)) for name, data in job.tables.items()}
    try:
        found = propose(job.script, job.line, tables.get, time.monotonic, job.formula, job.starts, job.at, pipe.fault)
    except NotProposed as reason:
        pipe.send(failed("no-fits", str(reason)))
        return
    pipe.send({"event": "done", "found": found})


def _read(job: Job, pipe: Pipe) -> None:
    try:
        found = read(from_text(job.figure), job.series, job.x, job.y, job.z)
    except NotRead as reason:
        pipe.send(failed("not-read", str(reason)))
        return
    pipe.send({"event": "done", "reading": asdict(found)})
