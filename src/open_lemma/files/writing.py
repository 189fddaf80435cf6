"""Tables out: CSV (RFC 4180), .xlsx (ISO/IEC 29500), JSON records (RFC 8259), Apache Parquet; the same table gives the same bytes."""

from __future__ import annotations

import io
import json
from typing import Any

import numpy as np

from .numbers import as_csv, as_xlsx

MOST_XLSX = 1_048_575  # rows of a sheet below the heads


class NotWritten(Exception):
    """Why a table cannot be written in a format."""


def table_file(columns: list[tuple[str, str | None, Any]], fmt: str, title: str) -> bytes:
    """columns: name, unit, and doubles (NaN: a gap) or texts. Raises NotWritten."""
    heads = [f"{name} [{unit}]" if unit else name for name, unit, _ in columns]
    if fmt == "parquet":
        import polars as pl

        out = io.BytesIO()
        series = [
            pl.Series(h, d if isinstance(d, list) else np.asarray(d, dtype=float), nan_to_null=True)
            for h, (_, _, d) in zip(heads, columns, strict=True)
        ]
        pl.DataFrame(series).write_parquet(out, statistics=False)
        return out.getvalue()
    cells = [(h, _cells(d)) for h, (_, _, d) in zip(heads, columns, strict=True)]
    if fmt == "csv":
        return as_csv(cells)
    if fmt == "xlsx":
        if cells and len(cells[0][1]) > MOST_XLSX:
            raise NotWritten(f"a sheet holds at most {MOST_XLSX} rows; take CSV or Parquet")
        return as_xlsx(cells, title)
    rows = [dict(zip(heads, row, strict=True)) for row in zip(*(c for _, c in cells), strict=True)]
    return json.dumps(rows, ensure_ascii=False, indent=None if len(rows) > 10_000 else 1).encode()


def _cells(data: Any) -> list[float | str | None]:
    if isinstance(data, list):
        return [d or None for d in data]
    return [v if v == v else None for v in np.asarray(data, dtype=float).tolist()]
