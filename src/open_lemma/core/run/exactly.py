"""Exact forms of numbers: `sqrt(3)/2` beside 0.866…, found by algebra, shown only where they are short."""

from __future__ import annotations

from ..formula.exact import NotExact, to_sympy
from ..formula.forms import form_of
from ..formula.limits import OutOfTime, time_limit
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
    try:
        with time_limit(0.3):
            found = to_sympy(formula)
            found = found.doit() if hasattr(found, "doit") else found
            return form_of(found)
    except (OutOfTime, NotExact, ArithmeticError, ValueError, TypeError, NotImplementedError, RecursionError, AttributeError):
        return None
