"""What an engine of many machines keeps in Redis: jobs that wait, runs with their events, results for the next run, who works what.

    job:ID      the job with all that goes along, as a frame
    run:ID      of whom, of which kind, its state (waiting, taken, done, ended), its worker, since when
    events:ID   a stream; the number of an event is the first part of its id
    LANE:users, LANE:queue:WHO, LANE:turns, LANE:at-work   a fair queue: of whoever has least at work, the oldest job
    taken       runs at work; alive:WORKER is there while that worker lives
    to-keep, keeping, lease:ID   ended runs until their records are kept
    memory:KEY  results of the run before

Each step that must not be seen half done is a script that Redis carries out at once (Redis documentation, "Scripting with Lua").
"""

from __future__ import annotations

import json
import time
from dataclasses import dataclass
from typing import Any, cast

import redis

from .. import frames
from ..ends import INTERRUPTED, TOO_BUSY, WAIT_S
from ..protocol import KINDS
from ..schedule import Schedule

PREFIX = "open-lemma:"
RUNS, QUICK = "runs", "quick"
LANES = (RUNS, QUICK)
KEEP_S = 300  # how long events can be asked for after the last one came
JOB_S = 3_600  # how long a job may wait and work at most
ALIVE_MS = 3_000  # after which a worker that says nothing is taken for gone
PACKING_MS = 2_000  # that packing results for the next run may take before that begins without
LEASE_MS = 20_000  # within which a claimed run must be kept
MEMORY_S, MOST_MEMORY = 3_600, 64_000_000
STREAM_ROOM = 1 << 62

# KEYS: LANE:users, LANE:queue:WHO, LANE:turns, run:ID; ARGV: id, who, state's fields...
_ENQUEUE = """
redis.call('HSET', KEYS[4], 'state', 'waiting', 'who', ARGV[2], 'kind', ARGV[3], 'lane', ARGV[4], 'asked', ARGV[5], 'keep', ARGV[6],
           'key', ARGV[7], 'weight', ARGV[8])
redis.call('EXPIRE', KEYS[4], ARGV[9])
redis.call('RPUSH', KEYS[2], ARGV[1])
redis.call('EXPIRE', KEYS[2], ARGV[9])
redis.call('ZADD', KEYS[1], 'NX', redis.call('HGET', KEYS[3], ARGV[2]) or 0, ARGV[2])
"""
# KEYS: LANE:users, LANE:turns, LANE:at-work, taken; ARGV: prefix, lane, worker, seconds, 1 where it is for those who have nothing at work
_TAKE = """
while true do
    local users = redis.call('ZRANGE', KEYS[1], 0, -1)
    local best, least = nil, nil
    for _, who in ipairs(users) do
        local work = tonumber(redis.call('HGET', KEYS[3], who) or 0)
        if (ARGV[5] == '0' or work == 0) and (least == nil or work < least) then best, least = who, work end
    end
    if best == nil then return false end
    local queue = ARGV[1] .. ARGV[2] .. ':queue:' .. best
    local id = redis.call('LPOP', queue)
    local turn = redis.call('HINCRBY', KEYS[2], '', 1)
    redis.call('HSET', KEYS[2], best, turn)
    redis.call('EXPIRE', KEYS[2], ARGV[4])
    if redis.call('EXISTS', queue) == 1 then redis.call('ZADD', KEYS[1], turn, best) else redis.call('ZREM', KEYS[1], best) end
    if id then
        local run = ARGV[1] .. 'run:' .. id
        if redis.call('HGET', run, 'state') == 'waiting' then
            redis.call('HSET', run, 'state', 'taken', 'worker', ARGV[3])
            redis.call('HINCRBY', KEYS[3], best, redis.call('HGET', run, 'weight'))
            redis.call('SADD', KEYS[4], id)
            return id
        end
    end
end
"""
# KEYS: events:ID, run:ID; ARGV: event, worker or empty, seconds
_APPEND = """
local state = redis.call('HGET', KEYS[2], 'state')
if not state or state == 'ended' or (ARGV[2] ~= '' and redis.call('HGET', KEYS[2], 'worker') ~= ARGV[2]) then return 0 end
local number = redis.call('XLEN', KEYS[1]) + 1
redis.call('XADD', KEYS[1], number .. '-0', 'e', ARGV[1])
redis.call('EXPIRE', KEYS[1], ARGV[3])
return number
"""
# The job is out of the queue and out of work; KEYS: run:ID, taken, job:ID, events:ID; ARGV: id, prefix, new state, its last event or empty,
# seconds, worker or empty, reason
_LEAVE = """
local run = redis.call('HMGET', KEYS[1], 'state', 'lane', 'who', 'weight', 'worker', 'kind')
if not run[1] or run[1] == 'ended' or (ARGV[6] ~= '' and run[5] ~= ARGV[6]) then return 0 end
if run[1] == 'taken' then
    local at_work = ARGV[2] .. run[2] .. ':at-work'
    if redis.call('HINCRBY', at_work, run[3], -run[4]) <= 0 then redis.call('HDEL', at_work, run[3]) end
elseif run[1] == 'waiting' then
    redis.call('LREM', ARGV[2] .. run[2] .. ':queue:' .. run[3], 1, ARGV[1])
end
redis.call('SREM', KEYS[2], ARGV[1])
redis.call('DEL', KEYS[3])
redis.call('HSET', KEYS[1], 'state', ARGV[3])
if ARGV[4] ~= '' then
    redis.call('XADD', KEYS[4], (redis.call('XLEN', KEYS[4]) + 1) .. '-0', 'e', ARGV[4])
    redis.call('EXPIRE', KEYS[4], ARGV[5])
end
if ARGV[3] == 'ended' then
    redis.call('EXPIRE', KEYS[1], ARGV[5])
    redis.call('HINCRBY', ARGV[2] .. 'ended', run[6] .. ' ' .. ARGV[7], 1)
end
return 1
"""
# A run that was claimed goes back to those that are to be kept; KEYS: keeping, to-keep; ARGV: id
_GIVE_BACK = "if redis.call('LREM', KEYS[1], 1, ARGV[1]) == 1 then redis.call('LPUSH', KEYS[2], ARGV[1]) end"


