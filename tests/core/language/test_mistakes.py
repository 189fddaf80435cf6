"""Broken scripts: each gets a message at its place, with a fix where there is one; nothing ever raises.

`refusals.tsv` is part of the language's contract (a phrase must appear in the message or its fix). `mistakes.tsv` is the
full wording, read over line by line, of what else goes wrong while reading, checking and running.
"""

from __future__ import annotations

import json
import re
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from open_lemma.core.run.execute.interpreter import read, run
from open_lemma.core.run.record import record

from .programs import SCRIPTS as BLOCKS

HERE = Path(__file__).parent


PARTS = 3  # of a long table, each a test of its own


def table(name: str) -> list[list[str]]:
    rows = [line.split("\t") for line in (HERE / name).read_text(encoding="utf-8").splitlines()[1:]]
    return [[row[0].replace("\\n", "\n").replace("\\t", "\t"), *row[1:]] for row in rows]


def errors(messages: list[dict[str, Any]]) -> list[dict[str, Any]]:
    return [m for m in messages if m["severity"] == "error"]


@cache
def mistakes_of(snippet: str) -> list[dict[str, Any]]:
    return errors(run(snippet).reading.messages.as_records())


@pytest.mark.parametrize("row", table("refusals.tsv"), ids=lambda row: repr(row[0]))
def test_contract(row: list[str]) -> None:
    snippet, line, column, *phrase = row
    found = [m for m in errors(read(snippet)[0].messages.as_records()) if (m["line"], m["column"]) == (int(line), int(column))]
    assert found
    labels = [f["label"] for m in found for f in (m.get("fix"), *m.get("fixes", [])) if f]
    assert any(p in " ".join([m["text"] for m in found] + labels) for p in (phrase or [""]))


@pytest.mark.parametrize("row", table("mistakes.tsv"), ids=lambda row: repr(row[0]))
def test_wording(row: list[str]) -> None:
    snippet, line, column, text, fix = row
    found = mistakes_of(snippet)[0]
    assert (found["line"], found["column"], found["text"]) == (int(line), int(column), text)
    assert found.get("fix", {}).get("label", "") == fix


def test_there_are_two_hundred() -> None:
    assert len(table("refusals.tsv")) + len(table("mistakes.tsv")) >= 200


def applied(script: str, edits: list[dict[str, Any]]) -> str:
    lines = script.split("\n")
    for edit in sorted(edits, key=lambda e: (e["line"], e["column"]), reverse=True):
        last = edit.get("end_line", edit["line"])
        head, tail = lines[edit["line"] - 1][: edit["column"] - 1], lines[last - 1][edit["end_column"] - 1 :]
        lines[edit["line"] - 1 : last] = (head + edit["text"] + tail).split("\n")
    return "\n".join(lines)


@pytest.mark.parametrize("part", range(PARTS))
@pytest.mark.parametrize("name", ["refusals.tsv", "mistakes.tsv"])
def test_fixes_that_can_be_applied_remove_their_mistake(name: str, part: int) -> None:
    tried = 0
    for snippet, *_ in table(name)[part::PARTS]:
        for message in mistakes_of(snippet):
            for fix in message.get("fixes") or [message.get("fix", {"edits": []})]:
                if not fix["edits"]:
                    continue
                tried += 1
                mended = run(applied(snippet, fix["edits"])).reading.messages.as_records()
                same = [m for m in mended if (m["code"], m["line"], m["column"]) == (message["code"], message["line"], message["column"])]
                assert not same, (snippet, fix)
    assert tried > 30 // PARTS


def test_several_mistakes_are_all_told_and_the_rest_is_run() -> None:
    script = "a = 1/2x\nb = sin 3\nshow 4\nc = (1\nd = 2\nshow d, nothere\nroots of y for y from 1 to 0\nshow 5"
    outcome = run(script)
    told = errors(outcome.reading.messages.as_records())
    assert [m["line"] for m in told] == [1, 2, 4, 6, 7]
    assert [f.statement for f in outcome.findings] == ["show 4", "show 5"]


def test_one_mistake_is_told_once_and_not_at_every_use() -> None:
    outcome = run("a = 1/2x\nb = a + 1\nshow b\nf(x) = a*x\ncurve of f(x) for x from 0 to 1\nshow 3")
    assert len(errors(outcome.reading.messages.as_records())) == 1
    assert len(outcome.findings) == 1


def test_a_window_is_not_asked_for_where_the_definition_with_its_domain_is_broken() -> None:
    for request in ("roots of f(x)", "roots of f(x) - 2", "roots of f(x) for x"):
        found = errors(run(f"f(x) = 1/2x for x from 0 to 3\n{request}").reading.messages.as_records())
        assert [m["line"] for m in found] == [1]


