"""A formula of one variable taken apart into smooth pieces.

`abs`, `sign`, `floor`, `min`, `max` and branches choose by the sign of a simpler formula. Where that sign changes is
found with proof, and between two such places each of them is replaced by what it is there: what is left has a
derivative by rule. Edges of domains and poles are places of the same kind, but nothing is replaced at them.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any, Literal

from ...formula import catalogue as c
from ...formula.ball import branches, doubt, precision
from ...formula.calculus import fraction
from ...formula.certain import Certain, certain_value, decimal_interval, enclosure, nearest_double
from ...formula.choice import condition_of
from ...formula.exact import is_exactly_zero
from ...formula.nodes import Apply, Formula, Given, Number, Variable, Visit, expanded, substitute, transformed, variables, walk
from ...formula.piecewise import PiecewisePolynomial, apart, pieces_of
from ...formula.tape import NoBall, Tape
from .isolation import exact_candidates
from .search import NotSearchable, Root, Roots, Stretch, find_roots

MOST = 600  # places at which one formula is taken apart
_BUDGET = 4_000
_BITS = 90

Break = Literal["kink", "jump", "edge", "pole"]


@dataclass(frozen=True, slots=True)
class Place:
    """A place between two pieces: an end of the window has no kind.

    `settled` is the whole formula with the part that changes there replaced by what it is at the very place: of floor(u)
    where u = 3 it is known that it is 3, while an enclosure of the place could not tell.
    """

    formula: Formula
    x: float
    kinds: frozenset[Break] = frozenset()
    settled: Formula | None = None
    root: Root | None = field(default=None, compare=False)


@dataclass(frozen=True, slots=True)
class Piece:
    """`formula` is smooth, or nowhere defined (None), between the places `low` and `high`."""

    low: Place
    high: Place
    formula: Formula | None


@dataclass
class SmoothPieces:
    pieces: list[Piece]
    unsettled: list[Stretch] = field(default_factory=list)

    @property
    def places(self) -> list[Place]:
        return [self.pieces[0].low, *(p.high for p in self.pieces)]


class TooManyPieces(Exception):
    """The formula falls into more pieces than can be gone through."""


def smooth_pieces(formula: Formula, variable: str, low: Formula, high: Formula) -> SmoothPieces:
    """The pieces of a formula from `low` to `high` (finite, without variables), from left to right without a gap.

    Proven, if nothing is unsettled: each `formula` equals the whole inside of its piece. Where something is, a switch may
    have changed unseen, and no piece can be relied on. Raises TooManyPieces, NotSearchable.
    """
    ends = Place(low, certain_value(low).value), Place(high, certain_value(high).value)
    if not ends[0].x < ends[1].x:
        raise NotSearchable("the window must run from a lower to a higher number")
    work = _PieceWork(variable, expanded(formula))
    # Knots are plain to find, so that there may be more of them.
    work.most = max(MOST, 3 * sum(len(source.joints) for n in walk(formula) if (source := pieces_of(n)) is not None))
    pieces = work.edged(work.split(_opened(expanded(formula)), *ends))
    return SmoothPieces(pieces, work.unsettled)


def as_formula(root: Root) -> Formula:
    """The place of a root as a formula: exact, or a number that lies in its interval."""
    return Number(root.exact) if root.exact is not None else Given(root.x, root.interval)


def value_at(formula: Formula, variable: str, place: Formula) -> Certain:
    """The value of a formula at a place that is known exactly or by an interval.

    Where the interval leaves the value so near to zero that no digit of it is certain, the enclosure is what is proven.
    """
    at = substitute(formula, {variable: place})
    found = certain_value(at)
    if found.proven or not isinstance(place, Given) or place.interval is None:
        return found
    with precision(_BITS * 2):
        try:
            ball = enclosure(Tape([at], []), _BITS * 2)
        except NoBall:
            return found
        if ball is None or not ball.is_finite() or float(ball.rad()) > 1e-15 * max(1.0, abs(found.value)):
            return found
        for candidate in exact_candidates(Tape([place], []).ball()[0]):
            if ball.contains(0) and is_exactly_zero(formula, {variable: candidate}) is True:
                return Certain(0.0, Fraction(0), ("0", "0"), True)
        value = 0.0 if ball.contains(0) else nearest_double(ball)
        return Certain(value, None, decimal_interval(ball), True)


def sign_at(formula: Formula, variable: str, x: float) -> int | None:
    """The proven sign of a formula at a double; None where it is not known or there is no value."""
    with precision(_BITS):
        try:
            for values in branches(lambda: Tape([formula], [variable]).ball(_exact(x))):
                if values is None or not doubt.clean or not values[0].is_finite():
                    return None
                return 1 if values[0] > 0 else -1 if values[0] < 0 else 0 if values[0].is_zero() else None
        except NoBall:
            return None
    return None


def _exact(x: float) -> Any:
    from flint import arb

    return arb(x)


def sign_changes(formula: Formula, variable: str, low: Formula, high: Formula) -> list[Place]:
    """Poles and jumps at which the sign changes without a zero; none where the formula cannot be taken apart."""
    whole = expanded(formula)
    if not edges(whole, variable) and not any(is_switch(n, variable) for n in walk(_opened(whole))):
        return []
    try:
        pieces = smooth_pieces(whole, variable, low, high)
    except (TooManyPieces, NotSearchable):
        return []
    found = []
    for before, after in itertools.pairwise([] if pieces.unsettled else pieces.pieces):
        place = after.low
        if before.formula is None or after.formula is None or not place.kinds & {"pole", "jump"}:
            continue
        near = 1e-9 * max(1.0, abs(place.x))
        signs = sign_at(before.formula, variable, place.x - near), sign_at(after.formula, variable, place.x + near)
        if signs in ((1, -1), (-1, 1)):
            found.append(place)
    return found


def roots_in_pieces(formula: Formula, variable: str, low: Formula, high: Formula) -> Roots | None:
    """All roots of a formula that chooses or jumps: those inside of its smooth pieces, and the places between where it is zero.

    None where the formula chooses nowhere, or cannot be taken apart. The promises are those of `find_roots`.
    """
    whole = apart(expanded(formula))
    if not any(is_switch(n, variable) for n in walk(_opened(whole))):
        return None
    try:
        pieces = smooth_pieces(whole, variable, low, high)
        if pieces.unsettled:
            return None
        parts = [
            find_roots(p.formula, variable, p.low.formula, p.high.formula) for p in pieces.pieces if p.formula is not None
        ]  # fmt: skip
    except (TooManyPieces, NotSearchable):
        return None
    places = pieces.places
    flat = [s for part in parts for s in part.flat]
    unsettled = [s for part in parts for s in part.unsettled]
    inside = [r for part in parts for r in part.roots if not r.at_end and all(r.x != p.x for p in places)]
    between: list[Root] = []
    for k, place in enumerate(places):
        value = value_at(place.settled if place.settled is not None else whole, variable, place.formula)
        if any(s.low <= place.x <= s.high for s in flat):
            continue
        if value.proven and value.exact == 0:
            between.append(_root_at(place, k in (0, len(places) - 1), whole))
        elif abs(value.value) < 1e-12 and not (value.proven and value.value != 0):
            unsettled.append(Stretch(place.x, place.x))
    roots = sorted([*inside, *between], key=lambda r: r.x)
    removed = sorted({x for part in parts for x in part.removed})
    ruled = tuple(r for part in parts for r in part.ruled)
    return Roots(roots, flat, unsettled, removed, sum(part.boxes for part in parts), all(part.exact_only for part in parts), ruled)


def _root_at(place: Place, at_end: bool, whole: Formula) -> Root:
    at = certain_value(place.formula)
    with precision(256):
        ball = Tape([place.formula], []).ball()[0]
    return Root(at.value, at.interval or (repr(at.value),) * 2, "proven", "edge", None, 0.0, at.exact, at_end, "", ball, whole)


# ---------------------------------------------------------------- what chooses

_SWITCHES = ("abs", "sign", "floor", "ceil", "min", "max")


def _opened(formula: Formula) -> Formula:
    """What is given by an expansion that holds a switch (`mod`, `round`, waveforms) written out; names are opened."""

    def visit(node: Formula, go: Visit) -> Formula | None:
        opened = expanded(node)
        if opened is not node:
            return go(opened)
        if not isinstance(node, Apply):
            return None
        entry = node.entry
        if entry.expansion is not None and entry.category in ("rounding", "waveform"):
            return go(entry.expansion(*node.arguments))
        if entry.name in ("min", "max") and len(node.arguments) > 2:
            rest = Apply(entry, node.arguments[1:])
            return go(Apply(entry, (node.arguments[0], rest)))
        if entry.name in ("min", "max") and len(node.arguments) == 1:
            return go(node.arguments[0])
        return None

    return transformed(formula, visit)


def is_switch(node: Formula, variable: str) -> bool:
    """Whether a part chooses between formulas, or jumps, by the value of the variable."""
    if not isinstance(node, Apply) or variable not in variables(node):
        return False
    if node.entry.name in _SWITCHES:
        return True
    if (source := pieces_of(node)) is not None:
        return bool(source.joints)
    return node.entry is c.CHOOSE and variable in variables(node.arguments[0])


def _innermost(formula: Formula, variable: str) -> Apply | None:
    """A switch whose deciding part holds no other switch."""
    for node in walk(formula):
        if isinstance(node, Apply) and is_switch(node, variable):
            deciding = node.arguments[:1] if node.entry is c.CHOOSE else node.arguments
            if not any(is_switch(n, variable) for a in deciding for n in walk(a)):
                return node
    return None


class _PieceWork:
    def __init__(self, variable: str, whole: Formula) -> None:
        self.variable = variable
        self.whole = Tape([whole], [variable])  # a switch that is replaced takes the undefined parts beside it along
        self.unsettled: list[Stretch] = []
        self.count = 0
        self.most = MOST

    # ------------------------------------------------------------ switches

    def split(self, formula: Formula, low: Place, high: Place) -> list[Piece]:
        switch = _innermost(formula, self.variable)
        if switch is None:
            return [Piece(low, high, formula)]
        self.count += 1
        if self.count > self.most:
            raise TooManyPieces
        kind = _break_at(switch)
        deciding = self._deciding(switch, low, high)
        inner = self._between([part for part, _ in deciding], low, high, kind, [_replaced(formula, switch, at) for _, at in deciding])
        # A deciding part may change its sign at a pole, too, or at an edge of its domain.
        broken = {(e, k): None for part, _ in deciding for e, k in edges(part, self.variable)}
        for part, of_edge in broken:
            inner = inner + self._between([part], low, high, of_edge)
        places = [low, *_merged(inner), high]
        found: list[Piece] = []
        for a, b in itertools.pairwise(places):
            middle = _inner(a, b)
            branch = self._taken(switch, middle)
            found += self.split(_replaced(formula, switch, branch), a, b)
        return found

    def _deciding(self, switch: Apply, low: Place, high: Place) -> list[tuple[Formula, Formula]]:
        """The formulas at whose zeros the switch may change, each with what the switch is there."""
        name, args = switch.entry.name, switch.arguments
        if name in ("abs", "sign"):
            return [(args[0], Number(Fraction(0)))]
        if name in ("min", "max"):
            return [(c.subtract(*args), args[0])]
        if (source := pieces_of(switch)) is not None:
            knots = self._reached(source, args[0], low, high)
            return [(c.subtract(args[0], Number(k)), source.piece_formula(source.place(k), Number(k))) for k in knots]
        if name in ("floor", "ceil"):
            return [(c.subtract(args[0], Number(Fraction(k))), Number(Fraction(k))) for k in self._levels(args[0], low, high)]
        return [
            (c.subtract(*node.arguments), _where_equal(switch, node)) for node in _comparisons(args[0]) if self.variable in variables(node)
        ]

    def _levels(self, inside: Formula, low: Place, high: Place) -> range:
        """The whole numbers that a formula may reach."""
        least, most = self._range(inside, low, high)
        if not (abs(least) < 1e9 and abs(most) < 1e9) or most - least > MOST:
            raise TooManyPieces
        return range(int(least) - 1, int(most) + 2)

    def _range(self, inside: Formula, low: Place, high: Place) -> tuple[float, float]:
        tape = Tape([inside], [self.variable])
        least, most = float("inf"), float("-inf")
        with precision(_BITS):
            ends = [Tape([p.formula], []).ball()[0] for p in (low, high)]
            parts = 16
            for k in range(parts):
                place = (ends[0] + (ends[1] - ends[0]) * k / parts).union(ends[0] + (ends[1] - ends[0]) * (k + 1) / parts)
                bounds = _hull(tape, place)
                if bounds is None:
                    raise TooManyPieces
                least, most = min(least, bounds[0]), max(most, bounds[1])
        return (least, most) if least <= most else (0.0, 0.0)

    def _taken(self, switch: Apply, x: float) -> Formula:
        """What the switch is at a place inside of a piece, as a formula without it."""
        name, args = switch.entry.name, switch.arguments
        if (source := pieces_of(switch)) is not None:
            return source.piece_formula(self._piece_at(source, args[0], x), args[0])
        if switch.entry is c.CHOOSE:
            held = _holds(args[0], self.variable, x)
            return c.UNDEFINED if held is None else args[1] if held else args[2]
        if name in ("min", "max"):
            smaller = (sign_at(c.subtract(*args), self.variable, x) or 0) < 0
            return args[0] if smaller == (name == "min") else args[1]
        if name in ("abs", "sign"):
            sign = sign_at(args[0], self.variable, x) or 0
            if name == "sign":
                return Number(Fraction(sign))
            return args[0] if sign > 0 else c.minus(args[0]) if sign < 0 else Number(Fraction(0))
        value = certain_value(transformed(switch, lambda n, _: _number(x) if _is_variable(n, self.variable) else None))
        return Number(Fraction(round(value.value))) if value.value == value.value else c.UNDEFINED

    def _reached(self, source: PiecewisePolynomial, inside: Formula, low: Place, high: Place) -> list[Fraction]:
        """The knots that may lie between two places."""
        plain = _is_variable(expanded(inside), self.variable)
        least, most = (low.x, high.x) if plain else self._range(inside, low, high)
        return [k for k in source.joints if least <= k <= most]

    def _piece_at(self, source: PiecewisePolynomial, inside: Formula, x: float) -> int:
        value = certain_value(transformed(inside, lambda n, _: _number(x) if _is_variable(n, self.variable) else None)).value
        return source.place(Fraction(value)) if value == value and abs(value) != float("inf") else 0

    # ------------------------------------------------------------ edges and poles

    def edged(self, pieces: list[Piece]) -> list[Piece]:
        """Each piece divided where a part of it has a pole or an edge of its domain; what has no value is marked."""
        found: list[Piece] = []
        for piece in pieces:
            assert piece.formula is not None
            places = [piece.low]
            inner: list[Place] = []
            for part, kind in edges(piece.formula, self.variable):
                inner += self._between([part], piece.low, piece.high, kind)
            places += _merged(inner)
            places.append(piece.high)
            self.count += len(places)
            if self.count > self.most * 2:
                raise TooManyPieces
            for a, b in itertools.pairwise(places):
                found.append(Piece(a, b, piece.formula if self._defined(a, b) else None))
        return found

    def _defined(self, low: Place, high: Place) -> bool:
        """Between two edges the whole formula is defined throughout or nowhere: one place tells."""
        with precision(_BITS):
            try:
                for values in branches(lambda: self.whole.ball(_exact(_inner(low, high)))):
                    return values is None or True
            except NoBall:
                raise NotSearchable("what is given by a block or a list cannot be taken apart") from None
        return False

    def _between(self, deciding: list[Formula], low: Place, high: Place, kind: Break, settled: list[Formula] | None = None) -> list[Place]:
        """The zeros of formulas strictly between two places, rising, each once."""
        found: list[Place] = []
        for k, part in enumerate(deciding):
            if self.variable not in variables(part):
                continue
            roots = find_roots(part, self.variable, low.formula, high.formula, budget=_BUDGET)
            self.unsettled += roots.unsettled
            at = settled[k] if settled is not None else None
            for r in roots.roots:
                if not r.at_end and low.x < r.x < high.x:
                    found.append(Place(as_formula(r), r.x, frozenset({kind}), at if r.evidence == "proven" else None, r))
            for v in (v for s in roots.flat for v in (s.low, s.high)):
                if low.x < v < high.x:
                    found.append(Place(Number(Fraction(v)), v, frozenset({kind})))
            self.count += len(roots.roots)
            if self.count > self.most * 2:
                raise TooManyPieces
        return _merged(found)


def _break_at(switch: Apply) -> Break:
    """What a function does where a switch in it changes."""
    source = pieces_of(switch)
    if source is not None:
        return "jump" if source.continuous < 0 else "kink"
    return "kink" if switch.entry.name in ("abs", "min", "max") else "jump"


def _replaced(formula: Formula, switch: Apply, other: Formula) -> Formula:
    """The formula with another part in place of a switch, wherever that stands."""
    return transformed(formula, lambda node, _: other if node is switch or node == switch else None)


def _hull(tape: Tape, place: Any) -> tuple[float, float] | None:
    """Bounds of the values on a ball; None where there are none that could be told."""
    least, most = float("inf"), float("-inf")
    for values in branches(lambda: tape.ball(place)):
        if values is None or not values[0].is_finite():
            return None
        least, most = min(least, float(values[0].lower())), max(most, float(values[0].upper()))
    return least, most


def _merged(places: list[Place]) -> list[Place]:
    """In rising order, each place once with all its kinds."""
    found: list[Place] = []
    for p in sorted(places, key=lambda p: p.x):
        if found and found[-1].x == p.x:
            exact = found[-1].formula if isinstance(found[-1].formula, Number) else p.formula
            # Two parts change here: neither settles it alone.
            found[-1] = Place(exact, p.x, found[-1].kinds | p.kinds, None, found[-1].root or p.root)
        else:
            found.append(p)
    return found


def _inner(low: Place, high: Place) -> float:
    """A double inside of a piece, not the middle: what is even about it might be special there."""
    return low.x + (high.x - low.x) * 0.4871


def _number(x: float) -> Formula:
    return Number(Fraction(x))


def deciding_parts(formula: Formula, variable: str) -> list[Formula] | None:
    """The formulas by whose signs all switches of a formula choose; None where some jump without end (`floor`)."""
    found: list[Formula] = []
    for node in walk(_opened(expanded(formula))):
        if not (isinstance(node, Apply) and is_switch(node, variable)):
            continue
        name, args = node.entry.name, node.arguments
        if name in ("floor", "ceil"):
            return None
        if name in ("abs", "sign"):
            found.append(args[0])
        elif name in ("min", "max"):
            found.append(c.subtract(*args))
        elif (source := pieces_of(node)) is not None:
            found += [c.subtract(args[0], Number(k)) for k in source.joints]
        else:
            found += [c.subtract(*n.arguments) for n in _comparisons(args[0]) if variable in variables(n)]
    return found


def _is_variable(node: Formula, variable: str) -> bool:
    return node == Variable(variable)


def _comparisons(condition: Formula) -> Iterator[Apply]:
    for node in walk(condition):
        if isinstance(node, Apply) and node.entry.category == "condition" and node.entry.name in ("<", ">", "<=", ">=", "=", "!="):
            yield node


def _where_equal(switch: Apply, comparison: Apply) -> Formula:
    """A choice where both sides of one of its comparisons are equal."""
    held = c.CONDITIONS["true" if comparison.entry.name in ("<=", ">=", "=") else "false"]
    condition = transformed(switch.arguments[0], lambda node, _: Apply(held, ()) if node is comparison else None)
    return Apply(switch.entry, (condition, *switch.arguments[1:]))


def _holds(condition: Formula, variable: str, x: float) -> bool | None:
    import numpy as np

    held = condition_of(condition, lambda formulas: Tape(formulas, [variable])).numeric((np.asarray(x),))
    return bool(held) if np.isfinite(held) else None


def edges(formula: Formula, variable: str) -> list[tuple[Formula, Break]]:
    """The formulas at whose zeros a part of a formula may lose its value or its slope."""
    found: list[tuple[Formula, Break]] = []

    def note(part: Formula, kind: Break) -> None:
        if variable in variables(part) and (part, kind) not in found:
            found.append((part, kind))

    for node in walk(formula):
        if not isinstance(node, Apply) or variable not in variables(node):
            continue
        name, args = node.entry.name, node.arguments
        if node.entry is c.DIVIDE:
            note(args[1], "pole")
        elif node.entry is c.POWER:
            exponent = expanded(args[1])
            whole = isinstance(exponent, Number) and exponent.value.denominator == 1
            if not whole:
                note(args[0], "edge")
            elif isinstance(exponent, Number) and exponent.value < 0:
                note(args[0], "pole")
        elif name in ("sqrt", "cbrt"):
            note(args[0], "edge")
        elif name in ("ln", "log10", "log2"):
            note(args[0], "pole")
        elif name in ("asin", "acos"):
            note(c.subtract(args[0], Number(Fraction(1))), "edge")
            note(c.add(args[0], Number(Fraction(1))), "edge")
        elif name == "tan":
            note(c.call("cos", args[0]), "pole")
        elif name in ("Gamma", "digamma"):
            note(fraction(c.call("Gamma", args[0]))[1], "pole")
        elif name == "bessely":
            note(args[1], "pole")
        elif name == "besselj" and not _is_whole(args[0]):
            note(args[1], "edge")
        elif node.entry is c.GUARD:
            note(c.subtract(args[1], args[2]), "edge")
            note(c.subtract(args[1], args[3]), "edge")
    return found


def _is_whole(formula: Formula) -> bool:
    inner = expanded(formula)
    return isinstance(inner, Number) and inner.value.denominator == 1


__all__ = [
    "NotSearchable",
    "Piece",
    "SmoothPieces",
    "Place",
    "TooManyPieces",
    "as_formula",
    "deciding_parts",
    "edges",
    "is_switch",
    "roots_in_pieces",
    "sign_at",
    "sign_changes",
    "smooth_pieces",
    "value_at",
]
