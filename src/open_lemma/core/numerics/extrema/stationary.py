"""Local minima, maxima and saddles of a function of several variables in a box, and the lowest value of all.

Inside, the places where the whole gradient vanishes are found by `systems`; on each face of the box, and on the borders
that conditions draw, the same is done with fewer variables. The signs of the slopes into the box and of the curvature
tell what a place is. That no value lies below the least one is shown apart from that, by branch and bound on the whole
box (`Bounding`), so it holds even where the list of places is not complete.
"""

from __future__ import annotations

import heapq
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import combinations, product
from typing import Any, Literal

import numpy as np
from flint import arb, arb_mat

from ...formula import catalogue as c
from ...formula.ball import branches, doubt, from_fraction, precision
from ...formula.calculus import NoDerivative, derivative
from ...formula.certain import certain_value, decimal_interval, place_interval
from ...formula.exact import is_exactly_zero
from ...formula.nodes import Formula, Number, Variable, substitute, variables
from ...formula.tape import NoBall, Tape
from ..evidence import Evidence
from ..roots.search import NotSearchable
from ..roots.systems import Box, box_of, budget_for, solve_system

Kind = Literal["minimum", "maximum", "saddle", "undecided"]
BOUND_BUDGET = 20_000
_BITS = 64
_FINE = 160
_TIGHT = 1e-9  # of the values' size: bounds this close to the least value that was met end the search
_ALL_BOXES = {1: 8_000, 2: 9_000, 3: 4_500}  # on the inside and all borders together
_TRIED = 24  # places at which a slope is looked at before algebra is asked whether it vanishes everywhere
MOST_LOCAL = 3  # variables up to which all stationary places are sought


@dataclass(frozen=True, slots=True)
class Stationary:
    """A place with its value: `border` names what it lies on (`x = 0`, a condition), empty inside."""

    values: tuple[float, ...]
    intervals: tuple[tuple[str, str], ...]
    value: float
    value_interval: tuple[str, str]
    kind: Kind
    evidence: Evidence
    border: str = ""
    overall: bool = False
    balls: Any = field(default=None, repr=False, compare=False)


@dataclass
class Landscape:
    places: list[Stationary]
    unsettled: int
    boxes: int
    notes: list[str] = field(default_factory=list)
    values: list[Any] = field(repr=False, default_factory=list)  # enclosures at all candidates for an extreme value
    # Boxes that hold one place each, of each face: "-" for a free variable, 0 and 1 where it is held at its lower or upper end.
    alone: dict[str, list[Box]] = field(repr=False, default_factory=dict)
    covered: bool = True  # as the verifier of the certificate says

    @property
    def complete(self) -> bool:
        return not self.unsettled


Ends = Sequence[tuple[Formula, Formula]]


@dataclass(frozen=True, slots=True)
class Constraint:
    """`formula <= 0`, or `< 0` where strict; `said` is how it was written."""

    formula: Formula
    said: str
    strict: bool = False
    equation: bool = False


def stationary_places(formula: Formula, names: Sequence[str], ends: Ends, conditions: Sequence[Constraint] = ()) -> Landscape:
    """All places of a box (up to three variables) where the gradient vanishes, and those minima and maxima that lie on the
    border of the box or of the conditions. Raises NotSearchable."""
    return _Places(formula, names, ends, conditions).landscape()


