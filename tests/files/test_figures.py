"""Figures as files: the numbers behind them, LaTeX, origins that can be read back; readings of the functions behind curves."""

from __future__ import annotations

import csv
import io
import math
import zipfile

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from openpyxl import load_workbook

from open_lemma.core.figure.about import About, about_in
from open_lemma.core.figure.model import FigureData, from_text, to_text
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.readings import NotRead, read, regular
from open_lemma.files.figures import Wanted, figure_file, latex, traced
from open_lemma.files.formats import FIGURE_TYPES as TYPES
from open_lemma.files.numbers import as_csv, as_xlsx, columns_of
from open_lemma.files.solids import MESHES

ABOUT = About(3, 17, "a", "5" * 64)
SCRIPT = """figure a "Level & flow":
    curve of sin(x)^2 for x from 0 to 3, label "wave"
    points of [1, gap, 3] against [0, 1, 2], errors [0.1, 0.2, 0.3], label "=SUM(A1)"
    curve of (cos(t), 2*sin(t)) for t from 0 to 6, label "orbit"
    x axis "way / m"
    caption "Flow of 5 % through $h_0$."
"""


def figure(script: str = SCRIPT) -> FigureData:
    outcome = run(script)
    assert not outcome.failed, [m.text for m in outcome.reading.messages.items]
    return from_text(to_text(outcome.figures[0].data))


def rows(data: bytes) -> list[list[str]]:
    return list(csv.reader(io.StringIO(data.decode())))


def test_csv_holds_what_is_drawn() -> None:
    made = figure()
    head, *body = rows(as_csv(columns_of(made)))
    assert head[:2] == ["wave: way / m", "wave: y"]
    x = [float(r[0]) for r in body if r[0]]
    assert x == made.series[0].x.tolist()
    assert all(float(r[1]) == pytest.approx(math.sin(float(r[0])) ** 2, abs=1e-12) for r in body if r[0])
    points = head.index("'=SUM(A1): way / m") if "'=SUM(A1): way / m" in head else 2
    assert [r[points + 1] for r in body[:3]] == ["1.0", "3.0", ""] or [r[points + 1] for r in body[:3]] == ["1.0", "", "3.0"]


def test_curves_on_a_regular_step() -> None:
    head, *body = rows(as_csv(columns_of(figure(), 0.25)))
    assert head == ["wave: way / m", "wave: y", "orbit: t", "orbit: way / m", "orbit: y"]
    wave = [(float(r[0]), float(r[1])) for r in body if r[0]]
    assert [x for x, _ in wave] == [k * 0.25 for k in range(13)]
    assert all(y == pytest.approx(math.sin(x) ** 2, abs=1e-15) for x, y in wave)
    assert all(float(r[4]) == pytest.approx(2 * math.sin(float(r[2])), abs=1e-15) for r in body)
    with pytest.raises(NotRead, match="rows"):
        columns_of(figure(), 1e-9)
    with pytest.raises(NotRead, match="no curve"):
        columns_of(figure("points of [1] against [1]"), 0.1)


def test_a_workbook_holds_the_same_numbers_and_no_formulas() -> None:
    columns = columns_of(figure())
    data = as_xlsx(columns, "Level & flow: a/b", ABOUT)
    sheet = load_workbook(io.BytesIO(data)).active
    assert sheet is not None
    assert [c.value for c in sheet[1]] == [head for head, _ in columns]
    assert [sheet.cell(k, 1).value for k in range(2, 7)] == pytest.approx(columns[0][1][:5], rel=1e-15)
    assert all(c.data_type != "f" for row in sheet.iter_rows() for c in row)
    with zipfile.ZipFile(io.BytesIO(data)) as book:
        assert {i.date_time for i in book.infolist()} == {(1980, 1, 1, 0, 0, 0)}


def test_latex_is_escaped_and_complete() -> None:
    text = latex(figure(), ABOUT)
    assert r"\caption{Flow of 5 \% through $h_0$.}" in text
    assert r"\includegraphics[width=120mm]{a.pdf}" in text
    assert r"\label{fig:a}" in text
    assert "a curve “wave”" in text
    assert latex(figure('figure b_c "A & B_1":\n    curve of x for x from 0 to 1\n')).count(r"\caption{A \& B\_1}") == 1


