"""Sums and products over whole numbers: the first ones one by one, and a bound of the rest with its reason.

    none     there is no rest
    growth   the terms keep an exponent E < -1 from the start s on (see `growth`): the rest is at most |f(s)| (1 + s/(-E - 1))
    euler    Euler and Maclaurin from s to n: the integral, (f(s) + f(n))/2, less the sum of B_k/k! (f^(k-1)(s) - f^(k-1)(n)) over
             even k < m, off by at most 2 |B_m/m!| times the integral of |f^(m)| (NIST DLMF 2.10.1)
    boole    terms that change their sign: half the sum of E_k(0)/k! (f^(k)(s) -+ f^(k)(n)), off by at most 2.5/pi^m times the integral
             of |f^(m)| (DLMF 24.17.1, 24.8.4)

Without an end, n is so far out that what follows there, of terms that fall, is no more than the term itself. Of a product with factors
1 + f the rest is exp of at most twice the rest of the sum of |f|, where that is no more than 1/4.
"""

from __future__ import annotations

from typing import Any

from flint import acb, arb, fmpq

from .cover import Boxes, Unproven, ball, bits, fraction
from .disc import values_on
from .evaluator import run
from .exact import BITS, Exact, rational
from .growth import far_out
from .integral import integral_over

MOST_TERMS = 2_000_000
MOST_ORDER = 200
MOST_DOUBLINGS = 2_000
MOST_SHARE = 100
MOST_BITS = 8_192
Ball = Any


