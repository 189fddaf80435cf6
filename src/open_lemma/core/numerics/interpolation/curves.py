"""Curves through given points: splines, monotone curves, segments, the polynomial; and smoothing splines.

What comes out is a piecewise polynomial with rational coefficients that takes the given values exactly, so that its roots,
turning points and integrals can be proven. Splines are found by their slopes at the knots (C. de Boor, "A Practical Guide
to Splines", 1978, chapter IV): exactly where there are few points, else rounded to doubles, which leaves the curve and its
slope continuous and the bend so to rounding.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any, Literal

import numpy as np
from flint import fmpq_mat
from scipy.linalg import solve_banded

from ...formula import catalogue as c
from ...formula.ball import as_fmpq
from ...formula.nodes import Apply, Formula, Number
from ...formula.piecewise import Coefficients, PiecewisePolynomial

Kind = Literal["spline", "segments", "monotone", "polynomial", "smoothing"]
Ends = Literal["not-a-knot", "natural", "clamped", "periodic"]
MOST_EXACT = 80  # knots of a spline whose slopes are solved for exactly
MOST_POLYNOMIAL = 60
SWINGS = 0.5  # of the span of the data: a polynomial that goes further beyond it than that swings


class NotInterpolable(Exception):
    """Why no curve goes through the points: `code` for tests, `advice` for the reader."""

    def __init__(self, code: str, text: str, advice: str = "") -> None:
        super().__init__(text)
        self.code, self.text, self.advice = code, text, advice


@dataclass(frozen=True, slots=True)
class InterpolatedCurve:
    """An interpolating or smoothing curve, with what is to be said of it.

    exact       whether its coefficients are those of the method, not rounded
    polynomial  the coefficients in powers of x, where it is one polynomial
    smoothing   the weight of the bend against the misfit
    """

    function: PiecewisePolynomial
    kind: Kind
    exact: bool
    notes: list[str]
    polynomial: Coefficients | None = None
    smoothing: float | None = None
    parameters: float | None = None  # of a smoothing curve: how many parameters it is worth
    around: bool = False  # whether it repeats itself beyond its points

    def formula(self, x: Formula) -> Formula:
        """The curve as a formula: a polynomial in powers, else the function of pieces."""
        if self.polynomial is None:
            return Apply(self.function.entry, (x,))
        found: Formula = Number(Fraction(0))
        for power in range(len(self.polynomial) - 1, -1, -1):
            if self.polynomial[power]:
                found = c.add(found, c.times(Number(self.polynomial[power]), c.power(x, Number(Fraction(power)))))
        return found

    def shown(self, x: Formula) -> Formula:
        """The same with its pieces written out."""
        return self.function.by_pieces(x) if self.polynomial is None else self.formula(x)


def interpolate(
    name: str, xs: Sequence[Fraction], ys: Sequence[Fraction], kind: Kind = "spline", ends: Ends = "not-a-knot",
    slopes: tuple[Fraction, Fraction] | None = None, errors: Sequence[float] | None = None,
) -> InterpolatedCurve:  # fmt: skip
    """The curve of one kind through points, in any order of x.

    slopes  at both ends, for `ends` clamped (0 where not given)
    errors  standard uncertainties of the ys, for `kind` smoothing
    Raises NotInterpolable.
    """
    order = sorted(range(len(xs)), key=lambda k: xs[k])
    x, y = [xs[k] for k in order], [ys[k] for k in order]
    _need_points(x, y, kind, ends)
    notes = [] if order == list(range(len(xs))) else ["the points were put in rising order of x"]
    if kind == "smoothing":
        return _smoothing(name, x, y, None if errors is None else [errors[k] for k in order], notes)
    if kind == "polynomial":
        return _polynomial(name, x, y, notes)
    if kind == "segments":
        pieces = tuple((a, (d - a) / (v - u)) for u, v, a, d in zip(x, x[1:], y, y[1:], strict=False))
        return InterpolatedCurve(PiecewisePolynomial(name, tuple(x), pieces, 0), kind, True, notes)
    if kind == "monotone":
        return InterpolatedCurve(_hermite(name, x, y, _monotone_slopes(x, y), 1), kind, True, notes)
    return replace(_spline(name, x, y, ends, slopes, notes), around=ends == "periodic")


def _need_points(x: list[Fraction], y: list[Fraction], kind: Kind, ends: Ends) -> None:
    least = {"smoothing": 5, "spline": 2}.get(kind, 2)
    if len(x) < least:
        raise NotInterpolable("too-few-points", f"at least {least} points are needed; there {'is' if len(x) == 1 else 'are'} {len(x)}")
    for k in range(len(x) - 1):
        if x[k] == x[k + 1]:
            differ = "" if y[k] != y[k + 1] else " twice with the same y"
            raise NotInterpolable(
                "repeated-x", f"x = {float(x[k]):.9g} is given {differ.strip() or 'more than once with different y'}; "
                "a curve has one value there", "take the mean of those points, or fit a model to them",
            )  # fmt: skip
    if ends == "periodic" and y[0] != y[-1]:
        raise NotInterpolable(
            "not-periodic", f"a periodic curve ends where it began, and here y is {float(y[0]):.9g} first and {float(y[-1]):.9g} last",
            "give the first point again at the end of the period",
        )  # fmt: skip


# ---------------------------------------------------------------- by slopes at the knots


def _hermite(name: str, x: list[Fraction], y: list[Fraction], slopes: Sequence[Fraction], continuous: int) -> PiecewisePolynomial:
    """Cubics that take values and slopes at the knots (de Boor 1978, chapter IV, equation (3))."""
    pieces = []
    for k in range(len(x) - 1):
        h = x[k + 1] - x[k]
        rise = (y[k + 1] - y[k]) / h
        cubic = (slopes[k] + slopes[k + 1] - 2 * rise) / h
        pieces.append((y[k], slopes[k], (rise - slopes[k]) / h - cubic, cubic / h))
    return PiecewisePolynomial(name, tuple(x), tuple(pieces), continuous)


def _monotone_slopes(x: list[Fraction], y: list[Fraction]) -> list[Fraction]:
    """Slopes that keep the rise and fall of the data: weighted harmonic means, 0 where the data turn.

    F. N. Fritsch and J. Butland, SIAM J. Sci. Stat. Comput. 5 (1984) 300-304, in the weighting of F. N. Fritsch's
    Fortran of 1982; at the ends a formula of three points, limited.
    """
    h = [b - a for a, b in itertools.pairwise(x)]
    rise = [(b - a) / d for a, b, d in zip(y, y[1:], h, strict=False)]
    if len(x) == 2:
        return [rise[0], rise[0]]
    inner = []
    for k in range(1, len(x) - 1):
        a, b = rise[k - 1], rise[k]
        if a * b <= 0:
            inner.append(Fraction(0))
        else:
            w, v = 2 * h[k] + h[k - 1], h[k] + 2 * h[k - 1]
            inner.append((w + v) / (w / a + v / b))
    return [_end_slope(h[0], h[1], rise[0], rise[1]), *inner, _end_slope(h[-1], h[-2], rise[-1], rise[-2])]


def _end_slope(h: Fraction, next_h: Fraction, rise: Fraction, next_rise: Fraction) -> Fraction:
    slope = ((2 * h + next_h) * rise - h * next_rise) / (h + next_h)
    if slope * rise <= 0:
        return Fraction(0)
    if rise * next_rise <= 0 and abs(slope) > 3 * abs(rise):
        return 3 * rise
    return slope


def _spline(
    name: str, x: list[Fraction], y: list[Fraction], ends: Ends, slopes: tuple[Fraction, Fraction] | None, notes: list[str]
) -> InterpolatedCurve:
    n = len(x)
    if n == 2 and ends in ("not-a-knot", "natural", "periodic"):
        return InterpolatedCurve(PiecewisePolynomial(name, tuple(x), ((y[0], (y[1] - y[0]) / (x[1] - x[0])),), 2), "spline", True, notes)
    if n == 3 and ends == "not-a-knot":
        # Two pieces of one cubic through three points: the parabola is the smoothest.
        line = (y[1] - y[0]) / (x[1] - x[0])
        bend = ((y[2] - y[1]) / (x[2] - x[1]) - line) / (x[2] - x[0])
        found = [line + bend * (2 * v - x[0] - x[1]) for v in x]
        return InterpolatedCurve(_hermite(name, x, y, found, 2), "spline", True, notes)
    exact = n <= MOST_EXACT
    rows, right = _slope_equations(x, y, ends, slopes or (Fraction(0), Fraction(0)))
    found = _solved_exactly(rows, right) if exact else _solved_in_doubles(rows, right)
    if not exact:
        notes.append("the slopes at the knots were rounded to doubles")
    return InterpolatedCurve(_hermite(name, x, y, found, 2), "spline", exact, notes)


Row = dict[int, Fraction]


def _slope_equations(
    x: list[Fraction], y: list[Fraction], ends: Ends, given: tuple[Fraction, Fraction]
) -> tuple[list[Row], list[Fraction]]:
    """Equations for the slopes: the bend is continuous at each inner knot (de Boor 1978, chapter IV, equation (6))."""
    n = len(x)
    h = [b - a for a, b in itertools.pairwise(x)]
    rise = [(b - a) / d for a, b, d in zip(y, y[1:], h, strict=False)]
    rows: list[Row] = []
    right: list[Fraction] = []

    def bend(before: int, here: int, after: int, left: int, r: int) -> None:
        row: Row = {}
        for place, value in ((before, h[r]), (here, 2 * (h[left] + h[r])), (after, h[left])):
            row[place] = row.get(place, Fraction(0)) + value
        rows.append(row)
        right.append(3 * (h[r] * rise[left] + h[left] * rise[r]))

    if ends == "periodic":
        bend(n - 2, 0, 1, n - 2, 0)
    else:
        row, value = _first_equation(0, h[0], h[1] if n > 2 else h[0], rise[0], rise[1] if n > 2 else rise[0], ends, given[0], 1)
        rows.append(row)
        right.append(value)
    for k in range(1, n - 1):
        bend(k - 1, k, k + 1, k - 1, k)
    if ends == "periodic":
        rows.append({0: Fraction(1), n - 1: Fraction(-1)})
        right.append(Fraction(0))
    else:
        row, value = _first_equation(n - 1, h[-1], h[-2] if n > 2 else h[-1], rise[-1], rise[-2] if n > 2 else rise[-1], ends, given[1], -1)
        rows.append(row)
        right.append(value)
    return rows, right


def _first_equation(
    at: int, h: Fraction, next_h: Fraction, rise: Fraction, next_rise: Fraction, ends: Ends, slope: Fraction, step: int
) -> tuple[Row, Fraction]:
    """The equation at an end: its slope, no bend, or no change of the third derivative at the next knot."""
    if ends == "clamped":
        return {at: Fraction(1)}, slope
    if ends == "natural":
        return {at: Fraction(2), at + step: Fraction(1)}, 3 * rise
    total = h + next_h
    return {at: next_h, at + step: total}, ((h + 2 * total) * next_h * rise + h * h * next_rise) / total


def _solved_exactly(rows: list[Row], right: list[Fraction]) -> list[Fraction]:
    n = len(rows)
    matrix = fmpq_mat(n, n, [as_fmpq(v) for row in rows for v in (row.get(k, Fraction(0)) for k in range(n))])
    solution = matrix.solve(fmpq_mat(n, 1, [as_fmpq(v) for v in right]))
    return [Fraction(int(solution[k, 0].p), int(solution[k, 0].q)) for k in range(n)]


def _solved_in_doubles(rows: list[Row], right: list[Fraction]) -> list[Fraction]:
    n = len(rows)
    if any(abs(k - place) > 1 for k, row in enumerate(rows) for place in row):
        from scipy.sparse import csc_matrix
        from scipy.sparse.linalg import spsolve

        entries = [(float(v), k, place) for k, row in enumerate(rows) for place, v in row.items()]
        values, down, across = zip(*entries, strict=True)
        found = spsolve(csc_matrix((values, (down, across)), shape=(n, n)), [float(v) for v in right])
    else:
        bands = np.zeros((3, n))
        for k, row in enumerate(rows):
            for place, v in row.items():
                bands[1 + k - place, place] = float(v)
        found = solve_banded((1, 1), bands, [float(v) for v in right])
    return [Fraction(float(v)) for v in found]


# ---------------------------------------------------------------- the polynomial


def _polynomial(name: str, x: list[Fraction], y: list[Fraction], notes: list[str]) -> InterpolatedCurve:
    """The one polynomial through all points, by Newton's divided differences, exactly."""
    n = len(x)
    if n > MOST_POLYNOMIAL:
        raise NotInterpolable(
            "polynomial-degree", f"a polynomial through {n} points would have degree {n - 1}; at most {MOST_POLYNOMIAL} points are taken",
            "by spline, or fit of polynomial 3",
        )  # fmt: skip
    differences = list(y)
    for level in range(1, n):
        for k in range(n - 1, level - 1, -1):
            differences[k] = (differences[k] - differences[k - 1]) / (x[k] - x[k - level])
    powers = [Fraction(0)]
    for k in range(n - 1, -1, -1):
        powers = _times_linear(powers, x[k])
        powers[0] += differences[k]
    while len(powers) > 1 and powers[-1] == 0:
        powers.pop()
    local = _shifted(powers, x[0])
    function = PiecewisePolynomial(name, (x[0], x[-1]), (tuple(local),), 2)
    degree = len(powers) - 1
    notes.append(f"of degree {degree}, through {n} points")
    swing = _swing(function, y)
    if swing > SWINGS:
        notes.append(
            f"between the points it goes {swing:.2g} times the span of the data beyond them: a polynomial of degree {degree} swings; "
            "by spline or by monotone follows the points"
        )  # fmt: skip
    return InterpolatedCurve(function, "polynomial", True, notes, tuple(powers))


