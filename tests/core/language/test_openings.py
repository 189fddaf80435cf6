"""First sentences of people who do not know the language: each ends, by the first button, in a script that does what was meant."""

from __future__ import annotations

import itertools
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from open_lemma.core.formula.catalogue import BUILTINS
from open_lemma.core.language.front import read
from open_lemma.core.language.intent.formulas import applied
from open_lemma.core.language.messages import Message
from open_lemma.core.language.vocabulary import NOUNS

HERE = Path(__file__).parent
CLICKS = 2
ARROW, LINE = "  =>  ", " ⏎ "


def jobs() -> dict[str, tuple[list[str], list[tuple[str, str]]]]:
    found: dict[str, tuple[list[str], list[tuple[str, str]]]] = {}
    for line in (HERE / "openings.txt").read_text(encoding="utf-8").splitlines():
        if line.startswith("== "):
            above, openings = found.setdefault(line[3:], ([], []))
        elif line.startswith("@ "):
            above.append(line[2:])
        elif ARROW.strip() in line and not line.startswith("#"):
            opening, _, meant = line.partition(ARROW.rstrip())
            openings.append((opening.strip(), meant.strip().replace(LINE, "\n")))
    return found


def errors(script: str) -> list[Message]:
    return [m for m in read(script, BUILTINS)[0].messages.in_order() if m.severity == "error"]


def clicked(script: str, clicks: int = CLICKS) -> str:
    """The script after clicks on the first button of its first mistake, as long as there is one."""
    for _ in range(clicks):
        edits = next((f.edits for m in errors(script)[:1] for f in m.fixes if f.edits), None)
        if edits is None:
            break
        script = applied(script, edits)
    return script


def with_block(job: str, opening: str) -> str:
    """The head of a block is typed with its block."""
    if job == "loops":
        return "\n    x = x + 1"
    return "\n    show 1" if opening.startswith(("if", "while")) else ""


@pytest.mark.parametrize(("job", "opening"), [(job, o) for job, (_, openings) in jobs().items() for o, _ in openings])
def test_the_first_button_leads_to_what_was_meant(job: str, opening: str) -> None:
    above, openings = jobs()[job]
    body = with_block(job, opening)
    ended = clicked("\n".join([*above, opening]) + body)
    assert not errors(ended), ended
    before = "\n".join(above) + "\n"
    end = ended.removeprefix(before).removesuffix(body).strip("\n").rstrip()
    assert end == dict(openings)[opening]


def test_forty_jobs_by_ten_openings() -> None:
    table = jobs()
    assert len(table) >= 40
    assert sum(len(openings) for _, openings in table.values()) >= 400


@pytest.mark.parametrize("opening", [o for _, openings in jobs().values() for o, _ in openings][::7])
def test_every_button_of_an_opening_leaves_no_mistake(opening: str) -> None:
    script = "f(x) = x^2 - 2\nxs = [1, 2, 3, 4]\nys = [2, 4, 5, 8]\nx_0 = 1\n" + opening
    for message in errors(script)[:1]:
        if message.code == "meant":
            for fix in message.fixes:
                if fix.edits and not fix.label.endswith(":"):
                    assert not errors(applied(script, fix.edits)), fix.label


# Words that are not in the table are put together by the rules of everyday sentences.
_FORMULAS = ["x^2 - 3", "sin(2x)", "x*exp(-x)", "1/(1 + x^2)", "3x - 4", "sqrt(x + 2)", "abs(x - 1)", "x^3/3 - x"]
_SPANS = [
    "from 0.5 to 2.5",
    "between 0.5 and 2.5",
    "on [0.5, 2.5]",
    "for x = 0.5 to 2.5",
    "x from 0.5 to 2.5",
    "for 0.5 < x < 2.5",
    "over (0.5, 2.5)",
]
_WISHES = {
    "curve": ["plot", "draw", "please graph", "sketch the graph of", "chart", "show a plot of", "Plot the function", "can you draw"],
    "roots": ["find the zeros of", "zeros of", "roots", "compute all roots of", "root of", "where is zero"],
    "integral": ["integrate", "integral", "area under", "compute the integral of", "area below the curve"],
    "lowest": ["minimum of", "find the minimum of", "smallest value of", "minimise", "where is the lowest point of"],
    "highest": ["maximum of", "maximize", "largest value of", "what is the biggest value of"],
    "mean": ["average of", "mean value of", "find the average of"],
    "length": ["arc length of", "length of the curve"],
}


