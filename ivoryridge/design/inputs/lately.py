"""The networks in which roads were shown lately, by the tag their picture carried: a trial starts from what its person sees,
without reading the rows again."""

from __future__ import annotations

import threading
from collections import OrderedDict

from .network import Network

__all__ = ["recall", "remember"]

_MOST = 64
_shown: OrderedDict[tuple[int, str], Network] = OrderedDict()
_lock = threading.Lock()


def remember(road_id: int, tag: str, network: Network) -> None:
    with _lock:
        _shown[road_id, tag] = network
        _shown.move_to_end((road_id, tag))
        while len(_shown) > _MOST:
            _shown.popitem(last=False)


def recall(road_id: int, tag: str | None) -> Network | None:
    """The network behind a picture of this road, if it was shown lately by this process."""
    with _lock:
        return _shown.get((road_id, tag)) if tag else None
