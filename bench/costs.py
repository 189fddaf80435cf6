"""What a run costs: processor seconds of all processes, memory of its own, bytes that are kept. The sums in docs/running.md rest on these.

python -m bench.costs [RUNS]
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from pathlib import Path

from open_lemma.service.ports import free_port

from .people import SIMPLE
from .visitors import Visitor, database_of, family, memory_mb, server


def processor_seconds(pid: int) -> float:
    """Of a process and all that it started, with those that have ended and were waited for (proc(5), "stat": utime to cstime)."""
    total = 0
    for member in family(pid):
        try:
            fields = Path(f"/proc/{member}/stat").read_text(encoding="ascii").rpartition(")")[2].split()
        except OSError:
            continue
        total += sum(int(f) for f in fields[11:15])
    return total / os.sysconf("SC_CLK_TCK")


def kept_bytes(folder: Path) -> int:
    with database_of(folder) as connection, connection.cursor() as cursor:
        total = 0
        for table, column in (("content", "data"), ("revision", "script")):
            cursor.execute(f"SELECT COALESCE(SUM(LENGTH({column})), 0) FROM {table}")
            total += int(cursor.fetchone()[0])
        return total


def main() -> int:
    runs = int(sys.argv[1]) if len(sys.argv) > 1 else 100
    with tempfile.TemporaryDirectory() as name:
        folder, port = Path(name), free_port(range(20_000, 20_900))
        with server(folder, port) as process:
            visitor = Visitor(port)
            visitor.arrive()
            visitor.begin("Costs")
            for script in SIMPLE:
                visitor.run(script.format(a=2))
            quiet = memory_mb(process.pid)
            before, kept, start = processor_seconds(process.pid), kept_bytes(folder), time.monotonic()
            for k in range(runs):
                visitor.run(f"{SIMPLE[k % len(SIMPLE)].format(a=1 + k % 9)}\n# {k}")
            took = time.monotonic() - start
            used, more = processor_seconds(process.pid) - before, kept_bytes(folder) - kept
            start, before = time.monotonic(), processor_seconds(process.pid)
            for k in range(runs):
                visitor.ask("POST", "/api/check", {"script": SIMPLE[k % len(SIMPLE)].format(a=1 + k % 9)})
            checks = processor_seconds(process.pid) - before
    print(f"a run: {used / runs * 1000:.0f} ms of processor, {took / runs * 1000:.0f} ms on the clock, {more / runs / 1000:.1f} kB kept")
    print(f"a look at a script while it is typed: {checks / runs * 1000:.1f} ms of processor")
    print(f"all processes at rest: {quiet:.0f} MB")
    return 0


if __name__ == "__main__":
    sys.exit(main())
