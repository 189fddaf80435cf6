"""Tree → formula: names are looked up, requests and lists inside are worked out, what is left is mathematics."""

from __future__ import annotations

import itertools
import operator
import os
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace as changed
from fractions import Fraction
from typing import Any

import numpy as np
from flint import fmpq

from ..formula import catalogue as c
from ..formula.calculus import NoDerivative, derivative
from ..formula.certain import certain_value, enclosure
from ..formula.choice import choose
from ..formula.domain import end_value
from ..formula.exact import rational
from ..formula.nodes import Apply, Formula, Given, Named, Number, Variable, substitute, transformed, variables, walk
from ..formula.tape import NoScalar, Tape
from ..formula.units import BadUnit, MixedUnits, Unit, parse_unit, unit_of
from ..language import tree
from ..language.cursor import nearest
from ..language.kinds import gives_formula, step_message
from ..language.messages import Message, Refused, advise, replace
from ..numerics.algebra import MOST_ORDER, Form, NoForm, antiderivative, series_of, simplification
from ..numerics.integrals import NoIntegral
from .undefined import format_short, no_value
from .values import (
    GAP,
    MAX_EXACT_BITS,
    DefinedFunction,
    FindingValue,
    FoundPlace,
    Frame,
    FunctionValue,
    ItemsValue,
    ListValue,
    PointValue,
    Scalar,
    TableValue,
    TextValue,
    TruthValue,
    Value,
    grown,
)

MAX_LIST = 5_000_000
MAX_ONE_BY_ONE = 20_000
MAX_EXACT_LIST = 1_000
COMPARE_BITS = 256


def refusal(code: str, text: str, node: tree.Node, *fixes: Any) -> Refused:
    return Refused(Message("error", code, node.start, node.end, text, tuple(fixes)))


