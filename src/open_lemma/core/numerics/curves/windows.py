"""Windows that choose themselves: what to show of a function when the script does not say.

Along x: from roots, turning points, poles and edges near zero. Along y: all values, unless the function runs off to
infinity somewhere; then the part where it does is cut, in proportion to the rest.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from .sampling import Floats, Function, Sampler
from .scales import Scale

DEFAULT_REACH = 5.0
FARTHEST = 1000.0
HUGE = 1e100
GATHERED = 50.0


@dataclass(frozen=True, slots=True)
class WindowChoice:
    """A window with the reason for it in words; telling: something of interest lies in it."""

    low: float
    high: float
    reason: str
    telling: bool = True


def nice(value: float, up: bool) -> float:
    """The nearest of 1, 1.5, 2, 3, 4, 5, 6, 8 times a power of ten that is not below (above) a positive number."""
    if value <= 0:
        return 0.0
    power = 10.0 ** np.floor(np.log10(value))
    steps = [1, 1.5, 2, 3, 4, 5, 6, 8, 10]
    ratio = value / power
    if up:
        return float(power * next(s for s in steps if s >= ratio * (1 - 1e-12)))
    return float(power * next(s for s in reversed([0, *steps]) if s <= ratio * (1 + 1e-12)))


def x_window(function: Function) -> WindowChoice:
    """Where a function of one variable is interesting, looked for within 1000 of zero."""
    sampler = Sampler(function, -FARTHEST, FARTHEST)
    t = np.linspace(-np.arcsinh(FARTHEST / 0.05), np.arcsinh(FARTHEST / 0.05), 4001)
    x = 0.05 * np.sinh(t + 1e-4)
    y = sampler.values(x)
    if not np.isfinite(y).any():
        return WindowChoice(-DEFAULT_REACH, DEFAULT_REACH, "nothing was found to show", False)
    edges = _edges(sampler, x, y)
    features = _apart(np.unique(np.concatenate([_features(x, y), edges])))
    if not features.size:
        rise = _rise(x, y)
        if rise is not None:
            return WindowChoice(*rise, "to show where it rises or falls from one level to another")
        reach = _quiet_reach(x, y, 0.0)
        return WindowChoice(-reach, reach, "as it has no roots, turning points or poles", False)
    near = features[np.argsort(np.abs(features))][:7]
    if features.size > 40 and np.abs(features).max() < GATHERED:
        # Countless ones that gather at a place: all of them together are the picture.
        near = features
    low, high = _around(x, y, near, edges, many=features.size > 7)
    defined = np.isfinite(y)
    if edges.size and not defined[0]:
        low = max(low, _tidy(float(edges[0])))
    if edges.size and not defined[-1] and not np.abs(y[np.flatnonzero(defined)[-1]]) > HUGE:
        high = min(high, _tidy(float(edges[-1])))
    few = features.size <= 7
    return WindowChoice(
        low, high, "to show its roots, turning points and poles" if few else "to show some of its many roots and turning points"
    )


def _around(x: Floats, y: Floats, near: Floats, edges: Floats, many: bool) -> tuple[float, float]:
    """A rounded window around places of interest, with room on both sides."""
    low, high = float(near.min()), float(near.max())
    spread = high - low
    if spread < 1e-5:
        reach = _quiet_reach(x, y, low)
        half = _half_width(x, y, low)
        if half is not None and not 2 * half < reach < 8 * half:
            return _rounded(low - 3 * half, high + 3 * half)
        return _rounded(low - reach, high + reach) if low else (-reach, reach)
    room = 0.15 * spread if many else max(0.4 * spread, min(1.0, 3 * spread))
    before = after = room
    if near.size == 2 and not many:
        # An edge and one thing beyond it: the side that goes on deserves to be seen.
        after = 2 * spread if low in edges else room
        before = 2 * spread if high in edges else room
    return _rounded(low - before, high + after)


def _half_width(x: Floats, y: Floats, peak: float) -> float | None:
    """How far from a lone peak (or dip) the values have come half way to the level that they have far out on both sides; None
    where there is no such level."""
    far = y[np.abs(x) > 0.5 * FARTHEST]
    if not np.isfinite(y).all():
        return None
    height = y[int(np.argmin(np.abs(x - peak)))] - far.mean()
    near = np.flatnonzero(np.abs(y - far.mean()) > 0.5 * abs(height))
    # A pole stands between two samples, and is no peak.
    if not np.ptp(far) <= 0.1 * abs(height) or near.size < 4:
        return None
    return float(max(peak - x[near[0] - 1], x[near[-1] + 1] - peak))


def _apart(features: Floats) -> Floats:
    """Places set apart by more than the samples can tell: a pole shows as a sign change and as turns beside it."""
    keep: list[float] = []
    for place in features.tolist():
        if not keep or place - keep[-1] > 0.02 * max(abs(place), 0.05):
            keep.append(place)
    return np.array(keep)


def _rise(x: Floats, y: Floats) -> tuple[float, float] | None:
    """A window around the step of a function that is level far out on both sides."""
    if not np.isfinite(y).all() or not 0 < np.ptp(y) < HUGE:
        return None
    share = (y - y[0]) / (y[-1] - y[0])
    first, last = (x[int(np.argmax(share > s))] for s in (0.05, 0.95))
    if max(abs(first), abs(last)) > 0.3 * FARTHEST:
        return None
    return _rounded(float(first - (last - first)), float(last + (last - first)))


def _tidy(value: float) -> float:
    near = round(value, 9)
    return near if abs(near - value) < 1e-11 * max(1.0, abs(value)) else value


def _rounded(low: float, high: float) -> tuple[float, float]:
    """Out to the next tidy step."""
    step = 10.0 ** np.floor(np.log10((high - low) / 4))
    for factor in (1, 2, 5):
        if (high - low) / (step * factor) <= 8:
            step *= factor
            break
    return float(f"{np.floor(low / step) * step:.12g}"), float(f"{np.ceil(high / step) * step:.12g}")


def _edges(sampler: Sampler, x: Floats, y: Floats) -> Floats:
    """Edges of the domain to a millionth; where a value only grows too large for a number there is no edge."""
    defined = np.isfinite(y)
    change = np.flatnonzero(defined[:-1] != defined[1:])
    inside = np.where(defined[change], x[change], x[change + 1])
    outside = np.where(defined[change], x[change + 1], x[change])
    last = np.where(defined[change], y[change], y[change + 1])
    for _ in range(50):
        middle = (inside + outside) / 2
        values = sampler.values(middle)
        good = np.isfinite(values)
        inside, outside = np.where(good, middle, inside), np.where(good, outside, middle)
        last = np.where(good, values, last)
    found = np.asarray(inside)
    return np.unique(np.round(found[(np.abs(last) < HUGE) & (np.abs(found) < 0.9 * FARTHEST)], 6))


def _features(x: Floats, y: Floats) -> Floats:
    """Places of sign changes and turning points among samples."""
    defined = np.isfinite(y)
    with np.errstate(all="ignore"):
        root = defined[:-1] & defined[1:] & (np.sign(y[:-1]) * np.sign(y[1:]) < 0)
        slope = np.sign(np.diff(y))
    # A turn may have its two sides in neighbouring steps, or a flat step between them; a plateau is no turning point.
    turn = np.zeros(x.size, dtype=bool)
    turn[1:-1] = slope[:-1] * slope[1:] < 0
    flat = np.flatnonzero((slope[1:-1] == 0) & (slope[:-2] * slope[2:] < 0)) + 1
    # An exact zero counts where it stands alone: a function that is zero over a stretch has no root to show there.
    zero = np.zeros(x.size, dtype=bool)
    zero[1:-1] = (y[1:-1] == 0) & (y[:-2] != 0) & (y[2:] != 0)
    places = np.concatenate([(x[:-1] + x[1:])[root] / 2, x[turn], x[flat], x[zero]])
    places = np.where(np.abs(places) < 4e-4, 0.0, places)
    return np.unique(np.round(places[np.abs(places) < 0.9 * FARTHEST], 6))


def _quiet_reach(x: Floats, y: Floats, centre: float) -> float:
    """How far to go from a place when nothing else tells: as far as the values stay of one order."""
    defined = np.isfinite(y)
    for reach in (max(DEFAULT_REACH, 1.5 * abs(centre)), 3.0, 2.0, 1.5):
        values = np.abs(y[defined & (np.abs(x - centre) <= reach)])
        # By quantiles: a pole within reach is cut anyway and says nothing of the rest.
        if values.size > 20 and np.subtract(*np.quantile(values, [0.95, 0.0])) <= 1e3 * max(float(np.median(values)), 1e-300):
            return reach
    return 1.0


def y_window(curves: Sequence[tuple[Sampler, Floats, Floats]], data: Sequence[Any], scale: Scale) -> WindowChoice:
    """The vertical window for curves (sampler, x, y) and point data together."""
    values: list[Floats] = [np.asarray(d, dtype=float) for d in data]
    cut = False
    for sampler, x, y in curves:
        shown, was_cut = _bounded(sampler, x, y)
        values.append(shown)
        cut = cut or was_cut
    everything = np.concatenate(values) if values else np.array([])
    everything = everything[np.isfinite(everything)]
    if scale.positive:
        return _log_window(everything)
    if not everything.size:
        return WindowChoice(-1.0, 1.0, "nothing can be drawn")
    low, high = float(everything.min()), float(everything.max())
    if high - low <= 1e-12 * max(abs(low), abs(high)):
        room = abs(low) / 2 if low else 1.0
        return WindowChoice(low - room, low + room, "around its one value")
    room = 0.05 * (high - low)
    reason = "poles are cut" if cut else "to show all values"
    return WindowChoice(_from_zero(low - room, low), _from_zero(high + room, high), reason)


def _from_zero(padded: float, value: float) -> float:
    """Room is not added beyond zero to what only reaches zero."""
    return 0.0 if value == 0 else padded


def _log_window(values: Floats) -> WindowChoice:
    positive = values[values > 0]
    if not positive.size:
        return WindowChoice(1.0, 10.0, "no value is positive")
    low, high = float(positive.min()), float(positive.max())
    low = max(low, high * 1e-12)
    if high / low < 1.01:
        return WindowChoice(low / 3, high * 3, "around its one value")
    room = (high / low) ** 0.04
    return WindowChoice(low / room, high * room, "to show all values above zero")


def _bounded(sampler: Sampler, x: Floats, y: Floats) -> tuple[Floats, bool]:
    """The values to be shown: all, or where the function grows beyond all bounds those in proportion."""
    good = y[np.isfinite(y)]
    if good.size < 8:
        return good, False
    even = _evenly(sampler, x, y)
    low, high = np.quantile(even, [0.04, 0.96])
    spread = max(high - low, 1e-300)
    cut = False
    bottom, top = float(good.min()), float(good.max())
    q10, q90 = np.quantile(even, [0.1, 0.9])
    reach = 0.6 * max(q90 - q10, 1e-300)
    if (top - high > 0.75 * spread and _runs_off(sampler, x, y, 1)) or top > 1e200:
        top, cut = q90 + reach, True
    if (low - bottom > 0.75 * spread and _runs_off(sampler, x, y, -1)) or bottom < -1e200:
        bottom, cut = q10 - reach, True
    return np.array([bottom, top, *good[(good >= bottom) & (good <= top)][:1]]), cut


def _evenly(sampler: Sampler, x: Floats, y: Floats) -> Floats:
    """Values at evenly spread places, so that a place looked at closely does not weigh more."""
    defined = np.isfinite(y)
    x, y = x[defined], y[defined]
    share = np.linspace(0.0, 1.0, 400)
    places = sampler.x_scale.at(share, sampler.low, sampler.high)
    inside = places[(places >= x[0]) & (places <= x[-1])]
    return y[np.searchsorted(x, inside)] if inside.size > 8 else y


def _runs_off(sampler: Sampler, x: Floats, y: Floats, sign: int) -> bool:
    """Whether the values grow without bound near their extreme: follow it inward and see."""
    size = np.where(np.isfinite(y), sign * y, -np.inf)
    i = int(np.argmax(size))
    low, high = float(x[max(i - 1, 0)]), float(x[min(i + 1, x.size - 1)])
    tops: list[float] = []
    for _ in range(60):
        trial = np.linspace(low, high, 9)
        values = sign * sampler.values(trial)
        values = np.where(np.isfinite(values), values, -np.inf)
        best = int(np.argmax(values))
        tops.append(float(values[best]))
        low, high = float(trial[max(best - 1, 0)]), float(trial[min(best + 1, 8)])
        if low == high:
            break
    # A pole doubles and doubles down to the last double; a peak, however sharp, comes to rest.
    early, late = tops[min(10, len(tops) - 1)], tops[-1]
    return late > 1e200 or (early > 0 and late / 100 > early)
