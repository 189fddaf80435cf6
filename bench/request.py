"""Request to figure for a one-curve script, server warm: the whole HTTP round trip against the same drawing by hand.

Ours: POST of the script, the run in a forked child, the figure over server-sent events, until its SVG is in the
client's hands. By hand: NumPy on 400 points and Matplotlib's object interface in a warm process, the SVG in memory; the
hand has no events, no proofs, no store and no choice of window, and it draws in the same style on the same sheet.

Run: python bench/request.py        starts MariaDB and the server in a folder of their own and ends both
"""

from __future__ import annotations

import io
import json
import os
import statistics
import tempfile
import time
from pathlib import Path

import matplotlib
import numpy as np
from matplotlib.backends.backend_svg import FigureCanvasSVG
from matplotlib.figure import Figure
from tests.web.client import Client

from open_lemma.core.figure.style import SETTINGS
from open_lemma.service.serve import Serving
from open_lemma.service.settings import Settings

REPEATS = 25
SCRIPT = (
    'figure f:\n    curve of sin(x)*exp(-x/5) for x from 0 to {end}\n    x axis "time $t$ / s"\n    y axis "position / mm" from -1 to 1\n'
)


def by_hand(end: float, layout: str | None) -> bytes:
    with matplotlib.rc_context(SETTINGS):
        sheet = Figure(figsize=(120 / 25.4, 82 / 25.4), layout=layout)
        axes = sheet.subplots()
        x = np.linspace(0, end, 400)
        axes.plot(x, np.sin(x) * np.exp(-x / 5), color="#2F4B9B", linewidth=1.25)
        axes.set_xlabel("time $t$ / s")
        axes.set_ylabel("position / mm")
        axes.set_ylim(-1, 1)
        out = io.BytesIO()
        FigureCanvasSVG(sheet).print_svg(out)
        return out.getvalue()


def round_trip(client: Client, folio: dict[str, object], end: float) -> tuple[float, float]:
    """Seconds until the figure is there, and until the record is kept."""
    start = time.perf_counter()
    script = SCRIPT.format(end=end)
    begun = client.post(f"/api/folios/{folio['id']}/runs", {"script": script, "version": folio["version"]}).json
    folio["version"] = begun["version"]
    figure = done = 0.0
    for event in client.events(begun["run_id"]):
        if event["event"] == "figure":
            figure = time.perf_counter() - start
        done = time.perf_counter() - start
        assert event["event"] != "failed", json.dumps(event)
    return figure, done


def main() -> None:
    os.environ["OPEN_LEMMA_DEMO"] = "no"
    with tempfile.TemporaryDirectory() as folder, Serving(Settings(18500, Path(folder), None, ()), say=False) as serving:
        client = Client(serving.address)
        folio = client.folio()
        ours, kept, hand, plain = [], [], [], []
        for k in range(REPEATS + 3):
            end = 10 + k / 100  # never twice the same script
            figure, done = round_trip(client, folio, end)
            times = [figure, done]
            for layout in ("constrained", None):
                start = time.perf_counter()
                by_hand(end, layout)
                times.append(time.perf_counter() - start)
            if k >= 3:  # the first ones warm up both
                for kind, value in zip((ours, kept, hand, plain), times, strict=True):
                    kind.append(value)
    mine, whole, theirs, bare = (1e3 * statistics.median(v) for v in (ours, kept, hand, plain))
    print(f"figure in hand {mine:.0f} ms, record kept {whole:.0f} ms")
    print(f"by hand, margins that fit: {theirs:.0f} ms, ratio to the figure {mine / theirs:.2f}, to the record {whole / theirs:.2f}")
    print(f"by hand, margins left as they are (texts may be cut): {bare:.0f} ms, ratio to the figure {mine / bare:.2f}")


if __name__ == "__main__":
    main()
