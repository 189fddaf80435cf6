"""Dates, times of day and running times as they are written in files: which way fits a column, and what they are in seconds."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from .cells import MISSING

RUNNING = "running"  # hours of a running time may go beyond 24
_CLOCKS = ("%H:%M:%S%.f", "%H:%M", "%I:%M:%S %p", "%I:%M %p")
# Day before month where a date leaves it open; the other order stands in `SWAPPED`.
_DATES = (
    "%Y-%m-%d", "%Y/%m/%d", "%d.%m.%y", "%d.%m.%Y", "%d/%m/%y", "%d/%m/%Y", "%m/%d/%y", "%m/%d/%Y", "%d-%m-%y", "%d-%m-%Y", "%m-%d-%y",
    "%m-%d-%Y", "%d %B %Y", "%B %d, %Y", "%d-%B-%Y",
)  # fmt: skip
_ZONE = "%#z"
FORMATS = (
    *(f"%Y-%m-%d{t}{clock}{zone}" for t, clock, zone in itertools.product("T ", _CLOCKS[:2], ("", _ZONE, f" {_ZONE}"))),
    *_DATES,
    *(f"{date}{blank}{clock}" for date, blank, clock in itertools.product(_DATES, (" ", ", "), _CLOCKS)),
    *_CLOCKS,
    RUNNING,
)  # fmt: skip
_RUNNING = re.compile(r"(\d+):([0-5]\d)(?::([0-5]\d(?:\.\d*)?))?\Z")
_MOSTLY = 0.9
_DAY_2000_US = 946_684_800_000_000  # of 2000-01-01 since 1970-01-01
_MOST_TRIED = 200  # cells of a column that are tried with every way
# What looks like one; whether it is one, the ways of writing tell.
_LOOKS = re.compile(
    r"(\d{4}[-/]\d{1,2}[-/]\d{1,2}|\d{1,2}[-/.]\d{1,2}[-/.](\d{4}|\d{2})|\d{1,2}[ -][A-Za-z]{3,9}[ -]\d{4}|[A-Za-z]{3,9} \d{1,2}, \d{4})"
    r"([T ,].*)?\Z|\d+:\d\d(:\d\d([.,]\d*)?)?( ?[AaPp][Mm])?\Z"
)


@dataclass(frozen=True)
class Fit:
    """other: the way with day and month changed about, where every cell reads by that as well."""

    format: str
    other: str | None = None


def looks_like_time(cell: str) -> bool:
    """Whether a cell has the shape of a date or a time."""
    return _LOOKS.match(cell.strip()) is not None


def fitting(cells: Sequence[str]) -> Fit | None:
    """The way of writing by which (nearly) all cells are times; ISO 8601 before others."""
    import polars as pl

    plain = [c for c in dict.fromkeys(c.strip() for c in cells) if c.lower() not in MISSING]
    if not plain or not all(looks_like_time(c) for c in plain[:5]):
        return None
    tried = pl.Series(plain[:_MOST_TRIED], dtype=pl.String)
    whole = pl.Series(plain, dtype=pl.String)
    for fmt in FORMATS:
        if _count(tried, fmt) < max(1.0, _MOSTLY * len(tried)):
            continue
        other = swapped(fmt)
        if other is None:
            return Fit(fmt)
        # What the first cells leave open, a later one may tell.
        mine, its = _count(whole, fmt), _count(whole, other)
        if its > mine:
            return Fit(other)
        return Fit(fmt, other if its == mine and any(_day_is_not_month(c) for c in plain) else None)
    return None


def _count(cells: Any, fmt: str) -> int:
    return int(np.isfinite(seconds(cells, fmt)).sum())


def _day_is_not_month(cell: str) -> bool:
    return len(set(re.findall(r"\d+", cell)[:2])) > 1


def swapped(fmt: str) -> str | None:
    """The same way with day and month in the other order, where digits leave it open."""
    for sign in "/-":
        for one, two in (("%d", "%m"), ("%m", "%d")):
            start = f"{one}{sign}{two}"
            if fmt.startswith(start):
                return f"{two}{sign}{one}" + fmt[len(start) :]
    return None


def is_clock(fmt: str) -> bool:
    """Whether it says a time without a day."""
    return fmt == RUNNING or not any(mark in fmt for mark in ("%Y", "%y"))


def seconds(cells: Any, fmt: str) -> Any:
    """cells: a series of texts. Seconds since midnight, or since 1970-01-01 in universal time; NaN where a cell does not read."""
    import polars as pl

    if fmt == RUNNING:
        return np.array([_running(c) for c in cells.to_list()])
    if is_clock(fmt):
        # A time of day is read as one of some day: the hours of a half day are understood only with their half.
        parsed = ("2000-01-01 " + cells).str.strptime(pl.Datetime("us"), f"%Y-%m-%d {fmt}", strict=False)
        counted = parsed.cast(pl.Int64) - _DAY_2000_US
    elif fmt.endswith(_ZONE):
        counted = cells.str.strptime(pl.Datetime("us", "UTC"), fmt, strict=False).cast(pl.Int64)
    else:
        counted = cells.str.strip_suffix("Z").str.strptime(pl.Datetime("us"), fmt, strict=False).cast(pl.Int64)
    return np.where(counted.is_null().to_numpy(), np.nan, counted.fill_null(0).to_numpy().astype(float) / 1e6)


def _running(cell: str) -> float:
    match = _RUNNING.match(cell.strip())
    if match is None:
        return float("nan")
    hours, minutes, rest = match.groups()
    return int(hours) * 3600 + int(minutes) * 60 + float(rest or 0)
