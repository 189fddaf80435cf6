"""Tables of a folio: brought in, looked at, mended, taken out."""

from __future__ import annotations

import io
import json
from typing import Any

import numpy as np
from apiflask import APIBlueprint
from flask import Response, request, send_file
from pydantic import ValidationError
from sqlalchemy.orm import Session

from ..core.formula.units import BadUnit, parse_unit
from ..files.recipe import Recipe
from ..files.summary import summary
from ..files.writing import FORMATS, NotWritten, table_file
from ..store import folios
from ..store import tables as store
from ..store.models import TableColumn, TableFile
from . import table_loading
from .errors import Refusal
from .schemas import ColumnShown, Look, Mending, RowsAsked, TableCompared, TableFiles, TableName, TableRows, TableShown
from .services import services

blueprint = APIBlueprint("tables", __name__, url_prefix="/api/folios/<int:folio_id>")
MOST_ROWS = 500  # of one page of rows
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
        return json.dumps(Recipe.from_record(json.loads(text)).as_record())
    except ValueError as trouble:
        raise Refusal(422, "recipe", f"the recipe of this table cannot be read: {_place(trouble)}") from None


def _place(trouble: ValueError) -> str:
    if not isinstance(trouble, ValidationError):
        return "it is no JSON"
    first = trouble.errors()[0]
    return f"{'.'.join(str(p) for p in first['loc']) or 'the whole'}: {first['msg']}"


def _file(session: Session, folio_id: int, name: str, hold: bool = False) -> TableFile:
    folios.folio(session, folios.local_owner(session), folio_id)
    found = store.table_file(session, folio_id, name, hold)
    table_loading.ensure_read(services(), session, found)
    return found


def _shown(file: TableFile) -> TableShown:
    recipe = table_loading.recipe_of(file)
    kept = [c for c in recipe.columns if c.kept]
    mended = _mended_summaries(file, recipe)
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
        name=file.name, bytes=len(file.data), sha256=file.sha256, rows=file.row_count, number=file.number, changed_at=f"{file.changed_at}Z",
        columns=columns, recipe=recipe.as_record(), touched=len(_touched(recipe, [json.loads(c.bad) for c in file.columns])),
    )  # fmt: skip


def _mended_summaries(file: TableFile, recipe: Recipe) -> dict[str, dict[str, Any]]:
    """What columns of numbers look like with what was corrected and left out, where anything was."""
    if not recipe.corrections and not recipe.excluded:
        return {}
    done = table_loading.ready(table_loading.plain_columns(file, recipe), recipe, file.sha256)
    return {c.name: _kept_summary(c.data, recipe) for c in done.columns if not isinstance(c.data, list)}


def _kept_summary(data: Any, recipe: Recipe) -> dict[str, Any]:
    kept = np.delete(np.asarray(data), [r - 1 for r in set(recipe.excluded) if 1 <= r <= len(data)])
    return summary(kept, None) | {"left_out": len(data) - len(kept)}


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
    with services().session() as session:
        folios.folio(session, folios.local_owner(session), folio_id)
        found = store.table_files(session, folio_id)
        for file in found:
            _read_if_it_can_be(session, file)
        return TableFiles(tables=[_shown(f) for f in found if f.recipe])


def _read_if_it_can_be(session: Session, file: TableFile) -> None:
    try:
        table_loading.ensure_read(services(), session, file)
    except Refusal:
        return  # a file of before that is no table: it is told where a script names it


@blueprint.post("/tables/preview/<name>")
@blueprint.output(Look)
def look(folio_id: int, name: str) -> Look:
    """What a file would be as a table; nothing is kept. Its bytes are the body of the request, a recipe may stand in the query."""
    with services().session() as session:
        folios.folio(session, folios.local_owner(session), folio_id)
    recipe = _recipe(request.args.get("recipe", ""))
    with table_loading.spooled(services(), table_loading.chunks_of(request.stream)) as path:
        found = table_loading.looked_at(services(), path, named(name), recipe)
    return Look(recipe=found["recipe"], columns=found["columns"], rows=found["rows"], shown=found["shown"], errors=found["errors"])


@blueprint.put("/tables/<name>")
@blueprint.output(TableShown)
def put(folio_id: int, name: str) -> TableShown:
    """Bring a file in, or a newer version of it: its bytes are the body of the request."""
    recipe = _recipe(request.args.get("recipe", ""))
    with table_loading.spooled(services(), table_loading.chunks_of(request.stream)) as path:
        with services().session() as session:
            folios.folio(session, folios.local_owner(session), folio_id)
            recipe = recipe or _as_before(session, folio_id, name)
        found, columns = _read_as(path, named(name), recipe)
        with open(path, "rb") as file:
            data = file.read()
    with services().session() as session:
        folios.folio(session, folios.local_owner(session), folio_id)
        kept = store.put_table(session, folio_id, name, data, json.dumps(found["recipe"]), found["rows"], columns)
        return _shown(kept)


