"""Why there is no integral: raised by algebra and by numerics alike."""

from __future__ import annotations


class NoIntegral(Exception):
    """There is no integral that could be given; the text says why."""
