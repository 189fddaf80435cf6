"""A figure on paper: SVG, PDF or PNG from the same data, byte for byte the same each time."""

from __future__ import annotations

import io
import re
from dataclasses import dataclass
from typing import Any, Literal

import matplotlib
import numpy as np
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.backends.backend_pdf import FigureCanvasPdf
from matplotlib.backends.backend_svg import FigureCanvasSVG
from matplotlib.figure import Figure as Sheet
from matplotlib.font_manager import FontProperties
from matplotlib.mathtext import MathTextParser
from matplotlib.ticker import Formatter, LogLocator, MaxNLocator, NullFormatter

from . import palette
from .model import POINTS_PER_MM, AxisSpec, FigureData, Floats, Series
from .style import SETTINGS, SMALL_PT, TYPE_PT

Format = Literal["svg", "pdf", "png"]

_OFFSET_PT = 4.0  # the axes stand a little off the drawing, so that a line on the edge is not mistaken for an axis
_COVERED = 12.0  # places on curves that a legend may stand on before it is moved out of the window
_EDGE_PT = 4.0  # white space at the sheet's edge
_MARKS = {"dot": "o", "ring": "o", "square": "s", "diamond": "D", "triangle": "^", "cross": "x", "plus": "+", "none": ""}
_PX_PER_MM = 96 / 25.4


@dataclass(frozen=True, slots=True)
class Drawing:
    data: bytes
    bounds_px: tuple[float, float, float, float]


class BadText(ValueError):
    """Mathematics in a text that cannot be typeset."""


def check_text(text: str) -> None:
    """Refuse mathematics between dollar signs that the typesetter does not know."""
    if text.replace(r"\$", "").count("$") % 2:
        raise BadText("a dollar sign opens mathematics that no second one closes")
    if "$" not in text:
        return
    with matplotlib.rc_context(SETTINGS):
        for piece in re.findall(r"\$(?:\\.|[^$\\])*\$", text):
            try:
                MathTextParser("path").parse(piece, dpi=72)
            except ValueError as trouble:
                unknown = re.search(r"Unknown symbol: (\\\w+)", str(trouble))
                raise BadText(f"'{unknown.group(1)}' is not known" if unknown else f"'{piece}' cannot be read") from None


def draw(figure: FigureData, fmt: Format = "svg", dpi: int = 300, grey: bool = False) -> Drawing:
    """Draw at print size. `bounds_px` is (left, top, width, height) of the window on the sheet at 96 px an inch.

    dpi   dots per inch of a PNG
    grey  for print without colour: one dark ink, each series with a dash of its own
    """
    with matplotlib.rc_context(SETTINGS):
        sheet, axes = _ready.pop() if _ready else _bare_sheet()
        sheet.set_size_inches(figure.width_mm / 25.4, figure.height_mm / 25.4)
        _draw_axes(axes, figure)
        for place, series in enumerate(figure.series):
            _draw_series(axes, series, place, grey)
        canvas = FigureCanvasAgg(sheet)
        renderer = canvas.get_renderer()
        _lay_out(axes, figure, renderer)
        _draw_legend(axes, figure, renderer)
        return Drawing(_written(sheet, figure, fmt, dpi), _bounds_px(axes, figure))


# Sheets made ahead. A forked child takes the one it inherits and draws on its own copy of it.
_ready: list[tuple[Any, Any]] = []


def make_ready() -> None:
    """Have a bare sheet at hand for the next drawing; it comes out the same as without."""
    with matplotlib.rc_context(SETTINGS):
        _ready.append(_bare_sheet())


def _bare_sheet() -> tuple[Any, Any]:
    """Paper with a window and its axes, before anything is known of the figure."""
    sheet = Sheet(facecolor=palette.PAPER)
    axes = sheet.add_axes((0.1, 0.1, 0.8, 0.8))
    axes.set_axisbelow(True)
    axes.patch.set_visible(False)
    for side in ("left", "bottom"):
        axes.spines[side].set_position(("outward", _OFFSET_PT))
    return sheet, axes


