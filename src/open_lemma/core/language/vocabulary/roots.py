"""What is sought where a function is zero, where two meet, where equations hold."""

from __future__ import annotations

from .options import options
from .records import Noun, lines

NOUNS = (
    Noun(
        name="roots",
        asked_as=(
            "roots, find roots, "
            "roots, root, zeros, zeroes, zero, zero crossing, zero crossings, x intercept, x intercepts, intercept, where is zero, "
            "crosses the x axis, crosses zero, crosses the axis, bisection, newton, newton raphson, secant, equals zero, becomes zero"
        ),
        shape="plain",
        summary="every place in a window where a function is zero",
        options=options("near digits"),
        gives="finding",
        span_question="say where the roots are sought",
        endless=True,
        one_each=True,
        usage=("roots of FORMULA for VARIABLE from LOW to HIGH",),
        example=lines(
            "f(x) = x^3 - 2x + 1",
            "roots of f(x) for x from -3 to 3",
        ),
        plain="roots of x^2 - 2 for x from -2 to 2",
        rich=lines(
            "h(y) = y^3 - 3y + 1",
            "r = roots of h(y) for y from -3 to 3",
            "figure:",
            "    curve of h(y) for y from -3 to 3",
            "    mark r",
            "show r.x[1], digits 30",
        ),
        slips=(
            "zeros of x^2 - 2",
            "roots of x^2 - 2 from 0 to 2",
            "solve x^3 - x",
        ),
        common_words="zeros, where a curve meets the axis, solve f(x) = 0, intercepts",
    ),
    Noun(
        name="crossings",
        asked_as=(
            "crossings, crossing, two functions cross, two curves cross, intersection, intersections, "
            "intersect, intersecting, intersection points, meet, meeting point, "
            "common points, cross each other, break even, where are they equal"
        ),
        shape="pair",
        summary="where two curves meet",
        options=options("near digits"),
        gives="finding",
        span_question="say where the crossings are sought",
        endless=True,
        finding_name="meets",
        usage=("crossings of FORMULA and FORMULA for VARIABLE from LOW to HIGH",),
        example="crossings of x^2 and x + 1 for x from -3 to 3",
        plain="crossings of x^2 and x + 1 for x from -3 to 3",
        rich=lines(
            "a(x) = exp(-x)",
            "b(x) = x/2",
            "c = crossings of a(x) and b(x) for x from 0 to 3",
            "figure:",
            '    curve of [a(x), b(x)] for x from 0 to 3, label ["outflow", "inflow"]',
            "    mark c",
        ),
        slips=(
            "intersection of x^2 and x + 1",
            "where do x^2 and 2x meet",
        ),
        common_words="where two curves meet, intersection, intersect, equal, break even",
    ),
    Noun(
        name="solution",
        asked_as=(
            "solution, solve, solutions, solve for, solve equation, solve system, system of equations, equation, equations, "
            "unknown, satisfies"
        ),
        shape="equations",
        summary="all solutions of equations, or the spans where inequalities hold",
        options=options("near digits"),
        gives="finding",
        endless=True,
        usage=("solution of EQUATION, EQUATION for UNKNOWN, UNKNOWN",),
        example="solution of x^2 + y = 3, x - y = 1 for x, y",
        plain="solution of x^2 = 9 for x",
        rich=lines(
            "solution of x^2 + y^2 = 25, y = x + 1 for x, y",
            "solution of cos(x) = x for x from 0 to 1",
            "solution of x^2 < 4 for x",
        ),
        slips=(
            "solve x^2 = 9",
            "x^2 + 2x = 3, solve for x",
            "solve x + y = 3 and x - y = 1",
        ),
        common_words="solve an equation, system of equations, unknown, exact answer, rearrange",
    ),
)
