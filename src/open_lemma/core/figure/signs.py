"""Raised and lowered signs in texts, `m³ s⁻¹` and `h₀`, as the typesetter knows them: fonts have only some of their letters."""

from __future__ import annotations

import re
from dataclasses import replace

from .model import AxisSpec, FigureData, PanelData

_RAISED = dict(zip("⁰¹²³⁴⁵⁶⁷⁸⁹⁺⁻⁼⁽⁾ⁿⁱ", "0123456789+-=()ni", strict=True))
_LOWERED = dict(zip("₀₁₂₃₄₅₆₇₈₉₊₋₌₍₎", "0123456789+-=()", strict=True))
_RUN = re.compile(f"([{''.join(_RAISED)}]+)|([{''.join(_LOWERED)}]+)")
_PIECES = re.compile(r"(\$(?:\\.|[^$\\])*\$)")


def signs(text: str | None) -> str | None:
    """The text with runs of raised and lowered signs as mathematics; inside of mathematics they join it."""
    if text is None or not _RUN.search(text):
        return text

    def plain(run: re.Match[str]) -> str:
        raised, lowered = run.groups()
        return "^{" + "".join(_RAISED[s] for s in raised) + "}" if raised else "_{" + "".join(_LOWERED[s] for s in lowered) + "}"

    pieces = _PIECES.split(text)
    return "".join(_RUN.sub(plain, p) if p.startswith("$") and len(p) > 1 else _RUN.sub(lambda r: f"${plain(r)}$", p) for p in pieces)


def with_signs(figure: FigureData) -> FigureData:
    """The figure with all its texts ready for the typesetter."""
    return replace(figure, heading=signs(figure.heading), panels=[_panel(p) for p in figure.panels])


def _panel(panel: PanelData) -> PanelData:
    series = [replace(s, label=signs(s.label), text=signs(s.text)) if s.label or s.text else s for s in panel.series]
    legend = replace(panel.legend, title=signs(panel.legend.title)) if panel.legend is not None else None
    right = _axis(panel.right) if panel.right is not None else None
    colours = _axis(panel.colours) if panel.colours is not None else None
    z = _axis(panel.z) if panel.z is not None else None
    space = panel.space
    if space is not None:
        space = replace(space, things=[replace(t, label=signs(t.label), text=signs(t.text)) for t in space.things])
    return replace(
        panel, x=_axis(panel.x), y=_axis(panel.y), z=z, space=space, right=right, colours=colours, series=series, legend=legend,
        title=signs(panel.title), insets=[_panel(p) for p in panel.insets],
    )  # fmt: skip


def _axis(axis: AxisSpec) -> AxisSpec:
    names = None if axis.names is None else [signs(n) or "" for n in axis.names]
    return replace(axis, text=signs(axis.text), names=names)
