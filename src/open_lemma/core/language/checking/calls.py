"""Names and calls: what a name stands for, how many arguments a function takes, which word was meant."""

from __future__ import annotations

from .. import tree
from ..builtins import Builtins
from ..messages import Fix, advise, replace
from ..nearness import nearest
from .context import CheckContext
from .kinds import WORDS, Kind, Known, Scope

MOST_GUESSED = 40


def no_number(context: CheckContext, kind: Kind, part: tree.Expression) -> None:
    if kind in ("text", "truth", "point", "items", "table"):
        advice = "use its coordinates: p.x, p.y" if kind == "point" else ""
        context.error("text-as-number", f"{WORDS[kind]} is no number", part.start, part.end, advice=advice)


def name_kind(context: CheckContext, e: tree.Name, scope: Scope) -> Kind:
    """The kind of what a name stands for; one without a value is told, with what was likely meant."""
    known = scope.find(e.name)
    if known is not None:
        if known.kind == "function":
            variables = ", ".join(known.parameters)
            context.error(
                "function-as-value",
                f"'{e.spelling}' is a function; here a value is needed",
                e.start,
                e.end,
                replace(e.end, e.end, f"({variables})", f"{e.spelling}({variables})"),
            )
            return "broken"
        return known.kind
    if e.name == "gap":
        return "number"
    if context.builtins.is_constant(e.name):
        if e.name == "infinity":
            context.error("infinity", "infinity is no number to compute with; it is an end of a span", e.start, e.end)
            return "broken"
        return "number"
    if context.builtins.is_function(e.name):
        context.error(
            "function-as-value", f"'{e.spelling}' is a function; here a value is needed", e.start, e.end, advise(f"{e.spelling}(x)")
        )
        return "broken"
    _unknown(context, e.name, e.spelling, e.start, e.end, scope)
    return "broken"


def _unknown(context: CheckContext, name: str, spelling: str, start: int, end: int, scope: Scope, called: bool = False) -> None:
    if name in context.unsure:
        return  # a block that would have given it a value has a mistake, which is told there
    if name in context.local:
        context.error(
            "name-local", f"'{spelling}' has a value only inside the block in line {context.local[name]}", start, end,
            advise(f"give it one before that block: {spelling} = 0"),
        )  # fmt: skip
        return
    if name in context.later and context.later[name] > context.line:
        context.error(
            "name-later",
            f"'{spelling}' gets its value only in line {context.later[name]}",
            start,
            end,
            advise(f"move line {context.later[name]} up"),
        )
        return
    split = _product_of_known(name, scope, context.builtins)
    if split:
        context.error(
            "unknown-name",
            f"'{spelling}' has no value; letters side by side are one name",
            start,
            end,
            replace(start, end, "*".join(split)),
        )
        return
    # Who has many names without a value has another mistake than a slip of the pen.
    context.guessed += 1
    meant = nearest(name, scope.all_names() | set(context.builtins.names())) if context.guessed <= MOST_GUESSED else None
    fixes = [replace(start, end, meant)] if meant else []
    text = f"there is no function '{spelling}'" if called else f"'{spelling}' has no value"
    context.error(
        "unknown-name", text, start, end, *fixes, advice="" if meant else f"{spelling}(x) = ..." if called else f"{spelling} = ..."
    )


def call_kind(context: CheckContext, e: tree.Call, scope: Scope) -> Kind:
    """The kind of what a function gives; its arguments are counted and checked."""
    kinds = [context.kind_of(a, scope) for a in e.arguments]
    function = e.function
    if isinstance(function, tree.Prime):
        return _prime_call(context, e, function, scope, kinds)
    if not isinstance(function, tree.Name):
        context.error("value-called", "only a function can be called", function.start, function.end)
        return "broken"
    known = scope.find(function.name)
    if known is not None and known.kind == "function":
        _count(context, e, (len(known.parameters), len(known.parameters)), ", ".join(known.parameters))
        if known.defined:
            return "broken" if "broken" in kinds else "any"
        for argument, kind in zip(e.arguments, kinds, strict=True):
            no_number(context, kind, argument)
    elif known is not None and known.kind == "any":
        return "any"
    elif known is not None:
        if known.kind != "broken":
            _number_called(context, e, function, known.kind)
        return "broken"
    elif function.name == "log":
        _log(context, function)
        return "broken"
    elif context.builtins.is_function(function.name):
        return _builtin_call(context, e, function, kinds, scope)
    elif context.builtins.is_constant(function.name):
        _number_called(context, e, function)
        return "broken"
    else:
        _unknown(context, function.name, function.spelling, function.start, function.end, scope, called=True)
        return "broken"
    return _result(kinds)


def _result(kinds: list[Kind]) -> Kind:
    if set(kinds) - {"number", "list", "finding", "any"}:
        return "broken"
    return "any" if "any" in kinds else "list" if "list" in kinds else "number"


