"""Local minima and maxima, stretches of such, and the lowest value, of functions of one variable.

A cover is walked from left to right: stretches on which the function rises, falls, is constant, has no value or lies beyond a level, and
the spots between them. A spot is a minimum if it lies below what is beside it on each side on which there are values.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from flint import arb

from .cover import PLACE_BITS, ULP, Cover, Point, Unproven, ball, bits, fraction
from .rows import Verdict, matched, value_fits
from .span import span_of
from .zeros import sits


@dataclass(frozen=True)
class _Run:
    """A stretch on which the function rises (1), falls (-1), is constant (0), has no value (None) or lies beyond a level ("a")."""

    way: Any
    low: Any
    high: Any
    box: Any  # Box or (Point, side)


@dataclass(frozen=True)
class _Spot:
    """A place between two stretches: a point, an end of a box, or the only place in a box where the slope is zero."""

    low: Any
    high: Any
    point: Point | None = None
    turn: bool = False
    what: str = ""


def _walk(cover: Cover) -> tuple[list[Any], bool]:
    """Stretches and spots of the function in turn, and whether all is settled."""
    found: list[Any] = []
    settled = True
    for part in cover.parts:
        if isinstance(part, Point):
            if found and isinstance(found[-1], _Run):
                found.append(_Spot(part.low, part.low))
            order, sign = part.turn() if part.value[:1] == "t" else (0, 0)
            if order:
                before = [] if part.outer == -1 else [_Run(sign * (-1) ** (order - 1), part.low, part.at[0], part)]
                after = [] if part.outer == 1 else [_Run(sign, part.at[1], part.high, part)]
                found += [*before, _Spot(*part.at, part, True), *after]
                continue
            for side, text in ((-1, part.left), (1, part.right)):
                if side == 1:
                    found.append(_Spot(*part.at, part))
                if side != part.outer:
                    way = _WAYS.get(text[:1], "?")
                    settled = settled and way != "?"
                    found.append(_Run(way, part.low, part.high, (part, side)))
            continue
        if found and isinstance(found[-1], _Run) and part.low is not None:
            found.append(_Spot(part.low, part.low))
        if part.code in "v^":
            bend = 1 if part.code == "v" else -1
            ends = [cover.boxes.sign(e, 1) if e is not None else 0 for e in (part.low, part.high)]
            if ends[0] == -bend and ends[1] == bend:
                found += [
                    _Run(-bend, part.low, part.high, part),
                    _Spot(part.low, part.high, None, True),
                    _Run(bend, part.low, part.high, part),
                ]
            elif ends[0] == bend or ends[1] == -bend:
                found.append(_Run(ends[0] if ends[0] == bend else ends[1], part.low, part.high, part))
            else:
                settled = False
                found.append(_Run("?", part.low, part.high, part))
        else:
            way = _WAYS.get(part.code, "?")
            settled = settled and way != "?"
            found.append(_Run(way, part.low, part.high, part))
    return found, settled


_WAYS: dict[str, Any] = {"r": 1, "R": 1, "f": -1, "F": -1, "c": 0, "u": None, **dict.fromkeys("abAB", "a")}


def _beside(run: _Run | None, spot: _Spot, side: int) -> Any:
    """How the value at a spot stands to those on one side: -1 below, 1 above, 0 equal, None: there are none, "?": not known."""
    if run is None or run.way is None:
        return None
    if run.way in ("?", "a"):
        return run.way
    link = "="
    if isinstance(run.box, tuple):
        point, at = run.box
        if spot.point is point:
            link = (run.box[0].left if at < 0 else run.box[0].right)[1:]
    if link == "=":
        return run.way if side < 0 else -run.way
    return -1 if link == "<" else 1 if link == ">" else "?"


def _turns(cover: Cover) -> tuple[list[_Spot], list[tuple[_Spot, _Spot, str]], bool, list[Any]]:
    """All local minima and maxima, all stretches of such, and whether that is settled."""
    walk, settled = _walk(cover)
    turns: list[_Spot] = []
    for k, item in enumerate(walk):
        if not isinstance(item, _Spot):
            continue
        before = walk[k - 1] if k and isinstance(walk[k - 1], _Run) else None
        after = walk[k + 1] if k + 1 < len(walk) and isinstance(walk[k + 1], _Run) else None
        if item.point is not None and item.point.value == "u":
            continue
        relations = [_beside(before, item, -1), _beside(after, item, 1)]
        told = [r for r in relations if r is not None]
        if "a" in told:
            continue  # beside values beyond the level: no candidate
        if "?" in told:
            settled = False
            continue
        if item.point is not None and item.point.value not in ("d", "0", "+", "-") and not item.turn:
            settled = settled and item.point.value == "u"
            continue
        if not told:
            what = "both" if item.point is not None else ""
        elif 0 in told:
            continue
        else:
            what = "minimum" if all(r < 0 for r in told) else "maximum" if all(r > 0 for r in told) else ""
        if what:
            turns += [_Spot(item.low, item.high, item.point, item.turn, w) for w in (("minimum", "maximum") if what == "both" else (what,))]
    flats = _flats(walk)
    return turns, flats, settled, walk


def _flats(walk: list[Any]) -> list[tuple[_Spot, _Spot, str]]:
    """Stretches on which the function is constant, with what they are: none of it where they only interrupt a rise."""
    found = []
    k = 0
    while k < len(walk):
        if not (isinstance(walk[k], _Run) and walk[k].way == 0):
            k += 1
            continue
        first = walk[k - 1] if k and isinstance(walk[k - 1], _Spot) else None
        last = k
        while (
            last + 2 < len(walk)
            and isinstance(walk[last + 2], _Run)
            and walk[last + 2].way == 0
            and _beside(walk[last], walk[last + 1], -1) == 0
            and _beside(walk[last + 2], walk[last + 1], 1) == 0
        ):
            last += 2
        end = walk[last + 1] if last + 1 < len(walk) else None
        if isinstance(first, _Spot) and isinstance(end, _Spot):
            found.append((first, end, _flat_kind(walk, k - 1, last + 1)))
        k = last + 1
    return found


def _flat_kind(walk: list[Any], first: int, end: int) -> str:
    """Whether the constant value is lower, or higher, than what lies beside it at both ends; at an end of the window it counts too."""
    outer = [walk[first - 1] if first > 0 else None, walk[end + 1] if end + 1 < len(walk) else None]
    told = []
    for spot, inner, beyond, side in ((walk[first], walk[first + 1], outer[0], -1), (walk[end], walk[end - 1], outer[1], 1)):
        joined = _beside(inner, spot, -side)
        out = _beside(beyond if isinstance(beyond, _Run) else None, spot, side)
        if joined == 0:
            told.append(out)
        elif spot.point is not None and joined in (-1, 1) and spot.point.value != "u":
            told.append(-joined)
        else:
            told.append(out if spot.point is not None and spot.point.value == "u" and out is None else "?")
    told = [t for t in told if t is not None]
    if any(t in ("?", "a", 0) for t in told):
        return ""
    return "both" if not told else "minimum" if all(t < 0 for t in told) else "maximum" if all(t > 0 for t in told) else ""


def _is_at(cover: Cover, spot: _Spot, low: Fraction, high: Fraction) -> bool:
    if spot.point is not None or not spot.turn:
        return bool(low <= spot.low and spot.high <= high)
    return sits(cover, spot.low, spot.high, low, high, 1)


def extremes(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """Local minima and maxima: one row for each place, and for each stretch on which the function is constant."""
    cover = Cover(certificate)
    turns, flats, settled, walk = _turns(cover)
    if certificate.get("inner"):
        turns = [t for t in turns if t.point is None or not t.point.outer]
    kinds = frozenset(certificate["kinds"])
    stretches = [f for f in flats if f[2] in kinds or f[2] == "both"]

    def fits(spot: Any, row: dict[str, Any], low: Fraction, high: Fraction) -> bool:
        if row["shape"] == "stretch" or not isinstance(spot, _Spot):
            return False
        if spot.what != row["what"] or not _is_at(cover, spot, low, high):
            return False
        if not value_fits(cover.boxes, row, "value", row["value_interval"], low, high, spot.point, spot.turn):
            return False
        return not row.get("overall") or _is_least(cover, walk, row, settled)

    verdict = matched(certificate, rows, cover, list(turns), fits, settled, kinds)
    untold = list(stretches)
    for k, row in enumerate(rows):
        if row["shape"] == "stretch":
            mine = next((s for s in untold if _stretch_fits(cover, row, s, walk, settled)), None)
            verdict.proven[k] = mine is not None
            untold = [s for s in untold if s is not mine]
    verdict.complete = settled and all(verdict.proven) and not untold and _all_told(turns, rows, kinds)
    verdict.boxes = cover.boxes.count
    return verdict


def _all_told(turns: list[_Spot], rows: list[dict[str, Any]], kinds: frozenset[str]) -> bool:
    told: int = sum(r["shape"] != "stretch" for r in rows)
    return sum(t.what in kinds for t in turns) == told


def _stretch_fits(cover: Cover, row: dict[str, Any], stretch: tuple[_Spot, _Spot, str], walk: list[Any], settled: bool) -> bool:
    first, last, what = stretch
    if what not in (row["what"], "both"):
        return False
    for name, spot in (("x", first), ("x_high", last)):
        slack = abs(fraction(row[name])) * ULP + Fraction(1, 2**1060)
        if not spot.low - slack <= fraction(row[name]) <= spot.high + slack:
            return False
    middle = (first.high + last.low) / 2
    if not value_fits(cover.boxes, row, "value", row["value_interval"], middle, middle, None, False):
        return False
    return not row.get("overall") or _is_least(cover, walk, row, settled)


def _is_least(cover: Cover, walk: list[Any], row: dict[str, Any], settled: bool) -> bool:
    """Whether no value of the window lies below (above) the interval of a row."""
    if not settled:
        return False
    sign = 1 if row["what"] == "minimum" else -1
    end = fraction(row["value_interval"][0 if sign > 0 else 1])
    with bits(PLACE_BITS):
        level = ball(end)

        def beyond(value: Any) -> bool:
            """Whether a number, or all of a span, does not lie below the level."""
            difference = (span_of(value) - level) if sign > 0 else (span_of(level) - value)
            return bool(difference.low is not None and difference.low >= -abs(level).upper() * arb(2) ** -200)

        for k, item in enumerate(walk):
            if isinstance(item, _Spot):
                if item.point is not None and item.point.value == "u":
                    continue
                # On a run that rises the least value is at its lower end.
                before, after = (walk[j] if 0 <= j < len(walk) and isinstance(walk[j], _Run) else None for j in (k - 1, k + 1))
                relations = [r for r in (_beside(before, item, -1), _beside(after, item, 1)) if r is not None]
                # What lies beyond the level beside a point says nothing of the point itself.
                told = [r for r in relations if r != "a"] if item.point is not None else relations
                if (item.point is None and ("a" in relations or not relations)) or (
                    told and not all(isinstance(r, int) and r * sign <= 0 for r in told)
                ):
                    continue  # not lower than what lies beside it on one side
                if item.point is not None:
                    here = item.point.reading()
                elif item.turn:
                    here = cover.boxes.read(ball(item.low).union(ball(item.high)))
                    if not _turn_beyond(cover, item, beyond):
                        return False
                    continue
                else:
                    here = cover.boxes.read(ball(item.low))
                if here is None or here.jet is None or not beyond(here.jet[0]):
                    return False
            elif not _run_beyond(cover, item, walk, k, sign, beyond):
                return False
    return True


def _turn_beyond(cover: Cover, spot: _Spot, beyond: Any) -> bool:
    """The value at the place in a box where the slope is zero, closed in by halving."""
    low, high = spot.low, spot.high
    rising = cover.boxes.sign(high, 1)
    for _ in range(160):
        box = ball(low).union(ball(high))
        found = cover.boxes.read(box, 1)
        if found is not None and found.jet is not None:
            middle = cover.boxes.read(box.mid())
            value = found.jet[0] if middle is None or middle.jet is None else middle.jet[0] + found.jet[1] * (box - box.mid())
            if beyond(value) or beyond(found.jet[0]):
                return True
        m = (low + high) / 2
        sign = cover.boxes.sign(m, 1)
        if not sign:
            return False
        low, high = (low, m) if sign == rising else (m, high)
    return False


def _run_beyond(cover: Cover, run: _Run, walk: list[Any], k: int, sign: int, beyond: Any) -> bool:
    """Whether a stretch whose least values are not taken at a spot (beside a jump or a pole, or far out) keeps above the level."""
    if run.way in (None, "a"):
        return True
    towards = [j for j, side in ((k - 1, -1), (k + 1, 1)) if run.way * side * sign < 0 or run.way == 0]  # where its least values are
    for j in towards:
        spot = walk[j] if 0 <= j < len(walk) else None
        closed = isinstance(spot, _Spot) and isinstance(_beside(run, spot, -1 if j > k else 1), int) and _linked(run, spot)
        if closed and not (spot.point is not None and spot.point.value == "u"):  # type: ignore[union-attr]
            continue
        if isinstance(run.box, tuple):
            point, side = run.box
            found = cover.boxes.read(point.span(side, False), 0, point.beside[side])
        elif isinstance(run.box, Point):
            return False
        else:
            found = cover.boxes.read(cover.boxes.span(run.low, run.high))
        if found is None or found.jet is None or not beyond(found.jet[0]):
            return False
    return True


def _linked(run: _Run, spot: Any) -> bool:
    if isinstance(run.box, tuple) and spot.point is run.box[0]:
        point: Point = run.box[0]
        return (point.left if run.box[1] < 0 else point.right)[1:] == "="
    return True


def lowest(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """The lowest value: every row holds a place where a value in its interval is taken, and nothing lies below (above) it."""
    if not rows:
        raise Unproven("nothing is claimed")
    lowest = certificate["claim"] == "lowest"
    ends = [tuple(fraction(v) for v in r["value_interval"]) for r in rows]
    most = max if lowest else min
    with bits(PLACE_BITS):
        level = ball(most(e[0] for e in ends)), ball(most(e[1] for e in ends))
    cover = Cover(certificate, level)
    turns, flats, settled, walk = _turns(cover)
    what = "minimum" if lowest else "maximum"

    def fits(spot: Any, row: dict[str, Any], low: Fraction, high: Fraction) -> bool:
        if row.get("what") not in (None, what):
            return False
        told = {**row, "what": what}
        if isinstance(spot, tuple):
            first, last, kind = spot
            here = bool(kind in (what, "both") and first.high <= low and high <= last.low)
            return (
                here
                and value_fits(cover.boxes, row, "value", row["value_interval"], low, low, None, False)
                and _is_least(cover, walk, told, settled)
            )
        return (
            spot.what == what
            and _is_at(cover, spot, low, high)
            and value_fits(cover.boxes, row, "value", row["value_interval"], low, high, spot.point, spot.turn)
            and _is_least(cover, walk, told, settled)
        )

    return matched(certificate, rows, cover, [*turns, *flats], fits, settled, frozenset({"none of them"}))
