"""Given places: drawn as marks, joined by straight pieces, as a staircase, or as bars."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np

from ....figure.model import Floats, Series
from ....formula.nodes import Formula
from ....formula.tape import Tape
from ....formula.units import Unit
from ....language import tree
from ....numerics.curves.sampling import PaperView, Sampled
from ....numerics.curves.scales import Scale
from .base import Drawable, FirstLook, PanelContext, Span
from .texts import in_another_unit


@dataclass
class Points(Drawable):
    """Places (n,); NaN is a gap.

    texts     what its axes may say: quantity and unit
    tints     numbers that are shown as colours (n,)
    errors    standard uncertainties along x and y (n,)
    names     of what bars stand for
    left_out  rows that do not count, of the points before them
    """

    node: tree.Request
    x: Floats = field(kw_only=True)
    y: Floats = field(kw_only=True)
    kind: Literal["points", "line", "bars"] = "points"
    texts: tuple[str | None, str | None] = (None, None)
    tints: Floats | None = None
    errors: tuple[Floats | None, Floats | None] = (None, None)
    names: tuple[str, ...] | None = None
    left_out: bool = False
    units: tuple[Unit | None, Unit | None] = (None, None)  # type: ignore[misc]

    axes_from = "data"

    def scaled(self, k: int, factor: Formula, unit: Unit) -> None:
        times = float(np.asarray(Tape([factor], []).numeric()[0]))
        errors = [e if e is None or j != k else e * times for j, e in enumerate(self.errors)]
        self.x, self.y = (self.x * times, self.y) if k == 0 else (self.x, self.y * times)
        self.errors = errors[0], errors[1]
        self.units = (unit, self.units[1]) if k == 0 else (self.units[0], unit)
        texts = [in_another_unit(t, unit) if j == k else t for j, t in enumerate(self.texts)]
        self.texts = texts[0], texts[1]

    @property
    def shares_ink(self) -> bool:
        return self.left_out

    @property
    def good(self) -> Any:
        return np.isfinite(self.x) & np.isfinite(self.y)

    def _seen_x(self) -> Floats:
        x, e = self.x[self.good], self.errors[0]
        return x if e is None else np.concatenate([x - np.nan_to_num(e[self.good]), x + np.nan_to_num(e[self.good])])

    def _seen_y(self) -> Floats:
        y, e = self.y[self.good], self.errors[1]
        found = y if e is None else np.concatenate([y - np.nan_to_num(e[self.good]), y + np.nan_to_num(e[self.good])])
        return np.append(found, 0.0) if self.kind == "bars" or self.style.get("fill") else found

    def span(self, panel: PanelContext, scale: Scale) -> Span | None:
        xs = self._seen_x()
        if self.kind == "bars":
            half = _step(self.x) * 0.6
            return float(xs.min()) - half, float(xs.max()) + half
        if scale.positive:
            xs = xs[xs > 0]
            if not xs.size:
                return None
            factor = (float(xs.max()) / float(xs.min())) ** 0.03 if xs.max() > xs.min() else 1.5
            return float(xs.min()) / factor, float(xs.max()) * factor
        room = 0.04 * float(np.ptp(xs)) or 0.5
        return float(xs.min()) - room, float(xs.max()) + room

    def heights(self, panel: PanelContext, x: Span, look: FirstLook | None) -> list[Floats]:
        if panel.given("x") is None or self.kind == "bars":
            return [self._seen_y()]
        inside = self.good & (self.x >= x[0]) & (self.x <= x[1])
        errors = self.errors[0], None if self.errors[1] is None else self.errors[1][inside]
        return [replace(self, x=self.x[inside], y=self.y[inside], errors=errors)._seen_y()]

    def series(
        self, name: str, panel: PanelContext, view: PaperView, place: int, look: FirstLook | None, sampled: Sampled | None
    ) -> Series:
        x, y, tints, (ex, ey) = self.x, self.y, self.tints, self.errors
        if self.kind == "points":
            inside = self.good & (x >= view.x_low) & (x <= view.x_high) & (y >= view.y_low) & (y <= view.y_high)
            shown, count = int(inside.sum()), int(self.good.sum())
            if shown < count:
                panel.say(self.node, f"{count - shown} of {count} points lie outside the window")
            x, y, tints, ex, ey = (None if v is None else v[inside] for v in (x, y, tints, ex, ey))  # type: ignore[assignment]
        series = Series(name, self.kind, panel.line_of(self.node), x, y, **self.style, place=place, tints=tints, ex=ex, ey=ey)
        series.stroke = self.kind != "line" and "width" in self.style
        if self.kind == "line" and "marker" not in self.style:
            series.marker = "none"
        if self.kind == "bars":
            self._beside_others(series, panel)
        return series

    def _beside_others(self, series: Series, panel: PanelContext) -> None:
        """Bars of one place stand side by side."""
        bars = [t for t in panel.drawables if isinstance(t, Points) and t.kind == "bars"]
        step = min(_step(t.x) for t in bars)
        series.spread = step * 0.8 / len(bars)
        place = next(k for k, t in enumerate(bars) if t is self)
        series.x = series.x + (place - (len(bars) - 1) / 2) * series.spread

    def axis_name(self, which: str) -> str | None:
        return self.texts[0 if which == "x" else 1]

    def named_places(self) -> tuple[list[float], list[str]] | None:
        return None if self.names is None else ([float(v) for v in self.x], list(self.names))


def staircase(x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Each value holds from its place to the next one; a gap breaks the line."""
    if x.size < 2:
        return x, y
    return np.repeat(x, 2)[1:], np.repeat(y, 2)[:-1]


def _step(x: Floats) -> float:
    places = np.unique(x[np.isfinite(x)])
    return float(np.diff(places).min()) if places.size > 1 else 1.0
