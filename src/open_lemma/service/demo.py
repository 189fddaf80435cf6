"""The demo folios of the scenario, put on the shelf once: `python -m open_lemma.service.demo`."""

from __future__ import annotations

import json
import os
import secrets
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from ..engine.asking import Engine
from ..engine.at import engine_at
from ..engine.protocol import Job
from ..store import folios as store
from ..store.database import Database
from ..store.tables import put_table
from ..web.keeper import Claimed, keep
from ..web.services import Services
from ..web.table_loading import read_whole, tables_for

FOLDER = Path(__file__).resolve().parents[3] / "demo"
_ONE, _DATA, _SPACE, _PRINT = "One function", "Measurements and fits", "Surfaces", "Loops and figures for print"
# Each with the mark that it leaves in the store and what it shows; the last one loaded stands first on the shelf.
FOLIOS = (
    ("demo-8", "A day at the weir", "weir-report.lemma", _DATA),
    ("demo-7", "A gallery of surfaces", "gallery-surfaces.lemma", _SPACE),
    ("demo-7", "The pond bed", "pond-bed.lemma", _SPACE),
    ("demo-5", "The moored float", "moored-float.lemma", _DATA),
    ("demo-5", "Emptying the pond", "emptying-pond.lemma", _DATA),
    ("demo-5", "Tides from the gauge", "tides-gauge.lemma", _DATA),
    ("demo-3", "Figures from the field book", "field-book.lemma", _PRINT),
    ("demo-3", "Tides at the sill", "tides-sill.lemma", _DATA),
    ("demo-3", "Rating the weir", "rating-weir.lemma", _DATA),
    ("demo-4", "Quiet water", "quiet-water.lemma", _ONE),
    ("demo-1", "Waveforms for the wave paddle", "wave-paddle.lemma", _ONE),
    ("demo-2", "Steps in the fish ladder", "fish-ladder.lemma", _PRINT),
    ("demo-1", "Alternate depths", "alternate-depths.lemma", _ONE),
)


TRIES = 2  # of a folio whose record has a fault of ours
AT_ONCE = 3


def is_loaded(database: Database) -> bool:
    """Whether all demo folios were loaded before, kept or not."""
    with database.session() as session:
        return all(store.is_marked(session, f[0]) for f in FOLIOS)


def load_demo(services: Services, folder: Path = FOLDER) -> bool:
    """Load the demo folios and run each, so that it has its figures; False where all that was done before."""
    with services.session() as session:
        fresh = [f for f in FOLIOS if not store.is_marked(session, f[0])]
    if not fresh:
        return False
    # What the engine reads first: no session is held meanwhile.
    scripts, uses, read = {}, {}, {}
    for _, title, name, _ in fresh:
        scripts[title] = (folder / name).read_text(encoding="utf-8")
        uses[title] = list(services.engine.quick("uses", script=scripts[title])["uses"])
        for table in uses[title]:
            if table not in read:
                read[table] = read_whole(services, str(folder / table), table, "")
    made = []
    with services.session() as session:
        owner = store.local_owner(session)
        for _, title, _, group in fresh:
            folio = store.create(session, owner, title, scripts[title], group)
            for table in uses[title]:
                found, columns = read[table]
                with (folder / table).open("rb") as file:
                    put_table(session, folio.id, table, file, json.dumps(found["recipe"]), found["rows"], columns)
            made.append((folio.id, store.latest_revision(session, folio.id).id, scripts[title]))
        for mark in {f[0] for f in fresh}:
            store.set_mark(session, mark)
    with ThreadPoolExecutor(AT_ONCE) as pool:
        list(pool.map(lambda m: any(run_once(services, *m) for _ in range(TRIES)), made))
    return True


def run_once(services: Services, folio_id: int, revision_id: int, script: str) -> bool:
    """Run a folio and keep its record; False, and nothing is kept, where a fault of ours is in it: nobody shall meet that first."""
    engine: Engine = services.engine
    tables = tables_for(services, folio_id, script)
    figures = []
    for event in engine.follow(Job("run", engine.limits, {"script": script}, tables), f"demo {folio_id}"):
        if event["event"] == "figure":
            figures.append(event)
        elif event["event"] == "done" and not any(m["code"] == "internal" for m in event["record"]["messages"]):
            claimed = Claimed(secrets.token_urlsafe(12), {"folio": folio_id, "revision": revision_id}, figures, event)
            keep(services.database, claimed)
            return True
    return False


def main() -> None:
    services = Services(Database(os.environ["DATABASE_URL"]), engine_at(os.environ["OPEN_LEMMA_ENGINE"]))
    load_demo(services)


if __name__ == "__main__":
    main()
