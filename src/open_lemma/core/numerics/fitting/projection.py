"""Variable projection on many sets of values at once.

Z holds B sets of the nonlinear parameters, shape (B, k); the linear ones are solved for each. Slopes are those of L. Kaufman
(BIT 15 (1975) 49-57): the part of the Jacobian that the linear parameters cannot follow.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ...formula.tape import Tape
from .model import Model

_HUGE = 1e150
_RANK = 1e-11
_ELEMENTS = 1_000_000  # of one batch of arrays


@dataclass
class Data:
    """Columns of predictors, values, and 1/uncertainty of each value (None: all alike), each of shape (n,)."""

    xs: list[Any]
    y: Any
    weights: Any = None

    def rows(self, chosen: Any) -> Data:
        return Data([x[chosen] for x in self.xs], self.y[chosen], None if self.weights is None else self.weights[chosen])

    @property
    def size(self) -> int:
        return len(self.y)

    @property
    def total(self) -> float:
        y = self.y if self.weights is None else self.y * self.weights
        return float(y @ y)


@dataclass
class Projected:
    """The best that each set of nonlinear parameters can do: sum of squares (B,), linear parameters (B, q), residuals (B, n),
    slopes (B, n, k)."""

    squares: Any
    linear: Any
    residuals: Any
    slopes: Any


def evaluated(tape: Tape, *arrays: Any) -> Any:
    """All results of a tape as one float array, stacked before the last axis."""
    shape = np.broadcast_shapes(*(np.shape(a) for a in arrays))
    found = tape.numeric(*arrays)
    stacked = np.empty((*shape[:-1], len(found), shape[-1])) if len(shape) > 1 else np.empty((len(found), shape[-1]))
    for k, value in enumerate(found):
        stacked[..., k, :] = value
    return stacked


def at_values(tape: Tape, xs: Sequence[Any], values: Iterable[float]) -> Any:
    """All results of a tape at places and for one set of parameters, (r, n)."""
    return evaluated(tape, *xs, *(np.full(1, v) for v in values))


def _basis(model: Model, data: Data, z: Any) -> tuple[Any, Any, Any]:
    """(B, q, n) basis, (B, n) what it is to follow, and which sets have no value."""
    values = evaluated(model.basis, *(x[None, :] for x in data.xs), *(column[:, None] for column in z.T))
    if z.shape[1] == 0 and values.ndim == 2:
        values = values[None]
    bad = ~(np.abs(values).max((1, 2)) < _HUGE)
    values[bad] = 0.0
    follow = data.y - values[:, -1]
    basis = values[:, :-1]
    if data.weights is not None:
        basis, follow = basis * data.weights, follow * data.weights
    return basis, follow, bad


def scores(model: Model, data: Data, z: Any) -> Any:
    """Sums of squares after the best linear parameters, by scaled normal equations: good enough to rank."""
    found = np.empty(len(z))
    q = len(model.linear)
    step = max(16, _ELEMENTS // (data.size * (q + 1)))
    for start in range(0, len(z), step):
        basis, follow, bad = _basis(model, data, z[start : start + step])
        squares = np.einsum("bn,bn->b", follow, follow)
        if q:
            gram, along = basis @ np.swapaxes(basis, 1, 2), (basis @ follow[..., None])[..., 0]
            size = np.sqrt(np.diagonal(gram, axis1=1, axis2=2))
            size = np.where(size > 0, size, 1.0)
            along = along / size
            gram = gram / (size[:, :, None] * size[:, None, :]) + _RANK * np.eye(q)
            squares = squares - np.einsum("bq,bq->b", along, np.linalg.solve(gram, along[..., None])[..., 0])
        found[start : start + step] = np.where(bad | ~np.isfinite(squares), np.inf, squares)
    return found


def project(model: Model, data: Data, z: Any) -> Projected:
    """The same with care, by orthogonal triangles, and with slopes."""
    basis, residuals, bad = _basis(model, data, z)
    q, k = len(model.linear), z.shape[1]
    linear = np.zeros((len(z), q))
    frame = None
    if q:
        size = np.sqrt((basis * basis).sum(2))
        size[size == 0] = 1.0
        frame, triangle = np.linalg.qr(np.swapaxes(basis / size[:, :, None], 1, 2))
        full = np.abs(np.diagonal(triangle, axis1=1, axis2=2)) > _RANK
        frame = frame * full[:, None, :]
        along = np.einsum("bnq,bn->bq", frame, residuals)
        residuals = residuals - np.einsum("bnq,bq->bn", frame, along)
        linear = np.linalg.solve(triangle + np.eye(q) * (~full)[:, None, :], along[..., None])[..., 0] / size
    squares = (residuals * residuals).sum(1)
    squares[bad | ~np.isfinite(squares)] = np.inf
    if not k:
        return Projected(squares, linear, residuals, np.zeros((len(z), data.size, 0)))
    columns = (*(x[None, :] for x in data.xs), *(c[:, None] for c in z.T), *(c[:, None] for c in linear.T))
    slopes = evaluated(model.slopes, *columns)
    if data.weights is not None:
        slopes = slopes * data.weights
    slopes = np.swapaxes(np.where(np.isfinite(slopes), slopes, 0.0), 1, 2)
    if frame is not None:
        slopes = slopes - frame @ (np.swapaxes(frame, 1, 2) @ slopes)
    return Projected(squares, linear, residuals, slopes)


def descend(model: Model, data: Data, z: Any, limits: Any, steps: int = 60, fall: float = 1e-13) -> tuple[Any, Any, Any]:
    """Levenberg's and Marquardt's damped steps on all sets at once, kept within the limits: (places, squares, linear)."""
    z = np.clip(z, limits[:, 0], limits[:, 1])
    now = project(model, data, z)
    count, k = z.shape
    damping = np.full(count, 1e-2)
    live = np.isfinite(now.squares)
    calm = np.zeros(count, dtype=int)
    for _ in range(steps):
        here = np.flatnonzero(live)
        if not here.size:
            break
        slopes = now.slopes[here]
        size = np.sqrt((slopes * slopes).sum(1))
        size[size == 0] = 1.0
        slopes = slopes / size[:, None, :]
        along = np.einsum("bnk,bn->bk", slopes, now.residuals[here])
        # A parameter on its limit that would leave it stays where it is.
        fast = ((z[here] <= limits[:, 0]) & (along < 0)) | ((z[here] >= limits[:, 1]) & (along > 0))
        along = np.where(fast, 0.0, along)
        slopes = np.where(fast[:, None, :], 0.0, slopes)
        gram = np.swapaxes(slopes, 1, 2) @ slopes + (damping[here, None, None] + 1e-15) * np.eye(k)
        move = np.linalg.solve(gram, along[..., None])[..., 0] / size
        tried = np.clip(z[here] + move, limits[:, 0], limits[:, 1])
        then = project(model, data, tried)
        better = then.squares < now.squares[here]
        still = (now.squares[here] - then.squares <= fall * now.squares[here]) & better
        still |= (np.abs(tried - z[here]) <= 1e-12 * np.abs(z[here])).all(1)
        moved = here[better]
        z[moved] = tried[better]
        now.squares[moved], now.linear[moved] = then.squares[better], then.linear[better]
        now.residuals[moved], now.slopes[moved] = then.residuals[better], then.slopes[better]
        damping[here] = np.clip(np.where(better, damping[here] / 5, damping[here] * 4), 1e-14, 1e14)
        calm[here] = np.where(still, calm[here] + 1, 0)
        live[here[(calm[here] > 2) | (damping[here] > 1e12)]] = False
    return z, now.squares, now.linear
