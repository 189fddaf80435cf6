"""Words and numbers that must find a place among lines: along a curve, at its end, badges of findings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from matplotlib import patheffects
from matplotlib.font_manager import FontProperties

from ..numerics.curves.branches import parted
from . import palette
from .model import Floats, PanelData, Series
from .numbers import NumberFormatter
from .style import Theme
from .things import Ground, colour_of

_STEP_PT = 3.0  # how densely lines are looked at
LEADER = 7.0  # points between the end of a line and a label that had to leave it


class Occupancy:
    """What already stands in a window, as points on paper and as boxes that are taken."""

    def __init__(self, axes: Any, panel: PanelData) -> None:
        self.axes, self.panel = axes, panel
        self.lines: dict[str, Floats] = {}  # places along each drawn thing, shape (n, 2), points
        self.boxes: list[tuple[float, float, float, float]] = []

    @property
    def window(self) -> Any:
        return self.axes.get_window_extent()

    def add(self, home: Any, series: Series) -> None:
        """Count a drawn thing among what covers the window."""
        if series.kind in ("text", "mark"):
            return
        places = on_paper(home, series)
        # A mark of data is a larger thing than a place on a line.
        self.lines[series.id] = np.repeat(places, 5, axis=0) if series.kind == "points" and places.shape[0] < 400 else places

    def keep_free(self, box: Any) -> None:
        self.boxes.append((box.x0, box.y0, box.x1, box.y1))

    def covered(self, x0: float, y0: float, x1: float, y1: float, apart_from: str = "") -> float:
        """How much of what is drawn lies in a box; boxes that are taken count much more."""
        total = 0.0
        for name, places in self.lines.items():
            if name != apart_from and places.size:
                x, y = places[:, 0], places[:, 1]
                total += float(((x > x0) & (x < x1) & (y > y0) & (y < y1)).sum())
        for a, b, c, d in self.boxes:
            if x0 < c and x1 > a and y0 < d and y1 > b:
                total += 40.0
        return total

    def emptiest(self, wide: float, high: float) -> tuple[tuple[float, float], float]:
        """The middle (in shares of the window) of the place in which a box covers least, and how much it covers there."""
        window = self.window
        margin = 3.0
        best: tuple[float, tuple[float, float]] | None = None
        lefts = [window.x1 - wide - 2, window.x0 + 2, (window.x0 + window.x1 - wide) / 2]
        bottoms = [window.y1 - high - 2, window.y0 + 2, (window.y0 + window.y1 - high) / 2]
        # Corners first, then the middles of the sides, then between; the first of equally empty places is taken.
        tried = [(x, y) for y in bottoms[:2] for x in lefts[:2]] + [(lefts[2], y) for y in bottoms[:2]] + [(x, bottoms[2]) for x in lefts]
        tried += [
            (window.x0 + 2 + (window.width - wide - 4) * a, window.y0 + 2 + (window.height - high - 4) * b)
            for b in (0.85, 0.15, 0.7, 0.3) for a in (0.85, 0.15, 0.7, 0.3)
        ]  # fmt: skip
        for x, y in tried:
            covered = self.covered(x - margin, y - margin, x + wide + margin, y + high + margin)
            if best is None or covered < best[0]:
                best = (covered, (x + wide / 2, y + high / 2))
            if covered == 0:
                break
        assert best is not None
        (covered, (x, y)) = best
        return ((x - window.x0) / window.width, (y - window.y0) / window.height), covered


def on_paper(axes: Any, series: Series) -> Floats:
    """Places along a drawn thing every few points, inside the window."""
    x, y = series.x, series.y
    if series.kind in ("bars", "band") or (series.fill and series.kind != "contours"):
        y2 = np.zeros_like(y) if series.y2 is None else series.y2
        share = np.linspace(0, 1, 7)[:, None]
        keep = slice(None, None, max(1, x.size // 60))
        x, y = np.tile(x[keep], 7), (y[keep] + share * (y2[keep] - y[keep])).ravel()
        if series.kind == "bars":
            x = np.concatenate([x - series.spread / 2, x, x + series.spread / 2])
            y = np.tile(y, 3)
        return _inside(axes, _paper(axes, x, y))
    if series.ey is not None:
        x, y = np.tile(x, 3), np.concatenate([y, y - series.ey, y + series.ey])
    places = _paper(axes, x, y)
    if series.kind == "points" or places.shape[0] < 2:
        return _inside(axes, places[:: max(1, places.shape[0] // 4000)])
    with np.errstate(all="ignore"):
        steps = np.hypot(*np.diff(places, axis=0).T)
    pieces = [places]
    long = np.flatnonzero(np.isfinite(steps) & (steps > _STEP_PT))
    for k in long[:3000]:
        n = min(int(steps[k] / _STEP_PT) + 1, 400)
        pieces.append(places[k] + (places[k + 1] - places[k]) * (np.arange(1, n) / n)[:, None])
    every = np.concatenate(pieces)
    every = every[np.isfinite(every).all(axis=1)]
    # Short pieces are thinned, so that a finely sampled bend does not weigh more than a long straight stroke.
    _, first = np.unique(np.round(every / _STEP_PT).astype(np.int64) @ np.array([100_003, 1]), return_index=True)
    every = every[np.sort(first)]
    return _inside(axes, every)


def _paper(axes: Any, x: Floats, y: Floats) -> Floats:
    with np.errstate(all="ignore"):
        return np.asarray(axes.transData.transform(np.column_stack([x, y])), dtype=float)


def _inside(axes: Any, places: Floats) -> Floats:
    box = axes.get_window_extent()
    with np.errstate(all="ignore"):
        keep = (places[:, 0] >= box.x0 - 1) & (places[:, 0] <= box.x1 + 1) & (places[:, 1] >= box.y0 - 1) & (places[:, 1] <= box.y1 + 1)
    found: Floats = places[keep]
    return found


# ---------------------------------------------------------------- labels


@dataclass
class _LabelledEnd:
    x: float
    y: float
    series: Series


def usual_place(series: Series) -> str:
    """Where a label stands if the script does not say: straight lines carry theirs, all else is in the legend."""
    return series.written or ("along" if series.kind == "rule" else "legend")


def labels_along(
    axes: Any, right: Any, panel: PanelData, crowd: Occupancy, ground: Ground, size: float, renderer: Any
) -> list[tuple[Any, Series]]:
    """Labels on their lines, turned with them, where the line is straight and nothing else is near."""
    found = []
    for series in panel.series:
        if not series.label or usual_place(series) != "along" or series.kind in ("text", "mark", "bars"):
            continue
        home = right if series.right and right is not None else axes
        text = home.text(0, 0, series.label, fontsize=size, color=colour_of(series, ground), ha="center", va="center", zorder=4)
        extent = text.get_window_extent(renderer)
        place = _along(home, series, crowd, extent.width, extent.height)
        if place is None:
            text.remove()
            continue
        x, y, angle, lift = place
        if extent.width < 2.4 * size and not lift:
            # A letter or two would be lost in the line: they stand upright beside it.
            across, up = -float(np.sin(np.radians(angle))), float(np.cos(np.radians(angle)))
            if across < 0:
                across, up = -across, -up  # to the right of a steep line
            reach = abs(across) * extent.width / 2 + abs(up) * extent.height / 2 + 2.5
            x, y, angle, lift = x + across * reach, y + up * reach, 0.0, 1e-9
        text.set_rotation(angle)
        text.set_rotation_mode("anchor")
        turn = np.radians(angle)
        spot = axes.transData.inverted().transform((x - np.sin(turn) * lift, y + np.cos(turn) * lift))
        if home is not axes:
            spot = home.transData.inverted().transform((x - np.sin(turn) * lift, y + np.cos(turn) * lift))
        text.set_position(spot)
        if not lift:
            text.set_bbox({"facecolor": palette.PAPER, "edgecolor": "none", "pad": 1.2})
        crowd.keep_free(text.get_window_extent(renderer))
        found.append((text, series))
    return found


def _along(axes: Any, series: Series, crowd: Occupancy, wide: float, high: float) -> tuple[float, float, float, float] | None:
    """Place, angle in degrees and height above the line for a label; None if the line is nowhere in the window."""
    with np.errstate(all="ignore"):
        places = _paper(axes, series.x, series.y)
    box = axes.get_window_extent()
    best: tuple[float, tuple[float, float, float]] | None = None
    straight = series.kind == "rule"
    for line in parted(places):
        if len(line) < 2:
            continue
        along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
        if along[-1] < wide * 0.6:
            continue
        shares = (0.97, 0.03, 0.5) if straight else (0.72, 0.6, 0.82, 0.45, 0.3, 0.9, 0.2, 0.52, 0.38, 0.1)
        for rank, share in enumerate(shares):
            middle = float(np.clip(share * along[-1], wide / 2 + 2, max(along[-1] - wide / 2 - 2, wide / 2 + 2)))
            ends = [_at(line, along, s) for s in (middle - wide / 2, middle + wide / 2)]
            at = _at(line, along, middle)
            if ends[0][0] > ends[1][0]:
                ends.reverse()
            chord = ends[1] - ends[0]
            length = float(np.hypot(*chord))
            reach = (wide / 2 + 2) * 0.9
            inside = box.x0 + reach < at[0] < box.x1 - reach + 4 and box.y0 + high / 2 < at[1] < box.y1 - high / 2
            if not inside and not straight:
                continue
            bent = 1.0 - length / max(wide, 1e-9)
            away = abs(float(np.cross(np.append(chord, 0), np.append(at - ends[0], 0))[2])) / max(length, 1e-9)
            half_w, half_h = abs(chord[0]) / 2 + 2, abs(chord[1]) / 2 + high / 2 + 2
            lift = (high / 2 + 2) if straight else 0.0
            near = crowd.covered(at[0] - half_w, at[1] + lift - half_h, at[0] + half_w, at[1] + lift + half_h, series.id)
            cost = rank * 0.3 + max(bent, 0) * 60 + away * 1.5 + near * 2
            if best is None or cost < best[0]:
                best = (cost, (float(at[0]), float(at[1]), float(np.degrees(np.arctan2(chord[1], chord[0])))))
    if best is None:
        return None
    x, y, angle = best[1]
    return x, y, angle, (high / 2 + 1.5) if straight else 0.0


def _at(line: Floats, along: Floats, place: float) -> Floats:
    """The place on a line of given length from its beginning."""
    return np.array([np.interp(place, along, line[:, 0]), np.interp(place, along, line[:, 1])])


def level_labels(axes: Any, panel: PanelData, crowd: Occupancy, size: float, renderer: Any) -> list[tuple[Any, Series]]:
    """Heights on level lines, each on the longest and straightest stretch of its line that is free of other labels."""
    found: list[tuple[Any, Series]] = []
    for series in panel.series:
        if series.kind != "contours" or not series.levels or series.tints is None:
            continue
        texts = NumberFormatter()
        texts.set_locs(series.levels)
        for level in series.levels:
            on = series.tints == level
            lines = _branches(axes, np.where(on, series.x, np.nan), series.y)
            said = texts(level)
            font = FontProperties(size=size * 0.92)
            wide = float(renderer.get_text_width_height_descent(said, font, False)[0])
            place = _on_level(lines, wide, size, crowd, axes.get_window_extent(renderer))
            if place is None:
                continue
            x, y, angle = place
            text = axes.text(*axes.transData.inverted().transform((x, y)), said, ha="center", va="center", rotation=angle,
                             rotation_mode="anchor", fontsize=size * 0.92, color=palette.LINE, zorder=3.5)  # fmt: skip
            text.set_path_effects([patheffects.withStroke(linewidth=size * 0.4, foreground=palette.PAPER)])
            text.set_gid(f"{series.id}-level")
            c, d = abs(np.cos(np.radians(angle))), abs(np.sin(np.radians(angle)))
            half_w, half_h = (wide * c + size * d) / 2 + 2, (wide * d + size * c) / 2 + 2
            crowd.boxes.append((x - half_w, y - half_h, x + half_w, y + half_h))
            found.append((text, series))
    return found


def _branches(axes: Any, x: Floats, y: Floats) -> list[Floats]:
    return [p for p in parted(_paper(axes, x, y)) if len(p) > 2]


def _on_level(lines: list[Floats], wide: float, high: float, crowd: Occupancy, window: Any) -> tuple[float, float, float] | None:
    """Middle and angle of a label of that size on one of the branches; None where all are too short or taken."""
    best: tuple[float, tuple[float, float, float]] | None = None
    for line in sorted(lines, key=len, reverse=True)[:4]:
        along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
        if along[-1] < 2.2 * wide:
            continue
        for k, share in enumerate((0.5, 0.35, 0.65, 0.22, 0.78, 0.12, 0.88)):
            middle = along[-1] * share
            if not wide * 0.7 < middle < along[-1] - wide * 0.7:
                continue
            ends = [_at(line, along, middle + side * wide / 2) for side in (-1, 1)]
            at = _at(line, along, middle)
            chord = ends[1] - ends[0]
            length = float(np.hypot(*chord))
            angle = float(np.degrees(np.arctan2(chord[1], chord[0])))
            angle = (angle + 90) % 180 - 90
            c, d = abs(np.cos(np.radians(angle))), abs(np.sin(np.radians(angle)))
            x0, x1 = at[0] - (wide * c + high * d) / 2, at[0] + (wide * c + high * d) / 2
            y0, y1 = at[1] - (wide * d + high * c) / 2, at[1] + (wide * d + high * c) / 2
            if x0 < window.x0 + 1 or x1 > window.x1 - 1 or y0 < window.y0 + 1 or y1 > window.y1 - 1:
                continue
            if any(x0 < b[2] and x1 > b[0] and y0 < b[3] and y1 > b[1] for b in crowd.boxes):
                continue
            cost = 30 * (1 - length / wide) + 0.4 * k - 0.002 * along[-1]
            if best is None or cost < best[0]:
                best = (cost, (float(at[0]), float(at[1]), angle))
    return best[1] if best is not None else None


def end_labels(
    axes: Any, right: Any, wanted: list[tuple[Series, float]], ground: Ground, size: float, renderer: Any, inside: bool
) -> list[tuple[Any, Series]]:
    """Labels beside the right ends of their lines, pushed apart where the ends lie close.

    inside   beside the window stands an axis: the labels stand over the ends, inside the window
    """
    box = axes.get_window_extent(renderer)
    ends: list[_LabelledEnd] = []
    for series, _ in wanted:
        home = right if series.right and right is not None else axes
        places = _inside(home, _paper(home, series.x, series.y))
        if places.shape[0]:
            last = places[int(np.argmax(places[:, 0]))]
            ends.append(_LabelledEnd(float(last[0]), float(last[1]), series))
    ends.sort(key=lambda e: e.y)
    heights = spread([e.y for e in ends], size * 1.15, box.y0 + size * 0.7, box.y1 - size * 0.7)
    found = []
    led = any(abs(y - end.y) > size * 0.6 for end, y in zip(ends, heights, strict=True))
    for end, y in zip(ends, heights, strict=True):
        x, series = end.x, end.series
        colour = colour_of(series, ground)
        within = inside and x > box.x1 - 40
        at = x - 2 if within else max(x, box.x1) + 4 if x > box.x1 - 12 else x + 4
        if led and not within:
            # Labels that had to leave their ends are led back to them, and the others stand in line with them.
            _lead(axes, box, (at - 3, end.y), (at + LEADER - 1, y), colour, ground)
            at += LEADER
        text = axes.text(
            (at - box.x0) / box.width, (y + (4 if within else 0) - box.y0) / box.height, series.label, transform=axes.transAxes,
            fontsize=size, color=colour, ha="right" if within else "left", va="bottom" if within else "center", zorder=4,
        )  # fmt: skip
        found.append((text, series))
    return found


def _lead(axes: Any, box: Any, start: tuple[float, float], end: tuple[float, float], colour: str, ground: Ground) -> None:
    across = [(x - box.x0) / box.width for x in (start[0], start[0] + 2, end[0])]
    up = [(y - box.y0) / box.height for y in (start[1], start[1], end[1])]
    axes.plot(across, up, transform=axes.transAxes, color=colour, linewidth=0.4 * ground.theme.weight, clip_on=False, zorder=3.9)


def spread(wanted: Sequence[float], gap: float, low: float, high: float) -> list[float]:
    """Heights that lie at least `gap` apart, from low to high, with the least sum of squared moves from the wanted ones, which rise.

    With y_k - k gap in place of y_k that is a regression that rises: neighbours that fall are pooled to their mean
    (R. E. Barlow and others, "Statistical Inference under Order Restrictions", 1972, chapter 1). Where there is no room for
    all they lie closer, evenly.
    """
    n = len(wanted)
    if n > 1 and (n - 1) * gap > high - low:
        gap = max(high - low, 0.0) / (n - 1)
    pools: list[tuple[float, int]] = []
    for k, y in enumerate(wanted):
        mean, count = y - k * gap, 1
        while pools and pools[-1][0] > mean:
            before, size = pools.pop()
            mean, count = (before * size + mean * count) / (size + count), size + count
        pools.append((mean, count))
    flat = [mean for mean, count in pools for _ in range(count)]
    return [min(max(v, low), max(high - (n - 1) * gap, low)) + k * gap for k, v in enumerate(flat)]


# ---------------------------------------------------------------- findings


def badges(axes: Any, right: Any, panel: PanelData, crowd: Occupancy, theme: Theme, renderer: Any) -> list[tuple[Any, Series]]:
    """Numbers of findings beside their places, where they cover neither lines nor each other."""
    found = []
    size = theme.small_pt * 0.92
    for series in panel.series:
        if series.kind != "mark":
            continue
        home = right if series.right and right is not None else axes
        colour = series.colour or palette.LINE
        inside = home.get_window_extent(renderer)
        for place, x, y in zip(_paper(home, series.x, series.y), series.x, series.y, strict=True):
            if not (inside.x0 - 1 <= place[0] <= inside.x1 + 1 and inside.y0 - 1 <= place[1] <= inside.y1 + 1):
                continue
            home.plot([x], [y], "o", markersize=series.spot * theme.marks, color=colour, markeredgecolor=palette.PAPER,
                      markeredgewidth=0.5 * theme.weight, zorder=4.5, clip_on=False)[0].set_gid(f"{series.id}-spot")  # fmt: skip
            # A lone digit gets the room of a square.
            said = series.text or ""
            shown = f"\u2009{said}\u2009" if len(said) == 1 else said
            wide, high = size * (0.62 * len(said) + 0.85), size * 1.4
            dx, dy = _free_offset(crowd, place, wide, high, theme)
            text = home.annotate(
                shown, (x, y), (dx, dy), textcoords="offset points", ha="center", va="center_baseline", fontsize=size,
                color=palette.PAPER, zorder=6, annotation_clip=False,
                bbox={"boxstyle": "square,pad=0.28", "facecolor": colour, "edgecolor": palette.PAPER, "linewidth": 0.6 * theme.weight},
                arrowprops={"arrowstyle": "-", "linewidth": 0.5 * theme.weight, "color": colour, "shrinkA": 0, "shrinkB": 1.5},
            )  # fmt: skip
            text.set_gid(series.id)
            crowd.boxes.append((place[0] + dx - wide / 2, place[1] + dy - high / 2, place[0] + dx + wide / 2, place[1] + dy + high / 2))
            found.append((text, series))
    return found


def _free_offset(crowd: Occupancy, place: Floats, wide: float, high: float, theme: Theme) -> tuple[float, float]:
    window = crowd.window
    best: tuple[float, float, float] | None = None
    rank = 0
    for radius in (10.0, 15.0, 21.0, 28.0):
        for angle in (50, 130, 310, 230, 90, 270, 0, 180):
            dx = float(np.cos(np.radians(angle))) * radius * theme.marks
            dy = float(np.sin(np.radians(angle))) * radius * theme.marks
            x0, x1 = place[0] + dx - wide / 2, place[0] + dx + wide / 2
            y0, y1 = place[1] + dy - high / 2, place[1] + dy + high / 2
            beyond = max(window.x0 - x0, 0) + max(x1 - window.x1, 0) + max(window.y0 - y0, 0) + max(y1 - window.y1, 0)
            cost = crowd.covered(x0 - 1, y0 - 1, x1 + 1, y1 + 1) + 4 * beyond + 0.05 * rank
            rank += 1
            if best is None or cost < best[0]:
                best = (cost, dx, dy)
            if cost < 0.5:
                return dx, dy
    assert best is not None
    return best[1], best[2]
