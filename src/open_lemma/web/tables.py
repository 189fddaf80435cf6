"""Files that a folio's scripts read tables from."""

from __future__ import annotations

from apiflask import APIBlueprint
from flask import request

from ..store import folios as store
from ..store import models
from .errors import Refusal
from .house import house
from .schemas import TableFile, TableFiles

blueprint = APIBlueprint("tables", __name__, url_prefix="/api/folios/<int:folio_id>/tables")


def _shown(file: models.TableFile) -> TableFile:
    return TableFile(name=file.name, bytes=len(file.data), sha256=file.sha256)


@blueprint.get("")
@blueprint.output(TableFiles)
def tables(folio_id: int) -> TableFiles:
    with house().session() as session:
        store.folio(session, store.local_owner(session), folio_id)
        return TableFiles(tables=[_shown(f) for f in store.table_files(session, folio_id)])


@blueprint.put("/<name>")
@blueprint.output(TableFile)
def put(folio_id: int, name: str) -> TableFile:
    """Bring a file in: its bytes are the body of the request."""
    if len(name) > 200 or any(c in name for c in '"/\\') or not name.strip() or not name.isprintable():
        raise Refusal(422, "file-name", "a file name has up to 200 characters, no quote and no slash")
    with house().session() as session:
        store.folio(session, store.local_owner(session), folio_id)
        return _shown(store.put_table_file(session, folio_id, name, request.get_data()))


@blueprint.delete("/<name>")
@blueprint.output({}, status_code=204)
def remove(folio_id: int, name: str) -> str:
    with house().session() as session:
        store.folio(session, store.local_owner(session), folio_id)
        store.remove_table_file(session, folio_id, name)
    return ""
