"""Intervals with infinite ends, for the boxes where a ball says nothing.

`ln` on [0, h] reaches from -infinity to ln h, `1/x` there from 1/h to infinity: a ball cannot say either, and a search
for zeros would go on halving such a box forever. These enclosures are wide but one-sided, which is all that is needed.
The promises are those of the ball reading. Ends are exact; None stands for an infinite one.
"""

from __future__ import annotations

from typing import Any

from flint import arb

from ..formula import catalogue as c
from ..formula.ball import ZERO, Undefined, bessel_y, branches, cube_root
from ..formula.ball import sign as sign_of
from ..formula.choice import Choice
from ..formula.entry import Entry
from ..formula.tape import Tape, expansion_tape

End = Any  # exact arb, or None for the infinite end of its side


class ExtendedInterval:
    __slots__ = ("high", "low")

    def __init__(self, low: End, high: End) -> None:
        self.low, self.high = low, high

    @property
    def bounded(self) -> bool:
        return self.low is not None and self.high is not None

    def ball(self) -> Any:
        return self.low.union(self.high)

    def excludes_zero(self) -> bool:
        return bool((self.low is not None and self.low > 0) or (self.high is not None and self.high < 0))


WHOLE = ExtendedInterval(None, None)


def of_ball(ball: Any) -> ExtendedInterval:
    if not ball.is_finite():
        return WHOLE
    return ExtendedInterval(ball.lower(), ball.upper())


def excludes_zero(tape: Tape, result: int, *places: ExtendedInterval) -> bool:
    """True only if the result of the tape is nowhere zero on the intervals (or nowhere defined)."""
    # Every way in which the steps on the way may fall must exclude it; a way without a value says nothing against.
    for values in branches(lambda: interval_run(tape, list(places))):
        if values is None or not values[tape.results[result]].excludes_zero():
            return False
    return True


def interval_run(tape: Tape, arguments: list[ExtendedInterval]) -> list[ExtendedInterval]:
    """All steps of a tape on intervals; raises Undefined where there is no value anywhere."""
    constants, _, _ = tape.closed_balls()
    values: list[ExtendedInterval] = []
    for i, step in enumerate(tape.steps):
        if tape.closed[i]:
            values.append(of_ball(constants[i]))
        elif step[0] == "variable":
            values.append(arguments[tape.variables.index(step[1])])
        elif step[0] == "choice":
            values.append(_choice(step[1], arguments))
        else:
            values.append(_apply(step[0], [values[s] for s in step[1:]]))
    return values


def _choice(choice: Choice, arguments: list[ExtendedInterval]) -> ExtendedInterval:
    held = choice.condition.ball(tuple(a.ball() for a in arguments)) if all(a.bounded for a in arguments) else None
    found: ExtendedInterval | None = None
    for branch, taken in ((choice.taken, True), (choice.other, False)):
        if held is (not taken):
            continue
        try:
            value = interval_run(branch, arguments)[branch.results[0]]
        except Undefined:
            continue
        found = value if found is None else either(found, value)
    if found is None:
        raise Undefined
    return found


def either(a: ExtendedInterval, b: ExtendedInterval) -> ExtendedInterval:
    """The interval that holds both."""
    low = None if a.low is None or b.low is None else a.low.min(b.low)
    return ExtendedInterval(low, None if a.high is None or b.high is None else a.high.max(b.high))


def _apply(entry: Entry, args: list[ExtendedInterval]) -> ExtendedInterval:
    rule = _RULES.get(entry.name)
    if rule is not None:
        return rule(*args)  # type: ignore[no-any-return]
    if not all(a.bounded for a in args):
        return WHOLE
    reading = entry.ball if entry.ball is not None else expansion_tape(entry).ball_single
    return of_ball(reading(*(a.ball() for a in args)))


def _between(name: str, least: int, most: int) -> Any:
    """A function never beyond two numbers, which no ball of that width can say."""

    def rule(a: ExtendedInterval) -> ExtendedInterval:
        if not a.bounded:
            return ExtendedInterval(arb(least), arb(most))
        found = getattr(a.ball(), name)()
        return ExtendedInterval(found.lower().max(arb(least)), found.upper().min(arb(most))) if found.is_finite() else WHOLE

    return rule


