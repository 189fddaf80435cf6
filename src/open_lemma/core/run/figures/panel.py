"""One window of a figure: which part is shown is chosen, functions are sampled for paper, and what was chosen is said.

The builder keeps the order of the work; what a drawn thing is asked, its class knows.
"""

from __future__ import annotations

from math import inf
from typing import Any

import numpy as np

from ...figure.model import POINTS_PER_MM, AxisSpec, Floats, LegendSpec, PanelData, Series
from ...formula.nodes import ONE
from ...formula.quantities import converted
from ...formula.typeset import name_tex
from ...formula.units import MixedUnits, Unit
from ...language import tree
from ...language.messages import advise
from ...numerics.curves.sampling import PaperView, Sampled, away_from_breaks, sample
from ...numerics.curves.windows import WindowChoice, y_window
from ...record.notation import format_short
from ..evaluate.evaluator import Evaluator
from ..evaluate.refusals import refusal
from .axes import AxisSettings, Span
from .drawables.base import SLIVER, Drawable, FirstLook, Side
from .drawables.texts import quantity_text
from .notes import FigureNote, FigureNotes
from .scene_builder import SceneBuilder
from .style import StyleReader
from .vanished import vanished

Looks = dict[str, FirstLook | None]

# How far axes reach: differences and squares of their numbers must be doubles too.
FARTHEST, FARTHEST_IN_SPACE = 1e305, 1e100


