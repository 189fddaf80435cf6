"""A window on space on its sheet: the box with its numbers, the picture of the surfaces, and what is drawn over it.

Numbers and texts stand outside of the box's outline, where no surface can reach.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from matplotlib import patheffects
from matplotlib.collections import LineCollection
from matplotlib.colors import to_hex, to_rgb
from matplotlib.lines import Line2D
from matplotlib.patches import Patch
from matplotlib.path import Path as MplPath
from matplotlib.transforms import Bbox

from ...numerics.curves.branches import runs
from .. import palette
from ..axes import prepare
from ..model import AxisSpec, PanelData
from ..series_marks import series_marks
from ..style import Theme
from ..things import FILLED, MARKS, colour_map, colour_norm
from .camera import Camera
from .picture import Looks, Picture, taken
from .scene import Solid

_SHORT_PT = 12.0  # an edge that is shorter on paper has no numbers
_RIM_PT = 0.8  # what the lines of the box reach beyond it
_GUESSES, _CLOSE = 12, 1e-3  # of how large the box may be, and how nearly it fills its window
_TICKS = 1.2  # how many more numbers an edge in space has than an axis in the plane of that length
_STEP_PT = 0.7  # between places of a line whose hiding is looked at
_HIDDEN = 0.28  # how strongly a line shows behind a surface
_PLANE = "#8A93A6"  # of a section, on screen and in files alike
_INK = 0.68  # share of an ink in the colour of a surface: on a full one no light is seen


@dataclass
class _Number:
    """A number or a text beside an edge, with its middle in points in the window."""

    text: str
    at: tuple[float, float]
    size: float
    half: tuple[float, float]
    turn: float = 0.0
    axis: str = ""


@dataclass
class Drawn:
    """What came of a window: camera in points from its lower left, what can be pointed at, what stands for things in a legend."""

    camera: Camera
    boxes: list[tuple[str, Any, str]] = field(default_factory=list)  # kind, artist, id of the thing
    edges: dict[str, tuple[float, float, float, float]] = field(default_factory=dict)  # room of each axis' numbers and text
    handles: list[tuple[Any, Solid]] = field(default_factory=list)


def _hull(places: Any) -> Any:
    """The convex outline of places (n, 2), closed."""
    order = sorted(map(tuple, np.asarray(places, dtype=float).tolist()))
    sides = []
    for way in (order, order[::-1]):
        side: list[Any] = []
        for p in way:
            while len(side) > 1 and (side[-1][0] - side[-2][0]) * (p[1] - side[-2][1]) <= (side[-1][1] - side[-2][1]) * (
                p[0] - side[-2][0]
            ):
                side.pop()
            side.append(p)
        sides += side[:-1]
    return np.array([*sides, sides[0]])


class SpaceWindow:
    """axes: bare ones over the window, which is `size` points large, `corner` its lower left on the sheet in points.

    measure   width and height of a text at a size of type
    legend    width and height of one that may stand in any corner; `legend_place` says in which it stands on nothing
    """

    def __init__(
        self, axes: Any, panel: PanelData, theme: Theme, grey: bool, comma: bool, size: tuple[float, float], corner: tuple[float, float],
        sheet_height: float, measure: Callable[[str, float], tuple[float, float]], legend: tuple[float, float] | None = None,
    ) -> None:  # fmt: skip
        assert panel.space is not None
        assert panel.z is not None
        self.axes, self.panel, self.scene, self.theme, self.grey, self.comma = axes, panel, panel.space, theme, grey, comma
        self.size, self.corner, self.sheet_height, self.measure = size, corner, sheet_height, measure
        self.marks = series_marks(panel.space.things, grey)
        self.specs: dict[str, AxisSpec] = {"x": panel.x, "y": panel.y, "z": panel.z}
        box = [(s.low, s.high) for s in self.specs.values()]
        scene = self.scene
        self.tones = colour_map(panel.colours.tones if panel.colours is not None else "rising", grey)
        self.camera = Camera(box, scene.proportions, scene.azimuth, scene.elevation)
        self.legend, self.legend_place = legend, None if legend is None else "upper left"
        # Axes that are drawn nowhere, for what they know of numbers: to make one takes longer than all that is asked of it.
        self.scratch: dict[str, Any] = {}
        self.known_ticks: dict[tuple[str, float], tuple[Any, list[str], str]] = {}

    def draw(self, picture_dpi: float, samples: int, opaque: bool) -> Drawn:
        """Draw the whole window: picture of the surfaces, lines, texts. Returns what stands for each thing in a legend, and the boxes."""
        axes = self.axes
        axes.set_xlim(0, self.size[0])
        axes.set_ylim(0, self.size[1])
        numbers, strokes = self._fitted()
        drawn = Drawn(self.camera)
        self._box(strokes)
        for scratch in self.scratch.values():
            scratch.remove()
        picture = self._picture(picture_dpi, samples, opaque)
        for number in numbers:
            axes.text(*number.at, number.text, fontsize=number.size, ha="center", va="center", rotation=number.turn,
                      rotation_mode="anchor", zorder=4)  # fmt: skip
        for axis in self.specs:
            mine = [n for n in numbers if n.axis == axis]
            if mine:
                drawn.edges[axis] = (
                    min(n.at[0] - n.half[0] for n in mine), min(n.at[1] - n.half[1] for n in mine),
                    max(n.at[0] + n.half[0] for n in mine), max(n.at[1] + n.half[1] for n in mine),
                )  # fmt: skip
        for solid in self.scene.things:
            handle = self._over(solid, picture, picture_dpi, drawn)
            if handle is not None:
                drawn.handles.append((handle, solid))
        return drawn

    # ------------------------------------------------------------ box and numbers

    def _fitted(self) -> tuple[list[_Number], list[tuple[Any, str]]]:
        """The camera so that the box and all its numbers fill the window, or what a legend leaves of it; numbers, and ticks with edges
        as strokes."""
        self._fit(self.size[1])
        if self.legend is not None:
            self.legend_place = self._free_corner(self.legend)
            if self.legend_place is None:
                self._fit(self.size[1] - self.legend[1])
                self.legend_place = "upper left"
        return self._numbers()

    def _fit(self, high: float) -> None:
        """The largest camera with which everything lies in the window below that height: what the numbers take jumps with their count,
        so the last of a few guesses need not be one."""
        wide = self.size[0]
        flat = self.camera.scaled(1.0, (0.0, 0.0)).project(self.camera.corners())[:, :2]
        low, top = flat.min(axis=0), flat.max(axis=0)
        factor = 0.72 * min(wide / (top[0] - low[0]), high / (top[1] - low[1]))
        best: tuple[float, tuple[float, float]] | None = None
        for guess in range(_GUESSES):
            self.camera = self.camera.scaled(factor, (0.0, 0.0))
            left, bottom, right, above = self._extent()
            box = np.ptp(self.camera.project(self.camera.corners())[:, :2], axis=0)
            # What the numbers take does not grow with the box.
            room = min((wide - (right - left - box[0])) / box[0], (high - (above - bottom - box[1])) / box[1])
            if room >= 1 - _CLOSE and (best is None or factor > best[0]):
                best = factor, (float(wide / 2 - (left + right) / 2), float(high / 2 - (bottom + above) / 2))
            if abs(room - 1) < _CLOSE or (best is not None and guess >= 5):
                break
            factor *= max(room, 0.05) * (1.0 if guess < 5 else 0.98)
        if best is None:
            best = factor, (float(wide / 2 - (left + right) / 2), float(high / 2 - (bottom + above) / 2))
        self.camera = self.camera.scaled(*best)

    def _extent(self) -> tuple[float, float, float, float]:
        """Left, bottom, right and top of the box with its numbers and texts."""
        numbers, _ = self._numbers()
        places = self.camera.project(self.camera.corners())[:, :2]
        ends = [(n.at[0] - n.half[0], n.at[1] - n.half[1], n.at[0] + n.half[0], n.at[1] + n.half[1]) for n in numbers]
        return (
            min([places[:, 0].min() - _RIM_PT, *(e[0] for e in ends)]), min([places[:, 1].min() - _RIM_PT, *(e[1] for e in ends)]),
            max([places[:, 0].max() + _RIM_PT, *(e[2] for e in ends)]), max([places[:, 1].max() + _RIM_PT, *(e[3] for e in ends)]),
        )  # fmt: skip

    def _free_corner(self, size: tuple[float, float]) -> str | None:
        """The first corner of the window in which a legend of that size stands on nothing; None where there is none."""
        (wide, high), (w, h) = self.size, size
        numbers, _ = self._numbers()
        outline = MplPath(_hull(self.camera.project(self.camera.corners())[:, :2]), closed=True)
        for place, x, y in (("upper left", 0.0, high - h), ("upper right", wide - w, high - h), ("lower left", 0.0, 0.0),
                            ("lower right", wide - w, 0.0)):  # fmt: skip
            box = Bbox.from_bounds(x, y, w, h)
            met = any(
                box.overlaps(Bbox.from_bounds(n.at[0] - n.half[0], n.at[1] - n.half[1], 2 * n.half[0], 2 * n.half[1])) for n in numbers
            )
            if not met and not outline.intersects_bbox(box, filled=True):
                return place
        return None

    def _edges(self) -> tuple[list[float], dict[str, Any]]:
        """The box's three faces behind everything, as their coordinates; and for each axis the edge of the outline that
        carries its numbers: of x and y the lowest on paper, of z the one farthest to the left."""
        camera = self.camera
        behind = [float(camera.box[k, 0] if camera.towards[k] * camera.stretch[k] > -1e-12 else camera.box[k, 1]) for k in range(3)]
        found = {}
        for k, name in enumerate("xyz"):
            i, j = (n for n in range(3) if n != k)
            outline = []
            for a in camera.box[i]:
                for b in camera.box[j]:
                    if (a == behind[i]) != (b == behind[j]):
                        edge = np.empty((2, 3))
                        edge[:, k] = camera.box[k]
                        edge[:, i], edge[:, j] = a, b
                        outline.append(edge)
            middles = [camera.project(e)[:, :2].mean(axis=0) for e in outline]
            best = int(np.argmin([m[1] for m in middles])) if name != "z" else int(np.argmin([m[0] for m in middles]))
            found[name] = outline[best]
        return behind, found

    def ticks(self, axis: str, length: float) -> tuple[Any, list[str], str]:
        """Places of the numbers of an axis of that length, what is written there, and what is written apart (a power of ten)."""
        known = self.known_ticks.get((axis, length))
        if known is None:
            spec = self.specs[axis]
            scratch = self.scratch.get(axis)
            if scratch is None:
                scratch = self.scratch[axis] = self.axes.figure.add_axes((0, 0, 0.1, 0.1), label=f"ticks {axis}")
            prepare(scratch, "y", spec, length * _TICKS * 8.0 / self.theme.type_pt, self.comma)
            places = np.asarray(scratch.yaxis.get_majorticklocs(), dtype=float)
            room = 1e-9 * (spec.high - spec.low)
            places = places[(places >= spec.low - room) & (places <= spec.high + room)]
            formatter = scratch.yaxis.get_major_formatter()
            texts = list(formatter.format_ticks(places))
            known = self.known_ticks[axis, length] = (places, texts, formatter.get_offset())
        return known

    def _numbers(self) -> tuple[list[_Number], list[tuple[Any, str]]]:
        d, camera = self.theme, self.camera
        w = d.weight
        _, edges = self._edges()
        middle = camera.project(camera.centre[None])[0, :2]
        numbers: list[_Number] = []
        strokes: list[tuple[Any, str]] = []
        for k, name in enumerate("xyz"):
            edge = edges[name]
            ends = camera.project(edge)[:, :2]
            along = ends[1] - ends[0]
            length = float(np.hypot(*along))
            if length < _SHORT_PT:
                continue
            out = np.array([-along[1], along[0]]) / length
            if (ends.mean(axis=0) - middle) @ out < 0:
                out = -out
            strokes.append((ends, "edge"))
            places, texts, apart = self.ticks(name, length)
            far = 0.0
            for place, text in zip(places, texts, strict=True):
                spot = edge[0].copy()
                spot[k] = place
                p = camera.project(spot[None])[0, :2]
                strokes.append((np.array([p, p + out * 3.2 * w]), "tick"))
                wide, high = self.measure(text, d.small_pt)
                reach = abs(out[0]) * wide / 2 + abs(out[1]) * high / 2
                at = p + out * (3.2 * w + 2.2 * w + reach)
                far = max(far, 5.4 * w + 2 * reach)
                room = wide / 2 + d.small_pt, high / 2
                if any(abs(at[0] - n.at[0]) < room[0] + n.half[0] and abs(at[1] - n.at[1]) < room[1] + n.half[1] for n in numbers):
                    continue  # where two edges meet, one number is enough
                numbers.append(_Number(text, (float(at[0]), float(at[1])), d.small_pt, (wide / 2, high / 2), axis=name))
            said = self.specs[name].text or ""
            if apart:
                said = f"{said} ({apart})" if said else apart
            if said:
                numbers.append(self._axis_text(name, said, ends.mean(axis=0), along / length, out, far))
        return numbers, strokes

    def _axis_text(self, axis: str, said: str, at: Any, along: Any, out: Any, far: float) -> _Number:
        """The text of an axis beyond its numbers; a long one runs along the edge."""
        wide, high = self.measure(said, self.theme.type_pt)
        turn = 0.0
        if wide > 30 * self.theme.weight:
            turn = float(np.degrees(np.arctan2(along[1], along[0])))
            turn = (turn + 89.9) % 180 - 89.9
            if axis == "z":
                turn = 90.0
        c, s = abs(np.cos(np.radians(turn))), abs(np.sin(np.radians(turn)))
        half = (wide * c + high * s) / 2, (wide * s + high * c) / 2
        reach = high / 2 if turn else abs(out[0]) * half[0] + abs(out[1]) * half[1]
        place = at + out * (far + 2.5 * self.theme.weight + reach)
        return _Number(said, (float(place[0]), float(place[1])), self.theme.type_pt, half, turn, axis)

    def _box(self, strokes: list[tuple[Any, str]]) -> None:
        """The faces behind everything with thin lines at the numbers, their borders, the edges with ticks."""
        camera, w = self.camera, self.theme.weight
        if self.panel.frame:
            behind, edges = self._edges()
            border, lines = [], []
            for k in range(3):
                i, j = (n for n in range(3) if n != k)
                for along, other in ((i, j), (j, i)):
                    for at in camera.box[other]:
                        border.append(self._stroke(k, behind[k], along, other, at))
                    name = "xyz"[other]
                    length = float(np.hypot(*np.diff(camera.project(edges[name])[:, :2], axis=0)[0]))
                    if self.panel.gridlines and length >= _SHORT_PT:
                        lines += [self._stroke(k, behind[k], along, other, t) for t in self.ticks(name, length)[0]]
            self._lines(lines, palette.FAINT, 0.35 * w, 1.0)
            self._lines(border, "#A9ABA8", 0.4 * w, 1.1)
        if self.panel.frame:
            self._lines([s for s, _ in strokes], palette.LINE, 0.5 * w, 1.2)

    def _stroke(self, face: int, coordinate: float, along: int, other: int, at: float) -> Any:
        ends = np.empty((2, 3))
        ends[:, face], ends[:, other], ends[:, along] = coordinate, at, self.camera.box[along]
        return self.camera.project(ends)[:, :2]

    def _lines(self, lines: list[Any], colour: str, width: float, zorder: float) -> None:
        if lines:
            self.axes.add_collection(LineCollection(lines, colors=colour, linewidths=width, zorder=zorder, capstyle="round"), autolim=False)

    # ------------------------------------------------------------ picture

    def looks(self) -> Looks:
        """How each surface is coloured and lined."""
        share = None
        if self.panel.colours is not None:
            norm = colour_norm(self.panel.colours)

            def share(values: Any) -> Any:
                with np.errstate(all="ignore"):
                    return np.ma.filled(norm(values), np.nan)

        return Looks(self.theme, self.grey, share, self.tones(np.linspace(0, 1, 256))[:, :3], solid_colour)

    def _picture(self, dpi: float, samples: int, opaque: bool) -> Picture | None:
        """The surfaces, on the grid of pixels of the whole sheet, so that no pixel is mixed from its neighbours."""
        per_point = dpi / 72
        x0, y0 = self.corner
        left, low = int(np.floor(x0 * per_point)), int(np.floor(y0 * per_point))
        bottom_up = round(self.sheet_height * per_point) - self.sheet_height * per_point  # rows are counted from the sheet's top
        wide, high = int(np.ceil(self.size[0] * per_point)) + 1, int(np.ceil(self.size[1] * per_point)) + 1
        origin = ((x0 + self.camera.origin[0]) * per_point - left, (y0 + self.camera.origin[1]) * per_point + bottom_up - low)
        camera = self.camera.scaled(self.camera.factor * per_point, origin)
        picture = taken(self.scene, camera, (wide, high), per_point, self.looks(), samples)
        if picture is None:
            return None
        pixels = picture.pixels
        if opaque:
            covered = pixels[..., 3] >= 128
            cover = pixels[..., 3:] / 255.0
            pixels = np.round(pixels[..., :3] * cover + 255 * (1 - cover)).astype(np.uint8)
        x = (left + picture.left) / per_point - x0
        top = (low + high - picture.top - bottom_up) / per_point - y0
        rows, columns = pixels.shape[:2]
        extent = (x, x + columns / per_point, top - rows / per_point, top)
        image = self.axes.imshow(pixels, extent=extent, interpolation="none", aspect="auto", zorder=2, resample=False, clip_on=opaque)
        if opaque:
            # A picture that knows no transparency is cut along its outline, so that it hides no more than the surface does.
            image.set_clip_box(None)
            image.set_clip_path(_outline(covered, extent), transform=self.axes.transData)
        self.axes.set_xlim(0, self.size[0])
        self.axes.set_ylim(0, self.size[1])
        self.extent = extent
        self.hiding = _farthest_around(picture.depth)
        return picture

    def hidden(self, paper: Any, dpi: float, picture: Picture | None) -> Any:
        """Which places (n, 3) on paper lie behind a surface."""
        if picture is None:
            return np.zeros(len(paper), dtype=bool)
        per_point = dpi / 72
        with np.errstate(invalid="ignore"):
            column = np.nan_to_num(np.floor((paper[:, 0] - self.extent[0]) * per_point), nan=-1).astype(int)
            row = np.nan_to_num(np.floor((self.extent[3] - paper[:, 1]) * per_point), nan=-1).astype(int)
        rows, columns = self.hiding.shape
        inside = (column >= 0) & (column < columns) & (row >= 0) & (row < rows)
        deep = np.full(len(paper), -np.inf)
        deep[inside] = self.hiding[row[inside], column[inside]]
        return paper[:, 2] * per_point < deep - 1.0

    # ------------------------------------------------------------ over the picture

    def _over(self, solid: Solid, picture: Picture | None, dpi: float, drawn: Drawn) -> Any:
        colour = palette.GREY if self.grey else solid_colour(solid)
        w = self.theme.weight
        if solid.kind in ("surface", "plane"):
            if not solid.label:
                return None
            face = self.tones(0.45) if solid.scaled else colour
            if solid.opacity == 0:
                return Line2D([], [], color=face, linewidth=0.8 * w)
            return Patch(facecolor=face, edgecolor=palette.LINE, linewidth=0.3 * w, alpha=solid.opacity if solid.opacity < 1 else None)
        if solid.kind == "path":
            return self._path(solid, picture, dpi, colour)
        paper = self.camera.project(solid.shape.vertices)
        behind = self.hidden(paper, dpi, picture)
        if solid.kind == "points":
            return self._points(solid, paper, behind, colour)
        self._written(solid, paper, drawn)
        return None

    def _path(self, solid: Solid, picture: Picture | None, dpi: float, colour: str) -> Any:
        places, tints = _refined(self.camera, solid, _STEP_PT)
        paper = self.camera.project(places)
        behind = self.hidden(paper, dpi, picture)
        pieces = np.stack([paper[:-1, :2], paper[1:, :2]], axis=1)
        good = np.isfinite(pieces).all(axis=(1, 2))
        back = behind[:-1] | behind[1:]
        dashes = palette.DASHES[solid.dash] if solid.dash else self.marks.dashes.get(solid.id, ())
        width = solid.width * self.theme.weight
        shades: Any = None
        if tints is not None and self.panel.colours is not None and not self.grey:
            shades = self.tones(colour_norm(self.panel.colours)((tints[:-1] + tints[1:]) / 2))
        handle = None
        for hidden in (True, False):
            chosen = good & (back == hidden)
            if not chosen.any():
                continue
            if hidden and solid.what == "floor":
                continue  # many lines seen through a surface would hide it
            share = solid.opacity * (_HIDDEN if hidden else 1.0)
            if shades is not None:
                for run in runs(chosen):
                    lines = LineCollection(list(pieces[run]), colors=shades[run], linewidths=width, zorder=2.6, capstyle="round",
                                           alpha=share if share < 1 else None)  # fmt: skip
                    self.axes.add_collection(lines, autolim=False)
                continue
            whole = [np.concatenate([pieces[run][:, 0], pieces[run][-1:, 1]]) for run in runs(chosen)]
            lines = LineCollection(whole, colors=colour, linewidths=width, zorder=2.6, alpha=share if share < 1 else None,
                                   capstyle="butt" if dashes else "round", joinstyle="round")  # fmt: skip
            if dashes:
                lines.set_linestyle((0, tuple(v * 1.0 for v in dashes)))
            lines.set_gid(f"{solid.id}-behind" if hidden else solid.id)
            self.axes.add_collection(lines, autolim=False)
        handle = Line2D([], [], color=colour, linewidth=width)
        if dashes:
            handle.set_dashes(dashes)
        return handle

    def _points(self, solid: Solid, paper: Any, behind: Any, colour: str) -> Any:
        d = self.theme
        marker = solid.marker or self.marks.markers.get(solid.id, "dot")
        filled = marker in FILLED
        look: dict[str, Any] = {
            "linestyle": "none", "marker": MARKS[marker] or "o", "markersize": solid.size * d.marks,
            "markerfacecolor": colour if filled else palette.PAPER, "markeredgecolor": colour,
            "markeredgewidth": 0.0 if filled else 0.9 * d.weight,
        }  # fmt: skip
        tints = solid.shape.tints
        # Far ones first, so that near ones lie upon them.
        order = np.argsort(paper[:, 2], kind="stable")
        for hidden in (True, False):
            chosen = order[(behind == hidden)[order]]
            if not chosen.size:
                continue
            share = solid.opacity * (_HIDDEN if hidden else 1.0)
            if tints is not None and self.panel.colours is not None and not self.grey:
                self.axes.scatter(
                    paper[chosen, 0], paper[chosen, 1], c=tints[chosen], cmap=self.tones, norm=colour_norm(self.panel.colours),
                    s=look["markersize"] ** 2, marker=look["marker"], zorder=3, linewidths=0.25 * d.weight, edgecolors=palette.LINE,
                    alpha=share if share < 1 else None,
                )  # fmt: skip
            else:
                self.axes.plot(paper[chosen, 0], paper[chosen, 1], zorder=3, alpha=share if share < 1 else None, **look)
        handle = Line2D([], [], **look)
        return handle

    def _written(self, solid: Solid, paper: Any, drawn: Drawn) -> None:
        d = self.theme
        colour = solid.colour or palette.LINE
        for spot in paper:
            if solid.kind == "mark":
                self.axes.plot(spot[:1], spot[1:2], "o", markersize=solid.spot * d.marks, color=colour, markeredgecolor=palette.PAPER,
                               markeredgewidth=0.5 * d.weight, zorder=4.5)  # fmt: skip
                size = d.small_pt * 0.92
                said = solid.text or ""
                text = self.axes.annotate(
                    f"\u2009{said}\u2009" if len(said) == 1 else said, spot[:2], (9 * d.marks, 11 * d.marks), textcoords="offset points",
                    ha="center", va="center_baseline", fontsize=size, color=palette.PAPER, zorder=6, annotation_clip=False,
                    bbox={"boxstyle": "square,pad=0.28", "facecolor": colour, "edgecolor": palette.PAPER, "linewidth": 0.6 * d.weight},
                    arrowprops={"arrowstyle": "-", "linewidth": 0.5 * d.weight, "color": colour, "shrinkA": 0, "shrinkB": 1.5},
                )  # fmt: skip
                drawn.boxes.append(("mark", text, solid.id))
            else:
                dx, dy = {"above": (0, 1), "below": (0, -1), "left": (-1, 0), "right": (1, 0)}.get(solid.side or "", (0, 0))
                text = self.axes.annotate(
                    solid.text or "", spot[:2], (4 * dx, 4 * dy), textcoords="offset points", color=colour, zorder=5,
                    ha={-1: "right", 0: "center", 1: "left"}[dx], va={-1: "top", 0: "center", 1: "bottom"}[dy],
                    fontsize=solid.size * d.small_pt / 7.0, alpha=solid.opacity if solid.opacity < 1 else None,
                )  # fmt: skip
                text.set_path_effects([patheffects.withStroke(linewidth=2.0 * d.weight, foreground=palette.PAPER)])
                drawn.boxes.append(("text", text, solid.id))
            text.set_gid(solid.id)


def _outline(covered: Any, extent: tuple[float, float, float, float]) -> MplPath:
    """The pixels of a mask (rows, columns) as a path: a rectangle for each run of a row; rows alike beneath each other share theirs."""
    left, right, low, high = extent
    rows, columns = covered.shape
    across, up = (right - left) / columns, (high - low) / rows
    done: list[tuple[int, int, int, int]] = []  # first row, row after the last, first column, column after the last
    open_runs: dict[tuple[int, int], int] = {}
    for row in range(rows + 1):
        runs: list[tuple[int, int]] = []
        if row < rows:
            steps = np.flatnonzero(np.diff(np.concatenate([[0], covered[row].astype(np.int8), [0]])))
            runs = list(zip(steps[::2].tolist(), steps[1::2].tolist(), strict=True))
        done += [(first, row, *run) for run, first in open_runs.items() if run not in runs]
        open_runs = {run: open_runs.get(run, row) for run in runs}
    corners, codes = [], []
    for first, last, start, end in done:
        x, y = (left + start * across, left + end * across), (high - last * up, high - first * up)
        corners += [(x[0], y[0]), (x[1], y[0]), (x[1], y[1]), (x[0], y[1]), (x[0], y[0])]
        codes += [MplPath.MOVETO, MplPath.LINETO, MplPath.LINETO, MplPath.LINETO, MplPath.CLOSEPOLY]
    return MplPath(corners or [(left, low)], codes or [MplPath.MOVETO])


def _farthest_around(depth: Any) -> Any:
    """Of each pixel and its neighbours the depth farthest from the viewer: a line on a surface is not hidden by it."""
    padded = np.pad(depth, 1, constant_values=-np.inf)
    rows = np.minimum(np.minimum(padded[:-2], padded[1:-1]), padded[2:])
    return np.minimum(np.minimum(rows[:, :-2], rows[:, 1:-1]), rows[:, 2:])


def solid_colour(solid: Solid) -> str:
    """The colour of a thing in space: as it was said, or that of its place in the order."""
    if solid.colour is None and solid.kind == "plane":
        return _PLANE
    if solid.colour is None and solid.kind == "surface":
        return to_hex(np.asarray(to_rgb(palette.ink(solid.place).code)) * _INK + (1 - _INK))
    return solid.colour or (palette.LINE if solid.kind in ("text", "mark") else palette.ink(solid.place).code)


def _refined(camera: Camera, solid: Solid, step: float) -> tuple[Any, Any]:
    """Places of a line no farther apart on paper than a step, with their tints."""
    places = solid.shape.vertices.astype(np.float64)
    tints = None if solid.shape.tints is None else solid.shape.tints.astype(np.float64)
    paper = camera.project(places)[:, :2]
    with np.errstate(invalid="ignore"):
        counts = np.ceil(np.nan_to_num(np.hypot(*np.diff(paper, axis=0).T)) / step)
    counts = np.clip(counts, 1, 4_000).astype(int)
    if len(places) < 2 or counts.max() == 1:
        return places, tints
    start = np.repeat(np.arange(len(counts)), counts)
    share = (np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)) / np.repeat(counts, counts)

    def between(values: Any) -> Any:
        part = share if values.ndim == 1 else share[:, None]
        inner = np.where(part == 0, values[start], values[start] * (1 - part) + values[start + 1] * part)
        return np.concatenate([inner, values[-1:]])

    return between(places), None if tints is None else between(tints)
