"""A formula as text of the language, so that what was found can be copied back into a script."""

from __future__ import annotations

from fractions import Fraction

from . import catalogue as c
from .nodes import Apply, Formula, Given, Named, Number, Variable

_OR, _AND, _NOT, _COMPARE, _SUM, _PRODUCT, _SIGN, _POWER, _ATOM = range(9)


def written(formula: Formula) -> str:
    """Reading the text again gives a formula of the same value. Names that have values stay names."""
    return _written(formula)[0]


def number_text(value: Fraction, decimal: bool) -> tuple[str, int]:
    """A number as text of the language, and how tightly it binds."""
    sign, size = ("-" if value < 0 else ""), abs(value)
    level = _SIGN if value < 0 else _ATOM
    if size.denominator == 1 and size < 10**15:
        return f"{sign}{size.numerator}", level
    if decimal and Fraction(text := repr(float(size))) == size and "inf" not in text:
        return sign + text.replace("e+", "e"), level
    return f"{sign}{size.numerator}/{size.denominator}", min(level, _PRODUCT) if size.denominator != 1 else level


def _written(formula: Formula) -> tuple[str, int]:
    if isinstance(formula, Number):
        return number_text(formula.value, formula.decimal)
    if isinstance(formula, Variable):
        return formula.name, _ATOM
    if isinstance(formula, Named):
        if not formula.name:
            if formula.written is not None:
                return _written(formula.written)
            text, level = _written(formula.body)
            if formula.unit is None or formula.unit.plain:
                return text, level
            return f"{text if level >= _PRODUCT else f'({text})'} [{formula.unit}]", _SIGN
        if formula.arguments is None:
            return formula.name, _ATOM
        return f"{formula.name}{chr(39) * formula.primes}({', '.join(written(a) for a in formula.arguments)})", _ATOM
    if isinstance(formula, Given):
        if formula.name:
            return formula.name, _ATOM
        if said := getattr(formula.origin, "written", ""):
            return str(said), _SUM
        return number_text(Fraction(float(formula.data)), True) if not hasattr(formula.data, "__len__") else ("[...]", _ATOM)
    assert isinstance(formula, Apply)
    return _applied(formula)


def _applied(formula: Apply) -> tuple[str, int]:
    entry, args = formula.entry, formula.arguments
    if entry is c.ADD and isinstance(args[1], Number) and args[1].value < 0:
        return f"{_at(args[0], _SUM)} - {_at(Number(-args[1].value, args[1].decimal), _PRODUCT)}", _SUM
    if entry in (c.ADD, c.SUBTRACT):
        return f"{_at(args[0], _SUM)} {entry.name} {_at(args[1], _PRODUCT)}", _SUM
    if entry in (c.MULTIPLY, c.DIVIDE):
        # A quotient is only ever followed by a sign, so that nothing can be read two ways.
        return f"{_at(args[0], _PRODUCT)}{entry.name}{_at(args[1], _POWER)}", _PRODUCT
    if entry is c.NEGATIVE:
        return f"-{_at(args[0], _PRODUCT)}", _SIGN
    if entry is c.POWER:
        return f"{_at(args[0], _ATOM)}^{_at(args[1], _ATOM)}", _POWER
    if entry is c.CHOOSE:
        return f"({_pieces(formula)})", _ATOM
    if entry is c.PERIOD:
        return _written(args[4])
    if entry in (c.GUARD, c.DATA):
        return _written(args[0])
    if entry.category == "condition":
        return _condition(formula)
    if entry.category == "constant":
        return entry.name, _ATOM
    if entry.name == "1/Gamma":
        return f"1/Gamma({written(args[0])})", _PRODUCT
    return f"{entry.name}({', '.join(written(a) for a in args)})", _ATOM


def _pieces(formula: Formula) -> str:
    said = []
    while isinstance(formula, Apply) and formula.entry is c.CHOOSE:
        condition, taken, formula = formula.arguments
        said.append(f"{written(taken)} when {written(condition)}")
    if formula != c.UNDEFINED:
        said.append(f"otherwise {written(formula)}")
    return ", ".join(said)


def _condition(formula: Apply) -> tuple[str, int]:
    name, args = formula.entry.name, formula.arguments
    if name in ("true", "false"):
        return name, _ATOM
    if name == "not":
        return f"not {_at(args[0], _NOT)}", _NOT
    if name in ("and", "or"):
        level = _AND if name == "and" else _OR
        return f" {name} ".join(_at(a, level + (place > 0)) for place, a in enumerate(args)), level
    return f"{_at(args[0], _SUM)} {name} {_at(args[1], _SUM)}", _COMPARE


def _at(formula: Formula, level: int) -> str:
    text, binding = _written(formula)
    return f"({text})" if binding < level or (binding == _SIGN and level > _SUM) else text
