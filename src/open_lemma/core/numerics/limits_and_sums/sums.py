"""Sums and products of a formula over whole numbers.

What is proven has a certificate (`certify_sums`): the first terms one by one, and a bound of the rest. Without one a geometric series, or
the formula of Euler and Maclaurin with derivatives by algebra, gives what is *checked* at best; else algebra proposes a value, which
counts as checked if a sum drawn to its limit numerically agrees.
"""

from __future__ import annotations

import itertools
import math
from contextlib import suppress
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from flint import arb, fmpq

from ...formula import catalogue as c
from ...formula.ball import Undefined, branches, doubt, precision
from ...formula.calculus import NoDerivative, derivative
from ...formula.certain import certain_value, decimal_interval, enclosure, nearest_double
from ...formula.domain import infinite
from ...formula.exact import NO_ANSWER, from_sympy, is_exactly_zero, rational, to_sympy
from ...formula.limits import OutOfTime, time_limit
from ...formula.nodes import Apply, Formula, Number, Variable, Visit, expanded, substitute, transformed, variables, walk
from ...formula.tape import NoBall, Tape
from ..evidence import Evidence
from ..extended import ExtendedInterval
from ..integrals.integrals import NoIntegral, integral_of, majorant
from ..proving.covers import Json
from ..proving.sums import LONG, prove_sum
from ..roots.infinite_intervals import Tail, factored, interval_of
from ..roots.search import NotSearchable
from .limits import limit_of

MOST_TERMS = 1_000_000
_EXACT_TERMS = 2_000
_EXACT_BITS = 20_000
_BITS = 128
_FIRST = 24  # terms that are added up one by one before the formula of Euler and Maclaurin takes over
_ORDERS = 9
_LARGEST = 250  # parts of a derivative that algebra could not keep short
SECONDS = 4.0  # that algebra may take
_SHIFT = 12  # terms further on, an even number, at which a sum is looked at a second time
_FARTHEST_CHECK = 2_000  # terms of a partial sum
EULER_SECONDS = 4.0  # for the derivatives of the formula of Euler and Maclaurin


@dataclass(frozen=True, slots=True)
class Sum:
    value: float
    interval: tuple[str, str] | None
    evidence: Evidence
    method: str
    exact: Fraction | None = None
    form: Formula | None = None  # a closed form by algebra, where one was found that agrees
    ball: Any = None
    certificate: Json | None = None


def _certified(found: tuple[Json, Any], said: str, form: Formula | None = None) -> Sum:
    certificate, total = found
    count = certificate["start"] - certificate["from"]
    method = f"{count:,} {said}{_RESTS[certificate['rest']]}"
    return Sum(_near(total), decimal_interval(total), "proven", method, form=form, ball=total, certificate=certificate)


_RESTS = {
    "none": " in ball arithmetic",
    "growth": "; the rest bounded by the power that it falls faster than",
    "euler": ", the rest by the formula of Euler and Maclaurin with a bound of its remainder",
    "boole": ", the rest by Boole's formula with a bound of its remainder",
}


class NoSum(Exception):
    """There is no sum that could be given; the text says why."""


def sum_of(formula: Formula, variable: str, low: Formula, high: Formula, digits: int = 16) -> Sum:
    """The sum over the whole numbers from `low` to `high`, which may be infinite. Raises NoSum where it diverges."""
    first = _whole(low, "from")
    work = _SumWork(expanded(formula), variable, digits)
    return work.endless(first) if infinite(high) else work.finite(first, _whole(high, "to"))


def product_of(formula: Formula, variable: str, low: Formula, high: Formula, digits: int = 16) -> Sum:
    """The product over the whole numbers from `low` to `high`; an infinite one by the sum of logarithms."""
    first = _whole(low, "from")
    whole = expanded(formula)
    work = _SumWork(whole, variable, digits)
    if not infinite(high):
        return work.finite(first, _whole(high, "to"), product=True)
    return _endless_product(work, first)


