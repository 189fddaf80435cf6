"""Surfaces in space, their lines of equal height and their sections."""

from __future__ import annotations

from .options import options
from .records import Noun, lines

NOUNS = (
    Noun(
        name="surface",
        asked_as=(
            "surface, surface plot, 3d plot, 3d graph, 3d surface, 3d, 3-d, three dimensional, in space, wireframe, mesh plot, "
            "graph of two variables, relief"
        ),
        shape="surface",
        summary="a surface in space: a function of two variables, an equation in three, or places (x, y, z) of two parameters",
        options=options("colour opacity label by levels detail mesh fill"),
        gives="drawing",
        coloured_by=True,
        usage=(
            "surface of FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH",
            "surface of FORMULA = FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH",
            "surface of (FORMULA, FORMULA, FORMULA) for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH",
            "surface of LIST against (LIST, LIST)",
        ),
        example=lines(
            "surface of sin(x)*cos(y) for x from -3 to 3, y from -3 to 3, levels 12",
            "surface of x^2 + y^2 - z^2 = 1 for x from -2 to 2, y from -2 to 2, z from -2 to 2",
        ),
        plain="surface of x^2 - y^2 for x from -1 to 1, y from -1 to 1",
        rich=lines(
            "figure:",
            "    surface of sin(x)*cos(y) for x from -3 to 3, y from -3 to 3, levels 9, mesh 12",
            "    view azimuth 300, elevation 35",
        ),
        slips=(
            "plot x^2 + y^2",
            "3d plot of x*y",
        ),
        common_words=(
            "3-D plot, space, function of two variables, implicit surface, parametric surface, isosurface, mesh, "
            "relief, terrain, where two surfaces meet, intersection of surfaces"
        ),
    ),
    Noun(
        name="contours",
        asked_as=(
            "contours, contour, contour plot, contour lines, contour map, level curves, level lines, isolines, heat map, "
            "map of heights, height lines"
        ),
        shape="surface",
        summary="lines of equal height in the plane; in a figure in space on the floor of the box",
        options=options("colour width dash opacity label by levels fill"),
        gives="drawing",
        usage=(
            "contours of FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH, levels LIST",
            "contours of LIST against (LIST, LIST)",
        ),
        example="contours of x^2 + 3y^2 for x from -2 to 2, y from -2 to 2, levels 1 to 9 count 5",
        plain="contours of x^2 + 3y^2 for x from -2 to 2, y from -2 to 2",
        rich=lines(
            "h(x, y) = exp(-x^2 - y^2)*(x + 2y)",
            "m = extremes of h(x, y) for x from -2 to 2, y from -2 to 2",
            "figure:",
            "    contours of h(x, y) for x from -2 to 2, y from -2 to 2, levels 11, fill true",
            "    mark m",
        ),
        slips=(
            "contour plot of x^2 + y^2",
            "level curves of x*y",
        ),
        common_words="level curves, isolines, contour map, equal height, depth contours, filled contours",
    ),
    Noun(
        name="section",
        asked_as="section, slice, cross section, cut, intersect with plane",
        shape="plain",
        summary="where a plane cuts a surface: as a curve of its true lengths, in a figure in space on the surface itself",
        options=options("colour width dash opacity label at"),
        gives="drawing",
        usage=("section of FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH, at EQUATION",),
        example="section of exp(-x^2 - y^2) for x from -2 to 2, y from -2 to 2, at y = 0.5",
        plain="section of x^2 + y^2 for x from -2 to 2, y from -2 to 2, at x = 1",
        rich="section of x^2 + y^2 for x from -2 to 2, y from -2 to 2, at 2*x + y = 1",
        slips=("slice of x^2 + y^2 for x from -2 to 2, y from -2 to 2, at x = 1",),
        common_words="cut, slice, cross-section, plane, conic section, profile",
    ),
)
