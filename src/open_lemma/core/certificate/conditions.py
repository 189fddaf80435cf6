"""Inequalities: the spans on which a condition holds, and whether their ends belong to them."""

from __future__ import annotations

from typing import Any

from .cover import Box, Cover, Point, Unproven, between, bits, exact_number
from .exact import BITS
from .rows import Verdict


def spans(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """Where a condition holds: rows with `low`, `high` and whether these belong to it; a single place has both ends alike."""
    cover = Cover(certificate)
    held: list[list[Any]] = []  # [low end, its part, in?, high end, in?]
    is_open = False
    for part in cover.parts:
        if isinstance(part, Point):
            for item in ((part.left[:1], None), (part.value, part), (part.right[:1], None)):
                is_open = _continue(held, is_open, item[0], part, item[1] is not None)
        else:
            is_open = _continue(held, is_open, part.code, part, False)
    verdict = Verdict([], True, cover.boxes.count)
    for k, row in enumerate(rows):
        verdict.proven.append(k < len(held) and _span_fits(row, held[k]))
    verdict.complete = len(rows) == len(held) and all(verdict.proven)
    return verdict


def _continue(held: list[list[Any]], is_open: bool, code: str, part: Any, is_point: bool) -> bool:
    """Whether the condition holds up to the end of what a letter is said of; the last span goes on there, begins or ends."""
    if code == "":
        return is_open
    if code not in "TN":
        raise Unproven("a place where the condition is not settled")
    if code == "T":
        if not is_open:
            held.append([part, is_point, None, False])
        held[-1][2], held[-1][3] = part, is_point
        return True
    if is_open and isinstance(part, Point) and (is_point or held[-1][2] is not part):
        held[-1][2], held[-1][3] = part, False
    return False


def _span_fits(row: dict[str, Any], mine: list[Any]) -> bool:
    for name, part, inside in (("low", mine[0], mine[1]), ("high", mine[2], mine[3])):
        if row[name] is None:
            if not (isinstance(part, Box) and getattr(part, name) is None):
                return False
            continue
        if not isinstance(part, Point) or bool(row[f"{name}_belongs"]) != inside:
            return False
        low, high = between(row, name, row[f"{name}_interval"])
        if part.exact is not None and low == high:
            with bits(BITS):
                if not (part.exact - exact_number(low)).is_zero():
                    return False
        elif not (low <= part.at[0] and part.at[1] <= high):
            return False
    return True
