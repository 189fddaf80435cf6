"""Truth: comparisons, `and`, `or`, `not`, and pieces that are chosen by conditions."""

from __future__ import annotations

import operator
from collections.abc import Callable
from dataclasses import replace as changed
from typing import TYPE_CHECKING, Any

from ...formula import catalogue as c
from ...formula.certain import certain_value, enclosure
from ...formula.choice import choose
from ...formula.estimates import estimated, standard_error
from ...formula.inexact import rests_on_doubles
from ...formula.nodes import Apply, Formula
from ...formula.quantities import bare
from ...formula.tape import Tape
from ...language import tree
from ..values import ListValue, PointValue, Scalar, TextValue, TruthValue, Value
from .refusals import refusal

if TYPE_CHECKING:
    from .evaluator import Evaluator


def truth(scope: Evaluator, e: tree.Expression) -> TruthValue:
    """Whether a condition holds; `and` and `or` look no further than they must."""
    if isinstance(e, tree.Group):
        return scope.truth(e.inner)
    if isinstance(e, tree.Truth):
        return TruthValue(e.value, True, _constant(e.value))
    if isinstance(e, tree.Comparison):
        return compared(scope, e, [scope.value(o) for o in e.operands])
    if isinstance(e, tree.Logical):
        return _logical(scope, e)
    found = scope.value(e)
    if isinstance(found, TruthValue):
        return found
    raise refusal("condition-needed", "a condition is needed here, something that is true or false", e)


def condition(scope: Evaluator, e: tree.Expression) -> Formula:
    """A condition as a formula, for pieces and loops: variables in it stay open."""
    if isinstance(e, tree.Group):
        return scope.condition(e.inner)
    if isinstance(e, tree.Truth):
        return _constant(e.value)
    if isinstance(e, tree.Logical):
        parts = [scope.condition(o) for o in e.operands]
        if e.word == "not":
            return Apply(c.CONDITIONS["not"], (parts[0],))
        return _folded(c.CONDITIONS[e.word], parts)
    if isinstance(e, tree.Comparison):
        sides = [scope.formula(o) for o in e.operands]
        return _folded(c.CONDITIONS["and"], [Apply(c.CONDITIONS[s], (sides[k], sides[k + 1])) for k, s in enumerate(e.signs)])
    held = scope.truth(e)
    return _constant(held.truth)


COMPARE_BITS = 256


def _logical(scope: Evaluator, e: tree.Logical) -> TruthValue:
    if e.word == "not":
        inner = scope.truth(e.operands[0])
        return _negated(inner)
    decides = e.word == "or"
    parts: list[TruthValue] = []
    for operand in e.operands:
        found = scope.truth(operand)
        if found.truth is decides:
            return found
        parts.append(found)
    return _all_of(parts, e.word, not decides)


def compared(scope: Evaluator, e: tree.Comparison, values: list[Value]) -> TruthValue:
    """Whether a chain of comparisons holds for the values of its operands."""
    parts: list[TruthValue] = []
    for place, sign in enumerate(e.signs):
        found = _compared_pair(scope, e, place, sign, values[place], values[place + 1])
        if not found.truth:
            return found
        parts.append(found)
    return _all_of(parts, "and", True)


def _constant(held: bool) -> Formula:
    return Apply(c.CONDITIONS["true" if held else "false"], ())


def _negated(value: TruthValue) -> TruthValue:
    condition = None if value.condition is None else Apply(c.CONDITIONS["not"], (value.condition,))
    return TruthValue(not value.truth, value.proven, condition, value.apart)


def _all_of(parts: list[TruthValue], word: str, held: bool) -> TruthValue:
    """What parts joined by `and` or `or` come to, where none of them decides alone."""
    conditions = [p.condition for p in parts if p.condition is not None]
    whole = _folded(c.CONDITIONS[word], conditions) if len(conditions) == len(parts) else None
    apart = min((p.apart for p in parts if p.apart is not None), default=None)
    return TruthValue(held, all(p.proven for p in parts), whole, apart)


