"""Numbers that were estimated from data, and what their uncertainty makes of whatever is worked out from them.

Uncertainties are carried to first order, correlations with them (JCGM 100:2008, "Guide to the expression of uncertainty in
measurement", 5.2.2, equation (13)).
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from .calculus import NoDerivative, derivative
from .nodes import Formula, Given, Variable, transformed, walk
from .tape import Tape


@dataclass(frozen=True, eq=False)
class Estimates:
    """Parameters of one fit together: names, values and covariance, shapes (p,), (p,), (p, p)."""

    names: tuple[str, ...]
    values: Any
    covariance: Any
    key: str = field(default="")

    def __post_init__(self) -> None:
        mark = hashlib.sha256(repr(self.names).encode() + np.ascontiguousarray(self.values).tobytes())
        mark.update(np.ascontiguousarray(self.covariance).tobytes())
        object.__setattr__(self, "key", mark.hexdigest())


@dataclass(frozen=True, slots=True)
class Origin:
    """Which estimated parameter a number is."""

    estimates: Estimates
    index: int


def estimated(formula: Formula) -> list[Given]:
    """The estimated numbers in a formula, each once."""
    return [n for n in walk(formula) if isinstance(n, Given) and isinstance(n.origin, Origin)]


def sensitivities(formula: Formula, of: tuple[str, ...] = ()) -> tuple[list[Origin], Tape, list[float]] | None:
    """The slopes of a formula by each estimated number, as steps over the variables `of` and those numbers, whose values follow.

    None where there are none, or a slope has no rule.
    """
    found: dict[tuple[str, int], tuple[Origin, float]] = {}
    for node in estimated(formula):
        found.setdefault((node.origin.estimates.key, node.origin.index), (node.origin, float(node.data)))
    if not found:
        return None
    names = {key: f"estimate {place}" for place, key in enumerate(found)}

    def opened(node: Formula, _: Any) -> Formula | None:
        if isinstance(node, Given) and isinstance(node.origin, Origin):
            return Variable(names[node.origin.estimates.key, node.origin.index])
        return None

    whole = transformed(formula, opened)
    try:
        slopes = [derivative(whole, name) for name in names.values()]
    except NoDerivative:
        return None
    return [o for o, _ in found.values()], Tape(slopes, [*of, *names.values()]), [v for _, v in found.values()]


def variance_of(origins: list[Origin], slopes: list[float]) -> float:
    """The variance of what has these slopes by these estimates; those of different fits are taken as independent."""
    total = 0.0
    groups: dict[str, list[int]] = {}
    for place, origin in enumerate(origins):
        groups.setdefault(origin.estimates.key, []).append(place)
    for places in groups.values():
        index = [origins[k].index for k in places]
        part = np.array([slopes[k] for k in places])
        total += float(part @ origins[places[0]].estimates.covariance[np.ix_(index, index)] @ part)
    return total


def standard_error(formula: Formula) -> float | None:
    """The standard uncertainty of a number; None where it rests on no estimate."""
    found = sensitivities(formula)
    if found is None:
        return None
    origins, tape, values = found
    slopes = [float(np.asarray(s)) for s in tape.numeric(*values)]
    variance = variance_of(origins, slopes)
    return float(np.sqrt(variance)) if np.isfinite(variance) and variance >= 0 else None


def place_error(formula: Formula, variable: str, x: float) -> float | None:
    """The standard uncertainty of a zero of a formula: that of its height there, over its slope."""
    found = sensitivities(formula, (variable,))
    if found is None:
        return None
    origins, tape, values = found
    try:
        steep = float(np.asarray(Tape([derivative(formula, variable)], [variable]).numeric(np.asarray(x))[0]))
    except NoDerivative:
        return None
    slopes = [float(np.asarray(s)) for s in tape.numeric(np.asarray(x), *values)]
    variance = variance_of(origins, slopes)
    return float(np.sqrt(variance) / abs(steep)) if steep and np.isfinite(variance) and variance >= 0 else None
