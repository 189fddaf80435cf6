"""The processes of an engine on this machine: one that takes jobs, and warm ones that work them; all watched."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Mapping

from .asking import EngineAway
from .folder import OwnedFolder
from .local import LocalEngine
from .protocol import Limits
from .room import available_mb
from .watching import Watch, end_by_closing

# What a process that works for users may know of the environment: never addresses, passwords or keys.
PASSED_ON = (
    "PATH", "HOME", "LANG", "LC_", "TZ", "PYTHON", "VIRTUAL_ENV", "OPEN_LEMMA_RUN_", "OPEN_LEMMA_WAIT_SECONDS", "OPEN_LEMMA_LOG", "NUMBA_",
    "OPENBLAS_", "OMP_", "MPL", "XDG_", "LD_LIBRARY_PATH",
)  # fmt: skip
WARM_MB = 600  # that a warm process may take
READY_S = 90.0


def environment(given: Mapping[str, str] | None = None) -> dict[str, str]:
    """What may be passed on of an environment, without more said of this process's own."""
    return {name: value for name, value in (os.environ if given is None else given).items() if name.startswith(PASSED_ON)}


def warm_processes() -> int:
    """Two, so that one is ready while another is started again; one where memory is short."""
    return 2 if available_mb() > 4 * WARM_MB else 1


class Processes:
    """Started by `start`, ended by `close`. The folder holds sockets, files on their way and scratch folders; at the end it is gone."""

    def __init__(
        self, watch: Watch | None = None, warm: int | None = None, limits: Limits | None = None, more: dict[str, str] | None = None
    ) -> None:  # fmt: skip
        self.own_watch = watch is None
        self.watch = watch or Watch()
        self.count = warm or warm_processes()
        self.owned = OwnedFolder()
        self.folder = self.owned.path
        self._lifeline: tuple[int, ...] = os.pipe()
        self.limits = limits
        self.more = more or {}  # settings besides those of this process's environment

    def start(self) -> None:
        # One is made ready, and forks the others: that is quicker, and they share its memory.
        places = [str(self.folder / f"warm-{k + 1}") for k in range(self.count)]
        self._watched("warm process", "warm", str(self.folder / "scratch"), *places)
        self._watched("engine", "server", str(self.folder), str(self.count))

    def _watched(self, name: str, module: str, *words: str) -> None:
        self.watch.add(name, lambda: self._started(module, *words), self._finish)

    def _started(self, module: str, *words: str) -> subprocess.Popen[bytes]:
        # All end when the other side of their standard input closes, which the kernel does for a parent that is killed.
        return subprocess.Popen(
            [sys.executable, "-m", f"open_lemma.engine.{module}", *words], stdin=self._lifeline[0], env=self._environment(),
            start_new_session=True,
        )  # fmt: skip

    def _finish(self, process: subprocess.Popen[bytes] | None) -> None:
        self._let_go()
        end_by_closing(process)

    def _let_go(self) -> None:
        for handle in self._lifeline:
            os.close(handle)
        self._lifeline = ()

    def _environment(self) -> dict[str, str]:
        more = environment({**os.environ, **self.more})
        if self.limits is not None:
            more |= {
                "OPEN_LEMMA_RUN_SECONDS": str(self.limits.seconds), "OPEN_LEMMA_RUN_MEMORY_MB": str(self.limits.memory_mb),
                "OPEN_LEMMA_RUN_OUTPUT_MB": str(self.limits.output_mb),
            }  # fmt: skip
        return more

    def engine(self) -> LocalEngine:
        return LocalEngine(self.folder, self.limits)

    def wait_ready(self) -> None:
        """Until a warm process can work. Raises RuntimeError."""
        deadline = time.monotonic() + READY_S
        engine = self.engine()
        while time.monotonic() < deadline:
            try:
                if engine.state()["warm"] > 0:
                    return
            except EngineAway:
                pass
            time.sleep(0.05)
        raise RuntimeError(f"the processes that run scripts did not start within {READY_S:g} s")

    def close(self) -> None:
        """End all, where the watch is this one's own, and take the folder away."""
        if self.own_watch:
            self.watch.end()
        self._let_go()
        self.owned.close()
