"""A model's formula taken apart: parameters that enter linearly, and those that do not.

The linear ones are solved for at every step of a search (variable projection: G. H. Golub and V. Pereyra, SIAM J. Numer.
Anal. 10 (1973) 413-432), so only the others are sought.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from ...formula import catalogue as c
from ...formula.calculus import derivative
from ...formula.choice import choose
from ...formula.exact import rational
from ...formula.nodes import ONE, ZERO, Apply, Formula, Named, Number, Variable, Visit, expanded, substitute, transformed, variables, walk
from ...formula.tape import Tape

MOST_PARAMETERS = 40
LinearForm = tuple[dict[str, Formula], Formula]


@dataclass(frozen=True)
class Model:
    """formula of predictors (the columns of the data) and parameters, all of them variables; `linear` enter jointly linearly.

    `logarithms` are parameters a that enter as exp(k*a) only: in `inner` each stands for that power, which enters linearly.
    """

    formula: Formula
    predictors: tuple[str, ...]
    parameters: tuple[str, ...]
    inner: Formula
    linear: tuple[str, ...]
    logarithms: dict[str, float]

    def __reduce__(self) -> tuple[Any, ...]:
        # What was compiled stays behind.
        return Model, (self.formula, self.predictors, self.parameters, self.inner, self.linear, self.logarithms)

    @property
    def nonlinear(self) -> tuple[str, ...]:
        return tuple(p for p in self.parameters if p not in self.linear)

    @cached_property
    def coefficients(self) -> list[Formula]:
        """What each linear parameter is multiplied by, and the rest."""
        found = linear_form(self.inner, frozenset(self.linear))
        assert found is not None
        return [*(found[0].get(a, ZERO) for a in self.linear), found[1]]

    @cached_property
    def basis(self) -> Tape:
        return Tape(self.coefficients, [*self.predictors, *self.nonlinear])

    @cached_property
    def slopes(self) -> Tape:
        """Of `inner` by the nonlinear parameters; the linear ones come last among the arguments."""
        return Tape([slope_by(self.inner, a) for a in self.nonlinear], [*self.predictors, *self.nonlinear, *self.linear])

    @cached_property
    def first(self) -> list[Formula]:
        return [slope_by(self.formula, a) for a in self.parameters]

    @cached_property
    def whole(self) -> Tape:
        """The formula and its slope by each parameter."""
        return Tape([self.formula, *self.first], [*self.predictors, *self.parameters])

    @cached_property
    def curved(self) -> Tape:
        """The formula, its slopes, and its second derivatives row by row of their upper triangle."""
        p = len(self.parameters)
        second = [slope_by(self.first[i], self.parameters[j]) for i in range(p) for j in range(i, p)]
        return Tape([self.formula, *self.first, *second], [*self.predictors, *self.parameters])

    def in_order(self, nonlinear: Any, linear: Any) -> Any:
        """Values of all parameters of `formula` in its order, from those of `inner`."""
        found = dict(zip(self.nonlinear, nonlinear, strict=True)) | dict(zip(self.linear, linear, strict=True))
        for name, k in self.logarithms.items():
            found[name] = np.log(found[name]) / k
        return np.array([found[p] for p in self.parameters], dtype=float)


def slope_by(formula: Formula, parameter: str) -> Formula:
    """The derivative by a parameter, also where a power of zero stands: u^v ln(u) goes to zero with u, for v above zero. In models that
    have a value at u = 0 no logarithm stands but beside such a power."""

    def opened(node: Formula, visit: Visit) -> Formula | None:
        if not (isinstance(node, Apply) and node.entry is c.ENTRIES["ln"]) or not variables(node):
            return None
        inner = visit(node.arguments[0])
        return choose(Apply(c.CONDITIONS["="], (inner, ZERO)), ZERO, Apply(node.entry, (inner,)))

    return transformed(derivative(formula, parameter), opened)


def model_of(formula: Formula, predictors: Sequence[str], parameters: Sequence[str], held: frozenset[str] = frozenset()) -> Model:
    """Take a model apart; `held` are parameters with limits, which are sought and not solved for. Raises NoDerivative."""
    formula = _shortened(expanded(formula))
    inner, logarithms = _without_logarithms(formula, [p for p in parameters if p not in held])
    linear = _largest_linear(inner, [p for p in parameters if p not in held])
    kept = {a: k for a, k in logarithms.items() if a in linear}
    if len(kept) < len(logarithms):
        # A power that does not enter linearly is better sought as it was written.
        inner, logarithms = _without_logarithms(formula, list(kept))
        linear = _largest_linear(inner, [p for p in parameters if p not in held])
    return Model(formula, tuple(predictors), tuple(parameters), inner, tuple(p for p in parameters if p in linear), kept)


def _shortened(formula: Formula) -> Formula:
    """Names opened, so that nothing stands between a parameter and the formula it enters."""

    def opened(node: Formula, go: Visit) -> Formula | None:
        return go(node.body) if isinstance(node, Named) else None

    return transformed(formula, opened)


def linear_form(formula: Formula, names: frozenset[str]) -> LinearForm | None:
    """The formula as rest + sum of coefficient times name, the coefficients free of all names; None where it is not that."""
    if not names & variables(formula):
        return {}, formula
    if isinstance(formula, Variable):
        return {formula.name: ONE}, ZERO
    if isinstance(formula, Named):
        return linear_form(formula.body, names)
    if not isinstance(formula, Apply):
        return None
    entry, args = formula.entry, formula.arguments
    if entry in (c.ADD, c.SUBTRACT):
        return _joined(linear_form(args[0], names), linear_form(args[1], names), c.add if entry is c.ADD else c.subtract)
    if entry is c.NEGATIVE:
        return _scaled(linear_form(args[0], names), c.minus)
    if entry is c.MULTIPLY:
        for factor, other in (args, args[::-1]):
            if not names & variables(factor):
                return _scaled(linear_form(other, names), lambda f, k=factor: c.times(k, f))
        return None
    if entry is c.DIVIDE:
        return None if names & variables(args[1]) else _scaled(linear_form(args[0], names), lambda f: c.over(f, args[1]))
    if entry is c.CHOOSE and not names & variables(args[0]):
        return _joined(linear_form(args[1], names), linear_form(args[2], names), lambda a, b: choose(args[0], a, b))
    return None


def _scaled(form: LinearForm | None, work: Any) -> LinearForm | None:
    return None if form is None else ({n: work(f) for n, f in form[0].items()}, work(form[1]))


def _joined(one: LinearForm | None, other: LinearForm | None, work: Any) -> LinearForm | None:
    if one is None or other is None:
        return None
    names = dict.fromkeys([*one[0], *other[0]])
    return {n: work(one[0].get(n, ZERO), other[0].get(n, ZERO)) for n in names}, work(one[1], other[1])


def _largest_linear(formula: Formula, names: list[str]) -> frozenset[str]:
    """The largest set of names in which the formula is jointly linear; of several the first in the order of the names."""
    single = [a for a in names if linear_form(formula, frozenset({a})) is not None]
    apart = {
        frozenset(pair) for pair in itertools.combinations(single, 2) if linear_form(formula, frozenset(pair)) is None
    }  # fmt: skip
    if not apart:
        return frozenset(single)
    loose = [a for a in single if not any(a in pair for pair in apart)]
    tied = [a for a in single if a not in loose]
    for size in range(len(tied), -1, -1):
        for chosen in itertools.combinations(tied, size):
            if not any(frozenset(pair) in apart for pair in itertools.combinations(chosen, 2)):
                return frozenset([*loose, *chosen])
    return frozenset(loose)


def _without_logarithms(formula: Formula, names: Sequence[str]) -> tuple[Formula, dict[str, float]]:
    """exp(k*a + u) as a*exp(u) for each name that enters in this way only, with the k of each."""
    found: dict[str, float] = {}
    for name in names:
        powers = [n for n in walk(formula) if isinstance(n, Apply) and n.entry.name == "exp" and name in variables(n)]
        forms = {id(n): linear_form(n.arguments[0], frozenset({name})) for n in powers}
        rates = {None if form is None else rational(form[0].get(name, ZERO)) for form in forms.values()}
        rate = rates.pop() if len(rates) == 1 else None
        if not rate:
            continue

        def opened(node: Formula, _: Visit, forms: Any = forms, name: str = name) -> Formula | None:
            form = forms.get(id(node))
            return None if form is None else c.times(Variable(name), c.call("exp", form[1]))

        other = transformed(formula, opened)
        # Nothing but the new factor may hold the name: with 1 in its place it must be gone from the whole.
        once = transformed(formula, lambda node, _, forms=forms: ZERO if id(node) in forms else None)  # type: ignore[misc]
        if name not in variables(once):
            formula = other
            found[name] = float(rate)
    return formula, found


def derivable(formula: Formula, names: Sequence[str]) -> None:
    """Raises NoDerivative where a parameter's slope has no rule."""
    for name in names:
        derivative(formula, name)


__all__ = ["MOST_PARAMETERS", "Model", "Number", "derivable", "linear_form", "model_of", "substitute"]
