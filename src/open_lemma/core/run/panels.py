"""One window of a figure: which part is shown is chosen, functions are sampled for paper, and what was chosen is said."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np

from ..figure.model import POINTS_PER_MM, AxisSpec, Floats, LegendSpec, PanelData, Scale, Series
from ..formula.domain import division_places, joints
from ..formula.nodes import Formula, Given, substitute
from ..formula.tape import Tape
from ..formula.typeset import name_tex
from ..language import tree
from ..language.messages import Fix, Message, advise, replace
from ..numerics.bounds import bounds_of
from ..numerics.branches import joined
from ..numerics.implicit import level_curve
from ..numerics.parametric import first_look, follow
from ..numerics.sampling import Break, Sampled, Sampler, View, away_from_breaks, even_poles, sample
from ..numerics.windows import Choice, x_window, y_window
from .drawn import Curve, Equation, Path, Points, Put, Thing, formula_text
from .lower import Lowering, refusal
from .novalue import measured, no_value, short
from .scenes import SceneBuilder, contour_lines, in_space, levels_between
from .slopes import gradient, value_of
from .spaces import NOWHERE, Contours, Cut, SpaceCollector, SpacePut, SpaceThing

_VANISHED = 0.02  # of the window's height: what stays below that looks like a level line
_LARGE = 0.5
_LOOKED = 161  # lines each way of a first look at heights
_SLIVER = 0.125  # a window in true lengths is no narrower than that


@dataclass
class Note:
    line: int
    text: str


@dataclass
class Sheet:
    """What panels know of the figure that they stand in."""

    line_of: Callable[[int], int]
    text: str
    width_mm: float
    height_mm: float
    notes: list[Note] = field(default_factory=list)
    messages: list[Message] = field(default_factory=list)
    count: int = 0  # things drawn so far, for their ids


Side = Literal["left", "right"]


class PanelBuilder:
    """Works through what stands in one window; order among the statements does not matter."""

    def __init__(self, scope: Lowering, sheet: Sheet, line: int, node: tree.Node) -> None:
        self.scope, self.sheet, self.line, self.node = scope, sheet, line, node
        self.things: list[tuple[str, Thing]] = []  # with their ids
        self.axes: dict[str, tree.Axis] = {}
        self.legend: tree.Legend | None = None
        self.no_legend = False
        self.gridlines: Any = None
        self.frame = True
        self.true_scale: tree.TrueScale | None = None
        self.view: tree.View | None = None
        self.title: str | None = None
        self.insets: list[InsetBuilder] = []
        self.windows: dict[str, tuple[float, float]] = {}  # windows that others decided on (shared axes)
        self.share = (1.0, 1.0)  # of the sheet
        self.chosen: dict[str, Choice] = {}

    def line_of(self, node: tree.Node) -> int:
        return self.sheet.line_of(node.start)

    @property
    def in_space(self) -> bool:
        return in_space(self.things)

    @property
    def space_collector(self) -> SpaceCollector:
        return SpaceCollector(self.scope, self.sheet.text, lambda *_: {})

    def note(self, text: str) -> None:
        self.sheet.notes.append(Note(self.line, text))

    def add(self, thing: Thing) -> None:
        self.sheet.count += 1
        self.things.append((f"s{self.sheet.count}", thing))

    # ------------------------------------------------------------ axes as they were given

    def scale(self, which: str) -> Scale:
        option = self._axis_option(which, "scale")
        return str(option.value) if option else "linear"  # type: ignore[return-value]

    def _axis_option(self, which: str, name: str) -> tree.Option | None:
        axis = self.axes.get(which)
        return next((o for o in axis.options if o.name == name), None) if axis else None

    def given(self, which: str) -> tuple[float, float] | None:
        """The window that the script gives an axis, lower end first."""
        axis = self.axes.get(which)
        if axis is None or axis.low is None or axis.high is None:
            return self.windows.get(which)
        low, high = (self.scope.number(e).value for e in (axis.low, axis.high))
        if not low < high and not high < low:
            raise refusal("window", f"the window of the axis runs from {short(low)} to {short(high)}", axis.low)
        if self.scale(which) == "logarithmic" and min(low, high) <= 0:
            raise refusal("log-window", f"a logarithmic axis starts above zero, not at {short(min(low, high))}", axis.low)
        return min(low, high), max(low, high)

    def _reversed(self, which: str) -> bool:
        axis = self.axes.get(which)
        option = self._axis_option(which, "direction")
        falls = False
        if axis is not None and axis.low is not None and axis.high is not None:
            low, high = (self.scope.number(e).value for e in (axis.low, axis.high))
            falls = low > high
        return falls != (option is not None and option.value == "reversed")

    def axis_spec(self, which: str, low: float, high: float, text: str | None) -> AxisSpec:
        axis = self.axes.get(which)
        spec = AxisSpec(text, low, high, self.scale(which), self._reversed(which))
        for option in axis.options if axis is not None else ():
            value = option.value
            if option.name == "ticks":
                assert isinstance(value, tree.Expression)
                spec.ticks = sorted(float(v) for v in np.asarray(self.scope.list(value), dtype=float) if low <= v <= high)
                if not spec.ticks:
                    raise refusal("ticks", f"none of these lies in the window, {short(low)} to {short(high)}", option)
            elif option.name == "numbers":
                spec.numbers = "full" if value == "plain" else str(value)
            elif option.name == "tones":
                if which != "colour":
                    raise refusal("option-not-here", "tones are those of the colour axis", option, advise("colour axis, tones two-sided"))
                spec.tones = str(value)
            elif option.name == "dates":
                spec.dates = self._collector.dates(option)
            elif option.name in ("decimals", "minor"):
                assert isinstance(value, tree.Expression)
                setattr(spec, option.name, self._collector.whole(option, value))
        spec.threshold = self._fold(which, low, high) or 1.0
        if which == "x":
            self._names(spec)
        return spec

    @property
    def _collector(self) -> Any:
        from .drawn import Collector

        return Collector(self.scope, self.sheet.text)

    def _names(self, spec: AxisSpec) -> None:
        """Bars of named things have the names on their axis."""
        named = next((t for _, t in self.things if isinstance(t, Points) and t.names is not None), None)
        if named is not None and spec.ticks is None:
            assert named.names is not None
            spec.ticks, spec.names = [float(v) for v in named.x], list(named.names)

    # ------------------------------------------------------------ the horizontal window

    def natural_x(self) -> tuple[float, float]:
        """The horizontal window: as given, or so that all is seen."""
        if self.in_space:
            return 0.0, 1.0  # its box is chosen with the rest
        given = self.given("x")
        logarithmic = self.scale("x") == "logarithmic"
        lows: list[float] = []
        highs: list[float] = []
        for _, thing in self.things:
            span = self._span_of(thing, given, logarithmic)
            if span is not None:
                lows.append(span[0])
                highs.append(span[1])
        if given is not None:
            return given
        if not lows:
            return (1.0, 10.0) if logarithmic else (0.0, 1.0)
        low, high = min(lows), max(highs)
        if logarithmic:
            return self._positive_window(low, high)
        return (low, high) if low < high else (low - 0.5, high + 0.5)

    def _span_of(self, thing: Thing, given: tuple[float, float] | None, logarithmic: bool) -> tuple[float, float] | None:
        if isinstance(thing, Curve):
            return self._curve_window(thing, given)
        if isinstance(thing, Equation):
            return thing.x
        if isinstance(thing, Contours):
            return thing.spans[0]
        if isinstance(thing, Cut):
            return self._cut_window(thing, 0)
        if isinstance(thing, Path):
            thing.first = first_look(thing.function, thing.low, thing.high)
            xs = _reach(thing.first.x)
            if not xs.size:
                text = f"this has no value anywhere from {short(thing.low)} to {short(thing.high)}"
                raise refusal("nowhere-defined", text, thing.request)
            room = 0.04 * float(np.ptp(xs)) or 0.5
            return float(xs.min()) - (0 if logarithmic else room), float(xs.max()) + (0 if logarithmic else room)
        if isinstance(thing, Put):
            good = thing.x[np.isfinite(thing.x)]
            return (float(good.min()), float(good.max())) if good.size and thing.kind != "text" else None
        assert isinstance(thing, Points)
        xs = thing.seen_x
        if thing.kind == "bars":
            half = _bar_step(thing.x) * 0.6
            return float(xs.min()) - half, float(xs.max()) + half
        room = 0.04 * float(np.ptp(xs)) or 0.5
        if logarithmic:
            xs = xs[xs > 0]
            if not xs.size:
                return None
            factor = (float(xs.max()) / float(xs.min())) ** 0.03 if xs.max() > xs.min() else 1.5
            return float(xs.min()) / factor, float(xs.max()) * factor
        return float(xs.min()) - room, float(xs.max()) + room

    def _positive_window(self, low: float, high: float) -> tuple[float, float]:
        if high <= 0:
            raise refusal("log-window", "nothing to be drawn lies above zero, where a logarithmic axis is", self.axes["x"])
        if low <= 0:
            low = high / 1000
            self.say(self.axes["x"], f"a logarithmic axis has no zero: it starts at {short(low, 4)}")
        return (low, high) if low < high else (low / 2, high * 2)

    def _curve_window(self, curve: Curve, given: tuple[float, float] | None) -> tuple[float, float]:
        if curve.low is None or curve.high is None:
            if given is not None:
                curve.low, curve.high = given
            elif curve.request.noun == "tangent" and (others := self._spans_of_others()):
                curve.low, curve.high = min(s[0] for s in others), max(s[1] for s in others)
            else:
                choice = x_window(curve.function)
                curve.low, curve.high = choice.low, choice.high
                text = f"window for {curve.variable} chosen: {short(choice.low)} to {short(choice.high)}, {choice.reason}"
                self.say(curve.request, text)
        return curve.low, curve.high

    def _spans_of_others(self) -> list[tuple[float, float]]:
        curves = [t for _, t in self.things if isinstance(t, Curve) and t.low is not None]
        return [(t.low, t.high) for t in curves if t.low is not None and t.high is not None]

    # ------------------------------------------------------------ building

    def build(self, x: tuple[float, float]) -> PanelData:
        if self.in_space:
            return SceneBuilder(self).build()
        if "z" in self.axes:
            raise refusal("space-axis", "nothing in this figure has a third coordinate", self.axes["z"], advise("leave the z axis out"))
        if self.view is not None:
            text = "a view is that of a figure in space, and nothing here has a third coordinate"
            raise refusal("space-axis", text, self.view, advise("leave it out"))
        x_low, x_high = x
        x_log = self.scale("x") == "logarithmic"
        curves = [t for _, t in self.things if isinstance(t, Curve)]
        for curve in curves:
            self._look(curve, x_low, x_high, x_log)
        windows: dict[Side, Choice] = {}
        found: dict[int, Sampled] = {}
        sides: tuple[Side, ...] = ("left", "right") if any(_is_right(t) for _, t in self.things) else ("left",)
        for side in sides:
            windows[side], sampled = self._sampled(side, (x_low, x_high, x_log))
            found |= sampled
        self.chosen = {"y": windows["left"]}
        if self.given("y") is None:
            left = windows["left"]
            self.sheet.notes.append(Note(self.line, f"vertical window {short(left.low, 4)} to {short(left.high, 4)}: {left.reason}"))
        view = {s: self._view((x_low, x_high, x_log), w, s) for s, w in windows.items()}
        series = [
            self._series(name, k, thing, view["right" if _is_right(thing) else "left"], found)
            for k, (name, thing) in enumerate(self.things)
        ]
        panel = PanelData(
            self.axis_spec("x", x_low, x_high, self._axis_text("x")),
            self.axis_spec("y", windows["left"].low, windows["left"].high, self._axis_text("y")),
            series, self.title, gridlines=self.gridlines if self.gridlines != "none" else None, frame=self.frame,
            true_scale=self.true_scale is not None or self._lengths_are_true(), line=self.line,
        )  # fmt: skip
        if "right" in windows:
            panel.right = self.axis_spec("right", windows["right"].low, windows["right"].high, self._axis_text("right"))
        elif "right" in self.axes:
            text = "nothing is drawn against the right axis; say 'axis right' at what belongs to it"
            raise refusal("right-axis", text, self.axes["right"])
        panel.colours = self._colour_axis(series)
        panel.legend = self.legend_spec()
        if self.true_scale is not None and {panel.x.scale, panel.y.scale} != {"linear"}:
            raise refusal("true-scale", "true scale needs linear axes", self.true_scale)
        self._vanished(series, view)
        for inset in self.insets:
            panel.insets.append(inset.built(self))
        return panel

    def legend_spec(self) -> LegendSpec | None:
        if self.no_legend:
            return None
        if self.legend is None:
            return LegendSpec()
        said = LegendSpec(" ".join(self.legend.words) or "auto", line=self.line_of(self.legend))
        if self.legend.at is not None:
            said.at = self._collector.point(self.legend.at)
        for option in self.legend.options:
            value = option.value
            assert isinstance(value, tree.Expression)
            if option.name == "title":
                said.title = self._collector.label(value)
                self._collector.check_text(said.title, option)
            elif option.name == "columns":
                said.columns = self._collector.whole(option, value)
            else:
                said.order = [int(v) for v in np.asarray(self.scope.list(value), dtype=float)]
        return said

    def _look(self, curve: Curve, x_low: float, x_high: float, x_log: bool) -> None:
        assert curve.low is not None
        assert curve.high is not None
        low, high = max(curve.low, x_low), min(curve.high, x_high)
        if not low < high:
            text = f"this curve runs from {short(curve.low)} to {short(curve.high)}, outside the window of the axis"
            raise refusal("outside-window", text, curve.request)
        curve.sampler = Sampler(curve.function, low, high, x_log, bounds_of(curve.formula, curve.variable))
        places = division_places(curve.formula, curve.variable)
        places += [value_of(j) for j in joints(curve.formula, curve.variable)]
        curve.first = curve.sampler.first_grid(sorted(set(places)))
        if not np.isfinite(curve.first[1]).any():
            why = self._why(curve, float(curve.first[0][curve.first[0].size // 2]))
            raise refusal("nowhere-defined", f"this has no value anywhere from {short(low)} to {short(high)}: {why}", curve.request)

    def _upper(self, curve: Curve, x: Floats) -> Floats:
        """The other edge of a band at the places of its first one."""
        assert curve.upper is not None
        tape = Tape([curve.upper], [curve.variable])
        with np.errstate(all="ignore"):
            y = np.asarray(tape.numeric(x)[0], dtype=float)
        y = np.broadcast_to(y, x.shape).copy()
        return np.where(np.isfinite(y), y, np.nan)

    # ------------------------------------------------------------ the vertical window, and sampling for it

    def _on(self, side: Side) -> list[tuple[int, Thing]]:
        return [(k, t) for k, (_, t) in enumerate(self.things) if _is_right(t) == (side == "right")]

    def _data(self, side: Side, x: tuple[float, float]) -> list[Floats]:
        """Values that the window should hold, besides those of curves."""
        found: list[Floats] = []
        for _, thing in self._on(side):
            if isinstance(thing, Points):
                given = self.given("x")
                if given is None or thing.kind == "bars":
                    found.append(thing.seen_y)
                else:
                    inside = thing.good & (thing.x >= x[0]) & (thing.x <= x[1])
                    part = Points(thing.request, thing.x[inside], thing.y[inside], thing.style, thing.kind,
                                  errors=tuple(None if e is None else e[inside] for e in thing.errors))  # type: ignore[arg-type] # fmt: skip
                    found.append(part.seen_y)
            elif isinstance(thing, Put) and thing.kind != "text":
                found.append(thing.y[np.isfinite(thing.y)])
            elif isinstance(thing, Path):
                found.append(_reach(thing.first.y))
            elif isinstance(thing, Equation):
                found.append(np.array(thing.y))
            elif isinstance(thing, Contours):
                found.append(np.array(thing.spans[1]))
            elif isinstance(thing, Cut):
                found.append(np.array(self._cut_window(thing, 1)))
            elif isinstance(thing, Curve):
                if thing.upper is not None:
                    found.append(_reach(self._upper(thing, thing.first[0])))
                if thing.style.get("fill"):
                    found.append(np.array([0.0]))
        return found

    def _y_choice(self, side: Side, curves: list[tuple[Sampler, Floats, Floats]], x: tuple[float, float]) -> Choice:
        which = "y" if side == "left" else "right"
        given = self.given(which)
        if given is not None:
            return Choice(*given, "as the axis says")
        if not self._on(side):
            return Choice(0.0, 1.0, "nothing is drawn against it")
        flat = [t for _, t in self._on(side) if isinstance(t, Equation | Contours | Cut)]
        if len(flat) == len([t for _, t in self._on(side) if not isinstance(t, Put)]):
            spans = [self._flat_span(t) for t in flat]
            return Choice(min(s[0] for s in spans), max(s[1] for s in spans), "as the window of what is drawn says")
        return y_window(curves, self._data(side, x), self.scale(which) == "logarithmic")

    def _sampled(self, side: Side, x: tuple[float, float, bool]) -> tuple[Choice, dict[int, Sampled]]:
        """Sample for the window; if finer sampling found higher peaks than the first look, open the window for them."""
        curves = [(k, t) for k, t in self._on(side) if isinstance(t, Curve)]
        choice = self._y_choice(side, [(t.sampler, *t.first) for _, t in curves], x[:2])
        given = self.given("y" if side == "left" else "right") is not None
        found: dict[int, Sampled] = {}
        for _ in range(3):
            view = self._view(x, choice, side)
            found = {k: sample(t.sampler, view, t.first) for k, t in curves}
            if given or not found:
                break
            again = self._y_choice(side, [(t.sampler, *away_from_breaks(found[k], view)) for k, t in curves], x[:2])
            grown = max(choice.low - again.low, again.high - choice.high) > 0.002 * (choice.high - choice.low)
            if not grown or again.reason != choice.reason:
                break
            choice = again
        for k, curve in curves:
            self._say_breaks(curve, found[k], view)
        return choice, found

    def _view(self, x: tuple[float, float, bool], y: Choice, side: Side) -> View:
        # The whole sheet, a little more than the window itself: the promise of a tenth of a point then holds with room.
        width = self.sheet.width_mm * POINTS_PER_MM * self.share[0]
        height = self.sheet.height_mm * POINTS_PER_MM * self.share[1]
        if self.true_scale:
            height = max(height, 1.5 * width)
        which = "y" if side == "left" else "right"
        x_fold, y_fold = self._fold("x", x[0], x[1]), self._fold(which, y.low, y.high)
        return View(x[0], x[1], y.low, y.high, width, height, x[2], self.scale(which) == "logarithmic", x_fold, y_fold)

    def _fold(self, which: str, low: float, high: float) -> float:
        """Where a signed-logarithmic axis turns linear; 0 for other scales."""
        if self.scale(which) != "signed-logarithmic":
            return 0.0
        option = self._axis_option(which, "threshold")
        if option is None:
            return _threshold(max(abs(low), abs(high)))
        assert isinstance(option.value, tree.Expression)
        value = self.scope.number(option.value).value
        if not value > 0:
            raise refusal("threshold", f"a threshold lies above zero, not at {short(value)}", option)
        return value

    # ------------------------------------------------------------ series

    def _series(self, name: str, index: int, thing: Thing, view: View, sampled: dict[int, Sampled]) -> Series:
        if isinstance(thing, Put):
            return self._put_series(name, thing, view)
        assert not isinstance(thing, SpaceThing)  # those are drawn by the builder of scenes
        line = self.line_of(thing.request)
        style = {**thing.style, "place": self._place(index)}
        if isinstance(thing, Curve):
            return self._curve_series(name, line, thing, style, view, sampled[index])
        if isinstance(thing, Path):
            return self._path_series(name, line, thing, style, view)
        if isinstance(thing, Equation):
            return self._equation_series(name, line, thing, style, view)
        if isinstance(thing, Contours):
            return self._contour_series(name, line, thing, style, view)
        if isinstance(thing, Cut):
            return self._cut_series(name, line, thing, style)
        assert isinstance(thing, Points)
        self._points_seen(thing, view)
        x, y, tints, (ex, ey) = thing.x, thing.y, thing.tints, thing.errors
        if thing.kind == "points":
            inside = thing.good & (x >= view.x_low) & (x <= view.x_high) & (y >= view.y_low) & (y <= view.y_high)
            x, y, tints, ex, ey = (None if v is None else v[inside] for v in (x, y, tints, ex, ey))  # type: ignore[assignment]
        series = Series(name, thing.kind, line, x, y, **style, tints=tints, ex=ex, ey=ey)
        if thing.kind == "line" and "marker" not in style:
            series.marker = "none"
        if thing.kind == "bars":
            self._side_by_side(series, thing)
        return series

    def _side_by_side(self, series: Series, thing: Points) -> None:
        bars = [t for _, t in self.things if isinstance(t, Points) and t.kind == "bars"]
        step = min(_bar_step(t.x) for t in bars)
        series.spread = step * 0.8 / len(bars)
        place = next(k for k, t in enumerate(bars) if t is thing)
        series.x = series.x + (place - (len(bars) - 1) / 2) * series.spread

    def _place(self, index: int) -> int:
        """Which ink: things are counted in order. What is put by hand is not, and rows that were left out have that of their points."""

        def left_out(thing: Thing) -> bool:
            return isinstance(thing, Points) and thing.left_out

        counted = [t for _, t in self.things[:index] if not isinstance(t, Put | SpacePut) and not left_out(t)]
        return len(counted) - left_out(self.things[index][1])

    def place_of(self, thing: Thing) -> int:
        return self._place(next(k for k, (_, t) in enumerate(self.things) if t is thing))

    @property
    def inks(self) -> int:
        return sum(not isinstance(t, Put | SpacePut) for _, t in self.things)

    def _curve_series(self, name: str, line: int, curve: Curve, style: dict[str, Any], view: View, found: Sampled) -> Series:
        x, y = _within_paper(found, view) if curve.upper is None else (found.x, found.y)
        style.setdefault("marker", "none")
        series = Series(name, "band" if curve.upper is not None else "curve", line, x, y, **style)
        series.formula, series.variable = _texts(curve.formula), curve.variable
        if curve.upper is not None:
            series.y2 = self._upper(curve, x)
            series.formula = _texts(curve.formula, curve.upper)
        if curve.tint is not None:
            series.tints = self._tint_values(curve.tint, curve.variable, x)
            series = self._finer_tints(series, curve, view)
        return series

    def _finer_tints(self, series: Series, curve: Curve, view: View) -> Series:
        """Colour changes along straight stretches too: they get places of their own, a few points apart."""
        x = series.x
        with np.errstate(all="ignore"):
            wide = np.diff(view.x_pt(x))
        more = [np.linspace(a, b, int(w / 2.5) + 2)[1:-1] for a, b, w in zip(x[:-1], x[1:], wide, strict=True) if w > 2.5]
        if more:
            added = np.concatenate(more)
            values = curve.sampler.values(added)
            order = np.argsort(np.concatenate([x, added]), kind="stable")
            series.x = np.concatenate([x, added])[order]
            series.y = np.concatenate([series.y, values])[order]
            assert curve.tint is not None
            series.tints = self._tint_values(curve.tint, curve.variable, series.x)
        return series

    def _tint_values(self, tint: Formula, variable: str, x: Floats) -> Floats:
        with np.errstate(all="ignore"):
            values = np.asarray(Tape([tint], [variable]).numeric(x)[0], dtype=float)
        return np.where(np.isfinite(values), values, np.nan) * np.ones_like(x)

    def _path_series(self, name: str, line: int, path: Path, style: dict[str, Any], view: View) -> Series:
        found = follow(path.function, view, path.first)
        style.setdefault("marker", "none")
        series = Series(name, "curve", line, found.x, found.y, **style)
        series.formula, series.variable, series.span = _texts(*path.formulas), path.variable, (path.low, path.high)
        if path.tint is not None:
            series.tints = self._tint_values(path.tint, path.variable, found.t)
        if not found.complete:
            self.say(path.request, "the curve turns faster than can be drawn in places; the line is a band there")
        if found.jumps:
            self.say(path.request, f"jumps at {found.jumps} place{'s' if found.jumps > 1 else ''}; not joined there")
        return series

    def _equation_series(self, name: str, line: int, equation: Equation, style: dict[str, Any], view: View) -> Series:
        low_x, high_x = max(equation.x[0], view.x_low), min(equation.x[1], view.x_high)
        low_y, high_y = max(equation.y[0], view.y_low), min(equation.y[1], view.y_high)
        if not (low_x < high_x and low_y < high_y):
            raise refusal("outside-window", "the spans of this curve lie outside the window of the axes", equation.request)
        size = _part(view, "x", low_x, high_x), _part(view, "y", low_y, high_y)
        inner = View(low_x, high_x, low_y, high_y, *size, view.x_log, view.y_log, view.x_fold, view.y_fold)
        found = [level_curve(gradient(f, equation.variables), inner) for f in equation.factors]
        pieces = [np.column_stack([p.x, p.y]) for p in found if p.x.size]
        lone = np.concatenate([p.singular for p in found]) if found else np.empty((0, 2))
        if not pieces and not lone.size:
            self.say(equation.request, "no place in the window fulfils this equation")
        for place in lone:
            # A lone point is drawn as the shortest of strokes with a round end.
            if not pieces or not np.any(np.all(np.concatenate(pieces) == place, axis=1)):
                pieces.append(np.array([place, place]))
        places = joined(pieces, 2)
        style.setdefault("marker", "none")
        return Series(name, "curve", line, places[:, 0], places[:, 1], **style)

    # ------------------------------------------------------------ level lines and sections

    def _flat_span(self, thing: Equation | Contours | Cut) -> tuple[float, float]:
        """The vertical window of what has one of its own."""
        if isinstance(thing, Cut):
            return self._cut_window(thing, 1)
        return thing.spans[1] if isinstance(thing, Contours) else thing.y

    def _contour_series(self, name: str, line: int, contours: Contours, style: dict[str, Any], view: View) -> Series:
        ground = contours.ground
        (x0, x1), (y0, y1) = contours.spans
        for note in dict.fromkeys(ground.notes):
            self.say(contours.request, note)
        size = _part(view, "x", x0, x1), _part(view, "y", y0, y1)
        heights = self._heights(contours)
        if ground.outline:
            self.say(contours.request, "drawn within the outline of the points; beyond it would be extrapolation")
        low, high = float(heights.min()), float(heights.max())
        levels = levels_between(contours.levels if contours.levels is not None else 9, low, high)
        lines = [(level, x, y) for level, x, y in contour_lines(contours, levels, size) if x.size]
        missing = [level for level in levels if level not in {at for at, _, _ in lines}]
        if missing:
            said = ", ".join(short(v) for v in missing[:5]) + (f" and {len(missing) - 5} more" if len(missing) > 5 else "")
            self.say(contours.request, f"no line at {said}: the heights in the window run from {short(low, 4)} to {short(high, 4)}")
        gap = np.array([np.nan])
        x, y, tints = (np.concatenate([p for part in lines for p in (part[k] if k else np.full(part[1].size, part[0]), gap)] or [gap])
                       for k in (1, 2, 0))  # fmt: skip
        plain = "colour" in style
        style.setdefault("width", 0.9)
        found = Series(name, "contours", line, x, y, **style, tints=tints, levels=[float(v) for v in levels])
        found.fill = contours.fill
        if contours.fill:
            found.grid = _height_grid(contours, size)
        found.plain = plain
        return found

    def _cut_box(self, cut: Cut) -> Any:
        """Where a section is looked for: the surface's spans, and as far up and down as it reaches."""
        if cut.box is None:
            ground = cut.ground
            if ground.what == "implicit":
                if any(s is None for s in ground.spans):
                    self._choose_window(cut)
                cut.box = np.array([s if s is not None else (-np.inf, np.inf) for s in ground.spans])
            elif ground.what == "explicit":
                z = self._heights(cut)
                room = 0.02 * float(np.ptp(z)) or 0.5
                cut.box = np.array([*ground.spans, (float(z.min()) - room, float(z.max()) + room)])
            else:
                cut.box = np.array([[-1e9, 1e9]] * 3)
        return cut.box

    def _choose_window(self, cut: Cut) -> None:
        found = cut.own_window
        if found is None:
            where = "" if cut.ground.own_box() is None else f"the plane {cut.said} does not meet this surface within 1000 of the origin"
            raise refusal("plane-outside" if where else "nowhere", where or NOWHERE, cut.request)
        window, ended = found
        room = np.where(ended, 0.05, 0.0) * np.ptp(window, axis=1)
        cut.window = np.column_stack([window[:, 0] - room, window[:, 1] + room])
        if not ended.all():
            self.say(cut.request, "the section goes on beyond the window")

    def _heights(self, thing: Contours | Cut) -> Floats:
        """Heights of what lies over the plane, without those that run off far beyond the rest; never empty."""
        z = _reach(thing.ground.first_look(_LOOKED)[..., 2].ravel())
        if not z.size:
            raise refusal("nowhere-defined", "this has no value anywhere in its window", thing.request)
        return z

    def _cut_section(self, cut: Cut) -> Any:
        if cut.section is None:
            cut.section = cut.found(self._cut_box(cut))
            if not len(cut.section.flat):
                raise refusal("plane-outside", f"the plane {cut.said} does not meet this surface in its window", cut.request)
            self.say_section(cut, cut.section)
        return cut.section

    def _cut_window(self, cut: Cut, k: int) -> tuple[float, float]:
        flat = self._cut_section(cut).flat
        flat = flat[np.isfinite(flat[:, 0])]
        sizes = np.ptp(flat, axis=0)
        # In true lengths the same room all around; else each side in its own measure.
        size = float(sizes.max()) if _SLIVER < sizes[1] / max(float(sizes[0]), 1e-300) < 1 / _SLIVER else float(sizes[k])
        room = 0.06 * max(size, 1e-12)
        return float(flat[:, k].min()) - room, float(flat[:, k].max()) + room

    def _cut_series(self, name: str, line: int, cut: Cut, style: dict[str, Any]) -> Series:
        flat = self._cut_section(cut).flat
        for note in dict.fromkeys(cut.ground.notes):
            self.say(cut.request, note)
        style.setdefault("marker", "none")
        return Series(name, "curve", line, flat[:, 0], flat[:, 1], **style)

    def _lengths_are_true(self) -> bool:
        """Sections alone are drawn in their true lengths, unless that would make a sliver of the window."""
        cuts = [t for _, t in self.things if isinstance(t, Cut)]
        if not cuts or any(not isinstance(t, Cut | Put) for _, t in self.things) or {self.scale("x"), self.scale("y")} != {"linear"}:
            return False
        x, y = (max(self._cut_window(t, k)[1] for t in cuts) - min(self._cut_window(t, k)[0] for t in cuts) for k in (0, 1))
        return bool(_SLIVER < y / x < 1 / _SLIVER)

    def say_section(self, cut: Cut, found: Any) -> None:
        """How long a section is, and what it encloses, with as many digits as stood still."""
        if not len(found.flat):
            self.say(cut.request, f"the plane {cut.said} does not meet this surface in the box")
            return
        parts = f"{found.branches} parts, together " if found.branches > 1 else ""
        text = f"section at {cut.said}: {parts}{measured(*found.length)} long"
        if found.area is not None:
            text += f", enclosing an area of {measured(*found.area)}"
        self.say(cut.request, text + " (checked)")

    def _put_series(self, name: str, put: Put, view: View) -> Series:
        x, y = put.x.copy(), put.y.copy()
        if put.kind == "rule" and np.isnan(x).all():
            x = np.array([view.x_low, view.x_high])
            if not view.y_low <= y[0] <= view.y_high:
                self.say(put.statement, f"this line at {short(float(y[0]))} lies outside the window")
        elif put.kind == "rule" and np.isnan(y).all():
            y = np.array([view.y_low, view.y_high])
            if not view.x_low <= x[0] <= view.x_high:
                self.say(put.statement, f"this line at {short(float(x[0]))} lies outside the window")
        elif put.kind == "text" and not (view.x_low <= x[0] <= view.x_high and view.y_low <= y[0] <= view.y_high):
            self.say(put.statement, f"the text stands at ({short(float(x[0]))}, {short(float(y[0]))}), outside the window")
        elif put.kind == "mark":
            outside = (x < view.x_low) | (x > view.x_high) | (y < view.y_low) | (y > view.y_high)
            if outside.any():
                self.say(put.statement, f"{int(outside.sum())} of {x.size} marked places lie outside the window")
        return Series(name, put.kind, self.line_of(put.statement), x, y, **put.style, text=put.text)

    def _points_seen(self, points: Points, view: View) -> None:
        inside = points.good & (points.x >= view.x_low) & (points.x <= view.x_high) & (points.y >= view.y_low) & (points.y <= view.y_high)
        shown, count = int(inside.sum()), int(points.good.sum())
        if shown < count and points.kind == "points":
            self.say(points.request, f"{count - shown} of {count} points lie outside the window")

    # ------------------------------------------------------------ colours

    def _colour_axis(self, series: list[Series]) -> AxisSpec | None:
        tints = [s.tints[np.isfinite(s.tints)] for s in series if s.tints is not None and s.kind != "contours"]
        tints += [np.array(s.levels) for s in series if s.kind == "contours" and not s.plain and s.levels]
        tints += [s.grid["z"][np.isfinite(s.grid["z"])] for s in series if s.kind == "contours" and s.fill and s.grid is not None]
        tints = [t for t in tints if t.size]
        if not tints:
            if "colour" in self.axes:
                raise refusal("colour-axis", "nothing in this figure is coloured by a number; say 'colour by ...'", self.axes["colour"])
            return None
        given = self.given("colour")
        every = np.concatenate(tints)
        if self.scale("colour") == "logarithmic":
            every = every[every > 0]
            if not every.size:
                raise refusal("log-window", "no number that is shown as a colour lies above zero", self.axes["colour"])
        low, high = given if given is not None else (float(every.min()), float(every.max()))
        if given is None:
            low, high = self.evened(low, high)
        if not low < high:
            low, high = low - 0.5, high + 0.5
        return self.axis_spec("colour", low, high, self.axes["colour"].text if "colour" in self.axes else self._tint_text())

    def evened(self, low: float, high: float) -> tuple[float, float]:
        """Tones of two sides part at zero: as far to one side as to the other."""
        option = self._axis_option("colour", "tones")
        if option is None or option.value != "two-sided" or not low < 0 < high:
            return low, high
        return -max(-low, high), max(-low, high)

    def _tint_text(self) -> str | None:
        """The formula or list that gives the colours, where it is a plain name."""
        for _, thing in self.things:
            option = thing.request.option("colour") if not isinstance(thing, Put | SpaceThing) else None
            if option is not None and option.by and isinstance(option.value, tree.Name | tree.Field):
                return f"${name_tex(option.value.name)}$"
        return None

    # ------------------------------------------------------------ texts

    def _axis_text(self, which: str) -> str | None:
        axis = self.axes.get(which)
        if axis is not None and axis.text is not None:
            return axis.text
        side: Side = "right" if which == "right" else "left"
        things = [t for _, t in self.things] if which == "x" else [t for _, t in self._on(side)]
        points = [t for t in things if isinstance(t, Points)]
        said = {t.texts[0 if which == "x" else 1] for t in points}
        if len(said) == 1 and (text := said.pop()) is not None:
            return text
        sections = [t for t in things if isinstance(t, Cut)]
        if sections and all(isinstance(t, Cut | Put) for t in things):
            return _section_text(sections[0], which)
        contours = [t for t in things if isinstance(t, Contours)]
        if contours and all(isinstance(t, Contours | Put | Points) for t in things):
            k = 0 if which == "x" else 1
            return contours[0].ground.texts[k] or f"${name_tex(contours[0].ground.axes[k])}$"
        equations = [t for t in things if isinstance(t, Equation)]
        if equations and all(isinstance(t, Equation | Put) for t in things):
            names = {t.variables[0 if which == "x" else 1] for t in equations}
            return f"${name_tex(names.pop())}$" if len(names) == 1 else None
        if which == "x" and not any(isinstance(t, Path | Equation) for t in things):
            names = {t.variable for t in things if isinstance(t, Curve)}
            return f"${name_tex(names.pop())}$" if len(names) == 1 and not points else None
        return None

    # ------------------------------------------------------------ what has vanished

    def _vanished(self, series: list[Series], view: dict[Side, View]) -> None:
        """Curves so much smaller than others of their axis that nothing of them can be seen: said, with a way out."""
        for side, window in view.items():
            if window.y_log or self.scale("y" if side == "left" else "right") != "linear":
                continue
            mine = [(s, t) for s, (_, t) in zip(series, self.things, strict=True)
                    if s.right == (side == "right") and s.kind in ("curve", "points", "line")]  # fmt: skip
            parts = {s.id: _height_share(s, window) for s, _ in mine}
            if max(parts.values(), default=0.0) < _LARGE:
                continue
            gone = [(s, t) for s, t in mine if 0.0 < parts[s.id] < _VANISHED]
            if gone and len(gone) < len(mine):
                self._say_vanished(gone[0][0], gone[0][1], len(gone), side, mine)

    def _say_vanished(self, series: Series, thing: Thing, count: int, side: Side, mine: list[tuple[Series, Thing]]) -> None:
        assert not isinstance(thing, Put | SpaceThing)
        request = thing.request
        fixes: list[Fix] = []
        alone = sum(t.request is request for _, t in mine if not isinstance(t, Put | SpaceThing)) == 1
        if side == "left" and alone and not any(s.right for s, _ in mine):
            fixes.append(replace(request.end, request.end, ", axis right", "give it the right axis: axis right"))
        positive = all((s.y[np.isfinite(s.y)] > 0).all() for s, _ in mine)
        if positive and side == "left":
            fixes.append(self._logarithmic_fix())
        fixes.append(advise("a panel of its own"))
        said = f"'{series.label}'" if series.label else "this"
        more = f" and {count - 1} more" if count > 1 else ""
        text = f"{said}{more} is so much smaller than the rest that it looks like a level line"
        self.sheet.messages.append(Message("warning", "vanished", request.start, request.end, text, tuple(fixes)))

    def _logarithmic_fix(self) -> Fix:
        axis = self.axes.get("y")
        if axis is not None:
            return replace(axis.end, axis.end, ", scale logarithmic", "scale logarithmic")
        if isinstance(self.node, tree.Figure | tree.Panel) and self.node.body:
            at = self.node.body[-1].end
            text = self.sheet.text
            indent = self.node.body[0].start - (text.rfind("\n", 0, self.node.body[0].start) + 1)
            return replace(at, at, "\n" + " " * indent + "y axis, scale logarithmic", "scale logarithmic")
        return advise("y axis, scale logarithmic")

    # ------------------------------------------------------------ saying what was chosen and found

    def say(self, node: tree.Node, text: str) -> None:
        self.sheet.notes.append(Note(self.line_of(node), text))

    def _say_breaks(self, curve: Curve, sampled: Sampled, view: View) -> None:
        v = curve.variable
        poles = [b for b in sampled.breaks if b.kind == "pole"] + even_poles(curve.sampler, sampled.x, sampled.y, view)
        points = [b for b in sampled.breaks if b.kind == "gap" and b.high - b.low <= 1e-9 * (view.x_high - view.x_low)]
        spans = [b for b in sampled.breaks if b.kind == "gap" and b not in points]
        jumps = [b for b in sampled.breaks if b.kind == "jump"]
        for gap in spans:
            why = self._why(curve, (gap.low + gap.high) / 2)
            low, high = _tidy(gap.low, view), _tidy(gap.high, view)
            self.say(curve.request, f"no value from {v} = {low} to {high}: {why}")
        tall = 1e6 * max(abs(view.y_low), abs(view.y_high))
        poles += [p for p in points if float(np.nanmax(np.abs(curve.sampler.values(np.array([p.low, p.high]))), initial=0.0)) > tall]
        single = [p for p in points if not any(abs(p.low - q.low) < 1e-9 * (view.x_high - view.x_low) for q in poles)]
        if poles:
            self.say(curve.request, f"grows without bound at {v} = {_places(poles, view)}; not joined there")
        if single:
            self.say(curve.request, f"no value at {v} = {_places(single, view)}: {self._why(curve, _plain_place(single[0], view))}")
        if jumps:
            self.say(curve.request, f"jumps at {v} = {_places(jumps, view)}; not joined there")
        if view.y_log and bool((sampled.y[np.isfinite(sampled.y)] <= 0).any()):
            self.say(curve.request, "values that are not above zero have no place on a logarithmic axis")
        if not sampled.complete:
            self.say(curve.request, "the curve turns faster than can be drawn in places; the line is a band there")

    def _why(self, curve: Curve, x: float) -> str:
        return no_value(substitute(curve.formula, {curve.variable: Given(x)}), curve.node).message.text


