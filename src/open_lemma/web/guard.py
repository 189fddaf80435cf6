"""What stands between the application and a hostile page: where scripts may come from, who may send changes, how much."""

from __future__ import annotations

import contextlib
import os
import re
import secrets
from pathlib import Path

from flask import Flask, Response, g, request
from flask.sessions import SecureCookieSessionInterface
from flask_wtf.csrf import CSRFProtect

MAX_REQUEST_BYTES = 1_000_000
MAX_FIGURE_BYTES = 64_000_000  # of an exported figure that is brought back
MAX_TABLE_BYTES = 201_000_000  # of a file that holds a table
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


def body_limit(method: str, path: str) -> int:
    """How many bytes a request may bring: files need more than what is typed."""
    if path == "/api/figures/origin":
        return MAX_FIGURE_BYTES
    return MAX_TABLE_BYTES if method in ("PUT", "POST") and _TABLE.match(path) else MAX_REQUEST_BYTES


_STRICT = {
    "X-Content-Type-Options": "nosniff", "Referrer-Policy": "no-referrer", "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}  # fmt: skip


def plain_headers() -> list[tuple[bytes, bytes]]:
    """The headers of an answer that is no page and shows nothing."""
    found = {**_STRICT, "Content-Security-Policy": "default-src 'none'", "Cache-Control": "no-store"}
    return [(name.lower().encode(), value.encode()) for name, value in found.items()]


class _Cookies(SecureCookieSessionInterface):
    """Cookies that go back over TLS only, where they came by it."""

    def get_cookie_secure(self, _: Flask) -> bool:
        return bool(request.is_secure)


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

    app.session_interface = _Cookies()

    @app.before_request
    def limit_body() -> None:
        # Before anything looks at what was sent.
        request.max_content_length = body_limit(request.method, request.path)

    CSRFProtect(app)

    @app.before_request
    def make_nonce() -> None:
        g.nonce = secrets.token_urlsafe(16)

    @app.after_request
    def add_headers(response: Response) -> Response:
        response.headers.setdefault("Content-Security-Policy", page_policy(g.get("nonce", "")))
        for name, value in _STRICT.items():
            response.headers.setdefault(name, value)
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response


def kept_secret(path: Path) -> str:
    """A random secret that outlives a restart; made once, readable by its owner only."""
    path.parent.mkdir(parents=True, exist_ok=True)
    unfinished = path.with_name(f"{path.name}.{secrets.token_hex(4)}")
    while not path.exists() or not path.stat().st_size:
        handle = os.open(unfinished, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "w", encoding="ascii") as file:
            file.write(secrets.token_urlsafe(32))
        if path.exists() and not path.stat().st_size:
            path.unlink()
        # Of two that make one at once, the first one's is kept.
        with contextlib.suppress(FileExistsError):
            os.link(unfinished, path)
        unfinished.unlink()
    return path.read_text(encoding="ascii").strip()