class Evaluator:
    """Turns expressions into formulas within a scope.

    text     the script, for fixes that turn its parts around
    names    values by name
    request  works out a request that stands inside a formula
    say      told of what was passed over on the way, with the place: (text, node)
    warn     told of what a reader must know to trust a value: (code, text, node)
    """

    def __init__(
        self,
        text: str,
        names: Frame,
        request: Callable[[tree.Request, Evaluator], Value],
        variables: frozenset[str] = frozenset(),
        say: Callable[[str, tree.Node], None] = lambda *_: None,
        warn: Callable[[str, str, tree.Node], None] = lambda *_: None,
    ) -> None:
        self.text, self.names, self.request, self.variables, self.say = text, names, request, variables, say
        self.warn = warn
        self.rounded: list[str] = []  # what went through doubles on its way into what was asked for

    def within(self, *variables: str) -> Evaluator:
        """The same scope with these names as variables."""
        return self._like(Evaluator(self.text, self.names, self.request, self.variables | set(variables), self.say, self.warn))

    def with_names(self, names: Frame) -> Evaluator:
        return self._like(Evaluator(self.text, names, self.request, self.variables, self.say, self.warn))

    def noting(self) -> Evaluator:
        """The same scope, which notes in `rounded` what went through doubles from here on."""
        return Evaluator(self.text, self.names, self.request, self.variables, self.say, self.warn)

    def _like(self, scope: Evaluator) -> Evaluator:
        scope.rounded = self.rounded
        return scope

    def _note(self, formula: Formula, name: str) -> None:
        if rests_on_doubles(formula):
            self.rounded.append(name or "a number")

    # ------------------------------------------------------------ values

    def value(self, e: tree.Expression) -> Value:
        """The value of an expression without variables."""
        plain = self._structural(e)
        if plain is not None:
            return plain
        return self.worked_out(self.formula(e), e)

    def worked_out(self, formula: Formula, e: tree.Expression) -> Value:
        """The value of a formula without variables: a number or a list."""
        if variables(formula):
            names = ", ".join(sorted(variables(formula)))
            raise refusal("no-formula", f"a number is needed here, and {names} stands for none: this cannot be part of a formula", e)
        unit = self.unit(formula, e)
        if any(isinstance(n, Given) and np.ndim(n.data) for n in walk(formula)):
            return self._list_value(formula, unit, e)
        found = self.as_scalar(formula)
        if not np.isfinite(found.value):
            if any(isinstance(n, Given) and n.data != n.data for n in walk(formula)):
                return GAP
            raise no_value(formula, e)
        return found

    def unit(self, formula: Formula, e: tree.Node) -> Unit | None:
        """The unit of a formula. Raises Refused where units do not go together."""
        try:
            return unit_of(formula)
        except MixedUnits as trouble:
            raise refusal("units", f"units do not fit: {trouble}", e, advise("give both the same unit, or divide the unit away")) from None

    def as_scalar(self, formula: Formula) -> Scalar:
        """A number with its formula; NaN where it has no value."""
        found = certain_value(formula)
        if rests_on_doubles(formula):
            return Scalar(formula, found.value, None, None, False)
        return Scalar(formula, found.value, found.exact, found.interval, found.proven)

    def _structural(self, e: tree.Expression) -> Value | None:
        """Values that are no arithmetic: texts, points, lists, elements, requests, names of any of these."""
        reader = _STRUCTURAL.get(type(e))
        return None if reader is None else reader(self, e)

    def _named(self, e: tree.Name) -> Value | None:
        if e.name in self.variables:
            return None
        found = self.names.find(e.name)
        if found is None:
            return GAP if e.name == "gap" else None
        return None if isinstance(found, Scalar) and not found.gap else found

    def _called(self, e: tree.Call) -> Value | None:
        if not isinstance(e.function, tree.Name):
            return None
        found = self.names.find(e.function.name)
        if isinstance(found, DefinedFunction):
            if self.variables and any(self._holds_variable(a) for a in e.arguments):
                return None
            return found.call(tuple(self.value(a) for a in e.arguments), e)  # type: ignore[no-any-return]
        return self._list_call(e, e.function.name)

    def _holds_variable(self, e: tree.Expression) -> bool:
        return bool(tree.free_names(e) & self.variables)

    def _asked(self, e: tree.Request) -> Value | None:
        if gives_formula(e):
            return None  # a formula
        return self.request(e, self)

    def number(self, e: tree.Expression) -> Scalar:
        """One number; a finding with one value counts."""
        return self.as_number(self.value(e), e)

    def as_number(self, found: Value, e: tree.Expression) -> Scalar:
        """A value as the one number that it must be at this place."""
        number = found if isinstance(found, Scalar) else None
        if isinstance(found, FindingValue) and len(found.places) == 1:
            number = place_number(found.places[0])
        if number is not None:
            self._note(number.formula, e.name if isinstance(e, tree.Name) else "")
            return number
        if isinstance(found, FindingValue):
            raise refusal(
                "several-values",
                f"a number is needed here, and this finding has {len(found.places) or 'no'} values",
                e,
                advise("choose one: name[1]"),
            )
        raise refusal("number-needed", f"a number is needed here; this is {described(found)}", e)

    # ------------------------------------------------------------ truth

    def truth(self, e: tree.Expression) -> TruthValue:
        """Whether a condition holds; `and` and `or` look no further than they must."""
        if isinstance(e, tree.Group):
            return self.truth(e.inner)
        if isinstance(e, tree.Truth):
            return TruthValue(e.value, True)
        if isinstance(e, tree.Comparison):
            return self.compared(e, [self.value(o) for o in e.operands])
        if isinstance(e, tree.Logical):
            return self._logical(e)
        found = self.value(e)
        if isinstance(found, TruthValue):
            return found
        raise refusal("condition-needed", "a condition is needed here, something that is true or false", e)

    def _logical(self, e: tree.Logical) -> TruthValue:
        if e.word == "not":
            inner = self.truth(e.operands[0])
            return TruthValue(not inner.truth, inner.proven)
        decides = e.word == "or"
        proven = True
        for operand in e.operands:
            found = self.truth(operand)
            if found.truth is decides:
                return found
            proven = proven and found.proven
        return TruthValue(not decides, proven)

    def compared(self, e: tree.Comparison, values: list[Value]) -> TruthValue:
        """Whether a chain of comparisons holds for the values of its operands."""
        proven = True
        for place, sign in enumerate(e.signs):
            found = self._compared_pair(e, place, sign, values[place], values[place + 1])
            if not found.truth:
                return found
            proven = proven and found.proven
        return TruthValue(True, proven)

    def _compared_pair(self, e: tree.Comparison, place: int, sign: str, left: Value, right: Value) -> TruthValue:
        operands = e.operands[place], e.operands[place + 1]
        if isinstance(left, TextValue) and isinstance(right, TextValue):
            return TruthValue((left.text == right.text) is (sign == "="), True)
        if isinstance(left, TruthValue) and isinstance(right, TruthValue):
            return TruthValue((left.truth == right.truth) is (sign == "="), left.proven and right.proven)
        if isinstance(left, PointValue) and isinstance(right, PointValue) and len(left.items) == len(right.items):
            parts = [compare(a, b, "=") for a, b in zip(left.items, right.items, strict=True)]
            return TruthValue(all(p.truth for p in parts) is (sign == "="), all(p.proven for p in parts))
        if isinstance(left, Scalar) and isinstance(right, Scalar) and (left.gap or right.gap):
            return TruthValue((left.gap and right.gap) is (sign == "="), True)
        one, other = self.as_number(left, operands[0]), self.as_number(right, operands[1])
        self.unit(Apply(c.CONDITIONS[sign], (one.formula, other.formula)), e)
        return compare(one, other, sign)

    def condition(self, e: tree.Expression) -> Formula:
        """A condition as a formula, for pieces and loops: variables in it stay open."""
        if isinstance(e, tree.Group):
            return self.condition(e.inner)
        if isinstance(e, tree.Truth):
            return Apply(c.CONDITIONS["true" if e.value else "false"], ())
        if isinstance(e, tree.Logical):
            parts = [self.condition(o) for o in e.operands]
            if e.word == "not":
                return Apply(c.CONDITIONS["not"], (parts[0],))
            return _folded(c.CONDITIONS[e.word], parts)
        if isinstance(e, tree.Comparison):
            sides = [self.formula(o) for o in e.operands]
            return _folded(c.CONDITIONS["and"], [Apply(c.CONDITIONS[s], (sides[k], sides[k + 1])) for k, s in enumerate(e.signs)])
        held = self.truth(e)
        return Apply(c.CONDITIONS["true" if held.truth else "false"], ())

    def _pieces(self, e: tree.Pieces) -> Value | None:
        """A piecewise value without variables: the first piece whose condition holds."""
        if (self.variables and self._holds_variable(e)) or self._holds_list([condition for _, condition in e.pieces]):
            return None
        proven = True
        chosen = e.otherwise
        for value, condition in e.pieces:
            held = self.truth(condition)
            proven = proven and held.proven
            if held.truth:
                chosen = value
                break
        if chosen is None:
            raise refusal("no-piece", "none of these conditions holds, and there is no 'otherwise'", e)
        found = self.value(chosen)
        return changed(found, proven=False) if isinstance(found, Scalar) and not proven else found

    def _holds_list(self, conditions: list[tree.Expression]) -> bool:
        names = frozenset().union(*(tree.free_names(e) for e in conditions))
        return any(isinstance(self.names.find(n), ListValue) for n in names - self.variables)

    # ------------------------------------------------------------ lists, points, tables

    def _list_of(self, e: tree.ListOf) -> Value:
        return collected([self.value(i) for i in e.items], e)

    def _comprehension(self, e: tree.Comprehension) -> Value:
        if len(e.windows) == 1 and self._vectors(e.element):
            return self._at_once(e)
        return collected(list(self._one_by_one(e)), e)

    def _vectors(self, e: tree.Expression) -> bool:
        """Whether an element is a formula that can be worked out for all elements at once."""
        return not any(
            isinstance(n, _PICKS) or (isinstance(n, tree.Name) and (n.name == "gap" or self._is_defined(n.name))) for n in tree.walk(e)
        )

    def _is_defined(self, name: str) -> bool:
        return isinstance(self.names.find(name), DefinedFunction | TextValue | PointValue | ItemsValue | TruthValue | TableValue)

    def _at_once(self, e: tree.Comprehension) -> Value:
        window = e.windows[0]
        source = self.as_list(self.value(window.values), window.values) if window.values is not None else self._gone_through_value(window)
        data = source.data
        if e.condition is None and source.exact is not None and source.unit is None:
            formula = substitute(self.within(window.name).formula(e.element), {window.name: Given(data, exact=source.exact)})
            exact = exactly(formula, [n for n in walk(formula) if isinstance(n, Given) and np.ndim(n.data)])
            if exact is not None:
                return ListValue(np.array([float(v) for v in exact]), self.unit(formula, e.element), exact=exact)
        if e.condition is not None:
            data = data[self._mask(e.condition, window.name, data)]
        if not data.size:
            return ListValue(np.array([]))
        formula = self.within(window.name).formula(e.element)
        if any(isinstance(n, Given) and np.ndim(n.data) for n in walk(formula)):
            return collected(list(self._one_by_one(e)), e)
        values = np.broadcast_to(np.asarray(Tape([formula], [window.name]).numeric(data)[0], dtype=float), data.shape).copy()
        failing = np.flatnonzero(~np.isfinite(values) & np.isfinite(data))
        if failing.size:
            raise no_value(substitute(formula, {window.name: Given(float(data[failing[0]]))}), e.element)
        return ListValue(values, self.unit(formula, e.element))

    def _one_by_one(self, e: tree.Comprehension) -> Iterator[Value]:
        ranges = [list(self.elements(w)) for w in e.windows]
        count = int(np.prod([len(r) for r in ranges], dtype=float))
        if count > MAX_ONE_BY_ONE:
            raise refusal("list-too-long", f"at most {MAX_ONE_BY_ONE} elements are worked out one by one; these are {count}", e)
        for combination in itertools.product(*ranges):
            names = dict(zip((w.name for w in e.windows), combination, strict=True))
            inner = self.with_names(Frame(names, self.names))
            if e.condition is None or inner.truth(e.condition).truth:
                yield inner.value(e.element)

    def elements(self, window: tree.Window) -> Iterator[Value]:
        """What a `for` goes through, one by one."""
        found = self.value(window.values) if window.values is not None else self._gone_through_value(window)
        if isinstance(found, ItemsValue):
            yield from found.items
            return
        if isinstance(found, FindingValue):
            yield from (place_number(p) for p in found.places)
            return
        if not isinstance(found, ListValue):
            raise refusal("list-needed", f"a list is gone through here; this is {described(found)}", window.values or window)
        yield from (element(found, k) for k in range(len(found.data)))

    def plain_elements(self, window: tree.Window) -> Iterator[Any] | None:
        """The same as plain numbers, for loops: quotients where the elements are exact; None where they are no plain numbers."""
        if window.values is not None:
            found = self.value(window.values)
            if not isinstance(found, ListValue) or found.unit is not None or np.isnan(found.data).any():
                return None
        else:
            found = self._gone_through_value(window)
            if found.unit is not None and not found.unit.plain:
                return None
        if found.exact is not None:
            return (fmpq(v.numerator, v.denominator) for v in found.exact)
        data = found.data
        if window.values is None and len(data) and abs(data).max() < 2**53 and (data == np.floor(data)).all():
            return (fmpq(int(v)) for v in data.tolist())
        plain: list[float] = data.tolist()
        return iter(plain)

    def _gone_through_value(self, window: tree.Window) -> ListValue:
        assert window.low is not None
        assert window.high is not None
        step = window.step if window.step is not None or window.count is not None else tree.Number(window.end, window.end, "1")
        return self._range(tree.Range(window.start, window.end, window.low, window.high, step, window.count))

    def _gone_through(self, window: tree.Window) -> Any:
        if window.values is not None:
            return self.list(window.values)
        return self._gone_through_value(window).data

    def _mask(self, e: tree.Expression, variable: str, data: Any) -> Any:
        """For which elements a condition holds."""
        if self._vectors(e):
            condition = self.within(variable).condition(e)
            tape = Tape([choose(condition, Number(Fraction(1)), Number(Fraction(0)))], [variable])
            held = np.broadcast_to(np.asarray(tape.numeric(data)[0], dtype=float), data.shape)
            if not np.isfinite(held).all():
                raise refusal("no-value", "this condition has no value for some elements", e)
            return held == 1
        if data.size > MAX_ONE_BY_ONE:
            raise refusal("list-too-long", f"at most {MAX_ONE_BY_ONE} elements are worked out one by one; these are {data.size}", e)
        frames = (Frame({variable: float(v)}, self.names) for v in data.tolist())
        return np.array([self.with_names(f).truth(e).truth for f in frames], dtype=bool)

    def _joined(self, e: tree.Join) -> Value:
        left, right = self.value(e.left), self.value(e.right)
        if isinstance(left, TextValue) or isinstance(right, TextValue):
            return TextValue(_as_text(left, e.left) + _as_text(right, e.right))
        if isinstance(left, ItemsValue | PointValue) or isinstance(right, ItemsValue | PointValue):
            return ItemsValue(_items(left) + _items(right))
        one, other = self.as_list(left, e.left), self.as_list(right, e.right)
        units = [u for u in (one.unit, other.unit) if u is not None]
        if len(units) == 2 and not units[0].same(units[1]):
            raise refusal("units", f"units do not fit: [{units[0]}] and [{units[1]}] meet in a list", e)
        data, room = grown(one.data, one.room, other.data)
        short_and_exact = one.exact is not None and other.exact is not None and len(data) <= MAX_EXACT_LIST
        exact = (*one.exact, *other.exact) if short_and_exact and one.exact is not None and other.exact is not None else None
        return ListValue(data, units[0] if units else None, room, exact)

    def span(self, low: tree.Expression, high: tree.Expression, what: str) -> tuple[Scalar, Scalar]:
        """Both ends of `what` (a window, a domain), which must rise."""
        first, last = self.number(low), self.number(high)
        if first.value < last.value:
            return first, last
        turned = f"{self.text[high.start : high.end]} to {self.text[low.start : low.end]}"
        text = f"{what} runs from {format_short(first.value)} to {format_short(last.value)}; it must rise"
        fixes = (replace(low.start, high.end, turned),) if first.value > last.value else ()
        raise Refused(Message("error", "window", low.start, high.end, text, fixes))

    def list(self, e: tree.Expression) -> Any:
        """A float array of shape (n,); one number is a list of one."""
        return self.as_list(self.value(e), e).data

    def as_list(self, found: Value, e: tree.Expression) -> ListValue:
        """A value as a list of numbers. Raises Refused."""
        if isinstance(found, ListValue):
            return found
        if isinstance(found, FindingValue):
            return ListValue(np.array([p.value for p in found.places], dtype=float))
        if isinstance(found, Scalar):
            return ListValue(np.array([found.value]), found.unit)
        raise refusal("list-needed", f"a list of numbers is needed here; this is {described(found)}", e)

    def _list_value(self, formula: Formula, unit: Unit | None, e: tree.Expression) -> ListValue:
        lists = [n for n in walk(formula) if isinstance(n, Given) and np.ndim(n.data)]
        lengths = sorted({(n.name, len(n.data)) for n in lists})
        if len({length for _, length in lengths}) > 1:
            said = " and ".join(f"{name or 'one'} has {length}" for name, length in lengths)
            raise refusal("list-lengths", f"lists of different lengths meet here: {said} elements", e)
        exact = exactly(formula, lists)
        if exact is not None:
            return ListValue(np.array([float(v) for v in exact]), unit, exact=exact)
        values, finite = in_blocks(formula, lists)
        if not finite:
            bad = ~np.isfinite(values)
            gaps = np.logical_or.reduce([np.isnan(n.data) for n in lists])
            if any(isinstance(n, Given) and not np.ndim(n.data) and n.data != n.data for n in walk(formula)):
                gaps = np.ones_like(bad)
            if (bad & ~gaps).any():
                raise no_value(formula, e)
            values[bad] = np.nan
        return ListValue(values, unit)

    def _range_value(self, e: tree.Range) -> Value:
        return self._range(e)

    def _range(self, e: tree.Range) -> ListValue:
        low, high = self.number(e.low), self.number(e.high)
        unit = self.unit(c.subtract(high.formula, low.formula), e)
        if e.count is not None:
            count = self.number(e.count)
            if count.value != int(count.value) or not 2 <= count.value <= MAX_LIST:
                raise refusal("count", f"a count is a whole number from 2 to {MAX_LIST}, not {count.value:g}", e.count)
            return _even(low, high, int(count.value) - 1, unit)
        assert e.step is not None
        step = self.number(e.step)
        if step.value == 0:
            raise refusal("step", "a step of 0 leads nowhere", e.step)
        steps = (high.value - low.value) / step.value
        if steps > MAX_LIST:
            raise refusal("list-too-long", f"this list would have {steps:.3g} elements; at most {MAX_LIST} are possible", e)
        exact_low, exact_high, exact_step = (rational(s.formula) for s in (low, high, step))
        if exact_low is not None and exact_high is not None and exact_step is not None:
            message = step_message(exact_low, exact_high, exact_step, e)
            if message is not None:
                raise Refused(message)
        elif steps < 0 or abs(steps - round(steps)) > 1e-9:
            raise refusal(
                "step",
                f"steps of {step.value:g} from {low.value:g} do not end at {high.value:g}; both ends belong to the list",
                e,
                advise("count N instead of step"),
            )
        return _even(low, high, round(steps), unit)

    def _point(self, e: tree.PointOf) -> Value:
        if len(e.items) > 3:
            raise refusal("point", f"a point has two or three coordinates, not {len(e.items)}", e)
        return PointValue(tuple(self.number(i) for i in e.items))

    def _quantity(self, e: tree.Quantity) -> Value:
        unit = self.unit_said(e)
        found = self.value(e.value)
        if isinstance(found, FindingValue):
            found = self.as_number(found, e.value)
        if isinstance(found, Scalar):
            self._no_second_unit(found.unit, e)
            return changed(found, formula=Named("", found.formula, unit=unit))
        if isinstance(found, ListValue):
            self._no_second_unit(found.unit, e)
            return changed(found, unit=unit)
        raise refusal("unit", f"{described(found)} has no unit", e)

    def _no_second_unit(self, unit: Unit | None, e: tree.Quantity) -> None:
        if unit is not None and not unit.plain:
            raise refusal("unit", f"this value has the unit [{unit}] already", e, advise("multiply by a conversion: 1000 [mm/m]"))

    def unit_said(self, e: tree.Quantity) -> Unit:
        """The unit that stands in square brackets. Raises Refused."""
        try:
            return parse_unit(e.unit)
        except BadUnit as trouble:
            raise refusal("unit", f"{trouble}", e, advise("[m/s^2]")) from None

    def _field(self, e: tree.Field) -> Value:
        target = self.value(e.target)
        written = self.text[e.target.start : e.target.end]
        if isinstance(target, TableValue):
            if e.name in target.columns:
                return target.columns[e.name]
            raise _no_part(e, f"'{written}' has no column '{e.name}'", list(target.columns))
        if isinstance(target, PointValue):
            names = ("x", "y", "z")[: len(target.items)]
            if e.name in names:
                return target.items[names.index(e.name)]
            raise _no_part(e, f"a point has no '{e.name}'", list(names))
        if isinstance(target, FunctionValue) and target.source is not None:
            if e.name in target.source.parts:
                return target.source.parts[e.name]
            raise _no_part(e, f"'{written}' has no '{e.name}'", list(target.source.parts))
        if isinstance(target, FindingValue):
            if e.name in target.parts:
                return FindingValue(target.noun, target.parts[e.name])
            raise _no_part(e, f"this finding has no part '{e.name}'", list(target.parts))
        raise refusal("no-part", f"{described(target)} has no parts by name", e)

    def _index(self, e: tree.Index) -> Value:
        found = self.value(e.target)
        for place in e.places:
            found = self._element(found, place, e)
        return found

    def _element(self, found: Value, place: tree.Expression, e: tree.Index) -> Value:
        if isinstance(found, Scalar | TextValue | TruthValue | TableValue | FunctionValue | DefinedFunction):
            raise refusal("number-indexed", f"{described(found)} has no elements", e)
        count = len(found.data) if isinstance(found, ListValue) else len(found.places if isinstance(found, FindingValue) else found.items)
        if isinstance(place, tree.Range):
            first, last = (self._place(p, count, e) for p in (place.low, place.high))
            if place.step is not None or place.count is not None:
                raise refusal("slice-step", "a slice has no step", place, advise("[xs[k] for k from 1 to 9 step 2]"))
            if isinstance(found, ListValue):
                return ListValue(found.data[first : last + 1].copy(), found.unit, exact=found.exact and found.exact[first : last + 1])
            if isinstance(found, FindingValue):
                return FindingValue(found.noun, found.places[first : last + 1], curve=found.curve)
            return ItemsValue(found.items[first : last + 1])
        index = self._place(place, count, e)
        if isinstance(found, ListValue):
            return element(found, index)
        if isinstance(found, FindingValue):
            return FindingValue(found.noun, (found.places[index],), curve=found.curve)
        return found.items[index]

    def _place(self, e: tree.Expression, count: int, whole: tree.Expression) -> int:
        at = self.number(e).value
        if at != int(at) or not 1 <= at <= count:
            raise refusal("no-such-element", f"there is no element {at:g}; the list has {count}, counted from 1", whole)
        return int(at) - 1

    def _list_call(self, e: tree.Call, name: str) -> Value | None:
        """Functions that take a whole list (`mean(xs)`), not one of the script's own of the same name."""
        entry = c.ENTRIES.get(name)
        if entry is None or entry.values is None or self.names.has(name):
            return None
        if name in ("min", "max") and len(e.arguments) > 1:
            return None
        if entry.category == "random":
            return self._random(entry, e)
        target = self.value(e.arguments[0])
        if name == "column":
            return self._column(target, e)
        if isinstance(target, ItemsValue) and name in _OF_ITEMS:
            if not target.items and name != "length":
                raise refusal("empty-list", f"{name} of an empty list has no value", e)
            return _OF_ITEMS[name](target.items)
        xs = self.as_list(target, e.arguments[0])
        return self._of_list(name, entry, xs, e)

    def _of_list(self, name: str, entry: Any, xs: ListValue, e: tree.Call) -> Value:
        data = xs.data
        if name in _PASS_GAPS and np.isnan(data).any():
            self.say(f"{name} passes over {int(np.isnan(data).sum())} of {data.size} elements that are gaps", e)
            data = data[~np.isnan(data)]
        if not data.size:
            if name in ("sum", "length"):
                return _whole(0)
            raise refusal("empty-list", f"{name} of an empty list has no value", e)
        if name == "length":
            return _whole(data.size)
        if name in ("first", "last"):
            return element(xs, 0 if name == "first" else len(xs.data) - 1)
        found = entry.values(data)
        unit = None if xs.unit is None else xs.unit.power(Fraction(2)) if name == "variance" else None if name == "product" else xs.unit
        if np.ndim(found):
            return ListValue(np.asarray(found, dtype=float), unit, exact=_exact_list(name, xs))
        if not np.isfinite(found):
            raise refusal("no-value", f"{name} needs at least two elements", e)
        exact = _exact_of_list(name, xs, data)
        if exact is not None and name == "sd":
            root = self.as_scalar(c.call("sqrt", Number(exact)))
            return root if unit is None else changed(root, formula=Named("", root.formula, unit=unit))
        if exact is not None:
            formula: Formula = Number(exact)
            return Scalar(formula if unit is None else Named("", formula, unit=unit), float(exact), exact, None, True)
        return Scalar(Given(float(found), unit=unit), float(found), None, None, False)

    def _column(self, rows: Value, e: tree.Call) -> Value:
        if not isinstance(rows, ItemsValue) or not all(isinstance(r, ListValue | PointValue) for r in rows.items):
            raise refusal("list-needed", "column takes a list of lists and a number: column(m, 1)", e)
        picked = []
        for number, row in enumerate(rows.items, 1):
            count = len(row.data) if isinstance(row, ListValue) else len(row.items)  # type: ignore[union-attr]
            at = self.number(e.arguments[1]).value
            if at != int(at) or not 1 <= at <= count:
                raise refusal("no-such-element", f"there is no column {at:g}; row {number} has {count} elements", e)
            picked.append(element(row, int(at) - 1) if isinstance(row, ListValue) else row.items[int(at) - 1])  # type: ignore[union-attr]
        return collected(picked, e)

    def _random(self, entry: Any, e: tree.Call) -> Value:
        n, first, second, seed = (self.number(a) for a in e.arguments)
        for scalar, what, most, argument in ((n, "a count", MAX_LIST, e.arguments[0]), (seed, "a seed", 2**63, e.arguments[3])):
            if scalar.value != int(scalar.value) or not 0 <= scalar.value <= most:
                raise refusal("count", f"{what} is a whole number from 0 to {most}, not {format_short(scalar.value)}", argument)
        if entry.name == "normal" and second.value < 0:
            raise refusal("random", f"a standard deviation is not negative; this one is {format_short(second.value)}", e.arguments[2])
        if entry.name == "uniform" and not first.value <= second.value:
            raise refusal("random", f"the span runs from {format_short(first.value)} to {format_short(second.value)}; it must rise", e)
        unit = self.unit(c.add(first.formula, second.formula), e)
        return ListValue(entry.values(int(n.value), first.value, second.value, int(seed.value)), unit)

    # ------------------------------------------------------------ formulas

    def formula(self, e: tree.Expression) -> Formula:
        """The formula of an expression; names of variables stay open."""
        if isinstance(e, tree.Number):
            return Number(Fraction(e.text), "." in e.text or "e" in e.text.lower())
        if isinstance(e, tree.Name):
            return self._name(e)
        if isinstance(e, tree.Group):
            return self.formula(e.inner)
        if isinstance(e, tree.Negative):
            return Apply(c.NEGATIVE, (self.formula(e.operand),))
        if isinstance(e, tree.Binary):
            return Apply(_OPERATORS[e.operator], (self.formula(e.left), self.formula(e.right)))
        if isinstance(e, tree.Juxtaposed):
            product = self.formula(e.factors[0])
            for factor in e.factors[1:]:
                product = Apply(c.MULTIPLY, (product, self.formula(factor)))
            return product
        if isinstance(e, tree.Radical):
            return Apply(c.ENTRIES["sqrt"], (self.formula(e.operand),))
        if isinstance(e, tree.Call):
            return self._call(e)
        if isinstance(e, tree.Pieces):
            return self._choices(e)
        if isinstance(e, tree.Quantity) and self.variables:
            return Named("", self.formula(e.value), unit=self.unit_said(e))
        if isinstance(e, tree.Request) and gives_formula(e):
            return self.form_of(e).formula
        return self._given(self._need(e), "", e)

    def _choices(self, e: tree.Pieces) -> Formula:
        found = c.UNDEFINED if e.otherwise is None else self.formula(e.otherwise)
        for value, condition in reversed(e.pieces):
            found = choose(self.condition(condition), self.formula(value), found)
        return found

    def _need(self, e: tree.Expression) -> Value:
        found = self._structural(e)
        if found is None:
            raise refusal("no-formula", "this cannot stand in a formula", e)
        return found

    def _given(self, value: Value, name: str, e: tree.Expression) -> Formula:
        if isinstance(value, Scalar):
            self._note(value.formula, name)
            return Named(name, value.formula) if name else value.formula
        if isinstance(value, ListValue):
            return Given(value.data, name=name, unit=value.unit, exact=value.exact)
        if isinstance(value, FindingValue):
            if len(value.places) == 1:
                formula = place_number(value.places[0]).formula
                self._note(formula, name)
                return Named(name, formula) if name else formula
            return Given(np.array([p.value for p in value.places]), name=name)
        raise refusal("number-needed", f"a number is needed here; this is {described(value)}", e)

    def _name(self, e: tree.Name) -> Formula:
        if e.name in self.variables:
            return Variable(e.name)
        found = self.names.find(e.name)
        if found is not None:
            return self._given(found, e.name, e)
        return GAP.formula if e.name == "gap" else c.constant(e.name)

    def _call(self, e: tree.Call) -> Formula:
        primes = 0
        function: tree.Expression = e.function
        if isinstance(function, tree.Prime):
            primes, function = function.order, function.function
        assert isinstance(function, tree.Name)
        found = self.names.find(function.name)
        if isinstance(found, FunctionValue):
            arguments = tuple(self.formula(a) for a in e.arguments)
            return self.called(found, arguments, primes, e)
        plain = self._called(e)
        if plain is not None:
            return self._given(plain, "", e)
        if isinstance(found, DefinedFunction):
            self.rounded.append(found.name)
            return Apply(found.entry, tuple(self.formula(a) for a in e.arguments))
        return Apply(c.ENTRIES[function.name], tuple(self.formula(a) for a in e.arguments))

    def called(self, function: FunctionValue, arguments: tuple[Formula, ...], primes: int, e: tree.Expression) -> Formula:
        """A function of the script with its arguments put in, kept within its domain."""
        body = self.derived(function, primes, e) if primes else function.body
        if not all(isinstance(a, Variable) and a.name == p for a, p in zip(arguments, function.parameters, strict=True)):
            body = substitute(body, dict(zip(function.parameters, arguments, strict=True)))
        for parameter, argument in zip(function.parameters, arguments, strict=True):
            if parameter in function.domain:
                low, high = function.domain[parameter]
                body = Apply(c.GUARD, (body, argument, low, high))
            if function.source is not None and parameter in function.source.spans:
                body = self._on_data(function, parameter, argument, body, e)
        return Named(function.name, body, arguments, primes)

    def _on_data(self, function: FunctionValue, parameter: str, argument: Formula, body: Formula, e: tree.Expression) -> Formula:
        """A function got from data: for numbers it is seen here whether they lie inside of the data, for variables later."""
        assert function.source is not None
        low, high = function.source.spans[parameter]
        unit = function.source.units[function.parameters.index(parameter)]
        if not variables(argument):
            self._fitting_unit(function, parameter, argument, unit, e)
            said = [n.data for n in walk(argument) if isinstance(n, Given) and np.ndim(n.data)]
            values = np.asarray(Tape([argument], []).numeric()[0], dtype=float) if said else np.array([certain_value(argument).value])
            ends = end_value(low), end_value(high)
            outside = values[(values < ends[0]) | (values > ends[1])]
            if outside.size:
                self.warn(
                    "extrapolation",
                    f"{parameter} = {format_short(float(outside[0]))} lies beyond the data of {function.name}, which go from "
                    f"{format_short(ends[0])} to {format_short(ends[1])}: this is extrapolated", e,
                )  # fmt: skip
        return Apply(c.DATA, (body, argument, low, high))

    def _fitting_unit(self, function: FunctionValue, parameter: str, argument: Formula, unit: Unit | None, e: tree.Expression) -> None:
        """An argument with a unit must have that of the data; a plain number is taken to be in it."""
        found = self.unit(argument, e)
        if found is None or found.plain or unit is None:
            return
        if not found.same(unit):
            raise refusal("units", f"units do not fit: {parameter} of {function.name} is in [{unit}], and this is in [{found}]", e)

    def derived(self, function: FunctionValue, primes: int, e: tree.Expression) -> Formula:
        return self.differentiated(function.body, function.parameters[0], primes, e)

    def differentiated(self, formula: Formula, variable: str, order: int, e: tree.Expression) -> Formula:
        """The derivative of that order. Raises Refused where there is none by rule."""
        for _ in range(order):
            try:
                formula = derivative(formula, variable)
            except NoDerivative as missing:
                raise refusal("no-derivative", f"there is no derivative by rule of {missing}", e) from None
        return formula

    def form_of(self, e: tree.Request) -> Form:
        """A request that gives a formula: a derivative, an antiderivative, a series, a shorter form."""
        if e.noun == "derivative":
            return Form(self.derivative_of(e), "proven", "differentiated by rule")
        subject = e.subjects[0]
        try:
            if e.noun == "simplification":
                return simplification(self.formula(subject))
            if not e.windows:
                raise refusal("no-variable", "say which one is the variable", e, advise("for x"))
            variable = e.windows[0].name
            formula = self.within(variable).formula(subject)
            if e.noun == "integral":
                return antiderivative(formula, variable)
            at, order = e.option("at"), e.option("order")
            assert at is not None
            assert isinstance(at.value, tree.Expression)
            times = self._order(order, MOST_ORDER, 0) if order is not None else 5
            return series_of(formula, variable, self.formula(at.value), times)
        except (NoForm, NoIntegral) as reason:
            raise refusal("no-form", str(reason), e) from None

    def _order(self, option: tree.Option, most: int, least: int = 1) -> int:
        assert isinstance(option.value, tree.Expression)
        said = self.number(option.value)
        if said.value != int(said.value) or not least <= said.value <= most:
            raise refusal("order", f"an order is a whole number from {least} to {most}, not {format_short(said.value)}", option)
        return int(said.value)

    def derivative_of(self, e: tree.Request) -> Formula:
        """`derivative of … for x, order 2, at 3` as a formula; the variable stays open without `at`."""
        variable = e.windows[0].name
        found = self.within(variable).formula(e.subjects[0])
        order = e.option("order")
        times = self._order(order, 20) if order is not None else 1
        found = self.differentiated(found, variable, times, e.subjects[0])
        at = e.option("at")
        if at is not None and isinstance(at.value, tree.Expression):
            return substitute(found, {variable: self.formula(at.value)})
        return found