def _section_text(cut: Cut, which: str) -> str:
    """What the axes of a section's plane say: the coordinates themselves, or lengths along the floor and up the plane."""
    normal, axes = cut.plane.normal, cut.ground.axes
    alone = np.flatnonzero(normal)
    if alone.size == 1:
        others = [i for i in range(3) if i != alone[0]]
        k = others[0 if which == "x" else 1]
        return cut.ground.texts[k] or f"${name_tex(axes[k])}$"
    if which == "x":
        return "length along the plane's trace"
    return f"${name_tex(axes[2])}$" if normal[2] == 0 else "length up the plane"


def _height_grid(contours: Contours, size: tuple[float, float]) -> dict[str, Any]:
    """Heights on a fine grid, for the areas between level lines; their edges are drawn over by the lines themselves."""
    (x0, x1), (y0, y1) = contours.spans
    xs, ys = (np.linspace(a, b, int(np.clip(s / 1.2, 60, 420))) for (a, b), s in zip(((x0, x1), (y0, y1)), size, strict=True))
    heights = contours.ground.sheet(contours.spans).at(*(a.ravel() for a in np.meshgrid(xs, ys)))[:, 2]
    return {"x": xs, "y": ys, "z": heights.reshape(ys.size, xs.size)}


class InsetBuilder(PanelBuilder):
    """A small window inside another; without drawn things of its own it shows those around it."""

    def __init__(self, scope: Lowering, sheet: Sheet, line: int, node: tree.Inset) -> None:
        super().__init__(scope, sheet, line, node)
        self.inset = node
        self.no_legend = True

    def built(self, around: PanelBuilder) -> PanelData:
        if not any(not isinstance(t, Put) for _, t in self.things):
            if self.given("x") is None:
                raise refusal("inset-window", "say which part the inset shows", self.inset, advise("x axis from LOW to HIGH"))
            own = [t for _, t in self.things]
            self.things = []
            for _, thing in around.things:
                if not (isinstance(thing, Put) and thing.kind == "text"):
                    self.add(_copied(thing))
            for thing in own:
                self.add(thing)
            if "y" in around.axes and "y" not in self.axes and around.scale("y") != "linear":
                self.axes["y"] = tree.Axis(0, 0, "y", None, None, None, around.axes["y"].options)
        size = next((o for o in self.inset.options if o.name == "size"), None)
        share = 0.36
        if size is not None:
            assert isinstance(size.value, tree.Expression)
            share = self.scope.number(size.value).value
            if not 0.1 <= share <= 0.9:
                raise refusal("option-range", f"an inset takes 0.1 to 0.9 of the window, not {short(share)}", size)
        self.share = (around.share[0] * share, around.share[1] * share)
        notes = len(self.sheet.notes)
        panel = self.build(self.natural_x())
        # What an inset chooses is seen in it; the notes are those of the figure.
        del self.sheet.notes[notes:]
        panel.share, panel.words = share, " ".join(self.inset.words)
        panel.legend = None
        if self.inset.at is not None:
            panel.at = self._collector.point(self.inset.at)
        for axis, spec in (("x", panel.x), ("y", panel.y)):
            if axis not in self.axes or self.axes[axis].text is None:
                spec.text = None
        return panel


