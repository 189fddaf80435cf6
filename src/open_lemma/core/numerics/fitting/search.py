"""The search for the best values of the nonlinear parameters, from many starts that the data suggest.

Thousands of quasi-random places are screened; the winners of independent tournaments are refined, terms are drawn anew one at
a time, and the search ends when independent starts agree. How many did is part of the evidence.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ...formula import catalogue as c
from ...formula.domain import divided_by
from ...formula.nodes import ZERO, Apply, expanded, variables, walk
from ...formula.tape import Tape
from .model import Model, linear_form
from .projection import Data, at_values, descend, evaluated, project, scores
from .scales import ParameterSampler

GROUPS = 32  # independent tournaments
ENOUGH = GROUPS // 4  # of their winners must end at one place
_REFINED, _SCREENED = 400, 120  # rows that are looked at
ROUNDS = 4  # of tournaments at most
_HOPS = 6
_SAME = 1e-6


@dataclass
class Optimum:
    """One place where descents ended. `hits` of all descents, `independent` of those from tournaments of their own.

    suspect  that the model has a pole, a jump or wild swings between the points there
    swing    how far the curve goes away from the points between them, where it may be an alias of a slower one
    """

    squares: float
    z: Any
    linear: Any
    hits: int = 0
    independent: int = 0
    suspect: bool = False
    swing: float = 0.0
    rounds: set[int] = field(default_factory=set)


@dataclass
class Search:
    optima: list[Optimum]  # the best first
    starts: int
    screened: int
    rounds: int
    rows: int

    @property
    def best(self) -> Optimum:
        return best_of(self.optima)


def best_of(optima: list[Optimum]) -> Optimum:
    """The best that is no artefact, unless the artefacts are far better."""
    plain = [o for o in optima if not o.suspect]
    return plain[0] if plain and plain[0].squares < 4 * optima[0].squares else optima[0]


def search(model: Model, data: Data, limits: Any, starts: Any = None, seed: int = 0, rounds: int = ROUNDS) -> Search:
    """Find the optima of a model.

    limits  shape (k, 2), infinite where there is none
    starts  given places of the nonlinear parameters, shape (m, k): they alone are descended from
    """
    if not model.nonlinear:
        found = project(model, data, np.zeros((1, 0)))
        return Search([Optimum(float(found.squares[0]), np.zeros(0), found.linear[0], 1, 1)], 1, 0, 1, data.size)
    return _Searching(model, data, limits, seed).run(starts, rounds)


class _Searching:
    def __init__(self, model: Model, data: Data, limits: Any, seed: int) -> None:
        self.model, self.limits = model, limits
        self.data = _thinned(data, _REFINED)
        self.few = _thinned(self.data, _SCREENED)
        self.sampler = ParameterSampler(model, self.data.xs, self.data.y, limits, seed)
        self.optima: list[Optimum] = []
        self.screened = 0
        self.total = self.data.total
        self.breaks = _Breaks(model)

    def run(self, starts: Any, rounds: int) -> Search:
        if starts is not None:
            self._record(starts, len(starts), 0)
            return Search(self.optima, len(starts), 0, 1, self.data.size)
        terms = terms_of(self.model)
        blocks = [t for t in terms if len(t) > 1] or terms
        pairs = [tuple(sorted({*a, *b})) for a, b in itertools.combinations(blocks, 2)][:12]
        tried = 0
        done = 0
        for done in range(1, rounds + 1):
            winners = self._tournaments(done - 1)
            self._record(np.concatenate([winners, self._sweeps(winners, terms), self._ratio_starts()]), GROUPS, done)
            tried += GROUPS
            if not self.optima:
                continue
            best = best_of(self.optima)
            if best.independent >= ENOUGH and not self._loose(best):
                break
            if rounds == 1:
                break
            self._hop(terms + pairs)
            best = best_of(self.optima)
            if len(best.rounds) > 1 and not self._loose(best):
                break
        return Search(self.optima, tried, self.screened, done, self.data.size)

    def _tournaments(self, earlier: int) -> Any:
        """The best of each group, refined a little."""
        k = len(self.model.nonlinear)
        drawn = self.sampler.draw(256 * 2 ** min(k, 4) * 4 ** min(earlier, 2))
        self.screened += len(drawn)
        ranked = scores(self.model, self.few, drawn).reshape(-1, GROUPS).T
        groups = drawn.reshape(-1, GROUPS, k).swapaxes(0, 1)
        return groups[np.arange(GROUPS), np.argmin(ranked, 1)]

    def _sweeps(self, winners: Any, terms: list[tuple[int, ...]]) -> Any:
        """The best few winners with one term after the other drawn anew."""
        if len(self.model.nonlinear) < 2:
            return winners[:0]
        refined, squares, _ = descend(self.model, self.data, winners, self.limits, 25)
        top = refined[np.argsort(squares)[:8]]
        for term in terms * 2:
            top = self._redrawn(top, term, 128, 1)
        return top

    def _redrawn(self, top: Any, term: tuple[int, ...], n: int, keep: int) -> Any:
        """For each row the best `keep` of n with one term drawn anew; with keep 1 the row itself takes part."""
        drawn = self.sampler.draw(n * len(top), term, np.repeat(top, n, 0))
        if keep == 1:
            drawn[::n] = top
        self.screened += len(drawn)
        ranked = scores(self.model, self.few, drawn).reshape(len(top) * keep, -1)
        return drawn[np.argmin(ranked, 1) + ranked.shape[1] * np.arange(len(ranked))]

    def _hop(self, terms: list[tuple[int, ...]]) -> None:
        """From the best place on, as long as drawing a term anew leads to a better one."""
        for _ in range(_HOPS):
            best = best_of(self.optima)
            before = best.squares
            self._record(np.concatenate([self._redrawn(best.z[None], t, 512, 8) for t in terms]), 0, None)
            if best_of(self.optima).squares >= before * (1 - _SAME):
                break

    def _record(self, starts: Any, independent: int, done: int | None) -> None:
        """Descend, and count where each start ends; `done` None: found on the way, which is no evidence."""
        places, squares, linear = descend(self.model, self.data, starts, self.limits, 200)
        for row, (value, z, lin) in enumerate(zip(squares, places, linear, strict=True)):
            if not np.isfinite(value) or not self._allowed(z, lin):
                continue
            suspect = self.breaks.inside(self.data, z, lin)
            swing = self.breaks.swing(self.data, z, lin) if self.sampler.frequencies else 0.0
            for known in self.optima:
                if known.suspect == suspect and abs(value - known.squares) <= _SAME * known.squares + 1e-25 * self.total:
                    # Of waves that go through the same points the slowest is meant.
                    if swing < 0.8 * known.swing or (value < known.squares and swing < 1.25 * known.swing + 1e-300):
                        known.squares, known.z, known.linear, known.swing = float(value), z, lin, swing
                    break
            else:
                known = Optimum(float(value), z, lin, suspect=suspect, swing=swing)
                self.optima.append(known)
            if done is not None:
                known.hits += 1
                known.independent += row < independent
                known.rounds.add(done)
        self.optima.sort(key=lambda o: o.squares)

    def _allowed(self, z: Any, linear: Any) -> bool:
        """exp(k*a) is above zero whatever a is."""
        names = [*self.model.nonlinear, *self.model.linear]
        return all(value > 0 for name, value in zip(names, [*z, *linear], strict=True) if name in self.model.logarithms)

    def _loose(self, optimum: Optimum) -> bool:
        """Whether some relative change of the nonlinear parameters leaves the fit as it is: a runaway."""
        slopes = project(self.model, self.data, optimum.z[None]).slopes[0] * np.abs(optimum.z)
        return bool(np.linalg.svd(np.nan_to_num(slopes), compute_uv=False)[-1] < 1e-10 * np.sqrt(self.total))

    def _ratio_starts(self) -> Any:
        """Of a quotient whose parts are linear in all parameters: y*below - above = 0 is solved, reweighted."""
        parts = _quotient(self.model)
        k = len(self.model.nonlinear)
        if parts is None:
            return np.zeros((0, k))
        above, below = (evaluated(t, *self.data.xs) for t in parts)
        weight = np.ones(self.data.size)
        found = []
        for _ in range(6):
            matrix = ((above - self.data.y * below)[:-1] * weight).T
            size = np.sqrt((matrix * matrix).sum(0))
            size[size == 0] = 1.0
            right = (self.data.y * below[-1] - above[-1]) * weight
            solved = np.linalg.lstsq(matrix / size, right, rcond=1e-13)[0] / size
            found.append([solved[self.model.parameters.index(a)] for a in self.model.nonlinear])
            under = np.abs(solved @ below[:-1] + below[-1])
            weight = 1.0 / np.maximum(under, 1e-6 * under.max())
        rows = np.array(found)
        return rows[np.isfinite(rows).all(1)]


def _thinned(data: Data, most: int) -> Data:
    """At most so many rows, evenly along the predictors."""
    if data.size <= most:
        return data
    order = np.lexsort(data.xs[::-1])
    return data.rows(order[np.linspace(0, data.size - 1, most).round().astype(int)])


def terms_of(model: Model) -> list[tuple[int, ...]]:
    """Groups of nonlinear parameters that enter one term together, and each alone; the largest first."""
    names = model.nonlinear
    groups = {tuple(k for k, a in enumerate(names) if a in variables(f)) for f in model.coefficients}
    found = {g for g in groups if 0 < len(g) < len(names)} | {(k,) for k in range(len(names))}
    return sorted(sorted(found), key=len, reverse=True)


def _quotient(model: Model) -> tuple[Tape, Tape] | None:
    """The model as a quotient of two formulas that are linear in all parameters."""
    whole = expanded(model.inner)
    if not (isinstance(whole, Apply) and whole.entry is c.DIVIDE):
        return None
    tapes = []
    for part in whole.arguments:
        form = linear_form(part, frozenset(model.parameters))
        if form is None:
            return None
        tapes.append(Tape([*(form[0].get(a, ZERO) for a in model.parameters), form[1]], model.predictors))
    return tapes[0], tapes[1]


class _Breaks:
    """Poles and jumps of a model between the points, and swings that the points do not see."""

    def __init__(self, model: Model) -> None:
        self.model = model
        divisors = [divided_by(n) for n in walk(model.inner)]
        self.divisors = [d for d in divisors if d is not None and variables(d) & set(model.predictors)]
        names = [*model.predictors, *model.nonlinear, *model.linear]
        self.tape = Tape(self.divisors, names) if self.divisors else None

    def inside(self, data: Data, z: Any, linear: Any) -> bool:
        if len(data.xs) > 1 or data.size < 3:
            return False if self.tape is None else bool(self._changing(data.xs, z, linear).any())
        places = np.unique(data.xs[0])
        # Data that are all the same have no height of their own.
        tall = max(float(np.ptp(data.y)), 1e-6 * float(np.abs(data.y).max()), 1e-300)
        if self.tape is not None and self._pole(places, z, linear, data, tall):
            return True
        return not self.swing(data, z, linear) < tall

    def swing(self, data: Data, z: Any, linear: Any) -> float:
        """How far the middles between neighbouring places lie from the mean of both."""
        if len(data.xs) > 1:
            return 0.0
        places = np.unique(data.xs[0])
        at, middle = (self._values([p], z, linear) for p in (places, (places[1:] + places[:-1]) / 2))
        return float(np.max(np.abs(middle - (at[1:] + at[:-1]) / 2), initial=0.0))

    def _values(self, xs: list[Any], z: Any, linear: Any) -> Any:
        found = at_values(self.model.basis, xs, z)
        return linear @ found[:-1] + found[-1]

    def _divided(self, xs: list[Any], z: Any, linear: Any) -> Any:
        assert self.tape is not None
        return at_values(self.tape, xs, [*z, *linear])

    def _changing(self, xs: list[Any], z: Any, linear: Any) -> Any:
        values = self._divided(xs, z, linear)
        return (values > 0).any(1) & (values < 0).any(1)

    def _pole(self, places: Any, z: Any, linear: Any, data: Data, tall: float) -> bool:
        """Whether a divisor changes its sign at a true pole; where the numerator vanishes too there is none."""
        values = self._divided([places], z, linear)
        for t in np.flatnonzero((values > 0).any(1) & (values < 0).any(1)):
            row = values[t]
            turns = np.flatnonzero(row[1:] * row[:-1] < 0)
            a, b, sign = places[turns], places[turns + 1], np.sign(row[turns])
            for _ in range(40):
                half = (a + b) / 2
                left = np.sign(self._divided([half], z, linear)[t]) == sign
                a, b = np.where(left, half, a), np.where(left, b, half)
            step = 1e-6 * float(np.ptp(places))
            before, after = self._values([a - step], z, linear), self._values([a + step], z, linear)
            calm = np.abs(after - before).max(initial=0.0) < 0.1 * tall
            if not (calm and np.abs(after).max(initial=0.0) < 10 * np.abs(data.y).max()):
                return True
        return False
