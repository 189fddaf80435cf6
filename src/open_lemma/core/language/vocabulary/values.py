"""Kinds of value, how they are written; classical methods as `define` blocks, to be
walked step by step and compared with the proven answer."""

from __future__ import annotations

from .records import Topic, lines

VALUES = (
    Topic(
        name="numbers",
        usage=("3, 2.5, 1e-3, 2/3, 30deg",),
        summary="whole numbers and quotients stay exact until something inexact meets them",
        example=lines(
            "show 2/3 + 1/6",
            "show sin(30deg)",
        ),
        plain="show 1/3 + 1/6",
        rich=lines(
            "show sqrt(2), digits 40",
            "show 2^100, pi/4, 1e-3, 30deg",
        ),
        slips=(
            "what is 2^10",
            "2 + 2 =",
        ),
        common_words="fraction, decimal, exact, degrees",
    ),
    Topic(
        name="units",
        usage=("NAME = VALUE [UNIT]", "NUMBER [UNIT]", "for NAME from NUMBER [UNIT] to NUMBER [UNIT]"),
        summary=(
            "a unit belongs to its value and goes wherever it goes: like units are converted, the first one's is kept; unlike ones are "
            "refused. Functions such as exp take plain numbers, sin and cos angles too; 20 [°C] is a temperature on the scale, 20 [K] may "
            "be a difference"
        ),
        example=lines(
            "g = 9.81 [m/s^2]",
            "h = 25 [cm]",
            "show sqrt(2*g*h), 3 [m] + 20 [cm], sin(90 [deg])",
            "fall(t) = h - g*t^2/2",
            "roots of fall(t) for t from 0 [s] to 1 [s]",
        ),
        plain="show 3 [m] + 20 [cm]",
        rich=lines(
            "v = 54 [km/h]",
            "t = 2.5 [s]",
            "show v*t, unit [m]",
            "h(s) = v*s - 9.81 [m/s^2]*s^2/2",
            "highest of h(s) for s from 0 [s] to 3 [s]",
        ),
        slips=(
            "g = 9.81 m/s^2",
            "L = 1.2 m",
        ),
        common_words="dimension, metres, seconds, measure, convert units, degrees, physical quantity, SI",
        more=(
            "Symbols are those of textbooks: m s⁻², m/s^2, J/(mol K), kWh, µm, °C, deg, rev/min, mol/L, %. Behind a solidus stands "
            "one sign, or a bracket.",
            "Where two sizes of one dimension meet, in a sum, a comparison, a window or on an axis, the first one's is kept: 3 [m] "
            '+ 20 [cm] is 3.2 m. Another is asked for by show v, unit [km/h] and x axis "speed", unit [km/h].',
            "A formula that makes sense in one dimension only takes its variable in it, and says so: v*t - g*t^2/2 asks for t in s.",
            "Findings have units too: places that of the variable, heights that of the formula, integrals and areas the product, "
            "derivatives the quotient, parameters of fits what the model ties them to.",
        ),
    ),
    Topic(
        name="uncertainties",
        usage=("VALUE ± UNCERTAINTY", "VALUE +/- UNCERTAINTY [UNIT]"),
        summary=(
            "one standard uncertainty, as the Guide to the expression of uncertainty in measurement (JCGM 100) has it; what is made of an "
            "uncertain value is uncertain, to first order and with all correlations: roots, integrals, lowest values and the like too. "
            "So are parameters of fits"
        ),
        example=lines(
            "d = 2.50 ± 0.05 [cm]",
            "show pi*d^2/4, d - d",
            "roots of x^3 - d*x^2 for x from 0.1 [cm] to 5 [cm]",
        ),
        plain="show (2.50 ± 0.05)*3",
        rich=lines(
            "L = 1.20 ± 0.01 [m]",
            "T = 2.20 ± 0.02 [s]",
            "show 4*pi^2*L/T^2",
            "budget of 4*pi^2*L/T^2",
        ),
        slips=("d = 2.5 +- 0.1 cm",),
        common_words=(
            "measurement uncertainty, measurement error, error, plus minus, standard deviation, error propagation, tolerance, confidence"
        ),
        more=(
            "Sources are typed values, cells such as 2.50(5), columns with errors, and the parameters of fits with their "
            "covariance. What comes from one source stays correlated: d - d is exact, and a fitted curve at its own root is 0.",
            "Numbers are shown to the second digit of their uncertainty: t = (11.590 ± 0.075) min. Proven is about the arithmetic "
            "with the central values; a comparison says how many standard uncertainties lie between, and is never proven.",
            "Where the first order is not enough, the finding says so and gives an interval from 200 draws with a fixed seed. "
            "budget of X lists what share each source has in the variance.",
        ),
    ),
    Topic(
        name="lists",
        usage=("[1, 2, 3], 0 to 10 step 0.5, 0 to 10 count 21, [FORMULA for NAME from LOW to HIGH if CONDITION]",),
        summary="arithmetic goes element by element; the first element is xs[1]",
        example=lines(
            "xs = 0 to 1 count 5",
            "show xs^2, xs[2 to 3], last(xs)",
            "show [k^2 for k from 1 to 6 if mod(k, 2) = 0]",
        ),
        plain=lines(
            "xs = [1, 2, 3]",
            "show xs^2",
        ),
        rich=lines(
            "xs = 0 to 2 step 0.5",
            "ys = [x^2 for x in xs]",
            "show ys, sum(ys), ys[2], last(ys)",
        ),
        slips=(
            "x = 1, 2, 3, 4",
            "x = 0:0.1:10",
        ),
        common_words="list of numbers, range of numbers, array, vector, sequence, comprehension, range, slice, element",
    ),
    Topic(
        name="join",
        usage=("LIST join LIST, TEXT join VALUE",),
        summary="puts lists or texts together",
        example=lines(
            "xs = [1, 2] join [3]",
            'show xs, "k = " join 3',
        ),
        plain="show [1, 2] join [3]",
        rich=lines(
            "xs = [1]",
            "for k from 1 to 4:",
            "    xs = xs join [2*xs[k]]",
            "show xs",
        ),
        common_words="append, concatenate, add to a list, text with a number",
    ),
    Topic(
        name="points and texts",
        usage=('(1, 2), (1, 2, 3), "TEXT"',),
        summary="a point has its coordinates as p.x, p.y, p.z; $...$ in a text is mathematics",
        example=lines(
            "p = (3, 4)",
            "show sqrt(p.x^2 + p.y^2)",
        ),
        plain=lines(
            "p = (1, 2)",
            "show p.x",
        ),
        rich=lines(
            "p = (1, 2)",
            "q = (4, 6)",
            "show sqrt((p.x - q.x)^2 + (p.y - q.y)^2)",
            "figure:",
            "    points of [(1, 2), (4, 6)]",
            "    mark p",
        ),
        slips=("plot (1, 2), (2, 3)",),
        common_words="coordinates, pair, string",
    ),
    Topic(
        name="gap",
        usage=("gap",),
        summary="a missing value; it breaks a drawn line",
        example="show mean([1, gap, 3])",
        plain="show mean([1, gap, 3])",
        rich=lines(
            "ys = [1.2, gap, 1.9, 2.4]",
            "figure:",
            "    line of ys against [0, 1, 2, 3]",
        ),
        common_words="missing, nan, empty cell, no data",
    ),
    Topic(
        name="truth",
        usage=("x < 2, 0 < x < 1, a = b, a != b, and, or, not",),
        summary="true or false; comparisons chain",
        example="show 0 < 1/2 < 1 and not 1 = 2",
        plain="show 2 < 3",
        rich=lines(
            "a = 3",
            "show 0 < a < 5, a = 3 and not a > 4",
            "check a < 4",
        ),
        common_words="boolean, logic, comparison, condition",
    ),
)

