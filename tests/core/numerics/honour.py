"""What a finding says, held against dense samples and a second reading at 40 digits: every way in which *proven* could be wrong.

Shared by the tests (some hundreds of formulas) and `bench/honour.py` (as many as one wishes). Works through scripts, as a student would.
"""

from __future__ import annotations

import random
from fractions import Fraction
from itertools import pairwise
from typing import Any

import mpmath

from open_lemma.core.run.execute.interpreter import run
from tests.core.numerics.independent import Made, NoValue, floor, random_formula, real, value_of

NOUNS = ("roots", "extremes", "lowest", "highest", "solution", "integral", "mean")
SAMPLES = 160
MORE_ONE: list[tuple[str, Any]] = [
    ("tan({})", lambda u: mpmath.tan(u)), ("asin({})", lambda u: real(mpmath.asin(u))), ("acos({})", lambda u: real(mpmath.acos(u))),
    ("sinh({})", lambda u: mpmath.sinh(u)), ("mod({}, 1)", lambda u: u - floor(u)), ("triangle({})", lambda u: _triangle(u)),
    ("({} when x < 1, otherwise 2 - x)", None), ("({} when x <= 0, x when x < 2, otherwise 1/0)", None), ("g({})", lambda u: _root(u)),
]  # fmt: skip
BLOCK = "define g(t):\n    return sqrt(t)\n"


def _root(u: Any) -> Any:
    if u < 0:
        raise NoValue
    return mpmath.sqrt(u)


def _triangle(t: Any) -> Any:
    shifted = t - mpmath.mpf(1) / 4
    return 1 - 4 * abs(shifted - floor(shifted + mpmath.mpf(1) / 2))


def made_formula(rng: random.Random) -> Made:
    """A formula of x, sometimes with pieces, wrapped into one more function, or holding a number that a block gives."""
    made = random_formula(rng, rng.randint(1, 3))
    if rng.random() < 0.35:
        return made
    text, apply = rng.choice(MORE_ONE)
    if text.startswith("g("):
        n = rng.randint(1, 7)
        return Made(f"({made.text}) - g({n})", lambda x, u=made.value: u(x) - mpmath.sqrt(n), made.smooth)  # type: ignore[misc]
    if "<= 0" in text:
        return Made(text.format(made.text), lambda x, u=made.value: u(x) if x <= 0 else x if x < 2 else _nothing(), False)  # type: ignore[misc]
    if "when" in text:
        return Made(text.format(made.text), lambda x, u=made.value: u(x) if x < 1 else 2 - x, False)  # type: ignore[misc]
    return Made(text.format(made.text), lambda x, f=apply, u=made.value: f(u(x)), False)  # type: ignore[misc]


def _nothing() -> Any:
    raise NoValue


def random_window(rng: random.Random) -> tuple[Fraction, Fraction]:
    """Ends are often plain numbers, at which formulas jump, have poles or end."""
    low = Fraction(rng.randint(-12, 8), rng.choice((1, 2, 4, 4, 7)))
    return low, low + Fraction(rng.randint(1, 20), rng.choice((1, 2, 4, 5)))


def fault_of(seed: int) -> tuple[str, str, str]:
    """One random case: its script, the grade of its finding, and what is wrong with it, if anything is."""
    rng = random.Random(seed)
    made, (low, high), noun = made_formula(rng), random_window(rng), rng.choice(NOUNS)
    subject = f"({made.text}) > {rng.randint(-1, 1)}/2" if noun == "solution" else f"({made.text})"
    level = mpmath.mpf(subject.rsplit("> ", 1)[1].split("/")[0]) / 2 if noun == "solution" else mpmath.mpf(0)
    script = f"{BLOCK if 'g(' in made.text else ''}{noun} of {subject} for x from {low} to {high}"
    with mpmath.workdps(90):
        outcome = run(script)
        if not outcome.findings:
            return script, "refused", _internal(outcome)
        finding = outcome.findings[-1].as_record()
        seen = _samples(made, low, high)
        return script, finding["evidence"], _CHECKS[noun](finding, made, low, high, seen, level)


def _internal(outcome: Any) -> str:
    return next((m.text for m in outcome.reading.messages.items if m.code == "internal"), "")


def _samples(made: Made, low: Fraction, high: Fraction) -> list[tuple[Any, Any]]:
    start, width = _mp(low), _mp(high - low)
    places = [start + width * (k + mpmath.mpf("0.4137")) / SAMPLES for k in range(SAMPLES)]
    return [(x, value_of(made, x)) for x in places]


def _mp(q: Any) -> Any:
    fraction = Fraction(q)
    return mpmath.mpf(fraction.numerator) / fraction.denominator


