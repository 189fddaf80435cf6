"""How often data fall into equally wide parts."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ....figure.model import Floats, Series
from ....language import tree
from ....numerics.curves.sampling import PaperView, Sampled
from ....numerics.curves.scales import Scale
from ....record.notation import format_short
from .base import Drawable, FirstLook, PanelContext, Span


@dataclass
class Histogram(Drawable):
    """Counts (n,) between edges (n + 1,); outside: how many numbers lie beyond all parts; texts: what its axes may say."""

    node: tree.Request
    edges: Floats = field(kw_only=True)
    counts: Floats = field(kw_only=True)
    by_rule: bool = field(kw_only=True)
    outside: int = 0
    text: str | None = None

    axes_from = "data"

    def span(self, panel: PanelContext, scale: Scale) -> Span:
        room = 0.0 if scale.positive else 0.3 * float(self.edges[1] - self.edges[0])
        return float(self.edges[0]) - room, float(self.edges[-1]) + room

    def heights(self, panel: PanelContext, x: Span, look: FirstLook | None) -> list[Floats]:
        return [np.append(self.counts, 0.0)]

    def series(
        self, name: str, panel: PanelContext, view: PaperView, place: int, look: FirstLook | None, sampled: Sampled | None
    ) -> Series:
        width = float(self.edges[1] - self.edges[0])
        if self.by_rule:
            panel.say(
                self.node, f"{_counted(self.counts.size, 'part')}, each {format_short(width)} wide, by the rule of Freedman and Diaconis"
            )
        if self.outside:
            panel.say(self.node, f"outside of all parts: {_counted(self.outside, 'number')}")
        middles = (self.edges[:-1] + self.edges[1:]) / 2
        series = Series(name, "bars", panel.line_of(self.node), middles, self.counts, **self.style, place=place, spread=width)
        series.stroke = True
        if "width" not in self.style:
            series.width = 0.5  # a thin line between neighbours
        return series

    def axis_name(self, which: str) -> str | None:
        return self.text if which == "x" else "count"


def edges_by_rule(data: Floats) -> Floats:
    """Ends of equally wide parts (n + 1,) for data (m,), m at least 1.

    Width 2*IQR/m^(1/3), D. Freedman and P. Diaconis, "On the histogram as a density estimator: L2 theory", Zeitschrift fuer
    Wahrscheinlichkeitstheorie 57 (1981) 453, rounded to 1, 2, 2.5 or 5 times a power of ten, and ends at multiples of it. Where the
    middle half of the data is one number, 1 + log2(m) parts, H. A. Sturges, J. Amer. Statist. Assoc. 21 (1926) 65. Both from memory.
    """
    low, high = float(data.min()), float(data.max())
    if high == low:
        return np.array([low - 0.5, low + 0.5])
    spread = float(np.subtract(*np.quantile(data, [0.75, 0.25])))
    width = 2 * spread / data.size ** (1 / 3) if spread > 0 else (high - low) / np.ceil(1 + np.log2(data.size))
    width = max(width, (high - low) / 400)
    power = 10.0 ** np.floor(np.log10(width))
    width = power * next(f for f in (1.0, 2.0, 2.5, 5.0, 10.0) if f * power >= width * 0.8)
    first, last = np.floor(low / width), np.ceil(high / width)
    if last * width <= high:  # the last part holds its upper end, but a datum should not stand alone on it
        last += 1
    return np.asarray(np.arange(first, last + 1) * width)


def _counted(count: int, word: str) -> str:
    return f"{count} {word}{'' if count == 1 else 's'}"
