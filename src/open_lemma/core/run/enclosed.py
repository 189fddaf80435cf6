"""Blocks and loops once more with balls instead of doubles, so that what they give can be proven.

A `define` block, or a loop, is gone through a second time: each number is an enclosure, and a branch is taken only where the enclosures
decide its condition. Where one does not, or a statement has no such reading, the doubles of the first time stand, and what rests on them is
checked at best.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from flint import arb, fmpq

from ..formula.ball import Undefined, as_fmpq, doubt, precision, quotient
from ..formula.certain import decimal_interval, enclosure, nearest_double
from ..formula.choice import Condition, condition_of
from ..formula.exact import rational
from ..formula.inexact import rests_on_doubles
from ..formula.nodes import Formula, Given, walk
from ..formula.tape import NoBall, Tape
from ..language import tree
from ..language.messages import Refused
from .evaluate.comprehensions import plain_elements
from .evaluate.evaluator import Evaluator
from .values import Frame, ListValue, Scalar, number_value

BITS = 512
DIGITS = 60  # of the interval that the result keeps
MOST_STATEMENTS = 4_000
CLOSE = 1e-6  # doubles that are further off than this went another way


class Undecided(Exception):
    """The block has no enclosures: a condition that they do not decide, or a statement that they have no reading of."""


class Enclosing:
    """One going-through of a block. scope: the names around it."""

    def __init__(self, scope: Evaluator) -> None:
        self.scope = scope
        self.left = MOST_STATEMENTS
        self.tapes: dict[tuple[int, tuple[str, ...]], Tape] = {}
        self.conditions: dict[tuple[int, tuple[str, ...]], Condition] = {}

    def called(self, d: tree.Define, arguments: tuple[Any, ...]) -> Scalar | None:
        """What a block gives for numbers, with an interval that holds it; None where that is not known."""
        try:
            with precision(BITS):
                frame = {n: ball_of(v) for n, v in zip(d.parameters, arguments, strict=True)}
                found = self._block(d.body, frame)
                return None if found is None else scalar_of(found)
        except (Undecided, Refused, NoBall, Undefined):
            return None

    def looped(self, loop: tree.For | tree.While, frame: dict[str, Any]) -> dict[str, Scalar]:
        """The numbers that a loop leaves; nothing where they are not known."""
        try:
            with precision(BITS):
                balls = {n: ball_of(v) for n, v in frame.items()}
                self._statement(loop, balls)
                return {n: s for n, b in balls.items() if (s := scalar_of(b)) is not None}
        except (Undecided, Refused, NoBall, Undefined):
            return {}

    # ------------------------------------------------------------ statements

    def _block(self, body: tuple[tree.Statement, ...], frame: dict[str, Any]) -> Any:
        """A block's `return` value as a ball, or None; names that are new in it end with it."""
        before = set(frame)
        for statement in body:
            found = self._statement(statement, frame)
            if found is not None:
                return found
        for name in set(frame) - before:
            del frame[name]
        return None

    def _statement(self, statement: tree.Statement, frame: dict[str, Any]) -> Any:
        self.left -= 1
        if self.left < 0:
            raise Undecided
        if isinstance(statement, tree.Definition) and statement.parameters is None and not isinstance(statement.body, tree.Request):
            frame[statement.name] = self._value(statement.body, frame)
            return None
        if isinstance(statement, tree.Return):
            return self._value(statement.value, frame)
        if isinstance(statement, tree.If):
            for branch in statement.branches:
                if branch.condition is None or self._holds(branch.condition, frame):
                    return self._block(branch.body, frame)
            return None
        if isinstance(statement, tree.For):
            hidden = frame.get(statement.window.name)
            for value in self._gone_through(statement.window, frame):
                frame[statement.window.name] = value
                found = self._block(statement.body, frame)
                if found is not None:
                    return found
            frame.pop(statement.window.name, None)
            if hidden is not None:
                frame[statement.window.name] = hidden
            return None
        if isinstance(statement, tree.While):
            while self._holds(statement.condition, frame):
                self.left -= 1
                found = self._block(statement.body, frame)
                if found is not None:
                    return found
                if self.left < 0:
                    raise Undecided
            return None
        raise Undecided

    def _gone_through(self, window: tree.Window, frame: dict[str, Any]) -> Iterator[Any]:
        """What a `for` goes through, where these are exact numbers."""
        ends = (window.low, window.high, window.step, window.count)
        used = frozenset().union(*(tree.free_names(e) for e in (*ends, window.values) if e is not None))
        if used & set(frame):
            names = {n: scalar_of(frame[n]) for n in used & set(frame)}
            if None in names.values():
                raise Undecided
            scope = self.scope.with_names(Frame(names, self.scope.names))
        else:
            scope = self.scope
        plain = plain_elements(scope, window)
        values = list(plain) if plain is not None else [None]
        if not all(isinstance(v, fmpq) for v in values):
            raise Undecided
        return (arb(v) for v in values)

    # ------------------------------------------------------------ expressions

    def _value(self, e: tree.Expression, frame: dict[str, Any]) -> Any:
        names = tuple(sorted(frame))
        tape = self.tapes.get((id(e), names))
        if tape is None:
            tape = self.tapes[id(e), names] = Tape([_sound(self.scope.within(*names).formula(e))], names)
        found = enclosure(tape, BITS, *(frame[n] for n in names))
        if found is None or not found.is_finite():
            raise Undecided
        return found

    def _holds(self, e: tree.Expression, frame: dict[str, Any]) -> bool:
        names = tuple(sorted(frame))
        condition = self.conditions.get((id(e), names))
        if condition is None:
            formula = _sound(self.scope.within(*names).condition(e))
            condition = self.conditions[id(e), names] = condition_of(formula, lambda formulas: Tape(formulas, names))
        doubt.begin([])
        held = condition.ball(tuple(frame[n] for n in names))
        if held is None or not doubt.clean:
            raise Undecided
        return held


def _sound(formula: Formula) -> Formula:
    """A formula that may be enclosed: no number in it went through doubles, and none is a list."""
    if rests_on_doubles(formula) or any(isinstance(n, Given) and np.ndim(n.data) for n in walk(formula)):
        raise Undecided
    return formula


def ball_of(value: Any) -> Any:
    """A number of the interpreter as a ball. Raises Undecided where it went through doubles, or is none."""
    if isinstance(value, fmpq):
        return arb(value)
    if isinstance(value, ListValue) or not isinstance(value, Scalar) or value.gap or value.unit is not None:
        raise Undecided
    exact = rational(value.formula)
    if exact is not None:
        return arb(as_fmpq(exact))
    found = enclosure(Tape([_sound(value.formula)], []), BITS)
    if found is None or not found.is_finite():
        raise Undecided
    return found


def scalar_of(ball: Any) -> Scalar | None:
    """A ball as a number with its interval; None where it is too wide to give all digits of a double."""
    if ball.is_exact():
        return number_value(fmpq(*quotient(ball)))
    if ball.contains(0) or ball.rel_accuracy_bits() < 60:
        return None
    interval = decimal_interval(ball, DIGITS)
    value = nearest_double(ball)
    return Scalar(Given(value, interval), value, None, decimal_interval(ball), True)
