"""Natural units of parameters, found from the formula by dimensional analysis, and quasi-random places in them.

A formula ties the units of its parameters to those of its variables: in `A*exp(-k*t)` A has the unit of y and k that of 1/t.
So the scale on which each is sought comes from the data alone, whatever units they are in.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from scipy.stats import qmc

from ...formula import catalogue as c
from ...formula.calculus import NoDerivative, derivative
from ...formula.exact import rational
from ...formula.nodes import Apply, Formula, Number, Variable, expanded, variables, walk
from ...formula.tape import Tape
from .model import Model, linear_form

Dimension = tuple[Any, Any]  # exponents over the parameters, and over the predictors and y
_ANGLES = frozenset(["sin", "cos", "tan"])
_OF_NUMBERS = frozenset("exp sinh cosh tanh erf erfc atan".split())
_LARGE = 1.0  # powers of ten that a number beside a parameter is off from one, to be heeded
_FAR, _NEAR, _FINE = 30.0, 30.0, 2000.0


class _Dimensions:
    """Equations between the unknown units of the parameters."""

    def __init__(self, model: Model, formula: Formula | None = None) -> None:
        self.parameters, self.predictors = model.parameters, model.predictors
        self.base = len(self.predictors) + 1
        self.equations: list[tuple[Any, Any]] = []
        self.done: dict[int, Dimension | None] = {}
        target = self.none()
        target[1][-1] = 1.0
        self.same(self.of(model.inner if formula is None else formula), target)

    def none(self) -> Dimension:
        return np.zeros(len(self.parameters)), np.zeros(self.base)

    def same(self, one: Dimension | None, other: Dimension | None) -> None:
        if one is not None and other is not None and np.any(one[0] != other[0]):
            self.equations.append((one[0] - other[0], other[1] - one[1]))

    def of(self, formula: Formula) -> Dimension | None:
        if id(formula) not in self.done:
            self.done[id(formula)] = self._new(expanded(formula))
        return self.done[id(formula)]

    def _new(self, formula: Formula) -> Dimension | None:
        if isinstance(formula, Variable):
            found = self.none()
            if formula.name in self.parameters:
                found[0][self.parameters.index(formula.name)] = 1.0
            elif formula.name in self.predictors:
                found[1][self.predictors.index(formula.name)] = 1.0
            return found
        if not isinstance(formula, Apply) or not variables(formula):
            return self.none()
        entry, args = formula.entry, formula.arguments
        if entry in (c.MULTIPLY, c.DIVIDE):
            sign = 1.0 if entry is c.MULTIPLY else -1.0
            one, other = self.of(args[0]), self.of(args[1])
            return None if one is None or other is None else (one[0] + sign * other[0], one[1] + sign * other[1])
        if entry is c.NEGATIVE or entry.name == "abs":
            return self.of(args[0])
        if entry in (c.ADD, c.SUBTRACT) or entry.name in ("min", "max"):
            return self._alike(_terms(formula) if entry in (c.ADD, c.SUBTRACT) else list(args))
        if entry is c.CHOOSE:
            self.of(args[0])
            return self._alike(list(args[1:]))
        if entry.category == "condition":
            return self._alike(list(args)) if entry.name not in ("and", "or", "not") else next(self.of(a) for a in args)
        if entry is c.POWER or entry.name in ("sqrt", "cbrt"):
            return self._power(formula)
        inside = [self.of(a) for a in args]
        if entry.name not in ("ln", "log10", "log2"):
            for part in inside:
                self.same(part, self.none())
        return self.none()

    def _power(self, formula: Apply) -> Dimension | None:
        name, args = formula.entry.name, formula.arguments
        base = self.of(args[0])
        exponent = {"sqrt": 0.5, "cbrt": 1 / 3}.get(name)
        if exponent is None:
            plain = rational(args[1]) if not variables(args[1]) else None
            if plain is None and variables(args[1]):
                self.same(self.of(args[1]), self.none())
                return None if variables(args[0]) else self.none()
            exponent = float(plain) if plain is not None else None
        return None if base is None or exponent is None else (base[0] * exponent, base[1] * exponent)

    def _alike(self, parts: list[Formula]) -> Dimension | None:
        found = [(p, self.of(p)) for p in parts]
        plain = [d for p, d in found if not variables(p)]
        known = [d for p, d in found if variables(p) and d is not None and not d[0].any()]
        others = [d for p, d in found if variables(p) and d is not None]
        reference = known[0] if known else plain[0] if plain else others[0] if others else None
        for part, dimension in found:
            if variables(part):
                self.same(dimension, reference)
        return reference

    def tied(self) -> bool:
        """Whether the equations leave no unit of a parameter open."""
        if not self.equations:
            return False
        return int(np.linalg.matrix_rank(np.array([e[0] for e in self.equations]))) == len(self.parameters)

    def solved(self) -> Any:
        """Exponents of each parameter over the predictors and y, shape (parameters, predictors + 1)."""
        if not self.equations:
            return np.zeros((len(self.parameters), self.base))
        left, right = np.array([e[0] for e in self.equations]), np.array([e[1] for e in self.equations])
        return np.round(np.linalg.lstsq(left, right, rcond=None)[0], 6)


def natural_units(model: Model, formula: Formula) -> dict[str, list[float]]:
    """The unit of each parameter as exponents over those of the predictors and of y; nothing where the formula leaves one open."""
    found = _Dimensions(model, formula)
    if not found.tied():
        return {}
    return {a: [float(v) for v in row] for a, row in zip(model.parameters, found.solved(), strict=True)}


def _terms(formula: Formula) -> list[Formula]:
    """The terms of a sum, however it is nested; signs are left off."""
    formula = expanded(formula)
    if isinstance(formula, Apply) and formula.entry in (c.ADD, c.SUBTRACT):
        return _terms(formula.arguments[0]) + _terms(formula.arguments[1])
    if isinstance(formula, Apply) and formula.entry is c.NEGATIVE:
        return _terms(formula.arguments[0])
    return [formula]


def _sums(formula: Formula) -> list[Apply]:
    """Sums that are no part of a larger sum."""
    inner = {
        id(expanded(a)) for n in walk(formula) if isinstance(n, Apply) and n.entry in (c.ADD, c.SUBTRACT, c.NEGATIVE) for a in n.arguments
    }  # fmt: skip
    return [n for n in walk(formula) if isinstance(n, Apply) and n.entry in (c.ADD, c.SUBTRACT) and id(n) not in inner]


@dataclass
class ParameterSampler:
    """Draws values of the nonlinear parameters: seeded, the same ones every time.

    xs      arrays of shape (n,), one a predictor; y of shape (n,)
    limits  (low, high) of each nonlinear parameter, infinite where there is none
    """

    model: Model
    xs: list[Any]
    y: Any
    limits: Any
    seed: int = 0
    frequencies: dict[int, tuple[float, float, float, float]] = field(default_factory=dict)
    crossings: dict[int, list[Tape]] = field(default_factory=dict)
    factors: dict[int, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        model = self.model
        exponents = _Dimensions(model).solved()
        self.exponents = np.array([exponents[model.parameters.index(a)] for a in model.nonlinear]).reshape(len(model.nonlinear), -1)
        spans = [float(np.ptp(x)) or 1.0 for x in self.xs]
        gaps = [float(np.median(np.diff(np.unique(x)))) if len(np.unique(x)) > 1 else 1.0 for x in self.xs]
        rise = float(np.std(self.y)) / _NEAR or 1e-3
        self.low = np.log([*(max(g / 2, s / _FINE) for g, s in zip(gaps, spans, strict=True)), rise])
        tall = max(float(np.max(np.abs(self.y))), 1e-300)
        self.high = np.log([*(_FAR * max(s, float(np.max(np.abs(x)))) for s, x in zip(spans, self.xs, strict=True)), tall * _FAR])
        # Rows that stand out from the middle are likelier to be where something happens.
        away = np.abs(self.y - np.median(self.y))
        weight = 0.5 * away / max(float(away.sum()), 1e-300) + 0.5 / len(self.y)
        self.likely = weight / weight.sum()
        self._find_frequencies(spans, gaps)
        self._find_crossings()
        self._find_factors()

    def _find_factors(self) -> None:
        """Large or small numbers beside a parameter inside of functions of plain numbers: in exp(14388/(x*T)) T is sought 14388 times
        higher than its unit says, where the exponent is about one."""
        model = self.model
        names = [*model.predictors, *model.parameters]
        for node in walk(model.inner):
            if not (isinstance(node, Apply) and node.entry.name in _OF_NUMBERS):
                continue
            for term in _terms(node.arguments[0]):
                mine = [j for j, name in enumerate(model.nonlinear) if name in variables(term)]
                if len(mine) != 1 or mine[0] in self.frequencies or variables(term) & set(model.linear):
                    continue
                tape, name = Tape([term], names), model.nonlinear[mine[0]]
                at = [np.array([2.0 if n == name else 1.0, 1.0]) for n in names]
                twice, once = np.abs(np.broadcast_to(tape.numeric(*at)[0], (2,)))
                if not (np.isfinite([twice, once]).all() and twice > 0 and once > 0) or twice == once:
                    continue
                factor = float(once ** (-1.0 / np.log2(twice / once)))
                if np.isfinite(factor) and abs(np.log10(factor)) > _LARGE:
                    self.factors[mine[0]] = factor

    def _find_frequencies(self, spans: list[float], gaps: list[float]) -> None:
        """Parameters that multiply a predictor inside of a sine: sought evenly, up to the highest that the samples can tell."""
        model = self.model
        ones = [np.ones(1)] * (len(model.predictors) + len(model.parameters))
        for node in walk(model.inner):
            if not (isinstance(node, Apply) and node.entry.name in _ANGLES):
                continue
            for i, predictor in enumerate(model.predictors):
                try:
                    rate = derivative(node.arguments[0], predictor)
                except NoDerivative:
                    continue
                for j, name in enumerate(model.nonlinear):
                    if name in variables(rate) and abs(self.exponents[j, i]) == 1:
                        factor = abs(float(np.ravel(Tape([rate], [*model.predictors, *model.parameters]).numeric(*ones)[0])[0])) or 1.0
                        self.frequencies[j] = (np.pi / spans[i] / 4, np.pi / gaps[i], factor, float(self.exponents[j, i]))

    def _find_crossings(self) -> None:
        """Parameters that shift a sum of predictors through zero: places, which are sought at the data."""
        model = self.model
        for total in _sums(model.inner):
            if any(isinstance(n, Apply) and (n.entry.name == "exp" or n.entry.name in _ANGLES) for n in walk(total)):
                continue
            for j, name in enumerate(model.nonlinear):
                form = linear_form(total, frozenset({name}))
                rate = rational(form[0][name]) if form is not None and name in form[0] and not variables(form[0][name]) else None
                if form is None or not rate or not variables(form[1]) & set(model.predictors) or variables(form[1]) & set(model.linear):
                    continue
                place = c.minus(c.over(form[1], Number(rate)))
                self.crossings.setdefault(j, []).append(Tape([place], [*model.predictors, *model.nonlinear]))

    def draw(self, n: int, columns: tuple[int, ...] | None = None, base: Any = None) -> Any:
        """n rows of values; with `base` (n rows) only some columns are drawn anew."""
        k = len(self.model.nonlinear)
        points = qmc.Sobol(3 * k, seed=self.seed).random(n)
        self.seed += 1
        rng = np.random.default_rng(self.seed)
        rows = np.empty((n, k)) if base is None else np.array(base)
        chosen = range(k) if columns is None else columns
        for j in chosen:
            rows[:, j] = self._scaled(j, points[:, 3 * j : 3 * j + 3], rng)
        for j in chosen:
            if j in self.crossings:
                self._cross(rows, j, points[:, 3 * j + 1], rng)
        for j in chosen:
            self._limit(rows, j, points[:, 3 * j])
        return rows

    def _scaled(self, j: int, drawn: Any, rng: Any) -> Any:
        a, b, sign = drawn.T
        logs, hit = np.zeros(len(a)), False
        for i, exponent in enumerate(self.exponents[j]):
            if exponent:
                logs += exponent * (self.low[i] + (rng.random(len(a)) if hit else a) * (self.high[i] - self.low[i]))
                hit = True
        if not hit:
            logs = np.log(10) * (4 * a - 2)
        if j in self.factors:
            logs += np.where(b < 0.8, np.log(self.factors[j]), 0.0)
        values = np.exp(logs) * np.where(sign < 0.6, 1, -1)
        if j in self.frequencies:
            low, high, factor, exponent = self.frequencies[j]
            rates = np.where(b < 0.7, low + (high - low) * a, low * (high / low) ** a)
            values = np.where(sign < 0.95, (rates / factor) ** (1 if exponent < 0 else -1), values)
        return values

    def _cross(self, rows: Any, j: int, b: Any, rng: Any) -> None:
        tapes = self.crossings[j]
        picked = rng.choice(len(self.likely), len(rows), p=self.likely)
        for t, tape in enumerate(tapes):
            share = b * len(tapes) - t
            here = (share >= 0) & (share < 0.6)
            values = np.broadcast_to(tape.numeric(*(x[picked] for x in self.xs), *rows.T)[0], (len(rows),))
            rows[here, j] = values[here]

    def _limit(self, rows: Any, j: int, a: Any) -> None:
        """What falls outside of the limits is drawn evenly inside of them, or put to the one that is there."""
        low, high = self.limits[j]
        outside = ~((rows[:, j] >= low) & (rows[:, j] <= high))
        if np.isfinite(low) and np.isfinite(high):
            rows[outside, j] = low + (high - low) * a[outside]
        elif np.isfinite(low):
            rows[outside, j] = low + np.abs(rows[outside, j] - low)
        elif np.isfinite(high):
            rows[outside, j] = high - np.abs(rows[outside, j] - high)
        # A draw without a value is worth nothing, but must not spoil the rows beside it.
        rows[~np.isfinite(rows[:, j]), j] = 1.0
