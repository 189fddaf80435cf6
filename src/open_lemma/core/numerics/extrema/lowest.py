"""The lowest value of a function of one variable in a window, proven by bounds.

Branch and bound: each part of the window has an enclosure of the values on it; parts whose enclosure lies above a value
that is met elsewhere hold no lowest value and are dropped, the others halved (R. E. Moore, R. B. Kearfott, M. J. Cloud,
"Introduction to Interval Analysis", SIAM 2009, ch. 11). What is left are a few tiny spans. Where the slope has one root
in such a span, that is the place, to all digits; at an end of the window the place is the end.
"""

from __future__ import annotations

import heapq
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import numpy as np
from flint import arb
from scipy import optimize

from ...formula.ball import branches, doubt, precision
from ...formula.calculus import NoDerivative, derivative
from ...formula.catalogue import minus
from ...formula.certain import certain_value, decimal_interval, nearest_double
from ...formula.domain import joints
from ...formula.nodes import Formula, Given, Number, substitute
from ...formula.tape import NoBall, Tape
from ..evidence import Evidence
from ..extended import ExtendedInterval, interval_run
from ..roots.isolation import fraction_of
from ..roots.search import NotSearchable, find_roots

BUDGET = 6_000
DESCENT = 300  # boxes after which it is gone down from the best place, again after twice as many
_BITS = 90
_TIGHT = 2.0**-44  # of the values' size: closer bounds than this end the search
WIDE = 1e-3  # of the window: a span on which the places where the lowest value may be taken are not told from each other
CLOSE = 1e-12  # of the window: how closely a place is known that was found as one
SETTLING = 1_500  # boxes, after the lowest value is known, to tell the places where it may be taken from each other
APART = 2.0**-16  # of the window: spans so narrow tell places from each other
_PLACES = 12  # more places of the same height than this are not told one by one


@dataclass(frozen=True, slots=True)
class LowPlace:
    """Where the lowest value is taken: `kind` is end, kink or turn; `interval` holds the place, `value_interval` the height."""

    x: float
    value: float
    interval: tuple[str, str]
    value_interval: tuple[str, str]
    kind: str
    evidence: Evidence
    exact: Any = None


@dataclass(frozen=True, slots=True)
class Lowest:
    """places: all that may be lowest. `unbounded`: a place next to which the values fall without bound, as far as could be seen."""

    places: list[LowPlace]
    bounds: tuple[float, float]  # the lowest value lies between them
    boxes: int
    complete: bool
    unbounded: float | None = None
    notes: list[str] = field(default_factory=list)


def lowest_value(formula: Formula, variable: str, low: Formula, high: Formula, highest: bool = False) -> Lowest:
    """The lowest (or highest) value of a function on a closed window, with every place where it is taken.

    low, high  formulas without variables, finite, low < high

    Proven: nothing in the window lies below the lower bound, and the value is taken between the bounds. Raises NotSearchable.
    """
    return _LowestSearch(minus(formula) if highest else formula, variable, low, high, highest).result()