_SIGNS: dict[str, Callable[[Any, Any], Any]] = {
    "<": operator.lt, ">": operator.gt, "<=": operator.le, ">=": operator.ge, "=": operator.eq, "!=": operator.ne,
}  # fmt: skip
_OPERATORS = {"+": c.ADD, "-": c.SUBTRACT, "*": c.MULTIPLY, "/": c.DIVIDE, "^": c.POWER}
# What picks elements or asks for findings: such expressions are worked out one element at a time.
_PICKS = (
    tree.Index, tree.Request, tree.Comprehension, tree.ListOf, tree.Range, tree.Join, tree.PointOf, tree.Text, tree.Truth, tree.Quantity,
)  # fmt: skip
_PASS_GAPS = frozenset("sum product mean median sd variance min max".split())
_STRUCTURAL: dict[type, Callable[[Evaluator, Any], Value | None]] = {
    tree.Text: lambda _, e: TextValue(e.value),
    tree.Group: lambda s, e: s._structural(e.inner),
    tree.Request: lambda s, e: s._asked(e),
    tree.ListOf: lambda s, e: s._list_of(e),
    tree.Range: lambda s, e: s._range_value(e),
    tree.Index: lambda s, e: s._index(e),
    tree.Truth: lambda s, e: s.truth(e),
    tree.Comparison: lambda s, e: s.truth(e),
    tree.Logical: lambda s, e: s.truth(e),
    tree.Comprehension: lambda s, e: s._comprehension(e),
    tree.Join: lambda s, e: s._joined(e),
    tree.Name: lambda s, e: s._named(e),
    tree.Call: lambda s, e: s._called(e),
    tree.PointOf: lambda s, e: s._point(e),
    tree.Field: lambda s, e: s._field(e),
    tree.Pieces: lambda s, e: s._pieces(e),
    tree.Quantity: lambda s, e: None if s.variables else s._quantity(e),
}
_OF_ITEMS: dict[str, Callable[[tuple[Value, ...]], Value]] = {
    "length": lambda xs: _whole(len(xs)),
    "first": lambda xs: xs[0],
    "last": lambda xs: xs[-1],
    "reverse": lambda xs: ItemsValue(xs[::-1]),
}


