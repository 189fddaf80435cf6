"""The verifier: whether a finding's certificate proves what its rows say.

`verify` gives the rows that are proven and whether they are all that there is. Nothing else makes the grade *proven*.

A certificate of one variable is a cover (see `cover`) with `claim` saying what follows from it:

    roots      where the formula is zero            extremes   its local minima and maxima     inflections  where it bends the other way
    lowest     its lowest value, and where          highest    likewise                        spans        where a condition holds
    sum, product, system, double integral: see the modules of these names
    lowest, highest or extremes of several: of functions of several variables, see `several`
    integral   what its integral, or its mean value, is
    centroid   of an area or of points
    polynomial (no cover) all roots of a polynomial with rational coefficients
    value      (no cover) the value of a formula without variables
    truth      (no cover) whether a condition without variables holds
    identity, taylor: of formulas, see `identity`
"""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from flint import arb

from .conditions import spans
from .cover import PLACE_BITS, Unproven, ball, between, bits, exact_number, exact_place, fraction
from .double import double_integral
from .evaluator import run
from .exact import BITS, Exact, NoExactNumber
from .extremes import extremes, lowest
from .fit import fitted
from .functions import BadProgram
from .identity import everything, identity, put_back, taylor
from .inflections import inflections
from .integral import integral_over
from .interpolation import through_points
from .limits import NOWHERE, limit_of
from .rows import Verdict, inside
from .several import extremes as extremes_of_several
from .several import lowest as lowest_of_several
from .sums import exactly, sum_over
from .systems import linear_solution, solutions
from .zeros import polynomial_roots, roots


