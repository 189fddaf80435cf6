"""Surfaces and level lines in open formats, read back by the library that others read them with."""

from __future__ import annotations

import csv
import io
import json
import math

import numpy as np
import pytest
import trimesh

from open_lemma.core.figure.about import About
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.readings import NotRead
from open_lemma.files.figures import Wanted, figure_file, traced

BALL = 'surface of x^2 + y^2 + z^2 = 1, label "ball", colour "#336699"'


def exported(script: str, fmt: str) -> bytes:
    return figure_file(run(script).figures[0].data, Wanted(fmt))


@pytest.mark.parametrize("fmt", ["stl", "ply", "obj", "glb"])
def test_a_ball_comes_back_closed_and_of_its_size(fmt: str) -> None:
    data = exported(BALL, fmt)
    found = trimesh.load(io.BytesIO(data), file_type=fmt, force="mesh")
    assert found.is_watertight
    assert abs(found.volume) == pytest.approx(4 * math.pi / 3, rel=3e-3)
    assert data == exported(BALL, fmt)


@pytest.mark.parametrize("fmt", ["stl", "ply", "obj", "glb", "geojson"])
def test_a_file_says_where_it_came_from(fmt: str) -> None:
    about = About(12, 34, "a_ball_with_a_long_name", "0123456789abcdef" * 4)
    script = BALL if fmt != "geojson" else "contours of x*y for x from 0 to 1, y from 0 to 1"
    data = figure_file(run(script).figures[0].data, Wanted(fmt), about)
    found = traced(data)
    assert found is not None
    assert (found.folio, found.record, found.script) == (about.folio, about.record, about.script)
    assert about.figure.startswith(found.figure)
    assert len(found.figure) >= 10
    if fmt != "geojson":
        assert trimesh.load(io.BytesIO(data), file_type=fmt, force="mesh").is_watertight


def test_gltf_keeps_names_and_points_upwards() -> None:
    cone = 'surface of sqrt(x^2 + y^2) for x from -1 to 1, y from -1 to 1, label "cone"'
    scene = trimesh.load(io.BytesIO(exported(cone, "glb")), file_type="glb")
    assert list(scene.geometry) == ["cone"]
    low, high = scene.bounds
    assert low[1] == pytest.approx(0, abs=1e-3)
    assert high[1] == pytest.approx(math.sqrt(2), abs=1e-3)  # y is up in that format


def test_level_lines_as_geojson() -> None:
    found = json.loads(exported("contours of x^2 + y^2 for x from -3 to 3, y from -3 to 3, levels [1, 4]", "geojson"))
    assert [f["properties"]["level"] for f in found["features"]] == [1, 4]
    for feature in found["features"]:
        line = np.array(feature["geometry"]["coordinates"][0])
        assert np.hypot(*line.T) == pytest.approx(math.sqrt(feature["properties"]["level"]), abs=1e-9)
        assert line[0].tolist() == line[-1].tolist()


def test_heights_as_a_grid_of_numbers() -> None:
    data = run("surface of x*y for x from 0 to 2, y from 0 to 1").figures[0].data
    rows = list(csv.reader(io.StringIO(figure_file(data, Wanted("csv", step=0.5)).decode())))
    assert rows[0] == ["s1: x", "s1: z at y = 0", "s1: z at y = 0.5", "s1: z at y = 1"]
    assert [float(v) for v in rows[4]] == [1.5, 0, 0.75, 1.5]


def test_what_there_is_none_of_is_refused() -> None:
    for fmt in ("stl", "geojson"):
        with pytest.raises(NotRead):
            exported("curve of x for x from 0 to 1", fmt)
