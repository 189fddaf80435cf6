"""Which word begins a statement: the words of the table, told from names that are spelled the same."""

from __future__ import annotations

import pytest

from open_lemma.core.formula.catalogue import BUILTINS
from open_lemma.core.language import tree
from open_lemma.core.language.syntax.parser import parse
from open_lemma.core.language.syntax.readers import READERS

BEGINS: list[tuple[str, type[tree.Statement]]] = [
    ("show 1", tree.Show), ("check 1 < 2", tree.Check), ("if true:\n    show 1", tree.If), ("for k from 1 to 2:\n    show k", tree.For),
    ("while a < 2:\n    a = a + 1", tree.While), ("define f(x):\n    return x", tree.Define), ('x axis "t"', tree.Axis),
    ("colour axis from 0 to 1", tree.Axis), ("true scale", tree.TrueScale), ("shared x axis", tree.Shared),
    ("line from (0, 0) to (1, 1)", tree.Ruled), ("line horizontal at 1", tree.Ruled), ('part "One"', tree.Part), ('note "One"', tree.Note),
    ("note:\n    words", tree.Note), ("table t:\n    a\n    1", tree.Table), ("tune k = 1 from 0 to 2", tree.Tune),
    ("compare f, g", tree.Compare),
    ("legend", tree.Legend), ("legend top left", tree.Legend), ("legend at (0.1, 0.1)", tree.Legend), ("legend, columns 2", tree.Legend),
    ("gridlines minor", tree.Gridlines), ("size 89 mm by 60 mm", tree.Size), ("view azimuth 30", tree.View), ("no frame", tree.Without),
    ('text "a" at (1, 1)', tree.TextAt), ("mark r", tree.Marked), ("mark (1, 2)", tree.Marked), ("style print", tree.Style),
    ('title "a"', tree.Heading), ('caption "a"', tree.Heading), ("decimal comma", tree.Decimal),
    ("figure:\n    curve of x", tree.Figure),
    ('figure a "T":\n    curve of x', tree.Figure), ("figure a, 1 by 2:\n    curve of x", tree.Figure),
]  # fmt: skip
NAMES: list[tuple[str, type[tree.Statement]]] = [
    ("x + 1", tree.Bare), ("size*2", tree.Bare), ("legend = 3", tree.Definition), ("mark(3)", tree.Bare), ("text = 2", tree.Definition),
    ("style(x) = x", tree.Definition), ("table - 1", tree.Bare), ("view/2", tree.Bare), ("line of ys against xs", tree.Bare),
    ("title^2", tree.Bare), ("note", tree.Bare), ("part + 1", tree.Bare), ("right", tree.Bare), ("decimal = 1", tree.Definition),
]  # fmt: skip


def first(text: str) -> tree.Statement:
    return parse(text, BUILTINS).script.statements[0]


@pytest.mark.parametrize(("text", "kind"), BEGINS, ids=[t.split("\n")[0] for t, _ in BEGINS])
def test_the_word_begins_its_statement(text: str, kind: type[tree.Statement]) -> None:
    assert type(first(text)) is kind


@pytest.mark.parametrize(("text", "kind"), NAMES, ids=[t for t, _ in NAMES])
def test_a_name_that_is_spelled_the_same_stays_a_name(text: str, kind: type[tree.Statement]) -> None:
    assert type(first(text)) is kind


def test_every_word_of_the_table_is_tried_here() -> None:
    tried = {text.split()[0].strip(":,") for text, _ in BEGINS}
    assert set(READERS) - tried <= {"y", "z", "right", "return", "panel", "inset"}  # axes as x; the others stand inside of blocks
