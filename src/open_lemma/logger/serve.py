"""The simulated logger as a server on a local port: text commands in the manner of SCPI-1999 and IEEE 488.2, one a line.

`*IDN?` who it is; `*RST` back to the beginning; `CONFigure:INTerval H` hours between readings; `CONFigure:SEED N`;
`CONFigure:RATE N` readings a second; `INITiate` begin; `ABORt` stop; `DATA:POINts?` how many there are; `DATA? FIRST,COUNT`
those readings; `FETCh?` the latest; `SYSTem:ERRor?` the oldest mistake. Run as `python -m open_lemma.logger.serve PORT`.
"""

from __future__ import annotations

import socket
import socketserver
import sys
import threading
import time
from collections import deque

from .gauge import Gauge

IDENTITY = "OPEN LEMMA,SIMULATED GAUGE,MARROW-1,1.0"
MOST_AT_ONCE, MOST_RATE = 2_000, 1_000.0
NO_ERROR = '0,"No error"'


class Logger:
    """The state of the instrument: it is shared by all who are connected."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.errors: deque[str] = deque(maxlen=20)
        self.reset()

    def reset(self) -> None:
        self.gauge = Gauge()
        self.rate = 8.0
        self.begun: float | None = None
        self.stopped = 0

    def points(self) -> int:
        """How many readings there are by now."""
        if self.begun is None:
            return self.stopped
        return int((time.monotonic() - self.begun) * self.rate)

    def answer(self, line: str) -> str | None:
        """What a command is answered with; None where it is no question. A mistake is kept for `SYSTem:ERRor?`."""
        head, _, rest = line.strip().partition(" ")
        with self.lock:
            try:
                return self._commands(_short(head), rest.strip())
            except (ValueError, IndexError):
                self.errors.append(f'-104,"Data type error; {line.strip()[:60]}"')
            except KeyError:
                self.errors.append(f'-113,"Undefined header; {head[:40]}"')
        return None

    def _commands(self, head: str, rest: str) -> str | None:
        if head.endswith("?"):
            return self._questions(head, rest)
        if head == "*RST":
            self.reset()
        elif head == "CONF:INT":
            self.gauge = Gauge(self.gauge.seed, _within(float(rest), 1e-3, 24.0))
        elif head == "CONF:SEED":
            self.gauge = Gauge(int(_within(int(rest), 0, 2**31)), self.gauge.interval_h)
        elif head == "CONF:RATE":
            self.rate = _within(float(rest), 0.1, MOST_RATE)
        elif head == "INIT":
            self.begun, self.stopped = time.monotonic(), 0
        elif head == "ABOR":
            self.stopped, self.begun = self.points(), None
        else:
            raise KeyError(head)
        return None

    def _questions(self, head: str, rest: str) -> str:
        points = self.points()
        if head == "*IDN?":
            return IDENTITY
        if head == "CONF:INT?":
            return repr(self.gauge.interval_h)
        if head == "CONF:SEED?":
            return str(self.gauge.seed)
        if head == "CONF:RATE?":
            return repr(self.rate)
        if head == "DATA:POIN?":
            return str(points)
        if head == "FETC?":
            return self._written(points - 1) if points else ""
        if head == "DATA?":
            first, count = (int(v) for v in rest.split(","))
            last = min(points, first + int(_within(count, 1, MOST_AT_ONCE)))
            return ";".join(self._written(k) for k in range(max(first, 0), last))
        if head == "SYST:ERR?":
            return self.errors.popleft() if self.errors else NO_ERROR
        raise KeyError(head)

    def _written(self, k: int) -> str:
        hours, level = self.gauge.reading(k)
        return f"{hours!r},{'9.91E+37' if level is None else repr(level)}"  # not a number, as SCPI writes it


def _within(value: float, low: float, high: float) -> float:
    if not low <= value <= high:
        raise ValueError(value)
    return value


def _short(head: str) -> str:
    """`CONFigure:INTerval` and `conf:int` are one: the first four letters of a word, three where the fourth is a vowel."""
    plain = head.upper()
    if plain.startswith("*"):
        return plain
    question = plain.endswith("?")
    words = []
    for word in plain.removesuffix("?").split(":"):
        short = word[:4]
        words.append(short[:3] if len(word) > 4 and short[-1:] in "AEIOU" else short)
    return ":".join(words) + ("?" if question else "")


class _Handler(socketserver.StreamRequestHandler):
    timeout = 60.0

    def handle(self) -> None:
        logger: Logger = self.server.logger  # type: ignore[attr-defined]
        try:
            while line := self.rfile.readline(200):
                answer = logger.answer(line.decode("ascii", "replace"))
                if answer is not None:
                    self.wfile.write(answer.encode() + b"\n")
        except (TimeoutError, ConnectionError):
            return


class LoggerServer(socketserver.ThreadingTCPServer):
    """Serves one simulated logger on a loopback port until it is shut down."""

    daemon_threads = True
    allow_reuse_address = True

    def __init__(self, listener: socket.socket) -> None:
        super().__init__(listener.getsockname()[:2], _Handler, bind_and_activate=False)
        self.socket.close()
        self.socket = listener
        self.logger = Logger()


def main() -> None:
    listener = socket.socket(fileno=int(sys.argv[2])) if sys.argv[1] == "fd" else socket.create_server(("127.0.0.1", int(sys.argv[1])))
    with LoggerServer(listener) as server:
        server.serve_forever()


if __name__ == "__main__":
    main()
