"""Runs in forked children: events, limits, death, and a warm process that lives through all of it."""

from __future__ import annotations

import os
import signal
import time
from typing import Any

import pytest

from open_lemma.core.figure.model import to_text
from open_lemma.core.run.interpreter import run
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
