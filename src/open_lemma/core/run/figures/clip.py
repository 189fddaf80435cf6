"""Lines that leave the paper, cut a little outside it."""

from __future__ import annotations

import numpy as np

from ...figure.model import Floats
from ...numerics.curves.sampling import PaperView, Sampled


def within_paper(sampled: Sampled, view: PaperView) -> tuple[Floats, Floats]:
    """Lines that leave the paper cut a little outside it, so that no file holds places miles away."""
    x, y = sampled.x, sampled.y
    if view.y_scale.positive:
        y = np.where(y > 0, y, np.nan)
    p = view.y_pt(y)
    low, high = -0.5 * view.height_pt, 1.5 * view.height_pt
    inside = (p >= low) & (p <= high)
    keep_x: list[float] = []
    keep_y: list[float] = []

    def cut(i: int, j: int) -> None:
        """The place where the line from i to j crosses the limit nearest to i."""
        limit = high if p[j] > high else low
        share = (limit - p[i]) / (p[j] - p[i])
        keep_x.append(float(x[i] + (x[j] - x[i]) * share))
        keep_y.append(view.y_at(limit))

    finite = np.isfinite(p)
    if bool((inside | ~finite).all()):
        return x, y
    for i in range(x.size):
        if not finite[i]:
            keep_x.append(float(x[i]))
            keep_y.append(np.nan)
        elif inside[i]:
            if i and finite[i - 1] and not inside[i - 1]:
                cut(i, i - 1)
            keep_x.append(float(x[i]))
            keep_y.append(float(y[i]))
            if i + 1 < x.size and finite[i + 1] and not inside[i + 1]:
                cut(i, i + 1)
        elif i and finite[i - 1] and inside[i - 1]:
            keep_x.append(float(x[i]))
            keep_y.append(np.nan)
        elif i and finite[i - 1] and not inside[i - 1] and (p[i] > high) != (p[i - 1] > high):
            # From far below to far above in one stroke: it crosses the paper.
            for limit in (low, high) if p[i] > p[i - 1] else (high, low):
                share = (limit - p[i - 1]) / (p[i] - p[i - 1])
                keep_x.append(float(x[i - 1] + (x[i] - x[i - 1]) * share))
                keep_y.append(view.y_at(limit))
            keep_x.append(float(x[i]))
            keep_y.append(np.nan)
    return np.array(keep_x), np.array(keep_y)
