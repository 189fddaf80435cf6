"""Lists and points that are written down, joined, or worked out of formulas over lists."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from ...formula.blockwise import in_blocks
from ...formula.certain import certain_value
from ...formula.exact_lists import MAX_EXACT_LIST, exactly
from ...formula.nodes import Formula, Given, Number, transformed, walk
from ...formula.quantities import bare
from ...formula.units import Unit
from ...language import tree
from ..undefined import no_value
from ..values import Elements, ItemsValue, ListValue, PointValue, TextValue, Value, grown
from .elements import as_text, collected, items_of
from .refusals import refusal

if TYPE_CHECKING:
    from .evaluator import Evaluator


def list_of(scope: Evaluator, e: tree.ListOf) -> Value:
    return collected([scope.value(i) for i in e.items], e)


def joined(scope: Evaluator, e: tree.Join) -> Value:
    """Two lists, texts or values one behind the other; units must be the same. Raises Refused."""
    left, right = scope.value(e.left), scope.value(e.right)
    if isinstance(left, TextValue) or isinstance(right, TextValue):
        return TextValue(as_text(left, e.left) + as_text(right, e.right))
    if isinstance(left, ItemsValue | PointValue) or isinstance(right, ItemsValue | PointValue):
        return ItemsValue(items_of(left) + items_of(right))
    one, other = scope.as_list(left, e.left), scope.as_list(right, e.right)
    units = [u for u in (one.unit, other.unit) if u is not None]
    if len(units) == 2 and not units[0].same(units[1]):
        raise refusal("units", f"units do not fit: [{units[0]}] and [{units[1]}] meet in a list", e)
    data, room = grown(one.data, one.room, other.data)
    short_and_exact = one.exact is not None and other.exact is not None and len(data) <= MAX_EXACT_LIST
    exact = (*one.exact, *other.exact) if short_and_exact and one.exact is not None and other.exact is not None else None
    return ListValue(data, units[0] if units else None, room, exact)


def list_value(formula: Formula, unit: Unit | None, e: tree.Expression) -> ListValue:
    """A formula over lists of one length, element by element: exactly where they are short and exact, else in doubles. Raises Refused."""
    lists = [n for n in walk(formula) if isinstance(n, Given) and np.ndim(n.data)]
    lengths = sorted({(n.name, len(n.data)) for n in lists})
    if len({length for _, length in lengths}) > 1:
        said = " and ".join(f"{name or 'one'} has {length}" for name, length in lengths)
        raise refusal("list-lengths", f"lists of different lengths meet here: {said} elements", e)
    if any(isinstance(n.origin, Elements) for n in lists) and len(lists[0].data) <= MAX_EXACT_LIST:
        return _by_formulas(formula, len(lists[0].data), unit)
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


def _by_formulas(formula: Formula, size: int, unit: Unit | None) -> ListValue:
    """Element by element as formulas, so that what is uncertain stays so."""

    def at(k: int) -> Formula:
        def opened(node: Formula, _: Any) -> Formula | None:
            if not isinstance(node, Given) or not np.ndim(node.data):
                return None
            if isinstance(node.origin, Elements):
                return node.origin.formulas[k]
            return Number(node.exact[k]) if node.exact is not None else Given(float(node.data[k]))

        return bare(transformed(formula, opened))

    formulas = tuple(at(k) for k in range(size))
    return ListValue(np.array([certain_value(f).value for f in formulas]), unit, formulas=formulas)


def point(scope: Evaluator, e: tree.PointOf) -> Value:
    if len(e.items) > 3:
        raise refusal("point", f"a point has two or three coordinates, not {len(e.items)}", e)
    return PointValue(tuple(scope.number(i) for i in e.items))
