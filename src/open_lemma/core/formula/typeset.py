"""The typeset reading: a formula as LaTeX, with the fewest brackets that keep its meaning."""

from __future__ import annotations

import re
from fractions import Fraction

from ..language.vocabulary.names import GREEK
from . import catalogue as c
from .entry import brackets
from .nodes import Apply, Formula, Given, Named, Number, Variable

_SUM, _PRODUCT, _SIGN, _POWER, _ATOM = 1, 2, 3, 4, 5
_GREEK_TEX = set(GREEK) - {"omicron"}
_CAPITAL_TEX = {"Gamma", "Delta", "Theta", "Lambda", "Xi", "Pi", "Sigma", "Phi", "Psi", "Omega"}


def name_tex(name: str) -> str:
    """`beta_1` → \\beta_{1}, `speed` in italics as one word, `x0` with a subscript."""
    head, _, tail = name.partition("_")
    match = re.fullmatch(r"([^\W\d_]+?)(\d+)", head)
    if match and not tail:
        head, tail = match.groups()
    if head in _GREEK_TEX or head in _CAPITAL_TEX:
        tex = "\\" + head
    elif len(head) == 1:
        tex = head
    else:
        tex = rf"\mathit{{{head}}}"
    if not tail:
        return tex
    below = tail.replace("_", r"\_") if tail.isdigit() or len(tail) == 1 else rf"\mathrm{{{tail}}}".replace("_", r"\_")
    return rf"{tex}_{{{below}}}"


def number_tex(value: Fraction, decimal: bool = False) -> str:
    if decimal or value.denominator == 1:
        return plain_number(value)
    return rf"\frac{{{value.numerator}}}{{{value.denominator}}}"


def plain_number(value: Fraction) -> str:
    """A decimal fraction written out, large and small ones as a power of ten."""
    if value.denominator == 1 and abs(value) < 10**15:
        return str(value.numerator)
    text = repr(float(value)) if abs(value) < Fraction(10) ** 300 else str(value)
    match = re.fullmatch(r"(-?[\d.]+)e([+-]?\d+)", text)
    if match:
        mantissa = match.group(1).removesuffix(".0")
        return rf"{mantissa}\times 10^{{{int(match.group(2))}}}"
    return text.removesuffix(".0")


def tex(formula: Formula) -> str:
    return _tex(formula)[0]


def _tex(formula: Formula) -> tuple[str, int]:
    """LaTeX and how tightly its outermost sign binds."""
    if isinstance(formula, Number):
        text = number_tex(abs(formula.value), formula.decimal)
        if formula.value < 0:
            return "-" + text, _SIGN
        return text, _ATOM if formula.decimal or formula.value.denominator == 1 else _PRODUCT
    if isinstance(formula, Variable):
        return name_tex(formula.name), _ATOM
    if isinstance(formula, Named):
        if not formula.name and formula.written is not None:
            return _tex(formula.written)
        if not formula.name:
            text, binding = _tex(formula.body)
            if formula.unit is None:
                return text, binding
            text = brackets(text) if binding < _PRODUCT else text
            return rf"{text}\ {formula.unit.tex()}", _PRODUCT
        name = name_tex(formula.name) + "'" * formula.primes
        if formula.arguments is None:
            return name, _ATOM
        return name + brackets(", ".join(tex(a) for a in formula.arguments)), _ATOM
    if isinstance(formula, Given):
        if not formula.name and hasattr(formula.data, "__len__"):
            return r"[\ldots]", _ATOM
        if not formula.name and (said := getattr(formula.origin, "written", "")):
            return str(said).replace("+/-", "±").replace("±", r"\pm"), _SUM
        return (name_tex(formula.name) if formula.name else plain_number(Fraction(float(formula.data)))), _ATOM
    assert isinstance(formula, Apply)
    return _apply(formula)


