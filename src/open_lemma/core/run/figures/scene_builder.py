"""A window on space: its box is chosen, surfaces become triangles in it, and what was chosen is said."""

from __future__ import annotations

from collections.abc import Callable
from itertools import combinations
from typing import TYPE_CHECKING, Any

import numpy as np
from matplotlib.ticker import MaxNLocator

from ...figure.model import POINTS_PER_MM, AxisSpec, Floats, LegendSpec, PanelData
from ...figure.palette import LINE as MEETING
from ...figure.space.scene import DEFAULT_AZIMUTH, DEFAULT_ELEVATION, Scene, Shape, Solid
from ...formula.typeset import name_tex
from ...language import tree
from ...language.messages import Refused, advise
from ...numerics.branches import joined
from ...numerics.surfaces.isosurface import isosurface
from ...numerics.surfaces.meetings import meeting
from ...numerics.surfaces.mesh import Mesh, boxed, clipped, empty_mesh, together
from ...numerics.surfaces.sections import outline
from ...numerics.surfaces.sheets import Sheet, first_look, sheet_mesh
from ..evaluate.refusals import refusal
from ..slopes import reading
from ..undefined import format_short, measured
from .drawables.annotations import Mark
from .drawables.base import Drawable
from .drawables.contours import Contours
from .drawables.section import Section
from .drawables.space import SpaceAnnotation, SpacePath, SpacePoints, Surface
from .drawables.texts import formula_text
from .drawables.tints import tint_values
from .levels import level_lines, levels_between
from .surface_definition import NOWHERE, Span
from .surface_requests import SpaceCollector

if TYPE_CHECKING:
    from .panel import PanelBuilder

_PRINT_PT = 0.036  # how far a triangle may lie from its surface: a third of a dot at 600 an inch
_SCREEN_PT = 0.5
_SCREEN_TRIANGLES = 14_000
_SHARE = 0.62  # of the sheet that the box takes, about
_HEIGHT = 0.62  # of the box's mean side, where heights have a scale of their own
_LEVELS = 10
_UNDER = 0.45
_PLANE_COVER = 0.22
_PATH_PLACES = 600


