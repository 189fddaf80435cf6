"""SymPy expressions as text of the language: `√3/2`, `2π/3`, `1 + ln(2)`."""

from __future__ import annotations

from typing import Any

from .exact import FROM_SYMPY, NotExact, by_algebra, to_sympy
from .nodes import Apply, Formula, Given, Number, walk

MAX_FORM = 48  # characters: a longer form tells a reader less than its digits do


def text_of_form(expression: Any) -> str:
    """The expression as text of the language, however long. Raises NotExact where a part has no word."""
    return _text(expression)


def form_of(expression: Any) -> tuple[str, str] | None:
    """A SymPy number or formula as text of the language and as LaTeX, if it is short and all of it has a word."""
    import sympy

    try:
        text = _text(expression)
    except NotExact:
        return None
    if len(text) > MAX_FORM:
        return None
    return text, sympy.latex(expression, ln_notation=True)


def _text(e: Any, tight: int = 0) -> str:
    """tight: 0 in a sum, 1 in a product, 2 in a power or below a quotient."""
    import sympy

    if e.is_Rational:
        plain = str(e).replace("-", "-")
        return f"({plain})" if (tight > 1 and ("/" in plain or e < 0)) or (tight == 1 and e < 0) else plain
    if e.is_Symbol:
        return str(e.name)
    if e in (sympy.pi, sympy.E):
        return "π" if e == sympy.pi else "e"
    if e.is_Add:
        terms = e.as_ordered_terms()
        said = _text(terms[0])
        for term in terms[1:]:
            said += f" - {_text(-term, 1)}" if term.could_extract_minus_sign() else f" + {_text(term, 1)}"
        return f"({said})" if tight else said
    if e.is_Mul:
        return _product(e, tight)
    if e.is_Pow:
        return _power(e, tight)
    word = FROM_SYMPY.get(e.func.__name__)
    if word is None or not e.args:
        raise NotExact(str(e))
    return f"{word}({', '.join(_text(a) for a in e.args)})"


def _product(e: Any, tight: int) -> str:
    if e.could_extract_minus_sign():
        said = f"-{_text(-e, 1)}"
        return f"({said})" if tight else said
    top, bottom = e.as_numer_denom()
    if bottom != 1:
        said = f"{_text(top, 1)}/{_text(bottom, 2)}"
    else:
        factors = [_text(f, 1) for f in e.as_ordered_factors()]
        said = factors[0]
        for factor in factors[1:]:
            # A number multiplies what follows it without a sign, as on paper.
            said += factor if said.isdigit() and not factor[0].isdigit() else f"*{factor}"
    return f"({said})" if tight > 1 else said


def _power(e: Any, tight: int) -> str:
    import sympy

    base, exponent = e.as_base_exp()
    if exponent == sympy.Rational(1, 2):
        return f"√{base}" if base.is_Integer and base > 0 else f"sqrt({_text(base)})"
    if exponent == sympy.Rational(1, 3) and base.is_positive:
        return f"cbrt({_text(base)})"
    if exponent.could_extract_minus_sign():
        said = f"1/{_text(base**-exponent, 2)}"
        return f"({said})" if tight > 1 else said
    said = f"{_text(base, 3)}^{_text(exponent, 2)}"
    return f"({said})" if tight > 2 else said


def closed_form(formula: Formula) -> tuple[str, str] | None:
    """A short exact form of a number that is no fraction, as text of the language and as LaTeX; None where there is none.

    A formula that holds decimals or values from elsewhere is not exact, so it has none.
    """
    applied = False
    for node in walk(formula):
        if isinstance(node, Given) or (isinstance(node, Number) and node.decimal):
            return None
        applied = applied or isinstance(node, Apply)
    if not applied:
        return None
    found: tuple[str, str] | None = by_algebra(lambda _: form_of(to_sympy(formula).doit()), 0.3)
    return found
