"""Runs: begin one, follow it by server-sent events, stop it; and what is asked of a script while it is written."""

from __future__ import annotations

import json
from typing import Any

from apiflask import APIBlueprint
from flask import Response, g

from ..core.record.events import EVENTS
from ..engine.asking import EngineAway, EngineBusy, Event
from ..store import folios as store
from .errors import Refusal
from .folios import changing
from .record_schemas import event_as_sent
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
from .services import services, who
from .table_loading import tables_for

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
    # What ran in part is no record of the script.
    keep = None if json_data.part is not None else {"folio": folio_id, "revision": revision_id}
    try:
        tables = tables_for(place, folio_id, json_data.script, who())
        run = place.engine.run(json_data.script, json_data.part, json_data.onwards, tables, who(), str(folio_id), keep)
    except (EngineBusy, EngineAway, OSError) as trouble:
        # The script is saved all the same: without the new version the next change would look like one from elsewhere.
        text = "too many runs wait already" if isinstance(trouble, EngineBusy) else "what runs scripts is being started again"
        raise Refusal(503, "busy", f"{text}; the script is saved, and this run begins when there is room", version=version) from None
    g.run = run  # for the log
    return Begun(run_id=run, version=version)


def _tables(folio_id: int, script: str) -> dict[str, bytes]:
    with services().session() as session:
        store.folio(session, store.local_owner(session), folio_id)
    return tables_for(services(), folio_id, script, who())


@blueprint.post("/folios/<int:folio_id>/walks")
@blueprint.input(NewWalk)
@blueprint.output(Begun, status_code=201)
def walk(folio_id: int, json_data: NewWalk) -> Begun:
    """Run the script as it stands and tell of each statement; nothing is kept."""
    stops = [[s.line, s.condition] for s in json_data.stops]
    return Begun(run_id=services().engine.walk(json_data.script, stops, _tables(folio_id, json_data.script), who()), version=0)


def _actions(asked: Inking) -> list[dict[str, Any]]:
    return [{"do": a.do, "line": a.line, "more": a.more} for a in asked.actions]


@blueprint.post("/folios/<int:folio_id>/previews")
@blueprint.input(Inking)
@blueprint.output(Preview)
def preview(folio_id: int, json_data: Inking) -> Preview:
    """Ink what was done by hand, run that script at once and answer with what changed; nothing is kept."""
    tables = _tables(folio_id, json_data.script)
    return Preview(**services().engine.preview(json_data.script, _actions(json_data), str(folio_id), tables, who()))


@blueprint.post("/folios/<int:folio_id>/fits")
@blueprint.input(FitsAsked)
@blueprint.output(FitsFound)
def fits(folio_id: int, json_data: FitsAsked) -> FitsFound:
    """Fits proposed for drawn points, the best first; nothing is kept."""
    given = {
        "script": json_data.script, "line": json_data.line, "formula": json_data.formula, "starts": json_data.starts, "at": json_data.at,
    }  # fmt: skip
    return FitsFound(**services().engine.fits(given, _tables(folio_id, json_data.script), who()))


@blueprint.post("/edits")
@blueprint.input(Inking)
@blueprint.output(Edits)
def ink(json_data: Inking) -> Edits:
    """The edits that write into the script what was done by hand."""
    return Edits(edits=_quick("edits", script=json_data.script, actions=_actions(json_data))["edits"])


@blueprint.post("/dressings")
@blueprint.input(DressingAsked)
@blueprint.output(Dressing)
def described(json_data: DressingAsked) -> Dressing:
    """What the script says of a drawn thing now, read from its tree."""
    asked = {"script": json_data.script, "line": json_data.line, "window": json_data.window, "figure": json_data.figure}
    return Dressing(**_quick("describe", **asked)["described"])


def _quick(kind: str, **given: Any) -> Event:
    return services().engine.quick(kind, who(), **given)


@blueprint.post("/folios/<int:folio_id>/values")
@blueprint.input(NameAsked)
@blueprint.doc(responses={200: {"description": "all of the value", "content": {"text/csv": {}}}})
def value(folio_id: int, json_data: NameAsked) -> Response:
    """What a name stands for at the end of a run, as CSV: all of it."""
    text = services().engine.value(json_data.script, json_data.name, _tables(folio_id, json_data.script), who())
    return Response(text, mimetype="text/csv")


# The answer comes from the front (`service.front`), which holds no thread for it; this stands here for the description.
@blueprint.get("/runs/<run_id>/events")
@blueprint.doc(
    responses={
        200: {
            "description": "server-sent events; the last is done or failed",
            "content": {"text/event-stream": {"schema": {"oneOf": [event_as_sent(kind) for kind in EVENTS]}}},
        }
    }
)
def events(run_id: str) -> Response:  # noqa: ARG001
    """The events of a run from its beginning, or from after the one that was seen last (`Last-Event-ID`)."""
    raise Refusal(404, "run-gone", "this run is over, or never was")


def seen_last(header: str) -> int:
    """The number of the event that was seen last, by what a browser sends; 0 where it is none."""
    return int(header) if header.isascii() and header.isdigit() and len(header) < 10 else 0


def as_sent(number: int, event: Event | None) -> str:
    """An event as server-sent events have it (WHATWG HTML, section 9.2); a comment where nothing came for a while."""
    if event is None:
        return ": still at work\n\n"
    return f"id: {number}\nevent: {event['event']}\ndata: {json.dumps(event, ensure_ascii=False)}\n\n"


@blueprint.post("/runs/<run_id>/stop")
@blueprint.output(RunState)
def stop(run_id: str) -> RunState:
    """Stop a run; its last event then says so."""
    if not services().engine.stop(run_id):
        raise Refusal(404, "run-gone", "this run is over, or never was")
    return RunState(stopped=True)


@blueprint.post("/renamings")
@blueprint.input(Renaming)
@blueprint.output(Edits)
def rename(json_data: Renaming) -> Edits:
    """The edits that give a name another one wherever it is the same name."""
    asked = {"script": json_data.script, "line": json_data.line, "column": json_data.column, "name": json_data.name}
    return Edits(edits=_quick("rename", **asked)["edits"])


@blueprint.post("/check")
@blueprint.input(CheckText)
@blueprint.output(Checked)
def check(json_data: CheckText) -> Checked:
    """What the checker has to say of a script, without running it."""
    return Checked(messages=_quick("check", script=json_data.script)["messages"])
