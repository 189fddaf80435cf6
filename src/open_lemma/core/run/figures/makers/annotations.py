"""What is put into a figure by hand: lines, texts, marks of findings and places."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from ....figure.model import Floats
from ....formula.estimates import standard_error
from ....formula.tape import Tape
from ....formula.units import Unit
from ....language import tree
from ....record.notation import format_short
from ...evaluate.refusals import described, refusal
from ...values import FindingValue, FoundPlace, ListValue, PointValue
from ..drawables.annotations import Mark, ReferenceLine, TextNote
from ..drawables.base import Drawable
from ..drawables.space import SpaceAnnotation, SpacePath
from .registry import DrawContext

Spread = tuple[Floats | None, Floats | None]

Part = tuple[FoundPlace, ...]
NumberOf = Callable[[tree.Expression, FindingValue], str]  # the number of a finding that an expression names


def annotated(context: DrawContext, statement: tree.TextAt | tree.Marked | tree.Ruled, number_of: NumberOf) -> list[Drawable]:
    """What a statement puts into the figure: of a list or a finding with several places, `line vertical at` draws one line each.

    Raises Refused.
    """
    if isinstance(statement, tree.Ruled) and statement.which != "from":
        found = context.scope.value(statement.at)
        several = isinstance(found, ListValue) or (isinstance(found, FindingValue) and len(found.places) > 1)
        one = None if several else context.scope.number(statement.at)
        unit = one.unit if one is not None else context.scope.as_list(found, statement.at).unit
        heights = [one.value] if one is not None else context.scope.list(statement.at).tolist()
        return [_ruled(context, statement, height, unit) for height in heights if np.isfinite(height)]
    return [_annotation(context, statement, number_of)]


def _ruled(context: DrawContext, statement: tree.Ruled, at: float, unit: Unit | None) -> Drawable:
    """A line from edge to edge."""
    style = context.style.of_statement(statement, statement.options)
    style.setdefault("width", 0.8)
    place, edge = np.full(2, at), np.full(2, np.nan)
    if statement.which == "horizontal":
        return ReferenceLine(statement, style, x=edge, y=place, units=(None, unit))
    return ReferenceLine(statement, style, x=place, y=edge, units=(unit, None))


def _annotation(context: DrawContext, statement: tree.TextAt | tree.Marked | tree.Ruled, number_of: NumberOf) -> Drawable:
    if isinstance(statement, tree.TextAt):
        said = context.style.label(statement.text)
        context.style.check_text(said, statement)
        place, units = context.style.placed(statement.at)
        style = context.style.of_statement(statement, statement.options)
        if len(place) == 3:
            return SpaceAnnotation(statement, style, kind="text", places=np.array([place]), text=said)
        return TextNote(statement, style, x=np.array([place[0]]), y=np.array([place[1]]), text=said, units=(units[0], units[1]))
    if isinstance(statement, tree.Marked):
        return _mark(context, statement, number_of)
    style = context.style.of_statement(statement, statement.options)
    style.setdefault("width", 0.8)
    assert statement.to is not None
    first, units = context.style.placed(statement.at)
    ends = first, context.style.placed(statement.to, units)[0]
    if len(ends[0]) != len(ends[1]):
        raise refusal("point-needed", "both ends of a line have as many coordinates", statement)
    if len(ends[0]) == 3:
        return SpacePath(statement, style, np.array(ends))
    (a, b), (p, q) = ends
    return ReferenceLine(statement, style, x=np.array([a, p]), y=np.array([b, q]), units=(units[0], units[1]))


def _style_of_mark(context: DrawContext, statement: tree.Marked) -> dict[str, Any]:
    """The size of a mark is that of its spot."""
    style = context.style.of_statement(statement, statement.options)
    if "size" in style:
        style["spot"] = style.pop("size")
    return style


def _mark(context: DrawContext, statement: tree.Marked, number_of: NumberOf) -> Drawable:
    found = context.scope.value(statement.finding)
    if isinstance(found, PointValue) and len(found.items) == 3:
        place = context.style.coordinates(statement.finding)
        style = _style_of_mark(context, statement)
        said = ", ".join(format_short(v, 3) for v in place)
        return SpaceAnnotation(statement, style, kind="mark", places=np.array([place]), text=said)
    if isinstance(found, PointValue) and len(found.items) == 2:
        (a, b), units = context.style.placed(statement.finding)
        style = _style_of_mark(context, statement)
        ex, ey = (np.array([standard_error(i.formula) or 0.0]) for i in found.items)
        text = f"{format_short(a, 4)}, {format_short(b, 4)}"
        return Mark(statement, style, x=np.array([a]), y=np.array([b]), text=text, spread=(ex, ey), units=(units[0], units[1]))
    if not isinstance(found, FindingValue):
        raise refusal("mark", f"a finding or a point is marked; this is {described(found)}", statement.finding)
    if not found.places:
        raise refusal("mark", "this finding has no place that could be marked: nothing was found", statement.finding)
    if (over_two := _mark_over_two(context, statement, found, str(number_of(statement.finding, found)))) is not None:
        return over_two
    x, y, units, spread = _places(context, found, statement)
    style = _style_of_mark(context, statement)
    return Mark(statement, style, x=x, y=y, text=str(number_of(statement.finding, found)), units=units, spread=spread)


def _places(
    context: DrawContext, found: FindingValue, statement: tree.Marked
) -> tuple[Floats, Floats, tuple[Unit | None, Unit | None], Spread]:  # fmt: skip
    """Where a finding lies in the plane (n,), in which units, and how uncertain it is there. Raises Refused."""
    xs, ys = found.parts.get("x"), found.parts.get("value") or found.parts.get("y")
    if found.noun == "solution" and len(found.parts) > 1:
        xs, ys = _unknowns(found)
    if xs is None and (found.noun == "roots" or found.curve is not None):
        xs, ys = found.places, None
    if xs is None:
        raise refusal("mark", f"'{found.noun} of' gives no places on a curve", statement.finding)
    x = np.array([p.value for p in xs])
    if found.curve is not None:
        formula, variable = found.curve
        formula, unit = context.scope.coherent(formula, statement, {} if xs[0].unit is None else {variable: xs[0].unit})
        with np.errstate(all="ignore"):
            heights = np.broadcast_to(np.asarray(Tape([formula], [variable]).numeric(x)[0], dtype=float), x.shape).copy()
        return x, heights, (xs[0].unit, unit), (_spread(xs), None)
    if ys is None:
        return x, np.zeros_like(x), (xs[0].unit, None), (_spread(xs), None)
    return x, np.array([p.value for p in ys]), (xs[0].unit, ys[0].unit if ys else None), (_spread(xs), _spread(ys))


def _spread(places: Part) -> Floats:
    return np.array([p.standard_error() for p in places])


def _unknowns(found: FindingValue) -> tuple[Part | None, Part | None]:
    """Of a system in two unknowns both, whatever they are called, in the order in which they are solved for."""
    parts = list(found.parts.values())
    if len(parts) > 1 and parts[-1] is parts[0]:
        del parts[-1]  # the first one, which is x in the plane
    if len(parts) > 2 or "low" in found.parts:
        return None, None
    return parts[0], parts[1] if len(parts) == 2 else None


def _mark_over_two(context: DrawContext, statement: tree.Marked, found: FindingValue, number: str) -> Mark | None:
    """What was found over two variables: in the plane at both of them, in space at its height."""
    heights = found.parts.get("value")
    # A place over one variable is known as x and by the variable's own name: that is one part.
    over = list({id(v): v for k, v in found.parts.items() if k != "value" and v is not heights}.values())
    if heights is None or len(over) != 2 or len(found.parts) != 3:
        return None
    x, y, z = (np.array([p.value for p in part]) for part in (*over, heights))
    style = _style_of_mark(context, statement)
    return Mark(statement, style, x=x, y=y, text=number, lifted=z)
