"""Starting points, and what may come next: every line that is offered can stand there."""

from __future__ import annotations

import pytest

from open_lemma.core.formula.catalogue import BUILTINS
from open_lemma.core.language.front import read
from open_lemma.core.language.intent.next_steps import MOST, next_steps
from open_lemma.core.language.vocabulary.starts import STARTS, Start


@pytest.mark.parametrize(
    ("script", "first"),
    [
        ("f(x) = x^2 - 2", "curve of f(x)"),
        ("f(x) = x^2\ncurve of f(x)", "roots of f(x) for x from -5 to 5"),
        ("f(x) = x^2\ng(x) = x\ncurve of f(x)\ncurve of g(x)", "crossings of f(x) and g(x) for x from -5 to 5"),
        ("f(x) = x^2\ng(x) = x\ncurve of [f(x), g(x)] for x", "crossings of f(x) and g(x) for x from -5 to 5"),
        ("h(x, y) = x*y", "surface of h(x, y) for x from -2 to 2, y from -2 to 2"),
        ("xs = [1, 2, 3]\nys = [2, 3, 5]", "points of ys against xs"),
        ("xs = [1, 2, 3]\nys = [2, 3, 5]\npoints of ys against xs", "trend(x) = fit of polynomial 1 to ys against xs"),
        ("table t:\n    a  b\n    1  2\n    2  3", "points of t.b against t.a"),
        ("table t:\n    a  b\n    1  2\n    2  3\npoints of t.b against t.a", "trend(x) = fit of polynomial 1 to t.b against t.a"),
        ("a(x) = x for x from 0 to 2", "curve of a(x)"),
    ],
)
def test_what_comes_next_knows_the_script(script: str, first: str) -> None:
    offered = next_steps(script, BUILTINS)
    assert offered[0] == first
    assert len(offered) <= MOST
    for line in offered:
        assert not read(f"{script}\n{line}", BUILTINS)[0].messages.has_errors(), line


@pytest.mark.parametrize("script", ["", "show 1", "f(x) = \nplot"])
def test_nothing_is_offered_where_nothing_is_known(script: str) -> None:
    assert next_steps(script, BUILTINS) == []


@pytest.mark.parametrize("start", STARTS, ids=lambda start: start.title)
def test_starting_points_have_no_mistake(start: Start) -> None:
    assert not read(start.script, BUILTINS)[0].messages.items
