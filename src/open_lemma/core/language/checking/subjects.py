"""Subjects of requests: their variable, their span, functions named without a variable."""

from __future__ import annotations

from .. import tree
from ..messages import advise, replace
from ..shapes import is_infinite
from ..vocabulary import NOUNS
from .context import CheckContext
from .kinds import NUMBER, Scope


def derivative_variables(context: CheckContext, request: tree.Request, scope: Scope) -> list[str]:
    """The variable of a derivative and the names without a value beside it, in the order of the subject."""
    windows = [w.name for w in request.windows]
    named = [n.name for s in request.subjects for n in tree.walk(s) if isinstance(n, tree.Name)]
    free = {n for s in request.subjects for n in free_names(context, s, scope)} | set(windows)
    return [n for n in dict.fromkeys(named) if n in free] + [n for n in windows if n not in named]


def subject_of(context: CheckContext, request: tree.Request, item: tree.Expression, scope: Scope) -> None:
    """The formula of a curve or of roots: with `for` the variable is said, else it is the one name without a value."""
    if isinstance(item, tree.PointOf) and request.noun in ("curve", "length"):
        _parametric(context, request, item, scope)
        return
    if isinstance(item, tree.Comparison):
        if request.noun != "roots" or item.signs != ("=",):
            context.not_yet("an equation as a subject", item.start, item.end)
            return
        item = tree.Binary(item.start, item.end, "-", *item.operands)
    if isinstance(item, tree.Name | tree.Prime) and bare_function(context, item, scope):
        return
    if not NOUNS[request.noun].variables:
        context.number(item, scope)
        return
    if request.windows:
        window = request.windows[0]
        local = Scope({window.name: NUMBER}, scope)
        known = context.number(item, local) != "broken"
        if known and window.low is None and not _domain_of(item, window.name, scope) and NOUNS[request.noun].span_question:
            _window_needed(context, request, window.name)
        return
    free = free_names(context, item, scope)
    if len(free) == 1:
        # What is broken may have a domain; that it has a mistake is told already.
        known = context.number(item, Scope({free[0]: NUMBER}, scope)) != "broken"
        if known and NOUNS[request.noun].span_question and not _domain_of(item, free[0], scope):
            _window_needed(context, request, free[0])
    elif not free:
        _variable_has_value(context, item, scope)
    elif NOUNS[request.noun].variables >= len(free) and _surface_through_data(item, free, scope):
        context.number(item, Scope(dict.fromkeys(free, NUMBER), scope))
    else:
        context.kind_of(item, scope)


def _surface_through_data(item: tree.Expression, free: list[str], scope: Scope) -> bool:
    """Whether it is a function of several variables from data, called with plain names: it is sought where the data are."""
    if not isinstance(item, tree.Call) or not isinstance(item.function, tree.Name):
        return False
    known = scope.find(item.function.name)
    plain = [a.name for a in item.arguments if isinstance(a, tree.Name)]
    return known is not None and known.from_data and len(plain) == len(item.arguments) and plain == free


def _parametric(context: CheckContext, request: tree.Request, item: tree.PointOf, scope: Scope) -> None:
    if len(item.items) not in (2, 3):
        text = "a curve has places of two coordinates, in space of three"
        context.error("point-needed", text, item.start, item.end, advise("(x(t), y(t)) or (x(t), y(t), z(t))"))
        return
    free = list(dict.fromkeys(n for i in item.items for n in free_names(context, i, scope)))
    name = request.windows[0].name if request.windows else free[0] if len(free) == 1 else None
    if name is None or not request.windows or request.windows[0].low is None:
        text = f" for {name or 't'} from 0 to 1"
        at = request.options[0].start - 2 if request.options else request.end
        fix = advise(text.strip()) if request.windows else replace(at, at, text, text.strip())
        context.error("window-needed", "say through which span the curve is followed", request.start, request.end, fix)
        return
    for part in item.items:
        context.number(part, Scope({name: NUMBER}, scope))
    for option in request.options:
        if option.name in ("fill", "hatch"):
            context.error("option-not-here", f"a curve of points has no option '{option.name}'", option.start, option.end)


