"""Margins as wide as the texts beside the windows need."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ..axes import prepare
from ..labels import LEADER
from ..legend import entries
from ..model import LegendSpec
from .parts import BAR_GAP_PT, BAR_IN_SPACE, BAR_PT, Margins, PlacedWindow, tick_texts

if TYPE_CHECKING:
    from .page import PageLayout


def margins_of(page: PageLayout, window: PlacedWindow) -> Margins:
    """What stands beside a window on each side, in points."""
    panel, axes, d = window.data, window.axes, page.theme
    w = d.weight
    if panel.space is not None:
        title = page.size(panel.title, d.type_pt)[1] + 4.0 if panel.title else 0.0
        margins = Margins(page.edge, page.edge, page.edge, page.edge + title)
        _more_margins(page, window, margins)
        return margins
    tick = 2.6 * w + window.offset + (3.2 * w if panel.frame else 0.0)
    x_texts, y_texts = tick_texts(axes.xaxis), tick_texts(axes.yaxis)
    sizes = [page.size(t, d.small_pt) for t in y_texts]
    left = page.edge + tick + (max((s[0] for s in sizes), default=0.0) if window.beside else 0.0)
    if panel.y.text and window.beside:
        left += page.text_height(panel.y.text) + 3.5 * w
    bottom = page.edge + tick + (_x_numbers_height(page, window.turned, x_texts) if window.below else 0.0)
    if panel.x.text and window.below:
        bottom += page.text_height(panel.x.text) + 3.0 * w
    last = page.size(x_texts[-1], d.small_pt)[0] / 2 if x_texts and window.below else 0.0
    right = page.edge + max(last, 2.0)
    if window.right is not None and panel.right is not None:
        numbers = max((page.size(t, d.small_pt)[0] for t in tick_texts(window.right.yaxis)), default=0.0)
        right = page.edge + tick + numbers + (page.text_height(panel.right.text) + 3.5 * w if panel.right.text else 0.0)
    offset = axes.yaxis.get_major_formatter().get_offset()
    top = page.edge + (d.small_pt + 4 if offset else d.small_pt / 2)
    if panel.title:
        top += page.size(panel.title, d.type_pt)[1] + 4.0
    margins = Margins(left, right, bottom, top)
    _more_margins(page, window, margins)
    margins.left, margins.bottom = min(margins.left, page.width * 0.45), min(margins.bottom, page.height * 0.45)
    window.margins = margins
    return margins


def own_margins(page: PageLayout, window: PlacedWindow) -> Margins:
    """What numbers and texts of the axes take, without the white at the edge and what else stands in the margins."""
    assert window.margins is not None
    left, bottom = window.margins.left - page.edge, window.margins.bottom - page.edge
    spec = window.data.legend
    if spec is not None and spec.at is None and "outside" in spec.words:
        wide, high = legend_size(page, window)
        left -= wide + 4 if "left" in spec.words and not {"top", "bottom"} & set(spec.words.split()) else 0.0
        bottom -= high + 3 if "bottom" in spec.words else 0.0
    return Margins(left, 0.0, bottom, 0.0)


def _more_margins(page: PageLayout, window: PlacedWindow, margins: Margins) -> None:
    """Room for the scale of colours, for labels at line ends, and for a legend outside."""
    panel, d = window.data, page.theme
    if window.bar is not None and panel.colours is not None:
        share = BAR_IN_SPACE if panel.space is not None else 1.0
        prepare(window.bar, "y", panel.colours, page.height * 0.7 * share * 8.0 / d.type_pt, page.figure.comma)
        numbers = max((page.size(t, d.small_pt)[0] for t in tick_texts(window.bar.yaxis)), default=0.0)
        text = page.text_height(panel.colours.text) + 3.5 * d.weight if panel.colours.text else 0.0
        margins.right += window.offset + BAR_GAP_PT + (BAR_PT + 5.8) * d.weight + numbers + text
    ends = [s for s in panel.series if s.label and s.written == "end" and s.kind in ("curve", "line", "points")]
    window.ends = [(s, page.size(s.label, d.small_pt)[0]) for s in ends if s.label]
    if window.ends and window.right is None:
        margins.right = max(margins.right, page.edge + 4.0 + LEADER + max(w for _, w in window.ends))
    if panel.legend is not None and "outside" in panel.legend.words and panel.legend.at is None:
        wide, high = legend_size(page, window)
        if "top" in panel.legend.words:
            margins.top += high + 3
        elif "bottom" in panel.legend.words:
            margins.bottom += high + 3
        elif "left" in panel.legend.words:
            margins.left += wide + 4
        else:
            margins.right += wide + 4


def legend_size(page: PageLayout, window: PlacedWindow) -> tuple[float, float]:
    """Width and height of the legend of a window, in points; 0 where there is none."""
    spec = window.data.legend
    said = entries(window.data, spec)
    return (0.0, 0.0) if spec is None or not said else texts_size(page, spec, [text for _, text in said])


def texts_size(page: PageLayout, spec: LegendSpec, texts: Sequence[str]) -> tuple[float, float]:
    """Width and height of a legend that says these texts, in points."""
    d = page.theme
    columns = spec.columns if spec.columns > 1 or not ({"top", "bottom"} & set(spec.words.split())) else min(len(texts), 4)
    widths = [page.size(text, d.small_pt)[0] + 3.3 * d.small_pt for text in texts]
    rows = -(-len(texts) // columns)
    wide = sum(max(widths[k * rows : (k + 1) * rows], default=0.0) for k in range(columns)) + 1.2 * d.small_pt * (columns - 1)
    title = page.size(spec.title, d.small_pt) if spec.title else (0.0, 0.0)
    return max(wide, title[0]) + 4, rows * d.small_pt * 1.55 + 4 + (title[1] + 3 if spec.title else 0.0)


def _x_numbers_height(page: PageLayout, turned: bool, texts: list[str]) -> float:
    sizes = [page.size(t, page.theme.small_pt) for t in texts]
    if turned:
        return max((w * 0.64 + h * 0.77 for w, h in sizes), default=0.0)
    return max((h for _, h in sizes), default=0.0)
