"""What a figure block asks to have drawn, worked out to plain numbers and formulas, with its dress; windows come later."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any, Literal

import numpy as np

from ..figure.axes import BadDates, since
from ..figure.colours import colour_code, known_names
from ..figure.draw import BadText, check_text
from ..figure.letters import missing_letters, named
from ..figure.model import Floats
from ..formula import catalogue as c
from ..formula.calculus import NoDerivative, derivative
from ..formula.domain import clip, stated_domain
from ..formula.nodes import Apply, Formula, Given, Named, Number, Variable, substitute, transformed, walk
from ..formula.piecewise import written_out
from ..formula.tape import Tape
from ..formula.typeset import name_tex
from ..formula.written import written
from ..language import tree
from ..language.cursor import nearest
from ..language.messages import Refused, advise, replace
from ..language.vocabulary import OPTIONS
from ..language.vocabulary.options import range_of
from ..numerics.fitting.bands import band
from ..numerics.fitting.fit import Fit
from ..numerics.sampling import Sampler
from .asking import variable_of
from .lower import Lowering, described, refusal
from .novalue import short
from .slopes import value_of
from .spaces import Contours, Cut, SpaceCollector, SpacePath, SpacePoints, SpacePut, SpaceThing, zero_factors
from .values import FindingValue, FunctionValue, ItemsValue, ListValue, PointValue, Scalar, TextValue

_FAR = Fraction(10) ** 300
MOST_PIECES = 60  # of an interpolation that a curve's formula writes out


@dataclass
class Curve:
    """A function of the horizontal variable."""

    node: tree.Expression
    request: tree.Request
    formula: Formula
    variable: str
    low: float | None
    high: float | None
    style: dict[str, Any]
    tint: Formula | None = None
    upper: Formula | None = None  # of a band: its other edge
    narrowed: bool = False  # a stated domain left less than the window that was asked for
    beyond: tuple[tuple[float, float], ...] = ()  # spans of data that the window leaves
    tape: Tape = field(init=False)
    sampler: Sampler = field(init=False)
    first: tuple[Floats, Floats] = field(init=False)

    def __post_init__(self) -> None:
        self.tape = Tape([self.formula], [self.variable])

    def function(self, x: Floats) -> Any:
        return self.tape.numeric(x)[0]


@dataclass
class Path:
    """A curve of points (x(t), y(t))."""

    request: tree.Request
    formulas: tuple[Formula, Formula]
    variable: str
    low: float
    high: float
    style: dict[str, Any]
    tint: Formula | None = None
    tape: Tape = field(init=False)
    first: Any = None

    def __post_init__(self) -> None:
        self.tape = Tape(list(self.formulas), [self.variable])

    def function(self, t: Floats) -> tuple[Floats, Floats]:
        x, y = self.tape.numeric(t)
        return x, y


@dataclass
class Equation:
    """A curve given by an equation in two variables: the places where any of its factors is zero."""

    request: tree.Request
    factors: list[Formula]
    variables: tuple[str, str]
    x: tuple[float, float]
    y: tuple[float, float]
    style: dict[str, Any]


@dataclass
class Points:
    """Given places: drawn as marks, joined by straight pieces, as a staircase, or as bars. NaN is a gap."""

    request: tree.Request
    x: Floats
    y: Floats
    style: dict[str, Any]
    kind: Literal["points", "line", "bars"] = "points"
    texts: tuple[str | None, str | None] = (None, None)  # what its axes may say: quantity and unit
    tints: Floats | None = None
    errors: tuple[Floats | None, Floats | None] = (None, None)
    names: tuple[str, ...] | None = None  # of what bars stand for
    left_out: bool = False  # rows that do not count, of the points before them

    @property
    def good(self) -> Any:
        return np.isfinite(self.x) & np.isfinite(self.y)

    @property
    def seen_x(self) -> Floats:
        x, e = self.x[self.good], self.errors[0]
        return x if e is None else np.concatenate([x - np.nan_to_num(e[self.good]), x + np.nan_to_num(e[self.good])])

    @property
    def seen_y(self) -> Floats:
        y, e = self.y[self.good], self.errors[1]
        found = y if e is None else np.concatenate([y - np.nan_to_num(e[self.good]), y + np.nan_to_num(e[self.good])])
        return np.append(found, 0.0) if self.kind == "bars" or self.style.get("fill") else found


@dataclass
class Put:
    """Something put at a place by hand: a straight line, a text, findings with their numbers."""

    statement: tree.Statement
    kind: Literal["rule", "text", "mark"]
    x: Floats  # NaN where it goes from edge to edge
    y: Floats
    style: dict[str, Any]
    text: str | None = None
    heights: Floats | None = None  # of what was found over two variables


Thing = Curve | Path | Equation | Points | Put | Contours | Cut | SpaceThing


class Collector:
    """Turns requests and statements of a figure into things to be drawn, with the names of the place where they stand."""

    def __init__(self, scope: Lowering, text: str) -> None:
        self.scope, self.text = scope, text

    def things(self, request: tree.Request) -> list[Thing]:
        noun, subject = request.noun, request.subjects[0]
        if noun in ("surface", "contours", "section"):
            return self._spatial(request)
        if noun in ("points", "line") and (places := self._places_in_space(request)) is not None:
            return [places]
        if noun in ("points", "line", "steps", "bars"):
            points = self._points(request)
            return [points, *self._left_out(request, points.texts)]
        if noun == "band":
            return [self._band(request)]
        if noun == "tangent":
            return [self._tangent(request)]
        if noun == "residuals":
            return [self._residuals(request)]
        if noun in ("confidence", "prediction"):
            return [self._fit_band(request)]
        items = subject.items if isinstance(subject, tree.ListOf) else (subject,)
        return [self._item(request, item, place, len(items)) for place, item in enumerate(items)]

    def _spatial(self, request: tree.Request) -> list[Thing]:
        space = SpaceCollector(self.scope, self.text, self.style)
        if request.noun == "surface":
            return [*space.surfaces(request)]
        return [*space.contours(request)] if request.noun == "contours" else [space.cut(request)]

    def _places_in_space(self, request: tree.Request) -> SpacePoints | SpacePath | None:
        """Points of three coordinates, or heights against two lists; None where the request is one in the plane."""
        subject, against = request.subjects[0], request.against
        texts: tuple[str | None, str | None, str | None] = (None, None, None)
        if isinstance(against, tree.PointOf):
            sides = [self.scope.as_list(self.scope.value(e), e) for e in (*against.items, subject)]
            sizes = {s.data.size for s in sides}
            if len(sizes) > 1:
                counts = ", ".join(str(s.data.size) for s in sides)
                raise refusal("list-lengths", f"points need as many of each coordinate; there are {counts}", subject)
            places = np.column_stack([np.asarray(s.data, dtype=float) for s in sides])
            x, y, z = (self._axis_word(e, s) for e, s in zip((*against.items, subject), sides, strict=True))
            texts = x, y, z
        elif against is None:
            found = self.scope.value(subject)
            items = found.items if isinstance(found, ItemsValue) else []
            if not any(isinstance(i, PointValue) and len(i.items) == 3 for i in items):
                return None
            if not all((isinstance(i, PointValue) and len(i.items) == 3) or (isinstance(i, Scalar) and i.gap) for i in items):
                raise refusal("points", "all points have three coordinates, or all two", subject)
            places = np.array([[v.value for v in i.items] if isinstance(i, PointValue) else [np.nan] * 3 for i in items], dtype=float)
        else:
            return None
        if not np.isfinite(places).all(axis=1).any():
            raise refusal("no-points", "there are no points to draw", request)
        if request.noun == "line":
            return SpacePath(request, self.style(request, 0, 1), places)
        return SpacePoints(request, places, self.style(request, 0, 1), texts, self._tints(request, len(places)))

    def _item(self, request: tree.Request, item: tree.Expression, place: int, count: int) -> Thing:
        inner = item
        while isinstance(inner, tree.Group):
            inner = inner.inner
        if isinstance(inner, tree.Comparison):
            return self._equation(request, inner, place, count)
        if isinstance(inner, tree.PointOf):
            return self._path(request, inner, place, count)
        return self._curve(request, item, place, count)

    # ------------------------------------------------------------ functions

    def _curve(self, request: tree.Request, item: tree.Expression, place: int, count: int) -> Curve:
        window = request.windows[0] if request.windows else None
        variable = window.name if window else variable_of(item, self.scope)
        whole = self.scope.within(variable).formula(item)
        formula, low, high, narrowed = self._windowed(request, whole, variable)
        curve = Curve(item, request, formula, variable, low, high, self.style(request, place, count), narrowed=narrowed)
        if low is not None and high is not None:
            curve.beyond = clip(whole, variable, Number(Fraction(low)), Number(Fraction(high))).beyond
        curve.tint = self._tint(request, variable)
        return curve

    def _windowed(self, request: tree.Request, formula: Formula, variable: str) -> tuple[Formula, float | None, float | None, bool]:
        """The formula with the window that the request or a definition states; None where there is none."""
        window = request.windows[0] if request.windows else None
        if window is not None and window.low is not None and window.high is not None:
            low, high = self.scope.span(window.low, window.high, "the window")
            clipped = clip(formula, variable, low.formula, high.formula)
            if clipped.empty:
                raise refusal("outside-domain", "the window lies outside the domain that the definition states", window)
            return clipped.formula, value_of(clipped.low), value_of(clipped.high), clipped.narrowed
        stated = stated_domain(formula, variable)
        if stated is not None:
            return clip(formula, variable, *stated).formula, value_of(stated[0]), value_of(stated[1]), False
        return clip(formula, variable, Number(-_FAR), Number(_FAR)).formula, None, None, False

    def _band(self, request: tree.Request) -> Curve:
        lower, upper = request.subjects
        window = request.windows[0] if request.windows else None
        variable = window.name if window else variable_of(tree.Binary(lower.start, upper.end, "-", lower, upper), self.scope)
        inner = self.scope.within(variable)
        formula, low, high, _ = self._windowed(request, inner.formula(lower), variable)
        return Curve(lower, request, formula, variable, low, high, self.style(request, 0, 1), upper=inner.formula(upper))

    def _fit_of(self, request: tree.Request) -> tuple[FunctionValue, Fit]:
        item = request.subjects[0]
        assert isinstance(item, tree.Name)
        value = self.scope.names.find(item.name)
        if not isinstance(value, FunctionValue) or value.source is None or not isinstance(value.source.result, Fit):
            raise refusal("fit-needed", f"'{item.spelling}' is no fit", item)
        return value, value.source.result

    def _residuals(self, request: tree.Request) -> Points:
        """What a fit leaves over, against its first variable."""
        value, fit = self._fit_of(request)
        source = value.source
        assert source is not None
        x = np.asarray(fit.problem.columns[0].data, dtype=float)
        units = [f"${u.tex()}$" if u is not None and not u.plain else None for u in (source.units[0], source.unit)]
        across = f"${name_tex(value.parameters[0])}$ / {units[0]}" if units[0] else None
        texts = across, f"residual / {units[1]}" if units[1] else "residual"
        return Points(request, x, np.asarray(fit.residuals, dtype=float), self.style(request, 0, 1), texts=texts)

    def _fit_band(self, request: tree.Request) -> Curve:
        """Where the curve of a fit may lie, or one more measurement."""
        value, fit = self._fit_of(request)
        variable = request.windows[0].name if request.windows else value.parameters[0]
        assert value.source is not None
        low, high = band(fit, request.noun == "prediction")
        renamed = {value.parameters[0]: Variable(variable)}
        edges = value.source.spans[value.parameters[0]]
        lower = Apply(c.DATA, (substitute(low, renamed), Variable(variable), *edges))
        formula, first, last, _ = self._windowed(request, lower, variable)
        style = {"opacity": 0.5 if request.noun == "prediction" else 1.0, **self.style(request, 0, 1)}
        if style["opacity"] == 1.0:
            del style["opacity"]
        return Curve(request.subjects[0], request, formula, variable, first, last, style, upper=substitute(high, renamed))

    def _tangent(self, request: tree.Request) -> Curve:
        """y = f(a) + f'(a)(x − a)."""
        subject, at = request.subjects[0], request.option("at")
        window = request.windows[0] if request.windows else None
        variable = window.name if window else variable_of(subject, self.scope)
        formula = self.scope.within(variable).formula(subject)
        assert at is not None
        assert isinstance(at.value, tree.Expression)
        place = self.scope.number(at.value)
        try:
            slope = substitute(derivative(formula, variable), {variable: place.formula})
        except NoDerivative as reason:
            raise refusal("no-derivative", f"there is no tangent by rule: {reason}", request) from None
        height = substitute(formula, {variable: place.formula})
        values = [float(np.asarray(v)) for v in Tape([height, slope], []).numeric()]
        if not np.isfinite(values).all():
            raise refusal("no-tangent", f"there is no tangent at {variable} = {short(place.value)}", at)
        line = c.add(height, c.times(slope, c.subtract(Variable(variable), place.formula)))
        low = high = None
        if window is not None and window.low is not None and window.high is not None:
            low, high = (end.value for end in self.scope.span(window.low, window.high, "the window"))
        return Curve(subject, request, line, variable, low, high, {"width": 0.9, **self.style(request, 0, 1)})

    def _path(self, request: tree.Request, item: tree.PointOf, place: int, count: int) -> Path | SpacePath:
        window = request.windows[0]
        assert window.low is not None
        assert window.high is not None
        inner = self.scope.within(window.name)
        low, high = self.scope.span(window.low, window.high, "the window")
        if len(item.items) == 3:
            places = tuple(inner.formula(i) for i in item.items)
            style = self.style(request, place, count)
            return SpacePath(request, style, None, places, window.name, (low.value, high.value), self._tint(request, window.name))
        formulas = inner.formula(item.items[0]), inner.formula(item.items[1])
        path = Path(request, formulas, window.name, low.value, high.value, self.style(request, place, count))
        path.tint = self._tint(request, window.name)
        return path

    def _equation(self, request: tree.Request, equation: tree.Comparison, place: int, count: int) -> Equation:
        first, second = request.windows
        inner = self.scope.within(first.name, second.name)
        spans = []
        for window in (first, second):
            assert window.low is not None
            assert window.high is not None
            spans.append(tuple(end.value for end in self.scope.span(window.low, window.high, "the window")))
        left, right = (inner.formula(o) for o in equation.operands)
        parts = zero_factors(c.subtract(left, right), (first.name, second.name))
        return Equation(request, parts, (first.name, second.name), spans[0], spans[1], self.style(request, place, count))  # type: ignore[arg-type]

    def _tint(self, request: tree.Request, variable: str) -> Formula | None:
        option = request.option("colour")
        if option is None or not option.by:
            return None
        assert isinstance(option.value, tree.Expression)
        return self.scope.within(variable).formula(option.value)

    # ------------------------------------------------------------ data

    def _points(self, request: tree.Request) -> Points:
        subject = request.subjects[0]
        texts: tuple[str | None, str | None] = (None, None)
        names = None
        if request.against is not None:
            ys = self.scope.as_list(self.scope.value(subject), subject)
            y = ys.data
            found = self.scope.value(request.against)
            if request.noun == "bars" and isinstance(found, ItemsValue) and all(isinstance(i, TextValue) for i in found.items):
                names = tuple(i.text for i in found.items if isinstance(i, TextValue))
                x, word = np.arange(1.0, len(names) + 1), None
            else:
                xs = self.scope.as_list(found, request.against)
                x, word = xs.data, self._axis_word(request.against, xs)
            if x.size != y.size:
                text = f"{self._source(subject)} has {y.size} elements and {self._source(request.against)} has {x.size}"
                raise refusal("list-lengths", text, subject)
            texts = word, self._axis_word(subject, ys)
        else:
            x, y = self._pairs(subject)
        if not (np.isfinite(x) & np.isfinite(y)).any():
            raise refusal("no-points", "there are no points to draw", request)
        style = self.style(request, 0, 1)
        errors = self._errors(request, x.size)
        tints = self._tints(request, x.size)
        if request.noun == "steps":
            x, y = _staircase(x, y)
        kind: Literal["points", "line", "bars"] = "points" if request.noun == "points" else "bars" if request.noun == "bars" else "line"
        return Points(request, x.astype(float), y.astype(float), style, kind, texts, tints, errors, names)

    def _left_out(self, request: tree.Request, texts: tuple[str | None, str | None]) -> list[Points]:
        """What was excluded from the table behind drawn points: hollow and pale, so that it is seen and does not count."""
        if request.noun != "points" or request.against is None:
            return []
        y, x = (self.scope.value(e) for e in (request.subjects[0], request.against))
        if not (isinstance(x, ListValue) and isinstance(y, ListValue)) or x.hidden is None or y.hidden is None:
            return []
        style = {k: v for k, v in self.style(request, 0, 1).items() if k in ("size", "colour", "right", "axis")}
        style |= {"marker": "ring", "opacity": 0.45}
        left = Points(request, np.asarray(x.hidden, dtype=float), np.asarray(y.hidden, dtype=float), style, texts=texts, left_out=True)
        return [left] if left.good.any() else []

    def _pairs(self, subject: tree.Expression) -> tuple[Floats, Floats]:
        """A list of points; a gap among them breaks a line."""
        found = self.scope.value(subject)
        items = found.items if isinstance(found, ItemsValue) else None
        if items is None or not all((isinstance(i, PointValue) and len(i.items) == 2) or (isinstance(i, Scalar) and i.gap) for i in items):
            if isinstance(found, ListValue) and not len(found.data):
                return np.array([]), np.array([])
            raise refusal("points", "points need a list against another, or a list of points", subject, advise("points of ys against xs"))
        pairs = [[v.value for v in i.items] if isinstance(i, PointValue) else [np.nan, np.nan] for i in items]
        x, y = (np.array(column, dtype=float) for column in zip(*pairs, strict=True))
        return x, y

    def _errors(self, request: tree.Request, size: int) -> tuple[Floats | None, Floats | None]:
        option = request.option("errors")
        if option is None:
            return None, None
        value = option.value
        assert isinstance(value, tree.Expression)
        if isinstance(value, tree.PointOf) and len(value.items) == 2:
            return self._spread(value.items[0], size), self._spread(value.items[1], size)
        return None, self._spread(value, size)

    def _spread(self, e: tree.Expression, size: int) -> Floats:
        data = np.asarray(self.scope.list(e), dtype=float)
        if data.size == 1:
            data = np.full(size, float(data[0]))
        if data.size != size:
            raise refusal("list-lengths", f"{self._source(e)} has {data.size} elements for {size} points", e)
        if (data[np.isfinite(data)] < 0).any():
            raise refusal("errors", f"an uncertainty is not negative; the least here is {short(float(np.nanmin(data)))}", e)
        return data

    def _tints(self, request: tree.Request, size: int) -> Floats | None:
        option = request.option("colour")
        if option is None or not option.by:
            return None
        assert isinstance(option.value, tree.Expression)
        data = np.asarray(self.scope.list(option.value), dtype=float)
        if data.size != size:
            text = f"{self._source(option.value)} has {data.size} elements for {size} points"
            raise refusal("list-lengths", text, option.value)
        if not np.isfinite(data).any():
            raise refusal("no-points", "there are no numbers to be shown as colours", option.value)
        return data

    def _axis_word(self, e: tree.Expression, xs: ListValue) -> str | None:
        """`h / m`: quantity and unit, as ISO 80000-1:2009, 7.1.4 writes them on axes; only where there is a unit to be said."""
        if xs.unit is None or xs.unit.plain:
            return None
        name = e.name if isinstance(e, tree.Field | tree.Name) else None
        unit = f"${xs.unit.tex()}$"
        return f"${name_tex(name)}$ / {unit}" if name else f"in {unit}"

    # ------------------------------------------------------------ put by hand

    def put(self, statement: tree.TextAt | tree.Marked | tree.Ruled, number_of: Any) -> Thing:
        if isinstance(statement, tree.TextAt):
            said = self.label(statement.text)
            self.check_text(said, statement)
            place = self.coordinates(statement.at)
            if len(place) == 3:
                return SpacePut(statement, "text", np.array([place]), self._statement_style(statement, statement.options), said)
            x, y = place
            return Put(statement, "text", np.array([x]), np.array([y]), self._statement_style(statement, statement.options), said)
        if isinstance(statement, tree.Marked):
            return self._mark(statement, number_of)
        style = self._statement_style(statement, statement.options)
        style.setdefault("width", 0.8)
        if statement.which == "from":
            assert statement.to is not None
            ends = self.coordinates(statement.at), self.coordinates(statement.to)
            if len(ends[0]) != len(ends[1]):
                raise refusal("point-needed", "both ends of a line have as many coordinates", statement)
            if len(ends[0]) == 3:
                return SpacePath(statement, style, np.array(ends))
            (a, b), (p, q) = ends
            return Put(statement, "rule", np.array([a, p]), np.array([b, q]), style)
        at = np.full(2, self.scope.number(statement.at).value)
        edge = np.full(2, np.nan)
        return Put(statement, "rule", *((edge, at) if statement.which == "horizontal" else (at, edge)), style)

    def _mark(self, statement: tree.Marked, number_of: Any) -> Put | SpacePut:
        found = self.scope.value(statement.finding)
        if isinstance(found, PointValue) and len(found.items) == 3:
            place = self.coordinates(statement.finding)
            style = self._statement_style(statement, statement.options)
            return SpacePut(statement, "mark", np.array([place]), style, ", ".join(short(v, 3) for v in place))
        if isinstance(found, PointValue) and len(found.items) == 2:
            a, b = self.point(statement.finding)
            style = self._statement_style(statement, statement.options)
            return Put(statement, "mark", np.array([a]), np.array([b]), style, f"{short(a, 4)}, {short(b, 4)}")
        if not isinstance(found, FindingValue):
            raise refusal("mark", f"a finding or a point is marked; this is {described(found)}", statement.finding)
        if not found.places:
            raise refusal("mark", "this finding has no place that could be marked: nothing was found", statement.finding)
        if (over_two := self._mark_over_two(statement, found, str(number_of(statement.finding, found)))) is not None:
            return over_two
        xs, ys = found.parts.get("x"), found.parts.get("value") or found.parts.get("y")
        if xs is None and found.noun == "roots":
            xs, ys = found.places, None
        if xs is None:
            raise refusal("mark", f"'{found.noun} of' gives no places on a curve", statement.finding)
        x = np.array([p.value for p in xs])
        y = np.array([p.value for p in ys]) if ys is not None else np.zeros_like(x)
        style = self._statement_style(statement, statement.options)
        return Put(statement, "mark", x, y, style, str(number_of(statement.finding, found)))

    def _mark_over_two(self, statement: tree.Marked, found: FindingValue, number: str) -> Put | None:
        """What was found over two variables: in the plane at both of them, in space at its height."""
        heights = found.parts.get("value")
        over = [v for k, v in found.parts.items() if k != "value" and v is not heights]
        if heights is None or len(over) != 2 or len(found.parts) != 3:
            return None
        x, y, z = (np.array([p.value for p in part]) for part in (*over, heights))
        return Put(statement, "mark", x, y, self._statement_style(statement, statement.options), number, z)

    def point(self, e: tree.Expression) -> tuple[float, float]:
        place = self.coordinates(e)
        if len(place) != 2:
            raise refusal("point-needed", "a point of two coordinates is needed here", e, advise("(x, y)"))
        return place[0], place[1]

    def coordinates(self, e: tree.Expression) -> tuple[float, ...]:
        """A point in the plane, or in space."""
        found = self.scope.value(e)
        if not isinstance(found, PointValue) or len(found.items) not in (2, 3):
            raise refusal("point-needed", f"a point is needed here; this is {described(found)}", e, advise("(x, y), in space (x, y, z)"))
        place = tuple(float(i.value) for i in found.items)
        if not np.isfinite(place).all():
            raise refusal("point-needed", "this point has a coordinate without a value", e)
        return place

    # ------------------------------------------------------------ dress

    def style(self, request: tree.Request, place: int, count: int) -> dict[str, Any]:
        style: dict[str, Any] = {}
        for option in request.options:
            value = option.value
            if option.by or option.name in ("errors", "at", "levels", "by"):
                continue
            if isinstance(value, tree.ListOf) and option.name in ("label", "colour"):
                if len(value.items) != count:
                    text = f"{len(value.items)} {option.name}s are given for {count} curve{'s' if count > 1 else ''}"
                    raise refusal("option-count", text, option)
                value = value.items[place]
            self._dress(style, option, value)
        if request.noun == "bars" and "fill" not in style:
            style["fill"] = True
        return style

    def _statement_style(self, statement: tree.Statement, options: tuple[tree.Option, ...]) -> dict[str, Any]:
        style: dict[str, Any] = {}
        for option in options:
            self._dress(style, option, option.value)
        if "place" in style:
            style["side"] = style.pop("place")
        if isinstance(statement, tree.TextAt):
            style.setdefault("size", 7.0)
        return style

    def _dress(self, style: dict[str, Any], option: tree.Option, value: tree.Expression | str) -> None:
        name = option.name
        if name == "label":
            assert isinstance(value, tree.Expression)
            style["label"] = self.label(value)
            self.check_text(style["label"], option)
        elif name == "colour":
            style["colour"] = self._colour(value.value if isinstance(value, tree.Text) else value, option)
        elif name == "axis":
            style["right"] = value == "right"
        elif name == "fill":
            assert isinstance(value, tree.Expression)
            style["fill"] = self.scope.truth(value).truth
        elif isinstance(value, str):
            style[name] = value
        elif OPTIONS[name].kind == "whole":
            style[name] = self.whole(option, value)
        else:
            style[name] = self._measure(option, self.scope.number(value).value)

    def label(self, e: tree.Expression) -> str:
        found = self.scope.value(e)
        if not isinstance(found, TextValue):
            raise refusal("text-needed", f"a label is a text; this is {described(found)}", e)
        return found.text

    def _measure(self, option: tree.Option, value: float) -> float:
        low, high = range_of(OPTIONS[option.name])
        if not low <= value <= high:
            text = f"{option.name} is {low:g} to {high:g}{OPTIONS[option.name].unit}, not {value:g}"
            raise refusal("option-range", text, option)
        return value

    def whole(self, option: tree.Option, e: tree.Expression) -> int:
        value = self.scope.number(e).value
        low, high = range_of(OPTIONS[option.name])
        if value != round(value) or not low <= value <= high:
            raise refusal("option-range", f"{option.name} is a whole number from {low:g} to {high:g}, not {short(value)}", option)
        return int(value)

    def _colour(self, value: Any, option: tree.Option) -> str:
        if not isinstance(value, str):
            raise refusal("colour", "a colour is a name or a code in quotes", option, advise('colour brick, colour "#BC4B2C"'))
        code = colour_code(value)
        if code is None:
            meant = nearest(value, known_names())
            fixes = [replace(option.end - len(value), option.end, meant)] if meant and self.text[option.end - 1] != '"' else []
            raise refusal("colour", f"there is no colour '{value}'", option, *fixes)
        return code

    def check_text(self, text: str, node: tree.Node) -> None:
        """Refuse what cannot be set: letters that no font here has, and mathematics that the typesetter does not know."""
        if letters := missing_letters(text):
            raise no_letters(letters, node)
        try:
            check_text(text)
        except BadText as trouble:
            raise refusal("bad-mathematics", f"the mathematics in this text cannot be typeset: {trouble}", node) from None

    def dates(self, option: tree.Option) -> str:
        assert isinstance(option.value, tree.Expression)
        text = self.label(option.value)
        try:
            since(text)
        except BadDates as trouble:
            raise refusal("dates", str(trouble), option) from None
        return text

    def _source(self, node: tree.Node) -> str:
        return self.text[node.start : node.end]


