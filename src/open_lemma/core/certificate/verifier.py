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

from bisect import bisect_left, bisect_right
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from flint import arb, fmpq, fmpq_poly

from .cover import BOX_BITS, PLACE_BITS, ULP, Box, Boxes, Cover, Point, Unproven, ball, between, bits, exact_place, fraction
from .double import double_integral
from .evaluator import BadProgram, run
from .exact import BITS, Exact, NoExactNumber
from .fit import fitted
from .identity import everything, identity, put_back, taylor
from .integral import integral_over
from .interpolation import through_points
from .limits import NOWHERE, limit_of
from .several import extremes as extremes_of_several
from .several import lowest as lowest_of_several
from .span import span_of
from .sums import exactly, sum_over
from .systems import linear_solution, solutions

NARROWINGS = 60  # of an interval whose ends are said to 22 digits, before the value in it is asked for


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


# ---------------------------------------------------------------- what rows say


def _place(certificate: dict[str, Any], row: dict[str, Any]) -> tuple[Fraction, Fraction]:
    """Where the place of a row is said to be: exactly, or between two numbers."""
    low, high = between(row, "x" if "x" in row else certificate["variable"], row["interval"])
    try:
        exact = Fraction(row["exact"])
    except (KeyError, ValueError):
        return low, high  # a closed form is no part of what is shown
    if not low <= exact <= high:
        raise Unproven(f"the interval does not hold {row['exact']}")
    return exact, exact


