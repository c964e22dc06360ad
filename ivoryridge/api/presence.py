"""Who else looks at a project just now: told with every look at its head, kept in memory for some seconds."""

from __future__ import annotations

import threading
import time

__all__ = ["look"]

GONE_AFTER = 8.0  # s without a look

_seen: dict[int, dict[str, float]] = {}  # project -> name of a person -> when
_lock = threading.Lock()


def look(project_id: int, name: str) -> list[str]:
    """Note that a person looks, and give the names of the others who do."""
    now = time.monotonic()
    with _lock:
        here = {n: at for n, at in _seen.get(project_id, {}).items() if now - at < GONE_AFTER}
        here[name] = now
        _seen[project_id] = here
        return sorted(n for n in here if n != name)
