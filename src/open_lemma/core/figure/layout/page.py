"""Panels on their sheet: margins as wide as the texts beside the windows need, nothing on top of anything else.

The texts are measured one by one: letting Matplotlib lay out the whole sheet first would take as long as drawing it.
All lengths are points; the sheet is laid out at 72 dots an inch, so that one dot is one point.
"""

from __future__ import annotations

from typing import Any

from matplotlib.font_manager import FontProperties

from ..model import POINTS_PER_MM, FigureData
from ..style import THEMES, Theme
from .contents import fill
from .margins import margins_of
from .parts import Layout, PointedBox
from .places import fit_height, place_all
from .windows import window_of

_EDGE_PT = 4.0  # white space at the sheet's edge, where type is of print size


def lay_out(sheet: Any, renderer: Any, figure: FigureData, grey: bool, opaque: bool, picture_dpi: float) -> Layout:
    """Put everything on the sheet; returns where it stands. picture_dpi: of surfaces, which are pictures inside the drawing."""
    return PageLayout(sheet, renderer, figure, grey, opaque, picture_dpi).lay_out()


class PageLayout:
    """A figure on its sheet while it is laid out: sizes in points."""

    def __init__(self, sheet: Any, renderer: Any, figure: FigureData, grey: bool, opaque: bool, picture_dpi: float) -> None:
        self.sheet, self.renderer, self.figure = sheet, renderer, figure
        self.grey, self.opaque, self.picture_dpi = grey, opaque, picture_dpi
        self.theme: Theme = THEMES[figure.style]
        self.layout = Layout()
        self.spare = list(sheet.axes)
        self.width, self.height = figure.width_mm * POINTS_PER_MM, figure.height_mm * POINTS_PER_MM
        self.fitted = len(figure.panels) == 1 and figure.panels[0].true_scale and not figure.sized
        if self.fitted:
            self.height = self.width  # whatever an earlier drawing made of it: the same figure comes out the same
        # The axes stand a little off the drawing, so that a line on the edge is not mistaken for an axis.
        self.offset = 4.0 * self.theme.weight
        self.edge = _EDGE_PT * max(self.theme.weight, 1.0)

    def lay_out(self) -> Layout:
        """Put everything on the sheet; returns where it stands."""
        figure = self.figure
        self.sheet.set_size_inches(self.width / 72, self.height / 72)
        columns = figure.grid[1]
        windows = [window_of(self, p, k, k % columns) for k, p in enumerate(figure.panels)]
        heading = self.size(figure.heading, self.theme.type_pt * 1.1)[1] + 5.0 if figure.heading else 0.0
        margins = [margins_of(self, w) for w in windows]
        place_all(self, windows, margins, heading)
        if self.fitted:
            fit_height(self, windows[0], margins[0], heading)
        for window in windows:
            fill(self, window, None)
        if figure.heading:
            text = self.sheet.text(
                0.5, 1 - self.edge / self.height, figure.heading, ha="center", va="top", fontsize=self.theme.type_pt * 1.1
            )
            self.box("title", text, 0, figure.line)
        return self.layout

    def box(self, kind: str, artist: Any, index: int, line: int, series: str = "") -> None:
        extent = artist.get_window_extent(self.renderer)
        self.add_box(kind, (extent.x0, extent.y0, extent.x1, extent.y1), index, line, series)

    def add_box(self, kind: str, ends: tuple[float, float, float, float], index: int, line: int, series: str = "") -> None:
        x0, y0, x1, y1 = ends
        px = tuple(round(float(v) * 96 / 72, 2) for v in (x0, self.height - y1, x1 - x0, y1 - y0))
        self.layout.boxes.append(PointedBox(kind, px, index, line, series))  # type: ignore[arg-type]

    def size(self, text: str | None, size: float) -> tuple[float, float]:
        """Width and height of a text of one or more lines; a line is as high as one with letters of every height."""
        if not text:
            return 0.0, 0.0
        if "\n" in text:
            artist = self.sheet.text(0, 0, text, fontsize=size)
            extent = artist.get_window_extent(self.renderer)
            artist.remove()
            return float(extent.width), float(extent.height)
        font = FontProperties(size=size)
        least = float(self.renderer.get_text_width_height_descent("lp", font, False)[1])
        width, height, _ = self.renderer.get_text_width_height_descent(text, font, "$" in text)
        return float(width), max(float(height), least)

    def text_height(self, text: str | None) -> float:
        return self.size(text or " ", self.theme.type_pt)[1]
