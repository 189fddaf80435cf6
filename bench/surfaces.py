"""Surfaces: time to the first picture, a printed figure at 600 dots an inch, its size, memory; ratios to Matplotlib's own
triangles in space, drawn in the same run.

Run: python -m bench.surfaces
"""

from __future__ import annotations

import io
import resource
import time
from typing import Any

import matplotlib
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure

from open_lemma.core.figure.draw import draw
from open_lemma.core.run.execute.interpreter import run

SCRIPTS = {
    "explicit": "surface of sin(1.3x)*cos(y) + 0.15x*y for x from -3 to 3, y from -3 to 3, levels 12",
    "implicit, own box": "surface of (sqrt(x^2 + y^2) - 2)^2 + z^2 = 0.64, colour straw",
    "implicit, three fold": (
        "surface of sin(x)*cos(y) + sin(y)*cos(z) + sin(z)*cos(x) = 0 for x from -4 to 4, y from -4 to 4, z from -4 to 4"
    ),
    "parametric": "surface of ((2 + 0.4cos(v))*cos(u), (2 + 0.4cos(v))*sin(u), 0.4sin(v) + 0.3u) for u from 0 to 4pi, v from 0 to 2pi",
    "two that meet": (
        "figure a:\n    surface of x^2 + y^2 + z^2 = 4 for x from -2.1 to 2.1, y from -2.1 to 2.1, z from -2.1 to 2.1, opacity 0.5\n"
        "    surface of (x - 1)^2 + y^2 = 1 for x from -2.1 to 2.1, y from -2.1 to 2.1, z from -2.1 to 2.1"
    ),
    "level lines": "contours of sin(1.3x)*cos(y) + 0.15x*y for x from -3 to 3, y from -3 to 3, levels 12",
}


def timed(work: Any) -> tuple[float, Any]:
    began = time.perf_counter()
    found = work()
    return time.perf_counter() - began, found


def theirs(shape: Any) -> float:
    """The same triangles by the general library's painter in space, as a picture at 600 dots an inch."""
    with matplotlib.rc_context({"figure.dpi": 600}):
        sheet = Figure(figsize=(120 / 25.4, 82 / 25.4))
        FigureCanvasAgg(sheet)
        axes = sheet.add_subplot(projection="3d")
        x, y, z = shape.vertices.T
        axes.plot_trisurf(x, y, z, triangles=shape.triangles)
        return timed(lambda: sheet.savefig(io.BytesIO(), format="png", dpi=600))[0]


def main() -> None:
    for script in SCRIPTS.values():
        draw(run(script).figures[0].data, screen=True)  # compiled once, as the server has it
    for name, script in SCRIPTS.items():
        worked, outcome = timed(lambda s=script: run(s))
        data = outcome.figures[0].data
        first, _ = timed(lambda d=data: draw(d, screen=True))
        printed, drawing = timed(lambda d=data: draw(d, "pdf"))
        said = f"{name:22s} worked out {worked:.2f} s, first picture after {worked + first:.2f} s, PDF at 600 dpi {printed:.2f} s"
        said += f", {len(drawing.data) / 1e6:.2f} MB"
        space = data.panels[0].space
        if space is not None:
            said += f", {sum(len(t.shape.triangles) for t in space.things if t.kind == 'surface')} triangles"
            if name == "explicit":
                said += f", ratio to the general painter {printed / theirs(space.things[0].shape):.2f}"
        print(said)
    print(f"memory at most {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")


if __name__ == "__main__":
    main()
