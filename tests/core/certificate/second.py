"""A second verifier, on another library's intervals (see `second_evaluator`): of each claim that it knows it says whether it holds.

It knows fewer claims than the first, nothing of points, and says None where its intervals are too wide to tell.
"""

from __future__ import annotations

import heapq
from collections.abc import Callable, Collection, Iterator
from fractions import Fraction
from itertools import pairwise
from typing import Any

import mpmath
from mpmath import iv

from tests.core.certificate.second_evaluator import Interval, Jet, Nowhere, Unknown, hull, number, run, sign

Json = dict[str, Any]
Verdict = bool | None
PIECES = 300  # of an integral
SLACK = Fraction(1, 2**50)


def verdicts(part: Json, rows: list[Json], kinds: Collection[str] = ()) -> Iterator[tuple[str, Verdict]]:
    """What is said of each claim of one part of a certificate, with a word for its kind; of these kinds alone where any are named."""
    for kind, judge in _CLAIMS.get(part["claim"], lambda *_: [])(part, rows):
        if kinds and kind not in kinds:
            continue
        try:
            yield kind, judge()
        except (Unknown, Nowhere):
            yield kind, None


Claims = Iterator[tuple[str, Callable[[], Verdict]]]


def _read(part: Json, box: Interval, along: str = "") -> Any:
    return run(part["formula"], {part["variable"]: box}, along)


def _box(low: Fraction, high: Fraction) -> Interval:
    return hull(number(low), number(high))


def _ends(said: Any) -> tuple[Fraction, Fraction]:
    return Fraction(said[0]), Fraction(said[1])


def _apart(a: Interval, b: Interval) -> bool:
    return bool(a.b < b.a or a.a > b.b)


def _lies_in(value: Interval, low: Fraction, high: Fraction) -> Verdict:
    """Whether a value lies in an interval of a row: False if it surely does not."""
    wide = _box(low, high)
    return False if _apart(value, wide) else True if wide.a <= value.a and value.b <= wide.b else None


def _centred(part: Json, low: Fraction, high: Fraction) -> tuple[Interval, Jet]:
    """The values between two numbers by the mean value form, and what is read of the whole box."""
    box = _box(low, high)
    whole: Jet = _read(part, box, part["variable"])
    middle = number((low + high) / 2)
    return _read(part, middle)[0] + whole[1] * (box - middle), whole


# ---------------------------------------------------------------- covers


def boxes(part: Json) -> Iterator[tuple[Fraction, Fraction, str]]:
    """The finite boxes of a cover with their letters."""
    ends: list[tuple[Any, Any]] = [_ends(p["near"]) for p in part["points"]]
    stops = [*([(None, None)] if part["low"] == "-infinity" else []), *ends, *([(None, None)] if part["high"] == "infinity" else [])]
    for gap, ((_, low), (high, _)) in zip(part["gaps"], pairwise(stops), strict=True):
        todo = [(low, high)]
        for letter in gap:
            a, b = todo.pop()
            if letter != "s":
                if a is not None and b is not None:
                    yield a, b, letter
                continue
            if a is None or b is None:
                break  # what lies without an end is left to the first verifier
            middle = (a + b) / 2
            todo += [(middle, b), (a, middle)]


def _letter_holds(part: Json, box: Interval, code: str, levels: tuple[Fraction, Fraction] | None) -> Verdict:
    try:
        found = _read(part, box, part["variable"])
    except Nowhere:
        return code in "uAB" or (None if code == "N" else False)
    except Unknown:
        return None
    if code in "TN":
        return None if found is None else found is (code == "T")
    if code in "uAB?":
        return False if code == "u" else None
    value, slope, bend = found
    if code == "d":
        return True
    if code in "ab":
        if levels is None:
            return None
        over = value - number(levels[1]) if code == "a" else number(levels[0]) - value
        return True if over.a > 0 else False if over.b < 0 else None
    looked_at, way = {"+": (value, 1), "-": (value, -1), "r": (slope, 1), "f": (slope, -1), "v": (bend, 1), "^": (bend, -1)}.get(
        code, (slope, 0)
    )
    if not way:
        return None if code not in "0c" else True if looked_at.a == looked_at.b == 0 else False if sign(looked_at) else None
    return True if sign(looked_at) == way else False if sign(looked_at) == -way else None