def _folded(entry: Any, parts: list[Formula]) -> Formula:
    found = parts[0]
    for part in parts[1:]:
        found = Apply(entry, (found, part))
    return found


def compare(left: Scalar, right: Scalar, sign: str) -> TruthValue:
    """Compare two numbers: exactly where both are exact, else by an enclosure of their difference, else as doubles."""
    holds = _SIGNS[sign]
    if left.exact is not None and right.exact is not None:
        return TruthValue(bool(holds(left.exact, right.exact)), True)
    difference = c.subtract(left.formula, right.formula)
    ball = enclosure(Tape([difference], []), COMPARE_BITS)
    if ball is not None and ball.is_finite() and not ball.contains(0):
        return TruthValue(bool(holds(1 if ball > 0 else -1, 0)), not rests_on_doubles(difference))
    if certain_value(difference).exact == 0:
        return TruthValue(bool(holds(0, 0)), not rests_on_doubles(difference))
    return TruthValue(bool(holds(left.value, right.value)), False)


def rests_on_doubles(formula: Formula, apart_from: Sequence[Given] = ()) -> bool:
    """Whether a value in the formula was rounded on its way here, so that nothing can be proven of it."""
    known = {id(n) for n in apart_from}
    return any(isinstance(n, Given) and n.interval is None and id(n) not in known for n in walk(formula))