class PanelBuilder:
    """Works through what stands in one window; order among the statements does not matter."""

    def __init__(self, scope: Evaluator, notes: FigureNotes, line: int, node: tree.Node) -> None:
        self.scope, self.notes, self.line, self.node = scope, notes, line, node
        self.named: dict[str, Drawable] = {}  # what is drawn, by id
        self.axes = AxisSettings(scope, lambda: self.style)
        self.legend: tree.Legend | None = None
        self.no_legend = False
        self.gridlines: Any = None
        self.frame = True
        self.true_scale: tree.TrueScale | None = None
        self.view: tree.View | None = None
        self.title: str | None = None
        self.insets: list[InsetBuilder] = []
        self.share = (1.0, 1.0)  # of the sheet

    @property
    def style(self) -> StyleReader:
        return StyleReader(self.scope, self.notes.text)

    @property
    def drawables(self) -> list[Drawable]:
        return list(self.named.values())

    @property
    def in_space(self) -> bool:
        return any(t.in_space for t in self.drawables)

    def line_of(self, node: tree.Node) -> int:
        return self.notes.line_of(node.start)

    def say(self, node: tree.Node, text: str) -> None:
        self.notes.notes.append(FigureNote(self.line_of(node), text))

    def note(self, text: str) -> None:
        self.notes.notes.append(FigureNote(self.line, text))

    def add(self, thing: Drawable) -> None:
        self.named[self.notes.new_id()] = thing

    def agree_on_units(self) -> None:
        """One unit on each axis: the one that is said, else that of what was drawn first. Raises Refused for what has another dimension."""
        # What is put there by hand follows what is drawn.
        for thing in sorted(self.drawables, key=lambda t: t.axes_from == "nothing"):
            for k, which in ((0, "x"), (1, "right" if thing.side == "right" else "y")):
                unit = thing.units[k]
                if unit is None or unit.plain:
                    continue
                kept = self.axes.units.get(which) or self.axes.unit_said(which) or unit
                self.axes.units[which] = kept
                if not unit.same(kept):
                    self._bring(thing, k, unit, kept)

    def _bring(self, thing: Drawable, k: int, unit: Unit, kept: Unit) -> None:
        try:
            if not unit.like(kept):
                raise MixedUnits(f"[{kept}] and [{unit}] meet on one axis", "axis right, or a figure of its own")
            thing.scaled(k, converted(ONE, unit, kept), kept)
        except MixedUnits as trouble:
            raise refusal("units", f"units do not fit: {trouble}", thing.node, advise(trouble.fix)) from None

    def given(self, which: str) -> Span | None:
        return self.axes.given(which)

    def scale(self, which: str) -> Any:
        return self.axes.scale(which)

    def axis_spec(self, which: str, low: float, high: float, text: str | None) -> AxisSpec:
        """An axis as it is drawn; bars of named things have the names on theirs. Raises Refused."""
        farthest = FARTHEST_IN_SPACE if self.in_space else FARTHEST
        if not max(abs(low), abs(high)) <= farthest:
            finite = abs(low) < inf and abs(high) < inf
            reach = f"this reaches from {format_short(low)} to {format_short(high)}" if finite else "this reaches further than numbers do"
            said = f"{reach}; axes reach to ±{format_short(farthest)}"
            raise refusal("too-far", said, self.axes.said.get(which) or self.drawables[0].node)
        spec = self.axes.spec(which, low, high, text)
        if which == "x" and spec.ticks is None:
            named = next((found for t in self.drawables if (found := t.named_places()) is not None), None)
            if named is not None:
                spec.ticks, spec.names = named
        return spec

    # ------------------------------------------------------------ inks

    def place_of(self, thing: Drawable) -> int:
        """Which ink: things are counted in order. What is put by hand is not, and some have that of the thing before them."""
        things = self.drawables
        index = next(k for k, t in enumerate(things) if t is thing)
        return sum(t.takes_ink and not t.shares_ink for t in things[:index]) - thing.shares_ink

    @property
    def inks(self) -> int:
        return sum(t.takes_ink for t in self.drawables)

    # ------------------------------------------------------------ the horizontal window

    def natural_x(self) -> Span:
        """The horizontal window: as given, or so that all is seen."""
        if self.in_space:
            return 0.0, 1.0  # its box is chosen with the rest
        given = self.given("x")
        scale = self.axes.scaled("x")
        spans = [s for t in self.drawables if (s := t.span(self, scale)) is not None]
        if given is not None:
            return given
        if not self.inks:
            return self._around("x", self.drawables)
        if not spans:
            return (1.0, 10.0) if scale.positive else (0.0, 1.0)
        low, high = min(s[0] for s in spans), max(s[1] for s in spans)
        if scale.positive:
            return self._positive_window(low, high)
        return (low, high) if low < high else (low - 0.5, high + 0.5)

    def _around(self, which: str, things: list[Drawable]) -> Span:
        """A window that shows what is put there by hand, with room around it, where nothing else is drawn."""
        places = np.concatenate([np.array([]), *(t.stands("x" if which == "x" else "y") for t in things)])
        if self.axes.scaled(which).positive:
            places = places[places > 0]
            factor = (float(places.max() / places.min()) ** 0.1 if places.size else 1.0) or 1.0
            return (float(places.min()) / max(factor, 1.5), float(places.max()) * max(factor, 1.5)) if places.size else (1.0, 10.0)
        if not places.size:
            return 0.0, 1.0
        low, high = float(places.min()), float(places.max())
        room = 0.1 * (high - low) or max(abs(low) / 2, 1.0)
        return low - room, high + room

    def _positive_window(self, low: float, high: float) -> Span:
        axis = self.axes.said["x"]
        if high <= 0:
            raise refusal("log-window", "nothing to be drawn lies above zero, where a logarithmic axis is", axis)
        if low <= 0:
            low = high / 1000
            self.say(axis, f"a logarithmic axis has no zero: it starts at {format_short(low, 4)}")
        return (low, high) if low < high else (low / 2, high * 2)

    # ------------------------------------------------------------ building

    def heights_for(self, x: Span) -> Span | None:
        """The vertical window that it would have for a horizontal one; None for a window on space."""
        if self.in_space:
            return None
        choice, _ = self._sampled("left", x, self._looks(x))
        return choice.low, choice.high

    def build(self, x: Span) -> PanelData:
        """The window with all that is drawn in it. Raises Refused."""
        if self.in_space:
            return SceneBuilder(self).build()
        if "z" in self.axes:
            raise refusal(
                "space-axis", "nothing in this figure has a third coordinate", self.axes.said["z"], advise("leave the z axis out")
            )
        if self.view is not None:
            text = "a view is that of a figure in space, and nothing here has a third coordinate"
            raise refusal("space-axis", text, self.view, advise("leave it out"))
        looks = self._looks(x)
        choices: dict[Side, WindowChoice] = {}
        found: dict[str, Sampled] = {}
        sides: tuple[Side, ...] = ("left", "right") if any(t.right for t in self.drawables) else ("left",)
        for side in sides:
            choices[side], sampled = self._sampled(side, x, looks)
            found |= sampled
            for name, thing in self._on(side):
                thing.describe(self, self._view(x, choices[side], side), looks[name], found.get(name))
        left = choices["left"]
        if self.given("y") is None:
            self.note(f"vertical window {format_short(left.low, 4)} to {format_short(left.high, 4)}: {left.reason}")
        views = {s: self._view(x, c, s) for s, c in choices.items()}
        series = [
            t.series(name, self, views[t.side], self.place_of(t), looks[name], found.get(name)) for name, t in self.named.items()
        ]  # fmt: skip
        panel = PanelData(
            self.axis_spec("x", *x, self._axis_text("x")), self.axis_spec("y", left.low, left.high, self._axis_text("y")),
            series, self.title, gridlines=self.gridlines if self.gridlines != "none" else None, frame=self.frame,
            true_scale=self.true_scale is not None or self._lengths_are_true(), line=self.line,
        )  # fmt: skip
        if "right" in choices:
            panel.right = self.axis_spec("right", choices["right"].low, choices["right"].high, self._axis_text("right"))
        elif "right" in self.axes:
            text = "nothing is drawn against the right axis; say 'axis right' at what belongs to it"
            raise refusal("right-axis", text, self.axes.said["right"])
        panel.colours = self._colour_axis(series)
        panel.legend = self.legend_spec()
        if self.true_scale is not None and {panel.x.scale, panel.y.scale} != {"linear"}:
            raise refusal("true-scale", "true scale needs linear axes", self.true_scale)
        for side, view in views.items():
            self.notes.messages += vanished(self, series, side, view)
        for inset in self.insets:
            panel.insets.append(inset.built(self))
        return panel

    def legend_spec(self) -> LegendSpec | None:
        """The legend as the script says, or by itself; None for no legend. Raises Refused."""
        if self.no_legend:
            return None
        if self.legend is None:
            return LegendSpec()
        said = LegendSpec(" ".join(self.legend.words) or "auto", line=self.line_of(self.legend))
        if self.legend.at is not None:
            said.at = self.style.point(self.legend.at)
        for option in self.legend.options:
            value = option.value
            assert isinstance(value, tree.Expression)
            if option.name == "title":
                said.title = self.style.label(value)
                self.style.check_text(said.title, option)
            elif option.name == "columns":
                said.columns = self.style.whole(option, value)
            else:
                said.order = [int(v) for v in np.asarray(self.scope.list(value), dtype=float)]
        return said

    # ------------------------------------------------------------ the vertical window, and sampling for it

    def _looks(self, x: Span) -> Looks:
        scale = self.axes.scaled("x")
        return {name: thing.look(*x, scale) for name, thing in self.named.items()}

    def _on(self, side: Side) -> list[tuple[str, Drawable]]:
        return [(name, t) for name, t in self.named.items() if t.side == side]

    def _choice(self, side: Side, curves: list[tuple[Any, Floats, Floats]], x: Span, looks: Looks) -> WindowChoice:
        which = "y" if side == "left" else "right"
        given = self.given(which)
        if given is not None:
            return WindowChoice(*given, "as the axis says")
        things = self._on(side)
        if not things:
            return WindowChoice(0.0, 1.0, "nothing is drawn against it")
        if not any(t.takes_ink for _, t in things):
            return WindowChoice(*self._around(which, [t for _, t in things]), "around what is put there")
        own = [s for _, t in things if (s := t.own_heights(self)) is not None]
        if len(own) == sum(t.takes_ink for _, t in things):
            return WindowChoice(min(s[0] for s in own), max(s[1] for s in own), "as the window of what is drawn says")
        data = [heights for name, t in things for heights in t.heights(self, x, looks[name])]
        return y_window(curves, data, self.axes.scaled(which))

    def _sampled(self, side: Side, x: Span, looks: Looks) -> tuple[WindowChoice, dict[str, Sampled]]:
        """Sample for the window; if finer sampling found higher peaks than the first look, open the window for them."""
        curves = {name: look for name, _ in self._on(side) if (look := looks[name]) is not None}
        choice = self._choice(side, [(look.sampler, *look.first) for look in curves.values()], x, looks)
        given = self.given("y" if side == "left" else "right") is not None
        found: dict[str, Sampled] = {}
        for _ in range(3):
            view = self._view(x, choice, side)
            found = {name: sample(look.sampler, view, look.first) for name, look in curves.items()}
            if given or not found:
                break
            finer = [(look.sampler, *away_from_breaks(found[name], view)) for name, look in curves.items()]
            again = self._choice(side, finer, x, looks)
            grown = max(choice.low - again.low, again.high - choice.high) > 0.002 * (choice.high - choice.low)
            if not grown or again.reason != choice.reason:
                break
            choice = again
        return choice, found

    def _view(self, x: Span, y: WindowChoice, side: Side) -> PaperView:
        # The whole sheet, a little more than the window itself: the promise of a tenth of a point then holds with room.
        width = self.notes.width_mm * POINTS_PER_MM * self.share[0]
        height = self.notes.height_mm * POINTS_PER_MM * self.share[1]
        if self.true_scale:
            height = max(height, 1.5 * width)
        which = "y" if side == "left" else "right"
        return PaperView(*x, y.low, y.high, width, height, self.axes.scaled("x", *x), self.axes.scaled(which, y.low, y.high))

    def _lengths_are_true(self) -> bool:
        """Sections alone are drawn in their true lengths, unless that would make a sliver of the window."""
        cuts = [t for t in self.drawables if t.has_true_lengths]
        alone = len(cuts) == sum(t.takes_ink for t in self.drawables)
        if not cuts or not alone or {self.scale("x"), self.scale("y")} != {"linear"}:
            return False
        x, y = (max(t.true_window(k)[1] for t in cuts) - min(t.true_window(k)[0] for t in cuts) for k in (0, 1))
        return bool(SLIVER < y / x < 1 / SLIVER)

    # ------------------------------------------------------------ colours

    def _colour_axis(self, series: list[Series]) -> AxisSpec | None:
        shown = [numbers for s in series for numbers in s.colour_numbers()]
        if not shown:
            if "colour" in self.axes:
                text = "nothing in this figure is coloured by a number; say 'colour by ...'"
                raise refusal("colour-axis", text, self.axes.said["colour"])
            return None
        given = self.given("colour")
        every = np.concatenate(shown)
        if self.axes.scaled("colour").positive:
            every = every[every > 0]
            if not every.size:
                raise refusal("log-window", "no number that is shown as a colour lies above zero", self.axes.said["colour"])
        low, high = given if given is not None else (float(every.min()), float(every.max()))
        if given is None:
            low, high = self.axes.evened(low, high)
        if not low < high:
            low, high = low - 0.5, high + 0.5
        said = self.axes.text("colour") if "colour" in self.axes else self.colour_text()
        return self.axis_spec("colour", low, high, said)

    def colour_text(self) -> str | None:
        """The formula or list that gives the colours, where it is a plain name."""
        for thing in self.drawables:
            if isinstance(thing.colour_by, tree.Name | tree.Field):
                return f"${name_tex(thing.colour_by.name)}$"
        return None

    # ------------------------------------------------------------ texts

    def _axis_text(self, which: str) -> str | None:
        """As the script says; else what data say, what owns both axes says, or the one variable of all formulas."""
        if (said := self.axes.text(which)) is not None:
            return said
        side: Side = "right" if which == "right" else "left"
        things = [t for t in self.drawables if t.axes_from != "nothing" and (which == "x" or t.side == side)]
        by = {kind: [t for t in things if t.axes_from == kind] for kind in ("data", "own", "formula", "pair")}
        quantities = {t.axis_name(which) for t in by["data"]}
        if len(quantities) == 1 and (text := quantities.pop()) is not None:
            return text
        if by["own"] and len(by["own"]) + len(by["data"]) == len(things):
            return _one({t.axis_name(which) for t in by["own"]}) if len({type(t) for t in by["own"]}) == 1 else None
        if not by["pair"] and not by["own"] and not by["data"]:
            said = _one({t.axis_name(which) for t in by["formula"]})
            units = {t.units[0 if which == "x" else 1] for t in by["formula"]}
            return said or (quantity_text(None, units.pop()) if len(units) == 1 else None)
        return None


