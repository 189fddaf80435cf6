"""Bands about a fitted curve, as formulas: where the curve may lie, and where one more measurement may."""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from ...formula import catalogue as c
from ...formula.nodes import Formula, Number, substitute
from .fit import Fit


def band(fit: Fit, new_point: bool) -> tuple[Formula, Formula]:
    """The edges of the 95 % band at each place, as formulas of the predictors.

    To first order in the parameters (N. R. Draper and H. Smith, "Applied Regression Analysis", 3rd ed. 1998, equations (3.1.8)
    and (3.1.10), for each place alone). With known uncertainties a new point is taken to have their median.
    """
    values = {a: Number(Fraction(float(v))) for a, v in zip(fit.parameters, fit.values, strict=True)}
    height = substitute(fit.model.formula, values)
    slopes = [substitute(f, values) for f in fit.model.first]
    variance: Formula = Number(Fraction(fit_variance(fit))) if new_point else Number(Fraction(0))
    # C = L L^T, so that the variance is a sum of squares and never falls below zero by rounding.
    roots, directions = np.linalg.eigh(fit.covariance)
    for root, direction in zip(roots, directions.T, strict=True):
        if root <= 0:
            continue
        total: Formula = Number(Fraction(0))
        for share, slope in zip(direction * np.sqrt(root), slopes, strict=True):
            total = c.add(total, c.times(Number(Fraction(float(share))), slope))
        variance = c.add(variance, c.power(total, Number(Fraction(2))))
    half = c.times(Number(Fraction(fit.half_width)), c.call("sqrt", variance))
    return c.subtract(height, half), c.add(height, half)


def fit_variance(fit: Fit) -> float:
    """The variance of one measurement about the curve."""
    errors = fit.problem.errors
    return float(np.median(errors.data)) ** 2 if errors is not None else fit.quality.spread**2
