"""The honour of the product: a thousand random formulas, of which no finding that is graded proven may be wrong.

Each is worked out a second time by mpmath from a reading of its own (`independent`). A root graded proven must be a zero in its
interval, and where all roots are said to be known no change of sign may lie elsewhere; a minimum must be lower than what lies
beside it, no sampled value may lie below the lowest of all, and no dip of the samples may be missing.
"""

from __future__ import annotations

import random
from fractions import Fraction
from itertools import pairwise
from typing import Any

import mpmath
import pytest

from open_lemma.core.formula import catalogue as c
from open_lemma.core.formula.nodes import Formula, Number
from open_lemma.core.numerics.extrema.turning import Turns, turning_points
from open_lemma.core.numerics.integrals.integrals import NoIntegral, integral_of
from open_lemma.core.numerics.roots.infinite_intervals import find_roots_anywhere
from open_lemma.core.numerics.roots.search import NotSearchable, find_roots
from open_lemma.core.run.execute.interpreter import run
from tests.core.numerics import honour_more
from tests.core.numerics.honour import fault_of
from tests.core.numerics.independent import Made, random_formula, value_of

BOTH = frozenset({"minimum", "maximum"})
SAMPLES = 180
GROUPS, EACH = 20, 50


def read(text: str) -> Formula:
    found = run(f"f(x) = {text}").names.find("f")
    assert found is not None, text
    return found.body  # type: ignore[union-attr, no-any-return]


def sampled(made: Made, low: Fraction, high: Fraction) -> list[tuple[Any, Any]]:
    """Values at places that are no plain fractions of the window."""
    width = mpmath.mpf(high.numerator) / high.denominator - mpmath.mpf(low.numerator) / low.denominator
    start = mpmath.mpf(low.numerator) / low.denominator
    places = [start + width * (k + mpmath.mpf("0.4137")) / SAMPLES for k in range(SAMPLES)]
    with mpmath.workdps(25):
        return [(x, value_of(made, x)) for x in places]


def is_a_zero_between(made: Made, a: Any, b: Any) -> bool:
    """Whether a change of sign is one of a continuous function: the values go to zero as the bracket is halved."""
    fa, fb = value_of(made, a), value_of(made, b)
    size = max(abs(fa), abs(fb))
    for _ in range(60):
        middle = (a + b) / 2
        value = value_of(made, middle)
        if value is None:
            return False
        if value == 0:
            return True
        if (value > 0) == (fa > 0):
            a, fa = middle, value
        else:
            b, fb = middle, value
    return bool(max(abs(fa), abs(fb)) < size * mpmath.mpf(10) ** -6)


def check_roots(made: Made, f: Formula, low: Fraction, high: Fraction, seen: list[tuple[Any, Any]]) -> bool:
    try:
        found = find_roots(f, "x", Number(low), Number(high))
    except NotSearchable:
        return False
    for root in found.roots:
        if root.evidence != "proven":
            continue
        a, b = (mpmath.mpf(t) for t in root.interval)
        assert b - a <= mpmath.mpf(10) ** -18 * max(1, abs(a)), (made.text, "wide", root.interval)
        if root.multiplicity is not None and root.multiplicity % 2 == 1 and a < b:
            margin = mpmath.mpf(10) ** -25
            ends = value_of(made, a - margin), value_of(made, b + margin)
            if None not in ends:
                assert ends[0] * ends[1] <= 0, (made.text, root.x)
        else:
            middle = value_of(made, (a + b) / 2)
            # Beside a zero of a cube root, known to 22 digits, the value is known to seven.
            assert middle is None or abs(middle) < mpmath.mpf(10) ** (-15 if root.multiplicity else -6), (made.text, root.x, middle)
    if found.complete and not found.flat:
        # A place where the function goes to zero and has no value is no root, and said to be none.
        known = [mpmath.mpf(x) for x in (*(r.x for r in found.roots), *found.removed)]
        for (a, fa), (b, fb) in pairwise(seen):
            if fa is None or fb is None or fa * fb >= 0:
                continue
            if not any(a <= k <= b for k in known):
                assert not is_a_zero_between(made, a, b), (made.text, "missed a root between", float(a), float(b))
    return found.evidence == "proven"


