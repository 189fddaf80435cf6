"""A formula as a straight line of steps, written once and run on arrays or on balls.

Common parts are computed once; parts without a variable are computed once per precision. The steps are turned into
Python code made from the catalogue's entries only: no text of a script ever reaches the compiler.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

import numpy as np
from flint import arb, ctx, fmpq

from . import ball
from .catalogue import CHOOSE, ENTRIES, POWER
from .choice import Choice, condition_of
from .entry import Entry
from .nodes import Apply, Formula, Given, Named, Number, Variable, variables


class NoBall(Exception):
    """Some part of the formula has no ball reading, or stands for a list."""


class NoScalar(Exception):
    """The steps cannot be run on single numbers of this kind: a part is inexact, or stands for a list."""


_Step = tuple[Any, ...]  # ("choice", Choice) | ("number", Fraction) | ("given", Given) | ("variable", name) | (Entry, *argument slots)


class Tape:
    """The steps for one or several formulas of the same variables."""

    def __init__(self, formulas: Sequence[Formula], of: Sequence[str]) -> None:
        self.variables = tuple(of)
        self.steps: list[_Step] = []
        self.closed: list[bool] = []
        self._slots: dict[Any, int] = {}
        self._seen: dict[int, int] = {}
        self._kept: list[Formula] = []  # formulas made on the way: their ids stay taken
        self.results = tuple(self._slot(f) for f in formulas)
        self._numeric: Callable[..., Any] | None = None
        self._ball: Callable[..., Any] | None = None
        self._scalars: dict[bool, Callable[..., Any]] = {}
        self._constants: dict[int, tuple[list[Any], bool, bool]] = {}

    # ------------------------------------------------------------ building

    def _slot(self, formula: Formula) -> int:
        found = self._seen.get(id(formula))
        if found is None:
            found = self._new_slot(formula)
            self._seen[id(formula)] = found
            self._kept.append(formula)
        return found

    def _new_slot(self, formula: Formula) -> int:
        if isinstance(formula, Named):
            return self._slot(formula.body)
        if isinstance(formula, Apply):
            return self._apply(formula)
        if isinstance(formula, Number):
            return self._place(("number", formula.value), ("number", formula.value), True)
        if isinstance(formula, Variable):
            return self._place(("variable", formula.name), ("variable", formula.name), False)
        assert isinstance(formula, Given)
        return self._place(("given", id(formula)), ("given", formula), True)

    def _apply(self, formula: Apply) -> int:
        if formula.entry is CHOOSE:
            return self._choice(formula)
        arguments = tuple(self._slot(a) for a in formula.arguments)
        entry = formula.entry
        if entry.name in ("min", "max") and len(arguments) != 2:
            return self._fold(entry, arguments)
        closed = all(self.closed[a] for a in arguments)
        return self._place((entry.name, *arguments), (entry, *arguments), closed, formula)

    def _choice(self, formula: Apply) -> int:
        condition, taken, other = formula.arguments

        def tape(formulas: list[Formula]) -> Tape:
            return Tape(formulas, self.variables)

        choice = Choice(condition_of(condition, tape), tape([taken]), tape([other]))
        return self._place(("choice", id(formula)), ("choice", choice), not variables(formula))

    def _fold(self, entry: Entry, arguments: tuple[int, ...]) -> int:
        slot = arguments[0]
        for other in arguments[1:]:
            slot = self._place((entry.name, slot, other), (entry, slot, other), self.closed[slot] and self.closed[other])
        return slot

    def _place(self, key: Any, step: _Step, closed: bool, formula: Formula | None = None) -> int:
        found = self._slots.get(key)
        if found is None:
            self.steps.append(step if formula is None else (*step[:1], *step[1:]))
            self.closed.append(closed)
            found = self._slots[key] = len(self.steps) - 1
        return found

    # ------------------------------------------------------------ numbers

    def numeric(self, *arrays: Any) -> tuple[Any, ...]:
        """Values as float arrays; NaN or an infinity where there is no real value. One array per variable."""
        if self._numeric is None:
            self._numeric = self._compile(lambda entry: entry.numeric or _numeric_of(entry), _float_of)
        with np.errstate(all="ignore"):
            return self._numeric(*arrays)  # type: ignore[no-any-return]

    # ------------------------------------------------------------ single numbers

    def scalar_all(self, exact: bool) -> Callable[..., tuple[Any, ...]]:
        """The steps on single numbers, many times faster than on arrays: doubles, or quotients (fmpq) where `exact`.

        What is returned raises ArithmeticError, ValueError or TypeError where there is no value of that kind.
        Raises NoScalar where some part is a list, or inexact though `exact` is asked for.
        """
        found = self._scalars.get(exact)
        if found is None:
            found = self._scalars[exact] = self._compile(
                partial(_scalar_of, exact=exact), _exact_constant if exact else _float_constant, exact
            )
        return found

    def scalar(self, exact: bool) -> Callable[..., Any]:
        """As `scalar_all`, for the one result."""
        run = self.scalar_all(exact)
        return lambda *arguments: run(*arguments)[0]

    # ------------------------------------------------------------ balls

    def ball(self, *balls: Any) -> tuple[Any, ...]:
        """Enclosures at the precision in force; the promises are those of `ball.py`."""
        if self._ball is None:
            self._ball = self._compile(_ball_of, None)
        constants, undefined, jumps = self.closed_balls()
        # What was doubtful about a constant is doubtful in every evaluation that uses it.
        ball.doubt.partial = ball.doubt.partial or undefined
        ball.doubt.jumps = ball.doubt.jumps or jumps
        return self._ball(constants, *balls)  # type: ignore[no-any-return]

    def closed_balls(self) -> tuple[list[Any], bool, bool]:
        """Balls of the steps without a variable at the precision in force, and whether any was partial or met a jump."""
        found = self._constants.get(ctx.prec)
        if found is None:
            values: list[Any] = []
            undefined = jumps = False
            before = ball.doubt.state()
            for step, closed in zip(self.steps, self.closed, strict=True):
                values.append(_closed_ball(step, values) if closed else None)
                if closed:
                    undefined, jumps = undefined or ball.doubt.partial, jumps or ball.doubt.jumps
            ball.doubt.restore(before)
            found = self._constants[ctx.prec] = (values, undefined, jumps)
        return found

    # ------------------------------------------------------------ code

    def _compile(
        self, reading: Callable[[Entry], Any], constant: Callable[[_Step], Any] | None, exact: bool | None = None
    ) -> Callable[..., Any]:
        """Write the steps as one Python function. With `constant` None closed steps are read from the list `c`.

        exact  None for arrays and balls, else the kind of single numbers
        """
        names: dict[str, Any] = {}
        lines: list[str] = []
        given = ",".join(f"a{i}" for i in range(len(self.variables)))
        for i, step in enumerate(self.steps):
            head = step[0]
            if constant is None and self.closed[i]:
                lines.append(f" t{i}=c[{i}]")
            elif head == "variable":
                lines.append(f" t{i}=a{self.variables.index(step[1])}")
            elif head == "choice":
                names[f"f{i}"] = step[1].ball if constant is None else step[1].numeric if exact is None else step[1].scalar(exact)
                lines.append(f" t{i}=f{i}({given})")
            elif isinstance(head, str):
                assert constant is not None
                names[f"k{i}"] = constant(step)
                lines.append(f" t{i}=k{i}")
            else:
                lines.append(f" t{i}={_expression(self.steps, head, step[1:], i, names, reading, constant is None or exact is not None)}")
        arguments = [f"a{i}" for i in range(len(self.variables))]
        if constant is None:
            arguments.insert(0, "c")
        results = "".join(f"t{r}," for r in self.results)
        code = f"def tape({', '.join(arguments)}):\n" + "\n".join(lines) + f"\n return ({results})"
        exec(compile(code, "<formula>", "exec"), names)  # only slots and entries of the catalogue
        return names["tape"]  # type: ignore[no-any-return]


_PLAIN = {"+": "t{}+t{}", "-": "t{}-t{}", "*": "t{}*t{}", "neg": "-t{}"}


def _small_whole(step: _Step) -> int | None:
    value = step[1] if step[0] == "number" else None
    return int(value) if value is not None and value.denominator == 1 and 0 <= value <= 10_000 else None


def _expression(
    steps: list[_Step], entry: Entry, slots: tuple[int, ...], place: int, names: dict[str, Any], reading: Any, balls: bool
) -> str:
    plain = _PLAIN.get(entry.name)
    if plain is not None and balls:
        return plain.format(*slots)
    if balls and entry is POWER and (exponent := _small_whole(steps[slots[1]])) is not None:
        # The exponent is looked at here, once, and not at every evaluation.
        names[f"f{place}"] = partial(ball.whole_power, n=exponent) if reading is _ball_of else partial(_whole_power, n=exponent)
        return f"f{place}(t{slots[0]})"
    names[f"f{place}"] = reading(entry)
    return f"f{place}({', '.join(f't{s}' for s in slots)})"


def _float_of(step: _Step) -> Any:
    if step[0] == "given":
        return step[1].data
    value = step[1]
    try:
        return float(value)
    except OverflowError:
        return float("inf") if value > 0 else float("-inf")


def _numeric_of(entry: Entry) -> Any:
    return expansion_tape(entry).numeric_single


def _ball_of(entry: Entry) -> Any:
    if entry.ball is not None:
        return entry.ball
    if entry.expansion is not None:
        return expansion_tape(entry).ball_single
    # A slope of what data gave is called after the function that the student named.
    raise NoBall(getattr(entry.source, "name", entry.name))


def _closed_ball(step: _Step, values: list[Any]) -> Any:
    """One step without a variable; where a jump cannot be decided (`floor(e/e)`) the hull of all that it may be."""
    head = step[0]
    ball.doubt.begin([])
    if head == "number":
        return ball.from_fraction(step[1].numerator, step[1].denominator)
    if head == "choice":
        try:
            # Its parts take the variables of the whole, on which nothing in them depends.
            return ball.hull_of_branches(step[1].ball, *(arb(0) for _ in step[1].taken.variables))
        except ball.Undefined:
            return ball.NAN
    if head == "given":
        return _given_ball(step[1])
    try:
        return ball.hull_of_branches(_ball_of(head), *(values[s] for s in step[1:]))
    except ball.Undefined:
        return ball.NAN


def _given_ball(given: Given) -> Any:
    if given.interval is not None:
        low, high = given.interval
        return ball.hull(arb(low), arb(high))
    if np.ndim(given.data):
        raise NoBall(given.name)
    return arb(float(given.data))


# ---------------------------------------------------------------- single numbers


def _exact_constant(step: _Step) -> Any:
    if step[0] == "given":
        raise NoScalar(step[1].name)
    return fmpq(step[1].numerator, step[1].denominator)


def _float_constant(step: _Step) -> Any:
    found = _float_of(step)
    if np.ndim(found):
        raise NoScalar(step[1].name)
    return float(found)


def _whole_power(base: Any, n: int) -> Any:
    return base**n


def _exact_power(base: Any, exponent: Any) -> Any:
    if exponent.q != 1 or abs(exponent.p) > MAX_EXACT_POWER:
        raise ValueError("not a small whole power")
    return base ** int(exponent.p)


def _whole(function: Callable[[Any], Any]) -> Callable[[Any], Any]:
    return lambda x: fmpq(function(x))


MAX_EXACT_POWER = 1_000
_FLOATS: dict[str, Callable[..., Any]] = {
    "/": lambda x, y: x / y, "^": math.pow, "sin": math.sin, "cos": math.cos, "tan": math.tan, "asin": math.asin, "acos": math.acos,
    "atan": math.atan, "sinh": math.sinh, "cosh": math.cosh, "tanh": math.tanh, "exp": math.exp, "ln": math.log,
    "log10": math.log10, "log2": math.log2, "sqrt": math.sqrt, "cbrt": math.cbrt, "abs": abs, "floor": lambda x: float(math.floor(x)),
    "ceil": lambda x: float(math.ceil(x)), "round": lambda x: float(math.floor(x + 0.5)), "min": min, "max": max,
    "mod": lambda x, y: x - y * math.floor(x / y), "erf": math.erf, "erfc": math.erfc,
}  # fmt: skip
_QUOTIENTS: dict[str, Callable[..., Any]] = {
    "/": lambda x, y: x / y, "^": _exact_power, "abs": abs, "min": min, "max": max, "floor": _whole(lambda x: x.floor()),
    "ceil": _whole(lambda x: x.ceil()), "round": _whole(lambda x: (x + fmpq(1, 2)).floor()),
    "sign": lambda x: fmpq((x > 0) - (x < 0)), "mod": lambda x, y: x - y * fmpq((x / y).floor()),
}  # fmt: skip


def _scalar_of(entry: Entry, exact: bool) -> Any:
    if entry.scalar is not None:
        return entry.scalar
    found = (_QUOTIENTS if exact else _FLOATS).get(entry.name)
    if found is not None:
        return found
    if entry.expansion is not None:
        return expansion_tape(entry).scalar(exact)
    if exact or entry.numeric is None:
        raise NoScalar(entry.name)
    numeric = entry.numeric
    return lambda *values: float(numeric(*values))


class _Expansion(Tape):
    def numeric_single(self, *arrays: Any) -> Any:
        return self.numeric(*arrays)[0]

    def ball_single(self, *balls: Any) -> Any:
        return self.ball(*balls)[0]


_expansions: dict[str, _Expansion] = {}


def expansion_tape(entry: Entry) -> _Expansion:
    """The steps of an entry that is defined by others."""
    found = _expansions.get(entry.name)
    if found is None:
        assert entry.expansion is not None
        names = [f"a{i}" for i in range(entry.arity[0])]
        found = _expansions[entry.name] = _Expansion([entry.expansion(*map(Variable, names))], names)
    return found


__all__ = ["ENTRIES", "NoBall", "NoScalar", "Tape", "expansion_tape"]
