"""A window on space: its box is chosen, surfaces become triangles in it, and what was chosen is said."""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np
from matplotlib.ticker import MaxNLocator

from ...figure.model import POINTS_PER_MM, AxisSpec, Floats, PanelData
from ...figure.palette import LINE as MEETING
from ...figure.space.camera import Camera
from ...figure.space.scene import DEFAULT_AZIMUTH, DEFAULT_ELEVATION, Scene, Shape, Solid
from ...formula.typeset import name_tex
from ...language import tree
from ...language.messages import advise
from ...numerics.surfaces.isosurface import isosurface
from ...numerics.surfaces.meetings import meeting
from ...numerics.surfaces.mesh import Mesh, corners
from ...record.notation import format_short
from ..evaluate.refusals import refusal
from ..undefined import measured
from .drawables.base import Drawable
from .drawables.content import DEFAULT_NAMES, PRINT_PT, SpaceContent, reach_in_space
from .drawables.section import Section
from .drawables.surface import Surface, touching_refusal
from .surface_definition import NOWHERE, Span
from .surface_requests import SpaceCollector

if TYPE_CHECKING:
    from .panel import PanelBuilder

_SHARE = 0.62  # of the sheet that the box takes, about
_HEIGHT = 0.62  # of the box's mean side, where heights have a scale of their own
_FACING = 0.15  # of a surface's area at least, as it is seen on paper; else another side is looked for
_TURNS = (0.0, 90.0, -90.0, 180.0)
_UNDER = 0.45


