"""Hostile and broken requests: refused in one shape, never a 500, never anything that could run as script."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.web.client import Client


def test_changes_without_the_token_are_refused(client: Client) -> None:
    for headers in ({}, {"X-CSRFToken": "made-up"}):
        answer = client.send("POST", "/api/folios", {"title": "x"}, headers)
        assert (answer.status, answer.json["code"]) == (403, "token")


def test_a_token_of_another_session_is_refused(client: Client, served: str) -> None:
    other = Client(served)
    assert client.send("POST", "/api/folios", {"title": "x"}, {"X-CSRFToken": other.token}).status == 403


def test_a_name_that_points_here_from_elsewhere_is_refused(client: Client) -> None:
    assert client.get("/api/folios", Host="example.org").status == 400


def test_the_policy_allows_only_what_this_server_sends(client: Client) -> None:
    for path in ("/", "/api/folios", "/nothing"):
        policy = client.get(path).headers["Content-Security-Policy"]
        assert "default-src 'none'" in policy
        assert "script-src 'self'" in policy
        assert "unsafe" not in policy
        assert "frame-ancestors 'none'" in policy
    page = client.get("/")
    nonce = re.search(r"'nonce-([^']+)'", page.headers["Content-Security-Policy"])
    assert nonce
    assert f'content="{nonce.group(1)}"' in page.body.decode()
    assert b"__NONCE__" not in page.body
    assert client.get("/").headers["Content-Security-Policy"] != page.headers["Content-Security-Policy"]


def test_the_page_has_no_script_but_from_files(client: Client) -> None:
    page = client.get("/").body.decode()
    for tag in re.findall(r"<script[^>]*>", page):
        assert 'src="/assets/' in tag
    assert "style=" not in page
    assert "http" not in re.sub(r"http://www\.w3\.org\S*", "", page)


@pytest.mark.parametrize("length", [1_100_000, 20_000_000])
def test_a_request_too_large_is_refused_with_its_limit(client: Client, length: int) -> None:
    # Longer than what the connection holds on its way: a server that hangs up early is never heard.
    answer = client.post("/api/folios", {"title": "x", "script": "#" * length})
    assert answer.status == 413
    assert "1000 kB" in answer.json["message"]


@pytest.mark.parametrize(
    ("method", "path", "body"),
    [
        ("POST", "/api/folios", b"{not json"),
        ("POST", "/api/folios", b"[1]"),
        ("POST", "/api/folios", {"title": 3}),
        ("POST", "/api/folios", {"title": "x" * 300}),
        ("POST", "/api/folios", {"surprise": 1}),
        ("POST", "/api/folios", b"\xff\xfe"),
        ("POST", "/api/folios", b'{"title": "\\ud800"}'),
        ("POST", "/api/check", {"script": None}),
        ("PATCH", "/api/folios/1", {"title": "x"}),
        ("PATCH", "/api/folios/999999", {"version": 1, "title": "x"}),
        ("PATCH", "/api/folios/1", {"version": "one"}),
        ("POST", "/api/folios/999999/runs", {"script": "", "version": 1}),
        ("GET", "/api/folios/999999", None),
        ("GET", "/api/folios/99999999999999999999", None),
        ("GET", "/api/records/999999", None),
        ("GET", "/api/records/1/figures/none.svg", None),
        ("GET", "/api/records/1/figures/energy.exe", None),
        ("GET", "/api/records/1/figures/energy.png?dpi=7", None),
        ("GET", "/api/runs/none/events", None),
        ("POST", "/api/runs/none/stop", None),
        ("GET", "/api/nothing", None),
        ("DELETE", "/api/folios", None),
        ("GET", "/assets/../../pyproject.toml", None),
        ("GET", "/assets/%2e%2e/%2e%2e/pyproject.toml", None),
    ],
)
def test_bad_requests_get_a_sentence_and_no_trace(client: Client, method: str, path: str, body: object) -> None:
    answer = client.change(method, path, body)
    assert 400 <= answer.status < 500, answer.body
    assert answer.json["message"]
    assert "Traceback" not in answer.body.decode()


HOSTILE = (
    '<script>alert(1)</script>', '"><img src=x onerror=alert(1)>', "</title><script>alert(1)</script>", "]]><script>alert(1)</script>",
    "&lt;script&gt;", "\\href{javascript:alert(1)}{x}", "<!ENTITY x SYSTEM 'file:///etc/passwd'>",
)  # fmt: skip


@pytest.mark.parametrize("text", HOSTILE)
def test_texts_in_figures_are_drawn_or_escaped_never_markup(client: Client, text: str) -> None:
    inside = text.replace('"', "")
    script = f'figure a "{inside}":\n    curve of x for x from 0 to 1, label "{inside}"\n    x axis "{inside}"\n'
    done = client.run(script)[-1]
    assert done["event"] == "done"
    for figure in done["record"]["figures"]:
        svg = client.get(f"/api/records/{done['record_id']}/figures/{figure['name']}.svg").body.decode()
        for node in ET.fromstring(svg).iter():
            assert node.tag.rpartition("}")[2] not in ("script", "img", "image", "foreignObject", "a")
            assert not any(name.startswith("on") or "javascript:" in value for name, value in node.attrib.items())


@settings(max_examples=150, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.text(max_size=200))
def test_any_text_can_be_checked(client: Client, text: str) -> None:
    answer = client.post("/api/check", {"script": text})
    assert answer.status in (200, 422)
    assert "Traceback" not in answer.body.decode()


@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.text(alphabet="xy f(=)[],:+-*/^<>0123456789.\n\"' of for from to curve roots show points figure sin", max_size=160))
def test_any_text_can_be_run(client: Client, text: str) -> None:
    last = client.run(text)[-1]
    assert last["event"] == "done" or last["reason"] in ("time", "memory", "output")


@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.text(max_size=60))
def test_any_title_is_kept_or_refused(client: Client, title: str) -> None:
    answer = client.post("/api/folios", {"title": title})
    assert answer.status in (201, 422)
    if answer.status == 201:
        path = f"/api/folios/{answer.json['id']}"
        assert client.get(path).json["title"] == (" ".join(title.split()) or "Untitled folio")
        client.change("DELETE", path)
