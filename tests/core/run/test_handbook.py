"""Every page of the handbook: its example runs, and whoever looks for the idea in common words finds it."""

from __future__ import annotations

import pytest

from open_lemma.core.formula.catalogue import BUILTINS
from open_lemma.core.language.vocabulary import NOUNS, OPTIONS
from open_lemma.core.language.vocabulary.names import STATEMENT_WORDS
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.handbook import pages
from open_lemma.core.run.handbook_search import search

WITH_EXAMPLE = [p for p in pages() if p.example]


@pytest.mark.parametrize("page", WITH_EXAMPLE, ids=lambda p: p.id)
def test_examples_run(page) -> None:  # type: ignore[no-untyped-def]
    outcome = run(page.example)
    assert not outcome.failed, [m.text for m in outcome.reading.messages.items]
    assert outcome.findings or outcome.figures
    assert page.name in page.example or page.kind in ("idea", "value", "statement", "function", "method")


def test_everything_has_a_page() -> None:
    named = {(p.kind, p.name) for p in pages()}
    assert {n for k, n in named if k in ("request", "drawing")} == set(NOUNS)
    assert {n for k, n in named if k in ("function", "constant")} == set(BUILTINS.names())
    assert {n for k, n in named if k == "option"} == set(OPTIONS)
    # Words that only later versions can carry out have no page of their own yet.
    later = {"compare", "view", "x", "y", "z", "right"}  # the axes have one page together
    assert {n for k, n in named if k == "statement"} >= STATEMENT_WORDS - later
    for page in pages():
        assert page.help
        assert page.usage
        assert bool(page.example) is page.available, page.id


WANTED = {
    "where two curves meet": "crossings", "solve": "solution", "loop": "for", "slope": "derivative", "plot a function": "curve",
    "missing": "gap", "zeros": "roots", "slider": "tune", "piecewise": "when", "histogram outline": "steps", "factorial": "Gamma",
    "concatenate": "join", "scatter": "points", "log scale": "axis", "sawtooth": "sawtooth", "procedure": "define", "csv": "table",
    "standard deviation": "sd", "remainder": "mod", "dash": "dash", "intersection": "crossings",
    "decimal comma": "reading files", "excel": "reading files", "error propagation": "uncertainties", "convert units": "units",
}  # fmt: skip


@pytest.mark.parametrize(("text", "name"), WANTED.items())
def test_ideas_are_found(text: str, name: str) -> None:
    assert name in [p.name for p in search(text)[:3]]


def test_nothing_is_found_for_nonsense() -> None:
    assert search("xyzzy") == []
