"""Files as tables: text with delimiters, .xlsx (ISO/IEC 29500), JSON records (RFC 8259), Apache Parquet.

What cannot be read as its column's kind is told by row with what was found there; what may be read otherwise is told with the other
reading (`doubts`); nothing is dropped. A file that is broken, too large or made to do harm raises BadTable with a sentence for its owner.
"""

from __future__ import annotations

import hashlib

from .columns import BadTable, ReadTable
from .recipe import Recipe
from .records import read_json, read_parquet
from .text import read_text
from .workbook import read_workbook


def read_table(data: bytes, name: str, recipe: Recipe | None = None, most: int | None = None) -> ReadTable:
    """A file as a table. Without a recipe it is found out; with one it is obeyed. `most`: read no more rows than that.

    Raises BadTable.
    """
    fingerprint = hashlib.sha256(data).hexdigest()
    kind = recipe.format if recipe is not None and recipe.columns else _format(data, name)
    reader = {"text": read_text, "xlsx": read_workbook, "json": read_json, "parquet": read_parquet}[kind]
    try:
        found = reader(data, recipe, most)
    except BadTable:
        raise
    except MemoryError:
        raise BadTable("the file is too large to be read here; leave out columns or rows") from None
    except RecursionError:
        raise BadTable("the file is nested too deeply to be a table") from None
    if not found.columns:
        raise BadTable("the file holds no columns")
    found.sha256 = fingerprint
    return found


def _format(data: bytes, name: str) -> str:
    if data.startswith(b"PK\x03\x04"):
        return "xlsx"
    if data.startswith(b"PAR1"):
        return "parquet"
    if data.startswith(b"\xd0\xcf\x11\xe0"):
        raise BadTable("this is a workbook of the old binary kind; save it as .xlsx and bring that in")
    if name.lower().endswith(".json") or data.lstrip()[:1] in (b"[", b"{"):
        return "json"
    return "text"
