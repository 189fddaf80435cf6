"""What stands before the application: connections without a thread each.

Requests come in here, whole, before a thread of the application sees them, and answers go out from here after it has left them: who sends
or reads slowly costs a connection and nothing else. Streams of events are served from here alone.
"""

from __future__ import annotations

import asyncio
import contextlib
import io
import json
import logging
import re
import tempfile
import time
from collections.abc import Awaitable, Callable, Iterable, MutableMapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import IO, Any

from apiflask import APIFlask
from asgiref.wsgi import WsgiToAsgiInstance
from h11 import IDLE, SEND_RESPONSE, Data, EndOfMessage, Response
from uvicorn.protocols.http.h11_impl import H11Protocol
from werkzeug.sansio.utils import host_is_trusted

from ..engine.asking import Engine, EngineAway
from ..engine.ends import INTERRUPTED
from ..web.guard import body_limit, plain_headers
from ..web.runs import as_sent, seen_last

log = logging.getLogger("open_lemma.front")

Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]

THREADS = 16  # of the application in one process
MOST_WAITING = 400  # requests for these
HEAD_S = 10.0  # within which the head of a request must be here
BODY_S = 15.0  # that a body may take beside what its size allows
SLOWEST = 40_000  # bytes a second of a body, on the whole
IN_MEMORY = 1_000_000  # of a body; what is more goes to a file that has no name
UNREAD = 32_000_000  # of what is refused, taken so that the refusal arrives
STALLED_S = 60.0  # that somebody may read nothing of an answer
AWAY_S = 8.0  # that an engine may be away before a stream of events ends
_EVENTS = re.compile(r"/api/runs/([A-Za-z0-9_-]{1,40})/events\Z")


class Refused(Exception):
    """A request that does not reach the application."""

    def __init__(self, status: int, code: str, text: str) -> None:
        super().__init__(text)
        self.status, self.code = status, code


@dataclass
class _Answer:
    body: IO[bytes]
    status: int = 500
    headers: list[tuple[bytes, bytes]] = field(default_factory=list)


def spool(in_memory: int) -> IO[bytes]:
    """Bytes on their way, in memory up to a size; beyond it in a file without a name, which ends with this process."""
    return tempfile.SpooledTemporaryFile(max_size=in_memory)


class Front:
    """The ASGI application (ASGI specification 3.0)."""

    def __init__(self, app: APIFlask, engine: Engine) -> None:
        self.app, self.engine = app, engine
        self.threads = ThreadPoolExecutor(THREADS, thread_name_prefix="application")
        self.waiting = 0

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return
        try:
            stream = _EVENTS.match(scope["path"])
            if stream and scope["method"] == "GET":
                return await self._events(stream[1], scope, receive, send)
            await self._application(scope, receive, send)
        except Refused as refused:
            await self._refuse(refused, receive, send)
        except OSError as trouble:
            if trouble.errno == 28:
                return await self._refuse(Refused(507, "disk-full", "the disk of the server is full; nothing was changed"), receive, send)
            raise

    async def _refuse(self, refused: Refused, receive: Receive, send: Send) -> None:
        body = json.dumps({"code": refused.code, "message": str(refused)}).encode()
        headers = [(b"content-type", b"application/json"), (b"content-length", str(len(body)).encode()), *plain_headers()]
        await send({"type": "http.response.start", "status": refused.status, "headers": headers})
        await send({"type": "http.response.body", "body": body, "more_body": True})
        if refused.status == 413:
            await _take_the_rest(receive)  # only while the answer is not over can more be read
        await send({"type": "http.response.body", "body": b""})

    # ------------------------------------------------------------ the application

    async def _application(self, scope: Scope, receive: Receive, send: Send) -> None:
        if self.waiting >= MOST_WAITING:
            raise Refused(503, "busy", "too much is waiting already; try again in a moment")
        with await _body(scope, receive) as body:
            self.waiting += 1
            try:
                answer = await asyncio.get_running_loop().run_in_executor(self.threads, self._answer, scope, body)
            finally:
                self.waiting -= 1
        with answer.body:
            await send({"type": "http.response.start", "status": answer.status, "headers": answer.headers})
            while piece := answer.body.read(256_000):
                await send({"type": "http.response.body", "body": piece, "more_body": True})
            await send({"type": "http.response.body", "body": b""})

    def _answer(self, scope: Scope, body: IO[bytes]) -> _Answer:
        """The whole of what the application answers; its thread is free again when this returns."""
        made = WsgiToAsgiInstance(None)
        made.scope = scope
        try:
            environ = made.build_environ(scope, body)
        except ValueError:
            raise Refused(400, "bad-request", "this request has one header far too often") from None
        environ["CONTENT_LENGTH"] = str(body.seek(0, io.SEEK_END))
        body.seek(0)
        environ.pop("HTTP_TRANSFER_ENCODING", None)
        answer = _Answer(spool(8 * IN_MEMORY))

        def start(status: str, headers: list[tuple[str, str]], *_: Any) -> Callable[[bytes], Any]:
            answer.status = int(status.split(" ", 1)[0])
            answer.headers = [(name.lower().encode("latin-1"), value.encode("latin-1")) for name, value in headers]
            return answer.body.write

        given: Iterable[bytes] = self.app(environ, start)
        try:
            for piece in given:
                answer.body.write(piece)
        finally:
            if hasattr(given, "close"):
                given.close()
        answer.body.seek(0)
        return answer

    # ------------------------------------------------------------ events

    async def _events(self, run: str, scope: Scope, receive: Receive, send: Send) -> None:
        headers = dict(scope["headers"])
        if not host_is_trusted(headers.get(b"host", b"").decode("latin-1"), self.app.config["TRUSTED_HOSTS"]):
            raise Refused(400, "bad-request", "this server is not known by that name")
        place = seen_last(headers.get(b"last-event-id", b"").decode("latin-1"))
        gone = asyncio.create_task(_until_gone(receive))
        telling = asyncio.create_task(self._tell(run, place, send))
        try:
            await asyncio.wait((gone, telling), return_when=asyncio.FIRST_COMPLETED)
            if telling.done():
                telling.result()
        finally:
            for task in (gone, telling):
                task.cancel()
            with contextlib.suppress(asyncio.CancelledError, Exception):
                await asyncio.gather(gone, telling, return_exceptions=True)

    async def _tell(self, run: str, place: int, send: Send) -> None:
        begun = False

        async def begin() -> None:
            nonlocal begun
            if not begun:
                begun = True
                head = [(b"content-type", b"text/event-stream; charset=utf-8"), (b"x-accel-buffering", b"no"), *plain_headers()]
                await send({"type": "http.response.start", "status": 200, "headers": head})

        async def tell(number: int, event: dict[str, Any] | None) -> None:
            await send({"type": "http.response.body", "body": as_sent(number, event).encode("utf-8", "replace"), "more_body": True})

        deadline = time.monotonic() + AWAY_S
        while True:
            try:
                async for number, event in self.engine.listen(run, place):
                    await begin()
                    await tell(number, event)
                    place, deadline = number, time.monotonic() + AWAY_S
                break
            except KeyError:
                if not begun:
                    raise Refused(404, "run-gone", "this run is over, or never was") from None
                # The engine was started again and knows nothing of what was at work.
                await tell(place + 1, INTERRUPTED)
                break
            except EngineAway:
                if time.monotonic() > deadline:
                    if not begun:
                        raise Refused(503, "engine-away", "what runs scripts is being started again; try again in a moment") from None
                    await tell(place + 1, INTERRUPTED)
                    break
                await asyncio.sleep(0.1)
        await begin()
        await send({"type": "http.response.body", "body": b""})


