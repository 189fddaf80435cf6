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
from open_lemma.core.certificate.verifier import verify
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


# (x - 1)^2, but -5 at x = 0: a point of which only its sides are claimed to lie above the level.
LONE = {
    "claim": "lowest", "variable": "x", "low": {"number": "-3"}, "high": {"number": "3"}, "gaps": ["a", "v"],
    "formula": [
        ["variable", "x"], ["number", "1"], ["-", 0, 1], ["number", "2"], ["^", 2, 3], ["number", "-5"], ["=", 0], ["choose", 6, 5, 4],
    ],
    "points": [
        {"is": {"number": "-3"}, "at": ["-3", "-3"], "near": ["-3", "-3"], "value": "d", "right": "a"},
        {"is": {"number": "0"}, "at": ["0", "0"], "near": ["-1/8", "1/8"], "known": [[0, "0"]], "left": "a", "value": "d", "right": "a"},
        {"is": {"number": "3"}, "at": ["3", "3"], "near": ["3", "3"], "left": "a", "value": "d"},
    ],
}  # fmt: skip


def test_a_lone_value_below_the_level_is_seen() -> None:
    row = {"x": 1.0, "exact": "1", "interval": ["1", "1"], "value": 0.0, "value_interval": ["-1e-30", "1e-30"], "what": "minimum"}
    assert verify(LONE, [row]).proven == [False]
    harmless = [*LONE["formula"][:5], ["number", "7"], *LONE["formula"][6:]]
    assert verify({**LONE, "formula": harmless}, [row]).proven == [True]


def test_a_stretch_is_told_once() -> None:
    """Of two stretches one may not be told twice in the place of the other."""
    found = copy.deepcopy(finding("minima of max(abs(abs(x) - 2), 1) for x from -4 to 4"))
    assert verify_finding(found).fault == ""
    assert [row["shape"] for row in found["values"]] == ["stretch", "stretch"]
    found["values"][1] = found["values"][0]
    assert verify_finding(found).fault


def test_one_node_is_no_rule_of_gauss_whose_error_is_known() -> None:
    found = copy.deepcopy(finding("integral of x*y^2 for x from 0 to 1, y from 0 to x"))
    found["certificate"]["parts"][0]["nodes"] = 1
    assert verify_finding(found).fault


def test_a_limit_from_the_other_side_is_another_one() -> None:
    found = copy.deepcopy(finding("limit of floor(x), at 2"))
    assert verify_finding(found).fault == ""
    for row, side in zip(found["values"], ("right", "left"), strict=True):
        row["side"] = side
    assert verify_finding(found).fault
    bare = copy.deepcopy(finding("limit of sqrt(-x^2), at 0"))
    assert verify_finding(bare).fault == ""
    bare["certificate"]["parts"].pop()
    assert verify_finding(bare).fault
