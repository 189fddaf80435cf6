"""What the views share: the database and the engine of this application, and whose the request is."""

from __future__ import annotations

from contextlib import AbstractContextManager
from dataclasses import dataclass, field
from typing import cast

from flask import current_app, request
from flask import session as cookie
from sqlalchemy.orm import Session

from ..engine.asking import Engine
from ..store.database import Database
from .disk import Disk


@dataclass(frozen=True, slots=True)
class Services:
    database: Database
    engine: Engine
    disk: Disk = field(default_factory=Disk)

    def session(self) -> AbstractContextManager[Session]:
        return self.database.session()

    def snapshot(self) -> AbstractContextManager[Session]:
        """For reading what belongs together."""
        return self.database.snapshot()


def services() -> Services:
    return cast(Services, current_app.extensions["open_lemma"])


def who() -> str:
    """Whose this request is, for a fair turn among those that wait: the browser, else the address it comes from."""
    return str(cookie.get("who") or request.remote_addr or "")
