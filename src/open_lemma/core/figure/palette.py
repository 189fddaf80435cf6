"""Our inks and dashes. Neighbouring inks stay apart for readers with a colour-vision deficiency (tested), and each has
a dash of its own for print without colour."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Ink:
    name: str
    code: str
    grey_dash: tuple[float, ...]  # lengths on and off in line widths; empty is solid


INKS = (
    Ink("pond", "#2F4B9B", ()),
    Ink("brick", "#BC4B2C", (5.0, 2.2)),
    Ink("reed", "#1A9A9A", (1.2, 1.6)),
    Ink("straw", "#E0A526", (7.0, 1.8, 1.2, 1.8)),
    Ink("heather", "#724A56", (9.0, 3.0)),
    Ink("iris", "#9B73EB", (3.0, 1.5)),
    Ink("moss", "#3E6B2F", (6.0, 1.5, 1.2, 1.5, 1.2, 1.5)),
    Ink("clay", "#D98C7A", (2.2, 3.0)),
)
INK_NAMES = tuple(i.name for i in INKS)

# On and off lengths in line widths.
DASHES: dict[str, tuple[float, ...]] = {
    "solid": (),
    "dashed": (4.5, 2.4),
    "dotted": (1.0, 1.8),
    "dash-dotted": (5.0, 2.0, 1.0, 2.0),
}

# Numbers as colour: from deep water over heather and clay to sand. Even steps of CAM02-UCS, lightness rising all the way,
# so that it reads in grey print and for every kind of colour vision (tested).
DUSK = (
    "#15283F", "#123555", "#19436C", "#30507B", "#4A5885", "#605F90", "#746794", "#866D94", "#977493",
    "#A97A91", "#BA848E", "#C98E87", "#D79A7F", "#E5AA7E", "#EFBF8F", "#F6D4A7", "#F8E8C4",
)  # fmt: skip
# For numbers to both sides of zero: slate blue to ochre, equally far in lightness from the pale middle.
TWO_SIDED = (
    "#3C4B99", "#4D5F9D", "#6071A4", "#7483AC", "#8995B5", "#9FA8BF", "#B6BBCB", "#CDCFD8", "#E6E3E6",
    "#D9CDBC", "#C9B89D", "#BAA37E", "#AB8F61", "#9E7B45", "#906828", "#825506", "#744200",
)  # fmt: skip
# For angles and times of day: around and back, dark once and light once, in even steps.
AROUND = (
    "#4B6B94", "#66669C", "#8268A2", "#9E6DA4", "#B876A2", "#D1829B", "#E48F8E", "#EC9F7C", "#E2AE6C",
    "#C5B566", "#9FB46B", "#7AAC72", "#57A07A", "#3C9280", "#2E8386", "#35758D", "#4B6B94",
)  # fmt: skip
TONES = {"rising": DUSK, "two-sided": TWO_SIDED, "around": AROUND}
# Marks of data in the order of series, and fills that stay apart without colour.
MARKERS = ("dot", "ring", "square", "triangle", "diamond", "cross", "plus")
HATCH_WORDS = {
    "rising": "////", "dotted": "....", "falling": "\\\\\\\\", "crossed": "xxxx", "level": "----", "upright": "||||", "squared": "++++",
    "ringed": "oo",
}  # fmt: skip
HATCHES = tuple(HATCH_WORDS.values())

PAPER = "#FFFFFF"
LINE = "#20242C"
FAINT = "#DADBD6"
GREY = "#26282D"


# After the last ink they begin again: each further round has a dash of its own and thinner lines.
ROUND_DASHES: tuple[tuple[float, ...], ...] = ((), (4.5, 2.4), (1.0, 1.8), (5.0, 2.0, 1.0, 2.0))
_ROUND_WIDTH = 0.7


def ink(index: int) -> Ink:
    """The ink of the nth series, counted from 0."""
    return INKS[index % len(INKS)]


def round_dash(index: int) -> tuple[float, ...]:
    """The dash that sets the nth series apart from an earlier one of the same ink; solid in the first round."""
    return ROUND_DASHES[index // len(INKS) % len(ROUND_DASHES)]


def round_width(index: int) -> float:
    """How wide a line is drawn for the same reason, in shares of its width."""
    return float(_ROUND_WIDTH ** (index // len(INKS)))


def ink_named(name: str) -> Ink | None:
    return next((i for i in INKS if i.name == name), None)
