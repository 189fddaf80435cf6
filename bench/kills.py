"""Processes killed at random under load, with a ledger of every change that was confirmed, counted at the end in the database itself.

    python -m bench.kills [KILLS] [SEED]

Every process that the server has is killed again and again: the database, the engine, those that work runs, those that answer, the logger,
and children at work. After each kill the time is taken until a run is begun and kept again. The exit code is 1 where something that was
confirmed is not in the database, or where it was not back within 5 s.
"""

from __future__ import annotations

import http.client
import os
import random
import signal
import sys
import tempfile
import threading
import time
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

from open_lemma.service.ports import free_port

from .visitors import Visitor, database_of, family, percentile, server

WORKERS = 4
BACK_S = 5.0
NEVER_KILLED = "service.serve"  # the supervisor itself: with it the server ends, which is asked for


@dataclass
class Ledger:
    """What was confirmed: scripts that are saved, records that are kept, tables with their versions."""

    scripts: list[tuple[int, str]] = field(default_factory=list)
    records: list[tuple[int, int]] = field(default_factory=list)
    tables: list[tuple[int, str, int]] = field(default_factory=list)
    told: Counter[str] = field(default_factory=Counter)
    lock: threading.Lock = field(default_factory=threading.Lock)


def work(port: int, number: int, ledger: Ledger, over: threading.Event) -> None:
    """Somebody who saves, runs and brings in tables without pause, whatever happens to the server."""
    chance, visitor, count = random.Random(number), Visitor(port), 0
    while not over.is_set():
        count += 1
        script = f"show {count} + {number}*1000000\ncurve of sin(x) for x from 0 to {1 + count % 7}"
        try:
            if not visitor.folio:
                visitor.begin(f"Ledger {number}")
            what = chance.random()
            if what < 0.4:
                answer = visitor.save(script)
                confirmed = answer.status == 200
                if confirmed:
                    with ledger.lock:
                        ledger.scripts.append((visitor.folio["id"], script))
            elif what < 0.9:
                answer, last = visitor.run(script)
                confirmed = answer.status == 201
                with ledger.lock:
                    if confirmed or "version" in answer.json:
                        ledger.scripts.append((visitor.folio["id"], script))
                    if last.get("event") == "done":
                        ledger.records.append((visitor.folio["id"], last["record_id"]))
                    ledger.told[f"run {last.get('reason', last.get('event', answer.json.get('code')))}"] += 1
            else:
                answer = visitor.ask("PUT", f"{visitor.at}/tables/t.csv", b"h,q\n%d,2\n" % count)
                confirmed = answer.status in (200, 201)
                if confirmed:
                    with ledger.lock:
                        ledger.tables.append((visitor.folio["id"], "t.csv", answer.json["number"]))
            if not confirmed:
                ledger.told[f"{answer.status} {answer.json.get('code')}"] += 1
                if answer.status == 409:
                    # An answer that was lost on its way: what the server has is what was sent last.
                    visitor.folio["version"] = answer.json["folio"]["version"]
                time.sleep(0.05)
        except (OSError, http.client.HTTPException, ValueError, KeyError):
            time.sleep(0.05)


def back(port: int) -> float:
    """Seconds until a run is begun, worked and kept."""
    start, visitor = time.monotonic(), Visitor(port)
    while True:
        try:
            if not visitor.folio:
                visitor.begin("Probe")
            answer, last = visitor.run(f"show {time.monotonic()}")
            if answer.status == 409:  # an answer was lost on its way
                visitor.folio["version"] = answer.json["folio"]["version"]
            if answer.status == 201 and last["event"] == "done":
                return time.monotonic() - start
        except (OSError, http.client.HTTPException, ValueError, KeyError):
            pass
        time.sleep(0.02)
        if time.monotonic() - start > 120:
            return float("inf")


def missing(ledger: Ledger, folder: Path) -> list[str]:
    """What was confirmed and is not in the database, counted there by other means than the server's."""
    found = []
    with database_of(folder) as connection, connection.cursor() as cursor:
        for folio, script in ledger.scripts:
            cursor.execute("SELECT COUNT(*) FROM revision WHERE folio_id = %s AND script = %s", (folio, script))
            if not cursor.fetchone()[0]:
                found.append(f"script of folio {folio}: {script[:30]!r}")
        for folio, record in ledger.records:
            cursor.execute(
                "SELECT COUNT(*) FROM record JOIN content ON content.sha256 = record.body_sha256 WHERE record.id = %s AND folio_id = %s",
                (record, folio),
            )
            if not cursor.fetchone()[0]:
                found.append(f"record {record} of folio {folio}")
        for folio, name, number in ledger.tables:
            cursor.execute("SELECT MAX(number) FROM table_file WHERE folio_id = %s AND name = %s", (folio, name))
            if (cursor.fetchone()[0] or 0) < number:
                found.append(f"table {name} of folio {folio}, version {number}")
        cursor.execute("SELECT COUNT(*) - COUNT(DISTINCT run) FROM record")
        if cursor.fetchone()[0]:
            found.append("a run that is kept twice")
    return found


def main() -> int:
    kills = int(sys.argv[1]) if len(sys.argv) > 1 else 1000
    chance = random.Random(int(sys.argv[2]) if len(sys.argv) > 2 else 1)
    ledger, over = Ledger(), threading.Event()
    times: dict[str, list[float]] = {}
    with tempfile.TemporaryDirectory() as name:
        folder, port = Path(name), free_port(range(20_000, 20_900))
        with server(folder, port) as process:
            threads = [threading.Thread(target=work, args=(port, k, ledger, over)) for k in range(WORKERS)]
            for t in threads:
                t.start()
            for k in range(kills):
                members = [(pid, what) for pid, what in family(process.pid).items() if what != NEVER_KILLED]
                kinds = sorted({what for _, what in members})
                kind = chance.choice(kinds)
                pid = chance.choice([p for p, what in members if what == kind])
                try:
                    os.kill(pid, signal.SIGKILL)
                except ProcessLookupError:
                    continue
                took = back(port)
                times.setdefault(kind, []).append(took)
                if took > BACK_S:
                    print(f"kill {k}: {kind} was back after {took:.1f} s", flush=True)
            over.set()
            for t in threads:
                t.join()
            lost = missing(ledger, folder)
    for kind, all_of_it in sorted(times.items()):
        print(f"{kind}: {len(all_of_it)} kills, back after {percentile(all_of_it, 0.5):.2f} s (median), {max(all_of_it):.2f} s (longest)")
    print(f"confirmed: {len(ledger.scripts)} scripts, {len(ledger.records)} records, {len(ledger.tables)} tables; lost: {len(lost)}")
    print(f"told meanwhile: {dict(ledger.told)}")
    for what in lost[:20]:
        print(f"  lost: {what}")
    return int(bool(lost) or any(max(t) > BACK_S for t in times.values()))


if __name__ == "__main__":
    sys.exit(main())
