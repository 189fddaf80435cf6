"""Level lines: which heights have one, and where they run."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from matplotlib.ticker import MaxNLocator

from ...figure.model import Floats
from ...numerics.curves.implicit import level_curves
from ...numerics.curves.sampling import PaperView
from ..slopes import gradient
from .surface_definition import Span, SurfaceDefinition


def levels_between(levels: Any, low: float, high: float) -> list[float]:
    """Levels as they were given, or about so many round ones in a span."""
    if not isinstance(levels, int):
        return [float(v) for v in levels]
    if levels <= 2:
        return [float(v) for v in np.linspace(low, high, levels + 2)[1:-1]]
    best: list[float] = []
    for count in range(max(levels - 2, 1), levels + 4):
        ticks = MaxNLocator(count, steps=[1, 2, 2.5, 5, 10]).tick_values(low, high)
        inner = [float(v) for v in ticks if low < v < high]
        if inner and abs(len(inner) - levels) < abs(len(best) - levels):
            best = inner
    return best or [float(v) for v in np.linspace(low, high, levels + 2)[1:-1]]


def level_lines(
    surface: SurfaceDefinition, spans: tuple[Span, Span], levels: list[float], size_pt: tuple[float, float]
) -> list[tuple[float, Floats, Floats]]:
    """For each level its lines, branches divided by NaN, exact to a tenth of a point at that size."""
    g = gradient(surface.formulas[0], (surface.names[0], surface.names[1]))
    if surface.what == "explicit":
        g = replace(g, f=surface.height)
    (x0, x1), (y0, y1) = spans
    found = level_curves(g, PaperView(x0, x1, y0, y1, *size_pt), levels)
    return [(level, curve.x, curve.y) for level, curve in zip(levels, found, strict=True)]
