"""Lists by a rule, `[… for k from 1 to 9]`, and what a `for` goes through."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from fractions import Fraction
from typing import TYPE_CHECKING, Any

import numpy as np
from flint import fmpq

from ...formula.choice import choose
from ...formula.estimates import estimated
from ...formula.exact_lists import MAX_EXACT_LIST, exactly
from ...formula.nodes import Given, Number, substitute, walk
from ...formula.quantities import has_units
from ...formula.tape import Tape
from ...formula.units import Unit
from ...language import tree
from ..undefined import no_value
from ..values import DefinedFunction, FindingValue, Frame, ItemsValue, ListValue, PointValue, TableValue, TextValue, TruthValue, Value
from .elements import collected, element, place_number
from .ranges import gone_through
from .refusals import described, refusal

if TYPE_CHECKING:
    from .evaluator import Evaluator

MAX_ONE_BY_ONE = 20_000


def comprehension(scope: Evaluator, e: tree.Comprehension) -> Value:
    if len(e.windows) == 1 and _vectors(scope, e.element):
        return _at_once(scope, e)
    return collected(list(_one_by_one(scope, e)), e)


def _vectors(scope: Evaluator, e: tree.Expression) -> bool:
    """Whether an element is a formula that can be worked out for all elements at once."""
    return not any(
        isinstance(n, _PICKS) or (isinstance(n, tree.Name) and (n.name == "gap" or _is_defined(scope, n.name))) for n in tree.walk(e)
    )


def _is_defined(scope: Evaluator, name: str) -> bool:
    return isinstance(scope.names.find(name), DefinedFunction | TextValue | PointValue | ItemsValue | TruthValue | TableValue)


def _at_once(scope: Evaluator, e: tree.Comprehension) -> Value:
    window = e.windows[0]
    source = scope.as_list(scope.value(window.values), window.values) if window.values is not None else gone_through(scope, window)
    data = source.data
    formula = scope.within(window.name).formula(e.element)
    if (source.formulas is not None or estimated(formula)) and len(data) <= MAX_EXACT_LIST:
        return collected(list(_one_by_one(scope, e)), e)  # so that what is uncertain stays so
    known = {} if source.unit is None else {window.name: source.unit}
    if e.condition is None and source.exact is not None and not known and not has_units(formula):
        formula = substitute(formula, {window.name: Given(data, exact=source.exact)})
        exact = exactly(formula, [n for n in walk(formula) if isinstance(n, Given) and np.ndim(n.data)])
        if exact is not None:
            return ListValue(np.array([float(v) for v in exact]), exact=exact)
        formula = scope.within(window.name).formula(e.element)
    if e.condition is not None:
        data = data[_mask(scope, e.condition, window.name, data, known)]
    if not data.size:
        return ListValue(np.array([]))
    if any(isinstance(n, Given) and np.ndim(n.data) for n in walk(formula)):
        return collected(list(_one_by_one(scope, e)), e)
    formula, unit = scope.coherent(formula, e.element, known)
    values = np.broadcast_to(np.asarray(Tape([formula], [window.name]).numeric(data)[0], dtype=float), data.shape).copy()
    failing = np.flatnonzero(~np.isfinite(values) & np.isfinite(data))
    if failing.size:
        raise no_value(substitute(formula, {window.name: Given(float(data[failing[0]]))}), e.element)
    return ListValue(values, unit)


def _one_by_one(scope: Evaluator, e: tree.Comprehension) -> Iterator[Value]:
    ranges = [list(elements(scope, w)) for w in e.windows]
    count = int(np.prod([len(r) for r in ranges], dtype=float))
    if count > MAX_ONE_BY_ONE:
        raise refusal("list-too-long", f"at most {MAX_ONE_BY_ONE} elements are worked out one by one; these are {count}", e)
    for combination in itertools.product(*ranges):
        names = dict(zip((w.name for w in e.windows), combination, strict=True))
        inner = scope.with_names(Frame(names, scope.names))
        if e.condition is None or inner.truth(e.condition).truth:
            yield inner.value(e.element)


def elements(scope: Evaluator, window: tree.Window) -> Iterator[Value]:
    """What a `for` goes through, one by one."""
    found = scope.value(window.values) if window.values is not None else gone_through(scope, window)
    if isinstance(found, ItemsValue):
        yield from found.items
        return
    if isinstance(found, FindingValue):
        yield from (place_number(p) for p in found.places)
        return
    if not isinstance(found, ListValue):
        raise refusal("list-needed", f"a list is gone through here; this is {described(found)}", window.values or window)
    yield from (element(found, k) for k in range(len(found.data)))


def plain_elements(scope: Evaluator, window: tree.Window) -> Iterator[Any] | None:
    """The same as plain numbers, for loops: quotients where the elements are exact; None where they are no plain numbers."""
    if window.values is not None:
        found = scope.value(window.values)
        if not isinstance(found, ListValue) or found.unit is not None or np.isnan(found.data).any():
            return None
    else:
        found = gone_through(scope, window)
        if found.unit is not None and not found.unit.plain:
            return None
    if found.exact is not None:
        return (fmpq(v.numerator, v.denominator) for v in found.exact)
    data = found.data
    if window.values is None and len(data) and abs(data).max() < 2**53 and (data == np.floor(data)).all():
        return (fmpq(int(v)) for v in data.tolist())
    plain: list[float] = data.tolist()
    return iter(plain)


def _gone_through(scope: Evaluator, window: tree.Window) -> Any:
    if window.values is not None:
        return scope.list(window.values)
    return gone_through(scope, window).data


def _mask(scope: Evaluator, e: tree.Expression, variable: str, data: Any, known: dict[str, Unit]) -> Any:
    """For which elements a condition holds. known: the unit of the elements, where they have one."""
    if _vectors(scope, e):
        condition = scope.coherent(scope.within(variable).condition(e), e, known)[0]
        tape = Tape([choose(condition, Number(Fraction(1)), Number(Fraction(0)))], [variable])
        held = np.broadcast_to(np.asarray(tape.numeric(data)[0], dtype=float), data.shape)
        if not np.isfinite(held).all():
            raise refusal("no-value", "this condition has no value for some elements", e)
        return held == 1
    if data.size > MAX_ONE_BY_ONE:
        raise refusal("list-too-long", f"at most {MAX_ONE_BY_ONE} elements are worked out one by one; these are {data.size}", e)
    listed = ListValue(data, known.get(variable))
    each = (element(listed, k) for k in range(data.size)) if known else data.tolist()
    frames = (Frame({variable: v}, scope.names) for v in each)
    return np.array([scope.with_names(f).truth(e).truth for f in frames], dtype=bool)


_PICKS = (
    tree.Index, tree.Request, tree.Comprehension, tree.ListOf, tree.Range, tree.Join, tree.PointOf, tree.Text, tree.Truth, tree.Quantity,
)  # fmt: skip
