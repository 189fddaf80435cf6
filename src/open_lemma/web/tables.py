"""Tables of a folio: brought in, looked at, mended, taken out. What is in them is worked on by the engine."""

from __future__ import annotations

import io
import json
from typing import Any

from apiflask import APIBlueprint
from flask import Response, request, send_file
from pydantic import ValidationError
from sqlalchemy.orm import Session

from ..core.formula.units import BadUnit, parse_unit
from ..engine.asking import Event, JobFailed
from ..files.bundle import bundle
from ..files.formats import TABLE_TYPES as FORMATS
from ..files.recipe import Recipe
from ..store import folios
from ..store import tables as store
from ..store.models import TableColumn, TableFile
from . import table_loading
from .errors import Refusal
from .plain_json import loads
from .schemas import ColumnShown, Look, Mending, RowsAsked, TableCompared, TableFiles, TableName, TableRows, TableShown
from .services import services, who

blueprint = APIBlueprint("tables", __name__, url_prefix="/api/folios/<int:folio_id>")
_TOLD = 200


def named(name: str) -> str:
    if len(name) > 200 or any(c in name for c in '"/\\') or not name.strip() or not name.isprintable() or name in (".", ".."):
        raise Refusal(422, "file-name", "a file name has up to 200 characters, no quote and no slash")
    return name


def _recipe(text: str) -> str:
    """A recipe that came with a request, as it is kept; empty where there is none."""
    if not text:
        return ""
    try:
        return json.dumps(Recipe.from_record(loads(text)).as_record())
    except ValueError as trouble:
        raise Refusal(422, "recipe", f"the recipe of this table cannot be read: {_place(trouble)}") from None


def _place(trouble: ValueError) -> str:
    if not isinstance(trouble, ValidationError):
        return "it is no JSON"
    first = trouble.errors()[0]
    return f"{'.'.join(str(p) for p in first['loc']) or 'the whole'}: {first['msg']}"


def _mine(session: Session, folio_id: int) -> None:
    folios.folio(session, folios.local_owner(session), folio_id)


def _recipe_of(file: TableFile) -> Recipe:
    return Recipe.from_record(json.loads(file.recipe))


def _asked_of(folio_id: int, name: str, kind: str, path: str = "", **given: Any) -> Event:
    """What the engine says of a kept table. Raises JobFailed."""
    return _asked_of_bundle(_bundle(folio_id, name), name, kind, path, **given)


def _asked_of_bundle(bundle: bytes, name: str, kind: str, path: str = "", **given: Any) -> Event:
    return services().engine.of_table(kind, name, bundle, who(), path, **given)


def _bundle(folio_id: int, name: str) -> bytes:
    with services().session() as session:
        _mine(session, folio_id)
    table_loading.ensure_read(services(), folio_id, frozenset((name,)))
    with services().snapshot() as session:
        return table_loading.bundled(session, store.table_file(session, folio_id, name))


def _summaries(folio_id: int, name: str, recipe: Recipe) -> dict[str, dict[str, Any]]:
    """What columns of numbers look like with what was corrected and left out, where anything was."""
    if not recipe.corrections and not recipe.excluded:
        return {}
    found: dict[str, dict[str, Any]] = _asked_of(folio_id, name, "about_table", with_computed=False)["summaries"]
    return found


def _told(folio_id: int, name: str) -> TableShown:
    """A table as it is now. No session is held while the engine works."""
    with services().session() as session:
        _mine(session, folio_id)
        recipe = _recipe_of(store.table_file(session, folio_id, name))
    summaries = _summaries(folio_id, name, recipe)
    with services().snapshot() as session:
        return _shown(store.table_file(session, folio_id, name), summaries)


