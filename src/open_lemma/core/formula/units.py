"""Units of measure: kept with a value, combined by products and powers, never mixed up in sums.

A unit is a product of powers of symbols as they were typed; nothing is converted (`m` and `mm` are two units). What the
symbols mean is the student's affair; the rules are those of quantity calculus (ISO 80000-1:2009, section 7.1).
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction

from .exact import rational
from .nodes import Apply, Formula, Given, Named, Number, Variable

_FACTOR = re.compile(r"\s*([^\W\d_]+|[%°‰](?:[A-Z])?)\s*(?:\^\s*\(?\s*([+-]?\d+(?:/\d+)?)\s*\)?|([⁻⁺]?[⁰¹²³⁴⁵⁶⁷⁸⁹]+)|([+-]?\d+))?")
_DIGITS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻⁺", "0123456789-+")
_RAISED = str.maketrans("0123456789-", "⁰¹²³⁴⁵⁶⁷⁸⁹⁻")


class BadUnit(ValueError):
    """A text that is no unit; it says what cannot be read."""


class MixedUnits(ValueError):
    """Two units meet where they must be the same, or a unit where none has a meaning."""


@dataclass(frozen=True, slots=True)
class Unit:
    """Symbols with their powers, in the order in which they were met; none for a quotient of equals."""

    powers: tuple[tuple[str, Fraction], ...]

    @property
    def plain(self) -> bool:
        return not self.powers

    def same(self, other: Unit) -> bool:
        return dict(self.powers) == dict(other.powers)

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
    """`m/s^2`, `m s⁻²`, `m*s^-2`, `kg m^2`: powers, products and quotients of symbols. Raises BadUnit."""
    found: Unit = NONE
    sign, place, text = 1, 0, text.strip()
    if text in ("", "1"):
        return NONE
    if text.startswith("1/"):
        sign, place = -1, 2
    while place < len(text):
        match = _FACTOR.match(text, place)
        if match is None or match.end() == place:
            raise BadUnit(f"'{text[place:].strip()[:8]}' is no unit symbol")
        symbol, caret, raised, glued = match.groups()
        power = Fraction(caret or (raised.translate(_DIGITS) if raised else None) or glued or 1)
        found = found.times(Unit(((symbol, power),)), sign)
        place = match.end()
        rest = text[place:].lstrip()
        if rest in ("/", "*", "·", "."):
            raise BadUnit(f"'{text}' ends with a sign")
        # After a solidus only the next factor is below it, as `m/s/s` says; a product below it takes brackets or powers.
        sign = 1
        if rest.startswith("/"):
            sign = -1
            place = len(text) - len(rest) + 1
        elif rest[:1] in ("*", "·", "."):
            place = len(text) - len(rest) + 1
        elif rest:
            place = len(text) - len(rest)
    return found


_KEEP = frozenset(["neg", "abs", "floor", "ceil", "round"])
_ALIKE = frozenset(["+", "-", "min", "max", "mod"])


def unit_of(formula: Formula) -> Unit | None:
    """The unit of a formula's value; None where no unit is said anywhere in it. A plain number fits to any unit in a sum.

    Raises MixedUnits with the two units at fault.
    """
    return _unit(formula, {})


def _unit(formula: Formula, done: dict[int, tuple[Formula, Unit | None]]) -> Unit | None:
    kept = done.get(id(formula))
    if kept is None:
        kept = done[id(formula)] = (formula, _found(formula, done))
    return kept[1]


def _found(formula: Formula, done: dict[int, tuple[Formula, Unit | None]]) -> Unit | None:
    if isinstance(formula, Number | Variable):
        return None
    if isinstance(formula, Given):
        return formula.unit
    if isinstance(formula, Named):
        return formula.unit if formula.unit is not None else _unit(formula.body, done)
    assert isinstance(formula, Apply)
    name = formula.entry.name
    if name == "choose":
        return _alike([_unit(a, done) for a in formula.arguments[1:]], "a choice")
    if name in ("within", "from data"):
        return _unit(formula.arguments[0], done)
    units = [_unit(a, done) for a in formula.arguments]
    if all(u is None for u in units):
        return None
    if name in _KEEP:
        return units[0]
    if name in _ALIKE:
        return _alike(units, {"+": "a sum", "-": "a difference"}.get(name, name))
    if name == "*":
        return (units[0] or NONE).times(units[1] or NONE)
    if name == "/":
        return (units[0] or NONE).times(units[1] or NONE, -1)
    if name == "^":
        return _raised(formula, units)
    if name == "sqrt":
        return None if units[0] is None else units[0].power(Fraction(1, 2))
    if name == "cbrt":
        return None if units[0] is None else units[0].power(Fraction(1, 3))
    if formula.entry.category == "condition":
        _alike(units, "a comparison")
    # Of other functions only a plain number has a value; a unit that is left out there is left out knowingly: `exp(-t/2)`.
    return None


def _raised(formula: Apply, units: list[Unit | None]) -> Unit | None:
    if units[1] is not None and not units[1].plain:
        raise MixedUnits(f"an exponent has no unit, and this one has [{units[1]}]")
    if units[0] is None:
        return None
    exponent = rational(formula.arguments[1])
    return None if exponent is None else units[0].power(exponent)


def _alike(units: list[Unit | None], where: str) -> Unit | None:
    found: Unit | None = None
    for unit in units:
        if unit is None:
            continue
        if found is not None and not found.same(unit):
            raise MixedUnits(
                f"[{found}] and [{unit}] meet in {where}"
                if found.plain is unit.plain
                else f"a value in [{found if unit.plain else unit}] and one without a unit meet in {where}"
            )
        found = unit
    return found
