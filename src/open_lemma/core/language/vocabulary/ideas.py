"""Pages of the handbook on what no single word stands for; the first ones are for the first hour."""

from __future__ import annotations

from .records import Topic, lines

IDEAS = (
    Topic(
        name="first steps",
        usage=("f(x) = x^3 - 2x + 1", "curve of f(x) for x from -2 to 2", "roots of f(x) for x from -2 to 2"),
        summary="a definition, a request that draws and one that computes: that is a whole script",
        example=lines(
            "f(x) = x^3 - 2x + 1",
            "curve of f(x) for x from -2 to 2",
            "roots of f(x) for x from -2 to 2",
        ),
        plain="curve of sin(x)",
        rich=lines(
            "f(x) = x^3 - 2x + 1",
            "r = roots of f(x) for x from -2 to 2",
            "figure:",
            '    curve of f(x) for x from -2 to 2, label "f"',
            "    mark r",
            "    legend top left",
        ),
        slips=(
            "plot x^2",
            "y = x^2 from 0 to 3",
        ),
        common_words=(
            "begin, beginner, start, getting started, how to, tutorial, introduction, hello world, new here, what is this, overview, basics"
        ),
        more=(
            "Every request reads NOUN of FORMULA for VARIABLE from LOW to HIGH; options follow after commas: curve of f(x) for x "
            "from -2 to 2, colour brick, width 2.",
            "The script runs by itself when you stop typing. What it finds stands below the figure, numbered as in the margin; a "
            "click on a finding shows what it rests on.",
            "A mistake is told under its line, with the sentence to write as a button. Write what you want in your own words: "
            "plot x^2 is answered by curve of x^2.",
            "The course in twelve lessons goes through all of it in an hour.",
        ),
    ),
    Topic(
        name="evidence",
        usage=("proven   checked   open",),
        summary="how sure a number is: proven by arithmetic with guaranteed bounds, checked by a second look, or open",
        example=lines(
            "roots of x^3 - 3x + 1 for x from -3 to 3",
            "define g(t):",
            "    return sqrt(t)",
            "show g(2)",
            "integral of exp(-x^2) for x from -infinity to infinity",
        ),
        plain="roots of x^2 - 2 for x from 0 to 2",
        rich=lines(
            "f(x) = exp(-x)*sin(3x)",
            "highest of f(x) for x from 0 to 4",
            "integral of f(x) for x from 0 to infinity",
            "check f(0) = 0",
        ),
        common_words=(
            "proven, checked, open, grade, proof, certificate, how sure, can I trust it, is it exact, filled square, guarantee, rigorous, "
            "interval arithmetic, reliable, trust, correct"
        ),
        more=(
            "Proven (a filled square): a cover of the window by intervals shows that exactly these roots are there, that no value "
            "is lower, that the integral lies within the digits shown. A small verifier has gone over it again.",
            "Checked (half filled): the numbers have converged, and a second method agrees. Open (an empty square): the best that "
            "was found, with what is in doubt.",
            "Proven is about the arithmetic. What measurements leave in doubt stands behind ±.",
            "A finding opens by a click: its intervals, what was looked at and ruled out, the certificate as a file.",
        ),
    ),
    Topic(
        name="windows",
        usage=("for VARIABLE from LOW to HIGH", "for x from -infinity to infinity", "f(x) = FORMULA for x from LOW to HIGH"),
        summary="the span in which something is drawn or sought",
        example=lines(
            "f(x) = sqrt(4 - x^2) for x from -2 to 2",
            "curve of f(x)",
            "curve of 1/(x - 1) for x from -3 to 4",
            "roots of exp(x) - 3 for x from -infinity to infinity",
        ),
        plain="curve of x^2 for x from -1 to 3",
        rich=lines(
            "f(x) = sqrt(4 - x^2)",
            "curve of f(x)",
            "highest of f(x) for x from -2 to 2",
        ),
        slips=(
            "plot x^2, x = -3..3",
            "curve of x^2 from 0 to 2",
            "sin(x) for x in [0, 10]",
        ),
        common_words=(
            "range, interval, domain, from to, between, limits of x, zoom, where to look, x range, infinite, step size, number of points, "
            "how many points, resolution, sampling, smooth curve"
        ),
        more=(
            "A curve without a window chooses one that shows roots, turning points and poles in proportion, and says which.",
            "There is no number of points: curves are refined until the drawn line is exact to a tenth of a point.",
            "Requests that look for something (roots, lowest, crossings) need a window, since their answer is complete for it.",
            "A window behind a definition is the function's own: it holds wherever none is said. Fitted and interpolated "
            "functions have the span of their data.",
            "On the stage, dragging zooms, and a span dragged along the axis offers what can be asked about it.",
        ),
    ),
    Topic(
        name="greek and mathematics in labels",
        usage=('label "$\\alpha_1 x^2$"', "theta = 30deg", "α = 2"),
        summary="letters of formulas may be Greek, by name or as the letter; in a text, mathematics stands between dollar signs",
        example=lines(
            "alpha = 0.5",
            "figure:",
            '    curve of exp(-alpha*t)*cos(5t) for t from 0 to 6, label "$e^{-\\alpha t} \\cos 5t$"',
            '    x axis "time $t$ / s"',
            '    y axis "deflection $\\varphi$ / rad"',
            "    legend top right",
        ),
        plain='curve of x^2, label "$x^2$"',
        rich=lines(
            "omega = 2",
            "figure:",
            '    curve of sin(omega*t) for t from 0 to 6, label "$\\sin \\omega t$"',
            '    text "$\\frac{\\pi}{2\\omega}$" at (pi/4, 1.05)',
            '    y axis "$\\theta$ / rad"',
            "    legend bottom left",
        ),
        common_words=(
            "alpha, beta, symbols, subscript, superscript, exponent in a label, index, LaTeX, TeX, dollar, special characters, "
            "formula in a title, omega, lambda, mu, pi, squared in a label, greek letters, fraction in a label, italic, typeset"
        ),
        more=(
            "Between dollar signs stands LaTeX: $\\alpha$, $x^2$, $h_{12}$, $\\frac{a}{b}$, $\\sqrt{2}$. Units stay upright and outside: "
            '"discharge $Q$ / m³ s⁻¹".',
            "In formulas α and alpha are the same name. π, √, ², ≤, ·, ∞ are understood as typed.",
        ),
    ),
    Topic(
        name="export and printing",
        usage=("Export, above the figure", "size 89 mm by 60 mm", "style print"),
        summary="figures leave as SVG, PDF, EPS, PNG or TIFF at their printed size, data as CSV or XLSX, findings as tables",
        example=lines(
            'figure flow "Flow over the weir":',
            "    curve of 1.7*h^1.5 for h from 0 to 0.5",
            '    x axis "head / m"',
            '    y axis "discharge / m³ s⁻¹"',
            "    size 89 mm by 60 mm",
            "    style print",
        ),
        plain=lines(
            "figure:",
            "    curve of x^2",
            "    style print",
        ),
        rich=lines(
            "figure:",
            '    curve of [sin(x), cos(x)] for x from 0 to 6, label ["sine", "cosine"]',
            "    legend top right",
            "    style grey",
            "    size 89 mm by 60 mm",
            '    caption "Two waves."',
        ),
        common_words=(
            "save figure, save picture, download, pdf, png, svg, eps, tiff, high resolution, dpi, printing, paper, journal, word document, "
            "copy picture, clipboard, vector graphics, publication, image, export data, save as csv, save plot, fonts, export figure"
        ),
        more=(
            "The size is what it measures on paper, in millimetres; text is as large in print as it is set (size and style decide). "
            "Fonts are embedded.",
            "Vector formats (SVG, PDF, EPS) stay sharp at any size; PNG and TIFF have the resolution that is chosen.",
            "A figure carries its script: Trace a figure on the shelf finds the folio and the record that it came from.",
        ),
    ),
    Topic(
        name="walk and stops",
        usage=("Walk, above the script", "a click in the margin sets a stop; F9"),
        summary="a finished run gone through statement by statement, forward and back, with the names and the figure at every step",
        example=lines(
            "x = 3",
            "for k from 1 to 5:",
            "    x = x - (x^2 - 2)/(2x)",
            "show x",
        ),
        plain=lines(
            "n = 1",
            "for k from 1 to 3:",
            "    n = 2n",
            "show n",
        ),
        rich=lines(
            "x = 2",
            "n = 0",
            "while abs(x^2 - 2) > 1e-9:",
            "    x = x - (x^2 - 2)/(2x)",
            "    n = n + 1",
            "show x, n",
        ),
        common_words=(
            "debug, debugger, step through, breakpoint, watch variables, trace, inspect, step by step, go through a loop, values of "
            "variables, line by line, see what happens, pause, stop at a line"
        ),
        more=(
            "The slider above the script goes through the run; arrows go to the next and the last step, also backwards. The names "
            "stand with their values of that moment.",
            "A stop in the margin is where the walk halts; with a condition (x < 0) only when it holds.",
        ),
    ),
    Topic(
        name="keys",
        usage=("Ctrl+Enter   run", "F1   the page of the word at the cursor", "F2   rename", "F9   stop", "Ctrl+K   search the handbook"),
        summary="what the keyboard does on the desk",
        example="curve of sin(x)",
        common_words="shortcuts, keyboard, hotkeys, key bindings, ctrl, undo, redo, find and replace, tab, accessibility, screen reader",
        more=(
            "Ctrl+Z takes back and Ctrl+Y does again, in the script and for what was inked on the stage. Ctrl+F finds in the script, "
            "Ctrl+Space completes a word.",
            "Tab indents; Escape, then Tab leaves the script. Everything on the stage can be reached by Tab and the arrow keys; "
            "figures are described in words.",
        ),
    ),
    Topic(
        name="sharing and records",
        usage=("each run is kept as a record", "Export, Script and Record"),
        summary="a record holds the script, the fingerprints of its data, versions, findings and figures, so that it can be done again",
        example=lines(
            "sample = normal(20, 5, 0.2, 7)",
            "show mean(sample), sd(sample)",
        ),
        plain="show uniform(3, 0, 1, 5)",
        rich=lines(
            'part "Sample"',
            "sample = normal(50, 5, 0.2, 7)",
            "histogram of sample, bins 8",
            'note "seed 7"',
        ),
        common_words=(
            "share, send, collaborate, reproducible, reproduce, cite, citation, archive, version, history, old version, log, same result, "
            "backup, run it again, seed, colleague, hand in, submit, supervisor"
        ),
        more=(
            "The same script with the same data gives the same figures, byte for byte; random numbers need a seed.",
            "Records can be opened and compared, their text brought back. A script leaves as a .lemma file, a record as JSON whose "
            "proofs open-lemma verify checks without running anything.",
        ),
    ),
    Topic(
        name="what differs from paper",
        usage=("3x   2(x + 1)   x*y   x^(2y)   sin(x)^2   ln(x)",),
        summary="how formulas are typed where paper leaves it open",
        example=lines(
            "x = 3",
            "y = 2",
            "show 3x, 2(x + 1), x*y, x^(2y), sin(x)^2, ln(x), 1/(2x)",
        ),
        plain="show 3*4, 2^10, 1/3",
        rich=lines(
            "f(x) = abs(x)/(1 + x^2)",
            "show f(2), ln(10), log10(10), sqrt(2)^2, sin(30deg)",
        ),
        slips=(
            "y = 2 sin(3 x) + 1",
            "y = ln x",
            "plot sqrt x",
            "5 mod 3",
        ),
        common_words=(
            "multiplication sign, times, power, brackets, log, implicit multiplication, sin x, sin squared, "
            "how to type a formula, operators, precedence, order of operations"
        ),
        more=(
            "A number or a bracket in front of a name or a bracket multiplies: 3x, 2(x + 1). Two names need their sign: x*y, since "
            "xy is a name.",
            "Arguments stand in brackets: sin(x), not sin x. The square of a sine is sin(x)^2. The natural logarithm is ln, others "
            "are log10 and log2. Angles are radians; 30deg is 30 degrees.",
            "1/2x and x^2y can be read two ways and are refused with both. A decimal has a point, and text stands in double quotes.",
            "Whole numbers and their quotients stay exact; so do square roots and π where a formula is solved or proven.",
        ),
    ),
    Topic(
        name="reading files",
        usage=('table NAME from "FILE"', "2.50(5)   2.50±0.05   45 %   1.5D+03   06:30   49:15:00   2031-05-02T06:00+02:00"),
        summary="how a file becomes a table: found out by all of it, told where it is doubtful, and never changed",
        example=lines(
            "table spring:",
            "    force [N]   stretch [mm]",
            "    0.50(2)     1.30±0.05",
            "    1.00(2)     2.41±0.05",
            "    1.50(2)     3.62±0.05",
            "",
            "show mean(spring.stretch/spring.force)",
        ),
        plain=lines(
            "table t:",
            "    h [cm]   Q [L/s]",
            "    10       2.1",
            "    15       4.0",
            "show mean(t.Q)",
        ),
        rich=lines(
            "table t:",
            "    h [cm]   Q [L/s]",
            "    10       2.10(5)",
            "    15       4.02(8)",
            "    20       gap",
            "    25       8.9(2)",
            "figure:",
            "    points of t.Q against t.h",
        ),
        slips=(
            'import "data.csv"',
            "load data.csv",
        ),
        common_words=(
            "import, csv, csv file, excel, spreadsheet, read a file, bring data in, open a file, load data, measurements from a file, "
            "workbook, decimal comma, thousands separator, dates, missing values, -999, header, "
            "units row, encoding, delimiter, semicolon"
        ),
        more=(
            "Decimal sign: the cells of the whole file decide. A number that can be read by one sign only (1,5 or 0,250 or 1.234,5)"
            " tells; where none does, a comma is the decimal sign if semicolons, tabs or blanks divide the cells, and the other "
            "reading is offered.",
            "Heads: the table begins at the first row in which every column of numbers holds numbers; the row above names the "
            "columns. Titles and remarks may stand above, a row of units below the heads, or units in the heads: h [cm], h (cm), h "
            "/ cm, h in cm.",
            "Cells: 2.50(5) and 2.50±0.05 carry one standard uncertainty, which goes wherever the column goes. 45 % and 2.5 cm "
            "carry their unit. 1.5D+03 is 1500. An empty cell, n/a, nan, gap and a dash are gaps.",
            "Times: dates are counted from the first midnight, times of day from midnight, running times such as 49:15:00 from "
            "their start; a zone (+02:00, Z) is turned into universal time.",
            "Doubts are told on the import sheet, above the table and in the record of every run, each with the other reading "
            "beside it: dates that may be day/month or month/day, −999 far from all other numbers, the same head twice, whole "
            "numbers with more than 15 digits, formulas without results, a column that is read as text, with the first cell that is"
            " to blame.",
            "What cannot be read becomes a gap, and is told with its row. The file stays as it came; how it was read is part of the"
            " record.",
        ),
    ),
)
