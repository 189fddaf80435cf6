"""The way to the database: an engine, sessions, and migrations to the newest shape."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager
from pathlib import Path

from sqlalchemy import Engine, create_engine
from sqlalchemy.exc import DBAPIError, InterfaceError, OperationalError
from sqlalchemy.orm import Session, sessionmaker

MIGRATIONS = Path(__file__).with_name("migrations")

# Numbers of errors of MariaDB and of its clients (MariaDB Server documentation, "Error Codes"; errmsg.h of the client).
_AWAY = frozenset({1040, 1053, 1077, 1079, 1203, 1927, 2002, 2003, 2006, 2013, 2014, 2055, 0})  # shut down, killed, gone, too many
_FULL = frozenset({3, 1021, 1026, 1030, 1041, 1114})  # cannot write, disk full, table full
_AGAIN = frozenset({1205, 1213})  # a lock that was not to be had, a deadlock


class DatabaseAway(Exception):
    """The database cannot do this now; `code` for programs: database-away, disk-full, database-busy."""

    def __init__(self, code: str, text: str) -> None:
        super().__init__(text)
        self.code = code


AWAY = DatabaseAway("database-away", "the database is being started again; what you write stays here until it is back")
FULL = DatabaseAway("disk-full", "the disk of the server is full: what is there can be read, nothing can be saved until there is room")
TAKEN = DatabaseAway("database-busy", "somebody else is changing this at the moment; nothing was changed, try again")


def why_away(trouble: DBAPIError) -> DatabaseAway | None:
    """What an error says of the database itself; None where the error is one of ours."""
    number = trouble.orig.args[0] if trouble.orig is not None and trouble.orig.args else None
    text = str(trouble.orig)
    if number in _FULL or "No space left" in text or "error 28" in text or "Errcode: 28" in text:
        return FULL
    if number in _AGAIN:
        return TAKEN
    if trouble.connection_invalidated or number in _AWAY or isinstance(trouble, InterfaceError):
        return AWAY
    return AWAY if isinstance(trouble, OperationalError) and not isinstance(number, int) else None


class Database:
    def __init__(self, url: str, connections: int = 8) -> None:
        self.url = url
        self.engine: Engine = create_engine(
            url, pool_pre_ping=True, pool_recycle=1800, pool_size=connections, max_overflow=2 * connections, pool_timeout=20,
            isolation_level="READ COMMITTED",
            # What was written into a table of a user is no business of a log.
            hide_parameters=True,
            # A server that is away is told at once, one that hangs after a while.
            connect_args={"connect_timeout": 4, "read_timeout": 60, "write_timeout": 60},
        )  # fmt: skip
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)
        self._snapshots = sessionmaker(self.engine.execution_options(isolation_level="REPEATABLE READ"), expire_on_commit=False)

    def session(self) -> AbstractContextManager[Session]:
        """A session that commits at the end, or rolls back if anything was raised. Raises DatabaseAway."""
        return self._opened(self._sessions)

    def snapshot(self) -> AbstractContextManager[Session]:
        """A session for reading: all that it reads is as it was at one moment. Raises DatabaseAway."""
        return self._opened(self._snapshots)

    @contextmanager
    def _opened(self, sessions: sessionmaker[Session]) -> Iterator[Session]:
        try:
            with sessions() as session, session.begin():
                yield session
        except DBAPIError as trouble:
            away = why_away(trouble)
            if away is None:
                raise
            raise DatabaseAway(away.code, str(away)) from None

    def migrate(self) -> None:
        """Bring the tables to the newest shape; does nothing where they have it."""
        from alembic import command  # whoever only asks the database needs none of it
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        with self.engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")

    def dispose(self) -> None:
        self.engine.dispose()
