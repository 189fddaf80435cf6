"""Engines as the tests meet them: what a machine works, whichever way its jobs come."""

from __future__ import annotations

import asyncio
import shutil
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
import redis

from open_lemma.engine.asking import Engine, Event
from open_lemma.engine.processes import Processes
from open_lemma.engine.protocol import Limits
from open_lemma.engine.remote.client import RedisEngine
from open_lemma.engine.remote.worker import Worker
from open_lemma.service.ports import free_port
from tests.conftest import until


def events_of(engine: Engine, run: str, after: int = 0) -> list[Event]:
    """All events of a run, from after one."""

    async def all_of_them() -> list[Event]:
        return [event async for _, event in engine.listen(run, after) if event is not None]

    return asyncio.run(all_of_them())


@contextmanager
def redis_server(folder: Path) -> Iterator[str]:
    port = free_port(range(26380, 26900))
    program = shutil.which("redis-server", path="/usr/bin:/usr/local/bin")
    assert program, "redis-server is not installed; ./test installs it"
    command = [program, "--port", str(port), "--bind", "127.0.0.1", "--dir", str(folder), "--save", "", "--appendonly", "no"]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    try:
        client = redis.Redis(port=port)
        until(lambda: answers(client), "Redis")
        yield f"redis://127.0.0.1:{port}/0"
    finally:
        process.terminate()
        process.wait()


def answers(client: redis.Redis) -> bool:
    try:
        return bool(client.ping())
    except redis.RedisError:
        return False


@dataclass
class Machine:
    """An engine, and the processes that work its jobs here."""

    engine: Engine
    processes: Processes

    def run(self, script: str, **more: Any) -> list[Event]:
        return events_of(self.engine, self.engine.run(script, **more))

    def warm(self) -> list[int]:
        """The numbers of the warm processes that have a place."""
        return [int(p.read_text(encoding="ascii")) for p in self.processes.folder.glob("warm-*.place")]

    def children(self) -> set[int]:
        """The processes that warm ones have forked: of runs at work, and clerks."""
        found: set[int] = set()
        for pid in self.warm():
            with suppress(OSError), open(f"/proc/{pid}/task/{pid}/children", encoding="ascii") as children:
                found |= {int(c) for c in children.read().split()}
        return found - set(self.warm())

    def child_of_next(self, script: str, **more: Any) -> tuple[str, int]:
        """Begin a run; its id and the process that works it. Warm processes are forked, too: none may be on its way."""
        until(lambda: self.processes.engine().state()["warm"] == self.processes.count, "all warm processes")
        before = self.children()
        run = self.engine.run(script, **more)
        for _ in range(400):
            if fresh := self.children() - before:
                return run, fresh.pop()
            time.sleep(0.02)
        raise AssertionError("no child was started")


@pytest.fixture(scope="session")
def redis_address(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """A Redis server of the tests' own, on loopback."""
    with redis_server(tmp_path_factory.mktemp("redis")) as address:
        yield address


@pytest.fixture(scope="session", params=["local", "redis"])
def machine(request: pytest.FixtureRequest) -> Iterator[Machine]:
    """An engine of one machine, and one of which jobs come to this machine through Redis: all tests hold for both."""
    if request.param == "local":
        processes = request.getfixturevalue("processes")
        yield Machine(processes.engine(), processes)
        return
    address = request.getfixturevalue("redis_address")
    with Worker(address, warm=2) as worker:
        engine = RedisEngine(address)
        until(lambda: len(engine.shelf.workers()) == 2, "both lanes")
        yield Machine(engine, worker.processes)


@pytest.fixture(scope="module")
def strict() -> Iterator[Machine]:
    """An engine with tight limits."""
    made = Processes(warm=1, limits=Limits(seconds=4, memory_mb=300, output_mb=1))
    made.start()
    made.wait_ready()
    yield Machine(made.engine(), made)
    made.close()
