"""Functions of several variables in a box: that no value lies below a level, and all local minima, maxima and saddles.

Lowest values. Letters of a tree of parts (see `parts`):

    a   no value on the part lies below the level, or there is none: by the enclosure; on that face of the part to which a slope of one sign
        leads; by the mean value form, or Taylor's formula of second order; or, where the matrix of second derivatives is positive
        definite, by the tangent plane at a place c: f(y) >= f(c) + f'(c) (y - c)
    m   a little beyond the part there are lower values than on it: the function is continuous there and rises throughout along some
        variable. Over all such parts together the least value is taken, so it lies on another part.
    o   some condition does not hold anywhere on the part

    b   as a, of the function itself where there are conditions

Under conditions g <= 0 the letter a is read for f + (sum of l g) with multipliers l >= 0, which is nowhere above f where they hold (weak
duality: Nocedal and Wright, chapter 12.9); of a condition g = 0 the multiplier may have either sign.

Extremes. On the box and on each of its faces the slopes along it are a system (see `systems`), of which all zeros are known. What a zero
is follows from the signs of the slopes into the box and of the second derivatives along the face (second derivative test: J. Nocedal,
S. J. Wright, "Numerical Optimization", 2nd ed., theorems 2.4 and 12.6). A letter n holds of a part on which the function is continuous
and rises, or falls, throughout along some variable, also in kinks.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from itertools import product
from typing import Any

from flint import arb, arb_mat, fmpq

from .cover import BOX_BITS, PLACE_BITS, Unproven, ball, between, bits, fraction
from .evaluator import BallReading, run
from .exact import BITS, NoExactNumber, rational
from .mixed import mixed_derivative
from .parts import Part, Side, balls_of, hull_of, inside, outside, part_of, parts, span_ball, window_of, within
from .span import of_ball, span_of
from .systems import MOST_BOXES, Equations, Places

STEPS = 5  # of Newton's method, towards the place of a tangent plane
SLACK = Fraction(1, 2**200)  # of its size, by which a value may lie beyond a level: far below the last digit that is said
THICK = Fraction(1, 2**220)
ROOM = Fraction(1, 2**40)
MOST_VARIABLES = 10


class SlopeField:
    """A function of several variables, read through its program. sign: -1 turns it upside down."""

    def __init__(self, program: Any, names: list[str], sign: int = 1) -> None:
        self.program, self.names, self.sign, self.count = program, names, sign, 0
        if not 0 < len(names) <= MOST_VARIABLES or len(set(names)) < len(names):
            raise Unproven("not a function of several variables")

    def read(self, places: Places, order: int = 0, along: str | tuple[str, ...] | None = None) -> BallReading | None:
        return run(self.program, places, order, along)[-1]

    def jets(self, places: Places, names: list[str], order: int = 1) -> list[list[Any]] | None:
        """The Taylor coefficients along each variable; None where the function may jump, or where derivatives of that order are not known.
        The first ones hold all difference quotients."""
        found = [self.read(places, order, n) for n in names]
        if any(f is None or not (f.continuous if order < 2 else f.smooth) or f.jet is None for f in found):
            return None
        jets = [[v * self.sign for v in f.jet] for f in found]  # type: ignore[union-attr]
        return jets if all(v.is_finite() for jet in jets for v in jet) else None

    def slopes(self, places: Places, names: list[str]) -> list[Any] | None:
        """Enclosures of all difference quotients along some variables; None where the function may jump."""
        jets = self.jets(places, names)
        return None if jets is None else [jet[1] for jet in jets]

    def curvature(self, places: Places, names: list[str]) -> list[list[Any]] | None:
        """The matrix of second derivatives; None where it is not known."""
        jets = self.jets(places, names, 2)
        return None if jets is None else self._matrix(places, names, jets)

    def _matrix(self, places: Places, names: list[str], jets: list[list[Any]]) -> list[list[Any]] | None:
        found = [[2 * jet[2] for _ in names] for jet in jets]
        for i, a in enumerate(names):
            for j, b in enumerate(names[:i]):
                both = mixed_derivative(self.program, places, a, b)
                if both is None:
                    # By the Taylor coefficients along x, along y and along both.
                    here = self.read(places, 2, (a, b))
                    if here is None or here.jet is None or not here.jet[2].is_finite():
                        return None
                    both = here.jet[2] - (jets[i][2] + jets[j][2]) * self.sign
                found[i][j] = found[j][i] = both * self.sign
        return found

    # ------------------------------------------------------------ no value below a level

    def keeps_above(self, part: Part, level: Any) -> bool:
        """Whether no value on a part lies below the level, or there is none."""
        return self.keeps_above_by_slopes(part, level) or self.keeps_above_by_curvature(part, level)

    def keeps_above_by_slopes(self, part: Part, level: Any) -> bool:
        """The same by values and slopes alone."""
        self.counted()
        with bits(BOX_BITS):
            held = self._led(part, level, 1)
            if not isinstance(held, tuple):
                return held
            places, free, jets = held
            middle = {n: x.mid() for n, x in places.items()}
            value = self.value(middle)
            if value is None:
                return False
            linear = value + sum((jet[1] * (places[n] - middle[n]) for n, jet in zip(free, jets, strict=True)), arb(0))
            return bool(linear.lower() >= level)

    def keeps_above_by_curvature(self, part: Part, level: Any) -> bool:
        """The same by second derivatives: Taylor's formula around the middle, or a tangent plane."""
        self.counted()
        with bits(BOX_BITS):
            held = self._led(part, level, 2)
            if not isinstance(held, tuple):
                return held
            places, free, jets = held
            bent = self._matrix(places, free, jets)
            middle = {n: x.mid() for n, x in places.items()}
            at = self.jets(middle, free)
            if bent is None or at is None:
                return False
            away = [places[n] - middle[n] for n in free]
            total = at[0][0] + sum((jet[1] * d for jet, d in zip(at, away, strict=True)), arb(0))
            for i, d in enumerate(away):
                total = total + bent[i][i] * arb(0).union(d.upper() ** 2) / 2
                total = total + sum((bent[i][j] * d * away[j] for j in range(i)), arb(0))
            if total.lower() >= level:
                return True
            return definite(bent) == "minimum" and self._tangent(places, free, bent, level)

    def _led(self, part: Part, level: Any, order: int) -> bool | tuple[Places, list[str], list[Any]]:
        """The face of a part to which slopes of one sign lead, what is free on it, and the Taylor coefficients along that; or at once
        whether the level is kept."""
        sides = dict(zip(self.names, part, strict=True))
        places = {n: span_ball(side) for n, side in sides.items()}
        while True:
            found = self.read(places)
            if found is None or self._high_enough(found, level) or self._nearly(found, level, places):
                return True
            free = [n for n, x in places.items() if not x.is_exact()]
            jets = self.jets(places, free, order) if free and found.continuous else None
            if jets is None:
                return False
            # Where it never falls along a variable the least values are at its lower end.
            slopes = {n: jet[1] for n, jet in zip(free, jets, strict=True)}
            led = {n: _end(places[n], sides[n], s >= 0) for n, s in slopes.items() if s >= 0 or s <= 0}
            if not led:
                return places, free, jets
            places = {**places, **led}

    def _high_enough(self, found: BallReading, level: Any) -> bool:
        return found.jet is not None and found.jet[0].is_finite() and bool((found.jet[0] * self.sign).lower() >= level)

    def _nearly(self, found: BallReading, level: Any, places: Places) -> bool:
        """By spans, whose ends are not rounded as coarsely as those of balls, where a ball falls short by that alone."""
        if found.jet is None or not found.jet[0].is_finite():
            return False
        low = (found.jet[0] * self.sign).lower()
        if not low + found.jet[0].rad() * arb(2) ** -20 >= level:
            return False
        spans = self.read({n: of_ball(x) for n, x in places.items()})
        if spans is None or spans.jet is None:
            return spans is None
        span = span_of(spans.jet[0]) if self.sign > 0 else -span_of(spans.jet[0])
        return span.low is not None and bool(span.low >= level)

    def value(self, places: Places) -> Any:
        found = self.read(places)
        good = found is not None and found.defined and found.jet is not None and found.jet[0].is_finite()
        return found.jet[0] * self.sign if good else None  # type: ignore[union-attr,index]

    def _tangent(self, places: Places, free: list[str], bent: list[list[Any]], level: Any) -> bool:
        """Whether a tangent plane, below which a convex function never comes, keeps above the level."""
        with bits(PLACE_BITS):
            centre = {n: x.mid() for n, x in places.items()}
            steep = arb_mat([[v.mid() for v in row] for row in bent])
            for _ in range(STEPS):
                jets = self.jets(centre, free, 2)
                if jets is None:
                    return False
                near = self._matrix(centre, free, jets)
                matrix = steep if near is None else arb_mat([[v.mid() for v in row] for row in near])
                try:
                    step = matrix.solve(arb_mat([[jet[1].mid()] for jet in jets]))
                except ZeroDivisionError:
                    return False
                for k, n in enumerate(free):
                    centre[n] = _held(centre[n] - step[k, 0].mid(), places[n])
            at = self.jets(centre, free)
            if at is None:
                return False
            plane = at[0][0] + sum((jet[1] * (places[n] - centre[n]) for n, jet in zip(free, at, strict=True)), arb(0))
            return bool(plane.lower() >= level)

    def counted(self) -> None:
        self.count += 1
        if self.count > MOST_BOXES:
            raise Unproven("more boxes than may be checked")


