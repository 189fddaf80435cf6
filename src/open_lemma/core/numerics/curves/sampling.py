"""Curves sampled until the drawn line is exact to a fraction of a printed point.

No fixed sample count: an interval is halved until its middle lies within the tolerance of the straight line, judged on
paper. Edges of the domain are found by bisection down to neighbouring doubles; across jumps and poles nothing is joined.
"""

from __future__ import annotations

import heapq
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from .scales import LINEAR, Scale

Floats = NDArray[np.float64]
Function = Callable[[Floats], Any]

# Least and greatest value that a function can take from one place to another (infinite where nothing is known).
Bounds = Callable[[float, float], tuple[float, float]]

FIRST_INTERVALS = 192
HIDDEN_BUDGET = 400
TOLERANCE_PT = 0.1
_FLAT_PT = 0.03  # a third of the promise: the rest is left for what lies between the places that were looked at
_NARROW_PT = 0.004  # below this width on paper an interval is not halved for its shape any more
_TIP_PT = 0.03  # pieces beside a sharp bend are halved down to this length
_ROUNDS = 40
_SECOND_LOOKS = 8
_SECOND_SHARES = (0.2719, 0.7183, 0.1437, 0.8711)
_EDGE_ROUNDS = 1100  # enough to walk from any double to its neighbour, through zero too
MAX_POINTS = 60_000
MAX_BREAKS = 500


@dataclass(frozen=True, slots=True)
class PaperView:
    """How a place lands on paper: window, scale and printed length of each axis."""

    x_low: float
    x_high: float
    y_low: float
    y_high: float
    width_pt: float
    height_pt: float
    x_scale: Scale = LINEAR
    y_scale: Scale = LINEAR

    def x_pt(self, x: Floats) -> Floats:
        return self.x_scale.shares(x, self.x_low, self.x_high) * self.width_pt

    def y_pt(self, y: Floats) -> Floats:
        return self.y_scale.shares(y, self.y_low, self.y_high) * self.height_pt

    def y_at(self, pt: float) -> float:
        """The height at so many points above the lower end."""
        return float(self.y_scale.at(pt / self.height_pt, self.y_low, self.y_high))


@dataclass(frozen=True, slots=True)
class Break:
    """Where a curve is interrupted: `edge` of the domain, `gap` (undefined from low to high), `pole`, `jump`."""

    kind: Literal["gap", "pole", "jump"]
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Sampled:
    """Points of a curve in order of x, pieces divided by NaN, and where it breaks.

    x, y         shape (n,), window units
    evaluations  how often the function was asked
    """

    x: Floats
    y: Floats
    breaks: tuple[Break, ...]
    evaluations: int
    complete: bool

    @property
    def points(self) -> int:
        return int(np.isfinite(self.y).sum())


