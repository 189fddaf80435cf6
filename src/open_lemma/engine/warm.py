"""The warm process: everything loaded once, then a forked child for each job.

It has one thread and holds no state of any run, so that forking is safe and a script can never take the server with it.
Run as `python -m open_lemma.engine.warm SCRATCH SOCKET...`; it takes the first place that is free, and ends when its standard input
closes.

Two kinds of connections come in. The first frame says which: `{"control": true}` from the engine, or `{"job": N, "quick": ..., "limits":
..., "scratch": ...}`, and right after it the job, which the child reads itself. Over the control connection go

    orders   {"order": "stop" | "lower" | "pause" | "go", "job": N}; {"order": "sibling", "path": ...}: fork another warm process
    answers  {"in_force": [...], "not_in_force": [...]}, what confines runs here; {"ended": N, "reason": ..., "text": ...}

When it closes, all jobs end: nobody would hear of them.
"""

from __future__ import annotations

import fcntl
import gc
import os
import select
import selectors
import shutil
import signal
import socket
import sys
import time
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any

from ..core.compiled import keep_no_more
from ..core.figure.draw import check_text, draw, make_ready
from ..core.run.execute.faults import described_fault
from ..core.run.execute.interpreter import run
from . import confinement, frames
from .child import do, memory_text, set_limits, time_text, work
from .handlers.handler import Work
from .pipe import Pipe
from .protocol import QUICK_SECONDS, Job, Limits

CLERKS = 2  # processes that do quick jobs, one after the other
CLERK_JOBS = 400  # that one of them does before another takes its place
LOWER = 12  # by how much the priority of a long run is lowered


@dataclass
class Child:
    """A process at work. deadline: on the clock, moved on by the time that it is paused."""

    pid: int
    number: int
    limits: Limits
    deadline: float
    scratch: str = ""
    reason: tuple[str, str] | None = None
    paused_at: float | None = None


@dataclass
class Clerk:
    """A process that does quick jobs: they are handed to it as open connections."""

    pid: int
    line: socket.socket
    number: int = 0  # of the job at work; 0: none
    deadline: float = 0.0
    done: int = 0
    waiting: list[tuple[int, socket.socket]] = field(default_factory=list)
    reason: tuple[str, str] | None = None


