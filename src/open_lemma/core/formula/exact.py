"""The exact reading: algebra with SymPy, and polynomials with rational coefficients by FLINT.

SymPy is imported when first needed: a run that needs no algebra does not pay for it.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import Any, TypeVar

from flint import fmpq, fmpq_poly

from . import catalogue as c
from .limits import OutOfTime, time_limit
from .nodes import Apply, Formula, Given, Named, Number, Variable

MAX_DEGREE = 2_000
Answer = TypeVar("Answer")


class NotExact(Exception):
    """The formula holds something that algebra has no exact reading of."""


# What SymPy raises where it has no answer.
NO_ANSWER = (
    NotExact, ArithmeticError, ValueError, TypeError, NotImplementedError, RecursionError, AttributeError, KeyError, IndexError,
)  # fmt: skip


def by_algebra(work: Callable[[Any], Answer], seconds: float) -> Answer | None:
    """What some work with SymPy (the module is handed in) comes to; None where it has no answer or takes too long."""
    import sympy

    try:
        with time_limit(seconds):
            return work(sympy)
    except (OutOfTime, *NO_ANSWER, sympy.PolynomialError):
        return None


def to_sympy(formula: Formula, values: dict[str, Any] | None = None) -> Any:
    """The formula as a SymPy expression; variables are real symbols unless `values` gives them."""
    import sympy

    known = values or {}
    done: dict[int, Any] = {}
    made: list[Formula] = []

    def visit(node: Formula) -> Any:
        if id(node) not in done:
            done[id(node)] = build(node)
        return done[id(node)]

    def build(node: Formula) -> Any:
        if isinstance(node, Number):
            return sympy.Rational(node.value.numerator, node.value.denominator)
        if isinstance(node, Variable):
            return known[node.name] if node.name in known else sympy.Symbol(node.name, real=True)
        if isinstance(node, Named):
            return visit(node.body)
        if isinstance(node, Given):
            raise NotExact(node.name)
        assert isinstance(node, Apply)
        if node.entry.exact is not None:
            return node.entry.exact(sympy, *(visit(a) for a in node.arguments))
        if node.entry.expansion is not None:
            made.append(node.entry.expansion(*node.arguments))  # kept, so that its id stays its own
            return visit(made[-1])
        raise NotExact(node.entry.name)

    return visit(formula)


def is_exactly_zero(formula: Formula, values: dict[str, Any] | None = None) -> bool | None:
    """Whether a formula without variables (or with exact values for them) is zero; None where algebra cannot tell."""
    import sympy

    try:
        expression = to_sympy(formula, values)
        if _is_unbounded(expression):
            return None
        if expression == 0:
            return True
        if len(str(expression)) > 2_000:
            return None
        simplified = sympy.simplify(expression)
        return True if simplified == 0 else simplified.is_zero
    except NO_ANSWER:
        return None


def is_exactly_undefined(formula: Formula) -> bool:
    """Whether algebra shows that a formula without variables has no finite value, as at a pole."""
    try:
        return _is_unbounded(to_sympy(formula))
    except NO_ANSWER:
        return False


def _is_unbounded(expression: Any) -> bool:
    import sympy

    return bool(expression.has(sympy.nan, sympy.zoo, sympy.oo, -sympy.oo))


def rational(formula: Formula) -> Fraction | None:
    """The value of a formula without variables by exact arithmetic on fractions, None where it is not that simple."""
    found = polynomial(formula, "")
    if found is None or found.degree() > 0:
        return None
    value = found[0]
    return Fraction(int(value.p), int(value.q))


def polynomial(formula: Formula, variable: str) -> Any | None:
    """The formula as an `fmpq_poly` in a variable, or None where it is no polynomial with rational coefficients."""
    try:
        return _polynomial(formula, variable, {})
    except (NotExact, ZeroDivisionError):
        return None


def _polynomial(formula: Formula, variable: str, done: dict[int, Any]) -> Any:
    found = done.get(id(formula))
    if found is None:
        found = done[id(formula)] = _new_polynomial(formula, variable, done)
    return found


def _new_polynomial(formula: Formula, variable: str, done: dict[int, Any]) -> Any:
    if isinstance(formula, Number):
        return fmpq_poly([fmpq(formula.value.numerator, formula.value.denominator)])
    if isinstance(formula, Variable):
        if formula.name != variable:
            raise NotExact(formula.name)
        return fmpq_poly([0, 1])
    if isinstance(formula, Named):
        return _polynomial(formula.body, variable, done)
    if not isinstance(formula, Apply):
        raise NotExact
    entry = formula.entry
    if entry in (c.DATA, c.PERIOD):
        return _polynomial(formula.arguments[0], variable, done)
    if entry.category == "interpolated" and entry.scalar is not None:
        return _at_a_number(entry.scalar, _polynomial(formula.arguments[0], variable, done))
    if entry not in (c.NEGATIVE, c.ADD, c.SUBTRACT, c.MULTIPLY, c.DIVIDE, c.POWER):
        raise NotExact
    args = [_polynomial(a, variable, done) for a in formula.arguments]
    if entry is c.NEGATIVE:
        return -args[0]
    if entry is c.ADD:
        return args[0] + args[1]
    if entry is c.SUBTRACT:
        return args[0] - args[1]
    if entry is c.MULTIPLY:
        _check_degree(args[0].degree() + args[1].degree())
        return args[0] * args[1]
    if entry is c.DIVIDE:
        if args[1].degree() != 0:
            raise NotExact
        return args[0] / args[1][0]
    return _power(*args)


def _at_a_number(function: Callable[[Any], Any], place: Any) -> Any:
    """A function with exact values, at a rational number."""
    if place.degree() > 0:
        raise NotExact
    return fmpq_poly([function(place[0] if place.degree() == 0 else fmpq(0))])


def _power(base: Any, exponent: Any) -> Any:
    if exponent.degree() > 0 or (exponent.degree() == 0 and exponent[0].q != 1):
        raise NotExact
    n = int(exponent[0].p) if exponent.degree() == 0 else 0
    if n < 0:
        if base.degree() != 0:
            raise NotExact
        return fmpq_poly([_small_power(1 / base[0], -n)])
    if base.degree() <= 0:
        return fmpq_poly([_small_power(base[0] if base.degree() == 0 else fmpq(0), n)])
    _check_degree(base.degree() * n)
    return base**n


def _small_power(value: Any, n: int) -> Any:
    if c.is_long_power(value, n):
        raise NotExact
    return value**n


def _check_degree(degree: int) -> None:
    if degree > MAX_DEGREE:
        raise NotExact


# Functions of SymPy by their class names, as words of the catalogue.
FROM_SYMPY = {
    "sin": "sin", "cos": "cos", "tan": "tan", "asin": "asin", "acos": "acos", "atan": "atan", "sinh": "sinh", "cosh": "cosh",
    "tanh": "tanh", "exp": "exp", "log": "ln", "Abs": "abs", "gamma": "Gamma", "erf": "erf", "erfc": "erfc", "besselj": "besselj",
    "bessely": "bessely", "floor": "floor", "ceiling": "ceil", "sign": "sign", "Min": "min", "Max": "max",
}  # fmt: skip


def from_sympy(expression: Any) -> Formula:
    """A real SymPy expression as a formula. Raises NotExact where a part has no word of ours."""
    import sympy

    e = expression
    if e.is_Rational:
        return Number(Fraction(int(e.p), int(e.q)))
    if e.is_Symbol:
        return Variable(str(e.name))
    if e == sympy.pi or e == sympy.E:
        return c.constant("pi" if e == sympy.pi else "e")
    if e.is_Add or e.is_Mul:
        terms = [from_sympy(t) for t in (e.as_ordered_terms() if e.is_Add else _in_quotient(sympy, e))]
        total = terms[0]
        for term in terms[1:]:
            total = c.add(total, term) if e.is_Add else c.times(total, term)
        if e.is_Mul:
            _, bottom = e.as_numer_denom()
            return total if bottom == 1 else c.over(total, from_sympy(bottom))
        return total
    if e.is_Pow:
        base, exponent = e.as_base_exp()
        if base == sympy.E:
            return c.call("exp", from_sympy(exponent))
        if exponent == sympy.Rational(1, 2):
            return c.call("sqrt", from_sympy(base))
        if exponent.could_extract_minus_sign():
            return c.over(Number(Fraction(1)), from_sympy(base**-exponent))
        return c.power(from_sympy(base), from_sympy(exponent))
    if e.func.__name__ == "exp":
        return c.call("exp", from_sympy(e.args[0]))
    word = FROM_SYMPY.get(e.func.__name__)
    if word is None or not e.args:
        raise NotExact(str(e))
    arguments = [from_sympy(a) for a in e.args]
    if word in ("min", "max"):
        total = arguments[0]
        for other in arguments[1:]:
            total = c.call(word, total, other)
        return total
    return c.call(word, *arguments)


def _in_quotient(sympy: Any, e: Any) -> list[Any]:
    """The factors above the line of a product."""
    top, _ = e.as_numer_denom()
    return list(sympy.Mul.make_args(top))
