"""Curves on which two surfaces meet, against closed forms: circles, ellipses, Viviani's curve; what touches, what coincides."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import ellipe

from open_lemma.core.numerics.curves.branches import parted
from open_lemma.core.numerics.surfaces.isosurface import ImplicitField, isosurface
from open_lemma.core.numerics.surfaces.meetings import LevelFace, Meeting, SheetFace, TangentFace, meeting
from open_lemma.core.numerics.surfaces.mesh import Mesh
from open_lemma.core.numerics.surfaces.sheets import Sheet, sheet_mesh

PAPER = np.full(3, 60.0)
FINE = 0.036
BOX = np.array([[-2.0, 2.0]] * 3)
TURN = (0.0, 2 * math.pi)


def sphere(x0: float = 0.0, y0: float = 0.0, z0: float = 0.0, radius: float = 1.0) -> ImplicitField:
    return ImplicitField(lambda x, y, z: (x - x0) ** 2 + (y - y0) ** 2 + (z - z0) ** 2 - radius**2,
                 lambda x, y, z: (2 * (x - x0), 2 * (y - y0), 2 * (z - z0)))  # fmt: skip


def pipe(first: int, second: int, middle: float = 0.0, radius: float = 1.0) -> ImplicitField:
    """A round cylinder along the third axis."""

    def slopes(*at: Any) -> Any:
        found = [0 * at[0], 0 * at[0], 0 * at[0]]
        found[first], found[second] = 2 * (at[first] - middle), 2 * at[second]
        return tuple(found)

    return ImplicitField(lambda *at: (at[first] - middle) ** 2 + at[second] ** 2 - radius**2 + 0 * sum(at), slopes)


def met(*fields: ImplicitField, cells: int = 40) -> Meeting:
    one, other = (isosurface(f, BOX, PAPER, 0.3, cells=cells).mesh for f in fields)
    return meeting(one, other, (LevelFace([fields[0]]), LevelFace([fields[1]])), PAPER, FINE)


def ring(turned: bool, shift: float, radius: float, tube: float) -> tuple[Mesh, SheetFace, Any]:
    """A torus by two parameters, around the z axis or the y axis, with the function that is zero on it."""
    order = [0, 2, 1] if turned else [0, 1, 2]

    def place(u: Any, v: Any) -> Any:
        found = [(radius + tube * np.cos(v)) * np.cos(u), (radius + tube * np.cos(v)) * np.sin(u), tube * np.sin(v)]
        return tuple(found[k] + (shift if n == 0 else 0) for n, k in enumerate(order))

    def tangents(u: Any, v: Any) -> Any:
        reach = radius + tube * np.cos(v)
        du = [-reach * np.sin(u), reach * np.cos(u), 0 * u]
        dv = [-tube * np.sin(v) * np.cos(u), -tube * np.sin(v) * np.sin(u), tube * np.cos(v)]
        return tuple(np.stack([d[k] for k in order], axis=-1) for d in (du, dv))

    sheet = Sheet(place, lambda u, v: tuple(np.moveaxis(np.cross(*tangents(u, v)), -1, 0)), TURN, TURN)

    def zero(p: Any) -> Any:
        q = (p - [shift, 0, 0])[:, order]
        return (np.hypot(q[:, 0], q[:, 1]) - radius) ** 2 + q[:, 2] ** 2 - tube**2

    return sheet_mesh(sheet, PAPER, FINE), SheetFace(lambda u, v: np.stack(place(u, v), axis=-1), tangents), zero


def on(found: Meeting) -> Any:
    return np.concatenate(parted(found.places))


@settings(max_examples=25, deadline=None)
@given(st.floats(0.6, 1.2), st.floats(0.5, 1.0), st.floats(-1, 1), st.floats(-1, 1))
def test_two_spheres_meet_along_a_circle(first: float, second: float, share: float, tilt: float) -> None:
    apart = abs(first - second) + 0.15 + (first + second - abs(first - second) - 0.3) * abs(share)
    direction = np.array([math.cos(tilt), math.sin(tilt) * 0.8, math.sin(tilt) * 0.6])
    x0, y0, z0 = -0.6 * direction
    x1, y1, z1 = (apart - 0.6) * direction
    one, other = sphere(x0, y0, z0, first), sphere(x1, y1, z1, second)
    box = np.array([[-3.0, 3.0]] * 3)
    meshes = [isosurface(f, box, PAPER, 0.3, cells=40).mesh for f in (one, other)]
    found = meeting(meshes[0], meshes[1], (LevelFace([one]), LevelFace([other])), PAPER, FINE)
    along = (apart**2 + first**2 - second**2) / (2 * apart)
    radius = math.sqrt(first**2 - along**2)
    length, doubt = found.length
    assert (found.branches, found.closed) == (1, 1)
    assert abs(length - 2 * math.pi * radius) <= doubt
    assert doubt < 1e-5
    places = on(found)
    assert np.abs(one.at(places)).max() < 1e-12
    assert np.abs(other.at(places)).max() < 1e-12


def test_a_curve_that_crosses_itself_goes_through_the_crossing() -> None:
    # Viviani's curve: the unit sphere and a pipe through its middle, half as wide. Its length is 4 sqrt(2) E(k), k^2 = 1/2, by its
    # element of arc sqrt(1 + cos^2 t) / 1 (Abramowitz and Stegun 17.3.3).
    found = met(sphere(), pipe(0, 1, 0.5, 0.5))
    true = 4 * math.sqrt(2) * ellipe(0.5)
    assert found.length[0] == pytest.approx(true, rel=1e-7)
    assert found.closed == found.branches
    assert np.linalg.norm(on(found) - [1, 0, 0], axis=1).min() < 1e-7


@pytest.mark.parametrize("radius", [0.4999, 0.5001, 0.499, 0.503])
def test_a_curve_that_only_comes_near_to_crossing_itself_is_whole(radius: float) -> None:
    # Within the sphere the pipe leaves it along two lines, beyond it along one.
    found = met(sphere(), pipe(0, 1, 0.5, radius))
    assert found.closed == found.branches == (2 if radius < 0.5 else 1)
    t = np.linspace(0, 2 * math.pi, 400_001)
    x, y = 0.5 + radius * np.cos(t), radius * np.sin(t)
    within = x * x + y * y <= 1
    places = np.column_stack([x, y, np.sqrt(np.maximum(1 - x * x - y * y, 0))])[within]
    steps = np.linalg.norm(np.diff(places, axis=0), axis=1)
    assert found.length[0] == pytest.approx(2 * steps[steps < 0.01].sum(), rel=2e-3)


def test_two_pipes_meet_along_two_ellipses() -> None:
    found = met(pipe(0, 1), pipe(0, 2))
    assert found.length[0] == pytest.approx(8 * math.sqrt(2) * ellipe(0.5), rel=1e-6)
    places = on(found)
    assert np.abs(np.abs(places[:, 1]) - np.abs(places[:, 2])).max() < 1e-7
    # Both crossings are reached.
    for end in (-1, 1):
        assert np.linalg.norm(places - [end, 0, 0], axis=1).min() < 1e-7


def test_a_curve_that_leaves_the_box_ends_on_its_very_face() -> None:
    # Two pipes of other sizes, cut off in the middle of their meeting: the half of it with x > 0 goes on to the face x = 0.
    fields = pipe(0, 1, 0.0, 1.0), pipe(0, 2, 0.0, 0.6)
    box = np.array([[0.0, 2.0], [-2.0, 2.0], [-2.0, 2.0]])
    meshes = [isosurface(f, box, PAPER, 0.3, cells=40).mesh for f in fields]
    found = meeting(meshes[0], meshes[1], (LevelFace([fields[0]]), LevelFace([fields[1]])), PAPER, FINE)
    whole = met(*fields)
    assert found.branches == 2
    assert found.closed == 0
    ends = [b[k] for b in parted(found.places) for k in (0, -1)]
    assert np.abs([e[0] for e in ends]).max() < 1e-9
    assert found.length[0] == pytest.approx(whole.length[0] / 2, rel=1e-7)
    assert abs(found.length[0] - whole.length[0] / 2) <= found.length[1] + whole.length[1]


def test_a_curve_that_leaves_a_sheet_ends_on_its_very_edge() -> None:
    # A part of a pipe, its edges no planes across an axis, and the unit sphere: two arcs of a circle of radius 0.9.
    def place(u: Any, v: Any) -> Any:
        return 0.9 * np.cos(u) + 0 * v, 0.9 * np.sin(u) + 0 * v, v + 0 * u

    def tangents(u: Any, v: Any) -> Any:
        return np.stack([-0.9 * np.sin(u), 0.9 * np.cos(u), 0 * u], axis=-1), np.stack([0 * u, 0 * u, 1 + 0 * v], axis=-1)

    sheet = Sheet(place, lambda u, v: (np.cos(u) + 0 * v, np.sin(u) + 0 * v, 0 * u + 0 * v), (0.5, 2.0), (-2.0, 2.0))
    ball = sphere()
    faces = SheetFace(lambda u, v: np.stack(place(u, v), axis=-1), tangents), LevelFace([ball])
    found = meeting(sheet_mesh(sheet, PAPER, 2.0), isosurface(ball, BOX, PAPER, 0.3, cells=40).mesh, faces, PAPER, FINE)
    assert found.branches == 2
    assert found.length[0] == pytest.approx(2 * 0.9 * 1.5, rel=1e-8)
    assert abs(found.length[0] - 2 * 0.9 * 1.5) <= found.length[1] < 1e-5


def test_an_end_that_is_known_only_as_well_as_triangles_is_doubted() -> None:
    # The level sheet ends where it touches the sphere: there is no telling the end by planes.
    ball = sphere()
    level = ImplicitField(lambda x, y, z: z + 0 * x + 0 * y, lambda x, y, z: (0 * x, 0 * y, 1 + 0 * z))
    box = np.array([[-2.0, 2.0], [-1.0, 1.0], [-2.0, 2.0]])
    meshes = [isosurface(f, b, PAPER, 0.3, cells=40).mesh for f, b in ((ball, BOX), (level, box))]
    length, doubt = meeting(meshes[0], meshes[1], (LevelFace([ball]), LevelFace([level])), PAPER, FINE).length
    assert abs(length - 2 * math.pi) <= doubt < 0.05


@pytest.mark.parametrize("other", [sphere(2.0), sphere(), sphere(0.0, 0.0, 0.0, 0.4), sphere(1.9, 1.9, 1.9, 0.3)],
                         ids=["touching", "the same", "inside", "apart"])  # fmt: skip
def test_where_nothing_crosses_there_is_no_line(other: ImplicitField) -> None:
    assert met(sphere(), other).branches == 0


def test_two_sheets_meet_across_their_seams() -> None:
    (one, a, first), (other, b, second) = ring(False, 0.0, 1.0, 0.4), ring(True, 0.5, 1.0, 0.4)
    found = meeting(one, other, (a, b), PAPER, FINE)
    places = on(found)
    assert found.branches == found.closed == 4
    assert max(np.abs(first(places)).max(), np.abs(second(places)).max()) < 1e-12
    assert found.length[1] < 1e-4


def test_a_sheet_and_a_level_surface_meet_as_two_level_surfaces_do() -> None:
    # The unit sphere cuts a torus along two circles of the same latitude: sqrt(x^2 + y^2) = (1 + 1 - 0.16) / 2.
    mesh, face, _ = ring(False, 0.0, 1.0, 0.4)
    ball = sphere()
    found = meeting(mesh, isosurface(ball, BOX, PAPER, 0.3, cells=40).mesh, (face, LevelFace([ball])), PAPER, FINE)
    assert found.closed == 2
    assert found.length[0] == pytest.approx(2 * 2 * math.pi * 0.92, rel=1e-7)


def test_of_a_product_the_nearest_factor_counts() -> None:
    fields = [sphere(-0.9), sphere(0.9)]
    level = ImplicitField(lambda x, y, z: z + 0 * x + 0 * y, lambda x, y, z: (0 * x, 0 * y, 1 + 0 * z))
    meshes = [isosurface(f, BOX, PAPER, 0.3, cells=40).mesh for f in (fields[0], level)]
    faces: tuple[TangentFace, TangentFace] = LevelFace(fields), LevelFace([level])
    assert meeting(meshes[0], meshes[1], faces, PAPER, FINE).length[0] == pytest.approx(2 * math.pi, rel=1e-7)
