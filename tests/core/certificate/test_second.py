"""Two verifiers on two libraries agree: what the first confirms the second never denies, and mostly confirms; what is spoiled it denies."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Collection, Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest

from open_lemma.core.run.execute.interpreter import run
from tests.core.certificate.findings import STATEMENTS, finding_of
from tests.core.certificate.second import verdicts

LINES = [
    [part.strip() for part in line.split("|")]
    for line in (Path(__file__).parents[1] / "numerics" / "textbook.txt").read_text(encoding="utf-8").splitlines()
    if line and not line.startswith("#")
][:120:2]
LETTERS = "+-rfv^TNab"
LEAST = {  # claims of each kind that are confirmed at least
    "root": 25, "value at a place": 50, "span": 2, "integral": 3, "value": 3, "truth": 2, "sum": 1, "solution": 2, "no solution": 15,
    "linear equation": 2, "place of a lowest value": 6, "nothing below": 80, "identity": 20, "stationary": 4,
    "curve through a point": 12, "box +": 15, "box -": 10, "box r": 50, "box f": 50, "box v": 15, "box ^": 15, "box a": 25, "box b": 20,
    "box T": 5, "box N": 5,
}  # fmt: skip
SWAPPED = str.maketrans(LETTERS, "-+fr^vNTba")


def of_finding(finding: dict[str, Any], kinds: Collection[str] = ()) -> list[tuple[str, bool | None]]:
    parts = (finding["certificate"] or {"parts": []})["parts"]
    return [v for p in parts for v in verdicts(p, finding["values"][p["first"] : p["first"] + p["rows"]], kinds)]


@pytest.mark.parametrize("noun", ["roots", "extremes", "lowest", "integral"])
def test_textbook_functions(noun: str) -> None:
    said: Counter[bool | None] = Counter()
    for text, low, high in LINES[:: 1 if noun in ("roots", "extremes") else 6]:
        outcome = run(f"f(x) = {text}\n{noun} of f(x) for x from {low} to {high}")
        found = of_finding(outcome.findings[-1].as_record())
        assert all(verdict is not False for _, verdict in found), (text, [kind for kind, v in found if v is False])
        said.update(v for _, v in found)
    assert said[True] > 2 * said[None], said


def test_findings_of_each_kind_and_what_is_spoiled_of_them() -> None:
    confirmed: Counter[str] = Counter()
    denied: Counter[bool] = Counter()
    for statement in STATEMENTS:
        finding = json.loads(json.dumps(finding_of(statement)))
        found = of_finding(finding)
        assert all(verdict is not False for _, verdict in found), (statement, [kind for kind, v in found if v is False])
        confirmed.update(kind for kind, verdict in found if verdict)
        denied.update(_moved_are_denied(finding))
        _letters_of_the_other_meaning_are_not_confirmed(finding)
    for kind, least in LEAST.items():
        assert confirmed[kind] >= least, (kind, confirmed)
    assert denied[True] > 50, denied
    assert denied[False] <= denied[True] / 10, denied


def _moved_are_denied(finding: dict[str, Any]) -> Iterator[bool]:
    """Whether intervals of rows that are moved by a millionth are denied, of each row that is confirmed."""
    kinds = ("root", "value at a place", "value")
    for row in finding["values"]:
        name = "value_interval" if isinstance(row.get("value_interval"), list) else "interval"
        if isinstance(row.get(name), list):
            low, high = (Fraction(v) for v in row[name])
            shift = (abs(low) + 1) / 10**6
            rows = [{**r, name: [str(low + shift), str(high + shift)]} if r is row else r for r in finding["values"]]
            before, after = of_finding(finding, kinds), of_finding({**finding, "values": rows}, kinds)
            if any(b for _, b in before):
                yield any(a is False for (_, b), (_, a) in zip(before, after, strict=True) if b)


def _letters_of_the_other_meaning_are_not_confirmed(finding: dict[str, Any]) -> None:
    for part in (finding["certificate"] or {"parts": []})["parts"]:
        if "gaps" not in part:
            continue
        rows = finding["values"][part["first"] : part["first"] + part["rows"]]
        swapped = {**part, "gaps": [g.translate(SWAPPED) for g in part["gaps"]]}
        for (kind, held), (_, other) in zip(verdicts(part, rows), verdicts(swapped, rows), strict=True):
            assert not (held and other and kind[:-1] == "box " and kind[-1] in LETTERS), kind
