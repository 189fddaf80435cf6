"""The front door of the language: text → tree with messages."""

from __future__ import annotations

from dataclasses import dataclass

from . import tree
from .cursor import Builtins
from .messages import Messages
from .source import Source
from .statements import StatementReader

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
        messages = Messages(source)
        from .messages import Message, advise

        limit = f"a script has at most {MAX_SCRIPT_CHARACTERS} characters; this one has {len(text)}"
        messages.add(Message("error", "too-long", 0, 1, limit, (advise("split it into several folios"),)))
        return Reading(source, tree.Script(0, len(text), ()), messages)
    reader = StatementReader(source, builtins)
    script = reader.script()
    return Reading(source, script, reader.messages)
