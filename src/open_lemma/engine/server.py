"""The engine of one machine: a process that takes jobs from the web's processes, has them worked, and keeps what they tell.

Run as `python -m open_lemma.engine.server FOLDER WARM`; it ends when its standard input closes. It listens on FOLDER/engine and works
through the warm processes that listen on FOLDER/warm-1, FOLDER/warm-2, … It has no thread but one, and no code of a user comes in here.

A connection asks one thing; its first frame says which (`do`):

    begin   job, who, key, keep     answers {"run": id}
    follow  job, who, key           begins, says {"run": id} and sends the events on; when the connection closes, the job is stopped.
                                    With `memory` and `remember` the results of the run before come and go along
    listen  run, after              sends {"n": k, "event": {...}} and, while nothing comes, {"n": k}
    stop    run
    claim                           waits for an ended run that is to be kept: its figures, then {"run", "keep", "last"};
                                    {"last": ...} comes back when it is kept. A claim that closes before goes to the next
    state                           numbers for health and metrics
"""

from __future__ import annotations

import asyncio
import contextlib
import logging
import os
import secrets
import shutil
import sys
import time
from collections import Counter, deque
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ..core.record.events import FailedEvent, QueuedEvent
from . import frames
from .ends import INTERRUPTED, STOPPED, TOO_BUSY, WAIT_S
from .frames import BrokenFrame, Message
from .keeping import Kept
from .logs import log_as_json
from .protocol import KINDS
from .room import Room, room_here
from .schedule import Schedule

log = logging.getLogger("open_lemma.engine")

KEEP_S = 120.0  # how long the events of an ended run can still be asked for
KEEP_BYTES = 256_000_000  # of events of ended runs
MEMORY_BYTES = 256_000_000  # of results that runs keep for the next one of their folio
PACKING_S = 2.0  # that packing these may take before a run begins without
LONG_S = 1.5  # after which a run is a long one
CLAIM_S = 20.0  # within which a claimed run must be kept
HEARTBEAT_S = 10.0
FILES_S = 1_200.0  # that a file may be on its way: longer than any job
STEPS_BACK = 2  # weight above which a job steps back from its beginning: whoever brings in a large file expects to wait
SIBLING_S = 0.2  # between two tries to fill a place
MOST_WAITING = 2_000  # jobs that wait at once
SCRATCH_KINDS = frozenset({"draw", "table_as", "read_table", "origin", "compare"})


@dataclass
class Run:
    """A job with what it has told so far."""

    id: str
    number: int
    job: Message
    who: str
    key: str | None = None
    keep: Message | None = None
    memory: bytes = b""  # that came along
    remember: bool = False  # what is left for the next run goes to whoever follows
    events: list[Message] = field(default_factory=list)
    size: int = 0
    asked_at: float = field(default_factory=time.monotonic)
    began_at: float | None = None
    ended_at: float | None = None
    told_place: int | None = None
    last: Message | None = None
    warm: Warm | None = None
    changed: asyncio.Event = field(default_factory=asyncio.Event)
    packed: asyncio.Event = field(default_factory=asyncio.Event)
    why: asyncio.Future[Message] | None = None

    @property
    def kind(self) -> str:
        return str(self.job["kind"])

    def publish(self, event: Message, size: int = 0) -> None:
        self.events.append(event)
        self.size += size
        self.wake()

    def wake(self) -> None:
        self.changed.set()
        self.changed = asyncio.Event()


class Warm:
    """A warm process, as the engine knows it: where it listens, its control connection, the jobs that it has."""

    def __init__(self, path: str) -> None:
        self.path = path
        self.control: asyncio.StreamWriter | None = None
        self.jobs: dict[int, Run] = {}
        self.asked_at = 0.0  # when another was asked to take its place

    @property
    def ready(self) -> bool:
        return self.control is not None

    def order(self, order: str, **more: Any) -> None:
        if self.control is not None:
            with contextlib.suppress(OSError):
                self.control.writelines(frames.encode({"order": order, **more}))


