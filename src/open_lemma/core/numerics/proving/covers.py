"""Certificates for what searches over one variable have found: covers that the verifier checks.

A search knows where the roots, turning points and breaks are; here the window is cut at those places and the gaps between are halved until
each box has a claim. Nothing here is trusted: a certificate that does not hold is refused by the verifier, and the finding graded down.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from typing import Any

from flint import fmpq

from ...certificate.cover import BOX_BITS, CLAIMS, FARTHEST, PLACE_BITS, Point, Unproven, halved_at
from ...certificate.exact import NoExactNumber, rational
from ...certificate.functions import BadProgram
from ...certificate.program import program_of
from ...certificate.rows import Verdict
from ...certificate.verifier import verify
from ...formula.ball import from_fraction, precision
from ...formula.certain import certain_value, decimal_interval, fraction_text, nearest_double
from ...formula.domain import end_value, infinite
from ...formula.exact import polynomial
from ...formula.nodes import Formula, Number, expanded, variables, walk
from ..extrema.turning import Extremum, Turns, What, place_spot
from ..roots.pieces import NotSearchable, Place, TooManyPieces, edges, is_switch, smooth_pieces
from ..roots.search import Root, Roots, Stretch, simplest_rational
from .strict import NotPlain, Places, Spot, said_place, spot_of

DEEPEST = 70  # halvings of a gap
CLOSE = Fraction(1, 2**140)  # of its size: how closely a root is known that only the cover found
MOST_UNSEEN = 40
MOST_UNSETTLED = 400  # boxes of what the search has left unsettled
MOST_HOPELESS = 50  # boxes of the least size that have no claim: more halving would find no more
MOST_ENDLESS = 600  # boxes of a window without an end; where they do not do, what was searched is covered
BOXES_A_ROW = 8  # more boxes for every row that is to be proven
SPECIAL = frozenset("besselj bessely 1/Gamma 1/Gamma^ digamma polygamma".split())  # of these a box costs more
MOST_BENT = 3_000  # of a second derivative, of which boxes say less
MOST = 6_000  # boxes of one certificate
MOST_STEPS_OF_VALUE = 400
NARROWINGS = 18  # times that what is claimed around a point is drawn closer
_BITS = 256
Json = dict[str, Any]


class NoCertificate(Exception):
    """What was found cannot be put into a certificate; the text says why."""


@dataclass(frozen=True)
class CoverStyle:
    """What is tried, in this order: letters for boxes, for the sides of points, and for the points themselves."""

    claim: str
    boxes: str
    sides: str
    order: int  # of the Taylor coefficients that the letters for boxes need
    linked: bool  # whether it matters how the value at a point stands to those beside it
    turn: str  # "0" or "t": what a point may be that has an exact place
    derivative: int = 0  # of the formula that is looked at

    @property
    def zeros(self) -> bool:
        """Whether places are sought where something is zero."""
        return self.claim in ("roots", "inflections")


WEAK = ("A", "B")  # letters that say of no place what it is
ROOTS = CoverStyle("roots", "+-urfRF0", "+-u", 1, False, "0")
EXTREMES = CoverStyle("extremes", "urfcRFv^", "ucrf", 2, True, "t")
LOWEST = CoverStyle("lowest", "auArfcRFv^", "ucrfaA", 2, True, "t")
HIGHEST = CoverStyle("highest", "buBrfcRFv^", "ucrfbB", 2, True, "t")
INFLECTIONS = CoverStyle("inflections", "+-0urfRF", "+-0u", 1, False, "0", 2)
SPANS = CoverStyle("spans", "TN", "TN", 0, False, "")


def break_spots(formula: Formula, variable: str, low: Formula, high: Formula) -> list[Spot]:
    """The places of a window at which a formula chooses, jumps, or may lose its value or its slope."""
    whole = expanded(formula)
    if not edges(whole, variable) and not any(is_switch(n, variable) for n in walk(whole)) and not _expands(whole):
        return []
    try:
        pieces = smooth_pieces(whole, variable, low, high)
    except (TooManyPieces, NotSearchable):
        return []
    return [place_spot(p) for p in pieces.places[1:-1]]


def _expands(formula: Formula) -> bool:
    return any(getattr(getattr(n, "entry", None), "expansion", None) is not None for n in walk(formula))


class Certifier:
    """Builds the cover of one formula over one window.

    level: what the lowest (highest) value is compared with; rows: how many are to be proven; unsettled: where the search got stuck
    kept: intervals of the places that are to be shown, where it is not enough that nothing lies beyond the level
    """

    narrowings = NARROWINGS
    closer = 8
    deepest = DEEPEST

    def __init__(self, formula: Formula, variable: str, low: Formula, high: Formula, style: CoverStyle, level: Any = None,
                 rows: int = 0, unsettled: Iterable[Stretch] = (), kept: Iterable[tuple[Fraction, Fraction]] = ()) -> None:  # fmt: skip
        try:
            self.places = Places(formula, variable, level, style.derivative)
            self.ends = [end_of(low), end_of(high)]
        except NotPlain as reason:
            raise NoCertificate(f"it rests on {reason}") from None
        if set(variables(formula)) - {variable}:
            raise NoCertificate("more than one variable")
        self.variable, self.style = variable, style
        self.formulas = (low, high)
        self.kept = sorted(kept)
        self.boxes, self.program = self.places.boxes, self.places.program
        most = MOST_ENDLESS if any(isinstance(e, str) for e in self.ends) else MOST + BOXES_A_ROW * rows
        self.stuck = sorted((Fraction(s.low), Fraction(s.high)) for s in unsettled if not math.isinf(s.low) and not math.isinf(s.high))
        self.stuck_left = MOST_UNSETTLED
        self.hopeless_left = MOST_HOPELESS
        most = min(most, MOST_BENT) if style.derivative else most
        self.left = most // (1 + 2 * sum(s[0] in SPECIAL for s in self.program))

    # ------------------------------------------------------------ the whole

    def cover(self, spots: Iterable[Spot]) -> Json:
        """The certificate."""
        points = self._placed(spots)
        said = []
        for k, (spot, place) in enumerate(points):
            before = points[k - 1][0] if k else None
            after = points[k + 1][0] if k + 1 < len(points) else None
            said.append(self._point(spot, place, before, after))
        stops = [*([None] if self.ends[0] == "-infinity" else []), *said, *([None] if self.ends[1] == "infinity" else [])]
        gaps = []
        for a, b in pairwise(stops):
            low = None if a is None else Fraction(a["near"][1])
            high = None if b is None else Fraction(b["near"][0])
            gaps.append("" if low is not None and low == high else self._gap(low, high))
        return {"claim": self.style.claim, "formula": self.program, "variable": self.variable, "low": self.ends[0], "high": self.ends[1],
                "points": said, "gaps": gaps}  # fmt: skip

    def _placed(self, spots: Iterable[Spot]) -> list[tuple[Spot, Any]]:
        """Ends and spots in order, each once; a spot at an end is that end."""
        ends = [None if isinstance(e, str) else spot_of(f) for e, f in zip(self.ends, self.formulas, strict=True)]
        inner: list[Spot] = []
        for spot in sorted(spots, key=lambda s: float(s.ball.mid())):
            if any(e is not None and e.ball.overlaps(spot.ball) for e in ends):
                continue
            if (ends[0] is not None and spot.ball < ends[0].ball) or (ends[1] is not None and spot.ball > ends[1].ball):
                continue
            if inner and inner[-1].ball.overlaps(spot.ball):
                if inner[-1].exact is None and (spot.exact is not None or spot.ball.rad() < inner[-1].ball.rad()):
                    inner[-1] = spot
                continue
            inner.append(spot)
        found: list[tuple[Spot, Any]] = [(s, None) for s in inner]
        if ends[0] is not None:
            found.insert(0, (ends[0], self.ends[0]))
        if ends[1] is not None:
            found.append((ends[1], self.ends[1]))
        return found

    # ------------------------------------------------------------ points

    def _point(self, spot: Spot, said: Any, before: Spot | None, after: Spot | None) -> Json:
        is_at, known, at = self.places.identity(spot, said)
        with precision(_BITS):
            room = [abs(float((spot.ball - s.ball).mid())) for s in (before, after) if s is not None]
            reach = min(room, default=max(abs(float(spot.ball.mid())), 1.0)) / 3
        best: tuple[int, Json] | None = None
        for reached in self._reaches(reach):
            point = {"is": is_at, "at": [str(v) for v in at], "near": [str(v) for v in self._near(at, reached)], "known": known}
            missing = self._claims(point, said is self.ends[0], said is self.ends[1])
            if best is None or missing <= best[0]:  # what is not told stays as small as it can
                best = missing, point
            if not missing:
                break
        assert best is not None
        return best[1]

    def _reaches(self, reach: float) -> list[float]:
        """How far what is claimed around a point may reach, in the order in which it is tried."""
        return [reach / self.closer**k for k in range(self.narrowings)]

    def _near(self, at: Sequence[Fraction], reach: float) -> tuple[Fraction, Fraction]:
        """Short dyadic numbers beside a point, about `reach` away from it."""
        step = Fraction(2) ** _exponent(reach)
        low, high = (at[0] // step) * step, -((-at[1]) // step) * step
        return (low - step if low >= at[0] else low), (high + step if high <= at[1] else high)

    def _claims(self, said: Json, first: bool, last: bool) -> int:
        """Put what can be claimed of a point into it; how many claims are missing."""
        try:
            point = Point(self.boxes, said)
        except (Unproven, BadProgram, NoExactNumber):
            return 9
        missing = 0
        value = self._value(point)
        said["value"] = value
        if value[1:]:
            said.pop("left", None)
            said.pop("right", None)
            return 0
        for side, name in ((-1, "left"), (1, "right")):
            if (first and side < 0) or (last and side > 0):
                continue
            code = self._side_code(point, side, value)
            if code == "?":
                missing += 1
            link = ""
            if (self.style.linked and value != "u" and code not in "u?") or (self.style.zeros and value == "0" and code in "rf"):
                link = next((k for k in "=<>" if self._try(point._linked, side, k)), "")
                missing += not link
            said[name] = code + link
        # A zero whose multiplicity shows closer by is better said with it.
        return missing + (value == "?") + (value == "0" and self.style.turn == "0" and point.exact is not None)

    def _side_code(self, point: Point, side: int, value: str) -> str:
        keeps = self._keeps(*((point.low, point.at[0]) if side < 0 else (point.at[1], point.high)), True)
        codes = [k for k in self.style.sides if not (keeps and k in WEAK)]
        code = next((k for k in codes if self._try(point._holds_beside, side, k)), "?")
        if code == "?" and self.style.zeros:
            # Monotonic up to a zero, or moving away from zero towards the point.
            code = next((k for k in "rf" if self._try(point._holds_beside, side, k)), "?")
            away = -side if code == "r" else side
            if code != "?" and value != "0" and self.boxes.sign(point.low if side < 0 else point.high) != away:
                return "?"
        return code

    def _try(self, check: Callable[..., bool], *arguments: Any) -> bool:
        try:
            return check(*arguments)
        except (Unproven, NoExactNumber, BadProgram):
            return False

    def _value(self, point: Point) -> str:
        """The letter for the place itself."""
        if self.style.turn and point.exact is not None:
            for order in range(1, 6):
                point.value = f"{self.style.turn}{order}"
                if (order > 1 or self.style.turn == "0") and self._try(point._holds_here, point.value):
                    return point.value
        for code in "TN" if self.style.claim == "spans" else "u+-0d":
            if self._try(point._holds_here, code):
                return code
        return "?"

    # ------------------------------------------------------------ gaps

    def _gap(self, low: Fraction | None, high: Fraction | None) -> str:
        """The tree of a gap in prefix order."""
        letters: list[str] = []
        todo: list[tuple[Fraction | None, Fraction | None, int]] = [(low, high, 0)]
        while todo:
            a, b, depth = todo.pop()
            self.left -= 1
            code = self._code(a, b) if self.left > 0 else "?"
            if code is None and self._is_stuck(a, b):
                self.stuck_left -= 1
                code = "?" if self.stuck_left < 0 else None
            if code is None and depth == self.deepest:
                self.hopeless_left -= 1
                if self.hopeless_left < 0:
                    self.left = 0
            if code is None and depth < self.deepest and not _too_far(a, b):
                middle = halved_at(a, b)
                letters.append("s")
                todo += [(middle, b, depth + 1), (a, middle, depth + 1)]
            else:
                letters.append(code or "?")
        return "".join(letters)

    def _is_stuck(self, low: Fraction | None, high: Fraction | None) -> bool:
        """Whether a box lies where the search has got stuck."""
        if low is None or high is None or not self.stuck:
            return False
        k = bisect_right(self.stuck, low, key=lambda s: s[0]) - 1
        return k >= 0 and high <= self.stuck[k][1]

    def _code(self, low: Fraction | None, high: Fraction | None) -> str | None:
        """The first letter that holds on a box; None where none does."""
        endless = low is None or high is None
        try:
            for spans in (True,) if endless else (False, True):
                for order in range(self.style.order + 1):
                    codes = [k for k in self.style.boxes if k in CLAIMS and CLAIMS[k][0] == order]
                    if not codes:
                        continue
                    with precision(BOX_BITS):
                        box = self.boxes.span(low, high) if spans else _ball(low).union(_ball(high))
                        reading = self.boxes.read(box, order, self.boxes.far(low, high) if endless else None)
                        for code in codes:
                            if CLAIMS[code][1](reading, self.boxes.level) and self._fits(code, low, high):
                                return code
            if endless:
                return next(
                    (k for k in "RF" if k in self.style.boxes and self.boxes.holds(k, low, high) and self._fits(k, low, high)), None
                )
        except (BadProgram, NoExactNumber) as reason:
            raise NoCertificate(str(reason)) from None
        except Unproven:
            self.left = 0
        return None

    def _keeps(self, low: Fraction | None, high: Fraction | None, inside: bool = False) -> bool:
        """Whether a place that is to be shown may lie in a box (inside: and not at its ends)."""
        if inside:
            return any(a < high and b > low for a, b in self.kept)  # type: ignore[operator]
        return any((high is None or a <= high) and (low is None or b >= low) for a, b in self.kept)

    def _fits(self, code: str, low: Fraction | None, high: Fraction | None) -> bool:
        """Whether a box with that claim settles what is asked."""
        if self.style.zeros and code in "rfRF":
            way = 1 if code in "rR" else -1
            signs = [None if e is None else self.boxes.sign(e) for e in (low, high)]
            if signs[0] == way or signs[1] == -way:
                return True
            return low is not None and high is not None and 0 not in signs
        if code in WEAK:
            return not self._keeps(low, high)
        if code in "v^":
            bend = 1 if code == "v" else -1
            ends = [self.boxes.sign(e, 1) if e is not None else 0 for e in (low, high)]
            return ends == [-bend, bend] or ends[0] == bend or ends[1] == -bend
        return True


# ---------------------------------------------------------------- helpers


def _too_far(low: Fraction | None, high: Fraction | None) -> bool:
    return (low is None) != (high is None) and abs(low if low is not None else high) > FARTHEST  # type: ignore[arg-type]


def end_of(end: Formula) -> Any:
    if infinite(end):
        return "infinity" if end_value(end) > 0 else "-infinity"
    return said_place(end)


def _exponent(reach: float) -> int:
    return math.frexp(max(reach, 1e-200))[1] - 1


def _ball(q: Fraction | None) -> Any:
    assert q is not None
    return from_fraction(q.numerator, q.denominator)


# ---------------------------------------------------------------- findings


@dataclass(frozen=True)
class Proof:
    """A certificate and what the verifier says of it; without one, why there is none."""

    certificate: Json | None
    verdict: Verdict
    why: str = ""
    refused: bool = False  # there was one, and the verifier did not confirm it

    @property
    def whole(self) -> bool:
        return self.verdict.complete and all(self.verdict.proven)


def proof_by(build: Callable[[], Json], rows: list[Json]) -> Proof:
    """The certificate that is built, and what the verifier says of it."""
    try:
        certificate = build()
    except NoCertificate as reason:
        return Proof(None, Verdict([False] * len(rows), False, fault=str(reason)), str(reason))
    return checked(certificate, rows)


def checked(certificate: Json, rows: list[Json]) -> Proof:
    """What the verifier says of a certificate."""
    verdict = verify(certificate, rows)
    kept = any(verdict.proven) or verdict.complete or verdict.missing
    return Proof(certificate if kept else None, verdict, verdict.fault, not (verdict.complete and all(verdict.proven)))


def prove_again(proof: Proof, rows: list[Json]) -> Proof:
    """The same certificate for other rows."""
    return proof if proof.certificate is None else checked(proof.certificate, rows)


def _cover(
    style: CoverStyle, formula: Formula, variable: str, low: Formula, high: Formula, spots: Iterable[Spot],
    rows: int = 0, level: Any = None, unsettled: Iterable[Stretch] = (), kept: Iterable[tuple[Fraction, Fraction]] = (),
) -> Json:  # fmt: skip
    certifier = Certifier(formula, variable, low, high, style, level, rows, unsettled, kept)
    return certifier.cover([*breaks(formula, variable, low, high, spots), *spots])


def breaks(formula: Formula, variable: str, low: Formula, high: Formula, spots: Iterable[Spot]) -> list[Spot]:
    """Where the formula breaks; in a window without an end, as far out as anything was found."""
    ends = [low, high]
    reach = Fraction(
        max([8.0, *(2 * abs(float(s.ball.mid())) + 1 for s in spots), *(2 * abs(end_value(e)) for e in ends if not infinite(e))])
    )
    for side, end in enumerate(ends):
        if infinite(end):
            ends[side] = Number(reach if side else -reach)
    return break_spots(formula, variable, *ends)


def around(near: Formula, x: float, low: Formula, high: Formula) -> tuple[Formula, Formula]:
    """The window in which nothing may lie if x is the place nearest to another: as far as that to both sides, and a little more."""
    centre = Fraction(certain_value(near).value)
    reach = abs(Fraction(x) - centre) * (1 + Fraction(1, 2**40)) + max(abs(Fraction(x)), Fraction(1)) * Fraction(1, 2**40)
    ends = [centre - reach, centre + reach]
    return (low if end_value(low) >= ends[0] else Number(ends[0])), (high if end_value(high) <= ends[1] else Number(ends[1]))


def searched(low: Formula, high: Formula, unsettled: Iterable[Stretch]) -> tuple[Formula, Formula] | None:
    """A window without an end less its far ends, where these were left unsettled."""
    ends = [low, high]
    for stretch in unsettled:
        if stretch.low == float("-inf") and abs(stretch.high) < float("inf"):
            ends[0] = Number(Fraction(stretch.high))
        if stretch.high == float("inf") and abs(stretch.low) < float("inf"):
            ends[1] = Number(Fraction(stretch.low))
    inside = not any(infinite(e) for e in ends) and end_value(ends[0]) < end_value(ends[1])
    return (ends[0], ends[1]) if inside and (infinite(low) or infinite(high)) else None


def prove_roots(formula: Formula, variable: str, low: Formula, high: Formula, found: Roots, rows: list[Json]) -> Proof:
    """A certificate of all roots of a window. rows: those of the finding, one for each root, then its stretches."""
    spots = [
        Spot(r.ball, None if r.exact is None else Number(r.exact), r.exact is None)
        for r in found.roots if r.exact is not None or r.multiplicity != 1 or r.ball.contains(0)
    ]  # fmt: skip

    def build() -> Json:
        if polynomial(expanded(formula), variable) is not None:
            try:
                claim = {
                    "claim": "polynomial",
                    "formula": program_of(formula),
                    "variable": variable,
                    "low": end_of(low),
                    "high": end_of(high),
                }
            except NotPlain as reason:
                raise NoCertificate(f"it rests on {reason}") from None
            return claim
        return _cover(ROOTS, formula, variable, low, high, spots, len(rows), unsettled=found.unsettled)

    return proof_by(build, rows[: len(found.roots)])


def unseen_roots(formula: Formula, variable: str, proof: Proof) -> list[Root]:
    """Roots that the cover found and the search did not, each closed in by halving."""
    if proof.certificate is None or not proof.verdict.missing:
        return []
    boxes = Places(formula, variable).boxes
    found = []
    for low, high in proof.verdict.missing[:MOST_UNSEEN]:
        rising = boxes.sign(high)
        while high - low > max(abs(low), abs(high), Fraction(1, 2**200)) * CLOSE:
            middle = (low + high) / 2
            sign = boxes.sign(middle)
            if not sign:
                break
            low, high = (low, middle) if sign == rising else (middle, high)
        ball = _between((str(low), str(high))).ball
        exact = simplest_rational(ball)
        if exact is not None and not boxes.zero(rational(fmpq(exact.numerator, exact.denominator))):
            exact = None
        with precision(PLACE_BITS):
            ball = ball if exact is None else _ball(exact)
            interval = decimal_interval(ball, 22) if exact is None else (fraction_text(exact, 22, -1), fraction_text(exact, 22, 1))
            x = nearest_double(ball)
        found.append(Root(x, interval, "proven", "simple", 1, 0.0, exact, False, "", ball, formula))
    return found


def prove_turns(
    formula: Formula, variable: str, low: Formula, high: Formula, places: list[Extremum], others: list[Place], kinds: Iterable[What],
    rows: list[Json], inner: bool = False, unsettled: Iterable[Stretch] = (),
) -> Proof:  # fmt: skip
    """A certificate of all minima, maxima or both. others: further places where the slope is zero, or has none.
    inner: the ends of the window are none of the function's own."""
    balls = [t.ball if t.ball is not None else spot_of(t.place).ball if t.place is not None else None for t in places]

    def build() -> Json:
        if any(b is None for b in balls):
            raise NoCertificate("a place that is not known closely")
        spots = [_turn_spot(t, b) for t, b in zip(places, balls, strict=True)
                 if t.exact is not None or t.shape not in ("turn", "stretch") or t.value_interval[0] == t.value_interval[1]]  # fmt: skip
        spots += [place_spot(p) for p in others if p.root is not None and (p.root.exact is not None or p.root.multiplicity != 1)]
        spots += [Spot(from_fraction(*q.as_integer_ratio()), Number(q)) for t in places if t.shape == "stretch" and t.x_high is not None
                  for q in (Fraction(t.x), Fraction(t.x_high))]  # fmt: skip
        found = _cover(EXTREMES, formula, variable, low, high, spots, len(rows), unsettled=unsettled)
        return {**found, "kinds": sorted(kinds), **({"inner": True} if inner else {})}

    return proof_by(build, rows)


