"""Refusals in one shape: a code, a sentence, and never a stack trace."""

from __future__ import annotations

from typing import Any

from apiflask import APIFlask
from apiflask.exceptions import HTTPError
from flask import Response, g, jsonify
from flask_wtf.csrf import CSRFError
from werkzeug.exceptions import HTTPException

from ..engine.asking import EngineAway, EngineBusy, JobFailed
from ..store.database import DatabaseAway
from ..store.folios import Conflict, NotFound
from .guard import MAX_REQUEST_BYTES


class Refusal(Exception):
    def __init__(self, status: int, code: str, message: str, **more: Any) -> None:
        super().__init__(message)
        self.status, self.code, self.message, self.more = status, code, message, more


def trouble(status: int, code: str, message: str, **more: Any) -> tuple[Response, int]:
    return jsonify({"code": code, "message": message, **more}), status


_KNOWN = {
    400: ("bad-request", "this request cannot be read"),
    404: ("not-found", "there is nothing at this address"),
    405: ("method", "this cannot be done here"),
    413: ("too-large", f"this is larger than {MAX_REQUEST_BYTES // 1000} kB, the limit for one request"),
    415: ("not-json", "the request must be JSON"),
}


def handle(app: APIFlask) -> None:
    @app.errorhandler(NotFound)
    def not_found(_: NotFound) -> Any:
        return trouble(404, "not-found", "there is no such folio, record or figure; it may have been deleted")

    @app.errorhandler(EngineBusy)
    def busy(_: EngineBusy) -> Any:
        return trouble(503, "busy", "too much is waiting already; try again in a moment")

    @app.errorhandler(EngineAway)
    def away(reason: EngineAway) -> Any:
        return trouble(503, "engine-away", str(reason))

    @app.errorhandler(DatabaseAway)
    def no_database(reason: DatabaseAway) -> Any:
        return trouble(507 if reason.code == "disk-full" else 503, reason.code, str(reason))

    @app.errorhandler(JobFailed)
    def failed(reason: JobFailed) -> Any:
        return trouble(404 if reason.reason == "no-column" else 422, reason.reason or "not-done", str(reason))

    @app.errorhandler(Refusal)
    def refused(refusal: Refusal) -> Any:
        return trouble(refusal.status, refusal.code, refusal.message, **refusal.more)

    @app.errorhandler(CSRFError)
    def no_token(_: CSRFError) -> Any:
        return trouble(403, "token", "this page is too old to make changes; reload it")

    @app.error_processor
    def invalid(error: HTTPError) -> Any:
        code, message = _KNOWN.get(error.status_code, ("invalid", error.message))
        return trouble(error.status_code, code, f"{message}: {_first(error.detail)}" if error.detail else message)

    @app.errorhandler(HTTPException)
    def http(error: HTTPException) -> Any:
        status = error.code or 500
        code, message = _KNOWN.get(status, ("http", error.name))
        return trouble(status, code, message)

    @app.errorhandler(Exception)
    def unexpected(error: Exception) -> Any:
        app.logger.exception("unexpected", exc_info=error, extra={"request": g.get("request_id")})
        return trouble(500, "internal", "something went wrong here, not in your script; what was saved is safe")


def _first(detail: Any) -> str:
    """The first complaint of a validation, with the field it is about."""
    while isinstance(detail, dict) and detail:
        key, inner = next(iter(detail.items()))
        if isinstance(inner, list):
            return f"{key}: {inner[0]}"
        detail = inner
    return str(detail)


__all__ = ["Conflict", "Refusal", "handle", "trouble"]
