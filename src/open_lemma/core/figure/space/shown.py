"""A figure's windows on space as a screen needs them to turn them by hand."""

from __future__ import annotations

from typing import Any

import numpy as np
from matplotlib.colors import to_hex

from ..model import AxisSpec, FigureData, plain
from ..things import colour_map
from .scene import packed
from .window import solid_colour

MAP_COLOURS = 64


def shown(figure: FigureData) -> dict[str, Any]:
    """`windows`: by the number of each window on space its axes, things with their shapes, and the scale of colours with
    `map`, its colours from low to high."""
    windows = {}
    for k, window in enumerate(figure.windows()):
        if window.space is None or window.z is None:
            continue
        scene = packed(window.space)
        for thing, solid in zip(scene["things"], window.space.things, strict=True):
            thing["colour"] = solid_colour(solid)
            thing["label"], thing["text"] = plain(solid.label) or None, plain(solid.text) or None
            for key in ("formula", "variables", "marker", "dash", "side", "place"):
                del thing[key]
        axes = [_axis(a) for a in (window.x, window.y, window.z)]
        colours = None if window.colours is None else {**_axis(window.colours), "scale": window.colours.scale}
        tones = colour_map(window.colours.tones if window.colours is not None else "rising")
        shown_map = [to_hex(c) for c in tones(np.linspace(0, 1, MAP_COLOURS))]
        windows[str(k)] = {**scene, "axes": axes, "colours": colours, "map": shown_map}
    return {"windows": windows}


def _axis(spec: AxisSpec) -> dict[str, Any]:
    return {"low": spec.low, "high": spec.high, "text": plain(spec.text), "threshold": spec.threshold}
