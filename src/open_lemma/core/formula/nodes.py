"""One expression as the mathematics sees it: numbers, variables and applications of catalogue entries.

A formula never changes. Names of values and functions stay visible (`Named`), so that it can be typeset as it was
written, and open up into what they stand for when it is computed, proven or differentiated.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .entry import Entry
    from .units import Unit


class Formula:
    __slots__ = ()


@dataclass(frozen=True, slots=True)
class Number(Formula):
    """A rational number; `decimal` says that it was written with a point, so its value is shown as a decimal."""

    value: Fraction
    decimal: bool = False


@dataclass(frozen=True, slots=True)
class Variable(Formula):
    name: str


@dataclass(frozen=True, slots=True)
class Apply(Formula):
    entry: Entry
    arguments: tuple[Formula, ...]


@dataclass(frozen=True, slots=True)
class Named(Formula):
    """A name the script gave: a value, or a function called with arguments. `body` is what it stands for.

    Without a name it is a value with its unit of measure: `unit` belongs to what was measured, not to what is computed. `written` is
    what was written, where factors were put in because units met in different sizes.
    """

    name: str
    body: Formula
    arguments: tuple[Formula, ...] | None = None
    primes: int = 0
    unit: Unit | None = None
    written: Formula | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Given(Formula):
    """A value that came from elsewhere (a list, a finding).

    `data` is a float or a float array of shape (n,). `interval` is a pair of decimal texts that hold the true value
    of a single number; without it the number is taken as exact. `exact` holds the elements of a short list that is exact.
    `origin` says which parameter of which fit it is.
    """

    data: Any
    interval: tuple[str, str] | None = None
    name: str = ""
    unit: Unit | None = None
    exact: tuple[Fraction, ...] | None = None
    origin: Any = None


ZERO = Number(Fraction(0))
ONE = Number(Fraction(1))
TWO = Number(Fraction(2))


def number(value: int | Fraction) -> Number:
    return Number(Fraction(value))


def expanded(formula: Formula) -> Formula:
    """The formula without names: each stands open."""
    while isinstance(formula, Named):
        formula = formula.body
    return formula


def parts(formula: Formula) -> tuple[Formula, ...]:
    """The formulas directly inside, names opened."""
    if isinstance(formula, Apply):
        return formula.arguments
    if isinstance(formula, Named):
        return (formula.body,)
    return ()


def walk(formula: Formula) -> Iterator[Formula]:
    """All nodes of a formula, each before what stands inside it."""
    seen: set[int] = set()
    todo = [formula]
    while todo:
        node = todo.pop()
        if id(node) in seen:
            continue
        seen.add(id(node))
        yield node
        todo.extend(parts(node))


def variables(formula: Formula) -> frozenset[str]:
    return frozenset(n.name for n in walk(formula) if isinstance(n, Variable))


def substitute(formula: Formula, values: Mapping[str, Formula]) -> Formula:
    """The formula with variables replaced; shared parts stay shared, and f(x) of a function of x is its own body.

    Without the latter a recurrence such as t_3(x) = 2x*t_2(x) - t_1(x) would double its parts with every line.
    """
    values = {name: value for name, value in values.items() if value != Variable(name)}
    if not values:
        return formula
    return transformed(formula, lambda node, _: values.get(node.name) if isinstance(node, Variable) else None)


Visit = Callable[[Formula], Formula]


def transformed(formula: Formula, replaced: Callable[[Formula, Visit], Formula | None]) -> Formula:
    """The formula built anew where `replaced` gives another part for one; what does not change, and what is shared, stays.

    replaced  gets a part and the way to go on inside; None leaves the part to be gone through
    """
    done: dict[int, Formula] = {}

    def visit(node: Formula) -> Formula:
        found = done.get(id(node))
        if found is None:
            other = replaced(node, visit)
            found = done[id(node)] = _rebuilt(node, visit) if other is None else other
        return found

    return visit(formula)


def _rebuilt(node: Formula, visit: Visit) -> Formula:
    if isinstance(node, Apply):
        arguments = tuple(visit(a) for a in node.arguments)
        return node if all(a is b for a, b in zip(arguments, node.arguments, strict=True)) else Apply(node.entry, arguments)
    if isinstance(node, Named):
        body = visit(node.body)
        if body is node.body:
            return node
        called_with = None if node.arguments is None else tuple(visit(a) for a in node.arguments)
        return Named(node.name, body, called_with, node.primes, node.unit)
    return node