def _shown(file: TableFile, mended: dict[str, dict[str, Any]]) -> TableShown:
    recipe = _recipe_of(file)
    kept = [c for c in recipe.columns if c.kept]
    columns = [
        ColumnShown(
            name=said.name,
            source=said.source,
            kind=said.kind,
            unit=said.unit,
            description=said.description,
            since=said.since,
            **_bad_cells(c, said.name, recipe),
            summary=mended.get(said.name) or json.loads(c.summary),
            computed=None,
        )
        for c, said in zip(file.columns, kept, strict=False)
    ]
    columns += [
        ColumnShown(
            name=c.name,
            source="",
            kind="number",
            unit=c.unit,
            description=c.description,
            since=None,
            bad=[],
            bad_count=0,
            file_bad=[],
            summary={},
            computed=c.formula,
        )
        for c in recipe.computed
    ]
    return TableShown(
        name=file.name, bytes=file.byte_count, sha256=file.sha256, rows=file.row_count, number=file.number,
        changed_at=f"{file.changed_at}Z", columns=columns, recipe=recipe.as_record(),
        touched=len(_touched(recipe, [json.loads(c.bad) for c in file.columns])),
    )  # fmt: skip


def _bad_cells(column: TableColumn, name: str, recipe: Recipe) -> dict[str, Any]:
    """Cells that are no numbers: all of the file, and those that nobody has mended or left out."""
    found = json.loads(column.bad)
    done = {c.row for c in recipe.corrections if c.column == name} | set(recipe.excluded)
    left = [[row, cell] for row, cell in found if row not in done]
    return {"file_bad": found[:_TOLD], "bad": left[:_TOLD], "bad_count": column.bad_count - (len(found) - len(left))}


def _touched(recipe: Recipe, bad: list[list[Any]]) -> set[int]:
    """Rows, from 1, that were mended or left out, or that hold a cell that is no number."""
    return {c.row for c in recipe.corrections} | set(recipe.excluded) | {row for cells in bad for row, _ in cells}


@blueprint.get("/tables")
@blueprint.output(TableFiles)
def tables(folio_id: int) -> TableFiles:
    """All tables of a folio."""
    with services().session() as session:
        _mine(session, folio_id)
    table_loading.ensure_read(services(), folio_id)
    with services().snapshot() as session:
        recipes = {f.name: _recipe_of(f) for f in store.table_files(session, folio_id) if f.recipe}
    summaries = {name: _summaries(folio_id, name, recipe) for name, recipe in recipes.items()}
    with services().snapshot() as session:
        return TableFiles(tables=[_shown(f, summaries.get(f.name, {})) for f in store.table_files(session, folio_id) if f.recipe])


@blueprint.post("/tables/preview/<name>")
@blueprint.output(Look)
def look(folio_id: int, name: str) -> Look:
    """What a file would be as a table; nothing is kept. Its bytes are the body of the request, a recipe may stand in the query."""
    with services().session() as session:
        _mine(session, folio_id)
    recipe = _recipe(request.args.get("recipe", ""))
    with table_loading.spooled(services(), table_loading.chunks_of(request.stream)) as path:
        found = services().engine.look_at_table(path, named(name), recipe, who())
    return Look(recipe=found["recipe"], columns=found["columns"], rows=found["rows"], shown=found["shown"], errors=found["errors"])


@blueprint.put("/tables/<name>")
@blueprint.output(TableShown)
def put(folio_id: int, name: str) -> TableShown:
    """Bring a file in, or a newer version of it: its bytes are the body of the request."""
    recipe = _recipe(request.args.get("recipe", ""))
    with table_loading.spooled(services(), table_loading.chunks_of(request.stream)) as path:
        with services().session() as session:
            _mine(session, folio_id)
            recipe = recipe or _as_before(session, folio_id, name)
        found, columns = _read_as(path, named(name), recipe)
        with open(path, "rb") as file, services().session() as session:
            _mine(session, folio_id)
            kept = store.put_table(session, folio_id, name, file, json.dumps(found["recipe"]), found["rows"], columns)
            if not found["recipe"].get("corrections") and not found["recipe"].get("excluded"):
                return _shown(kept, {})
    return _told(folio_id, name)


def _as_before(session: Session, folio_id: int, name: str) -> str:
    """The recipe of the version that is there, but for what was mended by row: the rows may be others now."""
    try:
        file = store.table_file(session, folio_id, name)
    except folios.NotFound:
        return ""
    if not file.recipe:
        return ""
    recipe = _recipe_of(file)
    recipe.corrections, recipe.excluded = [], []
    return json.dumps(recipe.as_record())


