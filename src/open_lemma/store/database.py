"""The way to the database: an engine, sessions, and migrations to the newest shape."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine
from sqlalchemy.orm import Session, sessionmaker

MIGRATIONS = Path(__file__).with_name("migrations")


class Database:
    def __init__(self, url: str) -> None:
        self.url = url
        self.engine: Engine = create_engine(
            url, pool_pre_ping=True, pool_recycle=1800, pool_size=8, max_overflow=16, isolation_level="READ COMMITTED"
        )
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A session that commits at the end, or rolls back if anything was raised."""
        with self._sessions() as session, session.begin():
            yield session

    def migrate(self) -> None:
        """Bring the tables to the newest shape; does nothing where they have it."""
        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        with self.engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")

    def dispose(self) -> None:
        self.engine.dispose()
