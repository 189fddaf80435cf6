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
        common_words="least squares, regression, curve fitting, trend line, adjust a model to data, parameters with uncertainty",
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
