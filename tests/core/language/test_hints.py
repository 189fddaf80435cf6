"""Quiet offers beside scripts that can be read."""

from __future__ import annotations

import pytest

from open_lemma.core.formula.catalogue import BUILTINS
from open_lemma.core.language.front import read
from open_lemma.core.language.intent.formulas import applied
from open_lemma.core.language.messages import Message


def notes(script: str) -> list[Message]:
    return [m for m in read(script, BUILTINS)[0].messages.in_order() if m.severity == "note"]


@pytest.mark.parametrize(
    ("script", "code", "after"),
    [
        ("curve of sin(x)\ncurve of cos(x)", "lone-drawings", "figure:\n    curve of sin(x)\n    curve of cos(x)"),
        ("curve of x\npoints of [(1, 2)]\nshow 1", "lone-drawings", "figure:\n    curve of x\n    points of [(1, 2)]\nshow 1"),
        ('curve of x, label "alpha_1"', "mathematics-in-text", 'curve of x, label "$\\alpha_1$"'),
        ('curve of x, label "the x^2 of theta"', "mathematics-in-text", 'curve of x, label "the $x^2$ of $\\theta$"'),
        ('figure a "h_12 over t":\n    curve of x', "mathematics-in-text", 'figure a "$h_{12}$ over t":\n    curve of x'),
        ('figure:\n    curve of x\n    y axis "a / m s^-2"', "mathematics-in-text", 'figure:\n    curve of x\n    y axis "a / m s⁻²"'),
        ("curve of sin(t) + square(t) for t", "period-one", "curve of sin(t) + square(t/(2pi)) for t"),
    ],
)
def test_what_is_overlooked_is_offered(script: str, code: str, after: str) -> None:
    found = notes(script)
    assert [m.code for m in found] == [code]
    changed = applied(script, found[0].fixes[0].edits)
    assert changed == after
    assert not notes(changed)
    assert not read(changed, BUILTINS)[0].messages.has_errors()


@pytest.mark.parametrize(
    "script",
    [
        "curve of sin(x)\nshow 1\ncurve of cos(x)",
        "surface of x*y for x from 0 to 1, y from 0 to 1\nsurface of x + y for x from 0 to 1, y from 0 to 1",
        'curve of x, label "$\\alpha_1$"',
        'curve of x, label "pi and mu, plainly"',
        "curve of square(t) for t",
        "curve of sin(t) + square(t/(2pi)) for t",
    ],
)
def test_nothing_is_said_where_nothing_is_amiss(script: str) -> None:
    assert not notes(script)
