"""Databases of these tests' own: what they keep is not always what the application could show."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Iterator

import pytest
from sqlalchemy import create_engine, make_url, text

from open_lemma.store.database import Database


@pytest.fixture(scope="session")
def empty(database_address: str) -> Iterator[Callable[[], str]]:
    """Gives addresses of databases with nothing in them."""
    made: list[str] = []
    url = make_url(database_address)
    # The user of the tests may do everything in databases whose names begin like its own.
    engine = create_engine(url)

    def another() -> str:
        made.append(f"{url.database}_{secrets.token_hex(4)}")
        with engine.begin() as connection:
            connection.execute(text(f"CREATE DATABASE {made[-1]} CHARACTER SET utf8mb4 COLLATE utf8mb4_bin"))
        return url.set(database=made[-1]).render_as_string(hide_password=False)

    yield another
    with engine.begin() as connection:
        for name in made:
            connection.execute(text(f"DROP DATABASE {name}"))
    engine.dispose()


@pytest.fixture(scope="session")
def database(empty: Callable[[], str]) -> Iterator[Database]:
    made = Database(empty())
    made.migrate()
    yield made
    made.dispose()
