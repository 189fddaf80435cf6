"""Axes on paper: scales, places of the numbers, and how numbers are written."""

from __future__ import annotations

import re
from fractions import Fraction
from typing import Any

import numpy as np
from matplotlib.ticker import (
    FixedLocator,
    Formatter,
    LogFormatterMathtext,
    LogLocator,
    MaxNLocator,
    NullFormatter,
    NullLocator,
)

from .model import AxisSpec

_SECONDS = {"second": 1, "minute": 60, "hour": 3600, "day": 86400, "week": 604800}
_SINCE = re.compile(r"(second|minute|hour|day|week)s? since (\d{4})-(\d\d)-(\d\d)(?:[ T](\d\d):(\d\d)(?::(\d\d))?)?")
_GLANCE = 2  # decimals
_LONGEST = 9  # digits of numbers that are written out for that
_MONTHS = "Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec".split()


def prepare(axes: Any, name: str, spec: AxisSpec, length_pt: float, comma: bool) -> None:
    """Scale, window, numbers and ticks of one axis (`x` or `y`) of given length."""
    axis = getattr(axes, f"{name}axis")
    wide = name == "x"
    if spec.scale == "logarithmic":
        getattr(axes, f"set_{name}scale")("log")
        _logarithmic(axis, spec, length_pt, comma)
    elif spec.scale == "signed-logarithmic":
        # The inverse hyperbolic sine: smooth through zero, where a scale of two pieces has a kink that curves do not have.
        getattr(axes, f"set_{name}scale")("asinh", linear_width=spec.threshold)
        axis.set_major_locator(FixedLocator(_signed_powers(spec, max(3, int(length_pt / 26)))))
        axis.set_minor_locator(NullLocator())
        axis.set_major_formatter(PowersFormatter(comma))
    else:
        _linear(axis, spec, length_pt, comma, wide)
    if spec.ticks is not None:
        axis.set_major_locator(FixedLocator(spec.ticks))
        axis.set_minor_locator(NullLocator())
        if spec.names is not None:
            axis.set_major_formatter(_NamesFormatter(spec.ticks, spec.names))
        elif spec.scale == "logarithmic" and spec.numbers in ("plain", "full"):
            axis.set_major_formatter(NumberFormatter(comma, spec.decimals, each=True))
    if spec.minor is not None and spec.scale == "linear":
        axis.set_minor_locator(_BetweenLocator(spec.minor))
    ends = (spec.high, spec.low) if spec.reversed else (spec.low, spec.high)
    getattr(axes, f"set_{name}lim")(*ends)


def _linear(axis: Any, spec: AxisSpec, length_pt: float, comma: bool, wide: bool) -> None:
    count = max(2, min(9, int(length_pt / (42 if wide else 31))))
    if spec.dates is not None:
        places, names = date_ticks(spec.dates, spec.low, spec.high, count, narrow=not wide)
        axis.set_major_locator(FixedLocator(places))
        axis.set_major_formatter(_NamesFormatter(places, names))
    elif spec.numbers == "pi":
        share = float(_pi_step(spec.low, spec.high, count))
        axis.set_major_locator(FixedLocator(_multiples(spec.low, spec.high, share * np.pi)))
        axis.set_major_formatter(_PiFormatter())
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


def _logarithmic(axis: Any, spec: AxisSpec, length_pt: float, comma: bool) -> None:
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


class _PiFormatter(Formatter):
    """0, π/2, π, 3π/2: the nearest quotient with a denominator up to 24."""

    def __call__(self, x: float, pos: int | None = None) -> str:  # noqa: ARG002 (Matplotlib calls it with both)
        share = Fraction(x / np.pi).limit_denominator(24)
        if abs(float(share) * np.pi - x) > 1e-6 * max(1.0, abs(x)):
            return self.fix_minus(f"{x / np.pi:.3g}π")
        if share == 0:
            return "0"
        top = {1: "π", -1: "−π"}.get(share.numerator, f"{share.numerator}π".replace("-", "−"))
        return top if share.denominator == 1 else f"{top}/{share.denominator}"


