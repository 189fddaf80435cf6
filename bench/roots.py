"""All roots with proof, against SciPy's brentq that is given every bracket; time per root, as ratios of one run.

Run: python -m bench.roots
"""

from __future__ import annotations

import itertools
import math
import time
from collections.abc import Callable
from statistics import geometric_mean

from scipy.optimize import brentq

from open_lemma.core.numerics.roots.search import find_roots
from open_lemma.core.run.execute.interpreter import run

REPEATS = 7
# Ordinary functions: the text, the window, and the same for SciPy.
FUNCTIONS: list[tuple[str, float, float, Callable[[float], float]]] = [
    ("sin(x^2)", 0.5, 20, lambda x: math.sin(x * x)),
    ("x^3 - 2x + 1", -3, 3, lambda x: x**3 - 2 * x + 1),
    ("cos(x) - x", -2, 2, lambda x: math.cos(x) - x),
    ("exp(x) - 3x^2", -2, 5, lambda x: math.exp(x) - 3 * x * x),
    ("x*exp(-x) - 0.25", 0, 4, lambda x: x * math.exp(-x) - 0.25),
    ("sin(x) - x/3", -4, 4, lambda x: math.sin(x) - x / 3),
    ("ln(x) + sin(x)", 0.1, 10, lambda x: math.log(x) + math.sin(x)),
    ("sin(5x) + sin(6x)", 0.1, 6, lambda x: math.sin(5 * x) + math.sin(6 * x)),
    ("cosh(x)*cos(x) + 1", 0, 12, lambda x: math.cosh(x) * math.cos(x) + 1),
    ("exp(-x/5)*cos(3x)", 0, 8, lambda x: math.exp(-x / 5) * math.cos(3 * x)),
    ("x^2 - 2^x", -1, 5, lambda x: x * x - 2**x),
    ("sqrt(x + 1) - sqrt(2x)", 0, 4, lambda x: math.sqrt(x + 1) - math.sqrt(2 * x)),
    ("atan(x) + x - 1", -2, 2, lambda x: math.atan(x) + x - 1),
    ("x^5 - 3x^3 + 2x", -2, 2, lambda x: x**5 - 3 * x**3 + 2 * x),
    ("tanh(x) - x/2", -3, 3, lambda x: math.tanh(x) - x / 2),
]  # fmt: skip


def best_of(work: Callable[[], object]) -> float:
    times = []
    for _ in range(REPEATS):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return min(times)


def main() -> None:
    ratios, each = [], []
    for text, low, high, f in FUNCTIONS:
        names = run(f"f(x) = {text}\na = {low}\nb = {high}").names
        formula, ends = names.find("f").body, [names.find(n).formula for n in "ab"]
        found = find_roots(formula, "x", *ends)
        places = [r.x for r in found.roots]
        middles = [low, *[(a + b) / 2 for a, b in itertools.pairwise(places)], high]
        brackets = [(a, b) for a, b in itertools.pairwise(middles) if f(a) * f(b) < 0]

        def bracketed(brackets: list[tuple[float, float]] = brackets, f: Callable[[float], float] = f) -> None:
            for a, b in brackets:
                brentq(f, a, b, xtol=1e-15, rtol=8.9e-16)

        ours = best_of(lambda formula=formula, ends=ends: find_roots(formula, "x", *ends)) / len(places)
        theirs = best_of(bracketed) / max(len(brackets), 1)
        ratios.append(ours / theirs)
        each.append(ours)
        print(
            f"{text:28} {len(places):4} roots, {found.evidence:7} {1e3 * ours:7.3f} ms a root, "
            f"brentq {1e3 * theirs:7.4f} ms, ratio {ratios[-1]:6.1f}"
        )
    print(
        f"ratio, geometric mean {geometric_mean(ratios):.1f}; ours {1e3 * geometric_mean(each):.3f} ms a root, "
        f"the slowest {1e3 * max(each):.2f} ms"
    )


if __name__ == "__main__":
    main()
