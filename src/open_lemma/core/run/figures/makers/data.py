"""Data: points, lines, steps and bars; points and lines in space."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ....figure.model import Floats
from ....formula.typeset import name_tex
from ....formula.units import Unit
from ....language import tree
from ....language.messages import advise
from ....record.notation import format_short
from ...evaluate.refusals import refusal
from ...values import ItemsValue, ListValue, PointValue, Scalar, TableValue, TextValue, Value
from ..drawables.base import Drawable
from ..drawables.points import Points, staircase
from ..drawables.space import SpacePath, SpacePoints
from ..drawables.texts import quantity_text
from .registry import DrawContext, draws

_MOST_WITH_BARS = 2_000  # points whose own uncertainties are drawn


@draws("points", "line", "steps", "bars")
def _data(context: DrawContext, request: tree.Request) -> list[Drawable]:
    if request.noun in ("points", "line") and (places := _places_in_space(context, request)) is not None:
        return [places]
    values = None
    if request.against is not None:
        subject = request.subjects[0]
        found = context.scope.value(subject)
        columns = _columns(context, request, found)
        if columns is not None:
            return [_one_of(context, request, place, len(columns), column) for place, column in enumerate(columns)]
        values = context.scope.as_list(found, subject)
    points = _points(context, request, values)
    return [points, *_left_out(context, request, points.texts)]


@dataclass
class _Column:
    """One of several lists against the same places: its values, how its axis names it, and its label where it has a name."""

    values: ListValue
    word: str | None
    label: str | None = None


def _columns(context: DrawContext, request: tree.Request, found: Value) -> list[_Column] | None:
    """Several lists against one: lists in a list, all other columns of a table, the columns of a list of rows. None for one list.

    Rows as long as there are places, but as many of another number, are lists in a list. Raises Refused.
    """
    subject, against = request.subjects[0], request.against
    assert against is not None
    if isinstance(found, TableValue):
        own = against.name if isinstance(against, tree.Field | tree.Name) else None
        return [
            _Column(v, axis_word_of(name, v), _label_of(name, v))
            for name, v in found.columns.items()
            if isinstance(v, ListValue) and name != own
        ]
    if not isinstance(found, ItemsValue) or not found.items or not all(isinstance(i, ListValue) for i in found.items):
        return None
    rows = [i for i in found.items if isinstance(i, ListValue)]
    if isinstance(subject, tree.ListOf):
        return [_Column(v, axis_word(e, v)) for e, v in zip(subject.items, rows, strict=True)]
    size = len(context.scope.as_list(context.scope.value(against), against).data)
    if len(rows) == size and len({len(r.data) for r in rows}) == 1:
        return [
            _Column(ListValue(np.asarray([r.data[k] for r in rows], dtype=float), rows[0].unit), None) for k in range(len(rows[0].data))
        ]
    return [_Column(row, None) for row in rows]


def _one_of(context: DrawContext, request: tree.Request, place: int, count: int, column: _Column) -> Points:
    points = _points(context, request, column.values, place, count)
    points.texts = points.texts[0], column.word
    if column.label is not None:
        points.style.setdefault("label", column.label)
    return points


def _label_of(name: str, values: ListValue) -> str:
    """A column in the legend: its name, with its unit where it has one."""
    return axis_word_of(name, values) or f"${name_tex(name)}$"


def _places_in_space(context: DrawContext, request: tree.Request) -> SpacePoints | SpacePath | None:
    """Points of three coordinates, or heights against two lists; None where the request is one in the plane."""
    subject, against = request.subjects[0], request.against
    texts: tuple[str | None, str | None, str | None] = (None, None, None)
    if isinstance(against, tree.PointOf):
        sides = [context.scope.as_list(context.scope.value(e), e) for e in (*against.items, subject)]
        sizes = {s.data.size for s in sides}
        if len(sizes) > 1:
            counts = ", ".join(str(s.data.size) for s in sides)
            raise refusal("list-lengths", f"points need as many of each coordinate; there are {counts}", subject)
        places = np.column_stack([np.asarray(s.data, dtype=float) for s in sides])
        x, y, z = (axis_word(e, s) for e, s in zip((*against.items, subject), sides, strict=True))
        texts = x, y, z
    elif against is None:
        found = context.scope.value(subject)
        items = found.items if isinstance(found, ItemsValue) else []
        if not any(isinstance(i, PointValue) and len(i.items) == 3 for i in items):
            return None
        if not all((isinstance(i, PointValue) and len(i.items) == 3) or (isinstance(i, Scalar) and i.gap) for i in items):
            raise refusal("points", "all points have three coordinates, or all two", subject)
        places = np.array([[v.value for v in i.items] if isinstance(i, PointValue) else [np.nan] * 3 for i in items], dtype=float)
    else:
        return None
    if not np.isfinite(places).all(axis=1).any():
        raise refusal("no-points", "there are no points to draw", request)
    if request.noun == "line":
        return SpacePath(request, context.style.of_request(request, 0, 1), places, tints=_tints(context, request, len(places)))
    style = context.style.of_request(request, 0, 1)
    return SpacePoints(request, style, places=places, texts=texts, tints=_tints(context, request, len(places)))


def _points(context: DrawContext, request: tree.Request, values: ListValue | None = None, place: int = 0, count: int = 1) -> Points:
    """One list against another; values: of several lists one. Raises Refused."""
    subject = request.subjects[0]
    texts: tuple[str | None, str | None] = (None, None)
    names = None
    units: tuple[Unit | None, Unit | None] = (None, None)
    own: tuple[Floats | None, Floats | None] = (None, None)  # what the elements themselves are uncertain by
    if request.against is not None:
        ys = values if values is not None else context.scope.as_list(context.scope.value(subject), subject)
        y = ys.data
        found = context.scope.value(request.against)
        if request.noun == "bars" and isinstance(found, ItemsValue) and all(isinstance(i, TextValue) for i in found.items):
            names = tuple(i.text for i in found.items if isinstance(i, TextValue))
            x, word = np.arange(1.0, len(names) + 1), None
            units = None, ys.unit
            own = None, ys.standard_errors()
        else:
            xs = context.scope.as_list(found, request.against)
            x, word = xs.data, axis_word(request.against, xs)
            units = xs.unit, ys.unit
            own = xs.standard_errors(), ys.standard_errors()
        if x.size != y.size:
            text = f"{context.source(subject)} has {y.size} elements and {context.source(request.against)} has {x.size}"
            raise refusal("list-lengths", text, subject)
        texts = word, axis_word(subject, ys)
    else:
        x, y = _pairs(context, subject)
    if not (np.isfinite(x) & np.isfinite(y)).any():
        raise refusal("no-points", "there are no points to draw", request)
    style = context.style.of_request(request, place, count)
    errors = _errors(context, request, x.size, units)
    if request.option("errors") is None and request.noun in ("points", "bars") and max(x.size, 1) <= _MOST_WITH_BARS:
        errors = own
    tints = _tints(context, request, x.size)
    if request.noun == "steps":
        x, y = staircase(x, y)
    kind: Literal["points", "line", "bars"] = "points" if request.noun == "points" else "bars" if request.noun == "bars" else "line"
    return Points(
        request, style, x=x.astype(float), y=y.astype(float), kind=kind, texts=texts, tints=tints, errors=errors, names=names, units=units
    )


def _left_out(context: DrawContext, request: tree.Request, texts: tuple[str | None, str | None]) -> list[Points]:
    """What was excluded from the table behind drawn points: hollow and pale, so that it is seen and does not count."""
    if request.noun != "points" or request.against is None:
        return []
    y, x = (context.scope.value(e) for e in (request.subjects[0], request.against))
    if not (isinstance(x, ListValue) and isinstance(y, ListValue)) or x.hidden is None or y.hidden is None:
        return []
    style = {k: v for k, v in context.style.of_request(request, 0, 1).items() if k in ("size", "colour", "right", "axis")}
    style |= {"marker": "ring", "opacity": 0.45}
    hidden = np.asarray(x.hidden, dtype=float), np.asarray(y.hidden, dtype=float)
    left = Points(request, style, x=hidden[0], y=hidden[1], texts=texts, left_out=True)
    return [left] if left.good.any() else []


def _pairs(context: DrawContext, subject: tree.Expression) -> tuple[Floats, Floats]:
    """A list of points; a gap among them breaks a line."""
    found = context.scope.value(subject)
    items = found.items if isinstance(found, ItemsValue) else None
    if items is None or not all((isinstance(i, PointValue) and len(i.items) == 2) or (isinstance(i, Scalar) and i.gap) for i in items):
        if isinstance(found, ListValue) and not len(found.data):
            return np.array([]), np.array([])
        raise refusal("points", "points need a list against another, or a list of points", subject, advise("points of ys against xs"))
    pairs = [[v.value for v in i.items] if isinstance(i, PointValue) else [np.nan, np.nan] for i in items]
    x, y = (np.array(column, dtype=float) for column in zip(*pairs, strict=True))
    return x, y


def _errors(
    context: DrawContext, request: tree.Request, size: int, units: tuple[Unit | None, Unit | None]
) -> tuple[Floats | None, Floats | None]:
    option = request.option("errors")
    if option is None:
        return None, None
    value = option.value
    assert isinstance(value, tree.Expression)
    if isinstance(value, tree.PointOf) and len(value.items) == 2:
        return _spread(context, value.items[0], size, units[0]), _spread(context, value.items[1], size, units[1])
    return None, _spread(context, value, size, units[1])


def _spread(context: DrawContext, e: tree.Expression, size: int, unit: Unit | None) -> Floats:
    """Uncertainties, in the unit of what they belong to. Raises Refused."""
    said = context.scope.as_list(context.scope.value(e), e)
    data = np.asarray(said.data if unit is None else context.scope.list_in_unit(said, unit.stepped(alone=True), e).data, dtype=float)
    if data.size == 1:
        data = np.full(size, float(data[0]))
    if data.size != size:
        raise refusal("list-lengths", f"{context.source(e)} has {data.size} elements for {size} points", e)
    if (data[np.isfinite(data)] < 0).any():
        raise refusal("errors", f"an uncertainty is not negative; the least here is {format_short(float(np.nanmin(data)))}", e)
    return data


def _tints(context: DrawContext, request: tree.Request, size: int) -> Floats | None:
    option = request.option("colour")
    if option is None or not option.by:
        return None
    assert isinstance(option.value, tree.Expression)
    data = np.asarray(context.scope.list(option.value), dtype=float)
    if data.size != size:
        text = f"{context.source(option.value)} has {data.size} elements for {size} points"
        raise refusal("list-lengths", text, option.value)
    if not np.isfinite(data).any():
        raise refusal("no-points", "there are no numbers to be shown as colours", option.value)
    return data


def axis_word(e: tree.Expression, xs: ListValue) -> str | None:
    """What an axis says of the list that an expression stands for."""
    return axis_word_of(e.name if isinstance(e, tree.Field | tree.Name) else None, xs)


def axis_word_of(name: str | None, xs: ListValue) -> str | None:
    """`h / m`: what an axis says of a list; only where there is a unit to be said."""
    return quantity_text(name, xs.unit)
