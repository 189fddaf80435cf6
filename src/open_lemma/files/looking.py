"""A table as it is looked at: pages of rows, what a column is like, another version beside it, the whole as a file."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from .opening import Bundle
from .ready import PlainColumn
from .recipe import Recipe
from .summary import summary
from .writing import table_file

MOST_ROWS = 500  # of one page of rows
TOLD = 200

# The numbers of a computed column by its name.
Computed = Callable[[str], Any]


class NoColumn(Exception):
    """The table has no such column."""


@dataclass(frozen=True, slots=True)
class RowsWanted:
    """start, count  of the rows that are left, the page
    sort, down       the column by which they are ordered
    where            the column that filters: by `text`, by `gaps`, or from `low` to `high`
    only             "mended": rows that were mended or left out, or that hold a cell that is no number
    """

    start: int = 0
    count: int = 100
    sort: str | None = None
    down: bool = False
    where: str | None = None
    text: str | None = None
    gaps: bool = False
    low: float | None = None
    high: float | None = None
    only: str | None = None


class Whole:
    """All columns of a table with the numbers that count."""

    def __init__(self, kept: Bundle, computed: Computed) -> None:
        self.recipe, self.plain, self.rows = kept.recipe, kept.columns, kept.rows
        done = kept.table()
        self.names = [c.name for c in done.columns]
        self.units = [c.unit for c in done.columns]
        self.data: list[Any] = [c.data for c in done.columns]
        for column in self.recipe.computed:
            self.names.append(column.name)
            self.units.append(column.unit)
            self.data.append(computed(column.name))

    def column(self, name: str) -> Any:
        """Raises NoColumn."""
        if name not in self.names:
            raise NoColumn(f"the table has no column '{name}'")
        return self.data[self.names.index(name)]

    def chosen(self, wanted: RowsWanted) -> Any:
        """The rows, counted from 0, that a filter leaves, in the order that is asked for."""
        keep = np.ones(self.rows, dtype=bool)
        if wanted.where is not None:
            keep &= self._filtered(wanted, self.column(wanted.where))
        if wanted.only == "mended":
            mended = np.zeros(self.rows, dtype=bool)
            mended[[r - 1 for r in touched(self.recipe, [c.bad for c in self.plain]) if 1 <= r <= self.rows]] = True
            keep &= mended
        found = np.flatnonzero(keep)
        return found if wanted.sort is None else self._sorted(found, self.column(wanted.sort), wanted.down)

    def _filtered(self, wanted: RowsWanted, data: Any) -> Any:
        if isinstance(data, list):
            return np.array([(wanted.text or "").lower() in t.lower() for t in data], dtype=bool)
        if wanted.gaps:
            return ~np.isfinite(data)
        with np.errstate(invalid="ignore"):
            low = data >= wanted.low if wanted.low is not None else True
            high = data <= wanted.high if wanted.high is not None else True
            return np.asarray(low) & np.asarray(high)

    def _sorted(self, found: Any, data: Any, down: bool) -> Any:
        part = np.array([data[k] for k in found]) if isinstance(data, list) else np.asarray(data)[found]
        order = np.argsort(part, kind="stable")
        if down:
            # Gaps stay last whichever way the numbers go.
            size = int(np.sum(np.isfinite(part))) if part.dtype.kind == "f" else len(part)
            order = np.concatenate([order[:size][::-1], order[size:]])
        return found[order]

    def page(self, wanted: RowsWanted) -> dict[str, Any]:
        """Rows with their numbers in the file, from 1; what was excluded or corrected beside what stood there."""
        chosen = self.chosen(wanted)
        page = chosen[wanted.start : wanted.start + min(wanted.count, MOST_ROWS)]
        cells = [_cells(d, page) for d in self.data]
        plain = [_cells(c.texts if c.texts is not None else c.numbers, page) for c in self.plain]
        return {
            "total": len(chosen), "numbers": [int(k) + 1 for k in page], "cells": [list(r) for r in zip(*cells, strict=True)],
            "original": [list(r) for r in zip(*plain, strict=True)],
            "errors": {c.name: np.asarray(c.errors)[page].tolist() for c in self.plain if c.errors is not None},
        }  # fmt: skip

    def summary(self, name: str) -> dict[str, Any]:
        """What a column looks like with all that was mended; rows that are excluded count apart. Raises NoColumn."""
        data = self.column(name)
        return summary(None, data) if isinstance(data, list) else kept_summary(data, self.recipe)

    def as_file(self, fmt: str, name: str) -> bytes:
        """Raises NotWritten."""
        return table_file(list(zip(self.names, self.units, self.data, strict=True)), fmt, name)


def _cells(data: Any, page: Any) -> list[Any]:
    return [data[k] for k in page] if isinstance(data, list) else [v if v == v else None for v in np.asarray(data)[page].tolist()]


def touched(recipe: Recipe, bad: list[list[Any]]) -> set[int]:
    """Rows, from 1, that were mended or left out, or that hold a cell that is no number."""
    return {c.row for c in recipe.corrections} | set(recipe.excluded) | {row for cells in bad for row, _ in cells}


def kept_summary(data: Any, recipe: Recipe) -> dict[str, Any]:
    kept = np.delete(np.asarray(data), [r - 1 for r in set(recipe.excluded) if 1 <= r <= len(data)])
    return summary(kept, None) | {"left_out": len(data) - len(kept)}


def mended_summaries(kept: Bundle) -> dict[str, dict[str, Any]]:
    """What columns of numbers look like with what was corrected and left out."""
    return {c.name: kept_summary(c.data, kept.recipe) for c in kept.table().columns if not isinstance(c.data, list)}


def compared(now: list[PlainColumn], before: dict[str, Any]) -> dict[str, Any]:
    """Columns that came and went, and cells that changed, against the numbers or texts of an older version by column."""
    changed: list[list[Any]] = []
    count = 0
    for column in now:
        if column.name not in before:
            continue
        other = before[column.name]
        values: Any = column.texts if column.texts is not None else column.numbers
        cells = _different(values, other)
        count += len(cells)
        changed += [[int(k) + 1, column.name, _cell(other[k]), _cell(values[k])] for k in cells[:TOLD]]
    names = [c.name for c in now]
    return {
        "columns_gone": [n for n in before if n not in names], "columns_new": [n for n in names if n not in before],
        "cells_changed": count, "cells": sorted(changed, key=lambda c: (c[0], c[1]))[:TOLD],
    }  # fmt: skip


def _different(now: Any, before: Any) -> Any:
    size = min(len(now), len(before))
    if isinstance(now, list) or isinstance(before, list):
        return [k for k in range(size) if str(now[k]) != str(before[k])]
    one, other = np.asarray(now[:size]), np.asarray(before[:size])
    return np.flatnonzero((one != other) & ~(np.isnan(one) & np.isnan(other)))


def _cell(value: Any) -> Any:
    return value if isinstance(value, str) else None if value != value else float(value)