def _written(sheet: Any, figure: FigureData, fmt: Format, dpi: int) -> bytes:
    out = io.BytesIO()
    title = figure.title or figure.name
    if fmt == "svg":
        FigureCanvasSVG(sheet).print_svg(out, metadata={"Date": None, "Creator": "Open Lemma", "Title": title})
    elif fmt == "pdf":
        FigureCanvasPdf(sheet).print_pdf(out, metadata={"CreationDate": None, "Creator": "Open Lemma", "Producer": None, "Title": title})
    else:
        sheet.set_dpi(dpi)
        FigureCanvasAgg(sheet).print_png(out, metadata={"Software": None, "Title": title})
    return out.getvalue()


def _bounds_px(axes: Any, figure: FigureData) -> tuple[float, float, float, float]:
    box = axes.get_position()
    width, height = figure.width_mm * _PX_PER_MM, figure.height_mm * _PX_PER_MM
    return (
        round(box.x0 * width, 3),
        round((1 - box.y1) * height, 3),
        round(box.width * width, 3),
        round(box.height * height, 3),
    )


# ---------------------------------------------------------------- axes


def _draw_axes(axes: Any, figure: FigureData) -> None:
    _scale_axis(axes, "x", figure.x, figure.width_mm)
    _scale_axis(axes, "y", figure.y, figure.height_mm)
    if figure.x.text:
        axes.set_xlabel(figure.x.text, labelpad=3.0)
    if figure.y.text:
        axes.set_ylabel(figure.y.text, labelpad=3.5)
    if figure.gridlines:
        axes.grid(True, which="major")
        if figure.gridlines == "minor":
            axes.minorticks_on()
            axes.grid(True, which="minor", linewidth=0.25)
    if not figure.frame:
        for spine in axes.spines.values():
            spine.set_visible(False)
        axes.tick_params(which="both", length=0)


def _scale_axis(axes: Any, name: str, spec: AxisSpec, length_mm: float) -> None:
    axis = getattr(axes, f"{name}axis")
    if spec.scale == "logarithmic":
        getattr(axes, f"set_{name}scale")("log")
        axis.set_major_locator(LogLocator(numticks=max(3, int(length_mm / 9))))
        axis.set_minor_locator(LogLocator(subs=tuple(range(2, 10)), numticks=30))
        axis.set_minor_formatter(NullFormatter())
    else:
        axis.set_major_locator(MaxNLocator(nbins=max(2, min(9, int(length_mm / (15 if name == "x" else 11)))), steps=[1, 2, 2.5, 5, 10]))
        axis.set_major_formatter(_PlainFormatter())
    getattr(axes, f"set_{name}lim")(spec.low, spec.high)


class _PlainFormatter(Formatter):
    """Tick numbers as plain text, all with the same decimals (typesetting each as mathematics takes twenty times as long).

    Numbers of 100 000 and more, or below a thousandth throughout, have their power of ten set apart at the axis' end.
    """

    def __init__(self) -> None:
        self.power = 0
        self.decimals = 0

    def set_locs(self, locs: Any) -> None:
        places = np.asarray(locs, dtype=float)
        greatest = float(np.abs(places).max(initial=0.0))
        exponent = int(np.floor(np.log10(greatest) + 1e-9)) if greatest > 0 else 0
        self.power = exponent if places.size and (exponent >= 5 or exponent < -3) else 0
        step = float(np.diff(places).min()) / 10.0**self.power if places.size > 1 else 1.0
        # As many decimals as the step has: 0.25 has two, 0.5 one, 2 none.
        self.decimals = next((d for d in range(10) if abs(step * 10**d - round(step * 10**d)) < 1e-6 * 10**d * step), 10)

    def __call__(self, x: float, pos: int | None = None) -> str:  # noqa: ARG002 (Matplotlib calls it with both)
        value = round(x / 10.0**self.power, self.decimals)
        return self.fix_minus(f"{value + 0.0:.{self.decimals}f}")

    def get_offset(self) -> str:
        return rf"$\times 10^{{{self.power}}}$" if self.power else ""