def no_letters(letters: list[str], node: tree.Node) -> Refused:
    """The refusal of a text that would print as boxes."""
    them = "this letter" if len(letters) == 1 else "these letters"
    return refusal(
        "letters", f"figures have no font that can set {named(letters)}; it would print as a box", node,
        advise(f"write this text without {them}; Latin, Greek and Cyrillic letters and the signs of mathematics are there"),
    )  # fmt: skip


def formula_text(formula: Formula) -> str | None:
    """A formula as text that stands alone, all names opened; None where it holds lists or what is given by a block."""
    plain = transformed(written_out(formula, MOST_PIECES), lambda node, visit: visit(node.body) if isinstance(node, Named) else None)
    for node in walk(plain):
        if isinstance(node, Given) and hasattr(node.data, "__len__"):
            return None
        entry = getattr(node, "entry", None)
        if entry is not None and (entry.category in ("defined", "interpolated") or "polygamma" in entry.name):
            return None
    try:
        text = written(transformed(plain, lambda node, _: Given(node.data) if isinstance(node, Given) and node.name else None))
    except (ValueError, OverflowError):
        return None
    return text if len(text) <= 20_000 else None


def _staircase(x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Each value holds from its place to the next one; a gap breaks the line."""
    if x.size < 2:
        return x, y
    return np.repeat(x, 2)[1:], np.repeat(y, 2)[:-1]
