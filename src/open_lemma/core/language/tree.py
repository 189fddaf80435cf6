"""The syntax tree: what was written, with the place of each part as offsets into the text.

Nodes are plain data and never change. Names are canonical (`α` reads `alpha`), numbers keep their spelling.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, fields
from typing import Literal


@dataclass(frozen=True, slots=True)
class Node:
    start: int
    end: int


# ---------------------------------------------------------------- expressions


@dataclass(frozen=True, slots=True)
class Expression(Node):
    pass


@dataclass(frozen=True, slots=True)
class Number(Expression):
    text: str


@dataclass(frozen=True, slots=True)
class Text(Expression):
    value: str


@dataclass(frozen=True, slots=True)
class Truth(Expression):
    value: bool


@dataclass(frozen=True, slots=True)
class Name(Expression):
    name: str
    spelling: str


@dataclass(frozen=True, slots=True)
class Negative(Expression):
    operand: Expression


@dataclass(frozen=True, slots=True)
class Binary(Expression):
    operator: Literal["+", "-", "*", "/", "^"]
    left: Expression
    right: Expression


@dataclass(frozen=True, slots=True)
class Juxtaposed(Expression):
    """`3x`, `2(x + 1)(x - 1)`: a product without a sign."""

    factors: tuple[Expression, ...]


@dataclass(frozen=True, slots=True)
class Radical(Expression):
    operand: Expression


@dataclass(frozen=True, slots=True)
class Group(Expression):
    inner: Expression


@dataclass(frozen=True, slots=True)
class Comparison(Expression):
    operands: tuple[Expression, ...]
    signs: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Logical(Expression):
    word: Literal["and", "or", "not"]
    operands: tuple[Expression, ...]


@dataclass(frozen=True, slots=True)
class Join(Expression):
    left: Expression
    right: Expression


@dataclass(frozen=True, slots=True)
class Range(Expression):
    """A span `a to b`; with `step` or `count` a list of numbers."""

    low: Expression
    high: Expression
    step: Expression | None = None
    count: Expression | None = None


@dataclass(frozen=True, slots=True)
class Call(Expression):
    function: Expression
    arguments: tuple[Expression, ...]


@dataclass(frozen=True, slots=True)
class Prime(Expression):
    function: Expression
    order: int


@dataclass(frozen=True, slots=True)
class Index(Expression):
    target: Expression
    places: tuple[Expression, ...]


@dataclass(frozen=True, slots=True)
class Field(Expression):
    target: Expression
    name: str


@dataclass(frozen=True, slots=True)
class PointOf(Expression):
    items: tuple[Expression, ...]


@dataclass(frozen=True, slots=True)
class ListOf(Expression):
    items: tuple[Expression, ...]


@dataclass(frozen=True, slots=True)
class Comprehension(Expression):
    element: Expression
    windows: tuple[Window, ...]
    condition: Expression | None


@dataclass(frozen=True, slots=True)
class Pieces(Expression):
    """`a when c, b when d, otherwise e`."""

    pieces: tuple[tuple[Expression, Expression], ...]
    otherwise: Expression | None


@dataclass(frozen=True, slots=True)
class Quantity(Expression):
    """A value with a unit of measure: `9.81 [m/s^2]`."""

    value: Expression
    unit: str


# ---------------------------------------------------------------- requests


@dataclass(frozen=True, slots=True)
class Window(Node):
    """What follows `for`: a variable with its span, with a list to go through, or alone."""

    name: str
    name_end: int
    low: Expression | None = None
    high: Expression | None = None
    step: Expression | None = None
    count: Expression | None = None
    values: Expression | None = None


@dataclass(frozen=True, slots=True)
class Option(Node):
    name: str
    value: Expression | str
    parameter: str | None = None
    by: bool = False

    @property
    def value_start(self) -> int:
        return self.end - len(self.value) if isinstance(self.value, str) else self.value.start


@dataclass(frozen=True, slots=True)
class Request(Expression):
    noun: str
    subjects: tuple[Expression, ...]
    against: Expression | None
    to: Expression | None
    windows: tuple[Window, ...]
    options: tuple[Option, ...]

    def option(self, name: str) -> Option | None:
        return next((o for o in self.options if o.name == name), None)


# ---------------------------------------------------------------- statements


@dataclass(frozen=True, slots=True)
class Statement(Node):
    pass


@dataclass(frozen=True, slots=True)
class Definition(Statement):
    name: str
    name_end: int
    parameters: tuple[str, ...] | None
    body: Expression
    domain: tuple[Window, ...]


@dataclass(frozen=True, slots=True)
class Show(Statement):
    items: tuple[Expression, ...]
    options: tuple[Option, ...]


@dataclass(frozen=True, slots=True)
class Bare(Statement):
    """An expression or a request that stands alone."""

    expression: Expression


@dataclass(frozen=True, slots=True)
class Check(Statement):
    """`check CONDITION`, with `within TOLERANCE` for an equation."""

    condition: Expression
    options: tuple[Option, ...]


@dataclass(frozen=True, slots=True)
class Part(Statement):
    title: str


@dataclass(frozen=True, slots=True)
class Axis(Statement):
    which: Literal["x", "y", "z", "right"]
    text: str | None
    low: Expression | None
    high: Expression | None
    options: tuple[Option, ...]


@dataclass(frozen=True, slots=True)
class Legend(Statement):
    words: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Gridlines(Statement):
    which: str


@dataclass(frozen=True, slots=True)
class Size(Statement):
    width: float
    height: float


@dataclass(frozen=True, slots=True)
class Without(Statement):
    """`no legend`, `no gridlines`, `no frame`."""

    what: str


@dataclass(frozen=True, slots=True)
class Figure(Statement):
    name: str | None
    title: str | None
    grid: tuple[int, int] | None
    body: tuple[Statement, ...]
    head_end: int


@dataclass(frozen=True, slots=True)
class Later(Statement):
    """A statement of the language that this version reads but cannot carry out; the checker says so."""

    word: str
    head_end: int
    names: tuple[str, ...] = ()
    body: tuple[Statement, ...] = ()


@dataclass(frozen=True, slots=True)
class Script(Node):
    statements: tuple[Statement, ...]


def children(node: Node) -> Iterator[Node]:
    """The nodes directly inside a node, in the order of the text."""
    for field in fields(node):
        yield from _nodes_in(getattr(node, field.name))


def _nodes_in(value: object) -> Iterator[Node]:
    if isinstance(value, Node):
        yield value
    elif isinstance(value, tuple):
        for item in value:
            yield from _nodes_in(item)


def free_names(node: Node) -> frozenset[str]:
    """Names that a node takes from outside: those that a window, a list or a definition binds are its own."""
    if isinstance(node, Name):
        return frozenset([node.name])
    bound: tuple[str, ...] = ()
    if isinstance(node, Request | Comprehension):
        bound = tuple(w.name for w in node.windows)
    elif isinstance(node, Definition):
        bound = node.parameters or ()
    return frozenset().union(*(free_names(c) for c in children(node))) - frozenset(bound)


def defined_names(statement: Statement) -> tuple[str, ...]:
    """The names that a statement gives a value."""
    if isinstance(statement, Definition):
        return (statement.name,)
    return statement.names if isinstance(statement, Later) else ()


def walk(node: Node) -> Iterator[Node]:
    """A node and all nodes inside it."""
    yield node
    for child in children(node):
        yield from walk(child)
