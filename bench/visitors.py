"""People at a server, as the scripts that measure it need them: over HTTP, with a session, a folio, runs that are followed to their end."""

from __future__ import annotations

import http.client
import os
import signal
import subprocess
import sys
import time
import urllib.error
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pymysql
from tests.web.client import Answer, Client


class Visitor:
    """Somebody with a browser, on a server that may be away: nothing is asked before `arrive`."""

    def __init__(self, port: int, seconds: float = 150) -> None:
        self.port, self.seconds = port, seconds
        self.client: Client | None = None
        self.folio: dict[str, Any] = {}

    def arrive(self) -> None:
        self.client = Client(f"http://localhost:{self.port}", self.seconds)

    def ask(self, method: str, path: str, body: Any = None) -> Answer:
        if self.client is None:
            self.arrive()
        assert self.client is not None
        return self.client.change(method, path, body)

    def begin(self, title: str) -> None:
        answer = self.ask("POST", "/api/folios", {"title": title, "script": ""})
        if answer.status == 201:
            self.folio = answer.json

    @property
    def at(self) -> str:
        return f"/api/folios/{self.folio['id']}"

    def save(self, script: str) -> Answer:
        answer = self.ask("PATCH", self.at, {"script": script, "version": self.folio["version"]})
        if answer.status == 200:
            self.folio["version"] = answer.json["version"]
        return answer

    def run(self, script: str) -> tuple[Answer, dict[str, Any]]:
        """Run a script; how it was answered, and its last event."""
        answer = self.ask("POST", f"{self.at}/runs", {"script": script, "version": self.folio["version"]})
        if "version" in answer.json:
            self.folio["version"] = answer.json["version"]
        return answer, self.last_event(answer.json["run_id"]) if answer.status == 201 else {}

    def last_event(self, run: str) -> dict[str, Any]:
        """The last event of a run; taken up again where the connection breaks, as a browser does."""
        assert self.client is not None
        seen = 0
        for _ in range(60):
            try:
                for event in self.client.events(run, seen):
                    seen += 1
                    if event["event"] in ("done", "failed"):
                        return event
            except urllib.error.HTTPError as refused:
                refused.close()
                if refused.code == 404:
                    return {"event": "failed", "reason": "gone"}
            except (OSError, http.client.HTTPException):
                pass
            time.sleep(0.2)
        return {"event": "failed", "reason": "lost"}


@contextmanager
def server(folder: Path, port: int, **settings: str) -> Iterator[subprocess.Popen[bytes]]:
    """The whole application with its data in a folder, as `./start` starts it."""
    environment = {**os.environ, "OPEN_LEMMA_DATA": str(folder), "OPEN_LEMMA_PORT": str(port), "OPEN_LEMMA_DEMO": "no", **settings}
    environment.pop("DATABASE_URL", None)
    process = subprocess.Popen(
        [sys.executable, "-m", "open_lemma.service.serve"], env=environment, stdout=subprocess.DEVNULL, start_new_session=True
    )
    try:
        deadline = time.monotonic() + 120
        while not _ready(port):
            if process.poll() is not None or time.monotonic() > deadline:
                raise SystemExit("the server did not start")
            time.sleep(0.1)
        yield process
    finally:
        process.send_signal(signal.SIGTERM)
        process.wait(40)


def _ready(port: int) -> bool:
    try:
        return Visitor(port, 2).ask("GET", "/api/ready").status == 200
    except (OSError, http.client.HTTPException):
        return False


def family(pid: int) -> dict[int, str]:
    """A process and all that it started, with what each is."""
    found = {pid: _what(pid)}
    for task in Path(f"/proc/{pid}/task").glob("*/children"):
        try:
            for child in task.read_text(encoding="ascii").split():
                found |= family(int(child))
        except OSError:
            continue
    return found


def _what(pid: int) -> str:
    try:
        words = Path(f"/proc/{pid}/cmdline").read_bytes().decode(errors="replace").split("\0")
    except OSError:
        return "gone"
    if "mariadbd" in words[0]:
        return "database"
    return next((w.removeprefix("open_lemma.") for w in words if w.startswith("open_lemma.")), words[0])


def memory_mb(pid: int) -> float:
    """Memory of a process and all that it started, shared pages counted once for each share (proc(5), smaps_rollup, Pss)."""
    total = 0
    for member in family(pid):
        try:
            for line in Path(f"/proc/{member}/smaps_rollup").read_text(encoding="ascii").splitlines():
                if line.startswith("Pss:"):
                    total += int(line.split()[1])
        except OSError:
            continue
    return total / 1024


def database_of(folder: Path) -> pymysql.Connection[Any]:
    """The database of a server with its data in a folder, asked by other means than the server's."""
    port = int((folder / "port").read_text(encoding="ascii"))
    password = (folder / "password").read_text(encoding="ascii").strip()
    return pymysql.connect(host="127.0.0.1", port=port, user="open_lemma", password=password, database="open_lemma")


def percentile(values: list[float], share: float) -> float:
    """The value that so large a share of all do not exceed (nearest rank)."""
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, int(share * len(ordered)))] if ordered else float("nan")
