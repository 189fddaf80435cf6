"""The section of a surface by a plane."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from ....figure.model import Floats, Series
from ....figure.space.scene import Shape, Solid
from ....formula.estimates import estimated, shifted
from ....formula.typeset import name_tex
from ....language import tree
from ....numerics.curves.branches import joined
from ....numerics.curves.sampling import PaperView, Sampled
from ....numerics.curves.scales import Scale
from ....numerics.surfaces.isosurface import own_boxes
from ....numerics.surfaces.sections import Plane, lifted, outline, section_of_field, section_of_sheet
from ....numerics.surfaces.sections import SectionCurve as FoundSection
from ...evaluate.refusals import refusal
from ...slopes import second
from ...undefined import measured, with_unit
from ..surface_definition import NOWHERE, Span, SurfaceDefinition
from .base import SLIVER, Drawable, FirstLook, PanelContext
from .content import SpaceContent, SpaceContext
from .contours import heights_seen

_PLANE_COVER = 0.22
_MOST_DIRECTIONS, _STEP = 8, 0.25  # uncertain numbers that are carried through, and how far each is moved in standard uncertainties


@dataclass
class Section(SpaceContent, Drawable):
    """A surface and the plane that cuts it; equation: that plane as it was given; said: in words."""

    node: tree.Request
    definition: SurfaceDefinition = field(kw_only=True)
    plane: Plane = field(kw_only=True)
    equation: tuple[float, float, float, float] = field(kw_only=True)
    said: str = field(kw_only=True)

    axes_from = "own"
    has_true_lengths = True

    def __post_init__(self) -> None:
        self._told = False

    # ------------------------------------------------------------ where it is looked for

    @cached_property
    def own_window(self) -> tuple[Any, Any] | None:
        """Of an implicit surface the part (2, 2) of the plane around its section, and along which direction all of it lies there."""
        found = own_boxes([lifted(f, self.plane) for f in self.definition.fields()])
        return None if found is None else (found[0][:2], found[1][:2])

    @cached_property
    def _plane_window(self) -> tuple[Any, bool]:
        """The part of the plane where an implicit surface without spans is cut, and whether all of the section lies there."""
        if self.own_window is None:
            where = (
                "" if self.definition.own_box() is None else f"the plane {self.said} does not meet this surface within 1000 of the origin"
            )
            raise refusal("plane-outside" if where else "nowhere", where or NOWHERE, self.node)
        window, ended = self.own_window
        room = np.where(ended, 0.05, 0.0) * np.ptp(window, axis=1)
        return np.column_stack([window[:, 0] - room, window[:, 1] + room]), bool(ended.all())

    @cached_property
    def _window_is_open(self) -> bool:
        return self.definition.what == "implicit" and any(s is None for s in self.definition.spans)

    @cached_property
    def _box(self) -> Any:
        """Where a section is looked for in the plane: the surface's spans, and as far up and down as it reaches."""
        surface = self.definition
        if surface.what == "implicit":
            return np.array([s if s is not None else (-np.inf, np.inf) for s in surface.spans])
        if surface.what == "explicit":
            z = heights_seen(surface, self.node)
            room = 0.02 * float(np.ptp(z)) or 0.5
            return np.array([*surface.spans, (float(z.min()) - room, float(z.max()) + room)])
        return np.array([[-1e9, 1e9]] * 3)

    def found(self, box: Any, window: Any = None) -> FoundSection:
        """The section within a box (3, 2), of an implicit surface without spans within a window (2, 2) of the plane."""
        surface = self.definition
        if surface.what == "parametric":
            u, v = surface.spans
            assert u is not None
            assert v is not None
            return section_of_sheet(*surface.movement(), u, v, self.plane)
        parts = [section_of_field(f, self.plane, box, self._second(k), window) for k, f in enumerate(surface.fields())]
        return parts[0] if len(parts) == 1 else _together(parts)

    def _second(self, k: int) -> Callable[..., Any] | None:
        if self.definition.what != "implicit":
            return None
        bends = second(self.definition.formulas[k], self.definition.names)
        return None if bends is None else lambda x, y, z: [b(x, y, z) for b in bends]

    @cached_property
    def _in_plane(self) -> FoundSection:
        section = self.found(self._box, self._plane_window[0] if self._window_is_open else None)
        if not len(section.flat):
            raise refusal("plane-outside", f"the plane {self.said} does not meet this surface in its window", self.node)
        return section

    # ------------------------------------------------------------ in the plane, in true lengths

    def true_window(self, k: int) -> Span:
        """The span along the plane's first or second direction that shows all of it."""
        flat = self._in_plane.flat
        flat = flat[np.isfinite(flat[:, 0])]
        sizes = np.ptp(flat, axis=0)
        # In true lengths the same room all around; else each side in its own measure.
        size = float(sizes.max()) if SLIVER < sizes[1] / max(float(sizes[0]), 1e-300) < 1 / SLIVER else float(sizes[k])
        room = 0.06 * max(size, 1e-12)
        return float(flat[:, k].min()) - room, float(flat[:, k].max()) + room

    def span(self, panel: PanelContext, scale: Scale) -> Span:
        if not self._told:
            self._told = True
            if self._window_is_open and not self._plane_window[1]:
                panel.say(self.node, "the section goes on beyond the window")
            self.say(panel, self._in_plane, self._box, self._plane_window[0] if self._window_is_open else None)
        return self.true_window(0)

    def heights(self, panel: PanelContext, x: Span, look: FirstLook | None) -> list[Floats]:
        return [np.array(self.true_window(1))]

    def own_heights(self, panel: PanelContext) -> Span:
        return self.true_window(1)

    def series(
        self, name: str, panel: PanelContext, view: PaperView, place: int, look: FirstLook | None, sampled: Sampled | None
    ) -> Series:
        flat = self._in_plane.flat
        for note in dict.fromkeys(self.definition.notes):
            panel.say(self.node, note)
        style = {"marker": "none", **self.style, "place": place}
        return Series(name, "curve", panel.line_of(self.node), flat[:, 0], flat[:, 1], **style)

    # ------------------------------------------------------------ in a box

    @property
    def names(self) -> tuple[str, str, str]:
        return self.definition.axes

    @property
    def space_notes(self) -> list[str]:
        return self.definition.told

    def extent(self, space: SpaceContext, k: int) -> Span | None:
        return self.definition.spans[k] if self.definition.what != "parametric" else None

    def solids(self, name: str, space: SpaceContext) -> list[Solid]:
        """The plane, and its line: on the surface that is cut where that is drawn, else by itself."""
        ends = outline(self.plane, space.box)
        if not len(ends):
            raise refusal("plane-outside", f"the plane {self.said} does not pass through the box", self.node)
        line, place = space.line_of(self), space.place_of(self)
        fan = [[0, k, k + 1] for k in range(1, len(ends) - 1)]
        look = {k: v for k, v in self.style.items() if k in ("label", "colour")}
        solids = [
            Solid(name, "plane", line, Shape(ends, np.tile(self.plane.normal, (len(ends), 1)), fan), place=place,
                  opacity=float(self.style.get("opacity", _PLANE_COVER)), **look)
        ]  # fmt: skip
        found = self.found(space.box)
        if len(found.space):
            look = {"colour": "#20242C", **{k: v for k, v in self.style.items() if k in ("colour", "width", "dash")}}
            solids.append(Solid(f"{name}-line", "path", line, Shape(found.space), place=place, **look))
        self.say(space.panel, found, space.box)
        return solids

    def axis_name(self, which: str) -> str | None:
        """The coordinates themselves, or lengths along the floor and up the plane."""
        normal, axes = self.plane.normal, self.definition.axes
        alone = np.flatnonzero(normal)
        if alone.size == 1:
            others = [i for i in range(3) if i != alone[0]]
            k = others[0 if which == "x" else 1]
            return self.definition.texts[k] or f"${name_tex(axes[k])}$"
        if which == "x":
            return "length along the plane's trace"
        return f"${name_tex(axes[2])}$" if normal[2] == 0 else "length up the plane"

    def say(self, panel: PanelContext, found: FoundSection, box: Any, window: Any = None) -> None:
        """How long a section is, and what it encloses, with as many digits as stood still, or as its uncertainty leaves."""
        if not len(found.flat):
            panel.say(self.node, f"the plane {self.said} does not meet this surface in the box")
            return
        of_length, of_area = self._uncertainties(box, window)
        parts = f"{found.branches} parts, together " if found.branches > 1 else ""
        length = with_unit(found.length[0], of_length, None) if of_length else measured(*found.length)
        text = f"section at {self.said}: {parts}{length} long"
        if found.area is not None:
            area = with_unit(found.area[0], of_area, None) if of_area else measured(*found.area)
            text += f", enclosing an area of {area}"
        panel.say(self.node, text + " (checked)")

    def _uncertainties(self, box: Any, window: Any) -> tuple[float, float]:
        """One standard uncertainty of the length and of the area, to first order; 0 where nothing of the surface is uncertain."""
        sources = {s.key: s for f in self.definition.formulas for n in estimated(f) for s in n.origin.sources()}
        directions = [(key, i) for key, s in sources.items() for i in range(len(s.names))]
        if not 0 < len(directions) <= _MOST_DIRECTIONS:
            return 0.0, 0.0
        squares = np.zeros(2)
        for key, i in directions:
            step = np.zeros(len(sources[key].names))
            step[i] = _STEP
            ends = []
            for way in (1, -1):
                moved = [shifted(f, {key: way * step}) for f in self.definition.formulas]
                found = replace(self, definition=replace(self.definition, formulas=moved)).found(box, window)
                ends.append((found.length[0], 0.0 if found.area is None else found.area[0]))
            squares += ((np.array(ends[0]) - np.array(ends[1])) / (2 * _STEP)) ** 2
        length, area = np.sqrt(squares)
        return float(length), float(area)


def _together(parts: list[FoundSection]) -> FoundSection:
    parts = [p for p in parts if len(p.flat)]
    closed = [p.area for p in parts if p.area is not None]
    lengths = [p.length for p in parts]
    return FoundSection(joined([p.flat for p in parts], 2), joined([p.space for p in parts], 3), sum(p.branches for p in parts),
                        sum(p.closed for p in parts), (sum(n for n, _ in lengths), sum(e for _, e in lengths)),
                        closed[0] if len(closed) == 1 else None)  # fmt: skip
