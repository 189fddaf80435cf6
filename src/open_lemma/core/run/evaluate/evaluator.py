"""Tree → values and formulas: names are looked up, requests and lists inside are worked out, what is left is mathematics."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace as replaced
from fractions import Fraction
from typing import Any

import numpy as np

from ...formula import catalogue as c
from ...formula.certain import certain_value
from ...formula.domain import data_spans
from ...formula.estimates import Estimates, estimated, shifted
from ...formula.inexact import rests_on_doubles
from ...formula.nodes import Apply, Formula, Given, Named, Number, variables, walk
from ...formula.quantities import bare, coherent, converted, has_units, inferred, product_over
from ...formula.units import MixedUnits, Unit
from ...language import tree
from ...language.messages import Message, Refused, advise, replace
from ...language.shapes import gives_formula
from ...record.notation import format_short
from ..undefined import no_value
from ..values import GAP, Elements, FindingValue, Frame, ListValue, Scalar, TextValue, TruthValue, Value
from . import calls, comprehensions, conditions, forms, lists, parts, ranges, units
from .elements import place_number
from .refusals import described, refusal


class Evaluator:
    """Turns expressions into values and formulas within a scope.

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
        self.variable_units: dict[str, Unit] = {}  # of the variables
        self.heights: list[Unit | None] = []  # the units of what was asked for
        self.taken: list[tuple[str, Unit]] = []  # units of variables that only the formula tells
        self.sources: dict[str, Estimates] = {}  # what is uncertain of what was asked for
        self.shifts: Mapping[str, Any] = {}  # of uncertain numbers, while it is tried how much hangs on them
        self.data_spans: dict[str, tuple[float, float]] = {}  # from where to where the data go that what is asked for rests on
        self.told_in: Unit | None = None  # the unit that is asked for
        self.over: tuple[str, ...] = ()  # variables whose units the height is multiplied by, as an integral asks

    def within(self, *variables: str) -> Evaluator:
        """The same scope with these names as variables."""
        return self._like(Evaluator(self.text, self.names, self.request, self.variables | set(variables), self.say, self.warn))

    def with_names(self, names: Frame) -> Evaluator:
        return self._like(Evaluator(self.text, names, self.request, self.variables, self.say, self.warn))

    def noting(self) -> Evaluator:
        """The same scope, which notes in `rounded` what went through doubles from here on."""
        return Evaluator(self.text, self.names, self.request, self.variables, self.say, self.warn)

    def _like(self, scope: Evaluator) -> Evaluator:
        scope.rounded, scope.variable_units, scope.heights, scope.taken = self.rounded, self.variable_units, self.heights, self.taken
        scope.sources, scope.shifts, scope.over = self.sources, self.shifts, self.over
        scope.told_in, scope.data_spans = self.told_in, self.data_spans
        return scope

    def note(self, formula: Formula, name: str) -> None:
        if rests_on_doubles(formula):
            self.rounded.append(name or "a number")

    def value(self, e: tree.Expression) -> Value:
        """The value of an expression without variables."""
        plain = self.structural(e)
        if plain is not None:
            return plain
        return self.worked_out(self.formula(e), e)

    def worked_out(self, formula: Formula, e: tree.Expression) -> Value:
        """The value of a formula without variables: a number or a list."""
        if variables(formula):
            names = ", ".join(sorted(variables(formula)))
            raise refusal("no-formula", f"a number is needed here, and {names} stands for none: this cannot be part of a formula", e)
        formula, unit = self.coherent(formula, e)
        if any(isinstance(n, Given) and np.ndim(n.data) for n in walk(formula)):
            return lists.list_value(formula, unit, e)
        found = self.as_scalar(formula)
        if not np.isfinite(found.value):
            if any(isinstance(n, Given) and n.data != n.data for n in walk(formula)):
                return GAP
            raise no_value(formula, e)
        return found

    def unit(self, formula: Formula, e: tree.Node) -> Unit | None:
        """The unit of a formula. Raises Refused where units do not go together."""
        return self.coherent(formula, e)[1]

    def coherent(self, formula: Formula, e: tree.Node, units: Mapping[str, Unit] | None = None) -> tuple[Formula, Unit | None]:
        """A formula in which units that meet are brought to one size, and its unit. Raises Refused where units do not go together.

        units: of more variables
        """
        try:
            found, unit = coherent(formula, {**self.variable_units, **(units or {})})
        except MixedUnits as trouble:
            raise refusal("units", f"units do not fit: {trouble}", e, advise(trouble.fix)) from None
        return (found if found is formula or unit is None else Named("", found, unit=unit, written=formula)), unit

    def subject(self, e: tree.Expression) -> Formula:
        """The formula of what is asked for, over bare numbers, with its unit noted. Raises Refused."""
        return self.whole(self.formula(e), e)

    def whole(self, formula: Formula, e: tree.Node) -> Formula:
        """The same of a formula that was put together for what is asked."""
        for name, (low, high) in data_spans(formula, self.variables).items():
            known = self.data_spans.get(name, (low, high))
            self.data_spans[name] = max(low, known[0]), min(high, known[1])
        if not self.variable_units and not has_units(formula):
            return self.tried(formula)
        self._infer(formula)
        found, unit = self.coherent(formula, e)
        for name in self.over:
            found, unit = product_over(found, unit, self.variable_units.get(name))
        if self.told_in is not None and unit is not None:
            found, unit = self.resized(found, unit, self.told_in, e), self.told_in
        self.heights.append(unit)
        return self.tried(bare(found))

    def in_told_unit(self, formula: Formula, unit: Unit, e: tree.Node) -> Formula:
        """A bare formula of what is asked, in a unit that only now is known, brought to the one that was asked for."""
        asked = self.told_in
        self.heights.append(unit if asked is None else asked)
        return formula if asked is None else self.resized(formula, unit, asked, e)

    def resized(self, formula: Formula, unit: Unit, to: Unit, e: tree.Node) -> Formula:
        """A bare formula in another unit. Raises Refused for another dimension."""
        try:
            return converted(formula, unit, to)
        except MixedUnits as trouble:
            raise refusal("units", f"units do not fit: {trouble}", e, advise(trouble.fix)) from None

    def measured(self, formula: Formula, e: tree.Node) -> tuple[Formula, Unit | None]:
        """A formula as `whole` has it, and the unit of its value where it has one."""
        before = len(self.heights)
        found = self.whole(formula, e)
        return found, self.heights[-1] if len(self.heights) > before else None

    def _infer(self, formula: Formula) -> None:
        """The units of variables of which none was said, where the formula tells them: that is said."""
        bare = [v for v in sorted(self.variables) if v not in self.variable_units]
        try:
            known = inferred(formula, bare, self.variable_units)
        except MixedUnits:
            return
        for name, unit in known.items():
            self.variable_units[name] = unit
            self.taken.append((name, unit))

    def as_scalar(self, formula: Formula) -> Scalar:
        """A number with its formula; NaN where it has no value."""
        found = certain_value(formula)
        if rests_on_doubles(formula):
            return Scalar(formula, found.value, None, None, False)
        return Scalar(formula, found.value, found.exact, found.interval, found.proven)

    def structural(self, e: tree.Expression) -> Value | None:
        """Values that are no arithmetic: texts, points, lists, elements, requests, names of any of these."""
        reader = _STRUCTURAL.get(type(e))
        return None if reader is None else reader(self, e)

    def holds_variable(self, e: tree.Expression) -> bool:
        return bool(tree.free_names(e) & self.variables)

    def tried(self, formula: Formula) -> Formula:
        """A formula with its uncertain numbers noted, and moved where it is tried what hangs on them."""
        for node in estimated(formula):
            self.sources.update({s.key: s for s in node.origin.sources()})
        return shifted(formula, self.shifts) if self.shifts else formula

    def number(self, e: tree.Expression) -> Scalar:
        """One number; a finding with one value counts."""
        found = self.as_number(self.value(e), e)
        if not self.shifts:
            self.tried(found.formula)
            return found
        unit = found.unit
        moved = self.tried(bare(found.formula))
        return self.as_scalar(moved if unit is None else Named("", moved, unit=unit))

    def as_number(self, found: Value, e: tree.Expression) -> Scalar:
        """A value as the one number that it must be at this place."""
        number = found if isinstance(found, Scalar) else None
        if isinstance(found, FindingValue) and len(found.places) == 1:
            number = place_number(found.places[0])
        if number is not None:
            self.note(number.formula, e.name if isinstance(e, tree.Name) else "")
            return number
        if isinstance(found, FindingValue):
            raise refusal(
                "several-values",
                f"a number is needed here, and this finding has {len(found.places) or 'no'} values",
                e,
                advise("choose one: name[1]"),
            )
        raise refusal("number-needed", f"a number is needed here; this is {described(found)}", e)

    def truth(self, e: tree.Expression) -> TruthValue:
        """Whether a condition holds; `and` and `or` look no further than they must."""
        return conditions.truth(self, e)

    def condition(self, e: tree.Expression) -> Formula:
        """A condition as a formula, for pieces and loops: variables in it stay open."""
        return conditions.condition(self, e)

    def span(self, low: tree.Expression, high: tree.Expression, what: str) -> tuple[Scalar, Scalar]:
        """Both ends of `what` (a window, a domain), which must rise."""
        first, last = self.number(low), self.in_unit(self.number(high), self.number(low).unit, high)
        if first.value < last.value:
            return first, last
        turned = f"{self.text[high.start : high.end]} to {self.text[low.start : low.end]}"
        text = f"{what} runs from {format_short(first.value)} to {format_short(last.value)}; it must rise"
        fixes = (replace(low.start, high.end, turned),) if first.value > last.value else ()
        raise Refused(Message("error", "window", low.start, high.end, text, fixes))

    def in_unit(self, value: Scalar, unit: Unit | None, e: tree.Node) -> Scalar:
        """A number in another unit; a plain number is taken to be in it. Raises Refused where it has another dimension."""
        own = value.unit
        if own is None or unit is None or own.same(unit):
            return value
        return self.as_scalar(Named("", bare(self.resized(value.formula, own, unit, e)), unit=unit))

    def list_in_unit(self, value: ListValue, unit: Unit, e: tree.Node) -> ListValue:
        """A list in another unit. Raises Refused where it has another dimension."""
        if value.unit is None or value.unit.same(unit):
            return replaced(value, unit=unit)
        found = self.resized(Given(value.data, exact=value.exact), value.unit, unit, e)
        listed = lists.list_value(found, unit, e)  # type: ignore[arg-type]
        return replaced(listed, hidden=value.hidden)

    def list(self, e: tree.Expression) -> Any:
        """A float array of shape (n,); one number is a list of one."""
        return self.as_list(self.value(e), e).data

    def as_list(self, found: Value, e: tree.Expression) -> ListValue:
        """A value as a list of numbers. Raises Refused."""
        if isinstance(found, ListValue):
            return found
        if isinstance(found, FindingValue):
            return ListValue(np.array([p.value for p in found.places], dtype=float), found.places[0].unit if found.places else None)
        if isinstance(found, Scalar):
            return ListValue(np.array([found.value]), found.unit)
        raise refusal("list-needed", f"a list of numbers is needed here; this is {described(found)}", e)

    def formula(self, e: tree.Expression) -> Formula:
        """The formula of an expression; names of variables stay open."""
        reader = _FORMULAS.get(type(e))
        found = None if reader is None else reader(self, e)
        return self.given(self._need(e), "", e) if found is None else found

    def name_formula(self, e: tree.Name) -> Formula:
        """A name in a formula: a variable, or what it stands for."""
        return calls.name_formula(self, e)

    def call_formula(self, e: tree.Call) -> Formula:
        """A call in a formula."""
        return calls.call_formula(self, e)

    def plain_call(self, e: tree.Call) -> Value | None:
        """A call that gives a value at once; None where it is part of a formula."""
        return calls.plain_call(self, e)

    def _need(self, e: tree.Expression) -> Value:
        found = self.structural(e)
        if found is None:
            raise refusal("no-formula", "this cannot stand in a formula", e)
        return found

    def given(self, value: Value, name: str, e: tree.Expression) -> Formula:
        """A value as a leaf of a formula, under the name that it has. Raises Refused where it is no number or list of numbers."""
        if isinstance(value, Scalar):
            self.note(value.formula, name)
            return Named(name, value.formula) if name else value.formula
        if isinstance(value, ListValue):
            origin = None if value.formulas is None else Elements(value.formulas)
            return Given(value.data, name=name, unit=value.unit, exact=value.exact, origin=origin)
        if isinstance(value, FindingValue):
            if len(value.places) == 1:
                formula = place_number(value.places[0]).formula
                self.note(formula, name)
                return Named(name, formula) if name else formula
            return Given(np.array([p.value for p in value.places]), name=name, unit=value.places[0].unit if value.places else None)
        raise refusal("number-needed", f"a number is needed here; this is {described(value)}", e)


