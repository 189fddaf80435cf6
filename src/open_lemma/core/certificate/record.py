"""The proofs of a whole record, checked without running its script.

What is proven of a finding must be in its certificates; what they do not prove may not be graded so. Data as they stand claim nothing (see
`claims`); they, and fits of data too long for a record, are counted, and nothing is said of them.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from .verifier import verify

CLAIMING = frozenset("roots crossings extrema lowest solutions points spans family".split())


def claims(shape: str | None, row: Mapping[str, Any]) -> bool:
    """Whether a row that is graded proven has to be in a certificate. Texts, exact numbers and lists without an interval, tables and
    formulas as they were defined are data as they stand."""
    return shape in CLAIMING or (shape == "value" and row.get("interval") is not None)


@dataclass(frozen=True)
class FindingProof:
    """number: of the finding. boxes: that were checked. fault: the claim that failed, if one did. certified: whether there was any."""

    number: int
    noun: str
    boxes: int
    fault: str
    certified: bool


def verify_finding(finding: Mapping[str, Any]) -> FindingProof:
    """Check all certificates of one finding of a record against its rows. Never raises."""
    said = finding.get("number")
    number, noun = said if isinstance(said, int) else 0, str(finding.get("noun", ""))
    parts, values = _parts(finding), finding.get("values")
    rows = [r if isinstance(r, dict) else {} for r in values] if isinstance(values, list) else []
    if any(isinstance(p.get("data"), dict) and "sha256" in p["data"] for p in parts):
        return FindingProof(number, noun, 0, "", False)  # it rests on data that the record does not hold
    boxes = 0
    shown: set[int] = set()
    fault = ""
    for part in parts:
        first, count = part.get("first"), part.get("rows")
        if not (isinstance(first, int) and isinstance(count, int) and 0 <= first <= first + count <= len(rows)):
            return FindingProof(number, noun, boxes, "a certificate that speaks of rows that are not there", True)
        verdict = verify(part, rows[first : first + count])
        boxes += verdict.boxes
        shown |= {first + k for k, ok in enumerate(verdict.proven) if ok}
        single = part.get("claim") in ("lowest", "highest") or part.get("kinds") == []  # of which no others are denied
        if finding.get("evidence") == "proven" and not verdict.complete and not single:
            fault = fault or verdict.fault or "; ".join(verdict.faults[:3]) or "not all of the window is covered"
        fault = fault or verdict.fault
    unshown = [k for k, row in enumerate(rows) if row.get("evidence") == "proven" and k not in shown]
    if parts or any(noun == "limit" or claims(finding.get("shape"), rows[k]) for k in unshown):
        if unshown:
            fault = fault or f"row {unshown[0] + 1} is graded proven and no certificate shows it"
        return FindingProof(number, noun, boxes, fault, True)
    return FindingProof(number, noun, 0, "", False)


def _parts(finding: Mapping[str, Any]) -> list[dict[str, Any]]:
    found = finding.get("certificate")
    parts = found.get("parts", []) if isinstance(found, dict) else []
    return [p for p in parts if isinstance(p, dict)]


def verify_record(record: Mapping[str, Any]) -> list[FindingProof]:
    """Check the certificates of all findings of a record."""
    return [verify_finding(f) for f in record.get("findings", []) if isinstance(f, dict)]