class SceneBuilder:
    """Works for a panel builder that holds things in space."""

    def __init__(self, panel: PanelBuilder) -> None:
        self.panel = panel
        self.contents: list[SpaceContent] = []
        for thing in panel.drawables:
            if not isinstance(thing, SpaceContent):
                raise refusal(
                    "plane-in-space", "this lies in the plane, and the figure is one in space", thing.node,
                    advise("give it a third coordinate, or a panel of its own"),
                )  # fmt: skip
            self._known_options(thing)
            self.contents.append(thing)
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
        self.meshes: dict[int, Mesh] = {}
        self.colours: AxisSpec | None = None
        self.box: Floats = np.zeros((3, 2))
        self.scale: Floats = np.ones(3)

    def line_of(self, thing: Drawable) -> int:
        """The line of the script that draws a thing."""
        return self.panel.line_of(thing.node)

    def place_of(self, thing: Drawable) -> int:
        """Which ink of the figure's order a thing has."""
        return self.panel.place_of(thing)

    def scale_for(self, box: Floats) -> Floats:
        """Points on paper for one unit along each axis of a box, before anything is drawn in true scale."""
        return self._paper(box, self._proportions(box, False))

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
        box = self.box = np.array([*floor, self._heights(floor)])
        true_scale = self._true_scale(box)
        proportions = self._proportions(box, true_scale)
        self.scale = self._paper(box, proportions)
        for thing in self.contents:
            thing.work_out(self)
        names = self._names()
        specs = [panel.axis_spec(which, float(low), float(high), self._text(which, k, names))
                 for k, (which, (low, high)) in enumerate(zip("xyz", box, strict=True))]  # fmt: skip
        scene = Scene(
            *self._view(np.asarray(proportions)), [float(p) for p in proportions], [], self._stretch(box, proportions, true_scale)
        )
        self.colours = self._colour_axis()
        for name, thing in zip(panel.named, self.contents, strict=True):
            scene.things += thing.solids(name, self)
        scene.things += self._meetings()
        data = PanelData(
            specs[0], specs[1], [], panel.title, gridlines="major" if panel.gridlines != "none" else None, frame=panel.frame,
            line=panel.line, z=specs[2], space=scene,
        )  # fmt: skip
        data.colours = self.colours
        data.legend = panel.legend_spec()
        self._say_all(scene)
        return data

    # ------------------------------------------------------------ the box

    def _floor(self) -> list[Span]:
        """Spans of the two level coordinates: given, or so that all is seen."""
        panel = self.panel
        for thing in self._surfaces():
            SpaceCollector(panel.scope, panel.notes.text, lambda *_: {}).choose_spans(thing.definition)
            if thing.definition.what == "implicit" and any(s is None for s in thing.definition.spans):
                self._own_box(thing)
        found: list[Span] = []
        for k, which in enumerate("xy"):
            given = panel.given(which)
            spans = [s for t in self.contents if (s := t.extent(self, k)) is not None]
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
                raise touching_refusal(surface)
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

    def _heights(self, floor: list[Span]) -> Span:
        """The third span: given, or what the things reach; surfaces over the floor are worked out on the way."""
        given = self.panel.given("z")
        rises = [thing.rise(self, floor, given) for thing in self.contents]
        if given is not None:
            return given
        values = [v for v, _ in rises if v is not None and v.size]
        fixed = [s for _, s in rises if s is not None]
        lows = [float(v.min()) for v in values] + [s[0] for s in fixed]
        highs = [float(v.max()) for v in values] + [s[1] for s in fixed]
        if not lows:
            return 0.0, 1.0
        low, high = min(lows), max(highs)
        if fixed and low >= min(s[0] for s in fixed) and high <= max(s[1] for s in fixed):
            return low, high
        low, high = _tidied(low, high) if low < high else (low - 0.5, high + 0.5)
        if any(t.lies_below for t in self.contents):
            low -= _UNDER * (high - low)  # room under the surface for the lines on the floor
        return low, high

    # ------------------------------------------------------------ proportions

    def _true_scale(self, box: Floats) -> bool:
        if self.panel.true_scale is not None:
            return True
        heights, shapes = any(t.is_height for t in self.contents), any(t.is_shape for t in self.contents)
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

    def _view(self, proportions: Floats) -> tuple[float, float]:
        view = self.panel.view
        if view is None:
            return self._chosen_view(proportions)
        found = {"azimuth": DEFAULT_AZIMUTH, "elevation": DEFAULT_ELEVATION}
        for option in view.options:
            assert isinstance(option.value, tree.Expression)
            value = self.panel.scope.number(option.value).value
            limit = 360.0 if option.name == "azimuth" else 90.0
            if not -limit <= value <= limit:
                raise refusal("option-range", f"{option.name} is {-limit:g}° to {limit:g}°, not {format_short(value)}", option)
            found[option.name] = value
        return found["azimuth"], found["elevation"]

    def _chosen_view(self, proportions: Floats) -> tuple[float, float]:
        """As usual, unless a surface is then seen along itself: from where the one that shows least shows most of itself."""
        sheets = []
        for mesh in (self.meshes[id(t)] for t in self._surfaces()):
            if not mesh.empty:
                held = corners(mesh) * (proportions / np.ptp(self.box, axis=1))
                sheets.append(np.cross(held[:, 1] - held[:, 0], held[:, 2] - held[:, 0]))

        def facing(azimuth: float) -> float:
            towards = Camera(self.box, proportions, azimuth, DEFAULT_ELEVATION).towards
            return min(float(np.abs(s @ towards).sum() / np.linalg.norm(s, axis=1).sum()) for s in sheets)

        if not sheets or facing(DEFAULT_AZIMUTH) >= _FACING:
            return DEFAULT_AZIMUTH, DEFAULT_ELEVATION
        best = max((DEFAULT_AZIMUTH + turn for turn in _TURNS), key=facing)
        self.panel.note(f"seen from azimuth {best:g}°, since from {DEFAULT_AZIMUTH:g}° a surface is seen along itself")
        return best, DEFAULT_ELEVATION

    # ------------------------------------------------------------ colours

    def _surfaces(self) -> list[Surface]:
        return [t for t in self.contents if isinstance(t, Surface)]

    def _colour_axis(self) -> AxisSpec | None:
        """The scale of colours: of numbers that colours show, else of heights."""
        panel = self.panel
        numbers = [v[np.isfinite(v)] for t in self.contents if (v := t.colour_numbers(self)) is not None]
        heights = [v for t in self.contents if (v := t.coloured_by_height(self)) is not None]
        given = panel.given("colour")
        text: str | None = None
        if any(v.size for v in numbers):
            every = reach_in_space(np.concatenate(numbers))
            low, high = every.min(), every.max()
            text = next((t.tint_text for t in self._surfaces() if t.tint_text), None) or panel.colour_text()
        elif heights:
            low, high = self.box[2]
            seen = [v for v in heights if v.size]
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

    # ------------------------------------------------------------ where surfaces meet

    def _meetings(self) -> list[Solid]:
        """Lines where two surfaces meet."""
        found = []
        numbered = [(n, t) for n, t in self.panel.named.items() if isinstance(t, Surface)]
        for (i, (one, a)), (j, (other, b)) in combinations(enumerate(numbered, 1), 2):
            window = np.array([self.box, a.definition.window, b.definition.window])
            window = np.column_stack([window[:, :, 0].max(axis=0), window[:, :, 1].min(axis=0)])
            faces = a.definition.face(), b.definition.face()
            met = meeting(self.meshes[id(a)], self.meshes[id(b)], faces, self.scale, PRINT_PT, window)
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
        return next((names for t in self.contents if (names := t.names) is not None), DEFAULT_NAMES)

    def _text(self, which: str, k: int, names: tuple[str, str, str]) -> str | None:
        if (given := self.panel.axes.text(which)) is not None:
            return given
        said = {t.axis_text(k) for t in self.contents} - {None}
        return said.pop() if len(said) == 1 else f"${name_tex(names[k])}$"

    def _say_all(self, scene: Scene) -> None:
        for thing, told in zip(self.panel.drawables, self.contents, strict=True):
            for note in told.space_notes:
                self.panel.say(thing.node, note)
        if self.panel.given("z") is None:
            low, high = (format_short(float(v), 4) for v in self.box[2])
            self.panel.note(f"heights from {low} to {high}, so that all is seen")
        self.panel.note(scene.stretch)


def _times(factor: float) -> str:
    return f"{_plain(factor)} times"


def _plain(factor: float) -> str:
    """Two digits, and no power of ten where zeros will do."""
    rounded = float(f"{factor:.2g}")
    return f"{rounded:.0f}" if 10 <= rounded < 1e5 else format_short(rounded, 2)


def _tidied(low: float, high: float) -> Span:
    """A span a little wider, with ends that are easily read."""
    step = MaxNLocator(8, steps=[1, 2, 2.5, 5, 10]).tick_values(low, high)
    size = float(step[1] - step[0]) / 2
    room = 1e-9 * (high - low)
    return float(np.floor(low / size + room / size) * size) + 0.0, float(np.ceil(high / size - room / size) * size) + 0.0
