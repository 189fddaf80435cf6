"""Polynomials over numbers far from zero, such as years: fitted in a centred and scaled variable, stated as asked.

In powers of x itself the columns of such a fit are nearly the same, and of a value or a band no digit is left in doubles
(G. H. Golub, C. F. Van Loan, "Matrix Computations", 4th ed., section 5.3.7).
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

import numpy as np

from ...formula import catalogue as c
from ...formula.nodes import Formula, Number, Variable
from .fit import ConfidenceInterval, Fit, Problem
from .model import model_of

FAR = 3.0  # centre of the data, in half spans, from which on the variable is centred


@dataclass(frozen=True)
class Centred:
    """A polynomial in u = (x - shift)/scale instead of x; rows of `powers` give the coefficients in x by those in u, exactly."""

    problem: Problem
    shift: Fraction
    scale: Fraction
    powers: list[list[Fraction]]


def centred(problem: Problem, degree: int) -> Centred | None:
    """The same fit in a centred and scaled variable; None where zero is among or near the data."""
    x = np.asarray(problem.columns[0].data, dtype=float)
    low, high = float(np.min(x)), float(np.max(x))
    half = (high - low) / 2
    if degree < 1 or not half > 0 or abs(low + high) / 2 < FAR * half or problem.limits or problem.starts or problem.x_errors is not None:
        return None
    shift, scale = (Fraction(f"{v:.4g}") for v in ((low + high) / 2, half))
    u: Formula = c.over(c.subtract(Variable(problem.predictors[0]), Number(shift)), Number(scale))
    total: Formula = Variable(problem.parameters[0])
    for k in range(1, degree + 1):
        total = c.add(total, c.times(Variable(problem.parameters[k]), c.power(u, Number(Fraction(k)))))
    powers = [
        [math.comb(k, j) * (-shift) ** (k - j) / scale**k if k >= j else Fraction(0) for k in range(degree + 1)] for j in range(degree + 1)
    ]
    return Centred(replace(problem, formula=total), shift, scale, powers)


def as_asked(found: Fit, way: Centred, problem: Problem) -> Fit:
    """A fit in the centred variable with the coefficients of x itself: values, covariance and intervals by the same rows."""
    rows = np.array([[float(v) for v in row] for row in way.powers])
    values = np.array([float(sum(p * Fraction(float(d)) for p, d in zip(row, found.values, strict=True))) for row in way.powers])
    covariance = rows @ found.covariance @ rows.T
    standard = np.sqrt(np.maximum(np.diag(covariance), 0.0))
    reach = found.half_width * standard
    return replace(
        found, problem=problem, model=model_of(problem.formula, problem.predictors, problem.parameters, frozenset()), values=values,
        standard=standard, covariance=covariance, correlation=_correlation(covariance, standard), evidence="checked",
        enclosures=[None] * len(values),
        intervals=[ConfidenceInterval(float(v - r), float(v + r)) for v, r in zip(values, reach, strict=True)], rivals=[],
    )  # fmt: skip


def _correlation(covariance: Any, standard: Any) -> Any:
    safe = np.where(standard > 0, standard, 1.0)
    return covariance / np.outer(safe, safe)
