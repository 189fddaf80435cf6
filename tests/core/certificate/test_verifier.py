"""The verifier: it confirms what is so, and nothing that was spoiled."""

from __future__ import annotations

import copy
import json
import random
from functools import cache
from itertools import islice
from typing import Any

import pytest

from open_lemma.core.certificate.record import verify_finding
from tests.core.certificate.findings import STATEMENTS, finding_of
from tests.core.certificate.spoil import spoiled


@cache
def _finding(statement: str) -> str:
    return json.dumps(finding_of(statement))


def finding(statement: str) -> dict[str, Any]:
    return json.loads(_finding(statement))  # type: ignore[no-any-return]


@pytest.mark.parametrize("statement", STATEMENTS)
def test_what_is_so_is_confirmed_and_small(statement: str) -> None:
    found = finding(statement)
    proof = verify_finding(found)
    assert found["evidence"] == "proven"
    assert proof.certified
    assert proof.fault == ""
    assert len(json.dumps(found["certificate"])) < 20_000


@pytest.mark.parametrize("statement", STATEMENTS)
def test_nothing_that_was_spoiled_is_confirmed(statement: str) -> None:
    whole = finding(statement)
    rng = random.Random(statement)
    tries = (spoiled(whole, rng) for _ in range(1_000))
    wrongs = list(islice((w for w in tries if w is not None), 25))
    assert len(wrongs) == 25
    for wrong in wrongs:
        assert verify_finding(wrong).fault, json.dumps(wrong)


@pytest.mark.parametrize(
    "broken",
    [
        {"parts": [{"claim": "roots"}]}, {"parts": [{"claim": "no such claim", "first": 0, "rows": 3}]},
        {"parts": [{"claim": "roots", "first": 0, "rows": 99}]}, {"parts": []}, {}, {"parts": "s"},
        {"parts": [{"claim": "roots", "first": 0, "rows": 3, "formula": [["*", 0, 1]], "variable": "x", "low": {}, "high": {}, "points": [],
                    "gaps": []}]},
    ],
)  # fmt: skip
def test_what_is_no_certificate_is_refused(broken: Any) -> None:
    found = finding(STATEMENTS[0])
    found["certificate"] = broken
    assert verify_finding(found).fault


def test_a_grade_that_nothing_shows_is_refused() -> None:
    found = copy.deepcopy(finding("roots of x^3 - 2x + 1 for x from -2 to 2"))
    found["values"].append({**found["values"][0]})
    assert "graded proven" in verify_finding(found).fault
