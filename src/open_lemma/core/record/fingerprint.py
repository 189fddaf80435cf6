"""What tells scripts apart: SHA-256 of their bytes (FIPS 180-4)."""

from __future__ import annotations

import hashlib


def fingerprint(text: str) -> str:
    """Of a script, as 64 hexadecimal digits."""
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()
