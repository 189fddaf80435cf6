"""Expressions of loops, worked out many times: compiled once to steps on single numbers.

Inside of loops and `define` blocks a number is a quotient of whole numbers as long as it can stay one (up to
MAX_EXACT_BITS), else a double. Whatever has no quick reading, or meets trouble on its way, is worked out by the slow
and thorough way, which then also finds the words for what is wrong.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from flint import fmpq

from ..formula.catalogue import ENTRIES
from ..formula.choice import condition_of
from ..formula.entry import Entry
from ..formula.exact_lists import MAX_EXACT_BITS
from ..formula.nodes import Apply, Formula, Variable, variables
from ..formula.quantities import unit_of
from ..formula.tape import NoScalar, Tape
from ..formula.units import MixedUnits
from ..language import tree
from ..language.messages import Refused
from .evaluate.evaluator import Evaluator
from .values import DefinedFunction, Frame, ListValue, Scalar, TruthValue, Value, grown, raw_number

TROUBLE = (ArithmeticError, ValueError, TypeError, KeyError, NoScalar)


class FastPathUnavailable(Exception):
    """This expression, or these values, have no quick reading."""


def _element(xs: ListValue, place: Any) -> Any:
    index = int(place) if isinstance(place, float) else int(place.p)
    if index != place or not 1 <= index <= len(xs.data):
        raise ValueError("no such element")
    if xs.exact is not None and not isinstance(place, float):
        exact = xs.exact[index - 1]
        return fmpq(exact.numerator, exact.denominator)
    return float(xs.data[index - 1])


ELEMENT = Entry("element", "operator", (2, 2), "", "", scalar=_element)
LENGTH = Entry("length of a name", "operator", (1, 1), "", "", scalar=lambda xs: fmpq(len(xs.data)))


class Quick:
    """One expression: call it with a frame of names. Raises FastPathUnavailable where the slow way must be gone."""

    __slots__ = ("doubles", "exact", "floats", "names")

    def __init__(self, names: tuple[str, ...], exact: Callable[..., Any] | None, floats: Callable[..., Any] | None) -> None:
        self.names, self.exact, self.floats = names, exact, floats
        self.doubles = exact is None  # what worked the last time is tried first, without looking at the kinds of the values

    def __call__(self, frame: dict[str, Any]) -> Any:
        try:
            if self.doubles:  # noqa: SIM108 (the two lines are read more easily than one)
                found = self.floats(*[float(frame[n]) for n in self.names])  # type: ignore[misc]
            else:
                found = self.exact(*[frame[n] for n in self.names])  # type: ignore[misc]
            kind = type(found)
            if kind is float and found - found == 0.0:
                return found
            if kind is bool or (kind is fmpq and found.height_bits() <= MAX_EXACT_BITS):
                return found
        except TROUBLE:
            pass  # the kinds do not fit, or there is no value: looked at more closely
        return self._closely([frame[n] for n in self.names])

    def _closely(self, values: list[Any]) -> Any:
        """By the kinds of the values: exactly if all are quotients, else with doubles."""
        plain = True
        for place, value in enumerate(values):
            kind = type(value)
            if kind is Scalar:
                raw = raw_number(value)
                if raw is None:
                    raise FastPathUnavailable
                values[place] = raw
                kind = type(raw)
            if kind is not fmpq and kind is not ListValue:
                if kind is not float:
                    raise FastPathUnavailable
                plain = False
        try:
            if plain and self.exact is not None:
                try:
                    found = self._kept(self.exact(*values))
                    self.doubles = False
                    return found
                except TypeError:
                    pass  # a double came out on the way
            if self.floats is None:
                raise FastPathUnavailable
            found = self._kept(self.floats(*(_double(v) if type(v) is fmpq else v for v in values)))
            self.doubles = not any(type(v) is ListValue for v in values)
            return found
        except TROUBLE as trouble:
            raise FastPathUnavailable from trouble

    def _kept(self, found: Any) -> Any:
        kind = type(found)
        if kind is float:
            if not math.isfinite(found):
                raise FastPathUnavailable
            return found
        if kind is fmpq:
            return found if found.height_bits() <= MAX_EXACT_BITS else _double(found)
        return found if kind is bool else self._kept(float(found))


def _double(value: Any) -> float:
    return float(value)  # rounded once, to the nearest


class QuickJoin:
    """`xs join [a, b]`: a list grown at its end."""

    __slots__ = ("items", "name")

    def __init__(self, name: str, items: list[Quick]) -> None:
        self.name, self.items = name, items

    def __call__(self, frame: dict[str, Any]) -> ListValue:
        xs = frame[self.name]
        if type(xs) is not ListValue or xs.unit is not None:
            raise FastPathUnavailable
        data, room = grown(xs.data, xs.room, [float(item(frame)) for item in self.items])
        return ListValue(data, None, room)


class _FastPathEvaluator(Evaluator):
    """Names that change in the loop stay open; whatever would have to be worked out anew each time is refused."""

    moving: frozenset[str]

    @staticmethod
    def of(scope: Evaluator, moving: frozenset[str]) -> _FastPathEvaluator:
        made = _FastPathEvaluator(scope.text, scope.names, scope.request, scope.variables, scope.say)
        made.moving = moving
        return made

    def within(self, *variables: str) -> Evaluator:
        return self._same(super().within(*variables))

    def with_names(self, names: Frame) -> Evaluator:
        return self._same(super().with_names(names))

    def _same(self, scope: Evaluator) -> _FastPathEvaluator:
        return _FastPathEvaluator.of(scope, self.moving)

    def structural(self, e: tree.Expression) -> Value | None:
        if isinstance(e, tree.Group | tree.Call | tree.Pieces):
            return None
        # What is worked out here stands for all passes: it may rest on nothing that changes.
        if tree.free_names(e) & self.moving:
            raise FastPathUnavailable
        return super().structural(e)

    def formula(self, e: tree.Expression) -> Formula:
        if isinstance(e, tree.Index):
            if not (len(e.places) == 1 and isinstance(e.target, tree.Name) and self._is_list(e.target.name)):
                raise FastPathUnavailable
            return Apply(ELEMENT, (Variable(e.target.name), self.formula(e.places[0])))
        if isinstance(e, tree.Call) and isinstance(e.function, tree.Name) and e.function.name == "length" and not self.names.has("length"):
            argument = e.arguments[0]
            if isinstance(argument, tree.Name) and self._is_list(argument.name):
                return Apply(LENGTH, (Variable(argument.name),))
        return super().formula(e)

    def _is_list(self, name: str) -> bool:
        return isinstance(self.names.find(name), ListValue)

    def name_formula(self, e: tree.Name) -> Formula:
        if e.name in self.moving:
            found = self.names.find(e.name)
            if not isinstance(found, Scalar):
                raise FastPathUnavailable
            return Variable(e.name)
        return super().name_formula(e)

    def truth(self, e: tree.Expression) -> TruthValue:
        if tree.free_names(e) & self.moving:
            raise FastPathUnavailable
        return super().truth(e)

    def call_formula(self, e: tree.Call) -> Formula:
        function = e.function.function if isinstance(e.function, tree.Prime) else e.function
        if isinstance(function, tree.Name) and function.name in self.moving:
            raise FastPathUnavailable
        return super().call_formula(e)

    def plain_call(self, e: tree.Call) -> Value | None:
        if isinstance(e.function, tree.Name) and isinstance(self.names.find(e.function.name), DefinedFunction):
            return None
        if tree.free_names(e) & self.moving:
            # A function of a whole list would be worked out once and kept; of numbers it is a formula.
            entry_takes_list = self._takes_list(e)
            if entry_takes_list:
                raise FastPathUnavailable
            return None
        return super().plain_call(e)

    def _takes_list(self, e: tree.Call) -> bool:
        if not isinstance(e.function, tree.Name):
            return False
        entry = ENTRIES.get(e.function.name)
        several = entry is not None and entry.name in ("min", "max") and len(e.arguments) > 1
        return entry is not None and entry.values is not None and not several


def quick_number(e: tree.Expression, scope: Evaluator, moving: frozenset[str]) -> Quick | None:
    """The quick reading of an expression whose value is a number; None where there is none."""
    return _compiled(scope, moving, lambda evaluator: evaluator.formula(e), lambda formula, names: Tape([formula], names).scalar)


def quick_value(e: tree.Expression, scope: Evaluator, moving: frozenset[str]) -> Quick | QuickJoin | None:
    """The quick reading of a number, or of a list that grows."""
    if isinstance(e, tree.Join):
        if not (
            isinstance(e.left, tree.Name) and isinstance(e.right, tree.ListOf) and isinstance(scope.names.find(e.left.name), ListValue)
        ):
            return None
        items = [quick_number(i, scope, moving) for i in e.right.items]
        return None if None in items else QuickJoin(e.left.name, [i for i in items if i is not None])
    return quick_number(e, scope, moving)


def quick_condition(e: tree.Expression, scope: Evaluator, moving: frozenset[str]) -> Quick | None:
    """The same for a condition."""

    def reading(formula: Formula, names: list[str]) -> Any:
        return condition_of(formula, lambda formulas: Tape(formulas, names)).scalar

    return _compiled(scope, moving, lambda evaluator: evaluator.condition(e), reading)


def _compiled(
    scope: Evaluator, moving: frozenset[str], evaluated: Callable[[Evaluator], Formula], reading: Callable[..., Any]
) -> Quick | None:
    try:
        formula = evaluated(_FastPathEvaluator.of(scope, moving))
        if unit_of(formula) is not None:
            return None
        names = sorted(variables(formula))
        scalar = reading(formula, names)
    except (FastPathUnavailable, Refused, NoScalar, MixedUnits, TypeError, RecursionError):
        return None
    readings = []
    for exact in (True, False):
        try:
            readings.append(scalar(exact))
        except NoScalar:
            readings.append(None)
    if readings == [None, None]:
        return None
    return Quick(tuple(names), *readings)
