"""Level lines of a height over two variables."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ....figure.model import Floats, Series
from ....figure.space.scene import Shape, Solid
from ....formula.typeset import name_tex
from ....language import tree
from ....numerics.curves.branches import joined
from ....numerics.curves.sampling import PaperView, Sampled
from ....numerics.curves.scales import Scale
from ....record.notation import format_short
from ...evaluate.refusals import refusal
from ..extent import length_on_paper, reach
from ..levels import level_lines, levels_between
from ..surface_definition import Span, SurfaceDefinition
from .base import Drawable, FirstLook, PanelContext
from .content import LEVELS, SpaceContent, SpaceContext

_LOOKED = 161  # lines each way of a first look at heights
_LEVELS = 9


@dataclass
class Contours(SpaceContent, Drawable):
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

    def span(self, panel: PanelContext, scale: Scale) -> Span:
        return self.spans[0]

    def heights(self, panel: PanelContext, x: Span, look: FirstLook | None) -> list[Floats]:
        return [np.array(self.spans[1])]

    def own_heights(self, panel: PanelContext) -> Span:
        return self.spans[1]

    def series(
        self, name: str, panel: PanelContext, view: PaperView, place: int, look: FirstLook | None, sampled: Sampled | None
    ) -> Series:
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

    # ------------------------------------------------------------ on the floor of a box

    is_height = True
    lies_below = True

    @property
    def names(self) -> tuple[str, str, str]:
        return self.definition.axes

    def axis_text(self, k: int) -> str | None:
        return self.definition.texts[k]

    @property
    def space_notes(self) -> list[str]:
        return self.definition.told

    def extent(self, space: SpaceContext, k: int) -> Span | None:
        return self.definition.spans[k]

    def coloured_by_height(self, space: SpaceContext) -> Floats | None:
        return None if "colour" in self.style else np.array([])

    def solids(self, name: str, space: SpaceContext) -> list[Solid]:
        """Level lines on the floor of the box, coloured as the surface above them."""
        box, colours = space.box, space.colours
        low, high = (colours.low, colours.high) if colours is not None else (float(box[2, 0]), float(box[2, 1]))
        levels = levels_between(self.levels if self.levels is not None else LEVELS, low, high)
        lines = level_lines(self.definition, self.spans, levels, (420.0, 420.0))
        pieces = [(np.column_stack([x, y, np.full(x.size, box[2, 0])]), np.full(x.size, level)) for level, x, y in lines if x.size]
        if not pieces:
            return []
        places, tints = joined([q for q, _ in pieces], 3), joined([t for _, t in pieces], 1)[:, 0]
        look = {k: v for k, v in self.style.items() if k in ("label", "colour", "opacity", "width", "dash")}
        look.setdefault("width", 0.9)
        shape = Shape(places, tints=None if "colour" in look else tints)
        return [Solid(name, "path", space.line_of(self), shape, place=space.place_of(self), what="floor", **look)]

    def axis_name(self, which: str) -> str | None:
        k = 0 if which == "x" else 1
        return self.definition.texts[k] or f"${name_tex(self.definition.axes[k])}$"


def heights_seen(surface: SurfaceDefinition, node: tree.Node) -> Floats:
    """Heights over the plane on a first grid, without those that run off far beyond the rest; never empty. Raises Refused."""
    z = reach(surface.first_look(_LOOKED)[..., 2].ravel())
    if not z.size:
        raise refusal("nowhere-defined", "this has no value anywhere in its window", node)
    return z
