"""What a process asks of the Linux kernel about itself (prctl(2)). What is refused raises OSError."""

from __future__ import annotations

import ctypes
import os
import signal

_SET_PDEATHSIG, _SET_DUMPABLE, _SET_KEEPCAPS, _SET_CHILD_SUBREAPER, _SET_NO_NEW_PRIVS = 1, 4, 8, 36, 38
_libc = ctypes.CDLL(None, use_errno=True)


def _prctl(option: int, value: int) -> None:
    if _libc.prctl(option, value, 0, 0, 0):
        raise OSError(ctypes.get_errno(), f"prctl: {os.strerror(ctypes.get_errno())}")


def end_with_parent(how: int = signal.SIGTERM) -> None:
    """This process gets that signal when its parent is gone, however that happened. A change of user takes it back."""
    _prctl(_SET_PDEATHSIG, how)


def adopt_orphans() -> None:
    """Processes whose parent has ended become this one's, so that they end with it and are collected."""
    _prctl(_SET_CHILD_SUBREAPER, 1)


def keep_capabilities(kept: bool) -> None:
    """Whether rights of root's outlive the next change of user."""
    _prctl(_SET_KEEPCAPS, int(kept))


def gain_nothing() -> None:
    """No program that is begun from here has more rights, and other processes may not look into this one."""
    _prctl(_SET_NO_NEW_PRIVS, 1)
    _prctl(_SET_DUMPABLE, 0)
