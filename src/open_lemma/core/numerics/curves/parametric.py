"""Curves of points (x(t), y(t)) sampled until the drawn line is exact to a fraction of a printed point."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from .sampling import MAX_POINTS, Floats, PaperView

Place = Callable[[Floats], tuple[Floats, Floats]]

_FIRST = 385
_FLAT_PT = 0.03
_LONG_PT = 9.0  # longer pieces are looked into though they seem straight
_ROUNDS = 40
_EDGE_ROUNDS = 60
_JUMP_PT = 0.25


@dataclass(frozen=True, slots=True)
class FollowedPath:
    """t, x, y: shape (n,), pieces divided by NaN in x and y. `complete` is False if the limit of points was met first."""

    t: Floats
    x: Floats
    y: Floats
    complete: bool
    jumps: int = 0


def first_look(function: Place, low: float, high: float) -> FollowedPath:
    """Even places, a little off even, so that a curve that repeats itself is not met at the same phase each time."""
    share = np.linspace(0.0, 1.0, _FIRST)
    share[1:-1] += 0.31 / _FIRST * np.sin(12.9898 * np.arange(1, _FIRST - 1))
    t = low + (high - low) * share
    t[0], t[-1] = low, high
    return FollowedPath(t, *_values(function, t), True)


def _values(function: Place, t: Floats) -> tuple[Floats, Floats]:
    with np.errstate(all="ignore"):
        found = function(t)
    x, y = (np.broadcast_to(np.asarray(v, dtype=np.float64), t.shape).copy() for v in found)
    bad = ~(np.isfinite(x) & np.isfinite(y))
    x[bad] = y[bad] = np.nan
    return x, y


def follow(function: Place, view: PaperView, start: FollowedPath) -> FollowedPath:
    """Between neighbouring places the straight line is within 0.1 pt of the curve wherever it was looked at.

    Where the curve is undefined, its ends are found to neighbouring parameters; where it jumps, nothing is joined.
    """
    t, x, y = start.t, start.x, start.y
    active = np.ones(t.size - 1, dtype=bool)
    complete = True
    for turn in range(_ROUNDS):
        index = np.flatnonzero(active)
        if not index.size:
            break
        if t.size + index.size > MAX_POINTS:
            complete = False
            break
        middle = t[index] + (t[index + 1] - t[index]) * (0.47 if turn % 2 else 0.53)
        mx, my = _values(function, middle)
        split: Any = _bent(view, (x[index], y[index]), (mx, my), (x[index + 1], y[index + 1]))
        split &= (middle > t[index]) & (middle < t[index + 1])
        at = index[split] + 1
        kept = np.zeros(active.size, dtype=int)
        kept[index[split]] = 1
        t, x, y = (np.insert(a, at, v[split]) for a, v in ((t, middle), (x, mx), (y, my)))
        active = np.repeat(kept == 1, 1 + kept)
    t, x, y = _to_the_ends(function, t, x, y)
    t, x, y, jumps = _broken(function, view, t, x, y)
    return FollowedPath(t, x, y, complete, jumps)


def _bent(view: PaperView, a: tuple[Floats, Floats], m: tuple[Floats, Floats], b: tuple[Floats, Floats]) -> Floats:
    (ax, ay), (mx, my), (bx, by) = ((view.x_pt(p[0]), view.y_pt(p[1])) for p in (a, m, b))
    with np.errstate(all="ignore"):
        dx, dy = bx - ax, by - ay
        length = np.hypot(dx, dy)
        along = np.clip(((mx - ax) * dx + (my - ay) * dy) / (length * length), 0.0, 1.0)
        away = np.hypot(mx - ax - along * dx, my - ay - along * dy)
        away = np.where(length == 0, np.hypot(mx - ax, my - ay), away)
        outside: Any = np.ones(ax.shape, dtype=bool)
        for px, py in ((ax, ay), (mx, my), (bx, by)):
            outside &= (px < -20) | (px > view.width_pt + 20) | (py < -20) | (py > view.height_pt + 20)
        good = np.isfinite(away)
        half = np.isfinite(ax) | np.isfinite(bx) | np.isfinite(mx)
        # Both pieces must be told apart from a point, and a long piece may hide something between its three places.
        seen = np.hypot(mx - ax, my - ay) + np.hypot(bx - mx, by - my) > 0.02
        split = good & ~outside & ((away > _FLAT_PT) | (length > _LONG_PT)) & seen
        return np.asarray(split | (~good & half & np.isfinite(mx) & ~outside))


def _to_the_ends(function: Place, t: Floats, x: Floats, y: Floats) -> tuple[Floats, Floats, Floats]:
    defined = np.isfinite(x)
    change = np.flatnonzero(defined[:-1] != defined[1:])
    if not change.size:
        return t, x, y
    inside = np.where(defined[change], t[change], t[change + 1])
    outside = np.where(defined[change], t[change + 1], t[change])
    ix, iy = (np.where(defined[change], v[change], v[change + 1]) for v in (x, y))
    for _ in range(_EDGE_ROUNDS):
        middle = inside + (outside - inside) / 2
        mx, my = _values(function, middle)
        good = np.isfinite(mx)
        inside, ix, iy = np.where(good, middle, inside), np.where(good, mx, ix), np.where(good, my, iy)
        outside = np.where(good, outside, middle)
    t, x, y = (np.insert(a, change + 1, v) for a, v in ((t, inside), (x, ix), (y, iy)))
    order = np.argsort(t, kind="stable")
    return t[order], x[order], y[order]


def _broken(function: Place, view: PaperView, t: Floats, x: Floats, y: Floats) -> tuple[Floats, Floats, Floats, int]:
    """Steps that stay however closely they are looked at are no part of the curve."""
    with np.errstate(all="ignore"):
        step = np.hypot(np.diff(view.x_pt(x)), np.diff(view.y_pt(y)))
        near = np.diff(t) < 1e-7 * max(abs(t[0]), abs(t[-1]), t[-1] - t[0])
    index = np.flatnonzero(near & (step > _JUMP_PT))[:500]
    found = []
    for k in index:
        a, b = float(t[k]), float(t[k + 1])
        for _ in range(60):
            m = a + (b - a) / 2
            if not a < m < b:
                break
            values = _values(function, np.array([a, m, b]))
            px, py = view.x_pt(values[0]), view.y_pt(values[1])
            left, right = np.hypot(px[1] - px[0], py[1] - py[0]), np.hypot(px[2] - px[1], py[2] - py[1])
            a, b = (a, m) if not left < right else (m, b)
        values = _values(function, np.array([a, b]))
        if not np.hypot(np.diff(view.x_pt(values[0])), np.diff(view.y_pt(values[1])))[0] < _JUMP_PT:
            found.append(k)
    if not found:
        return t, x, y, 0
    at = np.array(found, dtype=int) + 1
    gap = np.full(at.size, np.nan)
    return np.insert(t, at, (t[at - 1] + t[at]) / 2), np.insert(x, at, gap), np.insert(y, at, gap), len(found)
