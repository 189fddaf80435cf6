"""Results kept from the run before, taken over where nothing that they rest on has changed."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ...language import tree
from ..memory import Remembered
from ..values import FindingValue
from .selection import told_places

if TYPE_CHECKING:
    from .interpreter import Interpreter


def reuse(run: Interpreter, statement: tree.Statement, kept: Remembered) -> None:
    """Take over what a statement gave in the run before, at the lines and numbers that it has now."""
    first = run.line_of(statement.start)
    run.names.update(kept.names)
    if isinstance(statement, tree.Definition) and isinstance(kept.names.get(statement.name), FindingValue):
        run.finding_numbers[statement.name] = run.numbers.get(statement.start, 0)
    run.lost.difference_update(kept.names)
    if run.hidden:
        return
    for finding, (line, number) in zip(kept.findings, _places(statement, kept, first, run.numbers), strict=True):
        finding.line, finding.number, finding.part = line, number, run.part
        run.tell(finding)
    for figure in kept.figures:
        figure.data.shift(first)
        for note in figure.notes:
            note.line += first
        figure.part = run.part
        run.outcome.figures.append(figure)
        run.emit({"event": "figure", "figure": figure, "reused": True})
    run.outcome.readings += [{**r, "line": r["line"] + first} for r in kept.readings]
    for message in kept.messages:
        shift = statement.start
        run.message(message.shifted(shift))
    run.outcome.reused.append(first)


def remember(run: Interpreter, statement: tree.Statement, marks: tuple[int, int, int, int]) -> None:
    """Keep what a statement gave for the next run. marks: how many findings, figures, readings, messages there were before it."""
    assert run.memory is not None
    findings, figures, readings, messages = marks
    names = {n: run.names[n] for n in tree.defined_names(statement) if n in run.names}
    came = run.outcome.findings[findings:], run.outcome.figures[figures:], run.outcome.readings[readings:]
    said = run.reading.messages.items[messages:]
    run.memory.keep(statement, run.line_of(statement.start), _first_number(run, statement), names, *came, said)


def marked(run: Interpreter, statement: tree.Statement) -> tuple[int, ...]:
    """Numbers of the findings that a figure marks: they stand on it, and change with what stands above in the script."""
    if not isinstance(statement, tree.Figure):
        return ()
    names = [n.name for m in tree.walk(statement) if isinstance(m, tree.Marked) for n in tree.walk(m) if isinstance(n, tree.Name)]
    return tuple(run.finding_numbers.get(n, 0) for n in names)


def _first_number(run: Interpreter, statement: tree.Statement) -> int:
    places = told_places(statement)
    return run.numbers[places[0]] if places else 0


def _places(statement: tree.Statement, kept: Remembered, first: int, numbers: dict[int, int]) -> Iterator[tuple[int, int]]:
    """Line and number of the findings of a statement that were kept, as the script has them now."""
    mine = [numbers[p] for p in told_places(statement)]
    for finding in kept.findings:
        yield finding.line + first, mine[finding.number]
