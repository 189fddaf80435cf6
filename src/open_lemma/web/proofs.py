"""Proofs: whether the certificate of a finding holds, checked anew whenever somebody asks."""

from __future__ import annotations

from apiflask import APIBlueprint
from flask import request

from .errors import Refusal
from .schemas import ProofAsked, ProofChecked
from .services import services, who

MOST_BYTES = 1_000_000

blueprint = APIBlueprint("proofs", __name__, url_prefix="/api")


@blueprint.post("/proofs")
@blueprint.input(ProofAsked)
@blueprint.output(ProofChecked)
def proof(json_data: ProofAsked) -> ProofChecked:
    """Check the certificate of one finding, as the record has it. Nothing is run and nothing is kept."""
    if (request.content_length or 0) > MOST_BYTES:
        raise Refusal(413, "too-large", "this certificate is too large to be checked here; open-lemma verify RECORD.json takes any")
    found = services().engine.verify(json_data.finding, who())
    proof = found["proof"]
    return ProofChecked(boxes=proof["boxes"], fault=proof["fault"], certified=proof["certified"], duration_ms=found["duration_ms"])
