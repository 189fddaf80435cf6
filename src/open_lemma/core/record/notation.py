"""Two ways to write a result in one line: as mathematics (LaTeX) and in plain characters."""

from __future__ import annotations

import math
import re
from decimal import Decimal
from typing import Protocol

_ESCAPED = {"^": r"\textasciicircum ", "~": r"\textasciitilde ", "\\": r"\textbackslash "}
_QUOTIENT = re.compile(r"(-?)(\d+)/(\d+)")
_FORM_QUOTIENT = re.compile(r"(-?)([^/+ ]+)/(\d+)")


class Notation(Protocol):
    """How numbers, words and their lists are written.

    between   what stands between two results; `close`: between two elements of a list, `tight`: between two coordinates
    """

    between: str
    close: str
    tight: str
    more: str

    def number(self, value: float, digits: int) -> str: ...
    def exact(self, text: str) -> str: ...
    def words(self, text: str) -> str: ...
    def phrase(self, text: str) -> str: ...
    def joined(self, word: str) -> str: ...
    def indexed(self, name: str, index: int) -> str: ...
    def unit(self, text: str) -> str: ...
    def uncertain(self, value: float, error: float) -> str: ...


def format_short(value: float | Decimal, digits: int = 10) -> str:
    """A number for a sentence, with a true minus sign."""
    text = f"{value:.{digits}g}"
    if "e" in text:
        mantissa, exponent = text.split("e")
        text = f"{mantissa}×10^{int(exponent)}"
    return text.replace("-", "−")


def plus_minus(value: float, error: float) -> str:
    """A value with its standard uncertainty, both to the second digit of the latter (JCGM 100:2008, 7.2.6)."""
    if not math.isfinite(error) or error <= 0:
        return format_short(value, 10)
    error = float(f"{error:.1e}")  # 0.0996 is 0.10, to its second digit
    places = 1 - math.floor(math.log10(error))
    rounded = round(error, places)
    if not 1e-4 <= abs(value) < 1e7 and value != 0:
        power = math.floor(math.log10(abs(value)))
        scale = 10.0**power
        inner = max(places + power, 0)
        return f"({value / scale:.{inner}f} ± {rounded / scale:.{inner}f})·10^{power}".replace("-", "−")
    shown = max(places, 0)
    return f"{round(value, places):.{shown}f} ± {rounded:.{shown}f}".replace("-", "−")


def format_number(value: float, digits: int = 10) -> str:
    """A number for a sentence; what is infinite has its sign."""
    if abs(value) == float("inf"):
        return "∞" if value > 0 else "−∞"
    return format_short(value, digits)


class _Latex:
    between = r",\ \ \allowbreak "
    close = r",\ "
    tight = r",\,"
    more = r"\ldots\ "

    def number(self, value: float, digits: int) -> str:
        if value != value:
            return r"\text{undefined}"
        if abs(value) == float("inf"):
            return r"\infty" if value > 0 else r"-\infty"
        if value == 0:
            return "0"
        sign, size = ("-" if value < 0 else ""), abs(value)
        if not 1e-4 <= size < 1e7:
            mantissa, _, exponent = f"{size:.{digits - 1}e}".partition("e")
            mantissa, power = _trimmed(mantissa), f"10^{{{int(exponent)}}}"
            return sign + (power if mantissa == "1" else rf"{_grouped(mantissa)} \times {power}")
        return sign + _grouped(_trimmed(_plain_digits(size, digits)))

    def exact(self, text: str) -> str:
        """A quotient such as -5/6, or a form such as 2√3/3."""
        match = _QUOTIENT.fullmatch(text)
        if match:
            return rf"{match[1]}\tfrac{{{match[2]}}}{{{match[3]}}}"
        plain = re.sub(r"√(\d+)", r"\\sqrt{\1}", text).replace("π", r"\pi ")
        match = _FORM_QUOTIENT.fullmatch(plain)
        return rf"{match[1]}\tfrac{{{match[2]}}}{{{match[3]}}}" if match else plain.replace("*", r"\,")

    def words(self, text: str) -> str:
        """Words that may be broken between them."""
        return r"\allowbreak ".join(rf"\text{{{_escaped(word)}}}" for word in re.split(r"(?<= )", text))

    def phrase(self, text: str) -> str:
        """Words that stay in one line."""
        return rf"\text{{{_escaped(text)}}}"

    def joined(self, word: str) -> str:
        return rf"\ \text{{ {word} }}\ "

    def indexed(self, name: str, index: int) -> str:
        return f"{name}_{{{index}}}"

    def unit(self, text: str) -> str:
        return rf"\ \text{{{_escaped(text)}}}"

    def uncertain(self, value: float, error: float) -> str:
        text = plus_minus(value, error).replace("−", "-").replace("±", r"\pm")
        return re.sub(r"·10\^(-?\d+)", r"\\times 10^{\1}", text)


class _Words:
    between = ", "
    close = ", "
    tight = ", "
    more = "… "

    def number(self, value: float, digits: int) -> str:
        return "undefined" if value != value else format_number(value, digits)

    def exact(self, text: str) -> str:
        return text.replace("-", "−")

    def words(self, text: str) -> str:
        return text

    def phrase(self, text: str) -> str:
        return text

    def joined(self, word: str) -> str:
        return f" {word} "

    def indexed(self, name: str, index: int) -> str:
        return f"{name}{str(index).translate(_LOW)}"

    def unit(self, text: str) -> str:
        return f" {text}"

    def uncertain(self, value: float, error: float) -> str:
        return plus_minus(value, error)


_LOW = str.maketrans("0123456789", "₀₁₂₃₄₅₆₇₈₉")


def _plain_digits(size: float, digits: int) -> str:
    """So many significant digits without a power of ten."""
    return format(Decimal(f"{size:.{digits}g}"), "f")


def _trimmed(digits: str) -> str:
    return digits.rstrip("0").rstrip(".") if "." in digits else digits


def _grouped(digits: str) -> str:
    """Digits in groups of three from the point on, as in printed tables."""
    whole, _, part = digits.partition(".")
    if len(whole) > 4:
        whole = re.sub(r"\B(?=(\d{3})+$)", r"\\,", whole)
    if len(part) > 4:
        part = re.sub(r"(\d{3})(?=\d)", r"\1\\,", part)
    return f"{whole}.{part}" if part else whole


def _escaped(text: str) -> str:
    return re.sub(r"[\\{}$&#^_%~]", lambda m: _ESCAPED.get(m[0], "\\" + m[0]), text)


LATEX: Notation = _Latex()
WORDS: Notation = _Words()