def _as_before(session: Session, folio_id: int, name: str) -> str:
    """The recipe of the version that is there, but for what was mended by row: the rows may be others now."""
    try:
        file = store.table_file(session, folio_id, name)
    except folios.NotFound:
        return ""
    if not file.recipe:
        return ""
    recipe = table_loading.recipe_of(file)
    recipe.corrections, recipe.excluded = [], []
    return json.dumps(recipe.as_record())


def _read_as(path: str, name: str, recipe: str) -> tuple[Any, Any]:
    try:
        return table_loading.read_whole(services(), path, name, recipe)
    except Refusal:
        if not recipe:
            raise
    # It is written in another way than before: found out anew.
    return table_loading.read_whole(services(), path, name, "")


@blueprint.get("/tables/<name>")
@blueprint.output(TableShown)
def table(folio_id: int, name: str) -> TableShown:
    with services().session() as session:
        return _shown(_file(session, folio_id, name))


@blueprint.patch("/tables/<name>")
@blueprint.input(Mending)
@blueprint.output(TableShown)
def mend(folio_id: int, name: str, json_data: Mending) -> TableShown:
    """Another recipe for a file that is there: it is read anew only where the reading is another."""
    recipe = Recipe.from_record(json.loads(_recipe(json.dumps(json_data.recipe))))
    _check(recipe)
    with services().session() as session:
        file = _file(session, folio_id, name, hold=True)
        if json_data.number != file.number:
            raise Refusal(409, "table-changed", "a newer version of this file was brought in meanwhile")
        before = table_loading.recipe_of(file)
        if _reading(recipe) == _reading(before):
            recipe.doubts = before.doubts
            store.set_recipe(session, file, json.dumps(recipe.as_record()))
        else:
            with table_loading.spooled(services(), iter([file.data])) as path:
                found, columns = table_loading.read_whole(services(), path, name, json.dumps(recipe.as_record()))
            store.set_columns(session, file, json.dumps(found["recipe"]), found["rows"], columns)
        for computed in recipe.computed:
            table_loading.computed_column(services(), file, table_loading.recipe_of(file), computed.name)
        return _shown(file)


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
    with services().session() as session:
        folios.folio(session, folios.local_owner(session), folio_id)
        store.remove_table(session, folio_id, name)
    return ""


@blueprint.post("/tables/<name>/name")
@blueprint.input(TableName)
@blueprint.output(TableShown)
def rename(folio_id: int, name: str, json_data: TableName) -> TableShown:
    """Another name for the file; scripts name it by that."""
    with services().session() as session:
        file = _file(session, folio_id, name, hold=True)
        wanted = named(json_data.name)
        if wanted != name and any(f.name == wanted for f in store.table_files(session, folio_id)):
            raise Refusal(409, "name-taken", f"there is a table '{wanted}' already")
        file.name = wanted
        session.flush()
        return _shown(file)


# ---------------------------------------------------------------- rows


class _Whole:
    """All columns of a table with the numbers that count."""

    def __init__(self, file: TableFile) -> None:
        self.recipe = table_loading.recipe_of(file)
        self.plain = table_loading.plain_columns(file, self.recipe)
        self.rows = file.row_count
        done = table_loading.ready(self.plain, self.recipe, file.sha256)
        self.names = [c.name for c in done.columns]
        self.units = [c.unit for c in done.columns]
        self.data: list[Any] = [c.data for c in done.columns]
        for computed in self.recipe.computed:
            self.names.append(computed.name)
            self.units.append(computed.unit)
            self.data.append(table_loading.computed_column(services(), file, self.recipe, computed.name))

    def column(self, name: str) -> Any:
        if name not in self.names:
            raise Refusal(404, "no-column", f"the table has no column '{name}'")
        return self.data[self.names.index(name)]

    def chosen(self, asked: RowsAsked) -> Any:
        """The rows, counted from 0, that a filter leaves, in the order that is asked for."""
        keep = np.ones(self.rows, dtype=bool)
        if asked.where is not None:
            data = self.column(asked.where)
            if isinstance(data, list):
                keep &= np.array([(asked.text or "").lower() in t.lower() for t in data], dtype=bool)
            elif asked.gaps:
                keep &= ~np.isfinite(data)
            else:
                with np.errstate(invalid="ignore"):
                    keep &= data >= asked.low if asked.low is not None else True
                    keep &= data <= asked.high if asked.high is not None else True
        if asked.only == "mended":
            mended = np.zeros(self.rows, dtype=bool)
            rows = _touched(self.recipe, [c.bad for c in self.plain])
            mended[[r - 1 for r in rows if 1 <= r <= self.rows]] = True
            keep &= mended
        found = np.flatnonzero(keep)
        if asked.sort is not None:
            data = self.column(asked.sort)
            part = np.array([data[k] for k in found]) if isinstance(data, list) else np.asarray(data)[found]
            order = np.argsort(part, kind="stable")
            if asked.down:
                # Gaps stay last whichever way the numbers go.
                size = int(np.sum(np.isfinite(part))) if part.dtype.kind == "f" else len(part)
                order = np.concatenate([order[:size][::-1], order[size:]])
            found = found[order]
        return found


