"""What a piece of the tree is, by its shape alone."""

from __future__ import annotations

from . import tree
from .vocabulary import NOUNS


def gives_formula(request: tree.Request) -> bool:
    """Whether a request gives a formula: a derivative, a series, an integral without a span."""
    return NOUNS[request.noun].gives == "formula" or (request.noun == "integral" and all(w.low is None for w in request.windows))


def unwrapped(item: tree.Expression) -> tree.Expression:
    while isinstance(item, tree.Group):
        item = item.inner
    return item


def is_infinite(end: tree.Expression) -> bool:
    """`infinity` or `-infinity`, which stand at the end of a span only."""
    end = unwrapped(end)
    if isinstance(end, tree.Negative):
        return is_infinite(end.operand)
    return isinstance(end, tree.Name) and end.name == "infinity"


def is_condition(item: tree.Expression) -> bool:
    """An inequality, or conditions joined; an equation alone is none."""
    item = unwrapped(item)
    return isinstance(item, tree.Logical) or (isinstance(item, tree.Comparison) and set(item.signs) != {"="})


def parts_of(item: tree.Expression) -> list[tree.Expression]:
    """The comparisons of a condition."""
    item = unwrapped(item)
    if isinstance(item, tree.Logical):
        return [p for operand in item.operands for p in parts_of(operand)]
    return [item]


def conjuncts(item: tree.Expression) -> list[tree.Expression]:
    """The parts of a condition that are joined by 'and'."""
    item = unwrapped(item)
    if isinstance(item, tree.Logical) and item.word == "and":
        return [p for operand in item.operands for p in conjuncts(operand)]
    return [item]


MOST_DEGREE = 30


def model_names(request: tree.Request) -> tuple[str, ...]:
    """The coefficients of a fit of a polynomial: c0, c1, ...; nothing for another model."""
    degree = polynomial_degree(request.subjects[0])
    return () if degree is None else tuple(f"c{k}" for k in range(degree + 1))


def polynomial_degree(model: tree.Expression) -> int | None:
    """The degree of `fit of polynomial N`, which the reader made a call."""
    if not (isinstance(model, tree.Call) and isinstance(model.function, tree.Name) and model.function.name == "polynomial"):
        return None
    degree = model.arguments[0] if len(model.arguments) == 1 else None
    whole = isinstance(degree, tree.Number) and degree.text.isdigit()
    return int(degree.text) if whole and isinstance(degree, tree.Number) else None


def columns_of(side: tree.Expression) -> tuple[tree.Expression, ...]:
    """`xs`, or `(xs, zs)`: the lists of several predictors."""
    return side.items if isinstance(side, tree.PointOf) else (side,)


def kind_of_surface(subject: tree.Expression) -> str:
    """implicit: an equation; parametric: a place of three coordinates; explicit: a height over two variables."""
    inner = unwrapped(subject)
    if isinstance(inner, tree.Comparison):
        return "implicit"
    return "parametric" if isinstance(inner, tree.PointOf) else "explicit"


def _in_space(names: list[str]) -> list[str]:
    """Three variables: those that are named, filled up with those of x, y, z that are not."""
    found = list(names)
    for name in "xyz":
        if len(found) < 3 and name not in found:
            found.append(name)
    return sorted(found) if set(found) == set("xyz") else found


def coordinates(names: list[str], kind: str) -> list[str]:
    """What the three coordinates of space are called where a surface of that kind is drawn."""
    if kind == "implicit":
        return _in_space(names)
    if kind == "parametric":
        return ["x", "y", "z"]
    third = "z" if "z" not in names else "w"
    return [*names, third]


# Words that stand at a window, and words that stand at the figure as a whole.
_WINDOW_WORDS = (
    tree.Axis, tree.Legend, tree.Gridlines, tree.Without, tree.TrueScale, tree.TextAt, tree.Marked, tree.Ruled, tree.Inset, tree.View,
)  # fmt: skip


_SHEET_WORDS = (tree.Size, tree.Style, tree.Decimal, tree.Shared, tree.Panel)


FIGURE_ONLY = (*_WINDOW_WORDS, *_SHEET_WORDS, tree.Heading)