def _lay_out(axes: Any, figure: FigureData, renderer: Any) -> None:
    """Margins as wide as the texts beside the window need.

    The texts are measured one by one: letting Matplotlib lay out the whole sheet first would take as long as drawing it.
    """
    width, height = figure.width_mm * POINTS_PER_MM, figure.height_mm * POINTS_PER_MM
    x_labels, y_labels = _tick_texts(axes.xaxis), _tick_texts(axes.yaxis)
    # Without a frame the numbers stand where they would stand with one; only the ticks are not there.
    tick = SETTINGS["xtick.major.pad"] + _OFFSET_PT + (SETTINGS["xtick.major.size"] if figure.frame else 0.0)
    y_wide = max((_text_size(t, SMALL_PT, renderer)[0] for t in y_labels), default=0.0)
    x_high = max((_text_size(t, SMALL_PT, renderer)[1] for t in x_labels), default=0.0)
    left = _EDGE_PT + tick + y_wide
    if figure.y.text:
        left += _label_height(figure.y.text, renderer) + axes.yaxis.labelpad
    bottom = _EDGE_PT + tick + x_high
    if figure.x.text:
        bottom += _label_height(figure.x.text, renderer) + axes.xaxis.labelpad
    last = _text_size(x_labels[-1], SMALL_PT, renderer)[0] / 2 if x_labels else 0.0
    right = _EDGE_PT + max(last, 2.0)
    top = _EDGE_PT + (SMALL_PT + 4 if axes.yaxis.get_major_formatter().get_offset() else SMALL_PT / 2)
    left, bottom = min(left, width * 0.5), min(bottom, height * 0.5)
    wide, high = max(width - left - right, width * 0.2), max(height - bottom - top, height * 0.2)
    axes.set_position((left / width, bottom / height, wide / width, high / height))


def _tick_texts(axis: Any) -> list[str]:
    low, high = axis.get_view_interval()
    places = [p for p in axis.get_majorticklocs() if low <= p <= high]
    return [str(t) for t in axis.get_major_formatter().format_ticks(places)]


def _text_size(text: str, size: float, renderer: Any) -> tuple[float, float]:
    """Width and height in points (the sheet is measured at 72 dots an inch)."""
    width, height, _ = renderer.get_text_width_height_descent(text, FontProperties(size=size), "$" in text)
    return float(width), float(height)


def _label_height(text: str, renderer: Any) -> float:
    return max(_text_size(line, TYPE_PT, renderer)[1] for line in text.splitlines() or [" "])


# ---------------------------------------------------------------- series


def _draw_series(axes: Any, series: Series, place: int, grey: bool) -> None:
    ink = palette.ink(place)
    colour = palette.GREY if grey else (series.colour or ink.code)
    if series.kind in ("curve", "line"):
        own = ink.grey_dash if grey else palette.round_dash(place)
        pattern = palette.DASHES[series.dash] if series.dash else own
        width = series.width * palette.round_width(place)
        lines = axes.plot(series.x, series.y, color=colour, linewidth=width, alpha=series.opacity, label=series.label or "_")
        if pattern:
            lines[0].set_dashes(pattern)
    else:
        filled = series.marker not in ("ring",)
        lines = axes.plot(
            series.x, series.y, linestyle="none", marker=_MARKS[series.marker], markersize=series.size, color=colour,
            markerfacecolor=colour if filled else palette.PAPER, markeredgecolor=colour,
            markeredgewidth=0.0 if series.marker in ("dot", "square", "diamond", "triangle") else 0.9,
            alpha=series.opacity, label=series.label or "_", clip_on=False, zorder=3,
        )  # fmt: skip
    lines[0].set_gid(series.id)


