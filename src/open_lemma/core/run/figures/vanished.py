"""Curves so much smaller than others of their axis that nothing of them can be seen: said, with a way out."""

from __future__ import annotations

from typing import Protocol

import numpy as np

from ...figure.model import Series
from ...language import tree
from ...language.messages import Fix, Message, advise, replace
from ...numerics.curves.sampling import PaperView
from .axes import AxisSettings
from .drawables.base import Drawable, Side
from .extent import height_share
from .notes import FigureNotes

_VANISHED = 0.02  # of the window's height: what stays below that looks like a level line
_LARGE = 0.5


class _Panel(Protocol):
    node: tree.Node
    notes: FigureNotes
    axes: AxisSettings

    @property
    def drawables(self) -> list[Drawable]: ...


def vanished(panel: _Panel, series: list[Series], side: Side, view: PaperView) -> list[Message]:
    """The warning about what has vanished on one side; series: those of all drawables, in their order."""
    if not view.y_scale.even:
        return []
    mine = [(s, t) for s, t in zip(series, panel.drawables, strict=True)
            if s.right == (side == "right") and s.kind in ("curve", "points", "line")]  # fmt: skip
    parts = {s.id: height_share(s.y, view) for s, _ in mine}
    if max(parts.values(), default=0.0) < _LARGE:
        return []
    gone = [(s, t) for s, t in mine if 0.0 < parts[s.id] < _VANISHED]
    return [_message(panel, *gone[0], len(gone), side, mine)] if gone and len(gone) < len(mine) else []


def _message(panel: _Panel, series: Series, thing: Drawable, count: int, side: Side, mine: list[tuple[Series, Drawable]]) -> Message:
    request = thing.node
    fixes: list[Fix] = []
    alone = sum(t.node is request for _, t in mine) == 1
    if side == "left" and alone and not any(s.right for s, _ in mine):
        fixes.append(replace(request.end, request.end, ", axis right", "give it the right axis: axis right"))
    positive = all((s.y[np.isfinite(s.y)] > 0).all() for s, _ in mine)
    if positive and side == "left":
        fixes.append(_logarithmic_fix(panel))
    fixes.append(advise("a panel of its own"))
    said = f"'{series.label}'" if series.label else "this"
    more = f" and {count - 1} more" if count > 1 else ""
    text = f"{said}{more} is so much smaller than the rest that it looks like a level line"
    return Message("warning", "vanished", request.start, request.end, text, tuple(fixes))


def _logarithmic_fix(panel: _Panel) -> Fix:
    axis = panel.axes.said.get("y")
    if axis is not None:
        return replace(axis.end, axis.end, ", scale logarithmic", "scale logarithmic")
    if isinstance(panel.node, tree.Figure | tree.Panel) and panel.node.body:
        at = panel.node.body[-1].end
        text = panel.notes.text
        indent = panel.node.body[0].start - (text.rfind("\n", 0, panel.node.body[0].start) + 1)
        return replace(at, at, "\n" + " " * indent + "y axis, scale logarithmic", "scale logarithmic")
    return advise("y axis, scale logarithmic")
