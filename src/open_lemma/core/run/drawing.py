"""From a figure block to plain drawing data: curves sampled for paper, windows chosen, everything chosen said."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any, Literal

import numpy as np

from ..figure.colours import colour_code, known_names
from ..figure.draw import BadText, check_text
from ..figure.model import DEFAULT_SIZE_MM, POINTS_PER_MM, AxisSpec, FigureData, Floats, Series
from ..formula.domain import clip, division_places, joints, stated_domain
from ..formula.nodes import Formula, Given, Number, substitute
from ..formula.tape import Tape
from ..language import tree
from ..language.cursor import nearest
from ..language.messages import advise, replace
from ..numerics.bounds import bounds_of
from ..numerics.sampling import Break, Sampled, Sampler, View, away_from_breaks, even_poles, sample
from ..numerics.windows import Choice, x_window, y_window
from .lower import Lowering, described, refusal
from .novalue import no_value, short
from .requests import variable_of
from .values import ItemsValue, ListValue, PointValue, Scalar, TextValue

MAX_THINGS = 400


@dataclass
class Note:
    line: int
    text: str


@dataclass
class _Curve:
    node: tree.Expression
    request: tree.Request
    formula: Formula
    variable: str
    low: float | None
    high: float | None
    style: dict[str, Any]
    tape: Tape = field(init=False)
    sampler: Sampler = field(init=False)
    first: tuple[Floats, Floats] = field(init=False)

    def __post_init__(self) -> None:
        self.tape = Tape([self.formula], [self.variable])

    def function(self, x: Floats) -> Any:
        return self.tape.numeric(x)[0]


@dataclass
class _Points:
    """Given places: drawn as marks, joined by straight pieces, or as a staircase. NaN is a gap."""

    request: tree.Request
    x: Floats
    y: Floats
    style: dict[str, Any]
    kind: Literal["points", "line"] = "points"
    texts: tuple[str | None, str | None] = (None, None)  # what its axes may say: quantity and unit

    @property
    def seen_x(self) -> Floats:
        return self.x[np.isfinite(self.x) & np.isfinite(self.y)]

    @property
    def seen_y(self) -> Floats:
        return self.y[np.isfinite(self.x) & np.isfinite(self.y)]


class FigureBuilder:
    """Works through the statements of one figure; order among them does not matter."""

    def __init__(self, scope: Lowering, line_of: Any, text: str, name: str) -> None:
        self.scope, self.line_of, self.text, self.name = scope, line_of, text, name
        self.things: list[_Curve | _Points] = []
        self.notes: list[Note] = []
        self.axes: dict[str, tree.Axis] = {}
        self.legend: str | None = "auto"
        self.gridlines: Any = None
        self.frame = True
        self.size = DEFAULT_SIZE_MM

    # ------------------------------------------------------------ collecting

    def setting(self, statement: tree.Statement) -> None:
        if isinstance(statement, tree.Axis):
            if statement.text is not None:
                self._check_text(statement.text, statement)
            self.axes[statement.which] = statement
        elif isinstance(statement, tree.Legend):
            self.legend = " ".join(statement.words) or "auto"
        elif isinstance(statement, tree.Gridlines):
            self.gridlines = statement.which
        elif isinstance(statement, tree.Size):
            self.size = (statement.width, statement.height)
        elif isinstance(statement, tree.Without):
            if statement.what == "legend":
                self.legend = None
            elif statement.what == "gridlines":
                self.gridlines = None
            else:
                self.frame = False

    def draw(self, request: tree.Request, scope: Lowering) -> None:
        """One more thing to be drawn, with the names of the place where it stands (a loop may draw many)."""
        outside, self.scope = self.scope, scope
        try:
            self._add(request)
        finally:
            self.scope = outside

    def _add(self, request: tree.Request) -> None:
        if len(self.things) >= MAX_THINGS:
            raise refusal("too-many-things", f"a figure holds at most {MAX_THINGS} drawn things", request)
        if request.noun in ("points", "line", "steps"):
            self.things.append(self._points(request))
            return
        subject = request.subjects[0]
        items = subject.items if isinstance(subject, tree.ListOf) else (subject,)
        for place, item in enumerate(items):
            self.things.append(self._curve(request, item, place, len(items)))

    def _curve(self, request: tree.Request, item: tree.Expression, place: int, count: int) -> _Curve:
        window = request.windows[0] if request.windows else None
        variable = window.name if window else variable_of(item, self.scope)
        formula = self.scope.within(variable).formula(item)
        low = high = None
        if window is not None and window.low is not None and window.high is not None:
            low_value, high_value = self.scope.span(window.low, window.high, "the window")
            clipped = clip(formula, variable, low_value.formula, high_value.formula)
            if clipped.empty:
                raise refusal("outside-domain", "the window lies outside the domain that the definition states", window)
            low, high = self._value(clipped.low), self._value(clipped.high)
            if clipped.narrowed:
                self._say(request, f"{self._source(item)} is defined from {short(low)} to {short(high)} and drawn there")
        else:
            stated = stated_domain(formula, variable)
            if stated is not None:
                low, high = self._value(stated[0]), self._value(stated[1])
                clipped = clip(formula, variable, *stated)
            else:
                clipped = clip(formula, variable, Number(_MINUS), Number(_PLUS))
        style = self._style(request, place, count)
        return _Curve(item, request, clipped.formula, variable, low, high, style)

    def _value(self, formula: Formula) -> float:
        return float(np.asarray(Tape([formula], []).numeric()[0]))

    def _points(self, request: tree.Request) -> _Points:
        subject = request.subjects[0]
        texts: tuple[str | None, str | None] = (None, None)
        if request.against is not None:
            ys, xs = (self.scope.as_list(self.scope.value(e), e) for e in (subject, request.against))
            y, x = ys.data, xs.data
            if x.size != y.size:
                raise refusal(
                    "list-lengths",
                    f"{self._source(subject)} has {y.size} elements and {self._source(request.against)} has {x.size}",
                    subject,
                )
            texts = self._axis_word(request.against, xs), self._axis_word(subject, ys)
        else:
            x, y = self._pairs(subject)
        if not (np.isfinite(x) & np.isfinite(y)).any():
            raise refusal("no-points", "there are no points to draw", request)
        if request.noun == "steps":
            x, y = _staircase(x, y)
        kind: Literal["points", "line"] = "points" if request.noun == "points" else "line"
        return _Points(request, x.astype(float), y.astype(float), self._style(request, 0, 1), kind, texts)

    def _pairs(self, subject: tree.Expression) -> tuple[Floats, Floats]:
        """A list of points; a gap among them breaks a line."""
        found = self.scope.value(subject)
        items = found.items if isinstance(found, ItemsValue) else None
        if items is None or not all((isinstance(i, PointValue) and len(i.items) == 2) or (isinstance(i, Scalar) and i.gap) for i in items):
            if isinstance(found, ListValue) and not len(found.data):
                return np.array([]), np.array([])
            raise refusal("points", "points need a list against another, or a list of points", subject, advise("points of ys against xs"))
        pairs = [[c.value for c in i.items] if isinstance(i, PointValue) else [np.nan, np.nan] for i in items]
        x, y = (np.array(column, dtype=float) for column in zip(*pairs, strict=True))
        return x, y

    def _axis_word(self, e: tree.Expression, xs: ListValue) -> str | None:
        """`h / m`: quantity and unit, as ISO 80000-1:2009, 7.1.4 writes them on axes; only where there is a unit to be said."""
        if xs.unit is None or xs.unit.plain:
            return None
        name = e.name if isinstance(e, tree.Field | tree.Name) else None
        unit = f"${xs.unit.tex()}$"
        return f"${_axis_name(name)}$ / {unit}" if name else f"in {unit}"

    # ------------------------------------------------------------ dress

    def _style(self, request: tree.Request, place: int, count: int) -> dict[str, Any]:
        style: dict[str, Any] = {}
        for option in request.options:
            value = option.value
            if isinstance(value, tree.ListOf) and option.name in ("label", "colour"):
                if len(value.items) != count:
                    raise refusal(
                        "option-count", f"{len(value.items)} {option.name}s are given for {count} curve{'s' if count > 1 else ''}", option
                    )
                value = value.items[place]
            if option.name == "label":
                assert isinstance(value, tree.Expression)
                label = self._label(value)
                self._check_text(label, option)
                style["label"] = label
            elif option.name == "colour":
                style["colour"] = self._colour(value.value if isinstance(value, tree.Text) else value, option)
            elif isinstance(value, str):
                style[option.name] = value
            else:
                style[option.name] = self._measure(option, self.scope.number(value).value)
        return style

    def _label(self, e: tree.Expression) -> str:
        found = self.scope.value(e)
        if not isinstance(found, TextValue):
            raise refusal("text-needed", f"a label is a text; this is {described(found)}", e)
        return found.text

    def _measure(self, option: tree.Option, value: float) -> float:
        low, high = {"width": (0.1, 20.0), "size": (0.5, 60.0), "opacity": (0.0, 1.0)}[option.name]
        if not low <= value <= high:
            unit = "" if option.name == "opacity" else " pt"
            raise refusal("option-range", f"{option.name} is {low:g} to {high:g}{unit}, not {value:g}", option)
        return value

    def _colour(self, value: Any, option: tree.Option) -> str:
        if not isinstance(value, str):
            raise refusal("colour", "a colour is a name or a code in quotes", option, advise('colour brick, colour "#BC4B2C"'))
        code = colour_code(value)
        if code is None:
            meant = nearest(value, known_names())
            fixes = [replace(option.end - len(value), option.end, meant)] if meant and self.text[option.end - 1] != '"' else []
            raise refusal("colour", f"there is no colour '{value}'", option, *fixes)
        return code

    def _check_text(self, text: str, node: tree.Node) -> None:
        try:
            check_text(text)
        except BadText as trouble:
            raise refusal("bad-mathematics", f"the mathematics in this text cannot be typeset: {trouble}", node) from None

    # ------------------------------------------------------------ windows and sampling

    def build(self, title: str | None, line: int) -> FigureData:
        if not self.things:
            raise refusal("empty-figure", "nothing is drawn in this figure", tree.Node(self._start(line), self._start(line) + 1))
        x_log = self._scale("x") == "logarithmic"
        y_log = self._scale("y") == "logarithmic"
        x_low, x_high = self._x_window(x_log)
        curves = [t for t in self.things if isinstance(t, _Curve)]
        for curve in curves:
            self._look(curve, x_low, x_high, x_log)
        y_choice = self._y_window(curves, y_log)
        series, y_choice = self._sampled(curves, (x_low, x_high, x_log), y_choice, y_log)
        if self._given("y") is None:
            self.notes.insert(0, Note(line, f"vertical window {short(y_choice.low, 4)} to {short(y_choice.high, 4)}: {y_choice.reason}"))
        x_axis = AxisSpec(self._axis_text("x", curves), x_low, x_high, "logarithmic" if x_log else "linear")
        y_axis = AxisSpec(self._axis_text("y", curves), y_choice.low, y_choice.high, "logarithmic" if y_log else "linear")
        return FigureData(self.name, title, line, *self.size, x_axis, y_axis, series, self.legend, self.gridlines, self.frame)

    def _start(self, line: int) -> int:
        return sum(len(t) + 1 for t in self.text.split("\n")[: line - 1])

    def _scale(self, which: str) -> str:
        axis = self.axes.get(which)
        option = next((o for o in axis.options if o.name == "scale"), None) if axis else None
        return str(option.value) if option else "linear"

    def _given(self, which: str) -> tuple[float, float] | None:
        axis = self.axes.get(which)
        if axis is None or axis.low is None or axis.high is None:
            return None
        low, high = (end.value for end in self.scope.span(axis.low, axis.high, "the window of the axis"))
        if self._scale(which) == "logarithmic" and low <= 0:
            raise refusal("log-window", f"a logarithmic axis starts above zero, not at {short(low)}", axis.low)
        return low, high

    def _x_window(self, logarithmic: bool) -> tuple[float, float]:
        given = self._given("x")
        lows: list[float] = []
        highs: list[float] = []
        for thing in self.things:
            if isinstance(thing, _Curve):
                low, high = self._curve_window(thing, given)
                lows.append(low)
                highs.append(high)
            else:
                xs = thing.seen_x
                room = 0.04 * float(np.ptp(xs)) or 0.5
                lows.append(float(xs.min()) - (0 if logarithmic else room))
                highs.append(float(xs.max()) + (0 if logarithmic else room))
        if given is not None:
            return given
        low, high = min(lows), max(highs)
        if logarithmic:
            return self._positive_window(low, high)
        return (low, high) if low < high else (low - 0.5, high + 0.5)

    def _positive_window(self, low: float, high: float) -> tuple[float, float]:
        if high <= 0:
            axis = self.axes["x"]
            raise refusal("log-window", "nothing to be drawn lies above zero, where a logarithmic axis is", axis)
        if low <= 0:
            low = high / 1000
            self.notes.append(Note(self.line_of(self.axes["x"].start), f"a logarithmic axis has no zero: it starts at {short(low, 4)}"))
        return (low, high) if low < high else (low / 2, high * 2)

    def _curve_window(self, curve: _Curve, given: tuple[float, float] | None) -> tuple[float, float]:
        if curve.low is None or curve.high is None:
            if given is not None:
                curve.low, curve.high = given
            else:
                choice = x_window(curve.function)
                curve.low, curve.high = choice.low, choice.high
                self._say(
                    curve.request, f"window for {curve.variable} chosen: {short(choice.low)} to {short(choice.high)}, {choice.reason}"
                )
        return curve.low, curve.high

    def _look(self, curve: _Curve, x_low: float, x_high: float, x_log: bool) -> None:
        assert curve.low is not None
        assert curve.high is not None
        low, high = max(curve.low, x_low), min(curve.high, x_high)
        if not low < high:
            low, high = x_low, x_high
            raise refusal(
                "outside-window",
                f"this curve runs from {short(curve.low)} to {short(curve.high)}, outside the window of the axis",
                curve.request,
            )
        curve.sampler = Sampler(curve.function, low, high, x_log, bounds_of(curve.formula, curve.variable))
        places = division_places(curve.formula, curve.variable)
        places += [self._value(j) for j in joints(curve.formula, curve.variable)]
        curve.first = curve.sampler.first_grid(sorted(set(places)))
        if not np.isfinite(curve.first[1]).any():
            why = self._why(curve, float(curve.first[0][curve.first[0].size // 2]))
            raise refusal("nowhere-defined", f"this has no value anywhere from {short(low)} to {short(high)}: {why}", curve.request)

    def _y_window(self, curves: list[_Curve], y_log: bool) -> Choice:
        given = self._given("y")
        if given is not None:
            return Choice(*given, "as the axis says")
        data = [t.seen_y for t in self.things if isinstance(t, _Points)]
        return y_window([(c.sampler, *c.first) for c in curves], data, y_log)

    def _sampled(self, curves: list[_Curve], x: tuple[float, float, bool], choice: Choice, y_log: bool) -> tuple[list[Series], Choice]:
        """Sample for the window; if finer sampling found higher peaks than the first look, open the window for them."""
        for _ in range(3):
            view = self._view(x, choice, y_log)
            found = [sample(c.sampler, view, c.first) for c in curves]
            if self._given("y") is not None or not found:
                break
            again = y_window([(c.sampler, *away_from_breaks(s, view)) for c, s in zip(curves, found, strict=True)],
                             [t.seen_y for t in self.things if isinstance(t, _Points)], y_log)  # fmt: skip
            grown = max(choice.low - again.low, again.high - choice.high) > 0.002 * (choice.high - choice.low)
            if not grown or again.reason != choice.reason:
                break
            choice = again
        for curve, sampled in zip(curves, found, strict=True):
            self._say_breaks(curve, sampled, view)
        series = []
        drawn = iter(found)
        for number, thing in enumerate(self.things, 1):
            if isinstance(thing, _Curve):
                sampled = next(drawn)
                xs, ys = _within_paper(sampled, view)
                series.append(Series(f"s{number}", "curve", self.line_of(thing.request.start), xs, ys, **thing.style))
            else:
                self._points_seen(thing, view)
                shown = (thing.x, thing.y) if thing.kind == "line" else _shown_points(thing, view)
                series.append(Series(f"s{number}", thing.kind, self.line_of(thing.request.start), *shown, **thing.style))
        return series, choice

    def _view(self, x: tuple[float, float, bool], y: Choice, y_log: bool) -> View:
        # The whole sheet, a little more than the window itself: the promise of a tenth of a point then holds with room.
        width, height = self.size[0] * POINTS_PER_MM, self.size[1] * POINTS_PER_MM
        return View(x[0], x[1], y.low, y.high, width, height, x[2], y_log)

    def _points_seen(self, points: _Points, view: View) -> None:
        shown, count = _shown_points(points, view)[0].size, points.seen_x.size
        if shown < count and points.kind == "points":
            self._say(points.request, f"{count - shown} of {count} points lie outside the window")

    def _axis_text(self, which: str, curves: list[_Curve]) -> str | None:
        axis = self.axes.get(which)
        if axis is not None and axis.text is not None:
            return axis.text
        points = [t for t in self.things if isinstance(t, _Points)]
        said = {t.texts[0 if which == "x" else 1] for t in points}
        if len(said) == 1 and (text := said.pop()) is not None:
            return text
        if which == "x":
            names = {c.variable for c in curves}
            return f"${_axis_name(names.pop())}$" if len(names) == 1 and not points else None
        return None

    # ------------------------------------------------------------ saying what was chosen and found

    def _say(self, node: tree.Node, text: str) -> None:
        self.notes.append(Note(self.line_of(node.start), text))

    def _source(self, node: tree.Node) -> str:
        return self.text[node.start : node.end]

    def _say_breaks(self, curve: _Curve, sampled: Sampled, view: View) -> None:
        v = curve.variable
        poles = [b for b in sampled.breaks if b.kind == "pole"] + even_poles(curve.sampler, sampled.x, sampled.y, view)
        points = [b for b in sampled.breaks if b.kind == "gap" and b.high - b.low <= 1e-9 * (view.x_high - view.x_low)]
        spans = [b for b in sampled.breaks if b.kind == "gap" and b not in points]
        jumps = [b for b in sampled.breaks if b.kind == "jump"]
        for gap in spans:
            why = self._why(curve, (gap.low + gap.high) / 2)
            low, high = _tidy(gap.low, view), _tidy(gap.high, view)
            self._say(curve.request, f"no value from {v} = {low} to {high}: {why}")
        tall = 1e6 * max(abs(view.y_low), abs(view.y_high))
        poles += [p for p in points if float(np.nanmax(np.abs(curve.sampler.values(np.array([p.low, p.high]))), initial=0.0)) > tall]
        single = [p for p in points if not any(abs(p.low - q.low) < 1e-9 * (view.x_high - view.x_low) for q in poles)]
        if poles:
            self._say(curve.request, f"grows without bound at {v} = {_places(poles, view)}; not joined there")
        if single:
            self._say(curve.request, f"no value at {v} = {_places(single, view)}: {self._why(curve, _plain_place(single[0], view))}")
        if jumps:
            self._say(curve.request, f"jumps at {v} = {_places(jumps, view)}; not joined there")
        if view.y_log and bool((sampled.y[np.isfinite(sampled.y)] <= 0).any()):
            self._say(curve.request, "values that are not above zero have no place on a logarithmic axis")
        if not sampled.complete:
            self._say(curve.request, "the curve turns faster than can be drawn in places; the line is a band there")

    def _why(self, curve: _Curve, x: float) -> str:
        return no_value(substitute(curve.formula, {curve.variable: Given(x)}), curve.node).message.text


def _staircase(x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Each value holds from its place to the next one; a gap breaks the line."""
    if x.size < 2:
        return x, y
    return np.repeat(x, 2)[1:], np.repeat(y, 2)[:-1]


def _axis_name(name: str) -> str:
    from ..formula.typeset import name_tex

    return name_tex(name)


def _tidy(value: float, view: View) -> str:
    scale = view.x_high - view.x_low
    return short(0.0 if abs(value) < 1e-12 * scale else value, 6)


def _plain_place(b: Break, view: View) -> float:
    middle = (b.low + b.high) / 2
    return 0.0 if abs(middle) < 1e-12 * (view.x_high - view.x_low) else middle


def _places(breaks: list[Break], view: View) -> str:
    texts = list(dict.fromkeys(_tidy((b.low + b.high) / 2, view) for b in sorted(breaks, key=lambda b: b.low)))
    return ", ".join(texts[:6]) + (f" and {len(texts) - 6} more" if len(texts) > 6 else "")


def _shown_points(points: _Points, view: View) -> tuple[Floats, Floats]:
    inside = (points.x >= view.x_low) & (points.x <= view.x_high) & (points.y >= view.y_low) & (points.y <= view.y_high)
    return points.x[inside], points.y[inside]


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
    return view.y_low + share * (view.y_high - view.y_low)


_PLUS = Fraction(10) ** 300
_MINUS = -_PLUS