class EngineServer:
    def __init__(self, folder: Path, warm: int, room: Room | None = None) -> None:
        self.folder = folder
        self.warm = [Warm(str(folder / f"warm-{k + 1}")) for k in range(warm)]
        self.room = room or room_here()
        self.schedule = Schedule(self.room.weight, self.room.long_weight, self.room.most_weight)
        self.quick = Schedule(self.room.quick, self.room.quick, self.room.quick)
        self.runs: dict[str, Run] = {}  # that were begun, and for a while those that have ended
        self.followed: dict[str, Run] = {}  # that end with whoever follows them
        self.at_work: dict[int, Run] = {}  # waiting or at work, by number
        self.latest: dict[str, Run] = {}  # of each key the run that began last
        self.over: deque[Run] = deque()  # of the runs that were begun those that have ended, in that order
        self.over_bytes = 0
        self.memories = Kept(MEMORY_BYTES)
        self.to_keep: deque[Run] = deque()
        self.claimable = asyncio.Event()
        self.begun = 0
        self.confinement: Message = {}
        self.ended: Counter[tuple[str, str]] = Counter()
        self.seconds: dict[str, float] = {}
        self.waited: dict[str, float] = {}
        self.tasks: set[asyncio.Task[None]] = set()

    # ------------------------------------------------------------ life

    async def serve(self) -> None:
        path = self.folder / "engine"
        path.unlink(missing_ok=True)
        for warm in self.warm:
            self._spawn(self._control(warm))
        self._spawn(self._watch())
        server = await asyncio.start_unix_server(self._connected, str(path), limit=1 << 20)
        os.chmod(path, 0o600)
        parent = asyncio.StreamReader()
        await asyncio.get_running_loop().connect_read_pipe(lambda: asyncio.StreamReaderProtocol(parent), sys.stdin)
        async with server:
            while await parent.read(4096):
                pass

    def _spawn(self, work: Any) -> None:
        task = asyncio.get_running_loop().create_task(work)
        self.tasks.add(task)
        task.add_done_callback(self._task_ended)

    def _task_ended(self, task: asyncio.Task[None]) -> None:
        self.tasks.discard(task)
        if not task.cancelled() and task.exception() is not None:
            log.error("a task of the engine failed", exc_info=task.exception())

    async def _control(self, warm: Warm) -> None:
        """Hold the control connection of a warm process, for ever: it may be started again at any time."""
        while True:
            try:
                reader, writer = await asyncio.open_unix_connection(warm.path)
            except OSError:
                self._ask_for_sibling(warm)
                await asyncio.sleep(0.05)
                continue
            try:
                await frames.write(writer, {"control": True})
                warm.control = writer
                self._dispatch()
                while (said := await frames.read(reader)) is not None:
                    self._hear_end(warm, said)
            except (OSError, BrokenFrame):
                pass
            finally:
                warm.control = None
                writer.close()
                for run in list(warm.jobs.values()):
                    if run.why is not None and not run.why.done():
                        run.why.set_result(INTERRUPTED)

    def _ask_for_sibling(self, warm: Warm) -> None:
        """Have another warm process fork one for a place that is empty: that is quicker than to begin from nothing."""
        other = next((w for w in self.warm if w.ready), None)
        now = time.monotonic()
        if other is not None and now - warm.asked_at > SIBLING_S:
            warm.asked_at = now
            other.order("sibling", path=warm.path)

    def _hear_end(self, warm: Warm, said: Message) -> None:
        if "in_force" in said:
            self.confinement = said
            return
        run = warm.jobs.get(int(said.get("ended", 0)))
        if run is not None and run.why is not None and not run.why.done():
            reason, text = said.get("reason"), said.get("text")
            run.why.set_result(FailedEvent(reason=str(reason), text=str(text)).as_record() if reason else INTERRUPTED)

    # ------------------------------------------------------------ who asks

    async def _connected(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        try:
            asked = await frames.read(reader)
            if asked is None:
                return
            do = asked.get("do")
            if do == "begin":
                await frames.write(writer, self._asked_to_begin(asked))
            elif do == "follow":
                await self._follow(asked, reader, writer)
            elif do == "listen":
                await self._listen(asked, writer)
            elif do == "stop":
                name = str(asked.get("run"))
                run = self.runs.get(name) or self.followed.get(name)
                if run is not None:
                    self._stop(run)
                await frames.write(writer, {"found": run is not None})
            elif do == "claim":
                await self._claimed(reader, writer)
            elif do == "state":
                await frames.write(writer, self.state())
        except (OSError, BrokenFrame, KeyError, TypeError, ValueError) as trouble:
            if not isinstance(trouble, OSError):
                log.exception("a request that the engine cannot read")
        except asyncio.CancelledError:
            pass  # the engine ends
        finally:
            writer.close()

    def _asked_to_begin(self, asked: Message) -> Message:
        run = self._take(asked)
        if run is None:
            return {"busy": True}
        self.runs[run.id] = run
        return {"run": run.id}

    def _take(self, asked: Message) -> Run | None:
        if len(self.at_work) >= MOST_WAITING:
            return None
        self.begun += 1
        job = {**asked["job"], "tables": asked.get("tables", {}), "given": {**asked["job"]["given"], **asked.get("bytes", {})}}
        run = Run(secrets.token_urlsafe(12), self.begun, job, str(asked.get("who", "")), asked.get("key"), asked.get("keep"))
        run.memory, run.remember = asked.get("memory", b""), bool(asked.get("remember"))
        kind = KINDS[run.kind]
        self.at_work[run.number] = run
        (self.quick if kind.quick else self.schedule).add(run.number, run.who, kind.weight)
        if run.key is not None and run.kind in ("run", "preview"):
            self.latest[run.key] = run
        self._dispatch()
        return run

    async def _follow(self, asked: Message, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        run = self._take(asked)
        if run is None:
            return await frames.write(writer, TOO_BUSY)
        self.followed[run.id] = run
        gone = asyncio.get_running_loop().create_task(reader.read(1))  # whoever asked has left
        place = 0
        try:
            await frames.write(writer, {"run": run.id})
            while True:
                changed = run.changed
                while place < len(run.events):
                    await frames.write(writer, run.events[place])
                    place += 1
                if run.ended_at is not None and (run.packed.is_set() or not run.remember):
                    return
                if await _is_first(gone, changed):
                    return self._stop(run)
        except OSError:
            self._stop(run)
        finally:
            gone.cancel()
            del self.followed[run.id]

    async def _listen(self, asked: Message, writer: asyncio.StreamWriter) -> None:
        run = self.runs.get(str(asked.get("run")))
        if run is None:
            return await frames.write(writer, {"gone": True})
        place = min(max(int(asked.get("after", 0)), 0), len(run.events))
        while True:
            changed = run.changed
            while place < len(run.events):
                event = run.events[place]
                place += 1
                await frames.write(
                    writer, {"n": place, "event": {k: v for k, v in event.items() if k not in ("svg", "data")}, **_svg(event)}
                )
            if run.ended_at is not None:
                return
            try:
                await asyncio.wait_for(changed.wait(), HEARTBEAT_S)
            except TimeoutError:
                await frames.write(writer, {"n": place})

    async def _claimed(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        gone = asyncio.get_running_loop().create_task(frames.read(reader))
        try:
            while not self.to_keep:
                if await _is_first(gone, self.claimable):
                    return
            run = self.to_keep.popleft()
            if not self.to_keep:
                self.claimable.clear()
            try:
                for event in run.events:
                    if event["event"] == "figure":
                        await frames.write(writer, event)
                await frames.write(writer, {"run": run.id, "keep": run.keep, "last": run.last})
                kept = await asyncio.wait_for(gone, CLAIM_S)
            except (OSError, BrokenFrame, TimeoutError):
                kept = None
            if kept is None:
                self.to_keep.appendleft(run)
                self.claimable.set()
            else:
                run.last = kept["last"]
                self._publish_last(run)
        finally:
            gone.cancel()
            with contextlib.suppress(BaseException):
                await gone

    # ------------------------------------------------------------ work

    def _dispatch(self) -> None:
        """Begin what there is room for."""
        if not any(w.ready for w in self.warm):
            return self._tell_places()
        for schedule in (self.quick, self.schedule):
            while (number := schedule.next()) is not None:
                run = self.at_work[number]
                warm = min((w for w in self.warm if w.ready), key=lambda w: len(w.jobs))
                warm.jobs[number] = run
                run.warm = warm
                self._spawn(self._work(run, warm))
        self._tell_places()

    def _tell_places(self) -> None:
        now = time.monotonic()
        for number, place in self.schedule.places().items():
            run = self.at_work[number]
            # Who waits for a moment only need not hear of it.
            if place != run.told_place and now - run.asked_at > 0.3 and run.kind in ("run", "walk"):
                run.told_place = place
                run.publish(QueuedEvent(place=place).as_record())

    async def _work(self, run: Run, warm: Warm) -> None:
        run.why = asyncio.get_running_loop().create_future()
        try:
            memory = await self._memory(run)
            run.began_at = time.monotonic()
            reader, writer = await asyncio.open_unix_connection(warm.path, limit=1 << 20)
            try:
                head = {
                    "job": run.number,
                    "quick": KINDS[run.kind].quick,
                    "limits": run.job["limits"],
                    "scratch": run.kind in SCRATCH_KINDS,
                    "lower": KINDS[run.kind].weight > STEPS_BACK,
                }
                await frames.write(writer, head)
                await frames.write(writer, {**run.job, "memory": memory} if memory else run.job)
                while (found := await frames.read_sized(reader)) is not None:
                    self._hear(run, *found)
            finally:
                writer.close()
        except (OSError, BrokenFrame):
            pass  # why it ended comes over the control connection
        if run.last is None:
            try:
                self._end(run, await asyncio.wait_for(run.why, 5.0))
            except TimeoutError:
                self._end(run, INTERRUPTED)
        warm.jobs.pop(run.number, None)
        self._packed(run)
        self._leave(run)

    @staticmethod
    def _packed(run: Run) -> None:
        run.packed.set()
        run.wake()

    async def _memory(self, run: Run) -> bytes:
        """What the run before has kept. It comes right after the result, and whoever is quicker than that waits for it a moment."""
        if run.memory:
            return run.memory
        if run.key is None or run.kind not in ("run", "preview"):
            return b""
        before = self.latest.get(run.key)
        if before is not None and before is not run and before.ended_at is not None and before.kind == "run":
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(before.packed.wait(), PACKING_S)
        return self.memories.get(run.key)

    def _hear(self, run: Run, event: Message, size: int) -> None:
        kind = event.get("event")
        if kind == "fault":
            log.error("%s", event.get("text"), extra={"run": run.id})
        elif kind == "memory":
            if run.key is not None:
                self.memories.put(run.key, event["memory"])
            if run.remember:
                run.publish(event)
            self._packed(run)
        elif kind in ("done", "failed"):
            self._end(run, event, size)
        elif run.last is None:
            run.publish(event, size)

    def _end(self, run: Run, last: Message, size: int = 0) -> None:
        if run.last is not None:
            return
        run.last = last
        run.size += size
        self._leave(run, keep_place=True)
        if run.keep is not None and last["event"] == "done":
            self.to_keep.append(run)
            self.claimable.set()
        else:
            self._publish_last(run)

    def _publish_last(self, run: Run) -> None:
        assert run.last is not None
        now = time.monotonic()
        run.ended_at = now
        run.job, run.memory = {"kind": run.kind}, b""  # its tables and its script are not needed any more
        run.publish(run.last)
        if run.id in self.runs:
            self.over.append(run)
            self.over_bytes += run.size
        reason = str(run.last.get("reason", "done"))
        self.ended[run.kind, reason] += 1
        took, waited = now - (run.began_at or now), (run.began_at or now) - run.asked_at
        self.seconds[run.kind] = self.seconds.get(run.kind, 0.0) + took
        self.waited[run.kind] = self.waited.get(run.kind, 0.0) + waited
        if not KINDS[run.kind].quick:
            log.info(
                "run ended",
                extra={"run": run.id, "kind": run.kind, "reason": reason, "seconds": round(took, 3), "waited": round(waited, 3)},
            )

    def _leave(self, run: Run, keep_place: bool = False) -> None:
        """The job is out of the schedule; `keep_place`: its process may still pack what it keeps."""
        self.schedule.remove(run.number)
        self.quick.remove(run.number)
        if not keep_place:
            self.at_work.pop(run.number, None)
        self._dispatch()

    def _stop(self, run: Run) -> None:
        if run.last is not None:
            return
        if run.warm is None:
            self._give_up(run, STOPPED)
        else:
            run.warm.order("stop", job=run.number)

    def _give_up(self, run: Run, last: Message) -> None:
        """End a job that was not begun."""
        self._leave(run)
        self._end(run, last)
        self._packed(run)

    async def _watch(self) -> None:
        """Long runs step back, paused ones go on, waiting is bounded, old events are forgotten."""
        swept = time.monotonic()
        while True:
            await asyncio.sleep(0.1)
            now = time.monotonic()
            for run in list(self.at_work.values()):
                state = self.schedule.state(run.number)
                if state == "short" and run.began_at is not None and now - run.began_at > LONG_S and run.warm is not None:
                    run.warm.order("lower", job=run.number)
                    if not self.schedule.grew_long(run.number):
                        run.warm.order("pause", job=run.number)
                elif (state == "waiting" or self.quick.state(run.number) == "waiting") and now - run.asked_at > WAIT_S:
                    self._give_up(run, TOO_BUSY)
            while (number := self.schedule.resumed()) is not None:
                resumed = self.at_work[number]
                if resumed.warm is not None:
                    resumed.warm.order("go", job=resumed.number)
            self._dispatch()
            self._forget(now)
            if now - swept > FILES_S / 4:
                swept = now
                sweep_files(self.folder)

    def _forget(self, now: float) -> None:
        while self.over and (now - (self.over[0].ended_at or now) > KEEP_S or self.over_bytes > KEEP_BYTES):
            run = self.over.popleft()
            self.over_bytes -= run.size
            del self.runs[run.id]
            if run.key is not None and self.latest.get(run.key) is run:
                del self.latest[run.key]

    def state(self) -> Message:
        """Numbers of this moment, and counts since the start."""
        states = Counter(t.state for s in (self.schedule, self.quick) for t in s.tickets.values())
        return {
            "warm": sum(w.ready for w in self.warm), "states": dict(states), "to_keep": len(self.to_keep),
            "memory_bytes": self.memories.size, "event_bytes": sum(r.size for r in self.runs.values()), "room": self.room.weight,
            "ended": [[kind, reason, n] for (kind, reason), n in self.ended.items()],
            "seconds": self.seconds, "waited": self.waited, "in_force": self.confinement.get("in_force", []),
            "not_in_force": self.confinement.get("not_in_force", []),
        }  # fmt: skip


async def _is_first(gone: asyncio.Task[Any], changed: asyncio.Event) -> bool:
    """Wait for either; whether it was that the other side has left."""
    waiting = asyncio.get_running_loop().create_task(changed.wait())
    await asyncio.wait((gone, waiting), return_when=asyncio.FIRST_COMPLETED)
    waiting.cancel()
    return gone.done()


def _svg(event: Message) -> Message:
    return {"svg": event["svg"]} if "svg" in event else {}


def sweep(folder: Path) -> None:
    """Take away what processes that were killed have left: scratch folders, and files that nobody can wait for any more."""
    shutil.rmtree(folder / "scratch", ignore_errors=True)
    for name in ("files", "scratch"):
        (folder / name).mkdir(mode=0o700, parents=True, exist_ok=True)
    sweep_files(folder)


def sweep_files(folder: Path) -> None:
    for path in (folder / "files").iterdir():
        with contextlib.suppress(OSError):
            if time.time() - path.stat().st_mtime > FILES_S:
                path.unlink()


def main() -> None:
    log_as_json("engine")
    folder = Path(sys.argv[1])
    sweep(folder)
    asyncio.run(EngineServer(folder, int(sys.argv[2])).serve())
    sweep(folder)


if __name__ == "__main__":
    main()
