"""Mixed second derivatives: each step's slope along one variable as a Taylor polynomial of first order along another, by the chain rule."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from flint import arb

from .evaluator import BallReading, run
from .functions import QUIET, Nowhere
from .jets import SLOPES, Jet, apply

BY_FIRST = ("tan", "asin", "acos")  # of which the other arguments are made of the first one


class _NotKnown(Exception):
    """A step of which there is no rule here, or that is not smooth on the box."""


def mixed_derivative(program: Sequence[Sequence[Any]], places: dict[str, Any], a: str, b: str) -> Any:
    """An enclosure of the derivative by a and by b on a box of balls; None where it is not known."""
    along = run(program, places, 1, b)
    slopes: list[Jet | None] = []
    for step, here in zip(program, along, strict=True):
        try:
            slopes.append(_slope(step, here, along, slopes, a))
        except (_NotKnown, Nowhere):
            slopes.append(None)
    found = slopes[-1]
    return found[1] if found is not None and found[1].is_finite() else None


def _slope(step: Sequence[Any], here: BallReading | None, along: list[BallReading | None], slopes: list[Jet | None], a: str) -> Jet | None:
    """The slope of a step along `a`; None: of a condition, which has none. Raises _NotKnown."""
    head = step[0]
    if here is None or here.flags:
        raise _NotKnown
    if here.jet is None:
        return None
    if head == "variable":
        return [arb(1 if step[1] == a else 0), arb(0)]
    if head == "pieces":
        raise _NotKnown
    if len(step) < 2 or head in ("number", "ball"):
        return [arb(0), arb(0)]
    if head == "choose":
        condition = along[step[1]]
        if condition is None or condition.truth is None:
            raise _NotKnown
        return _known(slopes[step[2] if condition.truth else step[3]])
    own = [_known(slopes[k]) for k in step[1:]]
    readings = [along[k] for k in step[1:]]
    if any(r is None or r.jet is None for r in readings):
        raise _NotKnown
    values: list[Jet] = [r.jet for r in readings]
    if head in ("+", "-", "neg", "same"):
        sign = -1 if head in ("-", "neg") else 1
        return [x * sign for x in own[0]] if len(own) == 1 else [x + sign * y for x, y in zip(*own, strict=True)]
    if head in ("*", "/"):
        return _of_product(head, here.jet, values, own)
    if head == "abs":
        return own[0] if values[0][0] >= 0 else [-x for x in own[0]]
    if head in ("max", "min"):
        first = values[2][0] >= 0 if head == "max" else values[2][0] <= 0
        return own[0] if first else own[1]
    return _of_function(head, values, own)


def _known(jet: Jet | None) -> Jet:
    if jet is None:
        raise _NotKnown
    return jet


def _of_product(head: str, here: Jet, values: list[Jet], own: list[Jet]) -> Jet:
    from_first = apply("*", [own[0], values[1]], QUIET)
    if head == "*":
        return [x + y for x, y in zip(from_first, apply("*", [values[0], own[1]], QUIET), strict=True)]
    over = apply("*", [here, own[1]], QUIET)
    return apply("/", [[x - y for x, y in zip(own[0], over, strict=True)], values[1]], QUIET)


def _of_function(head: str, values: list[Jet], own: list[Jet]) -> Jet:
    rules = SLOPES.get(head)
    if rules is None or len(rules) != len(own):
        raise _NotKnown
    total: Jet = [arb(0), arb(0)]
    for rule, change in zip(rules, own, strict=True):
        if all(x.is_zero() for x in change) or (rule is None and head in BY_FIRST):
            continue
        if rule is None:
            raise _NotKnown
        term = apply("*", [rule(*values), change], QUIET)
        total = [x + y for x, y in zip(total, term, strict=True)]
    return total


__all__ = ["mixed_derivative"]
