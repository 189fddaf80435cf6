"""Units of measure: products of powers of symbols, with the dimension and the size of each.

Sizes are exact: quotients of whole numbers, for angles times pi. What a symbol means is asked of the package pint; a symbol that it does
not know (`trout`) is a dimension of its own. The rules are those of quantity calculus (ISO 80000-1:2009, section 7.1).
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import Any

_SYMBOL = re.compile(r"[^\W\d_]+|[%°‰](?:[A-Z])?|[′″]")
_POWER = re.compile(r"\s*(?:\^\s*\(?\s*([+-]?\d+(?:/\d+)?)\s*\)?|([⁻⁺]?[⁰¹²³⁴⁵⁶⁷⁸⁹]+)|([+-]?\d+))")
_DIGITS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻⁺", "0123456789-+")
_RAISED = str.maketrans("0123456789-", "⁰¹²³⁴⁵⁶⁷⁸⁹⁻")


PI = Fraction(0)  # among the bases of sizes


class BadUnit(ValueError):
    """A text that is no unit; it says what cannot be read."""


class MixedUnits(ValueError):
    """Two units meet that are not alike, or a unit where none has a meaning. fix: what to write instead."""

    def __init__(self, text: str, fix: str = "give both the same unit, or divide the unit away") -> None:
        super().__init__(text)
        self.fix = fix


Dimension = tuple[tuple[str, Fraction], ...]  # base dimensions with their powers, in the order of their names


@dataclass(frozen=True, slots=True)
class Symbol:
    """What a symbol means: its dimension, its size in base units as size * pi^turns, where its zero lies, whether it is an angle."""

    dimension: Dimension
    size: Fraction
    turns: int = 0
    zero: Fraction = Fraction(0)
    angle: bool = False


_TEMPERATURES = {
    "°C": (Fraction(1), Fraction(27315, 100)), "degC": (Fraction(1), Fraction(27315, 100)), "℃": (Fraction(1), Fraction(27315, 100)),
    "°F": (Fraction(5, 9), Fraction(45967, 180)), "degF": (Fraction(5, 9), Fraction(45967, 180)),
}  # fmt: skip
# Signs that print uses and the package does not know, by names that it knows.
_PRINTED = {
    "%": "percent",
    "‰": "permille",
    "°": "degree",
    "′": "arcminute",
    "″": "arcsecond",
    "rev": "turn",
    "Torr": "torr",
    "min": "minute",
}
_LEVELS = frozenset(["dB", "dBm"])  # logarithms of quotients, which convert to nothing else
_NO_DIMENSION = frozenset(["radian", "count"])


@lru_cache(1)
def _registry() -> Any:
    import pint

    return pint.UnitRegistry(non_int_type=Fraction)


@lru_cache(512)
def symbol_of(text: str) -> Symbol:
    """What a symbol means; one that nobody knows is a dimension of its own."""
    own = Symbol(((text, Fraction(1)),), Fraction(1))
    if text in _TEMPERATURES:
        size, zero = _TEMPERATURES[text]
        return Symbol((("kelvin", Fraction(1)),), size, 0, zero)
    import pint

    registry = _registry()
    try:
        found = registry.Quantity(1, registry.parse_units(_PRINTED.get(text, text))).to_root_units()
        size, units = Fraction(found.magnitude), dict(found._units)
    except (pint.errors.PintError, AssertionError, TypeError, ValueError, AttributeError):
        return own
    turns = 0
    if "radian" in units:
        # The package's pi is a long quotient, and sizes of angles are whole quotients of it.
        by_pi = size / Fraction(registry.Quantity(1, registry.pi).to_root_units().magnitude)
        size, turns = (by_pi, 1) if by_pi.denominator < 10**9 else (size, 0)
    dimension = tuple(sorted((name, Fraction(power)) for name, power in units.items() if name not in _NO_DIMENSION))
    if any(power.denominator != 1 for _, power in dimension):
        return own
    return Symbol(dimension, size, turns, angle="radian" in units)


@dataclass(frozen=True, slots=True)
class Unit:
    """Symbols with their powers, in the order in which they were met; none for a quotient of equals."""

    powers: tuple[tuple[str, Fraction], ...]

    @property
    def plain(self) -> bool:
        return not self.powers

    def same(self, other: Unit) -> bool:
        return dict(self.powers) == dict(other.powers)

    @property
    def known(self) -> bool:
        """Whether each of its symbols is one that is in use, and none a dimension of its own."""
        return all(s in _LEVELS or symbol_of(s).dimension != ((s, Fraction(1)),) for s, _ in self.powers)

    @property
    def dimension(self) -> Dimension:
        """Base dimensions with their powers."""
        found: dict[str, Fraction] = {}
        for symbol, power in self.powers:
            for name, times in symbol_of(symbol).dimension:
                found[name] = found.get(name, Fraction(0)) + power * times
        return tuple(sorted((n, p) for n, p in found.items() if p))

    @property
    def like_a_number(self) -> bool:
        """Whether it has no dimension: a plain number, a percentage, an angle."""
        return not self.dimension

    @property
    def zero(self) -> Fraction:
        """Where its zero lies in base units: of temperatures in °C and °F that stand alone."""
        return symbol_of(self.powers[0][0]).zero if len(self.powers) == 1 and self.powers[0][1] == 1 else Fraction(0)

    def stepped(self, alone: bool = False) -> Unit:
        """With K in the place of degrees Celsius, which beside other units are those of a difference.

        alone: also where they stand alone
        """
        if not alone and self.zero:
            return self
        return Unit(tuple(("K" if symbol_of(s).zero and symbol_of(s).size == 1 else s, p) for s, p in self.powers))

    def like(self, other: Unit) -> bool:
        return self.dimension == other.dimension

    def sizes(self) -> dict[Fraction, Fraction]:
        """Its size in base units as a product of powers of quotients; pi, of angles, stands as zero."""
        found: dict[Fraction, Fraction] = {}
        for name, power in self.powers:
            symbol = symbol_of(name)
            for base, times in ((symbol.size, Fraction(1)), (PI, Fraction(symbol.turns))):
                found[base] = found.get(base, Fraction(0)) + times * power
        return {base: power for base, power in found.items() if power and base != 1}

    def times(self, other: Unit, sign: int = 1) -> Unit:
        """The product of two units, or with sign -1 their quotient."""
        found = dict(self.powers)
        for symbol, power in other.powers:
            found[symbol] = found.get(symbol, Fraction(0)) + sign * power
        return Unit(tuple(sorted(((s, p) for s, p in found.items() if p), key=lambda sp: sp[1] < 0)))

    def power(self, exponent: Fraction) -> Unit:
        return Unit(tuple((s, p * exponent) for s, p in self.powers if exponent))

    def __str__(self) -> str:
        """`m s⁻²`: as printed journals write it."""
        return " ".join(s if p == 1 else s + (str(p).translate(_RAISED) if p.denominator == 1 else f"^({p})") for s, p in self.powers)

    def tex(self) -> str:
        return r"\,".join(rf"\mathrm{{{_escaped(s)}}}" + ("" if p == 1 else f"^{{{p}}}") for s, p in self.powers)


def _escaped(symbol: str) -> str:
    return symbol.replace("%", r"\%").replace("°", r"^\circ ")


NONE = Unit(())


def parse_unit(text: str) -> Unit:
    """`m/s^2`, `m s⁻²`, `m*s^-2`, `J/(mol K)`: powers, products and quotients of symbols. Raises BadUnit."""
    whole = text.strip()
    if whole in ("", "1"):
        return NONE
    found, place = _product(whole, 0)
    if place < len(whole):
        raise BadUnit(f"'{whole[place:].strip()[:8]}' is no unit symbol")
    return found


def _product(text: str, place: int) -> tuple[Unit, int]:
    """Factors up to the end or a closing bracket. After a solidus only the next factor is below it, as `m/s/s` says."""
    found, sign = NONE, 1
    if text.startswith("1/", place):
        sign, place = -1, place + 2
    while True:
        factor, place = _factor(text, place)
        found = found.times(factor, sign)
        rest = text[place:].lstrip()
        place = len(text) - len(rest)
        if not rest or rest[0] == ")":
            return found, place
        sign = -1 if rest[0] == "/" else 1
        if rest[0] in "/*·.":
            place += 1
            if not text[place:].strip():
                raise BadUnit(f"'{text}' ends with a sign")


def _factor(text: str, place: int) -> tuple[Unit, int]:
    place += len(text[place:]) - len(text[place:].lstrip())
    if text[place : place + 1] == "(":
        inner, place = _product(text, place + 1)
        if text[place : place + 1] != ")":
            raise BadUnit(f"a bracket of '{text}' is not closed")
        place += 1
    else:
        match = _SYMBOL.match(text, place)
        if match is None:
            raise BadUnit(f"'{text[place:].strip()[:8]}' is no unit symbol")
        inner, place = Unit(((match[0], Fraction(1)),)), match.end()
    power = _POWER.match(text, place)
    if power is None:
        return inner, place
    caret, raised, glued = power.groups()
    return inner.power(Fraction(caret or (raised.translate(_DIGITS) if raised else None) or glued)), power.end()
