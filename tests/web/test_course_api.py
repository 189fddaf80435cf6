"""The course, what may come next, and what the examples of the handbook give, through the server."""

from __future__ import annotations

from tests.web.client import Client


def test_the_lessons(client: Client) -> None:
    lessons = client.get("/api/course").json["lessons"]
    assert len(lessons) == 12
    assert all(lesson["tasks"] and lesson["text"] and "solution" not in lesson for lesson in lessons)
    assert client.get("/course").status == client.get("/course/roots").status == 200


def test_tasks_are_done_by_a_record(client: Client) -> None:
    folio = client.folio()
    client.run("f(x) = x^3 - 3x + 1\nroots of f(x) for x from -3 to 3", folio)
    record = client.get(f"/api/folios/{folio['id']}/records").json["records"][0]["id"]
    done = client.post("/api/course/roots/done", {"record_id": record}).json["done"]
    assert done == [True, False, False]
    assert client.post("/api/course/nothing/done", {"record_id": record}).status == 404
    assert client.post("/api/course/roots/done", {"record_id": 10**9}).status == 404
    assert client.post("/api/course/roots/done", {"record_id": "x"}).status == 422


def test_what_may_come_next(client: Client) -> None:
    assert client.post("/api/next", {"script": "f(x) = x^2"}).json["lines"][0] == "curve of f(x)"
    assert client.post("/api/next", {"script": ""}).json["lines"] == []


def test_what_examples_give_is_served(client: Client) -> None:
    gave = client.get("/handbook-shown/request-roots.json")
    assert gave.status == 200
    assert any("1.414214" in f["text"] for example in gave.json for f in example["findings"])
    figure = next(name for example in gave.json for name in example["figures"])
    assert client.get(f"/handbook-shown/{figure}").status == 200
    assert client.get("/handbook-shown/..%2Fdist%2Findex.html").status == 404


def test_words_hold_starting_points(client: Client) -> None:
    starts = client.get("/api/language").json["starts"]
    assert {"A function", "Data and a fit", "A surface", "A loop"} <= {s["title"] for s in starts}