def _value_fits(
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
                    found = None if here is None or here.jet is None else here.jet[0] - _exact_of(wide[0])
                    return found is not None and here is not None and here.defined and bool(found.is_zero())
            value = here.jet[0] if here is not None and here.defined and here.jet is not None else None
        elif low == high:
            if wide[0] == wide[1]:
                with bits(BITS):
                    here = boxes.read(_exact_of(low))
                    return here is not None and here.defined and here.jet is not None and bool((here.jet[0] - _exact_of(wide[0])).is_zero())
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
        return value is not None and bool(value >= ball(wide[0]).lower()) and bool(value <= ball(wide[1]).upper()) and _inside(value, wide)


def _inside(value: Any, wide: tuple[Fraction, Fraction]) -> bool:
    """Whether a ball lies between two numbers; what is off by the rounding of these numbers to balls alone is let pass."""
    return bool(value.lower() >= ball(wide[0]).lower()) and bool(value.upper() <= ball(wide[1]).upper())


def _exact_of(q: Fraction) -> Any:
    return exact_place({"number": str(q)})


def _matched(
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
            low, high = _place(certificate, row)
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


# ---------------------------------------------------------------- roots


@dataclass(frozen=True)
class _Zero:
    low: Fraction
    high: Fraction
    point: Point | None
    even: bool | None  # whether the sign is the same on both sides; None where one side has no value
    times: int | None  # the multiplicity, where that is proven too


def _roots(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    cover = Cover(certificate)
    zeros, settled = _zeros(cover)

    def fits(zero: _Zero, row: dict[str, Any], low: Fraction, high: Fraction) -> bool:
        times = row.get("multiplicity")
        if times is not None and (zero.even is None or times % 2 == zero.even or (zero.times is not None and zero.times != times)):
            return False
        if times is not None and row.get("kind") != ("simple" if times == 1 else "multiple" if times % 2 else "touching"):
            return False
        if zero.point is not None:
            return low <= zero.point.at[0] and zero.point.at[1] <= high
        return _sits(cover, zero.low, zero.high, low, high, 0)

    verdict = _matched(certificate, rows, cover, zeros, fits, settled, frozenset())
    verdict.missing = [(c.low, c.high) for c in verdict.left if c.point is None]
    return verdict


def _zeros(cover: Cover) -> tuple[list[_Zero], bool]:
    """All zeros, and whether there are shown to be no others."""
    zeros: list[_Zero] = []
    settled = True
    for part in cover.parts:
        if isinstance(part, Point):
            ok = _point_zero(part, zeros)
            settled = settled and ok
        else:
            settled = _box_zero(cover, part, zeros) and settled
    return zeros, settled


def _sits(cover: Cover, low: Fraction, high: Fraction, a: Fraction, b: Fraction, coefficient: int) -> bool:
    """Whether the only zero of a monotonic coefficient in (low, high) lies between a and b."""
    if not low <= a <= b <= high:
        return False
    if a == b:
        return cover.boxes.zero(_exact_of(a), coefficient, coefficient)
    signs = cover.boxes.sign(a, coefficient), cover.boxes.sign(b, coefficient)
    return signs[0] * signs[1] < 0


def _closer(cover: Cover, low: Fraction, high: Fraction) -> tuple[Fraction, Fraction]:
    """Two numbers, nearer to each other, between which the only zero of a monotonic function lies."""
    rising = cover.boxes.sign(high)
    for _ in range(NARROWINGS):
        middle = (low + high) / 2
        sign = cover.boxes.sign(middle)
        if not sign:
            break
        low, high = (low, middle) if sign == rising else (middle, high)
    return low, high


def _point_zero(point: Point, zeros: list[_Zero]) -> bool:
    """A zero at a point, and that its sides hold none. False where that is not settled."""
    order, _ = point.turn() if point.value[:1] == "0" and point.value[1:] else (0, 0)
    if order:
        zeros.append(_Zero(*point.at, point, order % 2 == 0, order))
        return True
    zero = point.value == "0"
    if zero:
        sides = [_SIGNS.get((side, text[:1])) for side, text in ((-1, point.left), (1, point.right))]
        zeros.append(_Zero(*point.at, point, None if None in sides else sides[0] == sides[1], None))
    elif point.value not in ("+", "-", "u"):
        return False
    for side, text in ((-1, point.left), (1, point.right)):
        if side == point.outer or text[:1] in ("u", "+", "-"):
            continue
        # A side that is monotonic up to a zero holds no other; nor does one that moves away from zero towards the point.
        away = -side if text[0] == "r" else side
        outer = point.boxes.sign(point.low if side < 0 else point.high) if text[0] in "rf" else 0
        if not ((zero and text[0] in "rf" and text[1:] == "=") or (outer and outer == away)):
            return False
    return True


def _box_zero(cover: Cover, box: Box, zeros: list[_Zero]) -> bool:
    if box.code in "u+-":
        return True
    if box.code not in "rfRF":
        return False
    way = 1 if box.code in "rR" else -1
    signs = [None if e is None else cover.boxes.sign(e) for e in (box.low, box.high)]
    if signs[0] == way or signs[1] == -way:
        return True  # it moves away from zero
    if box.low is None or box.high is None or 0 in signs:
        return False
    zeros.append(_Zero(box.low, box.high, None, False, 1))
    return True


# The sign on a side of a zero, by its claim.
_SIGNS = {(-1, "+"): 1, (-1, "-"): -1, (1, "+"): 1, (1, "-"): -1, (-1, "r"): -1, (-1, "f"): 1, (1, "r"): 1, (1, "f"): -1}


def _polynomial(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """All roots of a polynomial with rational coefficients, isolated by the ball library with their multiplicities."""
    boxes = Boxes(certificate["formula"], certificate["variable"])
    plain = _plain_polynomial(boxes.program, boxes.variable)
    if plain.degree() < 1 or plain.degree() > 200:
        raise Unproven("no polynomial of an ordinary degree")
    ends = [exact_place(certificate[k]) for k in ("low", "high")]
    with bits(PLACE_BITS):
        zeros = [(r.real, times) for r, times in plain.complex_roots() if r.imag.is_zero() and _in_window(boxes, r.real, ends)]
    verdict = Verdict([], False, len(zeros))
    left = list(zeros)
    for row in rows:
        low, high = _place(certificate, row)
        with bits(PLACE_BITS):
            span = ball(low).union(ball(high))
            near = [z for z in left if (span.overlaps(z[0]) if low == high else ball(low) <= z[0] <= ball(high))]
        exact = low != high or plain(fmpq(low.numerator, low.denominator)) == 0
        times = row.get("multiplicity")
        held = len(near) == 1 and exact and times in (None, near[0][1])
        held = held and (times is None or row.get("kind") == ("simple" if times == 1 else "multiple" if times % 2 else "touching"))
        verdict.proven.append(held)
        if held:
            left.remove(near[0])
        else:
            verdict.faults.append(f"no such root at {row.get('x')}")
    verdict.complete = not left and all(verdict.proven)
    return verdict


def _in_window(boxes: Boxes, root: Any, ends: list[Any]) -> bool:
    """Whether a root lies between two ends, these included."""
    for end, way in zip(ends, (1, -1), strict=True):
        if end is None:
            continue
        difference = (root - end.ball) * way
        if difference < 0:
            return False
        if difference.contains(0) and not boxes.zero(end):
            raise Unproven("a root that cannot be told from an end of the window")
    return True


def _plain_polynomial(program: list[list[Any]], variable: str) -> Any:
    """A program as a polynomial with rational coefficients. Raises Unproven."""
    found: list[Any] = []
    for head, *rest in program:
        args = [found[k] for k in rest if isinstance(k, int)]
        if head == "variable" and rest == [variable]:
            found.append(fmpq_poly([0, 1]))
        elif head == "number":
            q = fraction(rest[0])
            found.append(fmpq_poly([fmpq(q.numerator, q.denominator)]))
        elif head in ("+", "-", "*"):
            found.append(args[0] + args[1] if head == "+" else args[0] - args[1] if head == "-" else args[0] * args[1])
        elif head in ("neg", "same"):
            found.append(-args[0] if head == "neg" else args[0])
        elif head == "/" and args[1].degree() == 0:
            found.append(args[0] * fmpq_poly([1 / args[1][0]]))
        elif head == "^" and args[1].degree() <= 0 and args[1][0].q == 1 and 0 <= int(args[1][0].p) <= 200:
            found.append(args[0] ** int(args[1][0].p))
        else:
            raise Unproven("no polynomial")
    return found[-1]


# ---------------------------------------------------------------- extremes, inflections, the lowest value


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


def _inflections(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """The zeros of the second derivative at which it changes its sign, where the function is smooth, and its values there."""
    cover = Cover(certificate)
    plain = Boxes(certificate["formula"], certificate["variable"])
    bends = _Bends(cover, plain)

    def fits(zero: _Zero, row: dict[str, Any], low: Fraction, high: Fraction) -> bool:
        held = low <= zero.low and zero.high <= high if zero.point is not None else _sits(cover, zero.low, zero.high, low, high, 0)
        if not held or row["what"] != "inflection":
            return False
        if zero.point is not None and zero.point.exact is not None:
            return _exactly_there(plain, zero.point.exact, row)
        if low < high:
            low, high = _closer(cover, low, high) if zero.point is None else (zero.low, zero.high)
        return _value_fits(plain, row, "value", row["value_interval"], low, high, None, False)

    return _matched(certificate, rows, cover, bends.places, fits, bends.settled, frozenset())


class _Bends:
    """The places at which a second derivative changes its sign, from one end of a cover to the other, and whether they are all.

    Where the function is not smooth it may bend the other way only if the second derivative has different signs on both sides."""

    def __init__(self, cover: Cover, plain: Boxes) -> None:
        self.plain = plain
        self.places: list[_Zero] = []
        self.settled = True
        self.sign = 0  # of the last stretch that is bent; 0 where there was none since the function broke
        for part in cover.parts:
            if isinstance(part, Point):
                self._point(part)
            elif part.code in "+-":
                self._goes_on(1 if part.code == "+" else -1)
            elif part.code == "u":
                self.sign = 0
            elif part.code != "0":
                self._monotonic(cover, part)

    def _goes_on(self, sign: int) -> None:
        self.settled = self.settled and self.sign in (0, sign)
        self.sign = sign

    def _turns(self, place: _Zero, before: int, after: int) -> None:
        self._goes_on(before)
        self.places.append(place)
        self.sign = after

    def _monotonic(self, cover: Cover, box: Box) -> None:
        if box.code not in "rfRF":
            self.settled = False
            return
        way = 1 if box.code in "rR" else -1
        signs = [0 if e is None else cover.boxes.sign(e) for e in (box.low, box.high)]
        if signs[0] == way or signs[1] == -way:
            self._goes_on(way if signs[0] == way else -way)
        elif box.low is None or box.high is None or 0 in signs:
            self.settled = False
        else:
            self._turns(_Zero(box.low, box.high, None, False, 1), -way, way)

    def _point(self, point: Point) -> None:
        before: int | None
        after: int | None
        order, sign = point.turn() if point.value[:1] == "0" and point.value[1:] else (0, 0)
        if order:
            before, after = sign * (-1) ** order, sign
        else:
            before, after = (_side_sign(point, s, text) for s, text in ((-1, point.left), (1, point.right)))
        if point.outer:
            # At an end of the window nothing bends the other way.
            inner = after if point.outer < 0 else before
            self.settled = self.settled and inner is not None
            if inner:
                self._goes_on(inner)
            return
        if before is None or after is None:
            self.settled = False
            return
        if before:
            self._goes_on(before)
        if point.value == "u":
            self.sign = after
        elif point.value[:1] == "0" and before and after and before != after:
            self._turns(_Zero(*point.at, point, False, order or None), before, after)
        elif before and after and before != after and self._slope_jumps(point):
            self.sign = after
        elif after:
            self._goes_on(after)

    def _slope_jumps(self, point: Point) -> bool:
        """Whether the slopes on both sides of a point have nothing in common, so that there is no tangent."""
        with bits(BOX_BITS):
            sides = [self.plain.read(point.span(side, False), 1, point.beside[side]) for side in (-1, 1)]
            if any(s is None or s.jet is None for s in sides):
                return False
            left, right = (span_of(s.jet[1]) for s in sides)  # type: ignore[union-attr,index]
            return bool(left - right > 0 or left - right < 0)


def _side_sign(point: Point, side: int, text: str) -> int | None:
    """The sign on a side of a point; 0 where it is zero there, or where there are no values; None where it is not known."""
    code = text[:1]
    if code in ("+", "-"):
        return 1 if code == "+" else -1
    if code in ("0", "u"):
        return 0
    if code in ("r", "f") and point.value == "0" and text[1:] == "=":
        return _SIGNS[(side, code)]
    outer = point.boxes.sign(point.low if side < 0 else point.high) if code in ("r", "f") else 0
    return outer if outer and outer == (-side if code == "r" else side) else None


def _exactly_there(boxes: Boxes, place: Exact, row: dict[str, Any]) -> bool:
    """Whether the value at a place that is known exactly lies in the interval of a row."""
    wide = between(row, "value", row["value_interval"])
    with bits(BITS):
        here = boxes.read(place)
        if here is None or not here.defined or here.jet is None:
            return False
        if wide[0] == wide[1]:
            return bool((here.jet[0] - _exact_of(wide[0])).is_zero())
        return bool(here.jet[0].ball >= ball(wide[0]) and here.jet[0].ball <= ball(wide[1]))


def _is_at(cover: Cover, spot: _Spot, low: Fraction, high: Fraction) -> bool:
    if spot.point is not None or not spot.turn:
        return bool(low <= spot.low and spot.high <= high)
    return _sits(cover, spot.low, spot.high, low, high, 1)


def _extremes(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
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
        if not _value_fits(cover.boxes, row, "value", row["value_interval"], low, high, spot.point, spot.turn):
            return False
        return not row.get("overall") or _is_least(cover, walk, row, settled)

    verdict = _matched(certificate, rows, cover, list(turns), fits, settled, kinds)
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
    if not _value_fits(cover.boxes, row, "value", row["value_interval"], middle, middle, None, False):
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


def _lowest(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
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
                and _value_fits(cover.boxes, row, "value", row["value_interval"], low, low, None, False)
                and _is_least(cover, walk, told, settled)
            )
        return (
            spot.what == what
            and _is_at(cover, spot, low, high)
            and _value_fits(cover.boxes, row, "value", row["value_interval"], low, high, spot.point, spot.turn)
            and _is_least(cover, walk, told, settled)
        )

    return _matched(certificate, rows, cover, [*turns, *flats], fits, settled, frozenset({"none of them"}))


# ---------------------------------------------------------------- conditions, values


def _spans(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """Where a condition holds: rows with `low`, `high` and whether these belong to it; a single place has both ends alike."""
    cover = Cover(certificate)
    held: list[list[Any]] = []  # [low end, its part, in?, high end, in?]
    open_at = None
    for part in cover.parts:
        if isinstance(part, Point):
            for item in ((part.left[:1], None), (part.value, part), (part.right[:1], None)):
                open_at = _continue(held, open_at, item[0], part, item[1] is not None)
        else:
            open_at = _continue(held, open_at, part.code, part, False)
    verdict = Verdict([], True, cover.boxes.count)
    for k, row in enumerate(rows):
        verdict.proven.append(k < len(held) and _span_fits(row, held[k]))
    verdict.complete = len(rows) == len(held) and all(verdict.proven)
    return verdict


def _continue(held: list[list[Any]], open_at: Any, code: str, part: Any, is_point: bool) -> Any:
    if code == "":
        return open_at
    if code not in "TN":
        raise Unproven("a place where the condition is not settled")
    if code == "T":
        if open_at is None:
            held.append([part, is_point, None, False])
        held[-1][2], held[-1][3] = part, is_point
        return True
    if open_at is not None and held and not is_point and isinstance(part, Point) and held[-1][2] is not part:
        held[-1][2], held[-1][3] = part, False
    if open_at is not None and is_point:
        held[-1][2], held[-1][3] = part, False
    return None


def _span_fits(row: dict[str, Any], mine: list[Any]) -> bool:
    for name, part, inside, far in (("low", mine[0], mine[1], "low"), ("high", mine[2], mine[3], "high")):
        if row[name] is None:
            if not (isinstance(part, Box) and getattr(part, far) is None):
                return False
            continue
        if not isinstance(part, Point) or bool(row[f"{name}_belongs"]) != inside:
            return False
        low, high = between(row, name, row[f"{name}_interval"])
        if part.exact is not None and low == high:
            with bits(BITS):
                if not (part.exact - _exact_of(low)).is_zero():
                    return False
        elif not (low <= part.at[0] and part.at[1] <= high):
            return False
    return True


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
                    held = _inside(found.jet[0], (low, high))
            if held:
                break
        if not held:
            with bits(BITS):
                exact = exact_place({"formula": program})
                held = low == high and exact is not None and (exact - _exact_of(low)).is_zero()
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
        held = len(rows) == 1 and _inside(total, (low, high))
    return Verdict([held] * len(rows), held, count, faults=[] if held else [f"the integral is {total.str(18)}"])


def _centroid(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> Verdict:
    """The centroid of an area: one row with x, y and the area as `value`, which are two quotients of integrals and one integral."""
    (area, n), (along, m), (up, k) = (integral_over(certificate[part]) for part in ("area", "along", "up"))
    row = rows[0]
    with bits(PLACE_BITS):
        claims = [
            (along / area, "x", row["intervals"]["x"]), (up / area, "y", row["intervals"]["y"]), (area, "value", row["value_interval"])
        ]  # fmt: skip
        held = len(rows) == 1 and not area.contains(0) and all(_inside(ball, between(row, name, ends)) for ball, name, ends in claims)
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
            held = low <= number <= high and bool((exactly(certificate) - _exact_of(number)).is_zero())
        return Verdict([held and len(rows) == 1] * len(rows), held, 1, faults=[] if held else ["it is another number"])
    total, count = sum_over(certificate)
    with bits(certificate["bits"]):
        held = len(rows) == 1 and _inside(total, (low, high))
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
                return bool((found - _exact_of(low)).is_zero())
            return bool(found.is_exact() and found == ball(low))
    with bits(PLACE_BITS):
        return _inside(found.ball if isinstance(found, Exact) else found, (low, high))


_RULES: dict[str, Any] = {
    "limit": _limit,
    "sum": _sum,
    **dict.fromkeys(_SEVERAL, _in_several),
    "integral": _integral, "double integral": _integral, "centroid": _centroid, "centroid of points": _centroid_of_points,
    "roots": _roots, "polynomial": _polynomial, "extremes": _extremes,
    "inflections": _inflections, "lowest": _lowest, "highest": _lowest, "spans": _spans,
    "value": _value, "truth": _truth, "identity": _formula, "taylor": _formula,
}  # fmt: skip

__all__ = ["Verdict", "verify"]
