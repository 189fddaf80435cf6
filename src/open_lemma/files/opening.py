"""A bundle taken apart, where it is worked with."""

from __future__ import annotations

import json
import zlib
from dataclasses import dataclass

import numpy as np

from ..core.run.tables import FileTable
from .bundle import LENGTH
from .ready import PlainColumn, ready
from .recipe import Recipe


@dataclass
class Bundle:
    """A bundle taken apart."""

    columns: list[PlainColumn]
    recipe: Recipe
    fingerprint: str
    rows: int

    def table(self) -> FileTable:
        """With what was mended."""
        return ready(self.columns, self.recipe, self.fingerprint)


def opened(data: bytes) -> Bundle:
    (size,) = LENGTH.unpack(data[:4])
    head = json.loads(data[4 : 4 + size])
    recipe = Recipe.from_record(head["recipe"])
    kept = [c for c in recipe.columns if c.kept]
    place, columns = 4 + size, []
    for told in head["columns"]:
        said = kept[told["place"]]
        body = zlib.decompress(data[place : place + told["size"]])
        place += told["size"]
        bad = [(int(row), str(cell)) for row, cell in json.loads(told["bad"])]
        if told["kind"] == "text":
            columns.append(PlainColumn(said.name, said.unit, None, json.loads(body), bad, told["bad_count"]))
            continue
        numbers = np.frombuffer(body, dtype="<f8")
        errors = None
        if told["kind"] == "uncertain":
            numbers, errors = np.split(numbers, 2)
        columns.append(PlainColumn(said.name, said.unit, numbers, None, bad, told["bad_count"], errors))
    return Bundle(columns, recipe, head["fingerprint"], head["rows"])
