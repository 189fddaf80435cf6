"""Integrals with an interval that is proven to hold them.

What is proven has a certificate (`certify_integrals`): Taylor polynomials on boxes that cover the window. How closely that has to look is
told by an estimate: Arb's integration on the complex plane (F. Johansson, "Numerical integration in arbitrary-precision ball arithmetic",
ICMS 2018), or independent rules of floating-point numbers, whose agreement alone is *checked* at best.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from typing import Any

import numpy as np
from flint import acb, arb
from scipy import integrate

from ...certificate.growth import exponent
from ...certificate.program import NotPlain, program_of
from ...certificate.span import Span
from ...formula import catalogue as c
from ...formula.ball import Undefined, precision
from ...formula.calculus import NoDerivative, derivative, fraction
from ...formula.certain import certain_value, decimal_interval, enclosure, nearest_double
from ...formula.complex import NoComplex, complex_reading
from ...formula.domain import end_value, infinite
from ...formula.exact import by_algebra, from_sympy, is_exactly_zero, to_sympy
from ...formula.limits import OutOfTime, time_limit
from ...formula.many_pieces import ManyPieces
from ...formula.nodes import Apply, Formula, Number, Variable, expanded, substitute, variables
from ...formula.piecewise import apart, pieces_of
from ...formula.tape import NoBall, Tape
from ..evidence import Evidence
from ..interpolation.long_curves import integral_of_pieces
from ..limits_and_sums.limits import order_at
from ..proving.covers import Json
from ..proving.integrals import ROUGHLY, prove_double, prove_integral
from ..roots.infinite_intervals import Tail, mirrored
from ..roots.pieces import NotSearchable, Piece, Place, SmoothPieces, TooManyPieces, deciding_parts, smooth_pieces
from .no_integral import NoIntegral

_BITS = 80
_MOST = 60_000  # evaluations of one piece
_PARTS = 24_000  # of one size into which a region of the plane is cut at most
_HALVINGS = 14
_SAMPLES = 256  # places at which a function without an integral is asked for a value
SCALES = 4  # of the size of an integral of which nothing is known, a sixty-thousandth each of the one before
REST_SECONDS = 2.5  # that algebra may take to bound what is cut off at one end
_FAR = tuple(10**k for k in (1, 2, 3, 4, 6, 8, 10, 14, 18, 22, 30, 40, 60))  # where a span without an end is cut
RULES = "Gauss-Kronrod and tanh-sinh"


@dataclass(frozen=True, slots=True)
class Integral:
    """value: the nearest double. interval: holds the integral where `evidence` is proven; else what two rules agree on.
    certificate: of what is proven, for the verifier."""

    value: float
    interval: tuple[str, str]
    evidence: Evidence
    method: str
    error: float
    ball: Any = None
    certificate: Json | None = None


def proven_integral(total: Any, method: str) -> Integral:
    """An integral that a ball is proven to hold."""
    value = 0.0 if total.contains(0) and float(total.rad()) < 1e-15 else nearest_double(total)
    return Integral(value, decimal_interval(total), "proven", method, float(total.rad()), total)


def integral_of(formula: Formula, variable: str, low: Formula, high: Formula, digits: int = 16, mean: bool = False) -> Integral:
    """The integral over a span, which may be infinite, to about so many significant digits; `mean`: divided by the width of the span.

    Proven only with a certificate. Raises NoIntegral where the function has no value in part of the span, or diverges.
    """
    return _of_many_pieces(formula, variable, low, high, mean) or _Integration(formula, variable, low, high, digits, mean).found()


def _of_many_pieces(formula: Formula, variable: str, low: Formula, high: Formula, mean: bool) -> Integral | None:
    """Of a curve through very many points, where it stands alone: each piece by its antiderivative."""
    whole = expanded(formula)
    source = pieces_of(whole)
    if (
        source is None
        or not isinstance(source.pieces, ManyPieces)
        or not isinstance(whole, Apply)
        or whole.arguments != (Variable(variable),)
    ):
        return None
    ends = [certain_value(e).value for e in (low, high)]
    if not all(np.isfinite(ends)):
        return None
    value, error = integral_of_pieces(source, *ends)
    if mean:
        value, error = value / (ends[1] - ends[0]), error / (ends[1] - ends[0])
    return Integral(value, (repr(value - error), repr(value + error)), "checked", "antiderivatives of the pieces, in doubles", error)


LEAST_BITS = 30  # to which an integral that is not zero should be known


class _Integration:
    def __init__(self, formula: Formula, variable: str, low: Formula, high: Formula, digits: int, mean: bool) -> None:
        self.asked, self.low, self.high, self.digits, self.is_mean = formula, low, high, digits, mean
        self.formula, self.variable = apart(expanded(formula)), variable
        self.bits = max(_BITS, int(digits * 3.33) + 32)
        self.goal = arb(2) ** -int(digits * 3.33 + 4)
        self.tape = Tape([self.formula], [variable])
        self.provable = True
        self.size = arb(0)  # of the integrals over all pieces, of which most may cancel

    def found(self) -> Integral:
        self._diverges_far()
        spans = self._spans(self.low, self.high)
        plain = self.provable and not any(a or b for *_, a, b in spans)
        enclosed = self._enclosed(spans) if plain else None
        estimate = None
        if enclosed is None:
            self._refuse_simple_poles(spans)
            with suppress(NoIntegral):
                estimate = self._by_rules(spans)
        known = enclosed or estimate
        certified = None if known is None else self._certified(known)
        if certified is None and enclosed is None:
            certified = self._from_scratch()
        if certified is not None:
            return certified
        if enclosed is not None:
            return self._averaged(replace(enclosed, evidence="checked", ball=None))
        self._refuse_divergent(spans)
        return self._averaged(estimate or self._by_rules(spans))

    def _diverges_far(self) -> None:
        """Raise NoIntegral where the exponent far out says so at once."""
        for side, end in enumerate((self.low, self.high)):
            if not infinite(end):
                continue
            try:
                turned = program_of(self.formula if side else mirrored(self.formula, self.variable))
            except NotPlain:
                return
            for reach in (10, 1000):
                found = exponent(turned, self.variable, arb(reach))
                if found is not None and found.low is not None and found.low >= -1:
                    value = enclosure(self.tape, _BITS, arb(reach if side else -reach))
                    raise NoIntegral(_diverging(1 if value is None or value > 0 else -1, self.variable, side == 1))

    def _enclosed(self, spans: Sequence[tuple[Formula, Formula, Formula, frozenset[str], frozenset[str]]]) -> Integral | None:
        """By Arb's integration over smooth pieces; None where that leads to no narrow ball."""
        total = arb(0)
        try:
            with precision(self.bits):
                for formula, low, high, *_ in spans:
                    part = self._plain(formula, [low, high])
                    if part is None:
                        return None
                    total = total + part
                    self.size = self.size + abs(part).upper()
        except (NoComplex, NoBall):
            return None
        enough = total.is_finite() and (total.rel_accuracy_bits() > 40 or float(total.rad()) < 1e-13)
        return proven_integral(total, "Arb's integration on balls of complex numbers, piece by piece") if enough else None

    def _certified(self, known: Integral) -> Integral | None:
        """The integral, or the mean, as a certificate encloses it, to as many digits as are asked for."""
        with precision(self.bits):
            value = known.ball if known.ball is not None else arb(known.value)
            wanted = abs(value.mid()).max(self.size) / 2 ** int(self.digits * 3.33 + 4)
            if known.ball is not None:
                wanted = wanted.max(known.ball.rad())
            elif abs(known.value) < 8 * known.error:
                wanted = wanted.max(arb(known.error) / 2**24)  # nothing but rounding is known of it, as of an integral that is zero
        proof, total = prove_integral(self.asked, self.variable, self.low, self.high, wanted, self.digits, self.is_mean)
        if total is not None and not total.contains(0) and total.rel_accuracy_bits() < LEAST_BITS:
            # A very small one, of which only the size was asked for.
            with precision(self.bits):
                wanted = abs(total).lower() / 2 ** int(self.digits * 3.33 + 4)
            closer, narrow = prove_integral(self.asked, self.variable, self.low, self.high, wanted, self.digits, self.is_mean)
            proof, total = (closer, narrow) if narrow is not None else (proof, total)
        if total is None or (known.ball is not None and not self.is_mean and not total.overlaps(known.ball)):
            return None
        method = "Taylor polynomials with a bound of what they leave, on boxes that cover the span"
        return replace(proven_integral(total, method), certificate=proof.certificate)

    def _from_scratch(self) -> Integral | None:
        """Where rules were led astray, as by a peak far out: first roughly, then as closely as that tells."""
        wanted = arb(2) ** -16
        for _ in range(SCALES):
            _, total = prove_integral(self.asked, self.variable, self.low, self.high, wanted, self.digits, most=ROUGHLY)
            if total is None:
                return None
            with precision(self.bits):
                if abs(total.mid()) > 64 * total.rad():
                    middle = float(total.mid())
                    return self._certified(Integral(middle, (repr(middle), repr(middle)), "open", "", 0.0))
                wanted = wanted / 2**16
        return None

    def _averaged(self, found: Integral) -> Integral:
        """Divided by the width of the span where a mean is asked for, in floating-point numbers."""
        if not self.is_mean:
            return found
        width = certain_value(c.subtract(self.high, self.low)).value
        low, high = (repr(float(t) / width) for t in found.interval)
        return Integral(found.value / width, (low, high), found.evidence, found.method, found.error / width)

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
            pieces = SmoothPieces([Piece(pieces.places[0], pieces.places[-1], self.formula)])
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

    def _pieces(self, low: Formula, high: Formula) -> SmoothPieces:
        try:
            return smooth_pieces(self.formula, self.variable, low, high)
        except (TooManyPieces, NotSearchable):
            # Too many joints, or given by a block or a list: only its values can be asked for.
            self.provable = False
            ends = Place(low, certain_value(low).value), Place(high, certain_value(high).value)
            self._defined(ends[0].x, ends[1].x)
            return SmoothPieces([Piece(*ends, self.formula)])

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

    # ------------------------------------------------------------ balls, and what has no value

    def _refuse_divergent(self, spans: Sequence[tuple[Formula, Formula, Formula, frozenset[str], frozenset[str]]]) -> None:
        """Raise NoIntegral where the area next to an end of a piece is shown to have no bound."""
        for formula, low, high, at_low, at_high in spans:
            for end, trouble, at_end in ((low, at_low, False), (high, at_high, True)):
                if not trouble:
                    continue
                orders = None if "far" in trouble else _orders(formula, self.variable, end)
                if orders is not None:
                    self._refuse_pole(end, *orders)
                    continue
                with suppress(OutOfTime), time_limit(REST_SECONDS):
                    rest = Rest(formula, self.variable, end, at_end, "far" in trouble)
                    if rest.diverges():
                        raise NoIntegral(rest.why)

    def _refuse_simple_poles(self, spans: Sequence[tuple[Formula, Formula, Formula, frozenset[str], frozenset[str]]]) -> None:
        """Raise NoIntegral at once where a denominator changes its sign at an end of a piece and the numerator is not zero there."""
        for formula, low, high, at_low, at_high in spans:
            for end, trouble in ((low, at_low), (high, at_high)):
                if trouble and "far" not in trouble and _is_simple_pole(formula, self.variable, end):
                    top, bottom = fraction(formula)
                    self._refuse_pole(end, (top, 0), (bottom, 1))

    def _refuse_pole(self, end: Formula, top: tuple[Formula, int], bottom: tuple[Formula, int]) -> None:
        order = bottom[1] - top[1]
        if order > 0:
            place = f"{end_value(end):.10g}"
            away = f"{self.variable} − {place}" if end_value(end) >= 0 else f"{self.variable} + {place[1:]}"
            size = "1/" + (f"|{away}|" if order == 1 else f"({away})^{order}")
            raise NoIntegral(
                f"the integral diverges: at {self.variable} = {place} the function has a pole and grows like {size}; "
                "the area beside it has no bound"
            )

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
        # What goes on without an end and comes out differently by a thousandth is as likely to have no value.
        most = 1e-3 if any(infinite(e) for _, low, high, *_ in spans for e in (low, high)) else 0.01
        if not agree and (not np.isfinite(second) or away > most * max(abs(first), abs(second))):
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
    top, bottom = fraction(formula)
    if variable not in variables(bottom):
        return None
    try:
        first, last = order_at(top, variable, place), order_at(bottom, variable, place)
    except NoDerivative:
        return None
    return None if first is None or last is None else ((top, first[0]), (bottom, last[0]))


