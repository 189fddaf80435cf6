"""Runs of a script: with a record, as a walk, as a preview, for one value, for proposed fits."""

from __future__ import annotations

import csv
import hashlib
import io
import pickle
import time
import zlib
from typing import Any

from ...core.figure.draw import draw
from ...core.figure.model import to_text
from ...core.run.execute.interpreter import run, stop_conditions
from ...core.run.execute.outcome import DrawnFigure, UnknownPart
from ...core.run.memory import Memory
from ...core.run.proposing import NotProposed, propose
from ...core.run.record import figure_record, record
from ...core.run.trace import Trace, csv_rows
from ...files.guarding import guarded
from ..pipe import Pipe
from .handler import Handler, NotDone, Work
from .scripts import inked

PROGRESS_S = 0.1  # between two that are told


class _Teller:
    """The events of a run on their way out: figures drawn, progress thinned."""

    def __init__(self, pipe: Pipe) -> None:
        self.pipe, self.start, self.told = pipe, time.perf_counter(), 0.0
        self.figures: list[dict[str, Any]] = []

    @property
    def elapsed(self) -> float:
        return time.perf_counter() - self.start

    def __call__(self, event: dict[str, Any]) -> None:
        if event["event"] == "figure":
            self.figures.append(self._figure(event["figure"], bool(event.get("reused"))))
        elif event["event"] != "progress":
            self.pipe.send(event)
        elif self.elapsed - self.told > PROGRESS_S:
            self.told = self.elapsed
            self.pipe.send({**event, "elapsed_s": round(self.elapsed, 2)})

    def _figure(self, drawn: DrawnFigure, reused: bool) -> dict[str, Any]:
        drawing = drawn.drawing = drawn.drawing or draw(drawn.data, screen=True)
        found = figure_record(drawn, drawing, {"svg": f"{drawn.data.name}.svg"})
        told = {"event": "figure", "figure": found, "svg": drawing.data, "data": to_text(drawn.data).encode("utf-8", "surrogatepass")}
        self.pipe.send({**told, "reused": True} if reused else told)
        return found


def _run(work: Work, script: str, part: str | None = None, onwards: bool = False) -> dict[str, Any]:
    teller, memory = _Teller(work.pipe), _memory(work)
    try:
        outcome = run(script, teller, part, onwards, work.table, None, memory, work.pipe.fault)
    except UnknownPart as missing:
        raise NotDone("part", f"the script has no part '{missing}'") from None
    found = record(script, outcome, teller.figures, teller.elapsed)
    work.pipe.send({"event": "names", "names": outcome.names_seen(), "reused": outcome.reused})
    # The result is told first; what is kept for the next run can be packed while it is looked at.
    work.pipe.send({"event": "done", "record": found})
    return {"event": "memory", "memory": _packed(memory)}


def _memory(work: Work) -> Memory:
    """What a run before kept: made by this program in a process like this one, and never by a script."""
    kept = pickle.loads(zlib.decompress(work.job.memory)) if work.job.memory else {}
    fingerprints = {name: hashlib.sha256(data).hexdigest() for name, data in work.job.tables.items()}
    return Memory(time.perf_counter, kept, tables=fingerprints)


def _packed(memory: Memory) -> bytes:
    return zlib.compress(pickle.dumps(memory.packed()), 1)


def _walk(work: Work, script: str, stops: list[Any]) -> dict[str, Any]:
    teller = _Teller(work.pipe)
    trace = Trace(stop_conditions([(line, condition) for line, condition in stops]))
    outcome = run(script, teller, None, False, work.table, trace, None, work.pipe.fault)
    return {"record": record(script, outcome, teller.figures, teller.elapsed), "trace": trace.as_record()}


def _preview(work: Work, script: str, actions: list[Any]) -> dict[str, Any]:
    """The script with what was done by hand, run; what it gave, and the edits."""
    script, edits = inked(script, actions)
    teller = _Teller(work.pipe)
    outcome = run(script, teller, None, False, work.table, None, _memory(work), work.pipe.fault)
    return {"record": record(script, outcome, teller.figures, teller.elapsed), "edits": edits}


def value_rows(work: Work, script: str, name: str) -> tuple[list[str], list[list[Any]]]:
    """All of one name's value as a head and rows. Raises NotDone."""
    outcome = run(script, tables=work.table, on_fault=work.pipe.fault)
    value = outcome.names.find(name)
    if value is None:
        why = next((m.text for m in outcome.reading.messages.items if m.severity == "error"), "")
        raise NotDone("no-value", f"'{name}' has no value" + (f": {why}" if why else ""))
    return csv_rows(value)


def _value(work: Work, script: str, name: str) -> dict[str, Any]:
    head, rows = value_rows(work, script, name)
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow([guarded(h) for h in head])
    writer.writerows([[guarded(c) if isinstance(c, str) else c for c in row] for row in rows])
    return {"data": text.getvalue()}


def _fits(work: Work, script: str, line: int, formula: str | None, starts: dict[str, float], at: float | None) -> dict[str, Any]:
    try:
        return {"found": propose(script, line, work.table, time.monotonic, formula, starts, at, work.pipe.fault)}
    except NotProposed as reason:
        raise NotDone("no-fits", str(reason)) from None


HANDLERS: dict[str, Handler] = {"run": _run, "walk": _walk, "preview": _preview, "value": _value, "fits": _fits}
