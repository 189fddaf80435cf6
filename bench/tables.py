"""Bringing in a CSV file of a million rows: seconds, megabytes, and the ratio to NumPy's reader on the same bytes.

Run: python -m bench.tables
"""

from __future__ import annotations

import io
import resource
import time

import numpy as np

from open_lemma.files.tables import read_table


def main() -> None:
    rng = np.random.default_rng(0)
    rows = rng.normal(size=(10**6, 3)).tolist()
    data = ("t,a,b,c\n" + "".join(f"{k},{a:.6f},{b:.3f},{c:.2f}\n" for k, (a, b, c) in enumerate(rows))).encode()
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    began = time.perf_counter()
    found = read_table(data, "long.csv")
    ours = time.perf_counter() - began
    more = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
    began = time.perf_counter()
    np.loadtxt(io.BytesIO(data), delimiter=",", skiprows=1)
    other = time.perf_counter() - began
    print(f"{found.rows} rows, {len(data) / 1e6:.0f} MB: {ours:.2f} s, {more:.0f} MB more memory")
    print(f"NumPy {other:.2f} s, ratio {ours / other:.2f}")


if __name__ == "__main__":
    main()
