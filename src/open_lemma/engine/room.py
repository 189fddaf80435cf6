"""How much may be at work at once on this machine: by its processors and its memory."""

from __future__ import annotations

import os
from dataclasses import dataclass

from .protocol import Limits

RUN_WEIGHT = 2
RUNS_A_PROCESSOR = 4  # that share it without anybody waiting for long


@dataclass(frozen=True, slots=True)
class Room:
    """Weights (see `Schedule`): of what is at work, of long runs among it, of all that live. quick: quick jobs at once."""

    weight: int
    long_weight: int
    most_weight: int
    quick: int


def available_mb() -> int:
    """Memory that can still be given out, after Linux's own estimate (proc(5), MemAvailable)."""
    with open("/proc/meminfo", encoding="ascii") as lines:
        for line in lines:
            if line.startswith("MemAvailable:"):
                return int(line.split()[1]) // 1024
    return 2048


def room_here(limits: Limits | None = None) -> Room:
    """Three quarters of the memory that is free may be taken by runs, each with all that it may use."""
    limits = limits or Limits.from_environment()
    processors = len(os.sched_getaffinity(0))
    in_memory = max(2, (available_mb() * 3 // 4) // max(limits.memory_mb, 1))
    runs = max(2, min(RUNS_A_PROCESSOR * processors, in_memory))
    most = max(runs, min(2 * runs, in_memory))
    return Room(RUN_WEIGHT * runs, max(RUN_WEIGHT, RUN_WEIGHT * runs * 3 // 4), RUN_WEIGHT * most, 4 * processors)