class Sampler:
    """Asks a function of one variable for values and counts how often."""

    def __init__(self, function: Function, low: float, high: float, x_scale: Scale = LINEAR, bounds: Bounds | None = None) -> None:
        self.function, self.low, self.high, self.x_scale, self.bounds = function, low, high, x_scale, bounds
        self.evaluations = 0

    def values(self, x: Floats) -> Floats:
        """Values with NaN wherever there is no finite real one."""
        self.evaluations += x.size
        with np.errstate(all="ignore"):
            y = np.asarray(self.function(x), dtype=np.float64)
        if y.ndim == 0:
            y = np.full(x.shape, float(y))
        return np.where(np.isfinite(y), y, np.nan)

    def middle(self, a: Floats, b: Floats, share: float = 0.5) -> Floats:
        return np.asarray(self.x_scale.at(share, a, b))  # type: ignore[arg-type]

    def first_grid(self, places: Sequence[float] = ()) -> tuple[Floats, Floats]:
        """A first look: evenly spread but for a slight wave, so that it keeps step with no periodic function.

        places  where the function is known to be special; looked at too
        """
        t = np.linspace(0.0, 1.0, FIRST_INTERVALS + 1)
        t[1:-1] += 0.31 / FIRST_INTERVALS * np.sin(7.1 * np.arange(1, FIRST_INTERVALS) ** 1.1)
        x = np.asarray(self.x_scale.at(t, self.low, self.high))
        x[0], x[-1] = self.low, self.high
        if places:
            x = np.unique(np.concatenate([x, [p for p in places if self.low < p < self.high]]))
        y = self.values(x)
        if self.bounds is not None and np.isfinite(y).any():
            return self._with_hidden_peaks(x, y, self.bounds)
        return x, y

    def _with_hidden_peaks(self, x: Floats, y: Floats, bounds: Bounds) -> tuple[Floats, Floats]:
        """Halve the intervals whose proven bounds reach farthest beyond what was seen, until a peak there is met.

        A peak far narrower than the grid leaves no trace in the samples, but it cannot hide from an enclosure.
        """
        low, high = float(np.nanmin(y)), float(np.nanmax(y))

        def excess(a: float, b: float) -> float:
            least, most = bounds(a, b)
            over = max(low - least, most - high)
            return over if np.isfinite(over) else 0.0  # next to a pole there is no end to it

        queue = [(-excess(a, b), a, b) for a, b in zip(x[:-1].tolist(), x[1:].tolist(), strict=True)]
        heapq.heapify(queue)
        met: list[float] = []
        for _ in range(HIDDEN_BUDGET):
            over, a, b = queue[0]
            if -over <= 0.02 * max(high - low, 1e-300) or b - a <= 1e-12 * (self.high - self.low):
                break
            middle = float(self.middle(np.float64(a), np.float64(b)))  # type: ignore[arg-type]
            met.append(middle)
            value = float(self.values(np.array([middle]))[0])
            low, high = min(low, value) if value == value else low, max(high, value) if value == value else high
            heapq.heapreplace(queue, (-excess(a, middle), a, middle))
            heapq.heappush(queue, (-excess(middle, b), middle, b))
        if not met:
            return x, y
        x = np.unique(np.concatenate([x, met]))
        return x, self.values(x)


def away_from_breaks(sampled: Sampled, view: PaperView) -> tuple[Floats, Floats]:
    """The points that are not next to an edge or a jump: what runs off there should not decide on a window."""
    keep = np.isfinite(sampled.y)
    places = view.x_pt(sampled.x)
    for b in sampled.breaks:
        low, high = view.x_pt(np.array([b.low, b.high]))
        keep &= (places < low - 0.5) | (places > high + 0.5)
    return (sampled.x[keep], sampled.y[keep]) if keep.any() else (sampled.x, sampled.y)


def sample(sampler: Sampler, view: PaperView, start: tuple[Floats, Floats] | None = None) -> Sampled:
    """Sample a curve for a view.

    The promise: between neighbouring points of a piece the drawn straight line is within 0.1 pt of the curve wherever
    the function was looked at; `complete` is False if the limit of points was met first.
    """
    x, y = start if start is not None else sampler.first_grid()
    x, y, complete = _refine(sampler, view, x, y)
    x, y, gaps = _edges(sampler, x, y)
    x, y, jumps = _jumps(sampler, view, x, y)
    return Sampled(x, y, tuple(sorted([*gaps, *jumps], key=lambda b: b.low)), sampler.evaluations, complete)


def _refine(sampler: Sampler, view: PaperView, x: Floats, y: Floats) -> tuple[Floats, Floats, bool]:
    x, y, complete = _halve(sampler, view, x, y, np.ones(x.size - 1, dtype=bool), first=True)
    checked: Floats = np.array([])
    for _ in range(_SECOND_LOOKS):
        if not complete:
            break
        # An interval that was looked at before starts at a place known from the last look and ends at its neighbour then.
        fresh = ~(np.isin(x[:-1], checked) & np.isin(x[1:], checked))
        checked = x
        x, y, active = _second_look(sampler, view, x, y, fresh)
        if not active.any():
            break
        x, y, complete = _halve(sampler, view, x, y, active, first=False)
    return (*_sharpened(sampler, view, x, y), complete)


