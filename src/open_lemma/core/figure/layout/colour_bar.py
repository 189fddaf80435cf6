"""The scale of colours beside a window."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from matplotlib.collections import PolyCollection

from .. import palette
from ..model import PanelData
from ..things import band_colours, colour_map
from .parts import PlacedWindow

if TYPE_CHECKING:
    from .page import PageLayout


def draw_colour_bar(page: PageLayout, window: PlacedWindow) -> None:
    """The scale of colours of a window, with the levels that are drawn; in bands where the colours stand for bands."""
    bar, spec, ground, levels = window.bar, window.data.colours, window.ground, _levels_of(window.data)
    if bar is None or spec is None:
        return
    edges = np.linspace(0, 1, 129)
    low, high = bar.get_ylim()
    scale = bar.yaxis.get_transform()
    ends = scale.transform(np.array([low, high]))
    values = scale.inverted().transform(ends[0] + (ends[1] - ends[0]) * edges)
    middles = (values[:-1] + values[1:]) / 2
    if _is_banded(window.data):
        inner = np.array([v for v in levels if low < v < high])
        colours = band_colours(ground.tints, inner, colour_map(ground.tones, ground.grey))
        for a, b, colour in zip([low, *inner], [*inner, high], colours, strict=True):
            bar.axhspan(a, b, color=colour, linewidth=0.3)
    else:
        # Each step reaches up to the end, under the next one: where they only touched, paper would shine through.
        steps = [[(0, v), (1, v), (1, values[-1]), (0, values[-1])] for v in values[:-1]]
        colours = colour_map(ground.tones, ground.grey)(ground.tints(middles))
        bar.add_collection(PolyCollection(steps, facecolors=colours, edgecolors="none"), autolim=False)
    bar.set_xticks([])
    bar.yaxis.tick_right()
    bar.yaxis.set_label_position("right")
    for side in ("top", "bottom", "left", "right"):
        bar.spines[side].set_visible(True)
        bar.spines[side].set_linewidth(0.35 * page.theme.weight)
    bar.set_ylim(low, high)
    for level in levels:
        if min(low, high) < level < max(low, high):
            bar.axhline(level, color=palette.LINE, linewidth=0.35 * page.theme.weight)
    if spec.text:
        bar.set_ylabel(spec.text, labelpad=3.5 * page.theme.weight)


def _levels_of(panel: PanelData) -> list[float]:
    """Levels of lines that are drawn, for the scale of colours."""
    of = [s.levels for s in panel.series if s.levels]
    if panel.space is not None:
        of += [t.levels for t in panel.space.things if t.levels and t.scaled]
    return sorted({level for levels in of for level in levels})


def _is_banded(panel: PanelData) -> bool:
    """Whether the colours stand for bands of numbers and not for each by itself."""
    things = panel.space.things if panel.space is not None else []
    return any(s.kind == "contours" and s.fill for s in panel.series) or any(t.banded for t in things)
