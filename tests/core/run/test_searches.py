"""The handbook is found by ordinary words, by need and by sign."""

from __future__ import annotations

from pathlib import Path

import pytest

from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.handbook import pages
from open_lemma.core.run.handbook_search import SIGNS, search

HERE = Path(__file__).parent


def table() -> list[tuple[str, str]]:
    found = []
    for line in (HERE / "searches.txt").read_text(encoding="utf-8").splitlines():
        if not line.startswith("#"):
            page, _, phrases = line.partition(": ")
            found += [(page, phrase) for phrase in phrases.split("; ")]
    return found


@pytest.mark.parametrize("page", sorted({page for page, _ in table()}))
def test_the_right_page_stands_first(page: str) -> None:
    for _, phrase in [row for row in table() if row[0] == page]:
        found = search(phrase)
        assert found, phrase
        assert found[0].id == page, (phrase, [p.id for p in found[:3]])


def test_there_are_three_hundred() -> None:
    assert len(table()) >= 300


@pytest.mark.parametrize(
    ("typed", "page"),
    [
        ("derivitive", "request-derivative"), ("hystogram", "drawing-histogram"), ("integraton", "request-integral"),
        ("regresion", "request-fit"), ("transparant", "option-opacity"), ("intersecton", "request-crossings"),
        ("logaritmic axis", "option-scale"),
    ],
)  # fmt: skip
def test_slips_of_the_pen_are_forgiven(typed: str, page: str) -> None:
    assert search(typed)[0].id == page


def test_signs_lead_to_pages_that_are_there() -> None:
    known = {p.id for p in pages()}
    assert set(SIGNS.values()) <= known
    assert all(search(sign)[0].id == page for sign, page in SIGNS.items())


def test_nothing_is_found_for_nothing() -> None:
    assert search("") == []
    assert search("   ") == []
    assert search("zzzzqqqq") == []


@pytest.mark.parametrize("kind", ["idea", "request", "drawing", "statement", "value", "option", "function"])
def test_every_example_runs(kind: str) -> None:
    for page in [p for p in pages() if p.kind == kind]:
        assert page.examples or kind in ("function",), page.id
        assert len(set(page.examples)) == len(page.examples), page.id
        for example in page.examples:
            outcome = run(example)
            assert not [m.text for m in outcome.reading.messages.in_order() if m.severity == "error"], (page.id, example)
            assert not outcome.failed, (page.id, example)


def test_words_have_examples_from_plain_to_rich_and_slips_with_their_cure() -> None:
    words = [p for p in pages() if p.kind in ("request", "drawing")]
    assert sum(len(p.examples) >= 3 for p in words) >= 30
    assert sum(bool(p.slips) for p in words) >= 30
    for page in pages():
        for slip in page.slips:
            assert slip.meant != slip.typed
            if '"data.csv"' not in slip.meant:
                assert not run(slip.meant).reading.messages.has_errors(), slip
