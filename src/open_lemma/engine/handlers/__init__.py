"""What each kind of job does, by the name of the kind: given a job and where its events go, the last event."""

from __future__ import annotations

from . import figures, proofs, runs, scripts, tables
from .handler import Handler, NotDone

HANDLERS: dict[str, Handler] = {**runs.HANDLERS, **figures.HANDLERS, **scripts.HANDLERS, **tables.HANDLERS, **proofs.HANDLERS}

__all__ = ["HANDLERS", "Handler", "NotDone"]
