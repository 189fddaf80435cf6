"""The demo folios of the scenario, put on the shelf once."""

from __future__ import annotations

from pathlib import Path

from ..store import folios as store
from ..web.house import House
from ..web.runs import keep

FOLDER = Path(__file__).resolve().parents[3] / "demo"
# The last one loaded stands first on the shelf.
FOLIOS = (("Waveforms for the wave paddle", "wave-paddle.lemma"), ("Alternate depths", "alternate-depths.lemma"))
MARK = "demo-1"


def load_demo(house: House, folder: Path = FOLDER) -> bool:
    """Load the demo folios and run each, so that it has its figures; False where that was done before."""
    with house.session() as session:
        if store.is_marked(session, MARK):
            return False
        owner = store.local_owner(session)
        made = []
        for title, name in FOLIOS:
            script = (folder / name).read_text(encoding="utf-8")
            folio = store.create(session, owner, title, script)
            made.append((folio.id, store.latest_revision(session, folio.id).id, script))
        store.set_mark(session, MARK)
    for folio_id, revision_id, script in made:
        run = house.engine.run(script, lambda last, events, f=folio_id, r=revision_id: keep(house, f, r, last, events))  # type: ignore[misc]
        for _ in run.listen():
            pass
    return True