def _compared_pair(scope: Evaluator, e: tree.Comparison, place: int, sign: str, left: Value, right: Value) -> TruthValue:
    operands = e.operands[place], e.operands[place + 1]
    if isinstance(left, TextValue) and isinstance(right, TextValue):
        return TruthValue((left.text == right.text) is (sign == "="), True)
    if isinstance(left, TruthValue) and isinstance(right, TruthValue):
        return TruthValue((left.truth == right.truth) is (sign == "="), left.proven and right.proven)
    if isinstance(left, PointValue) and isinstance(right, PointValue) and len(left.items) == len(right.items):
        parts = [compare(a, b, "=") for a, b in zip(left.items, right.items, strict=True)]
        same = _all_of(parts, "and", all(p.truth for p in parts))
        return same if sign == "=" else _negated(same)
    if isinstance(left, Scalar) and isinstance(right, Scalar) and (left.gap or right.gap):
        return TruthValue((left.gap and right.gap) is (sign == "="), True)
    one, other = scope.as_number(left, operands[0]), scope.as_number(right, operands[1])
    scope.unit(Apply(c.CONDITIONS[sign], (one.formula, other.formula)), e)
    return compare(one, scope.in_unit(other, one.unit, operands[1]), sign)


def pieces(scope: Evaluator, e: tree.Pieces) -> Value | None:
    """A piecewise value without variables: the first piece whose condition holds."""
    if (scope.variables and scope.holds_variable(e)) or _holds_list(scope, [condition for _, condition in e.pieces]):
        return None
    proven = True
    chosen = e.otherwise
    for value, condition in e.pieces:
        held = scope.truth(condition)
        proven = proven and held.proven
        if held.truth:
            chosen = value
            break
    if chosen is None:
        raise refusal("no-piece", "none of these conditions holds, and there is no 'otherwise'", e)
    found = scope.value(chosen)
    return changed(found, proven=False) if isinstance(found, Scalar) and not proven else found


def _holds_list(scope: Evaluator, conditions: list[tree.Expression]) -> bool:
    names = frozenset().union(*(tree.free_names(e) for e in conditions))
    return any(isinstance(scope.names.find(n), ListValue) for n in names - scope.variables)


def choices(scope: Evaluator, e: tree.Pieces) -> Formula:
    """Pieces as a formula: each with its condition, undefined where none holds."""
    found = c.UNDEFINED if e.otherwise is None else scope.formula(e.otherwise)
    for value, condition in reversed(e.pieces):
        found = choose(scope.condition(condition), scope.formula(value), found)
    return found


_SIGNS: dict[str, Callable[[Any, Any], Any]] = {
    "<": operator.lt, ">": operator.gt, "<=": operator.le, ">=": operator.ge, "=": operator.eq, "!=": operator.ne,
}  # fmt: skip


def _folded(entry: Any, parts: list[Formula]) -> Formula:
    found = parts[0]
    for part in parts[1:]:
        found = Apply(entry, (found, part))
    return found


def _apart(difference: Formula, away: float) -> float | None:
    """How many standard uncertainties a difference is away from zero."""
    error = standard_error(bare(difference))
    return abs(away) / error if error else None


def compare(left: Scalar, right: Scalar, sign: str) -> TruthValue:
    """Compare two numbers: exactly where both are exact, else by an enclosure of their difference, else as doubles."""
    holds = _SIGNS[sign]
    condition = Apply(c.CONDITIONS[sign], (left.formula, right.formula))
    if left.exact is not None and right.exact is not None:
        return TruthValue(bool(holds(left.exact, right.exact)), True, condition)
    difference = c.subtract(left.formula, right.formula)
    if estimated(difference):
        return TruthValue(bool(holds(left.value, right.value)), False, condition, _apart(difference, left.value - right.value))
    ball = enclosure(Tape([difference], []), COMPARE_BITS)
    if ball is not None and ball.is_finite() and not ball.contains(0):
        return TruthValue(bool(holds(1 if ball > 0 else -1, 0)), not rests_on_doubles(difference), condition)
    if certain_value(difference).exact == 0:
        return TruthValue(bool(holds(0, 0)), not rests_on_doubles(difference), condition)
    return TruthValue(bool(holds(left.value, right.value)), False, condition)
