"""The honour of the word *proven*: random scripts, each finding held against dense samples and a second reading at 40 digits.

    PYTHONPATH=. .venv/bin/python bench/honour.py FIRST COUNT [more]

`more`: several variables, systems, double integrals, inflections, sums, limits, numbers from blocks and lists.

Prints each case that is wrong, then how many there were of each grade; ends with 1 if any was wrong. The same numbers give the same cases.
"""

from __future__ import annotations

import logging
import signal
import sys
import time
from collections import Counter
from typing import Any

from tests.core.numerics import honour, honour_more

from open_lemma.core.formula.limits import OutOfTime

SECONDS = 60


def main(first: int, count: int, more: bool) -> int:
    fault_of = honour_more.fault_of if more else honour.fault_of
    logging.disable(logging.CRITICAL)
    grades: Counter[str] = Counter()
    slow: list[tuple[float, int]] = []
    wrong = 0
    for seed in range(first, first + count):
        start = time.perf_counter()
        try:
            script, grade, fault = fault_of(seed)
        except OutOfTime:
            raise
        except Exception as trouble:
            script, grade, fault = f"seed {seed}", "broken", f"{type(trouble).__name__}: {trouble}"
        took = time.perf_counter() - start
        slow = sorted([*slow, (took, seed)], reverse=True)[:5]
        grades[grade] += 1
        if fault:
            wrong += 1
            print(f"seed {seed}: {grade}: {script!r}: {fault}", flush=True)
    total = sum(grades.values())
    print(f"{total} scripts from seed {first}: {wrong} wrong; " + ", ".join(f"{n} {g}" for g, n in sorted(grades.items())))
    print("slowest: " + ", ".join(f"{t:.1f} s (seed {s})" for t, s in slow))
    return 1 if wrong else 0


def _stopped(*_: Any) -> None:
    raise KeyboardInterrupt


if __name__ == "__main__":
    signal.signal(signal.SIGTERM, _stopped)
    numbers = [int(a) for a in sys.argv[1:] if a != "more"]
    sys.exit(main(*(numbers + [1, 200][len(numbers) :]), more="more" in sys.argv))
