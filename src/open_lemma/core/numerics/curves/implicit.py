"""Curves given by an equation F(x, y) = 0: every branch in the window, crossings and cusps as they are.

A grid finer than what can be seen gives the branches; their places are then moved onto the curve itself by Newton steps
along the gradient, and more are put between them until the drawn line is exact. Where F and both its derivatives vanish
(a crossing, a cusp, a lone point) a grid cannot know what meets what: those places are solved for, the lines near
them are cut away, and every cut end is led to the place itself.

Method: marching squares on the grid (contourpy); Newton's method in two variables for grad F = 0. What is smaller than
a cell of the grid (about half a point on paper) may be missed.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import contourpy
import numpy as np
from numpy.typing import NDArray

from .branches import joined, runs
from .sampling import Floats, PaperView
from .scales import Scale

Field = Callable[[Floats, Floats], Floats]

_CELL_PT = 0.55
_MOST_CELLS = 1_000
_FLAT_PT = 0.04
_ON_CURVE_PT = 0.02
_ROUNDS = 7


@dataclass(frozen=True, slots=True)
class PlaneGradient:
    """F and its derivatives, each taking arrays of x and y. Second derivatives are for singular places; None if unknown."""

    f: Field
    fx: Field
    fy: Field
    second: tuple[Field, Field, Field] | None = None


@dataclass(frozen=True, slots=True)
class Level:
    """x, y: shape (n,), branches divided by NaN. `singular`: crossings, cusps and lone points, shape (m, 2)."""

    x: Floats
    y: Floats
    singular: Floats
    branches: int


def level_curve(g: PlaneGradient, view: PaperView) -> Level:
    """The places in the window of a view where F is zero."""
    return level_curves(g, view, [0.0])[0]


def level_curves(g: PlaneGradient, view: PaperView, levels: Sequence[float]) -> list[Level]:
    """For each level the places in the window of a view where F has that value."""
    xs, ys, grid = _grid(g, view)
    calm = _calm_places(g, view, xs, ys) if g.second is not None else None
    return [_level(_lowered(g, level), view, xs, ys, grid - level, calm) for level in levels]


@dataclass(frozen=True, slots=True)
class _Calm:
    """Places of the grid around which F changes least from point to point on paper, how much, and the usual change."""

    rows: NDArray[np.intp]
    columns: NDArray[np.intp]
    change: Floats
    scale: float


def _calm_places(g: PlaneGradient, view: PaperView, xs: Floats, ys: Floats) -> _Calm:
    X, Y = np.meshgrid(xs, ys)
    with np.errstate(all="ignore"):
        sx, sy = _stretch(view, np.column_stack([X.ravel(), Y.ravel()]))
        gx = np.asarray(g.fx(X, Y), dtype=float) / sx.reshape(X.shape)
        gy = np.asarray(g.fy(X, Y), dtype=float) / sy.reshape(X.shape)
        slope = np.hypot(*(np.broadcast_to(v, X.shape) for v in (gx, gy)))
        inner = slope[1:-1, 1:-1]
        least = np.ones(inner.shape, dtype=bool)
        for dy in (-1, 0, 1):
            for dx in (-1, 0, 1):
                least &= inner <= slope[1 + dy : slope.shape[0] - 1 + dy, 1 + dx : slope.shape[1] - 1 + dx]
        rows, columns = np.nonzero(least)
        return _Calm(rows, columns, inner[rows, columns], float(np.nanmedian(slope)))


def _lowered(g: PlaneGradient, level: float) -> PlaneGradient:
    return g if level == 0 else PlaneGradient(lambda x, y: g.f(x, y) - level, g.fx, g.fy, g.second)


def _level(g: PlaneGradient, view: PaperView, xs: Floats, ys: Floats, grid: Floats, calm: _Calm | None) -> Level:
    grid[grid == 0] = np.nextafter(0, 1)
    with np.errstate(all="ignore"):
        lines = contourpy.contour_generator(xs, ys, np.ma.masked_invalid(grid), corner_mask=True).lines(0.0)
    lines = [np.asarray(line, dtype=float) for line in lines if len(line) > 1]
    singular = _singular(g, view, xs, ys, grid, calm) if calm is not None else np.empty((0, 2))
    branches: list[Floats] = []
    for line in lines:
        branches += _exact(g, view, line)
    if singular.size:
        branches = _through(branches, singular, g, view)
    places = joined(branches, 2)
    return Level(places[:, 0], places[:, 1], singular, len(branches))


def _grid(g: PlaneGradient, view: PaperView) -> tuple[Floats, Floats, Floats]:
    nx = int(min(view.width_pt / _CELL_PT, _MOST_CELLS)) + 1
    ny = int(min(view.height_pt / _CELL_PT, _MOST_CELLS)) + 1
    # Off any tidy place: a curve along a grid line would else fall between two cells.
    xs = _spread(view.x_low, view.x_high, nx, view.x_scale)
    ys = _spread(view.y_low, view.y_high, ny, view.y_scale)
    with np.errstate(all="ignore"):
        grid = np.asarray(g.f(*np.meshgrid(xs, ys)), dtype=float)
        grid = np.broadcast_to(grid, (ny, nx)).copy()
    return xs, ys, grid


def _spread(low: float, high: float, count: int, scale: Scale) -> Floats:
    share = np.linspace(0, 1, count)
    share[1:-1] += 0.137 / count
    return np.asarray(scale.at(share, low, high))


def _to_pt(view: PaperView, p: Floats) -> Floats:
    return np.column_stack([view.x_pt(p[:, 0]), view.y_pt(p[:, 1])])


def _stretch(view: PaperView, p: Floats) -> tuple[Floats, Floats]:
    """Points on paper for one unit of x and of y at places."""
    return (
        view.x_scale.stretch(p[:, 0], view.x_low, view.x_high) * view.width_pt,
        view.y_scale.stretch(p[:, 1], view.y_low, view.y_high) * view.height_pt,
    )


def _onto(g: PlaneGradient, view: PaperView, p: Floats, steps: int = 6) -> tuple[Floats, Floats]:
    """Places moved onto the curve, the shortest way on paper; second value: how far from it they still are, in points."""
    p = p.copy()
    away = np.full(p.shape[0], np.inf)
    with np.errstate(all="ignore"):
        for _ in range(steps):
            sx, sy = _stretch(view, p)
            f = np.asarray(g.f(p[:, 0], p[:, 1]), dtype=float)
            gx, gy = np.asarray(g.fx(p[:, 0], p[:, 1])) / sx, np.asarray(g.fy(p[:, 0], p[:, 1])) / sy
            size = gx * gx + gy * gy
            move = np.clip(np.nan_to_num(np.where(size > 0, f / size, 0.0)), -1e300, 1e300)
            dx, dy = -move * gx, -move * gy
            away = np.where(size > 0, np.hypot(dx, dy), np.where(f == 0, 0.0, np.inf))
            # No step longer than a few cells: beyond that the straight line says nothing of the curve.
            short = np.minimum(1.0, 3.0 / np.maximum(away, 1e-300))
            p[:, 0] += dx * short / sx
            p[:, 1] += dy * short / sy
    return p, away


def _exact(g: PlaneGradient, view: PaperView, line: Floats) -> list[Floats]:
    """One branch of the grid moved onto the curve; where there is none after all (a pole) it is cut."""
    closed = bool(np.allclose(line[0], line[-1], rtol=0, atol=1e-300))
    line = _thinned(view, line)
    placed, away = _onto(g, view, line)
    moved = np.hypot(*(_to_pt(view, placed) - _to_pt(view, line)).T)
    good = (away < _ON_CURVE_PT) & (moved < 4 * _CELL_PT)
    if closed and good.all():
        placed[-1] = placed[0]
    found = []
    for run in runs(good):
        if run.stop - run.start > 1:
            found.append(_refined(g, view, placed[run]))
    return found


def _thinned(view: PaperView, line: Floats) -> Floats:
    """Places about a point apart: marching squares gives two for each cell."""
    paper = _to_pt(view, line)
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(paper, axis=0).T))])
    if along[-1] < 6:
        return line
    keep = np.unique(np.concatenate([[0], np.searchsorted(along, np.arange(1.5, along[-1], 1.5)), [line.shape[0] - 1]]))
    return np.asarray(line[np.minimum(keep, line.shape[0] - 1)])


def _refined(g: PlaneGradient, view: PaperView, p: Floats) -> Floats:
    for _ in range(_ROUNDS):
        middle = (p[:-1] + p[1:]) / 2
        placed, away = _onto(g, view, middle, 4)
        bend = np.hypot(*(_to_pt(view, placed) - _to_pt(view, middle)).T)
        at = np.flatnonzero((bend > _FLAT_PT) & (bend < 3.0) & (away < _ON_CURVE_PT))
        if not at.size:
            break
        p = np.insert(p, at + 1, placed[at], axis=0)
    return p


# ---------------------------------------------------------------- singular places


def _singular(g: PlaneGradient, view: PaperView, xs: Floats, ys: Floats, grid: Floats, calm: _Calm) -> Floats:
    """Where F and its gradient vanish together, to the last digits that doubles allow."""
    assert g.second is not None
    scale = calm.scale
    with np.errstate(all="ignore"):
        # Near such a place the gradient is small, and the curve is within reach of it.
        near = np.abs(grid[1:-1, 1:-1][calm.rows, calm.columns]) <= 2.0 * _CELL_PT * (calm.change + 0.05 * scale)
        rows, columns = calm.rows[near], calm.columns[near]
    if not rows.size or rows.size > 400:
        return np.empty((0, 2))
    p = np.column_stack([xs[columns + 1], ys[rows + 1]])
    start = p.copy()
    with np.errstate(all="ignore"):
        for _ in range(40):
            a, b, c = (np.broadcast_to(np.asarray(h(p[:, 0], p[:, 1]), dtype=float), p.shape[:1]) for h in g.second)
            u, v = (np.broadcast_to(np.asarray(h(p[:, 0], p[:, 1]), dtype=float), p.shape[:1]) for h in (g.fx, g.fy))
            # A step of least squares: at a cusp the second derivatives do not settle both directions.
            n = np.array([[a * a + b * b, a * b + b * c], [a * b + b * c, b * b + c * c]])
            r = np.array([a * u + b * v, b * u + c * v])
            damp = 1e-14 * (n[0, 0] + n[1, 1]) + 1e-300
            det = (n[0, 0] + damp) * (n[1, 1] + damp) - n[0, 1] * n[1, 0]
            dx = ((n[1, 1] + damp) * r[0] - n[0, 1] * r[1]) / det
            dy = ((n[0, 0] + damp) * r[1] - n[1, 0] * r[0]) / det
            p = p - np.nan_to_num(np.column_stack([dx, dy]))
        f = np.abs(np.asarray(g.f(p[:, 0], p[:, 1]), dtype=float))
        u, v = (np.broadcast_to(np.asarray(h(p[:, 0], p[:, 1]), dtype=float), p.shape[:1]) for h in (g.fx, g.fy))
        sx, sy = _stretch(view, p)
        steep = np.hypot(u / sx, v / sy)
    moved = np.hypot(*(_to_pt(view, p) - _to_pt(view, start)).T)
    ok = (moved < 6 * _CELL_PT) & (steep < 1e-6 * scale) & (np.broadcast_to(f, p.shape[:1]) < 1e-9 * scale * view.width_pt)
    found: list[Floats] = []
    for place in _tidied(p[ok], g, view):
        if all(np.hypot(*(_to_pt(view, place[None]) - _to_pt(view, q[None]))[0]) > 0.5 for q in found):
            found.append(place)
    return np.array(found).reshape(-1, 2)


def _tidied(places: Floats, g: PlaneGradient, view: PaperView) -> Floats:
    """Places of few digits where those fulfil F = grad F = 0 at least as well: at a cusp the steps above stop early."""
    span = np.array([view.x_high - view.x_low, view.y_high - view.y_low])
    near = np.round(places / span * 1e6) / 1e6 * span
    near = np.where(np.abs(near - np.round(near, 6)) < 1e-9 * span, np.round(near, 6), near) + 0.0

    def size(p: Floats) -> Floats:
        with np.errstate(all="ignore"):
            values = [np.abs(np.broadcast_to(np.asarray(f(p[:, 0], p[:, 1]), dtype=float), p.shape[:1])) for f in (g.f, g.fx, g.fy)]
        return np.asarray(np.maximum.reduce(values))

    return np.where((size(near) <= size(places))[:, None], near, places)


def _through(branches: list[Floats], singular: Floats, g: PlaneGradient, view: PaperView) -> list[Floats]:
    """Cut the branches near singular places, and lead each cut end to the place."""
    reach = 3.2 * _CELL_PT
    for place in singular:
        centre = _to_pt(view, place[None])[0]
        cut: list[Floats] = []
        for branch in branches:
            near = np.hypot(*(_to_pt(view, branch) - centre).T) < reach
            if not near.any():
                cut.append(branch)
                continue
            closed = bool((branch[0] == branch[-1]).all()) and not near[0]
            pieces = [branch[run] for run in runs(~near)]
            if closed and len(pieces) > 1:
                pieces = [np.concatenate([pieces[-1], pieces[0][1:]]), *pieces[1:-1]]
            for run in pieces:
                for end in (0, -1):
                    away = float(np.hypot(*(_to_pt(view, run[[end]]) - centre)[0]))
                    if away < 2.2 * reach:
                        run = _led(g, view, run, place, at_start=end == 0)
                if run.shape[0] > 1:
                    cut.append(run)
        branches = cut
    return branches


def _led(g: PlaneGradient, view: PaperView, run: Floats, place: Floats, at_start: bool) -> Floats:
    """A few places between the cut end and the singular place, on the curve, then the place itself."""
    end = run[0] if at_start else run[-1]
    share = np.array([0.25, 0.5, 0.75])[:, None]
    between = end + (place - end) * share
    placed, away = _onto(g, view, between, 12)
    shift = np.hypot(*(_to_pt(view, placed) - _to_pt(view, between)).T)
    keep = placed[(away < 0.05) & (shift < 0.6)]
    more = np.concatenate([keep, place[None]])
    return np.concatenate([more[::-1], run]) if at_start else np.concatenate([run, more])
