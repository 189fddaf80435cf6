"""How a formula behaves far out: beyond which place it keeps one sign, proven for all that lies further out.

A sum such as x^2 - exp(x) cannot be enclosed on [R, infinity): both parts grow beyond all bounds. But where a
derivative keeps one sign from R on, and the function and the derivatives before it have the same sign at R, none of them
can come back to zero (the mean value theorem, from the highest derivative down).
"""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

from flint import arb, fmpq

from ...formula import catalogue as c
from ...formula.ball import Undefined, branches, precision
from ...formula.calculus import NoDerivative, derivative, fraction
from ...formula.certain import certain_value, enclosure
from ...formula.domain import end_value, infinite, joints, plain_joints
from ...formula.exact import by_algebra, from_sympy, polynomial, to_sympy
from ...formula.nodes import Apply, Formula, Number, Variable, expanded, substitute, variables, walk
from ...formula.tape import NoBall, Tape
from ..extended import ExtendedInterval, either, interval_run
from .pieces import edges, is_switch
from .search import DEFAULT_BUDGET, NotSearchable, Roots, Stretch, find_roots

REACHES = (1, 3, 10, 30, 100, 300, 1_000, 10_000, 10**6, 10**9, 10**12)
UNSURE_REACH = 100  # what is searched where nothing is known of the tails
FAR = 1e6  # how far from a place the nearest root is sought where nothing is known of the tails
_DEPTH = 5
_FACTORINGS = 8  # of one formula and its derivatives by algebra
_LARGEST = 300  # parts of a formula that algebra is not asked to put together
_BITS = 96


# ---------------------------------------------------------------- the sign far out


class Tail:
    """A formula for x towards +infinity: from where on it has one sign."""

    def __init__(self, formula: Formula, variable: str) -> None:
        self.formula, self.variable = formula, variable
        # By the id of a formula, with the formula itself, so that its id stays its own.
        self._slopes_of: dict[int, tuple[Formula, list[Formula]]] = {}
        self._products: dict[int, tuple[Formula, Formula | None]] = {}
        self.factorings = _FACTORINGS  # left; algebra is the costly part

    def sign(self, reach: int | Fraction) -> int:
        """1 or -1 if the formula has that sign (and a value, or none) at every x >= reach; 0 where that is not shown."""
        try:
            return self._sign_from(reach)
        except Undefined:
            return 0

    def quiet_from(self) -> int | None:
        """The least of a few places from which on the formula has one sign, or no value."""
        for reach in REACHES:
            try:
                if self._sign_from(reach):
                    return reach
            except Undefined:
                return reach
        return None

    def _sign_from(self, reach: int | Fraction) -> int:
        with precision(_BITS):
            try:
                return self._sign(self.formula, arb(int(reach)), 0)
            except NoBall:
                return 0

    def _sign(self, formula: Formula, reach: Any, depth: int) -> int:
        formula = expanded(formula)
        if not isinstance(formula, Apply):
            return self._direct(formula, reach)
        plain = polynomial(formula, self.variable)
        if plain is not None:
            return _polynomial_sign(plain, reach)
        entry, args = formula.entry, formula.arguments
        if entry is c.NEGATIVE:
            return -self._sign(args[0], reach, depth)
        if entry in (c.MULTIPLY, c.DIVIDE):
            first = self._sign(args[0], reach, depth)
            return first * self._sign(args[1], reach, depth) if first else 0
        if entry.name == "exp":
            return 1
        if entry is c.POWER:
            base, exponent = expanded(args[0]), expanded(args[1])
            if isinstance(exponent, Number) and exponent.value.denominator == 1:
                inner = self._sign(base, reach, depth)
                return inner if int(exponent.value) % 2 else abs(inner)
            return abs(self._sign(base, reach, depth))  # of a positive number every power is positive
        if entry.name in ("sqrt", "abs", "cbrt"):
            inner = self._sign(args[0], reach, depth)
            return inner if entry.name == "cbrt" else abs(inner)
        if entry.name in ("ln", "log10", "log2"):
            return self._sign(c.subtract(args[0], Number(Fraction(1))), reach, depth)
        found = self._direct(formula, reach)
        return found or (self._by_derivatives(formula, reach, depth) if depth < _DEPTH else 0)

    def _direct(self, formula: Formula, reach: Any) -> int:
        found = interval_of(formula, self.variable, ExtendedInterval(reach, None))
        if found is None:
            return 0
        return 1 if found.low is not None and found.low > 0 else -1 if found.high is not None and found.high < 0 else 0

    def _by_derivatives(self, formula: Formula, reach: Any, depth: int) -> int:
        if id(formula) not in self._products:
            self._products[id(formula)] = (formula, self._factored(formula) if depth == 0 else None)
        product = self._products[id(formula)][1]
        if isinstance(product, Apply) and product.entry not in (c.ADD, c.SUBTRACT):
            found = self._sign(product, reach, depth + 1)
            if found:
                return found
        here = enclosure(Tape([formula], [self.variable]), _BITS, reach)
        if here is None or here.contains(0) or not here.is_finite():
            return 0
        if not self.steady(formula, reach):
            return 0
        sign = 1 if here > 0 else -1
        for slope in self._slopes(formula):
            with suppress(Undefined):
                way = self._sign(slope, reach, depth + 1)
                # Away from zero, or towards a limit of zero that is never reached.
                if way == sign or (way == -sign and self._goes_to_zero(formula)):
                    return sign
        return 0

    def _goes_to_zero(self, formula: Formula) -> bool:
        """Whether the limit is exactly 0: as a function of t = 1/x it is continuous at t = 0 and zero there."""
        t = Variable(self.variable)
        turned = factored(substitute(formula, {self.variable: c.over(Number(Fraction(1)), t)}))
        if turned is None:
            return False
        near = enclosure(Tape([turned], [self.variable]), _BITS, arb(0).union(arb(2) ** -20))
        if near is None or not near.is_finite():
            return False
        at = certain_value(substitute(turned, {self.variable: Number(Fraction(0))}))
        return at.proven and at.value == 0

    def _slopes(self, formula: Formula) -> list[Formula]:
        """The derivative as it is, and put together by algebra, which shows common factors."""
        known = self._slopes_of.get(id(formula))
        if known is None:
            try:
                slope = derivative(formula, self.variable)
                known = (formula, [f for f in (slope, self._factored(slope)) if f is not None])
            except NoDerivative:
                known = (formula, [])
            self._slopes_of[id(formula)] = known
        return known[1]

    def _factored(self, formula: Formula) -> Formula | None:
        if self.factorings <= 0 or sum(1 for _ in walk(formula)) > _LARGEST:
            return None
        self.factorings -= 1
        return factored(formula)

    def steady(self, formula: Formula, reach: Any) -> bool:
        """Whether the formula neither jumps nor meets an edge of its domain from `reach` on: its slope then tells all."""
        for node in walk(formula):
            if is_switch(node, self.variable) and isinstance(node, Apply) and node.entry.name not in ("abs", "min", "max"):
                if node.entry is not c.CHOOSE or not plain_joints(node.arguments[0], self.variable):
                    return False
                if not all(abs(certain_value(j).value) < float(reach) for j in joints(formula, self.variable)):
                    return False
            if isinstance(node, Apply) and node.entry.category in ("rounding", "waveform") and self.variable in variables(node):
                return False
        return all(self._sign(part, reach, _DEPTH) for part, _ in edges(formula, self.variable))


