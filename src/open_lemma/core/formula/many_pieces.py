"""Very many knots and pieces, kept as doubles: each becomes a quotient of whole numbers only where it is asked for.

A double is a rational number, so that a piece that takes two given values with two given slopes is one exactly, whoever works it out and
when; only the slopes themselves are as good as doubles are.
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from math import comb, perm
from typing import Any, overload

import numpy as np

_ROOM = 64 * 2.0**-53  # of the sizes of all terms of a piece


class ManyKnots(Sequence[Fraction]):
    """Rising doubles (n,) as rational numbers."""

    def __init__(self, doubles: Any) -> None:
        self.doubles = doubles

    def __len__(self) -> int:
        return len(self.doubles)

    @overload
    def __getitem__(self, k: int) -> Fraction: ...
    @overload
    def __getitem__(self, k: slice) -> tuple[Fraction, ...]: ...
    def __getitem__(self, k: int | slice) -> Any:
        if isinstance(k, slice):
            return tuple(Fraction(v) for v in self.doubles[k].tolist())
        return Fraction(float(self.doubles[k]))


class ManyPieces(Sequence[tuple[Fraction, ...]]):
    """Straight pieces between points (n,), or cubics with those slopes (n,) there; `derivative` says which of them."""

    def __init__(self, x: Any, y: Any, slopes: Any = None, derivative: int = 0) -> None:
        self.x, self.y, self.slopes, self.derivative = x, y, slopes, derivative

    def __len__(self) -> int:
        return len(self.x) - 1

    def __getitem__(self, k: Any) -> Any:
        if isinstance(k, slice):
            return tuple(self[i] for i in range(*k.indices(len(self))))
        k = range(len(self))[k]
        x, y = ([Fraction(float(v)) for v in a[k : k + 2]] for a in (self.x, self.y))
        rise = (y[1] - y[0]) / (x[1] - x[0])
        if self.slopes is None:
            return self._derived((y[0], rise))
        start, end = (Fraction(float(v)) for v in self.slopes[k : k + 2])
        cubic = (start + end - 2 * rise) / (x[1] - x[0])
        return self._derived((y[0], start, (rise - start) / (x[1] - x[0]) - cubic, cubic / (x[1] - x[0])))

    def _derived(self, row: tuple[Fraction, ...]) -> tuple[Fraction, ...]:
        n = self.derivative
        return tuple(v * perm(k, n) for k, v in enumerate(row) if k >= n) or (Fraction(0),)

    def derived(self) -> ManyPieces:
        """The pieces of the derivative."""
        return ManyPieces(self.x, self.y, self.slopes, self.derivative + 1)

    def table(self) -> Any:
        """The coefficients in doubles, a row for each power, shape (degree + 1, n - 1)."""
        return self._rows()[0]

    def bounds(self) -> tuple[Any, Any]:
        """Doubles below and above all values of each piece between its knots: the hull of its Bernstein coefficients, with more than
        what rounding may have done to them."""
        rows, sizes = self._rows()
        width = np.diff(self.x)
        degree = len(rows) - 1
        control = [sum(comb(i, k) / comb(degree, k) * rows[k] * width**k for k in range(i + 1)) for i in range(degree + 1)]
        room = _ROOM * sum(size * width**k for k, size in enumerate(sizes)) + 5e-324
        return np.min(control, axis=0) - room, np.max(control, axis=0) + room

    def _rows(self) -> tuple[Any, Any]:
        """The coefficients in doubles, and of each the sum of the sizes that it was added up from."""
        width = np.diff(self.x)
        rise = np.diff(self.y) / width
        rows, sizes = [self.y[:-1], rise], [np.abs(self.y[:-1]), np.abs(rise)]
        if self.slopes is not None:
            start, end = self.slopes[:-1], self.slopes[1:]
            cubic = (start + end - 2 * rise) / width
            large = (np.abs(start) + np.abs(end) + 2 * np.abs(rise)) / width
            rows = [self.y[:-1], start, (rise - start) / width - cubic, cubic / width]
            sizes = [sizes[0], np.abs(start), (np.abs(rise) + np.abs(start)) / width + large, large / width]
        n = self.derivative
        some = [k for k in range(len(rows)) if k >= n]
        if not some:
            return np.zeros((1, len(self))), np.zeros((1, len(self)))
        found = [np.array([given[k] * perm(k, n) for k in some]) for given in (rows, sizes)]
        return found[0], found[1]
