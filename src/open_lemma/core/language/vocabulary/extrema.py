"""Lowest and highest places and values, and where a curve changes its bend."""

from __future__ import annotations

from .options import options
from .records import Noun, lines

NOUNS = (
    Noun(
        name="minima",
        asked_as="minima, local minimum, local minima, relative minimum, valleys, troughs, low points, all minima",
        shape="plain",
        summary="all lowest places of a window",
        options=options("near digits where"),
        gives="finding",
        span_question="say where the minima are sought",
        endless=True,
        variables=10,
        one_each=True,
        finding_name="lows",
        usage=(
            "minima of FORMULA for VARIABLE from LOW to HIGH",
            "minima of FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH, where CONDITION",
        ),
        example=lines(
            "E(y) = y + 0.2/y^2",
            "minima of E(y) for y from 0.2 to 3",
            "minima of x^2 + y^2 for x from -2 to 2, y from -2 to 2, where x + y >= 1",
        ),
        plain="minima of x^4 - x^2 for x from -2 to 2",
        rich=lines(
            "g(x, y) = (x^2 - 1)^2 + y^2",
            "m = minima of g(x, y) for x from -2 to 2, y from -1 to 1",
            "figure:",
            "    contours of g(x, y) for x from -2 to 2, y from -1 to 1, levels 12",
            "    mark m",
        ),
        slips=("local minimum of x^4 - x^2",),
        common_words="local minimum, lowest places, valley, optimise, minimise, constraint",
    ),
    Noun(
        name="maxima",
        asked_as="maxima, local maximum, local maxima, relative maximum, peaks, peak, crests, high points, all maxima",
        shape="plain",
        summary="all highest places of a window",
        options=options("near digits where"),
        gives="finding",
        span_question="say where the maxima are sought",
        endless=True,
        variables=10,
        one_each=True,
        finding_name="highs",
        usage=("maxima of FORMULA for VARIABLE from LOW to HIGH",),
        example="maxima of x*exp(-x) for x from 0 to infinity",
        plain="maxima of x*exp(-x) for x from 0 to 5",
        rich=lines(
            "f(t) = exp(-t/5)*sin(3t)",
            "m = maxima of f(t) for t from 0 to 8",
            "figure:",
            "    curve of f(t) for t from 0 to 8",
            "    mark m",
        ),
        slips=(
            "local maximum of x*exp(-x) from 0 to 5",
            "peaks of sin(x) from 0 to 20",
        ),
        common_words="local maximum, highest places, peak, crest, optimise, maximise",
    ),
    Noun(
        name="inflections",
        asked_as=(
            "inflections, inflection, inflection point, inflection points, point of inflection, points of inflection, "
            "changes its bend, changes concavity"
        ),
        shape="plain",
        summary="where a curve turns from bending one way to the other",
        options=options("near digits"),
        gives="finding",
        span_question="say where the inflections are sought",
        endless=True,
        one_each=True,
        finding_name="bends",
        usage=("inflections of FORMULA for VARIABLE from LOW to HIGH",),
        example="inflections of exp(-x^2) for x from -3 to 3",
        plain="inflections of exp(-x^2) for x from -3 to 3",
        rich=lines(
            "f(x) = x^3 - 3x^2",
            "p = inflections of f(x) for x from -1 to 3",
            "figure:",
            "    curve of f(x) for x from -1 to 3",
            "    mark p",
        ),
        slips=("inflection point of x^3 - 3x^2",),
        common_words="inflection, point where a curve changes its bend, concave, convex",
    ),
    Noun(
        name="extremes",
        asked_as=(
            "extremes, extrema, extremum, extreme values, turning points, turning point, stationary points, stationary point, "
            "critical points, critical point, minima and maxima, maxima and minima, min and max, max and min, minimum and maximum, "
            "maximum and minimum, highs and lows, vertex, saddle points, local extrema"
        ),
        shape="plain",
        summary="minima and maxima in order",
        options=options("near digits where"),
        gives="finding",
        span_question="say where minima and maxima are sought",
        endless=True,
        variables=3,
        one_each=True,
        finding_name="turns",
        usage=("extremes of FORMULA for VARIABLE from LOW to HIGH",),
        example=lines(
            "extremes of x^3 - 3x for x from -3 to 3",
            "extremes of x^2 - y^2 for x from -1 to 1, y from -1 to 1",
        ),
        plain="extremes of x^3 - 3x for x from -3 to 3",
        rich=lines(
            "f(x) = x*sin(x)",
            "turns = extremes of f(x) for x from 0 to 12",
            "figure:",
            "    curve of f(x) for x from 0 to 12",
            "    mark turns",
        ),
        slips=(
            "turning points of x^3 - 3x",
            "max and min of x^3 - 3x",
        ),
        common_words="turning points, stationary points, minimum and maximum, saddle, critical points",
    ),
    Noun(
        name="lowest",
        asked_as=(
            "lowest, minimum, minimum value, min, minimise, minimize, minimal, smallest, smallest value, least, least value, "
            "global minimum, absolute minimum, lowest point, lowest value, bottom"
        ),
        shape="plain",
        summary="the one lowest value, and where it is taken",
        options=options("digits where unit"),
        gives="finding",
        span_question="say where the lowest value is sought",
        endless=True,
        variables=10,
        one_each=True,
        finding_name="low",
        usage=("lowest of FORMULA for VARIABLE from LOW to HIGH",),
        example="lowest of x^4 - x^2 for x from -2 to 2",
        plain="lowest of x^2 - 3x for x from 0 to 4",
        rich=lines(
            "r = lowest of x + 4/x for x from 0.5 to 8",
            "figure:",
            "    curve of x + 4/x for x from 0.5 to 8",
            "    mark r",
            "show r.x, r.value",
        ),
        slips=(
            "minimum of x^2 - 3x",
            "smallest value of x^2 - 3x between 0 and 4",
        ),
        common_words="minimum, least value, global minimum, smallest, optimum, minimise",
    ),
    Noun(
        name="highest",
        asked_as=(
            "highest, maximum, optimise, optimize, optimum, "
            "highest, maximum, maximum value, max, maximise, maximize, maximal, largest, largest value, greatest, greatest value, "
            "biggest, global maximum, absolute maximum, highest point, highest value, optimum, optimise, optimize"
        ),
        shape="plain",
        summary="the one highest value, and where it is taken",
        options=options("digits where unit"),
        gives="finding",
        span_question="say where the highest value is sought",
        endless=True,
        variables=10,
        one_each=True,
        finding_name="high",
        usage=("highest of FORMULA for VARIABLE from LOW to HIGH",),
        example="highest of x*exp(-x) for x from 0 to 5",
        plain="highest of x*(6 - x) for x from 0 to 6",
        rich=lines(
            "V(x) = x*(30 - 2x)^2",
            "best = highest of V(x) for x from 0 to 15",
            "show best.x, best.value",
            "figure:",
            "    curve of V(x) for x from 0 to 15",
            "    mark best",
        ),
        slips=(
            "maximum of x*(6 - x)",
            "maximize x*(6 - x)",
        ),
        common_words="maximum, greatest value, global maximum, largest, peak, maximise",
    ),
)
