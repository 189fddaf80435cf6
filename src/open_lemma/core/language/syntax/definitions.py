"""Definitions: `name = …`, `f(x) = … for x from … to …`, tuned values; a unit behind a value."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .. import tree
from ..messages import Fix, advise, replace
from .tokens import Token

if TYPE_CHECKING:
    from .statements import StatementReader


def definition(reader: StatementReader) -> tree.Statement:
    """`NAME = VALUE`, `NAME(NAMES) = FORMULA for NAME from LOW to HIGH`"""
    token = reader.take()
    name = reader.name_of(token)
    if reader.builtins.is_protected(name):
        reader.refuse(
            "protected-name", f"'{token.text}' is built in and keeps its meaning",
            replace(token.start, token.end, f"{token.text}_1"), token=token,
        )  # fmt: skip
    parameters = variables_of(reader) if reader.token.is_sign("(") else None
    reader.need_sign("=", "definition", "a definition needs =")
    domain: tuple[tree.Window, ...] = ()
    if reader.at_request():
        body: tree.Expression = reader.request()
    else:
        body = reader.pieces_or_expression()
        if isinstance(body, tree.Comparison) and "=" in body.signs:
            _second_equals(reader, token, body)
        body = unit_behind(reader, body)
        if reader.take_word("for"):
            windows = [reader.window()]
            while reader.token.is_sign(","):
                reader.take()
                windows.append(reader.window())
            domain = tuple(windows)
    if reader.token.is_sign(","):
        reader.refuse("second-value", "a definition has one value", advise("[...] for a list, (...) for a point"))
    end = reader.before.end
    reader.end_line()
    return tree.Definition(token.start, end, name, token.end, parameters, body, domain)


def variables_of(reader: StatementReader) -> tuple[str, ...]:
    """The names in the brackets of a function, each once."""
    reader.take()
    names: list[str] = []
    while True:
        token = reader.need_name("a definition lists its variables: f(x) = ...")
        name = reader.name_of(token)
        if name in names:
            reader.refuse("repeated-variable", f"the variable '{token.text}' is listed twice", token=token)
        if reader.builtins.is_protected(name):
            reader.refuse("protected-name", f"'{token.text}' is built in and keeps its meaning", Fix(f"{token.text}_1"), token=token)
        names.append(name)
        if not reader.take_sign(","):
            break
    reader.need_sign(")", "bracket-not-closed", "the bracket of the variables is not closed", Fix(")"))
    return tuple(names)


def _second_equals(reader: StatementReader, name: Token, body: tree.Comparison) -> None:
    written = reader.slice(body.start, body.end)
    start = body.operands[0].end
    reader.refuse_span(
        "second-equals", "a definition has one =", start, body.operands[1].start,
        replace(body.start, body.end, f"({written})", f"{name.text} = ({written})"),
    )  # fmt: skip


def unit_behind(reader: StatementReader, value: tree.Expression) -> tree.Expression:
    """`9.81 [m/s^2]`: the text between the brackets is a unit, not a formula."""
    token = reader.token
    if not token.is_sign("[") or token.glued:
        return value
    unit = reader.unit_in_brackets()
    closing = reader.before.end
    if not (reader.at_line_end() or reader.token.is_word("for", "from")):
        reader.refuse(
            "unit-place", "a unit stands at the end of a definition", advise(f"a value with a unit of its own: name = ... [{unit}]")
        )
    return tree.Quantity(value.start, closing, value, unit)


def tune(reader: StatementReader) -> tree.Statement:
    """`tune NAME = NUMBER from LOW to HIGH step STEP`"""
    word = reader.take()
    token = reader.need_name()
    reader.need_sign("=", "tune", "a tuned value needs a value", advise("= ..."))
    value = unit_behind(reader, reader.sum())
    reader.need_word("from", "tune", "a tuned value needs a span", advise("from LOW to HIGH"))
    low = reader.sum()
    reader.need_word("to", "tune", "the high end is missing", advise("to HIGH"))
    high = reader.sum()
    step = reader.sum() if reader.take_word("step") else None
    return tree.Tune(word.start, reader.before.end, reader.name_of(token), token.end, value, low, high, step)
