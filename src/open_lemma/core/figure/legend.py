"""The legend: what it says, and the emptiest place for it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from . import palette
from .labels import Occupancy, usual_place
from .model import LegendSpec, PanelData, Series
from .style import Theme

Legend = Any
COVERED = 5.0  # places on curves, 3 pt apart, that a legend may stand on before it is moved out of the window


def entries(panel: PanelData, spec: LegendSpec | None) -> list[tuple[Series, str]]:
    """What a legend says, in its order."""
    said = [s for s in panel.series if s.label and s.kind not in ("text", "mark") and usual_place(s) == "legend"]
    if spec is not None and spec.order is not None:
        wanted = [k - 1 for k in spec.order if 1 <= k <= len(said)]
        said = [said[k] for k in dict.fromkeys(wanted)] + [s for k, s in enumerate(said) if k not in wanted]
    both = {s.right for s in said} == {True, False}
    return [(s, (s.label or "") + (" (right)" if both and s.right else "")) for s in said]


def place_legend(
    axes: Any,
    right: Any,
    panel: PanelData,
    handles: list[tuple[Any, Series]],
    crowd: Occupancy,
    theme: Theme,
    renderer: Any,
    beside: bool,
    opaque: bool,
) -> Legend | None:
    """Draw the legend where it was asked for, or where it covers least; None where there is nothing to be said.

    beside   the window was narrowed for it
    """
    spec = panel.legend
    assert spec is not None
    said = entries(panel, spec)
    if not said:
        return None
    by_id = {series.id: handle for handle, series in handles}
    said = [(s, text) for s, text in said if s.id in by_id]
    words = set(spec.words.split())
    sideways = spec.columns == 1 and "outside" in words and words & {"top", "bottom"}
    common = _dressed(spec, theme, min(len(said), 4) if sideways else spec.columns)
    top = right if right is not None else axes
    legend = top.legend([by_id[s.id] for s, _ in said], [text for _, text in said], loc="upper right", **common)
    legend.set_zorder(5)
    if opaque:
        legend.get_frame().set_alpha(None)
    box = axes.get_window_extent(renderer)
    if spec.at is not None:
        legend.set_loc("center")
        legend.set_bbox_to_anchor(spec.at, transform=axes.transAxes)
    elif beside:
        legend.set_loc("upper left")
        legend.set_bbox_to_anchor((1.0, 1.0), transform=axes.transAxes)
    elif "outside" in words:
        _outside(axes, legend, words, box, renderer)
    elif words & {"top", "bottom", "left", "right", "centre"}:
        legend.set_loc(_inside_words(words))
    else:
        size = legend.get_window_extent(renderer)
        legend.set_loc("center")
        legend.set_bbox_to_anchor(crowd.emptiest(size.width, size.height)[0], transform=axes.transAxes)
    return legend


def _dressed(spec: LegendSpec, theme: Theme, columns: int) -> dict[str, Any]:
    common: dict[str, Any] = {
        "handlelength": 2.4, "borderaxespad": 0.3, "labelspacing": 0.35, "fontsize": theme.small_pt, "handletextpad": 0.7,
        "columnspacing": 1.2, "ncols": columns,
        # Where it must stand on a line, the paper shows under the text and not the line.
        "frameon": True, "facecolor": palette.PAPER, "edgecolor": "none", "framealpha": 0.85, "fancybox": False, "borderpad": 0.2,
    }  # fmt: skip
    if spec.title:
        common |= {"title": spec.title, "alignment": "left", "title_fontsize": theme.small_pt}
    return common


def space_entries(things: Sequence[Any], spec: LegendSpec) -> list[Any]:
    """The things in space that a legend names, in its order."""
    said = [thing for thing in things if thing.label and thing.kind not in ("text", "mark")]
    if spec.order is not None:
        wanted = [k - 1 for k in spec.order if 1 <= k <= len(said)]
        said = [said[k] for k in dict.fromkeys(wanted)] + [s for k, s in enumerate(said) if k not in wanted]
    return said


def chooses_place(spec: LegendSpec) -> bool:
    """Whether nobody said where the legend stands."""
    return spec.at is None and not {"top", "bottom", "left", "right", "centre"} & set(spec.words.split())


def space_legend(axes: Any, spec: LegendSpec, handles: list[tuple[Any, Any]], theme: Theme, free: str) -> Legend | None:
    """The legend of a window on space: in the corner that was asked for, else in that which is free."""
    by_id = {solid.id: handle for handle, solid in handles}
    said = [(by_id[s.id], s.label) for s in space_entries([solid for _, solid in handles], spec)]
    if not said:
        return None
    place = free if chooses_place(spec) else _inside_words(set(spec.words.split()))
    legend = axes.legend([h for h, _ in said], [t for _, t in said], loc=place, **_dressed(spec, theme, spec.columns))
    if spec.at is not None:
        legend.set_loc("center")
        legend.set_bbox_to_anchor(spec.at, transform=axes.transAxes)
    legend.set_zorder(5)
    return legend


def _inside_words(words: set[str]) -> str:
    vertical = "lower" if "bottom" in words else "upper" if "top" in words else "center"
    horizontal = "left" if "left" in words else "right" if "right" in words else "center"
    if vertical == horizontal == "center":
        return "center"
    return f"{vertical} {horizontal}"


def _outside(axes: Any, legend: Any, words: set[str], box: Any, renderer: Any) -> None:
    """Beyond the texts of the axis on that side; the margin was made wide enough before."""
    if "top" in words:
        title = axes._left_title.get_window_extent(renderer).height + 5 if axes._left_title.get_text() else 0.0
        legend.set_loc("lower left")
        legend.set_bbox_to_anchor((0.0, 1.0 + (2 + title) / box.height), transform=axes.transAxes)
    elif "bottom" in words:
        below = axes.xaxis.get_tightbbox(renderer)
        legend.set_loc("upper left")
        legend.set_bbox_to_anchor((0.0, ((below.y0 if below is not None else box.y0) - 3 - box.y0) / box.height), transform=axes.transAxes)
    elif "left" in words:
        beside = axes.yaxis.get_tightbbox(renderer)
        legend.set_loc("upper right")
        at = ((beside.x0 if beside is not None else box.x0) - 3 - box.x0) / box.width
        legend.set_bbox_to_anchor((at, 1.0), transform=axes.transAxes)
    else:
        others = [a for a in axes.figure.axes if a is not axes]
        edge = box.x1
        for other in others:
            # A second axis, or the scale of colours, stands between.
            extent = other.yaxis.get_tightbbox(renderer)
            place = other.get_window_extent(renderer)
            if extent is not None and abs(place.y0 - box.y0) < 1 and place.x1 >= box.x1 - 1:
                edge = max(edge, extent.x1)
        legend.set_loc("upper left")
        legend.set_bbox_to_anchor((1.0 + (edge - box.x1 + 3) / box.width, 1.0), transform=axes.transAxes)
