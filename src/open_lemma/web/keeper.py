"""Runs that have ended, made records of: a thread of each web process takes them from the engine one after the other."""

from __future__ import annotations

import logging
import threading
import time
from typing import Any

from ..core.record.events import FailedEvent
from ..engine.asking import Claim, Claimed, EngineAway, Event
from ..store import folios as store
from ..store.database import Database, DatabaseAway
from .metrics import KEPT
from .services import Services

log = logging.getLogger("open_lemma.keeper")

WAIT_S = 5.0
PATIENCE_S = 18.0  # with a database that is away, before somebody is told that the record could not be kept


def keep(database: Database, claimed: Claimed) -> Event:
    """Keep what a run gave as a record; the run's last event with the record's number."""
    figures = [store.DrawnFile(e["figure"]["name"], e["svg"], e["data"]) for e in claimed.figures]
    with database.session() as session:
        kept = store.keep_record(
            session, claimed.keep["folio"], claimed.keep["revision"], claimed.last["record"], figures, claimed.run
        )  # fmt: skip
        same = {} if kept.same_as is None else {"same_as": kept.same_as}  # what may be missing is never null
        return {**claimed.last, "record_id": kept.id, "number": kept.number, **same}


def _not_kept(text: str, reason: str = "store") -> Event:
    return FailedEvent(reason=reason, text=f"the run is done, but its record could not be kept: {text}; run it again").as_record()


class Keeper:
    def __init__(self, services: Services) -> None:
        self.services = services
        self.ending = threading.Event()
        self.thread = threading.Thread(target=self._work, daemon=True, name="keeper")

    def start(self) -> None:
        self.thread.start()

    def stop(self) -> None:
        self.ending.set()

    def _work(self) -> None:
        while not self.ending.is_set():
            try:
                claim = self.services.engine.claim(WAIT_S)
            except EngineAway:
                self.ending.wait(0.2)
                continue
            except Exception:
                log.exception("a run could not be claimed")
                self.ending.wait(1.0)
                continue
            if claim is not None:
                self._take(claim)

    def _take(self, claim: Claim) -> None:
        deadline = time.monotonic() + PATIENCE_S
        try:
            while True:
                try:
                    last: dict[str, Any] = keep(self.services.database, claim.claimed)
                except DatabaseAway as trouble:
                    if trouble.code == "database-away" and time.monotonic() < deadline and not self.ending.wait(0.3):
                        continue
                    last = _not_kept(str(trouble), trouble.code)
                except store.NotFound:
                    last = _not_kept("its folio is gone")
                except Exception:
                    log.exception("a record could not be kept", extra={"run": claim.claimed.run})
                    last = _not_kept("that is our fault")
                KEPT.labels(last["event"]).inc()
                claim.kept(last)
                return
        finally:
            claim.close()
