"""Records and their figures, in every format."""

from __future__ import annotations

import json
import re
from typing import Any

from apiflask import APIBlueprint
from flask import Response, request

from ..core.figure.about import About, stamped_svg
from ..engine.asking import JobFailed
from ..files.formats import FIGURE_TYPES as TYPES
from ..store import folios as store
from .errors import Refusal
from .folios import kept, stamp
from .guard import DRAWING_POLICY
from .schemas import FigureQuery, KeptRecord, Origin, PlaceAsked, PlaceRead, RecordLine, Records, Turned, TurnedFigure
from .services import services, who
from .table_loading import chunks_of, spooled

blueprint = APIBlueprint("records", __name__, url_prefix="/api")


@blueprint.get("/folios/<int:folio_id>/records")
@blueprint.output(Records)
def all_of_folio(folio_id: int) -> Records:
    """The records of a folio, the latest first."""
    with services().session() as session:
        found = store.folio(session, store.local_owner(session), folio_id)
        lines = [
            RecordLine(id=r.id, number=r.number, same_as=r.same_as, created_at=stamp(r.created_at), duration_s=r.duration_s)
            for r in store.latest_records(session, found.id)
        ]
        return Records(records=lines)


@blueprint.get("/records/<int:record_id>")
@blueprint.output(KeptRecord)
def one(record_id: int) -> KeptRecord:
    """A record as it was kept."""
    with services().session() as session:
        found = store.record(session, store.local_owner(session), record_id)
        return kept(session, found, store.latest_revision(session, found.folio_id).script_sha256)


@blueprint.get("/records/<int:record_id>/figures/<name>.<any(svg,pdf,eps,png,tiff,csv,xlsx,tex,txt,stl,ply,obj,glb,geojson):fmt>")
@blueprint.input(FigureQuery, location="query")
@blueprint.doc(responses={200: {"description": "the drawing", "content": {t: {} for t in TYPES.values()}}})
def figure(record_id: int, name: str, fmt: str, query_data: FigureQuery) -> Response:
    """A figure of a record as a file. SVG is the drawing that is on screen; all others are made from the same data, `step` is for
    the numbers of curves. What is downloaded says in its metadata where it came from."""
    with services().session() as session:
        found = store.figure(session, store.local_owner(session), record_id, name)
        svg, data = store.figure_svg(session, found), store.figure_data(session, found)
        about = About(found.record.folio_id, found.record.number, found.name, found.record.revision.script_sha256)
    # On screen surfaces are as fine as a screen; what is downloaded is drawn for print.
    coarse = query_data.download and b'"space":{' in data
    if fmt == "svg" and not query_data.grey and not coarse:
        drawing = stamped_svg(svg, about) if query_data.download else svg
    else:
        drawing = services().engine.draw(data, fmt, query_data.dpi, query_data.grey, query_data.step, about.text(), who())
    return Response(drawing, mimetype=TYPES[fmt], headers=_headers(name, fmt, query_data))


@blueprint.get("/records/<int:record_id>/figures/<name>/scene")
@blueprint.doc(responses={200: {"description": "the windows on space of a figure, to be turned on screen"}})
def scene(record_id: int, name: str) -> Response:
    """What stands in the windows on space of a figure: shapes (typed numbers, compressed by zlib, in base64), axes, colours."""
    with services().session() as session:
        data = store.figure_data(session, store.figure(session, store.local_owner(session), record_id, name))
    text = json.dumps(services().engine.scene(data, who()), separators=(",", ":"))
    return Response(text, mimetype="application/json", headers={"Cache-Control": "private, max-age=31536000, immutable"})


@blueprint.post("/records/<int:record_id>/figures/<name>/turned")
@blueprint.input(Turned)
@blueprint.output(TurnedFigure)
def turned(record_id: int, name: str, json_data: Turned) -> TurnedFigure:
    """A kept figure with windows on space seen from elsewhere; nothing is kept."""
    with services().session() as session:
        data = store.figure_data(session, store.figure(session, store.local_owner(session), record_id, name))
    found = services().engine.turn(data, {str(v.panel): (v.azimuth, v.elevation) for v in json_data.views}, who())
    return TurnedFigure(layout=found["layout"], svg=found["svg"].decode())


@blueprint.post("/figures/probe")
@blueprint.input(PlaceAsked)
@blueprint.output(PlaceRead)
def reading(json_data: PlaceAsked) -> PlaceRead:
    """What a curve of a kept figure says at a place: of the function behind it, not of its drawn samples."""
    with services().session() as session:
        found = store.figure(session, store.local_owner(session), json_data.record_id, json_data.figure)
        data = store.figure_data(session, found)
    return PlaceRead(**services().engine.read(data, json_data.series, json_data.x, json_data.y, json_data.z, who()))


@blueprint.post("/figures/origin")
@blueprint.output(Origin)
def trace() -> Origin:
    """The folio and record that an exported figure came from; the bytes of its file are the body."""
    with spooled(services(), chunks_of(request.stream)) as path:
        try:
            said = services().engine.origin(path, who())
        except JobFailed:
            said = None
    about = None if said is None else About(**said)
    if about is None:
        raise Refusal(422, "no-origin", "this file does not say where it came from; only figures exported from here do")
    with services().session() as session:
        found = store.record_of_script(session, store.local_owner(session), about.script, about.folio, about.record)
        if found is None:
            raise Refusal(404, "origin-gone", "the folio that this figure came from is not on this shelf")
        current = store.latest_revision(session, found.folio_id).script_sha256 == about.script
        return Origin(
            folio_id=found.folio_id, folio=found.folio.title, record_id=found.id, record=found.number, figure=about.figure, current=current
        )


def _headers(name: str, fmt: str, query: FigureQuery) -> dict[str, Any]:
    # A record never changes, so neither does what was drawn from it.
    headers = {"Content-Security-Policy": DRAWING_POLICY, "Cache-Control": "private, max-age=31536000, immutable"}
    if query.download:
        plain = re.sub(r"[^A-Za-z0-9_-]+", "_", name) or "figure"
        ending = f"_{query.dpi}dpi" if fmt in ("png", "tiff") else ""
        headers["Content-Disposition"] = f'attachment; filename="{plain}{"_grey" if query.grey else ""}{ending}.{fmt}"'
    return headers
