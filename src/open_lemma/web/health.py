"""Whether this process answers, and whether all that it needs does: for whoever restarts processes or shares out requests."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint
from flask import Response, jsonify
from sqlalchemy import text

from ..engine.asking import EngineAway
from ..store.database import DatabaseAway
from .services import services

blueprint = APIBlueprint("health", __name__, url_prefix="/api")
_PARTS = {
    "type": "object",
    "properties": {part: {"type": "string"} for part in ("database", "engine", "disk")},
    "required": ["database", "engine", "disk"],
}


@blueprint.get("/health")
@blueprint.doc(responses={200: {"description": "this process answers", "content": {"application/json": {"schema": {"type": "object"}}}}})
def health() -> Any:
    """Whether this process answers. Nothing else is asked: it would be no better for a restart of this one."""
    return jsonify({"status": "ok"})


@blueprint.get("/ready")
@blueprint.doc(
    responses={
        200: {"description": "all parts are there", "content": {"application/json": {"schema": _PARTS}}},
        503: {"description": "a part is away", "content": {"application/json": {"schema": _PARTS}}},
    }
)
def ready() -> tuple[Response, int]:
    """Whether runs can be begun and kept: "ok" for each part, or what is amiss."""
    parts = {"database": _database(), "engine": _engine(), "disk": services().disk.notice() or "ok"}
    return jsonify(parts), 200 if parts["database"] == parts["engine"] == "ok" else 503


def _database() -> str:
    try:
        with services().session() as session:
            session.execute(text("SELECT 1"))
    except DatabaseAway as away:
        return str(away)
    return "ok"


def _engine() -> str:
    try:
        return "ok" if services().engine.state()["warm"] else "nothing that works runs is ready"
    except EngineAway as away:
        return str(away)
