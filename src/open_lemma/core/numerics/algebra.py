"""Formulas that algebra (SymPy) proposes, each put to the test before it is believed.

An antiderivative is differentiated again and compared, a series is held against the function near its place, a simpler form
against what it stands for. What is zero by algebra is *proven* here; what agrees to 25 digits at many places is *checked*.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from flint import arb

from ..formula import catalogue as c
from ..formula.ball import precision
from ..formula.calculus import NoDerivative, derivative
from ..formula.certain import certain_value, enclosure
from ..formula.exact import NO_ANSWER, by_algebra, from_sympy, is_exactly_zero, to_sympy
from ..formula.limits import OutOfTime, time_limit
from ..formula.nodes import Formula, Number, Variable, expanded, substitute, variables, walk
from ..formula.tape import Tape
from .evidence import Evidence
from .integrals.no_integral import NoIntegral
from .proving.covers import Proof

MOST_ORDER = 30


class NoForm(Exception):
    """Algebra has no answer that stands the test; the text says why."""


@dataclass(frozen=True, slots=True)
class Form:
    """A formula that was found. prove: what the verifier says of its row; None where it is the value of a formula, which has its own."""

    formula: Formula
    evidence: Evidence
    method: str
    prove: Callable[[dict[str, Any]], Proof] | None = None


def antiderivative(formula: Formula, variable: str, seconds: float = 6.0) -> Form:
    """A function whose derivative is the formula, by algebra, differentiated and compared. Raises NoIntegral."""
    import sympy

    try:
        with time_limit(seconds):
            x = sympy.Symbol(variable, real=True)
            found = sympy.integrate(to_sympy(expanded(formula)), x)
            if found.has(sympy.Integral):
                raise NoIntegral("algebra finds no antiderivative in the functions of the language; give the span: from 0 to 1")
            result = from_sympy(sympy.simplify(found) if len(str(found)) < 200 else found)
    except OutOfTime:
        raise NoIntegral(f"algebra found no antiderivative within {seconds:g} s; give the span: from 0 to 1") from None
    except NO_ANSWER:
        raise NoIntegral("algebra finds no antiderivative in the functions of the language; give the span: from 0 to 1") from None
    difference = c.subtract(derivative(result, variable), expanded(formula))
    grade = _same_everywhere(difference, variable)
    if grade is None:
        raise NoIntegral("what algebra proposed does not have this function as its derivative; give the span: from 0 to 1")
    return Form(result, grade, "integrated by algebra; differentiated again and compared")


def _same_everywhere(difference: Formula, variable: str) -> Evidence | None:
    """proven: zero by algebra; checked: zero to 25 digits at several places; None: not zero."""
    try:
        with time_limit(3.0):
            if is_exactly_zero(difference) is True:
                return "proven"
    except OutOfTime:
        pass
    names = sorted(variables(difference) | {variable})
    tape = Tape([difference], names)
    met = 0
    with precision(200):
        for k in range(1, 30):
            places = [arb(k * 7919 % 104729) / 20011 * (1 if k % 3 else -1) + arb(j) / 7 for j in range(len(names))]
            value = enclosure(tape, 200, *places)
            if value is None or not value.is_finite() or float(value.rad()) > 1e-25:
                continue
            if not value.contains(0):
                return None
            met += 1
    return "checked" if met >= 5 else None


def series_of(formula: Formula, variable: str, place: Formula, order: int, seconds: float = 6.0) -> Form:
    """The expansion in powers of (x - place) up to an order, negative and broken powers included. Raises NoForm.

    Where the function is smooth the coefficients are f^(k)/k! by rule (proven); else algebra proposes them.
    """
    direct = _taylor(expanded(formula), variable, place, order)
    if direct is not None:
        return direct
    import sympy

    try:
        with time_limit(seconds):
            x = sympy.Symbol(variable, real=True)
            at = to_sympy(place)
            found = sympy.series(to_sympy(expanded(formula)), x, at, order + 1).removeO()
            terms = [from_sympy(t) for t in sorted(sympy.Add.make_args(sympy.expand(found.subs(x, x + at))), key=lambda t: _power(t, x))]
    except OutOfTime:
        raise NoForm(f"algebra found no series within {seconds:g} s") from None
    except NO_ANSWER:
        raise NoForm("the function has no expansion in powers there that algebra could find") from None
    step = c.subtract(Variable(variable), place)
    total: Formula = Number(Fraction(0))
    for term in terms:
        total = c.add(total, substitute(term, {variable: step}))
    if not _nears(formula, total, variable, place, order):
        raise NoForm("what algebra proposed does not come near the function there")
    return Form(total, "checked", "expanded by algebra; the difference from the function falls as it should")


def _power(term: Any, x: Any) -> float:
    _, power = term.as_coeff_exponent(x)
    return float(power) if power.is_number else 0.0


def _taylor(formula: Formula, variable: str, place: Formula, order: int) -> Form | None:
    """By the derivatives, where all of them have an exact value; None where one has not, or rules give too long formulas."""
    step = c.subtract(Variable(variable), place)
    total: Formula = Number(Fraction(0))
    factorial = 1
    slope = formula
    for k in range(order + 1):
        factorial *= max(k, 1)
        coefficient = c.over(substitute(slope, {variable: place}), Number(Fraction(factorial)))
        exact = _shortest(coefficient)
        if exact is None:
            return None
        power = c.power(step, Number(Fraction(k))) if k else None
        negative = isinstance(exact, Number) and exact.value < 0
        part = c.minus(exact) if negative else exact
        part = part if power is None else c.times(part, power)
        total = c.subtract(total, part) if negative else c.add(total, part)
        if k < order:
            try:
                slope = _short_slope(derivative(slope, variable))
            except NoDerivative:
                return None
            if slope is None:
                return None
    return Form(total, "proven", "coefficients from the derivatives, by rule")


def _short_slope(formula: Formula) -> Any:
    if sum(1 for _ in walk(formula)) < 60:
        return formula
    return by_algebra(lambda sympy: from_sympy(sympy.simplify(to_sympy(formula))), 1.0)


def _shortest(formula: Formula) -> Formula | None:
    """A number as algebra writes it, or None where it has no value there."""
    if variables(formula):
        try:
            return from_sympy(to_sympy(formula))
        except NO_ANSWER:
            return formula
    value = certain_value(formula)
    if value.value != value.value or not value.proven:
        return None
    if value.exact is not None:
        return Number(value.exact)
    return by_algebra(lambda _: from_sympy(to_sympy(formula)), 0.5) or formula


def _nears(formula: Formula, total: Formula, variable: str, place: Formula, order: int) -> bool:
    """Whether the difference near the place is small against the last power."""
    if variables(formula) - {variable}:
        return True  # letters are left: there is nothing to compare
    tape = Tape([c.subtract(formula, total)], [variable])
    sizes = []
    with precision(600):
        at = enclosure(Tape([place], []), 600)
        if at is None:
            return False
        for k in (3, 6):
            sides = [enclosure(tape, 600, at + s * arb(10) ** -k) for s in (1, -1)]
            known = [abs(float(v.mid())) for v in sides if v is not None and v.is_finite()]
            if not known:
                return False
            sizes.append(max(known))
    return sizes[1] <= sizes[0] * 10.0 ** (-2 * order) or sizes[1] < 1e-100 or sizes[1] <= 10.0 ** (-5 * order)


def simplification(formula: Formula, seconds: float = 4.0) -> Form:
    """The shortest form that algebra finds, equal to the formula wherever that has a value. Raises NoForm."""
    import sympy

    try:
        with time_limit(seconds):
            whole = to_sympy(expanded(formula))
            candidates = [whole]
            ways: list[Callable[[Any], Any]] = [
                sympy.simplify, sympy.factor, sympy.expand, sympy.cancel, sympy.trigsimp, sympy.radsimp,
                lambda e: sympy.expand(sympy.expand_trig(e)),
            ]  # fmt: skip
            for way in ways:
                try:
                    candidates.append(way(whole))
                except (*NO_ANSWER, sympy.PolynomialError):
                    continue
            found = min(candidates, key=lambda e: (sympy.count_ops(e), len(str(e))))
            result = from_sympy(found)
    except OutOfTime:
        raise NoForm(f"algebra came to no end within {seconds:g} s") from None
    except NO_ANSWER:
        raise NoForm("some part of it has no exact reading") from None
    names = sorted(variables(formula))
    if not names:
        return Form(
            result, "proven" if is_exactly_zero(c.subtract(result, expanded(formula))) is True else "checked", "simplified by algebra"
        )
    grade = _same_everywhere(c.subtract(result, expanded(formula)), names[0])
    if grade is None:
        raise NoForm("what algebra proposed is not equal everywhere")
    return Form(result, grade, "simplified by algebra, and compared with what it stands for")
