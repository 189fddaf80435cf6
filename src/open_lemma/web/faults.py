"""Faults of the page: what went wrong in a browser, told to the log."""

from __future__ import annotations

import logging

from apiflask import APIBlueprint

from .schemas import PageFault

log = logging.getLogger("open_lemma.page")
blueprint = APIBlueprint("faults", __name__, url_prefix="/api")


@blueprint.post("/faults")
@blueprint.input(PageFault)
@blueprint.output({}, status_code=204)
def fault(json_data: PageFault) -> str:
    """Take a fault of ours in the page to the log; scripts and data are no part of it."""
    log.error("fault of the page at %s: %s", _plain(json_data.at), _plain(json_data.text))
    return ""


def _plain(text: str) -> str:
    """One line of the log, whatever was sent."""
    return " | ".join(line.strip() for line in text.splitlines() if line.strip())
