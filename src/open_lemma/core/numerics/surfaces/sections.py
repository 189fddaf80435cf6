"""Where a plane meets a surface: the curve in the plane's own lengths, how long it is, and what a closed one encloses.

The curve is found in the plane, as the places where the surface's equation holds there, and not by cutting triangles: its
places lie on both to the last digits (Newton's method, `implicit.level_curve`).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..curves.branches import Extrapolated, extrapolated, halved, joined, length_of, parted
from ..curves.implicit import PlaneGradient, level_curve
from ..curves.sampling import PaperView
from .isosurface import ImplicitField
from .mesh import Array

_PAPER_PT = (420.0, 420.0)
_CLOSED = 1e-9


@dataclass(frozen=True, slots=True)
class Plane:
    """normal . p = offset, the normal of length 1, with two directions in it, all in the lengths of space.

    A plane along an axis has the other two axes as its directions; one that stands upright runs along the floor and up.
    """

    normal: Array
    offset: float
    across: Array
    up: Array
    origin: Array

    def place(self, s: Array, t: Array) -> Any:
        """Coordinates in the plane, any shape, to three arrays."""
        return tuple(self.origin[k] + self.across[k] * s + self.up[k] * t for k in range(3))

    def within(self, places: Array) -> Array:
        """Places (n, 3) of space to coordinates (n, 2) in the plane."""
        return np.column_stack([(places - self.origin) @ self.across, (places - self.origin) @ self.up])


def plane_of(a: float, b: float, c: float, d: float) -> Plane:
    """ax + by + cz = d. Coordinates are those of space where the plane lies along axes; else counted from its place nearest
    to the origin of space."""
    normal = np.array([a, b, c], dtype=float)
    size = float(np.linalg.norm(normal))
    normal, offset = normal / size, d / size
    normal[np.abs(normal) < 1e-12] = 0.0
    alone = np.flatnonzero(normal)
    if alone.size == 1:
        k = int(alone[0])
        others = [i for i in range(3) if i != k]
        origin = np.zeros(3)
        origin[k] = offset / normal[k]
        axes = np.eye(3)
        return Plane(normal, offset, axes[others[0]], axes[others[1]], origin)
    level = np.array([-normal[1], normal[0], 0.0])
    if level[0] < 0 or (level[0] == 0 and level[1] < 0):
        level = -level
    level /= np.linalg.norm(level)
    up = np.cross(normal, level)
    up = up if up[2] >= 0 else -up
    return Plane(normal, offset, level, up, normal * offset)


def outline(plane: Plane, box: Array) -> Array:
    """The corners (k, 3) of the plane's part in a box (3, 2), in order around it; empty where it misses the box."""
    corners = np.array([[x, y, z] for x in box[0] for y in box[1] for z in box[2]])
    away = corners @ plane.normal - plane.offset
    found = []
    for i in range(8):
        for bit in (1, 2, 4):
            j = i ^ bit
            if i < j and (away[i] > 0) != (away[j] > 0):
                share = away[i] / (away[i] - away[j])
                found.append(corners[i] + share * (corners[j] - corners[i]))
    if len(found) < 3:
        return np.empty((0, 3))
    places = np.array(found)
    flat = plane.within(places)
    middle = flat.mean(axis=0)
    return places[np.argsort(np.arctan2(flat[:, 1] - middle[1], flat[:, 0] - middle[0]))]


@dataclass
class SectionCurve:
    """flat (n, 2): the curve in the plane's coordinates, branches divided by NaN; space (n, 3): the same in space.

    length, area: of all of it, and of its closed branches (one inside another counts as a hole), each with how far the last
    refinement moved it; area is None where no branch is closed
    """

    flat: Array
    space: Array
    branches: int
    closed: int
    length: Extrapolated = (0.0, 0.0)
    area: Extrapolated | None = None
    loops: list[Array] = field(default_factory=list)


def lifted(surface: ImplicitField, plane: Plane) -> ImplicitField:
    """The section as a surface of its own, over the plane's two coordinates and the same at all heights."""

    def slopes(s: Array, t: Array, up: Array) -> Any:
        found = surface.slopes(*plane.place(s, t))
        return *(sum(np.asarray(g) * a for g, a in zip(found, along, strict=True)) for along in (plane.across, plane.up)), 0.0 * up

    return ImplicitField(lambda s, t, up: surface.value(*plane.place(s, t)) + 0.0 * up, slopes)


