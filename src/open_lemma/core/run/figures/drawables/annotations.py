"""What is put at a place by hand: straight lines, texts, and findings with their numbers."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import ClassVar

import numpy as np

from ....figure.model import Floats, Kind, Series
from ....figure.space.scene import Shape, Solid
from ....formula.nodes import Formula
from ....formula.units import Unit
from ....language import tree
from ....language.messages import advise
from ....numerics.curves.sampling import PaperView, Sampled
from ....numerics.curves.scales import Scale
from ....record.notation import format_short
from ...evaluate.refusals import refusal
from ...slopes import value_of
from .base import Drawable, FirstLook, PanelContext, Span
from .content import SpaceContent, SpaceContext


@dataclass
class Annotation(Drawable):
    """Places (n,), NaN where a line goes from edge to edge; it has no ink of the figure's order."""

    node: tree.Statement
    x: Floats = field(kw_only=True)
    y: Floats = field(kw_only=True)
    text: str | None = None
    units: tuple[Unit | None, Unit | None] = (None, None)  # type: ignore[misc]

    takes_ink = False
    kind: ClassVar[Kind]

    def span(self, panel: PanelContext, scale: Scale) -> Span | None:
        good = self.x[np.isfinite(self.x)]
        return (float(good.min()), float(good.max())) if good.size else None

    def heights(self, panel: PanelContext, x: Span, look: FirstLook | None) -> list[Floats]:
        return [self.y[np.isfinite(self.y)]]

    def scaled(self, k: int, factor: Formula, unit: Unit) -> None:
        times = value_of(factor)
        self.x, self.y = (self.x * times, self.y) if k == 0 else (self.x, self.y * times)
        self.units = (unit, self.units[1]) if k == 0 else (self.units[0], unit)

    def stands(self, axis: str) -> Floats:
        places = self.x if axis == "x" else self.y
        return places[np.isfinite(places)]

    def series(
        self, name: str, panel: PanelContext, view: PaperView, place: int, look: FirstLook | None, sampled: Sampled | None
    ) -> Series:
        x, y = self.ends(view)
        outside = self.outside(view)
        if outside is not None:
            panel.say(self.node, outside)
        return Series(name, self.kind, panel.line_of(self.node), x, y, **self.style, text=self.text)

    def ends(self, view: PaperView) -> tuple[Floats, Floats]:
        """Its places in a view."""
        return self.x.copy(), self.y.copy()

    def outside(self, view: PaperView) -> str | None:
        """What is said of it where it cannot be seen."""
        raise NotImplementedError


class ReferenceLine(Annotation):
    """A straight line, between two places or from edge to edge."""

    kind = "rule"

    def ends(self, view: PaperView) -> tuple[Floats, Floats]:
        if np.isnan(self.x).all():
            return np.array([view.x_low, view.x_high]), self.y.copy()
        if np.isnan(self.y).all():
            return self.x.copy(), np.array([view.y_low, view.y_high])
        return super().ends(view)

    def outside(self, view: PaperView) -> str | None:
        """What is said of it where it cannot be seen."""
        level, upright = bool(np.isnan(self.x).all()), bool(np.isnan(self.y).all())
        if level and not view.y_low <= self.y[0] <= view.y_high:
            return f"this line at {format_short(float(self.y[0]))} lies outside the window"
        if upright and not level and not view.x_low <= self.x[0] <= view.x_high:
            return f"this line at {format_short(float(self.x[0]))} lies outside the window"
        return None


class TextNote(Annotation):
    """A text at a place; it asks for no window."""

    kind = "text"

    @property
    def keeps_place(self) -> bool:
        return False

    def span(self, panel: PanelContext, scale: Scale) -> Span | None:
        return None

    def heights(self, panel: PanelContext, x: Span, look: FirstLook | None) -> list[Floats]:
        return []

    def outside(self, view: PaperView) -> str | None:
        if view.x_low <= self.x[0] <= view.x_high and view.y_low <= self.y[0] <= view.y_high:
            return None
        return f"the text stands at ({format_short(float(self.x[0]))}, {format_short(float(self.y[0]))}), outside the window"


@dataclass
class Mark(SpaceContent, Annotation):
    """Findings at their places.

    lifted: their heights in space, of what was found over two variables (n,); spread: standard uncertainties across and up (n,)
    """

    lifted: Floats | None = None
    spread: tuple[Floats | None, Floats | None] = (None, None)

    kind = "mark"
    options_in_space = frozenset({"colour", "size"})

    def solids(self, name: str, space: SpaceContext) -> list[Solid]:
        """Marks of a search over two variables, put on the surface where its value is known."""
        if self.lifted is None:
            raise refusal("plane-in-space", "this finding has places in the plane, and the figure is one in space", self.node,
                          advise("mark what was found over two variables, or a point (x, y, z)"))  # fmt: skip
        look = {k: v for k, v in self.style.items() if k in ("colour", "spot")}
        return [Solid(name, "mark", space.line_of(self), Shape(np.column_stack([self.x, self.y, self.lifted])), text=self.text, **look)]

    def scaled(self, k: int, factor: Formula, unit: Unit) -> None:
        super().scaled(k, factor, unit)
        times = value_of(factor)
        ex, ey = (None if s is None else s * (times if k == n else 1.0) for n, s in enumerate(self.spread))
        self.spread = ex, ey

    def series(
        self, name: str, panel: PanelContext, view: PaperView, place: int, look: FirstLook | None, sampled: Sampled | None
    ) -> Series:
        found = super().series(name, panel, view, place, look, sampled)
        found.ex, found.ey = (s if s is not None and s.any() else None for s in self.spread)
        return found

    def outside(self, view: PaperView) -> str | None:
        away = (self.x < view.x_low) | (self.x > view.x_high) | (self.y < view.y_low) | (self.y > view.y_high)
        return f"{int(away.sum())} of {self.x.size} marked places lie outside the window" if away.any() else None
