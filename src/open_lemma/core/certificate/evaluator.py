"""A strict evaluator: the values of a program on a box, and whether it has a value there at all.

Undefined spreads: a step has no value where an argument of it has none (branches of `choose` that are not taken aside). Each
step's reading says what may be wrong with it somewhere on the box (see `functions`). A reading of None: it has a value nowhere on the
box. Values and Taylor coefficients hold those of the function wherever it has them; with ROUGH, the first coefficient holds all
difference quotients.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from functools import lru_cache
from typing import Any

from flint import arb, fmpq

from .exact import Exact, NoExactNumber, exact_of, rational
from .functions import BROKEN, CONSTANTS, EXACT_CONSTANTS, NAN, PARTIAL, BadProgram, Flags, Nowhere, Num, ratio, union
from .jets import Jet, apply, pieces
from .span import WHOLE, Span, of_ball, span_of


class BallReading:
    """One step on the box: its Taylor coefficients (or the truth of a condition; None where that is open), and its flags."""

    __slots__ = ("flags", "growth", "jet", "truth")

    def __init__(self, jet: Jet | None, flags: int, truth: bool | None = None, growth: Num = None) -> None:
        self.jet, self.flags, self.truth, self.growth = jet, flags, truth, growth

    @property
    def defined(self) -> bool:
        return not self.flags & PARTIAL

    @property
    def continuous(self) -> bool:
        return not self.flags & (PARTIAL | BROKEN)

    @property
    def smooth(self) -> bool:
        return not self.flags


def run(
    program: Sequence[Sequence[Any]], places: dict[str, Num], order: int = 0, along: str | tuple[str, ...] | None = None,
    known: dict[int, Num] | None = None,
) -> list[BallReading | None]:  # fmt: skip
    """All steps on a box. places: a number for each variable. along: the variable of the Taylor coefficients, up to `order`; of several
    ones all move alike.
    known: values that are known of some steps and stand in for what would come out."""
    sample = next(iter(places.values()), arb(0))
    moving = (along,) if isinstance(along, str) else along or ()
    lift = of_ball if isinstance(sample, Span) else exact_of if isinstance(sample, Exact) else _same
    found: list[BallReading | None] = []
    for place, step in enumerate(program):
        reading = _read(step, found, places, order, moving, lift)
        if known is not None and place in known and reading is not None and reading.jet is not None:
            told = known[place] if isinstance(known[place], list) else [known[place]]
            undefined = reading.flags & ~PARTIAL if len(told) > 1 else reading.flags
            reading = BallReading([*told, *reading.jet[len(told) :]][: order + 1], undefined)
        found.append(reading)
    return found


def _same(value: Num) -> Num:
    return value


_LEAVES = frozenset({"variable", "number", "ball"})


def _leaf(step: Sequence[Any], places: dict[str, Num], order: int, moving: tuple[str, ...], lift: Any) -> BallReading | None:
    """A step that rests on no other one."""
    head = step[0]
    rest = [lift(arb(0))] * order
    if head == "variable":
        if step[1] not in places:
            raise BadProgram(f"no place for {step[1]}")
        return BallReading([places[step[1]], *([lift(arb(1)), *rest[1:]] if step[1] in moving and order else rest)], 0)
    if head == "number":
        exact = _parsed(step[1])
        return BallReading([rational(exact) if lift is exact_of else lift(arb(exact)), *rest], 0)
    if head == "ball":
        return BallReading([lift(arb(step[1]).union(arb(step[2]))), *rest], 0)
    if head in CONSTANTS:
        value = EXACT_CONSTANTS[head]() if lift is exact_of else lift(CONSTANTS[head]())
        return BallReading([value, *rest], 0)
    if head == "no piece":
        return None
    if head in ("true", "false"):
        return BallReading(None, 0, head == "true")
    raise BadProgram(str(head))


def _read(
    step: Sequence[Any], found: list[BallReading | None], places: dict[str, Num], order: int, moving: tuple[str, ...], lift: Any
) -> BallReading | None:
    head = step[0]
    if len(step) == 1 or head in _LEAVES:
        return _leaf(step, places, order, moving, lift)
    size = len(found)
    args: list[Any] = []
    # Said step by step and not by `any`: this is where the verifier spends its time.
    for k in step[1:2] if head == "pieces" else step[1:]:
        if not isinstance(k, int) or not 0 <= k < size:
            raise BadProgram(f"step {size}")
        args.append(found[k])
    if head == "choose":
        return _chosen(*args)
    if head in ("and", "or"):
        return _joined(head == "or", args)
    flags = Flags()
    jets: list[Jet] = []
    bare = False
    for a in args:
        if a is None:
            return None
        flags.raised |= a.flags
        bare = bare or a.jet is None
        jets.append(a.jet)
    readings: list[BallReading] = args
    if head == "not":
        held = readings[0].truth
        return BallReading(None, flags.raised, None if held is None else not held)
    if bare:
        raise BadProgram(f"step {size}")
    try:
        if head in _COMPARED:
            return BallReading(None, flags.raised, _COMPARED[head](jets[0][0]))
        jet = pieces(step, jets[0], flags) if head == "pieces" else apply(head, jets, flags)
        if order and isinstance(jet[0], Span):
            return _growing(head, BallReading(jet, flags.raised), readings)
        return BallReading(jet, flags.raised)
    except Nowhere:
        return None
    except NoExactNumber:
        # Not decided: nothing is known of the step, and of what rests on it.
        unknown = None if head in _COMPARED else [Exact(NAN)] * (order + 1)
        return BallReading(unknown, flags.raised | PARTIAL | BROKEN)


@lru_cache(4_096)
def _parsed(text: str) -> fmpq:
    q = Fraction(text)
    return fmpq(q.numerator, q.denominator)


def _growing(head: str, found: BallReading, args: list[BallReading]) -> BallReading:
    """The reading with its growth f'/f, which tells the sign of a slope where products of large and small factors drown it:
    (uv)'/(uv) = u'/u + v'/v, and exp(u)'/exp(u) = u'."""
    jet = found.jet
    assert jet is not None
    u = args[0].jet
    assert u is not None
    if head == "exp":
        found.growth = u[1]
    elif head in ("neg", "same"):
        found.growth = _growth(args[0])
    elif head in ("*", "/"):
        a, b = _growth(args[0]), _growth(args[1])
        found.growth = a + b if head == "*" else a - b
    elif head in ("sqrt", "cbrt", "^"):
        power = {"sqrt": ratio(1, 2), "cbrt": ratio(1, 3)}.get(head)
        exponent = args[1].jet if power is None else None
        if exponent is not None and exponent[1].is_zero():
            found.growth = _growth(args[0]) * exponent[0]
        elif power is not None:
            found.growth = _growth(args[0]) * of_ball(power.ball)
    if found.growth is not None and not (jet[1] > 0 or jet[1] < 0):
        slope = jet[0] * found.growth
        if slope > 0 or slope < 0:
            found.jet = [jet[0], slope, *jet[2:]]
    return found


