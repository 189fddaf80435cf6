"""Folios: the shelf, and one folio for the desk."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from apiflask import APIBlueprint
from sqlalchemy.orm import Session

from ..store import folios as store
from ..store import models
from ..store.tables import copy_tables
from .errors import Refusal
from .schemas import Change, DeletedFolio, DeletedShelf, Folio, FolioCard, KeptRecord, NewFolio, Shelf, Thumbnail
from .services import services

blueprint = APIBlueprint("folios", __name__, url_prefix="/api/folios")


def stamp(moment: Any) -> str:
    return f"{moment.isoformat()}Z"


def _card(found: models.Folio, first: dict[int, tuple[int, str]]) -> dict[str, Any]:
    thumbnail = first.get(found.id)
    return {
        "id": found.id,
        "title": found.title,
        "version": found.version,
        "changed_at": stamp(found.changed_at),
        "example": found.example,
        "thumbnail": Thumbnail(record_id=thumbnail[0], figure=thumbnail[1]) if thumbnail else None,
    }


def kept(session: Session, record: models.Record, current_script_sha256: str) -> KeptRecord:
    return KeptRecord(
        id=record.id,
        number=record.number,
        same_as=record.same_as,
        created_at=stamp(record.created_at),
        script_is_current=record.revision.script_sha256 == current_script_sha256,
        record=store.body_of(session, record),
    )


def on_desk(session: Session, found: models.Folio) -> Folio:
    revision = store.latest_revision(session, found.id)
    record = store.latest_record(session, found.id)
    card = _card(found, store.first_figures(session, [found.id]))
    return Folio(**card, script=revision.script, latest=kept(session, record, revision.script_sha256) if record else None)


@contextmanager
def changing(folio_id: int) -> Iterator[tuple[Session, models.Folio]]:
    """A session and the folio that is to be changed; a change from an old version is refused with the folio as it is now."""
    try:
        with services().session() as session:
            yield session, store.folio(session, store.local_owner(session), folio_id)
    except store.Conflict:
        with services().snapshot() as session:
            now = on_desk(session, store.folio(session, store.local_owner(session), folio_id))
        raise Refusal(
            409, "conflict", "this folio was changed in another window; nothing was overwritten", folio=now.model_dump()
        ) from None


@blueprint.get("")
@blueprint.output(Shelf)
def shelf() -> Shelf:
    """All folios, the last changed first."""
    with services().snapshot() as session:
        found = store.all_folios(session, store.local_owner(session))
        first = store.first_figures(session, [f.id for f in found])
        return Shelf(folios=[FolioCard(**_card(f, first)) for f in found])


@blueprint.get("/deleted")
@blueprint.output(DeletedShelf)
def deleted() -> DeletedShelf:
    """Folios that can still be taken back, the last deleted first."""
    with services().snapshot() as session:
        found = store.deleted_folios(session, store.local_owner(session))
        first = store.first_figures(session, [f.id for f in found])
        cards = [DeletedFolio(**_card(f, first), deleted_at=stamp(f.deleted_at)) for f in found]
        return DeletedShelf(folios=cards, days=store.KEPT.days)


@blueprint.post("")
@blueprint.input(NewFolio)
@blueprint.output(Folio, status_code=201)
def create(json_data: NewFolio) -> Folio:
    """A new folio."""
    with services().session() as session:
        return on_desk(session, store.create(session, store.local_owner(session), json_data.title, json_data.script))


@blueprint.get("/<int:folio_id>")
@blueprint.output(Folio)
def one(folio_id: int) -> Folio:
    """A folio with its script and its latest record."""
    with services().snapshot() as session:
        return on_desk(session, store.folio(session, store.local_owner(session), folio_id))


@blueprint.patch("/<int:folio_id>")
@blueprint.input(Change)
@blueprint.output(FolioCard)
def change(folio_id: int, json_data: Change) -> FolioCard:
    """Rename a folio or save its script; refused with 409 if it was changed since the version that is given."""
    with changing(folio_id) as (session, found):
        if json_data.title is not None:
            store.rename(session, found, json_data.title, json_data.version)
        if json_data.script is not None:
            version = found.version if json_data.title is not None else json_data.version
            store.save_script(session, found, json_data.script, version)
        return FolioCard(**_card(found, store.first_figures(session, [found.id])))


@blueprint.post("/<int:folio_id>/duplicate")
@blueprint.output(FolioCard, status_code=201)
def duplicate(folio_id: int) -> FolioCard:
    """A copy of a folio, with its latest record."""
    with services().session() as session:
        owner = store.local_owner(session)
        copy = store.duplicate(session, owner, store.folio(session, owner, folio_id))
        copy_tables(session, folio_id, copy.id)
        return FolioCard(**_card(copy, store.first_figures(session, [copy.id])))


@blueprint.delete("/<int:folio_id>")
@blueprint.output({}, status_code=204)
def delete(folio_id: int) -> str:
    """Take a folio off the shelf; it can be restored."""
    with changing(folio_id) as (session, found):
        store.delete(session, found)
        return ""


@blueprint.post("/<int:folio_id>/restore")
@blueprint.output(FolioCard)
def restore(folio_id: int) -> FolioCard:
    """Put a deleted folio back."""
    with services().session() as session:
        found = store.folio(session, store.local_owner(session), folio_id, deleted=True)
        store.restore(session, found)
        return FolioCard(**_card(found, store.first_figures(session, [found.id])))
