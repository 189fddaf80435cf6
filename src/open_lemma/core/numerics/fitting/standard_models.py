"""Models named by their trade names, as formulas of the language in x: what is offered where data are to be fitted.

The names and formulas are those of textbooks; each is tried only where it can have a meaning for the data.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np


@dataclass(frozen=True, slots=True)
class StandardModel:
    """needs: `positive x`, `positive y`, `waves` (the data turn at least twice), `peak` (they turn), or nothing."""

    name: str
    formula: str
    parameters: tuple[str, ...]
    needs: str = ""
    about: str = ""


MODELS = (
    StandardModel("straight line", "a + b*x", ("a", "b")),
    StandardModel("parabola", "a + b*x + c*x^2", ("a", "b", "c")),
    StandardModel("cubic", "a + b*x + c*x^2 + d*x^3", ("a", "b", "c", "d")),
    StandardModel("proportion", "a*x", ("a",), about="through the origin"),
    StandardModel("power law", "C*x^n", ("C", "n"), "positive x"),
    StandardModel("shifted power law", "C*(x - x0)^n", ("C", "x0", "n"), "positive y", "as a rating curve above its zero"),
    StandardModel("exponential", "A*exp(k*x)", ("A", "k"), "positive y"),
    StandardModel("exponential approach", "c + A*exp(-k*x)", ("c", "A", "k"), about="decay or growth to a last value"),
    StandardModel("two exponentials", "A*exp(-k*x) + B*exp(-q*x)", ("A", "k", "B", "q")),
    StandardModel("logarithm", "a + b*ln(x)", ("a", "b"), "positive x"),
    StandardModel("saturation", "V*x/(K + x)", ("V", "K"), "positive x", "half of V at x = K"),
    StandardModel("logistic", "L/(1 + exp(-k*(x - m)))", ("L", "k", "m"), about="growth to a limit, steepest at m"),
    StandardModel("smooth step", "c + A*erf((x - m)/s)", ("c", "A", "m", "s")),
    StandardModel("Gaussian peak", "b + A*exp(-(x - m)^2/(2*s^2))", ("b", "A", "m", "s"), "peak"),
    StandardModel("Lorentzian peak", "b + A/(1 + ((x - m)/w)^2)", ("b", "A", "m", "w"), "peak"),
    StandardModel("sinusoid", "c + A*sin(w*x + p)", ("c", "A", "w", "p"), "waves"),
    StandardModel("damped sinusoid", "c + A*exp(-k*x)*cos(w*x + p)", ("c", "A", "k", "w", "p"), "waves"),
    StandardModel("sinusoid and trend", "a + b*x + A*sin(w*x + p)", ("a", "b", "A", "w", "p"), "waves"),
)  # fmt: skip


def suitable(x: Any, y: Any) -> list[StandardModel]:
    """The models that may have a meaning for the data, with fewer parameters than two thirds of the points."""
    order = np.argsort(x, kind="stable")
    turns = _turns(np.asarray(y, dtype=float)[order])
    known = {
        "": True, "positive x": bool(np.all(np.asarray(x) > 0)), "positive y": bool(np.all(np.asarray(y) > 0)),
        "peak": turns >= 1, "waves": turns >= 2,
    }  # fmt: skip
    return [m for m in MODELS if known[m.needs] and 1.5 * len(m.parameters) < len(y)]


def _turns(y: Any) -> int:
    """How often the smoothed data turn from rising to falling or back, small wiggles passed over."""
    if len(y) < 5:
        return 0
    width = max(1, len(y) // 25)
    smooth = np.convolve(y, np.ones(width) / width, mode="valid")
    least = 0.12 * float(np.ptp(smooth))
    turns, direction, extreme = 0, 0, smooth[0]
    for value in smooth[1:]:
        if (direction >= 0 and value > extreme) or (direction <= 0 and value < extreme):
            if direction == 0 and abs(value - extreme) < least:
                continue
            extreme, direction = value, (1 if value > extreme else -1) if direction == 0 else direction
        elif abs(value - extreme) > least:
            turns, direction, extreme = turns + 1, -direction, value
    return turns
