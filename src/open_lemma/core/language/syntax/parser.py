"""The front door of the language: text → tree with messages."""

from __future__ import annotations

from dataclasses import dataclass

from .. import tree
from ..builtins import Builtins
from ..messages import Message, Messages, advise
from ..source import Source
from .statements import StatementReader
from .tokens import TooLong

MAX_SCRIPT_CHARACTERS = 200_000


@dataclass(frozen=True, slots=True)
class Reading:
    source: Source
    script: tree.Script
    messages: Messages


def parse(text: str, builtins: Builtins) -> Reading:
    """Read a script; every statement that could be read is in the tree, every mistake in the messages.

    Never raises for any text. Line ends may be LF or CRLF; offsets refer to the text as given.
    """
    source = Source(text)
    if len(text) > MAX_SCRIPT_CHARACTERS:
        return _too_long(source, f"{MAX_SCRIPT_CHARACTERS} characters; this one has {len(text)}")
    try:
        reader = StatementReader(source, builtins)
    except TooLong as most:
        return _too_long(source, f"{most}; long data belong in a table")
    script = reader.script()
    return Reading(source, script, reader.messages)


def _too_long(source: Source, most: str) -> Reading:
    messages = Messages(source)
    messages.add(Message("error", "too-long", 0, 1, f"a script has at most {most}", (advise("split it into several folios"),)))
    return Reading(source, tree.Script(0, len(source.text), ()), messages)