def _growth(reading: BallReading) -> Span:
    """f'/f of a step that is positive or negative throughout; else nothing."""
    jet = reading.jet
    if reading.growth is not None:
        return span_of(reading.growth)
    if jet is None or not (jet[0] > 0 or jet[0] < 0):
        return Span(arb(0), arb(0)) if jet is not None and jet[1].is_zero() else WHOLE
    return span_of(jet[1] * jet[0].reciprocal())


def _equal(d: Num) -> bool | None:
    return True if d.is_zero() else False if d > 0 or d < 0 else None


def _not(held: bool | None) -> bool | None:
    return None if held is None else not held


_COMPARED: dict[str, Callable[[Num], bool | None]] = {
    "<": lambda d: True if d < 0 else False if d >= 0 else None,
    ">": lambda d: True if d > 0 else False if d <= 0 else None,
    "<=": lambda d: True if d <= 0 else False if d > 0 else None,
    ">=": lambda d: True if d >= 0 else False if d < 0 else None,
    "=": _equal,
    "!=": lambda d: _not(_equal(d)),
}


def _joined(decides: bool, args: list[BallReading | None]) -> BallReading | None:
    """`and`, `or`: one that decides is enough; else one without a value leaves the whole without."""
    flags, truths, lost = 0, [], False
    for a in args:
        if a is None:
            lost = True
        elif a.truth is decides and not a.flags & PARTIAL:
            return BallReading(None, 0, decides)
        else:
            flags |= a.flags
            truths.append(a.truth)
    if lost:
        return None if all(t is not None and t is not decides for t in truths) else BallReading(None, flags | PARTIAL, None)
    return BallReading(None, flags, None if None in truths else decides if decides in truths else not decides)


def _chosen(condition: BallReading | None, taken: BallReading | None, other: BallReading | None) -> BallReading | None:
    if condition is None:
        return None
    if condition.truth is not None:
        branch = taken if condition.truth else other
        return None if branch is None else BallReading(branch.jet, branch.flags | condition.flags)
    flags = condition.flags | BROKEN
    if taken is None or other is None:
        left = taken or other
        return None if left is None else BallReading(left.jet, left.flags | flags | PARTIAL)
    if taken.jet is None or other.jet is None:
        raise BadProgram("choose")
    if isinstance(taken.jet[0], Exact):
        return BallReading([Exact(NAN)] * len(taken.jet), flags | PARTIAL)
    return BallReading([union(a, b) for a, b in zip(taken.jet, other.jet, strict=True)], taken.flags | other.flags | flags)