def _end(x: Any, side: Side, lower: bool) -> Any:
    """An end of a side as a number, outside of it by less than the ball around it, whose radius is rounded coarsely."""
    with bits(PLACE_BITS):
        end = ball(side[0] if lower else side[1])
    return max(x.lower(), end.lower()) if lower else min(x.upper(), end.upper())


def _held(x: Any, side: Any) -> Any:
    """The number of a side that is nearest to x."""
    return side.lower() if x < side.lower() else side.upper() if x > side.upper() else x.mid()


def definite(matrix: list[list[Any]]) -> str:
    """minimum: positive definite; maximum: negative definite; saddle: of both signs; empty where that is not shown."""
    minors = [arb_mat([row[:k] for row in matrix[:k]]).det() for k in range(1, len(matrix) + 1)]
    if all(m > 0 for m in minors):
        return "minimum"
    if all((m < 0) if k % 2 else (m > 0) for k, m in enumerate(minors, 1)):
        return "maximum"
    on = [matrix[k][k] for k in range(len(matrix))]
    up, down = any(v > 0 for v in on), any(v < 0 for v in on)
    pairs = [(i, j) for i in range(len(on)) for j in range(i)]
    mixed = any(matrix[i][i] * matrix[j][j] - matrix[i][j] * matrix[j][i] < 0 for i, j in pairs)
    return "saddle" if (up and down) or mixed else ""


