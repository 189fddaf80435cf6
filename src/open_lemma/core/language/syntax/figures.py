"""Figures, panels, insets, and the words inside of them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .. import tree
from ..messages import advise, replace
from .tokens import Kind

if TYPE_CHECKING:
    from .statements import StatementReader


def figure(reader: StatementReader) -> tree.Statement:
    """`figure NAME "TITLE", ROWS by COLUMNS:` …"""
    word = reader.take()
    name = title = None
    if reader.stands(Kind.NAME):
        name = reader.name_of(reader.need_name())
    if reader.stands(Kind.TEXT) or reader.token.text == '"':
        title = reader.need_text()
    grid = None
    if reader.take_sign(","):
        rows = reader.need_number()
        reader.need_word("by", "grid", "a grid of panels is rows by columns", advise("2 by 1"))
        grid = (int(float(rows.text)), int(float(reader.need_number().text)))
    head_end = reader.before.end
    body = reader.block("figure")
    return tree.Figure(word.start, reader.before.end, name, title, grid, tuple(body), head_end)


def panel(reader: StatementReader) -> tree.Statement:
    """`panel "TITLE":` …"""
    word = reader.take()
    title = reader.need_text() if reader.stands(Kind.TEXT) or reader.token.text == '"' else None
    head_end = reader.before.end
    body = reader.block("panel")
    return tree.Panel(word.start, reader.before.end, title, tuple(body), head_end)


def inset(reader: StatementReader) -> tree.Statement:
    """`inset top left, OPTIONS:` …, or `inset at (X, Y)`"""
    word = reader.take()
    words, at = _place_words(reader)
    options = reader.options()
    head_end = reader.before.end
    body = reader.block("inset")
    return tree.Inset(word.start, reader.before.end, words, at, options, tuple(body), head_end)


def _place_words(reader: StatementReader) -> tuple[tuple[str, ...], tree.Expression | None]:
    """`top left`, or `at (0.3, 0.7)`."""
    words = []
    while reader.stands(Kind.NAME) and not reader.token.is_word("at"):
        words.append(reader.take().text)
    return tuple(words), reader.sum() if reader.take_word("at") else None


def axis(reader: StatementReader) -> tree.Statement:
    """`x axis "TEXT" from LOW to HIGH, OPTIONS`"""
    which = reader.take()
    reader.take()
    text = reader.need_text() if reader.stands(Kind.TEXT) or reader.token.text == '"' else None
    low = high = None
    if reader.take_word("from"):
        low = reader.sum()
        reader.need_word("to", "window-high", "the high end of the window is missing", advise("to HIGH"))
        high = reader.sum()
    options = reader.options()
    return tree.Axis(which.start, reader.before.end, which.text, text, low, high, options)  # type: ignore[arg-type]


def legend(reader: StatementReader) -> tree.Statement:
    """`legend top left, OPTIONS`, or `legend at (X, Y)`"""
    word = reader.take()
    words, at = _place_words(reader)
    options = reader.options()
    return tree.Legend(word.start, reader.before.end, words, at, options)


def true_scale(reader: StatementReader) -> tree.Statement:
    word = reader.take()
    reader.take()
    return tree.TrueScale(word.start, reader.before.end)


def shared(reader: StatementReader) -> tree.Statement:
    """`shared x axis`"""
    word = reader.take()
    which = reader.take().text
    reader.take()
    return tree.Shared(word.start, reader.before.end, which)  # type: ignore[arg-type]


def style(reader: StatementReader) -> tree.Statement:
    """`style WORDS, OPTIONS`"""
    word = reader.take()
    words = [reader.need_plain_word()]
    while reader.stands(Kind.NAME):
        words.append(reader.take().text)
    options = reader.options()
    return tree.Style(word.start, reader.before.end, tuple(words), options)


def heading(reader: StatementReader) -> tree.Statement:
    word = reader.take()
    text = reader.need_text()
    return tree.Heading(word.start, reader.before.end, word.text, text)  # type: ignore[arg-type]


def decimal(reader: StatementReader) -> tree.Statement:
    word = reader.take()
    which = reader.need_plain_word()
    return tree.Decimal(word.start, reader.before.end, which)


def gridlines(reader: StatementReader) -> tree.Statement:
    word = reader.take()
    which = reader.need_plain_word()
    return tree.Gridlines(word.start, reader.before.end, which)


def size(reader: StatementReader) -> tree.Statement:
    """`size 89 mm by 60 mm`"""
    word = reader.take()
    width = _length(reader)
    reader.need_word("by", "size", "a size is width by height", advise("size 89 mm by 60 mm"))
    height = _length(reader)
    return tree.Size(word.start, reader.before.end, width, height)


def _length(reader: StatementReader) -> float:
    number = reader.need_number()
    unit = reader.token
    if not unit.is_word("mm"):
        reader.refuse("size-unit", "a figure's size is given in mm", replace(number.end, number.end, " mm", f"{number.text} mm"))
    reader.take()
    return float(number.text)


def without(reader: StatementReader) -> tree.Statement:
    word = reader.take()
    what = reader.need_plain_word()
    return tree.Without(word.start, reader.before.end, what)


def view(reader: StatementReader) -> tree.Statement:
    """`view azimuth A, elevation E`"""
    word = reader.take()
    if not (reader.token.is_word("azimuth", "elevation")):
        reader.refuse("view", "a view says its azimuth, its elevation, or both, in degrees", advise("view azimuth 40, elevation 25"))
    options = (reader.option(), *reader.options())
    return tree.View(word.start, reader.before.end, options)


def text_at(reader: StatementReader) -> tree.Statement:
    """`text "WORDS" at (X, Y), OPTIONS`"""
    word = reader.take()
    text = reader._joined()
    reader.need_word("at", "text-at", "say where the text stands", advise("at (x, y)"))
    at = reader.sum()
    options = reader.options()
    return tree.TextAt(word.start, reader.before.end, text, at, options)


def mark(reader: StatementReader) -> tree.Statement:
    """`mark FINDING, OPTIONS`"""
    word = reader.take()
    finding = reader.expression()
    options = reader.options()
    return tree.Marked(word.start, reader.before.end, finding, options)


def line(reader: StatementReader) -> tree.Statement:
    """`line from (X, Y) to (X, Y)`, `line horizontal at Y`, `line vertical at X`"""
    word = reader.take()
    which = reader.take().text
    to = None
    if which == "from":
        at = reader.sum()
        reader.need_word("to", "line-end", "the other end is missing", advise("to (x, y)"))
        to = reader.sum()
    else:
        reader.need_word("at", "line-at", "say where the line stands", advise("at 0.15"))
        at = reader.sum()
    options = reader.options()
    return tree.Ruled(word.start, reader.before.end, which, at, to, options)  # type: ignore[arg-type]
