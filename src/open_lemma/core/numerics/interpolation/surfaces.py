"""Surfaces through measured points of the plane: on grids by products of curves, on scattered points by a thin plate.

They have values and slopes in floating-point numbers; nothing is proven of them.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Literal

import numpy as np
from scipy.interpolate import NdBSpline, RectBivariateSpline
from scipy.spatial import ConvexHull

from ...formula.entry import Entry
from ...formula.nodes import Apply, Formula, walk
from .curves import NotInterpolable

PlaneKind = Literal["bilinear", "bicubic", "thin-plate"]
MOST_POINTS = 4_000


@dataclass(eq=False)
class PlaneFunction:
    """A function of two variables. orders: how often it was differentiated by each."""

    name: str
    surface: Any  # with values(x, y, orders)
    orders: tuple[int, int] = (0, 0)
    _slopes: dict[int, Any] = field(default_factory=dict, repr=False)

    def __reduce__(self) -> tuple[Any, ...]:
        return PlaneFunction, (self.name, self.surface, self.orders)

    @cached_property
    def entry(self) -> Entry:
        """The function as an entry of the catalogue."""
        mark = "".join("xy"[k] * n for k, n in enumerate(self.orders))
        return Entry(
            self.name + (f"_{mark}" if mark else ""), "interpolated", (2, 2), "", "", numeric=self.numeric,
            derivative=(lambda x, y: Apply(self.slope(0).entry, (x, y)), lambda x, y: Apply(self.slope(1).entry, (x, y))), source=self,
        )  # fmt: skip

    def slope(self, by: int) -> PlaneFunction:
        """Its derivative by the first (0) or second (1) variable."""
        if by not in self._slopes:
            orders = (self.orders[0] + (by == 0), self.orders[1] + (by == 1))
            self._slopes[by] = PlaneFunction(self.name, self.surface, orders)
        found: PlaneFunction = self._slopes[by]
        return found

    def numeric(self, x: Any, y: Any) -> Any:
        a, b = np.broadcast_arrays(np.asarray(x, dtype=float), np.asarray(y, dtype=float))
        return self.surface.values(a.ravel(), b.ravel(), self.orders).reshape(a.shape)


@dataclass(eq=False)
class Grid:
    """Heights on a grid, shape (len(x), len(y)); degree 1 or 3 along each, not-a-knot."""

    x: Any
    y: Any
    heights: Any
    degree: int

    def values(self, x: Any, y: Any, orders: tuple[int, int]) -> Any:
        """Values at places (n,), differentiated so often by each variable; NaN outside of the points."""
        if max(orders) > self.degree:
            return np.zeros(len(x))
        spline = self._spline
        if orders[0] < spline.degrees[0] and orders[1] < spline.degrees[1]:
            return spline.ev(x, y, dx=orders[0], dy=orders[1])
        if orders[0] > spline.degrees[0] or orders[1] > spline.degrees[1]:
            return np.zeros(len(x))
        # The highest derivative is constant on each piece, which that routine does not give.
        tx, ty, c = spline.tck
        sizes = len(tx) - spline.degrees[0] - 1, len(ty) - spline.degrees[1] - 1
        whole = NdBSpline((tx, ty), c.reshape(sizes), spline.degrees)
        at = np.stack([np.clip(x, self.x[0], self.x[-1]), np.clip(y, self.y[0], self.y[-1])], axis=-1)
        return whole(at, nu=orders)

    @cached_property
    def _spline(self) -> Any:
        return RectBivariateSpline(self.x, self.y, self.heights, kx=min(self.degree, len(self.x) - 1), ky=min(self.degree, len(self.y) - 1))

    def __reduce__(self) -> tuple[Any, ...]:
        return Grid, (self.x, self.y, self.heights, self.degree)


@dataclass(eq=False)
class Plate:
    """The thin plate of least bending energy through points (J. Duchon, RAIRO Analyse numérique 10 (1976) 5-12).

    Places are scaled to the unit square; height = sum of weights * s*ln(s), s the squared distance, and a plane.
    """

    places: Any  # (n, 2), scaled
    weights: Any  # (n,)
    plane: Any  # (3,): constant, along x, along y
    centre: Any
    scale: Any

    @cached_property
    def _sides(self) -> Any:
        return ConvexHull(self.places).equations

    def inside(self, x: Any, y: Any) -> Any:
        """Whether places lie in the outline (the convex hull) of the points."""
        at = (np.stack(np.broadcast_arrays(np.asarray(x, dtype=float), np.asarray(y, dtype=float)), axis=-1) - self.centre) / self.scale
        sides = self._sides
        return (at @ sides[:, :2].T + sides[:, 2] <= 1e-9).all(axis=-1)

    def __reduce__(self) -> tuple[Any, ...]:
        return Plate, (self.places, self.weights, self.plane, self.centre, self.scale)

    def values(self, x: Any, y: Any, orders: tuple[int, int]) -> Any:
        """Values at places (n,), differentiated so often by each variable; NaN where there is none."""
        if sum(orders) > 2:
            return np.full(len(x), np.nan)
        # Here and not above: what compiles it is slow to load, and few scripts have a plate.
        from .thin_plate_kernels import plate_sums

        at = np.ascontiguousarray((np.stack([x, y], axis=1) - self.centre) / self.scale)
        found = np.empty(len(x))
        plate_sums(at, np.ascontiguousarray(self.places), np.ascontiguousarray(self.weights), *orders, found)
        if orders == (0, 0):
            found += self.plane[0] + at @ self.plane[1:]
        elif sum(orders) == 1:
            found += self.plane[1 + orders.index(1)]
        return found / self.scale[0] ** orders[0] / self.scale[1] ** orders[1]


def _bending(a: Any, b: Any) -> Any:
    """s*ln(s), s = a^2 + b^2."""
    s = a * a + b * b
    with np.errstate(divide="ignore", invalid="ignore"):
        return s * np.where(s > 0, np.log(s), 0.0)


def surface_through(name: str, x: Any, y: Any, z: Any, kind: PlaneKind | None) -> tuple[PlaneFunction, str, list[str]]:
    """A surface through points, what kind it is, and notes. Without a kind: bicubic where the points form a grid, else a plate.

    Raises NotInterpolable.
    """
    grid = _as_grid(x, y, z)
    if kind is None:
        kind = "bicubic" if grid is not None else "thin-plate"
    if kind == "thin-plate":
        return PlaneFunction(name, _plate(x, y, z)), kind, []
    if grid is None:
        raise NotInterpolable("no-grid", f"{kind} needs points on a full grid: each x with each y, once", "by thin-plate")
    xs, ys, heights = grid
    degree = 1 if kind == "bilinear" else 3
    notes = [f"on a grid of {len(xs)} by {len(ys)}"]
    if degree == 3 and min(len(xs), len(ys)) < 4:
        notes.append("with fewer than four places along a side the pieces along it are of a lower degree")
    return PlaneFunction(name, Grid(xs, ys, heights, degree)), kind, notes


def _as_grid(x: Any, y: Any, z: Any) -> tuple[Any, Any, Any] | None:
    xs, ys = np.unique(x), np.unique(y)
    if len(xs) * len(ys) != len(z) or min(len(xs), len(ys)) < 2:
        return None
    heights = np.full((len(xs), len(ys)), np.nan)
    heights[np.searchsorted(xs, x), np.searchsorted(ys, y)] = z
    return (xs, ys, heights) if np.isfinite(heights).all() else None


def _plate(x: Any, y: Any, z: Any) -> Plate:
    n = len(z)
    if n < 3:
        raise NotInterpolable("too-few-points", f"a surface needs at least 3 points; there are {n}")
    if n > MOST_POINTS:
        raise NotInterpolable(
            "too-many-points", f"a plate goes through at most {MOST_POINTS} points, not {n}", "take every so many, or a fit"
        )
    places = np.stack([x, y], axis=1)
    if len(np.unique(places, axis=0)) < n:
        _, first, counts = np.unique(places, axis=0, return_index=True, return_counts=True)
        twice = places[first[np.argmax(counts > 1)]]
        raise NotInterpolable(
            "repeated-x", f"the place ({twice[0]:.9g}, {twice[1]:.9g}) is given more than once; a surface has one height there",
            "take the mean of those points",
        )  # fmt: skip
    centre, scale = places.mean(0), np.ptp(places, axis=0)
    if np.linalg.matrix_rank((places - centre) / np.where(scale > 0, scale, 1.0), tol=1e-10) < 2:
        raise NotInterpolable(
            "in-line", "all points lie on one line; a surface is not determined by them", "interpolation over one variable"
        )
    scaled = (places - centre) / scale
    system = np.zeros((n + 3, n + 3))
    away = scaled[:, None, :] - scaled[None, :, :]
    system[:n, :n] = _bending(away[..., 0], away[..., 1])
    system[:n, n] = system[n, :n] = 1.0
    system[:n, n + 1 :] = scaled
    system[n + 1 :, :n] = scaled.T
    solved = np.linalg.solve(system, np.concatenate([z, np.zeros(3)]))
    return Plate(scaled, solved[:n], solved[n:], centre, scale)


def outlines(formula: Formula) -> list[Plate]:
    """Plates in a formula: what lies outside of the outline of their points is extrapolated."""
    found = [n.entry.source.surface for n in walk(formula) if isinstance(n, Apply) and isinstance(n.entry.source, PlaneFunction)]
    return [s for s in found if isinstance(s, Plate)]