METHODS = (
    Topic(
        name="bisection",
        usage=("define bisect(low, high): ...",),
        summary="halves a bracket in which the sign changes, as long as it is wide; it finds one root, and not which others there are",
        example=lines(
            "f(x) = x^3 - 2x - 5",
            "define bisect(low, high):",
            "    while high - low > 1e-9:",
            "        middle = (low + high)/2",
            "        if f(low)*f(middle) <= 0:",
            "            high = middle",
            "        else:",
            "            low = middle",
            "    return (low + high)/2",
            "r = roots of f(x) for x from 1 to 3",
            "check bisect(1, 3) = r, within 1e-8",
        ),
        common_words="interval halving, bracketing, root finding, bisect",
    ),
    Topic(
        name="secant method",
        usage=("define secant(a, b): ...",),
        summary="goes to where the straight line through the last two values is zero",
        example=lines(
            "f(x) = x^3 - 2x - 5",
            "define secant(a, b):",
            "    for k from 1 to 8:",
            "        if f(b) != f(a):",
            "            next = b - f(b)*(b - a)/(f(b) - f(a))",
            "            a = b",
            "            b = next",
            "    return b",
            "r = roots of f(x) for x from 1 to 3",
            "check secant(2, 3) = r, within 1e-9",
        ),
        common_words="secant, regula falsi, root finding without derivative",
    ),
    Topic(
        name="Newton's method",
        usage=("define newton(start): ...",),
        summary=(
            "goes to where the tangent is zero; near a simple root the digits double at each step, from elsewhere "
            "it may run away or go round"
        ),
        example=lines(
            "f(x) = x^3 - 2x - 5",
            "define newton(start):",
            "    x = start",
            "    for k from 1 to 6:",
            "        x = x - f(x)/f'(x)",
            "    return x",
            "r = roots of f(x) for x from 1 to 3",
            "check newton(2) = r, within 1e-9",
            "show newton(0.8)",
        ),
        common_words="tangent, iteration, derivative, quadratic convergence, newton raphson",
    ),
    Topic(
        name="golden section",
        usage=("define golden(low, high): ...",),
        summary="narrows a bracket around the lowest place, by the golden ratio each time; it finds one valley",
        example=lines(
            "f(x) = x + 0.2/x^2",
            "define golden(low, high):",
            "    share = (sqrt(5) - 1)/2",
            "    while high - low > 1e-6:",
            "        left = high - share*(high - low)",
            "        right = low + share*(high - low)",
            "        if f(left) < f(right):",
            "            high = right",
            "        else:",
            "            low = left",
            "    return (low + high)/2",
            "m = minima of f(x) for x from 0.2 to 3",
            "check golden(0.2, 3) = m, within 1e-5",
        ),
        common_words="minimum search, line search, unimodal, optimise",
    ),
    Topic(
        name="Simpson's rule",
        usage=("define simpson(low, high, n): ...",),
        summary="adds up the areas under parabolas through three neighbouring values; n is even",
        example=lines(
            "f(x) = exp(-x^2)",
            "define simpson(low, high, n):",
            "    h = (high - low)/n",
            "    total = f(low) + f(high)",
            "    for k from 1 to n - 1:",
            "        if mod(k, 2) = 1:",
            "            total = total + 4*f(low + k*h)",
            "        else:",
            "            total = total + 2*f(low + k*h)",
            "    return total*h/3",
            "area = integral of f(x) for x from 0 to 1",
            "check simpson(0, 1, 10) = area, within 1e-5",
        ),
        common_words="numerical integration, trapezium, parabola",
    ),
)