def _place(row: dict[str, Any]) -> tuple[Any, Any]:
    return _mp(row["interval"][0]), _mp(row["interval"][1])


def _roots(finding: dict[str, Any], made: Made, _low: Fraction, _high: Fraction, seen: list[tuple[Any, Any]], _: Any) -> str:
    rows = [r for r in finding["values"] if r["kind"] != "stretch"]
    for row in rows:
        if row["evidence"] != "proven":
            continue
        a, b = _place(row)
        value = value_of(made, a) if a == b else None
        if a == b and (value is None or abs(value) > mpmath.mpf(10) ** -30):
            return f"x = {row['x']} is no root: {value}"
        if a < b and row.get("multiplicity") and row["multiplicity"] % 2:
            ends = value_of(made, a - mpmath.mpf(10) ** -25), value_of(made, b + mpmath.mpf(10) ** -25)
            if None not in ends and ends[0] * ends[1] > 0:
                return f"no change of sign at x = {row['x']}"
    if finding["evidence"] == "proven":
        for (a, fa), (b, fb) in pairwise(seen):
            if (
                fa is not None
                and fb is not None
                and fa * fb < 0
                and not any(a <= _mp(r["x"]) <= b for r in rows)
                and _continuous_zero(made, a, b)
            ):
                return f"a root between {float(a)} and {float(b)} is missing"
    return ""


def _continuous_zero(made: Made, a: Any, b: Any) -> bool:
    fa, fb = value_of(made, a), value_of(made, b)
    size = max(abs(fa), abs(fb))
    for _ in range(90):
        m = (a + b) / 2
        value = value_of(made, m)
        if value is None:
            return False
        if value == 0:
            return True
        if (value > 0) == (fa > 0):
            a, fa = m, value
        else:
            b, fb = m, value
    plain = Fraction(str(a)).limit_denominator(1000)
    if abs(_mp(plain) - a) < mpmath.mpf(10) ** -20 and value_of(made, _mp(plain)) is None:
        return False  # the values go to zero at a place where there is none
    return bool(max(abs(fa), abs(fb)) < size * mpmath.mpf(10) ** -8)


def _extremes(finding: dict[str, Any], made: Made, low: Fraction, high: Fraction, seen: list[tuple[Any, Any]], _: Any) -> str:
    for row in finding["values"]:
        if row["evidence"] != "proven" or row["shape"] == "stretch":
            continue
        fault = _taken(row, made) or _is_extreme(row, made, low, high)
        if not fault and row.get("overall"):
            fault = _below(row, seen, 1 if row["what"] == "minimum" else -1)
        if fault:
            return fault
    if finding["evidence"] == "proven":
        return _missing(finding, made, seen)
    return ""


def _value_at(made: Made, place: str) -> Any:
    """The value at an exact place, which may be the edge of where there is one: rounded in some precision it lies on the right side."""
    for digits in (40, 43, 47, 52, 58):
        with mpmath.workdps(digits):
            value = value_of(made, _mp(place))
        if value is not None:
            return value
    return None


def _taken(row: dict[str, Any], made: Made) -> str:
    """The value at the very place, where that is known exactly."""
    a, b = _place(row)
    if a != b:
        return ""
    value = _value_at(made, row["interval"][0])
    held = _mp(row["value_interval"][0]), _mp(row["value_interval"][1])
    slack = mpmath.mpf(10) ** -18 * max(1, abs(held[0]))  # acos has a vertical slope at its edges
    if value is None or not held[0] - slack <= value <= held[1] + slack:
        return f"the value at x = {row['x']} is {value}, not {row['value']}"
    return ""


def _is_extreme(row: dict[str, Any], made: Made, low: Fraction, high: Fraction) -> str:
    sign = 1 if row["what"] == "minimum" else -1
    bound = _mp(row["value_interval"][0 if sign > 0 else 1])
    a, b = _place(row)
    for step in ("1e-9", "-1e-9", "1e-7", "-1e-7"):
        x = (a + b) / 2 + mpmath.mpf(step)
        value = value_of(made, x) if _mp(low) <= x <= _mp(high) else None
        if value is not None and sign * (value - bound) < -(mpmath.mpf(10) ** -17) * max(1, abs(bound)):
            return f"beside the {row['what']} at x = {row['x']} there is {float(value)}"
    return ""


def _below(row: dict[str, Any], seen: list[tuple[Any, Any]], sign: int) -> str:
    bound = _mp(row["value_interval"][0 if sign > 0 else 1])
    for x, value in seen:
        if value is not None and sign * (value - bound) < -(mpmath.mpf(10) ** -25) * max(1, abs(bound)):
            return f"beyond {row['value']} lies {float(value)} at {float(x)}"
    return ""