def level_of(q: Fraction) -> Any:
    """A level, lower by what does not count."""
    return ball(q - SLACK * max(abs(q), Fraction(1))).lower()


class Conditions:
    """What must hold of a place besides: programs that must be at most zero, less than zero, or zero, each with a multiplier."""

    def __init__(self, said: Any, names: list[str]) -> None:
        self.told = [(program, str(word)) for program, word, _ in said]
        self.multipliers = [fraction(m) for _, _, m in said]
        self.names = names
        signed = zip(self.told, self.multipliers, strict=True)
        if any(word not in ("<=", "<", "=") or (m < 0 and word != "=") for (_, word), m in signed):
            raise Unproven("no such condition")

    def joined(self, program: list[Any], sign: int) -> list[Any]:
        """The program of a function with the conditions, times their multipliers, added to it: f + l g, or f - l g where the highest
        value is asked for."""
        found = list(program)
        for (condition, _), multiplier in zip(self.told, self.multipliers, strict=True):
            if multiplier:
                last, offset = len(found) - 1, len(found)
                found += [[step[0], *(_moved(part, offset) for part in step[1:])] for step in condition]
                found += [["number", str(multiplier)], ["*", len(found) - 1, len(found)]]
                found.append(["+" if sign > 0 else "-", last, len(found) - 1])
        return found

    def nowhere(self, part: Part) -> bool:
        """Whether the function has no value throughout a part."""
        with bits(BOX_BITS):
            places = {n: span_ball(side) for n, side in zip(self.names, part, strict=True)}
            for program, word in self.told:
                found = run(program, places)[-1]
                if found is None or (found.jet is not None and not _may_hold(found.jet[0], word)):
                    return True
        return False

    def met(self, at: list[Fraction]) -> bool:
        """Whether all conditions hold at a place."""
        exact = {n: rational(fmpq(v.numerator, v.denominator)) for n, v in zip(self.names, at, strict=True)}
        near = {n: ball(v) for n, v in zip(self.names, at, strict=True)}
        return all(self._holds_at(program, word, exact if word == "=" else near) for program, word in self.told)

    def _holds_at(self, program: Any, word: str, places: Places) -> bool:
        with bits(BITS if word == "=" else PLACE_BITS):
            here = run(program, places)[-1]
            return here is not None and here.defined and here.jet is not None and _holds(here.jet[0], word)