def _draw_legend(axes: Any, figure: FigureData, renderer: Any) -> None:
    if figure.legend is None or not any(s.label for s in figure.series):
        return
    words = set(figure.legend.split())
    common = {
        "handlelength": 2.4, "borderaxespad": 0.3, "labelspacing": 0.35, "fontsize": SMALL_PT, "handletextpad": 0.7,
        # Where it must stand on a line, the paper shows under the text and not the line.
        "frameon": True, "facecolor": palette.PAPER, "edgecolor": "none", "framealpha": 0.85, "fancybox": False, "borderpad": 0.2,
    }  # fmt: skip
    if words & {"top", "bottom", "left", "right"}:
        vertical = "lower" if "bottom" in words else "upper"
        horizontal = "left" if "left" in words else "right"
        axes.legend(loc=f"{vertical} {horizontal}", **common)
        return
    legend = axes.legend(loc="upper right", **common)
    box = legend.get_window_extent(renderer)
    place, covered = _emptiest(axes, figure, box)
    if covered > _COVERED and box.width < 0.35 * axes.get_window_extent().width:
        _move_outside(axes, legend, box.width, figure)
    else:
        legend.set_loc(place)


def _move_outside(axes: Any, legend: Any, width_pt: float, figure: FigureData) -> None:
    """Beside the window, which is narrowed for it: inside there is no room that a curve does not need."""
    share = (width_pt + _EDGE_PT) / (figure.width_mm * POINTS_PER_MM)
    box = axes.get_position()
    axes.set_position((box.x0, box.y0, box.width - share, box.height))
    legend.set_loc("upper left")
    legend.set_bbox_to_anchor((1.0, 1.0), transform=axes.transAxes)


def _emptiest(axes: Any, figure: FigureData, box: Any) -> tuple[str, float]:
    """The corner or side in which a legend of that size covers least of what is drawn, and how much it covers there."""
    window = axes.get_window_extent()
    wide, high = min(box.width / window.width, 1.0), min(box.height / window.height, 1.0)
    drawn = [_on_window(axes, s) for s in figure.series]
    places = {
        "upper right": (1 - wide, 1 - high), "upper left": (0, 1 - high), "lower right": (1 - wide, 0), "lower left": (0, 0),
        "upper center": ((1 - wide) / 2, 1 - high), "lower center": ((1 - wide) / 2, 0),
        "center right": (1 - wide, (1 - high) / 2), "center left": (0, (1 - high) / 2),
    }  # fmt: skip
    margin = 0.02

    def covered(corner: str) -> float:
        x0, y0 = places[corner]
        total = 0.0
        for x, y in drawn:
            inside = (x > x0 - margin) & (x < x0 + wide + margin) & (y > y0 - margin) & (y < y0 + high + margin)
            total += float(inside.sum())
        return total

    best = min(places, key=covered)
    return best, covered(best)


def _on_window(axes: Any, series: Series) -> tuple[Floats, Floats]:
    """Places of a series in shares of the window, evenly dense along the line."""
    with np.errstate(all="ignore"):
        points = axes.transAxes.inverted().transform(axes.transData.transform(np.column_stack([series.x, series.y])))
    x, y = points[:, 0], points[:, 1]
    if series.kind == "points" or x.size < 2:
        return x, y
    t = np.linspace(0, 1, 9)[:, None]
    with np.errstate(all="ignore"):
        long_x = (x[:-1] + t * np.diff(x)).ravel()
        long_y = (y[:-1] + t * np.diff(y)).ravel()
        length = np.tile(np.hypot(np.diff(x), np.diff(y)), 9)
    # Short pieces are thinned, so that a finely sampled bend does not weigh more than a long straight stroke.
    keep = (length > 0.01) | (np.arange(length.size) % 9 == 0)
    return long_x[keep], long_y[keep]
