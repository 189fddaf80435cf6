"""Figures in space as scripts ask for them: boxes that are chosen and said, sections measured, level lines, readings, exports' data."""

from __future__ import annotations

import io
import math
from typing import Any

import numpy as np
import pytest
from PIL import Image

from open_lemma.core.figure.draw import draw
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.execute.outcome import DrawnFigure
from open_lemma.core.run.readings import NotRead, height_grid, read
from open_lemma.core.run.record import figure_record


def drawn(script: str, place: int = 0) -> DrawnFigure:
    outcome = run(script)
    assert not outcome.failed, [m.text for m in outcome.reading.messages.items]
    return outcome.figures[place]


def notes(script: str, place: int = 0) -> list[str]:
    return [n.text for n in drawn(script, place).notes]


def things(script: str) -> list[Any]:
    space = drawn(script).data.panels[0].space
    assert space is not None
    return space.things


# ---------------------------------------------------------------- boxes


@pytest.mark.parametrize(
    ("script", "said"),
    [
        ("surface of x^2 + y^2 + z^2 = 9", "window for x chosen: −3.5 to 3.5, all of it that was found lies there"),
        ("surface of x^2 - y^2 - z^2 = 1", "window for x chosen: −2 to 2, it goes on beyond"),
        ("surface of x^2*y - 4y", "window for x chosen"),
        ("surface of sin(x)*y for x from 0 to 10, y from 0 to 10", "heights at 0.31 of their true scale"),
        ("surface of x*y/100 for x from 0 to 10, y from 0 to 10", "heights 6.2 times exaggerated"),
        ("surface of x*y for x from 0 to 1, y from 0 to 100", "each axis has a scale of its own: y is stretched 0.01 times against x"),
        ("surface of x^2 + y^2 + z^2 = 1", "true scale"),
        ("figure a:\n    surface of x*y for x from 0 to 1, y from 0 to 1\n    true scale", "true scale"),
        ("surface of 1/(x - y) for x from -2 to 2, y from -2 to 2", "grows far beyond the rest; cut below and above"),
        ("f(x, y) = x*y for x from 0 to 2, y from 0 to 3\nsurface of f(x, y)", "heights from 0 to 6, so that all is seen"),
    ],
)
def test_what_is_chosen_is_said(script: str, said: str) -> None:
    assert any(said in n for n in notes(script)), notes(script)


def test_the_peak_that_the_first_look_misses_is_in_the_box() -> None:
    data = drawn("surface of exp(-800*((x - 0.313)^2 + (y + 0.217)^2)) for x from -2 to 2, y from -2 to 2").data
    z = data.panels[0].z
    assert z is not None
    assert z.high == pytest.approx(1.0)
    assert max(float(t.shape.vertices[:, 2].max()) for t in data.panels[0].space.things) > 0.995  # type: ignore[union-attr]


def test_axes_that_are_given_cut_the_surface() -> None:
    script = "figure a:\n    surface of x^2 + y^2 for x from -2 to 2, y from -2 to 2\n    z axis from 0 to 1\n    x axis from 0 to 2"
    shape = things(script)[0].shape
    assert shape.vertices[:, 2].max() == 1
    assert shape.vertices[:, 0].min() == 0


def test_lines_on_the_floor_have_room_beneath() -> None:
    over = "x^2 + y^2 for x from -1 to 1, y from -1 to 1"
    script = f"figure a:\n    surface of {over}\n    contours of {over}, levels 5"
    data = drawn(script).data
    assert data.panels[0].z is not None
    assert data.panels[0].z.low < -0.5
    floor = next(t for t in things(script) if t.what == "floor")
    height = floor.shape.vertices[:, 2]
    assert np.nanmax(np.abs(height - data.panels[0].z.low)) < 1e-6
    radius = np.hypot(floor.shape.vertices[:, 0], floor.shape.vertices[:, 1])
    assert np.nanmax(np.abs(radius**2 - floor.shape.tints)) < 1e-5


# ---------------------------------------------------------------- things


def test_a_list_of_surfaces_and_names_inside_the_block() -> None:
    found = things('figure a:\n    g(x, y) = x - y\n    surface of [x*y, g(x, y)] for x from 0 to 1, y from 0 to 1, label ["a", "b"]')
    found = [t for t in found if t.kind == "surface"]
    assert [t.label for t in found] == ["a", "b"]
    assert not any(t.scaled for t in found)  # two surfaces: each in an ink of its own


