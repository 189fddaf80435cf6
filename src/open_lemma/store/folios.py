"""Folios and their records: every change is checked against the version it was made from."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from sqlalchemy import func, insert, select
from sqlalchemy.orm import Session
from sqlalchemy.orm.attributes import flag_modified
from sqlalchemy.orm.exc import StaleDataError

from ..core.record.fingerprint import fingerprint
from . import contents
from .models import Figure, Folio, Mark, Owner, Record, Revision, now

LOCAL_OWNER = "local"
UNTITLED = "Untitled folio"
KEPT = timedelta(days=30)  # how long a deleted folio can be taken back
MAX_TITLE = 200


class NotFound(Exception):
    """There is no such folio, record or figure."""


class Conflict(Exception):
    """The folio was changed elsewhere since the version this change was made from."""

    def __init__(self, folio: Folio) -> None:
        super().__init__("the folio was changed elsewhere")
        self.folio = folio


@dataclass(frozen=True, slots=True)
class DrawnFile:
    """A figure as it came out of a run: its drawing and the data it was drawn from."""

    name: str
    svg: bytes
    data: bytes


def local_owner(session: Session) -> Owner:
    """The one local user, until there are accounts."""
    owner = session.scalar(select(Owner).where(Owner.name == LOCAL_OWNER))
    if owner is None:
        # Two who come first at the same moment make one owner.
        session.execute(insert(Owner).prefix_with("IGNORE").values(name=LOCAL_OWNER))
        owner = session.scalars(select(Owner).where(Owner.name == LOCAL_OWNER)).one()
    return owner


def all_folios(session: Session, owner: Owner) -> list[Folio]:
    """Folios that are not deleted, the last changed first."""
    query = select(Folio).where(Folio.owner_id == owner.id, Folio.deleted_at.is_(None))
    return list(session.scalars(query.order_by(Folio.changed_at.desc(), Folio.id.desc())))


def deleted_folios(session: Session, owner: Owner) -> list[Folio]:
    """Folios that were deleted less than KEPT ago and can be taken back, the last deleted first."""
    query = select(Folio).where(Folio.owner_id == owner.id, Folio.deleted_at > now() - KEPT)
    return list(session.scalars(query.order_by(Folio.deleted_at.desc(), Folio.id.desc())))


def folio(session: Session, owner: Owner, folio_id: int, deleted: bool = False) -> Folio:
    """One folio of an owner; raises NotFound."""
    found = session.get(Folio, folio_id)
    if found is None or found.owner_id != owner.id or (found.deleted_at is not None) != deleted:
        raise NotFound
    return found


def create(session: Session, owner: Owner, title: str, script: str, example: str = "") -> Folio:
    made = Folio(owner_id=owner.id, title=clean_title(title), example=example)
    session.add(made)
    session.flush()
    session.add(Revision(folio_id=made.id, number=1, script=script, script_sha256=fingerprint(script)))
    session.flush()
    return made


def clean_title(title: str) -> str:
    """One line without white space at the ends; never empty."""
    return " ".join(title.split())[:MAX_TITLE] or UNTITLED


def latest_revision(session: Session, folio_id: int) -> Revision:
    query = select(Revision).where(Revision.folio_id == folio_id).order_by(Revision.number.desc()).limit(1)
    return session.scalars(query).one()


def latest_record(session: Session, folio_id: int) -> Record | None:
    query = select(Record).where(Record.folio_id == folio_id).order_by(Record.number.desc()).limit(1)
    return session.scalars(query).one_or_none()


def latest_records(session: Session, folio_id: int, most: int = 200) -> list[Record]:
    """The records of a folio, the latest first."""
    query = select(Record).where(Record.folio_id == folio_id).order_by(Record.number.desc()).limit(most)
    return list(session.scalars(query))


def first_figures(session: Session, folio_ids: list[int]) -> dict[int, tuple[int, str]]:
    """For each folio the id of its latest record with a figure, and the name of that record's first figure."""
    latest = (
        select(Record.folio_id, func.max(Record.id).label("record_id"))
        .join(Figure, Figure.record_id == Record.id)
        .where(Record.folio_id.in_(folio_ids))
        .group_by(Record.folio_id)
        .subquery()
    )
    query = (
        select(latest.c.folio_id, latest.c.record_id, Figure.name)
        .join(Figure, Figure.record_id == latest.c.record_id)
        .where(Figure.place == 1)
    )
    return {folio_id: (record_id, name) for folio_id, record_id, name in session.execute(query)}


def check_version(found: Folio, version: int) -> None:
    if found.version != version:
        raise Conflict(found)


def _touch(session: Session, found: Folio) -> None:
    """Mark a change; a change by someone else in the same moment ends in Conflict."""
    # The first who locks the row changes it. Nothing may be written before: a query of the session would write what waits.
    with session.no_autoflush:
        session.execute(select(Folio.id).where(Folio.id == found.id).with_for_update())
    found.changed_at = now()
    # The same second may already stand there: without a changed column no new version would be written.
    flag_modified(found, "changed_at")
    try:
        session.flush()
    except StaleDataError:
        raise Conflict(found) from None


def rename(session: Session, found: Folio, title: str, version: int) -> None:
    check_version(found, version)
    found.title = clean_title(title)
    _touch(session, found)