def _endless_product(work: _SumWork, first: int) -> Sum:
    """Bounded by the sum of what the factors are beside 1: |ln(1 + a)| <= 2|a| where |a| <= 1/2."""
    beside = c.subtract(work.formula, Number(Fraction(1)))
    beside = factored(beside, positive=True) or beside
    found = prove_sum(beside, work.variable, first, None, work.digits, product=True)
    if found is not None:
        return _certified(found, "factors multiplied")
    try:
        sum_of(beside, work.variable, Number(Fraction(max(first, 2))), c.constant("infinity"))
    except NoSum as reason:
        raise NoSum(f"the product does not settle: of what its factors are beside 1, {reason}") from None
    return work.product_by_algebra(first)


def _whole(end: Formula, word: str) -> int:
    value = certain_value(end)
    if value.exact is None or value.exact.denominator != 1:
        raise NoSum(f"a sum goes over whole numbers; '{word}' says {value.value:g}")
    return int(value.exact)


class _SumWork:
    def __init__(self, formula: Formula, variable: str, digits: int) -> None:
        self.formula, self.variable = formula, variable
        self.tape = Tape([formula], [variable])
        self.bits = max(_BITS, int(digits * 3.4) + 64)
        self.digits = digits

    # ------------------------------------------------------------ finite

    def finite(self, first: int, last: int, product: bool = False) -> Sum:
        if last - first + 1 > MOST_TERMS:
            found = self._long(first, last, product)
            if found is None:
                raise NoSum(f"that are {last - first + 1:,} terms; at most {MOST_TERMS:,} are added up")
            return found
        exact = self._exactly(first, last, product)
        if exact is not None:
            value = certain_value(Number(exact))
            with precision(self.bits):
                ball = arb(fmpq(exact.numerator, exact.denominator))
            said = "added up exactly" if not product else "multiplied exactly"
            certificate = self._certificate(first, last, product)
            grade: Evidence = "checked" if certificate is None else "proven"
            return Sum(value.value, value.interval, grade, said, exact, ball=ball, certificate=certificate)
        found = self._long(first, last, product)
        if found is not None:
            return found
        with precision(self.bits):
            total = self.head(first, last, product)
        proven = total.is_finite() and (total.rel_accuracy_bits() > 50 or float(total.rad()) < 1e-15)
        if not proven:
            raise NoSum("some terms could not be enclosed narrowly enough")
        said = "added up" if not product else "multiplied"
        return Sum(_near(total), decimal_interval(total), "checked", f"{last - first + 1:,} terms {said} in ball arithmetic", ball=total)

    def _long(self, first: int, last: int, product: bool) -> Sum | None:
        """By a certificate, which for many terms knows the formulas of Euler and Maclaurin and of Boole."""
        certified = prove_sum(self._terms(product), self.variable, first, last, self.digits, **_kind(product))
        if certified is None and not product and last - first >= LONG and _swings(self.formula, self.variable):
            even, odd = self._unswung(first)
            if is_exactly_zero(c.add(even, odd)) is True:
                certified = prove_sum(even, self.variable, first, last, self.digits, alternating=True)
        return None if certified is None else _certified(certified, "terms multiplied" if product else "terms added up")

    def _unswung(self, first: int) -> tuple[Formula, Formula]:
        """The terms with an even and with an odd distance from the first, each as a formula without (-1)^k."""
        even, odd = (_unswung(self.formula, self.variable, (first + k) % 2 == 1) for k in (0, 1))
        return even, odd

    def _terms(self, product: bool) -> Formula:
        """What is added up; of a product, what its factors are beside 1."""
        return c.subtract(self.formula, Number(Fraction(1))) if product else self.formula

    def _certificate(self, first: int, last: int, product: bool) -> Json | None:
        found = prove_sum(self._terms(product), self.variable, first, last, self.digits, **_kind(product))
        return None if found is None else found[0]

    def _exactly(self, first: int, last: int, product: bool) -> Fraction | None:
        if last - first + 1 > _EXACT_TERMS:
            return None
        total = Fraction(1 if product else 0)
        for k in range(first, last + 1):
            term = rational(substitute(self.formula, {self.variable: Number(Fraction(k))}))
            if term is None or total.denominator.bit_length() + total.numerator.bit_length() > _EXACT_BITS:
                return None
            total = total * term if product else total + term
        return total

    def head(self, first: int, last: int, product: bool = False) -> Any:
        total = arb(1 if product else 0)
        for k in range(first, last + 1):
            term = self._term(k)
            total = total * term if product else total + term
        return total

    def _term(self, k: int) -> Any:
        found = None
        try:
            for values in branches(lambda: self.tape.ball(arb(k))):
                if values is None:
                    raise NoSum(f"the term at {self.variable} = {k} could not be enclosed")
                found = values[0] if found is None else found.union(values[0])
        except NoBall as missing:
            raise NoSum(f"'{missing}' has values only; a sum of it cannot be proven") from None
        if found is None or doubt.partial or not found.is_finite():
            raise NoSum(f"the term at {self.variable} = {k} has no value")
        return found

    # ------------------------------------------------------------ endless

    def endless(self, first: int) -> Sum:
        return self._pairs(first) or self._proven(first) or self._unproven(first)

    def _proven(self, first: int) -> Sum | None:
        certified = prove_sum(self.formula, self.variable, first, None, self.digits) if self._condenses(first) else None
        return None if certified is None else _certified(certified, "terms added up", self._closed_form(first, certified[1]))

    def _unproven(self, first: int) -> Sum:
        """What methods without a certificate say. Raises NoSum."""
        with precision(self.bits):
            found = self._geometric(first)
        if found is None:
            self._diverges(first)
            with suppress(OutOfTime), time_limit(EULER_SECONDS), precision(self.bits):
                found = self._euler_maclaurin(first)
        form = self._closed_form(first, found[0] if found else None)
        if found is not None:
            total, method = found
            return Sum(_near(total), decimal_interval(total), "checked", method, form=form, ball=total)
        return self._numeric(first, form)

    def _pairs(self, first: int) -> Sum | None:
        """A sum whose terms change their sign by (-1)^k: neighbours put together change it no more."""
        if not _swings(self.formula, self.variable):
            return None
        j = Variable(self.variable)
        even = c.add(c.times(Number(Fraction(2)), j), Number(Fraction(first)))
        odd = c.add(even, Number(Fraction(1)))
        parts = self._unswung(first)
        both = c.add(substitute(parts[0], {self.variable: even}), substitute(parts[1], {self.variable: odd}))
        opposite = is_exactly_zero(c.add(*parts)) is True
        if opposite:
            certified = prove_sum(parts[0], self.variable, first, None, self.digits, alternating=True)
            if certified is not None:
                return _certified(certified, "terms added up", self._closed_form(first, certified[1]))
        limit = Tail(parts[0], self.variable)
        slope = _slope(parts[0], self.variable)
        # Only where single terms go to zero is the sum of pairs the sum.
        far_out = _known_limit(parts[0], self.variable)
        if far_out not in (None, 0.0):
            raise NoSum("the sum diverges: its terms go to and fro and do not go to 0")
        falls = slope is not None and next((r for r in (10, 100, 1000, 10**6) if limit.sign(r) and slope.sign(r) == -limit.sign(r)), None)
        if not falls or far_out != 0.0:
            return None
        pairs = _SumWork(factored(both, positive=True) or both, self.variable, self.digits)
        found = pairs._proven(0)
        if found is None:
            weighted = self._weighted(first, falls) if opposite else None
            if weighted is not None:
                return weighted
            try:
                found = pairs._unproven(0)
            except NoSum:
                return None
        # The certificate speaks of the pairs and not of the terms: it is not handed on.
        form = self._closed_form(first, found.ball)
        return Sum(
            found.value, found.interval, found.evidence, f"neighbouring terms put together; {found.method}", found.exact, form, found.ball
        )

    def _weighted(self, first: int, falls: int) -> Sum | None:
        """A sum of terms whose signs change and that go to 0, monotonically from `falls` on: by weights that let the signs cancel, twice.

        H. Cohen, F. Rodriguez Villegas, D. Zagier, "Convergence acceleration of alternating series", Experimental Mathematics 9 (2000)
        3-12, algorithm 1. The error is known for moments of a measure only, so that the sum is *checked*; it must lie within one term of
        a partial sum (Leibniz).
        """
        count = int(self.digits * 1.4) + 6
        far = max(falls, first + 20)
        if far > _FARTHEST_CHECK:
            return None
        try:
            with precision(self.bits + 3 * count):
                one = _weighted_mean([(-1) ** k * self._term(first + k) for k in range(count)])
                later = first + _SHIFT
                other = self.head(first, later - 1) + _weighted_mean([(-1) ** k * self._term(later + k) for k in range(count)])
                partial, following = self.head(first, far), abs(self._term(far + 1))
        except NoSum:
            return None
        off = abs(one - other)
        size = abs(other).max(arb(1))
        if not off < size * arb(10) ** (2 - self.digits) or not abs(other - partial) < following:
            return None
        total = other + arb(0, 1) * (off + size * arb(10) ** -self.digits)
        method = f"{count} terms weighted so that their changing signs cancel, from two places on; both agree"
        return Sum(_near(total), decimal_interval(total), "checked", method, form=self._closed_form(first, total), ball=total)

    def _geometric(self, first: int) -> tuple[Any, str] | None:
        rest = self.geometric_rest(first)
        if rest is None:
            return None
        last, bound = rest
        total = self.head(first, last - 1) + arb(0, 1) * bound
        return total, f"{last - first} terms added up; the rest bounded by a geometric series"

    def geometric_rest(self, first: int) -> tuple[int, Any] | None:
        """From where on the rest is below the last digit, and a bound of it; by the quotient of neighbouring terms."""
        larger, _ = majorant(self.formula)
        quotient = _quotient(larger, self.variable)
        if quotient is None:
            return None
        tape = Tape([larger], [self.variable])
        for start in (16, 40, 100, 300, 1000, 3000):
            last = first + start
            try:
                held = interval_of(quotient, self.variable, ExtendedInterval(arb(last), None))
            except (ArithmeticError, Undefined):
                return None
            if held is None or held.low is None or held.high is None:
                continue
            r = max(abs(held.low), abs(held.high), key=float)
            following = enclosure(tape, self.bits, arb(last))
            if not r < arb(0.97) or following is None or not following.is_finite():
                continue
            bound = (abs(following) / (1 - r)).upper()
            size = max((float(abs(self._term(first + k)).upper()) for k in range(3)), default=1.0)
            if float(bound) <= max(size, 1e-30) * 10.0 ** -(self.digits + 3):
                return last, bound
        return None

    def _diverges(self, first: int) -> None:
        """Raise NoSum where the terms do not go to zero, or the sum is at least a multiple of the harmonic one."""
        try:
            limit = limit_of(self.formula, self.variable, c.constant("infinity"))
        except (NotSearchable, NoSum):
            limit = None
        side = limit.sides[0] if limit is not None else None
        if side is not None and side.value is not None and side.evidence != "open" and abs(side.value) > 1e-9:
            towards = {float("inf"): "∞", float("-inf"): "−∞"}.get(side.value, f"{side.value:.6g}")
            raise NoSum(f"the sum diverges: its terms do not go to 0 but to {towards}")
        if side is not None and side.value is None and side.evidence == "checked":
            raise NoSum(f"the sum has no value: of its terms, {side.why}")
        try:
            integral_of(self.formula, self.variable, Number(Fraction(max(first, 1) + 5)), c.constant("infinity"))
        except NoIntegral as reason:
            text = str(reason)
            if text.startswith("the integral diverges"):
                raise NoSum("the sum diverges, as its integral does: the terms do not fall faster than 1/k") from None

    def _integral_from(self, start: int) -> Any:
        """The proven integral of the terms from a place to infinity as a ball; None where there is none."""
        try:
            return integral_of(self.formula, self.variable, Number(Fraction(start)), c.constant("infinity"), self.digits + 4).ball
        except NoIntegral:
            return None

    def _euler_maclaurin(self, first: int) -> tuple[Any, str] | None:
        # More digits need more terms before the formula, and more of its own.
        orders = _ORDERS + max(0, self.digits - 16) // 4
        place = max(first, 0) + _FIRST + max(0, self.digits - 16)
        slopes = [self.formula]
        try:
            for _ in range(2 * orders):
                following = derivative(slopes[-1], self.variable)
                slopes.append(factored(following, positive=True) or following)
                if sum(1 for _ in walk(slopes[-1])) > _LARGEST:
                    return None
        except NoDerivative:
            return None
        for start in (place, place * 4):
            for m in range(orders, 1, -2):
                tail = Tail(slopes[2 * m], self.variable)
                if not tail.sign(start) or not Tail(self.formula, self.variable).steady(self.formula, arb(start)):
                    continue
                rest = self._integral_from(start)
                if rest is None:
                    return None
                total = self.head(first, start - 1) + rest + self._term(start) / 2
                for k in range(1, m):
                    total = total - _bernoulli(2 * k) / arb.fac_ui(2 * k) * self._at(slopes[2 * k - 1], start)
                bound = abs(_bernoulli(2 * m) / arb.fac_ui(2 * m) * self._at(slopes[2 * m - 1], start)).upper()
                total = total + arb(0, 2) * bound
                if total.is_finite() and total.rel_accuracy_bits() > min(50, self.digits * 3):
                    return (
                        total,
                        f"{start - first} terms added up, the rest by the formula of Euler and Maclaurin with a bound of its remainder",
                    )
        return None

    def _at(self, formula: Formula, place: int) -> Any:
        value = enclosure(Tape([formula], [self.variable]), self.bits, arb(place))
        if value is None:
            raise NoSum(f"a derivative has no value at {place}")
        return value

    # ------------------------------------------------------------ algebra and values

    def _closed_form(self, first: int, total: Any) -> Formula | None:
        """What algebra says the sum is, if it lies in the interval."""
        import sympy

        if variables(self.formula) - {self.variable}:
            return None
        try:
            with time_limit(2.0 if total is not None else SECONDS):
                k = sympy.Symbol(self.variable, integer=True)
                found = sympy.summation(to_sympy(self.formula, {self.variable: k}), (k, first, sympy.oo))
                if found.has(sympy.Sum) or not found.is_number or found.has(sympy.oo, sympy.zoo, sympy.nan):
                    return None
                form = from_sympy(sympy.simplify(found))
        except (OutOfTime, *NO_ANSWER):
            return None
        if total is None:
            return form
        value = enclosure(Tape([form], []), self.bits)
        return form if value is not None and value.overlaps(total) else None

    def product_by_algebra(self, first: int) -> Sum:
        """What algebra says the product is, if a product drawn to its limit numerically agrees."""
        import sympy

        form: Formula | None = None
        try:
            with time_limit(SECONDS / 2):
                k = sympy.Symbol(self.variable, integer=True, positive=True)
                found = sympy.product(to_sympy(self.formula, {self.variable: k}), (k, first, sympy.oo))
                if not found.has(sympy.Product) and found.is_number and found.is_finite:
                    form = from_sympy(sympy.simplify(found))
        except (OutOfTime, *NO_ANSWER):
            form = None
        partial = [float(self.head(first, first + n, product=True).mid()) for n in (500, 1000, 2000, 4000)]
        # Partial products that near their limit like 1/n, drawn to it (Richardson).
        firsts = [2 * b - a for a, b in itertools.pairwise(partial)]
        seconds = [(4 * b - a) / 3 for a, b in itertools.pairwise(firsts)]
        numeric = seconds[-1]
        settled = abs(seconds[-1] - seconds[-2]) <= 1e-8 * max(abs(numeric), 1e-9)
        if form is not None:
            value = certain_value(form)
            if abs(numeric - value.value) <= 1e-6 * max(1.0, abs(value.value)):
                method = "algebra; partial products drawn to their limit agree"
                return Sum(value.value, value.interval, "checked", method, value.exact, form)
        if not settled:
            raise NoSum("neither a bound of the rest nor a limit was found; the product may diverge")
        return Sum(numeric, None, "open", "partial products drawn to their limit numerically; no bound of the rest was found")

    def _numeric(self, first: int, form: Formula | None) -> Sum:
        import mpmath

        def term(k: Any) -> Any:
            with precision(120):
                value = self._term(int(k))
            return mpmath.mpf(str(value.mid().str(30, radius=False)))

        try:
            with time_limit(SECONDS / 2), mpmath.workdps(25):
                found = float(mpmath.nsum(term, [first, mpmath.inf]))
        except (OutOfTime, ArithmeticError, ValueError, mpmath.mp.NoConvergence):
            found = float("nan")
        if form is not None:
            value = certain_value(form)
            if found == found and abs(found - value.value) <= 1e-8 * max(1.0, abs(value.value)):
                method = "algebra; the sum drawn to its limit numerically agrees"
                return Sum(value.value, value.interval, "checked", method, value.exact, form)
        drawn = self._drawn(first)
        nowhere = NoSum("neither a bound of the rest nor a limit was found; it may diverge")
        if drawn is not None:
            number, off = drawn
            if found == found and abs(found - number) > off:
                off = min(max(off * 10, 1e-12), abs(found - number))
        else:
            number, off = found, 1e-3 * max(abs(found), 1e-3)
        if number != number or abs(number) > 1e12 or off > 1e-2 * max(abs(number), 1e-3) or not self._settles(first, number):
            raise nowhere
        method = f"partial sums drawn to their limit, to about {off:.1g}; no bound of the rest was found"
        return Sum(_to(number, off), None, "open", method)

    def _drawn(self, first: int) -> tuple[float, float] | None:
        """Of terms of one sign: partial sums of 2^j terms drawn to their limit, as their rest falls by about the same factor each time
        (Aitken), and by how much the last two such numbers differ; None of other terms."""
        import numpy as np

        condensed, terms = self._condensed(first)
        if condensed is None or not np.isfinite(terms).all():
            return None
        begun = math.fsum(float(self._term(k).mid()) for k in range(first, max(first, 1)))
        sums = [begun + math.fsum(terms[: 2**j]) for j in range(6, 15)]
        limits = []
        for x, y, z in zip(sums, sums[1:], sums[2:], strict=False):
            bend = (z - y) - (y - x)
            limits.append(z if bend == 0 else z - (z - y) ** 2 / bend)
        # The rest of these falls in the same way once more.
        return limits[-1], 4 * abs(limits[-1] - limits[-2]) + 1e-15 * abs(limits[-1])

    def _condensed(self, first: int) -> tuple[Any, Any]:
        """2^j a(2^j) for some j where the terms are of one sign, else None; and the first terms."""
        import numpy as np

        k = np.arange(max(first, 1), max(first, 1) + 16_384, dtype=float)
        with np.errstate(all="ignore"):
            terms = np.broadcast_to(np.asarray(self.tape.numeric(k)[0], dtype=float), k.shape)
        far = terms[512:]
        if not ((far >= 0).all() or (far <= 0).all()):
            return None, terms
        return np.array([2.0**j * abs(float(terms[2**j])) for j in range(8, 14)]), terms

    def _condenses(self, first: int) -> bool:
        """Whether there is any hope to prove that a sum settles: not where its terms fall like 1/k or slower."""
        condensed, _ = self._condensed(first)
        return condensed is None or not bool((condensed[1:] >= 0.996 * condensed[:-1]).all() and condensed.all())

    def _settles(self, first: int, found: float) -> bool:
        """Whether what a sum was drawn to may be said at all: divergent sums are drawn to numbers, too.

        Terms of one sign must pass Cauchy's condensation test with room to spare (2^j a(2^j) falls by a tenth with each j); of terms whose
        sign changes, means of the partial sums must come to the same number.
        """
        import numpy as np

        condensed, terms = self._condensed(first)
        if not np.isfinite(terms).all():
            return False
        if condensed is not None:
            return bool((condensed[1:] <= 0.9 * condensed[:-1]).all())
        sums = np.cumsum(terms)
        for _ in range(3):
            sums = np.cumsum(sums) / np.arange(1, len(sums) + 1)
        return bool(
            abs(sums[-1] - found) <= 1e-3 * max(abs(found), 1e-3) and abs(sums[-1] - sums[len(sums) // 2]) <= 1e-3 * max(abs(found), 1e-3)
        )


def _to(value: float, off: float) -> float:
    """A number with the digits that are good if it may be off by so much."""
    digits = 15 if off <= 0 or value == 0 else int(math.floor(math.log10(abs(value))) - math.floor(math.log10(off)))
    return float(f"{value:.{min(15, max(1, digits))}g}")


def _kind(product: bool) -> dict[str, bool]:
    return {"product": True} if product else {}


def _near(total: Any) -> float:
    return 0.0 if total.contains(0) and float(total.rad()) < 1e-20 else nearest_double(total)


def _bernoulli(n: int) -> Any:
    return arb.bernoulli(n)


def _swings(formula: Formula, variable: str) -> bool:
    return any(_is_swing(n, variable) for n in walk(formula))


def _is_swing(node: Formula, variable: str) -> bool:
    if not (isinstance(node, Apply) and variable in variables(node)):
        return False
    if node.entry is c.POWER:
        base = rational(node.arguments[0])
        return base is not None and base < 0
    if node.entry.name == "cos":
        turns = is_exactly_zero(c.subtract(node.arguments[0], c.times(c.constant("pi"), Variable(variable))))
        return turns is True
    return False


def _weighted_mean(terms: list[Any]) -> Any:
    """About the endless sum of terms with signs that change, by the first ones of them."""
    n = len(terms)
    whole = (3 + arb(8).sqrt()) ** n
    whole = (whole + 1 / whole) / 2
    b, weight, total = arb(-1), -whole, arb(0)
    for k, term in enumerate(terms):
        weight = b - weight
        total = total + weight * term
        b = b * ((k + n) * (k - n)) / (arb(2 * k + 1) / 2 * (k + 1))
    return total / whole


def _unswung(formula: Formula, variable: str, odd: bool) -> Formula:
    """The formula for even or for odd numbers, with (-1)^(k + n) as a plain sign."""

    def visit(node: Formula, _: Visit) -> Formula | None:
        if not _is_swing(node, variable):
            return None
        assert isinstance(node, Apply)
        at = substitute(node, {variable: Number(Fraction(1 if odd else 0))})
        sign = Number(Fraction(1 if certain_value(at).value > 0 else -1))
        return c.times(sign, c.power(c.call("abs", node.arguments[0]), node.arguments[1])) if node.entry is c.POWER else sign

    return transformed(formula, visit)


def _slope(formula: Formula, variable: str) -> Tail | None:
    try:
        slope = derivative(formula, variable)
    except NoDerivative:
        return None
    return Tail(factored(slope, positive=True) or slope, variable)


def _known_limit(formula: Formula, variable: str) -> float | None:
    try:
        found = limit_of(formula, variable, c.constant("infinity"))
    except NotSearchable:
        return None
    return found.value if found.evidence != "open" else None


def _quotient(formula: Formula, variable: str) -> Formula | None:
    """a(k+1)/a(k), shortened by algebra, with 1/k in place of what tends to 0 so that it can be enclosed far out."""
    import sympy

    try:
        with time_limit(2.0):
            k = sympy.Symbol(variable, integer=True, positive=True)
            term = to_sympy(formula, {variable: k})
            found = sympy.simplify(sympy.gammasimp(term.subs(k, k + 1) / term))
            if found.has(sympy.gamma, sympy.factorial):
                return None
            x = sympy.Symbol("x_", positive=True)
            top, bottom = sympy.fraction(sympy.together(found))
            if top.is_polynomial(k) and bottom.is_polynomial(k):
                n = max(sympy.degree(top, k), sympy.degree(bottom, k))
                # Divided by the highest power: (2 + 3/k)/(5 + 1/k^2) can be enclosed, (2k^2 + 3k)/(5k^2 + 1) cannot.
                shorter = [sympy.expand(p.subs(k, 1 / x) * x**n) for p in (top, bottom)]
                far = c.over(Number(Fraction(1)), Variable(variable))
                return substitute(c.over(*(from_sympy(p) for p in shorter)), {"x_": far})
            return from_sympy(found)
    except (OutOfTime, *NO_ANSWER):
        return None
    except sympy.PolynomialError:
        return None
