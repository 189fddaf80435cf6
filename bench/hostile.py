"""A hundred and sixty hostile scripts, one after the other and several at once, with a neighbour who works meanwhile.

    python -m bench.hostile [AT_ONCE]

Each must end with a result, or with a message that says what is amiss and where; never with a fault of ours, and never by itself. The
neighbour's simple runs are timed. The exit code is 1 where a script ends otherwise, or where 95 % of the neighbour's runs took over 2 s.
"""

from __future__ import annotations

import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from open_lemma.service.ports import free_port

from .visitors import Visitor, memory_mb, percentile, server

NEIGHBOUR = "a = 3\nfigure f:\n    curve of a*sin(x) for x from 0 to 9\nroots of sin(x) - 0.5 for x from 0 to 9"
FORBIDDEN_REASONS = ("died", "internal", "gone", "lost", "interrupted")


def scripts() -> Iterator[tuple[str, str]]:
    """Each with a name for what it tries."""
    for n in (400, 600, 2_000, 10_000, 40_000):
        yield f"a sum of {n} terms", "f(x) = " + " + ".join(f"x^{k % 9}" for k in range(n)) + "\ncurve of f(x) for x from 0 to 1"
        yield f"a product of {n} factors", "show " + "*".join("1.0001" for _ in range(n))
        yield f"{n} signs", "show " + "-" * n + "1"
        yield f"{n} brackets", "show " + "(" * n + "1" + ")" * n
        yield f"lists in lists, {n} deep", "show " + "[" * n + "1" + "]" * n
        yield f"functions in functions, {n} deep", "show " + "sin(" * n + "1" + ")" * n
        yield (
            f"{n} blocks",
            "\n".join(f"{' ' * (4 * (k % 2))}for k_{k} from 1 to 2:" if not k % 2 else f"    show k_{k - 1}" for k in range(n)),
        )
        yield f"blocks {n} deep", "\n".join(f"{'    ' * k}for k{k} from 1 to 2:" for k in range(min(n, 2000))) + "\n"
        yield f"{n} definitions, each of the last", "a_0 = 1\n" + "\n".join(f"a_{k + 1} = a_{k} + 1" for k in range(n)) + f"\nshow a_{n}"
        yield f"a polynomial of {n} terms", "roots of " + " + ".join(f"{k + 1}*x^{k}" for k in range(n)) + " for x from -2 to 2"
        yield f"{n} powers", "show " + "^".join("1.0001" for _ in range(n))
        yield f"a case of {n} pieces", "f(x) = " + "".join(f"{k} if x < {k}, " for k in range(n)) + "0 otherwise\nshow f(3)"
        yield f"{n} mistakes", "f(x = \n" * n
        yield f"a name of {n} letters", "a" * n + " = 1\nshow " + "a" * n
        yield f"a number of {n} digits", "show " + "7" * n + " + 1"
        yield f"a text of {n} letters", f'figure f:\n    title "{"w" * n}"\n    curve of x for x from 0 to 1'
        yield f"{n} curves", "figure f:\n" + "\n".join(f"    curve of {k}*x for x from 0 to 1" for k in range(n))
        yield f"{n} figures", "\n".join(f"curve of {k}*x for x from 0 to 1" for k in range(n))
        yield f"{n} integrals", "\n".join(f"integral of sin(1/(x - {k})) for x from {k} to {k + 1}" for k in range(n))
    for n in (9_999_999, 10**9, 10**15):
        yield f"1e{n}", f"x = 1e{n}\nshow x"
        yield f"a list of {n}", f"xs = (0 to 1 count {n})\nshow sum(xs)"
        yield f"a loop of {n}", f"s = 0\nfor k from 1 to {n}:\n    s = s + k\nshow s"
        yield f"a sum to {n}", f"show sum(1/k^1.5 for k from 1 to {n})"
        yield f"a power of {n}", f"show 3^{n}"
        yield f"a factorial of {n}", f"show factorial({n})"
        yield f"a surface of detail {n}", f"surface of sin({n}*x*y) for x from 0 to 1, y from 0 to 1"
        yield f"roots, {n} of them", f"roots of sin({n}*x) for x from 0 to 1"
        yield f"a size of {n}", f"figure f:\n    size {n} by {n}\n    curve of x for x from 0 to 1"
    for text in (
        "x = 9^9^9^9\nshow x", "show 2^2^2^2^2^2", "x = 10^400\nshow x*x", "curve of x^x^x for x from 0 to 1e300",
        "curve of sin(x) for x from -1e300 to 1e300", "curve of tan(x) for x from -1e9 to 1e9",
        "roots of sin(1/x) for x from 0 to 1", "minimum of sin(1e12*x) for x from 0 to 1e6",
        "surface of x^2 + y^2 + z^2 = 1e300", "f(x) = f(x - 1) + 1\nshow f(5)", "a = b\nb = a\nshow a",
        "show 1/0", "show sqrt(-1)", "show 0^0", "show log(0)", "show (1 to 1e308 step 1)", "show 5 % 0",
        "integral of 1/x for x from -1 to 1", "integral of exp(x^2) for x from 0 to 1e6", "limit of sin(x) for x to infinity",
        "solve x^5 + x + 1 = 0 for x", "identity exp(x) = exp(x) + 1e-300", "show mean([])", "show [1, 2][7]",
        "table t from \"../../etc/passwd\"\nshow t.\"h\"", "table t from \"/etc/passwd\"\nshow t.\"h\"",
        "\ud7ff\ufeff\u202eshow 1", "show 1\x00", "show 1\r\nshow 2\rshow 3", "\t\t\t", " " * 100_000 + "show 1", "#" * 180_000,
        "fit of a*exp(b*x) to [1, 1e300, -1e300] against [1, 2, 3]", "bed(x) = interpolation of [1, 1] against [2, 2]\nshow bed(2)",
        "show sum(sum(sum(k*j*i for i from 1 to 2000) for j from 1 to 2000) for k from 1 to 2000)", "points of (0 to 1 count 3000000)",
        "histogram of (0 to 1 count 5000000), bins 1000000",
        "for k from 1 to 1000000:\n    curve of k*x for x from 0 to 1", "show " + "sin(x)" * 3000,
    ):  # fmt: skip
        yield text[:50].replace("\n", " / "), text


