"""Runs: begin one, follow it by server-sent events, stop it."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from apiflask import APIBlueprint
from flask import Response, request

from ..core.run.interpreter import read
from ..engine.local import Event, LocalRun
from ..store import folios as store
from .errors import Refusal
from .folios import changing
from .house import House, house
from .schemas import Begun, Checked, CheckText, NewRun, RunState

blueprint = APIBlueprint("runs", __name__, url_prefix="/api")


@blueprint.post("/folios/<int:folio_id>/runs")
@blueprint.input(NewRun)
@blueprint.output(Begun, status_code=201)
def begin(folio_id: int, json_data: NewRun) -> Begun:
    """Save the script, then run it; refused with 409 if the folio was changed since the version that is given."""
    place = house()
    with changing(folio_id) as (session, found):
        revision = store.save_script(session, found, json_data.script, json_data.version)
        revision_id, version = revision.id, found.version
    run = place.engine.run(json_data.script, lambda last, events: keep(place, folio_id, revision_id, last, events))
    return Begun(run_id=run.id, version=version)


def keep(place: House, folio_id: int, revision_id: int, last: Event, events: list[Event]) -> Event:
    """Keep what a run gave as a record; a run that failed gave none."""
    if last["event"] != "done":
        return last
    figures = [store.DrawnFile(e["figure"]["name"], e["svg"], e["data"]) for e in events if e["event"] == "figure"]
    with place.session() as session:
        kept = store.keep_record(session, folio_id, revision_id, last["record"], figures)
        return {**last, "record_id": kept.id, "number": kept.number, "same_as": kept.same_as}


def _run(run_id: str) -> LocalRun:
    found = house().engine.find(run_id)
    if found is None:
        raise Refusal(404, "run-gone", "this run is over, or never was")
    return found


@blueprint.get("/runs/<run_id>/events")
@blueprint.doc(
    responses={
        200: {"description": "server-sent events: progress, finding, figure, message, done or failed", "content": {"text/event-stream": {}}}
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


@blueprint.post("/check")
@blueprint.input(CheckText)
@blueprint.output(Checked)
def check(json_data: CheckText) -> Checked:
    """What the checker has to say of a script, without running it."""
    reading, _ = read(json_data.script)
    messages: list[dict[str, Any]] = reading.messages.as_records()
    return Checked(messages=messages)