def _read_as(path: str, name: str, recipe: str) -> tuple[Any, Any]:
    try:
        return table_loading.read_whole(services(), path, name, recipe, who())
    except JobFailed:
        if not recipe:
            raise
    # It is written in another way than before: found out anew.
    return table_loading.read_whole(services(), path, name, "", who())


@blueprint.get("/tables/<name>")
@blueprint.output(TableShown)
def table(folio_id: int, name: str) -> TableShown:
    """One table."""
    with services().session() as session:
        _mine(session, folio_id)
    table_loading.ensure_read(services(), folio_id, frozenset((name,)))
    return _told(folio_id, name)


@blueprint.patch("/tables/<name>")
@blueprint.input(Mending)
@blueprint.output(TableShown)
def mend(folio_id: int, name: str, json_data: Mending) -> TableShown:
    """Another recipe for a file that is there: it is read anew only where the reading is another."""
    recipe = Recipe.from_record(json.loads(_recipe(json.dumps(json_data.recipe))))
    _check(recipe)
    table_loading.ensure_read(services(), folio_id, frozenset((name,)))
    found: Event | None = None
    columns: list[store.Column] = []
    with services().engine.place() as path:
        with services().snapshot() as session:
            _mine(session, folio_id)
            file = store.table_file(session, folio_id, name)
            _same_version(file, json_data.number)
            before = _recipe_of(file)
            as_read = _reading(recipe) == _reading(before)
            if not as_read:
                table_loading.write_kept(session, file, path)
            stored = table_loading.as_stored(store.columns_of(session, file)) if as_read and recipe.computed else {}
            fingerprint, rows = file.sha256, file.row_count
        if as_read:
            recipe.doubts = before.doubts
        else:
            found, columns = table_loading.read_whole(services(), path, name, json.dumps(recipe.as_record()), who())
            stored, rows = table_loading.as_stored(dict(enumerate(columns, 1))), found["rows"]
    if recipe.computed:
        # Tried before it is kept: a formula that cannot be worked out would spoil the whole table.
        tried = bundle(stored, recipe.as_record() if found is None else found["recipe"], fingerprint, rows)
        _asked_of_bundle(tried, name, "about_table", with_computed=True)
    with services().session() as session:
        file = store.table_file(session, folio_id, name, hold=True)
        _same_version(file, json_data.number)
        if found is None:
            store.set_recipe(session, file, json.dumps(recipe.as_record()))
        else:
            store.set_columns(session, file, json.dumps(found["recipe"]), found["rows"], columns)
    return _told(folio_id, name)


def _same_version(file: TableFile, number: int) -> None:
    if number != file.number:
        raise Refusal(409, "table-changed", "a newer version of this file was brought in meanwhile")


def _reading(recipe: Recipe) -> Any:
    """What of a recipe decides how the bytes are read."""
    plain = recipe.as_record()
    read = ("source", "kind", "format", "since", "kept", "carries", "gaps")
    columns = [{k: c[k] for k in read} for c in plain["columns"]]
    apart = ("columns", "corrections", "excluded", "computed", "doubts", "settled")
    return {k: v for k, v in plain.items() if k not in apart}, columns


def _check(recipe: Recipe) -> None:
    names = [c.name for c in recipe.columns if c.kept] + [c.name for c in recipe.computed]
    for name in names:
        if not name.strip() or '"' in name or len(name) > 200 or not name.isprintable():
            raise Refusal(422, "column-name", f"'{name}' is no name for a column: up to 200 characters, no quote")
    twice = next((n for n in names if names.count(n) > 1), None)
    if twice is not None:
        raise Refusal(422, "column-name", f"two columns are called '{twice}'")
    for unit in [c.unit for c in recipe.columns] + [c.unit for c in recipe.computed]:
        try:
            parse_unit(unit or "")
        except BadUnit as trouble:
            raise Refusal(422, "unit", str(trouble)) from None


