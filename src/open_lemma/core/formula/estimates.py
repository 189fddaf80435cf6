"""Numbers that were estimated from data, and what their uncertainty makes of whatever is worked out from them.

Uncertainties are carried to first order, correlations with them (JCGM 100:2008, "Guide to the expression of uncertainty in
measurement", 5.2.2, equation (13)).
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import numpy as np

from .calculus import NoDerivative, derivative
from .nodes import Formula, Given, Named, Number, Variable, transformed, walk
from .tape import Tape


@dataclass(frozen=True, eq=False)
class Estimates:
    """Parameters of one fit together: names, values and covariance, shapes (p,), (p,), (p, p)."""

    names: tuple[str, ...]
    values: Any
    covariance: Any
    key: str = field(default="")

    def __post_init__(self) -> None:
        if self.key:
            return
        mark = hashlib.sha256(repr(self.names).encode() + np.ascontiguousarray(self.values).tobytes())
        mark.update(np.ascontiguousarray(self.covariance).tobytes())
        object.__setattr__(self, "key", mark.hexdigest())

    def spread(self) -> Any:
        """U of the covariance U U^T, shape (p, p): each parameter by independent numbers of variance one.

        By Cholesky's decomposition of the correlations, so that parameters of very different sizes keep their digits.
        """
        sizes = np.sqrt(np.maximum(np.diag(self.covariance), 0.0))
        safe = np.where(sizes > 0, sizes, 1.0)
        correlation = self.covariance / np.outer(safe, safe)
        try:
            lower = np.linalg.cholesky(correlation)
        except np.linalg.LinAlgError:
            values, vectors = np.linalg.eigh(correlation)
            lower = vectors * np.sqrt(np.maximum(values, 0.0))
        return sizes[:, None] * lower


Coefficients = dict[str, Any]  # by the key of some estimates: coefficients of their independent numbers


@dataclass(frozen=True, slots=True)
class Origin:
    """Which estimated parameter a number is."""

    estimates: Estimates
    index: int
    written: str = ""  # a typed value as it stands in the script

    @property
    def mark(self) -> Any:
        """The same for the same number."""
        return self.estimates.key, self.index

    def coefficients(self) -> Coefficients:
        return {self.estimates.key: self.estimates.spread()[self.index]}

    def sources(self) -> tuple[Estimates, ...]:
        return (self.estimates,)


@dataclass(frozen=True, eq=False)
class Derived:
    """A number that a request made of estimated ones: how it changes with their independent numbers, to first order."""

    estimates: tuple[Estimates, ...]
    by: Coefficients

    @property
    def mark(self) -> Any:
        return id(self)

    def coefficients(self) -> Coefficients:
        return self.by

    def sources(self) -> tuple[Estimates, ...]:
        return self.estimates


NEGLIGIBLE = 1e-5  # of the largest share: what is left where shares cancel is the rounding of slopes


def estimated(formula: Formula) -> list[Given]:
    """The numbers in a formula that have an uncertainty, each once."""
    return [n for n in walk(formula) if isinstance(n, Given) and isinstance(n.origin, Origin | Derived)]


def sensitivities(formula: Formula, of: tuple[str, ...] = ()) -> tuple[list[Origin | Derived], Tape, list[float]] | None:
    """The slopes of a formula by each uncertain number, as steps over the variables `of` and those numbers, whose values follow.

    None where there are none, or a slope has no rule.
    """
    found: dict[Any, tuple[Origin | Derived, float]] = {}
    for node in estimated(formula):
        found.setdefault(node.origin.mark, (node.origin, float(node.data)))
    if not found:
        return None
    names = {mark: f"estimate {place}" for place, mark in enumerate(found)}

    def opened(node: Formula, _: Any) -> Formula | None:
        if isinstance(node, Given) and isinstance(node.origin, Origin | Derived):
            return Variable(names[node.origin.mark])
        return None

    whole = transformed(formula, opened)
    try:
        slopes = [derivative(whole, name) for name in names.values()]
    except NoDerivative:
        return None
    return [o for o, _ in found.values()], Tape(slopes, [*of, *names.values()]), [v for _, v in found.values()]


def joined(parts: Sequence[tuple[float, Origin | Derived]]) -> Coefficients:
    """The coefficients of a sum of uncertain numbers, each times its slope."""
    found: Coefficients = {}
    for slope, origin in parts:
        for key, by in origin.coefficients().items():
            found[key] = found.get(key, 0.0) + slope * by
    return found


def variance_of(origins: Sequence[Origin | Derived], slopes: Sequence[float]) -> float:
    """The variance of what has these slopes by these numbers; those of different fits are taken as independent."""
    parts = list(zip(slopes, origins, strict=True))
    total = sum(float(by @ by) for by in joined(parts).values())
    largest = max((slope**2 * sum(float(by @ by) for by in o.coefficients().values()) for slope, o in parts), default=0.0)
    return 0.0 if len(parts) > 1 and total < NEGLIGIBLE**2 * largest else total


def dependence(formula: Formula) -> tuple[tuple[Estimates, ...], Coefficients] | None:
    """On which estimates a number rests, and how. None where it rests on none."""
    found = sensitivities(formula)
    if found is None:
        return None
    origins, tape, values = found
    slopes = [float(np.asarray(s)) for s in tape.numeric(*values)]
    sources = {e.key: e for o in origins for e in o.sources()}
    return tuple(sources.values()), joined(list(zip(slopes, origins, strict=True)))


def standard_error(formula: Formula) -> float | None:
    """The standard uncertainty of a number; None where it rests on no estimate."""
    found = sensitivities(formula)
    if found is None:
        return None
    origins, tape, values = found
    slopes = [float(np.asarray(s)) for s in tape.numeric(*values)]
    variance = variance_of(origins, slopes)
    return float(np.sqrt(variance)) if np.isfinite(variance) and variance >= 0 else None


def shifted(formula: Formula, shifts: Mapping[str, Any]) -> Formula:
    """A formula in which the numbers of some estimates are others: for the key of each, by how far its independent numbers are moved."""

    def moved(node: Formula, _: Any) -> Formula | None:
        if not isinstance(node, Given) or not isinstance(node.origin, Origin | Derived):
            return None
        away = sum(float(by @ shifts[key]) for key, by in node.origin.coefficients().items() if key in shifts)
        moved_to = Number(Fraction(repr(float(node.data) + away)))
        return None if not away else moved_to if node.unit is None else Named("", moved_to, unit=node.unit)

    return transformed(formula, moved)


def value_and_error(cell: str) -> tuple[str, float]:
    """What `2.50±0.05`, `2.50(5)` and `2.50` say: the number as it is written and its standard uncertainty.

    In brackets the uncertainty counts in the last digit (JCGM 100:2008, 7.2.2).
    """
    if "±" in cell:
        text, error = cell.split("±")
        return text, float(error)
    if "(" not in cell:
        return cell, 0.0
    text, error = cell.rstrip(")").split("(")
    if "." in error:
        return text, float(error)
    digits = len(text.partition(".")[2])
    return text, float(Fraction(int(error), 10**digits))
