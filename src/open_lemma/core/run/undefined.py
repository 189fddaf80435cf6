"""Why a formula has no value: which part, for which argument, and how often."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..formula import catalogue as c
from ..formula.choice import condition_of
from ..formula.nodes import Apply, Formula, Given, Named, Number, transformed, walk
from ..formula.tape import Tape
from ..language import tree
from ..language.messages import Message, Refused
from ..record.notation import format_short, plus_minus

_LARGEST = int(np.finfo(float).max)
REACH = "numbers reach to 1.8×10^308"


def measured(value: float, doubt: float) -> str:
    """A length or an area with the digits that the last refinement left as they were."""
    digits = int(np.clip(np.floor(-np.log10(max(doubt, 1e-15 * abs(value), 1e-300) / max(abs(value), 1e-300))), 3, 10))
    return format_short(value, digits)


def no_value(formula: Formula, e: tree.Expression) -> Refused:
    """The message for a formula without variables that has no finite real value, for some elements where it holds lists."""
    lists = [n for n in walk(formula) if isinstance(n, Given) and np.ndim(n.data)]
    first, bad, count = 0, 1, 1
    if lists:
        count = len(lists[0].data)
        gaps = np.logical_or.reduce([np.isnan(n.data) for n in lists])
        failing = np.flatnonzero(~np.isfinite(np.broadcast_to(_numeric(formula), (count,))) & ~gaps)
        first, bad = (int(failing[0]), len(failing)) if failing.size else (0, 0)

    def only_first(node: Formula, _: Any) -> Formula | None:
        return Given(float(node.data[first]), name=node.name) if isinstance(node, Given) and np.ndim(node.data) else None

    part = _first_bad(transformed(formula, only_first), set())
    if part is None:
        return _refusal("this has no finite real value", e)
    if not lists:
        return _refusal(_why(part), e)
    return _refusal(f"{_why(part)}; so it is for {bad} of {count} elements, the first is {_which(lists, first)}", e)


def _refusal(text: str, e: tree.Expression) -> Refused:
    return Refused(Message("error", "no-value", e.start, e.end, text))


def _which(lists: list[Given], first: int) -> str:
    """`x[1] = −2`, for the lists that have names."""
    named = {n.name: n for n in lists if n.name}
    said = [f"{name}[{first + 1}] = {format_short(float(n.data[first]))}" for name, n in list(named.items())[:3]]
    return ", ".join(said) or f"element {first + 1}"


def _first_bad(node: Formula, done: set[int]) -> Apply | Number | None:
    if id(node) in done:
        return None
    done.add(id(node))
    if isinstance(node, Number):
        return node if abs(node.value) > _LARGEST else None
    if isinstance(node, Apply) and node.entry is c.CHOOSE:
        held = condition_of(node.arguments[0], lambda formulas: Tape(formulas, [])).numeric(())
        if held != held:
            return _first_bad_condition(node.arguments[0], done)
        return _first_bad(node.arguments[1 if held else 2], done)
    for part in node.arguments if isinstance(node, Apply) else (node.body,) if isinstance(node, Named) else ():
        found = _first_bad(part, done)
        if found is not None:
            return found
    if isinstance(node, Apply) and not np.isfinite(_numeric(node)).all():
        return node
    return None


def _first_bad_condition(node: Formula, done: set[int]) -> Apply | Number | None:
    if not isinstance(node, Apply) or node.entry.category != "condition":
        return _first_bad(node, done)
    return next((found for a in node.arguments if (found := _first_bad_condition(a, done)) is not None), None)


def _numeric(node: Formula) -> Any:
    return np.atleast_1d(np.asarray(Tape([node], []).numeric()[0], dtype=float))


def _why(bad: Apply | Number) -> str:
    if isinstance(bad, Number):
        return f"a number here is too large to compute with: {REACH}"
    name = bad.entry.name
    at = [float(_numeric(a)[0]) for a in bad.arguments]
    value = float(_numeric(bad)[0])
    if name == "/":
        return f"{_n(at[0])}/{_n(at[1])}: a division by zero" if at[1] == 0 else f"{_n(at[0])}/{_n(at[1])} is too large"
    if name == "^":
        return f"({_n(at[0])})^{_n(at[1])} has no real value" if at[0] <= 0 else f"{_n(at[0])}^{_n(at[1])} is too large"
    if name == "within":
        return f"{_n(at[1])} lies outside the domain, which is {_n(at[2])} to {_n(at[3])}"
    if name == "no piece":
        return "none of the conditions of this piecewise formula holds"
    called = f"{name}({', '.join(_n(v) for v in at)})"
    if bad.entry.category == "defined":
        return f"{called} has no value"
    if np.isnan(value) or bad.entry.domain != "all real numbers":
        return f"{called} has no real value; its domain: {bad.entry.domain}"
    return f"{called} is too large to compute with"


def _n(value: float) -> str:
    return f"{value:.10g}".replace("-", "−")


def with_unit(value: float, error: float | None, unit: str | None) -> str:
    """A number with its uncertainty and unit, where it has them."""
    if error is None:
        return format_short(value) + (f" {unit}" if unit else "")
    said = plus_minus(value, error)
    return said if not unit else f"{said} {unit}" if said.startswith("(") or "±" not in said else f"({said}) {unit}"