def prove_inflections(formula: Formula, variable: str, low: Formula, high: Formula, found: Turns, rows: list[Json]) -> Proof:
    """A certificate of where a function bends the other way: the zeros of its second derivative at which that changes its sign."""
    places, unsettled = found.places, found.unsettled

    def build() -> Json:
        spots = [_turn_spot(t, t.ball) for t in places if t.ball is not None and (t.exact is not None or len(set(t.value_interval)) == 1)]
        spots += [place_spot(p) for p in found.others]
        return _cover(INFLECTIONS, formula, variable, low, high, spots, len(rows), unsettled=unsettled)

    return proof_by(build, rows)


def _turn_spot(turn: Extremum, ball: Any) -> Spot:
    return Spot(ball, Number(turn.exact)) if turn.exact is not None else Spot(ball)


def prove_lowest(formula: Formula, variable: str, low: Formula, high: Formula, highest: bool, rows: list[Json]) -> Proof:
    """A certificate of the lowest (highest) value of a window and of where it is taken."""

    def build() -> Json:
        if not rows:
            raise NoCertificate("no place was found")
        heights = [tuple(Fraction(v) for v in r["value_interval"]) for r in rows if _finite(r["value_interval"])]
        if len(heights) < len(rows):
            raise NoCertificate("a value without bounds")
        most = min if highest else max
        spots = [
            spot_of(Number(Fraction(r["exact"]))) if "exact" in r else _between(r["interval"])
            for r in rows
            if "exact" in r or r["kind"] != "global"
        ]
        with precision(PLACE_BITS):
            level = tuple(from_fraction(*most(h[k] for h in heights).as_integer_ratio()) for k in (0, 1))
        kept = [(Fraction(a), Fraction(b)) for a, b in (r["interval"] for r in rows)]
        return _cover(HIGHEST if highest else LOWEST, formula, variable, low, high, spots, len(rows), level, kept=kept)

    return proof_by(build, rows)


