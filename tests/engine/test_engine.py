"""Jobs in processes of their own: events, limits, death, and an engine that lives through all of it."""

from __future__ import annotations

import asyncio
import os
import signal
import subprocess
import sys
import time
from contextlib import suppress
from pathlib import Path

import pytest

from open_lemma.core.figure.model import to_text
from open_lemma.core.run.execute.interpreter import run
from open_lemma.engine.asking import Engine, Event, JobFailed
from open_lemma.engine.protocol import Job, Limits
from tests.conftest import until
from tests.engine.conftest import Machine, events_of

# Seconds each, and hardly any output: it is the time that ends them.
SLOW = "\n".join(f"integral of sin(1/(x - {k})) for x from {k} to {k + 1}" for k in range(60))


def last_of(events: list[Event]) -> Event:
    return events[-1]


def test_limits_come_from_the_environment(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("OPEN_LEMMA_RUN_SECONDS", "2.5")
    monkeypatch.setenv("OPEN_LEMMA_RUN_MEMORY_MB", "77")
    assert Limits.from_environment() == Limits(seconds=2.5, memory_mb=77)
    assert (Limits(seconds=2.5).seconds_on_the_clock, Limits(seconds=20).seconds_on_the_clock) == (60, 100)


def test_a_job_goes_as_a_message_and_back() -> None:
    job = Job("draw", Limits(1.5, 2, 3), {"figure": b"\0{}", "format": "png", "dpi": 600}, {"a.csv": b"1"}, b"m", {"file": "/x"}, "/y")
    assert Job.from_message(job.as_message()) == job


def test_events_in_order_and_the_record_last(machine: Machine) -> None:
    script = "show 1 + 1\ncurve of sin(x) for x from 0 to 6\nroots of cos(x) for x from 0 to 9"
    events = machine.run(script)
    # On a machine at work a run may wait at first.
    assert [e["event"] for e in events if e["event"] not in ("progress", "queued")] == ["finding", "figure", "finding", "names", "done"]
    direct = run(script)
    assert events[-1]["record"]["findings"] == [f.as_record() for f in direct.findings]
    figure = next(e for e in events if e["event"] == "figure")
    assert figure["svg"].startswith("<?xml")
    # What is kept of a figure does not go to those who only listen.
    assert "data" not in figure
    followed = list(machine.engine.follow(Job("run", machine.engine.limits, {"script": script})))
    assert next(e for e in followed if e["event"] == "figure")["data"] == to_text(direct.figures[0].data).encode()


def test_events_are_given_from_after_the_one_that_was_seen(machine: Machine) -> None:
    begun = machine.engine.run("show 1\nshow 2\nshow 3")
    events = events_of(machine.engine, begun)
    assert events_of(machine.engine, begun, 2) == events[2:]
    assert events_of(machine.engine, begun, 10_000) == []
    with pytest.raises(KeyError):
        events_of(machine.engine, "never-was")


def test_a_kept_figure_is_drawn_in_other_formats(machine: Machine) -> None:
    data = to_text(run("curve of sin(x) for x from 0 to 6").figures[0].data).encode()
    assert machine.engine.draw(data, "pdf", 300, False).startswith(b"%PDF")
    assert machine.engine.draw(data, "png", 600, True).startswith(b"\x89PNG")
    with pytest.raises(JobFailed, match="our fault"):
        machine.engine.draw(b"no figure", "pdf", 300, False)


def test_a_figure_is_read_turned_and_shown(machine: Machine) -> None:
    data = to_text(run("surface of x*y for x from 0 to 1, y from 0 to 1").figures[0].data).encode()
    assert machine.engine.turn(data, {"1": (10.0, 20.0)})["svg"].startswith(b"<?xml")
    assert machine.engine.scene(data)


def test_a_script_is_looked_at_without_a_run(machine: Machine) -> None:
    engine = machine.engine
    assert engine.quick("check", script="show 1 +")["messages"]
    assert engine.quick("next", script="f(x) = x^2")["lines"]
    assert engine.quick("uses", script='table t from "a.csv"\nshow mean(t."h")')["uses"] == {"a.csv": ["h"]}
    assert engine.quick("rename", script="a = 1\nshow a", line=1, column=1, name="b")["edits"]
    with pytest.raises(JobFailed, match="no such line"):
        engine.quick("rename", script="a = 1", line=9, column=1, name="b")


def test_a_script_of_many_mistakes_has_a_clock(machine: Machine) -> None:
    """24,000 lines of one mistake: an answer, or a sentence, within the seconds that such a look has."""
    with suppress(JobFailed):
        machine.engine.quick("check", script="f(x = \n" * 24_000)
    assert machine.engine.quick("check", script="show 1")["messages"] == []


def test_too_long_ends_with_a_message(strict: Machine) -> None:
    last = last_of(strict.run(SLOW))
    assert (last["event"], last["reason"]) == ("failed", "time")
    assert "4 s" in last["text"]
    assert last_of(strict.run("show 2"))["event"] == "done"


def test_too_much_memory_ends_with_a_message(strict: Machine) -> None:
    last = last_of(strict.run("\n".join(f"xs_{k} = (0 to 1 count 5000000)*{k + 1}" for k in range(30))))
    told = last["text"] if last["event"] == "failed" else " ".join(m["text"] for m in last["record"]["messages"])
    assert "memory" in told or "too large" in told
    assert last_of(strict.run("show 2"))["event"] == "done"


def test_too_much_output_ends_with_a_message(strict: Machine) -> None:
    last = last_of(strict.run("\n".join(f"show (0 to 1 count 1000)*{k + 1}" for k in range(200))))
    assert (last["event"], last["reason"]) == ("failed", "output")
    assert "1 MB" in last["text"]


def test_stopping(machine: Machine) -> None:
    begun = machine.engine.run(SLOW)
    time.sleep(0.3)
    assert machine.engine.stop(begun)
    assert last_of(events_of(machine.engine, begun))["reason"] == "stopped"
    machine.engine.stop(begun)  # once more does no harm
    assert not machine.engine.stop("never-was")


def test_a_stop_is_heeded_at_any_moment(machine: Machine) -> None:
    """Also where it comes before the run has begun to work: with much to carry there, that takes a while."""
    for k in range(10):
        begun = machine.engine.run(SLOW, tables={"large.csv": bytes(20_000_000)})
        time.sleep(k * 0.03)
        assert machine.engine.stop(begun)
        assert last_of(events_of(machine.engine, begun))["reason"] == "stopped"


def test_what_nobody_follows_any_more_is_stopped(machine: Machine) -> None:
    following = machine.engine.follow(Job("run", machine.engine.limits, {"script": SLOW}))
    next(following)
    before = machine.engine.state()["states"]
    following.close()  # type: ignore[attr-defined]
    for _ in range(100):
        after = machine.engine.state()["states"]
        if sum(after.values()) < sum(before.values()):
            break
        time.sleep(0.05)
    assert sum(after.values()) < sum(before.values())


def test_a_child_that_dies_is_told_and_the_next_run_works(machine: Machine) -> None:
    begun, child = machine.child_of_next(SLOW)
    os.kill(child, signal.SIGSEGV)
    last = last_of(events_of(machine.engine, begun))
    assert (last["event"], last["reason"]) == ("failed", "died")
    assert last_of(machine.run("show 2"))["event"] == "done"


def test_a_warm_process_that_is_killed_ends_its_runs_and_no_others(machine: Machine) -> None:
    begun, child = machine.child_of_next(SLOW)
    with open(f"/proc/{child}/stat", encoding="ascii") as stat:
        parent = int(stat.read().rpartition(")")[2].split()[1])
    os.kill(parent, signal.SIGKILL)
    last = last_of(events_of(machine.engine, begun))
    assert last["reason"] == "interrupted"
    assert "run it again" in last["text"]
    # The other one takes what comes meanwhile: nobody waits for the new one to be ready.
    assert last_of(machine.run("show 2"))["event"] == "done"
    for _ in range(400):
        if machine.engine.state()["warm"] == 2:
            break
        time.sleep(0.05)
    assert machine.engine.state()["warm"] == 2


def test_what_is_told_of_an_engine_is_told_of_all_machines(machine: Machine) -> None:
    assert last_of(machine.run("show 2"))["event"] == "done"
    here = machine.processes.engine().state()
    until(lambda: machine.engine.state()["seconds"].get("run", 0) >= here["seconds"]["run"], "what the machines tell")
    state = machine.engine.state()
    assert (state["in_force"], state["not_in_force"]) == (here["in_force"], sorted(here["not_in_force"]))
    assert state["in_force"]
    assert (state["warm"], state["room"] > 0) == (2, True)


def test_an_engine_that_is_killed_is_back_at_once(machine: Machine) -> None:
    watched = next(w for w in machine.processes.watch.all if w.name == "engine")
    assert watched.process is not None
    watched.process.kill()
    assert last_of(machine.run("show 2"))["event"] == "done"
    assert not list((machine.processes.folder / "files").iterdir())
    assert not list((machine.processes.folder / "scratch").iterdir())


def place_of(engine: Engine, run: str) -> int:
    """The first place in the queue that a run is told; 0 where it ends without."""

    async def told() -> int:
        async for _, event in engine.listen(run, 0):
            if event is not None and event["event"] == "queued":
                return int(event["place"])
        return 0

    return asyncio.run(told())


def test_more_than_there_is_room_for_waits_in_a_queue(machine: Machine) -> None:
    """Nobody is refused; one user's many runs do not hold up another's, and who waits is told the place."""
    begun = [machine.engine.run(f"{SLOW}\nshow {k}", who="one") for k in range(30)]
    assert last_of(machine.run("show 1", who="two"))["event"] == "done"
    assert sum(machine.engine.state()["states"].values()) > 20  # of the first one's, which came before, most are to be done
    assert place_of(machine.engine, begun[-1]) > 0
    for slow in begun:
        machine.engine.stop(slow)
    told = [events_of(machine.engine, slow) for slow in begun]
    assert {t[-1]["reason"] for t in told} == {"stopped"}
    places = [e["place"] for t in told for e in t if e["event"] == "queued"]
    assert places
    assert min(places) == 1
    results = [last_of(machine.run(f"show {k}"))["record"]["findings"][0]["values"][0]["value"] for k in range(5)]
    assert results == [0, 1, 2, 3, 4]


def test_what_a_run_knew_is_used_by_the_next_of_its_key(machine: Machine) -> None:
    script = "curve of exp(-x^2)*sin(9*x)^2 for x from 0 to 3"  # figures are worth keeping however quick this machine is
    machine.run(script, key="a folio")

    def reused() -> bool:
        return bool(next(e for e in machine.run(f"{script}\nshow 2", key="a folio") if e["event"] == "names")["reused"])

    # Where packing what is known takes too long, as on a busy machine, a run begins without.
    assert any(reused() for _ in range(5))
    assert not next(e for e in machine.run(script, key="another") if e["event"] == "names")["reused"]


def test_an_ended_run_is_kept_by_whoever_claims_it(machine: Machine) -> None:
    engine = machine.engine
    begun = engine.run("show 2\ncurve of x for x from 0 to 1", keep={"folio": 7})
    claim = engine.claim(20)
    assert claim is not None
    claimed = claim.claimed
    assert (claimed.run, claimed.keep, claimed.last["event"]) == (begun, {"folio": 7}, "done")
    assert claimed.figures[0]["data"]
    # Let go without being kept, it goes to whoever claims next.
    claim.close()
    again = engine.claim(20)
    assert again is not None
    assert again.claimed.run == begun
    again.kept({**claimed.last, "number": 5})
    again.close()
    assert last_of(events_of(engine, begun))["number"] == 5
    assert engine.claim(0.2) is None
    # Nobody is asked about a run that failed.
    engine.stop(stopped := engine.run(SLOW, keep={"folio": 7}))
    assert last_of(events_of(engine, stopped))["reason"] == "stopped"
    assert engine.claim(0.2) is None


def test_a_file_comes_in_as_a_table_and_goes_out(machine: Machine) -> None:
    engine = machine.engine
    with engine.place() as path:
        Path(path).write_bytes(b"h,q\n1,2\n3,4\n")
        look = engine.look_at_table(path, "a.csv")
        assert [c["name"] for c in look["columns"]] == ["h", "q"]
        found, columns = engine.read_table(path, "a.csv")
    assert found["rows"] == 2
    assert len(columns) == 2
    assert not Path(path).exists()
    with engine.place() as path:
        Path(path).write_bytes(bytes(100))
        with pytest.raises(JobFailed):
            engine.look_at_table(path, "a.xlsx")


def test_a_child_can_write_no_files(machine: Machine) -> None:
    """The limit on file sizes is set before a script is looked at."""
    begun, child = machine.child_of_next(SLOW)
    limit = ""
    for _ in range(100):
        with open(f"/proc/{child}/limits", encoding="ascii") as limits:
            limit = next(line for line in limits if line.startswith("Max file size"))
        if limit.split()[3] == "0":
            break
        time.sleep(0.02)
    assert limit.split()[3] == "0"
    machine.engine.stop(begun)


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


def test_all_that_is_compiled_is_compiled_before_the_first_run() -> None:
    words = (
        "from open_lemma.core import compiled\nfrom open_lemma.engine.warm import preload\npreload()\n"
        "print(*[f.__name__ for f in compiled._ALL if not f.signatures])\nprint(len(compiled._ALL))"
    )
    done = subprocess.run([sys.executable, "-c", words], capture_output=True, text=True, check=True)
    missing, count = done.stdout.split("\n")[:2]
    assert missing in ("", "_covered")  # that one is part of another
    assert int(count) >= 4