def _times_linear(powers: list[Fraction], root: Fraction) -> list[Fraction]:
    found = [Fraction(0), *powers]
    for k, v in enumerate(powers):
        found[k] -= root * v
    return found


def _shifted(powers: list[Fraction], by: Fraction) -> list[Fraction]:
    """Coefficients in powers of x - by."""
    found = [Fraction(0)]
    for v in reversed(powers):
        found = _times_linear(found, -by)
        found[0] += v
    while len(found) > 1 and found[-1] == 0:
        found.pop()
    return found


def _swing(function: PiecewisePolynomial, y: list[Fraction]) -> float:
    """How far the curve goes beyond the data, in spans of the data."""
    low, high = float(min(y)), float(max(y))
    values = function.numeric(np.linspace(float(function.knots[0]), float(function.knots[-1]), 2001))
    beyond = max(float(np.max(values)) - high, low - float(np.min(values)), 0.0)
    return beyond / (high - low) if high > low else 0.0


# ---------------------------------------------------------------- smoothing


def _smoothing(name: str, x: list[Fraction], y: list[Fraction], errors: list[float] | None, notes: list[str]) -> InterpolatedCurve:
    """The natural cubic spline that weighs misfit against bend (C. H. Reinsch, Numer. Math. 10 (1967) 177-183).

    With uncertainties the weight is that for which the sum of squared misfits in units of them equals the number of points;
    without, generalised cross-validation chooses it (P. Craven and G. Wahba, Numer. Math. 31 (1979) 377-403).
    """
    xs, ys = (np.array([float(v) for v in values]) for values in (x, y))
    weights = np.ones(len(xs)) if errors is None else 1.0 / np.asarray(errors, dtype=float)
    if not np.all(np.isfinite(weights)) or not np.all(weights > 0):
        raise NotInterpolable("errors", "uncertainties must be positive numbers")
    system = _Reinsch(xs, ys, weights)
    weight = system.by_discrepancy() if errors is not None else system.by_cross_validation()
    values, bends, worth = system.curve(weight)
    heights = [Fraction(float(v)) for v in values]
    slopes = _slopes_of(xs, values, bends)
    notes.append(f"worth about {worth:.3g} parameters for {len(xs)} points")
    function = _hermite(name, x, heights, [Fraction(float(v)) for v in slopes], 2)
    return InterpolatedCurve(function, "smoothing", False, notes, None, float(weight), float(worth))


