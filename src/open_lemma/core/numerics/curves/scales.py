"""Scales of an axis: from numbers to shares of its length and back. Sampling, clipping, windows and colours all go by these."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar, Protocol

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


class Scale(Protocol):
    """How numbers lie along an axis.

    positive  only numbers above zero have a place
    even      equal steps are equally long everywhere
    """

    positive: ClassVar[bool]
    even: ClassVar[bool]

    def shares(self, values: Any, low: float, high: float) -> Floats:
        """Where values lie between two ends, 0 to 1; shape as `values`; NaN where there is no place."""
        ...

    def at(self, share: Any, low: float, high: float) -> Any:
        """The numbers at shares of the way from one end to the other: the inverse of `shares`."""
        ...

    def stretch(self, values: Floats, low: float, high: float) -> Floats:
        """The derivative of `shares`: shares of the length for one unit, at values."""
        ...


class LinearScale:
    positive: ClassVar[bool] = False
    even: ClassVar[bool] = True

    def shares(self, values: Any, low: float, high: float) -> Floats:
        with np.errstate(all="ignore"):
            return np.asarray((values - low) / (high - low))

    def at(self, share: Any, low: float, high: float) -> Any:
        return low + (high - low) * share

    def stretch(self, values: Floats, low: float, high: float) -> Floats:
        return np.full(values.shape, 1.0 / (high - low))


class LogarithmicScale:
    positive: ClassVar[bool] = True
    even: ClassVar[bool] = False

    def shares(self, values: Any, low: float, high: float) -> Floats:
        with np.errstate(all="ignore"):
            first, last = float(np.log(low)), float(np.log(high))
            return np.asarray((np.log(values) - first) / (last - first))

    def at(self, share: Any, low: float, high: float) -> Any:
        return low * (high / low) ** share

    def stretch(self, values: Floats, low: float, high: float) -> Floats:
        return np.asarray(1.0 / np.log(high / low) / values)


@dataclass(frozen=True, slots=True)
class SignedLogarithmicScale:
    """The inverse hyperbolic sine: logarithmic to both sides, linear up to about `threshold`."""

    threshold: float

    positive: ClassVar[bool] = False
    even: ClassVar[bool] = False

    def shares(self, values: Any, low: float, high: float) -> Floats:
        with np.errstate(all="ignore"):
            first, last = (float(np.arcsinh(e / self.threshold)) for e in (low, high))
            return np.asarray((np.arcsinh(values / self.threshold) - first) / (last - first))

    def at(self, share: Any, low: float, high: float) -> Any:
        first, last = np.arcsinh(low / self.threshold), np.arcsinh(high / self.threshold)
        return self.threshold * np.sinh(first + (last - first) * share)

    def stretch(self, values: Floats, low: float, high: float) -> Floats:
        width = float(np.arcsinh(high / self.threshold) - np.arcsinh(low / self.threshold))
        return np.asarray(1.0 / width / np.hypot(values, self.threshold))


LINEAR: Scale = LinearScale()
LOGARITHMIC: Scale = LogarithmicScale()


def scale_named(name: str, threshold: float = 1.0) -> Scale:
    """The scale of a word of the language: linear, logarithmic, signed-logarithmic with its threshold."""
    return {"linear": LINEAR, "logarithmic": LOGARITHMIC}.get(name) or SignedLogarithmicScale(threshold)
