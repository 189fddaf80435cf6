"""Free ports on loopback."""

from __future__ import annotations

import errno
import socket
from collections.abc import Iterable


class NoPort(RuntimeError):
    """None of the ports tried is free."""


def listen_on(ports: Iterable[int], host: str = "127.0.0.1") -> socket.socket:
    """A listening socket on the first free port; raises NoPort."""
    tried = []
    for port in ports:
        tried.append(port)
        listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listener.bind((host, port))
            listener.listen(256)
            return listener
        except OSError as trouble:
            listener.close()
            if trouble.errno not in (errno.EADDRINUSE, errno.EACCES):
                raise
    raise NoPort(f"no port from {tried[0]} to {tried[-1]} is free on {host}" if tried else "no port was given")


def free_port(ports: Iterable[int]) -> int:
    """The number of a port that is free at this moment."""
    with listen_on(ports) as listener:
        return int(listener.getsockname()[1])
