"""Which known word is meant by one that is not known."""

from __future__ import annotations

import difflib
from collections.abc import Iterable

MOST_KNOWN = 600  # words of about the length that are compared with one that is not known


def nearest(word: str, known: Iterable[str]) -> str | None:
    """The known word that is spelled most alike, if one is near enough to be meant."""
    # Short words are alike by chance: `f` is not meant for `erf`, nor `foo` for `floor`.
    reach = 0 if len(word) < 2 else 1 if len(word) < 5 else 3
    # Sorted, since sets have another order in every process.
    alike = sorted(k for k in known if abs(len(k) - len(word)) <= reach)[:MOST_KNOWN]
    found = difflib.get_close_matches(word, alike, 1, 0.6)
    return found[0] if found else None
