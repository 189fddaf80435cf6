"""What in a file may be read otherwise: told in a sentence, with the other reading beside it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

import numpy as np

from . import times
from .cells import BLANKS, BY_COMMA, BY_POINT, MISSING, number_of, plain_number
from .recipe import ColumnRecipe, Doubt

_SHARE_OF_NUMBERS = 0.3  # of a column of texts, from which on it is told that it is none of numbers
_NINES = re.compile(r"-?9{3,}(\.9+|\.0+)?\Z|-?9{2,}\.9+\Z")
_FAR = 3.0  # ranges of the other numbers that a sign for "no value" lies away from them
_MOST_DIGITS = 2**53
_NUMBER_IN_FRONT = rf"^([+\-−]?(?:[0-9]|[.,][0-9])(?:[0-9.,{BLANKS}]*[0-9])?(?:[eEdD][+\-−]?[0-9]+)?)\s*(?:$|\(|±|\+|%|[^\s0-9.,:/\-−])"
_LONG_WHOLE = r"^[+\-−]?\d{16,}$"


def same_head(name: str, second: str) -> Doubt:
    return Doubt(f"head:{name}", f"the head '{name}' stands there more than once: the next one is called '{second}'")


def never_worked_out(recipe: ColumnRecipe, rows: Sequence[int], formula: str) -> Doubt:
    holds = "holds a formula" if len(rows) == 1 else "hold formulas"
    told = f"{recipe.name}: {_rows(rows)} {holds} without a result, such as {formula[:40]}"
    way_out = "open the file in the program that wrote it, save it there and bring it in anew"
    return Doubt(f"formulas:{recipe.source}", f"{told}; {way_out}", recipe.source)


def of_column(recipe: ColumnRecipe, text: Any, numbers: Any, decimal: str) -> list[Doubt]:
    """text: the cells as a series of texts. numbers: what was read, NaN where nothing was; None of a column of texts."""
    if recipe.kind == "text":
        return _text_with_numbers(recipe, text, decimal)
    if recipe.kind == "time":
        return _order_of_the_day(recipe, text)
    return [*_signs_of_no_value(recipe, numbers), *_more_digits_than_kept(recipe, text), *_carried(recipe)]


def _text_with_numbers(recipe: ColumnRecipe, text: Any, decimal: str) -> list[Doubt]:
    cells = text.to_list()
    filled = [(row, c) for row, c in enumerate(cells, 1) if c.lower() not in MISSING]
    read = [number_of(c, decimal) is not None for _, c in filled]
    count = sum(read)
    if not filled or count < 2 or count < _SHARE_OF_NUMBERS * len(filled):
        return []
    if count == len(filled):
        # Somebody wants these numbers as texts; the rule that says so is the recipe.
        return []
    row, cell = filled[read.index(False)]
    bad = len(filled) - count
    others = "" if bad == 1 else ", and 1 more is no number" if bad == 2 else f", and {bad - 1} more are no numbers"
    told = f"{recipe.name} is read as text: row {row} holds '{cell[:40]}'{others}"
    gaps = f"{bad} cell{'s' if bad != 1 else ''} become{'s' if bad == 1 else ''} {'gaps' if bad != 1 else 'a gap'}"
    return [Doubt(f"kind:{recipe.source}", told, recipe.source, f"Read it as numbers: {gaps}", {"kind": "number", "format": None})]


def _order_of_the_day(recipe: ColumnRecipe, text: Any) -> list[Doubt]:
    other = times.swapped(recipe.format or "")
    if other is None:
        return []
    cells = [c for c in text.to_list() if c.lower() not in MISSING]
    fit = times.fitting(cells)
    if fit is None or fit.other is None:
        return []
    cell = next((c for c in cells if len(set(re.findall(r"\d+", c)[:2])) > 1), cells[0])
    first = (recipe.format or "").startswith("%d")
    mine, its = ("day before month", "month before day") if first else ("month before day", "day before month")
    return [
        Doubt(
            f"order:{recipe.source}", f"{recipe.name}: every date reads either way; '{cell}' is taken with the {mine}", recipe.source,
            f"Read the {its}", {"format": other, "since": None, "description": ""},
        )
    ]  # fmt: skip


def _signs_of_no_value(recipe: ColumnRecipe, numbers: Any) -> list[Doubt]:
    good = numbers[np.isfinite(numbers)]
    found = []
    for value in {float(good.min()), float(good.max())} if good.size > 3 else ():
        text = f"{value:.10g}"
        rest = good[good != value]
        if not _NINES.match(text) or rest.size < 3:
            continue
        spread = max(float(np.ptp(rest)), 0.1 * float(np.abs(rest).max()))
        if np.min(np.abs(rest - value)) <= _FAR * spread:
            continue
        rows = np.flatnonzero(numbers == value) + 1
        shown = text.replace("-", "−")
        told = f"{shown} stands in {_rows(rows)} of {recipe.name}, far from all other numbers: it may say that there is no value"
        gaps = sorted({*recipe.gaps, value})
        found.append(Doubt(f"gaps:{recipe.source}:{text}", told, recipe.source, f"Take {shown} as a gap", {"gaps": gaps}))
    return found


def _rows(rows: Sequence[int] | Any) -> str:
    if len(rows) == 1:
        return f"row {rows[0]}"
    return f"{len(rows)} rows (the first is {rows[0]})"


def _more_digits_than_kept(recipe: ColumnRecipe, text: Any) -> list[Doubt]:
    for k in text.str.contains(_LONG_WHOLE).arg_true().to_list()[:10_000]:
        cell = text[k].replace("−", "-")
        if abs(int(cell)) > _MOST_DIGITS and int(float(cell)) != int(cell):
            told = f"{recipe.name}: '{cell}' in row {k + 1} has more digits than a number keeps; it is read as {int(float(cell))}"
            change = {"kind": "text", "unit": None}
            return [Doubt(f"digits:{recipe.source}", told, recipe.source, "Keep the column as text", change)]
    return []


def _carried(recipe: ColumnRecipe) -> list[Doubt]:
    if recipe.carries is None or recipe.carries == "%":
        return []
    told = f"{recipe.name}: each cell carries '{recipe.carries}', which is taken as the unit"
    change = {"kind": "text", "unit": None, "carries": None}
    return [Doubt(f"unit:{recipe.source}", told, recipe.source, "Keep the column as text", change)]


# ---------------------------------------------------------------- the decimal sign


def decimal_sign(columns: Sequence[Any], heads: Sequence[str], delimiter: str) -> tuple[str, Doubt | None]:
    """The decimal sign of a whole text, from every cell that is a number by one sign only; and the doubt where none tells.

    Where none does, a comma is one if something else divides the cells.
    """
    points = commas = 0
    either: dict[str, tuple[str, str, int]] = {}
    for head, text in zip(heads, columns, strict=True):
        # Of 2,50(5), 2,5 ± 0,1 and 45,5 % the number in front counts.
        marked = text.str.strip_chars().str.extract(_NUMBER_IN_FRONT)
        marked = marked.filter(marked.str.contains(r"[.,]"))
        by_point, by_comma = marked.str.contains(f"^(?:{BY_POINT})$"), marked.str.contains(f"^(?:{BY_COMMA})$")
        points += int((by_point & ~by_comma).sum())
        commas += int((by_comma & ~by_point).sum())
        for cell in marked.filter(by_point & by_comma).head(1).to_list():
            row = int(text.str.strip_chars().str.starts_with(cell).arg_max() or 0) + 1
            either.setdefault("," if "," in cell else ".", (head, cell, row))
    if points != commas:
        return ("," if commas > points else "."), None
    divided = delimiter != ","
    sign = "," if divided and "," in either else "."
    told = either.get(",") or (either.get(".") if delimiter == ";" else None)
    if told is None:
        return sign, None
    head, cell, row = told
    other = "." if sign == "," else ","
    mine, its = (f"{plain_number(cell, s):.10g}" for s in (sign, other))
    text = f"{cell} in row {row} of {head} is read as {mine}; no number of the file tells whether its sign divides decimals or thousands"
    return sign, Doubt("decimal", text, None, f"Read {cell} as {its}", {"decimal": other})
