"""What is kept from one run to the next, and the walk through a run."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
import pytest

from open_lemma.core.run.execute.interpreter import run, stop_conditions
from open_lemma.core.run.execute.outcome import Outcome
from open_lemma.core.run.memory import Memory
from open_lemma.core.run.tables import FileColumn, FileTable
from open_lemma.core.run.trace import MAX_STEPS, Trace

SCRIPT = """part "One"
a = 2
f(x) = sin(a*x) - x/4
r = roots of f(x) for x from 0 to 9
part "Two"
b = 3
s = 0
for k from 1 to 3:
    s = s + k
    show s
check r[1] = 0
figure wave:
    curve of sin(b*x) for x from 0 to 3
"""


def again(script: str, memory: Memory) -> tuple[Outcome, Memory]:
    """Run with what was kept; every statement counts as slow, so that all of it is kept."""
    ticks = itertools.count()
    fresh = Memory(lambda: float(next(ticks)), memory.packed() if memory.fresh else {})
    return run(script, memory=fresh), fresh


def records(outcome: Outcome) -> Any:
    return [f.as_record() for f in outcome.findings], [
        (f.data.name, f.data.line, [(s.line, s.y.tolist()) for s in f.data.series]) for f in outcome.figures
    ]


CHANGES = [
    ("a = 2", "a = 2", [2, 3, 4, 6, 7, 8, 11, 12]),  # nothing: all is used again
    ("a = 2", "a = 5/2", [6, 7, 8, 12]),  # f, the roots and the check rest on a
    ("b = 3", "b = 4", [2, 3, 4, 7, 8, 11]),
    ("s + k", "s + 2*k", [2, 3, 4, 6, 7, 11, 12]),
    ('part "One"\n', 'part "One"\n# a line more\n\n', [4, 5, 6, 8, 9, 10, 13, 14]),
    ("s = 0", "s = 1", [2, 3, 4, 6, 11, 12]),
]


@pytest.mark.parametrize(("old", "new", "reused"), CHANGES)
def test_a_change_works_out_anew_what_rests_on_it_and_nothing_else(old: str, new: str, reused: list[int]) -> None:
    _, memory = again(SCRIPT, Memory(float))
    script = SCRIPT.replace(old, new)
    outcome, _ = again(script, memory)
    assert outcome.reused == reused
    assert records(outcome) == records(run(script))
    assert {n: repr(outcome.names.find(n)) for n in "absr"} == {n: repr(run(script).names.find(n)) for n in "absr"}


def test_a_mistake_makes_what_rests_on_it_new() -> None:
    _, memory = again(SCRIPT, Memory(float))
    outcome, memory = again(SCRIPT.replace("a = 2", "a = 1/0"), memory)
    assert [f.noun for f in outcome.findings] == ["show"]
    outcome, _ = again(SCRIPT, memory)
    assert records(outcome) == records(run(SCRIPT))


def test_what_holds_a_block_of_the_script_is_worked_out_anew() -> None:
    script = "define d(x):\n    return 2x\nf(x) = d(x) + 1\nshow f(3)\nfs = [d(k) for k from 1 to 3]\nshow fs"
    _, memory = again(script, Memory(float))
    outcome, memory = again(script, memory)
    assert records(outcome) == records(run(script))
    changed, _ = again(script.replace("2x", "3x"), memory)
    assert [f.rows[0]["value"] for f in changed.findings] == [10, [3, 6, 9]]


def test_what_cannot_be_read_any_more_is_worked_out_anew() -> None:
    _, memory = again(SCRIPT, Memory(float))
    spoiled = Memory(lambda: 0.0, dict.fromkeys(memory.packed(), b"spoiled"))
    assert records(run(SCRIPT, memory=spoiled)) == records(run(SCRIPT))


def test_a_table_from_a_file_is_read_again_when_the_file_changed() -> None:
    script = 'table t from "t.csv"\nshow sum(t.a)'
    first = Memory(float, tables={"t.csv": "1"})
    ticks = itertools.count()
    first.clock = lambda: float(next(ticks))

    def file(*values: float) -> FileTable:
        return FileTable([FileColumn("a", np.array(values))], "")

    run(script, tables={"t.csv": file(1, 2)}.get, memory=first)
    for fingerprint, expected in (("1", 3.0), ("2", 5.0)):
        memory = Memory(lambda: 0.0, first.packed(), tables={"t.csv": fingerprint})
        assert run(script, tables={"t.csv": file(5)}.get, memory=memory).findings[0].rows[0]["value"] == expected


# ---------------------------------------------------------------- walk


def walked(script: str, stops: list[tuple[int, str | None]] | None = None) -> dict[str, Any]:
    trace = Trace(stop_conditions(stops or []))
    run(script, trace=trace)
    return trace.as_record()


def set_by(step: dict[str, Any]) -> dict[str, str]:
    return {v["name"]: v["text"] for v in step["set"]}


def names_at(steps: list[dict[str, Any]], place: int, depth: int = 0) -> dict[str, str]:
    """The names of the script, or of an open call, after a step, by what each step changed."""
    found: dict[str, str] = {}
    for step in steps[: place + 1]:
        found |= {v["name"]: v["text"] for v in step["set"] if v["depth"] == depth}
        for gone in step.get("gone", []):
            if gone["depth"] == depth:
                found.pop(gone["name"], None)
    return found


def test_each_statement_is_a_step_with_what_it_changed() -> None:
    steps = walked("a = 1\nfor k from 1 to 2:\n    a = a + k\nif a > 3:\n    b = 2\nshow a")["steps"]
    assert [(s["line"], set_by(s).get("a"), set_by(s).get("k")) for s in steps] == [
        (1, "1", None), (2, None, "1"), (3, "2", None), (2, None, "2"), (3, "4", None), (2, None, None), (4, None, None), (5, None, None),
        (4, None, None), (6, None, None),
    ]  # fmt: skip
    assert names_at(steps, 4) == {"a": "4", "k": "2"}
    assert names_at(steps, len(steps) - 1) == {"a": "4"}
    assert steps[6]["note"] == "holds"


def test_calls_are_gone_into() -> None:
    steps = walked("define f(n):\n    if n < 1:\n        return 0\n    m = n - 1\n    return n + f(m)\nshow f(2)")["steps"]
    assert max(s.get("depth", 0) for s in steps) == 3
    assert [s["note"] for s in steps if s["line"] == 5] == ["gives 1", "gives 3"]
    inside = [s for s in steps if s.get("call") == "f"]
    last_call = max(k for k, s in enumerate(steps) if s.get("depth") == 3)
    assert names_at(steps, last_call - 1, 3) == {"n": "0"}
    assert names_at(steps, last_call, 3) == {}
    assert set_by(inside[0])["n"] == "2"


def test_figures_grow_step_by_step() -> None:
    script = "figure a:\n    curve of x for x from 0 to 1\n    for k from 1 to 2:\n        curve of k*x^2 for x from 0 to 1\n    legend top"
    steps = walked(script)["steps"]
    assert [(s["line"], s["drawn"]) for s in steps if s.get("figure") == "a" and "drawn" in s][:4] == [(2, 1), (3, 1), (4, 2), (3, 2)]


def test_stops_with_conditions() -> None:
    steps = walked("for k from 1 to 2:\n    a = k^2", [(1, None), (2, "nonsense ((")])["steps"]
    assert {s["line"] for s in steps if s.get("stop")} == {1}
    steps = walked("for k from 1 to 5:\n    a = k^2", [(2, "k > 3")])["steps"]
    assert [set_by(s)["a"] for s in steps if s.get("stop")] == ["16", "25"]


def test_a_long_walk_is_thinned_and_still_adds_up() -> None:
    script = "s = 0\nfor k from 1 to 20000:\n    s = s + k\nshow s"
    found = walked(script, [(3, "k = 12345")])
    assert found["thinned"]
    assert found["seen"] > 40_000
    assert len(found["steps"]) <= MAX_STEPS
    assert names_at(found["steps"], len(found["steps"]) - 1) == {"s": str(20000 * 20001 // 2)}
    assert [s["line"] for s in found["steps"] if s.get("stop")] == [3]


def test_tracing_changes_nothing() -> None:
    trace = Trace()
    assert records(run(SCRIPT, trace=trace)) == records(run(SCRIPT))


def test_values_for_the_names_sheet() -> None:
    script = "\n".join([
        "n = 1/3", "g = 9.81 [m/s^2]", "xs = [1, gap, 3] [m]", "ps = [(1, 2), (3, 4)]", 't = "abc"', "p = (1, 2)",
        "f(x) = x", "yes = 1 < 2",
        "r = roots of x^2 - 4 for x from -5 to 5", "table b:", "    h [m]  name", '    1      "a"', "define d(x):", "    return x",
    ])  # fmt: skip
    seen = {n["name"]: n for n in run(script).names_seen()}
    assert seen["n"] == {"name": "n", "kind": "number", "text": "1/3 = 0.333333333333"}
    assert seen["g"]["unit"] == "m s⁻²"
    assert seen["xs"] == {"name": "xs", "kind": "list", "text": "[1, gap, 3]", "size": 3, "head": ["element"],
                          "rows": [["1"], ["gap"], ["3"]],
                          "low": 1.0, "high": 3.0, "unit": "m"}  # fmt: skip
    assert seen["ps"]["rows"] == [["1", "2"], ["3", "4"]]
    assert seen["b"]["head"] == ["h [m]", "name"]
    assert {n: s["kind"] for n, s in seen.items() if n in "tpfd"} == {"t": "text", "p": "point", "f": "function", "d": "function"}
    assert seen["r"]["text"] == "[−2, 2]"
    assert seen["yes"]["text"] == "true"
