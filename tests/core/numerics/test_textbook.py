"""How often the answer is proven: of 200 ordinary functions of textbooks at least 95 in a hundred, for each kind of request."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from open_lemma.core.formula.nodes import Formula
from open_lemma.core.numerics.evidence import Evidence, weakest
from open_lemma.core.numerics.extrema.lowest import lowest_value
from open_lemma.core.numerics.extrema.turning import inflections, turning_points
from open_lemma.core.numerics.integrals.integrals import NoIntegral, integral_of
from open_lemma.core.numerics.roots.search import find_roots
from open_lemma.core.run.execute.interpreter import run

LINES = [
    [part.strip() for part in line.split("|")]
    for line in Path(__file__).with_name("textbook.txt").read_text(encoding="utf-8").splitlines()
    if line and not line.startswith("#")
]
BOTH = frozenset({"minimum", "maximum"})


def read(text: str) -> Formula:
    outcome = run(f"f(x) = {text}")
    found = outcome.names.find("f")
    assert found is not None, (text, [m.text for m in outcome.reading.messages.items])
    return found.body  # type: ignore[union-attr, no-any-return]


def number(text: str) -> Formula:
    return run(f"a = {text}").names.find("a").formula  # type: ignore[union-attr, no-any-return]


def _roots(f: Formula, low: Formula, high: Formula) -> Evidence:
    return find_roots(f, "x", low, high).evidence


def _turns(f: Formula, low: Formula, high: Formula) -> Evidence:
    found = turning_points(f, "x", low, high, BOTH)
    return weakest([p.evidence for p in found.places] + ([] if found.complete else ["open"]))


def _bends(f: Formula, low: Formula, high: Formula) -> Evidence:
    found = inflections(f, "x", low, high)
    return weakest([p.evidence for p in found.places] + ([] if found.complete else ["open"]))


def _lowest(f: Formula, low: Formula, high: Formula) -> Evidence:
    found = lowest_value(f, "x", low, high)
    # That there is no lowest value (next to a pole) is an answer too.
    return "proven" if found.unbounded is not None else weakest([p.evidence for p in found.places] + ([] if found.complete else ["open"]))


def _integral(f: Formula, low: Formula, high: Formula) -> Evidence:
    try:
        return integral_of(f, "x", low, high).evidence
    except NoIntegral as reason:
        return "proven" if "the function has a pole" in str(reason) or "diverges to" in str(reason) else "open"


KINDS: dict[str, Callable[[Formula, Formula, Formula], Evidence]] = {
    "roots": _roots, "extremes": _turns, "inflections": _bends, "lowest": _lowest, "integral": _integral,
}  # fmt: skip


def test_there_are_two_hundred() -> None:
    assert len(LINES) == 200
    assert len({line[0] for line in LINES}) == 200


@pytest.mark.parametrize("kind", KINDS)
def test_at_least_95_in_a_hundred_are_proven(kind: str) -> None:
    not_proven = []
    for text, low, high in LINES:
        grade = KINDS[kind](read(text), number(low), number(high))
        if grade != "proven":
            not_proven.append(f"{text} from {low} to {high}: {grade}")
    assert len(not_proven) <= 0.05 * len(LINES), not_proven
