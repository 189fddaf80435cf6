"""How many pictures a second a dragged slider gives: previews of a folio with one curve, asked one after the other.

Run with PYTHONPATH=. from the project's folder; starts and ends all it needs.
"""

from __future__ import annotations

import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from statistics import median

from tests.web.client import Client

from open_lemma.core.figure.draw import draw
from open_lemma.core.run.execute.interpreter import run
from open_lemma.service.serve import Serving
from open_lemma.service.settings import Settings

SCRIPT = "tune k = {} from 0 to 4\nf(x) = sin(k*x)*exp(-x/5) for x from 0 to 12\nr = roots of sin(x^2) for x from 0 to 20\ncurve of f(x)\n"


def main() -> None:
    with tempfile.TemporaryDirectory() as data, Serving(Settings(18760, Path(data), None, ()), say=False) as serving:
        client = Client(serving.address)
        folio = client.folio()
        client.run(SCRIPT.format(1), folio)
        taken, alone = [], []

        def preview(step: int) -> None:
            start = time.perf_counter()
            answer = client.post(f"/api/folios/{folio['id']}/previews", {"script": SCRIPT.format(1 + step / 50)})
            taken.append(time.perf_counter() - start)
            assert answer.status == 200
            assert len(answer.json["figures"]) == 1

        for step in range(30):
            preview(step)
        begun = time.perf_counter()
        with ThreadPoolExecutor(2) as pool:  # as the page asks: two at once
            list(pool.map(preview, range(30, 90)))
        rate = 60 / (time.perf_counter() - begun)
        for step in range(20):
            script = SCRIPT.format(1 + step / 50)
            start = time.perf_counter()
            draw(run("\n".join([*script.split("\n")[:2], "curve of f(x)"])).figures[0].data)
            alone.append(time.perf_counter() - start)
        ours, core = median(taken[5:30]), median(alone[5:])
        print(
            f"a preview of one curve takes {1000 * ours:.0f} ms, {ours / core:.2f} times the core's own time; {rate:.1f} pictures a second"
        )


if __name__ == "__main__":
    main()
