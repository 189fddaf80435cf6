"""Piecewise polynomials as functions of the catalogue's kind: what interpolation gives.

The pieces have rational coefficients, so values at rational places are exact, enclosures are as narrow as wished, and each
derivative is again such a function. Beyond the first and last knot the outermost pieces go on.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from typing import Any

import numpy as np
from flint import arb, ctx, fmpq

from . import ball as b
from . import catalogue as c
from .choice import choose
from .entry import Entry
from .many_pieces import ManyKnots, ManyPieces
from .nodes import Apply, Formula, Number, transformed

SMOOTH = 2  # a function with this many continuous derivatives need not be taken apart to find its turning points and bends
Coefficients = tuple[Fraction, ...]


@dataclass(frozen=True, eq=False)
class PiecewisePolynomial:
    """Polynomials between rising knots, each in powers of the distance from the knot at its left end.

    knots       n + 1 rational numbers
    pieces      n tuples of coefficients, constant term first
    continuous  how many derivatives are continuous at the inner knots: 0 for a broken line, -1 where values jump; the last of
                them may be so to rounding only
    apart       whether searches are to take it apart at its knots however smooth it is
    """

    name: str
    knots: Sequence[Fraction]
    pieces: Sequence[Coefficients]
    continuous: int
    apart: bool = False
    _slope: list[Any] = field(default_factory=list, repr=False)
    _apart: list[Any] = field(default_factory=list, repr=False)

    @property
    def joints(self) -> Sequence[Fraction]:
        """Knots at which searches must take the function apart."""
        return self.knots[1:-1] if self.apart or self.continuous < SMOOTH else ()

    def __reduce__(self) -> tuple[Any, ...]:
        return PiecewisePolynomial, (self.name, self.knots, self.pieces, self.continuous, self.apart)

    @cached_property
    def entry(self) -> Entry:
        """The function as an entry of the catalogue."""
        return Entry(
            self.name, "interpolated", (1, 1), "", "", numeric=self.numeric, ball=self.ball, scalar=self.scalar,
            derivative=(lambda x: Apply(self.slope.entry, (x,)),), typeset=None, source=self,
        )  # fmt: skip

    @property
    def slope(self) -> PiecewisePolynomial:
        """The derivative, made once."""
        if not self._slope:
            pieces = self.pieces.derived() if isinstance(self.pieces, ManyPieces) else tuple(_derived(p) for p in self.pieces)
            self._slope.append(PiecewisePolynomial(self.name + "'", self.knots, pieces, max(self.continuous - 1, -1), self.apart))
        found: PiecewisePolynomial = self._slope[0]
        return found

    def taken_apart(self) -> PiecewisePolynomial:
        """The same function, which searches and integrals take apart at every knot."""
        if self.apart:
            return self
        if not self._apart:
            self._apart.append(PiecewisePolynomial(self.name, self.knots, self.pieces, self.continuous, True))
        found: PiecewisePolynomial = self._apart[0]
        return found

    # ------------------------------------------------------------ readings

    @cached_property
    def doubles(self) -> tuple[Any, Any]:
        """Knots (n + 1,), and coefficients with a row for each power (degree + 1, n)."""
        if isinstance(self.pieces, ManyPieces) and isinstance(self.knots, ManyKnots):
            return self.knots.doubles, self.pieces.table()
        degree = max(len(p) for p in self.pieces)
        table = np.zeros((degree, len(self.pieces)))
        for k, p in enumerate(self.pieces):
            table[: len(p), k] = [float(v) for v in p]
        return np.array([float(k) for k in self.knots]), table

    def numeric(self, x: Any) -> Any:
        """Values at places (n,); NaN outside of all pieces."""
        knots, table = self.doubles
        x = np.asarray(x, dtype=float)
        place = np.clip(np.searchsorted(knots, x, side="right") - 1, 0, len(self.pieces) - 1)
        along = x - knots[place]
        # Row by row, so that long lists in polynomials of high degree need no table of their own.
        value = table[-1][place]
        for row in table[-2::-1]:
            value = value * along + row[place]
        return value

    def scalar(self, x: Any) -> Any:
        """The value at one place. Raises NoScalar outside of all pieces."""
        if isinstance(x, float):
            return float(self.numeric(x))
        if not isinstance(x, fmpq):
            x = fmpq(x)
        at = Fraction(int(x.p), int(x.q))
        place = self.place(at)
        return _horner(self._rational(place), x - b.as_fmpq(self.knots[place]))

    def place(self, x: Fraction) -> int:
        """Which piece holds a place; at an inner knot it is the one to the right."""
        return min(max(bisect_right(self.knots, x) - 1, 0), len(self.pieces) - 1)

    def _rational(self, k: int) -> list[Any]:
        """The coefficients of one piece in FLINT's numbers."""
        if k not in self._kept:
            self._kept[k] = [b.as_fmpq(v) for v in self.pieces[k]]
        return self._kept[k]

    @cached_property
    def _kept(self) -> dict[int, list[Any]]:
        return {}

    def ball(self, x: Any) -> Any:
        """All values on a ball; where it holds a knot and the function jumps there, that is noted."""
        if not x.is_finite():
            return b.NAN
        low, high = x.lower(), x.upper()
        first, last = self._places(low, high)
        if first == last:
            return self._on(first, x)
        if self.continuous < 0:
            b.doubt.jumps = True
        found = self._on(first, arb(low).union(self._knot(first + 1)))
        found = found.union(self._on(last, self._knot(last).union(high)))
        inside = self._between(first + 1, last)
        return found if inside is None else found.union(inside)

    def _places(self, low: Any, high: Any) -> tuple[int, int]:
        """The first and last piece that a span touches: near a knot, where rounding could tell wrong, both are looked at."""
        top = len(self.pieces) - 1
        first, last = (min(max(int(np.searchsorted(self.doubles[0], float(p), side="right")) - 1, 0), top) for p in (low, high))
        while first > 0 and not low >= self._knot(first):
            first -= 1
        while last < top and not high <= self._knot(last + 1):
            last += 1
        return first, last

    def _knot(self, k: int) -> Any:
        kept = self._knots.setdefault(ctx.prec, {})
        if k not in kept:
            kept[k] = arb(b.as_fmpq(self.knots[k]))
        return kept[k]

    def _row(self, k: int) -> list[Any]:
        kept = self._rows.setdefault(ctx.prec, {})
        if k not in kept:
            kept[k] = [arb(v) for v in self._rational(k)]
        found: list[Any] = kept[k]
        return found

    @cached_property
    def _knots(self) -> dict[int, dict[int, Any]]:
        """Balls of knots, by precision."""
        return {}

    @cached_property
    def _rows(self) -> dict[int, dict[int, list[Any]]]:
        return {}

    def _on(self, k: int, x: Any) -> Any:
        knot, row = self._knot(k), self._row(k)
        along = x - knot
        value = _horner(row, along)
        if len(row) > 2 and not x.is_exact():
            # The mean value form is the narrower one on a short span, the plain one on a long span: both hold all values.
            middle = x.mid()
            at, slope = middle - knot, row[-1] * (len(row) - 1)
            centre = _horner(row, at)
            for power in range(len(row) - 2, 0, -1):
                slope = slope * along + row[power] * power
            other = centre + slope * (x - middle)
            value = other if other.rad() < value.rad() else value
        return value

    @cached_property
    def _ranges(self) -> list[list[Any]]:
        """Enclosures of whole pieces, then of two neighbours, of four, and so on."""
        with b.precision(64):
            rows = [[self._on(k, self._knot(k).union(self._knot(k + 1))) for k in range(len(self.pieces))]]
            width = 1
            while 2 * width <= len(self.pieces):
                before = rows[-1]
                rows.append([before[k].union(before[k + width]) for k in range(len(before) - width)])
                width *= 2
        return rows

    @cached_property
    def _bounds(self) -> list[tuple[Any, Any]]:
        """The same of very many pieces, as doubles below and above."""
        assert isinstance(self.pieces, ManyPieces)
        rows = [self.pieces.bounds()]
        width = 1
        while 2 * width <= len(self.pieces):
            low, high = rows[-1]
            rows.append((np.minimum(low[:-width], low[width:]), np.maximum(high[:-width], high[width:])))
            width *= 2
        return rows

    def _between(self, first: int, last: int) -> Any:
        """All values on the pieces first, …, last - 1."""
        if first >= last:
            return None
        level = (last - first).bit_length() - 1
        other = last - (1 << level)
        if isinstance(self.pieces, ManyPieces):
            low, high = self._bounds[level]
            return arb(min(low[first], low[other])).union(arb(max(high[first], high[other])))
        row = self._ranges[level]
        return row[first].union(row[other])

    # ------------------------------------------------------------ as formulas

    def piece_formula(self, k: int, x: Formula) -> Formula:
        """One piece in powers of the distance from its knot."""
        along = c.subtract(x, Number(self.knots[k])) if self.knots[k] else x
        found: Formula = Number(Fraction(0))
        for power, value in enumerate(self.pieces[k]):
            if value:
                found = c.add(found, c.times(Number(value), c.power(along, Number(Fraction(power)))))
        return found

    def by_pieces(self, x: Formula) -> Formula:
        """The whole as a choice between its pieces, to be shown."""
        found = self.piece_formula(len(self.pieces) - 1, x)
        for k in range(len(self.pieces) - 2, -1, -1):
            found = choose(Apply(c.CONDITIONS["<"], (x, Number(self.knots[k + 1]))), self.piece_formula(k, x), found)
        return found


