"""Figures as files: checked by an XML parser, pdffonts and pdfinfo, and byte for byte."""

from __future__ import annotations

import re
import struct
import subprocess
import sys
import xml.etree.ElementTree as ET
import zlib
from pathlib import Path

import numpy as np
import pytest

from open_lemma.core.figure.about import About
from open_lemma.core.figure.draw import BadText, check_text, draw
from open_lemma.core.figure.model import FigureData, from_text, to_text
from open_lemma.core.record.fingerprint import fingerprint
from open_lemma.core.run.execute.interpreter import run
from open_lemma.files.figures import Wanted, figure_file

DEMO = Path(__file__).resolve().parents[3] / "demo"
SVG = "{http://www.w3.org/2000/svg}"


def figure(body: str = "curve of sin(x) for x from 0 to 6", more: str = "") -> FigureData:
    outcome = run(f'figure test "A test":\n    {body}\n' + "".join(f"    {line}\n" for line in more.splitlines()))
    assert not outcome.failed, [m.text for m in outcome.reading.messages.items]
    return outcome.figures[0].data


def test_the_same_bytes_each_time_and_in_another_process(tmp_path: Path) -> None:
    script = DEMO / "tides-sill.lemma"
    text = script.read_text(encoding="utf-8")
    formats = ("svg", "pdf", "eps", "png", "tiff", "csv", "xlsx", "tex", "txt")

    def files(formats: tuple[str, ...]) -> dict[str, bytes]:
        made = [(f.data, About(None, None, f.data.name, fingerprint(text))) for f in run(text).figures]
        return {f"{d.name}.{fmt}": figure_file(d, Wanted(fmt), about) for d, about in made for fmt in formats}

    first = files(formats)
    again = files(("svg", "tiff", "csv"))
    assert again == {name: data for name, data in first.items() if name in again}
    command = [sys.executable, "-m", "open_lemma.cli", "run", str(script), "--out", str(tmp_path), "--formats", ",".join(formats)]
    subprocess.run(command, check=True, capture_output=True, env={"PYTHONHASHSEED": "7"})
    assert {name: (tmp_path / name).read_bytes() for name in first} == first


def test_svg_is_well_formed_at_print_size_without_dates_or_scripts() -> None:
    data = draw(figure(more="size 89 mm by 60 mm")).data
    root = ET.fromstring(data)
    assert root.tag == SVG + "svg"
    assert float(root.get("width", "").removesuffix("pt")) == pytest.approx(89 / 25.4 * 72, abs=1e-3)
    assert float(root.get("height", "").removesuffix("pt")) == pytest.approx(60 / 25.4 * 72, abs=1e-3)
    allowed = "svg desc metadata RDF Work type title creator Agent format defs style g path use clipPath rect".split()
    assert {node.tag.rpartition("}")[2] for node in root.iter()} <= set(allowed)
    assert not re.search(rb"20\d\d-\d\d-\d\d", data)
    assert b'id="s1"' in data


def test_pdf_has_its_size_and_only_embedded_fonts(tmp_path: Path) -> None:
    path = tmp_path / "test.pdf"
    path.write_bytes(draw(figure(more='x axis "depth $y$ / m"\ny axis "α in °"\nsize 120 mm by 82 mm'), "pdf").data)
    info = subprocess.run(["pdfinfo", path], capture_output=True, text=True, check=True).stdout
    width, height = (float(v) for v in re.findall(r"Page size:\s+([\d.]+) x ([\d.]+)", info)[0])
    assert (width, height) == pytest.approx((120 / 25.4 * 72, 82 / 25.4 * 72), abs=0.01)
    assert "CreationDate" not in info
    fonts = subprocess.run(["pdffonts", path], capture_output=True, text=True, check=True).stdout.splitlines()[2:]
    assert fonts
    for line in fonts:
        assert "STIX" in line
        embedded = line.split()[-5]
        assert embedded == "yes"


