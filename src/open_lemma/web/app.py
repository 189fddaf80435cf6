"""The application: resources under /api, and the built page everywhere else."""

from __future__ import annotations

import secrets
from pathlib import Path
from typing import Any

from apiflask import APIFlask
from flask import Response, g, request, send_from_directory
from flask import session as cookie
from flask_wtf.csrf import generate_csrf

from .. import __version__
from ..engine.asking import Engine
from ..store.database import Database
from . import course, errors, faults, folios, guard, health, language, loggers, proofs, records, runs, tables
from .disk import Disk
from .metrics import measure
from .plain_json import PlainJson
from .record_schemas import with_record
from .refusals import with_refusals
from .schemas import Session
from .services import Services, services

UI = Path(__file__).resolve().parents[3] / "ui" / "dist"


def create_app(
    database: Database, engine: Engine, secret: str, ui: Path = UI, hosts: list[str] | None = None, disk: Disk | None = None
) -> APIFlask:  # fmt: skip
    """The web application on a database that has been migrated."""
    app = APIFlask(__name__, title="Open Lemma", version=__version__, docs_path=None, spec_path="/api/openapi.json", static_folder=None)
    app.config["AUTO_SERVERS"] = False
    app.config["OPENAPI_VERSION"] = "3.1.0"
    app.spec_processor(lambda spec: with_refusals(with_record(spec)))
    app.config["HTTP_ERROR_SCHEMA"] = app.config["VALIDATION_ERROR_SCHEMA"] = _TROUBLE
    app.config["VALIDATION_ERROR_STATUS_CODE"] = 422
    app.json = PlainJson(app)
    app.extensions["open_lemma"] = Services(database, engine, disk or Disk())
    guard.protect(app, secret, hosts)
    errors.handle(app)
    _look_at_disk(app)
    measure(app, engine, disk or Disk())
    for module in (folios, runs, tables, loggers, records, proofs, faults, language, course, health):
        app.register_blueprint(module.blueprint)
    _add_session(app)
    _add_page(app, ui)
    return app


_TROUBLE = {
    "type": "object",
    "properties": {"code": {"type": "string"}, "message": {"type": "string"}},
    "required": ["code", "message"],
}


def _look_at_disk(app: APIFlask) -> None:
    @app.before_request
    def room() -> None:
        if why := services().disk.refuses(request.method, request.path):
            raise errors.Refusal(507, "disk-full", why)


def _add_session(app: APIFlask) -> None:
    @app.get("/api/session")
    @app.output(Session)
    def session() -> Session:
        """The token that changes must carry in the header X-CSRFToken."""
        cookie.setdefault("who", secrets.token_urlsafe(9))  # for a fair turn; it says nothing of anybody
        return Session(csrf_token=generate_csrf(), version=__version__, notice=services().disk.notice())


def _add_page(app: APIFlask, ui: Path) -> None:
    @app.get("/assets/<path:name>")
    @app.doc(hide=True)
    def asset(name: str) -> Response:
        # Names of built files hold a fingerprint of what is in them.
        answer = send_from_directory(ui / "assets", name, max_age=31536000)
        answer.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return answer

    @app.get("/mark.svg")
    @app.doc(hide=True)
    def mark() -> Response:
        return send_from_directory(ui, "mark.svg", max_age=86400)

    @app.get("/handbook-shown/<name>")
    @app.doc(hide=True)
    def shown(name: str) -> Response:
        """What the examples of the handbook give; worked out when the page is built."""
        return send_from_directory(ui.parent / "shown", name, max_age=3600)

    @app.get("/")
    @app.get("/folio/<int:folio_id>")
    @app.get("/folio/<int:folio_id>/tables")
    @app.get("/folio/<int:folio_id>/tables/<name>")
    @app.get("/course")
    @app.get("/course/<lesson_id>")
    @app.get("/handbook")
    @app.get("/handbook/<page_id>")
    @app.doc(hide=True)
    def page(**_: Any) -> Response:
        text = (ui / "index.html").read_text(encoding="utf-8").replace("__NONCE__", g.nonce)
        return Response(text, mimetype="text/html", headers={"Cache-Control": "no-store"})
