"""Expressions on lists of a million elements against the same by hand in NumPy, and loops of 10^5 passes against Python's own.

`.venv/bin/python -m bench.vectors` (with PYTHONPATH=. from the project's folder). Ratios of one run; below 1 is faster than by hand.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from statistics import geometric_mean, median
from typing import Any

import numpy as np
from scipy import special

from open_lemma.core.run.execute.interpreter import run

N = 1_000_000
REPEATS = 40  # statements a run, so that making the lists does not count
HEAD = f"x = 0.001 to 10 count {N}\ny = 5 to 1 count {N}\n"
CASES: list[tuple[str, Callable[[Any, Any], Any]]] = [
    ("x^2 + 3*x - 1", lambda x, _: x**2 + 3 * x - 1),
    ("(x + y)/(1 + x*y)", lambda x, y: (x + y) / (1 + x * y)),
    ("sin(x)*exp(-x/3)", lambda x, _: np.sin(x) * np.exp(-x / 3)),
    ("sqrt(x^2 + y^2)", lambda x, y: np.sqrt(x**2 + y**2)),
    ("ln(1 + x) - ln(1 + y)", lambda x, y: np.log(1 + x) - np.log(1 + y)),
    ("(x - y)^3/(1 + (x - y)^2)", lambda x, y: (x - y) ** 3 / (1 + (x - y) ** 2)),
    ("abs(x - 5) + max(x, y)", lambda x, y: np.abs(x - 5) + np.maximum(x, y)),
    ("1/(1 + exp(-(x - 3)))", lambda x, _: 1 / (1 + np.exp(-(x - 3)))),
    ("x*y + x*y^2 + x^2*y", lambda x, y: x * y + x * y**2 + x**2 * y),
    ("erf(x/2)*cos(y)", lambda x, y: special.erf(x / 2) * np.cos(y)),
]


def seconds(work: Callable[[], Any], times: int = 5) -> float:
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return median(taken)


def vectors() -> None:
    x, y = np.linspace(0.001, 10, N), np.linspace(5, 1, N)
    ratios = []
    bare = seconds(lambda: run(HEAD))
    for text, by_hand in CASES:
        script = HEAD + f"z = {text}\n" * REPEATS
        ours = (seconds(lambda s=script: run(s)) - bare) / REPEATS
        theirs = seconds(lambda f=by_hand: f(x, y))
        ratios.append(ours / theirs)
        print(f"{text:28} {1000 * ours:7.1f} ms   by hand {1000 * theirs:7.1f} ms   ratio {ratios[-1]:.2f}")
    spread = f"from {min(ratios):.2f} to {max(ratios):.2f}"
    print(f"ten expressions on {N:,} elements: ratio {geometric_mean(ratios):.2f} (geometric mean), {spread}")


def loops() -> None:
    def by_hand() -> float:
        x = 1.0
        for k in range(1, 100_001):
            x = x * 0.5 + np.sin(k)
        return x

    script = "x = 1\nfor k from 1 to 100000:\n    x = x*0.5 + sin(k)\n"
    ours, theirs = seconds(lambda: run(script), 3), seconds(by_hand, 3)
    print(f"a loop of 10^5 passes: {ours:.2f} s, Python with NumPy's sine {theirs:.2f} s, ratio {ours / theirs:.1f}")


if __name__ == "__main__":
    vectors()
    loops()
