"""Requests are computed one after another, as long as each of them is short.

All threads share one interpreter: two computations at a time take twice as long, each of them, and nobody has anything sooner. So one has
the turn, in the order in which they came. It keeps it for a moment only: what takes longer goes on beside the others.
"""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

__all__ = ["MOMENT", "aside", "turn", "wanted"]

MOMENT = 0.1  # s for which a turn is kept

_row: deque[object] = deque()  # who waits, in order
_changed = threading.Condition()
_holder: object | None = None
_since = 0.0
_own: ContextVar[object | None] = ContextVar("own", default=None)


def _take() -> object:
    global _holder, _since
    ticket = object()
    with _changed:
        _row.append(ticket)
        while _row[0] is not ticket or (_holder is not None and _since + MOMENT > time.monotonic()):
            _changed.wait(max(_since + MOMENT - time.monotonic(), 0.0) if _row[0] is ticket else None)
        _row.popleft()
        _holder, _since = ticket, time.monotonic()
        _changed.notify_all()
    return ticket


def _leave(ticket: object) -> None:
    global _holder
    with _changed:
        if _holder is ticket:
            _holder = None
            _changed.notify_all()


@contextmanager
def turn() -> Iterator[None]:
    """What is computed in here waits for its turn. Within one already there is nothing to wait for."""
    if _own.get() is not None:
        yield
        return
    token = _own.set(_take())
    try:
        yield
    finally:
        _leave(_own.get())
        _own.reset(token)


@contextmanager
def aside() -> Iterator[None]:
    """Around a wait for somebody else, or what surely takes long: the turn, if there is one, is left to the others, and taken again behind
    them."""
    held = _own.get()
    if held is None:
        yield
        return
    _leave(held)
    _own.set(None)
    try:
        yield
    finally:
        _own.set(_take())


def wanted() -> bool:
    """Whether somebody waits for a turn."""
    return bool(_row)