class WarmProcess:
    def __init__(self, path: str, scratch: str, place: int) -> None:
        self.scratch, self.place = scratch, place
        self.listener = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        if os.path.exists(path):
            os.unlink(path)
        self.listener.bind(path)
        os.chmod(path, 0o600)
        self.listener.listen(128)
        self.selector = selectors.DefaultSelector()
        self.selector.register(self.listener, selectors.EVENT_READ, "listener")
        self.selector.register(sys.stdin, selectors.EVENT_READ, "parent")
        self.control: socket.socket | None = None
        self.children: dict[int, Child] = {}
        self.clerks: list[Clerk] = []
        # A child's end wakes the selector at once instead of at the next tick.
        self.wake_read, wake_write = os.pipe()
        os.set_blocking(self.wake_read, False)
        os.set_blocking(wake_write, False)
        signal.set_wakeup_fd(wake_write)
        signal.signal(signal.SIGCHLD, lambda *_: None)
        self.selector.register(self.wake_read, selectors.EVENT_READ, "wake")

    def serve(self) -> None:
        while True:
            for key, _ in self.selector.select(timeout=0.25):
                if key.data == "parent":
                    if not os.read(0, 1):
                        return self._end_all()
                elif key.data == "listener":
                    self._accept()
                elif key.data == "wake":
                    os.read(self.wake_read, 4096)
                elif key.data == "control":
                    self._hear()
                else:
                    self._clerk_said(key.data)
            self._watch_time()
            self._reap()

    def _end_all(self) -> None:
        for pid in [*(c.pid for c in self.children.values()), *(c.pid for c in self.clerks)]:
            with suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)

    # ------------------------------------------------------------ what comes in

    def _accept(self) -> None:
        connection, _ = self.listener.accept()
        connection.settimeout(5)
        try:
            first = frames.receive(connection)
            if first is None:
                raise frames.BrokenFrame("nothing came")
            if first.get("control"):
                return self._take_control(connection)
            number, limits = int(first["job"]), Limits(**first["limits"])
            quick, scratch, lower = bool(first["quick"]), bool(first["scratch"]), bool(first["lower"])
        except (OSError, frames.BrokenFrame, TypeError, KeyError, ValueError):
            connection.close()
            return
        connection.settimeout(None)
        if quick:
            self._hand(number, connection)
        else:
            self._begin(number, limits, connection, scratch, lower)

    def _take_control(self, connection: socket.socket) -> None:
        if self.control is not None:
            self._lose_control()
        with suppress(OSError):
            frames.send(connection, {"in_force": list(confinement.in_force()), "not_in_force": list(confinement.not_in_force())})
        connection.settimeout(None)
        self.control = connection
        self.selector.register(connection, selectors.EVENT_READ, "control")

    def _lose_control(self) -> None:
        """Nobody hears of the jobs any more."""
        assert self.control is not None
        self.selector.unregister(self.control)
        self.control.close()
        self.control = None
        self._end_all()

    def _hear(self) -> None:
        assert self.control is not None
        try:
            said = frames.receive(self.control)
        except (OSError, frames.BrokenFrame):
            said = None
        if said is None:
            return self._lose_control()
        if said.get("order") == "sibling":
            return self._fork_sibling(str(said["path"]))
        child = next((c for c in self.children.values() if c.number == said.get("job")), None)
        if child is None:
            return
        order = said.get("order")
        if order == "stop":
            self._kill(child, ("stopped", "the run was stopped"))
        elif order == "lower":
            lower(child.pid)
        elif order == "pause" and child.paused_at is None:
            child.paused_at = time.monotonic()
            os.kill(child.pid, signal.SIGSTOP)
        elif order == "go" and child.paused_at is not None:
            child.deadline += time.monotonic() - child.paused_at
            child.paused_at = None
            os.kill(child.pid, signal.SIGCONT)

    def _fork_sibling(self, path: str) -> None:
        """Another warm process, ready at once, where one has ended. It is nobody's child for long, and ends with the standard input."""
        if os.fork():
            return
        code = 1
        try:
            self._only()
            place = take_place(path)
            if place is not None:
                WarmProcess(path, self.scratch, place).serve()
            code = 0
        except Exception as trouble:
            _say_fault(trouble)
        finally:
            os._exit(code)

    # ------------------------------------------------------------ a child for a job

    def _begin(self, number: int, limits: Limits, connection: socket.socket, scratch: bool, lower: bool) -> None:
        folder = os.path.join(self.scratch, f"job-{number}") if scratch else ""
        if folder:
            os.makedirs(folder, mode=0o700, exist_ok=True)
        pid = os.fork()
        if pid == 0:
            if lower:
                os.nice(LOWER)  # before there are threads: each has a priority of its own
            self._be_child(connection, folder)
        connection.close()
        self.children[pid] = Child(pid, number, limits, time.monotonic() + limits.seconds_on_the_clock, folder)

    def _only(self, *kept: socket.socket) -> None:
        """In a child: nothing of the parent's stays open."""
        signal.set_wakeup_fd(-1)
        for name in (signal.SIGCHLD, signal.SIGXCPU):
            signal.signal(name, signal.SIG_DFL)
        for other in (self.listener, self.control, *(c.line for c in self.clerks)):
            if other is not None and other not in kept:
                other.close()
        os.close(self.place)
        self.selector.close()

    def _be_child(self, connection: socket.socket, folder: str) -> None:
        code = 1
        try:
            self._only(connection)
            job = frames.receive(connection)
            if job is not None:
                code = work(Job.from_message(job), connection, folder)
        except Exception as trouble:
            _say_fault(trouble)
        finally:
            with suppress(OSError):
                connection.shutdown(socket.SHUT_WR)
            os._exit(code)

    def _kill(self, child: Child, reason: tuple[str, str]) -> None:
        if child.reason is None:
            child.reason = reason
            os.kill(child.pid, signal.SIGKILL)

    def _watch_time(self) -> None:
        now = time.monotonic()
        for child in self.children.values():
            if child.paused_at is None and now > child.deadline:
                self._kill(child, ("busy", _busy_text(child.limits)))
        for clerk in self.clerks:
            if clerk.number and now > clerk.deadline and clerk.reason is None:
                clerk.reason = ("time", f"this took longer than {QUICK_SECONDS:g} s and was given up; is the script very long?")
                os.kill(clerk.pid, signal.SIGKILL)

    def _reap(self) -> None:
        while self.children or self.clerks:
            try:
                pid, status = os.waitpid(-1, os.WNOHANG)
            except ChildProcessError:
                return
            if pid == 0:
                return
            child = self.children.pop(pid, None)
            clerk = next((c for c in self.clerks if c.pid == pid), None)
            if child is not None:
                self._say_end(child.number, child.reason or _why(status, child.limits))
                if child.scratch:
                    shutil.rmtree(child.scratch, ignore_errors=True)
            elif clerk is not None:
                self._lose_clerk(clerk, status)

    def _say_end(self, number: int, reason: tuple[str, str] | None) -> None:
        """Why a job ended, where its child did not say so itself; the engine looks at it only then."""
        if self.control is None:
            return
        told: dict[str, Any] = {"ended": number}
        if reason is not None:
            told |= {"reason": reason[0], "text": reason[1]}
        try:
            self.control.settimeout(5)
            frames.send(self.control, told)
            self.control.settimeout(None)
        except OSError:
            self._lose_control()

    # ------------------------------------------------------------ clerks

    def _hand(self, number: int, connection: socket.socket) -> None:
        free = next((c for c in self.clerks if not c.number and c.reason is None), None)
        if free is None and len(self.clerks) < CLERKS:
            free = self._new_clerk()
        if free is None:
            least = min(self.clerks, key=lambda c: len(c.waiting))
            least.waiting.append((number, connection))
        else:
            self._give(free, number, connection)

    def _give(self, clerk: Clerk, number: int, connection: socket.socket) -> None:
        clerk.number, clerk.deadline = number, time.monotonic() + 2 * QUICK_SECONDS
        with suppress(OSError):  # its end is told when it is reaped
            socket.send_fds(clerk.line, [b"j"], [connection.fileno()])
        connection.close()

    def _new_clerk(self) -> Clerk:
        here, there = socket.socketpair()
        pid = os.fork()
        if pid == 0:
            code = 1
            try:
                self._only(there)
                here.close()
                code = _be_clerk(there)
            except Exception as trouble:
                _say_fault(trouble)
            finally:
                os._exit(code)
        there.close()
        made = Clerk(pid, here)
        self.clerks.append(made)
        self.selector.register(here, selectors.EVENT_READ, made)
        return made

    def _clerk_said(self, clerk: Clerk) -> None:
        try:
            said = clerk.line.recv(1)
        except OSError:
            said = b""
        if not said:
            if clerk.line in [k.fileobj for k in self.selector.get_map().values()]:
                self.selector.unregister(clerk.line)
            return  # it is reaped in a moment
        self._say_end(clerk.number, None)
        clerk.number, clerk.done = 0, clerk.done + 1
        if clerk.done >= CLERK_JOBS:
            clerk.line.shutdown(socket.SHUT_WR)
            clerk.reason = ("", "")
        elif clerk.waiting:
            self._give(clerk, *clerk.waiting.pop(0))

    def _lose_clerk(self, clerk: Clerk, status: int) -> None:
        self.clerks.remove(clerk)
        with suppress(KeyError, ValueError):
            self.selector.unregister(clerk.line)
        clerk.line.close()
        if clerk.number:
            self._say_end(clerk.number, clerk.reason or _why(status, Limits(QUICK_SECONDS)))
        for number, connection in clerk.waiting:
            self._hand(number, connection)


