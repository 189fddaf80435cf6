"""The stage's side of the server: inking, looking closer, readings, files of figures, and the way back from a file."""

from __future__ import annotations

import io

import pytest
from PIL import Image

from .client import Client

SCRIPT = 'f(x) = x^3 - 2x + 1\nfigure pond "The pond":\n    curve of f(x) for x from -2 to 2, label "f"\n'


@pytest.fixture(scope="module")
def kept(client: Client) -> tuple[int, int]:
    folio = client.folio(title="Hand")
    last = client.run(SCRIPT, folio)[-1]
    assert last["event"] == "done"
    return folio["id"], last["record_id"]


def test_ink_gives_the_edits(client: Client) -> None:
    action = {"do": "option", "line": 3, "more": {"name": "width", "value": "2"}}
    answer = client.post("/api/edits", {"script": SCRIPT, "actions": [action]}).json
    assert answer["edits"] == [{"line": 3, "column": 48, "end_column": 48, "text": ", width 2"}]


def test_what_cannot_be_inked_is_said(client: Client) -> None:
    bad = {"script": SCRIPT, "actions": [{"do": "option", "line": 1, "more": {"name": "width", "value": "2"}}]}
    answer = client.post("/api/edits", bad)
    assert (answer.status, answer.json["code"]) == (422, "not-inked")
    for action in ({"do": "fly", "line": 1, "more": {}}, {"do": "axis", "line": 2, "more": {"which": "x", "low": "a", "high": 1}}):
        assert client.post("/api/edits", {"script": SCRIPT, "actions": [action]}).status == 422


def test_looking_closer_draws_anew_and_keeps_nothing(client: Client, kept: tuple[int, int]) -> None:
    before = client.get(f"/api/folios/{kept[0]}/records").json
    window = {"do": "window", "line": 2, "more": {"x": [0.5, 0.7], "y": [-0.2, 0.2]}}
    answer = client.post(f"/api/folios/{kept[0]}/previews", {"script": SCRIPT, "actions": [window]}).json
    panel = answer["figures"][0]["figure"]["layout"]["panels"][0]
    assert (panel["x"]["low"], panel["x"]["high"], panel["y"]["low"]) == (0.5, 0.7, -0.2)
    assert [e["text"] for e in answer["edits"]] == ["    x axis from 0.5 to 0.7\n    y axis from -0.2 to 0.2\n"]
    assert client.get(f"/api/folios/{kept[0]}/records").json == before


def test_a_reading_is_of_the_function(client: Client, kept: tuple[int, int]) -> None:
    asked = {"record_id": kept[1], "figure": "pond", "series": "s1", "x": 0.25, "y": 0.0}
    found = client.post("/api/figures/probe", asked).json
    assert found == {"x": 0.25, "y": 0.515625, "slope": -1.8125, "exact": True, "t": None, "z": None}
    assert client.post("/api/figures/probe", {**asked, "series": "s7"}).status == 422
    assert client.post("/api/figures/probe", {**asked, "figure": "sea"}).status == 404


HEADS = {
    "svg": b"<?xml", "pdf": b"%PDF", "eps": b"%!PS-Adobe", "png": b"\x89PNG", "tiff": b"II*\x00", "csv": b"f: x", "xlsx": b"PK",
    "tex": b"% open-lemma", "txt": b"Figure The pond",
}  # fmt: skip


@pytest.mark.parametrize("fmt", HEADS)
def test_files_and_the_way_back(client: Client, kept: tuple[int, int], fmt: str) -> None:
    answer = client.get(f"/api/records/{kept[1]}/figures/pond.{fmt}?download=true&dpi=150")
    assert answer.status == 200
    assert answer.body.startswith(HEADS[fmt])
    assert f"pond{'_150dpi' if fmt in ('png', 'tiff') else ''}.{fmt}" in answer.headers["Content-Disposition"]
    again = client.get(f"/api/records/{kept[1]}/figures/pond.{fmt}?download=true&dpi=150")
    assert again.body == answer.body
    if fmt not in ("csv", "txt"):
        origin = client.post("/api/figures/origin", answer.body).json
        assert (origin["folio_id"], origin["record_id"], origin["figure"], origin["folio"]) == (*kept, "pond", "Hand")


def test_a_large_picture_finds_its_way_back_too(client: Client, kept: tuple[int, int]) -> None:
    data = client.get(f"/api/records/{kept[1]}/figures/pond.tiff?download=true&dpi=1200").body
    padded = data + b"\0" * 2_000_000
    with Image.open(io.BytesIO(data)) as picture:
        assert picture.size[0] > 5000
    assert client.post("/api/figures/origin", padded).json["record_id"] == kept[1]


def test_a_file_from_elsewhere_has_no_origin(client: Client) -> None:
    answer = client.post("/api/figures/origin", b"%PDF-1.4 nothing")
    assert (answer.status, answer.json["code"]) == (422, "no-origin")
    stranger = b"open-lemma folio=1 record=1 figure=a script=" + b"0" * 64
    assert client.post("/api/figures/origin", stranger).json["code"] == "origin-gone"


def test_numbers_on_a_regular_step(client: Client, kept: tuple[int, int]) -> None:
    answer = client.get(f"/api/records/{kept[1]}/figures/pond.csv?step=0.5")
    lines = answer.body.decode().splitlines()
    assert lines[:3] == ["f: x,f: y", "-2.0,-3.0", "-1.5,0.625"]
    fine = client.get(f"/api/records/{kept[1]}/figures/pond.xlsx?step=1e-9")
    assert fine.status == 422
    assert "rows" in fine.json["message"]
    assert client.get(f"/api/records/{kept[1]}/figures/pond.csv?step=-1").status == 422
    assert client.get(f"/api/records/{kept[1]}/figures/pond.png?dpi=77").status == 422
