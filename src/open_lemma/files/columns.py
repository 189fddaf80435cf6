"""Cells as columns of numbers, times and texts: what each column holds is found out, or obeyed where a recipe says it."""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

import numpy as np

from ..core.language.vocabulary.names import RESERVED, canonical_name
from . import doubts, times
from .cells import MISSING, number_of, unit_of
from .heads import head_and_unit
from .recipe import ColumnRecipe, Recipe

MAX_BAD = 1_000  # bad cells of one column that are told
MOSTLY = 0.8  # of the cells of a column must be of its kind
_SAMPLE = 2_000
_SECONDS = {"seconds": 1.0, "minutes": 60.0, "hours": 3600.0, "days": 86_400.0}
_UNITS = {"seconds": "s", "minutes": "min", "hours": "h", "days": "d"}
_START = {"midnight": 0.0, "the start": 0.0}


class BadTable(Exception):
    """Why a file is no table; the text names the place and a way out."""


@dataclass
class ReadColumn:
    """What a column holds.

    numbers  doubles, NaN where there is a gap or a bad cell
    errors   their standard uncertainties, where cells say any
    texts    of a column of kind text
    bad      (row from 1, what was found)
    """

    recipe: ColumnRecipe
    numbers: Any = None
    texts: list[str] | None = None
    bad: list[tuple[int, str]] = field(default_factory=list)
    bad_count: int = 0
    errors: Any = None

    @property
    def rows(self) -> int:
        return len(self.numbers) if self.numbers is not None else len(self.texts or ())

    def add_bad(self, k: int, cell: str) -> None:
        self.bad_count += 1
        if len(self.bad) < MAX_BAD:
            self.bad.append((k + 1, cell[:80]))


@dataclass
class ReadTable:
    recipe: Recipe
    columns: list[ReadColumn]
    sha256: str = ""

    @property
    def rows(self) -> int:
        return self.columns[0].rows if self.columns else 0


class Unread(str):
    """A cell whose value the file does not hold, such as a formula that was never worked out."""


def sources_of(heads: Sequence[str], recipe: Recipe) -> list[str]:
    """What the columns are called in the file, each once. Raises BadTable where a recipe with columns names others."""
    seen: dict[str, int] = {}
    found = []
    for k, head in enumerate(heads, 1):
        name = head or f"c{k}"
        seen[name] = seen.get(name, 0) + 1
        found.append(name if seen[name] == 1 else f"{name} {seen[name]}")
        if seen[name] == 2:
            recipe.doubts.append(doubts.same_head(name, found[-1]))
    obeyed = {c.source for c in recipe.columns}
    if obeyed and obeyed != set(found):
        missing, new = sorted(obeyed - set(found)), sorted(set(found) - obeyed)
        raise BadTable(f"the file has no column '{missing[0]}'" if missing else f"the file has a new column '{new[0]}'")
    return found


def typed(recipe: Recipe, heads: Sequence[str], columns: Sequence[Any], units: Sequence[str] = ()) -> ReadTable:
    """Columns with their kinds from texts; a recipe with columns is obeyed, else kinds and units are found out.

    units: of a row of units below the heads, as they stand there.
    """
    sources = sources_of(heads, recipe)
    obeyed = {c.source: c for c in recipe.columns}
    names: set[str] = set()
    found = []
    for k, (source, cells) in enumerate(zip(sources, columns, strict=True)):
        said = obeyed.get(source) or guessed(source, cells, recipe, names, units[k] if k < len(units) else "")
        found.append(column_of(said, cells, recipe))
    recipe.columns = [c.recipe for c in found]
    return ReadTable(recipe, found)


# ---------------------------------------------------------------- what a column is


def guessed(source: str, cells: Any, recipe: Recipe, taken: set[str], unit_below: str = "") -> ColumnRecipe:
    head, unit = head_and_unit(source)
    unit = unit or unit_below or None
    name = column_name(head, taken)
    plain = [c.strip() for c in _sample(cells) if not isinstance(c, Unread) and c.strip().lower() not in MISSING]
    numbers = sum(number_of(c, recipe.decimal) is not None for c in plain)
    if not plain or numbers >= MOSTLY * len(plain):
        return ColumnRecipe(source, name, "number", unit)
    if (fit := times.fitting(plain)) is not None:
        return ColumnRecipe(source, name, "time", None, format=fit.format)
    carried = Counter(u for c in plain if (u := unit_of(c)) is not None).most_common(1)
    if carried and carried[0][1] >= MOSTLY * len(plain):
        return ColumnRecipe(source, name, "number", unit or carried[0][0], carries=carried[0][0])
    return ColumnRecipe(source, name, "text", None)


def column_name(head: str, taken: set[str]) -> str:
    """A name for a column: as it stands where that is a name, else with its odd signs made blanks; each once."""
    name = canonical_name(head) if head.isidentifier() else re.sub(r'["\\\n\r\t]+', " ", head).strip() or "column"
    if name in RESERVED:
        name += "_"
    base, k = name, 2
    while name in taken:
        name, k = f"{base}_{k}", k + 1
    taken.add(name)
    return name


def _sample(cells: Any) -> list[str]:
    n = len(cells)
    if n <= _SAMPLE:
        return list(cells)
    return [cells[int(k)] for k in np.linspace(0, n - 1, _SAMPLE)]


# ---------------------------------------------------------------- what a column holds


