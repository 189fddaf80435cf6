"""What names stand for while a script runs."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from ..formula.nodes import Formula
from ..numerics.evidence import Evidence


@dataclass(frozen=True, slots=True)
class Scalar:
    """A number with the formula it came from, so that it stays exact where a formula is solved or proven."""

    formula: Formula
    value: float
    exact: Fraction | None
    interval: tuple[str, str] | None
    proven: bool


@dataclass(frozen=True, slots=True, eq=False)
class ListValue:
    """A list of numbers, shape (n,)."""

    data: Any


@dataclass(frozen=True, slots=True)
class TextValue:
    text: str


@dataclass(frozen=True, slots=True)
class TruthValue:
    """True or false, and whether that is proven or rests on floating-point numbers."""

    truth: bool
    proven: bool


@dataclass(frozen=True, slots=True)
class FunctionValue:
    name: str
    parameters: tuple[str, ...]
    body: Formula
    domain: dict[str, tuple[Formula, Formula]]


@dataclass(frozen=True, slots=True)
class FoundPlace:
    value: float
    interval: tuple[str, str] | None
    evidence: Evidence


@dataclass(frozen=True, slots=True)
class FindingValue:
    """What a request found: a number where it is one, a list where there are several."""

    noun: str
    places: tuple[FoundPlace, ...]


Value = Scalar | ListValue | TextValue | TruthValue | FunctionValue | FindingValue