class _Places:
    def __init__(self, formula: Formula, names: Sequence[str], ends: Ends, conditions: Sequence[Constraint]) -> None:
        self.formula, self.names, self.ends, self.conditions = formula, list(names), list(ends), list(conditions)
        self.n = len(self.names)
        try:
            self.gradient = [derivative(formula, v) for v in self.names]
            self.curvature = [[derivative(g, v) for v in self.names] for g in self.gradient]
            self.normals = [[derivative(k.formula, v) for v in self.names] for k in self.conditions]
        except NoDerivative as missing:
            raise NotSearchable(f"there is no derivative by rule of {missing}") from None
        self.box = box_of(self.ends)
        self.tape = Tape([formula], self.names)
        self.slopes = Tape(self.gradient, self.names)
        self.bends = Tape([h for row in self.curvature for h in row], self.names)
        self.result = Landscape([], 0, 0)
        self.left = _ALL_BOXES[self.n]

    def landscape(self) -> Landscape:
        for fixed in product((None, 0, 1), repeat=self.n):
            free = [k for k in range(self.n) if fixed[k] is None]
            equations = [k for k, cond in enumerate(self.conditions) if cond.equation]
            for count in range(len(equations), len(free) + 1):
                for active in combinations(range(len(self.conditions)), count):
                    if set(equations) <= set(active):
                        self._on(fixed, free, active)
        self.result.places = [self._not_too_narrow(p) for p in self.result.places]
        self.result.places.sort(key=lambda p: p.values)
        return self.result

    def _not_too_narrow(self, place: Stationary) -> Stationary:
        """A value about zero has no digits of its own: its interval is as wide as the last digit of the largest value."""
        low, high = (Fraction(v) for v in place.value_interval)
        largest = max(abs(p.value) for p in self.result.places)
        room = Fraction(largest) / 2**73 if np.isfinite(largest) else Fraction(0)
        if low == high or not low <= 0 <= high or high - low >= room:
            return place
        with precision(_BITS):
            return replace(place, value_interval=decimal_interval(arb(0, float(room))))

    def _on(self, fixed: tuple[int | None, ...], free: list[int], active: tuple[int, ...]) -> None:
        """The places on one face of the box and the borders of some conditions at which nothing along them changes the value."""
        held = {self.names[k]: self.ends[k][side] for k, side in enumerate(fixed) if side is not None}
        if not free:
            self._corner(held, active)
            return
        names = [self.names[k] for k in free]
        equations = [substitute(self.conditions[a].formula, held) for a in active]
        if any(not variables(e) for e in equations):
            return
        along = [substitute(self.gradient[k], held) for k in free]
        across = [[substitute(self.normals[a][k], held) for k in free] for a in active]
        extra, more = _parallel(along, across)
        boxes = (*(self.box[k] for k in free), *(_turn() for _ in more))
        if extra and not more and all(_vanishes(e) for e in extra) and not active:
            where = ", ".join(f"{n} = {_short(e)}" for n, e in held.items())
            self.result.notes.append(f"the value is the same along {where}" if where else "the value is the same everywhere")
            self._place(held, free, (), tuple(self.box[k].mid() for k in free), "proven", flat=True)
            return
        if extra and not more and any(not variables(e) and not _vanishes(e) for e in extra):
            return  # the slope is nowhere zero along it
        if self.left <= 0:
            self.result.unsettled += 1  # places where all slopes vanish together took all the boxes
            return
        solved = solve_system([*equations, *extra], [*names, *more], boxes, budget=min(self.left, budget_for(len(boxes))))
        self.left -= solved.boxes
        self.result.boxes += solved.boxes
        self.result.unsettled += len(solved.unsettled)
        if not active:
            self.result.alone["".join("-" if side is None else str(side) for side in fixed)] = [box for box, _ in solved.alone]
        for solution in solved.solutions:
            self._place(held, free, active, solution.balls[: len(free)], solution.evidence)

    def _corner(self, held: dict[str, Formula], active: tuple[int, ...]) -> None:
        if active:
            return
        self._place(held, [], (), (), "proven")

    def _place(
        self, held: dict[str, Formula], free: list[int], active: tuple[int, ...], balls: Box, evidence: Evidence, flat: bool = False
    ) -> None:
        with precision(_FINE):
            place = list(self.box)
            for k, ball in zip(free, balls, strict=True):
                place[k] = ball
            for k, name in enumerate(self.names):
                if name in held:
                    place[k] = Tape([held[name]], []).ball()[0]
            if not self._allowed(place, active):
                return
            value = _values(self.tape, place)
            if value is None:
                self.result.unsettled += 1
                return
            self.result.values.append(value[0])
            kind = None if flat else self._kind(place, free, active, held)
            if kind is None:
                return
            if any(all(a.overlaps(b) for a, b in zip(s.balls, place, strict=True)) for s in self.result.places):
                return  # a corner of what was looked at before
        said = [f"{n} = {_short(e)}" for n, e in held.items()] + [self.conditions[a].said for a in active]
        exact = self._exact(place, free, active, held)
        known = None if exact is None else certain_value(substitute(self.formula, exact))
        intervals = tuple(place_interval(x, w) for x, w in zip(place, self.box, strict=True))
        if exact is not None:
            certain = [certain_value(exact[n]) for n in self.names]
            intervals = tuple(v.interval or i for v, i in zip(certain, intervals, strict=True))
        shown = known.value if known is not None and known.proven else _near(value[0])
        interval = known.interval if known is not None and known.proven and known.interval else decimal_interval(value[0])
        self.result.places.append(
            Stationary(
                tuple(_near(x) for x in place), intervals, shown, interval, kind, evidence if kind != "undecided" else "open",
                ", ".join(said), False, tuple(place),
            )
        )  # fmt: skip

    def _exact(self, place: list[Any], free: list[int], active: tuple[int, ...], held: dict[str, Formula]) -> dict[str, Formula] | None:
        """The place in plain fractions, if these are exactly a solution of what was solved: it is then the only one there."""
        if active:
            return None
        found: dict[str, Formula] = dict(held)
        for k in free:
            guess = Fraction(float(place[k].mid())).limit_denominator(1000)
            if not place[k].overlaps(from_fraction(guess.numerator, guess.denominator)):
                return None
            found[self.names[k]] = Number(guess)
        for k in free:
            value = certain_value(substitute(self.gradient[k], found))
            if not (value.proven and value.value == 0):
                return None
        return found

    def _allowed(self, place: list[Any], active: tuple[int, ...]) -> bool:
        """Whether the conditions that are not met exactly hold."""
        for k, cond in enumerate(self.conditions):
            if k in active:
                if cond.strict:
                    return False  # the border does not belong to it
                continue
            value = _values(Tape([cond.formula], self.names), place)
            if value is not None and value[0] > 0:
                return False
            if value is None or not value[0] < 0:
                # It may lie on this border too: then it is found where both are met, unless there are too many borders.
                self.result.unsettled += len(active) >= self.n
                return False
        return True

    # ------------------------------------------------------------ what a place is

    def _kind(self, place: list[Any], free: list[int], active: tuple[int, ...], held: dict[str, Formula]) -> Kind | None:
        gradient = _values(self.slopes, place)
        bends = _values(self.bends, place)
        if gradient is None or bends is None:
            return "undecided" if len(free) == self.n and not active else None
        # Into the box: a minimum needs values that rise there, a maximum values that fall.
        inward: list[Any] = []
        for k in range(self.n):
            if self.names[k] in held:
                low = bool((place[k] - self.box[k].mid()) < 0)
                if not active:
                    inward.append(gradient[k] if low else -gradient[k])
        normals = [_values(Tape(self.normals[a], self.names), place) for a in active]
        if any(v is None for v in normals):
            return None
        pulls, bound = self._multipliers(gradient, [v for v in normals if v is not None], free, held, place)
        if pulls is None:
            return None
        kept = [p for p, a in zip(pulls, active, strict=True) if not self.conditions[a].equation]
        signs = [*inward, *bound, *kept]
        way: Kind | None
        if all(s > 0 for s in signs) or not signs:
            way = "minimum"
        elif all(s < 0 for s in signs):
            way = "maximum"
        else:
            return None
        curved = self._curved(bends, [v for v in normals if v is not None], pulls, active, free, place)
        if not signs:
            return curved
        if len(free) == len(active):
            return way
        return way if curved == way else None

    def _multipliers(
        self, gradient: list[Any], normals: list[list[Any]], free: list[int], held: dict[str, Formula], place: list[Any]
    ) -> Any:
        """Gradient = -(sum of pulls times normals) along the free variables; how the value then changes into the box."""
        if not normals:
            return [], []
        count = len(normals)
        rows = [[sum((normals[i][k] * normals[j][k] for k in free), arb(0)) for j in range(count)] for i in range(count)]
        right = [[-sum((normals[i][k] * gradient[k] for k in free), arb(0))] for i in range(count)]
        try:
            solved = arb_mat(rows).solve(arb_mat(right))
        except ZeroDivisionError:
            return None, []
        pulls = [solved[i, 0] for i in range(count)]
        inward = []
        for k in range(self.n):
            if self.names[k] in held:
                total = gradient[k] + sum((pulls[i] * normals[i][k] for i in range(count)), arb(0))
                inward.append(total if (place[k] - self.box[k].mid()) < 0 else -total)
        return pulls, inward

    def _curved(
        self, bends: list[Any], normals: list[list[Any]], pulls: list[Any], active: tuple[int, ...], free: list[int], place: list[Any]
    ) -> Kind:
        """By the curvature along what is free: that of the function, and of the conditions that hold it back."""
        size = len(free)
        if not size:
            return "minimum"
        whole = [[bends[i * self.n + j] for j in free] for i in free]
        for pull, a in zip(pulls, active, strict=True):
            second = [[derivative(g, v) for v in self.names] for g in self.normals[a]]
            values = _values(Tape([h for row in second for h in row], self.names), place)
            if values is None:
                return "undecided"
            for i, p in enumerate(free):
                for j, q in enumerate(free):
                    whole[i][j] = whole[i][j] + pull * values[p * self.n + q]
        return _definite(_tangential(whole, [[v[k] for k in free] for v in normals]))


