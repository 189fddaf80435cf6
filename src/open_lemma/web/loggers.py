"""A logger on this machine: what it reads now, and captured runs as tables."""

from __future__ import annotations

import io
import json
import os
from typing import Any

from apiflask import APIBlueprint

from ..logger.client import MOST_POINTS, Logger, NoLogger, as_csv, connected
from ..store import folios
from ..store import tables as store
from . import table_loading
from .errors import Refusal
from .schemas import Capture, LoggerAsked, LoggerSeen, TableName
from .services import services, who
from .tables import named

blueprint = APIBlueprint("loggers", __name__, url_prefix="/api")
_LATEST = 240


def _port() -> int:
    """The port that this server was started with; no other is ever spoken to."""
    given = os.environ.get("OPEN_LEMMA_LOGGER_PORT", "")
    if not given.isdigit():
        raise Refusal(404, "no-logger", "no logger is connected to this server")
    return int(given)


def _seen(logger: Logger, after: int) -> LoggerSeen:
    points = logger.points()
    first = max(after, points - _LATEST)
    return LoggerSeen(
        identity=logger.ask("*IDN?"), points=points, first=first, readings=[list(r) for r in logger.readings(first, points - first)],
        interval_h=float(logger.ask("CONF:INT?")), seed=int(logger.ask("CONF:SEED?")),
    )  # fmt: skip


@blueprint.get("/logger")
@blueprint.input(LoggerAsked, location="query")
@blueprint.output(LoggerSeen)
def seen(query_data: LoggerAsked) -> LoggerSeen:
    """What the logger has read so far, from a reading on; at most the latest few."""
    try:
        with connected(_port()) as logger:
            return _seen(logger, query_data.after)
    except (NoLogger, ValueError) as trouble:
        raise Refusal(422, "no-logger", str(trouble)) from None


@blueprint.post("/logger")
@blueprint.input(Capture)
@blueprint.output(LoggerSeen)
def begin(json_data: Capture) -> LoggerSeen:
    """Begin a run anew: with a seed, so many hours between readings, so many readings a second."""
    try:
        with connected(_port()) as logger:
            for command in (
                "ABOR",
                f"CONF:SEED {json_data.seed}",
                f"CONF:INT {json_data.interval_h!r}",
                f"CONF:RATE {json_data.rate!r}",
                "INIT",
            ):
                logger.say(command)
            return _seen(logger, 0)
    except (NoLogger, ValueError) as trouble:
        raise Refusal(422, "no-logger", str(trouble)) from None


@blueprint.post("/folios/<int:folio_id>/logger/tables")
@blueprint.input(TableName)
@blueprint.doc(responses={200: {"description": "the name of the table", "content": {"application/json": {}}}})
def capture(folio_id: int, json_data: TableName) -> dict[str, Any]:
    """Keep what the logger has read as a table of the folio."""
    name = named(json_data.name)
    try:
        with connected(_port()) as logger:
            points = min(logger.points(), MOST_POINTS)
            readings = logger.readings(0, points)
            data = as_csv(logger.ask("*IDN?"), int(logger.ask("CONF:SEED?")), float(logger.ask("CONF:INT?")), readings)
    except (NoLogger, ValueError) as trouble:
        raise Refusal(422, "no-logger", str(trouble)) from None
    if not readings:
        raise Refusal(422, "no-readings", "the logger has read nothing yet; begin a run first")
    with table_loading.spooled(services(), iter([data])) as path:
        found, columns = table_loading.read_whole(services(), path, name, "", who())
    with services().session() as session:
        folios.folio(session, folios.local_owner(session), folio_id)
        store.put_table(session, folio_id, name, io.BytesIO(data), json.dumps(found["recipe"]), found["rows"], columns)
    return {"name": name, "rows": found["rows"]}
