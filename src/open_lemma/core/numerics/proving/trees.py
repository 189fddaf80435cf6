"""Boxes cut by halving until every part has a letter: the text that `certificate.parts` reads."""

from __future__ import annotations

from collections.abc import Callable

from ...certificate.parts import Part, halves


def tree_of(whole: Part, letter_of: Callable[[Part], str | None]) -> str:
    """The letters of all parts in prefix order; a part without one is halved across the side that is longest, as a share of the whole."""
    letters: list[str] = []
    todo = [whole]
    while todo:
        part = todo.pop()
        letter = letter_of(part)
        if letter is None:
            k = max(range(len(part)), key=lambda j: (part[j][1] - part[j][0]) / (whole[j][1] - whole[j][0]))
            letter = str(k)
            todo += halves(part, k)[::-1]
        letters.append(letter)
    return "".join(letters)


__all__ = ["tree_of"]
