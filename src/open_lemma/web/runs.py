"""Runs: begin one, follow it by server-sent events, stop it."""

from __future__ import annotations

import json
import logging
from collections.abc import Iterator
from dataclasses import asdict
from typing import Any

from apiflask import APIBlueprint
from flask import Response, request

from ..core.editing.actions import apply_actions, read_action
from ..core.editing.changes import NotInked, renamed
from ..core.editing.description import describe
from ..core.formula.catalogue import BUILTINS
from ..core.language.messages import edit_record
from ..core.language.source import Source
from ..core.record.events import EVENTS
from ..core.record.plain import plain
from ..core.run.execute.interpreter import read
from ..engine.local import EngineBusy, Event, JobFailed, LocalRun
from ..store import folios as store
from .errors import Refusal
from .folios import changing
from .record_schemas import refer
from .schemas import (
    Begun,
    Checked,
    CheckText,
    Dressing,
    DressingAsked,
    Edits,
    FitsAsked,
    FitsFound,
    Inking,
    NameAsked,
    NewRun,
    NewWalk,
    Preview,
    Renaming,
    RunState,
)
from .services import Services, services
from .table_loading import tables_for

log = logging.getLogger(__name__)
blueprint = APIBlueprint("runs", __name__, url_prefix="/api")


@blueprint.post("/folios/<int:folio_id>/runs")
@blueprint.input(NewRun)
@blueprint.output(Begun, status_code=201)
def begin(folio_id: int, json_data: NewRun) -> Begun:
    """Save the script, then run it; refused with 409 if the folio was changed since the version that is given."""
    place = services()
    with changing(folio_id) as (session, found):
        revision = store.save_script(session, found, json_data.script, json_data.version)
        revision_id, version = revision.id, found.version
        tables = tables_for(place, session, folio_id, json_data.script)
    part = json_data.part

    def finish(last: Event, events: list[Event]) -> Event:
        # What ran in part is no record of the script.
        return last if part is not None else keep(place, folio_id, revision_id, last, events)

    try:
        run = place.engine.run(json_data.script, finish, part, json_data.onwards, str(folio_id), tables)
    except (EngineBusy, OSError) as trouble:
        # The script is saved all the same: without the new version the next change would look like one from elsewhere.
        busy = isinstance(trouble, EngineBusy)
        if not busy:
            log.exception("a run could not be begun")
        text = "too many runs are under way; this one begins when there is room" if busy else "the run could not be begun here"
        raise Refusal(503, "busy" if busy else "no-run", f"{text}; the script is saved", version=version) from None
    return Begun(run_id=run.id, version=version)


def _tables(folio_id: int, script: str) -> dict[str, str]:
    with services().session() as session:
        store.folio(session, store.local_owner(session), folio_id)
        return tables_for(services(), session, folio_id, script)


@blueprint.post("/folios/<int:folio_id>/walks")
@blueprint.input(NewWalk)
@blueprint.output(Begun, status_code=201)
def walk(folio_id: int, json_data: NewWalk) -> Begun:
    """Run the script as it stands and tell of each statement; nothing is kept."""
    stops = tuple((s.line, s.condition) for s in json_data.stops)
    run = services().engine.walk(json_data.script, lambda last, _: last, stops, _tables(folio_id, json_data.script))
    return Begun(run_id=run.id, version=0)


@blueprint.post("/folios/<int:folio_id>/previews")
@blueprint.input(Inking)
@blueprint.output(Preview)
def preview(folio_id: int, json_data: Inking) -> Preview:
    """Ink what was done by hand, run that script at once and answer with what changed; nothing is kept."""
    script, edits = _inked(json_data)
    try:
        found = services().engine.preview(script, str(folio_id), _tables(folio_id, script))
    except JobFailed as trouble:
        raise Refusal(422, "run-failed", str(trouble)) from None
    return Preview(**found, edits=edits)


@blueprint.post("/folios/<int:folio_id>/fits")
@blueprint.input(FitsAsked)
@blueprint.output(FitsFound)
def fits(folio_id: int, json_data: FitsAsked) -> FitsFound:
    """Fits proposed for drawn points, the best first; nothing is kept."""
    tables = _tables(folio_id, json_data.script)
    try:
        found = services().engine.fits(json_data.script, json_data.line, tables, json_data.formula, json_data.starts, json_data.at)
    except JobFailed as trouble:
        raise Refusal(422, "no-fits", str(trouble)) from None
    return FitsFound(**found)


@blueprint.post("/edits")
@blueprint.input(Inking)
@blueprint.output(Edits)
def ink(json_data: Inking) -> Edits:
    """The edits that write into the script what was done by hand."""
    return Edits(edits=_inked(json_data)[1])


