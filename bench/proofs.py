"""What proofs cost, and whether a spoiled one is ever confirmed.

    PYTHONPATH=. .venv/bin/python bench/proofs.py [HOW MANY SPOILED]

Prints, over the statements of the tests: the time of verifying as a share of that of finding (the certificate included), from one run,
the largest certificate, and of so many findings with one random fault how many were confirmed all the same.
"""

from __future__ import annotations

import json
import random
import sys
import time

from tests.core.certificate.findings import STATEMENTS, finding_of
from tests.core.certificate.spoil import spoiled

from open_lemma.core.certificate.record import verify_finding


def main(count: int) -> int:
    finding_s = verifying_s = 0.0
    largest = 0
    found = []
    finding_of(STATEMENTS[0])  # loads what is loaded once
    for statement in STATEMENTS:
        start = time.perf_counter()
        found.append(finding_of(statement))
        finding_s += time.perf_counter() - start
        start = time.perf_counter()
        verify_finding(found[-1])
        verifying_s += time.perf_counter() - start
        largest = max(largest, len(json.dumps(found[-1]["certificate"])))
    share = verifying_s / (finding_s - verifying_s)
    print(f"{len(found)} findings: verifying takes {share:.2f} of finding; the largest certificate has {largest / 1000:.1f} kB")
    rng = random.Random(20_261_129)
    tried = fooled = 0
    while tried < count:
        wrong = spoiled(rng.choice(found), rng)
        if wrong is None:
            continue
        tried += 1
        if not verify_finding(wrong).fault:
            fooled += 1
            print(json.dumps(wrong))
    print(f"{tried} spoiled findings: {fooled} confirmed")
    return 1 if fooled else 0


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 500))