def _one(names: set[str | None]) -> str | None:
    return names.pop() if len(names) == 1 else None


class InsetBuilder(PanelBuilder):
    """A small window inside another; without drawn things of its own it shows those around it."""

    def __init__(self, scope: Evaluator, notes: FigureNotes, line: int, node: tree.Inset) -> None:
        super().__init__(scope, notes, line, node)
        self.inset = node
        self.no_legend = True

    def built(self, around: PanelBuilder) -> PanelData:
        """The window inside. What it chooses is seen in it; the notes are those of the figure."""
        if not self.inks:
            self._show_what_is_around(around)
        size = next((o for o in self.inset.options if o.name == "size"), None)
        share = 0.36
        if size is not None:
            assert isinstance(size.value, tree.Expression)
            share = self.scope.number(size.value).value
            if not 0.1 <= share <= 0.9:
                raise refusal("option-range", f"an inset takes 0.1 to 0.9 of the window, not {format_short(share)}", size)
        self.share = (around.share[0] * share, around.share[1] * share)
        self.notes = around.notes.aside()
        panel = self.build(self.natural_x())
        around.notes.messages += self.notes.messages
        panel.share, panel.words = share, " ".join(self.inset.words)
        panel.legend = None
        if self.inset.at is not None:
            panel.at = self.style.point(self.inset.at)
        for axis, spec in (("x", panel.x), ("y", panel.y)):
            if self.axes.text(axis) is None:
                spec.text = None
        return panel

    def _show_what_is_around(self, around: PanelBuilder) -> None:
        if self.given("x") is None:
            raise refusal("inset-window", "say which part the inset shows", self.inset, advise("x axis from LOW to HIGH"))
        own, self.named = self.drawables, {}
        for thing in around.drawables:
            if thing.keeps_place:
                self.add(thing.copied())
        for thing in own:
            self.add(thing)
        if "y" in around.axes and "y" not in self.axes and around.scale("y") != "linear":
            self.axes.said["y"] = tree.Axis(0, 0, "y", None, None, None, around.axes.said["y"].options)
