"""One lane of a worker: `python -m open_lemma.engine.remote.lane LANE FOLDER ROOM` takes jobs that are shared out through Redis and has
them worked by the engine of this machine, which listens in FOLDER. OPEN_LEMMA_ENGINE is the address of Redis; it ends when its standard
input closes.
"""

from __future__ import annotations

import logging
import os
import secrets
import socket
import sys
import threading
import time
import warnings
from collections.abc import Callable
from contextlib import ExitStack, suppress
from pathlib import Path
from typing import Any, TypeVar, cast

import redis
from celery.platforms import SecurityWarning
from kombu.exceptions import OperationalError

from ..asking import EngineAway, Event
from ..ends import INTERRUPTED
from ..local import LocalEngine
from ..logs import log_as_json
from ..protocol import Job
from .shelf import ALIVE_MS, RUNS, Shelf, Ticket
from .tickets import TASK, celery_at, queue_of, send

log = logging.getLogger("open_lemma.worker")
T = TypeVar("T")

TIDY_S = 2.0
OPEN_SHARE = 0.75  # of the room for everybody; the rest is for those who have nothing at work
PATIENCE_S = 30.0  # with a Redis server that is away, before what is at work is given up


class Lane:
    def __init__(self, address: str, lane: str, local: LocalEngine, room: int) -> None:
        self.shelf, self.lane, self.local, self.room = Shelf(address), lane, local, room
        self.worker = f"{socket.gethostname()}-{lane}-{secrets.token_hex(4)}"
        self.celery = celery_at(address)
        self.at_work: dict[str, str] = {}  # the local ids of runs
        self.lock = threading.Lock()

    def serve(self) -> None:
        for work in (self._live, self._hear_orders, self._until_closed):
            threading.Thread(target=work, daemon=True, name=work.__name__).start()
        self.celery.task(name=TASK)(self.take)
        self.celery.conf.update(worker_redirect_stdouts=False)
        self.celery.worker_main([
            "--quiet", "worker", "--pool=threads", f"--concurrency={self.room}", "-Q", queue_of(self.lane), "-n", f"{self.worker}@%h",
            "--without-gossip", "--without-mingle", "--without-heartbeat", "--loglevel=ERROR",
        ])  # fmt: skip

    def _until_closed(self) -> None:
        while os.read(0, 4096):
            pass
        with suppress(redis.RedisError):
            for run in list(self.at_work):
                self.shelf.leave(run, INTERRUPTED, self.worker)
            self.shelf.die(self.worker)
        os._exit(0)

    def _live(self) -> None:
        """Say that this worker lives, tidy up after those that do not, and look for jobs of which nobody told."""
        tidied, state = 0.0, {"room": self.room}
        while True:
            with suppress(redis.RedisError, OperationalError):
                self.shelf.live(self.worker, state)
                if time.monotonic() - tidied > TIDY_S:
                    tidied = time.monotonic()
                    self.shelf.tidy()
                    for _ in range(min(self.shelf.waiting(self.lane), self.room - len(self.at_work))):
                        send(self.celery, self.lane)
                    state = {"room": self.room, **self._told_here()}
            time.sleep(ALIVE_MS / 6_000)

    def _told_here(self) -> dict[str, Any]:
        """What the engine of this machine tells, by one of the lanes that feed it."""
        with suppress(EngineAway):
            return {"engine": self.local.state()} if self.lane == RUNS else {}
        return {}

    def _hear_orders(self) -> None:
        while True:
            try:
                found = self.shelf.redis.blpop([self.shelf.key("orders", self.worker)], 5)
            except redis.RedisError:
                time.sleep(0.5)
                continue
            if found is not None:
                self._stop(cast(bytes, found[1]).decode())

    def _stop(self, run: str) -> None:
        local = self.at_work.get(run)
        if local:
            with suppress(EngineAway):
                self.local.stop(local)

    # ------------------------------------------------------------ work

    def take(self, _: str = "") -> None:
        """Work the job whose turn it is, if there is one, and the next ones."""
        while (ticket := self.shelf.take(self.lane, self.worker, len(self.at_work) >= self.room * OPEN_SHARE)) is not None:
            self._take(ticket)

    def _take(self, ticket: Ticket) -> None:
        self.at_work[ticket.id] = ""
        try:
            self._work(ticket)
        except Exception:
            log.exception("a job could not be worked", extra={"run": ticket.id})
        finally:
            del self.at_work[ticket.id]
            with suppress(redis.RedisError):
                if self.shelf.about(ticket.id).get("state") == "taken":
                    self.shelf.leave(ticket.id, INTERRUPTED, self.worker)

    def _work(self, ticket: Ticket) -> None:
        key, told = ticket.run.get("key", ""), ticket.job["job"]
        with ExitStack() as places:
            files = {}
            for name, data in ticket.job.get("files", {}).items():
                files[name] = places.enter_context(self.local.place())
                Path(files[name]).write_bytes(data)
            out = places.enter_context(self.local.place()) if ticket.job.get("out") else ""
            given = {**told["given"], **ticket.job.get("bytes", {})}
            memory = b""
            if told["kind"] in ("run", "preview"):
                self.shelf.wait_packed(key)
                memory = self.shelf.memory(key)
            job = Job.from_message({
                "kind": told["kind"], "limits": told["limits"], "given": given, "tables": ticket.job.get("tables", {}), "memory": memory,
                "files": files, "out": out,
            })  # fmt: skip
            self._follow(ticket, job, key)

    def _follow(self, ticket: Ticket, job: Job, key: str) -> None:
        def begun(local: str) -> None:
            self.at_work[ticket.id] = local
            # Heard before there was anything to stop.
            if self._patiently(self.shelf.about, ticket.id).get("stopped"):
                self._stop(ticket.id)

        remembers = key if job.kind == "run" else ""
        for event in self.local.work(job, ticket.run.get("who", ""), begun):
            if event["event"] == "memory":
                self._patiently(self.shelf.remember, key, event["memory"])
            elif event["event"] not in ("done", "failed"):
                if not self._patiently(self.shelf.tell, ticket.id, event, self.worker):
                    self._stop(ticket.id)
                    return
            else:
                if event["event"] == "done":
                    self._patiently(self.shelf.packing, remembers)
                self._end(ticket, job, event)
        self._patiently(self.shelf.packed, key)

    def _end(self, ticket: Ticket, job: Job, last: Event) -> None:
        if ticket.run.get("keep") and last["event"] == "done":
            self._patiently(self.shelf.to_keep, ticket.id, last, self.worker)
        else:
            more = {"out": Path(job.out).read_bytes()} if job.out and last["event"] == "done" else {}
            self._patiently(self.shelf.leave, ticket.id, {**last, **more}, self.worker)

    @staticmethod
    def _patiently(what: Callable[..., T], *arguments: object) -> T:
        """Do something with Redis, and do it again while it is away; raises RedisError after a while."""
        deadline = time.monotonic() + PATIENCE_S
        while True:
            try:
                return what(*arguments)
            except redis.RedisError:
                if time.monotonic() > deadline:
                    raise
                time.sleep(0.2)


def main() -> None:
    log_as_json("worker")
    warnings.filterwarnings("ignore", category=SecurityWarning)  # root gives runs a user of their own; no code of theirs is here
    lane, folder, room = sys.argv[1:4]
    Lane(os.environ["OPEN_LEMMA_ENGINE"], lane, LocalEngine(Path(folder)), int(room)).serve()


if __name__ == "__main__":
    main()
