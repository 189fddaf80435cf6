"""The configuration in docs/nginx, as it stands there, in front of the application: TLS, cookies, streams, large files."""

from __future__ import annotations

import http.client
import json
import re
import shutil
import ssl
import subprocess
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest

from open_lemma.service.ports import free_port
from open_lemma.service.serve import Serving
from open_lemma.service.settings import Settings
from open_lemma.store.database import Database
from tests.conftest import PROJECT

NAME = "lemma.example"


@dataclass
class Behind:
    """The application behind nginx, spoken to over TLS."""

    port: int
    plain_port: int
    certificate: Path
    cookie: str = ""
    token: str = ""

    def ask(self, method: str, path: str, body: bytes | None = None, **headers: str) -> tuple[http.client.HTTPResponse, bytes]:
        trusted = ssl.create_default_context(cafile=str(self.certificate))
        trusted.check_hostname = False  # the name is this one, and the address is loopback
        connection = http.client.HTTPSConnection("127.0.0.1", self.port, timeout=60, context=trusted)
        more = {"Host": NAME, "Cookie": self.cookie, "X-CSRFToken": self.token, "Referer": f"https://{NAME}/", **headers}
        connection.request(method, path, body, more)
        answer = connection.getresponse()
        data = answer.read()
        connection.close()
        return answer, data

    def post(self, path: str, body: Any) -> tuple[int, Any]:
        answer, data = self.ask("POST", path, json.dumps(body).encode(), **{"Content-Type": "application/json"})
        return answer.status, json.loads(data)


@pytest.fixture(scope="module")
def behind(database: Database, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Behind]:
    nginx = shutil.which("nginx", path="/usr/sbin:/usr/bin:/usr/local/sbin:/usr/local/bin")
    assert nginx, "nginx is not installed; ./test installs it"
    folder = tmp_path_factory.mktemp("nginx")
    subprocess.run(
        ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", f"/CN={NAME}",
         "-addext", f"subjectAltName=DNS:{NAME}",
         "-keyout", str(folder / "key"), "-out", str(folder / "certificate")],
        check=True, capture_output=True,
    )  # fmt: skip
    port, plain = free_port(range(21_000, 21_400)), free_port(range(21_500, 21_900))
    settings = Settings(free_port(range(19_000, 19_900)), folder / "data", database.url, (NAME,), proxy="127.0.0.1", web_processes=1)
    with Serving(settings, say=False) as serving:
        site = (PROJECT / "docs" / "nginx" / "open-lemma.conf").read_text(encoding="utf-8")
        for was, now in (
            ("127.0.0.1:8137", serving.address.removeprefix("http://").replace("localhost", "127.0.0.1")),
            ("listen 80;", f"listen 127.0.0.1:{plain};"), ("listen 443 ssl", f"listen 127.0.0.1:{port} ssl"),
            ("/etc/ssl/lemma.example.pem", str(folder / "certificate")), ("/etc/ssl/lemma.example.key", str(folder / "key")),
        ):  # fmt: skip
            assert was in site
            site = site.replace(was, now)
        (folder / "site.conf").write_text(site, encoding="utf-8")
        temporary = "\n".join(f"{kind}_temp_path {folder / kind};" for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi"))
        (folder / "nginx.conf").write_text(
            f"daemon off; pid {folder / 'pid'}; error_log {folder / 'error.log'};\nevents {{}}\n"
            f"http {{ include /etc/nginx/mime.types; access_log off; {temporary}\ninclude {folder / 'site.conf'}; }}\n",
            encoding="utf-8",
        )
        process = subprocess.Popen([nginx, "-c", str(folder / "nginx.conf"), "-e", str(folder / "error.log")])
        try:
            made = Behind(port, plain, folder / "certificate")
            for _ in range(100):
                try:
                    made.ask("GET", "/api/health")
                    break
                except OSError:
                    time.sleep(0.1)
            yield made
        finally:
            process.terminate()
            process.wait()


def test_a_session_over_tls(behind: Behind) -> None:
    answer, data = behind.ask("GET", "/api/session")
    assert answer.status == 200
    given = answer.getheader("Set-Cookie") or ""
    assert "Secure" in given
    assert "HttpOnly" in given
    assert answer.getheader("Strict-Transport-Security") == "max-age=31536000"
    assert "script-src 'self'" in (behind.ask("GET", "/")[0].getheader("Content-Security-Policy") or "")
    behind.cookie, behind.token = given.split(";")[0], json.loads(data)["csrf_token"]
    status, folio = behind.post("/api/folios", {"title": "Behind nginx", "script": ""})
    assert status == 201
    status, begun = behind.post(f"/api/folios/{folio['id']}/runs", {"script": "show 6*7", "version": folio["version"]})
    assert status == 201
    answer, told = behind.ask("GET", f"/api/runs/{begun['run_id']}/events")
    assert answer.getheader("Content-Type", "").startswith("text/event-stream")
    assert re.findall(rb"event: (\w+)", told)[-1] == b"done"
    large = b"h,q\n" + b"1.25,2.5\n" * 700_000
    answer, data = behind.ask("PUT", f"/api/folios/{folio['id']}/tables/large.csv", large)
    assert answer.status in (200, 201), data


def test_events_come_one_by_one(behind: Behind) -> None:
    """The first is here while the run is still at work."""
    _, folio = behind.post("/api/folios", {"title": "Slow", "script": ""})
    script = "show 1\n" + "\n".join(f"integral of sin(1/(x - {k})) for x from {k} to {k + 1}" for k in range(60))
    _, begun = behind.post(f"/api/folios/{folio['id']}/runs", {"script": script, "version": folio["version"]})
    trusted = ssl.create_default_context(cafile=str(behind.certificate))
    trusted.check_hostname = False
    connection = http.client.HTTPSConnection("127.0.0.1", behind.port, timeout=60, context=trusted)
    connection.request("GET", f"/api/runs/{begun['run_id']}/events", headers={"Host": NAME})
    answer = connection.getresponse()
    assert b"event: " in answer.readline() + answer.readline()
    assert behind.post(f"/api/runs/{begun['run_id']}/stop", {})[0] == 200
    assert b"stopped" in answer.read()
    connection.close()


def test_what_is_not_for_everybody(behind: Behind) -> None:
    assert behind.ask("GET", "/metrics")[0].status == 404
    connection = http.client.HTTPConnection("127.0.0.1", behind.plain_port, timeout=10)
    connection.request("GET", "/folio/3", headers={"Host": NAME})
    answer = connection.getresponse()
    assert (answer.status, answer.getheader("Location")) == (301, f"https://{NAME}/folio/3")
    connection.close()
    assert behind.ask("GET", "/api/session", Host="elsewhere.example")[0].status == 400
