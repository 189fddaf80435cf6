"""`./start` after everything is installed: database, migrations, engine, web processes; all are watched, and end with this process."""

from __future__ import annotations

import fcntl
import os
import signal
import socket
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path
from types import FrameType, TracebackType
from typing import IO

from sqlalchemy.exc import SQLAlchemyError

from ..engine.folder import OwnedFolder
from ..engine.logs import log_as_json
from ..engine.prctl import adopt_orphans, end_with_parent
from ..engine.processes import Processes
from ..engine.watching import Watch, end_by_asking
from ..store.database import Database, DatabaseAway
from .demo import is_loaded
from .mariadb import NoDatabase, OwnServer
from .ports import NoPort, listen_on
from .settings import BadSetting, Settings

READY_S = 180.0  # on a busy machine the demo alone may take a minute
STOP_S = 8.0


class Serving:
    """All processes of the application on this machine; `with` starts and stops them. DATABASE_URL and OPEN_LEMMA_ENGINE may name
    servers elsewhere, which are not started here."""

    def __init__(self, settings: Settings, say: bool = True, more: dict[str, str] | None = None) -> None:
        self.settings = settings
        self.more = more or {}  # settings for all processes, besides those of this one's environment
        self.say: Callable[..., None] = print if say else (lambda *_, **__: None)
        self.watch = Watch()
        self.metrics = OwnedFolder()
        self.own: OwnServer | None = None
        self.processes: Processes | None = None
        self.listener: socket.socket | None = None
        self.logger: socket.socket | None = None
        self.url = self.address = self.engine_address = ""
        self.logger_port = 0
        self.ended = threading.Event()

    def __enter__(self) -> Serving:
        try:
            self._start()
        except BaseException:
            self._stop()
            raise
        return self

    def __exit__(self, kind: type[BaseException] | None, value: BaseException | None, trace: TracebackType | None) -> None:
        self._stop()

    # ------------------------------------------------------------ start

    def _start(self) -> None:
        # The engine takes longest to be ready: it begins first.
        self.engine_address = self.settings.engine
        if not self.engine_address:
            self.processes = Processes(self.watch, more=self.more)
            self.processes.start()
            self.engine_address = f"unix:{self.processes.folder}"
        self._start_database()
        self._start_logger()
        self._start_web()
        if self.processes is not None:
            self.processes.wait_ready()
        self._load_demo()

    def _start_database(self) -> None:
        self.url = self.settings.database_url or ""
        if not self.url:
            self.own = OwnServer(self.settings.data)
            self.url = self.own.start()
            # First in the list, so that it ends last.
            self.watch.add("database", self.own.launch, self.own.finish, self.own.process)
            self.watch.all.insert(0, self.watch.all.pop())
        database = Database(self.url)
        try:
            database.migrate()
        except (SQLAlchemyError, DatabaseAway) as trouble:
            raise NoDatabase(
                f"the database cannot be used: {getattr(trouble, 'orig', trouble)}; look at DATABASE_URL and the rights of its user"
            ) from None
        finally:
            database.dispose()

    def _start_logger(self) -> None:
        """The simulated logger, on a port of its own."""
        self.logger = listen_on(range(self.settings.port + 1_000, self.settings.port + 1_200))
        self.logger_port = self.logger.getsockname()[1]
        handle = self.logger.fileno()

        def begin() -> subprocess.Popen[bytes]:
            command = [sys.executable, "-m", "open_lemma.logger.serve", "fd", str(handle)]
            return subprocess.Popen(command, pass_fds=[handle], start_new_session=True, preexec_fn=end_with_parent)

        self.watch.add("logger", begin, lambda process: end_by_asking(process, STOP_S))

    def _environment(self) -> dict[str, str]:
        return {
            **os.environ, **self.more, "DATABASE_URL": self.url, "OPEN_LEMMA_DATA": str(self.settings.data),
            "OPEN_LEMMA_ENGINE": self.engine_address,
            "OPEN_LEMMA_LOGGER_PORT": str(self.logger_port), "OPEN_LEMMA_PORT": str(self.settings.port),
            "PROMETHEUS_MULTIPROC_DIR": str(self.metrics.path), "OPEN_LEMMA_HOSTS": ",".join(self.settings.hosts),
            "OPEN_LEMMA_PROXY": self.settings.proxy,
        }  # fmt: skip

    def _start_web(self) -> None:
        usual = self.settings.port
        self.listener = listen_on(range(usual, usual + 200))
        self.listener.setblocking(False)  # of two that are woken, one finds nothing left
        port = self.listener.getsockname()[1]
        if port != usual:
            self.say(f"Port {usual} is taken by another program; using {port}.")
        handle = self.listener.fileno()

        def begin() -> subprocess.Popen[bytes]:
            command = [sys.executable, "-m", "open_lemma.service.web", str(handle)]
            return subprocess.Popen(command, pass_fds=[handle], env=self._environment(), start_new_session=True, preexec_fn=end_with_parent)

        for k in range(self.settings.web_processes):
            self.watch.add(f"web process {k + 1}", begin, lambda process: end_by_asking(process, STOP_S))
        self.address = f"http://localhost:{port}"
        self._wait_ready(port)

    def _wait_ready(self, port: int) -> None:
        deadline = time.monotonic() + READY_S
        while time.monotonic() < deadline:
            if any(w.failures > 2 for w in self.watch.all):
                raise RuntimeError("the server ended while starting, again and again; its messages are above")
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health", timeout=2):
                    return
            except (urllib.error.URLError, OSError):
                time.sleep(0.05)
        raise RuntimeError(f"the web server did not answer within {READY_S:g} s")

    def _load_demo(self) -> None:
        """In a process of its own: it needs the core, and this one shall stay small."""
        if self._environment().get("OPEN_LEMMA_DEMO", "yes") == "no":
            return
        database = Database(self.url)
        try:
            if not is_loaded(database):
                command = [sys.executable, "-m", "open_lemma.service.demo"]
                loading = subprocess.Popen(command, env=self._environment(), preexec_fn=end_with_parent)
                self.watch.ours.add(loading.pid)
                loading.wait()
        finally:
            database.dispose()

    # ------------------------------------------------------------ while it serves

    def wait(self) -> None:
        """Until this process is told to stop; whatever ends meanwhile is started again."""
        while not self.ended.wait(3600):
            pass

    def confinement(self) -> str:
        """What holds for runs on this machine, in words."""
        if self.processes is None:
            return "Runs are worked elsewhere."
        state = self.processes.engine().state()
        missing = "".join(f"\n  Not in force: {m}." for m in state["not_in_force"])
        return f"In force for runs: {', '.join(state['in_force'])}.{missing}"

    def _stop(self) -> None:
        self.ended.set()
        self.watch.end()
        if self.own is not None:
            self.own.stop()
        for listener in (self.listener, self.logger):
            if listener is not None:
                listener.close()
        if self.processes is not None:
            self.processes.close()
        self.metrics.close()


