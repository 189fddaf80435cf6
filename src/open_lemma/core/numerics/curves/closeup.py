"""A small picture of a function near a place: so near that it looks straight, or at a turn like a bowl."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...formula.nodes import Formula
from ...formula.tape import Tape
from ...record.findings import CloseUp

STEPS = 32  # the picture has one place more
_STRAIGHT = 0.03  # of the range of values: so far may they be from a straight line
_HALVINGS = 40


def close_up(
    formula: Formula, variable: str, x: float, ends: tuple[float, float], straight: bool = True, room: float | None = None
) -> CloseUp:
    """The function around a place of a window, at STEPS + 1 evenly spaced places.

    straight  whether to go nearer until the line looks straight; else the picture is `room` wide to both sides
    """
    tape = Tape([formula], [variable])
    low, high = (e if abs(e) != float("inf") else x + s * max(1.0, abs(x)) for e, s in zip(ends, (-1, 1), strict=True))
    half = room if room is not None else max(high - low, 1e-300) / 16
    places, values = _seen(tape, x, half)
    for _ in range(_HALVINGS if straight else 0):
        if _looks_straight(values):
            break
        half /= 2
        if x + half == x:
            break
        places, values = _seen(tape, x, half)
    shown = [float(f"{v:.6g}") if np.isfinite(v) else None for v in values.tolist()]
    return CloseUp(x=x, low=float(places[0]), high=float(places[-1]), y=shown)


def _seen(tape: Tape, x: float, half: float) -> tuple[Any, Any]:
    """Places around x and the values there, arrays of one shape."""
    places = np.linspace(x - half, x + half, STEPS + 1)
    return places, np.broadcast_to(np.asarray(tape.numeric(places)[0], dtype=float), places.shape)


def _looks_straight(values: Any) -> bool:
    known = np.isfinite(values)
    if known.sum() < STEPS:
        return False
    spread = float(values[known].max() - values[known].min())
    if spread == 0:
        return True
    line = np.linspace(values[known][0], values[known][-1], int(known.sum()))
    return bool(np.abs(values[known] - line).max() <= _STRAIGHT * spread)
