"""What passes between processes arrives as it was sent, and what is no frame is refused."""

from __future__ import annotations

import asyncio
import contextlib
import socket
import threading
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from open_lemma.engine import frames
from open_lemma.engine.frames import BrokenFrame

PLAIN = st.recursive(
    st.none() | st.booleans() | st.integers(-(2**53), 2**53) | st.floats(allow_nan=False, allow_infinity=False) | st.text(max_size=20),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=8,
)
NAMES = st.text(max_size=12)
MESSAGES = st.dictionaries(NAMES, PLAIN | st.binary(max_size=200) | st.dictionaries(NAMES, st.binary(max_size=80), max_size=3), max_size=6)


@given(MESSAGES)
def test_a_frame_is_read_as_it_was_written(message: dict[str, Any]) -> None:
    assert frames.decode(b"".join(frames.encode(message))) == message


@given(MESSAGES, st.data())
def test_less_than_a_frame_is_none(message: dict[str, Any], data: st.DataObject) -> None:
    whole = b"".join(frames.encode(message))
    cut = data.draw(st.integers(0, len(whole) - 1))
    with pytest.raises(BrokenFrame):
        frames.decode(whole[:cut])
    with pytest.raises(BrokenFrame):
        frames.decode(whole + b"x")


@given(st.binary(max_size=300))
def test_any_bytes_are_a_frame_or_refused(data: bytes) -> None:
    with contextlib.suppress(BrokenFrame):
        assert isinstance(frames.decode(data), dict)


def test_half_a_surrogate_pair_in_a_script_passes() -> None:
    """A browser may send one; it is refused further in, with a sentence."""
    assert frames.decode(b"".join(frames.encode({"script": "\ud800"}))) == {"script": "\ud800"}


LARGE = {"kind": "figure", "svg": bytes(range(256)) * 20_000, "tables": {"a.csv": b"x" * 3_000_000}}


def test_large_parts_go_over_a_socket() -> None:
    here, there = socket.socketpair()
    sending = threading.Thread(target=frames.send, args=(here, LARGE))
    sending.start()
    assert frames.receive(there) == LARGE
    sending.join()
    here.close()
    assert frames.receive(there) is None
    there.close()


def test_a_connection_that_closes_in_the_middle_is_told() -> None:
    here, there = socket.socketpair()
    here.sendall(b"".join(frames.encode(LARGE))[:100])
    here.close()
    with pytest.raises(BrokenFrame):
        frames.receive(there)
    there.close()


def test_frames_of_one_kind_are_read_by_the_other() -> None:
    async def both() -> None:
        here, there = socket.socketpair()
        reader, writer = await asyncio.open_unix_connection(sock=here)
        sending = asyncio.create_task(asyncio.to_thread(frames.send, there, LARGE))
        found = await frames.read_sized(reader)
        await sending
        assert found is not None
        assert found[0] == LARGE
        assert found[1] == sum(len(p) for p in frames.encode(LARGE))
        task = asyncio.create_task(asyncio.to_thread(frames.receive, there))
        await frames.write(writer, LARGE)
        assert await task == LARGE
        there.close()
        assert await frames.read(reader) is None
        writer.close()

    asyncio.run(both())


def test_a_length_beyond_all_measure_is_refused_before_anything_is_read() -> None:
    with pytest.raises(BrokenFrame, match="more than may pass"):
        frames.decode(b"\xff\xff\xff\xff{}")
    head = b'[{}, [[["a"], 99999999999]]]'
    with pytest.raises(BrokenFrame, match="more than may pass"):
        frames.decode(len(head).to_bytes(4, "big") + head)
