"""The curve that an equation in two variables describes."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ....figure.model import Floats, Series
from ....formula.nodes import Formula
from ....formula.typeset import name_tex
from ....language import tree
from ....numerics.curves.branches import joined
from ....numerics.curves.implicit import level_curve
from ....numerics.curves.sampling import PaperView, Sampled
from ....numerics.curves.scales import Scale
from ...evaluate.refusals import refusal
from ...slopes import gradient
from ..extent import length_on_paper
from .base import Drawable, FirstLook, PanelContext, Span


@dataclass
class Equation(Drawable):
    """The places where any of its factors is zero; variables: the horizontal and the vertical one; x, y: their spans."""

    node: tree.Request
    factors: list[Formula] = field(kw_only=True)
    variables: tuple[str, str] = field(kw_only=True)
    x: Span = field(kw_only=True)
    y: Span = field(kw_only=True)

    axes_from = "own"

    def span(self, panel: PanelContext, scale: Scale) -> Span:
        return self.x

    def heights(self, panel: PanelContext, x: Span, look: FirstLook | None) -> list[Floats]:
        return [np.array(self.y)]

    def own_heights(self, panel: PanelContext) -> Span:
        return self.y

    def series(
        self, name: str, panel: PanelContext, view: PaperView, place: int, look: FirstLook | None, sampled: Sampled | None
    ) -> Series:
        low_x, high_x = max(self.x[0], view.x_low), min(self.x[1], view.x_high)
        low_y, high_y = max(self.y[0], view.y_low), min(self.y[1], view.y_high)
        if not (low_x < high_x and low_y < high_y):
            raise refusal("outside-window", "the spans of this curve lie outside the window of the axes", self.node)
        size = length_on_paper(view, "x", low_x, high_x), length_on_paper(view, "y", low_y, high_y)
        inner = PaperView(low_x, high_x, low_y, high_y, *size, view.x_scale, view.y_scale)
        found = [level_curve(gradient(f, self.variables), inner) for f in self.factors]
        pieces = [np.column_stack([p.x, p.y]) for p in found if p.x.size]
        lone = np.concatenate([p.singular for p in found]) if found else np.empty((0, 2))
        if not pieces and not lone.size:
            panel.say(self.node, "no place in the window fulfils this equation")
        for at in lone:
            # A lone point is drawn as the shortest of strokes with a round end.
            if not pieces or not np.any(np.all(np.concatenate(pieces) == at, axis=1)):
                pieces.append(np.array([at, at]))
        places = joined(pieces, 2)
        style = {"marker": "none", **self.style, "place": place}
        return Series(name, "curve", panel.line_of(self.node), places[:, 0], places[:, 1], **style)

    def axis_name(self, which: str) -> str | None:
        return f"${name_tex(self.variables[0 if which == 'x' else 1])}$"
