"""Numbers far beyond use, and lengths that could become depth: an answer or a sentence at once, never a fault of ours."""

from __future__ import annotations

import pytest

from open_lemma.core.figure.draw import draw
from open_lemma.core.language.syntax.tokens import digits_of
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.execute.outcome import Outcome


def outcome_of(script: str) -> Outcome:
    faults: list[str] = []
    found = run(script, on_fault=lambda trouble, *_: faults.append(repr(trouble)))
    assert not faults
    for drawn in found.figures:
        assert draw(drawn.data, screen=True).data
    return found


def said(script: str) -> list[str]:
    return [m["text"] for m in outcome_of(script).reading.messages.as_records()]


@pytest.mark.parametrize(
    ("script", "text"),
    [
        ("x = 1e9999999\nshow x", "a number may have up to 4000 digits, and this one has 10000000"),
        ("x = 1e-9999999\nshow x", "up to 4000 digits"),
        ("x = 1e99999999999999999999\nshow x", "up to 4000 digits"),
        (f"show {'7' * 4400} + 1", "this one has 4400"),
        (f"show √{'7' * 4400}", "this one has 4400"),
        (f"show 0.{'7' * 4400}", "this one has 4401"),
        ("table t:\n    h\n    1e9999999\nshow t", "up to 4000 digits"),
        ("table t:\n    h\n    1(1e9999999)\nshow t", "is no number"),
        ("x = 9^9^9^9\nshow x", "is too large"),
        ("show 2^2^2^2^2^2", "is too large"),
        ("show 3^10^15", "is too large"),
        ("show 10^9999999", "is too large"),
        ("show 1e308*10", "is too large"),
        ("show 1e400", "a number here is too large to compute with: numbers reach to 1.8×10^308"),
        (f"n = {'7' * 3900}\nshow n", "a number here is too large to compute with"),
        ("integral of x for x from 0 to 1e300", "too large to compute with"),
        ("sum of k^200 for k from 1 to 100000", "too large to compute with"),
        ('figure f:\n    x axis "a" from -1e308 to 1e308\n    curve of x for x from 0 to 1', "axes reach to"),
        ("curve of 1e300*x for x from -1e8 to 1e8", "further than numbers do"),
        ("surface of x + y for x from -1e300 to 1e300, y from -1e300 to 1e300", "axes reach to"),
    ],
)
def test_what_is_too_large_is_said_at_once(script: str, text: str) -> None:
    assert any(text in m for m in said(script)), said(script)


@pytest.mark.parametrize(
    "script",
    [
        "show 1e400/1e399", "show 10^5000/10^4999", f"show {'7' * 3900}/{'7' * 3900}", "show (1 + 1e-9)^1e9",
        "curve of sin(x) for x from -1e300 to 1e300",
        "points of [(1e300, 1), (-1e300, 2)]", "roots of x - 1e300 for x from 0 to 1e301", "roots of sin(x) for x from -1e300 to 1e300",
        "histogram of [1e300, -1e300, 1]", "limit of 1/x^2 for x, at 0",
    ],
)  # fmt: skip
def test_what_is_large_is_worked_out(script: str) -> None:
    assert not [m for m in outcome_of(script).reading.messages.as_records() if m["severity"] == "error"]


LONG = {
    "a sum": lambda n: "show " + " + ".join("1" for _ in range(n)),
    "a curve of a sum": lambda n: "curve of " + " + ".join(f"x^{k % 9}/9" for k in range(n)) + " for x from 0 to 1",
    "a product": lambda n: "show " + "*".join("1.0001" for _ in range(n)),
    "a chain of and": lambda n: "show " + " and ".join("1 < 2" for _ in range(n)),
    "a list": lambda n: "show sum([" + ", ".join("1" for _ in range(n)) + "])",
    "blocks one after the other": lambda n: "\n".join(f"for k from 1 to 2:\n    a_{j} = k" for j in range(n)),
    "functions, each of the last": lambda n: (
        "f_0(x) = x\n" + "\n".join(f"f_{k + 1}(x) = f_{k}(x) + 1" for k in range(n)) + f"\nshow f_{n}(1)"
    ),
    "a polynomial": lambda n: "curve of " + " + ".join(f"{k % 7 + 1}*x^{k}/9" for k in range(n)) + " for x from -1 to 1",
}


@pytest.mark.parametrize("what", LONG)
@pytest.mark.parametrize("length", [3, 600])
def test_length_is_no_depth(what: str, length: int) -> None:
    assert not [m for m in outcome_of(LONG[what](length)).reading.messages.as_records() if m["severity"] == "error"]


DEEP = {
    "signs": lambda n: "show " + "-" * n + "1",
    "brackets": lambda n: "show " + "(" * n + "1" + ")" * n,
    "lists": lambda n: "show " + "[" * n + "1" + "]" * n,
    "functions": lambda n: "show " + "sin(" * n + "1" + ")" * n,
    "powers": lambda n: "show " + "^".join("1.01" for _ in range(n)),
    "blocks": lambda n: "\n".join(f"{'    ' * k}for k{k} from 1 to 1:" for k in range(n)) + "\n" + "    " * n + "show 1",
}


@pytest.mark.parametrize("what", DEEP)
def test_depth_beyond_a_limit_is_said_with_its_place(what: str) -> None:
    for length in (100,) if what == "blocks" else (400, 3_000):
        records = outcome_of(DEEP[what](length)).reading.messages.as_records()
        assert [m["code"] for m in records if m["code"] == "too-deep"]
        assert all(m["line"] >= 1 and m["column"] >= 1 for m in records)
    assert not [m for m in outcome_of(DEEP[what](20)).reading.messages.as_records() if m["severity"] == "error"]


def test_digits_are_counted_as_they_would_be_written_out() -> None:
    for text in ("1", "12.5", "1e3", "1.25e1", "0.001", "12e-3", "1E+2", "123.456e-5"):
        assert digits_of(text) >= len(str(int(float(text)))) - 1
    assert digits_of("1e400") == 401
    assert digits_of("1e-400") == 400
    assert digits_of("2.5e999999999999999999999") == 10**12


@pytest.mark.parametrize(
    ("script", "about"),
    [
        ("show 1e-400", "1×10^−400"),
        ("show -2.5e-350", "−2.5×10^−350"),
        ("show exp(-1000)", "5.075959×10^−435"),  # by mpmath
        ("roots of (x - 1e-400)*(x - 1) for x from -1 to 2", "1×10^−400"),
        ("highest of exp(-1000 - x^2) for x from -1 to 1", "5.075959×10^−435"),
        ("solution of x > 1e-400 for x from -1 to 2", "1×10^−400"),
    ],
)
def test_what_is_too_small_is_told_beside_its_zero(script: str, about: str) -> None:
    (finding,) = outcome_of(script).findings
    assert any(f"this is not 0 but about {about}: " in note for note in finding.notes), finding.notes


@pytest.mark.parametrize(
    "script", ["show 0", "show 1e-400/1e-399", "roots of x for x from -1 to 1", "show sin(pi)", "lowest of x^2 for x from -1 to 1"]
)
def test_a_zero_that_is_one_has_no_note(script: str) -> None:
    assert outcome_of(script).findings[0].notes == []