def verify(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """Check a certificate against the rows of its finding. Never raises."""
    try:
        verdict: Verdict = _RULES[certificate["claim"]](certificate, rows)
        return verdict
    except Unproven as reason:
        return Verdict([False] * len(rows), False, fault=str(reason))
    except (
        BadProgram,
        NoExactNumber,
        KeyError,
        IndexError,
        TypeError,
        ValueError,
        AttributeError,
        ZeroDivisionError,
        OverflowError,
    ) as reason:
        return Verdict([False] * len(rows), False, fault=f"no certificate: {type(reason).__name__} {reason}")


def _value(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """The value of a formula without variables."""
    proven = []
    for program, row in zip(certificate["formulas"], rows, strict=True):
        low, high = between(row, "value", row["interval"])
        # A number that another finding shows lies where it says; as a ball it would be a little wider.
        held = len(program) == 1 and program[0][0] == "ball" and low <= fraction(program[0][1]) <= fraction(program[0][2]) <= high
        for precision in () if held else (128, PLACE_BITS, 1024):
            with bits(precision):
                found = run(program, {"": arb(0)})[-1]
                if found is not None and found.defined and found.jet is not None and found.jet[0].is_finite():
                    held = inside(found.jet[0], (low, high))
            if held:
                break
        if not held:
            with bits(BITS):
                exact = exact_place({"formula": program})
                held = low == high and exact is not None and (exact - exact_number(low)).is_zero()
        proven.append(held)
    return Verdict(proven, all(proven), len(rows))


def _truth(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """Whether a condition holds: one row with `passed`, or with `value`."""
    row = rows[0]
    told = row.get("passed", row.get("value"))
    for precision in (128, PLACE_BITS, BITS):
        with bits(precision):
            start = exact_place({"number": "0"}) if precision == BITS else arb(0)
            found = run(certificate["formula"], {"": start})[-1]
            if found is not None and found.defined and found.truth is not None:
                held = found.truth is told and len(rows) == 1
                return Verdict([held] * len(rows), held, 1, faults=[] if held else ["it is the other way round"])
    return Verdict([False] * len(rows), False, fault="not settled")


def _formula(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """A row with a formula."""
    with bits(BITS):
        (identity if certificate["claim"] == "identity" else taylor)(certificate)
    held = len(rows) == 1
    return Verdict([held] * len(rows), held, 1)


def _integral(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """An integral, or a mean value: one row with `value` and `interval`."""
    total, count = (double_integral if certificate["claim"] == "double integral" else integral_over)(certificate)
    low, high = between(rows[0], "value", rows[0]["interval"])
    with bits(certificate["bits"]):
        held = len(rows) == 1 and inside(total, (low, high))
    return Verdict([held] * len(rows), held, count, faults=[] if held else [f"the integral is {total.str(18)}"])


def _centroid(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """The centroid of an area: one row with x, y and the area as `value`, which are two quotients of integrals and one integral."""
    (area, n), (along, m), (up, k) = (integral_over(certificate[part]) for part in ("area", "along", "up"))
    row = rows[0]
    with bits(PLACE_BITS):
        claims = [
            (along / area, "x", row["intervals"]["x"]), (up / area, "y", row["intervals"]["y"]), (area, "value", row["value_interval"])
        ]  # fmt: skip
        held = len(rows) == 1 and not area.contains(0) and all(inside(ball, between(row, name, ends)) for ball, name, ends in claims)
    return Verdict([held] * len(rows), held, n + m + k, faults=[] if held else ["the integrals give another centroid"])


def _centroid_of_points(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """The mean of each coordinate of points, whose coordinates are quotients of whole numbers."""
    points = [[fraction(v) for v in point] for point in certificate["coordinates"]]
    means = [sum(column, Fraction(0)) / len(points) for column in zip(*points, strict=True)]
    ends = rows[0]["intervals"]
    wide = [between(rows[0], name, ends[name]) for name in "xyz"[: len(means)]]
    held = len(rows) == 1 and len(ends) == len(means) and all(low <= mean <= high for mean, (low, high) in zip(means, wide, strict=True))
    return Verdict([held] * len(rows), held, len(points), faults=[] if held else ["the points have another centroid"])


def _in_several(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """Solutions of systems and extremes of functions of several variables: rows with a value and an interval for each of them."""
    proven, complete, count, faults = _SEVERAL[certificate["claim"]](certificate, rows)
    return Verdict(proven, complete, count, faults=faults)


def _exactly(rule: Any) -> Any:
    """A rule that works with exact numbers."""

    def checked(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Any:
        with bits(BITS):
            return rule(certificate, rows)

    return checked


_SEVERAL: dict[str, Any] = {
    "system": solutions, "linear system": linear_solution, "solutions": _exactly(put_back), "everything": _exactly(everything),
    "lowest of several": lowest_of_several, "highest of several": lowest_of_several, "extremes of several": extremes_of_several,
    "fit": fitted, "interpolation": through_points,
}  # fmt: skip


def _sum(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """A sum or a product: one row with `value` and `interval`, and `exact` where it is said to be a fraction."""
    row = rows[0]
    low, high = between(row, "value", row["interval"])
    if low == high or (certificate["rest"] == "none" and "exact" in row):
        number = fraction(row.get("exact", row["interval"][0]))
        with bits(BITS):
            held = low <= number <= high and bool((exactly(certificate) - exact_number(number)).is_zero())
        return Verdict([held and len(rows) == 1] * len(rows), held, 1, faults=[] if held else ["it is another number"])
    total, count = sum_over(certificate)
    with bits(certificate["bits"]):
        held = len(rows) == 1 and inside(total, (low, high))
    return Verdict([held] * len(rows), held, count, faults=[] if held else [f"it is {total.str(18)}"])


def _limit(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """One row for all sides on which there are values, whose limits agree, or one for each: `value` and `interval`, or `limit` where it
    is infinite; neither where there are no values."""
    sides = certificate["sides"]
    if not sides or len(rows) not in (1, len(sides)):
        raise Unproven("not a row for each side")
    found = [limit_of(certificate, side) for side in sides]
    if len(rows) == 1:
        valued = [limit for limit in found if limit is not NOWHERE]
        proven = [all(_limit_fits(limit, rows[0]) for limit in valued or found)]
    else:
        proven = [_limit_fits(limit, row) for limit, row in zip(found, rows, strict=True)]
    if any(row.get("side") not in (None, _SIDES.get(side["side"])) for row, side in zip(rows, sides, strict=False)):
        raise Unproven("the limit from another side")
    return Verdict(proven, all(proven), len(sides), faults=[] if all(proven) else ["the limit is another one"])


_SIDES = {-1: "left", 1: "right"}


def _limit_fits(found: Any, row: dict[str, Any]) -> bool:
    if found is NOWHERE:
        return row.get("value") is None and row.get("limit") is None
    if isinstance(found, int) or "limit" in row:
        return isinstance(found, int) and row.get("limit") == ("infinity" if found > 0 else "-infinity") and row.get("value") is None
    low, high = between(row, "value", row["interval"])
    if low == high:
        with bits(BITS):
            if isinstance(found, Exact):
                return bool((found - exact_number(low)).is_zero())
            return bool(found.is_exact() and found == ball(low))
    with bits(PLACE_BITS):
        return inside(found.ball if isinstance(found, Exact) else found, (low, high))


_RULES: dict[str, Any] = {
    "limit": _limit,
    "sum": _sum,
    **dict.fromkeys(_SEVERAL, _in_several),
    "integral": _integral, "double integral": _integral, "centroid": _centroid, "centroid of points": _centroid_of_points,
    "roots": roots, "polynomial": polynomial_roots, "extremes": extremes,
    "inflections": inflections, "lowest": lowest, "highest": lowest, "spans": spans,
    "value": _value, "truth": _truth, "identity": _formula, "taylor": _formula,
}  # fmt: skip

__all__ = ["Verdict", "verify"]