def section_of_field(
    surface: ImplicitField, plane: Plane, box: Array, second: Callable[..., Any] | None = None, window: Array | None = None
) -> SectionCurve:
    """The section of F = 0 within a box (3, 2).

    second   the six second derivatives xx, xy, xz, yy, yz, zz, if known
    window   (2, 2): the part of the plane, in its own coordinates, where it is looked for; None where the box says it
    """
    ends = plane.within(outline(plane, box)) if window is None else window.T
    if not len(ends):
        return SectionCurve(np.empty((0, 2)), np.empty((0, 3)), 0, 0)
    view = _view(ends)
    room = 1e-9 * (box[:, 1] - box[:, 0])

    def inside(p: Any) -> Any:
        return np.logical_and.reduce([(p[k] >= box[k, 0] - room[k]) & (p[k] <= box[k, 1] + room[k]) for k in range(3)])

    def value(s: Array, t: Array) -> Array:
        return np.broadcast_to(np.asarray(surface.value(*plane.place(s, t)), dtype=float), np.shape(s))

    def slope(along: Array) -> Any:
        def found(s: Array, t: Array) -> Array:
            return np.asarray(sum(np.asarray(g) * a for g, a in zip(surface.slopes(*plane.place(s, t)), along, strict=True)), dtype=float)

        return found

    g = PlaneGradient(value, slope(plane.across), slope(plane.up), _bends(plane, second))
    level = level_curve(g, view)

    def refine(p: Array) -> Array:
        return _on_field(surface, plane, p)

    curve = _cut_off(np.column_stack([level.x, level.y]), lambda p: inside(plane.place(p[:, 0], p[:, 1])), refine)
    return _measured(curve, plane, refine)


def _cut_off(line: Array, inside: Callable[[Array], Array], refine: Callable[[Array], Array]) -> Array:
    """What of the branches lies inside, each cut at the edge itself: by bisection on the curve."""
    if not len(line):
        return line
    with np.errstate(invalid="ignore"):
        good = np.isfinite(line[:, 0])
        within = good & inside(np.nan_to_num(line))
    leaves = good[:-1] & good[1:] & (within[:-1] != within[1:])
    at = np.flatnonzero(leaves)
    first = np.where(within[at, None], line[at], line[at + 1])
    last = np.where(within[at, None], line[at + 1], line[at])
    low, high = np.zeros(len(at)), np.ones(len(at))
    for _ in range(45 if len(at) else 0):
        share = (low + high) / 2
        ok = inside(refine(first + (last - first) * share[:, None]))
        low, high = np.where(ok, share, low), np.where(ok, high, share)
    edge = refine(first + (last - first) * low[:, None])
    kept = line.copy()
    kept[~within] = np.nan
    # The end stands between the last place inside and the gap.
    return np.asarray(np.insert(kept, at + 1, edge, axis=0))


def _bends(plane: Plane, second: Callable[..., Any] | None) -> Any:
    if second is None:
        return None

    def along(p: Array, q: Array) -> Any:
        def found(s: Array, t: Array) -> Any:
            xx, xy, xz, yy, yz, zz = second(*plane.place(s, t))
            return (xx * p[0] * q[0] + yy * p[1] * q[1] + zz * p[2] * q[2] + xy * (p[0] * q[1] + p[1] * q[0])
                    + xz * (p[0] * q[2] + p[2] * q[0]) + yz * (p[1] * q[2] + p[2] * q[1]))  # fmt: skip

        return found

    return along(plane.across, plane.across), along(plane.across, plane.up), along(plane.up, plane.up)


