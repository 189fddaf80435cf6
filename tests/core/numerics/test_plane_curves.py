"""Curves of points and curves given by equations, against known curves: on them everywhere, whole, and with their knots."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from open_lemma.core.numerics.curves.implicit import Level
from open_lemma.core.numerics.curves.parametric import first_look, follow
from open_lemma.core.numerics.curves.sampling import PaperView
from open_lemma.core.run.execute.interpreter import run

Array = np.ndarray


def drawn(line: str) -> tuple[Array, Array]:
    outcome = run(line)
    assert not outcome.failed, [m.text for m in outcome.reading.messages.items]
    series = outcome.figures[0].data.series[0]
    return series.x, series.y


def branches(x: Array, y: Array) -> list[Array]:
    places = np.column_stack([x, y])
    gaps = np.flatnonzero(~np.isfinite(x))
    return [p[np.isfinite(p).all(axis=1)] for p in np.split(places, gaps) if np.isfinite(p).all(axis=1).any()]


def middles(branch: Array) -> Array:
    """Places on the drawn strokes, not only at their ends."""
    return np.concatenate([branch[:-1] + (branch[1:] - branch[:-1]) * t for t in (0.25, 0.5, 0.75)])


# J. D. Lawrence, A Catalog of Special Plane Curves (1972): equations and shapes; from memory.
EQUATIONS = {
    "circle": ("x^2 + y^2 = 4", "-3 to 3", "-3 to 3", 1, lambda x, y: np.hypot(x, y) - 2),
    "ellipse": ("x^2/4 + y^2/9 = 1", "-4 to 4", "-4 to 4", 1, None),
    "hyperbola": ("x^2 - y^2 = 1", "-3 to 3", "-3 to 3", 2, None),
    "oval of Cassini": ("(x^2 + y^2)^2 - 2*(x^2 - y^2) = 0.2", "-2 to 2", "-1 to 1", 1, None),
    "two ovals": ("(x^2 + y^2)^2 - 2*(x^2 - y^2) = -0.5", "-2 to 2", "-1 to 1", 2, None),
    "sine as an equation": ("y = sin(x)", "-6 to 6", "-2 to 2", 1, lambda x, y: y - np.sin(x)),
    "hyperbola at its poles": ("y = 1/x", "-3 to 3", "-5 to 5", 2, lambda x, y: y - 1 / x),
}  # fmt: skip


@pytest.mark.parametrize("name", EQUATIONS)
def test_equations_are_drawn_where_they_hold(name: str) -> None:
    equation, xs, ys, count, away = EQUATIONS[name]
    x, y = drawn(f"curve of {equation} for x from {xs}, y from {ys}")
    found = branches(x, y)
    assert len(found) == count
    if away is not None:
        on_paper = 340 / (float(xs.split(" to ")[1]) - float(xs.split(" to ")[0]))  # points for one unit
        for branch in found:
            assert np.abs(away(*branch.T)).max() * on_paper < 0.02
            places = middles(branch)
            slope = 1.0 if name != "hyperbola at its poles" else np.maximum(1, 1 / places[:, 0] ** 2)
            assert (np.abs(away(*places.T)) / slope).max() * on_paper < 0.1


def passes_through(found: list[Array], place: tuple[float, float]) -> int:
    """In how many ends and passages branches go through a place: two for each line that goes straight through."""
    count = 0
    for branch in found:
        at = np.flatnonzero(np.all(np.abs(branch - place) < 1e-9, axis=1))
        count += sum((k > 0) + (k < len(branch) - 1) for k in at.tolist())
    return count


KNOTS = [
    ("x^2 = y^2", (0, 0), None),  # two factors, two straight lines
    ("x*y = 0", (0, 0), None),
    ("y^2 = x^3 + x^2", (0, 0), 4),  # a loop that crosses itself
    ("y^2 = x^3", (0, 0), 2),  # a cusp
    ("(x^2 + y^2)^2 = 2*(x^2 - y^2)", (0, 0), 4),
    ("x^3 + y^3 = 3*x*y", (0, 0), 4),
    ("sin(x)^2 = sin(y)^2", (0, 0), 4),  # no polynomial
]


@pytest.mark.parametrize(("equation", "place", "ends"), KNOTS, ids=[e for e, _, _ in KNOTS])
def test_crossings_and_cusps_are_met_exactly(equation: str, place: tuple[float, float], ends: int | None) -> None:
    x, y = drawn(f"curve of {equation} for x from -2 to 2, y from -2 to 2")
    found = branches(x, y)
    if ends is None:
        # Each factor is a line of its own: it goes straight through, and neither turns the corner.
        assert len(found) == 2
        for branch in found:
            directions = np.diff(branch, axis=0)
            assert np.abs(np.cross(np.append(directions[0], 0), np.column_stack([directions, np.zeros(len(directions))]))).max() < 1e-9
    else:
        assert passes_through(found, place) == ends


def test_a_square_never_changes_its_sign_and_is_drawn_all_the_same() -> None:
    x, y = drawn("curve of (x^2 + y^2 - 1)^2 = 0 for x from -2 to 2, y from -2 to 2")
    assert np.abs(np.hypot(x, y)[np.isfinite(x)] - 1).max() < 1e-6
    angles = np.sort(np.arctan2(y, x)[np.isfinite(x)])
    assert np.diff(angles).max() < 0.2


def test_a_lone_point_is_drawn() -> None:
    x, y = drawn("curve of x^2 + y^2 = 0 for x from -1 to 1, y from -1 to 1")
    assert np.isfinite(x).sum() == 2
    assert np.abs(np.concatenate([x, y])).max() < 1e-9


def test_an_equation_without_a_solution_says_so() -> None:
    outcome = run("curve of x^2 + y^2 = -1 for x from -1 to 1, y from -1 to 1")
    assert any("no place in the window" in n.text for n in outcome.figures[0].notes)


def test_nothing_is_empty() -> None:
    assert Level(np.array([]), np.array([]), np.empty((0, 2)), 0).branches == 0


VIEW = PaperView(-1.1, 1.1, -1.1, 1.1, 300.0, 300.0)


@pytest.mark.parametrize(("p", "q"), [(1, 1), (3, 2), (5, 4), (17, 13)])
def test_curves_of_points_are_within_a_tenth_of_a_point(p: int, q: int) -> None:
    path = follow(lambda t: (np.cos(p * t), np.sin(q * t)), VIEW, first_look(lambda t: (np.cos(p * t), np.sin(q * t)), 0, 2 * np.pi))
    for share in (0.2, 0.5, 0.77):
        t = path.t[:-1] + np.diff(path.t) * share
        x, y = np.cos(p * t), np.sin(q * t)
        ax, ay, bx, by = path.x[:-1], path.y[:-1], path.x[1:], path.y[1:]
        length = np.maximum(np.hypot(bx - ax, by - ay), 1e-300)
        away = np.abs((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / length
        assert away.max() * 300 / 2.2 < 0.1
    assert path.t.size < 200 * (p + q)  # and no more places than that needs


def test_a_curve_of_points_ends_where_its_domain_ends() -> None:
    x, y = drawn("curve of (sqrt(t), sqrt(1 - t)) for t from -1 to 2")
    assert np.nanmin(x) == pytest.approx(0, abs=1e-6)
    assert np.nanmax(x) == pytest.approx(1, abs=1e-6)
    assert np.nanmax(np.abs(x**2 + y**2 - 1)) < 1e-9


def test_a_jump_is_not_joined() -> None:
    x, _ = drawn("curve of (t, floor(t)) for t from 0 to 2.5")
    assert np.isnan(x).sum() == 2


@settings(max_examples=25, deadline=None)
@given(st.floats(0.3, 2.0), st.floats(0.3, 2.0), st.floats(-0.4, 0.4), st.floats(-0.4, 0.4))
def test_any_ellipse_is_one_closed_branch_on_the_curve(a: float, b: float, h: float, k: float) -> None:
    x, y = drawn(f"curve of (x - ({h!r}))^2/{a!r}^2 + (y - ({k!r}))^2/{b!r}^2 = 1 for x from -2.5 to 2.5, y from -2.5 to 2.5")
    found = branches(x, y)
    assert len(found) == 1
    assert np.allclose(found[0][0], found[0][-1])
    assert np.abs(((x - h) / a) ** 2 + ((y - k) / b) ** 2 - 1).max() < 1e-6
