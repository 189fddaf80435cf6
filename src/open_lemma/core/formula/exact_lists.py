"""Formulas over short lists of exact elements, worked out exactly."""

from __future__ import annotations

from fractions import Fraction

from flint import fmpq

from .inexact import rests_on_doubles
from .nodes import Formula, Given, Variable, transformed
from .tape import NoScalar, Tape

MAX_EXACT_LIST = 1_000
MAX_EXACT_BITS = 4096  # quotients stay exact up to this size of numerator and denominator


def exactly(formula: Formula, lists: list[Given]) -> tuple[Fraction, ...] | None:
    """The elements of a formula over short exact lists, exactly; None where some step has no exact reading."""
    if not lists or any(n.exact is None or len(n.exact) > MAX_EXACT_LIST for n in lists) or rests_on_doubles(formula, lists):
        return None
    opened, columns = opened_lists(formula, lists)
    try:
        work = Tape([opened], list(columns)).scalar(True)
        rows = zip(*(n.exact for n in columns.values() if n.exact is not None), strict=True)
        found = [work(*(fmpq(v.numerator, v.denominator) for v in row)) for row in rows]
    except (NoScalar, ArithmeticError, ValueError):
        return None
    if not all(isinstance(v, fmpq) and v.height_bits() <= MAX_EXACT_BITS for v in found):
        return None
    return tuple(Fraction(int(v.p), int(v.q)) for v in found)


def opened_lists(formula: Formula, lists: list[Given]) -> tuple[Formula, dict[str, Given]]:
    """The formula with a variable in place of each list, and the list of each variable."""
    unique = {id(n): n for n in lists}
    keys = {key: Variable(f"list {place}") for place, key in enumerate(unique)}
    opened = transformed(formula, lambda node, _: keys.get(id(node)) if isinstance(node, Given) else None)
    return opened, {keys[key].name: n for key, n in unique.items()}
