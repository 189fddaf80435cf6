"""The lowest value of a function of up to ten variables in a box, by several methods that know nothing of each other.

Differential evolution, simulated annealing and descents from many starts (SciPy) each propose a place, which Newton-like
steps polish. What at least two of them agree on is *checked*; a certificate (`certify_several`) then tries to show
that nothing lies below, which makes it *proven*. Random numbers come from fixed seeds, so a rerun gives the same.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np
from scipy import optimize

from ...formula.calculus import NoDerivative, derivative
from ...formula.certain import certain_value
from ...formula.nodes import Formula
from ...formula.tape import NoScalar, Tape
from ..evidence import Evidence
from ..roots.search import NotSearchable
from .stationary import Bounds, Constraint, Ends, least_value

MOST_VARIABLES = 10
_STARTS = 60
_ALIKE = 1e-7
_SEED = 20
_ROUGH = 1e-9  # share of the value that a step of a first descent gains at least
_CLOSE = 1e-4  # of the box, or of the value: what lies so close counts as the same
_FEWEST = 3  # descents that go on in any case
_NO_VALUE = 1e300  # stands for a value where there is none, so that every method turns away from it


@dataclass(frozen=True, slots=True)
class FoundLowest:
    """places: where the value is taken as nearly as was found, the lowest first."""

    places: list[tuple[float, ...]]
    value: float
    evidence: Evidence
    agreeing: list[str]


def lowest_of_many(formula: Formula, names: Sequence[str], ends: Ends, conditions: Sequence[Constraint] = ()) -> FoundLowest:
    """Where a function of several variables has its lowest value in a box, where the conditions hold. Raises NotSearchable."""
    if len(names) > MOST_VARIABLES:
        raise NotSearchable(f"a search goes over at most {MOST_VARIABLES} variables, not {len(names)}")
    return _GlobalSearch(formula, names, ends, conditions).run()


def bounds_of_many(
    formula: Formula, names: Sequence[str], ends: Ends, conditions: Sequence[Constraint], found: FoundLowest
) -> Bounds | None:
    """Between what the lowest value lies, by branch and bound; None where that says nothing."""
    try:
        return least_value(formula, names, ends, conditions, found.places, 20_000 if len(names) <= 4 else 6_000)
    except NotSearchable:
        return None


class _GlobalSearch:
    def __init__(self, formula: Formula, names: Sequence[str], ends: Ends, conditions: Sequence[Constraint]) -> None:
        self.formula, self.names, self.ends, self.conditions = formula, list(names), list(ends), list(conditions)
        self.tape = Tape([formula], self.names)
        try:
            self.slopes: Tape | None = Tape([derivative(formula, v) for v in self.names], self.names)
        except NoDerivative:
            self.slopes = None
        self.limits = Tape([k.formula for k in self.conditions], self.names) if self.conditions else None
        self.low = np.array([certain_value(a).value for a, _ in self.ends])
        self.high = np.array([certain_value(b).value for _, b in self.ends])
        if not (np.isfinite(self.low).all() and np.isfinite(self.high).all() and (self.low < self.high).all()):
            raise NotSearchable("each window must run from a lower to a higher finite number")

    # ------------------------------------------------------------ what the methods ask

    def _value(self, x: Any) -> float:
        return self._numbers(self.tape, x, _NO_VALUE)[0]

    def _slope(self, x: Any) -> Any:
        assert self.slopes is not None
        return np.array(self._numbers(self.slopes, x, 0.0))

    def _numbers(self, tape: Tape, x: Any, instead: float) -> list[float]:
        """The results of a tape at one place; `instead` where there is no value."""
        try:
            found = [float(v) for v in tape.scalar_all(False)(*map(float, x))]
        except (ArithmeticError, ValueError, NoScalar):  # no value there, or none on single numbers
            found = [float(np.asarray(v)) for v in tape.numeric(*x)]
        return [v if np.isfinite(v) else instead for v in found]

    def _excess(self, x: Any) -> Any:
        assert self.limits is not None
        found = self._numbers(self.limits, x, _NO_VALUE)
        return np.array([abs(v) if k.equation else v for v, k in zip(found, self.conditions, strict=True)])

    def _many(self, xs: Any) -> Any:
        """`_penalised` for places in columns, shape (variables, n)."""
        value = np.broadcast_to(self.tape.numeric(*xs)[0], xs.shape[1:]).astype(float)
        value = np.where(np.isfinite(value), value, _NO_VALUE)
        if self.limits is None:
            return value
        beyond = np.zeros_like(value)
        for v, k in zip(self.limits.numeric(*xs), self.conditions, strict=True):
            part = np.clip(np.abs(v) if k.equation else v, 0, None)
            beyond = beyond + np.where(np.isfinite(part), part + part**2, _NO_VALUE)
        return value + 1e4 * (1 + np.abs(value)) * beyond

    def _allowed(self, x: Any, room: float = 1e-9) -> bool:
        return self.limits is None or bool((self._excess(x) <= room).all())

    def _penalised(self, x: Any) -> float:
        value = self._value(x)
        if self.limits is None:
            return value
        beyond = np.clip(self._excess(x), 0, None)
        return value + 1e4 * (1 + abs(value)) * float(np.sum(beyond + beyond**2))

    # ------------------------------------------------------------ the methods

    def run(self) -> FoundLowest:
        proposals: dict[str, list[Any]] = {}
        bounds = list(zip(self.low, self.high, strict=True))
        with np.errstate(all="ignore"):
            proposals["descents from many starts"] = self._descents()
            evolved = optimize.differential_evolution(
                self._many, bounds, seed=_SEED, maxiter=120 + 30 * len(self.names), popsize=12, tol=1e-10, polish=False,
                vectorized=True, updating="deferred",
            )  # fmt: skip
            proposals["differential evolution"] = [self._polished(evolved.x)]
            annealed = optimize.dual_annealing(self._penalised, bounds, seed=_SEED, maxiter=250, no_local_search=False)
            proposals["simulated annealing"] = [self._polished(annealed.x)]
        best = {
            name: min((self._value(x), tuple(x)) for x in places if self._allowed(x, 1e-7))
            for name, places in proposals.items()
            if any(self._allowed(x, 1e-7) for x in places)
        }
        if not best:
            raise NotSearchable("no place was found at which the conditions hold" if self.conditions else "no place with a value was found")
        lowest = min(v for v, _ in best.values())
        room = _ALIKE * max(1.0, abs(lowest))
        agreeing = sorted(name for name, (v, _) in best.items() if v <= lowest + room)
        proposals["plain fractions"] = [self._plain(x) for x in list(best.values())]
        lowest = min(lowest, *(self._value(x) for x in proposals["plain fractions"]))
        places: list[tuple[float, ...]] = []
        for x in sorted((tuple(map(float, x)) for found in proposals.values() for x in found if self._allowed(x, 1e-7)), key=self._value):
            apart = all(self._apart(np.array(x), np.array(p), lowest + room) for p in places)
            if self._value(x) <= lowest + room and apart:
                places.append(x)
        return FoundLowest(sorted(places[:20]), lowest, "checked" if len(agreeing) > 1 else "open", agreeing)

    def _plain(self, found: tuple[float, tuple[float, ...]]) -> Any:
        """The plain fractions next to a place, if the value is no higher there."""
        value, x = found
        near = np.array([float(Fraction(v).limit_denominator(100)) for v in x])
        near = np.clip(near, self.low, self.high)
        close = np.abs(near - np.array(x)).max() < 1e-3 * (self.high - self.low).max()
        return near if close and self._value(near) <= value and self._allowed(near, 1e-12) else np.array(x)

    def _apart(self, x: Any, other: Any, level: float) -> bool:
        """Whether two places are two: far from each other, with higher values between them."""
        return not self._near(x, other) and any(self._value(other + (x - other) * s) > level for s in (0.25, 0.5, 0.75))

    def _near(self, x: Any, other: Any) -> bool:
        return bool(np.abs(x - other).max() <= _CLOSE * (self.high - self.low).max())

    def _descents(self) -> list[Any]:
        """Descents from many starts, roughly; those that end lowest go on as far as they can."""
        random = np.random.Generator(np.random.PCG64(_SEED))
        starts = np.vstack([(self.low + self.high) / 2, random.uniform(self.low, self.high, (_STARTS, len(self.low)))])
        rough = sorted((self._descended(s, _ROUGH) for s in starts), key=self._penalised)
        lowest = self._penalised(rough[0])
        ends: list[Any] = []
        for x in rough:
            if self._penalised(x) > lowest + _CLOSE * max(1.0, abs(lowest)) and len(ends) >= _FEWEST:
                break
            if not any(self._near(x, e) for e in ends):
                ends.append(x)
        return [self._polished(x) for x in ends]

    def _polished(self, start: Any) -> Any:
        return self._descended(start, 1e-16)

    def _descended(self, start: Any, least_gain: float) -> Any:
        """Where a descent ends that goes on while a step gains more than such a share of the value."""
        bounds = list(zip(self.low, self.high, strict=True))
        jacobian = self._slope if self.slopes is not None else None
        if self.limits is not None:
            kept = [
                {"type": "eq" if k.equation else "ineq", "fun": lambda x, i=i: -self._numbers(self.limits, x, _NO_VALUE)[i]}  # type: ignore[arg-type]
                for i, k in enumerate(self.conditions)
            ]
            found = optimize.minimize(self._value, start, jac=jacobian, bounds=bounds, method="SLSQP", constraints=kept,
                                      options={"maxiter": 300, "ftol": least_gain * 10})  # fmt: skip
        else:
            found = optimize.minimize(self._value, start, jac=jacobian, bounds=bounds, method="L-BFGS-B",
                                      options={"maxiter": 500, "maxfun": 1_000, "ftol": least_gain, "gtol": 1e-12})  # fmt: skip
        x = np.clip(found.x, self.low, self.high)
        better = self._penalised(x) <= self._penalised(start)
        return x if better and np.isfinite(x).all() else np.asarray(start, dtype=float)
