"""Values of formulas without variables, to the last digit of a double, with an enclosure that proves it."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np
from flint import arb

from .ball import Undefined, branches, doubt, precision, quotient
from .exact import is_exactly_undefined, is_exactly_zero, rational
from .nodes import Formula
from .tape import NoBall, Tape

PRECISIONS = (80, 160, 320, 640, 1280)


_FAR = 20_000  # binary places; 2^-20000 is below 10^-6000


@dataclass(frozen=True, slots=True)
class Certain:
    """A number: nearest double, exact value where it is rational, decimal texts that enclose the true value."""

    value: float
    exact: Fraction | None
    interval: tuple[str, str] | None
    proven: bool


_LAST_OF_A_PLACE = 2.0**-73  # about 1e-22


def decimal_interval(ball: Any, digits: int = 20) -> tuple[str, str]:
    """Decimal texts low ≤ ball ≤ high, rounded outward."""
    with precision(4 * digits + 64):  # ends are rounded outward to the precision in force
        return _decimal(ball.lower(), digits, -1), _decimal(ball.upper(), digits, 1)


def place_interval(ball: Any, window: Any) -> tuple[str, str]:
    """The same of a place in a window. Around zero digits tell nothing: there it is as wide as the last digit of a place half way out,
    so that whoever looks the place up again need not come nearer than anybody asked."""
    if ball.contains(0) and ball.is_finite():
        ball = ball + arb(0, window.rad() * _LAST_OF_A_PLACE) if not ball.is_exact() else ball
    return decimal_interval(ball, 22)


def _decimal(point: Any, digits: int, direction: int) -> str:
    """An exact binary number in decimal, rounded down (-1) or up (+1) to so many significant digits."""
    mantissa, exponent = (int(v) for v in point.man_exp())
    if abs(exponent) > _FAR:
        return _far_text(mantissa, exponent, direction)
    return _rounded_text(*quotient(point), digits, direction)


def rounded_text(point: Any, digits: int) -> str:
    """An exact binary number in decimal, rounded to the nearest with so many significant digits, all of which are written."""
    mantissa, exponent = (int(v) for v in point.man_exp())
    if mantissa == 0:
        return "0"
    if abs(exponent) > _FAR:
        return _far_text(mantissa, exponent, -1)
    top, bottom = quotient(point)
    sign, top = ("-" if top < 0 else ""), abs(top)
    power = (top.bit_length() - bottom.bit_length()) * 30103 // 100000 + 1
    while top * 10 ** max(-power, 0) < bottom * 10 ** max(power, 0):
        power -= 1
    shift = digits - 1 - power
    scaled, under = top * 10 ** max(shift, 0), bottom * 10 ** max(-shift, 0)
    whole = (2 * scaled + under) // (2 * under)
    text = str(whole)
    if len(text) > digits:  # 9.99 became 10.0: one digit more than asked for
        text, shift = text[:-1], shift - 1
    point_at = len(text) - shift
    if -6 < point_at <= 21 or (point_at > 0 and shift >= 0):
        if point_at <= 0:
            return f"{sign}0.{'0' * -point_at}{text}"
        return sign + text[:point_at] + ("." + text[point_at:] if shift > 0 else "0" * -shift)
    return f"{sign}{text[0]}{'.' + text[1:] if len(text) > 1 else ''}e{point_at - 1}"


def _far_text(mantissa: int, exponent: int, direction: int) -> str:
    """A bound, by a power of ten, of a number that is too small or too large to be written out."""
    sign = -1 if mantissa < 0 else 1
    if exponent < 0:
        return "0" if sign * direction < 0 else ("1e-3000" if sign > 0 else "-1e-3000")
    if sign * direction < 0:
        return "1e3000" if sign > 0 else "-1e3000"
    return "inf" if sign > 0 else "-inf"


def fraction_text(value: Fraction, digits: int, direction: int) -> str:
    """A fraction as a decimal text with so many significant digits, rounded toward -inf (-1) or +inf (+1)."""
    return _rounded_text(value.numerator, value.denominator, digits, direction)


def _rounded_text(top: int, bottom: int, digits: int, direction: int) -> str:
    """top/bottom in decimal; whole numbers only, since a root may have thousands of ends to be written."""
    if top == 0:
        return "0"
    # The power of ten of the first digit, by logarithms to the base 2; at most one too high.
    power = (abs(top).bit_length() - bottom.bit_length()) * 30103 // 100000 + 1
    while abs(top) * 10 ** max(-power, 0) < bottom * 10 ** max(power, 0):
        power -= 1
    shift = digits - 1 - power
    whole, rest = divmod(top * 10 ** max(shift, 0), bottom * 10 ** max(-shift, 0))
    if direction > 0 and rest:
        whole += 1
    return _written(whole, -shift)


def _written(whole: int, exponent: int) -> str:
    """whole × 10^exponent as text, plain where that is short."""
    sign, text = ("-" if whole < 0 else ""), str(abs(whole))
    if whole == 0:
        return "0"
    point = len(text) + exponent
    if -6 < point <= 21:
        if point <= 0:
            body = "0." + "0" * -point + text
        elif point >= len(text):
            body = text + "0" * (point - len(text))
        else:
            body = text[:point] + "." + text[point:]
        return sign + (body.rstrip("0").rstrip(".") if "." in body else body)
    digits = text.rstrip("0") or "0"
    mantissa = digits[0] + ("." + digits[1:] if len(digits) > 1 else "")
    return f"{sign}{mantissa}e{point - 1}"


def nearest_double(ball: Any) -> float:
    """The double nearest to the ball's midpoint."""
    return float(ball.mid())


def certain_value(formula: Formula) -> Certain:
    """The value of a formula without variables; NaN where it has no real value.

    Proven: the interval holds the true value and is narrower than a double's last digit. A value that no precision can
    tell from zero (`sin(pi)`) is zero if algebra says so. Where neither gives a proof (a jump met exactly) the value is
    the plain floating-point one and `proven` is False.
    """
    exact = rational(formula)
    if exact is not None:
        return Certain(_double(exact), exact, (fraction_text(exact, 20, -1), fraction_text(exact, 20, 1)), True)
    tape = Tape([formula], [])
    found = None
    for bits in PRECISIONS:
        found = enclosure(tape, bits)
        if found is None:
            break
        if not found.is_finite():
            continue
        if found.is_zero():
            return Certain(0.0, Fraction(0), ("0", "0"), True)
        if not found.contains(0) and found.rel_accuracy_bits() > 60:
            return Certain(nearest_double(found), None, decimal_interval(found), True)
    if found is None and is_exactly_undefined(formula):
        return Certain(float("nan"), None, None, False)  # a pole met exactly: tan(pi/2)
    if found is not None and is_exactly_zero(formula):
        return Certain(0.0, Fraction(0), ("0", "0"), True)
    value = float(np.asarray(tape.numeric()[0], dtype=float))
    return Certain(value, None, None, False)


def enclosure(tape: Tape, bits: int, *arguments: Any) -> Any | None:
    """One ball for all branches at some precision; None where there is no ball reading or no value."""
    with precision(bits):
        try:
            found = None
            for values in branches(lambda: tape.ball(*arguments)):
                if values is None:
                    return None
                found = values[0] if found is None else found.union(values[0])
            return found if doubt.clean else None
        except (NoBall, Undefined):
            return None


def _double(value: Fraction) -> float:
    try:
        return float(value)
    except OverflowError:
        return float("inf") if value > 0 else float("-inf")
