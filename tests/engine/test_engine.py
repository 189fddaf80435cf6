"""Runs in forked children: events, limits, death, and a warm process that lives through all of it."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import pytest

from open_lemma.core.figure.model import to_text
from open_lemma.core.run.execute.interpreter import run
from open_lemma.engine import local
from open_lemma.engine.local import EngineBusy, JobFailed, LocalEngine, LocalRun
from open_lemma.engine.protocol import Job, Limits, job_from, job_line

# Seconds each, and hardly any output: it is the time that ends them.
SLOW = "\n".join(f"integral of sin(1/(x - {k})) for x from {k} to {k + 1}" for k in range(60))


def finish(last: dict[str, Any], _: list[dict[str, Any]]) -> dict[str, Any]:
    return last


def events_of(begun: LocalRun) -> list[dict[str, Any]]:
    return [event for _, event in begun.listen() if event is not None]


@pytest.fixture
def strict() -> Any:
    """An engine with tight limits."""
    made = LocalEngine(Limits(seconds=4, memory_mb=300, output_mb=1))
    made.start()
    yield made
    made.close()


def test_a_job_goes_over_the_wire_unchanged() -> None:
    job = Job("draw", Limits(1.5, 2, 3), script='α\n"', part=None, figure="{}", format="png", dpi=600, grey=True)
    assert job_from(job_line(job)) == job


def test_limits_come_from_the_environment(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("OPEN_LEMMA_RUN_SECONDS", "2.5")
    monkeypatch.setenv("OPEN_LEMMA_RUN_MEMORY_MB", "77")
    assert Limits.from_environment() == Limits(seconds=2.5, memory_mb=77)


def test_events_in_order_and_the_record_last(engine: LocalEngine) -> None:
    events = events_of(engine.run("show 1 + 1\ncurve of sin(x) for x from 0 to 6\nroots of cos(x) for x from 0 to 9", finish))
    kinds = [e["event"] for e in events if e["event"] != "progress"]
    assert kinds == ["finding", "figure", "finding", "names", "done"]
    record = events[-1]["record"]
    direct = run("show 1 + 1\ncurve of sin(x) for x from 0 to 6\nroots of cos(x) for x from 0 to 9")
    assert record["findings"] == [f.as_record() for f in direct.findings]
    figure = next(e for e in events if e["event"] == "figure")
    assert figure["data"] == to_text(direct.figures[0].data)


def test_a_kept_figure_is_drawn_in_other_formats(engine: LocalEngine) -> None:
    data = to_text(run("curve of sin(x) for x from 0 to 6").figures[0].data)
    assert engine.draw(data, "pdf", 300, False).startswith(b"%PDF")
    assert engine.draw(data, "png", 600, True).startswith(b"\x89PNG")
    with pytest.raises(JobFailed):
        engine.draw("no figure", "pdf", 300, False)


def test_too_long_ends_with_a_message(strict: LocalEngine) -> None:
    start = time.monotonic()
    last = events_of(strict.run(SLOW, finish))[-1]
    assert (last["event"], last["reason"]) == ("failed", "time")
    assert "4 s" in last["text"]
    assert time.monotonic() - start < 10
    assert events_of(strict.run("show 2", finish))[-1]["event"] == "done"


def test_too_much_memory_ends_with_a_message(strict: LocalEngine) -> None:
    script = "\n".join(f"xs_{k} = (0 to 1 count 5000000)*{k + 1}" for k in range(30))
    last = events_of(strict.run(script, finish))[-1]
    told = last["text"] if last["event"] == "failed" else " ".join(m["text"] for m in last["record"]["messages"])
    assert "memory" in told or "too large" in told
    assert events_of(strict.run("show 2", finish))[-1]["event"] == "done"


def test_too_much_output_ends_with_a_message(strict: LocalEngine) -> None:
    script = "\n".join(f"show (0 to 1 count 1000)*{k + 1}" for k in range(200))
    last = events_of(strict.run(script, finish))[-1]
    assert (last["event"], last["reason"]) == ("failed", "output")
    assert "1 MB" in last["text"]


def test_stopping(engine: LocalEngine) -> None:
    begun = engine.run(SLOW, finish)
    time.sleep(0.3)
    begun.stop()
    assert events_of(begun)[-1]["reason"] == "stopped"
    begun.stop()  # once more does no harm


def test_a_child_that_dies_is_told_and_the_next_run_works(engine: LocalEngine) -> None:
    begun = engine.run(SLOW, finish)
    assert engine.process is not None
    child = wait_for_child(engine.process.pid)
    os.kill(child, signal.SIGSEGV)
    last = events_of(begun)[-1]
    assert (last["event"], last["reason"]) == ("failed", "died")
    assert events_of(engine.run("show 2", finish))[-1]["event"] == "done"


def wait_for_child(parent: int) -> int:
    for _ in range(200):
        with open(f"/proc/{parent}/task/{parent}/children", encoding="ascii") as children:
            found = children.read().split()
        if found:
            return int(found[0])
        time.sleep(0.02)
    raise AssertionError("no child was started")


def test_the_warm_process_is_started_again_if_it_should_end(engine: LocalEngine) -> None:
    assert engine.process is not None
    engine.process.kill()
    engine.process.wait()
    assert events_of(engine.run("show 2", finish))[-1]["event"] == "done"


def test_runs_at_once_are_limited_and_do_not_mix(engine: LocalEngine) -> None:
    begun = [engine.run(f"{SLOW}\nshow {k}", finish) for k in range(8)]
    with pytest.raises(EngineBusy):
        engine.run("show 1", finish)
    for slow in begun:
        slow.stop()
    assert {events_of(slow)[-1]["reason"] for slow in begun} == {"stopped"}
    results = [events_of(engine.run(f"show {k}", finish))[-1]["record"]["findings"][0]["values"][0]["value"] for k in range(5)]
    assert results == [0, 1, 2, 3, 4]


def test_a_record_that_cannot_be_kept_is_told(engine: LocalEngine, capsys: pytest.CaptureFixture[str]) -> None:
    def broken(last: dict[str, Any], _: list[dict[str, Any]]) -> dict[str, Any]:
        raise ConnectionError(last["event"])

    import threading

    hook, threading.excepthook = threading.excepthook, lambda _: None
    try:
        assert events_of(engine.run("show 2", broken))[-1]["reason"] == "store"
    finally:
        threading.excepthook = hook
    capsys.readouterr()


def test_a_child_can_write_no_files(engine: LocalEngine) -> None:
    """The limit on file sizes is set before a script is looked at."""
    begun = engine.run(SLOW, finish)
    assert engine.process is not None
    child = wait_for_child(engine.process.pid)
    limit = ""
    for _ in range(100):
        with open(f"/proc/{child}/limits", encoding="ascii") as limits:
            limit = next(line for line in limits if line.startswith("Max file size"))
        if limit.split()[3] == "0":
            break
        time.sleep(0.02)
    assert limit.split()[3] == "0"
    begun.stop()
    events_of(begun)


def test_what_is_compiled_needs_no_file(tmp_path: Path) -> None:
    """A run may not write files: where Numba could not keep what it compiled, the first run of a folio ended with a fault of ours."""
    environment = {**os.environ, "NUMBA_CACHE_DIR": str(tmp_path)}
    script = (
        "import resource\n"
        "from open_lemma.core import compiled\n"
        "from open_lemma.core.run.execute.interpreter import run\n"
        "if {ready}:\n    compiled.keep_no_more()\n"
        "resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))\n"
        "def told(trouble, line, digest):\n    print(type(trouble).__name__)\n"
        "run('bed(x, y) = interpolation of [1, 2, 3, 5] against ([0, 1, 0, 1], [0, 0, 1, 1]), by thin-plate\\n"
        "show bed(0.5, 0.5)', on_fault=told)\n"
    )

    def said(ready: bool) -> str:
        words = [sys.executable, "-c", script.replace("{ready}", str(ready))]
        return subprocess.run(words, capture_output=True, text=True, env=environment, check=True).stdout.strip()

    assert said(False) == "OSError"  # so it was, and the limit is real
    assert said(True) == ""


def test_a_fault_of_ours_goes_to_the_log_of_who_asked(caplog: pytest.LogCaptureFixture, engine: LocalEngine) -> None:
    """It comes over the wire: the child may write no file, and its own log may be one."""
    line = b'{"event": "fault", "text": "fault of ours: line 3, statement 0a: KeyError"}\n'
    assert local._event(line) is None
    assert "line 3" in caplog.text
    with pytest.raises(JobFailed, match="our fault"):
        engine.draw("no figure at all", "pdf")
    assert "JSONDecodeError" in caplog.text


def test_all_that_is_compiled_is_compiled_before_the_first_run() -> None:
    words = (
        "from open_lemma.core import compiled\nfrom open_lemma.engine.warm import preload\npreload()\n"
        "print(*[f.__name__ for f in compiled._ALL if not f.signatures])\nprint(len(compiled._ALL))"
    )
    done = subprocess.run([sys.executable, "-c", words], capture_output=True, text=True, check=True)
    missing, count = done.stdout.split("\n")[:2]
    assert missing in ("", "_covered")  # that one is part of another
    assert int(count) >= 4
