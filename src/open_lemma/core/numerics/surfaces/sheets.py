"""Surfaces that are sheets: a rectangle of two variables bent into space, as z = h(x, y) is and (x(u, v), y(u, v), z(u, v)).

The lines of the rectangle lie as close as the bend of the surface asks, so that no triangle is farther from it than what can
be seen. Where there is no value, and where the values jump, the edges of the grid are cut at the place itself (bisection down
to neighbouring doubles), and what lies on the two sides is not joined.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from .mesh import Array, Mesh, compact, mended_normals, unit

MOST_TRIANGLES = 200_000
_FIRST = 97  # lines each way of the first look
_FEWEST = 41
_FINEST = 24.0  # how many times closer than at the first look lines may lie
_HALVINGS = 60
_STAYS = 0.25  # of a step's height that is left when its two ends have come together: then it is a jump
_STEEP = 0.02  # of the surface's size: smaller steps between neighbours are not looked at


@dataclass(frozen=True, slots=True)
class Sheet:
    """position, normal: arrays of the two variables (n,) to three arrays (n,); the length of normals does not matter.

    u, v   the spans of the variables
    """

    position: Callable[[Array, Array], Any]
    normal: Callable[[Array, Array], Any]
    u: tuple[float, float]
    v: tuple[float, float]

    def at(self, u: Array, v: Array) -> Array:
        """Places (n, 3); NaN in all coordinates where one has no value."""
        found = _stacked(self.position(u, v), u.shape)
        found[~np.isfinite(found).all(axis=-1)] = np.nan
        return found

    def normals(self, u: Array, v: Array) -> Array:
        return unit(_stacked(self.normal(u, v), u.shape))


def _stacked(values: Any, shape: tuple[int, ...]) -> Array:
    with np.errstate(all="ignore"):
        return np.stack([np.broadcast_to(np.asarray(w, dtype=float), shape) for w in values], axis=-1).astype(float)


def first_look(sheet: Sheet, count: int = _FIRST) -> tuple[Array, Array, Array]:
    """Lines of the two variables and places (len(us), len(vs), 3)."""
    us, vs = _spread(*sheet.u, count), _spread(*sheet.v, count)
    return us, vs, _grid(sheet, us, vs)


def _spread(low: float, high: float, count: int) -> Array:
    found = np.linspace(low, high, count)
    found[-1] = high
    return found


def _grid(sheet: Sheet, us: Array, vs: Array) -> Array:
    u, v = np.meshgrid(us, vs, indexing="ij")
    return sheet.at(u.ravel(), v.ravel()).reshape(len(us), len(vs), 3)


def sheet_mesh(sheet: Sheet, scale: Array, tolerance: float, most: int = MOST_TRIANGLES, box: Array | None = None) -> Mesh:
    """Triangles no farther from the sheet than the tolerance, as far as so many suffice.

    scale      (3,): coordinates times this are lengths on paper, like the tolerance
    box        (3, 2): how it bends counts only within
    """
    us, vs, places = first_look(sheet)
    for _ in range(2):
        us, vs = _lines(us, vs, places, scale, tolerance, most, box)
        places = _grid(sheet, us, vs)
    return _Cutting(sheet, us, vs, places, scale).mesh()


def _lines(us: Array, vs: Array, places: Array, scale: Array, tolerance: float, most: int, box: Array | None) -> tuple[Array, Array]:
    seen = places * scale
    if box is not None:
        with np.errstate(invalid="ignore"):
            far = ((places < box[:, 0]) | (places > box[:, 1])).any(axis=-1)
        # A margin of one line stays, so that the cut at the box is as exact as the rest.
        inner = ~far
        inner[1:] |= ~far[:-1]
        inner[:-1] |= ~far[1:]
        inner[:, 1:] |= ~far[:, :-1]
        inner[:, :-1] |= ~far[:, 1:]
        seen = np.where(inner[..., None], seen, np.nan)
    twist = _twist(us, vs, seen, tolerance)
    wanted = [
        np.maximum(_density(us, seen, tolerance), twist / (us[-1] - us[0])),
        np.maximum(_density(vs, np.swapaxes(seen, 0, 1), tolerance), twist / (vs[-1] - vs[0])),
    ]
    counts = [_total(lines, d) for lines, d in zip((us, vs), wanted, strict=True)]
    excess = np.sqrt(2 * counts[0] * counts[1] / most)
    return tuple(_graded(lines, d, max(_FEWEST, n / max(excess, 1.0)))
                 for lines, d, n in zip((us, vs), wanted, counts, strict=True))  # fmt: skip


def _density(lines: Array, seen: Array, tolerance: float) -> Array:
    """Lines per unit that each gap between lines asks for: the distance of a chord from an arc grows with its square."""
    steps = np.diff(lines)
    left, right = np.diff(seen, axis=0)[:-1], np.diff(seen, axis=0)[1:]
    h0, h1 = steps[:-1, None, None], steps[1:, None, None]
    bend = np.linalg.norm(2 * (right / h1 - left / h0) / (h0 + h1), axis=2)  # the second derivative
    with np.errstate(all="ignore"):
        # Nearly all of a line counts; a jump that crosses it shall not draw every line to itself.
        worst = np.nan_to_num(np.nanquantile(np.where(np.isfinite(bend).any(axis=1)[:, None], bend, 0.0), 0.985, axis=1))
    needed = np.sqrt(worst / (8 * tolerance))
    needed = np.concatenate([[needed[0]], np.maximum(needed[1:], needed[:-1]), [needed[-1]]])
    even = (len(lines) - 1) / (lines[-1] - lines[0])
    needed = np.clip(needed, even * 0.25, even * _FINEST)
    # Spacings change gradually: long thin triangles are shaded badly.
    for k in range(1, len(needed)):
        needed[k] = max(needed[k], needed[k - 1] * 0.75)
    for k in range(len(needed) - 2, -1, -1):
        needed[k] = max(needed[k], needed[k + 1] * 0.75)
    return needed


def _twist(us: Array, vs: Array, seen: Array, tolerance: float) -> float:
    """Lines each way that a twist asks for: z = xy is straight along both, and yet a triangle leaves it by hu*hv/4."""
    cells = np.diff(us)[:, None, None] * np.diff(vs)[None, :, None]
    with np.errstate(invalid="ignore"):
        mixed = np.linalg.norm((seen[1:, 1:] - seen[1:, :-1] - seen[:-1, 1:] + seen[:-1, :-1]) / cells, axis=2)
    mixed = mixed[np.isfinite(mixed)]
    if not mixed.size:
        return 0.0
    whole = (us[-1] - us[0]) * (vs[-1] - vs[0])
    return float(min(np.sqrt(np.quantile(mixed, 0.985) * whole / (4 * tolerance)), 300.0))


def _total(lines: Array, density: Array) -> float:
    return float((density * np.diff(lines)).sum())


def _graded(lines: Array, density: Array, count: float) -> Array:
    along = np.concatenate([[0.0], np.cumsum(density * np.diff(lines))])
    found = np.interp(np.linspace(0, along[-1], int(np.ceil(count)) + 1), along, lines)
    found[0], found[-1] = lines[0], lines[-1]
    return found


class _Cutting:
    """From a grid of places to triangles, cut where there is no value or a jump."""

    def __init__(self, sheet: Sheet, us: Array, vs: Array, places: Array, scale: Array) -> None:
        self.sheet, self.scale = sheet, scale
        self.nu, self.nv = len(us), len(vs)
        u, v = np.meshgrid(us, vs, indexing="ij")
        self.params = np.column_stack([u.ravel(), v.ravel()])
        self.places = places.reshape(-1, 3)
        self.good = np.isfinite(self.places[:, 0])

    def mesh(self) -> Mesh:
        edges, cut, near, far = self._cuts()
        index = np.arange(self.nu * self.nv).reshape(self.nu, self.nv)
        a, b, c, d = (w.ravel() for w in (index[:-1, :-1], index[1:, :-1], index[:-1, 1:], index[1:, 1:]))
        triangles = np.concatenate([np.column_stack([a, b, d]), np.column_stack([a, d, c])])
        broken = ~self.good[triangles].all(axis=1)
        if cut.any():
            key = self._keys(edges[cut])
            order = np.argsort(key)
            key, ends = key[order], np.flatnonzero(cut)[order]
            sides = [self._keys(triangles[:, [i, (i + 1) % 3]]) for i in range(3)]
            found = [_found(key, s) for s in sides]
            broken |= (np.column_stack(found) >= 0).any(axis=1)
            torn = np.flatnonzero(broken & self.good[triangles].any(axis=1))
            where = np.column_stack([np.where(f[torn] >= 0, ends[f[torn]], -1) for f in found])
            more, pieces = self._torn(triangles[torn], where, edges, near, far)
        else:
            more, pieces = np.empty((0, 2)), np.empty((0, 3), dtype=np.int64)
        params = np.concatenate([self.params, more])
        places = np.concatenate([self.places, self.sheet.at(more[:, 0], more[:, 1])]) if len(more) else self.places
        whole = np.concatenate([triangles[~broken], pieces])
        whole = whole[np.isfinite(places[whole]).all(axis=(1, 2))]
        mesh = compact(Mesh(places, places, whole, params), whole)
        assert mesh.params is not None
        mesh.normals = self.sheet.normals(mesh.params[:, 0], mesh.params[:, 1])
        return mended_normals(mesh)

    def _keys(self, edges: Array) -> Array:
        return edges.min(axis=1).astype(np.int64) * (self.nu * self.nv) + edges.max(axis=1)

    # ------------------------------------------------------------ where edges are cut

    def _cuts(self) -> tuple[Array, Array, Array, Array]:
        """Edges (e, 2) that may be broken, which are, and for each the last params on the side of either end (e, 2)."""
        index = np.arange(self.nu * self.nv).reshape(self.nu, self.nv)
        pairs = [(index[:-1], index[1:]), (index[:, :-1], index[:, 1:]), (index[:-1, :-1], index[1:, 1:])]
        edges = np.concatenate([np.column_stack([a.ravel(), b.ravel()]) for a, b in pairs])
        good = self.good[edges]
        half = good[:, 0] != good[:, 1]
        with np.errstate(all="ignore"):
            steps = np.linalg.norm((self.places[edges[:, 1]] - self.places[edges[:, 0]]) * self.scale, axis=1)
            whole = self.places[self.good] * self.scale
            size = float(np.linalg.norm(np.quantile(whole, 0.98, axis=0) - np.quantile(whole, 0.02, axis=0))) if len(whole) else 1.0
            usual = float(np.median(steps[np.isfinite(steps)])) if np.isfinite(steps).any() else 0.0
        high = good.all(axis=1) & (steps > max(_STEEP * size, 6 * usual))
        edges, half = edges[half | high], half[half | high]
        near, far = self.params[edges[:, 0]].copy(), self.params[edges[:, 1]].copy()
        low, top = self.places[edges[:, 0]].copy(), self.places[edges[:, 1]].copy()
        with np.errstate(all="ignore"):
            start = np.linalg.norm((top - low) * self.scale, axis=1)
            for _ in range(_HALVINGS if len(edges) else 0):
                middle = (near + far) / 2
                value = self.sheet.at(middle[:, 0], middle[:, 1])
                known = np.isfinite(value[:, 0])
                to_near = np.linalg.norm((value - low) * self.scale, axis=1) <= np.linalg.norm((top - value) * self.scale, axis=1)
                # Towards the change: from value to none, or to the half with the greater step.
                move_near = np.where(half, known == np.isfinite(low[:, 0]), to_near)
                near[move_near], low[move_near] = middle[move_near], value[move_near]
                far[~move_near], top[~move_near] = middle[~move_near], value[~move_near]
            left = np.linalg.norm((top - low) * self.scale, axis=1)
        # A value that vanished half way is an edge of the domain between two places that have one.
        cut = half | ~np.isfinite(left) | (left > _STAYS * start)
        return edges, cut, near, far

    # ------------------------------------------------------------ torn triangles

    def _torn(self, triangles: Array, where: Array, edges: Array, near: Array, far: Array) -> tuple[Array, Array]:
        """Pieces of triangles with cut sides: new params (k, 2), and triangles over old and new corners."""
        first = len(self.params)
        places: dict[tuple[int, int], int] = {}
        params: list[Array] = []
        pieces: list[tuple[int, int, int]] = []

        def end(side: int, corner: int) -> int:
            """The corner at the cut of a side, on this corner's own side of it."""
            key = (side, corner)
            if key not in places:
                places[key] = first + len(params)
                params.append(near[side] if edges[side, 0] == corner else far[side])
            return places[key]

        for corners, cuts in zip(triangles.tolist(), where.tolist(), strict=True):
            good = [bool(self.good[k]) for k in corners]
            severed = [cuts[i] >= 0 for i in range(3)]
            if sum(severed) == 3 or sum(severed) == 2:
                for i in range(3):
                    before, after = cuts[i - 1], cuts[i]
                    if before >= 0 and after >= 0 and good[i]:
                        pieces.append((corners[i], end(after, corners[i]), end(before, corners[i])))
                if sum(severed) == 2:
                    i = severed.index(False)  # the whole side, from corner i to the next
                    p, q = corners[i], corners[(i + 1) % 3]
                    if good[i] and good[(i + 1) % 3]:
                        x, y = end(cuts[i - 1], p), end(cuts[(i + 1) % 3], q)
                        pieces += [(p, q, y), (p, y, x)]
            elif all(good):
                pieces.append(tuple(corners))  # a tear ends inside
        return np.array(params).reshape(-1, 2), np.array(pieces, dtype=np.int64).reshape(-1, 3)


def _found(key: Array, wanted: Array) -> Array:
    """Places of the wanted keys among sorted ones, -1 where missing."""
    at = np.minimum(np.searchsorted(key, wanted), len(key) - 1)
    return np.where(key[at] == wanted, at, -1)
