"""Certificates of limits: the first rule that tells the limit from each side."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from ...certificate.cover import Unproven
from ...certificate.exact import NoExactNumber
from ...certificate.functions import BadProgram
from ...certificate.limits import limit_of
from ...formula.nodes import Formula
from .covers import Json, end_of
from .strict import NotPlain, Places, spot_of

REACHES = (10, 2**20, 2**400)  # from where on an exponent is asked far out
NEAR = (8, 40, 200)  # powers of 1/2 of what is claimed around a place


def prove_limit(formula: Formula, variable: str, place: Formula, sides: tuple[int, ...]) -> list[tuple[Json, Any] | None]:
    """For each side the certificate of the limit there, and the limit: an exact number, a ball, 1 or -1, or NOWHERE where there is no value
    on that side; None where there is no certificate."""
    try:
        places = Places(formula, variable)
        at = end_of(place)
    except NotPlain:
        return [None] * len(sides)
    said = {"claim": "limit", "formula": places.program, "variable": variable, "at": at}
    found: list[tuple[Json, Any] | None] = []
    for side in sides:
        told = None
        for way in _ways(places, place, at, side):
            try:
                told = {**said, "sides": [way]}, limit_of(said, way)
                break
            except (Unproven, NoExactNumber, BadProgram):
                continue
        found.append(told)
    return found


def _ways(places: Places, place: Formula, at: Any, side: int) -> Iterator[Json]:
    if isinstance(at, str):
        yield {"side": side, "rule": "rules", "from": str(REACHES[1])}
        yield {"side": side, "rule": "nowhere", "from": str(REACHES[1])}
        for reach in REACHES[:2]:
            yield {"side": side, "rule": "series", "from": str(reach)}
        for reach in REACHES:
            yield {"side": side, "rule": "growth", "from": str(reach)}
        return
    is_at, known, ends = places.identity(spot_of(place), at)
    for power in NEAR:
        step = Fraction(1, 2**power)
        near = [str((ends[0] // step) * step - step), str(-((-ends[1]) // step) * step + step)]
        point = {"is": is_at, "at": [str(v) for v in ends], "near": near, "known": known, "value": "?"}
        if power < NEAR[-1]:
            yield {"side": side, "rule": "continuous", "point": point}
            yield {"side": side, "rule": "series", "point": point}
            yield {"side": side, "rule": "nowhere", "point": point}
            yield {"side": side, "rule": "rules", "point": point}
        yield {"side": side, "rule": "growth", "point": point}


__all__ = ["prove_limit"]
