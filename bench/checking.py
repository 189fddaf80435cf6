"""Reading and checking a script of 300 lines, warm: time, and the ratio to splitting its text into words."""

from __future__ import annotations

import re
import time
from statistics import median

from open_lemma.core.run.execute.interpreter import read

BLOCK = """part "Part {k}"
q_{k} = 1.8
g_{k} = 9.81 [m/s^2]
E_{k}(y) = y + q_{k}^2/(2*9.81*y^2) for y from 0.1 to 3
low_{k} = roots of E_{k}'(y) for y from 0.1 to 3
define settle_{k}(start):
    level = start
    for j from 1 to 8:
        level = level - (level^2 - 2)/(2*level)
    return level
total_{k} = 0
for j from 1 to 10:
    if mod(j, 2) = 0:
        total_{k} = total_{k} + settle_{k}(j)
    else:
        total_{k} = total_{k} - 1/j
show total_{k}, E_{k}(1.5)
ts_{k} = 0.5 to 2 step 0.5
xs_{k} = [E_{k}(t) for t in ts_{k}]
figure energy_{k} "Energy {k}":
    curve of E_{k}(y) for y from 0.3 to 2, width 1.5, label "$E_{k}$"
    points of xs_{k} against ts_{k}, marker ring
    x axis "depth"
    legend top right
check E_{k}(1) > 1
"""


# Of the greatest length that is read.
LONG = {
    "mistakes": "q\n" * 9_999 + "show (1\n" * 20_000, "data pasted in": "0.15 3.25 7.5\n" * 9_000,
    "one list": f"xs = [{'1.25, ' * 33_000}1]",
    "one sum": "show 1" + " + 1" * 39_000, "brackets": "(" * 79_000, "statements": "".join(f"name_{k} = {k}/7\n" for k in range(9_900)),
}  # fmt: skip


def main() -> None:
    script = "".join(BLOCK.replace("{k}", str(k)) for k in range(1, 14))
    script = "\n".join(script.split("\n")[:300]).rsplit("part", 1)[0]  # whole parts only
    assert not read(script)[0].messages.has_errors(), [m.text for m in read(script)[0].messages.items]
    ours, words = [], []
    for _ in range(25):
        start = time.perf_counter()
        read(script)
        ours.append(time.perf_counter() - start)
        start = time.perf_counter()
        re.findall(r"\w+|[^\w\s]", script)
        words.append(time.perf_counter() - start)
    for name, text in LONG.items():
        start = time.perf_counter()
        read(text)
        took = time.perf_counter() - start
        start = time.perf_counter()
        re.findall(r"\w+|[^\w\s]", text)
        print(
            f"{len(text)} characters, {name}: {1000 * took:.0f} ms, {took / (time.perf_counter() - start):.0f} times as long as splitting"
        )
    ratio = median(ours[5:]) / median(words[5:])
    print(f"300 lines read and checked in {1000 * median(ours[5:]):.1f} ms, {ratio:.0f} times as long as splitting them into words")


if __name__ == "__main__":
    main()