def _cover(part: Json, rows: list[Json]) -> Claims:
    levels = None
    if part["claim"] in ("lowest", "highest"):
        ends = [_ends(r["value_interval"]) for r in rows]
        most = max if part["claim"] == "lowest" else min
        levels = most(e[0] for e in ends), most(e[1] for e in ends)
    for low, high, code in boxes(part):
        yield f"box {code}", lambda b=[(low, high)], c=code: _anywhere(lambda box: _letter_holds(part, _box(*box[0]), c, levels), b, 6)


def _roots(part: Json, rows: list[Json]) -> Claims:
    if "points" in part:
        yield from _cover(part, rows)
    for row in rows:
        yield "root", lambda r=row: _is_root(part, *_ends(r["interval"]), r.get("multiplicity"))


def _is_root(part: Json, low: Fraction, high: Fraction, times: int | None) -> Verdict:
    if times is not None and times % 2 and low < high:
        signs = [sign(_read(part, number(end))[0]) for end in (low, high)]
        return None if 0 in signs else signs[0] != signs[1]
    return False if sign(_centred(part, low, high)[0]) else None if low < high else True


def _extremes(part: Json, rows: list[Json]) -> Claims:
    yield from _cover(part, rows)
    for row in rows:
        if row.get("shape") != "stretch":
            yield "value at a place", lambda r=row: _value_fits(part, r)


def _value_fits(part: Json, row: Json) -> Verdict:
    low, high = _ends(row["interval"])
    value, whole = _centred(part, low, high)
    if row.get("shape") == "turn" and low < high and sign(whole[1]):
        return False  # a slope of one sign: no turn
    return _lies_in(value, *_ends(row["value_interval"]))


def _spans(part: Json, rows: list[Json]) -> Claims:
    yield from _cover(part, rows)
    for row in rows:
        if row["low"] is not None and row["high"] is not None and row["low"] < row["high"]:
            yield "span", lambda r=row: _read(part, number((Fraction(r["low"]) + Fraction(r["high"])) / 2))


# ---------------------------------------------------------------- values, integrals, sums


def _values(part: Json, rows: list[Json]) -> Claims:
    for program, row in zip(part["formulas"], rows, strict=True):
        yield "value", lambda p=program, r=row: _is_value(p, *_ends(r["interval"]))


def _is_value(program: list[list[Any]], low: Fraction, high: Fraction) -> Verdict:
    value: Any = run(program, {})
    held = _lies_in(value[0], low, high)
    return held if held is not None or low < high else True  # a number that is said exactly lies in what is read of it


def _truth(part: Json, rows: list[Json]) -> Claims:
    def judge() -> Verdict:
        found = run(part["formula"], {})
        return None if found is None else found is rows[0].get("passed", rows[0].get("value"))

    yield "truth", judge


def _end(said: Any) -> Interval:
    if not isinstance(said, dict):
        raise Unknown
    if "number" in said:
        return number(Fraction(said["number"]))
    found: Any = run(said["formula"], {})
    return found[0]


def _integral(part: Json, rows: list[Json]) -> Claims:
    def judge() -> Verdict:
        low, high = _end(part["low"]), _end(part["high"])
        total = _integrated(part, low, high)
        if part.get("mean"):
            total = total / (high - low)
        wide = _box(*_ends(rows[0]["interval"]))
        if _apart(total, wide):
            return False
        return True if total.delta < 1e-4 * (1 + abs(total).b) else None

    yield "integral", judge


def _integrated(part: Json, low: Interval, high: Interval) -> Interval:
    """The integral from one end to the other, in pieces; the widest is halved again and again. Raises Unknown."""

    def piece(a: Interval, b: Interval) -> tuple[float, int, Interval, Interval, Interval]:
        try:
            value = _over_box(part, a, b)
        except (Unknown, Nowhere):
            return -float("inf"), len(queue), a, b, iv.mpf(["-inf", "inf"])
        return -float(value.delta.b), len(queue), a, b, value

    queue: list[Any] = []
    queue.append(piece(low, high))
    for _ in range(PIECES):
        _, _, a, b, _ = heapq.heappop(queue)
        middle = iv.mpf(((a + b) / 2).mid)
        heapq.heappush(queue, piece(a, middle))
        heapq.heappush(queue, piece(middle, b))
    return sum((q[-1] for q in queue), iv.mpf(0))


