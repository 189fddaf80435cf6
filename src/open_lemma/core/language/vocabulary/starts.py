"""Starting points for an empty desk: a few lines for each need, to be changed."""

from __future__ import annotations

from dataclasses import dataclass

from .records import lines


@dataclass(frozen=True, slots=True)
class Start:
    """What somebody wants to begin with, and the lines that do it."""

    title: str
    script: str


STARTS = (
    Start("A function", lines("f(x) = x^3 - 2x + 1", "curve of f(x) for x from -2 to 2", "")),
    Start("Two curves", lines(
        "f(x) = exp(-x/3)", "g(x) = x/5", "figure:", "    curve of [f(x), g(x)] for x from 0 to 6, label [\"falling\", \"rising\"]",
        "    legend top right", "crossings of f(x) and g(x) for x from 0 to 6", "",
    )),
    Start("Roots", lines("f(x) = x^3 - 3x + 1", "r = roots of f(x) for x from -3 to 3", "figure:", "    curve of f(x) for x from -3 to 3", "    mark r", "")),
    Start("Data and a fit", lines(
        "table readings:", "    time [s]   height [cm]", "    0          20.1", "    1          15.8", "    2          12.9", "    3          9.7", "    4          8.1", "",
        "trend(t) = fit of A*exp(-k*t) to readings.height against readings.time for A, k", "figure:",
        "    points of readings.height against readings.time", "    curve of trend(t)", "",
    )),
    Start("A surface", lines("h(x, y) = exp(-x^2 - y^2)*(x + 2y)", "surface of h(x, y) for x from -2 to 2, y from -2 to 2", "extremes of h(x, y) for x from -2 to 2, y from -2 to 2", "")),
    Start("A loop", lines("x = 3", "for k from 1 to 5:", "    x = x - (x^2 - 2)/(2x)", "    show x", "")),
)  # fmt: skip