def test_where_surfaces_meet_there_is_a_line_and_its_length_is_said() -> None:
    span = "x from -2 to 2, y from -2 to 2"
    script = f"figure a:\n    surface of x + 0*y for {span}\n    surface of x^2 + y^2 + z^2 = 1"
    line = next(t for t in things(script) if t.what == "meeting")
    x, y, z = line.shape.vertices.T.astype(float)
    assert z == pytest.approx(x, abs=1e-6)
    assert x * x + y * y + z * z == pytest.approx(np.ones(len(x)), abs=1e-6)
    # A great circle.
    assert any("the two surfaces meet along a closed line 6.2831853" in n for n in notes(script)), notes(script)


@pytest.mark.parametrize(
    ("height", "x", "y"),
    [
        ("sqrt(9 - x^2 - 4y^2)", (-3, 3), (-1.5, 1.5)),  # all of its domain
        ("5exp(-((x - 200)/30)^2 - ((y + 80)/10)^2)", (150, 250), (-100, -60)),
        ("(x - 50)^2 + (y + 20)^2", (30, 70), (-40, 0)),
        ("x*exp(-x^2 - y^2)", (-1.5, 1.5), (-1.5, 1.5)),
    ],
)
def test_windows_that_nobody_gave_show_what_matters(height: str, x: tuple[float, float], y: tuple[float, float]) -> None:
    panel = drawn(f"surface of {height}").data.panels[0]
    for axis, (low, high) in ((panel.x, x), (panel.y, y)):
        assert axis.low <= low + 1e-9
        assert axis.high >= high - 1e-9
        assert axis.high - axis.low <= 5 * (high - low)


def test_a_surface_of_an_equation_is_read_where_it_is_nearest() -> None:
    data = drawn("surface of (x^2 + y^2 + z^2 - 4)*(x - z) = 0 for x from -3 to 3, y from -3 to 3, z from -3 to 3").data
    near = read(data, "s1", 1.21, 1.19, 1.02)
    assert near.exact
    assert near.z is not None
    assert near.x**2 + near.y**2 + near.z**2 == pytest.approx(4, abs=1e-12)
    assert (near.x, near.y, near.z) == pytest.approx((1.25, 1.23, 1.05), abs=0.05)
    plane = read(data, "s1", 0.52, 0.1, 0.5)
    assert plane.x == pytest.approx(plane.z, abs=1e-12)
    for place in ((0.0, 0.0, 3.0), (0.0, 0.0, None)):
        with pytest.raises(NotRead):
            read(data, "s1", *place)


@pytest.mark.parametrize(
    ("cut", "said"),
    [
        ("x^2 + y^2 - z^2 = 1, at z = 2", f"enclosing an area of {5 * math.pi:.7f}"),  # a circle wider than the surface's own window
        ("(x - 80)^2 + y^2 + z^2 = 4, at y + z = 1", f"enclosing an area of {3.5 * math.pi:.6f}"),
        ("x^2 + y^2 - z^2 = 0, at x = z + 1", "the section goes on beyond the window"),
    ],
)
def test_a_section_finds_its_own_window_in_the_plane(cut: str, said: str) -> None:
    found = notes(f"section of {cut}")
    assert any(said in n for n in found), found


def test_a_surface_without_end_is_seen_as_far_as_it_is_cut() -> None:
    equation = "x^2 + y^2 - z^2 = 1"
    script = f"figure a:\n    surface of {equation}\n    section of {equation}, at z = 3"
    panel = drawn(script).data.panels[0]
    assert panel.z is not None
    assert panel.z.high > 3
    assert panel.x.high > math.sqrt(10)
    assert any("an area of 31.41592" in n for n in notes(script)), notes(script)


def test_surfaces_with_a_common_edge_meet_only_where_they_cross() -> None:
    # Both are zero along x = 0, where the first ends; they cross along y = 0.
    said = notes("figure a:\n    surface of [x*y, 0*x*y] for x from 0 to 6, y from -1 to 1")
    assert any("meet along a line 6 long" in n for n in said), said


def test_of_three_surfaces_it_is_said_which_meet() -> None:
    span = "x from -1 to 1, y from -1 to 1"
    said = notes(f"figure a:\n    surface of [x + 0*y, 3 + 0*x*y, 1/2 - x + 0*y] for {span}")
    assert any("surfaces 1 and 3 meet along a line 2 long" in n for n in said), said
    assert not any("surfaces 1 and 2" in n or "surfaces 2 and 3" in n for n in said)