class _LowestSearch:
    def __init__(self, formula: Formula, variable: str, low: Formula, high: Formula, highest: bool) -> None:
        self.formula, self.variable, self.ends, self.highest = formula, variable, (low, high), highest
        try:
            self.slope: Formula | None = derivative(formula, variable)
            self.tape = Tape([formula, self.slope], [variable])
        except NoDerivative:
            self.slope = None
            self.tape = Tape([formula], [variable])
        self.plain = Tape([formula], [variable])
        self.boxes = 0
        self.least_met: Any = None  # a proven upper bound of the lowest value
        self.best: float | None = None  # where it was met
        self.size = 0.0  # of the values that were met
        with precision(_BITS):
            balls = [Tape([e], []).ball()[0] for e in self.ends]
            if not all(b.is_finite() for b in balls) or not balls[0] < balls[1]:
                raise NotSearchable("the window must run from a lower to a higher finite number")
            self.low, self.high = balls[0].lower(), balls[1].upper()
        try:
            self._bounds(self.low, self.high)
        except NoBall as reason:
            raise NotSearchable("what is given by a block or a list has no bounds that could be proven") from reason
        for end in self.ends:
            value = certain_value(substitute(formula, {variable: end}))
            if value.proven and value.interval is not None:
                self._at_most(arb(value.interval[1]))

    def _bounds(self, low: Any, high: Any) -> tuple[Any, Any] | None:
        """Enclosure of the values on a span as (least, greatest); None where there is none, infinite where nothing is known."""
        place = low.union(high)
        least = greatest = None
        with precision(_BITS):
            for values in branches(lambda: self.tape.ball(place)):
                if values is None or not values[0].is_finite():
                    return arb("-inf"), arb("inf")
                value = values[0]
                if len(values) == 2 and doubt.clean and values[1].is_finite():
                    slope = values[1]
                    if slope > 0 or slope < 0:
                        # Rising or falling throughout: the ends have the extreme values.
                        ends = [self.tape.ball(e)[0] for e in (low, high)]
                        if all(e.is_finite() for e in ends):
                            value = ends[0].union(ends[1])
                    else:
                        middle = place.mid()
                        value = value.intersection(self.tape.ball(middle)[0] + slope * (place - middle))
                least = value.lower() if least is None or value.lower() < least else least
                greatest = value.upper() if greatest is None or value.upper() > greatest else greatest
        if least is None:
            return None
        if self.least_met is not None and least < self.least_met and float(greatest - least) > self.size * 2.0**-20:
            least = max(least, self._by_intervals(low, high), key=float)
        return least, greatest

    def _by_intervals(self, low: Any, high: Any) -> Any:
        """A lower bound whose rounding is finer than that of a wide ball."""
        found = []
        with precision(_BITS):
            for values in branches(lambda: interval_run(self.plain, [ExtendedInterval(low, high)])):
                bound = None if values is None else values[self.plain.results[0]].low
                found.append(arb("-inf") if bound is None else bound)
        return min(found, key=float, default=arb("-inf"))

    def _meet(self, place: Any) -> None:
        """A value that is taken: the lowest one is not above it."""
        with precision(_BITS):
            try:
                found = None
                for values in branches(lambda: self.tape.ball(place)):
                    if values is None or not values[0].is_finite():
                        return
                    top = values[0].upper()
                    found = top if found is None or top > found else found
                if found is None or doubt.partial:
                    return
            except NoBall:
                return
        self._at_most(found, place)

    def _at_most(self, found: Any, place: Any = None) -> None:
        self.size = max(self.size, abs(float(found)))
        if self.least_met is None or found < self.least_met:
            self.least_met = found
            self.best = None if place is None else float(place)

    def _descend(self, width: float) -> None:
        """From the best place that was met down to the lowest one near by, in doubles, and meet it."""
        if self.best is None or not width > 0:
            return
        ends = max(self.best - width, float(self.low)), min(self.best + width, float(self.high))
        found = optimize.minimize_scalar(
            lambda x: float(np.asarray(self.tape.numeric(_array(x))[0]).reshape(-1)[0]),
            bounds=ends,
            method="bounded",
            options={"xatol": 1e-12 * width},
        )
        if np.isfinite(found.x) and ends[0] <= found.x <= ends[1]:
            self._meet(arb(float(found.x)))

    def _tight(self, bound: float) -> bool:
        return float(self.least_met) - bound <= _TIGHT * max(self.size, 1e-290)

    def _spans(self) -> list[tuple[Any, Any]]:
        """The spans that may hold a lowest value, when the bounds are tight or the budget is spent."""
        queue: list[tuple[float, int, Any, Any]] = []
        settled: list[tuple[float, int, Any, Any]] = []  # narrow ones on which the lowest value may be taken
        order = 0

        def put(low: Any, high: Any) -> None:
            nonlocal order
            bounds = self._bounds(low, high)
            self.boxes += 1
            if bounds is None or (self.least_met is not None and bounds[0] > self.least_met):
                return
            order += 1
            heapq.heappush(queue, (float(bounds[0]), order, low, high))

        with precision(_BITS):
            for place in (self.low, self.high):
                self._meet(place)
            put(self.low, self.high)
            spread, descent, settling = float(self.high - self.low), DESCENT, SETTLING
            while queue and self.boxes < BUDGET:
                bound, _, low, high = queue[0]
                if self.least_met is not None and float(high - low) <= spread * 2.0**-60:
                    break
                if self.least_met is not None and self._tight(bound):
                    if bound > float(self.least_met) or self.boxes >= settling:
                        break
                    if float(high - low) < APART * spread:
                        settled.append(heapq.heappop(queue))
                        continue
                else:
                    settling = self.boxes + SETTLING
                heapq.heappop(queue)
                middle = ((low + high) / 2).mid()
                self._meet(middle)
                put(low, middle)
                put(middle, high)
                if self.boxes >= descent:
                    # Halving alone comes near to a value that is taken at endlessly many places, but not close to it.
                    descent *= 2
                    self._descend(float(high - low))
        queue += settled
        self.bound = min((bound for bound, *_ in queue), default=float("nan"))
        kept = [(low, high) for bound, _, low, high in queue if self.least_met is None or not bound > float(self.least_met)]
        return _joined(sorted(kept, key=lambda s: float(s[0])))

    def result(self) -> Lowest:
        spans = self._spans()
        if self.least_met is None and not spans:
            raise NotSearchable("there is no value anywhere in the window")
        top = float(self.least_met) if self.least_met is not None else float("inf")
        if self.bound == float("-inf"):
            return self._unbounded(spans)
        if self.least_met is None:
            raise NotSearchable("no value was found anywhere in the window")
        places, notes = self._told_places(spans)
        # Where a place is the one turn of its span, or an end from which the values rise, its height is the lowest itself;
        # else the height is known as well as the bounds are.
        proven = all(p.evidence == "proven" for p in places) and not notes
        flat = float(sum(high - low for low, high in spans)) > 0.02 * float(self.high - self.low)
        if flat:
            notes.append("the value is taken, as nearly as can be told, over a whole stretch")
        return Lowest(self._lowest_of(places), (self.bound, top), self.boxes, proven, None, notes)

    def _told_places(self, spans: list[tuple[Any, Any]]) -> tuple[list[LowPlace], list[str]]:
        """The places of some spans, and what is to be said of those that are not told: more than a dozen, or so many on a span that they
        cannot be told from each other."""
        if len(spans) > 1 and self._tight(self.bound):
            spread = float(self.high - self.low)
            wide = [s for s in spans if float(s[1] - s[0]) > WIDE * spread]
            # Those that lie farthest from what is not told apart.
            single = sorted((s for s in spans if s not in wide), key=lambda s: -min((_distance(s, w) for w in wide), default=0.0))
            found = [self._place(*s) for s in single[:_PLACES]] if wide else []
            told = [p for p in found if p.evidence == "proven" and float(p.interval[1]) - float(p.interval[0]) < CLOSE * spread]
            if told:
                said = " and ".join(f"{float(a):.4g} to {float(b):.4g}".replace("-", "−") for a, b in wide[:3])
                return sorted(told, key=lambda p: p.x), [f"it may be taken at endlessly many more places, from {said}"]
        notes = [f"taken at {len(spans)} places or more; the first {_PLACES} are told"] if len(spans) > _PLACES else []
        return [self._place(low, high) for low, high in spans[:_PLACES]], notes

    def _lowest_of(self, places: list[LowPlace]) -> list[LowPlace]:
        """Places whose height is proven to be above another's are not lowest."""
        if len(places) < 2:
            return places
        least = min(arb(p.value_interval[1]) if not self.highest else -arb(p.value_interval[0]) for p in places)
        kept = [p for p in places if not (arb(p.value_interval[0]) if not self.highest else -arb(p.value_interval[1])) > least]
        return kept or places

    def _unbounded(self, spans: list[tuple[Any, Any]]) -> Lowest:
        """No lower bound was found: either the values fall without bound, or the enclosures are too wide there."""
        middle = min(spans, key=lambda s: float(s[1] - s[0])) if spans else (self.low, self.high)
        at = float((middle[0] + middle[1]) / 2)
        if abs(at) < 1e-12 * float(self.high - self.low):
            at = 0.0
        values = []
        for k in range(4, 44, 4):
            for side in (-1, 1):
                found = self.tape.numeric(_array(at + side * float(self.high - self.low) * 2.0**-k))[0]
                values.append(float(found.reshape(-1)[0]) if hasattr(found, "reshape") else float(found))
        falling = min((v for v in values if v == v), default=0.0)
        return Lowest([], (float("-inf"), float(self.least_met or 0)), self.boxes, False, at if falling < -1e6 else None)

    # ------------------------------------------------------------ one place

    def _place(self, low: Any, high: Any) -> LowPlace:
        for index, end in enumerate((self.low, self.high)):
            if low <= end <= high and (self._end_is_lowest(low, high, index) or self._is_lowest(self.ends[index])):
                return self._told(self.ends[index], "end")
        for joint in joints(self.formula, self.variable):
            value = certain_value(joint)
            if value.proven and float(low) - 1e-15 <= value.value <= float(high) + 1e-15:
                return self._told(joint, "kink")
        smooth = self._smooth(low, high)
        if self.slope is not None and smooth:
            turn = self._turn(low, high)
            if turn is not None:
                return self._told(*turn)
        plain = Number(Fraction(float((low + high) / 2)).limit_denominator(1000))
        if float(low) <= plain.value <= float(high) and self._is_lowest(plain):
            return self._told(plain, "kink")
        with precision(_BITS):
            x = low.union(high)
            bounds = self._bounds(low, high)
            least = bounds[0] if bounds is not None and bounds[0].is_finite() else arb(self.bound)
            value = self._signed(least.union(self.least_met))
            return LowPlace(nearest_double(x), nearest_double(value), decimal_interval(x), decimal_interval(value), "turn",
                            "open" if not self._tight(self.bound) else "proven" if smooth else "checked")  # fmt: skip

    def _smooth(self, low: Any, high: Any) -> bool:
        """Whether the function is defined and continuous around a span: next to a jump a value may be approached and not taken."""
        with precision(_BITS):
            wide = high - low
            outer = max((low - wide).lower(), self.low).union(min((high + wide).upper(), self.high))
            for values in branches(lambda: self.tape.ball(outer)):
                if values is None or not values[0].is_finite():
                    return False
            return doubt.clean

    def _is_lowest(self, place: Formula) -> bool:
        """Whether the value at a place is as low as any can be."""
        value = certain_value(substitute(self.formula, {self.variable: place}))
        return value.proven and value.interval is not None and float(value.interval[1]) - self.bound <= _TIGHT * max(self.size, 1e-290)

    def _signed(self, value: Any) -> Any:
        return -value if self.highest else value

    def _end_is_lowest(self, low: Any, high: Any, index: int) -> bool:
        """Whether on a span at an end of the window the values rise away from the end."""
        if self.slope is None:
            return float(high - low) <= 1e-12 * max(float(self.high - self.low), 1e-300)
        with precision(_BITS):
            for values in branches(lambda: self.tape.ball(low.union(high))):
                if values is None or len(values) < 2 or not doubt.clean or not values[1].is_finite():
                    return False
                if not (values[1] > 0 if index == 0 else values[1] < 0):
                    return False
        return True

    def _turn(self, low: Any, high: Any) -> tuple[Formula, str] | None:
        """The one root of the slope near a span, as a formula: a number, or a value with its interval."""
        assert self.slope is not None
        with precision(_BITS):
            wide = high - low
            outer = [(low - wide).lower(), (high + wide).upper()]
            outer = [max(outer[0], self.low), min(outer[1], self.high)]
        try:
            ends = [Number(fraction_of(e)) for e in outer]
            found = find_roots(self.slope, self.variable, ends[0], ends[1], budget=400)
        except (NotSearchable, ValueError, ZeroDivisionError):
            return None
        if not found.complete or found.flat or len(found.roots) != 1 or found.roots[0].evidence != "proven":
            return None
        root = found.roots[0]
        return (Number(root.exact) if root.exact is not None else Given(root.x, root.interval)), "turn"

    def _told(self, place: Formula, kind: str) -> LowPlace:
        if isinstance(place, Given):
            x, interval, exact = float(place.data), place.interval, None
        else:
            at = certain_value(place)
            x, interval, exact = at.value, at.interval, at.exact
        value = certain_value(substitute(minus(self.formula) if self.highest else self.formula, {self.variable: place}))
        bound = decimal_interval(self._signed(arb(self.bound).union(self.least_met))) if self.least_met is not None else None
        held = value.interval or bound or ("-inf", "inf")
        return LowPlace(x, value.value, interval or (repr(x), repr(x)), held, kind, "proven" if value.proven else "checked", exact)


def _array(x: float) -> Any:
    return np.array([x])


def _distance(one: tuple[Any, Any], other: tuple[Any, Any]) -> float:
    return max(float(one[0] - other[1]), float(other[0] - one[1]))


def _joined(spans: list[tuple[Any, Any]]) -> list[tuple[Any, Any]]:
    found: list[tuple[Any, Any]] = []
    for low, high in spans:
        if found and not low > found[-1][1]:
            found[-1] = (found[-1][0], high if high > found[-1][1] else found[-1][1])
        else:
            found.append((low, high))
    return found
