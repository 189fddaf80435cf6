"""The application: resources under /api, and the built page everywhere else."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from apiflask import APIFlask
from flask import Response, g, send_from_directory
from flask_wtf.csrf import generate_csrf

from .. import __version__
from ..engine.local import LocalEngine
from ..store.database import Database
from . import course, errors, faults, folios, guard, language, loggers, proofs, records, runs, tables
from .record_schemas import with_record
from .schemas import Session
from .services import Services

UI = Path(__file__).resolve().parents[3] / "ui" / "dist"


def create_app(database: Database, engine: LocalEngine, secret: str, ui: Path = UI, hosts: list[str] | None = None) -> APIFlask:
    """The web application on a database that has been migrated."""
    app = APIFlask(__name__, title="Open Lemma", version=__version__, docs_path=None, spec_path="/api/openapi.json", static_folder=None)
    app.config["AUTO_SERVERS"] = False
    app.config["OPENAPI_VERSION"] = "3.1.0"
    app.spec_processor(with_record)
    app.config["HTTP_ERROR_SCHEMA"] = app.config["VALIDATION_ERROR_SCHEMA"] = _TROUBLE
    app.config["VALIDATION_ERROR_STATUS_CODE"] = 422
    app.json.sort_keys = False
    app.extensions["open_lemma"] = Services(database, engine)
    guard.protect(app, secret, hosts)
    errors.handle(app)
    for module in (folios, runs, tables, loggers, records, proofs, faults, language, course):
        app.register_blueprint(module.blueprint)
    _add_session(app)
    _add_page(app, ui)
    return app


_TROUBLE = {
    "type": "object",
    "properties": {"code": {"type": "string"}, "message": {"type": "string"}},
    "required": ["code", "message"],
}


def _add_session(app: APIFlask) -> None:
    @app.get("/api/session")
    @app.output(Session)
    def session() -> Session:
        """The token that changes must carry in the header X-CSRFToken."""
        return Session(csrf_token=generate_csrf(), version=__version__)


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
