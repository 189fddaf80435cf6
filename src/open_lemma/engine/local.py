"""The engine of this machine, as the web's processes speak to it: a connection for each thing that is asked, nothing kept here."""

from __future__ import annotations

import asyncio
import select
import socket
import time
from collections.abc import AsyncIterator, Callable, Iterator
from contextlib import AbstractContextManager, suppress
from pathlib import Path
from typing import Any

from . import frames
from .asking import Claim, Claimed, Engine, EngineAway, EngineBusy, Event
from .folder import place_in
from .protocol import Job, Limits

AWAY_S = 8.0  # that an engine may take to be started again before somebody is told
ANSWER_S = 10.0  # within which a question is answered: whoever takes a job does nothing else
TRIES = 3  # with a job that an engine did not take
AWAY = "what runs scripts is being started again; nothing is lost, try again in a moment"


def job_frames(do: str, job: Job, **more: Any) -> frames.Message:
    """What a job is asked by: bytes stand where frames have room for them."""
    message = job.as_message()
    message.pop("memory")
    bytes_given = {k: v for k, v in job.given.items() if isinstance(v, bytes)}
    message["given"] = {k: v for k, v in job.given.items() if not isinstance(v, bytes)}
    return {"do": do, "job": message, "tables": message.pop("tables"), "bytes": bytes_given, **more}


class LocalEngine(Engine):
    """Connects to the engine that listens in a folder."""

    def __init__(self, folder: Path, limits: Limits | None = None) -> None:
        super().__init__(limits)
        self.folder = folder

    def _connect(self) -> socket.socket:
        deadline = time.monotonic() + AWAY_S
        while True:
            connection = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
            try:
                connection.connect(str(self.folder / "engine"))
                return connection
            except OSError:
                connection.close()
                if time.monotonic() > deadline:
                    raise EngineAway(AWAY) from None
                time.sleep(0.05)

    def _ask(self, message: frames.Message) -> frames.Message:
        """A question with one answer; asked once more where the engine went away meanwhile."""
        for last in (False, True):
            try:
                with self._connect() as connection:
                    connection.settimeout(ANSWER_S)
                    frames.send(connection, message)
                    found = frames.receive(connection)
                if found is not None:
                    return found
            except (OSError, frames.BrokenFrame):
                pass
            if last:
                break
        raise EngineAway(AWAY)

    def begin(self, job: Job, who: str = "", key: str | None = None, keep: dict[str, Any] | None = None) -> str:
        found = self._ask(job_frames("begin", job, who=who, key=key, keep=keep))
        if found.get("busy"):
            raise EngineBusy
        return str(found["run"])

    def follow(self, job: Job, who: str = "", key: str | None = None) -> Iterator[Event]:
        for event in self._follow(job, lambda _: None, who=who, key=key):
            yield event
            if event["event"] in ("done", "failed"):
                return

    def work(self, job: Job, who: str, begun: Callable[[str], None]) -> Iterator[Event]:
        """As `follow`, for an engine of many machines: the job brings its own memory, and what it leaves comes as a last event `memory`.

        `begun` is called with the run's id, by which it can be stopped.
        """
        yield from self._follow(job, begun, who=who, key=None, memory=job.memory, remember=True)

    def _follow(self, job: Job, begun: Callable[[str], None], **more: Any) -> Iterator[Event]:
        taken = False
        for _ in range(TRIES):
            try:
                with self._connect() as connection:
                    frames.send(connection, job_frames("follow", job, **more))
                    while (event := frames.receive(connection)) is not None:
                        if "event" in event:
                            yield event
                        else:
                            taken = True
                            begun(str(event["run"]))
            except (OSError, frames.BrokenFrame):
                pass
            if taken:
                return  # an engine that ended before it took the job is asked again, one that was at it is not

    async def listen(self, run: str, after: int = 0) -> AsyncIterator[tuple[int, Event | None]]:
        try:
            reader, writer = await asyncio.open_unix_connection(str(self.folder / "engine"), limit=1 << 20)
        except OSError:
            raise EngineAway(AWAY) from None
        try:
            await frames.write(writer, {"do": "listen", "run": run, "after": after})
            while (said := await frames.read(reader)) is not None:
                if said.get("gone"):
                    raise KeyError(run)
                event = said.get("event")
                if event is not None and "svg" in said:
                    event = {**event, "svg": said["svg"].decode()}
                yield int(said["n"]), event
        except (OSError, frames.BrokenFrame):
            raise EngineAway(AWAY) from None
        finally:
            writer.close()

    def stop(self, run: str) -> bool:
        return bool(self._ask({"do": "stop", "run": run})["found"])

    def claim(self, wait_s: float) -> Claim | None:
        connection = self._connect()
        try:
            frames.send(connection, {"do": "claim"})
            if not select.select([connection], [], [], wait_s)[0]:
                connection.close()
                return None
            connection.settimeout(30)
            figures: list[Event] = []
            while (said := frames.receive(connection)) is not None:
                if "run" in said:
                    return LocalClaim(connection, Claimed(said["run"], said["keep"], figures, said["last"]))
                figures.append(said)
        except (OSError, frames.BrokenFrame):
            connection.close()
            raise EngineAway(AWAY) from None
        connection.close()
        raise EngineAway(AWAY)

    def state(self) -> dict[str, Any]:
        return self._ask({"do": "state"})

    def place(self) -> AbstractContextManager[str]:
        return place_in(self.folder / "files")


class LocalClaim(Claim):
    def __init__(self, connection: socket.socket, claimed: Claimed) -> None:
        self.connection, self.claimed = connection, claimed

    def kept(self, last: Event) -> None:
        with suppress(OSError):  # the engine went away, and with it all who listen
            frames.send(self.connection, {"last": last})

    def close(self) -> None:
        self.connection.close()
