"""The same for the other nouns: several variables, inflections, sums, limits, double integrals, systems, numbers from blocks and lists."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from typing import Any

import mpmath
import numpy as np
from scipy import optimize

from open_lemma.core.run.execute.interpreter import run
from tests.core.numerics.independent import Made, NoValue, floor, random_formula, real, value_of

GRID = 17


@dataclass(frozen=True)
class Case:
    """A script and what is wrong with its finding: a text, empty where nothing is."""

    script: str
    fault: Callable[[dict[str, Any]], str]


def fault_of(seed: int) -> tuple[str, str, str]:
    """One random case: its script, the grade of its finding, and what is wrong with it, if anything is."""
    rng = random.Random(seed)
    case = rng.choice(KINDS)(rng)
    with mpmath.workdps(90):
        outcome = run(case.script)
        if not outcome.findings:
            return case.script, "refused", next((m.text for m in outcome.reading.messages.items if m.code == "internal"), "")
        finding = outcome.findings[-1].as_record()
        return case.script, finding["evidence"], case.fault(finding)


def _mp(q: Any) -> Any:
    fraction = Fraction(q)
    return mpmath.mpf(fraction.numerator) / fraction.denominator


def _proven(finding: dict[str, Any]) -> list[dict[str, Any]]:
    return [r for r in finding["values"] if r.get("evidence") == "proven"]


def _within(value: Any, interval: Any, room: Any = None) -> bool:
    low, high = (_mp(v) for v in interval)
    slack = mpmath.mpf(10) ** -25 * max(1, abs(low)) if room is None else room
    return bool(low - slack <= value <= high + slack)


# ---------------------------------------------------------------- two variables


JOINS: list[tuple[str, Callable[[Any, Any], Any]]] = [
    ("({}) + ({})", lambda a, b: a + b), ("({})*({})", lambda a, b: a * b), ("({}) - ({})", lambda a, b: a - b),
    ("max({}, {})", max), ("abs(({}) - ({}))", lambda a, b: abs(a - b)), ("(({}) + 2*({}))^2", lambda a, b: (a + 2 * b) ** 2),
    ("sin(({})*({}))", lambda a, b: mpmath.sin(a * b)),
]  # fmt: skip


def _of_two(rng: random.Random) -> tuple[str, Callable[[Any, Any], Any]]:
    f, g = random_formula(rng, rng.randint(0, 2)), random_formula(rng, rng.randint(0, 2))
    text, join = rng.choice(JOINS)

    def value(x: Any, y: Any) -> Any:
        try:
            return real(join(f.value(mpmath.mpf(x)), g.value(mpmath.mpf(y))))
        except (NoValue, ZeroDivisionError, ValueError, OverflowError):
            return None

    return text.format(f.text, g.text.replace("x", "y").replace("eyp", "exp").replace("may", "max")), value


def _window(rng: random.Random) -> tuple[Fraction, Fraction]:
    low = Fraction(rng.randint(-8, 4), rng.choice((1, 2, 3)))
    return low, low + Fraction(rng.randint(1, 8), rng.choice((1, 2, 3)))


def _places(window: tuple[Fraction, Fraction]) -> list[Any]:
    low, high = (_mp(v) for v in window)
    return [low, *(low + (high - low) * (k + mpmath.mpf("0.4137")) / GRID for k in range(GRID)), high]


def _lowest(rng: random.Random) -> Case:
    text, value = _of_two(rng)
    wx, wy = _window(rng), _window(rng)
    noun = rng.choice(("lowest", "highest"))
    sign = 1 if noun == "lowest" else -1

    def fault(finding: dict[str, Any]) -> str:
        rows = _proven(finding)
        if not rows:
            return ""
        bound = _mp(rows[0]["value_interval"][0 if sign > 0 else 1])
        for x in _places(wx):
            for y in _places(wy):
                v = value(x, y)
                if v is not None and sign * (v - bound) < -(mpmath.mpf(10) ** -20) * max(1, abs(bound)):
                    return f"beyond {rows[0]['value']} lies {float(v)} at {float(x)}, {float(y)}"
        for row in rows:
            v = value(_mp(row["x"]), _mp(row["y"]))
            if v is not None and abs(v - _mp(row["value"])) > mpmath.mpf(10) ** -6 * max(1, abs(v)):
                return f"at {row['x']}, {row['y']} the value is {float(v)}"
        return ""

    return Case(f"{noun} of {text} for x from {wx[0]} to {wx[1]}, y from {wy[0]} to {wy[1]}", fault)


def _extremes(rng: random.Random) -> Case:
    text, value = _of_two(rng)
    wx, wy = _window(rng), _window(rng)
    noun = rng.choice(("minima", "maxima", "extremes"))
    kinds = {"minima": (1,), "maxima": (-1,), "extremes": (1, -1)}[noun]

    def fault(finding: dict[str, Any]) -> str:
        for row in _proven(finding):
            if row["what"] not in ("minimum", "maximum"):
                continue
            sign = 1 if row["what"] == "minimum" else -1
            bound = _mp(row["value_interval"][0 if sign > 0 else 1])
            for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1), (1, 1), (-1, 1), (1, -1), (-1, -1)):
                x, y = (_mp(row[n]) + d * mpmath.mpf(10) ** -6 for n, d in (("x", dx), ("y", dy)))
                if not (_mp(wx[0]) <= x <= _mp(wx[1]) and _mp(wy[0]) <= y <= _mp(wy[1])):
                    continue
                v = value(x, y)
                if v is not None and sign * (v - bound) < -(mpmath.mpf(10) ** -17) * max(1, abs(bound)):
                    return f"beside the {row['what']} at {row['x']}, {row['y']} there is {mpmath.nstr(v, 20)}"
        if finding["evidence"] != "proven" or finding["summary"].startswith(("The lowest", "The highest")):
            return ""  # of the last nothing is said about other places
        xs, ys = _places(wx), _places(wy)
        seen = [[value(x, y) for y in ys] for x in xs]
        for i, j in ((i, j) for i in range(1, len(xs) - 1) for j in range(1, len(ys) - 1)):
            around = [seen[i + a][j + b] for a in (-1, 0, 1) for b in (-1, 0, 1) if a or b]
            here = seen[i][j]
            if here is None or None in around:
                continue
            for sign in kinds:
                what = "minimum" if sign > 0 else "maximum"
                near = [
                    r
                    for r in finding["values"]
                    if r["what"] == what and xs[i - 1] <= r["x"] <= xs[i + 1] and ys[j - 1] <= r["y"] <= ys[j + 1]
                ]
                # Lower than all of a ring by far: there is one inside, of a function that is continuous there.
                if (
                    not near
                    and all(sign * (a - here) > 0 for a in around)
                    and _continuous(value, xs[i - 1], xs[i + 1], ys[j - 1], ys[j + 1], here, sign)
                ):
                    return f"a {what} near {float(xs[i])}, {float(ys[j])} is missing"
        return ""

    return Case(f"{noun} of {text} for x from {wx[0]} to {wx[1]}, y from {wy[0]} to {wy[1]}", fault)


def _continuous(value: Any, a: Any, b: Any, c: Any, d: Any, here: Any, sign: int) -> bool:
    """Whether the whole edge of a rectangle lies above a value inside, by closer samples."""
    n = 24
    edge = [(a + (b - a) * k / n, y) for k in range(n + 1) for y in (c, d)] + [
        (x, c + (d - c) * k / n) for k in range(n + 1) for x in (a, b)
    ]
    values = [value(x, y) for x, y in edge]
    inner = [value(a + (b - a) * i / 7, c + (d - c) * j / 7) for i in range(8) for j in range(8)]
    if None in values or None in inner:
        return False
    spread = max(abs(v) for v in values)
    return all(sign * (v - here) > mpmath.mpf(10) ** -9 * max(1, spread) for v in values) and max(abs(v) for v in inner) <= 4 * max(
        1, spread
    )


def _system(rng: random.Random) -> Case:
    (f, fv), (g, gv) = _of_two(rng), _of_two(rng)
    wx, wy = _window(rng), _window(rng)

    def residual(place: Any) -> Any:
        values = [v(*place) for v in (fv, gv)]
        return [float(v) if v is not None else 1e3 for v in values]

    def fault(finding: dict[str, Any]) -> str:
        for row in _proven(finding):
            if not row.get("intervals") or any(v is None for v in row["intervals"].values()):
                continue
            for v in (fv, gv):
                found = v(_mp(row["x"]), _mp(row["y"]))
                if found is not None and abs(found) > 1e-6 * max(1, abs(row["x"]), abs(row["y"])) ** 4:
                    return f"at {row['x']}, {row['y']} an equation is off by {float(found)}"
        if finding["evidence"] != "proven" or any("x" not in r or "y" not in r for r in finding["values"]):
            return ""
        source = np.random.default_rng(1)
        for _ in range(12):
            start = [float(a) + (float(b) - float(a)) * source.random() for a, b in (wx, wy)]
            with mpmath.workdps(15):
                place, _, done, _ = optimize.fsolve(residual, start, full_output=True, xtol=1e-13)
            inside = all(float(a) + 1e-6 < p < float(b) - 1e-6 for p, (a, b) in zip(place, (wx, wy), strict=True))
            values = [v(_mp(place[0]), _mp(place[1])) for v in (fv, gv)]
            if done != 1 or not inside or any(v is None or abs(v) > 1e-12 for v in values):
                continue
            if not any(abs(r["x"] - place[0]) < 1e-5 and abs(r["y"] - place[1]) < 1e-5 for r in finding["values"]) and _is_alone(
                fv, gv, place
            ):
                return f"a solution at {place[0]}, {place[1]} is missing"
        return ""

    return Case(f"solution of {f} = 0, {g} = 0 for x from {wx[0]} to {wx[1]}, y from {wy[0]} to {wy[1]}", fault)


def _is_alone(fv: Any, gv: Any, place: Any) -> bool:
    """Whether the equations really change their signs there: the Jacobian is far from singular."""
    h = mpmath.mpf(10) ** -8
    x, y = (_mp(float(p)) for p in place)
    rows = []
    for v in (fv, gv):
        values = [v(x + h, y), v(x - h, y), v(x, y + h), v(x, y - h)]
        if None in values:
            return False
        rows.append(((values[0] - values[1]) / (2 * h), (values[2] - values[3]) / (2 * h)))
    return bool(abs(rows[0][0] * rows[1][1] - rows[0][1] * rows[1][0]) > 1e-3)


def _double(rng: random.Random) -> Case:
    text, value = _of_two(rng)
    wx, wy = _window(rng), _window(rng)

    def fault(finding: dict[str, Any]) -> str:
        if finding["evidence"] != "proven":
            return ""
        n = 40
        (a, b), (c, d) = ([_mp(v) for v in w] for w in (wx, wy))
        seen = [
            value(a + (b - a) * (i + mpmath.mpf("0.5")) / n, c + (d - c) * (j + mpmath.mpf("0.5")) / n) for i in range(n) for j in range(n)
        ]
        if sum(v is None for v in seen) > n:
            return "the function has no value in part of the region"
        known = [v for v in seen if v is not None]
        area, spread = (b - a) * (d - c), max(abs(v) for v in known)
        rough = sum(known) / len(known) * area
        if spread < 20 and not _within(rough, finding["values"][0]["interval"], area * spread * mpmath.mpf("0.15")):
            return f"samples give {float(rough)}, said is {finding['values'][0]['value']}"
        return ""

    return Case(f"integral of {text} for x from {wx[0]} to {wx[1]}, y from {wy[0]} to {wy[1]}", fault)


# ---------------------------------------------------------------- one variable


def _inflections(rng: random.Random) -> Case:
    made = random_formula(rng, rng.randint(1, 3))
    window = _window(rng)

    def bend(x: Any) -> Any:
        h = mpmath.mpf(10) ** -9
        values = [value_of(made, x + k * h) for k in (-1, 0, 1)]
        return None if None in values else (values[0] - 2 * values[1] + values[2]) / h**2

    def fault(finding: dict[str, Any]) -> str:
        with mpmath.workdps(50):
            for row in _proven(finding):
                x = (_mp(row["interval"][0]) + _mp(row["interval"][1])) / 2
                beside = [bend(x + s * mpmath.mpf(10) ** -5) for s in (-1, 1)]
                if None not in beside and all(abs(v) > mpmath.mpf(10) ** -12 for v in beside) and beside[0] * beside[1] > 0:
                    return f"the second derivative has one sign on both sides of {row['x']}"
            if finding["evidence"] != "proven" or not made.smooth:
                return ""
            places = _places(window)
            seen = [bend(x) for x in places]
            for (a, fa), (b, fb) in pairwise(zip(places, seen, strict=True)):
                if fa is None or fb is None or fa * fb >= 0 or min(abs(fa), abs(fb)) < 1e-8:
                    continue
                if not any(a <= r["x"] <= r.get("x_high", r["x"]) <= b for r in finding["values"]) and _bends(bend, a, b):
                    return f"an inflection between {float(a)} and {float(b)} is missing"
        return ""

    return Case(f"inflections of {made.text} for x from {window[0]} to {window[1]}", fault)


def _bends(bend: Any, a: Any, b: Any) -> bool:
    """Whether the second derivative goes continuously through zero between two places."""
    fa, fb = bend(a), bend(b)
    size = max(abs(fa), abs(fb))
    for _ in range(60):
        m = (a + b) / 2
        value = bend(m)
        if value is None:
            return False
        a, fa, b, fb = (m, value, b, fb) if (value > 0) == (fa > 0) else (a, fa, m, value)
    return bool(max(abs(fa), abs(fb)) < size * mpmath.mpf(10) ** -5)


TERMS: list[tuple[str, Callable[[Any, int, int], Any]]] = [
    ("1/(k^{p} + {q})", lambda k, p, q: 1 / (k**p + q)),
    ("(-1)^k/(k + {q})^{p}", lambda k, p, q: (-1) ** int(k) / (k + q) ** p),
    ("k^{p}/({q} + 1)^k", lambda k, p, q: k**p / mpmath.mpf(q + 1) ** k),
    ("{q}^k/Gamma(k + {p})", lambda k, p, q: mpmath.mpf(q) ** k / mpmath.gamma(k + p)),
    ("atan(1/k^{p})*{q}", lambda k, p, q: mpmath.atan(1 / k**p) * q),
    ("ln(1 + {q}/k^{p})", lambda k, p, q: mpmath.log(1 + q / k**p)),
    ("exp(-{q}*k)*sin({p}*k)", lambda k, p, q: mpmath.exp(-q * k) * mpmath.sin(p * k)),
    ("ln(k)^{q}/k^{p}", lambda k, p, q: mpmath.log(k) ** q / k**p),
    ("1/(k*(k + {q})) - 1/(k + {p})^3", lambda k, p, q: 1 / (k * (k + q)) - 1 / (k + p) ** 3),
    ("sqrt(k + {q}) - sqrt(k + {p})", lambda k, p, q: mpmath.sqrt(k + q) - mpmath.sqrt(k + p)),
    ("sin({q}/k)/k^{p}", lambda k, p, q: mpmath.sin(q / k) / k**p),
]


def _sum(rng: random.Random) -> Case:
    text, term = rng.choice(TERMS)
    p, q, first = rng.randint(1, 4), rng.randint(1, 5), rng.randint(1, 3)
    last = rng.choice(("infinity", "infinity", str(first + rng.randint(0, 60))))

    def fault(finding: dict[str, Any]) -> str:
        if finding["evidence"] != "proven" or finding["values"][0].get("value") is None:
            return ""
        interval = finding["values"][0]["interval"]
        if last != "infinity":
            total = mpmath.fsum(term(mpmath.mpf(k), p, q) for k in range(first, int(last) + 1))
            return "" if _within(total, interval) else f"it is {total}"
        parts = [mpmath.fsum(term(mpmath.mpf(k), p, q) for k in range(first, n)) for n in (400, 800, 1600)]
        steps = [abs(b - a) for a, b in pairwise(parts)]
        if steps[1] > 0.72 * steps[0] and steps[1] > 1e-9:
            return "" if steps[1] < 0.99 * steps[0] else f"it seems to grow without end: {[float(v) for v in parts]}"
        # What is left falls by at least as much as from one part to the next.
        share = steps[1] / steps[0] if steps[0] else mpmath.mpf(0)
        room = 3 * steps[1] * share / (1 - share) + mpmath.mpf(10) ** -18
        return "" if _within(parts[-1], interval, room) else f"1600 terms give {parts[-1]}"

    return Case(f"sum of {text.format(p=p, q=q)} for k from {first} to {last}", fault)


def _limit(rng: random.Random) -> Case:
    f, g = random_formula(rng, 2), random_formula(rng, 1)
    text, join = rng.choice([*JOINS[:3], ("({})/({})", lambda a, b: a / b)])
    place = rng.choice(("0", "1", "-1", "1/2", "infinity"))
    made = Made(text.format(f.text, g.text), lambda x: join(f.value(x), g.value(x)), f.smooth and g.smooth)

    def fault(finding: dict[str, Any]) -> str:
        rows = [r for r in _proven(finding) if "interval" in r and r.get("value") is not None]
        with mpmath.workdps(60):
            for row in rows:
                sides = {"left": (-1,), "right": (1,)}.get(str(row.get("side", "")), (-1, 1))
                for side in (1,) if place == "infinity" else sides:
                    values = [
                        value_of(made, mpmath.mpf(10) ** e if place == "infinity" else _mp(place) + side * mpmath.mpf(10) ** -e)
                        for e in (10, 14, 18)
                    ]
                    if None in values:
                        continue
                    off = [abs(v - _mp(row["value"])) for v in values]
                    if min(off) > 1e-3 * max(1, abs(row["value"])) and off[2] > 0.9 * off[1] and off[1] > 0.9 * off[0]:
                        return f"near the place the values are {[mpmath.nstr(v, 12) for v in values]}, not {row['value']}"
        return ""

    return Case(f"limit of {made.text}, at {place}", fault)


# What comes near to an edge, a jump or a pole of what stands around it: how it goes there, and places at which 90 digits still tell.
FAR: list[tuple[str, Callable[[Any], Any], tuple[str, ...]]] = [
    ("1/x", lambda x: 1 / x, ("1e10", "1e14", "1e18")), ("1/(x^2 + 1)", lambda x: 1 / (x**2 + 1), ("1e6", "1e8", "1e10")),
    ("exp(-x)", lambda x: mpmath.exp(-x), ("30", "60", "120")), ("(1 - tanh(x))", lambda x: 1 - mpmath.tanh(x), ("15", "30", "60")),
    ("2^(-x)", lambda x: mpmath.mpf(2) ** -x, ("40", "90", "200")), ("1/ln(x)", lambda x: 1 / mpmath.log(x), ("1e10", "1e40", "1e160")),
]  # fmt: skip
NEARER: list[tuple[str, Callable[[Any], Any], tuple[str, ...]]] = [
    ("x", lambda x: x, ("1e-5", "1e-10", "1e-20")), ("x^2", lambda x: x**2, ("1e-5", "1e-10", "1e-20")),
    ("abs(x)", abs, ("1e-5", "1e-10", "1e-20")), ("sin(x)", mpmath.sin, ("1e-5", "1e-10", "1e-20")),
    ("(1 - cos(x))", lambda x: 1 - mpmath.cos(x), ("1e-4", "1e-8", "1e-16")), ("x*abs(x)", lambda x: x * abs(x), ("1e-4", "1e-8", "1e-16")),
    ("exp(-1/x^2)", lambda x: mpmath.exp(-1 / x**2), ("0.3", "0.15", "0.08")),
]  # fmt: skip
AROUND_IT: list[tuple[str, Callable[[Any], Any]]] = [
    ("floor({})", floor), ("ceil({})", lambda u: -floor(-u)), ("sign({})", mpmath.sign), ("sqrt({})", mpmath.sqrt), ("ln({})", mpmath.log),
    ("asin({})", mpmath.asin), ("acos({})", mpmath.acos), ("Gamma({})", mpmath.gamma), ("1/({})", lambda u: 1 / u),
    ("({})^(1/2)", lambda u: u ** mpmath.mpf("0.5")), ("({})^(-1/3)", lambda u: u ** (-mpmath.mpf(1) / 3)), ("({0})^({0})", lambda u: u**u),
    ("atan(1/({}))", lambda u: mpmath.atan(1 / u)), ("exp(-1/({}))", lambda u: mpmath.exp(-1 / u)), ("mod({}, 1)", lambda u: u - floor(u)),
    ("abs({0})/({0})", lambda u: abs(u) / u), ("(3 when {} > 0, otherwise 2)", lambda u: mpmath.mpf(3 if u > 0 else 2)),
    ("tanh(ln({}))", lambda u: mpmath.tanh(mpmath.log(u))), ("tan(pi/2*({}))", lambda u: mpmath.tan(mpmath.pi / 2 * u)),
    ("(-2)^({})", lambda u: mpmath.mpf(-2) ** u), ("0^({})", lambda u: mpmath.mpf(0) ** u), ("min({}, 1)", lambda u: min(u, mpmath.mpf(1))),
    ("floor(sqrt({}))", lambda u: floor(real(mpmath.sqrt(u)))),
]  # fmt: skip


def _edge(rng: random.Random) -> Case:
    """A limit where what stands inside comes near to a place at which what stands around it breaks."""
    far = rng.random() < 0.5
    inner, come, places = rng.choice(FAR if far else NEARER)
    around, function = rng.choice(AROUND_IT)
    level, slope = rng.choice((-1, 0, 0, 1, 2)), rng.choice((-1, 1))
    text = around.format(f"{level or ''} {'+' if slope > 0 else '-'} {inner}".removeprefix(" + ").lstrip())

    def at(x: Any) -> Any:
        try:
            return real(function(level + slope * come(x)))
        except (NoValue, ZeroDivisionError, ValueError, OverflowError):
            return None

    def fault(finding: dict[str, Any]) -> str:
        for row in finding["values"]:
            if row["evidence"] == "open":
                continue
            sides = {"left": (-1,), "right": (1,)}.get(str(row.get("side", "")), (-1, 1))
            seen = [[at(side * mpmath.mpf(x)) for x in places] for side in ((1,) if far else sides)]
            valued = [values for values in seen if any(v is not None for v in values)]
            if row.get("value") is None and row.get("limit") is None:
                if valued:
                    return f"there are values: {[mpmath.nstr(v, 9) for v in valued[0]]}"
                continue
            if not valued:
                return "there are no values"
            for values in valued:
                if None in values or not _comes_to(values, row):
                    return (
                        f"near the place the values are {[v and mpmath.nstr(v, 12) for v in values]}, not {row.get('limit', row['value'])}"
                    )
        return ""

    return Case(f"limit of {text} for x, at {'infinity' if far else '0'}", fault)


def _comes_to(values: list[Any], row: dict[str, Any]) -> bool:
    """Whether values nearer and nearer to a place come nearer to the limit of a row."""
    if row.get("limit") is not None:
        sign = 1 if row["limit"] == "infinity" else -1
        return all(sign * v > 1 for v in values[1:]) and sign * values[2] > sign * values[1]
    off = [abs(v - _mp(row["value"])) for v in values]
    return bool(off[2] < mpmath.mpf(10) ** -15 or (off[2] < off[1] < off[0] and off[2] < off[0] / 2))


# ---------------------------------------------------------------- numbers from blocks, loops and lists

CHOOSING = "define g(t):\n    if t > 3:\n        return sqrt(t)\n    return t^2/3\n"
ADDING = "define g(t):\n    s = 0\n    for k from 1 to 4:\n        s = s + t^k/k\n    return s\n"
HARMONIC = "s = 0\nfor k from 1 to 20:\n    s = s + 1/k\n"
SETTINGS: list[tuple[str, str, Callable[[int], Any]]] = [
    (CHOOSING, "g({n})", lambda n: mpmath.sqrt(n) if n > 3 else mpmath.mpf(n) ** 2 / 3),
    (ADDING, "g(1/{n})", lambda n: mpmath.fsum(mpmath.mpf(1) / (n**k * k) for k in range(1, 5))),
    (HARMONIC, "(s - {n})", lambda n: mpmath.fsum(mpmath.mpf(1) / k for k in range(1, 21)) - n),
    (
        "v = [1, sqrt(2), pi, e, 1/7]\n",
        "v[1 + mod({n}, 5)]",
        lambda n: [1, mpmath.sqrt(2), +mpmath.pi, +mpmath.e, mpmath.mpf(1) / 7][n % 5],
    ),
    ("c = mean([1/3, 0.1, {n}])\n", "c", lambda n: (mpmath.mpf(1) / 3 + mpmath.mpf(1) / 10 + n) / 3),
    ("r = roots of x^2 - {n} for x from 0 to 9\n", "r", mpmath.sqrt),
]


def _number(rng: random.Random) -> Case:
    before, text, truth = rng.choice(SETTINGS)
    n = rng.randint(1, 7)
    before, text = before.replace("{n}", str(n)), text.replace("{n}", str(n))
    kind = rng.randrange(3)

    def fault(finding: dict[str, Any]) -> str:
        with mpmath.workdps(40):
            number = truth(n)
            wanted = [number, mpmath.exp(number), number**2 * 3 / 2][kind]
            for row in _proven(finding):
                value = row.get("interval") and ((_mp(row["interval"][0]) + _mp(row["interval"][1])) / 2, row["interval"])
                if value and not _within(wanted, value[1], mpmath.mpf(10) ** -30):
                    return f"it is {wanted}, not in {value[1]}"
        return ""

    asked = (
        f"show {text}",
        f"roots of ln(x) - {text} for x from 1/1000 to 100000000000",
        f"integral of x + {text} for x from 0 to {text}",
    )[kind]
    return Case(before + asked, fault)


KINDS = (_lowest, _extremes, _system, _double, _inflections, _sum, _limit, _edge, _number)
