"""Proofs: whether the certificate of a finding holds, checked anew whenever somebody asks."""

from __future__ import annotations

import time

from apiflask import APIBlueprint
from flask import request

from ..core.certificate.record import verify_finding
from .errors import Refusal
from .schemas import ProofAsked, ProofChecked

MOST_BYTES = 1_000_000

blueprint = APIBlueprint("proofs", __name__, url_prefix="/api")


@blueprint.post("/proofs")
@blueprint.input(ProofAsked)
@blueprint.output(ProofChecked)
def proof(json_data: ProofAsked) -> ProofChecked:
    """Check the certificate of one finding, as the record has it. Nothing is run and nothing is kept."""
    if (request.content_length or 0) > MOST_BYTES:
        raise Refusal(413, "too-large", "this certificate is too large to be checked here; open-lemma verify RECORD.json takes any")
    start = time.perf_counter()
    found = verify_finding(json_data.finding)
    return ProofChecked(boxes=found.boxes, fault=found.fault, certified=found.certified, duration_ms=1000 * (time.perf_counter() - start))
