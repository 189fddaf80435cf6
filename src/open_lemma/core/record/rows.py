"""The rows of findings: one class for each shape.

Numbers are full doubles. Intervals are text, two decimals that hold the number, so that no digit is lost; `digits` are texts too, of which
every digit is certain. `standard_error` is one standard uncertainty of the main field: the place of roots and crossings, the value else.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

from .plain import Json, named, plain, spread

Evidence = Literal["proven", "checked", "open"]
Interval = tuple[str, str]
Shape = Literal[
    "value", "check", "formula", "roots", "crossings", "extrema", "lowest", "solutions", "points", "spans", "family", "table",
    "fit", "comparison", "interpolation",
]  # fmt: skip


@dataclass(frozen=True, kw_only=True, slots=True)
class Row:
    """What a row of any shape may have.

    of    which function of a list, from 1, where a list stands in the place of the function
    units of the fields that have one, by their names; `errors`: standard uncertainties of those that rest on uncertain numbers
    pass  which pass of the loops, from 1, and `at`: where these were
    extrapolated  whether its place lies beyond the data that the formula rests on
    """

    shape: ClassVar[Shape]

    evidence: Evidence | None = None
    of: int | None = None
    units: dict[str, str] | None = None
    errors: dict[str, float] | None = None
    number_of_pass: int | None = named("pass")
    at: dict[str, Json] | None = None
    extrapolated: bool = False

    def as_record(self) -> dict[str, Json]:
        """The row as plain data, as record.json has it."""
        found: dict[str, Json] = plain(self)
        return found


@dataclass(frozen=True, kw_only=True, slots=True)
class ValueRow(Row):
    """A value: a number, a text, true or false, a list of these; null for a gap. `length` of lists, of which only the first are kept;
    `standard_errors` of their elements where these are uncertain."""

    shape: ClassVar[Shape] = "value"

    value: Json
    exact: str | list[str] | None = None
    interval: Interval | None = None
    unit: str | None = None
    standard_error: float | None = None
    standard_errors: list[float] | None = None
    length: int | None = None
    digits: dict[str, str] | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class LimitRow(ValueRow):
    """A limit, or one from one side; where it is infinite, or is none, the value is null."""

    limit: Literal["infinity", "-infinity"] | None = None
    side: Literal["left", "right"] | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class CheckRow(Row):
    """Whether a check holds."""

    shape: ClassVar[Shape] = "check"

    passed: bool


@dataclass(frozen=True, kw_only=True, slots=True)
class FormulaRow(Row):
    """A formula as mathematics and as text of the language."""

    shape: ClassVar[Shape] = "formula"

    latex: str
    text: str


@dataclass(frozen=True, kw_only=True, slots=True)
class RootRow(Row):
    """A zero, or where two curves meet. `residual`: the formula at x, in doubles."""

    shape: ClassVar[Shape] = "roots"

    x: float
    value: float
    interval: Interval
    kind: str
    multiplicity: int | None
    residual: float
    exact: str | None = None
    at_end: bool = False
    doubt: str = ""
    standard_error: float | None = None
    digits: dict[str, str] | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class CrossingRow(RootRow):
    """Where two curves meet: `value` is the height there."""

    shape: ClassVar[Shape] = "crossings"


@dataclass(frozen=True, kw_only=True, slots=True)
class StretchRow(Row):
    """A span throughout which a formula is zero."""

    shape: ClassVar[Shape] = "roots"

    x: float
    x_high: float
    value: float
    kind: str


@dataclass(frozen=True, kw_only=True, slots=True)
class ExtremumRow(Row):
    """A minimum, a maximum, an inflection, or a place of the lowest or highest value."""

    shape: ClassVar[Shape] = "extrema"

    x: float
    value: float
    interval: Interval
    value_interval: Interval
    kind: Literal["local", "global", "end", "inflection"]
    what: str | None = None
    how: str | None = named("shape")  # turn, kink, jump, edge, stretch, end
    exact: str | None = None
    at_end: bool = False
    overall: bool = False
    x_high: float | None = None
    digits: dict[str, str] | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class LowestRow(ExtremumRow):
    """A place where the lowest (highest) value of all is taken."""

    shape: ClassVar[Shape] = "lowest"


@dataclass(frozen=True, kw_only=True, slots=True)
class SolutionRow(Row):
    """A solution: the value of each unknown under its name, or text where letters are left."""

    shape: ClassVar[Shape] = "solutions"

    place: dict[str, float | str] = spread("the unknowns by their names")
    exact: str | dict[str, str] | None = None
    interval: Interval | None = None
    intervals: dict[str, Interval] | None = None
    kind: str | None = None
    multiplicity: int | None = None
    residual: float | None = None
    x_high: float | None = None
    at_end: bool = False
    doubt: str = ""
    standard_error: float | None = None
    digits: dict[str, str] | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class PlaceRow(Row):
    """A place in several variables, under their names, with the value there. An interval that is not known is null."""

    shape: ClassVar[Shape] = "points"

    place: dict[str, float] = spread("the variables by their names")
    intervals: dict[str, Interval | None]
    value: float | None = None
    value_interval: Interval | None = None
    kind: str | None = None
    what: str | None = None
    border: str = ""
    at_end: bool = False
    overall: bool = False


@dataclass(frozen=True, kw_only=True, slots=True)
class SpanRow(Row):
    """A span in which an inequality holds; an end that is null is infinite. `low_belongs`: whether it holds at the end itself."""

    shape: ClassVar[Shape] = "spans"

    low: float | None
    low_belongs: bool
    high: float | None
    high_belongs: bool
    kind: Literal["span"]
    low_interval: Interval | None = None
    low_exact: str | None = None
    high_interval: Interval | None = None
    high_exact: str | None = None
    digits: dict[str, str | None] | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class FamilyRow(Row):
    """Infinitely many solutions, as algebra writes them."""

    shape: ClassVar[Shape] = "family"

    family: str


@dataclass(frozen=True, kw_only=True, slots=True)
class TableRow(Row):
    """A row of a table: its cells under the names of the columns."""

    shape: ClassVar[Shape] = "table"

    cells: dict[str, Json] = spread("the columns by their names")


# ---------------------------------------------------------------- data


@dataclass(frozen=True, kw_only=True, slots=True)
class ParameterRow:
    """A parameter of a fit with its 95 % interval, an end of which is null where the data set none. `profile`: places along the
    interval, and how far the sum of squares has risen there."""

    name: str
    value: float
    standard_error: float | None
    low: float | None
    high: float | None
    interval: Interval | None = None
    unit: str | None = None
    at_limit: bool = False
    profile: list[tuple[float, float]] | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class OtherMinimum:
    """Another minimum of the sum of squares. `suspect`: with a pole or a jump between the points."""

    values: dict[str, float | None]
    residual_sum_of_squares: float | None
    hits: int
    suspect: bool


@dataclass(frozen=True, kw_only=True, slots=True)
class Influence:
    """The row that carries a fit: its Cook's distance and its leverage."""

    row: int
    distance: float | None
    leverage: float | None


