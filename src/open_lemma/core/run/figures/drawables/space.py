"""Curves, points, texts and marks in a box of three axes."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np

from ....figure.model import Floats
from ....figure.space.scene import Shape, Solid
from ....formula.nodes import Formula
from ....language import tree
from ...slopes import reading
from ..surface_definition import Span
from .base import Drawable
from .colour_values import colour_values
from .content import SpaceContent, SpaceContext, extent_of, reach_in_space
from .texts import formula_text

_PATH_PLACES = 600


@dataclass
class SpaceDrawable(SpaceContent, Drawable):
    """One thing in space."""

    in_space = True


@dataclass
class PlacesInSpace(SpaceDrawable):
    """What stands at places (n, 3)."""

    @property
    def standing(self) -> Floats:
        """Its places, (n, 3)."""
        raise NotImplementedError

    def asks_for_room(self, space: SpaceContext) -> bool:
        """Whether the box is to hold it."""
        return True

    def extent(self, space: SpaceContext, k: int) -> Span | None:
        if not self.asks_for_room(space):
            return None
        return extent_of(self.standing[:, k], self.node)

    def rise(self, space: SpaceContext, floor: list[Span], given: Span | None) -> tuple[Floats | None, Span | None]:
        return (reach_in_space(self.standing[:, 2]) if self.asks_for_room(space) else None), None


@dataclass
class SpacePath(PlacesInSpace):
    """A curve of places (x, y, z)(t), or given places joined by straight pieces (n, 3).

    tint, tints  what colours it: in the variable, or a number for each place (n,)"""

    places: Floats | None = None
    formulas: tuple[Formula, ...] = ()
    variable: str = ""
    range: Span = (0.0, 1.0)
    tint: Formula | None = None
    tints: Floats | None = None

    options_in_space = frozenset({"colour", "opacity", "width", "dash", "label"})

    @cached_property
    def _followed(self) -> tuple[Floats, Floats | None]:
        """Its places, and the numbers that colour it there."""
        if self.places is not None:
            return self.places, self.tints
        places, along = _followed(self)
        return places, None if self.tint is None else colour_values(self.tint, self.variable, along)

    @property
    def standing(self) -> Floats:
        return self._followed[0]

    def colour_numbers(self, space: SpaceContext) -> Floats | None:
        return self._followed[1]

    def solids(self, name: str, space: SpaceContext) -> list[Solid]:
        look = {k: v for k, v in self.style.items() if k in ("label", "colour", "opacity", "width", "dash")}
        places, tints = self._followed
        solid = Solid(name, "path", space.line_of(self), Shape(places, tints=tints), place=space.place_of(self), **look)
        texts = [formula_text(f) for f in self.formulas]
        if texts and None not in texts:
            solid.formula, solid.variables = [t for t in texts if t is not None], [self.variable]
        return [solid]


@dataclass
class SpacePoints(PlacesInSpace):
    """Places (n, 3), what their axes may say, and numbers that are shown as colours (n,)."""

    places: Floats = field(kw_only=True)
    texts: tuple[str | None, str | None, str | None] = (None, None, None)
    tints: Floats | None = None

    options_in_space = frozenset({"colour", "opacity", "marker", "size", "label", "every"})

    @property
    def standing(self) -> Floats:
        return self.places

    @property
    def is_height(self) -> bool:  # type: ignore[override]
        """Heights against two lists; a list of points is a shape."""
        return isinstance(self.node, tree.Request) and self.node.against is not None

    def axis_text(self, k: int) -> str | None:
        return self.texts[k]

    def colour_numbers(self, space: SpaceContext) -> Floats | None:
        return self.tints

    def solids(self, name: str, space: SpaceContext) -> list[Solid]:
        look = {k: v for k, v in self.style.items() if k in ("label", "colour", "opacity", "size", "marker")}
        chosen = slice(None, None, self.style.get("every", 1))
        tints = None if self.tints is None else self.tints[chosen]
        shape = Shape(self.standing[chosen], tints=tints)
        return [Solid(name, "points", space.line_of(self), shape, place=space.place_of(self), **look)]


@dataclass
class SpaceAnnotation(PlacesInSpace):
    """A text or marks at places (n, 3)."""

    kind: Literal["text", "mark"] = "text"
    places: Floats = field(kw_only=True)
    text: str = ""

    takes_ink = False
    options_in_space = frozenset({"colour", "opacity", "size", "place"})

    @property
    def standing(self) -> Floats:
        return self.places

    def asks_for_room(self, space: SpaceContext) -> bool:
        """Marks do; a text only where there is nothing else."""
        return self.kind == "mark" or not any(t.takes_ink or getattr(t, "kind", "") == "mark" for t in space.panel.drawables)

    def solids(self, name: str, space: SpaceContext) -> list[Solid]:
        look = {k: v for k, v in self.style.items() if k in ("colour", "opacity", "size", "spot", "side")}
        return [Solid(name, self.kind, space.line_of(self), Shape(self.standing), text=self.text, **look)]


def _followed(path: SpacePath) -> tuple[Floats, Floats]:
    """Places (n, 3) of a curve in space, close enough that its pieces look straight from every side, and its variable there (n,)."""
    functions = [reading(f, [path.variable]) for f in path.formulas]

    def at(t: Floats) -> Floats:
        with np.errstate(all="ignore"):
            found = np.stack([f(t) for f in functions], axis=1)
        found[~np.isfinite(found).all(axis=1)] = np.nan
        return np.asarray(found)

    t = np.linspace(*path.range, _PATH_PLACES)
    for _ in range(7):
        places = at(t)
        good = np.asarray(np.isfinite(places).all(axis=1))
        if not good.any():
            return places, t
        size = np.maximum(np.ptp(places[good], axis=0), 1e-300)
        middle = (t[:-1] + t[1:]) / 2
        bend = np.linalg.norm((at(middle) - (places[:-1] + places[1:]) / 2) / size.max(), axis=1)
        edge = good[:-1] != good[1:]
        wanted = np.flatnonzero((np.nan_to_num(bend) > 1e-4) | edge)
        if not wanted.size or t.size > 40_000:
            break
        t = np.insert(t, wanted + 1, middle[wanted])
    return at(t), t
