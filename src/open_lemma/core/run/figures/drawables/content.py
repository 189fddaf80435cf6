"""What a thing that stands in a box of three axes can be asked, and what it knows of that box."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Protocol

import numpy as np

from ....figure.model import AxisSpec, Floats
from ....figure.space.scene import Solid
from ....language import tree
from ....numerics.surfaces.mesh import Mesh
from ...evaluate.refusals import refusal
from ..surface_definition import Span
from .base import Drawable, PanelContext

PRINT_PT = 0.036  # how far a triangle may lie from its surface: a third of a dot at 600 an inch
LEVELS = 10
DEFAULT_NAMES = ("x", "y", "z")


class SpaceContext(Protocol):
    """The box around a thing, as far as it is known when a thing is asked.

    box      three spans, (3, 2); scale: points on paper for one unit along each axis, (3,), about
    colours  the scale of colours
    meshes   triangles of the surfaces that were worked out, by the identity of the surface
    """

    box: Floats
    scale: Floats
    colours: AxisSpec | None
    meshes: dict[int, Mesh]

    @property
    def panel(self) -> PanelContext: ...

    @property
    def contents(self) -> Sequence[SpaceContent]: ...

    def line_of(self, thing: Drawable) -> int: ...
    def place_of(self, thing: Drawable) -> int: ...
    def scale_for(self, box: Floats) -> Floats: ...


class SpaceContent:
    """What a thing in space can be asked, in this order: its spans, how far it reaches, its triangles, its colours, its solids.

    is_height  it is a height over the floor, which has a scale of its own; is_shape: it is a shape, which is seen in true scale
    """

    is_height: ClassVar[bool] = False
    is_shape: ClassVar[bool] = False
    lies_below: ClassVar[bool] = False  # it needs room under the things

    @property
    def names(self) -> tuple[str, str, str] | None:
        """What it calls the three axes."""
        return None

    def axis_text(self, k: int) -> str | None:
        """What it says of an axis: quantity and unit."""
        return None

    @property
    def space_notes(self) -> list[str]:
        """What is to be said of it when all is built."""
        return []

    def extent(self, space: SpaceContext, k: int) -> Span | None:
        """Along x (0) or y (1), with a little room around what is no surface. Raises Refused where there is nothing."""
        return None

    def rise(self, space: SpaceContext, floor: list[Span], given: Span | None) -> tuple[Floats | None, Span | None]:
        """Heights that the box should hold, or a span of its own; given: the span that the script says. Raises Refused."""
        return None, None

    def work_out(self, space: SpaceContext) -> None:
        """Its triangles in the box, where it has any. Raises Refused."""

    def colour_numbers(self, space: SpaceContext) -> Floats | None:
        """Numbers (n,) that its colours show."""
        return None

    def coloured_by_height(self, space: SpaceContext) -> Floats | None:
        """Heights (n,) that its colours show, where they show heights; none of its own where it takes those of the box."""
        return None

    def solids(self, name: str, space: SpaceContext) -> list[Solid]:
        """What is drawn. Raises Refused."""
        raise NotImplementedError


def extent_of(values: Floats, node: tree.Node) -> Span:
    """The span of coordinates (n,) with a little room around it. Raises Refused where there are none."""
    values = reach_in_space(values)
    if not values.size:
        raise refusal("nowhere-defined", "this has no value anywhere in its span", node)
    room = 0.03 * float(np.ptp(values))
    return float(values.min()) - room, float(values.max()) + room


def reach_in_space(values: Floats, endless: bool = False) -> Floats:
    """The values that a box should hold: all, or without the few that run off far beyond the rest. endless: that some do is known."""
    good = values[np.isfinite(values)]
    if good.size < 16:
        return good
    low, high = np.quantile(good, [0.05, 0.95])
    spread = max(float(high - low), 1e-300)
    # What runs off without end is cut; a narrow peak of finite height stays whole.
    if not endless and float(np.abs(good).max()) < 20 * max(abs(low), abs(high), spread):
        return good
    return np.asarray(good[(good >= low - 0.4 * spread) & (good <= high + 0.4 * spread)])
