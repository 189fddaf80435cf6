"""The demo is kept as it should be met first: a record with a fault of ours is no part of it."""

from __future__ import annotations

from collections.abc import Iterator

from open_lemma.engine.asking import Event
from open_lemma.engine.local import LocalEngine
from open_lemma.engine.processes import Processes
from open_lemma.engine.protocol import Job
from open_lemma.service.demo import run_once
from open_lemma.store import folios as store
from open_lemma.store.database import Database
from open_lemma.web.services import Services


class FaultyEngine(LocalEngine):
    """An engine of whose runs the first so many have a fault of ours."""

    faulty = 0

    def follow(self, job: Job, who: str = "", key: str | None = None) -> Iterator[Event]:
        for event in super().follow(job, who, key):
            if event["event"] == "done" and self.faulty > 0:
                self.faulty -= 1
                event["record"]["messages"].append({"code": "internal", "severity": "error", "text": "our fault", "line": 1, "column": 1})
            yield event


def test_a_record_with_a_fault_of_ours_is_not_kept_as_the_demo(database: Database, processes: Processes) -> None:
    engine = FaultyEngine(processes.folder)
    services = Services(database, engine)
    with services.session() as session:
        folio = store.create(session, store.local_owner(session), "Quiet water", "show 1 + 1")
        folio_id, revision_id = folio.id, store.latest_revision(session, folio.id).id

    def records() -> int:
        with services.session() as session:
            return len(store.latest_records(session, folio_id))

    engine.faulty = 1
    assert not run_once(services, folio_id, revision_id, "show 1 + 1")
    assert records() == 0
    assert run_once(services, folio_id, revision_id, "show 1 + 1")
    assert records() == 1
