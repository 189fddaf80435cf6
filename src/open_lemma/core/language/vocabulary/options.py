"""The options: each said once, for all words that have it."""

from __future__ import annotations

from .records import Option, lines

_ALL = (
    Option(
        name="colour",
        asked_as="red line, colour, color, coloured, colored, paint, line colour, line color",
        kind="colour",
        summary="the colour: one of our inks, a colour by name, or a code in quotes",
        written="colour brick",
        example="curve of x^2 for x from 0 to 1, colour brick",
    ),
    Option(
        name="width",
        asked_as="width, thickness, line width, linewidth, thick, thin, thicker, thinner, bold, fat, stroke, weight",
        kind="number",
        summary="how wide a line is, in points",
        written="width 1.5",
        example="curve of x^2 for x from 0 to 1, width 2.5",
        low=0.1,
        high=20.0,
        unit=" pt",
    ),
    Option(
        name="size",
        asked_as="marker size, point size, dot size, bigger points, larger points",
        kind="number",
        summary="how large a mark is, in points",
        written="size 5",
        example="points of [(1, 2), (2, 3)], size 7",
        low=0.5,
        high=60.0,
        unit=" pt",
    ),
    Option(
        name="dash",
        asked_as="dashed line, dashed, dotted, dotted line, dash, line style, linestyle, dashing, line pattern, pattern, line type, dashes",
        kind="choice",
        summary="the pattern of a line",
        written="dash dashed",
        example="curve of x^2 for x from 0 to 1, dash dash-dotted",
        choices=(
            "solid",
            "dashed",
            "dotted",
            "dash-dotted",
        ),
    ),
    Option(
        name="marker",
        asked_as="marker, symbol, point style, marker style, point shape, shape",
        kind="choice",
        summary="the shape of the marks of data",
        written="marker ring",
        example="points of [(1, 2), (2, 3)], marker diamond",
        choices=(
            "dot",
            "ring",
            "square",
            "diamond",
            "triangle",
            "cross",
            "plus",
            "none",
        ),
    ),
    Option(
        name="opacity",
        asked_as="alpha channel, opacity, transparent, transparency, alpha, see through, semi transparent",
        kind="number",
        summary="how much it covers what lies beneath, from 0 to 1",
        written="opacity 0.5",
        example="curve of x^2 for x from 0 to 1, opacity 0.5",
        low=0.0,
        high=1.0,
    ),
    Option(
        name="label",
        asked_as="label, name, legend text, label the curve, legend entry, called",
        kind="text",
        summary="what the legend says; $...$ is mathematics",
        written='label "$y = x^2$"',
        example='curve of x^2 for x from 0 to 1, label "$x^2$"',
    ),
    Option(
        name="order",
        asked_as="order",
        kind="whole",
        summary="which derivative: the first, the second, ...; of a series the highest power; in a legend the order of its lines",
        written="order 2",
        example="derivative of sin(x)*x for x, order 2",
    ),
    Option(
        name="at",
        kind="place",
        summary="the place where it is asked for",
        written="at 2",
        example="derivative of sin(x)*x for x, at 0",
    ),
    Option(
        name="scale",
        asked_as="log scale, logarithmic, logarithmic scale, log axis, log axes, logarithmic axis, log plot, log log, semilog, log",
        kind="choice",
        summary="how an axis is divided",
        written="scale logarithmic",
        example=lines(
            "figure a:",
            "    curve of exp(x) for x from 0 to 5",
            '    y axis "height", scale logarithmic',
        ),
        choices=(
            "linear",
            "logarithmic",
            "signed-logarithmic",
        ),
    ),
    Option(
        name="within",
        kind="number",
        summary="how far two values may be apart in a check",
        written="within 0.1",
        example="check 22/7 = pi, within 0.002",
    ),
    Option(
        name="near",
        asked_as="nearest, nearest root, close to, closest",
        kind="place",
        summary="the place to which the nearest one is wanted",
        written="near 0.5",
        example="roots of cos(x) for x, near 7",
    ),
    Option(
        name="digits",
        asked_as="digits, precision, decimal places, decimals, more digits, accuracy, significant figures",
        kind="whole",
        summary="how many certain digits are wanted",
        written="digits 50",
        example="roots of cos(x) - x for x from 0 to 1, digits 50",
    ),
    Option(
        name="unit",
        asked_as="change the unit, convert to, convert to, convert, in units of",
        kind="unit",
        summary="the unit in which a value is told; another one of the same dimension is converted",
        written="unit [km/h]",
        example=lines(
            "v = 2.5 [m/s]",
            "show v, unit [km/h]",
        ),
    ),
    Option(
        name="by",
        asked_as="kind of spline, kind of interpolation, spline type, how a curve is led through points",
        kind="choice",
        summary="how a curve is led through points",
        written="by spline",
        example=lines(
            "level(t) = interpolation of [0.4, 1.1, 0.9, 0.2] against [0, 1, 2, 3], by monotone",
            "curve of level(t)",
        ),
        choices=(
            "spline",
            "segments",
            "monotone",
            "polynomial",
            "smoothing",
            "bilinear",
            "bicubic",
            "thin-plate",
        ),
    ),
    Option(
        name="ends",
        kind="choice",
        summary=(
            "what a spline does at its ends: no bend, no slope, or the same as at the other end; else it is one "
            "cubic over the last two pieces"
        ),
        written="ends natural",
        example=lines(
            "level(t) = interpolation of [0.4, 1.1, 0.9, 0.2] against [0, 1, 2, 3], by spline, ends natural",
            "show level(1.5)",
        ),
        choices=(
            "natural",
            "clamped",
            "periodic",
        ),
    ),
    Option(
        name="start",
        asked_as="starting value, initial guess, first guess, initial value, starting point",
        kind="parameter",
        summary="a starting value for a parameter: the fit goes down from there, and from nowhere else",
        written="start n = 1.5",
        example=lines(
            "h = 0.05 to 0.4 step 0.05",
            "Q = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]",
            "rating(x) = fit of C*x^n to Q against h for C, n, start n = 1.5",
            "show rating.n",
        ),
    ),
    Option(
        name="limit",
        kind="parameter span",
        summary=(
            "the span that a parameter may not leave; where all that do not enter linearly have one (up to three), "
            "it is tried to prove that nothing within fits better"
        ),
        written="limit h0 = 0 to 0.1",
        example=lines(
            "h = 0.05 to 0.4 step 0.05",
            "Q = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]",
            "rating(x) = fit of C*x^n to Q against h for C, n, limit n = 1 to 2",
            "show rating.n",
        ),
    ),
    Option(
        name="fix",
        kind="parameter",
        summary="a parameter that is not to be adjusted",
        written="fix n = 1.5",
        example=lines(
            "h = 0.05 to 0.4 step 0.05",
            "Q = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]",
            "rating(x) = fit of C*x^n to Q against h for C, n, fix n = 1.5",
            "show rating.C",
        ),
    ),
    Option(
        name="loss",
        kind="choice",
        summary="what counts of a residual: its square, or less where it is large, so that points far off do not carry the fit",
        written="loss cauchy",
        example=lines(
            "h = 0.05 to 0.4 step 0.05",
            "Q = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]",
            "rating(x) = fit of C*x^n to Q against h for C, n, loss absolute",
            "show rating.n",
        ),
        choices=(
            "squares",
            "absolute",
            "huber",
            "cauchy",
        ),
    ),
    Option(
        name="errors",
        asked_as="error bars, errors, uncertainties, error bar, uncertainty",
        kind="numbers or number",
        summary="the standard uncertainties of the data, drawn as bars; (DX, DY) for both directions",
        written="errors dy",
        example="points of [1, 3, 2] against [0, 1, 2], errors [0.2, 0.3, 0.2]",
    ),
    Option(
        name="axis",
        kind="choice",
        summary="which vertical axis it belongs to",
        written="axis right",
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 2",
            "    curve of 100*exp(-x) for x from 0 to 2, axis right",
        ),
        choices=(
            "left",
            "right",
        ),
    ),
    Option(
        name="every",
        kind="whole",
        summary="a mark at every so manieth place only",
        written="every 5",
        example=lines(
            "xs = 0 to 6 step 0.1",
            "line of sin(xs) against xs, marker ring, every 5",
        ),
        low=1,
        high=100000,
    ),
    Option(
        name="written",
        kind="choice",
        summary="where the label stands: in the legend, along the line or at its end",
        written="written along",
        example='curve of sin(x) for x from 0 to 6, label "swell", written along',
        choices=(
            "legend",
            "along",
            "end",
        ),
    ),
    Option(
        name="place",
        kind="choice",
        summary="on which side of its place a text stands",
        written="place right",
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            '    text "steep" at (0.8, 0.64), place left',
        ),
        choices=(
            "above",
            "below",
            "left",
            "right",
            "centre",
        ),
    ),
    Option(
        name="turn",
        kind="number",
        summary="by how many degrees a text is turned",
        written="turn 30",
        example=lines(
            "figure a:",
            "    curve of x for x from 0 to 1",
            '    text "rising" at (0.5, 0.6), turn 30',
        ),
        low=-360.0,
        high=360.0,
        unit="°",
    ),
    Option(
        name="arrow",
        asked_as="arrow head, arrowhead",
        kind="choice",
        summary="at which end a line has an arrow head",
        written="arrow end",
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            "    line from (0.2, 0.8) to (0.5, 0.25), arrow end",
        ),
        choices=(
            "none",
            "start",
            "end",
            "both",
        ),
    ),
    Option(
        name="ticks",
        asked_as="ticks, tick marks, tick positions, tick labels",
        kind="numbers",
        summary="where an axis has its numbers",
        written="ticks [0, 1, 4]",
        example=lines(
            "figure a:",
            "    curve of sqrt(x) for x from 0 to 9",
            "    x axis, ticks [0, 1, 4, 9]",
        ),
    ),
    Option(
        name="minor",
        kind="whole",
        summary="how many small ticks stand between two numbers",
        written="minor 4",
        example=lines(
            "figure a:",
            "    curve of x for x from 0 to 1",
            "    x axis, minor 4",
        ),
        low=0,
        high=20,
    ),
    Option(
        name="numbers",
        kind="choice",
        summary=("how the numbers of an axis are written: plain, as powers of ten, in per cent, as multiples of pi, or angles in degrees"),
        written="numbers pi",
        example=lines(
            "figure a:",
            "    curve of sin(x) for x from 0 to 2pi",
            "    x axis, numbers pi",
        ),
        choices=(
            "plain",
            "powers",
            "percent",
            "pi",
            "degrees",
        ),
    ),
    Option(
        name="decimals",
        kind="whole",
        summary="how many decimals the numbers of an axis have",
        written="decimals 2",
        example=lines(
            "figure a:",
            "    curve of x for x from 0 to 1",
            "    y axis, decimals 2",
        ),
        low=0,
        high=12,
    ),
    Option(
        name="dates",
        kind="text",
        summary="a point in time and the unit of the numbers, which are then written as dates and times",
        written='dates "hours since 2031-05-02 06:00"',
        example=lines(
            "figure a:",
            "    curve of sin(t) for t from 0 to 48",
            '    x axis, dates "hours since 2031-05-02 06:00"',
        ),
    ),
    Option(
        name="direction",
        asked_as=(
            "reversed axis, reverse axis, flip axis, upside down, inverted axis, invert axis, invert y axis, "
            "invert x axis, reverse y axis, reverse x axis, flip y axis, flip x axis"
        ),
        kind="choice",
        summary="which way the numbers of an axis grow",
        written="direction reversed",
        example=lines(
            "figure a:",
            "    curve of exp(-z) for z from 0 to 3",
            "    x axis, direction reversed",
        ),
        choices=(
            "forward",
            "reversed",
        ),
    ),
    Option(
        name="tones",
        kind="choice",
        summary="of a colour axis: colours that rise from dark to light, that part to two sides of zero, or that go around and back",
        written="tones two-sided",
        example=lines(
            "figure a:",
            "    contours of x*y for x from -1 to 1, y from -1 to 1, fill true",
            "    colour axis, tones two-sided",
        ),
        choices=(
            "rising",
            "two-sided",
            "around",
        ),
    ),
    Option(
        name="threshold",
        kind="number",
        summary="below which size a signed-logarithmic axis is linear",
        written="threshold 0.01",
        example=lines(
            "figure a:",
            "    curve of x^3 for x from -10 to 10",
            "    y axis, scale signed-logarithmic, threshold 1",
        ),
    ),
    Option(
        name="title",
        kind="text",
        summary="what stands above the legend",
        written='title "flow"',
        example=lines(
            "figure a:",
            '    curve of x^2 for x from 0 to 1, label "square"',
            '    legend top left, title "powers"',
        ),
    ),
    Option(
        name="columns",
        kind="whole",
        summary="how many columns a legend has, or the columns of a page that a figure spans",
        written="columns 2",
        example=lines(
            "figure a:",
            '    curve of [x, x^2] for x from 0 to 1, label ["a", "b"]',
            "    legend top left, columns 2",
            "    style print, columns 2",
        ),
        low=1,
        high=12,
    ),
    Option(
        name="levels",
        asked_as="number of contour lines, number of levels, levels",
        kind="levels",
        summary="how many level lines, or at which heights",
        written="levels 10 to 40 count 5",
        example="contours of x^2 + 3y^2 for x from -2 to 2, y from -2 to 2, levels [1, 2, 4, 8]",
    ),
    Option(
        name="detail",
        kind="number",
        summary="how many times finer than needed a surface is worked out; only for those who insist",
        written="detail 2",
        example="surface of sin(x)*cos(y) for x from -3 to 3, y from -3 to 3, detail 2",
        low=0.1,
        high=8.0,
    ),
    Option(
        name="mesh",
        kind="whole",
        summary="how many lines each way run on a surface",
        written="mesh 20",
        example="surface of sin(x)*cos(y) for x from -3 to 3, y from -3 to 3, colour reed, mesh 12",
        low=1,
        high=200,
    ),
    Option(
        name="where",
        kind="condition",
        summary="a condition that a place must fulfil",
        written="where x + y <= 1",
        example="highest of x*y for x from 0 to 2, y from 0 to 2, where x + y <= 1",
    ),
    Option(
        name="fill",
        asked_as="fill, filled, fill under, fill below, shade under",
        kind="truth",
        summary="whether the area down to zero, or between level lines, is filled; of a surface false leaves its lines without the sheet",
        written="fill true",
        example="curve of sin(x) for x from 0 to 6, fill true",
    ),
    Option(
        name="hatch",
        asked_as="hatch, hatching, hatched",
        kind="choice",
        summary="the pattern of a filled area, which tells it apart without colour",
        written="hatch rising",
        example="band of sin(x) - 0.2 and sin(x) + 0.2 for x from 0 to 6, hatch crossed",
        choices=("rising", "dotted", "falling", "crossed", "level", "upright", "squared", "ringed"),
    ),
    Option(
        name="bins",
        asked_as="bins, classes, number of bins, bin width",
        kind="levels",
        summary="into how many equally wide parts the data are sorted, or the ends of these parts",
        written="bins 12, bins 0 to 10 step 2",
        example="histogram of [1, 2, 2, 3, 3, 3, 4, 4, 5], bins 0.5 to 5.5 step 1",
    ),
    Option(
        name="azimuth",
        kind="number",
        summary="from which side a figure in space is seen: the angle from the x axis towards the y axis, in degrees",
        written="azimuth 40",
        example=lines(
            "figure a:",
            "    surface of x^2 - y^2 for x from -1 to 1, y from -1 to 1",
            "    view azimuth 70, elevation 20",
        ),
    ),
    Option(
        name="elevation",
        kind="number",
        summary="from how high a figure in space is seen, in degrees above the floor: 90 is from above",
        written="elevation 25",
        example=lines(
            "figure a:",
            "    surface of x^2 - y^2 for x from -1 to 1, y from -1 to 1",
            "    view azimuth 270, elevation 90",
        ),
    ),
)

OPTIONS: dict[str, Option] = {option.name: option for option in _ALL}
SPELLINGS = {"color": "colour"}  # other spellings that are understood
OPTION_WORDS = frozenset(OPTIONS) | frozenset(SPELLINGS)


def options(names: str) -> tuple[Option, ...]:
    """The records of some options. Raises KeyError for a name that is none."""
    return tuple(OPTIONS[name] for name in names.split())


def option_of(word: str) -> Option:
    """The record of a word of OPTION_WORDS."""
    return OPTIONS[SPELLINGS.get(word, word)]


def is_option(word: str, *kinds: str) -> bool:
    """Whether a word is an option, of one of the kinds if any are given."""
    return word in OPTION_WORDS and (not kinds or option_of(word).kind in kinds)


def range_of(option: Option) -> tuple[float, float]:
    """The least and the greatest number of an option that has both."""
    assert option.low is not None
    assert option.high is not None
    return option.low, option.high