@dataclass(frozen=True, kw_only=True, slots=True)
class ResidualPattern:
    """What the residuals show of order: probabilities that chance does as much, and words where one is small."""

    runs_chance: float | None
    neighbours: float | None
    neighbours_chance: float | None
    spread_chance: float | None
    bend_chance: float | None
    words: list[str]


@dataclass(frozen=True, kw_only=True, slots=True)
class FitRow(Row):
    """A fit: its parameters and how well it does."""

    shape: ClassVar[Shape] = "fit"

    parameters: list[ParameterRow]
    residual_sum_of_squares: float | None
    residual_standard_deviation: float | None
    degrees_of_freedom: int
    r_squared: float | None
    adjusted_r_squared: float | None
    aicc: float | None
    points: int
    starts_tried: int
    starts_agreed: int
    screened: int
    steepness: float | None
    pattern: ResidualPattern
    reduced_chi_square: float | None = None
    chance: float | None = None
    least_within_limits: bool | None = None
    boxes: int | None = None
    correlation: list[list[float | None]] | None = None
    rivals: list[OtherMinimum] | None = None
    influence: Influence | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class ComparisonRow(Row):
    """A fit beside others of the same data. `left_out`: root mean square of what is predicted for points that were left out."""

    shape: ClassVar[Shape] = "comparison"

    fit: str
    parameters: int
    spread: float | None
    adjusted_r_squared: float | None
    aicc: float | None
    left_out: float | None
    difference: float | None
    reduced_chi_square: float | None = None
    against: str | None = None
    chance: float | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class InterpolationRow(Row):
    """A curve through points. `continuous`: how many derivatives are so at the knots."""

    shape: ClassVar[Shape] = "interpolation"

    points: int
    pieces: int
    low: float
    high: float
    kind: str
    continuous: int
    smoothing: float | None = None
    worth: float | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class SurfaceRow(Row):
    """A surface through points, with the span of each variable."""

    shape: ClassVar[Shape] = "interpolation"

    points: int
    kind: str
    low: list[float]
    high: list[float]


ROWS: tuple[type[Row], ...] = (
    ValueRow, LimitRow, CheckRow, FormulaRow, RootRow, CrossingRow, StretchRow, ExtremumRow, LowestRow, SolutionRow, PlaceRow,
    SpanRow, FamilyRow, TableRow, FitRow, ComparisonRow, InterpolationRow, SurfaceRow,
)  # fmt: skip
