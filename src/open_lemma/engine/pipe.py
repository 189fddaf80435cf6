"""Where the events of a job go, with a count of what went."""

from __future__ import annotations

import socket
from typing import Any

from ..core.record.events import FailedEvent
from ..core.run.execute.faults import described_fault
from . import frames


class TooMuchOutput(BaseException):
    """The job gave more than its limit. No fault of a statement: whoever carries statements out lets it pass."""


class NobodyListens(BaseException):
    """The other side has closed the connection."""


class Pipe:
    """Frames to whoever asked, up to so many bytes."""

    def __init__(self, connection: socket.socket, limit_mb: int) -> None:
        self.connection, self.left = connection, limit_mb * 1_000_000

    def send(self, event: dict[str, Any]) -> None:
        pieces = frames.encode(event)
        self.left -= sum(len(p) for p in pieces)
        if self.left < 0:
            raise TooMuchOutput
        self._send(pieces)

    def close_with(self, event: dict[str, Any]) -> None:
        """The last word is always let through."""
        self._send(frames.encode(event))

    def fault(self, trouble: Exception, line: int = 0, digest: str = "") -> None:
        """A fault of ours, for the log of who asked: this process may not write files, and its own log may be one."""
        self._send(frames.encode({"event": "fault", "text": described_fault(trouble, line, digest)}))

    def _send(self, pieces: list[bytes]) -> None:
        try:
            frames.send_pieces(self.connection, pieces)
        except OSError:
            raise NobodyListens from None


def failed(reason: str, text: str) -> dict[str, Any]:
    return FailedEvent(reason=reason, text=text).as_record()
