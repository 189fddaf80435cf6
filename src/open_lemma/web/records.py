"""Records and their figures, in every format."""

from __future__ import annotations

import re
from typing import Any

from apiflask import APIBlueprint
from flask import Response

from ..store import folios as store
from .folios import kept, stamp
from .guard import DRAWING_POLICY
from .house import house
from .schemas import FigureQuery, KeptRecord, RecordLine, Records

blueprint = APIBlueprint("records", __name__, url_prefix="/api")

TYPES = {"svg": "image/svg+xml", "pdf": "application/pdf", "png": "image/png"}


@blueprint.get("/folios/<int:folio_id>/records")
@blueprint.output(Records)
def all_of_folio(folio_id: int) -> Records:
    """The records of a folio, the latest first."""
    with house().session() as session:
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
    with house().session() as session:
        found = store.record(session, store.local_owner(session), record_id)
        return kept(found, store.latest_revision(session, found.folio_id).script_sha256)


@blueprint.get("/records/<int:record_id>/figures/<name>.<any(svg,pdf,png):fmt>")
@blueprint.input(FigureQuery, location="query")
@blueprint.doc(responses={200: {"description": "the drawing", "content": {t: {} for t in TYPES.values()}}})
def figure(record_id: int, name: str, fmt: str, query_data: FigureQuery) -> Response:
    """A figure of a record. SVG is the drawing that is on screen; PDF and PNG are drawn from the same data."""
    with house().session() as session:
        found = store.figure(session, store.local_owner(session), record_id, name)
        svg, data = found.svg, store.figure_data(found)
    plain = fmt == "svg" and not query_data.grey
    drawing = svg if plain else house().engine.draw(data, fmt, query_data.dpi, query_data.grey)
    return Response(drawing, mimetype=TYPES[fmt], headers=_headers(name, fmt, query_data))


def _headers(name: str, fmt: str, query: FigureQuery) -> dict[str, Any]:
    # A record never changes, so neither does what was drawn from it.
    headers = {"Content-Security-Policy": DRAWING_POLICY, "Cache-Control": "private, max-age=31536000, immutable"}
    if query.download:
        plain = re.sub(r"[^A-Za-z0-9_-]+", "_", name) or "figure"
        ending = f"_{query.dpi}dpi" if fmt == "png" else ""
        headers["Content-Disposition"] = f'attachment; filename="{plain}{"_grey" if query.grey else ""}{ending}.{fmt}"'
    return headers
