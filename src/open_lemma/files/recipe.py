"""How a file is read as a table, and what was mended in it by hand: all that stands between the file and its numbers.

A recipe is plain data (`as_record`), kept beside the file and told in the record of every run that reads the table. The file
itself is never changed.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass, field
from typing import Any, Literal

Kind = Literal["number", "time", "text"]
Format = Literal["text", "xlsx", "json", "parquet"]


@dataclass
class ColumnRecipe:
    """source: what the column is called in the file. since: of a time, where it is counted from, as `hours since 2031-05-02 06:00`."""

    source: str
    name: str
    kind: Kind
    unit: str | None = None
    description: str = ""
    format: str | None = None
    since: str | None = None
    kept: bool = True


@dataclass
class Correction:
    """A cell that was given another value; `value` None makes it a gap. Rows count from 1, as in the file's data."""

    row: int
    column: str
    value: float | None


@dataclass
class Computed:
    """A column worked out from the others by a formula of the language."""

    name: str
    formula: str
    unit: str | None = None
    description: str = ""


@dataclass
class Recipe:
    """Empty fields are found out from the file.

    skip      lines before the heads
    cells     of a sheet the range, such as `B3:F40`
    excluded  rows that do not count: their numbers are gaps, and figures show them hollow
    """

    format: Format = "text"
    encoding: str = "utf-8"
    delimiter: str = ","
    decimal: str = "."
    quote: str = '"'
    comment: str | None = "#"
    header: bool = True
    skip: int = 0
    sheet: str | None = None
    sheets: list[str] = field(default_factory=list)
    cells: str | None = None
    columns: list[ColumnRecipe] = field(default_factory=list)
    corrections: list[Correction] = field(default_factory=list)
    excluded: list[int] = field(default_factory=list)
    computed: list[Computed] = field(default_factory=list)

    def as_record(self) -> dict[str, Any]:
        return asdict(self)

    @staticmethod
    def from_record(plain: dict[str, Any]) -> Recipe:
        """Raises TypeError or KeyError where it is none."""
        found = Recipe(**plain)
        found.columns = [ColumnRecipe(**c) for c in plain.get("columns", [])]
        found.corrections = [Correction(**c) for c in plain.get("corrections", [])]
        found.computed = [Computed(**c) for c in plain.get("computed", [])]
        return found

    def mending(self) -> dict[str, Any]:
        """What changes numbers: corrections, exclusions, computed columns; for the record."""
        found: dict[str, Any] = {
            "corrections": [asdict(c) for c in self.corrections],
            "excluded": list(self.excluded),
            "computed": [asdict(c) for c in self.computed],
        }
        return {k: v for k, v in found.items() if v}
