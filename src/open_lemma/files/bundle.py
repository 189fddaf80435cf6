"""A table on its way from the store to whoever works with it: columns as they are kept, still compressed, and the recipe.

A bundle is the length of its head (four bytes), the head in JSON, then each column's bytes. Nothing is unpacked where it is made;
`opening.py` takes it apart.
"""

from __future__ import annotations

import json
import struct
from collections.abc import Sequence
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


def bundle(
    columns: Sequence[StoredColumn], recipe: dict[str, Any], fingerprint: str, rows: int, wanted: frozenset[str] | None = None
) -> bytes:  # fmt: skip
    """Columns in the order of those that the recipe keeps; of a script only those that it names (`wanted`)."""
    kept = [c for c in recipe.get("columns", []) if c.get("kept", True)]
    # What is computed may rest on any column.
    chosen = None if recipe.get("computed") else wanted
    heads, bodies = [], []
    for place, (column, said) in enumerate(zip(columns, kept, strict=False)):
        if chosen is None or said["name"] in chosen:
            heads.append({"place": place, "kind": column.kind, "bad": column.bad, "bad_count": column.bad_count, "size": len(column.data)})
            bodies.append(column.data)
    head = json.dumps({"columns": heads, "recipe": recipe, "fingerprint": fingerprint, "rows": rows}).encode()
    return b"".join([LENGTH.pack(len(head)), head, *bodies])