def _copied(thing: Thing) -> Thing:
    """The same thing, to be sampled for another window."""
    from dataclasses import replace as changed

    if isinstance(thing, Curve):
        return Curve(thing.node, thing.request, thing.formula, thing.variable, thing.low, thing.high, thing.style, thing.tint, thing.upper)
    if isinstance(thing, Path):
        return Path(thing.request, thing.formulas, thing.variable, thing.low, thing.high, thing.style, thing.tint)
    return changed(thing)


def _is_right(thing: Thing) -> bool:
    return bool(thing.style.get("right"))


def _reach(values: Floats) -> Floats:
    """The values that a window should show: all, or without the few that run off far beyond the rest."""
    good = values[np.isfinite(values)]
    if good.size < 16:
        return good
    low, high = np.quantile(good, [0.05, 0.95])
    spread = max(float(high - low), 1e-300)
    keep = (good >= low - 3 * spread) & (good <= high + 3 * spread)
    return good if keep.mean() > 0.999 else good[keep]


def _bar_step(x: Floats) -> float:
    places = np.unique(x[np.isfinite(x)])
    return float(np.diff(places).min()) if places.size > 1 else 1.0


def _threshold(greatest: float) -> float:
    """Where a signed-logarithmic axis turns linear if the script does not say: three powers of ten below its end."""
    return float(10.0 ** (np.floor(np.log10(greatest)) - 3)) if greatest > 0 else 1.0