def _is_simple_pole(formula: Formula, variable: str, place: Formula) -> bool:
    """Whether next to a place the denominator goes through zero with a slope and the numerator stays away from it."""
    top, bottom = fraction(formula)
    try:
        with precision(_BITS):
            ball = enclosure(Tape([place], []), _BITS)
            if ball is None or not ball.is_finite():
                return False
            step = max(abs(ball).upper(), arb(1)) * arb(2) ** -60
            wide = (ball - step).union(ball + step)
            ends = [enclosure(Tape([bottom], [variable]), _BITS, x) for x in (wide.lower(), wide.upper())]
            slope = enclosure(Tape([derivative(bottom, variable)], [variable]), _BITS, wide)
            above = enclosure(Tape([top], [variable]), _BITS, wide)
    except (NoBall, NoDerivative):
        return False
    known = [v for v in (*ends, slope, above) if v is not None and v.is_finite() and not v.contains(0)]
    return len(known) == 4 and bool(known[0] * known[1] < 0)


class Rest:
    """Whether the integral next to one end is infinite: x |f(x)| rises towards an infinite end and f keeps its sign. An end a next to which
    f has no bound is brought to infinity by x = a ± 1/u. Factors such as sin(x) are replaced by 1."""

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
        self.programs: list[list[list[Any]]] = []
        for form in (self.major, majorant(self.whole)[0]):
            with suppress(NotPlain):
                self.programs.append(program_of(form))
        # Where the exponents tell how it falls, algebra is not asked at the nearer places at which they do not.
        self.told = any(p is not None and p < -1 for p in map(self._exponent, _FAR[:9]))

    def _exponent(self, reach: int) -> Span | None:
        """The exponent of the power that it behaves like beyond a place; None where that is not known."""
        for program in self.programs:
            found = exponent(program, self.variable, arb(reach))
            if found is not None and (found < -1 or found >= -1):
                return found
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

    def diverges(self) -> bool:
        """Whether the rest is shown to be infinite: the function keeps its sign and x|f| does not fall."""
        if self.replaced:
            return False
        for reach in (10, 1000, 10**6):
            power = self._exponent(reach)
            if power is not None and power.low is not None and power.low >= -1:
                with precision(_BITS):
                    value = enclosure(Tape([self.major], [self.variable]), _BITS, arb(reach))
                self.why = self._reason(1 if value is None or value > 0 else -1)
                return True
        if self.told:
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
        if self.far:
            return _diverging(sign, self.variable, self.at_high)
        way = "+∞" if sign > 0 else "−∞"
        place = f"{end_value(self.end):.10g}"
        return (
            f"the integral diverges to {way}: next to {self.variable} = {place} the function grows at least like "
            f"1/|{self.variable} − {place}|, and the area under that has no bound"
        )


