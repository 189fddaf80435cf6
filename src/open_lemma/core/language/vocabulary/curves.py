"""Curves in the plane."""

from __future__ import annotations

from .options import options
from .records import Noun, lines

NOUNS = (
    Noun(
        name="curve",
        asked_as=(
            "curve, circle, ellipse, hyperbola, function, function graph, graph of a function, parabola, implicit curve, "
            "parametric curve, polar curve, equation of a curve"
        ),
        shape="plain",
        summary="a function drawn as a line",
        options=options("colour width size dash marker opacity label axis every written fill hatch"),
        gives="drawing",
        coloured_by=True,
        usage=(
            "curve of FORMULA for VARIABLE from LOW to HIGH",
            "curve of (FORMULA, FORMULA) for VARIABLE from LOW to HIGH",
            "curve of FORMULA = FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH",
        ),
        example='curve of sin(x)/x for x from -10 to 10, width 1.5, label "$\\sin x / x$"',
        plain="curve of sin(x)",
        rich=lines(
            "f(x) = x^2/4 - 1",
            'figure "Three ways to give a curve":',
            '    curve of f(x) for x from -3 to 3, width 2, label "a function"',
            '    curve of (2*cos(t), sin(t)) for t from 0 to 2pi, dash dashed, label "a path"',
            '    curve of x^2 + 4*y^2 = 9 for x from -3 to 3, y from -2 to 2, dash dotted, label "an equation"',
            "    legend top right",
        ),
        slips=(
            "plot sin(x)",
            "plot x^2 from -3 to 3",
            "y = x^2",
            "curve of sin(x), red, dashed",
        ),
        common_words="plot a function, graph, draw, parametric, implicit, equation",
    ),
    Noun(
        name="band",
        asked_as="band, fill between, shade between, shaded region, shade, shaded area, fill area, area plot",
        shape="pair",
        summary="the area between two curves",
        options=options("colour width dash opacity label axis written hatch"),
        gives="drawing",
        usage=("band of FORMULA and FORMULA for VARIABLE from LOW to HIGH",),
        example="band of sin(x) - 0.2 and sin(x) + 0.2 for x from 0 to 6",
        plain="band of x^2 and 0 for x from 0 to 2",
        rich=lines(
            "f(x) = sin(x)",
            "figure:",
            '    band of f(x) - 0.2 and f(x) + 0.2 for x from 0 to 6, opacity 0.4, label "tolerance"',
            "    curve of f(x) for x from 0 to 6",
            "    legend bottom left",
        ),
        slips=("shade between x^2 and x from 0 to 1",),
        common_words="area between curves, shaded region, confidence band, filled",
    ),
    Noun(
        name="tangent",
        asked_as="tangent, tangent line, tangent to, touching line",
        shape="plain",
        summary="the straight line that touches a curve",
        options=options("colour width dash opacity label at axis written"),
        gives="drawing",
        usage=("tangent of FORMULA for VARIABLE, at PLACE",),
        example=lines(
            "figure a:",
            "    curve of x^2 for x from -1 to 3",
            "    tangent of x^2 for x, at 1",
        ),
        plain="tangent of x^2 for x, at 1",
        rich=lines(
            "f(x) = x^3/3 - x",
            "figure:",
            "    curve of f(x) for x from -2 to 2.5",
            '    tangent of f(x) for x, at 1.5, dash dashed, label "slope 1.25"',
            "    legend top left",
        ),
        slips=("tangent line of x^2 at x = 1",),
        common_words="straight line touching a curve, slope, linearise",
    ),
)
