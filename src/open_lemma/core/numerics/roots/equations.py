"""Equations solved by algebra (SymPy) with a time limit; what comes out is only proposed here, and confirmed by the caller.

An equation is given as the formula left - right. Unknowns and whatever has no value are real.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from ...formula.exact import NO_ANSWER, to_sympy
from ...formula.forms import text_of_form
from ...formula.limits import OutOfTime, time_limit
from ...formula.nodes import Formula

SECONDS = 4.0
MAX_LISTED = 200  # solutions of an infinite family that fall into a window


@dataclass
class Proposed:
    """What algebra says. `solutions` are SymPy expressions by unknown.

    kind     finite | none | everything | family (infinitely many, said by `family`) | unknown
    """

    kind: str
    solutions: list[dict[str, Any]] = field(default_factory=list)
    family: str = ""
    why: str = ""
    linear: bool = False


def propose(equations: Sequence[Formula], unknowns: Sequence[str], window: tuple[Formula, Formula] | None = None) -> Proposed:
    """All real solutions, as far as algebra finds them in SECONDS; `window` cuts a family of one unknown down."""
    import sympy

    try:
        with time_limit(SECONDS):
            symbols = [sympy.Symbol(u, real=True) for u in unknowns]
            sides = [to_sympy(e) for e in equations]
            if any(not s.is_finite and s.has(sympy.nan, sympy.zoo, sympy.oo) for s in sides):
                return Proposed("unknown", why="the equation has no value")
            free = set().union(*(s.free_symbols for s in sides)) - set(symbols)
            if len(unknowns) == 1 and len(equations) == 1 and not free:
                return _one(sympy, sides[0], symbols[0], window)
            return _several(sympy, sides, symbols)
    except OutOfTime:
        return Proposed("unknown", why=f"algebra found no end within {SECONDS:g} s")
    except NO_ANSWER:
        return Proposed("unknown", why="algebra knows no way to solve this")


def _one(sympy: Any, side: Any, x: Any, window: tuple[Formula, Formula] | None) -> Proposed:
    if side == 0 or (not side.has(x) and sympy.simplify(side) == 0):
        return Proposed("everything")
    if not side.has(x):
        return Proposed("none")
    found = sympy.solveset(side, x, domain=sympy.S.Reals)
    if isinstance(found, sympy.ConditionSet) or found.has(sympy.ConditionSet):
        return Proposed("unknown", why="algebra knows no way to solve this")
    if found == sympy.S.Reals:
        return Proposed("everything")
    if window is not None:
        ends = [to_sympy(e) for e in window]
        found = found.intersect(sympy.Interval(*ends))
        if isinstance(found, sympy.Intersection | sympy.Union | sympy.ConditionSet) and not found.is_FiniteSet:
            return Proposed("unknown", why="algebra could not cut the solutions down to the window")
    if found.is_empty is True:
        return Proposed("none")
    if found.is_FiniteSet:
        places = sorted(found.args, key=lambda v: float(v.evalf(20)))
        return Proposed("finite", [{str(x.name): v} for v in places if v.is_real is not False][:MAX_LISTED])
    said = _family(sympy, found, str(x.name))
    return (
        Proposed("family", family=said) if said else Proposed("unknown", why="algebra gives the solutions in a form that cannot be listed")
    )


def _family(sympy: Any, found: Any, name: str) -> str:
    """`x = 2*pi*n, n any whole number` for families of solutions."""
    parts = found.args if isinstance(found, sympy.Union) else (found,)
    said = []
    for part in parts:
        if isinstance(part, sympy.ImageSet) and part.base_sets == (sympy.S.Integers,):
            n = sympy.Symbol("n", integer=True)
            said.append(f"{name} = {text_of_form(sympy.expand(part.lamda(n)))}")
        elif isinstance(part, sympy.FiniteSet):
            said += [f"{name} = {text_of_form(v)}" for v in part.args]
        else:
            return ""
    return " or ".join(sorted(said)) + ", n any whole number"


def _several(sympy: Any, sides: list[Any], symbols: list[Any]) -> Proposed:
    try:
        found = sympy.linsolve(sides, *symbols)
        linear = True
        answers = [dict(zip(symbols, row, strict=True)) for row in found]
    except ValueError:  # not linear
        linear = False
        answers = sympy.solve(sides, symbols, dict=True)
    if not answers:
        return Proposed("none" if linear else "unknown", linear=linear, why="" if linear else "algebra finds no solution")
    real = []
    for answer in answers:
        values = {s: sympy.simplify(answer.get(s, s)) for s in symbols}
        if any(v.is_real is False or (not v.free_symbols and abs(sympy.im(v.evalf(30))) > 1e-20) for v in values.values()):
            continue
        real.append(values)
    if not real:
        return Proposed("none", linear=linear)
    if any(v.free_symbols & set(symbols) for values in real for v in values.values()):
        said = " or ".join(", ".join(f"{s.name} = {text_of_form(v)}" for s, v in values.items()) for values in real)
        return Proposed("family", family=said, linear=linear)
    rows = [{str(s.name): v for s, v in values.items()} for values in real]
    if all(not v.free_symbols for row in rows for v in row.values()):
        rows.sort(key=lambda row: [float(v.evalf(20)) for v in row.values()])
    return Proposed("finite", rows[:MAX_LISTED], linear=linear)