def _diverging(sign: int, variable: str, at_high: bool) -> str:
    way, where = "+∞" if sign > 0 else "−∞", "∞" if at_high else "−∞"
    return f"the integral diverges to {way}: towards {where} the function does not fall faster than 1/{variable} does"


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
    if np.isnan(value):
        places = low + (high - low) * (np.arange(_SAMPLES) + 0.5) / _SAMPLES
        without = places[np.isnan(values(places))]
        if without.size:
            raise NoIntegral(f"there is no value at {tape.variables[0]} = {without[0]:.6g}; an integral needs one all over its window")
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

    Proven with a certificate where the formula is analytic in the region and beyond; else two rules are compared.
    """
    x, low, high = outer
    y, below, above = inner
    # y = c + (d - c) t brings the inner span to 0..1, so that all of it depends on x analytically.
    t = Variable("t ")
    height = c.subtract(above, below)
    whole = expanded(c.times(substitute(formula, {y: c.add(below, c.times(height, t))}), height))
    if t.name not in variables(whole):
        return integral_of(whole, x, low, high)
    found = _double_by_rules(formula, outer, inner)
    with precision(_BITS):
        wanted = (abs(arb(found.value)) / 2**46).max(arb(found.error) / 2**20 if abs(found.value) < 8 * found.error else arb(0))
        certificate, total = prove_double(formula, outer, inner, wanted)
    if certificate is not None:
        method = "Gauss' rule with a bound of its error, on rectangles that cover the region"
        return replace(proven_integral(total, method), certificate=certificate)
    return found


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
