"""sin(x^2) on 0 to 20: all zeros, proven, against SciPy's brentq that is given every bracket.

Run: python bench/roots.py
"""

from __future__ import annotations

import math
import time
from itertools import pairwise

from scipy.optimize import brentq

from open_lemma.core.formula import catalogue as c
from open_lemma.core.formula.nodes import Number, Variable, number
from open_lemma.core.numerics.roots import find_roots

REPEATS = 20


def best_of(work: object) -> float:
    times = []
    for _ in range(REPEATS):
        start = time.perf_counter()
        work()  # type: ignore[operator]
        times.append(time.perf_counter() - start)
    return min(times)


def main() -> None:
    x = Variable("x")
    formula = c.call("sin", c.power(x, number(2)))
    low, high = Number(number(0).value), Number(number(20).value)
    found = find_roots(formula, "x", low, high)
    # Zeros are at sqrt(k pi); brackets lie between their middles. Zero itself touches and has no bracket.
    zeros = [math.sqrt(k * math.pi) for k in range(1, 128)]
    ends = [0.5 * zeros[0], *[(a + b) / 2 for a, b in pairwise(zeros)], 20.0]

    def bracketed() -> None:
        for a, b in pairwise(ends):
            brentq(lambda t: math.sin(t * t), a, b, xtol=1e-15, rtol=8.9e-16)

    ours, theirs = best_of(lambda: find_roots(formula, "x", low, high)), best_of(bracketed)
    proven = sum(r.evidence == "proven" for r in found.roots)
    print(f"{len(found.roots)} roots, {proven} proven, complete: {found.complete}; 127 of them beside 0")
    print(f"ours {1e3 * ours:.1f} ms, brentq with all brackets given {1e3 * theirs:.1f} ms, ratio {ours / theirs:.1f}")


if __name__ == "__main__":
    main()
