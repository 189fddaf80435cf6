"""`./start` after the installing: a database of its own, a port, the demo once, data that stay, nothing left behind."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
import threading
import time
import urllib.request
from pathlib import Path

import pytest

from open_lemma.service.demo import FOLIOS
from open_lemma.service.mariadb import NoDatabase, OwnServer
from open_lemma.service.ports import NoPort, free_port, listen_on
from open_lemma.service.settings import BadSetting, Settings, database_url
from tests.conftest import PROJECT


def started(data: Path, port: int, **more: str) -> tuple[subprocess.Popen[str], str, list[str]]:
    """The service as a process of its own; its address and what it said before."""
    environment = {**os.environ, "OPEN_LEMMA_DATA": str(data), "OPEN_LEMMA_PORT": str(port), **more}
    environment.pop("DATABASE_URL", None)
    process = subprocess.Popen(
        [sys.executable, "-m", "open_lemma.service.serve"], env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
    )
    said = []
    assert process.stdout is not None
    # A service that never gets ready must fail the test and not hold it.
    late = threading.Timer(300, process.kill)
    late.start()
    for line in process.stdout:
        said.append(line.strip())
        if "is ready" in line:
            late.cancel()
            return process, line.split()[-1], said
    late.cancel()
    raise AssertionError(said)


def ended(process: subprocess.Popen[str], how: signal.Signals = signal.SIGINT) -> None:
    process.send_signal(how)
    process.communicate(timeout=40)
    assert process.returncode == 0


DEMO = [title for _, title, _, _ in reversed(FOLIOS)]


def titles(address: str) -> list[str]:
    with urllib.request.urlopen(f"{address}/api/folios") as answer:
        return [f["title"] for f in json.load(answer)["folios"]]


def processes_with(word: str) -> list[str]:
    found = []
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            line = (folder / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
        except OSError:
            continue
        if word in line and str(os.getpid()) != folder.name:
            found.append(line)
    return found


def descendants(pid: int) -> list[int]:
    """Processes that a process started, and those that these started."""
    children = [int(c) for task in Path(f"/proc/{pid}/task").glob("*/children") for c in task.read_text(encoding="ascii").split()]
    return children + [d for c in children for d in descendants(c)]


def alive(pid: int) -> bool:
    """Whether a process runs; one that waits to be collected does not."""
    try:
        return Path(f"/proc/{pid}/stat").read_text(encoding="utf-8").rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def test_start_stop_and_start_again(tmp_path: Path) -> None:
    port = free_port(range(19000, 19900))
    process, address, _ = started(tmp_path, port)
    assert address == f"http://localhost:{port}"
    assert titles(address) == DEMO
    again = {**os.environ, "OPEN_LEMMA_DATA": str(tmp_path)}
    second = subprocess.run([sys.executable, "-m", "open_lemma.service.serve"], env=again, capture_output=True, text=True, check=False)
    assert second.returncode == 0
    assert f"already running at {address}" in second.stdout
    ended(process)
    assert not processes_with(str(tmp_path))
    # A busy port: the next one, and it is said. The data are there, the demo is not loaded again.
    with socket.socket() as other:
        other.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        other.bind(("127.0.0.1", port))
        other.listen()
        process, address, said = started(tmp_path, port)
        assert address != f"http://localhost:{port}"
        assert any(f"Port {port} is taken" in line for line in said)
        assert titles(address) == DEMO
        ended(process, signal.SIGTERM)
    assert not processes_with(str(tmp_path))
    assert (tmp_path / "password").stat().st_mode & 0o077 == 0
    assert (tmp_path / "secret").stat().st_mode & 0o077 == 0


def test_nothing_is_left_when_the_service_is_killed(tmp_path: Path) -> None:
    process, _, _ = started(tmp_path, free_port(range(19000, 19900)), OPEN_LEMMA_DEMO="no")
    family = descendants(process.pid)
    assert len(family) >= 4  # database, web server, its worker, the warm process
    process.kill()
    process.wait()
    assert process.stdout is not None
    for _ in range(150):
        if not any(alive(pid) for pid in family):
            break
        time.sleep(0.1)
    assert [pid for pid in family if alive(pid)] == []
    process.stdout.close()


def test_another_server_is_used_where_the_address_says_so(database_address: str, monkeypatch: pytest.MonkeyPatch) -> None:
    plain = database_address.replace("mysql+pymysql://", "mysql://")
    monkeypatch.setenv("DATABASE_URL", plain)
    assert database_url() == database_address
    monkeypatch.setenv("DATABASE_URL", plain.replace("mysql://", "mariadb://"))
    assert database_url() == database_address
    for bad in ("sqlite:///x", "just words"):
        monkeypatch.setenv("DATABASE_URL", bad)
        with pytest.raises(BadSetting, match="DATABASE_URL"):
            database_url()


def test_a_server_that_cannot_be_reached_is_said_in_one_sentence(tmp_path: Path) -> None:
    port = free_port(range(19000, 19900))
    environment = {**os.environ, "OPEN_LEMMA_DATA": str(tmp_path), "DATABASE_URL": f"mysql://nobody:x@127.0.0.1:{port}/none"}
    done = subprocess.run([sys.executable, "-m", "open_lemma.service.serve"], env=environment, capture_output=True, text=True, check=False)
    assert done.returncode == 1
    assert "Open Lemma cannot start: the database cannot be used" in done.stderr
    assert "Traceback" not in done.stderr


def test_settings_that_cannot_be_used(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.delenv("DATABASE_URL", raising=False)
    for bad in ("eighty", "0", "70000"):
        monkeypatch.setenv("OPEN_LEMMA_PORT", bad)
        with pytest.raises(BadSetting, match=bad):
            Settings.from_environment()


def test_ports() -> None:
    with listen_on(range(19000, 19900)) as first:
        taken = first.getsockname()[1]
        assert first.getsockname()[0] == "127.0.0.1"
        assert free_port([taken, taken + 1, taken + 2]) != taken
        with pytest.raises(NoPort, match=str(taken)):
            listen_on([taken])


def test_a_database_server_that_ends_while_starting_says_why(tmp_path: Path) -> None:
    (tmp_path / "mariadb" / "mysql").mkdir(parents=True)
    (tmp_path / "mariadb" / "ibdata1").write_bytes(b"no tables")
    with pytest.raises(NoDatabase, match=r"Its last words, from .*mariadb.log"):
        OwnServer(tmp_path).start()


def test_a_folder_with_spaces_and_a_very_long_name(tmp_path: Path) -> None:
    server = OwnServer(tmp_path / "a folder with spaces" / ("long" * 40))
    assert "@127.0.0.1" in server.start()
    server.stop()


def test_the_scripts_say_what_they_do() -> None:
    for name in ("start", "test", ".ci/run", "tools/prepare.sh"):
        assert subprocess.run(["bash", "-n", PROJECT / name], check=False).returncode == 0
    for name in ("start", "test", ".ci/run"):
        assert os.access(PROJECT / name, os.X_OK)
