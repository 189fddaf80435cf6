"""Parts of values: by name (`t.level`, `r.x`) and by place (`xs[3]`)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ...language import tree
from ...language.messages import Refused, advise, replace
from ...language.nearness import nearest
from ..values import (
    DefinedFunction,
    FindingValue,
    FunctionValue,
    ItemsValue,
    ListValue,
    PointValue,
    Scalar,
    TableValue,
    TextValue,
    TruthValue,
    Value,
)
from .elements import element
from .refusals import described, refusal

if TYPE_CHECKING:
    from .evaluator import Evaluator


def field(scope: Evaluator, e: tree.Field) -> Value:
    """A part by its name: a column of a table, a coordinate, a part of a fit or of a finding. Raises Refused."""
    target = scope.value(e.target)
    written = scope.text[e.target.start : e.target.end]
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


def index(scope: Evaluator, e: tree.Index) -> Value:
    """An element or a slice, counted from 1; of lists in lists one place each. Raises Refused."""
    found = scope.value(e.target)
    for place in e.places:
        found = _picked(scope, found, place, e)
    return found


def _picked(scope: Evaluator, found: Value, place: tree.Expression, e: tree.Index) -> Value:
    if isinstance(found, Scalar | TextValue | TruthValue | TableValue | FunctionValue | DefinedFunction):
        raise refusal("number-indexed", f"{described(found)} has no elements", e)
    count = len(found.data) if isinstance(found, ListValue) else len(found.places if isinstance(found, FindingValue) else found.items)
    if isinstance(place, tree.Range):
        first, last = (_place(scope, p, count, e) for p in (place.low, place.high))
        if place.step is not None or place.count is not None:
            raise refusal("slice-step", "a slice has no step", place, advise("[xs[k] for k from 1 to 9 step 2]"))
        if isinstance(found, ListValue):
            kept = slice(first, last + 1)
            exact, formulas = found.exact and found.exact[kept], found.formulas and found.formulas[kept]
            return ListValue(found.data[kept].copy(), found.unit, exact=exact, formulas=formulas)
        if isinstance(found, FindingValue):
            return FindingValue(found.noun, found.places[first : last + 1], curve=found.curve)
        return ItemsValue(found.items[first : last + 1])
    index = _place(scope, place, count, e)
    if isinstance(found, ListValue):
        return element(found, index)
    if isinstance(found, FindingValue):
        return FindingValue(found.noun, (found.places[index],), curve=found.curve)
    return found.items[index]


def _place(scope: Evaluator, e: tree.Expression, count: int, whole: tree.Expression) -> int:
    at = scope.number(e).value
    if at != int(at) or not 1 <= at <= count:
        raise refusal("no-such-element", f"there is no element {at:g}; the list has {count}, counted from 1", whole)
    return int(at) - 1


def _no_part(e: tree.Field, text: str, known: list[str]) -> Refused:
    meant = nearest(e.name, known)
    start = e.end - len(e.name)
    fixes = [replace(start, e.end, meant)] if meant else [advise(", ".join(known))] if known else []
    return refusal("no-part", text, e, *fixes)
