"""The store on a real MariaDB: versions, revisions, records, migrations."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import inspect, text
from sqlalchemy.exc import IntegrityError

from open_lemma.store import folios as store
from open_lemma.store.database import MIGRATIONS, Database
from open_lemma.store.models import Base, Revision, now


def body(value: float, duration: float = 0.1) -> dict[str, Any]:
    return {"schema": 1, "duration_s": duration, "findings": [{"number": 1, "values": [{"value": value}]}], "figures": []}


def made(database: Database, script: str = "show 1") -> int:
    with database.session() as session:
        return store.create(session, store.local_owner(session), "A folio", script).id


def test_migrations_give_the_shape_of_the_models(database: Database) -> None:
    found = inspect(database.engine)
    for table in Base.metadata.sorted_tables:
        columns = {c["name"]: c for c in found.get_columns(table.name)}
        assert set(columns) == {c.name for c in table.columns}
        for column in table.columns:
            assert columns[column.name]["nullable"] == column.nullable, (table.name, column.name)


def test_migrating_twice_and_back_and_forth(database_address: str) -> None:
    with Database(database_address).engine.connect() as connection:
        connection.execute(text("SELECT 1"))
    database = Database(database_address)
    database.migrate()
    database.migrate()
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    script = command.ScriptDirectory.from_config(config)
    assert len(script.get_heads()) == 1
    database.dispose()


def test_every_save_is_a_revision_and_the_same_text_is_none(database: Database) -> None:
    folio_id = made(database, "a = 1")
    with database.session() as session:
        owner = store.local_owner(session)
        folio = store.folio(session, owner, folio_id)
        first = folio.version
        store.save_script(session, folio, "a = 2", folio.version)
        store.save_script(session, folio, "a = 2", folio.version)
        assert folio.version == first + 1
        assert [r.script for r in session.query(Revision).filter_by(folio_id=folio_id).order_by(Revision.number)] == ["a = 1", "a = 2"]


def test_a_change_from_an_old_version_is_refused(database: Database) -> None:
    folio_id = made(database)
    with database.session() as session:
        folio = store.folio(session, store.local_owner(session), folio_id)
        version = folio.version
        store.rename(session, folio, "New", version)
        for change in (
            lambda: store.rename(session, folio, "Newer", version),
            lambda: store.save_script(session, folio, "other", version),
        ):
            with pytest.raises(store.Conflict):
                change()
        assert store.latest_revision(session, folio_id).script == "show 1"


def test_two_sessions_at_once_the_second_is_refused(database: Database) -> None:
    folio_id = made(database)
    with database.session() as one:
        mine = store.folio(one, store.local_owner(one), folio_id)
        version = mine.version
        with database.session() as two:
            store.save_script(two, store.folio(two, store.local_owner(two), folio_id), "theirs", version)
        with pytest.raises(store.Conflict):
            store.save_script(one, mine, "mine", version)
    with database.session() as session:
        assert store.latest_revision(session, folio_id).script == "theirs"


CHANGES = {
    "rename": lambda session, folio, version: store.rename(session, folio, "Mine", version),
    "save": lambda session, folio, version: store.save_script(session, folio, "mine", version),
    "delete": lambda session, folio, _: store.delete(session, folio),
}


@pytest.mark.parametrize("change", CHANGES)
def test_a_change_long_after_the_folio_was_made_meets_one_in_the_same_moment(
    database: Database, monkeypatch: pytest.MonkeyPatch, change: str
) -> None:
    """Times differ here by an hour: a pending time must not be written before the row is locked."""
    folio_id = made(database)
    later = now() + timedelta(hours=1)
    monkeypatch.setattr(store, "now", lambda: later)
    with database.session() as one:
        mine = store.folio(one, store.local_owner(one), folio_id)
        version = mine.version
        with database.session() as two:
            store.save_script(two, store.folio(two, store.local_owner(two), folio_id), "theirs", version)
        with pytest.raises(store.Conflict):
            CHANGES[change](one, mine, version)


def test_records_are_numbered_and_name_the_first_alike(database: Database) -> None:
    folio_id = made(database)
    drawing = [store.DrawnFile("f", b"<svg/>", b"{}")]
    with database.session() as session:
        revision_id = store.latest_revision(session, folio_id).id
        kept = [store.keep_record(session, folio_id, revision_id, body(v, d), drawing) for v, d in ((1, 0.1), (2, 0.1), (1, 0.9))]
        assert [(r.number, r.same_as) for r in kept] == [(1, None), (2, None), (3, 1)]
        other = [store.DrawnFile("f", b"<svg> </svg>", b"{}")]
        assert store.keep_record(session, folio_id, revision_id, body(1), other).same_as is None
        assert store.figure_data(session, store.figure(session, store.local_owner(session), kept[0].id, "f")) == b"{}"
        with pytest.raises(store.NotFound):
            store.figure(session, store.local_owner(session), kept[0].id, "g")


def test_the_thumbnail_is_the_first_figure_of_the_latest_record_that_has_one(database: Database) -> None:
    folio_id = made(database)
    with database.session() as session:
        revision_id = store.latest_revision(session, folio_id).id
        assert store.first_figures(session, [folio_id]) == {}
        with_figures = store.keep_record(
            session, folio_id, revision_id, body(1), [store.DrawnFile(n, b"<svg/>", b"{}") for n in ("b", "a")]
        )
        store.keep_record(session, folio_id, revision_id, body(2), [])
        assert store.first_figures(session, [folio_id]) == {folio_id: (with_figures.id, "b")}


def test_folios_of_others_and_deleted_ones_are_not_found(database: Database) -> None:
    folio_id = made(database)
    with database.session() as session:
        owner = store.local_owner(session)
        folio = store.folio(session, owner, folio_id)
        stranger = type(owner)(name=f"stranger {folio_id}")
        session.add(stranger)
        session.flush()
        with pytest.raises(store.NotFound):
            store.folio(session, stranger, folio_id)
        store.delete(session, folio)
        with pytest.raises(store.NotFound):
            store.folio(session, owner, folio_id)
        assert folio_id not in [f.id for f in store.all_folios(session, owner)]
        store.restore(session, store.folio(session, owner, folio_id, deleted=True))
        assert store.folio(session, owner, folio_id).id == folio_id


def test_texts_of_any_script_are_kept_letter_by_letter(database: Database) -> None:
    script = "# α β ∞ 💧 \\ ' \" ; -- \u202f\n" + "x" * 150_000 + "\r\n\x00end"
    folio_id = made(database, script)
    with database.session() as session:
        assert store.latest_revision(session, folio_id).script == script


def test_a_session_that_fails_keeps_nothing(database: Database) -> None:
    folio_id = made(database)

    def half() -> None:
        with database.session() as session:
            folio = store.folio(session, store.local_owner(session), folio_id)
            store.rename(session, folio, "Half", folio.version)
            session.execute(text("INSERT INTO owner (id, name) SELECT id, name FROM owner LIMIT 1"))

    with pytest.raises(IntegrityError):
        half()
    with database.session() as session:
        assert store.folio(session, store.local_owner(session), folio_id).title == "A folio"


def test_titles_are_one_line(database: Database) -> None:
    assert store.clean_title("  a\n b\t c ") == "a b c"
    assert store.clean_title(" ") == store.UNTITLED
    assert len(store.clean_title("x" * 999)) == store.MAX_TITLE
    assert database.url
