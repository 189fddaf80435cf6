"""Models judged by points they have not seen, and whether one model is a special case of another."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from .fit import DataColumn, Fit, NotFittable, Problem
from .fit import fit as fitted
from .polish import polish
from .projection import Data, at_values

_MOST_FOLDS = 40
_MOST_ROWS = 20_000


def cross_validation(fit: Fit) -> float | None:
    """The root mean square of what is predicted for points from fits without them.

    Of a linear model by the leverages, exactly; else by fits without each of at most 40 groups of points, from the whole one's
    parameters on. None where the data are too long or a fit without some points fails.
    """
    problem = fit.problem
    data = Data([c.data for c in problem.columns], problem.y.data, None if problem.errors is None else 1.0 / problem.errors.data)
    n, p = data.size, len(problem.parameters)
    if n > _MOST_ROWS or n <= p + 1:
        return None
    if not fit.model.nonlinear and not problem.limits and problem.loss == "squares":
        slopes = at_values(fit.model.whole, data.xs, fit.values)[1:].T
        weight = np.ones(n) if data.weights is None else data.weights
        size = np.sqrt(((slopes * weight[:, None]) ** 2).sum(0))
        frame, _ = np.linalg.qr(slopes * weight[:, None] / np.where(size > 0, size, 1.0))
        leverage = (frame * frame).sum(1)
        if np.any(leverage > 1 - 1e-9):
            return None
        return float(np.sqrt(np.mean((fit.residuals / (1 - leverage)) ** 2)))
    return _by_groups(fit, problem, data)


def _by_groups(fit: Fit, problem: Problem, data: Data) -> float | None:
    n = data.size
    folds = min(n, _MOST_FOLDS)
    if n - -(-n // folds) <= len(problem.parameters):
        return None
    limits = np.array([problem.limits.get(a, (-np.inf, np.inf)) for a in problem.parameters], dtype=float)
    total = 0.0
    for fold in range(folds):
        out = np.arange(fold, n, folds)
        kept = np.setdiff1d(np.arange(n), out)
        found = polish(fit.model, data.rows(kept), fit.values, limits)
        predicted = at_values(fit.model.whole, [x[out] for x in data.xs], found.values)[0]
        total += float(np.sum((data.y[out] - predicted) ** 2))
    return float(np.sqrt(total / n)) if np.isfinite(total) else None


def nested(small: Fit, large: Fit) -> bool:
    """Whether the larger model can be what the smaller one is: its fitted values can be followed to rounding."""
    if len(small.parameters) >= len(large.parameters) or len(small.fitted) != len(large.fitted):
        return False
    probe = small.fitted
    scale = float(np.sum((probe - probe.mean()) ** 2)) or float(np.sum(probe**2)) or 1.0
    problem = large.problem
    data = Data([c.data for c in problem.columns], probe)
    if not large.model.nonlinear:
        slopes = at_values(large.model.whole, data.xs, large.values)[1:].T
        rest = probe - _offset(large, data) - slopes @ np.linalg.lstsq(slopes, probe - _offset(large, data), rcond=None)[0]
        return bool(float(rest @ rest) < 1e-16 * scale)
    try:
        found = fitted(replace(problem, y=DataColumn(probe), errors=None, starts={}, loss="squares"))
    except NotFittable:
        # What the smaller one does leaves a parameter of the larger one open: then it holds it.
        return True
    return bool(found.quality.squares < 1e-12 * scale)


def _offset(fit: Fit, data: Data) -> Any:
    """What a linear model is with all its parameters zero."""
    return at_values(fit.model.whole, data.xs, np.zeros(len(fit.values)))[0]
