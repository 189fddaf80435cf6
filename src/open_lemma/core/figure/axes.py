"""Axes on paper: their scale, the places of their numbers, their ends."""

from __future__ import annotations

from typing import Any

import numpy as np
from matplotlib.ticker import FixedLocator, MaxNLocator, NullLocator

from .model import AxisSpec
from .numbers import NamesFormatter, NumberFormatter
from .scales import SCALES


def prepare(axes: Any, name: str, spec: AxisSpec, length_pt: float, comma: bool) -> None:
    """Scale, window, numbers and ticks of one axis (`x` or `y`) of given length."""
    axis = getattr(axes, f"{name}axis")
    scale = SCALES[spec.scale]
    if scale.name != "linear":
        getattr(axes, f"set_{name}scale")(scale.name, **scale.told(spec))
    scale.ticks(axis, spec, length_pt, comma, name == "x")
    if spec.ticks is not None:
        axis.set_major_locator(FixedLocator(spec.ticks))
        axis.set_minor_locator(NullLocator())
        if spec.names is not None:
            axis.set_major_formatter(NamesFormatter(spec.ticks, spec.names))
        elif spec.scale == "logarithmic" and spec.numbers in ("plain", "full"):
            axis.set_major_formatter(NumberFormatter(comma, spec.decimals, each=True))
    if spec.minor is not None and spec.scale == "linear":
        axis.set_minor_locator(_BetweenLocator(spec.minor))
    ends = (spec.high, spec.low) if spec.reversed else (spec.low, spec.high)
    getattr(axes, f"set_{name}lim")(*ends)


class _BetweenLocator(MaxNLocator):
    """So many small ticks between two numbers, and beyond the outer ones as far as the window goes."""

    def __init__(self, between: int) -> None:
        super().__init__()
        self.between = between

    def __call__(self) -> Any:
        axis: Any = self.axis
        low, high = sorted(axis.get_view_interval())
        majors = np.sort(axis.get_majorticklocs())
        if majors.size < 2:
            return np.array([])
        step = float(np.diff(majors).min()) / (self.between + 1)
        places = np.arange(np.ceil((low - majors[0]) / step), np.floor((high - majors[0]) / step) + 1) * step + majors[0]
        return places[np.abs((places - majors[0]) / step % (self.between + 1)) > 0.5] if self.between else np.array([])
