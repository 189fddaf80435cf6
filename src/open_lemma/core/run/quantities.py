"""Units of findings: where the variable of a window and what is asked for have units, so have the rows, the places and the sentence.

No noun does this for itself: which field of a row stands on which axis follows from the row's shape.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ..formula.units import NONE, Unit
from ..language import tree
from ..language.messages import Refused
from ..language.shapes import is_infinite
from ..record.rows import CrossingRow, ExtremumRow, PlaceRow, RootRow, Row, SolutionRow, SpanRow, StretchRow, ValueRow
from .evaluate.evaluator import Evaluator
from .findings import FindingDraft
from .values import FindingValue, FoundPlace, Value

PRODUCTS = frozenset(["integral", "area"])  # their value is one of the height times the variables
_OF_PLACES = frozenset(["lowest", "highest"])  # worth their height, with the place as a part


def window_units(request: tree.Request, scope: Evaluator) -> dict[str, Unit]:
    """The units in which the windows of a request are said."""
    found: dict[str, Unit] = {}
    names = {w.name for w in request.windows}
    for window in request.windows:
        for end in (window.low, window.high):
            if end is None or is_infinite(end) or window.name in found or tree.free_names(end) & names:
                continue
            try:
                unit = scope.number(end).unit
            except Refused:
                continue  # told where the window is read
            if unit is not None and not unit.plain:
                found[window.name] = unit
    return found


def with_units(request: tree.Request, told: FindingDraft, value: Value, scope: Evaluator) -> Value:
    """Put the units onto a finding, and onto what it is worth."""
    known = {n: u for n, u in scope.variable_units.items() if not u.plain}
    height = next((u for u in reversed(scope.heights) if u is not None and not u.plain), None)
    if not known and height is None:
        return value
    told.notes += [f"{name} is taken in {unit}, as the units in the formula ask" for name, unit in scope.taken if not unit.plain]
    told.values = [_row_with(row, told.variable, known, height) for row in told.values]
    if not isinstance(value, FindingValue):
        return value
    across = known.get(told.variable or "")
    first = height if request.noun in _OF_PLACES or not _has_places(told) else across
    parts = {}
    once: dict[tuple[int, Unit | None], tuple[FoundPlace, ...]] = {}  # x and the variable's own name are one part
    for name, part in value.parts.items():
        unit = height if name in ("value", "y") and name not in known else known.get(name, across)
        parts[name] = once.setdefault((id(part), unit), _placed(part, unit))
    return replace(value, places=_placed(value.places, first), parts=parts)


def with_extrapolation(told: FindingDraft, spans: Mapping[str, tuple[float, float]]) -> None:
    """Mark the rows whose places lie beyond the data, and say so in the sentence."""
    if not spans:
        return
    marked = [_beyond(row, told.variable, spans) for row in told.values]
    count = sum(marked)
    if not count:
        return
    told.values = [replace(row, extrapolated=True) if out else row for row, out in zip(told.values, marked, strict=True)]
    said = "beyond the data: extrapolated" if count == len(marked) else f"{count} of {len(marked)} beyond the data: extrapolated"
    told.summary = f"{told.summary.rstrip('.')}; {said}."


def _beyond(row: Row, variable: str | None, spans: Mapping[str, tuple[float, float]]) -> bool:
    places: list[tuple[str | None, Any]] = []
    if isinstance(row, RootRow | ExtremumRow):
        places = [(variable, row.x)]
    elif isinstance(row, SpanRow | StretchRow):
        places = [(variable, getattr(row, "low", None)), (variable, getattr(row, "high", None))]
    elif isinstance(row, PlaceRow | SolutionRow):
        places = list(row.place.items())
    out = False
    for name, value in places:
        if name is not None and name in spans and isinstance(value, float | int):
            low, high = spans[name]
            room = 1e-9 * (high - low)
            out = out or not low - room <= value <= high + room
    return out


def _has_places(told: FindingDraft) -> bool:
    return bool(told.values) and not isinstance(told.values[0], ValueRow)


def _placed(places: tuple[FoundPlace, ...], unit: Unit | None) -> tuple[FoundPlace, ...]:
    return places if unit is None else tuple(replace(p, unit=unit) for p in places)


def _row_with(row: Row, variable: str | None, known: Mapping[str, Unit], height: Unit | None) -> Row:
    fields: dict[str, Unit | None] = {}
    across = known.get(variable or "")
    if isinstance(row, ValueRow):
        return row if height is None or row.unit is not None else replace(row, unit=str(height))
    if isinstance(row, CrossingRow | ExtremumRow):
        fields = {"x": across, "value": height}
    elif isinstance(row, RootRow | StretchRow):
        fields = {"x": across}
    elif isinstance(row, SpanRow):
        fields = {"low": across, "high": across}
    elif isinstance(row, PlaceRow) and row.what == "area":
        whole = (height or NONE).times(across or NONE)
        fields = {"x": across, "y": height, "value": None if whole.plain else whole}
    elif isinstance(row, PlaceRow):
        fields = {**{n: known.get(n) for n in row.place}, "value": height}
    elif isinstance(row, SolutionRow):
        fields = {n: known.get(n) for n in row.place}
    units = {name: str(unit) for name, unit in fields.items() if unit is not None}
    return replace(row, units=units) if units else row
