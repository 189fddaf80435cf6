"""Inks checked with colorspacious: apart for every reader, readable on paper, and ours."""

from __future__ import annotations

from itertools import combinations, pairwise

import numpy as np
import pytest
from colorspacious import cspace_convert, deltaE

from open_lemma.core.figure.colours import colour_code, known_names
from open_lemma.core.figure.palette import INKS, PAPER, round_dash, round_width

# Simulations of G. M. Machado, M. M. Oliveira, L. A. F. Fernandes, IEEE Trans. Vis. Comput. Graph. 15 (2009) 1291-1298.
DEFICIENCIES = ["deuteranomaly", "protanomaly", "tritanomaly"]


def rgb(code: str) -> np.ndarray:
    return np.array([int(code[i : i + 2], 16) / 255 for i in (1, 3, 5)])


def seen(code: str, deficiency: str | None) -> np.ndarray:
    if deficiency is None:
        return rgb(code)
    space = {"name": "sRGB1+CVD", "cvd_type": deficiency, "severity": 100}
    return np.clip(cspace_convert(rgb(code), space, "sRGB1"), 0, 1)


@pytest.mark.parametrize("deficiency", [None, *DEFICIENCIES])
def test_the_first_four_inks_stay_apart(deficiency: str | None) -> None:
    for a, b in combinations(INKS[:4], 2):
        assert deltaE(seen(a.code, deficiency), seen(b.code, deficiency), input_space="sRGB1") > 15, (a.name, b.name)


@pytest.mark.parametrize("deficiency", [None, *DEFICIENCIES])
def test_neighbouring_inks_stay_apart(deficiency: str | None) -> None:
    for a, b in pairwise(INKS):
        assert deltaE(seen(a.code, deficiency), seen(b.code, deficiency), input_space="sRGB1") > 12, (a.name, b.name)


def test_every_ink_stands_out_from_paper() -> None:
    paper = cspace_convert(rgb(PAPER), "sRGB1", "CIELab")[0]
    for ink in INKS:
        assert paper - cspace_convert(rgb(ink.code), "sRGB1", "CIELab")[0] > 25, ink.name


def test_every_ink_has_a_dash_of_its_own_for_grey_print() -> None:
    assert len({ink.grey_dash for ink in INKS}) == len(INKS)


def test_the_inks_of_the_contract_come_first() -> None:
    assert [ink.code for ink in INKS[:6]] == ["#2F4B9B", "#BC4B2C", "#1A9A9A", "#E0A526", "#724A56", "#9B73EB"]


def test_a_second_round_differs_from_the_first() -> None:
    assert round_dash(0) != round_dash(len(INKS))
    assert round_width(len(INKS)) < round_width(0)


def test_names_of_colours() -> None:
    assert colour_code("brick") == "#BC4B2C"
    assert colour_code("#aB12cd") == "#AB12CD"
    assert colour_code("rebeccapurple") == "#663399"  # CSS Color Module Level 4, named colours
    assert colour_code("nothing") is None
    assert colour_code("#12") is None
    assert {ink.name for ink in INKS} <= set(known_names())