@blueprint.post("/dressings")
@blueprint.input(DressingAsked)
@blueprint.output(Dressing)
def described(json_data: DressingAsked) -> Dressing:
    """What the script says of a drawn thing now, read from its tree."""
    return Dressing(**asdict(describe(json_data.script, BUILTINS, json_data.line, json_data.window, json_data.figure)))


def _inked(asked: Inking) -> tuple[str, list[dict[str, Any]]]:
    """The script with what was done by hand, and the edits; refused where it cannot be written."""
    try:
        script, edits = apply_actions(asked.script, [read_action(a.do, a.line, a.more) for a in asked.actions], BUILTINS)
    except NotInked as reason:
        raise Refusal(422, "not-inked", str(reason)) from None
    source = Source(asked.script)
    return script, [plain(edit_record(e, source)) for e in edits]


@blueprint.post("/folios/<int:folio_id>/values")
@blueprint.input(NameAsked)
@blueprint.doc(responses={200: {"description": "all of the value", "content": {"text/csv": {}}}})
def value(folio_id: int, json_data: NameAsked) -> Response:
    """What a name stands for at the end of a run, as CSV: all of it."""
    try:
        text = services().engine.value(json_data.script, json_data.name, _tables(folio_id, json_data.script))
    except JobFailed as trouble:
        raise Refusal(422, "no-value", str(trouble)) from None
    return Response(text, mimetype="text/csv")


def keep(place: Services, folio_id: int, revision_id: int, last: Event, events: list[Event]) -> Event:
    """Keep what a run gave as a record; a run that failed gave none."""
    if last["event"] != "done":
        return last
    figures = [store.DrawnFile(e["figure"]["name"], e["svg"], e["data"]) for e in events if e["event"] == "figure"]
    with place.session() as session:
        kept = store.keep_record(session, folio_id, revision_id, last["record"], figures)
        return {**last, "record_id": kept.id, "number": kept.number, "same_as": kept.same_as}


def _run(run_id: str) -> LocalRun:
    found = services().engine.find(run_id)
    if found is None:
        raise Refusal(404, "run-gone", "this run is over, or never was")
    return found


@blueprint.get("/runs/<run_id>/events")
@blueprint.doc(
    responses={
        200: {
            "description": "server-sent events; the last is done or failed",
            "content": {"text/event-stream": {"schema": {"oneOf": [refer(kind.__name__) for kind in EVENTS]}}},
        }
    }
)
def events(run_id: str) -> Response:
    """The events of a run from its beginning, or from after the one that was seen last."""
    run = _run(run_id)
    seen = request.headers.get("Last-Event-ID", "0")
    stream = _stream(run, int(seen) if seen.isdigit() else 0)
    return Response(stream, mimetype="text/event-stream", headers={"X-Accel-Buffering": "no"})


def _stream(run: LocalRun, after: int) -> Iterator[str]:
    for number, event in run.listen(after):
        if event is None:
            yield ": still at work\n\n"
            continue
        shown = {k: v for k, v in event.items() if k != "data"}  # the page draws nothing itself
        yield f"id: {number}\nevent: {event['event']}\ndata: {json.dumps(shown, ensure_ascii=False)}\n\n"


@blueprint.post("/runs/<run_id>/stop")
@blueprint.output(RunState)
def stop(run_id: str) -> RunState:
    """Stop a run; its last event then says so."""
    _run(run_id).stop()
    return RunState(stopped=True)


@blueprint.post("/renamings")
@blueprint.input(Renaming)
@blueprint.output(Edits)
def rename(json_data: Renaming) -> Edits:
    """The edits that give a name another one wherever it is the same name."""
    reading = read(json_data.script)[0]
    if not 1 <= json_data.line <= reading.source.line_count:
        raise Refusal(422, "no-name", "there is no such line")
    offset = reading.source.line_start(json_data.line) + json_data.column - 1
    protected = frozenset(n for n in BUILTINS.names() if BUILTINS.is_protected(n))
    try:
        edits = renamed(reading, offset, json_data.name, protected)
    except NotInked as reason:
        raise Refusal(422, "not-renamed", str(reason)) from None
    return Edits(edits=[plain(edit_record(e, reading.source)) for e in edits])


@blueprint.post("/check")
@blueprint.input(CheckText)
@blueprint.output(Checked)
def check(json_data: CheckText) -> Checked:
    """What the checker has to say of a script, without running it."""
    reading, _ = read(json_data.script)
    messages: list[dict[str, Any]] = reading.messages.as_records()
    return Checked(messages=messages)
