"""Definitions: what a name stands for from here on."""

from __future__ import annotations

from .. import tree
from ..messages import advise
from ..shapes import gives_formula
from ..vocabulary import NOUNS
from .context import CheckContext
from .fits import from_data
from .kinds import NUMBER, WORDS, Kind, Known, Scope
from .lists import length_of
from .subjects import derivative_variables, window_ends


def definition(context: CheckContext, d: tree.Definition, scope: Scope) -> None:
    """A definition: its domain, its body, and what its name stands for from here on."""
    local = Scope(dict.fromkeys(d.parameters or (), NUMBER), scope)
    for window in d.domain:
        if d.parameters is None or window.name not in d.parameters:
            context.error(
                "domain", f"the domain is given for '{window.name}', which is no variable of '{d.name}'", window.start, window.name_end
            )
        window_ends(context, window, scope)
        if window.low is None:
            context.error("domain", "a domain has both ends", window.start, window.end, advise(f"for {window.name} from LOW to HIGH"))
    known = _defined(context, d, local, scope)
    if known.kind == "function" and d.parameters is None and not isinstance(d.body, tree.Request):
        context.error("function-as-value", "a function is no value", d.body.start, d.body.end, advise("give it its argument: f(x)"))
    give(context, d.name, known, scope, d.start, d.name_end)


def _defined(context: CheckContext, d: tree.Definition, local: Scope, scope: Scope) -> Known:
    """What a definition makes of its name."""
    if isinstance(d.body, tree.Request) and NOUNS[d.body.noun].gives == "function" and d.parameters is not None:
        return from_data(context, d, d.body, scope)
    if isinstance(d.body, tree.Request) and not gives_formula(d.body):
        context.request(d.body, local)
        noun = NOUNS[d.body.noun]
        if noun.draws:
            context.error("drawing-as-value", f"'{noun.name} of' draws; it is no value", d.body.start, d.body.end)
        if d.parameters is not None:
            context.error("function-of-request", f"'{d.body.noun} of' gives no function", d.body.start, d.body.end)
        kind: Kind = "table" if noun.gives == "table" else "finding"
        return Known("function" if d.parameters is not None else kind, context.line, d.parameters or ())
    if isinstance(d.body, tree.Request) and d.parameters is None:
        context.request(d.body, local)
        free = derivative_variables(context, d.body, scope)
        if (d.body.noun == "derivative" and d.body.option("at") is not None and len(free) == 1) or not free:
            return Known("number", context.line)
        return Known("function", context.line, tuple(free))
    kind = context.kind_of(d.body, local)
    if d.parameters is None:
        return Known(kind, context.line, length=length_of(context, d.body, scope) if kind == "list" else None)
    if kind not in ("number", "finding", "any", "broken", "list"):
        context.error(
            "function-value", f"a function in one formula gives a number, not {WORDS[kind]}", d.body.start, d.body.end,
            advise("define f(x): ... return ... may give anything" if kind != "truth" else "1 when ..., otherwise 0"),
        )  # fmt: skip
    elif kind == "list" and _builds_list(d):
        context.error(
            "function-value", "a function in one formula gives a number, not a list", d.body.start, d.body.end,
            advise("define f(x): ... return ... may give anything"),
        )  # fmt: skip
    return Known("function", context.line, d.parameters, bool(d.domain) and len(d.domain) == len(d.parameters))


def _builds_list(d: tree.Definition) -> bool:
    """Whether a list is built of the variables; arithmetic with lists from outside is an ordinary formula."""
    shapes = (tree.ListOf, tree.Range, tree.Comprehension, tree.Join)
    return any(isinstance(n, shapes) and tree.free_names(n) & set(d.parameters or ()) for n in tree.walk(d.body))


def give(context: CheckContext, name: str, known: Known, scope: Scope, start: int, end: int) -> None:
    """A statement gives a name a value: a new one in this block, or that of a name from outside it."""
    home = scope.home(name)
    before = home.names.get(name)
    if home is not scope and before is not None and "broken" not in (before.kind, known.kind):
        _same_kind(context, name, before, known, start, end)
        if before.kind != known.kind or before.length != known.length:
            # An empty list becomes one of whatever is joined to it.
            grows = before.kind == "list" and known.kind in ("items", "any")
            kind = known.kind if grows or before.kind == "any" else before.kind
            known = Known(kind, before.line, before.parameters, before.has_domain, before.defined)
    elif not scope.block or scope is home:
        flag_redefinition(context, name, before, scope, start, end)
    home.names[name] = known


def _same_kind(context: CheckContext, name: str, before: Known, known: Known, start: int, end: int) -> None:
    """What a name stands for does not change in a loop: what follows could not be checked."""
    alike = {before.kind, known.kind} <= {"number", "finding"} or "any" in (before.kind, known.kind)
    grows = {before.kind, known.kind} == {"list", "items"}
    if before.kind != known.kind and not alike and not grows:
        context.error(
            "kind-changes", f"'{name}' is {WORDS[before.kind]} from line {before.line}; "
            f"inside a block it does not become {WORDS[known.kind]}",
            start, end, advise("give this value a name of its own"),
        )  # fmt: skip


def flag_redefinition(context: CheckContext, name: str, before: Known | None, scope: Scope, start: int, end: int) -> None:
    """A warning where a name of the script or of the catalogue is given another meaning."""
    if scope.block or context.function is not None:
        return
    if before is not None and before.kind != "broken":
        context.warn("redefined", f"'{name}' already has a value from line {before.line}; from here on it has this one", start, end)
    elif before is None and context.builtins.is_function(name):
        context.warn("built-in-redefined", f"'{name}' is built in; from here on it means this", start, end)
