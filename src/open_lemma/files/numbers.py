"""The numbers behind a figure as open formats: CSV (RFC 4180) and Office Open XML (.xlsx, ISO/IEC 29500)."""

from __future__ import annotations

import csv
import io
import re
import zipfile
from datetime import datetime
from typing import Any

import numpy as np
from openpyxl import Workbook
from openpyxl.styles import Font

from ..core.figure.about import About
from ..core.figure.model import FigureData, PanelData, Series, marked, plain
from ..core.figure.space.scene import Solid
from ..core.run.readings import NotRead, height_grid, regular
from .guarding import for_workbook, guarded

Column = tuple[str, list[float | str | None]]
_FIXED = datetime(1980, 1, 1)  # the earliest date that the container can hold: files carry no time of their making


def columns_of(figure: FigureData, step: float | None = None) -> list[Column]:
    """Two or more columns for each drawn thing: as it was sampled, or, for curves of functions, on a regular step.

    Raises NotRead where a step was asked for and no curve has a formula behind it.
    """
    found: list[Column] = []
    for panel in figure.windows():
        for series in panel.series:
            if series.kind in ("rule", "text"):
                continue
            if step is None:
                found += _sampled(panel, series)
            elif series.formula:
                found += _regular(panel, series, step)
        for solid in panel.space.things if panel.space is not None else ():
            found += _in_space(panel, solid, step)
    if not found:
        raise NotRead("no curve of this figure has a formula behind it" if step is not None else "the figure holds no numbers")
    return found


def _in_space(panel: PanelData, solid: Solid, step: float | None) -> list[Column]:
    """Of a height over two variables a grid: a column of x, then a column of heights for each y. Of all else its places."""
    if solid.kind not in ("surface", "path", "points", "mark"):
        return []
    name = plain(solid.label) or {"mark": marked(solid.text)}.get(solid.kind, solid.id)
    axes = [plain(a.text) or w for a, w in zip((panel.x, panel.y, panel.z), "xyz", strict=True) if a is not None]
    if solid.what == "explicit":
        xs, ys, heights = height_grid(solid, step)
        return [(f"{name}: {axes[0]}", _plain_values(xs))] + [
            (f"{name}: {axes[2]} at {axes[1]} = {y:.9g}", _plain_values(row)) for y, row in zip(ys, heights.T, strict=True)
        ]
    return [(f"{name}: {axis}", _plain_values(v)) for axis, v in zip(axes, solid.shape.vertices.T, strict=True)]


def _name(series: Series) -> str:
    return plain(series.label) or {"mark": marked(series.text)}.get(series.kind, series.id)


def _axis(panel: PanelData, series: Series, which: str) -> str:
    spec = panel.x if which == "x" else panel.right if series.right and panel.right is not None else panel.y
    return plain(spec.text) or which


def _plain_values(values: Any) -> list[float | str | None]:
    return [float(v) if v == v else None for v in np.asarray(values, dtype=float).tolist()]


def _sampled(panel: PanelData, series: Series) -> list[Column]:
    name = _name(series)
    across = _axis(panel, series, "x")
    named = panel.x.names is not None and series.kind == "bars"
    xs: list[float | str | None] = list(panel.x.names or []) if named else _plain_values(series.x)
    found: list[Column] = [(f"{name}: {across}", xs), (f"{name}: {_axis(panel, series, 'y')}", _plain_values(series.y))]
    tints = "height" if series.kind == "contours" else "colour"
    more = (("other edge", series.y2), ("uncertainty of x", series.ex), ("uncertainty", series.ey), (tints, series.tints))
    for label, values in more:
        if values is not None:
            found.append((f"{name}: {label}", _plain_values(values)))
    return found


def _regular(panel: PanelData, series: Series, step: float) -> list[Column]:
    x, values = regular(series, step)
    name = _name(series)
    if series.span is not None:
        heads = [str(series.variable), _axis(panel, series, "x"), _axis(panel, series, "y")]
    else:
        heads = [_axis(panel, series, "x"), _axis(panel, series, "y"), "other edge"]
    return [(f"{name}: {head}", _plain_values(v)) for head, v in zip(heads, (x, *values), strict=False)]


def as_csv(columns: list[Column]) -> bytes:
    """One row of heads, then numbers as shortest texts that read back as the same doubles; missing values are empty."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([guarded(head) for head, _ in columns])
    for row in range(max(len(values) for _, values in columns)):
        writer.writerow([_cell(values[row]) if row < len(values) else "" for _, values in columns])
    return out.getvalue().encode()


def _cell(value: float | str | None) -> str:
    if value is None:
        return ""
    return guarded(value) if isinstance(value, str) else repr(value)


def as_xlsx(columns: list[Column], title: str, about: About | None = None) -> bytes:
    """A workbook of one sheet; the same numbers give the same bytes."""
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    title = for_workbook(title)
    sheet.title = re.sub(r"[\\/*?:\[\]]", " ", title)[:31] or "figure"
    for k, (head, values) in enumerate(columns, 1):
        head = for_workbook(head)
        cell = sheet.cell(1, k, head)
        cell.data_type = "s"
        cell.font = Font(bold=True)
        sheet.column_dimensions[cell.column_letter].width = min(max(len(head) + 2, 14), 40)
        for row, value in enumerate(values, 2):
            if value is not None:
                if isinstance(value, str):
                    sheet.cell(row, k, for_workbook(value)).data_type = "s"
                else:
                    sheet.cell(row, k, value)
    sheet.freeze_panes = "A2"
    book.properties.creator = "Open Lemma"
    book.properties.title = title
    book.properties.created = book.properties.modified = _FIXED
    if about is not None:
        book.properties.description = for_workbook(about.text())
    out = io.BytesIO()
    book.save(out)
    return _without_times(out.getvalue())


def _without_times(data: bytes) -> bytes:
    """The same archive with all its times at one fixed moment."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for entry in sorted(old.namelist()):
            content = old.read(entry)
            if entry == "docProps/core.xml":
                content = re.sub(rb"(<dcterms:modified[^>]*>)[^<]*", rb"\g<1>1980-01-01T00:00:00Z", content)
            info = zipfile.ZipInfo(entry, (1980, 1, 1, 0, 0, 0))
            info.compress_type = zipfile.ZIP_DEFLATED
            info.external_attr = 0o600 << 16
            new.writestr(info, content)
    return out.getvalue()
