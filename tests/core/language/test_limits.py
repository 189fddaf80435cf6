"""Long scripts and many mistakes: read to an end, told in order, and never a failure of ours."""

from __future__ import annotations

from fractions import Fraction

import pytest

from open_lemma.core.formula.catalogue import BUILTINS
from open_lemma.core.language.messages import MOST
from open_lemma.core.language.syntax.parser import MAX_SCRIPT_CHARACTERS, parse
from open_lemma.core.language.syntax.tokens import MAX_LINES, MAX_TOKENS
from open_lemma.core.run.execute.interpreter import read, run


def filled(line: str, size: int = MAX_SCRIPT_CHARACTERS) -> str:
    return (line * (size // len(line) + 1))[:size]


MANY_MISTAKES = {
    "names": "q\n" * 5000,
    "data": "0.15 3.25 7.5\n" * 5000, "data with commas": "1, 2\n" * 5000,
    "unknown functions": "show g(1)\n" * 5000,
    "words": "the quick fox\n" * 3000, "blocks": "for k from 1 to 3\n    show k\n" * 2000,
    "in a block": "for k from 1 to 3:\n" + "    q\n" * 5000,
    "options": "curve of x for x from 0 to 1" + ", width 2" * 5000, "in a list": "xs = [" + ", ".join(f"n{k}" for k in range(5000)) + "]",
    "in a figure": "figure a:\n" + "    curve of u(x) for x from 0 to 1\n" * 3000,
}  # fmt: skip


@pytest.mark.parametrize("script", MANY_MISTAKES.values(), ids=MANY_MISTAKES)
def test_of_many_mistakes_the_first_are_told(script: str) -> None:
    reading, _ = read(script)
    messages = reading.messages.in_order()
    told = [m for m in messages if m.severity == "error" and m.code != "too-many"]
    assert 1 <= len(told) <= MOST
    assert reading.messages.errors <= MOST


def test_where_reading_ended_is_told() -> None:
    reading, broken = read("a = 1\n" + "show q\n" * 500 + "b = 2\nshow b\n")
    (last,) = [m for m in reading.messages.in_order() if m.code == "too-many"]
    line = reading.source.line_of(last.start)
    assert line == MOST + 2
    assert f"lines {line} to" in last.text
    assert {s.start for s in reading.script.statements if s.start >= last.start} <= broken
    # What stands above is run all the same.
    assert "a" in run("a = 1\n" + "show q\n" * 500).names


def test_two_hundred_mistakes_are_all_told() -> None:
    reading, _ = read("show q\n" * MOST)
    assert [m.code for m in reading.messages.in_order()] == ["unknown-name"] * MOST


ANYTHING = [
    "(", "[", "1+", "-", "2^", "sin(", "not ", "√", '"', "'", "§", ".", "a[", "[\n1,\n",
    "if 1 < 2:\n", "f(x) = x when ", "1/", "x*", "join ",
    "and ",
    "roots of ", "for ", "\n", " ", "\t", "= ", ",", "α", "\r\n", "a.b", "{", "table t:\n", "note:\n  ", "    q\n", "1..",
    "0 to 1 step ", "figure a:\n  ",
]  # fmt: skip


@pytest.mark.parametrize("piece", ANYTHING, ids=repr)
@pytest.mark.parametrize("head", ["", "show 1", "f(x) = x", "xs = [1"])
def test_anything_again_and_again_is_read_to_an_end(piece: str, head: str) -> None:
    reading, _ = read(head + filled(piece, 20_000))
    assert all(0 <= m.start <= len(reading.source.text) for m in reading.messages.items)


@pytest.mark.parametrize("piece", ["(", "1+", "q\n", "[\n1,\n", '"', "-"], ids=repr)
def test_a_script_of_the_greatest_length_is_read_to_an_end(piece: str) -> None:
    read(filled(piece))


@pytest.mark.parametrize(
    ("script", "said"),
    [
        ("1 + " * MAX_TOKENS, f"{MAX_TOKENS} words, numbers and signs"),
        ("a\n" * (MAX_LINES + 1), f"{MAX_LINES} lines with statements"),
        ("#" * (MAX_SCRIPT_CHARACTERS + 1), f"{MAX_SCRIPT_CHARACTERS} characters"),
    ],
)
def test_what_is_too_long_is_refused_at_once(script: str, said: str) -> None:
    script = script if len(script) > MAX_SCRIPT_CHARACTERS else script[:MAX_SCRIPT_CHARACTERS]
    reading = parse(script if said.endswith("characters") else script[:MAX_SCRIPT_CHARACTERS], BUILTINS)
    (message,) = reading.messages.items
    assert message.code == "too-long"
    assert said in message.text


def test_rows_of_a_table_are_no_statements() -> None:
    reading = parse("table t:\n    a\n" + "    1\n" * (MAX_LINES + 5), BUILTINS)
    assert not reading.messages.has_errors()


@pytest.mark.parametrize("terms", [99, 100, 101, 250, 1000, 4321])
def test_depth_never_comes_from_length(terms: int) -> None:
    """Sums and products of any length: exact, whatever their depth in the tree."""
    text = "0" + "".join(f" {'-' if k % 3 == 0 else '+'} 1/{k % 7 + 1}" for k in range(1, terms))
    truth = sum((Fraction(-1 if k % 3 == 0 else 1, k % 7 + 1) for k in range(1, terms)), Fraction(0))
    assert run(f"a = {text}").names["a"].exact == truth
    product = "1" + "".join(f"*{k % 3 + 1}/{k % 3 + 1}" for k in range(1, terms // 2))
    assert run(f"a = {product}").names["a"].exact == 1


@pytest.mark.parametrize(
    ("script", "line", "said"),
    [
        ("a = 1\nshow " + "-" * 100 + "1", 2, "more than 60 brackets or signs"),
        ("show " + "(" * 100 + "1" + ")" * 100, 1, "more than 60 brackets or signs"),
        ("show " + "2^" * 100 + "1", 1, "more than 60 brackets or signs"),
        ("".join("    " * k + "if 1 < 2:\n" for k in range(60)) + "    " * 60 + "a = 1", 42, "more than 40 blocks"),
    ],
)
def test_what_is_too_deep_is_told_with_its_place(script: str, line: int, said: str) -> None:
    reading, _ = read(script)
    message = next(m for m in reading.messages.in_order() if m.code == "too-deep")
    assert said in message.text
    assert abs(reading.source.line_of(message.start) - line) <= 1


def test_lists_in_lists_are_shown_once() -> None:
    """Each level was gone through twice, so that thirty took for ever."""
    (finding,) = run("show " + "[" * 50 + "1" + "]" * 50).findings
    assert finding.rows
