"""Blocks: loops, branches, functions; names that end with them."""

from __future__ import annotations

from .. import tree
from ..messages import advise
from .context import CheckContext
from .definitions import flag_redefinition, give
from .kinds import ANY, Known, Scope
from .lists import iterate


def _body(context: CheckContext, body: tuple[tree.Statement, ...], local: Scope, in_figure: bool, line: int) -> None:
    for inner in body:
        if context.messages.full:
            context.messages.end_at(inner.start)
            break
        if isinstance(inner, tree.Part | tree.Define | tree.Table | tree.Tune | tree.Note):
            words = {
                tree.Part: "a part",
                tree.Define: "a define block",
                tree.Table: "a table",
                tree.Tune: "a tuned value",
                tree.Note: "a note",
            }
            context.error(
                "misplaced",
                f"{words[type(inner)]} stands outside of blocks",
                inner.start,
                inner.end,
                advise("move it out of the block"),
            )
            continue
        before = context.messages.errors
        context.statement(inner, local, in_figure)
        if context.messages.errors > before:
            for name in tree.defined_names(inner):
                local.home(name).names[name] = Known("broken", context.line)
    for name in local.names:
        context.local.setdefault(name, line)


def for_each(context: CheckContext, loop: tree.For, scope: Scope, in_figure: bool) -> None:
    """A `for` loop: what it goes through, then its block, in which its variable is known."""
    line = context.line
    known = iterate(context, loop.window, scope)
    local = Scope({loop.window.name: known}, scope, block=True)
    if context.builtins.is_constant(loop.window.name) or context.builtins.is_protected(loop.window.name):
        context.error("protected-name", f"'{loop.window.name}' is built in and keeps its meaning", loop.window.start, loop.window.name_end)
    _body(context, loop.body, local, in_figure, line)


def while_true(context: CheckContext, loop: tree.While, scope: Scope, in_figure: bool) -> None:
    """A `while` loop: its condition, which something in the block must be able to end."""
    line = context.line
    context.truth(loop.condition, scope)
    if isinstance(loop.condition, tree.Truth) and loop.condition.value and not any(isinstance(n, tree.Return) for n in tree.walk(loop)):
        context.error(
            "endless",
            "this loop never ends: its condition is always true",
            loop.condition.start,
            loop.condition.end,
            advise("while x > 0.001"),
        )
    names = tree.free_names(loop.condition)
    if names and not names & set(tree.assigned_names(loop)) and not any(isinstance(n, tree.Return) for n in tree.walk(loop)):
        known = all((k := scope.find(n)) is not None and k.kind in ("number", "list", "truth", "text", "finding") for n in names)
        if known:
            said = ", ".join(f"'{n}'" for n in sorted(names))
            context.error("endless", f"nothing in this loop changes {said}, so it never ends", loop.condition.start, loop.condition.end)
    _body(context, loop.body, Scope({}, scope, block=True), in_figure, line)


def branches(context: CheckContext, statement: tree.If, scope: Scope, in_figure: bool) -> None:
    """An `if` with its branches."""
    line = context.line
    for branch in statement.branches:
        if branch.condition is not None:
            context.truth(branch.condition, scope)
        _body(context, branch.body, Scope({}, scope, block=True), in_figure, line)


def define(context: CheckContext, d: tree.Define, scope: Scope, _: bool) -> None:
    """A `define` block: it stands outside of others, and every way through it ends with a `return`."""
    line = context.line
    if context.function is not None or scope is not context.top:
        context.error("misplaced", "a define block stands outside of blocks", d.start, d.head_end, advise("move it out of the block"))
        return
    known = Known("function", line, d.parameters, defined=True)
    flag_redefinition(context, d.name, scope.names.get(d.name), scope, d.start, d.name_end)
    scope.names[d.name] = known  # it may call itself
    if not _returns(d.body):
        context.error(
            "no-return", f"'{d.name}' may come to its end without a value", d.start, d.head_end, advise("end it with: return ...")
        )
    context.function = d
    _body(context, d.body, Scope(dict.fromkeys(d.parameters, ANY), scope), False, line)
    context.function = None
    for name in set(tree.assigned_names(d)) | set(d.parameters):
        if context.local.get(name) == line:
            del context.local[name]


def give_back(context: CheckContext, statement: tree.Return, scope: Scope, _: bool) -> None:
    """A `return` stands inside a `define` block."""
    if context.function is None:
        context.error("return-outside", "'return' stands inside a define block", statement.start, statement.end, advise("define f(x): ..."))
    elif isinstance(statement.value, tree.Request):
        context.request(statement.value, scope)
    else:
        context.kind_of(statement.value, scope)


def tune(context: CheckContext, t: tree.Tune, scope: Scope, in_figure: bool) -> None:
    """A tuned value: numbers, outside of figures."""
    if in_figure:
        context.error("misplaced", "a tuned value stands outside of figures", t.start, t.end, advise("move it out of the figure block"))
    for part in (t.value, t.low, t.high, t.step):
        if part is not None:
            context.number(part, scope)
    give(context, t.name, Known("number", context.line), scope, t.start, t.name_end)


def table(context: CheckContext, t: tree.Table, scope: Scope, in_figure: bool) -> None:
    """A table: outside of figures, with rows if it is typed."""
    if in_figure:
        context.error("misplaced", "a table stands outside of figures", t.start, t.head_end, advise("move it out of the figure block"))
    columns = None if t.file is not None else tuple(c.name for c in t.columns)
    if t.file is None and not t.rows and not context.has_error_inside(t):
        context.error("table-empty", f"the table '{t.name}' has no rows", t.start, t.head_end)
    give(context, t.name, Known("table", context.line, columns=columns), scope, t.start, t.name_end)


def note(context: CheckContext, n: tree.Note, _: Scope, in_figure: bool) -> None:
    if in_figure:
        context.error("misplaced", "a note stands outside of figures", n.start, n.end, advise("move it out of the figure block"))


def _returns(body: tuple[tree.Statement, ...]) -> bool:
    """Whether every way through a block ends with a `return`."""
    last = body[-1] if body else None
    if isinstance(last, tree.Return):
        return True
    if isinstance(last, tree.If):
        return last.branches[-1].condition is None and all(_returns(b.body) for b in last.branches)
    return isinstance(last, tree.While) and isinstance(last.condition, tree.Truth)
