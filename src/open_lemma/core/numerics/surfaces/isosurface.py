"""Surfaces F(x, y, z) = 0 in a box: marching cubes, then every corner moved onto the surface itself.

Method: W. E. Lorensen and H. E. Cline's cubes in the form of T. Lewiner and others (Journal of Graphics Tools 8 (2003) 1-15),
as scikit-image has it, on a grid that is worked out only near the surface; Newton steps along the gradient, on the faces of
the box along the gradient's part within the face; triangles halved until they lie close enough. What is smaller than a cell
of the first grid (a seventieth of the box) may be missed.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from skimage.measure import marching_cubes

from .mesh import Array, Mesh, compact, empty_mesh, mended_normals, together, unit

MOST_TRIANGLES = 240_000
_CELLS = 70
_STEPS = 4
_MANY_STEPS = 40
_CALM = 0.12  # of the usual change of F: where it is less, a tip may be near
_MOST_TIPS = 16
_ON = 1e-6  # of a cell: how near to the surface a corner must be to count as on it
_PARTS = ((0, 3, 5), (3, 1, 4), (5, 4, 2), (3, 4, 5))


@dataclass(frozen=True, slots=True)
class Field:
    """value, slopes: of three arrays (n,), to one array and to three."""

    value: Callable[[Array, Array, Array], Any]
    slopes: Callable[[Array, Array, Array], Any]

    def at(self, places: Array) -> Array:
        with np.errstate(all="ignore"):
            found = np.asarray(self.value(*places.T), dtype=float)
        return np.broadcast_to(found, places.shape[:1])

    def gradient(self, places: Array) -> Array:
        with np.errstate(all="ignore"):
            return np.stack([np.broadcast_to(np.asarray(g, dtype=float), places.shape[:1]) for g in self.slopes(*places.T)], axis=1)


@dataclass
class Found:
    """mesh; `touching` says whether F comes to zero without changing its sign, `false_parts` that sheets of a pole were left out."""

    mesh: Mesh
    touching: bool = False
    false_parts: bool = False


def isosurface(
    field: Field, box: Array, scale: Array, tolerance: float, most: int = MOST_TRIANGLES, cells: int = _CELLS, depth: int = 2
) -> Found:
    """The surface in a box (3, 2).

    scale   (3,): coordinates times this are lengths on paper, like the tolerance
    cells   of the grid along the longest side; depth: how often places without a gradient are looked at more closely
    """
    counts = _counts(box, scale, cells)
    axes = [np.linspace(low, high, n + 1) for (low, high), n in zip(box, counts, strict=True)]
    with np.errstate(all="ignore"):
        grid = np.asarray(field.value(*np.meshgrid(*axes, indexing="ij", sparse=True)), dtype=float)
    grid = np.broadcast_to(grid, tuple(n + 1 for n in counts)).copy()
    known = np.isfinite(grid)
    if not known.any() or grid[known].min() >= 0 or grid[known].max() <= 0:
        return Found(empty_mesh(), touching=bool(known.any()) and _touches(grid[known]))
    grid[grid == 0] = np.finfo(float).tiny  # on a corner of the grid: just beside it
    steps = np.array([(high - low) / n for (low, high), n in zip(box, counts, strict=True)])
    filled, mask = _filled(grid, known)
    try:
        places, triangles, _, _ = marching_cubes(filled, 0.0, spacing=tuple(steps), mask=mask)  # type: ignore[no-untyped-call]
    except (ValueError, RuntimeError):
        return Found(empty_mesh())
    mesh = Mesh(places.astype(float) + box[:, 0], np.zeros_like(places, dtype=float), triangles.astype(np.int32))
    found = _onto(field, mesh, box, steps, scale, tolerance, most)
    return found if depth == 0 else _with_tips(field, found, box, steps, scale, tolerance, depth)


def _with_tips(field: Field, found: Found, box: Array, steps: Array, scale: Array, tolerance: float, depth: int) -> Found:
    """Around places where the gradient vanishes (the point of a cone) the grid leaves a gap as wide as a cell: the surface there
    is worked out again in small boxes of their own, and theirs once more."""
    mesh = found.mesh
    if mesh.empty:
        return found
    size = np.linalg.norm(field.gradient(mesh.vertices) / scale, axis=1)
    calm = mesh.vertices[size < _CALM * np.median(size)]
    spots: list[Array] = []
    for place in calm:
        if all((np.abs(place - s) > 3.2 * steps).any() for s in spots):
            spots.append(place)
        if len(spots) > _MOST_TIPS:
            return found
    parts = [mesh]
    for spot in spots:
        near = calm[(np.abs(calm - spot) <= 3.2 * steps).all(axis=1)]
        middle = (near.min(axis=0) + near.max(axis=0)) / 2
        inner = np.column_stack([np.maximum(middle - 2.5 * steps, box[:, 0]), np.minimum(middle + 2.5 * steps, box[:, 1])])
        part = isosurface(field, inner, scale, tolerance, 6_000, 26, depth - 1).mesh
        if not part.empty:
            parts.append(part)
    return Found(together(parts), found.touching, found.false_parts)


def _counts(box: Array, scale: Array, cells: int) -> list[int]:
    """Cells along each side, so that they are about as long on paper."""
    lengths = (box[:, 1] - box[:, 0]) * scale
    size = lengths.max()
    return [int(np.clip(round(cells * length / size), 24, cells)) for length in lengths]


def _touches(values: Array) -> bool:
    size = np.abs(values)
    return bool(size.min() < 1e-2 * np.median(size))


def _filled(grid: Array, known: Array) -> tuple[Array, Array | None]:
    """Unknown values replaced, and a mask of the cells that have all their corners; marching cubes takes no NaN."""
    if known.all():
        return grid, None
    mask = known.copy()
    for axis in range(3):
        ahead = np.roll(mask, -1, axis)
        mask &= ahead
    return np.where(known, grid, 1.0), mask


def _onto(field: Field, mesh: Mesh, box: Array, steps: Array, scale: Array, tolerance: float, most: int) -> Found:
    cell = float((steps * scale).min())
    start = mesh.vertices.copy()
    mesh.vertices, away = _moved(field, mesh.vertices, box, scale, reach=cell)
    slow = ~(away < _ON * cell) & np.isfinite(away)
    if slow.any():
        # Where F is flat around its zeros (a power of something) each step goes only part of the way.
        mesh.vertices[slow], away[slow] = _moved(field, mesh.vertices[slow], box, scale, _MANY_STEPS, cell)
    moved = np.linalg.norm((mesh.vertices - start) * scale, axis=1)
    with np.errstate(all="ignore"):
        good = (away < _ON * cell) & (moved < 1.8 * cell)
    # A tip (a cone's point) has no gradient to move along: what came near and stayed near is kept.
    good |= (away < 0.02 * cell) & (moved < 1.0 * cell)
    kept = mesh.triangles[good[mesh.triangles].all(axis=1)]
    false_parts = bool((~good).mean() > 2e-3)
    mesh = compact(mesh, kept)
    for _ in range(4):
        if mesh.empty or len(mesh.triangles) * 4 > most or _worst(field, mesh, box, scale) < tolerance:
            break
        mesh = _halved(field, mesh, box, scale)
    mesh.normals = unit(field.gradient(mesh.vertices) / 1.0) if not mesh.empty else mesh.normals
    return Found(mended_normals(mesh), false_parts=false_parts)


def _moved(
    field: Field, places: Array, box: Array, scale: Array, steps: int = _STEPS, reach: float | None = None
) -> tuple[Array, Array]:
    """Places moved onto the surface the shortest way on paper, within the faces of the box that they lie on; and how far
    from it they still are."""
    room = 1e-9 * (box[:, 1] - box[:, 0])
    fixed = (places <= box[:, 0] + room) | (places >= box[:, 1] - room)
    places = places.copy()
    away = np.full(len(places), np.inf)
    with np.errstate(all="ignore"):
        for k in range(steps + 1):
            value = field.at(places)
            slope = np.where(fixed, 0.0, field.gradient(places) / scale)
            size = (slope * slope).sum(axis=1)
            share = np.where(size > 0, value / size, 0.0)
            move = np.nan_to_num(share[:, None] * slope)
            if reach is not None:
                length = np.linalg.norm(move, axis=1, keepdims=True)
                move *= np.minimum(1.0, reach / np.maximum(length, 1e-300))
            away = np.where(size > 0, np.linalg.norm(move, axis=1), np.where(value == 0, 0.0, np.inf))
            if k < steps:
                places = np.clip(places - move / scale, box[:, 0], box[:, 1])
    return places, np.where(np.isfinite(away), away, np.inf)


def _middles(mesh: Mesh) -> tuple[Array, Array]:
    """Edges (e, 2), and for each triangle the places of its three edges among them."""
    t = mesh.triangles
    sides = np.concatenate([t[:, [0, 1]], t[:, [1, 2]], t[:, [2, 0]]])
    edges, place = np.unique(np.sort(sides, axis=1), axis=0, return_inverse=True)
    return edges, place.reshape(3, -1).T


def _worst(field: Field, mesh: Mesh, box: Array, scale: Array) -> float:
    """How far the middles of nearly all edges lie from the surface, on paper."""
    edges, _ = _middles(mesh)
    if len(edges) > 4_000:
        edges = edges[:: len(edges) // 4_000]
    middle = mesh.vertices[edges].mean(axis=1)
    placed, away = _moved(field, middle, box, scale, 2)
    bend = np.linalg.norm((placed - middle) * scale, axis=1)
    bend = bend[np.isfinite(bend) & (away < 1.0)]
    return float(np.quantile(bend, 0.95)) if bend.size else 0.0


def _halved(field: Field, mesh: Mesh, box: Array, scale: Array) -> Mesh:
    """Each triangle as four, the new corners on the surface."""
    edges, sides = _middles(mesh)
    ends = mesh.vertices[edges]
    middle = ends.mean(axis=1)
    placed, away = _moved(field, middle, box, scale, 3)
    half = np.linalg.norm((ends[:, 1] - ends[:, 0]) * scale, axis=1) / 2
    with np.errstate(all="ignore"):
        bad = ~(np.linalg.norm((placed - middle) * scale, axis=1) < half) | ~np.isfinite(placed).all(axis=1) | ~(away < half)
    placed[bad] = middle[bad]
    first = len(mesh.vertices)
    corner = np.concatenate([mesh.triangles, sides + first], axis=1)  # corners 0-2, middles of 01, 12, 20 as 3-5
    triangles = np.concatenate([corner[:, list(part)] for part in _PARTS]).astype(np.int32)
    places = np.concatenate([mesh.vertices, placed])
    return Mesh(places, np.zeros_like(places), triangles)


def own_box(field: Field) -> tuple[Array, bool] | None:
    """A box around the whole surface, and whether it is closed in it; None where nothing is found.

    Boxes from small to large are looked at; the surface's extent in the first one that it does not leave counts. A surface
    that goes on without end gets a box in which much of it is seen.
    """
    best: tuple[Array, bool] | None = None
    for reach in (1.0, 2.0, 4.0, 8.0, 16.0, 50.0, 200.0, 1000.0):
        box = np.array([[-reach, reach]] * 3)
        axis = np.linspace(-reach, reach, 42)
        with np.errstate(all="ignore"):
            grid = np.asarray(field.value(*np.meshgrid(axis, axis, axis, indexing="ij", sparse=True)), dtype=float)
        grid = np.broadcast_to(grid, (42,) * 3)
        crossing = _crossing(grid)
        if not crossing.any():
            continue
        spots = np.argwhere(crossing)
        low, high = spots.min(axis=0), spots.max(axis=0) + 1
        if (low > 0).all() and (high < 41).all():
            ends = np.column_stack([axis[np.maximum(low - 1, 0)], axis[np.minimum(high + 1, 41)]])
            if (high - low).max() >= 6:
                return ends, True
            best = _closer(field, ends)
            if best is not None:
                return best
        elif best is None and reach >= 2.0:
            best = box, False
        if reach > 50 and best is not None:
            return best
    return best


def _crossing(grid: Array) -> Array:
    known = np.isfinite(grid)
    sign = grid > 0
    parts = [(slice(i, i - 1 or None), slice(j, j - 1 or None), slice(k, k - 1 or None)) for i in (0, 1) for j in (0, 1) for k in (0, 1)]
    some, every, there = (np.logical_or.reduce([sign[p] for p in parts]), np.logical_and.reduce([sign[p] for p in parts]),
                          np.logical_and.reduce([known[p] for p in parts]))  # fmt: skip
    return some & ~every & there


def _closer(field: Field, ends: Array) -> tuple[Array, bool] | None:
    """A small closed surface, looked at again within its first rough box."""
    axes = [np.linspace(a, b, 42) for a, b in ends]
    with np.errstate(all="ignore"):
        grid = np.broadcast_to(np.asarray(field.value(*np.meshgrid(*axes, indexing="ij", sparse=True)), dtype=float), (42,) * 3)
    spots = np.argwhere(_crossing(grid))
    if not len(spots):
        return None
    low, high = spots.min(axis=0), spots.max(axis=0) + 1
    found = np.array([[axis[max(a - 1, 0)], axis[min(b + 1, 41)]] for axis, a, b in zip(axes, low, high, strict=True)])
    return found, bool((low > 0).all() and (high < 41).all())
