"""Stationary places of a function of two variables that has no bounds to prove anything by (a surface through measured points).

Two grids that do not fall together each tell in which cells both slopes change their signs; Newton's method goes on from there.
Places that both grids lead to are *checked*; a place that only one of them led to makes the whole list *open*.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from ...formula.calculus import NoDerivative, derivative
from ...formula.certain import certain_value
from ...formula.nodes import Formula
from ...formula.tape import Tape
from ..roots.search import NotSearchable
from .stationary import Ends, Kind, Landscape, Stationary

_GRIDS = (141, 199)
_STEPS = 40
_SAME = 1e-7  # of the window: places nearer to each other are one
_NONE = ("", "")  # no interval is known


def scanned_places(formula: Formula, names: Sequence[str], ends: Ends) -> Landscape:
    """Minima, maxima and saddles inside, and the lowest and highest places along the border. Raises NotSearchable."""
    return _Scan(formula, names, ends).landscape()


class _Scan:
    def __init__(self, formula: Formula, names: Sequence[str], ends: Ends) -> None:
        x, y = names
        try:
            first = [derivative(formula, n) for n in names]
            second = [derivative(first[0], x), derivative(first[0], y), derivative(first[1], y)]
        except NoDerivative as missing:
            raise NotSearchable(f"there is no derivative by rule of {missing}") from None
        self.names = (x, y)
        self.tape = Tape([formula, *first, *second], names)
        self.low = np.array([certain_value(a).value for a, _ in ends])
        self.high = np.array([certain_value(b).value for _, b in ends])
        if not (np.isfinite(self.low).all() and np.isfinite(self.high).all() and (self.low < self.high).all()):
            raise NotSearchable("each window must run from a lower to a higher finite number")
        self.span = self.high - self.low

    def at(self, p: Any) -> Any:
        """Value, slopes and second derivatives at places (n, 2), as (6, n)."""
        found = self.tape.numeric(p[:, 0], p[:, 1])
        return np.stack([np.broadcast_to(np.asarray(v, dtype=float), (len(p),)) for v in found])

    def landscape(self) -> Landscape:
        with np.errstate(all="ignore"):
            looks = [self._inside(n) for n in _GRIDS]
            border = [self._border(n) for n in _GRIDS]
        agreed = _alike(looks[0], looks[1], self.span) and _alike(border[0], border[1], self.span)
        places = [self._place(p, agreed) for p in _together(looks, self.span)]
        for p in _together(border, self.span):
            found = self._on_border(p, agreed)
            if found is not None:
                places.append(found)
        if agreed:
            places = _with_ends(places)
        notes = ["no bounds are known of this function: found by two grids and Newton's method"]
        if not agreed:
            notes.append("the two grids do not agree: places may be missing")
        return Landscape(places, 0 if agreed else 1, sum(n * n for n in _GRIDS), notes)

    # ------------------------------------------------------------ inside

    def _inside(self, n: int) -> Any:
        sides = [np.linspace(a, b, n) for a, b in zip(self.low, self.high, strict=True)]
        u, v = np.meshgrid(*sides, indexing="ij")
        slopes = self.at(np.column_stack([u.ravel(), v.ravel()]))[1:3].reshape(2, n, n)
        both = np.ones((n - 1, n - 1), dtype=bool)
        for s in slopes:
            parts = np.stack([s[:-1, :-1], s[1:, :-1], s[:-1, 1:], s[1:, 1:]])
            both &= (parts.min(axis=0) <= 0) & (parts.max(axis=0) >= 0)
        i, j = np.nonzero(both)
        if not i.size:
            return np.empty((0, 2))
        start = np.column_stack([(sides[0][i] + sides[0][i + 1]) / 2, (sides[1][j] + sides[1][j + 1]) / 2])
        p = start.copy()
        cell = self.span / (n - 1)
        moved = np.full(len(p), np.inf)
        for _ in range(_STEPS):
            _, fx, fy, a, b, c = self.at(p)
            det = a * c - b * b
            step = np.column_stack([(c * fx - b * fy) / det, (a * fy - b * fx) / det])
            step = np.where(np.isfinite(step), step, 0.0)
            size = np.abs(step / cell).max(axis=1, keepdims=True)
            step = step / np.maximum(size, 1.0)
            p = p - step
            moved = np.abs(step / self.span).max(axis=1)
        near = (np.abs(p - start) <= 4 * cell).all(axis=1) & (moved < 1e-10)
        inside = ((p > self.low) & (p < self.high)).all(axis=1)
        return _distinct(p[near & inside], self.span)

    def _place(self, p: Any, agreed: bool) -> Stationary:
        value, _, _, a, b, c = (float(v) for v in self.at(p[None])[:, 0])
        det = a * c - b * b
        flat = abs(det) * float(self.span.prod()) ** 2 <= 1e-9 * max(abs(a), abs(c)) ** 2 * float(self.span.max()) ** 4
        kind: Kind = "undecided" if flat else "saddle" if det < 0 else "minimum" if a > 0 else "maximum"
        return Stationary((float(p[0]), float(p[1])), (_NONE, _NONE), value, _NONE, kind, "checked" if agreed else "open")

    # ------------------------------------------------------------ border

    def _border(self, n: int) -> Any:
        """Places on the four sides where the slope along the side vanishes, and the corners."""
        found = [np.array([[x, y] for x in (self.low[0], self.high[0]) for y in (self.low[1], self.high[1])])]
        for k in (0, 1):
            other = 1 - k
            for end in (self.low[other], self.high[other]):
                t = np.linspace(self.low[k], self.high[k], n)

                def along(t: Any, k: int = k, other: int = other, end: float = end) -> Any:
                    p = np.empty((len(t), 2))
                    p[:, k], p[:, other] = t, end
                    return p

                slope = self.at(along(t))[1 + k]
                at = np.flatnonzero((slope[:-1] < 0) != (slope[1:] < 0))
                a, b = t[at].copy(), t[at + 1].copy()
                rising = slope[at] < 0
                for _ in range(60):
                    middle = (a + b) / 2
                    before = (self.at(along(middle))[1 + k] < 0) == rising
                    a, b = np.where(before, middle, a), np.where(before, b, middle)
                found.append(along((a + b) / 2))
        return np.concatenate(found)

    def _on_border(self, p: Any, agreed: bool) -> Stationary | None:
        """A minimum or maximum among the places around it in the box, or nothing."""
        value = float(self.at(p[None])[0, 0])
        reach = 1e-4 * self.span
        around = np.array([[a, b] for a in (-1, -0.5, 0, 0.5, 1) for b in (-1, -0.5, 0, 0.5, 1) if a or b]) * reach + p
        around = around[((around >= self.low) & (around <= self.high)).all(axis=1)]
        near = self.at(around)[0]
        room = 1e-12 * max(abs(value), 1e-300)
        kind: Kind
        if (near > value - room).all() and (near > value).any():
            kind = "minimum"
        elif (near < value + room).all() and (near < value).any():
            kind = "maximum"
        else:
            return None
        sides = [f"{name} = {end:.9g}" for name, v, *ends in zip(self.names, p, self.low, self.high, strict=True) for end in ends
                 if abs(v - end) <= 1e-12 * max(abs(end), 1.0)]  # fmt: skip
        return Stationary((float(p[0]), float(p[1])), (_NONE, _NONE), value, _NONE, kind, "checked" if agreed else "open", ", ".join(sides))


def _with_ends(places: list[Stationary]) -> list[Stationary]:
    """The lowest of the minima and the highest of the maxima marked as such."""
    for kind, sign in (("minimum", 1), ("maximum", -1)):
        mine = [p.value for p in places if p.kind == kind]
        if mine:
            best = min(mine, key=lambda v: sign * v)
            places = [replace(p, overall=True) if p.kind == kind and p.value == best else p for p in places]
    return places


def _distinct(places: Any, span: Any) -> Any:
    kept: list[Any] = []
    for p in places:
        if all((np.abs(p - q) > _SAME * span).any() for q in kept):
            kept.append(p)
    return np.array(kept).reshape(-1, 2)


def _together(looks: list[Any], span: Any) -> Any:
    return _distinct(np.concatenate(looks), span)


def _alike(one: Any, other: Any, span: Any) -> bool:
    one, other = _distinct(one, span), _distinct(other, span)
    return len(one) == len(other) == len(_together([one, other], span))
