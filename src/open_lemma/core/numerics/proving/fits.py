"""Certificates of what is made from data: of fits, the data as the decimals they are and the box of the parameters in which the sum of
squares has its minimum; of curves through points, these and the pieces."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from fractions import Fraction
from typing import Any

from flint import arb

from ...certificate.cover import Unproven
from ...certificate.fit import MOST_NUMBERS
from ...certificate.parts import number_of
from ...certificate.program import NotPlain, program_of
from ...certificate.rows import Verdict
from ...formula.certain import decimal_interval
from ...formula.nodes import expanded
from ..fitting.fit import DataColumn, Fit
from ..interpolation.curves import InterpolatedCurve
from .covers import Json, NoCertificate, Proof, checked

MOST_KEPT = 16_000  # characters of data that a certificate keeps
DIGITS = 60  # of data that were worked out


def prove_fit(found: Fit, row: Json) -> Proof:
    """A certificate of the minimum that a fit has found. row: as it is told, with an interval for each parameter that is adjusted."""
    try:
        return checked(_certificate(found, row), [row])
    except (NoCertificate, Unproven) as reason:
        return Proof(None, Verdict([False], False, fault=str(reason)), str(reason))


def prove_curve(curve: InterpolatedCurve, points: Sequence[tuple[Fraction, Fraction]], row: Json) -> Proof:
    """A certificate that a curve goes through its points, is as smooth as its row says, and of its kind."""
    data = {
        "knots": [str(k) for k in curve.function.knots], "pieces": [[str(v) for v in piece] for piece in curve.function.pieces],
        "points": [[str(x), str(y)] for x, y in points],
    }  # fmt: skip
    return checked({"claim": "interpolation", "kind": curve.kind, "data": data}, [row])


def kept(certificate: Json) -> Json:
    """A certificate as a record keeps it: of long data only their number and fingerprint."""
    said = json.dumps(certificate["data"], separators=(",", ":"))
    if len(said) <= MOST_KEPT:
        return certificate
    rows = max(len(column) for column in certificate["data"].values())
    return {**certificate, "data": {"rows": rows, "sha256": hashlib.sha256(said.encode()).hexdigest()}}


def _certificate(found: Fit, row: Json) -> Json:
    problem = found.problem
    try:
        program = program_of(expanded(problem.formula))
    except NotPlain as reason:
        raise NoCertificate(f"it rests on {reason}") from None
    if len(found.residuals) * len(program) > MOST_NUMBERS:
        raise NoCertificate("there are more data than the verifier goes through")
    data: Json = {"columns": [_said(c) for c in problem.columns], "y": _said(problem.y)}
    if problem.errors is not None:
        data["errors"] = _said(problem.errors)
    sought = [p for p in row["parameters"] if "interval" in p]
    held = [[p["name"], repr(p["value"]), _side(found, p)] for p in row["parameters"] if "interval" not in p]
    certificate = {
        "claim": "fit", "formula": program, "variables": list(problem.predictors), "parameters": [p["name"] for p in sought],
        "box": [p["interval"] for p in sought], "data": data,
    }  # fmt: skip
    return {**certificate, "held": held} if held else certificate


def _side(found: Fit, parameter: Json) -> str:
    low, high = found.problem.limits.get(parameter["name"], (None, None))
    if parameter["value"] not in (low, high):
        raise NoCertificate(f"{parameter['name']} is known to no interval")
    return "low" if parameter["value"] == low else "high"


def _said(column: DataColumn) -> list[Any]:
    """Numbers as they were written, as fractions, or as two numbers between which one that was worked out lies."""
    if column.known is None:
        return [repr(v) for v in column.data.tolist()]
    return [list(decimal_interval(v, DIGITS)) if isinstance(v, arb) and not v.is_exact() else _number(v) for v in column.known]


def _number(v: Any) -> str:
    return str(number_of(v)) if isinstance(v, arb) else str(v)


__all__ = ["kept", "prove_curve", "prove_fit"]
