"""What stands in space, worked out to formulas and numbers: surfaces, curves, points, level lines, sections; boxes come later."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from typing import Any, Literal

import numpy as np

from ..figure.model import Floats
from ..formula import catalogue as c
from ..formula.calculus import factors
from ..formula.domain import clip, stated_domain
from ..formula.nodes import Apply, Formula, Number, Variable, variables
from ..formula.polynomials import polynomial_factors
from ..formula.typeset import name_tex
from ..language import tree
from ..language.messages import advise
from ..language.questions import unwrapped
from ..language.spaces import coordinates, kind_of_surface
from ..numerics.branches import joined
from ..numerics.interpolation import NotInterpolable
from ..numerics.plane import outlines, surface_through
from ..numerics.surfaces.isosurface import Field, own_boxes
from ..numerics.surfaces.meetings import Face, LevelFace, SheetFace
from ..numerics.surfaces.sections import Plane, Section, lifted, plane_of, section_of_field, section_of_sheet
from ..numerics.surfaces.sheets import Sheet, first_look
from ..numerics.windows import Choice, x_window
from .asking import beyond_data, free_variables
from .lower import Lowering, refusal
from .novalue import short
from .slopes import Reading, reading, second, slope, value_of
from .values import FunctionValue, ItemsValue, ListValue

Span = tuple[float, float]
What = Literal["explicit", "parametric", "implicit"]
NOWHERE = "no place within 1000 of the origin fulfils this equation"
_FAR = Fraction(10) ** 300


@dataclass
class Ground:
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

    def fields(self) -> list[Field]:
        """Functions of space that are zero on the surface: of an implicit one, or of an explicit one (z - h)."""
        if self.what == "implicit":
            return [field_of(f, self.names) for f in self.formulas]
        assert self.what == "explicit"
        h = self.height
        hx, hy = (slope(self.formulas[0], self.names, n) for n in self.names)
        return [Field(lambda x, y, z: z - h(x, y), lambda x, y, z: (-hx(x, y), -hy(x, y), np.ones_like(z)))]

    def own_box(self) -> tuple[Any, Any] | None:
        """Of an implicit surface the box (3, 2) around it, and along which axes all of it lies there; None where it is nowhere."""
        return own_boxes(self.fields())

    def first_look(self, count: int) -> Any:
        """Places (count, count, 3) on a first grid, of a surface whose spans are known."""
        return first_look(self.sheet([s for s in self.spans if s is not None]), count)[2]

    def face(self) -> Face:
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


def field_of(formula: Formula, names: Sequence[str]) -> Field:
    """A formula of three variables with its slopes, as a function of space."""
    slopes = [slope(formula, names, n) for n in names]
    return Field(reading(formula, names), lambda x, y, z: tuple(s(x, y, z) for s in slopes))


@dataclass
class Surface:
    request: tree.Request
    ground: Ground
    style: dict[str, Any]
    tint: Formula | None = None
    tint_names: tuple[str, ...] = ()
    tint_text: str | None = None
    levels: Any = None  # a number of them, or an array
    mesh: int | None = None
    detail: float = 1.0
    look: Floats | None = None  # places of a parametric one on a first grid, (n, 3)


@dataclass
class SpacePath:
    """A curve of places (x, y, z)(t), or given places joined by straight pieces (n, 3)."""

    request: tree.Node
    style: dict[str, Any]
    places: Floats | None = None
    formulas: tuple[Formula, ...] = ()
    variable: str = ""
    span: Span = (0.0, 1.0)
    tint: Formula | None = None


@dataclass
class SpacePoints:
    request: tree.Request
    places: Floats
    style: dict[str, Any]
    texts: tuple[str | None, str | None, str | None] = (None, None, None)
    tints: Floats | None = None


@dataclass
class SpacePut:
    """A text or marks at places (n, 3)."""

    statement: tree.Statement
    kind: Literal["text", "mark"]
    places: Floats
    style: dict[str, Any]
    text: str


@dataclass
class Contours:
    """Level lines of a height over two variables."""

    request: tree.Request
    ground: Ground
    style: dict[str, Any]
    levels: Any = None
    fill: bool = False

    @property
    def spans(self) -> tuple[Span, Span]:
        x, y = self.ground.spans
        assert x is not None
        assert y is not None
        return x, y

    @property
    def variables(self) -> tuple[str, str]:
        return self.ground.names[0], self.ground.names[1]


@dataclass
class Cut:
    """The section of a surface by a plane."""

    request: tree.Request
    ground: Ground
    plane: Plane
    equation: tuple[float, float, float, float]
    style: dict[str, Any]
    said: str
    section: Section | None = None
    box: Any = None
    window: Any = None  # of the plane, where the surface's own spans are not known

    @cached_property
    def own_window(self) -> tuple[Any, Any] | None:
        """Of an implicit surface the part (2, 2) of the plane around its section, and along which direction all of it lies there."""
        found = own_boxes([lifted(f, self.plane) for f in self.ground.fields()])
        return None if found is None else (found[0][:2], found[1][:2])

    def found(self, box: Any) -> Section:
        """The section within a box (3, 2)."""
        ground = self.ground
        if ground.what == "parametric":
            u, v = ground.spans
            assert u is not None
            assert v is not None
            return section_of_sheet(*ground.movement(), u, v, self.plane)
        parts = [section_of_field(f, self.plane, box, self._second(k), self.window) for k, f in enumerate(ground.fields())]
        return parts[0] if len(parts) == 1 else _joined(parts)

    def _second(self, k: int) -> Callable[..., Any] | None:
        if self.ground.what != "implicit":
            return None
        bends = second(self.ground.formulas[k], self.ground.names)
        return None if bends is None else lambda x, y, z: [b(x, y, z) for b in bends]


def _joined(parts: list[Section]) -> Section:
    parts = [p for p in parts if len(p.flat)]
    closed = [p.area for p in parts if p.area is not None]
    lengths = [p.length for p in parts]
    return Section(joined([p.flat for p in parts], 2), joined([p.space for p in parts], 3), sum(p.branches for p in parts),
                   sum(p.closed for p in parts), (sum(n for n, _ in lengths), sum(e for _, e in lengths)),
                   closed[0] if len(closed) == 1 else None)  # fmt: skip


SpaceThing = Surface | SpacePath | SpacePoints | SpacePut
Either = Contours | Cut  # in the plane, or in space where the window is one on space


class SpaceCollector:
    """Turns requests that have to do with space into things. `dress` gives the style of a request."""

    def __init__(self, scope: Lowering, text: str, dress: Callable[[tree.Request, int, int], dict[str, Any]]) -> None:
        self.scope, self.text, self.dress = scope, text, dress

    def surfaces(self, request: tree.Request) -> list[Surface]:
        if request.against is not None:
            return [self._surface(request, self._through(request), 0, 1)]
        subject = request.subjects[0]
        items = subject.items if isinstance(subject, tree.ListOf) else (subject,)
        return [self._surface(request, self.ground(request, item), k, len(items)) for k, item in enumerate(items)]

    def _surface(self, request: tree.Request, ground: Ground, place: int, count: int) -> Surface:
        style = self.dress(request, place, count)
        found = Surface(request, ground, style)
        found.levels, found.mesh = self.levels(request), style.pop("mesh", None)
        found.detail = style.pop("detail", 1.0)
        option = request.option("colour")
        if option is not None and option.by:
            assert isinstance(option.value, tree.Expression)
            names = (*ground.names, *(() if ground.what == "implicit" else tuple(a for a in ground.axes if a not in ground.names)))
            found.tint, found.tint_names = self.scope.within(*names).formula(option.value), names
            found.tint_text = f"${name_tex(option.value.name)}$" if isinstance(option.value, tree.Name) else None
        return found

    def contours(self, request: tree.Request) -> list[Contours]:
        if request.against is not None:
            grounds = [self._through(request)]
        else:
            subject = request.subjects[0]
            grounds = [self.ground(request, i) for i in (subject.items if isinstance(subject, tree.ListOf) else (subject,))]
        found = []
        for k, ground in enumerate(grounds):
            self.choose_spans(ground)
            style = self.dress(request, k, len(grounds))
            found.append(Contours(request, ground, style, self.levels(request), bool(style.pop("fill", False))))
        return found

    def levels(self, request: tree.Request) -> Any:
        """A number of levels, or which (an array); None where nothing is said."""
        option = request.option("levels")
        if option is None:
            return None
        assert isinstance(option.value, tree.Expression)
        found = self.scope.value(option.value)
        if isinstance(found, ListValue):
            data = np.unique(np.asarray(found.data, dtype=float))
            data = data[np.isfinite(data)]
            if not data.size or data.size > 400:
                raise refusal("levels", f"there are 1 to 400 levels, not {data.size}", option)
            return data
        count = self.scope.number(option.value).value
        if count != round(count) or not 1 <= count <= 400:
            text = f"a number of levels is whole, from 1 to 400, not {short(count)}"
            raise refusal("levels", text, option, advise("levels [0.5], levels 8"))
        return int(count)

    # ------------------------------------------------------------ grounds

    def ground(self, request: tree.Request, item: tree.Expression) -> Ground:
        kind = kind_of_surface(item)
        inner = unwrapped(item)
        parts = inner.operands if isinstance(inner, tree.Comparison) else inner.items if isinstance(inner, tree.PointOf) else (item,)
        alone = tree.Request(item.start, item.end, request.noun, tuple(parts), None, None, request.windows, ())
        names = list(free_variables(alone, self.scope))
        said = [w.name for w in request.windows]
        names = said + [n for n in names if n not in said]
        axes = coordinates(names, kind)
        names = axes if kind == "implicit" else names[:2]
        formulas = [self.scope.within(*names).formula(p) for p in parts]
        spans: list[Span | None] = []
        notes: list[str] = []
        for name in names:
            window = next((w for w in request.windows if w.name == name and w.low is not None), None)
            span, formulas = self._span(window, name, formulas, notes, item)
            spans.append(span)
        if kind == "implicit":
            formulas = zero_factors(c.subtract(formulas[0], formulas[1]), tuple(names))
        texts = self._texts(item, axes) if kind == "explicit" else (None, None, None)
        return Ground(kind, formulas, tuple(names), spans, (axes[0], axes[1], axes[2]), texts, notes)  # type: ignore[arg-type]

    def _span(
        self, window: tree.Window | None, name: str, formulas: list[Formula], notes: list[str], item: tree.Expression
    ) -> tuple[Span | None, list[Formula]]:
        """The span that the request or a definition states, and the formulas freed of guards on that variable."""
        low: Formula = Number(-_FAR)
        high: Formula = Number(_FAR)
        given = window is not None and window.low is not None and window.high is not None
        if given:
            assert window is not None
            assert window.low is not None
            assert window.high is not None
            first, last = self.scope.span(window.low, window.high, "the window")
            low, high = first.formula, last.formula
        else:
            stated = [s for f in formulas if (s := stated_domain(f, name)) is not None]
            if stated:
                low, high = stated[0]
                given = True
        clipped = [clip(f, name, low, high) for f in formulas]
        if any(k.empty for k in clipped):
            raise refusal("outside-domain", "the window lies outside the domain that the definition states", window or item)
        ends = max(value_of(k.low) for k in clipped), min(value_of(k.high) for k in clipped)
        for k in clipped:
            notes += [beyond_data(*span) for span in k.beyond] if given else []
        return (ends if given else None), [k.formula for k in clipped]

    def _texts(self, item: tree.Expression, axes: list[str]) -> tuple[str | None, str | None, str | None]:
        """What axes may say of a function that was got from data: its units."""
        call = unwrapped(item)
        value = self.scope.names.find(call.function.name) if isinstance(call, tree.Call) and isinstance(call.function, tree.Name) else None
        if not isinstance(value, FunctionValue) or value.source is None:
            return None, None, None
        units = (*value.source.units, value.source.unit)
        names = [*axes[:2], value.name]
        found = [f"${name_tex(n)}$ / ${u.tex()}$" if u is not None and not u.plain else None for n, u in zip(names, units, strict=False)]
        return (found[0], found[1], found[2]) if len(found) == 3 else (None, None, None)

    def _through(self, request: tree.Request) -> Ground:
        """Heights against two lists: each place with its height, or a row of heights for each x."""
        against, subject = request.against, request.subjects[0]
        assert isinstance(against, tree.PointOf)
        xs, ys = (self.scope.as_list(self.scope.value(e), e) for e in against.items)
        found = self.scope.value(subject)
        x, y = np.asarray(xs.data, dtype=float), np.asarray(ys.data, dtype=float)
        unit = None
        if isinstance(found, ItemsValue):
            rows = [np.asarray(i.data, dtype=float) if isinstance(i, ListValue) else None for i in found.items]
            sizes = {None if r is None else r.size for r in rows}
            if sizes != {y.size} or len(rows) != x.size:
                length = str(next(iter(sizes))) if len(sizes) == 1 else "different lengths"
                text = f"{x.size} by {y.size} heights are needed, a row for each x; there are {len(rows)} rows of {length}"
                raise refusal("list-lengths", text, subject, advise("[[h(x, y) for y in ys] for x in xs]"))
            z = np.concatenate([r for r in rows if r is not None])
            x, y = np.repeat(x, len(ys.data)), np.tile(y, len(xs.data))
        else:
            heights = self.scope.as_list(found, subject)
            z, unit = np.asarray(heights.data, dtype=float), heights.unit
            if not z.size == x.size == y.size:
                text = f"{z.size} heights stand against {x.size} and {y.size} places"
                raise refusal("list-lengths", text, subject, advise("a list of rows for a grid: [[h(x, y) for y in ys] for x in xs]"))
        good = np.isfinite(x) & np.isfinite(y) & np.isfinite(z)
        by = request.option("by")
        kind = str(by.value) if by is not None else None
        if kind not in (None, "bilinear", "bicubic", "thin-plate"):
            raise refusal("by", f"a surface goes through points by bilinear, bicubic or thin-plate, not by {kind}", by or request)
        try:
            surface, kind, said = surface_through("h", x[good], y[good], z[good], kind)  # type: ignore[arg-type]
        except NotInterpolable as reason:
            raise refusal(reason.code, reason.text, request, *([advise(reason.advice)] if reason.advice else [])) from None
        units = [u.unit for u in (xs, ys)]
        words = []
        for e, u, other in ((against.items[0], units[0], "x"), (against.items[1], units[1], "y"), (subject, unit, "z")):
            name = e.name if isinstance(e, tree.Field | tree.Name) else other
            words.append(f"${name_tex(name)}$ / ${u.tex()}$" if u is not None and not u.plain else f"${name_tex(name)}$")
        body: Formula = Apply(surface.entry, (Variable("x"), Variable("y")))
        spans: list[Span | None] = [(float(v[good].min()), float(v[good].max())) for v in (x, y)]
        note = {"bilinear": "straight from point to point", "bicubic": "a bicubic surface through the points",
                "thin-plate": "a thin plate through the points"}[kind]  # fmt: skip
        if not good.all():
            said = [*said, f"{int((~good).sum())} points with a gap are left out"]
        return Ground("explicit", [body], ("x", "y"), spans, ("x", "y", "z"), (words[0], words[1], words[2]), [note, *said])

    # ------------------------------------------------------------ windows

    def choose_spans(self, ground: Ground) -> None:
        """Spans of an explicit surface that nobody gave: where cuts through it along each variable are interesting.

        The first cuts are made near zero; the second through the middle of what those chose and half way to its ends, and
        the one through the middle counts where it shows anything.
        """
        missing = [k for k, s in enumerate(ground.spans) if s is None] if ground.what == "explicit" else []
        if not missing:
            return
        h = ground.height

        def cut(k: int, at: float) -> Choice:
            def along(t: Any) -> Any:
                other = np.full(np.shape(t), at)
                return h(t, other) if k == 0 else h(other, t)

            return x_window(along)

        def middle(choices: list[Choice]) -> Choice:
            telling = [c for c in choices if c.telling] or choices
            low, high = (float(np.median([getattr(c, end) for c in telling])) for end in ("low", "high"))
            return Choice(low, high, telling[0].reason, telling[0].telling)

        first = {k: middle([cut(k, at) for at in (0.0, 0.7, -1.3)]) for k in missing}
        for k in missing:
            span = ground.spans[1 - k] if 1 - k not in first else (first[1 - k].low, first[1 - k].high)
            assert span is not None
            low, high = span
            choices = [cut(k, low + (high - low) * share) for share in (0.5, 0.25, 0.75)]
            found = choices[0] if choices[0].telling else middle([*choices[1:], first[k]])
            ground.spans[k] = (found.low, found.high)
            ground.notes.append(f"window for {ground.names[k]} chosen: {short(found.low)} to {short(found.high)}, {found.reason}")

    # ------------------------------------------------------------ sections

    def cut(self, request: tree.Request) -> Cut:
        option = request.option("at")
        assert option is not None
        assert isinstance(option.value, tree.Expression)
        equation = unwrapped(option.value)
        assert isinstance(equation, tree.Comparison)
        ground = self.ground(request, request.subjects[0])
        self.choose_spans(ground)
        names = ground.axes
        inner = self.scope.within(*names)
        left, right = (inner.formula(o) for o in equation.operands)
        difference = c.subtract(left, right)
        at = reading(difference, names)
        start = float(at(0.0, 0.0, 0.0))
        a, b, d = (float(at(*np.eye(3)[k])) - start for k in range(3))
        probe = np.random.default_rng(3).uniform(-2, 2, (3, 8))
        straight = np.allclose(at(*probe), a * probe[0] + b * probe[1] + d * probe[2] + start, rtol=1e-9, atol=1e-9)
        if not straight or not variables(difference) or max(abs(a), abs(b), abs(d)) == 0:
            raise refusal("plane-needed", "this is the equation of no plane: each coordinate enters by itself, times a number", option,
                          advise("at x = 2, or at 4x + y + z = 20; with a curved surface: draw both in one figure"))  # fmt: skip
        style = self.dress(request, 0, 1)
        return Cut(request, ground, plane_of(a, b, d, -start), (a, b, d, -start), style, self.text[option.value.start : option.value.end])


def zero_factors(formula: Formula, names: tuple[str, ...]) -> list[Formula]:
    """Factors whose zeros together are those of the formula: a product is drawn factor by factor, so that where two branches
    cross each goes straight on, and a square is drawn like what is squared (it never changes its sign)."""
    found = polynomial_factors(formula, names)
    if found is None:
        found = [f for f, _ in factors(formula) if set(names) & variables(f)]
    return found or [formula]
