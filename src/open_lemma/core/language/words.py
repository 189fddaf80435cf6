"""The words of the language: one table each for reserved words, nouns, statement words and options.

Parser, checker, handbook and the editor's highlighting read these tables; there is no second list.
`available` is False for what the language has but this version cannot do yet: it is parsed, then refused by name.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

RESERVED = frozenset("of for from to in and or not if else when otherwise while define return join show check true false".split())

Shape = Literal["plain", "surface", "pair", "equations", "against", "data", "fit", "result"]


@dataclass(frozen=True, slots=True)
class Noun:
    """A request: `NOUN of SUBJECT …`. `shape` says what stands between `of` and `for`."""

    name: str
    shape: Shape
    draws: bool
    available: bool
    help: str
    options: frozenset[str] = frozenset()
    usage: str = ""
    example: str = ""
    words: str = ""  # the idea in common words, for the handbook's search


def _noun(name: str, shape: Shape, help: str, options: str = "", draws: bool = False, available: bool = False) -> Noun:
    usage, example, words = _NOUN_PAGES.get(name, (_USAGE[shape].format(name), "", ""))
    return Noun(name, shape, draws, available, help, frozenset(options.split()), usage, example, words)


_USAGE = {
    "plain": "{} of FORMULA for VARIABLE from LOW to HIGH", "pair": "{} of FORMULA and FORMULA for VARIABLE from LOW to HIGH",
    "equations": "{} of EQUATION, EQUATION for UNKNOWN, UNKNOWN", "against": "{} of LIST against LIST", "data": "{} of LIST against LIST",
    "surface": "{} of FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH",
    "fit": "{} of FORMULA to LIST against LIST for PARAMETER, PARAMETER", "result": "{} of FIT",
}  # fmt: skip
# How a request is written, an example that runs, and the idea in common words.
_NOUN_PAGES: dict[str, tuple[str, str, str]] = {
    "roots": ("roots of FORMULA for VARIABLE from LOW to HIGH", "f(x) = x^3 - 2x + 1\nroots of f(x) for x from -3 to 3",
              "zeros, where a curve meets the axis, solve f(x) = 0, intercepts"),
    "crossings": ("crossings of FORMULA and FORMULA for VARIABLE from LOW to HIGH", "crossings of x^2 and x + 1 for x from -3 to 3",
                  "where two curves meet, intersection, intersect, equal, break even"),
    "lowest": ("lowest of FORMULA for VARIABLE from LOW to HIGH", "lowest of x^4 - x^2 for x from -2 to 2",
               "minimum, least value, global minimum, smallest, optimum, minimise"),
    "highest": ("highest of FORMULA for VARIABLE from LOW to HIGH", "highest of x*exp(-x) for x from 0 to 5",
                "maximum, greatest value, global maximum, largest, peak, maximise"),
    "integral": ("integral of FORMULA for VARIABLE from LOW to HIGH   or   integral of FORMULA for VARIABLE   or   integral of FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH", "integral of exp(-x^2) for x from 0 to infinity\nintegral of x*exp(x) for x\nintegral of x*y for x from 0 to 1, y from 0 to x",
                 "area under a curve, integrate, quadrature, work done, total, antiderivative, primitive, volume, double integral"),
    "minima": ("minima of FORMULA for VARIABLE from LOW to HIGH   or   minima of FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH, where CONDITION", "E(y) = y + 0.2/y^2\nminima of E(y) for y from 0.2 to 3\nminima of x^2 + y^2 for x from -2 to 2, y from -2 to 2, where x + y >= 1",
               "local minimum, lowest places, valley, optimise, minimise, constraint"),
    "maxima": ("maxima of FORMULA for VARIABLE from LOW to HIGH", "maxima of x*exp(-x) for x from 0 to infinity",
               "local maximum, highest places, peak, crest, optimise, maximise"),
    "extremes": ("extremes of FORMULA for VARIABLE from LOW to HIGH", "extremes of x^3 - 3x for x from -3 to 3\nextremes of x^2 - y^2 for x from -1 to 1, y from -1 to 1",
                 "turning points, stationary points, minimum and maximum, saddle, critical points"),
    "inflections": ("inflections of FORMULA for VARIABLE from LOW to HIGH", "inflections of exp(-x^2) for x from -3 to 3",
                    "inflection, point where a curve changes its bend, concave, convex"),
    "area": ("area of FORMULA and FORMULA for VARIABLE from LOW to HIGH", "area of x and x^2 for x from 0 to 1", "area between curves, enclosed, region"),
    "length": ("length of FORMULA for VARIABLE from LOW to HIGH   or   length of (FORMULA, FORMULA) for VARIABLE from LOW to HIGH", "length of x^2 for x from 0 to 1\nlength of (cos(t), 2*sin(t)) for t from 0 to 2pi",
               "arc length, perimeter, how long a curve is"),
    "mean": ("mean of FORMULA for VARIABLE from LOW to HIGH", "mean of sin(x)^2 for x from 0 to pi", "mean value of a function, average over a span"),
    "limit": ("limit of FORMULA for VARIABLE, at PLACE   or   limit of FORMULA for VARIABLE from PLACE to HIGH, at PLACE", "limit of sin(x)/x for x, at 0\nlimit of (1 + 1/n)^n for n, at infinity\nlimit of 1/x for x from 0 to 1, at 0",
              "tends to, approaches, one-sided limit, asymptote"),
    "series": ("series of FORMULA for VARIABLE, at PLACE, order N", "p = series of exp(x) for x, at 0, order 4\nshow p\ncurve of [exp(x), p(x)] for x from -2 to 2",
               "Taylor, Maclaurin, power series, expansion, approximate by a polynomial"),
    "sum": ("sum of FORMULA for NAME from LOW to HIGH", "sum of 1/k^2 for k from 1 to infinity\nsum of k^2 for k from 1 to 100", "series of numbers, add up, sigma, infinite sum, converge"),
    "product": ("product of FORMULA for NAME from LOW to HIGH", "product of k for k from 1 to 6", "multiply, factorial, infinite product"),
    "simplification": ("simplification of FORMULA", "simplification of (x^2 - 1)/(x - 1)\nsimplification of sin(x)^2 + cos(x)^2", "simplify, shorten, cancel, reduce a formula"),
    "derivative": ("derivative of FORMULA for VARIABLE", "derivative of sin(x)*exp(-x) for x, at 1",
                   "slope, rate of change, differentiate, gradient, partial"),
    "values": ("values of FORMULA for VARIABLE from LOW to HIGH step STEP", "values of [x^2, sqrt(x)] for x from 0 to 2 step 0.5",
               "table of a function, tabulate, evaluate at many places"),
    "solution": ("solution of EQUATION, EQUATION for UNKNOWN, UNKNOWN", "solution of x^2 + y = 3, x - y = 1 for x, y",
                 "solve an equation, system of equations, unknown, exact answer, rearrange"),
    "curve": ("curve of FORMULA for VARIABLE from LOW to HIGH   or   curve of (FORMULA, FORMULA) for VARIABLE from LOW to HIGH   or   curve of FORMULA = FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH", 'curve of sin(x)/x for x from -10 to 10, width 1.5, label "$\\sin x / x$"',
              "plot a function, graph, draw, parametric, implicit, equation"),
    "points": ("points of LIST against LIST", "xs = 0 to 5 step 1\npoints of xs^2 against xs, marker ring",
               "plot data, scatter, measurements, markers"),
    "line": ("line of LIST against LIST", "line of [0, 1, gap, 2, 3] against [0, 1, 1, 2, 3]",
             "plot data joined, polyline, broken line, connect the dots"),
    "steps": ("steps of LIST against LIST", "steps of [1, 3, 2, 2] against [0, 1, 2, 3]", "staircase, piecewise constant, histogram outline"),
    "interpolation": ("NAME(VARIABLE) = interpolation of LIST against LIST, by spline   or   NAME(VARIABLE, VARIABLE) = interpolation of LIST against (LIST, LIST)",
                      "level(t) = interpolation of [0.4, 1.1, 0.9, 0.2] against [0, 1, 2, 3], by spline\nshow level(1.5)\nhighest of level(t)",
                      "interpolate, spline, curve through points, between measurements, table lookup, smoothing"),
    "fit": ("NAME(VARIABLE) = fit of FORMULA to LIST against LIST for PARAMETER, PARAMETER   or   NAME(VARIABLE) = fit of polynomial N to LIST against LIST",
            "h = 0.05 to 0.4 step 0.05\nQ = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]\nrating(x) = fit of C*x^n to Q against h for C, n\nshow rating(0.22), rating.n",
            "least squares, regression, curve fitting, trend line, adjust a model to data, parameters with uncertainty"),
    "residuals": ("residuals of FIT", "h = 0.05 to 0.4 step 0.05\nQ = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]\nrating(x) = fit of C*x^n to Q against h for C, n\nfigure left:\n    residuals of rating", "what is left over, misfit, deviation from the model"),
    "confidence": ("confidence of FIT   or   confidence of FIT for VARIABLE from LOW to HIGH", "h = 0.05 to 0.4 step 0.05\nQ = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]\nrating(x) = fit of C*x^n to Q against h for C, n\nfigure a:\n    confidence of rating\n    curve of rating(x)\n    points of Q against h",
                   "confidence band, uncertainty of the curve, error band"),
    "prediction": ("prediction of FIT   or   prediction of FIT for VARIABLE from LOW to HIGH", "h = 0.05 to 0.4 step 0.05\nQ = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]\nrating(x) = fit of C*x^n to Q against h for C, n\nfigure a:\n    prediction of rating\n    points of Q against h",
                   "prediction band, where a new measurement falls, tolerance band"),
    "surface": ("surface of FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH   or   surface of FORMULA = FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH   or   surface of (FORMULA, FORMULA, FORMULA) for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH   or   surface of LIST against (LIST, LIST)",
                "surface of sin(x)*cos(y) for x from -3 to 3, y from -3 to 3, levels 12\nsurface of x^2 + y^2 - z^2 = 1 for x from -2 to 2, y from -2 to 2, z from -2 to 2",
                "3-D plot, space, function of two variables, implicit surface, parametric surface, isosurface, mesh, relief, terrain, where two surfaces meet, intersection of surfaces"),
    "contours": ("contours of FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH, levels LIST   or   contours of LIST against (LIST, LIST)",
                 "contours of x^2 + 3y^2 for x from -2 to 2, y from -2 to 2, levels 1 to 9 count 5",
                 "level curves, isolines, contour map, equal height, depth contours, filled contours"),
    "section": ("section of FORMULA for VARIABLE from LOW to HIGH, VARIABLE from LOW to HIGH, at EQUATION",
                "section of exp(-x^2 - y^2) for x from -2 to 2, y from -2 to 2, at y = 0.5",
                "cut, slice, cross-section, plane, conic section, profile"),
    "bars": ("bars of LIST against LIST", 'bars of [3, 5, 2] against ["spring", "neap", "slack"]',
             "bar chart, columns, categories, histogram, counts"),
    "band": ("band of FORMULA and FORMULA for VARIABLE from LOW to HIGH", "band of sin(x) - 0.2 and sin(x) + 0.2 for x from 0 to 6",
             "area between curves, shaded region, confidence band, filled"),
    "tangent": ("tangent of FORMULA for VARIABLE, at PLACE", "figure a:\n    curve of x^2 for x from -1 to 3\n    tangent of x^2 for x, at 1",
                "straight line touching a curve, slope, linearise"),
}  # fmt: skip


_LINE = "colour width dash opacity label written axis"
_POINTS = "colour marker size opacity label written axis errors width dash"

NOUNS: dict[str, Noun] = {
    n.name: n
    for n in (
        _noun("roots", "plain", "every place in a window where a function is zero", "near digits", available=True),
        _noun("crossings", "pair", "where two curves meet", "near digits", available=True),
        _noun("minima", "plain", "all lowest places of a window", "near digits where", available=True),
        _noun("maxima", "plain", "all highest places of a window", "near digits where", available=True),
        _noun("inflections", "plain", "where a curve turns from bending one way to the other", "near digits", available=True),
        _noun("extremes", "plain", "minima and maxima in order", "near digits where", available=True),
        _noun("lowest", "plain", "the one lowest value, and where it is taken", "digits where", available=True),
        _noun("highest", "plain", "the one highest value, and where it is taken", "digits where", available=True),
        _noun("integral", "plain", "area under a curve; without a span the antiderivative", "digits", available=True),
        _noun("area", "pair", "the area between two curves", "digits", available=True),
        _noun("length", "plain", "how long a curve is", "digits", available=True),
        _noun("mean", "plain", "the mean value of a function over a span", "digits", available=True),
        _noun("solution", "equations", "all solutions of equations, or the spans where inequalities hold", "near digits", available=True),
        _noun("derivative", "plain", "the rate of change as a formula", "order at", available=True),
        _noun("limit", "plain", "what a value tends to", "at digits", available=True),
        _noun("series", "plain", "expansion in powers", "at order", available=True),
        _noun("sum", "plain", "sum of a formula over whole numbers", "digits", available=True),
        _noun("product", "plain", "product of a formula over whole numbers", "digits", available=True),
        _noun("simplification", "plain", "a formula in its shortest form", available=True),
        _noun("values", "plain", "a table of values", available=True),
        _noun("interpolation", "against", "a curve through given points", "by ends errors", available=True),
        _noun("fit", "fit", "a model adjusted to data", "start limit fix errors loss", available=True),
        _noun("curve", "plain", "a function drawn as a line", _LINE + " marker size every fill detail", draws=True, available=True),
        _noun("points", "data", "data drawn as marks", _POINTS + " every", draws=True, available=True),
        _noun("line", "data", "data joined by straight pieces", _LINE + " marker size every fill errors", draws=True, available=True),
        _noun("steps", "against", "data drawn as a staircase", _LINE + " fill", draws=True, available=True),
        _noun("bars", "against", "data drawn as bars", _LINE + " fill errors", draws=True, available=True),
        _noun("band", "pair", "the area between two curves", _LINE, draws=True, available=True),
        _noun("tangent", "plain", "the straight line that touches a curve", _LINE + " at", draws=True, available=True),
        _noun("surface", "surface", "a surface in space: a function of two variables, an equation in three, or places (x, y, z) of two parameters", "colour mesh levels fill opacity detail label by", draws=True, available=True),
        _noun("contours", "surface", "lines of equal height in the plane; in a figure in space on the floor of the box", "colour levels width dash label fill opacity by", draws=True, available=True),
        _noun("section", "plain", "where a plane cuts a surface: as a curve of its true lengths, in a figure in space on the surface itself", "at colour width dash label opacity", draws=True, available=True),
        _noun("residuals", "result", "what a fit leaves over", _POINTS + " every", draws=True, available=True),
        _noun("confidence", "result", "where the curve of a fit may lie", _LINE, draws=True, available=True),
        _noun("prediction", "result", "where one more measurement may lie", _LINE, draws=True, available=True),
    )
}

DASHES = ("solid", "dashed", "dotted", "dash-dotted")
MARKERS = ("dot", "ring", "square", "diamond", "triangle", "cross", "plus", "none")
SCALES = ("linear", "logarithmic", "signed-logarithmic")
CORNERS = ("top", "bottom", "left", "right", "outside", "centre")
STYLES = ("print", "slide", "poster", "grey")

# Options whose value is one word (or a hyphenated one), with the words they take.
WORD_OPTIONS: dict[str, tuple[str, ...]] = {
    "dash": DASHES,
    "marker": MARKERS,
    "scale": SCALES,
    "axis": ("left", "right"),
    "written": ("legend", "along", "end"),
    "place": ("above", "below", "left", "right", "centre"),
    "arrow": ("none", "start", "end", "both"),
    "numbers": ("plain", "powers", "percent", "pi", "degrees"),
    "direction": ("forward", "reversed"),
    "tones": ("rising", "two-sided", "around"),
    "ends": ("natural", "clamped", "periodic"),
    "loss": ("squares", "absolute", "huber", "cauchy"),
    "by": ("spline", "segments", "monotone", "polynomial", "smoothing", "bilinear", "bicubic", "thin-plate"),
}
PARAMETER_OPTIONS = frozenset({"start", "limit", "fix"})
COLOUR_OPTIONS = frozenset({"colour", "color"})
VALUE_OPTIONS = frozenset(
    (
        "near width size opacity detail levels errors label azimuth elevation digits at mesh within order where fill "
        "every turn ticks minor decimals threshold dates title columns"
    ).split()
)
# Options of the statements of a figure that are no requests.
STATEMENT_OPTIONS: dict[str, tuple[str, ...]] = {
    "axis": ("scale", "ticks", "minor", "numbers", "decimals", "dates", "direction", "threshold", "tones"),
    "legend": ("title", "columns", "order"),
    "text": ("colour", "size", "place", "turn", "opacity", "axis"),
    "mark": ("colour", "size", "axis"),
    "line": ("colour", "width", "dash", "opacity", "label", "written", "arrow", "axis"),
    "view": ("azimuth", "elevation"),
    "inset": ("size",),
    "style": ("columns",),
    "check": ("within",),
}
OPTIONS = frozenset(WORD_OPTIONS) | PARAMETER_OPTIONS | COLOUR_OPTIONS | VALUE_OPTIONS

# What each option says, how it is written, and an example that runs where the option can be carried out.
OPTION_HELP: dict[str, tuple[str, str, str]] = {
    "colour": ("the colour: one of our inks, a colour by name, or a code in quotes", "colour brick", "curve of x^2 for x from 0 to 1, colour brick"),
    "width": ("how wide a line is, in points", "width 1.5", "curve of x^2 for x from 0 to 1, width 2.5"),
    "size": ("how large a mark is, in points", "size 5", "points of [(1, 2), (2, 3)], size 7"),
    "dash": ("the pattern of a line", "dash dashed", "curve of x^2 for x from 0 to 1, dash dash-dotted"),
    "marker": ("the shape of the marks of data", "marker ring", "points of [(1, 2), (2, 3)], marker diamond"),
    "opacity": ("how much it covers what lies beneath, from 0 to 1", "opacity 0.5", "curve of x^2 for x from 0 to 1, opacity 0.5"),
    "label": ("what the legend says; $...$ is mathematics", 'label "$y = x^2$"', "curve of x^2 for x from 0 to 1, label \"$x^2$\""),
    "order": ("which derivative: the first, the second, ...; of a series the highest power; in a legend the order of its lines", "order 2", "derivative of sin(x)*x for x, order 2"),
    "at": ("the place where it is asked for", "at 2", "derivative of sin(x)*x for x, at 0"),
    "scale": ("how an axis is divided", "scale logarithmic", "figure a:\n    curve of exp(x) for x from 0 to 5\n    y axis \"height\", scale logarithmic"),
    "within": ("how far two values may be apart in a check", "within 0.1", "check 22/7 = pi, within 0.002"),
    "near": ("the place to which the nearest one is wanted", "near 0.5", "roots of cos(x) for x, near 7"),
    "digits": ("how many certain digits are wanted", "digits 50", "roots of cos(x) - x for x from 0 to 1, digits 50"),
    "by": ("how a curve is led through points", "by spline", "level(t) = interpolation of [0.4, 1.1, 0.9, 0.2] against [0, 1, 2, 3], by monotone\ncurve of level(t)"),
    "ends": ("what a spline does at its ends: no bend, no slope, or the same as at the other end; else it is one cubic over the last two pieces", "ends natural", "level(t) = interpolation of [0.4, 1.1, 0.9, 0.2] against [0, 1, 2, 3], by spline, ends natural\nshow level(1.5)"),
    "start": ("a starting value for a parameter: the fit goes down from there, and from nowhere else", "start n = 1.5", "h = 0.05 to 0.4 step 0.05\nQ = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]\nrating(x) = fit of C*x^n to Q against h for C, n, start n = 1.5\nshow rating.n"),
    "limit": ("the span that a parameter may not leave; where all that do not enter linearly have one (up to three), it is tried to prove that nothing within fits better", "limit h0 = 0 to 0.1", "h = 0.05 to 0.4 step 0.05\nQ = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]\nrating(x) = fit of C*x^n to Q against h for C, n, limit n = 1 to 2\nshow rating.n"),
    "fix": ("a parameter that is not to be adjusted", "fix n = 1.5", "h = 0.05 to 0.4 step 0.05\nQ = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]\nrating(x) = fit of C*x^n to Q against h for C, n, fix n = 1.5\nshow rating.C"),
    "loss": ("what counts of a residual: its square, or less where it is large, so that points far off do not carry the fit", "loss cauchy", "h = 0.05 to 0.4 step 0.05\nQ = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]\nrating(x) = fit of C*x^n to Q against h for C, n, loss absolute\nshow rating.n"),
    "errors": ("the standard uncertainties of the data, drawn as bars; (DX, DY) for both directions", "errors dy", "points of [1, 3, 2] against [0, 1, 2], errors [0.2, 0.3, 0.2]"),
    "axis": ("which vertical axis it belongs to", "axis right", "figure a:\n    curve of x^2 for x from 0 to 2\n    curve of 100*exp(-x) for x from 0 to 2, axis right"),
    "every": ("a mark at every so manieth place only", "every 5", "xs = 0 to 6 step 0.1\nline of sin(xs) against xs, marker ring, every 5"),
    "written": ("where the label stands: in the legend, along the line or at its end", "written along", 'curve of sin(x) for x from 0 to 6, label "swell", written along'),
    "place": ("on which side of its place a text stands", "place right", 'figure a:\n    curve of x^2 for x from 0 to 1\n    text "steep" at (0.8, 0.64), place left'),
    "turn": ("by how many degrees a text is turned", "turn 30", 'figure a:\n    curve of x for x from 0 to 1\n    text "rising" at (0.5, 0.6), turn 30'),
    "arrow": ("at which end a line has an arrow head", "arrow end", "figure a:\n    curve of x^2 for x from 0 to 1\n    line from (0.2, 0.8) to (0.5, 0.25), arrow end"),
    "ticks": ("where an axis has its numbers", "ticks [0, 1, 4]", "figure a:\n    curve of sqrt(x) for x from 0 to 9\n    x axis, ticks [0, 1, 4, 9]"),
    "minor": ("how many small ticks stand between two numbers", "minor 4", "figure a:\n    curve of x for x from 0 to 1\n    x axis, minor 4"),
    "numbers": ("how the numbers of an axis are written: plain, as powers of ten, in per cent, as multiples of pi, or angles in degrees", "numbers pi", "figure a:\n    curve of sin(x) for x from 0 to 2pi\n    x axis, numbers pi"),
    "decimals": ("how many decimals the numbers of an axis have", "decimals 2", "figure a:\n    curve of x for x from 0 to 1\n    y axis, decimals 2"),
    "dates": ("a point in time and the unit of the numbers, which are then written as dates and times", 'dates "hours since 2031-05-02 06:00"', 'figure a:\n    curve of sin(t) for t from 0 to 48\n    x axis, dates "hours since 2031-05-02 06:00"'),
    "direction": ("which way the numbers of an axis grow", "direction reversed", "figure a:\n    curve of exp(-z) for z from 0 to 3\n    x axis, direction reversed"),
    "tones": ("of a colour axis: colours that rise from dark to light, that part to two sides of zero, or that go around and back", "tones two-sided", "figure a:\n    contours of x*y for x from -1 to 1, y from -1 to 1, fill true\n    colour axis, tones two-sided"),
    "threshold": ("below which size a signed-logarithmic axis is linear", "threshold 0.01", "figure a:\n    curve of x^3 for x from -10 to 10\n    y axis, scale signed-logarithmic, threshold 1"),
    "title": ("what stands above the legend", 'title "flow"', 'figure a:\n    curve of x^2 for x from 0 to 1, label "square"\n    legend top left, title "powers"'),
    "columns": ("how many columns a legend has, or the columns of a page that a figure spans", "columns 2", 'figure a:\n    curve of [x, x^2] for x from 0 to 1, label ["a", "b"]\n    legend top left, columns 2\n    style print, columns 2'),
    "levels": ("how many level lines, or at which heights", "levels 10 to 40 count 5", "contours of x^2 + 3y^2 for x from -2 to 2, y from -2 to 2, levels [1, 2, 4, 8]"),
    "detail": ("how many times finer than needed a surface is worked out; only for those who insist", "detail 2", "surface of sin(x)*cos(y) for x from -3 to 3, y from -3 to 3, detail 2"),
    "mesh": ("how many lines each way run on a surface", "mesh 20", "surface of sin(x)*cos(y) for x from -3 to 3, y from -3 to 3, colour reed, mesh 12"),
    "where": ("a condition that a place must fulfil", "where x + y <= 1", "highest of x*y for x from 0 to 2, y from 0 to 2, where x + y <= 1"),
    "fill": ("whether the area down to zero, or between level lines, is filled", "fill true", "curve of sin(x) for x from 0 to 6, fill true"),
    "azimuth": ("from which side a figure in space is seen: the angle from the x axis towards the y axis, in degrees", "azimuth 40", "figure a:\n    surface of x^2 - y^2 for x from -1 to 1, y from -1 to 1\n    view azimuth 70, elevation 20"),
    "elevation": ("from how high a figure in space is seen, in degrees above the floor: 90 is from above", "elevation 25", "figure a:\n    surface of x^2 - y^2 for x from -1 to 1, y from -1 to 1\n    view azimuth 270, elevation 90"),
}

# The other statements: how they are written, what they do, an example that runs, and the idea in common words.
STATEMENT_PAGES: dict[str, tuple[str, str, str, str]] = {
    "definition": ("NAME = VALUE   or   NAME(VARIABLE) = FORMULA", "gives a name to a value or to a function of one formula",
                   "a = 2\nf(x) = a*x^2 - 1 for x from -3 to 3\nshow f(2), f'", "variable, function, assign, constant, domain"),
    "when": ("NAME(VARIABLE) = FORMULA when CONDITION, FORMULA when CONDITION, otherwise FORMULA", "a function of several pieces",
             "pulse(t) = 0 when t < 0, t when t < 1, otherwise exp(1 - t)\ncurve of pulse(t) for t from -1 to 4", "piecewise, cases, if in a formula"),
    "define": ("define NAME(VARIABLE):", "a function given by a block of statements; it ends with return",
               "define settle(start):\n    level = start\n    for k from 1 to 8:\n        level = level - (level^2 - 2)/(2*level)\n    return level\nshow settle(1)",
               "procedure, subroutine, algorithm, iteration, program a function"),
    "return": ("return VALUE", "ends a define block and gives its value", "define twice(x):\n    return 2x\nshow twice(4)", "result of a function"),
    "for": ("for NAME from LOW to HIGH step STEP:   or   for NAME in LIST:", "repeats a block for each number of a span or element of a list",
            "total = 0\nfor k from 1 to 10:\n    total = total + 1/k\nshow total", "loop, repeat, iterate, count"),
    "while": ("while CONDITION:", "repeats a block as long as a condition holds",
              "n = 0\nh = 1\nwhile h > 0.01:\n    h = h/2\n    n = n + 1\nshow n", "loop, repeat until, converge"),
    "if": ("if CONDITION:", "does a block only where a condition holds; else if and else may follow",
           "a = 3\nif a > 2:\n    show \"large\"\nelse:\n    show \"small\"", "condition, branch, decide, otherwise"),
    "show": ("show VALUE, VALUE   or   show VALUE, digits N", "tells values, or the formula of a function, as findings", "f(x) = x^2\nshow 2/3 + 1/6, sin(pi/6), f'",
             "print, display, output, calculate"),
    "check": ("check CONDITION   or   check VALUE = VALUE, within TOLERANCE", "a finding that passes or fails",
              "check sqrt(2)^2 = 2\ncheck 22/7 = pi, within 0.002", "test, verify, assert, compare, tolerance"),
    "compare": ("compare FIT, FIT", "fits beside each other: which the data favour, and whether a term earns its keep",
                "xs = 0 to 5 step 0.5\nys = [1.1, 1.4, 2.2, 2.4, 3.1, 3.4, 4.2, 4.4, 5.1, 5.6, 6]\nline(x) = fit of polynomial 1 to ys against xs\ncubic(x) = fit of polynomial 3 to ys against xs\ncompare line, cubic",
                "which model is better, model selection, F-test, cross-validation, rival models"),
    "part": ('part "TITLE"', "begins a part of the script; it runs to the next one", 'part "Critical depth"\nshow 1', "section, chapter, heading"),
    "note": ('note "TEXT"   or   note: with lines beneath', "prose for the page; $...$ is mathematics", 'note "The *sill* lies at $z = 0$."\nshow 1',
             "comment, text, prose, explanation"),
    "table": ('table NAME:   or   table NAME from "FILE"', "a table typed in, or one from a file; units stand in square brackets",
              "table bench:\n    h [m]    Q [m^3/s]\n    0.10     0.021\n    0.15     gap\n    0.20     0.085\nshow bench.h", "data, columns, measurements, csv, spreadsheet"),
    "tune": ("tune NAME = VALUE from LOW to HIGH", "a value with a slider on the screen", "tune k = 1.2 from 0 to 4\ncurve of sin(k*x) for x from 0 to 6",
             "slider, parameter, vary, play with a value"),
    "figure": ('figure NAME "TITLE":', "a figure: all that is drawn in it stands in its block",
               'figure wave "A wave":\n    curve of sin(x) for x from 0 to 6\n    x axis "angle $x$"\n    legend top right', "plot, diagram, chart, axes"),
    "axis": ('x axis "TEXT" from LOW to HIGH, scale logarithmic   or   right axis "TEXT"   or   colour axis "TEXT"', "text, window, scale and numbers of an axis; x is the horizontal one, y the vertical, right a second vertical one, colour the scale of colours; from the higher to the lower end it is reversed",
             'figure decay:\n    curve of exp(-t) for t from 0 to 5\n    x axis "time / s"\n    y axis "share", scale logarithmic', "label of an axis, limits, range, log scale, reversed axis, second axis, colour bar"),
    "legend": ("legend top left   or   legend outside right   or   legend at (0.3, 0.8)", "where the legend stands; at is its middle in shares of the window", 'figure a:\n    curve of x^2 for x from 0 to 1, label "square"\n    legend top left', "key, caption of curves"),
    "gridlines": ("gridlines major", "thin lines behind the curves", "figure a:\n    curve of x^2 for x from 0 to 1\n    gridlines major", "grid, raster"),
    "size": ("size WIDTH mm by HEIGHT mm", "how large the figure is in print", "figure a:\n    curve of x^2 for x from 0 to 1\n    size 89 mm by 60 mm", "width and height, column, aspect"),
    "style": ("style print   or   style print, columns 2   or   style slide   or   style poster   or   style grey", "type, line widths and size for a purpose; grey uses no colour", "figure a:\n    curve of [x, x^2] for x from 0 to 1\n    style print grey", "theme, journal, presentation, black and white, font size"),
    "title": ('title "TEXT"', "a line above the figure or panel", 'figure a:\n    curve of x^2 for x from 0 to 1\n    title "A square"', "heading of a figure"),
    "caption": ('caption "TEXT"', "what stands beneath the figure in a report", 'figure a:\n    curve of x^2 for x from 0 to 1\n    caption "The square of $x$."', "figure text, description"),
    "text": ('text "TEXT" at (X, Y)', "a text in the figure", 'figure a:\n    curve of x^2 for x from 0 to 1\n    text "start" at (0, 0), place above', "annotation, note in a figure, label a point"),
    "line": ("line from (X, Y) to (X, Y)   or   line horizontal at Y   or   line vertical at X", "a straight line in the figure", 'figure a:\n    curve of x^2 for x from 0 to 1\n    line horizontal at 0.25, label "sill", dash dashed', "reference line, threshold, arrow, segment"),
    "mark": ("mark FINDING   or   mark (X, Y)", "puts a finding on the figure with its number, or a place with its coordinates", "r = roots of x^2 - 2 for x from 0 to 2\nfigure a:\n    curve of x^2 - 2 for x from 0 to 2\n    mark r", "annotate a root, point out a result, badge"),
    "panel": ('panel "TITLE":', "one of several windows of a figure", 'figure two "Two of them", 2 by 1:\n    panel "a":\n        curve of sin(x) for x from 0 to 6\n    panel "b":\n        curve of cos(x) for x from 0 to 6\n    shared x axis', "subplot, several axes, grid of figures, facets"),
    "view": ("view azimuth DEGREES, elevation DEGREES", "says from where a figure in space is seen; the box turns, the data stay",
             "figure a:\n    surface of sin(x)*cos(y) for x from -3 to 3, y from -3 to 3\n    view azimuth 60, elevation 35",
             "turn, rotate, camera, viewpoint, from above, side view"),
    "inset": ("inset top right:   or   inset at (0.7, 0.7), size 0.4:", "a small window inside; without drawn things of its own it shows those of its panel", "figure a:\n    curve of x*sin(x) for x from 0 to 20\n    inset top left:\n        x axis from 0 to 3", "zoomed detail, small axes inside, magnifier"),
    "shared": ("shared x axis   or   shared y axis", "one window for the panels above each other (beside each other), its numbers written once", "figure two, 2 by 1:\n    panel:\n        curve of sin(x) for x from 0 to 6\n    panel:\n        curve of cos(x) for x from 0 to 6\n    shared x axis", "common axis, linked axes, align panels"),
    "true": ("true scale", "one unit is as long on both axes", "figure a:\n    curve of (cos(t), sin(t)) for t from 0 to 2pi\n    true scale", "equal aspect, circle looks like an ellipse, proportion"),
    "decimal": ("decimal comma", "numbers of the figure are written with a comma", "figure a:\n    curve of x^2 for x from 0 to 1\n    decimal comma", "locale, comma instead of point"),
    "no": ("no legend   or   no gridlines   or   no frame", "leaves something out of a figure", "figure a:\n    curve of x^2 for x from 0 to 1\n    no frame", "remove, hide, without"),
}  # fmt: skip

# Values: how they are written.
VALUE_PAGES: dict[str, tuple[str, str, str, str]] = {
    "numbers": ("3, 2.5, 1e-3, 2/3, 30deg", "whole numbers and quotients stay exact until something inexact meets them", "show 2/3 + 1/6\nshow sin(30deg)", "fraction, decimal, exact, degrees"),
    "units": ("NAME = VALUE [UNIT]", "a unit is kept, shown and carried to axes; nothing is converted", "g = 9.81 [m/s^2]\nt = 3 [s]\nshow g*t^2/2", "dimension, metres, seconds, measure"),
    "lists": ("[1, 2, 3], 0 to 10 step 0.5, 0 to 10 count 21, [FORMULA for NAME from LOW to HIGH if CONDITION]", "arithmetic goes element by element; the first element is xs[1]",
              "xs = 0 to 1 count 5\nshow xs^2, xs[2 to 3], last(xs)\nshow [k^2 for k from 1 to 6 if mod(k, 2) = 0]", "array, vector, sequence, comprehension, range, slice, element"),
    "join": ("LIST join LIST, TEXT join VALUE", "puts lists or texts together", 'xs = [1, 2] join [3]\nshow xs, "k = " join 3', "append, concatenate, add to a list, text with a number"),
    "points and texts": ('(1, 2), (1, 2, 3), "TEXT"', "a point has its coordinates as p.x, p.y, p.z; $...$ in a text is mathematics", "p = (3, 4)\nshow sqrt(p.x^2 + p.y^2)", "coordinates, pair, string"),
    "gap": ("gap", "a missing value; it breaks a drawn line", "show mean([1, gap, 3])", "missing, nan, empty cell, no data"),
    "truth": ("x < 2, 0 < x < 1, a = b, a != b, and, or, not", "true or false; comparisons chain", "show 0 < 1/2 < 1 and not 1 = 2", "boolean, logic, comparison, condition"),
}  # fmt: skip

# Classical methods as `define` blocks, to be walked step by step and compared with the proven answer.
METHOD_PAGES: dict[str, tuple[str, str, str, str]] = {
    "bisection": ("define bisect(low, high): ...", "halves a bracket in which the sign changes, as long as it is wide; it finds one root, and not which others there are",
        "f(x) = x^3 - 2x - 5\ndefine bisect(low, high):\n    while high - low > 1e-9:\n        middle = (low + high)/2\n        if f(low)*f(middle) <= 0:\n            high = middle\n"
        "        else:\n            low = middle\n    return (low + high)/2\nr = roots of f(x) for x from 1 to 3\ncheck bisect(1, 3) = r, within 1e-8", "interval halving, bracketing, root finding, bisect"),
    "secant method": ("define secant(a, b): ...", "goes to where the straight line through the last two values is zero",
        "f(x) = x^3 - 2x - 5\ndefine secant(a, b):\n    for k from 1 to 8:\n        if f(b) != f(a):\n            next = b - f(b)*(b - a)/(f(b) - f(a))\n            a = b\n            b = next\n"
        "    return b\nr = roots of f(x) for x from 1 to 3\ncheck secant(2, 3) = r, within 1e-9", "secant, regula falsi, root finding without derivative"),
    "Newton's method": ("define newton(start): ...", "goes to where the tangent is zero; near a simple root the digits double at each step, from elsewhere it may run away or go round",
        "f(x) = x^3 - 2x - 5\ndefine newton(start):\n    x = start\n    for k from 1 to 6:\n        x = x - f(x)/f'(x)\n    return x\nr = roots of f(x) for x from 1 to 3\ncheck newton(2) = r, within 1e-9\nshow newton(0.8)",
        "tangent, iteration, derivative, quadratic convergence, newton raphson"),
    "golden section": ("define golden(low, high): ...", "narrows a bracket around the lowest place, by the golden ratio each time; it finds one valley",
        "f(x) = x + 0.2/x^2\ndefine golden(low, high):\n    share = (sqrt(5) - 1)/2\n    while high - low > 1e-6:\n        left = high - share*(high - low)\n        right = low + share*(high - low)\n"
        "        if f(left) < f(right):\n            high = right\n        else:\n            low = left\n    return (low + high)/2\nm = minima of f(x) for x from 0.2 to 3\ncheck golden(0.2, 3) = m, within 1e-5",
        "minimum search, line search, unimodal, optimise"),
    "Simpson's rule": ("define simpson(low, high, n): ...", "adds up the areas under parabolas through three neighbouring values; n is even",
        "f(x) = exp(-x^2)\ndefine simpson(low, high, n):\n    h = (high - low)/n\n    total = f(low) + f(high)\n    for k from 1 to n - 1:\n        if mod(k, 2) = 1:\n            total = total + 4*f(low + k*h)\n"
        "        else:\n            total = total + 2*f(low + k*h)\n    return total*h/3\narea = integral of f(x) for x from 0 to 1\ncheck simpson(0, 1, 10) = area, within 1e-5", "quadrature, numerical integration, trapezium, parabola"),
}  # fmt: skip

# What a student may type for one of our words, by plain English; never a word of some other notation.
LIKELY_MEANT = {"thickness": "width", "style": "dash", "symbol": "marker", "title": "label", "name": "label"}

# Words that open a statement when nothing but that statement fits.
STATEMENT_WORDS = frozenset(
    "part note figure panel inset table tune compare legend gridlines size view style title caption decimal shared view no mark text line true x y z right".split()
)

GREEK = dict(
    zip(
        (
            "alpha beta gamma delta epsilon zeta eta theta iota kappa lambda mu nu xi omicron pi rho sigma tau upsilon phi chi psi omega"
        ).split(),
        "αβγδεζηθικλμνξοπρστυφχψω",
        strict=True,
    )
)
GREEK_BY_LETTER = {letter: name for name, letter in GREEK.items()} | {"ς": "sigma", "ϕ": "phi", "ϵ": "epsilon", "ϑ": "theta"}
_CAPITALS = {letter.upper(): name.capitalize() for name, letter in GREEK.items() if not letter.upper().isascii()}
GREEK_BY_LETTER |= {letter: name for letter, name in _CAPITALS.items() if letter not in "ΑΒΕΖΗΙΚΜΝΟΡΤΥΧ"}


def canonical_name(text: str) -> str:
    """One spelling for a name: `α` and `alpha`, `Δ_1` and `Delta_1` are the same name."""
    if text.isascii():
        return text
    if text == "∞":
        return "infinity"
    head, tail = text[0], text[1:]
    if head in GREEK_BY_LETTER and (not tail or not tail[0].isalpha()):
        return GREEK_BY_LETTER[head] + tail
    return text
