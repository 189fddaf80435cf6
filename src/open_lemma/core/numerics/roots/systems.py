"""All solutions of as many equations as unknowns in a box, each proven to be the only one in an interval of its own.

Boxes are dropped where an enclosure of one side holds no zero, narrowed and settled by the operator of Krawczyk,
K(X) = m - Y f(m) + (I - Y F'(X)) (X - m), with Y near the inverse of F'(m): where K(X) lies inside of X there is exactly
one solution, where they have nothing in common there is none (R. E. Moore, R. B. Kearfott, M. J. Cloud, "Introduction to
Interval Analysis", SIAM 2009, theorem 8.2). What is neither is halved. Around a solution that a plain Newton iteration
suggests the largest box is looked for in which it is proven to be alone: what lies inside of it is done with.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from flint import arb, arb_mat

from ...formula.ball import branches, doubt, precision
from ...formula.calculus import NoDerivative, derivative
from ...formula.certain import nearest_double, place_interval
from ...formula.nodes import Formula
from ...formula.tape import NoBall, NoScalar, Tape
from ..evidence import Evidence
from .search import NotSearchable

_BUDGETS = {1: 6_000, 2: 6_000, 3: 2_500, 4: 2_000}  # boxes, by the number of unknowns: each costs more
MOST_UNSETTLED = 150  # tiny boxes around places where all slopes vanish: more of them tell no more
_BITS = 72
_FINE = 192
_LEAST = 1e-9  # width of a box, relative to the whole, at which halving ends
_FIRST_SIZES = (2, 6, 11, 17)  # powers of 1/4 of a box that are tried first around a solution

Box = tuple[Any, ...]  # one ball for each unknown


@dataclass(frozen=True, slots=True)
class Solution:
    values: tuple[float, ...]
    intervals: tuple[tuple[str, str], ...]
    evidence: Evidence
    balls: Box = field(repr=False, compare=False)
    doubt: str = ""


@dataclass
class Solved:
    solutions: list[Solution]
    window: Box = ()
    alone: list[tuple[Box, Solution]] = field(default_factory=list)  # boxes that hold one solution each, also those beyond the edge
    unsettled: list[Box] = field(default_factory=list)
    boxes: int = 0
    covered: bool = True  # as the verifier of the certificate says

    @property
    def complete(self) -> bool:
        return not self.unsettled


def budget_for(unknowns: int) -> int:
    """So many boxes are looked at for so many unknowns, if nothing else is said."""
    return _BUDGETS.get(unknowns, 1_500)


def solve_system(
    equations: Sequence[Formula], unknowns: Sequence[str], box: Box, budget: int | None = None, found: Callable[[int], None] | None = None
) -> Solved:
    """All places of a box (closed, finite) at which every formula is zero.

    Proven: each solution graded so is the only one within its intervals; if nothing is unsettled there are no others in the box.
    Raises NotSearchable.
    """
    if len(equations) != len(unknowns):
        raise NotSearchable(f"{len(equations)} equations for {len(unknowns)} unknowns")
    return _SystemSolver(equations, unknowns, box, budget, found).run()


def box_of(ends: Sequence[tuple[Formula, Formula]]) -> Box:
    """The smallest box of balls that holds the spans between constant formulas."""
    with precision(_FINE):
        found = []
        for low, high in ends:
            a, b = (Tape([e], []).ball()[0] for e in (low, high))
            if not (a.is_finite() and b.is_finite() and a < b):
                raise NotSearchable("each window must run from a lower to a higher finite number")
            found.append(a.lower().union(b.upper()))
    return tuple(found)


class _BoxIndex:
    """Boxes, of which it is asked again and again whether one of them holds another box."""

    def __init__(self, dimension: int) -> None:
        self.boxes: list[Box] = []
        self.lows, self.highs = np.empty((0, dimension)), np.empty((0, dimension))

    def add(self, box: Box) -> None:
        self.boxes.append(box)
        self.lows = np.vstack([self.lows, [float(x.lower()) for x in box]])
        self.highs = np.vstack([self.highs, [float(x.upper()) for x in box]])

    def hold(self, box: Box) -> bool:
        """Whether a box lies in one of them. Doubles tell which may be it, balls whether it is."""
        low, high = ([float(end) for end in ends] for ends in zip(*((x.lower(), x.upper()) for x in box), strict=True))
        near = (self.lows <= np.nextafter(low, np.inf)).all(axis=1) & (self.highs >= np.nextafter(high, -np.inf)).all(axis=1)
        return any(_inside(box, self.boxes[k]) for k in np.flatnonzero(near))


class _SystemSolver:
    def __init__(
        self, equations: Sequence[Formula], unknowns: Sequence[str], box: Box, budget: int | None, found: Callable[[int], None] | None
    ) -> None:
        self.n = len(unknowns)
        try:
            rows = [[derivative(e, u) for u in unknowns] for e in equations]
        except NoDerivative as missing:
            raise NotSearchable(f"there is no derivative by rule of {missing}") from None
        self.values = Tape(list(equations), list(unknowns))
        self.tape = Tape([*equations, *(d for row in rows for d in row)], list(unknowns))
        self.budget = budget_for(self.n) if budget is None else budget
        self.found = found
        self.window = box
        with precision(_BITS):
            # A little wider, so that a solution on the edge lies inside.
            self.whole = tuple(x + x.rad() * arb(0, 2.0**-30) for x in box)
            self.scale = [max(float(x.rad()), 1e-300) for x in box]
        self.known: list[tuple[Box, Solution]] = []
        self.alone = _BoxIndex(self.n)
        self.result = Solved([], box, self.known)

    def run(self) -> Solved:
        with precision(_BITS):
            try:
                self._search()
            except NoBall as missing:
                raise NotSearchable(f"'{missing}' has no bounds that could be proven") from None
        self.result.unsettled = _joined(self.result.unsettled)
        self.result.solutions.sort(key=lambda s: s.values)
        return self.result

    def _search(self) -> None:
        queue = [self.whole]
        place = 0
        while place < len(queue):
            if self.result.boxes >= self.budget + 60 * len(self.known) or len(self.result.unsettled) > MOST_UNSETTLED:
                self.result.unsettled += queue[place:]
                return
            box = queue[place]
            place += 1
            if place > 4096:
                del queue[:place]
                place = 0
            queue += self._look(box)

    def _look(self, box: Box) -> list[Box]:
        self.result.boxes += 1
        if self.alone.hold(box):
            return []
        for _ in range(6):
            state = self._enclosed(box)
            if state is None:
                return []
            slopes = state[1]
            if slopes is None:
                break
            new = self._narrowed(box, slopes)
            if new is None:
                return []
            smaller = _size(new, self.scale) < 0.7 * _size(box, self.scale)
            box = new
            if not smaller:
                break
        self._follow(box)
        if self.alone.hold(box):
            return []
        if _size(box, self.scale) < _LEAST:
            self.result.unsettled.append(box)
            return []
        return self._halves(box)

    def _enclosed(self, box: Box) -> tuple[list[Any], list[list[Any]] | None] | None:
        """Enclosures of the equations, and of their slopes where all is smooth; None where one of them is nowhere zero."""
        kept: list[tuple[Any, ...]] = []
        for values in branches(lambda: self.tape.ball(*box)):
            if values is None:
                return [], None
            if all(v.contains(0) or not v.is_finite() for v in values[: self.n]):
                kept.append(values)
        if not kept:
            return None
        if not doubt.clean or len(kept) > 1 or not all(v.is_finite() for v in kept[0]):
            return [], None
        found = kept[0]
        return list(found[: self.n]), [list(found[self.n * (k + 1) : self.n * (k + 2)]) for k in range(self.n)]

    def _at(self, middle: Box) -> list[Any] | None:
        found = None
        for values in branches(lambda: self.values.ball(*middle)):
            if values is None or found is not None or not all(v.is_finite() for v in values):
                return None
            found = list(values)
        return found if doubt.clean else None

    def _krawczyk(self, box: Box, slopes: list[list[Any]]) -> Box | None:
        middle = tuple(x.mid() for x in box)
        at = self._at(middle)
        near = np.array([[float(s.mid()) for s in row] for row in slopes])
        if at is None or not np.isfinite(near).all():
            return None
        try:
            inverse = np.linalg.inv(near)
        except np.linalg.LinAlgError:
            return None
        if not np.isfinite(inverse).all():
            return None
        found = []
        for i in range(self.n):
            row = [arb(float(v)) for v in inverse[i]]
            total = middle[i] - sum((row[k] * at[k] for k in range(self.n)), arb(0))
            for j in range(self.n):
                factor = (1 if i == j else 0) - sum((row[k] * slopes[k][j] for k in range(self.n)), arb(0))
                total = total + factor * (box[j] - middle[j])
            found.append(total)
        return tuple(found)

    def _narrowed(self, box: Box, slopes: list[list[Any]]) -> Box | None:
        """The box met with K(box); None where they have nothing in common, or the mean value form holds no zero."""
        middle = tuple(x.mid() for x in box)
        at = self._at(middle)
        if at is not None:
            for k in range(self.n):
                linear = at[k] + sum((slopes[k][j] * (box[j] - middle[j]) for j in range(self.n)), arb(0))
                if not linear.contains(0):
                    return None
        image = self._krawczyk(box, slopes)
        if image is None:
            return box
        found = []
        for x, k in zip(box, image, strict=True):
            if not x.overlaps(k):
                return None
            found.append(_met(x, k))
        return tuple(found)

    def _follow(self, box: Box) -> None:
        """Where Newton's steps from the middle lead to a solution near by, keep it with the largest box in which it is alone."""
        middle = np.array([float(x.mid()) for x in box])
        size = np.array([float(x.rad()) for x in box])
        place = self._newton(middle)
        if place is None or self.alone.hold(tuple(arb(float(p)) for p in place)):
            return
        if (np.abs(place - middle) > 3 * size).any():
            return  # it led far away: another box will find it
        proven = next((k for k in _FIRST_SIZES if self._alone(place, size * 4.0**-k) is not None), None)
        if proven is None:
            return
        best = self._alone(place, size * 4.0**-proven)
        for k in range(proven - 1, -2, -1):
            larger = self._alone(place, size * 4.0**-k)
            if larger is None:
                break
            best = larger
        assert best is not None
        self._keep(*best)

    def _alone(self, place: Any, size: Any) -> tuple[Box, Box] | None:
        """A box around a place and the narrower one in which its only solution lies; None where that is not shown."""
        around = tuple(arb(float(p), float(max(s, 1e-14 * max(abs(p), 1e-3)))) for p, s in zip(place, size, strict=True))
        state = self._enclosed(around)
        if state is None or state[1] is None:
            return None
        image = self._krawczyk(around, state[1])
        if image is None or not all(_strictly_inside(k, x) for k, x in zip(image, around, strict=True)):
            return None
        return around, tuple(_met(x, k) for x, k in zip(around, image, strict=True))

    def _numbers(self, place: Any) -> Any | None:
        """All values and slopes at a place in floating-point numbers; None where one has none."""
        try:
            found = np.array(self.tape.scalar_all(False)(*map(float, place)), dtype=float)
        except (ArithmeticError, ValueError, NoScalar):  # no value there, or none on single numbers
            found = np.array([float(np.asarray(v)) for v in self.tape.numeric(*place)])
        return found if np.isfinite(found).all() else None

    def _newton(self, place: Any) -> Any | None:
        for _ in range(16):
            found = self._numbers(place)
            if found is None:
                return None
            values, slopes = found[: self.n], found[self.n :].reshape(self.n, self.n)
            try:
                step = np.linalg.solve(slopes, values)
            except np.linalg.LinAlgError:
                return None
            place = place - step
            if not np.isfinite(place).all() or np.abs(place).max() > 1e12:
                return None
            if (np.abs(step) <= 1e-14 * np.maximum(np.abs(place), 1e-3)).all():
                return place
        return None

    def _keep(self, around: Box, place: Box) -> None:
        with precision(_FINE):
            place = self._refined(place)
            solution = Solution(
                tuple(_double(x) for x in place),
                tuple(place_interval(x, w) for x, w in zip(place, self.window, strict=True)),
                "proven",
                place,
            )
            self.known.append((around, solution))
            self.alone.add(around)
            if any(not x.overlaps(w) for x, w in zip(place, self.window, strict=True)):
                return  # beyond the edge
            if not all(w.contains(x) for x, w in zip(place, self.window, strict=True)):
                why = "it lies on the edge of the box, as nearly as can be told"
                solution = Solution(solution.values, solution.intervals, "checked", place, why)
        self.result.solutions.append(solution)
        if self.found is not None:
            self.found(len(self.result.solutions))

    def _refined(self, place: Box) -> Box:
        for _ in range(12):
            state = self._enclosed(place)
            image = None if state is None or state[1] is None else self._krawczyk_fine(place, state[1])
            if image is None:
                break
            narrower = tuple(_met(x, k) for x, k in zip(place, image, strict=True))
            if all(float(n.rad()) > 0.5 * float(x.rad()) for n, x in zip(narrower, place, strict=True)):
                break
            place = narrower
        return place

    def _krawczyk_fine(self, box: Box, slopes: list[list[Any]]) -> Box | None:
        """As `_krawczyk`, with the system solved in balls: N(X) = m - F'(X)^-1 f(m)."""
        middle = tuple(x.mid() for x in box)
        at = self._at(middle)
        if at is None:
            return None
        try:
            step = arb_mat(slopes).solve(arb_mat([[v] for v in at]))
        except ZeroDivisionError:
            return None
        return tuple(middle[k] - step[k, 0] for k in range(self.n))

    def _halves(self, box: Box) -> list[Box]:
        widths = [float(x.rad()) / s for x, s in zip(box, self.scale, strict=True)]
        k = int(np.argmax(widths))
        x = box[k]
        low, high = x.lower(), x.upper()
        middle = (low + (high - low) * arb("0.4871")).mid()
        return [(*box[:k], low.union(middle), *box[k + 1 :]), (*box[:k], middle.union(high), *box[k + 1 :])]