def _texts(*formulas: Formula) -> list[str] | None:
    found = [formula_text(f) for f in formulas]
    return None if None in found else [t for t in found if t is not None]


def _part(view: View, axis: str, low: float, high: float) -> float:
    """How long a part of an axis is on paper."""
    ends = np.array([low, high])
    a, b = view.x_pt(ends) if axis == "x" else view.y_pt(ends)
    return max(float(b - a), 1.0)


def _height_share(series: Series, view: View) -> float:
    """How much of the window's height a drawn thing spans; 0 for a level one."""
    y = series.y[np.isfinite(series.y)]
    y = y[(y >= view.y_low) & (y <= view.y_high)]
    if y.size < 2 or np.ptp(y) <= 1e-12 * max(1e-300, float(np.abs(y).max())):
        return 0.0
    return float(np.ptp(y)) / (view.y_high - view.y_low)


def _tidy(value: float, view: View) -> str:
    scale = view.x_high - view.x_low
    return short(0.0 if abs(value) < 1e-12 * scale else value, 6)


def _plain_place(b: Break, view: View) -> float:
    middle = (b.low + b.high) / 2
    return 0.0 if abs(middle) < 1e-12 * (view.x_high - view.x_low) else middle


def _places(breaks: list[Break], view: View) -> str:
    texts = list(dict.fromkeys(_tidy((b.low + b.high) / 2, view) for b in sorted(breaks, key=lambda b: b.low)))
    return ", ".join(texts[:6]) + (f" and {len(texts) - 6} more" if len(texts) > 6 else "")


