"""How a run ends that did not end by itself, in the words of its last event."""

from __future__ import annotations

import os

from ..core.record.events import FailedEvent

WAIT_S = float(os.environ.get("OPEN_LEMMA_WAIT_SECONDS", "120"))  # for room, before a run is given up
INTERRUPTED = FailedEvent(
    reason="interrupted", text="the run was interrupted: what worked it ended; nothing else is lost, run it again"
).as_record()
TOO_BUSY = FailedEvent(
    reason="busy", text=f"the server was too busy for {WAIT_S:g} s to begin this; nothing is lost, run it again"
).as_record()
STOPPED = FailedEvent(reason="stopped", text="the run was stopped").as_record()
