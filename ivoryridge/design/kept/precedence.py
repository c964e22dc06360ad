"""What a hand waits for is computed before what may come a moment later.

A drag asks for its shape many times a second; its findings, and roads and junctions that hang on it, follow in further lines of the
same answers. All share one process, and take turns. What comes ``later`` leaves its turn between its steps to any request that waits, and
rests while something is to be computed ``first``, so that the next shape is not held up by what belongs to the one before. It rests no
longer than its patience in all: under steady load it comes late, and it comes.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from .turns import aside, turn, wanted

__all__ = ["first", "give_way", "later", "stepping_back"]

PATIENCE = 0.15  # s that one answer gives way in all

_going = 0
_changed = threading.Condition()
_is_first: ContextVar[bool] = ContextVar("first", default=False)
_left: ContextVar[list[float] | None] = ContextVar("left", default=None)  # of the patience, s


def _count(by: int) -> None:
    global _going
    with _changed:
        _going += by
        if not _going:
            _changed.notify_all()


@contextmanager
def first() -> Iterator[None]:
    """What is computed in here goes before what comes later."""
    token = _is_first.set(True)
    _count(1)
    try:
        with turn():
            yield
    finally:
        _count(-1)
        _is_first.reset(token)


@contextmanager
def later(left: list[float] | None = None) -> Iterator[None]:
    """What is computed in here gives way; ``left`` holds what is left of the patience of what it belongs to, s."""
    token = _left.set([PATIENCE] if left is None else left)
    try:
        give_way()
        with turn():
            yield
    finally:
        _left.reset(token)


def give_way() -> None:
    """Between two steps: leave the turn to who waits for it, and wait while something goes first, if this is for later and has patience."""
    left = _left.get()
    if left is None or left[0] <= 0 or not (_going or wanted()):
        return
    began = time.monotonic()
    with aside(), _changed:
        _changed.wait_for(lambda: not _going, timeout=left[0])
    left[0] -= time.monotonic() - began


@contextmanager
def stepping_back() -> Iterator[None]:
    """Around a wait for somebody else's computation: whoever works on it must not give way to the one that waits for it."""
    waits = _is_first.get()
    if waits:
        _count(-1)
    try:
        with aside():
            yield
    finally:
        if waits:
            _count(1)
