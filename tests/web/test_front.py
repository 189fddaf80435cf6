"""The server among those who are slow, many, or wrong: nobody else notices."""

from __future__ import annotations

import io
import json
import os
import signal
import socket
import threading
import zipfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import pytest

from open_lemma.service.serve import Serving
from tests.web.client import Client

SLOW = "\n".join(f"integral of sin(1/(x - {k})) for x from {k} to {k + 1}" for k in range(60))
MANY = 120
ESTABLISHED = 1  # a state of TCP (linux/tcp_states.h)


def connected(address: str) -> socket.socket:
    port = int(address.rpartition(":")[2])
    made = socket.create_connection(("127.0.0.1", port), timeout=40)
    return made


def answered_beside(client: Client, others: list[socket.socket]) -> bool:
    """Whether somebody has an answer while all others are still connected: whoever waits for them to end has it after."""
    assert client.run("show 1 + 1")[-1]["event"] == "done"
    return all(is_connected(s) for s in others)


def is_connected(s: socket.socket) -> bool:
    """Whether neither side has ended the connection (TCP_INFO begins with the state, tcp(7))."""
    return s.getsockopt(socket.IPPROTO_TCP, socket.TCP_INFO, 1) == bytes([ESTABLISHED])


@contextmanager
def closing(sockets: list[socket.socket]) -> Iterator[list[socket.socket]]:
    try:
        yield sockets
    finally:
        for s in sockets:
            s.close()


def test_many_open_streams_stop_nobody(client: Client, served: str) -> None:
    folio = client.folio()
    run = client.post(f"/api/folios/{folio['id']}/runs", {"script": SLOW, "version": folio["version"]}).json["run_id"]
    head = f"GET /api/runs/{run}/events HTTP/1.1\r\nHost: localhost\r\n\r\n".encode()
    with closing([connected(served) for _ in range(MANY)]) as streams:
        for s in streams:
            s.sendall(head)
        for s in streams:
            assert s.recv(15) == b"HTTP/1.1 200 OK"
        assert answered_beside(Client(served), streams)
        client.post(f"/api/runs/{run}/stop")
        for s in streams:
            told = b""
            while b"event: failed" not in told:
                piece = s.recv(65_536)
                assert piece
                told += piece


def test_slow_heads_and_bodies_stop_nobody_and_are_ended(client: Client, served: str) -> None:
    half = b"POST /api/check HTTP/1.1\r\nHost: localhost\r\nX-Slo"
    begun = b"POST /api/check HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/json\r\nContent-Length: 900\r\n\r\n{"

    def tried() -> bool:
        with closing([connected(served) for _ in range(MANY)]) as slow:
            for k, s in enumerate(slow):
                s.sendall(half if k % 2 else begun)
            beside = answered_beside(client, slow)
            for s in slow[:6]:
                assert b"408" in s.recv(200).split(b"\r\n")[0]
            return beside

    # Their patience is seconds, and a busy machine may need as many for anything: once in three is enough.
    assert any(tried() for _ in range(3))


def test_who_does_not_read_stops_nobody(client: Client, served: str) -> None:
    with closing([connected(served) for _ in range(30)]) as deaf:
        for s in deaf:
            s.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 2048)
            s.sendall(b"GET /api/openapi.json HTTP/1.1\r\nHost: localhost\r\n\r\n" * 3)
        assert answered_beside(client, deaf)


def web_processes(serving: Serving) -> list[int]:
    return [w.process.pid for w in serving.watch.all if w.name.startswith("web") and w.process is not None]