@pytest.mark.parametrize("dpi", [300, 600])
def test_png_has_its_dots_and_says_their_size(dpi: int) -> None:
    data = draw(figure(more="size 80 mm by 50 mm"), "png", dpi).data
    width, height = struct.unpack(">II", data[16:24])
    assert (width, height) == pytest.approx((80 / 25.4 * dpi, 50 / 25.4 * dpi), abs=1)
    chunk = data.index(b"pHYs")
    per_metre = struct.unpack(">I", data[chunk + 4 : chunk + 8])[0]
    assert per_metre == pytest.approx(dpi / 0.0254, rel=1e-3)
    assert zlib.crc32(data[chunk : chunk + 13]) == struct.unpack(">I", data[chunk + 13 : chunk + 17])[0]


def test_the_window_on_the_sheet_is_where_the_record_says() -> None:
    made = figure(
        "points of [(0, 0), (10, 10)], marker dot, size 4", 'x axis "x" from 0 to 10\ny axis "y" from 0 to 10\nsize 100 mm by 100 mm'
    )
    drawing = draw(made)
    left, top, width, height = drawing.bounds_px
    uses = [u for u in ET.fromstring(drawing.data).iter(SVG + "use") if "fill: #2f4b9b" in (u.get("style") or "").lower()]
    places = sorted((float(u.get("x", "")) * 96 / 72, float(u.get("y", "")) * 96 / 72) for u in uses)
    assert np.ravel(places) == pytest.approx([left, top + height, left + width, top], abs=0.01)


def test_grey_print_tells_series_apart_by_dash() -> None:
    made = figure("curve of [sin(x), cos(x), x/6, 1 - x/6] for x from 0 to 6")
    root = ET.fromstring(draw(made, "svg", grey=True).data)
    styles = [next(p.get("style") or "" for p in g.iter(SVG + "path")) for g in root.iter(SVG + "g") if (g.get("id") or "").startswith("s")]
    assert len(styles) == 4
    assert {re.search(r"stroke: (#\w+)", s).group(1) for s in styles} == {"#26282d"}  # type: ignore[union-attr]
    dashes = [m.group(1) if (m := re.search(r"stroke-dasharray: ([^;]+)", s)) else "solid" for s in styles]
    assert len(set(dashes)) == 4


def test_texts_and_ticks_stay_on_the_sheet() -> None:
    made = figure(
        'curve of 1e5*sin(x) for x from 0 to 6, label "a rather long label of a curve"',
        'x axis "a long text of the horizontal axis / s"\ny axis "a long text of the vertical axis / kg"\nsize 60 mm by 45 mm',
    )
    left, top, width, height = draw(made).bounds_px
    assert left > 20
    assert top >= 4
    assert left + width < 60 / 25.4 * 96
    assert top + height < 45 / 25.4 * 96 - 20


def test_a_legend_that_finds_no_room_stands_outside() -> None:
    lines = "\n".join(f'curve of sin(x + {k / 3:.2f}) + {k} for x from 0 to 6, label "series {k}"' for k in range(1, 10))
    crowded = figure('curve of sin(x) for x from 0 to 6, label "series 0"', lines)
    alone = figure('curve of sin(x) for x from 0 to 6, label "series 0"')
    assert draw(crowded).bounds_px[2] < draw(alone).bounds_px[2] - 40


def test_figures_go_through_text_unchanged() -> None:
    made = figure(
        "curve of tan(x) for x from 0 to 6, width 2, dash dotted, colour brick, opacity 0.5", "legend top left\ngridlines minor\nno frame"
    )
    again = from_text(to_text(made))
    assert to_text(again) == to_text(made)
    assert draw(again).data == draw(made).data
    assert np.isnan(made.series[0].y).any()


@pytest.mark.parametrize("text", ["$x^2$", "plain", "50 %", r"\$5", "$\\frac{a}{b}$ and $\\sqrt{x}$", "α ≤ 3", "", "$E(y)$ <b>&amp;</b>"])
def test_good_texts(text: str) -> None:
    check_text(text)


@pytest.mark.parametrize("text", ["$x", "$\\frac{1}$", "$\\nosuchthing$", "$x^$", "a $b$ $c"])
def test_bad_mathematics_is_refused_in_one_sentence(text: str) -> None:
    with pytest.raises(BadText) as refused:
        check_text(text)
    assert "\n" not in str(refused.value)
    assert "Exception" not in str(refused.value)
