"""Serve the application at an address:  python -m ivoryridge.serve 127.0.0.1:8000"""

from __future__ import annotations

import asyncio
import resource
import sys
from typing import Any

import uvicorn
from uvicorn.protocols.http.h11_impl import H11Protocol

PATIENCE = 20.0  # s from the connection to its first whole request
_SOCKETS = 8192


class Connection(H11Protocol):
    """A connection that asks for nothing within its time is closed."""

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self._unasked = self.loop.call_later(PATIENCE, self._close_if_unasked)

    def connection_lost(self, exc: Exception | None) -> None:
        self._unasked.cancel()
        super().connection_lost(exc)

    def _close_if_unasked(self) -> None:
        if self.cycle is None:
            self.transport.close()


def serve(address: str) -> None:
    """Until it is told to stop. One process: what it derives it keeps in memory for everybody."""
    host, _, port = address.rpartition(":")
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    most = _SOCKETS if hard == resource.RLIM_INFINITY else min(hard, _SOCKETS)
    resource.setrlimit(resource.RLIMIT_NOFILE, (max(soft, most), hard))  # each waiting connection takes one
    settings: dict[str, Any] = {"proxy_headers": False, "server_header": False, "access_log": False, "log_level": "warning"}
    uvicorn.run(
        "ivoryridge.config.asgi:application", host=host, port=int(port), http=Connection, ws="none", lifespan="off",
        timeout_keep_alive=30, timeout_graceful_shutdown=20, backlog=1024, **settings,
    )  # fmt: skip


if __name__ == "__main__":
    serve(sys.argv[1])
