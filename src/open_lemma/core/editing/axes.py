"""Axes and windows: texts, spans, options."""

from __future__ import annotations

from dataclasses import dataclass
from math import isnan, nan

from ..language import tree
from ..language.messages import Edit
from ..language.vocabulary import STATEMENTS
from .actions import Action, action
from .changes import NotInked, differences
from .script import EditedScript, find_option, merged, number_text, option_value, quoted

_KEPT = nan  # an end that is not said: what stands there stays


@action("axis")
@dataclass(frozen=True, kw_only=True)
class AxisAction(Action):
    """An axis of a window: its text ("" takes it away), its span (None: it is chosen again), its options by name (None takes one away).
    What is not said stays.

    logarithmic, reversed  how the axis is drawn now, so that a span is read with as many digits as it has, and in its direction
    """

    which: str
    text: str | None = None
    low: float | None = _KEPT
    high: float | None = _KEPT
    options: dict[str, str | None] | None = None
    logarithmic: bool | None = None
    reversed: bool | None = None

    def edits(self, script: EditedScript) -> list[Edit]:
        if self.which not in ("x", "y", "z", "right", "colour"):
            raise NotInked(f"there is no {self.which} axis")
        found: tree.Axis | None = script.find_word(self.line, tree.Axis, lambda s: s.which == self.which)
        # A reversed axis keeps its direction: by its option, or else by its ends.
        turned = bool(self.reversed) and not (found is not None and find_option(found, "direction") is not None)
        window = self._span(turned)
        options = {n: None if v is None else option_value(n, v) for n, v in self._known_options()}
        if found is None:
            said = "".join(f", {n} {v}" for n, v in options.items() if v is not None)
            heading = f" {quoted(self.text)}" if self.text else ""
            return script.add_to(self.line, f"{self.which} axis{heading}{window}{said}") if heading or window or said else []
        edits = []
        head = script.reading.source.line_start(script.line_of(found))
        after = script.text.index("axis", found.start if found.start >= head else head) + 4
        if found.text is not None:
            open_quote = script.text.index('"', after)
            close = open_quote + len(found.text) + 2
            if self.text is not None:
                edits.append(Edit(open_quote if self.text else after, close, quoted(self.text) if self.text else ""))
            after = close
        elif self.text:
            edits.append(Edit(after, after, f" {quoted(self.text)}"))
        if window:
            ends = found.high.end if found.low is not None and found.high is not None else after
            edits.append(Edit(after, ends, window))
        elif self.low is None and found.high is not None:
            edits.append(Edit(after, found.high.end, ""))
        edits += [script.with_option(found, n, v) for n, v in options.items() if v is not None or find_option(found, n) is not None]
        return merged(edits)

    def _known_options(self) -> list[tuple[str, str | None]]:
        found = list((self.options or {}).items())
        for name, _ in found:
            if all(option.name != name for option in STATEMENTS["axis"].options):
                raise NotInked(f"an axis has no option '{name}'")
        return found

    def _span(self, turned: bool) -> str:
        low, high = (self.high, self.low) if turned else (self.low, self.high)
        if low is None or high is None or isnan(low) or isnan(high):
            return ""
        span = abs(high - low)
        # On a logarithmic axis a digit weighs as much at its lower end.
        if self.logarithmic:
            span = min(abs(low), abs(high)) * 10
        return f" from {number_text(low, span)} to {number_text(high, span)}"


@action("window")
@dataclass(frozen=True, kw_only=True)
class WindowAction(Action):
    """The spans of a window: pairs of numbers that rise; None for those that stay."""

    x: tuple[float, float] | None = None
    y: tuple[float, float] | None = None
    right: tuple[float, float] | None = None
    x_logarithmic: bool | None = None
    y_logarithmic: bool | None = None
    right_logarithmic: bool | None = None
    x_reversed: bool | None = None
    y_reversed: bool | None = None
    right_reversed: bool | None = None

    def edits(self, script: EditedScript) -> list[Edit]:
        before = script.text
        for which in ("x", "y", "right"):
            ends = getattr(self, which)
            if ends is not None:
                axis = AxisAction(
                    line=self.line, which=which, low=ends[0], high=ends[1], logarithmic=getattr(self, f"{which}_logarithmic"),
                    reversed=getattr(self, f"{which}_reversed"),
                )  # fmt: skip
                # What is added stands below the head of the block, so that its line stays.
                script = script.after(axis.edits(script))
        return differences(before, script.text)