def interval_of(formula: Formula, variable: str, place: ExtendedInterval) -> ExtendedInterval | None:
    """An enclosure with infinite ends; None where there is none. Raises Undefined where there is no value anywhere."""
    tape = Tape([formula], [variable])
    found: ExtendedInterval | None = None
    try:
        for values in branches(lambda: interval_run(tape, [place])):
            if values is None:
                return None
            value = values[tape.results[0]]
            found = value if found is None else either(found, value)
    except NoBall:
        return None
    if found is None:
        raise Undefined
    return found


def _polynomial_sign(plain: Any, reach: Any) -> int:
    if plain.degree() < 0:
        return 0
    leading = plain[plain.degree()]
    if plain.degree() > 0:
        for root, _ in plain.complex_roots():
            if root.imag.is_zero() and not root.real < reach:
                return 0
    return 1 if leading > 0 else -1


def factored(formula: Formula, positive: bool = False) -> Formula | None:
    """The formula as a product, by algebra, for real (or for positive) variables; None where algebra does not get on."""

    def work(sympy: Any) -> Formula:
        names = {n: sympy.Symbol(n, positive=True) for n in variables(formula)} if positive else None
        return from_sympy(sympy.factor(to_sympy(formula, names)))

    return by_algebra(work, 1.0)


def mirrored(formula: Formula, variable: str) -> Formula:
    """f(-x)."""
    return substitute(formula, {variable: c.minus(Variable(variable))})


@dataclass(frozen=True, slots=True)
class Reach:
    """Between which places all happens. `sure`: that nothing is zero beyond `low` (`high`) is proven."""

    low: Formula
    high: Formula
    sure_low: bool = True
    sure_high: bool = True


