"""Differentiation by rule, and the rewriting that root finding rests on."""

from __future__ import annotations

from fractions import Fraction

from . import catalogue as c
from .choice import choose
from .nodes import ONE, TWO, ZERO, Apply, Formula, Given, Named, Number, Variable, expanded, substitute, variables


class NoDerivative(Exception):
    """Some part of the formula has no derivative by rule; the text names it."""


def derivative(formula: Formula, variable: str) -> Formula:
    """The derivative by rule (chain rule over the catalogue's partial derivatives), lightly shortened.

    Valid wherever every part is differentiable; at kinks and jumps (`abs`, `floor`) it is the derivative beside them.
    Raises NoDerivative.
    """
    return _Differentiation(variable).of(formula)


class _Differentiation:
    def __init__(self, variable: str) -> None:
        self.variable = variable
        self.done: dict[int, tuple[Formula, Formula]] = {}

    def of(self, formula: Formula) -> Formula:
        found = self.done.get(id(formula))
        if found is None:
            found = self.done[id(formula)] = (formula, self._new(formula))
        return found[1]

    def _new(self, formula: Formula) -> Formula:
        if isinstance(formula, Variable):
            return ONE if formula.name == self.variable else ZERO
        if formula == c.UNDEFINED:
            return formula
        if isinstance(formula, Number | Given) or self.variable not in variables(formula):
            return ZERO
        if isinstance(formula, Named):
            return self.of(formula.body)
        assert isinstance(formula, Apply)
        return self._chain(formula)

    def _chain(self, formula: Apply) -> Formula:
        entry, arguments = formula.entry, formula.arguments
        if entry is c.POWER:
            return self._power(*arguments)
        if entry is c.DIVIDE:
            return self._quotient(*arguments)
        if entry is c.CHOOSE:
            return choose(arguments[0], self.of(arguments[1]), self.of(arguments[2]))
        if entry in (c.GUARD, c.DATA):
            return Apply(entry, (self.of(arguments[0]), *arguments[1:]))
        if entry is c.PERIOD:
            return Apply(entry, (self.of(arguments[0]), *arguments[1:4], self.of(arguments[4])))
        if entry.name in ("min", "max") and len(arguments) != 2:
            rest = Apply(entry, arguments[1:]) if len(arguments) > 2 else arguments[0]
            return self.of(Apply(entry, (arguments[0], rest)) if len(arguments) > 2 else rest)
        if entry.derivative is None:
            if entry.expansion is not None:
                return self.of(entry.expansion(*arguments))
            raise NoDerivative(entry.name)
        total: Formula = ZERO
        for argument, slope in zip(arguments, entry.derivative, strict=True):
            inner = self.of(argument)
            if c.is_number(inner, 0):
                continue
            try:
                total = c.add(total, c.times(slope(*arguments), inner))
            except ValueError as reason:
                raise NoDerivative(f"{entry.name}: {reason}") from reason
        return total

    def _power(self, base: Formula, exponent: Formula) -> Formula:
        if self.variable not in variables(exponent):
            inner = self.of(base)
            return c.times(c.times(exponent, c.power(base, lowered(exponent))), inner)
        whole = c.power(base, exponent)
        if c.is_number(expanded(base), 0):
            raise NoDerivative("a power of 0")
        if isinstance(base, Apply) and base.entry.name == "e":
            return c.times(whole, self.of(exponent))
        rate = c.times(self.of(exponent), c.call("ln", base))
        if self.variable in variables(base):
            rate = c.add(rate, c.over(c.times(exponent, self.of(base)), base))
        return c.times(whole, rate)

    def _quotient(self, top: Formula, bottom: Formula) -> Formula:
        if self.variable not in variables(bottom):
            return c.over(self.of(top), bottom)
        if self.variable not in variables(top):
            return self._reciprocal(top, bottom)
        change = c.subtract(c.times(self.of(top), bottom), c.times(top, self.of(bottom)))
        return c.over(change, c.power(bottom, TWO))

    def _reciprocal(self, top: Formula, bottom: Formula) -> Formula:
        """(a/b)' = -a b'/b^2; for b = k u^n in the shape of a student's hand: -n a u'/(k u^(n+1))."""
        factor, base, exponent = _as_power(bottom, self.variable)
        inner = self.of(base)
        numerator = c.times(c.times(Number(exponent), top), inner)
        denominator = c.power(base, Number(exponent + 1))
        if factor is not None:
            numerator, denominator = _cancelled(numerator, c.times(factor, denominator))
        return c.minus(c.over(numerator, denominator))


def _as_power(formula: Formula, variable: str) -> tuple[Formula | None, Formula, Fraction]:
    """`k*u^n` as (k, u, n); anything else as (None, itself, 1)."""
    if isinstance(formula, Apply) and formula.entry is c.MULTIPLY:
        left, right = formula.arguments
        if variable not in variables(left):
            inner, base, exponent = _as_power(right, variable)
            return (left if inner is None else c.times(left, inner)), base, exponent
    if isinstance(formula, Apply) and formula.entry is c.POWER:
        base, exponent_formula = formula.arguments
        if isinstance(exponent_formula, Number) and exponent_formula.value > 0:
            return None, base, exponent_formula.value
    return None, formula, Fraction(1)


