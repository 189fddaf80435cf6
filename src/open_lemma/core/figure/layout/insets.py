"""Insets: small windows inside of others."""

from __future__ import annotations

from typing import TYPE_CHECKING

from matplotlib.patches import Rectangle

from .. import palette
from ..labels import Occupancy
from ..model import PanelData
from .margins import margins_of
from .parts import PlacedWindow, corner
from .places import put
from .windows import set_scales, window_of

if TYPE_CHECKING:
    from .page import PageLayout


def place_inset(page: PageLayout, window: PlacedWindow, panel: PanelData, occupied: Occupancy) -> PlacedWindow:
    """An inset on its window: where it was asked for, else where least is drawn."""
    box = window.axes.get_window_extent(page.renderer)
    inner = window_of(page, panel, window.place, 0, inset=True)
    wide, high = box.width * panel.share, box.height * panel.share
    set_scales(page, inner, wide, high)
    inner.axes.patch.set_visible(True)
    inner.axes.patch.set_facecolor(palette.PAPER)
    for spine in inner.axes.spines.values():
        spine.set_visible(True)
    inner.axes.set_zorder(4)
    small = page.theme.small_pt * 0.9
    inner.axes.tick_params(labelsize=small)
    pad = margins_of(page, inner)
    if panel.at is None and not panel.words:
        # Its middle where least is drawn; the numbers beside it are counted in.
        (a, b), _ = occupied.emptiest(wide + pad.left + 4, high + pad.bottom + 4)
        left = box.x0 + a * box.width - (wide + pad.left) / 2 + pad.left
        bottom = box.y0 + b * box.height - (high + pad.bottom) / 2 + pad.bottom
    elif panel.at is not None:
        left, bottom = box.x0 + panel.at[0] * box.width - wide / 2, box.y0 + panel.at[1] * box.height - high / 2
    else:
        across, up = corner(panel.words)
        left = box.x0 + (pad.left if across == 0 else box.width - wide - 3 if across == 1 else (box.width - wide) / 2)
        bottom = box.y0 + (pad.bottom if up == 0 else box.height - high - 3 if up == 1 else (box.height - high) / 2)
    put(page, inner, left, bottom, wide, high)
    _paper_under(page, inner, (left - pad.left + 2, bottom - pad.bottom + 2, wide + pad.left, high + pad.bottom + 2))
    return inner


def _paper_under(page: PageLayout, inner: PlacedWindow, place: tuple[float, float, float, float]) -> None:
    """Paper beneath an inset and its numbers, so that what is drawn around it does not run through them."""
    left, bottom, wide, high = place
    bounds = (left / page.width, bottom / page.height, wide / page.width, high / page.height)
    under = page.sheet.add_axes(bounds, label=f"u{len(page.sheet.axes)}")
    under.set_axis_off()
    under.add_patch(Rectangle((0, 0), 1, 1, transform=under.transAxes, facecolor=palette.PAPER, edgecolor="none"))
    under.set_zorder(3.5)
    inner.axes.set_zorder(4)
