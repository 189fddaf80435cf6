"""That no other values within the limits fit better: branch and bound over the parameters that do not enter linearly.

On a box of those parameters the linear ones lie in balls, c = c0 + (P'P)^-1 P'(f - P c0) with P the basis on the box, and the
least sum of squares there is bounded from below by what the residuals u at the middle of the box see of it: for each place
|f - P c| >= u'(f - P c)/|u| (Cauchy and Schwarz), whose slope vanishes where the sum of squares has none. A box is also done
with where the sum of squares certainly falls or rises through it, and where its second derivatives have positive pivots on
all of it and on the way to the minimum, which then is the only one there.
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass
from typing import Any

import numpy as np
from flint import arb, arb_mat

from ...formula.ball import Undefined, precision
from ...formula.calculus import derivative
from ...formula.certain import nearest_double
from ...formula.tape import NoBall, Tape
from .model import Model
from .polish import MinimumProof, Normal, NotProven, positive

MOST_NONLINEAR = 3
MOST_ROWS = 100_000  # rows worked through in balls, over all boxes
ROOM = 1e-8  # of the sum of squares: what lies lower by less is not told apart
_BITS = 64
_NARROW = 1e-7  # of the limits: boxes are not halved beyond that


@dataclass(frozen=True, slots=True)
class Bounded:
    """proven: no place within the limits has a sum of squares lower by more than ROOM. boxes: how many were looked at.

    left  the part where that is not known, as one span a parameter; None where proven
    """

    proven: bool
    boxes: int
    left: list[tuple[float, float]] | None = None


def within_limits(model: Model, normal: Normal, limits: Any, proof: MinimumProof) -> Bounded | None:
    """Whether a proven minimum is the least one within `limits` (k, 2) of the nonlinear parameters.

    None where this is not tried: more than three of them, an endless limit, a minimum on a limit, too many rows.
    """
    names = model.nonlinear
    at = np.array([nearest_double(proof.values[model.parameters.index(a)]) for a in names])
    rows = len(normal.rows)
    if not 1 <= len(names) <= MOST_NONLINEAR or not np.isfinite(limits).all() or rows * 40 > MOST_ROWS:
        return None
    if not ((limits[:, 0] < at) & (at < limits[:, 1])).all():
        return None
    try:
        with precision(_BITS):
            return _LeastSquaresSearch(model, normal, limits, at, proof).run()
    except (Undefined, NoBall):
        return None


class _LeastSquaresSearch:
    def __init__(self, model: Model, normal: Normal, limits: Any, at: Any, proof: MinimumProof) -> None:
        self.model, self.normal, self.limits, self.at, self.values = model, normal, limits, at, proof.values
        self.goal = float(proof.squares.upper()) * (1 - ROOM)
        q, k = len(model.linear), len(model.nonlinear)
        slopes = [derivative(f, a) for f in model.coefficients for a in model.nonlinear]
        self.tape = Tape([*model.coefficients, *slopes], [*model.predictors, *model.nonlinear])
        self.q, self.k, self.n = q, k, len(normal.rows)
        self.roots = None if normal.weights is None else [w.sqrt() for w in normal.weights]
        self.scale = limits[:, 1] - limits[:, 0]

    def run(self) -> Bounded:
        # The widest boxes first, so that what is left at the end is small.
        waiting = deque([[(float(a), float(b)) for a, b in self.limits]])
        done = []
        boxes = 0
        while waiting and boxes * self.n <= MOST_ROWS:
            box = waiting.popleft()
            boxes += 1
            low, slopes, edge = self._bound(box)
            if low >= self.goal:
                continue
            if edge is not None:
                waiting.appendleft([(edge[1], edge[1]) if i == edge[0] else side for i, side in enumerate(box)])
                continue
            j = int(np.argmax([(b - a) / s * w for (a, b), s, w in zip(box, self.scale, slopes, strict=True)]))
            if box[j][1] - box[j][0] < _NARROW * self.scale[j]:
                done.append(box)
                continue
            middle = (box[j][0] + box[j][1]) / 2
            waiting += [[part if i == j else side for i, side in enumerate(box)] for part in ((box[j][0], middle), (middle, box[j][1]))]
        rest = [*done, *waiting]
        spans = [(min(b[j][0] for b in rest), max(b[j][1] for b in rest)) for j in range(self.k)] if rest else None
        return Bounded(not rest, boxes, spans)

    # ------------------------------------------------------------ one box

    def _bound(self, box: list[tuple[float, float]]) -> tuple[float, list[float], tuple[int, float] | None]:
        """A lower bound of the sum of squares on a box (infinite where it is done with), how much each side matters, and the
        side on a limit that alone needs to be looked at."""
        flat = [1.0] * self.k
        wide = [arb(a).union(arb(b)) for a, b in box]
        middle = [arb((a + b) / 2) for a, b in box]
        try:
            found = self._best(wide, middle)
        except (NotProven, ZeroDivisionError):
            return 0.0, flat, None
        if found is None:
            return 0.0, flat, None
        low, slopes, falling, linear = found
        if low >= self.goal:
            return np.inf, flat, None
        for j, sign in falling:
            a, b = box[j]
            if a == b:
                continue
            # Downhill all the way through: the least value is not here, unless a limit ends the way.
            end, limit = (a, self.limits[j, 0]) if sign > 0 else (b, self.limits[j, 1])
            return (low, slopes, (j, end)) if end == limit else (np.inf, flat, None)
        return (np.inf, flat, None) if low > 0.05 * self.goal and self._convex(box, linear) else (low, slopes, None)

    def _table(self, place: list[Any]) -> tuple[Any, Any, list[Any], list[Any]] | None:
        """Basis (n, q), what it is to follow (n, 1), and the slopes of both along each parameter."""
        q, k, n = self.q, self.k, self.n
        basis: list[Any] = []
        follow: list[Any] = []
        steep: list[list[Any]] = [[] for _ in range(k)]
        away: list[list[Any]] = [[] for _ in range(k)]
        for i, row in enumerate(self.normal.rows):
            values = list(self.tape.ball(*row, *place))
            if not all(v.is_finite() for v in values):
                return None
            if self.roots is not None:
                values = [v * self.roots[i] for v in values]
                y = self.normal.y[i, 0] * self.roots[i]
            else:
                y = self.normal.y[i, 0]
            basis += values[:q]
            follow.append(y - values[q])
            for j in range(k):
                steep[j] += [values[q + 1 + c * k + j] for c in range(q)]
                away[j].append(-values[q + 1 + q * k + j])
        return (
            arb_mat(n, q, basis) if q else None, arb_mat(n, 1, follow),
            [arb_mat(n, q, s) if q else None for s in steep], [arb_mat(n, 1, s) for s in away],
        )  # fmt: skip

    def _best(self, wide: list[Any], middle: list[Any]) -> tuple[float, list[float], list[tuple[int, int]], list[Any]] | None:
        centre, around = self._table(middle), self._table(wide)
        if centre is None or around is None:
            return None
        q, k = self.q, self.k
        basis, follow = centre[0], centre[1]
        away = [w - m for w, m in zip(wide, middle, strict=True)]
        # Slopes on the box, of basis times linear parameters and of what is to be followed.
        if q:
            rough = _doubles(basis)
            c0 = np.linalg.lstsq(rough, _doubles(follow)[:, 0], rcond=None)[0]
            if not np.isfinite(c0).all():
                return None
            start = arb_mat(q, 1, [arb(float(c)) for c in c0])
            left = follow - basis * start
            moving = left
            broad = basis
            for j in range(k):
                moving = moving + (around[3][j] - around[2][j] * start) * away[j]
                broad = broad + around[2][j] * away[j]
            size = np.linalg.norm(rough, axis=0)
            scales = [arb(float(s)) if s > 0 else arb(1) for s in size]
            unit = arb_mat(self.n, q, [broad[i, a] / scales[a] for i in range(self.n) for a in range(q)])
            shift = (unit.transpose() * unit).solve(unit.transpose() * moving)
            linear = arb_mat(q, 1, [start[a, 0] + shift[a, 0] / scales[a] for a in range(q)])
        else:
            left = follow
            linear = None
        seen = arb_mat(self.n, 1, [arb(float(v)) for v in _doubles(left)[:, 0]])
        length = (seen.transpose() * seen)[0, 0]
        # What the residuals of the middle see: their own length, and how it changes over the box.
        value = (seen.transpose() * follow)[0, 0]
        if q:
            value = value - (seen.transpose() * basis * linear)[0, 0]
        changes = []
        slopes = []
        for j in range(k):
            slope = (seen.transpose() * around[3][j])[0, 0]
            if q:
                slope = slope - (seen.transpose() * around[2][j] * linear)[0, 0]
            changes.append(slope * away[j])
            slopes.append(float(abs(slope).upper()) * float(self.scale[j]))
        total = value
        for change in changes:
            total = total + change
        low = float((total * total / length).lower()) if length > 0 and total > 0 else 0.0
        falling: list[tuple[int, int]] = []
        if low < self.goal:
            rest = follow
            for j in range(k):
                rest = rest + around[3][j] * away[j]
            if q:
                rest = rest - broad * linear
            for j in range(k):
                along = around[3][j] if not q else around[3][j] - around[2][j] * linear
                slope = (rest.transpose() * along)[0, 0]
                if slope > 0 or slope < 0:
                    falling.append((j, 1 if slope > 0 else -1))
        greatest = max(slopes) or 1.0
        return low, [s / greatest + 1e-3 for s in slopes], falling, [] if not q else [linear[a, 0] for a in range(q)]

    def _convex(self, box: list[tuple[float, float]], linear: list[Any]) -> bool:
        """Whether the minimum is the only stationary place in the hull of the box and itself."""
        if any(max(abs(a - p), abs(b - p)) > 0.25 * s for (a, b), p, s in zip(box, self.at, self.scale, strict=True)):
            return False
        hull = {a: arb(min(lo, p)).union(arb(max(hi, p))) for a, (lo, hi), p in zip(self.model.nonlinear, box, self.at, strict=True)}
        at = dict(zip(self.model.parameters, self.values, strict=True))
        for a, c in zip(self.model.linear, linear, strict=True):
            if a in self.model.logarithms:
                if not c > 0:
                    return False
                c = c.log() / arb(self.model.logarithms[a])
            hull[a] = c.union(at[a])
        try:
            _, _, second, _ = self.normal.sums([hull[a] for a in self.model.parameters])
        except NotProven:
            return False
        return positive(_evened(second), len(self.model.parameters))


def _evened(matrix: Any) -> Any:
    """L'ML with L from the middle of M, so that M is nearly the identity: its pivots have the same signs (Sylvester's law)."""
    size = matrix.nrows()
    middle = _doubles(matrix)
    try:
        factor = np.linalg.inv(np.linalg.cholesky(middle)).T
    except np.linalg.LinAlgError:
        return matrix
    balls = arb_mat(size, size, [arb(float(v)) for v in factor.ravel()])
    return balls.transpose() * matrix * balls


def _doubles(matrix: Any) -> Any:
    return np.array([[float(matrix[i, j].mid()) for j in range(matrix.ncols())] for i in range(matrix.nrows())])
