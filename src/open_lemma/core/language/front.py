"""A script read and checked, and what cannot be read answered by what was wanted."""

from __future__ import annotations

from .builtins import Builtins
from .checking.checker import check
from .checking.kinds import Scope
from .intent.hints import hint
from .intent.meet import meet
from .syntax.parser import Reading, parse


def read(text: str, builtins: Builtins) -> tuple[Reading, set[int]]:
    """Parse and check; the second value holds the start offsets of the statements that are not to be run."""
    reading, scope = parse(text, builtins), Scope()
    broken = check(reading, builtins, scope)
    if reading.messages.has_errors():
        meet(reading, builtins, scope)
    hint(reading)
    return reading, broken