def test_any_web_process_answers_for_the_others(serving: Serving) -> None:
    """A session, a run and a folio begun with all are gone on with by each alone."""
    client = Client(serving.address)
    folio = client.folio("show 1")
    for stopped in web_processes(serving):
        begun = client.post(f"/api/folios/{folio['id']}/runs", {"script": SLOW, "version": folio["version"]})
        folio["version"] = begun.json["version"]
        os.kill(stopped, signal.SIGSTOP)
        try:
            # A connection that the stopped one had taken waits for it; a new one is taken by the other.
            client.post(f"/api/runs/{begun.json['run_id']}/stop")
            assert list(client.events(begun.json["run_id"]))[-1]["reason"] == "stopped"
            saved = client.change("PATCH", f"/api/folios/{folio['id']}", {"script": "show 2", "version": folio["version"]})
            assert saved.status == 200
            folio["version"] = saved.json["version"]
            assert client.run("show 5", folio)[-1]["number"] >= 1
        finally:
            os.kill(stopped, signal.SIGCONT)


@pytest.mark.parametrize("last", ["²", "9999999999999999999999", "-1", "abc", "1; drop"])
def test_an_event_number_that_is_none_means_from_the_beginning(client: Client, last: str) -> None:
    folio = client.folio()
    run = client.post(f"/api/folios/{folio['id']}/runs", {"script": "show 1", "version": folio["version"]}).json["run_id"]
    first = next(client.events(run))
    head = f"GET /api/runs/{run}/events HTTP/1.1\r\nHost: localhost\r\nLast-Event-ID: {last}\r\n\r\n".encode("latin-1")
    with closing([connected(client.address)]) as (s,):
        s.sendall(head)
        told = b""
        while b"event: done" not in told:
            piece = s.recv(65_536)
            assert piece, told
            told += piece
    assert first["event"].encode() in told


def test_streams_are_told_to_known_hosts_only(client: Client) -> None:
    with closing([connected(client.address)]) as (s,):
        s.sendall(b"GET /api/runs/abc/events HTTP/1.1\r\nHost: elsewhere.example\r\n\r\n")
        assert b" 400 " in s.recv(200).split(b"\r\n")[0]
    assert client.get("/api/runs/abc/events").status == 404
    assert client.get("/api/runs/abc/events").json["code"] == "run-gone"


NESTED = [b"[" * 90_000, b'{"script":' * 60_000, b"[" * 50_000 + b"]" * 50_000, b'{"title": ' + b"[" * 3000 + b"]" * 3000 + b"}"]


@pytest.mark.parametrize("body", NESTED)
@pytest.mark.parametrize("path", ["/api/check", "/api/folios", "/api/edits", "/api/proofs"])
def test_bodies_nested_beyond_all_measure_are_refused(client: Client, path: str, body: bytes) -> None:
    assert 400 <= client.post(path, body).status < 500


def at_once(count: int, what: Any) -> list[Any]:
    with ThreadPoolExecutor(count) as pool:
        return list(pool.map(what, range(count)))


def test_first_visitors_at_once(served: str) -> None:
    assert {a.status for a in at_once(12, lambda _: Client(served).get("/api/folios"))} == {200}


def test_imports_of_one_name_at_once_are_its_versions(client: Client) -> None:
    folio = client.folio()
    address = f"/api/folios/{folio['id']}/tables/a.csv"
    answers = at_once(12, lambda k: client.change("PUT", address, f"h,q\n{k},2\n".encode()))
    assert {a.status for a in answers} <= {200, 201}
    assert sorted(a.json["number"] for a in answers) == list(range(1, 13))
    assert client.get(address).json["number"] == 12


def test_a_recipe_of_wrong_types_is_refused_and_harms_nothing(client: Client) -> None:
    folio = client.folio()
    address = f"/api/folios/{folio['id']}/tables/a.csv"
    assert client.change("PUT", address, b"h,q\n1,2\n3,4\n").status in (200, 201)
    recipe = client.get(address).json["recipe"]
    for bad in (
        [], 7, "x", {"columns": 3}, {**recipe, "columns": [1]}, {**recipe, "columns": [{**recipe["columns"][0], "name": {"a": 1}}]},
        {**recipe, "columns": [{**recipe["columns"][0], "kind": []}]}, {**recipe, "skip": "many"}, {**recipe, "separator": 5},
        {**recipe, "columns": [{**recipe["columns"][0], "unit": [1]}]}, {**recipe, "columns": [{**recipe["columns"][0], "missing": 7}]},
    ):  # fmt: skip
        answer = client.change("PATCH", address, {"number": 1, "recipe": bad})
        assert answer.status == 422, (bad, answer.body)
    assert client.get(f"{address}/rows").json["cells"]
    assert client.get(address).json["number"] == 1


