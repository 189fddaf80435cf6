"""The record of a run: everything that came of it, as plain data for files, the store and the screen.

The same script gives the same record but for `duration_s`.
"""

from __future__ import annotations

import hashlib
from typing import Any

from ... import __version__
from ..figure.draw import Drawing, draw
from .interpreter import DrawnFigure, Outcome

SCHEMA = 1


def fingerprint(text: str) -> str:
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()


def figure_record(drawn: DrawnFigure, drawing: Drawing, files: dict[str, str]) -> dict[str, Any]:
    """One figure of the record. `bounds_px` is left, top, width, height on the sheet at 96 px an inch."""
    data = drawn.data
    panel = {
        "bounds_px": list(drawing.bounds_px),
        "x": {"low": data.x.low, "high": data.x.high, "scale": data.x.scale, "text": data.x.text},
        "y": {"low": data.y.low, "high": data.y.high, "scale": data.y.scale, "text": data.y.text},
    }
    series = [{"id": s.id, "line": s.line, "kind": s.kind, "label": s.label, "points": int((s.y == s.y).sum())} for s in data.series]
    found: dict[str, Any] = {
        "name": data.name,
        "title": data.title,
        "line": data.line,
        "files": files,
        "layout": {"width_mm": data.width_mm, "height_mm": data.height_mm, "panels": [panel], "series": series},
        "notes": [{"line": n.line, "text": n.text} for n in drawn.notes],
        "description": data.description(),
    }
    if drawn.part is not None:
        found["part"] = drawn.part
    return found


def record(text: str, outcome: Outcome, figures: list[dict[str, Any]], duration_s: float) -> dict[str, Any]:
    return {
        "schema": SCHEMA,
        "script_sha256": fingerprint(text),
        "versions": {"open-lemma": __version__},
        "tables": outcome.tables,
        "duration_s": round(duration_s, 4),
        "findings": [f.as_record() for f in outcome.findings],
        "figures": figures,
        "readings": outcome.readings,
        "notes": outcome.notes,
        "messages": outcome.reading.messages.as_records(),
    }


__all__ = ["SCHEMA", "draw", "figure_record", "fingerprint", "record"]