def column_of(recipe: ColumnRecipe, cells: Any, whole: Recipe) -> ReadColumn:
    import polars as pl

    unread = [] if isinstance(cells, pl.Series) else [(k, c) for k, c in enumerate(cells) if isinstance(c, Unread)]
    text = cells if isinstance(cells, pl.Series) else pl.Series(["" if isinstance(c, Unread) else c for c in cells], dtype=pl.String)
    text = text.fill_null("").str.strip_chars()
    if recipe.kind == "text":
        found = ReadColumn(recipe, None, text.to_list())
    elif recipe.kind == "time":
        found = _times(recipe, text)
    else:
        found = _numbers(recipe, text, whole.decimal)
    for k, cell in unread:
        found.add_bad(k, cell)
    if unread:
        whole.doubts.append(doubts.never_worked_out(recipe, [k + 1 for k, _ in unread], unread[0][1]))
    whole.doubts += doubts.of_column(recipe, text, found.numbers, whole.decimal)
    return found


def _numbers(recipe: ColumnRecipe, text: Any, decimal: str) -> ReadColumn:
    import polars as pl

    plain = text.str.replace("−", "-", literal=True)
    if decimal == ",":
        # Points divide thousands here, which the slow way looks after.
        grouped = plain.str.contains(".", literal=True)
        plain = plain.str.replace(",", ".", literal=True).to_frame("cell").select(pl.when(~grouped).then("cell")).to_series()
    values = plain.cast(pl.Float64, strict=False)
    numbers = values.to_numpy().astype(float, copy=True)
    found = ReadColumn(recipe, numbers)
    errors = np.zeros(len(numbers))
    # What the quick way did not understand is looked at one by one: thousands in groups, uncertainties, units, bad cells.
    ask = (values.is_null() | values.is_infinite()) if recipe.carries is None else text.str.len_chars() > 0
    for k in ask.arg_true().to_list():
        cell = text[k]
        numbers[k] = np.nan
        if cell.lower() in MISSING:
            continue
        read = number_of(cell, decimal, recipe.carries)
        if read is not None and math.isfinite(read.value):
            numbers[k], errors[k] = read.value, read.error
        else:
            found.add_bad(k, cell)
    return _with_gaps(found, errors)


def _with_gaps(found: ReadColumn, errors: Any) -> ReadColumn:
    for gap in found.recipe.gaps:
        found.numbers[found.numbers == gap] = np.nan
    found.recipe.uncertain = bool(errors.any())
    if found.recipe.uncertain:
        found.errors = errors
    return found


def ready_numbers(recipe: ColumnRecipe, series: Any, whole: Recipe) -> ReadColumn:
    """A column that comes as numbers (a Polars series)."""
    import polars as pl

    numbers = series.cast(pl.Float64).fill_null(float("nan")).to_numpy().astype(float, copy=True)
    found = _with_gaps(ReadColumn(recipe, numbers), np.zeros(len(numbers)))
    text = series.cast(pl.String) if series.dtype.is_integer() else pl.Series([], dtype=pl.String)
    whole.doubts += doubts.of_column(recipe, text, found.numbers, whole.decimal)
    return found


def _times(recipe: ColumnRecipe, text: Any) -> ReadColumn:
    """Times as numbers counted from a moment that is said: from the first midnight, or as the recipe has it."""
    if recipe.format is None:
        fit = times.fitting(text.to_list())
        recipe.format = fit.format if fit is not None else "%Y-%m-%d %H:%M:%S%.f"
    try:
        seconds = times.seconds(text, recipe.format)
    except Exception as trouble:  # the library below refuses ways of writing by errors of several kinds
        raise BadTable(f"'{recipe.format}' is no way of writing times: {str(trouble).splitlines()[0][:120]}") from None
    start = "the start" if recipe.format == times.RUNNING else "midnight" if times.is_clock(recipe.format) else None
    return counted(recipe, seconds, text.to_list(), start)


def counted(recipe: ColumnRecipe, seconds: Any, cells: Sequence[Any], start: str | None) -> ReadColumn:
    """start: what times without a day are counted from."""
    good = seconds[np.isfinite(seconds)]
    found = ReadColumn(recipe, seconds.copy())
    for k in np.flatnonzero(~np.isfinite(seconds)).tolist():
        cell = str(cells[k]).strip()
        if cell.lower() not in MISSING:
            found.add_bad(k, cell)
    if recipe.since is None and good.size:
        span = float(np.ptp(good))
        unit = "seconds" if span <= 7_200 else "hours" if span <= 60 * 86_400 else "days"
        midnight = 0.0 if start else math.floor(float(good.min()) / 86_400) * 86_400
        moment = start or datetime.fromtimestamp(midnight, UTC).strftime("%Y-%m-%d %H:%M")
        recipe.since = f"{unit} since {moment}"
    if recipe.since is not None:
        unit, _, moment = recipe.since.partition(" since ")
        if unit not in _SECONDS:
            raise BadTable(f"times are counted in {', '.join(_SECONDS)}; not in '{unit}'")
        found.numbers = (seconds - _moment(moment)) / _SECONDS[unit]
        recipe.unit = _UNITS[unit]
        recipe.description = recipe.description or recipe.since
    return found


def _moment(text: str) -> float:
    if text in _START:
        return _START[text]
    try:
        return datetime.strptime(text, "%Y-%m-%d %H:%M").replace(tzinfo=UTC).timestamp()
    except ValueError:
        raise BadTable(f"'{text}' is no moment; write it like 2031-05-02 06:00") from None