@blueprint.get("/tables/<name>/rows")
@blueprint.input(RowsAsked, location="query")
@blueprint.output(TableRows)
def rows(folio_id: int, name: str, query_data: RowsAsked) -> TableRows:
    """A page of rows, sorted and filtered; each with its number in the file, from 1."""
    with services().session() as session:
        file = _file(session, folio_id, name)
        whole = _Whole(file)
        chosen = whole.chosen(query_data)
        page = chosen[query_data.start : query_data.start + min(query_data.count, MOST_ROWS)]
        cells = [
            [d[k] for k in page] if isinstance(d, list) else [v if v == v else None for v in np.asarray(d)[page].tolist()]
            for d in whole.data
        ]
        # What was excluded or corrected is shown with what stood there.
        plain = [
            [c.texts[k] for k in page] if c.texts is not None else [v if v == v else None for v in np.asarray(c.numbers)[page].tolist()]
            for c in whole.plain
        ]
        return TableRows(
            total=len(chosen), numbers=[int(k) + 1 for k in page], cells=[list(r) for r in zip(*cells, strict=True)],
            original=[list(r) for r in zip(*plain, strict=True)],
            errors={c.name: np.asarray(c.errors)[page].tolist() for c in whole.plain if c.errors is not None},
        )  # fmt: skip


@blueprint.get("/tables/<name>/summaries/<column>")
@blueprint.doc(responses={200: {"description": "counts, extremes, mean and a histogram", "content": {"application/json": {}}}})
def column_summary(folio_id: int, name: str, column: str) -> dict[str, Any]:
    """What a column looks like with all that was mended, or a computed one; rows that are excluded count apart."""
    with services().session() as session:
        whole = _Whole(_file(session, folio_id, name))
    data = whole.column(column)
    if isinstance(data, list):
        return summary(None, data)
    return _kept_summary(data, whole.recipe)


# ---------------------------------------------------------------- out


@blueprint.get("/tables/<name>/as/<fmt>")
@blueprint.doc(responses={200: {"description": "the table as a file", "content": {"application/octet-stream": {}}}})
def taken_out(folio_id: int, name: str, fmt: str) -> Response:
    """The table as CSV, .xlsx, JSON or Parquet, with what was mended; `original` is the file as it came."""
    with services().session() as session:
        file = _file(session, folio_id, name)
        if fmt == "original":
            return send_file(io.BytesIO(file.data), mimetype="application/octet-stream", as_attachment=True, download_name=file.name)
        if fmt not in FORMATS:
            raise Refusal(404, "format", f"there is no format '{fmt}'; the formats are {', '.join(FORMATS)}")
        whole = _Whole(file)
        try:
            data = table_file(list(zip(whole.names, whole.units, whole.data, strict=True)), fmt, file.name)
        except NotWritten as reason:
            raise Refusal(422, "not-written", str(reason)) from None
    stem = file.name.rsplit(".", 1)[0] if "." in file.name else file.name
    return send_file(io.BytesIO(data), mimetype=FORMATS[fmt], as_attachment=True, download_name=f"{stem}.{fmt}")


@blueprint.get("/tables/<name>/versions/<int:number>")
@blueprint.output(TableCompared)
def compared(folio_id: int, name: str, number: int) -> TableCompared:
    """An older version beside the one that is there: rows and columns that came and went, cells that changed."""
    with services().session() as session:
        file = _file(session, folio_id, name)
        old = store.version(session, file, number)
        with table_loading.spooled(services(), iter([old.data])) as path:
            _, columns = table_loading.read_whole(services(), path, name, old.recipe)
        before = {c.name: c for c in columns}
        recipe = table_loading.recipe_of(file)
        now = {c.name: c for c in table_loading.plain_columns(file, recipe)}
        changed = []
        count = 0
        for column in now.values():
            if column.name not in before:
                continue
            other = table_loading.unpacked(before[column.name]).values
            cells = _different(column.texts if column.texts is not None else column.numbers, other)
            count += len(cells)
            cells_now: Any = column.texts if column.texts is not None else column.numbers
            changed += [[int(k) + 1, column.name, _cell(other[k]), _cell(cells_now[k])] for k in cells[:_TOLD]]
        return TableCompared(
            number=number,
            created_at=f"{old.created_at}Z",
            rows_before=old.row_count,
            rows_now=file.row_count,
            columns_gone=[n for n in before if n not in now],
            columns_new=[n for n in now if n not in before],
            cells_changed=count,
            cells=sorted(changed, key=lambda c: (c[0], c[1]))[:_TOLD],
        )


def _different(now: Any, before: Any) -> Any:
    size = min(len(now), len(before))
    if isinstance(now, list) or isinstance(before, list):
        return [k for k in range(size) if str(now[k]) != str(before[k])]
    one, other = np.asarray(now[:size]), np.asarray(before[:size])
    return np.flatnonzero((one != other) & ~(np.isnan(one) & np.isnan(other)))


def _cell(value: Any) -> Any:
    return value if isinstance(value, str) else None if value != value else float(value)
