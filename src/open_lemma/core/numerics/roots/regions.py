"""Where conditions on one variable hold: spans, with ends that belong to them or not.

A comparison can change only where both sides are equal, where one of them jumps, or at an edge of a domain. Those places are found
with proof; between two of them one value tells.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from ...formula import catalogue as c
from ...formula.certain import certain_value
from ...formula.choice import condition_of
from ...formula.domain import end_value, infinite
from ...formula.nodes import Apply, Formula, Number, substitute, walk
from ...formula.tape import Tape
from ..evidence import Evidence, weakest
from ..extrema.turning import place_spot
from ..proving.strict import NotPlain, Places, spot_of
from .infinite_intervals import find_roots_anywhere, reach_of
from .pieces import NotSearchable, Place, TooManyPieces, as_formula, edges, sign_at, smooth_pieces
from .search import Stretch

INFINITY = float("inf")


@dataclass(frozen=True, slots=True)
class HeldSpan:
    """`low_in` and `high_in`: whether the ends belong to it. A single place has both ends alike."""

    low: Place
    high: Place
    low_in: bool
    high_in: bool


@dataclass(frozen=True, slots=True)
class HeldRegion:
    spans: list[HeldSpan]
    evidence: Evidence
    unsettled: list[Stretch]
    places: list[Place]  # where the condition may change


def region_of(condition: Formula, variable: str, low: Formula, high: Formula) -> HeldRegion:
    """Where a condition holds between two ends, which may be infinite. Raises NotSearchable."""
    return _Region(condition, variable, low, high).found()


class _Region:
    def __init__(self, condition: Formula, variable: str, low: Formula, high: Formula) -> None:
        self.condition, self.variable, self.ends = condition, variable, (low, high)
        self.comparisons = [
            n for n in walk(condition)
            if isinstance(n, Apply) and n.entry.category == "condition" and n.entry.name in ("<", ">", "<=", ">=", "=", "!=")
        ]  # fmt: skip
        self.evidence: Evidence = "proven"
        try:
            self.strict: Places | None = Places(condition, variable)
        except NotPlain:
            self.strict = None
        self.unsettled: list[Stretch] = []

    def found(self) -> HeldRegion:
        places = self._places()
        inner = [self._between(a, b) for a, b in itertools.pairwise(places)]
        at = [None if abs(p.x) == INFINITY else self._at(p) for p in places]
        spans: list[HeldSpan] = []
        start: tuple[Place, bool] | None = None
        for k, place in enumerate(places):
            left = inner[k - 1] if k else False
            right = inner[k] if k < len(inner) else False
            here = bool(at[k])
            if start is not None and not (here and right):
                spans.append(HeldSpan(start[0], place, start[1], here))
                start = None
            if start is None and right:
                start = (place, here)
                # An end that does not belong closes what came before and opens anew.
            elif start is None and here and not left and not right:
                spans.append(HeldSpan(place, place, True, True))
        if start is not None:
            spans.append(HeldSpan(start[0], places[-1], start[1], bool(at[-1])))
        return HeldRegion(spans, "open" if self.unsettled else self.evidence, self.unsettled, places)

    def _places(self) -> list[Place]:
        found: dict[float, Place] = {}
        differences = [c.subtract(*n.arguments) for n in self.comparisons]
        for difference in differences:
            roots = find_roots_anywhere(difference, self.variable, *self.ends)
            self.unsettled += roots.unsettled
            for r in roots.roots:
                found.setdefault(r.x, Place(as_formula(r), r.x, root=r))
                if r.evidence != "proven":
                    self.evidence = "checked"
            for v in (v for s in roots.flat for v in (s.low, s.high)):
                found.setdefault(v, Place(Number(Fraction(v)), v))
                self.evidence = "checked"
        parts = [part for d in differences for part, _ in edges(d, self.variable)]
        reach = reach_of([*differences, *parts], self.variable, *self.ends)
        for difference in differences:
            try:
                pieces = smooth_pieces(difference, self.variable, reach.low, reach.high)
            except TooManyPieces:
                raise NotSearchable("a side has too many joints in the window; narrow it") from None
            self.unsettled += pieces.unsettled
            for p in pieces.places[1:-1]:
                found.setdefault(p.x, p)
        ends = [Place(e, end_value(e)) for e in self.ends]
        for end in ends:
            found[end.x] = end
        return [found[x] for x in sorted(found) if ends[0].x <= x <= ends[1].x]

    def _between(self, low: Place, high: Place) -> bool:
        a, b = low.x, high.x
        if a == -INFINITY:
            a = min(b, 0.0) - 1e6 * 1.37 - 2 * abs(b) if b != INFINITY else -0.4871
        if b == INFINITY:
            b = a + 2 * abs(a) + 3.14
        x = a + (b - a) * 0.4871
        if not a < x < b:
            return False
        held = None if self.strict is None else self.strict.holds(spot_of(Number(Fraction(x))))
        if held is not None:
            return held
        return self._holds({n: sign_at(c.subtract(*n.arguments), self.variable, x) for n in self.comparisons}, x)

    def _at(self, place: Place) -> bool:
        held = None if self.strict is None else self.strict.holds(place_spot(place))
        if held is not None:
            return held
        self.evidence = weakest([self.evidence, "checked"])
        signs: dict[Apply, int | None] = {}
        for n in self.comparisons:
            difference = substitute(c.subtract(*n.arguments), {self.variable: place.formula})
            value = certain_value(difference)
            if value.value != value.value:
                return False
            if value.proven:
                signs[n] = (value.value > 0) - (value.value < 0)
            else:
                # It is a root of this side, or so near that it makes no difference to a double.
                signs[n] = 0 if abs(value.value) < 1e-12 else int(np.sign(value.value))
        return self._holds(signs, place.x)

    def _holds(self, signs: dict[Apply, int | None], x: float) -> bool:
        """The condition, with each comparison as its sign says."""
        if any(s is None for s in signs.values()):
            held = condition_of(self.condition, lambda formulas: Tape(formulas, [self.variable])).numeric((np.asarray(x),))
            if np.isfinite(held) and held:
                self.evidence = "checked"
            return bool(np.isfinite(held) and held)
        return _truth(self.condition, {id(n): s for n, s in signs.items()})


def _truth(condition: Formula, signs: dict[int, int | None]) -> bool:
    assert isinstance(condition, Apply)
    name = condition.entry.name
    if name == "and":
        return _truth(condition.arguments[0], signs) and _truth(condition.arguments[1], signs)
    if name == "or":
        return _truth(condition.arguments[0], signs) or _truth(condition.arguments[1], signs)
    if name == "not":
        return not _truth(condition.arguments[0], signs)
    if name in ("true", "false"):
        return name == "true"
    sign = signs[id(condition)]
    assert sign is not None
    return {"<": sign < 0, ">": sign > 0, "<=": sign <= 0, ">=": sign >= 0, "=": sign == 0, "!=": sign != 0}[name]


__all__ = ["NotSearchable", "HeldRegion", "HeldSpan", "infinite", "region_of"]
