"""Least squares: that a sum of squares has exactly one stationary place in a box of its parameters, and a strict minimum there.

S(p) = sum of w (y - f(x; p))^2 over the rows, with w = 1/error^2 where errors are given. Half of its slopes are -sum w r f_i, half of
its second derivatives sum w (f_i f_j - r f_ij), with r = y - f. Krawczyk's operator of the slopes shows that there is one stationary
place in the box and no other; the second derivatives are positive definite on all of the box, so it is a strict minimum.

A parameter that is held on a limit is no unknown: there S must rise towards the inside.
"""

from __future__ import annotations

from typing import Any

from flint import arb, arb_mat, ctx

from .bends import Bent, bent_by
from .cover import PLACE_BITS, ULP, Unproven, ball, between, bits, fraction
from .parts import Part, part_of, span_ball, within
from .systems import Equations, Places

MOST_PARAMETERS = 40
MOST_NUMBERS = 120_000  # rows times steps of the formula
LONG_BITS = 1_024  # for parameters that the data hardly tell apart
WAYS = {"low": 1, "high": -1}


class SumOfSquares(Equations):
    """The equations that the slopes of a sum of squares are zero. count: how many rows were read."""

    def __init__(self, certificate: dict[str, Any]) -> None:
        self.names, self.count = [str(n) for n in certificate["parameters"]], 0
        self.program, self.predictors = certificate["formula"], [str(n) for n in certificate["variables"]]
        self.held = {str(name): (fraction(value), str(side)) for name, value, side in certificate.get("held", [])}
        data, y = certificate["data"], certificate["data"]["y"]
        if not 0 < len(self.names) <= MOST_PARAMETERS or len(set(self.names) | set(self.predictors) | set(self.held)) < (
            len(self.names) + len(self.predictors) + len(self.held)
        ):
            raise Unproven("names that are not told apart")
        if not y or len(y) * len(self.program) > MOST_NUMBERS or len(data["columns"]) != len(self.predictors):
            raise Unproven("more data than may be checked, or none")
        errors = data.get("errors")
        with bits(LONG_BITS):
            columns = [[_given(v) for v in column] for column in data["columns"]]
            self.rows: list[tuple[Any, ...]] = list(zip(*columns, strict=True)) if columns else [()] * len(y)
            self.y = [_given(v) for v in y]
            self.weights = [arb(1)] * len(y) if errors is None else [1 / _given(e) ** 2 for e in errors]
        if not len(self.rows) == len(self.y) == len(self.weights) or not all(w.is_finite() for w in self.weights):
            raise Unproven("rows that are not alike")
        self.moving = frozenset(self.names) | frozenset(self.held)
        self.known: dict[tuple[Any, ...], list[Bent] | None] = {}

    # ------------------------------------------------------------ sums over the rows

    def table(self, places: Places) -> list[Bent] | None:
        """The formula in all rows; None where it is not smooth in one."""
        key = (ctx.prec, *((places[n].mid().man_exp(), places[n].rad().man_exp()) for n in self.names))
        if key not in self.known:
            self.known[key] = self._read(places)
        return self.known[key]

    def _read(self, places: Places) -> list[Bent] | None:
        held = {n: ball(v) for n, (v, _) in self.held.items()}
        found = []
        for row in self.rows:
            self.count += 1
            bent = bent_by(self.program, {**places, **held, **dict(zip(self.predictors, row, strict=True))}, self.moving)
            if bent is None:
                return None
            found.append(bent)
        return found

    def _residuals(self, table: list[Bent]) -> list[Any]:
        return [y - bent.value for y, bent in zip(self.y, table, strict=True)]

    def slope(self, table: list[Bent], name: str) -> Any:
        """Half of the slope along one parameter."""
        terms = zip(self.weights, self._residuals(table), table, strict=True)
        return -sum((w * r * bent.slopes[name] for w, r, bent in terms if name in bent.slopes), arb(0))

    def squares(self, table: list[Bent]) -> Any:
        return sum((w * r**2 for w, r in zip(self.weights, self._residuals(table), strict=True)), arb(0))

    def values(self, places: Places) -> list[Any] | None:
        table = self.table(places)
        return None if table is None else [self.slope(table, n) for n in self.names]

    def slopes(self, places: Places) -> list[list[Any]] | None:
        """Half of the second derivatives on all of a box."""
        table = self.table(places)
        if table is None:
            return None
        size, zero = len(self.names), arb(0)
        plain = arb_mat([[bent.slopes.get(n, zero) for n in self.names] for bent in table])
        heavy = arb_mat([[bent.slopes.get(n, zero) * w for n in self.names] for bent, w in zip(table, self.weights, strict=True)])
        total = heavy.transpose() * plain
        matrix = [[total[i, j] for j in range(size)] for i in range(size)]
        at = {n: i for i, n in enumerate(self.names)}
        for w, r, bent in zip(self.weights, self._residuals(table), table, strict=True):
            for (a, b), v in bent.twice.items():
                if a in at and b in at:
                    matrix[at[a]][at[b]] -= w * r * v
                    if a != b:
                        matrix[at[b]][at[a]] -= w * r * v
        return matrix if all(v.is_finite() for line in matrix for v in line) else None

    # ------------------------------------------------------------ what follows

    def least(self, box: Part) -> Any:
        """The sum of squares on a box that is shown to hold one strict minimum and no other stationary place. Raises Unproven."""
        for precision in (PLACE_BITS, LONG_BITS):
            with bits(precision):
                places = self.places(box)
                second = self.slopes(places) if self.leads_inside(box) else None
                if second is None or not positive(second):
                    continue
                table = self.table(places)
                assert table is not None
                for name, (_, side) in self.held.items():
                    if not self.slope(table, name) * WAYS[side] > 0:
                        raise Unproven(f"the sum of squares does not rise from the limit of {name}")
                return self.squares(table)
        raise Unproven("a box that is not shown to hold exactly one minimum")


