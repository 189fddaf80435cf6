"""Exact forms of numbers: `sqrt(3)/2` beside 0.866…, found by algebra, shown only where they are short."""

from __future__ import annotations

from ..formula.exact import by_algebra, to_sympy
from ..formula.forms import form_of
from ..formula.nodes import Apply, Formula, Given, Number, walk


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
    return by_algebra(lambda _: form_of(to_sympy(formula).doit()), 0.3)
