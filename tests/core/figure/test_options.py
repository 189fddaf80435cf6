"""Each option of each drawn thing changes the drawing, or is refused by name: none is taken and does nothing."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache

import pytest

from open_lemma.core.figure.draw import draw
from open_lemma.core.language.vocabulary import NOUNS, OPTIONS, STATEMENTS
from open_lemma.core.run.execute.interpreter import run

FIT = (
    "h = 0.05 to 0.4 step 0.05\nQ = [0.021, 0.06, 0.112, 0.171, 0.241, 0.317, 0.397, 0.488]\n"
    "r(x) = fit of C*x^n to Q against h for C, n\n"
)  # fmt: skip
LIST, PLACES = "[1, 3, 2, 4]", "([0, 1, 2, 3], [0, 1, 0, 1])"
PLAIN = {
    "curve": "curve of sin(x) for x from 0 to 6", "band": "band of sin(x) and sin(x) + 1 for x from 0 to 6",
    "tangent": "tangent of x^2 for x from 0 to 2, at 1", "histogram": "histogram of [1, 2, 2, 3, 3, 3, 4, 7.5]",
    "surface": "surface of x*y for x from -1 to 1, y from -1 to 1", "contours": "contours of x*y for x from -1 to 1, y from -1 to 1",
    "section": "section of x*y + x for x from -1 to 1, y from -1 to 1, at y = 0.5",
    **{noun: f"{noun} of {LIST} against [0, 1, 2, 3]" for noun in ("points", "line", "steps", "bars")},
    **{noun: f"{FIT}{noun} of r" for noun in ("residuals", "confidence", "prediction")},
}  # fmt: skip
SPACE = {
    "curve": "curve of (cos(t), sin(t), t) for t from 0 to 9", "line": f"line of {LIST} against {PLACES}",
    "points": f"points of {LIST} against {PLACES}",
    "contours": "surface of x*y for x from -1 to 1, y from -1 to 1\n    contours of x*y for x from -1 to 1, y from -1 to 1",
    "section": "surface of x*y for x from -1 to 1, y from -1 to 1\n    section of x*y for x from -1 to 1, y from -1 to 1, at y = 0.5",
}  # fmt: skip
VALUES = {
    "colour": "tomato", "width": "3", "size": "9", "dash": "dotted", "marker": "cross", "opacity": "0.4", "label": '"q"', "axis": "right",
    "every": "2", "written": "end", "levels": "3", "detail": "3", "mesh": "7", "fill": "true", "errors": "[0.2, 0.3, 0.2, 0.1]",
    "by": "thin-plate", "place": "left", "turn": "30", "arrow": "end", "hatch": "crossed", "bins": "3",
}  # fmt: skip
# What an option needs beside it to be seen.
WITH = {"every": ", marker dot", "size": ", marker dot", "written": ', label "abc"'}


@cache
def drawn(script: str) -> bytes | str:
    """The drawing, or the first message."""
    outcome = run(script)
    errors = [m for m in outcome.reading.messages.items if m.severity == "error"]
    return errors[0].text if errors else draw(outcome.figures[0].data).data


def plain_cases() -> Iterator[tuple[str, str, str]]:
    for noun, script in PLAIN.items():
        for option in NOUNS[noun].option_names():
            if option == "at":
                continue
            base, value = script, VALUES[option]
            if option == "width" and noun == "points":
                base += ", errors [0.2, 0.3, 0.2, 0.1]"
            elif option == "by":
                base = "surface of [1, 2, 3, 5] against ([0, 1, 0, 1], [0, 0, 1, 1])"
            elif option == "fill" and noun in ("bars", "histogram"):
                value = "false"
            elif option == "fill" and noun == "surface":
                base += ", levels 4"
            elif option in WITH and NOUNS[noun].has_option("marker" if option in ("every", "size") else "label"):
                base += WITH[option] if noun not in ("points", "residuals") or option == "written" else ""
            yield noun, base, f"{option} {value}"
        if NOUNS[noun].coloured_by:
            yield noun, script, f"colour by {'x' if noun in ('curve', 'surface') else '[1, 2, 3, 4]'}"


@pytest.mark.parametrize(("noun", "base", "option"), list(plain_cases()), ids=lambda v: v if len(v) < 30 else "")
def test_an_option_of_the_plane_is_seen(noun: str, base: str, option: str) -> None:
    before, after = drawn(base), drawn(f"{base}, {option}")
    assert isinstance(before, bytes), before
    assert isinstance(after, bytes), (noun, after)
    assert before != after


@pytest.mark.parametrize("noun", SPACE)
def test_an_option_in_space_is_seen_or_refused_by_name(noun: str) -> None:
    base = f"figure a:\n    {SPACE[noun]}"
    before = drawn(base)
    assert isinstance(before, bytes), before
    for option in NOUNS[noun].option_names():
        if option in ("at", "by"):
            continue
        after = drawn(f"{base}, {option} {VALUES[option]}")
        assert isinstance(after, bytes) or f"no option '{option}'" in after, (option, after)
        assert before != after, option
    if NOUNS[noun].coloured_by:
        assert drawn(f"{base}, colour by {'t' if noun == 'curve' else '[1, 2, 3, 4]'}") != before


@pytest.mark.parametrize(
    ("statement", "script"),
    [("text", 'text "hello" at (1, 1)'), ("mark", "mark (1, 1)"), ("line", "line from (0, 0) to (1, 2)"),
     ("text", 'text "hello" at (1, 1, 1)'), ("mark", "mark (1, 1, 1)"), ("line", "line from (0, 0, 0) to (1, 1, 1)")],
)  # fmt: skip
def test_an_option_of_what_is_put_there_is_seen_or_refused(statement: str, script: str) -> None:
    space = "1, 1, 1" in script
    around = "surface of x*y for x from -1 to 1, y from -1 to 1" if space else "curve of x^2 for x from 0 to 2"
    if not space:
        around += "\n    curve of 100x for x from 0 to 2, axis right"
    for option in STATEMENTS[statement].options:
        base = f"figure a:\n    {around}\n    {script}{WITH['written'] if option.name == 'written' else ''}"
        before, after = drawn(base), drawn(f"{base}, {option.name} {VALUES[option.name]}")
        assert isinstance(before, bytes), before
        assert isinstance(after, bytes) or (space and f"no option '{option.name}'" in after), (option.name, after)
        assert before != after, option.name


def test_every_value_of_a_pattern_is_drawn_another_way() -> None:
    base = "band of sin(x) and sin(x) + 1 for x from 0 to 6"
    found = {drawn(f"{base}, hatch {word}") for word in OPTIONS["hatch"].choices}
    assert len(found) == len(OPTIONS["hatch"].choices)
    assert all(isinstance(f, bytes) for f in found)


def test_small_ticks_in_space_are_refused() -> None:
    assert "small ticks" in drawn('figure a:\n    surface of x*y for x from -1 to 1, y from -1 to 1\n    z axis "q", minor 3')  # type: ignore[operator]