def _parallel(along: list[Formula], across: list[list[Formula]]) -> tuple[list[Formula], list[str]]:
    """Equations that say that the gradient is a combination of the normals, and names of unknowns that they need."""
    k, a = len(along), len(across)
    if a == 0:
        return along, []
    if a == k:
        return [], []
    if a == k - 1:
        return [_determinant([along, *across])], []
    # One condition among three variables: (cos t) gradient + (sin t) normal = 0.
    name = "turn "
    t = Variable(name)
    cos, sin = c.call("cos", t), c.call("sin", t)
    return [c.add(c.times(cos, g), c.times(sin, n)) for g, n in zip(along, across[0], strict=True)], [name]


def _turn() -> Any:
    """Half a turn and a little more: every line through the origin once."""
    return arb("-1.6").union(arb("1.6"))


def _determinant(rows: list[list[Formula]]) -> Formula:
    if len(rows) == 1:
        return rows[0][0]
    total: Formula = Number(Fraction(0))
    for k, head in enumerate(rows[0]):
        part = c.times(head, _determinant([[*row[:k], *row[k + 1 :]] for row in rows[1:]]))
        total = c.add(total, part) if k % 2 == 0 else c.subtract(total, part)
    return total


def _tangential(matrix: list[list[Any]], normals: list[list[Any]]) -> list[list[Any]]:
    """A symmetric matrix on the space across the normals, in a basis of plain numbers near it and corrected exactly."""
    if not normals:
        return matrix
    size = len(matrix)
    plain = np.array([[float(v.mid()) for v in row] for row in normals])
    _, _, basis = np.linalg.svd(plain)
    chosen = basis[len(normals) :]
    # Project each basis vector: v - N^T (N N^T)^-1 N v, in balls.
    count = len(normals)
    gram = arb_mat([[sum((normals[i][k] * normals[j][k] for k in range(size)), arb(0)) for j in range(count)] for i in range(count)])
    vectors = []
    for v in chosen:
        vector = [arb(float(x)) for x in v]
        right = arb_mat([[sum((normals[i][k] * vector[k] for k in range(size)), arb(0))] for i in range(count)])
        weights = gram.solve(right)
        vectors.append([vector[k] - sum((weights[i, 0] * normals[i][k] for i in range(count)), arb(0)) for k in range(size)])
    return [
        [sum((u[i] * matrix[i][j] * v[j] for i in range(size) for j in range(size)), arb(0)) for v in vectors] for u in vectors
    ]  # fmt: skip


