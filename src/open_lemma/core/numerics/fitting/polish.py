"""The last digits of a fit, and the proof that it is a minimum.

In doubles by Gauss-Newton; then by Newton's method on the normal equations in balls, with the data taken as the decimals
they were written as. Krawczyk's operator (R. Krawczyk, Computing 4 (1969) 187-201) shows that one stationary place lies in a
tiny box, and the pivots of the second derivatives on all of the box that the sum of squares has its minimum there.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from flint import arb, arb_mat
from scipy.linalg import LinAlgError, qr, solve_triangular

from ...formula.ball import Undefined, precision
from ...formula.tape import NoBall
from .model import Model
from .projection import Data, at_values

MOST_PROVEN = 400_000  # rows times numbers a row
_BITS, _WIDE = 192, 640
_BLOCK = 65_536
_ALIKE = 1e-4  # smallest to greatest eigenvalue of the sums of products that still leaves twelve digits


@dataclass
class Rounded:
    """Values in the model's order, the sum of squares, and the slopes' triangle R (p, p) with columns scaled by `size`."""

    values: Any
    squares: float
    triangle: Any
    size: Any
    at_limit: list[int]


def polish(model: Model, data: Data, start: Any, limits: Any) -> Rounded:
    """Gauss-Newton with halved steps and pivoted triangles; near the end it goes on until the steps stop shrinking.

    limits  shape (p, 2); a parameter that ends on one is held there
    """
    values = np.clip(start, limits[:, 0], limits[:, 1])
    system = _equations(model, data, values, False)
    last = np.inf
    for _ in range(80):
        free = _free(values, limits, system.gradient)
        move = np.zeros(len(values))
        if free.any():
            move[free] = system.step(free)
        if not np.isfinite(move).all():
            break
        size = float(np.max(np.abs(move) / (np.abs(values) + 1e-300)))
        near = size < 1e-6
        if near and size > 0.7 * last:
            break
        share = 1.0
        while share > 1e-4:
            tried = np.clip(values + share * move, limits[:, 0], limits[:, 1])
            then = _equations(model, data, tried, near)
            if then.squares <= system.squares or (near and then.squares <= system.squares * (1 + 1e-9)):
                break
            share /= 2
        else:
            break
        values, system, last = tried, then, size
        if size < 2e-16:
            break
    held = [k for k, v in enumerate(values) if v in (limits[k, 0], limits[k, 1])]
    if not system.careful:
        system = _equations(model, data, values, True)
    return Rounded(values, system.squares, system.triangle, system.size, held)


def _free(values: Any, limits: Any, gradient: Any) -> Any:
    """Parameters that are not pressed against a limit; gradient is that of the misfit, downhill positive."""
    return ~(((values <= limits[:, 0]) & (gradient < 0)) | ((values >= limits[:, 1]) & (gradient > 0)))


@dataclass
class _System:
    squares: float
    gradient: Any
    triangle: Any  # R of the scaled slopes
    size: Any
    right: Any  # Q^T residuals
    careful: bool = True

    def step(self, free: Any) -> Any:
        """The Gauss-Newton step of the free parameters."""
        p = len(self.size)
        try:
            frame, upper, order = qr(self.triangle[:, free], mode="economic", pivoting=True)
        except (LinAlgError, ValueError):
            return np.full(int(free.sum()), np.nan)
        rank = int((np.abs(np.diag(upper)) > 1e-14).sum())
        found = np.zeros(int(free.sum()))
        if rank:
            found[order[:rank]] = solve_triangular(upper[:rank, :rank], (frame.T @ self.right)[:rank])
        assert p >= len(found)
        return found / self.size[free]


def _equations(model: Model, data: Data, values: Any, careful: bool) -> _System:
    """The equations of one step. Long data are gone through in blocks by sums of products, which are quicker and lose digits
    where the slopes are nearly alike; what is `careful` is then done by triangles that are put together."""
    if data.size > _BLOCK:
        found = _by_products(model, data, values)
        if found is not None and (found.careful or not careful):
            return found
    triangles, rights, squares = [], [], 0.0
    for first in range(0, data.size, _BLOCK):
        part = data if data.size <= _BLOCK else data.rows(slice(first, first + _BLOCK))
        found = at_values(model.whole, part.xs, values)
        residuals, slopes = part.y - found[0], found[1:].T
        if part.weights is not None:
            residuals, slopes = residuals * part.weights, slopes * part.weights[:, None]
        squares += float(residuals @ residuals)
        if not np.isfinite(squares) or not np.isfinite(slopes).all():
            p = len(values)
            return _System(np.inf, np.zeros(p), np.zeros((p, p)), np.ones(p), np.zeros(p))
        triangles.append(slopes)
        rights.append(residuals)
        if data.size > _BLOCK:
            frame, upper = np.linalg.qr(slopes)
            triangles[-1], rights[-1] = upper, frame.T @ residuals
    slopes, residuals = np.concatenate(triangles), np.concatenate(rights)
    size = np.sqrt((slopes * slopes).sum(0))
    size[size == 0] = 1.0
    frame, upper = np.linalg.qr(slopes / size)
    return _System(squares, slopes.T @ residuals, upper, size, frame.T @ residuals)


def _by_products(model: Model, data: Data, values: Any) -> _System | None:
    p = len(values)
    squares, gram, along = 0.0, np.zeros((p, p)), np.zeros(p)
    for first in range(0, data.size, _BLOCK):
        part = data.rows(slice(first, first + _BLOCK))
        found = at_values(model.whole, part.xs, values)
        if part.weights is not None:
            found *= part.weights
        residuals = (part.y if part.weights is None else part.y * part.weights) - found[0]
        squares += float(residuals @ residuals)
        gram += found[1:] @ found[1:].T
        along += found[1:] @ residuals
    size = np.sqrt(np.diag(gram))
    if not (np.isfinite(squares) and np.isfinite(gram).all() and (size > 0).all()):
        return None
    try:
        triangle = np.linalg.cholesky(gram / np.outer(size, size)).T
    except LinAlgError:
        return None
    singular = np.linalg.svd(triangle, compute_uv=False)
    careful = bool(singular[-1] ** 2 > _ALIKE * singular[0] ** 2)
    return _System(squares, along, triangle, size, solve_triangular(triangle, along / size, trans="T"), careful)


# ---------------------------------------------------------------- in balls


@dataclass
class MinimumProof:
    """Balls of the parameters, of the sum of squares, and of the inverse of the normal matrix J^T W J.

    minimum  whether it is proven that the sum of squares has a strict local minimum inside of the balls, and only there
    overall  whether the model is linear, so that the minimum is the only one anywhere
    """

    values: list[Any]
    squares: Any
    inverse: Any
    minimum: bool
    overall: bool


class NotProven(Exception):
    """The balls grew beyond use."""


def decimals(values: Any) -> list[Any]:
    """Each value as the decimal it was written as, the shortest that reads back as the same double, to the precision in force."""
    return [arb(repr(v)) for v in np.asarray(values, dtype=float).tolist()]


def provable(model: Model, rows: int) -> bool:
    """Whether so many rows are gone through in balls."""
    p = len(model.parameters)
    return rows * (1 + p + p * (p + 1) // 2) <= MOST_PROVEN


def prove(
    model: Model, columns: list[list[Any]], y: list[Any], variances: list[Any] | None, start: Any, free: list[int]
) -> MinimumProof | None:  # fmt: skip
    """Newton in balls from a start near a minimum; None where that cannot be done.

    columns, y, variances  rational numbers, or narrow balls (`decimals`), one list a predictor
    free                   parameters that are adjusted; the others stay at their start exactly
    """
    for bits in (_BITS, _WIDE):
        try:
            with precision(bits):
                return Normal(model, columns, y, variances, free, bits).run(start)
        except NotProven:
            continue
        except (Undefined, NoBall, ZeroDivisionError):
            return None
    return None


class Normal:
    """The normal equations in balls: sums over all rows at a set of values. Those not `free` are held.

    Raises NotProven where the balls of a row are not finite.
    """

    def __init__(
        self, model: Model, columns: list[list[Any]], y: list[Any], variances: list[Any] | None, free: list[int], bits: int = _BITS
    ) -> None:
        self.model, self.free, self.bits = model, free, bits
        self.linear = len(model.linear) == len(model.parameters) and not model.logarithms
        self.rows = [tuple(arb(v) for v in row) for row in zip(*columns, strict=True)] if columns else [()] * len(y)
        n = len(y)
        self.y = arb_mat(n, 1, [arb(v) for v in y])
        self.weights = None if variances is None else [1 / arb(v) for v in variances]
        self.tape = model.whole if self.linear else model.curved
        self.run_row: Callable[..., Any] = self.tape.ball

    def run(self, start: Any) -> MinimumProof:
        # What is held is at a limit, and that is the decimal it was written as.
        """Go down from a start (p,) to a minimum, and prove that one is there."""
        values = [arb(float(v)) if k in self.free else arb(repr(float(v))) for k, v in enumerate(start)]
        goal = arb(2) ** -(self.bits * 5 // 8)
        for _ in range(14):
            _, along, second, _ = self.sums(values)
            move = self._solved(second, along)
            moves = [move[k, 0].mid() for k in range(len(self.free))]
            for k, m in zip(self.free, moves, strict=True):
                values[k] = (values[k] + m).mid()
            length, sizes = self._sizes(second)
            if all(abs(m) <= (abs(values[k]) + s) * goal for k, m, s in zip(self.free, moves, sizes, strict=True)):
                break
        else:
            raise NotProven
        for k, s in zip(self.free, sizes, strict=True):
            if abs(values[k]) <= s * goal * 4:
                values[k] = arb(0)  # data that lie on a curve exactly give parameters that are zero exactly
        squares, along, second, normal = self.sums(values)
        inverse = self._inverse(normal)
        narrow = arb(2) ** -(self.bits * 5 // 12)
        if squares <= length * narrow * narrow:
            squares = squares.union(arb(0))  # zero to rounding
        radii = [(abs(values[k]) * narrow + s * narrow * narrow).mid() for k, s in zip(self.free, sizes, strict=True)]
        minimum = self._minimum(values, radii, along, second)
        boxed = list(values)
        for k, r in zip(self.free, radii, strict=True):
            boxed[k] = arb(values[k].mid(), r) if minimum else values[k]
        return MinimumProof(boxed, squares, inverse, minimum, minimum and self.linear)

    def _sizes(self, normal: Any) -> tuple[Any, list[Any]]:
        """The sum of squares of the data; of each parameter how much of it would change the data by themselves. What is small against
        these is zero to rounding."""
        heavy = self.y if self.weights is None else arb_mat(len(self.rows), 1, [self.y[i, 0] * w for i, w in enumerate(self.weights)])
        length = abs((self.y.transpose() * heavy)[0, 0]).mid()
        slopes = [abs(normal[i, i]).mid() for i in range(len(self.free))]
        return length, [(length / s).sqrt().mid() if s > 0 and length > 0 else arb(0) for s in slopes]

    def _solved(self, matrix: Any, right: Any) -> Any:
        try:
            return matrix.solve(right)
        except ZeroDivisionError:
            raise NotProven from None

    def _inverse(self, matrix: Any) -> Any:
        try:
            return matrix.inv()
        except ZeroDivisionError:
            raise NotProven from None

    def sums(self, values: list[Any]) -> tuple[Any, Any, Any, Any]:
        """Sum of squares, -gradient/2, second derivatives/2, and J^T W J."""
        p, n, free = len(self.model.parameters), len(self.rows), self.free
        table = [self._row(row, values) for row in self.rows]
        fitted = arb_mat(n, 1, [r[0] for r in table])
        residual = self.y - fitted
        slopes = arb_mat(n, len(free), [r[1 + k] for r in table for k in free])
        heavy = slopes
        weighted = residual
        if self.weights is not None:
            heavy = arb_mat(n, len(free), [r[1 + k] * w for r, w in zip(table, self.weights, strict=True) for k in free])
            weighted = arb_mat(n, 1, [residual[i, 0] * w for i, w in enumerate(self.weights)])
        squares = (residual.transpose() * weighted)[0, 0]
        along, normal = slopes.transpose() * weighted, slopes.transpose() * heavy
        if self.linear:
            return squares, along, normal, normal
        places = {(i, j): 1 + p + k for k, (i, j) in enumerate((i, j) for i in range(p) for j in range(i, p))}
        pairs = [(i, j) for place, i in enumerate(free) for j in free[place:]]
        curved = arb_mat(n, len(pairs), [r[places[min(pair), max(pair)]] for r in table for pair in pairs])
        bends = weighted.transpose() * curved
        second = arb_mat(len(free), len(free), [normal[i, j] for i in range(len(free)) for j in range(len(free))])
        index = {k: place for place, k in enumerate(free)}
        for place, (i, j) in enumerate(pairs):
            a, b = index[i], index[j]
            second[a, b] = normal[a, b] - bends[0, place]
            second[b, a] = second[a, b]
        return squares, along, second, normal

    def _row(self, row: tuple[Any, ...], values: list[Any]) -> Any:
        found = self.run_row(*row, *values)
        if not found[0].is_finite():
            raise NotProven
        return found

    def _minimum(self, values: list[Any], radii: list[Any], along: Any, second: Any) -> bool:
        """Krawczyk's test on the box, and positive pivots of the second derivatives on all of it."""
        size = len(self.free)
        box = list(values)
        for k, r in zip(self.free, radii, strict=True):
            box[k] = arb(values[k].mid(), r)
        try:
            _, _, wide, _ = self.sums(box)
            middle = arb_mat(size, size, [second[i, j].mid() for i in range(size) for j in range(size)])
            near = self._inverse(middle)
        except NotProven:
            return False
        near = arb_mat(size, size, [near[i, j].mid() for i in range(size) for j in range(size)])
        one = arb_mat(size, size, [arb(int(i == j)) for i in range(size) for j in range(size)])
        spread = arb_mat(size, 1, [arb(0, r) for r in radii])
        image = near * along + (one - near * wide) * spread
        inside = all(abs(image[i, 0]) < radii[i] for i in range(size))
        return inside and positive(wide, size)


def positive(matrix: Any, size: int) -> bool:
    """Whether all pivots of a symmetric matrix of balls are certainly positive."""
    rows = [[matrix[i, j] for j in range(size)] for i in range(size)]
    for i in range(size):
        if not rows[i][i] > 0:
            return False
        for a in range(i + 1, size):
            share = rows[a][i] / rows[i][i]
            for b in range(i, size):
                rows[a][b] = rows[a][b] - share * rows[i][b]
    return True
