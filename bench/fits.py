"""Fits without starts against SciPy's curve_fit: digits and time on certified sets, and a million points.

Run: python -m bench.fits
"""

from __future__ import annotations

import time
import warnings
from collections.abc import Callable
from typing import Any

import numpy as np
from scipy.optimize import curve_fit
from tests.core.numerics.reference_fits import SETS
from tests.core.numerics.test_fits import fitted, right_digits

from open_lemma.core.formula.tape import Tape

# The official first starts of the sets (Statistical Reference Datasets, start 1), from memory.
STARTS = {
    "Misra1a": (500, 1e-4), "Misra1c": (500, 1e-4), "DanWood": (1, 5), "BoxBOD": (1, 1), "Rat42": (100, 1, 0.1), "Rat43": (100, 10, 1, 1),
    "MGH09": (25, 39, 41.5, 39), "MGH10": (2, 400_000, 25_000), "Lanczos3": (1.2, 0.3, 5.6, 5.5, 6.5, 7.6),
}  # fmt: skip


def main() -> None:
    print(f"{'set':10} {'ours':>8} {'digits':>7} {'SciPy':>8} {'digits':>7}   (SciPy with the official start)")
    for name, reference in SETS.items():
        began = time.perf_counter()
        ours = fitted(reference.model, " ".join(reference.certified), reference.x, reference.y)
        took = time.perf_counter() - began
        certified = [c for c, _ in reference.certified.values()]
        digits = min(right_digits(v, c) for v, c in zip(ours.values, certified, strict=True))
        other, other_took = _scipy(_function(ours), np.array(reference.x), np.array(reference.y), STARTS[name])
        other_digits = min(right_digits(float(v), c) for v, c in zip(other, certified, strict=True)) if other is not None else 0.0
        print(f"{name:10} {took * 1e3:6.0f} ms {digits:7.1f} {other_took * 1e3:6.1f} ms {max(other_digits, 0):7.1f}")
    _million()


def _function(fit: Any) -> Callable[..., Any]:
    tape = Tape([fit.model.formula], ["x", *fit.parameters])
    return lambda x, *p: np.broadcast_to(tape.numeric(x, *p)[0], np.shape(x))


def _scipy(function: Callable[..., Any], x: Any, y: Any, start: tuple[float, ...]) -> tuple[Any, float]:
    began = time.perf_counter()
    with warnings.catch_warnings(), np.errstate(all="ignore"):
        warnings.simplefilter("ignore")
        try:
            found = curve_fit(function, x, y, p0=start)[0]
        except RuntimeError:
            found = None
    return found, time.perf_counter() - began


def _million() -> None:
    """Four parameters, a million points: ours without a start, SciPy's with one near the answer."""
    rng = np.random.default_rng(0)
    x = np.linspace(0, 10, 10**6)
    y = 2 * np.exp(-0.4 * x) * np.cos(3 * x + 0.5) + rng.normal(0, 0.05, x.size)
    times = []
    for _ in range(3):
        began = time.perf_counter()
        fitted("A*exp(-k*x)*cos(w*x + p)", "A k w p", x, y)
        times.append(time.perf_counter() - began)

    def model(x: Any, a: float, k: float, w: float, p: float) -> Any:
        return a * np.exp(-k * x) * np.cos(w * x + p)

    others = [_scipy(model, x, y, (2.2, 0.3, 2.9, 0.4))[1] for _ in range(3)]
    print(f"a million points, four parameters: {min(times):.2f} s, SciPy {min(others):.2f} s, ratio {min(times) / min(others):.2f}")


if __name__ == "__main__":
    main()
