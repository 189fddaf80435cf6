"""Surfaces through the real server: what the screen turns, readings, files in every format, views and sections tried and inked."""

from __future__ import annotations

import base64
import json
import zlib

import numpy as np
import pytest

from tests.web.client import Client

SADDLE = """figure a:
    surface of x^2 - y^2 for x from -1 to 1, y from -1 to 1, levels 6, label "saddle"
    view azimuth 40, elevation 25
"""


@pytest.fixture(scope="module")
def record(client: Client) -> int:
    events = client.run(SADDLE, client.folio())
    assert events[-1]["event"] == "done"
    return int(events[-1]["record_id"])


def test_the_scene_holds_the_surface_in_numbers(client: Client, record: int) -> None:
    found = client.get(f"/api/records/{record}/figures/a/scene").json
    window = found["windows"]["0"]
    assert (window["azimuth"], window["elevation"]) == (40, 25)
    packed = window["things"][0]["shape"]["vertices"]
    x, y, z = np.frombuffer(zlib.decompress(base64.b64decode(packed["data"])), packed["type"]).reshape(packed["shape"]).T.astype(float)
    assert z == pytest.approx(x * x - y * y, abs=1e-6)
    assert client.get(f"/api/records/{record}/figures/none/scene").status == 404


def test_a_reading_is_one_of_the_function(client: Client, record: int) -> None:
    asked = {"record_id": record, "figure": "a", "series": "s1", "x": 0.5, "y": 0.25}
    found = client.post("/api/figures/probe", asked).json
    assert (found["x"], found["y"], found["z"], found["exact"]) == (0.5, 0.25, 0.1875, True)


def test_seen_from_elsewhere_the_kept_figure_is_drawn_again_and_nothing_runs(client: Client, record: int) -> None:
    address = f"/api/records/{record}/figures/a/turned"
    found = client.post(address, {"views": [{"panel": 0, "azimuth": -70, "elevation": 10}]}).json
    space = found["layout"]["panels"][0]["space"]
    assert (space["azimuth"], space["elevation"]) == (-70, 10)
    assert found["svg"].lstrip().startswith("<?xml")
    assert [s["id"] for s in found["layout"]["series"]] == ["s1"]
    # As a script with that view would have it.
    events = client.run(SADDLE.replace("azimuth 40, elevation 25", "azimuth -70, elevation 10"), client.folio())
    assert found["svg"] == next(e["svg"] for e in events if e["event"] == "figure")
    for wrong in ([], [{"panel": 0, "azimuth": 0, "elevation": 100}], [{"panel": -1, "azimuth": 0, "elevation": 0}]):
        assert client.post(address, {"views": wrong}).status == 422


@pytest.mark.parametrize(
    ("fmt", "kind", "start"),
    [("stl", "model/stl", b""), ("ply", "model/ply", b"ply"), ("obj", "model/obj", b""), ("glb", "model/gltf-binary", b"glTF"),
     ("pdf", "application/pdf", b"%PDF-"), ("csv", "text/csv", b"saddle: x,saddle: z at y = -1")],
)  # fmt: skip
def test_files(client: Client, record: int, fmt: str, kind: str, start: bytes) -> None:
    answer = client.get(f"/api/records/{record}/figures/a.{fmt}?download=true")
    assert answer.status == 200
    assert answer.headers["Content-Type"].startswith(kind)
    assert answer.body.startswith(start)
    assert len(answer.body) > 2_000


def test_what_is_not_there_is_refused_in_words(client: Client, record: int) -> None:
    answer = client.get(f"/api/records/{record}/figures/a.geojson")
    assert answer.status == 422
    assert "no level lines" in answer.json["message"]


def test_what_is_downloaded_is_finer_than_what_is_shown(client: Client, record: int) -> None:
    shown, saved = (client.get(f"/api/records/{record}/figures/a.svg{q}").body for q in ("", "?download=true"))
    assert len(saved) > 1.5 * len(shown)


def test_a_view_is_tried_on_and_inked(client: Client) -> None:
    folio = client.folio()
    action = {"do": "view", "line": 1, "more": {"azimuth": 120, "elevation": 60}}
    tried = client.post(f"/api/folios/{folio['id']}/previews", {"script": SADDLE, "actions": [action]}).json
    panel = tried["figures"][0]["figure"]["layout"]["panels"][0]
    assert (panel["space"]["azimuth"], panel["space"]["elevation"]) == (120, 60)
    edits = client.post("/api/edits", {"script": SADDLE, "actions": [action]}).json["edits"]
    assert "120" in json.dumps(edits)
