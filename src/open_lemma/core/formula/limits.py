"""A limit on the time that algebra may take, in any thread."""

from __future__ import annotations

import ctypes
import signal
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any


class OutOfTime(BaseException):
    """Algebra took longer than it may. Not an Exception: nothing on the way may swallow it."""


@contextmanager
def time_limit(seconds: float) -> Iterator[None]:
    """Raise OutOfTime in the block after so many seconds. A limit around it goes on.

    In the main thread by a signal, which reaches library code that is not Python too; in other threads between two steps of Python.
    """
    # Cut off in the middle of its being loaded, a module would be left half made.
    import sympy  # noqa: F401

    in_main = threading.current_thread() is threading.main_thread()
    with _by_signal(seconds) if in_main else _by_watching(seconds):
        yield


@contextmanager
def _by_signal(seconds: float) -> Iterator[None]:
    def out(*_: Any) -> None:
        raise OutOfTime

    before = signal.signal(signal.SIGALRM, out)
    around, _ = signal.getitimer(signal.ITIMER_REAL)
    own = min(seconds, around) if around else seconds
    signal.setitimer(signal.ITIMER_REAL, own)
    try:
        yield
    finally:
        left, _ = signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)
        if around:
            signal.setitimer(signal.ITIMER_REAL, max(around - (own - left), 1e-3))


class _Watch:
    """Raises OutOfTime in a thread after some seconds, unless it is called off before."""

    def __init__(self, seconds: float) -> None:
        self.thread = threading.get_ident()
        self.lock, self.over, self.fired = threading.Lock(), False, False
        self._start(seconds)

    def _start(self, seconds: float) -> None:
        self.timer = threading.Timer(seconds, self._out)
        self.timer.daemon = True
        self.timer.start()

    def _out(self) -> None:
        with self.lock:
            if not self.over:
                self.fired = True
                ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(self.thread), ctypes.py_object(OutOfTime))

    def again(self) -> None:
        """A limit inside took what was meant for this one as its own."""
        self._start(1e-3)

    def call_off(self) -> None:
        self.timer.cancel()
        with self.lock:
            self.over = True
            # What was sent and has not arrived yet must not arrive later.
            ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(self.thread), None)


_watching = threading.local()


@contextmanager
def _by_watching(seconds: float) -> Iterator[None]:
    stack: list[_Watch] = _watching.__dict__.setdefault("stack", [])
    mine = _Watch(seconds)
    stack.append(mine)
    try:
        yield
    finally:
        mine.call_off()
        stack.pop()
        for around in stack:
            if around.fired:
                around.again()
