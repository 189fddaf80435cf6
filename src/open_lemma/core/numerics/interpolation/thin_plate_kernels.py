"""Sums over all points of a thin plate, compiled (Numba): a picture of a bed asks for them at hundreds of thousands of places."""

from __future__ import annotations

from math import log
from typing import Any

from ...compiled import compiled


@compiled
def plate_sums(at: Any, places: Any, weights: Any, along: int, up: int, found: Any) -> None:
    """found (m,): at places (m, 2) the sum over points (n, 2) of weights times s*ln(s), s the squared distance, differentiated
    `along` times by the first and `up` times by the second coordinate; its limit where s is 0, NaN where it has none."""
    for i in range(at.shape[0]):
        total = 0.0
        for j in range(places.shape[0]):
            a, b = at[i, 0] - places[j, 0], at[i, 1] - places[j, 1]
            s = a * a + b * b
            if s == 0.0:
                if along == 2 or up == 2:
                    total = float("nan")
                continue
            if along == 0 and up == 0:
                term = s * log(s)
            elif along + up == 1:
                term = 2 * (a if along == 1 else b) * (log(s) + 1)
            elif along == 1:
                term = 4 * a * b / s
            else:
                c = a if along == 2 else b
                term = 2 * (log(s) + 1) + 4 * c * c / s
            total += weights[j] * term
        found[i] = total