def _definite(matrix: list[list[Any]]) -> Kind:
    """minimum: positive definite; maximum: negative definite; saddle: of both signs; each proven by balls."""
    size = len(matrix)
    minors = [arb_mat([row[:k] for row in matrix[:k]]).det() for k in range(1, size + 1)]
    if all(m > 0 for m in minors):
        return "minimum"
    if all((m < 0) if k % 2 else (m > 0) for k, m in enumerate(minors, 1)):
        return "maximum"
    plain = np.array([[float(v.mid()) for v in row] for row in matrix])
    if np.isfinite(plain).all():
        _, vectors = np.linalg.eigh((plain + plain.T) / 2)
        ends = [
            sum((arb(float(v[i])) * matrix[i][j] * arb(float(v[j])) for i in range(size) for j in range(size)), arb(0))
            for v in (vectors[:, 0], vectors[:, -1])
        ]
        if ends[0] < 0 and ends[1] > 0:
            return "saddle"
    return "undecided"


def _values(tape: Tape, place: Sequence[Any]) -> list[Any] | None:
    found = None
    for values in branches(lambda: tape.ball(*place)):
        if values is None or found is not None or not all(v.is_finite() for v in values):
            return None
        found = list(values)
    return found if doubt.clean else None


def _vanishes(formula: Formula) -> bool:
    if not variables(formula):
        known = certain_value(formula)
        return known.proven and known.value == 0
    # Algebra is slow: it is asked where the formula is zero at places far from each other, as far as it has values there.
    tape = Tape([formula], sorted(variables(formula)))
    places = np.random.default_rng(1).uniform(-4, 4, (len(tape.variables), _TRIED))
    values = np.broadcast_to(np.asarray(tape.numeric(*places)[0], float), _TRIED)
    finite = values[np.isfinite(values)]
    suspected = finite.size > 2 and bool((np.abs(finite) < 1e-9).all())
    return suspected and is_exactly_zero(formula) is True