def reach_of(formulas: list[Formula], variable: str, low: Formula, high: Formula) -> Reach:
    """A finite window in place of one with infinite ends, outside of which none of the formulas is zero."""
    found: dict[str, tuple[Formula, bool]] = {}
    for name, end, side in (("low", low, -1), ("high", high, 1)):
        if not infinite(end):
            found[name] = end, True
            continue
        turned = [f if side > 0 else mirrored(f, variable) for f in formulas]
        other = end_value(high if side < 0 else low)
        inner = abs(other) if abs(other) != float("inf") else 0.0
        places = [_quiet(f, variable) for f in turned]
        if any(p is None for p in places):
            found[name] = Number(Fraction(side * max(UNSURE_REACH, int(10 * inner) + 1))), False
        else:
            furthest = max([1, *(p for p in places if p is not None)])
            beyond = int(inner) + 1 if furthest <= inner else furthest
            found[name] = Number(Fraction(side * beyond)), True
    return Reach(found["low"][0], found["high"][0], found["low"][1], found["high"][1])


def _quiet(formula: Formula, variable: str) -> int | None:
    """From where on a formula has no zero; 0 for one that does not hold the variable."""
    top, _ = fraction(expanded(formula))
    if variable not in variables(top):
        return 0
    return Tail(top, variable).quiet_from()


# ---------------------------------------------------------------- roots anywhere, and the nearest


def find_roots_anywhere(
    formula: Formula, variable: str, low: Formula, high: Formula, budget: int = DEFAULT_BUDGET, found: Any = None
) -> Roots:
    """`find_roots` for windows whose ends may be infinite.

    That nothing is zero beyond the finite part that is searched is proven too; where it is not, what lies beyond is
    among `unsettled`.
    """
    if not (infinite(low) or infinite(high)):
        return find_roots(formula, variable, low, high, budget, found)
    reach = reach_of([formula], variable, low, high)
    inner = find_roots(formula, variable, reach.low, reach.high, budget, found)
    beyond = []
    if not reach.sure_low:
        beyond.append(Stretch(float("-inf"), certain_value(reach.low).value))
    if not reach.sure_high:
        beyond.append(Stretch(certain_value(reach.high).value, float("inf")))
    # The ends of the part that was searched are no ends of the window.
    ends = [not infinite(low), not infinite(high)]
    middle = (certain_value(reach.low).value + certain_value(reach.high).value) / 2
    roots = [r if not r.at_end or ends[r.x > middle] else replace(r, at_end=False) for r in inner.roots]
    return replace(inner, roots=roots, unsettled=sorted([*inner.unsettled, *beyond], key=lambda s: s.low))


@dataclass(frozen=True, slots=True)
class Nearest:
    """`roots` holds the nearest one, or none. `proven`: that no other is nearer. `tied`: others exactly as far away."""

    found: Roots
    proven: bool
    tied: list[float]
    searched: tuple[float, float]


def find_nearest(formula: Formula, variable: str, near: Formula, low: Formula, high: Formula) -> Nearest:
    """The root nearest to a place, sought outward from it in windows that double."""
    centre = certain_value(near)
    if abs(centre.value) >= FAR or centre.value != centre.value:
        raise NotSearchable(f"the place to be near to must be a number below {FAR:g}")
    middle = centre.exact if centre.exact is not None else Fraction(centre.value)
    outer = reach_of([formula], variable, low, high)
    width = Fraction(max(1, abs(int(middle)))) / 8
    while True:
        first = low if end_value(low) >= middle - width else Number(middle - width)
        last = high if end_value(high) <= middle + width else Number(middle + width)
        ends = certain_value(first).value, certain_value(last).value
        inner = find_roots(formula, variable, first, last) if ends[0] < ends[1] else Roots([], [], [], [], 0, False)
        if inner.roots:
            return _nearest_of(inner, middle, ends)
        covers_low = first is low or (outer.sure_low and ends[0] <= certain_value(outer.low).value)
        covers_high = last is high or (outer.sure_high and ends[1] >= certain_value(outer.high).value)
        if (covers_low and covers_high) or width > FAR:
            return Nearest(inner, covers_low and covers_high and inner.complete, [], ends)
        width *= 2


def _nearest_of(inner: Roots, middle: Fraction, ends: tuple[float, float]) -> Nearest:
    with precision(_BITS * 3):
        centre = arb(fmpq(middle.numerator, middle.denominator))
        away = [abs(r.ball - centre) for r in inner.roots]
        least = min(range(len(away)), key=lambda k: float(away[k].mid()))
        alike = [k for k in range(len(away)) if away[k].overlaps(away[least])]
        reached = float(away[least].upper())
    hidden = [
        s for s in (*inner.unsettled, *inner.flat) if min(abs(s.low - middle), abs(s.high - middle)) <= reached or s.low <= middle <= s.high
    ]
    kept = alike[-1]
    one = replace(inner, roots=[inner.roots[kept]], unsettled=[s for s in hidden if s in inner.unsettled], flat=[])
    return Nearest(one, not hidden, [inner.roots[k].x for k in alike if k != kept], ends)
