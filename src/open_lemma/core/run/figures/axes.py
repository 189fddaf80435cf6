"""Axes of a window as the script gives them: ends, scale, numbers, direction."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ...figure.model import AxisSpec, Scale
from ...formula.units import Unit
from ...language import tree
from ...language.messages import advise
from ...numerics.curves.scales import Scale as AxisScale
from ...numerics.curves.scales import scale_named
from ...record.notation import format_short
from ..evaluate.evaluator import Evaluator
from ..evaluate.refusals import refusal
from ..evaluate.units import unit_in
from .style import StyleReader

Span = tuple[float, float]


class AxisSettings:
    """The axis statements of one window.

    windows  those that others decided on (shared axes), lower end first
    """

    def __init__(self, scope: Evaluator, style: Callable[[], StyleReader]) -> None:
        self.scope, self._style = scope, style
        self.said: dict[str, tree.Axis] = {}
        self.windows: dict[str, Span] = {}
        self.units: dict[str, Unit] = {}  # of the numbers on each axis, where what is drawn has one

    def __contains__(self, which: object) -> bool:
        return which in self.said

    def text(self, which: str) -> str | None:
        """What the script says at an axis, with the unit that it gives it."""
        axis = self.said.get(which)
        if axis is None or axis.text is None or self.option(which, "unit") is None or " / " in axis.text:
            return axis.text if axis is not None else None
        return f"{axis.text} / ${self.units[which].tex()}$"

    def unit_said(self, which: str) -> Unit | None:
        """The unit that the script gives an axis. Raises Refused."""
        option = self.option(which, "unit")
        if option is None:
            return None
        assert isinstance(option.value, str)
        return unit_in(option.value, option)

    def _number(self, e: tree.Expression, which: str) -> float:
        """A number on an axis, in its unit. Raises Refused."""
        return self.scope.in_unit(self.scope.number(e), self.units.get(which), e).value

    def scale(self, which: str) -> Scale:
        option = self.option(which, "scale")
        return str(option.value) if option else "linear"  # type: ignore[return-value]

    def scaled(self, which: str, low: float = 1.0, high: float = 1.0) -> AxisScale:
        """The scale of an axis as mathematics; a signed logarithmic one between its ends. Raises Refused."""
        return scale_named(self.scale(which), self.threshold(which, low, high))

    def option(self, which: str, name: str) -> tree.Option | None:
        axis = self.said.get(which)
        return next((o for o in axis.options if o.name == name), None) if axis else None

    def given(self, which: str) -> Span | None:
        """The window that the script gives an axis, lower end first. Raises Refused."""
        axis = self.said.get(which)
        if axis is None or axis.low is None or axis.high is None:
            return self.windows.get(which)
        low, high = (self._number(e, which) for e in (axis.low, axis.high))
        if not low < high and not high < low:
            raise refusal("window", f"the window of the axis runs from {format_short(low)} to {format_short(high)}", axis.low)
        if self.scale(which) == "logarithmic" and min(low, high) <= 0:
            raise refusal("log-window", f"a logarithmic axis starts above zero, not at {format_short(min(low, high))}", axis.low)
        return min(low, high), max(low, high)

    def reversed(self, which: str) -> bool:
        """Whether the numbers of an axis fall: by its option, or by the order of its ends."""
        axis = self.said.get(which)
        option = self.option(which, "direction")
        falls = False
        if axis is not None and axis.low is not None and axis.high is not None:
            low, high = (self._number(e, which) for e in (axis.low, axis.high))
            falls = low > high
        return falls != (option is not None and option.value == "reversed")

    def threshold(self, which: str, low: float, high: float) -> float:
        """Below which size a signed-logarithmic axis is linear; 0 for other scales. Raises Refused."""
        if self.scale(which) != "signed-logarithmic":
            return 0.0
        option = self.option(which, "threshold")
        if option is None:
            greatest = max(abs(low), abs(high))
            # Where the script does not say: three powers of ten below its end.
            return float(10.0 ** (np.floor(np.log10(greatest)) - 3)) if greatest > 0 else 1.0
        assert isinstance(option.value, tree.Expression)
        value = self.scope.number(option.value).value
        if not value > 0:
            raise refusal("threshold", f"a threshold lies above zero, not at {format_short(value)}", option)
        return value

    def spec(self, which: str, low: float, high: float, text: str | None) -> AxisSpec:
        """The axis as it is drawn, from low to high. Raises Refused."""
        axis = self.said.get(which)
        spec = AxisSpec(text, low, high, self.scale(which), self.reversed(which))
        for option in axis.options if axis is not None else ():
            value = option.value
            if option.name == "ticks":
                assert isinstance(value, tree.Expression)
                spec.ticks = sorted(float(v) for v in np.asarray(self.scope.list(value), dtype=float) if low <= v <= high)
                if not spec.ticks:
                    raise refusal("ticks", f"none of these lies in the window, {format_short(low)} to {format_short(high)}", option)
            elif option.name == "numbers":
                spec.numbers = "full" if value == "plain" else str(value)
            elif option.name == "tones":
                if which != "colour":
                    raise refusal("option-not-here", "tones are those of the colour axis", option, advise("colour axis, tones two-sided"))
                spec.tones = str(value)
            elif option.name == "dates":
                spec.dates = self._style().dates(option)
            elif option.name in ("decimals", "minor"):
                assert isinstance(value, tree.Expression)
                setattr(spec, option.name, self._style().whole(option, value))
        spec.threshold = self.threshold(which, low, high) or 1.0
        return spec

    def evened(self, low: float, high: float) -> Span:
        """Tones of two sides part at zero: as far to one side as to the other."""
        option = self.option("colour", "tones")
        if option is None or option.value != "two-sided" or not low < 0 < high:
            return low, high
        return -max(-low, high), max(-low, high)
