"""The API through the real server and MariaDB: folios, runs with their events, records, figures."""

from __future__ import annotations

import json
import threading
import xml.etree.ElementTree as ET

import pytest

from open_lemma.web.describe import description
from tests.conftest import PROJECT
from tests.web.client import Client

CUBIC = "f(x) = x^3 - 2x + 1\ncurve of f(x) for x from -2 to 2\nroots of f(x) for x from -2 to 2\n"


def test_the_demo_is_on_the_shelf_with_thumbnails(client: Client) -> None:
    shelf = client.get("/api/folios").json["folios"]
    demo = {f["title"]: f for f in shelf}
    for title in ("Alternate depths", "Waveforms for the wave paddle"):
        thumbnail = demo[title]["thumbnail"]
        drawing = client.get(f"/api/records/{thumbnail['record_id']}/figures/{thumbnail['figure']}.svg")
        assert ET.fromstring(drawing.body).tag.endswith("svg")
        assert client.get(f"/api/folios/{demo[title]['id']}").json["latest"]["record"]["messages"] == []


def test_three_lines_give_a_figure_and_proven_roots_that_are_there_tomorrow(client: Client) -> None:
    folio = client.folio()
    events = client.run(CUBIC, folio)
    kinds = [e["event"] for e in events]
    assert kinds[-1] == "done"
    assert kinds.index("figure") < kinds.index("finding") < kinds.index("done")
    assert "data" not in next(e for e in events if e["event"] == "figure")
    kept = client.get(f"/api/folios/{folio['id']}").json
    assert kept["script"] == CUBIC
    finding = kept["latest"]["record"]["findings"][0]
    # Exact: (x - 1)(x^2 + x - 1), roots 1 and (-1 ± sqrt 5)/2.
    assert [v["x"] for v in finding["values"]] == pytest.approx([(-1 - 5**0.5) / 2, (-1 + 5**0.5) / 2, 1], abs=1e-15)
    assert finding["evidence"] == "proven"
    assert kept["latest"]["script_is_current"]


def test_a_rerun_gives_the_same_record_and_says_so(client: Client) -> None:
    folio = client.folio()
    first, second = client.run(CUBIC, folio)[-1], client.run(CUBIC, folio)[-1]
    assert (second["number"], second["same_as"]) == (2, 1)
    assert "same_as" not in first
    for event in (first, second):
        event["record"].pop("duration_s")
    assert first["record"] == second["record"]
    records = client.get(f"/api/folios/{folio['id']}/records").json["records"]
    assert [r["number"] for r in records] == [2, 1]
    assert client.get(f"/api/records/{records[1]['id']}").json["record"]["findings"] == first["record"]["findings"]


@pytest.mark.parametrize(
    ("query", "kind", "start"),
    [("svg", "image/svg+xml", b"<?xml"), ("svg?grey=true", "image/svg+xml", b"<?xml"), ("pdf", "application/pdf", b"%PDF-"),
     ("png", "image/png", b"\x89PNG"), ("png?dpi=600&grey=true&download=true", "image/png", b"\x89PNG")],
)  # fmt: skip
def test_a_figure_in_every_format(client: Client, query: str, kind: str, start: bytes) -> None:
    done = client.run(CUBIC)[-1]
    name = done["record"]["figures"][0]["name"]
    drawing = client.get(f"/api/records/{done['record_id']}/figures/{name}.{query}")
    assert drawing.status == 200
    assert drawing.headers["Content-Type"].startswith(kind)
    assert drawing.body.startswith(start)
    assert "default-src 'none'" in drawing.headers["Content-Security-Policy"]
    if "download" in query:
        assert 'filename="figure_1_grey_600dpi.png"' in drawing.headers["Content-Disposition"]


