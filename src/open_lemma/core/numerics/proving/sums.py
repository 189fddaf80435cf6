"""Certificates of sums and products: so many terms one by one, and the first rule that bounds the rest closely enough."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from flint import arb

from ...certificate.cover import Boxes, Unproven
from ...certificate.exact import NoExactNumber
from ...certificate.functions import BadProgram
from ...certificate.program import NotPlain, program_of
from ...certificate.sums import Terms, sum_over
from ...formula.ball import precision
from ...formula.catalogue import constant
from ...formula.nodes import Formula, Number
from ..integrals.integrals import NoIntegral, integral_of
from ..roots.pieces import NotSearchable
from .covers import Json

STARTS = (16, 40, 100, 300, 1000, 3000)
WAYS = ((4, 64), (8, 160), (16, 480), (32, 1_200))  # discs of so many a radius, and terms that are added up before
SPREAD = 1e-10  # where what the formula leaves is larger, its integral is not asked for
LONG = 20_000  # terms of a finite sum that are added up one by one
ORDER = 18


class SumCertifier:
    """The terms of a sum, or 1 + the terms as the factors of a product; `alternating`: with signs that change, from + on."""

    def __init__(self, formula: Formula, variable: str, first: int, last: int | None, digits: int, **kind: bool) -> None:
        self.formula, self.variable, self.first, self.last, self.digits = formula, variable, first, last, digits
        self.bits = max(128, int(digits * 3.4) + 64)
        self.said: Json = {
            "claim": "sum", "formula": program_of(formula), "variable": variable, "from": first,
            "to": "infinity" if last is None else last, "bits": self.bits, **kind,
        }  # fmt: skip
        self.alternating, self.product = bool(kind.get("alternating")), bool(kind.get("product"))

    def proven(self) -> tuple[Json, Any] | None:
        """The certificate and the ball that it proves; None where there is none."""
        try:
            if self.last is None:
                return self._by_growth() or self._by_formula()
            if self.last - self.first < LONG:
                return self._tried({"start": self.last + 1, "rest": "none"})
            return self._by_formula()
        except (BadProgram, NoExactNumber):
            return None

    def _tried(self, rest: Json) -> tuple[Json, Any] | None:
        said = {**self.said, **rest}
        try:
            total, _ = sum_over(said)
        except Unproven:
            return None
        return (said, total) if total.is_finite() and self._close(total) else None

    def _close(self, total: Any) -> bool:
        return bool(total.rel_accuracy_bits() > min(50, self.digits * 3) or float(total.rad()) < 1e-18)

    def _by_growth(self) -> tuple[Json, Any] | None:
        for start in STARTS:
            said = {**self.said, "start": self.first + start, "rest": "growth"}
            try:
                with precision(self.bits):
                    bound = Terms(said).rest(said).rad()
                    size = max(abs(float(Terms({**said, "start": self.first + 3}).head().mid())), 1e-30)
            except Unproven:
                continue
            if float(bound) <= size * 10.0 ** -(self.digits + 3):
                return self._tried(said)
        return None

    def _by_formula(self) -> tuple[Json, Any] | None:
        """Of Euler and Maclaurin, or of Boole."""
        if self.product:
            return None
        order = ORDER + 2 * (max(0, self.digits - 16) // 4)
        if self.alternating:
            order = 20 + 2 * (max(0, self.digits - 16) // 2)
        best: tuple[Json, Any] | None = None
        rule = "boole" if self.alternating else "euler"
        for share, start in WAYS:
            start += max(self.first, 0)
            said: Json = {"start": start, "rest": rule, "order": order, "share": share, "doublings": self._doublings(start)}
            try:
                terms = Terms({**self.said, **said})
                with precision(self.bits):
                    if float(terms.spread(terms.far(said), order, share)) > SPREAD:
                        continue
            except Unproven:
                continue
            if not self.alternating:
                said["integral"] = self._integral_from(start)
                if said["integral"] is None:
                    return None  # nor will there be one from further out on
            found = self._tried(said)
            if found is not None and self._narrow(found[1]):
                return found
            best = best or found
        return best

    def _narrow(self, total: Any) -> bool:
        return bool(total.rel_accuracy_bits() > self.digits * 3.33 + 5)

    def _doublings(self, start: int) -> int:
        """How often the start is to be doubled until a term is below the last digit."""
        boxes = Boxes(self.said["formula"], self.variable)
        size = 1.0
        for count in (12, 25, 50, 100, 200, 400):
            with precision(self.bits):
                found = [boxes.read(arb(start * 2**n)) for n in (0, count)]
                if any(r is None or r.jet is None or not r.jet[0].is_finite() for r in found):
                    break
                size = float(abs(found[1].jet[0]).upper())  # type: ignore[union-attr, index]
            if size <= 10.0 ** -(self.digits + 4):
                return count
        return 400

    def _integral_from(self, start: int) -> Json | None:
        """A certificate of the integral of the terms from a place on."""
        end = constant("infinity") if self.last is None else Number(Fraction(self.last))
        try:
            return integral_of(self.formula, self.variable, Number(Fraction(start)), end, self.digits + 4).certificate
        except (NoIntegral, NotSearchable):
            return None


def prove_sum(formula: Formula, variable: str, first: int, last: int | None, digits: int, **kind: bool) -> tuple[Json, Any] | None:
    """A certificate of a sum or a product, and the ball that it proves; None where there is none. last: None without end."""
    try:
        return SumCertifier(formula, variable, first, last, digits, **kind).proven()
    except NotPlain:
        return None


__all__ = ["prove_sum"]