def _add(a: ExtendedInterval, b: ExtendedInterval) -> ExtendedInterval:
    low = None if a.low is None or b.low is None else (a.low + b.low).lower()
    high = None if a.high is None or b.high is None else (a.high + b.high).upper()
    return ExtendedInterval(low, high)


def _negative(a: ExtendedInterval) -> ExtendedInterval:
    return ExtendedInterval(None if a.high is None else -a.high, None if a.low is None else -a.low)


def _multiply(a: ExtendedInterval, b: ExtendedInterval) -> ExtendedInterval:
    if _sign(a) < 0:
        return _negative(_multiply(_negative(a), b))
    if _sign(b) < 0:
        return _negative(_multiply(a, _negative(b)))
    if _sign(a) > 0 and _sign(b) > 0:
        # By the ends: the product of two balls that begin at 0 would reach a little below it.
        high = None if a.high is None or b.high is None else (a.high * b.high).upper()
        return ExtendedInterval((a.low * b.low).lower(), high)
    if a.bounded and b.bounded:
        # By the corners, whose rounding is finer than that of a wide ball.
        corners = [x * y for x in (a.low, a.high) for y in (b.low, b.high)]
        low, high = corners[0].lower(), corners[0].upper()
        for corner in corners[1:]:
            low, high = low.min(corner.lower()), high.max(corner.upper())
        return ExtendedInterval(low, high)
    if _sign(b) > 0:
        a, b = b, a
    if _sign(a) > 0 and a.high is not None:
        # a within (0, high], b of both signs: each infinite end of b stays infinite.
        low = None if b.low is None else (b.low * a.high).lower().min(ZERO)
        high = None if b.high is None else (b.high * a.high).upper().max(ZERO)
        return ExtendedInterval(low, high)
    return WHOLE


def _sign(a: ExtendedInterval) -> int:
    """1 or -1 where the interval has one sign (zero may be an end), else 0."""
    if a.low is not None and a.low >= 0:
        return 1
    return -1 if a.high is not None and a.high <= 0 else 0


def _divide(a: ExtendedInterval, b: ExtendedInterval) -> ExtendedInterval:
    return _multiply(a, _reciprocal(b))


def _reciprocal(b: ExtendedInterval) -> ExtendedInterval:
    if _sign(b) > 0:
        low = ZERO if b.high is None else ((1 / b.high).lower() if b.high > 0 else None)
        if low is None:
            raise Undefined
        return ExtendedInterval(low, (1 / b.low).upper() if b.low > 0 else None)
    if _sign(b) < 0:
        return _negative(_reciprocal(_negative(b)))
    return WHOLE


def _logarithm(a: ExtendedInterval) -> ExtendedInterval:
    if a.high is not None and a.high <= 0:
        raise Undefined
    low = a.low.log().lower() if a.low is not None and a.low > 0 else None
    return ExtendedInterval(low, None if a.high is None else a.high.log().upper())


def _scaled_logarithm(base: int) -> Any:
    return lambda a: _multiply(_logarithm(a), of_ball(1 / arb(base).log()))


def _exponential(a: ExtendedInterval) -> ExtendedInterval:
    return ExtendedInterval(ZERO if a.low is None else a.low.exp().lower(), None if a.high is None else a.high.exp().upper())


def _root(a: ExtendedInterval) -> ExtendedInterval:
    if a.high is not None and a.high < 0:
        raise Undefined
    low = a.low.sqrt().lower() if a.low is not None and a.low > 0 else ZERO
    return ExtendedInterval(low, None if a.high is None else a.high.sqrt().upper())


def _magnitude(a: ExtendedInterval) -> ExtendedInterval:
    if _sign(a) > 0:
        return a
    if _sign(a) < 0:
        return _negative(a)
    if not a.bounded:
        return ExtendedInterval(ZERO, None)
    return ExtendedInterval(ZERO, (-a.low).max(a.high))