def test_no_line_is_drawn_where_one_of_the_surfaces_has_ended() -> None:
    # The second reaches only from 0 to 1, the line x = y = z of the first two goes on beyond it.
    found = things(
        "figure a:\n    surface of 0*x*y for x from -3 to 3, y from -3 to 3\n    surface of x - 1/2 + 0*y for x from 0 to 1, y from 0 to 1"
    )
    line = next(t for t in found if t.what == "meeting")
    assert line.shape.vertices[:, 1].min() > -1e-5
    assert line.shape.vertices[:, 1].max() < 1 + 1e-5


def test_a_product_is_drawn_factor_by_factor_and_a_square_like_what_is_squared() -> None:
    shape = things("surface of (z - x)*(z + x) = 0 for x from -1 to 1, y from -1 to 1, z from -1 to 1")[0].shape
    assert np.abs(np.abs(shape.vertices[:, 2]) - np.abs(shape.vertices[:, 0])).max() < 1e-6
    assert len(things("surface of (x^2 + y^2 + z^2 - 1)^2 = 0 for x from -2 to 2, y from -2 to 2, z from -2 to 2")[0].shape.vertices) > 1000


def test_data_on_a_grid_and_scattered() -> None:
    grid = things("xs = [0, 1, 2]\nys = [0, 10]\nsurface of [[1, 2], [3, 4], [5, 6]] against (xs, ys), by bilinear")[0].shape
    x, y, z = grid.vertices.T.astype(float)
    assert z == pytest.approx(1 + 2 * x + y / 10, abs=1e-5)
    script = "xs = [0, 4, 4, 0, 2]\nys = [0, 0, 4, 4, 2]\nzs = [0, 1, 2, 1, 3]\nsurface of zs against (xs, ys)"
    assert any("outline of the points" in n for n in notes(script))
    half = things("xs = [0, 4, 0, 1]\nys = [0, 0, 4, 1]\nzs = [0, 1, 2, 1]\nsurface of zs against (xs, ys)")[0].shape
    assert (half.vertices[:, 0] + half.vertices[:, 1]).max() < 4 + 1e-6  # nothing beyond the triangle of the points


def test_colour_by_a_formula_of_parameters_and_places() -> None:
    script = "surface of (cos(u), sin(u), v) for u from 0 to 2pi, v from 0 to 1, colour by u + z"
    solid = things(script)[0]
    assert solid.shape.tints == pytest.approx(solid.shape.params[:, 0] + solid.shape.vertices[:, 2], abs=1e-5)
    colours = drawn(script).data.panels[0].colours
    assert colours is not None
    assert colours.high == pytest.approx(2 * math.pi + 1, abs=0.05)


def test_marks_of_two_variables_stand_at_their_heights() -> None:
    script = (
        "r = maxima of 3 - x^2 - (y - 1)^2 for x from -1 to 1, y from 0 to 2\nfigure a:\n"
        "    surface of 3 - x^2 - (y - 1)^2 for x from -1 to 1, y from 0 to 2\n    mark r"
    )
    mark = next(t for t in things(script) if t.kind == "mark")
    assert mark.shape.vertices[0] == pytest.approx([0, 1, 3], abs=1e-6)


# ---------------------------------------------------------------- sections and level lines


def test_sections_are_measured_and_unrolled_in_true_lengths() -> None:
    script = "section of x^2 + y^2 + z^2 = 4 for x from -3 to 3, y from -3 to 3, z from -3 to 3, at x + y = 1"
    radius = math.sqrt(4 - 0.5)
    said = notes(script)[0]
    assert f"{2 * math.pi * radius:.7f}"[:8] in said
    assert f"{math.pi * radius**2:.7f}"[:8] in said
    assert "(checked)" in said
    series = drawn(script).data.panels[0].series[0]
    good = np.isfinite(series.x)
    middle = [(v[good].min() + v[good].max()) / 2 for v in (series.x, series.y)]
    assert np.hypot(series.x[good] - middle[0], series.y[good] - middle[1]) == pytest.approx(radius, abs=1e-4)
    assert drawn(script).data.panels[0].true_scale


def test_a_plane_along_an_axis_keeps_the_names_of_the_others() -> None:
    data = drawn("section of x^2*y for x from 0 to 2, y from 0 to 3, at x = 1.5").data
    assert (data.panels[0].x.text, data.panels[0].y.text) == ("$y$", "$z$")
    series = data.panels[0].series[0]
    assert series.y == pytest.approx(2.25 * series.x, abs=1e-9)


