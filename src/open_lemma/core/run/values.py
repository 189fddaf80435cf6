"""What names stand for while a script runs."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import numpy as np
from flint import fmpq

from ..formula.estimates import standard_error
from ..formula.nodes import Formula, Given, Number
from ..formula.quantities import unit_of
from ..formula.units import MixedUnits, Unit
from ..numerics.evidence import Evidence


@dataclass(frozen=True, slots=True)
class Scalar:
    """A number with the formula it came from, so that it stays exact where a formula is solved or proven.

    `gap` is a missing value: its number is NaN.
    """

    formula: Formula
    value: float
    exact: Fraction | None
    interval: tuple[str, str] | None
    proven: bool
    gap: bool = False

    @property
    def unit(self) -> Unit | None:
        """The unit that belongs to it; None for a bare number."""
        try:
            return unit_of(self.formula)
        except MixedUnits:
            return None


@dataclass(frozen=True, slots=True, eq=False)
class ListValue:
    """A list of numbers, shape (n,); NaN is a gap.

    `room` is where the list was put, with free places behind it; `exact` holds the elements of a list that was written
    down (`[1/3, 2]`, `0 to 1 step 0.1`), as long as it is short. `hidden` holds what was excluded from a column of a
    table, NaN elsewhere: figures show it hollow. `formulas` holds the elements as formulas over bare numbers, of a short list in which some
    are uncertain.
    """

    data: Any
    unit: Unit | None = None
    room: Room | None = None
    exact: tuple[Fraction, ...] | None = None
    hidden: Any = None
    formulas: tuple[Formula, ...] | None = None

    def standard_errors(self) -> Any:
        """One standard uncertainty of each element (n,), 0 where it has none; None where no element has one."""
        if self.formulas is None:
            return None
        found = np.array([standard_error(f) or 0.0 for f in self.formulas])
        return found if found.any() else None


@dataclass(frozen=True, slots=True, eq=False)
class Elements:
    """The elements of a list in which some are uncertain, as the origin of a leaf that stands for it."""

    formulas: tuple[Formula, ...]


@dataclass(slots=True, eq=False)
class Room:
    """Storage that lists grown one by one share: joining an element costs no copy of those before."""

    data: Any
    used: int


@dataclass(frozen=True, slots=True)
class TextValue:
    text: str


@dataclass(frozen=True, slots=True)
class TruthValue:
    """True or false, and whether that is proven or rests on floating-point numbers.

    condition: as a formula, of which it is the truth; None for what is no comparison of numbers.
    apart: how many standard uncertainties lie between what was compared, where it is uncertain; what is so is never proven.
    """

    truth: bool
    proven: bool
    condition: Formula | None = None
    apart: float | None = None


@dataclass(frozen=True, slots=True)
class PointValue:
    items: tuple[Scalar, ...]


@dataclass(frozen=True, slots=True)
class ItemsValue:
    """A list of other things than numbers: texts, points, lists."""

    items: tuple[Value, ...]


@dataclass(frozen=True, slots=True)
class TableValue:
    """Columns of one length by name: lists of numbers, or of texts."""

    name: str
    columns: dict[str, ListValue | ItemsValue]
    source: str | None = None

    @property
    def rows(self) -> int:
        first = next(iter(self.columns.values()), None)
        return 0 if first is None else len(first.data) if isinstance(first, ListValue) else len(first.items)


@dataclass(frozen=True, slots=True, eq=False)
class FromData:
    """Where a function came from that data gave.

    spans   from where to where the data go, for each variable
    parts   what it has by name: parameters, residuals, figures of merit
    units   of the variables and of the value, as the data say them
    result  the curve or the fit
    """

    noun: str
    spans: dict[str, tuple[Formula, Formula]]
    parts: dict[str, Value]
    units: tuple[Unit | None, ...]
    unit: Unit | None
    result: Any


@dataclass(frozen=True, slots=True)
class FunctionValue:
    name: str
    parameters: tuple[str, ...]
    body: Formula
    domain: dict[str, tuple[Formula, Formula]]
    source: FromData | None = None


@dataclass(frozen=True, slots=True, eq=False)
class DefinedFunction:
    """A function given by a `define` block: it has values only. `entry` stands for it in formulas."""

    name: str
    parameters: tuple[str, ...]
    call: Any  # values → value
    entry: Any
    block: Any = field(repr=False, default=None)


@dataclass(frozen=True, slots=True)
class FoundPlace:
    value: float
    interval: tuple[str, str] | None
    evidence: Evidence
    exact: Fraction | None = None
    formula: Formula | None = None
    unit: Unit | None = None

    def standard_error(self) -> float:
        """One standard uncertainty; 0 where it has none."""
        return 0.0 if self.formula is None else standard_error(self.formula) or 0.0


@dataclass(frozen=True, slots=True)
class FindingValue:
    """What a request found: a number where it is one, a list where there are several; its parts by name.

    curve  of places where an equation holds: its left side, and the variable; that is how high they lie
    """

    noun: str
    places: tuple[FoundPlace, ...]
    parts: dict[str, tuple[FoundPlace, ...]] = field(default_factory=dict)
    curve: tuple[Formula, str] | None = None


Value = Scalar | ListValue | TextValue | TruthValue | PointValue | ItemsValue | TableValue | FunctionValue | DefinedFunction | FindingValue

GAP = Scalar(Given(float("nan"), name="gap"), float("nan"), None, None, True, gap=True)


def number_value(raw: Any) -> Scalar:
    """A number of a loop (a double, or a quotient of whole numbers) as a value."""
    if isinstance(raw, float):
        return Scalar(Given(raw), raw, None, None, False)
    exact = Fraction(int(raw.p), int(raw.q))
    return Scalar(Number(exact), as_double(exact), exact, None, True)


def as_double(exact: Fraction) -> float:
    """The nearest double, or an infinity beyond all doubles."""
    try:
        return float(exact)
    except OverflowError:
        return float("inf") if exact > 0 else float("-inf")


def raw_number(value: Value) -> Any:
    """The plain number of a value without a unit, for quick computing; None where it is none."""
    if not isinstance(value, Scalar) or value.gap or value.unit is not None:
        return None
    if value.exact is not None:
        return fmpq(value.exact.numerator, value.exact.denominator)
    return value.value


class Frame(dict[str, Any]):
    """Names with their values; inside of loops plain numbers (float, fmpq) stand for themselves. `outer` is looked at next."""

    __slots__ = ("outer",)

    def __init__(self, names: dict[str, Any] | None = None, outer: Frame | None = None) -> None:
        super().__init__(names or {})
        self.outer = outer

    def __missing__(self, name: str) -> Any:
        if self.outer is None:
            raise KeyError(name)
        return self.outer[name]

    def find(self, name: str) -> Value | None:
        """The value of a name, or None."""
        try:
            found = self[name]
        except KeyError:
            return None
        return number_value(found) if isinstance(found, float | fmpq) else found

    def has(self, name: str) -> bool:
        return name in self or (self.outer is not None and self.outer.has(name))


def grown(xs: Any, room: Room | None, more: Any) -> tuple[Any, Room]:
    """The list with elements behind it: in its own storage if that is free there, else in new storage with space to grow."""
    n, m = len(xs), len(more)
    if room is None or room.used != n or n + m > len(room.data):
        storage = np.empty(max(2 * (n + m), 16))
        storage[:n] = xs
        room = Room(storage, n)
    room.data[n : n + m] = more
    room.used = n + m
    return room.data[: n + m], room
