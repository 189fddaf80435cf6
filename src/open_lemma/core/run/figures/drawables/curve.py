"""The curve of a function of the horizontal variable, and a band between two of them."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from ....figure.model import Floats, Series
from ....formula.catalogue import over, times
from ....formula.domain import division_places, joints
from ....formula.nodes import Formula, Given, Variable, substitute
from ....formula.tape import Tape
from ....formula.typeset import name_tex
from ....formula.units import Unit
from ....language import tree
from ....numerics.curves.bounds import bounds_of
from ....numerics.curves.sampling import Break, PaperView, Sampled, Sampler, even_poles
from ....numerics.curves.scales import Scale
from ....numerics.curves.windows import x_window
from ....record.notation import format_short
from ...evaluate.refusals import refusal
from ...slopes import value_of
from ...undefined import no_value
from ..clip import within_paper
from ..extent import reach
from .base import Drawable, FirstLook, PanelContext, Span, texts_of
from .colour_values import colour_values
from .texts import quantity_text


@dataclass
class Curve(Drawable):
    """A function of the horizontal variable.

    subject   the expression of the script
    low, high its window; None where it is to be chosen, which `span` does
    tint      what colours it, in the same variable
    upper     of a band: its other edge
    narrowed  whether a stated domain left less than the window that was asked for
    beyond    spans of data that the window leaves
    """

    node: tree.Request
    subject: tree.Expression = field(kw_only=True)
    formula: Formula = field(kw_only=True)
    variable: str = field(kw_only=True)
    low: float | None = field(kw_only=True)
    high: float | None = field(kw_only=True)
    tint: Formula | None = None
    upper: Formula | None = None
    narrowed: bool = False
    beyond: tuple[Span, ...] = ()
    units: tuple[Unit | None, Unit | None] = (None, None)  # type: ignore[misc]

    axes_from = "formula"

    def __post_init__(self) -> None:
        self._tape = Tape([self.formula], [self.variable])

    def function(self, x: Floats) -> Floats:
        """Values at places (n,); NaN where there is none."""
        return np.asarray(self._tape.numeric(x)[0])

    # ------------------------------------------------------------ the window

    def span(self, panel: PanelContext, scale: Scale) -> Span:
        if self.low is None or self.high is None:
            given = panel.given("x")
            if given is not None:
                self.low, self.high = given
            elif self.node.noun == "tangent" and (others := _spans_of_curves(panel)):
                self.low, self.high = min(s[0] for s in others), max(s[1] for s in others)
            else:
                choice = x_window(self.function)
                self.low, self.high = choice.low, choice.high
                text = f"window for {self.variable} chosen: {format_short(choice.low)} to {format_short(choice.high)}, {choice.reason}"
                panel.say(self.node, text)
        return self.low, self.high

    @property
    def window_is_open(self) -> bool:
        """Whether the script leaves its window to the program, so that a shared one may widen it."""
        return not (self.node.windows and self.node.windows[0].low is not None)

    def look(self, x_low: float, x_high: float, scale: Scale) -> FirstLook:
        assert self.low is not None
        assert self.high is not None
        low, high = max(self.low, x_low), min(self.high, x_high)
        if not low < high:
            text = f"this curve runs from {format_short(self.low)} to {format_short(self.high)}, outside the window of the axis"
            raise refusal("outside-window", text, self.node)
        sampler = Sampler(self.function, low, high, scale, bounds_of(self.formula, self.variable))
        places = division_places(self.formula, self.variable)
        places += [value_of(j) for j in joints(self.formula, self.variable)]
        first = sampler.first_grid(sorted(set(places)))
        if not np.isfinite(first[1]).any():
            why = self._why(float(first[0][first[0].size // 2]))
            raise refusal(
                "nowhere-defined", f"this has no value anywhere from {format_short(low)} to {format_short(high)}: {why}", self.node
            )
        return FirstLook(sampler, first)

    def heights(self, panel: PanelContext, x: Span, look: FirstLook | None) -> list[Floats]:
        assert look is not None
        found = []
        if self.upper is not None:
            found.append(reach(self._upper(self.upper, look.first[0])))
        if self.style.get("fill"):
            found.append(np.array([0.0]))
        return found

    def _upper(self, upper: Formula, x: Floats) -> Floats:
        """The other edge of a band at the places of its first one."""
        with np.errstate(all="ignore"):
            y = np.asarray(Tape([upper], [self.variable]).numeric(x)[0], dtype=float)
        y = np.broadcast_to(y, x.shape).copy()
        return np.where(np.isfinite(y), y, np.nan)

    # ------------------------------------------------------------ drawing

    def series(
        self, name: str, panel: PanelContext, view: PaperView, place: int, look: FirstLook | None, sampled: Sampled | None
    ) -> Series:
        assert look is not None
        assert sampled is not None
        x, y = within_paper(sampled, view) if self.upper is None else (sampled.x, sampled.y)
        style = {"marker": "none", **self.style, "place": place}
        series = Series(name, "band" if self.upper is not None else "curve", panel.line_of(self.node), x, y, **style)
        series.formula, series.variable = texts_of(self.formula), self.variable
        series.stroke = self.upper is not None and "width" in self.style
        if self.upper is not None:
            series.y2 = self._upper(self.upper, x)
            series.formula = texts_of(self.formula, self.upper)
        if self.tint is not None:
            self._coloured(series, self.tint, look.sampler, view)
        return series

    def _coloured(self, series: Series, tint: Formula, sampler: Sampler, view: PaperView) -> None:
        """Colour changes along straight stretches too: they get places of their own, a few points apart."""
        x = series.x
        series.tints = colour_values(tint, self.variable, x)
        with np.errstate(all="ignore"):
            wide = np.diff(view.x_pt(x))
        more = [np.linspace(a, b, int(w / 2.5) + 2)[1:-1] for a, b, w in zip(x[:-1], x[1:], wide, strict=True) if w > 2.5]
        if more:
            added = np.concatenate(more)
            values = sampler.values(added)
            order = np.argsort(np.concatenate([x, added]), kind="stable")
            series.x = np.concatenate([x, added])[order]
            series.y = np.concatenate([series.y, values])[order]
            series.tints = colour_values(tint, self.variable, series.x)

    def axis_name(self, which: str) -> str | None:
        if which == "x":
            return quantity_text(self.variable, self.units[0]) or f"${name_tex(self.variable)}$"
        function = self.subject.function if isinstance(self.subject, tree.Call) else None
        return quantity_text(function.name if isinstance(function, tree.Name) else None, self.units[1])

    def scaled(self, k: int, factor: Formula, unit: Unit) -> None:
        """Its numbers along one axis in another unit."""
        edges = [f for f in (self.formula, self.upper) if f is not None]
        if k == 1:
            edges = [times(f, factor) for f in edges]
        else:
            back = {self.variable: over(Variable(self.variable), factor)}
            edges = [substitute(f, back) for f in edges]
            size = value_of(factor)
            self.low, self.high = (None if e is None else e * size for e in (self.low, self.high))
            self.beyond = tuple((a * size, b * size) for a, b in self.beyond)
        self.formula, self.upper = edges[0], edges[1] if len(edges) > 1 else None
        self.units = (unit, self.units[1]) if k == 0 else (self.units[0], unit)
        self._tape = Tape([self.formula], [self.variable])

    def copied(self) -> Curve:
        # What the program knows of its window stays with the first one.
        return replace(self, narrowed=False, beyond=())

    # ------------------------------------------------------------ where it is broken, and why

    def describe(self, panel: PanelContext, view: PaperView, look: FirstLook | None, sampled: Sampled | None) -> None:
        assert look is not None
        assert sampled is not None
        v, width = self.variable, view.x_high - view.x_low
        poles = [b for b in sampled.breaks if b.kind == "pole"] + even_poles(look.sampler, sampled.x, sampled.y, view)
        points = [b for b in sampled.breaks if b.kind == "gap" and b.high - b.low <= 1e-9 * width]
        spans = [b for b in sampled.breaks if b.kind == "gap" and b not in points]
        jumps = [b for b in sampled.breaks if b.kind == "jump"]
        for gap in spans:
            why = self._why((gap.low + gap.high) / 2)
            panel.say(self.node, f"no value from {v} = {_tidy(gap.low, view)} to {_tidy(gap.high, view)}: {why}")
        tall = 1e6 * max(abs(view.y_low), abs(view.y_high))
        poles += [p for p in points if float(np.nanmax(np.abs(look.sampler.values(np.array([p.low, p.high]))), initial=0.0)) > tall]
        single = [p for p in points if not any(abs(p.low - q.low) < 1e-9 * width for q in poles)]
        if poles:
            panel.say(self.node, f"grows without bound at {v} = {_places(poles, view)}; not joined there")
        if single:
            panel.say(self.node, f"no value at {v} = {_places(single, view)}: {self._why(_plain_place(single[0], view))}")
        if jumps:
            panel.say(self.node, f"jumps at {v} = {_places(jumps, view)}; not joined there")
        if view.y_scale.positive and bool((sampled.y[np.isfinite(sampled.y)] <= 0).any()):
            panel.say(self.node, "values that are not above zero have no place on a logarithmic axis")
        if not sampled.complete:
            panel.say(self.node, "the curve turns faster than can be drawn in places; the line is a band there")

    def _why(self, x: float) -> str:
        return no_value(substitute(self.formula, {self.variable: Given(x)}), self.subject).message.text


def _spans_of_curves(panel: PanelContext) -> list[Span]:
    return [(t.low, t.high) for t in panel.drawables if isinstance(t, Curve) and t.low is not None and t.high is not None]


def _tidy(value: float, view: PaperView) -> str:
    scale = view.x_high - view.x_low
    return format_short(0.0 if abs(value) < 1e-12 * scale else value, 6)


def _plain_place(b: Break, view: PaperView) -> float:
    middle = (b.low + b.high) / 2
    return 0.0 if abs(middle) < 1e-12 * (view.x_high - view.x_low) else middle


def _places(breaks: list[Break], view: PaperView) -> str:
    texts = list(dict.fromkeys(_tidy((b.low + b.high) / 2, view) for b in sorted(breaks, key=lambda b: b.low)))
    return ", ".join(texts[:6]) + (f" and {len(texts) - 6} more" if len(texts) > 6 else "")
