"""Inequalities: the spans on which a condition holds, and whether their ends belong to them."""

from __future__ import annotations

from typing import Any

from .cover import Box, Cover, Point, Unproven, between, bits
from .exact import BITS
from .rows import Verdict, exact_of


def spans(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """Where a condition holds: rows with `low`, `high` and whether these belong to it; a single place has both ends alike."""
    cover = Cover(certificate)
    held: list[list[Any]] = []  # [low end, its part, in?, high end, in?]
    open_at = None
    for part in cover.parts:
        if isinstance(part, Point):
            for item in ((part.left[:1], None), (part.value, part), (part.right[:1], None)):
                open_at = _continue(held, open_at, item[0], part, item[1] is not None)
        else:
            open_at = _continue(held, open_at, part.code, part, False)
    verdict = Verdict([], True, cover.boxes.count)
    for k, row in enumerate(rows):
        verdict.proven.append(k < len(held) and _span_fits(row, held[k]))
    verdict.complete = len(rows) == len(held) and all(verdict.proven)
    return verdict


def _continue(held: list[list[Any]], open_at: Any, code: str, part: Any, is_point: bool) -> Any:
    if code == "":
        return open_at
    if code not in "TN":
        raise Unproven("a place where the condition is not settled")
    if code == "T":
        if open_at is None:
            held.append([part, is_point, None, False])
        held[-1][2], held[-1][3] = part, is_point
        return True
    if open_at is not None and held and not is_point and isinstance(part, Point) and held[-1][2] is not part:
        held[-1][2], held[-1][3] = part, False
    if open_at is not None and is_point:
        held[-1][2], held[-1][3] = part, False
    return None


def _span_fits(row: dict[str, Any], mine: list[Any]) -> bool:
    for name, part, inside, far in (("low", mine[0], mine[1], "low"), ("high", mine[2], mine[3], "high")):
        if row[name] is None:
            if not (isinstance(part, Box) and getattr(part, far) is None):
                return False
            continue
        if not isinstance(part, Point) or bool(row[f"{name}_belongs"]) != inside:
            return False
        low, high = between(row, name, row[f"{name}_interval"])
        if part.exact is not None and low == high:
            with bits(BITS):
                if not (part.exact - exact_of(low)).is_zero():
                    return False
        elif not (low <= part.at[0] and part.at[1] <= high):
            return False
    return True
