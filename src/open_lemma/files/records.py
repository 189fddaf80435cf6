"""JSON records (RFC 8259) and Apache Parquet as tables."""

from __future__ import annotations

import io
import json

import numpy as np

from .columns import BadTable, ReadColumn, ReadTable, column_name, counted, ready_numbers
from .heads import head_and_unit
from .limits import MAX_COLUMNS, MAX_ROWS, first_line
from .recipe import ColumnRecipe, Recipe
from .workbook import from_cells


def read_json(data: bytes, recipe: Recipe | None, most: int | None) -> ReadTable:
    found = recipe if recipe is not None else Recipe()
    found.format, found.doubts = "json", []
    try:
        plain = json.loads(data)
    except (ValueError, UnicodeDecodeError) as trouble:
        raise BadTable(f"this is no JSON: {first_line(trouble)}") from None
    if isinstance(plain, dict) and len(plain) == 1 and isinstance(next(iter(plain.values())), list):
        plain = next(iter(plain.values()))
    if isinstance(plain, dict) and plain and all(isinstance(v, list) for v in plain.values()):
        sizes = {len(v) for v in plain.values()}
        if len(sizes) > 1:
            raise BadTable(f"the columns have different lengths: {', '.join(f'{k} {len(v)}' for k, v in list(plain.items())[:4])}")
        plain = [dict(zip(plain, row, strict=True)) for row in zip(*plain.values(), strict=True)]
    if not isinstance(plain, list) or not plain or not all(isinstance(r, dict) for r in plain):
        raise BadTable('a table in JSON is a list of records: [{"h": 0.1, "Q": 0.02}, ...]')
    if len(plain) > MAX_ROWS:
        raise BadTable(f"the file has {len(plain)} rows; at most {MAX_ROWS} are possible")
    heads = list(dict.fromkeys(str(k) for row in plain for k in row))
    if len(heads) > MAX_COLUMNS:
        raise BadTable(f"the records have {len(heads)} different names; at most {MAX_COLUMNS} are possible")
    for number, row in enumerate(plain, 1):
        for key, value in row.items():
            if isinstance(value, list | dict):
                raise BadTable(f"record {number} holds a list or a record under '{key}'; each value must be a number or a text")
    rows = [[row.get(h) for h in heads] for row in (plain if most is None else plain[:most])]
    return from_cells(found, heads, rows)


def read_parquet(data: bytes, recipe: Recipe | None, most: int | None) -> ReadTable:
    import polars as pl

    found = recipe if recipe is not None else Recipe()
    found.format, found.decimal, found.doubts = "parquet", ".", []
    try:
        schema = pl.read_parquet_schema(io.BytesIO(data))
        if len(schema) > MAX_COLUMNS:
            raise BadTable(f"the file has {len(schema)} columns; at most {MAX_COLUMNS} are possible")
        rows = pl.scan_parquet(io.BytesIO(data)).select(pl.len()).collect().item()
        if rows > MAX_ROWS:
            raise BadTable(f"the file has {rows} rows; at most {MAX_ROWS} are possible")
        frame = pl.read_parquet(io.BytesIO(data), n_rows=most)
    except BadTable:
        raise
    except BaseException as trouble:  # the library below may panic on a damaged file, which is no Exception
        if isinstance(trouble, KeyboardInterrupt | SystemExit | MemoryError):
            raise
        raise BadTable(f"the Parquet file cannot be read: {first_line(Exception(trouble))}") from None
    obeyed = {c.source: c for c in found.columns}
    names: set[str] = set()
    columns = []
    for head in frame.columns:
        series = frame[head]
        known = obeyed.get(head)
        if series.dtype.is_nested() or series.dtype == pl.Binary:
            raise BadTable(f"the column '{head}' holds {series.dtype}; each value must be a number, a time or a text")
        name, unit = head_and_unit(head)
        if series.dtype.is_numeric():
            column = known or ColumnRecipe(head, column_name(name, names), "number", unit)
            columns.append(ready_numbers(column, series, found))
        elif series.dtype in (pl.Date, pl.Datetime) or isinstance(series.dtype, pl.Datetime):
            column = known or ColumnRecipe(head, column_name(name, names), "time")
            seconds = series.cast(pl.Datetime("us")).cast(pl.Int64).to_numpy().astype(float) / 1e6
            columns.append(counted(column, np.where(series.is_null().to_numpy(), np.nan, seconds), [""] * len(series), None))
        else:
            column = known or ColumnRecipe(head, column_name(name, names), "text")
            columns.append(ReadColumn(column, None, [str(v) if v is not None else "" for v in series.to_list()]))
    found.columns = [c.recipe for c in columns]
    return ReadTable(found, columns, "")