@settings(max_examples=200, deadline=None)
@given(
    noun=st.sampled_from(sorted(_WISHES)), place=st.integers(0, 40), formula=st.sampled_from(_FORMULAS), span=st.sampled_from(_SPANS),
    upper=st.booleans(),
)  # fmt: skip
def test_a_wish_a_formula_and_a_span_make_the_sentence(noun: str, place: int, formula: str, span: str, upper: bool) -> None:
    wish = _WISHES[noun][place % len(_WISHES[noun])]
    opening = f"{wish} {formula} {span}"
    ended = clicked(opening[0].upper() + opening[1:] if upper else opening)
    assert not errors(ended), (opening, ended)
    assert ended == f"{noun} of {formula} for x from 0.5 to 2.5"


@pytest.mark.parametrize(
    ("typed", "noun"),
    [
        ("derivitive of x^2", "derivative"), ("integrall of x", "integral"), ("intersecton of x and x^2", "crossings"),
        ("plott x^2", "curve"), ("hystogram [1, 2, 2]", "histogram"),
    ],
)  # fmt: skip
def test_slips_of_the_pen_are_forgiven(typed: str, noun: str) -> None:
    ended = clicked(typed)
    assert not errors(ended)
    assert ended.startswith(noun)


@pytest.mark.parametrize("opening", ["plot sin(x)", "draw y", "graph f x", "qwert zuiop", "find it", "bisection of x^2 - 2", "sparkle 3"])
def test_no_product_with_an_unknown_word_is_offered(opening: str) -> None:
    word = opening.split()[0]
    for message in errors(opening):
        for fix in message.fixes:
            assert f"{word}*" not in fix.label
            assert not fix.label.startswith(f"{word} =")


def test_nearest_by_meaning_before_spelling() -> None:
    assert clicked("bisection of x^2 - 2 for x from 0 to 2") == "roots of x^2 - 2 for x from 0 to 2"


@pytest.mark.parametrize("noun", [n.name for n in NOUNS.values() if n.asked_as])
def test_what_is_offered_is_one_language(noun: str) -> None:
    """Common words lead to a sentence; none of them is a second spelling that would be accepted."""
    for phrase in NOUNS[noun].asked_as.split(", ")[:6]:
        if phrase not in NOUNS:
            assert errors(f"{phrase} of x^2 for x from 0 to 1"), phrase


def test_rows_of_tables_and_notes_are_left_alone() -> None:
    script = "table t:\n    a  b\n    1  plot\nnote:\n    plot x^2\nplot x^2"
    codes = [m.code for m in errors(script)]
    assert codes == ["table-cell", "meant"]


@settings(max_examples=150, deadline=None)
@given(
    st.lists(
        st.sampled_from("plot draw x^2 ( ) , = of from to 0 3 sin f [ ] \" in for the and 1..5 a * ^ y vs red : roots -> if 'a'".split()),
        max_size=9,
    )
)
def test_nothing_that_is_typed_raises(words: list[str]) -> None:
    script = "f(x) = x\n" + " ".join(words)
    for message in errors(script):
        for fix in message.fixes:
            if fix.edits:
                read(applied(script, fix.edits), BUILTINS)


@pytest.mark.parametrize(
    ("script", "after"),
    [
        (
            'figure:\n    curve of cos(x)\n    title "Swing"\ngrid on',
            'figure:\n    curve of cos(x)\n    title "Swing"\n    gridlines major',
        ),
        ("figure:\n    curve of cos(x)\ngrid on\nshow 1", "figure:\n    curve of cos(x)\n    gridlines major\nshow 1"),
        ("curve of x\nmake it red", "curve of x, colour red"),
        ('curve of x\n\ntitle "a"\nshow 1', 'figure:\n    curve of x\n    title "a"\n\nshow 1'),
    ],
)
def test_settings_go_into_the_figure_above_by_edits_that_do_not_touch(script: str, after: str) -> None:
    edits = errors(script)[0].fixes[0].edits
    assert all(a.end < b.start for a, b in itertools.pairwise(edits))
    assert applied(script, edits) == after
