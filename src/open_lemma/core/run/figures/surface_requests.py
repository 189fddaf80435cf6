"""What stands in space, worked out to formulas and numbers: surfaces, curves, points, level lines, sections; boxes come later."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import Any

import numpy as np

from ...formula import catalogue as c
from ...formula.calculus import factors
from ...formula.domain import clip, stated_domain
from ...formula.nodes import Apply, Formula, Number, Variable, variables
from ...formula.polynomials import polynomial_factors
from ...formula.typeset import name_tex
from ...language import tree
from ...language.messages import advise
from ...language.shapes import coordinates, kind_of_surface, unwrapped
from ...numerics.curves.windows import WindowChoice, x_window
from ...numerics.interpolation.curves import NotInterpolable
from ...numerics.interpolation.surfaces import surface_through
from ...numerics.surfaces.sections import plane_of
from ...record.notation import format_short
from ..evaluate.evaluator import Evaluator
from ..evaluate.refusals import refusal
from ..search_window import beyond_data, free_variables
from ..slopes import reading, value_of
from ..values import FunctionValue, ItemsValue, ListValue
from .drawables.contours import Contours
from .drawables.section import Section
from .drawables.surface import Surface
from .surface_definition import Span, SurfaceDefinition, What

_FAR = Fraction(10) ** 300


class SpaceCollector:
    """Turns requests that have to do with space into drawn things. `style_of` gives the style of a request."""

    def __init__(self, scope: Evaluator, text: str, style_of: Callable[[tree.Request, int, int], dict[str, Any]]) -> None:
        self.scope, self.text, self.style_of = scope, text, style_of

    def surfaces(self, request: tree.Request) -> list[Surface]:
        """The surfaces of a request, one for each element of a list. Raises Refused."""
        if request.against is not None:
            return [self._surface(request, self._through(request), 0, 1)]
        subject = request.subjects[0]
        items = subject.items if isinstance(subject, tree.ListOf) else (subject,)
        return [self._surface(request, self.definition(request, item), k, len(items)) for k, item in enumerate(items)]

    def _surface(self, request: tree.Request, definition: SurfaceDefinition, place: int, count: int) -> Surface:
        style = self.style_of(request, place, count)
        found = Surface(request, style, definition=definition)
        found.levels, found.mesh = self.levels(request), style.pop("mesh", None)
        found.detail = style.pop("detail", 1.0)
        option = request.option("colour")
        if option is not None and option.by:
            assert isinstance(option.value, tree.Expression)
            names = (
                *definition.names,
                *(() if definition.what == "implicit" else tuple(a for a in definition.axes if a not in definition.names)),
            )
            found.tint, found.tint_names = self.scope.within(*names).formula(option.value), names
            found.tint_text = f"${name_tex(option.value.name)}$" if isinstance(option.value, tree.Name) else None
        return found

    def contours(self, request: tree.Request) -> list[Contours]:
        """The level lines of a request, one thing for each element of a list. Raises Refused."""
        if request.against is not None:
            definitions = [self._through(request)]
        else:
            subject = request.subjects[0]
            definitions = [self.definition(request, i) for i in (subject.items if isinstance(subject, tree.ListOf) else (subject,))]
        found = []
        for k, definition in enumerate(definitions):
            self.choose_spans(definition)
            style = self.style_of(request, k, len(definitions))
            fill = bool(style.pop("fill", False))
            found.append(Contours(request, style, definition=definition, levels=self.levels(request), fill=fill))
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
            text = f"a number of levels is whole, from 1 to 400, not {format_short(count)}"
            raise refusal("levels", text, option, advise("levels [0.5], levels 8"))
        return int(count)

    # ------------------------------------------------------------ definitions

    def definition(self, request: tree.Request, item: tree.Expression) -> SurfaceDefinition:
        """A formula, an equation or a place of three coordinates as a surface, with the spans that are said. Raises Refused."""
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
        what: What = kind  # type: ignore[assignment]
        return SurfaceDefinition(what, formulas, tuple(names), spans, (axes[0], axes[1], axes[2]), texts, notes)

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

    def _through(self, request: tree.Request) -> SurfaceDefinition:
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
        texts = words[0], words[1], words[2]
        return SurfaceDefinition("explicit", [body], ("x", "y"), spans, ("x", "y", "z"), texts, [note, *said])

    # ------------------------------------------------------------ windows

    def choose_spans(self, definition: SurfaceDefinition) -> None:
        """Spans of an explicit surface that nobody gave: where cuts through it along each variable are interesting.

        The first cuts are made near zero; the second through the middle of what those chose and half way to its ends, and
        the one through the middle counts where it shows anything.
        """
        missing = [k for k, s in enumerate(definition.spans) if s is None] if definition.what == "explicit" else []
        if not missing:
            return
        h = definition.height

        def cut(k: int, at: float) -> WindowChoice:
            def along(t: Any) -> Any:
                other = np.full(np.shape(t), at)
                return h(t, other) if k == 0 else h(other, t)

            return x_window(along)

        def middle(choices: list[WindowChoice]) -> WindowChoice:
            telling = [c for c in choices if c.telling] or choices
            low, high = (float(np.median([getattr(c, end) for c in telling])) for end in ("low", "high"))
            return WindowChoice(low, high, telling[0].reason, telling[0].telling)

        first = {k: middle([cut(k, at) for at in (0.0, 0.7, -1.3)]) for k in missing}
        for k in missing:
            span = definition.spans[1 - k] if 1 - k not in first else (first[1 - k].low, first[1 - k].high)
            assert span is not None
            low, high = span
            choices = [cut(k, low + (high - low) * share) for share in (0.5, 0.25, 0.75)]
            found = choices[0] if choices[0].telling else middle([*choices[1:], first[k]])
            definition.spans[k] = (found.low, found.high)
            definition.notes.append(
                f"window for {definition.names[k]} chosen: {format_short(found.low)} to {format_short(found.high)}, {found.reason}"
            )

    # ------------------------------------------------------------ sections

    def section(self, request: tree.Request) -> Section:
        """The section of a surface by the plane of an equation. Raises Refused."""
        option = request.option("at")
        assert option is not None
        assert isinstance(option.value, tree.Expression)
        equation = unwrapped(option.value)
        assert isinstance(equation, tree.Comparison)
        definition = self.definition(request, request.subjects[0])
        self.choose_spans(definition)
        names = definition.axes
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
        style = self.style_of(request, 0, 1)
        said = self.text[option.value.start : option.value.end]
        return Section(request, style, definition=definition, plane=plane_of(a, b, d, -start), equation=(a, b, d, -start), said=said)


def zero_factors(formula: Formula, names: tuple[str, ...]) -> list[Formula]:
    """Factors whose zeros together are those of the formula: a product is drawn factor by factor, so that where two branches
    cross each goes straight on, and a square is drawn like what is squared (it never changes its sign)."""
    found = polynomial_factors(formula, names)
    if found is None:
        found = [f for f, _ in factors(formula) if set(names) & variables(f)]
    return found or [formula]
