"""The kind of an expression: known from its names; a mistake is told where it stands and makes the kind `broken`, so that
nothing that rests on it is complained of again."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from .. import tree
from ..messages import advise, replace
from ..nearness import nearest
from ..shapes import gives_formula
from ..vocabulary import NOUNS
from .calls import call_kind, name_kind, no_number
from .context import CheckContext
from .kinds import WORDS, Kind, Known, Scope
from .lists import comprehension, index, join, range_kind, same_lengths


def _comparison(context: CheckContext, e: tree.Comparison, scope: Scope) -> Kind:
    kinds = [context.kind_of(o, scope) for o in e.operands]
    if "broken" in kinds:
        return "broken"
    equal = set(e.signs) <= {"=", "!="}
    for operand, kind in zip(e.operands, kinds, strict=True):
        if kind in ("list", "items"):
            context.error(
                "lists-compared", "lists are not compared as wholes", operand.start, operand.end,
                advise("compare elements, or check max(abs(a - b)) < ..."),
            )  # fmt: skip
            return "broken"
        alike = equal and all(k in (kind, "any") for k in kinds)
        if kind in ("table", "function") or (kind in ("text", "truth", "point") and not alike):
            context.error("not-comparable", "only numbers can be compared here", operand.start, operand.end)
            return "broken"
    return "truth"


def _pieces(context: CheckContext, e: tree.Pieces, scope: Scope) -> Kind:
    for _, condition in e.pieces:
        context.truth(condition, scope)
    values = [v for v, _ in e.pieces] + ([e.otherwise] if e.otherwise is not None else [])
    kinds = [context.kind_of(v, scope) for v in values]
    if "broken" in kinds:
        return "broken"
    plain = {"number" if k == "finding" else k for k in kinds if k != "any"}
    if len(plain) > 1:
        said = " and ".join(WORDS[k] for k in dict.fromkeys(kinds) if k != "any")
        context.error("pieces-differ", f"the pieces differ in what they are: {said}", e.start, e.end)
        return "broken"
    return plain.pop() if plain else "any"


def _field(context: CheckContext, e: tree.Field, scope: Scope) -> Kind:
    written = context.source.text[e.target.start : e.target.end]
    if isinstance(e.target, tree.Name) and (fit := scope.find(e.target.name)) is not None and fit.fitted:
        return _part_of_fit(context, e, fit, written)
    kind = context.kind_of(e.target, scope)
    known: tuple[str, ...] | None = None
    if kind in ("number", "list", "items", "text", "truth"):
        context.error("no-part", f"{WORDS[kind]} has no parts by name", e.start, e.end)
        return "broken"
    if kind == "point":
        known = ("x", "y", "z")
    elif kind == "table" and isinstance(e.target, tree.Name) and (found := scope.find(e.target.name)) is not None:
        known = found.columns
    if known is not None and e.name not in known:
        meant = nearest(e.name, known)
        start = e.end - len(e.name)
        what = "a point" if kind == "point" else f"'{written}'"
        fixes = [replace(start, e.end, meant)] if meant else []
        context.error(
            "no-part", f"{what} has no {'part' if kind == 'point' else 'column'} '{e.name}'", start, e.end, *fixes,
            advice="" if meant else ", ".join(known),
        )  # fmt: skip
        return "broken"
    return {"table": "any", "point": "number", "finding": "finding"}.get(kind, kind)  # type: ignore[return-value]


def _part_of_fit(context: CheckContext, e: tree.Field, fit: Known, written: str) -> Kind:
    """`rating.n`, `rating.residuals`."""
    if e.name in fit.parts:
        return "list" if e.name in ("residuals", "fitted") else "finding"
    meant = nearest(e.name, fit.parts)
    start = e.end - len(e.name)
    fixes = [replace(start, e.end, meant)] if meant else []
    text = f"the fit '{written}' has no '{e.name}'"
    context.error("no-part", text, start, e.end, *fixes, advice="" if meant else ", ".join(fit.parts))
    return "broken"


def _arithmetic(context: CheckContext, e: tree.Expression, scope: Scope) -> Kind:
    parts = [e.left, e.right] if isinstance(e, tree.Binary) else [c for c in tree.children(e) if isinstance(c, tree.Expression)]
    kinds = [context.kind_of(c, scope) for c in parts]
    if isinstance(e, tree.Group):
        return kinds[0]
    for part, kind in zip(parts, kinds, strict=True):
        no_number(context, kind, part)
    if set(kinds) - {"number", "list", "finding", "any"}:
        return "broken"
    if kinds.count("list") > 1:
        same_lengths(context, e, parts, scope)
    if "any" in kinds:
        return "any"
    if "list" in kinds:
        return "list"
    return "finding" if "finding" in kinds else "number"


def _quantity(context: CheckContext, e: tree.Quantity, scope: Scope) -> Kind:
    kind = context.kind_of(e.value, scope)
    if kind in ("text", "truth", "point", "items", "table"):
        context.error("unit", f"{WORDS[kind]} has no unit", e.start, e.end)
        return "broken"
    return "number" if kind == "finding" else kind


def _uncertain(context: CheckContext, e: tree.Uncertain, scope: Scope) -> Kind:
    for part in (e.value, e.error):
        kind = context.kind_of(part, scope)
        if kind not in ("number", "finding", "any", "broken"):
            context.error("uncertain", f"{WORDS[kind]} has no uncertainty; a number has", part.start, part.end)
            return "broken"
    return "number"


def _exponent_name(context: CheckContext, e: tree.Number, scope: Scope) -> None:
    match = re.fullmatch(r"(\d+(?:\.\d+)?)([eE]\d+)", e.text)
    if match and scope.find(match.group(2)) is not None:
        number, name = match.groups()
        context.error("number-or-name", f"'{e.text}' is a number, though '{name}' is a name here", e.start, e.end,
                   replace(e.start, e.end, f"{number}*{name}"))  # fmt: skip


def kind_of(context: CheckContext, e: tree.Expression, scope: Scope) -> Kind:
    """The kind of a value; everything inside is checked on the way."""
    reader = _READERS.get(type(e), _arithmetic)
    return reader(context, e, scope)


def _number(context: CheckContext, e: tree.Number, scope: Scope) -> Kind:
    _exponent_name(context, e, scope)
    return "number"


def _list_of(context: CheckContext, e: tree.ListOf, scope: Scope) -> Kind:
    items = {context.kind_of(item, scope) for item in e.items}
    if "broken" in items:
        return "broken"
    return "list" if items <= {"number", "finding"} else "any" if items <= {"number", "finding", "any"} else "items"


def _prime(context: CheckContext, e: tree.Prime, _: Scope) -> Kind:
    written = context.source.text[e.start : e.end]
    context.error("prime-alone", "a derivative is a function; say where", e.start, e.end, advise(f"{written}(x)"))
    return "broken"


def _point(context: CheckContext, e: tree.PointOf, scope: Scope) -> Kind:
    for item in e.items:
        context.number(item, scope)
    if len(e.items) > 3:
        context.error("point", f"a point has two or three coordinates, not {len(e.items)}", e.start, e.end, advise("[...] for a list"))
    return "point"


def _logical(context: CheckContext, e: tree.Logical, scope: Scope) -> Kind:
    kinds = [context.truth(o, scope) for o in e.operands]
    return "broken" if "broken" in kinds else "truth"


def _request(context: CheckContext, e: tree.Request, scope: Scope) -> Kind:
    outside, context.in_formula = context.in_formula, True
    context.request(e, scope)
    context.in_formula = outside
    if NOUNS[e.noun].draws:
        context.error("drawing-as-value", f"'{e.noun} of' draws; it is no value", e.start, e.end)
    if gives_formula(e):
        return "number"
    return "table" if NOUNS[e.noun].gives == "table" else "finding"


# What else there is, is arithmetic.
_READERS: dict[type, Callable[[CheckContext, Any, Scope], Kind]] = {
    tree.Number: _number,
    tree.Text: lambda *_: "text",
    tree.Name: name_kind,
    tree.Call: call_kind,
    tree.Range: range_kind,
    tree.ListOf: _list_of,
    tree.Index: index,
    tree.Prime: _prime,
    tree.PointOf: _point,
    tree.Pieces: _pieces,
    tree.Field: _field,
    tree.Quantity: _quantity,
    tree.Uncertain: _uncertain,
    tree.Truth: lambda *_: "truth",
    tree.Comparison: _comparison,
    tree.Logical: _logical,
    tree.Comprehension: comprehension,
    tree.Join: join,
    tree.Request: _request,
}
