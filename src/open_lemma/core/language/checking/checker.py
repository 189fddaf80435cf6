"""What can be known of a script before it runs: names, kinds, counts of arguments, and what is not available yet.

Statements with an error are not run; the names they would have defined are known to be broken, so that one mistake is
told once and not again at every use.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from .. import tree
from ..builtins import Builtins
from ..messages import advise, replace
from ..shapes import FIGURE_ONLY
from ..syntax.parser import Reading
from ..vocabulary import NOUNS
from ..vocabulary.names import canonical_name
from .blocks import branches, define, for_each, give_back, note, table, tune, while_true
from .calls import prime_target
from .context import CheckContext, Rules
from .definitions import definition
from .expressions import kind_of
from .figures import figure, figure_word
from .fits import compared_fits
from .kinds import Known, Scope
from .requests import request


def check(reading: Reading, builtins: Builtins, scope: Scope | None = None) -> set[int]:
    """Check a script; messages are added to the reading's. Returns the start offsets of top statements not to be run.

    scope   takes the names of the script with what is known of them
    """
    context = CheckContext(reading, builtins, _RULES, broken_names(reading))
    if scope is not None:
        context.top = scope
    return _run(context)


def check_in(reading: Reading, builtins: Builtins, scope: Scope, in_figure: bool) -> None:
    """Check statements that stand in a script, or in a figure's block, where some names have values already."""
    context = CheckContext(reading, builtins, _RULES, broken_names(reading))
    context.top = scope
    if not in_figure:
        _run(context)
        return
    for statement in reading.script.statements:
        context.statement(statement, scope, in_figure=True)


def _run(context: CheckContext) -> set[int]:
    """Check the whole script. Returns the start offsets of the statements that are not to be run."""
    broken: set[int] = set()
    unread = sorted(context.unread.items(), key=lambda item: -item[1].line)
    statements = context.reading.script.statements
    for s in statements:
        if isinstance(s, tree.Definition | tree.Define | tree.Tune | tree.Table):
            context.later.setdefault(s.name, context.source.line_of(s.start))
    for place, statement in enumerate(statements):
        if context.messages.full:
            context.messages.end_at(statement.start)
            broken |= {s.start for s in statements[place:]}
            break
        line = context.source.line_of(statement.start)
        while unread and unread[-1][1].line < line:
            name, known = unread.pop()
            context.top.names[name] = known
        before = context.messages.errors
        context.statement(statement, context.top)
        if context.messages.errors > before:
            broken.add(statement.start)
            _mark_broken(context, statement, context.top)
    for statement in statements:
        if context.has_error_inside(statement):
            broken.add(statement.start)
    return broken


def _mark_broken(context: CheckContext, statement: tree.Statement, scope: Scope) -> None:
    inner = isinstance(statement, tree.For | tree.While | tree.If)
    for name in tree.defined_names(statement):
        if not inner or name in scope.names:
            scope.names[name] = Known("broken", context.line)
        else:
            context.local.pop(name, None)
            context.unsure.add(name)


def _show_option(context: CheckContext, option: tree.Option, scope: Scope) -> None:
    if option.name == "unit":
        return
    if option.name != "digits":
        context.error("unknown-option", f"'{option.name}' is not an option of 'show'", option.start, option.end, advise("digits 30"))
    elif isinstance(option.value, tree.Expression):
        context.number(option.value, scope)


def _shown(context: CheckContext, item: tree.Expression, scope: Scope) -> None:
    if isinstance(item, tree.Request):
        context.request(item, scope)
        if NOUNS[item.noun].draws and context.source.text[: item.start].rstrip().endswith("show"):
            word = context.source.text[: item.start].rstrip()
            fix = replace(len(word) - len("show"), item.start, "", context.source.text[item.start : item.end])
            context.error("drawing-as-value", f"'{item.noun} of' draws; it is no value that could be shown", item.start, item.end, fix)
    elif isinstance(item, tree.Name) and (known := scope.find(item.name)) is not None and known.kind in ("function", "table"):
        return
    elif isinstance(item, tree.Prime) and isinstance(item.function, tree.Name):
        prime_target(context, item, scope)
    else:
        context.kind_of(item, scope)


def _bare(context: CheckContext, expression: tree.Expression, scope: Scope, in_figure: bool) -> None:
    if isinstance(expression, tree.Request):
        context.request(expression, scope)
    elif in_figure:
        context.error(
            "value-in-figure",
            "a value says nothing inside a figure",
            expression.start,
            expression.end,
            advise("move it out of the figure block"),
        )
    else:
        _shown(context, expression, scope)


def _check(context: CheckContext, statement: tree.Check, scope: Scope, in_figure: bool) -> None:
    if in_figure:
        context.error("value-in-figure", "a check says nothing inside a figure", statement.start, statement.end, advise("move it out"))
    context.truth(statement.condition, scope)
    equation = isinstance(statement.condition, tree.Comparison) and statement.condition.signs == ("=",)
    for option in statement.options:
        if option.name != "within":
            context.error("unknown-option", f"'{option.name}' is not an option of a check", option.start, option.end, advise("within 0.1"))
        elif not equation:
            context.error(
                "within", "'within' belongs to a check of one equation", option.start, option.end, advise("check a = b, within 0.1")
            )
        elif not isinstance(option.value, str):
            context.number(option.value, scope)


_DEFINES = re.compile(r"\s*(?:(?:define|table|tune)\s+([^\W\d]\w*)|([^\W\d]\w*)\s*(?:\([^()\n]*\))?\s*=(?!=))")


def broken_names(reading: Reading) -> dict[str, Known]:
    """Names that lines with a reading error would have defined."""
    defined = {n for s in reading.script.statements for n in tree.defined_names(s)}
    found: dict[str, Known] = {}
    for message in reading.messages.items:
        line = reading.source.line_of(message.start)
        text = reading.source.text[reading.source.line_start(line) : reading.source.line_end(line)]
        match = _DEFINES.match(text)
        if match:
            name = canonical_name(match.group(1) or match.group(2))
            if name not in defined:
                found[name] = Known("broken", line)
    return found


def _statement(context: CheckContext, statement: tree.Statement, scope: Scope, in_figure: bool) -> None:
    """Check one statement with the names of the place where it stands."""
    context.line = context.source.line_of(statement.start)
    if isinstance(statement, tree.Definition):
        definition(context, statement, scope)
    elif isinstance(statement, tree.Show):
        for item in statement.items:
            _shown(context, item, scope)
        if in_figure:
            context.error(
                "value-in-figure",
                "a value says nothing inside a figure",
                statement.start,
                statement.end,
                advise("move it out of the figure block"),
            )
        for option in statement.options:
            _show_option(context, option, scope)
    elif isinstance(statement, tree.Bare):
        _bare(context, statement.expression, scope, in_figure)
    elif isinstance(statement, tree.Figure):
        figure(context, statement, scope)
    elif isinstance(statement, tree.Check):
        _check(context, statement, scope, in_figure)
    elif isinstance(statement, tree.Compare):
        compared_fits(context, statement, scope)
    elif type(statement) in _BLOCKS:
        _BLOCKS[type(statement)](context, statement, scope, in_figure)
    elif isinstance(statement, FIGURE_ONLY):
        figure_word(context, statement, scope, in_figure)


_RULES = Rules(kind_of, request, _statement)
_BLOCKS: dict[type, Callable[[CheckContext, Any, Scope, bool], None]] = {
    tree.For: for_each, tree.While: while_true, tree.If: branches, tree.Define: define, tree.Return: give_back,
    tree.Tune: tune, tree.Table: table, tree.Note: note,
}  # fmt: skip
