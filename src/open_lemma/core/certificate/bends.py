"""Slopes and second derivatives by several variables at once: each step carries those that are not zero, by the chain rule.

Of a step g(u, v): g_i = g_u u_i + g_v v_i and g_ij = g_u u_ij + g_v v_ij + g_uu u_i u_j + g_uv (u_i v_j + v_i u_j) + g_vv v_i v_j,
where g_u, g_uu … are Taylor coefficients along u alone, and g_uv comes from those along u and v together.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from flint import arb

from .evaluator import BallReading, run
from .functions import QUIET, Nowhere
from .jets import apply

Slopes = dict[str, Any]
Pair = tuple[str, str]
_ZERO, _ONE = arb(0), arb(1)


class Bent:
    """The value of a step on a box, its slopes by each variable, and its second derivatives by each pair, in the order of the alphabet."""

    __slots__ = ("slopes", "twice", "value")

    def __init__(self, value: Any, slopes: Slopes, twice: dict[Pair, Any]) -> None:
        self.value, self.slopes, self.twice = value, slopes, twice


def bent_by(program: Sequence[Sequence[Any]], places: dict[str, Any], names: frozenset[str]) -> Bent | None:
    """The last step on a box of balls, with its derivatives by `names`; None where it is not shown to be smooth there."""
    readings = run(program, places)
    last = readings[-1]
    if last is None or last.flags or last.jet is None:
        return None
    found: list[Bent | None] = []
    for step, here in zip(program, readings, strict=True):
        try:
            found.append(_bent(step, here, readings, found, names))
        except (Nowhere, _BendNotKnown):
            found.append(None)
    return found[-1]


class _BendNotKnown(Exception):
    """A step that is not smooth on the box."""


def _bent(
    step: Sequence[Any], here: BallReading | None, readings: list[BallReading | None], found: list[Bent | None], names: frozenset[str]
) -> Bent | None:  # fmt: skip
    head = step[0]
    if here is None or here.flags:
        raise _BendNotKnown
    if here.jet is None:
        return None
    value = here.jet[0]
    if head == "variable":
        return Bent(value, {step[1]: _ONE} if step[1] in names else {}, {})
    if len(step) < 2 or head in ("number", "ball"):
        return Bent(value, {}, {})
    if head == "choose":
        condition = readings[step[1]]
        if condition is None or condition.truth is None:
            raise _BendNotKnown
        return _known(found[step[2] if condition.truth else step[3]])
    if head == "pieces":
        raise _BendNotKnown
    args = [_known(found[k]) for k in step[1:]]
    if head in ("max", "min"):
        return args[0] if (args[2].value >= 0) is (head == "max") else args[1]
    if head in ("same", "within"):
        return args[0]
    if head in ("abs", "neg"):
        return args[0] if head == "abs" and args[0].value >= 0 else _scaled(args[0], value, arb(-1))
    if not any(a.slopes for a in args):
        return Bent(value, {}, {})
    if head in ("+", "-"):
        return _sum(value, args[0], args[1] if head == "+" else _scaled(args[1], value, arb(-1)))
    return _composed(head, value, args)


def _known(bent: Bent | None) -> Bent:
    if bent is None:
        raise _BendNotKnown
    return bent


def _scaled(a: Bent, value: Any, factor: Any) -> Bent:
    return Bent(value, {n: v * factor for n, v in a.slopes.items()}, {p: v * factor for p, v in a.twice.items()})


def _sum(value: Any, a: Bent, b: Bent) -> Bent:
    total = Bent(value, dict(a.slopes), dict(a.twice))
    _add(total, b, _ONE)
    return total


def _add(total: Bent, a: Bent, factor: Any) -> None:
    for n, v in a.slopes.items():
        total.slopes[n] = total.slopes[n] + v * factor if n in total.slopes else v * factor
    for p, v in a.twice.items():
        total.twice[p] = total.twice[p] + v * factor if p in total.twice else v * factor


def _add_products(total: Bent, a: Slopes, b: Slopes, factor: Any) -> None:
    """factor (a_i b_j + b_i a_j) for each pair i, j; where a is b, half of that."""
    for i, u in a.items():
        scaled = u * factor
        for j, v in b.items():
            if a is b and i > j:
                continue
            pair = (i, j) if i <= j else (j, i)
            term = scaled * v * (2 if i == j and a is not b else 1)
            total.twice[pair] = total.twice[pair] + term if pair in total.twice else term


def _composed(head: str, value: Any, args: list[Bent]) -> Bent:
    total = Bent(value, {}, {})
    if head == "*":
        u, v = args
        _add(total, u, v.value)
        _add(total, v, u.value)
        if u.slopes and v.slopes:
            _add_products(total, u.slopes, {**v.slopes}, _ONE)
        return total
    # What these name besides their argument is made of it.
    own = 1 if head in ("tan", "asin", "acos") else len(args)
    moving = [k for k in range(own) if args[k].slopes]
    alone: dict[int, tuple[Any, Any]] = {}
    for k in moving:
        _, first, second = _along(head, args, (k,))
        alone[k] = first, 2 * second
        _add(total, args[k], first)
        if not second.is_zero():
            _add_products(total, args[k].slopes, args[k].slopes, 2 * second)
    for a, k in enumerate(moving):
        for j in moving[:a]:
            both = 2 * _along(head, args, (j, k))[2]
            _add_products(total, args[j].slopes, {**args[k].slopes}, (both - alone[j][1] - alone[k][1]) / 2)
    if not all(v.is_finite() for v in (*total.slopes.values(), *total.twice.values())):
        raise _BendNotKnown
    return total


def _along(head: str, args: list[Bent], moving: tuple[int, ...]) -> Any:
    """The Taylor coefficients of second order where some of the arguments move alike."""
    jets = [[a.value, _ONE if k in moving else _ZERO, _ZERO] for k, a in enumerate(args)]
    if head == "tan":
        jets[1] = apply("cos", [jets[0]], QUIET)
    elif head in ("asin", "acos"):
        jets[1], jets[2] = [args[1].value, -_ONE, _ZERO], [args[2].value, _ONE, _ZERO]
    return apply(head, jets, QUIET)


__all__ = ["Bent", "bent_by"]
