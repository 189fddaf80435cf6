"""Zeros of one formula set apart from each other by ball arithmetic.

A window is halved until on each box one of these is shown: the enclosure holds no zero; the function is undefined
throughout; it is zero throughout; or it is continuous with a derivative that is nowhere zero, so that the signs at the
ends tell whether it holds exactly one zero or none. What is left are specks: zeros where the derivative vanishes too.
Those are settled by higher derivatives and, where algebra can, by an exact value.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from flint import arb, ctx

from ...formula.ball import Undefined, branches, doubt, from_fraction, hull_of_branches, precision, quotient
from ...formula.calculus import NoDerivative, derivative
from ...formula.exact import is_exactly_zero
from ...formula.nodes import Formula
from ...formula.tape import Tape
from ..evidence import Evidence
from ..extended import ExtendedInterval, excludes_zero

SEARCH_BITS = 64
CLOSE_BITS = 192  # for boxes so small that 64 bits would drown in cancellation
FINE_BITS = 256
MOST_RULED = 240  # spans of which it is kept what became of them
CLOSE = 20  # halvings of the window after which a box counts as small
TRIES = 60  # attempts to settle a small box by higher derivatives before it is a speck
SPECK = arb(2) ** -44  # width of a box, relative to its place and the window, at which halving ends
STAGE = 1_200  # boxes after which what is left is looked at as a whole by higher derivatives; doubled each time
CLUSTERS = 40  # at most so many clusters are looked at in one stage
SPREAD = 17  # halvings of the window down to which zeros count as spread over it
BOXES_A_ZERO = 5  # more boxes for every zero that was found: a long window with many is worth the time
MAX_ZEROS = 20_000
MAX_ORDER = 6
_SPLITS = tuple(arb(s) for s in ("0.4871", "0.5312", "0.4419", "0.5577", "0.3906"))


@dataclass(frozen=True, slots=True)
class Zero:
    """A zero within `place`; multiplicity None where it could not be told."""

    place: Any
    multiplicity: int | None
    evidence: Evidence
    doubt: str = ""


@dataclass
class Isolation:
    zeros: list[Zero] = field(default_factory=list)
    flat: list[tuple[Any, Any]] = field(default_factory=list)
    unsettled: list[tuple[Any, Any]] = field(default_factory=list)
    boxes: int = 0
    ruled: list[tuple[float, float, str]] = field(default_factory=list)  # what became of the first spans, and why


def isolate(formula: Formula, variable: str, low: Any, high: Any, budget: int, found: Callable[[int], None] | None = None) -> Isolation:
    """Zeros of a formula between two exact balls low < high."""
    return _Isolator(formula, variable, low, high, budget, found).run()


def box(low: Any, high: Any) -> Any:
    return low.union(high)


class _Isolator:
    def __init__(
        self, formula: Formula, variable: str, low: Any, high: Any, budget: int, found: Callable[[int], None] | None = None
    ) -> None:
        self.formula, self.variable = formula, variable
        self.low, self.high, self.budget, self.found = low, high, budget, found
        self.value = Tape([formula], [variable])
        try:
            slope: Formula | None = derivative(formula, variable)
        except NoDerivative:
            slope = None
        self.derivatives = [formula] if slope is None else [formula, slope]
        self.both = Tape([formula, slope], [variable]) if slope is not None else None
        self.result = Isolation()
        self.specks: list[tuple[Any, Any]] = []
        self.least = (high - low).upper() * SPECK
        self.close = (high - low).upper() * arb(2) ** -CLOSE
        self.spread = (high - low).upper() * arb(2) ** -SPREAD
        self.tries = 0

    def run(self) -> Isolation:
        with precision(SEARCH_BITS):
            queue = deque([(self.low, self.high)])
            stage = STAGE
            while queue:
                if self.result.boxes >= stage:
                    stage *= 2
                    queue = deque(self._clusters_settled(queue))
                    continue
                low, high = queue.popleft()
                if self._spent(high - low):
                    self.result.unsettled += _touching_joined([(low, high), *queue])
                    break
                if high - low > self.close:
                    queue.extend(self._look(low, high))
                else:
                    with precision(CLOSE_BITS):
                        queue.extend(self._look_closely(low, high))
            self._settle_specks()
        return self.result

    def _spent(self, width: Any) -> bool:
        """Whether enough boxes were looked at. Zeros spread over a long window are worth more; zeros that gather are not."""
        more = BOXES_A_ZERO * len(self.result.zeros) if width > self.spread else 0
        return self.result.boxes >= self.budget + more or len(self.result.zeros) >= MAX_ZEROS

    def _clusters_settled(self, queue: deque[tuple[Any, Any]]) -> list[tuple[Any, Any]]:
        """The boxes left after those are gone that lie in clusters which higher derivatives settle.

        Around a zero of high multiplicity halving gets nowhere, while the cluster is still wide enough for a derivative
        that has one sign on all of it.
        """
        clusters = _touching_joined(list(queue))
        if len(clusters) > CLUSTERS:
            return list(queue)
        left: list[tuple[Any, Any]] = []
        for low, high in clusters:
            zeros = self._by_higher_derivatives(low, high)
            if zeros is None:
                left += [b for b in queue if b[0] >= low and b[1] <= high]
            else:
                self.result.zeros += zeros
        return left

    # ------------------------------------------------------------ one box

    def _look_closely(self, low: Any, high: Any) -> list[tuple[Any, Any]]:
        """A small box: once in a while ask the higher derivatives, which settle zeros of higher multiplicity at once."""
        halves = self._look(low, high)
        if not halves or self.tries >= TRIES:
            return halves
        self.tries += 1
        zeros = self._by_higher_derivatives(low, high)
        if zeros is None:
            return halves
        self.result.zeros += zeros
        return []

    def _look(self, low: Any, high: Any) -> list[tuple[Any, Any]]:
        """What becomes of a box: nothing more to do, or two halves."""
        self.result.boxes += 1
        whole = box(low, high)
        tape = self.both or self.value
        values = self._candidates(tape, whole)
        if not values and tape is not self.value:
            # A slope that has no value anywhere says nothing of the function.
            tape = self.value
            values = self._candidates(tape, whole)
        clean = doubt.clean
        if not values:
            self._rule(low, high, "away")
            return []
        if values[0] is None or not all(v[0].is_finite() for v in values):
            if excludes_zero(tape, 0, ExtendedInterval(low, high)):
                self._rule(low, high, "away")
                return []
        elif all(v[0].is_zero() for v in values) and clean:
            self.result.flat.append((low, high))
            self._rule(low, high, "flat")
            return []
        elif clean and tape is self.both and len(values) == 1:
            before = len(self.result.zeros)
            decided = self._by_slope(low, high, whole, values[0][1])
            if decided:
                self._rule(low, high, "one" if len(self.result.zeros) > before else "monotone")
                return []
        return self._halves(low, high)

    def _candidates(self, tape: Tape, whole: Any) -> list[Any]:
        """What a tape gives on a box, on each branch on which its first value may be zero; [None] where there are too many branches."""
        values: list[Any] = []
        for found in branches(lambda: tape.ball(whole)):
            if found is None:
                return [None]
            if not found[0].is_finite() or found[0].contains(0):
                values.append(found)
        return values

    def _rule(self, low: Any, high: Any, why: str) -> None:
        if len(self.result.ruled) < MOST_RULED:
            self.result.ruled.append((float(low), float(high), why))

    def _by_slope(self, low: Any, high: Any, whole: Any, slope: Any) -> bool:
        """Decide a box on which the function is continuous and the slope is enclosed; True if that was possible."""
        if not slope.is_finite():
            return False
        if slope.contains(0):
            middle = whole.mid()
            return not (self.value.ball(middle)[0] + slope * (whole - middle)).contains(0)
        at_low, at_high = self._sign(low), self._sign(high)
        if at_low == 0 or at_high == 0:
            return False
        if at_low != at_high:
            self.result.zeros.append(Zero(self._refined(whole), 1, "proven"))
            if self.found is not None and len(self.result.zeros) % 50 == 0:
                self.found(len(self.result.zeros))
        return True

    def _sign(self, place: Any) -> int:
        """Sign of the function at an exact place; 0 where no precision can tell."""
        for bits in (ctx.prec, FINE_BITS):
            try:
                if bits == ctx.prec:
                    value = self.value.ball(place)[0]
                else:
                    with precision(bits):
                        value = self.value.ball(place)[0]
            except Undefined:
                return 0
            if value > 0:
                return 1
            if value < 0:
                return -1
        return 0

    def _halves(self, low: Any, high: Any) -> list[tuple[Any, Any]]:
        width = high - low
        if width <= self.least or width <= SPECK * abs(low).max(abs(high)):
            self.specks.append((low, high))
            return []
        for share in _SPLITS:
            middle = (low + width * share).mid()
            if self._sign(middle) or share is _SPLITS[-1]:
                break
        return [(low, middle), (middle, high)]

    # ------------------------------------------------------------ narrowing down

    def _refined(self, place: Any) -> Any:
        """Narrow a box that holds exactly one simple zero, by interval Newton steps, to far below a double's last digit.

        Moore, Kearfott and Cloud (2009), eq. (8.8): N(X) = m - f(m)/F'(X), met with X.
        """
        assert self.both is not None
        with precision(FINE_BITS // 2):
            for _ in range(60):
                middle = place.mid()
                value = self.value.ball(middle)[0]
                doubt.begin([])
                slope = self.both.ball(place)[1]
                if value.is_zero():
                    return middle
                if slope.contains(0) or not slope.is_finite():
                    narrower = self._bisected(place, middle)
                else:
                    narrower = (middle - value / slope).intersection(place)
                    if narrower.rad() * 4 > place.rad() * 3:
                        narrower = self._bisected(narrower, narrower.mid())
                if narrower.rad() >= place.rad():
                    break
                place = narrower
                if place.rad() == 0 or place.rel_accuracy_bits() > 100:
                    break
        return place

    def _bisected(self, place: Any, middle: Any) -> Any:
        low, high = place.lower(), place.upper()
        at_low, at_middle = self._sign(low), self._sign(middle)
        if not at_middle or not at_low:
            return place
        return box(middle, high) if at_low == at_middle else box(low, middle)

    # ------------------------------------------------------------ specks

    def _settle_specks(self) -> None:
        """Specks: edges of stretches of zeros, zeros of higher multiplicity, edges of the domain, or unsettled."""
        for low, high in _touching_joined(self.specks):
            beside = [place for place, (a, b) in enumerate(self.result.flat) if low <= b and high >= a]
            if beside:
                self._end_flat(low, high, beside)
                continue
            zeros = self._by_higher_derivatives(low, high)
            if zeros is None:
                zeros = self._by_plain_place(low, high)
            if zeros is None:
                self.result.unsettled.append((low, high))
            else:
                self.result.zeros += zeros

    def _end_flat(self, low: Any, high: Any, beside: list[int]) -> None:
        """A speck beside a stretch of zeros: the stretch ends at the plain number within it, if there is one."""
        flat = self.result.flat
        plain = _plain_number(box(low, high))
        if len(beside) > 1 or plain is None:
            flat.append((low, high))
            return
        place = from_fraction(plain.numerator, plain.denominator).mid()
        a, b = flat[beside[0]]
        flat[beside[0]] = (a.min(place), b) if low < a else (a, b.max(place))

    def _by_higher_derivatives(self, low: Any, high: Any) -> list[Zero] | None:
        with precision(FINE_BITS):
            try:
                return _Speck(self.derivatives, self.variable, low, high).zeros()
            except (Undefined, NoDerivative):
                return None

    def _by_plain_place(self, low: Any, high: Any) -> list[Zero] | None:
        """An edge of the domain, or an infinite slope, at a plain number inside: each side by itself.

        On a side nothing is zero if the enclosure says so, or if the function is zero at the place and its slope has
        one sign on the side (wherever it is defined): a strictly monotonic function has no second zero.
        """
        if self.both is None:
            return None
        with precision(FINE_BITS):
            plain = _plain_number(box(low, high))
            if plain is None:
                return None
            place = from_fraction(plain.numerator, plain.denominator)
            if not place.is_exact():
                return None
            zero = is_exactly_zero(self.formula, {self.variable: _sympy_number(plain)})
            for side in (ExtendedInterval(low, place), ExtendedInterval(place, high)):
                if excludes_zero(self.both, 0, side):
                    continue
                if not (zero and excludes_zero(self.both, 1, side)):
                    return None
            if not zero:
                return None if self._may_vanish(place) else []
            return [Zero(place, None, "proven")]

    def _may_vanish(self, place: Any) -> bool:
        try:
            value = hull_of_branches(lambda: self.value.ball(place)[0])
        except Undefined:
            return False
        return bool(value.contains(0)) or not value.is_finite()


class _Speck:
    """A tiny box on which the function and its slope may both vanish."""

    def __init__(self, derivatives: list[Formula], variable: str, low: Any, high: Any) -> None:
        self.variable, self.low, self.high = variable, low, high
        # A little wider, so that a zero at a shared end lies inside.
        margin = (high - low) * 3
        self.place = box((low - margin).lower(), (high + margin).upper())
        self.derivatives = derivatives  # shared by all specks of one function; grown where a higher order is asked for

    def zeros(self) -> list[Zero] | None:
        """The zeros of the speck, or None where it stays unsettled."""
        order = self._first_nonzero_order()
        if order is None:
            return None
        if order == 0:
            return []
        centre = self._zero_of(order - 1)
        if centre is None:
            return [] if order == 1 else None
        if order == 1:
            return [Zero(centre, 1, "proven")] if self._own(centre) else []
        at_centre = [self._ball(k, centre) for k in range(order)]
        if all(v.contains(0) for v in at_centre):
            return self._multiple(centre, order)
        return self._pair(centre, at_centre[0]) if order == 2 else None

    def _first_nonzero_order(self) -> int | None:
        """The least k for which the k-th derivative is shown to be nowhere zero on the place, with all before continuous."""
        for order in range(MAX_ORDER + 1):
            if order == len(self.derivatives):
                self.derivatives.append(derivative(self.derivatives[-1], self.variable))
            value = self._ball(order, self.place)
            if not doubt.clean or not value.is_finite():
                return None
            if not value.contains(0):
                return order
        return None

    def _ball(self, order: int, place: Any) -> Any:
        doubt.begin([])
        return Tape([self.derivatives[order]], [self.variable]).ball(place)[0]

    def _zero_of(self, order: int) -> Any | None:
        """The one zero of a monotonic derivative on the place, narrowed to the working precision; None where it has none."""
        inner = _Isolator(self.derivatives[order], self.variable, self.place.lower(), self.place.upper(), 1)
        if inner._sign(self.place.lower()) == inner._sign(self.place.upper()):
            return None
        place = self.place
        for _ in range(40):
            middle = place.mid()
            step = self._ball(order, middle) / self._ball(order + 1, place)
            narrower = (middle - step).intersection(place)
            if narrower.rad() >= place.rad():
                break
            place = narrower
        return place

    def _own(self, place: Any) -> bool:
        """Whether a zero belongs to this speck and not to its neighbour."""
        return bool(place.overlaps(box(self.low, self.high)))

    def _multiple(self, centre: Any, order: int) -> list[Zero] | None:
        """f, f', … f^(order-1) cannot be told from 0 at the centre: a zero of that multiplicity if algebra agrees."""
        if not self._own(centre):
            return []
        if self._exact_at(centre, order):
            return [Zero(centre, order, "proven")]
        why = f"the function and its first {order - 1} derivatives vanish here to 70 digits, which is not a proof"
        return [Zero(centre, order, "checked", why)]

    def _exact_at(self, centre: Any, order: int) -> bool:
        return any(
            all(is_exactly_zero(self.derivatives[k], {self.variable: candidate}) for k in range(order))
            for candidate in exact_candidates(centre)
        )

    def _pair(self, centre: Any, at_centre: Any) -> list[Zero] | None:
        """Monotonic on either side of the one turning point: signs tell of none or two zeros."""
        ends = (self.place.lower(), self.place.upper())
        inner = _Isolator(self.derivatives[0], self.variable, *ends, 1)
        turning = 1 if at_centre > 0 else -1
        signs = [inner._sign(e) for e in ends]
        if 0 in signs:
            return None
        zeros = []
        for end, sign in zip(ends, signs, strict=True):
            if sign != turning:
                place = self._closing_in(inner, end, centre, sign)
                if self._own(place):
                    zeros.append(Zero(place, 1, "proven"))
        return zeros

    def _closing_in(self, inner: _Isolator, end: Any, centre: Any, sign: int) -> Any:
        """Bisection between an end and the turning point."""
        outer, near = end, centre.mid()
        for _ in range(FINE_BITS):
            middle = ((outer + near) / 2).mid()
            if middle in (outer, near):
                break
            if inner._sign(middle) == sign:
                outer = middle
            else:
                near = middle
        return box(outer, near)


