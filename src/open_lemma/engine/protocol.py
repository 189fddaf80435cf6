"""Jobs: what is asked of the processes that work for the server, and what each may use."""

from __future__ import annotations

import os
from dataclasses import asdict, dataclass, field
from typing import Any

LEAST_ON_THE_CLOCK_S = 60.0  # a run of lowered priority has a few hundredths of a processor where others are busy


@dataclass(frozen=True, slots=True)
class Limits:
    """What one job may use: seconds of processor time, memory beside what the program itself has, bytes of results.

    `patience` times the seconds may pass on the clock, at least LEAST_ON_THE_CLOCK_S: others work on the same processors.
    """

    seconds: float = 20.0
    memory_mb: int = 1024
    output_mb: int = 24
    patience: float = 5.0

    @property
    def seconds_on_the_clock(self) -> float:
        return max(self.seconds * self.patience, LEAST_ON_THE_CLOCK_S)

    @staticmethod
    def from_environment() -> Limits:
        """OPEN_LEMMA_RUN_SECONDS, OPEN_LEMMA_RUN_MEMORY_MB and OPEN_LEMMA_RUN_OUTPUT_MB, where they are set."""
        standard = Limits()
        return Limits(
            float(os.environ.get("OPEN_LEMMA_RUN_SECONDS", standard.seconds)),
            int(os.environ.get("OPEN_LEMMA_RUN_MEMORY_MB", standard.memory_mb)),
            int(os.environ.get("OPEN_LEMMA_RUN_OUTPUT_MB", standard.output_mb)),
        )


@dataclass(frozen=True, slots=True)
class Job:
    """One piece of work: `given` are the arguments of the handler for its kind (`handlers.py`), plain data or bytes.

    tables   tables at hand by the names of their files, packed
    memory   results of the run before, as that run gave them
    files    files that go along, by the names of the handler's arguments: paths on this machine
    out      a file for bytes that are too many for an event; empty: none
    """

    kind: str
    limits: Limits
    given: dict[str, Any] = field(default_factory=dict)
    tables: dict[str, bytes] = field(default_factory=dict)
    memory: bytes = b""
    files: dict[str, str] = field(default_factory=dict)
    out: str = ""

    def as_message(self) -> dict[str, Any]:
        return {**{k: getattr(self, k) for k in ("kind", "given", "tables", "memory", "files", "out")}, "limits": asdict(self.limits)}

    @staticmethod
    def from_message(message: dict[str, Any]) -> Job:
        """Raises TypeError and KeyError where it is no job."""
        return Job(**{**message, "limits": Limits(**message["limits"])})


@dataclass(frozen=True, slots=True)
class Kind:
    """How a kind of job is treated.

    weight  how much of the machine it takes beside others
    quick   worked in a process that has done others before: what people wait for while they type
    """

    weight: int = 1
    quick: bool = False


KINDS: dict[str, Kind] = {
    "run": Kind(2), "walk": Kind(2), "preview": Kind(2), "value": Kind(2), "fits": Kind(2), "read_table": Kind(4), "draw": Kind(1),
    "turn": Kind(1), "read": Kind(1), "scene": Kind(1), "origin": Kind(1), "verify": Kind(1), "rows": Kind(1), "column": Kind(1),
    "table_as": Kind(2), "compare": Kind(2), "check": Kind(1, True), "edits": Kind(1, True), "describe": Kind(1, True),
    "rename": Kind(1, True), "next": Kind(1, True), "uses": Kind(1, True), "about_table": Kind(1),
}  # fmt: skip
QUICK_SECONDS = 5.0
