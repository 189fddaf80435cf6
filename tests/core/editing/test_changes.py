"""Tree → text, and edits by program: what they do not mean stays as it was typed."""

from __future__ import annotations

import dataclasses
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from open_lemma.core.editing.actions import apply_actions, read_action
from open_lemma.core.editing.changes import NotInked, applied, renamed, text_of, tuned
from open_lemma.core.formula.catalogue import BUILTINS
from open_lemma.core.language import tree
from open_lemma.core.language.syntax.parser import parse
from open_lemma.core.language.syntax.written import expression_text, write_script
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.handbook import pages

from ..language.programs import programs
from ..language.test_trees import CASES

SCRIPTS = [script for script, _ in CASES] + [p.example for p in pages() if p.example]
PROTECTED = frozenset(n for n in BUILTINS.names() if BUILTINS.is_protected(n))


def bare(node: Any) -> Any:
    """A tree without its places and spellings."""
    if isinstance(node, tree.Node):
        skipped = ("start", "end", "name_end", "head_end", "spelling")
        return (type(node).__name__, *(bare(getattr(node, f.name)) for f in dataclasses.fields(node) if f.name not in skipped))
    return tuple(bare(n) for n in node) if isinstance(node, tuple) else node


@pytest.mark.parametrize("script", SCRIPTS)
def test_a_tree_gives_its_text_back(script: str) -> None:
    reading = parse(script, BUILTINS)
    assert text_of(reading.script, script) == script


@pytest.mark.parametrize("script", SCRIPTS)
def test_written_anew_it_is_the_same_tree(script: str) -> None:
    reading = parse(script, BUILTINS)
    again = parse(write_script(reading.script), BUILTINS)
    assert not again.messages.items, (write_script(reading.script), [m.text for m in again.messages.items])
    assert bare(again.script) == bare(reading.script)


@settings(max_examples=150, deadline=None)
@given(programs())
def test_generated_programs(script: str) -> None:
    """Printing and reading again gives the same tree; running never ends in a fault of ours."""
    reading = parse(script, BUILTINS)
    assert not reading.messages.items, [m.text for m in reading.messages.items]
    assert text_of(reading.script, script) == script
    again = parse(write_script(reading.script), BUILTINS)
    assert not again.messages.items
    assert bare(again.script) == bare(reading.script)
    assert not [m for m in run(script).reading.messages.items if m.code == "internal"]


@settings(max_examples=60, deadline=None)
@given(programs(), st.data())
def test_renaming_and_renaming_back_is_nothing(script: str, data: st.DataObject) -> None:
    reading = parse(script, BUILTINS)
    names = [n for n in tree.walk(reading.script) if isinstance(n, tree.Name) and n.name not in (*BUILTINS.names(), "k")]
    if not names:
        return
    chosen = data.draw(st.sampled_from(names))
    edits = renamed(reading, chosen.start, "quite_new", PROTECTED)
    changed = applied(script, edits)
    after = parse(changed, BUILTINS)
    assert len(changed) - len(script) == len(edits) * (len("quite_new") - len(chosen.spelling))
    assert write_script(after.script).replace("quite_new", chosen.name) == write_script(reading.script)
    place = changed.index("quite_new")
    assert applied(changed, renamed(after, place, chosen.spelling, PROTECTED)) == script
    before, later = run(script), run(changed)
    assert [f.rows for f in before.findings] == [f.rows for f in later.findings]


RENAMES = [
    ("a = 1  # a stays\nb = a + 1\nshow a", 0, "c", "c = 1  # a stays\nb = c + 1\nshow c"),
    ("f(x) = x^2\nshow f(2)\nx = 3", 2, "t", "f(t) = t^2\nshow f(2)\nx = 3"),
    ("x = 2\nf(x) = x^2\nroots of x for x from 0 to x", 0, "q", "q = 2\nf(x) = x^2\nroots of x for x from 0 to q"),
    ("for k from 1 to 3:\n    show k\nk = 2", 4, "n", "for n from 1 to 3:\n    show n\nk = 2"),
    ("define f(a):\n    b = a\n    return b\nb = 1", 18, "c", "define f(a):\n    c = a\n    return c\nb = 1"),
    ("table t:\n    a\n    1\nshow t.a + sum(t.a)", 6, "rows", "table rows:\n    a\n    1\nshow rows.a + sum(rows.a)"),
    ("tune k = 1 from 0 to 2\nshow 2k", 5, "m", "tune m = 1 from 0 to 2\nshow 2m"),
    ("α = 1\nshow alpha", 0, "beta", "beta = 1\nshow beta"),
    ("s = 0\nfor k from 1 to 2:\n    s = s + k\nshow s", 0, "t", "t = 0\nfor k from 1 to 2:\n    t = t + k\nshow t"),
]


