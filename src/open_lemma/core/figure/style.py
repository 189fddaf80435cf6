"""The house style: STIX type, thin outward ticks, a frame open at top and right. One place, as settings of Matplotlib.

Sizes follow what journals commonly ask for (common practice, from memory): columns of 89 and 183 mm, type 5 to 8 pt and
lines 0.25 to 1.5 pt at print size, fonts embedded.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from .palette import FAINT, LINE


@dataclass(frozen=True, slots=True)
class Theme:
    """How large things are drawn for a purpose. Type in points; `weight` multiplies widths, `marks` the sizes of marks.

    size_mm   of the sheet, for one column and for two, where the script gives none
    """

    type_pt: float
    small_pt: float
    weight: float
    marks: float
    size_mm: tuple[float, float]
    wide_mm: tuple[float, float]


THEMES = {
    "paper": Theme(8.0, 7.0, 1.0, 1.0, (120.0, 82.0), (183.0, 105.0)),
    "print": Theme(7.5, 6.5, 0.9, 0.9, (89.0, 62.0), (183.0, 100.0)),
    "slide": Theme(18.0, 16.0, 2.2, 2.2, (254.0, 143.0), (254.0, 143.0)),
    "poster": Theme(24.0, 21.0, 3.0, 3.0, (300.0, 210.0), (420.0, 260.0)),
}
TYPE_PT = THEMES["paper"].type_pt
SMALL_PT = THEMES["paper"].small_pt


@lru_cache
def settings(style: str) -> dict[str, Any]:
    """Settings of Matplotlib for one of the styles."""
    d = THEMES[style]
    w = d.weight
    return {
        "font.family": ["STIXGeneral", "DejaVu Sans"],  # the second for letters that the first has not
        "mathtext.fontset": "stix",
        "font.size": d.type_pt,
        "axes.labelsize": d.type_pt,
        "axes.titlesize": d.type_pt,
        "xtick.labelsize": d.small_pt,
        "ytick.labelsize": d.small_pt,
        "legend.fontsize": d.small_pt,
        "legend.title_fontsize": d.small_pt,
        "axes.linewidth": 0.5 * w,
        "axes.edgecolor": LINE,
        "axes.labelcolor": LINE,
        "text.color": LINE,
        "xtick.color": LINE,
        "ytick.color": LINE,
        "xtick.direction": "out",
        "ytick.direction": "out",
        "xtick.major.width": 0.5 * w,
        "ytick.major.width": 0.5 * w,
        "xtick.minor.width": 0.35 * w,
        "ytick.minor.width": 0.35 * w,
        "xtick.major.size": 3.2 * w,
        "ytick.major.size": 3.2 * w,
        "xtick.minor.size": 1.8 * w,
        "ytick.minor.size": 1.8 * w,
        "xtick.major.pad": 2.6 * w,
        "ytick.major.pad": 2.6 * w,
        "axes.spines.top": False,
        "axes.spines.right": False,
        "axes.unicode_minus": True,
        "axes.formatter.use_mathtext": False,
        "axes.formatter.useoffset": False,
        "grid.color": FAINT,
        "grid.linewidth": 0.4 * w,
        "lines.solid_capstyle": "butt",
        "lines.dash_capstyle": "butt",
        "lines.solid_joinstyle": "round",
        "lines.dash_joinstyle": "round",
        "lines.scale_dashes": True,
        "hatch.linewidth": 0.4 * w,
        "path.simplify": False,  # the sampler has already left out what cannot be seen
        "svg.fonttype": "path",  # the same letters on every screen
        "svg.hashsalt": "open-lemma",
        "pdf.fonttype": 42,
        "ps.fonttype": 42,
        "figure.dpi": 72.0,
        "savefig.dpi": 72.0,
    }


SETTINGS = settings("paper")
