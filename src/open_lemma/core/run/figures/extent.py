"""How far drawn things reach, and what of an axis they take on paper."""

from __future__ import annotations

import numpy as np

from ...figure.model import Floats
from ...numerics.curves.sampling import PaperView


def reach(values: Floats) -> Floats:
    """The values that a window should show: all, or without the few that run off far beyond the rest."""
    good = values[np.isfinite(values)]
    if good.size < 16:
        return good
    low, high = np.quantile(good, [0.05, 0.95])
    spread = max(float(high - low), 1e-300)
    keep = (good >= low - 3 * spread) & (good <= high + 3 * spread)
    return good if keep.mean() > 0.999 else good[keep]


def length_on_paper(view: PaperView, axis: str, low: float, high: float) -> float:
    """How long a part of an axis is, in points."""
    ends = np.array([low, high])
    a, b = view.x_pt(ends) if axis == "x" else view.y_pt(ends)
    return max(float(b - a), 1.0)


def height_share(y: Floats, view: PaperView) -> float:
    """How much of the window's height a drawn thing spans; 0 for a level one."""
    y = y[np.isfinite(y)]
    y = y[(y >= view.y_low) & (y <= view.y_high)]
    if y.size < 2 or np.ptp(y) <= 1e-12 * max(1e-300, float(np.abs(y).max())):
        return 0.0
    return float(np.ptp(y)) / (view.y_high - view.y_low)
