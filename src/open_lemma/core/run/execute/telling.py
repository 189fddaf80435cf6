"""Findings: numbered by their place in the text, one for all passes of a loop."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ...formula.typeset import name_tex
from ...language import tree
from ...record.findings import Finding
from ..findings import FindingDraft, over_passes
from ..proofs import held_to_its_proof
from ..trace import text_of
from ..underflow import nearer_to_zero_than_doubles
from ..values import Scalar, Value, number_value
from .state import NOTHING

if TYPE_CHECKING:
    from .interpreter import Interpreter


def tell_finding(
    run: Interpreter, told: FindingDraft, noun: str, statement: tree.Statement, name: str | None, item: tree.Expression | None = None
) -> None:
    """A finding with the number of its place; one in a loop or a call is one finding, a row for each pass."""
    if run.hidden or run.quiet:
        return
    told = held_to_its_proof(told)
    told.notes = [*told.notes, *nearer_to_zero_than_doubles(told.values)]
    several = isinstance(statement, tree.Show) and len(statement.items) > 1 and item is not None
    place: tree.Node = item if several and item is not None else statement
    number = run.numbers[place.start]
    if not (run.loops.passes or run.loops.calls):
        run.tell(_new_finding(run, number, told, noun, place, name))
        return
    finding = run.open.get(place.start)
    if finding is None:
        finding = run.open[place.start] = _new_finding(run, number, told, noun, place, name)
        finding.values, finding.notes = [], []
    finding.passes += 1
    over_passes(finding, told, finding.passes, {n: said(v) if not isinstance(v, float) else v for n, v in _at(run).items()})


def _at(run: Interpreter) -> dict[str, Any]:
    """Where the loops are, as plain values."""
    found: dict[str, Any] = {}
    for name, raw in run.loops.passes:
        if raw is NOTHING:
            continue
        value = raw if isinstance(raw, Scalar) else number_value(raw) if not isinstance(raw, Value) else raw
        found[name] = value.value if isinstance(value, Scalar) else value
    return found


def _new_finding(run: Interpreter, number: int, told: FindingDraft, noun: str, place: tree.Node, name: str | None) -> Finding:
    return Finding(
        number=number, line=run.line_of(place.start), name=name, noun=noun, statement=run.text[place.start : place.end],
        values=told.values, evidence=told.evidence, complete=told.complete, summary=told.summary, method=told.method,
        notes=told.notes, latex=told.latex, part=run.part, boxes=told.boxes, variable=told.variable,
        variable_latex=None if told.variable is None else name_tex(told.variable), variables=told.variables,
        closeups=told.closeups, strip=told.strip, fit=told.fit, certificates=told.certificates,
    )  # fmt: skip


def said(raw: Any) -> str:
    return text_of(number_value(raw) if not isinstance(raw, Value) else raw)
