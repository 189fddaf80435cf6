"""Drawn things on their axes: lines, marks, bars, bands, straight lines."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from matplotlib.collections import LineCollection
from matplotlib.colors import LinearSegmentedColormap, to_rgb
from matplotlib.lines import Line2D

from . import palette
from .model import AxisSpec, Floats, Series
from .scales import SCALES
from .series_marks import SeriesMarks
from .style import Theme

MARKS = {"dot": "o", "ring": "o", "square": "s", "diamond": "D", "triangle": "^", "cross": "x", "plus": "+", "none": ""}
FILLED = ("dot", "square", "diamond", "triangle")
_MARK_SPACING_PT = 16.0  # marks on a line stand no closer than this where the script does not say `every`
_FINE_PT = 0.05  # places nearer to each other than this cannot be told apart in print (1/1440 inch)
_MANY = 20_000  # marks that are drawn one by one; more become a picture inside the drawing
_MANY_ON_LINE = 6_000
PICTURE_DPI = 600


@dataclass(frozen=True, slots=True)
class Ground:
    """What drawing a thing needs to know of its figure."""

    theme: Theme
    grey: bool
    opaque: bool  # the format knows no transparency: colours are mixed with the paper instead
    tints: Any = None  # norm of the colour scale
    tones: str = "rising"  # its colours
    marks: SeriesMarks = field(default_factory=lambda: SeriesMarks({}, {}))  # of series for which the script says none


def colour_map(tones: str = "rising", grey: bool = False) -> Any:
    """The colours of numbers from low to high; for print without colour by their lightness alone."""
    colours = [to_rgb(c) for c in palette.TONES[tones]]
    if grey:
        colours = [(_grey(c),) * 3 for c in colours]
    return LinearSegmentedColormap.from_list(tones, colours, N=256)


def _grey(colour: tuple[float, ...]) -> float:
    """As light as the colour: luminance (ITU-R BT.709) through a gamma of 2.2."""
    return float(sum(w * c**2.2 for w, c in zip((0.2126, 0.7152, 0.0722), colour, strict=True)) ** (1 / 2.2))


def colour_norm(spec: AxisSpec) -> Any:
    """From numbers to shares of the scale of colours."""
    return SCALES[spec.scale].norm(spec)


def band_colours(norm: Any, levels: Any, colours: Any) -> Any:
    """Colours of the bands below, between and above levels: those of the middles, on the scale from end to end."""
    shares = np.clip(np.ma.filled(norm(np.asarray(levels, dtype=float)), np.nan), 0, 1)
    edges = np.concatenate([[0.0], shares, [1.0]])
    return colours((edges[:-1] + edges[1:]) / 2)


def colour_of(series: Series, ground: Ground) -> str:
    if ground.grey:
        return palette.GREY
    return series.colour or (palette.LINE if series.kind in ("rule", "text", "mark") else palette.ink(series.place).code)


def draw_series(axes: Any, series: Series, ground: Ground) -> Any:
    """Draw one thing; returns what stands for it in a legend."""
    kind = series.kind
    if kind in ("curve", "line"):
        return _line(axes, series, ground)
    if kind == "points":
        return _points(axes, series, ground)
    if kind == "bars":
        return _bars(axes, series, ground)
    if kind == "band":
        return _band(axes, series, ground)
    if kind == "contours":
        return _contours(axes, series, ground)
    if kind == "mark" and (series.ex is not None or series.ey is not None):
        _errors(axes, series, ground, colour_of(series, ground))
    return _rule(axes, series, ground) if kind == "rule" else None


def _mixed(colour: str, opacity: float, ground: Ground) -> dict[str, Any]:
    """Colour and opacity; where the format has no opacity the colour is mixed with the paper."""
    if opacity >= 1.0:
        return {"color": colour}
    if ground.opaque:
        share = np.asarray(to_rgb(colour)) * opacity + (1 - opacity)
        return {"color": tuple(float(c) for c in share)}
    return {"color": colour, "alpha": opacity}


def _pattern(series: Series, ground: Ground) -> tuple[float, ...]:
    if series.dash:
        return palette.DASHES[series.dash]
    if series.kind == "rule":
        return ()
    return ground.marks.dashes.get(series.id, ())


def _width(series: Series, ground: Ground) -> float:
    factor = 1.0 if series.kind == "rule" else palette.round_width(series.place)
    return series.width * factor * ground.theme.weight


def _line(axes: Any, series: Series, ground: Ground) -> Any:
    colour, width = colour_of(series, ground), _width(series, ground)
    x, y = thinned_line(axes, series.x, series.y)
    if series.fill:
        _area(axes, series.x, np.zeros_like(series.y), series.y, series, ground)
    if series.tints is not None and ground.tints is not None:
        return _tinted(axes, series, ground, width)
    look = {"marker": "none"} if series.marker in (None, "", "none") else _mark_look(series, ground, colour)
    line = axes.plot(x, y, linewidth=width, label=series.label or "_", marker="none", **_mixed(colour, series.opacity, ground))[0]
    pattern = _pattern(series, ground)
    if pattern:
        line.set_dashes(pattern)
    line.set_gid(series.id)
    _errors(axes, series, ground, colour)
    if look.get("marker") == "none":
        return line
    mx, my = _marked_places(axes, series)
    marks = axes.plot(mx, my, linestyle="none", clip_on=False, zorder=3, **look)[0]
    marks.set_gid(f"{series.id}-marks")
    return (line, marks)


def _tinted(axes: Any, series: Series, ground: Ground, width: float) -> Any:
    places = np.column_stack([series.x, series.y])
    pieces = np.stack([places[:-1], places[1:]], axis=1)
    assert series.tints is not None
    shade = (series.tints[:-1] + series.tints[1:]) / 2
    keep = np.isfinite(pieces).all(axis=(1, 2)) & np.isfinite(shade)
    colours = {"cmap": colour_map(ground.tones, ground.grey), "norm": ground.tints}
    drawn = LineCollection(list(pieces[keep]), array=shade[keep], linewidth=width, capstyle="round", **colours)
    drawn.set_gid(series.id)
    axes.add_collection(drawn, autolim=False)
    return drawn


def _contours(axes: Any, series: Series, ground: Ground) -> Any:
    """Level lines, each in the colour of its height, with the areas between them where those are filled."""
    assert series.tints is not None
    assert series.levels is not None
    levels = np.asarray(series.levels, dtype=float)
    own = colour_of(series, ground)
    tinted = ground.tints is not None and not series.plain and not ground.grey
    tones = colour_map(ground.tones, ground.grey)
    if series.fill and series.grid is not None and ground.tints is not None:
        z = np.ma.masked_invalid(series.grid["z"])
        edges = np.concatenate([[min(float(z.min()), levels[0]) - 1.0], levels, [max(float(z.max()), levels[-1]) + 1.0]])
        alpha = series.opacity if series.opacity < 1 and not ground.opaque else None
        colours = band_colours(ground.tints, levels, tones)
        look = {"levels": edges, "colors": colours, "zorder": 1.1, "antialiased": False, "alpha": alpha}
        filled = axes.contourf(series.grid["x"], series.grid["y"], z, **look)
        filled.set_gid(f"{series.id}-fill")
    width = _width(series, ground) * (0.6 if series.fill else 1.0)
    pattern = palette.DASHES[series.dash] if series.dash else ()
    for level in levels:
        chosen = np.where(series.tints == level, series.x, np.nan)
        if not np.isfinite(chosen).any():
            continue
        colour = palette.LINE if series.fill and not series.colour else tones(ground.tints(level)) if tinted else own
        look = _mixed(colour, 1.0 if series.fill else series.opacity, ground)
        line = axes.plot(chosen, series.y, linewidth=width, zorder=1.9, solid_joinstyle="round", **look)[0]
        if pattern:
            line.set_dashes(pattern)
        line.set_gid(series.id)
    handle = Line2D([], [], color=own if not tinted else tones(0.45), linewidth=width, label=series.label or "_")
    return handle


def _marker(series: Series, ground: Ground) -> str:
    return series.marker or ground.marks.markers.get(series.id, "dot")


def _mark_look(series: Series, ground: Ground, colour: str) -> dict[str, Any]:
    marker = _marker(series, ground)
    filled = marker in FILLED
    size = series.size * ground.theme.marks
    look = _mixed(colour, series.opacity, ground)
    edge = series.width if series.stroke else 0.9
    return {
        "marker": MARKS[marker], "markersize": size, "markerfacecolor": look["color"] if filled else palette.PAPER,
        "markeredgecolor": look["color"], "markeredgewidth": 0.0 if filled else edge * ground.theme.weight, **look,
    }  # fmt: skip


def _marked_places(axes: Any, series: Series) -> tuple[Floats, Floats]:
    """Where a line has its marks: at every Nth place, or where they would be too dense at even distances along it."""
    good = np.isfinite(series.x) & np.isfinite(series.y)
    x, y = series.x[good], series.y[good]
    if series.every is not None:
        return x[:: series.every], y[:: series.every]
    if x.size < 2:
        return x, y
    with np.errstate(all="ignore"):
        paper = axes.transData.transform(np.column_stack([x, y]))
        steps = np.nan_to_num(np.hypot(*np.diff(paper, axis=0).T), nan=0.0, posinf=0.0)
    if series.kind != "curve" and float(np.median(steps)) >= _MARK_SPACING_PT / 2:
        return x, y
    along = np.concatenate([[0.0], np.cumsum(steps)])
    # Offset by place, so that the marks of curves that run side by side do not fall together.
    first = _MARK_SPACING_PT * (0.5 + 0.25 * (series.place % 4))
    wanted = np.arange(first, along[-1], max(_MARK_SPACING_PT * 1.6, along[-1] / 24))
    index = np.unique(np.clip(np.searchsorted(along, wanted), 0, x.size - 1))
    return x[index], y[index]


def _points(axes: Any, series: Series, ground: Ground) -> Any:
    colour = colour_of(series, ground)
    _errors(axes, series, ground, colour)
    x, y, tints = series.x, series.y, series.tints
    if series.every is not None:
        x, y = x[:: series.every], y[:: series.every]
        tints = tints[:: series.every] if tints is not None else None
    look = _mark_look(series, ground, colour)
    many = x.size > _MANY
    if tints is not None and ground.tints is not None:
        size = (series.size * ground.theme.marks) ** 2
        drawn = axes.scatter(
            x, y, c=tints, cmap=colour_map(ground.tones, ground.grey), norm=ground.tints, s=size, marker=look["marker"] or "o", zorder=3,
            clip_on=many,
            linewidths=0.25 * ground.theme.weight, edgecolors=palette.LINE, label=series.label or "_", alpha=None,
        )  # fmt: skip
    else:
        if many:
            x, y = apart(axes, x, y)
        drawn = axes.plot(x, y, linestyle="none", clip_on=many, zorder=3, label=series.label or "_", **look)[0]
    drawn.set_gid(series.id)
    if x.size > _MANY:
        drawn.set_rasterized(True)
    return drawn


def _errors(axes: Any, series: Series, ground: Ground, colour: str) -> None:
    """Bars of one standard uncertainty to each side, with short caps."""
    width = (series.width if series.stroke else 0.7) * ground.theme.weight
    for name, spread in (("x", series.ex), ("y", series.ey)):
        if spread is None:
            continue
        drawn = axes.errorbar(
            series.x, series.y, **{f"{name}err": np.abs(spread)}, fmt="none", ecolor=colour, elinewidth=width,
            capsize=1.6 * ground.theme.marks, capthick=width, zorder=2.5,
        )  # fmt: skip
        for part in (*drawn[1], *drawn[2]):
            part.set_gid(f"{series.id}-errors")


def _bars(axes: Any, series: Series, ground: Ground) -> Any:
    colour = colour_of(series, ground)
    good = np.isfinite(series.x) & np.isfinite(series.y)
    x, y = series.x[good], series.y[good]
    bottom = np.zeros_like(y)
    if axes.get_yscale() == "log":
        bottom = np.full_like(y, min(axes.get_ylim()))
    faces: Any = colour
    if series.tints is not None and ground.tints is not None:
        faces = colour_map(ground.tones, ground.grey)(ground.tints(series.tints[good]))
    edge = {"linewidth": 0.5 * ground.theme.weight, "edgecolor": palette.LINE}
    if series.fill and not ground.grey and x.size > 1 and np.allclose(np.diff(x), series.spread):
        edge = {"linewidth": _width(series, ground), "edgecolor": palette.PAPER}  # bars that touch are parted by a line of paper
    elif series.stroke and series.fill:
        edge = {"linewidth": _width(series, ground), "edgecolor": palette.LINE if ground.grey or series.tints is not None else colour}
    hatch = _hatch(series, ground)
    if not series.fill:
        drawn = axes.bar(x, y - bottom, series.spread, bottom, facecolor="none", edgecolor=colour, linewidth=_width(series, ground))
    elif hatch is not None:
        drawn = axes.bar(x, y - bottom, series.spread, bottom, facecolor=palette.PAPER, hatch=hatch, **edge)
        if not ground.grey:
            lines = [faces] * len(y) if isinstance(faces, str) else faces
            for bar, line in zip(drawn, lines, strict=True):
                bar.set_edgecolor(line)
    else:
        alpha = {"alpha": series.opacity} if series.opacity < 1 and not ground.opaque else {}
        outline = edge if series.stroke else {"linewidth": 0.0}
        drawn = axes.bar(x, y - bottom, series.spread, bottom, color=faces, **outline, **alpha)
    drawn.set_label(series.label or "_")
    for bar in drawn:
        bar.set_gid(series.id)
        bar.set_zorder(1.5)
    _errors(axes, series, ground, palette.LINE)
    return drawn


def _band(axes: Any, series: Series, ground: Ground) -> Any:
    assert series.y2 is not None
    return _area(axes, series.x, series.y, series.y2, series, ground)


def _area(axes: Any, x: Floats, low: Floats, high: Floats, series: Series, ground: Ground) -> Any:
    colour = colour_of(series, ground)
    if axes.get_yscale() == "log":
        least = min(axes.get_ylim())
        low, high = np.maximum(low, least), np.maximum(high, least)
    share = 0.22 if series.opacity >= 1.0 else series.opacity
    hatch = _hatch(series, ground)
    if hatch is not None:
        drawn = axes.fill_between(
            x, low, high, facecolor="none", edgecolor="#9A9CA0" if ground.grey else colour, hatch=hatch, linewidth=0.0,
            label=series.label or "_", zorder=1.2,
        )  # fmt: skip
    else:
        drawn = axes.fill_between(x, low, high, linewidth=0.0, label=series.label or "_", zorder=1.2, **_mixed(colour, share, ground))
    drawn.set_gid(series.id if series.kind == "band" else f"{series.id}-fill")
    if series.kind == "band" and (series.stroke or series.dash):
        for edge in (low, high):
            line = axes.plot(x, edge, linewidth=_width(series, ground), zorder=1.3, **_mixed(colour, series.opacity, ground))[0]
            line.set_dashes(palette.DASHES[series.dash] if series.dash else ())
            line.set_gid(f"{series.id}-edge")
    return drawn


def _hatch(series: Series, ground: Ground) -> str | None:
    """The pattern of a filled area: as it was said, or its own where there is no colour."""
    if series.hatch is not None:
        return palette.HATCH_WORDS[series.hatch]
    return palette.HATCHES[series.place % 8] if ground.grey else None


def _rule(axes: Any, series: Series, ground: Ground) -> Any:
    colour, width = colour_of(series, ground), _width(series, ground)
    look = _mixed(colour, series.opacity, ground)
    if series.arrow != "none":
        style = {"start": "<|-", "end": "-|>", "both": "<|-|>"}[series.arrow]
        drawn = axes.annotate(
            "", (series.x[1], series.y[1]), (series.x[0], series.y[0]), annotation_clip=False,
            arrowprops={"arrowstyle": f"{style},head_length=0.35,head_width=0.14", "linewidth": width, "shrinkA": 0, "shrinkB": 0,
                        "mutation_scale": 10 * ground.theme.weight, "joinstyle": "miter", **look},
        )  # fmt: skip
        drawn.arrow_patch.set_gid(series.id)
        if series.dash:
            drawn.arrow_patch.set_linestyle((0, tuple(v * 1.0 for v in palette.DASHES[series.dash]) or None))
        return drawn.arrow_patch
    drawn = axes.plot(series.x, series.y, linewidth=width, label=series.label or "_", zorder=1.8, **look)[0]
    pattern = _pattern(series, ground)
    if pattern:
        drawn.set_dashes(pattern)
    drawn.set_gid(series.id)
    return drawn


# ---------------------------------------------------------------- thinning


def thinned_line(axes: Any, x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """A line of very many places with only those that can be seen.

    In each strip of 0.05 pt along the horizontal axis the first, last, lowest and highest place stay; what is left out
    lies inside the box that those span, so that no drawn stroke moves by more than 0.05 pt. Only for places in order of x.
    """
    if x.size <= _MANY_ON_LINE:
        return x, y
    with np.errstate(all="ignore"):
        places = axes.transData.transform(np.column_stack([x, y]))
    strip = np.floor(places[:, 0] / _FINE_PT)
    strip = np.where(np.isfinite(y) & np.isfinite(strip), strip, np.nan)
    good = np.isfinite(strip)
    if (np.diff(strip[good]) < 0).any() and (np.diff(strip[good]) > 0).any():
        return x, y  # a line that goes to and fro
    change = np.flatnonzero((strip[1:] != strip[:-1]) | ~good[1:] | ~good[:-1]) + 1
    starts = np.concatenate([[0], change])
    ends = np.concatenate([change, [x.size]])
    if starts.size * 4 >= x.size:
        return x, y
    filled = np.where(good, places[:, 1], 0.0)
    owner = np.repeat(np.arange(starts.size), ends - starts)
    order = np.lexsort((filled, owner))
    keep = np.unique(np.concatenate([starts, ends - 1, order[starts], order[ends - 1]]))
    return x[keep], y[keep]


def apart(axes: Any, x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Of places nearer than 0.05 pt only the last one drawn: no mark moves by more than that."""
    with np.errstate(all="ignore"):
        places = axes.transData.transform(np.column_stack([x, y]))
    good = np.isfinite(places).all(axis=1)
    x, y, places = x[good], y[good], places[good]
    cells = np.floor(places / _FINE_PT).astype(np.int64)
    cells -= cells.min(axis=0)
    marks = cells[:, 0] * (int(cells[:, 1].max()) + 1) + cells[:, 1]
    _, first = np.unique(marks[::-1], return_index=True)
    keep = np.sort(x.size - 1 - first)
    return x[keep], y[keep]
