"""The record of a run: everything that came of it, as plain data for files, the store and the screen.

The same script gives the same record but for `duration_s`.
"""

from __future__ import annotations

from typing import Any

from ... import __version__
from ..figure import palette
from ..figure.draw import Drawing, PanelPlace, draw
from ..figure.model import AxisSpec, FigureData, PanelData, Series
from ..figure.space.window import solid_colour
from ..record.figures import (
    AxisRecord,
    BoxRecord,
    FigureRecord,
    LayoutRecord,
    NoteRecord,
    PanelRecord,
    SeriesRecord,
    SpaceRecord,
)
from ..record.fingerprint import fingerprint
from ..record.plain import plain
from ..record.run import SCHEMA, ReadingRecord, RunRecord
from .execute.outcome import DrawnFigure, Outcome


def figure_record(drawn: DrawnFigure, drawing: Drawing, files: dict[str, str]) -> dict[str, Any]:
    """One figure of the record, its layout as `layout_record` gives it."""
    data = drawn.data
    found: dict[str, Any] = plain(
        FigureRecord(
            name=data.name, title=data.title, line=data.line, files=files, layout=_layout(data, drawing),
            notes=[NoteRecord(line=n.line, text=n.text) for n in drawn.notes], description=data.description(), caption=data.caption,
            heading=data.heading,
            part=drawn.part,
        )
    )  # fmt: skip
    return found


def layout_record(data: FigureData, drawing: Drawing) -> dict[str, Any]:
    """Where things stand in a drawing, as plain data."""
    found: dict[str, Any] = plain(_layout(data, drawing))
    return found


def _layout(data: FigureData, drawing: Drawing) -> LayoutRecord:
    windows = list(data.windows())
    series = [
        SeriesRecord(
            id=s.id, line=s.line, kind=s.kind, label=s.label, points=int((s.y == s.y).sum()), panel=k, right=bool(s.right),
            exact=bool(s.formula), text=s.text or None, colour=_shown_colour(s),
        )
        for k, w in enumerate(windows)
        for s in w.series
    ]  # fmt: skip
    solids = [
        SeriesRecord(
            id=s.id, line=s.line, kind=s.kind, label=s.label, points=len(s.shape.vertices), panel=k, exact=bool(s.formula),
            text=s.text or None, colour=solid_colour(s),
        )
        for k, w in enumerate(windows)
        for s in (w.space.things if w.space is not None else ())
    ]  # fmt: skip
    return LayoutRecord(
        width_mm=data.width_mm, height_mm=drawing.height_mm, series=[*series, *solids],
        panels=[_panel(w, place) for w, place in zip(windows, drawing.panels, strict=True)],
        boxes=[BoxRecord(kind=b.kind, px=b.px, panel=b.panel, line=b.line, series=b.series) for b in drawing.boxes],
    )  # fmt: skip


def _panel(window: PanelData, place: PanelPlace) -> PanelRecord:
    z = space = None
    if window.space is not None and window.z is not None and place.camera is not None:
        scene, camera = window.space, place.camera
        z = _axis(window.z)
        space = SpaceRecord(
            azimuth=scene.azimuth, elevation=scene.elevation, proportions=scene.proportions, stretch=scene.stretch,
            factor=round(float(camera.factor), 4), origin=[round(float(v), 3) for v in camera.origin],
        )  # fmt: skip
    return PanelRecord(
        bounds_px=place.bounds_px, x=_axis(window.x), y=_axis(window.y), line=window.line, z=z, space=space,
        right=None if window.right is None else _axis(window.right), colours=None if window.colours is None else _axis(window.colours),
        inset=bool(place.inset), true_scale=bool(window.true_scale), title=window.title or None,
    )  # fmt: skip


def _axis(axis: AxisSpec) -> AxisRecord:
    return AxisRecord(
        low=axis.low, high=axis.high, scale=axis.scale, text=axis.text, reversed=bool(axis.reversed), dates=axis.dates or None,
        names=axis.names or None, threshold=axis.threshold if axis.scale == "signed-logarithmic" else None,
    )  # fmt: skip


def _shown_colour(series: Series) -> str:
    return series.colour or (palette.LINE if series.kind in ("rule", "text", "mark") else palette.ink(series.place).code)


def record(text: str, outcome: Outcome, figures: list[dict[str, Any]], duration_s: float) -> dict[str, Any]:
    """The record of a run as plain data; figures: records of them."""
    found: dict[str, Any] = plain(
        RunRecord(
            schema=SCHEMA,
            script_sha256=fingerprint(text),
            versions={"open-lemma": __version__},
            tables=outcome.tables,
            duration_s=round(duration_s, 4),
            findings=[f.told() for f in outcome.findings],
            figures=[],
            readings=[ReadingRecord(**r) for r in outcome.readings],
            notes=[NoteRecord(**n) for n in outcome.notes],
            messages=outcome.reading.messages.told(),
        )
    )
    return {**found, "figures": figures}


__all__ = ["SCHEMA", "draw", "figure_record", "layout_record", "record"]
