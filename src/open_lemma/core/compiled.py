"""Loops that are compiled to machine code (Numba), and where what was compiled is kept."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from numba import njit
from numba.core.caching import NullCache

_ALL: list[Any] = []
_kept = True


def compiled(function: Callable[..., Any]) -> Any:
    """Compile a function of arrays and numbers when it is first called; what was compiled is kept beside its file for later processes."""
    made = njit(cache=_kept, nogil=True)(function)
    _ALL.append(made)
    return made


def keep_no_more() -> None:
    """From here on nothing that is compiled is kept, in this process and in those forked from it.

    For processes that may not write files: where Numba cannot keep what it compiled, the call fails with an OSError.
    """
    global _kept
    _kept = False
    for function in _ALL:
        function._cache = NullCache()
