"""Lowest values over two to ten variables: how often they are found, and in what time, against SciPy's global methods alone.

Each method is run once from its own fixed seed with its own settings left as they are; found means within 1e-6 of the known value.

Run: python -m bench.lowest
"""

from __future__ import annotations

import itertools
import time
from typing import Any

import numpy as np
from scipy import optimize

from open_lemma.core.formula.nodes import Formula
from open_lemma.core.formula.tape import Tape
from open_lemma.core.numerics.extrema.global_search import lowest_of_many
from open_lemma.core.run.execute.interpreter import run


def rastrigin(n: int) -> tuple[str, list[str], float, float, float]:
    names = [f"x{k}" for k in range(n)]
    return " + ".join(f"({v}^2 - 10*cos(2pi*{v}) + 10)" for v in names), names, -5.0, 5.12, 0.0


def rosenbrock(n: int) -> tuple[str, list[str], float, float, float]:
    names = [f"x{k}" for k in range(n)]
    pairs = itertools.pairwise(names)
    return " + ".join(f"(100*({b} - {a}^2)^2 + (1 - {a})^2)" for a, b in pairs), names, -2.0, 2.0, 0.0


def styblinski(n: int) -> tuple[str, list[str], float, float, float]:
    names = [f"x{k}" for k in range(n)]
    return " + ".join(f"({v}^4 - 16*{v}^2 + 5*{v})/2" for v in names), names, -5.0, 5.0, -39.16616570377142 * n


PROBLEMS = {
    "six humps, 2": ("(4 - 2.1x^2 + x^4/3)*x^2 + x*y + (4y^2 - 4)*y^2", ["x", "y"], -3.0, 3.0, -1.0316284534898774),
    "four valleys, 2": ("(x^2 + y - 11)^2 + (x + y^2 - 7)^2", ["x", "y"], -5.0, 5.0, 0.0),
    "Rastrigin, 2": rastrigin(2), "Rastrigin, 5": rastrigin(5), "Rastrigin, 10": rastrigin(10),
    "Rosenbrock, 2": rosenbrock(2), "Rosenbrock, 6": rosenbrock(6), "Rosenbrock, 10": rosenbrock(10),
    "Styblinski and Tang, 3": styblinski(3), "Styblinski and Tang, 8": styblinski(8),
}  # fmt: skip


def read(text: str, names: list[str], low: float, high: float) -> tuple[Formula, list[tuple[Formula, Formula]]]:
    found = run(f"f({', '.join(names)}) = {text}\na = {low}\nb = {high}").names
    return found.find("f").body, [(found.find("a").formula, found.find("b").formula)] * len(names)


def main() -> None:
    score: dict[str, list[Any]] = {}
    for name, (text, names, low, high, value) in PROBLEMS.items():
        formula, ends = read(text, names, low, high)
        tape = Tape([formula], names)

        def f(x: Any, tape: Tape = tape) -> float:
            return float(np.asarray(tape.numeric(*x)[0]))

        bounds = [(low, high)] * len(names)
        ways = {
            "ours": lambda formula=formula, names=names, ends=ends: lowest_of_many(formula, names, ends),
            "differential evolution": lambda f=f, bounds=bounds: optimize.differential_evolution(f, bounds, seed=1),
            "dual annealing": lambda f=f, bounds=bounds: optimize.dual_annealing(f, bounds, seed=1),
            "shgo": lambda f=f, bounds=bounds: optimize.shgo(f, bounds),
        }
        line = f"{name:24}"
        for way, work in ways.items():
            if way == "shgo" and len(names) > 6:
                continue  # its simplices take minutes there
            start = time.perf_counter()
            found: Any = work()
            spent = time.perf_counter() - start
            reached = found.value if way == "ours" else float(found.fun)
            good = abs(reached - value) <= 1e-6 * max(1.0, abs(value))
            score.setdefault(way, []).append((good, spent))
            grade = f" {found.evidence}" if way == "ours" else ""
            line += f" | {way}: {'found' if good else 'missed'}{grade} {spent:6.2f} s"
        print(line)
    for way, rows in score.items():
        print(f"{way:24} found {sum(g for g, _ in rows)} of {len(rows)}, {sum(s for _, s in rows):.1f} s in all")


if __name__ == "__main__":
    main()
