"""The domains that definitions state, taken off a formula and put on its window."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from . import catalogue as c
from .certain import certain_value
from .choice import condition_of
from .exact import polynomial
from .nodes import Apply, Formula, Number, Variable, Visit, expanded, transformed, variables, walk
from .tape import Tape

MAX_DIVISOR_DEGREE = 60


@dataclass(frozen=True, slots=True)
class Clipped:
    """A formula without guards on its variable, the window in which they all hold, and whether they narrowed it."""

    formula: Formula
    low: Formula
    high: Formula
    narrowed: bool
    empty: bool
    beyond: tuple[tuple[float, float], ...] = ()  # spans of data that the window leaves


def infinite(end: Formula) -> bool:
    return abs(end_value(end)) == float("inf")


def end_value(end: Formula) -> float:
    """The double nearest to an end of a window, also of an infinite one."""
    plain = expanded(end)
    if isinstance(plain, Apply) and plain.entry.name == "infinity":
        return float("inf")
    if isinstance(plain, Apply) and plain.entry is c.NEGATIVE:
        return -end_value(plain.arguments[0])
    return certain_value(plain).value


def clip(formula: Formula, variable: str, low: Formula, high: Formula) -> Clipped:
    """Where the formula calls functions with the plain variable, their domains narrow the window from low to high."""
    narrowed = False
    beyond: dict[tuple[float, float], None] = {}
    for node in walk(formula):
        if not _spanned(node, variable):
            continue
        assert isinstance(node, Apply)
        first, last = node.arguments[2:4]
        if node.entry is c.PERIOD:
            continue
        if node.entry is c.DATA:
            beyond[end_value(first), end_value(last)] = None
            continue
        if end_value(first) > end_value(low):
            low, narrowed = first, True
        if end_value(last) < end_value(high):
            high, narrowed = last, True
    ends = end_value(low), end_value(high)
    left = tuple(s for s in beyond if ends[0] < s[0] or ends[1] > s[1])
    return Clipped(without_guards(formula, variable, ends), low, high, narrowed, not ends[0] < ends[1], left)


def _spanned(node: Formula, variable: str) -> bool:
    """Whether a part says for which values of the plain variable it is meant: a stated domain, or the span of data."""
    return isinstance(node, Apply) and node.entry in (c.GUARD, c.DATA, c.PERIOD) and node.arguments[1] == Variable(variable)


def data_spans(formula: Formula, names: Collection[str]) -> dict[str, tuple[float, float]]:
    """From where to where the data go that functions called with these plain variables were got from."""
    found: dict[str, tuple[float, float]] = {}
    for node in walk(formula):
        if not (isinstance(node, Apply) and node.entry is c.DATA):
            continue
        place = node.arguments[1]
        if isinstance(place, Variable) and place.name in names:
            low, high = (end_value(e) for e in node.arguments[2:4])
            known = found.get(place.name, (low, high))
            found[place.name] = max(low, known[0]), min(high, known[1])
    return found


def stated_domain(formula: Formula, variable: str) -> tuple[Formula, Formula] | None:
    """The domain that the functions called with the plain variable state together, or the data they were got from, if any does."""
    found: tuple[Formula, Formula] | None = None
    for node in walk(formula):
        if isinstance(node, Apply) and _spanned(node, variable):
            low, high = node.arguments[2:4]
            if found is not None:
                low = max(low, found[0], key=end_value)
                high = min(high, found[1], key=end_value)
            found = (low, high)
    return found


def division_places(formula: Formula, variable: str) -> list[float]:
    """Rational zeros of the polynomials that the formula divides by: a hole in a curve leaves no other trace in samples."""
    places: set[float] = set()
    for node in walk(formula):
        divisor = divided_by(node)
        plain = polynomial(divisor, variable) if divisor is not None and variable in variables(divisor) else None
        if plain is None or not 0 < plain.degree() <= MAX_DIVISOR_DEGREE:
            continue
        for factor, _ in plain.factor()[1]:
            if factor.degree() == 1:
                root = -factor[0] / factor[1]
                places.add(int(root.p) / int(root.q))
    return sorted(places)


def joints(formula: Formula, variable: str) -> list[Formula]:
    """Where a piecewise formula goes over from one piece to the next, as far as that is plain: the constants that its
    conditions compare the variable with, and the zeros of linear ones with rational coefficients. Each once, rising."""
    found: dict[float, Formula] = {}
    for node in walk(formula):
        if not (isinstance(node, Apply) and node.entry.category == "condition" and len(node.arguments) == 2):
            continue
        if node.entry.name in ("and", "or"):
            continue
        place = _joint(*node.arguments, variable)
        if place is not None:
            found.setdefault(end_value(place), place)
    return [found[v] for v in sorted(found)]


def _joint(left: Formula, right: Formula, variable: str) -> Formula | None:
    for one, other in ((left, right), (right, left)):
        if expanded(one) == Variable(variable) and variable not in variables(other):
            return other
    plain = polynomial(c.subtract(left, right), variable)
    if plain is None or plain.degree() != 1:
        return None
    root = -plain[0] / plain[1]
    return Number(Fraction(int(root.p), int(root.q)))


def piece_at(formula: Formula, variable: str, place: float) -> Formula:
    """The formula with each choice replaced by the branch that is taken at a place, where its condition has plain joints only."""

    def taken(node: Formula, visit: Visit) -> Formula | None:
        if not (isinstance(node, Apply) and node.entry is c.CHOOSE):
            return None
        condition, first, other = node.arguments
        if variable in variables(condition) and not plain_joints(condition, variable):
            return None
        held = condition_of(condition, lambda formulas: Tape(formulas, [variable])).numeric((np.asarray(place),))
        if not np.isfinite(held):
            return c.UNDEFINED
        return visit(first if held else other)

    return transformed(formula, taken)


def plain_joints(condition: Formula, variable: str) -> bool:
    """Whether `joints` holds all places at which a condition may change."""
    return all(
        variable not in variables(node) or _joint(*node.arguments, variable) is not None
        for node in walk(condition)
        if isinstance(node, Apply) and node.entry.category == "condition" and node.entry.name not in ("and", "or", "not")
        and len(node.arguments) == 2
    )  # fmt: skip


def divided_by(node: Formula) -> Formula | None:
    """What a quotient, or a power below zero, divides by."""
    if isinstance(node, Apply) and node.entry is c.DIVIDE:
        return node.arguments[1]
    if isinstance(node, Apply) and node.entry is c.POWER:
        exponent = expanded(node.arguments[1])
        return node.arguments[0] if isinstance(exponent, Number) and exponent.value < 0 else None
    return None


def without_guards(formula: Formula, variable: str, window: tuple[float, float] | None = None) -> Formula:
    """The formula with the guards on its plain variable taken off; shared parts stay shared.

    window: in which it is looked at; of a curve that repeats itself one period is enough where that holds the window
    """

    def unguarded(node: Formula, visit: Visit) -> Formula | None:
        if not isinstance(node, Apply) or not _spanned(node, variable):
            return None
        if node.entry is c.PERIOD and window is not None:
            low, high = (end_value(e) for e in node.arguments[2:4])
            return visit(node.arguments[4 if low <= window[0] and window[1] <= high else 0])
        return visit(node.arguments[0])

    return transformed(formula, unguarded)
