"""What a finding found, in one line: made from its rows, each shape in its own way. Long lists are cut and counted."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from .notation import LATEX, Notation
from .rows import (
    CheckRow,
    CrossingRow,
    ExtremumRow,
    FamilyRow,
    FormulaRow,
    LimitRow,
    LowestRow,
    PlaceRow,
    RootRow,
    Row,
    SolutionRow,
    SpanRow,
    StretchRow,
    ValueRow,
)

if TYPE_CHECKING:
    from .findings import Finding

_FIT = 3  # so many places fit into a line with the digits that are shown of each
_MOST_PIECES = 3  # of a formula that a line holds
_MOST_ELEMENTS = 5
_MOST_EXACT = 26  # characters of an exact form; longer ones stand in the evidence
_CASES = re.compile(r"(.*?)\\begin\{cases\}(.*)\\end\{cases\}", re.DOTALL)

Shortened = Callable[["Finding", Notation], str]


def short_of(finding: Finding, n: Notation) -> str:
    """The result in one line, in that notation; "none" where there is no row."""
    if n is LATEX and finding.latex:
        return _in_pieces(finding.latex) or finding.latex
    if finding.passes:
        return _passes(finding, n)
    if not finding.values:
        return n.words("none")
    shown = _BY_ROW.get(type(finding.values[0]), _summary)(finding, n)
    if shown and all(row.extrapolated for row in finding.values):
        return shown + n.phrase(" (extrapolated)")
    return shown or _summary(finding, n)


def _in_pieces(latex: str) -> str:
    """A formula in more pieces than a line holds: what stands before them, and how many there are."""
    match = _CASES.fullmatch(latex)
    if match is None or r"\begin{cases}" in match[2]:
        return ""
    count = len(match[2].split(r" \\ "))
    return rf"{match[1]}\text{{a formula in {count} pieces}}" if count > _MOST_PIECES else ""


def _summary(finding: Finding, n: Notation) -> str:
    return n.words(finding.summary.rstrip("."))


def _value(finding: Finding, n: Notation) -> str:
    rows = finding.values
    first = rows[0]
    assert isinstance(first, ValueRow)
    if len(rows) > 1:
        numbers = [row.value if isinstance(row, ValueRow) else None for row in rows]
        return _listed(numbers, len(rows), n) if first.standard_error is None else ""
    value, unit = first.value, n.unit(first.unit) if first.unit else ""
    if first.standard_error is not None and value is None:
        return n.words(finding.summary)
    if first.standard_error and isinstance(value, float | int):
        said = n.uncertain(value, first.standard_error)
        return f"({said}){unit}" if unit and not said.startswith("(") else said + unit
    if value is None:
        return n.words("gap")
    if isinstance(value, bool):
        return n.words("true" if value else "false")
    if isinstance(value, str):
        return n.words(f"“{value}”")
    if isinstance(value, list):
        numeric = all(v is None or (isinstance(v, float | int) and not isinstance(v, bool)) for v in value)
        return _listed(value, first.length or len(value), n) + unit if numeric else ""
    shown = n.number(value, 12)
    if isinstance(first.exact, str) and len(first.exact) <= _MOST_EXACT:
        shown = f"{n.exact(first.exact)} = {shown}"
    return shown + unit


def _limit(finding: Finding, n: Notation) -> str:
    first = finding.values[0]
    assert isinstance(first, LimitRow)
    if len(finding.values) > 1 or (first.value is None and first.limit is None):
        return n.words("not settled" if finding.evidence == "open" else "none")
    return n.number(float("inf") if first.limit == "infinity" else float("-inf"), 1) if first.limit else _value(finding, n)


def _check(finding: Finding, n: Notation) -> str:
    first = finding.values[0]
    assert isinstance(first, CheckRow)
    return n.words("holds" if first.passed else "fails")


def _family(finding: Finding, n: Notation) -> str:
    first = finding.values[0]
    assert isinstance(first, FamilyRow)
    return n.words(first.family)


def _spans(finding: Finding, n: Notation) -> str:
    return n.words(finding.summary.removeprefix("It holds for ").rstrip("."))


def _lowest(finding: Finding, n: Notation) -> str:
    first = finding.values[0]
    assert isinstance(first, ExtremumRow)
    return f"{_number(first, 'value', 12, n)}{n.joined('at')}{_places(finding, n)}"


def _extrema(finding: Finding, n: Notation) -> str:
    first = finding.values[0]
    assert isinstance(first, ExtremumRow)
    if len(finding.values) == 1 and first.what != "inflection":
        return f"{_places(finding, n)},{n.joined('value')}{_number(first, 'value', 10, n)}"
    return _places(finding, n)


def _solutions(finding: Finding, n: Notation) -> str:
    return _places(finding, n) if all(isinstance(r, SolutionRow) and r.interval is not None for r in finding.values) else ""


def _places(finding: Finding, n: Notation) -> str:
    """Places of one variable: x₁ = 0.5, x₂ = 1."""
    rows = finding.values
    name = (finding.variable_latex if n is LATEX else finding.variable) or "x"
    digits = 7 if len(rows) > 1 else 10
    shown = []
    for k, row in enumerate(rows[: _FIT - 1 if len(rows) > _FIT else _FIT], 1):
        shown.append(f"{n.indexed(name, k) if len(rows) > 1 else name} = {_place(row, digits, n)}")
    if len(rows) > _FIT:
        shown.append(n.more + n.phrase(f"{len(rows)} in all"))
    return n.between.join(shown)


def _unit(row: Row, field: str, n: Notation) -> str:
    """The unit of a field of a row."""
    return n.unit(row.units[field]) if row.units is not None and field in row.units else ""


def _number(row: Row, field: str, digits: int, n: Notation) -> str:
    """A number of a row: rounded by its uncertainty where it has one, with its unit where it has one."""
    placed = isinstance(row, SolutionRow | PlaceRow) and field in row.place
    value: Any = row.place[field] if placed else getattr(row, field)  # type: ignore[attr-defined]
    unit, error = _unit(row, field, n), (row.errors or {}).get(field)
    if error is None:
        return n.number(value, digits) + unit
    said = n.uncertain(value, error)
    return f"({said}){unit}" if unit and not said.startswith("(") else said + unit


def _place(row: Any, digits: int, n: Notation) -> str:
    name = next(iter(row.place)) if isinstance(row, SolutionRow) else "x"
    x = row.place[name] if isinstance(row, SolutionRow) else row.x
    if not isinstance(x, float | int):
        return str(x)
    if row.errors and name in row.errors:
        return _number(row, name, digits, n)
    return _plain_place(row, x, digits, n) + _unit(row, name, n)


def _plain_place(row: Any, x: float, digits: int, n: Notation) -> str:
    high = getattr(row, "x_high", None)
    if high is not None:
        return f"{n.number(x, 6)} {n.more.strip().removesuffix(chr(92))} {n.number(high, 6)}"
    exact = getattr(row, "exact", None)
    # A quotient is shown as one where its decimals never end; 2/5 is 0.4 to everybody.
    if isinstance(exact, str) and "/" in exact and len(f"{abs(x)!r}") > 8:
        return n.exact(exact)
    return n.number(x, digits)


def _points(finding: Finding, n: Notation) -> str:
    """Places in several variables: (x, y) = (3, 2)."""
    rows = [row for row in finding.values if isinstance(row, PlaceRow)]
    names = list(rows[0].place)
    most = 1 if len(rows) > 1 and len(names) > 1 else 2
    shown = [f"({n.tight.join(n.number(v, 6) for v in row.place.values())})" for row in rows[:most]]
    if len(rows) > most:
        shown.append(n.more + n.phrase(f"{len(rows)} in all"))
    head = f"({','.join(names[:3])}{',' + n.more.strip().removesuffix(chr(92)) if len(names) > 3 else ''}) = {n.close.join(shown)}"
    value = rows[0].value
    if value is not None and all(row.overall for row in rows):
        return f"{n.number(value, 10)}{n.joined('at')}{head}"
    return head


def _passes(finding: Finding, n: Notation) -> str:
    """The passes of a loop: their numbers in a row, or how many held."""
    rows = finding.values
    checks = [row.passed for row in rows if isinstance(row, CheckRow)]
    if checks:
        failed = checks.count(False)
        if len(rows) == 1:
            return n.words("fails" if failed else "holds")
        return n.words(f"fails in {failed} of {len(checks)} passes" if failed else f"holds in all {len(checks)} passes")
    numbers = [row.value for row in rows if isinstance(row, ValueRow) and _is_number(row.value)]
    if numbers and len(numbers) == len(rows):
        shown = [n.number(v, 6) for v in numbers[:_MOST_ELEMENTS]]
        if len(rows) > _MOST_ELEMENTS:
            shown.append(n.more + n.phrase(f"{finding.passes} passes"))
        return n.between.join(shown)
    return n.words(finding.summary)


def _is_number(value: Any) -> bool:
    return isinstance(value, float | int) and not isinstance(value, bool)


def _listed(values: Sequence[Any], length: int, n: Notation) -> str:
    shown = [n.number(v, 6) if _is_number(v) else n.words("gap") for v in values[:_MOST_ELEMENTS]]
    if length > _MOST_ELEMENTS:
        shown.append(n.more + n.phrase(f"{length} in all"))
    return f"[{n.close.join(shown)}]"


_BY_ROW: dict[type[Row], Shortened] = {
    ValueRow: _value, LimitRow: _limit, CheckRow: _check, FormulaRow: _summary, RootRow: _places, CrossingRow: _places,
    StretchRow: _places, ExtremumRow: _extrema, LowestRow: _lowest, SolutionRow: _solutions, PlaceRow: _points, SpanRow: _spans,
    FamilyRow: _family,
}  # fmt: skip
