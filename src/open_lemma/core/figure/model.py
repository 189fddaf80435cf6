"""What is drawn, as plain data: nothing here knows how a figure is put on paper."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from dataclasses import asdict, dataclass, field, fields, replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..record.figures import PlaneKind
from .space.scene import Scene, Solid, pack, packed, unpack, unpacked

Floats = NDArray[np.float64]
Scale = Literal["linear", "logarithmic", "signed-logarithmic"]
Kind = PlaneKind  # of what is drawn in a plane

DEFAULT_SIZE_MM = (120.0, 82.0)
POINTS_PER_MM = 72 / 25.4


@dataclass
class AxisSpec:
    """An axis: `low` < `high` always; `reversed` says that the numbers fall.

    ticks      places of the numbers, where they were given; `names` are texts that stand there instead of numbers
    numbers    plain (a power of ten may be set apart at the end of the axis), full (each written out), powers, percent, pi, degrees
    dates      "hours since 2031-05-02 06:00": unit and beginning of the numbers (the notation of the CF conventions for
               metadata, section 4.4)
    threshold  a signed-logarithmic axis is linear between -threshold and threshold
    tones      of a scale of colours: rising, two-sided, around
    """

    text: str | None
    low: float
    high: float
    scale: Scale = "linear"
    reversed: bool = False
    ticks: list[float] | None = None
    names: list[str] | None = None
    numbers: str = "plain"
    decimals: int | None = None
    minor: int | None = None
    dates: str | None = None
    threshold: float = 1.0
    tones: str = "rising"


@dataclass
class Series:
    """One drawn thing. x, y: shape (n,), NaN where the line is broken. Widths and sizes in points.

    y2          the other edge of a band or of filled areas and bars, shape (n,)
    ex, ey      standard uncertainties along x and y, shape (n,)
    tints       numbers that are shown as colour, shape (n,)
    text        of a text; of marks the numbers of their findings
    formula     the function behind the samples, as text of the language, in `variable` (for a curve of points two formulas)
    """

    id: str
    kind: Kind
    line: int
    x: Floats
    y: Floats
    label: str | None = None
    colour: str | None = None  # None: the ink of its place in the figure
    width: float = 1.25
    dash: str | None = None  # None: solid, or the ink's own dash in print without colour
    opacity: float = 1.0
    marker: str | None = None  # None: by itself, where the kind has marks
    size: float = 4.0
    every: int | None = None  # None: marks on lines are spaced by distance where they would be too dense
    fill: bool = False
    written: str | None = None  # where the label stands: legend, along, end; None: as is usual for the kind
    right: bool = False  # belongs to the second vertical axis
    place: int = 0  # which ink, dash and marker of the figure's order
    y2: Floats | None = None
    ex: Floats | None = None
    ey: Floats | None = None
    tints: Floats | None = None
    text: str | None = None
    side: str | None = None  # of a text: above, below, left, right, centre
    turn: float = 0.0
    arrow: str = "none"
    spot: float = 3.4  # how large the spot of a mark is
    stroke: bool = False  # the width was said: bands and bars have an outline of it, data errors and rings of it
    hatch: str | None = None  # the pattern of a filled area
    spread: float = 0.0  # how wide bars are, in units of x
    formula: list[str] | None = None
    variable: str | None = None
    span: tuple[float, float] | None = None  # of the variable, for a curve of points
    levels: list[float] | None = None  # of level lines: each stretch between gaps belongs to the level in `tints`
    plain: bool = False  # level lines in one ink, not in the colours of their heights
    grid: dict[str, Any] | None = None  # x (n,), y (m,), z (m, n): heights for the areas between level lines, where those are filled

    def colour_numbers(self) -> list[Floats]:
        """The numbers that its colours show, for the scale of colours; each not empty."""
        found: list[Floats] = []
        if self.tints is not None and self.kind != "contours":
            found.append(self.tints[np.isfinite(self.tints)])
        if self.kind == "contours" and not self.plain and self.levels:
            found.append(np.array(self.levels))
        if self.kind == "contours" and self.fill and self.grid is not None:
            found.append(self.grid["z"][np.isfinite(self.grid["z"])])
        return [numbers for numbers in found if numbers.size]


_ARRAYS = ("x", "y", "y2", "ex", "ey", "tints")


@dataclass
class LegendSpec:
    """words: "auto", or corners such as "top left", with "outside"; `at` is its middle in shares of the window."""

    words: str = "auto"
    at: tuple[float, float] | None = None
    title: str | None = None
    columns: int = 1
    order: list[int] | None = None
    line: int = 0


@dataclass
class PanelData:
    """One window with its axes and what is drawn in it. An inset is one too: `at` is its middle, `share` its size in the
    window around it."""

    x: AxisSpec
    y: AxisSpec
    series: list[Series] = field(default_factory=list)
    title: str | None = None
    right: AxisSpec | None = None
    colours: AxisSpec | None = None
    legend: LegendSpec | None = field(default_factory=LegendSpec)  # None: no legend
    gridlines: Literal["major", "minor"] | None = None
    frame: bool = True
    true_scale: bool = False
    insets: list[PanelData] = field(default_factory=list)
    at: tuple[float, float] | None = None
    words: str = ""
    share: float = 0.36
    line: int = 0
    z: AxisSpec | None = None  # of a window on space: its third axis, and what stands in it
    space: Scene | None = None


@dataclass
class FigureData:
    """A figure on its sheet. `title` names it; `heading` is drawn above it."""

    name: str
    title: str | None
    line: int
    width_mm: float
    height_mm: float
    panels: list[PanelData]
    grid: tuple[int, int] = (1, 1)  # rows, columns
    shared: tuple[str, ...] = ()
    heading: str | None = None
    caption: str | None = None
    style: str = "paper"
    grey: bool = False
    comma: bool = False
    sized: bool = True  # the size was given, and is not to be changed for the sake of a true scale

    @property
    def series(self) -> list[Series]:
        """All drawn things, those of insets too."""
        return [s for p in self.windows() for s in p.series]

    def windows(self) -> Iterator[PanelData]:
        """All panels, each followed by its insets."""
        for panel in self.panels:
            yield panel
            yield from panel.insets

    def drawn_texts(self) -> Iterator[str]:
        """All texts that are set on the sheet."""
        found: list[str | None] = [self.heading]
        for panel in self.windows():
            found += [panel.title, panel.legend.title if panel.legend is not None else None]
            for axis in (panel.x, panel.y, panel.z, panel.right, panel.colours):
                if axis is not None:
                    found += [axis.text, *(axis.names or ())]
            for thing in (*panel.series, *(panel.space.things if panel.space is not None else ())):
                found += [thing.label, thing.text]
        yield from (t for t in found if t)

    def shift(self, lines: int) -> None:
        """Move it up or down in the script."""
        self.line += lines
        for panel in self.windows():
            panel.line += lines
            if panel.legend is not None:
                panel.legend.line += lines
            for series in (*panel.series, *(panel.space.things if panel.space is not None else ())):
                series.line += lines

    def description(self) -> str:
        """The figure in words, for those who cannot see it."""
        head = f"Figure {plain(self.title) or self.name}."
        if len(self.panels) == 1:
            return head + _panel_words(self.panels[0])
        said = [f" Panel {k}{f', {plain(p.title)}' if p.title else ''}:{_panel_words(p)}" for k, p in enumerate(self.panels, 1)]
        return f"{head} {len(self.panels)} panels.{''.join(said)}"


def _panel_words(panel: PanelData) -> str:
    if panel.space is not None and panel.z is not None:
        axes = "; ".join(f"{name} axis {_axis_words(axis)}" for name, axis in (("x", panel.x), ("y", panel.y), ("z", panel.z)))
        colours = f"; colours show {_axis_words(panel.colours)}" if panel.colours is not None else ""
        seen = f", seen from azimuth {panel.space.azimuth:g}°, elevation {panel.space.elevation:g}°"
        things = ", ".join(_solid_words(t) for t in panel.space.things)
        return f" In space{seen}: {axes}{colours}. It shows {things}."
    text = f" Horizontal axis {_axis_words(panel.x)}; vertical axis {_axis_words(panel.y)}"
    if panel.right is not None:
        text += f"; second vertical axis on the right {_axis_words(panel.right)}"
    if panel.colours is not None:
        text += f"; colours show {_axis_words(panel.colours)}"
    said = [_kind_words(s) for s in panel.series]
    text += f". It shows {', '.join(said)}." if said else "."
    if panel.insets:
        text += f" {len(panel.insets)} inset{'s' if len(panel.insets) > 1 else ''} inside."
    return text


def _axis_words(axis: AxisSpec) -> str:
    if axis.names is not None:
        return f"{plain(axis.text) or 'without text'} with {', '.join(axis.names[:12])}"
    ends = (axis.high, axis.low) if axis.reversed else (axis.low, axis.high)
    since = f", {axis.dates}" if axis.dates else ""
    scale = "" if axis.scale == "linear" else f", {axis.scale}"
    return f"{plain(axis.text) or 'without text'} from {ends[0]:.6g} to {ends[1]:.6g}{since}{scale}"


def _solid_words(solid: Solid) -> str:
    count = int(np.isfinite(solid.shape.vertices[:, 0]).sum())
    label = f" “{plain(solid.label)}”" if solid.label else ""
    if solid.kind == "surface":
        low, high = (float(v) for v in (solid.shape.vertices[:, 2].min(), solid.shape.vertices[:, 2].max())) if count else (0.0, 0.0)
        lines = f" with {len(solid.levels)} level lines" if solid.levels else ""
        return f"a surface{label} from {low:.4g} to {high:.4g} in height{lines}"
    words = {"path": "a curve", "plane": "a plane", "points": f"{count} point{'' if count == 1 else 's'}",
             "text": f"the text “{plain(solid.text)}”", "mark": marked(solid.text, count)}  # fmt: skip
    return words[solid.kind] + label


def marked(text: str | None, count: int = 1) -> str:
    """What a mark is called: a finding by its number, or a place that was marked by hand."""
    if not (text or "").isdigit():
        return "a mark"
    return f"finding{'s' if count > 1 else ''} {text}"


def _labelled(series: Series) -> str:
    right = " on the right axis" if series.right else ""
    return (f" “{plain(series.label)}”" if series.label else "") + right


def _kind_words(series: Series) -> str:
    count = int(np.isfinite(series.y).sum())
    words = {
        "curve": "a curve", "line": "a line of straight pieces", "band": "a band", "bars": f"{count} bars", "rule": "a straight line",
        "points": f"{count} point{'' if count == 1 else 's'}", "text": f"the text “{plain(series.text)}”",
        "contours": f"{len(series.levels or [])} level lines from {min(series.levels or [0]):.6g} to {max(series.levels or [0]):.6g}",
    }  # fmt: skip
    if series.kind == "mark":
        places = ", ".join(f"({a:.5g}, {b:.5g})" for a, b in zip(series.x[:6], series.y[:6], strict=True))
        return f"{marked(series.text, count)} at {places}"
    trend = _trend(series.y) if series.kind == "curve" and series.variable is not None and series.span is None else ""
    return words[series.kind] + _labelled(series) + trend + (" with error bars" if series.ey is not None or series.ex is not None else "")


def _trend(y: Floats) -> str:
    """`rising from 1 to 7`, or how often it turns."""
    good = np.isfinite(y)
    seen = y[good]
    if seen.size < 3:
        return ""
    # A jump is no turn: each unbroken piece is looked at by itself.
    ends = np.flatnonzero(good[1:] != good[:-1]) + 1
    pieces = [p for p in np.split(y, ends) if np.isfinite(p[0])]
    signs = [s[s != 0] for s in (np.sign(np.diff(p)) for p in pieces)]
    turns = sum(int((s[1:] != s[:-1]).sum()) for s in signs)
    breaks = len(pieces) - 1
    steps = np.concatenate(signs)
    low, high = float(seen.min()), float(seen.max())
    # No more digits than the eye could tell of the whole.
    decimals = int(3 - np.floor(np.log10(high - low))) if high > low else 12
    first, last, low, high = (round(float(v), decimals) + 0.0 for v in (seen[0], seen[-1], low, high))
    broken = f"broken at {breaks} place{'s' if breaks > 1 else ''}" if breaks else ""
    if not steps.size and not breaks:
        return f" level at {first:.6g}"
    if turns == 0 and not breaks:
        return f" {'rising' if steps[0] > 0 else 'falling'} from {first:.6g} to {last:.6g}"
    said = [f"{turns} turning point{'s' if turns > 1 else ''}"] if turns else []
    if not turns and steps.size and (steps == steps[0]).all():
        said.append(f"{'rising' if steps[0] > 0 else 'falling'} on each piece")
    range_ = f" from {first:.6g} to {last:.6g} between {low:.6g} and {high:.6g}"
    return f"{range_} with {said[0]}" if not breaks else f"{range_}, {', '.join([*(f'with {t}' if turns else t for t in said), broken])}"


_FONTS = re.compile(r"\\(?:mathrm|mathit|mathbf|mathsf|text|operatorname|bf|rm|it)(?![a-zA-Z])\s*")
_SPACES = re.compile(r"\\[,;:! ]")


def plain(text: str | None) -> str:
    """A text without the signs of typesetting, to be read out: `$\\mathit{force}$ / N` is force / N."""
    return re.sub(r"[$\\{}]", "", _SPACES.sub(" ", _FONTS.sub("", text or "")))


def to_text(figure: FigureData) -> str:
    """The figure as JSON; gaps are null. `from_text` gives the same figure back."""
    found = asdict(replace(figure, panels=[replace(p, space=None) for p in figure.panels]))
    for panel, given in zip(found["panels"], figure.panels, strict=True):
        panel["space"] = None if given.space is None else packed(given.space)
        for window in (panel, *panel["insets"]):
            for series in window["series"]:
                for key in _ARRAYS:
                    values = series[key]
                    if values is not None:
                        series[key] = [None if v != v else v for v in np.asarray(values, dtype=float).tolist()]
                if series["grid"] is not None:
                    series["grid"] = {k: pack(np.asarray(v, dtype="<f8")) for k, v in series["grid"].items()}
    return json.dumps(found, separators=(",", ":"), allow_nan=False)


def from_text(text: str) -> FigureData:
    """The figure that `to_text` wrote, also of earlier versions."""
    found: dict[str, Any] = json.loads(text)
    if "panels" not in found:
        found = _from_first_version(found)
    panels = [_panel(p) for p in found.pop("panels")]
    return FigureData(**{**found, "panels": panels, "grid": tuple(found["grid"]), "shared": tuple(found["shared"])})


def _from_first_version(found: dict[str, Any]) -> dict[str, Any]:
    """Figures kept before there were panels: their one window stood in the figure itself."""
    legend = found.pop("legend")
    panel = {k: found.pop(k) for k in ("x", "y", "series", "gridlines", "frame")}
    panel["legend"] = None if legend is None else {"words": legend}
    return {**found, "panels": [{**panel, "insets": []}], "grid": [1, 1], "shared": []}


def _panel(found: dict[str, Any]) -> PanelData:
    axes = {k: AxisSpec(**found[k]) for k in ("x", "y", "z", "right", "colours") if found.get(k) is not None}
    series = [Series(**{**s, **{k: _floats(s[k]) for k in _ARRAYS if s.get(k) is not None}, "span": _pair(s.get("span")),
                          "grid": {k: unpack(v) for k, v in s["grid"].items()} if s.get("grid") else None})
              for s in found["series"]]  # fmt: skip
    legend = found.get("legend")
    if legend is not None:
        legend = LegendSpec(**{**legend, "at": _pair(legend.get("at"))})
    at = _pair(found.get("at"))
    rest = {f.name: found[f.name] for f in fields(PanelData) if f.name in found}
    space = unpacked(found["space"]) if found.get("space") is not None else None
    insets = [_panel(p) for p in found["insets"]]
    return PanelData(**{**rest, **axes, "space": space, "series": series, "legend": legend, "at": at, "insets": insets})


def _pair(value: Any) -> tuple[float, float] | None:
    return None if value is None else (float(value[0]), float(value[1]))


def _floats(values: list[float | None]) -> Floats:
    return np.array([np.nan if v is None else v for v in values], dtype=np.float64)
