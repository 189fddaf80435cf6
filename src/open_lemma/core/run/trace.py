"""The walk: what happened in a run, statement by statement, with the names that each one changed.

A step is kept after its statement was carried out. The trace has room for MAX_STEPS steps; when it is full, every other
step that is no stop is merged into the one after it, and from then on only every second, fourth, … step is kept.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import numpy as np
from flint import fmpq

from ..formula.units import Unit
from ..record.notation import format_short
from ..record.plain import plain, taken_over
from ..record.walk import GoneName, SeenName, SeenValue, TraceRecord, WalkStep
from .values import (
    DefinedFunction,
    FindingValue,
    FunctionValue,
    ItemsValue,
    ListValue,
    PointValue,
    Scalar,
    TableValue,
    TextValue,
    TruthValue,
    Value,
    number_value,
)

MAX_STEPS = 4_000
MAX_SEEN = 500  # elements of a list, rows of a table that go to the screen


@dataclass(slots=True)
class Step:
    line: int
    depth: int  # calls of `define` functions that are open
    call: str  # which of them is the innermost
    note: str  # what happened, where values do not say it: a condition that failed
    changed: dict[tuple[int, str], Any]  # by depth and name
    gone: tuple[tuple[int, str], ...]  # names that ended with their block or call
    figure: str | None  # the figure that is being built, or was the last
    drawn: int  # how much of it stands
    findings: int
    stop: bool


@dataclass
class Trace:
    """stops: lines to stop at, each with a condition or None (the interpreter asks the conditions)."""

    stops: dict[int, Any] = field(default_factory=dict)
    steps: list[Step] = field(default_factory=list)
    stride: int = 1
    seen: int = 0
    pending: Step | None = None

    def add(self, step: Step) -> None:
        """Keep one step, unless there are too many."""
        self.seen += 1
        if self.pending is not None:
            step = _merged(self.pending, step)
            self.pending = None
        if self.stride > 1 and self.seen % self.stride and not step.stop:
            self.pending = step
            return
        self.steps.append(step)
        if len(self.steps) >= MAX_STEPS:
            self._thin()

    def _thin(self) -> None:
        self.stride *= 2
        kept: list[Step] = []
        waiting: Step | None = None
        for place, step in enumerate(self.steps):
            if waiting is not None:
                step = _merged(waiting, step)
                waiting = None
            if place % 2 == 0 and not step.stop and place < len(self.steps) - 1:
                waiting = step
            else:
                kept.append(step)
        self.steps = kept

    def as_record(self) -> dict[str, Any]:
        """The walk as plain data."""
        if self.pending is not None:
            self.steps.append(self.pending)
            self.pending = None
        found: dict[str, Any] = plain(TraceRecord(steps=[_step_record(s) for s in self.steps], seen=self.seen, thinned=self.stride > 1))
        return found


def _merged(first: Step, then: Step) -> Step:
    changed = {n: v for n, v in first.changed.items() if n not in then.gone} | then.changed
    gone = tuple(dict.fromkeys([n for n in first.gone if n not in then.changed] + list(then.gone)))
    return Step(then.line, then.depth, then.call, then.note, changed, gone, then.figure, then.drawn, then.findings, then.stop)


def _step_record(step: Step) -> WalkStep:
    return WalkStep(
        line=step.line, set=[named(n, seen(v), d) for (d, n), v in step.changed.items()], findings=step.findings,
        gone=[GoneName(name=n, depth=d) for d, n in step.gone], depth=step.depth, call=step.call if step.depth else None, note=step.note,
        figure=step.figure, drawn=None if step.figure is None else step.drawn, stop=step.stop,
    )  # fmt: skip


def named(name: str, value: SeenValue, depth: int | None = None) -> SeenName:
    """A value with the name that it has."""
    return SeenName(name=name, depth=depth, **taken_over(value))


def seen(raw: Any) -> SeenValue:
    """A value for the names sheet and the walk: kind, a short text, size, unit, range, and the elements of what is long."""
    value: Value = number_value(raw) if isinstance(raw, float | fmpq) else raw
    if isinstance(value, Scalar):
        return SeenValue(kind="number", text=scalar_text(value), unit=_shown_unit(value.unit))
    if isinstance(value, ListValue):
        return _list_seen(value)
    if isinstance(value, TextValue):
        return SeenValue(kind="text", text=value.text, size=len(value.text))
    if isinstance(value, TruthValue):
        return SeenValue(kind="truth", text="true" if value.truth else "false")
    if isinstance(value, PointValue):
        return SeenValue(kind="point", text=text_of(value))
    if isinstance(value, ItemsValue):
        rows = [_cells(v) for v in value.items[:MAX_SEEN]]
        head = ["element"] if not rows or len(rows[0]) == 1 else [str(k + 1) for k in range(len(rows[0]))]
        return SeenValue(kind="list", text=text_of(value), size=len(value.items), head=head, rows=rows)
    if isinstance(value, TableValue):
        return _table_seen(value)
    if isinstance(value, FindingValue):
        texts = [text_of(number) for number in (Scalar(None, p.value, p.exact, None, False) for p in value.places[:4])]  # type: ignore[arg-type]
        rows = [[repr(p.value)] for p in value.places[:MAX_SEEN]]
        text = texts[0] if len(texts) == 1 else _shortened(texts, len(value.places))
        return SeenValue(kind="finding", text=text, size=len(value.places), head=[value.noun], rows=rows)
    assert isinstance(value, FunctionValue | DefinedFunction)
    return SeenValue(kind="function", text=f"{value.name}({', '.join(value.parameters)})")


def _shown_unit(unit: Unit | None) -> str | None:
    return None if unit is None or unit.plain else str(unit)


def scalar_text(value: Scalar) -> str:
    """A number as the names sheet shows it, with its quotient where it has a short one."""
    if value.gap:
        return "gap"
    said = format_short(value.value, 12)
    exact = value.exact
    endless = exact is not None and exact != Fraction(f"{value.value:.12g}")
    if endless and exact is not None and 1 < exact.denominator <= 10_000 and abs(exact.numerator) < 10**8:
        return f"{exact.numerator}/{exact.denominator} = {said}".replace("-", "−")
    return said


def text_of(value: Any) -> str:
    """A value in a few characters."""
    if isinstance(value, Scalar):
        return "gap" if value.gap else format_short(value.value, 6)
    if isinstance(value, PointValue):
        return f"({', '.join(text_of(i) for i in value.items)})"
    if isinstance(value, TextValue):
        return f'"{value.text}"'
    if isinstance(value, ListValue):
        return _shortened([format_short(float(v), 6) if v == v else "gap" for v in value.data[:4]], len(value.data))
    if isinstance(value, ItemsValue):
        # Lists in lists are gone through once: their rows are not asked for their texts.
        return _shortened([text_of(v) for v in value.items[:4]], len(value.items))
    return seen(value).text


def _shortened(texts: list[str], count: int) -> str:
    return f"[{', '.join(texts)}{', …' if count > len(texts) else ''}]"


def _list_seen(value: ListValue) -> SeenValue:
    data = value.data
    known = len(data) > 0 and not np.isnan(data).all()
    return SeenValue(
        kind="list", text=text_of(value), size=len(data), head=["element"], rows=[[_cell(v)] for v in data[:MAX_SEEN].tolist()],
        low=float(np.nanmin(data)) if known else None, high=float(np.nanmax(data)) if known else None, unit=_shown_unit(value.unit),
    )  # fmt: skip


def _cell(value: float) -> str:
    if value != value:
        return "gap"
    return repr(int(value)) if float(value).is_integer() and abs(value) < 1e15 else repr(value)


def _cells(value: Value) -> list[str]:
    if isinstance(value, PointValue):
        return [_cell(i.value) for i in value.items]
    if isinstance(value, ListValue):
        return [_cell(v) for v in value.data[:50].tolist()]
    return [value.text] if isinstance(value, TextValue) else [text_of(value)]


def _table_seen(table: TableValue) -> SeenValue:
    heads, columns = [], []
    for name, column in table.columns.items():
        unit = column.unit if isinstance(column, ListValue) else None
        heads.append(f"{name} [{unit}]" if unit is not None and not unit.plain else name)
        listed = column.data[:MAX_SEEN].tolist() if isinstance(column, ListValue) else column.items[:MAX_SEEN]
        columns.append([_cell(v) if isinstance(v, float) else _cells(v)[0] for v in listed])
    rows = [list(r) for r in zip(*columns, strict=True)]
    return SeenValue(kind="table", text=f"{table.rows} rows, {len(heads)} columns", size=table.rows, head=heads, rows=rows)


def csv_rows(value: Any) -> tuple[list[str], list[list[str]]]:
    """All of a list or table as text cells: heads and rows."""
    if isinstance(value, TableValue):
        heads = list(value.columns)
        columns = [c.data.tolist() if isinstance(c, ListValue) else list(c.items) for c in value.columns.values()]
        return heads, [[_cell(v) if isinstance(v, float) else _cells(v)[0] for v in row] for row in zip(*columns, strict=True)]
    if isinstance(value, ListValue):
        return ["element"], [[_cell(v)] for v in value.data.tolist()]
    if isinstance(value, ItemsValue):
        rows = [_cells(v) for v in value.items]
        return [str(k + 1) for k in range(max((len(r) for r in rows), default=1))], rows
    if isinstance(value, FindingValue):
        return [value.noun], [[repr(p.value)] for p in value.places]
    return ["value"], [[text_of(value)]]
