"""Every kind of drawn thing, in every theme: geometry against values, nothing on top of anything else, fonts, bytes."""

from __future__ import annotations

import fcntl
import io
import json
import os
import re
import subprocess
from itertools import combinations
from pathlib import Path

import numpy as np
import pytest
from colorspacious import cspace_convert
from matplotlib.ft2font import FT2Font
from PIL import Image

from open_lemma.core.figure import palette
from open_lemma.core.figure.dates import BadDates, date_ticks, since
from open_lemma.core.figure.draw import Drawing, draw
from open_lemma.core.figure.model import FigureData, from_text, to_text
from open_lemma.core.figure.signs import signs
from open_lemma.core.figure.style import THEMES
from open_lemma.core.run.execute.interpreter import read, run
from open_lemma.core.run.execute.selection import figure_names_of
from open_lemma.files.folder import tables_in

DEMO = Path(__file__).resolve().parents[3] / "demo"


def figure(*lines: str, before: str = "") -> FigureData:
    script = before + "figure a:\n" + "".join(f"    {line}\n" for line in lines)
    outcome = run(script)
    assert not outcome.failed, [m.text for m in outcome.reading.messages.items]
    return outcome.figures[0].data


def figure_names(script: str) -> list[str]:
    reading, _ = read(script)
    return list(figure_names_of(reading.script).values())


def figures_of_the_demo() -> dict[str, str]:
    found = {}
    for path in sorted(DEMO.glob("*.lemma")):
        outcome = run(path.read_text(encoding="utf-8"), tables=tables_in(DEMO))
        assert not outcome.failed, path
        found |= {f"{path.stem}-{d.data.name}": to_text(d.data) for d in outcome.figures}
    return found


NAMES = [f"{path.stem}-{name}" for path in sorted(DEMO.glob("*.lemma")) for name in figure_names(path.read_text(encoding="utf-8"))]
# Pictures of surfaces take a second each: of the gallery a few stand for the rest where every format or style is gone through.
FEW = [n for n in NAMES if not n.startswith("gallery") or n.endswith(("-monkey", "-spring"))]