async def _until_gone(receive: Receive) -> None:
    while (await receive())["type"] != "http.disconnect":
        pass


async def _take_the_rest(receive: Receive) -> None:
    """Closing a connection while the other side still sends resets it, and the answer is lost on the way."""
    taken, deadline = 0, time.monotonic() + BODY_S
    with contextlib.suppress(TimeoutError):
        while taken < UNREAD:
            message = await asyncio.wait_for(receive(), max(deadline - time.monotonic(), 0.01))
            taken += len(message.get("body", b""))
            if message["type"] != "http.request" or not message.get("more_body"):
                return


async def _body(scope: Scope, receive: Receive) -> IO[bytes]:
    """The whole body of a request; raises Refused where it is larger than it may be, or comes too slowly."""
    headers = dict(scope["headers"])
    limit = body_limit(scope["method"], scope["path"])
    told = headers.get(b"content-length", b"0")
    if told.isdigit() and int(told) > limit:
        raise Refused(413, "too-large", _too_large(limit))
    body = spool(IN_MEMORY)
    size, began = 0, time.monotonic()
    try:
        while True:
            patience = began + BODY_S + size / SLOWEST - time.monotonic()
            try:
                message = await asyncio.wait_for(receive(), max(patience, 0.001))
            except TimeoutError:
                raise Refused(408, "too-slow", "what was sent came too slowly; nothing was changed, try again") from None
            if message["type"] == "http.disconnect":
                raise Refused(400, "bad-request", "the request was not sent to its end")
            piece = message.get("body", b"")
            size += len(piece)
            if size > limit:
                raise Refused(413, "too-large", _too_large(limit))
            body.write(piece)
            if not message.get("more_body"):
                body.seek(0)
                return body
    except BaseException:
        body.close()
        raise


def _too_large(limit: int) -> str:
    said = f"{limit // 1_000_000} MB" if limit > 2_000_000 else f"{limit // 1000} kB"
    return f"this is larger than {said}, the limit for this request"


class PatientProtocol(H11Protocol):
    """HTTP/1.1 that waits for the head of a request and for somebody who reads, but not for ever."""

    _head: asyncio.TimerHandle | None = None
    _stalled: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        super().connection_made(transport)
        self._expect_head()

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        if self.conn.their_state is not IDLE:
            self._head_is_here()
        elif self._head is None:
            self._expect_head()

    def connection_lost(self, exc: Exception | None) -> None:
        self._head_is_here()
        self._reads_again()
        super().connection_lost(exc)

    def pause_writing(self) -> None:
        super().pause_writing()
        self._stalled = self.loop.call_later(STALLED_S, self.transport.abort)

    def resume_writing(self) -> None:
        self._reads_again()
        super().resume_writing()

    def _reads_again(self) -> None:
        if self._stalled is not None:
            self._stalled.cancel()
            self._stalled = None

    def _expect_head(self) -> None:
        self._head = self.loop.call_later(HEAD_S, self._give_up)

    def _head_is_here(self) -> None:
        if self._head is not None:
            self._head.cancel()
            self._head = None

    def _give_up(self) -> None:
        """Say so (RFC 9110, section 15.5.9) and close."""
        self._head = None
        if self.transport.is_closing() or self.conn.their_state is not IDLE:
            return
        if self.conn.our_state in (IDLE, SEND_RESPONSE):
            text = b"the head of the request came too slowly"
            headers = [(b"content-type", b"text/plain"), (b"content-length", str(len(text)).encode()), (b"connection", b"close")]
            for event in (Response(status_code=408, headers=headers), Data(data=text), EndOfMessage()):
                self.transport.write(self.conn.send(event) or b"")
        self.transport.close()