def _builtin_call(context: CheckContext, e: tree.Call, function: tree.Name, kinds: list[Kind], scope: Scope) -> Kind:
    name = function.name
    if not context.builtins.is_available(name):
        context.not_yet(f"'{function.spelling}'", function.start, function.end)
        return "broken"
    low, high = context.builtins.arity(name)
    _count(context, e, (low, high), "x" if high == 1 else "...")
    if "broken" in kinds:
        return "broken"
    first = kinds[0] if kinds else "number"
    if name in ("normal", "uniform"):
        for argument in e.arguments:
            context.number(argument, scope)
        return "list"
    if name == "column":
        if first not in ("items", "any"):
            context.error(
                "list-needed",
                "column takes a list of lists",
                e.arguments[0].start,
                e.arguments[0].end,
                advise("column([[1, 2], [3, 4]], 1)"),
            )
            return "broken"
        return "any"
    if name in _OF_LISTS or (name in ("min", "max") and len(kinds) == 1):
        if kinds and (first in ("number", "text", "truth", "point", "table") or (first == "items" and name not in _OF_ANY_LIST)):
            context.error(
                "list-needed",
                f"{name} takes a list{' of numbers' if first == 'items' else ''}",
                e.arguments[0].start,
                e.arguments[0].end,
                advise(f"{name}([1, 2, 3])"),
            )
            return "broken"
        if name in ("sort", "reverse", "differences", "running_sum"):
            return "list" if first in ("list", "finding") else first
        return "any" if first in ("items", "any") and name in ("first", "last") else "number"
    for argument, kind in zip(e.arguments, kinds, strict=True):
        no_number(context, kind, argument)
    return _result(kinds)


def _count(context: CheckContext, e: tree.Call, arity: tuple[int, int], variables: str) -> None:
    low, high = arity
    given = len(e.arguments)
    if low <= given <= high:
        return
    name = context.source.text[e.function.start : e.function.end]
    wanted = f"{low}" if low == high else f"{low} or more"
    plural = "" if wanted == "1" else "s"
    context.error("argument-count", f"{name} takes {wanted} argument{plural}, not {given}", e.start, e.end, advise(f"{name}({variables})"))


def _number_called(context: CheckContext, e: tree.Call, function: tree.Name, kind: Kind = "number") -> None:
    if kind in ("list", "items"):
        inside = context.source.text[function.end + 1 : e.end - 1]
        context.error(
            "list-called", f"'{function.spelling}' is a list; its elements stand in square brackets", e.start, e.end,
            replace(function.end, e.end, f"[{inside}]", f"{function.spelling}[{inside}]"),
        )  # fmt: skip
        return
    if kind not in ("number", "finding"):
        context.error("value-called", f"'{function.spelling}' is {WORDS[kind]} and cannot be called", e.start, e.end)
        return
    inside = context.source.text[function.end : e.end]
    argument = e.arguments[0] if len(e.arguments) == 1 else None
    plain = isinstance(argument, tree.Number | tree.Name)
    product = f"{function.spelling}*{inside[1:-1].strip() if plain else inside}"
    context.error(
        "number-called", f"'{function.spelling}' is a number and takes no argument", e.start, e.end, replace(e.start, e.end, product)
    )


def _log(context: CheckContext, function: tree.Name) -> None:
    fixes = [replace(function.start, function.end, name) for name in ("ln", "log10", "log2")]
    context.error(
        "which-log", "log means different things to different people", function.start, function.end, *fixes, advice="ln, log10 or log2"
    )


def prime_target(context: CheckContext, e: tree.Prime, scope: Scope) -> Known | None:
    """The function of `f'`: one formula in one variable. None after a complaint."""
    assert isinstance(e.function, tree.Name)
    known = scope.find(e.function.name)
    if known is None and context.builtins.is_function(e.function.name):
        context.error(
            "prime-of-built-in",
            f"primes follow functions of your own; define one first: f(x) = {e.function.spelling}(x)",
            e.start,
            e.end,
        )
    elif known is None:
        _unknown(context, e.function.name, e.function.spelling, e.function.start, e.function.end, scope, called=True)
    elif known.kind not in ("function", "broken"):
        context.error("prime-of-number", f"'{e.function.spelling}' is no function, so it has no derivative", e.start, e.end)
    elif known.defined:
        context.error(
            "prime-of-block", f"'{e.function.spelling}' is given by a block: it has values only, and no derivative by rule",
            e.start, e.end,
            advise(f"{e.function.spelling}(x) = ... in one formula has one"),
        )  # fmt: skip
    elif known.kind == "function" and len(known.parameters) != 1:
        context.error(
            "prime-of-several",
            f"'{e.function.spelling}' has {len(known.parameters)} variables; a prime cannot say which",
            e.start,
            e.end,
            *_partials(e, known),
        )
    else:
        return known
    return None


def _prime_call(context: CheckContext, e: tree.Call, prime: tree.Prime, scope: Scope, kinds: list[Kind]) -> Kind:
    if not isinstance(prime.function, tree.Name):
        context.error("prime", "a prime follows the name of a function", prime.start, prime.end)
        return "broken"
    known = prime_target(context, prime, scope)
    if known is None or known.kind == "broken":
        return "broken"
    _count(context, e, (1, 1), known.parameters[0])
    return _result(kinds)


_OF_LISTS = frozenset("sum product mean median sd variance length first last sort reverse differences running_sum".split())


_OF_ANY_LIST = frozenset("length first last reverse".split())


def _partials(e: tree.Prime, known: Known) -> list[Fix]:
    """The derivative by each variable in turn, in full words."""
    assert isinstance(e.function, tree.Name)
    called = f"{e.function.spelling}({', '.join(known.parameters)})"
    order = f", order {e.order}" if e.order > 1 else ""
    return [replace(e.start, e.end, f"derivative of {called} for {p}{order}") for p in known.parameters[:3]]


def _product_of_known(name: str, scope: Scope, builtins: Builtins) -> list[str] | None:
    """`ab` where a and b have values: the letters of a product that was meant."""
    if not 2 <= len(name) <= 4:
        return None

    def known(part: str) -> bool:
        found = scope.find(part)
        return (found is not None and found.kind in ("number", "finding")) or builtins.is_constant(part)

    if all(known(c) for c in name):
        return list(name)
    for cut in range(1, len(name)):
        if known(name[:cut]) and known(name[cut:]):
            return [name[:cut], name[cut:]]
    return None
