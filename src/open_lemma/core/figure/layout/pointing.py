"""What can be pointed at: axes."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .margins import own_margins
from .parts import PlacedWindow

if TYPE_CHECKING:
    from .page import PageLayout


def axis_boxes(page: PageLayout, window: PlacedWindow, index: int) -> None:
    """Where the axes and the title of a window can be pointed at."""
    box = window.axes.get_window_extent(page.renderer)
    panel = window.data
    if window.margins is not None:
        # As wide as the margin that was left for them: measuring what stands there would cost a fifth of the drawing.
        own = own_margins(page, window)
        page.add_box("x axis", (box.x0, box.y0 - own.bottom, box.x1, box.y0), index, panel.line)
        page.add_box("y axis", (box.x0 - own.left, box.y0, box.x0, box.y1), index, panel.line)
    for kind, axes in (("right axis", window.right), ("colour axis", window.bar)):
        extent = axes.yaxis.get_tightbbox(page.renderer) if axes is not None else None
        if extent is not None:
            page.add_box(kind, (extent.x0, extent.y0, extent.x1, extent.y1), index, panel.line)
    if panel.title:
        page.box("panel title", window.axes._left_title, index, panel.line)
