"""Formulas over long lists, in doubles, block by block."""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np

from .exact_lists import opened_lists
from .nodes import Apply, Formula, Given, walk
from .tape import Tape

MAX_THREADS = 4
BLOCK = 32_768  # elements: what a step reads and writes stays in the processor's cache


def in_blocks(formula: Formula, lists: list[Given]) -> tuple[Any, bool]:
    """A formula over lists as one array, and whether all of it is finite.

    Worked out in blocks, so that what lies between the steps never leaves the cache.
    """
    n = len(lists[0].data)
    if n <= 2 * BLOCK:
        values = np.array(np.broadcast_to(np.asarray(Tape([formula], []).numeric()[0], dtype=float), (n,)))
        return values, bool(np.isfinite(values).all())
    opened, columns = opened_lists(formula, lists)
    tape = Tape([opened], list(columns))
    arrays = [np.asarray(g.data, dtype=float) for g in columns.values()]
    result = np.empty(n)

    def blocks(first: int, last: int) -> bool:
        finite = True
        for start in range(first, last, BLOCK):
            end = min(start + BLOCK, last)
            block = tape.numeric(*(a[start:end] for a in arrays))[0]
            finite = finite and bool(np.isfinite(block).all())
            result[start:end] = block
        return finite

    defined = any(isinstance(node, Apply) and node.entry.category == "defined" for node in walk(formula))
    shares = 1 if defined else min(MAX_THREADS, os.cpu_count() or 1, n // (4 * BLOCK) or 1)
    if shares == 1:
        return result, blocks(0, n)
    # NumPy's loops let other threads run beside them; each thread has a stretch of the list of its own.
    finite = blocks(0, BLOCK)  # compiles the steps, once
    ends = [BLOCK + (n - BLOCK) * k // shares for k in range(shares + 1)]
    with ThreadPoolExecutor(shares) as pool:
        return result, all([finite, *pool.map(blocks, ends, ends[1:])])
