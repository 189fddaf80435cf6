"""Triangles, level lines and sections against closed forms: quadrics, tori, conics; trimmed edges, steps, poles, tips."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import ellipe

from open_lemma.core.numerics.curves.implicit import PlaneGradient, level_curves
from open_lemma.core.numerics.curves.sampling import PaperView
from open_lemma.core.numerics.surfaces.isosurface import ImplicitField, isosurface, own_box
from open_lemma.core.numerics.surfaces.mesh import Mesh, area, boxed, corners, enclosed_volume
from open_lemma.core.numerics.surfaces.sections import plane_of, section_of_field, section_of_sheet
from open_lemma.core.numerics.surfaces.sheets import Sheet, sheet_mesh

PAPER = np.full(3, 40.0)  # points for one unit
FINE = 0.036
BOX = np.array([[-2.0, 2.0]] * 3)
R, r = 1.8, 0.7

SPHERE = ImplicitField(lambda x, y, z: x * x + y * y + z * z - 1, lambda x, y, z: (2 * x, 2 * y, 2 * z))
CONE = ImplicitField(lambda x, y, z: x * x + y * y - z * z, lambda x, y, z: (2 * x, 2 * y, -2 * z))


def _torus_slopes(x: Any, y: Any, z: Any) -> Any:
    s = 4 * (x * x + y * y + z * z + R * R - r * r)
    return s * x - 8 * R * R * x, s * y - 8 * R * R * y, s * z


TORUS = ImplicitField(lambda x, y, z: (x * x + y * y + z * z + R * R - r * r) ** 2 - 4 * R * R * (x * x + y * y), _torus_slopes)


def explicit(h: Any, hx: Any, hy: Any, reach: float) -> Sheet:
    span = (-reach, reach)
    return Sheet(lambda x, y: (x, y, h(x, y)), lambda x, y: (-hx(x, y), -hy(x, y), np.ones_like(x)), span, span)


def turned(position: Any, normal: Any) -> Sheet:
    return Sheet(position, normal, (0.0, 2 * math.pi), (0.0, 2 * math.pi))


# ---------------------------------------------------------------- closed forms


def sphere_by_equation() -> Mesh:
    return isosurface(SPHERE, BOX, PAPER, FINE).mesh


def sphere_by_parameters() -> Mesh:
    def place(u: Any, v: Any) -> Any:
        return np.cos(u) * np.sin(v), np.sin(u) * np.sin(v), np.cos(v)

    return sheet_mesh(Sheet(place, place, (0.0, 2 * math.pi), (0.0, math.pi)), PAPER, FINE)


def half_sphere_by_height() -> Mesh:
    def h(x: Any, y: Any) -> Any:
        with np.errstate(invalid="ignore"):
            return np.sqrt(1 - x * x - y * y)

    with np.errstate(all="ignore"):
        return sheet_mesh(explicit(h, lambda x, y: -x / h(x, y), lambda x, y: -y / h(x, y), 1.2), PAPER, FINE)


def test_a_sphere_by_three_definitions() -> None:
    """Area 4 pi and volume 4 pi/3 (any handbook); half of the area for the upper half."""
    for mesh in (sphere_by_equation(), sphere_by_parameters()):
        assert area(mesh) == pytest.approx(4 * math.pi, rel=2e-3)
        assert area(mesh) < 4 * math.pi  # corners lie on it, so triangles lie inside
        assert enclosed_volume(mesh) == pytest.approx(4 * math.pi / 3, rel=2e-3)
    assert area(half_sphere_by_height()) == pytest.approx(2 * math.pi, rel=3e-3)


def test_a_torus_by_two_definitions() -> None:
    """Area 4 pi^2 R r, volume 2 pi^2 R r^2 (Pappus)."""
    box = np.array([[-2.6, 2.6], [-2.6, 2.6], [-0.9, 0.9]])
    sheet = turned(
        lambda u, v: (np.cos(u) * (R + r * np.cos(v)), np.sin(u) * (R + r * np.cos(v)), r * np.sin(v)),
        lambda u, v: (np.cos(u) * np.cos(v), np.sin(u) * np.cos(v), np.sin(v)),
    )
    for mesh in (isosurface(TORUS, box, PAPER, FINE).mesh, sheet_mesh(sheet, PAPER, FINE)):
        assert area(mesh) == pytest.approx(4 * math.pi**2 * R * r, rel=2e-3)
        assert enclosed_volume(mesh) == pytest.approx(2 * math.pi**2 * R * r * r, rel=3e-3)


@pytest.mark.parametrize("field", [SPHERE, TORUS], ids=["sphere", "torus"])
def test_corners_lie_on_the_true_surface_with_its_normals(field: ImplicitField) -> None:
    mesh = isosurface(field, np.array([[-2.7, 2.7]] * 3), PAPER, FINE).mesh
    slopes = field.gradient(mesh.vertices)
    steep = np.linalg.norm(slopes, axis=1)
    assert np.abs(field.at(mesh.vertices) / steep).max() < 1e-9
    assert np.einsum("ij,ij->i", mesh.normals, slopes / steep[:, None]) == pytest.approx(1.0)


def test_triangles_are_as_near_as_the_printed_page_asks() -> None:
    mesh = sphere_by_equation()
    away = 1 - np.linalg.norm(corners(mesh).mean(axis=1), axis=1)
    assert np.quantile(away, 0.95) * PAPER[0] < 2 * FINE
    assert len(mesh.triangles) < 60_000  # and no finer than that by far


def test_corners_on_the_box_stay_on_it() -> None:
    box = np.array([[-0.5, 0.5], [-2, 2], [-2, 2]])
    mesh = isosurface(SPHERE, box, PAPER, FINE).mesh
    edge = np.abs(np.abs(mesh.vertices[:, 0]) - 0.5) < 1e-12
    assert edge.sum() > 50
    assert np.abs(SPHERE.at(mesh.vertices[edge])).max() < 1e-9


# ---------------------------------------------------------------- edges, steps, poles, tips


def test_a_domain_ends_where_it_ends() -> None:
    mesh = half_sphere_by_height()
    radius = np.hypot(mesh.vertices[:, 0], mesh.vertices[:, 1])
    assert radius.max() <= 1
    assert (radius > 1 - 1e-12).sum() > 100  # the edge itself, found to neighbouring doubles
    assert np.isfinite(mesh.normals).all()


def test_steps_are_not_joined() -> None:
    flat = explicit(lambda x, y: np.floor(x + 0.3 * y), lambda x, _: 0 * x, lambda x, _: 0 * x, 2.0)
    mesh = sheet_mesh(flat, PAPER, FINE)
    assert np.ptp(corners(mesh)[..., 2], axis=1).max() == 0
    assert area(mesh) == pytest.approx(16, rel=1e-6)  # nothing is left out beside a step


def test_the_two_sides_of_a_pole_are_not_joined() -> None:
    wall = explicit(lambda x, y: 1 / (x - y), lambda x, y: -1 / (x - y) ** 2, lambda x, y: 1 / (x - y) ** 2, 2.0)
    with np.errstate(all="ignore"):
        mesh = boxed(sheet_mesh(wall, PAPER, FINE, box=np.array([[-2, 2], [-2, 2], [-9, 9.0]])), np.array([[-2, 2], [-2, 2], [-9, 9.0]]))
    signs = np.sign(corners(mesh)[..., 2])
    assert (np.abs(signs.sum(axis=1)) == 3).all()
    assert mesh.vertices[:, 2].max() == 9


def test_false_sheets_at_a_pole_of_an_equation_are_dropped() -> None:
    pole = ImplicitField(lambda x, _y, z: z - 0.3 / x, lambda x, _y, z: (0.3 / x**2, 0 * x, 1 + 0 * z))
    with np.errstate(all="ignore"):
        found = isosurface(pole, BOX, PAPER, FINE)
    assert found.false_parts
    assert np.abs(found.mesh.vertices[:, 0]).min() > 0.1


def test_the_point_of_a_cone_is_closed() -> None:
    mesh = isosurface(CONE, np.array([[-1, 1.0]] * 3), PAPER, FINE).mesh
    assert np.linalg.norm(mesh.vertices, axis=1).min() < 0.002


def test_what_never_changes_its_sign_is_told() -> None:
    square = ImplicitField(lambda x, y, z: SPHERE.value(x, y, z) ** 2, lambda x, y, z: (x, y, z))
    found = isosurface(square, BOX, PAPER, FINE)
    assert found.touching
    assert found.mesh.empty


def test_a_surface_finds_its_own_box() -> None:
    far = ImplicitField(lambda x, y, z: (x - 40) ** 2 + y * y + z * z - 9, lambda x, y, z: (2 * (x - 40), 2 * y, 2 * z))
    found = own_box(far)
    assert found is not None
    box, closed = found
    assert closed.all()
    assert (box[:, 0] <= [37, -3, -3]).all()
    assert (box[:, 1] >= [43, 3, 3]).all()
    assert np.diff(box, axis=1).max() < 12  # no wider than of use


def quadric(middle: Any, halves: Any) -> ImplicitField:
    """An ellipsoid."""
    (a, b, c), (p, q, s) = middle, halves
    return ImplicitField(lambda x, y, z: ((x - a) / p) ** 2 + ((y - b) / q) ** 2 + ((z - c) / s) ** 2 - 1,
                 lambda x, y, z: (2 * (x - a) / p**2, 2 * (y - b) / q**2, 2 * (z - c) / s**2))  # fmt: skip


@settings(max_examples=40, deadline=None)
@given(st.tuples(*[st.floats(-600, 600)] * 3), st.tuples(*[st.floats(-1.5, 2)] * 3))
def test_an_ellipsoid_anywhere_of_any_shape_finds_its_box(middle: tuple[float, ...], powers: tuple[float, ...]) -> None:
    halves = [10**p for p in powers]
    found = own_box(quadric(middle, halves))
    assert found is not None
    box, closed = found
    assert closed.all()
    for (low, high), m, h in zip(box, middle, halves, strict=True):
        assert low <= m - 0.97 * h
        assert high >= m + 0.97 * h
        assert high - low < 3.2 * h + 0.1 * max(halves)


@pytest.mark.parametrize(
    ("field", "closed", "seen"),
    [
        (ImplicitField(lambda x, _y, z: z - np.sin(x), lambda x, y, z: (-np.cos(x), 0 * y, 1 + 0 * z)), (False, False, True), 1.5),
        (ImplicitField(lambda x, y, z: x * x + y * y - 0.01 + 0 * z, lambda x, y, z: (2 * x, 2 * y, 0 * z)), (True, True, False), 1.5),
        (ImplicitField(lambda x, y, z: z - x * x - y * y, lambda x, y, z: (-2 * x, -2 * y, 1 + 0 * z)), (False, False, False), 1.0),
        (CONE, (False, False, False), 1.5),
    ],
    ids=["wave", "thin pipe", "paraboloid", "cone"],
)
def test_what_goes_on_without_end_is_told_along_each_axis(field: ImplicitField, closed: tuple[bool, ...], seen: float) -> None:
    found = own_box(field)
    assert found is not None
    assert tuple(found[1]) == closed
    assert all(high >= seen for (_, high), ends in zip(found[0], closed, strict=True) if not ends)


def test_a_surface_that_is_nowhere_has_no_box() -> None:
    assert own_box(ImplicitField(lambda x, y, z: x * x + y * y + z * z + 1, lambda x, y, z: (2 * x, 2 * y, 2 * z))) is None
    # It fades far out, and is zero nowhere.
    assert own_box(ImplicitField(lambda x, y, z: 1 / (1 + x * x + y * y + z * z), lambda x, y, z: tuple(
        -2 * v / (1 + x * x + y * y + z * z) ** 2 for v in (x, y, z)))) is None  # fmt: skip


# ---------------------------------------------------------------- edges of the domain


def _guarded(inner: Any) -> ImplicitField:
    """The unit sphere where `inner` is not negative, and no value elsewhere."""

    def held(values: Any, x: Any, y: Any, z: Any) -> Any:
        return np.where(inner(x, y, z) >= 0, values, np.nan)

    return ImplicitField(lambda x, y, z: held(SPHERE.value(x, y, z), x, y, z),
                 lambda x, y, z: tuple(held(g, x, y, z) for g in SPHERE.slopes(x, y, z)))  # fmt: skip


def test_a_surface_is_trimmed_along_the_edge_of_its_domain() -> None:
    # The part of the unit sphere below the plane x + y + z = 0.9, a cap cut off it: its area is 2 pi (1 + d), d = 0.9 / sqrt(3).
    mesh = isosurface(_guarded(lambda x, y, z: 0.9 - x - y - z), BOX, PAPER, FINE).mesh
    away = mesh.vertices.sum(axis=1) - 0.9
    assert away.max() <= 1e-9
    ends = rim(mesh)
    assert np.abs(away[ends]).max() < 1e-6  # and no teeth
    assert area(mesh) == pytest.approx(2 * math.pi * (1 + 0.9 / math.sqrt(3)), rel=1e-3)


def test_a_dome_that_stands_upright_on_its_rim_reaches_down_to_it() -> None:
    def slopes(x: Any, y: Any, z: Any) -> Any:
        root = np.sqrt(1 - x * x - y * y)
        return -x / root, -y / root, -1 + 0 * z

    mesh = isosurface(ImplicitField(lambda x, y, z: np.sqrt(1 - x * x - y * y) - z, slopes), BOX, PAPER, FINE, depth=0).mesh
    assert mesh.vertices[:, 2].min() >= 0
    assert mesh.vertices[rim(mesh), 2].max() < 0.001
    assert np.linalg.norm(mesh.vertices, axis=1) == pytest.approx(np.ones(len(mesh.vertices)), abs=5e-3)
    assert 2 * math.pi * 0.995 < area(mesh) < 2 * math.pi * 1.12  # some triangles near the rim lie twice


def rim(mesh: Mesh) -> Any:
    """Corners on sides that belong to one triangle only."""
    sides = np.sort(np.concatenate([mesh.triangles[:, [0, 1]], mesh.triangles[:, [1, 2]], mesh.triangles[:, [2, 0]]]), axis=1)
    edges, count = np.unique(sides, axis=0, return_counts=True)
    return np.unique(edges[count == 1])


def test_cut_to_a_box_the_area_is_that_of_the_part() -> None:
    plane = sheet_mesh(explicit(lambda x, y: x + 0 * y, lambda x, _: 1 + 0 * x, lambda x, _: 0 * x, 1.0), PAPER, FINE)
    part = boxed(plane, np.array([[-1, 1], [-1, 1], [-0.37, 0.61]]))
    assert area(part) == pytest.approx(0.98 * 2 * math.sqrt(2), rel=1e-6)


# ---------------------------------------------------------------- sections


def test_the_four_sections_of_a_cone() -> None:
    """Circle; ellipse with its perimeter by the complete elliptic integral; parabola with its arc length in closed form;
    hyperbola (handbook analytic geometry)."""
    circle = section_of_field(CONE, plane_of(0, 0, 1, 1), BOX)
    assert circle.length[0] == pytest.approx(2 * math.pi, rel=1e-10)
    assert circle.area is not None
    assert circle.area[0] == pytest.approx(math.pi, rel=1e-9)

    # z = 1 + x/2: (3/4)(x - 2/3)^2 + y^2 = 4/3; lengths along x are stretched by sqrt(5)/2 in the plane.
    box = np.array([[-3, 3], [-3, 3], [-3, 4.0]])
    ellipse = section_of_field(CONE, plane_of(-0.5, 0, 1, 1), box)
    a, b = 4 / 3 * math.sqrt(5) / 2, math.sqrt(4 / 3)
    assert ellipse.closed == 1
    assert ellipse.area is not None
    assert ellipse.area[0] == pytest.approx(math.pi * a * b, rel=1e-8)
    assert ellipse.length[0] == pytest.approx(4 * a * ellipe(1 - (b / a) ** 2), rel=1e-8)

    # z = x + 1/2: y^2 = x + 1/4, in the plane w = sqrt(2) (y^2 - 1/4) over -sqrt(2) < y < sqrt(2) where z stays below 2.
    parabola = section_of_field(CONE, plane_of(-1, 0, 1, 0.5), np.array([[-3, 3], [-3, 3], [-2, 2.0]]))
    k, top = 2 * math.sqrt(2), math.sqrt(1.75)
    arc = top * math.sqrt(1 + (k * top) ** 2) + math.asinh(k * top) / k
    assert parabola.closed == 0
    assert parabola.length[0] == pytest.approx(arc, rel=1e-6)

    hyperbola = section_of_field(CONE, plane_of(1, 0, 0, 0.5), BOX)
    assert hyperbola.branches == 2
    y, z = hyperbola.space[:, 1], hyperbola.space[:, 2]
    good = np.isfinite(y)
    assert (z[good] ** 2 - y[good] ** 2) == pytest.approx(0.25, abs=1e-9)


def test_a_ring_counts_its_hole() -> None:
    ring = section_of_field(TORUS, plane_of(0, 0, 1, 0), np.array([[-2.7, 2.7]] * 3))
    assert ring.closed == 2
    assert ring.area is not None
    assert ring.area[0] == pytest.approx(math.pi * ((R + r) ** 2 - (R - r) ** 2), rel=1e-8)
    assert ring.length[0] == pytest.approx(2 * math.pi * 2 * R, rel=1e-9)


def test_of_a_sheet_the_section_is_the_same() -> None:
    def place(u: Any, v: Any) -> Any:
        return np.cos(u) * (R + r * np.cos(v)), np.sin(u) * (R + r * np.cos(v)), r * np.sin(v) + 0 * u

    def slopes(u: Any, v: Any) -> Any:
        w = R + r * np.cos(v)
        return -np.sin(u) * w, np.cos(u) * w, 0 * u, -np.cos(u) * r * np.sin(v), -np.sin(u) * r * np.sin(v), r * np.cos(v)

    whole = (0.0, 2 * math.pi)
    found = section_of_sheet(place, slopes, whole, whole, plane_of(0, 0, 1, 0.2))
    assert found.length[0] == pytest.approx(2 * math.pi * 2 * R, rel=1e-8)


@settings(max_examples=25, deadline=None)
@given(st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda n: math.hypot(*n) > 0.1), st.floats(-0.9, 0.9))
def test_every_plane_cuts_a_sphere_in_a_circle(normal: tuple[float, float, float], distance: float) -> None:
    size = math.hypot(*normal)
    found = section_of_field(SPHERE, plane_of(*normal, distance * size), BOX)
    radius = math.sqrt(1 - distance * distance)
    assert found.length[0] == pytest.approx(2 * math.pi * radius, rel=1e-7)
    assert found.area is not None
    assert found.area[0] == pytest.approx(math.pi * radius**2, rel=1e-7)
    # What is said of the digits holds, and is not said wider than of use.
    assert abs(found.length[0] - 2 * math.pi * radius) <= 10 * found.length[1] + 1e-12
    assert found.length[1] < 1e-6


# ---------------------------------------------------------------- level lines


def test_level_lines_lie_on_their_levels() -> None:
    g = PlaneGradient(
        lambda x, y: np.sin(1.3 * x) * np.cos(y) + 0.15 * x * y, lambda x, y: 1.3 * np.cos(1.3 * x) * np.cos(y) + 0.15 * y,
        lambda x, y: -np.sin(1.3 * x) * np.sin(y) + 0.15 * x,
    )  # fmt: skip
    for level, line in zip((-0.7, 0.1, 0.6), level_curves(g, PaperView(-3, 3, -3, 3, 300, 300), (-0.7, 0.1, 0.6)), strict=True):
        good = np.isfinite(line.x)
        steep = np.hypot(g.fx(line.x[good], line.y[good]), g.fy(line.x[good], line.y[good]))
        assert (np.abs(g.f(line.x[good], line.y[good]) - level) / steep).max() < 1e-9


def test_the_curvature_of_level_lines() -> None:
    """Those of x^2 + y^2 are circles: three places along one give back its radius, the square root of the level."""
    g = PlaneGradient(lambda x, y: x * x + y * y, lambda x, _: 2 * x, lambda _, y: 2 * y)
    for level, line in zip((0.25, 1.0, 4.0), level_curves(g, PaperView(-2.2, 2.2, -2.2, 2.2, 300, 300), (0.25, 1.0, 4.0)), strict=True):
        n = len(line.x)
        a, b, c = (np.array([line.x[k], line.y[k]]) for k in (0, n // 3, 2 * n // 3))
        sides = [np.hypot(*(p - q)) for p, q in ((a, b), (b, c), (c, a))]
        double = abs((b - a)[0] * (c - a)[1] - (b - a)[1] * (c - a)[0])
        assert np.prod(sides) / (2 * double) == pytest.approx(math.sqrt(level), rel=1e-9)
