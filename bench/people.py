"""Fifty people who type and run, beside some who run loops of many seconds and one who brings in large files.

    python -m bench.people [SECONDS] [PEOPLE]

Said at the end: how long a simple run took from its request to its last event (median, 95 %), refusals, conflicts, errors, memory. The
exit code is 1 where anything was refused, in conflict or wrong, or where 95 % took longer than 2 s.
"""

from __future__ import annotations

import random
import sys
import tempfile
import threading
import time
from collections import Counter
from pathlib import Path

from open_lemma.service.ports import free_port

from .visitors import Visitor, memory_mb, percentile, server

THINK_S = (4.0, 12.0)  # between two runs of one person: reading what came, typing the next
LOOPS = 3  # people who run what takes as long as a run may
FILE_MB = 50
SIMPLE = (
    'f(x) = {a}*sin(x)\nfigure first:\n    curve of f(x) for x from 0 to 9, label "f"\nroots of f(x) for x from 1 to 9',
    "a = {a}\nshow a^2 + 1\nintegral of exp(-x^2/{a}) for x from 0 to 3",
    "xs = [1, 2, 3, 4, 5]\nys = [1.1, 3.9, 9.2, 15.8, {a}5]\ng(x) = fit of c*x^2 to ys against xs\nlowest of (x - {a})^2 for x from 0 to 9",
    "surface of x*y/{a} for x from 0 to 1, y from 0 to 1",
)
LONG = "\n".join(f"integral of sin(1/(x - {k})) for x from {k} to {k + 1}" for k in range(200))


class Tally:
    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.simple: list[float] = []
        self.typed: list[float] = []
        self.imports: list[float] = []
        self.wrong: Counter[str] = Counter()

    def note(self, where: list[float], seconds: float) -> None:
        with self.lock:
            where.append(seconds)

    def amiss(self, what: str) -> None:
        with self.lock:
            self.wrong[what] += 1


def person(port: int, number: int, tally: Tally, until: float) -> None:
    chance = random.Random(number)
    visitor = Visitor(port)
    visitor.arrive()
    visitor.begin(f"Person {number}")
    time.sleep(chance.uniform(0, THINK_S[1]))
    while time.monotonic() < until:
        script = chance.choice(SIMPLE).format(a=chance.randint(1, 9))
        start = time.monotonic()
        if visitor.ask("POST", "/api/check", {"script": script}).status != 200:
            tally.amiss("check")
        tally.note(tally.typed, time.monotonic() - start)
        start = time.monotonic()
        answer, last = visitor.run(script)
        if answer.status != 201:
            tally.amiss({409: "conflict", 503: "refusal"}.get(answer.status, f"answer {answer.status}"))
        elif last["event"] != "done":
            tally.amiss(f"run: {last.get('reason')}")
        else:
            tally.note(tally.simple, time.monotonic() - start)
        time.sleep(chance.uniform(*THINK_S))


def looper(port: int, number: int, tally: Tally, until: float) -> None:
    visitor = Visitor(port)
    visitor.arrive()
    visitor.begin(f"Loop {number}")
    while time.monotonic() < until:
        answer, last = visitor.run(f"{LONG}\n# {time.monotonic()}")
        if answer.status != 201 or last.get("reason", "time") not in ("time", "busy"):
            tally.amiss(f"long run: {answer.status} {last.get('reason')}")


def importer(port: int, tally: Tally, until: float) -> None:
    visitor = Visitor(port)
    visitor.arrive()
    visitor.begin("Files")
    chance = random.Random(1)
    data = bytearray(b"n," + b",".join(b"h_%d" % k for k in range(10)) + b",place\n")

    def row() -> bytes:
        return b"%d," % len(data) + b",".join(b"%.6f" % chance.random() for _ in range(10)) + b",weir\n"

    while len(data) < FILE_MB * 1_000_000:
        data += row()
    while time.monotonic() < until:
        start = time.monotonic()
        if visitor.ask("PUT", f"{visitor.at}/tables/large.csv", bytes(data)).status not in (200, 201):
            tally.amiss("import")
        tally.note(tally.imports, time.monotonic() - start)
        data += row()


def main() -> int:
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 300
    people = int(sys.argv[2]) if len(sys.argv) > 2 else 50
    tally = Tally()
    with tempfile.TemporaryDirectory() as folder:
        port = free_port(range(20_000, 20_900))
        with server(Path(folder), port) as process:
            until = time.monotonic() + seconds
            threads = [threading.Thread(target=person, args=(port, k, tally, until)) for k in range(people)]
            threads += [threading.Thread(target=looper, args=(port, k, tally, until)) for k in range(LOOPS)]
            threads.append(threading.Thread(target=importer, args=(port, tally, until)))
            for t in threads:
                t.start()
            most = 0.0
            while time.monotonic() < until:
                most = max(most, memory_mb(process.pid))
                time.sleep(2)
            for t in threads:
                t.join()
    print(
        f"simple runs: {len(tally.simple)}, median {percentile(tally.simple, 0.5):.2f} s, 95 % {percentile(tally.simple, 0.95):.2f} s, "
        f"longest {max(tally.simple, default=float('nan')):.2f} s"
    )
    print(f"looks at a script while it is typed: median {percentile(tally.typed, 0.5):.3f} s, 95 % {percentile(tally.typed, 0.95):.3f} s")
    print(f"imports of {FILE_MB} MB: {len(tally.imports)}, median {percentile(tally.imports, 0.5):.1f} s")
    print(f"most memory: {most:.0f} MB; amiss: {dict(tally.wrong) or 'nothing'}")
    return int(bool(tally.wrong) or percentile(tally.simple, 0.95) > 2)


if __name__ == "__main__":
    sys.exit(main())