def _finite(interval: Sequence[str]) -> bool:
    return not any("inf" in v for v in interval)


def _between(interval: Sequence[str]) -> Spot:
    with precision(PLACE_BITS):
        low, high = (from_fraction(*Fraction(v).as_integer_ratio()) for v in interval)
        return Spot(low.union(high))


def prove_spans(condition: Formula, variable: str, low: Formula, high: Formula, places: Iterable[Place], rows: list[Json]) -> Proof:
    """A certificate of where a condition on one variable holds."""
    spots = [place_spot(p) for p in places if abs(p.x) != float("inf")]
    return proof_by(lambda: _cover(SPANS, condition, variable, low, high, spots, len(rows)), rows)


def prove_value(formula: Formula, row: Json) -> Proof:
    """A certificate of the value of a formula without variables."""

    return proof_by(lambda: {"claim": "value", "formulas": [short_program(formula)]}, [row])


def short_program(formula: Formula) -> list[Any]:
    """The program of a formula of an ordinary length. Raises NoCertificate."""
    try:
        program = program_of(formula)
    except NotPlain as reason:
        raise NoCertificate(f"it rests on {reason}") from None
    if len(program) > MOST_STEPS_OF_VALUE:
        raise NoCertificate("the formula is too long")
    return program


__all__ = [
    "breaks",
    "checked",
    "end_of",
    "Certifier",
    "NoCertificate",
    "Proof",
    "break_spots",
    "prove_again",
    "prove_inflections",
    "prove_lowest",
    "prove_roots",
    "prove_spans",
    "prove_turns",
    "prove_value",
    "proof_by",
    "short_program",
]