def collected(values: list[Value], e: tree.Node) -> Value:
    """A list of values: of numbers where all are numbers, else of whatever they are."""
    plain = [place_number(v.places[0]) if isinstance(v, FindingValue) and len(v.places) == 1 else v for v in values]
    numbers = [v for v in plain if isinstance(v, Scalar)]
    if len(numbers) < len(plain):
        return ItemsValue(tuple(plain))
    units = [v.unit for v in numbers if not v.gap]
    said = [u for u in units if u is not None]
    if said and any(u is None or not u.same(said[0]) for u in units):
        raise refusal("units", "the elements of this list have different units", e)
    exact = tuple(v.exact for v in numbers) if len(numbers) <= MAX_EXACT_LIST else ()
    kept = None if not exact or None in exact else exact
    return ListValue(np.array([v.value for v in numbers], dtype=float), said[0] if said else None, exact=kept)  # type: ignore[arg-type]


def element(xs: ListValue, index: int) -> Scalar:
    """One element of a list, counted from 0."""
    value = float(xs.data[index])
    if value != value:
        return GAP
    if xs.exact is not None:
        exact = xs.exact[index]
        formula: Formula = Number(exact)
        return Scalar(formula if xs.unit is None else Named("", formula, unit=xs.unit), value, exact, None, True)
    return Scalar(Given(value, unit=xs.unit), value, None, None, False)