def check_turns(made: Made, f: Formula, low: Fraction, high: Fraction, seen: list[tuple[Any, Any]]) -> bool:
    try:
        found: Turns = turning_points(f, "x", Number(low), Number(high), BOTH)
    except NotSearchable:
        return False
    for turn in found.places:
        if turn.evidence != "proven" or turn.x_high is not None:
            continue
        sign = 1 if turn.what == "minimum" else -1
        held = [mpmath.mpf(t) for t in turn.value_interval]
        x = (mpmath.mpf(turn.interval[0]) + mpmath.mpf(turn.interval[1])) / 2
        for step in ("1e-5", "-1e-5", "1e-7", "-1e-7"):
            there = x + mpmath.mpf(step)
            if not float(low) <= there <= float(high):
                continue
            beside = value_of(made, there)
            if beside is None:
                continue
            bound = held[0] if sign > 0 else held[1]
            room = mpmath.mpf(10) ** -18 * max(1, abs(bound))
            if abs(beside - bound) < mpmath.mpf(10) ** 6:
                assert sign * (beside - bound) >= -room, (made.text, turn.what, turn.x, step)
    # Many turns may share the lowest value of all: each value is asked for once.
    for what, interval in {(t.what, t.value_interval) for t in found.places if t.overall and t.evidence == "proven" and t.x_high is None}:
        sign, held = (1, mpmath.mpf(interval[0])) if what == "minimum" else (-1, mpmath.mpf(interval[1]))
        for _, value in seen:
            assert value is None or sign * (value - held) >= -(mpmath.mpf(10) ** -15) * max(1, abs(held)), (made.text, what)
    if found.complete and made.smooth:
        _no_dip_is_missing(made, found, seen)
    return found.complete and all(t.evidence == "proven" for t in found.places)


def _no_dip_is_missing(made: Made, found: Turns, seen: list[tuple[Any, Any]]) -> None:
    for (a, fa), (_, fb), (b, fc) in zip(seen, seen[1:], seen[2:], strict=False):
        if None in (fa, fb, fc):
            continue
        size = mpmath.mpf(10) ** -12 * max(1, abs(fb))
        for what, sign in (("minimum", 1), ("maximum", -1)):
            if sign * (fa - fb) > size and sign * (fc - fb) > size:
                near = [t for t in found.places if t.what == what and a <= t.x <= b] + [
                    t for t in found.places if t.what == what and t.x_high is not None and t.x <= b and t.x_high >= a
                ]
                if not near and all(value_of(made, a + (b - a) * k / 7) is not None for k in range(8)):
                    # A pole between two samples looks like a dip; at a pole the values grow as one comes nearer.
                    assert _grows(made, a, b), (made.text, what, "missed between", float(a), float(b))


def _grows(made: Made, a: Any, b: Any) -> bool:
    """Whether the values go on growing as one looks closer and closer at where they are largest."""
    sizes = []
    for _ in range(8):
        known = [(abs(v), x) for k in range(41) if (v := value_of(made, x := a + (b - a) * (k + mpmath.mpf("0.37")) / 41)) is not None]
        size, x = max(known)
        sizes.append(size)
        a, b = x - (b - a) / 20, x + (b - a) / 20
    return bool(sizes[-1] > sizes[0] * mpmath.mpf("1.1"))


