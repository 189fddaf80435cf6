"""The centroid of the area between two curves, and of points."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from ...formula import catalogue as c
from ...formula.ball import precision
from ...formula.nodes import Formula, Number, Variable
from ..evidence import Evidence, weakest
from ..proving.covers import Json
from .integrals import Integral, NoIntegral, integral_of, proven_integral

_BITS = 120
_DIGITS = 20  # of the integrals, so that their quotients have those of a double


@dataclass(frozen=True)
class Centroid:
    """x, y, area: each an Integral whose interval holds it where `evidence` is proven. certificate: of all three."""

    x: Integral
    y: Integral
    area: Integral
    evidence: Evidence
    certificate: Json | None


def centroid_between(first: Formula, second: Formula, variable: str, low: Formula, high: Formula) -> Centroid:
    """The centroid of what lies between two curves over a span, wherever which of them is the upper one.

    Area A = int |f - g|, A*x = int x*|f - g|, A*y = int (f + g)/2*|f - g|; handbook mechanics, for example W. C. Young, R. G. Budynas,
    "Roark's Formulas for Stress and Strain", 7th ed. (2002), appendix A (from memory). Raises NoIntegral, also where the area is 0.
    """
    height = c.call("abs", c.subtract(first, second))
    middle = c.times(Number(Fraction(1, 2)), c.add(first, second))
    area, along, up = (
        integral_of(f, variable, low, high, _DIGITS) for f in (height, c.times(Variable(variable), height), c.times(middle, height))
    )  # fmt: skip
    evidence: Evidence = weakest([area.evidence, along.evidence, up.evidence])
    if area.value == 0 or (area.ball is not None and area.ball.contains(0)):
        raise NoIntegral("the two curves enclose no area, which therefore has no centroid")
    parts = (area, along, up)
    if evidence == "proven" and all(p.ball is not None and p.certificate is not None for p in parts):
        certificate = {"claim": "centroid", "area": area.certificate, "along": along.certificate, "up": up.certificate}
        return Centroid(_quotient(along, area), _quotient(up, area), area, evidence, certificate)
    checked: Evidence = weakest([evidence, "checked"])
    return Centroid(_divided(along, area, checked), _divided(up, area, checked), area, checked, None)


def _quotient(moment: Integral, area: Integral) -> Integral:
    with precision(_BITS):
        return proven_integral(moment.ball / area.ball, moment.method)


def _divided(moment: Integral, area: Integral, evidence: Evidence) -> Integral:
    value = moment.value / area.value
    error = abs(value) * (moment.error / max(abs(moment.value), 1e-300) + area.error / abs(area.value)) if moment.value else moment.error
    return Integral(value, (repr(value - error), repr(value + error)), evidence, moment.method, error)


def centroid_of_points(points: Sequence[Sequence[Fraction]]) -> tuple[Fraction, ...]:
    """The mean of each coordinate, exactly. points: at least one, each of as many coordinates."""
    return tuple(sum(column, Fraction(0)) / len(points) for column in zip(*points, strict=True))
