"""`./start` after everything is installed: database, migrations, web server; all of it ends with this process."""

from __future__ import annotations

import fcntl
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path
from types import FrameType, TracebackType
from typing import IO

from sqlalchemy.exc import SQLAlchemyError

from ..store.database import Database
from .mariadb import NoDatabase, OwnServer
from .ports import NoPort, listen_on
from .processes import end, end_with_parent
from .settings import BadSetting, Settings

READY_S = 180.0  # on a busy machine the demo alone may take a minute
STOP_S = 8.0
THREADS = 24


class Serving:
    """The web server and, unless DATABASE_URL names another, a database server; `with` starts and stops both."""

    def __init__(self, settings: Settings, say: bool = True) -> None:
        self.settings = settings
        self.say = print if say else (lambda *_, **__: None)
        self.own: OwnServer | None = None
        self.web: subprocess.Popen[bytes] | None = None
        self.logger: subprocess.Popen[bytes] | None = None
        self.address = ""
        self.logger_port = 0

    def __enter__(self) -> Serving:
        try:
            self._start()
        except BaseException:
            self._stop()
            raise
        return self

    def __exit__(self, kind: type[BaseException] | None, value: BaseException | None, trace: TracebackType | None) -> None:
        self._stop()

    def _start(self) -> None:
        url = self.settings.database_url
        if url is None:
            self.own = OwnServer(self.settings.data)
            url = self.own.start()
        database = Database(url)
        try:
            database.migrate()
        except SQLAlchemyError as trouble:
            raise NoDatabase(
                f"the database cannot be used: {getattr(trouble, 'orig', trouble)}; look at DATABASE_URL and the rights of its user"
            ) from None
        database.dispose()
        self._start_logger()
        self._start_web(url)

    def _start_logger(self) -> None:
        """The simulated logger, on a port of its own."""
        with listen_on(range(self.settings.port + 1_000, self.settings.port + 1_200)) as listener:
            self.logger_port = listener.getsockname()[1]
            command = [sys.executable, "-m", "open_lemma.logger.serve", "fd", str(listener.fileno())]
            self.logger = subprocess.Popen(command, pass_fds=[listener.fileno()], start_new_session=True, preexec_fn=end_with_parent)

    def _start_web(self, url: str) -> None:
        usual = self.settings.port
        with listen_on(range(usual, usual + 200)) as listener:
            port = listener.getsockname()[1]
            if port != usual:
                self.say(f"Port {usual} is taken by another program; using {port}.")
            command = [
                sys.executable, "-m", "gunicorn", "--bind", f"fd://{listener.fileno()}", "--workers", "1", "--worker-class", "gthread",
                "--threads", str(THREADS), "--graceful-timeout", "2", "--timeout", "120", "--log-level", "warning", "--no-control-socket",
                "open_lemma.service.wsgi:application()",
            ]  # fmt: skip
            # Runs and their events live in the one worker; its threads serve pages while runs have processes of their own.
            environment = {
                **os.environ, "DATABASE_URL": url, "OPEN_LEMMA_DATA": str(self.settings.data),
                "OPEN_LEMMA_LOGGER_PORT": str(self.logger_port),
            }  # fmt: skip
            self.web = subprocess.Popen(
                command, pass_fds=[listener.fileno()], env=environment, start_new_session=True, preexec_fn=end_with_parent
            )
        self.address = f"http://localhost:{port}"
        self._wait_ready(port)

    def _wait_ready(self, port: int) -> None:
        assert self.web is not None
        deadline = time.monotonic() + READY_S
        while time.monotonic() < deadline:
            if self.web.poll() is not None:
                raise RuntimeError("the web server ended while starting; its messages are above")
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/session", timeout=2):
                    return
            except (urllib.error.URLError, OSError):
                time.sleep(0.05)
        raise RuntimeError(f"the web server did not answer within {READY_S:g} s")

    def wait(self) -> int:
        """Until the web server ends by itself."""
        assert self.web is not None
        return self.web.wait()

    def _stop(self) -> None:
        web, self.web = self.web, None
        end(web, STOP_S)
        logger, self.logger = self.logger, None
        end(logger, STOP_S)
        own, self.own = self.own, None
        if own is not None:
            own.stop()


class AlreadyRunning(RuntimeError):
    """Another process serves from the same data folder."""


def _lock(data: Path) -> IO[str]:
    """Hold the data folder for this process; raises AlreadyRunning with the address of the one that holds it."""
    data.mkdir(parents=True, exist_ok=True)
    file = (data / "serving").open("a+", encoding="ascii")
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
    # Ctrl-C too: a shell that starts this in the background tells it to ignore that.
    signal.signal(signal.SIGINT, _interrupt)
    signal.signal(signal.SIGTERM, _interrupt)
    signal.signal(signal.SIGHUP, _interrupt)
    try:
        settings = Settings.from_environment()
        with _lock(settings.data) as lock, Serving(settings) as serving:
            lock.write(serving.address)
            lock.flush()
            print(f"Open Lemma is ready: {serving.address}")
            print(f"A simulated logger answers on port {serving.logger_port}.\nCtrl-C stops it; all work is kept.", flush=True)
            serving.wait()
            print("The web server ended by itself.", file=sys.stderr)
            return 1
    except KeyboardInterrupt:
        print("\nStopped.", flush=True)
        return 0
    except AlreadyRunning as running:
        print(running)
        return 0
    except (BadSetting, NoDatabase, NoPort, RuntimeError) as trouble:
        print(f"Open Lemma cannot start: {trouble}", file=sys.stderr)
        return 1


if __name__ == "__main__":
    sys.exit(main())