class Terms:
    """The terms f(k), or (-1)^(k - first) f(k) where they are alternating, from `first` to `last` (None: without end)."""

    def __init__(self, certificate: dict[str, Any]) -> None:
        said = certificate["to"]
        self.first, self.last = int(certificate["from"]), None if said == "infinity" else int(said)
        self.start = int(certificate["start"])
        self.alternating, self.product = bool(certificate.get("alternating")), bool(certificate.get("product"))
        self.precision = int(certificate["bits"])
        self.boxes = Boxes(certificate["formula"], certificate["variable"])
        if not self.first <= self.start <= self.first + MOST_TERMS or not 0 < self.precision <= MOST_BITS:
            raise Unproven("a number of terms or bits that is none")
        if self.last is not None and self.start > self.last + 1:
            raise Unproven("more terms than there are")
        if (certificate["rest"] == "none") != (self.last is not None and self.start == self.last + 1):
            raise Unproven("a rest of which nothing is said")

    def head(self) -> Ball:
        """The terms before the start, put together."""
        total = arb(1 if self.product else 0)
        for k in range(self.first, self.start):
            term = self._term(arb(k))
            total = total * (1 + term) if self.product else total - term if self._turned(k) else total + term
        return total

    def _turned(self, k: int) -> bool:
        return self.alternating and (k - self.first) % 2 == 1

    def exactly(self) -> Exact:
        """The same in exact numbers, where there is no rest."""
        total = rational(fmpq(1 if self.product else 0))
        for k in range(self.first, self.start):
            term = self._term(rational(fmpq(k)))
            total = total * (term + rational(fmpq(1))) if self.product else total - term if self._turned(k) else total + term
        return total

    def _term(self, place: Any) -> Any:
        found = run(self.boxes.program, {self.boxes.variable: place})[-1]
        if found is None or not found.defined or found.jet is None:
            raise Unproven("a term without a value")
        return found.jet[0]

    def rest(self, certificate: dict[str, Any]) -> Ball:
        """A ball that holds the sum of the terms from the start on. Raises Unproven."""
        rule = certificate["rest"]
        if rule == "none":
            return arb(0)
        if rule == "growth" and self.last is None:
            return arb(0, 1) * self._by_growth()
        order = int(certificate["order"])
        fits = rule == ("boole" if self.alternating else "euler") and not self.product
        if not fits or not 1 < order <= MOST_ORDER or order % 2:
            raise Unproven(f"'{rule}' is no rule for these terms")
        far = self.far(certificate)
        a, b = self.at(self.start, order), self.at(far, order)
        spread = self.spread(far, order, int(certificate["share"]))
        beyond = arb(0)
        if self.last is None:
            self._falling(far)
            beyond = arb(0, 1) * abs(b[0]).upper()
        if rule == "euler":
            whole = certificate["integral"]
            ends = {"number": str(self.start)}, "infinity" if self.last is None else {"number": str(self.last)}
            if (whole["formula"], whole["variable"], whole["low"], whole["high"]) != (self.boxes.program, self.boxes.variable, *ends) or (
                whole["claim"] != "integral" or whole.get("mean")
            ):  # fmt: skip
                raise Unproven("an integral of something else")
            total = integral_over(whole)[0] + (a[0] + b[0]) / 2 + beyond
            for k in range(2, order, 2):
                total = total - arb.bernoulli(k) / k * (a[k - 1] - b[k - 1])
            return total + arb(0, 2) * (abs(arb.bernoulli(order)) * spread).upper()
        turn = -1 if (far - self.start) % 2 else 1
        # Boole's formula leaves out the last term, which is what is beyond where there is no end.
        total = (a[0] - turn * b[0]) / 2 + (beyond if self.last is None else turn * b[0])
        for k in range(1, order, 2):
            total = total - (arb(2) ** (k + 1) - 1) * arb.bernoulli(k + 1) / (k + 1) * (a[k] - turn * b[k])
        total = total + arb(0, 1) * (arb("2.5") / arb.pi() ** order * arb.fac_ui(order) * spread).upper()
        return -total if (self.start - self.first) % 2 else total

    def far(self, certificate: dict[str, Any]) -> int:
        """Where the formula ends: at the last place, or where what follows is no more than its first term."""
        if self.last is not None:
            return self.last
        doublings = int(certificate["doublings"])
        if not 0 < doublings <= MOST_DOUBLINGS or self.start < 1:
            raise Unproven("a number of doublings that is none")
        return int(self.start * 2**doublings)

    def spread(self, far: int, order: int, share: int) -> Ball:
        """A bound of the integral of |f^(m)|/m! from the start to `far`, by Cauchy's estimate on spans from s on, s/share wide, and with
        discs of that radius."""
        if not 1 < share <= MOST_SHARE or self.start < share:
            raise Unproven("spans that are too narrow")
        total, low = arb(0), self.start
        while low < far:
            high = min(low + low // share, far)
            radius = arb(low) / share
            line = (arb(low) - radius).union(arb(high) + radius)
            found = values_on(self.boxes.program, {self.boxes.variable: (line, acb(line, arb(0, 1) * radius))})
            if found is None:
                raise Unproven("terms that are not shown to be holomorphic")
            total = total + abs(found).upper() * (high - low) / radius**order
            low = high
        return total.upper()

    def _falling(self, far: int) -> None:
        """Raises Unproven if the terms are not shown to keep their sign and to fall to zero from a place on."""
        stretch = far_out(self.boxes, fraction(far), None)
        growth = None if stretch is None else stretch.growths()[-1]
        high = None if stretch is None or growth is None or not growth.exact else stretch.total(growth).high
        if high is None or not high < 0:
            raise Unproven("terms that are not shown to fall")

    def _by_growth(self) -> Ball:
        stretch = far_out(self.boxes, fraction(self.start), None)
        growth = None if stretch is None else stretch.growths()[-1]
        if stretch is None or growth is None:
            raise Unproven("terms of which no exponent is known")
        power = stretch.total(growth)
        if power.high is None or not power.high < -1:
            raise Unproven("terms that do not fall fast enough")
        return (growth.bound * (1 + ball(fraction(self.start)) / (-power.high - 1))).upper()

    def at(self, place: int, order: int) -> list[Ball]:
        """Taylor coefficients at a whole number."""
        here = self.boxes.read(arb(place), order - 1)
        if here is None or not here.smooth or here.jet is None or not all(v.is_finite() for v in here.jet):
            raise Unproven("terms that are not smooth")
        return here.jet


def sum_over(certificate: dict[str, Any]) -> tuple[Ball, int]:
    """A ball that holds the sum, or the product, and how many terms were read. Raises Unproven."""
    terms = Terms(certificate)
    with bits(terms.precision):
        rest = terms.rest(certificate)
        head = terms.head()
        if not terms.product:
            return head + rest, terms.start - terms.first + terms.boxes.count
        most = abs(rest).upper()
        if not most <= 0.25:
            raise Unproven("factors that are not near enough to 1")
        return head * (arb(0, 2) * most).exp(), terms.start - terms.first + terms.boxes.count


def exactly(certificate: dict[str, Any]) -> Exact:
    """A sum or a product without a rest, exactly. Raises Unproven, NotExact."""
    terms = Terms(certificate)
    if certificate["rest"] != "none":
        raise Unproven("a sum with a rest")
    with bits(BITS):
        return terms.exactly()


__all__ = ["Terms", "exactly", "sum_over"]
