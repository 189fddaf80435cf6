"""Certificates of formulas that rules or algebra gave, and of conditions without variables. Nothing here is trusted."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ...formula.nodes import Formula, expanded
from .covers import Proof, proof_by, short_program

Json = dict[str, Any]


def prove_identity(formula: Formula, along: Sequence[str], result: Formula, row: Json) -> Proof:
    """That the derivative of a formula along variables, one after the other, is the result; along none: that both are equal."""

    def build() -> Json:
        one, other = (short_program(expanded(f)) for f in (formula, result))
        return {"claim": "identity", "formula": one, "along": list(along), "result": other}

    return proof_by(build, [row])


def prove_taylor(formula: Formula, variable: str, at: Formula, order: int, result: Formula, row: Json) -> Proof:
    """That a formula and the result have the same value and the same derivatives, up to an order, at a place."""

    def build() -> Json:
        one, other, place = (short_program(expanded(f)) for f in (formula, result, at))
        return {"claim": "taylor", "formula": one, "variable": variable, "at": {"formula": place}, "order": order, "result": other}

    return proof_by(build, [row])


def prove_truth(condition: Formula, row: Json) -> Proof:
    """Whether a condition without variables holds."""
    return proof_by(lambda: {"claim": "truth", "formula": short_program(condition)}, [row])


def prove_put_back(
    equations: Sequence[Formula], unknowns: Sequence[str], values: Sequence[dict[str, Formula]], rows: Sequence[Json]
) -> Proof:  # fmt: skip
    """That each row solves all equations; that there are no others is not claimed."""

    def build() -> Json:
        formulas = [short_program(expanded(e)) for e in equations]
        said = [{name: short_program(expanded(f)) for name, f in value.items()} for value in values]
        return {"claim": "solutions", "formulas": formulas, "variables": list(unknowns), "values": said}

    return proof_by(build, list(rows))


def prove_everything(equations: Sequence[Formula]) -> Proof:
    """That every value solves the equations."""
    return proof_by(lambda: {"claim": "everything", "formulas": [short_program(expanded(e)) for e in equations]}, [])
