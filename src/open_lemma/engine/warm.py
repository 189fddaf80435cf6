"""The warm process: everything loaded once, then a forked child for each job.

It has one thread and holds no state of any run, so that forking is safe and a script can never take the server with it.
Run as `python -m open_lemma.engine.warm SOCKET`; it ends when its standard input closes.
"""

from __future__ import annotations

import gc
import os
import selectors
import signal
import socket
import sys
import time
from dataclasses import dataclass

from ..core.compiled import keep_no_more
from ..core.figure.draw import check_text, draw, make_ready
from ..core.run.execute.interpreter import run
from .child import failed, memory_text, time_text, work
from .protocol import Job, job_from, to_line

MAX_JOB_BYTES = 600_000_000  # a job carries the columns of its tables
STOPPED = ("stopped", "the run was stopped")


@dataclass
class Running:
    """A child at work: its connection stays open here, to hear a stop and to say the last word if it dies."""

    pid: int
    job: Job
    connection: socket.socket
    deadline: float
    reason: tuple[str, str] | None = None


class WarmProcess:
    def __init__(self, path: str) -> None:
        self.listener = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        self.listener.bind(path)
        os.chmod(path, 0o600)
        self.listener.listen(64)
        self.selector = selectors.DefaultSelector()
        self.selector.register(self.listener, selectors.EVENT_READ, "listener")
        self.selector.register(sys.stdin, selectors.EVENT_READ, "parent")
        self.running: dict[int, Running] = {}
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
                        return self._end()
                elif key.data == "listener":
                    self._accept()
                elif key.data == "wake":
                    os.read(self.wake_read, 4096)
                else:
                    self._stop(key.data, STOPPED)
            self._watch_time()
            self._reap()

    def _end(self) -> None:
        for child in self.running.values():
            os.kill(child.pid, signal.SIGKILL)

    def _accept(self) -> None:
        connection, _ = self.listener.accept()
        connection.settimeout(5)
        try:
            line, more = _read_line(connection)
            job = job_from(line)
            if more:  # stopped before it began
                connection.sendall(to_line(failed(*STOPPED)))
                raise ValueError("nothing is left to do")
        except (OSError, ValueError, TypeError, KeyError):
            connection.close()
            return
        connection.settimeout(None)
        pid = os.fork()
        if pid == 0:
            self._be_child(job, connection)
        child = Running(pid, job, connection, time.monotonic() + job.limits.seconds)
        self.running[pid] = child
        self.selector.register(connection, selectors.EVENT_READ, child)

    def _be_child(self, job: Job, connection: socket.socket) -> None:
        signal.set_wakeup_fd(-1)
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        signal.signal(signal.SIGXCPU, signal.SIG_DFL)
        self.listener.close()
        for other in self.running.values():
            other.connection.close()
        code = 1
        try:
            code = work(job, connection)
        finally:
            connection.close()
            os._exit(code)

    def _stop(self, child: Running, reason: tuple[str, str]) -> None:
        if child.reason is None:
            child.reason = reason
            os.kill(child.pid, signal.SIGKILL)
        self._forget(child)

    def _forget(self, child: Running) -> None:
        if child.connection in self.selector.get_map():
            self.selector.unregister(child.connection)

    def _watch_time(self) -> None:
        now = time.monotonic()
        for child in list(self.running.values()):
            if now > child.deadline:
                self._stop(child, ("time", time_text(child.job.limits)))

    def _reap(self) -> None:
        while self.running:
            pid, status = os.waitpid(-1, os.WNOHANG)
            if pid == 0:
                return
            child = self.running.pop(pid, None)
            if child is not None:
                self._say_end(child, status)

    def _say_end(self, child: Running, status: int) -> None:
        self._forget(child)
        if child.reason is None and os.WIFSIGNALED(status):
            if os.WTERMSIG(status) == signal.SIGXCPU:
                child.reason = ("time", time_text(child.job.limits))
            elif os.WTERMSIG(status) == signal.SIGABRT:
                # The libraries underneath give up in this way when memory runs out.
                child.reason = ("memory", memory_text(child.job.limits))
            else:
                child.reason = ("died", f"the run ended by itself (signal {os.WTERMSIG(status)}); nothing else is lost")
        elif child.reason is None and os.WEXITSTATUS(status):
            child.reason = ("died", "the run ended by itself; nothing else is lost")
        try:
            if child.reason is not None:
                child.connection.settimeout(1)
                child.connection.sendall(b"\n" + to_line(failed(*child.reason)))
        except OSError:
            pass
        child.connection.close()


def _read_line(connection: socket.socket) -> tuple[bytes, bytes]:
    """The first line, and what came after it in the same breath."""
    data = bytearray()
    while b"\n" not in data:
        piece = connection.recv(1 << 20)
        if not piece or len(data) > MAX_JOB_BYTES:
            raise ValueError("no whole job")
        data += piece
    line, _, more = bytes(data).partition(b"\n")
    return line, more


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
    )
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
    preload()
    gc.collect()
    gc.freeze()  # shared pages stay shared after a fork
    WarmProcess(sys.argv[1]).serve()


if __name__ == "__main__":
    main()
