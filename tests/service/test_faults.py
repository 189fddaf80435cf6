"""Whatever is killed is back by itself, what was confirmed is there, and what is away meanwhile is said in a sentence."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from open_lemma.service.ports import free_port
from open_lemma.service.serve import NoFolder, Serving, _lock
from open_lemma.service.settings import Settings
from open_lemma.web.disk import Disk
from tests.conftest import until
from tests.web.client import Answer, Client


@pytest.fixture(scope="module")
def alone(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Serving]:
    """An application with a database server of its own."""
    os.environ["OPEN_LEMMA_DEMO"] = "no"
    folder = tmp_path_factory.mktemp("alone")
    (folder / "mariadb").mkdir()
    (folder / "mariadb").rmdir()
    try:
        with Serving(Settings(free_port(range(19000, 19900)), folder, None, ()), say=False) as serving:
            yield serving
    finally:
        del os.environ["OPEN_LEMMA_DEMO"]


def pid_of(serving: Serving, name: str) -> int | None:
    """None while it is being started again."""
    process = next(w for w in serving.watch.all if w.name == name).process
    return None if process is None else process.pid


def process_of(serving: Serving, name: str) -> int:
    until(lambda: pid_of(serving, name) is not None)
    found = pid_of(serving, name)
    assert found is not None
    return found


def save(client: Client, folio: dict[str, int], script: str) -> Answer:
    return client.change("PATCH", f"/api/folios/{folio['id']}", {"script": script, "version": folio["version"]})


def test_a_database_that_is_killed_is_back_in_seconds_with_all_that_was_confirmed(alone: Serving) -> None:
    client = Client(alone.address)
    folio = client.folio("show 1")
    confirmed = folio["version"]
    for k in range(5):
        saved = save(client, folio, f"show {k}")
        folio["version"] = confirmed = saved.json["version"]
        os.kill(process_of(alone, "database"), signal.SIGKILL)
        told = client.get(f"/api/folios/{folio['id']}")
        if told.status != 200:
            assert (told.status, told.json["code"]) == (503, "database-away")
            assert "being started again" in told.json["message"]
        took = until(lambda: client.get(f"/api/folios/{folio['id']}").status == 200)
        assert took < 10
        found = client.get(f"/api/folios/{folio['id']}").json
        assert (found["version"], found["script"]) == (confirmed, f"show {k}")


@pytest.mark.parametrize("name", ["engine", "warm process", "web process 1", "web process 2", "logger"])
def test_any_other_process_that_is_killed_is_back_in_seconds(alone: Serving, name: str) -> None:
    client = Client(alone.address)
    folio = client.folio("show 1")
    os.kill(killed := process_of(alone, name), signal.SIGKILL)

    def works() -> bool:
        answer = client.post(f"/api/folios/{folio['id']}/runs", {"script": "show 3", "version": folio["version"]})
        if "version" in answer.json:
            folio["version"] = answer.json["version"]
        return answer.status == 201 and list(client.events(answer.json["run_id"]))[-1]["event"] == "done"

    assert until(works) < 10
    until(lambda: pid_of(alone, name) not in (None, killed))


def test_readiness_says_what_is_away(alone: Serving) -> None:
    client = Client(alone.address)
    until(lambda: client.get("/api/ready").status == 200)
    os.kill(database := process_of(alone, "database"), signal.SIGSTOP)
    os.kill(engine := process_of(alone, "engine"), signal.SIGKILL)
    try:
        assert client.get("/api/health").status == 200
    finally:
        os.kill(database, signal.SIGCONT)
    until(lambda: client.get("/api/ready").status == 200 and pid_of(alone, "engine") not in (None, engine))


def test_a_run_whose_record_waits_for_the_database_is_kept(alone: Serving) -> None:
    client = Client(alone.address)
    until(lambda: client.get("/api/ready").status == 200)
    folio = client.folio()
    script = "\n".join(f"integral of sin(1/(x - {k})) for x from {k} to {k + 1}" for k in range(8))
    begun = client.post(f"/api/folios/{folio['id']}/runs", {"script": script, "version": folio["version"]}).json
    os.kill(process_of(alone, "database"), signal.SIGKILL)
    last = list(client.events(begun["run_id"]))[-1]
    assert last["event"] == "done"
    assert last["number"] == 1
    until(lambda: len(client.get(f"/api/folios/{folio['id']}/records").json.get("records", [])) == 1)


# ---------------------------------------------------------------- the disk


def test_a_disk_is_told_of_before_it_is_full(tmp_path: Path) -> None:
    assert Disk().notice() == ""
    assert Disk(tmp_path, low=0, least=0).notice() == ""
    assert "almost full" in Disk(tmp_path, low=1 << 60, least=0).notice()
    full = Disk(tmp_path, low=1 << 60, least=1 << 60)
    assert "nothing can be saved" in full.notice()
    for method, path in (
        ("POST", "/api/folios"), ("PATCH", "/api/folios/3"), ("POST", "/api/folios/3/runs"), ("PUT", "/api/folios/3/tables/a.csv"),
        ("POST", "/api/folios/3/duplicate"), ("PATCH", "/api/folios/3/tables/a.csv"), ("POST", "/api/folios/3/logger/tables"),
    ):  # fmt: skip
        assert full.refuses(method, path)
    for method, path in (
        ("GET", "/api/folios/3"), ("DELETE", "/api/folios/3"), ("DELETE", "/api/folios/3/tables/a.csv"), ("POST", "/api/check"),
        ("POST", "/api/folios/3/previews"), ("POST", "/api/folios/3/walks"), ("POST", "/api/folios/3/tables/preview/a.csv"),
    ):  # fmt: skip
        assert not full.refuses(method, path)


@pytest.fixture
def small_disk(tmp_path: Path) -> Iterator[Path]:
    """A disk of 700 MB."""
    folder = tmp_path / "disk"
    folder.mkdir()
    if subprocess.run(["mount", "-t", "tmpfs", "-o", "size=700m", "tmpfs", str(folder)], capture_output=True, check=False).returncode:
        pytest.skip("only root can mount a disk")
    yield folder
    subprocess.run(["umount", "-l", str(folder)], check=True)


def test_on_a_full_disk_everything_is_read_and_nothing_is_lost(small_disk: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("OPEN_LEMMA_DEMO", "no")
    with Serving(Settings(free_port(range(19000, 19900)), small_disk / "data", None, ()), say=False) as serving:
        client = Client(serving.address)
        assert "almost full" in client.get("/api/session").json["notice"]
        folio = client.folio("show 1")
        free = shutil.disk_usage(small_disk).free
        (small_disk / "filler").write_bytes(bytes(free - 100_000_000))
        refused = save(client, folio, "show 2")
        assert (refused.status, refused.json["code"]) == (507, "disk-full")
        assert client.post(f"/api/folios/{folio['id']}/runs", {"script": "show 2", "version": folio["version"]}).status == 507
        assert client.get(f"/api/folios/{folio['id']}").json["script"] == "show 1"
        assert client.post("/api/check", {"script": "show 1"}).status == 200
        assert "nothing can be saved" in client.get("/api/ready").json["disk"]
        (small_disk / "filler").unlink()
        assert save(client, folio, "show 2").status == 200
        # Filled to the last byte by somebody else.
        (small_disk / "filler").write_bytes(bytes(shutil.disk_usage(small_disk).free - 4096))
        assert client.get(f"/api/folios/{folio['id']}").json["script"] == "show 2"


def test_a_folder_that_cannot_be_written_is_said_in_a_sentence(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x", encoding="ascii")
    with pytest.raises(NoFolder, match="nothing can be written into"):
        _lock(tmp_path / "file" / "data")
    environment = {**os.environ, "OPEN_LEMMA_DATA": "/proc/nowhere"}
    environment.pop("DATABASE_URL", None)
    done = subprocess.run([sys.executable, "-m", "open_lemma.service.serve"], env=environment, capture_output=True, text=True, check=False)
    assert done.returncode == 1
    assert done.stderr.startswith("Open Lemma cannot start: nothing can be written into /proc/nowhere")
    assert "Traceback" not in done.stderr


def test_a_disk_too_small_for_a_database_is_said_in_a_sentence(tmp_path: Path) -> None:
    folder = tmp_path / "tiny"
    folder.mkdir()
    if subprocess.run(["mount", "-t", "tmpfs", "-o", "size=60m", "tmpfs", str(folder)], capture_output=True, check=False).returncode:
        pytest.skip("only root can mount a disk")
    try:
        environment = {**os.environ, "OPEN_LEMMA_DATA": str(folder)}
        environment.pop("DATABASE_URL", None)
        words = [sys.executable, "-m", "open_lemma.service.serve"]
        done = subprocess.run(words, env=environment, capture_output=True, text=True, check=False)
        assert done.returncode == 1
        assert "MB free, and a new database takes 300 MB" in done.stderr
        assert "Traceback" not in done.stderr
    finally:
        subprocess.run(["umount", "-l", str(folder)], check=True)
