"""What is measured over a span."""

from __future__ import annotations

from .options import options
from .records import Noun, lines

NOUNS = (
    Noun(
        name="integral",
        asked_as=(
            "integral, integrate, integration, antiderivative, primitive, area under, area below, area under the curve, "
            "area under the graph, area under curve, area between the curve and the x axis, definite integral, "
            "indefinite integral, quadrature, volume under, double integral"
        ),
        shape="plain",
        summary="area under a curve; without a span the antiderivative",
        options=options("digits unit"),
        gives="finding",
        span_question="say from where to where the integral goes",
        endless=True,
        variables=2,
        nested=True,
        one_each=True,
        finding_name="area",
        usage=(
            "integral of FORMULA for VARIABLE from LOW to HIGH",
            "integral of FORMULA for VARIABLE",
            "integral of FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH",
        ),
        example=lines(
            "integral of exp(-x^2) for x from 0 to infinity",
            "integral of x*exp(x) for x",
            "integral of x*y for x from 0 to 1, y from 0 to x",
        ),
        plain="integral of x^2 for x from 0 to 3",
        rich=lines(
            "v(t) = 3*exp(-t/4)",
            "integral of v(t) for t from 0 to 10",
            "integral of v(t) for t from 0 to infinity",
            "figure:",
            "    band of v(t) and 0 for t from 0 to 10",
        ),
        slips=(
            "integrate x^2 from 0 to 3",
            "area under x^2 from 0 to 3",
            "∫ x^2 dx",
        ),
        common_words=(
            "area under a curve, integrate, quadrature, work done, total, antiderivative, primitive, volume, volume under a surface, "
            "double integral"
        ),
    ),
    Noun(
        name="area",
        asked_as="area, area between, area enclosed, enclosed area, area enclosed by, region between, surface area",
        shape="one or pair",
        summary="the area between two curves, or that of a surface",
        options=options("digits unit"),
        gives="finding",
        span_question="say from where to where the area goes",
        endless=True,
        variables=2,
        nested=True,
        usage=(
            "area of FORMULA and FORMULA for VARIABLE from LOW to HIGH",
            "area of FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH",
            "area of (FORMULA, FORMULA, FORMULA) for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH",
        ),
        example=lines(
            "area of x and x^2 for x from 0 to 1",
            "area of x^2 + y^2 for x from -1 to 1, y from -1 to 1",
            "area of (cos(u)*sin(v), sin(u)*sin(v), cos(v)) for u from 0 to 2pi, v from 0 to pi",
        ),
        plain="area of x^2 and x for x from 0 to 1",
        rich=lines(
            "f(x) = 4 - x^2",
            "g(x) = x + 2",
            "area of f(x) and g(x) for x from -2 to 1",
            "figure:",
            "    band of f(x) and g(x) for x from -2 to 1",
            "    curve of [f(x), g(x)] for x from -3 to 2",
        ),
        slips=(
            "area between x^2 and x",
            "area of x^2 from 0 to 1",
        ),
        common_words="area between curves, enclosed, region, surface area, area of a surface",
    ),
    Noun(
        name="length",
        asked_as="length, arc length, curve length, length of the curve, length of curve, how long, perimeter, path length",
        shape="plain",
        summary="how long a curve is",
        options=options("digits"),
        gives="finding",
        span_question="say from where to where the length is measured",
        one_each=True,
        of_lists=True,
        finding_name="way",
        usage=(
            "length of FORMULA for VARIABLE from LOW to HIGH",
            "length of (FORMULA, FORMULA) for VARIABLE from LOW to HIGH",
        ),
        example=lines(
            "length of x^2 for x from 0 to 1",
            "length of (cos(t), 2*sin(t)) for t from 0 to 2pi",
        ),
        plain="length of x^2 for x from 0 to 1",
        rich=lines(
            "length of (cos(t), sin(t)) for t from 0 to 2pi",
            "length of (cos(t), sin(t), t/4) for t from 0 to 4pi",
        ),
        slips=("arc length of x^2 from 0 to 1",),
        common_words="arc length, perimeter, how long a curve is",
    ),
    Noun(
        name="mean",
        asked_as="mean value, average value, average, mean",
        shape="plain",
        summary="the mean value of a function over a span",
        options=options("digits unit"),
        gives="finding",
        span_question="say over which span the mean is taken",
        one_each=True,
        of_lists=True,
        finding_name="middle",
        usage=("mean of FORMULA for VARIABLE from LOW to HIGH",),
        example="mean of sin(x)^2 for x from 0 to pi",
        plain="mean of x^2 for x from 0 to 3",
        rich=lines(
            "f(t) = 2 + sin(t)",
            "m = mean of f(t) for t from 0 to 2pi",
            "figure:",
            "    curve of f(t) for t from 0 to 2pi",
            "    line horizontal at m",
        ),
        slips=("average of x^2 from 0 to 3",),
        common_words="mean value of a function, average over a span",
    ),
    Noun(
        name="centroid",
        asked_as="centroid, centre of mass, center of mass, centre of gravity, center of gravity, centre of area",
        shape="one or pair",
        summary="the centre of the area under a curve or between two curves, or of a list of points",
        gives="finding",
        span_question="say from where to where the area goes",
        endless=True,
        usage=(
            "centroid of FORMULA for VARIABLE from LOW to HIGH",
            "centroid of FORMULA and FORMULA for VARIABLE from LOW to HIGH",
            "centroid of LIST",
        ),
        example=lines("centroid of 1 - x^2 for x from -1 to 1", "centroid of [(0, 0), (3, 0), (0, 6)]"),
        common_words="centre of area, centre of mass, centre of gravity, first moment, middle of points",
    ),
)