class AlreadyRunning(RuntimeError):
    """Another process serves from the same data folder."""


class NoFolder(RuntimeError):
    """The data folder cannot be used."""


def _lock(data: Path) -> IO[str]:
    """Hold the data folder for this process; raises AlreadyRunning with the address of the one that holds it, and NoFolder."""
    try:
        data.mkdir(parents=True, exist_ok=True)
        file = (data / "serving").open("a+", encoding="ascii")
        (data / "writable").write_bytes(bytes(4096))
        (data / "writable").unlink()
    except OSError as trouble:
        raise NoFolder(
            f"nothing can be written into {data}: {(trouble.strerror or str(trouble)).lower()}; make it writable or make room, or name "
            "another folder in OPEN_LEMMA_DATA"
        ) from None
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        file.seek(0)
        address = file.read().strip()
        file.close()
        raise AlreadyRunning(f"Open Lemma is already running{' at ' + address if address else ''}.") from None
    file.truncate(0)
    return file


def _interrupt(_: int, __: FrameType | None) -> None:
    raise KeyboardInterrupt


def main() -> int:
    log_as_json("supervisor")
    # Ctrl-C too: a shell that starts this in the background tells it to ignore that.
    signal.signal(signal.SIGINT, _interrupt)
    signal.signal(signal.SIGTERM, _interrupt)
    signal.signal(signal.SIGHUP, _interrupt)
    try:
        settings = Settings.from_environment()
        with _lock(settings.data) as lock, Serving(settings) as serving:
            adopt_orphans()
            serving.watch.collects = True
            lock.write(serving.address)
            lock.flush()
            print(f"Open Lemma is ready: {serving.address}")
            print(f"A simulated logger answers on port {serving.logger_port}.")
            print(serving.confinement())
            print("Ctrl-C stops it; all work is kept.", flush=True)
            serving.wait()
            return 1
    except KeyboardInterrupt:
        print("\nStopped.", flush=True)
        return 0
    except AlreadyRunning as running:
        print(running)
        return 0
    except (BadSetting, NoDatabase, NoFolder, NoPort, RuntimeError) as trouble:
        print(f"Open Lemma cannot start: {trouble}", file=sys.stderr)
        return 1


if __name__ == "__main__":
    sys.exit(main())
