"""Windows of panels: their axes, scales and numbers."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from ..axes import prepare
from ..model import AxisSpec, PanelData
from ..series_marks import series_marks
from ..things import Ground, colour_norm
from .parts import PlacedWindow, tick_texts

if TYPE_CHECKING:
    from .page import PageLayout


def window_of(page: PageLayout, panel: PanelData, place: int, column: int, inset: bool = False) -> PlacedWindow:
    # Axes that were made ahead with their sheet are taken first.
    """The axes of a panel, bare or with scales and numbers; place and column in the grid."""
    axes = page.spare.pop() if page.spare else page.sheet.add_axes((0.1, 0.1, 0.8, 0.8), label=f"p{len(page.sheet.axes)}")
    axes.set_axisbelow(True)
    axes.patch.set_visible(False)
    norm = colour_norm(panel.colours) if panel.colours is not None else None
    tones = panel.colours.tones if panel.colours is not None else "rising"
    ground = Ground(page.theme, page.grey, page.opaque, norm, tones, series_marks(panel.series, page.grey))
    offset = 0.0 if inset else page.offset
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
        bar = page.sheet.add_axes((0.9, 0.1, 0.02, 0.8), label=f"c{len(page.sheet.axes)}")
    if panel.space is not None:
        axes.set_axis_off()
        return PlacedWindow(panel, axes, None, bar, ground, place, offset=page.offset, below=False, beside=False)
    window = PlacedWindow(panel, axes, right, bar, ground, place, offset=offset)
    if not inset:
        rows, columns = page.figure.grid
        below = place + columns < len(page.figure.panels)
        window.below = not ("x" in page.figure.shared and below)
        window.beside = not ("y" in page.figure.shared and column > 0)
        set_scales(page, window, page.width * 0.82 / columns, page.height * 0.8 / rows)
    return window


def set_scales(page: PageLayout, window: PlacedWindow, wide: float, high: float) -> None:
    """Scales, numbers and texts of the axes, for a window of about that size."""
    panel, axes, comma = window.data, window.axes, page.figure.comma
    factor = 8.0 / page.theme.type_pt  # larger type needs fewer numbers
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
            axes.grid(True, which="minor", linewidth=0.3 * page.theme.weight)
    if not panel.frame:
        for spine in axes.spines.values():
            spine.set_visible(False)
        axes.tick_params(which="both", length=0)
    _spread_numbers(page, window, wide)


def _spread_numbers(page: PageLayout, window: PlacedWindow, wide: float) -> None:
    """Numbers of the horizontal axis that would touch are thinned; names are broken into lines, then turned."""
    axis, spec = window.axes.xaxis, window.data.x
    for _ in range(6):
        texts = tick_texts(axis)
        if len(texts) < 2 or not window.below:
            return
        widths = [page.size(t, page.theme.small_pt)[0] for t in texts]
        low, high = axis.get_transform().transform(np.sort(axis.get_view_interval()))
        places = [p for p in axis.get_majorticklocs() if min(axis.get_view_interval()) <= p <= max(axis.get_view_interval())]
        at = (axis.get_transform().transform(np.asarray(places, dtype=float)) - low) / (high - low) * wide
        order = np.argsort(at)
        room = np.diff(np.asarray(at)[order]) - (np.asarray(widths)[order][1:] + np.asarray(widths)[order][:-1]) / 2
        if room.size == 0 or room.min() > page.theme.small_pt * 0.45:
            return
        if spec.names is not None:
            if any(" " in n and "\n" not in n for n in spec.names):
                spec = AxisSpec(**{**_fields(spec), "names": [_broken(n) for n in spec.names]})
                prepare(window.axes, "x", spec, wide, page.figure.comma)
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
        prepare(window.axes, "x", spec, wide_now * 8.0 / page.theme.type_pt * (0.8**_), page.figure.comma)


def _broken(name: str) -> str:
    """A name of several words in two lines of about the same length."""
    words = name.split(" ")
    cut = min(range(1, len(words)), key=lambda k: abs(len(" ".join(words[:k])) - len(" ".join(words[k:]))), default=0)
    return " ".join(words[:cut]) + "\n" + " ".join(words[cut:]) if cut else name


def _fields(spec: AxisSpec) -> dict[str, Any]:
    return dict(vars(spec))
