"""A limit on the time that algebra may take, in any thread."""

from __future__ import annotations

import ctypes
import signal
import sys
import threading
from contextlib import AbstractContextManager
from time import monotonic
from types import FrameType
from typing import Any
from weakref import WeakSet

POSTPONED_S = 0.01  # an end that comes while a limit is just being set or taken away
AT_ONCE_S = 1e-3
AGAIN_S = 0.25


class OutOfTime(BaseException):
    """Algebra took longer than it may. Not an Exception: nothing on the way may swallow it."""


def time_limit(seconds: float) -> AbstractContextManager[None]:
    """Raise OutOfTime in the block after so many seconds. A limit around it goes on.

    In the main thread by a signal, which reaches library code that is not Python too; in other threads between two steps of Python.
    """
    return _Limit(seconds)


class _Limit(AbstractContextManager[None]):
    """One limit among those of its thread. No generator: its frames are on the stack only while it is set or taken away."""

    def __init__(self, seconds: float) -> None:
        self.seconds = seconds

    def __enter__(self) -> None:
        # Cut off in the middle of its being loaded, a module would be left half made.
        import sympy  # noqa: F401

        self.deadline = monotonic() + self.seconds
        _clock().begin(self)

    def __exit__(self, *_: object) -> None:
        _clock().end(self)


class _Clock:
    """The limits of one thread, and what ends the block that is at work when the time of any of them has come."""

    def __init__(self) -> None:
        # Held weakly: a limit lives as long as its block, also where an exception from elsewhere came before it could be taken away.
        self.limits: WeakSet[_Limit] = WeakSet()
        # When it goes off: never later than the next deadline, so that most limits begin and end without a word to the system.
        self.at: float | None = None

    def begin(self, limit: _Limit) -> None:
        self.limits.add(limit)
        self._not_later_than(limit.deadline)

    def end(self, limit: _Limit) -> None:
        self.limits.discard(limit)
        if not self.limits:
            self.at = None
            self._set(None)
        elif min(x.deadline for x in self.limits) <= monotonic():
            # One inside took for its own what was meant for this one.
            self._not_later_than(monotonic() + AT_ONCE_S)

    def _not_later_than(self, at: float) -> None:
        if self.at is None or at < self.at:
            self.at = at
            self._set(max(at - monotonic(), AT_ONCE_S))

    def _is_time(self, frame: FrameType | None) -> bool:
        """It has gone off: whether the block at work is to be ended where it stands now. It is set again for all that is left."""
        self.at, now = None, monotonic()
        if self.limits and _within_limits(frame):
            self._not_later_than(now + POSTPONED_S)
            return False
        # Whoever swallows the end of a block inside has ended nothing: it comes again while the block lives.
        coming = [limit.deadline if limit.deadline > now else now + AGAIN_S for limit in self.limits]
        if coming:
            self._not_later_than(min(coming))
        return any(limit.deadline <= now for limit in self.limits)

    def _set(self, seconds: float | None) -> None:
        raise NotImplementedError


def _within_limits(frame: FrameType | None) -> bool:
    while frame is not None:
        if frame.f_code.co_filename == __file__:
            return True
        frame = frame.f_back
    return False


class _SignalClock(_Clock):
    """For the main thread (setitimer(2)). A timer of somebody else goes on when all limits have ended."""

    def begin(self, limit: _Limit) -> None:
        if not self.limits:
            self.handler = signal.signal(signal.SIGALRM, self._alarm)
            seconds, _ = signal.setitimer(signal.ITIMER_REAL, 0)
            self.other = monotonic() + seconds if seconds else None
        super().begin(limit)

    def end(self, limit: _Limit) -> None:
        super().end(limit)
        if not self.limits:
            signal.signal(signal.SIGALRM, self.handler)
            if self.other is not None:
                signal.setitimer(signal.ITIMER_REAL, max(self.other - monotonic(), AT_ONCE_S))

    def _alarm(self, _: int, frame: FrameType | None) -> None:
        if self._is_time(frame):
            raise OutOfTime

    def _set(self, seconds: float | None) -> None:
        signal.setitimer(signal.ITIMER_REAL, seconds or 0)


class _ThreadClock(_Clock):
    """For any other thread: a timer that sends the exception there."""

    def __init__(self) -> None:
        super().__init__()
        self.thread = threading.get_ident()
        self.lock = threading.RLock()
        self.timer: threading.Timer | None = None

    def begin(self, limit: _Limit) -> None:
        with self.lock:
            super().begin(limit)

    def end(self, limit: _Limit) -> None:
        with self.lock:
            # What was sent and has not arrived yet must not arrive later.
            self._send(None)
            super().end(limit)

    def _set(self, seconds: float | None) -> None:
        if self.timer is not None:
            self.timer.cancel()
        self.timer = None
        if seconds is not None:
            self.timer = threading.Timer(seconds, self._out)
            self.timer.daemon = True
            self.timer.start()

    def _out(self) -> None:
        with self.lock:
            if self.timer is threading.current_thread() and self._is_time(sys._current_frames().get(self.thread)):
                self._send(OutOfTime)

    def _send(self, exception: type[BaseException] | None) -> None:
        sent: Any = None if exception is None else ctypes.py_object(exception)
        ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(self.thread), sent)


_clocks = threading.local()


def _clock() -> _Clock:
    if not hasattr(_clocks, "mine"):
        in_main = threading.current_thread() is threading.main_thread()
        _clocks.mine = _SignalClock() if in_main else _ThreadClock()
    mine: _Clock = _clocks.mine
    return mine
