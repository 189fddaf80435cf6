"""The house style: STIX type, thin outward ticks, a frame open at top and right. One place, as settings of Matplotlib.

Sizes follow what journals commonly ask for (common practice, from memory): type 5 to 8 pt and lines 0.25 to 1.5 pt at
print size, fonts embedded.
"""

from __future__ import annotations

from typing import Any

from .palette import FAINT, LINE

TYPE_PT = 8.0
SMALL_PT = 7.0

SETTINGS: dict[str, Any] = {
    "font.family": "STIXGeneral",
    "mathtext.fontset": "stix",
    "font.size": TYPE_PT,
    "axes.labelsize": TYPE_PT,
    "xtick.labelsize": SMALL_PT,
    "ytick.labelsize": SMALL_PT,
    "legend.fontsize": SMALL_PT,
    "axes.linewidth": 0.5,
    "axes.edgecolor": LINE,
    "axes.labelcolor": LINE,
    "text.color": LINE,
    "xtick.color": LINE,
    "ytick.color": LINE,
    "xtick.direction": "out",
    "ytick.direction": "out",
    "xtick.major.width": 0.5,
    "ytick.major.width": 0.5,
    "xtick.minor.width": 0.35,
    "ytick.minor.width": 0.35,
    "xtick.major.size": 3.2,
    "ytick.major.size": 3.2,
    "xtick.minor.size": 1.8,
    "ytick.minor.size": 1.8,
    "xtick.major.pad": 2.6,
    "ytick.major.pad": 2.6,
    "axes.spines.top": False,
    "axes.spines.right": False,
    "axes.unicode_minus": True,
    "axes.formatter.use_mathtext": False,
    "axes.formatter.useoffset": False,
    "grid.color": FAINT,
    "grid.linewidth": 0.4,
    "lines.solid_capstyle": "butt",
    "lines.dash_capstyle": "butt",
    "lines.solid_joinstyle": "round",
    "lines.dash_joinstyle": "round",
    "lines.scale_dashes": True,
    "path.simplify": False,  # the sampler has already left out what cannot be seen
    "svg.fonttype": "path",  # the same letters on every screen
    "svg.hashsalt": "open-lemma",
    "pdf.fonttype": 42,
    "figure.dpi": 72.0,
}
