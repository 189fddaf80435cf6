"""Processes that are watched: one that ends is started again, at once, in the background."""

from __future__ import annotations

import logging
import os
import subprocess
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field

log = logging.getLogger("open_lemma.watch")

TICK_S = 0.05
PATIENCE_S = 4.0  # with one that is asked to end
SOON_S = 1.0  # one that lives for less, again and again, is started only after a pause
PAUSES_S = (0.0, 0.0, 0.1, 0.3, 0.5, 1.0)


@dataclass
class Watched:
    """start  gives the process; may raise, which counts as an end
    finish ends it in good order
    name   for the log
    """

    name: str
    start: Callable[[], subprocess.Popen[bytes]]
    finish: Callable[[subprocess.Popen[bytes] | None], None]
    process: subprocess.Popen[bytes] | None = None
    began_at: float = 0.0
    failures: int = 0
    next_at: float = 0.0
    restarts: int = 0
    trouble: str = ""  # why it could not be started the last time

    def begin(self) -> None:
        """Raises what `start` raises."""
        self.process = self.start()
        self.began_at = time.monotonic()


@dataclass
class Watch:
    """All that are watched, with the thread that does it. Those added later are ended first."""

    all: list[Watched] = field(default_factory=list)
    ending: bool = False
    ours: set[int] = field(default_factory=set)  # processes that somebody here waits for
    collects: bool = False  # orphans that were adopted
    _thread: threading.Thread | None = None
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def add(
        self, name: str, start: Callable[[], subprocess.Popen[bytes]],
        finish: Callable[[subprocess.Popen[bytes] | None], None] | None = None, process: subprocess.Popen[bytes] | None = None,
    ) -> Watched:  # fmt: skip
        """Start a process, or take one that was started already, and watch it from now on. Raises what `start` raises."""
        made = Watched(name, start, finish or end_by_closing)
        if process is None:
            made.begin()
        else:
            made.process, made.began_at = process, time.monotonic()
        self._note(made)
        with self._lock:
            self.all.append(made)
            if self._thread is None:
                self._thread = threading.Thread(target=self._look, daemon=True, name="watch")
                self._thread.start()
        return made

    def _note(self, watched: Watched) -> None:
        assert watched.process is not None
        self.ours.add(watched.process.pid)

    def _look(self) -> None:
        # The kernel may end a process with the thread that started it: this one lives until all have ended.
        while not self.ending or self.all:
            with self._lock:
                for watched in self.all:
                    if not self.ending:
                        self._look_at(watched)
                if self.collects:
                    self._collect()
            time.sleep(TICK_S)

    def _collect(self) -> None:
        """Take notice of the ends of adopted processes; what was started here is left to who waits for it."""
        while True:
            try:
                found = os.waitid(os.P_ALL, 0, os.WEXITED | os.WNOHANG | os.WNOWAIT)
            except ChildProcessError:
                return
            if found is None or found.si_pid in self.ours:
                return
            os.waitpid(found.si_pid, 0)

    def _look_at(self, watched: Watched) -> None:
        now = time.monotonic()
        if watched.process is not None and watched.process.poll() is None:
            return
        if watched.process is not None:
            code, lived = watched.process.returncode, now - watched.began_at
            watched.process = None
            watched.failures = watched.failures + 1 if lived < SOON_S else 0
            watched.next_at = now + PAUSES_S[min(watched.failures, len(PAUSES_S) - 1)]
            log.warning("%s ended (%s) and is started again", watched.name, code)
        if now < watched.next_at:
            return
        try:
            watched.begin()
            self._note(watched)
            watched.restarts += 1
            watched.trouble = ""
        except Exception as trouble:
            watched.failures += 1
            watched.next_at = now + PAUSES_S[min(watched.failures, len(PAUSES_S) - 1)]
            watched.trouble = str(trouble)
            log.error("%s could not be started: %s", watched.name, trouble)

    def end(self) -> None:
        """End all, the last added first."""
        self.ending = True
        with self._lock:
            for watched in reversed(self.all):
                process, watched.process = watched.process, None
                watched.finish(process)
            self.all.clear()


def end_by_closing(process: subprocess.Popen[bytes] | None) -> None:
    """End a process that heeds the end of its standard input; one that does not is killed."""
    if process is None or process.poll() is not None:
        return
    if process.stdin is not None:
        process.stdin.close()
    _wait_or_kill(process, PATIENCE_S)


def end_by_asking(process: subprocess.Popen[bytes] | None, patience_s: float) -> None:
    """Ask a process to end (SIGTERM); one that does not heed is killed. Nothing happens where it has ended."""
    if process is None or process.poll() is not None:
        return
    process.terminate()
    _wait_or_kill(process, patience_s)


def _wait_or_kill(process: subprocess.Popen[bytes], patience_s: float) -> None:
    try:
        process.wait(patience_s)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()
