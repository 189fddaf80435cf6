"""What comes of the examples of the handbook: run and drawn when the page is built, never written by hand.

    python -m open_lemma.service.shown FOLDER

writes for each page ID.json, a list with what each example gave, and ID-N.svg for its figures.
"""

from __future__ import annotations

import json
import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

from ..core.figure.draw import draw
from ..core.run.execute.interpreter import run
from ..core.run.handbook import Page, pages

PROCESSES = 2
MOST_FINDINGS = 6


def shown(script: str) -> tuple[dict[str, Any], list[bytes]]:
    """What a script gave: its findings in short and its figures as SVG."""
    outcome = run(script)
    told = [f.told() for f in outcome.findings[:MOST_FINDINGS]]
    findings = [{"number": f.number, "evidence": f.evidence, "text": f.short or f.summary, "statement": f.statement} for f in told]
    return {"findings": findings, "more": max(len(outcome.findings) - MOST_FINDINGS, 0)}, [draw(f.data).data for f in outcome.figures]


def _write(page: Page, folder: Path) -> None:
    told, count = [], 0
    for script in page.examples:
        found, figures = shown(script)
        names = []
        for svg in figures:
            names.append(f"{page.id}-{count}.svg")
            (folder / names[-1]).write_bytes(svg)
            count += 1
        told.append({**found, "figures": names})
    (folder / f"{page.id}.json").write_text(json.dumps(told, ensure_ascii=False), encoding="utf-8")


def _write_one(task: tuple[int, str]) -> None:
    _write(pages()[task[0]], Path(task[1]))


def build(folder: Path) -> int:
    """Write what all examples gave into a folder; the number of pages."""
    folder.mkdir(parents=True, exist_ok=True)
    tasks = [(k, str(folder)) for k in range(len(pages()))]
    with ProcessPoolExecutor(PROCESSES) as pool:
        list(pool.map(_write_one, tasks, chunksize=8))
    return len(tasks)


if __name__ == "__main__":
    print(f"{build(Path(sys.argv[1]))} pages of the handbook with what their examples give")