@pytest.fixture(scope="session")
def demos(tmp_path_factory: pytest.TempPathFactory) -> dict[str, FigureData]:
    """The figures of the demo by their names; worked out once for all processes of the tests."""
    folder = tmp_path_factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:
        folder = folder.parent
    with (folder / "demo.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        kept = folder / "demo.json"
        if not kept.exists():
            kept.write_text(json.dumps(figures_of_the_demo()), encoding="utf-8")
        return {name: from_text(text) for name, text in json.loads(kept.read_text(encoding="utf-8")).items()}


def test_there_are_the_common_kinds_of_figure(demos: dict[str, FigureData]) -> None:
    """At least fifteen figures as reports, theses and textbooks have them, and each kind of drawn thing among them."""
    assert list(demos) == NAMES
    assert len(NAMES) >= 15
    assert {s.kind for d in demos.values() for s in d.series} == {
        "curve",
        "points",
        "line",
        "bars",
        "band",
        "rule",
        "text",
        "mark",
        "contours",
    }
    assert any(p.space for d in demos.values() for p in d.panels)
    assert any(len(d.panels) > 1 for d in demos.values())
    assert any(p.right for d in demos.values() for p in d.panels)
    assert any(p.colours for d in demos.values() for p in d.panels)
    assert any(p.insets for d in demos.values() for p in d.panels)


def boxes(drawing: Drawing) -> list[tuple[str, tuple[float, float, float, float]]]:
    return [(b.kind, b.px) for b in drawing.boxes]


def covered(a: tuple[float, float, float, float], b: tuple[float, float, float, float]) -> float:
    """Area that two boxes share, in px²."""
    wide = min(a[0] + a[2], b[0] + b[2]) - max(a[0], b[0])
    high = min(a[1] + a[3], b[1] + b[3]) - max(a[1], b[1])
    return max(wide, 0.0) * max(high, 0.0)


STYLED = [(n, s) for s in ("paper", "print", "slide") for n in (NAMES if s == "paper" else FEW)]


@pytest.mark.parametrize(("name", "style"), STYLED, ids=[f"{s}-{n}" for n, s in STYLED])
def test_no_text_stands_on_another_or_leaves_the_sheet(demos: dict[str, FigureData], name: str, style: str) -> None:
    other = from_text(to_text(demos[name]))
    if style != "paper":
        other.style = style
        if style == "slide":
            other.width_mm, other.height_mm = other.width_mm * 2.2, other.height_mm * 2.2
    drawing = draw(other, screen=True)
    if style == "paper" and name in FEW:
        assert drawing.data == draw(from_text(to_text(demos[name])), screen=True).data  # the same file each time
    width, height = other.width_mm * 96 / 25.4, other.height_mm * 96 / 25.4
    picture = np.asarray(Image.open(io.BytesIO(draw(other, "png", 96).data)).convert("L"))
    for edge in (picture[:2], picture[-2:], picture[:, :2], picture[:, -2:]):
        assert edge.min() > 250, name  # the rim of the sheet is white
    texts = [(k, b) for k, b in boxes(drawing) if k in ("legend", "title", "panel title", "text", "label", "mark") or k.endswith("axis")]
    for kind, (left, top, wide, high) in texts:
        assert left > -1.5, (name, kind)
        assert top > -1.5, (name, kind)
        assert left + wide < width + 1.5, (name, kind)
        assert top + high < height + 1.5, (name, kind)
    # A text that the script puts somewhere stands where it says; all else finds its own place.
    placed = [(k, b) for k, b in texts if k != "text"]
    for (first, a), (second, b) in combinations(placed, 2):
        if {first, second} == {"label"}:
            continue  # turned labels have large boxes; that they keep apart is tested along their lines
        axes = first.endswith("axis") and second.endswith("axis")
        assert covered(a, b) <= (30.0 if axes or "label" in (first, second) else 4.0), (name, first, second)


@pytest.mark.parametrize(("k", "name"), list(enumerate(FEW)), ids=FEW)
def test_a_figure_is_the_same_file_each_time(demos: dict[str, FigureData], k: int, name: str) -> None:
    # Each in one format, in turn; all formats of one folio: test_draw.py, of surfaces: test_space.py.
    fmt = ("pdf", "eps", "png", "tiff")[k % 4]
    first, second = (draw(from_text(to_text(demos[name])), fmt, 150, screen=True).data for _ in range(2))  # type: ignore[arg-type]
    assert first == second


def test_pictures_have_their_size_and_resolution() -> None:
    data = figure("curve of sin(x) for x from 0 to 6", "size 89 mm by 60 mm")
    for fmt in ("png", "tiff"):
        for dpi in (300, 600, 1200):
            with Image.open(io.BytesIO(draw(data, fmt, dpi).data)) as picture:  # type: ignore[arg-type]
                assert abs(picture.size[0] - 89 / 25.4 * dpi) <= 1
                assert abs(picture.size[1] - 60 / 25.4 * dpi) <= 1
                assert picture.info["dpi"][0] == pytest.approx(dpi, abs=0.1)


def test_fonts_are_embedded(demos: dict[str, FigureData], tmp_path: Path) -> None:
    for name, data in list(demos.items())[:6]:
        path = tmp_path / "a.pdf"
        path.write_bytes(draw(data, "pdf").data)
        lines = subprocess.run(["pdffonts", str(path)], capture_output=True, text=True, check=True).stdout.splitlines()[2:]
        assert lines, name
        assert all(re.search(r"\syes (yes|no) (yes|no)\s", line) for line in lines), lines
    eps = draw(demos[NAMES[0]], "eps").data
    assert b"%%BoundingBox" in eps
    assert b"/FontType 42" in eps
    assert b"CreationDate" not in eps


def path_points(svg: bytes, gid: str) -> np.ndarray:
    """Places of a drawn line, in points from the left and bottom of the sheet."""
    text = svg.decode()
    group = re.search(rf'<g id="{gid}">\s*<path d="([^"]*)"', text)
    assert group is not None
    numbers = np.array([float(v) for v in re.findall(r"-?\d+\.?\d*", group.group(1))]).reshape(-1, 2)
    high = float(re.search(r'viewBox="0 0 [\d.]+ ([\d.]+)"', text).group(1))  # type: ignore[union-attr]
    return np.column_stack([numbers[:, 0], high - numbers[:, 1]])


@pytest.mark.parametrize(
    ("axes", "x_of", "y_of"),
    [
        (("x axis from 1 to 10", "y axis from 1 to 100"), lambda x: (x - 1) / 9, lambda y: (y - 1) / 99),
        (("x axis from 10 to 1", "y axis from 1 to 100"), lambda x: (10 - x) / 9, lambda y: (y - 1) / 99),
        (("x axis from 1 to 10", "y axis from 1 to 100, scale logarithmic"), lambda x: (x - 1) / 9, lambda y: np.log10(y) / 2),
        (("x axis from 1 to 10, direction reversed", "y axis from 1 to 100, scale signed-logarithmic, threshold 5"),
         lambda x: (10 - x) / 9, lambda y: (np.arcsinh(y / 5) - np.arcsinh(0.2)) / (np.arcsinh(20) - np.arcsinh(0.2))),
    ],
)  # fmt: skip
def test_what_is_drawn_lies_where_its_values_say(axes: tuple[str, str], x_of, y_of) -> None:  # type: ignore[no-untyped-def]
    data = figure("curve of x^2 for x from 1 to 10", *axes)
    drawing = draw(data)
    left, top, wide, high = (v * 0.75 for v in drawing.bounds_px)
    bottom = data.height_mm / 25.4 * 72 - top - high
    series = data.series[0]
    points = path_points(drawing.data, "s1")
    assert np.allclose(points[:, 0], left + x_of(series.x) * wide, atol=0.02)
    assert np.allclose(points[:, 1], bottom + y_of(series.y) * high, atol=0.02)


def test_true_scale_is_true() -> None:
    data = figure("curve of (3*cos(t), 2*sin(t)) for t from 0 to 2pi", "true scale")
    drawing = draw(data)
    points = path_points(drawing.data, "s1")
    wide, high = np.ptp(points, axis=0)
    assert wide / high == pytest.approx(1.5, rel=1e-3)
    sized = figure("curve of (3*cos(t), 2*sin(t)) for t from 0 to 2pi", "true scale", "size 100 mm by 100 mm")
    wide, high = np.ptp(path_points(draw(sized).data, "s1"), axis=0)
    assert wide / high == pytest.approx(1.5, rel=1e-3)
    assert sized.height_mm == 100


def test_error_bars_reach_as_far_as_they_say() -> None:
    data = figure("points of [2, 4] against [1, 2], errors ([0.1, 0.2], [0.5, 1])", "x axis from 0 to 3", "y axis from 0 to 6")
    svg = draw(data).data.decode()
    pieces = re.findall(r'<g id="s1-errors">(.*?)</g>', svg, re.S)
    lines = [[float(v) for v in re.findall(r"-?\d+\.?\d*", d)] for g in pieces for d in re.findall(r'<path d="(M[^"]*)" clip', g)]
    lengths = sorted(round(max(abs(x[2] - x[0]), abs(x[3] - x[1])), 1) for x in lines if len(x) == 4)
    _, _, wide, high = (v * 0.75 for v in draw(data).bounds_px)
    wanted = sorted(round(v, 1) for v in (0.2 / 3 * wide, 0.4 / 3 * wide, 1 / 6 * high, 2 / 6 * high))
    assert lengths == pytest.approx(wanted, abs=0.15)


def test_bars_stand_beside_each_other_on_their_names() -> None:
    data = figure('bars of [1, 2] against ["a", "b"], label "p"', 'bars of [3, 4] against ["a", "b"], label "q"')
    p, q = data.series
    assert data.panels[0].x.names == ["a", "b"]
    assert p.x.tolist() == pytest.approx([0.8, 1.8])
    assert q.x.tolist() == pytest.approx([1.2, 2.2])
    assert p.spread == pytest.approx(0.4)
    assert data.panels[0].y.low == 0


def test_bands_areas_and_tangents() -> None:
    data = figure("band of x and x + 1 for x from 0 to 2", "curve of x^2 for x from 0 to 2, fill true", "tangent of x^2 for x, at 1")
    band, area, tangent = data.series
    assert band.y2 is not None
    assert np.allclose(band.y2 - band.y, 1)
    assert area.fill
    assert np.allclose(tangent.y, 2 * tangent.x - 1)
    assert tangent.x.min() == 0
    assert tangent.x.max() == 2
    assert b'id="s2-fill"' in draw(data).data


def test_findings_are_marked_with_their_numbers() -> None:
    data = figure("curve of x^2 - 2 for x from -2 to 2", "mark r", before="show 1\nr = roots of x^2 - 2 for x from -2 to 2\n")
    mark = data.series[1]
    assert mark.text == "2"
    assert mark.x.tolist() == pytest.approx([-(2**0.5), 2**0.5])
    marks = [b for b in draw(data).boxes if b.kind == "mark"]
    assert len(marks) == 2
    assert covered(marks[0].px, marks[1].px) == 0


def test_many_badges_do_not_collide() -> None:
    data = figure("curve of sin(x) for x from 0 to 60", "mark r", before="r = roots of sin(x) for x from 0 to 60\n")
    marks = [b.px for b in draw(data).boxes if b.kind == "mark"]
    assert len(marks) == 20
    assert all(covered(a, b) < 1 for a, b in combinations(marks, 2))


def test_shared_axes_have_one_window() -> None:
    script = (
        "figure a, 2 by 1:\n    panel:\n        curve of x for x from 0 to 5\n    panel:\n        points of [1, 2] against [3, 9]\n"
        "    shared x axis\n"
    )
    data = run(script).figures[0].data
    assert data.panels[0].x.low == data.panels[1].x.low == 0
    assert data.panels[0].x.high == data.panels[1].x.high > 9
    first, second = draw(data).panels
    assert first.bounds_px[0] == second.bounds_px[0]
    assert first.bounds_px[2] == second.bounds_px[2]


def test_an_inset_shows_what_its_panel_shows() -> None:
    data = figure("curve of sin(50x)/50 + x for x from 0 to 10", "inset top left:", "    x axis from 4 to 4.2")
    inset = data.panels[0].insets[0]
    assert (inset.x.low, inset.x.high) == (4, 4.2)
    assert inset.series[0].x.min() == 4
    assert inset.y.low > 3.9
    outer, inner = draw(data).panels
    assert inner.inset
    assert covered(outer.bounds_px, inner.bounds_px) == pytest.approx(inner.bounds_px[2] * inner.bounds_px[3], rel=1e-6)


def test_a_second_axis_has_its_own_scale() -> None:
    data = figure("curve of x for x from 0 to 1", "curve of 1000x for x from 0 to 1, axis right", 'right axis "many" from 0 to 1200')
    panel = data.panels[0]
    assert panel.y.high < 2
    assert panel.right is not None
    assert panel.right.high == 1200


def test_what_vanishes_is_said_with_a_way_out() -> None:
    script = 'figure a:\n    curve of 1000*x for x from 0 to 1\n    curve of sin(x) for x from 0 to 1, label "small"\n'
    found = next(m for m in run(script).reading.messages.as_records() if m["code"] == "vanished")
    assert (found["line"], found["severity"]) == (3, "warning")
    fixed = script.replace('"small"', '"small", axis right')
    assert found["fix"]["edits"][0]["text"] == ", axis right"
    assert not [m for m in run(fixed).reading.messages.as_records() if m["code"] == "vanished"]
    level = run("figure a:\n    curve of 1000*x for x from 0 to 1\n    curve of 2 for x from 0 to 1\n").reading.messages.as_records()
    assert not [m for m in level if m["code"] == "vanished"]  # what is level by itself has not vanished


NUMBERS = [
    ("x axis, numbers pi", "0 to 2pi", ["0", "π/2", "π", "3π/2", "2π"]),
    ("x axis, numbers degrees", "0 to pi", ["0°", "30°", "60°", "90°", "120°", "150°", "180°"]),
    ("x axis, numbers percent", "0 to 1", ["0\u2009%", "20\u2009%", "40\u2009%", "60\u2009%", "80\u2009%", "100\u2009%"]),
    ("x axis, ticks [0, 1, 5]", "0 to 5", ["0", "1", "5"]),
    ("x axis, decimals 2", "0 to 4", ["0.00", "1.00", "2.00", "3.00", "4.00"]),
    ('x axis, dates "days since 2031-02-26"', "0 to 4", ["26 Feb\n2031", "27 Feb", "28 Feb", "1 Mar", "2 Mar"]),
    ('x axis, dates "hours since 2031-05-02 18:00"', "0 to 12",
     ["18:00\n2 May 2031", "20:00", "22:00", "00:00\n3 May", "02:00", "04:00", "06:00"]),
]  # fmt: skip


@pytest.mark.parametrize(("axis", "span", "wanted"), NUMBERS, ids=[a for a, _, _ in NUMBERS])
def test_numbers_of_axes(axis: str, span: str, wanted: list[str]) -> None:
    from matplotlib.figure import Figure

    from open_lemma.core.figure.axes import prepare

    low, high = span.split(" to ")
    data = figure(f"curve of x for x from {low} to {high}", axis)
    axes = Figure().add_subplot()
    prepare(axes, "x", data.panels[0].x, 320.0, False)
    places = [p for p in axes.xaxis.get_majorticklocs() if data.panels[0].x.low - 1e-9 <= p <= data.panels[0].x.high + 1e-9]
    assert axes.xaxis.get_major_formatter().format_ticks(places) == wanted


def test_dates() -> None:
    assert since("hours since 2031-05-02 06:00")[0] == 3600
    for bad in ("hours after 2031-05-02", "hours since 2031-13-02", "fortnights since 2031-01-01", "days since 2031-02-29"):
        with pytest.raises(BadDates):
            since(bad)
    places, names = date_ticks("days since 2030-01-01", 0, 1000, 6)
    assert names[0].startswith("Jan")
    assert places[0] == 0
    years = date_ticks("days since 2000-01-01", 0, 3653, 6)
    assert years[1][0] == "2000"


def test_a_decimal_comma() -> None:
    points, comma = (draw(figure("curve of x for x from 0 to 1", *more)).data for more in ((), ("decimal comma",)))
    assert points != comma


def test_raised_signs_are_typeset() -> None:
    assert signs("m³ s⁻¹") == "m$^{3}$ s$^{-1}$"
    assert signs("$x$ in h₀") == "$x$ in h$_{0}$"
    assert signs("plain") == "plain"
    assert signs("$a²$") == "$a^{2}$"
    font = FT2Font(str(Path(__import__("matplotlib").get_data_path()) / "fonts/ttf/STIXGeneral.ttf"))
    assert font.get_char_index(ord("⁻")) == 0  # the reason for all this


def test_the_scale_of_colours_reads_for_everyone() -> None:
    """Lightness rises all the way, and equal steps look about equal, as seen by everyone (Machado et al. 2009)."""
    rgb = np.array([[int(c[i : i + 2], 16) / 255 for i in (1, 3, 5)] for c in palette.DUSK])
    lightness = cspace_convert(rgb, "sRGB1", "CAM02-UCS")[:, 0]
    assert (np.diff(lightness) > 2.5).all()
    for kind in ("protanomaly", "deuteranomaly", "tritanomaly"):
        seen = np.clip(cspace_convert(rgb, {"name": "sRGB1+CVD", "cvd_type": kind, "severity": 100}, "sRGB1"), 0, 1)
        steps = np.linalg.norm(np.diff(cspace_convert(seen, "sRGB1", "CAM02-UCS"), axis=0), axis=1)
        assert steps.max() / steps.min() < 2.6, kind


def _uniform(codes: tuple[str, ...]) -> np.ndarray:
    return cspace_convert(np.array([[int(c[i : i + 2], 16) / 255 for i in (1, 3, 5)] for c in codes]), "sRGB1", "CAM02-UCS")


def test_tones_of_two_sides_are_equally_far_from_their_middle() -> None:
    jab = _uniform(palette.TWO_SIDED)
    assert np.abs(jab[:, 0] - jab[::-1, 0]).max() < 1.5  # in grey print both sides darken alike
    assert (np.diff(jab[:9, 0]) > 2.5).all()
    steps = np.linalg.norm(np.diff(jab, axis=0), axis=1)
    assert steps.max() / steps.min() < 1.5
    rgb = np.array([[int(c[i : i + 2], 16) / 255 for i in (1, 3, 5)] for c in (palette.TWO_SIDED[2], palette.TWO_SIDED[-3])])
    for kind in ("protanomaly", "deuteranomaly", "tritanomaly"):
        seen = np.clip(cspace_convert(rgb, {"name": "sRGB1+CVD", "cvd_type": kind, "severity": 100}, "sRGB1"), 0, 1)
        away = np.linalg.norm(np.diff(cspace_convert(seen, "sRGB1", "CAM02-UCS"), axis=0))
        assert away > 20, kind  # the two sides stay two


def test_tones_that_go_around_meet_in_even_steps() -> None:
    jab = _uniform(palette.AROUND)
    assert palette.AROUND[0] == palette.AROUND[-1]
    steps = np.linalg.norm(np.diff(jab, axis=0), axis=1)
    assert steps.max() / steps.min() < 1.1
    assert np.ptp(jab[:, 0]) > 25


def test_two_sides_part_at_zero() -> None:
    data = figure("contours of x^3 + 2 for x from -2 to 1, y from 0 to 1, fill true", "colour axis, tones two-sided")
    colours = data.panels[0].colours
    assert colours is not None
    assert colours.low == -colours.high
    assert colours.tones == "two-sided"


def test_without_colour_nothing_is_coloured_and_all_stays_apart() -> None:
    labels = ", ".join(f'"{k}"' for k in range(6))
    data = figure(f"curve of [x, 2x, 3x, 4x, 5x, 6x] for x from 0 to 1, label [{labels}]", 'bars of [1, 2] against [0.2, 0.6], label "b"')
    picture = np.asarray(Image.open(io.BytesIO(draw(data, "png", 150, grey=True).data)).convert("RGB")).astype(int)
    assert np.abs(picture - picture.mean(axis=2, keepdims=True)).max() < 8
    svg = draw(data, grey=True).data.decode()
    dashes = {re.search(rf'<g id="s{k}">.*?stroke-dasharray: ([\d., ]+)', svg, re.S).group(1) for k in range(2, 7)}  # type: ignore[union-attr]
    assert len(dashes) == 5


def test_very_many_points_look_the_same_when_thinned() -> None:
    """A line of 10⁵ places, against the same one with none left out: no pixel at 150 dpi is far from what it was."""
    import open_lemma.core.figure.things as things

    xs = np.linspace(0, 100, 100_000)
    data = figure("line of [0, 1] against [0, 100]", "y axis from -2 to 2")
    data.series[0].x, data.series[0].y = xs, np.sin(xs) + 0.3 * np.sin(171 * xs)
    thin = draw(data, "png", 150).data
    limit, things._MANY_ON_LINE = things._MANY_ON_LINE, 10**9
    try:
        whole = draw(data, "png", 150).data
    finally:
        things._MANY_ON_LINE = limit
    a, b = (np.asarray(Image.open(io.BytesIO(p)).convert("L")).astype(int) for p in (thin, whole))
    assert (np.abs(a - b) > 48).mean() < 2e-4
    assert len(draw(data).data) < 2_500_000


def test_descriptions_say_what_is_drawn() -> None:
    lines = 'curve of x^2 for x from -1 to 2, label "square"', 'x axis "way / m"', "points of [1] against [1], axis right"
    said = figure(*lines).description()
    assert "way / m from -1 to 2" in said
    assert "a curve “square” from 1 to 4 between 0 and 4 with 1 turning point" in said
    assert "1 point on the right axis" in said
    assert "rising from 0 to 1" in figure("curve of x for x from 0 to 1").description()


def test_a_drawing_describes_itself() -> None:
    data = figure('curve of x^2 for x from 0 to 1, label "a < b & c"')
    svg = draw(data).data.decode()
    assert "<desc>Figure a. Horizontal axis x from 0 to 1;" in svg
    assert "“a &lt; b &amp; c” rising from 0 to 1" in svg


@pytest.mark.parametrize("style", ["paper", "print"])
def test_print_is_as_journals_commonly_ask(style: str) -> None:
    """Common practice, from memory: columns of 89 and 183 mm, type of 5 to 8 pt, lines of 0.25 to 1.5 pt at print size."""
    theme = THEMES[style]
    assert 5 <= theme.small_pt <= theme.type_pt <= 8
    if style == "print":
        assert (theme.size_mm[0], theme.wide_mm[0]) == (89, 183)
    data = figure("curve of x for x from 0 to 1", "curve of x^2 for x from 0 to 1", "gridlines minor", "mark (0.5, 0.25)",
                  "line horizontal at 0.5", f"style {style}" if style != "paper" else "no legend")  # fmt: skip
    widths = [float(w) for w in re.findall(r"stroke-width: ([\d.]+)", draw(data).data.decode())]
    assert min(widths) >= 0.25
    assert max(widths) <= 1.5