def lower(pid: int) -> None:
    """Take a process's priority back, thread by thread (sched(7): a nice value is one of a thread)."""
    with suppress(OSError):
        for thread in os.listdir(f"/proc/{pid}/task"):
            with suppress(OSError):
                os.setpriority(os.PRIO_PROCESS, int(thread), LOWER)


def _busy_text(limits: Limits) -> str:
    clock = limits.seconds_on_the_clock
    return f"the run was ended after {clock:g} s on the clock: the server is too busy to give it its {limits.seconds:g} s; run it again"


def _why(status: int, limits: Limits) -> tuple[str, str]:
    """Why a child ended that said nothing of it."""
    if os.WIFSIGNALED(status):
        number = os.WTERMSIG(status)
        if number == signal.SIGXCPU:
            return "time", time_text(limits)
        if number == signal.SIGABRT:
            # The libraries underneath give up in this way when memory runs out.
            return "memory", memory_text(limits)
        return "died", f"the run ended by itself (signal {number}); nothing else is lost"
    return "died", "the run ended by itself; nothing else is lost"


def _say_fault(trouble: Exception) -> None:
    """A fault of ours in a child that has nobody else to tell it: its type and where, on standard error."""
    print(described_fault(trouble, 0, ""), file=sys.stderr, flush=True)


