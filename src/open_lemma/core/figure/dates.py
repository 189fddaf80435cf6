"""Axes of time: places of round times, and what is written there."""

from __future__ import annotations

import re
from typing import Any

import numpy as np

_SECONDS = {"second": 1, "minute": 60, "hour": 3600, "day": 86400, "week": 604800}
_SINCE = re.compile(r"(second|minute|hour|day|week)s? since (\d{4})-(\d\d)-(\d\d)(?:[ T](\d\d):(\d\d)(?::(\d\d))?)?")
_MONTHS = "Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec".split()


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
