"""What the rows of a finding say, held against what a certificate shows: each row has one place of its own, and its value lies there."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from .cover import PLACE_BITS, Boxes, Cover, Point, Unproven, ball, between, bits, exact_number, fraction
from .exact import BITS


@dataclass
class Verdict:
    """proven: for each row whether the certificate proves it. complete: whether there are no others. fault: what did not hold."""

    proven: list[bool]
    complete: bool
    boxes: int = 0
    fault: str = ""
    faults: list[str] = field(default_factory=list)  # of single rows
    left: list[Any] = field(default_factory=list)  # candidates that are no row's
    missing: list[tuple[Fraction, Fraction]] = field(default_factory=list)  # boxes with a zero of which no row speaks


def place_of(certificate: dict[str, Any], row: dict[str, Any]) -> tuple[Fraction, Fraction]:
    """Where the place of a row is said to be: exactly, or between two numbers."""
    low, high = between(row, "x" if "x" in row else certificate["variable"], row["interval"])
    try:
        exact = Fraction(row["exact"])
    except (KeyError, ValueError):
        return low, high  # a closed form is no part of what is shown
    if not low <= exact <= high:
        raise Unproven(f"the interval does not hold {row['exact']}")
    return exact, exact


def value_fits(
    boxes: Boxes, row: dict[str, Any], name: str, interval: Any, low: Fraction, high: Fraction, point: Point | None, flat: bool
) -> bool:
    """Whether the value at a place lies in the interval of the row. flat: the slope is zero at the place."""
    wide = between(row, name, interval)
    with bits(PLACE_BITS):
        if point is not None:
            here = point.reading()
            if (
                fraction(interval[0]) == fraction(interval[1])
                and point.exact is not None
                and (here is None or here.jet is None or not here.jet[0].is_exact())
            ):
                with bits(BITS):
                    here = boxes.read(point.exact)
                    found = None if here is None or here.jet is None else here.jet[0] - exact_number(wide[0])
                    return found is not None and here is not None and here.defined and bool(found.is_zero())
            value = here.jet[0] if here is not None and here.defined and here.jet is not None else None
        elif low == high:
            if wide[0] == wide[1]:
                with bits(BITS):
                    here = boxes.read(exact_number(low))
                    return (
                        here is not None and here.defined and here.jet is not None and bool((here.jet[0] - exact_number(wide[0])).is_zero())
                    )
            here = boxes.read(ball(low))
            value = here.jet[0] if here is not None and here.defined and here.jet is not None else None
        else:
            box = ball(low).union(ball(high))
            here = boxes.read(box, 1)
            if here is None or not here.continuous or here.jet is None:
                return False
            middle = boxes.read(box.mid())
            value = here.jet[0]
            if flat and middle is not None and middle.jet is not None and middle.defined:
                # f(p) = f(m) + f'(c)(p - m): with a slope near zero that is far closer.
                value = middle.jet[0] + here.jet[1] * (box - box.mid())
        return value is not None and inside(value, wide)


def inside(value: Any, wide: tuple[Fraction, Fraction]) -> bool:
    """Whether a ball lies between two numbers; what is off by the rounding of these numbers to balls alone is let pass."""
    return bool(value.lower() >= ball(wide[0]).lower()) and bool(value.upper() <= ball(wide[1]).upper())


def matched(
    certificate: dict[str, Any],
    rows: list[dict[str, Any]],
    cover: Cover,
    candidates: list[Any],
    fits: Any,
    complete: bool,
    kinds: frozenset[str],
) -> Verdict:
    """Each row to one candidate of its own. fits(candidate, row, k, low, high) tells whether it is that one."""
    ordered = sorted(candidates, key=_ends)
    lows, highs = [_ends(c)[0] for c in ordered], [_ends(c)[1] for c in ordered]
    taken: set[int] = set()
    verdict = Verdict([], complete, cover.boxes.count)
    for row in rows:
        fault = ""
        mine = None
        try:
            low, high = place_of(certificate, row)
            near = range(bisect_left(highs, low), bisect_right(lows, high))
            mine = next((k for k in near if k not in taken and fits(ordered[k], row, low, high)), None)
        except (Unproven, KeyError, IndexError, TypeError) as reason:
            fault = str(reason)
        if mine is not None and not isinstance(ordered[mine], tuple):
            taken.add(mine)
        verdict.proven.append(mine is not None)
        if mine is None:
            verdict.faults.append(fault or f"nothing of the kind at x = {row.get('x')}")
    left = verdict.left = [c for k, c in enumerate(ordered) if k not in taken]
    verdict.complete = complete and all(verdict.proven) and not [c for c in left if getattr(c, "what", None) in kinds or not kinds]
    verdict.boxes = cover.boxes.count
    return verdict


def _ends(candidate: Any) -> tuple[Any, Any]:
    """From where to where a candidate may lie."""
    return (candidate[0].low, candidate[1].high) if isinstance(candidate, tuple) else (candidate.low, candidate.high)
