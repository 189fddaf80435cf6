"""What is asked of a script without running it: messages, edits, names, what may come next."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from ...core.editing.actions import apply_actions, read_action
from ...core.editing.changes import NotInked, renamed
from ...core.editing.description import describe
from ...core.editing.uses import columns_used
from ...core.formula.catalogue import BUILTINS
from ...core.language.intent.next_steps import next_steps
from ...core.language.messages import edit_record
from ...core.language.source import Source
from ...core.record.plain import plain
from ...core.run.execute.interpreter import read
from .handler import Handler, NotDone, Work


def inked(script: str, actions: list[Any]) -> tuple[str, list[dict[str, Any]]]:
    """The script with what was done by hand, and the edits; raises NotDone where it cannot be written."""
    try:
        changed, edits = apply_actions(script, [read_action(a["do"], a["line"], a["more"]) for a in actions], BUILTINS)
    except NotInked as reason:
        raise NotDone("not-inked", str(reason)) from None
    source = Source(script)
    return changed, [plain(edit_record(e, source)) for e in edits]


def _check(_: Work, script: str) -> dict[str, Any]:
    return {"messages": read(script)[0].messages.as_records()}


def _edits(_: Work, script: str, actions: list[Any]) -> dict[str, Any]:
    changed, edits = inked(script, actions)
    return {"edits": edits, "script": changed}


def _describe(_: Work, script: str, line: int, window: int, figure: int) -> dict[str, Any]:
    return {"described": asdict(describe(script, BUILTINS, line, window, figure))}


def _rename(_: Work, script: str, line: int, column: int, name: str) -> dict[str, Any]:
    reading = read(script)[0]
    if not 1 <= line <= reading.source.line_count:
        raise NotDone("no-name", "there is no such line")
    offset = reading.source.line_start(line) + column - 1
    protected = frozenset(n for n in BUILTINS.names() if BUILTINS.is_protected(n))
    try:
        edits = renamed(reading, offset, name, protected)
    except NotInked as reason:
        raise NotDone("not-renamed", str(reason)) from None
    return {"edits": [plain(edit_record(e, reading.source)) for e in edits]}


def _next(_: Work, script: str) -> dict[str, Any]:
    return {"lines": next_steps(script, BUILTINS)}


def _uses(_: Work, script: str) -> dict[str, Any]:
    used = columns_used(script, BUILTINS)
    return {"uses": {name: None if columns is None else sorted(columns) for name, columns in used.items()}}


HANDLERS: dict[str, Handler] = {
    "check": _check, "edits": _edits, "describe": _describe, "rename": _rename, "next": _next, "uses": _uses,
}  # fmt: skip
