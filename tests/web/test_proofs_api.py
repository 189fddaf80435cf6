"""Proofs through the API: confirmed as they are, refused where they were changed, never an error of ours."""

from __future__ import annotations

from typing import Any

import pytest

from open_lemma.core.run.execute.interpreter import run
from tests.web.client import Client


def finding() -> dict[str, Any]:
    return run("roots of x*exp(-x) - 0.1 for x from 0 to infinity").findings[-1].as_record()


def test_a_proof_is_confirmed(client: Client) -> None:
    answer = client.post("/api/proofs", {"finding": finding()})
    assert answer.status == 200
    assert answer.json["fault"] == ""
    assert answer.json["certified"] is True
    assert answer.json["boxes"] > 3


def test_a_changed_one_is_not(client: Client) -> None:
    changed = finding()
    changed["values"][0]["x"] += 1e-6
    answer = client.post("/api/proofs", {"finding": changed})
    assert answer.status == 200
    assert "outside of its interval" in answer.json["fault"]


@pytest.mark.parametrize("body", [{}, {"finding": 3}, {"finding": {"number": "x", "values": 4, "certificate": {"parts": [1]}}}])
def test_what_is_no_finding_is_no_fault_of_ours(client: Client, body: dict[str, Any]) -> None:
    assert client.post("/api/proofs", body).status in (200, 422)
