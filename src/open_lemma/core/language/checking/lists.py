"""Lists: written, by a rule, joined, as ranges; their elements and lengths."""

from __future__ import annotations

from fractions import Fraction

from .. import tree
from ..messages import Message, advise, replace
from .context import CheckContext
from .kinds import ANY, NUMBER, WORDS, Kind, Known, Scope


def comprehension(context: CheckContext, e: tree.Comprehension, scope: Scope) -> Kind:
    """The kind of a list by a rule."""
    local = scope
    for window in e.windows:
        local = Scope({window.name: iterate(context, window, local)}, local, block=True)
    if e.condition is not None:
        context.truth(e.condition, local)
    kind = context.kind_of(e.element, local)
    if kind == "broken":
        return "broken"
    return "items" if kind in ("list", "items", "text", "truth", "point", "table") else "any" if kind == "any" else "list"


def iterate(context: CheckContext, window: tree.Window, scope: Scope) -> Known:
    """What the variable of a loop or of a built list stands for; its window is checked."""
    for part in (window.low, window.high, window.step, window.count):
        if part is not None:
            context.number(part, scope)
    low, high, step = (_literal(p) for p in (window.low, window.high, window.step))
    if low is not None and high is not None and window.count is None and window.low is not None and window.high is not None:
        step_node = window.step or tree.Number(window.end, window.end, "1")
        shown = tree.Range(
            window.low.start, window.high.end if window.step is None else window.step.end, window.low, window.high, step_node
        )
        message = step_message(low, high, Fraction(1) if step is None else step, shown)
        if message is not None and not (window.step is None and low > high):
            context.messages.add(message)
        elif message is not None:
            fix = replace(window.high.end, window.high.end, " step -1", "step -1")
            context.error("step", f"from {_short(low)} down to {_short(high)} a negative step is needed", window.start, window.end, fix)
    if window.values is not None:
        kind = context.kind_of(window.values, scope)
        if kind in ("number", "text", "truth", "point", "table", "function"):
            context.error(
                "list-needed",
                f"a list is gone through here; this is {WORDS[kind]}",
                window.values.start,
                window.values.end,
                advise("[1, 2, 3]"),
            )
        return NUMBER if kind in ("list", "finding") else ANY
    if window.low is None:
        context.error(
            "window-needed", "say what the variable goes through", window.start, window.end, advise(f"{window.name} from 1 to 10")
        )
    return NUMBER


def join(context: CheckContext, e: tree.Join, scope: Scope) -> Kind:
    """The kind of two things joined: texts, or lists."""
    kinds = {context.kind_of(e.left, scope), context.kind_of(e.right, scope)}
    if "broken" in kinds:
        return "broken"
    if "text" in kinds:
        bad = kinds & {"list", "items", "point", "table", "function"}
        if bad:
            context.error("not-joined", f"a text and {WORDS[bad.pop()]} cannot be joined", e.start, e.end)
            return "broken"
        return "text"
    if kinds & {"truth", "table", "function"}:
        context.error("not-joined", "lists and texts are joined; true, false and tables are not", e.start, e.end)
        return "broken"
    if kinds & {"items", "point"}:
        return "items"
    return "any" if "any" in kinds else "list"


def same_lengths(context: CheckContext, e: tree.Expression, parts: list[tree.Expression], scope: Scope) -> None:
    """Lists that meet must have one length, where that can be seen."""
    known = [(p, n) for p in parts if (n := length_of(context, p, scope)) is not None]
    for part, n in known[1:]:
        if n != known[0][1]:
            one, other = (context.source.text[p.start : p.end] for p in (known[0][0], part))
            context.error(
                "list-lengths",
                f"lists of different lengths meet here: {one} has {known[0][1]} and {other} has {n} elements",
                e.start,
                e.end,
            )
            return


def length_of(context: CheckContext, e: tree.Expression, scope: Scope) -> int | None:
    """The length of a list, where it can be seen before the script runs."""
    if isinstance(e, tree.Group):
        return length_of(context, e.inner, scope)
    if isinstance(e, tree.ListOf):
        return len(e.items)
    if isinstance(e, tree.Name):
        known = scope.find(e.name)
        return known.length if known is not None and known.kind == "list" else None
    if isinstance(e, tree.Range):
        low, high, step, count = (_literal(p) for p in (e.low, e.high, e.step, e.count))
        if count is not None:
            return int(count)
        if low is not None and high is not None and step and ((high - low) / step).denominator == 1 and (high - low) / step >= 0:
            return int((high - low) / step) + 1
        return None
    if isinstance(e, tree.Binary | tree.Negative | tree.Juxtaposed):
        lengths = {length_of(context, c, scope) for c in tree.children(e) if isinstance(c, tree.Expression)} - {None}
        return lengths.pop() if len(lengths) == 1 else None
    return None


