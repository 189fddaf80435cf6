"""What an art editor would send back: letters, marks that differ, labels at ends, turned texts, numbers of axes, outlines in EPS."""

from __future__ import annotations

import re
from itertools import combinations, pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from matplotlib.path import Path as MplPath
from PIL import Image

from open_lemma.cli import main
from open_lemma.core.figure import palette
from open_lemma.core.figure.draw import Drawing, draw
from open_lemma.core.figure.labels import spread
from open_lemma.core.figure.letters import missing_letters
from open_lemma.core.figure.model import FigureData, plain
from open_lemma.core.figure.numbers import NumberFormatter
from open_lemma.core.figure.series_marks import series_marks
from open_lemma.core.figure.space.window import _outline
from open_lemma.core.run.execute.interpreter import run
from open_lemma.files.numbers import columns_of

XS = "xs = 0 to 5 step 1\n"
TABLE = "table one:\n    force [N]   stretch [mm]\n    1   2\n    2   4\n    3   6\n"
LINE = "figure a:\n    curve of x for x from 0 to 1"


def figure(*lines: str, before: str = "") -> FigureData:
    outcome = run(before + "figure a:\n" + "".join(f"    {line}\n" for line in lines))
    assert not outcome.failed, [m.text for m in outcome.reading.messages.items]
    return outcome.figures[0].data


def messages(script: str) -> list[Any]:
    return list(run(script).reading.messages.items)


# ---------------------------------------------------------------- letters


@pytest.mark.parametrize("text", ["温度", "時間", "한국어", "الزمن", "समय", "זמן", "𒀀"])
def test_letters_that_no_font_can_set_are_refused_by_name(text: str) -> None:
    for script in (
        f'{LINE}, label "{text}"', f'{LINE}\n    x axis "{text}"', f'{LINE}\n    text "{text}" at (0.5, 0.5)',
        f'{LINE}\n    title "{text}"', f'figure a:\n    bars of [1, 2] against ["{text}", "b"]',
    ):  # fmt: skip
        (said,) = messages(script)
        assert said.code == "letters"
        assert f"U+{ord(text[0]):04X}" in said.text


def test_european_letters_and_signs_of_mathematics_are_set() -> None:
    texts = "Größe àéîõü ŁŠŽ ăţ αβγ Ωμ Привет Жук ≤ ≠ ∞ → ± × · ° ′ ‰ ½ ℃ Å ⟂ ☃", "$\\alpha \\le \\frac{1}{2}$", "m³ s⁻¹", "h₀"
    assert all(missing_letters(t) == [] for t in texts)


def test_a_letter_that_the_first_font_has_not_comes_from_the_second(tmp_path: Path) -> None:
    import subprocess

    (tmp_path / "f.pdf").write_bytes(draw(figure("curve of x for x from 0 to 1", 'x axis "☃ ↯"'), "pdf").data)
    fonts = subprocess.run(["pdffonts", str(tmp_path / "f.pdf")], capture_output=True, text=True, check=True).stdout
    assert "DejaVuSans" in fonts
    assert "LastResort" not in fonts


def test_no_signs_of_typesetting_are_read_out() -> None:
    assert plain(r"$\mathit{force}$ / N") == "force / N"
    assert plain(r"$\mathrm{d}x\,/\,\mathrm{d}t$") == "dx / dt"
    data = figure("points of one.stretch against one.force", before=TABLE)
    assert "mathit" not in data.description()


# ---------------------------------------------------------------- marks


def told_apart(data: FigureData, grey: bool) -> dict[str, tuple[str | None, tuple[float, ...]]]:
    found = series_marks(data.series, grey)
    return {s.label or s.id: (s.marker or found.markers.get(s.id), palette.DASHES[s.dash] if s.dash else found.dashes.get(s.id, ()))
            for s in data.series}  # fmt: skip


@pytest.mark.parametrize("grey", [True, False])
def test_points_take_markers_of_their_own_and_none_that_was_said(grey: bool) -> None:
    data = figure(*(f'points of {k}*xs against xs, label "{k}"{", marker ring" if k == 3 else ""}' for k in range(1, 7)), before=XS)
    markers = [m for m, _ in told_apart(data, grey).values()]
    assert len(set(markers)) == 6
    assert markers[2] == "ring"
    assert markers[0] == "dot"


