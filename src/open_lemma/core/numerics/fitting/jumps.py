"""Parameters that say only where a model jumps: `(a when x < s, otherwise b)`.

Between two neighbouring points the place of a jump changes nothing, so that no slope leads to it: every gap is tried, and the rest of the
model is fitted for each. The place is then anywhere in the best gap, with the standard uncertainty of a value that is evenly spread there
(JCGM 100:2008, 4.3.7).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from fractions import Fraction
from typing import TYPE_CHECKING

import numpy as np

from ...formula import catalogue as c
from ...formula.exact import rational
from ...formula.nodes import Apply, Formula, Number, expanded, substitute, transformed, variables, walk
from ...formula.tape import Tape
from .model import linear_form, model_of
from .projection import Data, project
from .statistics import quality

if TYPE_CHECKING:
    from .fit import Fit, Problem

MOST = 2  # jumps of one model
_GAPS, _COARSE = 400, 24  # places of one jump that are tried, and of each of two
_PAIRED, _AT_ONCE = 100, 500  # places of each of two where all else is linear, and combinations that are worked out together
_ROUNDS = 3

Gap = tuple[float, float]


def jumps_of(formula: Formula, parameters: tuple[str, ...]) -> tuple[str, ...]:
    """The parameters that stand in conditions, or in a sign, and nowhere else."""
    whole = expanded(formula)

    def without(node: Formula, visit: Callable[[Formula], Formula]) -> Formula | None:
        if isinstance(node, Apply) and node.entry is c.CHOOSE:
            return c.add(visit(node.arguments[1]), visit(node.arguments[2]))
        return Number(Fraction(1)) if isinstance(node, Apply) and node.entry.name == "sign" else None

    left = variables(transformed(whole, without))
    return tuple(p for p in parameters if p in variables(whole) and p not in left)


def fit_with_jumps(problem: Problem, names: tuple[str, ...], solve: Callable[[Problem, bool], Fit], refused: type[Exception]) -> Fit:
    """The best fit over all gaps for the jumps `names`; `solve` fits what is left (the second argument: quickly). Raises `refused`."""
    gaps = {name: list(_gaps(problem, name)) for name in names}

    def part(chosen: Mapping[str, Gap]) -> Problem:
        at = {name: Number(Fraction(sum(gap) / 2)) for name, gap in chosen.items()}
        return replace(problem, formula=substitute(problem.formula, at), parameters=tuple(p for p in problem.parameters if p not in at),
                       limits={p: v for p, v in problem.limits.items() if p not in at})  # fmt: skip

    def squares(chosen: Mapping[str, Gap]) -> float:
        try:
            return solve(part(chosen), True).quality.squares
        except refused:
            return math.inf

    quick = _all_linear(problem, names)
    if quick is not None:
        best = quick(gaps)
        return _together(problem, best, solve(part(best), False))
    coarse = _GAPS if len(names) == 1 else _COARSE
    tried = [dict(zip(names, combination, strict=True)) for combination in itertools.product(*(_spread(gaps[n], coarse) for n in names))]
    best = min(tried, key=squares)
    for name in names * (_ROUNDS if len(names) > 1 else 0):
        best = min(({**best, name: gap} for gap in _spread(gaps[name], _GAPS)), key=squares)
    return _together(problem, best, solve(part(best), False))


def _all_linear(problem: Problem, names: tuple[str, ...]) -> Callable[[dict[str, list[Gap]]], dict[str, Gap]] | None:
    """How the best gaps are found where all else enters linearly: every combination at once. None where something does not."""
    model = model_of(problem.formula, problem.predictors, problem.parameters, frozenset(problem.limits))
    if set(model.nonlinear) != set(names):
        return None
    weights = None if problem.errors is None else 1.0 / np.asarray(problem.errors.data, dtype=float)
    data = Data([np.asarray(k.data, dtype=float) for k in problem.columns], np.asarray(problem.y.data, dtype=float), weights)

    def best(gaps: dict[str, list[Gap]]) -> dict[str, Gap]:
        kept = [_spread(gaps[name], _GAPS if len(names) == 1 else _PAIRED) for name in model.nonlinear]
        combinations = list(itertools.product(*kept))
        rows = np.array([[sum(gap) / 2 for gap in combination] for combination in combinations])
        squares = np.concatenate([project(model, data, rows[k : k + _AT_ONCE]).squares for k in range(0, len(rows), _AT_ONCE)])
        chosen = combinations[int(np.nanargmin(np.where(np.isfinite(squares), squares, np.inf)))]
        return dict(zip(model.nonlinear, chosen, strict=True))

    return best


def _gaps(problem: Problem, name: str) -> Iterator[Gap]:
    """The spans between neighbouring places at which the jump would meet a point, within its limits."""
    found: set[float] = set()
    names = list(problem.predictors)
    columns = [np.asarray(column.data, dtype=float) for column in problem.columns]
    for node in walk(expanded(problem.formula)):
        if not (isinstance(node, Apply) and name in variables(node)):
            continue
        if node.entry.name == "sign":
            inside = node.arguments[0]
        elif node.entry.category == "condition" and len(node.arguments) == 2 and node.entry.name not in ("and", "or"):
            inside = c.subtract(*node.arguments)
        else:
            continue
        form = linear_form(inside, frozenset({name}))
        rate = None if form is None else rational(form[0][name])
        if form is None or not rate or variables(form[1]) - set(names):
            continue
        place = c.minus(c.over(form[1], Number(rate)))
        found |= set(np.broadcast_to(Tape([place], names).numeric(*columns)[0], columns[0].shape).tolist())
    low, high = problem.limits.get(name, (-math.inf, math.inf))
    places = sorted(v for v in found if math.isfinite(v))
    yield from ((a, b) for a, b in itertools.pairwise(places) if b > low and a < high)


def _spread(gaps: list[Gap], most: int) -> list[Gap]:
    if len(gaps) <= most:
        return gaps
    return [gaps[int(k)] for k in np.unique(np.linspace(0, len(gaps) - 1, most).round().astype(int))]


def _together(problem: Problem, chosen: Mapping[str, Gap], found: Fit) -> Fit:
    """The fit of the rest with the places of the jumps among its parameters, each of which takes a degree of freedom."""
    names, rest = problem.parameters, found.problem.parameters
    at = [rest.index(p) if p in rest else None for p in names]
    n, p = len(found.residuals), len(names)
    weights = None if problem.errors is None else 1.0 / np.asarray(problem.errors.data, dtype=float)
    worth = quality(found.quality.squares, n, p, problem.y.data, weights, bool(found.quality.against == "zero"))
    worth.against = found.quality.against
    wider = 1.0 if problem.errors is not None or worth.degrees <= 0 else found.quality.degrees / worth.degrees
    covariance = np.zeros((p, p))
    for i, j in itertools.product(range(p), repeat=2):
        if at[i] is not None and at[j] is not None:
            covariance[i, j] = found.covariance[at[i], at[j]] * wider
    values, intervals, notes = np.zeros(p), [], list(found.notes)
    for k, name in enumerate(names):
        place = at[k]
        if place is not None:
            values[k] = found.values[place]
            intervals.append(found.intervals[place])
            continue
        low, high = chosen[name]
        values[k], covariance[k, k] = (low + high) / 2, (high - low) ** 2 / 12
        intervals.append(replace(found.intervals[0], low=low, high=high, profile=[]))
        notes.append(f"{name} lies anywhere between {low:.6g} and {high:.6g}, two neighbouring points: there the data tell no more")
    standard = np.sqrt(np.diag(covariance))
    sizes = np.where(standard > 0, standard, 1.0)
    return replace(
        found, problem=problem, model=model_of(problem.formula, problem.predictors, names, frozenset(problem.limits)), values=values,
        standard=standard, covariance=covariance, correlation=covariance / np.outer(sizes, sizes), quality=worth,
        evidence="open" if found.evidence == "open" else "checked",
        enclosures=[None] * p, intervals=intervals, overall=False, bounded=None, notes=notes, rivals=[],
    )  # fmt: skip
