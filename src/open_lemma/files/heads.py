"""Heads of columns with their units, and where in a file its heads, its units and its first row stand."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from ..core.formula.units import BadUnit, parse_unit
from ..core.language.vocabulary.names import RESERVED
from .cells import MISSING, is_any_number, number_of, unit_of
from .times import looks_like_time

_HEADS = (
    re.compile(r"(.+?)\s*\[([^\]]*)\]\s*\Z"), re.compile(r"(.+?)\s*\(([^)]*)\)\s*\Z"), re.compile(r"(.+?)\s+/\s+(\S.*?)\s*\Z"),
    re.compile(r"(.+?)\s+in\s+(\S+)\s*\Z"),
)  # fmt: skip
_NO_UNIT = frozenset(["", "-", "–", "—", "1"])


def head_and_unit(text: str) -> tuple[str, str | None]:
    """`Q [m^3/s]`, `Q (m³/s)`, `Q / (m³/s)`, `Q in m` as name and unit, where the unit is one."""
    text = text.strip()
    for pattern in _HEADS:
        match = pattern.match(text)
        if match is None:
            continue
        name, said = match.groups()
        # In square brackets any word is meant as a unit; elsewhere only such as are in use.
        unit = written_unit(said, pattern is not _HEADS[0])
        if unit is not None:
            return name.strip(), unit or None
    return text, None


def written_unit(text: str, in_use: bool = True) -> str | None:
    """A unit as it stands in a file, without brackets; empty where it is none at all, None where it is no unit.

    in_use: only units that are in use, and no others that somebody made up
    """
    unit = text.strip()
    for one, other in ("[]", "()"):
        if unit.startswith(one) and unit.endswith(other):
            unit = unit[1:-1].strip()
    unit = unit.replace("degC", "°C")
    if unit in _NO_UNIT:
        return ""
    if any(word in RESERVED for word in unit.split()):
        return None
    try:
        found = parse_unit(unit)
    except BadUnit:
        return None
    return unit if found.known or not in_use else None


@dataclass(frozen=True)
class Layout:
    """Rows, from 0, of the heads, of the units below them, and of the first row of values; None where there are none."""

    heads: int | None
    units: int | None
    body: int


def layout(rows: Sequence[Sequence[str]]) -> Layout:
    """Where a table begins among its first rows, which have one same number of cells; titles may stand above it.

    Its first row is the first in which all columns of numbers hold numbers; its heads are the next row above that holds none. What
    stands between the two counts as values, good or bad.
    """
    if len(rows) == 1:
        return Layout(None, None, 0) if any(_is_value(c) for c in rows[0]) else Layout(0, None, 1)
    numeric = _columns_of_values(rows)
    if not numeric:
        return Layout(0, None, 1)
    first = next((k for k, row in enumerate(rows) if _fits(row, numeric)), None)
    if first is None:
        first = next((k for k, row in enumerate(rows) if any(_is_value(row[c]) for c in numeric)), 0)
    heads = next((k for k in range(first - 1, -1, -1) if _may_be_heads(rows[k], numeric)), None)
    if heads is None:
        return Layout(None, None, _first_full(rows, first))
    above = heads - 1
    if above >= 0 and _may_be_heads(rows[above], numeric) and _are_units(rows[heads], rows[above]):
        return Layout(above, heads, heads + 1)
    return Layout(heads, None, heads + 1)


def _is_value(cell: str) -> bool:
    """A number of any kind, or a time."""
    cell = cell.strip()
    if not any(c.isdigit() for c in cell):
        return False
    return is_any_number(cell) or any(number_of(cell, s) for s in ".,") or unit_of(cell) is not None or looks_like_time(cell)


def _columns_of_values(rows: Sequence[Sequence[str]]) -> list[int]:
    below = rows[max(1, len(rows) // 3) :]
    found = []
    for c in range(len(rows[0])):
        filled = [row[c] for row in below if row[c].strip().lower() not in MISSING]
        if filled and 2 * sum(_is_value(cell) for cell in filled) >= len(filled):
            found.append(c)
    return found


def _fits(row: Sequence[str], numeric: Sequence[int]) -> bool:
    filled = [row[c] for c in numeric if row[c].strip().lower() not in MISSING]
    return bool(filled) and all(_is_value(cell) for cell in filled)


def _may_be_heads(row: Sequence[str], numeric: Sequence[int]) -> bool:
    if any(_is_value(cell) for cell in row):
        return False
    return any(row[c].strip().lower() not in MISSING for c in numeric)


def _first_full(rows: Sequence[Sequence[str]], first: int) -> int:
    """Rows of values right above the first good one belong to the table, as bad as they may be."""
    while first > 0 and any(_is_value(c) or c.strip().lower() in MISSING - {""} for c in rows[first - 1]):
        first -= 1
    return first


def _are_units(row: Sequence[str], heads: Sequence[str]) -> bool:
    said = [(written_unit(cell), cell.strip()) for cell in row]
    named = all(head.strip() for head, (unit, cell) in zip(heads, said, strict=True) if unit or cell)
    return named and all(unit is not None for unit, _ in said) and any(unit for unit, _ in said)