def _sharpened(sampler: Sampler, view: PaperView, x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Close in on sharp bends: between two steep strokes the tip may lie beyond the point that stands for it."""
    for _ in range(_ROUNDS):
        px, py = view.x_pt(x), view.y_pt(y)
        dx, dy = np.diff(px), np.diff(py)
        with np.errstate(all="ignore"):
            length = np.hypot(dx, dy)
            bend = (dx[:-1] * dx[1:] + dy[:-1] * dy[1:]) < 0.5 * length[:-1] * length[1:]
        seen = (py[1:-1] > -1) & (py[1:-1] < view.height_pt + 1)
        sharp = np.flatnonzero(bend & seen & np.isfinite(length[:-1] + length[1:]))
        if sharp.size > MAX_BREAKS:
            break
        index = np.unique(np.concatenate([sharp, sharp + 1]))
        with np.errstate(all="ignore"):
            slope = np.nan_to_num(np.abs(dy / dx), posinf=0.0)
        steepest = np.maximum(slope, np.maximum(np.roll(slope, 1), np.roll(slope, -1)))
        # How far the tip can lie beyond a piece: as far as its steepest neighbour would go on.
        index = index[(dx[index] * np.maximum(steepest[index], 1.0) > _TIP_PT) & (dx[index] > 1e-6)]
        if not index.size:
            break
        m = sampler.middle(x[index], x[index + 1])
        x, y = np.insert(x, index + 1, m), np.insert(y, index + 1, sampler.values(m))
    return x, y


def _second_look(sampler: Sampler, view: PaperView, x: Floats, y: Floats, fresh: Any) -> tuple[Floats, Floats, Any]:
    """Look at more places of each interval that passed: a wiggle can meet the line in its middle by chance."""
    active = np.zeros(x.size - 1, dtype=bool)
    for share in _SECOND_SHARES:
        index = np.flatnonzero(fresh)
        m = sampler.middle(x[index], x[index + 1], share)
        ym = sampler.values(m)
        split = _must_split(view, x[index], x[index + 1], m, y[index], y[index + 1], ym, long_pt=np.inf)
        kept = np.zeros(x.size - 1, dtype=int)
        kept[index[split]] = 1
        x, y = np.insert(x, index[split] + 1, m[split]), np.insert(y, index[split] + 1, ym[split])
        # Both halves of a split interval go to `_halve`; they need no second look of this round.
        fresh, active = np.repeat(fresh & (kept == 0), 1 + kept), np.repeat(active | (kept == 1), 1 + kept)
    return x, y, active


def _halve(sampler: Sampler, view: PaperView, x: Floats, y: Floats, active: Any, first: bool) -> tuple[Floats, Floats, bool]:
    for _ in range(_ROUNDS):
        index = np.flatnonzero(active)
        if not index.size:
            return x, y, True
        if x.size + index.size > MAX_POINTS:
            return x, y, False
        a, b = x[index], x[index + 1]
        # The first look is off the middle, so that a curve symmetrical about it is not taken for a straight line.
        m = sampler.middle(a, b, 0.46 if first else 0.5)
        ym = sampler.values(m)
        split = _must_split(view, a, b, m, y[index], y[index + 1], ym)
        keep = split | (first & np.isfinite(ym))
        first = False
        x = np.insert(x, index[keep] + 1, m[keep])
        y = np.insert(y, index[keep] + 1, ym[keep])
        active = _still_active(active.size, index, keep, split)
    return x, y, True


def _still_active(count: int, index: Any, keep: Any, split: Any) -> Any:
    """Marks for the new intervals: both halves of one that was split go on."""
    kept = np.zeros(count, dtype=int)
    kept[index] = keep
    went = np.zeros(count, dtype=bool)
    went[index] = split
    return np.repeat(went, 1 + kept)


def _must_split(view: PaperView, a: Floats, b: Floats, m: Floats, ya: Floats, yb: Floats, ym: Floats, long_pt: float | None = None) -> Any:
    xa, xb, xm = view.x_pt(a), view.x_pt(b), view.x_pt(m)
    pa, pb, pm = view.y_pt(ya), view.y_pt(yb), view.y_pt(ym)
    wide = (xb - xa) > _NARROW_PT
    with np.errstate(all="ignore"):
        dx, dy = xb - xa, pb - pa
        # To the piece and not to its line beyond the ends: the tip of a steep bend would else be cut off.
        along = np.clip(((xm - xa) * dx + (pm - pa) * dy) / (dx * dx + dy * dy), 0.0, 1.0)
        off = np.hypot(xm - xa - along * dx, pm - pa - along * dy)
    whole = np.isfinite(pa) & np.isfinite(pb) & np.isfinite(pm)
    margin = view.height_pt * 0.1
    above = (pa > view.height_pt + margin) & (pb > view.height_pt + margin) & (pm > view.height_pt + margin)
    below = (pa < -margin) & (pb < -margin) & (pm < -margin)
    curved = whole & ~(off <= _FLAT_PT) & ~above & ~below
    # A long piece is halved though it looks straight: something may hide between three points on a line.
    long = whole & ((xb - xa) > (view.width_pt / 40 if long_pt is None else long_pt))
    mixed = (np.isfinite(pa) | np.isfinite(pb) | np.isfinite(pm)) & ~whole
    return wide & (curved | long | mixed)


def _edges(sampler: Sampler, x: Floats, y: Floats) -> tuple[Floats, Floats, list[Break]]:
    """Walk each change between defined and undefined to neighbouring doubles; the defined end becomes a point."""
    defined = np.isfinite(y)
    change = np.flatnonzero(defined[:-1] != defined[1:])
    if not change.size:
        if defined.all():
            return x, y, []
        return x, y, [Break("gap", float(x[0]), float(x[-1]))]
    inside = np.where(defined[change], x[change], x[change + 1])
    outside = np.where(defined[change], x[change + 1], x[change])
    yin = np.where(defined[change], y[change], y[change + 1])
    for _ in range(_EDGE_ROUNDS):
        middle = _between(inside, outside)
        moving = (middle != inside) & (middle != outside)
        if not moving.any():
            break
        ym = sampler.values(middle)
        ok = np.isfinite(ym) & moving
        inside, yin = np.where(ok, middle, inside), np.where(ok, ym, yin)
        outside = np.where(~ok & moving, middle, outside)
    x = np.insert(x, change + 1, inside)
    y = np.insert(y, change + 1, yin)
    order = np.argsort(x, kind="stable")
    x, y = x[order], y[order]
    return (*_drop_repeats(x, y), _gaps(x, y))


def _between(a: Floats, b: Floats) -> Floats:
    """The middle; where an end is 0, a thousandth of the other, so that an edge at 0 is reached in few steps."""
    middle = a + (b - a) / 2
    small, other = np.minimum(np.abs(a), np.abs(b)), np.where(np.abs(a) < np.abs(b), b, a)
    near_zero = (small == 0) & (np.abs(other) > 1e-290)
    return np.where(near_zero, other * 1e-3, middle)


def _drop_repeats(x: Floats, y: Floats) -> tuple[Floats, Floats]:
    keep = np.ones(x.size, dtype=bool)
    keep[1:] = (x[1:] != x[:-1]) | (np.isfinite(y[1:]) != np.isfinite(y[:-1]))
    return x[keep], y[keep]


def _gaps(x: Floats, y: Floats) -> list[Break]:
    defined = np.isfinite(y)
    gaps: list[Break] = []
    start = 0
    while start < x.size:
        if defined[start]:
            start += 1
            continue
        stop = start
        while stop + 1 < x.size and not defined[stop + 1]:
            stop += 1
        low = float(x[start - 1]) if start else float(x[0])
        high = float(x[stop + 1]) if stop + 1 < x.size else float(x[-1])
        gaps.append(Break("gap", low, high))
        start = stop + 1
    return gaps


def _jumps(sampler: Sampler, view: PaperView, x: Floats, y: Floats) -> tuple[Floats, Floats, list[Break]]:
    """Steep pieces looked into: where the step stays down to neighbouring doubles, the curve is broken."""
    px, py = view.x_pt(x), np.clip(view.y_pt(y), -view.height_pt, 2 * view.height_pt)
    with np.errstate(all="ignore"):
        dx, dy = np.diff(px), np.abs(np.diff(py))
        # Off the paper, a step from far above to far below is still a step; one side to the same side is not.
        steep = (dy > 0.3) & (dx < 0.5)
    index = np.flatnonzero(steep)
    if not index.size or index.size > 20 * MAX_BREAKS:
        return x, y, []
    a, b, ya, yb = _steepest(sampler, view, x[index], x[index + 1], y[index], y[index + 1])
    step = np.abs(np.clip(view.y_pt(yb), -view.height_pt, 2 * view.height_pt) - np.clip(view.y_pt(ya), -view.height_pt, 2 * view.height_pt))
    broken = (step > 0.25) & (step > 0.2 * dy[index])
    broken &= np.cumsum(broken) <= MAX_BREAKS
    found: list[Break] = []
    extreme = max(abs(view.y_low), abs(view.y_high), view.y_high - view.y_low) * 1e6
    for i in np.flatnonzero(broken):
        pole = max(abs(ya[i]), abs(yb[i])) > extreme
        found.append(Break("pole" if pole else "jump", float(a[i]), float(b[i])))
    at = index[broken] + 1
    x = np.insert(x, np.repeat(at, 3), np.column_stack([a[broken], (a[broken] + b[broken]) / 2, b[broken]]).ravel())
    y = np.insert(y, np.repeat(at, 3), np.column_stack([ya[broken], np.full(at.size, np.nan), yb[broken]]).ravel())
    return x, y, found


def _steepest(sampler: Sampler, view: PaperView, a: Floats, b: Floats, ya: Floats, yb: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    """Halve again and again, following the half with the larger step."""
    height = view.height_pt

    def paper(y: Floats) -> Floats:
        return np.clip(view.y_pt(y), -height, 2 * height)

    for _ in range(_EDGE_ROUNDS):
        m = _between(a, b)
        moving = (m != a) & (m != b)
        if not moving.any():
            break
        ym = sampler.values(m)
        with np.errstate(all="ignore"):
            left, right = np.abs(paper(ym) - paper(ya)), np.abs(paper(yb) - paper(ym))
        # A middle without a value is a pole met exactly: keep both sides and stop there.
        usable = moving & np.isfinite(ym)
        take_left = usable & (left >= right)
        take_right = usable & ~(left >= right)
        b, yb = np.where(take_left, m, b), np.where(take_left, ym, yb)
        a, ya = np.where(take_right, m, a), np.where(take_right, ym, ya)
        if not usable.any():
            break
        if (np.maximum(left, right)[usable] < 0.01).all():
            break
    return a, b, ya, yb


def even_poles(sampler: Sampler, x: Floats, y: Floats, view: PaperView) -> list[Break]:
    """Poles where both sides go the same way (1/x^2): the curve leaves the paper and comes back; follow it outward."""
    with np.errstate(all="ignore"):
        size = np.where(np.isfinite(y), np.abs(y), -1.0)
    far = 4 * max(abs(view.y_low), abs(view.y_high))
    peaks = np.flatnonzero((size[1:-1] > far) & (size[1:-1] >= size[:-2]) & (size[1:-1] >= size[2:])) + 1
    found = []
    for i in peaks[:100]:
        if np.sign(y[i - 1]) != np.sign(y[i + 1]):
            continue
        low, high, top = float(x[i - 1]), float(x[i + 1]), float(size[i])
        for _ in range(60):
            trial = np.linspace(low, high, 9)
            values = np.abs(sampler.values(trial))
            if not np.isfinite(values).all():
                top = np.inf
                low = high = float(trial[int(np.argmin(np.isfinite(values)))])
                break
            best = int(np.argmax(values))
            top = max(top, float(values[best]))
            low, high = float(trial[max(best - 1, 0)]), float(trial[min(best + 1, 8)])
            if low == high:
                break
        if top > far * 1e8:
            found.append(Break("pole", low, high))
    return found
