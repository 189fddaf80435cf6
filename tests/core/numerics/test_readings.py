"""The two readings that searches go by, balls and intervals with infinite ends, against mpmath: what they promise of functions that
have values on a part of the line, or at single places, only."""

from __future__ import annotations

import random
from collections.abc import Callable
from itertools import product
from typing import Any

import mpmath
import pytest
from flint import arb

from open_lemma.core.certificate.span import Span
from open_lemma.core.formula.ball import Undefined, branches, doubt, precision
from open_lemma.core.formula.nodes import expanded
from open_lemma.core.formula.tape import Tape
from open_lemma.core.numerics.extended import ExtendedInterval, interval_run
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.values import FunctionValue
from tests.core.certificate.test_evaluator import ONE, TWO, held, places_of, random_span, value_of_place

TEXTS = {
    "1/Gamma": "1/Gamma(x)", "u ln u": "x*ln(x)", "u^u": "x^x", "choose": "(sqrt(x) when x < y, otherwise y)",
    **{name: f"x {name} y" for name in ("+", "-", "*", "/", "^")},
    **{name: f"{name}(x, y)" for name in ("max", "min", "besselj", "bessely")},
}  # fmt: skip
NO_POLES = ("1/Gamma",)  # as a formula it is a quotient, which has no value at the poles of Gamma


def _tape(name: str, variables: list[str]) -> Tape:
    text = TEXTS.get(name, name if "^" in name or "/" in name else f"{name}(x)")
    value = run(f"f({', '.join(variables)}) = {text}").names.find("f")
    assert isinstance(value, FunctionValue), text
    return Tape([expanded(value.body)], variables)


def _by_balls(tape: Tape, spans: list[Span]) -> tuple[list[Any], bool] | None:
    """What the ball reading may be, and whether it is defined all over; None where it has no value anywhere."""
    found = list(branches(lambda: tape.ball(*(s.ball() for s in spans))))
    return None if not found else ([None if v is None else v[0] for v in found], not doubt.partial)


def _by_intervals(tape: Tape, spans: list[Span]) -> list[Any] | None:
    with precision(128):
        found = []
        for values in branches(lambda: interval_run(tape, [ExtendedInterval(s.low, s.high) for s in spans])):
            found.append(None if values is None else values[tape.results[0]])
        return found or None


def _check(name: str, tape: Tape, spans: list[Span], function: Callable[..., Any], places: list[tuple[Any, ...]]) -> None:
    seen = [(p, value_of_place(function, p)) for p in places]
    valued = [(p, v) for p, v in seen if v is not None]
    if all(s.is_finite() for s in spans):
        with precision(128):
            found = _by_balls(tape, spans)
        if found is None:
            assert not valued, (name, "a value where there is none", valued[:1])
        else:
            assert not found[1] or len(valued) == len(seen), (name, "no value", [p for p, v in seen if v is None][:1])
            for p, v in valued:
                assert any(b is None or not b.is_finite() or held(v, b) for b in found[0]), (name, p, v)
    intervals = _by_intervals(tape, spans)
    if intervals is None:
        assert not valued, (name, "a value where there is none", valued[:1])
        return
    for p, v in valued:
        assert any(i is None or held(v, Span(i.low, i.high)) for i in intervals), (name, p, v)


@pytest.mark.parametrize(
    ("name", "function"), [(n, f) for n, _, f in ONE if n not in NO_POLES], ids=[n for n, _, _ in ONE if n not in NO_POLES]
)
def test_functions_of_one_variable(name: str, function: Callable[[Any], Any]) -> None:
    rng, tape = random.Random(name), _tape(name, ["x"])
    with mpmath.workdps(50):
        for _ in range(80):
            span = random_span(rng)
            whole = Span(span.low, span.high)
            _check(name, tape, [whole], function, [(x,) for x in places_of(whole)])


@pytest.mark.parametrize(("name", "function"), [(n, f) for n, _, f in TWO], ids=[n for n, _, _ in TWO])
def test_operations_of_two(name: str, function: Callable[[Any, Any], Any]) -> None:
    rng, tape = random.Random(name), _tape(name, ["x", "y"])
    with mpmath.workdps(40):
        for _ in range(60):
            spans = [Span(s.low, s.high) for s in (random_span(rng), random_span(rng))]
            places = list(product(*(list(places_of(s))[:9] for s in spans)))
            _check(name, tape, spans, function, rng.sample(places, min(len(places), 30)))


def test_no_value_anywhere_is_told() -> None:
    """The promise the other way round: where there is none the readings say so, and need not be asked on smaller parts."""
    with precision(128):
        for text, low, high in (("sqrt(x)", -3, -1), ("ln(x)", -2, -1), ("0^x", -3, -1), ("x^(1/3)", -2, -1), ("asin(x)", 2, 3)):
            value = run(f"f(x) = {text}").names.find("f")
            assert isinstance(value, FunctionValue)
            tape = Tape([expanded(value.body)], ["x"])
            with pytest.raises(Undefined):
                tape.ball(arb(low).union(arb(high)))
