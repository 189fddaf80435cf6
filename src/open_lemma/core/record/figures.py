"""Figures of a record: their files, and where things stand in the drawing.

Pixels are at 96 an inch, from the left and the top of the sheet.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from .plain import Json

PlaneKind = Literal["curve", "points", "line", "bars", "band", "rule", "text", "mark", "contours"]
SpaceKind = Literal["surface", "path", "points", "text", "mark", "plane"]
Px = tuple[float, float, float, float]  # left, top, width, height


@dataclass(frozen=True, kw_only=True, slots=True)
class NoteRecord:
    """One sentence, for a line of the script; `part` of it that the line stands in."""

    line: int
    text: str
    part: str | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class AxisRecord:
    """An axis: its span, its scale and what stands beside it. `dates`: unit and beginning of its numbers; `names`: texts that stand
    instead of numbers; `threshold`: a signed logarithmic axis is linear up to it."""

    low: float
    high: float
    scale: str
    text: str | None
    threshold: float | None = None
    reversed: bool = False
    dates: str | None = None
    names: list[str] | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class SpaceRecord:
    """From where a window on space is seen, in degrees; the box's proportions; px per unit of these, and the box's middle from the
    window's left and bottom."""

    azimuth: float
    elevation: float
    proportions: Json
    stretch: Json
    factor: float
    origin: list[float]


@dataclass(frozen=True, kw_only=True, slots=True)
class PanelRecord:
    """A window. `right`: the axis at its right; `colours`: that of its colour bar; `z` and `space` of a window on space."""

    bounds_px: Px
    x: AxisRecord
    y: AxisRecord
    line: int
    right: AxisRecord | None = None
    colours: AxisRecord | None = None
    z: AxisRecord | None = None
    space: SpaceRecord | None = None
    inset: bool = False
    true_scale: bool = False
    title: str | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class SeriesRecord:
    """What is drawn, with the number of its window. `points`: how many; `exact`: a reading of it is one of the function itself;
    `right`: against the axis at the right."""

    id: str
    line: int
    kind: PlaneKind | SpaceKind
    label: str | None
    points: int
    panel: int
    colour: str
    right: bool = False
    exact: bool = False
    text: str | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class BoxRecord:
    """A text, a legend, an axis or a badge, for pointing at; `series`: whose it is."""

    kind: str
    px: Px
    panel: int
    line: int
    series: str


@dataclass(frozen=True, kw_only=True, slots=True)
class LayoutRecord:
    """Where things stand in a drawing: windows in order, each followed by its insets; what is drawn; what can be pointed at."""

    width_mm: float
    height_mm: float
    panels: list[PanelRecord]
    series: list[SeriesRecord]
    boxes: list[BoxRecord]


@dataclass(frozen=True, kw_only=True, slots=True)
class FigureRecord:
    """A figure: the names of its files by their format, its layout, and its description in words."""

    name: str
    title: str | None
    line: int
    files: dict[str, str]
    layout: LayoutRecord
    notes: list[NoteRecord]
    description: str
    caption: str | None = None
    heading: str | None = None
    part: str | None = None