def _plain_number(place: Any) -> Fraction | None:
    """The simplest fraction within a ball."""
    middle = fraction_of(place.mid())
    for greatest in (1, 10, 1000):
        guess = middle.limit_denominator(greatest)
        if place.contains(from_fraction(guess.numerator, guess.denominator)):
            return guess
    return None


def fraction_of(point: Any) -> Fraction:
    return Fraction(*quotient(point))


def _sympy_number(value: Fraction) -> Any:
    import sympy

    return sympy.Rational(value.numerator, value.denominator)


def exact_candidates(place: Any) -> list[Any]:
    """Plain exact numbers within a narrow ball: fractions, fractions of pi and of e, square roots and logarithms of fractions."""
    import sympy

    found = []
    shapes = (
        (place, lambda q: q),
        (place / arb.pi(), lambda q: q * sympy.pi),
        (place / arb.const_e(), lambda q: q * sympy.E),
        (place**2, lambda q: sympy.sqrt(q) if place > 0 else -sympy.sqrt(q)),
        (place.exp(), sympy.log),
    )
    for ratio, exact in shapes:
        if not ratio.is_finite():
            continue
        guess = fraction_of(ratio.mid()).limit_denominator(1000)
        if guess.denominator and ratio.contains(from_fraction(guess.numerator, guess.denominator)):
            found.append(exact(_sympy_number(guess)))
    return found


def _touching_joined(boxes: list[tuple[Any, Any]]) -> list[tuple[Any, Any]]:
    """Neighbouring boxes made one."""
    joined: list[tuple[Any, Any]] = []
    for low, high in sorted(boxes, key=lambda b: float(b[0])):
        if joined and low <= joined[-1][1]:
            joined[-1] = (joined[-1][0], joined[-1][1].max(high))
        else:
            joined.append((low, high))
    return joined


__all__ = ["Isolation", "Zero", "exact_candidates", "isolate"]
