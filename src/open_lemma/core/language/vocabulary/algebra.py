"""Formulas from formulas, limits, sums and tables of values."""

from __future__ import annotations

from .options import options
from .records import Noun, lines

NOUNS = (
    Noun(
        name="derivative",
        asked_as=(
            "derivative, differentiate, differentiation, slope, gradient, rate of change, derive, first derivative, "
            "second derivative, third derivative, partial derivative, slope at, steepness"
        ),
        shape="plain",
        summary="the rate of change as a formula",
        options=options("order at"),
        gives="formula",
        usage=("derivative of FORMULA for VARIABLE",),
        example="derivative of sin(x)*exp(-x) for x, at 1",
        plain="derivative of x^3 for x",
        rich=lines(
            "f(x) = sin(x)*exp(-x/3)",
            "d(x) = derivative of f(x) for x",
            "figure:",
            '    curve of [f(x), d(x)] for x from 0 to 10, label ["f", "its slope"]',
        ),
        slips=(
            "differentiate x^3",
            "slope of x^2 at 3",
            "d/dx sin(x)",
        ),
        common_words="slope, rate of change, differentiate, gradient, partial",
    ),
    Noun(
        name="limit",
        asked_as="limit, limiting value, tends to, what does it approach, limits",
        shape="plain",
        summary="what a value tends to",
        options=options("at digits unit"),
        gives="finding",
        usage=(
            "limit of FORMULA for VARIABLE, at PLACE",
            "limit of FORMULA for VARIABLE from PLACE to HIGH, at PLACE",
        ),
        example=lines(
            "limit of sin(x)/x for x, at 0",
            "limit of (1 + 1/n)^n for n, at infinity",
            "limit of 1/x for x from 0 to 1, at 0",
        ),
        plain="limit of sin(x)/x for x, at 0",
        rich=lines(
            "limit of (1 + 1/n)^n for n, at infinity",
            "limit of (sqrt(x + 1) - 1)/x for x, at 0",
        ),
        slips=(
            "lim x->0 sin(x)/x",
            "limit of 1/x as x approaches infinity",
        ),
        common_words="tends to, approaches, one-sided limit, asymptote",
    ),
    Noun(
        name="series",
        asked_as=(
            "series, taylor, taylor series, taylor polynomial, taylor expansion, maclaurin, maclaurin series, power series, "
            "series expansion, expansion, approximate by a polynomial"
        ),
        shape="plain",
        summary="expansion in powers",
        options=options("order at"),
        gives="formula",
        usage=("series of FORMULA for VARIABLE, at PLACE, order N",),
        example=lines(
            "p = series of exp(x) for x, at 0, order 4",
            "show p",
            "curve of [exp(x), p(x)] for x from -2 to 2",
        ),
        plain="series of exp(x) for x, at 0, order 3",
        rich=lines(
            "p = series of sin(x) for x, at 0, order 5",
            "figure:",
            '    curve of [sin(x), p(x)] for x from -4 to 4, label ["sine", "to the fifth power"]',
        ),
        slips=(
            "taylor series of sin(x)",
            "taylor polynomial of exp(x) degree 4",
        ),
        common_words="Taylor, Maclaurin, power series, expansion, approximate by a polynomial",
    ),
    Noun(
        name="sum",
        asked_as="sum, summation, sigma, add up, add all, total of, infinite sum, infinite series, sum up",
        shape="plain",
        summary="sum of a formula over whole numbers",
        options=options("digits unit"),
        gives="finding",
        endless=True,
        of_lists=True,
        usage=("sum of FORMULA for NAME from LOW to HIGH",),
        example=lines(
            "sum of 1/k^2 for k from 1 to infinity",
            "sum of k^2 for k from 1 to 100",
        ),
        plain="sum of k for k from 1 to 100",
        rich=lines(
            "S(n) = n*(n + 1)/2",
            "sum of k for k from 1 to 100",
            "check S(100) = 5050",
            "sum of 1/k^2 for k from 1 to infinity",
        ),
        slips=(
            "sum of k^2 from 1 to 10",
            "add up 1/n for n from 1 to 10",
        ),
        common_words="series of numbers, add up, sigma, infinite sum, converge",
    ),
    Noun(
        name="product",
        asked_as="product, multiply all, infinite product",
        shape="plain",
        summary="product of a formula over whole numbers",
        options=options("digits unit"),
        gives="finding",
        endless=True,
        of_lists=True,
        usage=("product of FORMULA for NAME from LOW to HIGH",),
        example="product of k for k from 1 to 6",
        plain="product of k for k from 1 to 5",
        rich=lines(
            "product of 1 - 1/k^2 for k from 2 to 50",
            "product of 1 + 1/2^k for k from 1 to 20",
        ),
        slips=("product of k from 1 to 5",),
        common_words="multiply, factorial, infinite product",
    ),
    Noun(
        name="simplification",
        asked_as=(
            "simplification, simplify, expand, factor, factorise, factorize, factorization, cancel, collect terms, "
            "expand brackets, rationalise, shorten"
        ),
        shape="plain",
        summary="a formula in its shortest form",
        gives="formula",
        usage=("simplification of FORMULA",),
        example=lines(
            "simplification of (x^2 - 1)/(x - 1)",
            "simplification of sin(x)^2 + cos(x)^2",
        ),
        plain="simplification of (x^2 - 1)/(x - 1)",
        rich=lines(
            "simplification of (a + b)^2 - (a - b)^2",
            "simplification of (x^3 - 8)/(x - 2)",
        ),
        slips=(
            "simplify (x^2 - 1)/(x - 1)",
            "expand (x + 1)^2",
        ),
        common_words="simplify, shorten, cancel, reduce a formula",
    ),
    Noun(
        name="values",
        asked_as="values, table of values, tabulate, value table, function table, values table",
        shape="plain",
        summary="a table of values",
        options=options("unit"),
        gives="table",
        usage=("values of FORMULA for VARIABLE from LOW to HIGH step STEP",),
        example="values of [x^2, sqrt(x)] for x from 0 to 2 step 0.5",
        plain="values of x^2 for x from 0 to 5 step 1",
        rich=lines(
            "f(t) = exp(-t/3)",
            "values of [f(t), 1 - f(t)] for t from 0 to 9 step 1.5",
        ),
        slips=("table of values of x^2 from 0 to 5",),
        common_words="table of a function, tabulate, evaluate at many places",
    ),
)
