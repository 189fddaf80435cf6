"""A limit on the time that algebra may take."""

from __future__ import annotations

import signal
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any


class OutOfTime(BaseException):
    """Algebra took longer than it may. Not an Exception: nothing on the way may swallow it."""


@contextmanager
def time_limit(seconds: float) -> Iterator[None]:
    """Raise OutOfTime in the block after so many seconds; without effect outside of the main thread."""
    # Cut off in the middle of its being loaded, a module would be left half made.
    import sympy  # noqa: F401

    if threading.current_thread() is not threading.main_thread():
        yield
        return

    def out(*_: Any) -> None:
        raise OutOfTime

    before = signal.signal(signal.SIGALRM, out)
    signal.setitimer(signal.ITIMER_REAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)