class _Reinsch:
    """The equations of a smoothing spline for all weights at once, by the eigenvalues of its bending energy."""

    def __init__(self, x: Any, y: Any, weights: Any) -> None:
        n, h = len(x), np.diff(x)
        if n > 2_000:
            raise NotInterpolable(
                "too-many-points", f"a smoothing curve takes at most 2000 points, not {n}", "smooth a part, or fit a model"
            )
        second = np.zeros((n, n - 2))
        inner = np.zeros((n - 2, n - 2))
        for k in range(n - 2):
            second[k, k], second[k + 1, k], second[k + 2, k] = 1 / h[k], -1 / h[k] - 1 / h[k + 1], 1 / h[k + 1]
            inner[k, k] = (h[k] + h[k + 1]) / 3
            if k + 1 < n - 2:
                inner[k, k + 1] = inner[k + 1, k] = h[k + 1] / 6
        self.y, self.weights, self.second, self.inner = y, weights, second, inner
        stiff = second @ np.linalg.solve(inner, second.T)
        scaled = stiff / weights[:, None] / weights[None, :]
        self.values, self.vectors = np.linalg.eigh((scaled + scaled.T) / 2)
        self.values = np.clip(self.values, 0.0, None)
        self.values[:2] = 0.0  # straight lines do not bend
        self.along = self.vectors.T @ (weights * y)

    def _misfit(self, weight: float) -> tuple[float, float]:
        kept = 1.0 / (1.0 + weight * self.values)
        return float(np.sum(((1 - kept) * self.along) ** 2)), float(np.sum(kept))

    def _scale(self) -> tuple[float, float]:
        inner = self.values[self.values > self.values[-1] * 1e-14]
        return -np.log(inner[-1]) - 8, -np.log(inner[0]) + 8

    def by_cross_validation(self) -> float:
        from scipy.optimize import minimize_scalar

        n = len(self.y)

        def score(log_weight: float) -> float:
            misfit, worth = self._misfit(float(np.exp(log_weight)))
            return n * misfit / max(n - worth, 1e-9) ** 2

        low, high = self._scale()
        grid = np.linspace(low, high, 81)
        best = int(np.argmin([score(v) for v in grid]))
        found = minimize_scalar(score, bounds=(grid[max(best - 1, 0)], grid[min(best + 1, 80)]), method="bounded", options={"xatol": 1e-6})
        return float(np.exp(found.x))

    def by_discrepancy(self) -> float:
        from scipy.optimize import brentq

        n = len(self.y)
        low, high = self._scale()

        def over(log_weight: float) -> float:
            return self._misfit(float(np.exp(log_weight)))[0] - n

        if over(high) < 0:
            return float(np.exp(high))  # a straight line agrees with the data already
        return float(np.exp(brentq(over, low, high, xtol=1e-10)))

    def curve(self, weight: float) -> tuple[Any, Any, float]:
        """Values and bends at the knots, and how many parameters the curve is worth."""
        kept = 1.0 / (1.0 + weight * self.values)
        values = (self.vectors @ (kept * self.along)) / self.weights
        bends = np.concatenate([[0.0], np.linalg.solve(self.inner, self.second.T @ values), [0.0]])
        return values, bends, float(np.sum(kept))


def _slopes_of(x: Any, values: Any, bends: Any) -> Any:
    h, rise = np.diff(x), np.diff(values) / np.diff(x)
    slopes = np.empty(len(x))
    slopes[:-1] = rise - h * (2 * bends[:-1] + bends[1:]) / 6
    slopes[-1] = rise[-1] + h[-1] * (bends[-2] + 2 * bends[-1]) / 6
    return slopes