def test_in_space_the_section_is_a_plane_and_a_line_on_the_surface() -> None:
    over = "x*y for x from -1 to 1, y from -1 to 1"
    script = f"figure a:\n    surface of {over}\n    section of {over}, at x - y = 0"
    found = things(script)
    assert [t.kind for t in found] == ["surface", "plane", "path"]
    x, y, z = found[2].shape.vertices.T
    assert np.nanmax(np.abs(x - y)) < 1e-6
    assert np.nanmax(np.abs(z - x * y)) < 1e-6


def test_level_lines_in_the_plane() -> None:
    script = "contours of x^2 + 4y^2 for x from -3 to 3, y from -2 to 2, levels 1 to 9 count 3"
    series = drawn(script).data.panels[0].series[0]
    assert series.levels == [1, 5, 9]
    good = np.isfinite(series.x)
    assert np.abs(series.x[good] ** 2 + 4 * series.y[good] ** 2 - series.tints[good]).max() < 1e-9  # type: ignore[index]
    kinds = {b.kind for b in draw(drawn(script).data).boxes}
    assert "label" in kinds  # heights on the lines


def test_a_level_that_is_not_reached_is_said() -> None:
    assert any("no line at 40: the heights in the window run from 0 to" in n
               for n in notes("contours of x^2 + y^2 for x from -1 to 1, y from -1 to 1, levels [1, 40]"))  # fmt: skip


# ---------------------------------------------------------------- record, reading, walk


def test_the_record_says_how_the_box_stands() -> None:
    figure = drawn('figure a:\n    surface of x*y for x from -1 to 1, y from -1 to 1, label "s"\n    view azimuth 10, elevation 20')
    found = figure_record(figure, draw(figure.data), {})
    panel = found["layout"]["panels"][0]
    assert (panel["space"]["azimuth"], panel["space"]["elevation"]) == (10, 20)
    assert panel["z"]["low"] == -1
    assert found["layout"]["series"] == [
        {"id": "s1", "line": 2, "kind": "surface", "label": "s", "points": len(things_of(figure)[0].shape.vertices), "panel": 0,
         "exact": True, "colour": found["layout"]["series"][0]["colour"]}
    ]  # fmt: skip


def things_of(figure: DrawnFigure) -> list[Any]:
    space = figure.data.panels[0].space
    assert space is not None
    return space.things


def test_a_surface_is_read_off_its_function() -> None:
    found = read(drawn("surface of x^2 + sin(y) for x from 0 to 2, y from 0 to 2").data, "s1", 1.25, 0.5)
    assert (found.x, found.y, found.z, found.exact) == (1.25, 0.5, 1.25**2 + math.sin(0.5), True)
    tube = read(drawn("surface of (cos(u), sin(u), v) for u from 0 to 6, v from 0 to 1").data, "s1", 1.0, 0.25)
    assert (tube.x, tube.y, tube.z) == (math.cos(1), math.sin(1), 0.25)
    with pytest.raises(NotRead):
        read(drawn("surface of x^2 + y^2 + z^2 = 1").data, "s1", 0, 0)


def test_heights_as_a_grid() -> None:
    solid = things("surface of x*y for x from 0 to 2, y from 0 to 1")[0]
    xs, ys, heights = height_grid(solid, 0.5)
    assert xs.tolist() == [0, 0.5, 1, 1.5, 2]
    assert heights == pytest.approx(np.outer(xs, ys))


def test_panels_beside_each_other_may_lie_in_space_and_in_the_plane() -> None:
    script = (
        'figure a, 1 by 2:\n    panel "s":\n        surface of x*y for x from 0 to 1, y from 0 to 1\n'
        '    panel "p":\n        curve of x^2 for x from 0 to 1\n'
    )
    panels = drawn(script).data.panels
    assert panels[0].space is not None
    assert panels[1].space is None
    assert len(draw(drawn(script).data).panels) == 2