class _NamesFormatter(Formatter):
    def __init__(self, places: list[float], names: list[str]) -> None:
        self.places, self.names = np.asarray(places, dtype=float), names

    def __call__(self, x: float, pos: int | None = None) -> str:  # noqa: ARG002
        return self.names[int(np.argmin(np.abs(self.places - x)))] if self.names else ""


class _BetweenLocator(MaxNLocator):
    """So many small ticks between two numbers, and beyond the outer ones as far as the window goes."""

    def __init__(self, between: int) -> None:
        super().__init__()
        self.between = between

    def __call__(self) -> Any:
        axis: Any = self.axis
        low, high = sorted(axis.get_view_interval())
        majors = np.sort(axis.get_majorticklocs())
        if majors.size < 2:
            return np.array([])
        step = float(np.diff(majors).min()) / (self.between + 1)
        places = np.arange(np.ceil((low - majors[0]) / step), np.floor((high - majors[0]) / step) + 1) * step + majors[0]
        return places[np.abs((places - majors[0]) / step % (self.between + 1)) > 0.5] if self.between else np.array([])


def _decimals(step: float) -> int:
    """As many decimals as a step has: 0.25 has two, 0.5 one, 2 none."""
    step = step or 1.0
    return next((d for d in range(16) if abs(step * 10**d - round(step * 10**d)) < 1e-6 * 10**d * step), 16)


def _each(value: float) -> str:
    """A number with the decimals that it needs, six digits at most; written out as long as that is read at a glance."""
    text = f"{value:.6g}"
    return np.format_float_positional(float(text), trim="-") if "e" in text and 1e-6 <= abs(value) < 10.0**_LONGEST else text


def _grouped(text: str, mark: str) -> str:
    """A number with its decimal mark, and whole digits in groups of three from five on, a thin space between them."""
    whole, dot, rest = text.partition(".")
    digits = whole.lstrip("-")
    if len(digits) > 4 and digits.isdigit():
        whole = ("-" if whole.startswith("-") else "") + f"{int(digits):,}".replace(",", "\u2009")
    return whole + mark * len(dot) + rest


class NumberFormatter(Formatter):
    """Tick numbers as plain text, all with the same decimals (typesetting each as mathematics takes twenty times as long).

    Numbers of 100 000 and more, or below a thousandth throughout, have their power of ten set apart at the axis' end, unless that
    leaves them with more decimals than are read at a glance. From five digits on they stand in groups of three (ISO 80000-1).

    each   every number has the decimals that it needs (on logarithmic axes)
    full   no power of ten is set apart
    """

    def __init__(
        self, comma: bool = False, decimals: int | None = None, factor: float = 1.0, sign: str = "", each: bool = False, full: bool = False
    ) -> None:
        self.comma, self.given, self.factor, self.sign, self.each, self.full = comma, decimals, factor, sign, each, full
        self.power = 0
        self.decimals = 0

    def set_locs(self, locs: Any) -> None:
        """Keep the places of the numbers, and how many decimals they need (called by the drawing library)."""
        places = np.asarray(locs, dtype=float) * self.factor
        greatest = float(np.abs(places).max(initial=0.0))
        exponent = int(np.floor(np.log10(greatest) + 1e-9)) if greatest > 0 else 0
        bare = self.each or self.full or self.sign or self.given is not None
        apart = places.size and not bare and (exponent >= 5 or exponent < -3)
        step = float(np.diff(np.sort(places)).min()) if places.size > 1 else 0.0
        if apart and _LONGEST > exponent > 0 and _decimals(step / 10.0**exponent) > _GLANCE:
            apart = False
        self.power = exponent if apart else 0
        self.decimals = self.given if self.given is not None else _decimals(step / 10.0**self.power)

    def __call__(self, x: float, pos: int | None = None) -> str:  # noqa: ARG002
        value = x * self.factor / 10.0**self.power
        if self.each:
            text = f"{value:.{self.given}f}" if self.given is not None else _each(value)
        else:
            text = f"{round(value, self.decimals) + 0.0:.{self.decimals}f}"
        return self.fix_minus(_grouped(text, "," if self.comma else ".")) + self.sign

    def get_offset(self) -> str:
        return rf"$\times 10^{{{self.power}}}$" if self.power else ""


