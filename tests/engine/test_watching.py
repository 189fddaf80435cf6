"""What is watched is started again, soon at first and less soon where that does not help; folders are gone with their processes."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import pytest

from open_lemma.engine import watching
from open_lemma.engine.folder import OwnedFolder, sweep
from open_lemma.engine.watching import Watch
from tests.conftest import until


def sleeper() -> subprocess.Popen[bytes]:
    return subprocess.Popen([sys.executable, "-c", "import sys; sys.stdin.read()"], stdin=subprocess.PIPE)


def test_what_ends_is_started_again_and_all_end_together() -> None:
    watch = Watch()
    watched = watch.add("a sleeper", sleeper)
    first = watched.process
    assert first is not None
    first.kill()
    until(lambda: watched.process is not None and watched.process is not first, "another")
    assert watched.restarts == 1
    second = watched.process
    assert second is not None
    watch.end()
    assert second.poll() == 0
    assert watched.process is None


def test_what_cannot_be_started_is_tried_less_and_less_often(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(watching, "PAUSES_S", (0.0, 0.1, 0.4, 5.0))
    starts: list[float] = []

    def failing() -> subprocess.Popen[bytes]:
        starts.append(time.monotonic())
        if len(starts) > 1:
            raise OSError("no room")
        return subprocess.Popen([sys.executable, "-c", ""])

    watch = Watch()
    watched = watch.add("it fails", failing)
    until(lambda: len(starts) >= 3, "three tries")
    time.sleep(0.6)
    assert len(starts) <= 4
    assert watched.trouble == "no room"
    watch.end()


def test_one_that_does_not_heed_is_killed(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(watching, "PATIENCE_S", 0.3)
    watch = Watch()
    watched = watch.add("deaf", lambda: subprocess.Popen([sys.executable, "-c", "import time; time.sleep(60)"], stdin=subprocess.PIPE))
    process = watched.process
    assert process is not None
    watch.end()
    assert process.returncode == -signal.SIGKILL


def test_a_folder_is_gone_with_its_process_however_that_ended(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
    mine = OwnedFolder()
    (mine.path / "bytes of a user").write_bytes(b"x")
    words = (
        f"import tempfile; tempfile.tempdir = {str(tmp_path)!r}\n"
        "from open_lemma.engine.folder import OwnedFolder\n"
        "made = OwnedFolder(); (made.path / 'left').write_bytes(b'x'); print(made.path, flush=True); input()"
    )
    other = subprocess.Popen([sys.executable, "-c", words], stdout=subprocess.PIPE, stdin=subprocess.PIPE, text=True)
    assert other.stdout is not None
    theirs = Path(other.stdout.readline().strip())
    sweep()
    assert theirs.is_dir()  # of one that lives nothing is taken
    assert mine.path.is_dir()
    os.kill(other.pid, signal.SIGKILL)
    other.wait()
    (tmp_path / "open-lemma-elses").mkdir()  # without an owner it is somebody else's
    sweep()
    assert not theirs.exists()
    assert mine.path.is_dir()
    assert (tmp_path / "open-lemma-elses").is_dir()
    mine.close()
    assert not mine.path.exists()
    for pipe in (other.stdin, other.stdout):
        assert pipe is not None
        pipe.close()
