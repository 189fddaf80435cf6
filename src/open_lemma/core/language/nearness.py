"""Which known word is meant by one that is not known."""

from __future__ import annotations

import difflib
from collections.abc import Iterable
from itertools import islice

from .vocabulary import NOUNS

MOST_KNOWN = 600  # words of about the length that are compared with one that is not known


def nearest(word: str, known: Iterable[str]) -> str | None:
    """The known word that is spelled most alike, if one is near enough to be meant."""
    # Short words are alike by chance: `f` is not meant for `erf`, nor `foo` for `floor`.
    reach = 0 if len(word) < 2 else 1 if len(word) < 5 else 3
    alike = islice((k for k in known if abs(len(k) - len(word)) <= reach), MOST_KNOWN)
    found = difflib.get_close_matches(word, list(alike), 1, 0.6)
    return found[0] if found else None


def request_meant(word: str) -> str | None:
    """The request that a word is meant for: one that is spelled nearly so, or for which the handbook has that common word."""
    near, common = nearest(word, NOUNS), word.lower()
    if near is not None and near.rstrip("s") == common.rstrip("s"):
        return near
    phrases = [(name, [p.strip().lower() for p in noun.common_words.split(",")]) for name, noun in NOUNS.items()]
    whole = next((name for name, said in phrases if common in said), None)
    return whole or near or next((name for name, said in phrases if any(common in p.split() for p in said)), None)
