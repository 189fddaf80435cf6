"""Kinds: what a value will be, before anything is worked out."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

# "items" is a list of other things than numbers; of "any" nothing is known before the script runs.
Kind = Literal["number", "list", "items", "text", "truth", "point", "table", "function", "finding", "any", "broken"]


WORDS: dict[Kind, str] = {
    "number": "a number", "list": "a list", "items": "a list of other things than numbers", "text": "a text", "truth": "true or false",
    "point": "a point", "table": "a table", "function": "a function", "finding": "a finding",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Known:
    """What is known of a name: its kind, for functions the variables, the domain and whether a formula is behind it."""

    kind: Kind
    line: int
    parameters: tuple[str, ...] = ()
    has_domain: bool = False
    defined: bool = False  # by a block: it has values only
    length: int | None = None  # of a list, where it can be seen
    columns: tuple[str, ...] | None = None  # of a table, where they can be seen
    parts: tuple[str, ...] = ()  # of a function that data gave: what it has by name
    from_data: bool = False
    fitted: bool = False


@dataclass
class Scope:
    """Names that are known at a place. In a `block` (of a loop, an `if`) names from outside can be given new values."""

    names: dict[str, Known] = field(default_factory=dict)
    outer: Scope | None = None
    block: bool = False

    def home(self, name: str) -> Scope:
        """The scope in which a statement here gives the name a value: where it has one, as far as blocks reach; else here."""
        scope = self
        while scope.block and name not in scope.names and scope.outer is not None:
            scope = scope.outer
        return scope if name in scope.names else self

    def find(self, name: str) -> Known | None:
        """What is known of a name here or around; None where nothing is."""
        scope: Scope | None = self
        while scope is not None:
            if name in scope.names:
                return scope.names[name]
            scope = scope.outer
        return None

    def all_names(self) -> set[str]:
        return set(self.names) | (self.outer.all_names() if self.outer else set())


NUMBER = Known("number", 0)


ANY = Known("any", 0)
