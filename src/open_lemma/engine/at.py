"""An engine by its address."""

from __future__ import annotations

from pathlib import Path

from .asking import Engine
from .local import LocalEngine
from .protocol import Limits


class BadAddress(ValueError):
    """No engine can be at such an address."""


def engine_at(address: str, limits: Limits | None = None) -> Engine:
    """`unix:FOLDER` is that of this machine, `redis://…` one that many machines share. Raises BadAddress."""
    if address.startswith("unix:"):
        return LocalEngine(Path(address.removeprefix("unix:")), limits)
    if address.startswith(("redis://", "rediss://")):
        from .remote.client import RedisEngine  # what it needs is loaded only where it is used

        return RedisEngine(address, limits)
    raise BadAddress(f"OPEN_LEMMA_ENGINE is '{address}'; it must be the address of a Redis server, redis://…, or not be set")
