"""The search for zeros that roots, crossings and solutions share: all of them, the nearest, their digits."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from ..formula.ball import from_fraction, precision
from ..formula.certain import certain_value
from ..formula.domain import infinite
from ..formula.nodes import Formula
from ..language import tree
from ..numerics.roots.equations import propose
from ..numerics.roots.infinite_intervals import find_nearest, find_roots_anywhere
from ..numerics.roots.pieces import roots_in_pieces, sign_changes
from ..numerics.roots.refine import bits_for, certain_digits, refined
from ..numerics.roots.search import NotSearchable, Root, Roots, Stretch
from ..record.notation import format_number
from ..record.rows import RootRow
from .evaluate.evaluator import Evaluator
from .evaluate.refusals import refusal
from .findings import FindingDraft
from .search_window import Progress, SearchWindow, digits_at, digits_of


def searched(request: tree.Request, window: SearchWindow, scope: Evaluator, progress: Progress) -> tuple[Roots, list[str]]:
    """All roots of the window, or the nearest one, with notes on the search."""
    near = request.option("near")
    try:
        if near is not None and isinstance(near.value, tree.Expression):
            return _nearest(window, scope.number(near.value).formula)
        found = find_roots_anywhere(window.formula, window.variable, window.low, window.high, found=lambda n: progress(request, n))
    except NotSearchable as reason:
        raise refusal("not-searchable", str(reason), request) from None
    notes = []
    if not (infinite(window.low) or infinite(window.high)):
        if found.unsettled:
            again = roots_in_pieces(window.formula, window.variable, window.low, window.high)
            found = again if again is not None and len(again.unsettled) < len(found.unsettled) else found
        zeros = {r.x for r in found.roots}
        changes = sign_changes(window.formula, window.variable, window.low, window.high)
        for place in [p for p in changes if p.x not in zeros][:5]:
            what = "a pole" if "pole" in place.kinds else "a jump"
            notes.append(f"at {window.variable} = {format_number(place.x)} the sign changes through {what}, which is no zero")
    elif found.unsettled:
        family = _family_of(window.formula, window.variable)
        if family:
            notes.append(f"infinitely many, says algebra: {family}")
    return found, notes


def _nearest(window: SearchWindow, near: Formula) -> tuple[Roots, list[str]]:
    nearest = find_nearest(window.formula, window.variable, near, window.low, window.high)
    place = format_number(certain_value(near).value)
    notes = [f"{window.variable} = {format_number(x)} is exactly as far from {place}" for x in nearest.tied]
    found = nearest.found
    if found.roots and not nearest.proven:
        notes.append("that none is nearer was not proven")
        found = replace(found, unsettled=found.unsettled or [Stretch(*nearest.searched)])
    elif not found.roots and not nearest.proven:
        low, high = nearest.searched
        notes.append(f"sought from {format_number(low)} to {format_number(high)}")
        found = replace(found, unsettled=found.unsettled or [Stretch(float("-inf"), low), Stretch(high, float("inf"))])
    return found, notes


def _family_of(formula: Formula, variable: str) -> str:
    """Infinitely many zeros as algebra writes them, or nothing."""
    proposed = propose([formula], [variable])
    return proposed.family if proposed.kind == "family" else ""


def more_digits(
    told: FindingDraft, request: tree.Request, scope: Evaluator, roots: list[Root], variable: str, height: Formula | None = None
) -> None:
    """The digits that were asked for, into the rows of roots."""
    digits = digits_of(request, scope)
    if digits is None or not roots:
        return
    for k, root in enumerate(roots):
        ball = _root_ball(root, variable, digits)
        said = {"x": certain_digits(ball, digits)}
        if height is not None:
            value = digits_at(height, variable, ball, digits)
            if value is not None:
                said["value"] = value
        told.amend(k, digits=said)
    _digits_said(told, digits)


def _digits_said(told: FindingDraft, digits: int) -> None:
    shown = [f"{told.variable} = {row.digits['x']}" for row in told.values if isinstance(row, RootRow) and row.digits]
    if shown and len(shown) <= 3:
        told.summary = f"{told.summary.rstrip('.')}: {'; '.join(shown)}."
    told.notes.append(f"all {digits} digits are certain, the last one rounded")


def _root_ball(root: Root, variable: str, digits: int) -> Any:
    """The place of a root in as narrow a ball as so many digits need."""
    return refined(root.factor, variable, root.ball, root.multiplicity, digits) if root.exact is None else _exact_ball(root, digits)


def _exact_ball(root: Root, digits: int) -> Any:
    assert root.exact is not None
    with precision(bits_for(digits) + 64):
        return from_fraction(root.exact.numerator, root.exact.denominator)