@dataclass(frozen=True, slots=True)
class Ticket:
    """A job that was taken, with the run it is."""

    id: str
    job: frames.Message
    run: dict[str, str]


def pack(message: frames.Message) -> bytes:
    return b"".join(frames.encode(message))


class Shelf:
    """All of that, by its meaning. Raises redis.RedisError."""

    def __init__(self, address: str) -> None:
        # A blocking read waits for less than the time after which a connection is taken for dead.
        self.redis = redis.Redis.from_url(address, socket_connect_timeout=2, socket_timeout=15, health_check_interval=5)
        register = self.redis.register_script
        self._enqueue, self._take, self._append = register(_ENQUEUE), register(_TAKE), register(_APPEND)
        self._leave, self._give_back = register(_LEAVE), register(_GIVE_BACK)

    @staticmethod
    def key(*parts: str) -> str:
        return PREFIX + ":".join(parts)

    # ------------------------------------------------------------ jobs

    def add(self, run: str, kind: str, job: bytes, who: str, key: str, keep: str) -> None:
        k, lane = self.key, lane_of(kind)
        with self.redis.pipeline() as pipe:
            pipe.set(k("job", run), job, ex=JOB_S)
            pipe.execute()
        fields: list[str | int] = [run, who, kind, lane, repr(time.time()), keep, key, KINDS[kind].weight, JOB_S]
        self._enqueue(keys=[k(lane, "users"), k(lane, "queue", who), k(lane, "turns"), k("run", run)], args=fields)

    def take(self, lane: str, worker: str, reserved: bool = False) -> Ticket | None:
        """The job whose turn it is, taken by a worker; None where none waits. `reserved`: only of those who have nothing at work."""
        k = self.key
        keys = [k(lane, "users"), k(lane, "turns"), k(lane, "at-work"), k("taken")]
        found = self._take(keys=keys, args=[PREFIX, lane, worker, JOB_S, int(reserved)])
        if not found:
            return None
        run = cast(bytes, found).decode()
        data = self.redis.get(k("job", run))
        if data is None:
            self.leave(run, INTERRUPTED)
            return None
        return Ticket(run, frames.decode(cast(bytes, data)), self.about(run))

    def about(self, run: str) -> dict[str, str]:
        """The fields of a run; empty where there is no such run."""
        found = cast("dict[bytes, bytes]", self.redis.hgetall(self.key("run", run)))
        return {name.decode(): value.decode() for name, value in found.items()}

    def waiting(self, lane: str) -> int:
        users = cast("list[bytes]", self.redis.zrange(self.key(lane, "users"), 0, -1))
        counts: list[int] = [self.redis.llen(self.key(lane, "queue", who.decode())) for who in users]
        return sum(counts)

    def place(self, run: str, lane: str) -> int | None:
        """How many of a lane will begin before a run, plus one; None where it waits no more."""
        schedule, numbers = self._as_schedule(lane)
        return schedule.places().get(numbers[run]) if run in numbers else None

    def _as_schedule(self, lane: str) -> tuple[Schedule, dict[str, int]]:
        everything = 1 << 30
        schedule = Schedule(everything, everything, everything)
        numbers: dict[str, int] = {}
        users = cast("list[bytes]", self.redis.zrange(self.key(lane, "users"), 0, -1))
        at_work = cast("dict[bytes, bytes]", self.redis.hgetall(self.key(lane, "at-work")))
        for number, (who, weight) in enumerate(at_work.items()):
            schedule.add(-1 - number, who.decode(), int(weight))
        while schedule.next() is not None:
            pass
        for who in users:  # in the order of their turns
            for run in cast("list[bytes]", self.redis.lrange(self.key(lane, "queue", who.decode()), 0, -1)):
                numbers[run.decode()] = len(numbers) + 1
                schedule.add(numbers[run.decode()], who.decode(), 1)
        return schedule, numbers

    # ------------------------------------------------------------ events

    def tell(self, run: str, event: frames.Message, worker: str = "") -> bool:
        """Add an event; False where the run is over, or another's."""
        return bool(self._append(keys=[self.key("events", run), self.key("run", run)], args=[pack(event), worker, KEEP_S]))

    def mark_stopped(self, run: str) -> None:
        """A run is to be stopped, also where its worker has only just taken it and an order would come too early."""
        self.redis.hset(self.key("run", run), "stopped", "1")

    def leave(self, run: str, last: frames.Message | None, worker: str = "") -> bool:
        """The job is over: with a last event for all, or without one, to be kept first."""
        k = self.key
        state, event = ("done", b"") if last is None else ("ended", pack(last))
        reason = "done" if last is None else str(last.get("reason", "done"))
        keys = [k("run", run), k("taken"), k("job", run), k("events", run)]
        return bool(self._leave(keys=keys, args=[run, PREFIX, state, event, KEEP_S, worker, reason]))

    def events(self, run: str, after: int, wait_ms: int) -> list[tuple[int, frames.Message]]:
        """Events after a number, waited for where there is none yet."""
        found = self.redis.xread({self.key("events", run): f"{after}-{STREAM_ROOM}"}, count=100, block=wait_ms)
        return read_stream(found)

    # ------------------------------------------------------------ runs that are to be kept

    def to_keep(self, run: str, last: frames.Message, worker: str) -> None:
        self.redis.set(self.key("last", run), pack(last), ex=JOB_S)
        if self.leave(run, None, worker):
            self.redis.rpush(self.key("to-keep"), run)

    def claim(self, wait_s: float) -> str | None:
        found = self.redis.blmove(self.key("to-keep"), self.key("keeping"), max(int(wait_s), 1), "LEFT", "RIGHT")
        if found is None:
            return None
        run = cast(bytes, found).decode()
        self.redis.set(self.key("lease", run), "1", px=LEASE_MS)
        return run

    def last(self, run: str) -> frames.Message | None:
        data = self.redis.get(self.key("last", run))
        return None if data is None else frames.decode(cast(bytes, data))

    def kept(self, run: str, last: frames.Message) -> None:
        self.leave(run, last)
        self.redis.lrem(self.key("keeping"), 1, run)
        self.redis.delete(self.key("lease", run), self.key("last", run))

    def give_back(self, run: str) -> None:
        self._give_back(keys=[self.key("keeping"), self.key("to-keep")], args=[run])
        self.redis.delete(self.key("lease", run))

    # ------------------------------------------------------------ results for the next run

    def memory(self, key: str) -> bytes:
        return cast("bytes | None", self.redis.get(self.key("memory", key))) or b"" if key else b""

    def remember(self, key: str, data: bytes) -> None:
        if key and len(data) <= MOST_MEMORY:
            self.redis.set(self.key("memory", key), data, ex=MEMORY_S)
        self.packed(key)

    def packing(self, key: str) -> None:
        """A run has told its result, and what it leaves for the next one is on its way: whoever is quicker than that waits a moment."""
        if key:
            self.redis.set(self.key("packing", key), "1", px=PACKING_MS)

    def packed(self, key: str) -> None:
        if key:
            self.redis.delete(self.key("packing", key))

    def wait_packed(self, key: str) -> None:
        while key and self.redis.exists(self.key("packing", key)):
            time.sleep(0.02)

    # ------------------------------------------------------------ who lives

    def live(self, worker: str, state: dict[str, Any]) -> None:
        """A worker lives; its state has how many jobs it works at once (`room`) and may have what its engine tells."""
        self.redis.set(self.key("alive", worker), json.dumps(state), px=ALIVE_MS)

    def die(self, worker: str) -> None:
        self.redis.delete(self.key("alive", worker))

    def workers(self) -> dict[str, dict[str, Any]]:
        """Workers that live, each with its state."""
        found = {}
        for key in self.redis.scan_iter(self.key("alive", "*"), count=200):
            state = self.redis.get(key)
            if state is not None:
                found[cast(bytes, key).decode().removeprefix(self.key("alive", ""))] = json.loads(cast(bytes, state))
        return found

    def tidy(self) -> None:
        """Runs of workers that are gone are interrupted, claims that were not kept given back, and what waited too long is given up."""
        alive = self.workers()
        for member in cast("set[bytes]", self.redis.smembers(self.key("taken"))):
            run = member.decode()
            about = self.about(run)
            if not about:
                self.redis.srem(self.key("taken"), run)
            elif about.get("worker") not in alive:
                self.leave(run, INTERRUPTED, about.get("worker", ""))
        for member in cast("list[bytes]", self.redis.lrange(self.key("keeping"), 0, -1)):
            if not self.redis.exists(self.key("lease", member.decode())):
                self.give_back(member.decode())
        for lane in LANES:
            for who in cast("list[bytes]", self.redis.zrange(self.key(lane, "users"), 0, -1)):
                for member in cast("list[bytes]", self.redis.lrange(self.key(lane, "queue", who.decode()), 0, 20)):
                    asked = self.about(member.decode()).get("asked")
                    if asked is not None and time.time() - float(asked) > WAIT_S:
                        self.leave(member.decode(), TOO_BUSY)

    def ended(self) -> list[list[Any]]:
        """Kind, reason and count of all that has ended."""
        found = cast("dict[bytes, bytes]", self.redis.hgetall(self.key("ended")))
        return [[*name.decode().split(" ", 1), int(count)] for name, count in found.items()]


def lane_of(kind: str) -> str:
    return QUICK if KINDS[kind].quick else RUNS


def read_stream(found: Any) -> list[tuple[int, frames.Message]]:
    """What a read of one stream gave: numbers and events."""
    return [(int(number.split(b"-")[0]), frames.decode(fields[b"e"])) for _, entries in found or [] for number, fields in entries]