def _derived(row: Coefficients) -> Coefficients:
    return tuple(v * k for k, v in enumerate(row))[1:] or (Fraction(0),)


def _horner(row: list[Any], along: Any) -> Any:
    """A row of coefficients, constant term first, at a distance: in whatever arithmetic both are."""
    value = row[-1]
    for term in row[-2::-1]:
        value = value * along + term
    return value


def apart(formula: Formula) -> Formula:
    """The formula with its piecewise polynomials taken apart at every knot, for what needs smooth parts."""

    def parted(node: Formula, visit: Any) -> Formula | None:
        source = pieces_of(node)
        if source is None or source.apart or len(source.pieces) < 2:
            return None
        assert isinstance(node, Apply)
        return Apply(source.taken_apart().entry, tuple(visit(a) for a in node.arguments))

    return transformed(formula, parted)


def written_out(formula: Formula, most: int) -> Formula:
    """The formula with piecewise polynomials of at most so many pieces as choices between formulas."""

    def opened(node: Formula, visit: Any) -> Formula | None:
        source = pieces_of(node)
        if source is None or len(source.pieces) > most:
            return None
        assert isinstance(node, Apply)
        return source.by_pieces(visit(node.arguments[0]))

    return transformed(formula, opened)


def pieces_of(node: Formula) -> PiecewisePolynomial | None:
    """The piecewise polynomial that a part of a formula calls, if it does."""
    source = node.entry.source if isinstance(node, Apply) else None
    return source if isinstance(source, PiecewisePolynomial) else None
