"""`show`, `check`, `compare`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .. import tree
from ..vocabulary.names import RESERVED

if TYPE_CHECKING:
    from .statements import StatementReader


def show(reader: StatementReader) -> tree.Statement:
    """`show VALUE, VALUE, digits N`"""
    word = reader.take()
    if reader.at_request():
        request = reader.request()
        return tree.Show(word.start, request.end, (request,), ())
    items = [reader.pieces_or_expression()]
    options: list[tree.Option] = []
    while reader.token.is_sign(","):
        comma = reader.take()
        if comma.carries_on and (reader.defines() or reader.token.text in RESERVED):
            reader.stray()
        if (reader.token.is_word("digits") and reader.at_option(False)) or (
            reader.token.is_word("unit") and reader.ahead().is_sign("[") and not reader.ahead().glued
        ):
            options.append(reader.option())
        else:
            items.append(reader.expression())
    return tree.Show(word.start, reader.before.end, tuple(items), tuple(options))


def check(reader: StatementReader) -> tree.Statement:
    """`check CONDITION, within TOLERANCE`"""
    word = reader.take()
    condition = reader.expression()
    options = reader.options()
    return tree.Check(word.start, reader.before.end, condition, options)


def compare(reader: StatementReader) -> tree.Statement:
    """`compare FIT, FIT`"""
    word = reader.take()
    items = [reader.expression()]
    while reader.take_sign(","):
        items.append(reader.expression())
    return tree.Compare(word.start, reader.before.end, tuple(items))
