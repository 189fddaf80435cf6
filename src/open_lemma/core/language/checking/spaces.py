"""Surfaces, contours and sections: their coordinates and spans."""

from __future__ import annotations

from .. import tree
from ..messages import advise, replace
from ..shapes import _in_space, coordinates, kind_of_surface, unwrapped
from .context import CheckContext
from .kinds import NUMBER, Scope
from .subjects import bare_function, free_names, window_ends

_WORDS = {
    "explicit": "a height over two variables", "parametric": "places of two parameters", "implicit": "an equation in three variables",
}  # fmt: skip


_MOST = {"explicit": 2, "parametric": 2, "implicit": 3}


def in_space(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    """Check a surface, level lines or a section."""
    if request.against is not None:
        _of_data(context, request, request.against, scope)
        return
    subject = request.subjects[0]
    items = subject.items if isinstance(subject, tree.ListOf) else (subject,)
    if request.noun == "section" and len(items) > 1:
        context.error("one-surface", "a section is that of one surface", subject.start, subject.end, advise("one request for each"))
        return
    for item in items:
        _surface(context, request, item, scope)


def _of_data(context: CheckContext, request: tree.Request, against: tree.Expression, scope: Scope) -> None:
    """`surface of zs against (xs, ys)`: heights as a list, or as a list of rows."""
    sides = against.items if isinstance(against, tree.PointOf) else (against,)
    if len(sides) != 2:
        context.error("against", "heights go against two lists", against.start, against.end, advise("against (xs, ys)"))
        return
    for window in request.windows:
        context.error("window-not-here", "the span of data is where they are", window.start, window.end)
    for side in (*sides, *request.subjects):
        context.need_list(side, scope, *(() if side in sides else ("items",)))


def _surface(context: CheckContext, request: tree.Request, item: tree.Expression, scope: Scope) -> None:
    kind = kind_of_surface(item)
    inner = unwrapped(item)
    if isinstance(inner, tree.Name | tree.Prime) and bare_function(context, inner, scope):
        return
    if kind != "explicit" and request.noun == "contours":
        context.error("height-needed", "contours are those of a height over two variables", item.start, item.end,
                   advise("contours of h(x, y) for x from LOW to HIGH, y from LOW to HIGH"))  # fmt: skip
        return
    if isinstance(inner, tree.Comparison) and inner.signs != ("=",):
        if len(inner.signs) == 1:
            left, right = inner.operands
            context.error("equation-needed", "a surface is where both sides are equal", item.start, item.end,
                       replace(left.end, right.start, " = ", "="))  # fmt: skip
        else:
            context.error("equation-needed", "a surface is given by one equation", item.start, item.end, advise("F(x, y, z) = c"))
        return
    if isinstance(inner, tree.PointOf) and len(inner.items) != 3:
        text = "a place in space has three coordinates"
        if len(inner.items) == 2:
            text = "two coordinates make a curve; a surface in space has three"
        context.error("point-needed", text, item.start, item.end, advise("(x(u, v), y(u, v), z(u, v))"))
        return
    parts = inner.operands if isinstance(inner, tree.Comparison) else inner.items if isinstance(inner, tree.PointOf) else (item,)
    names = _variables(context, request, item, parts, kind, scope)
    if names is None:
        return
    local = Scope(dict.fromkeys(names, NUMBER), scope)
    for part in parts:
        context.number(part, local)
    for option in request.options:
        if option.by and option.name == "colour" and isinstance(option.value, tree.Expression):
            more = dict.fromkeys([*names, *coordinates(names, kind)], NUMBER)
            context.number(option.value, Scope(more, scope))
        if option.name == "mesh" and kind == "implicit":
            context.error("option-not-here", "a surface given by an equation has no parameters to run mesh lines along",
                       option.start, option.end, advise("levels 10"))  # fmt: skip
    if request.noun == "section":
        _plane(context, request, names, kind, scope)


def _variables(
    context: CheckContext, request: tree.Request, item: tree.Expression, parts: tuple[tree.Expression, ...], kind: str, scope: Scope
) -> list[str] | None:
    """The variables of a surface: said after `for`, else the names without a value; None after a complaint."""
    most = _MOST[kind]
    said = [w.name for w in request.windows]
    if len(set(said)) < len(said):
        context.error("said-twice", "one variable is named twice", request.windows[1].start, request.windows[1].end)
        return None
    for window in request.windows:
        if window.values is not None or window.step is not None or window.count is not None:
            context.error("window-span", "a surface is drawn over spans; how finely is its own affair", window.start, window.end,
                       advise(f"{window.name} from LOW to HIGH"))  # fmt: skip
            return None
        if window.low is not None:
            window_ends(context, window, scope)
    what = _WORDS[kind]
    if len(said) > most:
        context.error("too-many-variables", f"this is {what}, not {len(said)}", request.windows[most].start, request.windows[most].end)
        return None
    free = list(dict.fromkeys(n for p in parts for n in free_names(context, p, scope)))
    names = said + [n for n in free if n not in said]
    if len(names) > most:
        known = ", ".join(f"'{n}'" for n in names[:5])
        context.error("too-many-variables", f"this is {what}; names without a value here: {known}", item.start, item.end,
                   advise(f"give '{names[-1]}' a value, or say the variables after 'for'"))  # fmt: skip
        return None
    if kind == "parametric" and (len(said) < 2 or any(w.low is None for w in request.windows)):
        wanted = [*names, "u", "v"][:2]
        text = f" for {wanted[0]} from 0 to 1, {wanted[1]} from 0 to 1"
        at = request.options[0].start - 2 if request.options else request.end
        fix = advise(text.strip()) if request.windows else replace(at, at, text, text.strip())
        context.error("window-needed", "say through which spans the two parameters run", request.start, request.end, fix)
        return None
    if len(said) == 0 and len(names) < most and kind == "explicit":
        text = f"this has {len(names)} variable{'s' if len(names) != 1 else ''} without a value; say both after 'for'"
        context.error("variable-needed", text, item.start, item.end, advise("for x from LOW to HIGH, y from LOW to HIGH"))
        return None
    if len(said) == 1 and len(names) < most and kind == "explicit":
        context.error("variable-needed", "say the second variable too", request.windows[0].start, request.windows[0].end,
                   advise("for x from LOW to HIGH, y from LOW to HIGH"))  # fmt: skip
        return None
    if kind == "implicit":
        names = _in_space(names)
    return names


def _plane(context: CheckContext, request: tree.Request, names: list[str], kind: str, scope: Scope) -> None:
    option = request.option("at")
    if option is None:
        context.error("section-at", "say which plane cuts the surface", request.start, request.end,
                   replace(request.end, request.end, ", at z = 0", "at z = 0"))  # fmt: skip
        return
    value = unwrapped(option.value) if isinstance(option.value, tree.Expression) else None
    if not (isinstance(value, tree.Comparison) and value.signs == ("=",)):
        fix = advise("at x = 2, or at 4x + y + z = 20")
        context.error("plane-needed", "a plane is given by an equation", option.start, option.end, fix)
        return
    local = Scope(dict.fromkeys(coordinates(names, kind), NUMBER), scope)
    for operand in value.operands:
        context.number(operand, local)
