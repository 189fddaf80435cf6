"""How a formula grows towards infinity, or next to a point: enclosures of the exponent of the power that it behaves like.

With s = |x| far out, s = 1/|x - p| next to a point p, the exponent of f is s f'(s)/f(s). It is told as P + Q/ln s + s r: of s itself
(1, 0, 0), of ln s (0, 1, 0), of exp(u) far out (0, 0, u'), of a product the sum. A function whose exponent stays below some E < -1 from
s = R on has a rest of at most R |f(R)|/(-E - 1) beyond R, for f(s) <= f(R) (s/R)^E there (d ln|f| <= E d ln s, integrated).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from flint import arb

from .cover import BOX_BITS, MOST_ORDER, PLACE_BITS, Boxes, Point, ball, bits, fraction, sign_of
from .evaluator import BallReading, run
from .functions import BadProgram
from .span import WHOLE, Span, of_ball, span_of

NONE = Span(arb(0), arb(0))
ONE = Span(arb(1), arb(1))
_SMALL = ("sin", "tan", "atan", "sinh", "tanh", "erf")  # of these f(0) = 0: near 0 they behave like their argument
_LEVEL = ("atan", "tanh", "erf")  # of these u f'(u) falls from u = 2 on
_KEEPS = ("neg", "same", "abs")


Kind = tuple[Span, Span, Span]  # P, Q and r
LEVEL: Kind = (NONE, NONE, NONE)


def _times(kind: Kind, by: Span) -> Kind:
    return kind[0] * by, kind[1] * by, kind[2] * by


def _plus(a: Kind, b: Kind, way: int = 1) -> Kind:
    first, second, third = (x + (y if way > 0 else -y) for x, y in zip(a, b, strict=True))
    return first, second, third


@dataclass(frozen=True)
class Growth:
    """power, logs, rate: P, Q and r. exact: the function itself grows so; else no more than a bound of its magnitude does.
    bound: of the magnitude where the stretch begins."""

    power: Span
    logs: Span
    rate: Span
    exact: bool
    bound: Any

    @classmethod
    def of(cls, kind: Kind, exact: bool, bound: Any) -> Growth:
        return cls(*kind, exact, bound)

    @property
    def kind(self) -> Kind:
        return self.power, self.logs, self.rate


class GrowthStretch:
    """A stretch of the variable towards infinity or towards a point (not held by it), on which the steps of a program are read."""

    def __init__(
        self, boxes: Boxes, readings: Sequence[BallReading | None], start: Any, distance: Any, point: Point | None, way: int = 1
    ) -> None:
        self.boxes, self.readings, self.point = boxes, readings, point
        self.distance = distance  # a ball: how far it begins from the point, or from zero
        self.way = way  # whether s rises (1) or falls (-1) with the variable, far out
        self.here = boxes.steps(start)  # all steps where it begins
        self.around = boxes.steps(point.span(), MOST_ORDER) if point is not None else []
        self.scale = distance if point is None else 1 / distance
        self.log = Span(self.scale.log().lower(), None) if self.scale > 1 else None  # ln s on it

    def growths(self) -> list[Growth | None]:
        """How each step of the program grows towards the place; None for those of which nothing is known."""
        found: list[Growth | None] = []
        for k, step in enumerate(self.boxes.program):
            found.append(self._growth(k, step, found))
        return found

    def _growth(self, k: int, step: list[Any], found: list[Growth | None]) -> Growth | None:
        reading = self.readings[k]
        if reading is None or reading.jet is None or not reading.defined:
            return None
        value, here = span_of(reading.jet[0]), self.here[k]
        if here is None or here.jet is None or not here.jet[0].is_finite():
            return None
        start = abs(here.jet[0])
        power = self._directly(k, step, reading, value) or self._by_rule(step, found)
        # A sum that has an exponent is not zero: one part outweighs the other, which the spans of both do not tell.
        if power is not None and reading.continuous and (value > 0 or value < 0 or step[0] in ("+", "-")):
            return Growth.of(power, True, start)
        bound = self._bounded(step, found)
        if bound is not None:
            return bound
        return Growth.of(LEVEL, False, abs(value.ball()).upper()) if value.is_finite() else None

    # ------------------------------------------------------------ the function itself

    def _directly(self, k: int, step: list[Any], reading: BallReading, value: Span) -> Kind | None:
        """Of a constant, of the variable, and next to a point of whatever has derivatives there."""
        if step[0] in ("number", "ball", "pi", "e", "deg"):
            return LEVEL
        if self.point is None:
            return (ONE, NONE, NONE) if step[0] == "variable" else None
        order = self._zero(k)
        if order:
            around = self.around[k]
            assert around is not None
            assert around.jet is not None
            highest = span_of(around.jet[order])
            # f = c t^n and f' = n c' t^(n - 1) with two values of the same coefficient.
            return -(highest * highest.reciprocal() * of_ball(arb(order))), NONE, NONE
        slope = span_of(reading.jet[1]) if reading.jet is not None and len(reading.jet) > 1 and reading.continuous else WHOLE
        if slope.is_finite() and value.is_finite() and (value.ball() > 0 or value.ball() < 0):
            reach = Span(arb(0), self.distance.upper())
            size = (abs(slope.ball()) / abs(value.ball())).upper()
            return Span(-(size * reach.high).upper(), (size * reach.high).upper()), NONE, NONE
        return None

    def _zero(self, k: int) -> int:
        """The multiplicity of the zero of a step at the point; 0 where it has none, or that is not shown."""
        assert self.point is not None
        around = self.around[k]
        if self.point.levels.get(k) != 0 or around is None or not around.smooth or around.jet is None:
            return 0
        order = next((n for n in range(1, MOST_ORDER + 1) if around.jet[n].is_finite() and sign_of(around.jet[n])), 0)
        if not order or (self.point.exact is None and order > 1):
            return 0
        part = Boxes(self.boxes.program[: k + 1], self.boxes.variable)
        return order if order == 1 or part.zero(self.point.exact, 1, order - 1) else 0  # type: ignore[arg-type]

    def _by_rule(self, step: list[Any], found: list[Growth | None]) -> Kind | None:
        head = step[0]
        of = [found[k] if isinstance(k, int) else None for k in step[1:]]
        if head in ("choose", "max", "min"):
            branch = self._taken(step)
            chosen = None if branch is None else found[branch]
            return chosen.kind if chosen is not None and chosen.exact else None
        if head == "^" and len(step) == 3 and of[1] is not None and self._constant(step[2]):
            exponent = self._value(step[2])
            return _times(of[0].kind, exponent) if of[0] is not None and of[0].exact and exponent is not None else None
        if head == "exp":
            return self._of_exponential(step[1], of[0], ONE)
        if head == "^" and len(step) == 3 and self._constant(step[1]):
            base = self._value(step[1])
            return self._of_exponential(step[2], of[1], base.log()) if base is not None and base > 0 else None
        if head in ("+", "-") and len(of) == 2:
            swung = self._swung(step, of)
            if swung is not None:
                return swung
        if not of or any(g is None or not g.exact for g in (of[:1] if head == "tan" else of)):
            return None
        a: Growth = of[0]  # type: ignore[assignment]
        u = self._value(step[1])
        if u is None:
            return None
        if head in _KEEPS:
            return a.kind
        if head in ("sqrt", "cbrt"):
            part = of_ball(arb(1) / (2 if head == "sqrt" else 3))
            return _times(a.kind, part)
        if head == "ln":
            if self._is_scale(step[1]):
                return NONE, ONE, NONE
            beside = None if u > 2 else self._beside_one(step[1], found)
            # ln(1 + w) = w/c for some c between 1 and u = 1 + w, and its slope is that of w, over u.
            mean = None if beside is None else beside * u.union(ONE) * u.reciprocal()
            if mean is not None and mean.is_finite():
                return mean, NONE, NONE
            return (self.total(a) * u.log().reciprocal(), NONE, NONE) if u > 1 or (u > 0 and u < 1) else None
        if head == "u ln u" and self._is_scale(step[1]):
            return _plus(a.kind, (NONE, ONE, NONE))
        if head in ("cosh", "sinh") and (u > 1 or u < -1):
            least = u.low if u > 1 else -u.high
            steep = least.tanh() if head == "cosh" else 1 / least.tanh()
            rate = Span(steep.lower(), arb(1)) if head == "cosh" else Span(arb(1), steep.upper())
            return self._of_exponential(step[1], a, rate if u > 1 else -rate)
        if head == "1/Gamma" and u > 2 and u.low is not None:
            # Its rate is -psi(u) u', and psi rises (DLMF 5.15(i)).
            psi = Span(u.low.digamma().lower(), None if u.high is None else u.high.digamma().upper())
            return self._of_exponential(step[1], a, -psi)
        if head in _SMALL or head in _LEVEL:
            return _of_function(head, u, self.total(a))
        if len(of) != 2 or head == "tan":
            return None
        b: Growth = of[1]  # type: ignore[assignment]
        v = self._value(step[2])
        if v is None:
            return None
        if head in ("*", "/"):
            return _plus(a.kind, b.kind, 1 if head == "*" else -1)
        if head in ("+", "-"):
            mean = self._mean(u, v if head == "+" else -v, a, b)
            return None if mean is None else (mean, NONE, NONE)
        return None

    def _mean(self, u: Span, v: Span, a: Growth, b: Growth) -> Span | None:
        """The exponent (u e + v f)/(u + v) of a sum: a mean of the two with the weight v/(u + v) = 1/(1 + u/v)."""
        for p, q, one, other in ((u, v, a, b), (v, u, b, a)):
            if (p > 0 or p < 0) and (q > 0 or q < 0):
                rest = self._ratio(p, q, one, other) + ONE
                if rest < 0 or rest > 0:
                    mean = self.total(one) + (self.total(other) - self.total(one)) * rest.reciprocal()
                    if mean.low is not None or mean.high is not None:
                        return mean
        return None

    def _swung(self, step: list[Any], of: list[Growth | None]) -> Kind | None:
        """Far out, of a sum of what grows at least like s and of what is bounded, with a bounded slope, whatever its sign:
        (e u + s v')/(u + v)."""
        for one, other in ((0, 1), (1, 0)):
            u, bounded = of[one], self.readings[step[other + 1]]
            if self.point is not None or u is None or not u.exact or (of[other] is not None and of[other].exact):  # type: ignore[union-attr]
                continue
            if bounded is None or bounded.jet is None or not bounded.smooth or not self.total(u) >= 1:
                continue
            value, slope = (span_of(v) for v in bounded.jet[:2])
            if not (value.is_finite() and slope.is_finite()):
                continue
            share = (abs(value.ball()).upper() / u.bound).upper()
            if share < 1:
                weight = of_ball(1 / (1 + arb(0, 1) * share))
                change = (abs(slope.ball()).upper() * self.distance / u.bound).upper()
                return (self.total(u) + Span(-change, change)) * weight, NONE, NONE
        return None

    def _ratio(self, p: Span, q: Span, one: Growth, other: Growth) -> Span:
        """p/q of two steps that grow exactly: where it only rises or falls, from where the stretch begins."""
        plain = p * q.reciprocal()
        way = self.total(one) - self.total(other)
        first = Span((one.bound / other.bound).lower(), (one.bound / other.bound).upper())
        size = Span(first.low, None) if way >= 0 else Span(arb(0), first.high, True) if way <= 0 else None
        if size is None:
            return plain
        return size if (p > 0) == (q > 0) else -size

    def _taken(self, step: list[Any]) -> int | None:
        """The step that a choice comes to all over the stretch; None where that is open."""
        if step[0] == "choose":
            condition = self.readings[step[1]]
            return None if condition is None or condition.truth is None else int(step[2 if condition.truth else 3])
        difference = self._value(step[3])
        if difference is None or not (difference > 0 or difference < 0):
            return None
        return int(step[1 if (difference > 0) == (step[0] == "max") else 2])

    def _beside_one(self, k: int, found: list[Growth | None]) -> Span | None:
        """The exponent of w where a step is 1 + w."""
        head, *of = self.boxes.program[k]
        if head in ("+", "-") and len(of) == 2:
            for one, other in ((of[0], of[1]), (of[1], of[0])):
                plain = self.boxes.program[one][0] == "number" and fraction(self.boxes.program[one][1]) == 1
                growth = found[other]
                if plain and growth is not None and growth.exact and (head == "+" or one == of[0]):
                    return self.total(growth)
        return None

    def total(self, growth: Growth) -> Span:
        """P + Q/ln s + s r on the stretch."""
        found = growth.power
        if not growth.logs.is_zero():
            found = WHOLE if self.log is None else found + growth.logs * self.log.reciprocal()
        return found if growth.rate.is_zero() else found + growth.rate * Span(self.scale.lower(), None)

    def _of_exponential(self, k: int, growth: Growth | None, rate: Span) -> Kind | None:
        """Of what changes at a rate for each unit by which a step changes: exp(u) at 1, a^u at ln a."""
        reading, value = self.readings[k], self._value(k)
        if reading is None or reading.jet is None or value is None:
            return None
        found = span_of(reading.jet[1]) * rate * of_ball(arb(self.way))
        if self.point is None and ((found.low is not None and found.low > 0) or (found.high is not None and found.high < 0)):
            return NONE, NONE, found
        return (self.total(growth) * value * rate, NONE, NONE) if growth is not None and growth.exact else None

    def _value(self, k: int) -> Span | None:
        reading = self.readings[k]
        return span_of(reading.jet[0]) if reading is not None and reading.jet is not None and reading.continuous else None

    def _constant(self, k: int) -> bool:
        value = self._value(k)
        return value is not None and value.is_finite() and bool(self.boxes.program[k][0] != "variable") and self._level(k)

    def _level(self, k: int) -> bool:
        """Whether the variable does not come into a step."""
        step = self.boxes.program[k]
        return step[0] != "variable" and all(self._level(j) for j in step[1:] if isinstance(j, int))

    def _is_scale(self, k: int) -> bool:
        """Whether a step is s or 1/s."""
        own = self.boxes.program[k] == ["variable", self.boxes.variable]
        return own and self.log is not None and (self.point is None or not any(self.point.at))

    # ------------------------------------------------------------ bounds of the magnitude

    def _bounded(self, step: list[Any], found: list[Growth | None]) -> Growth | None:
        head = step[0]
        of = [found[k] if isinstance(k, int) else None for k in step[1:]]
        if not of or any(g is None for g in of):
            return None
        a: Growth = of[0]  # type: ignore[assignment]
        if head in _KEEPS:
            return a if not a.exact else None
        if len(of) != 2:
            return None
        b: Growth = of[1]  # type: ignore[assignment]
        if head == "*":
            return Growth.of(_plus(a.kind, b.kind), False, a.bound * b.bound)
        if head == "/" and b.exact and b.bound > 0:
            return Growth.of(_plus(a.kind, b.kind, -1), False, a.bound / b.bound)
        if head == "^" and self._constant(step[2]):
            exponent = self._value(step[2])
            if exponent is not None and exponent > 0:
                most = a.bound.upper()
                most = (most.log() * exponent.ball()).exp() if most > 0 else most
                return Growth.of(_times(a.kind, exponent), False, most)
        if head in ("+", "-"):
            highs = [self.total(g).high for g in (a, b)]
            if None not in highs:
                return Growth(Span(None, highs[0].max(highs[1])), NONE, NONE, False, a.bound + b.bound)
        return None

    # ------------------------------------------------------------ the rest

    def rest(self) -> Any:
        """A ball that holds the integral over the stretch; None where none is known."""
        growth = self.growths()[-1]
        last = self.here[-1]
        if growth is None or last is None or last.jet is None or not last.defined:
            return None
        power = growth.power if self.point is None else growth.power - Span(arb(2), arb(2))  # dx = -ds/s^2
        whole = self.total(replace(growth, power=power))
        factor = _over_rest(whole) if whole < -1 else None
        simple = power.is_finite() and power.low == -1 and power.high == -1 and growth.rate.is_zero()
        if factor is None and simple and growth.logs < -1 and self.log is not None:
            factor = _over_rest(growth.logs)  # the same with ln s in the place of s
            factor = None if factor is None else factor * self.scale.log()
        if factor is None:
            return None
        size = factor * self.distance
        return last.jet[0] * size if growth.exact else arb(0, 1) * (growth.bound * size).upper()


def _over_rest(exponent: Span) -> Any:
    """1/(-1 - E) of exponents below -1."""
    over = (-exponent - ONE).reciprocal()
    return over.ball() if over.is_finite() else None


def _of_function(head: str, u: Span, e: Span) -> Kind | None:
    program: list[list[Any]] = [["variable", "u"], [head, 0]] if head != "tan" else [["variable", "u"], ["cos", 0], ["tan", 0, 1]]
    if u.is_finite() and abs(u.ball()) < 1 and head in _SMALL:
        inside = run(program, {"u": u.union(NONE)}, 1, "u")[-1]
        steep = WHOLE if inside is None or inside.jet is None else span_of(inside.jet[1])
        if steep > 0:
            return e * steep * steep.reciprocal(), NONE, NONE  # f(u) = f'(c) u for some c between 0 and u
    reading = run(program, {"u": u}, 1, "u")[-1]
    if reading is None or reading.jet is None:
        return None
    value = span_of(reading.jet[0])
    if head in _LEVEL and u > 2 and u.low is not None:
        end = run(program, {"u": Span(u.low, u.low)}, 1, "u")[-1]
        slope = None if end is None or end.jet is None else span_of(end.jet[1]).high
        if slope is not None:
            return e * Span(arb(0), (u.low * slope).upper(), True) * value.reciprocal(), NONE, NONE
    return None


def far_out(boxes: Boxes, low: Any, high: Any) -> GrowthStretch | None:
    """The stretch from a number to an infinite end."""
    start = high if low is None else low
    if start is None or (low is None) == (high is None) or (start <= 0 if low is not None else start >= 0):
        return None
    with bits(BOX_BITS):
        readings = boxes.steps(boxes.span(low, high), 1, boxes.far(low, high))
    with bits(PLACE_BITS):
        return GrowthStretch(boxes, readings, ball(start), abs(ball(start)), None, 1 if high is None else -1)


def beside(boxes: Boxes, point: Point, side: int) -> GrowthStretch | None:
    """The stretch beside a point, up to the end of what is claimed around it."""
    start = point.low if side < 0 else point.high
    with bits(BOX_BITS):
        readings = boxes.steps(point.span(side, False), 1, point.beside[side])
    with bits(PLACE_BITS):
        distance = abs(point.ball() - ball(start))
        return GrowthStretch(boxes, readings, ball(start), distance, point) if distance > 0 else None


def exponent(program: list[list[Any]], variable: str, reach: Any) -> Span | None:
    """The exponent on [reach, infinity); None where the formula may be zero, or break, there."""
    boxes = Boxes(program, variable)
    with bits(BOX_BITS):
        try:
            readings = boxes.steps(Span(reach.lower(), None), 1)
            stretch = GrowthStretch(boxes, readings, reach, reach, None)
            found = stretch.growths()[-1]
            return stretch.total(found) if found is not None and found.exact else None
        except BadProgram:
            return None


__all__ = ["Growth", "GrowthStretch", "beside", "exponent", "far_out"]
