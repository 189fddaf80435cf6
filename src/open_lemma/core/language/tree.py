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


@dataclass(frozen=True, slots=True)
class Uncertain(Expression):
    """A value with its standard uncertainty: `2.50 ± 0.05`."""

    value: Expression
    error: Expression


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
class Compare(Statement):
    """`compare rating, trend`: fits beside each other."""

    items: tuple[Expression, ...]


@dataclass(frozen=True, slots=True)
class Part(Statement):
    title: str


@dataclass(frozen=True, slots=True)
class Note(Statement):
    """Prose for the page."""

    text: str


@dataclass(frozen=True, slots=True)
class Tune(Statement):
    """`tune k = 1.2 from 0 to 4`: a value that the screen offers as a slider."""

    name: str
    name_end: int
    value: Expression
    low: Expression
    high: Expression
    step: Expression | None


@dataclass(frozen=True, slots=True)
class Column(Node):
    name: str
    unit: str | None


@dataclass(frozen=True, slots=True)
class Cell(Node):
    """One cell of a typed table, as it is written: a number, `gap` or a text in quotes."""

    text: str


@dataclass(frozen=True, slots=True)
class Table(Statement):
    """A table with rows of its own, or one read from a file."""

    name: str
    name_end: int
    columns: tuple[Column, ...]
    rows: tuple[tuple[Cell, ...], ...]
    file: str | None
    head_end: int


@dataclass(frozen=True, slots=True)
class For(Statement):
    window: Window
    body: tuple[Statement, ...]
    head_end: int


@dataclass(frozen=True, slots=True)
class While(Statement):
    condition: Expression
    body: tuple[Statement, ...]
    head_end: int


@dataclass(frozen=True, slots=True)
class Branch(Node):
    """One branch of an `if`; without a condition it is the `else`."""

    condition: Expression | None
    body: tuple[Statement, ...]
    head_end: int


@dataclass(frozen=True, slots=True)
class If(Statement):
    branches: tuple[Branch, ...]

    @property
    def head_end(self) -> int:
        return self.branches[0].head_end


@dataclass(frozen=True, slots=True)
class Define(Statement):
    name: str
    name_end: int
    parameters: tuple[str, ...]
    body: tuple[Statement, ...]
    head_end: int


@dataclass(frozen=True, slots=True)
class Return(Statement):
    value: Expression


@dataclass(frozen=True, slots=True)
class Axis(Statement):
    """`x axis "TEXT" from LOW to HIGH`; `colour axis` is the scale beside a figure that tells what colours mean."""

    which: Literal["x", "y", "z", "right", "colour"]
    text: str | None
    low: Expression | None
    high: Expression | None
    options: tuple[Option, ...]


@dataclass(frozen=True, slots=True)
class Legend(Statement):
    words: tuple[str, ...]
    at: Expression | None = None  # its middle, in shares of the window
    options: tuple[Option, ...] = ()


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
class TrueScale(Statement):
    pass


@dataclass(frozen=True, slots=True)
class View(Statement):
    """`view azimuth 40, elevation 25`: from where a figure in space is seen."""

    options: tuple[Option, ...]


@dataclass(frozen=True, slots=True)
class Style(Statement):
    """`style print, columns 2`, `style slide grey`, …"""

    words: tuple[str, ...]
    options: tuple[Option, ...]


@dataclass(frozen=True, slots=True)
class Heading(Statement):
    """`title "TEXT"`, drawn above; `caption "TEXT"`, which goes with the figure into a report."""

    which: Literal["title", "caption"]
    text: str


@dataclass(frozen=True, slots=True)
class Decimal(Statement):
    """`decimal comma`: how the numbers of a figure are written."""

    which: str


@dataclass(frozen=True, slots=True)
class Shared(Statement):
    """`shared x axis`: one window for all panels, its numbers written once."""

    which: Literal["x", "y"]


@dataclass(frozen=True, slots=True)
class TextAt(Statement):
    text: Expression
    at: Expression
    options: tuple[Option, ...]


@dataclass(frozen=True, slots=True)
class Marked(Statement):
    """`mark FINDING`: its numbers on the figure."""

    finding: Expression
    options: tuple[Option, ...]


@dataclass(frozen=True, slots=True)
class Ruled(Statement):
    """`line from P to Q`, `line horizontal at Y`, `line vertical at X`."""

    which: Literal["from", "horizontal", "vertical"]
    at: Expression
    to: Expression | None
    options: tuple[Option, ...]


@dataclass(frozen=True, slots=True)
class Panel(Statement):
    title: str | None
    body: tuple[Statement, ...]
    head_end: int


@dataclass(frozen=True, slots=True)
class Inset(Statement):
    """A small window inside a panel: in a corner, or with its middle `at` shares of the window."""

    words: tuple[str, ...]
    at: Expression | None
    options: tuple[Option, ...]
    body: tuple[Statement, ...]
    head_end: int


@dataclass(frozen=True, slots=True)
class Figure(Statement):
    name: str | None
    title: str | None
    grid: tuple[int, int] | None
    body: tuple[Statement, ...]
    head_end: int


@dataclass(frozen=True, slots=True)
class Script(Node):
    statements: tuple[Statement, ...]


def children(node: Node) -> Iterator[Node]:
    """The nodes directly inside a node, in the order of the text."""
    kind = type(node)
    names = _NAMES.get(kind)
    if names is None:
        names = _NAMES[kind] = tuple(field.name for field in fields(node) if field.name not in ("start", "end"))
    for name in names:
        yield from _nodes_in(getattr(node, name))


_NAMES: dict[type, tuple[str, ...]] = {}  # of the fields of each kind of node


def _nodes_in(value: object) -> Iterator[Node]:
    if isinstance(value, Node):
        yield value
    elif isinstance(value, tuple):
        for item in value:
            yield from _nodes_in(item)


Block = For | While | If | Define


def free_names(node: Node) -> frozenset[str]:
    """Names that a node takes from outside: those that a window, a list, a definition or a block binds are its own."""
    if isinstance(node, Name):
        return frozenset([node.name])
    bound: tuple[str, ...] = ()
    if isinstance(node, Request | Comprehension):
        bound = tuple(w.name for w in node.windows)
    elif isinstance(node, Definition | Define):
        bound = node.parameters or ()
    elif isinstance(node, For):
        bound = (node.window.name,)
    return frozenset().union(*(free_names(c) for c in children(node))) - frozenset(bound)


def bodies(statement: Statement) -> tuple[tuple[Statement, ...], ...]:
    """The blocks of statements directly inside a statement."""
    if isinstance(statement, For | While | Define | Figure | Panel | Inset):
        return (statement.body,)
    return tuple(b.body for b in statement.branches) if isinstance(statement, If) else ()


def defined_names(statement: Statement) -> tuple[str, ...]:
    """The names that a statement gives a value; for a loop or an `if` all that its lines may change."""
    if isinstance(statement, Definition | Define | Tune | Table):
        return (statement.name,)
    if isinstance(statement, For | While | If):
        return assigned_names(statement)
    return ()


def assigned_names(statement: Statement) -> tuple[str, ...]:
    """Names that the lines of a block give a value, in order, each once."""
    found = [n for body in bodies(statement) for inner in body for n in defined_names(inner)]
    return tuple(dict.fromkeys(found))


def walk(node: Node) -> Iterator[Node]:
    """A node and all nodes inside it."""
    yield node
    for child in children(node):
        yield from walk(child)
