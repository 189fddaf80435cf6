"""From the noun of a request to what answers it: each answerer says which nouns it reads."""

from __future__ import annotations

from collections.abc import Callable

from ..language import tree
from .evaluate.evaluator import Evaluator
from .findings import FindingDraft
from .search_window import Progress
from .values import Value

# What a request finds: what is told of it, and what it is worth. Raises Refused.
Answerer = Callable[[tree.Request, Evaluator, Progress], tuple[FindingDraft, Value]]
ANSWERERS: dict[str, Answerer] = {}


def answers(*nouns: str) -> Callable[[Answerer], Answerer]:
    """The answerer of these nouns; each noun that computes has one."""

    def kept(answerer: Answerer) -> Answerer:
        for noun in nouns:
            assert noun not in ANSWERERS, noun
            ANSWERERS[noun] = answerer
        return answerer

    return kept
