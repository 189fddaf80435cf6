"""Certificates of systems: the box halved until each part is free of solutions, or lies in a box that holds one alone."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from typing import Any

from ...certificate.cover import PLACE_BITS, Unproven
from ...certificate.exact import NoExactNumber
from ...certificate.functions import BadProgram
from ...certificate.parts import Part, side_of, within
from ...certificate.program import NotPlain, program_of
from ...certificate.rows import Verdict
from ...certificate.systems import Equations
from ...formula.ball import precision
from ...formula.nodes import Formula
from ..roots.systems import Solved
from .covers import Json, NoCertificate, Proof, checked, end_of
from .trees import tree_of

MOST = {1: 6_000, 2: 6_000, 3: 2_500}  # parts, by the number of unknowns
FEWEST = 700
WIDENED = Fraction(1, 2**20)  # of its width, by which the box goes beyond the window


def prove_system(
    equations: Sequence[Formula], unknowns: Sequence[str], ends: Sequence[tuple[Formula, Formula]], found: Solved, rows: list[Json]
) -> Proof:
    """A certificate of all solutions in a box. rows: those of the finding, one for each solution."""
    try:
        return checked(_system(equations, unknowns, ends, found), rows)
    except (NoCertificate, Unproven) as reason:
        return Proof(None, Verdict([False] * len(rows), False, fault=str(reason)), str(reason))


def prove_linear(equations: Sequence[Formula], unknowns: Sequence[str], rows: list[Json]) -> Proof:
    """A certificate of the only solution of linear equations with rational coefficients."""
    try:
        programs = [program_of(e) for e in equations]
    except NotPlain as reason:
        return Proof(None, Verdict([False] * len(rows), False, fault=str(reason)), f"it rests on {reason}")
    return checked({"claim": "linear system", "formulas": programs, "variables": list(unknowns)}, rows)


def _system(equations: Sequence[Formula], unknowns: Sequence[str], ends: Sequence[tuple[Formula, Formula]], found: Solved) -> Json:
    try:
        read = Equations([program_of(e) for e in equations], list(unknowns))
        window = [[end_of(e) for e in pair] for pair in ends]
    except NotPlain as reason:
        raise NoCertificate(f"it rests on {reason}") from None
    whole = tuple(_wider(_side(x), WIDENED) for x in found.window)
    alone = [tuple(_side(x) for x in around) for around, _ in found.alone]
    left = MOST.get(len(unknowns), FEWEST) + 40 * len(alone)

    def letter_of(part: Part) -> str | None:
        nonlocal left
        left -= 1
        if any(within(part, box) for box in alone):
            return "k"
        if read.empty(part):
            return "n"
        return "?" if left < 0 else None

    try:
        letters = tree_of(whole, letter_of)
    except (BadProgram, NoExactNumber) as reason:
        raise NoCertificate(str(reason)) from None
    return {
        "claim": "system", "formulas": read.programs, "variables": list(unknowns), "window": window, "whole": _said(whole),
        "alone": [_said(box) for box in alone], "parts": letters,
    }  # fmt: skip


def _side(x: Any) -> tuple[Fraction, Fraction]:
    with precision(PLACE_BITS):
        return side_of(x)


def _wider(side: tuple[Fraction, Fraction], share: Fraction) -> tuple[Fraction, Fraction]:
    room = (side[1] - side[0]) * share or max(abs(side[0]), Fraction(1)) / 2**100
    return side[0] - room, side[1] + room


def _said(part: Part) -> list[list[str]]:
    return [[str(a), str(b)] for a, b in part]


__all__ = ["prove_linear", "prove_system"]
