"""Identities of formulas: derivatives along variables, equal formulas, Taylor polynomials.

A formula becomes a quotient of polynomials with rational coefficients in its variables and in *kernels*: exponentials, sines and cosines,
roots, logarithms and the like, each of one argument. Arithmetic is exact; what holds between kernels is used as it is written:

    exp(a + b) = exp(a) exp(b)      cos^2 = 1 - sin^2      sums of angles      r^q = u for the q-th root r of u

Two formulas are equal, wherever both have a value, where the numerator of their difference is zero. What does not come out as zero is not
shown, which says nothing. Derivatives: NIST Digital Library of Mathematical Functions, sections 4.7, 4.20, 4.24, 5.2, 5.15, 7.10.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from fractions import Fraction
from typing import Any

from flint import Ordering, fmpq, fmpq_mpoly_ctx, fmpz
from flint.utils.flint_exceptions import DomainError

from .cover import ULP, Unproven, ball, between, exact_place
from .evaluator import run
from .exact import Exact, NoExactNumber

MOST_KERNELS = 48
MOST_TERMS = 4_000
MOST_MULTIPLE = 24  # of an angle, or of a whole power
MOST_ROOT = 12
_RING = fmpq_mpoly_ctx.get([f"k{i}" for i in range(MOST_KERNELS)], Ordering.degrevlex)
_GENERATORS = _RING.gens()
_ONE, _ZERO = _RING.constant(1), _RING.constant(0)

Quotient = tuple[Any, Any]  # numerator and denominator, without common factors


_ANGLES = {
    1: (Fraction(1), Fraction(0)), 2: (Fraction(0), Fraction(1)), 3: (Fraction(1, 4), Fraction(3, 4)), 4: (Fraction(1, 2), Fraction(1, 2)),
    6: (Fraction(3, 4), Fraction(1, 4)),
}  # fmt: skip


class Algebra:
    """The kernels of some formulas, and arithmetic with quotients of polynomials in them. sloping: only places count at which abs and sign
    have a slope."""

    def __init__(self, sloping: bool = False) -> None:
        self.sloping = sloping
        self.keys: dict[Any, int] = {}
        self.slopes: list[Callable[[str], Quotient]] = []
        self.rules: dict[int, tuple[int, Any]] = {}  # of a kernel: from which power on it is replaced, and by what

    # ------------------------------------------------------------ arithmetic

    def number(self, q: Fraction) -> Quotient:
        return _RING.constant(fmpq(q.numerator, q.denominator)), _ONE

    def quotient(self, above: Any, below: Any) -> Quotient:
        """The quotient of two polynomials. Raises Unproven where it divides by zero."""
        above, below = self._reduced(above), self._reduced(below)
        if below.is_zero():
            raise Unproven("a division by zero")
        if above.is_zero():
            return _ZERO, _ONE
        shared = above.gcd(below)
        above, below = above / shared, below / shared
        lead = below.leading_coefficient()
        return above / lead, below / lead

    def _reduced(self, p: Any) -> Any:
        """A polynomial in which no kernel stands to a power that has a rule."""
        for _ in range(64):
            if len(p) > MOST_TERMS:
                raise Unproven("too many terms")
            total, changed = _ZERO, False
            for exponents, coefficient in p.to_dict().items():
                high = next((i for i, (q, _) in self.rules.items() if exponents[i] >= q), None)
                if high is None:
                    total += _RING.from_dict({exponents: coefficient})
                    continue
                q, by = self.rules[high]
                rest = tuple(e - q if i == high else e for i, e in enumerate(exponents))
                total += _RING.from_dict({rest: coefficient}) * by
                changed = True
            if not changed:
                return p
            p = total
        raise Unproven("powers that come to no end")

    def plus(self, a: Quotient, b: Quotient) -> Quotient:
        return self.quotient(a[0] * b[1] + b[0] * a[1], a[1] * b[1])

    def minus(self, a: Quotient) -> Quotient:
        return -a[0], a[1]

    def times(self, a: Quotient, b: Quotient) -> Quotient:
        return self.quotient(a[0] * b[0], a[1] * b[1])

    def over(self, a: Quotient, b: Quotient) -> Quotient:
        return self.quotient(a[0] * b[1], a[1] * b[0])

    def power(self, a: Quotient, n: int) -> Quotient:
        """A whole power."""
        if abs(n) > MOST_MULTIPLE:
            raise Unproven("a high power")
        return self.quotient(a[0] ** n, a[1] ** n) if n >= 0 else self.quotient(a[1] ** -n, a[0] ** -n)

    # ------------------------------------------------------------ kernels

    def kernel(self, key: Any, slope: Callable[[str], Quotient]) -> Quotient:
        """The kernel of this key. slope: its derivative along a variable, where it is asked for."""
        if key not in self.keys:
            if len(self.slopes) >= MOST_KERNELS:
                raise Unproven("too many functions")
            self.keys[key] = len(self.slopes)
            self.slopes.append(slope)
        return _GENERATORS[self.keys[key]], _ONE

    def variable(self, name: str) -> Quotient:
        return self.kernel(("variable", name), lambda along: self.number(Fraction(int(along == name))))

    def constant(self, name: str) -> Quotient:
        return self.kernel(("constant", name), lambda _: self.number(Fraction(0)))

    def root(self, u: Quotient, q: int) -> Quotient:
        """The q-th root: of n/d it is that of n d^(q-1) over d, of an even q over |d|."""
        if q > MOST_ROOT:
            raise Unproven("a high root")
        if q == 1:
            return u
        shared = math.lcm(*(int(v.q) for p in u for v in p.to_dict().values()))
        u = u[0] * shared, u[1] * shared
        inner = self._reduced(u[0] * u[1] ** (q - 1))
        content, inner = _without_content(inner)
        outer, left = _powers_in(content, q)
        over = (u[1], _ONE) if q % 2 else self._size_below(*u)
        if outer != 1 or (left != 1 and inner != _ONE):
            found = self.times(self.number(outer), self.over(self._plain_root(_RING.constant(left), q), over))
            return self.times(found, self._plain_root(inner, q))
        return self.over(self._plain_root(inner * left, q), over)

    def sign(self, u: Quotient) -> Quotient:
        """The sign, which is its own third power; u/|u| where only places with a slope count, and these have none at u = 0."""
        if self.sloping:
            return self.over(u, self.magnitude(u))
        found = self.kernel(("sign", _text(u)), lambda _: self.number(Fraction(0)))
        self.rules.setdefault(self.keys["sign", _text(u)], (3, found[0]))
        return found

    def _size_below(self, above: Any, below: Any) -> Quotient:
        """The absolute value of a denominator, of a quotient that is not negative."""
        if above.is_constant():
            return (-below if above.leading_coefficient() < 0 else below), _ONE  # it has the sign of what stands above
        if all(v > 0 and not any(e % 2 for e in exponents) for exponents, v in below.to_dict().items()):
            return below, _ONE
        return self.magnitude((below, _ONE))

    def _plain_root(self, inner: Any, q: int) -> Quotient:
        """The kernel that stands for the q-th root of a polynomial."""
        if inner == _ONE:
            return self.number(Fraction(1))
        square = _square_root(inner) if q % 2 == 0 else None
        if square is not None:
            return self.root(self.magnitude((square, _ONE)), q // 2)
        whole = inner, _ONE
        key = ("root", q, str(inner))

        def slope(along: str) -> Quotient:
            found = _GENERATORS[self.keys[key]], _ONE
            return self.over(self.times(found, self.slope(whole, along)), self.times(self.number(Fraction(q)), whole))

        r = self.kernel(key, slope)
        self.rules.setdefault(self.keys[key], (q, inner))
        return r

    def magnitude(self, u: Quotient) -> Quotient:
        """The absolute value, whose square is u^2: of n/d it is that of n d over d^2."""
        content, inner = _without_content(self._reduced(u[0] * u[1]))
        inner = -inner if not inner.is_zero() and inner.leading_coefficient() < 0 else inner
        key = ("abs", str(inner))

        def slope(along: str) -> Quotient:
            return self.over(self.times((inner, _ONE), self.slope((inner, _ONE), along)), (_GENERATORS[self.keys[key]], _ONE))

        found = self.kernel(key, slope)
        self.rules.setdefault(self.keys[key], (2, inner**2))
        return self.over((found[0] * content, _ONE), (u[1] ** 2, _ONE))

    def exponential(self, u: Quotient) -> Quotient:
        """exp of a sum as the product of those of its terms."""
        found = self.number(Fraction(1))
        for term, times in self._multiples(u):
            key = ("exp", _text(term))
            e = self.kernel(key, lambda along, term=term, key=key: self.times(  # type: ignore[misc]
                (_GENERATORS[self.keys[key]], _ONE), self.slope(term, along)))  # fmt: skip
            found = self.times(found, self.power(e, times))
        return found

    def circle(self, u: Quotient) -> tuple[Quotient, Quotient]:
        """Cosine and sine of a sum of angles."""
        c, s = self.number(Fraction(1)), self.number(Fraction(0))
        for term, times in self._multiples(u):
            one, other = self._pair(term)
            other = other if times > 0 else self.minus(other)
            for _ in range(abs(times)):
                c, s = (
                    self.plus(self.times(c, one), self.minus(self.times(s, other))),
                    self.plus(self.times(s, one), self.times(c, other)),
                )
        return c, s

    def _pair(self, term: Quotient) -> tuple[Quotient, Quotient]:
        text = _text(term)
        for part, known in _ANGLES.items():
            if text == _text(self.times(self.constant("pi"), self.number(Fraction(1, part)))):
                # Cosine and sine of pi/part: each the root of a rational number.
                cosine, sine = (self.root(self.number(q), 2) if q else self.number(Fraction(0)) for q in known)
                return (self.minus(cosine) if part == 1 else cosine), sine
        sine = self.kernel(("sin", text), lambda along: self.times(self._pair(term)[0], self.slope(term, along)))
        cosine = self.kernel(("cos", text), lambda along: self.minus(self.times(self._pair(term)[1], self.slope(term, along))))
        self.rules.setdefault(self.keys["cos", text], (2, _ONE - sine[0] ** 2))
        return cosine, sine

    def _multiples(self, u: Quotient) -> list[tuple[Quotient, int]]:
        """A sum as whole multiples of terms: where it is a polynomial each of its own; with the sign of the first one in front else."""
        if u[1] != _ONE:
            lead = u[0].leading_coefficient()
            return [((u[0] / lead * _size(lead), u[1]), 1 if lead > 0 else -1)]
        terms = []
        for exponents, coefficient in u[0].to_dict().items():
            one = _RING.from_dict({exponents: fmpq(1, coefficient.q)})
            times = int(coefficient.p)
            if abs(times) > MOST_MULTIPLE:
                one, times = one * abs(times), 1 if times > 0 else -1
            terms.append(((one, _ONE), times))
        return terms

    def plain(self, name: str, args: Sequence[Quotient]) -> Quotient:
        """A function of which only its derivative is known."""
        u = args[-1]
        key = (name, *(_text(a) for a in args))

        def slope(along: str) -> Quotient:
            found = _GENERATORS[self.keys[key]], _ONE
            return self.times(_PLAIN[name](self, found, *args), self.slope(u, along))

        if any(a[0].is_constant() is False or a[1] != _ONE for a in args[:-1]):
            raise Unproven(f"{name} of an order that is no number")
        return self.kernel(key, slope)

    def general_power(self, u: Quotient, v: Quotient) -> Quotient:
        """u^v: whole powers, roots, and exp(v ln u)."""
        if v[1] == _ONE and v[0].is_constant():
            q = v[0].leading_coefficient() if not v[0].is_zero() else fmpq(0)
            return self.power(self.root(u, int(q.q)), int(q.p))
        key = ("power", _text(u), _text(v))

        def slope(along: str) -> Quotient:
            grown = self.plus(
                self.times(self.slope(v, along), self.plain("ln", [u])), self.times(v, self.over(self.slope(u, along), u))
            )  # fmt: skip
            return self.times((_GENERATORS[self.keys[key]], _ONE), grown)

        return self.kernel(key, slope)

    # ------------------------------------------------------------ derivatives

    def slope(self, u: Quotient, along: str) -> Quotient:
        """The derivative along a variable: of n/d it is (n' d - n d')/d^2."""
        above, below = self._slope_of(u[0], along), self._slope_of(u[1], along)
        difference = self.plus(self.times(above, (u[1], _ONE)), self.minus(self.times((u[0], _ONE), below)))
        return self.over(difference, self.times((u[1], _ONE), (u[1], _ONE)))

    def _slope_of(self, p: Any, along: str) -> Quotient:
        total = self.number(Fraction(0))
        for k in range(len(self.slopes)):
            by = p.derivative(k)
            if not by.is_zero():
                total = self.plus(total, self.times((by, _ONE), self.slopes[k](along)))
        return total

    # ------------------------------------------------------------ programs

    def read(self, program: Sequence[Sequence[Any]], values: dict[str, Quotient] | None = None) -> Quotient:
        """A program as a quotient, with values for some variables. Raises Unproven for a step that has none."""
        known = values or {}
        found: list[Quotient] = []
        for head, *rest in program:
            if head == "number":
                found.append(self.number(Fraction(rest[0])))
            elif head == "variable":
                found.append(known[rest[0]] if rest[0] in known else self.variable(rest[0]))
            elif head in ("pi", "e", "deg"):
                found.append(self._named(head))
            elif head in _STEPS and all(isinstance(k, int) and 0 <= k < len(found) for k in rest):
                found.append(_STEPS[head](self, *(found[k] for k in rest)))
            else:
                raise Unproven(f"no identity is known of {head}")
        return found[-1]

    def _named(self, name: str) -> Quotient:
        if name == "e":
            return self.exponential(self.number(Fraction(1)))
        return self.constant("pi") if name == "pi" else self.times(self.constant("pi"), self.number(Fraction(1, 180)))


def _text(u: Quotient) -> str:
    return f"({u[0]})/({u[1]})"


def _without_content(p: Any) -> tuple[int, Any]:
    """A polynomial as a positive whole number and what is left; without a whole number that divides it 1 and itself."""
    coefficients = list(p.to_dict().values())
    if not coefficients or any(v.q != 1 for v in coefficients):
        return 1, p  # zero, or with fractions
    shared = math.gcd(*(int(v.p) for v in coefficients))
    return shared, p / shared


def _square_root(p: Any) -> Any:
    """The polynomial of which this one is the square; None where there is none that is not a number."""
    if p.is_constant():
        return None
    try:
        return p.sqrt()
    except DomainError:
        return None


def _powers_in(n: int, q: int) -> tuple[Fraction, int]:
    """A whole number as the q-th power of one, and what is left."""
    outer = 1
    if n > 1 and n < 10**12:
        for prime, times in fmpz(n).factor():
            outer *= int(prime) ** (times // q)
    return Fraction(outer), n // outer**q


def _size(q: Any) -> Any:
    return q if q > 0 else -q


def _one_over(algebra: Algebra, u: Quotient) -> Quotient:
    return algebra.over(algebra.number(Fraction(1)), u)


def _arc(algebra: Algebra, u: Quotient) -> Quotient:
    below = algebra.plus(algebra.number(Fraction(1)), algebra.minus(algebra.times(u, u)))
    return _one_over(algebra, algebra.root(below, 2))


def _bell(algebra: Algebra, u: Quotient) -> Quotient:
    top = algebra.times(algebra.number(Fraction(2)), algebra.exponential(algebra.minus(algebra.times(u, u))))
    return algebra.over(top, algebra.root(algebra.constant("pi"), 2))


def _bessel_slope(name: str) -> Callable[..., Quotient]:
    def slope(a: Algebra, _: Quotient, n: Quotient, u: Quotient) -> Quotient:
        before, after = (a.plain(name, [a.plus(n, a.number(Fraction(k))), u]) for k in (-1, 1))
        return a.times(a.plus(before, a.minus(after)), a.number(Fraction(1, 2)))

    return slope


# The derivative of each by its last argument, given the function itself and its arguments.
_PLAIN: dict[str, Callable[..., Quotient]] = {
    "ln": lambda a, _, u: _one_over(a, u),
    "atan": lambda a, _, u: _one_over(a, a.plus(a.number(Fraction(1)), a.times(u, u))),
    "asin": lambda a, _, u: _arc(a, u),
    "acos": lambda a, _, u: a.minus(_arc(a, u)),
    "erf": lambda a, _, u: _bell(a, u),
    "erfc": lambda a, _, u: a.minus(_bell(a, u)),
    "1/Gamma": lambda a, f, u: a.minus(a.times(f, a.plain("digamma", [u]))),
    "digamma": lambda a, _, u: a.plain("polygamma", [a.number(Fraction(1)), u]),
    "polygamma": lambda a, _, n, u: a.plain("polygamma", [a.plus(n, a.number(Fraction(1))), u]),
    "besselj": _bessel_slope("besselj"),
    "bessely": _bessel_slope("bessely"),
}


def _greater(sign: int) -> Callable[..., Quotient]:
    """max(a, b) = (a + b + |a - b|)/2, min(a, b) = (a + b - |a - b|)/2."""

    def value(a: Algebra, u: Quotient, v: Quotient, d: Quotient) -> Quotient:
        apart = a.times(a.number(Fraction(sign)), a.magnitude(d))
        return a.times(a.plus(a.plus(u, v), apart), a.number(Fraction(1, 2)))

    return value


def _hyperbolic(sign: int) -> Callable[[Algebra, Quotient], Quotient]:
    def value(a: Algebra, u: Quotient) -> Quotient:
        grown = a.exponential(u)
        both = a.plus(grown, a.times(a.number(Fraction(sign)), _one_over(a, grown)))
        return a.times(both, a.number(Fraction(1, 2)))

    return value


_STEPS: dict[str, Callable[..., Quotient]] = {
    "+": Algebra.plus, "-": lambda a, u, v: a.plus(u, a.minus(v)), "neg": Algebra.minus, "*": Algebra.times, "/": Algebra.over,
    "same": lambda _, u: u, "max": _greater(1), "min": _greater(-1), "^": Algebra.general_power, "u^u": lambda a, u: a.general_power(u, u),
    "u ln u": lambda a, u: a.times(u, a.plain("ln", [u])),
    "sqrt": lambda a, u: a.root(u, 2), "cbrt": lambda a, u: a.root(u, 3), "exp": Algebra.exponential,
    "sin": lambda a, u: a.circle(u)[1], "cos": lambda a, u: a.circle(u)[0], "tan": lambda a, u, c: a.over(a.circle(u)[1], c),
    "sinh": _hyperbolic(-1), "cosh": _hyperbolic(1), "tanh": lambda a, u: a.over(_hyperbolic(-1)(a, u), _hyperbolic(1)(a, u)),
    "asin": lambda a, u, *_: a.plain("asin", [u]), "acos": lambda a, u, *_: a.plain("acos", [u]),
    "sign": Algebra.sign, "abs": Algebra.magnitude,
    "log10": lambda a, u: a.over(a.plain("ln", [u]), a.plain("ln", [a.number(Fraction(10))])),
    "log2": lambda a, u: a.over(a.plain("ln", [u]), a.plain("ln", [a.number(Fraction(2))])),
    **{name: lambda a, *u, name=name: a.plain(name, u) for name in _PLAIN if name not in ("asin", "acos")},
}  # fmt: skip


# ---------------------------------------------------------------- claims


def identity(certificate: dict[str, Any]) -> None:
    """Check that `result` is the derivative of `formula` along the variables of `along`, one after the other. Raises Unproven."""
    sloping = bool(certificate["along"])
    if sloping and any(step[0] == "sign" for step in certificate["formula"]):
        raise Unproven("a jump, whose place may have a slope all the same")
    algebra = Algebra(sloping)
    found = algebra.read(certificate["formula"])
    for name in certificate["along"]:
        found = algebra.slope(found, name)
    difference = algebra.plus(found, algebra.minus(algebra.read(certificate["result"])))
    if not difference[0].is_zero():
        raise Unproven("the two formulas are not seen to be equal")


def taylor(certificate: dict[str, Any]) -> None:
    """Check that `result` has the value and the derivatives of `formula` up to the order, at one place. Raises Unproven, NoExactNumber."""
    variable, order = certificate["variable"], certificate["order"]
    place = {variable: exact_place(certificate["at"])}
    one, other = (run(certificate[k], place, order, variable)[-1] for k in ("formula", "result"))
    if one is None or other is None or one.jet is None or other.jet is None or not (one.smooth and other.smooth):
        raise Unproven("the function is not smooth there")
    if not all((a - b).is_zero() for a, b in zip(one.jet, other.jet, strict=True)):
        raise Unproven("a coefficient is another one")


def put_back(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> tuple[list[bool], bool, int, list[str]]:
    """Check that each row solves all `formulas`, by putting its `values` in. That there are no others is not shown."""
    proven, faults = [], []
    for values, row in zip(certificate["values"], rows, strict=True):
        try:
            _solves(certificate["formulas"], values, row)
            proven.append(True)
        except (Unproven, NoExactNumber) as reason:
            faults.append(str(reason))
            proven.append(False)
    return proven, False, len(rows), faults


def everything(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> tuple[list[bool], bool, int, list[str]]:
    """Check that each of `formulas` is the polynomial zero: every value of the variables solves them. There are no rows."""
    whole = {"number", "variable", "+", "-", "neg", "*", "^", "same"}
    for formula in certificate["formulas"]:
        if not all(step[0] in whole for step in formula) or not Algebra().read(formula)[0].is_zero():
            raise Unproven("not a polynomial that is zero")
    return [], not rows, 1, []


def _solves(formulas: list[Any], values: dict[str, Any], row: dict[str, Any]) -> None:
    """Raises Unproven, NoExactNumber."""
    algebra = Algebra()
    letters = {name: algebra.read(program) for name, program in values.items()}
    numbers = {name: _told(program, row, name) for name, program in values.items() if not isinstance(row[name], str)}
    for formula in formulas:
        if len(numbers) == len(values):
            found = run(formula, numbers)[-1]
            if found is None or not found.defined or found.jet is None:
                raise Unproven("an equation has no value there")
            if found.jet[0].ball.contains(0) and _is_zero(found.jet[0]):
                continue
        if not algebra.read(formula, letters)[0].is_zero():
            raise Unproven("an equation that is not seen to hold")


def _is_zero(number: Exact) -> bool:
    try:
        return number.is_zero()
    except NoExactNumber:
        return False


def _told(program: list[Any], row: dict[str, Any], name: str) -> Exact:
    """The number of a row, which must be told as it is."""
    found = exact_place({"formula": program})
    if found is None:
        raise Unproven("no number")
    sides = (-1, 1) if row[name] > 0 else (1, -1)
    low, high = between(row, name, row.get("interval") or [str(Fraction(row[name]) * (1 + side * ULP)) for side in sides])
    if not (found.ball >= ball(low).lower() and found.ball <= ball(high).upper()):
        raise Unproven(f"{name} is another number")
    return found
