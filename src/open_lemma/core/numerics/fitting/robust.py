"""Fits in which points far off count for less, and fits with uncertainties in both directions."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from ...formula.calculus import derivative
from ...formula.tape import Tape
from .model import Model
from .polish import Rounded, polish
from .projection import Data, at_values, evaluated

# The constants give 95 % of the efficiency of least squares on normal errors (P. J. Huber, "Robust Statistics", 1981;
# P. W. Holland and R. E. Welsch, Comm. Statist. A6 (1977) 813-827).
HUBER, CAUCHY = 1.345, 2.385
_LEAST = 1e-7  # of the scale: what stands for zero in absolute values


@dataclass
class Robust:
    """rounded: the place, with slopes weighted as at the end. inflation: by what the covariance of least squares is multiplied."""

    rounded: Rounded
    loss: float
    scale: float
    inflation: float
    lowered: int  # points that count for less than half


def robust(model: Model, data: Data, start: Any, limits: Any, loss: str) -> Robust:
    """Least loss from a start, by least squares with weights that follow the residuals."""
    known = data.weights is not None
    base = np.ones(data.size) if data.weights is None else data.weights
    values = np.array(start, dtype=float)
    scale = 1.0
    before = math.inf
    for turn in range(200):
        u = _residuals(model, data, values) * base
        if not known and turn < 30:
            scale = max(1.4826 * float(np.median(np.abs(u))), 1e-12 * float(np.max(np.abs(data.y), initial=1.0)), 1e-300)
        weights = _weights(u / scale, loss)
        values = polish(model, Data(data.xs, data.y, base * np.sqrt(weights)), values, limits).values
        now = _loss(_residuals(model, data, values) * base / scale, loss)
        if turn >= 30 and before - now <= 1e-14 * max(now, 1e-300):
            break
        before = now
    u = _residuals(model, data, values) * base / scale
    weights = _weights(u, loss)
    rounded = polish(model, Data(data.xs, data.y, base), values, _pinned(values))
    squares = float(np.sum((u * scale) ** 2))
    rounded = Rounded(
        values, squares, rounded.triangle, rounded.size, [k for k, v in enumerate(values) if v in (limits[k, 0], limits[k, 1])]
    )
    return Robust(
        rounded, _loss(u, loss), scale, _inflation(u, loss, scale, data.size, len(values)), int(np.sum(weights < 0.5 * weights.max()))
    )


def _pinned(values: Any) -> Any:
    return np.stack([values, values], axis=1)


def _residuals(model: Model, data: Data, values: Any) -> Any:
    return data.y - at_values(model.whole, data.xs, values)[0]


def _weights(u: Any, loss: str) -> Any:
    size = np.abs(u)
    if loss == "absolute":
        return 1.0 / np.maximum(size, _LEAST)
    if loss == "huber":
        return np.minimum(1.0, HUBER / np.maximum(size, 1e-300))
    return 1.0 / (1.0 + (u / CAUCHY) ** 2)


def _loss(u: Any, loss: str) -> float:
    size = np.abs(u)
    if loss == "absolute":
        return float(np.sum(size))
    if loss == "huber":
        return float(np.sum(np.where(size <= HUBER, u**2 / 2, HUBER * size - HUBER**2 / 2)))
    return float(np.sum(CAUCHY**2 / 2 * np.log1p((u / CAUCHY) ** 2)))


def _inflation(u: Any, loss: str, scale: float, n: int, p: int) -> float:
    """The factor of (J^T J)^-1 in the covariance (Huber 1981, equation (7.6.5)); for absolute values that of normal errors."""
    if loss == "absolute":
        return scale**2 * math.pi / 2
    if loss == "huber":
        influence, slope = np.clip(u, -HUBER, HUBER), (np.abs(u) <= HUBER).astype(float)
    else:
        part = (u / CAUCHY) ** 2
        influence, slope = u / (1 + part), (1 - part) / (1 + part) ** 2
    mean = float(np.mean(slope))
    if not mean > 0:
        return scale**2
    correction = 1 + p / n * float(np.var(slope)) / mean**2
    return correction**2 * scale**2 * float(np.sum(influence**2)) / (n - p) / mean**2


# ---------------------------------------------------------------- uncertainties in both directions


@dataclass
class Orthogonal:
    """rounded: the place; its squares are those of both directions in units of the uncertainties. shifts: of the x values."""

    rounded: Rounded
    shifts: Any
    weights: Any


def orthogonal(model: Model, data: Data, x_errors: Any, start: Any, limits: Any) -> Orthogonal:
    """Least sum of squared distances in both directions, each in units of its uncertainty; one predictor.

    The shifts of the points are eliminated from each Gauss-Newton step (P. T. Boggs, R. H. Byrd and R. B. Schnabel, SIAM J. Sci.
    Stat. Comput. 8 (1987) 1052-1078), so that a step costs no more than one of an ordinary fit.
    """
    x, y = data.xs[0], data.y
    w = np.ones(data.size) if data.weights is None else data.weights
    steep = Tape([derivative(model.formula, model.predictors[0])], [*model.predictors, *model.parameters])
    values = np.clip(np.array(start, dtype=float), limits[:, 0], limits[:, 1])
    shifts = np.zeros(data.size)
    total = _both(model, x, y, w, x_errors, values, shifts)
    damping = 1e-3
    system = np.zeros((len(values), len(values)))
    size = np.ones(len(values))
    weights = w
    for _ in range(300):
        arguments = (x + shifts, *(np.full(1, v) for v in values))
        whole = evaluated(model.whole, *arguments)
        b = np.broadcast_to(steep.numeric(*arguments)[0], x.shape) * w
        left = (y - whole[0]) * w + b * shifts
        share = 1.0 / np.sqrt(1.0 + (b * x_errors) ** 2)
        weights = w * share
        slopes = whole[1:].T * weights[:, None]
        size = np.sqrt((slopes * slopes).sum(0))
        size[size == 0] = 1.0
        scaled = slopes / size
        _, system = np.linalg.qr(scaled)
        right = scaled.T @ (left * share)
        moved = False
        for _ in range(40):
            try:
                step = np.linalg.solve(scaled.T @ scaled + damping * np.eye(len(values)), right) / size
            except np.linalg.LinAlgError:
                damping *= 10
                continue
            tried = np.clip(values + step, limits[:, 0], limits[:, 1])
            rest = left - (whole[1:].T * w[:, None]) @ (tried - values)
            new = b * x_errors**2 * rest / (1.0 + (b * x_errors) ** 2)
            then = _both(model, x, y, w, x_errors, tried, new)
            if then < total:
                moved = True
                break
            damping = min(damping * 4 + 1e-14, 1e12)
        if not moved:
            break
        fall = total - then
        values, shifts, total = tried, new, then
        damping = max(damping / 10, 1e-16)
        if fall <= 1e-15 * total:
            break
    held = [k for k, v in enumerate(values) if v in (limits[k, 0], limits[k, 1])]
    return Orthogonal(Rounded(values, total, system, size, held), shifts, weights)


def _both(model: Model, x: Any, y: Any, w: Any, x_errors: Any, values: Any, shifts: Any) -> float:
    fitted = at_values(model.whole, [x + shifts], values)[0]
    total = float(np.sum(((y - fitted) * w) ** 2) + np.sum((shifts / x_errors) ** 2))
    return total if np.isfinite(total) else math.inf
