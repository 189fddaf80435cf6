"""Figures: one curve; ten lines of 10⁵ places; 10⁶ points. Each against the plain drawing of the same numbers.

Plain: Matplotlib's object interface with the same style and sheet, nothing thinned, into an SVG (lines) or a PNG at
300 dpi (points). How different thinned and whole pictures are is said too: the share of pixels that differ by more than
a fifth of the way from white to black.

Run with PYTHONPATH=. from the project's folder.
"""

from __future__ import annotations

import io
import time
from collections.abc import Callable
from statistics import median

import matplotlib
import numpy as np
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.backends.backend_svg import FigureCanvasSVG
from matplotlib.figure import Figure
from PIL import Image

from open_lemma.core.figure import things
from open_lemma.core.figure.draw import draw
from open_lemma.core.figure.model import FigureData
from open_lemma.core.figure.style import SETTINGS
from open_lemma.core.run.execute.interpreter import run

ONE = 'figure f:\n    curve of sin(x)*exp(-x/5) for x from 0 to {}\n    x axis "time $t$ / s"\n    y axis "position / mm"\n'


def timed(work: Callable[[int], object], repeats: int) -> float:
    taken = []
    for k in range(repeats):
        start = time.perf_counter()
        work(k)
        taken.append(time.perf_counter() - start)
    return median(taken[1:])


def plain(x: list[np.ndarray], y: list[np.ndarray], marks: bool) -> bytes:
    out = io.BytesIO()
    with matplotlib.rc_context(SETTINGS):
        sheet = Figure(figsize=(120 / 25.4, 82 / 25.4))
        axes = sheet.subplots()
        for a, b in zip(x, y, strict=True):
            axes.plot(a, b, "o" if marks else "-", markersize=4, linewidth=1.25)
        if marks:
            sheet.set_dpi(300)
            FigureCanvasAgg(sheet).print_png(out)
        else:
            FigureCanvasSVG(sheet).print_svg(out, metadata={"Date": None})
    return out.getvalue()


def figure(kind: str, x: list[np.ndarray], y: list[np.ndarray]) -> FigureData:
    lines = "\n".join(f"    {kind} of [0, 1] against [0, 1]" for _ in x)
    data = run(f"figure f:\n{lines}\n    x axis from 0 to 100\n    y axis from -2 to 12\n").figures[0].data
    for series, a, b in zip(data.series, x, y, strict=True):
        series.x, series.y = a, b
    return data


def different(data: FigureData) -> float:
    """The share of pixels that thinning changed visibly."""
    limits = things._MANY_ON_LINE, things._FINE_PT
    for series in data.series:
        series.dash = "solid"  # dashes are laid along the line, and begin elsewhere on a thinned one
    thin = draw(data, "png", 300).data
    try:
        things._MANY_ON_LINE, things._FINE_PT = 10**9, 1e-6
        whole = draw(data, "png", 300).data
    finally:
        things._MANY_ON_LINE, things._FINE_PT = limits
    a, b = (np.asarray(Image.open(io.BytesIO(p)).convert("L")).astype(int) for p in (thin, whole))
    return float((np.abs(a - b) > 51).mean())


def main() -> None:
    draw(run(ONE.format(3)).figures[0].data)
    one = timed(lambda k: draw(run(ONE.format(10 + k)).figures[0].data), 30)
    x = np.linspace(0, 30, 400)
    hand = timed(lambda _: plain([x], [np.sin(x) * np.exp(-x / 5)], False), 30)
    print(f"one curve, from script to SVG: {1000 * one:.0f} ms, {one / hand:.2f} times the plain drawing of 400 points")
    xs = [np.linspace(0, 100, 100_000) for _ in range(10)]
    ys = [np.sin(a * (1 + k / 7)) + 0.2 * np.sin(311 * a) + k for k, a in enumerate(xs)]
    data = figure("line", xs, ys)
    ten, hand = timed(lambda _: draw(data), 4), timed(lambda _: plain(xs, ys, False), 3)
    size = len(draw(data).data) / len(plain(xs, ys, False))
    print(f"ten lines of 100 000 places: {ten:.2f} s, {ten / hand:.2f} times the plain drawing, a file of {size:.3f} times its size; "
          f"visibly different pixels {different(data):.5f}")  # fmt: skip
    seed = np.random.default_rng(4)
    px, py = seed.uniform(0, 100, 1_000_000), seed.normal(5, 2, 1_000_000)
    cloud = figure("points", [px], [py])
    many, hand = timed(lambda _: draw(cloud, "png", 300), 3), timed(lambda _: plain([px], [py], True), 3)
    print(f"1 000 000 points: {many:.2f} s, {many / hand:.2f} times the plain drawing; an SVG of {len(draw(cloud).data) / 1e6:.1f} MB; "
          f"visibly different pixels {different(cloud):.5f}")  # fmt: skip


if __name__ == "__main__":
    main()
