"""What the desk asks beyond runs: parts, walks, previews, values, renaming, the handbook, files of tables."""

from __future__ import annotations

from typing import Any

import pytest

from .client import Client

PARTS = 'part "One"\na = 2\nroots of sin(a*x) for x from 0 to 9\npart "Two"\nshow a\npart "Three"\ncurve of sin(a*x) for x from 0 to 3\n'


def events_of(client: Client, answer: Any) -> list[dict[str, Any]]:
    assert answer.status == 201, answer.body
    return list(client.events(answer.json["run_id"]))


def test_a_part_alone_is_no_record(client: Client) -> None:
    folio = client.folio(PARTS)
    body = {"script": PARTS, "version": folio["version"], "part": "Two"}
    done = events_of(client, client.post(f"/api/folios/{folio['id']}/runs", body))[-1]
    assert [f["number"] for f in done["record"]["findings"]] == [2]
    assert "record_id" not in done
    done = events_of(client, client.post(f"/api/folios/{folio['id']}/runs", {**body, "onwards": True}))[-1]
    assert ([f["number"] for f in done["record"]["findings"]], len(done["record"]["figures"])) == ([2], 1)
    assert client.get(f"/api/folios/{folio['id']}/records").json["records"] == []
    failed = events_of(client, client.post(f"/api/folios/{folio['id']}/runs", {**body, "part": "Nowhere"}))[-1]
    assert failed["reason"] == "part"


def test_what_did_not_change_is_used_again(client: Client) -> None:
    folio = client.folio()
    first = client.run(PARTS, folio)
    names = next(e for e in first if e["event"] == "names")
    assert names["reused"] == []
    assert [n["name"] for n in names["names"]] == ["a"]
    second = client.run(PARTS + "show 7\n", folio)
    reused = next(e for e in second if e["event"] == "names")["reused"]
    assert 7 in reused  # the figure; the roots may be quicker than keeping them is worth
    assert not any(e["event"] == "memory" for e in first + second)
    assert first[-1]["record"]["figures"] == second[-1]["record"]["figures"]
    third = client.run(PARTS.replace("a = 2", "a = 3"), folio)
    assert next(e for e in third if e["event"] == "names")["reused"] == []


def test_a_walk(client: Client) -> None:
    script = "s = 0\nfor k from 1 to 3:\n    s = s + k\ncurve of s*x for x from 0 to 1\n"
    folio = client.folio(script)
    body = {"script": script, "stops": [{"line": 3, "condition": "k > 2"}, {"line": 1}]}
    events = events_of(client, client.post(f"/api/folios/{folio['id']}/walks", body))
    assert any(e["event"] == "figure" for e in events)
    steps = events[-1]["trace"]["steps"]
    assert [s["line"] for s in steps if s.get("stop")] == [1, 3]
    assert client.get(f"/api/folios/{folio['id']}/records").json["records"] == []


def test_a_preview_draws_what_changed(client: Client) -> None:
    script = "tune k = 1 from 0 to 4\ncurve of sin(k*x) for x from 0 to 6\ncurve of x for x from 0 to 1\n"
    folio = client.folio()
    client.run(script, folio)
    answer = client.post(f"/api/folios/{folio['id']}/previews", {"script": script.replace("k = 1", "k = 2")})
    assert answer.status == 200
    assert [f["figure"]["name"] for f in answer.json["figures"]] == ["figure_1"]
    assert answer.json["figures"][0]["svg"].startswith("<?xml")
    assert len(client.get(f"/api/folios/{folio['id']}/records").json["records"]) == 1


def test_all_of_a_value_as_csv(client: Client) -> None:
    folio = client.folio()
    script = "xs = 0 to 1 count 5\nt = values of x^2 for x from 0 to 2 step 1"
    assert (
        client.post(f"/api/folios/{folio['id']}/values", {"script": script, "name": "xs"}).body
        == b"element\r\n0\r\n0.25\r\n0.5\r\n0.75\r\n1\r\n"
    )
    assert client.post(f"/api/folios/{folio['id']}/values", {"script": script, "name": "t"}).body == b"x,value\r\n0,0\r\n1,1\r\n2,4\r\n"
    refused = client.post(f"/api/folios/{folio['id']}/values", {"script": script, "name": "q"})
    assert (refused.status, refused.json["message"]) == (422, "'q' has no value")


def test_renaming(client: Client) -> None:
    body = {"script": "α = 1\nshow alpha + 1", "line": 2, "column": 6, "name": "b"}
    assert client.post("/api/renamings", body).json["edits"] == [
        {"line": 1, "column": 1, "end_column": 2, "text": "b"}, {"line": 2, "column": 6, "end_column": 11, "text": "b"},
    ]  # fmt: skip
    for change, phrase in (
        ({"name": "sin"}, "built in"),
        ({"line": 9}, "no such line"),
        ({"column": 1, "line": 2}, "no name of the script's own"),
    ):
        refused = client.post("/api/renamings", {**body, **change})
        assert refused.status == 422
        assert phrase in refused.json["message"]


def test_the_handbook(client: Client) -> None:
    everything = client.get("/api/handbook").json["pages"]
    assert {"roots", "sin", "for", "dash", "gap"} <= {p["name"] for p in everything}
    found = client.get("/api/handbook?q=where%20two%20curves%20meet").json["pages"]
    assert found[0]["name"] == "crossings"
    assert client.get("/handbook").status == 200
    assert client.get("/handbook/request-roots").status == 200


def test_files_of_tables(client: Client) -> None:
    folio = client.folio()
    address = f"/api/folios/{folio['id']}/tables"
    put = client.send(
        "PUT", f"{address}/gauge.csv", b"t [h],level [m]\n0,1.2\n1,1.5\n", {"X-CSRFToken": client.token, "Content-Type": "text/csv"}
    )
    assert (put.status, put.json["name"], put.json["bytes"]) == (200, "gauge.csv", 28)
    script = 'table gauge from "gauge.csv"\nshow gauge.level\n'
    done = client.run(script, folio)[-1]
    assert done["record"]["findings"][0]["values"][0]["value"] == [1.2, 1.5]
    (used,) = done["record"]["tables"]
    assert (used["name"], used["sha256"]) == ("gauge.csv", put.json["sha256"])
    assert [(c["name"], c["unit"]) for c in used["reading"]["columns"]] == [("t", "h"), ("level", "m")]
    client.send("PUT", f"{address}/gauge.csv", b"t [h],level [m]\n0,9\n", {"X-CSRFToken": client.token, "Content-Type": "text/csv"})
    assert client.run(script, folio)[-1]["record"]["findings"][0]["values"][0]["value"] == [9]
    assert [t["name"] for t in client.get(address).json["tables"]] == ["gauge.csv"]
    assert client.change("DELETE", f"{address}/gauge.csv").status == 204
    assert client.change("DELETE", f"{address}/gauge.csv").status == 404
    missing = client.run(script, folio)[-1]["record"]["messages"][0]
    assert missing["text"] == "there is no table 'gauge.csv' here"
    bad = client.send("PUT", f"{address}/{'a' * 201}", b"", {"X-CSRFToken": client.token, "Content-Type": "text/csv"})
    assert bad.status == 422


@pytest.mark.parametrize("path", ["walks", "previews", "values", "tables"])
def test_a_folio_that_is_not_there(client: Client, path: str) -> None:
    body = {"script": "a = 1", **({"name": "a"} if path == "values" else {})}
    answer = client.get("/api/folios/999999/tables") if path == "tables" else client.post(f"/api/folios/999999/{path}", body)
    assert answer.status == 404