def test_in_grey_each_line_has_a_dash_that_was_not_said() -> None:
    data = figure(
        'curve of x^2 for x from 0 to 5, label "a"', 'curve of x + 2 for x from 0 to 5, label "b", dash dashed',
        'curve of x + 3 for x from 0 to 5, label "c"', 'curve of x + 4 for x from 0 to 5, label "d", dash dotted',
        'curve of x + 5 for x from 0 to 5, label "e"',
    )  # fmt: skip
    dashes = {k: d for k, (_, d) in told_apart(data, True).items()}
    assert len(set(dashes.values())) == 5
    # What looks like a dash that was said is left out too: long and short strokes only differ by a tenth.
    alike = [palette.INKS[1].grey_dash, palette.INKS[2].grey_dash]
    assert not {dashes[k] for k in "ace"} & set(alike)


def test_in_colour_a_second_line_of_one_ink_avoids_the_dash_of_the_first() -> None:
    lines = [f"curve of x + {k} for x from 0 to 5{', dash dashed' if k == 0 else ''}" for k in range(len(palette.INKS) + 1)]
    data = figure(*lines)
    found = series_marks(data.series, False).dashes
    assert found[data.series[-1].id] != palette.DASHES["dashed"]


def test_marks_by_hand_are_no_findings() -> None:
    data = figure("curve of 2*x for x from 0 to 8", "mark (4, h)", before="h = 8.06\n")
    assert "finding" not in data.description()
    assert "a mark at (4, 8.06)" in data.description()
    assert not any("finding" in name for name, _ in columns_of(data))
    found = figure("curve of x^2 - 2 for x from 0 to 3", "mark r", before="r = roots of x^2 - 2 for x from 0 to 3\n")
    assert "finding 1 at" in found.description()


# ---------------------------------------------------------------- places


@given(st.lists(st.floats(-100, 100), min_size=1, max_size=25), st.floats(0.5, 12))
def test_labels_are_spread_within_the_window_and_no_closer_than_they_may(wanted: list[float], gap: float) -> None:
    wanted = sorted(wanted)
    found = spread(wanted, gap, -80.0, 80.0)
    room = min(gap, 160.0 / max(len(wanted) - 1, 1))
    assert all(b - a >= room - 1e-9 for a, b in pairwise(found))
    assert min(found) >= -80 - 1e-9
    assert max(found) <= 80 + 1e-9


def test_labels_with_room_stay_at_their_ends() -> None:
    assert spread([0.0, 10.0, 20.0], 5.0, -50, 50) == [0.0, 10.0, 20.0]
    assert spread([0.0, 0.0, 0.0], 5.0, -50, 50) == [-5.0, 0.0, 5.0]
    assert spread([0.0, 0.0, 0.0], 5.0, 0, 50) == [0.0, 5.0, 10.0]


def boxes(drawing: Drawing, kind: str) -> list[tuple[float, float, float, float]]:
    return [(b.px[0], b.px[1], b.px[0] + b.px[2], b.px[1] + b.px[3]) for b in drawing.boxes if b.kind == kind]


def test_twelve_labels_at_ends_do_not_lie_on_each_other() -> None:
    data = figure(*(f'curve of exp(-x*{13 - k}/6)*{k}/12 for x from 0 to 6, label "k = {k}", written end' for k in range(1, 13)))
    found = boxes(draw(data), "label")
    assert len(found) == 12
    for a, b in combinations(found, 2):
        assert min(a[3], b[3]) - max(a[1], b[1]) < 0.35 * (a[3] - a[1])


def test_a_turned_text_stands_beside_its_place_by_its_own_edge() -> None:
    data = figure("curve of exp(-(x - 3)^2*20) for x from 0 to 6", 'text "1210 Hz" at (3, 1), place above, turn 90', "y axis from 0 to 1.6")
    drawing = draw(data)
    (left, _, right, bottom) = boxes(drawing, "text")[0]
    x0, y0, wide, high = drawing.bounds_px
    place = x0 + wide / 2, y0 + high * (1 - 1 / 1.6)
    assert (left + right) / 2 == pytest.approx(place[0], abs=1.5)
    assert bottom <= place[1] + 0.5


# ---------------------------------------------------------------- numbers of axes


def written(places: list[float], **how: Any) -> tuple[list[str], str]:
    formatter = NumberFormatter(**how)
    formatter.set_locs(places)
    return [formatter(p).replace("\u2009", " ") for p in places], formatter.get_offset()


