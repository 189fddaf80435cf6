"""The engine of many machines, as the web processes see it: everything goes through Redis, nothing is kept here."""

from __future__ import annotations

import asyncio
import json
import secrets
import time
from collections import Counter
from collections.abc import AsyncIterator, Iterable, Iterator
from contextlib import AbstractContextManager, contextmanager, suppress
from functools import cached_property
from pathlib import Path
from typing import Any

import redis
import redis.asyncio
from kombu.exceptions import OperationalError

from ...core.record.events import QueuedEvent
from .. import frames
from ..asking import Claim, Claimed, Engine, EngineAway, EngineBusy, Event
from ..ends import INTERRUPTED, STOPPED
from ..folder import OwnedFolder, place_in
from ..local import job_frames
from ..protocol import Job, Limits
from .shelf import JOB_S, LANES, STREAM_ROOM, Shelf, lane_of, pack, read_stream
from .tickets import celery_at, send

AWAY = "what shares out runs is away at the moment; nothing is lost, try again"
MOST_WAITING = 20_000
LOOK_MS = 500  # between two looks at a run of which nothing came
HEARTBEAT_S = 10.0


@contextmanager
def _away() -> Iterator[None]:
    try:
        yield
    except (redis.RedisError, OperationalError, OSError) as trouble:
        raise EngineAway(AWAY) from trouble


