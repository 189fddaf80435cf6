"""Is everything as before? Records and SVG bytes of all demo folios, handbook examples and scripts of the tests, in two states of the code.

    python -m tools.compare collect SCRIPTS      the scripts that the tests of the core run, each once, into a folder
    python -m tools.compare write SCRIPTS OUT    what comes out of them, of the demo and of the handbook, into another
    python -m tools.compare differ BEFORE AFTER  what is not equal in two such folders; the exit code is 1 if anything is

A script that the tests run for more than MOST_SECONDS is left out, and a search that its own clock ended may end elsewhere
each time; such a difference shows between two states of the same code as well.
"""

from __future__ import annotations

import hashlib
import json
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from multiprocessing import Pool
from pathlib import Path
from typing import Any

PROJECT = Path(__file__).resolve().parents[1]
MOST_SECONDS = 4.0
_LIMIT_S = 40
_TO = "OPEN_LEMMA_SCRIPTS_TO"


def pytest_configure() -> None:
    """As a plugin of pytest: `run` writes each script down before the tests import it."""
    from open_lemma.core.run.execute import interpreter

    folder, run = Path(os.environ[_TO]), interpreter.run

    def noted(text: str, *more: Any, **named: Any) -> Any:
        begun = time.monotonic()
        outcome = run(text, *more, **named)
        if (outcome.findings or outcome.figures or outcome.readings) and time.monotonic() - begun < MOST_SECONDS:
            name = hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()[:16]
            (folder / f"{name}.lemma").write_text(text, encoding="utf-8", errors="surrogatepass")
        return outcome

    interpreter.run = noted


def collect(folder: Path) -> int:
    folder.mkdir(parents=True, exist_ok=True)
    command = [
        sys.executable,
        "-m",
        "pytest",
        "-q",
        "-n",
        "2",
        "-p",
        "tools.compare",
        "-p",
        "no:cacheprovider",
        "--durations=60",
        "tests/core",
    ]
    done = subprocess.run(command, cwd=PROJECT, env={**os.environ, _TO: str(folder.resolve())}, check=False)
    print(f"{len(list(folder.iterdir()))} scripts")
    return done.returncode


def scripts(folder: Path) -> Iterator[tuple[str, str]]:
    """Name and text of each script."""
    from open_lemma.core.run.handbook import pages

    for path in sorted((PROJECT / "demo").glob("*.lemma")):
        yield f"demo-{path.stem}", path.read_text(encoding="utf-8")
    for page in pages():
        if page.example:
            yield f"handbook-{page.id}", page.example
    for path in sorted(folder.glob("*.lemma")):
        yield path.stem, path.read_bytes().decode("utf-8", "surrogatepass")


def outcome_of(task: tuple[str, str, str]) -> tuple[str, float]:
    """Run one script and write its record and figures. Returns its name and the seconds it took."""
    from open_lemma.core.figure.draw import draw
    from open_lemma.core.run.execute.interpreter import run
    from open_lemma.core.run.record import figure_record, record
    from open_lemma.files.folder import tables_in

    def late(*_: Any) -> None:
        raise TimeoutError(f"more than {_LIMIT_S} s")

    name, text, out = task
    begun = time.monotonic()
    signal.signal(signal.SIGALRM, late)
    signal.alarm(_LIMIT_S)
    try:
        outcome = run(text, tables=tables_in(PROJECT / "demo"))
        figures = []
        for drawn in outcome.figures:
            drawing = draw(drawn.data)
            Path(out, f"{name}-{drawn.data.name}.svg").write_bytes(drawing.data)
            figures.append(figure_record(drawn, drawing, {}))
        found = record(text, outcome, figures, 0.0)
    except Exception as fault:  # whatever it is, it is what came out, and is compared
        found = {"fault": f"{type(fault).__name__}: {fault}"}
    finally:
        signal.alarm(0)
    Path(out, f"{name}.json").write_text(json.dumps(found, indent=1, ensure_ascii=True, sort_keys=True), encoding="utf-8")
    return name, time.monotonic() - begun


def write(folder: Path, out: Path) -> int:
    out.mkdir(parents=True, exist_ok=True)
    tasks = [(name, text, str(out)) for name, text in scripts(folder)]
    with Pool(2, maxtasksperchild=400) as pool:
        times = sorted(pool.imap_unordered(outcome_of, tasks, chunksize=4), key=lambda t: -t[1])
    print(f"{len(tasks)} scripts, {len(list(out.glob('*.svg')))} figures; slowest:", *(f"{n} {t:.0f} s" for n, t in times[:5]))
    return 0


def differ(before: Path, after: Path, most: int = 60) -> int:
    """Print what differs, one line each, with the first line in which it does."""
    names = sorted({p.name for folder in (before, after) for p in folder.iterdir()})
    found = 0
    for name in names:
        one, other = before / name, after / name
        if not (one.exists() and other.exists()):
            said = f"only {'before' if one.exists() else 'after'}"
        elif one.read_bytes() == other.read_bytes():
            continue
        else:
            said = _first_difference(one.read_text(encoding="utf-8"), other.read_text(encoding="utf-8"))
        found += 1
        if found <= most:
            print(f"{name}: {said}")
    print(f"{found} of {len(names)} files differ")
    return int(found > 0)


def _first_difference(one: str, other: str) -> str:
    lines = zip(one.split("\n"), other.split("\n"), strict=False)
    number, (old, new) = next(((k, p) for k, p in enumerate(lines, 1) if p[0] != p[1]), (0, ("", "")))
    return f"line {number}: {old.strip()[:110]!r} -> {new.strip()[:110]!r}"


def main(words: list[str]) -> int:
    commands = {"collect": (collect, 1), "write": (write, 2), "differ": (differ, 2)}
    if not words or words[0] not in commands or len(words) - 1 != commands[words[0]][1]:
        print(__doc__, file=sys.stderr)
        return 2
    return commands[words[0]][0](*map(Path, words[1:]))  # type: ignore[operator,no-any-return]


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
