"""The record of a run: everything that came of it, as plain data for files, the store and the screen.

The same script gives the same record but for `duration_s`.
"""

from __future__ import annotations

import hashlib
from typing import Any

from ... import __version__
from ..figure import palette
from ..figure.draw import Drawing, PanelPlace, draw
from ..figure.model import AxisSpec, FigureData, PanelData, Series
from ..figure.space.window import solid_colour
from .interpreter import DrawnFigure, Outcome

SCHEMA = 1


def fingerprint(text: str) -> str:
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()


def figure_record(drawn: DrawnFigure, drawing: Drawing, files: dict[str, str]) -> dict[str, Any]:
    """One figure of the record, its layout as `layout_record` gives it."""
    data = drawn.data
    found: dict[str, Any] = {
        "name": data.name,
        "title": data.title,
        "line": data.line,
        "files": files,
        "layout": layout_record(data, drawing),
        "notes": [{"line": n.line, "text": n.text} for n in drawn.notes],
        "description": data.description(),
    }
    if data.caption is not None:
        found["caption"] = data.caption
    if drawn.part is not None:
        found["part"] = drawn.part
    return found


def layout_record(data: FigureData, drawing: Drawing) -> dict[str, Any]:
    """Where things stand in a drawing. Pixels are at 96 an inch, from the left and top of the sheet.

    panels   windows in order, each followed by its insets; `bounds_px` is left, top, width, height; `space` of a window on
             space: from where it is seen, the box's proportions, and px per unit of these and the box's middle from the
             window's left and bottom
    series   what is drawn, with the number of its window; `exact` says that a reading of it is one of the function itself
    boxes    texts, legends, axes and badges, for pointing at
    """
    windows = list(data.windows())
    panels = [_panel(w, place) for w, place in zip(windows, drawing.panels, strict=True)]
    series = [
        {
            "id": s.id, "line": s.line, "kind": s.kind, "label": s.label, "points": int((s.y == s.y).sum()), "panel": k,
            **({"right": True} if s.right else {}), **({"exact": True} if s.formula else {}), **({"text": s.text} if s.text else {}),
            "colour": _shown_colour(s),
        }
        for k, w in enumerate(windows)
        for s in w.series
    ]  # fmt: skip
    series += [
        {
            "id": s.id, "line": s.line, "kind": s.kind, "label": s.label, "points": len(s.shape.vertices), "panel": k,
            **({"exact": True} if s.formula else {}), **({"text": s.text} if s.text else {}), "colour": solid_colour(s),
        }
        for k, w in enumerate(windows)
        for s in (w.space.things if w.space is not None else ())
    ]  # fmt: skip
    return {
        "width_mm": data.width_mm, "height_mm": drawing.height_mm, "panels": panels, "series": series,
        "boxes": [{"kind": b.kind, "px": list(b.px), "panel": b.panel, "line": b.line, "series": b.series} for b in drawing.boxes],
    }  # fmt: skip


def _panel(window: PanelData, place: PanelPlace) -> dict[str, Any]:
    found: dict[str, Any] = {"bounds_px": list(place.bounds_px), "x": _axis(window.x), "y": _axis(window.y), "line": window.line}
    for key, axis in (("right", window.right), ("colours", window.colours)):
        if axis is not None:
            found[key] = _axis(axis)
    if window.space is not None and window.z is not None and place.camera is not None:
        scene, camera = window.space, place.camera
        found["z"] = _axis(window.z)
        found["space"] = {
            "azimuth": scene.azimuth, "elevation": scene.elevation, "proportions": scene.proportions, "stretch": scene.stretch,
            "factor": round(float(camera.factor), 4), "origin": [round(float(v), 3) for v in camera.origin],
        }  # fmt: skip
    more = {"inset": place.inset, "true_scale": window.true_scale}
    return {**found, **{k: True for k, v in more.items() if v}, **({"title": window.title} if window.title else {})}


def _axis(axis: AxisSpec) -> dict[str, Any]:
    more = {"reversed": axis.reversed, "dates": axis.dates, "names": axis.names}
    threshold = {"threshold": axis.threshold} if axis.scale == "signed-logarithmic" else {}
    return {
        "low": axis.low, "high": axis.high, "scale": axis.scale, "text": axis.text, **threshold, **{k: v for k, v in more.items() if v},
    }  # fmt: skip


def _shown_colour(series: Series) -> str:
    return series.colour or (palette.LINE if series.kind in ("rule", "text", "mark") else palette.ink(series.place).code)


def record(text: str, outcome: Outcome, figures: list[dict[str, Any]], duration_s: float) -> dict[str, Any]:
    """The record of a run as plain data; figures: records of them."""
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


__all__ = ["SCHEMA", "draw", "figure_record", "fingerprint", "layout_record", "record"]