def place_number(place: FoundPlace) -> Scalar:
    """A place that was found, as the number it is."""
    if place.exact is not None:
        return Scalar(Number(place.exact), place.value, place.exact, place.interval, place.evidence == "proven")
    # An interval that was not proven may leave the number out: what rests on it went through doubles.
    formula = place.formula or Given(place.value, place.interval if place.evidence == "proven" else None)
    return Scalar(formula, place.value, None, place.interval, place.evidence == "proven")


def described(value: Value) -> str:
    """What a value is, for a sentence."""
    if isinstance(value, ListValue):
        return f"a list of {len(value.data)} numbers"
    if isinstance(value, ItemsValue):
        return f"a list of {len(value.items)} things"
    if isinstance(value, FindingValue):
        return f"a finding with {len(value.places)} values"
    names: dict[type, str] = {
        Scalar: "a number", TextValue: "a text", TruthValue: "true or false", PointValue: "a point", TableValue: "a table",
        FunctionValue: "a function", DefinedFunction: "a function",
    }  # fmt: skip
    return "a gap" if isinstance(value, Scalar) and value.gap else names[type(value)]


def _no_part(e: tree.Field, text: str, known: list[str]) -> Refused:
    meant = nearest(e.name, known)
    start = e.end - len(e.name)
    fixes = [replace(start, e.end, meant)] if meant else [advise(", ".join(known))] if known else []
    return refusal("no-part", text, e, *fixes)


