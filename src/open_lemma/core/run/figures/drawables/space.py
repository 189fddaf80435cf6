"""What stands in a box of three axes; the scene builder turns it into triangles and lines."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

from ....figure.model import Floats
from ....formula.nodes import Formula
from ....language import tree
from ..surface_definition import Span, SurfaceDefinition
from .base import Drawable


@dataclass
class SpaceDrawable(Drawable):
    """One thing in space."""

    in_space = True


@dataclass
class Surface(SpaceDrawable):
    """tint, tint_names, tint_text: what colours it, in which variables, and what the colour axis says of it
    levels  a number of level lines, or an array; mesh: how many lines each way; look: places of a parametric one, (n, 3)"""

    node: tree.Request
    definition: SurfaceDefinition = field(kw_only=True)
    tint: Formula | None = None
    tint_names: tuple[str, ...] = ()
    tint_text: str | None = None
    levels: Any = None
    mesh: int | None = None
    detail: float = 1.0
    look: Floats | None = None  # type: ignore[assignment]


@dataclass
class SpacePath(SpaceDrawable):
    """A curve of places (x, y, z)(t), or given places joined by straight pieces (n, 3).

    tint, tints  what colours it: in the variable, or a number for each place (n,)"""

    places: Floats | None = None
    formulas: tuple[Formula, ...] = ()
    variable: str = ""
    range: Span = (0.0, 1.0)
    tint: Formula | None = None
    tints: Floats | None = None

    options_in_space = frozenset({"colour", "opacity", "width", "dash", "label"})


@dataclass
class SpacePoints(SpaceDrawable):
    """Places (n, 3), what their axes may say, and numbers that are shown as colours (n,)."""

    node: tree.Request
    places: Floats = field(kw_only=True)
    texts: tuple[str | None, str | None, str | None] = (None, None, None)
    tints: Floats | None = None

    options_in_space = frozenset({"colour", "opacity", "marker", "size", "label", "every"})


@dataclass
class SpaceAnnotation(SpaceDrawable):
    """A text or marks at places (n, 3)."""

    node: tree.Statement
    kind: Literal["text", "mark"] = field(kw_only=True)
    places: Floats = field(kw_only=True)
    text: str = field(kw_only=True)

    takes_ink = False
    options_in_space = frozenset({"colour", "opacity", "size", "place"})