def test_two_windows_the_second_is_told_and_nothing_is_overwritten(client: Client) -> None:
    folio = client.folio("x = 1")
    path = f"/api/folios/{folio['id']}"
    assert client.change("PATCH", path, {"version": folio["version"], "script": "x = 2"}).status == 200
    for method, where, body in (
        ("PATCH", path, {"version": folio["version"], "script": "x = 3"}),
        ("PATCH", path, {"version": folio["version"], "title": "Mine"}),
        ("POST", f"{path}/runs", {"version": folio["version"], "script": "x = 3"}),
    ):
        told = client.change(method, where, body)
        assert told.status == 409
        assert told.json["code"] == "conflict"
        assert told.json["folio"]["script"] == "x = 2"
    assert client.get(path).json["script"] == "x = 2"
    assert client.get(path).json["title"] == folio["title"]


def test_many_who_save_at_once_only_one_wins(client: Client, served: str) -> None:
    folio = client.folio("x = 0")
    answers = []

    def save(value: int) -> None:
        mine = Client(served)
        answers.append(
            (value, mine.change("PATCH", f"/api/folios/{folio['id']}", {"version": folio["version"], "script": f"x = {value}"}).status)
        )

    threads = [threading.Thread(target=save, args=(value,)) for value in range(1, 9)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(status for _, status in answers) == [200] + [409] * 7
    winner = next(value for value, status in answers if status == 200)
    assert client.get(f"/api/folios/{folio['id']}").json["script"] == f"x = {winner}"


def test_duplicate_delete_and_undo(client: Client) -> None:
    folio = client.folio(CUBIC, "Cubic")
    client.run(CUBIC, folio)
    copy = client.post(f"/api/folios/{folio['id']}/duplicate").json
    assert copy["title"] == "Cubic (copy)"
    assert copy["thumbnail"]["figure"] == "figure_1"
    assert client.change("DELETE", f"/api/folios/{folio['id']}").status == 204
    assert client.get(f"/api/folios/{folio['id']}").status == 404
    assert folio["id"] not in [f["id"] for f in client.get("/api/folios").json["folios"]]
    assert client.post(f"/api/folios/{folio['id']}/restore").json["title"] == "Cubic"
    assert client.get(f"/api/folios/{folio['id']}").json["script"] == CUBIC


def test_a_run_that_is_followed_late_or_again_gives_all_events(client: Client) -> None:
    folio = client.folio()
    begun = client.post(f"/api/folios/{folio['id']}/runs", {"script": CUBIC, "version": folio["version"]}).json
    all_events = list(client.events(begun["run_id"]))
    assert list(client.events(begun["run_id"])) == all_events
    assert list(client.events(begun["run_id"], after=2)) == all_events[2:]


def test_a_running_script_is_stopped(client: Client) -> None:
    folio = client.folio()
    begun = client.post(f"/api/folios/{folio['id']}/runs", {"script": SLOW, "version": folio["version"]}).json
    assert client.post(f"/api/runs/{begun['run_id']}/stop").status == 200
    last = list(client.events(begun["run_id"]))[-1]
    assert (last["event"], last["reason"]) == ("failed", "stopped")
    assert client.get(f"/api/folios/{folio['id']}").json["script"] == SLOW


SLOW = "\n".join(f"roots of sin(1/(x - {k})) for x from {k} to {k + 1}" for k in range(40))


def test_a_run_past_its_time_ends_with_a_message_and_the_server_lives(client: Client) -> None:
    last = client.run(SLOW)[-1]
    assert (last["event"], last["reason"]) == ("failed", "time")
    assert "6 s" in last["text"]
    assert client.run("show 1 + 1")[-1]["record"]["findings"][0]["values"][0]["value"] == 2


def test_a_run_that_needs_too_much_memory_ends_with_a_message(client: Client) -> None:
    script = "\n".join(f"xs_{k} = 0 to 1 count 5000000" for k in range(40))
    last = client.run(script)[-1]
    assert last["event"] == "failed" or any("too large" in m["text"] for m in last["record"]["messages"])
    assert client.run("show 2")[-1]["event"] == "done"


def test_messages_come_with_place_and_fix(client: Client) -> None:
    record = client.run("y = 1/2x\nshow 3")[-1]["record"]
    message = record["messages"][0]
    assert (message["line"], message["column"]) == (1, 8)
    assert "1/(2x)" in message["fix"]["label"]
    assert record["findings"][0]["values"][0]["value"] == 3
    assert client.post("/api/check", {"script": "y = 1/2x"}).json["messages"][0]["text"] == message["text"]


def test_the_description_in_the_repository_is_the_one_served(client: Client) -> None:
    kept = (PROJECT / "docs" / "openapi.json").read_text(encoding="utf-8")
    assert kept == description(), "run: python -m open_lemma.web.describe > docs/openapi.json, then npm run api in ui/"
    assert client.get("/api/openapi.json").json == json.loads(kept)


def test_the_words_of_the_language_for_the_editor(client: Client) -> None:
    words = client.get("/api/language").json
    assert {"roots", "curve", "points"} <= set(words["nouns"])
    assert {"sin", "besselj"} <= set(words["functions"])
    assert {"pi", "e"} <= set(words["constants"])


def test_deleted_folios_are_listed_and_can_be_taken_back(client: Client) -> None:
    folios = [client.folio(CUBIC, f"Gone {k}") for k in range(2)]
    for folio in folios:
        assert client.change("DELETE", f"/api/folios/{folio['id']}").status == 204
    found = client.get("/api/folios/deleted").json
    assert found["days"] == 30
    assert [f["title"] for f in found["folios"][:2]] == ["Gone 1", "Gone 0"]
    assert all(f["deleted_at"].endswith("Z") for f in found["folios"])
    client.post(f"/api/folios/{folios[0]['id']}/restore")
    left = [f["id"] for f in client.get("/api/folios/deleted").json["folios"]]
    assert folios[1]["id"] in left
    assert folios[0]["id"] not in left
    assert client.get(f"/api/folios/{folios[0]['id']}").json["script"] == CUBIC


def test_many_runs_wait_and_none_is_refused(client: Client) -> None:
    folio = client.folio()
    begun: list[str] = []
    try:
        for k in range(30):
            answer = client.post(f"/api/folios/{folio['id']}/runs", {"script": f"{SLOW}\n# {k}", "version": folio["version"]})
            assert answer.status == 201
            begun.append(answer.json["run_id"])
            folio["version"] = answer.json["version"]
        assert client.change("PATCH", f"/api/folios/{folio['id']}", {"script": CUBIC, "version": folio["version"]}).status == 200
        # Somebody else's short run does not wait for them.
        other = Client(client.address)
        assert other.run("show 2")[-1]["event"] == "done"
    finally:
        for run_id in begun:
            client.post(f"/api/runs/{run_id}/stop")
        told = [list(client.events(run_id)) for run_id in begun]
    assert {t[-1]["event"] for t in told} == {"failed"}
    assert any(e["event"] == "queued" and e["place"] >= 1 for t in told for e in t)


def test_faults_of_the_page_go_to_the_log(client: Client) -> None:
    assert client.post("/api/faults", {"text": "TypeError: x is null\n  at draw", "at": "/folio/1"}).status == 204
    assert client.post("/api/faults", {"text": "x" * 5_000, "at": "/"}).status == 422


def test_what_a_drawn_thing_has_is_read_from_the_tree(client: Client) -> None:
    first = 'figure a:\n    curve of sin(x) for x from 0 to 6, label "line, width 3"\n'
    script = f'{first}figure b:\n    title "Second"\n    curve of x for x from 0 to 1'
    found = client.post("/api/dressings", {"script": script, "line": 2, "window": 1, "figure": 1}).json
    assert found["options"] == {"label": '"line, width 3"'}
    assert found["title"] is None
