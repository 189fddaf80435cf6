"""Panels on their sheet: margins as wide as the texts beside the windows need, nothing on top of anything else.

The texts are measured one by one: letting Matplotlib lay out the whole sheet first would take as long as drawing it.
All lengths are points; the sheet is laid out at 72 dots an inch, so that one dot is one point.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from matplotlib import patheffects
from matplotlib.collections import PolyCollection
from matplotlib.font_manager import FontProperties
from matplotlib.patches import Rectangle

from . import palette
from .axes import prepare
from .labels import LEADER, Occupancy, badges, end_labels, labels_along, level_labels
from .legend import COVERED, Legend, entries, place_legend, space_legend
from .model import POINTS_PER_MM, AxisSpec, FigureData, PanelData, Series
from .series_marks import series_marks
from .space.camera import Camera
from .space.window import SpaceWindow
from .style import DRESSES, Dress
from .things import Ground, band_colours, colour_of, draw_series, heights, tint_norm

_EDGE_PT = 4.0  # white space at the sheet's edge, where type is of print size
_GAP_PT = 7.0  # between panels
_BAR_PT = 7.0  # width of the scale of colours
_BAR_GAP_PT = 8.0
_BAR_IN_SPACE = 0.62  # of the window's height, beside a box in space
_CORNERS = {"top left": (0.0, 1.0), "top right": (1.0, 1.0), "bottom left": (0.0, 0.0), "bottom right": (1.0, 0.0)}


@dataclass(frozen=True, slots=True)
class Box:
    """Something that can be pointed at: `px` is left, top, width, height on the sheet at 96 px an inch."""

    kind: str  # legend, title, text, mark, x axis, y axis, right axis, colour axis
    px: tuple[float, float, float, float]
    panel: int
    line: int = 0
    series: str = ""


@dataclass
class Layout:
    """Windows as (left, bottom, width, height) in points with whether each is an inset; boxes of what can be pointed at."""

    windows: list[tuple[tuple[float, float, float, float], bool]] = field(default_factory=list)
    cameras: dict[int, Camera] = field(default_factory=dict)  # of windows on space: lengths in points from the window's lower left
    boxes: list[Box] = field(default_factory=list)


@dataclass
class _Margins:
    left: float
    right: float
    bottom: float
    top: float


@dataclass
class _Window:
    """One panel while it is laid out."""

    data: PanelData
    axes: Any
    right: Any
    bar: Any
    ground: Ground
    place: int
    handles: list[tuple[Any, Series]] = field(default_factory=list)
    legend: Legend | None = None
    ends: list[tuple[Series, float]] = field(default_factory=list)  # labels at line ends with their widths
    below: bool = True  # whether the numbers of the horizontal axis are written (not so above another panel that shares it)
    beside: bool = True
    offset: float = 4.0
    turned: bool = False  # the numbers of the horizontal axis
    margins: _Margins | None = None


def lay_out(sheet: Any, renderer: Any, figure: FigureData, grey: bool, opaque: bool, picture_dpi: float) -> Layout:
    """Put everything on the sheet; returns where it stands. picture_dpi: of surfaces, which are pictures inside the drawing."""
    return _Sheet(sheet, renderer, figure, grey, opaque, picture_dpi).lay_out()


class _Sheet:
    def __init__(self, sheet: Any, renderer: Any, figure: FigureData, grey: bool, opaque: bool, picture_dpi: float) -> None:
        self.sheet, self.renderer, self.figure = sheet, renderer, figure
        self.grey, self.opaque, self.picture_dpi = grey, opaque, picture_dpi
        self.dress: Dress = DRESSES[figure.style]
        self.layout = Layout()
        self.spare = list(sheet.axes)
        self.width, self.height = figure.width_mm * POINTS_PER_MM, figure.height_mm * POINTS_PER_MM
        self.fitted = len(figure.panels) == 1 and figure.panels[0].true_scale and not figure.sized
        if self.fitted:
            self.height = self.width  # whatever an earlier drawing made of it: the same figure comes out the same
        # The axes stand a little off the drawing, so that a line on the edge is not mistaken for an axis.
        self.offset = 4.0 * self.dress.weight
        self.edge = _EDGE_PT * max(self.dress.weight, 1.0)

    def lay_out(self) -> Layout:
        figure = self.figure
        self.sheet.set_size_inches(self.width / 72, self.height / 72)
        columns = figure.grid[1]
        windows = [self._window(p, k, k % columns) for k, p in enumerate(figure.panels)]
        heading = self._size(figure.heading, self.dress.type_pt * 1.1)[1] + 5.0 if figure.heading else 0.0
        margins = [self._margins(w) for w in windows]
        self._set(windows, margins, heading)
        if self.fitted:
            self._fit_height(windows[0], margins[0], heading)
        for window in windows:
            self._inside(window, None)
        if figure.heading:
            text = self.sheet.text(
                0.5, 1 - self.edge / self.height, figure.heading, ha="center", va="top", fontsize=self.dress.type_pt * 1.1
            )
            self._box("title", text, 0, figure.line)
        return self.layout

    # ------------------------------------------------------------ one window

    def _window(self, panel: PanelData, place: int, column: int, inset: bool = False) -> _Window:
        # Axes that were made ahead with their sheet are taken first.
        axes = self.spare.pop() if self.spare else self.sheet.add_axes((0.1, 0.1, 0.8, 0.8), label=f"p{len(self.sheet.axes)}")
        axes.set_axisbelow(True)
        axes.patch.set_visible(False)
        norm = tint_norm(panel.colours) if panel.colours is not None else None
        tones = panel.colours.tones if panel.colours is not None else "rising"
        ground = Ground(self.dress, self.grey, self.opaque, norm, tones, series_marks(panel.series, self.grey))
        offset = 0.0 if inset else self.offset
        for side in ("left", "bottom"):
            axes.spines[side].set_position(("outward", offset))
        right = bar = None
        if panel.right is not None:
            right = axes.twinx()
            right.patch.set_visible(False)
            for side in ("left", "bottom", "top"):
                right.spines[side].set_visible(False)
            right.spines["right"].set_visible(True)
            right.spines["right"].set_position(("outward", offset))
        if panel.colours is not None and not inset:
            bar = self.sheet.add_axes((0.9, 0.1, 0.02, 0.8), label=f"c{len(self.sheet.axes)}")
        if panel.space is not None:
            axes.set_axis_off()
            return _Window(panel, axes, None, bar, ground, place, offset=self.offset, below=False, beside=False)
        window = _Window(panel, axes, right, bar, ground, place, offset=offset)
        if not inset:
            rows, columns = self.figure.grid
            below = place + columns < len(self.figure.panels)
            window.below = not ("x" in self.figure.shared and below)
            window.beside = not ("y" in self.figure.shared and column > 0)
            self._scale(window, self.width * 0.82 / columns, self.height * 0.8 / rows)
        return window

    def _scale(self, window: _Window, wide: float, high: float) -> None:
        """Scales, numbers and texts of the axes, for a window of about that size."""
        panel, axes, comma = window.data, window.axes, self.figure.comma
        factor = 8.0 / self.dress.type_pt  # larger type needs fewer numbers
        prepare(axes, "x", panel.x, wide * factor, comma)
        prepare(axes, "y", panel.y, high * factor, comma)
        if window.right is not None and panel.right is not None:
            prepare(window.right, "y", panel.right, high * factor, comma)
        if not window.below:
            axes.xaxis.set_tick_params(which="both", labelbottom=False)
        if not window.beside:
            axes.yaxis.set_tick_params(which="both", labelleft=False)
        if panel.gridlines:
            axes.grid(True, which="major")
            if panel.gridlines == "minor":
                if panel.x.minor is None and panel.y.minor is None:
                    axes.minorticks_on()
                axes.grid(True, which="minor", linewidth=0.3 * self.dress.weight)
        if not panel.frame:
            for spine in axes.spines.values():
                spine.set_visible(False)
            axes.tick_params(which="both", length=0)
        self._spread_numbers(window, wide)

    def _spread_numbers(self, window: _Window, wide: float) -> None:
        """Numbers of the horizontal axis that would touch are thinned; names are broken into lines, then turned."""
        axis, spec = window.axes.xaxis, window.data.x
        for _ in range(6):
            texts = _tick_texts(axis)
            if len(texts) < 2 or not window.below:
                return
            widths = [self._size(t, self.dress.small_pt)[0] for t in texts]
            low, high = axis.get_transform().transform(np.sort(axis.get_view_interval()))
            places = [p for p in axis.get_majorticklocs() if min(axis.get_view_interval()) <= p <= max(axis.get_view_interval())]
            at = (axis.get_transform().transform(np.asarray(places, dtype=float)) - low) / (high - low) * wide
            order = np.argsort(at)
            room = np.diff(np.asarray(at)[order]) - (np.asarray(widths)[order][1:] + np.asarray(widths)[order][:-1]) / 2
            if room.size == 0 or room.min() > self.dress.small_pt * 0.45:
                return
            if spec.names is not None:
                if any(" " in n and "\n" not in n for n in spec.names):
                    spec = AxisSpec(**{**_fields(spec), "names": [_broken(n) for n in spec.names]})
                    prepare(window.axes, "x", spec, wide, self.figure.comma)
                    continue
                window.turned = True
                window.axes.tick_params(axis="x", rotation=40)
                for label in axis.get_ticklabels():
                    label.set_horizontalalignment("right")
                    label.set_rotation_mode("anchor")
                return
            if spec.ticks is not None:
                return  # they were asked for so
            wide_now = wide * 0.75
            prepare(window.axes, "x", spec, wide_now * 8.0 / self.dress.type_pt * (0.8**_), self.figure.comma)

    # ------------------------------------------------------------ margins

    def _margins(self, window: _Window) -> _Margins:
        panel, axes, d = window.data, window.axes, self.dress
        w = d.weight
        if panel.space is not None:
            title = self._size(panel.title, d.type_pt)[1] + 4.0 if panel.title else 0.0
            margins = _Margins(self.edge, self.edge, self.edge, self.edge + title)
            self._more_margins(window, margins)
            return margins
        tick = 2.6 * w + window.offset + (3.2 * w if panel.frame else 0.0)
        x_texts, y_texts = _tick_texts(axes.xaxis), _tick_texts(axes.yaxis)
        sizes = [self._size(t, d.small_pt) for t in y_texts]
        left = self.edge + tick + (max((s[0] for s in sizes), default=0.0) if window.beside else 0.0)
        if panel.y.text and window.beside:
            left += self._text_height(panel.y.text) + 3.5 * w
        bottom = self.edge + tick + (self._x_numbers_height(window.turned, x_texts) if window.below else 0.0)
        if panel.x.text and window.below:
            bottom += self._text_height(panel.x.text) + 3.0 * w
        last = self._size(x_texts[-1], d.small_pt)[0] / 2 if x_texts and window.below else 0.0
        right = self.edge + max(last, 2.0)
        if window.right is not None and panel.right is not None:
            numbers = max((self._size(t, d.small_pt)[0] for t in _tick_texts(window.right.yaxis)), default=0.0)
            right = self.edge + tick + numbers + (self._text_height(panel.right.text) + 3.5 * w if panel.right.text else 0.0)
        offset = axes.yaxis.get_major_formatter().get_offset()
        top = self.edge + (d.small_pt + 4 if offset else d.small_pt / 2)
        if panel.title:
            top += self._size(panel.title, d.type_pt)[1] + 4.0
        margins = _Margins(left, right, bottom, top)
        self._more_margins(window, margins)
        margins.left, margins.bottom = min(margins.left, self.width * 0.45), min(margins.bottom, self.height * 0.45)
        window.margins = margins
        return margins

    def _own_margins(self, window: _Window) -> _Margins:
        """What numbers and texts of the axes take, without the white at the edge and what else stands in the margins."""
        assert window.margins is not None
        left, bottom = window.margins.left - self.edge, window.margins.bottom - self.edge
        spec = window.data.legend
        if spec is not None and spec.at is None and "outside" in spec.words:
            wide, high = self._legend_size(window)
            left -= wide + 4 if "left" in spec.words and not {"top", "bottom"} & set(spec.words.split()) else 0.0
            bottom -= high + 3 if "bottom" in spec.words else 0.0
        return _Margins(left, 0.0, bottom, 0.0)

    def _more_margins(self, window: _Window, margins: _Margins) -> None:
        """Room for the scale of colours, for labels at line ends, and for a legend outside."""
        panel, d = window.data, self.dress
        if window.bar is not None and panel.colours is not None:
            share = _BAR_IN_SPACE if panel.space is not None else 1.0
            prepare(window.bar, "y", panel.colours, self.height * 0.7 * share * 8.0 / d.type_pt, self.figure.comma)
            numbers = max((self._size(t, d.small_pt)[0] for t in _tick_texts(window.bar.yaxis)), default=0.0)
            text = self._text_height(panel.colours.text) + 3.5 * d.weight if panel.colours.text else 0.0
            margins.right += window.offset + _BAR_GAP_PT + (_BAR_PT + 5.8) * d.weight + numbers + text
        ends = [s for s in panel.series if s.label and s.written == "end" and s.kind in ("curve", "line", "points")]
        window.ends = [(s, self._size(s.label, d.small_pt)[0]) for s in ends if s.label]
        if window.ends and window.right is None:
            margins.right = max(margins.right, self.edge + 4.0 + LEADER + max(w for _, w in window.ends))
        if panel.legend is not None and "outside" in panel.legend.words and panel.legend.at is None:
            wide, high = self._legend_size(window)
            if "top" in panel.legend.words:
                margins.top += high + 3
            elif "bottom" in panel.legend.words:
                margins.bottom += high + 3
            elif "left" in panel.legend.words:
                margins.left += wide + 4
            else:
                margins.right += wide + 4

    def _legend_size(self, window: _Window) -> tuple[float, float]:
        spec, d = window.data.legend, self.dress
        said = entries(window.data, window.data.legend)
        if spec is None or not said:
            return 0.0, 0.0
        columns = spec.columns if spec.columns > 1 or not ({"top", "bottom"} & set(spec.words.split())) else min(len(said), 4)
        widths = [self._size(text, d.small_pt)[0] + 3.3 * d.small_pt for _, text in said]
        rows = -(-len(said) // columns)
        wide = sum(max(widths[k * rows : (k + 1) * rows], default=0.0) for k in range(columns)) + 1.2 * d.small_pt * (columns - 1)
        title = self._size(spec.title, d.small_pt) if spec.title else (0.0, 0.0)
        return max(wide, title[0]) + 4, rows * d.small_pt * 1.55 + 4 + (title[1] + 3 if spec.title else 0.0)

    def _x_numbers_height(self, turned: bool, texts: list[str]) -> float:
        sizes = [self._size(t, self.dress.small_pt) for t in texts]
        if turned:
            return max((w * 0.64 + h * 0.77 for w, h in sizes), default=0.0)
        return max((h for _, h in sizes), default=0.0)

    # ------------------------------------------------------------ places

    def _set(self, windows: list[_Window], margins: list[_Margins], heading: float) -> None:
        rows, columns = self.figure.grid
        across = [[margins[k] for k in range(len(windows)) if k % columns == c] for c in range(columns)]
        down = [[margins[k] for k in range(len(windows)) if k // columns == r] for r in range(rows)]
        lefts = [max((m.left for m in ms), default=0.0) for ms in across]
        rights = [max((m.right for m in ms), default=0.0) for ms in across]
        tops = [max((m.top for m in ms), default=0.0) for ms in down]
        bottoms = [max((m.bottom for m in ms), default=0.0) for ms in down]
        wide = (self.width - sum(lefts) - sum(rights) - _GAP_PT * (columns - 1)) / columns
        high = (self.height - heading - sum(tops) - sum(bottoms) - _GAP_PT * (rows - 1)) / rows
        wide, high = max(wide, self.width * 0.12 / columns), max(high, self.height * 0.12 / rows)
        for window in windows:
            row, column = divmod(window.place, columns)
            left = sum(lefts[: column + 1]) + sum(rights[:column]) + (wide + _GAP_PT) * column
            top = heading + sum(tops[: row + 1]) + sum(bottoms[:row]) + (high + _GAP_PT) * row
            self._put(window, left, self.height - top - high, wide, high)

    def _put(self, window: _Window, left: float, bottom: float, wide: float, high: float) -> None:
        if window.data.true_scale:
            want = _proportion(window.data)
            if high / wide > want:
                bottom, high = bottom + (high - wide * want) / 2, wide * want
            else:
                left, wide = left + (wide - high / want) / 2, high / want
        for axes in (window.axes, window.right):
            if axes is not None:
                axes.set_position((left / self.width, bottom / self.height, wide / self.width, high / self.height))
        if window.bar is not None:
            # Right of the window; a second axis would stand there too, and its numbers are counted in.
            at = left + wide + self.offset + _BAR_GAP_PT
            if window.right is not None:
                at += max((self._size(t, self.dress.small_pt)[0] for t in _tick_texts(window.right.yaxis)), default=0.0) + 18
            if window.data.space is not None:
                bottom, high = bottom + high * (1 - _BAR_IN_SPACE) / 2, high * _BAR_IN_SPACE
            window.bar.set_position((at / self.width, bottom / self.height, _BAR_PT * self.dress.weight / self.width, high / self.height))

    def _fit_height(self, window: _Window, margins: _Margins, heading: float) -> None:
        """The sheet as high as a window in true scale over its whole width needs, within reason."""
        wide = self.width - margins.left - margins.right
        high = float(np.clip(wide * _proportion(window.data), 0.25 * wide, 1.5 * wide))
        self.height = high + margins.top + margins.bottom + heading
        self.figure.height_mm = round(self.height / POINTS_PER_MM, 2)
        self.height = self.figure.height_mm * POINTS_PER_MM
        self.sheet.set_size_inches(self.width / 72, self.height / 72)
        self._set([window], [margins], heading)

    # ------------------------------------------------------------ inside

    def _inside(self, window: _Window, around: _Window | None) -> None:
        """Draw what stands in a window whose place is known, then what must find its place among it."""
        panel, axes = window.data, window.axes
        if panel.space is not None:
            self._in_space(window)
            return
        self._texts(window)
        crowd = self._crowd(window)
        beside = self._legend_beside(window, crowd)
        if beside:
            crowd = self._crowd(window)
        box = axes.get_window_extent(self.renderer)
        self.layout.windows.append(((box.x0, box.y0, box.width, box.height), around is not None))
        index = len(self.layout.windows) - 1
        for series in panel.series:
            home = window.right if series.right and window.right is not None else axes
            handle = draw_series(home, series, window.ground)
            if handle is not None:
                window.handles.append((handle, series))
        self._written_texts(window, crowd, index)
        insets = [self._inset(window, inset, crowd) for inset in panel.insets]
        for inset in insets:
            crowd.keep_free(inset.axes.get_window_extent(self.renderer).padded(12))
        self._labels(window, crowd, index)
        if panel.legend is not None:
            legend = place_legend(axes, window.right, panel, window.handles, crowd, self.dress, self.renderer, beside, self.opaque)
            if legend is not None:
                self._box("legend", legend, index, panel.legend.line or panel.line)
        self._axis_boxes(window, index)
        for inset in insets:
            self._inside(inset, window)

    def _in_space(self, window: _Window) -> None:
        panel, axes = window.data, window.axes
        box = axes.get_window_extent(self.renderer)
        self.layout.windows.append(((box.x0, box.y0, box.width, box.height), False))
        index = len(self.layout.windows) - 1
        space = SpaceWindow(axes, panel, self.dress, self.grey, self.figure.comma, (box.width, box.height), (box.x0, box.y0), self.height,
                            self._size)  # fmt: skip
        drawn = space.draw(self.picture_dpi, 2 if self.picture_dpi >= 400 else 3, self.opaque)
        self.layout.cameras[index] = drawn.camera
        lines = {t.id: t.line for t in panel.space.things} if panel.space is not None else {}
        for kind, artist, name in drawn.boxes:
            self._box(kind, artist, index, lines.get(name, panel.line), name)
        for axis, (x0, y0, x1, y1) in drawn.edges.items():
            self._add_box(f"{axis} axis", (box.x0 + x0, box.y0 + y0, box.x0 + x1, box.y0 + y1), index, panel.line)
        if panel.title:
            axes.set_title(panel.title, loc="left", pad=4.0)
            self._box("panel title", axes._left_title, index, panel.line)
        self._colour_bar(window)
        if window.bar is not None:
            extent = window.bar.yaxis.get_tightbbox(self.renderer)
            self._add_box("colour axis", (extent.x0, extent.y0, extent.x1, extent.y1), index, panel.line)
        if panel.legend is not None:
            legend = space_legend(axes, panel.legend, drawn.handles, self.dress)
            if legend is not None:
                self._box("legend", legend, index, panel.legend.line or panel.line)

    def _crowd(self, window: _Window) -> Occupancy:
        crowd = Occupancy(window.axes, window.data)
        for series in window.data.series:
            crowd.add(window.right if series.right and window.right is not None else window.axes, series)
        return crowd

    def _legend_beside(self, window: _Window, crowd: Occupancy) -> bool:
        """Narrow the window for a legend beside it, where inside there is no room that a curve does not need."""
        spec = window.data.legend
        if spec is None or spec.words != "auto" or spec.at is not None or window.right is not None or window.bar is not None:
            return False
        wide, high = self._legend_size(window)
        box = window.axes.get_window_extent(self.renderer)
        if not wide or wide > 0.35 * box.width or crowd.emptiest(wide, min(high, box.height))[1] <= COVERED:
            return False
        place = window.axes.get_position()
        window.axes.set_position((place.x0, place.y0, place.width - (wide + 4) / self.width, place.height))
        return True

    def _texts(self, window: _Window) -> None:
        panel, axes, w = window.data, window.axes, self.dress.weight
        if panel.x.text and window.below:
            axes.set_xlabel(panel.x.text, labelpad=3.0 * w)
        if panel.y.text and window.beside:
            axes.set_ylabel(panel.y.text, labelpad=3.5 * w)
        if window.right is not None and panel.right is not None and panel.right.text:
            window.right.set_ylabel(panel.right.text, labelpad=3.5 * w)
        if panel.title:
            offset = axes.yaxis.get_major_formatter().get_offset()
            axes.set_title(panel.title, loc="left", pad=4.0 + (self.dress.small_pt if offset else 0.0))
        self._colour_bar(window)

    def _colour_bar(self, window: _Window) -> None:
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
            colours = band_colours(ground.tints, inner, heights(ground.tones, ground.grey))
            for a, b, colour in zip([low, *inner], [*inner, high], colours, strict=True):
                bar.axhspan(a, b, color=colour, linewidth=0.3)
        else:
            # Each step reaches up to the end, under the next one: where they only touched, paper would shine through.
            steps = [[(0, v), (1, v), (1, values[-1]), (0, values[-1])] for v in values[:-1]]
            colours = heights(ground.tones, ground.grey)(ground.tints(middles))
            bar.add_collection(PolyCollection(steps, facecolors=colours, edgecolors="none"), autolim=False)
        bar.set_xticks([])
        bar.yaxis.tick_right()
        bar.yaxis.set_label_position("right")
        for side in ("top", "bottom", "left", "right"):
            bar.spines[side].set_visible(True)
            bar.spines[side].set_linewidth(0.35 * self.dress.weight)
        bar.set_ylim(low, high)
        for level in levels:
            if min(low, high) < level < max(low, high):
                bar.axhline(level, color=palette.LINE, linewidth=0.35 * self.dress.weight)
        if spec.text:
            bar.set_ylabel(spec.text, labelpad=3.5 * self.dress.weight)

    def _inset(self, window: _Window, panel: PanelData, crowd: Occupancy) -> _Window:
        box = window.axes.get_window_extent(self.renderer)
        inner = self._window(panel, window.place, 0, inset=True)
        wide, high = box.width * panel.share, box.height * panel.share
        self._scale(inner, wide, high)
        inner.axes.patch.set_visible(True)
        inner.axes.patch.set_facecolor(palette.PAPER)
        for spine in inner.axes.spines.values():
            spine.set_visible(True)
        inner.axes.set_zorder(4)
        small = self.dress.small_pt * 0.9
        inner.axes.tick_params(labelsize=small)
        pad = self._margins(inner)
        if panel.at is None and not panel.words:
            # Its middle where least is drawn; the numbers beside it are counted in.
            (a, b), _ = crowd.emptiest(wide + pad.left + 4, high + pad.bottom + 4)
            left = box.x0 + a * box.width - (wide + pad.left) / 2 + pad.left
            bottom = box.y0 + b * box.height - (high + pad.bottom) / 2 + pad.bottom
        elif panel.at is not None:
            left, bottom = box.x0 + panel.at[0] * box.width - wide / 2, box.y0 + panel.at[1] * box.height - high / 2
        else:
            across, up = _corner(panel.words)
            left = box.x0 + (pad.left if across == 0 else box.width - wide - 3 if across == 1 else (box.width - wide) / 2)
            bottom = box.y0 + (pad.bottom if up == 0 else box.height - high - 3 if up == 1 else (box.height - high) / 2)
        self._put(inner, left, bottom, wide, high)
        self._paper_under(inner, (left - pad.left + 2, bottom - pad.bottom + 2, wide + pad.left, high + pad.bottom + 2))
        return inner

    def _paper_under(self, inner: _Window, place: tuple[float, float, float, float]) -> None:
        """Paper beneath an inset and its numbers, so that what is drawn around it does not run through them."""
        left, bottom, wide, high = place
        bounds = (left / self.width, bottom / self.height, wide / self.width, high / self.height)
        under = self.sheet.add_axes(bounds, label=f"u{len(self.sheet.axes)}")
        under.set_axis_off()
        under.add_patch(Rectangle((0, 0), 1, 1, transform=under.transAxes, facecolor=palette.PAPER, edgecolor="none"))
        under.set_zorder(3.5)
        inner.axes.set_zorder(4)

    def _written_texts(self, window: _Window, crowd: Occupancy, index: int) -> None:
        """Texts at their places, with a rim of paper so that a line beneath does not run through the letters."""
        sides = {"above": (0, 1), "below": (0, -1), "left": (-1, 0), "right": (1, 0), "centre": (0, 0)}
        for series in window.data.series:
            if series.kind != "text":
                continue
            dx, dy = sides[series.side or "centre"]
            home = window.right if series.right and window.right is not None else window.axes
            text = home.annotate(
                series.text or "", (series.x[0], series.y[0]), (4 * dx, 4 * dy), textcoords="offset points",
                ha={-1: "right", 0: "center", 1: "left"}[dx], va={-1: "top", 0: "center", 1: "bottom"}[dy] if dy or not dx else "center",
                # Turned first and then put beside its place by its own edges.
                rotation=series.turn, rotation_mode="default", color=colour_of(series, window.ground),
                fontsize=series.size * self.dress.small_pt / 7.0, zorder=5, alpha=series.opacity if series.opacity < 1 else None,
            )  # fmt: skip
            text.set_path_effects([patheffects.withStroke(linewidth=2.0 * self.dress.weight, foreground=palette.PAPER)])
            text.set_gid(series.id)
            extent = text.get_window_extent(self.renderer)
            # Near the sheet's edge it is moved in: half a word says nothing.
            shift = max(1.5 - extent.x0, 0.0) - max(extent.x1 - self.width + 1.5, 0.0)
            if shift and abs(shift) < extent.width:
                text.set_position((4 * dx + shift, 4 * dy))
            self._box("text", text, index, series.line, series.id)
            crowd.keep_free(text.get_window_extent(self.renderer))

    def _labels(self, window: _Window, crowd: Occupancy, index: int) -> None:
        size = self.dress.small_pt
        beside = window.right is not None or window.bar is not None
        for text, series in level_labels(window.axes, window.data, crowd, size, self.renderer):
            self._box("label", text, index, series.line, series.id)
        for text, series in end_labels(window.axes, window.right, window.ends, window.ground, size, self.renderer, beside):
            self._box("label", text, index, series.line, series.id)
        for mark, series in badges(window.axes, window.right, window.data, crowd, self.dress, self.renderer):
            self._box("mark", mark, index, series.line, series.id)
        for text, series in labels_along(window.axes, window.right, window.data, crowd, window.ground, size, self.renderer):
            self._box("label", text, index, series.line, series.id)

    # ------------------------------------------------------------ what can be pointed at

    def _axis_boxes(self, window: _Window, index: int) -> None:
        box = window.axes.get_window_extent(self.renderer)
        panel = window.data
        if window.margins is not None:
            # As wide as the margin that was left for them: measuring what stands there would cost a fifth of the drawing.
            own = self._own_margins(window)
            self._add_box("x axis", (box.x0, box.y0 - own.bottom, box.x1, box.y0), index, panel.line)
            self._add_box("y axis", (box.x0 - own.left, box.y0, box.x0, box.y1), index, panel.line)
        for kind, axes in (("right axis", window.right), ("colour axis", window.bar)):
            extent = axes.yaxis.get_tightbbox(self.renderer) if axes is not None else None
            if extent is not None:
                self._add_box(kind, (extent.x0, extent.y0, extent.x1, extent.y1), index, panel.line)
        if panel.title:
            self._box("panel title", window.axes._left_title, index, panel.line)

    def _box(self, kind: str, artist: Any, index: int, line: int, series: str = "") -> None:
        extent = artist.get_window_extent(self.renderer)
        self._add_box(kind, (extent.x0, extent.y0, extent.x1, extent.y1), index, line, series)

    def _add_box(self, kind: str, ends: tuple[float, float, float, float], index: int, line: int, series: str = "") -> None:
        x0, y0, x1, y1 = ends
        px = tuple(round(float(v) * 96 / 72, 2) for v in (x0, self.height - y1, x1 - x0, y1 - y0))
        self.layout.boxes.append(Box(kind, px, index, line, series))  # type: ignore[arg-type]

    # ------------------------------------------------------------ texts

    def _size(self, text: str | None, size: float) -> tuple[float, float]:
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

    def _text_height(self, text: str | None) -> float:
        return self._size(text or " ", self.dress.type_pt)[1]


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


def _tick_texts(axis: Any) -> list[str]:
    low, high = sorted(axis.get_view_interval())
    room = 1e-9 * (high - low)
    places = axis.get_majorticklocs()
    # All of them say how many decimals are written, also those just outside.
    texts = axis.get_major_formatter().format_ticks(places)
    return [str(t) for p, t in zip(places, texts, strict=True) if low - room <= p <= high + room]


def _proportion(panel: PanelData) -> float:
    """Height to width of a window in true scale."""
    return (panel.y.high - panel.y.low) / (panel.x.high - panel.x.low)


def _corner(words: str) -> tuple[float, float]:
    """0, 0.5 or 1 across and up."""
    said = set(words.split())
    if not said:
        return 1.0, 1.0
    across = 0.0 if "left" in said else 1.0 if "right" in said else 0.5
    up = 0.0 if "bottom" in said else 1.0 if "top" in said else 0.5
    return across, up


def _broken(name: str) -> str:
    """A name of several words in two lines of about the same length."""
    words = name.split(" ")
    cut = min(range(1, len(words)), key=lambda k: abs(len(" ".join(words[:k])) - len(" ".join(words[k:]))), default=0)
    return " ".join(words[:cut]) + "\n" + " ".join(words[cut:]) if cut else name


def _fields(spec: AxisSpec) -> dict[str, Any]:
    return dict(vars(spec))
