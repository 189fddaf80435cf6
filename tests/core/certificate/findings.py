"""Findings to be proven, of each kind that has certificates: handbook functions with kinks, jumps, poles, edges, endless windows."""

from __future__ import annotations

from typing import Any

from open_lemma.core.run.execute.interpreter import run

STATEMENTS = """
roots of x^3 - 2x + 1 for x from -2 to 2
centroid of sqrt(1 - x^2) for x from 0 to 1
centroid of x and x^2 for x from 0 to 1
centroid of [(0, 0), (3, 0), (1/2, 6)]
roots of (x^2 - 2)^2 for x from -3 to 3
roots of 1 - cos(x) for x from -7 to 7
roots of sqrt(x) - x for x from 0 to 4
roots of x*exp(-x) - 0.1 for x from -infinity to infinity
roots of tan(x) - x for x from -5 to 5
roots of abs(x^2 - 2) - 1 for x from -3 to 3
roots of mod(x, 1) - 0.5 for x from 0 to 5
roots of x^2 - x*ln(x) - 2 for x from 0 to 5
roots of Gamma(x) - 2 for x from -2.5 to 5
roots of sin(x)/x for x from -10 to 10
crossings of sin(x) and x/3 for x from -5 to 5
extremes of abs(x^2 - 2) for x from -3 to 3
extremes of sqrt(x^2 - 2) for x from -3 to 3
extremes of max(x, acos(x)) for x from 0 to 3
extremes of floor(x) - x for x from 0 to 3
extremes of x*exp(-x) for x from 0 to infinity
extremes of (x^2 when x < 1, otherwise 2 - x) for x from -1 to 3
extremes of sin(x)/x for x from -10 to 10
extremes of x^3 for x from -1 to 1
extremes of min(max(x, 0), 1) for x from -1 to 2
minima of sign(abs(x)) for x from -1 to 1
lowest of x^x for x from 0 to 2
lowest of cos(x) for x from 0 to 20
highest of sin(x)*exp(-x/5) for x from 0 to 20
lowest of abs(x - 1) + abs(x + 1) for x from -3 to 3
lowest of cos(1/x) for x from 0 to 1
highest of sin(1/x)/2 + 1 for x from -1 to 1
solution of tan(x) > 1 for x from 0 to 3
solution of exp(x) > x^2 for x
solution of sqrt(x) > x for x from 0 to 2
solution of 1/(x - 1) >= 1 for x from -2 to 5
integral of sin(x)/x for x from 0 to 10
integral of exp(-x)/sqrt(x) for x from 0 to infinity
integral of exp(-x^2) for x from -infinity to infinity
integral of abs(sin(x)) for x from 0 to 10
integral of 1/(x*ln(x)^2) for x from 2 to infinity
integral of floor(x) + x^x for x from 0.5 to 3
integral of x*y^2 for x from 0 to 1, y from 0 to x
mean of sqrt(x) for x from 0 to 4
area of sin(x) and x^2 for x from 0 to 2
length of sin(x) for x from 0 to 2
sum of 1/k^2 for k from 1 to infinity
sum of (-1)^k/(2k + 1) for k from 0 to infinity
sum of 0.1*k for k from 1 to 3
sum of 3^k/Gamma(k + 1) for k from 0 to infinity
product of 1 + 1/2^k for k from 1 to infinity
limit of sin(x)/x, at 0
limit of abs(x)/x, at 0
limit of ln(x)/x^0.01, at infinity
limit of sqrt(x^2 + x) - x, at infinity
limit of tanh(x^2)/x, at infinity
limit of x*ln(x), at 0
limit of floor(tanh(x)) + atan(1/x), at infinity
limit of Gamma(exp(-x) - 1), at infinity
limit of exp(-1/x), at 0
limit of acos(x^2 + 1), at 0
inflections of exp(-x^2) for x from -3 to 3
inflections of sin(x) for x from 0 to 10
inflections of abs(x^2 - 4) for x from -3 to 3
inflections of tan(x) for x from -4 to 4
lowest of (x^2 + y - 11)^2 + (x + y^2 - 7)^2 for x from -5 to 5, y from -5 to 5
highest of x*y*exp(-x^2 - y^2) for x from -2 to 2, y from -1 to 1
lowest of abs(x) + abs(y - 1/3) for x from -1 to 1, y from -1 to 1
highest of x*y for x from 0 to 2, y from 0 to 2, where x^2 + y^2 <= 1
highest of x*y for x from 0 to 3, y from 0 to 3, where x^2 + y^2 = 2
lowest of x^2 for x from -3 to 3, where x >= 1
extremes of x^3 - x for x from -2 to 2, where x^2 >= 1/4
lowest of x + 2*y for x from 0 to 3, y from 0 to 3, where x + y >= 1
extremes of x^3 - 3*x + y^2 for x from -2 to 2, y from -1 to 1
minima of (x^2 + y - 11)^2 + (x + y^2 - 7)^2 for x from -5 to 5, y from -5 to 5
extremes of x*y + z^2 for x from -1 to 1, y from -1 to 1, z from -1 to 2
sqrt(2) + sin(1)
2/3 + Gamma(5)
ln(2) + ln(3) - ln(6)
solution of x^3 - 6*x^2 + 11*x - 6 = 0 for x
solution of exp(x) = 5 for x
solution of sin(x) = 1/2 for x from 0 to 7
solution of x + y = 3, x - 2*y = 1/2 for x, y
solution of exp(x) = y + 2, x^2 + sin(y) = 1 for x from -4 to 4, y from -4 to 4
derivative of x^3*exp(-x^2)/sqrt(1 + x) for x
derivative of abs(x^2 - 1)^1.5 for x, order 2
derivative of x^x*ln(x) for x
derivative of tan(x)*asin(x/2)*max(x, 1/2) for x
f(x) = Gamma(x)*besselj(0, x); show f'
integral of x*exp(-x) for x
integral of sin(x)^2 for x
integral of sqrt(1 - x^2) for x
simplification of (x^3 - 1)/(x - 1)
series of sqrt(1 + x) for x, at 0, order 4
series of cos(x) for x, at pi/3, order 3
check sqrt(2)*sqrt(3) = sqrt(6)
check sin(1) = 0.84147, within 0.0001
show 0 < 1/2 < 1 and not exp(1) > 3
r = roots of x^2 - 3 for x from 0 to 3; show r
xs = [1, 2, 3, 4, 5]; ys = [2.1, 3.9, 6.2, 7.8, 10.1]; L(x) = fit of a + b*x to ys against xs, errors 0.1
xs = [1, 2, 3, 4, 5, 6]; ys = [3.1, 2.2, 1.6, 1.2, 0.9, 0.7]; D(x) = fit of a*exp(-k*x) + c to ys against xs
xs = [1, 2, 3, 4, 5]; ys = [2.1, 3.9, 6.2, 7.8, 10.1]; P(x) = fit of a*x^b + c to ln(ys) against sqrt(xs), limit b = 0 to 1/2
xs = [1, 2, 3, 4, 5, 7]; ys = [2.1, 3.9, 6.2, 7.8, 6.1, 6.5]; S(x) = interpolation of ys against xs
xs = [1, 2, 3, 4, 5, 7]; ys = [2.1, 3.9, 6.2, 7.8, 6.1, 6.5]; M(x) = interpolation of ys against xs, by monotone
""".strip().splitlines()


def finding_of(statement: str) -> dict[str, Any]:
    """The finding of the last statement of a line, as the record has it."""
    outcome = run(statement.replace("; ", "\n"))
    assert outcome.findings, [m.text for m in outcome.reading.messages.items]
    return outcome.findings[-1].as_record()
