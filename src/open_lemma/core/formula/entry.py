"""The record of one function, operator or constant: its four readings and what the handbook says of it."""

from __future__ import annotations

import operator
import pickle
import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from .nodes import Formula

Category = Literal[
    "operator", "condition", "defined", "constant", "elementary", "special", "rounding", "waveform", "list", "random", "interpolated"
]  # fmt: skip


@dataclass(frozen=True, eq=False, slots=True)
class Entry:
    """One line of the catalogue.

    numeric    float arrays of one shape → float array of that shape; NaN where there is no real value
    ball       real balls → a real ball that holds every value on them (see `ball.py` for the promises)
    exact      (the SymPy module, SymPy expressions) → SymPy expression
    typeset    LaTeX of the arguments → LaTeX; `None` means the name in upright letters with brackets
    derivative for each argument a function from the arguments to the partial derivative
    scalar     single numbers (doubles, or exact quotients) → a number; where it is not given `numeric` stands in
    expansion  the same thing in terms of other entries; stands in for readings that are not given
    """

    name: str
    category: Category
    arity: tuple[int, int]
    help: str
    example: str
    domain: str = "all real numbers"
    numeric: Callable[..., Any] | None = None
    ball: Callable[..., Any] | None = None
    exact: Callable[..., Any] | None = None
    typeset: Callable[..., str] | None = None
    derivative: tuple[Callable[..., Formula], ...] | None = None
    expansion: Callable[..., Formula] | None = None
    scalar: Callable[..., Any] | None = None
    values: Callable[..., Any] | None = None  # for functions of lists: lists → number or list
    protected: bool = True
    available: bool = True
    words: str = ""  # the idea in common words, for the handbook's search
    source: Any = None  # of a function that data gave: what it is made from, with an attribute `entry`

    def __reduce__(self) -> tuple[Any, ...]:
        from .catalogue import entry_of

        if self.source is not None:
            return operator.attrgetter("entry"), (self.source,)
        if self.category == "defined":
            raise pickle.PicklingError(f"{self.name} belongs to the script that defines it")
        return entry_of, (self.name,)


def brackets(inner: str) -> str:
    """Round brackets, grown only around what is taller than a line; grown ones would stand off from the name before them."""
    return rf"\mathopen{{}}\left({inner}\right)" if re.search(r"\\frac|\\sqrt|\\left|\\begin", inner) else f"({inner})"