def _factors(formula: Formula) -> tuple[Fraction, list[Formula]]:
    if isinstance(formula, Number):
        return formula.value, []
    if isinstance(formula, Apply) and formula.entry is c.MULTIPLY:
        a, left = _factors(formula.arguments[0])
        b, right = _factors(formula.arguments[1])
        return a * b, left + right
    return Fraction(1), [formula]


def _cancelled(top: Formula, bottom: Formula) -> tuple[Formula, Formula]:
    """Cancel the common number factor of two products."""
    a, over_factors = _factors(top)
    b, under_factors = _factors(bottom)
    if not b or not a:
        return top, bottom
    ratio = a / b
    top, bottom = Number(Fraction(ratio.numerator)), Number(Fraction(ratio.denominator))
    for factor in over_factors:
        top = c.times(top, factor)
    for factor in under_factors:
        bottom = c.times(bottom, factor)
    return top, bottom


def lowered(exponent: Formula) -> Formula:
    return c.subtract(exponent, ONE)


def fraction(formula: Formula) -> tuple[Formula, Formula]:
    """(numerator, denominator): the formula is numerator/denominator wherever it is defined.

    A pole is then a zero of the denominator, so the numerator alone decides where the formula can be zero. Neither part
    need be defined where the formula is not; the pair says nothing about that.
    """
    return _Fractions().of(formula)


class _Fractions:
    """Each part of a formula is taken apart once, however often it is used."""

    def __init__(self) -> None:
        self.done: dict[int, tuple[Formula, Formula]] = {}

    def of(self, formula: Formula) -> tuple[Formula, Formula]:
        formula = expanded(formula)
        found = self.done.get(id(formula))
        if found is None:
            found = self.done[id(formula)] = self._new(formula)
        return found

    def _new(self, formula: Formula) -> tuple[Formula, Formula]:
        if not isinstance(formula, Apply):
            return formula, ONE
        entry, args = formula.entry, formula.arguments
        if entry is c.NEGATIVE:
            top, bottom = self.of(args[0])
            return (formula, ONE) if c.is_number(bottom, 1) else (c.minus(top), bottom)
        if entry in (c.ADD, c.SUBTRACT):
            return _sum_fraction(entry is c.ADD, self.of(args[0]), self.of(args[1]), formula)
        if entry is c.MULTIPLY:
            (a, b), (p, q) = self.of(args[0]), self.of(args[1])
            return (formula, ONE) if c.is_number(b, 1) and c.is_number(q, 1) else (c.times(a, p), c.times(b, q))
        if entry is c.DIVIDE:
            (a, b), (p, q) = self.of(args[0]), self.of(args[1])
            return c.times(a, q), c.times(b, p)
        if entry is c.POWER:
            return self._power(formula, args[0], expanded(args[1]))
        if entry.name == "tan":
            return c.call("sin", args[0]), c.call("cos", args[0])
        if entry.name == "Gamma":
            return ONE, Apply(c.RECIPROCAL_GAMMA, args)
        return formula, ONE

    def _power(self, whole: Formula, base: Formula, exponent: Formula) -> tuple[Formula, Formula]:
        if not (isinstance(exponent, Number) and exponent.value.denominator == 1):
            return whole, ONE
        top, bottom = self.of(base)
        n = exponent.value
        if n >= 0:
            return (whole, ONE) if c.is_number(bottom, 1) else (c.power(top, exponent), c.power(bottom, exponent))
        return c.power(bottom, Number(-n)), c.power(top, Number(-n))


def _sum_fraction(plus: bool, left: tuple[Formula, Formula], right: tuple[Formula, Formula], whole: Formula) -> tuple[Formula, Formula]:
    (a, b), (p, q) = left, right
    join = c.add if plus else c.subtract
    if c.is_number(b, 1) and c.is_number(q, 1):
        return whole, ONE
    if b is q or _same(b, q):
        return join(a, p), b
    return join(c.times(a, q), c.times(p, b)), c.times(b, q)


def _same(a: Formula, b: Formula) -> bool:
    return a == b


def factors(formula: Formula) -> list[tuple[Formula, int]]:
    """Formulas with multiplicities whose zeros together are the zeros of the formula, wherever it is defined.

    Opened: products, powers, signs, `sqrt`, `cbrt`, `abs`, and `ln` (zero where its argument is 1); `exp` is never zero.
    Multiplicity 0 stands for a zero that has none, since the slope has no value there.
    """
    formula = expanded(formula)
    if isinstance(formula, Apply):
        entry, args = formula.entry, formula.arguments
        if entry is c.NEGATIVE:
            return factors(args[0])
        if entry.name in ("sqrt", "cbrt", "abs"):
            return [(f, 0) for f, _ in factors(args[0])]
        if entry.name == "exp":
            return []
        if entry is c.MULTIPLY:
            return factors(args[0]) + factors(args[1])
        if entry is c.POWER:
            exponent = expanded(args[1])
            if isinstance(exponent, Number) and exponent.value > 0:
                whole = exponent.value.denominator == 1
                return [(f, m * int(exponent.value) if whole else 0) for f, m in factors(args[0])]
            if isinstance(base := expanded(args[0]), Number) and base.value > 0:
                return []
        if entry.name in ("ln", "log10", "log2"):
            return [(c.subtract(args[0], ONE), 1)]
    return [(formula, 1)]


__all__ = ["NoDerivative", "derivative", "factors", "fraction", "substitute"]
