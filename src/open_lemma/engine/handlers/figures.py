"""Kept figures: drawn in other formats, turned, read; and where a file says that it came from."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from ...core.figure.about import about_in
from ...core.figure.draw import draw
from ...core.figure.model import from_text
from ...core.figure.space.shown import shown
from ...core.run.readings import NotRead, read
from ...core.run.record import layout_record
from ...files.figures import Wanted, figure_file, traced
from .handler import Handler, NotDone, Work


def _draw(work: Work, figure: bytes, format: str, dpi: int, grey: bool, step: float | None, about: str) -> dict[str, Any]:
    try:
        data = figure_file(from_text(figure.decode()), Wanted(format, dpi, grey, step), about_in(about))
    except NotRead as reason:
        raise NotDone("no-numbers", str(reason)) from None
    return out(work, data)


def out(work: Work, data: bytes) -> dict[str, Any]:
    """Bytes that may be many: into the file that the job has for them, else beside the event."""
    if work.out is None:
        return {"data": data}
    work.out.write(data)
    return {"size": len(data)}


def _turn(_: Work, figure: bytes, views: dict[str, list[float]]) -> dict[str, Any]:
    found = from_text(figure.decode())
    for number, window in enumerate(found.windows()):
        if str(number) in views and window.space is not None:
            window.space.azimuth, window.space.elevation = views[str(number)]
    drawing = draw(found, screen=True)
    return {"layout": layout_record(found, drawing), "svg": drawing.data}


def _read(_: Work, figure: bytes, series: str, x: float, y: float, z: float | None) -> dict[str, Any]:
    try:
        return {"reading": asdict(read(from_text(figure.decode()), series, x, y, z))}
    except NotRead as reason:
        raise NotDone("not-read", str(reason)) from None


def _scene(_: Work, figure: bytes) -> dict[str, Any]:
    return {"scene": shown(from_text(figure.decode()))}


def _origin(work: Work) -> dict[str, Any]:
    about = traced(work.file("file"))
    return {"about": None if about is None else asdict(about)}


HANDLERS: dict[str, Handler] = {"draw": _draw, "turn": _turn, "read": _read, "scene": _scene, "origin": _origin}