@pytest.mark.parametrize("fmt", [f for f in TYPES if f not in ("csv", "txt", "geojson", *MESHES)])
def test_a_file_says_where_it_came_from(fmt: str) -> None:
    data = figure_file(figure(), Wanted(fmt, 150), ABOUT)
    assert traced(data) == ABOUT
    assert traced(figure_file(figure(), Wanted(fmt, 150))) is None


@settings(max_examples=60)
@given(st.binary(max_size=300), st.sampled_from([b"", b"\x89PNG\r\n\x1a\n", b"II*\x00", b"PK\x03\x04", b"%PDF-1.4\n", b"<svg>"]))
def test_what_is_no_figure_of_ours_has_no_origin(data: bytes, head: bytes) -> None:
    assert traced(head + data) is None


def test_origins_as_text() -> None:
    assert about_in(f"x {ABOUT.text()} y") == ABOUT
    unknown = About(None, None, "b", "a" * 64)
    assert about_in(unknown.text()) == unknown
    assert about_in("open-lemma folio=1 record=2 figure=a script=123") is None


@given(st.floats(0, 3))
@settings(max_examples=40, deadline=None)
def test_a_reading_is_of_the_function(x: float) -> None:
    found = read(FIGURE, "s1", x, 0.0)
    assert found.exact
    assert (found.x, found.y) == (x, pytest.approx(math.sin(x) ** 2, abs=1e-15))
    assert found.slope == pytest.approx(math.sin(2 * x), abs=1e-12)


FIGURE = figure()


def test_readings_of_other_things() -> None:
    orbit = read(FIGURE, "s3", 0.0, 2.2)
    assert (orbit.x, orbit.y, orbit.t) == (pytest.approx(0, abs=1e-6), pytest.approx(2, abs=1e-9), pytest.approx(math.pi / 2, abs=1e-6))
    assert orbit.slope == pytest.approx(0, abs=1e-5)
    point = read(FIGURE, "s2", 1.9, 2.5)
    assert (point.x, point.y, point.slope) == (2.0, 3.0, None)
    with pytest.raises(NotRead):
        read(FIGURE, "s9", 0, 0)
    outside = read(FIGURE, "s1", 99.0, 0.0)
    assert outside.x == 3.0


FORMULAS = [
    ("a = 2/3\nf(x) = a*x^2 - 1/3", "f(x)"), ("k = sqrt(2)\nf(x) = exp(-k*x)", "f(x)"), ("", "(x when x < 1, otherwise 2 - x)"),
    ("b = 0.1", "besselj(0, 5x) + b"), ("f(x) = x^3", "f'(x)"), ("", "abs(x - 1)^0.5"), ("", "mod(3x, 1) - 2^-x"),
    ("r = roots of x^2 - 2 for x from 0 to 2", "r*x"),
]  # fmt: skip


@pytest.mark.parametrize(("before", "subject"), FORMULAS)
def test_functions_go_through_text_unchanged(before: str, subject: str) -> None:
    """What is kept of a curve gives the same values as the script's own function, to the last digits."""
    made = figure(f"{before}\ncurve of {subject} for x from 0 to 2\n")
    x, (y,) = regular(made.series[0], 1 / 64)
    wanted = run(f"{before}\nq(x) = {subject}\nys = [q(x) for x in 0 to 2 step 1/64]\n").names.find("ys")
    assert np.allclose(y, wanted.data, rtol=1e-15, atol=1e-15, equal_nan=True)  # type: ignore[union-attr]
    assert x.size == 129


def test_a_function_given_by_a_block_is_read_off_its_line() -> None:
    made = figure("define f(x):\n    if x < 1:\n        return x\n    return 2*x\ncurve of f(x) for x from 0 to 2\n")
    assert made.series[0].formula is None
    found = read(made, "s1", 0.5, 0.5)
    assert not found.exact
    assert found.y == pytest.approx(0.5, abs=0.05)
