"""A second verifier of boxes, on another library's intervals (mpmath's `iv`), with slopes by dual numbers of its own.

It knows fewer functions and fewer claims than the first, and nothing of points: it says of each box of a cover whether its claim holds,
or None where it cannot tell.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from mpmath import iv

Pair = tuple[Any, Any]  # value and slope as intervals


class Unknown(Exception):
    """A function, or a place near which this verifier says nothing."""


def boxes(part: dict[str, Any]) -> Iterator[tuple[Fraction, Fraction, str]]:
    """The finite boxes of a cover with their claims."""
    if "points" not in part:
        return
    ends: list[tuple[Any, Any]] = [(Fraction(p["near"][0]), Fraction(p["near"][1])) for p in part["points"]]
    stops = [*([(None, None)] if part["low"] == "-infinity" else []), *ends, *([(None, None)] if part["high"] == "infinity" else [])]
    for gap, (_, low), (high, _) in zip(part["gaps"], stops, stops[1:], strict=False):
        todo = [(low, high)]
        for letter in gap:
            a, b = todo.pop()
            if letter != "s":
                if a is not None and b is not None:
                    yield a, b, letter
                continue
            if a is None or b is None:
                return  # what lies without an end is left to the first verifier
            middle = (a + b) / 2
            todo += [(middle, b), (a, middle)]


def holds(part: dict[str, Any], low: Fraction, high: Fraction, code: str, depth: int = 7) -> bool | None:
    """Whether a claim holds on a box; None where its intervals are too wide to tell, on small parts of the box too. Raises Unknown."""
    found = _holds(part, low, high, code)
    if found is not None or depth == 0:
        return found
    middle = (low + high) / 2
    halves = [holds(part, a, b, code, depth - 1) for a, b in ((low, middle), (middle, high))]
    return False if False in halves else None if None in halves else True


def _holds(part: dict[str, Any], low: Fraction, high: Fraction, code: str) -> bool | None:
    if code not in "+-rf":
        raise Unknown
    iv.prec = 160
    try:
        value, slope = _run(part["formula"], iv.mpf([_number(low).a, _number(high).b]))
    except (ZeroDivisionError, ValueError):
        raise Unknown from None
    checked = value if code in "+-" else slope
    if code in "+r":
        return True if checked.a > 0 else False if checked.b <= 0 else None
    return True if checked.b < 0 else False if checked.a >= 0 else None


def _number(q: Fraction) -> Any:
    return iv.mpf(q.numerator) / iv.mpf(q.denominator)


def _run(program: list[list[Any]], x: Any) -> Pair:
    found: list[Pair | None] = []
    for head, *rest in program:
        try:
            found.append(_step(head, rest, found, x))
        except Unknown:
            found.append(None)
    last = found[-1]
    if last is None:
        raise Unknown
    return last


def _step(head: str, rest: list[Any], found: list[Pair | None], x: Any) -> Pair:
    zero = iv.mpf(0)
    if head == "variable":
        return x, iv.mpf(1)
    if head == "number":
        return _number(Fraction(rest[0])), zero
    if head == "pi":
        return +iv.pi, zero
    if head not in _RULES:
        raise Unknown
    args = []
    for k in rest:
        pair = found[k]
        if pair is None:
            raise Unknown
        args.append(pair)
    return _RULES[head](*args)


def _power(a: Pair, b: Pair) -> Pair:
    if b[0].a != b[0].b or b[0].a != int(b[0].a) or not 0 <= int(b[0].a) <= 30:
        raise Unknown
    n = int(b[0].a)
    return a[0] ** n, (iv.mpf(n) * a[0] ** (n - 1) if n else iv.mpf(0)) * a[1]


def _over(a: Pair, b: Pair) -> Pair:
    if b[0].a <= 0 <= b[0].b:
        raise Unknown
    return a[0] / b[0], (a[1] * b[0] - a[0] * b[1]) / b[0] ** 2


def _positive(u: Any) -> Any:
    if u.a <= 0:
        raise Unknown
    return u


_RULES: dict[str, Any] = {
    "+": lambda a, b: (a[0] + b[0], a[1] + b[1]), "-": lambda a, b: (a[0] - b[0], a[1] - b[1]), "neg": lambda a: (-a[0], -a[1]),
    "*": lambda a, b: (a[0] * b[0], a[1] * b[0] + a[0] * b[1]), "/": _over, "^": _power, "same": lambda a: a,
    "sin": lambda a: (iv.sin(a[0]), iv.cos(a[0]) * a[1]), "cos": lambda a: (iv.cos(a[0]), -iv.sin(a[0]) * a[1]),
    "exp": lambda a: (iv.exp(a[0]), iv.exp(a[0]) * a[1]), "ln": lambda a: (iv.log(_positive(a[0])), a[1] / a[0]),
    "sqrt": lambda a: (iv.sqrt(_positive(a[0])), a[1] / (2 * iv.sqrt(a[0]))),
    "u ln u": lambda a: (_positive(a[0]) * iv.log(a[0]), (iv.log(a[0]) + 1) * a[1]),
}  # fmt: skip
