"""What all tests share: a database server of their own, the application served for real, a browser."""

from __future__ import annotations

import secrets
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import pymysql
import pytest
from hypothesis import settings
from xdist.scheduler import LoadScopeScheduling

from open_lemma.core.run.execute import interpreter
from open_lemma.engine.local import LocalEngine
from open_lemma.engine.processes import Processes
from open_lemma.service.mariadb import OwnServer
from open_lemma.service.serve import Serving
from open_lemma.service.settings import Settings, database_url
from open_lemma.store.database import Database

PROJECT = Path(__file__).resolve().parents[1]
COMMAND = Path(sys.executable).with_name("open-lemma")

settings.register_profile("lemma", deadline=None, derandomize=True, print_blob=True)
settings.load_profile("lemma")


def until(holds: Callable[[], object], what: str = "it", seconds: float = 60) -> float:
    """Wait for something to hold, also while what it asks is away; how long that took."""
    start = time.monotonic()
    while True:
        with suppress(OSError):
            if holds():
                return time.monotonic() - start
        assert time.monotonic() - start < seconds, f"waited for {what}"
        time.sleep(0.05)


# What asks a served application stays in one process, so that database, server and browser are started once; so do the tests of engines
# and services, which start and end their own.
TOGETHER = {"browser": "served", "store": "served", "web": "served", "engine": "processes", "service": "processes"}


def pytest_xdist_make_scheduler(config: pytest.Config, log: Any) -> LoadScopeScheduling:
    """With several processes: one for all that is served, one for engines and services, the other tests wherever there is room."""

    class Scheduler(LoadScopeScheduling):
        def _split_scope(self, nodeid: str) -> str:
            return TOGETHER.get(nodeid.split("/")[1], nodeid)

    return Scheduler(config, log)


# Whose coverage is told: numerics would be twice as slow under the tracer, and what a child process does is not seen.
TRACED = ("core/language", "core/editing", "core/record")


def pytest_terminal_summary(terminalreporter: Any, config: pytest.Config) -> None:
    """How much of these folders was run, where coverage was asked for (`--cov`)."""
    plugin = config.pluginmanager.getplugin("_cov")
    measured = getattr(getattr(plugin, "cov_controller", None), "cov", None)
    if measured is None:
        return
    counts: dict[str, list[int]] = {}
    for file in measured.get_data().measured_files():
        part = next((p for p in TRACED if f"/open_lemma/{p}/" in file), None)
        if part is not None:
            _, statements, _, missing, _ = measured.analysis2(file)
            counts.setdefault(part, []).append(len(statements))
            counts.setdefault(f"{part} missing", []).append(len(missing))
    said = [f"{p} {100 - 100 * sum(counts[f'{p} missing']) / max(sum(counts[p]), 1):.0f} %" for p in TRACED if p in counts]
    terminalreporter.write_line(f"statements that these tests run: {', '.join(said)}")


@pytest.fixture(scope="session")
def database_address(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """A MariaDB database of the tests' own: on the server that DATABASE_URL names, or on one that is started for them."""
    given = database_url()
    if given is None:
        server = OwnServer(tmp_path_factory.mktemp("database"))
        yield server.start()
        server.stop()
        return
    from sqlalchemy.engine import make_url

    url = make_url(given)
    name = f"{url.database or 'open_lemma'}_test_{secrets.token_hex(4)}"
    connection = pymysql.connect(host=url.host, port=url.port or 3306, user=url.username, password=url.password or "")
    with connection, connection.cursor() as cursor:
        cursor.execute(f"CREATE DATABASE {name} CHARACTER SET utf8mb4 COLLATE utf8mb4_bin")
        yield url.set(database=name).render_as_string(hide_password=False)
        cursor.execute(f"DROP DATABASE {name}")


@pytest.fixture(scope="session")
def database(database_address: str) -> Iterator[Database]:
    made = Database(database_address)
    made.migrate()
    yield made
    made.dispose()


@pytest.fixture(autouse=True)
def faults_of_ours_are_raised(monkeypatch: pytest.MonkeyPatch) -> None:
    """Where the program would log a fault of its own and go on, a test fails."""

    def raised(trouble: Exception, *_: object) -> None:
        raise trouble

    monkeypatch.setattr(interpreter, "log_fault", raised)


@pytest.fixture(scope="session")
def serving(database: Database, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Serving]:
    """The whole application, served as `./start` serves it, by two web processes; no fault of ours may be in its log."""
    faults = tmp_path_factory.mktemp("log") / "faults"
    settings = {"OPEN_LEMMA_RUN_SECONDS": "6", "OPEN_LEMMA_RUN_MEMORY_MB": "700", "OPEN_LEMMA_LOG": str(faults)}
    with Serving(Settings(18137, tmp_path_factory.mktemp("served"), database.url, ()), say=False, more=settings) as serving:
        yield serving
    logged = faults.read_text(encoding="utf-8") if faults.exists() else ""
    amiss = [line for line in logged.splitlines() if "fault of ours" in line or '"trace"' in line]
    assert not amiss, "\n".join(amiss)


@pytest.fixture(scope="session")
def served(serving: Serving) -> str:
    """Its address."""
    return serving.address


@pytest.fixture(scope="session")
def processes() -> Iterator[Processes]:
    """An engine of one machine, with its processes."""
    made = Processes(warm=2)
    made.start()
    made.wait_ready()
    yield made
    made.close()


@pytest.fixture
def engine(processes: Processes) -> LocalEngine:
    return processes.engine()
