"""Proofs of a finding, checked anew."""

from __future__ import annotations

import time
from dataclasses import asdict
from typing import Any

from ...core.certificate.record import verify_finding
from .handler import Handler, Work


def _verify(_: Work, finding: dict[str, Any]) -> dict[str, Any]:
    start = time.perf_counter()
    found = asdict(verify_finding(finding))
    return {"proof": found, "duration_ms": 1000 * (time.perf_counter() - start)}


HANDLERS: dict[str, Handler] = {"verify": _verify}
