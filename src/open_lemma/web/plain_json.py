"""JSON as it comes in: nested within reason, so that whoever works with it need not think of depth."""

from __future__ import annotations

import json
from typing import Any

from flask.json.provider import DefaultJSONProvider

MOST_DEPTH = 100


def loads(text: str | bytes) -> Any:
    """Plain data from JSON. Raises ValueError where it is none, or lists and objects stand too deeply inside each other."""
    try:
        found = json.loads(text)
    except RecursionError:
        raise ValueError(f"more than {MOST_DEPTH} lists and objects stand inside each other") from None
    level = [found]
    for _ in range(MOST_DEPTH):
        level = [inner for outer in level for inner in _inside(outer)]
        if not level:
            return found
    raise ValueError(f"more than {MOST_DEPTH} lists and objects stand inside each other")


def _inside(outer: Any) -> Any:
    return outer.values() if isinstance(outer, dict) else outer if isinstance(outer, list) else ()


class PlainJson(DefaultJSONProvider):
    sort_keys = False

    def loads(self, s: str | bytes, **_: Any) -> Any:
        return loads(s)
