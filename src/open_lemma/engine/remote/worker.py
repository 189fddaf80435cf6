"""`open-lemma worker`: this machine works jobs that are shared out through Redis, until it is told to stop."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
from types import FrameType

import redis

from ..logs import log_as_json
from ..prctl import adopt_orphans
from ..processes import Processes, environment
from ..protocol import Limits
from ..room import RUN_WEIGHT, room_here
from ..watching import Watch
from .shelf import QUICK, RUNS

BACKLOG = 2


class NoRedis(RuntimeError):
    """The Redis server cannot be used; the text says why and what to do."""


class Worker:
    """The processes of an engine, and one for each lane that feeds it; `with` starts and stops them."""

    def __init__(self, address: str, limits: Limits | None = None, warm: int | None = None) -> None:
        self.address = address
        self.watch = Watch()
        self.processes = Processes(self.watch, warm, limits)

    def __enter__(self) -> Worker:
        try:
            redis.Redis.from_url(self.address, socket_connect_timeout=5).ping()
        except (redis.RedisError, ValueError) as trouble:
            self.processes.close()
            raise NoRedis(f"the Redis server cannot be used: {trouble}; look at OPEN_LEMMA_ENGINE") from None
        try:
            self.processes.start()
            self.processes.wait_ready()
            room = room_here(self.processes.limits)
            # More than are worked at once: the engine here sees to it that short runs find room beside long ones.
            self._lane(RUNS, BACKLOG * room.most_weight // RUN_WEIGHT)
            self._lane(QUICK, room.quick)
        except BaseException:
            self.__exit__()
            raise
        return self

    def _lane(self, lane: str, room: int) -> None:
        command = [sys.executable, "-m", "open_lemma.engine.remote.lane", lane, str(self.processes.folder), str(room)]

        def begin() -> subprocess.Popen[bytes]:
            return subprocess.Popen(
                command, stdin=subprocess.PIPE, env={**environment(), "OPEN_LEMMA_ENGINE": self.address}, start_new_session=True
            )

        self.watch.add(f"lane {lane}", begin)

    def __exit__(self, *_: object) -> None:
        self.watch.end()
        self.processes.close()


def main() -> int:
    log_as_json("worker")
    address = os.environ.get("OPEN_LEMMA_ENGINE", "")
    if not address.startswith(("redis://", "rediss://")):
        print("open-lemma: set OPEN_LEMMA_ENGINE to the address of the Redis server that shares out runs, redis://...", file=sys.stderr)
        return 2
    ended = threading.Event()

    def end(_: int, __: FrameType | None) -> None:
        ended.set()

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, end)
    try:
        with Worker(address) as worker:
            adopt_orphans()
            worker.watch.collects = True
            state = worker.processes.engine().state()
            print(f"This machine works runs. In force for them: {', '.join(state['in_force'])}.", flush=True)
            for missing in state["not_in_force"]:
                print(f"  Not in force: {missing}.", flush=True)
            ended.wait()
    except (NoRedis, RuntimeError) as trouble:
        print(f"open-lemma: {trouble}", file=sys.stderr)
        return 1
    return 0
