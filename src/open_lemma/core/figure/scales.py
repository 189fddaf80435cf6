"""The scales on paper: what the drawing library calls them, where numbers stand on them, how they go over into colours."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np
from matplotlib.colors import AsinhNorm, LogNorm, Normalize
from matplotlib.ticker import FixedLocator, LogFormatterMathtext, LogLocator, MaxNLocator, NullFormatter, NullLocator

from .dates import date_ticks
from .model import AxisSpec
from .model import Scale as ScaleName
from .numbers import NamesFormatter, NumberFormatter, PiFormatter, PowersFormatter


@dataclass(frozen=True)
class PaperScale:
    """name: of the library's scale, with what it is told; ticks: puts the numbers at an axis of some length in points."""

    name: str
    told: Callable[[AxisSpec], dict[str, Any]]
    ticks: Callable[[Any, AxisSpec, float, bool, bool], None]
    norm: Callable[[AxisSpec], Any]


def _linear(axis: Any, spec: AxisSpec, length_pt: float, comma: bool, wide: bool) -> None:
    count = max(2, min(9, int(length_pt / (42 if wide else 31))))
    if spec.dates is not None:
        places, names = date_ticks(spec.dates, spec.low, spec.high, count, narrow=not wide)
        axis.set_major_locator(FixedLocator(places))
        axis.set_major_formatter(NamesFormatter(places, names))
    elif spec.numbers == "pi":
        share = float(_pi_step(spec.low, spec.high, count))
        axis.set_major_locator(FixedLocator(_multiples(spec.low, spec.high, share * np.pi)))
        axis.set_major_formatter(PiFormatter())
    elif spec.numbers == "degrees":
        span = np.degrees(spec.high - spec.low)
        step = next((s for s in (1, 2, 5, 10, 15, 30, 45, 60, 90, 180, 360) if span / s <= count), 360.0 * np.ceil(span / 360 / count))
        axis.set_major_locator(FixedLocator(_multiples(spec.low, spec.high, float(np.radians(step)))))
        axis.set_major_formatter(NumberFormatter(comma, spec.decimals, 180 / np.pi, "°"))
    else:
        axis.set_major_locator(MaxNLocator(nbins=count, steps=[1, 2, 2.5, 5, 10]))
        if spec.numbers == "percent":
            axis.set_major_formatter(NumberFormatter(comma, spec.decimals, 100.0, "\u2009%"))
        elif spec.numbers == "powers":
            axis.set_major_formatter(PowersFormatter(comma))
        else:
            axis.set_major_formatter(NumberFormatter(comma, spec.decimals, full=spec.numbers == "full"))


def _logarithmic(axis: Any, spec: AxisSpec, length_pt: float, comma: bool, _: bool) -> None:
    decades = float(np.log10(spec.high / spec.low)) if spec.low > 0 else 1.0
    count = max(3, int(length_pt / 26))
    if decades < 1.6:
        # Hardly a power of ten in the window: the numbers between them are told too.
        subs = (1.0, 2.0, 5.0) if decades > 0.8 else (1.0, 1.5, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0)
        axis.set_major_locator(LogLocator(subs=subs, numticks=30))
        axis.set_major_formatter(NumberFormatter(comma, spec.decimals, each=True))
    else:
        axis.set_major_locator(LogLocator(numticks=count))
        plainly = spec.numbers == "full" or (spec.numbers == "plain" and spec.low >= 1e-3 and spec.high <= 1e4)
        axis.set_major_formatter(NumberFormatter(comma, spec.decimals, each=True) if plainly else LogFormatterMathtext())
    axis.set_minor_locator(LogLocator(subs=tuple(range(2, 10)), numticks=30))
    axis.set_minor_formatter(NullFormatter())


def _signed(axis: Any, spec: AxisSpec, length_pt: float, comma: bool, _: bool) -> None:
    axis.set_major_locator(FixedLocator(_signed_powers(spec, max(3, int(length_pt / 26)))))
    axis.set_minor_locator(NullLocator())
    axis.set_major_formatter(PowersFormatter(comma))


def _signed_powers(spec: AxisSpec, count: int) -> list[float]:
    """0 and powers of ten to both sides, from the threshold on, no more than there is room for."""
    greatest = max(abs(spec.low), abs(spec.high))
    first = int(np.floor(np.log10(spec.threshold) + 1e-9))
    powers = [10.0**k for k in range(first, int(np.floor(np.log10(greatest) + 1e-9)) + 1)] if greatest > 0 else []
    sides = (spec.low < 0) + (spec.high > 0)
    every = max(1, -(-len(powers) * max(sides, 1) // max(count - 1, 1)))
    # From the far end, so that the largest is always told.
    kept = powers[::-1][::every][::-1]
    places = sorted([-p for p in kept] + [0.0, *kept])
    return [p for p in places if spec.low <= p <= spec.high]


def _multiples(low: float, high: float, step: float) -> list[float]:
    first, last = int(np.ceil(low / step - 1e-9)), int(np.floor(high / step + 1e-9))
    return [k * step for k in range(first, last + 1)]


def _pi_step(low: float, high: float, count: int) -> Fraction:
    span = (high - low) / np.pi
    steps = [Fraction(1, d) for d in (24, 12, 6, 4, 2)] + [Fraction(n) for n in (1, 2, 5, 10, 20, 50, 100)]
    return next((s for s in steps if span / float(s) <= count), Fraction(int(np.ceil(span / count))))


SCALES: dict[ScaleName, PaperScale] = {
    "linear": PaperScale("linear", lambda _: {}, _linear, lambda spec: Normalize(spec.low, spec.high)),
    "logarithmic": PaperScale("log", lambda _: {}, _logarithmic, lambda spec: LogNorm(spec.low, spec.high)),
    # The inverse hyperbolic sine: smooth through zero, where a scale of two pieces has a kink that curves do not have.
    "signed-logarithmic": PaperScale(
        "asinh", lambda spec: {"linear_width": spec.threshold}, _signed, lambda spec: AsinhNorm(spec.threshold, spec.low, spec.high)
    ),
}
