"""A small picture of a function near a place: so near that it looks straight, or at a turn like a bowl."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..formula.nodes import Formula
from ..formula.tape import Tape

STEPS = 32  # the picture has one place more
_STRAIGHT = 0.03  # of the range of values: so far may they be from a straight line
_HALVINGS = 40


@dataclass(frozen=True, slots=True)
class CloseUp:
    """Values at STEPS + 1 evenly spaced places from `low` to `high`; NaN where there is none."""

    x: float
    low: float
    high: float
    values: tuple[float, ...]

    def as_record(self) -> dict[str, Any]:
        shown = [float(f"{v:.6g}") if np.isfinite(v) else None for v in self.values]
        return {"x": self.x, "low": self.low, "high": self.high, "y": shown}


def close_up(
    formula: Formula, variable: str, x: float, ends: tuple[float, float], straight: bool = True, room: float | None = None
) -> CloseUp:
    """The function around a place of a window.

    straight  whether to go nearer until the line looks straight; else the picture is `room` wide to both sides
    """
    tape = Tape([formula], [variable])
    low, high = (e if abs(e) != float("inf") else x + s * max(1.0, abs(x)) for e, s in zip(ends, (-1, 1), strict=True))
    half = room if room is not None else max(high - low, 1e-300) / 16
    best = _seen(tape, x, half)
    if not straight:
        return best
    for _ in range(_HALVINGS):
        if _looks_straight(np.array(best.values)):
            break
        half /= 2
        if x + half == x:
            break
        best = _seen(tape, x, half)
    return best


def _seen(tape: Tape, x: float, half: float) -> CloseUp:
    places = np.linspace(x - half, x + half, STEPS + 1)
    found = np.asarray(tape.numeric(places)[0], dtype=float)
    return CloseUp(x, float(places[0]), float(places[-1]), tuple(np.broadcast_to(found, places.shape).tolist()))


def _looks_straight(values: Any) -> bool:
    known = np.isfinite(values)
    if known.sum() < STEPS:
        return False
    spread = float(values[known].max() - values[known].min())
    if spread == 0:
        return True
    line = np.linspace(values[known][0], values[known][-1], int(known.sum()))
    return bool(np.abs(values[known] - line).max() <= _STRAIGHT * spread)