class PowersFormatter(Formatter):
    """2·10⁻³, as mathematics; 0 and ±1 to ±100 stay plain."""

    def __init__(self, comma: bool = False) -> None:
        self.comma = comma

    def __call__(self, x: float, pos: int | None = None) -> str:  # noqa: ARG002
        if x == 0 or 1 <= abs(x) < 1000:
            text = self.fix_minus(f"{x:.4g}")
            return text.replace(".", ",") if self.comma else text
        power = int(np.floor(np.log10(abs(x)) + 1e-9))
        front = f"{x / 10.0**power:.4g}"
        sign = "-" if front.startswith("-") else ""
        front = front.lstrip("-")
        if self.comma:
            front = front.replace(".", "{,}")
        return rf"${sign}10^{{{power}}}$" if front == "1" else rf"${sign}{front}\times 10^{{{power}}}$"


# ---------------------------------------------------------------- dates


class BadDates(ValueError):
    """The beginning of a time axis cannot be read."""


def since(text: str) -> tuple[int, Any]:
    """Seconds in the unit, and the beginning: `hours since 2031-05-02 06:00`."""
    found = _SINCE.fullmatch(text.strip())
    if found is None:
        raise BadDates('dates are written like "hours since 2031-05-02 06:00"; units are seconds, minutes, hours, days, weeks')
    unit, year, month, day, hour, minute, second = found.groups()
    try:
        begin = np.datetime64(f"{year}-{month}-{day}T{hour or '00'}:{minute or '00'}:{second or '00'}", "s")
    except ValueError:
        raise BadDates(f"there is no such day or time: {text.split('since', 1)[1].strip()}") from None
    return _SECONDS[unit], begin


def date_ticks(text: str, low: float, high: float, count: int, narrow: bool = False) -> tuple[list[float], list[str]]:
    """Places of round times in a window, in the axis' own numbers, and what is written there."""
    unit, begin = since(text)
    first, last = (begin + np.timedelta64(round(end * unit), "s") for end in (low, high))
    times, step = _round_times(first, last, count)
    places = [float((t - begin) / np.timedelta64(1, "s")) / unit for t in times]
    texts = [str(np.datetime_as_string(t, unit="s")) for t in times]
    names: list[str] = []
    for k, t in enumerate(texts):
        before = texts[k - 1] if k else ""
        year, month, day, clock = t[:4], int(t[5:7]), int(t[8:10]), t[11:16] if step >= 60 else t[11:19]
        if step < 86_400:
            name, more = clock, f"{day} {_MONTHS[month - 1]}" + (f" {year}" if not before else "")
            fresh = t[:10] != before[:10]
        elif step < 28 * 86_400:
            name, more, fresh = f"{day} {_MONTHS[month - 1]}", year, t[:4] != before[:4]
        elif step < 360 * 86_400:
            name, more, fresh = _MONTHS[month - 1], year, t[:4] != before[:4]
        else:
            name, more, fresh = year, "", False
        names.append((f"{more} {name}" if narrow else f"{name}\n{more}") if fresh else name)
    return places, names


def _round_times(first: Any, last: Any, count: int) -> tuple[list[Any], float]:
    span = float((last - first) / np.timedelta64(1, "s"))
    for step in (1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 10800, 21600, 43200, 86400, 172800, 604800, 1209600):
        if span / step <= count:
            # Round in days of the calendar: multiples counted from a midnight.
            origin = np.datetime64(first, "D").astype("datetime64[s]") if step <= 86_400 else np.datetime64("1969-12-29", "s")
            k = int(np.ceil(float((first - origin) / np.timedelta64(1, "s")) / step - 1e-9))
            times = []
            while (t := origin + np.timedelta64(k * step, "s")) <= last:
                times.append(t)
                k += 1
            return times, float(step)
    months = next((m for m in (1, 2, 3, 6, 12, 24, 60, 120, 240, 600, 1200, 6000) if span / (m * 2_629_800) <= count), 12_000)
    month = int(np.ceil(np.datetime64(first, "M").astype(int) / months)) * months
    times = []
    while (t := np.datetime64(month, "M").astype("datetime64[s]")) <= last:
        if t >= first:
            times.append(t)
        month += months
    return times, months * 2_629_800.0