def _within_paper(sampled: Sampled, view: View) -> tuple[Floats, Floats]:
    """Lines that leave the paper cut a little outside it, so that no file holds places miles away."""
    x, y = sampled.x, sampled.y
    if view.y_log:
        y = np.where(y > 0, y, np.nan)
    p = view.y_pt(y)
    low, high = -0.5 * view.height_pt, 1.5 * view.height_pt
    inside = (p >= low) & (p <= high)
    keep_x: list[float] = []
    keep_y: list[float] = []

    def cut(i: int, j: int) -> None:
        """The place where the line from i to j crosses the limit nearest to i."""
        limit = high if p[j] > high else low
        share = (limit - p[i]) / (p[j] - p[i])
        keep_x.append(float(x[i] + (x[j] - x[i]) * share))
        keep_y.append(_from_pt(limit, view))

    finite = np.isfinite(p)
    if bool((inside | ~finite).all()):
        return x, y
    for i in range(x.size):
        if not finite[i]:
            keep_x.append(float(x[i]))
            keep_y.append(np.nan)
        elif inside[i]:
            if i and finite[i - 1] and not inside[i - 1]:
                cut(i, i - 1)
            keep_x.append(float(x[i]))
            keep_y.append(float(y[i]))
            if i + 1 < x.size and finite[i + 1] and not inside[i + 1]:
                cut(i, i + 1)
        elif i and finite[i - 1] and inside[i - 1]:
            keep_x.append(float(x[i]))
            keep_y.append(np.nan)
        elif i and finite[i - 1] and not inside[i - 1] and (p[i] > high) != (p[i - 1] > high):
            # From far below to far above in one stroke: it crosses the paper.
            for limit in (low, high) if p[i] > p[i - 1] else (high, low):
                share = (limit - p[i - 1]) / (p[i] - p[i - 1])
                keep_x.append(float(x[i - 1] + (x[i] - x[i - 1]) * share))
                keep_y.append(_from_pt(limit, view))
            keep_x.append(float(x[i]))
            keep_y.append(np.nan)
    return np.array(keep_x), np.array(keep_y)


def _from_pt(place: float, view: View) -> float:
    share = place / view.height_pt
    if view.y_log:
        return float(np.exp(np.log(view.y_low) + share * (np.log(view.y_high) - np.log(view.y_low))))
    if view.y_fold:
        ends = np.arcsinh(np.array([view.y_low, view.y_high]) / view.y_fold)
        return float(view.y_fold * np.sinh(ends[0] + share * (ends[1] - ends[0])))
    return view.y_low + share * (view.y_high - view.y_low)
