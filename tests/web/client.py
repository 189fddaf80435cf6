"""A small client for the API, speaking HTTP to the served application as any program would."""

from __future__ import annotations

import http.cookiejar
import json
import urllib.error
import urllib.request
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class Answer:
    status: int
    headers: Any
    body: bytes

    @property
    def json(self) -> Any:
        return json.loads(self.body)


class Client:
    """seconds: how long an answer is waited for."""

    def __init__(self, address: str, seconds: float = 60) -> None:
        self.address, self.seconds, self.token = address, seconds, ""
        self.jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self.arrive()

    def arrive(self) -> None:
        """A session of its own, with the token that changes need."""
        self.token = self.get("/api/session").json["csrf_token"]

    def keep_cookie(self, name: str, value: str) -> None:
        """A cookie as a browser has it, so that the two are one visitor."""
        self.jar.set_cookie(
            http.cookiejar.Cookie(
                0, name, value, None, False, "localhost.local", False, False, "/", True, False, None, True, None, None, {}
            )
        )

    def get(self, path: str, **headers: str) -> Answer:
        return self.send("GET", path, None, headers)

    def post(self, path: str, body: Any = None, **headers: str) -> Answer:
        return self.change("POST", path, body, **headers)

    def change(self, method: str, path: str, body: Any = None, **headers: str) -> Answer:
        return self.send(method, path, body, {"X-CSRFToken": self.token, **headers})

    def send(self, method: str, path: str, body: Any, headers: dict[str, str]) -> Answer:
        data = body if isinstance(body, bytes) or body is None else json.dumps(body).encode()
        more = {"Content-Type": "application/json"} if data is not None else {}
        request = urllib.request.Request(self.address + path, data=data, headers={**more, **headers}, method=method)
        try:
            with self.opener.open(request, timeout=self.seconds) as answer:
                return Answer(answer.status, answer.headers, answer.read())
        except urllib.error.HTTPError as refused:
            with refused:
                return Answer(refused.code, refused.headers, refused.read())

    # ------------------------------------------------------------ what tests do often

    def folio(self, script: str = "", title: str = "A folio") -> dict[str, Any]:
        made = self.post("/api/folios", {"title": title, "script": script})
        assert made.status == 201, made.body
        return made.json

    def run(self, script: str, folio: dict[str, Any] | None = None) -> list[dict[str, Any]]:
        """Run a script in a folio (a new one by default); all events, the last of them `done` or `failed`."""
        folio = folio or self.folio()
        begun = self.post(f"/api/folios/{folio['id']}/runs", {"script": script, "version": folio["version"]})
        assert begun.status == 201, begun.body
        folio["version"] = begun.json["version"]
        return list(self.events(begun.json["run_id"]))

    def events(self, run_id: str, after: int = 0) -> Iterator[dict[str, Any]]:
        request = urllib.request.Request(f"{self.address}/api/runs/{run_id}/events", headers={"Last-Event-ID": str(after)})
        with self.opener.open(request, timeout=self.seconds) as stream:
            for line in stream:
                if line.startswith(b"data: "):
                    yield json.loads(line[6:])
