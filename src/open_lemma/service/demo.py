"""The demo folios of the scenario, put on the shelf once."""

from __future__ import annotations

from pathlib import Path

from ..store import folios as store
from ..web.house import House
from ..web.runs import keep

FOLDER = Path(__file__).resolve().parents[3] / "demo"
# Each with the mark that it leaves in the store; the last one loaded stands first on the shelf.
FOLIOS = (
    ("demo-3", "Figures from the field book", "field-book.lemma"),
    ("demo-3", "Tides at the sill", "tides-sill.lemma"),
    ("demo-3", "Rating the weir", "rating-weir.lemma"),
    ("demo-4", "Quiet water", "quiet-water.lemma"),
    ("demo-1", "Waveforms for the wave paddle", "wave-paddle.lemma"),
    ("demo-2", "Steps in the fish ladder", "fish-ladder.lemma"),
    ("demo-1", "Alternate depths", "alternate-depths.lemma"),
)


def load_demo(house: House, folder: Path = FOLDER) -> bool:
    """Load the demo folios and run each, so that it has its figures; False where all that was done before."""
    with house.session() as session:
        fresh = [f for f in FOLIOS if not store.is_marked(session, f[0])]
        if not fresh:
            return False
        owner = store.local_owner(session)
        made = []
        for _, title, name in fresh:
            script = (folder / name).read_text(encoding="utf-8")
            folio = store.create(session, owner, title, script)
            made.append((folio.id, store.latest_revision(session, folio.id).id, script))
        for mark in {f[0] for f in fresh}:
            store.set_mark(session, mark)
    for folio_id, revision_id, script in made:
        run = house.engine.run(script, lambda last, events, f=folio_id, r=revision_id: keep(house, f, r, last, events))  # type: ignore[misc]
        for _ in run.listen():
            pass
    return True
