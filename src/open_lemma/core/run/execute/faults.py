"""Faults of ours: told to whoever runs a script, else to the log."""

from __future__ import annotations

import logging
import traceback
from collections.abc import Callable

log = logging.getLogger("open_lemma.run")


# FindingDraft of a fault of ours: the exception, the line of the statement, and the statement's hash.
OnFault = Callable[[Exception, int, str], None]


def described_fault(trouble: Exception, line: int, digest: str) -> str:
    """A fault of ours for a log: its type and where in the program; never what it says, which may hold parts of the script."""
    steps = "".join(traceback.format_tb(trouble.__traceback__))
    return f"fault of ours: line {line}, statement {digest}: {type(trouble).__name__}\n{steps}"


def log_fault(trouble: Exception, line: int, digest: str) -> None:
    log.error(described_fault(trouble, line, digest))
