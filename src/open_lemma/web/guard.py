"""What stands between the application and a hostile page: where scripts may come from, who may send changes, how much."""

from __future__ import annotations

import os
import re
import secrets
from pathlib import Path

from flask import Flask, Response, g, request
from flask_wtf.csrf import CSRFProtect

MAX_REQUEST_BYTES = 1_000_000
MAX_FIGURE_BYTES = 64_000_000  # of an exported figure that is brought back
MAX_TABLE_BYTES = 201_000_000  # of a file that holds a table
MAX_UNREAD_BYTES = 32_000_000  # of what is refused, taken so that the refusal arrives
_TABLE = re.compile(r"/api/folios/\d+/tables/(preview/)?[^/]+\Z")
LOOPBACK_HOSTS = ["localhost", "127.0.0.1", "[::1]"]

# A drawing is shown as a picture or saved; opened by itself it may do nothing but look as it does.
DRAWING_POLICY = "default-src 'none'; style-src 'unsafe-inline'; img-src data:; sandbox"


def page_policy(nonce: str) -> str:
    """Everything comes from this server; styles made in the page carry the nonce of this answer."""
    return "; ".join(
        (
            "default-src 'none'",
            "script-src 'self'",
            f"style-src 'self' 'nonce-{nonce}'",
            "img-src 'self' data: blob:",
            "font-src 'self'",
            "connect-src 'self'",
            "base-uri 'none'",
            "form-action 'none'",
            "frame-ancestors 'none'",
        )
    )


def protect(app: Flask, secret: str, hosts: list[str] | None = None) -> None:
    """Signed session with a token for changes, a limit on requests, known hosts only, strict headers on every answer."""
    app.config.update(
        SECRET_KEY=secret,
        SESSION_COOKIE_NAME="open_lemma",
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Strict",
        WTF_CSRF_TIME_LIMIT=None,
        WTF_CSRF_CHECK_DEFAULT=True,
        MAX_CONTENT_LENGTH=MAX_REQUEST_BYTES,
        # Another site that points its own name at this machine is refused by the name it sends.
        TRUSTED_HOSTS=[*LOOPBACK_HOSTS, *(hosts or [])],
    )

    @app.before_request
    def let_figures_in() -> None:
        # Before anything looks at what was sent.
        if request.path == "/api/figures/origin":
            request.max_content_length = MAX_FIGURE_BYTES
        elif request.method in ("PUT", "POST") and _TABLE.match(request.path):
            request.max_content_length = MAX_TABLE_BYTES

    CSRFProtect(app)

    @app.before_request
    def make_nonce() -> None:
        g.nonce = secrets.token_urlsafe(16)

    @app.after_request
    def take_the_rest(response: Response) -> Response:
        # Closing a connection while the other side still sends resets it, and the answer is lost on the way.
        if request.environ.get("wsgi.input_terminated"):
            rest, left = request.environ["wsgi.input"], MAX_UNREAD_BYTES
            while left > 0 and (piece := rest.read(min(left, 65_536))):
                left -= len(piece)
        return response

    @app.after_request
    def add_headers(response: Response) -> Response:
        response.headers.setdefault("Content-Security-Policy", page_policy(g.get("nonce", "")))
        response.headers.setdefault("X-Content-Type-Options", "nosniff")
        response.headers.setdefault("Referrer-Policy", "no-referrer")
        response.headers.setdefault("Cross-Origin-Opener-Policy", "same-origin")
        response.headers.setdefault("Cross-Origin-Resource-Policy", "same-origin")
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response


def kept_secret(path: Path) -> str:
    """A random secret that outlives a restart; made once, readable by its owner only."""
    if path.exists():
        return path.read_text(encoding="ascii").strip()
    path.parent.mkdir(parents=True, exist_ok=True)
    secret = secrets.token_urlsafe(32)
    handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    with os.fdopen(handle, "w", encoding="ascii") as file:
        file.write(secret)
    return secret
