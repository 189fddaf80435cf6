"""Blocks: `if`, `for`, `while`, `define`, `return`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .. import tree
from ..messages import advise, replace
from .definitions import variables_of
from .tokens import Token

if TYPE_CHECKING:
    from .statements import StatementReader


def return_(reader: StatementReader) -> tree.Statement:
    """`return VALUE`"""
    word = reader.take()
    if reader.at_line_end():
        reader.refuse("return-value", "'return' gives a value back", advise("return level"), token=word)
    value = reader.request() if reader.at_request() else reader.pieces_or_expression()
    return tree.Return(word.start, value.end, value)


def if_(reader: StatementReader) -> tree.Statement:
    """`if CONDITION:` … `else if CONDITION:` … `else:` …"""
    word = reader.take()
    branches = [_branch(reader, word, reader.expression(), "if")]
    while reader.token.is_word("else"):
        other = reader.take()
        if reader.take_word("if"):
            branches.append(_branch(reader, other, reader.expression(), "else if"))
        else:
            branches.append(_branch(reader, other, None, "else"))
            break
    return tree.If(word.start, branches[-1].end, tuple(branches))


def _branch(reader: StatementReader, word: Token, condition: tree.Expression | None, what: str) -> tree.Branch:
    head_end = reader.before.end
    body = tuple(reader.block(what))
    return tree.Branch(word.start, body[-1].end if body else head_end, condition, body, head_end)


def for_(reader: StatementReader) -> tree.Statement:
    """`for NAME from LOW to HIGH:` …"""
    word = reader.take()
    window = reader.window()
    head_end = reader.before.end
    body = tuple(reader.block("for"))
    return tree.For(word.start, body[-1].end if body else head_end, window, body, head_end)


def while_(reader: StatementReader) -> tree.Statement:
    """`while CONDITION:` …"""
    word = reader.take()
    condition = reader.expression()
    head_end = reader.before.end
    body = tuple(reader.block("while"))
    return tree.While(word.start, body[-1].end if body else head_end, condition, body, head_end)


def define(reader: StatementReader) -> tree.Statement:
    """`define NAME(NAMES):` …"""
    word = reader.take()
    token = reader.need_name("a name must follow 'define'")
    name = reader.name_of(token)
    if reader.builtins.is_protected(name):
        reader.refuse(
            "protected-name", f"'{token.text}' is built in and keeps its meaning",
            replace(token.start, token.end, f"{token.text}_1"), token=token,
        )  # fmt: skip
    if not reader.token.is_sign("("):
        reader.refuse("define-brackets", "the variables stand in brackets", advise(f"{token.text}(...)"))
    parameters: tuple[str, ...] = ()
    if reader.ahead().is_sign(")"):
        reader.take()
        reader.take()
    else:
        parameters = variables_of(reader)
    head_end = reader.before.end
    body = tuple(reader.block("define"))
    return tree.Define(word.start, body[-1].end if body else head_end, name, token.end, parameters, body, head_end)
