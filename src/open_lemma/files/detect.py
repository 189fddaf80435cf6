"""Finding out how a text file of numbers is written: encoding, delimiter, decimal sign, heads, units, times."""

from __future__ import annotations

import csv
import io
import re
from collections import Counter
from collections.abc import Sequence
from datetime import datetime

from ..core.formula.units import BadUnit, parse_unit
from ..core.language.vocabulary.names import RESERVED
from .recipe import Recipe

DELIMITERS = (",", ";", "\t", "|", " ")
MISSING = frozenset(["", "na", "n/a", "nan", "null", "none", "gap", "-", "–", "—", "#n/a", "#nv", "?", "."])
_PLAIN = re.compile(r"[+\-−]?(\d+([ \u00a0']\d{3})*|\d{1,3}(,\d{3})+)?(\.\d*)?([eE][+\-−]?\d+)?\Z")
_COMMA = re.compile(r"[+\-−]?(\d+([ \u00a0']\d{3})*|\d{1,3}(\.\d{3})+)?(,\d*)?([eE][+\-−]?\d+)?\Z")
# Times as they are written in files; ISO 8601 first.
TIMES = (
    "%Y-%m-%dT%H:%M:%S%.f", "%Y-%m-%d %H:%M:%S%.f", "%Y-%m-%dT%H:%M", "%Y-%m-%d %H:%M", "%Y-%m-%d", "%Y/%m/%d %H:%M:%S", "%Y/%m/%d %H:%M",
    "%Y/%m/%d", "%d.%m.%Y %H:%M:%S", "%d.%m.%Y %H:%M", "%d.%m.%Y", "%d/%m/%Y %H:%M:%S", "%d/%m/%Y %H:%M", "%d/%m/%Y",
    "%m/%d/%Y %H:%M:%S", "%m/%d/%Y %H:%M", "%m/%d/%Y", "%H:%M:%S%.f", "%H:%M",
)  # fmt: skip
_SAMPLE = 200


