"""The schemas of the record: every record that a run gives keeps to them, and nothing that does not is let through."""

from __future__ import annotations

import copy
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from jsonschema import Draft202012Validator

from open_lemma.core.figure.draw import draw
from open_lemma.core.record.rows import ROWS
from open_lemma.core.run.execute.interpreter import run, stop_conditions
from open_lemma.core.run.record import figure_record, record
from open_lemma.core.run.trace import Trace
from open_lemma.files.folder import tables_in
from open_lemma.web.record_schemas import record_schemas

DEMO = Path(__file__).resolve().parents[2] / "demo"
SCRIPT = """
f(x) = x^3 - x
roots of f(x) for x from -2 to 2
crossings of f(x) and x/4 for x from -2 to 2
extremes of f(x) for x from -2 to 2
lowest of f(x) for x from -2 to 2
inflections of f(x) for x from -2 to 2
solution of u^2 = 2 for u, digits 20
solution of x + y = 3, x - y = 1 for x, y
solution of a*x = b for x
solution of x^2 < 2 for x, digits 20
solution of sin(x) = 0 for x
limit of 1/x, at 0
limit of 1/x^2, at 0
integral of f(x) for x from 0 to 1, digits 20
sum of 1/k^2 for k from 1 to infinity
derivative of f(x) for x
minima of (x - 1)^2 + y^2 for x from -2 to 2, y from -2 to 2
centroid of x^2 for x from 0 to 1
values of f(x) for x from 0 to 1 step 0.5
show 1/3, [1, gap], "words", true, f
check f(2) = 6
for k from 1 to 3:
    show k/2
xs = [1, 2, 3, 4, 5, 6]
ys = [2.1, 3.9, 6.2, 7.8, 10.1, 12.2]
g(x) = fit of a + b*x to ys against xs for a, b
q(x) = fit of a + b*x + c*x^2 to ys against xs for a, b, c
compare g, q
s(x) = interpolation of ys against xs
roots of g(x) - 5 for x from 0 to 7
broken = 1 +
figure both "Two":
    curve of f(x), f'(x) for x from -2 to 2, label ["f", "f'"]
    points of ys against xs
    x axis "x / m" from -2 to 7
    legend top left
figure space:
    surface of x*y for x from -1 to 1, y from -1 to 1
"""


@cache
def against(name: str) -> Draft202012Validator:
    """What checks data against one of the schemas. Further properties are only those that a script names."""
    schemas = record_schemas()
    spread = {kind.__name__ for kind in ROWS if kind.__name__ in ("SolutionRow", "PlaceRow", "TableRow")}
    for key, schema in schemas.items():
        if key not in spread:
            schema["additionalProperties"] = False
    return Draft202012Validator({"$ref": f"#/components/schemas/{name}", "components": {"schemas": schemas}})


def record_of(script: str, tables: Any = None) -> dict[str, Any]:
    outcome = run(script, tables=tables)
    return record(script, outcome, [figure_record(f, draw(f.data), {"svg": "a.svg"}) for f in outcome.figures], 0.1)


@pytest.fixture(scope="module")
def found() -> dict[str, Any]:
    return record_of(SCRIPT)


def faults(name: str, data: Any) -> list[str]:
    """What does not keep to a schema; rows are held to those of the shape that their finding says."""
    found = [f"{list(e.absolute_path)}: {e.message:.200}" for e in against(name).iter_errors(data)]
    for finding in data.get("findings", []) if name == "RunRecord" else []:
        kinds = [against(kind.__name__) for kind in ROWS if kind.shape == finding.get("shape")]
        rows = enumerate(finding["values"])
        found += [f"row {k} of finding {finding['number']}" for k, row in rows if not any(kind.is_valid(row) for kind in kinds)]
    return found


def test_a_record_of_all_shapes_keeps_to_the_schema(found: dict[str, Any]) -> None:
    shapes = {f["shape"] for f in found["findings"]}
    assert {kind.shape for kind in ROWS} <= shapes
    assert found["messages"]
    assert found["figures"]
    assert faults("RunRecord", found) == []


@pytest.mark.parametrize("name", ["rating-weir", "quiet-water", "fish-ladder"])
def test_records_of_the_demo_keep_to_the_schema(name: str) -> None:
    assert faults("RunRecord", record_of((DEMO / f"{name}.lemma").read_text(encoding="utf-8"), tables_in(DEMO))) == []


def test_events_and_the_walk_keep_to_the_schema() -> None:
    events: list[dict[str, Any]] = []
    trace = Trace(stop_conditions([(3, None)]))
    run("a = 1\nfor k from 1 to 3:\n    a = a + k\nshow a", lambda e: events.append(e) if e["event"] != "figure" else None, trace=trace)
    for event in events:
        assert faults(f"{event['event'].capitalize()}Event", event) == []
    assert {e["event"] for e in events} == {"progress", "finding"}
    assert faults("TraceRecord", trace.as_record()) == []


SPOILED = [
    ("a number becomes a text", lambda r: r["findings"][0]["values"][0].update(x="one")),
    ("a field too many", lambda r: r["findings"][0].update(colour="red")),
    ("no evidence", lambda r: r["findings"][0].pop("evidence")),
    ("a grade that is none", lambda r: r["findings"][0].update(evidence="sure")),
    ("half an interval", lambda r: r["findings"][0]["values"][0].update(interval=["1"])),
    ("a message without a line", lambda r: r["messages"][0].pop("line")),
    ("an axis without an end", lambda r: r["figures"][0]["layout"]["panels"][0]["x"].pop("low")),
]


@pytest.mark.parametrize("spoil", [s[1] for s in SPOILED], ids=[s[0] for s in SPOILED])
def test_what_does_not_keep_to_it_is_found(found: dict[str, Any], spoil: Any) -> None:
    other = copy.deepcopy(found)
    spoil(other)
    assert faults("RunRecord", other)