def _given(said: Any) -> Any:
    """A number of the data: as it is said, or between two numbers."""
    return span_ball((fraction(said[0]), fraction(said[1]))) if isinstance(said, list) else ball(fraction(said))


def positive(matrix: list[list[Any]]) -> bool:
    """Whether a symmetric matrix of balls is positive definite: all pivots of Gauss's elimination are positive."""
    rows = [list(line) for line in matrix]
    for i, line in enumerate(rows):
        if not line[i] > 0:
            return False
        for other in rows[i + 1 :]:
            share = other[i] / line[i]
            for j in range(i, len(line)):
                other[j] = other[j] - share * line[j]
    return True


def fitted(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> tuple[list[bool], bool, int, list[str]]:
    """One row of a fit: whether its parameters are those of a strict minimum, twice; how many rows of data were read; what did not hold."""
    found = SumOfSquares(certificate)
    box = part_of(certificate["box"])
    if len(rows) != 1 or len(box) != len(found.names):
        raise Unproven("not one fit")
    said = {str(p["name"]): p for p in rows[0]["parameters"]}
    if set(said) != set(found.names) | set(found.held):
        raise Unproven("other parameters")
    squares = found.least(box)
    faults = []
    for name, side in zip(found.names, box, strict=True):
        wide = between(said[name], "value", said[name]["interval"])
        if not within((side,), (wide,)):
            faults.append(f"{name} is not shown to lie in its interval")
    faults += [f"{n} is not on its limit" for n, (v, _) in found.held.items() if abs(fraction(said[n]["value"]) - v) > abs(v) * ULP]
    told = fraction(rows[0]["residual_sum_of_squares"])
    with bits(PLACE_BITS):
        room = abs(told) * ULP * 4
        if not squares.overlaps(span_ball((told - room, told + room))):
            faults.append(f"the sum of squares is {squares.str(18)}")
    return [not faults], not faults, found.count, faults