def _power(a: ExtendedInterval, b: ExtendedInterval) -> ExtendedInterval:
    whole = b.low.unique_fmpz() if b.bounded and b.low == b.high else None
    if whole is not None:
        return _whole_power(a, int(whole))
    if a.bounded and b.bounded:
        found = of_ball(c.POWER.ball(a.ball(), b.ball()))  # type: ignore[misc]
        if found.bounded:
            return found
    if (a.low is None or a.low < 0) and not (b.bounded and not b.ball().contains_integer()):
        return WHOLE  # of a negative number the powers have a value whose exponents are whole
    if a.high is not None and a.high <= 0:
        if a.high < 0 or (b.high is not None and b.high < 0):
            raise Undefined
        return ExtendedInterval(ZERO, ZERO if b.low is not None and b.low > 0 else arb(1))
    return _exponential(_multiply(b, _logarithm(a)))


def _whole_power(a: ExtendedInterval, n: int) -> ExtendedInterval:
    """By the ends of a monotonic power."""
    if n < 0:
        return _reciprocal(_whole_power(a, -n))
    if n == 0:
        return ExtendedInterval(arb(1), arb(1))
    base = _magnitude(a) if n % 2 == 0 else a
    low = None if base.low is None else (base.low**n).lower()
    return ExtendedInterval(low, None if base.high is None else (base.high**n).upper())


def _cube_root(a: ExtendedInterval) -> ExtendedInterval:
    return ExtendedInterval(None if a.low is None else cube_root(a.low).lower(), None if a.high is None else cube_root(a.high).upper())


def _rising(name: str) -> Any:
    """A function that rises throughout and is defined everywhere, by its ends."""

    def rule(a: ExtendedInterval) -> ExtendedInterval:
        low = None if a.low is None else getattr(a.low, name)().lower()
        return ExtendedInterval(low, None if a.high is None else getattr(a.high, name)().upper())

    return rule


def _hyperbolic_cosine(a: ExtendedInterval) -> ExtendedInterval:
    size = _magnitude(a)
    return ExtendedInterval(size.low.cosh().lower(), None if size.high is None else size.high.cosh().upper())


def _within(name: str, least: Any, most: Any) -> Any:
    """A rising function between two limits."""
    rising = _rising(name)

    def rule(a: ExtendedInterval) -> ExtendedInterval:
        found = rising(a)
        return ExtendedInterval(arb(least) if found.low is None else found.low, arb(most) if found.high is None else found.high)

    return rule


def _signum(a: ExtendedInterval) -> ExtendedInterval:
    if a.excludes_zero():
        sign = arb(_sign(a))
        return ExtendedInterval(sign, sign)
    return of_ball(sign_of(a.ball())) if a.bounded else ExtendedInterval(arb(-1), arb(1))


def _bessel_y(order: ExtendedInterval, x: ExtendedInterval) -> ExtendedInterval:
    """Near 0: for an order v >= 0 it comes from -infinity and rises up to its first zero, which lies beyond v and beyond 1/2.

    First zeros: DLMF 10.21.3 and table 10.21 there (y_(0,1) = 0.8936).
    """
    if x.high is not None and x.high <= 0:
        raise Undefined
    if not order.bounded or x.high is None or (x.low is not None and x.low > 0):
        return of_ball(bessel_y(order.ball(), x.ball())) if order.bounded and x.bounded else WHOLE
    if order.low >= 0 and x.high <= order.low.max(arb(0.5)):
        high = x.high.bessel_y(order.ball())
        return ExtendedInterval(None, high.upper()) if high.is_finite() else WHOLE
    return WHOLE


_RULES: dict[str, Any] = {
    "sin": _between("sin", -1, 1),
    "cos": _between("cos", -1, 1),
    "erfc": _between("erfc", 0, 2),
    "bessely": _bessel_y,
    "+": _add,
    "-": lambda a, b: _add(a, _negative(b)),
    "neg": _negative,
    "*": _multiply,
    "/": _divide,
    "^": _power,
    "ln": _logarithm,
    "log10": _scaled_logarithm(10),
    "log2": _scaled_logarithm(2),
    "exp": _exponential,
    "sqrt": _root,
    "cbrt": _cube_root,
    "abs": _magnitude,
    "sign": _signum,
    "sinh": _rising("sinh"),
    "cosh": _hyperbolic_cosine,
    "tanh": _within("tanh", -1, 1),
    "erf": _within("erf", -1, 1),
    "atan": _within("atan", -2, 2),
}