def _may_hold(value: Any, word: str) -> bool:
    """Whether a number may be zero, or below zero, as a condition asks."""
    if word == "=":
        return not (value > 0 or value < 0)
    return not (value > 0 or (word == "<" and value >= 0))


def _holds(value: Any, word: str) -> bool:
    try:
        return bool(value.is_zero()) if word == "=" else bool(value < 0 or (word == "<=" and value <= 0))
    except NoExactNumber:
        return False


def _moved(part: Any, offset: int) -> Any:
    """What a step names, in a program that stands further on; texts and tables stay."""
    return part + offset if isinstance(part, int) else part


def lowest(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> tuple[list[bool], bool, int, list[str]]:
    """The lowest (highest) value of a box: every row a place where it is taken, up to the interval; whether that holds; boxes; faults."""
    names = [str(n) for n in certificate["variables"]]
    sign = 1 if certificate["claim"] == "lowest of several" else -1
    field, conditions = SlopeField(certificate["formula"], names, sign), Conditions(certificate.get("conditions", []), names)
    window = window_of(certificate["window"])
    lows, highs = zip(*(sorted(sign * v for v in between(row, "value", row["value_interval"])) for row in rows), strict=True)
    level = level_of(max(lows))
    bounded = SlopeField(conditions.joined(certificate["formula"], sign), names, sign)
    gradient = Gradient(field, names, hull_of(window), {}, {})
    holds: dict[str, Callable[[Part], bool]] = {
        "a": lambda part: bounded.keeps_above(part, level), "b": lambda part: field.keeps_above(part, level), "o": conditions.nowhere,
        "m": lambda part: not conditions.told and gradient.leads_away(part),
    }  # fmt: skip
    for letter, part in parts(certificate["parts"], gradient.hull):
        if not holds[letter](part):
            raise Unproven(f"'{letter}' does not hold at {', '.join(f'{float(a):.6g}' for a, _ in part)}")
    ends = balls_of(window)
    proven, faults = [], []
    for row, place, high in zip(rows, certificate["places"], highs, strict=True):
        at = tuple((fraction(v), fraction(v)) for v in place)
        with bits(PLACE_BITS):
            places = {n: ball(v) for n, (v, _) in zip(names, at, strict=True)}
            value = field.value(places)
            right = row.get("what") in (None, "minimum" if sign > 0 else "maximum")
            near = right and all(_next_to(row, n, v, side) for n, (v, _), side in zip(names, at, ends, strict=True))
            held = near and inside(at, ends) and value is not None and bool(value.upper() <= ball(high).upper())
        held = held and conditions.met([v for v, _ in at])
        proven.append(held)
        if not held:
            faults.append(f"the value is not taken at {', '.join(f'{n} = {row[n]}' for n in names)}")
    return proven, all(proven), bounded.count + field.count + gradient.count, faults


def _next_to(row: dict[str, Any], name: str, place: Fraction, side: tuple[Any, Any]) -> bool:
    """Whether a row says the place, and holds it in the interval that it gives, if it gives one."""
    known = (row.get("intervals") or {}).get(name)
    if known is not None and not fraction(known[0]) <= place <= fraction(known[1]):
        return False
    return bool(abs(ball(fraction(row[name]) - place)) <= (side[1] - side[0]) * arb(2) ** -30)


# ---------------------------------------------------------------- minima, maxima and saddles


class Gradient(Equations):
    """The slopes of a function along the free variables of a face, as equations. held: the place of the face across the others."""

    def __init__(self, field: SlopeField, free: list[str], hull: Part, held: Places, exactly: Places) -> None:
        super().__init__([field.program] * len(free), free)
        self.field, self.hull, self.held, self.exactly = field, hull, held, exactly

    def empty(self, part: Part) -> bool:
        """As of any system, on a little more than the part: a kink on the edge of two parts lies inside of both."""
        return super().empty(self.wider(part))

    def leads_away(self, part: Part) -> bool:
        """Whether next to every place of a part, in the box, there are lower values: by a slope that does not lead to its edge."""
        self.counted()
        sides = zip(part, self.hull, strict=True)
        with bits(BOX_BITS):
            slopes = self.field.slopes(self.places(self.wider(part)), self.names)
        return slopes is not None and any(
            (s > 0 and a > low) or (s < 0 and b < high) for s, ((a, b), (low, high)) in zip(slopes, sides, strict=True)
        )

    def wider(self, part: Part) -> Part:
        """A little more than a part, as far as it lies in the box."""
        return tuple(
            (max(a - (b - a) * ROOM, low), min(b + (b - a) * ROOM, high)) for (a, b), (low, high) in zip(part, self.hull, strict=True)
        )

    def places(self, part: Part) -> Places:
        return {**super().places(part), **self.held}

    def exact_places(self, part: Part) -> Places:
        return {**super().exact_places(part), **self.exactly}

    def nowhere(self, places: Places) -> bool:
        """Whether one of the equations has no value, or no zero, throughout a box."""
        if self.field.read(places) is None:
            return True
        slopes = self.field.slopes(places, self.names)
        return slopes is not None and any(bool(s > 0 or s < 0) for s in slopes)

    def values(self, places: Places) -> list[Any] | None:
        return self.field.slopes(places, self.names)

    def slopes(self, places: Places) -> list[list[Any]] | None:
        return self.field.curvature(places, self.names)

    def solved_by(self, part: Part) -> bool:
        """Whether a part lies where an equation holds by itself."""
        if any(a != b for a, b in part):
            return False
        with bits(BITS):
            found = [self.field.read(self.exact_places(part), 1, n) for n in self.names]
            return all(f is not None and f.smooth and f.jet is not None and f.jet[1].is_zero() for f in found)


@dataclass(frozen=True)
class Candidate:
    """A place where all slopes along a face vanish. what: minimum, maximum, saddle, "" (none of them) or None (not known)."""

    face: BoxFace
    part: Part  # of the free variables, as narrow as is known
    what: str | None


class BoxFace:
    """The box, or one of its faces: "-" in `text` for a free variable, 0 and 1 where it is held at its lower or upper end."""

    def __init__(self, field: SlopeField, window: list[tuple[Any, Any]], text: str) -> None:
        self.field, self.text = field, text
        names = field.names
        self.free = [n for n, t in zip(names, text, strict=True) if t == "-"]
        self.ends = balls_of(window)
        ends = dict(zip(names, self.ends, strict=True))
        self.window = [ends[n] for n in self.free]
        self.hull = tuple(side for side, t in zip(hull_of(window), text, strict=True) if t == "-")
        self.exactly = {n: end[int(t)] for n, end, t in zip(names, window, text, strict=True) if t != "-"}
        self.at = {n: ends[n][int(t)] for n, t in zip(names, text, strict=True) if t != "-"}
        # A thin layer of the box: what holds on it holds beside the face too.
        with bits(PLACE_BITS):
            thick = {n: (high - low) * ball(THICK) for n, (low, high) in ends.items()}
            ways = {n: 1 if t == "0" else -1 for n, t in zip(names, text, strict=True) if t != "-"}
            self.layer = {n: x.union(x + thick[n] * ways[n]) for n, x in self.at.items()}
        self.ways = ways
        self.gradient = Gradient(field, self.free, self.hull, self.at, self.exactly) if self.free else None

    def candidates(self, said: dict[str, Any]) -> tuple[list[Candidate], bool, bool]:
        """All places, whether the face is settled, and whether the function has values all over it."""
        if self.gradient is None:
            with bits(PLACE_BITS):
                found = self.field.read(self.layer)
            return [Candidate(self, (), self.what(()))], True, found is not None and found.continuous
        alone = [part_of(box) for box in said["alone"]]
        if not all(self.gradient.one_inside(box) for box in alone):
            raise Unproven("a box that is not shown to hold exactly one place")
        settled = whole = True
        for letter, part in parts(said["parts"], self.hull):
            if letter == "n":
                if not self.gradient.empty(part):
                    raise Unproven(f"'n' does not hold at {', '.join(f'{float(a):.6g}' for a, _ in part)}")
                with bits(BOX_BITS):
                    found = self.field.read(self.gradient.places(part))
                whole = whole and found is not None and found.continuous
            else:
                settled = settled and letter == "k" and any(within(self.gradient.wider(part), box) for box in alone)
        places = []
        for box in alone:
            part = self.gradient.closer(box)
            if outside(part, self.window):
                continue
            exact = self._exact(part)
            within_it = inside(exact or part, self.window)
            settled = settled and within_it
            places.append(Candidate(self, exact or part, self.what(part) if within_it else None))
        return places, settled, whole

    def _exact(self, part: Part) -> Part | None:
        """The place in plain fractions, where these solve the equations exactly."""
        plain = tuple((q, q) for q in (((a + b) / 2).limit_denominator(1000) for a, b in part))
        if not within(plain, part):
            return None
        try:
            assert self.gradient is not None
            return plain if self.gradient.solved_by(plain) else None
        except NoExactNumber:
            return None

    def what(self, part: Part) -> str | None:
        """What a place is, by the slopes into the box and the second derivatives along the face."""
        with bits(PLACE_BITS):
            room = [(b - a) + THICK * max(abs(a), abs(b), Fraction(1)) for a, b in part]
            wide = tuple((a - r, b + r) for (a, b), r in zip(part, room, strict=True))
            places = {**{n: span_ball(side) for n, side in zip(self.free, wide, strict=True)}, **self.layer}
            inward = self.field.slopes(places, list(self.ways))
            bent = self.field.curvature(places, self.free) if self.free else []
            if inward is None or bent is None or any(s.contains(0) for s in inward):
                return None
            signs = {bool(s * self.ways[n] > 0) for n, s in zip(self.ways, inward, strict=True)}
            curved = definite(bent) if bent else ""
            if not signs:
                return curved or None
            way = "" if len(signs) > 1 else "minimum" if True in signs else "maximum"
            if not way or not bent:
                return way
            return None if not curved else way if curved == way else ""

    def value(self, part: Part) -> Any:
        """An enclosure of the value at the place in a part."""
        with bits(PLACE_BITS):
            middle = {**self.at, **{n: ball((a + b) / 2) for n, (a, b) in zip(self.free, part, strict=True)}}
            places = {**self.at, **{n: span_ball(side) for n, side in zip(self.free, part, strict=True)}}
            value, slopes = self.field.value(middle), self.field.slopes(places, self.free)
            if value is None or slopes is None:
                raise Unproven("a place without a value")
            return value + sum((s * (places[n] - middle[n]) for n, s in zip(self.free, slopes, strict=True)), arb(0))

    def exact_value(self, part: Part) -> Any:
        """The value at a place that is known exactly; None where it is not decided."""
        if any(a != b for a, b in part):
            return None
        with bits(BITS):
            plain = {n: rational(fmpq(a.numerator, a.denominator)) for n, (a, _) in zip(self.free, part, strict=True)}
            found = self.field.read({**plain, **self.exactly})
            return found.jet[0] if found is not None and found.defined and found.jet is not None else None


def extremes(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> tuple[list[bool], bool, int, list[str]]:
    """For each row whether it is what it says; whether there are no others; boxes; what did not hold."""
    field = SlopeField(certificate["formula"], [str(n) for n in certificate["variables"]])
    window = window_of(certificate["window"])
    kinds = frozenset(certificate["kinds"])
    said = {str(f["face"]): f for f in certificate["faces"]}
    candidates: list[Candidate] = []
    settled = whole = True
    count = 0
    for fixed in product("-01", repeat=len(field.names)):
        face = BoxFace(field, window, "".join(fixed))
        if face.text not in said and face.free:
            settled = whole = False
            continue
        found, done, valued = face.candidates(said.get(face.text, {}))
        candidates += found
        settled, whole = settled and done, whole and valued
        count += face.gradient.count if face.gradient is not None else 1
    left = list(range(len(candidates)))
    proven, faults = [], []
    for row in rows:
        try:
            mine = next((k for k in left if _fits(candidates[k], row, candidates if settled and whole else None)), None)
        except Unproven:
            mine = None
        proven.append(mine is not None)
        if mine is None:
            faults.append(f"no {row.get('what')} of its own at {', '.join(f'{n} = {row[n]}' for n in field.names)}")
        else:
            left.remove(mine)
    complete = settled and all(proven) and not any(candidates[k].what is None or candidates[k].what in kinds for k in left)
    return proven, complete, count, faults


def _fits(found: Candidate, row: dict[str, Any], all_of_them: list[Candidate] | None) -> bool:
    """Whether a row tells of a place. all_of_them: of none may the value lie beyond that of an `overall` row; None: not known."""
    face = found.face
    if found.what is None or found.what != row["what"]:
        return False
    with bits(PLACE_BITS):
        sides = dict(zip(face.free, found.part, strict=True))
        for name in face.field.names:
            low, high = between(row, name, row["intervals"][name])
            if name in sides:
                if not (low <= sides[name][0] and sides[name][1] <= high):
                    return False
            elif low == high:
                if not (face.exactly[name] - rational(fmpq(low.numerator, low.denominator))).is_zero():
                    return False
            elif not (ball(low) <= face.at[name] <= ball(high)):
                return False
        low, high = between(row, "value", row["value_interval"])
        if low == high:
            with bits(BITS):
                exact = face.exact_value(found.part)
                if exact is None or not (exact - rational(fmpq(low.numerator, low.denominator))).is_zero():
                    return False
        else:
            value_ball = face.value(found.part)
            if not (value_ball >= ball(low).lower() and value_ball <= ball(high).upper()):
                return False
        if not row.get("overall"):
            return True
        if all_of_them is None or row["what"] == "saddle":
            return False
        sign = 1 if row["what"] == "minimum" else -1
        level = level_of(sign * (low if sign > 0 else high))
        return all(bool((c.face.value(c.part) * sign).lower() >= level) for c in all_of_them)


__all__ = ["Conditions", "BoxFace", "SlopeField", "Gradient", "extremes", "lowest"]