@blueprint.delete("/tables/<name>")
@blueprint.output({}, status_code=204)
def remove(folio_id: int, name: str) -> str:
    """Take a table away, with its older versions."""
    with services().session() as session:
        _mine(session, folio_id)
        store.remove_table(session, folio_id, name)
    return ""


@blueprint.post("/tables/<name>/name")
@blueprint.input(TableName)
@blueprint.output(TableShown)
def rename(folio_id: int, name: str, json_data: TableName) -> TableShown:
    """Another name for the file; scripts name it by that."""
    wanted = named(json_data.name)
    table_loading.ensure_read(services(), folio_id, frozenset((name,)))
    with services().session() as session:
        _mine(session, folio_id)
        file = store.table_file(session, folio_id, name, hold=True)
        if wanted != name and store.has_table(session, folio_id, wanted):
            raise Refusal(409, "name-taken", f"there is a table '{wanted}' already")
        file.name = wanted
        session.flush()
    return _told(folio_id, wanted)


# ---------------------------------------------------------------- rows


@blueprint.get("/tables/<name>/rows")
@blueprint.input(RowsAsked, location="query")
@blueprint.output(TableRows)
def rows(folio_id: int, name: str, query_data: RowsAsked) -> TableRows:
    """A page of rows, sorted and filtered; each with its number in the file, from 1."""
    return TableRows(**_asked_of(folio_id, name, "rows", wanted=query_data.model_dump())["page"])


@blueprint.get("/tables/<name>/summaries/<column>")
@blueprint.doc(responses={200: {"description": "counts, extremes, mean and a histogram", "content": {"application/json": {}}}})
def column_summary(folio_id: int, name: str, column: str) -> dict[str, Any]:
    """What a column looks like with all that was mended, or a computed one; rows that are excluded count apart."""
    found: dict[str, Any] = _asked_of(folio_id, name, "column", column=column)["summary"]
    return found


# ---------------------------------------------------------------- out


@blueprint.get("/tables/<name>/as/<fmt>")
@blueprint.doc(responses={200: {"description": "the table as a file", "content": {"application/octet-stream": {}}}})
def taken_out(folio_id: int, name: str, fmt: str) -> Response:
    """The table as CSV, .xlsx, JSON or Parquet, with what was mended; `original` is the file as it came."""
    if fmt == "original":
        return _as_it_came(folio_id, name)
    if fmt not in FORMATS:
        raise Refusal(404, "format", f"there is no format '{fmt}'; the formats are {', '.join(FORMATS)}")
    bundle = _bundle(folio_id, name)
    data = services().engine.table_as(name, bundle, fmt, who())
    stem = name.rsplit(".", 1)[0] if "." in name else name
    return send_file(io.BytesIO(data), mimetype=FORMATS[fmt], as_attachment=True, download_name=f"{stem}.{fmt}")


def _as_it_came(folio_id: int, name: str) -> Response:
    with services().engine.place() as path:
        with services().snapshot() as session:
            _mine(session, folio_id)
            file = store.table_file(session, folio_id, name)
            table_loading.write_kept(session, file, path)
            length = file.byte_count
        # Sent from the open file when its place is gone already.
        answer = send_file(open(path, "rb"), mimetype="application/octet-stream", as_attachment=True, download_name=name)  # noqa: SIM115
    answer.content_length = length
    return answer


@blueprint.get("/tables/<name>/versions/<int:number>")
@blueprint.output(TableCompared)
def compared(folio_id: int, name: str, number: int) -> TableCompared:
    """An older version beside the one that is there: rows and columns that came and went, cells that changed."""
    with services().engine.place() as path:
        with services().snapshot() as session:
            _mine(session, folio_id)
            file = store.table_file(session, folio_id, name)
            old = store.version(session, file, number)
            created_at, rows_before, rows_now, recipe = old.created_at, old.row_count, file.row_count, old.recipe
            table_loading.write_kept(session, old, path)
        found = _asked_of(folio_id, name, "compare", path, recipe=recipe)["compared"]
    return TableCompared(number=number, created_at=f"{created_at}Z", rows_before=rows_before, rows_now=rows_now, **found)
