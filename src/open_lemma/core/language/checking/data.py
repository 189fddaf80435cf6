"""Requests on data: lists against lists, lists of points."""

from __future__ import annotations

from .. import tree
from ..messages import advise
from ..vocabulary import NOUNS
from .context import CheckContext
from .kinds import WORDS, Kind, Scope
from .lists import same_lengths
from .subjects import free_names


def _means_one_each(context: CheckContext, subject: tree.Expression, kind: Kind, scope: Scope) -> bool:
    """Whether the subject of data is several lists: written as such, the columns of a table, or a name that stands for lists."""
    if isinstance(subject, tree.ListOf):
        return kind == "items" and {context.kind_of(item, scope) for item in subject.items} <= {"list", "any", "broken"}
    return kind in ("items", "table")


def of_points(context: CheckContext, request: tree.Request, scope: Scope) -> bool:
    """Whether the area of a request is none, but a list of points."""
    subject = request.subjects[0]
    one = NOUNS[request.noun].shape == "one or pair" and len(request.subjects) == 1
    if not one or request.windows or free_names(context, subject, scope):
        return False
    kind = context.kind_of(subject, scope)
    if kind not in ("items", "any", "broken"):
        text = f"an area or a list of points is needed here; this is {WORDS[kind]}"
        context.error("points", text, subject.start, subject.end, advise("for x from LOW to HIGH, or a list [(1, 2), (3, 4)]"))
    return True


def list_of_numbers(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    for window in request.windows:
        context.error("window-not-here", f"a {request.noun} is that of a list; it has no variable", window.start, window.end)
    context.need_list(request.subjects[0], scope)


def points(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    """Data: lists against lists, or a list of points."""
    for window in request.windows:
        context.not_yet("points with 'for'", window.start, window.end)
    subject = request.subjects[0]
    if request.against is None:
        unknown = isinstance(subject, tree.Name) and scope.find(subject.name) is None
        kind = "list" if unknown else context.kind_of(subject, scope)
        if kind in ("list", "number", "finding"):
            context.error("against", "the data to go against is missing", subject.end, subject.end, advise("against XS"))
            return
        points = [p for p in (subject.items if isinstance(subject, tree.ListOf) else ()) if isinstance(p, tree.PointOf)]
        sizes = {len(p.items) for p in points}
        if len(sizes) > 1 or sizes - {2, 3} or (3 in sizes and request.noun not in ("points", "line")):
            wrong = next((p for p in points if len(p.items) != len(points[0].items)), points[0])
            text = "all points have two coordinates, or all three"
            context.error("points", text, wrong.start, wrong.end, advise("[(1, 2, 3), (2, 3, 4)]"))
            return
        if kind not in ("items", "any", "broken"):
            context.error(
                "points", f"a list of points is needed here; this is {WORDS[kind]}", subject.start, subject.end, advise("ys against xs")
            )
        return
    against = request.against.items if isinstance(request.against, tree.PointOf) else (request.against,)
    if len(against) > 2 or (len(against) == 2 and request.noun not in ("points", "line")):
        start, end = request.against.start, request.against.end
        context.error("points", "heights in space go against two lists", start, end, advise("against (xs, ys)"))
        return
    several = False
    for side in (subject, *against):
        kind = context.kind_of(side, scope)
        if kind == "items" and request.noun == "bars" and side is request.against:
            continue  # names of what is counted
        if side is subject and len(against) == 1 and _means_one_each(context, subject, kind, scope):
            several = True  # lists, one each
            continue
        if kind not in ("list", "number", "finding", "any", "broken"):
            context.error("list-needed", f"a list of numbers is needed here; this is {WORDS[kind]}", side.start, side.end)
    sides = [*subject.items] if several and isinstance(subject, tree.ListOf) else [] if several else [subject]
    same_lengths(context, request, [*sides, *against], scope)
    for option in request.options:
        if option.by and isinstance(option.value, tree.Expression):
            context.need_list(option.value, scope)