@pytest.mark.parametrize(
    ("places", "how", "said", "apart"),
    [
        ([101_400.0, 101_600.0], {}, ["101 400", "101 600"], False),
        ([100_000.0, 200_000.0], {}, ["1", "2"], True),
        ([100_000.0, 200_000.0], {"full": True}, ["100 000", "200 000"], False),
        ([2e-6, 4e-6], {"full": True}, ["0.000002", "0.000004"], False),
        ([2e-6, 4e-6], {}, ["2", "4"], True),
        ([0.0, 20_000.0, 40_000.0], {}, ["0", "20 000", "40 000"], False),
        ([-20_000.5, 0.0], {"comma": True}, ["−20 000,5", "0,0"], False),
        ([1000.0, 2000.0], {}, ["1000", "2000"], False),
        ([10.0, 1e6], {"each": True}, ["10", "1 000 000"], False),
    ],
)
def test_numbers_of_axes(places: list[float], how: dict[str, Any], said: list[str], apart: bool) -> None:
    found, offset = written(places, **how)
    assert found == said
    assert bool(offset) is apart


def test_numbers_plain_is_heard_on_linear_axes() -> None:
    lines = "curve of 40000*x for x from 0 to 6", "y axis, numbers plain"
    assert figure(*lines).panels[0].y.numbers == "full"
    assert figure(lines[0]).panels[0].y.numbers == "plain"


# ---------------------------------------------------------------- outlines, phases, dots


@given(st.integers(1, 9), st.integers(1, 9), st.randoms(use_true_random=False))
def test_an_outline_holds_the_covered_pixels_and_no_others(rows: int, columns: int, rng: Any) -> None:
    covered = np.array([[rng.random() < 0.5 for _ in range(columns)] for _ in range(rows)])
    path = _outline(covered, (0.0, float(columns), 0.0, float(rows)))
    inside = np.zeros_like(covered)
    for piece in path.to_polygons(closed_only=True):
        outline = MplPath(piece)
        for r in range(rows):
            for c in range(columns):
                inside[r, c] |= outline.contains_point((c + 0.5, rows - r - 0.5))
    assert (inside == covered).all()


def test_the_picture_of_a_surface_in_eps_is_cut_along_its_outline() -> None:
    eps = draw(figure("surface of sin(x)*cos(y) for x from -3 to 3, y from -3 to 3"), "eps", 100).data.decode("latin-1")
    picture = eps[eps.rindex("gsave", 0, eps.index("false 3 colorimage")) : eps.index("false 3 colorimage")]
    assert re.search(r"^c\d+$", picture, re.MULTILINE)


PHASE = "ph(w) = -atan(0.2*w/(1 - w^2)) when w < 1, otherwise -pi - atan(0.2*w/(1 - w^2))\n"


@pytest.mark.parametrize("window", ["w from 0.01 to 100", "w from 0 to 2", "w from 0.5 to 1"])
def test_a_phase_has_no_jump_where_it_only_lacks_a_value(window: str) -> None:
    outcome = run(f"{PHASE}figure a:\n    curve of ph(w)*180/pi for {window}\n")
    (drawn,) = outcome.figures
    assert not any("jump" in n.text for n in drawn.notes)
    assert drawn.data.panels[0].y.low > -200


@pytest.mark.parametrize("formula", ["atan(0.2/(1 - 1))", "1/(1/0)", "tanh(0^(-1))", "exp(-1/0)", "atan(Gamma(-2))", "atan(ln(0))"])
def test_what_is_divided_by_zero_has_no_value_whatever_doubles_say(formula: str) -> None:
    outcome = run(f"show {formula}")
    assert not outcome.findings
    assert outcome.reading.messages.has_errors()


@pytest.mark.parametrize(("dpi", "pixels"), [(150, (525, 366)), (600, (2102, 1464))])
def test_pictures_from_the_command_line_have_the_dots_that_are_asked_for(tmp_path: Path, dpi: int, pixels: tuple[int, int]) -> None:
    script = tmp_path / "a.lemma"
    script.write_text("figure a:\n    curve of x for x from 0 to 1\n    size 89 mm by 62 mm\n", encoding="utf-8")
    assert main(["run", str(script), "--out", str(tmp_path), "--formats", "png,tiff", "--dpi", str(dpi)]) == 0
    for name in ("a.png", "a.tiff"):
        with Image.open(tmp_path / name) as picture:
            assert picture.size == pixels
    with pytest.raises(SystemExit):
        main(["run", str(script), "--dpi", "72"])
