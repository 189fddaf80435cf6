"""Processes that this one starts: ended with it, however that happens, and ended in good order where there is time."""

from __future__ import annotations

import ctypes
import signal
import subprocess

from ..engine.watching import wait_or_kill

_PR_SET_PDEATHSIG = 1


def end_with_parent() -> None:
    """For `preexec_fn`: asks the kernel to end the process when its parent is gone, however that happened."""
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)


def end(process: subprocess.Popen[bytes] | None, patience_s: float) -> None:
    """Ask a process to end and wait for it; one that does not heed is killed. Nothing happens where it has ended."""
    if process is None or process.poll() is not None:
        return
    process.terminate()
    wait_or_kill(process, patience_s)
