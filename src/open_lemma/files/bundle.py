"""A table on its way from the store to whoever works with it: columns as they are kept, still compressed, and the recipe.

A bundle is the length of its head (four bytes), the head in JSON, then each column's bytes. Nothing is unpacked where it is made;
`opening.py` takes it apart.
"""

from __future__ import annotations

import json
import struct
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

LENGTH = struct.Struct("<I")


@dataclass(frozen=True, slots=True)
class StoredColumn:
    """kind: number, text or uncertain. data: compressed. bad: cells that could not be read, as JSON."""

    kind: str
    data: bytes
    bad: str
    bad_count: int


def places_of(recipe: dict[str, Any], wanted: frozenset[str] | None) -> list[int]:
    """Where the columns of these names stand among those that the recipe keeps, from 1; what is computed may rest on any of them."""
    kept = [c["name"] for c in recipe.get("columns", []) if c.get("kept", True)]
    return [k for k, name in enumerate(kept, 1) if wanted is None or recipe.get("computed") or name in wanted]


def bundle(columns: Mapping[int, StoredColumn], recipe: dict[str, Any], fingerprint: str, rows: int) -> bytes:
    """Columns by their places, from 1, among those that the recipe keeps."""
    heads, bodies = [], []
    for place, column in sorted(columns.items()):
        heads.append({"place": place - 1, "kind": column.kind, "bad": column.bad, "bad_count": column.bad_count, "size": len(column.data)})
        bodies.append(column.data)
    head = json.dumps({"columns": heads, "recipe": recipe, "fingerprint": fingerprint, "rows": rows}).encode()
    return b"".join([LENGTH.pack(len(head)), head, *bodies])