def _be_clerk(line: socket.socket) -> int:
    """Quick jobs one after the other, each over a connection that is handed over; ends when the line closes."""
    gc.enable()
    set_limits(Limits(86_400.0))  # of time each job has its own limit, which the warm process watches
    confinement.enter()
    while True:
        said, handles, _, _ = socket.recv_fds(line, 1, 1)
        if not said:
            return 0
        with socket.socket(fileno=handles[0]) as connection:
            job = frames.receive(connection)
            if job is not None:
                found = Job.from_message(job)
                pipe = Pipe(connection, found.limits.output_mb)
                do(Work(found, pipe), pipe)
        line.send(b"d")


def take_place(path: str) -> int | None:
    """Hold a warm process's place, so that no other listens there; its handle, or None where another holds it."""
    handle = os.open(f"{path}.place", os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(handle)
        return None
    os.ftruncate(handle, 0)
    os.write(handle, str(os.getpid()).encode())
    return handle


def wait_for_place(paths: list[str]) -> tuple[str, int] | None:
    """The first place that is free, when one is; None where the standard input closes before."""
    while True:
        for path in paths:
            if (place := take_place(path)) is not None:
                return path, place
        if select.select([0], [], [], 0.1)[0] and not os.read(0, 1):
            return None


def preload() -> None:
    """Touch what every run needs: fonts, the mathematics of labels, algebra, units."""
    import sympy

    sympy.simplify(sympy.sin(sympy.pi) + 1)
    outcome = run(
        'figure warm:\n    curve of sin(x)^2/x for x from 1 to 9, label "$x^2$"\n    curve of exp(x) for x from 1 to 2, label "a"\n'
        "    points of [(1, 2), (3, 4)]\nroots of cos(x) - x for x from 0 to 2\n"
        "surface of x*y for x from 0 to 1, y from 0 to 1, levels 2\nsurface of x^2 + y^2 + z^2 = 1, opacity 0.5\n"
        "bed(x, y) = interpolation of [1, 2, 3, 5] against ([0, 1, 0, 1], [0, 0, 1, 1]), by thin-plate\nshow bed(0.5, 0.5)\n"
        "a = 2 ± 0.1 [m]\nshow a + 20 [cm], sin(30 [deg])\n"
        "g(x) = fit of c*x^2 to [1, 4, 9.1] against [1, 2, 3]\nlowest of (x - 2)^2 for x from 0 to 9\n"
        "histogram of [1, 2, 3, 3]\nintegral of exp(-x^2) for x from 0 to 3\n"
    )
    run("plot x^2, -2, 2\n")  # what answers sentences that cannot be read
    for drawn in outcome.figures:
        draw(drawn.data)
    for letter in "xytuvwzkn":
        check_text(f"${letter}$")
    for power in range(-6, 9):
        check_text(f"$\\mathdefault{{10^{{{power}}}}}$")
    make_ready()
    keep_no_more()  # children may not write files


def main() -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C is the server's to handle; this process ends with it
    confinement.make_ready()
    preload()
    gc.collect()
    gc.freeze()  # shared pages stay shared after a fork
    scratch, *paths = sys.argv[1:]
    # While this one was made ready, others may have forked one for each place: then it waits, ready, until one of them ends.
    found = wait_for_place(paths)
    if found is not None:
        WarmProcess(found[0], scratch, found[1]).serve()


if __name__ == "__main__":
    main()