def save_script(session: Session, found: Folio, script: str, version: int) -> Revision:
    """Keep a script as a new revision, unless it is the one already kept; raises Conflict."""
    current = latest_revision(session, found.id)
    if current.script == script:
        return current
    check_version(found, version)
    _touch(session, found)
    revision = Revision(folio_id=found.id, number=current.number + 1, script=script, script_sha256=fingerprint(script))
    session.add(revision)
    session.flush()
    return revision


def duplicate(session: Session, owner: Owner, found: Folio) -> Folio:
    """A copy with the script and the latest record, so that it has its picture on the shelf."""
    copy = create(session, owner, f"{found.title} (copy)"[:MAX_TITLE], latest_revision(session, found.id).script)
    record = latest_record(session, found.id)
    if record is not None:
        kept = Record(
            folio_id=copy.id, revision_id=latest_revision(session, copy.id).id, number=1, same_as=None, body_sha256=record.body_sha256,
            result_sha256=record.result_sha256, duration_s=record.duration_s,
        )  # fmt: skip
        kept.figures = [Figure(place=f.place, name=f.name, svg_sha256=f.svg_sha256, data_sha256=f.data_sha256) for f in record.figures]
        session.add(kept)
        session.flush()
    return copy


def delete(session: Session, found: Folio) -> None:
    found.deleted_at = now()
    _touch(session, found)


def restore(session: Session, found: Folio) -> None:
    found.deleted_at = None
    _touch(session, found)


# ---------------------------------------------------------------- records


def result_fingerprint(body: dict[str, Any], figures: list[DrawnFile]) -> str:
    """A fingerprint of what came out, without the time it took."""
    plain = {k: v for k, v in body.items() if k != "duration_s"}
    digest = hashlib.sha256(json.dumps(plain, sort_keys=True).encode("utf-8", "surrogatepass"))
    for figure in figures:
        digest.update(figure.svg)
    return digest.hexdigest()


def keep_record(
    session: Session, folio_id: int, revision_id: int, body: dict[str, Any], figures: list[DrawnFile], run: str | None = None
) -> Record:  # fmt: skip
    """Keep a run under the folio's next record number; `same_as` names the first record with the same result.

    A run whose id is kept already gives the record that is there: who kept it may have been ended before it could say so.
    Raises NotFound where the folio is gone.
    """
    # The folio's row is held, so that two runs that end together do not take the same number.
    if session.execute(select(Folio.id).where(Folio.id == folio_id).with_for_update()).first() is None:
        raise NotFound
    before = session.scalar(select(Record).where(Record.run == run)) if run is not None else None
    if before is not None:
        return before
    last = session.scalar(select(func.max(Record.number)).where(Record.folio_id == folio_id)) or 0
    result = result_fingerprint(body, figures)
    same = session.scalar(select(func.min(Record.number)).where(Record.folio_id == folio_id, Record.result_sha256 == result))
    text = json.dumps({**body, "duration_s": 0}, ensure_ascii=False).encode("utf-8", "surrogatepass")
    kept, *drawn = contents.put(session, [text, *(b for f in figures for b in (f.svg, f.data))])
    record = Record(
        folio_id=folio_id, revision_id=revision_id, number=last + 1, same_as=same, body_sha256=kept, run=run, result_sha256=result,
        duration_s=body["duration_s"],
    )  # fmt: skip
    record.figures = [
        Figure(place=k + 1, name=f.name, svg_sha256=drawn[2 * k], data_sha256=drawn[2 * k + 1]) for k, f in enumerate(figures)
    ]
    session.add(record)
    session.flush()
    return record


def body_of(session: Session, found: Record) -> dict[str, Any]:
    """What a run gave, as it was kept."""
    body: dict[str, Any] = json.loads(contents.get(session, found.body_sha256).decode("utf-8", "surrogatepass"))
    return {**body, "duration_s": found.duration_s}


def record(session: Session, owner: Owner, record_id: int) -> Record:
    found = session.get(Record, record_id)
    if found is None or found.folio.owner_id != owner.id or found.folio.deleted_at is not None:
        raise NotFound
    return found


def figure(session: Session, owner: Owner, record_id: int, name: str) -> Figure:
    """A figure of a record by its name; raises NotFound."""
    for found in record(session, owner, record_id).figures:
        if found.name == name:
            return found
    raise NotFound


def record_of_script(session: Session, owner: Owner, sha256: str, folio_id: int | None, number: int | None) -> Record | None:
    """A record of the script with this fingerprint: that of the folio and number, if it is there, else the latest."""
    found = session.scalars(
        select(Record).join(Revision, Record.revision_id == Revision.id).join(Folio, Record.folio_id == Folio.id)
        .where(Revision.script_sha256 == sha256, Folio.owner_id == owner.id, Folio.deleted_at.is_(None))
        .order_by((Record.folio_id == folio_id).desc(), (Record.number == number).desc(), Record.id.desc()).limit(1)
    )  # fmt: skip
    return found.first()


def figure_data(session: Session, found: Figure) -> bytes:
    """The data from which a figure can be drawn again."""
    return contents.get(session, found.data_sha256)


def figure_svg(session: Session, found: Figure) -> bytes:
    """A figure's drawing for the screen."""
    return contents.get(session, found.svg_sha256)


# ---------------------------------------------------------------- marks


def is_marked(session: Session, name: str) -> bool:
    return session.get(Mark, name) is not None


def set_mark(session: Session, name: str) -> None:
    session.add(Mark(name=name))
