"""Choices between formulas: `a when CONDITION, otherwise b`, worked out lazily.

A branch that is not taken need have no value: of `ln(x) when x > 0, otherwise 0` the logarithm is not asked at x = -1. So
each branch is a line of steps of its own, which is run only where the condition lets it.
"""

from __future__ import annotations

import operator
from collections.abc import Callable
from typing import Any

import numpy as np

from . import ball as b
from . import catalogue as c
from .nodes import Apply, Formula

_HOLDS: dict[str, Callable[[Any, Any], Any]] = {
    "<": operator.lt, ">": operator.gt, "<=": operator.le, ">=": operator.ge, "=": operator.eq, "!=": operator.ne,
}  # fmt: skip
_OPPOSITE = {"<": operator.ge, ">": operator.le, "<=": operator.gt, ">=": operator.lt}


class Condition:
    """A condition on the variables: true, false, or without a value where its parts have none."""

    def numeric(self, arguments: tuple[Any, ...]) -> Any:
        """1.0 where it holds, 0.0 where it does not, NaN where it has no value."""
        raise NotImplementedError(arguments)

    def ball(self, balls: tuple[Any, ...]) -> bool | None:
        """True or False if it is so on the whole of the balls, None if that is not known; Undefined where it has no value."""
        raise NotImplementedError(balls)

    def scalar(self, exact: bool) -> Callable[..., bool]:
        """The condition for single numbers."""
        raise NotImplementedError(exact)


class _Constant(Condition):
    def __init__(self, holds: bool) -> None:
        self.holds = holds

    def numeric(self, _: tuple[Any, ...]) -> Any:
        return float(self.holds)

    def ball(self, _: tuple[Any, ...]) -> bool | None:
        return self.holds

    def scalar(self, _: bool) -> Callable[..., bool]:
        return lambda *_: self.holds


class _Compared(Condition):
    def __init__(self, sign: str, sides: Any) -> None:
        self.sign, self.sides = sign, sides

    def numeric(self, arguments: tuple[Any, ...]) -> Any:
        left, right = self.sides.numeric(*arguments)
        with np.errstate(invalid="ignore"):
            held = _HOLDS[self.sign](left, right)
        return np.where(np.isnan(left) | np.isnan(right), np.nan, np.asarray(held, dtype=float))

    def ball(self, balls: tuple[Any, ...]) -> bool | None:
        left, right = self.sides.ball(*balls)
        if self.sign in ("=", "!="):
            if not left.overlaps(right):
                return self.sign == "!="
            same = left.is_exact() and right.is_exact() and left == right
            return self.sign == "=" if same else None
        if _HOLDS[self.sign](left, right):
            return True
        return False if _OPPOSITE[self.sign](left, right) else None

    def scalar(self, exact: bool) -> Callable[..., bool]:
        sides, holds = self.sides.scalar_all(exact), _HOLDS[self.sign]
        return lambda *arguments: bool(holds(*sides(*arguments)))


class _Joined(Condition):
    """`and`, `or`: the first condition that decides is enough, as on paper."""

    def __init__(self, decides: bool, parts: list[Condition]) -> None:
        self.decides, self.parts = decides, parts

    def numeric(self, arguments: tuple[Any, ...]) -> Any:
        found = self.parts[0].numeric(arguments)
        for part in self.parts[1:]:
            other = part.numeric(arguments)
            either = (found == self.decides) | (other == self.decides)
            undefined = np.isnan(found) | np.isnan(other)
            found = np.where(either, float(self.decides), np.where(undefined, np.nan, float(not self.decides)))
        return found

    def ball(self, balls: tuple[Any, ...]) -> bool | None:
        results: list[bool | None] = []
        undefined = 0
        for part in self.parts:
            try:
                held = part.ball(balls)
            except b.Undefined:
                undefined += 1
                held = None
            if held is self.decides:
                return held
            results.append(held)
        if undefined == len(self.parts):
            raise b.Undefined
        b.doubt.partial = b.doubt.partial or undefined > 0
        return None if None in results else not self.decides

    def scalar(self, exact: bool) -> Callable[..., bool]:
        parts = [p.scalar(exact) for p in self.parts]
        every = all if not self.decides else any
        return lambda *arguments: every(p(*arguments) for p in parts)


class _Not(Condition):
    def __init__(self, part: Condition) -> None:
        self.part = part

    def numeric(self, arguments: tuple[Any, ...]) -> Any:
        return 1.0 - self.part.numeric(arguments)

    def ball(self, balls: tuple[Any, ...]) -> bool | None:
        held = self.part.ball(balls)
        return None if held is None else not held

    def scalar(self, exact: bool) -> Callable[..., bool]:
        part = self.part.scalar(exact)
        return lambda *arguments: not part(*arguments)


def condition_of(formula: Formula, tape: Callable[[list[Formula]], Any]) -> Condition:
    """The condition that a formula of comparisons stands for; `tape` makes the steps for its sides."""
    while not isinstance(formula, Apply):
        formula = formula.body  # type: ignore[attr-defined]
    name = formula.entry.name
    if name in _HOLDS:
        return _Compared(name, tape(list(formula.arguments)))
    if name in ("true", "false"):
        return _Constant(name == "true")
    parts = [condition_of(a, tape) for a in formula.arguments]
    return _Not(parts[0]) if name == "not" else _Joined(name == "or", parts)


class Choice:
    """One choice between two formulas of the same variables."""

    def __init__(self, condition: Condition, taken: Any, other: Any) -> None:
        self.condition, self.taken, self.other = condition, taken, other

    def numeric(self, *arguments: Any) -> Any:
        """Values of the piece that holds at each place (n,); NaN where none does."""
        held = self.condition.numeric(arguments)
        if np.all(held == 1):
            return self.taken.numeric(*arguments)[0]
        if np.all(held == 0):
            return self.other.numeric(*arguments)[0]
        taken, other = self.taken.numeric(*arguments)[0], self.other.numeric(*arguments)[0]
        return np.where(np.isnan(held), np.nan, np.where(held == 1, taken, other))

    def ball(self, *balls: Any) -> Any:
        """The union of the pieces that may hold. Raises Undefined where none does."""
        held = self.condition.ball(balls)
        if held is None:
            # The value may leap where the condition turns: both are looked at, one pass each.
            held = bool(b.doubt.choose([0, 1]) == 1)
        return (self.taken if held else self.other).ball(*balls)[0]

    def scalar(self, exact: bool) -> Callable[..., Any]:
        condition, taken, other = self.condition.scalar(exact), self.taken.scalar(exact), self.other.scalar(exact)
        return lambda *arguments: (taken if condition(*arguments) else other)(*arguments)


def choose(condition: Formula, taken: Formula, other: Formula) -> Formula:
    return Apply(c.CHOOSE, (condition, taken, other))