class SceneBuilder:
    """Works for a panel builder that holds things in space."""

    def __init__(self, panel: PanelBuilder) -> None:
        self.panel = panel
        for thing in panel.drawables:
            if not (thing.in_space or isinstance(thing, Contours | Section | Mark)):
                raise refusal(
                    "plane-in-space", "this lies in the plane, and the figure is one in space", thing.node,
                    advise("give it a third coordinate, or a panel of its own"),
                )  # fmt: skip
            self._known_options(thing)
        if "right" in panel.axes:
            raise refusal("space-axis", "a figure in space has no right axis", panel.axes.said["right"], advise("z axis"))
        for which in ("x", "y", "z"):
            if panel.scale(which) != "linear":
                raise refusal(
                    "space-axis", "axes in space are linear", panel.axes.said[which], advise("draw the logarithm: log10(h(x, y))")
                )
            if (minor := panel.axes.option(which, "minor")) is not None:
                raise refusal("option-not-here", "axes in space have no small ticks", minor, advise("leave it out"))
        if panel.insets:
            raise refusal("space-inset", "an inset stands in the plane, not in space", panel.insets[0].inset)
        self.surfaces = [(n, t) for n, t in panel.named.items() if isinstance(t, Surface)]
        self.meshes: dict[int, Mesh] = {}

    def _known_options(self, thing: Drawable) -> None:
        """What says nothing in space is refused there, so that nobody waits for what it does."""
        for option in getattr(thing.node, "options", ()):
            if thing.options_in_space is not None and option.name not in thing.options_in_space:
                text = f"in space this has no option '{option.name}'"
                raise refusal("option-not-here", text, option, advise(", ".join(sorted(thing.options_in_space))))

    # ------------------------------------------------------------ the whole

    def build(self) -> PanelData:
        """The window with its box and all that stands in it. Raises Refused."""
        panel = self.panel
        floor = self._floor()
        heights, meshes = self._heights(floor)
        box = np.array([*floor, heights])
        true_scale = self._true_scale(box)
        proportions = self._proportions(box, true_scale)
        self.scale = self._paper(box, proportions)
        self._meshes(box, meshes)
        names = self._names()
        specs = [panel.axis_spec(which, float(low), float(high), self._text(which, k, names))
                 for k, (which, (low, high)) in enumerate(zip("xyz", box, strict=True))]  # fmt: skip
        scene = Scene(*self._view(), [float(p) for p in proportions], [], self._stretch(box, proportions, true_scale))
        colours = self._colours(box)
        for name, thing in panel.named.items():
            scene.things += self._solids(name, thing, box, colours)
        scene.things += self._meetings()
        data = PanelData(
            specs[0], specs[1], [], panel.title, gridlines="major" if panel.gridlines != "none" else None, frame=panel.frame,
            line=panel.line, z=specs[2], space=scene,
        )  # fmt: skip
        data.colours = colours
        data.legend = self._legend()
        self._say_all(box, scene)
        return data

    def _legend(self) -> LegendSpec | None:
        return self.panel.legend_spec()

    # ------------------------------------------------------------ the box

    def _floor(self) -> list[Span]:
        """Spans of the two level coordinates: given, or so that all is seen."""
        panel = self.panel
        for thing in panel.drawables:
            if isinstance(thing, Surface):
                SpaceCollector(panel.scope, panel.notes.text, lambda *_: {}).choose_spans(thing.definition)
                if thing.definition.what == "implicit" and any(s is None for s in thing.definition.spans):
                    self._own_box(thing)
        found: list[Span] = []
        for k, which in enumerate("xy"):
            given = panel.given(which)
            spans = [s for t in panel.drawables if (s := self._extent(t, k)) is not None]
            if given is not None:
                found.append(given)
            elif spans:
                low, high = min(s[0] for s in spans), max(s[1] for s in spans)
                found.append((low, high) if low < high else (low - 0.5, high + 0.5))
            else:
                found.append((-1.0, 1.0))
        return found

    def _own_box(self, surface: Surface) -> None:
        definition = surface.definition
        found = definition.own_box()
        if found is None:
            if any(isosurface(f, np.array([[-5.0, 5.0]] * 3), np.ones(3), 1.0).touching for f in definition.fields()):
                raise _touching(surface)
            raise refusal("nowhere", NOWHERE, surface.node)
        box, closed = found
        for k, name in enumerate(definition.names):
            if definition.spans[k] is None:
                low, high = (float(v) for v in box[k])
                if not closed[k]:
                    low, high = self._with_planes(k, low, high)
                room = 0.04 * (high - low) if closed[k] else 0.0
                definition.spans[k] = low, high = _tidied(low - room, high + room)
                why = "all of it that was found lies there" if closed[k] else "it goes on beyond"
                definition.notes.append(f"window for {name} chosen: {format_short(low)} to {format_short(high)}, {why}")

    def _with_planes(self, k: int, low: float, high: float) -> Span:
        """A span along an axis, wide enough for the closed sections that were asked for, and for the planes across it."""
        room = 0.2 * (high - low)
        for cut in self.panel.drawables:
            if not isinstance(cut, Section):
                continue
            found = cut.own_window if cut.definition.what == "implicit" else None
            if found is not None and found[1].all():
                reach = cut.plane.place(*np.meshgrid(*found[0]))[k]
                low, high = min(low, float(reach.min()) - 0.3 * room), max(high, float(reach.max()) + 0.3 * room)
            if abs(cut.plane.normal[k]) == 1:
                at = float(cut.plane.offset * cut.plane.normal[k])
                low, high = (at - room if at <= low else low), (at + room if at >= high else high)
        return low, high

    def _extent(self, thing: Drawable, k: int) -> Span | None:
        """Of a thing along x (0) or y (1), with a little room around what is no surface."""
        if isinstance(thing, Surface | Contours | Section):
            if thing.definition.what != "parametric":
                return thing.definition.spans[k]
            if not isinstance(thing, Surface):
                return None
            values = self._looked(thing)[:, k]
        elif isinstance(thing, SpacePath):
            values = self._path(thing)[:, k]
        elif isinstance(thing, SpacePoints) or (isinstance(thing, SpaceAnnotation) and self._asks_for_room(thing)):
            values = thing.places[:, k]
        else:
            return None
        values = _reach(values)
        if not values.size:
            raise refusal("nowhere-defined", "this has no value anywhere in its span", thing.node)
        room = 0.03 * float(np.ptp(values))
        return float(values.min()) - room, float(values.max()) + room

    def _looked(self, surface: Surface) -> Floats:
        """Places of a parametric surface on a first grid, (n, 3)."""
        if surface.look is None:
            spans = [s for s in surface.definition.spans if s is not None]
            surface.look = np.asarray(first_look(surface.definition.sheet(spans))[2].reshape(-1, 3))
        return surface.look

    def _asks_for_room(self, thing: SpaceAnnotation) -> bool:
        """Marks do; a text only where there is nothing else."""
        return thing.kind == "mark" or not any(t.takes_ink or getattr(t, "kind", "") == "mark" for t in self.panel.drawables)

    def _path(self, path: SpacePath) -> Floats:
        if path.places is None:
            path.places, along = _followed(path)
            if path.tint is not None:
                path.tints = tint_values(path.tint, path.variable, along)
        return path.places

    def _heights(self, floor: list[Span]) -> tuple[Span, dict[int, Mesh]]:
        """The third span: given, or what the things reach; surfaces over the floor are worked out on the way."""
        panel = self.panel
        given = panel.given("z")
        meshes: dict[int, Mesh] = {}
        values: list[Floats] = []
        fixed: list[Span] = []
        for k, thing in enumerate(panel.drawables):
            if isinstance(thing, Surface) and thing.definition.what == "explicit":
                values.append(self._explicit_heights(thing, k, floor, given, meshes))
            elif isinstance(thing, Surface) and thing.definition.what == "parametric":
                values.append(_reach(self._looked(thing)[:, 2]))
            elif isinstance(thing, Surface):
                span = thing.definition.spans[2]
                assert span is not None
                fixed.append(span)
            elif isinstance(thing, SpacePath):
                values.append(_reach(self._path(thing)[:, 2]))
            elif isinstance(thing, SpacePoints) or (isinstance(thing, SpaceAnnotation) and self._asks_for_room(thing)):
                values.append(_reach(thing.places[:, 2]))
        if given is not None:
            return given, meshes
        values = [v for v in values if v.size]
        lows = [float(v.min()) for v in values] + [s[0] for s in fixed]
        highs = [float(v.max()) for v in values] + [s[1] for s in fixed]
        if not lows:
            return (0.0, 1.0), meshes
        low, high = min(lows), max(highs)
        if fixed and low >= min(s[0] for s in fixed) and high <= max(s[1] for s in fixed):
            return (low, high), meshes
        low, high = _tidied(low, high) if low < high else (low - 0.5, high + 0.5)
        if any(isinstance(t, Contours) for t in panel.drawables):
            low -= _UNDER * (high - low)  # room under the surface for the lines on the floor
        return (low, high), meshes

    def _explicit_heights(self, surface: Surface, k: int, floor: list[Span], given: Span | None, meshes: dict[int, Mesh]) -> Floats:
        """Heights that the box should hold, from the first grid and then from the finer one, which finds the peaks."""
        spans = self._within_floor(surface, floor)
        sheet = surface.definition.sheet(spans)
        us, vs, look = first_look(sheet)
        ends = _finite_ends(sheet, us, vs, look[..., 2])
        # A narrow peak of finite height is seen whole; what grows without bound is cut in proportion to the rest.
        seen = _reach(look[..., 2].ravel(), True) if ends is None else np.concatenate([look[..., 2][np.isfinite(look[..., 2])], ends])
        if not seen.size:
            raise refusal("nowhere-defined", "this has no value anywhere in its window", surface.node)
        low, high = (float(seen.min()), float(seen.max())) if given is None else given
        if low == high:
            low, high = low - 0.5, high + 0.5
        room = 0.3 * (high - low) if given is None else 0.0
        box = np.array([*floor, (low - room, high + room)])
        scale = self._paper(box, self._proportions(box, False))
        mesh = sheet_mesh(sheet, scale, _PRINT_PT / surface.detail, box=box)
        meshes[k] = mesh
        return seen if ends is None or mesh.empty else np.concatenate([seen, mesh.vertices[:, 2]])

    def _within_floor(self, surface: Surface, floor: list[Span]) -> list[Span]:
        spans = []
        for own, window in zip(surface.definition.spans[:2], floor, strict=True):
            assert own is not None
            low, high = max(own[0], window[0]), min(own[1], window[1])
            if not low < high:
                text = f"this surface runs from {format_short(own[0])} to {format_short(own[1])}, outside the window of the axis"
                raise refusal("outside-window", text, surface.node)
            spans.append((low, high))
        return spans

    # ------------------------------------------------------------ proportions

    def _true_scale(self, box: Floats) -> bool:
        if self.panel.true_scale is not None:
            return True
        heights = any(s.definition.what == "explicit" for _, s in self.surfaces) or any(
            isinstance(t, Contours) for t in self.panel.drawables
        )
        heights |= any(isinstance(t, SpacePoints) and t.node.against is not None for t in self.panel.drawables)
        shapes = any(s.definition.what != "explicit" for _, s in self.surfaces)
        sizes = np.diff(box, axis=1)[:, 0]
        # A ball stays a ball when a height is drawn with it.
        return (shapes or not heights) and float(sizes.max() / sizes.min()) < 12

    @staticmethod
    def _proportions(box: Floats, true_scale: bool) -> Floats:
        """The box's edges; x and y share a scale where neither would become a sliver."""
        sizes = np.diff(box, axis=1)[:, 0]
        if true_scale:
            return np.asarray(sizes / sizes.max())
        level = sizes[:2] / sizes[:2].max()
        if level.min() < 0.4:
            level = np.ones(2)
        return np.array([*level, _HEIGHT * level.mean()])

    def _stretch(self, box: Floats, proportions: Floats, true_scale: bool) -> str:
        if true_scale:
            return "true scale"
        per = proportions / np.diff(box, axis=1)[:, 0]
        names = self._names()
        if abs(per[0] / per[1] - 1) > 1e-9:
            sideways, heights = _times(per[1] / per[0]), _times(per[2] / per[0])
            return f"each axis has a scale of its own: {names[1]} is stretched {sideways} against {names[0]}, heights {heights}"
        factor = float(per[2] / per[0])
        if abs(factor - 1) < 1e-6:
            return "true scale"
        return f"heights {_times(factor)} exaggerated" if factor > 1 else f"heights at {_plain(factor)} of their true scale"

    def _paper(self, box: Floats, proportions: Floats) -> Floats:
        """Points on paper for one unit along each axis, about."""
        sheet, share = self.panel.notes, self.panel.share
        size = _SHARE * POINTS_PER_MM * min(sheet.width_mm * share[0], 1.4 * sheet.height_mm * share[1])
        return np.asarray(proportions / np.diff(box, axis=1)[:, 0] * size)

    def _view(self) -> tuple[float, float]:
        view = self.panel.view
        found = {"azimuth": DEFAULT_AZIMUTH, "elevation": DEFAULT_ELEVATION}
        for option in view.options if view is not None else ():
            assert isinstance(option.value, tree.Expression)
            value = self.panel.scope.number(option.value).value
            limit = 360.0 if option.name == "azimuth" else 90.0
            if not -limit <= value <= limit:
                raise refusal("option-range", f"{option.name} is {-limit:g}° to {limit:g}°, not {format_short(value)}", option)
            found[option.name] = value
        return found["azimuth"], found["elevation"]

    # ------------------------------------------------------------ surfaces

    def _meshes(self, box: Floats, explicit: dict[int, Mesh]) -> None:
        for k, thing in enumerate(self.panel.drawables):
            if not isinstance(thing, Surface):
                continue
            tolerance = _PRINT_PT / thing.detail
            definition = thing.definition
            if definition.what == "implicit":
                spans = np.array([(max(own[0], b[0]), min(own[1], b[1])) for own, b in zip(definition.spans, box, strict=True)])  # type: ignore[index]
                mesh = self._implicit(thing, spans, tolerance)
            elif definition.what == "explicit":
                whole = explicit[k]
                mesh = whole if whole.empty else clipped(clipped(whole, 2, box[2, 1], True), 2, box[2, 0], False)
                self._say_cut(thing, whole, box)
            else:
                mesh = boxed(sheet_mesh(definition.sheet([s for s in definition.spans if s is not None]), self.scale, tolerance), box)
            if mesh.empty:
                raise refusal("nowhere", "nothing of this surface lies in the box", thing.node)
            self.meshes[k] = mesh

    def _implicit(self, surface: Surface, box: Floats, tolerance: float) -> Mesh:
        meshes = []
        touching = False
        for field in surface.definition.fields():
            found = isosurface(field, box, self.scale, tolerance)
            touching |= found.touching
            if not found.mesh.empty:
                meshes.append(found.mesh)
            if found.false_parts:
                surface.definition.notes.append("where the formula has a pole or no value there is no surface; it ends there")
        if not meshes:
            if touching:
                raise _touching(surface)
            raise refusal("nowhere", "no place in the box fulfils this equation", surface.node)
        return together(meshes)

    def _say_cut(self, surface: Surface, mesh: Mesh, box: Floats) -> None:
        if mesh.empty:
            return
        z = mesh.vertices[:, 2]
        room = 1e-6 * (box[2, 1] - box[2, 0])
        sides = [w for w, out in (("below", (z < box[2, 0] - room).any()), ("above", (z > box[2, 1] + room).any())) if out]
        if sides and self.panel.given("z") is None:
            ends = " and ".join(format_short(float(box[2, int(w == "above")]), 4) for w in sides)
            surface.definition.notes.append(f"grows far beyond the rest; cut {' and '.join(sides)} at {ends}")

    # ------------------------------------------------------------ colours and levels

    def _is_scaled(self, surface: Surface) -> bool:
        if surface.tint is not None:
            return True
        return "colour" not in surface.style and len(self.surfaces) == 1

    def _tints(self, surface: Surface, mesh: Mesh) -> Floats | None:
        if surface.tint is None:
            return None
        at: dict[str, Any] = dict(zip(surface.definition.axes, mesh.vertices.T, strict=True))
        if surface.definition.what == "parametric" and mesh.params is not None:
            at |= dict(zip(surface.definition.names, mesh.params.T, strict=True))
        with np.errstate(all="ignore"):
            values = reading(surface.tint, surface.tint_names)(*(at[n] for n in surface.tint_names))
        return np.array(np.broadcast_to(values, len(mesh.vertices)), dtype=float)

    def _colours(self, box: Floats) -> AxisSpec | None:
        """The scale of colours: of numbers that colours show, else of heights."""
        panel = self.panel
        tinted = [self._tints(t, self.meshes[k]) for k, t in enumerate(panel.drawables) if isinstance(t, Surface) and t.tint is not None]
        more = [t.tints for t in panel.drawables if isinstance(t, SpacePoints | SpacePath) and t.tints is not None]
        numbers = [v[np.isfinite(v)] for v in (*tinted, *more) if v is not None]
        by_height = any(self._is_scaled(s) and s.tint is None for _, s in self.surfaces)
        by_height |= any(isinstance(t, Contours) and "colour" not in t.style for t in panel.drawables)
        given = panel.given("colour")
        text: str | None = None
        if numbers and any(v.size for v in numbers):
            every = np.concatenate(numbers)
            low, high = _reach(every).min(), _reach(every).max()
            text = next((t.tint_text for _, t in self.surfaces if t.tint_text), None) or panel.colour_text()
        elif by_height:
            low, high = box[2]
            seen = [self.meshes[k].vertices[:, 2] for k, t in enumerate(panel.drawables) if isinstance(t, Surface) and self._is_scaled(t)]
            if seen:
                low, high = min(v.min() for v in seen), max(v.max() for v in seen)
            text = self._text("z", 2, self._names())
        else:
            if "colour" in panel.axes:
                raise refusal(
                    "colour-axis", "nothing in this figure is coloured by a number; say 'colour by ...'", panel.axes.said["colour"]
                )
            return None
        low, high = panel.axes.evened(float(low), float(high)) if given is None else given
        if not low < high:
            low, high = low - 0.5, high + 0.5
        said = panel.axes.said["colour"].text if "colour" in panel.axes and panel.axes.said["colour"].text is not None else text
        return panel.axis_spec("colour", float(low), float(high), said)

    # ------------------------------------------------------------ things

    def _solids(self, name: str, thing: Drawable, box: Floats, colours: AxisSpec | None) -> list[Solid]:
        line = self.panel.line_of(thing.node)
        place = self.panel.place_of(thing)
        if isinstance(thing, Surface):
            return [self._surface(name, line, place, thing, colours)]
        if isinstance(thing, SpacePath):
            return [self._path_solid(name, line, place, thing)]
        if isinstance(thing, SpacePoints):
            look = {k: v for k, v in thing.style.items() if k in ("label", "colour", "opacity", "size", "marker")}
            chosen = slice(None, None, thing.style.get("every", 1))
            tints = None if thing.tints is None else thing.tints[chosen]
            return [Solid(name, "points", line, Shape(thing.places[chosen], tints=tints), place=place, **look)]
        if isinstance(thing, Contours):
            return self._on_floor(name, line, place, thing, box, colours)
        if isinstance(thing, Section):
            return self._cut(name, line, place, thing, box)
        if isinstance(thing, Mark):
            return [self._lifted(name, line, thing)]
        assert isinstance(thing, SpaceAnnotation)
        look = {k: v for k, v in thing.style.items() if k in ("colour", "opacity", "size", "spot", "side")}
        return [Solid(name, thing.kind, line, Shape(thing.places), text=thing.text, **look)]

    def _lifted(self, name: str, line: int, put: Mark) -> Solid:
        """Marks of a search over two variables, put on the surface where its value is known."""
        if put.lifted is None:
            raise refusal("plane-in-space", "this finding has places in the plane, and the figure is one in space", put.node,
                          advise("mark what was found over two variables, or a point (x, y, z)"))  # fmt: skip
        look = {k: v for k, v in put.style.items() if k in ("colour", "spot")}
        return Solid(name, "mark", line, Shape(np.column_stack([put.x, put.y, put.lifted])), text=put.text, **look)

    def _surface(self, name: str, line: int, place: int, surface: Surface, colours: AxisSpec | None) -> Solid:
        k = list(self.panel.named).index(name)
        mesh = self.meshes[k]
        tints = self._tints(surface, mesh)
        scaled = self._is_scaled(surface)
        style = {k: v for k, v in surface.style.items() if k in ("label", "colour", "opacity")}
        solid = Solid(name, "surface", line, _shape(mesh, tints), place=place, scaled=scaled, what=surface.definition.what, **style)
        solid.coarse = self._coarse(surface, mesh)
        low, high = float(mesh.vertices[:, 2].min()), float(mesh.vertices[:, 2].max())
        if scaled and colours is not None:
            low, high = colours.low, colours.high
        solid.levels = levels_between(surface.levels, low, high) if surface.levels is not None else None
        solid.banded = bool(surface.style.get("fill")) and scaled
        if solid.banded and solid.levels is None:
            solid.levels = levels_between(_LEVELS, low, high)
        if surface.mesh is not None and mesh.params is not None:
            ends = mesh.params.min(axis=0), mesh.params.max(axis=0)
            solid.mesh = [np.linspace(a, b, surface.mesh + 2)[1:-1].tolist() for a, b in zip(*ends, strict=True)]
        texts = [formula_text(f) for f in surface.definition.formulas]
        if None not in texts:
            solid.formula, solid.variables = [t for t in texts if t is not None], list(surface.definition.names)
        return solid

    def _coarse(self, surface: Surface, mesh: Mesh) -> Shape | None:
        """The same in so few triangles that a screen turns it fluidly."""
        if len(mesh.triangles) <= _SCREEN_TRIANGLES:
            return None
        definition = surface.definition
        box = np.column_stack([mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)])
        if definition.what == "implicit":
            within = np.array([s for s in definition.spans if s is not None])
            parts = [isosurface(f, within, self.scale, _SCREEN_PT, most=_SCREEN_TRIANGLES, cells=36).mesh for f in definition.fields()]
            parts = [boxed(p, box) for p in parts if not p.empty]
            coarse = together(parts) if parts else empty_mesh()
        else:
            assert mesh.params is not None
            spans = [(float(a), float(b)) for a, b in zip(mesh.params.min(axis=0), mesh.params.max(axis=0), strict=True)]
            coarse = boxed(sheet_mesh(definition.sheet(spans), self.scale, _SCREEN_PT, most=_SCREEN_TRIANGLES), box)
        return None if coarse.empty else _shape(coarse, self._tints(surface, coarse))

    def _path_solid(self, name: str, line: int, place: int, path: SpacePath) -> Solid:
        places = self._path(path)
        look = {k: v for k, v in path.style.items() if k in ("label", "colour", "opacity", "width", "dash")}
        solid = Solid(name, "path", line, Shape(places, tints=path.tints), place=place, **look)
        texts = [formula_text(f) for f in path.formulas]
        if texts and None not in texts:
            solid.formula, solid.variables = [t for t in texts if t is not None], [path.variable]
        return solid

    def _on_floor(self, name: str, line: int, place: int, contours: Contours, box: Floats, colours: AxisSpec | None) -> list[Solid]:
        """Level lines on the floor of the box, coloured as the surface above them."""
        low, high = (colours.low, colours.high) if colours is not None else (float(box[2, 0]), float(box[2, 1]))
        levels = levels_between(contours.levels if contours.levels is not None else _LEVELS, low, high)
        lines = level_lines(contours.definition, contours.spans, levels, (420.0, 420.0))
        pieces = [(np.column_stack([x, y, np.full(x.size, box[2, 0])]), np.full(x.size, level)) for level, x, y in lines if x.size]
        if not pieces:
            return []
        places, tints = joined([q for q, _ in pieces], 3), joined([t for _, t in pieces], 1)[:, 0]
        look = {k: v for k, v in contours.style.items() if k in ("label", "colour", "opacity", "width", "dash")}
        look.setdefault("width", 0.9)
        plain = "colour" in look
        return [Solid(name, "path", line, Shape(places, tints=None if plain else tints), place=place, what="floor", **look)]

    def _cut(self, name: str, line: int, place: int, cut: Section, box: Floats) -> list[Solid]:
        """The plane, and its line: on the surface that is cut where that is drawn, else by itself."""
        ends = outline(cut.plane, box)
        if not len(ends):
            raise refusal("plane-outside", f"the plane {cut.said} does not pass through the box", cut.node)
        fan = [[0, k, k + 1] for k in range(1, len(ends) - 1)]
        look = {k: v for k, v in cut.style.items() if k in ("label", "colour")}
        solids = [
            Solid(name, "plane", line, Shape(ends, np.tile(cut.plane.normal, (len(ends), 1)), fan), place=place,
                  opacity=float(cut.style.get("opacity", _PLANE_COVER)), **look)
        ]  # fmt: skip
        found = cut.found(box)
        if len(found.space):
            look = {"colour": "#20242C", **{k: v for k, v in cut.style.items() if k in ("colour", "width", "dash")}}
            solids.append(Solid(f"{name}-line", "path", line, Shape(found.space), place=place, **look))
        cut.say(self.panel, found)
        return solids

    # ------------------------------------------------------------ where surfaces meet

    def _meetings(self) -> list[Solid]:
        """Lines where two surfaces meet."""
        found = []
        numbered = [(k, n, t) for k, (n, t) in enumerate(self.panel.named.items()) if isinstance(t, Surface)]
        for (i, (k, one, a)), (j, (m, other, b)) in combinations(enumerate(numbered, 1), 2):
            met = meeting(self.meshes[k], self.meshes[m], (a.definition.face(), b.definition.face()), self.scale, _PRINT_PT)
            if not met.branches:
                continue
            which = "the two surfaces" if len(numbered) == 2 else f"surfaces {i} and {j}"
            kind = "closed line" if met.closed == met.branches else "line"
            lines = f"a {kind}" if met.branches == 1 else f"{met.branches} {kind}s, together"
            self.panel.say(b.node, f"{which} meet along {lines} {measured(*met.length)} long (checked)")
            found.append(Solid(f"{one}-{other}", "path", self.panel.line_of(b.node), Shape(met.places), colour=MEETING, width=0.9,
                               what="meeting"))  # fmt: skip
        return found

    # ------------------------------------------------------------ words

    def _names(self) -> tuple[str, str, str]:
        for thing in self.panel.drawables:
            if isinstance(thing, Surface | Contours | Section):
                return thing.definition.axes
        return ("x", "y", "z")

    def _text(self, which: str, k: int, names: tuple[str, str, str]) -> str | None:
        if (given := self.panel.axes.text(which)) is not None:
            return given
        said = {t.definition.texts[k] for t in self.panel.drawables if isinstance(t, Surface | Contours)}
        said |= {t.texts[k] for t in self.panel.drawables if isinstance(t, SpacePoints)}
        said.discard(None)
        return said.pop() if len(said) == 1 else f"${name_tex(names[k])}$"

    def _say_all(self, box: Floats, scene: Scene) -> None:
        say: Callable[[tree.Node, str], None] = self.panel.say
        for thing in self.panel.drawables:
            if isinstance(thing, Surface | Contours | Section):
                for note in dict.fromkeys(thing.definition.notes):
                    say(thing.node, note)
                if thing.definition.outline:
                    say(thing.node, "drawn within the outline of the points; beyond it would be extrapolation")
        given = self.panel.given("z")
        if given is None:
            self.panel.note(f"heights from {format_short(float(box[2, 0]), 4)} to {format_short(float(box[2, 1]), 4)}, so that all is seen")
        self.panel.note(scene.stretch)


def _touching(surface: Surface) -> Refused:
    text = "this comes to zero without changing its sign, so there is no surface to be found"
    return refusal("no-sign-change", text, surface.node, advise("if it is a square, draw what is squared"))


def _shape(mesh: Mesh, tints: Floats | None) -> Shape:
    return Shape(mesh.vertices, mesh.normals, mesh.triangles, mesh.params, None if tints is None else np.nan_to_num(tints))


def _times(factor: float) -> str:
    return f"{_plain(factor)} times"


def _plain(factor: float) -> str:
    """Two digits, and no power of ten where zeros will do."""
    rounded = float(f"{factor:.2g}")
    return f"{rounded:.0f}" if 10 <= rounded < 1e5 else format_short(rounded, 2)


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


def _reach(values: Floats, endless: bool = False) -> Floats:
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


def _tidied(low: float, high: float) -> Span:
    """A span a little wider, with ends that are easily read."""
    step = MaxNLocator(8, steps=[1, 2, 2.5, 5, 10]).tick_values(low, high)
    size = float(step[1] - step[0]) / 2
    room = 1e-9 * (high - low)
    return float(np.floor(low / size + room / size) * size) + 0.0, float(np.ceil(high / size - room / size) * size) + 0.0


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