def _over_box(part: Json, a: Interval, b: Interval) -> Interval:
    """f(m) w + f''/2 w^3/12 with the second derivative anywhere in the box, or the values times the width."""
    box, width = hull(a, b), b - a
    whole: Jet = _read(part, box, part["variable"])
    middle = (a + b) / 2
    here: Jet = _read(part, middle)
    plain, centred = whole[0] * width, here[0] * width + whole[2] * width**3 / 12
    return centred if centred.delta < plain.delta else plain


def _sum(part: Json, rows: list[Json]) -> Claims:
    def judge() -> Verdict:
        if part["rest"] != "none" or not isinstance(part["to"], int) or part["to"] - part["from"] > 1_000 or part.get("product"):
            return None
        total = iv.mpf(0)
        for k in range(part["from"], part["to"] + 1):
            total = total + _read(part, iv.mpf(k))[0]
        return _lies_in(total, *_ends(rows[0]["interval"])) is not False

    yield "sum", judge


# ---------------------------------------------------------------- several variables


def _places(names: list[str], sides: list[tuple[Fraction, Fraction]]) -> dict[str, Interval]:
    return {n: _box(*s) for n, s in zip(names, sides, strict=True)}


def parts(text: str, whole: list[tuple[Fraction, Fraction]]) -> Iterator[tuple[str, list[tuple[Fraction, Fraction]]]]:
    """The parts of a box with their letters."""
    todo = [whole]
    for letter in text:
        part = todo.pop()
        if not letter.isdigit():
            yield letter, part
            continue
        k = int(letter)
        middle = sum(part[k]) / 2
        todo += [[*part[:k], side, *part[k + 1 :]] for side in ((middle, part[k][1]), (part[k][0], middle))]


def _anywhere(holds: Callable[[list[tuple[Fraction, Fraction]]], Verdict], part: list[tuple[Fraction, Fraction]], depth: int) -> Verdict:
    """Whether something holds on a part: on the whole, or on both halves of it."""
    found = holds(part)
    if found is not None or depth == 0:
        return found
    k = max(range(len(part)), key=lambda j: part[j][1] - part[j][0])
    middle = sum(part[k]) / 2
    halves = [_anywhere(holds, [*part[:k], side, *part[k + 1 :]], depth - 1) for side in ((part[k][0], middle), (middle, part[k][1]))]
    return False if False in halves else None if None in halves else True


def _system(part: Json, rows: list[Json]) -> Claims:
    names = part["variables"]
    for row in rows:
        yield "solution", lambda r=row: _is_solution(part["formulas"], names, [_ends(r["intervals"][n]) for n in names])

    def none(box: list[tuple[Fraction, Fraction]]) -> Verdict:
        places = _places(names, box)
        return True if any(sign(_several(f, places)) for f in part["formulas"]) else None

    for letter, box in parts(part["parts"], [_ends(side) for side in part["whole"]]):
        if letter == "n":
            yield "no solution", lambda b=box: _anywhere(none, b, 6)


def _several(program: list[list[Any]], places: dict[str, Interval], along: str = "") -> Any:
    try:
        found: Any = run(program, places, along)
    except Nowhere:
        raise Unknown from None
    return found[1 if along else 0]


def _is_solution(formulas: list[Any], names: list[str], sides: list[tuple[Fraction, Fraction]]) -> Verdict:
    """Newton's operator of a box a little larger than the row's: exactly one solution where it leads inside."""
    widest = max(b - a for a, b in sides) or Fraction(1, 10**20)
    around = [(a - 1_000 * widest, b + 1_000 * widest) for a, b in sides]
    places = _places(names, around)
    middles = {n: number((a + b) / 2) for n, (a, b) in zip(names, sides, strict=True)}
    values = [_several(f, middles) for f in formulas]
    if any(sign(_several(f, _places(names, sides))) for f in formulas):
        return False
    slopes = [[_several(f, places, n) for n in names] for f in formulas]
    with mpmath.workprec(160):
        inverse = mpmath.matrix([[mpmath.mpf(v.mid) for v in row] for row in slopes]) ** -1
    for i, name in enumerate(names):
        moved = middles[name] - sum((iv.mpf(inverse[i, j]) * values[j] for j in range(len(names))), iv.mpf(0))
        for k, other in enumerate(names):
            product = sum((iv.mpf(inverse[i, j]) * slopes[j][k] for j in range(len(names))), iv.mpf(0))
            moved = moved + ((1 if i == k else 0) - product) * (places[other] - middles[other])
        if not (places[name].a < moved.a and moved.b < places[name].b):
            return None
    return True