def _double(x: Any) -> float:
    return 0.0 if x.contains(0) and float(x.rad()) < 1e-25 else nearest_double(x)


def _met(x: Any, other: Any) -> Any:
    low = x.lower() if x.lower() > other.lower() else other.lower()
    high = x.upper() if x.upper() < other.upper() else other.upper()
    return low.union(high)


def _size(box: Box, scale: list[float]) -> float:
    return max(float(x.rad()) / s for x, s in zip(box, scale, strict=True))


def _inside(box: Box, other: Box) -> bool:
    return all(o.contains(x) for x, o in zip(box, other, strict=True))


def _strictly_inside(x: Any, other: Any) -> bool:
    return bool(x.is_finite() and x.lower() > other.lower() and x.upper() < other.upper())


def _joined(boxes: list[Box]) -> list[Box]:
    """Overlapping boxes made one hull each, as far as that is quickly done."""
    if len(boxes) > 400:
        return [tuple(_hull([b[k] for b in boxes]) for k in range(len(boxes[0])))]
    found: list[Box] = []
    for box in boxes:
        merged = box
        rest = []
        for other in found:
            if all(x.overlaps(y) for x, y in zip(merged, other, strict=True)):
                merged = tuple(x.union(y) for x, y in zip(merged, other, strict=True))
            else:
                rest.append(other)
        found = [*rest, merged]
    return found


def _hull(balls: list[Any]) -> Any:
    total = balls[0]
    for x in balls[1:]:
        total = total.union(x)
    return total
