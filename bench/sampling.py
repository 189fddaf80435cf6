"""Points used and worst printed error of our sampling against uniform sampling of 200 and 2,000 points.

The error of a drawn line is the greatest distance, in printed points, from places of the true curve (200,000 of them
inside the window) to the line. Where the true curve is interrupted and the drawn line is not, the line is `joined`.

Run: python bench/sampling.py
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from open_lemma.core.figure.model import POINTS_PER_MM, FigureData
from open_lemma.core.formula.tape import Tape
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.values import FunctionValue

FUNCTIONS = (
    ("sin(x)", -10, 10), ("exp(-x^2)", -4, 4), ("x^3 - 2x + 1", -2, 2), ("1/x", -3, 3), ("tan(x)", -6, 6),
    ("1/x^2", -2, 2), ("sqrt(x)", -1, 4), ("ln(x)", -1, 5), ("floor(x)", -3, 3), ("square(x)", 0, 4),
    ("sawtooth(3x)", 0, 4), ("x*sin(1/x)", -1, 1), ("sin(x^2)", 0, 20), ("exp(-5000*(x - 0.3)^2)", -1, 1),
    ("1/(1 + 10000*(x - 0.123)^2)", -1, 1), ("abs(sin(x))", -7, 7), ("sqrt(1 - x^2)", -2, 2), ("asin(x)", -1, 1),
    ("Gamma(x)", -4, 4), ("sin(200x)*exp(-x)", 0, 3),
)  # fmt: skip
DENSE = 200_000
Function = Callable[[np.ndarray], np.ndarray]


def paper(figure: FigureData, x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    width, height = figure.width_mm * POINTS_PER_MM, figure.height_mm * POINTS_PER_MM
    across, up = figure.panels[0].x, figure.panels[0].y
    return (x - across.low) / (across.high - across.low) * width, (y - up.low) / (up.high - up.low) * height


def distance(px: np.ndarray, py: np.ndarray, lx: np.ndarray, ly: np.ndarray) -> np.ndarray:
    """From places (px, py) in order of x to a line in order of x with gaps as NaN: the least over the pieces nearby."""
    at = np.clip(np.searchsorted(lx, px), 1, lx.size - 1)
    best = np.full(px.size, np.inf)
    for shift in range(-4, 5):
        i = np.clip(at + shift, 1, lx.size - 1)
        ax, ay, bx, by = lx[i - 1], ly[i - 1], lx[i], ly[i]
        with np.errstate(all="ignore"):
            length = (bx - ax) ** 2 + (by - ay) ** 2
            t = np.clip(((px - ax) * (bx - ax) + (py - ay) * (by - ay)) / np.where(length > 0, length, 1), 0, 1)
            d = np.hypot(px - ax - t * (bx - ax), py - ay - t * (by - ay))
            alone = np.hypot(px - ax, py - ay)
        best = np.fmin(best, np.fmin(d, alone))
    return best


def worst_error(figure: FigureData, function: Function, x: np.ndarray, y: np.ndarray, low: float, high: float) -> tuple[float, bool]:
    """Worst distance in points over the window, and whether the line joins what is interrupted."""
    dense = np.linspace(low, high, DENSE)
    with np.errstate(all="ignore"):
        true = np.asarray(function(dense), dtype=float) * np.ones(dense.size)
    seen = np.isfinite(true) & (true >= figure.panels[0].y.low) & (true <= figure.panels[0].y.high)
    px, py = paper(figure, dense[seen], true[seen])
    lx, ly = paper(figure, x, y)
    return float(distance(px, py, lx, ly).max()), joins(figure, function, x, y)


def joins(figure: FigureData, function: Function, x: np.ndarray, y: np.ndarray) -> bool:
    """Whether a drawn piece runs where the function, looked at closely, has no value or leaps."""
    with np.errstate(all="ignore"):
        pieces = np.flatnonzero(np.isfinite(y[:-1]) & np.isfinite(y[1:]) & (np.diff(x) > 1e-12 * (x[-1] - x[0])))
        t = np.linspace(0.01, 0.99, 33)
        places = x[pieces, None] + np.diff(x)[pieces, None] * t
        values = np.asarray(function(places), dtype=float) * np.ones(places.shape)
        _, py = paper(figure, places, values)
        steps = np.abs(np.diff(np.clip(py, -1e6, 1e6), axis=1))
        total = np.abs(py[:, -1] - py[:, 0])
        leap = (steps.max(axis=1) > 3) & (steps.max(axis=1) > 0.8 * np.maximum(total, 1)) & (np.diff(places[:, :2], axis=1)[:, 0] > 0)
        undefined = ~np.isfinite(values[:, 1:-1]).all(axis=1)
    return bool((leap | undefined).any())


def main() -> None:
    print(f"{'function':32s} {'ours':>7s} {'error/pt':>9s} {'':7s} {'200':>9s} {'':7s} {'2000':>9s}")
    totals = []
    for text, low, high in FUNCTIONS:
        outcome = run(f"f(x) = {text}\ncurve of f(x) for x from {low} to {high}")
        figure = outcome.figures[0].data
        series = figure.series[0]
        value = outcome.names["f"]
        assert isinstance(value, FunctionValue)
        steps = Tape([value.body], ["x"])

        def function(x: np.ndarray, steps: Tape = steps) -> np.ndarray:
            return steps.numeric(x)[0]  # type: ignore[no-any-return]

        row = [worst_error(figure, function, series.x, series.y, low, high)]
        for count in (200, 2000):
            x = np.linspace(low, high, count)
            y = np.asarray(function(x), dtype=float) * np.ones(count)
            row.append(worst_error(figure, function, x, np.where(np.isfinite(y), y, np.nan), low, high))
        used = int(np.isfinite(series.y).sum())
        totals.append((used, row))
        cells = "  ".join(f"{error:9.3f} {'joined' if joined else '      '}" for error, joined in row)
        print(f"{text:32s} {used:7d} {cells}")
    print(f"median points: {np.median([used for used, _ in totals]):.0f}")
    for place, name in enumerate(("ours", "200 points", "2000 points")):
        worst = max(row[place][0] for _, row in totals)
        print(f"{name}: worst error {worst:.3f} pt, joined across a break in {sum(row[place][1] for _, row in totals)} of {len(totals)}")


if __name__ == "__main__":
    main()
