"""Markers and dashes of series for which the script says none: each differs from the others, and from what was said for them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from . import palette

LINES = ("curve", "line", "band", "path")
# Patterns of print without colour that look like one that can be said.
_ALIKE = {"solid": 0, "dashed": 1, "dotted": 2, "dash-dotted": 3}
Pattern = tuple[float, ...]


@dataclass(frozen=True, slots=True)
class SeriesMarks:
    """By the ids of series: lengths of dashes in line widths, and names of markers."""

    dashes: dict[str, Pattern]
    markers: dict[str, str]


def series_marks(things: Iterable[Any], grey: bool) -> SeriesMarks:
    """Of the series, or of the things in space, of one window, in their order."""
    listed = list(things)
    return SeriesMarks(_grey_dashes(listed) if grey else _dashes(listed), _markers(listed))


def _markers(things: list[Any]) -> dict[str, str]:
    """Points take the markers in their order, but for those that were said."""
    points = [t for t in things if t.kind == "points"]
    said = {t.marker for t in points if t.marker is not None}
    free = [m for m in palette.MARKERS if m not in said] or list(palette.MARKERS)
    by_itself = [t for t in points if t.marker is None]
    return {t.id: free[k % len(free)] for k, t in enumerate(by_itself)}


def _grey_dashes(things: list[Any]) -> dict[str, Pattern]:
    lines = [t for t in things if t.kind in LINES]
    said = {_ALIKE[t.dash] for t in lines if t.dash}
    free = [ink.grey_dash for k, ink in enumerate(palette.INKS) if k not in said]
    by_itself = [t for t in lines if not t.dash]
    return {t.id: free[k % len(free)] for k, t in enumerate(by_itself)}


def _dashes(things: list[Any]) -> dict[str, Pattern]:
    """In colour a line is solid, unless an earlier one has its ink: then it takes the first dash that no other of this ink has."""
    found: dict[str, Pattern] = {}
    taken: dict[str, set[Pattern]] = {}
    lines = [t for t in things if t.kind in LINES]
    for t in lines:
        if t.dash:
            taken.setdefault(_ink(t), set()).add(palette.DASHES[t.dash])
    for t in lines:
        if t.dash:
            continue
        if t.colour is not None:
            found[t.id] = ()  # whoever gives a colour to several lines means them to be alike
            continue
        mine = taken.setdefault(_ink(t), set())
        free = [d for d in palette.ROUND_DASHES if d not in mine]
        found[t.id] = free[0] if free else palette.round_dash(t.place)
        mine.add(found[t.id])
    return found


def _ink(thing: Any) -> str:
    return str(thing.colour or palette.ink(thing.place).code)


__all__ = ["SeriesMarks", "series_marks"]
