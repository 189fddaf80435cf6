"""A surface as formulas: a height over two variables, places of two parameters, or an equation in three variables."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np

from ...formula.nodes import Formula
from ...numerics.interpolation.surfaces import outlines
from ...numerics.surfaces.isosurface import ImplicitField, own_boxes
from ...numerics.surfaces.meetings import LevelFace, SheetFace, TangentFace
from ...numerics.surfaces.sheets import Sheet, first_look
from ..slopes import Reading, reading, slope

Span = tuple[float, float]
What = Literal["explicit", "parametric", "implicit"]
NOWHERE = "no place within 1000 of the origin fulfils this equation"


@dataclass
class SurfaceDefinition:
    """A surface as formulas.

    formulas   explicit: the height; parametric: three coordinates; implicit: what is zero, factor by factor
    names      of the variables; spans: of each, None where it is to be chosen
    axes       what the three coordinates of space are called, and what their axes may say
    """

    what: What
    formulas: list[Formula]
    names: tuple[str, ...]
    spans: list[Span | None]
    axes: tuple[str, str, str]
    texts: tuple[str | None, str | None, str | None]
    notes: list[str] = field(default_factory=list)
    outline: bool = False  # drawn only within the outline of the points it goes through

    @property
    def known_spans(self) -> list[Span]:
        """The spans that are known."""
        return [s for s in self.spans if s is not None]

    @property
    def window(self) -> Any:
        """The box (3, 2) that its spans leave, infinite where they say nothing."""
        spans = self.spans if self.what != "parametric" else []
        found = [s if s is not None else (-np.inf, np.inf) for s in spans]
        return np.array([*found, *[(-np.inf, np.inf)] * (3 - len(found))])

    @property
    def told(self) -> list[str]:
        """What is to be said of it, each once."""
        beyond = ["drawn within the outline of the points; beyond it would be extrapolation"] if self.outline else []
        return [*dict.fromkeys(self.notes), *beyond]

    def sheet(self, spans: Sequence[Span]) -> Sheet:
        """An explicit or parametric surface over its two spans."""
        if self.what == "explicit":
            h, hx, hy = self.height, *(slope(self.formulas[0], self.names, n) for n in self.names)
            return Sheet(lambda x, y: (x, y, h(x, y)), lambda x, y: (-hx(x, y), -hy(x, y), np.ones_like(x)), spans[0], spans[1])
        places, slopes = self.movement()

        def normal(u: Any, v: Any) -> Any:
            parts = slopes(u, v)
            return np.cross(np.stack(parts[:3], axis=-1), np.stack(parts[3:], axis=-1)).T

        return Sheet(lambda u, v: tuple(places(u, v)), normal, spans[0], spans[1])

    def _drawn(self, formula: Formula) -> Reading:
        values = reading(formula, self.names)
        plates = outlines(formula) if self.what == "explicit" else []
        if not plates:
            return values
        self.outline = True

        def within(x: Any, y: Any) -> Any:
            found = np.array(values(x, y))
            for plate in plates:
                found[~plate.inside(x, y)] = np.nan
            return found

        return within

    @property
    def height(self) -> Reading:
        """Of an explicit surface."""
        return self._drawn(self.formulas[0])

    def fields(self) -> list[ImplicitField]:
        """Functions of space that are zero on the surface: of an implicit one, or of an explicit one (z - h)."""
        if self.what == "implicit":
            return [field_of(f, self.names) for f in self.formulas]
        assert self.what == "explicit"
        h = self.height
        hx, hy = (slope(self.formulas[0], self.names, n) for n in self.names)
        return [ImplicitField(lambda x, y, z: z - h(x, y), lambda x, y, z: (-hx(x, y), -hy(x, y), np.ones_like(z)))]

    def own_box(self) -> tuple[Any, Any] | None:
        """Of an implicit surface the box (3, 2) around it, and along which axes all of it lies there; None where it is nowhere."""
        return own_boxes(self.fields())

    def first_look(self, count: int) -> Any:
        """Places (count, count, 3) on a first grid, of a surface whose spans are known."""
        return first_look(self.sheet(self.known_spans), count)[2]

    def face(self) -> TangentFace:
        """The surface as its tangent planes."""
        if self.what != "parametric":
            return LevelFace(self.fields())
        places, slopes = self.movement()

        def stacked(parts: Any, u: Any) -> Any:
            return np.stack([np.broadcast_to(np.asarray(p, dtype=float), np.shape(u)) for p in parts], axis=1)

        def tangents(u: Any, v: Any) -> Any:
            parts = slopes(u, v)
            return stacked(parts[:3], u), stacked(parts[3:], u)

        return SheetFace(lambda u, v: stacked(places(u, v), u), tangents)

    def movement(self) -> tuple[Callable[..., list[Any]], Callable[..., list[Any]]]:
        """Of a parametric surface its three coordinates, and their six derivatives: along the first variable, then the second."""
        places = [reading(f, self.names) for f in self.formulas]
        slopes = [slope(f, self.names, n) for n in self.names for f in self.formulas]
        return lambda u, v: [p(u, v) for p in places], lambda u, v: [s(u, v) for s in slopes]


def field_of(formula: Formula, names: Sequence[str]) -> ImplicitField:
    """A formula of three variables with its slopes, as a function of space."""
    slopes = [slope(formula, names, n) for n in names]
    return ImplicitField(reading(formula, names), lambda x, y, z: tuple(s(x, y, z) for s in slopes))
