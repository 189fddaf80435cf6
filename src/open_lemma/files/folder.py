"""Tables from a folder: those that lie beside a script, for the command line."""

from __future__ import annotations

import json
from pathlib import Path

from ..core.run.tables import FileTable, NoTable, Tables
from .columns import BadTable
from .ready import plain_columns, ready
from .recipe import Recipe
from .tables import read_table


def tables_in(folder: Path) -> Tables:
    """Files of the folder, by their names; never from anywhere else.

    Beside `gauge.csv` may lie `gauge.csv.recipe.json`: how it is read, and what was mended in it.
    """

    def table(name: str) -> FileTable | None:
        path = folder / name
        if Path(name).is_absolute() or ".." in Path(name).parts or not path.is_file():
            return None
        beside = folder / f"{name}.recipe.json"
        try:
            recipe = Recipe.from_record(json.loads(beside.read_text(encoding="utf-8"))) if beside.is_file() else None
            found = read_table(path.read_bytes(), name, recipe)
        except BadTable as reason:
            raise NoTable(str(reason)) from None
        except (OSError, ValueError, TypeError, KeyError) as reason:
            raise NoTable(f"its recipe cannot be read: {reason}") from None
        return ready(plain_columns(found), found.recipe, found.sha256)

    return table