def bare_function(context: CheckContext, item: tree.Name | tree.Prime, scope: Scope) -> bool:
    """`curve of f`: the variable is missing."""
    function = item.function if isinstance(item, tree.Prime) else item
    if not isinstance(function, tree.Name):
        return False
    known = scope.find(function.name)
    if known is None or known.kind != "function":
        return False
    variables = ", ".join(known.parameters)
    written = context.source.text[item.start : item.end]
    context.error(
        "function-without-variable",
        f"'{written}' is a function; say of what",
        item.start,
        item.end,
        replace(item.end, item.end, f"({variables})", f"{written}({variables})"),
    )
    return True


def _window_needed(context: CheckContext, request: tree.Request, name: str) -> None:
    if request.option("near") is not None:
        return  # the nearest root is sought everywhere
    at = request.options[0].start - 2 if request.options else request.end
    has_for = bool(request.windows)
    start = request.windows[0].end if has_for else at
    text = " from -10 to 10" if has_for else f" for {name} from -10 to 10"
    context.error(
        "window-needed",
        NOUNS[request.noun].span_question,
        request.start,
        request.end,
        replace(start, start, text, text.strip()),
    )


def _variable_has_value(context: CheckContext, item: tree.Expression, scope: Scope) -> None:
    names = [n.name for n in tree.walk(item) if isinstance(n, tree.Name) and (k := scope.find(n.name)) is not None and k.kind == "number"]
    if not names:
        if context.number(item, scope) != "broken":
            context.error("no-variable", "this has no variable", item.start, item.end, advise("for x from LOW to HIGH"))
        return
    name = names[-1]
    window = f"for {name} from -10 to 10"
    text = f"'{name}' has a value, so it is not taken for the variable; write for {name}"
    context.error("variable-has-value", text, item.start, item.end, replace(item.end, item.end, f" {window}", window))


def _domain_of(item: tree.Expression, variable: str, scope: Scope) -> bool:
    """Whether the subject is a function called with plain names whose definition says a domain."""
    if not isinstance(item, tree.Call):
        # What data gave is sought within the data, whatever is worked out from it.
        return any(isinstance(n, tree.Call) and _has_span(n, variable, scope, True) for n in tree.walk(item))
    return _has_span(item, variable, scope, False)


def _has_span(item: tree.Call, variable: str, scope: Scope, from_data: bool) -> bool:
    function = item.function.function if isinstance(item.function, tree.Prime) else item.function
    if not isinstance(function, tree.Name):
        return False
    known = scope.find(function.name)
    plain = all(isinstance(a, tree.Name) and a.name == variable for a in item.arguments)
    return known is not None and known.has_domain and plain and (known.from_data or not from_data)


def free_names(context: CheckContext, item: tree.Expression, scope: Scope) -> list[str]:
    """Names without a value, in order, each once; what is called is no variable."""
    called = {id(n.function) for n in tree.walk(item) if isinstance(n, tree.Call)}
    found: list[str] = []
    for node in tree.walk(item):
        if isinstance(node, tree.Name) and id(node) not in called and node.name not in found:
            known = scope.find(node.name) is not None or node.name in context.builtins.names() or node.name == "gap"
            if not known and not _greek_product(node.spelling):
                found.append(node.name)
    return found


def _greek_product(spelling: str) -> bool:
    return spelling[:1] == "π" and len(spelling) > 1


def window_ends(context: CheckContext, window: tree.Window, scope: Scope, endless: bool = False) -> None:
    """The ends, step and count of a span are numbers; infinite ones only where that has a meaning."""
    for end in (window.low, window.high, window.step, window.count):
        if end is None:
            continue
        if is_infinite(end):
            if not endless or end in (window.step, window.count):
                context.error("window-endless", "this needs a span with an end on both sides", end.start, end.end, advise("from -10 to 10"))
        else:
            context.number(end, scope)
