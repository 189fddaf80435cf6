"""The curve of points (x(t), y(t))."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from ....figure.model import Floats, Series
from ....formula.catalogue import times
from ....formula.nodes import Formula
from ....formula.tape import Tape
from ....formula.units import Unit
from ....language import tree
from ....numerics.curves.parametric import first_look, follow
from ....numerics.curves.sampling import PaperView, Sampled
from ....numerics.curves.scales import Scale
from ....record.notation import format_short
from ...evaluate.refusals import refusal
from ..extent import reach
from .base import Drawable, FirstLook, PanelContext, Span, texts_of
from .colour_values import colour_values


@dataclass
class Path(Drawable):
    """A curve of points; formulas: x and y in `variable`, which runs from low to high; tint: what colours it."""

    node: tree.Request
    formulas: tuple[Formula, Formula] = field(kw_only=True)
    variable: str = field(kw_only=True)
    low: float = field(kw_only=True)
    high: float = field(kw_only=True)
    tint: Formula | None = None
    units: tuple[Unit | None, Unit | None] = (None, None)  # type: ignore[misc]

    axes_from = "pair"

    def __post_init__(self) -> None:
        self._tape = Tape(list(self.formulas), [self.variable])

    def scaled(self, k: int, factor: Formula, unit: Unit) -> None:
        x, y = self.formulas
        self.formulas = (times(x, factor), y) if k == 0 else (x, times(y, factor))
        self.units = (unit, self.units[1]) if k == 0 else (self.units[0], unit)
        self._tape = Tape(list(self.formulas), [self.variable])

    def function(self, t: Floats) -> tuple[Floats, Floats]:
        """Places at values (n,) of the variable."""
        x, y = self._tape.numeric(t)
        return x, y

    @cached_property
    def _first(self) -> Any:
        return first_look(self.function, self.low, self.high)

    def span(self, panel: PanelContext, scale: Scale) -> Span:
        xs = reach(self._first.x)
        if not xs.size:
            text = f"this has no value anywhere from {format_short(self.low)} to {format_short(self.high)}"
            raise refusal("nowhere-defined", text, self.node)
        room = 0.0 if scale.positive else (0.04 * float(np.ptp(xs)) or 0.5)
        return float(xs.min()) - room, float(xs.max()) + room

    def heights(self, panel: PanelContext, x: Span, look: FirstLook | None) -> list[Floats]:
        return [reach(self._first.y)]

    def series(
        self, name: str, panel: PanelContext, view: PaperView, place: int, look: FirstLook | None, sampled: Sampled | None
    ) -> Series:
        found = follow(self.function, view, self._first)
        style = {"marker": "none", **self.style, "place": place}
        series = Series(name, "curve", panel.line_of(self.node), found.x, found.y, **style)
        series.formula, series.variable, series.span = texts_of(*self.formulas), self.variable, (self.low, self.high)
        if self.tint is not None:
            series.tints = colour_values(self.tint, self.variable, found.t)
        if not found.complete:
            panel.say(self.node, "the curve turns faster than can be drawn in places; the line is a band there")
        if found.jumps:
            panel.say(self.node, f"jumps at {found.jumps} place{'s' if found.jumps > 1 else ''}; not joined there")
        return series