def _near(x: Any) -> float:
    return 0.0 if x.contains(0) and float(x.rad()) < 1e-25 else float(x.mid())


def _short(formula: Formula) -> str:
    return f"{certain_value(formula).value:g}"


# ---------------------------------------------------------------- bounds of all values


@dataclass(frozen=True, slots=True)
class Bounds:
    """The least value of a box lies between `low` and `high`; where it is taken lies in `boxes`."""

    low: float
    high: float
    looked_at: int
    boxes: list[Box] = field(repr=False, default_factory=list)
    tight: bool = False


def least_value(
    formula: Formula,
    names: Sequence[str],
    ends: Ends,
    conditions: Sequence[Constraint] = (),
    met: Sequence[Sequence[float]] = (),
    budget: int = BOUND_BUDGET,
) -> Bounds:
    """Bounds of the least value of a function on a box, where the conditions hold.

    met  places at which a low value was met, given by whoever looked before; each is checked here

    Proven: no place of the box at which the conditions hold has a value below `low`; some place has one not above `high`.
    Raises NotSearchable.
    """
    return _Bounding(formula, names, ends, conditions, budget).run(met)


class _Bounding:
    def __init__(self, formula: Formula, names: Sequence[str], ends: Ends, conditions: Sequence[Constraint], budget: int) -> None:
        self.names, self.conditions, self.budget = list(names), list(conditions), budget
        self.n = len(self.names)
        self.value = Tape([formula], self.names)
        try:
            self.tape = Tape([formula, *(derivative(formula, v) for v in self.names)], self.names)
            self.slopes = True
        except NoDerivative:
            self.tape, self.slopes = self.value, False
        self.limits = [Tape([k.formula], self.names) for k in self.conditions]
        self.box = box_of(ends)
        self.scale = [max(float(x.rad()), 1e-300) for x in self.box]
        self.best: Any = None
        self.size = 0.0
        self.looked_at = 0

    def run(self, met: Sequence[Sequence[float]]) -> Bounds:
        with precision(_BITS):
            try:
                return self._run(met)
            except NoBall as missing:
                raise NotSearchable(f"'{missing}' has no bounds that could be proven") from None

    def _run(self, met: Sequence[Sequence[float]]) -> Bounds:
        self._meet(tuple(x.mid() for x in self.box))
        for place in met:
            self._meet(tuple(arb(float(v)) for v in place))
        queue: list[tuple[float, int, Box]] = []
        self._put(queue, self.box)
        rest: list[tuple[float, Box]] = []
        while queue and self.looked_at < self.budget:
            low, _, box = queue[0]
            if self.best is not None and float(self.best) - low <= self._room():
                break
            heapq.heappop(queue)
            if max(float(x.rad()) / s for x, s in zip(box, self.scale, strict=True)) < 1e-9:
                rest.append((low, box))
                if len(rest) > 200:
                    break
                continue
            for half in self._halves(box):
                self._put(queue, half)
        lows = [q[0] for q in queue] + [r[0] for r in rest]
        best = float(self.best) if self.best is not None else float("inf")
        low = min(lows, default=best)
        kept = [q[2] for q in queue if q[0] <= best] + [r[1] for r in rest if r[0] <= best]
        tight = best < float("inf") and best - low <= 10 * self._room()
        return Bounds(min(low, best), best, self.looked_at, kept[:200], tight)

    def _room(self) -> float:
        """How near the bounds must come: nine digits of the value, or of a hundredth of what was met first."""
        return _TIGHT * max(abs(float(self.best)), 0.01 * min(self.size, 1.0), 1e-12)

    def _put(self, queue: list[tuple[float, int, Box]], box: Box) -> None:
        self.looked_at += 1
        narrowed = self._bounded(box)
        if narrowed is None:
            return
        low, box = narrowed
        if self.best is not None and low > float(self.best):
            return
        self._meet(tuple(x.mid() for x in box))
        heapq.heappush(queue, (low, self.looked_at, box))

    def _bounded(self, box: Box) -> tuple[float, Box] | None:
        """A lower bound on a box, which is cut down to a face where the function rises throughout; None where nothing counts."""
        for tape in self.limits:
            if _nowhere_allowed(tape, box):
                return None
        low: float | None = None
        smooth = None
        count = 0
        for values in branches(lambda: self.tape.ball(*box)):
            if values is None or not values[0].is_finite():
                return float("-inf"), box
            count += 1
            least = float(values[0].lower())
            low = least if low is None else min(low, least)
            smooth = values
        if low is None:
            return None
        if not (self.slopes and count == 1 and doubt.clean and smooth is not None and all(v.is_finite() for v in smooth)):
            return low, box
        if not self.conditions:
            cut = list(box)
            changed = False
            for k in range(self.n):
                if float(cut[k].rad()) == 0:
                    continue
                slope = smooth[k + 1]
                if slope > 0 or slope < 0:
                    end = cut[k].lower() if slope > 0 else cut[k].upper()
                    edge = self.box[k].lower() if slope > 0 else self.box[k].upper()
                    if end != edge and not (end - edge).contains(0):
                        return None  # lower values lie in the neighbouring box
                    cut[k] = end
                    changed = True
            if changed:
                return self._bounded(tuple(cut))
        middle = tuple(x.mid() for x in box)
        at = self.value.ball(*middle)[0]
        linear = at + sum((smooth[k + 1] * (box[k] - middle[k]) for k in range(self.n)), arb(0))
        return max(low, float(linear.lower())), box

    def _meet(self, place: Box) -> None:
        for tape, cond in zip(self.limits, self.conditions, strict=True):
            value = _values(tape, place)
            if value is None or not (value[0] < 0 or (not cond.strict and value[0] <= 0)):
                return
        value = _values(self.value, place)
        if value is not None and all(w.contains(x) for w, x in zip(self.box, place, strict=True)):
            top = value[0].upper()
            self.size = self.size or abs(float(top))
            if self.best is None or top < self.best:
                self.best = top

    def _halves(self, box: Box) -> list[Box]:
        widths = [float(x.rad()) / s for x, s in zip(box, self.scale, strict=True)]
        k = int(np.argmax(widths))
        low, high = box[k].lower(), box[k].upper()
        middle = ((low + high) / 2).mid()
        return [(*box[:k], low.union(middle), *box[k + 1 :]), (*box[:k], middle.union(high), *box[k + 1 :])]


