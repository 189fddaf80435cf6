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
    """Raise OutOfTime in the block after so many seconds; without effect outside of the main thread. A limit around it goes on."""
    # Cut off in the middle of its being loaded, a module would be left half made.
    import sympy  # noqa: F401

    if threading.current_thread() is not threading.main_thread():
        yield
        return

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
