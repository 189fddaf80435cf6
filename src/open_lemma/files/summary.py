"""What a column looks like at a glance: counts, extremes, mean, and a small histogram."""

from __future__ import annotations

from collections import Counter
from typing import Any

import numpy as np

from ..core.formula.moments import mean, sd

BINS = 24
_TOP = 5


def summary(numbers: Any, texts: list[str] | None) -> dict[str, Any]:
    if numbers is None:
        plain = [t for t in texts or [] if t]
        common = Counter(plain).most_common(_TOP)
        return {
            "count": len(plain),
            "gaps": len(texts or []) - len(plain),
            "distinct": len(set(plain)),
            "common": [[t[:60], n] for t, n in common],
        }
    data = np.asarray(numbers, dtype=float)
    good = data[np.isfinite(data)]
    found: dict[str, Any] = {"count": int(good.size), "gaps": int(data.size - good.size)}
    if not good.size:
        return found
    low, high = float(good.min()), float(good.max())
    found |= {
        "low": low, "high": high, "mean": mean(good), "median": float(np.median(good)),
        "sd": sd(good) if good.size > 1 else None,
        "rising": bool(np.all(np.diff(good) > 0)) if good.size > 1 else False,
    }  # fmt: skip
    if high > low:
        found["bins"] = np.histogram(good, bins=BINS, range=(low, high))[0].tolist()
    return found