def _nowhere_allowed(limit: Tape, box: Box) -> bool:
    return all(values is not None and values[0] > 0 for values in branches(lambda: limit.ball(*box)))


def with_overall(found: Landscape, kind: Kind, bounds: Bounds | None, sign: int) -> Landscape:
    """Mark the lowest (highest) of the places, if it is shown that nothing lies beyond it.

    Either by the bounds, or because all candidates are known: a continuous function on a closed, bounded part of space
    takes its least value at one of them.
    """
    chosen = [p for p in found.places if p.kind == kind]
    if not chosen:
        return found
    least = min(chosen, key=lambda p: sign * p.value)
    size = max(abs(least.value), 1e-6)
    bounded = bounds is not None and bounds.tight and sign * least.value <= bounds.high + 1e-8 * size
    with precision(_FINE):
        own = arb(least.value_interval[0]).union(arb(least.value_interval[1]))
        known = found.complete and all(sign * v > sign * own or v.overlaps(own) for v in found.values)
    if not (bounded or known):
        found.notes.append(f"that no value lies {'below' if sign > 0 else 'above'} those named was not proven")
        return found
    alike = 1e-9 * size
    places = [replace(p, overall=True) if p.kind == kind and abs(p.value - least.value) <= alike else p for p in found.places]
    return replace(found, places=places)
