"""All roots of a function of one variable in a window, with what is proven of them.

The formula is taken apart first: only numerators and factors can be zero. A polynomial factor with rational
coefficients is solved exactly; every other factor is searched with ball arithmetic by `isolation`. At each zero the
whole formula is then asked whether it is defined there: sin(x)/x has no root at 0.

Method: existence and uniqueness by a sign change with a derivative that is nowhere zero, exclusion where an enclosure
holds no zero (R. E. Moore, R. B. Kearfott, M. J. Cloud, "Introduction to Interval Analysis", SIAM 2009, ch. 8).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import pairwise
from typing import Any, Literal

import numpy as np
from flint import arb

from ...formula.ball import as_fmpq, branches, doubt, from_fraction, precision, quotient
from ...formula.calculus import factors, fraction
from ...formula.catalogue import UNDEFINED, subtract
from ...formula.certain import certain_value, decimal_interval, enclosure, fraction_text, nearest_double
from ...formula.domain import joints, piece_at
from ...formula.exact import is_exactly_zero, polynomial, rational
from ...formula.nodes import Apply, Formula, Number, expanded, substitute, variables, walk
from ...formula.tape import NoBall, Tape
from ..evidence import Evidence, weakest
from .isolation import Isolation, Zero, exact_candidates, isolate

DEFAULT_BUDGET = 20_000
LEAST_BUDGET = 2_000
UNDEFINED_BUDGET = 500  # where the formula seems to have no value at all
MAX_EXACT_DEGREE = 120
MAX_EXACT_TRIES = 300  # zeros that algebra is asked about; later ones stay proven by their intervals alone
_FINE = 256  # bits at which places are compared


Kind = Literal["simple", "multiple", "touching", "edge"]


@dataclass(frozen=True, slots=True)
class Root:
    """One root.

    kind  simple: the curve crosses; touching: it touches (even multiplicity); multiple: odd multiplicity above one;
          edge: at an end of the domain or where the slope has no value, so that there is no multiplicity to tell

    `interval` holds the true place; `value` is the double nearest to it."""

    x: float
    interval: tuple[str, str]
    evidence: Evidence
    kind: Kind
    multiplicity: int | None
    residual: float
    exact: Fraction | None = None
    at_end: bool = False
    doubt: str = ""
    ball: Any = field(default=None, repr=False, compare=False)
    factor: Any = field(default=None, repr=False, compare=False)  # the part of the formula that is zero here


@dataclass(frozen=True, slots=True)
class Stretch:
    """A span of the window: where the function is zero throughout, or where nothing could be settled."""

    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Roots:
    roots: list[Root]
    flat: list[Stretch]
    unsettled: list[Stretch]
    removed: list[float]  # zeros of the numerator where the formula itself has no value
    boxes: int
    exact_only: bool
    ruled: tuple[tuple[float, float, str], ...] = ()  # of one factor that was searched: spans, and what became of them
    covered: bool = True  # whether it is proven that there are no others; only a certificate that holds says so in a finding

    @property
    def complete(self) -> bool:
        return not self.unsettled

    @property
    def evidence(self) -> Evidence:
        return weakest(
            [r.evidence for r in self.roots] + (["open"] if self.unsettled else []) + (["checked"] if self.flat or not self.covered else [])
        )


class NotSearchable(Exception):
    """Roots cannot be sought; the text says why."""


def find_roots(
    formula: Formula,
    variable: str,
    low: Formula,
    high: Formula,
    budget: int = DEFAULT_BUDGET,
    found: Callable[[int], None] | None = None,
) -> Roots:
    """All x from `low` to `high` (ends included) where the formula is zero.

    low, high  formulas without variables, finite, low < high
    budget     number of boxes to look at before the rest is left unsettled
    found      told now and then how many zeros are known so far

    Every root graded proven is the only zero of the function in its interval; if `complete`, nothing else in the window
    is zero. Zeros where the formula is undefined (poles of the whole) are left out and listed in `removed`.
    """
    window = _Window(low, high)
    whole = expanded(formula)
    inner = _inner_joints(whole, variable, window)
    if inner:
        return _in_pieces(whole, variable, [low, *inner, high], window, budget, found)
    return _in_one(whole, variable, window, budget, found)


def _in_one(whole: Formula, variable: str, window: _Window, budget: int, found: Callable[[int], None] | None) -> Roots:
    if variable not in variables(whole):
        return _constant(whole, window)
    tape = Tape([whole], [variable])
    if _vanishes_everywhere(whole, tape, window):
        return Roots([], [Stretch(window.low_double, window.high_double)], [], [], 1, True)
    budget = _affordable(whole, budget)
    if _seems_undefined(tape, window):
        budget = min(budget, UNDEFINED_BUDGET)
    top, _ = fraction(whole)
    search = _RootSearch(whole, tape, variable, window, budget, found)
    for factor, multiplicity in factors(top):
        if variable in variables(factor):
            search.add_factor(factor, multiplicity)
        elif is_exactly_zero(factor) or _constant_is_zero(factor):
            search.flat.append(Stretch(window.low_double, window.high_double))
    return search.result()


def _inner_joints(formula: Formula, variable: str, window: _Window) -> list[Formula]:
    """The joints of a piecewise formula inside the window, ends included."""
    return [j for j in joints(formula, variable) if window.low_double <= certain_value(j).value <= window.high_double]


def _in_pieces(
    whole: Formula, variable: str, places: list[Formula], window: _Window, budget: int, found: Callable[[int], None] | None
) -> Roots:
    """Between two joints a piecewise formula is one smooth piece; at the joints themselves its value is asked for exactly."""
    values = [certain_value(p).value for p in places]
    roots: list[Root] = []
    flat: list[Stretch] = []
    unsettled: list[Stretch] = []
    removed: list[float] = []
    boxes, exact_only = 0, True
    for place, (low, high) in enumerate(pairwise(places)):
        if not values[place] < values[place + 1]:
            continue
        piece = piece_at(whole, variable, (values[place] + values[place + 1]) / 2)
        if expanded(piece) == UNDEFINED:
            continue
        part = _in_one(expanded(piece), variable, _Window(low, high), budget, found)
        inside = [r for r in part.roots if not r.at_end]
        roots += inside
        flat += part.flat
        unsettled += part.unsettled
        removed += [r for r in part.removed if r not in values]
        boxes, exact_only = boxes + part.boxes, exact_only and part.exact_only
    search = _RootSearch(whole, Tape([whole], [variable]), variable, window, budget, found)
    for at, joint in dict(zip(values, places, strict=True)).items():
        if not any(s.low <= at <= s.high for s in flat):
            root = search.at_joint(joint)
            roots += [root] if root is not None else []
    return Roots(sorted(roots, key=lambda r: r.x), _joined(flat), _joined(unsettled), sorted(set(removed)), boxes, exact_only)


def _vanishes_everywhere(formula: Formula, tape: Tape, window: _Window) -> bool:
    """Whether the formula is zero by algebra, as sin(x)^2 + cos(x)^2 - 1 is; asked only where a few values suggest it."""
    shares = np.array([0.0717, 0.1931, 0.3178, 0.4653, 0.6124, 0.7411, 0.9089])
    values = tape.numeric(window.low_double + (window.high_double - window.low_double) * shares)[0]
    suspected = bool(np.isfinite(values).all() and (np.abs(values) < 1e-9).all())
    return suspected and is_exactly_zero(formula) is True


def _affordable(formula: Formula, budget: int) -> int:
    """Fewer boxes where each costs more: a search without end must come to its end before a run does."""
    applied = [n.entry for n in walk(formula) if isinstance(n, Apply)]
    special = sum(entry.category == "special" for entry in applied)
    return max(LEAST_BUDGET, int(budget / (1 + 3 * special + len(applied) / 40)))


def _seems_undefined(tape: Tape, window: _Window) -> bool:
    """Whether no value was met anywhere: a long search would then hardly find one."""
    places = np.linspace(window.low_double, window.high_double, 259)
    return not np.isfinite(tape.numeric(places)[0]).any()


def _constant_is_zero(formula: Formula) -> bool:
    value = enclosure(Tape([formula], []), 128)
    return value is not None and bool(value.is_zero())


def _constant(formula: Formula, window: _Window) -> Roots:
    value = enclosure(Tape([formula], []), _FINE)
    everywhere = [Stretch(window.low_double, window.high_double)]
    if value is None or (value.contains(0) and not value.is_zero() and not is_exactly_zero(formula)):
        return Roots([], [], everywhere, [], 1, False)
    return Roots([], everywhere if value.contains(0) else [], [], [], 1, True)


class _Window:
    """The ends as formulas, as balls, and as exact outer bounds a little beyond, so that a root at an end lies inside."""

    def __init__(self, low: Formula, high: Formula) -> None:
        self.ends = (low, high)
        with precision(_FINE):
            balls = [Tape([e], []).ball()[0] for e in self.ends]
            if not all(b.is_finite() for b in balls):
                raise NotSearchable("the window must have finite ends")
            self.low, self.high = balls
            if not self.low < self.high:
                raise NotSearchable("the window must run from a lower to a higher number")
            margin = (self.high - self.low) * arb(2) ** -40
        with precision(64):
            self.outer_low = (+(self.low - margin)).lower()
            self.outer_high = (+(self.high + margin)).upper()
        self.low_double, self.high_double = nearest_double(self.low), nearest_double(self.high)

    def end_at(self, place: Any) -> int | None:
        """The index of the end that a ball cannot be told from."""
        if place.overlaps(self.low):
            return 0
        return 1 if place.overlaps(self.high) else None

    def outside(self, place: Any) -> bool:
        return bool(place < self.low or place > self.high)


class _RootSearch:
    def __init__(
        self, whole: Formula, tape: Tape, variable: str, window: _Window, budget: int, found: Callable[[int], None] | None
    ) -> None:
        self.whole, self.variable, self.window, self.budget, self.found = whole, variable, window, budget, found
        self.tape = tape
        self.zeros: list[Root] = []
        self.flat: list[Stretch] = []
        self.unsettled: list[Stretch] = []
        self.removed: list[float] = []
        self.boxes = 0
        self.exact_only = True
        self.exact_tries = 0
        self.ruled: list[tuple[float, float, str]] = []

    def add_factor(self, factor: Formula, multiplicity: int) -> None:
        plain = polynomial(factor, self.variable)
        if plain is not None and plain.degree() <= MAX_EXACT_DEGREE:
            if plain.degree() >= 0:
                self._add_polynomial(factor, plain, multiplicity)
            else:
                self.flat.append(Stretch(self.window.low_double, self.window.high_double))
            return
        self.exact_only = False
        try:
            isolation = isolate(factor, self.variable, self.window.outer_low, self.window.outer_high, self.budget, self.found)
        except NoBall as missing:
            raise NotSearchable(f"'{missing}' cannot be searched for zeros") from missing
        self._add_isolation(isolation, factor, multiplicity)

    def _add_polynomial(self, factor: Formula, plain: Any, multiplicity: int) -> None:
        with precision(_FINE):
            for root, times in plain.complex_roots():
                if not root.imag.is_zero():
                    continue
                place = root.real
                exact = simplest_rational(place)
                if exact is not None and plain(as_fmpq(exact)) != 0:
                    exact = None
                if exact is not None:
                    place = from_fraction(exact.numerator, exact.denominator)
                self._keep(factor, place, exact, times * multiplicity or None, "proven", "")

    def _add_isolation(self, isolation: Isolation, factor: Formula, multiplicity: int) -> None:
        self.boxes += isolation.boxes
        self.ruled = self.ruled or isolation.ruled

        with precision(_FINE):
            for zero in isolation.zeros:
                self._keep_zero(factor, zero, multiplicity)
        self.flat += [s for low, high in isolation.flat for s in self._inside(low, high)]
        self.unsettled += [s for low, high in isolation.unsettled for s in self._inside(low, high)]

    def _keep_zero(self, factor: Formula, zero: Zero, multiplicity: int) -> None:
        exact = simplest_rational(zero.place) if self.exact_tries < MAX_EXACT_TRIES else None
        self.exact_tries += exact is not None
        if exact is not None and not _zero_at(factor, self.variable, exact):
            exact = None
        place = zero.place if exact is None else from_fraction(exact.numerator, exact.denominator)
        times = None if zero.multiplicity is None else zero.multiplicity * multiplicity or None
        self._keep(factor, place, exact, times, zero.evidence, zero.doubt)

    def _keep(self, factor: Formula, place: Any, exact: Fraction | None, times: int | None, evidence: Evidence, why: str) -> None:
        """Keep a zero of a factor if it lies in the window and the whole formula is defined there."""
        at_end = self.window.end_at(place)
        if at_end is None and self.window.outside(place):
            return
        if at_end is not None and exact is None:
            # The place and the end agree to 70 digits: they are the same if algebra says that the end is a zero.
            end = self.window.ends[at_end]
            known = is_exactly_zero(substitute(self.whole, {self.variable: end}))
            if known is None and evidence == "proven":
                evidence, why = (
                    "checked",
                    "the root and the end of the window agree to 70 digits, but algebra could not show that they are the same",
                )
            elif known is False:
                return
        elif at_end is not None and exact is not None and not _equal(exact, self.window.ends[at_end]):
            return
        defined = self._defined_at(place)
        if defined is False:
            self.removed.append(nearest_double(place))
            return
        if defined is None:
            evidence, why = "open", "it could not be shown that the function is defined here"
        self.zeros.append(replace(self._root(place, exact, times, evidence, why, at_end is not None), factor=factor))

    def _root(self, place: Any, exact: Fraction | None, times: int | None, evidence: Evidence, why: str, at_end: bool) -> Root:
        value = nearest_double(place)
        interval = decimal_interval(place, 22) if exact is None else _exact_texts(exact)
        return Root(value, interval, evidence, _kind(times), times, self._residual(value), exact, at_end, why, place)

    def at_joint(self, place: Formula) -> Root | None:
        """The root at a joint or end of a piecewise formula, if its value there is zero."""
        value = certain_value(substitute(self.whole, {self.variable: place}))
        if value.value != value.value or (value.proven and value.exact != 0 and value.value != 0):
            return None
        known = value.exact == 0 or (value.proven and value.value == 0)
        if not known and abs(value.value) > 1e-12:
            return None
        with precision(_FINE):
            ball = Tape([place], []).ball()[0]
        grade, why = ("proven", "") if known else ("open", "the value at this joint could not be told from zero")
        at_end = self.window.end_at(ball) is not None
        root = self._root(ball, rational(place), None, grade, why, at_end)  # type: ignore[arg-type]
        return replace(root, factor=self.whole)

    def _residual(self, x: float) -> float:
        residual = float(abs(self.tape.numeric(x)[0]))
        return residual if residual == residual else 0.0

    def _defined_at(self, place: Any) -> bool | None:
        """Whether the whole formula has a value on the place: yes, no, or not known."""
        try:
            values = list(branches(lambda: self.tape.ball(place)))
        except NoBall:
            return None
        if not values:
            return False
        if doubt.partial or any(v is None or not v[0].is_finite() for v in values):
            return None if values else False
        return True

    def _inside(self, low: Any, high: Any) -> list[Stretch]:
        if high < self.window.low or low > self.window.high:
            return []
        return [Stretch(max(float(low), self.window.low_double), min(float(high), self.window.high_double))]

    def result(self) -> Roots:
        outside = [r for r in self.zeros if not any(s.low <= r.x <= s.high for s in self.flat)]
        roots = _merged(sorted(outside, key=lambda r: r.x), self.variable)
        first, last = self.window.low_double, self.window.high_double
        ruled = tuple(sorted((max(a, first), min(b, last), why) for a, b, why in self.ruled if b > first and a < last))
        removed = sorted(set(self.removed))
        return Roots(roots, _joined(self.flat), _joined(self.unsettled), removed, self.boxes, self.exact_only, ruled)


def _kind(multiplicity: int | None) -> Kind:
    if multiplicity is None:
        return "edge"
    if multiplicity == 1:
        return "simple"
    return "multiple" if multiplicity % 2 else "touching"


def _merged(roots: list[Root], variable: str) -> list[Root]:
    """Zeros that several factors share, made one."""
    kept: list[Root] = []
    for root in roots:
        last = kept[-1] if kept else None
        if last is None or not last.ball.overlaps(root.ball):
            kept.append(root)
            continue
        same = (last.exact is not None and last.exact == root.exact) or _shared_exactly(last, root, variable)
        times = last.multiplicity + root.multiplicity if last.multiplicity and root.multiplicity else None
        evidence = weakest([last.evidence, root.evidence] if same else [last.evidence, root.evidence, "checked"])
        why = last.doubt or root.doubt or ("" if same else "two factors have zeros here that agree to 70 digits")
        kept[-1] = replace(last, multiplicity=times, evidence=evidence, doubt=why, kind=_kind(times))
    return kept


def _shared_exactly(one: Root, other: Root, variable: str) -> bool:
    """Whether algebra shows that two factors are zero at the same plain place."""
    return any(
        all(is_exactly_zero(r.factor, {variable: candidate}) is True for r in (one, other)) for candidate in exact_candidates(one.ball)
    )


def _joined(stretches: list[Stretch]) -> list[Stretch]:
    joined: list[Stretch] = []
    for s in sorted(stretches, key=lambda s: (s.low, s.high)):
        if joined and s.low <= joined[-1].high:
            joined[-1] = Stretch(joined[-1].low, max(joined[-1].high, s.high))
        else:
            joined.append(s)
    return joined


def _zero_at(formula: Formula, variable: str, value: Fraction) -> bool:
    """Whether the formula is exactly zero at a rational place."""
    at = substitute(formula, {variable: Number(value)})
    ball = enclosure(Tape([at], []), _FINE)
    if ball is None or not ball.contains(0):
        return False
    return bool(ball.is_zero()) or is_exactly_zero(at) is True


def _equal(value: Fraction, end: Formula) -> bool:
    return is_exactly_zero(subtract(end, Number(value))) is True


def _exact_texts(value: Fraction) -> tuple[str, str]:
    return fraction_text(value, 22, -1), fraction_text(value, 22, 1)


def simplest_rational(place: Any, greatest: int = 100_000) -> Fraction | None:
    """The fraction with the smallest denominator in a narrow ball, if it is a plain one."""
    guess = _last_convergent(*quotient(place.mid()), greatest)
    # Wide balls hold fractions by chance: only one that is far narrower than 1/denominator^2 says anything.
    # Such a one is a convergent of the middle (A. Ya. Khinchin, "Continued Fractions", theorem 19).
    if place.overlaps(from_fraction(guess.numerator, guess.denominator)) and place.rad() * guess.denominator**2 * 2 * 10**6 < 1:
        return guess
    return None


def _last_convergent(top: int, bottom: int, greatest: int) -> Fraction:
    """The last convergent of the continued fraction of top/bottom whose denominator is not above `greatest`."""
    before, last = (0, 1), (1, 0)
    while bottom:
        quotient, rest = divmod(top, bottom)
        following = (quotient * last[0] + before[0], quotient * last[1] + before[1])
        if following[1] > greatest:
            break
        before, last = last, following
        top, bottom = bottom, rest
    return Fraction(*last)


__all__ = ["DEFAULT_BUDGET", "NotSearchable", "Root", "Roots", "Stretch", "find_roots", "simplest_rational"]
