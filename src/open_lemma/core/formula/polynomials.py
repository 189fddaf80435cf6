"""Polynomials of several variables with rational coefficients, by FLINT."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from flint import fmpq, fmpq_mpoly_ctx

from . import catalogue as c
from .nodes import Apply, Formula, Named, Number, Variable

MAX_DEGREE = 24
_MAX_TERMS = 400


class _NoPolynomial(Exception):
    pass


def polynomial_factors(formula: Formula, names: tuple[str, ...]) -> list[Formula] | None:
    """The irreducible factors over the rationals, each once, without constants; None if it is no polynomial in the names.

    Their zeros together are those of the formula. Degrees up to 24 in all.
    """
    context = fmpq_mpoly_ctx.get(names, "lex")
    generators = dict(zip(names, context.gens(), strict=True))
    try:
        found = _polynomial(formula, generators, context.constant)
    except _NoPolynomial:
        return None
    if found == 0 or found.total_degree() == 0:
        return None
    _, parts = found.factor()
    return [_formula(part, names) for part, _ in parts]


def _polynomial(formula: Formula, generators: dict[str, Any], constant: Any) -> Any:
    if isinstance(formula, Number):
        return constant(fmpq(formula.value.numerator, formula.value.denominator))
    if isinstance(formula, Variable) and formula.name in generators:
        return generators[formula.name]
    if isinstance(formula, Named):
        return _polynomial(formula.body, generators, constant)
    if not isinstance(formula, Apply):
        raise _NoPolynomial
    parts = [_polynomial(a, generators, constant) for a in formula.arguments]
    entry = formula.entry
    if entry is c.ADD:
        found = parts[0] + parts[1]
    elif entry is c.SUBTRACT:
        found = parts[0] - parts[1]
    elif entry is c.NEGATIVE:
        found = -parts[0]
    elif entry is c.MULTIPLY:
        found = parts[0] * parts[1]
    elif entry is c.DIVIDE and parts[1] != 0 and parts[1].total_degree() == 0:
        found = parts[0] * (1 / parts[1].leading_coefficient())
    elif entry is c.POWER:
        exponent = formula.arguments[1]
        while isinstance(exponent, Named):
            exponent = exponent.body
        if not isinstance(exponent, Number) or exponent.value.denominator != 1 or not 0 <= exponent.value <= MAX_DEGREE:
            raise _NoPolynomial
        if parts[0] != 0 and int(parts[0].total_degree()) * int(exponent.value) > MAX_DEGREE:
            raise _NoPolynomial
        found = parts[0] ** int(exponent.value)
    else:
        raise _NoPolynomial
    if found != 0 and (found.total_degree() > MAX_DEGREE or len(found) > _MAX_TERMS):
        raise _NoPolynomial
    return found


def _formula(polynomial: Any, names: tuple[str, ...]) -> Formula:
    found: Formula | None = None
    # Its largest coefficient made 1: the factors come with whole coefficients, which may be too large for doubles.
    largest = max(abs(Fraction(int(v.p), int(v.q))) for v in polynomial.coeffs())
    for exponents, coefficient in polynomial.terms():
        term: Formula = Number(Fraction(int(coefficient.p), int(coefficient.q)) / largest)
        for name, exponent in zip(names, exponents, strict=True):
            if exponent:
                term = c.times(term, c.power(Variable(name), Number(Fraction(int(exponent)))))
        found = term if found is None else c.add(found, term)
    assert found is not None
    return found
