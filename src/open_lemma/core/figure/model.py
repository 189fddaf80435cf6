"""What is drawn, as plain data: nothing here knows how a figure is put on paper."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Scale = Literal["linear", "logarithmic"]

DEFAULT_SIZE_MM = (120.0, 82.0)
POINTS_PER_MM = 72 / 25.4


@dataclass
class AxisSpec:
    text: str | None
    low: float
    high: float
    scale: Scale = "linear"


@dataclass
class Series:
    """One drawn thing. x, y: shape (n,), NaN where the line is broken. Widths and sizes in points."""

    id: str
    kind: Literal["curve", "points", "line"]
    line: int
    x: Floats
    y: Floats
    label: str | None = None
    colour: str | None = None  # None: the ink of its place in the figure
    width: float = 1.25
    dash: str | None = None  # None: solid, or the ink's own dash in print without colour
    opacity: float = 1.0
    marker: str = "dot"
    size: float = 4.0


@dataclass
class FigureData:
    name: str
    title: str | None
    line: int
    width_mm: float
    height_mm: float
    x: AxisSpec
    y: AxisSpec
    series: list[Series] = field(default_factory=list)
    legend: str | None = "auto"  # None: no legend; "auto" or a corner as "top left"
    gridlines: Literal["major", "minor"] | None = None
    frame: bool = True

    def description(self) -> str:
        """The figure in words, for those who cannot see it."""
        x, y = self.x, self.y
        head = f"Figure {self.title or self.name}."
        axes = (
            f" Horizontal axis {_plain(x.text) or 'without text'} from {x.low:g} to {x.high:g}{_scale_words(x)};"
            f" vertical axis {_plain(y.text) or 'without text'} from {y.low:g} to {y.high:g}{_scale_words(y)}."
        )
        kinds = [_kind_words(s) + (f" “{_plain(s.label)}”" if s.label else "") for s in self.series]
        return head + axes + f" It shows {', '.join(kinds)}." if kinds else head + axes


def _kind_words(series: Series) -> str:
    if series.kind == "points":
        return f"{series.x.size} points"
    return "a curve" if series.kind == "curve" else "a line of straight pieces"


def _plain(text: str | None) -> str:
    return (text or "").replace("$", "")


def _scale_words(axis: AxisSpec) -> str:
    return ", logarithmic" if axis.scale == "logarithmic" else ""


def to_text(figure: FigureData) -> str:
    """The figure as JSON; gaps are null. `from_text` gives the same figure back."""
    plain = asdict(figure)
    for series in plain["series"]:
        for key in ("x", "y"):
            series[key] = [None if v != v else v for v in np.asarray(series[key], dtype=float).tolist()]
    return json.dumps(plain, separators=(",", ":"), allow_nan=False)


def from_text(text: str) -> FigureData:
    plain: dict[str, Any] = json.loads(text)
    series = [Series(**{**s, "x": _floats(s["x"]), "y": _floats(s["y"])}) for s in plain.pop("series")]
    x, y = AxisSpec(**plain.pop("x")), AxisSpec(**plain.pop("y"))
    return FigureData(**plain, x=x, y=y, series=series)


def _floats(values: list[float | None]) -> Floats:
    return np.array([np.nan if v is None else v for v in values], dtype=np.float64)
