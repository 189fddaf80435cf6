"""Space on paper: the camera, the picture against rays through the formula itself, numbers beside the box, sameness."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from matplotlib.path import Path
from PIL import Image
from scipy.spatial import ConvexHull

from open_lemma.core.figure.draw import FORMATS, draw
from open_lemma.core.figure.model import FigureData, from_text, to_text
from open_lemma.core.figure.space.camera import Camera
from open_lemma.core.figure.space.picture import Looks, taken
from open_lemma.core.figure.space.scene import Scene, Shape, Solid
from open_lemma.core.figure.space.shown import shown
from open_lemma.core.figure.space.window import SpaceWindow, solid_colour
from open_lemma.core.figure.style import THEMES
from open_lemma.core.figure.things import colour_map
from open_lemma.core.run.execute.interpreter import run

DEGREES = st.floats(-180, 180), st.floats(-90, 90)


def figure(script: str) -> FigureData:
    outcome = run(script)
    assert not outcome.failed, [m.text for m in outcome.reading.messages.items]
    return outcome.figures[0].data


def pixels(data: bytes) -> Any:
    import io

    return np.asarray(Image.open(io.BytesIO(data)).convert("RGB"))


# ---------------------------------------------------------------- camera


@settings(max_examples=60, deadline=None)
@given(*DEGREES)
def test_the_camera_keeps_lengths(azimuth: float, elevation: float) -> None:
    camera = Camera([(-1, 1)] * 3, [1, 1, 1], azimuth, elevation)
    frame = np.stack([camera.across, camera.up, camera.towards])
    assert frame @ frame.T == pytest.approx(np.eye(3), abs=1e-12)
    assert np.linalg.det(frame) == pytest.approx(1)  # right-handed: nothing is mirrored
    assert camera.up[2] >= -1e-12


def test_the_usual_sides() -> None:
    above = Camera([(0, 2), (0, 2), (0, 2)], [1, 1, 1], -90, 90)
    x, y = (above.project(np.array([[2, 0, 0], [0, 2, 0]])) - above.project(np.zeros((1, 3))))[:, :2]
    assert x == pytest.approx([1, 0], abs=1e-12)
    assert y == pytest.approx([0, 1], abs=1e-12)
    front = Camera([(0, 2)] * 3, [1, 1, 1], -90, 0)
    assert (front.project(np.array([[0, 0, 2]])) - front.project(np.zeros((1, 3))))[0, :2] == pytest.approx([0, 1], abs=1e-12)


@settings(max_examples=40, deadline=None)
@given(*DEGREES)
def test_normals_stay_upright_where_the_box_is_stretched(azimuth: float, elevation: float) -> None:
    """A plane through the box keeps its normal at right angles to it, whatever the proportions."""
    camera = Camera([(0, 1), (0, 5), (0, 100)], [1, 1, 0.6], azimuth, elevation)
    normal, along = np.array([[3.0, 2.0, 0.05]]), np.array([[2.0, -3.0, 0.0], [0.05, 0.0, -3.0]])
    drawn = camera.project(along) - camera.project(np.zeros((1, 3)))
    assert drawn @ camera.turned(normal)[0] == pytest.approx([0, 0], abs=1e-9)


# ---------------------------------------------------------------- the picture against rays


def test_what_hides_what_is_what_rays_through_the_formulas_say() -> None:
    """A ball, a plane and a wave that meet: of each pixel the nearest surface, worked out along its ray from the formulas."""
    script = (
        "figure a:\n    surface of x^2 + y^2 + z^2 = 1 for x from -1.5 to 1.5, y from -1.5 to 1.5, z from -1.5 to 1.5\n"
        "    surface of 0.4*sin(3x) + 0.2*y for x from -1.5 to 1.5, y from -1.5 to 1.5\n    true scale\n    z axis from -1.5 to 1.5\n"
    )
    data = figure(script)
    scene = data.panels[0].space
    assert scene is not None
    size = (300, 260)
    camera = Camera([(-1.5, 1.5)] * 3, scene.proportions, 35, 27, 150.0, (150.0, 130.0))
    looks = Looks(THEMES["paper"], False, None, colour_map()(np.linspace(0, 1, 256))[:, :3], solid_colour)
    picture = taken(Scene(35, 27, scene.proportions, scene.things), camera, size, 1.0, looks, 1)
    assert picture is not None
    rows, columns = picture.depth.shape
    px, py = np.meshgrid(np.arange(columns) + picture.left + 0.5, size[1] - (np.arange(rows) + picture.top + 0.5))
    # Along each ray: depth of the first place on either surface, in pixels towards the viewer.
    unit = 150.0 / 3.0
    start = ((px - 150) / unit)[..., None] * camera.across + ((py - 130) / unit)[..., None] * camera.up
    t = np.linspace(3.0, -3.0, 3001)
    nearest = np.full(px.shape, -np.inf)
    for k in range(rows):
        place = start[k][:, None, :] + t[None, :, None] * camera.towards
        x, y, z = np.moveaxis(place, -1, 0)
        within = (np.abs(place) <= 1.5).all(axis=-1)
        for value in (x * x + y * y + z * z - 1, z - 0.4 * np.sin(3 * x) - 0.2 * y):
            crossing = (np.sign(value[:, 1:]) != np.sign(value[:, :-1])) & within[:, 1:] & within[:, :-1]
            found = np.where(crossing.any(axis=1), t[np.argmax(crossing, axis=1)], -np.inf)
            nearest[k] = np.maximum(nearest[k], found)
    both = np.isfinite(nearest) & np.isfinite(picture.depth)
    assert (np.isfinite(nearest) == np.isfinite(picture.depth)).mean() > 0.985  # but for pixels on an outline
    wrong = np.abs(picture.depth[both] / unit - nearest[both]) > 0.03
    assert wrong.mean() < 0.012
    assert both.sum() > 10_000


def test_level_lines_of_the_picture_lie_on_their_levels() -> None:
    surface = '    surface of x + 0*y for x from 0 to 1, y from 0 to 1, colour "#ffffff", levels [0.5]\n'
    data = figure(f"figure a:\n{surface}    view azimuth 120, elevation 60")
    drawn = draw(data, "png", dpi=200)
    dark = (pixels(drawn.data).sum(axis=2) < 400).astype(float)
    camera = drawn.panels[0].camera
    assert camera is not None
    left, top, _, high = drawn.panels[0].bounds_px
    line = camera.project(np.column_stack([np.full(40, 0.5), np.linspace(0.05, 0.95, 40), np.full(40, 0.5)]))[:, :2]
    x, y = (left + line[:, 0]) * 200 / 96, (top + high - line[:, 1]) * 200 / 96
    near = [dark[int(b) - 1 : int(b) + 2, int(a) - 1 : int(a) + 2].max() for a, b in zip(x, y, strict=True)]
    assert np.mean(near) > 0.9


def test_a_line_behind_a_surface_is_seen_faintly() -> None:
    script = (
        'figure a:\n    surface of x^2 + y^2 + z^2 = 1 for x from -2 to 2, y from -2 to 2, z from -2 to 2, colour "#ffffff"\n'
        '    line from (0, -2, 0) to (0, 2, 0), width 2, colour "#000000"\n    view azimuth 0, elevation 0\n'
    )
    drawn = draw(figure(script), "svg")
    text = drawn.data.decode()
    assert 'id="s2"' in text
    assert 'id="s2-behind"' in text


def test_a_translucent_surface_lets_through_what_is_behind() -> None:
    script = (
        'figure a:\n    surface of x^2 + y^2 + z^2 = 4 for x from -2 to 2, y from -2 to 2, z from -2 to 2, colour "#ff0000", opacity {}\n'
        '    surface of x^2 + y^2 + z^2 = 1 for x from -2 to 2, y from -2 to 2, z from -2 to 2, colour "#0000ff"\n    no frame\n'
    )
    shades = []
    for opacity in ("0.3", "1"):
        drawn = draw(figure(script.format(opacity)), "png", dpi=100)
        picture = pixels(drawn.data)
        left, top, wide, high = (v * 100 / 96 for v in drawn.panels[0].bounds_px)
        shades.append(picture[int(top + high / 2), int(left + wide / 2)].astype(int))
    assert shades[0][2] > shades[0][0] / 2  # blue through the red
    assert shades[1][2] < 40


# ---------------------------------------------------------------- the box and its numbers

VIEWS = [(35, 27), (300, 34), (120, 60), (-90, 90), (-90, 0), (0, 0), (200, -20), (45, 89)]


@pytest.mark.parametrize(("azimuth", "elevation"), VIEWS)
def test_no_number_stands_on_the_box(azimuth: float, elevation: float) -> None:
    """So that none can stand on a surface: boxes of numbers against the outline of the box on paper."""
    view = f"    view azimuth {azimuth}, elevation {elevation}\n"
    axis = '    x axis "distance along the dam / m"\n'
    data = figure("figure a:\n    surface of sin(x)*cos(y) for x from -3 to 3, y from -3 to 3\n" + view + axis)
    made: list[SpaceWindow] = []
    whole = SpaceWindow.draw

    def remembered(self: SpaceWindow, *given: Any) -> Any:
        made.append(self)
        return whole(self, *given)

    SpaceWindow.draw = remembered  # type: ignore[method-assign]
    try:
        draw(data, "png", dpi=100)
    finally:
        SpaceWindow.draw = whole  # type: ignore[method-assign]
    window = made[0]
    flat = window.camera.project(window.camera.corners())[:, :2]
    outline = Path(flat[ConvexHull(flat).vertices])
    numbers, _ = window._numbers()
    assert len(numbers) >= 4
    for number in numbers:
        (x, y), (w, h) = number.at, number.half
        if not number.turn:
            spots = [(x + a * w * 0.8, y + b * h * 0.8) for a in (-1, 0, 1) for b in (-1, 0, 1)]
            assert not outline.contains_points(spots).any(), number.text
        assert x - w * 0.5 >= -1
        assert x + w * 0.5 <= window.size[0] + 1


# ---------------------------------------------------------------- sameness

SCENE = (
    'figure a "Two":\n    surface of x*y for x from -1 to 1, y from -1 to 1, levels 6, mesh 5, label "saddle"\n'
    '    curve of (cos(t), sin(t), t/6) for t from 0 to 6\n    points of [(0, 0, 0), (1, 1, 1)], label "spots"\n'
    '    text "top" at (1, 1, 1)\n    mark (0, 0, 0)\n    section of x*y for x from -1 to 1, y from -1 to 1, at x = 0.3\n'
    "    contours of x*y for x from -1 to 1, y from -1 to 1\n"
)


@pytest.mark.parametrize("fmt", FORMATS)
def test_kept_and_drawn_again_it_is_the_same_file(fmt: Any) -> None:
    data = figure(SCENE)
    again = from_text(to_text(data))
    assert draw(data, fmt, dpi=150).data == draw(again, fmt, dpi=150).data


def test_the_same_script_gives_the_same_bytes() -> None:
    assert to_text(figure(SCENE)) == to_text(figure(SCENE))


def test_a_scene_is_described_in_words() -> None:
    said = figure(SCENE).description()
    words = ("In space, seen from azimuth 35°", "a surface “saddle”", "level lines", "a curve", "2 points “spots”", "a plane", "z axis z")
    assert [w for w in words if w not in said] == []


def test_what_the_screen_is_told_holds_all_things() -> None:
    told = shown(figure(SCENE))
    window = told["windows"]["0"]
    assert [t["kind"] for t in window["things"]] == ["surface", "path", "points", "text", "mark", "plane", "path", "path"]
    assert len(window["map"]) == 64
    assert window["colours"]["low"] < window["colours"]["high"]


def test_normals_are_kept_to_a_hundredth_of_a_degree() -> None:
    normals = np.random.default_rng(1).normal(size=(500, 3))
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    kept = Shape(np.zeros((500, 3)), normals).directions
    assert np.degrees(np.linalg.norm(kept - normals, axis=1)).max() < 0.01


def test_a_surface_in_one_ink_is_paler_than_the_ink() -> None:
    assert solid_colour(Solid("s1", "surface", 1, Shape(np.zeros((1, 3))))) != solid_colour(Solid("s1", "path", 1, Shape(np.zeros((1, 3)))))


def test_the_plane_of_a_section_has_one_colour_on_screen_and_in_files() -> None:
    script = "figure a:\n    surface of x^2 - y^2 for x from -1 to 1, y from -1 to 1\n"
    section = "    section of x^2 - y^2 for x from -1 to 1, y from -1 to 1, at z = 0.2\n"
    data = run(script + section).figures[0].data
    (window,) = shown(data)["windows"].values()
    plane = next(t for t in window["things"] if t["kind"] == "plane")
    solid = next(t for t in data.panels[0].space.things if t.kind == "plane")  # type: ignore[union-attr]
    assert plane["colour"].upper() == solid_colour(solid).upper() == "#8A93A6"
