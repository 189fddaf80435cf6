"""All local minima and maxima of a function of one variable in a window, and where it bends from one way to the other.

The function is taken apart into smooth pieces (`pieces`). In each the roots of the slope are isolated with proof; between
two neighbouring places (roots, joints, ends) the slope then has one sign, which one proven value tells. A place is a
minimum where the values fall towards it from the left and rise to the right; at a jump the values on both sides are
compared with the one that is taken. So kinks, where there is no slope, are found like turning points.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from fractions import Fraction
from typing import Any, Literal

from flint import arb

from ...formula import catalogue as c
from ...formula.ball import Undefined, precision
from ...formula.calculus import NoDerivative, derivative
from ...formula.certain import Certain, certain_value
from ...formula.domain import end_value, infinite, joints
from ...formula.exact import is_exactly_zero
from ...formula.nodes import Formula, Number, expanded, substitute, variables
from ...formula.piecewise import apart
from ..evidence import Evidence
from ..extended import ExtendedInterval
from ..proving.strict import NotPlain, Places, Spot, spot_of
from ..roots.infinite_intervals import REACHES, UNSURE_REACH, Tail, factored, interval_of, mirrored
from ..roots.pieces import Piece, Place, SmoothPieces, TooManyPieces, as_formula, sign_at, smooth_pieces, value_at
from ..roots.search import NotSearchable, Root, Stretch, find_roots

What = Literal["minimum", "maximum", "inflection"]
Shape = Literal["turn", "kink", "jump", "end", "edge", "stretch"]
INFINITY = float("inf")
_TRIES = (0.4871, 0.5312, 0.2673, 0.7411, 0.0917, 0.9233)


@dataclass(frozen=True, slots=True)
class Extremum:
    """One local minimum, maximum or inflection.

    shape    turn: the slope is zero; kink: there is no slope; jump: the function jumps; end: an end of the window; edge: an
             end of the domain inside of it; stretch: the value is taken from `x` to `x_high`
    overall  that no value of the window lies below (above) this one
    """

    what: What
    x: float
    interval: tuple[str, str]
    value: float
    value_interval: tuple[str, str]
    shape: Shape
    evidence: Evidence
    exact: Fraction | None = None
    x_high: float | None = None
    overall: bool = False
    place: Formula | None = field(default=None, repr=False, compare=False)
    ball: Any = field(default=None, repr=False, compare=False)
    slope: Formula | None = field(default=None, repr=False, compare=False)  # the formula that is zero here


@dataclass
class Turns:
    places: list[Extremum]
    unsettled: list[Stretch]
    boxes: int
    notes: list[str] = field(default_factory=list)
    covered: bool = True  # whether it is proven that there are no others
    others: list[Place] = field(default_factory=list)  # further places at which the slope is zero

    @property
    def complete(self) -> bool:
        return not self.unsettled


@dataclass(slots=True)
class _TurnSpot:
    """A place where the slope may change its sign, with what is known to its left and right."""

    place: Place
    shape: Shape
    root: Root | None = None
    high: float | None = None  # of a stretch
    left: Piece | None = None
    right: Piece | None = None
    before: int | None = None  # sign of the slope just left of it; None where there is nothing
    after: int | None = None
    sure: bool = True


def turning_points(formula: Formula, variable: str, low: Formula, high: Formula, what: frozenset[What]) -> Turns:
    """All local minima and maxima (or those of one kind) from `low` to `high`, which may be infinite.

    Proven: each place graded so is what it is said to be, and if nothing is unsettled there are no others. Raises NotSearchable.
    """
    return _TurningSearch(formula, variable, low, high).turns(what)


def inflections(formula: Formula, variable: str, low: Formula, high: Formula) -> Turns:
    """Where the slope stops rising and begins to fall, or the other way round; ends of the window are none."""
    return _TurningSearch(apart(formula), variable, low, high).bends()


def place_spot(place: Place, root: Root | None = None) -> Spot:
    """A place between pieces as one at which a value is asked for."""
    root = root or place.root
    if root is not None and root.ball is not None and root.exact is None:
        return Spot(root.ball)
    return spot_of(place.formula)


class _TurningSearch:
    def __init__(self, formula: Formula, variable: str, low: Formula, high: Formula) -> None:
        self.formula, self.variable = expanded(formula), variable
        self.endless = (infinite(low), infinite(high))
        self.window = (low, high)
        self.boxes = 0
        self.notes: list[str] = []
        self.unsettled: list[Stretch] = []
        self.tail_signs = [0, 0]
        self.values: dict[Place, Certain | None] = {}
        self.doubtful = False  # whether a switch may have changed unseen, so that no piece can be relied on
        try:
            self.strict: Places | None = Places(self.formula, variable)
        except NotPlain:
            self.strict = None

    # ------------------------------------------------------------ windows without an end

    def _bounded(self, order: int) -> tuple[Formula, Formula]:
        """A finite window outside of which the derivative of that order keeps one sign; what is not shown is unsettled."""
        if not any(self.endless):
            return self.window
        slope = self._derivative(self.formula, order)
        ends = list(self.window)
        inner = [abs(end_value(e)) for e in self.window if not infinite(e)] + [
            abs(end_value(j)) for j in joints(self.formula, self.variable)
        ]
        least = max([0.0, *inner])
        for side in (0, 1):
            if not self.endless[side]:
                continue
            tail = Tail(slope if side else mirrored(slope, self.variable), self.variable)
            whole = self.formula if side else mirrored(self.formula, self.variable)
            reach = tail.quiet_from()
            reach = next((r for r in REACHES if reach is not None and r >= reach and tail.steady(whole, r)), None)
            place = max(reach or UNSURE_REACH, int(least) + 1)
            ends[side] = Number(Fraction(place if side else -place))
            if reach is None:
                far = INFINITY
                self.unsettled.append(Stretch(float(place), far) if side else Stretch(-far, float(-place)))
            else:
                sign = tail.sign(place)
                # Seen from the left to the right: the mirrored slope of a rising function is that slope itself.
                self.tail_signs[side] = sign
        return ends[0], ends[1]

    def _derivative(self, formula: Formula, order: int) -> Formula:
        try:
            for _ in range(order):
                formula = derivative(formula, self.variable)
        except NoDerivative as missing:
            raise NotSearchable(f"there is no derivative by rule of {missing}") from None
        return formula

    def _pieces(self, low: Formula, high: Formula) -> SmoothPieces:
        try:
            pieces = smooth_pieces(self.formula, self.variable, low, high)
        except TooManyPieces:
            raise NotSearchable("the function has too many joints in the window; narrow it") from None
        self.unsettled += pieces.unsettled
        self.doubtful = bool(pieces.unsettled)
        return pieces

    # ------------------------------------------------------------ the places

    def _spots(self, pieces: SmoothPieces, order: int) -> list[_TurnSpot]:
        """Ends, joints, and the roots of the derivative of each piece, with its sign between neighbours."""
        spots: list[_TurnSpot] = []
        first, last = pieces.pieces[0].low, pieces.pieces[-1].high
        for piece in pieces.pieces:
            spot = _TurnSpot(piece.low, self._shape_of(piece.low, first, last))
            if spots and spots[-1].place is piece.low:
                spot = spots[-1]
            else:
                spots.append(spot)
            spot.right = piece
            if piece.formula is not None:
                slope = self._derivative(piece.formula, order)
                spots += self._between(piece, slope)
            spots.append(_TurnSpot(piece.high, self._shape_of(piece.high, first, last), left=piece))
            self._sign_between(spots, piece, None if piece.formula is None else slope)
        return spots

    def _shape_of(self, place: Place, first: Place, last: Place) -> Shape:
        if place is first or place is last:
            return "end"
        return "jump" if "jump" in place.kinds else "kink"

    def _between(self, piece: Piece, slope: Formula) -> list[_TurnSpot]:
        if self.variable not in variables(slope):
            return []
        found = find_roots(slope, self.variable, piece.low.formula, piece.high.formula)
        if found.unsettled:
            # Put together by algebra a slope such as ln(x) + x*(1/x) can be enclosed next to the edge of its domain.
            other = factored(slope)
            again = find_roots(other, self.variable, piece.low.formula, piece.high.formula) if other is not None else found
            found = again if not again.unsettled else found
        self.boxes += found.boxes
        self.unsettled += found.unsettled
        spots = []
        for root in found.roots:
            inside = piece.low.x < root.x < piece.high.x
            if root.at_end or not inside:
                continue
            if any(s.low <= root.x <= s.high for s in found.flat):
                continue
            spots.append(_TurnSpot(Place(as_formula(root), root.x), "turn", root, sure=root.evidence == "proven"))
        for s in found.flat:
            inner = (max(s.low, piece.low.x), min(s.high, piece.high.x))
            spots.append(_TurnSpot(Place(Number(Fraction(inner[0])), inner[0]), "stretch", high=inner[1], sure=False))
        for spot in spots:
            spot.left = spot.right = piece
        return sorted(spots, key=lambda s: s.place.x)

    def _sign_between(self, spots: list[_TurnSpot], piece: Piece, slope: Formula | None) -> None:
        """The sign of the slope between the neighbouring places of one piece."""
        start = next(k for k in range(len(spots) - 1, -1, -1) if spots[k].place is piece.low)
        for a, b in zip(spots[start:], spots[start + 1 :], strict=False):
            sign: int | None = None
            if slope is not None:
                left = a.high if a.high is not None else a.place.x
                if left < b.place.x:
                    sign = 0 if self.variable not in variables(slope) and certain_value(slope).value == 0 else None
                    for share in _TRIES:
                        if sign is not None:
                            break
                        sign = sign_at(slope, self.variable, left + (b.place.x - left) * share)
                    if sign is None:
                        a.sure = b.sure = False
                        sign = 0
                else:
                    sign = 0
            a.after, b.before = sign, sign

    # ------------------------------------------------------------ minima and maxima

    def turns(self, what: frozenset[What]) -> Turns:
        low, high = self._bounded(1)
        pieces = self._pieces(low, high)
        spots = self._spots(pieces, 1)
        found: list[Extremum] = []
        for spot in sorted([*spots, *self._stretches(spots)], key=lambda s: s.place.x):
            if spot.shape == "end" and self.endless[spot.right is None]:
                continue
            for kind in self._kinds(spot):
                if kind not in what:
                    continue
                told = self._told(spot, kind)
                if told is None:
                    self.unsettled.append(Stretch(spot.place.x, spot.high if spot.high is not None else spot.place.x))
                else:
                    found.append(told)
        for kind in ("minimum", "maximum"):
            if kind in what:
                self._mark_overall(found, spots, kind)
        self._poles(spots)
        others = [replace(s.place, root=s.root) for s in spots if s.root is not None]
        return Turns(found, self.unsettled, self.boxes, self.notes, others=others)

    def _stretches(self, spots: list[_TurnSpot]) -> list[_TurnSpot]:
        """The runs of neighbours between which the function is constant, with how it goes on at both ends of each."""
        found: list[_TurnSpot] = []
        k = 0
        while k < len(spots) - 1:
            first = spots[k]
            if first.after != 0 or first.shape == "stretch" or not first.sure:
                k += 1
                continue
            last = k + 1
            while last < len(spots) - 1 and spots[last].after == 0 and self._continuous(spots[last]):
                last += 1
            level = self._limit(first.right, first)
            if level is not None:
                before = self._beside(first, level, first.left, first.before)
                after = self._beside(spots[last], level, spots[last].right, spots[last].after)
                stretch = _TurnSpot(first.place, "stretch", None, spots[last].place.x, first.right, first.right, before, after)
                found.append(stretch)
            k = last
        return found

    def _beside(self, spot: _TurnSpot, level: Certain, piece: Piece | None, sign: int | None) -> int | None:
        """The sign of the change at an end of a stretch, as if it were a slope; None where there is nothing beyond."""
        outward = 1 if spot.right is None or piece is spot.right else -1
        value = self._value(spot)
        if value is not None and not self._same(value, level):
            return outward if value.value > level.value else -outward
        if piece is None or piece.formula is None or sign is None:
            return None
        limit = self._limit(piece, spot)
        if limit is None:
            return self._pole_sign(spot, piece) * outward
        if self._same(limit, level):
            return sign
        return outward if limit.value > level.value else -outward

    def _continuous(self, spot: _TurnSpot) -> bool:
        if spot.shape in ("turn", "stretch", "end"):
            return True
        left, right = self._limit(spot.left, spot), self._limit(spot.right, spot)
        return left is not None and right is not None and self._same(left, right)

    def _kinds(self, spot: _TurnSpot) -> tuple[What, ...]:
        """What a place is: both, where there are no values beside it."""
        lone = all(p is None or p.formula is None for p in (spot.left, spot.right))
        if lone and spot.shape not in ("turn", "stretch"):
            return ("minimum", "maximum") if self._value(spot) is not None else ()
        kind = self._kind(spot)
        return () if kind is None else (kind,)

    def _kind(self, spot: _TurnSpot) -> What | None:
        if spot.shape in ("turn", "stretch"):
            return _by_signs(spot.before, spot.after)
        value = self._value(spot)
        if value is None:
            return None
        sides = []
        for piece, sign in ((spot.left, spot.before), (spot.right, None if spot.after is None else -spot.after)):
            sides.append(self._side(spot, value, piece, sign))
        if sides[0] is None and sides[1] is None:
            return None
        told = [s for s in sides if s is not None]
        if all(s < 0 for s in told):
            return "minimum"
        return "maximum" if all(s > 0 for s in told) else None

    def _side(self, spot: _TurnSpot, value: Certain, piece: Piece | None, towards: int | None) -> int | None:
        """How the value stands to those on one side: -1 below, 1 above, 0 neither; None where there are none.

        `towards` is the sign of the slope when the place is walked to from that side.
        """
        if piece is None or piece.formula is None or towards is None:
            return None
        limit = self._limit(piece, spot)
        if limit is None:
            sign = self._pole_sign(spot, piece)
            return -sign if sign else 0
        if not self._same(limit, value):
            if spot.shape == "kink":
                spot.shape = "jump"
            if not (limit.proven and value.proven):
                spot.sure = False
            return -1 if value.value < limit.value else 1
        # Falling towards the place: it lies below.
        return towards if spot.high is None or towards else 0

    def _pole_sign(self, spot: _TurnSpot, piece: Piece) -> int:
        near = spot.place.x + (1e-9 if piece is spot.right else -1e-9) * max(1.0, abs(spot.place.x))
        return sign_at(piece.formula, self.variable, near) or 0 if piece.formula is not None else 0

    def _value(self, spot: _TurnSpot) -> Certain | None:
        """The value that the function itself takes at a place; None where it has none there, whatever the limits beside it are."""
        place = spot.place
        if place not in self.values:
            self.values[place] = self._own_value(place, spot.root)
        found = self.values[place]
        if found is None or found.value != found.value or abs(found.value) == INFINITY:
            return None
        if not found.proven:
            spot.sure = False
        return found

    def _own_value(self, place: Place, root: Root | None) -> Certain | None:
        if self.strict is not None:
            found = self.strict.value(place_spot(place, root))
            if found is None or found.proven:
                return found
        return value_at(place.settled if place.settled is not None else self.formula, self.variable, place.formula)

    def _limit(self, piece: Piece | None, spot: _TurnSpot) -> Certain | None:
        """The value towards which those of a piece go at a place beside it."""
        if piece is None or piece.formula is None:
            return None
        place = spot.place.formula if piece is spot.right or spot.high is None else Number(Fraction(spot.high))
        found = value_at(piece.formula, self.variable, place)
        if not found.proven and place is spot.place.formula:
            found = self._own_limit(piece.formula, spot) or found
        if "pole" in spot.place.kinds and not found.proven:
            return None
        return found if found.value == found.value and abs(found.value) != INFINITY else None

    def _own_limit(self, formula: Formula, spot: _TurnSpot) -> Certain | None:
        """What a smooth piece is at its own edge, as sqrt(x^2 - 2) is 0 at sqrt(2): it is continuous where it has a value."""
        try:
            found = Places(formula, self.variable).value(place_spot(spot.place, spot.root))
        except NotPlain:
            return None
        return found if found is not None and found.proven else None

    def _same(self, one: Certain, other: Certain) -> bool:
        if one.exact is not None and other.exact is not None:
            return one.exact == other.exact
        return abs(one.value - other.value) <= 1e-14 * max(abs(one.value), abs(other.value), 1e-300)

    def _told(self, spot: _TurnSpot, what: What) -> Extremum | None:
        """What is known of a place; None where no value can be told, though the slopes beside it say that there is one."""
        value = self._value(spot) if spot.shape != "stretch" else self._limit(spot.right, spot)
        if value is None:
            return None
        place = certain_value(spot.place.formula)
        root = spot.root or spot.place.root
        proven = spot.sure and value.proven and place.proven and not self.doubtful
        shape: Shape = spot.shape
        if shape == "kink" and (spot.before is None or spot.after is None):
            shape = "edge"
        if shape == "kink" and spot.root is None and self._smooth_at(spot):
            shape = "turn"
        interval = place.interval or (repr(place.value), repr(place.value))
        return Extremum(
            what, place.value, interval, value.value, value.interval or (repr(value.value), repr(value.value)), shape,
            "proven" if proven else "checked", place.exact, spot.high, False, spot.place.formula, root.ball if root else None,
            root.factor if root else None,
        )  # fmt: skip

    def _smooth_at(self, spot: _TurnSpot) -> bool:
        """Whether a joint of two pieces is in truth a turning point: the slope is zero from both sides."""
        for piece in (spot.left, spot.right):
            if piece is None or piece.formula is None:
                return False
            slope = substitute(self._derivative(piece.formula, 1), {self.variable: spot.place.formula})
            found = certain_value(slope)
            if not (found.proven and found.value == 0):
                return False
        return True

    # ------------------------------------------------------------ overall

    def _mark_overall(self, found: list[Extremum], spots: list[_TurnSpot], what: What) -> None:
        """Between neighbours the function is monotonic, so the least of all places and one-sided limits is the least of all."""
        candidates = [t for t in found if t.what == what]
        sign = 1 if what == "minimum" else -1
        word = "lowest" if what == "minimum" else "highest"
        if self.unsettled:
            return
        if not candidates:
            for side in (0, 1):
                if self.endless[side] and (self.tail_signs[side] if side else -self.tail_signs[side]) * sign < 0:
                    where = "∞" if side else "−∞"
                    self.notes.append(f"there is no {word} value: towards {self.variable} = {where} there is always one beyond")
                    return
            self._none_taken(spots, sign, word)
            return
        least = min(candidates, key=lambda t: sign * t.value)
        beside = [
            (spot, piece, side, self._limit(piece, spot))
            for spot in spots
            for piece, side in ((spot.left, -1), (spot.right, 1))
            if piece is not None and piece.formula is not None and not (spot.shape == "end" and self.endless[spot.right is None])
        ]
        for spot, piece, side, limit in beside:
            if limit is not None and limit.proven:
                continue
            # Where the values go beside a place without a limit that is known: the slope's proven sign tells which way.
            towards = spot.before if side < 0 else None if spot.after is None else -spot.after
            if towards is not None and sign * towards >= 0:
                continue
            at = f"{self.variable} = {spot.place.x:.6g}"
            beyond = self._pole_way(spot, piece, side) * sign < 0
            self.notes.append(
                f"there is no {word} value: next to {at} the values go beyond all bounds"
                if beyond
                else f"whether there is a {word} value was not settled: that depends on what is next to {at}"
            )
            return
        for spot, _, _, limit in beside:
            if limit is not None and sign * limit.value < sign * least.value and not self._same_value(limit, least):
                at = f"{self.variable} = {spot.place.x:.6g}"
                self.notes.append(f"there is no {word} value: next to {at} the values come nearer to {limit.value:.6g} without taking it")
                return
        for side in (0, 1):
            if self.endless[side] and not self._tail_is_above(side, sign, least, word):
                return
        for k, turn in enumerate(found):
            if turn.what == what and (turn is least or self._alike(turn, least)):
                found[k] = replace(turn, overall=True)

    def _none_taken(self, spots: list[_TurnSpot], sign: int, word: str) -> None:
        """The note for a function that only comes near to a lowest (highest) value, beside a place where it is not taken."""
        if any(self.endless):
            return
        beside = [
            (spot, self._limit(p, spot)) for spot in spots for p in (spot.left, spot.right) if p is not None and p.formula is not None
        ]
        known = [(spot, limit) for spot, limit in beside if limit is not None and limit.proven]
        if known and len(known) == len(beside):
            spot, limit = min(known, key=lambda b: sign * b[1].value)
            at = f"{self.variable} = {spot.place.x:.6g}"
            self.notes.append(f"there is no {word} value: next to {at} the values come nearer to {limit.value:.6g} without taking it")

    def _same_value(self, limit: Certain, turn: Extremum) -> bool:
        if turn.interval and limit.interval and limit.proven:
            one, other = arb(limit.interval[0]).union(arb(limit.interval[1])), _ball_of(turn.value_interval)
            return bool(one.overlaps(other))
        return abs(limit.value - turn.value) <= 1e-14 * max(abs(limit.value), abs(turn.value), 1e-300)

    def _alike(self, one: Extremum, other: Extremum) -> bool:
        return bool(_ball_of(one.value_interval).overlaps(_ball_of(other.value_interval)))

    def _pole_way(self, spot: _TurnSpot, piece: Piece, side: int) -> int:
        """Which way the values run off beside a pole: 1 up, -1 down, 0 where they do not or that is not known."""
        if "pole" not in spot.place.kinds or piece.formula is None:
            return 0
        sizes = []
        for k in (3, 6, 9):
            near = spot.place.x + side * 10.0**-k * max(1.0, abs(spot.place.x))
            value = certain_value(substitute(piece.formula, {self.variable: Number(Fraction(near))})).value
            sizes.append(value)
        grows = abs(sizes[2]) > abs(sizes[1]) * 1.2 > abs(sizes[0])
        return (1 if sizes[2] > 0 else -1) if grows and abs(sizes[2]) > 5 else 0

    def _tail_is_above(self, side: int, sign: int, least: Extremum, word: str) -> bool:
        """Whether no value beyond the finite part lies below the least that was found."""
        slope = self.tail_signs[side]
        outward = slope if side else -slope
        if outward * sign > 0:
            return True
        place = ExtendedInterval(arb(1), None)
        formula = self.formula if side else mirrored(self.formula, self.variable)
        with precision(96):
            try:
                for reach in (1, 10, 100, 1000):
                    place = ExtendedInterval(arb(max(reach, int(abs(least.x)) + 1)), None)
                    found = interval_of(formula, self.variable, place)
                    bound = None if found is None else found.low if sign > 0 else found.high
                    if bound is not None and (bound >= arb(least.value_interval[1]) if sign > 0 else bound <= arb(least.value_interval[0])):
                        return True
            except Undefined:
                return True
        limit = limit_by_algebra(self.formula, self.variable, side)
        where = "∞" if side else "−∞"
        if limit is None:
            self.notes.append(f"whether there is a {word} value was not settled: that depends on what is beyond, towards {where}")
            return False
        if sign * limit < sign * least.value:
            self.notes.append(f"there is no {word} value: towards {self.variable} = {where} the values lie beyond those found")
            return False
        return True

    def _poles(self, spots: list[_TurnSpot]) -> None:
        for spot in spots:
            if "pole" in spot.place.kinds and len(self.notes) < 6:
                ways = [self._pole_way(spot, p, s) for p, s in ((spot.left, -1), (spot.right, 1)) if p is not None]
                if any(ways):
                    self.notes.append(f"{self.variable} = {spot.place.x:.10g} is a pole, not a turning point")

    # ------------------------------------------------------------ inflections

    def bends(self) -> Turns:
        low, high = self._bounded(2)
        pieces = self._pieces(low, high)
        spots = self._spots(pieces, 2)
        found = []
        others: list[Place] = []
        for spot in spots:
            if spot.shape == "end" or not spot.before or not spot.after:
                continue
            if spot.before == spot.after:
                others.append(spot.place)
                continue
            if spot.shape in ("turn", "stretch") or self._has_tangent(spot):
                told = self._told(spot, "inflection")
                found += [told] if told is not None else []
        return Turns(found, self.unsettled, self.boxes, self.notes, others=others)

    def _has_tangent(self, spot: _TurnSpot) -> bool:
        """Whether the function is continuous at a joint and has the same slope, maybe an infinite one, from both sides."""
        if self._value(spot) is None or not self._continuous(spot):
            return False
        slopes = []
        for piece in (spot.left, spot.right):
            assert piece is not None
            assert piece.formula is not None
            slopes.append(substitute(self._derivative(piece.formula, 1), {self.variable: spot.place.formula}))
        values = [certain_value(s) for s in slopes]
        if all(v.value == v.value and abs(v.value) != INFINITY for v in values):
            return self._same(*values) or is_exactly_zero(c.subtract(*slopes)) is True
        near = 1e-9 * max(1.0, abs(spot.place.x))
        pieces = (spot.left, spot.right)
        signs = [
            sign_at(self._derivative(p.formula, 1), self.variable, spot.place.x + s * near)  # type: ignore[union-attr, arg-type]
            for p, s in zip(pieces, (-1, 1), strict=True)
        ]
        return "edge" in spot.place.kinds and signs[0] is not None and signs[0] == signs[1]


def _by_signs(before: int | None, after: int | None) -> What | None:
    signs = [s for s in (before, None if after is None else -after) if s is not None]
    if not signs or 0 in signs or len(set(signs)) > 1:
        return None
    return "minimum" if signs[0] < 0 else "maximum"


def _ball_of(interval: tuple[str, str]) -> Any:
    return arb(interval[0]).union(arb(interval[1]))


def limit_by_algebra(formula: Formula, variable: str, side: int) -> float | None:
    """The limit at infinity (side 1) or -infinity (0) that algebra finds; None where it finds none."""
    from ..limits_and_sums.limits import limit_of

    place: Formula = c.constant("infinity")
    try:
        found = limit_of(formula, variable, place if side else c.minus(place))
    except NotSearchable:
        return None
    return found.value
