"""The other statements: how they are written, what they do, which options they have."""

from __future__ import annotations

from .options import options
from .records import Statement, lines

STATEMENTS = (
    Statement(
        name="definition",
        asked_as="define a function, set a value, give a value, variable, constant, assign",
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
        plain="a = 2",
        rich=lines(
            "a = 3",
            "f(x) = a*x^2",
            "g(x) = f(x) + 1",
            "show g(2), g'",
        ),
        slips=(
            "y = x^2",
            "let a = 3",
            "a = 2, b = 3",
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
        plain="step(x) = 0 when x < 0, otherwise 1",
        rich=lines(
            "tariff(v) = 2v when v < 10, 20 + (v - 10) when v < 30, otherwise 40",
            "curve of tariff(v) for v from 0 to 50",
        ),
        common_words="piecewise, cases, if in a formula",
    ),
    Statement(
        name="define",
        asked_as="function, def, procedure, subroutine, routine, function block",
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
        plain=lines(
            "define half(x):",
            "    return x/2",
            "show half(3)",
        ),
        rich=lines(
            "define steps(start):",
            "    n = start",
            "    count = 0",
            "    while n > 1:",
            "        n = n/2 when mod(n, 2) = 0, otherwise 3n + 1",
            "        count = count + 1",
            "    return count",
            "show [steps(k) for k from 1 to 10]",
        ),
        slips=(
            "def f(x): return x^2",
            "function f(x) = sin(x)",
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
        asked_as="for, loop, for loop, iterate, repeat, for each, foreach, iterate",
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
        plain=lines(
            "for k from 1 to 3:",
            "    show k^2",
        ),
        rich=lines(
            "figure:",
            "    for k from 1 to 4:",
            "        curve of sin(k*x)/k for x from 0 to 6",
        ),
        common_words="loop, repeat, iterate, count",
    ),
    Statement(
        name="while",
        asked_as="while, while loop, until, repeat until",
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
        plain=lines(
            "h = 1",
            "while h > 0.1:",
            "    h = h/2",
            "show h",
        ),
        rich=lines(
            "x = 2",
            "n = 0",
            "while abs(x^2 - 2) > 1e-9:",
            "    x = x - (x^2 - 2)/(2x)",
            "    n = n + 1",
            "show x, n",
        ),
        common_words="loop, repeat until, converge",
    ),
    Statement(
        name="if",
        asked_as="if, condition, else if, elif, elseif, conditional",
        usage=("if CONDITION:",),
        summary="does a block only where a condition holds; else if and else may follow",
        example=lines(
            "a = 3",
            "if a > 2:",
            '    show "large"',
            "else:",
            '    show "small"',
        ),
        plain=lines(
            "a = 3",
            "if a > 2:",
            '    show "large"',
        ),
        rich=lines(
            "define kind(x):",
            "    if x < 0:",
            "        return -1",
            "    else if x = 0:",
            "        return 0",
            "    else:",
            "        return 1",
            "show kind(-2), kind(0), kind(5)",
        ),
        common_words="condition, branch, decide, otherwise",
    ),
    Statement(
        name="show",
        asked_as=(
            "show, print, echo, display, output, calculate, compute, evaluate, what is, value of, find the value, result, work out, "
            "how much is, tell, calc, approximate"
        ),
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
        plain="show 2/3 + 1/6",
        rich=lines(
            "f(x) = x^2 - 1",
            "show f(3), f', f'(3)",
            "show sqrt(2), digits 40",
            "show 100 [km/h], unit [m/s]",
        ),
        slips=(
            "print 5*7",
            "what is 2^10",
            "calculate 2 + 3",
        ),
        common_words="print, display, output, calculate",
    ),
    Statement(
        name="check",
        asked_as="check, verify, assert, test, is it true, ensure, prove",
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
        plain="check 22/7 = pi, within 0.002",
        rich=lines(
            "f(x) = x*(4 - x)",
            "m = highest of f(x) for x from 0 to 4",
            "check m.value = 4",
            "check m.x < 3",
        ),
        common_words="test, verify, assert, compare, tolerance",
    ),
    Statement(
        name="compare",
        asked_as="compare, compare fits, compare models, which is better, better model",
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
        asked_as="part, section heading, chapter, heading, header, subsection",
        usage=('part "TITLE"',),
        summary="begins a part of the script; it runs to the next one",
        example=lines(
            'part "Critical depth"',
            "show 1",
        ),
        plain=lines(
            'part "Results"',
            "show 1",
        ),
        rich=lines(
            'part "Data"',
            "xs = [1, 2, 3]",
            'part "Means"',
            "show mean(xs)",
        ),
        slips=(
            'section "Results"',
            "heading Introduction",
        ),
        common_words="section, chapter, heading",
    ),
    Statement(
        name="note",
        asked_as="note, remark, comment, write a note, paragraph",
        usage=(
            'note "TEXT"',
            "note: with lines beneath",
        ),
        summary="prose for the page; $...$ is mathematics",
        example=lines(
            'note "The *sill* lies at $z = 0$."',
            "show 1",
        ),
        plain=lines(
            'note "measured at low water"',
            "show 1",
        ),
        rich=lines(
            "note:",
            "    The sill lies at $h_0 = 0.2$ m. Readings below it are gaps.",
            "show 0.2 [m]",
        ),
        slips=(
            'comment "measured in May"',
            "// a remark",
        ),
        common_words="comment, text, prose, explanation",
    ),
    Statement(
        name="table",
        asked_as=(
            "type in data, columns of data, data table, "
            "table, import, load, read, open, upload, import data, load data, load file, read file, read data, open file, csv, "
            "csv file, excel, excel file, spreadsheet, data from, data file, dataset, get data, bring in"
        ),
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
        plain=lines(
            "table t:",
            "    x  y",
            "    1  2",
            "    2  3",
            "show mean(t.y)",
        ),
        rich=lines(
            "table spring:",
            "    force [N]   stretch [mm]",
            "    0.50(2)     1.30",
            "    1.00(2)     2.41",
            "    1.50(2)     3.62",
            "law(F) = fit of a*F to spring.stretch against spring.force for a",
            "figure:",
            "    points of spring.stretch against spring.force",
            "    curve of law(F)",
        ),
        slips=(
            'import "data.csv"',
            'data = read("data.csv")',
        ),
        common_words="data, columns, measurements, csv, spreadsheet",
    ),
    Statement(
        name="tune",
        asked_as="slider, sliders, tune, vary, adjustable, interactive, parameter slider, change by hand, animate, knob, control",
        usage=("tune NAME = VALUE from LOW to HIGH",),
        summary="a value with a slider on the screen",
        example=lines(
            "tune k = 1.2 from 0 to 4",
            "curve of sin(k*x) for x from 0 to 6",
        ),
        plain=lines(
            "tune a = 1 from 0 to 3",
            "curve of sin(a*x) for x from 0 to 6",
        ),
        rich=lines(
            "tune k = 0.4 from 0 to 1 step 0.05",
            "tune w = 3 from 1 to 6",
            "curve of exp(-k*t)*cos(w*t) for t from 0 to 10",
        ),
        slips=("slider a from 0 to 3",),
        common_words="slider, parameter, vary, play with a value",
    ),
    Statement(
        name="figure",
        asked_as="figure, new figure, new plot, new graph, another figure, canvas",
        usage=('figure NAME "TITLE":',),
        summary="a figure: all that is drawn in it stands in its block",
        example=lines(
            'figure wave "A wave":',
            "    curve of sin(x) for x from 0 to 6",
            '    x axis "angle $x$"',
            "    legend top right",
        ),
        plain=lines(
            "figure:",
            "    curve of x^2",
        ),
        rich=lines(
            'figure flow "Flow over the weir":',
            '    curve of 1.7*h^1.5 for h from 0 to 0.5, label "$Q = C h^{3/2}$"',
            '    x axis "head / m"',
            '    y axis "discharge / m³ s⁻¹"',
            "    gridlines major",
            "    legend top left",
            "    size 89 mm by 60 mm",
        ),
        slips=("new figure",),
        more=(
            'figure flow "Flow over the weir": gives the figure a name for files and references, and a text by which the page calls it. '
            "Neither is drawn.",
            'What is to stand on the figure itself, above it, is said by title "…" inside the block; what stands below it by caption "…".',
        ),
        common_words="plot, diagram, chart, axes",
    ),
    Statement(
        name="axis",
        asked_as=(
            "axis label, axis title, axis labels, label axis, label the axis, axis range, axis limits, name of the axis, "
            "caption of the axis, axis name, axis"
        ),
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
        plain=lines(
            "figure:",
            "    curve of x^2",
            '    x axis "length / m"',
        ),
        rich=lines(
            "figure:",
            "    curve of exp(x) for x from 0 to 6",
            '    x axis "time / s" from 0 to 6',
            '    y axis "growth", scale logarithmic',
        ),
        slips=(
            'xlabel "time"',
            "y axis logarithmic",
            "xlim 0, 2",
        ),
        common_words="label of an axis, limits, range, log scale, reversed axis, second axis, colour bar",
    ),
    Statement(
        name="legend",
        asked_as="legend, key",
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
        plain=lines(
            "figure:",
            '    curve of [sin(x), cos(x)] for x, label ["sine", "cosine"]',
            "    legend top right",
        ),
        rich=lines(
            "figure:",
            '    curve of [x, x^2, x^3] for x from 0 to 1, label ["line", "square", "cube"]',
            '    legend outside right, title "power"',
        ),
        slips=("legend on",),
        common_words="key, caption of curves",
    ),
    Statement(
        name="gridlines",
        asked_as="gridlines, grid, grid lines, add grid, show grid, raster",
        usage=("gridlines major",),
        summary="thin lines behind the curves",
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            "    gridlines major",
        ),
        plain=lines(
            "figure:",
            "    curve of x^2",
            "    gridlines major",
        ),
        slips=("grid on",),
        common_words="grid, raster",
    ),
    Statement(
        name="size",
        asked_as="figure size, size of the figure, picture size, paper size, size of the picture, plot size, dimensions",
        usage=("size WIDTH mm by HEIGHT mm",),
        summary="how large the figure is in print",
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            "    size 89 mm by 60 mm",
        ),
        plain=lines(
            "figure:",
            "    curve of x^2",
            "    size 89 mm by 60 mm",
        ),
        common_words="width and height, column, aspect",
    ),
    Statement(
        name="style",
        asked_as="theme, print style, style for print, appearance, black and white, grayscale, greyscale, journal style",
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
        asked_as=(
            "title, plot title, figure title, chart title, graph title, set title, add title, heading of the figure, "
            "name of the figure, headline"
        ),
        usage=('title "TEXT"',),
        summary="a line above the figure or panel",
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            '    title "A square"',
        ),
        plain=lines(
            "figure:",
            '    title "A parabola"',
            "    curve of x^2",
        ),
        slips=('plot title "My graph"',),
        more=('title "…" is drawn above the figure. The text behind figure NAME only names it on the page and in files.',),
        common_words="heading of a figure",
    ),
    Statement(
        name="caption",
        asked_as="caption, figure caption, figure text, subtitle",
        usage=('caption "TEXT"',),
        summary="what stands beneath the figure in a report",
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            '    caption "The square of $x$."',
        ),
        plain=lines(
            "figure:",
            "    curve of x^2",
            '    caption "A parabola."',
        ),
        common_words="figure text, description",
    ),
    Statement(
        name="text",
        asked_as="text, annotate, annotation, write, put text, add text, text at, label a point, write text, text box",
        usage=('text "TEXT" at (X, Y)',),
        summary="a text in the figure",
        options=options("colour size place turn opacity axis"),
        example=lines(
            "figure a:",
            "    curve of x^2 for x from 0 to 1",
            '    text "start" at (0, 0), place above',
        ),
        plain=lines(
            "figure:",
            "    curve of x^2 for x from -2 to 2",
            '    text "vertex" at (0, 0)',
        ),
        slips=('annotate "vertex" at (0, 0)',),
        common_words="annotation, note in a figure, label a point",
    ),
    Statement(
        name="line",
        asked_as=(
            "horizontal line, vertical line, reference line, threshold, straight line at, draw line at, line at, arrow, "
            "arrow from, segment, line segment, line from, horizontal, vertical, h line, v line, asymptote"
        ),
        usage=(
            "line from (X, Y) to (X, Y)",
            "line horizontal at Y",
            "line vertical at X",
            "line vertical at LIST",
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
        asked_as="mark, highlight, point out, show on the graph, pin",
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
        plain=lines(
            "r = roots of x^2 - 2 for x from -2 to 2",
            "figure:",
            "    curve of x^2 - 2 for x from -2 to 2",
            "    mark r",
        ),
        common_words="annotate a root, point out a result, badge",
    ),
    Statement(
        name="panel",
        asked_as="panel, panels, subplot, subplots, sub plot, side by side, grid of plots, several plots, next to each other",
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
        asked_as="view, rotate, camera, viewpoint, view angle, turn the view, view from above, look from, azimuth, elevation",
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
        asked_as="inset, zoomed detail, magnifier, enlarge a part",
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
        asked_as="shared axis, share axis, share axes, common axis, linked axes",
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
        asked_as=(
            "equal axes, axis equal, axes equal, equal scale, same scale, equal aspect, aspect equal, square axes, aspect ratio, "
            "true scale, equal scaling, equal units, proportional, isometric"
        ),
        usage=("true scale",),
        summary="one unit is as long on both axes",
        example=lines(
            "figure a:",
            "    curve of (cos(t), sin(t)) for t from 0 to 2pi",
            "    true scale",
        ),
        plain=lines(
            "figure:",
            "    curve of (cos(t), sin(t)) for t from 0 to 2pi",
            "    true scale",
        ),
        slips=("axis equal",),
        common_words="equal aspect, circle looks like an ellipse, proportion",
    ),
    Statement(
        name="decimal",
        asked_as="decimal comma, comma as decimal, decimal separator",
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
        asked_as="hide, remove, without, turn off, no, disable, delete",
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
        plain=lines(
            "figure:",
            "    curve of x^2",
            "    no frame",
        ),
        slips=("hide grid",),
        common_words="remove, hide, without",
    ),
)
