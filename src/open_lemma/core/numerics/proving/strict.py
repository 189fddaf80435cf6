"""What a formula is at a place that is known exactly, or as a narrow ball: the value that it takes there itself, or none.

A ball around the place where a part of a formula vanishes cannot tell on which side of zero that part lies. Here such parts are found, and
each is taken to be what it is at the very place (see `certificate.cover.Point`), so that sqrt(x^2 - 2) is 0 at sqrt(2), floor(x) is 3 at 3,
and 1/x has no value at 0. No limit from a side ever stands in for a value.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from ...certificate.cover import Boxes, Point, Unproven, exact_place
from ...certificate.evaluator import BallReading, run
from ...certificate.exact import BITS, Exact, NoExactNumber
from ...certificate.functions import BadProgram
from ...certificate.program import NotPlain, program_of
from ...formula.ball import from_fraction, precision
from ...formula.certain import Certain, decimal_interval, fraction_text, nearest_double
from ...formula.exact import from_sympy, rational
from ...formula.nodes import Formula, Given, expanded
from ...formula.tape import Tape
from ..roots.isolation import exact_candidates

DIGITS = 45  # of the numbers between which a place is said to lie
_BITS = 256
Json = dict[str, Any]


@dataclass(frozen=True)
class Spot:
    """A place: the tightest ball that is known of it, the exact place where one is known, and whether it is there for being a root."""

    ball: Any
    exact: Formula | None = None
    root: bool = False


def spot_of(place: Formula) -> Spot:
    """A place given as a formula without variables: a number, a closed form, or a value that lies in an interval."""
    with precision(_BITS):
        ball = Tape([place], []).ball()[0]
    return Spot(ball, None if isinstance(expanded(place), Given) else place)


class Places:
    """The places of one formula of one variable. Raises NotPlain where the formula has no proof."""

    def __init__(self, formula: Formula, variable: str, level: Any = None, derivative: int = 0) -> None:
        self.program = program_of(formula)
        self.variable = variable
        self.boxes = Boxes(self.program, variable, level, derivative)
        self.critical = critical_steps(self.program)

    def identity(self, spot: Spot, said: Json | None = None) -> tuple[Json, list[list[Any]], tuple[Fraction, Fraction]]:
        """How a place is said (as `said`, a number, a formula, or the zero of a step), the steps that are known there, and between which
        numbers it lies."""
        known, at = self._known(spot.ball), outward(spot.ball)
        if said is not None:
            return said, self._shown(said, known), _tight(said, at)
        for candidate in _candidates(spot):
            held = self._shown(candidate, known)
            if spot.root and not self._shown(candidate, [[len(self.program) - 1, "0"]]):
                continue  # near it, but not it
            if len(held) == len(known):
                return candidate, held, _tight(candidate, at)
        ends = [str(v) for v in at]
        for step, level in [*known, [len(self.program) - 1, "0"]]:
            try:
                Point(self.boxes, {"is": {"zero": [step, level]}, "at": ends, "near": ends, "known": [[step, level]]})
            except (Unproven, BadProgram, NoExactNumber):
                continue
            return {"zero": [step, level]}, [[step, level]], at
        for candidate in _candidates(spot)[:1] if spot.exact is not None else []:
            return candidate, self._shown(candidate, known), _tight(candidate, at)
        middle = (at[0] + at[1]) / 2
        return {"number": str(middle)}, [], (middle, middle)

    def value(self, spot: Spot) -> Certain | None:
        """The value that the formula itself takes at a place; None where it has none. Not proven where that is not known."""
        reading, exact = self._read(spot)
        number = exact.jet[0] if exact is not None and exact.defined and exact.jet is not None else None
        return _certain(reading, number)

    def holds(self, spot: Spot) -> bool | None:
        """Whether a condition holds at a place: False where it has no value, None where that is not known."""
        reading, exact = self._read(spot)
        if reading is None:
            return False
        if reading.defined and reading.truth is not None:
            return reading.truth
        return exact.truth if exact is not None and exact.defined else None

    def _read(self, spot: Spot) -> tuple[BallReading | None, BallReading | None]:
        """The program at a place by balls, with what is known there, and by exact numbers where it is exact."""
        said, known, at = self.identity(spot)
        if spot.exact is None and not known and "number" in said and not spot.ball.is_exact():
            return self._on_ball(spot.ball), None  # nothing breaks here
        try:
            ends = [str(v) for v in at]
            point = Point(self.boxes, {"is": said, "at": ends, "near": ends, "known": known})
        except (Unproven, BadProgram, NoExactNumber):
            return self._on_ball(spot.ball), None
        if point.exact is None:
            return point.reading(), None
        with precision(BITS):
            try:
                return point.reading(), self.boxes.read(point.exact)
            except NoExactNumber:
                return point.reading(), None

    def _on_ball(self, ball: Any) -> BallReading | None:
        with precision(_BITS):
            return self.boxes.read(ball)

    def _known(self, place: Any) -> list[list[Any]]:
        """The steps that may break here, with the level that they reach."""
        with precision(_BITS):
            readings = run(self.program, {self.variable: place})
        found = []
        for step, levels in self.critical.items():
            reading = readings[step]
            if reading is None or reading.jet is None or not reading.jet[0].is_finite() or self.program[step][0] == "number":
                continue
            found += [[step, str(level)] for level in levels(reading.jet[0])]
        return found

    def _shown(self, said: Json, known: list[list[Any]]) -> list[list[Any]]:
        """Of what seems to be known at an exact place, that which is exactly so."""
        place = exact_place(said)
        held = []
        for step, level in known:
            part = Boxes([*self.program[: step + 1], ["number", level], ["-", step, step + 1]], self.variable)
            if place is not None and part.zero(place):
                held.append([step, level])
        return held


def _certain(reading: BallReading | None, exact: Exact | None) -> Certain | None:
    if reading is None:
        return None
    if exact is not None and exact.q is not None:
        q = Fraction(int(exact.q.p), int(exact.q.q))
        return Certain(float(q), q, (fraction_text(q, 20, -1), fraction_text(q, 20, 1)), True)
    ball = reading.jet[0] if reading.jet is not None else None
    if ball is None or not ball.is_finite():
        return Certain(float("nan"), None, None, False)
    if exact is not None and exact.is_zero():
        return Certain(0.0, Fraction(0), ("0", "0"), reading.defined)
    sure = reading.defined and float(ball.rad()) <= 1e-15 * max(1.0, abs(float(ball.mid())))
    value = 0.0 if ball.contains(0) and sure else nearest_double(ball)
    return Certain(value, None, decimal_interval(ball), sure)


# ---------------------------------------------------------------- helpers


def said_place(place: Formula) -> Json:
    """A place as a number where it is rational, else by its formula. Raises NotPlain."""
    exact = rational(place)
    return {"number": str(exact)} if exact is not None else {"formula": program_of(place)}


def _candidates(spot: Spot) -> list[Json]:
    """Exact places within a ball, plain numbers first."""
    if spot.exact is not None:
        try:
            return [said_place(spot.exact)]
        except NotPlain:
            return []
    with precision(_BITS):
        if float(spot.ball.rad()) > 1e-20 * max(1.0, abs(float(spot.ball.mid()))):
            return []
        found = []
        for candidate in exact_candidates(spot.ball):
            try:
                found.append(said_place(from_sympy(candidate)))
            except (NotPlain, ValueError, NotImplementedError):
                continue
    return found


def outward(ball: Any) -> tuple[Fraction, Fraction]:
    """Two numbers with a moderate number of digits between which a ball lies."""
    low, high = decimal_interval(ball, DIGITS)
    return Fraction(low), Fraction(high)


def _tight(said: Json, at: tuple[Fraction, Fraction]) -> tuple[Fraction, Fraction]:
    return (Fraction(said["number"]),) * 2 if "number" in said else at


def critical_steps(program: Sequence[Sequence[Any]]) -> dict[int, Callable[[Any], list[Any]]]:
    """The steps at which a program may break, each with the levels that a ball of its values may reach."""

    def zero(value: Any) -> list[Any]:
        return [0] if value.contains(0) else []

    def wholes(value: Any) -> list[Any]:
        low, high = int(value.lower().floor().unique_fmpz()), int(value.upper().ceil().unique_fmpz())
        return [k for k in range(low, high + 1) if value.contains(k)] if high - low < 4 else []

    found: dict[int, Callable[[Any], list[Any]]] = {}
    for step in program:
        head = step[0]
        if head in ("sqrt", "ln", "u ln u", "u^u", "log10", "log2", "abs", "sign", "cbrt"):
            found.setdefault(step[1], zero)
        elif head in ("/", "tan", "bessely", "besselj"):
            found.setdefault(step[2], zero)
        elif head in ("^", "<", ">", "<=", ">=", "=", "!="):
            found.setdefault(step[1], zero)
        elif head in ("min", "max"):
            found.setdefault(step[3], zero)
        elif head in ("asin", "acos", "within"):
            found.setdefault(step[2], zero)
            found.setdefault(step[3], zero)
        elif head == "choose":
            for branch in step[2:]:
                found.setdefault(branch, zero)
        elif head in ("floor", "ceil"):
            found[step[1]] = wholes
        elif head == "pieces":
            found[step[1]] = _at_knots([Fraction(k) for k in step[2][1:-1]])
    return found


def _at_knots(knots: list[Fraction]) -> Callable[[Any], list[Any]]:
    return lambda value: [k for k in knots if value.contains(from_fraction(k.numerator, k.denominator))]


__all__ = ["NotPlain", "Places", "Spot", "critical_steps", "outward", "said_place", "spot_of"]
