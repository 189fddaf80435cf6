"""Certificates of functions of several variables: trees of parts that keep above a level, and all places where the slopes vanish."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import product
from typing import Any

import numpy as np
from scipy import optimize

from ...certificate.cover import Unproven, fraction
from ...certificate.exact import NoExactNumber
from ...certificate.functions import BadProgram
from ...certificate.parts import Part, hull_of, side_of, window_of, within
from ...certificate.program import NotPlain, program_of
from ...certificate.rows import Verdict
from ...certificate.several import BoxFace, Conditions, Gradient, SlopeField, level_of
from ...formula.calculus import NoDerivative, derivative
from ...formula.nodes import Formula
from ...formula.tape import Tape
from ..extrema.stationary import Constraint, Ends, Landscape
from .covers import Json, NoCertificate, Proof, checked, end_of
from .trees import tree_of

MOST_PARTS = {2: 6_000, 3: 3_000, 4: 800}  # of a tree for a level, by the number of variables
FEWEST_PARTS = 100
MOST_UNDER_CONDITIONS = 1_500
MOST_OF_FACE = {1: 2_000, 2: 3_000, 3: 2_000}
SHRINKINGS = 8
ACTIVE = 1e-6  # how near to zero a condition is that holds a place back
SMALLEST = Fraction(1, 2**14)  # of the box: what is not settled on such a part, will not be on smaller ones
BROKEN = (NoCertificate, Unproven, BadProgram, NoExactNumber)


def prove_lowest_of_several(
    formula: Formula, names: Sequence[str], ends: Ends, conditions: Sequence[Constraint], highest: bool, rows: list[Json]
) -> Proof:
    """A certificate that no value of a box, where the conditions hold, lies below (above) the intervals of the rows."""
    try:
        said = _said(formula, names, ends, "highest of several" if highest else "lowest of several")
        window, sign = window_of(said["window"]), -1 if highest else 1
        places = [[_inside(fraction(row[n]), w) for n, w in zip(names, window, strict=True)] for row in rows]
        multipliers = _multipliers(formula, names, conditions, window, places[0], sign) if conditions else []
        words = ["=" if c.equation else "<" if c.strict else "<=" for c in conditions]
        said["conditions"] = [[_program(c.formula), w, str(m)] for c, w, m in zip(conditions, words, multipliers, strict=True)]
        limits = Conditions(said["conditions"], list(names))
        said["places"] = [[str(v) for v in _allowed(place, window, limits)] for place in places]
        level = level_of(max(min(fraction(v) * sign for v in row["value_interval"]) for row in rows))
        said["parts"] = _tree(SlopeField(said["formula"], list(names), sign), limits, level, hull_of(window))
        return checked(said, rows)
    except BROKEN as reason:
        return Proof(None, Verdict([False] * len(rows), False, fault=str(reason)), str(reason))


def _multipliers(
    formula: Formula, names: Sequence[str], conditions: Sequence[Constraint], window: Any, place: list[Fraction], sign: int
) -> list[Fraction]:
    """How much each condition holds the value back at a place: gradient + (sum of multipliers times normals) is zero along all variables
    but those that are held by the window."""
    try:
        tapes = [Tape([derivative(f, n) for n in names], list(names)) for f in (formula, *(c.formula for c in conditions))]
        slopes = [np.array([float(np.asarray(v)) for v in t.numeric(*map(float, place))]) for t in tapes]
        limits = [float(np.asarray(Tape([c.formula], list(names)).numeric(*map(float, place))[0])) for c in conditions]
    except (NoDerivative, ArithmeticError, ValueError):
        return [Fraction(0)] * len(conditions)
    free = [k for k, (x, side) in enumerate(zip(place, window, strict=True)) if _apart(x, side)]
    active = [k for k, v in enumerate(limits) if abs(v) < ACTIVE]
    found = [Fraction(0)] * len(conditions)
    if active and free and all(np.isfinite(s).all() for s in slopes):
        normals = np.array([[slopes[k + 1][j] for k in active] for j in free])
        # An equation holds back to either side: it stands there with both of its normals.
        turned = [j for j, k in enumerate(active) if conditions[k].equation]
        weights, _ = optimize.nnls(np.hstack([normals, -normals[:, turned]]), -sign * slopes[0][free])
        for place_of_turned, j in enumerate(turned):
            weights[j] -= weights[len(active) + place_of_turned]
        weights = weights[: len(active)]
        for k, weight in zip(active, weights, strict=True):
            exact = Fraction(float(weight))
            plain = exact.limit_denominator(10**4)
            found[k] = plain if abs(plain - exact) < Fraction(1, 10**9) else exact
    return found


def _apart(x: Fraction, side: tuple[Any, Any]) -> bool:
    low, high = (float(e.ball.mid()) for e in side)
    return low + ACTIVE * (high - low) < float(x) < high - ACTIVE * (high - low)


def _allowed(place: list[Fraction], window: Any, limits: Conditions) -> list[Fraction]:
    """The place, or one next to it at which the conditions hold exactly."""
    if not limits.told:
        return place
    for step in (Fraction(0), *(Fraction(1, 2**k) for k in (50, 47, 44))):
        for ways in product((0, 1, -1), repeat=len(place)):
            moved = [_inside(x + way * step * max(abs(x), Fraction(1)), w) for x, way, w in zip(place, ways, window, strict=True)]
            if limits.met(moved):
                return moved
            if not step:
                break
    raise NoCertificate("the conditions do not hold exactly at the place")


def _tree(field: SlopeField, limits: Conditions, level: Any, whole: Part) -> str:
    gradient = Gradient(field, field.names, whole, {}, {})
    bounded = SlopeField(limits.joined(field.program, field.sign), field.names, field.sign) if limits.told else field
    left = MOST_PARTS.get(len(whole), FEWEST_PARTS)
    left = min(left, MOST_UNDER_CONDITIONS) if limits.told else left

    def letter_of(part: Part) -> str | None:
        nonlocal left
        left -= 1
        if left < 0:
            raise NoCertificate("that no value lies beyond took too many parts of the box")
        if limits.told and limits.nowhere(part):
            return "o"
        if bounded.keeps_above_by_slopes(part, level):
            return "a"
        if limits.told and field.keeps_above_by_slopes(part, level):
            return "b"
        if not limits.told and gradient.leads_away(part):
            return "m"
        # Second derivatives take longer: they are asked for when all sides have been halved as often.
        if not _even(part, whole):
            return None
        return "a" if bounded.keeps_above_by_curvature(part, level) else None

    return tree_of(whole, letter_of)


def _even(part: Part, whole: Part) -> bool:
    shares = [(b - a) / (d - c) for (a, b), (c, d) in zip(part, whole, strict=True)]
    return max(shares) == min(shares)


def _inside(x: Fraction, window: tuple[Any, Any]) -> Fraction:
    """A number of the window that is next to x."""
    low, high = (side_of(e.ball) for e in window)
    nearest: Fraction = min(max(x, low[1]), high[0])
    return nearest


def prove_extremes_of_several(
    formula: Formula, names: Sequence[str], ends: Ends, kinds: Sequence[str], found: Landscape, rows: list[Json]
) -> Proof:
    """A certificate of all minima, maxima and saddles in a box, on its faces and at its corners."""
    try:
        said = _said(formula, names, ends, "extremes of several")
        field, window = SlopeField(said["formula"], list(names)), window_of(said["window"])
        said |= {"kinds": list(kinds), "faces": []}
        for fixed in product("-01", repeat=len(names)):
            face = BoxFace(field, window, "".join(fixed))
            if face.gradient is not None:
                alone = [_alone(face, tuple(side_of(x) for x in box)) for box in found.alone.get(face.text, [])]
                said["faces"].append(
                    {"face": face.text, "alone": [_pairs(box) for box in alone], "parts": _cut(face, alone, found.complete)}
                )
        return checked(said, rows)
    except BROKEN as reason:
        return Proof(None, Verdict([False] * len(rows), False, fault=str(reason)), str(reason))


def _alone(face: BoxFace, part: Part) -> Part:
    """As large a box with the same middle as the verifier takes for one with a single place."""
    assert face.gradient is not None
    for _ in range(SHRINKINGS):
        if face.gradient.one_inside(part):
            break
        part = _scaled(part, Fraction(1, 4))
    else:
        raise NoCertificate("a place that is not shown to be alone")
    for by in (Fraction(64), Fraction(8), Fraction(2)):
        growing = set(range(len(part)))
        while growing:
            for k in sorted(growing):
                larger = (*part[:k], *_scaled(part[k : k + 1], by), *part[k + 1 :])
                low, high = face.hull[k]
                if larger[k][1] - larger[k][0] <= 2 * (high - low) and face.gradient.one_inside(larger):
                    part = larger
                else:
                    growing.discard(k)
    return part


def _scaled(part: Part, by: Fraction) -> Part:
    return tuple(((a + b) / 2 - (b - a) / 2 * by, (a + b) / 2 + (b - a) / 2 * by) for a, b in part)


def _cut(face: BoxFace, alone: list[Part], complete: bool) -> str:
    gradient, whole = face.gradient, face.hull
    assert gradient is not None
    # What the search has not settled the certificate will seldom settle.
    left = MOST_OF_FACE.get(len(whole), 1_000) // (1 if complete else 4) + 40 * len(alone)

    def letter_of(part: Part) -> str | None:
        nonlocal left
        left -= 1
        if any(within(gradient.wider(part), box) for box in alone):
            return "k"
        if gradient.empty(part):
            return "n"
        small = all((b - a) < SMALLEST * (d - c) for (a, b), (c, d) in zip(part, whole, strict=True))
        return "?" if left < 0 or small else None

    return tree_of(whole, letter_of)


def _said(formula: Formula, names: Sequence[str], ends: Ends, claim: str) -> Json:
    try:
        window = [[end_of(e) for e in pair] for pair in ends]
    except NotPlain as reason:
        raise NoCertificate(f"it rests on {reason}") from None
    return {"claim": claim, "formula": _program(formula), "variables": list(names), "window": window}


def _program(formula: Formula) -> Any:
    try:
        return program_of(formula)
    except NotPlain as reason:
        raise NoCertificate(f"it rests on {reason}") from None


def _pairs(part: Part) -> list[list[str]]:
    return [[str(a), str(b)] for a, b in part]


__all__ = ["prove_extremes_of_several", "prove_lowest_of_several"]
