"""How the numbers of an axis are written."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import numpy as np
from matplotlib.ticker import Formatter

_GLANCE = 2  # decimals
_LONGEST = 9  # digits of numbers that are written out for that


class PiFormatter(Formatter):
    """0, π/2, π, 3π/2: the nearest quotient with a denominator up to 24."""

    def __call__(self, x: float, pos: int | None = None) -> str:  # noqa: ARG002 (Matplotlib calls it with both)
        share = Fraction(x / np.pi).limit_denominator(24)
        if abs(float(share) * np.pi - x) > 1e-6 * max(1.0, abs(x)):
            return self.fix_minus(f"{x / np.pi:.3g}π")
        if share == 0:
            return "0"
        top = {1: "π", -1: "−π"}.get(share.numerator, f"{share.numerator}π".replace("-", "−"))
        return top if share.denominator == 1 else f"{top}/{share.denominator}"


class NamesFormatter(Formatter):
    def __init__(self, places: list[float], names: list[str]) -> None:
        self.places, self.names = np.asarray(places, dtype=float), names

    def __call__(self, x: float, pos: int | None = None) -> str:  # noqa: ARG002
        return self.names[int(np.argmin(np.abs(self.places - x)))] if self.names else ""


def _decimals(step: float) -> int:
    """As many decimals as a step has: 0.25 has two, 0.5 one, 2 none."""
    step = step or 1.0
    return next((d for d in range(16) if abs(step * 10**d - round(step * 10**d)) < 1e-6 * 10**d * step), 16)


def _each(value: float) -> str:
    """A number with the decimals that it needs, six digits at most; written out as long as that is read at a glance."""
    text = f"{value:.6g}"
    return np.format_float_positional(float(text), trim="-") if "e" in text and 1e-6 <= abs(value) < 10.0**_LONGEST else text


def _grouped(text: str, mark: str) -> str:
    """A number with its decimal mark, and whole digits in groups of three from five on, a thin space between them."""
    whole, dot, rest = text.partition(".")
    digits = whole.lstrip("-")
    if len(digits) > 4 and digits.isdigit():
        whole = ("-" if whole.startswith("-") else "") + f"{int(digits):,}".replace(",", "\u2009")
    return whole + mark * len(dot) + rest


class NumberFormatter(Formatter):
    """Tick numbers as plain text, all with the same decimals (typesetting each as mathematics takes twenty times as long).

    Numbers of 100 000 and more, or below a thousandth throughout, have their power of ten set apart at the axis' end, unless that
    leaves them with more decimals than are read at a glance. From five digits on they stand in groups of three (ISO 80000-1).

    each   every number has the decimals that it needs (on logarithmic axes)
    full   no power of ten is set apart
    """

    def __init__(
        self, comma: bool = False, decimals: int | None = None, factor: float = 1.0, sign: str = "", each: bool = False, full: bool = False
    ) -> None:
        self.comma, self.given, self.factor, self.sign, self.each, self.full = comma, decimals, factor, sign, each, full
        self.power = 0
        self.decimals = 0

    def set_locs(self, locs: Any) -> None:
        """Keep the places of the numbers, and how many decimals they need (called by the drawing library)."""
        places = np.asarray(locs, dtype=float) * self.factor
        greatest = float(np.abs(places).max(initial=0.0))
        exponent = int(np.floor(np.log10(greatest) + 1e-9)) if greatest > 0 else 0
        bare = self.each or self.full or self.sign or self.given is not None
        apart = places.size and not bare and (exponent >= 5 or exponent < -3)
        step = float(np.diff(np.sort(places)).min()) if places.size > 1 else 0.0
        if apart and _LONGEST > exponent > 0 and _decimals(step / 10.0**exponent) > _GLANCE:
            apart = False
        self.power = exponent if apart else 0
        self.decimals = self.given if self.given is not None else _decimals(step / 10.0**self.power)

    def __call__(self, x: float, pos: int | None = None) -> str:  # noqa: ARG002
        value = x * self.factor / 10.0**self.power
        if self.each:
            text = f"{value:.{self.given}f}" if self.given is not None else _each(value)
        else:
            text = f"{round(value, self.decimals) + 0.0:.{self.decimals}f}"
        return self.fix_minus(_grouped(text, "," if self.comma else ".")) + self.sign

    def get_offset(self) -> str:
        return rf"$\times 10^{{{self.power}}}$" if self.power else ""


class PowersFormatter(Formatter):
    """2·10⁻³, as mathematics; 0 and ±1 to ±100 stay plain."""

    def __init__(self, comma: bool = False) -> None:
        self.comma = comma

    def __call__(self, x: float, pos: int | None = None) -> str:  # noqa: ARG002
        if x == 0 or 1 <= abs(x) < 1000:
            text = self.fix_minus(f"{x:.4g}")
            return text.replace(".", ",") if self.comma else text
        power = int(np.floor(np.log10(abs(x)) + 1e-9))
        front = f"{x / 10.0**power:.4g}"
        sign = "-" if front.startswith("-") else ""
        front = front.lstrip("-")
        if self.comma:
            front = front.replace(".", "{,}")
        return rf"${sign}10^{{{power}}}$" if front == "1" else rf"${sign}{front}\times 10^{{{power}}}$"
