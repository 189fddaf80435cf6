"""The three grades of evidence. A grade is never better than what was really done."""

from __future__ import annotations

from collections.abc import Iterable

from ..record.rows import Evidence

__all__ = ["Evidence", "weakest"]

_ORDER: dict[Evidence, int] = {"proven": 0, "checked": 1, "open": 2}


def weakest(grades: Iterable[Evidence]) -> Evidence:
    """The grade of a whole: that of its weakest part; an empty whole is proven."""
    return max(grades, key=_ORDER.__getitem__, default="proven")