def check_integral(made: Made, f: Formula, low: Fraction, high: Fraction) -> bool:
    try:
        found = integral_of(f, "x", Number(low), Number(high))
    except (NoIntegral, NotSearchable):
        return False
    if found.evidence != "proven":
        return False
    a, b = (mpmath.mpf(t) for t in found.interval)
    assert b - a <= mpmath.mpf(10) ** -12 * max(1, abs(a)), made.text
    n = 1_500
    width = mpmath.mpf((high - low).numerator) / (high - low).denominator
    start = mpmath.mpf(low.numerator) / low.denominator
    with mpmath.workdps(20):
        values = [value_of(made, start + width * (k + mpmath.mpf(1) / 2) / n) for k in range(n)]
    if any(v is None for v in values):
        return True
    rough = sum(values) * width / n  # type: ignore[arg-type]
    spread = max(abs(v) for v in values)  # type: ignore[type-var]
    if spread < 1e3:
        assert abs(rough - (a + b) / 2) <= 4e-3 * max(1, spread) * width, (made.text, rough, a)
    return True


def check_far(made: Made, f: Formula, low: Fraction) -> None:
    """Windows without an end: what is said of them must hold a long way out."""
    infinity = c.constant("infinity")
    found = find_roots_anywhere(f, "x", Number(low), infinity, 1_500)
    if found.complete and not found.flat:
        known = [mpmath.mpf(x) for x in (*(r.x for r in found.roots), *found.removed)]
        start = mpmath.mpf(low.numerator) / low.denominator
        places = [start + mpmath.mpf(k) / 7 for k in range(160)] + [start + 23 + mpmath.mpf(3) ** k for k in range(1, 12)]
        seen = [(x, value_of(made, x)) for x in places]
        for (a, fa), (b, fb) in pairwise(seen):
            if fa is not None and fb is not None and fa * fb < 0 and not any(a <= k <= b for k in known):
                assert not is_a_zero_between(made, a, b), (made.text, "missed a root between", float(a), float(b))
    try:
        whole = integral_of(f, "x", Number(low), infinity)
    except (NoIntegral, NotSearchable):
        return
    if whole.evidence == "proven":
        # Up to 200 and, where the values are small by then, no more.
        start = mpmath.mpf(low.numerator) / low.denominator
        n = 8_000
        with mpmath.workdps(20):
            values = [value_of(made, start + 200 * (k + mpmath.mpf(1) / 2) / n) for k in range(n)]
            if None not in values and max(abs(v) for v in values[-50:]) < 1e-9 and max(abs(v) for v in values) < 100:
                rough = sum(values) * 200 / n
                assert abs(rough - whole.value) < 0.06 * (1 + abs(whole.value)), (made.text, float(rough), whole.value)


@pytest.mark.parametrize("group", range(GROUPS))
def test_no_finding_graded_proven_is_wrong(group: int) -> None:
    source = random.Random(20_260_000 + group)
    proven = 0
    with mpmath.workdps(60):
        for place in range(EACH):
            made = random_formula(source)
            low = Fraction(source.randrange(-12, 8), 4)
            high = low + Fraction(source.randrange(1, 16), 4)
            f = read(made.text)
            seen = sampled(made, low, high)
            proven += check_roots(made, f, low, high, seen)
            check_turns(made, f, low, high, seen)
            if place % 5 == 0:
                check_integral(made, f, low, high)
            if place == 3:
                check_far(made, f, low)
    # That little is graded proven would be an easy way to keep one's honour.
    assert proven >= EACH * 0.7


@pytest.mark.parametrize("group", range(10))
def test_scripts_of_all_nouns_are_not_wrong(group: int) -> None:
    """Through scripts: pieces, blocks, windows that end at jumps and edges; more of them in bench/honour.py."""
    grades = []
    for k in range(20):
        script, grade, fault = fault_of(70_000 + 20 * group + k)
        grades.append(grade)
        assert not fault, (script, fault)
    assert grades.count("proven") >= 8


@pytest.mark.parametrize("group", range(8))
def test_scripts_of_the_other_nouns_are_not_wrong(group: int) -> None:
    """Several variables, systems, double integrals, inflections, sums, limits, numbers from blocks, loops and lists."""
    grades = []
    for k in range(12):
        script, grade, fault = honour_more.fault_of(90_000 + 12 * group + k)
        grades.append(grade)
        assert not fault, (script, fault)
    assert grades.count("proven") >= 4