CUT = [
    # Radius of the cylinder around z, the height over it, and a box that cuts the curve: at faces of both, at none, at narrow peaks.
    (5.0, "x*y/10", lambda x, y: x * y / 10, (-4.9, 4.9), (-4.9, 4.9), (-1.0, 1.0)),
    (2.0, "x^2/4", lambda x, _: x**2 / 4, (-1.9, 3.0), (-3.0, 1.95), (-1.0, 0.8)),
    (2.0, "sin(3x)", lambda x, _: np.sin(3 * x), (-3.0, 3.0), (-3.0, 3.0), (-0.999, 0.999)),
    (5.0, "x/5", lambda x, _: x / 5, (-6.0, 4.99), (-6.0, 6.0), (-6.0, 6.0)),
]


@pytest.mark.parametrize("equation", [False, True])
@pytest.mark.parametrize(("radius", "height", "z_of", "x", "y", "z"), CUT, ids=[c[1] for c in CUT])
def test_a_curve_that_the_window_cuts_is_as_long_as_what_is_in_it(
    radius: float, height: str, z_of: Any, x: Any, y: Any, z: Any, equation: bool
) -> None:
    t = np.linspace(0, 2 * math.pi, 2_000_001)
    places = np.array([radius * np.cos(t), radius * np.sin(t), z_of(radius * np.cos(t), radius * np.sin(t))])
    inside = np.all([(p >= low) & (p <= high) for p, (low, high) in zip(places, (x, y, z), strict=True)], axis=0)
    true = float(np.linalg.norm(np.diff(places, axis=1), axis=0)[inside[1:] & inside[:-1]].sum())
    spans = [f"{n} from {low} to {high}" for n, (low, high) in zip("xyz", (x, y, z), strict=True)]
    sheet = f"surface of z = {height} for {', '.join(spans)}" if equation else f"surface of {height} for {', '.join(spans[:2])}"
    box = ", ".join(spans)
    said = notes(f"figure cut:\n    surface of x^2 + y^2 = {radius**2} for {box}\n    {sheet}")
    told = next(n for n in said if "meet along" in n)
    assert float(told.split(" long")[0].split()[-1]) == pytest.approx(true, rel=3e-5)


def test_fill_false_leaves_the_lines_without_the_sheet() -> None:
    span = "x from -2 to 2, y from -2 to 2"
    (bare,) = things(f"figure a:\n    surface of x*y for {span}, fill false")
    (meshed,) = things(f"figure a:\n    surface of x*y for {span}, mesh 8, fill false")
    (whole,) = things(f"figure a:\n    surface of x*y for {span}, levels 5")
    assert (bare.opacity, bool(bare.levels)) == (0, True)
    assert (meshed.opacity, meshed.levels) == (0, None)
    assert whole.opacity == 1
    pixels = [_covered(f"figure a:\n    surface of x*y for {span}, levels 5{more}") for more in ("", ", fill false")]
    assert 0 < pixels[1] < 0.2 * pixels[0]


def _covered(script: str) -> float:
    """How much of the paper is not white."""
    body = draw(drawn(script).data, "png", 150).data
    image = np.asarray(Image.open(io.BytesIO(body)).convert("L"), dtype=float)
    return float((image < 235).mean())


def test_the_side_from_which_a_surface_is_seen_shows_it() -> None:
    span = "x from 0 to 2, y from 0 to 2"
    assert any("seen along itself" in n for n in notes(f"figure a:\n    surface of x for {span}"))
    assert not any("seen along itself" in n for n in notes(f"figure a:\n    surface of sin(x)*cos(y) for {span}"))
    said = f"figure a:\n    view azimuth 35, elevation 27\n    surface of x for {span}"
    assert not any("seen along itself" in n for n in notes(said))
    hidden, seen = (_covered(s) for s in (said, f"figure a:\n    surface of x for {span}"))
    assert seen > 3 * hidden


def test_a_section_of_an_uncertain_surface_is_uncertain() -> None:
    """Of a ball of radius r at z = 1: a circle of radius sqrt(r^2 - 1), so dL/dr = 2 pi r/sqrt(r^2 - 1) and dA/dr = 2 pi r."""
    span = "x from -3 to 3, y from -3 to 3, z from -3 to 3"
    text = "r = 2.0 ± 0.1\nfigure a:\n    section of x^2 + y^2 + z^2 = r^2 for " + span + ", at z = 1"
    assert "section at z = 1: 10.88 ± 0.73 long, enclosing an area of 9.4 ± 1.3 (checked)" in notes(text)
    assert 0.1 * 4 * math.pi / math.sqrt(3) == pytest.approx(0.7255, abs=1e-4)
    assert 0.1 * 4 * math.pi == pytest.approx(1.2566, abs=1e-4)
