"""The gauge of the mill pond, made up: a tide of three constituents, the swell of the water, and now and then a wrong reading.

Reading k depends on the seed and on k only, so that a run that is captured again is the same.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

# Amplitude in metres, period in hours, phase in radians: periods of the constituents M2, S2 and O1 (common tide tables).
CONSTITUENTS = ((1.15, 12.4206, -0.6), (0.38, 12.0, -1.1), (0.09, 25.8193, 0.4))
MEAN_M = 1.9
NOISE_M = 0.012
GAP_EVERY, WAVE_EVERY = 173, 97  # readings, on average


@dataclass(frozen=True, slots=True)
class Gauge:
    """seed: of the noise. interval_h: between two readings."""

    seed: int = 7
    interval_h: float = 0.25

    def reading(self, k: int) -> tuple[float, float | None]:
        """Reading k from 0: hours since the start and metres above the sill; None where the logger missed it."""
        time = k * self.interval_h
        level = MEAN_M + sum(a * np.cos(2 * np.pi * time / period + phase) for a, period, phase in CONSTITUENTS)
        rng = np.random.default_rng([self.seed, k])
        if rng.random() < 1 / GAP_EVERY:
            return round(time, 4), None
        wave = rng.exponential(0.12) if rng.random() < 1 / WAVE_EVERY else 0.0
        return round(time, 4), round(float(level + rng.normal(0, NOISE_M) + wave), 4)
