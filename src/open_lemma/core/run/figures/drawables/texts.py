"""Formulas of drawn things as text that stands alone, so that a reading is one of the function itself."""

from __future__ import annotations

from ....formula.nodes import Formula, Given, Named, transformed, walk
from ....formula.piecewise import written_out
from ....formula.typeset import name_tex
from ....formula.units import Unit
from ....formula.written import written

MOST_PIECES = 60  # of an interpolation that a curve's formula writes out


def formula_text(formula: Formula) -> str | None:
    """A formula as text that stands alone, all names opened; None where it holds lists or what is given by a block."""
    plain = transformed(written_out(formula, MOST_PIECES), lambda node, visit: visit(node.body) if isinstance(node, Named) else None)
    for node in walk(plain):
        if isinstance(node, Given) and hasattr(node.data, "__len__"):
            return None
        entry = getattr(node, "entry", None)
        if entry is not None and (entry.category in ("defined", "interpolated") or "polygamma" in entry.name):
            return None
    try:
        text = written(transformed(plain, lambda node, _: Given(node.data) if isinstance(node, Given) and node.name else None))
    except (ValueError, OverflowError):
        return None
    return text if len(text) <= 20_000 else None


def quantity_text(name: str | None, unit: Unit | None) -> str | None:
    """`h / m`: quantity and unit, as ISO 80000-1:2009, 7.1.4 writes them on axes; only where there is a unit to be said."""
    if unit is None or unit.plain:
        return None
    return f"${name_tex(name)}$ / ${unit.tex()}$" if name else f"in ${unit.tex()}$"


def in_another_unit(text: str | None, unit: Unit) -> str | None:
    """The same words of an axis with another unit."""
    if text is None:
        return None
    return f"{text.rsplit(' / ', 1)[0]} / ${unit.tex()}$" if " / " in text else f"in ${unit.tex()}$"