def _apply(formula: Apply) -> tuple[str, int]:
    entry, args = formula.entry, formula.arguments
    if entry is c.ADD and isinstance(args[1], Number) and args[1].value < 0:
        return f"{_at(args[0], _SUM)} - {_at(Number(-args[1].value, args[1].decimal), _PRODUCT)}", _SUM
    if entry is c.ADD or entry is c.SUBTRACT:
        bare = _without_sign(args[1]) if entry is c.ADD else None
        if bare is not None:
            return f"{_at(args[0], _SUM)} - {_at(bare, _PRODUCT)}", _SUM
        sign = "+" if entry is c.ADD else "-"
        return f"{_at(args[0], _SUM)} {sign} {_at(args[1], _PRODUCT)}", _SUM
    if entry is c.NEGATIVE:
        return f"-{_at(args[0], _PRODUCT)}", _SIGN
    if entry is c.MULTIPLY:
        bare = _without_sign(formula)
        return (_product(*args), _PRODUCT) if bare is None else (f"-{_at(bare, _PRODUCT)}", _SIGN)
    if entry is c.DIVIDE:
        return rf"\frac{{{tex(args[0])}}}{{{tex(args[1])}}}", _PRODUCT
    if entry is c.POWER:
        return f"{_base(args[0])}^{{{tex(args[1])}}}", _POWER
    if entry is c.CHOOSE:
        return _cases(formula), _ATOM
    if entry.category == "condition":
        return _condition(formula), _SUM
    inner = [tex(a) for a in args]
    if entry.typeset is not None:
        return entry.typeset(*inner), _ATOM
    return rf"\operatorname{{{entry.name}}}" + brackets(", ".join(inner)), _ATOM


def _without_sign(formula: Formula) -> Formula | None:
    """`(-k)*t` as k*t and `(-2)*t` as 2*t, to be written with the sign in front of the whole; None where no sign leads."""
    if not isinstance(formula, Apply):
        return None
    if formula.entry is c.NEGATIVE:
        return formula.arguments[0]
    if formula.entry not in (c.MULTIPLY, c.DIVIDE):
        return None
    first, second = formula.arguments
    if isinstance(first, Number) and first.value < 0:
        bare: Formula | None = Number(-first.value, first.decimal)
    else:
        bare = _without_sign(first)
    if formula.entry is c.MULTIPLY and isinstance(bare, Number) and bare.value == 1:
        return second
    return None if bare is None else Apply(formula.entry, (bare, second))


_RELATIONS = {"<": "<", ">": ">", "<=": r"\le", ">=": r"\ge", "=": "=", "!=": r"\ne"}


def _cases(formula: Formula) -> str:
    rows = []
    while isinstance(formula, Apply) and formula.entry is c.CHOOSE:
        condition, taken, formula = formula.arguments
        rows.append(rf"{tex(taken)} & \text{{when }} {_condition(condition)}")
    if formula != c.UNDEFINED:
        rows.append(rf"{tex(formula)} & \text{{otherwise}}")
    return r"\begin{cases}" + r" \\ ".join(rows) + r"\end{cases}"


def _condition(formula: Formula) -> str:
    if not isinstance(formula, Apply) or formula.entry.category != "condition":
        return tex(formula)
    name, args = formula.entry.name, formula.arguments
    if name in _RELATIONS:
        return f"{tex(args[0])} {_RELATIONS[name]} {tex(args[1])}"
    if name == "not":
        return rf"\text{{not }} ({_condition(args[0])})"
    if name == "and" and (chain := _chain(args[0], args[1])) is not None:
        return chain
    if name in ("and", "or"):
        return rf"{_condition(args[0])} \text{{ {name} }} {_condition(args[1])}"
    return rf"\text{{{name}}}"


def _chain(left: Formula, right: Formula) -> str | None:
    """`0 < x and x < 1`, as a chain is kept, written as one again."""
    if not (isinstance(left, Apply) and isinstance(right, Apply) and right.entry.name in _RELATIONS):
        return None
    last = left.arguments[1] if left.entry.name == "and" else left
    shared = isinstance(last, Apply) and last.entry.name in _RELATIONS and last.arguments[1] is right.arguments[0]
    return f"{_condition(left)} {_RELATIONS[right.entry.name]} {tex(right.arguments[1])}" if shared else None


def _at(formula: Formula, level: int) -> str:
    text, binding = _tex(formula)
    # A sign stands freely only at the front of a sum.
    if binding < level or (binding == _SIGN and level > _SUM):
        return brackets(text)
    return text


def _base(formula: Formula) -> str:
    text, binding = _tex(formula)
    return text if binding == _ATOM else brackets(text)


def _product(left: Formula, right: Formula) -> str:
    a, b = _at(left, _PRODUCT), _at(right, _PRODUCT)
    if isinstance(left, Number) and left.value.denominator != 1 and not left.decimal:
        return f"{a}\\,{b}"
    if re.match(r"[-\d]", b) or (b.startswith(r"\frac") and a[-1:].isdigit()):
        return rf"{a} \cdot {b}"
    if b.startswith("^"):
        return f"{a}{b}"
    return rf"{a}\,{b}" if not a[-1:].isdigit() else f"{a}{b}"
