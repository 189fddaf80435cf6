"""What the layout is made of."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from ..legend import Legend
from ..model import PanelData, Series
from ..space.camera import Camera
from ..things import Ground

BAR_PT = 7.0  # width of the scale of colours


BAR_GAP_PT = 8.0


BAR_IN_SPACE = 0.62  # of the window's height, beside a box in space


@dataclass(frozen=True, slots=True)
class PointedBox:
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
    boxes: list[PointedBox] = field(default_factory=list)


@dataclass
class Margins:
    left: float
    right: float
    bottom: float
    top: float


@dataclass
class PlacedWindow:
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
    margins: Margins | None = None


def tick_texts(axis: Any) -> list[str]:
    """The numbers of an axis that lie in its window, as they are written."""
    low, high = sorted(axis.get_view_interval())
    room = 1e-9 * (high - low)
    places = axis.get_majorticklocs()
    # All of them say how many decimals are written, also those just outside.
    texts = axis.get_major_formatter().format_ticks(places)
    return [str(t) for p, t in zip(places, texts, strict=True) if low - room <= p <= high + room]


def corner(words: str) -> tuple[float, float]:
    """0, 0.5 or 1 across and up."""
    said = set(words.split())
    if not said:
        return 1.0, 1.0
    across = 0.0 if "left" in said else 1.0 if "right" in said else 0.5
    up = 0.0 if "bottom" in said else 1.0 if "top" in said else 0.5
    return across, up
