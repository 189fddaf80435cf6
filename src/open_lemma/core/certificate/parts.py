"""Boxes of several unknowns with rational ends, and texts that cut one by halving: a digit halves across that unknown, in prefix order;
every other letter is the claim of the part at which it stands."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from .cover import PLACE_BITS, Unproven, ball, bits, exact_place, fraction

Side = tuple[Fraction, Fraction]
Part = tuple[Side, ...]


def number_of(x: Any) -> Fraction:
    """An exact ball as a number."""
    mantissa, exponent = x.man_exp()
    return Fraction(int(mantissa)) * Fraction(2) ** int(exponent)


def side_of(x: Any) -> Side:
    """The ends of a ball."""
    return number_of(x.lower()), number_of(x.upper())


def span_ball(side: Side) -> Any:
    """The ball of all numbers between two ends."""
    return ball(side[0]).union(ball(side[1]))


def part_of(said: Any) -> Part:
    """A box that is said as pairs of numbers."""
    found = tuple((fraction(low), fraction(high)) for low, high in said)
    if any(low >= high for low, high in found):
        raise Unproven("a box that is none")
    return found


def within(part: Part, other: Part) -> bool:
    """Whether a box lies in another one."""
    return all(c <= a and b <= d for (a, b), (c, d) in zip(part, other, strict=True))


def parts(text: str, whole: Part) -> list[tuple[str, Part]]:
    """The parts of a box with their letters. Raises Unproven where the text is no tree."""
    todo, found = [whole], []
    for letter in text:
        if not todo:
            raise Unproven("more parts than there can be")
        part = todo.pop()
        if letter.isdigit():
            todo += halves(part, int(letter))[::-1]
        else:
            found.append((letter, part))
    if todo:
        raise Unproven("a box that is not covered")
    return found


def halves(part: Part, k: int) -> list[Part]:
    """The two halves of a box across one unknown."""
    if not 0 <= k < len(part):
        raise Unproven("no such unknown")
    low, high = part[k]
    return [(*part[:k], side, *part[k + 1 :]) for side in ((low, (low + high) / 2), ((low + high) / 2, high))]


def window_of(said: Any) -> list[tuple[Any, Any]]:
    """The ends of a window of several unknowns, as exact numbers."""
    found: list[Any] = [tuple(exact_place(e) for e in pair) for pair in said]
    if any(e is None for pair in found for e in pair):
        raise Unproven("a window without an end")
    return found


def balls_of(window: list[tuple[Any, Any]]) -> list[tuple[Any, Any]]:
    """Balls for the ends of a window."""
    with bits(PLACE_BITS):
        return [(low.ball, high.ball) for low, high in window]


def hull_of(window: list[tuple[Any, Any]]) -> Part:
    """The least box that is known to hold a window."""
    with bits(PLACE_BITS):
        found = tuple((number_of(low.lower()), number_of(high.upper())) for low, high in balls_of(window))
    if any(low >= high for low, high in found):
        raise Unproven("a window that is none")
    return found


def inside(part: Part, window: list[tuple[Any, Any]]) -> bool:
    """Whether a box lies in a window that is given by balls."""
    with bits(PLACE_BITS):
        return all(bool(ball(a) >= low) and bool(ball(b) <= high) for (a, b), (low, high) in zip(part, window, strict=True))


def outside(part: Part, window: list[tuple[Any, Any]]) -> bool:
    """Whether a box and a window have nothing in common."""
    with bits(PLACE_BITS):
        return any(bool(ball(b) < low) or bool(ball(a) > high) for (a, b), (low, high) in zip(part, window, strict=True))
