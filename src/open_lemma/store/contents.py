"""Bytes by their fingerprints (SHA-256): drawings, data of figures, bodies of records. The same bytes are kept once, compressed."""

from __future__ import annotations

import hashlib
import zlib
from collections.abc import Sequence

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from .models import Content


def put(session: Session, bodies: Sequence[bytes]) -> list[str]:
    """Keep each, and give their fingerprints."""
    digests = [hashlib.sha256(body).hexdigest() for body in bodies]
    known = set(session.scalars(select(Content.sha256).where(Content.sha256.in_(digests)))) if digests else set()
    # In one order, so that two who keep the same at once do not wait for each other.
    for digest, body in sorted(dict(zip(digests, bodies, strict=True)).items()):
        if digest not in known:
            session.execute(insert(Content).prefix_with("IGNORE").values(sha256=digest, data=zlib.compress(body, 6)))
    return digests


def get(session: Session, digest: str) -> bytes:
    return zlib.decompress(session.execute(select(Content.data).where(Content.sha256 == digest)).scalar_one())