_OPERATORS = {"+": c.ADD, "-": c.SUBTRACT, "*": c.MULTIPLY, "/": c.DIVIDE, "^": c.POWER}


def _product(scope: Evaluator, e: tree.Juxtaposed) -> Formula:
    product = scope.formula(e.factors[0])
    for factor in e.factors[1:]:
        product = Apply(c.MULTIPLY, (product, scope.formula(factor)))
    return product


def _with_unit(scope: Evaluator, e: tree.Quantity) -> Formula | None:
    """Around variables a unit is part of the formula."""
    return Named("", scope.formula(e.value), unit=units.unit_said(e)) if scope.holds_variable(e) else None


# What is arithmetic, by the kind of the tree's node. None: it is a value that stands in the formula.
_FORMULAS: dict[type, Callable[[Evaluator, Any], Formula | None]] = {
    tree.Number: lambda _, e: Number(Fraction(e.text), "." in e.text or "e" in e.text.lower()),
    tree.Name: lambda s, e: s.name_formula(e),
    tree.Group: lambda s, e: s.formula(e.inner),
    tree.Negative: lambda s, e: Apply(c.NEGATIVE, (s.formula(e.operand),)),
    tree.Binary: lambda s, e: Apply(_OPERATORS[e.operator], (s.formula(e.left), s.formula(e.right))),
    tree.Juxtaposed: _product,
    tree.Radical: lambda s, e: Apply(c.ENTRIES["sqrt"], (s.formula(e.operand),)),
    tree.Call: lambda s, e: s.call_formula(e),
    tree.Pieces: conditions.choices,
    tree.Quantity: _with_unit,
    tree.Request: lambda s, e: forms.form_of(s, e).formula if gives_formula(e) else None,
}
# What is no arithmetic: texts, points, lists, elements, requests, names of any of these. None: it is a formula.
_STRUCTURAL: dict[type, Callable[[Evaluator, Any], Value | None]] = {
    tree.Text: lambda _, e: TextValue(e.value),
    tree.Group: lambda s, e: s.structural(e.inner),
    tree.Request: calls.asked,
    tree.ListOf: lists.list_of,
    tree.Range: ranges.range_of,
    tree.Index: parts.index,
    tree.Truth: conditions.truth,
    tree.Comparison: conditions.truth,
    tree.Logical: conditions.truth,
    tree.Comprehension: comprehensions.comprehension,
    tree.Join: lists.joined,
    tree.Name: calls.named,
    tree.Call: lambda s, e: s.plain_call(e),
    tree.PointOf: lists.point,
    tree.Field: parts.field,
    tree.Pieces: conditions.pieces,
    tree.Quantity: lambda s, e: None if s.holds_variable(e) else units.quantity(s, e),
    tree.Uncertain: units.uncertain,
}
