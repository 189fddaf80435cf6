"""The demo folios of the scenario, put on the shelf once."""

from __future__ import annotations

import json
from pathlib import Path

from ..core.editing.uses import columns_used
from ..core.formula.catalogue import BUILTINS
from ..engine.local import Event
from ..store import folios as store
from ..store.tables import put_table
from ..web.runs import keep
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


def load_demo(services: Services, folder: Path = FOLDER) -> bool:
    """Load the demo folios and run each, so that it has its figures; False where all that was done before."""
    with services.session() as session:
        fresh = [f for f in FOLIOS if not store.is_marked(session, f[0])]
        if not fresh:
            return False
        owner = store.local_owner(session)
        made = []
        for _, title, name, group in fresh:
            script = (folder / name).read_text(encoding="utf-8")
            folio = store.create(session, owner, title, script, group)
            for table in columns_used(script, BUILTINS):
                found, columns = read_whole(services, str(folder / table), table, "")
                put_table(session, folio.id, table, (folder / table).read_bytes(), json.dumps(found["recipe"]), found["rows"], columns)
            made.append((folio.id, store.latest_revision(session, folio.id).id, script, tables_for(services, session, folio.id, script)))
        for mark in {f[0] for f in fresh}:
            store.set_mark(session, mark)
    for folio_id, revision_id, script, tables in made:
        for _ in range(TRIES):
            if _run(services, folio_id, revision_id, script, tables):
                break
    return True


def _run(services: Services, folio_id: int, revision_id: int, script: str, tables: dict[str, str]) -> bool:
    """Run a folio and keep its record; False, and nothing is kept, where a fault of ours is in it: nobody shall meet that first."""
    whole = True

    def kept(last: Event, events: list[Event]) -> Event:
        nonlocal whole
        whole = not (last["event"] == "done" and any(m["code"] == "internal" for m in last["record"]["messages"]))
        return keep(services, folio_id, revision_id, last, events) if whole else last

    for _ in services.engine.run(script, kept, tables=tables).listen():
        pass
    return whole