def well_ended(answer_status: int, answer: Any, last: dict[str, Any]) -> str:
    """Empty, or what is wrong with how a script ended."""
    if answer_status in (413, 422):
        return "" if answer.get("message") else "refused without a word"
    if answer_status != 201:
        return f"answer {answer_status}: {answer}"
    if last["event"] == "failed":
        return f"{last['reason']}: {last['text']}" if last["reason"] in FORBIDDEN_REASONS or not last.get("text") else ""
    for message in last["record"]["messages"]:
        if message["code"] == "internal":
            return f"a fault of ours in line {message['line']}"
        if message["severity"] == "error" and (not message["text"] or message["line"] < 1):
            return f"a message without its place: {message}"
    return ""


def attack(port: int, name: str, script: str) -> tuple[str, str, float]:
    visitor = Visitor(port)
    visitor.arrive()
    visitor.begin("Hostile")
    start = time.monotonic()
    answer, last = visitor.run(script)
    return name, well_ended(answer.status, answer.json, last), time.monotonic() - start


def neighbour(port: int, over: threading.Event, times: list[float], wrong: list[str]) -> None:
    visitor = Visitor(port)
    visitor.arrive()
    visitor.begin("Neighbour")
    while not over.is_set():
        start = time.monotonic()
        answer, last = visitor.run(f"{NEIGHBOUR}\n# {start}")
        times.append(time.monotonic() - start)
        if answer.status != 201 or last["event"] != "done":
            wrong.append(f"{answer.status} {last}")
        time.sleep(0.3)


def main() -> int:
    at_once = int(sys.argv[1]) if len(sys.argv) > 1 else 4
    all_of_them = list(scripts())
    over, times, wrong = threading.Event(), [], []
    with tempfile.TemporaryDirectory() as folder:
        port = free_port(range(20_000, 20_900))
        with server(Path(folder), port) as process:
            thread = threading.Thread(target=neighbour, args=(port, over, times, wrong))
            thread.start()
            with ThreadPoolExecutor(at_once) as pool:
                ends = list(pool.map(lambda one: attack(port, *one), all_of_them))
            over.set()
            thread.join()
            memory = memory_mb(process.pid)
    bad = [(name, why) for name, why, _ in ends if why]
    for name, why in bad:
        print(f"{name}: {why}")
    longest = max(ends, key=lambda e: e[2])
    print(f"{len(ends)} scripts, {len(bad)} ended badly; the longest took {longest[2]:.1f} s: {longest[0]}")
    print(f"the neighbour: {len(times)} runs, median {percentile(times, 0.5):.2f} s, 95 % {percentile(times, 0.95):.2f} s")
    print(f"amiss with them: {wrong or 'nothing'}")
    print(f"memory at the end: {memory:.0f} MB")
    return int(bool(bad or wrong) or percentile(times, 0.95) > 2)


if __name__ == "__main__":
    sys.exit(main())
