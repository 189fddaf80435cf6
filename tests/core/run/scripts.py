"""Scripts that are run for what they find."""

from __future__ import annotations

from typing import Any

from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.execute.outcome import Outcome
from open_lemma.core.run.findings import Finding


def good(script: str, **more: Any) -> Outcome:
    outcome = run(script, **more)
    assert not outcome.failed, (script, [m.text for m in outcome.reading.messages.items])
    return outcome


def last(script: str) -> Finding:
    return good(script).findings[-1]
