"""What the views share: the database and the engine of this application."""

from __future__ import annotations

from contextlib import AbstractContextManager
from dataclasses import dataclass
from typing import cast

from flask import current_app
from sqlalchemy.orm import Session

from ..engine.local import LocalEngine
from ..store.database import Database


@dataclass(frozen=True, slots=True)
class Services:
    database: Database
    engine: LocalEngine

    def session(self) -> AbstractContextManager[Session]:
        return self.database.session()


def services() -> Services:
    return cast(Services, current_app.extensions["open_lemma"])
