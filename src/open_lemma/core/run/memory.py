"""Results of statements, kept from one run of a folio to the next.

A statement is worked out again only if its text changed or something that it rests on did. What it rests on is known by
names: each name carries the fingerprint of the statement that gave it its value, and so, through it, of all before.
"""

from __future__ import annotations

import copy
import hashlib
import pickle
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

from ... import __version__
from ..language import tree
from ..language.messages import Message

WORTH_S = 0.002  # what took less is quicker worked out than kept
MAX_BYTES = 24_000_000


@dataclass
class Remembered:
    """What came of one statement; lines, places and numbers count from its own beginning."""

    names: dict[str, Any]
    findings: list[Any]
    figures: list[Any]
    readings: list[dict[str, Any]]
    messages: list[Message]


@dataclass
class Memory:
    """kept: results of the run before by fingerprint, pickled. `fresh` collects those of this run."""

    clock: Callable[[], float]  # seconds; the core itself has none
    kept: dict[str, bytes] = field(default_factory=dict)
    fresh: dict[str, Any] = field(default_factory=dict)
    tables: dict[str, str] = field(default_factory=dict)  # fingerprints of the files at hand
    marks: dict[str, str] = field(default_factory=dict)
    current: str = ""
    begun: float = 0.0

    def recall(self, statement: tree.Statement, text: str, more: tuple[int, ...] = ()) -> Remembered | None:
        """What is known of a statement, if nothing that it rests on has changed; `more` is what else it rests on."""
        rests_on = [(n, self.marks.get(n, "")) for n in sorted(tree.free_names(statement))]
        file = statement.file if isinstance(statement, tree.Table) else None
        said = (__version__, text[statement.start : statement.end], rests_on, more, file and self.tables.get(file))
        self.current = hashlib.sha256(repr(said).encode("utf-8", "surrogatepass")).hexdigest()
        for name in tree.defined_names(statement):
            self.marks[name] = f"{self.current} {name}"
        self.begun = self.clock()
        data = self.kept.get(self.current)
        if data is None:
            return None
        try:
            found = pickle.loads(data)
        except (pickle.UnpicklingError, AttributeError, KeyError, TypeError, EOFError):
            return None  # kept by another version of this program: it is worked out anew
        if not isinstance(found, Remembered):
            return None
        self.fresh[self.current] = data
        return found

    def lose(self, statement: tree.Statement) -> None:
        for name in tree.defined_names(statement):
            self.marks[name] = "lost"

    def keep(
        self, statement: tree.Statement, first: int, number: int, names: dict[str, Any], findings: list[Any], figures: list[Any],
        readings: list[dict[str, Any]], messages: list[Message],
    ) -> None:  # fmt: skip
        """Keep what came of the statement that was asked for last, if that took its time."""
        if self.clock() - self.begun < WORTH_S and not figures:
            return
        shift = statement.start
        self.fresh[self.current] = Remembered(
            names,
            [replace(f, line=f.line - first, number=f.number - number) for f in findings],
            [(f, first) for f in figures],
            [{**r, "line": r["line"] - first} for r in readings],
            [m.shifted(-shift) for m in messages],
        )

    def packed(self) -> dict[str, bytes]:
        """What is worth keeping for the next run; figures are packed last, so that their drawings are kept too."""
        found: dict[str, bytes] = {}
        size = 0
        for mark, kept in self.fresh.items():
            if isinstance(kept, bytes):
                data = kept
            else:
                try:
                    data = pickle.dumps(replace(kept, figures=[_from_first(f, first) for f, first in kept.figures]))
                except (pickle.PicklingError, AttributeError, TypeError):
                    continue  # a value that holds a block of the script: it is worked out anew
            size += len(data)
            if size <= MAX_BYTES:
                found[mark] = data
        return found


def _from_first(figure: Any, first: int) -> Any:
    data = copy.deepcopy(figure.data)
    data.shift(-first)
    return replace(figure, data=data, notes=[replace(n, line=n.line - first) for n in figure.notes])