def decoded(data: bytes, encoding: str | None = None) -> tuple[str, str]:
    """The text and its encoding. Raises UnicodeDecodeError where a given encoding does not fit."""
    if encoding is not None:
        return data.decode(encoding).removeprefix("\ufeff"), encoding
    for mark, name in ((b"\xef\xbb\xbf", "utf-8"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(name).removeprefix("\ufeff"), name
    try:
        return data.decode("utf-8"), "utf-8"
    except UnicodeDecodeError:
        pass
    try:
        return data.decode("cp1252"), "cp1252"
    except UnicodeDecodeError:
        return data.decode("latin-1"), "latin-1"


def is_number(text: str, decimal: str) -> bool:
    text = text.strip()
    return bool(text) and any(c.isdigit() for c in text) and (_COMMA if decimal == "," else _PLAIN).match(text) is not None


def plain_number(text: str, decimal: str) -> float | None:
    """The number that a cell says, with groups of thousands and either decimal sign; None where it says none."""
    if not is_number(text, decimal):
        return None
    text = text.strip().replace("−", "-").replace("'", "").replace(" ", "").replace("\u00a0", "")
    text = text.replace(".", "").replace(",", ".") if decimal == "," else text.replace(",", "")
    try:
        return float(text)
    except ValueError:
        return None


def cells_of(line: str, delimiter: str, quote: str) -> list[str]:
    if delimiter == " ":
        return line.split()
    return next(
        csv.reader(io.StringIO(line), delimiter=delimiter, quotechar=quote or None, quoting=csv.QUOTE_MINIMAL if quote else csv.QUOTE_NONE)
    )


def sniffed(text: str) -> Recipe:
    """How a text is most likely written, from its first lines."""
    lines = text[:200_000].splitlines()[: _SAMPLE * 2]
    comment = _comment(lines)
    found = Recipe(comment=comment)
    plain = [(n, line) for n, line in enumerate(lines) if line.strip() and not (comment and line.lstrip().startswith(comment))][:_SAMPLE]
    if not plain:
        return found
    found.quote = "'" if sum(line.count("'") for _, line in plain) > 2 * len(plain) and '"' not in text[:10_000] else '"'
    found.delimiter, width = _delimiter([line for _, line in plain], found.quote)
    rows = [(n, cells_of(line, found.delimiter, found.quote)) for n, line in plain]
    # What stands above the table has another number of cells.
    start = next((k for k, (_, cells) in enumerate(rows) if len(cells) == width), 0)
    body = [cells for _, cells in rows[start:]]
    found.decimal = _decimal(body, found.delimiter)
    found.skip = rows[start][0]
    found.header = not any(is_number(c, found.decimal) for c in body[0]) and not (len(body) > 1 and _all_times(body[0]))
    return found


def _comment(lines: Sequence[str]) -> str | None:
    for mark in ("#", "%", "//"):
        if any(line.lstrip().startswith(mark) for line in lines[:50]):
            return mark
    return None


def _delimiter(lines: Sequence[str], quote: str) -> tuple[str, int]:
    """The sign that divides most lines into one same number of cells, and that number."""
    best, best_score, best_width = ",", -1.0, 1
    for sign in DELIMITERS:
        try:
            widths = Counter(len(cells_of(line, sign, quote)) for line in lines)
        except csv.Error:
            continue
        width, count = max(widths.items(), key=lambda p: (p[1] * (p[0] > 1), p[0]))
        if width < 2:
            continue
        # Of signs that do as well the one earlier in the list; blanks only where nothing else divides.
        score = count / len(lines) - (0.3 if sign == " " else 0.0) - (0.15 if sign == "," and _commas_are_decimal(lines, width) else 0.0)
        if score > best_score + 1e-9:
            best, best_score, best_width = sign, score, width
    return best, best_width


def _commas_are_decimal(lines: Sequence[str], width: int) -> bool:
    """`0,5; 1,25`: divided by commas such lines have even pieces of digits, and another sign between them."""
    del width
    other = sum(any(s in line for s in ";\t|") for line in lines)
    return other > len(lines) / 2


def _decimal(rows: Sequence[list[str]], delimiter: str) -> str:
    if delimiter == ",":
        quoted = [c.strip() for cells in rows for c in cells]
        commas = sum("," in c and is_number(c, ",") for c in quoted)
        points = sum("." in c and is_number(c, ".") for c in quoted)
        return "," if commas > points else "."
    cells = [c.strip() for row in rows for c in row]
    commas = sum("," in c and is_number(c, ",") and not re.fullmatch(r"[+\-−]?\d{1,3}(,\d{3})+", c) for c in cells)
    points = sum("." in c and is_number(c, ".") for c in cells)
    return "," if commas > points else "."


def _all_times(cells: Sequence[str]) -> bool:
    return all(time_format([c]) is not None for c in cells)


def time_format(samples: Sequence[str]) -> str | None:
    """The first way of writing times that fits (nearly) all samples."""
    plain = [s.strip() for s in samples if s.strip().lower() not in MISSING]
    if not plain:
        return None
    for fmt in TIMES:
        fits = sum(_is_time(s, fmt) for s in plain)
        if fits >= max(1, 0.9 * len(plain)):
            return fmt
    return None


def _is_time(text: str, fmt: str) -> bool:
    pattern = fmt.replace("%S%.f", "%S.%f" if "." in text.rsplit(":", 1)[-1] else "%S")
    try:
        datetime.strptime(text.removesuffix("Z"), pattern)
    except ValueError:
        return False
    return True


_HEADS = (
    re.compile(r"(.+?)\s*\[([^\]]*)\]\s*\Z"), re.compile(r"(.+?)\s*\(([^)]*)\)\s*\Z"), re.compile(r"(.+?)\s+/\s+(\S.*?)\s*\Z"),
    re.compile(r"(.+?)\s+in\s+(\S+)\s*\Z"),
)  # fmt: skip


def head_and_unit(text: str) -> tuple[str, str | None]:
    """`Q [m^3/s]`, `Q (m³/s)`, `Q / (m³/s)`, `Q in m` as name and unit, where the unit is one."""
    text = text.strip()
    for pattern in _HEADS:
        match = pattern.match(text)
        if match is None:
            continue
        name, unit = match.groups()
        unit = unit.strip().removeprefix("(").removesuffix(")").replace("degC", "°C")
        if any(word in RESERVED for word in unit.split()):
            continue
        try:
            parse_unit(unit)
        except BadUnit:
            continue
        return name.strip(), unit or None
    return text, None
