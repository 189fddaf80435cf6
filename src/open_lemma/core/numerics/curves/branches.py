"""Lines of several branches: kept in one array of places, a row of NaN between one branch and the next."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

Array = Any  # numpy arrays; shapes are said where they are made
Extrapolated = tuple[float, float]  # a value, and how far the last refinement moved it


def parted(places: Array) -> list[Array]:
    """The branches of places (n, k), without the rows of NaN; none is empty."""
    good = np.isfinite(places).all(axis=1)
    return [places[run] for run in runs(good)]


def runs(chosen: Array) -> list[slice]:
    """Stretches of True in an array (n,)."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], np.asarray(chosen).astype(np.int8), [0]])))
    return [slice(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def joined(branches: Sequence[Array], width: int) -> Array:
    """Branches (n_i, width) as one array (n, width), a row of NaN between them; the inverse of `parted`."""
    if not branches:
        return np.empty((0, width))
    gap = np.full((1, width), np.nan)
    return np.concatenate([p for b in branches for p in (np.reshape(b, (-1, width)), gap)][:-1])


def halved(branch: Array, refine: Callable[[Array], Array], times: int = 2) -> list[Array]:
    """A branch (n, k), and the same with middles of its chords put onto the curve by `refine`, once more each time."""
    stages = [branch]
    for _ in range(times):
        last = stages[-1]
        both = np.empty((2 * len(last) - 1, last.shape[1]))
        both[::2], both[1::2] = last, refine((last[:-1] + last[1:]) / 2)
        stages.append(both)
    return stages


def length_of(places: Array) -> float:
    """Of the chords between places (n, k)."""
    return float(np.linalg.norm(np.diff(places, axis=0), axis=1).sum())


def extrapolated(stages: Sequence[Sequence[float]]) -> Extrapolated:
    """Sums over branches of what each measured at three stages of halving, led to the limit: the error of chords falls by
    four with each halving (L. F. Richardson, Phil. Trans. A 226 (1927) 299-361)."""
    if not stages:
        return 0.0, 0.0
    rough, fine, finest = (sum(s[k] for s in stages) for k in range(3))
    first, second = (4 * fine - rough) / 3, (4 * finest - fine) / 3
    # Corners themselves are known to some ten digits (Newton's last step), which no refinement shows.
    return second, 4 * abs(second - first) + 3e-10 * abs(second)
