"""The way in for slow connections: requests are read to the end without holding a thread, then answered by the application.

Whoever sends a request piece by piece, or nothing, costs a socket. Small bodies, which nobody needs a sign-in for, are read here in full.
Larger ones are poured into a file, if whoever sends them may (``api.doors``); else the application says why not before their first byte
is read.
"""

from __future__ import annotations

import asyncio
import io
import tempfile
from typing import IO, Any, cast

from a2wsgi import WSGIMiddleware

from .wsgi import application as answers  # makes the application ready, which what follows needs

from ivoryridge.api.doors import may_come_in  # isort: skip

__all__ = ["application"]

THREADS = 8  # that answer at a time
SMALL = 20_000  # bytes
PIECE = 65_536  # bytes
IN_MEMORY = 1_000_000  # bytes of a body that are not written to the disk
PATIENCE = 20.0  # s that a small body may take, and that nothing of a large one may come


class Doorway:
    """Reads bodies whole, small ones within a time, before anything works on them; leaves out headers that could pass for others."""

    def __init__(self, inside: Any) -> None:
        self.inside = inside

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        if scope["type"] != "http":
            return await self.inside(scope, receive, send)
        scope = {**scope, "headers": [(k, v) for k, v in scope["headers"] if b"_" not in k]}
        said = dict(scope["headers"]).get(b"content-length", b"0")
        length = int(said) if said.isdigit() and len(said) < 10 else 0
        small = 0 < length <= SMALL
        if not small and not (length and await asyncio.to_thread(may_come_in, _head(scope))):
            return await self.inside(scope, receive, send)
        with tempfile.SpooledTemporaryFile(IN_MEMORY) as body:
            try:
                async with asyncio.timeout(PATIENCE if small else None):
                    whole = await _pour(receive, body)
            except TimeoutError:
                return await _too_slow(send)
            if whole:  # else whoever sent it has gone
                await self.inside(scope, _again(body, receive), send)


def _head(scope: Any) -> dict[str, Any]:
    """What is known of a request without its body, as the application's doors take it."""
    fields = {k.decode("latin-1").upper().replace("-", "_"): v.decode("latin-1") for k, v in scope["headers"]}
    own = {k: fields.pop(k, "") for k in ("CONTENT_LENGTH", "CONTENT_TYPE")}
    return {
        "REQUEST_METHOD": scope["method"], "PATH_INFO": scope["path"], "SCRIPT_NAME": "", "SERVER_NAME": "", "SERVER_PORT": "",
        "wsgi.input": io.BytesIO(), **own, **{f"HTTP_{k}": v for k, v in fields.items()},
    }  # fmt: skip


async def _pour(receive: Any, into: IO[bytes]) -> bool:
    """Whether all came; raises TimeoutError where nothing comes for a while."""
    while True:
        async with asyncio.timeout(PATIENCE):
            message = await receive()
        if message["type"] != "http.request":
            return False
        into.write(message.get("body", b""))
        if not message.get("more_body"):
            into.seek(0)
            return True


def _again(body: IO[bytes], receive: Any) -> Any:
    """What was read already, handed on in pieces."""
    done = False

    async def piece() -> Any:
        nonlocal done
        if done:
            return await receive()
        part = body.read(PIECE)
        done = len(part) < PIECE
        return {"type": "http.request", "body": part, "more_body": not done}

    return piece


async def _too_slow(send: Any) -> None:
    told = b'{"code": "too-slow", "message": "What was sent did not arrive within 20 s.", "where": {}, "details": {}}'
    headers = [(b"content-type", b"application/json"), (b"content-length", str(len(told)).encode()), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": 408, "headers": headers})
    await send({"type": "http.response.body", "body": told})


application = Doorway(WSGIMiddleware(cast(Any, answers), workers=THREADS, send_queue_size=0))
