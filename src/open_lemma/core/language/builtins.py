"""What the language must know of the catalogue of functions."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Protocol


class Builtins(Protocol):
    """What the language must know of the catalogue; the catalogue itself comes later in the sentence."""

    def is_function(self, name: str) -> bool: ...

    def is_constant(self, name: str) -> bool: ...

    def is_protected(self, name: str) -> bool: ...

    def arity(self, name: str) -> tuple[int, int]:
        """Least and greatest number of arguments of a function."""
        ...

    def is_available(self, name: str) -> bool: ...

    def names(self) -> Iterable[str]: ...