def test_a_variable_of_that_name_is_no_use_of_a_broken_name() -> None:
    outcome = run("roots of x - 1 for x from 0 to 2\nx = \nroots of x - 2 for x from 0 to 3\nf(x) = 2x\nshow f(2)")
    assert [len(f.rows) for f in outcome.findings] == [1, 1, 1]


def test_redefinition_is_flagged_and_allowed() -> None:
    outcome = run("a = 1\na = 2\nshow a\nmean = 3\nshow mean")
    assert [m["code"] for m in outcome.reading.messages.as_records()] == ["redefined", "built-in-redefined"]
    assert [f.rows[0]["value"] for f in outcome.findings] == [2.0, 3.0]


PIECES = r"""
x y f g a xs ( ) [ ] , : + - * / ^ = < > for from to of show roots curve points figure 3 2.5 1e3 " ' . if else when otherwise by
step count sin ln pi e infinity gap join and or not √ ² π ∞ α label colour width # ; % & | { } $ @ 0 f(x) g' true part legend size axis mm
""".split()


@settings(max_examples=400)
@given(st.lists(st.sampled_from([*PIECES, "\n", "\n    ", "\t"]), max_size=30), st.booleans())
def test_any_words_in_any_order(pieces: list[str], spaced: bool) -> None:
    must_be_told_or_run((" " if spaced else "").join(pieces))


@settings(max_examples=300)
@given(st.text(max_size=120))
def test_any_text(text: str) -> None:
    must_be_told_or_run(text)


def must_be_told_or_run(script: str) -> None:
    outcome = run(script)
    plain = json.dumps(record(script, outcome, [], 0.0), allow_nan=False)
    for message in json.loads(plain)["messages"]:
        assert 1 <= message["line"] <= script.count("\n") + 1
        assert 1 <= message["column"] <= message["end_column"]
        assert message["text"]
        assert message["code"] != "internal"


ONE_MESSAGE = [
    "for k from 1 to 3:\n    a = b + 1\nshow a",  # what the block would have given is not asked for again
    "for k from sqrt(2)^21 to 3:\n    show k",
    "define s(q):\n    for k from 1 to 9.81*1:\n        q = q + k\n    return q\nshow s(2)",
    "for k from 1 to 3:\n    a = (derivative of x^2*a for x, at k)",
]


@pytest.mark.parametrize("script", ONE_MESSAGE)
def test_one_mistake_is_told_once_and_is_never_ours(script: str) -> None:
    found = errors(run(script).reading.messages.as_records())
    assert len(found) == 1
    assert found[0]["code"] != "internal"


@settings(max_examples=120, deadline=None)
@given(st.data())
def test_scripts_with_blocks_spoiled_by_hand(data: st.DataObject) -> None:
    """A word or sign taken out, doubled or moved: there may be messages, but none that is our fault."""
    script = data.draw(st.sampled_from(BLOCKS))
    words = re.findall(r"\s+|\w+|[^\w\s]", script)
    for _ in range(data.draw(st.integers(1, 2))):
        place = data.draw(st.integers(0, len(words) - 1))
        other = data.draw(st.sampled_from([*words, "x", "k", "1", "(", ")", ",", "for", "of", "[", "when"]))
        words[place] = data.draw(st.sampled_from(["", other, words[place] * 2, other + words[place]]))
    text = "".join(words)
    if "while" not in text:  # a loop without end is another test's affair
        assert not [m for m in run(text).reading.messages.items if m.code == "internal"]


def test_many_mistakes_take_no_more_each_than_few() -> None:
    """Counted, not timed: how often messages are looked through does not grow with their number."""
    from open_lemma.core.language.messages import Message, Messages
    from open_lemma.core.language.source import Source

    kept = Messages(Source("q\n" * 50))
    for k in range(50):
        kept.add(Message("error" if k % 2 else "note", "c", 2 * k, 2 * k + 1, "said"))
        kept.add(Message("error", "c", 2 * k, 2 * k + 1, "said twice"))
    assert (len(kept.items), kept.errors) == (50, 25)
    for start in range(100):
        for end in range(start, 100, 7):
            expected = any(m.severity == "error" and start <= m.start < end for m in kept.items)
            assert kept.error_within(start, end) is expected
    kept.take_back(11)
    assert (len(kept.items), kept.errors) == (11, 5)
    assert not kept.error_within(22, 100)
    kept.add(Message("error", "c", 30, 31, "again"))
    assert kept.error_within(30, 31)


def test_of_many_unknown_names_only_the_first_are_guessed_at() -> None:
    reading = read("\n".join(f"length_{k} = 1\nshow lenght_{k}" for k in range(60)))[0]
    unknown = [m for m in reading.messages.items if m.code == "unknown-name"]
    assert len(unknown) == 60
    assert all(m.fixes for m in unknown[:40])
    assert not any(m.fixes for m in unknown[40:])
