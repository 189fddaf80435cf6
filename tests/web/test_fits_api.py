"""Fits proposed for drawn points, and the logger, through the served application."""

from __future__ import annotations

import time
from typing import Any

import pytest

from .client import Client

SCRIPT = """k = 3
xs = 0.1 to 2 step 0.1
ys = 2*xs^1.5 + normal(20, 0, 0.01, 5)
figure a:
    points of ys against xs
    points of [(1, 2), (2, 3)]
"""


def fits(client: Client, **more: Any) -> Any:
    folio = client.folio(SCRIPT)
    return client.post(f"/api/folios/{folio['id']}/fits", {"script": SCRIPT, "line": 5, **more})


def test_the_models_of_the_trade_are_ranked(client: Client) -> None:
    found = fits(client, at=1.05).json
    assert (found["points"], found["of"], found["against"]) == (20, "ys", "xs")
    best = found["fits"][0]
    assert "power law" in best["name"]
    assert best["at"]["value"] == pytest.approx(2 * 1.05**1.5, abs=0.02)
    assert not best["at"]["beyond"]
    scores = [f["aicc"] for f in found["fits"]]
    assert scores == sorted(scores)
    assert {"straight line", "parabola"} <= {f["name"] for f in found["fits"]}
    assert all(len(f["residuals"]) == 20 and len(f["curve"][0]) == len(f["curve"][1]) for f in found["fits"])


def test_a_formula_of_ones_own(client: Client) -> None:
    (fit,) = fits(client, formula="C*x^n + k - 3").json["fits"]
    assert [p["name"] for p in fit["parameters"]] == ["C", "n"]
    assert [p["value"] for p in fit["parameters"]] == pytest.approx([2, 1.5], abs=0.02)
    assert fit["evidence"] == "proven"
    (started,) = fits(client, formula="C*x^n", starts={"C": 1.0, "n": 1.0}).json["fits"]
    assert started["parameters"][1]["value"] == pytest.approx(1.5, abs=0.02)


@pytest.mark.parametrize(
    ("more", "phrase"),
    [
        ({"formula": "C*x^"}, "something must follow"),
        ({"formula": "2*x"}, "nothing to adjust"),
        ({"formula": "a*b*x"}, "cannot tell a and b apart"),
        ({"line": 4}, "points of one list against another"),
        ({"line": 6}, "points of one list against another"),
    ],
)
def test_what_cannot_be_proposed_is_told(client: Client, more: dict[str, Any], phrase: str) -> None:
    answer = fits(client, **more)
    assert (answer.status, answer.json["code"]) == (422, "no-fits")
    assert phrase in answer.json["message"]


def test_the_logger_is_read_and_its_run_kept_as_a_table(client: Client) -> None:
    begun = client.post("/api/logger", {"seed": 11, "interval_h": 0.5, "rate": 400})
    assert begun.status == 200, begun.body
    deadline = time.monotonic() + 10
    while (seen := client.get("/api/logger?after=0").json)["points"] < 60 and time.monotonic() < deadline:
        time.sleep(0.05)
    assert "SIMULATED" in seen["identity"]
    assert seen["readings"][1][0] == 0.5
    folio = client.folio()
    kept = client.post(f"/api/folios/{folio['id']}/logger/tables", {"name": "run.csv"})
    assert kept.status == 200, kept.body
    assert kept.json["rows"] >= 60
    script = 'table run from "run.csv"\nshow run.t[3], run.level[2]\n'
    found = client.run(script, folio)[-1]["record"]["findings"]
    assert found[0]["values"][0]["value"] == 1.0
    assert found[1]["values"][0]["value"] == seen["readings"][1][1]
    assert client.post("/api/logger", {"seed": -1}).status == 422