def test_a_folio_is_read_as_it_was_at_one_moment(client: Client) -> None:
    """The version and the script that are told belong together, whoever saves meanwhile."""
    folio = client.folio("version 1")
    over = threading.Event()
    faults: list[str] = []

    def read() -> None:
        other = Client(client.address)
        while not over.is_set():
            found = other.get(f"/api/folios/{folio['id']}").json
            if found["script"] != f"version {found['version']}":
                faults.append(f"{found['version']}: {found['script']}")

    readers = [threading.Thread(target=read) for _ in range(3)]
    for r in readers:
        r.start()
    version = folio["version"]
    for _ in range(60):
        change = {"script": f"version {version + 1}", "version": version}
        version = client.change("PATCH", f"/api/folios/{folio['id']}", change).json["version"]
    over.set()
    for r in readers:
        r.join()
    assert not faults


def test_health_readiness_and_numbers(client: Client) -> None:
    assert client.get("/api/health").json == {"status": "ok"}
    ready = client.get("/api/ready")
    assert (ready.status, ready.json) == (200, {"database": "ok", "engine": "ok", "disk": "ok"})
    client.run("show 1")
    told = client.get("/metrics")
    assert told.headers["Content-Type"].startswith("text/plain; version=0.0.4")
    lines = dict(line.rsplit(" ", 1) for line in told.body.decode().splitlines() if not line.startswith("#"))
    assert float(lines["open_lemma_engine_up"]) == 1
    assert float(lines['open_lemma_jobs_ended_total{kind="run",reason="done"}']) >= 1
    begun = 'open_lemma_requests_total{method="POST",route="/api/folios/<int:folio_id>/runs",status="201"}'
    assert float(lines[begun]) >= 1
    # Who comes through a proxy is not told.
    assert client.get("/metrics", **{"X-Forwarded-For": "203.0.113.7"}).status == 404


def test_cookies_go_back_over_tls_only_where_they_came_by_it(served: str) -> None:
    """Without a proxy that is trusted, what a request says of itself changes nothing."""
    answer = Client(served).get("/api/session", **{"X-Forwarded-Proto": "https", "Cookie": ""})
    with suppress(KeyError):
        assert "Secure" not in answer.headers["Set-Cookie"]
    assert json.loads(answer.body)["notice"] == ""


def test_a_small_file_that_unpacks_to_gigabytes_is_refused_and_harms_nobody(client: Client) -> None:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        archive.writestr("[Content_Types].xml", "<Types/>")
        with archive.open("docProps/core.xml", "w", force_zip64=True) as part:
            for _ in range(1_200):
                part.write(bytes(1_000_000))
    assert len(packed.getvalue()) < 8_000_000
    assert client.post("/api/figures/origin", packed.getvalue()).status == 422
    folio = client.folio()
    answer = client.change("PUT", f"/api/folios/{folio['id']}/tables/bomb.xlsx", packed.getvalue())
    assert answer.status == 422
    assert client.run("show 1 + 1")[-1]["event"] == "done"


def test_what_was_answered_is_in_the_log_without_what_was_sent(serving: Serving, client: Client) -> None:
    answer = client.post("/api/check", {"script": "secret_of_somebody = 4711.0815"})
    name = answer.headers["X-Request-ID"]
    logged = Path(serving.more["OPEN_LEMMA_LOG"]).read_text(encoding="utf-8")
    line = next(json.loads(one) for one in logged.splitlines() if name in one)
    assert (line["method"], line["route"], line["status"]) == ("POST", "/api/check", 200)
    assert "4711.0815" not in logged
    assert "secret_of_somebody" not in logged