def _lowest_of_several(part: Json, rows: list[Json]) -> Claims:
    if part.get("conditions"):
        return
    names = part["variables"]
    way = 1 if part["claim"] == "lowest of several" else -1
    level = max(min(way * v for v in _ends(r["value_interval"])) for r in rows)
    most = max(max(way * v for v in _ends(r["value_interval"])) for r in rows)
    for place in part["places"]:
        point = [(Fraction(v), Fraction(v)) for v in place]
        yield "place of a lowest value", lambda p=point: bool((way * _several(part["formula"], _places(names, p))).a <= number(most).b)

    def above(box: list[tuple[Fraction, Fraction]]) -> Verdict:
        middle = [((a + b) / 2, (a + b) / 2) for a, b in box]
        if (way * _several(part["formula"], _places(names, middle))).b < number(level - abs(level) * SLACK - SLACK).a:
            return False
        return True if (way * _several(part["formula"], _places(names, box))).a > number(level).b else None

    window = [tuple(Fraction(e["number"]) for e in side) for side in part["window"] if all("number" in e for e in side)]
    if len(window) == len(names):
        for letter, box in parts(part["parts"], window):  # type: ignore[arg-type]
            if letter == "a":
                yield "nothing below", lambda b=box: _anywhere(above, b, 4)


def _linear(part: Json, rows: list[Json]) -> Claims:
    for program in part["formulas"]:
        places = {n: number(Fraction(v)) for n, v in rows[0]["exact"].items()}
        yield "linear equation", lambda p=program, at=places: not sign(_several(p, at))


# ---------------------------------------------------------------- formulas and data

PROBES = (Fraction(3, 7), Fraction(-5, 8), Fraction(17, 9), Fraction(12, 5))


def _identity(part: Json, _: list[Json]) -> Claims:
    """That two formulas are equal is not shown at single places; but it can be denied there."""
    if len(part["along"]) > 2 or len(set(part["along"])) > 1 or any(s[0] == "variable" and s[1] != "x" for s in part["formula"]):
        return
    for x in PROBES:

        def judge(x: Fraction = x) -> Verdict:
            jet: Any = run(part["formula"], {"x": number(x)}, "x")
            result: Any = run(part["result"], {"x": number(x)})
            told = (jet[0], jet[1], 2 * jet[2])[len(part["along"])]
            return not sign(told - result[0])

        yield "identity", judge


def _fit(part: Json, _: list[Json]) -> Claims:
    """The slopes of the sum of squares are zero somewhere in the box of the parameters."""
    data, names = part["data"], part["parameters"]
    if "columns" not in data or part.get("held"):
        return
    box = {n: _box(*_ends(side)) for n, side in zip(names, part["box"], strict=True)}
    errors = data.get("errors") or ["1"] * len(data["y"])
    for name in names:

        def judge(name: str = name) -> Verdict:
            total = iv.mpf(0)
            for values, y, error in zip(zip(*data["columns"], strict=True), data["y"], errors, strict=True):
                if not all(isinstance(v, str) for v in (*values, y, error)):
                    return None
                places = {**box, **{n: number(Fraction(v)) for n, v in zip(part["variables"], values, strict=True)}}
                rest = number(Fraction(y)) - _several(part["formula"], places)
                total = total + rest * _several(part["formula"], places, name) / number(Fraction(error)) ** 2
            return not sign(total)

        yield "stationary", judge


def _interpolation(part: Json, _: list[Json]) -> Claims:
    knots, pieces = ([Fraction(k) for k in part["data"]["knots"]], part["data"]["pieces"])
    for k, (x, y) in enumerate(part["data"]["points"]):
        piece = min(k, len(pieces) - 1)
        t = Fraction(x) - knots[piece]
        yield "curve through a point", lambda p=pieces[piece], t=t, y=y: sum(Fraction(v) * t**j for j, v in enumerate(p)) == Fraction(y)


_CLAIMS: dict[str, Callable[[Json, list[Json]], Any]] = {
    "roots": _roots, "polynomial": _roots, "extremes": _extremes, "lowest": _extremes, "highest": _extremes, "spans": _spans,
    "value": _values, "truth": _truth, "integral": _integral, "sum": _sum, "system": _system, "linear system": _linear,
    "lowest of several": _lowest_of_several, "highest of several": _lowest_of_several, "identity": _identity, "fit": _fit,
    "interpolation": _interpolation,
}  # fmt: skip
