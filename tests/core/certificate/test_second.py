"""Two verifiers on two libraries agree: what Arb's balls confirm of a box, mpmath's intervals never deny, and mostly confirm."""

from __future__ import annotations

from pathlib import Path

import pytest

from open_lemma.core.run.execute.interpreter import run
from tests.core.certificate.second import Unknown, boxes, holds

LINES = [
    [part.strip() for part in line.split("|")]
    for line in (Path(__file__).parents[1] / "numerics" / "textbook.txt").read_text(encoding="utf-8").splitlines()
    if line and not line.startswith("#")
][:120:2]


@pytest.mark.parametrize("noun", ["roots", "extremes"])
def test_the_boxes_of_textbook_functions(noun: str) -> None:
    confirmed = known = 0
    for text, low, high in LINES:
        outcome = run(f"f(x) = {text}\n{noun} of f(x) for x from {low} to {high}")
        for part in outcome.findings[-1].certificates:
            for a, b, code in boxes(part):
                try:
                    verdict = holds(part, a, b, code)
                except Unknown:
                    continue
                assert verdict is not False, (text, float(a), float(b), code)
                known += 1
                confirmed += verdict is True
    assert known > 100
    assert confirmed > 0.8 * known, (confirmed, known)
