"""The state of the loops and calls that are open."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

NOTHING: Any = object()  # no `return` was met


@dataclass
class LoopState:
    """Where the loops and calls are.

    passes  variables of the open loops with where they are, NOTHING before the first pass
    calls   names of the `define` functions that are open, the innermost last
    moving  names whose values the open blocks may change
    depth   blocks that are open
    quick   fast readings of expressions, by the identity of the expression
    moved   names that each block changes
    share   how much of the outermost loop is done, where that is known
    """

    passes: list[tuple[str, Any]] = field(default_factory=list)
    calls: list[str] = field(default_factory=list)
    moving: frozenset[str] = frozenset()
    depth: int = 0
    quick: dict[int, Any] = field(default_factory=dict)
    moved: dict[int, frozenset[str]] = field(default_factory=dict)
    share: float | None = None

    def clear(self) -> None:
        """Nothing is open."""
        self.passes.clear()
        self.calls.clear()
        self.moving, self.depth, self.share = frozenset(), 0, None
