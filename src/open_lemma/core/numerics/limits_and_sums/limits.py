"""What a value tends to.

Where the function is continuous the limit is its value. A quotient 0/0 is settled by the first derivatives that do not
vanish (the rule of de l'Hospital, proven here because both parts are analytic beside the place). Else algebra (SymPy) proposes a
limit, and it counts as checked only if values nearer and nearer to the place come nearer to it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

from flint import arb

from ...certificate.exact import Exact
from ...certificate.limits import NOWHERE
from ...formula import catalogue as c
from ...formula.ball import branches, doubt, precision, quotient
from ...formula.calculus import NoDerivative, derivative, fraction
from ...formula.certain import Certain, certain_value, decimal_interval, enclosure, nearest_double
from ...formula.domain import end_value, infinite
from ...formula.exact import NotExact, by_algebra, from_sympy, is_exactly_zero, polynomial, to_sympy
from ...formula.nodes import Formula, Number, expanded, substitute, variables
from ...formula.tape import NoBall, Tape
from ..evidence import Evidence, weakest
from ..proving.covers import Json
from ..proving.limits import prove_limit
from ..roots.pieces import NotSearchable, TooManyPieces, smooth_pieces, value_at

SECONDS = 4.0
_ORDERS = 10
_BITS = 400
INFINITY = float("inf")
RULE = "rules for limits, confirmed step by step"
NO_VALUE = "there is no value on this side"


@dataclass(frozen=True, slots=True)
class Side:
    """The limit from one side; `value` may be infinite, and is None where there is none."""

    value: float | None
    evidence: Evidence
    method: str
    interval: tuple[str, str] | None = None
    exact: Fraction | None = None
    form: Formula | None = None
    why: str = ""
    certificate: Json | None = None


KNOWN = Side(None, "open", "")  # of which the certificate says it all


@dataclass(frozen=True, slots=True)
class Limit:
    """The limits from the sides on which there are values; `valueless` are the others. Where there are values on neither, all sides."""

    sides: tuple[Side, ...]
    valueless: tuple[Side, ...] = ()

    @property
    def agree(self) -> bool:
        first = self.sides[0].value
        return first is not None and all(s.value is not None and _alike(s.value, first) for s in self.sides)

    @property
    def value(self) -> float | None:
        return self.sides[0].value if self.agree else None

    @property
    def evidence(self) -> Evidence:
        return weakest(s.evidence for s in (*self.sides, *self.valueless))


def _alike(one: float, other: float) -> bool:
    if INFINITY in (abs(one), abs(other)):
        return one == other
    return abs(one - other) <= 1e-12 * max(abs(one), abs(other))


def limit_of(formula: Formula, variable: str, place: Formula, sides: tuple[int, ...] = (-1, 1)) -> Limit:
    """The limit of a formula at a place, which may be infinite, from the sides that are asked for (-1 left, 1 right).

    Raises NotSearchable where neither rule nor algebra nor values tell anything.
    """
    if infinite(place):
        sides = (1 if end_value(place) > 0 else -1,)
    proofs = dict(zip(sides, prove_limit(formula, variable, place, sides), strict=True))
    found = _searched(expanded(formula), variable, place, sides, frozenset(s for s, p in proofs.items() if p is not None and _plain(p[1])))
    told = [_with_proof(side, proofs.get(s)) for s, side in found]
    within = tuple(side for side in told if side.why != NO_VALUE)
    return Limit(within, tuple(side for side in told if side.why == NO_VALUE)) if within else Limit(tuple(told))


def _plain(limit: Any) -> bool:
    """Whether a proven limit is all that is to be said of it: there is no closed form to look for."""
    return limit is NOWHERE or isinstance(limit, int) or _rational(limit) is not None


def _rational(limit: Any) -> Fraction | None:
    """A proven limit as a quotient of whole numbers, where it is one."""
    if isinstance(limit, Exact):
        return None if limit.q is None else Fraction(int(limit.q.p), int(limit.q.q))
    return Fraction(*quotient(limit)) if limit.is_exact() else None


def _searched(formula: Formula, variable: str, place: Formula, sides: tuple[int, ...], known: frozenset[int]) -> list[tuple[int, Side]]:
    """What rules and algebra say of each side. known: of which sides algebra has nothing to add."""
    if infinite(place):
        return [(sides[0], _far(formula, variable, sides[0], sides[0] in known))]
    if len(sides) == 2:
        direct = _continuous(formula, variable, place)
        if direct is not None:
            return [(s, direct) for s in sides]
    return [(s, _beside(formula, variable, place, s, s in known)) for s in sides]


def _with_proof(side: Side, proof: tuple[Json, Any] | None) -> Side:
    """A side as its certificate has it; without one, as it was found, and *checked* at best."""
    if proof is None:
        return side if side.evidence != "proven" else replace(side, evidence="checked")
    certificate, limit = proof
    if limit is NOWHERE:
        return Side(None, "proven", "the formula read on all of a stretch up to the place", why=NO_VALUE, certificate=certificate)
    if isinstance(limit, int):
        return Side(limit * INFINITY, "proven", side.method or RULE, certificate=certificate)
    ball, exact = limit.ball if isinstance(limit, Exact) else limit, _rational(limit)
    if exact is not None:
        known = certain_value(Number(exact))
        value, interval = known.value, known.interval
    else:
        with precision(128):
            value, interval = nearest_double(ball), decimal_interval(ball)
    same = side.value is not None and _alike(side.value, value)
    method = side.method if same and side.method else RULE
    return Side(value, "proven", method, interval, exact, side.form if same else None, certificate=certificate)


def _continuous(formula: Formula, variable: str, place: Formula) -> Side | None:
    """The value itself, if the function is defined and continuous around the place."""
    with precision(128):
        ball = enclosure(Tape([place], []), 128)
        if ball is None:
            return None
        around = (ball - arb(2) ** -60).union(ball + arb(2) ** -60)
        try:
            for values in branches(lambda: Tape([formula], [variable]).ball(around)):
                if values is None or not values[0].is_finite():
                    return None
            if not doubt.clean:
                return None
        except NoBall:
            raise NotSearchable("what is given by a block or a list has values only; no limit of it can be told") from None
    return _of_value(
        certain_value(substitute(formula, {variable: place})), "the function is continuous there", substitute(formula, {variable: place})
    )


def _of_value(value: Certain, method: str, form: Formula | None = None) -> Side | None:
    if value.value != value.value:
        return None
    return Side(value.value, "proven" if value.proven else "checked", method, value.interval, value.exact, form)


# ---------------------------------------------------------------- one side of a place


def _beside(formula: Formula, variable: str, place: Formula, side: int, known: bool) -> Side:
    piece = _piece(formula, variable, place, side)
    if piece is None:
        return Side(None, "proven", "", why=NO_VALUE)
    return _by_orders(piece, variable, place, side) or (KNOWN if known else _by_algebra(piece, variable, place, side))


def _piece(formula: Formula, variable: str, place: Formula, side: int) -> Formula | None:
    """The smooth formula that holds just beside the place."""
    near = Number(Fraction(side, 1024))
    ends = [place, c.add(place, near)] if side > 0 else [c.add(place, near), place]
    try:
        found = smooth_pieces(formula, variable, ends[0], ends[1])
    except (TooManyPieces, NotSearchable):
        return formula
    if found.unsettled:
        return formula
    return found.pieces[0].formula if side > 0 else found.pieces[-1].formula


def _by_orders(formula: Formula, variable: str, place: Formula, side: int) -> Side | None:
    """By the first derivatives of numerator and denominator that do not vanish."""
    top, bottom = fraction(formula)
    method = "continued to the place" if not variables(bottom) else "numerator and denominator by their first derivatives that are not zero"
    try:
        first, last = order_at(top, variable, place), order_at(bottom, variable, place)
    except NoDerivative:
        return None
    if first is None or last is None:
        return None
    (n, above), (m, below) = first, last
    if n > m:
        return Side(0.0, "proven", method, ("0", "0"), Fraction(0))
    form = c.over(above, below)
    value = certain_value(form)
    if n == m:
        # By n! on both sides, which cancels.
        return _of_value(value, method, form)
    sign = (1 if value.value > 0 else -1) * side ** (m - n)
    return Side(sign * INFINITY, "proven", method)


def order_at(formula: Formula, variable: str, place: Formula) -> tuple[int, Formula] | None:
    """The order of the first derivative that is not zero at a place around which the formula is analytic, and its value.

    None where the formula is not shown to be analytic there, or algebra cannot tell a derivative from zero. Raises NoDerivative.
    """
    if variable not in variables(formula):
        return None if is_exactly_zero(formula) else (0, formula)
    with precision(128):
        ball = enclosure(Tape([place], []), 128)
        if ball is None:
            return None
        around = (ball - arb(2) ** -40).union(ball + arb(2) ** -40)
        try:
            found = enclosure(Tape([formula], [variable]), 128, around)
        except NoBall:
            return None
    if found is None or not found.is_finite():
        return None
    for order in range(_ORDERS):
        value = substitute(formula, {variable: place})
        known = value_at(formula, variable, place)
        if known.proven and known.value != 0:
            return order, value
        if known.exact != 0 and is_exactly_zero(value) is not True:
            return None
        formula = derivative(formula, variable)
    return None


def _by_algebra(formula: Formula, variable: str, place: Formula, side: int) -> Side:
    import sympy

    numeric = _approached(formula, variable, place, side)
    way = "+" if side > 0 else "-"
    found = by_algebra(lambda s: s.limit(to_sympy(formula), s.Symbol(variable, real=True), to_sympy(place), dir=way), SECONDS)
    return _confirmed(sympy, found, numeric)


def _confirmed(sympy: Any, found: Any, numeric: list[float]) -> Side:
    """What algebra says, held against values nearer and nearer to the place."""
    if found is not None and found.has(sympy.AccumBounds):
        low, high = (float(v) for v in (found.min, found.max)) if isinstance(found, sympy.AccumBounds) else (float("nan"), float("nan"))
        between = f", between {low:g} and {high:g}".replace("-", "−") if low == low and abs(low) < INFINITY else ""
        why = f"the values go to and fro without end{between}"
        return Side(None, "checked", "algebra", why=why)
    settled = _settled(numeric)
    method = "algebra; values nearer and nearer to the place agree"
    if found is not None and found in (sympy.oo, -sympy.oo):
        sign = 1 if found == sympy.oo else -1
        grows = len(numeric) > 3 and all(sign * v > 0 for v in numeric[-3:]) and sign * numeric[-1] >= sign * numeric[-2]
        return Side(sign * INFINITY, "checked" if grows else "open", method if grows else "algebra")
    if found is not None and found.is_number and found.is_extended_real and not found.has(sympy.nan, sympy.zoo):
        try:
            form = from_sympy(found)
            value = certain_value(form)
        except NotExact:
            form, value = None, None
        number = value.value if value is not None else float(found)
        near = bool(numeric) and (
            abs(numeric[-1] - number) <= 1e-3 * max(1, abs(number)) and abs(numeric[-1] - number) <= abs(numeric[0] - number) + 1e-12
        )
        if near:
            interval = value.interval if value is not None else None
            return Side(number, "checked", method, interval, value.exact if value is not None else None, form)
    if settled is not None:
        return Side(settled, "open", "values nearer and nearer to the place; algebra found no limit")
    return Side(None, "open", "", why="neither algebra nor values nearer and nearer to the place show a limit")


def _approached(formula: Formula, variable: str, place: Formula, side: int) -> list[float]:
    """Values at distances 10^-2, 10^-4, …, worked out to many digits."""
    tape = Tape([formula], [variable])
    found = []
    with precision(_BITS):
        at = enclosure(Tape([place], []), _BITS)
        if at is None:
            return []
        for k in range(2, 31, 4):
            value = enclosure(tape, _BITS, at + side * arb(10) ** -k)
            if value is not None and value.is_finite() and float(value.rad()) < 1e-6 * (1 + abs(float(value.mid()))):
                found.append(float(value.mid()))
    return found


def _settled(values: list[float]) -> float | None:
    if len(values) < 4:
        return None
    last = values[-3:]
    return last[-1] if max(last) - min(last) <= 1e-9 * max(1.0, abs(last[-1])) else None


# ---------------------------------------------------------------- far out


def _far(formula: Formula, variable: str, side: int, known: bool) -> Side:
    import sympy

    rational = _rational_limit(formula, variable, side)
    if rational is not None or known:
        return rational or KNOWN
    numeric = []
    tape = Tape([formula], [variable])
    with precision(_BITS):
        for k in range(1, 16, 2):
            try:
                value = enclosure(tape, _BITS, side * arb(10) ** k)
            except NoBall:
                raise NotSearchable("what is given by a block or a list has values only; no limit of it can be told") from None
            if value is not None and value.is_finite() and abs(value) < 1e300:
                numeric.append(float(value.mid()))
            elif value is not None and value.is_finite():
                numeric.append(INFINITY if value > 0 else -INFINITY)
    found = by_algebra(lambda s: s.limit(to_sympy(formula), s.Symbol(variable, real=True), s.oo * side), SECONDS)
    return _confirmed(sympy, found, numeric)


def _rational_limit(formula: Formula, variable: str, side: int) -> Side | None:
    """Of a quotient of polynomials, by its leading terms."""
    top, bottom = (polynomial(p, variable) for p in fraction(formula))
    if top is None or bottom is None or bottom.degree() < 0:
        return None
    method = "the leading terms of two polynomials"
    n, m = top.degree(), bottom.degree()
    if n < m:
        return Side(0.0, "proven", method, ("0", "0"), Fraction(0))
    ratio = top[n] / bottom[m]
    if n == m:
        exact = Fraction(int(ratio.p), int(ratio.q))
        return _of_value(certain_value(Number(exact)), method, Number(exact))
    return Side((1 if ratio > 0 else -1) * side ** (n - m) * INFINITY, "proven", method)
