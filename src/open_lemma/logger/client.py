"""Reading a logger on this machine: a few commands, with limits on time and size."""

from __future__ import annotations

import contextlib
import socket
from collections.abc import Iterator
from dataclasses import dataclass

MISSED = 9.9e37
MOST_POINTS = 20_000
_CHUNK = 1_000
_MOST_LINE = 400_000


class NoLogger(Exception):
    """Why nothing could be read."""


@dataclass
class Logger:
    """An open line to a logger."""

    line: socket.socket
    rest: bytes = b""

    def say(self, command: str) -> None:
        try:
            self.line.sendall(command.encode("ascii") + b"\n")
        except OSError as trouble:
            raise NoLogger(f"the logger does not answer: {trouble}") from None

    def ask(self, question: str) -> str:
        self.say(question)
        data = self.rest
        while b"\n" not in data:
            try:
                piece = self.line.recv(65_536)
            except OSError:
                raise NoLogger(f"the logger did not answer to {question}") from None
            if not piece:
                raise NoLogger("the logger closed the line")
            data += piece
            if len(data) > _MOST_LINE:
                raise NoLogger("the logger answers without an end")
        found, _, self.rest = data.partition(b"\n")
        return found.decode("ascii", "replace").strip()

    def points(self) -> int:
        return self._whole("DATA:POIN?")

    def _whole(self, question: str) -> int:
        answer = self.ask(question)
        if not answer.isdigit():
            raise NoLogger(f"to {question} the logger answers {answer[:40]!r}, which is no number")
        return int(answer)

    def readings(self, first: int, count: int) -> list[tuple[float, float | None]]:
        """Readings from `first` on: hours and metres, None where one was missed."""
        found: list[tuple[float, float | None]] = []
        while count > 0:
            answer = self.ask(f"DATA? {first},{min(count, _CHUNK)}")
            pairs = [p.split(",") for p in answer.split(";") if p]
            if not pairs:
                break
            try:
                part = [(float(t), None if float(v) >= MISSED else float(v)) for t, v in pairs]
            except ValueError:
                raise NoLogger(f"the logger sends what is no reading: {answer[:60]!r}") from None
            found += part
            first, count = first + len(part), count - len(part)
        return found


@contextlib.contextmanager
def connected(port: int, seconds: float = 3.0) -> Iterator[Logger]:
    """A line to the logger on a port of this machine. Raises NoLogger."""
    try:
        line = socket.create_connection(("127.0.0.1", port), timeout=seconds)
    except OSError:
        raise NoLogger(f"there is no logger on port {port} of this machine") from None
    with line:
        yield Logger(line)


def as_csv(identity: str, seed: int, interval_h: float, readings: list[tuple[float, float | None]]) -> bytes:
    """A captured run as a file; that it was simulated stands in it."""
    head = f"# captured from {identity}\n# simulated readings of an invented gauge; seed {seed}, one each {interval_h!r} h\n"
    rows = "".join(f"{t!r},{'' if v is None else repr(v)}\n" for t, v in readings)
    return (head + "t [h],level [m]\n" + rows).encode()