def _goes_on(made: Made, a: Any, b: Any, sign: int) -> bool:
    """Whether the lowest of some samples is no pole: drawn closer and closer, those beside it come as near as it is looked at."""
    for _ in range(8):
        places = [a + (b - a) * k / 20 for k in range(21)]
        values = [value_of(made, x) for x in places]
        if None in values:
            return False
        k = min(range(21), key=lambda i: sign * values[i])
        a, b = places[max(k - 1, 0)], places[min(k + 1, 20)]
    ends = value_of(made, a), value_of(made, b)
    return None not in ends and abs(ends[0] - ends[1]) < mpmath.mpf(10) ** -3 * max(1, abs(ends[0]))


def _missing(finding: dict[str, Any], made: Made, seen: list[tuple[Any, Any]]) -> str:
    if not made.smooth:
        return ""
    rows = finding["values"]
    for (a, fa), (_, fb), (b, fc) in zip(seen, seen[1:], seen[2:], strict=False):
        if None in (fa, fb, fc):
            continue
        size = mpmath.mpf(10) ** -12 * max(1, abs(fb))
        for what, sign in (("minimum", 1), ("maximum", -1)):
            if sign * (fa - fb) > size and sign * (fc - fb) > size and abs(fb) < 1e6:
                near = [r for r in rows if r["what"] == what and a <= r.get("x_high", r["x"]) and r["x"] <= b]
                inner = [value_of(made, a + (b - a) * k / 40) for k in range(41)]
                tame = None not in inner and max(abs(v) for v in inner) < 4 * max(abs(fa), abs(fb), abs(fc), 1)  # type: ignore[arg-type]
                if not near and tame and _goes_on(made, a, b, sign):
                    return f"a {what} between {float(a)} and {float(b)} is missing"
    return ""


def _lowest(finding: dict[str, Any], made: Made, _low: Fraction, _high: Fraction, seen: list[tuple[Any, Any]], _: Any) -> str:
    sign = 1 if finding["noun"] == "lowest" else -1
    for row in finding["values"]:
        if row["evidence"] == "proven":
            fault = _taken(row, made) or _below(row, seen, sign)
            if fault:
                return fault
    return ""


def _solution(finding: dict[str, Any], made: Made, _low: Fraction, _high: Fraction, seen: list[tuple[Any, Any]], level: Any) -> str:
    rows = [r for r in finding["values"] if r.get("kind") == "span"]
    if finding["evidence"] != "proven" or len(rows) != len(finding["values"]):
        return ""
    ends = [(_mp(r[n]), bool(r[f"{n}_belongs"]), r) for r in rows for n in ("low", "high")]
    for x, value in seen:
        inside = any(_mp(r["low"]) < x < _mp(r["high"]) for r in rows)
        close = any(abs(x - e) < mpmath.mpf(10) ** -12 for e, _, _ in ends)
        if not close and inside != (value is not None and value > level):
            return f"at {float(x)} the value is {value}"
    for end, belongs, row in ends:
        name = "low" if _mp(row["low"]) == end else "high"
        interval = row.get(f"{name}_interval")
        if interval and _mp(interval[0]) == _mp(interval[1]) and row["low"] != row["high"]:
            value = value_of(made, _mp(interval[0]))
            if belongs != (value is not None and value > level) and not (value is not None and abs(value - level) < mpmath.mpf(10) ** -30):
                return f"whether the end {float(end)} belongs to it: the value is {value}"
    return ""


def _integral(finding: dict[str, Any], _made: Made, low: Fraction, high: Fraction, seen: list[tuple[Any, Any]], _: Any) -> str:
    if finding["evidence"] != "proven":
        return ""
    if sum(v is None for _, v in seen) > 1:
        return "the function has no value in part of the span"
    values = [v for _, v in seen if v is not None]
    spread = max(abs(v) for v in values)
    rough = sum(values) / len(values) * (_mp(high - low) if finding["noun"] == "integral" else 1)
    a, b = (_mp(v) for v in finding["values"][0]["interval"])
    steps = sum(abs(v - w) for v, w in pairwise(values))
    away = max(a - rough, rough - b, 0)  # from all that is proven to be possible
    if spread < 50 and steps < 40 * spread and away > (spread + steps) * 3 / SAMPLES * max(1, _mp(high - low)):
        return f"samples give {float(rough)}, said is {float(a)}"
    return ""


_CHECKS: dict[str, Any] = {
    "roots": _roots, "extremes": _extremes, "lowest": _lowest, "highest": _lowest, "solution": _solution, "integral": _integral,
    "mean": _integral,
}  # fmt: skip
