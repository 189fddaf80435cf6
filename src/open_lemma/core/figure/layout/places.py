"""Where windows stand on their sheet."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from ..model import POINTS_PER_MM, PanelData
from .parts import BAR_GAP_PT, BAR_IN_SPACE, BAR_PT, Margins, PlacedWindow, tick_texts

if TYPE_CHECKING:
    from .page import PageLayout

_GAP_PT = 7.0  # between panels


def place_all(page: PageLayout, windows: list[PlacedWindow], margins: list[Margins], heading: float) -> None:
    """Windows on a grid with common margins, so that they stand in rows and columns."""
    rows, columns = page.figure.grid
    across = [[margins[k] for k in range(len(windows)) if k % columns == c] for c in range(columns)]
    down = [[margins[k] for k in range(len(windows)) if k // columns == r] for r in range(rows)]
    lefts = [max((m.left for m in ms), default=0.0) for ms in across]
    rights = [max((m.right for m in ms), default=0.0) for ms in across]
    tops = [max((m.top for m in ms), default=0.0) for ms in down]
    bottoms = [max((m.bottom for m in ms), default=0.0) for ms in down]
    wide = (page.width - sum(lefts) - sum(rights) - _GAP_PT * (columns - 1)) / columns
    high = (page.height - heading - sum(tops) - sum(bottoms) - _GAP_PT * (rows - 1)) / rows
    wide, high = max(wide, page.width * 0.12 / columns), max(high, page.height * 0.12 / rows)
    for window in windows:
        row, column = divmod(window.place, columns)
        left = sum(lefts[: column + 1]) + sum(rights[:column]) + (wide + _GAP_PT) * column
        top = heading + sum(tops[: row + 1]) + sum(bottoms[:row]) + (high + _GAP_PT) * row
        put(page, window, left, page.height - top - high, wide, high)


def put(page: PageLayout, window: PlacedWindow, left: float, bottom: float, wide: float, high: float) -> None:
    """A window at a place, all in points from the lower left of the sheet."""
    if window.data.true_scale:
        want = proportion(window.data)
        if high / wide > want:
            bottom, high = bottom + (high - wide * want) / 2, wide * want
        else:
            left, wide = left + (wide - high / want) / 2, high / want
    for axes in (window.axes, window.right):
        if axes is not None:
            axes.set_position((left / page.width, bottom / page.height, wide / page.width, high / page.height))
    if window.bar is not None:
        # Right of the window; a second axis would stand there too, and its numbers are counted in.
        at = left + wide + page.offset + BAR_GAP_PT
        if window.right is not None:
            at += max((page.size(t, page.theme.small_pt)[0] for t in tick_texts(window.right.yaxis)), default=0.0) + 18
        if window.data.space is not None:
            bottom, high = bottom + high * (1 - BAR_IN_SPACE) / 2, high * BAR_IN_SPACE
        window.bar.set_position((at / page.width, bottom / page.height, BAR_PT * page.theme.weight / page.width, high / page.height))


def fit_height(page: PageLayout, window: PlacedWindow, margins: Margins, heading: float) -> None:
    """The sheet as high as a window in true scale over its whole width needs, within reason."""
    wide = page.width - margins.left - margins.right
    high = float(np.clip(wide * proportion(window.data), 0.25 * wide, 1.5 * wide))
    page.height = high + margins.top + margins.bottom + heading
    page.figure.height_mm = round(page.height / POINTS_PER_MM, 2)
    page.height = page.figure.height_mm * POINTS_PER_MM
    page.sheet.set_size_inches(page.width / 72, page.height / 72)
    place_all(page, [window], [margins], heading)


def proportion(panel: PanelData) -> float:
    """Height to width of a window in true scale."""
    return (panel.y.high - panel.y.low) / (panel.x.high - panel.x.low)
