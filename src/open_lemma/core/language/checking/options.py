"""Options of requests: which belong to which word, and what they may say."""

from __future__ import annotations

from .. import tree
from ..messages import advise, replace
from ..nearness import nearest
from ..shapes import conjuncts, is_infinite
from ..vocabulary import NOUNS, OPTIONS
from ..vocabulary.names import LIKELY_MEANT
from .context import CheckContext
from .kinds import NUMBER, WORDS, Scope
from .subjects import free_names


def option_of(context: CheckContext, request: tree.Request, option: tree.Option, scope: Scope) -> None:
    """An option of a request: whether its word takes it, and what it says."""
    noun = NOUNS[request.noun]
    if not noun.has_option(option.name):
        likely = LIKELY_MEANT.get(option.name)
        meant = likely if likely and noun.has_option(likely) else nearest(option.name, noun.option_names())
        word_end = option.start + len(option.name)
        fixes = [replace(option.start, word_end, meant)] if meant else []
        text = f"'{noun.name} of' has no option '{option.name}'"
        known = "" if meant else ", ".join(sorted(noun.option_names()))
        context.error("option-not-here", text, option.start, word_end, *fixes, advice=known)
    elif option.by and not noun.coloured_by:
        context.not_yet(f"option '{option.name} by'", option.start, option.end)
    elif option.name == "where":
        _where(context, request, option, scope)
    elif option.name == "limit":
        _limit(context, option, scope)
    elif option.name == "at" and noun.name == "section":
        pass  # an equation in the three coordinates, which the section's own check knows
    elif isinstance(option.value, tree.Expression) and not (option.name == "at" and noun.name == "limit" and is_infinite(option.value)):
        option_value(context, option, scope)


def _limit(context: CheckContext, option: tree.Option, scope: Scope) -> None:
    """`limit a = 0 to 1`: a span, either end of which may be infinite."""
    value = option.value
    if not isinstance(value, tree.Range) or value.step is not None or value.count is not None:
        context.error("limit-span", "a limit is a span", option.start, option.end, advise(f"limit {option.parameter} = 0 to 1"))
        return
    for end in (value.low, value.high):
        if not is_infinite(end):
            context.number(end, scope)


def option_value(context: CheckContext, option: tree.Option, scope: Scope) -> None:
    """The kind of an option's value."""
    value = option.value
    assert isinstance(value, tree.Expression)
    if option.by:
        return  # it may hold the variable of the request, which is known there
    kind_said = OPTIONS[option.name].kind
    if kind_said in ("text", "colour"):
        labels(context, value, scope)
    elif kind_said == "truth":
        context.truth(value, scope)
    elif kind_said == "levels":
        kind = context.kind_of(value, scope)
        if kind not in ("list", "number", "finding", "any", "broken"):
            context.error("list-needed", f"levels are a number of them, or a list; this is {WORDS[kind]}", value.start, value.end,
                       advise("levels 8, levels [1, 2, 5], levels 10 to 40 count 5"))  # fmt: skip
    elif kind_said in ("numbers", "numbers or number") or (option.name == "order" and isinstance(value, tree.ListOf)):
        for item in value.items if isinstance(value, tree.PointOf) else (value,):
            context.need_list(item, scope, *(() if kind_said == "numbers" else ("number",)))
    else:
        context.number(value, scope)


def labels(context: CheckContext, value: tree.Expression, scope: Scope) -> None:
    """A text, or a list of texts."""
    for item in value.items if isinstance(value, tree.ListOf) else (value,):
        if isinstance(item, tree.Name) and scope.find(item.name) is None:
            context.error(
                "text-needed",
                "a text in quotes is needed here",
                item.start,
                item.end,
                replace(item.start, item.end, f'"{item.spelling}"'),
            )
        elif context.kind_of(item, scope) not in ("text", "any", "broken"):
            written = context.source.text[item.start : item.end]
            context.error(
                "text-needed", "a text in quotes is needed here", item.start, item.end, replace(item.start, item.end, f'"{written}"')
            )


def _where(context: CheckContext, request: tree.Request, option: tree.Option, scope: Scope) -> None:
    """A condition of a search: one comparison, or several joined by 'and'."""
    value = option.value
    assert isinstance(value, tree.Expression)
    names = [w.name for w in request.windows] or free_names(context, request.subjects[0], scope)
    local = Scope(dict.fromkeys(names, NUMBER), scope)
    for part in conjuncts(value):
        if not isinstance(part, tree.Comparison) or "!=" in part.signs:
            context.error(
                "where", "a condition is a comparison, or several joined by 'and'", part.start, part.end, advise("where x + y <= 1")
            )
            continue
        for operand in part.operands:
            context.number(operand, local)
