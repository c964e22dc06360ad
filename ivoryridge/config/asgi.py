"""The way in for slow connections: requests are read to the end without holding a thread, then answered by the application.

Whoever sends a request piece by piece, or nothing, costs a socket. Small bodies, which nobody needs a sign-in for, are read here in full;
of larger ones the application decides by who sends them before it reads the first byte (``api.doors``).
"""

from __future__ import annotations

import asyncio
from typing import Any, cast

from a2wsgi import WSGIMiddleware

from .wsgi import application as answers

__all__ = ["application"]

THREADS = 8  # that answer at a time
SMALL = 20_000  # bytes
PATIENCE = 20.0  # s that a small body may take


class Doorway:
    """Reads small bodies whole, within a time, before anything works on them; leaves out headers that could pass for others."""

    def __init__(self, inside: Any) -> None:
        self.inside = inside

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        if scope["type"] == "http":
            scope = {**scope, "headers": [(k, v) for k, v in scope["headers"] if b"_" not in k]}
            said = dict(scope["headers"]).get(b"content-length", b"0")
            if said.isdigit() and len(said) < 10 and 0 < int(said) <= SMALL:
                try:
                    async with asyncio.timeout(PATIENCE):
                        body = await _whole(receive)
                except TimeoutError:
                    return await _too_slow(send)
                if body is None:  # whoever sent it has gone
                    return None
                receive = _again(body, receive)
        return await self.inside(scope, receive, send)


async def _whole(receive: Any) -> bytes | None:
    body = bytearray()
    while True:
        message = await receive()
        if message["type"] != "http.request":
            return None
        body += message.get("body", b"")
        if not message.get("more_body"):
            return bytes(body)


def _again(body: bytes, receive: Any) -> Any:
    left = [{"type": "http.request", "body": body, "more_body": False}]

    async def once() -> Any:
        return left.pop() if left else await receive()

    return once


async def _too_slow(send: Any) -> None:
    told = b'{"code": "too-slow", "message": "What was sent did not arrive within 20 s.", "where": {}, "details": {}}'
    headers = [(b"content-type", b"application/json"), (b"content-length", str(len(told)).encode()), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": 408, "headers": headers})
    await send({"type": "http.response.body", "body": told})


application = Doorway(WSGIMiddleware(cast(Any, answers), workers=THREADS, send_queue_size=0))