@pytest.mark.parametrize(("script", "offset", "new", "expected"), RENAMES)
def test_renaming(script: str, offset: int, new: str, expected: str) -> None:
    assert applied(script, renamed(parse(script, BUILTINS), offset, new, PROTECTED)) == expected


REFUSED = [
    ("a = 1\nb = 2", 0, "b"), ("a = 1", 0, "sin"), ("a = 1", 0, "for"), ("a = 1", 0, "1x"), ("show sin(1)", 6, "x"),
    ("f(x) = a*x\na = 1", 2, "a"),
]  # fmt: skip


@pytest.mark.parametrize(("script", "offset", "new"), REFUSED)
def test_renaming_that_would_change_the_meaning(script: str, offset: int, new: str) -> None:
    with pytest.raises(NotInked):
        renamed(parse(script, BUILTINS), offset, new, PROTECTED)


def test_values_are_inked() -> None:
    script = "# slider\ntune k = 1.2 from 0 to 4   # here\ncurve of sin(k*x) for x from 0 to 6, width 2  # a wave\n"
    reading = parse(script, BUILTINS)
    assert applied(script, tuned(reading, "k", "3.05")) == script.replace("1.2", "3.05")
    with pytest.raises(NotInked):
        tuned(reading, "q", "1")


def test_expressions_as_text() -> None:
    reading = parse("y = -(a + b)^2/3 - 2x(x + 1)", BUILTINS)
    statement = reading.script.statements[0]
    assert isinstance(statement, tree.Definition)
    assert expression_text(statement.body) == "-(a + b)^2/3 - 2x(x + 1)"


@pytest.mark.parametrize(
    ("do", "more", "line"),
    [
        ("drawn", {"noun": "tangent", "at": 1.5}, "    tangent of f(x) for x, at 1.5\n"),
        ("drawn", {"noun": "derivative"}, "    curve of (derivative of f(x) for x) for x from -2 to 2\n"),
        ("drawn", {"noun": "band"}, "    band of f(x) and 0 for x from -2 to 2\n"),
    ],
)
def test_what_is_drawn_beside_a_curve(do: str, more: dict[str, Any], line: str) -> None:
    script = "f(x) = x^2 - 2\nfigure:\n    curve of f(x) for x from -2 to 2\n"
    more = {"series": 3, "low": -2.0, "high": 2.0, "item": 0, **more}
    after = apply_actions(script, [read_action(do, 2, more)], BUILTINS)[0]
    assert after == script + line
    assert not run(after).reading.messages.has_errors()


@pytest.mark.parametrize(
    ("script", "line", "window"),
    [
        ("f(x) = x^2 - 2\ncurve of f(x) for x from -2 to 2\nroots of f(x) for x from -2 to 2\n", 3, 2),
        ("f(x) = x^2 - 2\nroots of f(x) for x from -2 to 2\nfigure:\n    curve of f(x) for x from -2 to 2\n", 2, 3),
        ("f(x) = x^2 - 2\nr = roots of f(x) for x from -2 to 2\nfigure:\n    curve of f(x) for x from -2 to 2\n", 2, 3),
    ],
)
def test_a_finding_is_marked_on_the_figure(script: str, line: int, window: int) -> None:
    after = apply_actions(script, [read_action("mark finding", line, {"window": window})], BUILTINS)[0]
    outcome = run(after)
    assert not outcome.reading.messages.has_errors()
    assert "    mark r" in after
    assert [f.noun for f in outcome.findings] == ["roots"]


def test_a_finding_that_rests_on_lines_below_the_figure_is_not_moved() -> None:
    script = "curve of sin(x) for x from 0 to 1\ng(x) = x - 1/2\nroots of g(x) for x from 0 to 1\n"
    with pytest.raises(NotInked, match="below the figure"):
        apply_actions(script, [read_action("mark finding", 3, {"window": 1})], BUILTINS)
