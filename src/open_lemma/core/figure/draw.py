"""A figure on paper: the same data give the same drawing, byte for byte, in every format."""

from __future__ import annotations

import io
import re
from dataclasses import dataclass, field
from typing import Any, Literal

import matplotlib
import numpy as np
from matplotlib.backends import backend_ps
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.backends.backend_pdf import FigureCanvasPdf
from matplotlib.backends.backend_ps import FigureCanvasPS
from matplotlib.backends.backend_svg import FigureCanvasSVG
from matplotlib.figure import Figure as Sheet
from matplotlib.mathtext import MathTextParser
from PIL import Image, TiffImagePlugin

from . import palette
from .about import About, described_svg, stamped_eps, stamped_svg
from .layout.page import lay_out
from .layout.parts import Layout, PointedBox
from .model import FigureData
from .signs import with_signs
from .space.camera import Camera
from .style import settings
from .things import PICTURE_DPI

Format = Literal["svg", "pdf", "eps", "png", "tiff"]
FORMATS: tuple[Format, ...] = ("svg", "pdf", "eps", "png", "tiff")
PX_PER_PT = 96 / 72
SCREEN_DPI = 192
EPS_DPI = 300  # its pictures are not compressed


def _box_of_font(font: Any) -> tuple[int, int, int, int]:
    """The box around all glyphs of a font, as its own table says it (OpenType 1.9, "head")."""
    head = font["head"]
    return head.xMin, head.yMin, head.xMax, head.yMax


# Matplotlib goes through all outlines of a font for it, half a second for each font of each EPS file.
backend_ps._bounds = _box_of_font


@dataclass(frozen=True, slots=True)
class PanelPlace:
    """`bounds_px`: left, top, width, height of a window on the sheet at 96 px an inch. `inset` is one inside a panel."""

    bounds_px: tuple[float, float, float, float]
    inset: bool = False
    camera: Camera | None = None  # of a window on space: lengths in px from the window's left and bottom


@dataclass(frozen=True, slots=True)
class Drawing:
    """The file, and where things stand on it: windows in the order of `FigureData.windows()`, texts and legends as boxes."""

    data: bytes
    panels: list[PanelPlace]
    boxes: list[PointedBox] = field(default_factory=list)
    height_mm: float = 0.0

    @property
    def bounds_px(self) -> tuple[float, float, float, float]:
        return self.panels[0].bounds_px


class BadText(ValueError):
    """Mathematics in a text that cannot be typeset."""


def check_text(text: str) -> None:
    """Refuse mathematics between dollar signs that the typesetter does not know."""
    if text.replace(r"\$", "").count("$") % 2:
        raise BadText("a dollar sign opens mathematics that no second one closes")
    if "$" not in text:
        return
    with matplotlib.rc_context(settings("paper")):
        for piece in re.findall(r"\$(?:\\.|[^$\\])*\$", text):
            try:
                MathTextParser("path").parse(piece, dpi=72)
            except ValueError as trouble:
                unknown = re.search(r"Unknown symbol: (\\\w+)", str(trouble))
                raise BadText(f"'{unknown.group(1)}' is not known" if unknown else f"'{piece}' cannot be read") from None


def draw(
    figure: FigureData, fmt: Format = "svg", dpi: int = 300, grey: bool = False, about: About | None = None, screen: bool = False
) -> Drawing:
    """Draw at print size.

    dpi    dots per inch of a PNG or TIFF
    grey   for print without colour: one dark ink, each series with a dash of its own, fills hatched
    about  where it comes from; written into the file
    screen for a first look: surfaces, which are pictures inside the drawing, are as fine as a screen and not as print

    The figure is left as it is. In true scale, and of a size that was not given, it gets the height that its window needs:
    `Drawing.height_mm` says how high it came out.
    """
    with matplotlib.rc_context(settings(figure.style)):
        sheet = _ready.pop() if _ready and figure.style == "paper" else _bare_sheet()
        sheet.set_facecolor(palette.PAPER)
        canvas = FigureCanvasAgg(sheet)
        typeset = with_signs(figure)
        picture = dpi if fmt in ("png", "tiff") else SCREEN_DPI if screen else EPS_DPI if fmt == "eps" else PICTURE_DPI
        layout = lay_out(sheet, canvas.get_renderer(), typeset, grey or figure.grey, fmt == "eps", picture)
        data = _written(sheet, typeset, figure.description(), fmt, dpi, about)
        return Drawing(data, _places(layout, typeset), layout.boxes, typeset.height_mm)


# Sheets made ahead. A forked child takes the one it inherits and draws on its own copy of it.
_ready: list[Any] = []


def make_ready() -> None:
    """Have a bare sheet at hand for the next drawing; it comes out the same as without."""
    with matplotlib.rc_context(settings("paper")):
        _ready.append(_bare_sheet())


def _bare_sheet() -> Any:
    sheet = Sheet(facecolor=palette.PAPER)
    sheet.add_axes((0.1, 0.1, 0.8, 0.8), label="p0")
    return sheet


def _written(sheet: Any, figure: FigureData, description: str, fmt: Format, dpi: int, about: About | None) -> bytes:
    out = io.BytesIO()
    title = figure.title or figure.name
    said = about.text() if about is not None else None
    if fmt in ("svg", "pdf", "eps"):
        sheet.set_dpi(PICTURE_DPI)  # of what is a picture inside the drawing: very many points
    if fmt == "svg":
        FigureCanvasSVG(sheet).print_svg(out, metadata={"Date": None, "Creator": "Open Lemma", "Title": title})
        drawing = described_svg(out.getvalue(), description)
        return stamped_svg(drawing, about) if about is not None else drawing
    if fmt == "pdf":
        more = {"Subject": said} if said else {}
        FigureCanvasPdf(sheet).print_pdf(
            out, metadata={"CreationDate": None, "Creator": "Open Lemma", "Producer": None, "Title": title, **more}
        )
        return out.getvalue()
    if fmt == "eps":
        FigureCanvasPS(sheet).print_eps(out, metadata={"Creator": "Open Lemma"})
        return stamped_eps(out.getvalue(), title, about)
    sheet.set_dpi(dpi)
    canvas = FigureCanvasAgg(sheet)
    if fmt == "png":
        canvas.print_png(out, metadata={"Software": None, "Title": title, **({"Description": said} if said else {})})
    else:
        canvas.draw()
        picture = Image.fromarray(np.asarray(canvas.buffer_rgba())[..., :3].copy())
        tags = TiffImagePlugin.ImageFileDirectory_v2()
        if said:
            tags[270] = said  # ImageDescription, TIFF 6.0, section 8
        picture.save(out, format="TIFF", compression="tiff_lzw", dpi=(dpi, dpi), tiffinfo=tags)
    return out.getvalue()


def _places(layout: Layout, figure: FigureData) -> list[PanelPlace]:
    """Windows on the sheet, in px from its left and top."""
    found = []
    height = figure.height_mm / 25.4 * 72
    for k, ((left, bottom, wide, high), inset) in enumerate(layout.windows):
        bounds = (left, height - bottom - high, wide, high)
        camera = layout.cameras.get(k)
        if camera is not None:
            camera = camera.scaled(camera.factor * PX_PER_PT, (camera.origin[0] * PX_PER_PT, camera.origin[1] * PX_PER_PT))
        found.append(PanelPlace(tuple(round(float(v) * PX_PER_PT, 3) for v in bounds), inset, camera))  # type: ignore[arg-type]
    return found
