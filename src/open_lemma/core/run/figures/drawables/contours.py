"""Level lines of a height over two variables."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ....figure.model import Floats, Series
from ....formula.typeset import name_tex
from ....language import tree
from ....numerics.sampling import Sampled, View
from ...evaluate.refusals import refusal
from ...undefined import format_short
from ..extent import length_on_paper, reach
from ..levels import level_lines, levels_between
from ..surface_definition import Span, SurfaceDefinition
from .base import Drawable, Look, PanelContext

_LOOKED = 161  # lines each way of a first look at heights
_LEVELS = 9


@dataclass
class Contours(Drawable):
    """definition: whose heights they are; levels: a number of them, or an array; fill: whether the areas between are coloured."""

    node: tree.Request
    definition: SurfaceDefinition = field(kw_only=True)
    levels: Any = None
    fill: bool = False

    axes_from = "own"
    options_in_space = frozenset({"colour", "levels", "width", "label", "opacity", "by"})

    @property
    def spans(self) -> tuple[Span, Span]:
        """Of both variables, which are chosen by then."""
        x, y = self.definition.spans
        assert x is not None
        assert y is not None
        return x, y

    def span(self, panel: PanelContext, logarithmic: bool) -> Span:
        return self.spans[0]

    def heights(self, panel: PanelContext, x: Span, look: Look | None) -> list[Floats]:
        return [np.array(self.spans[1])]

    def own_heights(self, panel: PanelContext) -> Span:
        return self.spans[1]

    def series(self, name: str, panel: PanelContext, view: View, place: int, look: Look | None, sampled: Sampled | None) -> Series:
        (x0, x1), (y0, y1) = self.spans
        for note in dict.fromkeys(self.definition.notes):
            panel.say(self.node, note)
        size = length_on_paper(view, "x", x0, x1), length_on_paper(view, "y", y0, y1)
        heights = heights_seen(self.definition, self.node)
        if self.definition.outline:
            panel.say(self.node, "drawn within the outline of the points; beyond it would be extrapolation")
        low, high = float(heights.min()), float(heights.max())
        levels = levels_between(self.levels if self.levels is not None else _LEVELS, low, high)
        lines = [(level, x, y) for level, x, y in level_lines(self.definition, self.spans, levels, size) if x.size]
        missing = [level for level in levels if level not in {at for at, _, _ in lines}]
        if missing:
            said = ", ".join(format_short(v) for v in missing[:5]) + (f" and {len(missing) - 5} more" if len(missing) > 5 else "")
            panel.say(self.node, f"no line at {said}: the heights in the window run from {format_short(low, 4)} to {format_short(high, 4)}")
        gap = np.array([np.nan])
        x, y, tints = (np.concatenate([p for part in lines for p in (part[k] if k else np.full(part[1].size, part[0]), gap)] or [gap])
                       for k in (1, 2, 0))  # fmt: skip
        style = {"width": 0.9, **self.style, "place": place}
        line = panel.line_of(self.node)
        found = Series(name, "contours", line, x, y, **style, tints=tints, levels=[float(v) for v in levels])
        found.fill = self.fill
        if self.fill:
            found.grid = self._grid(size)
        found.plain = "colour" in self.style
        return found

    def _grid(self, size: tuple[float, float]) -> dict[str, Any]:
        """Heights on a fine grid, for the areas between level lines; their edges are drawn over by the lines themselves."""
        spans = self.spans
        xs, ys = (np.linspace(a, b, int(np.clip(s / 1.2, 60, 420))) for (a, b), s in zip(spans, size, strict=True))
        heights = self.definition.sheet(spans).at(*(a.ravel() for a in np.meshgrid(xs, ys)))[:, 2]
        return {"x": xs, "y": ys, "z": heights.reshape(ys.size, xs.size)}

    def axis_name(self, which: str) -> str | None:
        k = 0 if which == "x" else 1
        return self.definition.texts[k] or f"${name_tex(self.definition.axes[k])}$"


def heights_seen(surface: SurfaceDefinition, node: tree.Node) -> Floats:
    """Heights over the plane on a first grid, without those that run off far beyond the rest; never empty. Raises Refused."""
    z = reach(surface.first_look(_LOOKED)[..., 2].ravel())
    if not z.size:
        raise refusal("nowhere-defined", "this has no value anywhere in its window", node)
    return z
