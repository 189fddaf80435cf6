"""The other statements: how they are written, what they do, which options they have."""

from __future__ import annotations

from .options import options
from .records import Statement, lines

STATEMENTS = (
    Statement(
        name="definition",
        usage=(
            "NAME = VALUE",
            "NAME(VARIABLE) = FORMULA",
        ),
        summary="gives a name to a value or to a function of one formula",
        example=lines(
            "a = 2",
            "f(x) = a*x^2 - 1 for x from -3 to 3",
            "show f(2), f'",
        ),
        common_words="variable, function, assign, constant, domain",
    ),
    Statement(
        name="when",
        usage=("NAME(VARIABLE) = FORMULA when CONDITION, FORMULA when CONDITION, otherwise FORMULA",),
        summary="a function of several pieces",
        example=lines(
            "pulse(t) = 0 when t < 0, t when t < 1, otherwise exp(1 - t)",
            "curve of pulse(t) for t from -1 to 4",
        ),
        common_words="piecewise, cases, if in a formula",
    ),
    Statement(
        name="define",
        usage=("define NAME(VARIABLE):",),
        summary="a function given by a block of statements; it ends with return",
        example=lines(
            "define settle(start):",
            "    level = start",
            "    for k from 1 to 8:",
            "        level = level - (level^2 - 2)/(2*level)",
            "    return level",
            "show settle(1)",
        ),
        common_words="procedure, subroutine, algorithm, iteration, program a function",
    ),
    Statement(
        name="return",
        usage=("return VALUE",),
        summary="ends a define block and gives its value",
        example=lines(
            "define twice(x):",
            "    return 2x",
            "show twice(4)",
        ),
        common_words="result of a function",
    ),
    Statement(
        name="for",
        usage=(
            "for NAME from LOW to HIGH step STEP:",
            "for NAME in LIST:",
        ),
        summary="repeats a block for each number of a span or element of a list",
        example=lines(
            "total = 0",
            "for k from 1 to 10:",
            "    total = total + 1/k",
            "show total",
        ),
        common_words="loop, repeat, iterate, count",
    ),
    Statement(
        name="while",
        usage=("while CONDITION:",),
        summary="repeats a block as long as a condition holds",
        example=lines(
            "n = 0",
            "h = 1",
            "while h > 0.01:",
            "    h = h/2",
            "    n = n + 1",
            "show n",
        ),
        common_words="loop, repeat until, converge",
    ),
    Statement(
        name="if",
        usage=("if CONDITION:",),
        summary="does a block only where a condition holds; else if and else may follow",
        example=lines(
            "a = 3",
            "if a > 2:",
            '    show "large"',
            "else:",
            '    show "small"',
        ),
        common_words="condition, branch, decide, otherwise",
    ),
    Statement(
        name="show",
        usage=(
            "show VALUE, VALUE",
            "show VALUE, digits N",
            "show VALUE, unit [UNIT]",
        ),
        summary="tells values, or the formula of a function, as findings",
        options=options("digits unit"),
        example=lines(
            "f(x) = x^2",
            "show 2/3 + 1/6, sin(pi/6), f'",
        ),
        common_words="print, display, output, calculate",
    ),
    Statement(
        name="check",
        usage=(
            "check CONDITION",
            "check VALUE = VALUE, within TOLERANCE",
        ),
        summary="a finding that passes or fails",
        options=options("within"),
        example=lines(
            "check sqrt(2)^2 = 2",
            "check 22/7 = pi, within 0.002",
        ),
        common_words="test, verify, assert, compare, tolerance",
    ),
    Statement(
        name="compare",
        usage=("compare FIT, FIT",),
        summary="fits beside each other: which the data favour, and whether a term earns its keep",
        example=lines(
            "xs = 0 to 5 step 0.5",
            "ys = [1.1, 1.4, 2.2, 2.4, 3.1, 3.4, 4.2, 4.4, 5.1, 5.6, 6]",
            "line(x) = fit of polynomial 1 to ys against xs",
            "cubic(x) = fit of polynomial 3 to ys against xs",
            "compare line, cubic",
        ),
        common_words="which model is better, model selection, F-test, cross-validation, rival models",
    ),
    Statement(
        name="part",
        usage=('part "TITLE"',),
        summary="begins a part of the script; it runs to the next one",
        example=lines(
            'part "Critical depth"',
            "show 1",
        ),
        common_words="section, chapter, heading",
    ),
    Statement(
        name="note",
        usage=(
            'note "TEXT"',
            "note: with lines beneath",
        ),
        summary="prose for the page; $...$ is mathematics",
        example=lines(
            'note "The *sill* lies at $z = 0$."',
            "show 1",
        ),
        common_words="comment, text, prose, explanation",
    ),
    Statement(
        name="table",
        usage=(
            "table NAME:",
            'table NAME from "FILE"',
        ),
        summary="a table typed in, or one from a file; units stand in square brackets",
        example=lines(
            "table bench:",
            "    h [m]    Q [m^3/s]",
            "    0.10     0.021",
            "    0.15     gap",
            "    0.20     0.085",
            "show bench.h",
        ),
        common_words="data, columns, measurements, csv, spreadsheet",
    ),
    Statement(
        name="tune",
        usage=("tune NAME = VALUE from LOW to HIGH",),
        summary="a value with a slider on the screen",
        example=lines(
            "tune k = 1.2 from 0 to 4",
            "curve of sin(k*x) for x from 0 to 6",
        ),
        common_words="slider, parameter, vary, play with a value",
    ),
    Statement(
        name="figure",
        usage=('figure NAME "TITLE":',),
        summary="a figure: all that is drawn in it stands in its block",
        example=lines(
            'figure wave "A wave":',
            "    curve of sin(x) for x from 0 to 6",
            '    x axis "angle $x$"',
            "    legend top right",
        ),
        common_words="plot, diagram, chart, axes",
    ),
    Statement(
        name="axis",
        usage=(
            'x axis "TEXT" from LOW to HIGH, scale logarithmic',
            'right axis "TEXT"',
            'colour axis "TEXT"',
        ),
        summary=(
            "text, window, scale and numbers of an axis; x is the horizontal one, y the vertical, right a second "
            "vertical one, colour the scale of colours; from the higher to the lower end it is reversed"
        ),
        options=options("unit scale ticks minor numbers decimals dates direction threshold tones"),
        example=lines(
            "figure decay:",
            "    curve of exp(-t) for t from 0 to 5",
            '    x axis "time / s"',
            '    y axis "share", scale logarithmic',
        ),
        common_words="label of an axis, limits, range, log scale, reversed axis, second axis, colour bar",
    ),
    Statement(
        name="legend",
        usage=(
            "legend top left",
            "legend outside right",
            "legend at (0.3, 0.8)",
        ),
        summary="where the legend stands; at is its middle in shares of the window",
        options=options("title columns order"),
        example=lines(
            "figure a:",
            '    curve of x^2 for x from 0 to 1, label "square"',
            "    legend top left",
        ),
        common_words="key, caption of curves",
    ),
    Statement(
        name="gridlines",
        usage=("gridlines major",),
        summary="thin lines behind the curves",
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            "    gridlines major",
        ),
        common_words="grid, raster",
    ),
    Statement(
        name="size",
        usage=("size WIDTH mm by HEIGHT mm",),
        summary="how large the figure is in print",
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            "    size 89 mm by 60 mm",
        ),
        common_words="width and height, column, aspect",
    ),
    Statement(
        name="style",
        usage=(
            "style print",
            "style print, columns 2",
            "style slide",
            "style poster",
            "style grey",
        ),
        summary="type, line widths and size for a purpose; grey uses no colour",
        options=options("columns"),
        example=lines(
            "figure a:",
            "    curve of [x, x^2] for x from 0 to 1",
            "    style print grey",
        ),
        common_words="theme, journal, presentation, black and white, font size",
    ),
    Statement(
        name="title",
        usage=('title "TEXT"',),
        summary="a line above the figure or panel",
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            '    title "A square"',
        ),
        common_words="heading of a figure",
    ),
    Statement(
        name="caption",
        usage=('caption "TEXT"',),
        summary="what stands beneath the figure in a report",
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            '    caption "The square of $x$."',
        ),
        common_words="figure text, description",
    ),
    Statement(
        name="text",
        usage=('text "TEXT" at (X, Y)',),
        summary="a text in the figure",
        options=options("colour size place turn opacity axis"),
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            '    text "start" at (0, 0), place above',
        ),
        common_words="annotation, note in a figure, label a point",
    ),
    Statement(
        name="line",
        usage=(
            "line from (X, Y) to (X, Y)",
            "line horizontal at Y",
            "line vertical at X",
        ),
        summary="a straight line in the figure",
        options=options("colour width dash opacity label written arrow axis"),
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            '    line horizontal at 0.25, label "sill", dash dashed',
        ),
        common_words="reference line, threshold, arrow, segment",
    ),
    Statement(
        name="mark",
        usage=(
            "mark FINDING",
            "mark (X, Y)",
        ),
        summary="puts a finding on the figure with its number, or a place with its coordinates",
        options=options("colour size axis"),
        example=lines(
            "r = roots of x^2 - 2 for x from 0 to 2",
            "figure a:",
            "    curve of x^2 - 2 for x from 0 to 2",
            "    mark r",
        ),
        common_words="annotate a root, point out a result, badge",
    ),
    Statement(
        name="panel",
        usage=('panel "TITLE":',),
        summary="one of several windows of a figure",
        example=lines(
            'figure two "Two of them", 2 by 1:',
            '    panel "a":',
            "        curve of sin(x) for x from 0 to 6",
            '    panel "b":',
            "        curve of cos(x) for x from 0 to 6",
            "    shared x axis",
        ),
        common_words="subplot, several axes, grid of figures, facets",
    ),
    Statement(
        name="view",
        usage=("view azimuth DEGREES, elevation DEGREES",),
        summary="says from where a figure in space is seen; the box turns, the data stay",
        options=options("azimuth elevation"),
        example=lines(
            "figure a:",
            "    surface of sin(x)*cos(y) for x from -3 to 3, y from -3 to 3",
            "    view azimuth 60, elevation 35",
        ),
        common_words="turn, rotate, camera, viewpoint, from above, side view",
    ),
    Statement(
        name="inset",
        usage=(
            "inset top right:",
            "inset at (0.7, 0.7), size 0.4:",
        ),
        summary="a small window inside; without drawn things of its own it shows those of its panel",
        options=options("size"),
        example=lines(
            "figure a:",
            "    curve of x*sin(x) for x from 0 to 20",
            "    inset top left:",
            "        x axis from 0 to 3",
        ),
        common_words="zoomed detail, small axes inside, magnifier",
    ),
    Statement(
        name="shared",
        usage=(
            "shared x axis",
            "shared y axis",
        ),
        summary="one window for the panels above each other (beside each other), its numbers written once",
        example=lines(
            "figure two, 2 by 1:",
            "    panel:",
            "        curve of sin(x) for x from 0 to 6",
            "    panel:",
            "        curve of cos(x) for x from 0 to 6",
            "    shared x axis",
        ),
        common_words="common axis, linked axes, align panels",
    ),
    Statement(
        name="true",
        usage=("true scale",),
        summary="one unit is as long on both axes",
        example=lines(
            "figure a:",
            "    curve of (cos(t), sin(t)) for t from 0 to 2pi",
            "    true scale",
        ),
        common_words="equal aspect, circle looks like an ellipse, proportion",
    ),
    Statement(
        name="decimal",
        usage=("decimal comma",),
        summary="numbers of the figure are written with a comma",
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            "    decimal comma",
        ),
        common_words="locale, comma instead of point",
    ),
    Statement(
        name="no",
        usage=(
            "no legend",
            "no gridlines",
            "no frame",
        ),
        summary="leaves something out of a figure",
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            "    no frame",
        ),
        common_words="remove, hide, without",
    ),
)
