"""How a file is read as a table, and what was mended in it by hand: all that stands between the file and its numbers.

A recipe is plain data (`as_record`), kept beside the file and told in the record of every run that reads the table. The file
itself is never changed.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass, field
from functools import cache
from typing import Any, Literal

from pydantic import ConfigDict, TypeAdapter

Kind = Literal["number", "time", "text"]
Format = Literal["text", "xlsx", "json", "parquet"]


class _Typed:
    """What comes from outside has these fields and no others."""

    __pydantic_config__ = ConfigDict(extra="forbid")


@dataclass
class ColumnRecipe(_Typed):
    """How one column is read.

    source     what it is called in the file
    since      of a time, where it is counted from, as `hours since 2031-05-02 06:00`
    carries    the unit that each cell bears behind its number
    uncertain  cells say their standard uncertainty: `2.50±0.05`, `2.50(5)`
    gaps       numbers that stand for no value
    """

    source: str
    name: str
    kind: Kind
    unit: str | None = None
    description: str = ""
    format: str | None = None
    since: str | None = None
    kept: bool = True
    carries: str | None = None
    uncertain: bool = False
    gaps: list[float] = field(default_factory=list)


@dataclass
class Doubt(_Typed):
    """What may be read otherwise, in a sentence.

    key     the same for the same doubt; in `Recipe.settled` once somebody has decided
    column  the source of the column that is meant
    other   what a button for the other reading says, and `change` what it changes in the recipe, or in that column's; or nothing
    """

    key: str
    text: str
    column: str | None = None
    other: str = ""
    change: dict[str, Any] = field(default_factory=dict)


@dataclass
class Correction(_Typed):
    """A cell that was given another value; `value` None makes it a gap. Rows count from 1, as in the file's data."""

    row: int
    column: str
    value: float | None


@dataclass
class Computed(_Typed):
    """A column worked out from the others by a formula of the language."""

    name: str
    formula: str
    unit: str | None = None
    description: str = ""


@dataclass
class Recipe(_Typed):
    """Empty fields are found out from the file.

    skip      lines before the heads
    units_row the line under the heads holds units
    cells     of a sheet the range, such as `B3:F40`
    excluded  rows that do not count: their numbers are gaps, and figures show them hollow
    doubts    what may be read otherwise, found when the file was read
    settled   keys of doubts that somebody has decided
    """

    format: Format = "text"
    encoding: str = "utf-8"
    delimiter: str = ","
    decimal: str = "."
    quote: str = '"'
    comment: str | None = "#"
    header: bool = True
    skip: int = 0
    units_row: bool = False
    sheet: str | None = None
    sheets: list[str] = field(default_factory=list)
    cells: str | None = None
    columns: list[ColumnRecipe] = field(default_factory=list)
    corrections: list[Correction] = field(default_factory=list)
    excluded: list[int] = field(default_factory=list)
    computed: list[Computed] = field(default_factory=list)
    doubts: list[Doubt] = field(default_factory=list)
    settled: list[str] = field(default_factory=list)

    def as_record(self) -> dict[str, Any]:
        return asdict(self)

    @staticmethod
    def from_record(plain: Any) -> Recipe:
        """Raises ValueError where it is none, with the place of what is wrong."""
        return _recipes().validate_python(plain)

    def open_doubts(self) -> list[Doubt]:
        """Those that nobody has decided."""
        return [d for d in self.doubts if d.key not in self.settled]

    def reading(self) -> dict[str, Any]:
        """How the file is read, for the record: only what its format uses."""
        found: dict[str, Any] = {"format": self.format}
        if self.format == "text":
            found |= {
                "encoding": self.encoding, "delimiter": self.delimiter, "decimal": self.decimal, "header": self.header, "skip": self.skip,
                "units_row": self.units_row,
            }  # fmt: skip
        elif self.format == "xlsx":
            found |= {"sheet": self.sheet, "cells": self.cells, "units_row": self.units_row}
        columns = [
            {k: v for k, v in asdict(c).items() if k not in ("kept", "description") and v not in (None, False, [])}
            for c in self.columns
            if c.kept
        ]
        return found | {"columns": columns}

    def mending(self) -> dict[str, Any]:
        """What changes numbers: corrections, exclusions, computed columns; for the record."""
        found: dict[str, Any] = {
            "corrections": [asdict(c) for c in self.corrections],
            "excluded": list(self.excluded),
            "computed": [asdict(c) for c in self.computed],
        }
        return {k: v for k, v in found.items() if v}


@cache
def _recipes() -> TypeAdapter[Recipe]:
    return TypeAdapter(Recipe)
