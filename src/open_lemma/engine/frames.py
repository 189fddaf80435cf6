"""What passes between processes: frames, each a message of plain data with bytes beside it.

A frame is the length of its head (four bytes, the first the highest), the head in JSON, then the parts. The head is
`[message, [[path, length], ...]]`: each path says where in the message the next so many bytes belong.
"""

from __future__ import annotations

import asyncio
import json
import socket
import struct
from typing import Any

Message = dict[str, Any]

MOST_HEAD = 200_000_000
MOST_PARTS = 900_000_000  # a job carries the columns of its tables
_LENGTH = struct.Struct(">I")
_TOO_LARGE = "this is more than may pass at once"


class BrokenFrame(Exception):
    """The other side has closed in the middle of a frame, or what came is none."""


def encode(message: Message) -> list[bytes]:
    """A message as the pieces of its frame. Bytes may stand at its top, or in a dict at its top."""
    plain: Message = {}
    places: list[list[Any]] = []
    parts: list[bytes] = []
    for name, value in message.items():
        if isinstance(value, bytes):
            places.append([[name], len(value)])
            parts.append(value)
        elif isinstance(value, dict) and any(isinstance(v, bytes) for v in value.values()):
            plain[name] = {k: v for k, v in value.items() if not isinstance(v, bytes)}
            for key, inner in value.items():
                if isinstance(inner, bytes):
                    places.append([[name, key], len(inner)])
                    parts.append(inner)
        else:
            plain[name] = value
    head = json.dumps([plain, places], ensure_ascii=False, separators=(",", ":")).encode("utf-8", "surrogatepass")
    return [_LENGTH.pack(len(head)), head, *parts]


def _head(data: bytes) -> tuple[Message, list[tuple[list[str], int]]]:
    try:
        message, places = json.loads(data.decode("utf-8", "surrogatepass"))
        found = [([str(p) for p in path], int(size)) for path, size in places]
    except (ValueError, TypeError):
        raise BrokenFrame("a head that cannot be read") from None
    if not isinstance(message, dict) or sum(size for _, size in found) > MOST_PARTS or any(size < 0 for _, size in found):
        raise BrokenFrame(_TOO_LARGE)
    return message, found


def _put(message: Message, path: list[str], part: bytes) -> None:
    if len(path) == 1:
        message[path[0]] = part
    else:
        message[path[0]][path[1]] = part


def _length(data: bytes) -> int:
    size = int(_LENGTH.unpack(data)[0])
    if size > MOST_HEAD:
        raise BrokenFrame(_TOO_LARGE)
    return size


def decode(data: bytes) -> Message:
    """A whole frame as its message; raises BrokenFrame."""
    if len(data) < _LENGTH.size:
        raise BrokenFrame("no frame")
    place = _LENGTH.size + _length(data[: _LENGTH.size])
    message, places = _head(data[_LENGTH.size : place])
    for path, size in places:
        _put(message, path, data[place : place + size])
        place += size
    if place != len(data):
        raise BrokenFrame("not one whole frame")
    return message


# ---------------------------------------------------------------- over sockets


def send(connection: socket.socket, message: Message) -> int:
    """Send a frame; the number of its bytes. Raises OSError."""
    return send_pieces(connection, encode(message))


def send_pieces(connection: socket.socket, pieces: list[bytes]) -> int:
    for piece in pieces:
        connection.sendall(piece)
    return sum(len(p) for p in pieces)


def receive(connection: socket.socket) -> Message | None:
    """The next message; None where the other side has closed. Raises BrokenFrame and OSError."""
    first = _exactly(connection, _LENGTH.size, True)
    if not first:
        return None
    message, places = _head(_exactly(connection, _length(first)))
    for path, size in places:
        _put(message, path, _exactly(connection, size))
    return message


def _exactly(connection: socket.socket, size: int, may_end: bool = False) -> bytes:
    if size <= 65_536:
        data = connection.recv(size, socket.MSG_WAITALL) if size else b""
        if len(data) == size or (may_end and not data):
            return data
    else:
        data = b""
    whole = bytearray(data)
    while len(whole) < size:
        piece = connection.recv(min(size - len(whole), 1 << 20))
        if not piece:
            raise BrokenFrame("it was closed in the middle of a frame")
        whole += piece
    return bytes(whole)


# ---------------------------------------------------------------- without threads


async def read_sized(reader: asyncio.StreamReader) -> tuple[Message, int] | None:
    """The next message and how many bytes it took; None where the other side has closed. Raises BrokenFrame."""
    try:
        first = await reader.readexactly(_LENGTH.size)
    except asyncio.IncompleteReadError as ended:
        if ended.partial:
            raise BrokenFrame("it was closed in the middle of a frame") from None
        return None
    try:
        size = _length(first)
        message, places = _head(await reader.readexactly(size))
        for path, length in places:
            _put(message, path, await reader.readexactly(length))
            size += length
    except asyncio.IncompleteReadError:
        raise BrokenFrame("it was closed in the middle of a frame") from None
    return message, size + _LENGTH.size


async def read(reader: asyncio.StreamReader) -> Message | None:
    """The next message; None where the other side has closed. Raises BrokenFrame."""
    found = await read_sized(reader)
    return None if found is None else found[0]


async def write(writer: asyncio.StreamWriter, message: Message) -> None:
    """Send a frame and wait until there is room for the next. Raises OSError."""
    writer.writelines(encode(message))
    await writer.drain()