def section_of_sheet(
    position: Callable[[Array, Array], Any], slopes: Callable[[Array, Array], Any], u: tuple[float, float], v: tuple[float, float],
    plane: Plane,
) -> SectionCurve:  # fmt: skip
    """The section of a sheet (x, y, z)(u, v); slopes gives the six derivatives xu, yu, zu, xv, yv, zv."""

    def value(a: Array, b: Array) -> Array:
        with np.errstate(all="ignore"):
            x, y, z = (np.asarray(w, dtype=float) for w in position(a, b))
            found = np.asarray(plane.normal[0] * x + plane.normal[1] * y + plane.normal[2] * z - plane.offset)
        return np.broadcast_to(found, np.shape(a))

    def slope(first: int) -> Any:
        def found(a: Array, b: Array) -> Array:
            with np.errstate(all="ignore"):
                parts = slopes(a, b)[first : first + 3]
                return np.broadcast_to(sum(np.asarray(p) * n for p, n in zip(parts, plane.normal, strict=True)), np.shape(a))

        return found

    g = PlaneGradient(value, slope(0), slope(3))
    level = level_curve(g, PaperView(u[0], u[1], v[0], v[1], *_PAPER_PT))
    params = np.column_stack([level.x, level.y])

    def flat_of(p: Array) -> Array:
        with np.errstate(all="ignore"):
            places = np.stack([np.broadcast_to(np.asarray(w, dtype=float), (len(p),)) for w in position(p[:, 0], p[:, 1])], axis=1)
        return plane.within(places)

    def refined(p: Array) -> Array:
        """Middles of the parameters moved onto the curve; what comes out is in the plane."""
        for _ in range(4):
            with np.errstate(all="ignore"):
                f, fu, fv = value(p[:, 0], p[:, 1]), g.fx(p[:, 0], p[:, 1]), g.fy(p[:, 0], p[:, 1])
                size = fu * fu + fv * fv
                share = np.nan_to_num(np.where(size > 0, f / size, 0.0))
            p = p - share[:, None] * np.column_stack([fu, fv])
        return p

    return _measured(params, plane, refined, flat_of)


def _view(flat: Array) -> PaperView:
    low, high = flat.min(axis=0), flat.max(axis=0)
    span = np.maximum(high - low, 1e-12 * max(1.0, float(np.abs(flat).max())))
    room = 0.002 * span
    size = 420.0 * span / span.max()
    return PaperView(low[0] - room[0], high[0] + room[0], low[1] - room[1], high[1] + room[1], max(size[0], 60.0), max(size[1], 60.0))


def _on_field(surface: ImplicitField, plane: Plane, p: Array) -> Array:
    for _ in range(4):
        x = plane.place(p[:, 0], p[:, 1])
        with np.errstate(all="ignore"):
            f = np.broadcast_to(np.asarray(surface.value(*x), dtype=float), (len(p),))
            slopes = [np.broadcast_to(np.asarray(g, dtype=float), (len(p),)) for g in surface.slopes(*x)]
            gs = sum(g * a for g, a in zip(slopes, plane.across, strict=True))
            gt = sum(g * a for g, a in zip(slopes, plane.up, strict=True))
            size = gs * gs + gt * gt
            share = np.nan_to_num(np.where(size > 0, f / size, 0.0))
        p = p - share[:, None] * np.column_stack([gs, gt])
    return p


def _measured(
    curve: Array, plane: Plane, refine: Callable[[Array], Array], flat_of: Callable[[Array], Array] = lambda p: p
) -> SectionCurve:
    """Branches with their lengths and areas."""
    lengths, areas, flats, loops = [], [], [], []
    branches = parted(curve)
    for branch in branches:
        if len(branch) < 2:
            flats.append(flat_of(branch))
            continue
        stages = [flat_of(s) for s in halved(branch, refine)]
        lengths.append([length_of(f) for f in stages])
        size = float(np.ptp(stages[0], axis=0).max()) or 1.0
        if np.hypot(*(stages[0][0] - stages[0][-1])) < 1e-7 * size:
            areas.append([_signed_area(f) for f in stages])
            loops.append(stages[0])
        flats.append(stages[0])
    spaces = [np.column_stack(plane.place(f[:, 0], f[:, 1])) for f in flats]
    area = _area_of(areas, loops) if loops else None
    return SectionCurve(joined(flats, 2), joined(spaces, 3), len(branches), len(loops), extrapolated(lengths), area, loops)


def _signed_area(p: Array) -> float:
    x, y = p[:, 0], p[:, 1]
    return float((x[:-1] * y[1:] - x[1:] * y[:-1]).sum() / 2)


def _area_of(areas: list[list[float]], loops: list[Array]) -> Extrapolated:
    """Loops inside of an odd number of others are holes."""
    signed = []
    for k, (stages, loop) in enumerate(zip(areas, loops, strict=True)):
        depth = sum(_inside(loop[0], other) for j, other in enumerate(loops) if j != k)
        sign = -1.0 if depth % 2 else 1.0
        signed.append([sign * abs(s) for s in stages])
    return extrapolated(signed)


def _inside(place: Array, loop: Array) -> bool:
    x, y = place
    a, b = loop[:-1], loop[1:]
    spans = (a[:, 1] > y) != (b[:, 1] > y)
    with np.errstate(all="ignore"):
        crossing = a[:, 0] + (y - a[:, 1]) / (b[:, 1] - a[:, 1]) * (b[:, 0] - a[:, 0])
    return bool((spans & (crossing > x)).sum() % 2)
