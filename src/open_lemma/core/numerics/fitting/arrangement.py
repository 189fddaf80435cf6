"""Of the many sets of values that are the same curve the one to be told: signs, angles, the order of like terms."""

from __future__ import annotations

import itertools
from typing import Any, TypeGuard

import numpy as np

from ...formula import catalogue as c
from ...formula.nodes import Apply, Formula, transformed, variables, walk
from .model import Model
from .projection import at_values
from .search import terms_of

_TRIED = 60  # rows of the data


def canonical(model: Model, values: Any, data: list[Any]) -> Any:
    """Of all rearrangements that leave the model unchanged the one with positive, then rising nonlinear parameters.

    Whether one does is tried at some of the data, an array for each predictor, with values of about the size of those that were found:
    elsewhere the model may be nothing but zero, which any change leaves as it is.

    Time constants and periods, by which a predictor is divided, fall: the slowest of like terms comes first either way.
    """
    if not model.nonlinear or len(model.parameters) > 16:
        return values
    rng = np.random.default_rng(5)
    rows = rng.integers(0, len(data[0]), _TRIED)
    xs = [np.asarray(x, dtype=float)[rows] * rng.uniform(0.97, 1.03, _TRIED) for x in data]
    sizes = np.where(np.abs(values) > 0, np.abs(values), 1.0)
    probe = rng.uniform(0.7, 1.3, len(values)) * sizes
    names = list(model.parameters)
    places = [names.index(a) for a in model.nonlinear]

    def heights(v: Any) -> Any:
        return at_values(model.whole, xs, v)[0]

    base = heights(probe)
    if not np.isfinite(base).all() or not base.any():
        return values

    def same(other: Any) -> bool:
        return bool(np.allclose(heights(other), base, rtol=1e-9, atol=0, equal_nan=True))

    # Of a parameter that changes nothing there nothing can be told.
    telling = [k for k in range(len(values)) if not same(probe * np.where(np.arange(len(values)) == k, 1.01, 1.0))]
    found = np.array(values, dtype=float)
    for size in (1, 2):
        for chosen in itertools.combinations(telling, size):
            flipped = probe.copy()
            flipped[list(chosen)] *= -1
            if same(flipped):
                turned = found.copy()
                turned[list(chosen)] *= -1
                if sum(turned[k] > 0 for k in places) > sum(found[k] > 0 for k in places):
                    found = turned
    found = _turned(found, probe, [k for k in places if k in telling], telling, same)
    swaps = _exchanges(model, xs, probe[places], frozenset(k for k, place in enumerate(places) if place in telling))
    way = np.array([-1 if a in scales_of(model) else 1 for a in model.nonlinear])
    for _ in range(len(swaps)):
        for swap in swaps:
            other = found[swap]
            if tuple(way * other[places]) < tuple(way * found[places]):
                found = other
    return found


def _turned(values: Any, probe: Any, places: list[int], telling: list[int], same: Any) -> Any:
    """Angles brought within half a turn, and half turns traded for the sign of a factor, which is then positive."""
    found = values
    for k in places:
        if not same(probe + 2 * np.pi * (np.arange(len(values)) == k)):
            continue
        for i in telling:
            other = probe.copy()
            other[i] *= -1
            other[k] += np.pi
            if i != k and found[i] < 0 and same(other):
                found = found.copy()
                found[i], found[k] = -found[i], found[k] + np.pi
        turn = np.round(found[k] / (2 * np.pi))
        if turn:
            found = found.copy()
            found[k] -= 2 * np.pi * turn
    return found


def _exchanges(model: Model, xs: list[Any], z: Any, telling: frozenset[int]) -> list[list[int]]:
    """Exchanges of two like terms, as permutations of all parameters: their basis functions change places.

    z: of the nonlinear parameters values to try it with, of which `telling` change something
    """
    names = list(model.parameters)
    base = at_values(model.basis, xs, z)
    found = []
    for one, other in itertools.combinations(terms_of(model), 2):
        if len(one) != len(other) or set(one) & set(other) or not {*one, *other} <= telling:
            continue
        for turned in itertools.permutations(other):
            moved = list(range(len(z)))
            for a, b in zip(one, turned, strict=True):
                moved[a], moved[b] = b, a
            partners = _partners(base, at_values(model.basis, xs, z[moved]))
            if partners is None:
                continue
            swap = list(range(len(names)))
            for k, m in enumerate(moved):
                swap[names.index(model.nonlinear[k])] = names.index(model.nonlinear[m])
            for k, m in enumerate(partners):
                swap[names.index(model.linear[k])] = names.index(model.linear[m])
            found.append(swap)
            break
    return found


def _partners(base: Any, other: Any) -> list[int] | None:
    """For each basis function the one that has become it; None where one has none, or the rest has changed."""
    q = len(base) - 1
    if not np.allclose(other[-1], base[-1], rtol=1e-9, atol=0, equal_nan=True):
        return None
    found: list[int] = []
    for a in range(q):
        hit = [b for b in range(q) if b not in found and np.allclose(other[b], base[a], rtol=1e-9, atol=0, equal_nan=True)]
        if not hit:
            return None
        found.append(a if a in hit else hit[0])
    return found


def scales_of(model: Model) -> frozenset[str]:
    """Parameters that enter only as what a predictor is divided by: `exp(-x/T)`, `cos(2*pi*x/P)`."""
    predictors, parameters = frozenset(model.predictors), frozenset(model.parameters)

    def is_scaled(node: Formula) -> TypeGuard[Apply]:
        if not (isinstance(node, Apply) and node.entry is c.DIVIDE):
            return False
        above = variables(node.arguments[0])
        return bool(above & predictors) and not above & parameters

    below = frozenset(a for node in walk(model.inner) if is_scaled(node) for a in variables(node.arguments[1]))
    rest = transformed(model.inner, lambda node, _: node.arguments[0] if is_scaled(node) else None)
    return below & parameters - variables(rest)