class RedisEngine(Engine):
    def __init__(self, address: str, limits: Limits | None = None) -> None:
        super().__init__(limits)
        self.address = address
        self.shelf = Shelf(address)
        self.celery = celery_at(address)

    # ------------------------------------------------------------ begin and stop

    def begin(self, job: Job, who: str = "", key: str | None = None, keep: dict[str, Any] | None = None) -> str:
        with _away():
            return self._begin(job, who, key, keep)

    def _begin(self, job: Job, who: str, key: str | None, keep: dict[str, Any] | None) -> str:
        run, lane = secrets.token_urlsafe(12), lane_of(job.kind)
        if self.shelf.waiting(lane) > MOST_WAITING:
            raise EngineBusy
        message = job_frames("follow", job)
        files = {name: Path(path).read_bytes() for name, path in job.files.items()}
        message = {**message, "files": files, "out": bool(job.out)}
        self.shelf.add(run, job.kind, pack(message), who, key or "", "" if keep is None else json.dumps(keep))
        with suppress(OperationalError):  # workers look for jobs of which they were not told, too
            send(self.celery, lane)
        return run

    def stop(self, run: str) -> bool:
        with _away():
            about = self.shelf.about(run)
            if about.get("state") == "waiting":
                self.shelf.leave(run, STOPPED)
            elif about.get("state") == "taken":
                self.shelf.mark_stopped(run)
                self.shelf.redis.rpush(self.shelf.key("orders", about["worker"]), run)
                self.shelf.redis.expire(self.shelf.key("orders", about["worker"]), JOB_S)
            return bool(about)

    # ------------------------------------------------------------ events

    def follow(self, job: Job, who: str = "", key: str | None = None) -> Iterator[Event]:
        run, over = self.begin(job, who, key), False
        place = 0
        try:
            while not over:
                with _away():
                    found = self.shelf.events(run, place, LOOK_MS)
                    over = not found and not self.shelf.about(run)
                for number, event in found:
                    place = number
                    if "out" in event:
                        Path(job.out).write_bytes(event.pop("out"))
                    over = over or event["event"] in ("done", "failed")
                    yield event
        finally:
            if not over:
                with suppress(EngineAway):
                    self.stop(run)

    async def listen(self, run: str, after: int = 0) -> AsyncIterator[tuple[int, Event | None]]:
        place, told, said_at = after, None, time.monotonic()
        try:
            async with redis.asyncio.Redis.from_url(self.address, socket_connect_timeout=2, socket_timeout=15) as connection:
                key = self.shelf.key("events", run)
                while True:
                    found = read_stream(await connection.xread({key: f"{place}-{STREAM_ROOM}"}, count=100, block=LOOK_MS))
                    for number, event in found:
                        place, said_at = number, time.monotonic()
                        yield number, _shown(event)
                        if event["event"] in ("done", "failed"):
                            return
                    if found:
                        continue
                    state, where = await asyncio.to_thread(self._standing, run)
                    if state is None:
                        raise KeyError(run)
                    if state == "ended":
                        return
                    if where is not None and where != told:
                        told, said_at = where, time.monotonic()
                        yield place, QueuedEvent(place=where).as_record()
                    elif time.monotonic() - said_at > HEARTBEAT_S:
                        said_at = time.monotonic()
                        yield place, None
        except (redis.RedisError, OSError):
            raise EngineAway(AWAY) from None

    def _standing(self, run: str) -> tuple[str | None, int | None]:
        """The state of a run, and its place in the queue where it waits."""
        about = self.shelf.about(run)
        where = self.shelf.place(run, about["lane"]) if about.get("state") == "waiting" else None
        return about.get("state"), where

    # ------------------------------------------------------------ runs that have ended

    def claim(self, wait_s: float) -> Claim | None:
        with _away():
            run = self.shelf.claim(wait_s)
            if run is None:
                return None
            about, last = self.shelf.about(run), self.shelf.last(run)
            if last is None or "keep" not in about:
                self.shelf.kept(run, INTERRUPTED)
                return None
            figures, place = [], 0
            while found := self.shelf.events(run, place, 1):
                place = found[-1][0]
                figures += [event for _, event in found if event["event"] == "figure"]
            return RedisClaim(self.shelf, Claimed(run, json.loads(about["keep"]), figures, last))

    def state(self) -> dict[str, Any]:
        """The queue as Redis has it, and what the machines' engines have told of themselves within the last seconds."""
        with _away():
            workers = list(self.shelf.workers().values())
            waiting = sum(self.shelf.waiting(lane) for lane in LANES)
            told = [w["engine"] for w in workers if "engine" in w]
            return {
                "warm": sum(t["warm"] for t in told), "room": sum(w["room"] for w in workers),
                "states": {"waiting": waiting, "short": self.shelf.redis.scard(self.shelf.key("taken"))},
                "to_keep": self.shelf.redis.llen(self.shelf.key("to-keep")), "ended": self.shelf.ended(),
                "memory_bytes": sum(t["memory_bytes"] for t in told), "event_bytes": sum(t["event_bytes"] for t in told),
                "seconds": _summed(t["seconds"] for t in told), "waited": _summed(t["waited"] for t in told),
                "in_force": [w for w in told[0]["in_force"] if all(w in t["in_force"] for t in told)] if told else [],
                "not_in_force": sorted({w for t in told for w in t["not_in_force"]}),
            }  # fmt: skip

    @cached_property
    def _folder(self) -> OwnedFolder:
        return OwnedFolder()

    def place(self) -> AbstractContextManager[str]:
        return place_in(self._folder.path)


def _summed(counts: Iterable[dict[str, float]]) -> dict[str, float]:
    total: Counter[str] = Counter()
    for count in counts:
        total.update(count)
    return dict(total)


class RedisClaim(Claim):
    def __init__(self, shelf: Shelf, claimed: Claimed) -> None:
        self.shelf, self.claimed, self.done = shelf, claimed, False

    def kept(self, last: Event) -> None:
        self.done = True
        with suppress(redis.RedisError):  # claimed again, it is found to be kept
            self.shelf.kept(self.claimed.run, last)

    def close(self) -> None:
        if not self.done:
            with suppress(redis.RedisError):
                self.shelf.give_back(self.claimed.run)


def _shown(event: frames.Message) -> Event:
    """An event for those who listen: without what is only kept."""
    plain = {k: v for k, v in event.items() if k != "data"}
    return {**plain, "svg": plain["svg"].decode()} if "svg" in plain else plain