def range_kind(context: CheckContext, e: tree.Range, scope: Scope) -> Kind:
    """A range: numbers, with steps that end at its end."""
    for part in (e.low, e.high, e.step, e.count):
        if part is not None:
            context.number(part, scope)
    if e.step is None and e.count is None:
        context.error("span-as-value", "a span is no list; say the step or the count", e.start, e.end,
                   replace(e.end, e.end, " step 1", "step ..."), replace(e.end, e.end, " count 11", "count ..."))  # fmt: skip
        return "broken"
    low, high, step = (_literal(part) for part in (e.low, e.high, e.step))
    if low is not None and high is not None and step is not None:
        _steps(context, e, low, high, step)
    return "list"


def _steps(context: CheckContext, e: tree.Range, low: Fraction, high: Fraction, step: Fraction) -> None:
    message = step_message(low, high, step, e)
    if message is not None:
        context.messages.add(message)


def index(context: CheckContext, e: tree.Index, scope: Scope) -> Kind:
    """The kind of an element or a slice."""
    kind = context.kind_of(e.target, scope)
    for place in e.places:
        kind = _element(context, e, kind, place, scope)
    return kind


def _element(context: CheckContext, e: tree.Index, kind: Kind, place: tree.Expression, scope: Scope) -> Kind:
    if kind in ("number", "text", "truth", "table", "function"):
        context.error("number-indexed", f"{WORDS[kind]} has no elements", e.start, e.end)
        return "broken"
    if isinstance(place, tree.Range):
        for part in (place.low, place.high):
            context.number(part, scope)
        if place.step is not None or place.count is not None:
            context.error("slice-step", "a slice has no step", place.start, place.end, advise("[xs[k] for k from 1 to 9 step 2]"))
        return kind
    context.number(place, scope)
    at = _literal(place)
    count = length_of(context, e.target, scope)
    if at is not None and (at.denominator != 1 or at < 1 or (count is not None and len(e.places) == 1 and at > count)):
        has = f"; the list has {count}" if count is not None else ""
        context.error("no-such-element", f"there is no element {_short(at)}{has}, counted from 1", e.start, e.end)
        return "broken"
    return {"list": "number", "point": "number", "finding": "finding", "broken": "broken"}.get(kind, "any")  # type: ignore[return-value]


def step_message(low: Fraction, high: Fraction, step: Fraction, e: tree.Range) -> Message | None:
    """Why `low to high step step` is no list: both ends must belong. None where it is one."""
    assert e.step is not None
    if step == 0:
        return Message("error", "step", e.step.start, e.step.end, "a step of 0 leads nowhere")
    count = (high - low) / step
    if count < 0:
        text = f"from {_short(low)} to {_short(high)} the step must be {'negative' if high < low else 'positive'}"
        return Message("error", "step", e.step.start, e.step.end, text, (replace(e.step.start, e.step.end, _short(-step)),))
    if count.denominator == 1:
        return None
    last = low + step * int(count)
    steps = round(count)
    text = f"steps of {_short(step)} from {_short(low)} do not end at {_short(high)}; both ends belong to the list"
    finer = Message(
        "error", "step", e.start, e.end, text,
        (
            replace(e.high.start, e.high.end, _short(last), f"to {_short(last)}"),
            replace(e.high.end, e.end, f" count {max(steps, 1) + 1}", f"count {max(steps, 1) + 1}"),
        ),
    )  # fmt: skip
    return finer


def _short(value: Fraction) -> str:
    return str(value.numerator) if value.denominator == 1 else repr(float(value))


def _literal(e: tree.Expression | None) -> Fraction | None:
    if isinstance(e, tree.Number):
        return Fraction(e.text)
    if isinstance(e, tree.Negative):
        inner = _literal(e.operand)
        return None if inner is None else -inner
    return None
