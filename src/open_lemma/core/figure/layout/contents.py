"""What stands inside a window: drawn things, insets, texts, labels, the legend."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..labels import Occupancy
from ..legend import COVERED, chooses_place, place_legend, space_entries, space_legend
from ..space.window import SpaceWindow
from ..things import draw_series
from .colour_bar import draw_colour_bar
from .insets import place_inset
from .margins import legend_size, texts_size
from .parts import PlacedWindow
from .pointing import axis_boxes
from .texts import axis_texts, label_series, written_texts

if TYPE_CHECKING:
    from .page import PageLayout


def fill(page: PageLayout, window: PlacedWindow, around: PlacedWindow | None) -> None:
    """Draw what stands in a window whose place is known, then what must find its place among it."""
    panel, axes = window.data, window.axes
    if panel.space is not None:
        _fill_space(page, window)
        return
    axis_texts(page, window)
    occupied = _occupied(window)
    beside = _legend_beside(page, window, occupied)
    if beside:
        occupied = _occupied(window)
    box = axes.get_window_extent(page.renderer)
    page.layout.windows.append(((box.x0, box.y0, box.width, box.height), around is not None))
    index = len(page.layout.windows) - 1
    for series in panel.series:
        home = window.right if series.right and window.right is not None else axes
        handle = draw_series(home, series, window.ground)
        if handle is not None:
            window.handles.append((handle, series))
    written_texts(page, window, occupied, index)
    insets = [place_inset(page, window, inset, occupied) for inset in panel.insets]
    for inset in insets:
        occupied.keep_free(inset.axes.get_window_extent(page.renderer).padded(12))
    label_series(page, window, occupied, index)
    if panel.legend is not None:
        legend = place_legend(axes, window.right, panel, window.handles, occupied, page.theme, page.renderer, beside, page.opaque)
        if legend is not None:
            page.box("legend", legend, index, panel.legend.line or panel.line)
    axis_boxes(page, window, index)
    for inset in insets:
        fill(page, inset, window)


def _fill_space(page: PageLayout, window: PlacedWindow) -> None:
    panel, axes = window.data, window.axes
    box = axes.get_window_extent(page.renderer)
    page.layout.windows.append(((box.x0, box.y0, box.width, box.height), False))
    index = len(page.layout.windows) - 1
    legend_room = None
    if panel.legend is not None and chooses_place(panel.legend):
        texts = [s.label or "" for s in space_entries(panel.space.things, panel.legend)] if panel.space is not None else []
        legend_room = texts_size(page, panel.legend, texts) if texts else None
    space = SpaceWindow(axes, panel, page.theme, page.grey, page.figure.comma, (box.width, box.height), (box.x0, box.y0), page.height,
                        page.size, legend_room)  # fmt: skip
    drawn = space.draw(page.picture_dpi, 2 if page.picture_dpi >= 400 else 3, page.opaque)
    page.layout.cameras[index] = drawn.camera
    lines = {t.id: t.line for t in panel.space.things} if panel.space is not None else {}
    for kind, artist, name in drawn.boxes:
        page.box(kind, artist, index, lines.get(name, panel.line), name)
    for axis, (x0, y0, x1, y1) in drawn.edges.items():
        page.add_box(f"{axis} axis", (box.x0 + x0, box.y0 + y0, box.x0 + x1, box.y0 + y1), index, panel.line)
    if panel.title:
        axes.set_title(panel.title, loc="left", pad=4.0)
        page.box("panel title", axes._left_title, index, panel.line)
    draw_colour_bar(page, window)
    if window.bar is not None:
        extent = window.bar.yaxis.get_tightbbox(page.renderer)
        page.add_box("colour axis", (extent.x0, extent.y0, extent.x1, extent.y1), index, panel.line)
    if panel.legend is not None:
        legend = space_legend(axes, panel.legend, drawn.handles, page.theme, space.legend_place or "upper left")
        if legend is not None:
            page.box("legend", legend, index, panel.legend.line or panel.line)


def _occupied(window: PlacedWindow) -> Occupancy:
    occupied = Occupancy(window.axes, window.data)
    for series in window.data.series:
        occupied.add(window.right if series.right and window.right is not None else window.axes, series)
    return occupied


def _legend_beside(page: PageLayout, window: PlacedWindow, occupied: Occupancy) -> bool:
    """Narrow the window for a legend beside it, where inside there is no room that a curve does not need."""
    spec = window.data.legend
    if spec is None or spec.words != "auto" or spec.at is not None or window.right is not None or window.bar is not None:
        return False
    wide, high = legend_size(page, window)
    box = window.axes.get_window_extent(page.renderer)
    if not wide or wide > 0.35 * box.width or occupied.emptiest(wide, min(high, box.height))[1] <= COVERED:
        return False
    place = window.axes.get_position()
    window.axes.set_position((place.x0, place.y0, place.width - (wide + 4) / page.width, place.height))
    return True
