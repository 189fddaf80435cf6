"""What a cell of a file says: a number with either decimal sign, with its unit, with its standard uncertainty."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..core.formula.estimates import value_and_error
from ..core.formula.units import BadUnit, parse_unit

MISSING = frozenset(["", "na", "n/a", "nan", "null", "none", "gap", "-", "–", "—", "#n/a", "#nv", "?", "."])
BLANKS = " \u00a0\u202f\u2009'"
_SIGN, _POWER = r"[+\-−]?", r"([eEdD][+\-−]?\d+)?"
_GROUPS = rf"\d{{1,3}}([{BLANKS}]\d{{3}})+|\d+"
# By one sign and by the other; `1,500` is a number by both, `0,500` and `1,5` only by the comma.
BY_POINT = rf"{_SIGN}({_GROUPS}|[1-9]\d{{0,2}}(,\d{{3}})+)?(\.\d*)?{_POWER}"
BY_COMMA = rf"{_SIGN}({_GROUPS}|[1-9]\d{{0,2}}(\.\d{{3}})+)?(,\d*)?{_POWER}"
_POINT, _COMMA = re.compile(rf"{BY_POINT}\Z"), re.compile(rf"{BY_COMMA}\Z")
_SPREAD = re.compile(r"(.+?)\s*(?:±|\+/-|\+-)\s*(.+)\Z")
_LAST_DIGITS = re.compile(rf"(.+?)\((\d+(?:[.,]\d+)?)\)({_POWER})\Z")
_LONGEST = 40  # letters of a cell that may be a number with its unit


@dataclass(frozen=True)
class CellNumber:
    """error: one standard uncertainty, 0 where the cell says none."""

    value: float
    error: float = 0.0


def is_number(text: str, decimal: str) -> bool:
    text = text.strip()
    return bool(text) and any(c.isdigit() for c in text) and (_COMMA if decimal == "," else _POINT).match(text) is not None


def is_any_number(text: str) -> bool:
    """A number by one decimal sign or the other."""
    return is_number(text, ".") or is_number(text, ",")


def plain_number(text: str, decimal: str) -> float | None:
    """The number that a cell says, with groups of thousands, either decimal sign and `D` for powers; None where it says none."""
    written = _normal(text, decimal)
    return None if written is None else float(written)


def _normal(text: str, decimal: str) -> str | None:
    if not is_number(text, decimal):
        return None
    text = re.sub(f"[{BLANKS}]", "", text.strip()).replace("−", "-")
    text = text.replace(".", "").replace(",", ".") if decimal == "," else text.replace(",", "")
    text = text.replace("D", "e").replace("d", "e")
    try:
        float(text)
    except ValueError:
        return None
    return text


def number_of(text: str, decimal: str, unit: str | None = None) -> CellNumber | None:
    """What a cell says where each carries `unit`: `2.50`, `2.50±0.05`, `2.50(5)`, `45 %`; None where it is no number."""
    text = text.strip()
    if unit is not None:
        if not text.endswith(unit):
            return None
        text = text[: -len(unit)].rstrip()
    value = plain_number(text, decimal)
    if value is not None:
        return CellNumber(value)
    if match := _SPREAD.match(text):
        middle, spread = (_normal(part.strip("() "), decimal) for part in match.groups())
        if middle is None or spread is None or float(spread) < 0:
            return None
        return CellNumber(float(middle), float(spread))
    if match := _LAST_DIGITS.match(text):
        digits, last, power = match.group(1), match.group(2), match.group(3)
        written = _normal(digits, decimal)
        if written is None or "e" in written.lower():
            return None
        scale = power.replace("−", "-").replace("D", "e").replace("d", "e")
        number, doubt = value_and_error(f"{written}({last.replace(',', '.')})")
        return CellNumber(float(number + scale), float(f"{doubt!r}{scale}") if scale else doubt)
    return None


def unit_of(text: str) -> str | None:
    """The unit that a cell carries behind its number: `45 %`, `2.50 ± 0.05 cm`; None where there is none."""
    text = text.strip()
    if not text[:1] or text[0] not in "+-−.,0123456789" or len(text) > _LONGEST:
        return None
    for end in range(len(text) - 1, 0, -1):
        if text[end - 1] == " " or not any(number_of(text[:end], sign) for sign in ".,"):
            continue
        unit = text[end:].strip()
        try:
            return unit if parse_unit(unit).known else None
        except BadUnit:
            return None
    return None
