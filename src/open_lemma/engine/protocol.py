"""What passes between the server and the process that runs scripts: one JSON object a line.

A job goes in; events come out, the last of them `done` or `failed`. Anything sent after the job, or the closing of the
connection, stops the job.
"""

from __future__ import annotations

import json
import os
from dataclasses import asdict, dataclass, field
from typing import Any, Literal


@dataclass(frozen=True, slots=True)
class Limits:
    """What one run may use."""

    seconds: float = 20.0
    memory_mb: int = 1024
    output_mb: int = 24

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
    """`run`: a script. `value`: all of one name's value as CSV. `draw`: a figure's data as a file in another format.
    `turn`: its windows on space seen from elsewhere. `read`: what stands at a place of a figure's curve.
    `table`: a file that holds a table. `fits`: fits proposed for the points that a line draws.

    onwards  run what follows the part too
    walk     tell of each statement; `stops` are lines to stop at, each with a condition or None
    views    azimuth and elevation by the number of a window
    memory   results of the run before, as that run gave them (base64)
    tables   tables at hand, by the names of their files (packed, base64)
    """

    kind: Literal["run", "value", "draw", "turn", "read", "table", "fits"]
    limits: Limits
    script: str = ""
    part: str | None = None
    onwards: bool = False
    walk: bool = False
    stops: tuple[tuple[int, str | None], ...] = ()
    memory: str = ""
    tables: dict[str, str] = field(default_factory=dict)
    name: str = ""
    figure: str = ""
    format: str = "svg"
    dpi: int = 300
    grey: bool = False
    step: float | None = None
    about: str = ""  # where a file comes from, as `About.text` says it
    views: dict[str, tuple[float, float]] = field(default_factory=dict)
    series: str = ""
    x: float = 0.0
    y: float = 0.0
    z: float | None = None
    path: str = ""  # of the file
    out: str = ""  # where its columns are written; empty for a look at its beginning
    recipe: str = ""
    line: int = 0
    formula: str | None = None
    starts: dict[str, float] = field(default_factory=dict)
    at: float | None = None


def to_line(value: dict[str, Any]) -> bytes:
    return json.dumps(value, ensure_ascii=False, separators=(",", ":")).encode("utf-8", "surrogatepass") + b"\n"


def job_line(job: Job) -> bytes:
    return to_line(asdict(job))


def job_from(line: bytes) -> Job:
    plain = json.loads(line)
    stops = tuple((line, condition) for line, condition in plain["stops"])
    return Job(**{**plain, "limits": Limits(**plain["limits"]), "stops": stops})
