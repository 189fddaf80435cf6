"""Refusals: what ends the working out of one statement, with the place and a fix."""

from __future__ import annotations

from typing import Any

from ...language import tree
from ...language.messages import Message, Refused
from ..values import (
    DefinedFunction,
    FindingValue,
    FunctionValue,
    ItemsValue,
    ListValue,
    PointValue,
    Scalar,
    TableValue,
    TextValue,
    TruthValue,
    Value,
)


def refusal(code: str, text: str, node: tree.Node, *fixes: Any) -> Refused:
    return Refused(Message("error", code, node.start, node.end, text, tuple(fixes)))


def described(value: Value) -> str:
    """What a value is, for a sentence."""
    if isinstance(value, ListValue):
        return f"a list of {len(value.data)} numbers"
    if isinstance(value, ItemsValue):
        return f"a list of {len(value.items)} things"
    if isinstance(value, FindingValue):
        return f"a finding with {len(value.places)} values"
    names: dict[type, str] = {
        Scalar: "a number", TextValue: "a text", TruthValue: "true or false", PointValue: "a point", TableValue: "a table",
        FunctionValue: "a function", DefinedFunction: "a function",
    }  # fmt: skip
    return "a gap" if isinstance(value, Scalar) and value.gap else names[type(value)]
