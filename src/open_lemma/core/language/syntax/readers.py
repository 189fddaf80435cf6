"""Which word begins a statement, what must follow it so that it can be nothing else, and what reads it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from .. import tree
from ..vocabulary.names import RESERVED
from . import blocks, definitions, figures, shown, tables
from .tokens import Kind, Token

if TYPE_CHECKING:
    from .statements import StatementReader


@dataclass(frozen=True)
class WordReader:
    """How a statement that begins with a word is read.

    always  whatever follows
    words   the word follows one of these, and then one of `then`
    value   a name, a text or a number follows
    signs   one of these signs follows
    alone   nothing follows
    """

    read: Callable[[StatementReader], tree.Statement]
    always: bool = False
    words: tuple[str, ...] = ()
    then: tuple[str, ...] = ()
    value: bool = False
    signs: tuple[str, ...] = ()
    alone: bool = False

    def begins(self, reader: StatementReader, following: Token) -> bool:
        """Whether the word that stands here begins the statement; a name may be spelled the same."""
        if self.always:
            return True
        if self.words and following.is_word(*self.words):
            return not self.then or reader.ahead(2).is_word(*self.then)
        if self.value and following.kind in (Kind.NAME, Kind.TEXT, Kind.NUMBER) and following.text not in RESERVED:
            return True
        if self.alone and reader.at_line_end(following):
            return True
        return following.is_sign(*self.signs) and not (following.is_sign("(") and following.glued)


_OPEN = '"'  # a quote that is not closed: its own mistake is told where the text is read
READERS: dict[str, WordReader] = {
    "show": WordReader(shown.show, always=True),
    "check": WordReader(shown.check, always=True),
    "return": WordReader(blocks.return_, always=True),
    "if": WordReader(blocks.if_, always=True),
    "for": WordReader(blocks.for_, always=True),
    "while": WordReader(blocks.while_, always=True),
    "define": WordReader(blocks.define, always=True),
    **dict.fromkeys(("x", "y", "z", "right", "colour"), WordReader(figures.axis, words=("axis",))),
    "true": WordReader(figures.true_scale, words=("scale",)),
    "shared": WordReader(figures.shared, words=("x", "y"), then=("axis",)),
    "line": WordReader(figures.line, words=("from", "horizontal", "vertical")),
    "part": WordReader(tables.part, value=True, signs=(_OPEN,)),
    "note": WordReader(tables.note, value=True, signs=(":", ",", _OPEN)),
    "table": WordReader(tables.table, value=True),
    "tune": WordReader(definitions.tune, value=True),
    "compare": WordReader(shown.compare, value=True),
    "legend": WordReader(figures.legend, words=("at",), value=True, signs=(",",), alone=True),
    "gridlines": WordReader(figures.gridlines, value=True),
    "size": WordReader(figures.size, value=True),
    "view": WordReader(figures.view, value=True),
    "no": WordReader(figures.without, value=True),
    "text": WordReader(figures.text_at, value=True, signs=(_OPEN,)),
    "mark": WordReader(figures.mark, value=True, signs=("(",)),
    "figure": WordReader(figures.figure, value=True, signs=(":", ",", _OPEN), alone=True),
    "panel": WordReader(figures.panel, value=True, signs=(":", ",", _OPEN), alone=True),
    "inset": WordReader(figures.inset, words=("at",), value=True, signs=(":", ",")),
    "style": WordReader(figures.style, value=True),
    "title": WordReader(figures.heading, value=True, signs=(_OPEN,)),
    "caption": WordReader(figures.heading, value=True, signs=(_OPEN,)),
    "decimal": WordReader(figures.decimal, value=True),
}
