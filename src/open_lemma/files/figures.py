"""A figure in each of its formats, and back: where an exported file came from."""

from __future__ import annotations

import io
import json
import re
import warnings
import zipfile
from dataclasses import dataclass

from PIL import Image

from ..core.figure.about import About, about_in
from ..core.figure.draw import FORMATS, draw
from ..core.figure.model import FigureData
from .numbers import as_csv, as_xlsx, columns_of
from .solids import MESHES, as_geojson, as_mesh


@dataclass(frozen=True, slots=True)
class Wanted:
    """format  one of TYPES, or "columns", the numbers as JSON for whoever makes a table of them
    dpi     of pictures
    grey    without colour
    step    of curves in tables, None for their samples
    """

    format: str = "svg"
    dpi: int = 300
    grey: bool = False
    step: float | None = None


def figure_file(figure: FigureData, wanted: Wanted, about: About | None = None) -> bytes:
    """The figure as the bytes of a file. Raises NotRead where a table was asked for that there is none of."""
    if wanted.format in FORMATS:
        return draw(figure, wanted.format, wanted.dpi, wanted.grey, about).data
    if wanted.format == "columns":
        return json.dumps(columns_of(figure, wanted.step)).encode()
    if wanted.format == "csv":
        return as_csv(columns_of(figure, wanted.step))
    if wanted.format == "xlsx":
        return as_xlsx(columns_of(figure, wanted.step), figure.title or figure.name, about)
    if wanted.format in MESHES:
        return as_mesh(figure, wanted.format, about)
    if wanted.format == "geojson":
        return as_geojson(figure, about)
    if wanted.format == "tex":
        return latex(figure, about).encode()
    if wanted.format == "txt":
        return (figure.description() + "\n").encode()
    raise ValueError(wanted.format)


def latex(figure: FigureData, about: About | None = None) -> str:
    """A figure environment for LaTeX at print width, with caption, label and, as a comment, the alternative text."""
    caption = _escaped(figure.caption or figure.title or figure.name)
    lines = [f"% {about.text()}"] if about is not None else []
    lines += [f"% {line}" for line in figure.description().splitlines()]
    lines += [
        r"\begin{figure}",
        r"  \centering",
        rf"  \includegraphics[width={figure.width_mm:g}mm]{{{figure.name}.pdf}}",
        rf"  \caption{{{caption}}}",
        rf"  \label{{fig:{figure.name.replace('_', '-')}}}",
        r"\end{figure}",
    ]
    return "\n".join(lines) + "\n"


_SPECIAL = {"&": r"\&", "%": r"\%", "#": r"\#", "_": r"\_", "{": r"\{", "}": r"\}", "~": r"\textasciitilde{}", "^": r"\textasciicircum{}",
            "\\": r"\textbackslash{}"}  # fmt: skip


def _escaped(text: str) -> str:
    """Text with LaTeX's own signs escaped; mathematics between dollar signs stays."""
    pieces = re.split(r"(\$(?:\\.|[^$\\])*\$)", text)
    return "".join(p if p.startswith("$") and len(p) > 1 else "".join(_SPECIAL.get(c, c) for c in p) for p in pieces)


def traced(data: bytes) -> About | None:
    """Where a file says that it came from; None where it says nothing.

    Read from the metadata of SVG, PDF, EPS, PNG, TIFF, .xlsx, triangles and level lines as this program writes them.
    """
    if data[:8] == b"\x89PNG\r\n\x1a\n" or data[:4] in (b"II*\x00", b"MM\x00*"):
        try:
            # What a broken picture has to say of itself is no matter: either it holds the words or it does not.
            with warnings.catch_warnings(action="ignore"), Image.open(io.BytesIO(data)) as picture:
                said = [str(v) for v in picture.info.values()]
                tags = getattr(picture, "tag_v2", None)
                if tags is not None:
                    said.append(str(tags.get(270, "")))
        except (OSError, ValueError, SyntaxError):
            return None
        return about_in(" ".join(said))
    if data[:2] == b"PK":
        try:
            with zipfile.ZipFile(io.BytesIO(data)) as book:
                return about_in(book.read("docProps/core.xml")[:100_000].decode("utf-8", "replace"))
        except (zipfile.BadZipFile, KeyError, OSError):
            return None
    return about_in(data.decode("latin-1"))
