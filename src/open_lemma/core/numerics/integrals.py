"""Integrals with an interval that is proven to hold them.

Method: Arb's integration on the complex plane (F. Johansson, "Numerical integration in arbitrary-precision ball
arithmetic", ICMS 2018), piece by piece between joints and poles. Spans without an end, and ends next to which the function grows
without bound, are cut off where a bound of the rest is below the last digit (`Rest`). Where a formula has no complex
reading, or no bound was found, independent rules of floating-point numbers are compared and the grade is *checked* at best.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from typing import Any

import numpy as np
from flint import acb, arb
from scipy import integrate

from ..formula import catalogue as c
from ..formula.ball import Undefined, precision
from ..formula.calculus import NoDerivative, derivative, fraction
from ..formula.certain import certain_value, decimal_interval, enclosure, nearest_double
from ..formula.complex import NoComplex, complex_reading
from ..formula.domain import end_value, infinite
from ..formula.exact import by_algebra, from_sympy, is_exactly_zero, to_sympy
from ..formula.nodes import Apply, Formula, Number, Variable, expanded, substitute, variables, walk
from ..formula.piecewise import apart
from ..formula.tape import NoBall, Tape
from .evidence import Evidence
from .pieces import NotSearchable, Piece, Pieces, Place, TooManyPieces, deciding_parts, smooth_pieces
from .tails import Tail, mirrored

_BITS = 80
_MOST = 60_000  # evaluations of one piece
_MOST_NESTED = 150_000  # evaluations of an integral within an integral
_PARTS = 24_000  # of one size into which a region of the plane is cut at most
_HALVINGS = 14
_POWERS = (Fraction(3, 2), Fraction(2), Fraction(11, 10), Fraction(4))
_FAR = tuple(10**k for k in (1, 2, 3, 4, 6, 8, 10, 14, 18, 22, 30, 40, 60))  # where a span without an end is cut
RULES = "Gauss-Kronrod and tanh-sinh"


@dataclass(frozen=True, slots=True)
class Integral:
    """value: the nearest double. interval: holds the integral where `evidence` is proven; else what two rules agree on."""

    value: float
    interval: tuple[str, str]
    evidence: Evidence
    method: str
    error: float
    ball: Any = None


def _proven_integral(total: Any, method: str) -> Integral:
    value = 0.0 if total.contains(0) and float(total.rad()) < 1e-15 else nearest_double(total)
    return Integral(value, decimal_interval(total), "proven", method, float(total.rad()), total)


class NoIntegral(Exception):
    """There is no integral that could be given; the text says why."""


def integral_of(formula: Formula, variable: str, low: Formula, high: Formula, digits: int = 16) -> Integral:
    """The integral over a span, which may be infinite, to about so many significant digits.

    Raises NoIntegral where the function has no value in part of the span, or diverges.
    """
    return _Integration(apart(expanded(formula)), variable, digits).over(low, high)


class _Integration:
    def __init__(self, formula: Formula, variable: str, digits: int) -> None:
        self.formula, self.variable = formula, variable
        self.bits = max(_BITS, int(digits * 3.33) + 32)
        self.goal = arb(2) ** -int(digits * 3.33 + 4)
        self.tape = Tape([formula], [variable])
        self.provable = True

    def over(self, low: Formula, high: Formula) -> Integral:
        spans = self._spans(low, high)
        try:
            with precision(self.bits):
                total = self._proven(spans) if self.provable else None
        except (NoComplex, NoBall):
            total = None
        if total is not None:
            method = "Arb's integration on balls of complex numbers, piece by piece"
            return _proven_integral(total, method)
        return self._by_rules(spans)

    # ------------------------------------------------------------ the pieces

    def _spans(self, low: Formula, high: Formula) -> list[tuple[Formula, Formula, Formula, frozenset[str], frozenset[str]]]:
        """Smooth pieces as (formula, from, to, what the function does at either end)."""
        ends = [low, high]
        inner = [Number(Fraction(-1)), Number(Fraction(1))]
        for side in (0, 1):
            if infinite(ends[side]):
                other = end_value(ends[1 - side])
                reach = 1.0 if abs(other) == float("inf") else abs(other) + 1
                place = self._steady_from(side, int(reach) + 1)
                inner[side] = Number(Fraction(place if side else -place))
        finite = [inner[k] if infinite(ends[k]) else ends[k] for k in (0, 1)]
        pieces = self._pieces(finite[0], finite[1])
        if pieces.unsettled and deciding_parts(self.formula, self.variable) != []:
            # A switch may have changed unseen: the whole formula, by rules that prove nothing.
            self.provable = False
            pieces = Pieces([Piece(pieces.places[0], pieces.places[-1], self.formula)])
        spans: list[tuple[Formula, Formula, Formula, frozenset[str], frozenset[str]]] = []
        for piece in pieces.pieces:
            if piece.formula is None:
                raise NoIntegral(
                    f"the function has no value from {piece.low.x:.6g} to {piece.high.x:.6g}; a span inside its domain is needed"
                )
            spans.append((piece.formula, piece.low.formula, piece.high.formula, *self._troubles(piece)))
        if infinite(low):
            spans.insert(0, (self._far_out(0, finite[0], pieces.pieces[0]), low, finite[0], frozenset({"far"}), frozenset()))
        if infinite(high):
            spans.append((self._far_out(1, finite[1], pieces.pieces[-1]), finite[1], high, frozenset(), frozenset({"far"})))
        return spans

    def _far_out(self, side: int, place: Formula, last: Piece) -> Formula:
        """The formula beyond the finite part: that of the last piece only if nothing is chosen anew further out."""
        deciding = deciding_parts(self.formula, self.variable)
        if deciding == []:
            return self.formula
        reach = int(abs(end_value(place)))
        turned = [p if side else mirrored(p, self.variable) for p in deciding or []]
        if deciding is not None and last.formula is not None and all(Tail(p, self.variable).sign(reach) for p in turned):
            return last.formula
        self.provable = False
        return self.formula

    def _steady_from(self, side: int, least: int) -> int:
        """From where on the function neither jumps nor has a pole, towards one infinite end."""
        turned = self.formula if side else mirrored(self.formula, self.variable)
        tail = Tail(turned, self.variable)
        for reach in (1, 10, 100, 1000, 10_000):
            try:
                if reach >= least and tail.steady(turned, arb(reach)):
                    return reach
            except (Undefined, NoBall):
                continue
        return max(least, 10)

    def _pieces(self, low: Formula, high: Formula) -> Pieces:
        try:
            return smooth_pieces(self.formula, self.variable, low, high)
        except (TooManyPieces, NotSearchable):
            # Too many joints, or given by a block or a list: only its values can be asked for.
            self.provable = False
            ends = Place(low, certain_value(low).value), Place(high, certain_value(high).value)
            self._defined(ends[0].x, ends[1].x)
            return Pieces([Piece(*ends, self.formula)])

    def _defined(self, low: float, high: float) -> None:
        """Refuse where the function has no value over part of the span; single places are let through."""
        x = np.linspace(low, high, 1999)[1:-1] + (high - low) * 1e-5
        bad = ~np.isfinite(self._values(x))
        if bad.sum() > 2:
            raise NoIntegral(f"the function has no value from about {x[bad][0]:.4g} on; a span inside its domain is needed")

    def _values(self, x: Any) -> Any:
        return np.broadcast_to(np.asarray(self.tape.numeric(x)[0], dtype=float), np.shape(x))

    def _troubles(self, piece: Piece) -> tuple[frozenset[str], frozenset[str]]:
        """Whether the function leaves all bounds at the ends of a piece."""
        assert piece.formula is not None
        found = []
        for place in (piece.low, piece.high):
            with precision(self.bits):
                ball = enclosure(Tape([place.formula], []), self.bits)
                value = None if ball is None else enclosure(Tape([piece.formula], [self.variable]), self.bits, ball)
            bounded = value is not None and value.is_finite()
            if not bounded and place.kinds <= {"kink", "jump"}:
                at = certain_value(substitute(piece.formula, {self.variable: place.formula}))
                bounded = at.proven
            found.append(frozenset() if bounded else frozenset({"edge"}))
        return found[0], found[1]

    # ------------------------------------------------------------ proven

    def _proven(self, spans: Sequence[tuple[Formula, Formula, Formula, frozenset[str], frozenset[str]]]) -> Any:
        """The sum over the pieces as a ball; None where no narrow enough one was found."""
        total = arb(0)
        for formula, low, high, at_low, at_high in spans:
            part = self._part(formula, low, high, at_low, at_high)
            if part is None:
                return None
            total = total + part
        enough = total.is_finite() and (total.rel_accuracy_bits() > 40 or float(total.rad()) < 1e-13)
        return total if enough else None

    def _part(self, formula: Formula, low: Formula, high: Formula, at_low: frozenset[str], at_high: frozenset[str]) -> Any:
        if self.variable not in variables(formula) and not (at_low or at_high):
            a, b, height = (Tape([e], []).ball()[0] for e in (low, high, formula))
            return height * (b - a)
        if at_low and at_high:
            middle = self._between(low, high)
            parts = [self._part(formula, low, middle, at_low, frozenset()), self._part(formula, middle, high, frozenset(), at_high)]
            return None if any(p is None for p in parts) else parts[0] + parts[1]
        if at_low or at_high:
            return self._with_rest(formula, low, high, "far" in (at_low or at_high), bool(at_high))
        return self._plain(formula, [low, high])

    def _between(self, low: Formula, high: Formula) -> Formula:
        a, b = end_value(low), end_value(high)
        if infinite(low) or infinite(high):
            return Number(Fraction(0 if infinite(low) and infinite(high) else b - 1 if infinite(low) else a + 1))
        return Number(Fraction((a + b) / 2))

    def _with_rest(self, formula: Formula, low: Formula, high: Formula, far: bool, at_high: bool) -> Any:
        """Up to a place near an end next to which the function has no bound (or far out), and a bound of the rest."""
        end, inner = (high, low) if at_high else (low, high)
        orders = None if far else _orders(formula, self.variable, end)
        if orders is not None:
            return self._beside_quotient(formula, end, inner, at_high, *orders)
        exact = self._continued(formula, low, high, at_high) if not far and _has_roots(formula, self.variable) else None
        if exact is not None:
            return exact
        rest = Rest(formula, self.variable, end, at_high, far)
        if rest.diverges():
            raise NoIntegral(rest.why)
        first = abs(end_value(inner))
        places: list[Formula] = [inner]
        for reach in _FAR:
            if far and reach <= first:
                continue
            place = rest.place(reach)
            if not far and abs(end_value(place) - end_value(inner)) == 0:
                continue
            if not far and ((end_value(place) > end_value(inner)) != at_high):
                continue
            places.append(place)
            bound = rest.bound(reach)
            if bound is None or not bound.is_finite():
                continue
            if float(bound) < float(self.goal) * 0.01:
                main = self._plain(formula, places if at_high else places[::-1])
                if main is None:
                    return None
                around = arb(0, 1) * bound
                if float(bound) <= float(self.goal) * max(abs(float(main.mid())), 1e-9):
                    return main + around
        return None

    def _beside_quotient(
        self, formula: Formula, end: Formula, inner: Formula, at_high: bool, top: tuple[Formula, int], bottom: tuple[Formula, int]
    ) -> Any:
        """Next to a place where a quotient of analytic functions is 0/0, or has a pole."""
        (above, n), (below, m) = top, bottom
        if m > n:
            place = f"{end_value(end):.10g}"
            size = "1/" + (f"|{self.variable} − {place}|" if m - n == 1 else f"({self.variable} − {place})^{m - n}")
            raise NoIntegral(
                f"the integral diverges: at {self.variable} = {place} the function has a pole and grows like {size}; "
                "the area beside it has no bound"
            )
        # By Taylor's theorem both parts are their m-th derivative at some place in between, times the same power.
        for _ in range(m):
            above, below = derivative(above, self.variable), derivative(below, self.variable)
        near, far = (Tape([e], []).ball()[0] for e in (end, inner))
        width = (far - near) * arb(2) ** -44
        span = near.union(near + width)
        values = [enclosure(Tape([f], [self.variable]), self.bits, span) for f in (above, below)]
        if values[0] is None or values[1] is None or values[1].contains(0):
            return None
        small = values[0] / values[1] * (abs(width))
        run = complex_reading(formula, self.variable)
        places = [near + width, *(near + (far - near) * arb(2) ** -k for k in (36, 28, 20, 12, 4)), far]
        if at_high:
            places.reverse()
        total = small
        for a, b in pairwise(places):
            found = _integral(run, acb(a), acb(b), self.goal)
            if found is None:
                return None
            total = total + found
        return total

    def _continued(self, formula: Formula, low: Formula, high: Formula, at_high: bool) -> Any:
        """Where algebra takes the trouble at an end away: x = end ± t^k makes sqrt and its kin smooth."""
        end = high if at_high else low
        span = c.subtract(high, low)
        for k in (1, 2, 3, 4):
            smoother = _smoothed(formula, self.variable, end, -1 if at_high else 1, k)
            if smoother is None:
                continue
            try:
                top = c.power(span, Number(Fraction(1, k))) if k > 1 else span
                found = _integral(complex_reading(smoother, "t"), acb(0), acb(Tape([top], []).ball()[0]), self.goal)
            except (NoComplex, NoBall):
                continue
            if found is not None:
                return found
        return None

    def _plain(self, formula: Formula, places: Sequence[Formula]) -> Any:
        run = complex_reading(formula, self.variable)
        total = arb(0)
        for low, high in pairwise(places):
            a, b = (acb(Tape([e], []).ball()[0]) for e in (low, high))
            found = _integral(run, a, b, self.goal)
            if found is None:
                return None
            total = total + found
        return total

    # ------------------------------------------------------------ rules compared

    def _by_rules(self, spans: Sequence[tuple[Formula, Formula, Formula, frozenset[str], frozenset[str]]]) -> Integral:
        first = second = spread = 0.0
        for formula, low, high, *_ in spans:
            tape = Tape([formula], [self.variable])
            a, b = end_value(low), end_value(high)
            if abs(a) == float("inf") or abs(b) == float("inf"):
                one, other, error = _endless_by_rules(tape, a, b)
            else:
                one, other, error = _span_by_rules(tape, a, b)
            first, second, spread = first + one, second + other, spread + error
        away = abs(first - second)
        agree = away <= 1e-9 * max(abs(first), 1e-12) + 1e-13
        if not agree and (not np.isfinite(second) or away > 0.01 * max(abs(first), abs(second))):
            raise NoIntegral("two ways of working it out do not agree; the integral seems to diverge, or the function is too wild")
        error = max(away, min(spread, 1e-6 * max(abs(first), 1e-12)) if agree else spread)
        return Integral(
            first, (repr(first - error), repr(first + error)), "checked" if agree else "open", f"two rules compared: {RULES}", error
        )


def _integral(run: Callable[[Any, bool], Any], low: Any, high: Any, goal: Any) -> Any:
    found = acb.integral(
        lambda z, analytic: run(z, bool(analytic)), low, high, eval_limit=_MOST, rel_tol=goal, abs_tol=goal * arb(2) ** -20
    )
    if not found.is_finite() or not found.imag.contains(0):
        return None
    return found.real


def _orders(formula: Formula, variable: str, place: Formula) -> tuple[tuple[Formula, int], tuple[Formula, int]] | None:
    """Numerator and denominator with the orders of their zeros at a place; None where that is not known."""
    from .limits import order_at

    top, bottom = fraction(formula)
    if variable not in variables(bottom):
        return None
    try:
        first, last = order_at(top, variable, place), order_at(bottom, variable, place)
    except NoDerivative:
        return None
    return None if first is None or last is None else ((top, first[0]), (bottom, last[0]))


def _has_roots(formula: Formula, variable: str) -> bool:
    """Whether a root or a power that is not whole is there, which a power of a new variable could take away."""
    for node in walk(formula):
        if isinstance(node, Apply) and variable in variables(node):
            if node.entry.name in ("sqrt", "cbrt"):
                return True
            if node.entry is c.POWER:
                exponent = expanded(node.arguments[1])
                if isinstance(exponent, Number) and exponent.value.denominator > 1:
                    return True
    return False


def _smoothed(formula: Formula, variable: str, end: Formula, side: int, k: int) -> Formula | None:
    """f(end + side t^k) k t^(k-1), shortened by algebra for t > 0."""

    def work(sympy: Any) -> Formula:
        t = sympy.Symbol("t", positive=True)
        x = sympy.Symbol(variable, real=True)
        whole = to_sympy(formula).subs(x, to_sympy(end) + side * t**k) * k * t ** (k - 1)
        return from_sympy(sympy.simplify(whole))

    return by_algebra(work, 1.0)


# ---------------------------------------------------------------- what is cut off


class Rest:
    """The integral beyond a place near one end, bounded or shown to be infinite.

    Towards an infinite end: if x^p |f(x)| falls from R on, for some p > 1, the rest is at most R |f(R)|/(p - 1). If x |f(x)|
    rises and f keeps its sign, the rest is infinite like that of 1/x. An end a next to which f has no bound is brought to
    infinity by x = a ± 1/u. Factors such as sin(x) are replaced by 1.
    """

    def __init__(self, formula: Formula, variable: str, end: Formula, at_high: bool, far: bool) -> None:
        self.variable, self.end, self.at_high, self.far = variable, end, at_high, far
        self.why = ""
        u = Variable(variable)
        if far:
            self.whole = formula if at_high else mirrored(formula, variable)
        else:
            step = c.over(Number(Fraction(1)), u)
            at = c.subtract(end, step) if at_high else c.add(end, step)
            self.whole = c.over(substitute(formula, {variable: at}), c.power(u, Number(Fraction(2))))
        self.major, self.replaced = majorant(_plainly(self.whole) or self.whole)
        self._falls: dict[Fraction, Tail | None] = {}

    def place(self, reach: int) -> Formula:
        if self.far:
            return Number(Fraction(reach if self.at_high else -reach))
        step = Number(Fraction(1, reach))
        return c.subtract(self.end, step) if self.at_high else c.add(self.end, step)

    def bound(self, reach: int) -> Any:
        """A bound of the magnitude of the rest beyond a place; None where none is shown."""
        value = enclosure(Tape([self.major], [self.variable]), _BITS, arb(reach))
        if value is None or not value.is_finite():
            return None
        size = abs(value).upper()
        for p in _POWERS:
            if self._falling(p, reach):
                return (size * reach / arb(float(p - 1))).upper()
        return None

    def _change(self, p: Fraction) -> Tail | None:
        """The derivative of x^p f(x), as a formula that its sign far out is asked of."""
        if p not in self._falls:
            u = Variable(self.variable)
            whole = c.times(c.power(u, Number(p)), self.major)
            try:
                plain = _plainly(whole) or whole
                slope = derivative(plain, self.variable)
                self._falls[p] = Tail(_plainly(slope) or slope, self.variable)
            except NoDerivative:
                self._falls[p] = None
        return self._falls[p]

    def _falling(self, p: Fraction, reach: int) -> bool:
        tail = self._change(p)
        own = Tail(self.major, self.variable)
        if tail is None or not own.steady(self.major, arb(reach)):
            return False
        sign = own.sign(reach)
        return bool(sign) and tail.sign(reach) == -sign

    def diverges(self) -> bool:
        """Whether the rest is shown to be infinite: the function keeps its sign and x|f| does not fall."""
        if self.replaced:
            return False
        own = Tail(self.major, self.variable)
        for reach in (10, 1000, 10**6):
            sign = own.sign(reach)
            if not sign or not own.steady(self.major, arb(reach)):
                continue
            tail = self._change(Fraction(1))
            if tail is None:
                return False
            level = not variables(tail.formula) and is_exactly_zero(tail.formula)
            if level or tail.sign(reach) == sign:
                self.why = self._reason(sign)
                return True
        return False

    def _reason(self, sign: int) -> str:
        way = "+∞" if sign > 0 else "−∞"
        if self.far:
            where = "∞" if self.at_high else "−∞"
            return f"the integral diverges to {way}: towards {where} the function does not fall faster than 1/{self.variable} does"
        place = f"{end_value(self.end):.10g}"
        return (
            f"the integral diverges to {way}: next to {self.variable} = {place} the function grows at least like "
            f"1/|{self.variable} − {place}|, and the area under that has no bound"
        )


def _plainly(formula: Formula) -> Formula | None:
    """Shortened by algebra for a positive variable."""

    def work(sympy: Any) -> Formula:
        names = {n: sympy.Symbol(n, positive=True) for n in variables(formula)}
        return from_sympy(sympy.factor(sympy.expand_log(sympy.powsimp(to_sympy(formula, names)))))

    return by_algebra(work, 1.0)


def majorant(formula: Formula) -> tuple[Formula, bool]:
    """A formula whose magnitude is not smaller, with bounded factors replaced by 1; and whether any was."""
    node = expanded(formula)
    if isinstance(node, Apply):
        if node.entry in (c.MULTIPLY, c.DIVIDE):
            left, one = majorant(node.arguments[0])
            right, other = (node.arguments[1], False) if node.entry is c.DIVIDE else majorant(node.arguments[1])
            return (c.over(left, right) if node.entry is c.DIVIDE else c.times(left, right)), one or other
        if node.entry is c.NEGATIVE:
            inner, one = majorant(node.arguments[0])
            return c.minus(inner), one
        if node.entry.name in ("sin", "cos", "tanh", "erf"):
            return Number(Fraction(1)), True
        if node.entry is c.POWER:
            exponent = expanded(node.arguments[1])
            if isinstance(exponent, Number) and exponent.value > 0 and exponent.value.denominator == 1:
                inner, one = majorant(node.arguments[0])
                return c.power(inner, exponent), one
    return formula, False


# ---------------------------------------------------------------- floating-point rules


def _one(tape: Tape) -> Callable[[float], float]:
    def value(t: float) -> float:
        with np.errstate(all="ignore"):
            return float(np.asarray(tape.numeric(np.array([t]))[0]).reshape(-1)[0])

    return value


def _span_by_rules(tape: Tape, low: float, high: float) -> tuple[float, float, float]:
    def values(x: Any) -> Any:
        with np.errstate(all="ignore"):
            return np.broadcast_to(np.asarray(tape.numeric(np.asarray(x, dtype=float))[0], dtype=float), np.shape(x))

    with np.errstate(all="ignore"):
        value, error, *rest = integrate.quad(_one(tape), low, high, limit=400, full_output=1)
    if not np.isfinite(value) or (len(rest) > 1 and "divergent" in str(rest[1])):
        raise NoIntegral("the integral seems to diverge; end the span before the place where the function grows without bound")
    return value, _double_exponential(values, low, high), abs(error)


def _endless_by_rules(tape: Tape, low: float, high: float) -> tuple[float, float, float]:
    """Between an end and infinity: the adaptive rule, and for what swings sums of half waves drawn to their limit."""
    sign = 1.0
    if low == float("-inf"):
        # Turned round, so that it goes to +infinity.
        plain = _one(tape)
        value, other, error = _to_infinity(lambda t: plain(-t), -high)
        return value * sign, other * sign, error
    return _to_infinity(_one(tape), low)


def _to_infinity(f: Callable[[float], float], low: float) -> tuple[float, float, float]:
    with np.errstate(all="ignore"):
        value, error, *rest = integrate.quad(f, low, np.inf, limit=400, full_output=1)
    waves = _half_waves(f, low)
    if waves is not None:
        first, second = waves
        return first, second, abs(first - second)
    if not np.isfinite(value) or (len(rest) > 1 and ("divergent" in str(rest[1]) or error > 1e-3 * max(abs(value), 1e-9))):
        raise NoIntegral("the integral seems to diverge: towards infinity the function does not fall fast enough")
    with np.errstate(all="ignore"):
        mapped, *_ = integrate.quad(lambda t: f(low + t / (1 - t)) / (1 - t) ** 2 if t < 1 else 0.0, 0, 1, limit=400, full_output=1)
    return value, mapped, abs(error)


def _half_waves(f: Callable[[float], float], low: float) -> tuple[float, float] | None:
    """For a function that changes its sign again and again: two ways of drawing the sums of its half waves to their limit."""
    x = np.linspace(low, low + 400, 16_001)
    y = np.array([f(float(v)) for v in x])
    changes = np.flatnonzero(np.sign(y[:-1]) * np.sign(y[1:]) < 0)
    if len(changes) < 24:
        return None
    from scipy.optimize import brentq

    zeros = [brentq(f, x[k], x[k + 1], xtol=1e-14) for k in changes[:60]]
    parts = [integrate.quad(f, a, b, limit=200, full_output=1)[0] for a, b in pairwise([low, *zeros])]
    sizes = np.abs(parts[4:])
    if sizes[-1] > 0.9 * sizes[0]:
        raise NoIntegral("the integral does not settle: towards infinity the function swings on without getting smaller")
    sums = np.cumsum(parts)
    return _averaged(sums[10:]), _shanks(sums[10:])


def _averaged(sums: Any) -> float:
    """Means of neighbours, again and again (Euler's transformation)."""
    while len(sums) > 1:
        sums = (sums[1:] + sums[:-1]) / 2
    return float(sums[0])


def _shanks(sums: Any) -> float:
    """Wynn's epsilon algorithm (P. Wynn, MTAC 10 (1956) 91)."""
    before, row = np.zeros(len(sums) + 1), np.array(sums, dtype=float)
    best = float(row[-1])
    for k in range(1, min(len(sums), 25)):
        gaps = row[1:] - row[:-1]
        if (gaps == 0).any():
            break
        before, row = row, before[1 : len(row)] + 1 / gaps
        if k % 2 == 0:
            best = float(row[-1])
    return best


def _double_exponential(values: Callable[[Any], Any], low: float, high: float) -> float:
    """The tanh-sinh rule (H. Takahasi, M. Mori, Publ. RIMS 9 (1974) 721), halved until it rests."""
    before = np.nan
    for level in range(3, 12):
        t = np.arange(-4.2, 4.2 + 1e-12, 2.0 ** (1 - level))
        u = np.pi / 2 * np.sinh(t)
        # Distances from the ends, so that places next to an end keep their digits.
        near = 1 / (np.exp(2 * np.abs(u)) + 1) * (high - low)
        x = np.where(u < 0, low + near, high - near)
        weight = np.pi / 2 * np.cosh(t) / np.cosh(u) ** 2
        y = values(x)
        keep = np.isfinite(y) & (x > low) & (x < high)
        total = float(np.sum((y * weight)[keep]) * 2.0 ** (1 - level) * (high - low) / 2)
        if abs(total - before) <= 1e-13 * abs(total):
            return total
        before = total
    return before


# ---------------------------------------------------------------- two variables


def double_integral(formula: Formula, outer: tuple[str, Formula, Formula], inner: tuple[str, Formula, Formula]) -> Integral:
    """The integral over x from a to b and, for each x, over y from c(x) to d(x); all ends finite.

    Proven by Arb's integration of Arb's integrals where the formula is analytic; else two rules are compared.
    """
    x, low, high = outer
    y, below, above = inner
    # y = c + (d - c) t brings the inner span to 0..1, so that all of it depends on x analytically.
    t = Variable("t ")
    height = c.subtract(above, below)
    whole = expanded(c.times(substitute(formula, {y: c.add(below, c.times(height, t))}), height))
    if t.name not in variables(whole):
        return integral_of(whole, x, low, high)
    try:
        with precision(_BITS):
            total = _nested(whole, x, low, high)
    except (NoComplex, NoBall):
        total = None
    if total is not None and total.is_finite() and (total.rel_accuracy_bits() > 36 or float(total.rad()) < 1e-12):
        return _proven_integral(total, "Arb's integration on balls of complex numbers, one inside of the other")
    return _double_by_rules(formula, outer, inner)


def _nested(whole: Formula, x: str, low: Formula, high: Formula) -> Any:
    run = complex_reading(whole, x, "t ")
    goal = arb(2) ** -50
    zero, one = acb(0), acb(1)
    nothing = acb(float("nan"), float("nan"))
    left = _MOST_NESTED

    def value(z: Any, analytic: bool, s: Any) -> Any:
        # Where the formula is not analytic every inner integral goes to its limit, and no bound comes of it.
        nonlocal left
        left -= 1
        return run(z, analytic, s) if left > 0 else nothing

    def across(z: Any, analytic: bool) -> Any:
        if left <= 0:
            return nothing
        return acb.integral(
            lambda s, inner: value(z, bool(analytic) or bool(inner), s),
            zero,
            one,
            eval_limit=3_000,
            rel_tol=goal,
            abs_tol=goal * arb(2) ** -20,
        )

    a, b = (acb(Tape([e], []).ball()[0]) for e in (low, high))
    found = acb.integral(lambda z, analytic: across(z, bool(analytic)), a, b, eval_limit=1_500, rel_tol=goal, abs_tol=goal * arb(2) ** -20)
    return found.real if found.is_finite() and found.imag.contains(0) else None


def _double_by_rules(formula: Formula, outer: tuple[str, Formula, Formula], inner: tuple[str, Formula, Formula]) -> Integral:
    x, low, high = outer
    y, below, above = inner
    tape = Tape([formula], [x, y])
    ends = Tape([below, above], [x])
    a, b = certain_value(low).value, certain_value(high).value

    def value(at: Any) -> Any:
        u = a + (b - a) * at[:, 0]
        first, last = (np.broadcast_to(np.asarray(e, dtype=float), u.shape) for e in ends.numeric(u))
        values = np.asarray(tape.numeric(u, first + (last - first) * at[:, 1])[0], dtype=float)
        return np.broadcast_to(values, u.shape) * (last - first) * (b - a)

    # Two looks that cut the region differently: where its parts do not fall together, neither do their errors.
    with np.errstate(all="ignore"):
        first, error = _cubature(value, [[0.0, 1.0]])
        second, _ = _cubature(value, [[0.0, 0.381966], [0.381966, 1.0]])
    if not np.isfinite(first):
        raise NoIntegral("the function has no value in part of the region")
    away = abs(first - second)
    size = max(abs(first), 1e-12)
    if away > 0.02 * size and error > 1e-3 * size:
        raise NoIntegral("two ways of working it out do not agree; the integral seems to diverge, or the function is too wild")
    evidence: Evidence = "checked" if away <= 1e-6 * size + 1e-12 else "open"
    error = max(min(error, 1e3 * away + 1e-12 * size), away)
    method = "adaptive Gauss-Legendre cubature, compared with the same over the region cut elsewhere"
    return Integral(first, (repr(first - error), repr(first + error)), evidence, method, error)


def _cubature(value: Callable[[Any], Any], cuts: list[list[float]]) -> tuple[float, float]:
    """The integral over the unit square, and how far the last halvings moved it. All parts of a size are worked out at once; those
    that their quarters do not bear out are halved both ways. cuts: spans along both sides to begin with."""
    nodes, weights = np.polynomial.legendre.leggauss(7)
    share = (nodes[:, None] + np.zeros(7)).ravel(), (np.zeros((7, 1)) + nodes).ravel()
    product = (weights[:, None] * weights[None, :]).ravel() / 4

    def rule(boxes: Any) -> Any:
        middle, half = (boxes[:, ::2] + boxes[:, 1::2]) / 2, (boxes[:, 1::2] - boxes[:, ::2]) / 2
        at = np.stack([middle[:, k, None] + half[:, k, None] * share[k] for k in (0, 1)], axis=-1).reshape(-1, 2)
        return (np.asarray(value(at)).reshape(len(boxes), -1) @ product) * 4 * half[:, 0] * half[:, 1]

    boxes = np.array([[*p, *q] for p in cuts for q in cuts])
    known = rule(boxes)
    total = error = 0.0
    for _ in range(_HALVINGS):
        x0, x1, y0, y1 = boxes.T
        x, y = (x0 + x1) / 2, (y0 + y1) / 2
        quarters = np.stack([np.column_stack(q) for q in ((x0, x, y0, y), (x, x1, y0, y), (x0, x, y, y1), (x, x1, y, y1))], axis=1)
        finer = rule(quarters.reshape(-1, 4)).reshape(-1, 4)
        moved = np.abs(finer.sum(axis=1) - known)
        size = abs(total + float(finer.sum()))
        done = moved <= 1e-11 * size + 1e-16
        total, error = total + float(finer[done].sum()), error + float(moved[done].sum())
        boxes, known = quarters[~done].reshape(-1, 4), finer[~done].ravel()
        if not len(boxes) or len(boxes) > _PARTS:
            break
    rest = float(moved[~done].sum())
    return total + float(known.sum()), error + rest


__all__ = ["Integral", "NoIntegral", "double_integral", "integral_of", "majorant"]
