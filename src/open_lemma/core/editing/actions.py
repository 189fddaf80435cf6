"""What is done by hand, as edits of the script: the smallest that say it, in the statement that they belong to.

An edit never moves other lines' text; what is new in a figure is put at the end of its block, and a drawing that stands alone becomes a
block when it needs one. Each kind of action is a class; its fields are what the page says of it.
"""

from __future__ import annotations

import types
from collections.abc import Callable, Iterable
from dataclasses import MISSING, dataclass, fields
from math import isfinite
from typing import Any, TypeVar, Union, get_args, get_origin, get_type_hints

from ..language.builtins import Builtins
from ..language.messages import Edit
from .changes import NotInked, applied, differences
from .script import EditedScript


@dataclass(frozen=True, kw_only=True)
class Action:
    """One thing done by hand. line: of the statement that is meant; for what belongs to a window that of its panel or figure."""

    line: int

    def edits(self, script: EditedScript) -> list[Edit]:
        """The edits that it is. Raises NotInked where it cannot be written."""
        raise NotImplementedError


A = TypeVar("A", bound=type[Action])
ACTIONS: dict[str, type[Action]] = {}


def action(name: str) -> Callable[[A], A]:
    """The class of the actions that the page calls by this name."""

    def kept(of: A) -> A:
        assert name not in ACTIONS, name
        ACTIONS[name] = of
        return of

    return kept


def read_action(do: str, line: int, more: dict[str, Any]) -> Action:
    """The action that the page means. Raises NotInked where there is none of the kind, or what it says is missing or of another type."""
    kind = ACTIONS.get(do)
    if kind is None:
        raise NotInked(f"'{do}' is nothing that can be inked")
    hints = get_type_hints(kind)
    said: dict[str, Any] = {"line": line}
    for f in fields(kind):
        if f.name in more and f.name != "line":
            said[f.name] = _typed(more[f.name], hints[f.name], f.name)
        elif f.name not in said and f.default is MISSING and f.default_factory is MISSING:
            raise NotInked(f"what is to be inked is not said in full: '{f.name}' is missing")
    return kind(**said)


def _typed(value: Any, wanted: Any, name: str) -> Any:
    """A value of JSON as the type that a field has."""
    origin, parts = get_origin(wanted), get_args(wanted)
    if wanted is Any:
        return value
    if origin in (Union, types.UnionType):
        if value is None and type(None) in parts:
            return None
        exact = [p for p in parts if isinstance(p, type) and type(value) is p]
        return _typed(value, (exact or [p for p in parts if p is not type(None)])[0], name)
    if origin is list and isinstance(value, list | tuple):
        return [_typed(v, parts[0], name) for v in value]
    if origin is tuple and isinstance(value, list | tuple) and len(value) == len(parts):
        return tuple(_typed(v, p, name) for v, p in zip(value, parts, strict=True))
    if origin is dict and isinstance(value, dict):
        return {str(k): _typed(v, parts[1], name) for k, v in value.items()}
    plain = isinstance(value, wanted) if isinstance(wanted, type) else False
    if wanted is float and isinstance(value, int | float) and not isinstance(value, bool) and isfinite(value):
        return float(value)
    if plain and not (wanted is int and isinstance(value, bool)) and wanted is not float:
        return value
    if wanted is str and isinstance(value, int | float) and not isinstance(value, bool):
        return str(value)
    raise NotInked(f"'{name}' of what is to be inked cannot be {value!r:.60}")


def apply_actions(text: str, actions: Iterable[Action], builtins: Builtins) -> tuple[str, list[Edit]]:
    """The script after some actions, and the edits of the script as it was that make it so.

    Raises NotInked where one cannot be written; then nothing is changed.
    """
    before = text
    for one in actions:
        text = applied(text, one.edits(EditedScript(text, builtins)))
    return text, differences(before, text)
