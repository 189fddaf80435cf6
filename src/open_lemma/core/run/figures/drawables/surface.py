"""Surfaces: heights over two variables, places of two parameters, equations in three variables."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from ....figure.model import Floats
from ....figure.space.scene import Shape, Solid
from ....formula.nodes import Formula
from ....language import tree
from ....language.messages import Refused, advise
from ....numerics.surfaces.isosurface import isosurface
from ....numerics.surfaces.mesh import Mesh, boxed, clipped, empty_mesh, together
from ....numerics.surfaces.sheets import Sheet, first_look, sheet_mesh
from ....record.notation import format_short
from ...evaluate.refusals import refusal
from ...slopes import reading
from ..levels import levels_between
from ..surface_definition import Span, SurfaceDefinition
from .content import LEVELS, PRINT_PT, SpaceContext, extent_of, reach_in_space
from .space import SpaceDrawable
from .texts import formula_text

_SCREEN_PT = 0.5
_SCREEN_TRIANGLES = 14_000


@dataclass
class Surface(SpaceDrawable):
    """tint, tint_names, tint_text: what colours it, in which variables, and what the colour axis says of it
    levels  a number of level lines, or an array; mesh: how many lines each way"""

    node: tree.Request
    definition: SurfaceDefinition = field(kw_only=True)
    tint: Formula | None = None
    tint_names: tuple[str, ...] = ()
    tint_text: str | None = None
    levels: Any = None
    mesh: int | None = None
    detail: float = 1.0

    @property
    def is_height(self) -> bool:  # type: ignore[override]
        return self.definition.what == "explicit"

    @property
    def is_shape(self) -> bool:  # type: ignore[override]
        return self.definition.what != "explicit"

    @property
    def names(self) -> tuple[str, str, str]:
        return self.definition.axes

    def axis_text(self, k: int) -> str | None:
        return self.definition.texts[k]

    @property
    def space_notes(self) -> list[str]:
        return self.definition.told

    # ------------------------------------------------------------ how far it reaches

    @cached_property
    def _looked(self) -> Floats:
        """Places of a parametric surface on a first grid, (n, 3)."""
        return np.asarray(first_look(self.definition.sheet(self.definition.known_spans))[2].reshape(-1, 3))

    def extent(self, space: SpaceContext, k: int) -> Span | None:
        if self.definition.what != "parametric":
            return self.definition.spans[k]
        return extent_of(self._looked[:, k], self.node)

    def rise(self, space: SpaceContext, floor: list[Span], given: Span | None) -> tuple[Floats | None, Span | None]:
        if self.definition.what == "explicit":
            return self._heights(space, floor, given), None
        if self.definition.what == "parametric":
            return reach_in_space(self._looked[:, 2]), None
        return None, self.definition.spans[2]

    def _heights(self, space: SpaceContext, floor: list[Span], given: Span | None) -> Floats:
        """Heights that the box should hold, from the first grid and then from the finer one, which finds the peaks."""
        sheet = self.definition.sheet(self._within(floor))
        us, vs, look = first_look(sheet)
        ends = _finite_ends(sheet, us, vs, look[..., 2])
        # A narrow peak of finite height is seen whole; what grows without bound is cut in proportion to the rest.
        heights = look[..., 2]
        seen = reach_in_space(heights.ravel(), True) if ends is None else np.concatenate([heights[np.isfinite(heights)], ends])
        if not seen.size:
            raise refusal("nowhere-defined", "this has no value anywhere in its window", self.node)
        low, high = (float(seen.min()), float(seen.max())) if given is None else given
        if low == high:
            low, high = low - 0.5, high + 0.5
        room = 0.3 * (high - low) if given is None else 0.0
        box = np.array([*floor, (low - room, high + room)])
        mesh = sheet_mesh(sheet, space.scale_for(box), PRINT_PT / self.detail, box=box)
        space.meshes[id(self)] = mesh
        return seen if ends is None or mesh.empty else np.concatenate([seen, mesh.vertices[:, 2]])

    def _within(self, floor: list[Span]) -> list[Span]:
        spans = []
        for own, window in zip(self.definition.spans[:2], floor, strict=True):
            assert own is not None
            low, high = max(own[0], window[0]), min(own[1], window[1])
            if not low < high:
                text = f"this surface runs from {format_short(own[0])} to {format_short(own[1])}, outside the window of the axis"
                raise refusal("outside-window", text, self.node)
            spans.append((low, high))
        return spans

    # ------------------------------------------------------------ its triangles

    def work_out(self, space: SpaceContext) -> None:
        box, definition, tolerance = space.box, self.definition, PRINT_PT / self.detail
        if definition.what == "implicit":
            spans = np.array([(max(own[0], b[0]), min(own[1], b[1])) for own, b in zip(definition.spans, box, strict=True)])  # type: ignore[index]
            mesh = self._implicit(spans, space.scale, tolerance)
        elif definition.what == "explicit":
            whole = space.meshes[id(self)]
            mesh = whole if whole.empty else clipped(clipped(whole, 2, box[2, 1], True), 2, box[2, 0], False)
            if space.panel.given("z") is None:
                self._say_cut(whole, box)
        else:
            mesh = boxed(sheet_mesh(definition.sheet(definition.known_spans), space.scale, tolerance), box)
        if mesh.empty:
            raise refusal("nowhere", "nothing of this surface lies in the box", self.node)
        space.meshes[id(self)] = mesh

    def _implicit(self, box: Floats, scale: Floats, tolerance: float) -> Mesh:
        meshes = []
        touching = False
        for f in self.definition.fields():
            found = isosurface(f, box, scale, tolerance)
            touching |= found.touching
            if not found.mesh.empty:
                meshes.append(found.mesh)
            if found.false_parts:
                self.definition.notes.append("where the formula has a pole or no value there is no surface; it ends there")
        if not meshes:
            raise touching_refusal(self) if touching else refusal("nowhere", "no place in the box fulfils this equation", self.node)
        return together(meshes)

    def _say_cut(self, mesh: Mesh, box: Floats) -> None:
        if mesh.empty:
            return
        z = mesh.vertices[:, 2]
        room = 1e-6 * (box[2, 1] - box[2, 0])
        sides = [w for w, out in (("below", (z < box[2, 0] - room).any()), ("above", (z > box[2, 1] + room).any())) if out]
        if sides:
            ends = " and ".join(format_short(float(box[2, int(w == "above")]), 4) for w in sides)
            self.definition.notes.append(f"grows far beyond the rest; cut {' and '.join(sides)} at {ends}")

    # ------------------------------------------------------------ its colours

    def is_scaled(self, space: SpaceContext) -> bool:
        """Whether its colours show numbers: those that are said, else heights where it is alone and no colour is said."""
        if self.tint is not None:
            return True
        return "colour" not in self.style and sum(isinstance(t, Surface) for t in space.contents) == 1

    def _tints(self, mesh: Mesh) -> Floats | None:
        if self.tint is None:
            return None
        at: dict[str, Any] = dict(zip(self.definition.axes, mesh.vertices.T, strict=True))
        if self.definition.what == "parametric" and mesh.params is not None:
            at |= dict(zip(self.definition.names, mesh.params.T, strict=True))
        with np.errstate(all="ignore"):
            values = reading(self.tint, self.tint_names)(*(at[n] for n in self.tint_names))
        return np.array(np.broadcast_to(values, len(mesh.vertices)), dtype=float)

    def colour_numbers(self, space: SpaceContext) -> Floats | None:
        return self._tints(space.meshes[id(self)])

    def coloured_by_height(self, space: SpaceContext) -> Floats | None:
        return space.meshes[id(self)].vertices[:, 2] if self.is_scaled(space) else None

    # ------------------------------------------------------------ what is drawn

    def solids(self, name: str, space: SpaceContext) -> list[Solid]:
        mesh, scaled = space.meshes[id(self)], self.is_scaled(space)
        style = {k: v for k, v in self.style.items() if k in ("label", "colour", "opacity")}
        what = self.definition.what
        shape = _shape(mesh, self._tints(mesh))
        solid = Solid(name, "surface", space.line_of(self), shape, place=space.place_of(self), scaled=scaled, what=what, **style)
        solid.coarse = self._coarse(mesh, space.scale)
        low, high = float(mesh.vertices[:, 2].min()), float(mesh.vertices[:, 2].max())
        if scaled and space.colours is not None:
            low, high = space.colours.low, space.colours.high
        bare = self.style.get("fill") is False
        if bare:
            solid.opacity = 0.0
        solid.levels = levels_between(self.levels, low, high) if self.levels is not None else None
        solid.banded = bool(self.style.get("fill")) and scaled
        if solid.levels is None and (solid.banded or (bare and self.mesh is None)):
            solid.levels = levels_between(LEVELS, low, high)
        if self.mesh is not None and mesh.params is not None:
            ends = mesh.params.min(axis=0), mesh.params.max(axis=0)
            solid.mesh = [np.linspace(a, b, self.mesh + 2)[1:-1].tolist() for a, b in zip(*ends, strict=True)]
        texts = [formula_text(f) for f in self.definition.formulas]
        if None not in texts:
            solid.formula, solid.variables = [t for t in texts if t is not None], list(self.definition.names)
        return [solid]

    def _coarse(self, mesh: Mesh, scale: Floats) -> Shape | None:
        """The same in so few triangles that a screen turns it fluidly."""
        if len(mesh.triangles) <= _SCREEN_TRIANGLES:
            return None
        definition = self.definition
        box = np.column_stack([mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)])
        if definition.what == "implicit":
            within = np.array(definition.known_spans)
            parts = [isosurface(f, within, scale, _SCREEN_PT, most=_SCREEN_TRIANGLES, cells=36).mesh for f in definition.fields()]
            parts = [boxed(p, box) for p in parts if not p.empty]
            coarse = together(parts) if parts else empty_mesh()
        else:
            assert mesh.params is not None
            spans = [(float(a), float(b)) for a, b in zip(mesh.params.min(axis=0), mesh.params.max(axis=0), strict=True)]
            coarse = boxed(sheet_mesh(definition.sheet(spans), scale, _SCREEN_PT, most=_SCREEN_TRIANGLES), box)
        return None if coarse.empty else _shape(coarse, self._tints(coarse))


def touching_refusal(surface: Surface) -> Refused:
    """What is said of an equation whose two sides only touch."""
    text = "this comes to zero without changing its sign, so there is no surface to be found"
    return refusal("no-sign-change", text, surface.node, advise("if it is a square, draw what is squared"))


def _shape(mesh: Mesh, tints: Floats | None) -> Shape:
    return Shape(mesh.vertices, mesh.normals, mesh.triangles, mesh.params, None if tints is None else np.nan_to_num(tints))


def _finite_ends(sheet: Sheet, us: Floats, vs: Floats, heights: Floats) -> Floats | None:
    """The lowest and the highest height, looked at ever more closely; None where one of them grows without bound."""
    good = np.isfinite(heights)
    if not good.any():
        return None
    ends = []
    for sign in (-1.0, 1.0):
        i, j = np.unravel_index(int(np.argmax(np.where(good, sign * heights, -np.inf))), heights.shape)
        middle, steps = np.array([us[i], vs[j]]), np.array([us[1] - us[0], vs[1] - vs[0]])
        best = float(sign * heights[i, j])
        grown = range_ = 0.0
        for _ in range(4):
            sides = [np.clip(np.linspace(m - h, m + h, 33), s[0], s[-1]) for m, h, s in zip(middle, steps, (us, vs), strict=True)]
            u, v = (a.ravel() for a in np.meshgrid(*sides, indexing="ij"))
            near = sign * sheet.at(u, v)[:, 2]
            if not np.isfinite(near).any():
                break
            k = int(np.nanargmax(near))
            range_ = float(np.ptp(near[np.isfinite(near)]))
            grown = max(float(near[k]) - best, 0.0)
            best, middle, steps = max(best, float(near[k])), np.array([u[k], v[k]]), steps / 12
        usual = float(np.ptp(np.quantile(heights[good], [0.05, 0.95])))
        rising = grown > 0.03 * max(usual, 1e-12 * abs(best)) and grown > 1e-3 * abs(best)
        # Far above the rest, and not level even there: the place itself lay next to a pole.
        steep = abs(best) > 3 * usual and range_ > 0.05 * max(usual, 1e-3 * abs(best))
        if rising or steep:
            return None
        ends.append(sign * best)
    return np.array(ends)
