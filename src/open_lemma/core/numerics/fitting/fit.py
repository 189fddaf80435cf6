"""Fitting a model to data: what is asked, the way to the answer, and all that is to be said of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import numpy as np
from flint import arb

from ...formula.ball import precision
from ...formula.certain import decimal_interval, nearest_double
from ...formula.nodes import Formula, Number, substitute
from ..evidence import Evidence
from .arrangement import canonical
from .jumps import MOST as MOST_JUMPS
from .jumps import fit_with_jumps, jumps_of
from .least import Bounded, within_limits
from .model import MOST_PARAMETERS, Model, model_of
from .polish import MinimumProof, Normal, Rounded, decimals, polish, provable, prove
from .projection import Data, at_values
from .robust import orthogonal, robust
from .search import GROUPS, ROUNDS, Optimum, Search, search
from .statistics import CONFIDENCE, Pattern, Quality, RowInfluence, influence, pattern, quality, quantile

_UNDETERMINED = 1e-9
_CURVED = 0.15  # of the rise of the sum of squares at the ends of an interval: beyond that profiles are followed
_PROFILE_ROWS = 3_000


class NotFittable(Exception):
    """Why there is no fit: `code` for tests, `advice` for the reader."""

    def __init__(self, code: str, text: str, advice: str = "") -> None:
        super().__init__(text)
        self.code, self.text, self.advice = code, text, advice


@dataclass
class DataColumn:
    """Values as doubles, and as rational numbers or narrow balls where they are known better than that."""

    data: Any
    known: list[Any] | None = None

    def certain(self) -> list[Any]:
        return decimals(self.data) if self.known is None else self.known


@dataclass
class Problem:
    """formula: of `predictors` and `parameters`, all variables. errors: standard uncertainties of y. starts: some or all parameters."""

    formula: Formula
    predictors: tuple[str, ...]
    parameters: tuple[str, ...]
    columns: list[DataColumn]
    y: DataColumn
    errors: DataColumn | None = None
    limits: dict[str, tuple[float, float]] = field(default_factory=dict)
    starts: dict[str, float] = field(default_factory=dict)
    loss: str = "squares"
    x_errors: DataColumn | None = None


@dataclass
class Rival:
    """Another place where descents ended."""

    values: dict[str, float]
    squares: float
    hits: int
    suspect: bool


@dataclass
class ConfidenceInterval:
    """A 95 % interval; `profile` holds (value, rise of the sum of squares in units of its limit) where it was followed."""

    low: float
    high: float
    profile: list[tuple[float, float]] = field(default_factory=list)


@dataclass
class Fit:
    """values, errors, covariance: in the order of `parameters`; intervals of proof as texts, or None.

    errors are standard errors: from the residuals, or from the given uncertainties where there are any.
    """

    problem: Problem
    model: Model
    values: Any
    standard: Any
    covariance: Any
    correlation: Any
    quality: Quality
    residuals: Any
    fitted: Any
    evidence: Evidence
    enclosures: list[tuple[str, str] | None]
    intervals: list[ConfidenceInterval]
    pattern: Pattern
    influence: RowInfluence | None
    search: Search
    rivals: list[Rival]
    at_limit: list[str]
    gradient: float
    overall: bool = False
    bounded: Bounded | None = None
    notes: list[str] = field(default_factory=list)

    @property
    def parameters(self) -> tuple[str, ...]:
        return self.problem.parameters

    @property
    def half_width(self) -> float:
        return quantile(self.quality.degrees, self.problem.errors is not None)

    def slopes_at(self, xs: list[Any]) -> tuple[Any, Any]:
        """Values (m,) and slopes by the parameters (p, m) at places."""
        found = at_values(self.model.whole, xs, self.values)
        return found[0], found[1:]

    def errors_at(self, xs: list[Any], new_point: bool = False) -> tuple[Any, Any]:
        """Values and their standard errors at places: of the curve, or of one more measurement there."""
        values, slopes = self.slopes_at(xs)
        variance = np.einsum("im,ij,jm->m", slopes, self.covariance, slopes)
        if new_point:
            variance = variance + self.quality.spread**2
        return values, np.sqrt(np.maximum(variance, 0.0))


def fit(problem: Problem, seed: int = 0, quick: bool = False) -> Fit:
    """The least squares fit. Raises NotFittable, NoDerivative. quick: one round of the search, and no profiles.

    Promised: with evidence `proven` the parameters lie in their enclosures, where the sum of squares has a strict local
    minimum (the least of all where `overall`, the least within the limits where `bounded` says so); elsewhere that no other
    minimum lies below is what the search says, not the proof.
    """
    with np.errstate(all="ignore"):
        jumps = tuple(p for p in jumps_of(problem.formula, problem.parameters) if p not in problem.starts)
        if 0 < len(jumps) <= MOST_JUMPS and len(jumps) < len(problem.parameters):
            return fit_with_jumps(problem, jumps, lambda part, fast: _Fitting(part, seed, fast or quick).run(), NotFittable)
        return _Fitting(problem, seed, quick).run()


class _Fitting:
    def __init__(self, problem: Problem, seed: int, quick: bool) -> None:
        self.problem, self.seed, self.quick = problem, seed, quick
        self.inflation: float | None = None
        n, p = len(problem.y.data), len(problem.parameters)
        if p > MOST_PARAMETERS:
            raise NotFittable("too-many-parameters", f"a fit has at most {MOST_PARAMETERS} parameters, not {p}")
        if n <= p:
            said = f"{p} parameter{'s' if p != 1 else ''} and {n} point{'s' if n != 1 else ''}"
            raise NotFittable(
                "too-few-points", f"{said}: a fit needs more points than parameters, or it tells nothing",
                "interpolation of ... goes through all points; fewer parameters leave a fit something to tell",
            )  # fmt: skip
        held = frozenset(problem.limits)
        self.model = model_of(problem.formula, problem.predictors, problem.parameters, held)
        weights = None
        if problem.errors is not None:
            if not np.all(problem.errors.data > 0):
                row = int(np.flatnonzero(~(problem.errors.data > 0))[0])
                raise NotFittable("errors", f"uncertainties are above zero; the one in row {row + 1} is {problem.errors.data[row]:g}")
            weights = 1.0 / problem.errors.data
        self.data = Data([np.asarray(c.data, dtype=float) for c in problem.columns], np.asarray(problem.y.data, dtype=float), weights)

    def run(self) -> Fit:
        found = self._searched()
        if not found.optima:
            raise NotFittable(
                "no-value", "for no values of the parameters that were tried has the model a value at all points",
                "give limits or a start: limit a = 0 to 10",
            )  # fmt: skip
        rounded = self._polished(found)
        notes: list[str] = []
        if self.problem.loss != "squares":
            rounded, notes = self._robust(found, rounded)
        elif self.problem.x_errors is not None:
            rounded = self._orthogonal(rounded)
        self._determined(rounded)
        free = [k for k in range(len(self.problem.parameters)) if k not in rounded.at_limit]
        plain = self.problem.loss == "squares" and self.problem.x_errors is None
        told = self._told(found, rounded, free, self._proof(rounded, free) if plain else None)
        told.notes += notes
        return told

    # ------------------------------------------------------------ the way

    def _limits(self, names: Sequence[str]) -> Any:
        endless = (-np.inf, np.inf)
        return np.array([self.problem.limits.get(a, endless) for a in names], dtype=float).reshape(len(names), 2)

    def _searched(self) -> Search:
        names = self.model.nonlinear
        given = self.problem.starts
        limits = self._limits(names)
        if given and names and all(a in given for a in names):
            return search(self.model, self.data, limits, np.array([[given[a] for a in names]]), self.seed)
        if given and any(a in given for a in names):
            # Those that are given are held near their starts by leaving only the others to be sought.
            return self._half_given(names, limits)
        return search(self.model, self.data, limits, None, self.seed, 1 if self.quick else ROUNDS)

    def _half_given(self, names: tuple[str, ...], limits: Any) -> Search:
        """Some starts given: the other parameters are sought with these held, and all descend from there."""
        held = {a: v for a, v in self.problem.starts.items() if a in names}
        formula = substitute(self.problem.formula, {a: Number(Fraction(v)) for a, v in held.items()})
        others = tuple(a for a in self.problem.parameters if a not in held)
        part = model_of(formula, self.problem.predictors, others, frozenset(self.problem.limits))
        first = search(part, self.data, self._limits(part.nonlinear), None, self.seed)
        starts = []
        for optimum in first.optima[:8]:
            values = dict(zip(others, part.in_order(optimum.z, optimum.linear), strict=True)) | held
            starts.append([values[a] for a in names])
        rows = np.array([s for s in starts if np.isfinite(s).all()] or [[held.get(a, 1.0) for a in names]])
        found = search(self.model, self.data, limits, rows, self.seed)
        return Search(found.optima, first.starts, first.screened, first.rounds, found.rows)

    def _polished(self, found: Search) -> Rounded:
        limits = self._limits(self.problem.parameters)
        best = found.best
        first = polish(self.model, self.data, self._values(best), limits)
        if self.data.size > found.rows:
            # The ranking was made on some of the rows: the next ones are looked at on all of them.
            for other in [o for o in found.optima if o.suspect == best.suspect and best.squares < o.squares < 2 * best.squares][:3]:
                tried = polish(self.model, self.data, self._values(other), limits)
                if tried.squares < first.squares:
                    first = tried
        return first

    def _robust(self, found: Search, rounded: Rounded) -> tuple[Rounded, list[str]]:
        """The least loss from the best few places of least squares."""
        limits = self._limits(self.problem.parameters)
        starts = [rounded.values, *(self.model.in_order(o.z, o.linear) for o in found.optima[:3])]
        tried = [robust(self.model, self.data, s, limits, self.problem.loss) for s in starts if np.isfinite(s).all()]
        best = min(tried, key=lambda r: r.loss)
        self.inflation = best.inflation
        said = f"{best.lowered} of {self.data.size} points count for less than half" if self.problem.loss != "absolute" else ""
        return best.rounded, [said] if said and best.lowered else []

    def _orthogonal(self, rounded: Rounded) -> Rounded:
        assert self.problem.x_errors is not None
        spread = np.asarray(self.problem.x_errors.data, dtype=float)
        if len(self.problem.columns) != 1:
            raise NotFittable("errors", "uncertainties in both directions are taken for one variable")
        if not np.all(spread > 0):
            raise NotFittable("errors", "uncertainties are above zero; one of those along x is not")
        best = orthogonal(self.model, self.data, spread, rounded.values, self._limits(self.problem.parameters))
        # From here on each point counts with what both uncertainties make of it.
        self.data = Data(self.data.xs, self.data.y, best.weights)
        return best.rounded

    def _values(self, optimum: Optimum) -> Any:
        """Interchangeable terms in one order, signs that do not matter positive: the same data give the same answer."""
        values = self.model.in_order(optimum.z, optimum.linear)
        return values if self.problem.limits or self.problem.starts else canonical(self.model, values, self.data.xs)

    def _determined(self, rounded: Rounded) -> None:
        """Refuse what the data cannot tell: directions along which nothing changes."""
        if not np.isfinite(rounded.squares):
            raise NotFittable("no-value", self._without_value(rounded.values), "leave those points out, or give limits")
        free = [k for k in range(len(rounded.values)) if k not in rounded.at_limit]
        if not free:
            return
        _, singular, directions = np.linalg.svd(rounded.triangle[:, free])
        limit = _UNDETERMINED if self.model.nonlinear else 1e-15
        weak = np.flatnonzero(singular < limit * max(float(singular[0]), 1e-300))
        if weak.size:
            names = [self.problem.parameters[free[k]] for k in np.flatnonzero(np.abs(directions[weak]).max(0) > 0.1)]
            said = " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)
            raise NotFittable(
                "not-determined",
                f"the data cannot tell {said} apart: other values together fit as well" if len(names) > 1
                else f"the data say nothing about {said}: any value fits as well",
                f"hold one of them: fix {names[-1]} = 1, or write the model with fewer parameters",
            )  # fmt: skip

    def _without_value(self, values: Any) -> str:
        fitted = at_values(self.model.whole, self.data.xs, values)[0]
        rows = np.flatnonzero(~np.isfinite(fitted))
        if not rows.size:
            return "the model has no slope at some of the points"
        places = ", ".join(f"{a} = {x[rows[0]]:g}" for a, x in zip(self.problem.predictors, self.data.xs, strict=True))
        others = f" and {len(rows) - 1} other{'s' if len(rows) > 2 else ''}" if len(rows) > 1 else ""
        return f"the model has no value in row {rows[0] + 1}, {places}{others}"

    def _proof(self, rounded: Rounded, free: list[int]) -> MinimumProof | None:
        if not free or not provable(self.model, self.data.size):
            return None
        return prove(self.model, *self._certain(), rounded.values, free)

    def _certain(self) -> tuple[list[list[Any]], list[Any], list[Any] | None]:
        """The data as the decimals they are: columns, values, and variances where uncertainties are given."""
        problem = self.problem
        with precision(640):
            columns = [c.certain() for c in problem.columns]
            variances = None if problem.errors is None else [v * v for v in problem.errors.certain()]
            return columns, problem.y.certain(), variances

    def _bounded(self, proof: MinimumProof | None, free: list[int]) -> Bounded | None:
        """Branch and bound within the limits, where each of the parameters that are sought has both."""
        names = self.model.nonlinear
        if proof is None or not proof.minimum or self.quick or len(free) < len(self.problem.parameters):
            return None
        if not names or not all(a in self.problem.limits for a in names):
            return None
        return within_limits(self.model, Normal(self.model, *self._certain(), free), self._limits(names), proof)

    # ------------------------------------------------------------ what is to be said

    def _told(self, found: Search, rounded: Rounded, free: list[int], proof: MinimumProof | None) -> Fit:
        problem, data = self.problem, self.data
        n, p = data.size, len(problem.parameters)
        values, squares = rounded.values, rounded.squares
        enclosures: list[tuple[str, str] | None] = [None] * p
        inverse = self._inverse(rounded, free)
        if proof is not None:
            values = np.array([nearest_double(v) for v in proof.values])
            squares = nearest_double(proof.squares) if not proof.squares.contains(0) else 0.0
            inverse = np.zeros((p, p))
            for a, i in enumerate(free):
                for b, j in enumerate(free):
                    inverse[i, j] = float(proof.inverse[a, b].mid())
            if proof.minimum:
                enclosures = [decimal_interval(v) if k in free else None for k, v in enumerate(proof.values)]
        known = problem.errors is not None
        whole = at_values(self.model.whole, data.xs, values)
        fitted, slopes = whole[0], whole[1:].T
        residuals = data.y - fitted
        constant = self._follows_constant(slopes)
        # A sum of terms without a constant is measured from zero (as reference data for such fits are); any other model from the mean.
        about_zero = not constant and not self.model.nonlinear
        worth = quality(squares, n, len(free), data.y, data.weights, about_zero)
        worth.against = "" if constant else "zero" if about_zero else "the mean of the data"
        scale = 1.0 if known else worth.spread**2 if self.inflation is None else self.inflation
        covariance = inverse * scale
        standard = np.sqrt(np.maximum(np.diag(covariance), 0.0))
        standard = self._exact_errors(proof, free, worth, standard, known)
        weight = np.ones(n) if data.weights is None else data.weights
        told = Fit(
            problem, self.model, values, standard, covariance, _correlation(covariance), worth, residuals, fitted,
            self._grade(found, proof, rounded), enclosures, [], pattern(residuals * weight, fitted, data.xs[0], slopes * weight[:, None]),
            None if self.inflation is not None else influence(slopes * weight[:, None], residuals * weight, 1.0 if known else worth.spread),
            found,
            self._rivals(found), [problem.parameters[k] for k in rounded.at_limit], _steepness(slopes, residuals, weight, free),
            bool(proof is not None and proof.overall and not problem.limits),
        )  # fmt: skip
        told.bounded = self._bounded(proof, free)
        told.intervals = [self._interval(told, k, free) for k in range(p)]
        return told

    def _inverse(self, rounded: Rounded, free: list[int]) -> Any:
        p = len(rounded.values)
        inverse = np.zeros((p, p))
        if free:
            _, upper = np.linalg.qr(rounded.triangle[:, free])
            back = np.linalg.pinv(upper)
            part = back @ back.T / np.outer(rounded.size[free], rounded.size[free])
            inverse[np.ix_(free, free)] = part
        return inverse

    def _exact_errors(self, proof: MinimumProof | None, free: list[int], worth: Quality, standard: Any, known: bool) -> Any:
        """Standard errors from the balls, so that all their digits are right."""
        if proof is None or worth.degrees <= 0:
            return standard
        found = standard.copy()
        with precision(192):
            for a, k in enumerate(free):
                variance = proof.inverse[a, a] if known else proof.inverse[a, a] * proof.squares / worth.degrees
                root = variance.sqrt()
                if root.is_finite():
                    found[k] = float(root.mid())
            if not known and proof.squares > 0:
                worth.spread = float((arb(proof.squares) / worth.degrees).sqrt().mid())
        return found

    def _follows_constant(self, slopes: Any) -> bool:
        """Whether some mix of the slopes is constant, so that the model holds a constant term."""
        ones = np.ones(len(slopes))
        rest = ones - slopes @ np.linalg.lstsq(slopes, ones, rcond=None)[0]
        return bool(float(rest @ rest) < 1e-10 * len(ones))

    def _grade(self, found: Search, proof: MinimumProof | None, rounded: Rounded) -> Evidence:
        if found.best.suspect:
            return "open"
        if proof is not None and proof.minimum:
            return "proven"
        agreed = not self.model.nonlinear or found.best.independent >= 2 or bool(self.problem.starts)
        return "checked" if agreed and np.isfinite(rounded.squares) else "open"

    def _rivals(self, found: Search) -> list[Rival]:
        best = found.best
        rivals = []
        for o in [o for o in found.optima if o is not best][:4]:
            values = self.model.in_order(o.z, o.linear)
            if np.isfinite(values).all():
                named = dict(zip(self.problem.parameters, (float(v) for v in values), strict=True))
                rivals.append(Rival(named, o.squares, o.hits, o.suspect))
        return rivals

    # ------------------------------------------------------------ intervals

    def _interval(self, told: Fit, k: int, free: list[int]) -> ConfidenceInterval:
        """From the standard error where the sum of squares rises as a parabola there; else along the profile."""
        value, error = float(told.values[k]), float(told.standard[k])
        half = told.half_width * error
        plain = ConfidenceInterval(value - half, value + half)
        plain_loss = not self.quick and self.problem.loss == "squares" and self.problem.x_errors is None
        if (
            not self.model.nonlinear
            or not plain_loss
            or k not in free
            or not half > 0
            or not np.isfinite(half)
            or self.data.size > _PROFILE_ROWS
            or not told.quality.squares > 0
        ):
            return plain
        unit = 1.0 if self.problem.errors is not None else told.quality.spread**2
        profile = Profile(self.model, self.data, self._limits(self.problem.parameters), told, unit)
        for sign in (-1.0, 1.0):
            rise, _ = profile.at(k, value + sign * half, told.values + sign * half * told.covariance[:, k] / told.covariance[k, k])
            if not abs(rise - 1.0) < _CURVED:
                return profile.interval(k)
        return plain


class Profile:
    """The least sum of squares for each value of one parameter, the others following (Bates and Watts 1988, section 6.1)."""

    def __init__(self, model: Model, data: Data, limits: Any, told: Fit, unit: float) -> None:
        self.model, self.data, self.limits, self.told = model, data, limits, told
        self.goal = unit * told.half_width**2

    def interval(self, k: int) -> ConfidenceInterval:
        """The 95 % interval of the kth parameter, by Student's t; an end is None where there is none."""
        low, below = self._side(k, -1.0)
        high, above = self._side(k, 1.0)
        points = [*reversed(below), (float(self.told.values[k]), 0.0), *above]
        return ConfidenceInterval(low, high, points)

    def _side(self, k: int, sign: float) -> tuple[float, list[tuple[float, float]]]:
        told = self.told
        step = float(told.standard[k]) * told.half_width / 2
        at, values = float(told.values[k]), np.array(told.values, dtype=float)
        points: list[tuple[float, float]] = []
        before = (at, 0.0)
        for _ in range(14):
            place = before[0] + sign * step
            inside = bool(self.limits[k, 0] <= place <= self.limits[k, 1])
            rise, moved = self.at(k, place, values) if inside else (np.inf, values)
            if not np.isfinite(rise):
                return (float(self.limits[k, 0 if sign < 0 else 1]) if not inside else sign * np.inf), points
            points.append((place, rise))
            if rise >= 1.0:
                return self._between(k, before, (place, rise), values, points), points
            before, values = (place, rise), moved
            step *= 1.0 if rise > 0.25 else 1.5
        return sign * np.inf, points

    def _between(
        self, k: int, low: tuple[float, float], high: tuple[float, float], values: Any, points: list[tuple[float, float]]
    ) -> float:
        """Where the rise is 1, by the chord of its root, which is nearly straight."""
        for _ in range(8):
            share = (1 - np.sqrt(max(low[1], 0))) / (np.sqrt(high[1]) - np.sqrt(max(low[1], 0)))
            place = low[0] + float(np.clip(share, 0.02, 0.98)) * (high[0] - low[0])
            rise, _ = self.at(k, place, values)
            if abs(rise - 1) < 1e-4:
                return place
            low, high = ((place, rise), high) if rise < 1 else (low, (place, rise))
        points[-1] = high
        return (low[0] + high[0]) / 2

    def at(self, k: int, place: float, values: Any) -> tuple[float, Any]:
        """How far the sum of squares rises where one parameter is held at a place, in units of its limit; and the others there."""
        start = np.array(values, dtype=float)
        start[k] = place
        limits = self.limits.copy()
        limits[k] = place, place
        found = polish(self.model, self.data, start, limits)
        return (found.squares - self.told.quality.squares) / self.goal, found.values


def _correlation(covariance: Any) -> Any:
    size = np.sqrt(np.maximum(np.diag(covariance), 0.0))
    size[size == 0] = 1.0
    return np.clip(covariance / np.outer(size, size), -1.0, 1.0)


def _steepness(slopes: Any, residuals: Any, weight: Any, free: list[int]) -> float:
    """The cosine between the residuals and what the parameters can follow: 0 at a minimum (Bates and Watts 1988, section 2.2.3)."""
    r = residuals * weight
    total = float(np.sqrt(r @ r))
    if not free or total == 0:
        return 0.0
    part = slopes[:, free] * weight[:, None]
    size = np.sqrt((part * part).sum(0))
    size[size == 0] = 1.0
    frame, _ = np.linalg.qr(part / size)
    return float(np.linalg.norm(frame.T @ r)) / total


# ---------------------------------------------------------------- one answer of several alike


__all__ = ["CONFIDENCE", "GROUPS", "DataColumn", "Fit", "ConfidenceInterval", "NotFittable", "Problem", "Profile", "Rival", "fit"]
