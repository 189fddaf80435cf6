"""Functions that take a whole list: `mean(xs)`, `sort(xs)`, `column(m, 1)`; and random lists."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import replace as changed
from fractions import Fraction
from typing import TYPE_CHECKING, Any

import numpy as np

from ...formula import catalogue as c
from ...formula.nodes import Formula, Given, Named, Number
from ...language import tree
from ...record.notation import format_short
from ..values import ItemsValue, ListValue, PointValue, Scalar, Value
from .elements import collected, element, of_formula, whole
from .ranges import MAX_LIST
from .refusals import refusal

if TYPE_CHECKING:
    from .evaluator import Evaluator


def list_call(scope: Evaluator, e: tree.Call, name: str) -> Value | None:
    """Functions that take a whole list (`mean(xs)`), not one of the script's own of the same name."""
    entry = c.ENTRIES.get(name)
    if entry is None or entry.values is None or scope.names.has(name):
        return None
    if name in ("min", "max") and len(e.arguments) > 1:
        return None
    if entry.category == "random":
        return _random(scope, entry, e)
    target = scope.value(e.arguments[0])
    if name == "column":
        return _column(scope, target, e)
    if isinstance(target, ItemsValue) and name in _OF_ITEMS:
        if not target.items and name != "length":
            raise refusal("empty-list", f"{name} of an empty list has no value", e)
        return _OF_ITEMS[name](target.items)
    xs = scope.as_list(target, e.arguments[0])
    return _of_list(scope, name, entry, xs, e)


def _of_list(scope: Evaluator, name: str, entry: Any, xs: ListValue, e: tree.Call) -> Value:
    data = xs.data
    if name in _PASS_GAPS and np.isnan(data).any():
        scope.say(f"{name} passes over {int(np.isnan(data).sum())} of {data.size} elements that are gaps", e)
        data = data[~np.isnan(data)]
    if not data.size:
        if name in ("sum", "length"):
            return whole(0)
        raise refusal("empty-list", f"{name} of an empty list has no value", e)
    if name == "length":
        return whole(data.size)
    if name in ("first", "last"):
        return element(xs, 0 if name == "first" else len(xs.data) - 1)
    if xs.formulas is not None and name in _OF_FORMULAS:
        return _of_formulas(name, xs)
    found = entry.values(data)
    unit = None if xs.unit is None else xs.unit.power(Fraction(2)) if name == "variance" else None if name == "product" else xs.unit
    if np.ndim(found):
        return ListValue(np.asarray(found, dtype=float), unit, exact=_exact_list(name, xs))
    if not np.isfinite(found):
        raise refusal("no-value", f"{name} needs at least two elements", e)
    exact = _exact_of_list(name, xs, data)
    if exact is not None and name == "sd":
        root = scope.as_scalar(c.call("sqrt", Number(exact)))
        return root if unit is None else changed(root, formula=Named("", root.formula, unit=unit))
    if exact is not None:
        formula: Formula = Number(exact)
        return Scalar(formula if unit is None else Named("", formula, unit=unit), float(exact), exact, None, True)
    return Scalar(Given(float(found), unit=unit), float(found), None, None, False)


def _column(scope: Evaluator, rows: Value, e: tree.Call) -> Value:
    if not isinstance(rows, ItemsValue) or not all(isinstance(r, ListValue | PointValue) for r in rows.items):
        raise refusal("list-needed", "column takes a list of lists and a number: column(m, 1)", e)
    picked = []
    for number, row in enumerate(rows.items, 1):
        count = len(row.data) if isinstance(row, ListValue) else len(row.items)  # type: ignore[union-attr]
        at = scope.number(e.arguments[1]).value
        if at != int(at) or not 1 <= at <= count:
            raise refusal("no-such-element", f"there is no column {at:g}; row {number} has {count} elements", e)
        picked.append(element(row, int(at) - 1) if isinstance(row, ListValue) else row.items[int(at) - 1])  # type: ignore[union-attr]
    return collected(picked, e)


def _random(scope: Evaluator, entry: Any, e: tree.Call) -> Value:
    n, first, second, seed = (scope.number(a) for a in e.arguments)
    for scalar, what, most, argument in ((n, "a count", MAX_LIST, e.arguments[0]), (seed, "a seed", 2**63, e.arguments[3])):
        if scalar.value != int(scalar.value) or not 0 <= scalar.value <= most:
            raise refusal("count", f"{what} is a whole number from 0 to {most}, not {format_short(scalar.value)}", argument)
    if entry.name == "normal" and second.value < 0:
        raise refusal("random", f"a standard deviation is not negative; this one is {format_short(second.value)}", e.arguments[2])
    if entry.name == "uniform" and not first.value <= second.value:
        raise refusal("random", f"the span runs from {format_short(first.value)} to {format_short(second.value)}; it must rise", e)
    unit = scope.unit(c.add(first.formula, second.formula), e)
    return ListValue(entry.values(int(n.value), first.value, second.value, int(seed.value)), unit)


def _of_formulas(name: str, xs: ListValue) -> Value:
    """What lists of uncertain numbers come to: these stay so, with their correlations."""
    assert xs.formulas is not None
    known = [f for f, v in zip(xs.formulas, xs.data.tolist(), strict=True) if v == v]
    data = xs.data[~np.isnan(xs.data)]
    if name in ("min", "max"):
        return of_formula(known[int(np.argmin(data) if name == "min" else np.argmax(data))], xs.unit)
    if name in ("sort", "reverse"):
        order = np.argsort(data, kind="stable") if name == "sort" else np.arange(len(data))[::-1]
        return ListValue(data[order], xs.unit, formulas=tuple(known[int(k)] for k in order))
    total = known[0]
    for f in known[1:]:
        total = c.times(total, f) if name == "product" else c.add(total, f)
    if name == "mean":
        total = c.over(total, Number(Fraction(len(known))))
    unit = xs.unit
    if name == "product" and unit is not None:
        unit = unit.power(Fraction(len(known)))
    return of_formula(total, unit)


_OF_FORMULAS = frozenset("sum mean product min max sort reverse".split())
_PASS_GAPS = frozenset("sum product mean median sd variance min max".split())


_OF_ITEMS: dict[str, Callable[[tuple[Value, ...]], Value]] = {
    "length": lambda xs: whole(len(xs)),
    "first": lambda xs: xs[0],
    "last": lambda xs: xs[-1],
    "reverse": lambda xs: ItemsValue(xs[::-1]),
}


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
