"""From the classes of the record to plain data, by one rule.

A field without a default is always written, `null` where it has no value; a field with a default is written only where it differs from
it. What a field is called in the record may be said in its metadata (`name`), and a mapping may be spread among the other fields
(`spread`), where its keys are names that a script gave.
"""

from __future__ import annotations

from dataclasses import MISSING, Field, field, fields, is_dataclass
from functools import cache
from typing import Any

Json = Any  # null, true, false, numbers, texts, lists and mappings of these: what a file of JSON holds


def spread(description: str) -> Any:
    """A mapping whose entries stand beside the other fields."""
    return field(metadata={"spread": True, "description": description})


def named(name: str, default: Any = None) -> Any:
    """A field that is called otherwise in the record: a word that Python keeps for itself."""
    return field(default=default, metadata={"name": name})


def taken_over(value: Any, of: type | None = None) -> dict[str, Any]:
    """The fields of a dataclass by their names, or those that one of its bases has, for making another of them."""
    return {f.name: getattr(value, f.name) for f in fields(of or value)}


@cache
def _fields(of: type) -> tuple[tuple[Field[Any], str, Any], ...]:
    found = []
    for f in fields(of):
        default = f.default if f.default_factory is MISSING else f.default_factory()
        found.append((f, f.metadata.get("name", f.name), default))
    return tuple(found)


def plain(value: Any) -> Json:
    """The value as plain data: mappings, lists, texts, numbers, truth, null."""
    if is_dataclass(value) and not isinstance(value, type):
        found: dict[str, Json] = {}
        for f, name, default in _fields(type(value)):
            inner = getattr(value, f.name)
            if default is not MISSING and (inner is default or inner == default):
                continue
            if "spread" in f.metadata:
                found.update(plain(inner))
            else:
                found[name] = plain(inner)
        return found
    if isinstance(value, dict):
        return {k: plain(v) for k, v in value.items()}
    if isinstance(value, list | tuple):
        return [plain(v) for v in value]
    return value
