"""Texts of axes, texts in the figure, labels of what is drawn."""

from __future__ import annotations

from typing import TYPE_CHECKING

from matplotlib import patheffects

from .. import palette
from ..labels import Occupancy, badges, end_labels, labels_along, level_labels
from ..things import colour_of
from .colour_bar import draw_colour_bar
from .parts import PlacedWindow

if TYPE_CHECKING:
    from .page import PageLayout


def axis_texts(page: PageLayout, window: PlacedWindow) -> None:
    """Texts of the axes, the title, and the scale of colours."""
    panel, axes, w = window.data, window.axes, page.theme.weight
    if panel.x.text and window.below:
        axes.set_xlabel(panel.x.text, labelpad=3.0 * w)
    if panel.y.text and window.beside:
        axes.set_ylabel(panel.y.text, labelpad=3.5 * w)
    if window.right is not None and panel.right is not None and panel.right.text:
        window.right.set_ylabel(panel.right.text, labelpad=3.5 * w)
    if panel.title:
        offset = axes.yaxis.get_major_formatter().get_offset()
        axes.set_title(panel.title, loc="left", pad=4.0 + (page.theme.small_pt if offset else 0.0))
    draw_colour_bar(page, window)


def written_texts(page: PageLayout, window: PlacedWindow, occupied: Occupancy, index: int) -> None:
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
            fontsize=series.size * page.theme.small_pt / 7.0, zorder=5, alpha=series.opacity if series.opacity < 1 else None,
        )  # fmt: skip
        text.set_path_effects([patheffects.withStroke(linewidth=2.0 * page.theme.weight, foreground=palette.PAPER)])
        text.set_gid(series.id)
        extent = text.get_window_extent(page.renderer)
        # Near the sheet's edge it is moved in: half a word says nothing.
        shift = max(1.5 - extent.x0, 0.0) - max(extent.x1 - page.width + 1.5, 0.0)
        if shift and abs(shift) < extent.width:
            text.set_position((4 * dx + shift, 4 * dy))
        page.box("text", text, index, series.line, series.id)
        occupied.keep_free(text.get_window_extent(page.renderer))


def label_series(page: PageLayout, window: PlacedWindow, occupied: Occupancy, index: int) -> None:
    """Labels of level lines, at the ends of lines, along them, and the badges of findings."""
    size = page.theme.small_pt
    beside = window.right is not None or window.bar is not None
    for text, series in level_labels(window.axes, window.data, occupied, size, page.renderer):
        page.box("label", text, index, series.line, series.id)
    for text, series in end_labels(window.axes, window.right, window.ends, window.ground, size, page.renderer, beside):
        page.box("label", text, index, series.line, series.id)
    for mark, series in badges(window.axes, window.right, window.data, occupied, page.theme, page.renderer):
        page.box("mark", mark, index, series.line, series.id)
    for text, series in labels_along(window.axes, window.right, window.data, occupied, window.ground, size, page.renderer):
        page.box("label", text, index, series.line, series.id)