def _as_text(value: Value, e: tree.Expression) -> str:
    if isinstance(value, TextValue):
        return value.text
    if isinstance(value, Scalar):
        unit = value.unit
        return format_short(value.value) + (f" {unit}" if unit is not None and not unit.plain else "")
    if isinstance(value, FindingValue) and len(value.places) == 1:
        return format_short(value.places[0].value)
    if isinstance(value, TruthValue):
        return "true" if value.truth else "false"
    raise refusal("not-joined", f"a text and {described(value)} cannot be joined", e)


def _items(value: Value) -> tuple[Value, ...]:
    if isinstance(value, ItemsValue):
        return value.items
    if isinstance(value, ListValue):
        return tuple(element(value, k) for k in range(len(value.data)))
    return (value,)


def _whole(n: int) -> Scalar:
    return Scalar(Number(Fraction(n)), float(n), Fraction(n), None, True)


def _exact_of_list(name: str, xs: ListValue, data: Any) -> Fraction | None:
    """What a function of a list makes of exact elements, exactly; of `sd` its square."""
    known = ("sum", "product", "mean", "min", "max", "median", "sd", "variance")
    if xs.exact is None or len(xs.exact) != len(data) or name not in known:
        return None
    values = xs.exact
    if name == "product":
        found = Fraction(1)
        for v in values:
            found *= v
        return found
    if name == "median":
        ordered = sorted(values)
        return (ordered[(len(values) - 1) // 2] + ordered[len(values) // 2]) / 2
    total, n = sum(values, Fraction(0)), len(values)
    if name in ("sd", "variance"):
        return (n * sum((v * v for v in values), Fraction(0)) - total * total) / (n * (n - 1))
    return {"sum": total, "mean": total / n, "min": min(values), "max": max(values)}[name]


def _exact_list(name: str, xs: ListValue) -> tuple[Fraction, ...] | None:
    """What a function that gives a list makes of exact elements."""
    if xs.exact is None:
        return None
    if name == "sort":
        return tuple(sorted(xs.exact))
    if name == "reverse":
        return xs.exact[::-1]
    if name == "differences":
        return tuple(b - a for a, b in itertools.pairwise(xs.exact))
    return tuple(itertools.accumulate(xs.exact)) if name == "running_sum" else None


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


MAX_THREADS = 4
BLOCK = 32_768  # elements: what a step reads and writes stays in the processor's cache


def in_blocks(formula: Formula, lists: list[Given]) -> tuple[Any, bool]:
    """A formula over lists as one array, and whether all of it is finite.

    Worked out in blocks, so that what lies between the steps never leaves the cache.
    """
    n = len(lists[0].data)
    if n <= 2 * BLOCK:
        values = np.array(np.broadcast_to(np.asarray(Tape([formula], []).numeric()[0], dtype=float), (n,)))
        return values, bool(np.isfinite(values).all())
    opened, columns = opened_lists(formula, lists)
    tape = Tape([opened], list(columns))
    arrays = [np.asarray(g.data, dtype=float) for g in columns.values()]
    result = np.empty(n)

    def blocks(first: int, last: int) -> bool:
        finite = True
        for start in range(first, last, BLOCK):
            end = min(start + BLOCK, last)
            block = tape.numeric(*(a[start:end] for a in arrays))[0]
            finite = finite and bool(np.isfinite(block).all())
            result[start:end] = block
        return finite

    defined = any(isinstance(node, Apply) and node.entry.category == "defined" for node in walk(formula))
    shares = 1 if defined else min(MAX_THREADS, os.cpu_count() or 1, n // (4 * BLOCK) or 1)
    if shares == 1:
        return result, blocks(0, n)
    # NumPy's loops let other threads run beside them; each thread has a stretch of the list of its own.
    finite = blocks(0, BLOCK)  # compiles the steps, once
    ends = [BLOCK + (n - BLOCK) * k // shares for k in range(shares + 1)]
    with ThreadPoolExecutor(shares) as pool:
        return result, all([finite, *pool.map(blocks, ends, ends[1:])])


def _even(low: Scalar, high: Scalar, steps: int, unit: Unit | None) -> ListValue:
    """low, …, high in so many equal steps, each element rounded once from its exact value where the ends are exact."""
    a, b = rational(low.formula), rational(high.formula)
    k = np.arange(steps + 1, dtype=float)
    exact = None
    if a is not None and b is not None:
        if steps < MAX_EXACT_LIST:
            exact = tuple(a + (b - a) * Fraction(i, steps) if steps else a for i in range(steps + 1))
        scale = a.denominator * b.denominator * max(steps, 1)
        start = a.numerator * b.denominator * max(steps, 1)
        each = b.numerator * a.denominator - a.numerator * b.denominator
        if max(abs(start), abs(start + each * steps), scale) < 2**53:
            return ListValue((start + each * k) / scale, unit, exact=exact)
    values = low.value + (high.value - low.value) * (k / max(steps, 1))
    values[0], values[-1] = low.value, high.value
    return ListValue(values, unit, exact=exact)
