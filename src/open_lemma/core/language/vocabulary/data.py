"""What is made of data, and how data are drawn."""

from __future__ import annotations

from .options import options
from .records import Noun, lines

NOUNS = (
    Noun(
        name="interpolation",
        asked_as=(
            "interpolation, interpolate, interpolating, spline, smooth curve through, curve through, smooth curve, pass through, "
            "join smoothly, cubic spline, polynomial through"
        ),
        shape="against",
        summary="a curve through given points",
        options=options("by ends errors"),
        gives="function",
        usage=(
            "NAME(VARIABLE) = interpolation of LIST against LIST, by spline",
            "NAME(VARIABLE, VARIABLE) = interpolation of LIST against (LIST, LIST)",
        ),
        example=lines(
            "level(t) = interpolation of [0.4, 1.1, 0.9, 0.2] against [0, 1, 2, 3], by spline",
            "show level(1.5)",
            "highest of level(t)",
        ),
        plain="p(x) = interpolation of [1, 4, 2] against [0, 1, 3], by spline",
        rich=lines(
            "xs = [0, 1, 2, 4, 5]",
            "ys = [1.0, 1.8, 2.1, 1.2, 0.4]",
            "level(x) = interpolation of ys against xs, by spline",
            "m = highest of level(x)",
            "figure:",
            "    curve of level(x)",
            "    points of ys against xs",
            "    mark m",
        ),
        slips=("spline through [1, 4, 2], [0, 1, 3]",),
        common_words="interpolate, spline, curve through points, between measurements, table lookup, smoothing",
    ),
    Noun(
        name="fit",
        asked_as=(
            "fit, fitting, regression, trend, trend line, line of best fit, best fit, best fit line, best line, least squares, "
            "curve fit, curve fitting, linear regression, fit a line, line through the points, straight line through, model, "
            "calibration, best straight line, power law, adjust"
        ),
        shape="fit",
        summary="a model adjusted to data",
        options=options("start limit fix loss errors"),
        gives="function",
        usage=(
            "NAME(VARIABLE) = fit of FORMULA to LIST against LIST for PARAMETER, PARAMETER",
            "NAME(VARIABLE) = fit of polynomial N to LIST against LIST",
        ),
        example=lines(
            "h = 0.05 to 0.4 step 0.05",
            "Q = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]",
            "rating(x) = fit of C*x^n to Q against h for C, n",
            "show rating(0.22), rating.n",
        ),
        plain="trend(x) = fit of polynomial 1 to [1.1, 1.9, 3.2, 3.9] against [1, 2, 3, 4]",
        rich=lines(
            "t = [0, 1, 2, 3, 4, 5]",
            "T = [80, 62.1, 50.3, 41.9, 36.2, 32.4]",
            "cooling(x) = fit of A*exp(-k*x) + T_0 to T against t for A, k, T_0",
            "show cooling.k",
            "figure:",
            "    confidence of cooling",
            "    curve of cooling(x)",
            "    points of T against t",
        ),
        slips=(
            "linear regression of [1.1, 1.9, 3.2] on [1, 2, 3]",
            "trendline",
            "exponential fit",
        ),
        common_words="least squares, regression, curve fitting, trend line, trendline, adjust a model to data, parameters with uncertainty",
    ),
    Noun(
        name="budget",
        asked_as=(
            "budget, uncertainty budget, error budget, error propagation, propagate error, propagation of uncertainty, "
            "contributions to the error"
        ),
        shape="plain",
        summary="what share each source has in the variance of an uncertain value",
        gives="finding",
        variables=0,
        usage=("budget of VALUE",),
        example=lines(
            "L = 1.20 ± 0.01 [m]",
            "g = 9.81 ± 0.02 [m/s^2]",
            "budget of 2*pi*sqrt(L/g)",
        ),
        common_words="uncertainty budget, error budget, contributions, which error matters most, error propagation",
    ),
    Noun(
        name="points",
        asked_as=(
            "points, draw measurements, plot measurements, draw data, "
            "points, point, scatter, scatter plot, scattered points, data points, dots, data, measurements, markers only, measured values"
        ),
        shape="data",
        summary="data drawn as marks",
        options=options("colour width size marker opacity label errors axis every written"),
        gives="drawing",
        coloured_by=True,
        usage=("points of LIST against LIST",),
        example=lines(
            "xs = 0 to 5 step 1",
            "points of xs^2 against xs, marker ring",
        ),
        plain="points of [(1, 2), (2, 3), (4, 5)]",
        rich=lines(
            "x = [1, 2, 3, 4]",
            "y = [2.1, 3.9, 6.2, 7.8]",
            "figure:",
            '    points of y against x, errors 0.3, marker ring, label "measured"',
            '    curve of 2x for x from 0 to 5, label "theory"',
            "    legend top left",
        ),
        slips=(
            "scatter [1, 2, 3], [2, 4, 6]",
            "plot (1, 2), (2, 3)",
        ),
        common_words="plot data, scatter, measurements, markers",
    ),
    Noun(
        name="line",
        asked_as=(
            "line plot, line chart, line graph, polyline, connect the dots, connect, joined points, join the points, "
            "connected line, connected points, joined"
        ),
        shape="data",
        summary="data joined by straight pieces",
        options=options("colour width size dash marker opacity label errors axis every written fill hatch"),
        gives="drawing",
        coloured_by=True,
        usage=("line of LIST against LIST",),
        example="line of [0, 1, gap, 2, 3] against [0, 1, 1, 2, 3]",
        plain="line of [0, 2, 1, 3] against [0, 1, 2, 3]",
        rich=lines(
            "t = 0 to 10 step 1",
            "figure:",
            '    line of [t, t^2/10] against t, label ["steady", "growing"]',
            "    legend top left",
        ),
        slips=("connect (0, 0), (1, 2), (3, 1)",),
        common_words="plot data joined, polyline, broken line, connect the dots",
    ),
    Noun(
        name="steps",
        asked_as="steps, step plot, staircase, stairs, stair plot",
        shape="against",
        summary="data drawn as a staircase",
        options=options("colour width dash opacity label axis written fill hatch"),
        gives="drawing",
        usage=("steps of LIST against LIST",),
        example="steps of [1, 3, 2, 2] against [0, 1, 2, 3]",
        plain="steps of [1, 3, 2, 2] against [0, 1, 2, 3]",
        rich=lines(
            "hours = 0 to 6 step 1",
            "flow = [1, 1, 2, 4, 3, 1, 1]",
            "figure:",
            "    steps of flow against hours, fill true",
            '    x axis "time / h"',
            '    y axis "pumps running"',
        ),
        slips=("step plot of [1, 3, 2] against [0, 1, 2]",),
        common_words="staircase, piecewise constant, histogram outline",
    ),
    Noun(
        name="bars",
        asked_as="bars, bar, bar chart, bar graph, bar plot, column chart, columns, bar diagram",
        shape="against",
        summary="data drawn as bars",
        options=options("colour width opacity label errors axis fill hatch"),
        gives="drawing",
        coloured_by=True,
        usage=("bars of LIST against LIST",),
        example='bars of [3, 5, 2] against ["spring", "neap", "slack"]',
        plain='bars of [3, 5, 2] against ["a", "b", "c"]',
        rich=lines(
            "figure:",
            '    bars of [3.1, 5.2, 2.4] against ["spring", "neap", "slack"], errors 0.4, hatch rising',
            '    y axis "range / m"',
        ),
        slips=("bar chart of [3, 5, 2] against [1, 2, 3]",),
        common_words="bar chart, columns, categories, histogram, counts",
    ),
    Noun(
        name="histogram",
        asked_as="histogram, distribution, frequency plot, frequencies, frequency distribution",
        shape="list",
        summary="how often data fall into equally wide parts; the parts by the rule of Freedman and Diaconis, or said",
        options=options("colour width opacity label fill axis hatch bins"),
        gives="drawing",
        usage=("histogram of LIST", "histogram of LIST, bins N"),
        example="histogram of normal(200, 12, 3, 1), bins 12",
        plain="histogram of [1, 2, 2, 3, 3, 3, 4, 4, 5]",
        rich=lines(
            "sample = normal(400, 20, 3, 7)",
            "figure:",
            "    histogram of sample, bins 16",
            "    line vertical at mean(sample), dash dashed",
            '    x axis "grain size / mm"',
        ),
        slips=("histogram with 5 bins of [1, 2, 2, 3, 3, 4]",),
        common_words="distribution, frequency, counts, spread of data, density, bins",
    ),
    Noun(
        name="residuals",
        asked_as="residuals, residual, residual plot, misfit",
        shape="result",
        summary="what a fit leaves over",
        options=options("colour size marker opacity label axis every written"),
        gives="drawing",
        usage=("residuals of FIT",),
        example=lines(
            "h = 0.05 to 0.4 step 0.05",
            "Q = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]",
            "rating(x) = fit of C*x^n to Q against h for C, n",
            "figure left:",
            "    residuals of rating",
        ),
        common_words="what is left over, misfit, deviation from the model",
    ),
    Noun(
        name="confidence",
        asked_as="confidence, confidence band, confidence interval, confidence bands, error band, uncertainty band",
        shape="result",
        summary="where the curve of a fit may lie",
        options=options("colour width dash opacity label axis written hatch"),
        gives="drawing",
        usage=(
            "confidence of FIT",
            "confidence of FIT for VARIABLE from LOW to HIGH",
        ),
        example=lines(
            "h = 0.05 to 0.4 step 0.05",
            "Q = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]",
            "rating(x) = fit of C*x^n to Q against h for C, n",
            "figure a:",
            "    confidence of rating",
            "    curve of rating(x)",
            "    points of Q against h",
        ),
        common_words="confidence band, uncertainty of the curve, error band",
    ),
    Noun(
        name="prediction",
        asked_as="prediction, prediction band, prediction interval, tolerance band",
        shape="result",
        summary="where one more measurement may lie",
        options=options("colour width dash opacity label axis written hatch"),
        gives="drawing",
        usage=(
            "prediction of FIT",
            "prediction of FIT for VARIABLE from LOW to HIGH",
        ),
        example=lines(
            "h = 0.05 to 0.4 step 0.05",
            "Q = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]",
            "rating(x) = fit of C*x^n to Q against h for C, n",
            "figure a:",
            "    prediction of rating",
            "    points of Q against h",
        ),
        common_words="prediction band, where a new measurement falls, tolerance band",
    ),
)
